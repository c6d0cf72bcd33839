package evaluate_test

import (
	"fmt"
	"math"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func truth(t testing.TB, s simcam.Spec) simcam.Truth {
	t.Helper()
	if s.Athlete.Height == 0 {
		s.Athlete = body.Person{Sex: body.Male, Height: 1.8, Mass: 75, FrontLeg: body.Left}
	}
	s.FileRate, s.Width, s.Height = 30, 1280, 720
	if s.Direction == 0 {
		s.Direction = 1
	}
	sc, err := simcam.New(s)
	if err != nil {
		t.Fatal(err)
	}
	return sc.Truth
}

func load(t testing.TB, id string) model.Model {
	t.Helper()
	m, err := models.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// Key positions and contacts against the simulated athlete's, points scattered
// by as little as a tracker leaves.
func TestFoundPositionsAndContacts(t *testing.T) {
	var pos, con points.Score
	for i, s := range []simcam.Spec{
		{Event: "sprint-start", CaptureRate: 240},
		{Event: "sprint-start", CaptureRate: 120, Direction: -1, Athlete: body.Person{Sex: body.Female, Height: 1.66, FrontLeg: body.Right}},
		{Event: "running", Speed: 3.3, CaptureRate: 240},
		{Event: "running", Speed: 5, CaptureRate: 120, Direction: -1},
		{Event: "running", Speed: 8.4, CaptureRate: 240},
		{Event: "running", Speed: 3.3, CaptureRate: 120, Athlete: body.Person{Sex: body.Female, Height: 1.45}},
	} {
		tr := truth(t, s)
		r := evaluate.Attempt(load(t, s.Event), points.Input(tr, points.All(tr, 0.3, uint64(i))))
		p, off := points.Positions(load(t, s.Event), tr, r)
		c := points.Contacts(tr, r)
		if p.Percent() < 80 || c.Percent() < 75 {
			t.Errorf("%s at %g: positions %v %v, contacts %v", s.Event, s.CaptureRate, p, off, c)
		}
		pos.Within, pos.All, con.Within, con.All = pos.Within+p.Within, pos.All+p.All, con.Within+c.Within, con.All+c.All
	}
	if pos.All < 80 || pos.Percent() < 93 || con.All < 50 || con.Percent() < 93 {
		t.Errorf("within one frame: %d of %d positions, %d of %d contacts", pos.Within, pos.All, con.Within, con.All)
	}
}

// The measures of a run against what the simulation was asked for, on the ground
// and on a belt.
func TestRunningMeasures(t *testing.T) {
	for _, belt := range []bool{false, true} {
		tr := truth(t, simcam.Spec{Event: "running", Speed: 3.3, CaptureRate: 240})
		name := "on the ground"
		if belt {
			tr, name = points.Treadmill(tr, 3.3), "on a belt"
		}
		r := evaluate.Attempt(load(t, "running"), points.Input(tr, points.All(tr, 0.3, 5)))
		if belt != (r.BeltSpeed != nil) || belt && math.Abs(r.BeltSpeed.Value-3.3) > 0.25 {
			t.Errorf("%s: belt %v", name, r.BeltSpeed)
		}
		at := func(id string) report.Reading {
			x, _ := r.Reading(id)
			if x.Value == nil {
				t.Fatalf("%s: no %s: %s", name, id, x.Reason)
			}
			return x
		}
		near := func(id string, want, most float64) {
			if got := at(id).Value.Value; math.Abs(got-want) > most {
				t.Errorf("%s: %s %.3f, want %.3f", name, id, got, want)
			}
		}
		f := tr.Positions
		dt := 1000.0 / 240
		near("contact", dt*float64(f["to1"]-f["td1"]+f["to2"]-f["td2"]+f["to3"]-f["td3"])/3, 6)
		near("cadence", 60000/(dt*float64(f["td5"]-f["td1"])/4), 2)
		near("speed", 3.3, 0.25)
		near("length", 3.3*dt/1000*float64(f["td5"]-f["td1"])/4, 0.1)
		if x := at("contact"); len(x.Repetitions) < 4 || x.Repetitions[0].Foot == x.Repetitions[1].Foot {
			t.Errorf("%s: contacts %+v", name, x.Repetitions)
		}
		// Faultless: nothing surely wrong.
		if len(r.Findings) > 0 {
			t.Errorf("%s: a faultless run has %v", name, r.Findings)
		}
	}
}

// Dialled faults of the run are found, and only they.
func TestRunningFaults(t *testing.T) {
	for fault, c := range map[string]struct {
		size float64
		want string
	}{"over-stride": {0.2, "R1"}, "bounce": {0.12, "R3"}, "uneven": {0.18, "R5r"}, "hips-behind": {22, "R2"}} {
		tr := truth(t, simcam.Spec{Event: "running", Speed: 3.3, CaptureRate: 240, Faults: map[string]float64{fault: c.size}})
		r := evaluate.Attempt(load(t, "running"), points.Input(tr, points.All(tr, 0.3, 3)))
		if len(r.Findings) == 0 || r.Findings[0].Fault != c.want {
			t.Errorf("%s: %v, possible %v, want %s first", fault, r.Findings, r.Possible, c.want)
		}
	}
}

// What the coach flags outranks what was found, numbers the other steps, and a
// position can be said not to be there.
func TestHandOutranksTheTool(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 3.3, CaptureRate: 240})
	in := points.Input(tr, points.All(tr, 0.3, 5))
	in.Flags["td1"] = tr.Positions["td2"] + 3
	in.Flags["fly1"] = evaluate.NotThere
	r := evaluate.Attempt(load(t, "running"), in)
	for _, p := range r.Positions {
		switch p.ID {
		case "td1":
			if p.Source != "coach" || *p.Frame != tr.Positions["td2"]+3 {
				t.Errorf("td1: %+v", p)
			}
		case "td2":
			if p.Frame == nil || p.Source != "tool" || max(*p.Frame-tr.Positions["td3"], tr.Positions["td3"]-*p.Frame) > 2 {
				t.Errorf("the tool's second step must be the one after the coach's first: %+v", p)
			}
		case "fly1":
			if p.Frame != nil {
				t.Errorf("fly1 is not there, the coach says: %+v", p)
			}
		}
	}
	if len(r.Problems) > 0 {
		t.Errorf("problems: %v", r.Problems)
	}
}

// A pan does not bend what is read: with the camera's turning known, speed and
// step length come out, without it the hips seem to stand.
func TestPanningCamera(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 240, Camera: simcam.Camera{Pan: true, Shake: 2}})
	in := points.Input(tr, points.All(tr, 0.3, 5))
	if in.Camera.Still() {
		t.Fatal("the camera did not turn")
	}
	r := evaluate.Attempt(load(t, "running"), in)
	for id, want := range map[string]float64{"speed": 5} {
		if x, _ := r.Reading(id); x.Value == nil || math.Abs(x.Value.Value-want) > 0.06*want {
			t.Errorf("%s: %+v", id, x)
		}
	}
	if c := points.Contacts(tr, r); c.Percent() < 80 {
		t.Errorf("contacts in a pan: %v", c)
	}
	// Evidence comes back into the frame's own picture, but for what smoothing takes off a
	// knee at the moment of impact.
	x, _ := r.Reading("knee")
	lines := x.Evidence.Lines[0]
	want := tr.Frames[x.Evidence.Frame].Landmarks[lines.Landmarks[1]].Image
	if d := r2.Norm(r2.Sub(r2.Vec{X: lines.Points[1][0], Y: lines.Points[1][1]}, r2.Vec{X: want[0], Y: want[1]})); d > 4 {
		t.Errorf("the knee is drawn %.1f px off", d)
	}
	in.Camera.Problem = "the background shows too little"
	if r = evaluate.Attempt(load(t, "running"), in); len(r.Steps) != 0 || len(r.Problems) == 0 {
		t.Errorf("a clip without a common frame gave %d steps, problems %v", len(r.Steps), r.Problems)
	}
}

// long is an attempt of 1,000 frames and 33 tracks.
func long(b *testing.B) evaluate.Input {
	tr := truth(b, simcam.Spec{Event: "running", Speed: 4, CaptureRate: 600})
	tr.Frames = tr.Frames[:1000]
	in := points.Input(tr, points.All(tr, 1, 4))
	for i := 0; len(in.Points) < 33; i++ {
		in.Points[fmt.Sprint("extra_", i)] = in.Points["left_knee"].Clone()
	}
	return in
}

// The budget is 50 ms for two views.
func BenchmarkEvaluate1000FramesOneView(b *testing.B) {
	m, in := load(b, "running"), long(b)
	for b.Loop() {
		evaluate.Attempt(m, in)
	}
}

// What a dragged joint costs: one track is new, the other paths are taken over.
func BenchmarkAgainWithOneTrackMoved(b *testing.B) {
	m, in := load(b, "running"), long(b)
	_, move := evaluate.Incremental(m, in, nil)
	for b.Loop() {
		in.Points["left_knee"] = in.Points["left_knee"].Clone()
		_, move = evaluate.Incremental(m, in, move)
	}
}

// Paths that did not change are taken over, and the answer stays the same.
func TestAgainTakesPathsOver(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", Speed: 4, CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 0.3, 5))
	m := load(t, "running")
	first, move := evaluate.Incremental(m, in, nil)
	moved := in.Points["left_knee"].Clone()
	moved.X[10] += 3
	in.Points["left_knee"] = moved
	again, next := evaluate.Incremental(m, in, move)
	fresh := evaluate.Attempt(m, in)
	if *again.Readings[0].Value != *fresh.Readings[0].Value || len(again.Contacts) != len(first.Contacts) {
		t.Error("taking paths over changes the answer")
	}
	if next.Movement.Paths["right_knee"] != move.Movement.Paths["right_knee"] || next.Movement.Paths["left_knee"] == move.Movement.Paths["left_knee"] {
		t.Error("the wrong paths were made anew")
	}
}

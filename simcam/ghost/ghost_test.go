package ghost

import (
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// her is an athlete with a way of her own to move, and a fault.
func her(event, variant string, faults map[string]float64) simcam.Spec {
	return simcam.Spec{Event: event, Variant: variant, Athlete: body.Person{Sex: body.Male, Height: 1.86, Mass: 84, FrontLeg: body.Left, ThrowingHand: body.Right, TakeoffLeg: body.Left}, Hand: body.Right, Leg: body.Left, Faults: faults, Style: 4711, Direction: -1, CaptureRate: rate, FileRate: rate, Width: 1280, Height: 720}
}

func worked(t *testing.T, s simcam.Spec) (model.Model, evaluate.Input, report.Report) {
	t.Helper()
	m, in, err := points.ByEyeAt(s, 120)
	if err != nil {
		t.Fatal(err)
	}
	return m, in, evaluate.Attempt(m, in)
}

// apart is how far two bodies differ, in px, on the mean over landmarks, about the middle of the hips and the
// height of the ground.
func apart(a, b map[string][2]float64) float64 {
	sum, n := 0.0, 0.0
	for id, p := range a {
		if q, ok := b[id]; ok {
			sum += math.Hypot(p[0]-q[0], p[1]-q[1])
			n++
		}
	}
	return sum / n
}

func about(points map[string][]float64, k int, ground float64) map[string][2]float64 {
	middle := (points["left_hip"][2*k] + points["right_hip"][2*k]) / 2
	out := map[string][2]float64{}
	for id, p := range points {
		out[id] = [2]float64{p[2*k] - middle, p[2*k+1] - ground}
	}
	return out
}

// The ghost of somebody with a fault is nearer to how the same person moves without it than the clip is; what
// is left is what the drawing does not know of the person.
func TestTheGhostIsHerWithoutTheFault(t *testing.T) {
	for _, c := range []struct{ event, variant, dial, fault, at string }{
		{"sprint-start", "", "shoulders", "S1", "set"},
		{"sprint-start", "", "front-knee", "S2", "set"},
		{"long-jump", "hang", "lean-back", "L1", "to"},
		{"javelin", "foot-slanted", "soft-block", "J8", "release"},
		{"running", "", "hips-behind", "R2", "mid2"},
	} {
		faulty, clean := her(c.event, c.variant, map[string]float64{}), her(c.event, c.variant, map[string]float64{})
		_, d, err := specOf(model.Model{ID: c.event}, evaluate.Input{Variant: c.variant, Athlete: faulty.Athlete}, c.fault)
		if err != nil {
			t.Fatal(err)
		}
		faulty.Faults[c.dial] = d.Shown
		m, in, rep := worked(t, faulty)
		g, err := Of(m, in, rep, c.fault, 0)
		if err != nil {
			t.Errorf("%s %s: %v", c.event, c.dial, err)
			continue
		}
		right, _ := across(in.Clip)
		truth, err := scene(clean, d, 0)
		if err != nil {
			t.Fatal(err)
		}
		was, err := scene(faulty, d, 1)
		if err != nil {
			t.Fatal(err)
		}
		frame := 0
		for _, p := range rep.Positions {
			if p.ID == c.at && p.Frame != nil {
				frame = *p.Frame
			}
		}
		k := slices.Index(g.Frames, frame)
		if k < 0 {
			t.Fatalf("%s %s: %s is not drawn", c.event, c.dial, c.at)
		}
		// Her own movement, with and without the fault, in metres; the ghost's change in metres.
		a, b := seen(was, float64(was.Positions[c.at]), right), seen(truth, float64(truth.Positions[c.at]), right)
		px := scale(in, was, right, phases{own: []float64{0, 1}, a: []float64{0, 2}, b: []float64{0, 2}, perFrame: 2, first: 0, last: len(in.Clip.Stamps) - 1})
		got := map[string][2]float64{}
		own, want := about(g.Own, k, 0), about(g.Points, k, 0)
		for id := range want {
			got[id] = [2]float64{a[id][0] + (want[id][0]-own[id][0])/px, a[id][1] + (want[id][1]-own[id][1])/px}
		}
		before, after := apart(a, b), apart(got, b)
		if after > 0.6*before {
			t.Errorf("%s %s: %.1f cm from faultless as filmed, %.1f cm as drawn", c.event, c.dial, 100*before, 100*after)
		}
		if g.Share < 0.4 || g.Share > 1.5 {
			t.Errorf("%s %s: a share of %.2f, dialled 1", c.event, c.dial, g.Share)
		}
	}
}

// Where only some pictures have joints these are drawn, and the one that shows most lies within what is
// looked at.
func TestFewPictures(t *testing.T) {
	m, in, rep := worked(t, her("sprint-start", "", map[string]float64{"shoulders": 0.14}))
	few := in
	few.Points = map[string]*track.Track{}
	at := []int{}
	for _, p := range rep.Positions {
		if p.Frame != nil {
			at = append(at, *p.Frame)
		}
	}
	for id, tr := range in.Points {
		c := *tr
		c.Source = slices.Clone(c.Source)
		for i := range c.Source {
			if !slices.Contains(at, c.From+i) {
				c.Source[i] = track.Empty
			}
		}
		few.Points[id] = &c
	}
	g, err := Of(m, few, rep, "S1", 0)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range g.Frames {
		if !slices.Contains(at, n) {
			t.Errorf("frame %d has no joints", n)
		}
	}
	if len(g.Frames) < 3 || len(g.Around) != len(g.Frames) {
		t.Fatalf("%d pictures, %d parts", len(g.Frames), len(g.Around))
	}
	box, x, y := g.Around[g.Most], g.Points["left_hand"][2*g.Most], g.Points["left_hand"][2*g.Most+1]
	if x < box[0] || x > box[0]+box[2] || y < box[1] || y > box[1]+box[3] {
		t.Errorf("a hand at %.0f, %.0f is outside %v", x, y, box)
	}
	// The set is what a fault of the set changes most.
	if g.Frames[g.Most] != *rep.Positions[0].Frame {
		t.Errorf("frame %d shows most, the set is %d", g.Frames[g.Most], *rep.Positions[0].Frame)
	}
}

// Left as it is it is the clip, and twice as much goes the other way.
func TestAsItIsAndTwiceAsMuch(t *testing.T) {
	m, in, rep := worked(t, her("sprint-start", "", map[string]float64{"shoulders": 0.14}))
	same, err := Of(m, in, rep, "S1", 1)
	if err != nil {
		t.Fatal(err)
	}
	for id, p := range same.Points {
		for i, v := range p {
			if math.Abs(v-same.Own[id][i]) > 0.15 {
				t.Fatalf("%s: %g, measured %g", id, v, same.Own[id][i])
			}
		}
	}
	less, _ := Of(m, in, rep, "S1", 0)
	more, _ := Of(m, in, rep, "S1", 2)
	k := 2 * slices.Index(less.Frames, *rep.Positions[0].Frame)
	if a, b, c := less.Points["left_hand"][k], same.Points["left_hand"][k], more.Points["left_hand"][k]; (a-b)*(b-c) <= 0 {
		t.Errorf("hands at %.1f, %.1f, %.1f px", a, b, c)
	}
}

func TestGhostsThatCannotBe(t *testing.T) {
	m, in, rep := worked(t, her("sprint-start", "", map[string]float64{}))
	for name, c := range map[string]struct {
		fault string
		do    func(*evaluate.Input, *report.Report)
		says  string
	}{
		"no such fault": {"S99", func(*evaluate.Input, *report.Report) {}, "no fault"},
		"nobody draws":  {"S10", func(*evaluate.Input, *report.Report) {}, "nobody can draw"},
		"oblique":       {"S1", func(in *evaluate.Input, _ *report.Report) { in.Clip.View = "oblique" }, "from the side"},
		"no rate":       {"S1", func(in *evaluate.Input, _ *report.Report) { in.Clip.CaptureRate = 0 }, "pictures a second"},
		"no positions":  {"S1", func(_ *evaluate.Input, r *report.Report) { r.Positions = nil }, "two key positions"},
		"no points":     {"S1", func(in *evaluate.Input, _ *report.Report) { in.Points = nil }, "too few joints"},
	} {
		a, b := in, rep
		c.do(&a, &b)
		if _, err := Of(m, a, b, c.fault, 0); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// A guess of a network's far from the body is not drawn, a hand goes on without its wrist, and a track
// that begins late stays where it is in time.
func TestWhatIsPlacedOddly(t *testing.T) {
	m, in, rep := worked(t, her("sprint-start", "", map[string]float64{"shoulders": 0.14}))
	plain, err := Of(m, in, rep, "S1", 0)
	if err != nil {
		t.Fatal(err)
	}
	odd := in
	odd.Points = maps.Clone(in.Points)
	delete(odd.Points, "left_wrist")
	far := *in.Points["right_elbow"]
	far.X = slices.Clone(far.X)
	for i := range far.X {
		far.X[i] += 500
	}
	odd.Points["right_elbow"] = &far
	ear := *in.Points["left_ear"]
	const late = 20
	ear.From, ear.X, ear.Y, ear.Source, ear.Confidence = ear.From+late, ear.X[late:], ear.Y[late:], ear.Source[late:], ear.Confidence[late:]
	odd.Points["left_ear"] = &ear
	got, err := Of(m, odd, rep, "S1", 0)
	if err != nil {
		t.Fatal(err)
	}
	k := 2 * slices.Index(got.Frames, *rep.Positions[0].Frame)
	for id, want := range map[string]bool{"right_elbow": false, "left_wrist": false, "left_hand": true, "left_elbow": true} {
		if there := got.Points[id][k] >= 0; there != want {
			t.Errorf("%s is drawn: %v", id, there)
		}
	}
	if a, b := got.Points["left_hand"][k], plain.Points["left_hand"][k]; math.Abs(a-b) > 8 {
		t.Errorf("the hand at %.1f px, with a wrist at %.1f", a, b)
	}
	last := 2 * (len(got.Frames) - 1)
	if a, b := got.Own["left_ear"][last], plain.Own["left_ear"][last]; a != b {
		t.Errorf("an ear at %.1f px, of the whole track at %.1f", a, b)
	}
	if got.Frames[0] < late && got.Own["left_ear"][0] >= 0 {
		t.Error("an ear before its track begins")
	}
}

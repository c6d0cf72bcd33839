package points_test

import (
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// Every dial of the simulated athlete, filmed as a coach films it and worked out
// by a careful one: its fault is found and comes first, nothing is found in a
// faultless movement, and a left-hander gets the same answers.
func TestPlantedFaultsAreFoundFirst(t *testing.T) {
	hunts := 0
	for _, e := range move.Events() {
		var right points.Event
		for _, mirrored := range []bool{false, true} {
			got, err := points.Tell(e, mirrored, false)
			if err != nil {
				t.Fatal(err)
			}
			for _, a := range got.Alarms {
				t.Errorf("%s, mirrored %v: false alarm %s", got.ID, mirrored, a)
			}
			for i, h := range got.Hunts {
				hunts++
				if !h.Found || !h.First {
					t.Errorf("%s %s stands for %s, mirrored %v: found %v, first %v: %s", got.ID, h.Dial, h.Fault, mirrored, h.Found, h.First, h.Says)
				}
				if mirrored && (h.Found != right.Hunts[i].Found || h.First != right.Hunts[i].First) {
					t.Errorf("%s %s: another answer for a left-hander", got.ID, h.Dial)
				}
			}
			if !mirrored {
				right = got
			}
		}
	}
	if hunts < 100 {
		t.Errorf("only %d faults were planted", hunts)
	}
}

// The view decides what is measured: the same attempt from behind asks for the
// side, with the reason, and offers the coach's own mark.
func TestAMeasureInTheWrongViewIsRefused(t *testing.T) {
	for _, e := range []string{"long-jump", "javelin", "pole-vault"} {
		m, in, err := points.ByEye(spec(e, "back"))
		if err != nil {
			t.Fatal(err)
		}
		refused := 0
		for _, r := range evaluate.Attempt(m, in).Readings {
			c, _ := m.Checkpoint(r.ID)
			if c.Measure.Kind != "joint" {
				continue
			}
			if r.Value != nil {
				t.Errorf("%s: %s was measured from behind", e, r.ID)
			}
			if c.Question == "" && r.Remedy != "a clip from the side" {
				t.Errorf("%s: %s says %q, %q", e, r.ID, r.Reason, r.Remedy)
			}
			refused++
		}
		if refused == 0 {
			t.Errorf("%s has no joint angles", e)
		}
	}
}

func spec(event, view string) simcam.Spec {
	return simcam.Spec{Event: event, Direction: 1, Camera: simcam.Camera{Place: view}, Athlete: body.Person{Sex: body.Female, Height: 1.72, Mass: 64, FrontLeg: body.Left}}
}

// What a figure says of the models must be able to fail: a dial that no fault
// stands for, or a model that lost its rule, is noticed.
func TestAnUnplantedDialIsNoticed(t *testing.T) {
	e, err := move.Find("javelin")
	if err != nil {
		t.Fatal(err)
	}
	got, err := points.Tell(e, false, false)
	if err != nil || len(got.Hunts) != len(e.Faults) {
		t.Fatalf("%d hunts for %d dials, %v", len(got.Hunts), len(e.Faults), err)
	}
	m, in, err := points.ByEye(spec("javelin", "side"))
	if err != nil {
		t.Fatal(err)
	}
	if r := evaluate.Attempt(m, in); len(r.Findings) != 0 {
		t.Errorf("faultless: %+v", r.Findings)
	}
	s := spec("javelin", "side")
	s.Faults = map[string]float64{"soft-block": e.Shown("", "soft-block")}
	m, in, err = points.ByEye(s)
	if err != nil {
		t.Fatal(err)
	}
	if r := evaluate.Attempt(m, in); len(r.Findings) == 0 || r.Findings[0].Fault != "J8" {
		t.Errorf("a soft block: %+v", r.Findings)
	}
	for i, f := range m.Faults {
		if f.ID == "J8" {
			m.Faults[i].When = model.Rule{Reading: "block_hold", Below: &[]float64{10}[0]}
		}
	}
	if r := evaluate.Attempt(m, in); len(r.Findings) != 0 {
		t.Errorf("a rule that nothing meets still finds %+v", r.Findings)
	}
}

// What is new in the glide is measured, and by the number alone: the order of arm,
// shoulder and hand, a centre foot off the line.
func TestGlideIsMeasured(t *testing.T) {
	e, err := move.Find("shot")
	if err != nil {
		t.Fatal(err)
	}
	read := func(view, dial, id string) report.Reading {
		faults := map[string]float64{}
		if dial != "" {
			faults[dial] = e.Shown("glide", dial)
		}
		m, in, err := points.ByEye(simcam.Spec{Event: "shot", Variant: "glide", Faults: faults, Camera: simcam.Camera{Place: view}, Direction: 1, Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 95}})
		if err != nil {
			t.Fatal(err)
		}
		in.Answers = nil
		m.Checkpoints = append(m.Checkpoints, model.Checkpoint{ID: "spin_on", Name: "Hips turn on", Position: "release", Measure: model.Measure{Kind: "turns_on", Points: []string{"hips"}}, Unit: "°"})
		for _, r := range evaluate.Attempt(m, in).Readings {
			if r.ID == id {
				return r
			}
		}
		t.Fatal("no reading", id)
		return report.Reading{}
	}
	for _, c := range []struct {
		view, dial, id string
		want           uncertainty.Verdict
	}{
		{"side", "", "order_time", uncertainty.Met}, {"back", "", "straight_line", uncertainty.Met}, {"back", "crooked", "straight_line", uncertainty.Missed},
	} {
		if r := read(c.view, c.dial, c.id); r.Verdict != c.want || r.Value == nil {
			t.Errorf("%s from the %s, %q: %s %+v (%s)", c.id, c.view, c.dial, r.Verdict, r.Value, r.Reason)
		}
	}
	// How far hips turn on does not show to one camera, whatever they do.
	if r := read("back", "pirouette", "spin_on"); r.Value != nil || r.Remedy == "" {
		t.Errorf("hips that turn on were read from one camera: %+v", r)
	}
	if r := read("back", "", "order_time"); r.Value != nil || r.Remedy == "" {
		t.Errorf("an order of forward speeds was read from behind: %+v", r)
	}
}

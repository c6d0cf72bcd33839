package compare_test

import (
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// The same movement at two capture rates lies on itself phase by phase; a longer one
// tells its longer phase in the ratio; a left-hander's other side is taken.
func TestStretch(t *testing.T) {
	film := func(rate float64, s simcam.Spec) (model.Model, evaluate.Input) {
		t.Helper()
		s.Event, s.Direction, s.Athlete = "sprint-start", 1, body.Person{Sex: body.Male, Height: 1.84, Mass: 80, FrontLeg: s.Athlete.FrontLeg}
		m, in, err := points.ByEyeAt(s, rate)
		if err != nil {
			t.Fatal(err)
		}
		return m, in
	}
	left := simcam.Spec{Athlete: body.Person{FrontLeg: body.Left}}
	m, a := film(240, left)
	_, b := film(120, left)
	got := compare.Curves(m, a, b, "angle:left_knee")
	if got.Reason != "" || got.Unit != "°" || len(got.Phases) < 5 {
		t.Fatalf("%s, %d phases", got.Reason, len(got.Phases))
	}
	for _, p := range got.Phases {
		if len(p.A) != 21 || len(p.B) != 21 || p.To-p.From > 20 && math.Abs(p.Ratio-1) > 0.12 {
			t.Errorf("%s: %d and %d places, ratio %.2f", p.Name, len(p.A), len(p.B), p.Ratio)
		}
		for k := range p.A {
			if off := math.Abs(p.A[k] - p.B[k]); p.A[k] == kinematics.None || off > 14 {
				t.Errorf("%s at %d %%: %.1f and %.1f", p.Name, 5*k, p.A[k], p.B[k])
			}
		}
	}
	// Points its key positions a curve is what the report measures.
	r := evaluate.Attempt(m, a)
	if knee, ok := r.Reading("front_knee"); ok && knee.Value != nil {
		at := got.Phases[0]
		if at.From == *r.Positions[0].Frame && math.Abs(at.A[0]-knee.Value.Value) > 1 {
			t.Errorf("at %d the curve has %.1f, the reading %.1f", at.From, at.A[0], knee.Value.Value)
		}
	}
	_, mirrored := film(240, simcam.Spec{Athlete: body.Person{FrontLeg: body.Right}})
	other := compare.Curves(m, a, mirrored, "angle:left_knee")
	for i, p := range other.Phases {
		for k := range p.A {
			if off := math.Abs(p.B[k] - got.Phases[i].A[k]); off > 6 {
				t.Fatalf("right foot in front, %s at %d %%: %.1f degrees off the left-footed one", p.Name, 5*k, off)
			}
		}
	}
	if x := compare.Curves(m, a, b, "angle:left_wing"); x.Reason == "" {
		t.Error("a curve that is not there")
	}
	b.Flags = map[string]int{}
	b.Points = kinematics.Points{}
	if x := compare.Curves(m, a, b, "angle:left_knee"); x.Reason == "" || len(x.Phases) > 0 {
		t.Errorf("without points: %+v", x)
	}
}

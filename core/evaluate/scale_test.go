package evaluate_test

import (
	"math"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/evaluate"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// A line that gives the scale is held against the athlete's limbs: one that lies somewhat nearer
// or farther is used, an odd one is told, and one that cannot be is not used.
func TestTheLineIsHeldAgainstTheBody(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", CaptureRate: 120, Athlete: body.Person{Sex: body.Male, Height: 1.8, Mass: 75, FrontLeg: body.Left}})
	in := points.Input(tr, points.All(tr, 1, 1))
	m := load(t, "running")
	byBody := evaluate.Attempt(m, in).Scale
	if byBody == nil || byBody.From != "stature" {
		t.Fatalf("the scale by the body is %+v", byBody)
	}
	px := 2 / byBody.MetresPerPixel.Value
	for _, c := range []struct {
		times      float64
		told, used bool
	}{{1, false, true}, {1.2, false, true}, {0.85, false, true}, {1.5, true, true}, {0.7, true, true}, {2, true, false}, {10, true, false}, {0.001, true, false}} {
		in.Scale = &calibration.Line{AX: 200, AY: 600, BX: 200 + px, BY: 600, Metres: 2 * c.times}
		r := evaluate.Attempt(m, in)
		told := false
		for _, p := range r.Problems {
			told = told || strings.Contains(p, "the line that gives the scale") || strings.Contains(p, "a scale needs a line")
		}
		if told != c.told {
			t.Errorf("a line %g times as long: told %v: %v", c.times, told, r.Problems)
		}
		if r.Scale == nil {
			t.Fatalf("a line %g times as long leaves no scale", c.times)
		}
		want := byBody.MetresPerPixel.Value
		if c.used {
			want *= c.times
		}
		if math.Abs(r.Scale.MetresPerPixel.Value/want-1) > 1e-9 || (r.Scale.From == "line") != c.used {
			t.Errorf("a line %g times as long: %+v, want %g", c.times, r.Scale, want)
		}
	}
}

package evaluate_test

import (
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// A clip says when the athlete is not in its picture, and whose feet are cut off; a good one
// says nothing of it.
func TestWhoLeavesThePictureIsTold(t *testing.T) {
	tr := truth(t, simcam.Spec{Event: "running", CaptureRate: 120, Athlete: body.Person{Sex: body.Female, Height: 1.7, FrontLeg: body.Left}})
	m := load(t, "running")
	says := func(in evaluate.Input, what string) bool {
		return slices.ContainsFunc(evaluate.Attempt(m, in).Carries.Cannot, func(s string) bool { return strings.Contains(s, what) })
	}
	in := points.Input(tr, points.All(tr, 0.5, 1))
	told := []string{"has left the picture", "not in the picture yet", "below the edge", "above the edge"}
	for _, what := range told {
		if says(in, what) {
			t.Errorf("a good clip: %q is told", what)
		}
	}
	// She runs out of a narrower picture, and comes into one whose left part is missing.
	frames := len(in.Clip.Stamps)
	at := func(f int) float64 { return float64(in.Points["left_hip"].X[f]) }
	for _, c := range []struct {
		from, to int
		what     string
	}{{0, frames * 3 / 4, told[0]}, {frames / 4, frames, told[1]}} {
		cut := points.Input(tr, points.All(tr, 0.5, 1))
		left := 0.0
		if c.to < frames {
			cut.Clip.Width = int(at(c.to))
		} else {
			left = at(c.from)
		}
		for _, p := range cut.Points {
			for f := range frames {
				if f < c.from || f >= c.to {
					_ = p.Set(f, nil)
				} else {
					p.X[f-p.From] -= float32(left)
				}
			}
		}
		if !says(cut, c.what) {
			t.Errorf("%q is not told: %v", c.what, evaluate.Attempt(m, cut).Carries.Cannot)
		}
	}
	low := points.Input(tr, points.All(tr, 0.5, 1))
	low.Clip.Height = int(low.Points["left_ankle"].Y[frames/2])
	if !says(low, told[2]) {
		t.Errorf("feet below the edge are not told: %v", evaluate.Attempt(m, low).Carries.Cannot)
	}
}

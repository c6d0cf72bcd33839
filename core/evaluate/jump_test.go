package evaluate_test

import (
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// Take-off, the contact before it, landing, lifts and landings of named feet:
// found in tracks of jumps and throws, against the simulated athlete's truth.
func TestFootfallsOfJumpsAndThrows(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, c := range []struct {
		event, variant, place string
		pan                   bool
		want                  []string
	}{
		{"long-jump", "sail", "side", true, []string{"pen", "pen_off", "td", "to"}},
		{"pole-vault", "bending", "side", true, []string{"pre", "pre_off", "td", "to"}},
		{"shot", "glide", "side", false, []string{"drive_off", "centre", "front"}},
		{"discus", "full", "side", false, []string{"centre"}},
	} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			s := simcam.Spec{Event: c.event, Variant: c.variant, CaptureRate: 240, Hand: hand, Leg: hand.Other(), Camera: simcam.Camera{Place: c.place, Pan: c.pan}, Athlete: body.Person{Sex: body.Male, Height: 1.84, FrontLeg: body.Left}}
			tr := truth(t, s)
			m := load(t, c.event)
			r := evaluate.Attempt(m, points.Input(tr, points.All(tr, 0.3, 7)))
			for _, id := range c.want {
				found := false
				for _, p := range r.Positions {
					if p.ID != id {
						continue
					}
					found = true
					switch {
					case p.Frame == nil:
						t.Errorf("%s %s, %s-handed: %s was not found", c.event, c.variant, hand, id)
					case max(*p.Frame-tr.Positions[id], tr.Positions[id]-*p.Frame) > 4:
						t.Errorf("%s %s, %s-handed: %s at %d, true %d", c.event, c.variant, hand, id, *p.Frame, tr.Positions[id])
					case p.Source != "tool" || p.Confidence <= 0 || p.Confidence > 1:
						t.Errorf("%s: found by %s, sure %v", id, p.Source, p.Confidence)
					}
				}
				if !found {
					t.Errorf("%s has no %s", c.event, id)
				}
			}
		}
	}
}

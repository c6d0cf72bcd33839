package evaluate_test

import (
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// A view that is not the one that was filmed is told, and the right one is not doubted.
func TestTheViewIsHeldAgainstThePicture(t *testing.T) {
	said := func(event, place, view string) bool {
		tr := truth(t, simcam.Spec{Event: event, CaptureRate: 120, Camera: simcam.Camera{Place: place}, Athlete: body.Person{Sex: body.Male, Height: 1.8, Mass: 78, FrontLeg: body.Left}})
		pts := points.All(tr, 1, 2)
		if ball := points.Ball(tr, 1, 2); ball != nil && event != "javelin" {
			pts["ball"] = ball
		}
		in := points.Input(tr, pts)
		in.Ground = points.Circle(tr, 1, 2)
		in.Clip.View = view
		for _, p := range evaluate.Attempt(load(t, event), in).Problems {
			if strings.Contains(p, "the clip's card says that it is filmed from the") {
				return true
			}
		}
		return false
	}
	for _, c := range []struct {
		event, place, view string
		want               bool
	}{
		{"running", "", "side", false}, {"running", "", "back", true}, {"long-jump", "", "side", false}, {"long-jump", "", "front", true},
		{"pole-vault", "", "side", false}, {"pole-vault", "", "back", true}, {"sprint-start", "", "side", false},
		{"javelin", "", "side", false}, {"javelin", "", "back", true}, {"high-jump", "", "side", false},
		{"running", "back", "back", false}, {"javelin", "back", "back", false}, {"long-jump", "front", "front", false}, {"running", "back", "side", true},
		{"hammer", "back", "back", false}, {"hammer", "back", "side", true}, {"discus", "back", "back", false}, {"discus", "back", "side", true}, {"weight", "side", "side", false}, {"weight", "side", "back", true},
	} {
		if got := said(c.event, c.place, c.view); got != c.want {
			t.Errorf("%s from the %q, said to be %s: told %v", c.event, c.place, c.view, got)
		}
	}
}

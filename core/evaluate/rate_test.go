package evaluate_test

import (
	"math"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/timebase"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// A clip whose camera's rate nobody knows, or has given wrongly, tells it by the fall in a jump
// and by the steps of a run; one whose rate is right raises no doubt.
func TestThePicturesTellTheRate(t *testing.T) {
	right, all := 0, 0
	for _, event := range []string{"long-jump", "high-jump", "running"} {
		m := load(t, event)
		for _, truly := range []float64{30, 120} {
			for seed := range uint64(2) {
				s := simcam.Spec{Event: event, CaptureRate: truly, Seed: seed, Athlete: body.Person{Sex: body.Female, Height: 1.6 + 0.25*float64(seed)}}
				if event == "running" {
					s.Speed = 3.5 + 3*float64(seed)
				} else {
					s.Camera.Pan = event == "long-jump"
				}
				tr := truth(t, s)
				in := points.Input(tr, points.All(tr, 0.8, seed))
				in.Flags = map[string]int{}
				hint := func(given float64) float64 {
					in.Clip.CaptureRate = given
					in.Clip.FileRate = 30
					for i := range in.Clip.Stamps {
						in.Clip.Stamps[i] = int64(i) * timebase.TickRate / 30
					}
					r := evaluate.Attempt(m, in)
					said := false
					for _, p := range r.Problems {
						said = said || strings.Contains(p, "frames a second")
					}
					if r.RateHint == nil {
						return 0
					}
					if given > 0 != said {
						t.Errorf("%s at %g, given %g: problems %v", event, truly, given, r.Problems)
					}
					return r.RateHint.Rate
				}
				if h := hint(truly); h != 0 {
					t.Errorf("%s at %g pictures a second, seed %d: rightly given, and doubted for %g", event, truly, seed, h)
				}
				for _, given := range []float64{0, truly * 8, truly / 4} {
					all++
					// Steps tell a rate to about a third, a fall to about a tenth.
					if h := hint(given); h > 0 && math.Abs(math.Log(h/truly)) < math.Log(1.7) {
						right++
					} else if h > 0 {
						t.Errorf("%s at %g, given %g, seed %d: told %g", event, truly, given, seed, h)
					}
				}
			}
		}
	}
	if 10*right < 8*all {
		t.Errorf("the rate is told in %d of %d clips", right, all)
	}
}

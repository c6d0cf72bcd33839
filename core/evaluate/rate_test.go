package evaluate_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	throws "neokinema/core/throw"
	"neokinema/core/timebase"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// A clip whose camera's rate nobody knows, or has given wrongly, tells it by the fall in a jump,
// by steps and by turns; one whose rate is right raises no doubt.
func TestThePicturesTellTheRate(t *testing.T) {
	right, all := 0, 0
	for _, event := range []string{"long-jump", "high-jump", "running", "sprint-start", "pole-vault", "javelin", "hammer"} {
		m := load(t, event)
		for _, truly := range []float64{30, 120} {
			for seed := range uint64(2) {
				s := simcam.Spec{Event: event, CaptureRate: truly, Seed: seed, Athlete: body.Person{Sex: body.Female, Height: 1.6 + 0.25*float64(seed)}}
				if event == "running" {
					s.Speed = 3.5 + 3*float64(seed)
				}
				s.Camera.Pan = event == "long-jump"
				if event == "hammer" {
					s.Camera.Place = "back"
				}
				tr := truth(t, s)
				in := points.Input(tr, points.All(tr, 0.8, seed))
				if event == "hammer" {
					in.Points["ball"], in.Ground = points.Ball(tr, 1, seed), points.Circle(tr, 1, seed)
				}
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
					// Nothing that hangs on time is read by a rate that cannot be.
					for _, x := range r.Readings {
						cp, _ := m.Checkpoint(x.ID)
						if x.Value != nil && x.Source == "measure" && slices.Contains([]string{"ms", "m/s", "kN/m", "N"}, cp.Unit) {
							t.Errorf("%s at %g, given %g: %s is read, %.1f %s", event, truly, given, x.ID, x.Value.Value, cp.Unit)
						}
					}
					if throw := r.Throw; throw != nil && (throw.Release != nil || slices.ContainsFunc(throw.Turns, func(x throws.Turn) bool { return x.Time != nil || x.Speed != nil || x.Pull != nil })) {
						t.Errorf("%s at %g, given %g: speeds of the throw are read", event, truly, given)
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

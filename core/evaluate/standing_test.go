package evaluate_test

import (
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// off is how many frames a moment that is shown comes after the nearest true one, 99 when there is
// none within a few.
func off(tr simcam.Truth, foot body.Side, frame int, comesDown bool) int {
	best := 99
	for k := max(1, frame-8); k <= min(len(tr.Frames)-1, frame+8); k++ {
		if d := frame - k; points.Down(tr, foot, k) == comesDown && points.Down(tr, foot, k-1) != comesDown && max(d, -d) < max(best, -best) {
			best = d
		}
	}
	return best
}

func TestATouchdownIsNotShownAPictureEarly(t *testing.T) {
	exact, early, all := 0, 0, 0
	for event, s := range map[string]simcam.Spec{"running": {Speed: 5, Direction: 1}, "javelin": {}, "sprint-start": {}, "long-jump": {}} {
		m := load(t, event)
		for seed := range uint64(6) {
			s.Event, s.CaptureRate, s.Seed = event, 30, seed+1
			tr := truth(t, s)
			in := points.Input(tr, points.All(tr, 0.3, seed))
			trembling(&in, 300, 0.003, seed)
			for _, c := range evaluate.Attempt(m, in).Contacts {
				if c.From < 3 {
					continue
				}
				all++
				switch d := off(tr, c.Foot, c.From, true); {
				case d == 0:
					exact++
				case d < 0:
					early++
				}
			}
		}
	}
	if all < 50 || 4*exact < 3*all || 6*early > all {
		t.Errorf("of %d touchdowns %d are shown in the right picture, %d before it", all, exact, early)
	}
}

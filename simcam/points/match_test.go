package points_test

import (
	"testing"

	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// Phase by phase, key positions of pairs of attempts lie within a frame of each
// other; scatter makes it worse, so that the figure can fail: fewer are found at all, or
// fewer of them lie there.
func TestMatching(t *testing.T) {
	good, err := points.Matching(0.5)
	if err != nil {
		t.Fatal(err)
	}
	if good.All < 60 || good.Percent() < 88 {
		t.Errorf("%d of %d", good.Within, good.All)
	}
	bad, err := points.Matching(6)
	if err != nil {
		t.Fatal(err)
	}
	if bad.Within >= good.Within {
		t.Errorf("scatter does not matter: %+v and %+v", bad, good)
	}
}

// Every phase of every event has its small figure: on or over the ground, no larger
// than an athlete with arms up, feet apart by no more than a step.
func TestPoses(t *testing.T) {
	all, err := points.Poses()
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range move.Events() {
		if len(all[e.ID]) < 3 {
			t.Errorf("%s has %d figures", e.ID, len(all[e.ID]))
		}
		for phase, p := range all[e.ID] {
			if len(p) < len(points.PoseJoints) {
				t.Fatalf("%s %s has %d places", e.ID, phase, len(p))
			}
			low, high := 1000, -1000
			for _, q := range p[:len(points.PoseJoints)] {
				low, high = min(low, q[1]), max(high, q[1])
				if q[0] < -130 || q[0] > 130 {
					t.Errorf("%s %s reaches %d hundredths of a height from its hips", e.ID, phase, q[0])
				}
			}
			if low < -3 || high-low > 150 || high-low < 20 {
				t.Errorf("%s %s lies between %d and %d", e.ID, phase, low, high)
			}
			if p[2][0] != 0 {
				t.Errorf("%s %s: the hips are the middle", e.ID, phase)
			}
		}
	}
}

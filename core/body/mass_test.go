package body

import (
	"math"
	"strings"
	"testing"
)

// TestCentreWeightsAreAMean: shares of one, the same for both sides, and the
// heavy parts weigh most.
func TestCentreWeightsAreAMean(t *testing.T) {
	for _, sex := range []Sex{Female, Male} {
		w := CentreWeights(sex)
		var sum float64
		for id, v := range w {
			if !Known(id) || v < 0 {
				t.Errorf("%s: %q weighs %v", sex, id, v)
			}
			sum += v
			if side, part, _ := strings.Cut(id, "_"); side == "left" && math.Abs(v-w["right_"+part]) > 1e-15 {
				t.Errorf("%s: sides of %s differ", sex, part)
			}
		}
		if math.Abs(sum-1) > 1e-12 {
			t.Errorf("%s: weights sum to %v", sex, sum)
		}
		if w["left_hip"] < w["left_knee"] || w["left_shoulder"] < w["left_elbow"] || w["left_toe"] > 0.01 {
			t.Errorf("%s: %v", sex, w)
		}
	}
}

// TestOneLegByHand: thigh, shank and foot of a man, table 4 of de Leva 1996
// (from memory): mass times place of each, by hand.
func TestOneLegByHand(t *testing.T) {
	w := CentreWeights(Male)
	// Printed masses sum to 100.00 with both sides: 6.94 + 43.46 + 2 (2.71 + 1.62 +
	// 0.61 + 14.16 + 4.33 + 1.37).
	total := 6.94 + 43.46 + 2*(2.71+1.62+0.61+14.16+4.33+1.37)
	knee := (14.16*0.4095 + 4.33*(1-0.4459)) / total
	if math.Abs(w["right_knee"]-knee) > 1e-9 {
		t.Errorf("knee weighs %.6f, by hand %.6f", w["right_knee"], knee)
	}
	ankle := 4.33 * 0.4459 / total
	if math.Abs(w["right_ankle"]-ankle) > 1e-9 {
		t.Errorf("ankle weighs %.6f, by hand %.6f", w["right_ankle"], ankle)
	}
}

package figures

import "testing"

// What is told of an eye is true of observers who are known, on fewer of them than the figures take.
func TestAnEyeIsMeasuredRight(t *testing.T) {
	t.Parallel()
	if off, held := EyeDPrime(300); off > 0.15 || held < 90 {
		t.Errorf("d' is %.2f off; %.0f %% of the intervals hold it", off, held)
	}
	if off := EyeBias(60); off > 0.6 {
		t.Errorf("a bias of angles is %.2f degrees off", off)
	}
	if off, _ := EyeThreshold(8); off > 15 {
		t.Errorf("a threshold is %.1f %% off", off)
	}
}

package timebase

import (
	"math"
	"strings"
	"testing"
)

func even(n int, gap int64) []int64 {
	s := make([]int64, n)
	for i := range s {
		s[i] = int64(i) * gap
	}
	return s
}

func mustClock(t *testing.T, stamps []int64, file, capture float64) Clock {
	t.Helper()
	c, err := New(stamps, file, capture)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// TestSlowMotion: shot at 240, stored at 30, plays 8 times slow; 3 frames at
// 30/s read 0.10 s ± one frame.
func TestSlowMotion(t *testing.T) {
	c := mustClock(t, even(241, 3000), 30, 240)
	if got := c.At(240); math.Abs(got-1) > 1e-12 {
		t.Errorf("240 frames last %v s", got)
	}
	v, err := c.Between(10, 58)
	if err != nil || math.Abs(v.Value-0.2) > 1e-12 || math.Abs(v.Half95-1.0/240) > 1e-9 {
		t.Errorf("48 frames: %+v %v", v, err)
	}
	real := mustClock(t, even(90, 3000), 30, 30)
	if v, _ := real.Between(30, 33); math.Abs(v.Value-0.1) > 1e-12 || math.Abs(v.Half95-1.0/30) > 1e-9 {
		t.Errorf("3 frames at 30/s: %+v", v)
	}
}

func TestVariableRateFollowsStamps(t *testing.T) {
	stamps := []int64{0, 3000, 6000, 12000, 15000, 18000, 21000}
	if !Variable(stamps) || Variable(even(20, 3003)) {
		t.Error("variable rate not told from constant")
	}
	if r := FileRate(stamps); math.Abs(r-30) > 1e-9 {
		t.Errorf("rate of a clip with a pause: %v", r)
	}
	c := mustClock(t, stamps, 30, 240)
	v, _ := c.Between(2, 3)
	if math.Abs(v.Value-6000.0/90000/8) > 1e-12 {
		t.Errorf("a long frame lasts %v", v.Value)
	}
}

func TestFileRateOfRatesThat90kHzCannotHold(t *testing.T) {
	s := make([]int64, 480)
	for i := range s {
		s[i] = int64(math.Round(float64(i) * TickRate / 239.76))
	}
	if r := FileRate(s); math.Abs(r-239.76) > 0.02 {
		t.Errorf("rate %v, want 239.76", r)
	}
	if FileRate(nil) != 0 || FileRate([]int64{0}) != 0 {
		t.Error("a clip of fewer than two frames has no rate")
	}
}

func TestShareNeedsNoCaptureRate(t *testing.T) {
	c := mustClock(t, even(100, 3000), 30, 0)
	v, err := c.Share(10, 50, 10, 90)
	if err != nil || v.Value != 50 {
		t.Fatalf("share %+v %v", v, err)
	}
	// Common start: sd of b/c with independent uniform ends, by hand:
	// d/da = -40/80^2*... gives 100/80 * sqrt(0.5^2+1+0.5^2) / sqrt(12).
	if want := 100.0 / 80 * math.Sqrt(0.25+1+0.25) / math.Sqrt(12); math.Abs(v.SD-want) > 1e-3 {
		t.Errorf("sd %v, want %v", v.SD, want)
	}
	if _, err := c.Share(10, 20, 50, 50); err == nil {
		t.Error("a whole without duration was taken")
	}
	if _, err := c.Between(0, 5); err != ErrRateUnknown {
		t.Errorf("time without a rate: %v", err)
	}
}

func TestBadClocks(t *testing.T) {
	for _, c := range []struct {
		stamps        []int64
		file, capture float64
	}{
		{[]int64{0, 5, 5}, 30, 240}, {even(9, 3000), 30, -3}, {even(9, 3000), 30, 10000}, {even(9, 3000), 30, math.NaN()}, {even(9, 3000), 0, 240}, {even(9, 3000), 30, 1},
	} {
		if _, err := New(c.stamps, c.file, c.capture); err == nil {
			t.Errorf("%v %v %v was taken", c.stamps, c.file, c.capture)
		}
	}
	c := mustClock(t, even(5, 3000), 30, 240)
	for _, f := range [][2]int{{-1, 2}, {0, 5}, {9, 9}} {
		if _, err := c.Between(f[0], f[1]); err == nil {
			t.Errorf("frames %v outside the clip gave a time", f)
		}
	}
}

// TestWrongRateShowsItself: a contact of 44 frames is 0.18 s at 240/s and an
// impossible 1.5 s at 30/s (contact bounds: common practice).
func TestWrongRateShowsItself(t *testing.T) {
	g := RateHypotheses(even(372, 3000), 30, 100, 144, []float64{30, 240, 5000})
	if g[0].Possible || !strings.Contains(g[0].Text, "contact 1.5 s") {
		t.Errorf("30/s: %+v", g[0])
	}
	if !g[1].Possible || math.Abs(*g[1].Contact-0.1833) > 1e-3 {
		t.Errorf("240/s: %+v", g[1])
	}
	if g[2].Possible || g[2].Contact != nil {
		t.Errorf("5000/s: %+v", g[2])
	}
	if g := RateHypotheses(even(372, 3000), 30, 0, 0, []float64{240}); g[0].Contact != nil || math.Abs(g[0].Clip-371.0/240) > 1e-9 {
		t.Errorf("without a contact: %+v", g[0])
	}
}

// A clock without the camera's rate counts the file's time, and gives no true one.
func TestUntimed(t *testing.T) {
	c, err := New([]int64{0, 3000, 6000}, 30, 240)
	if err != nil {
		t.Fatal(err)
	}
	u := c.Untimed()
	if u.Known() || !c.Known() || u.Len() != 3 || math.Abs(u.At(2)-2.0/30) > 1e-9 || math.Abs(c.At(2)-2.0/240) > 1e-9 {
		t.Errorf("%v, %g and %g s", u.Known(), u.At(2), c.At(2))
	}
	if _, err := u.Between(0, 2); err == nil {
		t.Error("a true time without a rate")
	}
}

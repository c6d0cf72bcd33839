package azimuth

import (
	"math"
	"testing"

	"neokinema/core/uncertainty"
)

// The check values of the trade (common practice, no source): a quarter turn, the
// middle of the sector and three quarters on both clocks, for both hands.
func TestClocks(t *testing.T) {
	for _, c := range []struct {
		az          float64
		left        bool
		back, throw string
	}{
		{0, false, "12 o'clock", "6 o'clock"}, {90, false, "9 o'clock", "3 o'clock"}, {180, false, "6 o'clock", "12 o'clock"}, {270, false, "3 o'clock", "9 o'clock"},
		{0, true, "12 o'clock", "6 o'clock"}, {90, true, "3 o'clock", "9 o'clock"}, {180, true, "6 o'clock", "12 o'clock"}, {270, true, "9 o'clock", "3 o'clock"},
		{255, false, "3:30", "9:30"}, {110, false, "8:20", "2:20"}, {360, false, "12 o'clock", "6 o'clock"}, {-90, false, "3 o'clock", "9 o'clock"}, {359.9, false, "12 o'clock", "6 o'clock"},
	} {
		if got := Say(c.az, c.left, ClockBack); got != c.back {
			t.Errorf("%g, left %v, 12 at the back: %s, want %s", c.az, c.left, got, c.back)
		}
		if got := Say(c.az, c.left, ClockThrow); got != c.throw {
			t.Errorf("%g, left %v, 12 at the throw: %s, want %s", c.az, c.left, got, c.throw)
		}
	}
	for az := -720.0; az <= 720; az += 7.5 {
		// The formula 12 - az/30 and its three sisters, modulo 12.
		for _, left := range []bool{false, true} {
			sign := -1.0
			if left {
				sign = 1
			}
			for l, at := range map[Language]float64{ClockBack: 12, ClockThrow: 6} {
				d := math.Mod(Hour(az, left, l)-(at+sign*az/30), 12)
				if math.Abs(d) > 1e-9 && math.Abs(math.Abs(d)-12) > 1e-9 {
					t.Errorf("%g, left %v, %s: %g", az, left, l, Hour(az, left, l))
				}
			}
		}
	}
	if got := Say(-90, false, Degrees); got != "270°" {
		t.Errorf("-90 is %s", got)
	}
	if got := Say(97.5, true, ""); got != "97.5°" {
		t.Errorf("without a choice: %s", got)
	}
}

func TestFill(t *testing.T) {
	text := []byte("between {az 210} and {az 255}, not {az x} or {lo: 3}")
	if got := string(Fill(text, false, ClockBack)); got != "between 5 o'clock and 3:30, not {az x} or {lo: 3}" {
		t.Error(got)
	}
	if got := string(Fill(text, false, Degrees)); got != "between 210° and 255°, not {az x} or {lo: 3}" {
		t.Error(got)
	}
}

// An azimuth is told without whole turns, about the middle of the band it is held
// against.
func TestNear(t *testing.T) {
	at := func(v float64) *float64 { return &v }
	for _, c := range []struct {
		az   float64
		band uncertainty.Band
		want float64
	}{
		{-20, uncertainty.Band{}, 340}, {755, uncertainty.Band{}, 35}, {358, uncertainty.Band{Lo: at(-70), Hi: at(5)}, -2}, {800, uncertainty.Band{Lo: at(60), Hi: at(110)}, 80},
		{350, uncertainty.Band{Hi: at(30)}, -10}, {170, uncertainty.Band{Lo: at(150), Hi: at(197)}, 170}, {-185, uncertainty.Band{Lo: at(150), Hi: at(197)}, 175},
	} {
		if got := Near(c.az, c.band); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%g in %+v is %g, want %g", c.az, c.band, got, c.want)
		}
	}
	if got := Spoken([]float64{89.6, 180.2}, false, ClockBack); got[0] != "9 o'clock" || got[1] != "6 o'clock" {
		t.Errorf("%v", got)
	}
}

package mark

import (
	"math"
	"testing"
)

// Feet and inches by definition (international yard and pound agreement, 1959);
// 182 ft 6 in is 55.62 m, the rule rounds down to the centimetre.
func TestMarks(t *testing.T) {
	for text, want := range map[string]float64{
		"58.40 m": 58.40, "58,40": 58.40, "8.95m": 8.95, "182-6": 55.626, "182 ft 6 in": 55.626, "182' 6\"": 55.626, "17' 3 1/4\"": 17*Foot + 3.25*Inch, "6 ft": 1.8288, "29-4.5": 29*Foot + 4.5*Inch, "29' 4½": -1,
		"no height": -1, "": -1, "11.34 s": -1, "60 m 7.41 s": -1, "0": -1, "5-13": -1, "x": -1, "-3": -1,
	} {
		got, ok := Parse(text)
		if ok != (want > 0) || ok && math.Abs(got-want) > 1e-9 {
			t.Errorf("%q is %g, %v; want %g", text, got, ok, want)
		}
	}
	if got := Metric(55.626); got != "55.62 m" {
		t.Errorf("55.626 m is %s", got)
	}
	if got := Metric(8.95); got != "8.95 m" {
		t.Errorf("8.95 m is %s", got)
	}
	if got := Imperial(55.626); got != "182 ft 6 in" {
		t.Errorf("55.626 m is %s", got)
	}
	if got := Imperial(17*Foot + 3.3*Inch); got != "17 ft 3 1/4 in" {
		t.Errorf("%s", got)
	}
	// There and back for every quarter inch of a long jump.
	for q := 4 * 12 * 10; q < 4*12*29; q++ {
		m := float64(q) * Inch / 4
		back, ok := Parse(Imperial(m))
		if !ok || math.Abs(back-m) > 1e-9 {
			t.Fatalf("%g m is %s, which is %g m", m, Imperial(m), back)
		}
	}
}

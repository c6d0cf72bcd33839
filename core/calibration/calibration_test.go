package calibration

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat"
)

func TestLineAgainstSimulatedPlacing(t *testing.T) {
	l := Line{AX: 100, AY: 200, BX: 400, BY: 600, Metres: 2}
	s, err := FromLine(l, 2)
	if err != nil || math.Abs(s.MetresPerPixel.Value-0.004) > 1e-12 || s.From != "line" {
		t.Fatalf("%+v %v", s, err)
	}
	r := rand.New(rand.NewPCG(5, 6))
	xs := make([]float64, 40000)
	for i := range xs {
		j := l
		j.AX, j.AY, j.BX, j.BY = j.AX+2*r.NormFloat64(), j.AY+2*r.NormFloat64(), j.BX+2*r.NormFloat64(), j.BY+2*r.NormFloat64()
		v, err := FromLine(j, 2)
		if err != nil {
			t.Fatal(err)
		}
		xs[i] = v.MetresPerPixel.Value
	}
	if sd := stat.StdDev(xs, nil); math.Abs(s.MetresPerPixel.SD/sd-1) > 0.02 {
		t.Errorf("formula %v, simulated %v", s.MetresPerPixel.SD, sd)
	}
}

func TestBadScales(t *testing.T) {
	for _, l := range []Line{{Metres: 1}, {BX: 5, Metres: 1}, {BX: 100}, {BX: 100, Metres: -2}, {BX: 100, Metres: 900}, {BX: 100, Metres: math.NaN()}} {
		if _, err := FromLine(l, 2); err == nil {
			t.Errorf("%+v was taken", l)
		}
	}
	if _, err := FromLimbs([]float64{0, 0}, []float64{0.4, 0.4}); err == nil {
		t.Error("a scale from nothing")
	}
	s, err := FromLimbs([]float64{100, 0, 110}, []float64{0.42, 0.43, 0.43})
	if err != nil || math.Abs(s.MetresPerPixel.Value-0.85/210) > 1e-12 {
		t.Errorf("limbs that are not seen must not count: %+v %v", s, err)
	}
}

// A limb of which a joint was seen wrongly does not set the scale, and limbs that disagree
// widen its doubt.
func TestALimbThatIsFarOffIsLeftOut(t *testing.T) {
	known := []float64{0.42, 0.42, 0.43, 0.43}
	even, err := FromLimbs([]float64{100, 101, 103, 102}, known)
	if err != nil {
		t.Fatal(err)
	}
	wild, err := FromLimbs([]float64{100, 101, 190, 102}, known)
	if err != nil || math.Abs(wild.MetresPerPixel.Value/even.MetresPerPixel.Value-1) > 0.02 {
		t.Errorf("with one limb of twice its length %v, else %v (%v)", wild.MetresPerPixel, even.MetresPerPixel, err)
	}
	apart, err := FromLimbs([]float64{90, 110, 92, 112}, known)
	if err != nil || apart.MetresPerPixel.SD < 1.5*even.MetresPerPixel.SD {
		t.Errorf("limbs apart by a fifth give %v, limbs that agree %v (%v)", apart.MetresPerPixel, even.MetresPerPixel, err)
	}
}

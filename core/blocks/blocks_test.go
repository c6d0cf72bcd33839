package blocks

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat"
)

// The worked example: thigh 0.44, shank 0.43, hip 0.21 ahead of and 0.605 above
// the ankle. Knee 94.8 degrees; 2.5 cm towards the line 93.3; 90 needs 9.8 cm.
const thigh, shank, ahead, above = 0.44, 0.43, 0.21, 0.605

func TestWorkedExample(t *testing.T) {
	for _, c := range []struct{ got, want, tolerance float64 }{
		{Knee(thigh, shank, ahead, above, 0), 94.8, 0.05},
		{Knee(thigh, shank, ahead, above, 0.025), 93.3, 0.05},
	} {
		if math.Abs(c.got-c.want) > c.tolerance {
			t.Errorf("knee %v, want %v", c.got, c.want)
		}
	}
	s, err := Shift(thigh, shank, ahead, above, 90)
	if err != nil || math.Abs(s-0.098) > 0.0005 {
		t.Errorf("shift %v %v, want 0.098", s, err)
	}
}

func TestShiftIsTheInverseOfKnee(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 500 {
		x, y := 0.02+0.5*r.Float64(), 0.4+0.25*r.Float64()
		if math.Hypot(x, y) > thigh+shank {
			continue
		}
		s := (r.Float64()*2 - 1) * x * 0.9
		wanted := Knee(thigh, shank, x, y, s)
		if math.IsNaN(wanted) {
			continue
		}
		got, err := Shift(thigh, shank, x, y, wanted)
		if err != nil || math.Abs(got-s) > 1e-9 {
			t.Fatalf("x %v y %v s %v: got %v %v", x, y, s, got, err)
		}
	}
}

// direct takes five independent lengths.
func direct(v []float64) Geometry { return Geometry{v[0], v[1], v[2], v[3], v[4]} }

// TestScaleErrorCancelsInAngles: when only the scale is in doubt, the knee angle
// is sure though every length is not.
func TestScaleErrorCancelsInAngles(t *testing.T) {
	scaled := func(v []float64) Geometry {
		return Geometry{v[0] * thigh, v[0] * shank, v[0] * ahead, v[0] * above, v[0] * 0.28}
	}
	w := Ask([]float64{1}, []float64{0.05}, scaled, true, 0.025, 90)
	if w.KneeNow.SD > 1e-6 || math.Abs(w.Thigh.SD-0.05*thigh) > 1e-9 || w.ShiftFor == nil || math.Abs(w.ShiftFor.SD-0.05*0.0983) > 1e-4 {
		t.Errorf("%+v", w)
	}
}

func TestOutOfReach(t *testing.T) {
	if _, err := Shift(thigh, shank, ahead, above, 70); err == nil {
		t.Error("70 degrees cannot be reached with the hips this high")
	}
	if k := Knee(thigh, shank, ahead, above, -0.7); !math.IsNaN(k) {
		t.Errorf("the leg cannot span that: %v", k)
	}
	w := Ask([]float64{thigh, shank, ahead, above, 0.3}, make([]float64, 5), direct, true, -0.7, 70)
	if w.KneeThen != nil || w.ShiftFor != nil || w.Cannot == "" {
		t.Errorf("%+v", w)
	}
}

func TestAskMovesSpacingAndFoot(t *testing.T) {
	x, sd := []float64{thigh, shank, ahead, above, 0.28}, []float64{0.005, 0.005, 0.008, 0.008, 0.01}
	f := Ask(x, sd, direct, true, 0.025, 92)
	if math.Abs(f.SpacingAt.Value-0.305) > 1e-12 || math.Abs(f.UnderHip.Value-0.185) > 1e-12 || math.Abs(f.Change.Value+1.5) > 0.1 {
		t.Errorf("front pedal: %+v", f)
	}
	if r := Ask(x, sd, direct, false, 0.025, 92); math.Abs(r.SpacingAt.Value-0.255) > 1e-12 {
		t.Errorf("rear pedal forward brings them together: %+v", r.SpacingAt)
	}
	// The stated doubt of the change agrees with simulated legs.
	rnd := rand.New(rand.NewPCG(9, 10))
	xs := make([]float64, 30000)
	for i := range xs {
		a, b := thigh+0.005*rnd.NormFloat64(), shank+0.005*rnd.NormFloat64()
		x, y := ahead+0.008*rnd.NormFloat64(), above+0.008*rnd.NormFloat64()
		xs[i] = Knee(a, b, x, y, 0.025) - Knee(a, b, x, y, 0)
	}
	if sd := stat.StdDev(xs, nil); math.Abs(f.Change.SD/sd-1) > 0.05 {
		t.Errorf("doubt of the change %v, simulated %v", f.Change.SD, sd)
	}
}

package uncertainty

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat"
)

func ptr(v float64) *float64 { return &v }

func TestJudgeUsesTheWholeInterval(t *testing.T) {
	band := Band{Lo: ptr(85), Hi: ptr(100)}
	for _, c := range []struct {
		x, half float64
		want    Verdict
	}{
		{92, 5, Met}, {92, 8, Open}, {101, 5, Open}, {110, 5, Missed}, {78, 3, Missed}, {84, 3, Open}, {100, 0, Met}, {100.1, 0, Missed},
	} {
		if got := band.Judge(Estimate{Value: c.x, Half95: c.half}); got != c.want {
			t.Errorf("%v ± %v in 85 to 100: %s, want %s", c.x, c.half, got, c.want)
		}
	}
	if got := (Band{Hi: ptr(0)}).Judge(Estimate{Value: -9, Half95: 4}); got != Met {
		t.Errorf("one-sided band: %s", got)
	}
	if got := (Band{}).Judge(Estimate{Value: 3, Half95: 1}); got != Met {
		t.Errorf("no band: %s", got)
	}
}

// TestSpanIsTriangular: two moments uniform within a frame interval differ by a
// triangular error of standard deviation dt/sqrt(6) that never exceeds dt.
func TestSpanIsTriangular(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	const dt = 1.0 / 30
	errs := make([]float64, 200000)
	largest := 0.0
	for i := range errs {
		errs[i] = (r.Float64() - r.Float64()) * dt
		largest = math.Max(largest, math.Abs(errs[i]))
	}
	v := FrameInterval(0.1, dt)
	if got := stat.StdDev(errs, nil); math.Abs(got/v.SD-1) > 0.01 {
		t.Errorf("simulated sd %v, formula %v", got, v.SD)
	}
	if lo, hi := v.Interval(); largest > v.Half95 || math.Abs(lo-0.0667) > 1e-4 || math.Abs(hi-0.1333) > 1e-4 {
		t.Errorf("0.10 s at 30/s must read 0.07 to 0.13 s, got %v to %v", lo, hi)
	}
}

func TestPropagateOfKnownFunctions(t *testing.T) {
	v := Propagate(func(x []float64) float64 { return 3*x[0] - 4*x[1] + x[2] }, []float64{1, 2, 3}, []float64{1, 1, 0})
	if math.Abs(v.SD-5) > 1e-9 || math.Abs(v.Value+2) > 1e-12 {
		t.Errorf("linear function: %+v, want -2 with sd 5", v)
	}
	p := Propagate(func(x []float64) float64 { return x[0] * x[1] }, []float64{10, 20}, []float64{0.1, 0.4})
	if want := math.Hypot(20*0.1, 10*0.4); math.Abs(p.SD-want) > 1e-9 {
		t.Errorf("product: sd %v, want %v", p.SD, want)
	}
}

func TestDifferences(t *testing.T) {
	a, b := Normal(10, 3), Normal(4, 4)
	if d := Minus(a, b); d.Value != 6 || d.SD != 5 || math.Abs(d.Half95-5*Z95) > 1e-12 {
		t.Errorf("difference %+v", d)
	}
	if s := SmallestRealDifference(a, b); math.Abs(s-9.8) > 0.01 {
		t.Errorf("smallest real difference %v, want 1.96*5", s)
	}
	if s := Normal(2, 1).Scale(-3); s.Value != -6 || s.SD != 3 || s.Half95 < 0 {
		t.Errorf("scaled %+v", s)
	}
}

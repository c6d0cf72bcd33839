package signal

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"testing"

	"gonum.org/v1/gonum/interp"
)

// Against scipy.signal.butter and filtfilt; the table was made by
// figures/reference/scipy_smooth.py --table with SciPy 1.10.
func TestLowPassAgainstSciPy(t *testing.T) {
	raw, err := os.ReadFile("testdata/scipy.json")
	if err != nil {
		t.Fatal(err)
	}
	var cases []struct {
		Rate, Cutoff float64
		X, Want      []float64
	}
	if err := json.Unmarshal(raw, &cases); err != nil || len(cases) < 4 {
		t.Fatalf("%d cases, %v", len(cases), err)
	}
	for _, c := range cases {
		got, _, err := LowPass(c.X, c.X, c.Rate, c.Cutoff)
		if err != nil {
			t.Fatal(err)
		}
		for i, v := range got {
			if math.Abs(v-c.Want[i]) > 1e-8 {
				t.Fatalf("%g/s, %g Hz: sample %d is %.9f, SciPy says %.9f", c.Rate, c.Cutoff, i, v, c.Want[i])
			}
		}
	}
}

// At the cut-off the zero-lag filter passes 1/sqrt(2) of a wave, and shifts
// nothing.
func TestCutoffIsMinusThreeDecibels(t *testing.T) {
	const rate, cut, n = 240.0, 8.0, 2400
	x := make([]float64, n)
	for i := range x {
		x[i] = math.Sin(2 * math.Pi * cut * float64(i) / rate)
	}
	y, _, err := LowPass(x, x, rate, cut)
	if err != nil {
		t.Fatal(err)
	}
	var top float64
	for i := n / 3; i < 2*n/3; i++ {
		top = math.Max(top, y[i])
		if math.Abs(y[i]-x[i]/math.Sqrt2) > 0.01 {
			t.Fatalf("sample %d: %.4f of %.4f", i, y[i], x[i])
		}
	}
	if math.Abs(top-1/math.Sqrt2) > 0.003 {
		t.Errorf("gain %.4f", top)
	}
}

func TestLowPassRefusesAbsurdCutoffs(t *testing.T) {
	for _, c := range [][2]float64{{0, 5}, {30, 0}, {30, 14}, {30, math.NaN()}} {
		if _, _, err := LowPass(make([]float64, 20), make([]float64, 20), c[0], c[1]); err == nil {
			t.Errorf("rate %g, cut-off %g were taken", c[0], c[1])
		}
	}
	if y, _, err := LowPass([]float64{1, 5, 2}, []float64{1, 5, 2}, 30, 5); err != nil || y[1] != 5 {
		t.Errorf("a short series: %v %v", y, err)
	}
}

// Residual analysis on a slow movement with known noise: the noise comes out, and
// smoothing brings the series nearer to the truth than any look at single frames.
func TestCutoffByResiduals(t *testing.T) {
	const rate, n = 240.0, 480
	r := rand.New(rand.NewPCG(8, 8))
	truth, x := make([]float64, n), make([]float64, n)
	for i := range x {
		s := float64(i) / rate
		truth[i] = 200*s + 60*math.Sin(2*math.Pi*1.5*s) + 8*math.Sin(2*math.Pi*4*s)
		x[i] = truth[i] + 2*r.NormFloat64()
	}
	cut, noise := Cutoff(rate, x, x)
	if cut < 4 || cut > 12 || math.Abs(noise-2) > 0.3 {
		t.Errorf("cut-off %.1f, noise %.2f", cut, noise)
	}
	y, _, _ := LowPass(x, x, rate, cut)
	var before, after float64
	for i := range x {
		before, after = before+(x[i]-truth[i])*(x[i]-truth[i]), after+(y[i]-truth[i])*(y[i]-truth[i])
	}
	if after > before/6 {
		t.Errorf("square error %.0f before, %.0f after", before, after)
	}
}

// A fall filmed at 240/s with hand scatter gives g within its own doubt: twice
// differentiated after smoothing, averaged over the fall.
func TestFallGivesG(t *testing.T) {
	const rate, n, g, sigma = 240.0, 200, 9.80665, 0.004
	r := rand.New(rand.NewPCG(3, 5))
	var means []float64
	for range 30 {
		y := make([]float64, n)
		for i := range y {
			s := float64(i) / rate
			y[i] = 4 - g*s*s/2 + sigma*r.NormFloat64()
		}
		cut, _ := Cutoff(rate, y, y)
		s, _, _ := LowPass(y, y, rate, cut)
		a := Derivative(Derivative(s, rate), rate)
		var mean float64
		for i := 20; i < n-20; i++ {
			mean -= a[i] / (n - 40)
		}
		means = append(means, mean)
	}
	var m, v float64
	for _, x := range means {
		m += x / float64(len(means))
	}
	for _, x := range means {
		v += (x - m) * (x - m) / float64(len(means)-1)
	}
	if math.Abs(m-g) > 2*math.Sqrt(v/float64(len(means)))+0.02 {
		t.Errorf("g = %.3f ± %.3f", m, math.Sqrt(v))
	}
}

func BenchmarkCutoffOf1000Frames(b *testing.B) {
	x, y := make([]float64, 1000), make([]float64, 1000)
	for i := range x {
		x[i], y[i] = math.Sin(float64(i)/20), math.Cos(float64(i)/33)
	}
	for b.Loop() {
		Cutoff(240, x, y)
	}
}

// Through its points, without overshoot, and close to gonum's curve of the same
// kind between them.
func TestMonotone(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 1))
	var ts, xs []float64
	at := 0.0
	for range 40 {
		at += 0.5 + 3*r.Float64()
		ts, xs = append(ts, at), append(xs, 100*r.Float64())
	}
	m := NewMonotone(ts, xs)
	var theirs interp.FritschButland
	if err := theirs.Fit(ts, xs); err != nil {
		t.Fatal(err)
	}
	for i := 1; i < len(ts); i++ {
		if math.Abs(m.At(ts[i])-xs[i]) > 1e-9 {
			t.Errorf("point %d: %.4f of %.4f", i, m.At(ts[i]), xs[i])
		}
		for k := range 8 {
			a := ts[i-1] + (ts[i]-ts[i-1])*float64(k)/8
			v := m.At(a)
			if v < math.Min(xs[i-1], xs[i])-1e-9 || v > math.Max(xs[i-1], xs[i])+1e-9 {
				t.Errorf("overshoot at %.2f: %.3f between %.3f and %.3f", a, v, xs[i-1], xs[i])
			}
			if i > 1 && i < len(ts)-1 && math.Abs(v-theirs.Predict(a)) > 1e-6 {
				t.Errorf("at %.2f: %.6f, gonum says %.6f", a, v, theirs.Predict(a))
			}
		}
	}
	if two := NewMonotone([]float64{1, 3}, []float64{2, 6}); two.At(2) != 4 {
		t.Errorf("two points: %g", two.At(2))
	}
}

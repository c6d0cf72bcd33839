package signal

import (
	"math"
	"sort"
)

// Monotone is a cubic through points that does not overshoot: Fritsch and Butland
// 1984, SIAM J. Sci. Stat. Comput. 5:300. It stands here because gonum's interp
// brings all of its linear algebra into the browser.
type Monotone struct{ t, x, slope []float64 }

// NewMonotone makes the curve; t must grow strictly and hold at least two values.
func NewMonotone(t, x []float64) Monotone {
	n := len(t)
	m := Monotone{t, x, make([]float64, n)}
	secant := func(i int) float64 { return (x[i+1] - x[i]) / (t[i+1] - t[i]) }
	for i := 1; i < n-1; i++ {
		a, b := secant(i-1), secant(i)
		if a*b <= 0 {
			continue // a turn: level
		}
		h0, h1 := t[i]-t[i-1], t[i+1]-t[i]
		w := (h0 + 2*h1) / (3 * (h0 + h1))
		m.slope[i] = a * b / (w*b + (1-w)*a)
	}
	if n == 2 {
		m.slope[0], m.slope[1] = secant(0), secant(0)
		return m
	}
	m.slope[0] = end(t[1]-t[0], t[2]-t[1], secant(0), secant(1))
	m.slope[n-1] = end(t[n-1]-t[n-2], t[n-2]-t[n-3], secant(n-2), secant(n-3))
	return m
}

// end is the slope at an end, by three points, held so that nothing overshoots.
func end(h0, h1, a, b float64) float64 {
	d := ((2*h0+h1)*a - h0*b) / (h0 + h1)
	switch {
	case d*a <= 0:
		return 0
	case a*b <= 0 && math.Abs(d) > 3*math.Abs(a):
		return 3 * a
	}
	return d
}

// At is the value at a place between the first and the last point.
func (m Monotone) At(at float64) float64 {
	i := sort.SearchFloat64s(m.t, at)
	i = min(max(i, 1), len(m.t)-1) - 1
	h := m.t[i+1] - m.t[i]
	s := (at - m.t[i]) / h
	s2, s3 := s*s, s*s*s
	return (2*s3-3*s2+1)*m.x[i] + (s3-2*s2+s)*h*m.slope[i] + (3*s2-2*s3)*m.x[i+1] + (s3-s2)*h*m.slope[i+1]
}

// Package signal smooths and differentiates series sampled at a steady rate.
package signal

import (
	"errors"
	"math"
	"slices"
)

// biquad is a second-order section, b0 = b2 = b1/2 for a low pass, a0 = 1.
type biquad struct{ b0, b1, b2, a1, a2 float64 }

// butterworth designs the 2nd-order low pass by the bilinear transform with
// pre-warping (Winter, Biomechanics and Motor Control of Human Movement, gives
// the same coefficients).
func butterworth(cutoff, rate float64) biquad {
	w := math.Tan(math.Pi * cutoff / rate)
	n := 1 / (1 + math.Sqrt2*w + w*w)
	b0 := w * w * n
	return biquad{b0, 2 * b0, b0, 2 * (w*w - 1) * n, (1 - math.Sqrt2*w + w*w) * n}
}

// passCorrection makes up for filtering twice, so that the zero-lag filter has
// -3 dB at the wanted cut-off: (2^(1/2) - 1)^(1/4).
var passCorrection = math.Pow(math.Sqrt2-1, 0.25)

// edge is how many samples each end is prolonged by turning it about its last
// value: three times the filter's length, as is usual.
const edge = 9

// pass filters two series in place at once (their recursions do not wait for each
// other), forwards or backwards, beginning in the steady state of the first value
// (transposed direct form II).
func (q biquad) pass(x, y []float64, first, step int) {
	last := len(x) - 1 - first
	x2 := (q.b2 - q.a2) * x[first]
	y2 := (q.b2 - q.a2) * y[first]
	x1 := (q.b1-q.a1)*x[first] + x2
	y1 := (q.b1-q.a1)*y[first] + y2
	for i := first; ; i += step {
		v, w := x[i], y[i]
		a, b := q.b0*v+x1, q.b0*w+y1
		x1, y1 = q.b1*v-q.a1*a+x2, q.b1*w-q.a1*b+y2
		x2, y2 = q.b2*v-q.a2*a, q.b2*w-q.a2*b
		x[i], y[i] = a, b
		if i == last {
			return
		}
	}
}

// LowPass is the zero-lag 4th-order Butterworth low pass of two series of one
// length: 2nd order forward and back, cut-off corrected for the second pass. Rate
// and cut-off per second; the cut-off must lie below half the rate divided by the
// correction of 0.802. The input is kept. Series of up to 9 samples come back as
// they are.
func LowPass(x, y []float64, rate, cutoff float64) (sx, sy []float64, err error) {
	if !(rate > 0) || !(cutoff > 0) || cutoff/passCorrection >= rate/2 {
		return nil, nil, errors.New("the cut-off must lie above 0 and well below half the sampling rate")
	}
	if len(x) <= edge {
		return slices.Clone(x), slices.Clone(y), nil
	}
	px, py := prolonged(x), prolonged(y)
	lowPass(px, py, butterworth(cutoff/passCorrection, rate))
	return px[edge : edge+len(x)], py[edge : edge+len(y)], nil
}

// prolonged is a series with both ends turned about their last values.
func prolonged(x []float64) []float64 {
	n := len(x)
	out := make([]float64, n+2*edge)
	for i := range edge {
		out[i] = 2*x[0] - x[edge-i]
		out[edge+n+i] = 2*x[n-1] - x[n-2-i]
	}
	copy(out[edge:], x)
	return out
}

func lowPass(x, y []float64, q biquad) {
	q.pass(x, y, 0, 1)
	q.pass(x, y, len(x)-1, -1)
}

// Bounds of a cut-off for landmarks of running and throwing athletes, per
// second. The residual analysis chooses between them; common practice.
const (
	lowestCutoff  = 4
	highestCutoff = 24
	cutoffs       = 11
	allMovement   = 45 // per second; feet that land and leave have parts up to 10 to 15 a second
)

// Cutoff chooses the cut-off of [LowPass] by residual analysis (Winter): the
// residual falls along a straight line where only noise is cut; that line,
// prolonged to 0 Hz, tells the noise, and the wanted cut-off is where the
// residual is as large. Both coordinates of a landmark are taken together. Noise
// is the standard deviation of the cut part, per coordinate.
func Cutoff(rate float64, x, y []float64) (cutoff, noise float64) {
	top := math.Min(highestCutoff, 0.38*rate)
	low := math.Min(lowestCutoff, top/2)
	if len(x) <= edge {
		return top, 0
	}
	px, py := prolonged(x), prolonged(y)
	a, b := make([]float64, len(px)), make([]float64, len(py))
	at := func(k int) float64 { return low + (top-low)*float64(k)/(cutoffs-1) }
	residual := func(k int) float64 {
		copy(a, px)
		copy(b, py)
		lowPass(a, b, butterworth(at(k)/passCorrection, rate))
		var sum float64
		for i := range x {
			dx, dy := x[i]-a[edge+i], y[i]-b[edge+i]
			sum += dx*dx + dy*dy
		}
		return math.Sqrt(sum / float64(2*len(x)))
	}
	if rate < allMovement {
		// So few pictures a second hold movement up to the end: as little is cut as can be,
		// and what is cut is the share of white noise above it.
		return top, residual(cutoffs-1) / math.Sqrt(1-2*top/rate)
	}
	// The upper third of the cut-offs cuts noise only.
	var sf, sr, sff, sfr, m float64
	for k := cutoffs * 2 / 3; k < cutoffs; k++ {
		f, r := at(k), residual(k)
		sf, sr, sff, sfr, m = sf+f, sr+r, sff+f*f, sfr+f*r, m+1
	}
	slope := (m*sfr - sf*sr) / (m*sff - sf*sf)
	at0 := (sr - slope*sf) / m
	before := residual(0)
	for k := 1; k < cutoffs; k++ {
		r := residual(k)
		if r <= at0 {
			share := (before - at0) / math.Max(before-r, 1e-12)
			return at(k-1) + math.Min(1, math.Max(0, share))*(at(k)-at(k-1)), at0
		}
		before = r
	}
	return top, at0
}

// Derivative is the rate of change per second by central differences, one-sided
// at the ends.
func Derivative(x []float64, rate float64) []float64 {
	out := make([]float64, len(x))
	for i := range x {
		a, b := max(0, i-1), min(len(x)-1, i+1)
		if b > a {
			out[i] = (x[b] - x[a]) * rate / float64(b-a)
		}
	}
	return out
}

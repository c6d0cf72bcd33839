// Package signal smooths and differentiates series sampled at a steady rate.
package signal

import (
	"errors"
	"math"
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

// run filters in place, beginning in the steady state of the first value.
func (q biquad) run(x []float64) {
	// Steady state of the transposed direct form II for a constant input.
	z2 := (q.b2 - q.a2) * x[0]
	z1 := (q.b1-q.a1)*x[0] + z2
	for i, v := range x {
		y := q.b0*v + z1
		z1 = q.b1*v - q.a1*y + z2
		z2 = q.b2*v - q.a2*y
		x[i] = y
	}
}

func reverse(x []float64) {
	for i, j := 0, len(x)-1; i < j; i, j = i+1, j-1 {
		x[i], x[j] = x[j], x[i]
	}
}

// LowPass is the zero-lag 4th-order Butterworth low pass: 2nd order forward and
// back, cut-off corrected for the second pass. Rate and cut-off per second; the
// cut-off must lie below half the rate divided by the correction of 0.802. The
// input is kept. Series of up to 9 samples come back as they are.
func LowPass(x []float64, rate, cutoff float64) ([]float64, error) {
	if !(rate > 0) || !(cutoff > 0) || cutoff/passCorrection >= rate/2 {
		return nil, errors.New("the cut-off must lie above 0 and well below half the sampling rate")
	}
	out := append([]float64(nil), x...)
	if len(x) > edge {
		lowPass(out, make([]float64, len(x)+2*edge), butterworth(cutoff/passCorrection, rate))
	}
	return out, nil
}

func lowPass(x, room []float64, q biquad) {
	n := len(x)
	pad := room[:n+2*edge]
	for i := range edge {
		pad[i] = 2*x[0] - x[edge-i]
		pad[edge+n+i] = 2*x[n-1] - x[n-2-i]
	}
	copy(pad[edge:], x)
	q.run(pad)
	reverse(pad)
	q.run(pad)
	reverse(pad)
	copy(x, pad[edge:])
}

// Bounds of a cut-off for landmarks of running and throwing athletes, per
// second. The residual analysis chooses between them; common practice.
const (
	lowestCutoff  = 4
	highestCutoff = 24
	cutoffs       = 11
)

// Cutoff chooses the cut-off of [LowPass] by residual analysis (Winter): the
// residual falls along a straight line where only noise is cut; that line,
// prolonged to 0 Hz, tells the noise, and the wanted cut-off is where the
// residual is as large. Several series (x and y of a landmark) are taken
// together. Noise is the standard deviation of the cut part, per coordinate.
func Cutoff(rate float64, series ...[]float64) (cutoff, noise float64) {
	top := math.Min(highestCutoff, 0.38*rate)
	low := math.Min(lowestCutoff, top/2)
	var fs, rs [cutoffs]float64
	n := 0
	for _, x := range series {
		n += len(x)
	}
	if len(series) == 0 || len(series[0]) <= edge {
		return top, 0
	}
	a, room := make([]float64, len(series[0])), make([]float64, len(series[0])+2*edge)
	for k := range cutoffs {
		fs[k] = low + (top-low)*float64(k)/(cutoffs-1)
		q := butterworth(fs[k]/passCorrection, rate)
		var sum float64
		for _, x := range series {
			copy(a, x)
			lowPass(a[:len(x)], room, q)
			for i, v := range x {
				sum += (v - a[i]) * (v - a[i])
			}
		}
		rs[k] = math.Sqrt(sum / float64(n))
	}
	// The upper third of the cut-offs cuts noise only.
	var sf, sr, sff, sfr, m float64
	for k := cutoffs * 2 / 3; k < cutoffs; k++ {
		sf, sr, sff, sfr, m = sf+fs[k], sr+rs[k], sff+fs[k]*fs[k], sfr+fs[k]*rs[k], m+1
	}
	slope := (m*sfr - sf*sr) / (m*sff - sf*sf)
	at0 := (sr - slope*sf) / m
	for k := 1; k < cutoffs; k++ {
		if rs[k] <= at0 {
			share := (rs[k-1] - at0) / math.Max(rs[k-1]-rs[k], 1e-12)
			return fs[k-1] + math.Min(1, math.Max(0, share))*(fs[k]-fs[k-1]), at0
		}
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

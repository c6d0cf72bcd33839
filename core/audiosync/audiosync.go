// Package audiosync brings two clips of one attempt together by their sound.
package audiosync

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Errors of [Lag].
var (
	ErrSilent = errors.New("one of the two clips has no sound, or hardly any")
	ErrUnlike = errors.New("the sounds of the two clips do not fit together")
)

// hop is the step of loudness over time, s.
// A choice: a hundredth of what a frame at 120/s lasts does not show.
const hop = 0.001

// Loudness is the sound of a file as it is kept: the power in each millisecond since its
// first picture, a byte each, from 0 for silence and [softest] dB to 255 for full power.
type Loudness []byte

const softest = -100.0

// Listen takes samples from -1 to 1, rate times a second; first is when the first of them
// was, s of the file.
func Listen(samples []float64, rate, first float64) Loudness {
	n := int((first+float64(len(samples))/rate)/hop) + 1
	if n <= 0 || rate <= 0 {
		return nil
	}
	power := make([]float64, n)
	for i, v := range samples {
		if k := int((first + float64(i)/rate) / hop); k >= 0 && k < n {
			power[k] += v * v / (rate * hop)
		}
	}
	out := make(Loudness, n)
	for i, p := range power {
		if p > 0 {
			out[i] = byte(math.Round(255 * min(1, max(0, 1-10*math.Log10(p)/softest))))
		}
	}
	return out
}

// Onsets tells how suddenly a sound grows louder, in steps of a millisecond of true time,
// of which slow times as many pass in the file.
func (l Loudness) Onsets(slow float64) []float64 {
	if slow <= 0 {
		return nil
	}
	n := int(math.Ceil(float64(len(l)) / slow))
	power := make([]float64, n)
	for i, b := range l {
		if b > 0 {
			power[min(n-1, int(float64(i)/slow))] += math.Pow(10, softest*(1-float64(b)/255)/10) / slow
		}
	}
	var mean float64
	for _, p := range power {
		mean += p / float64(n)
	}
	out := make([]float64, n)
	if mean == 0 {
		return out
	}
	const wide = 3 // steps over which loudness is taken
	loud := func(k int) float64 {
		var s float64
		for j := k - wide; j < k; j++ {
			if j >= 0 && j < n {
				s += power[j]
			}
		}
		return math.Log(s/wide + 0.1*mean) // what is far below the mean is noise
	}
	for k := range out {
		out[k] = math.Max(0, loud(k+wide)-loud(k))
	}
	return out
}

// Of [Lag]: how much of the shorter sound the two must share at least, how much better
// the best place must fit than any other one, and how near to it others belong to it, s.
// Assumed; shaped on simulated clips.
const (
	sharedPart = 0.3
	distinct   = 1.15
	samePlace  = 0.03
)

// Lag is how much later the same sound stands in b than in a, s of true time, from
// onsets of both: the peak of their normalised cross-correlation, to a part of a step.
func Lag(a, b []float64) (float64, error) {
	n, m := len(a), len(b)
	power := func(v []float64) []float64 {
		sum := make([]float64, len(v)+1)
		for i, x := range v {
			sum[i+1] = sum[i] + x*x
		}
		return sum
	}
	pa, pb := power(a), power(b)
	if pa[n] == 0 || pb[m] == 0 {
		return 0, ErrSilent
	}
	// All products at once: by the transform of one times that of the other turned round.
	size := 1
	for size < n+m {
		size *= 2
	}
	fft := fourier.NewFFT(size)
	padded := func(v []float64) []complex128 {
		return fft.Coefficients(nil, append(append([]float64(nil), v...), make([]float64, size-len(v))...))
	}
	fa, fb := padded(a), padded(b)
	for k := range fa {
		fa[k] = fb[k] * complex(real(fa[k]), -imag(fa[k]))
	}
	products := fft.Sequence(nil, fa)
	least := int(sharedPart * float64(min(n, m)))
	all := make([]float64, n+m)
	for i := range all {
		d := i - n // b is moved to the left by d
		lo, hi := max(0, -d), min(n, m-d)
		if hi-lo < least || hi <= lo {
			continue
		}
		if e := (pa[hi] - pa[lo]) * (pb[hi+d] - pb[lo+d]); e > 0 {
			all[i] = products[(d+size)%size] / float64(size) / math.Sqrt(e)
		}
	}
	best := 0
	for i, v := range all {
		if v > all[best] {
			best = i
		}
	}
	second := 0.0
	for i, v := range all {
		if math.Abs(float64(i-best))*hop > samePlace {
			second = math.Max(second, v)
		}
	}
	if all[best] <= 0.2 || all[best] < distinct*second {
		return 0, ErrUnlike
	}
	at := float64(best - n)
	if best > 0 && best < len(all)-1 {
		l, c, r := all[best-1], all[best], all[best+1]
		if d := l - 2*c + r; d < 0 {
			at += (l - r) / (2 * d)
		}
	}
	return at * hop, nil
}

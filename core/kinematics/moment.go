package kinematics

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/linear"
)

// Search looks for the moment at which points come to rest or leave, in the
// points as they were placed: smoothing would wash the moment out.
type Search struct {
	Rate  float64 // frames per true second
	Sigma float64 // scatter of a point, px
	Drift r2.Vec  // how what rests moves against the common frame, px/s: a belt
}

// Ways of a moment.
const (
	Rests  = -1 // moving before, still after
	Leaves = 1  // still before, moving after
)

// windows of the movement before coming to rest or after leaving, and the error
// that a parabola makes over them, s; tuned on the simulated athlete.
var windows = []struct{ reach, bias float64 }{{0.08, 0.02}, {0.05, 0.008}, {0.03, 0.002}}

// inside is the stretch of rest that takes part, s.
const inside = 0.05

// Moment is when a point that rests over the frames a to b came to rest or left,
// in frames from the clip's start, with its standard deviation. A point at rest
// that moves along a parabola from the moment on (or up to it) is fitted by
// least squares, over a wide stretch of movement, which beats the scatter of
// points, and over narrow ones, in which a parabola is a better model; they are
// weighed by scatter and by that error. How sharply the fit worsens about the
// best moment is the doubt.
func (s Search) Moment(p *Path, a, b, way int) (at, sd float64) {
	guess := float64(b)
	if way == Rests {
		guess = float64(a)
	}
	var sum, weight float64
	for _, w := range windows {
		r := math.Max(3, w.reach*s.Rate)
		lo, hi := guess-r, guess+inside*s.Rate
		if way == Leaves {
			lo, hi = guess-inside*s.Rate, guess+r
		}
		// Never past the far end of the rest.
		if way == Rests {
			hi = math.Min(hi, float64(b))
		} else {
			lo = math.Max(lo, float64(a))
		}
		best, sure, ok := s.best([]*Path{p}, int(math.Floor(lo)), int(math.Ceil(hi)), guess, r*0.7, r, way, false)
		if !ok {
			continue
		}
		v := 1 / (sure*sure + math.Pow(w.bias*s.Rate, 2) + 0.01)
		sum, weight = sum+v*best, weight+v
		guess = sum / weight
	}
	if weight == 0 {
		return guess, windows[0].reach * s.Rate / 2
	}
	return sum / weight, math.Sqrt(1 / weight)
}

// Onset is when several points that rest up to about a guess begin to move
// together, gently (from no speed), with its standard deviation; frames. Reach
// is how far about the guess to look, s.
func (s Search) Onset(paths []*Path, guess int, reach float64) (at, sd float64, ok bool) {
	r := math.Max(4, reach*s.Rate)
	return s.best(paths, guess-int(2*r), guess+int(r), float64(guess), r, r, Leaves, true)
}

// best finds the moment within span of a guess at which the paths fit best.
func (s Search) best(paths []*Path, lo, hi int, guess, span, r float64, way int, gentle bool) (at, sd float64, ok bool) {
	const step = 0.25
	var cs, es []float64
	best, count := 0, 0
	for c := guess - span; c <= guess+span; c += step {
		e := 0.0
		count = 0
		for _, p := range paths {
			m, n := s.misfit(p, lo, hi, c, r, way, gentle)
			e, count = e+m, count+n
		}
		cs, es = append(cs, c), append(es, e)
		if e < es[best] {
			best = len(es) - 1
		}
	}
	if count < 5 {
		return guess, span, false
	}
	at = cs[best]
	if best > 0 && best < len(cs)-1 {
		// Vertex of the parabola through the best three.
		l, m, h := es[best-1], es[best], es[best+1]
		if d := l - 2*m + h; d > 1e-12 {
			at += step * 0.5 * (l - h) / d
		}
	}
	noise := math.Max(s.Sigma*s.Sigma/4, es[best]/math.Max(1, float64(2*count-8)))
	// The misfit grows by one noise variance at one standard deviation.
	sd = span
	for k := 1; k < len(cs); k++ {
		l, h := best-k, best+k
		if (l < 0 || es[l] >= es[best]+noise) && (h >= len(es) || es[h] >= es[best]+noise) {
			sd = step * float64(k)
			break
		}
	}
	return at, sd, true
}

// misfit is the sum of squares when a point rests on one side of moment c and
// moves along a parabola on the other, joined at c (and beginning without speed
// when gentle); and the number of frames that count.
func (s Search) misfit(p *Path, lo, hi int, c, r float64, way int, gentle bool) (sum float64, frames int) {
	var n, m [9]float64
	var x, y [3]float64
	row := func(i int) [3]float64 {
		d := math.Max(0, (float64(i)-c)*float64(way)/r)
		if gentle {
			return [3]float64{1, d * d, d * d * d}
		}
		return [3]float64{1, d, d * d}
	}
	at := func(i int) (r2.Vec, bool) {
		q, ok := p.Seen(i)
		return r2.Sub(q, r2.Scale(float64(i)/s.Rate, s.Drift)), ok
	}
	for i := lo; i <= hi; i++ {
		q, ok := at(i)
		if !ok {
			continue
		}
		frames++
		v := row(i)
		for j := range v {
			for k := range v {
				n[3*j+k] += v[j] * v[k]
			}
			x[j] += v[j] * q.X
			y[j] += v[j] * q.Y
		}
	}
	// With hardly a frame on the moving side its parabola is not determined.
	for j := range 3 {
		n[4*j] += 1e-9
	}
	m = n
	_ = linear.Solve(n[:], x[:]) // positive definite
	_ = linear.Solve(m[:], y[:])
	for i := lo; i <= hi; i++ {
		q, ok := at(i)
		if !ok {
			continue
		}
		v := row(i)
		for j := range v {
			q.X -= v[j] * x[j]
			q.Y -= v[j] * y[j]
		}
		sum += q.X*q.X + q.Y*q.Y
	}
	return sum, frames
}

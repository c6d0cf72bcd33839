package throw

import (
	"math"

	"neokinema/core/linsolve"
)

// What leaves a hand goes on as it was going, but for the push that ends: its place and
// velocity are continuous and its acceleration is not. So the moment of a release is the one
// about which both sides fit best: each coordinate of the picture a parabola over the free
// frames, and before it that parabola and what the push adds, which grows with the square
// and the cube of the time to the release. On an orbit the push turns, and the fourth power
// comes to them.

// Time before the release that is looked at, s, and how finely moments are tried, frames.
// What is left when the path in the hand is no such curve is modelDoubt, s. Assumed; shaped
// on simulated throws of the lot that is there to build on.
const (
	heldSpan   = 0.06
	orbitSpan  = 0.04
	tryEach    = 0.2
	modelDoubt = 0.002
)

// leaving is the moment, in frames with fractions, at which the implement leaves, and its
// standard deviation. First is about the first free frame.
func (r FreeFlight) leaving(first int) (at, sd float64) {
	span, unknowns := heldSpan, 5
	if r.Orbit {
		span, unknowns = orbitSpan, 6
	}
	search := max(4, int(math.Ceil(span*r.Rate)))
	bestAt, bestCost := math.NaN(), math.Inf(1)
	type try struct{ at, cost float64 }
	var tries []try
	var free float64
	// The frames are the same for all moments, or their sums could not be compared.
	from, to := first-search-3, min(r.Frames, first+search+int(math.Ceil(freeSpan*r.Rate)))
	var t, u, v []float64
	for f := max(0, from); f < to; f++ {
		if q, _, ok := r.Pixel(f); ok {
			t, u, v = append(t, float64(f)), append(u, q.X), append(v, q.Y)
		}
	}
	for a := float64(first - 3); a <= float64(first+search); a += tryEach {
		cost, n, ok := bent(t, [2][]float64{u, v}, a, r.Rate, unknowns)
		if !ok {
			continue
		}
		tries, free = append(tries, try{a, cost}), float64(n)
		if cost < bestCost {
			bestAt, bestCost = a, cost
		}
	}
	if math.IsInf(bestCost, 1) || free < 2 {
		return float64(first) - 0.5, 2
	}
	noise := math.Max(bestCost/free, leastScatter*leastScatter)
	var sum, mean, square float64
	for _, x := range tries {
		w := math.Exp(-(x.cost - bestCost) / (2 * noise))
		sum, mean, square = sum+w, mean+w*(x.at-bestAt), square+w*(x.at-bestAt)*(x.at-bestAt)
	}
	mean, square = mean/sum, square/sum
	return bestAt + mean, math.Sqrt(math.Max(0, square-mean*mean) + modelDoubt*modelDoubt*r.Rate*r.Rate)
}

// leastScatter is what an implement's place in the picture scatters by at least, px.
const leastScatter = 0.3

// bent is the sum of squares about the curve of p unknowns that bends at a moment, and how
// many numbers it leaves free.
func bent(t []float64, xy [2][]float64, at, rate float64, p int) (cost float64, free int, ok bool) {
	before := 0
	for _, f := range t {
		if f < at {
			before++
		}
	}
	if before < leastBefore || len(t)-before < leastAfter {
		return 0, 0, false
	}
	rows := make([]float64, p*len(t))
	n := make([]float64, p*p)
	for k, f := range t {
		s := (f - at) / (rate * freeSpan)
		h := math.Max(0, (at-f)/(rate*heldSpan))
		row := rows[p*k : p*(k+1)]
		row[0], row[1], row[2] = 1, s, s*s
		for i, v := 3, h*h; i < p; i, v = i+1, v*h {
			row[i] = v
		}
		for i := range p {
			for j := range p {
				n[i*p+j] += row[i] * row[j]
			}
		}
	}
	for i := range p {
		n[i*(p+1)] += 1e-9
	}
	g, m := make([]float64, p), make([]float64, p*p)
	for _, x := range xy {
		clear(g)
		for k := range t {
			for i := range p {
				g[i] += rows[p*k+i] * x[k]
			}
		}
		copy(m, n)
		if linsolve.Solve(m, g) != nil {
			return 0, 0, false
		}
		for k := range t {
			d := x[k]
			for i := range p {
				d -= rows[p*k+i] * g[i]
			}
			cost += d * d
		}
	}
	return cost, 2*len(t) - 2*p - 1, true
}

// Frames that a bend needs before and after it.
const (
	leastBefore = 3
	leastAfter  = 5
)

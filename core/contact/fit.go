package contact

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
)

// How well standing explains the places of a foot: while it stands its toe stays, heel and
// ankle go on slowly and evenly; while it moves anything goes, at a fixed price a frame.

// Places are those of one point of a foot, frame by frame from 0 on, standing heights in
// the common frame; Sure is 0 where there is none.
type Places struct {
	At   []r2.Vec
	Sure []float64
}

// Shoe is one foot over a clip.
type Shoe struct {
	Side             body.Side
	Toe, Heel, Ankle Places
}

// What a standing foot does; standing heights and seconds. Assumed; shaped on the half of
// the hard set that is there to build on.
const (
	fitSD      = 0.014 // scatter of a sure point
	fitMost    = 3.0   // what a point may cost in one frame at most: then it is simply wrong
	fitMoving  = 1.6   // what a point of a moving foot costs in one frame
	fitToe     = 0.12  // speed of a standing toe, one standard deviation
	slowShare  = 0.28  // of the speed that a heel or an ankle has a tenth of the time: slower may be standing
	slowLeast  = 0.9
	slowMost   = 2.6
	slowLoss   = 0.8   // what a faster one speaks against it at the most
	speedOver  = 0.033 // s over which that is seen
	fitFar     = 0.03  // s for which errors of a draft hang together
	fitRate    = 60.0  // frames a second that are looked at: more tell no more
	leastSure  = 0.15
	fitRounds  = 2
	shareHeel  = 0.6
	mostFitted = 1500 // frames looked at: longer clips are looked at more coarsely
)

// point is one point of a shoe at the frames that are looked at.
type point struct {
	at    []r2.Vec
	sure  []float64
	share float64
}

// points are those of a shoe at every so many frames.
func (s Shoe) points(n, step int) (pts []point) {
	for _, q := range []struct {
		Places
		share float64
	}{{s.Toe, 1}, {s.Heel, shareHeel}, {s.Ankle, 1}} {
		p := point{make([]r2.Vec, n), make([]float64, n), q.share}
		for i := range n {
			if f := i * step; f < len(q.At) && q.Sure[f] > 0 {
				p.at[i], p.sure[i] = q.At[f], min(1, max(leastSure, q.Sure[f]))
			}
		}
		pts = append(pts, p)
	}
	return pts
}

// speeds are those of a point in each frame, standing heights a second; negative where
// nobody knows. Between few pictures a second it is the slower of the ways there and on:
// the first and the last moment of a contact stand, too.
func (p point) speeds(dt float64) []float64 {
	h := max(1, int(math.Round(speedOver/dt)))
	out := make([]float64, len(p.at))
	for i := range out {
		out[i] = -1
		if p.sure[i] == 0 {
			continue
		}
		var sides []float64
		for _, way := range []int{-1, 1} {
			for k := h; k > 0; k-- {
				if f := i + way*k; f >= 0 && f < len(p.at) && p.sure[f] > 0 {
					sides = append(sides, r2.Norm(r2.Sub(p.at[f], p.at[i]))/(float64(k)*dt))
					break
				}
			}
		}
		switch {
		case len(sides) == 1:
			out[i] = sides[0]
		case len(sides) == 2 && h == 1:
			out[i] = min(sides[0], sides[1])
		case len(sides) == 2:
			out[i] = (sides[0] + sides[1]) / 2
		}
	}
	return out
}

// slowOf is the speed up to which a heel or an ankle goes on over a foot that stands: the
// faster the run, the faster.
func slowOf(speeds []float64) float64 {
	var known []float64
	for _, v := range speeds {
		if v >= 0 {
			known = append(known, v)
		}
	}
	if len(known) == 0 {
		return slowLeast
	}
	sort.Float64s(known)
	return min(slowMost, max(slowLeast, slowShare*known[len(known)*9/10]))
}

// standingCost is what it costs to take frames i to j (excluded) for ones in which a toe
// stands.
func (p point) standingCost(i, j int, dt float64) (cost float64) {
	var t0 float64
	var x0, v r2.Vec
	for round := range fitRounds {
		// A line whose slope is likely to be small, through points by their weight.
		var sw, st float64
		var sx r2.Vec
		ws := make([]float64, j-i)
		for k := i; k < j; k++ {
			if p.sure[k] == 0 {
				continue
			}
			w := p.sure[k]
			if round > 0 {
				off := r2.Norm2(r2.Sub(p.at[k], r2.Add(x0, r2.Scale(float64(k)*dt-t0, v)))) / (fitSD * fitSD) * p.sure[k]
				w /= 1 + off/(2*fitMost)
			}
			ws[k-i] = w
			sw, st, sx = sw+w, st+w*float64(k)*dt, r2.Add(sx, r2.Scale(w, p.at[k]))
		}
		if sw == 0 {
			return 0
		}
		t0, x0 = st/sw, r2.Scale(1/sw, sx)
		var tt float64
		var tx r2.Vec
		for k := i; k < j; k++ {
			d := float64(k)*dt - t0
			tt, tx = tt+ws[k-i]*d*d, r2.Add(tx, r2.Scale(ws[k-i]*d, r2.Sub(p.at[k], x0)))
		}
		v = r2.Scale(1/(tt+(fitSD/fitToe)*(fitSD/fitToe)), tx)
	}
	cost = r2.Norm2(v) / (2 * fitToe * fitToe)
	for k := i; k < j; k++ {
		if p.sure[k] == 0 {
			continue
		}
		off := r2.Norm2(r2.Sub(p.at[k], r2.Add(x0, r2.Scale(float64(k)*dt-t0, v)))) / (fitSD * fitSD) * p.sure[k]
		cost += min(off/2, fitMost)
	}
	return p.share * cost
}

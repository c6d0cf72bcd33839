package contact

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
)

// A second look for feet on the ground, for clips in which speeds of single frames say
// little: of all ways to cut a foot's time into standing and moving the one that explains
// the places of toe, heel and ankle best. While a foot stands its toe stays, heel and ankle
// go on slowly and evenly; while it moves anything goes, at a fixed price a frame. The best
// cut is found by dynamic programming over stretches (after Jackson and others 2005, IEEE
// Signal Processing Letters 12:105).

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

// Fitted is a stretch in which a foot stands by [Fit].
type Fitted struct {
	Foot          body.Side
	From, To      int // first frame on the ground, first in the air again
	Before, After bool
	// Gain is by how much standing explains the stretch better than moving, in natural
	// logarithms of odds.
	Gain float64
}

// What a standing foot does; standing heights and seconds. Assumed; shaped on the half of
// the hard set that is there to build on.
const (
	fitSD      = 0.014 // scatter of a sure point
	fitMost    = 3.0   // what a point may cost in one frame at most: then it is simply wrong
	fitMoving  = 1.6   // what a point of a moving foot costs in one frame
	fitToe     = 0.12  // speed of a standing toe, one standard deviation
	fitHeel    = 0.8
	fitAnkle   = 0.7
	fitFar     = 0.03 // s for which errors of a draft hang together
	fitShort   = 0.06 // a contact lasts at least, s
	fitLong    = 0.9  // and at most, but at the ends of a clip
	fitApart   = 0.08 // between two contacts of a foot at least, s
	fitPrice   = 10.0 // what a contact must gain at least
	fitRate    = 60.0 // frames a second that are looked at: more tell no more
	leastSure  = 0.15
	givesUp    = -3.0 // a beginning that has cost so much is no contact
	fitRounds  = 2
	shareHeel  = 0.6
	mostFitted = 1500 // frames looked at: longer clips are looked at more coarsely
)

// Fit finds the stretches in which feet stand.
func Fit(shoes []Shoe, frames int, rate float64) (out []Fitted) {
	step := max(1, int(math.Round(rate/fitRate)), (frames+mostFitted-1)/mostFitted)
	for _, s := range shoes {
		out = append(out, s.fit(frames, step, float64(step)/rate)...)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].From < out[j].From })
	return out
}

// point is one point of a shoe at the frames that are looked at.
type point struct {
	at           []r2.Vec
	sure         []float64
	speed, share float64
}

func (s Shoe) fit(frames, step int, dt float64) (out []Fitted) {
	n := (frames + step - 1) / step
	var pts []point
	for _, q := range []struct {
		Places
		speed, share float64
	}{{s.Toe, fitToe, 1}, {s.Heel, fitHeel, shareHeel}, {s.Ankle, fitAnkle, 1}} {
		p := point{make([]r2.Vec, n), make([]float64, n), q.speed, q.share}
		for i := range n {
			if f := i * step; f < len(q.At) && q.Sure[f] > 0 {
				p.at[i], p.sure[i] = q.At[f], min(1, max(leastSure, q.Sure[f]))
			}
		}
		pts = append(pts, p)
	}
	moving := make([]float64, n+1)
	for i := range n {
		moving[i+1] = moving[i]
		for _, p := range pts {
			if p.sure[i] > 0 {
				moving[i+1] += fitMoving * p.share
			}
		}
	}
	far := min(1, dt/fitFar)
	short, long, apart := max(2, int(math.Round(fitShort/dt))), int(fitLong/dt), max(1, int(math.Round(fitApart/dt)))
	best, from, gain := make([]float64, n+1), make([]int, n+1), make([]float64, n+1)
	type stretch struct {
		from int
		gain float64
	}
	ends := make([][]stretch, n+1)
	for i := range n {
		most := min(n, i+long)
		if i == 0 {
			most = n
		}
		for j := i + short; j <= n; j++ {
			if j > most && j < n {
				continue // only to the end of the clip may it last longer
			}
			g := far * (moving[j] - moving[i] - standingCost(pts, i, j, dt))
			if g < givesUp && j-i > short+2 {
				break
			}
			ends[j] = append(ends[j], stretch{i, g})
		}
	}
	for j := 1; j <= n; j++ {
		best[j], from[j] = best[j-1], -1
		for _, e := range ends[j] {
			v := e.gain
			if e.from > 0 {
				v += best[max(0, e.from-apart)]
			}
			if e.from > 0 && j < n {
				v -= fitPrice
			} else {
				v -= fitPrice / 2 // half of it is not in the clip
			}
			if v > best[j] {
				best[j], from[j], gain[j] = v, e.from, e.gain
			}
		}
	}
	for j := n; j > 0; {
		i := from[j]
		if i < 0 {
			j--
			continue
		}
		out = append(out, Fitted{Foot: s.Side, From: i * step, To: min(frames-1, j*step), Before: i == 0, After: j == n, Gain: gain[j]})
		if i == 0 {
			break
		}
		j = max(0, i-apart)
	}
	return out
}

// standingCost is what it costs to take frames i to j (excluded) for standing.
func standingCost(pts []point, i, j int, dt float64) (cost float64) {
	for _, p := range pts {
		var w, t0 float64
		var x0, v r2.Vec
		for round := range fitRounds {
			// A line whose slope is likely to be small, through points by their weight.
			var sw, st float64
			var sx r2.Vec
			weight := func(k int) float64 {
				if p.sure[k] == 0 {
					return 0
				}
				w := p.sure[k]
				if round > 0 {
					off := r2.Norm2(r2.Sub(p.at[k], r2.Add(x0, r2.Scale(float64(k)*dt-t0, v)))) / (fitSD * fitSD) * p.sure[k]
					w /= 1 + off/(2*fitMost)
				}
				return w
			}
			ws := make([]float64, j-i)
			for k := i; k < j; k++ {
				w := weight(k)
				ws[k-i] = w
				sw, st, sx = sw+w, st+w*float64(k)*dt, r2.Add(sx, r2.Scale(w, p.at[k]))
			}
			if sw == 0 {
				break
			}
			w, t0, x0 = sw, st/sw, r2.Scale(1/sw, sx)
			var tt float64
			var tx r2.Vec
			for k := i; k < j; k++ {
				d := float64(k)*dt - t0
				tt, tx = tt+ws[k-i]*d*d, r2.Add(tx, r2.Scale(ws[k-i]*d, r2.Sub(p.at[k], x0)))
			}
			v = r2.Scale(1/(tt+(fitSD/p.speed)*(fitSD/p.speed)), tx)
		}
		if w == 0 {
			continue
		}
		sum := r2.Norm2(v) / (2 * p.speed * p.speed)
		for k := i; k < j; k++ {
			if p.sure[k] == 0 {
				continue
			}
			off := r2.Norm2(r2.Sub(p.at[k], r2.Add(x0, r2.Scale(float64(k)*dt-t0, v)))) / (fitSD * fitSD) * p.sure[k]
			sum += min(off/2, fitMost)
		}
		cost += p.share * sum
	}
	return cost
}

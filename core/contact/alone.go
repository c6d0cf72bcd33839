package contact

import (
	"math"
	"sort"
)

// What a foot does in a turn or a glide: it stands as long as it likes and swings for a while.
// Seconds and logarithms of probability. Assumed, common practice for durations; shaped on the half
// of the hard set that is there to build on.
const (
	shortestTurnSwing = 0.1
	longestTurnSwing  = 0.9
	usualTurnSwing    = 0.28
	turnSwingSpread   = 0.5 // of its logarithm
	turnSwingPrice    = 2.0 // of a swing at all
	longSwingPrice    = 7.0 // of one that is longer than the longest
	movesFirst        = 3.0 // of a foot that is in the air when the clip begins or ends
	shortestTurnStand = 0.14
	longestTurnStand  = 4.0 // but at the ends of a clip
)

// Alone finds when one foot stands, whatever the other does, as where an athlete turns: of all
// ways to cut a clip into standing and swinging the one that explains the places of the foot
// best, and how sure each end is, as [Chain] does for both feet of a run.
func Alone(s Shoe, frames int, rate float64) []Link {
	step := max(1, int(math.Round(rate/fitRate)), (frames+mostFitted-1)/mostFitted)
	c := &chain{n: (frames + step - 1) / step, dt: float64(step) / rate, turning: true}
	c.candidates(0, s.points(c.n, step), nil)
	if len(c.list) == 0 {
		return nil
	}
	sort.SliceStable(c.list, func(a, b int) bool { return c.list[a].j < c.list[b].j })
	last := c.forwardAlone()
	c.backwardAlone()
	return c.links(last, [2]Shoe{s}, frames, step)
}

// swings is how likely a foot swings from frame k to frame i.
func (c *chain) swings(k, i int) float64 {
	switch d := float64(i-k) * c.dt; {
	case d < shortestTurnSwing:
		return math.Inf(-1)
	case d <= longestTurnSwing:
		u := math.Log(d/usualTurnSwing) / turnSwingSpread
		return -turnSwingPrice - u*u/2
	}
	return -turnSwingPrice - longSwingPrice
}

// outside is how likely a foot is in the air for the first or the last frames of a clip.
func (c *chain) outside(frames int) float64 {
	if frames == 0 {
		return 0
	}
	return -movesFirst
}

// forwardAlone sums up, and takes the best of, all that may come before each stand.
func (c *chain) forwardAlone() (last int) {
	m := len(c.list)
	c.in, c.prev = make([]float64, m), make([]int, m)
	ends := make([]past, c.n+1) // of all stands that end in a frame
	for j := range ends {
		ends[j] = noPast
	}
	begun := map[int]past{} // all that may come before a stand that begins in a frame
	best := math.Inf(-1)
	c.total, last = math.Inf(-1), -1
	for x, q := range c.list {
		p, ok := begun[q.i]
		if !ok {
			p = past{c.outside(q.i), c.outside(q.i), -1}
			for k := range q.i {
				if w := c.swings(k, q.i); !math.IsInf(w, -1) && !math.IsInf(ends[k].sum, -1) {
					p = p.or(ends[k], w)
				}
			}
			begun[q.i] = p
		}
		c.in[x], c.prev[x] = p.sum, p.at
		p.at = x
		ends[q.j] = ends[q.j].or(p, q.gain)
		if v := p.best + q.gain + c.outside(c.n-q.j); v > best {
			best, last = v, x
		}
		c.total = logSum(c.total, p.sum+q.gain+c.outside(c.n-q.j))
	}
	return last
}

// backwardAlone sums up all that may come after each stand.
func (c *chain) backwardAlone() {
	c.out = make([]float64, len(c.list))
	starts := make([]float64, c.n+1) // of all stands that begin in a frame, with what follows them
	for i := range starts {
		starts[i] = math.Inf(-1)
	}
	after := map[int]float64{}
	for x := len(c.list) - 1; x >= 0; x-- {
		q := c.list[x]
		v, ok := after[q.j]
		if !ok {
			v = c.outside(c.n - q.j)
			for i := q.j + 1; i <= c.n; i++ {
				if w := c.swings(q.j, i); !math.IsInf(w, -1) && !math.IsInf(starts[i], -1) {
					v = logSum(v, w+starts[i])
				}
			}
			after[q.j] = v
		}
		c.out[x] = v
		starts[q.i] = logSum(starts[q.i], q.gain+v)
	}
}

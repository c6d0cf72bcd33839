package contact

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/core/signal"
)

// Link is a contact of a run, explained together with all others of the clip: feet take
// turns, each stands on the ground for a while, and the air between lasts as long as air can.
type Link struct {
	Foot          body.Side
	From, To      int // first frame on the ground, first in the air again
	Before, After bool
	FromSD, ToSD  float64 // frames
	There         float64 // how likely it is that this foot stands in the middle of it
	FromAt, ToAt  float64 // how likely each end lies within what counts as one moment
}

// What a run does, seconds and logarithms of probability. Assumed, common practice for
// durations; shaped on the half of the hard set that is there to build on.
const (
	shortestStand = 0.06
	longestStand  = 0.9 // but at the ends of a clip
	usualStand    = 0.16
	standSpread   = 0.7 // of its logarithm
	standPrice    = 3.0
	mostOverlap   = 0.12 // both feet down, in a slow change
	bothShare     = 3    // of a contact at most one in so many parts: no foot stands twice at once
	usualAir      = 0.25
	longerAir     = 0.45
	longestAir    = 1.6
	leastGain     = -4.0 // stretches that are worse are left out
	groundSD      = 0.03 // scatter of a foot's height over the ground line, standing heights
	groundFree    = 0.02
	groundMost    = 12.0
	sameMoment    = 0.02 // s
	aboutMoment   = 0.12 // s over which the doubt of a moment is taken
)

// air is the logarithm of how likely a foot comes down so long after the other has left;
// negative is both down.
func air(d float64) float64 {
	switch {
	case d < 0:
		return -1 + d/0.04
	case d <= usualAir:
		return 0
	case d <= longerAir:
		return -3
	case d <= longestAir:
		return -5
	}
	return -9
}

// sameFoot is that of the same foot again: a contact of the other was not seen.
func sameFoot(d float64) float64 {
	if d < shortestSwing {
		return math.Inf(-1)
	}
	return -7
}

// stretch of one foot that may be a contact.
type candidate struct {
	foot, i, j int
	gain       float64
	second     bool // of two feet that stand when the clip begins
	wait       int  // of such a one: frames after it in which the first to leave cannot be back
}

// before is the order in which sequences go through candidates.
func (q candidate) before(o candidate) bool {
	switch {
	case q.j != o.j:
		return q.j < o.j
	case q.i != o.i:
		return q.i < o.i // of two feet that stand when the clip ends
	}
	return q.foot < o.foot
}

// Chain finds the contacts of a run: of all sequences of contacts the one that explains the
// places of both feet best (Viterbi over a hidden semi-Markov model), and by the forward
// and backward sums over all sequences how sure each end is (Rabiner 1989, Proc. IEEE
// 77:257; Yu 2010, Artificial Intelligence 174:215; both from memory). Level is the height of
// the ground at a place along the run, nil when nobody knows, as is mass; all lengths are
// standing heights.
func Chain(shoes [2]Shoe, frames int, rate float64, level func(x float64) float64, mass *Mass) []Link {
	step := max(1, int(math.Round(rate/fitRate)), (frames+mostFitted-1)/mostFitted)
	dt := float64(step) / rate
	n := (frames + step - 1) / step
	c := &chain{n: n, dt: dt, fall: mass.fallen(n, step, dt), flown: map[int]float64{}}
	for foot, s := range shoes {
		c.candidates(foot, s.points(n, step), level)
	}
	if len(c.list) == 0 {
		return nil
	}
	last := c.forward()
	c.backward()
	return c.links(last, shoes, frames, step)
}

type chain struct {
	n     int
	dt    float64
	fall  *fall // nil when nobody knows the centre of mass
	flown map[int]float64
	list  []candidate // by end
	in    []float64   // of a candidate: all that may come before it
	out   []float64   // all that may come after it
	total float64
	prev  []int // of the best sequence
	// turning says that feet stand as long as they like.
	turning bool
}

// candidates lists the stretches in which a foot may stand.
func (c *chain) candidates(foot int, pts []point, level func(x float64) float64) {
	n, dt := c.n, c.dt
	toe := pts[0]
	gain, seen := make([]float64, n+1), make([]int, n+1) // of all but the toe's rest, summed up
	var speeds [3][]float64
	var slow [3]float64
	for k, p := range pts {
		speeds[k] = p.speeds(dt)
		slow[k] = slowOf(speeds[k])
	}
	for i := range n {
		gain[i+1], seen[i+1] = gain[i], seen[i]
		height, sure := math.Inf(1), 0.0
		for k, p := range pts {
			if p.sure[i] == 0 {
				continue
			}
			seen[i+1]++
			if k == 0 {
				gain[i+1] += fitMoving
			} else if v := speeds[k][i] / slow[k]; v >= 0 {
				gain[i+1] += p.share * max(-slowLoss, fitMoving*(1-v*v))
			}
			if level == nil {
				continue
			}
			h := p.at[i].Y - level(p.at[i].X)
			if k == 2 {
				h -= ankleHigh
			}
			height, sure = min(height, math.Abs(h)), max(sure, p.sure[i]) // one of them may be wrong
		}
		if sure > 0 && level != nil {
			h := max(0, height-groundFree) / groundSD
			gain[i+1] -= min(h*h/2, groundMost) * sure
		}
	}
	far := min(1, dt/fitFar)
	short, long := max(2, int(math.Round(shortestStand/dt))), int(longestStand/dt)
	if c.turning {
		short, long = max(2, int(math.Round(shortestTurnStand/dt))), int(longestTurnStand/dt)
	}
	for i := range n {
		most := min(n, i+long)
		for j := i + short; j <= n; j++ {
			if j > most && j < n && i > 0 {
				continue // only at the ends of the clip may it last longer
			}
			if seen[j] == seen[i] {
				continue // nothing was seen
			}
			g := far * (gain[j] - gain[i] - toe.standingCost(i, j, dt))
			if g < givesUp && j-i > short+2 {
				break
			}
			if c.turning {
				g -= standPrice
			} else if i > 0 && j < n {
				u := math.Log(float64(j-i)*dt/usualStand) / standSpread
				g -= standPrice + u*u/2
			} else {
				g -= standPrice / 2
			}
			if g -= c.fall.onGround(i, j); g > leastGain {
				c.list = append(c.list, candidate{foot: foot, i: i, j: j, gain: g})
				for wait := 0; i == 0 && !c.turning && wait <= c.swing(); wait++ {
					c.list = append(c.list, candidate{foot, i, j, g, true, wait})
				}
			}
		}
	}
}

// givesUp is what a beginning may cost at most; ankleHigh is how high an ankle stands.
const (
	givesUp   = -3.0
	ankleHigh = 0.05
)

// begins is how likely the first contact of a clip begins at a frame.
func (c *chain) begins(i int) float64 {
	switch {
	case i == 0:
		return 0
	case float64(i)*c.dt <= usualAir:
		return -1
	}
	return -4
}

// Contacts are told apart by how long they may overlap with the next one, those with which
// a clip begins from all others, and of two that it begins with the second by how soon the
// foot that left first may be down again.
const (
	first    = 4
	mostWait = 16
	classes  = first + 1 + mostWait
)

func (c *chain) class(q candidate) int {
	switch {
	case q.i == 0 && !q.second:
		return first
	case q.wait > 0:
		return first + q.wait
	}
	return min(int(c.both(q)/mostOverlap*(first-1)), first-1)
}

// swing is the least number of frames in which a foot comes down again.
func (c *chain) swing() int { return min(mostWait, int(math.Ceil(shortestSwing/c.dt))) }

// both is how long a contact may overlap with another, s.
func (c *chain) both(q candidate) float64 {
	if q.i == 0 || q.j == c.n {
		return mostOverlap // nobody knows how long it really is
	}
	return min(mostOverlap, float64(q.j-q.i)*c.dt/bothShare)
}

// after is how likely candidate q follows one of a foot and class that ends at frame k.
func (c *chain) after(foot, k, class int, q candidate) float64 {
	gap := float64(q.i-k) * c.dt
	switch {
	case q.i == 0: // both stand when the clip begins
		if !q.second || class != first || foot == q.foot || q.wait != max(0, c.swing()-(q.j-k)) {
			return math.Inf(-1)
		}
		return -1
	case foot == q.foot:
		return sameFoot(gap)
	case class > first && q.i-k < class-first: // the other has just left its place
		return math.Inf(-1)
	case k == c.n && q.j == c.n: // both stand when it ends
		return -1
	case gap < -c.both(q) || class < first && gap < -mostOverlap*float64(class)/(first-1):
		return math.Inf(-1)
	}
	return air(gap) - c.flight(k, q.i)
}

// flight is what it costs to take the frames between two contacts for a flight.
func (c *chain) flight(k, i int) float64 {
	if c.fall == nil || i-k < fallLeast {
		return 0
	}
	v, ok := c.flown[k*(c.n+1)+i]
	if !ok {
		v = c.fall.inAir(k, i)
		c.flown[k*(c.n+1)+i] = v
	}
	return v
}

// past is all that may have come before a candidate: the best sequence, its last candidate,
// and the sum over all sequences.
type past struct {
	best, sum float64
	at        int
}

var noPast = past{math.Inf(-1), math.Inf(-1), -1}

// or is the one past or the other, which the step to the candidate makes so much less likely.
func (p past) or(o past, step float64) past {
	if o.best+step > p.best {
		p.best, p.at = o.best+step, o.at
	}
	p.sum = logSum(p.sum, o.sum+step)
	return p
}

// cell is what is known of all sequences whose last contact ends in one frame.
type cell struct {
	end int
	past
}

// forward sums up, and takes the best of, all that may come before each candidate. Those
// that end together are told apart by where they begin.
func (c *chain) forward() (last int) {
	sort.SliceStable(c.list, func(a, b int) bool { return c.list[a].before(c.list[b]) })
	m := len(c.list)
	c.in, c.prev = make([]float64, m), make([]int, m)
	// By foot and by how long the last contact may overlap; in the order of their ends.
	var cells [2][classes][]cell
	reach := int(longestAir/c.dt) + 1
	// What has ended before a foot comes down is the same for all candidates that begin there.
	over := map[[2]int]past{}
	ended := func(q candidate) past {
		id := [2]int{q.foot, q.i}
		p, ok := over[id]
		if !ok {
			p = past{c.begins(q.i), c.begins(q.i), -1}
			for f := range 2 {
				for class := range classes {
					list := cells[f][class]
					to := sort.Search(len(list), func(k int) bool { return list[k].end > q.i })
					for k := to - 1; k >= 0 && list[k].end >= q.i-reach; k-- {
						if v := c.after(f, list[k].end, class, q); !math.IsInf(v, -1) {
							p = p.or(list[k].past, v)
						}
					}
				}
			}
			over[id] = p
		}
		return p
	}
	best := math.Inf(-1)
	c.total, last = math.Inf(-1), -1
	var pasts []past
	for a := 0; a < m; {
		b := a
		pasts = pasts[:0]
		for ; b < m && !c.list[a].before(c.list[b]); b++ {
			q := c.list[b]
			p := noPast
			if !q.second {
				p = ended(q)
			}
			for class := range classes {
				list := cells[1-q.foot][class]
				for k := len(list) - 1; k >= 0 && list[k].end > q.i; k-- {
					if list[k].end == q.j && q.j < c.n {
						continue // only at the end of the clip may both end together
					}
					if v := c.after(1-q.foot, list[k].end, class, q); !math.IsInf(v, -1) {
						p = p.or(list[k].past, v)
					}
				}
			}
			c.in[b], c.prev[b] = p.sum, p.at
			pasts = append(pasts, p)
		}
		for x := a; x < b; x++ {
			q := c.list[x]
			list := &cells[q.foot][c.class(q)]
			if n := len(*list); n == 0 || (*list)[n-1].end != q.j {
				*list = append(*list, cell{q.j, noPast})
			}
			to, p := &(*list)[len(*list)-1], pasts[x-a]
			p.at = x
			to.past = to.or(p, q.gain)
			if end := p.best + q.gain + c.endsAt(q.j); end > best {
				best, last = end, x
			}
			c.total = logSum(c.total, p.sum+q.gain+c.endsAt(q.j))
		}
		a = b
	}
	return last
}

// endsAt is how likely the last contact of a clip ends at a frame.
func (c *chain) endsAt(j int) float64 { return c.begins(c.n - j) }

// backward sums up all that may come after each candidate.
func (c *chain) backward() {
	m := len(c.list)
	c.out = make([]float64, m)
	reach, overlap := int(longestAir/c.dt)+1, int(mostOverlap/c.dt)+1
	// All that follows from a foot that comes down in a frame, and who does.
	var follows [2][]float64
	var starts [2][][]int
	for f := range 2 {
		follows[f], starts[f] = make([]float64, c.n+1), make([][]int, c.n+1)
		for i := range follows[f] {
			follows[f][i] = math.Inf(-1)
		}
	}
	known := map[[4]int]float64{} // by foot and frame of an end, its class and, when the clip ends with it, its beginning
	for x := m - 1; x >= 0; x-- {
		q := c.list[x]
		id := [4]int{q.foot, q.j, c.class(q)}
		if q.j == c.n {
			id[3] = q.i
		}
		v, ok := known[id]
		if !ok {
			v = c.endsAt(q.j)
			for f := range 2 {
				for i := q.j; i <= min(c.n, q.j+reach); i++ {
					if math.IsInf(follows[f][i], -1) {
						continue
					}
					if w := c.after(q.foot, q.j, id[2], c.list[starts[f][i][0]]); !math.IsInf(w, -1) {
						v = logSum(v, w+follows[f][i])
					}
				}
			}
			// Those that overlap; at the ends of a clip by as much as they like.
			from := q.j - overlap
			if q.j == c.n {
				from = 0
			}
			for i := 0; i < q.j; i++ {
				if i > 0 && i < from {
					i = from
				}
				for _, y := range starts[1-q.foot][i] {
					next := c.list[y]
					if !q.before(next) || next.j == q.j && q.j < c.n {
						continue
					}
					if w := c.after(q.foot, q.j, id[2], next); !math.IsInf(w, -1) {
						v = logSum(v, w+next.gain+c.out[y])
					}
				}
			}
			known[id] = v
		}
		c.out[x] = v
		follows[q.foot][q.i] = logSum(follows[q.foot][q.i], q.gain+v)
		starts[q.foot][q.i] = append(starts[q.foot][q.i], x)
	}
}

func logSum(a, b float64) float64 {
	if a < b {
		a, b = b, a
	}
	if math.IsInf(a, -1) || b-a < -40 {
		return a
	}
	return a + math.Log1p(math.Exp(b-a))
}

// links reads the best sequence with its doubt.
func (c *chain) links(last int, shoes [2]Shoe, frames, step int) (out []Link) {
	on, off, down := [2][]float64{}, [2][]float64{}, [2][]float64{}
	for f := range 2 {
		on[f], off[f], down[f] = make([]float64, c.n+1), make([]float64, c.n+1), make([]float64, c.n+2)
	}
	for x, q := range c.list {
		p := math.Exp(c.in[x] + q.gain + c.out[x] - c.total)
		on[q.foot][q.i] += p
		off[q.foot][q.j] += p
		down[q.foot][q.i] += p
		down[q.foot][q.j] -= p
	}
	for f := range 2 {
		for i := 1; i <= c.n; i++ {
			down[f][i] += down[f][i-1]
		}
	}
	near := max(1, int(math.Round(sameMoment/c.dt)))
	doubt := func(p []float64, at int) (sure, sd float64) {
		var w, s float64
		for d := -int(aboutMoment / c.dt); float64(d)*c.dt <= aboutMoment; d++ {
			if at+d < 0 || at+d >= len(p) {
				continue
			}
			w += p[at+d]
			s += p[at+d] * float64(d*d)
			if d >= -near && d <= near {
				sure += p[at+d]
			}
		}
		if w <= 0 {
			return 0, aboutMoment / c.dt
		}
		return min(1, sure), math.Sqrt(s / w)
	}
	for x := last; x >= 0; x = c.prev[x] {
		q := c.list[x]
		l := Link{Foot: shoes[q.foot].Side, From: q.i * step, To: min(frames-1, q.j*step), Before: q.i == 0, After: q.j == c.n, There: min(1, down[q.foot][(q.i+q.j)/2])}
		var sd float64
		l.FromAt, sd = doubt(on[q.foot], q.i)
		l.FromSD = sd * float64(step)
		l.ToAt, sd = doubt(off[q.foot], q.j)
		l.ToSD = sd * float64(step)
		out = append(out, l)
	}
	slices.Reverse(out)
	// As soon as a foot may be down again it may be one that never left.
	return joined(out, shoes, (c.swing()+1)*step)
}

// shortestSwing is the least time in which a foot comes down again, s.
const shortestSwing = 0.15

// joined takes contacts of a foot in one place between which it cannot have swung for one: a
// foot in its block shifts while the other leaves.
func joined(list []Link, shoes [2]Shoe, swing int) (out []Link) {
	for _, l := range list {
		i := slices.IndexFunc(out, func(o Link) bool {
			return o.Foot == l.Foot && l.From < o.To+swing && shoes[shoeOf(shoes, l.Foot)].stays(o, l)
		})
		if i < 0 {
			out = append(out, l)
			continue
		}
		if o := &out[i]; l.To > o.To {
			o.To, o.ToSD, o.ToAt, o.After, o.There = l.To, l.ToSD, l.ToAt, l.After, math.Min(o.There, l.There)
		}
	}
	return out
}

func shoeOf(shoes [2]Shoe, side body.Side) int {
	if shoes[0].Side == side {
		return 0
	}
	return 1
}

// samePlace is how far a foot is put down from where it stood to have swung, standing heights.
// Assumed.
const samePlace = 0.15

// stays tells whether a foot stands in the same place in two contacts.
func (s Shoe) stays(a, b Link) bool {
	p, okA := s.place(a)
	q, okB := s.place(b)
	return !okA || !okB || r2.Norm(r2.Sub(p, q)) < samePlace
}

// place is where a foot stands in a contact: the middle of the sure places of its ankle.
func (s Shoe) place(l Link) (r2.Vec, bool) {
	var xs, ys []float64
	for f := l.From; f < min(l.To, len(s.Ankle.At)); f++ {
		if s.Ankle.Sure[f] >= leastSure {
			xs, ys = append(xs, s.Ankle.At[f].X), append(ys, s.Ankle.At[f].Y)
		}
	}
	if len(xs) == 0 {
		return r2.Vec{}, false
	}
	return r2.Vec{X: signal.Median(xs), Y: signal.Median(ys)}, true
}

// How a ground line is found, standing heights. Assumed.
const (
	mostSlope  = 0.36 // of somebody who comes nearer along a curve
	slopeGrain = 0.02
	slopeCosts = 0.5   // share of the points that a slope of one must gain
	lineHalf   = 0.025 // how far feet that stand lie from it

	mostLevelled = 400 // points that take part: more tell no more
)

// Level is the height of the ground under all feet, as a line over the way: the one near
// which most of their points lie and hardly any lies under; px of the common frame.
// Nil when no foot was seen.
func Level(feet []Foot, height float64) func(x float64) float64 {
	var pts []r2.Vec
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, f := range feet {
		for _, p := range []*kinematics.Path{f.Toe, f.Heel} {
			if p == nil {
				continue
			}
			for i := range p.Raw {
				if q, ok := p.Seen(p.From + i); ok {
					pts = append(pts, q)
					lo, hi = min(lo, q.X), max(hi, q.X)
				}
			}
		}
	}
	if len(pts) == 0 {
		return nil
	}
	most := mostSlope
	if hi-lo < 3*height {
		most = 0
	}
	var base, slope float64
	best := math.Inf(-1)
	thin := max(1, len(pts)/mostLevelled)
	off := make([]float64, len(pts)/thin)
	for s := -most; s <= most+1e-9; s += slopeGrain {
		for i := range off {
			q := pts[i*thin]
			off[i] = q.Y - s*q.X
		}
		slices.Sort(off)
		for i, below, top := 0, 0, 0; i < len(off); i++ {
			for top < len(off) && off[top] < off[i]+2*lineHalf*height {
				top++
			}
			for off[below] < off[i]-lineHalf*height {
				below++
			}
			if v := float64(top-i-2*below) - slopeCosts*math.Abs(s)*float64(len(off)); v > best {
				best, slope, base = v, s, (off[i]+off[top-1])/2
			}
		}
		if most == 0 {
			break
		}
	}
	return func(x float64) float64 { return base + slope*x }
}

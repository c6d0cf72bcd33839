package kinematics

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/linsolve"
)

// Search looks for the moment at which points come to rest or leave, in the
// points as they were placed: smoothing would wash the moment out.
type Search struct {
	Rate  float64 // frames per true second
	Sigma float64 // scatter of a point, px
	Drift r2.Vec  // how what rests moves against the common frame, px/s: a belt
	// Creeps lets what rests move evenly and slowly all the same: errors that grow.
	Creeps bool
	// Errors are those of what stands; the zero value when nobody knows.
	Errors Errors
}

// Ways of a moment.
const (
	Rests  = -1 // moving before, still after
	Leaves = 1  // still before, moving after
)

// windows of the movement before coming to rest or after leaving, and the error that a curve
// of so many powers makes over them, s. Assumed; shaped on simulated athletes that are there
// to build on.
var windows = map[int][]window{
	Rests:  {{0.08, 0.02, 2}, {0.05, 0.008, 2}, {0.05, 0.006, 3}, {0.03, 0.005, 2}, {0.03, 0.0015, 3}},
	Leaves: {{0.08, 0.02, 2}, {0.05, 0.008, 2}, {0.05, 0.004, 3}, {0.03, 0.004, 2}, {0.03, 0.001, 3}}, // softly
}

type window struct {
	reach, bias float64
	powers      int
}

// inside is the stretch of rest that takes part, s. Assumed.
const inside = 0.05

// Moment is when a point that rests over the frames a to b came to rest or left,
// in frames from the clip's start, with its standard deviation. A point at rest
// that moves along a parabola or a cubic from the moment on (or up to it) is fitted by
// least squares, over a wide stretch of movement, which beats the scatter of
// points, and over narrow ones, in which the curve is a better model; they are
// weighed by scatter and by that error. How sharply the fit worsens about the
// best moment is the doubt. Errors that hang together from frame to frame are taken
// apart first (generalised least squares), or the fit would believe their slow ways.
func (s Search) Moment(p *Path, a, b, way int) (at, sd float64) {
	guess := float64(b)
	if way == Rests {
		guess = float64(a)
	}
	var sum, weight, doubt float64
	for _, w := range windows[way] {
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
		best, sure, ok := s.best([]*Path{p}, int(math.Floor(lo)), int(math.Ceil(hi)), guess, r*0.7, r, way, w.powers, false)
		if !ok {
			continue
		}
		own := math.Sqrt(sure*sure + math.Pow(w.bias*s.Rate, 2) + 0.01)
		v := 1 / (own * own)
		// All see the same scatter: what each doubts does not average out.
		sum, weight, doubt = sum+v*best, weight+v, doubt+v*own
		guess = sum / weight
	}
	if weight == 0 {
		return guess, windows[way][0].reach * s.Rate / 2
	}
	if s.Errors.Hangs > 0 {
		doubt *= wandering
	}
	return sum / weight, doubt / weight
}

// wandering widens the doubt of moments of points that wander: they do not do so evenly.
// Assumed; shaped on the lots that are there to build on.
const wandering = 1.3

// Onset is when several points that rest up to about a guess begin to move
// together, gently (from no speed), with its standard deviation; frames. Reach
// is how far about the guess to look, s.
func (s Search) Onset(paths []*Path, guess int, reach float64) (at, sd float64, ok bool) {
	r := math.Max(4, reach*s.Rate)
	return s.best(paths, guess-int(2*r), guess+int(r), float64(guess), r, r, Leaves, 2, true)
}

// searchRate is how finely a moment is looked for at first, 1/s; what fits changes more slowly.
const searchRate = 160

// best finds the moment within span of a guess at which the paths fit best: in
// whole frames first, in quarters about the best of these.
func (s Search) best(paths []*Path, lo, hi int, guess, span, r float64, way, powers int, gentle bool) (at, sd float64, ok bool) {
	const fine = 0.25
	var all []sample
	ends := make([]int, len(paths))
	for i, p := range paths {
		all = s.samples(all, p, lo, hi)
		ends[i] = len(all)
	}
	if len(all) < 5 {
		return guess, span, false
	}
	work := make([]equation, len(all))
	cost := func(c float64) (e float64) {
		from := 0
		for _, to := range ends {
			e += s.misfit(all[from:to], work[:to-from], c, r, way, powers, gentle)
			from = to
		}
		return e
	}
	n := int(2*span) + 1
	whole := make([]float64, n)
	for i := range whole {
		whole[i] = math.NaN()
	}
	in := func(i int) float64 {
		if math.IsNaN(whole[i]) {
			whole[i] = cost(guess - span + float64(i))
		}
		return whole[i]
	}
	// Every few frames first, then ever closer about the best of those.
	b, stride := 0, max(1, int(s.Rate/searchRate))
	for i := 0; i < n; i += stride {
		if in(i) < in(b) {
			b = i
		}
	}
	for step := stride; step > 1; {
		step = (step + 1) / 2
		near := b
		for _, i := range [2]int{near - step, near + step} {
			if i >= 0 && i < n && in(i) < in(b) {
				b = i
			}
		}
	}
	at = guess - span + float64(b)
	quarters := [9]float64{}
	for i := range quarters {
		quarters[i] = in(b)
		if i != 4 {
			quarters[i] = cost(at + fine*float64(i-4))
		}
	}
	k := 4
	for i, e := range quarters {
		if e < quarters[k] {
			k = i
		}
	}
	least := quarters[k]
	if k > 0 && k < len(quarters)-1 {
		// Vertex of the parabola through the best three.
		l, m, h := quarters[k-1], quarters[k], quarters[k+1]
		at += fine * float64(k-4)
		if d := l - 2*m + h; d > 1e-12 {
			at += fine * 0.5 * (l - h) / d
		}
	} else {
		at += fine * float64(k-4)
	}
	// The misfit grows by one noise variance at one standard deviation.
	noise := math.Max(s.Sigma*s.Sigma/4, least/math.Max(1, float64(2*len(all)-8)))
	if s.Errors.Fresh > 0 {
		noise = math.Max(s.Errors.Fresh*s.Errors.Fresh, least/math.Max(1, float64(2*len(all)-2*powers-3)))
	}
	for d := 1; d <= 4; d++ {
		if (k-d < 0 || quarters[k-d] >= least+noise) && (k+d > 8 || quarters[k+d] >= least+noise) {
			return at, fine * float64(d), true
		}
	}
	for d := 1; d < n; d++ {
		if (b-d < 0 || in(b-d) >= least+noise) && (b+d >= n || in(b+d) >= least+noise) {
			return at, float64(d), true
		}
	}
	return at, span, true
}

// sample is a point as it was placed, less the drift of what rests.
type sample struct{ t, x, y float64 }

func (s Search) samples(all []sample, p *Path, lo, hi int) []sample {
	for i := max(lo, p.From); i <= hi && i < p.End(); i++ {
		if q, ok := p.Seen(i); ok {
			t := float64(i)
			all = append(all, sample{t, q.X - t/s.Rate*s.Drift.X, q.Y - t/s.Rate*s.Drift.Y})
		}
	}
	return all
}

// misfit is the sum of squares when a point rests on one side of moment c and
// moves along a curve on the other, joined at c (and beginning without speed
// when gentle; and resting along a line when it creeps).
func (s Search) misfit(list []sample, rows []equation, c, r float64, way, powers int, gentle bool) (sum float64) {
	const most = mostUnknowns
	n := 1 + powers
	wide := n
	if s.Creeps {
		wide++
	}
	for f, q := range list {
		v := &rows[f]
		*v = equation{1}
		v[most], v[most+1] = q.x-list[0].x, q.y-list[0].y
		d := (q.t - c) * float64(way) / r
		if d <= 0 {
			if s.Creeps {
				v[n] = d
			}
			continue
		}
		x := d
		if gentle {
			x *= d
		}
		for i := range powers {
			v[1+i] = x
			x *= d
		}
	}
	s.Errors.whiten(rows, list)
	var m, k [most * most]float64
	var px, py [most]float64
	for f := range list {
		v := &rows[f]
		for i := range wide {
			for j := range i + 1 {
				m[wide*i+j] += v[i] * v[j]
			}
			px[i], py[i] = px[i]+v[i]*v[most], py[i]+v[i]*v[most+1]
		}
	}
	for i := range wide {
		for j := range i {
			m[wide*j+i] = m[wide*i+j]
		}
	}
	// With hardly a frame on one side its curve is not determined.
	for i := range wide {
		m[wide*i+i] += 1e-9
	}
	k = m
	_ = linsolve.Solve(m[:wide*wide], px[:wide]) // positive definite
	_ = linsolve.Solve(k[:wide*wide], py[:wide])
	for f := range list {
		v := &rows[f]
		ex, ey := v[most], v[most+1]
		for i := range wide {
			ex, ey = ex-v[i]*px[i], ey-v[i]*py[i]
		}
		sum += ex*ex + ey*ey
	}
	return sum
}

// mostUnknowns of a curve: where it rests, three powers, and a creep.
const mostUnknowns = 5

// equation is a row of unknowns with the two coordinates that it explains.
type equation [mostUnknowns + 2]float64

// whiten leaves of rows only what is new in each frame, so that least squares may take the
// frames for independent. In place, from the last to the first of each pair.
func (e Errors) whiten(rows []equation, list []sample) {
	if e.Hangs == 0 || len(list) == 0 {
		return
	}
	before := rows[0]
	first := e.Fresh / e.All
	for j := range rows[0] {
		rows[0][j] *= first
	}
	for i := 1; i < len(list); i++ {
		now := rows[i]
		gap := list[i].t - list[i-1].t
		hangs, more, echo := e.Hangs, 1.0, e.Echo
		if gap > 1.5 {
			// After a gap more is new, and what echoed has gone.
			hangs = math.Pow(e.Hangs, gap)
			more, echo = e.Fresh/(e.All*math.Sqrt(1-hangs*hangs)), 0
		}
		for j := range now {
			rows[i][j] = more*(now[j]-hangs*before[j]) - echo*rows[i-1][j]
		}
		before = now
	}
}

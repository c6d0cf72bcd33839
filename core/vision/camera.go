package vision

import (
	"fmt"
	"math"
	"math/rand/v2"
	"sort"

	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/linsolve"
	"neokinema/core/stabilize"
)

// Limits of the search for the camera's turning. Assumed; shaped on simulated clips.
const (
	cornersWanted = 140
	cornersLeast  = 70   // below this new ones are looked for
	inlier        = 1.6  // px of the small picture
	fewest        = 10   // background points for a frame to be sure
	worstResidual = 1.5  // px of the small picture
	stillShare    = 0.02 // of the picture's width: a camera that moves less stands still
)

// feature is a background point: seen at its birth in one frame, later in others.
type feature struct {
	born int
	at   r2.Vec // where it was born
	now  r2.Vec
	seen []featureTrack
	// How much of the background has passed while it stayed where it is put.
	put    r2.Vec
	passed float64
}

type featureTrack struct {
	frame int
	at    r2.Vec
}

// Estimator finds how the camera turned from pictures that come in order: corners
// of the background are followed (the athlete is masked out, and what moves
// otherwise is voted down by RANSAC), then rotations and one focal length are
// fitted to all sights. A place that has been lost is not recognised later; new
// corners carry on from the rotations found so far.
type Estimator struct {
	scale float64 // small picture over upright picture
	w, h  float64
	frame int
	prev  Pyramid
	live  []*feature
	all   []*feature
	count []int    // background points of each frame
	cuts  []int    // frames before which the picture changed as a whole
	still []int    // frames that are copies of the one before
	over  []r2.Vec // where something is laid over the picture
	r     *rand.Rand
}

// NewEstimator makes one for pictures that are scale times the upright picture.
func NewEstimator(scale float64) *Estimator {
	return &Estimator{scale: scale, frame: -1, r: rand.New(rand.NewPCG(8470, 1))}
}

// Add takes the next picture. Masked says which places (px of this picture) the
// athlete covers; nil for none.
func (e *Estimator) Add(g Gray, masked func(x, y float64) bool) {
	e.frame++
	now := NewPyramid(g, 3)
	if e.frame == 0 {
		e.w, e.h = float64(g.W), float64(g.H)
	} else {
		e.advance(now, masked)
	}
	if len(e.live) < cornersLeast {
		taken := func(x, y float64) bool {
			if masked != nil && masked(x, y) {
				return true
			}
			for _, f := range e.live {
				if math.Abs(f.now.X-x) < cornersFar && math.Abs(f.now.Y-y) < cornersFar {
					return true
				}
			}
			for _, o := range e.over {
				if math.Abs(o.X-x) < overNear && math.Abs(o.Y-y) < overNear {
					return true
				}
			}
			return false
		}
		for _, c := range Corners(g, cornersWanted-len(e.live), 18, taken) {
			f := &feature{born: e.frame, at: c.At, now: c.At}
			e.live, e.all = append(e.live, f), append(e.all, f)
		}
	}
	e.prev = now
	e.count = append(e.count, len(e.live))
}

func (e *Estimator) advance(now Pyramid, masked func(x, y float64) bool) {
	switch d := difference(e.prev, now); {
	case d < frozen:
		e.still = append(e.still, e.frame)
	case d > cutting && len(e.live) >= fewest:
		e.cuts = append(e.cuts, e.frame)
	}
	var from, to []r2.Vec
	var who []*feature
	// All background moves alike: the first few tell the others where to look.
	shift := r2.Vec{}
	var xs, ys []float64
	for i, f := range e.live {
		if i == 24 {
			shift = r2.Vec{X: median(xs), Y: median(ys)}
		}
		q, misfit, ok := follow(e.prev, now, f.now, r2.Add(f.now, shift), 7)
		if !ok || misfit > 24 || masked != nil && masked(q.X, q.Y) || q.X < 4 || q.Y < 4 || q.X > e.w-5 || q.Y > e.h-5 {
			continue
		}
		from, to, who = append(from, f.now), append(to, q), append(who, f)
		xs, ys = append(xs, q.X-f.now.X), append(ys, q.Y-f.now.Y)
	}
	// What may be laid over has no say, and is watched on.
	waiting := e.laidOver(from, to, who)
	var watched []*feature
	for i, f := range who {
		switch {
		case !waiting[i]:
		case f.passed <= passesBy:
			f.now = to[i]
			watched = append(watched, f)
		case len(e.over) < mostOver:
			e.over = append(e.over, to[i])
		}
	}
	from, to, who = without(from, waiting), without(to, waiting), without(who, waiting)
	keep := consensus(from, to, e.r)
	e.live = append(e.live[:0], watched...)
	for i, f := range who {
		if keep[i] {
			f.now = to[i]
			f.seen = append(f.seen, featureTrack{e.frame, to[i]})
			e.live = append(e.live, f)
		}
	}
}

// What is laid over the picture (captions, marks of a program) stays while the camera turns.
// Px of the small picture, and shares. Assumed.
const (
	staysPut   = 0.3
	movesOn    = 0.8
	panShare   = 0.15 // of all points that must move alike
	panWide    = 0.5  // of the picture's width over which they are seen
	passesBy   = 20.0 // px of background that have gone by
	panAlike   = 0.35 // how far they may differ from the middle of them
	overNear   = 10   // no corner is looked for so near what is laid over
	mostOver   = 400
	leastOver  = 12
	cornersFar = 14
)

// laidOver marks points that stay in the picture while much of it moves along as by a turn
// of the camera; they count how much of it has passed.
func (e *Estimator) laidOver(from, to []r2.Vec, who []*feature) []bool {
	var xs, ys []float64
	waiting, still := make([]bool, len(from)), make([]bool, len(from))
	for i, f := range who {
		d := r2.Sub(to[i], from[i])
		switch n := r2.Norm(d); {
		case n < staysPut && (f.passed == 0 || r2.Norm(r2.Sub(to[i], f.put)) < staysPut):
			still[i] = true
		case n > movesOn:
			xs, ys = append(xs, d.X), append(ys, d.Y)
		}
		if !still[i] {
			f.passed = 0
		}
	}
	if len(xs) < fewest {
		return waiting
	}
	m := r2.Vec{X: median(xs), Y: median(ys)}
	alike, lo, hi := 0, math.Inf(1), math.Inf(-1)
	for i := range from {
		if d := r2.Sub(to[i], from[i]); !still[i] && r2.Norm(r2.Sub(d, m)) < panAlike*r2.Norm(m) {
			alike++
			lo, hi = min(lo, to[i].X), max(hi, to[i].X)
		}
	}
	if alike < fewest || float64(alike) < panShare*float64(len(from)) || hi-lo < panWide*e.w {
		return waiting
	}
	for i, f := range who {
		if !still[i] {
			continue
		}
		if f.passed == 0 {
			f.put = from[i]
		}
		f.passed += r2.Norm(m)
		waiting[i] = true
	}
	return waiting
}

// Over is the box of what is laid over the picture, px of the upright picture; false when
// nothing was seen.
func (e *Estimator) Over() (lo, hi r2.Vec, ok bool) {
	if len(e.over) < leastOver {
		return lo, hi, false
	}
	var xs, ys []float64
	for _, o := range e.over {
		xs, ys = append(xs, o.X), append(ys, o.Y)
	}
	sort.Float64s(xs)
	sort.Float64s(ys)
	k := len(xs) / 50 // a stray point or two
	margin := r2.Vec{X: overNear / 2, Y: overNear / 2}
	lo, hi = r2.Sub(r2.Vec{X: xs[k], Y: ys[k]}, margin), r2.Add(r2.Vec{X: xs[len(xs)-1-k], Y: ys[len(ys)-1-k]}, margin)
	return r2.Scale(1/e.scale, lo), r2.Scale(1/e.scale, hi), true
}

func without[T any](list []T, gone []bool) (out []T) {
	for i, x := range list {
		if !gone[i] {
			out = append(out, x)
		}
	}
	return out
}

// How much two pictures differ, of 255: below the first they are copies, above
// the second another scene. Assumed; shaped on simulated clips.
const (
	frozen  = 0.02
	cutting = 42
)

// difference is the mean difference of two pictures at the coarsest level.
func difference(a, b Pyramid) float64 {
	p, q := a[len(a)-1].Pix, b[len(b)-1].Pix
	var sum float64
	for i, v := range p {
		sum += math.Abs(float64(v - q[i]))
	}
	return sum / float64(max(1, len(p)))
}

func median(v []float64) float64 {
	if len(v) == 0 {
		return 0
	}
	s := append([]float64(nil), v...)
	sort.Float64s(s)
	return s[len(s)/2]
}

// consensus marks the points that one similarity explains: RANSAC (Fischler and
// Bolles 1981, Commun. ACM 24:381) over pairs of points.
func consensus(from, to []r2.Vec, r *rand.Rand) []bool {
	best := make([]bool, len(from))
	count := 0
	if len(from) < 3 {
		return best
	}
	for range 60 {
		i, j := r.IntN(len(from)), r.IntN(len(from))
		d, m := r2.Sub(from[j], from[i]), r2.Sub(to[j], to[i])
		n := r2.Norm2(d)
		if n < 400 {
			continue
		}
		// As complex numbers: to = a from + b.
		a := r2.Vec{X: r2.Dot(d, m) / n, Y: r2.Cross(d, m) / n}
		if s := r2.Norm(a); s < 0.8 || s > 1.25 {
			continue
		}
		in := make([]bool, len(from))
		k := 0
		for q := range from {
			v := r2.Sub(from[q], from[i])
			p := r2.Add(to[i], r2.Vec{X: a.X*v.X - a.Y*v.Y, Y: a.X*v.Y + a.Y*v.X})
			if r2.Norm(r2.Sub(p, to[q])) < inlier {
				in[q], k = true, k+1
			}
		}
		if k > count {
			best, count = in, k
		}
	}
	return best
}

// Camera is the turning found over all pictures, in pixels of the upright
// picture. A clip whose background cannot be followed says why.
func (e *Estimator) Camera() *stabilize.Rotations {
	n := e.frame + 1
	c := &stabilize.Rotations{Width: e.w / e.scale, Height: e.h / e.scale, Focal: e.w / e.scale, Reference: 0}
	c.Notes = []string{}
	if len(e.still) > 0 {
		c.Notes = append(c.Notes, fmt.Sprintf("%d frames are copies of the one before (the first is frame %d): times across them are not true", len(e.still), e.still[0]))
	}
	if _, _, ok := e.Over(); ok {
		c.Notes = append(c.Notes, "something is laid over the picture: what it covers is not read")
	}
	if len(e.cuts) > 0 {
		c.Problem = fmt.Sprintf("the clip is cut at frame %d: two scenes have no common frame; upload them as two clips", e.cuts[0])
		return c
	}
	if e.moves() < stillShare*e.w {
		return c
	}
	small := &stabilize.Rotations{Width: e.w, Height: e.h}
	cost := func(logF float64) float64 {
		small.Focal = math.Exp(logF)
		_, worst := e.turns(small)
		return worst
	}
	// Golden section over focal lengths from half to eight picture widths.
	lo, hi := math.Log(0.5*e.w), math.Log(8*e.w)
	const g = 0.6180339887498949
	a, b := hi-g*(hi-lo), lo+g*(hi-lo)
	fa, fb := cost(a), cost(b)
	for range 14 {
		if fa < fb {
			hi, b, fb = b, a, fa
			a = hi - g*(hi-lo)
			fa = cost(a)
		} else {
			lo, a, fa = a, b, fb
			b = lo + g*(hi-lo)
			fb = cost(b)
		}
	}
	small.Focal = math.Exp((lo + hi) / 2)
	turns, rms := e.turns(small)
	c.Focal, c.Residual = small.Focal/e.scale, rms/e.scale
	blind := 0
	for _, k := range e.count {
		if k < fewest {
			blind++
		}
	}
	switch {
	case blind*10 > n:
		c.Problem = "the background shows too little to follow: sky, a plain wall, or the athlete fills the picture"
		return c
	case rms > worstResidual:
		c.Problem = "the background does not move as one: the camera was carried along or zoomed"
		return c
	}
	c.Reference = middle(turns)
	ref := quat.Conj(stabilize.Rotation(turns[c.Reference]))
	c.Turns = make([][3]float64, n)
	for i, v := range turns {
		c.Turns[i] = vector(quat.Mul(ref, stabilize.Rotation(v)))
	}
	lo2, hi2 := c.Span()
	if hi2.X-lo2.X > 12*c.Width || hi2.Y-lo2.Y > 12*c.Height {
		c.Problem, c.Turns = "the camera turned too far for one flat picture", nil
	}
	return c
}

// moves is how far the background went over the clip at most, px.
func (e *Estimator) moves() float64 {
	var far float64
	for _, f := range e.all {
		// A point that was hardly seen does not tell.
		if len(f.seen) < 5 {
			continue
		}
		for _, s := range f.seen {
			far = math.Max(far, r2.Norm(r2.Sub(s.at, f.at)))
		}
	}
	return far
}

// turns fits one rotation a frame, in order, each to all background points that
// were born earlier; and gives the root mean square misfit, large misfits
// counted as [inlier]. Rotations lead from the frame's axes to those of frame 0.
func (e *Estimator) turns(c *stabilize.Rotations) (turns [][3]float64, rms float64) {
	n := e.frame + 1
	byFrame := make([][]struct {
		f  *feature
		at r2.Vec
	}, n)
	for _, f := range e.all {
		for _, s := range f.seen {
			byFrame[s.frame] = append(byFrame[s.frame], struct {
				f  *feature
				at r2.Vec
			}{f, s.at})
		}
	}
	turns = make([][3]float64, n)
	rot := make([]quat.Number, n)
	rot[0] = stabilize.Rotation(turns[0])
	var sum, count float64
	for i := 1; i < n; i++ {
		r := rot[i-1]
		list := byFrame[i]
		// Rays in the axes of frame 0.
		rays := make([]stabilize.Direction, len(list))
		for k, s := range list {
			rays[k] = stabilize.Rotate(rot[s.f.born], c.Ray(s.f.at))
		}
		for range 6 {
			var a [9]float64
			var b [3]float64
			for k, s := range list {
				// The ray as the guess sees it, and how a small turn w moves it:
				// d' = d - w x d in the frame's axes.
				d := back(r, rays[k])
				if d.Z <= 0 {
					continue
				}
				u, v := d.X/d.Z, d.Y/d.Z
				ex, ey := s.at.X-c.Width/2-c.Focal*u, s.at.Y-c.Height/2-c.Focal*v
				w := 1.0
				if e := math.Hypot(ex, ey); e > inlier {
					w = inlier / e
				}
				jx := [3]float64{c.Focal * u * v, -c.Focal * (1 + u*u), c.Focal * v}
				jy := [3]float64{c.Focal * (1 + v*v), -c.Focal * u * v, -c.Focal * u}
				for p := range 3 {
					for q := range 3 {
						a[3*p+q] += w * (jx[p]*jx[q] + jy[p]*jy[q])
					}
					b[p] += w * (jx[p]*ex + jy[p]*ey)
				}
			}
			for p := range 3 {
				a[4*p] += 1e-6 * c.Focal * c.Focal
			}
			if linsolve.Solve(a[:], b[:]) != nil {
				break
			}
			r = quat.Mul(r, stabilize.Rotation(b))
			if math.Abs(b[0])+math.Abs(b[1])+math.Abs(b[2]) < 1e-9 {
				break
			}
		}
		rot[i], turns[i] = r, vector(r)
		for k, s := range list {
			d := back(r, rays[k])
			if d.Z <= 0 {
				continue
			}
			m := math.Hypot(s.at.X-c.Width/2-c.Focal*d.X/d.Z, s.at.Y-c.Height/2-c.Focal*d.Y/d.Z)
			m = math.Min(m, inlier)
			sum, count = sum+m*m, count+1
		}
	}
	return turns, math.Sqrt(sum / math.Max(1, count))
}

// back turns by the inverse of a rotation.
func back(r quat.Number, d stabilize.Direction) stabilize.Direction {
	return stabilize.Rotate(quat.Conj(r), d)
}

// vector is the rotation vector of a rotation.
func vector(r quat.Number) [3]float64 {
	s := math.Sqrt(r.Imag*r.Imag + r.Jmag*r.Jmag + r.Kmag*r.Kmag)
	if s < 1e-15 {
		return [3]float64{}
	}
	k := 2 * math.Atan2(s, r.Real) / s
	return [3]float64{k * r.Imag, k * r.Jmag, k * r.Kmag}
}

// middle is the frame that looks to the middle of the pan.
func middle(turns [][3]float64) int {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, v := range turns {
		lo, hi = math.Min(lo, v[1]), math.Max(hi, v[1])
	}
	best := 0
	for i, v := range turns {
		if math.Abs(v[1]-(lo+hi)/2) < math.Abs(turns[best][1]-(lo+hi)/2) {
			best = i
		}
	}
	return best
}

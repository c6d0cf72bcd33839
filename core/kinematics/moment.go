package kinematics

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"
)

// Search looks for the moment at which points come to rest or leave, in the points as they were
// placed: smoothing would wash the moment out.
//
// Of a point that rests, places scatter about one. From the moment on (or up to it) it moves
// with a speed and an acceleration that nobody knows, and the acceleration wanders as that of
// limbs does. How likely the places are if it was this moment or that is told by a Kalman filter
// that goes through them (Kalman 1960, J. Basic Eng. 82:35; Schweppe 1965, IEEE Trans. Inf.
// Theory 11:61; both from memory); the mean of all moments by that is the answer, their scatter
// its doubt. Far frames count as much as they tell, and what wanders is not taken for movement.
type Search struct {
	Rate   float64 // frames per true second
	Height float64 // standing height, px: limbs move in heights
	Sigma  float64 // scatter of a point, px
	Drift  r2.Vec  // how what rests moves against the common frame, px/s: a belt
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

// What limbs do about such a moment, standing heights and seconds, standard deviations. Assumed;
// shaped on the lots that are there to build on.
const (
	speedThere   = 1.0
	creepThere   = 0.05
	pushThere    = 60.0
	restless     = 300.0 // by how much an acceleration changes in a second,
	struck       = 500.0 // and before a landing, which is a blow
	gentlyPushed = 4.0   // the acceleration of who begins to move from a stance, and its change
	gently       = 30.0

	moves     = 0.08 // how much of the movement takes part, s
	inside    = 0.05 // and how much of the rest, into which a heel may leave;
	before    = 0.08 // who leaves has stood longer
	mayBeOff  = 0.06 // how far about the guess to look,
	looks     = 4    // so many times
	leastSeen = 5
)

// Moment is when a point that rests over the frames a to b came to rest or left,
// in frames from the clip's start, with its standard deviation.
func (s Search) Moment(p *Path, a, b, way int) (at, sd float64) {
	guess, other := float64(b), float64(a)
	if way == Rests {
		guess, other = other, guess
	}
	span := math.Max(3, mayBeOff*s.Rate)
	how, quiet := begins{speedThere, pushThere, restless}, before
	if way == Rests {
		how.restless, quiet = struck, inside
	}
	at, sd = guess, span
	for range looks {
		// Never past the far end of the rest.
		rest := math.Min(math.Max(3, quiet*s.Rate), math.Abs(at-other))
		found, doubt, ok := s.likeliest([]*Path{p}, at, rest, math.Max(5, moves*s.Rate), span, way, how)
		if !ok {
			break
		}
		moved := math.Abs(found - at)
		if at, sd = found, doubt; moved < rest/4 {
			break // else there may be better ones beyond
		}
	}
	if s.Errors.Hangs > 0 {
		sd *= wandering
	}
	return at, sd
}

// wandering widens the doubt of moments of points that wander: they do not do so evenly.
// Assumed; shaped on the lots that are there to build on.
const wandering = 1.3

// Onset is when several points that rest up to about a guess begin to move
// together, gently (from no speed), with its standard deviation; frames. Reach
// is how far about the guess to look, s.
func (s Search) Onset(paths []*Path, guess int, reach float64) (at, sd float64, ok bool) {
	r := math.Max(4, reach*s.Rate)
	return s.likeliest(paths, float64(guess), 2*r, r, r, Leaves, begins{0, gentlyPushed, gently})
}

// begins is how a movement may begin: standard deviations of its speed, of its acceleration,
// and of how much this changes in a second.
type begins struct{ speed, push, restless float64 }

const (
	searchRate = 160  // how finely a moment is looked for at first, 1/s
	unlikely   = 12   // what is less likely by so many natural logarithms is not looked at again
	finely     = 24   // moments between those that are left
	least      = 0.1  // frames: no moment is surer
	leastSigma = 0.05 // px: no point is placed more exactly
)

// likeliest finds the moment about a guess: rest and move are how many frames on either side of
// it take part, span how far off it may lie.
func (s Search) likeliest(paths []*Path, guess, rest, move, span float64, way int, how begins) (at, sd float64, ok bool) {
	from, to := guess-rest, guess+move
	if way == Rests {
		from, to = guess-move, guess+rest
	}
	var filters []*filter
	for _, p := range paths {
		f := s.filter(p, int(math.Floor(from)), int(math.Ceil(to)), way, how)
		if f == nil {
			return guess, span, false
		}
		filters = append(filters, f)
	}
	lo, hi := guess-span, guess+span
	// Two frames of rest at least, or it is not known where.
	for _, f := range filters {
		if edge := float64(way) * f.list[1].t; way == Leaves {
			lo = math.Max(lo, edge)
		} else {
			hi = math.Min(hi, edge)
		}
	}
	if hi <= lo {
		return guess, span, false
	}
	look := func(lo, hi float64, n int) (at []float64, likely []float64) {
		for i := range n + 1 {
			c := lo + (hi-lo)*float64(i)/float64(n)
			v := 0.0
			for _, f := range filters {
				v += f.likely(c * float64(way))
			}
			at, likely = append(at, c), append(likely, v)
		}
		return at, likely
	}
	all, likely := look(lo, hi, max(2, int(math.Ceil((hi-lo)/math.Max(0.5, s.Rate/searchRate)))))
	best := slices.Max(likely)
	first, last := -1, 0
	for i, v := range likely {
		if v > best-unlikely {
			if first < 0 {
				first = i
			}
			last = i
		}
	}
	all, likely = look(all[max(0, first-1)], all[min(len(all)-1, last+1)], finely)
	best = slices.Max(likely)
	// What moves otherwise than limbs are taken to makes all of it less sure.
	worse := 0.0
	for _, f := range filters {
		worse = math.Max(worse, f.misfit(all[slices.Index(likely, best)]*float64(way)))
	}
	worse = math.Max(1, worse)
	var sum, mean, square float64
	for i, c := range all {
		w := math.Exp((likely[i] - best) / worse)
		sum, mean, square = sum+w, mean+w*c, square+w*c*c
	}
	at = mean / sum
	return at, math.Sqrt(math.Max(0, square/sum-at*at) + least*least), true
}

// sample is a point as it was placed, less the drift of what rests, from its first place on; t
// counts frames from rest to movement.
type sample struct{ t, x, y float64 }

// filter goes through the samples of a point.
type filter struct {
	list  []sample
	how   begins  // px and frames
	white float64 // variance of what is new in each place
	slow  float64 // and of what dies away,
	hangs float64 // by this factor a frame
	wide  float64 // variance of where it rests
	creep float64
	rest  []state // after each sample, if it rests up to there
}

func (s Search) filter(p *Path, lo, hi, way int, how begins) *filter {
	f := &filter{hangs: s.Errors.Hangs}
	for i := max(lo, p.From); i <= hi && i < p.End(); i++ {
		if q, ok := p.Seen(i); ok {
			t := float64(i)
			f.list = append(f.list, sample{t * float64(way), q.X - t/s.Rate*s.Drift.X, q.Y - t/s.Rate*s.Drift.Y})
		}
	}
	if len(f.list) < leastSeen {
		return nil
	}
	if way == Rests {
		slices.Reverse(f.list)
	}
	x, y := f.list[0].x, f.list[0].y
	for i := range f.list {
		f.list[i].x, f.list[i].y = f.list[i].x-x, f.list[i].y-y
	}
	// Heights a second in px a frame.
	k, dt := s.Height*s.Height, 1/s.Rate
	f.how = begins{k * sq(how.speed*dt), k * sq(how.push*dt*dt), k * sq(how.restless) * math.Pow(dt, 5)}
	f.wide = k
	if s.Creeps {
		f.creep = k * sq(creepThere*dt)
	}
	f.white, f.slow = s.Errors.parts()
	if f.white == 0 {
		f.white = sq(math.Max(s.Sigma, leastSigma))
	}
	at := state{xx: f.wide, vv: f.creep, ee: f.slow}
	f.rest = make([]state, len(f.list))
	for i, q := range f.list {
		if i > 0 {
			gap := q.t - f.list[i-1].t
			at.on(gap, 0, math.Pow(f.hangs, gap), f.slow)
		}
		at.see(q, f.white)
		f.rest[i] = at
	}
	return f
}

// goes is the state at the end of all samples of a point that rested up to c.
func (f *filter) goes(c float64) state {
	k := 1
	for k < len(f.list) && f.list[k].t <= c {
		k++
	}
	at := f.rest[k-1]
	if k == len(f.list) {
		return at
	}
	if f.creep > 0 {
		at.on(math.Max(0, c-f.list[k-1].t), 0, 1, f.slow)
	}
	at.v, at.xv, at.vv, at.ve = [2]float64{}, 0, f.how.speed, 0
	at.aa = f.how.push
	last, moving := f.list[k-1].t, math.Max(c, f.list[k-1].t)
	for _, q := range f.list[k:] {
		at.on(q.t-moving, f.how.restless, math.Pow(f.hangs, q.t-last), f.slow)
		at.see(q, f.white)
		last, moving = q.t, q.t
	}
	return at
}

// likely is the logarithm of how likely all samples are.
func (f *filter) likely(c float64) float64 { return f.goes(c).likely }

// misfit is how much farther off they are than the filter took them to be: 1 if they are as it
// says.
func (f *filter) misfit(c float64) float64 {
	return f.goes(c).off / float64(2*len(f.list)-2)
}

// state is what is known of a point after some samples: place, speed, acceleration and slow
// error, px and frames, of both coordinates; variances are the same for both.
type state struct {
	x, v, a, e                             [2]float64
	xx, xv, xa, xe, vv, va, ve, aa, ae, ee float64
	likely, off                            float64
}

// on goes on by d frames; restless is the variance by which the acceleration changes in a frame.
func (s *state) on(d, restless, hangs, slow float64) {
	h := d * d / 2
	for i := range 2 {
		s.x[i] += d*s.v[i] + h*s.a[i]
		s.v[i] += d * s.a[i]
		s.e[i] *= hangs
	}
	s.xx += 2*d*s.xv + d*d*(s.xa+s.vv) + d*d*d*s.va + h*h*s.aa + restless*d*d*d*d*d/20
	s.xv += d*(s.xa+s.vv) + (d*d+h)*s.va + h*d*s.aa + restless*d*d*d*d/8
	s.xa += d*s.va + h*s.aa + restless*d*d*d/6
	s.xe = hangs * (s.xe + d*s.ve + h*s.ae)
	s.vv += 2*d*s.va + d*d*s.aa + restless*d*d*d/3
	s.va += d*s.aa + restless*d*d/2
	s.ve = hangs * (s.ve + d*s.ae)
	s.aa += restless * d
	s.ae *= hangs
	s.ee = hangs*hangs*s.ee + (1-hangs*hangs)*slow
}

// see takes a place in.
func (s *state) see(q sample, white float64) {
	all := s.xx + 2*s.xe + s.ee + white
	kx, kv, ka, ke := (s.xx+s.xe)/all, (s.xv+s.ve)/all, (s.xa+s.ae)/all, (s.xe+s.ee)/all
	for i, z := range [2]float64{q.x, q.y} {
		d := z - s.x[i] - s.e[i]
		s.x[i], s.v[i], s.a[i], s.e[i] = s.x[i]+kx*d, s.v[i]+kv*d, s.a[i]+ka*d, s.e[i]+ke*d
		s.off += d * d / all
		s.likely -= d * d / (2 * all)
	}
	s.likely -= math.Log(all)
	s.xx, s.xv, s.xa, s.xe = s.xx-kx*kx*all, s.xv-kx*kv*all, s.xa-kx*ka*all, s.xe-kx*ke*all
	s.vv, s.va, s.ve = s.vv-kv*kv*all, s.va-kv*ka*all, s.ve-kv*ke*all
	s.aa, s.ae, s.ee = s.aa-ka*ka*all, s.ae-ka*ke*all, s.ee-ke*ke*all
}

func sq(x float64) float64 { return x * x }

package evaluate

import (
	"math"
	"slices"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/signal"
	"neokinema/core/sport"
	"neokinema/core/stabilize"
	"neokinema/core/uncertainty"
)

// Who passes a camera that does not look square at his way grows or shrinks as he goes. Of a
// way that leaves the plane of the picture by theta, ln(scale) changes by -sin(theta)/Z a
// metre at the distance Z: so limbs that are compared along the way tell the angle, and one
// plane of motion, which stands on the way, takes the place of one scale for the whole
// picture.

// sight is that plane. Its doubts are those of the numbers of [sight.numbers].
type sight struct {
	at      float64 // x of the way, px, where level holds
	level   float64 // ln of px per metre
	levelSD float64
	slope   float64 // of ln(px per metre), 1/px, at the same place
	slopeSD float64
	focal   float64 // ln of px
	focalSD float64
	pitch   float64 // by which the camera looks down, rad
	pitchSD float64
	middle  r2.Vec // where the axis of the camera meets the picture, px
}

// Of a camera beside a way. A coach who means to stand square is off by offSquare; a
// telephone's picture is as far from the lens as it is wide, or twice that when it zooms.
// Assumed.
const (
	offSquare     = 8 * math.Pi / 180 // rad, standard deviation
	wideFocal     = 1.3
	wideSpread    = 0.4
	pitchSpread   = 4 * math.Pi / 180   // rad, by which somebody who follows hips from afar looks up or down
	rollDrift     = 0.5 * math.Pi / 180 // rad, by which he tilts it as he turns
	turnedSpread  = 0.05                // of a camera that turned far enough to know its focal length
	sightWindow   = 0.2                 // s; limbs are compared between stretches so long: about a step
	leastWindows  = 3                   //
	leastLimbs    = 3                   // that are seen in a stretch
	windowScatter = 0.025               // of the ln of their longest looks, at least
	leastWay      = 1.0                 // standing heights that somebody must go
	upright       = 0.25                // standing heights by which hips of somebody who runs go up and down at most
)

// findSight compares limbs along the way.
func (e *Evaluation) findSight() {
	if e.Scale == nil {
		return
	}
	mpp, clip := e.Scale.MetresPerPixel, e.Input.Clip
	s := &sight{level: -math.Log(mpp.Value), levelSD: mpp.SD / mpp.Value, focal: math.Log(wideFocal * float64(max(clip.Width, clip.Height, 1))), focalSD: wideSpread,
		middle: e.view.Forward(r2.Vec{X: float64(clip.Width) / 2, Y: float64(clip.Height) / 2})}
	s.at = s.middle.X
	if l := e.Input.Scale; l != nil {
		s.at = e.view.Forward(r2.Vec{X: (l.AX + l.BX) / 2}).X
	}
	e.sight = s
	if clip.View != "side" {
		return
	}
	if c := e.Input.Camera; e.usable() && c.Turned() > turnsEnough && c.Focal > 0 {
		s.focal, s.focalSD = math.Log(c.Focal), turnedSpread
	}
	s.pitch, s.pitchSD = looksDown(e.Input.Camera)
	s.slopeSD = math.Sin(offSquare) / math.Exp(s.focal)
	if event := sport.Of(e.Model.ID); event.Circle > 0 || event.Curved || !e.usable() {
		return
	}
	e.compareLimbs(s)
}

// looksDown is by how much the camera looked down in the reference frame, rad, and its doubt.
// Who follows an athlete holds the telephone level all the while, so that the way its right
// side goes is the horizon's (Brown and Lowe, Automatic Panoramic Image Stitching using
// Invariant Features, 2007, section 4).
func looksDown(c *stabilize.Rotations) (pitch, sd float64) {
	weight := 1 / (pitchSpread * pitchSpread)
	var sum float64
	if c.Usable() && !c.Still() {
		// Down is (0, 1, pitch) there, and a level side has none of it.
		w := 1 / (rollDrift * rollDrift * float64(len(c.Turns)))
		for _, turn := range c.Turns {
			right := stabilize.Rotate(stabilize.Rotation(turn), stabilize.Direction{X: 1})
			sum, weight = sum-w*right.Z*right.Y, weight+w*right.Z*right.Z
		}
	}
	return sum / weight, 1 / math.Sqrt(weight)
}

// compareLimbs looks how limbs grow along the way.
func (e *Evaluation) compareLimbs(s *sight) {
	tall := e.StandingHeight()
	wide := e.pictures(max(4, int(math.Round(sightWindow*e.shown()))))
	var xs, ys, lns []float64
	for from := 0; from+wide <= e.Clock.Len(); from += wide {
		if x, y, ln, ok := e.limbsFrom(from, from+wide); ok {
			xs, ys, lns = append(xs, x), append(ys, y), append(lns, ln)
		}
	}
	if len(xs) == 0 {
		return
	}
	// Who hangs on a pole or lies over a bar does not run.
	usual, n := signal.Median(ys), 0
	for i := range xs {
		if math.Abs(ys[i]-usual) < upright*tall {
			xs[n], lns[n] = xs[i], lns[i]
			n++
		}
	}
	if n < leastWindows {
		return
	}
	var mx, ml, xx, xl, off float64
	for i := range n {
		mx, ml = mx+xs[i]/float64(n), ml+lns[i]/float64(n)
	}
	for i := range n {
		xx, xl = xx+(xs[i]-mx)*(xs[i]-mx), xl+(xs[i]-mx)*(lns[i]-ml)
	}
	if math.Sqrt(xx/float64(n))*2 < leastWay*tall {
		return
	}
	slope := xl / xx
	for i := range n {
		d := lns[i] - ml - slope*(xs[i]-mx)
		off += d * d
	}
	// The looks, and what coaches mean to do, each by its doubt.
	sd := math.Max(windowScatter, math.Sqrt(off/float64(n-2))) / math.Sqrt(xx)
	v := 1 / (1/(sd*sd) + 1/(s.slopeSD*s.slopeSD))
	s.slope, s.slopeSD = v*slope/(sd*sd), math.Sqrt(v)
	if e.Input.Scale == nil {
		s.at, s.level = mx, ml
	}
}

// limbsFrom is where the hips are in a stretch, and ln of how many px a metre of the legs has.
func (e *Evaluation) limbsFrom(from, to int) (x, y, ln float64, ok bool) {
	var xs, ys, lns []float64
	var own []int // what lies between pictures was not seen
	for f := from; f < to; f++ {
		if !e.Input.Clip.Pictures.Own(f) {
			continue
		}
		own = append(own, f)
		if p, ok := e.Movement.Where("mid_hip", f); ok {
			xs, ys = append(xs, p.X), append(ys, p.Y)
		}
	}
	if 2*len(xs) < len(own) {
		return 0, 0, 0, false
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		for _, l := range limbs {
			if !l.scale {
				continue
			}
			a, b := e.Movement.Paths[string(side)+"_"+l.from], e.Movement.Paths[string(side)+"_"+l.to]
			var looks []float64
			for _, f := range own {
				p, okP := a.Where(f)
				q, okQ := b.Where(f)
				if okP && okQ {
					looks = append(looks, r2.Norm(r2.Sub(p, q)))
				}
			}
			if 2*len(looks) >= len(own) {
				lns = append(lns, math.Log(quantile(looks, usualLook)/body.Length(e.Input.Athlete, l.segment)))
			}
		}
	}
	if len(xs) == 0 || len(lns) < leastLimbs {
		return 0, 0, 0, false
	}
	return signal.Median(xs), signal.Median(ys), signal.Median(lns), true
}

// quantile is the value that a share of a list stays below.
func quantile(list []float64, share float64) float64 {
	sorted := slices.Clone(list)
	sort.Float64s(sorted)
	return sorted[min(len(sorted)-1, int(share*float64(len(sorted))))]
}

// numbers are what a place of the plane depends on, and their doubt: level, slope, ln of the
// focal length and pitch.
func (s *sight) numbers() (x, sd []float64) {
	return []float64{s.level, s.slope, s.focal, s.pitch}, []float64{s.levelSD, s.slopeSD, s.focalSD, s.pitchSD}
}

// flat is the place of a point of the plane, m: along the way from where level holds, and up
// from the height of the lens; by numbers as [sight.numbers] gives them.
func (s *sight) flat(p r2.Vec, numbers []float64) r2.Vec {
	level, slope, focal := numbers[0], numbers[1], math.Exp(numbers[2])
	u0, u, v := (s.at-s.middle.X)/focal, (p.X-s.middle.X)/focal, (p.Y-s.middle.Y)/focal
	// As a level camera at the same place would have seen it.
	down, straight := math.Sincos(numbers[3])
	deep := straight + v*down
	u, v = u/deep, (v*straight-down)/deep
	sin, cos := math.Sincos(math.Atan2(-slope*focal, 1-slope*focal*u0))
	away := focal / math.Exp(level) // along the sight, where level holds
	ahead := cos - u*sin
	if ahead < leastAhead {
		return r2.Vec{X: math.NaN(), Y: math.NaN()} // nobody runs along the sight
	}
	along := away * (u - u0) / ahead
	return r2.Vec{X: along, Y: v * (away + along*sin)}
}

// past is the tangent by which a line of sight meets the way past its square at a place that
// is so far along, by the same numbers.
func (s *sight) past(along float64, numbers []float64) float64 {
	level, slope, focal := numbers[0], numbers[1], math.Exp(numbers[2])
	u0 := (s.at - s.middle.X) / focal
	sin, cos := math.Sincos(math.Atan2(-slope*focal, 1-slope*focal*u0))
	away := focal / math.Exp(level)
	return (along + away*(u0*cos+sin)) / (away * (cos - u0*sin))
}

// away is how far along the sight a place of the way is, m, by the same numbers.
func (s *sight) away(along float64, numbers []float64) float64 {
	level, slope, focal := numbers[0], numbers[1], math.Exp(numbers[2])
	sin := math.Sin(math.Atan2(-slope*focal, 1-slope*(s.at-s.middle.X)))
	return math.Max(1, focal/math.Exp(level)+along*sin)
}

// beside is how far landmarks lie from the middle of the body towards their side, standing
// heights: of somebody who runs or throws, by body proportions. Assumed; off by a third of it and
// a little, since limbs swing to the side.
var beside = map[string]float64{"ear": 0.04, "shoulder": 0.11, "elbow": 0.14, "wrist": 0.13, "hand": 0.13, "hip": 0.05, "knee": 0.05, "ankle": 0.04, "heel": 0.045, "toe": 0.045}

const (
	besideShare = 0.35
	besideMore  = 0.015 // standing heights
	turnedAside = 0.12  // where a limb of somebody who does not face along his way may be, standing heights
	armsLength  = 0.25  // and what he holds
)

// faces tells whether the athlete faces along his way in a clip from the side, so that which
// limb is how much nearer to the camera is known.
func (e *Evaluation) faces() bool {
	event := sport.Of(e.Model.ID)
	return e.Input.Clip.View == "side" && event.Implement == nil && !event.Curved
}

// lateral is how much nearer to the camera than the middle of the body the points of a measure
// lie, m, and the doubt of it.
func (q *query) lateral() (z, sd []float64) {
	tall := q.Input.Athlete.Height
	// What lies on one side lies to the same side of the way: only how far apart is unknown.
	share := besideShare
	if sides := q.sides(); len(sides) == 1 {
		share = 0
	}
	for _, role := range q.m.Points {
		ids := q.roles.Resolve(role)
		side, part, _ := strings.Cut(ids[0], "_")
		by := beside[part] * tall
		switch {
		case by == 0:
			z, sd = append(z, 0), append(sd, armsLength*tall)
		case len(ids) > 1:
			z, sd = append(z, 0), append(sd, besideMore*tall)
		case !q.faces():
			z, sd = append(z, 0), append(sd, turnedAside*tall)
		default:
			if body.Side(side) != q.roles.Near {
				by = -by
			}
			z, sd = append(z, by), append(sd, share*math.Abs(by)+besideMore*tall)
		}
	}
	return z, sd
}

// sides are those of a measure's points: left, right, and "mid" for the middle of both.
func (q *query) sides() map[string]bool {
	out := map[string]bool{}
	for _, role := range q.m.Points {
		ids := q.roles.Resolve(role)
		side, _, _ := strings.Cut(ids[0], "_")
		if len(ids) > 1 {
			side = "mid"
		}
		out[side] = true
	}
	return out
}

// sidelong carries the doubt of the places of a measure through a function of them in metres.
// What lies nearer to the camera than the way shows larger, and past its place unless it is
// seen square.
func (q *query) sidelong(of func(places []r2.Vec) float64) uncertainty.Estimate {
	n := len(q.x) / 2
	z, zsd := q.lateral()
	if len(z) != n {
		z, zsd = make([]float64, n), make([]float64, n)
	}
	return q.metres(func(p []r2.Vec, numbers, z []float64) float64 {
		for i := range p {
			along := p[i].X
			p[i].X -= z[i] * q.sight.past(along, numbers)
			p[i].Y *= 1 - z[i]/q.sight.away(along, numbers)
		}
		return of(p)
	}, n, append(slices.Clone(q.x), z...), append(slices.Clone(q.sd), zsd...))
}

// leastAhead is how square a line of sight must meet the way. Assumed.
const leastAhead = 0.3

// squarely is where a place of the picture would show in one that looks square at the plane of
// motion, px of the same size where level holds.
func (e *Evaluation) squarely(px r2.Vec) r2.Vec {
	n, _ := e.sight.numbers()
	return e.view.Picture(r2.Scale(math.Exp(e.sight.level), e.sight.flat(e.view.Forward(px), n)))
}

// paceSD is the doubt of a way in the plane of motion where the hips are last seen, as a share
// of it.
func (e *Evaluation) paceSD() float64 {
	for f := e.Clock.Len() - 1; f >= 0; f-- {
		p, ok := e.Movement.Where("mid_hip", f)
		if !ok {
			continue
		}
		step := 0.1 * math.Exp(e.sight.level)
		v := e.metres(func(at []r2.Vec, _, _ []float64) float64 { return at[1].X - at[0].X }, 2, []float64{p.X, p.Y, p.X + step, p.Y}, make([]float64, 4))
		return math.Abs(v.SD / v.Value)
	}
	return e.sight.levelSD
}

// metres carries the doubt of places and of the plane through a function of places in
// metres: x are coordinates of points in px, in turn. The numbers of the plane and what stands
// behind the coordinates are handed on.
func (e *Evaluation) metres(of func(places []r2.Vec, numbers, rest []float64) float64, points int, x, sd []float64) uncertainty.Estimate {
	nx, nsd := e.sight.numbers()
	all, sds := append(slices.Clone(nx), x...), append(slices.Clone(nsd), sd...)
	return uncertainty.Propagate(func(v []float64) float64 {
		places := make([]r2.Vec, points)
		for i := range places {
			places[i] = e.sight.flat(r2.Vec{X: v[len(nx)+2*i], Y: v[len(nx)+1+2*i]}, v[:len(nx)])
		}
		return of(places, v[:len(nx)], v[len(nx)+2*points:])
	}, all, sds)
}

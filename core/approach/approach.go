// Package approach reads a run-up on the ground: where each foot stood, how long and how fast
// its steps were, the curve on which they lie and the lean that it asks for.
//
// Places are (along, right) on the marked ground, m; angles in degrees; times in s.
package approach

import (
	"errors"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/flight"
	"neokinema/core/linsolve"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// Foot is one contact as the picture shows it.
type Foot struct {
	Side     body.Side
	From, To int     // frames of touchdown and toe-off
	On       float64 // touchdown, s
	OnSD     float64
	Toe      r2.Vec // px of the common frame, while the foot stands
	Sigma    float64
}

// Run is a run-up on the ground, its feet in order of time.
type Run struct {
	Feet    []Foot
	eye     *camera.Camera
	tall    float64 // standing height, m
	as      sample
	cameras []*camera.Camera // those as far off as the marks leave open
	others  []sample         // each off by one standard deviation of one thing, the cameras first
}

// sample is where and when the feet come down if things are as they seem.
type sample struct {
	at []r2.Vec
	on []float64
}

// Errors of a run-up.
var (
	ErrFew      = errors.New("no two steps of the run-up are seen standing on the marked ground")
	ErrShort    = errors.New("four feet or more of the curve must be seen standing, the plant among them")
	ErrHorizon  = errors.New("a foot shows above the horizon of the marked ground: mark it again")
	ErrStraight = errors.New("these steps lie on a straight line, as far as they can be placed")
	ErrAlong    = errors.New("the curve is seen from the side here; its lean shows from behind or in front")
)

// aside is how far a runner sets a foot off his way from step to step, m. Assumed.
const aside = 0.03

// soleSD is the doubt of how high the points of all shoes lie, m: seen flat, it moves all of them
// together along the sight. Assumed.
const soleSD = 0.012

// New places feet on the ground; tall is the standing height, m.
func New(eye *camera.Camera, feet []Foot, tall float64) (*Run, error) {
	if len(feet) < 2 {
		return nil, ErrFew
	}
	r := &Run{Feet: feet, eye: eye, tall: tall}
	var ok bool
	if r.as, ok = r.sampled(eye, body.SoleHeight, nil); !ok {
		return nil, ErrHorizon
	}
	for _, near := range eye.Near {
		if s, ok := r.sampled(near, body.SoleHeight, nil); ok {
			r.cameras, r.others = append(r.cameras, near), append(r.others, s)
		}
	}
	if s, ok := r.sampled(eye, body.SoleHeight+soleSD, nil); ok {
		r.others = append(r.others, s)
	}
	for i, f := range feet {
		for _, by := range []r2.Vec{{X: f.Sigma}, {Y: f.Sigma}} {
			if s, ok := r.sampled(eye, body.SoleHeight, func(k int) r2.Vec {
				if k == i {
					return by
				}
				return r2.Vec{}
			}); ok {
				r.others = append(r.others, s)
			}
		}
		late := sample{r.as.at, slices.Clone(r.as.on)}
		late.on[i] += f.OnSD
		r.others = append(r.others, late)
	}
	return r, nil
}

func (r *Run) sampled(eye *camera.Camera, level float64, off func(int) r2.Vec) (s sample, ok bool) {
	for i, f := range r.Feet {
		q := f.Toe
		if off != nil {
			q = r2.Add(q, off(i))
		}
		p, hits := eye.OnLevel(q, level)
		if !hits {
			return s, false
		}
		s.at, s.on = append(s.at, r2.Vec{X: p.X, Y: p.Z}), append(s.on, f.On)
	}
	return s, true
}

// read carries the doubt of places and times through a function of them.
func (r *Run) read(of func(sample) float64) uncertainty.Estimate {
	return r.among(of, r.others)
}

func (r *Run) among(of func(sample) float64, others []sample) uncertainty.Estimate {
	v, sum := of(r.as), 0.0
	for _, o := range others {
		d := of(o) - v
		sum += d * d
	}
	return uncertainty.Normal(v, math.Sqrt(sum))
}

// Place is where the ith foot stands, along and to the right.
func (r *Run) Place(i int) (along, right uncertainty.Estimate) {
	return r.read(func(s sample) float64 { return s.at[i].X }), r.read(func(s sample) float64 { return s.at[i].Y })
}

// Along is where along a pixel lies that shows a shoe on the ground; false above the horizon.
func (r *Run) Along(q r2.Vec, sigma float64) (uncertainty.Estimate, bool) {
	at := func(eye *camera.Camera, q r2.Vec) float64 {
		p, hits := eye.OnLevel(q, body.SoleHeight)
		if !hits {
			return math.NaN()
		}
		return p.X
	}
	v := at(r.eye, q)
	sum := 0.0
	add := func(x float64) { sum += (x - v) * (x - v) }
	add(at(r.eye, r2.Add(q, r2.Vec{X: sigma})))
	add(at(r.eye, r2.Add(q, r2.Vec{Y: sigma})))
	for _, c := range r.cameras {
		add(at(c, q))
	}
	return uncertainty.Normal(v, math.Sqrt(sum)), !math.IsNaN(v + sum)
}

// Step is the step from the ith foot to the next: its length and its speed, from touchdown to
// touchdown.
func (r *Run) Step(i int) (length, speed uncertainty.Estimate) {
	long := func(s sample) float64 { return r2.Norm(r2.Sub(s.at[i+1], s.at[i])) }
	return r.read(long), r.read(func(s sample) float64 { return long(s) / (s.on[i+1] - s.on[i]) })
}

// Heading is the direction of the way from one foot to another, to the right of along.
func (r *Run) Heading(from, to int) uncertainty.Estimate {
	return r.read(func(s sample) float64 {
		d := r2.Sub(s.at[to], s.at[from])
		return math.Atan2(d.Y, d.X) * 180 / math.Pi
	})
}

// Curve is the arc on which the last feet of a run-up stand.
type Curve struct {
	Feet    int                  `json:"feet" doc:"the last so many, the plant among them"`
	Radius  uncertainty.Estimate `json:"radius" doc:"m, of the line of the feet"`
	Left    bool                 `json:"left" doc:"it turns to the left"`
	Speed   uncertainty.Estimate `json:"speed" doc:"m/s on it, up to the last foot but one"`
	Lean    uncertainty.Estimate `json:"lean" doc:"degrees inward that speed and radius ask for"`
	Heading uncertainty.Estimate `json:"heading" doc:"of the way at the last foot, degrees to the right of along"`
	Way     [][2]float64         `json:"way" doc:"the arc, along and to the right, m; for drawing"`
}

// Of the feet of a curve: how many are taken, and how many it takes. Before the last five most
// run straight. Common practice, no source.
const (
	curveFeet  = 5
	leastFeet  = 4
	setOutward = 0.06 // how far the last two may stand off the way, m: the step before the plant is set outward
)

// centreHigh is the height of the centre of mass over the ground of somebody who runs, standing
// heights. Assumed, from body proportions.
const centreHigh = 0.54

// Curve fits an arc to the last feet. Left and right feet stand on both sides of the way.
func (r *Run) Curve() (Curve, error) {
	n := min(curveFeet, len(r.Feet))
	if n < leastFeet {
		return Curve{}, ErrShort
	}
	first := len(r.Feet) - n
	// Where a runner sets his feet is no error of the picture, but the way is not known better.
	others := slices.Clone(r.others)
	for i := first; i < len(r.Feet); i++ {
		s := sample{slices.Clone(r.as.at), r.as.on}
		d := r2.Unit(r2.Sub(r.as.at[len(r.Feet)-1], r.as.at[first]))
		by := aside
		if i >= len(r.Feet)-2 {
			by = setOutward
		}
		s.at[i] = r2.Add(s.at[i], r2.Scale(by, r2.Vec{X: -d.Y, Y: d.X}))
		others = append(others, s)
	}
	of := func(f func(arc, sample) float64) uncertainty.Estimate {
		return r.among(func(s sample) float64 { return f(r.fit(s, first), s) }, others)
	}
	bend := of(func(a arc, _ sample) float64 { return a.bend })
	if math.Abs(bend.Value) < 2*bend.SD {
		return Curve{}, ErrStraight
	}
	c := Curve{Feet: n, Left: bend.Value > 0}
	c.Radius = uncertainty.Normal(1/math.Abs(bend.Value), bend.SD/(bend.Value*bend.Value))
	c.Speed = r.read(func(s sample) float64 { return speed(s, first) })
	c.Lean = of(func(a arc, s sample) float64 { return r.asked(speed(s, first), math.Abs(a.bend)) })
	c.Heading = of(func(a arc, _ sample) float64 { return a.heading * 180 / math.Pi })
	c.Way = r.fit(r.as, first).way(r.as.at[len(r.Feet)-1], r2.Norm(r2.Sub(r.as.at[len(r.Feet)-1], r.as.at[first])))
	return c, nil
}

// drawnIn is how many pieces an arc is drawn in.
const drawnIn = 24

// way are places along the arc, from so far before the last foot to it.
func (a arc) way(last r2.Vec, far float64) (out [][2]float64) {
	sin, cos := math.Sincos(a.heading)
	at := r2.Add(last, r2.Scale(a.off, r2.Vec{X: sin, Y: -cos}))
	h := a.heading
	for range drawnIn + 1 {
		out = append(out, [2]float64{math.Round(1000*at.X) / 1000, math.Round(1000*at.Y) / 1000})
		// Backwards along the way, which turns to the left by bend.
		d := far / drawnIn
		mid := h + a.bend*d/2
		s, c := math.Sincos(mid)
		at = r2.Sub(at, r2.Vec{X: d * c, Y: d * s})
		h += a.bend * d
	}
	return out
}

// speed up to the last foot but one: the plant reaches ahead of the body.
func speed(s sample, first int) float64 {
	last := len(s.at) - 2
	var way float64
	for i := first; i < last; i++ {
		way += r2.Norm(r2.Sub(s.at[i+1], s.at[i]))
	}
	return way / (s.on[last] - s.on[first])
}

// asked is the lean that a speed on a bent line of feet asks for, degrees: tan lean = v2 / (g r)
// of the centre of mass, which runs inside of the feet on a smaller circle and more slowly.
func (r *Run) asked(speed, bend float64) float64 {
	turns := speed * bend // rad/s
	lean := 0.0
	for range 30 {
		lean = math.Atan(turns * turns * math.Max(0, 1/bend-centreHigh*r.tall*math.Sin(lean)) / flight.Gravity)
	}
	return lean * 180 / math.Pi
}

// arc is a way through the last foot: bend in 1/m, to the left when positive, heading in rad to
// the right of along, off how far the foot stands to the left of the way, and half of the base
// between left and right feet.
type arc struct{ off, heading, bend, half float64 }

// halfBase is half of the way between the lines of left and right feet, m, and its doubt. Common
// practice, no source.
const (
	halfBase   = 0.05
	halfBaseSD = 0.04
)

// fit is the arc of least squares through the feet from first on.
func (r *Run) fit(s sample, first int) arc {
	last := len(s.at) - 1
	d := r2.Sub(s.at[last], s.at[first])
	a := arc{heading: math.Atan2(d.Y, d.X), half: halfBase}
	residuals := func(a arc) (out []float64) {
		for i := first; i <= last; i++ {
			sd := aside
			if i >= last-1 {
				sd = setOutward
			}
			out = append(out, (a.left(r2.Sub(s.at[i], s.at[last]))-a.side(r.Feet[i].Side))/sd)
		}
		return append(out, (a.half-halfBase)/halfBaseSD)
	}
	for range 12 {
		at := residuals(a)
		var n [16]float64
		var g [4]float64
		var j [4][]float64
		const h = 1e-5
		for k := range 4 {
			for i, v := range residuals(a.moved(k, h)) {
				j[k] = append(j[k], (v-at[i])/h)
			}
		}
		for x := range 4 {
			for i := range at {
				g[x] -= j[x][i] * at[i]
				for y := range 4 {
					n[4*x+y] += j[x][i] * j[y][i]
				}
			}
		}
		if linsolve.Solve(n[:], g[:]) != nil {
			break
		}
		for k := range 4 {
			a = a.moved(k, g[k])
		}
	}
	return a
}

func (a arc) moved(k int, by float64) arc {
	*[]*float64{&a.off, &a.heading, &a.bend, &a.half}[k] += by
	return a
}

func (a arc) side(s body.Side) float64 {
	if s == body.Left {
		return a.half
	}
	return -a.half
}

// left is how far to the left of the way a place lies, counted from the last foot. For a circle
// of curvature k through the origin with unit normal n it is -A / (1 + sqrt(1 + k A)), with
// A = k u2 - 2 u n (Pratt 1987, SIGGRAPH 21:145), which holds for straight lines too.
func (a arc) left(u r2.Vec) float64 {
	sin, cos := math.Sincos(a.heading)
	n := r2.Vec{X: sin, Y: -cos} // to the left
	u = r2.Sub(u, r2.Scale(a.off, n))
	q := a.bend*r2.Norm2(u) - 2*r2.Dot(u, n)
	return -q / (1 + math.Sqrt(math.Max(0, 1+a.bend*q)))
}

// inward is the direction across the way at a place, towards the middle of the curve.
func (a arc) inward(u r2.Vec) r2.Vec {
	const h = 1e-4
	g := r2.Vec{X: a.left(r2.Add(u, r2.Vec{X: h})) - a.left(r2.Sub(u, r2.Vec{X: h})), Y: a.left(r2.Add(u, r2.Vec{Y: h})) - a.left(r2.Sub(u, r2.Vec{Y: h}))}
	if a.bend < 0 {
		g = r2.Scale(-1, g)
	}
	return r2.Unit(g)
}

// leastSquare is how well a line of sight must look along the way for a lean to be seen, as the
// cosine of the angle between them; over is how far the centre of mass may be from over the
// foot when it is taken to be there, m. Assumed.
const (
	leastSquare = 0.6
	over        = 0.1
)

// Lean is the inward lean in which the centre of mass, at a pixel, stands over the ith foot as
// it passes over it; sigma is the pixel's scatter.
func (r *Run) Lean(i int, centre r2.Vec, sigma float64) (uncertainty.Estimate, error) {
	n := min(curveFeet, len(r.Feet))
	if n < leastFeet {
		return uncertainty.Estimate{}, ErrShort
	}
	first := len(r.Feet) - n
	seen := func(eye *camera.Camera, s sample, q r2.Vec, ahead float64) (lean, square float64) {
		last := s.at[len(s.at)-1]
		in := r.fit(s, first).inward(r2.Sub(s.at[i], last))
		inward, along := vec3.Vec{X: in.X, Z: in.Y}, vec3.Vec{X: in.Y, Z: -in.X}
		foot := vec3.Add(vec3.Vec{X: s.at[i].X, Z: s.at[i].Y}, vec3.Scale(ahead, along))
		ray := eye.Ray(q)
		square = vec3.Dot(ray, along)
		p := vec3.Add(eye.At, vec3.Scale(vec3.Dot(vec3.Sub(foot, eye.At), along)/square, ray))
		return math.Atan2(vec3.Dot(vec3.Sub(p, foot), inward), p.Y) * 180 / math.Pi, math.Abs(square)
	}
	v, square := seen(r.eye, r.as, centre, 0)
	if square < leastSquare {
		return uncertainty.Estimate{}, ErrAlong
	}
	var sum float64
	add := func(w, _ float64) { sum += (w - v) * (w - v) }
	for i, o := range r.others {
		eye := r.eye
		if i < len(r.cameras) {
			eye = r.cameras[i]
		}
		add(seen(eye, o, centre, 0))
	}
	add(seen(r.eye, r.as, r2.Add(centre, r2.Vec{X: sigma}), 0))
	add(seen(r.eye, r.as, r2.Add(centre, r2.Vec{Y: sigma}), 0))
	add(seen(r.eye, r.as, centre, over))
	return uncertainty.Normal(v, math.Sqrt(sum)), nil
}

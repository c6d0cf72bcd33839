// Package sight finds where a camera stands from known places on the ground, so
// that a pixel becomes a line in the world.
//
// World: x in the throwing direction, y up, z to the right of somebody who faces
// that way; metres.
package sight

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/ground"
	"neokinema/core/linear"
	"neokinema/core/space"
)

// Camera is a pinhole camera with square pixels and its axis through the middle
// of the picture.
type Camera struct {
	At      space.Vec // where it stands, m
	Right   space.Vec // axes of the picture in the world
	Down    space.Vec //
	Ahead   space.Vec // line of sight
	Focal   float64   // px
	Middle  r2.Vec    // px
	ErrorPx float64   // root mean square distance of the known places from where the camera puts them
	FocalSD float64   // of ln(focal): a circle seen flat says little of it
	flat    bool      // everything is taken to move in one plane across the sight
}

// Errors of [Fit].
var (
	ErrBelow = errors.New("these places would be seen from below the ground; check which is left and which is right")
	ErrAim   = errors.New("the place in the middle of the sector must lie on the ground, a metre or more from the middle of the circle; click it again")
	ErrPoor  = errors.New("no camera sees these places where they were clicked; click them again")
)

// Picture is where a place shows, px; false behind the camera.
func (c *Camera) Picture(p space.Vec) (r2.Vec, bool) {
	d := space.Sub(p, c.At)
	z := space.Dot(d, c.Ahead)
	if z <= 0.01 {
		return r2.Vec{}, false
	}
	return r2.Add(c.Middle, r2.Scale(c.Focal/z, r2.Vec{X: space.Dot(d, c.Right), Y: space.Dot(d, c.Down)})), true
}

// Ray is the direction in which a pixel looks, of length 1.
func (c *Camera) Ray(q r2.Vec) space.Vec {
	d := r2.Scale(1/c.Focal, r2.Sub(q, c.Middle))
	return space.Unit(space.Add(c.Ahead, space.Add(space.Scale(d.X, c.Right), space.Scale(d.Y, c.Down))))
}

// OnLevel is the place at a height that shows at a pixel; false when the line of
// sight does not come there.
func (c *Camera) OnLevel(q r2.Vec, height float64) (space.Vec, bool) {
	if c.flat {
		return c.Beside(q, space.Vec{}), true
	}
	d := c.Ray(q)
	if math.Abs(d.Y) < 1e-6 {
		return space.Vec{}, false
	}
	k := (height - c.At.Y) / d.Y
	if k <= 0 {
		return space.Vec{}, false
	}
	return space.Add(c.At, space.Scale(k, d)), true
}

// Beside is the place that shows at a pixel and is as far away, along the line of
// sight of the picture's middle, as p.
func (c *Camera) Beside(q r2.Vec, p space.Vec) space.Vec {
	d := c.Ray(q)
	return space.Add(c.At, space.Scale(space.Dot(space.Sub(p, c.At), c.Ahead)/space.Dot(d, c.Ahead), d))
}

// Flat is a camera that looks square at a plane of motion from far away: for a
// clip from the side that has a scale and no marked ground. Metres per pixel; right
// is +1 when the throw goes to the right of the picture; ground is the pixel of the
// world's origin.
func Flat(metresPerPixel, right float64, ground r2.Vec) *Camera {
	const far = 1000
	return &Camera{At: space.Vec{Z: right * far}, Right: space.Vec{X: right}, Down: space.Vec{Y: -1}, Ahead: space.Vec{Z: -right}, Focal: far / metresPerPixel, Middle: ground, flat: true}
}

// Scale is how many pixels a metre across the line of sight has at p.
func (c *Camera) Scale(p space.Vec) float64 { return c.Focal / space.Dot(space.Sub(p, c.At), c.Ahead) }

// What is known of a camera before it is fitted: it stands some 10 m away; its
// picture is 1 to 3 times as far from the lens as it is wide; clicked places scatter
// by two pixels. Common practice, no source. A coach who says how far he stood is
// right to half a metre.
const (
	usualAway   = 10.0
	awaySpread  = 0.35
	saidSpread  = 0.5 // m
	usualFocal  = 1.5
	focalSpread = 0.7
	clickSigma  = 2.0
)

// Fit finds the camera that sees marks where they were clicked: least squares by
// Levenberg and Marquardt over place, attitude and focal length, begun from the
// homography of the ground at several focal lengths. Common brings a pixel of a
// frame into the common frame; focal is that of a camera that turned, 0 when it
// is not known.
func Fit(m ground.Marks, common func(frame int, p r2.Vec) r2.Vec, width, height int, focal float64) (*Camera, error) {
	plane, err := ground.Fit(m, common)
	if err != nil {
		return nil, err
	}
	mid := r2.Vec{X: float64(width) / 2, Y: float64(height) / 2}
	var world []space.Vec
	var seen []r2.Vec
	var rims []float64
	for _, p := range m.Points {
		q := common(p.Frame, r2.Vec{X: p.X, Y: p.Y})
		at := space.Vec{X: p.Along, Z: p.Right}
		if p.Rim > 0 {
			g := plane.Ground(q)
			at = space.Scale(p.Rim/r2.Norm(g), space.Vec{X: g.X, Z: g.Y})
		}
		world, seen, rims = append(world, at), append(seen, q), append(rims, p.Rim)
	}
	usual, spread := usualFocal*float64(max(width, height)), focalSpread
	if focal > 0 {
		usual, spread = focal, 0.03
	}
	f := fit{world: world, seen: seen, rims: rims, mid: mid, usual: math.Log(usual), spread: spread, away: math.Log(usualAway), awaySpread: awaySpread}
	if m.Away > 0 {
		f.away, f.awaySpread = math.Log(m.Away), saidSpread/m.Away
	}
	best, bestCost := state{}, math.Inf(1)
	below := false
	for k := -3; k <= 3; k++ {
		s, ok := decompose(plane.ToPicture, mid, usual*math.Exp(float64(k)*0.4), world)
		if !ok {
			below = true
			continue
		}
		if s, cost := f.refine(s); cost < bestCost && s.down.Y < 0 {
			best, bestCost = s, cost
		}
	}
	if math.IsInf(bestCost, 1) && below {
		// Ground that is seen very flat says little of how it lies: the scatter of the
		// clicks decides whether it seems to be seen from above. So look from all round.
		for _, s := range f.around(math.Log(usual)) {
			if s, cost := f.refine(s); cost < bestCost && s.down.Y < 0 && cost < roundLimit*roundLimit*float64(2*len(world)) {
				best, bestCost = s, cost
			}
		}
	}
	switch {
	case math.IsInf(bestCost, 1) && below:
		return nil, ErrBelow
	case math.IsInf(bestCost, 1) || math.IsNaN(bestCost):
		return nil, ErrPoor
	}
	c := best.camera(mid)
	var sum float64
	for i := range world {
		q, ok := c.Picture(f.place(c, i))
		if !ok {
			return nil, ErrPoor
		}
		sum += r2.Norm2(r2.Sub(q, seen[i]))
	}
	c.ErrorPx = math.Sqrt(sum / float64(len(world)))
	c.FocalSD = f.focalSD(best)
	if c.At.Y <= 0 {
		return nil, ErrBelow
	}
	if m.Aim != nil {
		p, ok := c.OnLevel(common(m.Aim.Frame, r2.Vec{X: m.Aim.X, Y: m.Aim.Y}), 0)
		if !ok || math.Hypot(p.X, p.Z) < leastAim {
			return nil, ErrAim
		}
		c.turn(math.Atan2(p.Z, p.X))
	}
	return c, nil
}

// leastAim is how far from the middle of the circle a place must lie to tell a
// direction, m.
const leastAim = 1.0

// turn brings what lies at an angle to the right of the throwing direction into it.
func (c *Camera) turn(by float64) {
	up := space.Vec{Y: 1}
	for _, v := range []*space.Vec{&c.At, &c.Right, &c.Down, &c.Ahead} {
		*v = space.Turn(*v, up, by)
	}
}

// A camera that was found from guesses all round must see the places within so many
// scatters of clicks, or they are clicked wrongly.
const roundLimit = 3.0

// around are upright cameras at a man's chest all round the places that look at them.
func (f *fit) around(focal float64) (out []state) {
	var mid space.Vec
	for _, p := range f.world {
		mid = space.Add(mid, space.Scale(1/float64(len(f.world)), p))
	}
	const guesses = 12
	for i := range guesses {
		s, c := math.Sincos(2 * math.Pi * float64(i) / guesses)
		far := math.Exp(f.away)
		st := state{at: space.Vec{X: mid.X + far*c, Y: 1.5, Z: mid.Z + far*s}, focal: focal}
		st.to = space.Unit(space.Sub(mid, st.at))
		st.right = space.Unit(space.Cross(st.to, space.Vec{Y: 1}))
		st.down = space.Cross(st.to, st.right)
		out = append(out, st)
	}
	return out
}

// state is a camera as the fit moves it: its place, axes, ln(focal).
type state struct {
	at              space.Vec
	right, down, to space.Vec
	focal           float64 // ln
}

func (s state) camera(mid r2.Vec) *Camera {
	return &Camera{At: s.at, Right: s.right, Down: s.down, Ahead: s.to, Focal: math.Exp(s.focal), Middle: mid}
}

// decompose reads a camera off a homography of the ground at a focal length: its
// columns are the pictures of the ground's axes and origin (Zhang 2000, IEEE PAMI
// 22:1330).
func decompose(h [9]float64, mid r2.Vec, focal float64, world []space.Vec) (state, bool) {
	col := func(j int) space.Vec {
		w := h[6+j]
		return space.Vec{X: (h[j] - mid.X*w) / focal, Y: (h[3+j] - mid.Y*w) / focal, Z: w}
	}
	a, b, t := col(0), col(1), col(2)
	k := 1 / math.Sqrt(space.Norm(a)*space.Norm(b))
	// What was clicked lies before the camera.
	c := space.Add(t, space.Add(space.Scale(world[0].X, a), space.Scale(world[0].Z, b)))
	if c.Z < 0 {
		k = -k
	}
	ex := space.Unit(space.Scale(k, a)) // the ground's x and z in camera axes
	ez := space.Scale(k, b)
	ez = space.Unit(space.Sub(ez, space.Scale(space.Dot(ez, ex), ex)))
	ey := space.Cross(ez, ex)
	t = space.Scale(k, t)
	s := state{focal: math.Log(focal),
		right: space.Vec{X: ex.X, Y: ey.X, Z: ez.X}, down: space.Vec{X: ex.Y, Y: ey.Y, Z: ez.Y}, to: space.Vec{X: ex.Z, Y: ey.Z, Z: ez.Z}}
	s.at = space.Scale(-1, space.Vec{X: space.Dot(ex, t), Y: space.Dot(ey, t), Z: space.Dot(ez, t)})
	// From far away a camera upside down beyond the places would see nearly the same.
	return s, s.at.Y > 0 && s.down.Y < 0
}

type fit struct {
	world         []space.Vec
	seen          []r2.Vec
	rims          []float64
	mid           r2.Vec
	usual, spread float64 // of ln(focal)
	away          float64 // of ln(distance)
	awaySpread    float64
}

// place is where a mark is in the world: as known, or on the rim where the camera
// sees it.
func (f *fit) place(c *Camera, i int) space.Vec {
	if f.rims[i] == 0 {
		return f.world[i]
	}
	p := ground.OnRim(func(g r2.Vec) r2.Vec {
		q, _ := c.Picture(space.Vec{X: g.X, Z: g.Y})
		return q
	}, r2.Vec{X: f.world[i].X, Y: f.world[i].Z}, f.seen[i], f.rims[i])
	return space.Vec{X: p.X, Z: p.Y}
}

// residuals are distances in clicks' scatter, and what focal length and distance
// are off the usual ones.
func (f *fit) residuals(s state) []float64 {
	c := s.camera(f.mid)
	out := make([]float64, 0, 2*len(f.world)+2)
	for i := range f.world {
		q, ok := c.Picture(f.place(c, i))
		if !ok {
			q = r2.Vec{X: 1e6, Y: 1e6}
		}
		out = append(out, (q.X-f.seen[i].X)/clickSigma, (q.Y-f.seen[i].Y)/clickSigma)
	}
	return append(out, (s.focal-f.usual)/f.spread, (math.Log(space.Norm(s.at))-f.away)/f.awaySpread)
}

const unknowns = 7

// moved is a state after small steps: place, turns about the camera's axes,
// ln(focal).
func (s state) moved(d [unknowns]float64) state {
	s.at = space.Add(s.at, space.Vec{X: d[0], Y: d[1], Z: d[2]})
	w := space.Add(space.Scale(d[3], s.right), space.Add(space.Scale(d[4], s.down), space.Scale(d[5], s.to)))
	if n := space.Norm(w); n > 0 {
		axis := space.Scale(1/n, w)
		s.right, s.down, s.to = space.Turn(s.right, axis, n), space.Turn(s.down, axis, n), space.Turn(s.to, axis, n)
	}
	s.focal += d[6]
	return s
}

func (f *fit) normal(s state) (n [unknowns * unknowns]float64, r [unknowns]float64, cost float64) {
	at := f.residuals(s)
	var j [unknowns][]float64
	for k := range unknowns {
		const h = 1e-5
		var d [unknowns]float64
		d[k] = h
		up := f.residuals(s.moved(d))
		j[k] = make([]float64, len(at))
		for i := range at {
			j[k][i] = (up[i] - at[i]) / h
		}
	}
	for _, v := range at {
		cost += v * v
	}
	for a := range unknowns {
		for b := range unknowns {
			for i := range at {
				n[a*unknowns+b] += j[a][i] * j[b][i]
			}
		}
		for i := range at {
			r[a] -= j[a][i] * at[i]
		}
	}
	return n, r, cost
}

func (f *fit) refine(s state) (state, float64) {
	damp := 1e-3
	n, r, cost := f.normal(s)
	for range 60 {
		m, d := n, r
		for k := range unknowns {
			m[k*(unknowns+1)] *= 1 + damp
		}
		if linear.Solve(m[:], d[:]) != nil {
			break
		}
		next := s.moved(d)
		var c float64
		for _, v := range f.residuals(next) {
			c += v * v
		}
		if !(c < cost) {
			if damp *= 10; damp > 1e8 {
				break
			}
			continue
		}
		done := cost-c < 1e-9*cost
		s, damp = next, damp/10
		n, r, cost = f.normal(s)
		if done {
			break
		}
	}
	return s, cost
}

// focalSD is the doubt of ln(focal) that clicks and what is usual leave.
func (f *fit) focalSD(s state) float64 {
	n, _, _ := f.normal(s)
	var e [unknowns]float64
	e[6] = 1
	if linear.Solve(n[:], e[:]) != nil || e[6] < 0 {
		return f.spread
	}
	return math.Sqrt(e[6])
}

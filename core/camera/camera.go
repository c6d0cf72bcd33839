// Package camera finds where a camera stands from known places on the ground, so
// that a pixel becomes a line in the world.
//
// World: x in the throwing direction, y up, z to the right of somebody who faces
// that way; metres.
package camera

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/ground"
	"neokinema/core/linsolve"
	"neokinema/core/vec3"
)

// Camera is a pinhole camera with square pixels and its axis through the middle
// of the picture.
type Camera struct {
	At      vec3.Vec  // where it stands, m
	Right   vec3.Vec  // axes of the picture in the world
	Down    vec3.Vec  //
	Ahead   vec3.Vec  // line of sight
	Focal   float64   // px
	Middle  r2.Vec    // px
	ErrorPx float64   // root mean square distance of the known places from where the camera puts them
	FocalSD float64   // of ln(focal): a circle seen flat says little of it
	ScaleSD float64   // of the scale where the known places lie, as a share
	Near    []*Camera // as far off as the fit leaves open, each in a direction of its own
	flat    bool      // everything is taken to move in one plane across the sight
}

// Errors of [EstimatePose].
var (
	ErrBelow = errors.New("these places would be seen from below the ground; check which is left and which is right")
	ErrAim   = errors.New("the place in the middle of the sector must lie on the ground, a metre or more from the middle of the circle; click it again")
	ErrPoor  = errors.New("no camera sees these places where they were clicked; click them again")
)

// Picture is where a place shows, px; false behind the camera.
func (c *Camera) Picture(p vec3.Vec) (r2.Vec, bool) {
	d := vec3.Sub(p, c.At)
	z := vec3.Dot(d, c.Ahead)
	if z <= 0.01 {
		return r2.Vec{}, false
	}
	return r2.Add(c.Middle, r2.Scale(c.Focal/z, r2.Vec{X: vec3.Dot(d, c.Right), Y: vec3.Dot(d, c.Down)})), true
}

// Ray is the direction in which a pixel looks, of length 1.
func (c *Camera) Ray(q r2.Vec) vec3.Vec {
	d := r2.Scale(1/c.Focal, r2.Sub(q, c.Middle))
	return vec3.Unit(vec3.Add(c.Ahead, vec3.Add(vec3.Scale(d.X, c.Right), vec3.Scale(d.Y, c.Down))))
}

// OnLevel is the place at a height that shows at a pixel; false when the line of
// sight does not come there.
func (c *Camera) OnLevel(q r2.Vec, height float64) (vec3.Vec, bool) {
	if c.flat {
		return c.Beside(q, vec3.Vec{}), true
	}
	d := c.Ray(q)
	if math.Abs(d.Y) < 1e-6 {
		return vec3.Vec{}, false
	}
	k := (height - c.At.Y) / d.Y
	if k <= 0 {
		return vec3.Vec{}, false
	}
	return vec3.Add(c.At, vec3.Scale(k, d)), true
}

// Beside is the place that shows at a pixel and is as far away, along the line of
// sight of the picture's middle, as p.
func (c *Camera) Beside(q r2.Vec, p vec3.Vec) vec3.Vec {
	d := c.Ray(q)
	return vec3.Add(c.At, vec3.Scale(vec3.Dot(vec3.Sub(p, c.At), c.Ahead)/vec3.Dot(d, c.Ahead), d))
}

// Orthographic is a camera that looks square at a plane of motion from far away: for a
// clip from the side that has a scale and no marked ground. Metres per pixel; right
// is +1 when the throw goes to the right of the picture; ground is the pixel of the
// world's origin.
func Orthographic(metresPerPixel, right float64, ground r2.Vec) *Camera {
	const far = 1000
	return &Camera{At: vec3.Vec{Z: right * far}, Right: vec3.Vec{X: right}, Down: vec3.Vec{Y: -1}, Ahead: vec3.Vec{Z: -right}, Focal: far / metresPerPixel, Middle: ground, flat: true}
}

// Scale is how many pixels a metre across the line of sight has at p.
func (c *Camera) Scale(p vec3.Vec) float64 { return c.Focal / vec3.Dot(vec3.Sub(p, c.At), c.Ahead) }

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

// Hints are what is known of a camera before its marks are looked at; zero where it is not.
type Hints struct {
	Focal float64 // px, of a camera that turned
	// Scale is how many px a metre across the sight has in the middle of the named places, as
	// somebody shows who passes there; ScaleSD its doubt as a share.
	Scale, ScaleSD float64
}

// EstimatePose finds the camera that sees marks where they were clicked: least squares by
// Levenberg and Marquardt over place, attitude and focal length, begun from the
// homography of the ground at several focal lengths. Common brings a pixel of a
// frame into the common frame.
func EstimatePose(m ground.ControlPoints, common func(frame int, p r2.Vec) r2.Vec, width, height int, known Hints) (*Camera, error) {
	plane, err := ground.Fit(m, common)
	if err != nil && !standing(m) {
		return nil, err
	}
	mid := r2.Vec{X: float64(width) / 2, Y: float64(height) / 2}
	var world []vec3.Vec
	var seen []r2.Vec
	var settled []ground.ControlPoint
	near, named := 0.0, 0.0 // about where along the run the named places lie
	for _, p := range m.Points {
		if !p.Loose() {
			near, named = near+p.Along, named+1
		}
	}
	near /= math.Max(1, named)
	for _, p := range m.Points {
		q := common(p.Frame, r2.Vec{X: p.X, Y: p.Y})
		at := vec3.Vec{X: p.Along, Y: p.Up, Z: p.Right}
		switch {
		case p.Loose() && plane == nil:
			continue // what stands upright tells enough
		case p.Rim > 0:
			g := plane.Ground(q)
			at = vec3.Scale(p.Rim/r2.Norm(g), vec3.Vec{X: g.X, Z: g.Y})
		case p.Line:
			at.X = near
		}
		world, seen, settled = append(world, at), append(seen, q), append(settled, p)
	}
	usual, spread := usualFocal*float64(max(width, height)), focalSpread
	if known.Focal > 0 {
		usual, spread = known.Focal, 0.03
	}
	f := fit{world: world, seen: seen, marks: settled, mid: mid, usual: math.Log(usual), spread: spread, away: math.Log(usualAway), awaySpread: awaySpread}
	if known.Scale > 0 && known.ScaleSD > 0 {
		f.scale, f.scaleSD = math.Log(known.Scale), known.ScaleSD
	}
	for i, p := range settled {
		if !p.Loose() {
			f.named = append(f.named, world[i])
		}
	}
	if m.Away > 0 {
		f.away, f.awaySpread = math.Log(m.Away), saidSpread/m.Away
	}
	best, bestCost := state{}, math.Inf(1)
	below := false
	for k := -3; k <= 3 && plane != nil; k++ {
		s, ok := decompose(plane.ToPicture, mid, usual*math.Exp(float64(k)*0.4), world)
		if !ok {
			below = true
			continue
		}
		if s, cost := f.refine(s); cost < bestCost && s.down.Y < 0 {
			best, bestCost = s, cost
		}
	}
	within := func(limit float64) float64 { return limit * limit * float64(2*len(world)) }
	if math.IsInf(bestCost, 1) && (below || plane == nil) || bestCost > within(usualFit) {
		// Ground that is seen very flat says little of how it lies: the scatter of the
		// clicks decides whether it seems to be seen from above, and where the fit begins
		// whether it ends in a camera that sees it so. So look from all round.
		for _, s := range f.around(math.Log(usual)) {
			if s, cost := f.refine(s); cost < bestCost && s.down.Y < 0 && cost < within(roundLimit) {
				best, bestCost = s, cost
			}
		}
	}
	switch {
	case math.IsInf(bestCost, 1) && below:
		return nil, ErrBelow
	case math.IsInf(bestCost, 1) || math.IsNaN(bestCost) || bestCost > within(worstLimit):
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
	c.FocalSD, c.ScaleSD = f.doubts(best)
	c.Near = f.near(best)
	if c.At.Y <= 0 {
		return nil, ErrBelow
	}
	if m.Aim != nil {
		p, ok := c.OnLevel(common(m.Aim.Frame, r2.Vec{X: m.Aim.X, Y: m.Aim.Y}), 0)
		if !ok || math.Hypot(p.X, p.Z) < leastAim {
			return nil, ErrAim
		}
		for _, k := range append(c.Near, c) {
			k.turn(math.Atan2(p.Z, p.X))
		}
	}
	return c, nil
}

// standing tells whether places off the ground tell a camera by themselves: two of them at
// different places, over two on the ground.
func standing(m ground.ControlPoints) bool {
	up, down := map[[2]float64]bool{}, map[[2]float64]bool{}
	for _, p := range m.Points {
		switch at := [2]float64{p.Along, p.Right}; {
		case p.Loose():
		case p.Up > 0:
			up[at] = true
		default:
			down[at] = true
		}
	}
	return len(up) >= 2 && len(down) >= 2
}

// Plane is the ground as the camera sees it.
func (c *Camera) Plane() (*ground.Plane, error) {
	var h [9]float64
	origin := vec3.Scale(-1, c.At)
	for j, v := range []vec3.Vec{{X: 1}, {Z: 1}, origin} {
		z := vec3.Dot(v, c.Ahead)
		h[j], h[3+j], h[6+j] = c.Focal*vec3.Dot(v, c.Right)+c.Middle.X*z, c.Focal*vec3.Dot(v, c.Down)+c.Middle.Y*z, z
	}
	p, err := ground.Through(h)
	if err == nil {
		p.ErrorPx, p.ErrorCm = c.ErrorPx, 100*c.ErrorPx/c.Scale(vec3.Vec{})
	}
	return p, err
}

// Doubt is the standard deviation that the camera leaves in whatever is read by it.
func (c *Camera) Doubt(read func(*Camera) float64) float64 {
	at, sum := read(c), 0.0
	for _, k := range c.Near {
		d := read(k) - at
		sum += d * d
	}
	return math.Sqrt(sum)
}

// near are cameras along the columns of the root of the covariance (Cholesky).
func (f *fit) near(s state) (out []*Camera) {
	n, _, _ := f.normal(s)
	var c [unknowns][unknowns]float64
	for k := range unknowns {
		m, e := n, [unknowns]float64{}
		e[k] = 1
		if linsolve.Solve(m[:], e[:]) != nil {
			return nil
		}
		c[k] = e
	}
	var l [unknowns][unknowns]float64
	for i := range unknowns {
		for j := range i + 1 {
			v := (c[i][j] + c[j][i]) / 2
			for k := range j {
				v -= l[i][k] * l[j][k]
			}
			if i == j {
				l[i][i] = math.Sqrt(math.Max(0, v))
			} else if l[j][j] > 0 {
				l[i][j] = v / l[j][j]
			}
		}
	}
	for j := range unknowns {
		var d [unknowns]float64
		for i := range unknowns {
			d[i] = l[i][j]
		}
		out = append(out, s.moved(d).camera(f.mid))
	}
	return out
}

// leastAim is how far from the middle of the circle a place must lie to tell a
// direction, m. Assumed.
const leastAim = 1.0

// turn brings what lies at an angle to the right of the throwing direction into it.
func (c *Camera) turn(by float64) {
	up := vec3.Vec{Y: 1}
	for _, v := range []*vec3.Vec{&c.At, &c.Right, &c.Down, &c.Ahead} {
		*v = vec3.Turn(*v, up, by)
	}
}

// Where places are seen within so many scatters of clicks there is nothing better to look for.
// A camera that was found from guesses all round must see them within some more, or they are
// clicked wrongly; no camera sees them by so many more again. Assumed.
const (
	usualFit   = 1.3
	roundLimit = 3.0
	worstLimit = 8.0
)

// around are upright cameras at a man's chest all round the places that look at them.
func (f *fit) around(focal float64) (out []state) {
	var mid vec3.Vec
	for _, p := range f.world {
		mid = vec3.Add(mid, vec3.Scale(1/float64(len(f.world)), p))
	}
	const guesses = 12
	for i := range guesses {
		s, c := math.Sincos(2 * math.Pi * float64(i) / guesses)
		far := math.Exp(f.away)
		st := state{at: vec3.Vec{X: mid.X + far*c, Y: 1.5, Z: mid.Z + far*s}, focal: focal}
		st.to = vec3.Unit(vec3.Sub(mid, st.at))
		st.right = vec3.Unit(vec3.Cross(st.to, vec3.Vec{Y: 1}))
		st.down = vec3.Cross(st.to, st.right)
		out = append(out, st)
	}
	return out
}

// state is a camera as the fit moves it: its place, axes, ln(focal).
type state struct {
	at              vec3.Vec
	right, down, to vec3.Vec
	focal           float64 // ln
}

func (s state) camera(mid r2.Vec) *Camera {
	return &Camera{At: s.at, Right: s.right, Down: s.down, Ahead: s.to, Focal: math.Exp(s.focal), Middle: mid}
}

// decompose reads a camera off a homography of the ground at a focal length: its
// columns are the pictures of the ground's axes and origin (Zhang 2000, IEEE PAMI
// 22:1330).
func decompose(h [9]float64, mid r2.Vec, focal float64, world []vec3.Vec) (state, bool) {
	col := func(j int) vec3.Vec {
		w := h[6+j]
		return vec3.Vec{X: (h[j] - mid.X*w) / focal, Y: (h[3+j] - mid.Y*w) / focal, Z: w}
	}
	a, b, t := col(0), col(1), col(2)
	k := 1 / math.Sqrt(vec3.Norm(a)*vec3.Norm(b))
	// What was clicked lies before the camera.
	c := vec3.Add(t, vec3.Add(vec3.Scale(world[0].X, a), vec3.Scale(world[0].Z, b)))
	if c.Z < 0 {
		k = -k
	}
	ex := vec3.Unit(vec3.Scale(k, a)) // the ground's x and z in camera axes
	ez := vec3.Scale(k, b)
	ez = vec3.Unit(vec3.Sub(ez, vec3.Scale(vec3.Dot(ez, ex), ex)))
	ey := vec3.Cross(ez, ex)
	t = vec3.Scale(k, t)
	s := state{focal: math.Log(focal),
		right: vec3.Vec{X: ex.X, Y: ey.X, Z: ez.X}, down: vec3.Vec{X: ex.Y, Y: ey.Y, Z: ez.Y}, to: vec3.Vec{X: ex.Z, Y: ey.Z, Z: ez.Z}}
	s.at = vec3.Scale(-1, vec3.Vec{X: vec3.Dot(ex, t), Y: vec3.Dot(ey, t), Z: vec3.Dot(ez, t)})
	// From far away a camera upside down beyond the places would see nearly the same.
	return s, s.at.Y > 0 && s.down.Y < 0
}

type fit struct {
	world         []vec3.Vec
	seen          []r2.Vec
	marks         []ground.ControlPoint
	mid           r2.Vec
	usual, spread float64 // of ln(focal)
	away          float64 // of ln(distance)
	awaySpread    float64
	named         []vec3.Vec // places that are known whole
	scale         float64    // ln of px a metre there, where scaleSD is not 0
	scaleSD       float64
}

// place is where a mark is in the world: as known, or on its rim or line where the camera
// sees it.
func (f *fit) place(c *Camera, i int) vec3.Vec {
	if !f.marks[i].Loose() {
		return f.world[i]
	}
	p := f.marks[i].Settled(func(g r2.Vec) r2.Vec {
		q, _ := c.Picture(vec3.Vec{X: g.X, Z: g.Y})
		return q
	}, r2.Vec{X: f.world[i].X, Y: f.world[i].Z}, f.seen[i])
	return vec3.Vec{X: p.X, Z: p.Y}
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
	out = append(out, (s.focal-f.usual)/f.spread, (math.Log(vec3.Norm(s.at))-f.away)/f.awaySpread)
	if f.scaleSD > 0 {
		out = append(out, (f.scaleAt(s, f.named)-f.scale)/f.scaleSD)
	}
	return out
}

// scaleAt is ln of how many px a metre across the sight has in the middle of places.
func (f *fit) scaleAt(s state, places []vec3.Vec) float64 {
	var mid vec3.Vec
	for _, p := range places {
		mid = vec3.Add(mid, vec3.Scale(1/float64(len(places)), p))
	}
	return s.focal - math.Log(math.Max(1e-3, vec3.Dot(vec3.Sub(mid, s.at), s.to)))
}

const unknowns = 7

// moved is a state after small steps: place, turns about the camera's axes,
// ln(focal).
func (s state) moved(d [unknowns]float64) state {
	s.at = vec3.Add(s.at, vec3.Vec{X: d[0], Y: d[1], Z: d[2]})
	w := vec3.Add(vec3.Scale(d[3], s.right), vec3.Add(vec3.Scale(d[4], s.down), vec3.Scale(d[5], s.to)))
	if n := vec3.Norm(w); n > 0 {
		axis := vec3.Scale(1/n, w)
		s.right, s.down, s.to = vec3.Turn(s.right, axis, n), vec3.Turn(s.down, axis, n), vec3.Turn(s.to, axis, n)
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
		if linsolve.Solve(m[:], d[:]) != nil {
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

// doubts are what clicks and what is usual leave open of ln(focal), and of the scale at
// the middle of the places.
func (f *fit) doubts(s state) (focal, scale float64) {
	at := func(s state) float64 { return f.scaleAt(s, f.world) }
	var g [unknowns]float64
	for k := range unknowns {
		const h = 1e-5
		var d [unknowns]float64
		d[k] = h
		g[k] = (at(s.moved(d)) - at(s)) / h
	}
	n, _, _ := f.normal(s)
	solve := func(e [unknowns]float64) ([unknowns]float64, bool) {
		m, x := n, e
		return x, linsolve.Solve(m[:], x[:]) == nil
	}
	x, ok := solve([unknowns]float64{6: 1})
	y, ok2 := solve(g)
	if !ok || !ok2 || x[6] < 0 {
		return f.spread, f.awaySpread
	}
	for k := range unknowns {
		scale += g[k] * y[k]
	}
	return math.Sqrt(x[6]), math.Sqrt(math.Max(0, scale))
}

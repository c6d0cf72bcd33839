package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"
)

// Color is linear enough for our light: red, green, blue, 0 to 255.
type Color struct{ R, G, B float64 }

// Times scales a colour.
func (c Color) Times(k float64) Color { return Color{c.R * k, c.G * k, c.B * k} }

// Mix goes a share of the way to another colour.
func (c Color) Mix(o Color, t float64) Color {
	return Color{c.R + (o.R-c.R)*t, c.G + (o.G-c.G)*t, c.B + (o.B-c.B)*t}
}

// Cone is a round rod from a to b whose thickness changes evenly; a ball when a
// and b are the same.
type Cone struct {
	A, B   r3.Vec
	RA, RB float64
	Color  Color
	Gloss  float64
}

// Face is a flat quadrilateral, corners in order.
type Face struct {
	Corners [4]r3.Vec
	Color   Color
	Weave   float64 // spacing of a net's threads, m; 0 for a solid face
}

// light is what sun and sky give to a surface of a normal.
func light(sun r3.Vec, c Color, n, toEye r3.Vec, gloss float64) Color {
	direct := math.Max(0, r3.Dot(n, sun))
	sky := 0.5 + 0.5*n.Y
	k := Color{0.36 + 0.14*sky + 0.66*direct, 0.36 + 0.15*sky + 0.62*direct, 0.38 + 0.18*sky + 0.55*direct}
	out := Color{c.R * k.R, c.G * k.G, c.B * k.B}
	if gloss > 0 {
		h := r3.Unit(r3.Add(sun, toEye))
		s := math.Pow(math.Max(0, r3.Dot(n, h)), 28) * gloss * 200
		out = Color{out.R + s, out.G + s, out.B + s}
	}
	return out
}

// layer is a picture with depth; rows of W pixels.
type layer struct {
	w, h  int
	rgb   []float32
	depth []float32 // distance from the lens, m; +Inf is the sky
	floor []bool    // the ground itself, on which shadows fall
}

func newLayer(w, h int) *layer {
	return &layer{w, h, make([]float32, 3*w*h), make([]float32, w*h), make([]bool, w*h)}
}

func (l *layer) put(i int, z float64, c Color) {
	l.depth[i], l.floor[i] = float32(z), false
	p := l.rgb[3*i : 3*i+3 : 3*i+3]
	p[0], p[1], p[2] = float32(c.R), float32(c.G), float32(c.B)
}

// rect is a part of the picture, upper bounds not included.
type rect struct{ x0, y0, x1, y1 int }

func (r rect) empty() bool { return r.x0 >= r.x1 || r.y0 >= r.y1 }

func (r rect) join(o rect) rect {
	if r.empty() {
		return o
	}
	if o.empty() {
		return r
	}
	return rect{min(r.x0, o.x0), min(r.y0, o.y0), max(r.x1, o.x1), max(r.y1, o.y1)}
}

func (r rect) in(w, h int) rect {
	return rect{max(0, r.x0), max(0, r.y0), min(w, r.x1), min(h, r.y1)}
}

// from counts rows from top on, in a layer of h rows.
func (r rect) from(top, h int) rect {
	return rect{r.x0, max(0, r.y0-top), r.x1, min(h, r.y1-top)}
}

// span is the part of the picture that a cone may cover.
func (e *view) span(c Cone) rect {
	var r rect
	for i, p := range [2]r3.Vec{c.A, c.B} {
		rad := [2]float64{c.RA, c.RB}[i]
		px, z := e.project(p, *e)
		if z < 0.15 {
			return rect{}
		}
		k := rad*e.Focal/math.Max(0.1, z-rad)*(1+math.Abs(e.K1)) + 1.5
		k *= 1.15 // seen from the side of the picture a ball is an ellipse
		r = r.join(rect{int(px.X - k), int(px.Y - k), int(px.X+k) + 2, int(px.Y+k) + 2})
	}
	return r.in(e.Width, e.Height)
}

// cone draws a rod. Jitter is where in the pixel the ray goes; top is the
// picture's row at which the layer begins.
func (l *layer) cone(e *view, c Cone, jx, jy float64, top int) {
	r := e.span(c).from(top, l.h)
	jy += float64(top)
	if r.empty() {
		return
	}
	// In camera axes, rays from the origin. The quadratics are those of a
	// sphere-swept segment: side where the touching sphere lies between the
	// ends, else the nearer end's ball.
	vec := func(p r3.Vec) r3.Vec { x, y, z := e.local(p); return r3.Vec{X: x, Y: y, Z: z} }
	a, b := vec(c.A), vec(c.B)
	ba, oa, ob := r3.Sub(b, a), r3.Scale(-1, a), r3.Scale(-1, b)
	rr := c.RA - c.RB
	m0, m1, m5, m7 := r3.Dot(ba, ba), r3.Dot(ba, oa), r3.Dot(oa, oa), r3.Dot(ob, ob)
	d2 := m0 - rr*rr
	// Most pixels of a slanted rod's rectangle are far from it.
	pa, za := e.project(c.A, *e)
	pb, zb := e.project(c.B, *e)
	wide := 1.25*max(c.RA*e.Focal/max(0.1, za-c.RA), c.RB*e.Focal/max(0.1, zb-c.RB))*(1+math.Abs(e.K1)) + 2
	sx, sy := pb.X-pa.X, pb.Y-pa.Y
	long := max(1e-9, sx*sx+sy*sy)
	for y := r.y0; y < r.y1; y++ {
		for x := r.x0; x < r.x1; x++ {
			qx, qy := float64(x)-pa.X, float64(y+top)-pa.Y
			if f := min(1, max(0, (qx*sx+qy*sy)/long)); (qx-f*sx)*(qx-f*sx)+(qy-f*sy)*(qy-f*sy) > wide*wide {
				continue
			}
			rx, ry := e.ray(float64(x)+jx, float64(y)+jy)
			n := 1 / math.Sqrt(rx*rx+ry*ry+1)
			rd := r3.Vec{X: rx * n, Y: ry * n, Z: n}
			m3, m6 := r3.Dot(rd, oa), r3.Dot(rd, ob)
			t := math.Inf(1)
			var normal r3.Vec
			if d2 > 1e-12 {
				m2 := r3.Dot(ba, rd)
				k2 := d2 - m2*m2
				k1 := d2*m3 - m1*m2 + m2*rr*c.RA
				k0 := d2*m5 - m1*m1 + 2*m1*rr*c.RA - m0*c.RA*c.RA
				if h := k1*k1 - k0*k2; h >= 0 {
					s := (-math.Sqrt(h) - k1) / k2
					if along := m1 - c.RA*rr + s*m2; along > 0 && along < d2 {
						t = s
						normal = r3.Sub(r3.Scale(d2, r3.Add(oa, r3.Scale(s, rd))), r3.Scale(along, ba))
					}
				} else {
					continue
				}
			}
			if math.IsInf(t, 1) {
				if h := m3*m3 - m5 + c.RA*c.RA; h > 0 {
					t = -m3 - math.Sqrt(h)
					normal = r3.Add(oa, r3.Scale(t, rd))
				}
				if h := m6*m6 - m7 + c.RB*c.RB; h > 0 {
					if s := -m6 - math.Sqrt(h); s < t {
						t = s
						normal = r3.Add(ob, r3.Scale(s, rd))
					}
				}
			}
			if i := y*l.w + x; t > 0.1 && t < float64(l.depth[i]) {
				nn := r3.Scale(1/math.Sqrt(r3.Norm2(normal)), normal)
				world := r3.Vec{X: e.u.X*nn.X + e.v.X*nn.Y + e.w.X*nn.Z, Y: e.u.Y*nn.X + e.v.Y*nn.Y + e.w.Y*nn.Z, Z: e.u.Z*nn.X + e.v.Z*nn.Y + e.w.Z*nn.Z}
				eye := r3.Scale(-n, e.world(rx, ry))
				l.put(i, t, light(e.sun, c.Color, world, eye, c.Gloss))
			}
		}
	}
}

// face draws a quadrilateral by its plane, pixel by pixel.
func (l *layer) face(e *view, f Face, jx, jy float64, top int) {
	var r rect
	for _, p := range f.Corners {
		px, z := e.project(p, *e)
		if z < 0.15 {
			// A corner behind the camera: look at the whole picture.
			r = rect{0, 0, e.Width, e.Height}
			break
		}
		r = r.join(rect{int(px.X) - 1, int(px.Y) - 1, int(px.X) + 3, int(px.Y) + 3})
	}
	r = r.in(e.Width, e.Height).from(top, l.h)
	jy += float64(top)
	u, v := r3.Sub(f.Corners[1], f.Corners[0]), r3.Sub(f.Corners[3], f.Corners[0])
	n := r3.Unit(r3.Cross(u, v))
	uu, vv := r3.Norm2(u), r3.Norm2(v)
	wide, tall := math.Sqrt(uu), math.Sqrt(vv)
	lit := n
	if r3.Dot(n, r3.Sub(e.At, f.Corners[0])) < 0 {
		lit = r3.Scale(-1, n)
	}
	c := light(e.sun, f.Color, lit, r3.Vec{}, 0)
	off := r3.Dot(n, r3.Sub(f.Corners[0], e.At))
	for y := r.y0; y < r.y1; y++ {
		for x := r.x0; x < r.x1; x++ {
			rx, ry := e.ray(float64(x)+jx, float64(y)+jy)
			d := e.world(rx, ry)
			z := off / r3.Dot(n, d)
			i := y*l.w + x
			far := z * math.Sqrt(rx*rx+ry*ry+1)
			if !(z > 0.1 && far < float64(l.depth[i])) {
				continue
			}
			q := r3.Sub(r3.Add(e.At, r3.Scale(z, d)), f.Corners[0])
			a, b := r3.Dot(q, u)/uu, r3.Dot(q, v)/vv
			if a < 0 || a > 1 || b < 0 || b > 1 {
				continue
			}
			if f.Weave > 0 {
				// Threads: thin lines both ways, wider than a pixel's share fades.
				thick := math.Max(0.004, 0.35*z/e.Focal)
				p, s := Wrap(a*wide, f.Weave), Wrap(b*tall, f.Weave)
				if p > thick && s > thick {
					continue
				}
				k := 3 * i
				t := float32(math.Min(0.75, 0.004/thick))
				l.rgb[k] += (float32(c.R) - l.rgb[k]) * t
				l.rgb[k+1] += (float32(c.G) - l.rgb[k+1]) * t
				l.rgb[k+2] += (float32(c.B) - l.rgb[k+2]) * t
				continue
			}
			l.put(i, far, c)
		}
	}
}

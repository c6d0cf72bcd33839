package film

import (
	"math"
	"runtime"
	"sync"

	"gonum.org/v1/gonum/spatial/r3"
)

// Stage is what stands still: the ground, things with depth, and what lies
// between camera and athlete.
type Stage struct {
	Ground func(x, z, far float64) Color // far: distance to the camera, m
	Cones  []Cone
	Faces  []Face
	Front  []Face // nets, drawn over the athlete
}

// Take is how a clip is shot.
type Take struct {
	Stage    Stage
	Lens     func(t float64) Lens
	Still    bool    // the lens does not move; else it turns on the spot
	From, To float64 // the times of the first and last frame
	Subject  func(t float64) []Cone
	Expose   float64 // exposure time, s
	Samples  int     // pictures added up in an exposure; also smooths edges
	Noise    float64 // standard deviation of a pixel, of 255
	Dim      float64 // light, 1 in the sun
	Sun      r3.Vec  // direction to the sun
	Seed     uint64
}

// Film draws frames of a take; safe for use from many goroutines.
type Film struct {
	Take
	back    *layer
	wide    view // the lens of the background
	scratch sync.Pool
}

type scratch struct {
	work *layer
	sum  []float32
	dark []float32
}

// New prepares a take. The background is drawn once, smoothly: for a lens that
// stands still as it is seen, for one that turns on the spot as a wide picture
// from which every frame is cut.
func New(t Take) *Film {
	if t.Samples < 1 {
		t.Samples = 5
	}
	if t.Sun == (r3.Vec{}) {
		t.Sun = r3.Vec{X: -0.42, Y: 0.80, Z: 0.46}
	}
	t.Sun = r3.Unit(t.Sun)
	f := &Film{Take: t}
	l := t.Lens(t.From)
	f.scratch.New = func() any {
		return &scratch{newLayer(l.Width, l.Height), make([]float32, 3*l.Width*l.Height), make([]float32, l.Width*l.Height)}
	}
	f.wide = f.view(l)
	smooth := 12
	if !t.Still {
		f.wide = f.view(f.widen(l))
		smooth = 3
	}
	f.back = newLayer(f.wide.Width, f.wide.Height)
	// Bands of rows in parallel; each pixel is worked out on its own.
	var done sync.WaitGroup
	bands := runtime.NumCPU() * 4
	for i := range bands {
		done.Go(func() {
			from, to := i*f.wide.Height/bands, (i+1)*f.wide.Height/bands
			f.settle(from, to, smooth)
		})
	}
	done.Wait()
	return f
}

func (f *Film) view(l Lens) view {
	e := newView(l)
	e.sun = f.Sun
	return e
}

// settle draws rows of the background with so many samples a pixel.
func (f *Film) settle(from, to, samples int) {
	// A window on the rows: the same lens with the picture's middle moved.
	band := newLayer(f.wide.Width, to-from)
	for i := range samples {
		jx, jy := jitter(i)
		f.background(band, &f.wide, jx, jy, from)
		rgb := f.back.rgb[3*from*f.wide.Width : 3*to*f.wide.Width]
		for k, v := range band.rgb {
			rgb[k] += v / float32(samples)
		}
		if i == 0 {
			copy(f.back.depth[from*f.wide.Width:], band.depth)
			copy(f.back.floor[from*f.wide.Width:], band.floor)
		}
	}
}

// widen is a lens at the same place that sees all that the turning lens sees.
func (f *Film) widen(l Lens) Lens {
	wide := l
	wide.Roll, wide.K1 = 0, 0
	var middle r3.Vec
	const n = 60
	for i := range n {
		middle = r3.Add(middle, newView(f.Lens(f.From+(f.To-f.From)*float64(i)/(n-1))).w)
	}
	wide.Target = r3.Add(l.At, r3.Scale(10.0/n, middle))
	e := newView(wide)
	var right, down float64
	for i := range n {
		v := newView(f.Lens(f.From + (f.To-f.From)*float64(i)/(n-1)))
		for _, c := range [4][2]float64{{0, 0}, {1, 0}, {0, 1}, {1, 1}} {
			rx, ry := v.ray(c[0]*float64(l.Width), c[1]*float64(l.Height))
			x, y, z := e.local(r3.Add(l.At, v.world(rx, ry)))
			z = math.Max(z, 0.2)
			right, down = math.Max(right, math.Abs(x/z)), math.Max(down, math.Abs(y/z))
		}
	}
	// Very wide turns are drawn a little coarser rather than in vast pictures.
	const most = 6000
	wide.Focal *= math.Min(1, most/(2*right*l.Focal))
	wide.Width, wide.Height = int(2*right*wide.Focal)+12, int(2*down*wide.Focal)+12
	return wide
}

// cut takes the part of the wide picture that a lens sees.
func (f *Film) cut(l *layer, e *view, jx, jy float64) {
	w := &f.wide
	// Rows of the turn from this lens to the wide one.
	m := [3]r3.Vec{{X: r3.Dot(w.u, e.u), Y: r3.Dot(w.u, e.v), Z: r3.Dot(w.u, e.w)}, {X: r3.Dot(w.v, e.u), Y: r3.Dot(w.v, e.v), Z: r3.Dot(w.v, e.w)}, {X: r3.Dot(w.w, e.u), Y: r3.Dot(w.w, e.v), Z: r3.Dot(w.w, e.w)}}
	right, low := float64(w.Width)-1.01, float64(w.Height)-1.01
	cx, cy := float64(w.Width)/2-0.5, float64(w.Height)/2-0.5
	// Without distortion a row's rays go on in even steps.
	even := e.K1 == 0
	var at, by r3.Vec
	for y := range l.h {
		if even {
			rx, ry := e.ray(jx, float64(y)+jy)
			at = r3.Vec{X: m[0].X*rx + m[0].Y*ry + m[0].Z, Y: m[1].X*rx + m[1].Y*ry + m[1].Z, Z: m[2].X*rx + m[2].Y*ry + m[2].Z}
			by = r3.Vec{X: m[0].X / e.Focal, Y: m[1].X / e.Focal, Z: m[2].X / e.Focal}
		}
		for x := range l.w {
			q := r3.Vec{X: at.X + float64(x)*by.X, Y: at.Y + float64(x)*by.Y, Z: at.Z + float64(x)*by.Z}
			if !even {
				rx, ry := e.ray(float64(x)+jx, float64(y)+jy)
				q = r3.Vec{X: m[0].X*rx + m[0].Y*ry + m[0].Z, Y: m[1].X*rx + m[1].Y*ry + m[1].Z, Z: m[2].X*rx + m[2].Y*ry + m[2].Z}
			}
			z := w.Focal / q.Z
			px := min(right, max(0, cx+q.X*z))
			py := min(low, max(0, cy+q.Y*z))
			ix, iy := int(px), int(py)
			fx, fy := float32(px-float64(ix)), float32(py-float64(iy))
			n := iy*w.Width + ix
			a, b := f.back.rgb[3*n:3*n+6:3*n+6], f.back.rgb[3*(n+w.Width):3*(n+w.Width)+6:3*(n+w.Width)+6]
			i := y*l.w + x
			to := l.rgb[3*i : 3*i+3 : 3*i+3]
			for c := range 3 {
				top, low := a[c]+(a[c+3]-a[c])*fx, b[c]+(b[c+3]-b[c])*fx
				to[c] = top + (low-top)*fy
			}
			l.depth[i], l.floor[i] = f.back.depth[n], f.back.floor[n]
		}
	}
}

// jitter spreads samples over a pixel (Halton's sequence, bases 2 and 3).
func jitter(i int) (x, y float64) {
	if i == 0 {
		return 0.5, 0.5
	}
	h := func(i, base int) float64 {
		f, r := 1.0, 0.0
		for ; i > 0; i /= base {
			f /= float64(base)
			r += f * float64(i%base)
		}
		return r
	}
	return h(i, 2), h(i, 3)
}

// background draws what stands still into a layer that holds the rows of the
// picture from top on.
func (f *Film) background(l *layer, e *view, jx, jy float64, top int) {
	for y := range l.h {
		for x := range l.w {
			i := y*l.w + x
			rx, ry := e.ray(float64(x)+jx, float64(top+y)+jy)
			d := e.world(rx, ry)
			if d.Y < -1e-6 {
				z := -e.At.Y / d.Y
				far := z * math.Sqrt(rx*rx+ry*ry+1)
				if far < farthest {
					c := f.Stage.Ground(e.At.X+z*d.X, e.At.Z+z*d.Z, far)
					l.put(i, far, c)
					l.floor[i] = true
					continue
				}
			}
			l.put(i, math.Inf(1), sky(d))
		}
	}
	for _, q := range f.Stage.Faces {
		l.face(e, q, jx, jy, top)
	}
	for _, c := range f.Stage.Cones {
		l.cone(e, c, jx, jy, top)
	}
}

// Frame draws the frame whose exposure begins at t: 3 bytes a pixel.
func (f *Film) Frame(t float64, number int) []byte {
	s := f.scratch.Get().(*scratch)
	defer f.scratch.Put(s)
	l := f.Lens(t)
	all := rect{0, 0, l.Width, l.Height}
	n := f.Samples
	subjects := make([][]Cone, n)
	area := all
	if f.Still {
		// Only where the athlete is does anything change.
		e := f.view(l)
		area = rect{}
		for k := range n {
			subjects[k] = f.Subject(t + f.Expose*float64(k)/float64(n))
			for _, c := range subjects[k] {
				area = area.join(e.span(c))
			}
		}
		copy(s.sum, f.back.rgb)
		f.each(area, l.Width, func(i int) { s.sum[3*i], s.sum[3*i+1], s.sum[3*i+2] = 0, 0, 0 })
	} else {
		clear(s.sum)
	}
	share := float32(1) / float32(n)
	for k := range n {
		at := t + f.Expose*float64(k)/float64(n)
		jx, jy := jitter(k)
		e := f.view(l)
		if f.Still {
			f.rows(area, l.Width, func(from, to int) {
				copy(s.work.rgb[3*from:3*to], f.back.rgb[3*from:3*to])
				copy(s.work.depth[from:to], f.back.depth[from:to])
				copy(s.work.floor[from:to], f.back.floor[from:to])
			})
		} else {
			e = f.view(f.Lens(at))
			subjects[k] = f.Subject(at)
			f.cut(s.work, &e, jx, jy)
			f.shadow(s, s.work.rgb, &e, subjects[k], all)
		}
		for _, c := range subjects[k] {
			s.work.cone(&e, c, jx, jy, 0)
		}
		f.each(area, l.Width, func(i int) {
			for c := 3 * i; c < 3*i+3; c++ {
				s.sum[c] += share * s.work.rgb[c]
			}
		})
	}
	e := f.view(l)
	if f.Still {
		// The shadow lies on what of the ground is not hidden by the athlete.
		s.work.floor = append(s.work.floor[:0], f.back.floor...)
		f.each(area, l.Width, func(i int) {
			s.work.floor[i] = f.back.floor[i] && sameColor(s.sum[3*i:], f.back.rgb[3*i:])
		})
		f.shadow(s, s.sum, &e, subjects[n/2], all)
	}
	for _, q := range f.Stage.Front {
		front := &layer{w: l.Width, h: l.Height, rgb: s.sum, depth: s.work.depth, floor: s.work.floor}
		for i := range front.depth {
			front.depth[i] = float32(math.Inf(1))
		}
		front.face(&e, q, 0.5, 0.5, 0)
	}
	return f.develop(s.sum, l.Width, l.Height, uint64(number))
}

func sameColor(a, b []float32) bool {
	const near = 0.01
	return math.Abs(float64(a[0]-b[0])) < near && math.Abs(float64(a[1]-b[1])) < near && math.Abs(float64(a[2]-b[2])) < near
}

func (f *Film) rows(r rect, w int, do func(from, to int)) {
	for y := r.y0; y < r.y1; y++ {
		do(y*w+r.x0, y*w+r.x1)
	}
}

func (f *Film) each(r rect, w int, do func(i int)) {
	f.rows(r, w, func(from, to int) {
		for i := from; i < to; i++ {
			do(i)
		}
	})
}

// shadow darkens the ground where something stands between it and the sun. Seen
// along the sunlight a rod is a flat rod, so the test is one in a plane.
func (f *Film) shadow(s *scratch, rgb []float32, e *view, cones []Cone, all rect) {
	sun := f.Sun
	p := r3.Unit(r3.Cross(sun, r3.Vec{Y: 1}))
	q := r3.Cross(sun, p)
	var seen rect
	for _, c := range cones {
		ax, ay := r3.Dot(c.A, p), r3.Dot(c.A, q)
		bx, by := r3.Dot(c.B, p)-ax, r3.Dot(c.B, q)-ay
		len2 := bx*bx + by*by
		var r rect
		for i, v := range [2]r3.Vec{c.A, c.B} {
			rad := [2]float64{c.RA, c.RB}[i] + 0.03
			foot := r3.Sub(v, r3.Scale(v.Y/sun.Y, sun))
			for _, d := range [4]r3.Vec{{X: 1}, {X: -1}, {Z: 1}, {Z: -1}} {
				px, z := e.project(r3.Add(foot, r3.Scale(1.5*rad, d)), *e)
				if z < 0.15 {
					continue
				}
				r = r.join(rect{int(px.X) - 1, int(px.Y) - 1, int(px.X) + 2, int(px.Y) + 2})
			}
		}
		r = r.in(all.x1, all.y1)
		seen = seen.join(r)
		soft := 0.012 + 0.018*(c.A.Y+c.B.Y)/2
		for y := r.y0; y < r.y1; y++ {
			for x := r.x0; x < r.x1; x++ {
				i := y*e.Width + x
				if !s.work.floor[i] {
					continue
				}
				rx, ry := e.ray(float64(x)+0.5, float64(y)+0.5)
				d := e.world(rx, ry)
				z := -e.At.Y / d.Y
				g := r3.Add(e.At, r3.Scale(z, d))
				gx, gy := r3.Dot(g, p)-ax, r3.Dot(g, q)-ay
				t := 0.0
				if len2 > 1e-12 {
					t = math.Min(1, math.Max(0, (gx*bx+gy*by)/len2))
				}
				off := math.Hypot(gx-t*bx, gy-t*by)
				if v := float32(0.5 + (c.RA+(c.RB-c.RA)*t-off)/soft); v > s.dark[i] {
					s.dark[i] = min(1, v)
				}
			}
		}
	}
	f.each(seen, e.Width, func(i int) {
		if v := s.dark[i]; v > 0 {
			k := 1 - 0.5*v
			rgb[3*i] *= k
			rgb[3*i+1] *= k
			rgb[3*i+2] *= min(1, k*1.05)
			s.dark[i] = 0
		}
	})
}

// develop turns light into bytes: low light, noise, a little fall-off to the
// corners.
func (f *Film) develop(sum []float32, w, h int, number uint64) []byte {
	out := make([]byte, len(sum))
	dim := f.Dim
	if dim == 0 {
		dim = 1
	}
	state := f.Seed*0x9e3779b97f4a7c15 + number*0xbf58476d1ce4e5b9 + 1
	for y := range h {
		dy := float64(y)/float64(h) - 0.5
		for x := range w {
			dx := float64(x)/float64(w) - 0.5
			k := float32(dim * (1.03 - 0.22*(dx*dx+dy*dy)))
			grain := float32(0.5)
			if f.Noise > 0 {
				// Two uniform numbers make a triangle, near enough to a bell.
				state ^= state << 13
				state ^= state >> 7
				state ^= state << 17
				grain += float32(f.Noise * (float64(state&0xffff)/65535 + float64(state>>16&0xffff)/65535 - 1) * 2.45)
			}
			i := 3 * (y*w + x)
			for c := i; c < i+3; c++ {
				v := int32(sum[c]*k + grain)
				if uint32(v) > 255 {
					v = 255 &^ (v >> 31) // below 0 to 0, above to 255
				}
				out[c] = byte(v)
			}
		}
	}
	return out
}

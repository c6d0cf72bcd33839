package simcam

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam/film"
	"neokinema/simcam/move"
)

// Sizes of the venue, metres: World Athletics technical rules, from memory;
// check the edition in force.
const (
	laneWidth  = 1.22
	lineWidth  = 0.05
	boardDepth = 0.20
	boardWidth = 1.22
	sandWidth  = 2.75
)

var (
	white   = film.Color{R: 236, G: 232, B: 222}
	clay    = film.Color{R: 168, G: 82, B: 60}
	turf    = film.Color{R: 92, G: 122, B: 74}
	slab    = film.Color{R: 172, G: 168, B: 160}
	sandy   = film.Color{R: 206, G: 182, B: 138}
	steel   = film.Color{R: 196, G: 200, B: 204}
	padding = film.Color{R: 70, G: 104, B: 128}
)

// texture roughens a colour with grains fixed to the ground; grains smaller than
// a few pixels fade to their mean.
func texture(c film.Color, x, z, far, fine, coarse float64) film.Color {
	near := math.Max(0, 1-far/26)
	v := 1 + coarse*(film.Grain(x, z, 0.55)-0.5) + fine*near*(film.Grain(x, z, 0.035)-0.5) + coarse*0.6*(film.Grain(x, z, 2.7)-0.5)
	return c.Times(v)
}

func grass(x, z, far float64) film.Color {
	stripe := 0.95
	if film.Wrap(math.Floor(z/3.2), 2) == 0 {
		stripe = 1.04
	}
	return texture(turf, x, z, far, 0.34, 0.20).Times(stripe)
}

func track(x, z, far float64) film.Color { return texture(clay, x, z, far, 0.26, 0.08) }

// line tells whether a coordinate lies on a painted line that begins at v.
func line(x, v, width float64) bool { return x >= v && x < v+width }

// stage builds what stands still for the props of a motion. Mirror -1 is the
// venue of a mirrored athlete. Of the cage only what lies behind the athlete is
// built: whoever films finds the gap in the net.
func stage(p move.Props, mirror float64, eye r3.Vec) film.Stage {
	s := film.Stage{}
	s.Ground = func(x, z, far float64) film.Color {
		z *= mirror
		switch {
		case p.Circle > 0:
			return circleGround(p, x, z, far)
		case p.Runway > 0:
			return runwayGround(p, x, z, far)
		}
		return laneGround(p, x, z, far)
	}
	at := func(x, y, z float64) r3.Vec { return r3.Vec{X: x, Y: y, Z: mirror * z} }
	rod := func(a, b r3.Vec, r float64, c film.Color, gloss float64) {
		s.Cones = append(s.Cones, film.Cone{A: a, B: b, RA: r, RB: r, Color: c, Gloss: gloss})
	}
	block := func(lo, hi r3.Vec, c film.Color) { s.Faces = append(s.Faces, faces(lo, hi, c)...) }
	if len(p.Blocks) == 2 {
		back := math.Min(p.Blocks[0].X, p.Blocks[1].X) - 0.14
		rod(at(back, 0.03, 0), at(-0.40, 0.03, 0), 0.024, film.Color{R: 60, G: 64, B: 70}, 0.3)
		for _, toe := range p.Blocks {
			for _, dz := range [3]float64{-0.04, 0, 0.04} {
				rod(at(toe.X-0.04, 0.02, toe.Z+dz), at(toe.X-0.165, 0.155, toe.Z+dz), 0.026, film.Color{R: 78, G: 84, B: 92}, 0.2)
			}
			rod(at(toe.X-0.165, 0.14, toe.Z), at(toe.X-0.24, 0.02, toe.Z*0.4), 0.014, film.Color{R: 60, G: 64, B: 70}, 0.2)
		}
	}
	if p.StopBoard {
		// An arc of white wood in front of the shot circle.
		const half = 32.0
		for i := range 8 {
			a, b := (-half+float64(i)*half/4)*math.Pi/180, (-half+float64(i+1)*half/4)*math.Pi/180
			r := p.Circle/2 + 0.055
			sa, ca := math.Sincos(a)
			sb, cb := math.Sincos(b)
			rod(at(r*ca, 0.05, r*sa), at(r*cb, 0.05, r*sb), 0.052, white, 0)
		}
	}
	if p.Cage {
		posts := [][2]float64{{4.4, -3.6}, {1.2, -3.9}, {-2.2, -3.2}, {-3.6, -1.4}, {-3.6, 1.4}, {-2.2, 3.2}, {1.2, 3.9}, {4.4, 3.6}}
		for i, q := range posts {
			far := func(x, z float64) bool { return math.Hypot(eye.X-x, eye.Z-mirror*z) > math.Hypot(eye.X, eye.Z)+0.4 }
			if !far(q[0], q[1]) {
				continue
			}
			rod(at(q[0], 0, q[1]), at(q[0], 5.2, q[1]), 0.045, film.Color{R: 92, G: 104, B: 98}, 0.1)
			if i > 0 && far(posts[i-1][0], posts[i-1][1]) {
				o := posts[i-1]
				s.Faces = append(s.Faces, film.Face{Corners: [4]r3.Vec{at(o[0], 0, o[1]), at(q[0], 0, q[1]), at(q[0], 5.2, q[1]), at(o[0], 5.2, o[1])}, Color: film.Color{R: 70, G: 78, B: 74}, Weave: 0.05})
			}
		}
	}
	if p.Mat != nil {
		lo, hi := at(p.Mat.Min.X, p.Mat.Min.Y, p.Mat.Min.Z), at(p.Mat.Max.X, p.Mat.Max.Y, p.Mat.Max.Z)
		lo.Z, hi.Z = math.Min(lo.Z, hi.Z), math.Max(lo.Z, hi.Z)
		block(lo, hi, padding)
		top := hi.Y
		lo.Y, hi.Y = top-0.09, top+0.001
		block(r3.Sub(lo, r3.Vec{X: 0.012, Z: 0.012}), r3.Add(hi, r3.Vec{X: 0.012, Z: 0.012}), film.Color{R: 186, G: 96, B: 66})
	}
	for _, c := range p.Cones {
		s.Cones = append(s.Cones, film.Cone{A: at(c.X, 0, c.Z), B: at(c.X, 0.16, c.Z), RA: 0.075, RB: 0.012, Color: film.Color{R: 226, G: 132, B: 58}})
	}
	if p.Bar != nil {
		a, b := p.Bar.A, p.Bar.B
		a.Z, b.Z = mirror*a.Z, mirror*b.Z
		for i := range 8 {
			c := white
			if i%2 == 1 {
				c = film.Color{R: 196, G: 84, B: 58}
			}
			rod(r3.Add(a, r3.Scale(float64(i)/8, r3.Sub(b, a))), r3.Add(a, r3.Scale(float64(i+1)/8, r3.Sub(b, a))), 0.015, c, 0.1)
		}
		dir := r3.Unit(r3.Sub(b, a))
		for _, e := range []r3.Vec{r3.Sub(a, r3.Scale(0.03, dir)), r3.Add(b, r3.Scale(0.03, dir))} {
			rod(r3.Vec{X: e.X, Z: e.Z}, r3.Vec{X: e.X, Y: e.Y + 0.12, Z: e.Z}, 0.028, steel, 0.4)
			rod(r3.Vec{X: e.X - 0.22, Y: 0.02, Z: e.Z}, r3.Vec{X: e.X + 0.22, Y: 0.02, Z: e.Z}, 0.03, steel, 0.2)
		}
	}
	return s
}

func faces(lo, hi r3.Vec, c film.Color) []film.Face {
	v := func(i, j, k int) r3.Vec {
		pick := func(n int, a, b float64) float64 { return [2]float64{a, b}[n] }
		return r3.Vec{X: pick(i, lo.X, hi.X), Y: pick(j, lo.Y, hi.Y), Z: pick(k, lo.Z, hi.Z)}
	}
	quad := func(a, b, d, e r3.Vec) film.Face { return film.Face{Corners: [4]r3.Vec{a, b, d, e}, Color: c} }
	return []film.Face{
		quad(v(0, 1, 0), v(1, 1, 0), v(1, 1, 1), v(0, 1, 1)),
		quad(v(0, 0, 1), v(1, 0, 1), v(1, 1, 1), v(0, 1, 1)), quad(v(0, 0, 0), v(1, 0, 0), v(1, 1, 0), v(0, 1, 0)),
		quad(v(0, 0, 0), v(0, 0, 1), v(0, 1, 1), v(0, 1, 0)), quad(v(1, 0, 0), v(1, 0, 1), v(1, 1, 1), v(1, 1, 0)),
	}
}

func laneGround(p move.Props, x, z, far float64) film.Color {
	if z < -7.4 || z > 5.5 {
		return grass(x, z, far)
	}
	col := track(x, z, far)
	edge := z + laneWidth/2
	// Lines of the lanes fade where a pixel is wider than they are.
	m := film.Wrap(edge, laneWidth)
	if m < lineWidth || z < -7.3 {
		col = white.Times(0.97)
	}
	if p.Start && line(x, 0, lineWidth) {
		col = white
	}
	return col
}

func circleGround(p move.Props, x, z, far float64) film.Color {
	r := math.Hypot(x, z)
	in := p.Circle / 2
	switch {
	case r < in:
		return texture(slab, x, z, far, 0.12, 0.10)
	case r < in+0.06:
		return white
	case math.Abs(x) < 0.025 && r < in+0.85:
		return white // dividing lines to both sides
	}
	along := math.Abs(math.Atan2(z, x)) * 180 / math.Pi
	if x > in*0.9 {
		// Sector lines start from the middle of the circle.
		off := math.Abs(z) - math.Tan(p.Sector*math.Pi/180)*x
		if off > 0 && off < lineWidth {
			return white
		}
	}
	if r < in+1.25 || along > 90 && r < 4.6 {
		return texture(film.Color{R: 150, G: 146, B: 138}, x, z, far, 0.16, 0.12)
	}
	return grass(x, z, far)
}

func runwayGround(p move.Props, x, z, far float64) film.Color {
	half := p.Runway / 2
	if p.Sand > 0 && x >= p.Sand && x < p.Sand+9 && math.Abs(z) < sandWidth/2+0.08 {
		if math.Abs(z) > sandWidth/2 || x < p.Sand+0.06 {
			return white.Times(0.9)
		}
		ripple := 0.05 * math.Sin(40*x+3*math.Sin(5*z))
		return texture(sandy, x, z, far, 0.34, 0.16).Times(1 + ripple*math.Max(0, 1-far/22))
	}
	if p.Arc != 0 {
		// The arc has a radius of 8 m; beyond it lies the sector.
		r := math.Hypot(x-(p.Arc-8), z)
		if r > 8 && x > p.Arc-1 {
			off := math.Abs(z) - math.Tan(p.Sector*math.Pi/180)*(x-(p.Arc-8))
			if off > 0 && off < lineWidth {
				return white
			}
			if r < 8.07 && math.Abs(z) < half {
				return white
			}
			return grass(x, z, far)
		}
	}
	if math.Abs(z) < half+lineWidth && (p.Sand == 0 || x < p.Sand) {
		if math.Abs(z) > half {
			return white
		}
		if p.Board > 0 && x > p.Board-boardDepth && x < p.Board && math.Abs(z) < boardWidth/2 {
			return white.Times(1.02)
		}
		if p.Board > 0 && x >= p.Board && x < p.Board+0.1 && math.Abs(z) < boardWidth/2 {
			return film.Color{R: 120, G: 150, B: 120}
		}
		if p.VaultBox != nil && x > p.VaultBox.X-1 && x < p.VaultBox.X && math.Abs(z) < 0.20+0.1*(p.VaultBox.X-x) {
			return film.Color{R: 70, G: 74, B: 80}.Mix(film.Color{R: 120, G: 124, B: 128}, p.VaultBox.X-x)
		}
		return track(x, z, far)
	}
	if p.Lanes || p.Runway > 5 {
		return track(x, z, far)
	}
	return grass(x, z, far)
}

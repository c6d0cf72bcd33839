package simcam

import (
	"math"
	"sync"

	"gonum.org/v1/gonum/spatial/r2"
	"gonum.org/v1/gonum/spatial/r3"
)

type rgb struct{ r, g, b float64 }

func (c rgb) times(k float64) rgb { return rgb{c.r * k, c.g * k, c.b * k} }

func mix(a, b rgb, t float64) rgb {
	return rgb{a.r + (b.r-a.r)*t, a.g + (b.g-a.g)*t, a.b + (b.b-a.b)*t}
}

// canvas is a picture of 3 bytes a pixel.
type canvas struct {
	w, h int
	pix  []byte
}

func (c *canvas) blend(x, y int, col rgb, alpha float64) {
	if x < 0 || y < 0 || x >= c.w || y >= c.h || alpha <= 0 {
		return
	}
	p := c.pix[3*(y*c.w+x):][:3]
	keep := 1 - alpha
	p[0] = byte(min(255, max(0, float64(p[0])*keep+col.r*alpha)))
	p[1] = byte(min(255, max(0, float64(p[1])*keep+col.g*alpha)))
	p[2] = byte(min(255, max(0, float64(p[2])*keep+col.b*alpha)))
}

// capsule fills a tapered rod between two pixels, lit as a round body.
func (c *canvas) capsule(a, b r2.Vec, ra, rb float64, col rgb, flat bool) {
	r := math.Max(ra, rb) + 1.5
	x0, x1 := int(math.Min(a.X, b.X)-r), int(math.Max(a.X, b.X)+r)
	y0, y1 := int(math.Min(a.Y, b.Y)-r), int(math.Max(a.Y, b.Y)+r)
	d := r2.Sub(b, a)
	len2 := r2.Norm2(d)
	for y := max(y0, 0); y <= min(y1, c.h-1); y++ {
		for x := max(x0, 0); x <= min(x1, c.w-1); x++ {
			p := r2.Vec{X: float64(x), Y: float64(y)}
			t := 0.0
			if len2 > 0 {
				t = math.Min(1, math.Max(0, r2.Dot(r2.Sub(p, a), d)/len2))
			}
			off := r2.Sub(p, r2.Add(a, r2.Scale(t, d)))
			rad := ra + (rb-ra)*t
			dist := r2.Norm(off)
			alpha := rad - dist + 0.5
			if alpha <= 0 {
				continue
			}
			shade := col
			if !flat {
				// Normal of a round rod; light from up, a little from the camera.
				nx, ny := off.X/rad, off.Y/rad
				nz := math.Sqrt(math.Max(0, 1-nx*nx-ny*ny))
				light := math.Max(0, -0.30*nx-0.62*ny+0.72*nz)
				shade = mix(col.times(0.42), col.times(1.12), light)
			}
			c.blend(x, y, shade, math.Min(1, alpha))
		}
	}
}

// kit is what an athlete wears.
type kit struct{ skin, hair, top, trim, shorts rgb }

var kits = []kit{
	{rgb{205, 156, 122}, rgb{52, 38, 30}, rgb{196, 92, 62}, rgb{240, 232, 214}, rgb{38, 48, 54}},
	{rgb{128, 88, 66}, rgb{24, 20, 20}, rgb{72, 122, 138}, rgb{236, 226, 190}, rgb{34, 38, 46}},
	{rgb{226, 184, 154}, rgb{150, 104, 58}, rgb{104, 134, 92}, rgb{244, 240, 226}, rgb{40, 44, 50}},
}

// Shoes tell left from right at a glance.
var (
	leftShoe  = rgb{222, 112, 74}
	rightShoe = rgb{118, 178, 204}
)

type painter struct {
	sc         *Scene
	background canvas
	masks      sync.Pool // of *mask, one for each frame drawn at a time
}

// mask holds how dark the shadow is at each pixel; parts of a shadow do not add.
type mask struct {
	alpha   []float32
	touched []int
}

func (sc *Scene) newPainter() *painter {
	s := sc.Truth.Spec
	p := &painter{sc: sc, background: canvas{s.Width, s.Height, make([]byte, 3*s.Width*s.Height)}}
	p.masks.New = func() any { return &mask{alpha: make([]float32, s.Width*s.Height)} }
	p.paintGround()
	return p
}

func noise(x, y int) float64 {
	h := uint32(x)*374761393 + uint32(y)*668265263
	h = (h ^ h>>13) * 1274126177
	return float64((h^h>>16)&1023)/1023 - 0.5
}

// paintGround draws what does not move: sky, stand, infield, lanes, line.
func (p *painter) paintGround() {
	c, cam := &p.background, p.sc.camera
	horizon := c.h / 2
	for y := range c.h {
		for x := range c.w {
			gx, gz, ok := cam.ground(float64(x), float64(y))
			var col rgb
			far := gz < -26
			switch {
			case !ok || far:
				up := float64(horizon-y) / float64(c.h)
				col = mix(rgb{206, 196, 178}, rgb{112, 138, 158}, math.Min(1, math.Max(0, up*2.4)))
				// A low stand with roof and rows, and hedges before it.
				row := float64(y-horizon) * 1280 / float64(c.w)
				wx := float64(x-c.w/2) * 1280 / float64(c.w)
				switch {
				case row > -14:
					col = mix(rgb{70, 92, 68}, rgb{84, 106, 76}, 0.5+0.5*noise(x/2, y/2)+0.5*noise(x/5, y/4))
				case wx > -420 && wx < 380 && row > -86:
					col = rgb{122, 120, 118}
					if int(-row)%12 < 6 {
						col = rgb{104, 104, 106}
					}
				case wx > -450 && wx < 410 && row > -126 && row <= -112:
					col = rgb{78, 82, 88}
				case wx > -440 && wx < 400 && row > -112 && row <= -86 && int(wx+1000)%130 < 5:
					col = rgb{88, 92, 96}
				}
			case gz < -7.4:
				col = mix(rgb{92, 122, 80}, rgb{104, 134, 88}, 0.5+0.5*math.Sin(gx*0.9))
				col = col.times(1 + 0.05*noise(x, y))
			default:
				col = rgb{168, 84, 62}.times(1 + 0.10*noise(x, y))
				// Lanes of 1.22 m with white lines of 5 cm; the athlete runs in the middle of one.
				if m := math.Mod(gz+0.61+122, 1.22); m < 0.05 {
					col = mix(col, rgb{236, 230, 220}, 0.85)
				}
				if s := p.sc.turn * gx; s >= 0 && s < 0.05 {
					col = rgb{240, 236, 228}
				}
				if gz < -7.3 {
					col = rgb{214, 208, 196}
				}
			}
			// Evening light falls off to the edges.
			dx, dy := (float64(x)/float64(c.w) - 0.5), (float64(y)/float64(c.h) - 0.5)
			c.blend(x, y, col.times(1.03-0.35*(dx*dx+dy*dy)), 1)
		}
	}
	// The blocks: a rail and two pedals.
	b := p.sc.blocks
	rail := func(x float64) r2.Vec { px, _ := cam.Project(r3.Vec{X: x, Y: 0.03}); return px }
	_, k := cam.Project(r3.Vec{})
	back := math.Min(p.sc.turn*b[front].X, p.sc.turn*b[rear].X) - 0.12
	c.capsule(rail(p.sc.turn*back), rail(p.sc.turn*-0.42), 0.022*k, 0.022*k, rgb{46, 50, 54}, false)
	for _, toe := range b {
		foot, _ := cam.Project(r3.Vec{X: toe.X - p.sc.turn*0.05, Y: 0.02, Z: toe.Z})
		top, _ := cam.Project(r3.Vec{X: toe.X - p.sc.turn*0.17, Y: 0.15, Z: toe.Z})
		c.capsule(foot, top, 0.024*k, 0.024*k, rgb{62, 66, 72}, false)
	}
}

// paint draws one frame.
func (p *painter) paint(frame int) *canvas {
	c := &canvas{p.background.w, p.background.h, append([]byte(nil), p.background.pix...)}
	marks := p.sc.Truth.Frames[frame].Landmarks
	cam := p.sc.camera
	at := func(id string) r3.Vec { w := marks[id].World; return r3.Vec{X: w[0], Y: w[1], Z: w[2]} }
	k := p.sc.Truth.Spec.Athlete.Height / 1.8
	wear := kits[p.sc.Truth.Spec.Kit%len(kits)]
	near, far := "right", "left"
	if p.sc.turn < 0 {
		near, far = far, near
	}
	p.shadow(c, at, k)

	rod := func(a, b r3.Vec, ra, rb float64, col rgb) {
		pa, sa := cam.Project(a)
		pb, sb := cam.Project(b)
		c.capsule(pa, pb, ra*k*sa, rb*k*sb, col, false)
	}
	mid := func(part string) r3.Vec { return r3.Scale(0.5, r3.Add(at("left_"+part), at("right_"+part))) }
	between := func(a, b r3.Vec, t float64) r3.Vec { return r3.Add(a, r3.Scale(t, r3.Sub(b, a))) }
	leg := func(side string, dim float64) {
		shoe := leftShoe
		if side == "right" {
			shoe = rightShoe
		}
		hip, knee, ankle := at(side+"_hip"), at(side+"_knee"), at(side+"_ankle")
		rod(hip, knee, 0.088, 0.058, wear.skin.times(dim))
		rod(hip, between(hip, knee, 0.45), 0.097, 0.083, wear.shorts.times(dim))
		calf := between(knee, ankle, 0.3)
		rod(knee, calf, 0.054, 0.058, wear.skin.times(dim))
		rod(calf, ankle, 0.058, 0.036, wear.skin.times(dim))
		rod(ankle, at(side+"_heel"), 0.038, 0.030, shoe.times(dim))
		rod(ankle, between(at(side+"_heel"), at(side+"_toe"), 0.72), 0.036, 0.030, shoe.times(dim))
		rod(between(at(side+"_heel"), at(side+"_toe"), 0.06), between(at(side+"_heel"), at(side+"_toe"), 0.93), 0.026, 0.019, shoe.times(dim*0.92))
	}
	arm := func(side string, dim float64) {
		s, e, w, h := at(side+"_shoulder"), at(side+"_elbow"), at(side+"_wrist"), at(side+"_hand")
		rod(s, e, 0.055, 0.040, wear.skin.times(dim))
		rod(e, w, 0.040, 0.028, wear.skin.times(dim))
		rod(w, h, 0.030, 0.024, wear.skin.times(dim))
		rod(s, between(s, e, 0.12), 0.060, 0.054, wear.top.times(dim))
	}
	const dim = 0.74
	arm(far, dim)
	leg(far, dim)
	hips, chest := mid("hip"), mid("shoulder")
	waist := between(hips, chest, 0.42)
	axis := r3.Unit(r3.Sub(chest, hips))
	rod(hips, waist, 0.112, 0.098, wear.shorts)
	rod(between(hips, chest, 0.2), between(hips, chest, 0.55), 0.108, 0.112, wear.top)
	rod(between(hips, chest, 0.5), between(hips, chest, 0.95), 0.112, 0.098, wear.top)
	band := r3.Scale(0.055*k, r3.Vec{X: p.sc.turn * axis.Y, Y: -p.sc.turn * axis.X * p.sc.turn})
	rod(r3.Add(between(hips, chest, 0.80), r3.Scale(-1, band)), r3.Add(between(hips, chest, 0.72), band), 0.016, 0.016, wear.trim)
	skull := mid("ear")
	rod(chest, between(chest, skull, 0.75), 0.058, 0.052, wear.skin.times(0.94))
	headUp := r3.Unit(r3.Sub(skull, chest))
	face := r3.Vec{X: p.sc.turn * math.Abs(headUp.Y), Y: -math.Abs(headUp.X)}
	rod(r3.Add(skull, r3.Scale(0.012*k, headUp)), r3.Add(skull, r3.Scale(-0.045*k, headUp)), 0.092, 0.074, wear.skin)
	rod(r3.Add(skull, r3.Scale(0.080*k, face)), r3.Add(skull, r3.Add(r3.Scale(0.08*k, face), r3.Scale(-0.05*k, headUp))), 0.016, 0.030, wear.skin)
	hair := func(up, fwd float64) r3.Vec {
		return r3.Add(skull, r3.Add(r3.Scale(up*k, headUp), r3.Scale(fwd*k, face)))
	}
	rod(hair(0.072, 0.028), hair(0.062, -0.030), 0.046, 0.058, wear.hair)
	rod(hair(0.062, -0.030), hair(-0.015, -0.056), 0.058, 0.048, wear.hair)
	ear := at(near + "_ear")
	rod(ear, r3.Add(ear, r3.Scale(0.012, axis)), 0.020, 0.018, wear.skin.times(0.86))
	leg(near, 1)
	arm(near, 1)
	return c
}

// shadow darkens the ground under the body, as from a high light behind the
// camera's left shoulder.
func (p *painter) shadow(c *canvas, at func(string) r3.Vec, k float64) {
	cam := p.sc.camera
	s := p.masks.Get().(*mask)
	defer p.masks.Put(s)
	drop := func(v r3.Vec) (r2.Vec, float64) {
		return cam.Project(r3.Vec{X: v.X + 0.28*v.Y, Z: v.Z - 0.45*v.Y})
	}
	rod := func(a, b r3.Vec, r float64) {
		pa, px := drop(a)
		pb, _ := drop(b)
		rad := r * k * px
		// The ground is seen flat: a shadow is a third as high as it is long.
		const flat = 0.34
		d := r2.Vec{X: pb.X - pa.X, Y: (pb.Y - pa.Y) / flat}
		len2 := r2.Norm2(d)
		for y := int(math.Min(pa.Y, pb.Y) - rad); y <= int(math.Max(pa.Y, pb.Y)+rad); y++ {
			for x := int(math.Min(pa.X, pb.X) - rad - 1); x <= int(math.Max(pa.X, pb.X)+rad+1); x++ {
				q := r2.Vec{X: float64(x) - pa.X, Y: (float64(y) - pa.Y) / flat}
				t := 0.0
				if len2 > 0 {
					t = math.Min(1, math.Max(0, r2.Dot(q, d)/len2))
				}
				if alpha := math.Min(1, (rad-r2.Norm(r2.Sub(q, r2.Scale(t, d))))/4); alpha > 0 && x >= 0 && y >= 0 && x < c.w && y < c.h {
					i := y*c.w + x
					if s.alpha[i] == 0 {
						s.touched = append(s.touched, i)
					}
					s.alpha[i] = max(s.alpha[i], float32(alpha))
				}
			}
		}
	}
	for _, side := range []string{"left", "right"} {
		for _, pair := range [][2]string{{"hip", "knee"}, {"knee", "ankle"}, {"heel", "toe"}, {"shoulder", "elbow"}, {"elbow", "hand"}} {
			rod(at(side+"_"+pair[0]), at(side+"_"+pair[1]), 0.06)
		}
		rod(at(side+"_hip"), at(side+"_shoulder"), 0.11)
		rod(at(side+"_ear"), at(side+"_ear"), 0.10)
	}
	for _, i := range s.touched {
		c.blend(i%c.w, i/c.w, rgb{30, 22, 24}, 0.42*float64(s.alpha[i]))
		s.alpha[i] = 0
	}
	s.touched = s.touched[:0]
}

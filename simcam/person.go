package simcam

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
	"neokinema/simcam/film"
)

// kit is what an athlete looks like.
type kit struct {
	skin, hair, top, trim, shorts film.Color
	tail                          bool // hair tied behind
	tights                        bool
	plain, loose, long            bool // see [Look]
}

var kits = []kit{
	{skin: film.Color{R: 205, G: 156, B: 122}, hair: film.Color{R: 52, G: 38, B: 30}, top: film.Color{R: 196, G: 92, B: 62}, trim: film.Color{R: 240, G: 232, B: 214}, shorts: film.Color{R: 38, G: 48, B: 58}},
	{skin: film.Color{R: 132, G: 90, B: 66}, hair: film.Color{R: 28, G: 23, B: 22}, top: film.Color{R: 72, G: 124, B: 142}, trim: film.Color{R: 236, G: 226, B: 190}, shorts: film.Color{R: 34, G: 38, B: 46}, tail: true},
	{skin: film.Color{R: 226, G: 184, B: 154}, hair: film.Color{R: 150, G: 104, B: 58}, top: film.Color{R: 104, G: 136, B: 94}, trim: film.Color{R: 244, G: 240, B: 226}, shorts: film.Color{R: 44, G: 48, B: 56}},
	{skin: film.Color{R: 214, G: 168, B: 136}, hair: film.Color{R: 112, G: 58, B: 34}, top: film.Color{R: 208, G: 172, B: 92}, trim: film.Color{R: 60, G: 66, B: 76}, shorts: film.Color{R: 40, G: 50, B: 66}, tail: true, tights: true},
	{skin: film.Color{R: 96, G: 66, B: 50}, hair: film.Color{R: 22, G: 20, B: 20}, top: film.Color{R: 212, G: 206, B: 196}, trim: film.Color{R: 176, G: 78, B: 56}, shorts: film.Color{R: 70, G: 78, B: 92}},
}

// Shoes and wristbands tell left from right at a glance.
var sideColors = [2]film.Color{{R: 222, G: 106, B: 66}, {R: 112, G: 180, B: 210}}

// person turns landmarks into round bodies.
type person struct {
	sizes figure.Sizes
	kit   kit
	build float64 // girth against the usual
}

func newPerson(p body.Person, choice int, looks ...Look) person {
	out := person{sizes: figure.SizesOf(p), kit: kits[((choice%len(kits))+len(kits))%len(kits)], build: 1}
	if p.Mass > 0 {
		out.build = math.Min(1.3, math.Max(0.86, math.Pow(p.Mass/(22.3*p.Height*p.Height), 0.6)))
	}
	if p.Sex == body.Female {
		out.build *= 0.94
	}
	for _, l := range looks {
		out.kit = out.kit.dressed(l)
	}
	return out
}

func (p person) cones(b *figure.Body) []film.Cone {
	k := p.sizes.Scale
	g := k * p.build
	var out []film.Cone
	rod := func(a, z r3.Vec, ra, rz float64, c film.Color) {
		out = append(out, film.Cone{A: a, B: z, RA: ra, RB: rz, Color: c})
	}
	between := figure.Between
	hips, neck := b.Mid(figure.Hip), b.Mid(figure.Shoulder)
	up := r3.Unit(r3.Sub(neck, hips))
	across := r3.Unit(r3.Sub(b.At(figure.Right, figure.Shoulder), b.At(figure.Left, figure.Shoulder)))
	ahead := r3.Unit(r3.Cross(up, across))
	hipAcross := r3.Unit(r3.Sub(b.At(figure.Right, figure.Hip), b.At(figure.Left, figure.Hip)))
	hipAhead := r3.Unit(r3.Cross(up, hipAcross))
	at := func(share, f, r float64) r3.Vec {
		// Lower down the body turns with the hips.
		a := between(hipAcross, across, share)
		fw := between(hipAhead, ahead, share)
		return r3.Add(between(hips, neck, share), figure.Sum(f*k, fw, r*k, a, 0, up))
	}
	side := sideColors
	if p.kit.plain {
		side[1] = side[0]
	}
	wide := 1.0
	if p.kit.loose {
		wide = 1.28
	}
	for s := range 2 {
		o := figure.Out(s)
		hip, knee, ankle := b.At(s, figure.Hip), b.At(s, figure.Knee), b.At(s, figure.Ankle)
		heel, toe := b.At(s, figure.Heel), b.At(s, figure.Toe)
		shin := r3.Unit(r3.Sub(ankle, knee))
		thigh := r3.Unit(r3.Sub(knee, hip))
		// The front of the knee: away from where the leg folds.
		foot := r3.Unit(r3.Sub(toe, heel))
		front := r3.Sub(foot, r3.Scale(r3.Dot(foot, shin), shin))
		if n := r3.Norm(front); n > 1e-6 {
			front = r3.Scale(1/n, front)
		}
		legSkin := p.kit.skin
		if p.kit.tights {
			legSkin = p.kit.shorts
		}
		rod(hip, knee, 0.083*g, 0.053*g, legSkin)
		rod(r3.Add(between(hip, knee, 0.2), r3.Scale(0.020*g, front)), r3.Add(between(hip, knee, 0.72), r3.Scale(0.014*g, front)), 0.068*g, 0.050*g, legSkin)
		rod(r3.Add(hip, r3.Scale(-0.004*k, thigh)), between(hip, knee, 0.42+0.3*(wide-1)), 0.092*g*wide, 0.082*g*wide*wide, p.kit.shorts)
		rod(at(0.02, -0.045, 0.062*o), at(-0.02, -0.04, 0.06*o), 0.088*g, 0.086*g, p.kit.shorts)
		rod(knee, between(knee, ankle, 0.5), 0.051*g, 0.046*g, legSkin)
		calf := r3.Add(between(knee, ankle, 0.28), r3.Scale(-0.018*g, front))
		rod(calf, between(knee, ankle, 0.62), 0.050*g, 0.036*g, legSkin)
		rod(between(knee, ankle, 0.5), ankle, 0.044*g, 0.034*k, p.kit.skin)
		sock := film.Color{R: 236, G: 234, B: 228}
		rod(between(knee, ankle, 0.88), between(knee, ankle, 0.98), 0.037*k, 0.037*k, sock)
		shoe := side[s]
		ball := between(heel, toe, 0.70)
		rod(ankle, between(heel, toe, 0.16), 0.036*k, 0.032*k, shoe)
		rod(ankle, ball, 0.036*k, 0.030*k, shoe)
		rod(between(heel, toe, 0.10), ball, 0.027*k, 0.031*k, shoe.Times(0.92))
		rod(ball, between(heel, toe, 0.94), 0.030*k, 0.020*k, shoe)

		sh, el, wr, ha := b.At(s, figure.Shoulder), b.At(s, figure.Elbow), b.At(s, figure.Wrist), b.At(s, figure.Hand)
		rod(sh, el, 0.050*g, 0.038*g, p.kit.skin)
		rod(between(sh, el, 0.1), between(sh, el, 0.6), 0.050*g, 0.044*g, p.kit.skin)
		rod(sh, sh, 0.058*g, 0.058*g, p.kit.skin)
		rod(el, between(el, wr, 0.35), 0.038*g, 0.040*g, p.kit.skin)
		rod(between(el, wr, 0.3), wr, 0.039*g, 0.026*k, p.kit.skin)
		rod(between(el, wr, 0.86), between(el, wr, 0.98), 0.030*k, 0.030*k, side[s])
		rod(wr, between(wr, ha, 0.7), 0.028*k, 0.034*k, p.kit.skin)
		rod(between(wr, ha, 0.6), r3.Add(ha, r3.Scale(0.05*k, r3.Unit(r3.Sub(ha, wr)))), 0.032*k, 0.020*k, p.kit.skin)
		// Trunk, side by side.
		rod(at(0.06, 0.005, 0.055*o), at(0.34, 0.0, 0.052*o), 0.094*g, 0.082*g, p.kit.shorts)
		rod(at(0.24, 0.004, 0.050*o), at(0.55, 0.005, 0.064*o), 0.088*g*wide, 0.096*g*wide, p.kit.top)
		rod(at(0.52, 0.006, 0.064*o), at(0.84, 0.0, 0.085*o), 0.098*g*wide, 0.072*g*wide, p.kit.top)
		rod(at(0.70, 0.050, 0.055*o), at(0.78, 0.045, 0.07*o), 0.062*g, 0.055*g, p.kit.top)
		rod(at(0.88, -0.005, 0.055*o), r3.Add(sh, r3.Scale(-0.005*k, up)), 0.066*g, 0.050*g, p.kit.top)
		rod(at(0.50, 0.004, 0.086*o), at(0.72, 0.0, 0.104*o), 0.078*g, 0.072*g, p.kit.trim)
	}
	skull := b.Mid(figure.Ear)
	headUp := r3.Unit(r3.Sub(skull, neck))
	headAcross := r3.Unit(r3.Sub(b.At(figure.Right, figure.Ear), b.At(figure.Left, figure.Ear)))
	headAhead := r3.Unit(r3.Cross(headUp, headAcross))
	h := k / math.Pow(k, 0.45) // children have larger heads
	head := func(u, f, r float64) r3.Vec {
		return r3.Add(skull, figure.Sum(u*h, headUp, f*h, headAhead, r*h, headAcross))
	}
	rod(r3.Add(neck, r3.Scale(0.01*k, up)), head(-0.05, -0.008, 0), 0.056*g, 0.052*k, p.kit.skin.Times(0.95))
	skin := p.kit.skin
	rod(head(0.030, -0.006, 0), head(-0.02, 0.012, 0), 0.092*h, 0.080*h, skin)
	rod(head(-0.03, 0.028, 0), head(-0.085, 0.042, 0), 0.062*h, 0.040*h, skin) // jaw
	rod(head(0.00, 0.092, 0), head(-0.030, 0.104, 0), 0.012*h, 0.016*h, skin.Times(0.97))
	for s := range 2 {
		o := figure.Out(s)
		rod(head(-0.015, 0.0, 0.084*o), head(0.012, -0.006, 0.087*o), 0.014*h, 0.020*h, skin.Times(0.88))
		rod(head(0.008, 0.080, 0.032*o), head(0.008, 0.082, 0.030*o), 0.013*h, 0.012*h, film.Color{R: 44, G: 36, B: 34})
		rod(head(0.030, 0.078, 0.022*o), head(0.030, 0.072, 0.046*o), 0.008*h, 0.007*h, p.kit.hair)
	}
	rod(head(-0.062, 0.080, -0.018), head(-0.062, 0.080, 0.018), 0.010*h, 0.010*h, film.Color{R: 150, G: 84, B: 74})
	hair := p.kit.hair
	rod(head(0.048, -0.018, 0), head(0.034, -0.030, 0), 0.094*h, 0.094*h, hair)
	rod(head(0.010, -0.040, 0), head(-0.035, -0.040, 0), 0.082*h, 0.064*h, hair)
	if p.kit.long {
		rod(head(0.02, -0.07, 0), head(-0.16, -0.10, 0), 0.080*h, 0.070*h, hair)
		rod(head(-0.16, -0.10, 0), head(-0.30, -0.11, 0), 0.070*h, 0.040*h, hair)
	}
	if p.kit.tail {
		rod(head(0.03, -0.12, 0), head(0.00, -0.15, 0), 0.034*h, 0.030*h, hair)
		rod(head(0.00, -0.15, 0), head(-0.12, -0.16, 0), 0.030*h, 0.016*h, hair)
	}
	return out
}

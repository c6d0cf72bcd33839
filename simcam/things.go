package simcam

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam/film"
	"neokinema/simcam/move"
)

// implementCones draws what is thrown or vaulted with.
func implementCones(k move.Thrown, im move.Implement) []film.Cone {
	var out []film.Cone
	rod := func(a, b r3.Vec, r float64, c film.Color, gloss float64) {
		out = append(out, film.Cone{A: a, B: b, RA: r, RB: r, Color: c, Gloss: gloss})
	}
	iron, wood := film.Color{R: 74, G: 76, B: 82}, film.Color{R: 186, G: 148, B: 96}
	c := im["centre"]
	switch k.Kind {
	case "hammer", "weight":
		g := im["grip"]
		dir := r3.Unit(r3.Sub(c, g))
		rod(c, c, k.Diameter/2, iron, 0.5)
		rod(g, c, 0.006, film.Color{R: 206, G: 206, B: 204}, 0.3)
		side := r3.Unit(r3.Cross(dir, r3.Vec{Y: 1}))
		end := r3.Add(g, r3.Scale(0.10, dir))
		rod(end, r3.Add(g, r3.Scale(0.055, side)), 0.008, steel, 0.3)
		rod(end, r3.Add(g, r3.Scale(-0.055, side)), 0.008, steel, 0.3)
	case "shot":
		rod(c, c, k.Diameter/2, film.Color{R: 150, G: 118, B: 70}, 0.6)
	case "discus":
		n := r3.Unit(r3.Sub(im["axis"], c))
		u := r3.Unit(r3.Cross(n, r3.Vec{X: 0.3, Y: 0.2, Z: 0.9}))
		v := r3.Cross(n, u)
		const spokes = 14
		rim := func(i int) r3.Vec {
			s, co := math.Sincos(2 * math.Pi * float64(i) / spokes)
			return r3.Add(c, r3.Add(r3.Scale(co*k.Diameter*0.46, u), r3.Scale(s*k.Diameter*0.46, v)))
		}
		for i := range spokes {
			rod(rim(i), rim(i+1), 0.010, steel, 0.5)
			out = append(out, film.Cone{A: c, B: rim(i), RA: 0.021, RB: 0.011, Color: wood, Gloss: 0.2})
		}
	case "javelin":
		tail, tip := im["tail"], im["tip"]
		body := film.Color{R: 208, G: 170, B: 74}
		cone := func(a, b r3.Vec, ra, rb float64, col film.Color) {
			out = append(out, film.Cone{A: a, B: b, RA: ra, RB: rb, Color: col, Gloss: 0.4})
		}
		cone(tail, c, 0.007, 0.014, body)
		cone(c, r3.Add(c, r3.Scale(0.75, r3.Sub(tip, c))), 0.014, 0.011, body)
		cone(r3.Add(c, r3.Scale(0.75, r3.Sub(tip, c))), tip, 0.010, 0.004, steel)
		axis := r3.Unit(r3.Sub(tip, tail))
		cone(r3.Add(c, r3.Scale(-0.08, axis)), r3.Add(c, r3.Scale(0.07, axis)), 0.017, 0.017, film.Color{R: 60, G: 58, B: 56})
	case "pole":
		var pts []r3.Vec
		for i := 0; ; i++ {
			p, ok := im[move.PolePoint(i)]
			if !ok {
				break
			}
			pts = append(pts, p)
		}
		for i := 1; i < len(pts); i++ {
			col := film.Color{R: 214, G: 196, B: 120}
			if i > len(pts)-3 {
				col = film.Color{R: 66, G: 64, B: 62}
			}
			rod(pts[i-1], pts[i], 0.019, col, 0.4)
		}
	}
	return out
}

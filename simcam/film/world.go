package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"
)

// farthest is where the ground ends behind hedges, m.
const farthest = 85

func hash(x, y int) float64 {
	h := uint32(x)*374761393 + uint32(y)*668265263
	h = (h ^ h>>13) * 1274126177
	return float64((h^h>>16)&4095) / 4095
}

// Grain is an even field of values between 0 and 1 with features of the given
// size; it is fixed to the world, so a moving camera sees it move.
func Grain(x, y, size float64) float64 {
	x, y = x/size, y/size
	ix, iy := math.Floor(x), math.Floor(y)
	fx, fy := x-ix, y-iy
	fx, fy = fx*fx*(3-2*fx), fy*fy*(3-2*fy)
	i, j := int(ix), int(iy)
	a, b := hash(i, j), hash(i+1, j)
	c, d := hash(i, j+1), hash(i+1, j+1)
	return a + (b-a)*fx + (c-a)*fy + (a-b-c+d)*fx*fy
}

// Wrap is x modulo m, never negative; much quicker than math.Mod.
func Wrap(x, m float64) float64 { return x - math.Floor(x/m)*m }

// sky is what is seen beyond the ground in a direction: hedges, a low stand,
// evening sky.
func sky(d r3.Vec) Color {
	level := math.Hypot(d.X, d.Z)
	up := d.Y / level * 80        // m above eye level at 80 m
	round := math.Atan2(d.Z, d.X) // 0 towards +x
	along := round * 80           // m around
	high := math.Min(1, math.Max(0, up/60))
	col := Color{226, 206, 178}.Mix(Color{122, 150, 176}, math.Sqrt(high))
	if cloud := Grain(along, up*3.2, 22)*0.6 + Grain(along, up*3.2, 9)*0.4; cloud > 0.55 && up > 6 {
		col = col.Mix(Color{238, 226, 212}, math.Min(0.55, (cloud-0.55)*2.2))
	}
	tree := 2.2 + 4.2*Grain(along, 0, 11) + 1.3*Grain(along, 3, 2.3)
	if up < tree {
		leaf := Grain(along, up, 1.1)*0.6 + Grain(along, up, 0.4)*0.4
		col = Color{58, 78, 60}.Mix(Color{98, 116, 80}, leaf*math.Min(1, 0.35+up/tree))
	}
	// Stands on three sides of the ground.
	for i, mid := range [3]float64{-math.Pi / 2, math.Pi / 2, 0} {
		half := [3]float64{24, 17, 13}[i]
		off := Wrap(round-mid+math.Pi, 2*math.Pi) - math.Pi
		a := off * 80
		if math.Abs(a) > half+1 || up > 7.4 {
			continue
		}
		switch {
		case up > 6.6:
			col = Color{84, 88, 94}
		case up > 4.6:
			if Wrap(a, 6) < 0.25 {
				col = Color{120, 122, 126}
			} else if math.Abs(a) < half {
				col = col.Mix(Color{66, 72, 82}, 0.55)
			}
		case math.Abs(a) < half && up > -1.4:
			row := math.Floor((up + 1.4) / 0.55)
			col = Color{128, 128, 130}.Times(0.92 + 0.03*Wrap(row, 2))
			seat := math.Floor(a/0.55 + 0.5*Wrap(row, 2))
			in := Wrap((up+1.4)/0.55, 1)
			// Shoulders as a half ellipse, a round head over them.
			sx := (a/0.55 + 0.5*Wrap(row, 2) - seat - 0.5) * 0.55
			h := in * 0.55
			if who := hash(int(seat)+5000, int(row)+17*i); who > 0.80 && (sx*sx/(0.19*0.19)+h*h/(0.30*0.30) < 1 || math.Hypot(sx, h-0.37) < 0.085) {
				people := [5]Color{{168, 88, 64}, {92, 110, 128}, {196, 184, 160}, {88, 104, 82}, {70, 66, 72}}
				col = people[int(who*1000)%5].Times(0.86 + 0.3*h)
				if h > 0.28 {
					col = Color{178, 138, 112}.Times(0.7 + 0.4*hash(int(seat), int(row)+99))
				}
			} else if in < 0.5 {
				col = Color{72, 96, 112}
			}
		}
	}
	return col
}

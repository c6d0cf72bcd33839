package vision

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Ring is a marked circle on level ground as a picture shows it: an ellipse.
type Ring struct {
	At    r2.Vec  // its middle, px
	A, B  float64 // half axes, px: along and across its tilt
	Tilt  float64 // rad, of the longer axis against the picture's level
	Shown float64 // share of it along which a line is seen
	// Lines are the angles of [Ring.On] at which a straight line leads away outward; opposite
	// ones when both dividing lines are seen.
	Lines []float64
}

// On is a place of the ring: angle 0 at the end of the longer axis, growing clockwise in the
// picture.
func (r Ring) On(angle float64) r2.Vec { return r.out(angle, 1) }

func (r Ring) out(angle, share float64) r2.Vec {
	s, c := math.Sincos(angle)
	return r.place(share*c, share*s)
}

// place is a place of the picture, given in a frame in which the ring is the circle of radius 1.
func (r Ring) place(x, y float64) r2.Vec {
	ts, tc := math.Sincos(r.Tilt)
	x, y = r.A*x, r.B*y
	return r2.Vec{X: r.At.X + x*tc - y*ts, Y: r.At.Y + x*ts + y*tc}
}

// Diameters are the ends of two diameters of the circle that cross at right angles on the
// ground. The middle of the circle lies higher in the picture than that of the ellipse, by so
// large a share of its half height as the circle's radius is of the camera's distance. One is
// that of the dividing lines where they are seen, else the level one; the other goes to where
// the tangents at its ends meet, which are level with it on the ground.
func (r Ring) Diameters(higher float64) (one, other [2]r2.Vec) {
	if len(r.Lines) != 2 {
		x := math.Sqrt(1 - higher*higher)
		return [2]r2.Vec{r.place(-x, -higher), r.place(x, -higher)}, [2]r2.Vec{r.place(0, -1), r.place(0, 1)}
	}
	// In the frame in which the ring is a circle of radius 1.
	a, b := r.Lines[0], r.Lines[1]
	s, c := math.Sincos((a + b) / 2)
	way := r2.Vec{X: c, Y: s}
	if far := math.Cos((b - a) / 2); math.Abs(far) > 1e-3 {
		way = r2.Unit(r2.Sub(r2.Scale(1/far, way), r2.Vec{Y: -higher}))
	}
	from := r2.Vec{Y: -higher}
	along := r2.Dot(from, way)
	reach := math.Sqrt(along*along - r2.Norm2(from) + 1)
	p, q := r2.Add(from, r2.Scale(-along+reach, way)), r2.Add(from, r2.Scale(-along-reach, way))
	return [2]r2.Vec{r.On(a), r.On(b)}, [2]r2.Vec{r.place(p.X, p.Y), r.place(q.X, q.Y)}
}

// RingGuess is where a ring may be: about a place that lies in it, of about a half width.
type RingGuess struct {
	About r2.Vec
	A     float64 // px
}

// Limits of the search for a ring. Assumed; shaped on simulated clips.
const (
	smallestRing = 12.0 // px
	ringSteps    = 72   // places looked at along it
	ringWider    = 1.45 // how much wider than the guess, and narrower, it may be
	flattest     = 0.05 // half height over half width
	steepest     = 0.55
	ringLine     = 0.02 // half width of the line, in half widths of the ring
	lineClear    = 7.0  // grey levels over its surroundings at which a line is surely there
	overNoise    = 4.0  // and as many times as much as the picture's own unrest
	widestLine   = 0.05 // of a line from its middle inward, half widths of the ring
	ringShown    = 0.65 // share that must be seen
	fineTilt     = 0.06 // rad to either side
	outward      = 0.35 // how far dividing lines are looked at, in half axes
	outwardFrom  = 0.08
	dividing     = 0.55 // share of that along which they must be seen
)

// FindRing looks for a bright line that goes round a place in a picture without people (the
// middle of several frames). False when no ellipse of about the expected size is seen along
// enough of its way.
func FindRing(g Gray, guess RingGuess) (Ring, bool) {
	if !(guess.A >= smallestRing && guess.A <= float64(g.W)) {
		return Ring{}, false
	}
	d := math.Max(1.5, ringLine*guess.A*1.6)
	line := brightLines(g, d)
	clear := float32(0)
	for _, v := range line.Pix {
		clear += v / float32(len(line.Pix))
	}
	clear = max(lineClear, overNoise*clear)
	for i, v := range line.Pix {
		line.Pix[i] = min(1, v/clear)
	}
	best, most := Ring{}, 0.0
	score := func(r Ring, shift float64) float64 {
		sum := 0.0
		for k := range ringSteps {
			p := r.On(2 * math.Pi * (float64(k) + shift) / ringSteps)
			if p.X < 1 || p.Y < 1 || p.X > float64(g.W)-2 || p.Y > float64(g.H)-2 {
				continue
			}
			sum += float64(line.at(p.X, p.Y))
		}
		return sum / ringSteps
	}
	// Coarsely over what can be: near the guess, of about its size, more or less flat.
	coarse := blurred(line, max(1, int(guess.A*0.02)))
	const some = ringSteps / 3
	var along, across [some]float64
	for k := range some {
		across[k], along[k] = math.Sincos(2 * math.Pi * float64(k) / some)
	}
	rough := func(x, y, a, b float64) float64 {
		var sum float32
		for k := range some {
			i, j := int(x+a*along[k]), int(y+b*across[k])
			if i >= 0 && j >= 0 && i < g.W && j < g.H {
				sum += coarse.Pix[j*g.W+i]
			}
		}
		return float64(sum) / some
	}
	step := math.Max(2, guess.A*0.03)
	for a := guess.A / ringWider; a <= guess.A*ringWider; a *= 1.05 {
		for flat := flattest; flat <= steepest; flat *= 1.12 {
			b := a * flat
			for x := -a; x <= a; x += step {
				for y := -1.2 * b; y <= 1.2*b; y += math.Max(1.5, step*flat) {
					if s := rough(guess.About.X+x, guess.About.Y+y, a, b); s > most {
						best, most = Ring{At: r2.Vec{X: guess.About.X + x, Y: guess.About.Y + y}, A: a, B: b}, s
					}
				}
			}
		}
	}
	if most < ringShown {
		return best, false
	}
	// Finely about the best of them, one measure after the other.
	most = score(best, 0)
	for width := 0.06; width > 0.002; width /= 1.6 {
		for range 3 {
			for k := range 9 {
				for _, by := range []float64{-1, -0.5, 0.5, 1} {
					r := best
					switch k {
					case 0:
						r.At.X += by * width * r.A
					case 1:
						r.At.Y += by * width * r.A * 0.4
					case 2:
						r.A *= 1 + by*width
					case 3:
						r.B *= 1 + by*width*1.5
					case 4, 5: // one end stays
						r.At.X += by * width * r.A * float64(2*k-9)
						r.A *= 1 + by*width
					case 6, 7:
						r.At.Y += by * width * 1.5 * r.B * float64(2*k-13)
						r.B *= 1 + by*width*1.5
					case 8:
						if r.Tilt += by * width; math.Abs(r.Tilt) > fineTilt {
							continue
						}
					}
					if s := score(r, 0); s > most {
						best, most = r, s
					}
				}
			}
		}
	}
	best.Shown = score(best, 0.5)
	if best.Shown < ringShown {
		return best, false
	}
	best.Lines = best.dividers(line)
	return best.inner(g), true
}

// inner is the ring at the inner edge of its line, which is where a circle is measured: where
// the level is half way between that of the line and that inside, towards the ends of the
// ring, where the picture resolves it.
func (r Ring) inner(g Gray) Ring {
	level := func(share float64) (sum float64) {
		const n = 12
		for k := range n {
			a := 0.5 * (float64(k%(n/2)) - float64(n/2-1)/2) / float64(n/4)
			if k >= n/2 {
				a += math.Pi
			}
			p := r.out(a, share)
			sum += g.At(p.X, p.Y) / n
		}
		return sum
	}
	line, inside := level(1), level(1-2*widestLine)
	for s := 1.0; s > 1-widestLine; s -= 0.0025 {
		if level(s) < (line+inside)/2 {
			r.A, r.B = r.A*s, r.B*s
			break
		}
	}
	return r
}

// dividers are the angles at both ends of a straight line that is seen outside the ring, on
// both sides of it, and would go through about its middle.
func (r Ring) dividers(line Gray) []float64 {
	beyond := func(from, to r2.Vec) float64 {
		n, sum := 0, 0.0
		way := r2.Scale(0.5, r2.Sub(to, from))
		for s := outwardFrom; s <= outward; s += 0.02 {
			p := r2.Add(to, r2.Scale(s, way))
			if p.X < 1 || p.Y < 1 || p.X > float64(line.W)-2 || p.Y > float64(line.H)-2 {
				return 0
			}
			n, sum = n+1, sum+float64(line.at(p.X, p.Y))
		}
		return sum / float64(n)
	}
	const steps = 180
	var a, b, most float64
	for k := range steps {
		one := math.Pi * float64(k) / steps
		for i := -steps / 8; i <= steps/8; i++ {
			other := one + math.Pi + math.Pi*float64(i)/steps
			p, q := r.On(one), r.On(other)
			first := beyond(q, p)
			if first < most {
				continue
			}
			if s := math.Min(first, beyond(p, q)); s > most {
				a, b, most = one, other, s
			}
		}
	}
	if most < dividing {
		return nil
	}
	return []float64{a, b}
}

// brightLines is by how much a place is brighter than what lies d to both sides of it, along
// the better of both axes.
func brightLines(g Gray, d float64) Gray {
	out := Gray{g.W, g.H, make([]float32, len(g.Pix))}
	for y := range g.H {
		for x := range g.W {
			v := g.Pix[y*g.W+x]
			fx, fy := float64(x), float64(y)
			up := min(v-g.at(fx, fy-d), v-g.at(fx, fy+d))
			across := min(v-g.at(fx-d, fy), v-g.at(fx+d, fy))
			out.Pix[y*g.W+x] = max(0, up, across)
		}
	}
	return out
}

// blurred spreads the brightest of a square of pixels over all of it.
func blurred(g Gray, half int) Gray {
	pass := func(g Gray, dx, dy int) Gray {
		out := Gray{g.W, g.H, make([]float32, len(g.Pix))}
		for y := range g.H {
			for x := range g.W {
				var most float32
				for k := -half; k <= half; k++ {
					i, j := x+k*dx, y+k*dy
					if i >= 0 && j >= 0 && i < g.W && j < g.H {
						most = max(most, g.Pix[j*g.W+i])
					}
				}
				out.Pix[y*g.W+x] = most
			}
		}
		return out
	}
	return pass(pass(g, 1, 0), 0, 1)
}

// Package vision follows what a picture shows: corners, points from frame to
// frame, blurred balls, and the turning of the camera behind all of them. It
// works on grey pictures that others decoded.
package vision

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Gray is a grey picture, 0 black to 255 white, rows from above.
type Gray struct {
	W, H int
	Pix  []float32
}

// FromBytes makes a picture from one byte a pixel.
func FromBytes(w, h int, b []byte) Gray {
	g := Gray{w, h, make([]float32, w*h)}
	for i, v := range b[:w*h] {
		g.Pix[i] = float32(v)
	}
	return g
}

// at samples between pixels; outside the picture its edge goes on.
func (g Gray) at(x, y float64) float32 {
	x = math.Max(0, math.Min(float64(g.W)-1.001, x))
	y = math.Max(0, math.Min(float64(g.H)-1.001, y))
	i, j := int(x), int(y)
	fx, fy := float32(x-float64(i)), float32(y-float64(j))
	p := g.Pix[j*g.W+i:]
	q := p[g.W:]
	return (p[0]*(1-fx)+p[1]*fx)*(1-fy) + (q[0]*(1-fx)+q[1]*fx)*fy
}

// At is the level at a place between pixels; outside the picture its edge goes on.
func (g Gray) At(x, y float64) float64 { return float64(g.at(x, y)) }

// patch samples a square of 2 half + 1 pixels about (x, y) into out.
func (g Gray) patch(x, y float64, half int, out []float32) {
	n := 2*half + 1
	x0, y0 := x-float64(half), y-float64(half)
	i, j := int(math.Floor(x0)), int(math.Floor(y0))
	if i < 0 || j < 0 || i+n >= g.W || j+n >= g.H {
		for r := range n {
			for c := range n {
				out[r*n+c] = g.at(x0+float64(c), y0+float64(r))
			}
		}
		return
	}
	fx, fy := float32(x0-float64(i)), float32(y0-float64(j))
	a, b, c, d := (1-fx)*(1-fy), fx*(1-fy), (1-fx)*fy, fx*fy
	for r := range n {
		p := g.Pix[(j+r)*g.W+i : (j+r)*g.W+i+n+1]
		q := g.Pix[(j+r+1)*g.W+i : (j+r+1)*g.W+i+n+1]
		o := out[r*n : r*n+n]
		for k := range o {
			o[k] = a*p[k] + b*p[k+1] + c*q[k] + d*q[k+1]
		}
	}
}

// Pyramid is a picture and its halvings.
type Pyramid []Gray

// NewPyramid halves a picture levels times, with the 5-tap binomial filter
// before each halving (Burt and Adelson 1983, IEEE Trans. Commun. 31:532).
func NewPyramid(g Gray, levels int) Pyramid {
	p := Pyramid{g}
	for range levels {
		last := p[len(p)-1]
		if last.W < 32 || last.H < 32 {
			break
		}
		p = append(p, halve(last))
	}
	return p
}

func halve(g Gray) Gray {
	w, h := (g.W+1)/2, (g.H+1)/2
	rows := make([]float32, w*g.H)
	for y := range g.H {
		src, dst := g.Pix[y*g.W:(y+1)*g.W], rows[y*w:(y+1)*w]
		for x := range w {
			c := 2 * x
			l2, l1, r1, r2 := max(c-2, 0), max(c-1, 0), min(c+1, g.W-1), min(c+2, g.W-1)
			dst[x] = (src[l2] + src[r2] + 4*(src[l1]+src[r1]) + 6*src[c]) / 16
		}
	}
	out := Gray{w, h, make([]float32, w*h)}
	for y := range h {
		c := 2 * y
		a, b, m := rows[max(c-2, 0)*w:], rows[max(c-1, 0)*w:], rows[c*w:]
		d, e := rows[min(c+1, g.H-1)*w:], rows[min(c+2, g.H-1)*w:]
		dst := out.Pix[y*w : (y+1)*w]
		for x := range dst {
			dst[x] = (a[x] + e[x] + 4*(b[x]+d[x]) + 6*m[x]) / 16
		}
	}
	return out
}

// Corner is a place that can be followed, with how well.
type Corner struct {
	At       r2.Vec
	Strength float64
}

// Corners finds up to most places with structure in both directions, apart from
// each other by at least gap px: the smaller eigenvalue of the gradient matrix
// (Shi and Tomasi 1994, CVPR). Skip says where not to look.
func Corners(g Gray, most int, gap float64, skip func(x, y float64) bool) []Corner {
	const half = 3
	// The best corner of each cell keeps them spread over the picture.
	cell := max(int(gap), 2*half)
	var out []Corner
	for cy := half + 2; cy+cell < g.H-half-2; cy += cell {
		for cx := half + 2; cx+cell < g.W-half-2; cx += cell {
			best := Corner{}
			for y := cy; y < cy+cell; y += 2 {
				for x := cx; x < cx+cell; x += 2 {
					if s := strength(g, x, y, half); s > best.Strength && !(skip != nil && skip(float64(x), float64(y))) {
						best = Corner{r2.Vec{X: float64(x), Y: float64(y)}, s}
					}
				}
			}
			if best.Strength > 0 {
				out = append(out, best)
			}
		}
	}
	sortCorners(out)
	// Weak ones among strong ones are noise.
	for i, c := range out {
		if i == most || c.Strength < 0.01*out[0].Strength || c.Strength < 4 {
			return out[:i]
		}
	}
	return out
}

// strength is the smaller eigenvalue of the mean gradient matrix.
func strength(g Gray, x, y, half int) float64 {
	var xx, xy, yy float32
	for j := y - half; j <= y+half; j += 1 {
		row := g.Pix[j*g.W:]
		up, down := g.Pix[(j-1)*g.W:], g.Pix[(j+1)*g.W:]
		for i := x - half; i <= x+half; i++ {
			dx, dy := row[i+1]-row[i-1], down[i]-up[i]
			xx, xy, yy = xx+dx*dx, xy+dx*dy, yy+dy*dy
		}
	}
	n := float32(4 * (2*half + 1) * (2*half + 1))
	a, b, c := float64(xx/n), float64(xy/n), float64(yy/n)
	return (a+c)/2 - math.Sqrt((a-c)*(a-c)/4+b*b)
}

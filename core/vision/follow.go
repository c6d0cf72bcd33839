package vision

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"
)

func sortCorners(c []Corner) {
	sort.SliceStable(c, func(i, j int) bool { return c[i].Strength > c[j].Strength })
}

// Half sizes of the window that is followed, px at every level.
// Bouguet 2000 for the method; sizes assumed.
const (
	windowHalf = 10
	iterations = 30
	enough     = 0.005 // px, ends the search
)

// Follow finds where the window about p in picture a went in picture b, looking
// first about guess: pyramidal Lucas and Kanade (Bouguet 2000, Intel technical
// report). The misfit is the root mean square difference of the windows; ok is
// false when the window has no structure or left the picture.
func Follow(a, b Pyramid, p, guess r2.Vec) (q r2.Vec, misfit float64, ok bool) {
	return follow(a, b, p, guess, windowHalf)
}

func follow(a, b Pyramid, p, guess r2.Vec, half int) (q r2.Vec, misfit float64, ok bool) {
	n := 2*half + 1
	var room [5][(2*windowHalf + 3) * (2*windowHalf + 3)]float32
	win, gx, gy, now := room[0][:n*n], room[1][:n*n], room[2][:n*n], room[3][:n*n]
	big := room[4][:(n+2)*(n+2)]
	levels := min(len(a), len(b))
	scale := 1 / float64(int(1)<<(levels-1))
	d := r2.Scale(scale, r2.Sub(guess, p))
	for l := levels - 1; l >= 0; l-- {
		at := r2.Scale(1/float64(int(1)<<l), p)
		// Window with its gradients by central differences, from one wider patch.
		a[l].patch(at.X, at.Y, half+1, big)
		var xx, xy, yy float64
		for r := range n {
			for c := range n {
				k := (r+1)*(n+2) + c + 1
				i := r*n + c
				dx, dy := (big[k+1]-big[k-1])/2, (big[k+n+2]-big[k-n-2])/2
				win[i], gx[i], gy[i] = big[k], dx, dy
				xx, xy, yy = xx+float64(dx*dx), xy+float64(dx*dy), yy+float64(dy*dy)
			}
		}
		det := xx*yy - xy*xy
		area := float64(n * n)
		if small := (xx+yy)/2 - math.Sqrt((xx-yy)*(xx-yy)/4+xy*xy); small < 0.5*area {
			if l == 0 {
				return p, math.Inf(1), false
			}
			d = r2.Scale(2, d)
			continue
		}
		for range iterations {
			to := r2.Add(at, d)
			if to.X < 0 || to.Y < 0 || to.X > float64(b[l].W-1) || to.Y > float64(b[l].H-1) {
				break
			}
			b[l].patch(to.X, to.Y, half, now)
			var bx, by float32
			for i, v := range now {
				e := win[i] - v
				bx, by = bx+e*gx[i], by+e*gy[i]
			}
			step := r2.Vec{X: (yy*float64(bx) - xy*float64(by)) / det, Y: (xx*float64(by) - xy*float64(bx)) / det}
			d = r2.Add(d, step)
			if r2.Norm(step) < enough {
				break
			}
		}
		if l > 0 {
			d = r2.Scale(2, d)
		}
	}
	q = r2.Add(p, d)
	if q.X < 0 || q.Y < 0 || q.X > float64(b[0].W-1) || q.Y > float64(b[0].H-1) {
		return q, math.Inf(1), false
	}
	b[0].patch(q.X, q.Y, half, now)
	var sum float64
	for i, v := range now {
		e := float64(win[i] - v)
		sum += e * e
	}
	return q, math.Sqrt(sum / float64(n*n)), true
}

// likeness is the normalised cross-correlation of two windows, -1 to 1.
func likeness(a, b []float32) float64 {
	var sa, sb, aa, bb, ab float64
	for i, v := range a {
		x, y := float64(v), float64(b[i])
		sa, sb, aa, bb, ab = sa+x, sb+y, aa+x*x, bb+y*y, ab+x*y
	}
	n := float64(len(a))
	va, vb := aa-sa*sa/n, bb-sb*sb/n
	if va < 1e-6 || vb < 1e-6 {
		return 0
	}
	return (ab - sa*sb/n) / math.Sqrt(va*vb)
}

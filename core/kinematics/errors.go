package kinematics

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Errors are those of the places of a point that truly stands.
type Errors struct {
	Hangs   float64 // correlation of two frames in a row, 0 to 1
	Fresh   float64 // standard deviation of what is new in each frame, px
	Lasting float64 // mean square by which places some frames apart differ, px2: small of what stands
}

// ErrorsOf looks at a point that stands over the frames a to b, both included, but for an even
// drift in px/s. Of what stands, places that are farther apart in time differ more, as far as
// errors last: by how much they do over one frame and over some (a variogram) follow the
// correlation and what is new in a frame, as of errors that die away evenly. False with too
// few frames.
func ErrorsOf(p *Path, a, b int, rate float64, drift r2.Vec) (Errors, bool) {
	apart := max(2, int(math.Round(hangSpan*rate)))
	differ := func(d int) (v float64, n int) {
		for f := a; f+d <= b; f++ {
			q, okQ := p.Seen(f)
			r, okR := p.Seen(f + d)
			if okQ && okR {
				v, n = v+r2.Norm2(r2.Sub(r2.Sub(r, q), r2.Scale(float64(d)/rate, drift)))/2, n+1
			}
		}
		return v / math.Max(1, float64(n)), n
	}
	one, n1 := differ(1)
	some, n2 := differ(apart)
	if n1 < leastPairs || n2 < leastPairs || one == 0 {
		return Errors{}, false
	}
	// (1 - h^apart) / (1 - h) = some / one
	lo, hi := 0.0, mostHanging
	for range 30 {
		h := (lo + hi) / 2
		if (1-math.Pow(h, float64(apart)))/(1-h) < some/one {
			lo = h
		} else {
			hi = h
		}
	}
	return Errors{Hangs: lo, Fresh: math.Sqrt(one * (1 + lo) / 2), Lasting: some}, true
}

// Over what time places are compared, s, how many pairs it takes, and how far errors hang
// together at most. Assumed.
const (
	hangSpan    = 0.025
	leastPairs  = 6
	mostHanging = 0.98
)

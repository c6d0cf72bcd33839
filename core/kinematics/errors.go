package kinematics

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Errors are those of the places of a point that truly stands: some new in every frame, some
// that die away slowly, as joints of a draft wander. Together an autoregressive and moving
// average process, ARMA(1,1).
type Errors struct {
	Hangs float64 // share of the slow error that is left in the next frame, 0 to 1
	Echo  float64 // share of what was new in a frame that comes back in the next, -1 to 0
	Fresh float64 // standard deviation of what is new in each frame, px
	All   float64 // of all of it
}

// parts are the variances of what is new in each place, and of what dies away.
func (e Errors) parts() (white, slow float64) {
	if e.Hangs == 0 {
		return sq(e.All), 0
	}
	white = -e.Echo * sq(e.Fresh) / e.Hangs
	return white, math.Max(0, sq(e.All)-white)
}

// Mean is how far the mean of n places in a row is off, px.
func (e Errors) Mean(n int) float64 {
	white, slow := e.parts()
	h, k := e.Hangs, float64(n)
	if h > 0 && h < 1 {
		slow *= ((1+h)/(1-h) - 2*h*(1-math.Pow(h, k))/(k*(1-h)*(1-h))) / k
	}
	return math.Sqrt(white/k + slow)
}

// lasts is for how long joints of a draft stay off, s. Seen in drafts of drawn clips.
const lasts = 0.12

// ErrorsOf looks at a point that stands over spans of frames, both ends included, but for an
// even drift in px/s. Of what stands, places that are farther apart in time differ more, as far
// as errors last: by how much they do over one frame and over some (a variogram) follow both
// parts. False with too few frames.
func ErrorsOf(p *Path, spans [][2]int, rate float64, drift r2.Vec) (Errors, bool) {
	apart := max(2, int(math.Round(hangSpan*rate)))
	differ := func(d int) (v float64, n int) {
		for _, s := range spans {
			for f := s[0]; f+d <= s[1]; f++ {
				q, okQ := p.Seen(f)
				r, okR := p.Seen(f + d)
				if okQ && okR {
					v, n = v+r2.Norm2(r2.Sub(r2.Sub(r, q), r2.Scale(float64(d)/rate, drift)))/4, n+1
				}
			}
		}
		return v / math.Max(1, float64(n)), n
	}
	one, n1 := differ(1)
	some, n2 := differ(apart)
	if n1 < leastPairs || n2 < leastPairs || one == 0 {
		return Errors{}, false
	}
	// Half the mean square difference of one coordinate: new + slow (1 - hangs^d).
	hangs := math.Exp(-1 / (lasts * rate))
	slow := math.Max(0, (some-one)/(hangs-math.Pow(hangs, float64(apart))))
	fresh := math.Max(one-slow*(1-hangs), leastFresh*one)
	if some < surelySlow*one {
		return Errors{Fresh: math.Sqrt(one), All: math.Sqrt(one)}, true
	}
	// x(t) - hangs x(t-1) is a moving average of e: its variance and its covariance of two
	// frames in a row give the echo and e's own variance.
	variance, next := slow*(1-hangs*hangs)+fresh*(1+hangs*hangs), -hangs*fresh
	half := variance / (2 * next)
	echo := half + math.Sqrt(half*half-1) // the root within the unit circle; both are negative
	return Errors{Hangs: hangs, Echo: echo, Fresh: math.Sqrt(next / echo), All: math.Sqrt(slow + fresh)}, true
}

// Over what time places are compared, s, how many pairs it takes, and how much of a frame's
// difference is new in it at least. Assumed.
const (
	hangSpan   = 0.025
	leastPairs = 6
	leastFresh = 0.1
	surelySlow = 1.4 // times as far apart over some frames as over one, or chance may have done it
)

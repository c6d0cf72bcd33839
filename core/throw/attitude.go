package throw

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/flight"
	"neokinema/core/linsolve"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// Attitude is how a disc lies in the air after its release, from both ends of the
// oval as which it shows. A camera from the side sees its pitch, one from behind its
// roll.
type Attitude struct {
	Seen   string                `json:"seen" enum:"pitch,roll" doc:"pitch: the front over the back, from the side; roll: the edge of the throwing side under the other, from behind"`
	Tilt   uncertainty.Estimate  `json:"tilt" doc:"middle over the frames, degrees"`
	Attack *uncertainty.Estimate `json:"attack,omitempty" required:"false" doc:"pitch minus the angle of the release, degrees"`
	Wobble *uncertainty.Estimate `json:"wobble,omitempty" required:"false" doc:"how far it swings to either side, degrees; absent when too few frames show both ends"`
	Rate   float64               `json:"rate,omitempty" required:"false" doc:"swings a second"`
	Frames int                   `json:"frames" doc:"frames that were used"`
}

// ErrNoRim tells that a disc's attitude is not read.
var ErrNoRim = errors.New("both ends of the disc are not placed in its first free frames")

// Of a disc in the air: frames that are needed for its attitude and for its wobble,
// the least time for a wobble, s, and between how many wobbles a second it is looked
// for. A disc spins some 5 to 8 times a second and wobbles about twice as often.
// Common practice, no source.
const (
	leastTilts   = 3
	leastWobbles = 8
	wobbleSpan   = 0.06
	slowWobble   = 6.0
	fastWobble   = 20.0
	squareOn     = 0.8 // cosine of how far the camera may look past
	unseenTilt   = 10  // degrees: by how much the other tilt, which one camera does not see, may be another
	usualPitch   = 28  // degrees: what it is from behind
)

// Attitude reads how the disc lies from its first free frame on.
func (c Clip) Attitude(release int) (Attitude, error) {
	out := Attitude{Seen: "pitch"}
	ahead := vec3.Vec{X: 1}
	switch {
	case math.Abs(c.Camera.Ahead.Z) > squareOn:
	case math.Abs(c.Camera.Ahead.X) > squareOn:
		out.Seen = "roll"
		if ahead = (vec3.Vec{Z: -1}); c.Left {
			ahead = vec3.Vec{Z: 1}
		}
	default:
		return out, ErrView
	}
	unseen := 0.0
	if out.Seen == "roll" {
		unseen = math.Tan(usualPitch * math.Pi / 180)
	}
	var t, tilt, sd []float64
	past := 0.0 // how far the camera looks past, which is the same in all frames
	for f := max(0, release); f < c.Frames; f++ {
		a, sa, okA := c.pixel("rim_a", f)
		b, sb, okB := c.pixel("rim_b", f)
		if !okA || !okB {
			continue
		}
		long := r2.Norm(r2.Sub(a, b))
		if long < 3*math.Hypot(sa, sb) {
			continue // seen end on
		}
		// The long axis of the oval lies in the disc and across the sight.
		ra, rb := c.Camera.Ray(a), c.Camera.Ray(b)
		w := vec3.Unit(vec3.Sub(rb, ra))
		along := vec3.Dot(w, ahead)
		if along < 0 { // which end is which does not matter
			w, along = vec3.Scale(-1, w), -along
		}
		away := w.Z
		if out.Seen == "roll" {
			away = w.X
		}
		t = append(t, float64(f-release)/c.Movement.Rate)
		tilt = append(tilt, deg(math.Atan2(w.Y-away*unseen, along)))
		// An end is a clearer mark than a joint.
		sd = append(sd, deg(math.Hypot(sa, sb)/2/long))
		past += math.Abs(away / along)
	}
	if out.Frames = len(t); out.Frames < leastTilts {
		return out, ErrNoRim
	}
	out.Tilt, out.Wobble, out.Rate = swings(t, tilt, sd)
	out.Tilt = uncertainty.Normal(out.Tilt.Value, math.Hypot(out.Tilt.SD, unseenTilt*past/float64(len(t))))
	return out, nil
}

// swings fits a mean and a swing about it: least squares at each rate, the best of
// them. Without enough frames there is only the mean.
func swings(t, x, sd []float64) (mean uncertainty.Estimate, half *uncertainty.Estimate, rate float64) {
	var weight, sum float64
	for i := range x {
		weight, sum = weight+1/(sd[i]*sd[i]), sum+x[i]/(sd[i]*sd[i])
	}
	m := sum / weight
	var spread float64
	for i := range x {
		spread += (x[i] - m) * (x[i] - m)
	}
	n := float64(len(x))
	// A wobble that is not resolved stands in the spread.
	mean = uncertainty.Normal(m, math.Hypot(math.Sqrt(1/weight), math.Sqrt(spread/(n-1)/n)))
	if len(x) < leastWobbles || t[len(t)-1]-t[0] < wobbleSpan {
		return mean, nil, 0
	}
	least := math.Inf(1)
	for hz := slowWobble; hz <= fastWobble; hz += 0.25 {
		a, cov, cost := harmonic(t, x, sd, hz)
		if cost >= least {
			continue
		}
		least, rate = cost, hz
		size := math.Hypot(a[1], a[2])
		// First order in both amplitudes; at least what their scatter alone gives.
		v := (cov[4] + cov[8]) / 2
		if size > 0 {
			v = math.Max(v, (a[1]*a[1]*cov[4]+2*a[1]*a[2]*cov[5]+a[2]*a[2]*cov[8])/(size*size))
		}
		noise := math.Max(1, cost/math.Max(1, n-4)) // what the model leaves over
		w := uncertainty.Normal(size, math.Sqrt(v*noise))
		mean, half = uncertainty.Normal(a[0], math.Sqrt(cov[0]*noise)), &w
	}
	return mean, half, rate
}

// harmonic fits a[0] + a[1] cos + a[2] sin at a rate, with its covariance and the sum
// of squares over scatters.
func harmonic(t, x, sd []float64, hz float64) (a [3]float64, cov [9]float64, cost float64) {
	var m [9]float64
	row := func(i int) [3]float64 {
		s, c := math.Sincos(2 * math.Pi * hz * t[i])
		return [3]float64{1, c, s}
	}
	for i := range t {
		r := row(i)
		for j := range 3 {
			for k := range 3 {
				m[3*j+k] += r[j] * r[k] / (sd[i] * sd[i])
			}
			a[j] += r[j] * x[i] / (sd[i] * sd[i])
		}
	}
	if linsolve.Solve(append([]float64(nil), m[:]...), a[:]) != nil {
		return a, cov, math.Inf(1)
	}
	for j := range 3 {
		var e [3]float64
		e[j] = 1
		_ = linsolve.Solve(append([]float64(nil), m[:]...), e[:]) // solved above
		copy(cov[3*j:], e[:])
	}
	for i := range t {
		r := row(i)
		d := (x[i] - a[0]*r[0] - a[1]*r[1] - a[2]*r[2]) / sd[i]
		cost += d * d
	}
	return a, cov, cost
}

// LostToWobble is by how much a wobble shortens the flight of a disc, m: half is that
// of [Attitude.Wobble], degrees.
func (l Release) LostToWobble(c FlightConditions, half uncertainty.Estimate) uncertainty.Estimate {
	disc, ok := c.What.(flight.Discus)
	if !ok {
		return uncertainty.Estimate{Value: math.NaN()}
	}
	fly := func(x []float64) float64 {
		c.What = flight.Wobbling{Discus: disc, Half: math.Max(0, x[0]) * math.Pi / 180}
		return l.distance(c, l.Speed.Value, l.Angle.Value, l.Height.Value)
	}
	still := fly([]float64{0})
	return uncertainty.Propagate(func(x []float64) float64 { return still - fly(x) }, []float64{half.Value}, []float64{half.SD})
}

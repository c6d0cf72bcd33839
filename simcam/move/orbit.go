package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/angles"
	"neokinema/simcam/figure"
)

// toward is the level direction of an azimuth: 0 at the back of the circle, 90
// to the right of the middle of the sector, 180 the sector.
func toward(az float64) r3.Vec { return figure.Along(180 - az) }

// orbit is a plane that an implement goes round in: low towards the azimuth low,
// rising across it by tilt degrees.
type orbit struct{ phase, tilt, low Curve }

// out is the direction from the middle of the orbit to the implement.
func (o orbit) out(t float64) r3.Vec {
	a, low := o.phase.At(t), o.low.At(t)
	s, c := math.Sincos(angles.Rad(o.tilt.At(t)))
	down := figure.Sum(c, toward(low), -s, figure.Up, 0, figure.Up)
	sin, cos := math.Sincos(angles.Rad(a - low))
	return figure.Sum(cos, down, sin, toward(low+90), 0, down)
}

// reach is how far from c along d a hand can be that every given shoulder holds
// with an arm of length l.
func reach(c, d r3.Vec, l float64, shoulders ...r3.Vec) float64 {
	best := math.Inf(1)
	for _, s := range shoulders {
		// |c + r d - s| = l
		q := r3.Sub(c, s)
		b, k := r3.Dot(q, d), r3.Norm2(q)-l*l
		best = math.Min(best, -b+math.Sqrt(math.Max(0, b*b-k)))
	}
	return math.Max(0.12, best)
}

// invert finds when a growing curve has a value, between two times.
func (c Curve) invert(v, from, to float64) float64 {
	for range 60 {
		mid := (from + to) / 2
		if c.At(mid) < v {
			from = mid
		} else {
			to = mid
		}
	}
	return (from + to) / 2
}

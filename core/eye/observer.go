package eye

import "math/rand/v2"

// Observer is somebody whose seeing is known: what the measures are tried on.
type Observer struct {
	Spread  float64 // of what is seen, in sizes
	Even    float64 // size from which he says yes
	Bias    float64 // of angles, degrees
	Scatter float64
}

// Sees is his yes or no to a fault of a size.
func (o Observer) Sees(r *rand.Rand, size float64) bool {
	return size+o.Spread*r.NormFloat64() > o.Even
}

// Estimates is his number for an angle, as one says it: to five degrees.
func (o Observer) Estimates(r *rand.Rand, angle float64) float64 {
	v := angle + o.Bias + o.Scatter*r.NormFloat64()
	return 5 * float64(int(v/5+0.5))
}

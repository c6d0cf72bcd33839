// Package calibration turns pixels in the plane of motion into metres.
package calibration

import (
	"errors"
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/uncertainty"
)

// Line is a known length that the coach laid in the plane of motion.
type Line struct {
	AX     float64 `json:"ax"`
	AY     float64 `json:"ay"`
	BX     float64 `json:"bx"`
	BY     float64 `json:"by"`
	Metres float64 `json:"metres" doc:"true length, m"`
}

// Scale is metres per pixel with its doubt, and where it came from.
type Scale struct {
	MetresPerPixel uncertainty.Estimate `json:"metres_per_pixel"`
	From           string               `json:"from" doc:"line: a known length; stature: limb lengths by standing height"`
}

// FromLine takes the scale from a known length whose two ends scatter by sigma
// pixels: sd(m/px) = m sigma sqrt(2) / px^2.
func FromLine(l Line, sigma float64) (Scale, error) {
	px := r2.Norm(r2.Vec{X: l.BX - l.AX, Y: l.BY - l.AY})
	if px < 10 || !(l.Metres > 0.01) || l.Metres > 200 {
		return Scale{}, errors.New("a scale needs a line of at least 10 px and a length from 0.01 to 200 m")
	}
	return Scale{uncertainty.Normal(l.Metres/px, l.Metres*sigma*math.Sqrt2/(px*px)), "line"}, nil
}

// BuildSpread is the scatter of limb lengths between people of one height, as a
// share: about 4 %, from memory of anthropometric tables.
const BuildSpread = 0.04

// limbOff is how far a limb may be off what the others tell, as a share, before it is taken
// for a joint that was seen wrongly. Assumed.
const limbOff = 0.2

// FromLimbs takes the scale from seen limb lengths (pixels) whose true lengths
// follow from the standing height. A limb seen at an angle to the picture looks
// short, so the longest look of each limb counts. One that no other bears out is left out;
// the more the others scatter, the wider the doubt.
func FromLimbs(seen, known []float64) (Scale, error) {
	var ratios []float64
	for i := range seen {
		if seen[i] > 0 && known[i] > 0 {
			ratios = append(ratios, seen[i]/known[i])
		}
	}
	if len(ratios) == 0 {
		return Scale{}, errNoLimb
	}
	sort.Float64s(ratios)
	middle := (ratios[(len(ratios)-1)/2] + ratios[len(ratios)/2]) / 2
	var px, m float64
	var fits []float64
	for i := range seen {
		if seen[i] > 0 && known[i] > 0 && math.Abs(seen[i]/known[i]/middle-1) <= limbOff {
			px, m, fits = px+seen[i], m+known[i], append(fits, seen[i]/known[i]/middle)
		}
	}
	if px < 20 || m == 0 {
		return Scale{}, errNoLimb
	}
	return Scale{uncertainty.Normal(m/px, m/px*math.Hypot(BuildSpread, spread(fits))), "stature"}, nil
}

// spread is the standard deviation of a few numbers, 0 of a single one.
func spread(list []float64) float64 {
	if len(list) < 2 {
		return 0
	}
	mean, squares := 0.0, 0.0
	for _, v := range list {
		mean += v / float64(len(list))
	}
	for _, v := range list {
		squares += (v - mean) * (v - mean)
	}
	return math.Sqrt(squares / float64(len(list)-1))
}

var errNoLimb = errors.New("no limb is seen well enough to take a scale from the standing height")

package evaluate

import (
	"fmt"
	"math"
	"sort"

	"neokinema/core/body"
	"neokinema/core/calibration"
)

// limb is a segment between two landmarks; legs are long enough to give a scale.
type limb struct {
	from, to, segment string
	scale             bool
}

var limbs = []limb{{"hip", "knee", "thigh", true}, {"knee", "ankle", "shank", true}, {"shoulder", "elbow", "upper_arm", false}, {"elbow", "wrist", "forearm", false}}

// findScale takes the scale from the line that the coach marked, if one can be true, or else from
// the athlete's limbs.
func (e *Evaluation) findScale() {
	s, err := e.bodyScale()
	if e.Input.Scale != nil {
		marked, wrong := calibration.FromLine(*e.Input.Scale, e.Sigma)
		switch {
		case wrong != nil:
			e.report.Problems = append(e.report.Problems, wrong.Error())
		case err == nil && !e.fits(marked, s):
			// The rest goes by the body.
		default:
			s, err = marked, nil
		}
	}
	if err == nil {
		e.Scale, e.report.Scale = &s, &s
	}
}

// By how much a line that the coach marked may be at odds with the athlete's limbs: it may lie
// nearer or farther than he does. Beyond the one it is told, beyond the other it is not used.
// Assumed.
const (
	oddLine   = 1.3
	wrongLine = 1.7
)

// fits tells whether a marked line is to be used, and says if it is odd.
func (e *Evaluation) fits(marked, limbs calibration.Scale) bool {
	times := marked.MetresPerPixel.Value / limbs.MetresPerPixel.Value
	off := math.Max(times, 1/times)
	if off < oddLine {
		return true
	}
	what, use := "check its length and both ends, or where it lies: it must be as far from the camera as the athlete", off < wrongLine
	if !use {
		what += ". Until then lengths go by the athlete's height"
	}
	e.report.Problems = append(e.report.Problems, fmt.Sprintf("by the line that gives the scale the athlete would be %.2g m tall, and the card says %.2f: %s", times*e.Input.Athlete.Height, e.Input.Athlete.Height, what))
	return use
}

// bodyScale is the scale by what limbs of somebody so tall are long.
func (e *Evaluation) bodyScale() (calibration.Scale, error) {
	look := usualLook
	if !e.runs() {
		look = rareLook
	}
	var seen, known []float64
	for _, side := range []body.Side{body.Left, body.Right} {
		for _, l := range limbs {
			if !l.scale {
				continue
			}
			from, to := string(side)+"_"+l.from, string(side)+"_"+l.to
			longest := e.Movement.LengthAt(look, from, to)
			if longest == 0 {
				longest = e.longest(look, from, to)
			}
			seen, known = append(seen, longest), append(known, body.Length(e.Input.Athlete, l.segment))
		}
	}
	return calibration.FromLimbs(seen, known)
}

// A limb that is seen in so many frames is taken for as long as it is in a fifth of them, of
// somebody who turns in a tenth: a single far length is a joint that is wrong, and joints that
// tremble make all of them longer. Points less sure than this do not tell a length. Assumed;
// shaped on the half of the hard set that is there to build on.
const (
	manyLooks  = 8
	usualLook  = 0.8
	rareLook   = 0.9
	sureLength = 0.3
)

// longest is the longest look of a limb in single frames.
func (e *Evaluation) longest(look float64, from, to string) float64 {
	var looks []float64
	t := e.Input.Points[from]
	if t == nil {
		return 0
	}
	for f := t.From; f < t.End(); f++ {
		a, okA := t.At(f)
		b, okB := e.Input.Points.At(to, f)
		if okA && okB && !a.Hidden && !b.Hidden && min(a.Confidence, b.Confidence) >= sureLength {
			looks = append(looks, math.Hypot(a.X-b.X, a.Y-b.Y))
		}
	}
	if len(looks) == 0 {
		return 0
	}
	sort.Float64s(looks)
	if len(looks) < manyLooks {
		return looks[len(looks)-1]
	}
	return looks[int(look*float64(len(looks)))]
}

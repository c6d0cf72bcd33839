package evaluate

import (
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

func (e *Evaluation) findScale() {
	var s calibration.Scale
	var err error
	if e.Input.Scale != nil {
		s, err = calibration.FromLine(*e.Input.Scale, e.Sigma)
	} else {
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
		s, err = calibration.FromLimbs(seen, known)
	}
	if err == nil {
		e.Scale, e.report.Scale = &s, &s
	} else if e.Input.Scale != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
	}
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

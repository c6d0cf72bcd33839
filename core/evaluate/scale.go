package evaluate

import (
	"math"

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
		var seen, known []float64
		for _, side := range []body.Side{body.Left, body.Right} {
			for _, l := range limbs {
				if !l.scale {
					continue
				}
				from, to := string(side)+"_"+l.from, string(side)+"_"+l.to
				longest := e.Movement.Length(from, to)
				if longest == 0 {
					longest = e.longest(from, to)
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

// longest is the longest look of a limb in single frames.
func (e *Evaluation) longest(from, to string) float64 {
	var longest float64
	t := e.Input.Points[from]
	if t == nil {
		return 0
	}
	for f := t.From; f < t.End(); f++ {
		a, okA := t.At(f)
		b, okB := e.Input.Points.At(to, f)
		if okA && okB && !a.Hidden && !b.Hidden {
			longest = math.Max(longest, math.Hypot(a.X-b.X, a.Y-b.Y))
		}
	}
	return longest
}

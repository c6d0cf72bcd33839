package evaluate

import (
	"math"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/uncertainty"
)

// Distances between points of one frame, in cm by the scale or in lengths of the body.

var _ = register(
	kind{name: "ahead", unit: "cm", doc: "points[0] ahead of points[1] along the ground", points: 2, scope: placed, decides: longer,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.scaled(func(v []float64) float64 { return v[0] - v[2] })
		}},
	kind{name: "above", unit: "cm", doc: "points[0] above points[1]", points: 2, scope: placed, decides: longer,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.scaled(func(v []float64) float64 { return v[1] - v[3] })
		}},
	kind{name: "apart", unit: "cm", doc: "distance of two points", points: 2, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.scaled(func(v []float64) float64 { return math.Hypot(v[0]-v[2], v[1]-v[3]) })
		}},
	kind{name: "apart_leg", unit: "%", doc: "distance of two points, in % of leg length", points: 2, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.ofLeg(func(v []float64) float64 { return math.Hypot(v[0]-v[2], v[1]-v[3]) })
		}},
	kind{name: "reach", unit: "%", doc: "points[0] ahead of points[1], in % of leg length", points: 2, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.ofLeg(func(v []float64) float64 { return v[0] - v[2] })
		}},
	kind{name: "offset", unit: "%", doc: "points[1] ahead of the line points[0]->points[2], in % of its length", points: 3, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return uncertainty.Propagate(func(v []float64) float64 {
				a, p, b := pt(v, 0), pt(v, 1), pt(v, 2)
				line := r2.Sub(b, a)
				return 100 * r2.Cross(r2.Sub(p, a), line) / r2.Norm2(line)
			}, q.x, q.sd), nil
		}},
)

// scaled turns a length in px into cm, with the uncertainty of the scale in it.
func (q *query) scaled(px func([]float64) float64) (uncertainty.Estimate, error) {
	if q.Scale == nil {
		return uncertainty.Estimate{}, errNoScale
	}
	mpp, last := q.Scale.MetresPerPixel, len(q.x)
	return uncertainty.Propagate(func(v []float64) float64 { return 100 * v[last] * px(v) }, append(q.x, mpp.Value), append(q.sd, mpp.SD)), nil
}

// ofLeg turns a length in px into % of the length of the leg.
func (q *query) ofLeg(px func([]float64) float64) (uncertainty.Estimate, error) {
	side, _, _ := strings.Cut(q.roles.Resolve(q.m.Points[0])[0], "_")
	leg := q.leg(body.Side(side))
	if leg == 0 {
		return uncertainty.Estimate{}, Failure{"the leg's length is not known", "hip, knee and ankle of one leg"}
	}
	return uncertainty.Propagate(func(v []float64) float64 { return 100 * px(v) / v[4] }, append(q.x, leg), append(q.sd, leg*calibration.BuildSpread/2)), nil
}

// leg is the length of a leg, px: as seen over the clip, or by the standing
// height.
func (e *Evaluation) leg(side body.Side) float64 {
	for _, s := range []body.Side{side, side.Other()} {
		t, h := e.Movement.Length(string(s)+"_hip", string(s)+"_knee"), e.Movement.Length(string(s)+"_knee", string(s)+"_ankle")
		if t > 0 && h > 0 {
			return t + h
		}
	}
	if e.Scale == nil {
		return 0
	}
	return (body.Length(e.Input.Athlete, "thigh") + body.Length(e.Input.Athlete, "shank")) / e.Scale.MetresPerPixel.Value
}

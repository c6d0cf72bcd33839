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
			return q.scaled(func(p []r2.Vec) float64 { return p[0].X - p[1].X })
		}},
	kind{name: "above", unit: "cm", doc: "points[0] above points[1]", points: 2, scope: placed, decides: longer,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.scaled(func(p []r2.Vec) float64 { return p[0].Y - p[1].Y })
		}},
	kind{name: "apart", unit: "cm", doc: "distance of two points", points: 2, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.scaled(func(p []r2.Vec) float64 { return r2.Norm(r2.Sub(p[0], p[1])) })
		}},
	kind{name: "apart_leg", unit: "%", doc: "distance of two points, in % of leg length", points: 2, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.ofLeg(func(p []r2.Vec) float64 { return r2.Norm(r2.Sub(p[0], p[1])) })
		}},
	kind{name: "reach", unit: "%", doc: "points[0] ahead of points[1], in % of leg length", points: 2, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			return q.ofLeg(func(p []r2.Vec) float64 { return p[0].X - p[1].X })
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

// scaled is a length in the plane of motion, cm, with the uncertainty of the plane in it.
func (q *query) scaled(of func(places []r2.Vec) float64) (uncertainty.Estimate, error) {
	if q.sight == nil {
		return uncertainty.Estimate{}, errNoScale
	}
	return q.sidelong(func(p []r2.Vec) float64 { return 100 * of(p) }), nil
}

// ofLeg is a length in the plane of motion in % of the length of the leg.
func (q *query) ofLeg(of func(places []r2.Vec) float64) (uncertainty.Estimate, error) {
	side, _, _ := strings.Cut(q.roles.Resolve(q.m.Points[0])[0], "_")
	leg := q.leg(body.Side(side))
	if leg == 0 || q.sight == nil {
		return uncertainty.Estimate{}, Failure{"the leg's length is not known", "hip, knee and ankle of one leg"}
	}
	sure := *q.sight
	sure.levelSD = 0 // leg and length are seen by the same scale
	whole := q.sight
	defer func() { q.sight = whole }()
	q.sight = &sure
	v := q.sidelong(func(p []r2.Vec) float64 { return 100 * math.Exp(sure.level) * of(p) / leg })
	return uncertainty.Normal(v.Value, math.Hypot(v.SD, v.Value*calibration.BuildSpread/2)), nil
}

// leg is the length of a leg, px where the plane's scale holds: as seen over the clip, or by
// the standing height.
func (e *Evaluation) leg(side body.Side) float64 {
	for _, s := range []body.Side{side, side.Other()} {
		t, h := e.limb(string(s)+"_hip", string(s)+"_knee"), e.limb(string(s)+"_knee", string(s)+"_ankle")
		if t > 0 && h > 0 {
			return t + h
		}
	}
	if e.Scale == nil {
		return 0
	}
	return (body.Length(e.Input.Athlete, "thigh") + body.Length(e.Input.Athlete, "shank")) / e.Scale.MetresPerPixel.Value
}

// limb is the length of a limb as nine in ten looks of the clip have it at most, px where the
// plane's scale holds.
func (e *Evaluation) limb(from, to string) float64 {
	a, b := e.Movement.Paths[from], e.Movement.Paths[to]
	if a == nil || b == nil {
		return 0
	}
	if long, known := e.limbs[[2]string{from, to}]; known {
		return long
	}
	var looks []float64
	for f := max(a.From, b.From); f < min(a.End(), b.End()); f++ {
		p, okP := a.Where(f)
		q, okQ := b.Where(f)
		if okP && okQ && e.Input.Clip.Pictures.Own(f) {
			bigger := 0.0
			if e.sight != nil {
				bigger = e.sight.slope * (p.X - e.sight.at)
			}
			looks = append(looks, r2.Norm(r2.Sub(p, q))*math.Exp(-bigger))
		}
	}
	long := 0.0
	if len(looks) > 0 {
		long = quantile(looks, longLook)
	}
	if e.limbs == nil {
		e.limbs = map[[2]string]float64{}
	}
	e.limbs[[2]string{from, to}] = long
	return long
}

// longLook is the share of looks of a limb that are shorter than it is. Assumed.
const longLook = 0.9

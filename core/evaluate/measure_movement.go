package evaluate

import (
	"errors"

	"neokinema/core/body"
	"neokinema/core/uncertainty"
)

// Ways and speeds of points: from one position to another, and just before one.

var _ = register(
	kind{name: "rise", unit: "cm", doc: "how much higher points[0] is at positions[1] than at positions[0]", points: 1, positions: 2, scope: moved,
		read: func(q *query) (uncertainty.Estimate, error) { return q.shift(1) }},
	kind{name: "gain", unit: "cm", doc: "how much farther on points[0] is at positions[1] than at positions[0]", points: 1, positions: 2, scope: moved,
		read: func(q *query) (uncertainty.Estimate, error) { return q.shift(0) }},
	kind{name: "keeps", unit: "%", doc: "speed of points[0] along the ground in the 80 ms before positions[1], in % of that before positions[0]", points: 1, positions: 2, scope: moved,
		read: keeps},
	kind{name: "strides", unit: "%", doc: "from points[1] at positions[1] to points[2] at positions[2], in % of the way from points[0] at positions[0] to points[1] at positions[1]", points: 3, positions: 3, scope: moved,
		read: strides},
	kind{name: "backward", unit: "m/s", doc: "speed of points[0] against the running direction, over the 8 to 50 ms before the position", points: 1, scope: placed, decides: longer,
		read: backward},
)

// shift is the way of a point along an axis of the picture, cm.
func (q *query) shift(axis int) (uncertainty.Estimate, error) {
	for _, f := range q.frames {
		if err := q.see(q.m.Points[0], f); err != nil {
			return uncertainty.Estimate{}, err
		}
	}
	return q.scaled(func(v []float64) float64 { return v[2+axis] - v[axis] })
}

// paceWindow is the stretch before a position over which a speed is taken, s: long enough
// to beat the scatter of points. Assumed, no source.
const paceWindow = 0.08

func keeps(q *query) (uncertainty.Estimate, error) {
	w := max(2, int(paceWindow*q.Rate))
	for _, f := range q.frames {
		if err := errors.Join(q.see(q.m.Points[0], f-w), q.see(q.m.Points[0], f)); err != nil {
			return uncertainty.Estimate{}, Failure{"the " + body.Label(q.m.Points[0]) + " is not tracked before these positions", "a draft of this stretch"}
		}
	}
	return uncertainty.Propagate(func(v []float64) float64 { return 100 * (v[6] - v[4]) / (v[2] - v[0]) }, q.x, q.sd), nil
}

func strides(q *query) (uncertainty.Estimate, error) {
	for i, f := range q.frames {
		if err := q.see(q.m.Points[i], f); err != nil {
			return uncertainty.Estimate{}, err
		}
	}
	return uncertainty.Propagate(func(v []float64) float64 { return 100 * (v[4] - v[2]) / (v[2] - v[0]) }, q.x, q.sd), nil
}

// Window of the foot's speed before touchdown, seconds: long enough to beat the scatter of
// points, short enough to be the speed at landing. Assumed, no source.
const (
	shortestWindow = 0.008
	longestWindow  = 0.05
)

func backward(q *query) (uncertainty.Estimate, error) {
	if q.Scale == nil {
		return uncertainty.Estimate{}, errNoScale
	}
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	for f := q.frame - 1; f >= 0; f-- {
		t := q.Clock.At(q.frame) - q.Clock.At(f)
		if t > longestWindow {
			break
		}
		if p, ok := q.Point(q.roles, q.m.Points[0], f); ok && t >= shortestWindow {
			mpp := q.Scale.MetresPerPixel
			return uncertainty.Propagate(func(v []float64) float64 { return (v[2] - v[0]) * v[3] / t },
				[]float64{q.x[0], q.x[1], p.At.X, mpp.Value}, []float64{q.sd[0], 0, p.Sigma, mpp.SD}), nil
		}
	}
	return uncertainty.Estimate{}, Failure{"the toe is placed at the touchdown only", "the same toe placed 10 to 50 ms earlier too"}
}

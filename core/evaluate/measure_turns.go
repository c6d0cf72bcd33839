package evaluate

import (
	"fmt"
	"math"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/report"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
)

// Single turns of hammer and weight, and how repetitions go on from the first to the last.

var _ = register(
	kind{name: "turn_gain", unit: "m/s", doc: "greatest speed of the ball in a turn over that in the turn before", scope: depth, decides: otherSide,
		read: inTurn(func(t throw.Turn) *uncertainty.Estimate { return t.Gain }, Failure{"there is no turn before whose speed is known", "the ball tracked through both turns, and the camera's rate"})},
	kind{name: "turn_radius", unit: "m", doc: "middle of the shoulders to the ball, mean over a turn", scope: depth, decides: otherSide,
		read: inTurn(func(t throw.Turn) *uncertainty.Estimate { return &t.Radius }, errNoBall)},
	kind{name: "turn_tilt", unit: "°", doc: "of the ball's plane in a turn against the ground", scope: depth, decides: otherSide,
		read: inTurn(func(t throw.Turn) *uncertainty.Estimate { return &t.Tilt }, errNoBall)},
	kind{name: "turn_low", unit: "°", doc: "where the ball is lowest, from the middle of the sector in a turn to that in the next, seen from above", scope: depth, directions: true, decides: otherSide,
		read: inTurn(func(t throw.Turn) *uncertainty.Estimate { return t.Low }, Failure{"where the ball is lowest does not show here", "the ball tracked through its low point, or a clip from the side"})},
	kind{name: "turn_pull", unit: "BW", doc: "greatest pull on the hands in a turn, in body weights", scope: depth, decides: otherSide,
		read: turnPull},
	kind{name: "turn_sway", unit: "%", doc: "way of the hips from side to side in a turn, in % of leg length", scope: depth, decides: otherSide,
		read: inLegs(func(t throw.Turn) *uncertainty.Estimate { return t.Sway }, Failure{"the hips' way from side to side does not show from here", "a clip from behind"})},
	kind{name: "turn_step", unit: "%", doc: "from the toes of the pivot foot to those of the sweep foot as it lands, in % of leg length", scope: depth, decides: otherSide,
		read: inLegs(func(t throw.Turn) *uncertainty.Estimate { return t.Step }, Failure{"the places of the feet are not known here", "both feet tracked at the catch"})},
	kind{name: "drift", doc: "readings[0] in its last repetition minus that in its first, in its unit", readings: 1, scope: derived, alone: true, decides: changeDecides,
		read: ends(func(first, last uncertainty.Estimate) uncertainty.Estimate {
			return uncertainty.Minus(last, first)
		})},
	kind{name: "kept", unit: "%", doc: "readings[0] in its last repetition, in % of that in its first", readings: 1, scope: derived, alone: true,
		read: ends(func(first, last uncertainty.Estimate) uncertainty.Estimate { return inPercent(last, first) })},
)

// inPercent is one value in % of another.
func inPercent(part, whole uncertainty.Estimate) uncertainty.Estimate {
	return uncertainty.Propagate(func(v []float64) float64 { return 100 * v[0] / v[1] }, []float64{part.Value, whole.Value}, []float64{part.SD, whole.SD})
}

// inTurn reads a value of the turn of the measure's position.
func inTurn(of func(throw.Turn) *uncertainty.Estimate, missing Failure) func(*query) (uncertainty.Estimate, error) {
	return inOrbit(func(q *query) (uncertainty.Estimate, error) {
		if q.report.Throw == nil {
			return uncertainty.Estimate{}, errNoOrbit
		}
		for _, t := range q.report.Throw.Turns {
			if t.N == q.position.Nth {
				q.ev.Frame, q.ev.To = t.Zero, &t.Next
				if v := of(t); v != nil {
					return *v, nil
				}
				return uncertainty.Estimate{}, missing
			}
		}
		return uncertainty.Estimate{}, Failure{fmt.Sprintf("turn %d is not seen whole", q.position.Nth), "the ball and both feet tracked through it"}
	})
}

// inLegs reads a length of a turn, cm, in % of the length of the leg.
func inLegs(of func(throw.Turn) *uncertainty.Estimate, missing Failure) func(*query) (uncertainty.Estimate, error) {
	read := inTurn(of, missing)
	return func(q *query) (uncertainty.Estimate, error) {
		v, err := read(q)
		leg := 100 * (body.Length(q.Input.Athlete, "thigh") + body.Length(q.Input.Athlete, "shank"))
		if err != nil || leg == 0 {
			return v, err
		}
		share := v.Scale(100 / leg)
		return uncertainty.Normal(share.Value, math.Hypot(share.SD, share.Value*calibration.BuildSpread/2)), nil
	}
}

// turnPull is the pull on the hands against the athlete's own weight.
func turnPull(q *query) (uncertainty.Estimate, error) {
	mass := q.Input.Athlete.Mass
	if mass == 0 {
		return uncertainty.Estimate{}, Failure{"the athlete's mass is not known", "the athlete's mass"}
	}
	v, err := inTurn(func(t throw.Turn) *uncertainty.Estimate { return t.Pull }, errNoRate)(q)
	return v.Scale(1 / (mass * body.Gravity)), err
}

// ends compares the first repetition of a reading with the last.
func ends(of func(first, last uncertainty.Estimate) uncertainty.Estimate) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		r := q.readings[q.m.Readings[0]]
		n := len(r.Repetitions)
		switch {
		case r.Value == nil:
			return uncertainty.Estimate{}, Failure{r.Reason, r.Remedy}
		case n < 2:
			return uncertainty.Estimate{}, Failure{"it was read once only", "a second repetition"}
		}
		for _, x := range []report.Repetition{r.Repetitions[0], r.Repetitions[n-1]} {
			if f, found := q.found[x.Position]; found && f.sure < sureEnough {
				p, _ := q.Model.Position(x.Position)
				if _, mine := q.Input.Flags[x.Position]; !mine {
					return uncertainty.Estimate{}, Failure{"it hangs on “" + p.Name + "”, which was found and is not sure", "a flag at that frame, or a look in Check"}
				}
			}
		}
		q.ev = &report.Evidence{Frame: r.Repetitions[n-1].Frame, Lines: []report.Polyline{}}
		return of(r.Repetitions[0].Value, r.Repetitions[n-1].Value), nil
	}
}

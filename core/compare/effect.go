package compare

import (
	"math"

	"neokinema/core/model"
	"neokinema/core/uncertainty"
)

// Effect tells whether a cue moved its measure.
type Effect struct {
	Reading  string               `json:"reading"`
	Before   uncertainty.Estimate `json:"before"`
	After    uncertainty.Estimate `json:"after"`
	Change   float64              `json:"change" doc:"after minus before, in the reading's unit"`
	Smallest float64              `json:"smallest" doc:"smallest real difference, 95 %"`
	Verdict  string               `json:"verdict" enum:"taken,not_taken,overdone,away" doc:"taken: moved towards the band by more than chance; overdone: past its other side; away: moved from it"`
}

// EffectOf weighs the same reading on two attempts. Without a surely known band
// side (the earlier value met its band) any real move out of it is "away".
func EffectOf(cp model.Checkpoint, before, after uncertainty.Estimate) Effect {
	e := Effect{Reading: cp.ID, Before: before, After: after, Change: after.Value - before.Value, Smallest: uncertainty.SmallestRealDifference(before, after), Verdict: "not_taken"}
	if math.Abs(e.Change) <= e.Smallest {
		return e
	}
	from, to := outside(cp.Band, before.Value), outside(cp.Band, after.Value)
	switch {
	case from*to < 0 && cp.Band.Judge(after) == uncertainty.Missed:
		e.Verdict = "overdone"
	case math.Abs(to) < math.Abs(from):
		e.Verdict = "taken"
	default:
		e.Verdict = "away"
	}
	return e
}

// outside is how far a number lies from a band: negative below, 0 inside.
func outside(b uncertainty.Band, x float64) float64 {
	switch {
	case b.Lo != nil && x < *b.Lo:
		return x - *b.Lo
	case b.Hi != nil && x > *b.Hi:
		return x - *b.Hi
	}
	return 0
}

package technique

import (
	"math"

	"neokinema/core/uncertainty"
)

// Effect tells whether a cue moved its measure.
type Effect struct {
	Reading  string            `json:"reading"`
	Before   uncertainty.Value `json:"before"`
	After    uncertainty.Value `json:"after"`
	Change   float64           `json:"change" doc:"after minus before, in the reading's unit"`
	Smallest float64           `json:"smallest" doc:"smallest real difference, 95 %"`
	Verdict  string            `json:"verdict" enum:"taken,not taken,overdone,away" doc:"taken: moved towards the band by more than chance; overdone: past its other side; away: moved from it"`
}

// Compare weighs the same reading on two attempts. Without a surely known band
// side (the earlier value met its band) any real move out of it is "away".
func Compare(cp Checkpoint, before, after uncertainty.Value) Effect {
	e := Effect{Reading: cp.ID, Before: before, After: after, Change: after.X - before.X, Smallest: uncertainty.SmallestRealDifference(before, after), Verdict: "not taken"}
	if math.Abs(e.Change) <= e.Smallest {
		return e
	}
	from, to := outside(cp.Band, before.X), outside(cp.Band, after.X)
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

// Checkpoint finds a checkpoint by id.
func (m Model) Checkpoint(id string) (Checkpoint, bool) {
	for _, c := range m.Checkpoints {
		if c.ID == id {
			return c, true
		}
	}
	return Checkpoint{}, false
}

// Reading finds a reading by id.
func (r Report) Reading(id string) (Reading, bool) {
	for _, x := range r.Readings {
		if x.ID == id {
			return x, true
		}
	}
	return Reading{}, false
}

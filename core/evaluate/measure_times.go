package evaluate

import (
	"errors"
	"math"
	"strings"

	"neokinema/core/model"
	"neokinema/core/timebase"
	"neokinema/core/uncertainty"
)

// Times between flags, and what follows from other readings.

var _ = register(
	kind{name: "duration", unit: "ms", doc: "positions[0] to positions[1]", positions: 2, scope: derived, decides: faster,
		read: duration},
	kind{name: "share", unit: "%", doc: "positions[0]-[1] over positions[2]-[3]", positions: 4, scope: derived, decides: faster,
		read: share},
	kind{name: "sequence", unit: "ms", doc: "shortest time from the fastest moment of one point to that of the next, between positions[0] and [1]; negative when they come in another order", points: 3, positions: 2, scope: derived, alone: true, bound: true, decides: faster,
		read: sequence},
	kind{name: "stands_on", unit: "ms", doc: "from the position until the foot of points[0] leaves the ground; negative when it has left before", points: 1, scope: derived, decides: faster,
		read: standsOn},
	kind{name: "change", doc: "readings[1] minus readings[0], in their unit", readings: 2, scope: derived, alone: true, decides: changeDecides,
		read: change},
)

func duration(q *query) (uncertainty.Estimate, error) {
	if err := q.spanned(); err != nil {
		return uncertainty.Estimate{}, err
	}
	q.ev.To = &q.frames[1]
	v, err := q.Clock.Between(q.frames[0], q.frames[1])
	if errors.Is(err, timebase.ErrRateUnknown) {
		return v, errNoRate
	} else if err != nil {
		return v, Failure{err.Error(), "flags inside the clip"}
	}
	return between(v, q.momentSD(q.m.Positions[0]), q.momentSD(q.m.Positions[1])).Scale(1000), nil
}

func share(q *query) (uncertainty.Estimate, error) {
	if err := q.spanned(); err != nil {
		return uncertainty.Estimate{}, err
	}
	q.ev.To = &q.frames[1]
	v, err := q.Clock.Share(q.frames[0], q.frames[1], q.frames[2], q.frames[3])
	if err != nil {
		return v, Failure{err.Error(), "flags in the right order"}
	}
	// Moments that are common to part and whole count once.
	ids, at := []string{}, []float64{}
	var place [4]int
	var sd []float64
	for i, id := range q.m.Positions {
		k := -1
		for j := range ids {
			if ids[j] == id {
				k = j
			}
		}
		if k < 0 {
			k = len(ids)
			ids, at, sd = append(ids, id), append(at, float64(q.frames[i])/q.Rate), append(sd, q.momentSD(id))
		}
		place[i] = k
	}
	more := uncertainty.Propagate(func(t []float64) float64 {
		return 100 * (t[place[1]] - t[place[0]]) / (t[place[3]] - t[place[2]])
	}, at, sd)
	return between(v, more.SD), nil
}

func change(q *query) (uncertainty.Estimate, error) {
	if len(q.m.Readings) != 2 {
		return uncertainty.Estimate{}, Failure{"it does not say between which two readings", ""}
	}
	a, b := q.readings[q.m.Readings[0]], q.readings[q.m.Readings[1]]
	if a.Value == nil || b.Value == nil {
		missing := a
		if a.Value != nil {
			missing = b
		}
		return uncertainty.Estimate{}, Failure{missing.Reason, missing.Remedy}
	}
	if b.Evidence != nil {
		copied := *b.Evidence
		q.ev = &copied
	}
	return uncertainty.Minus(*b.Value, *a.Value), nil
}

// standsOn looks for the contact that goes on at the position or was the last before it.
func standsOn(q *query) (uncertainty.Estimate, error) {
	if err := q.flagged(); err != nil {
		return uncertainty.Estimate{}, err
	}
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	side, _, _ := strings.Cut(q.rolesAt(q.position).Resolve(q.m.Points[0])[0], "_")
	last := -1
	for _, c := range q.contacts {
		if string(c.Foot) == side && c.From <= q.frame {
			last = max(last, c.To)
		}
	}
	long := int(longInAir * q.Rate) // who was off it for that long has stood on it unseen
	if toe := q.Movement.Paths[side+"_toe"]; last < q.frame-long || last < 0 || toe == nil || last >= toe.End()-1 {
		return uncertainty.Estimate{}, Failure{"when the " + side + " foot leaves the ground is not seen", "that foot tracked until it has left"}
	}
	q.ev.To = &last
	sd := math.Hypot(momentOfContact, q.momentSD(q.position.ID))
	return uncertainty.Normal(1000*(q.Clock.At(last)-q.Clock.At(q.frame)), 1000*math.Hypot(sd, 1/(q.shown()*math.Sqrt(6)))), nil
}

// momentOfContact is by how much tracked feet miss the moment of leaving, s; and nobody who
// delivers is off a foot for longer than longInAir, s. Assumed.
const (
	momentOfContact = 0.024
	longInAir       = 0.15
)

func changeDecides(e *Evaluation, cp model.Checkpoint) string {
	if cp.Unit == "ms" {
		return faster(e, cp)
	}
	return closer(e, cp)
}

// peakSD is how sharply a smooth path tells its fastest moment, s. An assumption, no
// source.
const peakSD = 0.004

// sequence reads the order in which points are fastest along the ground.
func sequence(q *query) (uncertainty.Estimate, error) {
	if err := q.spanned(); err != nil {
		return uncertainty.Estimate{}, err
	}
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	var times []float64
	for _, role := range q.m.Points {
		id := q.Evaluation.Roles.Resolve(role)[0]
		p, best, at := q.Movement.Paths[id], math.Inf(-1), -1
		for f := q.frames[0]; p != nil && f <= q.frames[1]; f++ {
			if i := f - p.From; i >= 0 && i < len(p.V) && p.V[i].X > best {
				best, at = p.V[i].X, f
			}
		}
		if at < 0 || !q.usable() {
			return uncertainty.Estimate{}, noWay(id)
		}
		times = append(times, q.Clock.At(at))
	}
	gap := math.Inf(1)
	for i := 1; i < len(times); i++ {
		gap = math.Min(gap, times[i]-times[i-1])
	}
	return uncertainty.Normal(1000*gap, 1000*math.Hypot(1/(q.shown()*math.Sqrt(6)), peakSD)), nil
}

package evaluate

import (
	"math"

	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// A moment's doubt goes on into what is read at it.

// momentSD is the standard deviation of a position's moment, s, beside that of any frame;
// nothing of one that the coach has flagged.
func (e *Evaluation) momentSD(id string) float64 {
	if _, mine := e.Input.Flags[id]; mine {
		return 0
	}
	return e.found[id].sd / e.Rate
}

// between widens a time by the doubt of the moments between which it lies.
func between(v uncertainty.Estimate, sds ...float64) uncertainty.Estimate {
	sum := 0.0
	for _, s := range sds {
		sum += s * s
	}
	if sum == 0 {
		return v
	}
	return uncertainty.Normal(v.Value, math.Sqrt(v.SD*v.SD+sum))
}

// aboutMoment reads a measure at its moment. What a picture is the first to show has happened
// evenly anywhere between that picture and the one before; and a moment that was found is off
// by its doubt. By what the reading is a moment's doubt earlier and later it gets wider.
func (q *query) aboutMoment(k kind, v uncertainty.Estimate) uncertainty.Estimate {
	sd := q.found[q.position.ID].sd
	if _, mine := q.Input.Flags[q.position.ID]; mine {
		sd = 0
	}
	if q.stills {
		return v // it is what the still shows
	}
	picture := 0 // frames between the picture and the one before
	if firstShown(q.position) {
		picture = q.pictures(1)
	}
	if sd < leastMoment && picture == 0 {
		return v
	}
	x, psd, ev, frame := q.x, q.sd, q.ev, q.frame
	defer func() { q.x, q.sd, q.ev, q.frame = x, psd, ev, frame }()
	// By how much the reading differs in another frame.
	other := func(f int) (float64, bool) {
		q.frame, q.ev = f, &report.Evidence{Frame: f}
		if k.scope == placed {
			places, sds, chain, err := q.placed(q.m, q.roles, f, q.position.Name)
			if err != nil {
				return 0, false
			}
			q.x, q.sd, q.ev.Lines = places, sds, []report.Polyline{chain}
		}
		got, err := k.read(q)
		by := got.Value - v.Value
		if k.directions {
			by = math.Remainder(by, 360)
		}
		return by, err == nil && !math.IsNaN(by)
	}
	value, step := v.Value, 0.0
	if sd >= leastMoment {
		one := q.pictures(1)
		d := one * max(1, int(math.Round(sd/float64(one)))) // what lies between pictures was not seen
		before, ok1 := other(frame - d)
		after, ok2 := other(frame + d)
		switch share := sd / float64(d); {
		case ok1 && ok2:
			step = math.Max(math.Abs(after-before)/2, math.Abs(after+before)/2) * share
		case ok1:
			step = math.Abs(before) * share
		case ok2:
			step = math.Abs(after) * share
		}
	}
	if picture > 0 {
		by, ok := other(frame - picture)
		switch {
		case !ok:
		case q.placedByHand(frame) > q.placedByHand(frame-picture):
			step = math.Hypot(step, by/math.Sqrt(3)) // too different to be brought together
		default:
			value += by / 2
			step = math.Hypot(step, by/math.Sqrt(12))
		}
	}
	if step == 0 {
		return v
	}
	return uncertainty.Normal(value, math.Hypot(v.SD, step))
}

// leastMoment is the doubt of a moment, frames, that is too small to matter.
const leastMoment = 0.3

// placedByHand is how many of a measure's points were placed by hand in a frame.
func (q *query) placedByHand(frame int) (n int) {
	for _, role := range q.m.Points {
		for _, id := range q.roles.Resolve(role) {
			if p, ok := q.Input.Points.At(id, frame); ok && p.Source == track.Hand.String() {
				n++
			}
		}
	}
	return n
}

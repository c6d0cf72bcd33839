package figures

import (
	"fmt"
	"os"

	"neokinema/models"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// judgement is what the technique models make of simulated attempts.
type judgement struct {
	complete, computed, byMark                        float64
	alarms, planted, found, first, measured, mirrored float64
}

// judge plants every fault of every event and looks for it, right- and left-handed and
// from the other side of the athlete; it prints the table of events.
func (l *Lab) judge() (judgement, error) {
	if l.judged != nil {
		return *l.judged, nil
	}
	var out judgement
	fmt.Fprintf(os.Stderr, "  %-13s %7s %10s %9s %9s %8s %8s %8s\n", "event", "phases", "positions", "computed", "by mark", "found", "first", "alarms")
	for _, e := range move.Events() {
		right, err := points.Tell(e, false, false)
		if err != nil {
			return out, err
		}
		left, err := points.Tell(e, true, false)
		if err != nil {
			return out, err
		}
		other, err := points.Tell(e, false, true)
		if err != nil {
			return out, err
		}
		m, err := models.Load(e.ID)
		if err != nil {
			return out, err
		}
		if len(m.Checkpoints) > 0 && len(m.Faults) > 0 && len(m.Cautions) > 0 && len(m.Phases) > 0 {
			out.complete++
		}
		found, first, planted := 0, 0, 0
		for _, way := range []points.Event{right, left, other} {
			out.alarms += float64(len(way.Alarms))
			for i, h := range way.Hunts {
				planted++
				if h.Found {
					found++
					if !h.Mark {
						out.measured++
					}
				}
				if h.First {
					first++
				}
				if r := right.Hunts[i]; r.Found != h.Found || r.First != h.First {
					out.mirrored++
				}
			}
		}
		out.planted += float64(planted)
		out.found, out.first = out.found+float64(found), out.first+float64(first)
		out.computed, out.byMark = out.computed+float64(right.Computed), out.byMark+float64(right.ByMark)
		fmt.Fprintf(os.Stderr, "  %-13s %7d %4d (%d tool) %6d %9d %5d/%-3d %4d/%-3d %7d\n", e.ID, right.Phases, right.Positions, right.Auto, right.Computed, right.ByMark, found, planted, first, planted, len(right.Alarms)+len(left.Alarms)+len(other.Alarms))
	}
	l.judged = &out
	return out, nil
}

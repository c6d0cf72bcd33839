package planning

import (
	"context"
	"slices"

	"github.com/google/uuid"

	"neokinema/core/uncertainty"
	"neokinema/internal/drills"
	"neokinema/internal/logbook"
	"neokinema/internal/problem"
)

// Standing is a ladder with an athlete on it.
type Standing struct {
	drills.Ladder
	Rung   int        `json:"rung" doc:"on which the coach sees the athlete, from 0; -1 on none"`
	Since  string     `json:"since" doc:"a day; empty on none"`
	Read   []RungRead `json:"read" doc:"by rung"`
	Advice string     `json:"advice" doc:"what the clips say of going on or back; empty where they say nothing"`
}

// RungRead is what an athlete's last clips say of a rung.
type RungRead struct {
	Met int `json:"met" doc:"of the last attempts at which it was measured, those that met the band"`
	Of  int `json:"of" doc:"three at most; 0 where it was not measured, or only an eye can tell"`
}

// lately is how many attempts tell. Common practice, no source.
const lately = 3

// Ladders are those of an athlete's events, with what the clips say of each rung.
func (s *Service) Ladders(ctx context.Context, team, athlete uuid.UUID, l Look) ([]Standing, error) {
	log, err := s.log.Open(ctx, team, athlete, l.Today.String())
	if err != nil {
		return nil, err
	}
	places, err := s.store.LadderPlaces(ctx, team, athlete)
	if err != nil {
		return nil, err
	}
	all, err := drills.Ladders()
	if err != nil {
		return nil, err
	}
	out := []Standing{}
	for _, ladder := range all {
		at := slices.IndexFunc(log.Events, func(e logbook.EventLog) bool { return e.Event == ladder.Event })
		if at < 0 {
			continue
		}
		st := Standing{Ladder: ladder, Rung: -1, Read: make([]RungRead, len(ladder.Rungs))}
		for _, p := range places {
			if p.Ladder == ladder.ID {
				st.Rung, st.Since = min(p.Rung, len(ladder.Rungs)-1), p.Since
			}
		}
		for i, r := range ladder.Rungs {
			for _, m := range log.Events[at].Measures {
				if m.Checkpoint != r.Measure {
					continue
				}
				for _, v := range m.Values[max(0, len(m.Values)-lately):] {
					st.Read[i].Of++
					if m.Band.Judge(v.Value) == uncertainty.Met {
						st.Read[i].Met++
					}
				}
			}
		}
		st.Advice = advice(st)
		out = append(out, st)
	}
	return out, nil
}

// advice is to go on when the last attempts met the rung, and back when they missed the one before; the
// decision stays with the coach.
func advice(st Standing) string {
	if st.Rung < 0 {
		return ""
	}
	if st.Rung > 0 {
		if b := st.Read[st.Rung-1]; b.Of >= 2 && b.Met == 0 {
			return "The rung before is not met any more: go back one."
		}
	}
	if r := st.Read[st.Rung]; r.Of >= 2 && r.Met == r.Of && st.Rung+1 < len(st.Rungs) {
		return "Met in the last clips: the next rung, when the criterion holds in training too."
	}
	return ""
}

// Climb puts an athlete on a rung.
func (s *Service) Climb(ctx context.Context, team, athlete uuid.UUID, ladder string, rung int, l Look) ([]Standing, error) {
	all, err := drills.Ladders()
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(all, func(x drills.Ladder) bool { return x.ID == ladder })
	if i < 0 {
		return nil, problem.Missing("ladder")
	}
	if rung < -1 || rung >= len(all[i].Rungs) {
		return nil, problem.New(problem.Invalid, "“%s” has %d rungs.", all[i].Name, len(all[i].Rungs))
	}
	if err := s.store.SetLadderPlace(ctx, team, athlete, ladder, rung); err != nil {
		return nil, err
	}
	return s.Ladders(ctx, team, athlete, l)
}

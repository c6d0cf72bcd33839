package demo

import (
	"context"
	"slices"

	"neokinema/core/model"
	"neokinema/internal/logbook"
	"neokinema/internal/store"
)

// rungs are on which rung of a ladder of technique the coach sees an athlete.
var rungs = map[string]struct {
	ladder string
	rung   int
}{
	"Brisa Haldane": {"two-to-three-turns", 3},
	"Elio Thorsby":  {"sail-to-hitch-kick", 1},
}

// owned are drills of the club's own, by whose clip shows them, with the share of the clip that does.
var owned = map[string]struct {
	told     store.DrillTold
	from, to float64
}{
	"Brisa Haldane": {store.DrillTold{Name: "Long winds past two cones", Event: "hammer", Faults: []string{"H1"}, Needs: []string{"two cones"}, Level: "learning",
		Dose: model.Dose{Sets: 4, Reps: 3, Of: "winds", Effort: 60, Rest: 60}, Ladder: []string{"with a stick", "with the light hammer", "with her own hammer"},
		Feel: "the ball runs far outside of both cones", Mistake: "the elbows bend to get around the head", GoOn: "three winds in a row stay outside of them", Stop: "the lower back gets tight"}, 0, 0.35},
}

// drill gives an athlete a rung, and the club the drill that one of her clips shows.
func (l *Loader) drill(ctx context.Context, a store.Athlete) error {
	if r, ok := rungs[a.Name]; ok {
		if err := l.Store.SetLadderPlace(ctx, l.coach.TeamID, a.ID, r.ladder, r.rung); err != nil {
			return err
		}
	}
	d, ok := owned[a.Name]
	if !ok || l.Logbook == nil {
		return nil
	}
	log, err := l.Logbook.Open(ctx, l.coach.TeamID, a.ID, ago(0))
	if err != nil {
		return err
	}
	i := slices.IndexFunc(log.Events, func(e logbook.EventLog) bool { return e.Event == d.told.Event })
	if i < 0 {
		return nil
	}
	for _, at := range log.Events[i].Attempts {
		clips, err := l.Store.Clips(ctx, l.coach.TeamID, at.ID)
		if err != nil {
			return err
		}
		if len(clips) == 0 || len(clips[0].Stamps) == 0 {
			continue
		}
		end := float64(len(clips[0].Stamps) - 1)
		_, err = l.Store.AddOwnDrill(ctx, l.coach.TeamID, store.NewOwnDrill{DrillTold: d.told, ClipID: &clips[0].ID, First: int(d.from * end), Last: int(d.to * end)})
		return err
	}
	return nil
}

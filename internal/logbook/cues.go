package logbook

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/core/followup"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/internal/store"
)

// course is what becomes of a cue: as the coach has said, or as is usual for its kind of change.
// Without words of its own there is none.
func course(m model.Model, given string, advice, said []byte) (a store.Advice, f store.Followup, kind sport.Change, stated, ok bool) {
	if len(advice) == 0 || json.Unmarshal(advice, &a) != nil || a.Words == "" {
		return a, f, kind, false, false // nobody can read it; the Bench says so
	}
	fault, _ := m.Fault(a.Fault)
	kind = followup.ChangeOf(m.ID, fault, fault.Strength != "" && a.Words == fault.Strength)
	if stated = len(said) > 0 && json.Unmarshal(said, &f) == nil && f.Check() == nil; stated {
		return a, f, kind, true, true
	}
	day, err := time.Parse(time.DateOnly, given)
	if err != nil {
		return a, f, kind, false, false
	}
	days := sport.Recheck(kind)
	f = store.Followup{State: "training", Starts: day.AddDate(0, 0, 1).Format(time.DateOnly), Recheck: day.AddDate(0, 0, days).Format(time.DateOnly),
		Weeks: max(1, (days+6)/7), Sessions: 2}
	return a, f, kind, false, true
}

// open tells whether a cue is neither done nor replaced.
func open(f store.Followup) bool { return f.State == "training" || f.State == "paused" }

// OpenCue is a main cue that is worked on.
type OpenCue struct {
	AttemptID uuid.UUID
	AthleteID uuid.UUID
	Event     string
	DoneOn    string
	Advice    store.Advice
	Followup  store.Followup
	Kind      sport.Change
	Since     int // attempts at the event after it was given
	Missed    int // looks on end, the last ones, that say it was not taken
}

// missed counts the last looks on end that say a cue was not taken.
func missed(looked string) (n int) {
	for _, l := range slices.Backward(strings.Split(looked, ",")) {
		if l != "not_taken" {
			break
		}
		n++
	}
	return n
}

// Recent is an attempt of a team with what was found in it.
type Recent struct {
	store.LogRow
	Summary Summary
}

// Since lists a team's attempts since a day in which something was found, oldest first.
func (s *Service) Since(ctx context.Context, team uuid.UUID, day string) ([]Recent, error) {
	rows, err := s.store.LogSince(ctx, team, day, s.engine())
	if err != nil {
		return nil, err
	}
	sums, err := s.summaries(ctx, team, rows)
	if err != nil {
		return nil, err
	}
	out := []Recent{}
	for _, r := range rows {
		if v, ok := sums[r.ID]; ok {
			out = append(out, Recent{r, v})
		}
	}
	return out, nil
}

// Models are those that a team holds, by event.
func (s *Service) Models(ctx context.Context, team uuid.UUID) (map[string]model.Model, error) {
	return s.models(ctx, team)
}

// Ways are other ways to say the open cues of a team, by the attempt that gave each: the wordings of
// its fault.
func (s *Service) Ways(ctx context.Context, team uuid.UUID) (map[uuid.UUID][]string, error) {
	list, err := s.OpenCues(ctx, team, uuid.Nil)
	if err != nil {
		return nil, err
	}
	models, err := s.models(ctx, team)
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID][]string{}
	for _, c := range list {
		if f, ok := models[c.Event].Fault(c.Advice.Fault); ok {
			for _, cue := range f.Cues {
				out[c.AttemptID] = append(out[c.AttemptID], cue.Words)
			}
		}
	}
	return out, nil
}

// models are those that a team holds, by event.
func (s *Service) models(ctx context.Context, team uuid.UUID) (map[string]model.Model, error) {
	list, err := s.bench.Models(ctx, team)
	out := map[string]model.Model{}
	for _, m := range list {
		out[m.Model.ID] = m.Model
	}
	return out, err
}

// OpenCues are a team's, newest first; of one athlete when that is named. One that a newer one at the
// same event replaces is not among them.
func (s *Service) OpenCues(ctx context.Context, team, athlete uuid.UUID) (out []OpenCue, err error) {
	list, err := s.store.Cues(ctx, team, athlete)
	if err != nil {
		return nil, err
	}
	type at struct {
		who   uuid.UUID
		event string
	}
	models, err := s.models(ctx, team)
	if err != nil {
		return nil, err
	}
	newer := map[at]bool{}
	for _, c := range list {
		a, f, kind, stated, ok := course(models[c.Event], c.DoneOn, c.Advice, c.Followup)
		key := at{c.AthleteID, c.Event}
		if !ok || !open(f) || !stated && newer[key] {
			continue
		}
		newer[key] = true
		out = append(out, OpenCue{c.AttemptID, c.AthleteID, c.Event, c.DoneOn, a, f, kind, c.Since, missed(c.Looked)})
	}
	return out, nil
}

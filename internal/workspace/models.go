package workspace

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/models"
)

// EventModel is the technique model of one event as a team holds it.
type EventModel struct {
	Model    model.Model          `json:"model" doc:"by which new attempts are judged"`
	N        int                  `json:"n" doc:"version of the team's own model; 0 when the shipped one is in force"`
	Shipped  *model.Model         `json:"shipped,omitempty" required:"false" doc:"the shipped model, where the team has its own"`
	Versions []store.ModelVersion `json:"versions" doc:"the team's own, newest first"`
}

// ModelChange is a change of a team's model: other bands, or a whole file.
type ModelChange struct {
	Base   int                         `json:"base" doc:"newest version that the coach has seen; 0 is the shipped one"`
	Reason string                      `json:"reason" minLength:"3" maxLength:"300" doc:"why; it stays beside the version"`
	Bands  map[string]uncertainty.Band `json:"bands,omitempty" required:"false" doc:"checkpoint to its new band"`
	// Whom the bands are for; everybody when all are empty.
	Under       int                    `json:"under,omitempty" required:"false" minimum:"0" maximum:"30" doc:"athletes under this age"`
	Years       int                    `json:"years,omitempty" required:"false" minimum:"0" maximum:"20" doc:"athletes in their first so many years of the event"`
	Athlete     string                 `json:"athlete,omitempty" required:"false" maxLength:"40" doc:"one athlete, by id"`
	Checkpoints []model.Checkpoint     `json:"checkpoints,omitempty" required:"false" doc:"to add"`
	Faults      []model.Fault          `json:"faults,omitempty" required:"false" doc:"to add"`
	Variants    []model.Variant        `json:"variants,omitempty" required:"false" doc:"to add"`
	Cues        map[string]model.Cue   `json:"cues,omitempty" required:"false" doc:"to add, by fault"`
	Drills      map[string]model.Drill `json:"drills,omitempty" required:"false" doc:"to add, by fault"`
	Variant     string                 `json:"variant,omitempty" required:"false" maxLength:"40" doc:"the bands are for this style only"`
	TakeOver    bool                   `json:"take_over,omitempty" required:"false" doc:"the shipped model as it is now, with the team's bands and additions"`
	Text        string                 `json:"text,omitempty" required:"false" maxLength:"400000" doc:"YAML"`
	Back        bool                   `json:"back,omitempty" required:"false" doc:"back to the shipped model"`
}

// EventModel lists all events' models as a team holds them.
func (s *Service) Models(ctx context.Context, team uuid.UUID) ([]EventModel, error) {
	all, err := models.All()
	if err != nil {
		return nil, err
	}
	copies, err := s.store.ModelVersions(ctx, team)
	if err != nil {
		return nil, err
	}
	out := []EventModel{}
	for _, m := range all {
		h := EventModel{Model: m, Versions: []store.ModelVersion{}}
		for _, c := range copies {
			if c.Event == m.ID {
				h.Versions = append(h.Versions, c)
			}
		}
		if len(h.Versions) > 0 {
			own, err := models.Parse([]byte(h.Versions[0].Source))
			if err != nil {
				return nil, fmt.Errorf("version %d of %s: %w", h.Versions[0].N, m.ID, err)
			}
			h.Model, h.N, h.Shipped = own, h.Versions[0].N, &m
		}
		out = append(out, h)
	}
	return out, nil
}

// Source is the file of the model that a team holds for an event.
func (s *Service) Source(ctx context.Context, team uuid.UUID, event string) ([]byte, error) {
	copies, err := s.store.ModelVersions(ctx, team)
	if err != nil {
		return nil, err
	}
	for _, c := range copies {
		if c.Event == event {
			return []byte(c.Source), nil
		}
	}
	raw, err := models.Source(event)
	if err != nil {
		return nil, problem.Missing("model")
	}
	return raw, nil
}

// ChangeModel stores the next version of a team's model. Attempts keep the version
// by which they were judged; new ones get this.
func (s *Service) ChangeModel(ctx context.Context, team, user uuid.UUID, event string, c ModelChange) (store.ModelVersion, error) {
	shipped, err := models.Load(event)
	if err != nil {
		return store.ModelVersion{}, problem.Missing("model")
	}
	var text []byte
	switch {
	case c.Back:
		text, err = models.Source(event)
	case c.Text != "":
		text = []byte(c.Text)
	case c.TakeOver:
		var own model.Model
		if text, err = s.Source(ctx, team, event); err != nil {
			return store.ModelVersion{}, err
		}
		if own, err = models.Parse(text); err != nil {
			return store.ModelVersion{}, err
		}
		if text, err = models.Source(event); err == nil {
			text, err = models.TakeOver(text, own)
		}
	case len(c.Bands)+len(c.Checkpoints)+len(c.Faults)+len(c.Variants)+len(c.Cues)+len(c.Drills) > 0:
		if text, err = s.Source(ctx, team, event); err == nil {
			if text, err = c.onto(text); err != nil {
				return store.ModelVersion{}, problem.New(problem.Invalid, "This cannot be added: %s.", err)
			}
		}
	default:
		return store.ModelVersion{}, problem.New(problem.Invalid, "Nothing was changed.")
	}
	if err != nil {
		return store.ModelVersion{}, err
	}
	m, err := models.Parse(text)
	if err != nil {
		p := problem.New(problem.Invalid, "This model cannot be kept; mend it first.")
		var wrong models.Mistakes
		if errors.As(err, &wrong) {
			for _, x := range wrong {
				p.Fields = append(p.Fields, fmt.Sprintf("line %d: %s", x.Line, x.Says))
			}
		}
		return store.ModelVersion{}, p
	}
	if m.ID != event {
		return store.ModelVersion{}, problem.New(problem.Invalid, "This is a model of %s, not of %s. Open that event, then read the file.", strings.ToLower(m.Name), strings.ToLower(shipped.Name))
	}
	return s.store.AddModelVersion(ctx, team, user, store.ModelVersion{Event: event, Source: string(text), Reason: c.Reason, Shipped: shipped.Version}, c.Base)
}

// onto writes bands and additions into a model's file.
func (c ModelChange) onto(text []byte) ([]byte, error) {
	add := models.Additions{Checkpoints: c.Checkpoints, Faults: c.Faults, Variants: c.Variants, Cues: map[string][]model.Cue{}, Drills: map[string][]model.Drill{}}
	for fault, x := range c.Cues {
		add.Cues[fault] = []model.Cue{x}
	}
	for fault, x := range c.Drills {
		add.Drills[fault] = []model.Drill{x}
	}
	if c.Variant != "" {
		add.Variant, add.Bands = c.Variant, c.Bands
		return models.With(text, add)
	}
	if c.Under == 0 && c.Years == 0 && c.Athlete == "" {
		if len(c.Bands) > 0 {
			var err error
			if text, err = models.WithBands(text, c.Bands); err != nil {
				return nil, err
			}
		}
		return models.With(text, add)
	}
	for _, id := range slices.Sorted(maps.Keys(c.Bands)) {
		add.Adjusted = append(add.Adjusted, model.Adjusted{Checkpoint: id, Under: c.Under, Years: c.Years, Athlete: c.Athlete, Band: c.Bands[id], Reason: c.Reason})
	}
	return models.With(text, add)
}

// model is the one by which an attempt is judged.
func (s *Service) model(ctx context.Context, team uuid.UUID, a store.Attempt) (model.Model, error) {
	if a.ModelN == 0 {
		return models.Load(a.Event)
	}
	c, err := s.store.ModelVersion(ctx, team, a.Event, a.ModelN)
	if err != nil {
		return model.Model{}, err
	}
	return models.Parse([]byte(c.Source))
}

// Newer is a later version of the model than the one an attempt was judged by.
type Newer struct {
	N      int    `json:"n"`
	Reason string `json:"reason"`
}

// newer finds the newest version of the model when it is not the attempt's.
func (s *Service) newer(ctx context.Context, team uuid.UUID, a store.Attempt) (*Newer, error) {
	copies, err := s.store.ModelVersions(ctx, team)
	if err != nil {
		return nil, err
	}
	for _, c := range copies {
		if c.Event == a.Event && c.N > a.ModelN {
			return &Newer{c.N, c.Reason}, nil
		}
	}
	return nil, nil
}

// Rejudged tells what another version of the model changes in an attempt.
type Rejudged struct {
	N        int       `json:"n"`
	Verdicts []Changed `json:"verdicts"`
	Gone     []string  `json:"gone" doc:"faults that are not there any more"`
	Come     []string  `json:"come" doc:"faults that are there now"`
}

// Changed is a reading whose verdict is another now.
type Changed struct {
	Reading string              `json:"reading"`
	Name    string              `json:"name"`
	Before  uncertainty.Verdict `json:"before"`
	After   uncertainty.Verdict `json:"after"`
}

// Rejudge judges an attempt by the newest version of its model and tells what that
// changes.
func (s *Service) Rejudge(ctx context.Context, team, id uuid.UUID) (Rejudged, error) {
	before, err := s.open(ctx, team, id)
	if err != nil {
		return Rejudged{}, err
	}
	newer, err := s.newer(ctx, team, before.Attempt)
	if err != nil {
		return Rejudged{}, err
	}
	if newer == nil {
		return Rejudged{}, problem.New(problem.Invalid, "This attempt is judged by the newest version already.")
	}
	if _, err := s.store.JudgeBy(ctx, team, id, newer.N); err != nil {
		return Rejudged{}, err
	}
	after, err := s.open(ctx, team, id)
	if err != nil {
		return Rejudged{}, err
	}
	out := Rejudged{N: newer.N, Verdicts: []Changed{}, Gone: []string{}, Come: []string{}}
	was, is := before.Report(), after.Report()
	for _, r := range is.Readings {
		cp, _ := after.Model.Checkpoint(r.ID)
		if old, ok := was.Reading(r.ID); ok && old.Verdict != r.Verdict {
			out.Verdicts = append(out.Verdicts, Changed{r.ID, cp.Name, old.Verdict, r.Verdict})
		}
	}
	has := func(r report.Report, fault string) bool {
		return slices.ContainsFunc(r.Findings, func(f report.Finding) bool { return f.Fault == fault })
	}
	for _, f := range was.Findings {
		if !has(is, f.Fault) {
			x, _ := before.Model.Fault(f.Fault)
			out.Gone = append(out.Gone, x.Name)
		}
	}
	for _, f := range is.Findings {
		if !has(was, f.Fault) {
			x, _ := after.Model.Fault(f.Fault)
			out.Come = append(out.Come, x.Name)
		}
	}
	return out, nil
}

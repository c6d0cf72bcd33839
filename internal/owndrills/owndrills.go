// Package owndrills keeps drills of a team's own beside the library, each with a stretch of one of the team's
// clips.
package owndrills

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"slices"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/internal/drills"
	"neokinema/internal/intake"
	"neokinema/internal/logbook"
	"neokinema/internal/paper"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// View is a drill of a team's own as one of the library, with its clip.
type View struct {
	drills.Drill
	Clip    *uuid.UUID `json:"clip" doc:"nothing where it never had one, or the clip was deleted"`
	First   int        `json:"first" doc:"frame of the clip"`
	Last    int        `json:"last"`
	From    float64    `json:"from" doc:"s in the clip's file"`
	To      float64    `json:"to"`
	Width   int        `json:"width" doc:"px of the clip"`
	Height  int        `json:"height"`
	Athlete string     `json:"athlete" doc:"whose clip it is"`
	DoneOn  string     `json:"done_on" doc:"a day; nothing without a clip"`
}

// Service keeps them.
type Service struct {
	store  *store.Store
	intake *intake.Service
	log    *logbook.Service
}

// New makes the service.
func New(s *store.Store, i *intake.Service, l *logbook.Service) *Service { return &Service{s, i, l} }

// List are a team's, the newest first.
func (s *Service) List(ctx context.Context, team uuid.UUID) ([]View, error) {
	kept, err := s.store.OwnDrills(ctx, team)
	if err != nil {
		return nil, err
	}
	all, err := s.log.Models(ctx, team)
	if err != nil {
		return nil, err
	}
	out := make([]View, 0, len(kept))
	for _, k := range kept {
		v, err := view(all, k)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// Add keeps one.
func (s *Service) Add(ctx context.Context, team uuid.UUID, d store.NewOwnDrill) (View, error) {
	if err := s.check(ctx, team, &d); err != nil {
		return View{}, err
	}
	k, err := s.store.AddOwnDrill(ctx, team, d)
	if err != nil {
		return View{}, err
	}
	return s.view(ctx, team, k)
}

// Change keeps another version of one.
func (s *Service) Change(ctx context.Context, team, id uuid.UUID, d store.NewOwnDrill) (View, error) {
	if err := s.check(ctx, team, &d); err != nil {
		return View{}, err
	}
	k, err := s.store.ChangeOwnDrill(ctx, team, id, d)
	if err != nil {
		return View{}, err
	}
	return s.view(ctx, team, k)
}

// Delete removes one; its clip stays.
func (s *Service) Delete(ctx context.Context, team, id uuid.UUID) error {
	return s.store.DeleteOwnDrill(ctx, team, id)
}

// stretch is the longest that a drill shows of a clip, frames of its file.
const stretch = 1800

// check refuses what cannot be, and drops lines without words.
func (s *Service) check(ctx context.Context, team uuid.UUID, d *store.NewOwnDrill) error {
	d.Name = strings.TrimSpace(d.Name)
	if d.Name == "" {
		return problem.New(problem.Invalid, "A drill needs a name.")
	}
	all, err := s.log.Models(ctx, team)
	if err != nil {
		return err
	}
	m, ok := all[d.Event]
	if !ok {
		return problem.New(problem.Invalid, "There is no event %q.", d.Event)
	}
	for _, f := range d.Faults {
		if _, ok := m.Fault(f); !ok {
			return problem.New(problem.Invalid, "%s has no fault %q. Choose one of the list.", sport.Of(d.Event).Name, f)
		}
	}
	lines := func(list []string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(l string) bool { return strings.TrimSpace(l) == "" })
	}
	d.Faults, d.Needs, d.Ladder = lines(d.Faults), lines(d.Needs), lines(d.Ladder)
	if d.ClipID == nil {
		d.First, d.Last = 0, 0
		return nil
	}
	c, err := s.store.Clip(ctx, team, *d.ClipID)
	if err != nil {
		return err
	}
	switch n := len(c.Stamps); {
	case n == 0:
		return problem.New(problem.Invalid, "This clip is not ready yet. Choose another one, or wait until it is imported.")
	case d.Last < d.First || d.Last >= n:
		return problem.New(problem.Invalid, "The drill has to lie in the clip, from frame 0 to %d, and end after it begins.", n-1)
	case d.Last-d.First > stretch:
		return problem.New(problem.Invalid, "A drill shows at most %d frames of a clip. Choose a shorter stretch.", stretch)
	}
	return nil
}

// ticks are those of a second in the stamps of a clip.
const ticks = 90000

func (s *Service) view(ctx context.Context, team uuid.UUID, k store.OwnDrill) (View, error) {
	all, err := s.log.Models(ctx, team)
	if err != nil {
		return View{}, err
	}
	return view(all, k)
}

func view(all map[string]model.Model, k store.OwnDrill) (View, error) {
	var told store.DrillTold
	err := json.Unmarshal(k.Told, &told)
	if err != nil {
		return View{}, err
	}
	d := drills.Drill{ID: k.ID.String(), Name: told.Name, Events: []string{told.Event}, For: []drills.For{}, Place: []sport.Place{sport.Of(told.Event).Place}, Needs: notNil(told.Needs), Level: told.Level, Dose: told.Dose, Says: told.Dose.Session(1), Ladder: notNil(told.Ladder), Feel: told.Feel, Mistake: told.Mistake, GoOn: told.GoOn, Stop: told.Stop}
	for _, id := range told.Faults {
		if f, ok := all[told.Event].Fault(id); ok {
			d.For = append(d.For, drills.For{Event: told.Event, Fault: id, Name: drills.Plain(f.Name)})
		}
	}
	if d.NotWith, err = drills.NotWith(told.Event, told.Faults); err != nil {
		return View{}, err
	}
	return View{d, k.ClipID, k.First, k.Last, float64(k.From) / ticks, float64(k.To) / ticks, k.Width, k.Height, k.Athlete, k.DoneOn}, nil
}

func notNil(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}

// stills is how many pictures of a clip a card shows, wide px each.
const (
	stills = 5
	wide   = 480
)

// Card writes one on a page, with pictures of its clip.
func (s *Service) Card(ctx context.Context, team, id uuid.UUID, size paper.Size) (name string, page []byte, err error) {
	k, err := s.store.OwnDrill(ctx, team, id)
	if err != nil {
		return "", nil, err
	}
	v, err := s.view(ctx, team, k)
	if err != nil {
		return "", nil, err
	}
	var pictures [][]byte
	if v.Clip != nil {
		c, err := s.store.Clip(ctx, team, *v.Clip)
		if err != nil {
			return "", nil, err
		}
		for i := range stills {
			pic, err := s.intake.Still(ctx, c, v.First+i*(v.Last-v.First)/(stills-1), wide)
			if err != nil {
				return "", nil, err
			}
			pictures = append(pictures, pic)
		}
	}
	var out bytes.Buffer
	err = drills.WriteCard(io.Writer(&out), size, v.Drill, pictures...)
	return v.Name, out.Bytes(), err
}

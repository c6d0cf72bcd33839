package planning

import (
	"context"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/model"
	"neokinema/core/performance"
	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/core/squad"
	"neokinema/core/uncertainty"
	"neokinema/internal/logbook"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Board is a squad at a glance.
type Board struct {
	Lines    []squad.Line    `json:"lines" doc:"who wants a look, the most pressing first"`
	Causes   []GroupCause    `json:"causes" doc:"first causes of the last month, those of most athletes first"`
	Measures []MeasureChoice `json:"measures" doc:"that can be held against each other: taken of two athletes or more"`
}

// GroupCause is a first cause with what is trained against it.
type GroupCause struct {
	squad.Cause
	Names  []string      `json:"names" doc:"of the athletes"`
	Words  string        `json:"words" doc:"a cue against it"`
	Drills []model.Drill `json:"drills"`
}

// MeasureChoice names a measure of an event.
type MeasureChoice struct {
	Event      string `json:"event"`
	Checkpoint string `json:"checkpoint"`
	Name       string `json:"name"`
	Athletes   int    `json:"athletes"`
}

// Days that are looked back for.
const (
	answersBack  = 14
	causesBack   = 30
	measuresBack = 180
)

// Board reads a squad as it stands on a day.
func (s *Service) Board(ctx context.Context, team uuid.UUID, l Look) (Board, error) {
	out := Board{Causes: []GroupCause{}, Measures: []MeasureChoice{}}
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return out, err
	}
	all, err := s.gather(ctx, team, uuid.Nil, l.Today)
	if err != nil {
		return out, err
	}
	clips, err := s.store.LastClips(ctx, team)
	if err != nil {
		return out, err
	}
	answers, err := s.store.AnswersSince(ctx, team, (l.Today - answersBack).String())
	if err != nil {
		return out, err
	}
	names := map[string]store.Athlete{}
	var list []squad.Athlete
	for _, a := range people {
		names[a.ID.String()] = a
		x := squad.Athlete{ID: a.ID.String(), Name: a.Name, Pain: all.pains[a.ID], Meets: all.of(a, l).outline.Competitions}
		for _, c := range all.cues[a.ID] {
			again := logbook.Again(c.AttemptID, c.DoneOn, c.Advice.Drill, c.Followup, all.trainings[a.ID], l.Today.String())
			x.Cues = append(x.Cues, squad.Cue{Attempt: c.AttemptID.String(), Words: named(c.Advice.Words, a, l), Due: again.Due, Missed: c.Missed})
		}
		for _, w := range answers {
			if w.AthleteID == a.ID {
				x.Answers = append(x.Answers, w.AttemptID.String())
			}
		}
		if d, err := season.ParseDay(clips[a.ID]); err == nil {
			x.LastClip = &d
		}
		list = append(list, x)
	}
	out.Lines = squad.Board(list, l.Today)
	recent, err := s.log.Since(ctx, team, (l.Today - measuresBack).String())
	if err != nil {
		return out, err
	}
	models, err := s.log.Models(ctx, team)
	if err != nil {
		return out, err
	}
	var found []squad.Found
	type key struct{ event, checkpoint string }
	taken := map[key]map[uuid.UUID]bool{}
	for _, r := range recent {
		day, err := season.ParseDay(r.DoneOn)
		if err != nil {
			continue
		}
		f := squad.Found{Athlete: r.AthleteID.String(), Attempt: r.ID.String(), Event: r.Event, Day: day}
		for _, x := range r.Summary.Findings {
			if x.First {
				f.Fault, f.Name = x.Fault, x.Name
			}
		}
		found = append(found, f)
		for id := range r.Summary.Readings {
			k := key{r.Event, id}
			if taken[k] == nil {
				taken[k] = map[uuid.UUID]bool{}
			}
			taken[k][r.AthleteID] = true
		}
	}
	for _, c := range squad.Causes(found, l.Today) {
		g := GroupCause{Cause: c, Names: []string{}, Drills: []model.Drill{}}
		for _, id := range c.Athletes {
			g.Names = append(g.Names, names[id].Name)
		}
		if f, ok := models[c.Event].Fault(c.Fault); ok {
			first := names[c.Athletes[0]]
			g.Drills = append(g.Drills, named(f.Drills, first, l)...)
			if len(f.Cues) > 0 {
				g.Words = named(f.Cues[0].Words, first, l)
			}
		}
		out.Causes = append(out.Causes, g)
	}
	for _, e := range sport.Events() {
		for _, cp := range models[string(e.ID)].Checkpoints {
			if n := len(taken[key{string(e.ID), cp.ID}]); n > 1 && cp.Unit != "" {
				out.Measures = append(out.Measures, MeasureChoice{string(e.ID), cp.ID, cp.Name, n})
			}
		}
	}
	return out, nil
}

// SquadMeasure is one measure of everybody who has it.
type SquadMeasure struct {
	Event      string       `json:"event"`
	Checkpoint string       `json:"checkpoint"`
	Name       string       `json:"name"`
	Unit       string       `json:"unit"`
	Lines      []SquadValue `json:"lines" doc:"by name"`
}

// SquadValue is an athlete's newest value, with the band of the own level and age.
type SquadValue struct {
	AthleteID uuid.UUID            `json:"athlete_id"`
	AttemptID uuid.UUID            `json:"attempt_id"`
	Name      string               `json:"name"`
	Level     squad.Level          `json:"level" enum:"child,beginner,youth,grown"`
	DoneOn    string               `json:"done_on" format:"date"`
	Value     uncertainty.Estimate `json:"value"`
	Band      uncertainty.Band     `json:"band"`
	Verdict   uncertainty.Verdict  `json:"verdict" enum:"met,missed,open,none"`
	Best      *SquadBest           `json:"best,omitempty" required:"false" doc:"the better attempt of the same day, which is the first to be held against"`
	Alike     *squad.Reference     `json:"alike,omitempty" required:"false" doc:"others of the same sex, level and build"`
}

// SquadBest is another attempt of the same day with a better mark.
type SquadBest struct {
	AttemptID uuid.UUID            `json:"attempt_id"`
	Mark      string               `json:"mark"`
	Value     uncertainty.Estimate `json:"value"`
	Same      bool                 `json:"same" doc:"the two differ by no more than their doubt and the own scatter"`
}

// Measure holds one measure of everybody against the band of each.
func (s *Service) Measure(ctx context.Context, team uuid.UUID, event, checkpoint string, l Look) (SquadMeasure, error) {
	models, err := s.log.Models(ctx, team)
	if err != nil {
		return SquadMeasure{}, err
	}
	cp, ok := models[event].Checkpoint(checkpoint)
	if !ok {
		return SquadMeasure{}, problem.Missing("measure")
	}
	out := SquadMeasure{Event: event, Checkpoint: checkpoint, Name: cp.Name, Unit: cp.Unit, Lines: []SquadValue{}}
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return out, err
	}
	recent, err := s.log.Since(ctx, team, (l.Today - measuresBack).String())
	if err != nil {
		return out, err
	}
	year, _ := strconv.Atoi(l.Today.String()[:4])
	var measured []squad.Measured
	for _, a := range people {
		var own []uncertainty.Estimate
		last := -1
		for i, r := range recent {
			if v, ok := r.Summary.Readings[checkpoint]; ok && r.AthleteID == a.ID && r.Event == event {
				own, last = append(own, v), i
			}
		}
		if last < 0 {
			continue
		}
		r := recent[last]
		m := models[event].For(model.Whom{Athlete: a.ID.String(), Age: year - a.Born, Years: a.Years(event, year)}).As(r.Variant)
		now, ok := m.Checkpoint(checkpoint)
		if !ok {
			continue // a school without it
		}
		v := SquadValue{AthleteID: a.ID, AttemptID: r.ID, Name: a.Name, Level: squad.LevelOf(year-a.Born, a.Years(event, year)), DoneOn: r.DoneOn, Value: r.Summary.Readings[checkpoint], Band: now.Band}
		v.Verdict = v.Band.Judge(v.Value)
		x := squad.Measured{ID: a.ID.String(), Sex: a.Sex, Level: v.Level, Height: a.Height, Value: v.Value}
		if sc, ok := performance.Spread(own); ok && !sc.Few {
			x.Own = sc.SD
		}
		v.Best = better(recent, last, checkpoint, x.Own)
		measured = append(measured, x)
		out.Lines = append(out.Lines, v)
	}
	for i := range out.Lines {
		if ref, ok := squad.Among(measured[i], measured); ok {
			out.Lines[i].Alike = &ref
		}
	}
	slices.SortStableFunc(out.Lines, func(a, b SquadValue) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}

// better is another attempt of the same day with a better mark, which has the measure too.
func better(recent []logbook.Recent, at int, checkpoint string, own float64) *SquadBest {
	r := recent[at]
	mark, ok := performance.Read(r.Mark)
	if !ok {
		return nil
	}
	best := -1
	for i, o := range recent {
		v, ok := performance.Read(o.Mark)
		if _, has := o.Summary.Readings[checkpoint]; i == at || !ok || !has || o.Foul != "" || o.AthleteID != r.AthleteID || o.Event != r.Event || o.DoneOn != r.DoneOn || v.Unit != mark.Unit || v.Over != mark.Over || !v.Better(mark) {
			continue
		}
		best, mark = i, v
	}
	if best < 0 {
		return nil
	}
	v := recent[best].Summary.Readings[checkpoint]
	off := uncertainty.Minus(v, r.Summary.Readings[checkpoint])
	return &SquadBest{recent[best].ID, recent[best].Mark, v, math.Abs(off.Value) <= math.Hypot(off.Half95, math.Sqrt2*uncertainty.Z95*own)}
}

// SeriesView is what an athlete's marks at an event say, conditions apart.
type SeriesView struct {
	performance.Series
	Chance *performance.Odds `json:"chance,omitempty" required:"false" doc:"of the wanted mark at least once"`
	Why    string            `json:"why,omitempty" required:"false" doc:"why no chance is told"`
}

// yearBack are the days whose marks a series is told from.
const yearBack = 365

// Series reads the marks of the last year, or of one day; a wanted mark asks for its chance in so many
// attempts.
func (s *Service) Series(ctx context.Context, team, athlete uuid.UUID, event, day, wanted string, attempts int, l Look) ([]SeriesView, error) {
	if _, err := s.store.Athlete(ctx, team, athlete); err != nil {
		return nil, err
	}
	var mark performance.Result
	if wanted != "" {
		var ok bool
		if mark, ok = performance.Read(wanted); !ok {
			return nil, problem.New(problem.Invalid, "%q is no mark. Write it as 58.40 m, 182-6 or 60 m 7.41 s.", wanted)
		}
	}
	rows, err := s.store.Log(ctx, team, athlete, "")
	if err != nil {
		return nil, err
	}
	var list []performance.Tried
	for _, r := range rows {
		d, err := season.ParseDay(r.DoneOn)
		if err != nil || r.Event != event || day != "" && r.DoneOn != day || day == "" && l.Today-d > yearBack {
			continue
		}
		list = append(list, performance.Tried{Text: r.Mark, Foul: r.Foul, Wind: r.Wind, Indoor: r.Indoor})
	}
	out := []SeriesView{}
	for _, x := range performance.SeriesOf(list, sport.Of(event).Windy) {
		v := SeriesView{Series: x}
		if wanted != "" && mark.Unit == x.Unit && mark.Over == x.Over {
			if o, err := x.Chance(mark.Value, attempts); err != nil {
				v.Why = err.Error()
			} else {
				v.Chance = &o
			}
		}
		out = append(out, v)
	}
	return out, nil
}

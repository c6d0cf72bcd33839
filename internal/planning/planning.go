// Package planning is the work before and after the clip: an athlete's season, the squad's week, what
// was done against it, sheets and calendars. What a coach enters is stored; the plan follows from it
// and from the log.
package planning

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/internal/logbook"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Look is when somebody looks at plans, and how directions are named for him.
type Look struct {
	Today      season.Day
	Directions azimuth.Language
}

// Service plans.
type Service struct {
	store *store.Store
	log   *logbook.Service
}

// New makes the service.
func New(s *store.Store, l *logbook.Service) *Service { return &Service{s, l} }

// RuleNow is a rule with the value that holds.
type RuleNow struct {
	season.Rule
	Now    float64 `json:"now"`
	Reason string  `json:"reason,omitempty" required:"false" doc:"why it is another than it comes"`
	Own    bool    `json:"own" doc:"another for this athlete alone"`
}

// View is an athlete's season.
type View struct {
	Athlete   store.Athlete     `json:"athlete"`
	Outline   season.Outline    `json:"outline"`
	Revision  int64             `json:"revision" doc:"of the outline; 0 while nothing was entered"`
	CanUndo   bool              `json:"can_undo"`
	Plan      season.Season     `json:"plan"`
	Rules     []RuleNow         `json:"rules"`
	Changes   []season.Change   `json:"changes" doc:"open cues with the repetitions that they take"`
	Trainings []store.Training  `json:"trainings" doc:"what was done, oldest first"`
	Loads     []season.WeekLoad `json:"loads" doc:"by week, from the first that has something"`
	Kept      []season.Kept     `json:"kept" doc:"weeks of the season so far, done against planned"`
	Pain      string            `json:"pain" doc:"that is not over; empty when there is none"`
	Step      int               `json:"step" doc:"of the way back after an injury, from 0; -1 without one"`
	Address   *store.Calendar   `json:"address,omitempty" required:"false" doc:"under which calendars follow it; none was given, or it was taken back"`
	Today     season.Day        `json:"today" format:"date"`
}

// usual is the outline of somebody for whom none was entered: from this week on for three quarters of
// a year, at the events of the log.
func usual(today season.Day, events []string) season.Outline {
	const weeks = 40
	return season.Outline{From: today.Monday(), To: today.Monday() + 7*(weeks-1), Events: events, Free: []season.Free{}, Competitions: []season.Competition{}, Moves: []season.Move{}, Lost: []season.Day{}, Rules: []season.Changed{}}
}

// Rules are those of a team.
func (s *Service) Rules(ctx context.Context, team uuid.UUID) (season.Rules, []season.Changed, error) {
	changed, err := s.store.TeamRules(ctx, team)
	if err != nil {
		return nil, nil, err
	}
	rules, err := season.With(changed)
	return rules, changed, err
}

// Open reads an athlete's season as it stands on a day.
func (s *Service) Open(ctx context.Context, team, athlete uuid.UUID, l Look) (View, error) {
	a, err := s.store.Athlete(ctx, team, athlete)
	if err != nil {
		return View{}, err
	}
	rules, changed, err := s.Rules(ctx, team)
	if err != nil {
		return View{}, err
	}
	all, err := s.gather(ctx, team, athlete, l.Today)
	if err != nil {
		return View{}, err
	}
	one := all.of(a, l)
	out := View{Athlete: a, Outline: one.outline, Revision: one.revision, CanUndo: one.before > 0, Changes: one.who.Changes, Trainings: all.trainings[athlete], Pain: all.pains[athlete], Step: -1, Today: l.Today}
	if out.Trainings == nil {
		out.Trainings = []store.Training{}
	}
	switch c, err := s.store.CalendarOf(ctx, team, athlete); {
	case err == nil:
		out.Address = &c
	case !problem.Is(err, problem.NotFound):
		return View{}, err
	}
	if at, ok := out.Outline.Return.At(); ok {
		out.Step = at
	}
	if out.Plan, err = season.Plan(one.outline, one.who, l.Today, rules); err != nil {
		return View{}, problem.New(problem.Invalid, "This season cannot be planned: %s.", err)
	}
	if out.Loads = season.Loads(one.done, rules); out.Loads == nil {
		out.Loads = []season.WeekLoad{}
	}
	out.Kept = []season.Kept{}
	for _, w := range out.Plan.Weeks {
		if w.Monday <= l.Today {
			out.Kept = append(out.Kept, w.Against(one.done))
		}
	}
	out.Rules = rulesNow(changed, one.outline.Rules)
	return out, nil
}

func rulesNow(team, own []season.Changed) (out []RuleNow) {
	for _, r := range season.Shipped() {
		now := RuleNow{Rule: r, Now: r.Value}
		for i, list := range [][]season.Changed{team, own} {
			for _, c := range list {
				if c.ID == r.ID {
					now.Now, now.Reason, now.Own = c.Value, c.Reason, i == 1
				}
			}
		}
		out = append(out, now)
	}
	return out
}

// Save keeps an outline that was made on a revision.
func (s *Service) Save(ctx context.Context, team, athlete uuid.UUID, on int64, o season.Outline, l Look) (View, error) {
	o = whole(o)
	if err := o.Check(); err != nil {
		return View{}, problem.New(problem.Invalid, "%s.", sentence(err))
	}
	if err := s.store.SaveSeason(ctx, team, athlete, on, o); err != nil {
		return View{}, err
	}
	return s.Open(ctx, team, athlete, l)
}

// whole has no list that is missing.
func whole(o season.Outline) season.Outline {
	if o.Events == nil {
		o.Events = []string{}
	}
	if o.Free == nil {
		o.Free = []season.Free{}
	}
	for i := range o.Free {
		if o.Free[i].Places == nil {
			o.Free[i].Places = []sport.Place{}
		}
	}
	if o.Competitions == nil {
		o.Competitions = []season.Competition{}
	}
	if o.Moves == nil {
		o.Moves = []season.Move{}
	}
	if o.Lost == nil {
		o.Lost = []season.Day{}
	}
	if o.Rules == nil {
		o.Rules = []season.Changed{}
	}
	return o
}

func sentence(err error) string {
	text := err.Error()
	return strings.ToUpper(text[:1]) + text[1:]
}

// Undo takes the last change of a season back.
func (s *Service) Undo(ctx context.Context, team, athlete uuid.UUID, on int64, l Look) (View, error) {
	if err := s.store.UndoSeason(ctx, team, athlete, on); err != nil {
		return View{}, err
	}
	return s.Open(ctx, team, athlete, l)
}

// gathered is what plans are made from, of one athlete or a whole team.
type gathered struct {
	seasons   map[uuid.UUID]store.Season
	cues      map[uuid.UUID][]logbook.OpenCue
	pains     map[uuid.UUID]string
	trainings map[uuid.UUID][]store.Training
	events    map[uuid.UUID]string
}

// before are the days of the past that count for loads and repetitions.
const before = 400

func (s *Service) gather(ctx context.Context, team, athlete uuid.UUID, today season.Day) (g gathered, err error) {
	g = gathered{seasons: map[uuid.UUID]store.Season{}, cues: map[uuid.UUID][]logbook.OpenCue{}, trainings: map[uuid.UUID][]store.Training{}}
	list, err := s.store.Seasons(ctx, team, athlete)
	if err != nil {
		return g, err
	}
	for _, v := range list {
		g.seasons[v.AthleteID] = v
	}
	cues, err := s.log.OpenCues(ctx, team, athlete)
	if err != nil {
		return g, err
	}
	for _, c := range cues {
		g.cues[c.AthleteID] = append(g.cues[c.AthleteID], c)
	}
	if g.pains, err = s.store.Pains(ctx, team); err != nil {
		return g, err
	}
	if g.events, err = s.store.LastEvents(ctx, team); err != nil {
		return g, err
	}
	done, err := s.store.Trainings(ctx, team, athlete, (today - before).String())
	for _, t := range done {
		g.trainings[t.AthleteID] = append(g.trainings[t.AthleteID], t)
	}
	return g, err
}

// one is what the plan of an athlete is made from.
type one struct {
	outline  season.Outline
	revision int64
	before   int
	who      season.Athlete
	done     []season.Done
}

func (g gathered) of(a store.Athlete, l Look) (out one) {
	if v, ok := g.seasons[a.ID]; ok {
		out.outline, out.revision, out.before = whole(season.Outline(v.Outline)), v.Revision, v.Before
	} else {
		events := []string{}
		if e := g.events[a.ID]; e != "" {
			events = append(events, e)
		}
		out.outline = usual(l.Today, events)
	}
	for _, t := range g.trainings[a.ID] {
		if d, err := t.Done(); err == nil {
			out.done = append(out.done, d)
		}
	}
	year, _ := strconv.Atoi(l.Today.String()[:4])
	out.who = season.Athlete{Age: year - a.Born, Pain: g.pains[a.ID] != "", Changes: []season.Change{}}
	for _, c := range g.cues[a.ID] {
		id := c.AttemptID.String()
		c.Advice.Words, c.Advice.Drill = named(c.Advice.Words, a, l), named(c.Advice.Drill, a, l)
		out.who.Changes = append(out.who.Changes, season.Change{ID: id, Event: c.Event, Words: c.Advice.Words, Kind: c.Kind, Drill: c.Advice.Drill,
			// What was typed counts; tries that are only in the log count where nothing was typed.
			Done: max(season.Towards(id, out.done), c.Since), Paused: c.Followup.State == "paused"})
	}
	// What is worked on at the main event comes first, the newest before older ones.
	place := func(c season.Change) int {
		if i := slices.Index(out.outline.Events, c.Event); i >= 0 {
			return i
		}
		return len(out.outline.Events)
	}
	slices.SortStableFunc(out.who.Changes, func(x, y season.Change) int { return place(x) - place(y) })
	return out
}

// named has the directions in its texts named.
func named[T any](v T, a store.Athlete, l Look) T {
	raw, err := json.Marshal(v)
	if err != nil {
		return v
	}
	var out T
	if json.Unmarshal(azimuth.Fill(raw, a.ThrowingHand == body.Left, l.Directions), &out) != nil {
		return v
	}
	return out
}

// SquadLine is an athlete's week.
type SquadLine struct {
	AthleteID uuid.UUID       `json:"athlete_id"`
	Name      string          `json:"name"`
	Begun     bool            `json:"begun" doc:"a season was entered"`
	Week      season.Week     `json:"week"`
	Kept      season.Kept     `json:"kept"`
	Changes   []season.Change `json:"changes"`
	Pain      string          `json:"pain"`
	Next      string          `json:"next" doc:"the competition that comes next, with how many days it is off; empty without one"`
}

// Squad is a team's week.
type Squad struct {
	Monday season.Day  `json:"monday" format:"date"`
	Today  season.Day  `json:"today" format:"date"`
	Lines  []SquadLine `json:"lines" doc:"by name; those without a season last"`
}

// Squad reads the week of a day for a whole team. An athlete whose season cannot be planned stands
// there without one.
func (s *Service) Squad(ctx context.Context, team uuid.UUID, day season.Day, l Look) (Squad, error) {
	out := Squad{Monday: day.Monday(), Today: l.Today, Lines: []SquadLine{}}
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return out, err
	}
	rules, _, err := s.Rules(ctx, team)
	if err != nil {
		return out, err
	}
	all, err := s.gather(ctx, team, uuid.Nil, l.Today)
	if err != nil {
		return out, err
	}
	var without []SquadLine
	for _, a := range people {
		one := all.of(a, l)
		line := SquadLine{AthleteID: a.ID, Name: a.Name, Changes: one.who.Changes, Pain: all.pains[a.ID], Week: season.Week{Monday: out.Monday, Sessions: []season.Session{}, Says: []string{}}}
		_, line.Begun = all.seasons[a.ID]
		plan, err := season.Plan(one.outline, one.who, l.Today, rules)
		if !line.Begun || err != nil {
			without = append(without, line)
			continue
		}
		if w, ok := plan.Week(out.Monday); ok {
			line.Week = w
		}
		line.Kept = line.Week.Against(one.done)
		line.Next = next(one.outline, l.Today)
		out.Lines = append(out.Lines, line)
	}
	out.Lines = append(out.Lines, without...)
	return out, nil
}

// next is the competition that comes next, in words.
func next(o season.Outline, today season.Day) string {
	var first *season.Competition
	for i, c := range o.Competitions {
		if c.Day >= today && (first == nil || c.Day < first.Day) {
			first = &o.Competitions[i]
		}
	}
	if first == nil {
		return ""
	}
	switch days := int(first.Day - today); days {
	case 0:
		return first.Name + ", today"
	case 1:
		return first.Name + ", tomorrow"
	default:
		return first.Name + ", in " + strconv.Itoa(days) + " days"
	}
}

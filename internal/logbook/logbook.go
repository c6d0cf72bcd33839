// Package logbook is the athlete's log: marks, bests, measures over time, cues and
// their course, notes.
package logbook

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"os"
	"runtime"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/followup"
	"neokinema/core/model"
	"neokinema/core/performance"
	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/core/workshop/known"
	"neokinema/internal/guard"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

// Service keeps the log.
type Service struct {
	store *store.Store
	bench *workspace.Service
	log   *slog.Logger
	// engine stands for everything that the numbers are computed by.
	engine func() string
	ahead  ahead
}

// New makes the service.
func New(s *store.Store, b *workspace.Service, log *slog.Logger) *Service {
	return &Service{store: s, bench: b, log: log, engine: sync.OnceValue(engine)}
}

// engine is a hash of the running program: another one may compute otherwise.
func engine() string {
	path, err := os.Executable()
	if err != nil {
		return uuid.NewString() // nothing is taken from before
	}
	f, err := os.Open(path)
	if err != nil {
		return uuid.NewString()
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return uuid.NewString()
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Summary is what the tool found in one attempt.
type Summary struct {
	ClipID   *uuid.UUID                      `json:"clip_id,omitempty" required:"false" doc:"clip that was read"`
	Readings map[string]uncertainty.Estimate `json:"readings" doc:"by checkpoint"`
	Findings []FaultSeen                     `json:"findings" doc:"sure ones, first cause first"`
	Moments  []KeyMoment                     `json:"moments" doc:"key positions that were found or flagged, in order"`
	// What the queue says of it: how many questions the tool has, and what the clip does not tell.
	Questions int    `json:"questions,omitempty" required:"false" doc:"that the tool has"`
	Carries   string `json:"carries,omitempty" required:"false" doc:"what the clip does not tell"`
	// Facts are what the workshop takes from it.
	Facts *known.Facts `json:"facts,omitempty" required:"false" doc:"what the workshop takes from it"`
}

// FaultSeen is a fault by name.
type FaultSeen struct {
	Fault string `json:"fault"`
	Name  string `json:"name"`
	First bool   `json:"first"`
}

// KeyMoment is a key position with its frame.
type KeyMoment struct {
	Name  string `json:"name"`
	Frame int    `json:"frame"`
}

// Logged is one line of the log.
type Logged struct {
	store.LogRow
	Result   *performance.Result `json:"result,omitempty" required:"false" doc:"the mark as a number"`
	Personal bool                `json:"personal" doc:"personal best"`
	Season   bool                `json:"season" doc:"best of its year"`
	Findings []FaultSeen         `json:"findings"`
}

// MeasureLog is one checkpoint over the athlete's attempts.
type MeasureLog struct {
	Checkpoint string                `json:"checkpoint"`
	Name       string                `json:"name"`
	Unit       string                `json:"unit"`
	Band       uncertainty.Band      `json:"band"`
	Values     []Reached             `json:"values"`
	Scatter    *performance.Scatter  `json:"scatter,omitempty" required:"false"`
	Progress   *performance.Progress `json:"progress,omitempty" required:"false" doc:"over sessions, with what both owe to time taken off"`
}

// Reached is a measure on one attempt.
type Reached struct {
	AttemptID uuid.UUID            `json:"attempt_id"`
	Value     uncertainty.Estimate `json:"value"`
}

// CueLog is a main cue with what became of it.
type CueLog struct {
	AttemptID uuid.UUID             `json:"attempt_id"`
	DoneOn    string                `json:"done_on"`
	Advice    store.Advice          `json:"advice"`
	Followup  store.Followup        `json:"followup" doc:"the coach's, or what is usual for this kind of change"`
	Stated    bool                  `json:"stated" doc:"the coach has said how it goes"`
	Open      bool                  `json:"open" doc:"neither done nor replaced"`
	Again     followup.Again        `json:"again" doc:"whether it is time to look again, by what was done and by the day"`
	Goal      uncertainty.Band      `json:"goal"`
	Target    string                `json:"target" doc:"name of the measure"`
	Unit      string                `json:"unit"`
	Before    *uncertainty.Estimate `json:"before,omitempty" required:"false"`
	Since     []Followed            `json:"since" doc:"later attempts on which the measure was taken or the coach looked"`
	Plan      []followup.Session    `json:"plan"`
	Circle    []followup.Gone       `json:"circle" doc:"stages of improvement that were gone through"`
	Scatter   *performance.Scatter  `json:"scatter,omitempty" required:"false"`
}

// Followed is one attempt after a cue.
type Followed struct {
	AttemptID uuid.UUID       `json:"attempt_id"`
	DoneOn    string          `json:"done_on"`
	Effect    *compare.Effect `json:"effect,omitempty" required:"false"`
	Outcome   string          `json:"outcome"`
}

// EventLog is the log of one event.
type EventLog struct {
	Event    string       `json:"event"`
	Name     string       `json:"name"`
	Attempts []Logged     `json:"attempts" doc:"newest first"`
	Measures []MeasureLog `json:"measures" doc:"those that were taken; what was off last time first, then by how often"`
	Cues     []CueLog     `json:"cues" doc:"newest first"`
	Warnings []string     `json:"warnings" doc:"cues that stand in each other's way"`
}

// Log is an athlete's page.
type Log struct {
	Athlete store.Athlete `json:"athlete"`
	Minor   bool          `json:"minor" doc:"consent is needed before anything is shared"`
	Events  []EventLog    `json:"events" doc:"the one with the newest attempt first"`
	Notes   []store.Note  `json:"notes"`
	Paused  string        `json:"paused" doc:"the pain that pauses every change; empty when there is none"`
}

// Open reads an athlete's log.
func (s *Service) Open(ctx context.Context, team, athlete uuid.UUID, today string) (Log, error) {
	var out Log
	var err error
	if out.Athlete, err = s.store.Athlete(ctx, team, athlete); err != nil {
		return out, err
	}
	if out.Notes, err = s.store.Notes(ctx, team, athlete); err != nil {
		return out, err
	}
	for _, n := range out.Notes {
		if n.Kind == "pain" && n.OverOn == nil {
			out.Paused = n.Says
		}
	}
	year, _ := strconv.Atoi(today[:min(4, len(today))])
	out.Minor = out.Athlete.Minor(year)
	rows, err := s.store.Log(ctx, team, athlete, s.engine())
	if err != nil {
		return out, err
	}
	sums, err := s.summaries(ctx, team, rows)
	if err != nil {
		return out, err
	}
	first := today
	if len(rows) > 0 {
		first = rows[0].DoneOn
	}
	done, err := s.store.Trainings(ctx, team, athlete, first)
	if err != nil {
		return out, err
	}
	out.Events = []EventLog{}
	for _, r := range slices.Backward(rows) {
		if slices.ContainsFunc(out.Events, func(e EventLog) bool { return e.Event == r.Event }) {
			continue
		}
		e, err := s.event(ctx, team, out, r.Event, rows, sums, done, today)
		if err != nil {
			return out, err
		}
		out.Events = append(out.Events, e)
	}
	return out, nil
}

// Glance is the quick look at one attempt: what is worth the coach's time.
func (s *Service) Glance(ctx context.Context, team, id uuid.UUID) (Summary, error) {
	a, err := s.store.Attempt(ctx, team, id)
	if err != nil {
		return Summary{}, err
	}
	rows, err := s.store.Log(ctx, team, a.AthleteID, s.engine())
	if err != nil {
		return Summary{}, err
	}
	rows = slices.DeleteFunc(rows, func(r store.LogRow) bool { return r.ID != id })
	sums, err := s.summaries(ctx, team, rows)
	if err != nil {
		return Summary{}, err
	}
	if v, ok := sums[id]; ok {
		return v, nil
	}
	out := Summary{Readings: map[string]uncertainty.Estimate{}, Findings: []FaultSeen{}, Moments: []KeyMoment{}}
	if len(rows) > 0 {
		out.ClipID = rows[0].Poster
	}
	return out, nil
}

// summaries gives what was computed of attempts, and computes what is not kept. An
// attempt that cannot be computed is missing from it; the log goes on without.
func (s *Service) summaries(ctx context.Context, team uuid.UUID, rows []store.LogRow) (map[uuid.UUID]Summary, error) {
	out := map[uuid.UUID]Summary{}
	var mu sync.Mutex
	var work errgroup.Group
	work.SetLimit(max(1, runtime.NumCPU()))
	put := func(id uuid.UUID, v Summary) {
		mu.Lock()
		defer mu.Unlock()
		out[id] = v
	}
	for _, r := range rows {
		if !r.Worked {
			continue
		}
		var v Summary
		if len(r.Kept) > 0 && json.Unmarshal(r.Kept, &v) == nil {
			put(r.ID, v)
			continue
		}
		work.Go(func() error {
			err := guard.Do(func() error {
				v, err := s.compute(ctx, team, r)
				if err == nil {
					put(r.ID, v)
				}
				return err
			})
			var broken *guard.Broken
			if errors.As(err, &broken) {
				s.log.Error("an attempt cannot be computed", "attempt", r.ID, "error", err)
				return nil
			}
			return err
		})
	}
	return out, work.Wait()
}

func (s *Service) compute(ctx context.Context, team uuid.UUID, r store.LogRow) (Summary, error) {
	sh, err := s.bench.Open(ctx, team, r.ID)
	if err != nil {
		return Summary{}, err
	}
	out := Summary{Readings: map[string]uncertainty.Estimate{}, Findings: []FaultSeen{}, Moments: []KeyMoment{}}
	if c, ok := sh.Main(); ok {
		out.ClipID = &c.ID
		all := sh.Joined()
		rep := all.Report
		facts := known.Of(sh.Model, all.Inputs[0], rep)
		for _, in := range all.Inputs[1:] {
			facts.Join(known.Of(sh.Model, in, evaluate.Attempt(sh.Model, in)))
		}
		out.Facts = &facts
		for _, what := range rep.Broken {
			s.log.Error("a part of an attempt cannot be computed", "attempt", r.ID, "part", what)
		}
		for _, v := range rep.Readings {
			if v.Value != nil {
				out.Readings[v.ID] = *v.Value
			}
		}
		out.Questions = len(rep.Questions)
		if len(rep.Carries.Cannot) > 0 {
			out.Carries = rep.Carries.Cannot[0]
		}
		for _, f := range rep.Findings {
			if m, ok := sh.Model.Fault(f.Fault); ok {
				out.Findings = append(out.Findings, FaultSeen{f.Fault, m.Name, f.First})
			}
		}
		for _, p := range rep.Positions {
			if pos, ok := sh.Model.Position(p.ID); ok && p.Frame != nil && *p.Frame >= 0 {
				out.Moments = append(out.Moments, KeyMoment{pos.Name, *p.Frame})
			}
		}
		sort.SliceStable(out.Moments, func(i, j int) bool { return out.Moments[i].Frame < out.Moments[j].Frame })
	}
	return out, s.store.KeepSummary(ctx, r.ID, r.Stamp, out)
}

func (s *Service) event(ctx context.Context, team uuid.UUID, l Log, event string, all []store.LogRow, sums map[uuid.UUID]Summary, done []store.Training, today string) (EventLog, error) {
	rows := slices.DeleteFunc(slices.Clone(all), func(r store.LogRow) bool { return r.Event != event })
	m, err := s.bench.Model(ctx, team, rows[len(rows)-1].Attempt, l.Athlete)
	if err != nil {
		return EventLog{}, err
	}
	out := EventLog{Event: event, Name: m.Name, Attempts: []Logged{}, Measures: []MeasureLog{}, Cues: []CueLog{}, Warnings: []string{}}
	marks := make([]performance.Marked, len(rows))
	for i, r := range rows {
		year, _ := strconv.Atoi(r.DoneOn[:4])
		marks[i] = performance.Marked{Text: r.Mark, Foul: r.Foul != "", Season: year}
		if sport.Of(event).Windy {
			marks[i].Wind = r.Wind
		}
	}
	bests := performance.Find(marks)
	for i, r := range slices.Backward(rows) {
		a := Logged{LogRow: r, Personal: bests.Personal[i], Season: bests.Season[i], Findings: []FaultSeen{}}
		if v, ok := performance.Read(r.Mark); ok {
			a.Result = &v
		}
		if v, ok := sums[r.ID]; ok {
			a.Findings = v.Findings
		}
		out.Attempts = append(out.Attempts, a)
	}
	for _, cp := range m.Checkpoints {
		if v, ok := measure(cp, rows, sums); ok {
			out.Measures = append(out.Measures, v)
		}
	}
	// What was off last time comes first, then what was measured most often.
	off := func(m MeasureLog) bool { return m.Band.Judge(m.Values[len(m.Values)-1].Value) == uncertainty.Missed }
	sort.SliceStable(out.Measures, func(i, j int) bool {
		a, b := out.Measures[i], out.Measures[j]
		if off(a) != off(b) {
			return off(a)
		}
		return len(a.Values) > len(b.Values)
	})
	var open []followup.Cue
	for i := len(rows) - 1; i >= 0; i-- {
		c, ok := cue(m, l, rows, i, sums, done, today)
		if !ok {
			continue
		}
		// A newer main cue replaces an older one that nobody spoke of again.
		if c.Open && !c.Stated && len(open) > 0 {
			c.Open, c.Again.Due, c.Again.Waits, c.Followup.State = false, false, false, "replaced"
		}
		if c.Open {
			open = append(open, followup.Cue{Words: c.Advice.Words, Target: c.Advice.Target, Fault: c.Advice.Fault})
		}
		out.Cues = append(out.Cues, c)
	}
	for i := range out.Measures {
		since := ""
		for _, c := range out.Cues {
			if c.Open && c.Advice.Target == out.Measures[i].Checkpoint {
				since = c.DoneOn
			}
		}
		out.Measures[i].Progress = progress(out.Measures[i], rows, since)
	}
	if w := followup.Conflicts(m, open); w != nil {
		out.Warnings = w
	}
	return out, nil
}

// measure is a checkpoint over attempts, in their order.
func measure(cp model.Checkpoint, rows []store.LogRow, sums map[uuid.UUID]Summary) (MeasureLog, bool) {
	out := MeasureLog{Checkpoint: cp.ID, Name: cp.Name, Unit: cp.Unit, Band: cp.Band, Values: []Reached{}}
	var values []uncertainty.Estimate
	for _, r := range rows {
		if v, ok := sums[r.ID].Readings[cp.ID]; ok {
			out.Values = append(out.Values, Reached{r.ID, v})
			values = append(values, v)
		}
	}
	if len(values) == 0 {
		return out, false
	}
	if sc, ok := performance.Spread(values); ok {
		out.Scatter = &sc
	}
	return out, true
}

// progress is what a measure did over sessions; since is the day of the open cue that it is the target
// of, if there is one.
func progress(m MeasureLog, rows []store.LogRow, since string) *performance.Progress {
	at := map[uuid.UUID]store.LogRow{}
	for _, r := range rows {
		at[r.ID] = r
	}
	var list []performance.Seen
	kind := performance.Result{}
	for _, v := range m.Values {
		r := at[v.AttemptID]
		day, err := season.ParseDay(r.DoneOn)
		if err != nil {
			continue
		}
		seen := performance.Seen{Day: int(day), Value: v.Value}
		if mark, ok := performance.Read(r.Mark); ok && r.Foul == "" && (kind.Unit == "" || mark.Unit == kind.Unit && mark.Over == kind.Over) {
			kind = mark
			if mark.Unit == "s" {
				mark.Value = -mark.Value // less time is better
			}
			seen.Mark = &mark.Value
		}
		list = append(list, seen)
	}
	from, err := season.ParseDay(since)
	if err != nil {
		from = -1 << 40
	}
	p := performance.ProgressOf(list, int(from))
	return &p
}

// cue follows the main cue of the i-th attempt through the later ones.
func cue(m model.Model, l Log, rows []store.LogRow, i int, sums map[uuid.UUID]Summary, done []store.Training, today string) (CueLog, bool) {
	r := rows[i]
	out := CueLog{AttemptID: r.ID, DoneOn: r.DoneOn, Since: []Followed{}, Plan: []followup.Session{}}
	var kind sport.Change
	var ok bool
	if out.Advice, out.Followup, kind, out.Stated, ok = course(m, r.DoneOn, r.Advice, r.Followup); !ok {
		return out, false
	}
	out.Open = open(out.Followup)
	if l.Paused != "" && out.Open {
		out.Followup.State = "paused"
	}
	cp, known := m.Checkpoint(out.Advice.Target)
	if own := out.Advice.Checkpoint; own != nil {
		cp, known = *own, true
	}
	out.Goal, out.Target, out.Unit = cp.Band, cp.Name, cp.Unit
	then, measured := sums[r.ID].Readings[out.Advice.Target]
	if measured {
		out.Before = &then
	}
	var own []uncertainty.Estimate
	var after []string
	for k := i + 1; k < len(rows); k++ {
		after = append(after, rows[k].DoneOn)
		f := Followed{AttemptID: rows[k].ID, DoneOn: rows[k].DoneOn, Outcome: rows[k].Outcome}
		if v, ok := sums[rows[k].ID].Readings[out.Advice.Target]; ok && measured && known {
			e := compare.EffectOf(cp, then, v)
			f.Effect = &e
			own = append(own, v)
		}
		if f.Effect != nil || f.Outcome != "" {
			out.Since = append(out.Since, f)
		}
		if len(rows[k].Advice) > 0 {
			break // another cue is worked on from here
		}
	}
	if sc, ok := performance.Spread(own); ok {
		out.Scatter = &sc
	}
	var practised []followup.Practised
	for _, t := range done {
		if t.DoneOn >= r.DoneOn {
			practised = append(practised, followup.Practised{On: t.DoneOn, Lift: t.Kind == season.Lift, Own: t.AttemptID != nil && *t.AttemptID == r.ID, Tries: t.Tries, Full: t.Full})
		}
	}
	var looks []string
	for _, f := range out.Since {
		looks = append(looks, f.DoneOn)
	}
	out.Circle = followup.Circle(r.DoneOn, kind == sport.Strength, practised, after, looks)
	if out.Followup.State == "training" && out.Advice.Drill.Name != "" {
		if plan, err := followup.Plan(out.Advice.Drill, out.Followup.Weeks, out.Followup.Sessions); err == nil {
			out.Plan = plan
		}
	}
	if out.Open {
		out.Again = Again(r.ID, r.DoneOn, out.Advice.Drill, out.Followup, done, today)
	}
	return out, true
}

// Again tells whether it is time to look if a cue has worked, by what was done since it was given.
func Again(attempt uuid.UUID, given string, drill model.Drill, f store.Followup, done []store.Training, today string) followup.Again {
	wanted, tries := 0, 0
	first, err1 := season.ParseDay(f.Starts)
	last, err2 := season.ParseDay(f.Recheck)
	if plan, err := followup.Plan(drill, f.Weeks, f.Sessions); err == nil && err1 == nil && err2 == nil {
		wanted = followup.Repetitions(drill, plan, int(last-first))
	}
	for _, t := range done {
		if t.DoneOn >= given && t.Kind != season.Lift && t.AttemptID != nil && *t.AttemptID == attempt {
			tries += t.Tries
		}
	}
	return followup.LookAgain(today >= f.Recheck, wanted, tries)
}

// SessionEntry is a whole session typed in, a line for each attempt.
type SessionEntry struct {
	AthleteID uuid.UUID `json:"athlete_id"`
	Event     string    `json:"event"`
	Variant   string    `json:"variant,omitempty" required:"false" maxLength:"40"`
	DoneOn    string    `json:"done_on" format:"date"`
	Session   string    `json:"session" maxLength:"200"`
	Place     string    `json:"place,omitempty" required:"false" maxLength:"200"`
	Implement string    `json:"implement,omitempty" required:"false" maxLength:"120"`
	Setting   string    `json:"setting" enum:"practice,competition"`
	Indoor    bool      `json:"indoor,omitempty" required:"false"`
	Condition string    `json:"condition" enum:"fresh,tired"`
	Lines     []Typed   `json:"lines" minItems:"1" maxItems:"200"`
}

// Typed is what was typed for one attempt, and when.
type Typed struct {
	Text string     `json:"text" maxLength:"300"`
	At   *time.Time `json:"at,omitempty" required:"false"`
}

// Enter stores a whole session, or says which lines cannot be read.
func (s *Service) Enter(ctx context.Context, team uuid.UUID, in SessionEntry) ([]store.Attempt, error) {
	var list []store.NewAttempt
	var wrong []string
	for i, l := range in.Lines {
		e, err := performance.ReadEntry(l.Text)
		if err != nil {
			wrong = append(wrong, "line "+strconv.Itoa(i+1)+": "+err.Error())
			continue
		}
		list = append(list, store.NewAttempt{AthleteID: in.AthleteID, Event: in.Event, Variant: in.Variant, DoneOn: in.DoneOn, Session: in.Session, Place: in.Place,
			Implement: in.Implement, Condition: in.Condition, Setting: in.Setting, Indoor: in.Indoor, Mark: e.Mark, Wind: e.Wind, Foul: e.Foul, Note: e.Note, TakenAt: l.At})
	}
	if len(wrong) > 0 {
		p := problem.New(problem.Invalid, "Nothing was stored yet: %s.", strings.Join(wrong, "; "))
		p.Fields = wrong
		return nil, p
	}
	return s.store.AddMarks(ctx, team, list)
}

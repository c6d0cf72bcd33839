package logbook

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/google/uuid"

	"neokinema/core/performance"
	"neokinema/core/sport"
	"neokinema/internal/form"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Columns of the table of marks, in and out; docs/formats.md explains them.
var columns = []string{"athlete", "event", "date", "time", "session", "place", "mark", "wind", "foul", "implement", "setting", "condition", "style", "note"}

// WriteMarks writes an athlete's marks as a table, oldest first; all athletes' when
// none is named.
func (s *Service) WriteMarks(ctx context.Context, w io.Writer, team, athlete uuid.UUID) error {
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return err
	}
	if athlete != uuid.Nil {
		one, err := s.store.Athlete(ctx, team, athlete)
		if err != nil {
			return err
		}
		people = []store.Athlete{one}
	}
	out := csv.NewWriter(w)
	_ = out.Write(columns) // an error stays and is told at the end
	for _, p := range people {
		rows, err := s.store.Log(ctx, team, p.ID, "")
		if err != nil {
			return err
		}
		for _, r := range rows {
			taken, wind := "", ""
			if r.TakenAt != nil {
				taken = r.TakenAt.UTC().Format(time.RFC3339)
			}
			if r.Wind != nil {
				wind = strconv.FormatFloat(*r.Wind, 'f', -1, 64)
			}
			row := []string{p.Name, r.Event, r.DoneOn, taken, r.Session, r.Place, r.Mark, "", r.Foul, r.Implement, r.Setting, r.Condition, r.Variant, r.Note}
			for i := range row {
				row[i] = form.Cell(row[i])
			}
			row[7] = wind // a number may begin with a minus
			_ = out.Write(row)
		}
	}
	out.Flush()
	return out.Error()
}

// Imported tells what a table of marks brought.
type Imported struct {
	Added   int `json:"added"`
	Already int `json:"already" doc:"lines that the log had already"`
}

// mostLines of a table that is read in at once.
const mostLines = 20_000

// ReadMarks takes a table of marks in: all of it, or nothing with every mistake by
// line. Columns may come in any order; athlete, event, date and mark or foul are
// needed. What the log has already is left alone.
func (s *Service) ReadMarks(ctx context.Context, team uuid.UUID, r io.Reader) (Imported, error) {
	var out Imported
	in := csv.NewReader(r)
	in.FieldsPerRecord = -1
	rows, err := in.ReadAll()
	var bad *csv.ParseError
	if errors.As(err, &bad) {
		return out, problem.New(problem.Invalid, "This is no table that can be read: line %d: %s. Save it as CSV with commas and try again.", bad.Line, bad.Err)
	}
	if err != nil {
		return out, err
	}
	if len(rows) < 2 || len(rows) > mostLines {
		return out, problem.New(problem.Invalid, "A table of marks has a line of names and 1 to %d lines of marks.", mostLines)
	}
	at := map[string]int{}
	for i, name := range rows[0] {
		at[strings.ToLower(strings.TrimSpace(strings.TrimPrefix(name, "\ufeff")))] = i
	}
	for _, need := range []string{"athlete", "event", "date", "mark"} {
		if _, ok := at[need]; !ok {
			return out, problem.New(problem.Invalid, "The column %q is missing. The first line must name the columns: %s.", need, strings.Join(columns, ", "))
		}
	}
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return out, err
	}
	var wrong []string
	var list []store.NewAttempt
	had := map[uuid.UUID][]store.LogRow{}
	for i, row := range rows[1:] {
		get := func(name string) string {
			if k, ok := at[name]; ok && k < len(row) {
				return strings.TrimSpace(form.Uncell(row[k]))
			}
			return ""
		}
		a, why := attemptOf(get, people)
		if why != "" {
			wrong = append(wrong, fmt.Sprintf("line %d: %s", i+2, why))
			continue
		}
		if _, ok := had[a.AthleteID]; !ok {
			if had[a.AthleteID], err = s.store.Log(ctx, team, a.AthleteID, ""); err != nil {
				return out, err
			}
		}
		if k := slices.IndexFunc(had[a.AthleteID], func(r store.LogRow) bool { return sameAttempt(r.NewAttempt, a) }); k >= 0 {
			// Each attempt of the log stands for one line: two equal throws are two.
			had[a.AthleteID] = slices.Delete(had[a.AthleteID], k, k+1)
			out.Already++
			continue
		}
		list = append(list, a)
	}
	if len(wrong) > 0 {
		p := problem.New(problem.Invalid, "Nothing was taken in. %s", strings.Join(wrong[:min(8, len(wrong))], "; "))
		p.Fields = wrong
		return out, p
	}
	made, err := s.store.AddMarks(ctx, team, list)
	out.Added = len(made)
	return out, err
}

func attemptOf(get func(string) string, people []store.Athlete) (a store.NewAttempt, why string) {
	or := func(v, usual string) string {
		if v == "" {
			return usual
		}
		return v
	}
	k := slices.IndexFunc(people, func(p store.Athlete) bool { return strings.EqualFold(p.Name, get("athlete")) })
	a = store.NewAttempt{Event: get("event"), DoneOn: get("date"), Session: get("session"), Place: get("place"), Mark: get("mark"), Foul: get("foul"), Implement: get("implement"),
		Setting: or(get("setting"), "practice"), Condition: or(get("condition"), "fresh"), Variant: get("style"), Note: get("note")}
	day, err := time.Parse(time.DateOnly, a.DoneOn)
	switch {
	case k < 0:
		return a, fmt.Sprintf("there is no athlete %q; add the athlete first", get("athlete"))
	case !slices.Contains(sport.IDs(), a.Event):
		return a, fmt.Sprintf("there is no event %q; one of %s", a.Event, strings.Join(sport.IDs(), ", "))
	case err != nil || day.Year() < 1900 || day.After(time.Now().AddDate(0, 0, 1)):
		return a, fmt.Sprintf("%q is no day such as 2026-11-24", a.DoneOn)
	case a.Mark == "" && a.Foul == "":
		return a, "there is neither a mark nor a foul"
	case a.Setting != "practice" && a.Setting != "competition":
		return a, "the setting is practice or competition"
	case a.Condition != "fresh" && a.Condition != "tired":
		return a, "the condition is fresh or tired"
	}
	for _, v := range []string{a.Session, a.Place, a.Foul} {
		if len(v) > 200 {
			return a, "a text is longer than 200 letters"
		}
	}
	if len(a.Mark) > 40 || len(a.Implement) > 120 || len(a.Note) > 2000 || len(a.Variant) > 40 {
		return a, "a text is too long"
	}
	a.AthleteID = people[k].ID
	if w := get("wind"); w != "" {
		v, err := strconv.ParseFloat(strings.ReplaceAll(w, ",", "."), 64)
		if err != nil || v < -15 || v > 15 {
			return a, fmt.Sprintf("%q is no wind in m/s", w)
		}
		a.Wind = &v
	}
	if t := get("time"); t != "" {
		v, err := time.Parse(time.RFC3339, t)
		if err != nil {
			return a, fmt.Sprintf("%q is no time such as 2026-11-24T18:05:00Z", t)
		}
		a.TakenAt = &v
	}
	return a, ""
}

func sameAttempt(a, b store.NewAttempt) bool {
	same := func(x, y *float64) bool { return x == nil && y == nil || x != nil && y != nil && *x == *y }
	when := a.TakenAt == nil || b.TakenAt == nil || a.TakenAt.Equal(*b.TakenAt)
	return a.Event == b.Event && a.DoneOn == b.DoneOn && a.Session == b.Session && a.Mark == b.Mark && a.Foul == b.Foul && same(a.Wind, b.Wind) && when
}

// Calendar writes the plan of a cue, and the day to look again, as iCalendar.
func (s *Service) Calendar(ctx context.Context, team, attempt uuid.UUID, today string, now time.Time) (string, error) {
	a, err := s.store.Attempt(ctx, team, attempt)
	if err != nil {
		return "", err
	}
	l, err := s.Open(ctx, team, a.AthleteID, today)
	if err != nil {
		return "", err
	}
	for _, e := range l.Events {
		for _, c := range e.Cues {
			if c.AttemptID != attempt {
				continue
			}
			if l.Paused != "" {
				return "", problem.New(problem.Invalid, "This change is paused: %s. Take the plan up again when the pain is gone and a physician or physiotherapist agrees.", l.Paused)
			}
			return calendar(l.Athlete.Name, e.Name, c, now)
		}
	}
	return "", problem.New(problem.Invalid, "No cue was given on this attempt, so there is nothing to plan.")
}

func calendar(who, event string, c CueLog, now time.Time) (string, error) {
	first, err := time.Parse(time.DateOnly, c.Followup.Starts)
	if err != nil {
		return "", err
	}
	check, err := time.Parse(time.DateOnly, c.Followup.Recheck)
	if err != nil {
		return "", err
	}
	cal := ics.NewCalendar()
	cal.SetProductId("-//Neokinema//Plan//EN")
	cal.SetMethod(ics.MethodPublish)
	whole := func(id string, day time.Time, title, says string) {
		e := cal.AddEvent(id + "@neokinema")
		e.SetDtStampTime(now.UTC())
		e.SetAllDayStartAt(day)
		e.SetAllDayEndAt(day.AddDate(0, 0, 1))
		e.SetSummary(title)
		e.SetDescription(says)
	}
	for i, p := range c.Plan {
		whole(fmt.Sprintf("%s-%d", c.AttemptID, i+1), first.AddDate(0, 0, p.Day), fmt.Sprintf("%s: %s, %s", who, c.Advice.Drill.Name, p.Dose),
			fmt.Sprintf("%s. Think of: %s. You should feel: %s", event, c.Advice.Words, c.Advice.Drill.Feel))
	}
	whole(c.AttemptID.String()+"-look", check, fmt.Sprintf("%s: film again", who), fmt.Sprintf("%s. Was it taken: %s", event, c.Advice.Words))
	return cal.Serialize(ics.WithNewLineWindows), nil
}

// NewFile is a clip of a folder that is about to be taken in.
type NewFile struct {
	Name     string     `json:"name" maxLength:"400" doc:"with its folders"`
	Modified *time.Time `json:"modified,omitempty" required:"false"`
}

// Planned is what the tool makes of a file's name and time.
type Planned struct {
	Name      string     `json:"name"`
	AthleteID *uuid.UUID `json:"athlete_id,omitempty" required:"false"`
	DoneOn    string     `json:"done_on"`
	Mark      string     `json:"mark"`
	Event     string     `json:"event" doc:"of the athlete's last attempt; empty when there is none"`
	AttemptID *uuid.UUID `json:"attempt_id,omitempty" required:"false" doc:"attempt without a clip that was done when the file was made"`
	Of        string     `json:"of,omitempty" required:"false" doc:"mark or foul of that attempt"`
}

// Plan tells of files whose they are, from when, and which attempt they show.
func (s *Service) Plan(ctx context.Context, team uuid.UUID, files []NewFile, today string) ([]Planned, error) {
	people, err := s.store.Athletes(ctx, team)
	if err != nil {
		return nil, err
	}
	last, err := s.store.LastEvents(ctx, team)
	if err != nil {
		return nil, err
	}
	names := make([]string, len(people))
	for i, p := range people {
		names[i] = p.Name
	}
	out := make([]Planned, len(files))
	var timed []int
	for i, f := range files {
		n := performance.ReadName(f.Name, names)
		out[i] = Planned{Name: f.Name, DoneOn: n.Day, Mark: n.Mark}
		if n.Person >= 0 {
			out[i].AthleteID, out[i].Event = &people[n.Person].ID, last[people[n.Person].ID]
		}
		if f.Modified != nil {
			timed = append(timed, i)
			if out[i].DoneOn == "" {
				out[i].DoneOn = f.Modified.Format(time.DateOnly)
			}
		}
		if out[i].DoneOn == "" || out[i].DoneOn > today {
			out[i].DoneOn = today
		}
	}
	slices.SortStableFunc(timed, func(a, b int) int { return files[a].Modified.Compare(*files[b].Modified) })
	if len(timed) == 0 {
		return out, nil
	}
	const around = time.Hour
	waiting, err := s.store.WaitingForClips(ctx, team, files[timed[0]].Modified.Add(-around), files[timed[len(timed)-1]].Modified.Add(around))
	if err != nil {
		return nil, err
	}
	// Each athlete's clips go to the same athlete's attempts; clips without a name to
	// whatever is left.
	taken := map[uuid.UUID]bool{}
	match := func(who *uuid.UUID) {
		var clips, times []float64
		var which []int
		var whose []store.Waiting
		for _, i := range timed {
			if out[i].AttemptID == nil && (who == nil && out[i].AthleteID == nil || who != nil && out[i].AthleteID != nil && *out[i].AthleteID == *who) {
				clips, which = append(clips, float64(files[i].Modified.UnixMilli())/1000), append(which, i)
			}
		}
		for _, w := range waiting {
			if !taken[w.ID] && (who == nil || w.AthleteID == *who) {
				times, whose = append(times, float64(w.TakenAt.UnixMilli())/1000), append(whose, w)
			}
		}
		for k, j := range performance.MatchTimes(clips, times) {
			if j >= 0 {
				p := &out[which[k]]
				p.AttemptID, p.AthleteID, p.Event, p.Of = &whose[j].ID, &whose[j].AthleteID, last[whose[j].AthleteID], whose[j].Of
				taken[whose[j].ID] = true
			}
		}
	}
	for _, p := range people {
		match(&p.ID)
	}
	match(nil)
	return out, nil
}

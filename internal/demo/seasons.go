package demo

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/internal/planning"
	"neokinema/internal/store"
)

// seasoned is a season as the club's coach entered it; weeks count from this one.
type seasoned struct {
	events   []string
	from, to int
	free     string // days and places: "Mon circle weights, Wed circle"
	minutes  int
	meets    []meeting
	rules    []season.Changed
	lost     []int // days from today
	back     *season.Return
	trained  int // weeks of which what was done was typed
}

type meeting struct {
	week, weekday int
	name          string
	weight        season.Weight
	indoor        bool
}

// One calendar for the club: an indoor evening, a spring meeting, the regional final. All invented.
var (
	indoorEvening = meeting{6, 5, "Lindmoor indoor evening", season.B, true}
	springOpening = meeting{19, 5, "Heath opening", season.C, false}
	threeClubs    = meeting{22, 6, "Three clubs match", season.B, false}
	regional      = meeting{26, 5, "Regional final", season.A, false}
)

var seasons = map[string]seasoned{
	"Brisa Haldane": {events: []string{"hammer", "weight"}, from: -9, to: 29, free: "Mon circle weights, Tue weights, Wed circle, Fri circle weights, Sat circle", minutes: 110, trained: 9,
		meets: []meeting{indoorEvening, springOpening, threeClubs, regional}, rules: []season.Changed{{ID: "taper-weeks", Value: 3, Reason: "She was flat after two weeks last summer."}}, lost: []int{3}},
	"Tavi Renholm": {events: []string{"sprint-start", "running"}, from: -8, to: 29, free: "Mon track, Tue track weights, Thu track, Fri weights", minutes: 90, trained: 8,
		meets: []meeting{indoorEvening, threeClubs, regional}},
	"Odalys Ferrin": {events: []string{"long-jump", "sprint-start"}, from: -8, to: 29, free: "Mon pit track, Wed track weights, Thu pit, Sat pit track", minutes: 90, trained: 8,
		meets: []meeting{indoorEvening, springOpening, regional}},
	"Sunniva Orr":    {events: []string{"discus", "shot"}, from: -7, to: 29, free: "Mon circle, Wed circle weights, Fri weights, Sat circle", minutes: 100, trained: 6, meets: []meeting{indoorEvening, threeClubs, regional}},
	"Ruben Eskelund": {events: []string{"shot"}, from: -7, to: 29, free: "Tue circle weights, Thu circle, Fri weights, Sun circle", minutes: 100, trained: 5, meets: []meeting{indoorEvening, regional}},
	"Pim Dallow":     {events: []string{"shot"}, from: -6, to: 25, free: "Tue circle, Fri circle track", minutes: 60, trained: 6, meets: []meeting{threeClubs}},
	"Wren Castell":   {events: []string{"long-jump"}, from: -6, to: 25, free: "Tue pit track, Fri pit", minutes: 60, trained: 4, meets: []meeting{threeClubs}},
	"Anneke Dorn":    {events: []string{"high-jump"}, from: -8, to: 29, free: "Mon mat, Wed weights, Thu mat, Sat mat", minutes: 90, trained: 7, meets: []meeting{indoorEvening, springOpening, regional}},
	"Yusra Lindahl": {events: []string{"running"}, from: -6, to: 29, free: "Mon, Tue, Thu, Sat, Sun", minutes: 60, trained: 6, meets: []meeting{{24, 6, "Moor ten kilometres", season.A, false}},
		back: &season.Return{What: "right shin", SetBy: "Maren Sollund, physiotherapist", Steps: []season.Step{
			{Name: "Walking and cycling", Criterion: "an hour of brisk walking on three days without pain, then or the next morning", Volume: 0},
			{Name: "Walk and run", Criterion: "six times a minute of easy running on two days without pain", Volume: 30},
			{Name: "Easy running", Criterion: "half an hour on three days without pain", Volume: 60},
			{Name: "Strides", Criterion: "six strides and the next morning without pain", Volume: 80, Full: true}}}},
}

var weekdays = []string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}

// outline is what was entered, from a day on which the demo begins.
func (s seasoned) outline(today season.Day) season.Outline {
	this := today.Monday()
	o := season.Outline{From: this + season.Day(7*s.from), To: this + season.Day(7*s.to), Events: s.events, Free: []season.Free{}, Competitions: []season.Competition{}, Moves: []season.Move{}, Lost: []season.Day{}, Rules: s.rules, Return: s.back}
	for _, text := range strings.Split(s.free, ", ") {
		words := strings.Fields(text)
		f := season.Free{Weekday: slices.Index(weekdays, words[0]), Places: []sport.Place{}, Minutes: s.minutes}
		for _, p := range words[1:] {
			f.Places = append(f.Places, sport.Place(p))
		}
		o.Free = append(o.Free, f)
	}
	for i, m := range s.meets {
		o.Competitions = append(o.Competitions, season.Competition{ID: fmt.Sprint("m", i), Name: m.name, Event: s.events[0], Day: this + season.Day(7*m.week+m.weekday), Weight: m.weight, Indoor: m.indoor, Place: "Lindmoor"})
	}
	for _, d := range s.lost {
		o.Lost = append(o.Lost, today+season.Day(d))
	}
	return o
}

// felt is what athletes said, one after the other.
var felt = []string{"", "heavy at first, then light", "", "good rhythm", "tired from school", "", "the cue came by itself", "cold hands"}

// season enters an athlete's season, and what was done of it so far.
func (l *Loader) season(ctx context.Context, a store.Athlete) error {
	s, ok := seasons[a.Name]
	if !ok || l.Logbook == nil {
		return nil
	}
	today, err := season.ParseDay(time.Now().Format(time.DateOnly))
	if err != nil {
		return err
	}
	plans := planning.New(l.Store, l.Logbook)
	v, err := plans.Save(ctx, l.coach.TeamID, a.ID, 0, s.outline(today), planning.Look{Today: today})
	if err != nil {
		return err
	}
	n := 0
	for _, w := range v.Plan.Weeks {
		for _, x := range w.Sessions {
			n++
			// One session of seven was missed.
			if x.Day >= today || x.Day < today-season.Day(7*s.trained) || x.Kind == season.Meet || n%7 == 3 {
				continue
			}
			t := store.NewTraining{DoneOn: x.Day.String(), Event: x.Event, Kind: x.Kind, Tries: x.Tries - n%3, Full: max(0, x.Full-n%2), Effort: min(10, max(1, float64(int(x.Effort))+float64(n%3-1))), Minutes: x.Minutes - 5*(n%3), Felt: felt[n%len(felt)]}
			if x.Kind == season.Lift {
				t.Tries, t.Full = 0, 0
			}
			t.Full = min(t.Full, t.Tries)
			for _, c := range v.Changes {
				if id, err := uuid.Parse(c.ID); err == nil && c.Event == x.Event {
					t.AttemptID = &id
				}
			}
			if _, err := l.Store.PutTraining(ctx, l.coach.TeamID, a.ID, uuid.New(), t); err != nil {
				return fmt.Errorf("what was done on %s: %w", x.Day, err)
			}
		}
	}
	return nil
}

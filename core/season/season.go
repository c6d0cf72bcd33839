// Package season plans months and weeks of training back from competitions: blocks, volume, which
// days hold what, what is changed when and when changing stops; and holds what was done against it.
// Days are numbers, so that nothing here reads a clock. Every rule is a value that a coach may
// change with a reason.
package season

import (
	"errors"
	"fmt"
	"slices"

	"neokinema/core/model"
	"neokinema/core/sport"
)

// Weight of a competition: A is what the season is for.
type Weight string

// Weights.
const (
	A Weight = "A"
	B Weight = "B"
	C Weight = "C"
)

// Competition is one that is planned for.
type Competition struct {
	ID     string `json:"id" minLength:"1" maxLength:"40"`
	Name   string `json:"name" minLength:"1" maxLength:"120"`
	Event  string `json:"event" maxLength:"40"`
	Day    Day    `json:"day" format:"date"`
	Weight Weight `json:"weight" enum:"A,B,C"`
	Indoor bool   `json:"indoor,omitempty" required:"false"`
	Place  string `json:"place,omitempty" required:"false" maxLength:"120"`
}

// Free is what one day of the week has room for.
type Free struct {
	Weekday int           `json:"weekday" minimum:"0" maximum:"6" doc:"0 is Monday"`
	Places  []sport.Place `json:"places" enum:"track,pit,mat,circle,runway,weights" maxItems:"6" doc:"that are free; all when empty"`
	Minutes int           `json:"minutes" minimum:"15" maximum:"300"`
}

// has tells whether a place is free on the day.
func (f Free) has(p sport.Place) bool { return len(f.Places) == 0 || slices.Contains(f.Places, p) }

// Move is a day's session that a coach has put on another.
type Move struct {
	From Day `json:"from" format:"date"`
	To   Day `json:"to" format:"date" doc:"of the same week"`
}

// Outline is what a coach enters of a season; all else follows from it.
type Outline struct {
	From         Day           `json:"from" format:"date" doc:"its first week is that of this day"`
	To           Day           `json:"to" format:"date" doc:"its last week is that of this day"`
	Events       []string      `json:"events" maxItems:"5" doc:"the main one first"`
	Free         []Free        `json:"free" maxItems:"7" doc:"days of the week that are free"`
	Competitions []Competition `json:"competitions" maxItems:"80"`
	Moves        []Move        `json:"moves" maxItems:"400"`
	Lost         []Day         `json:"lost" maxItems:"400" doc:"days that fall out"`
	Rules        []Changed     `json:"rules" maxItems:"120" doc:"that are others for this athlete"`
	Return       *Return       `json:"return,omitempty" required:"false" doc:"the way back after an injury"`
}

// Most weeks that a season has.
const Most = 60

// ErrSpan is of a season that is none.
var ErrSpan = errors.New("a season has 1 to 60 weeks, and its competitions lie within it")

// Check refuses an outline that means nothing; the error says what to do.
func (o Outline) Check() error {
	first, last := o.From.Monday(), o.To.Monday()
	if last < first || last-first > (Most-1)*7 {
		return ErrSpan
	}
	within := func(d Day) bool { return d >= first && d < last+7 }
	seen := map[string]bool{}
	for _, c := range o.Competitions {
		if !within(c.Day) {
			return fmt.Errorf("%w: “%s” on %s does not", ErrSpan, c.Name, c.Day)
		}
		if c.Weight != A && c.Weight != B && c.Weight != C {
			return fmt.Errorf("“%s”: its weight is A, B or C", c.Name)
		}
		if seen[c.ID] || c.ID == "" {
			return fmt.Errorf("“%s”: two competitions have one name in the plan", c.Name)
		}
		if c.Event != "" && !slices.Contains(sport.IDs(), c.Event) {
			return fmt.Errorf("“%s”: there is no event %q", c.Name, c.Event)
		}
		seen[c.ID] = true
	}
	for i, e := range o.Events {
		if !slices.Contains(sport.IDs(), e) || slices.Contains(o.Events[:i], e) {
			return fmt.Errorf("events: %q is none, or is named twice", e)
		}
	}
	for i, f := range o.Free {
		if f.Weekday < 0 || f.Weekday > 6 || slices.ContainsFunc(o.Free[:i], func(g Free) bool { return g.Weekday == f.Weekday }) {
			return errors.New("each day of the week is free once at most")
		}
		if f.Minutes < 15 || f.Minutes > 300 {
			return errors.New("a day has 15 to 300 minutes")
		}
		for _, p := range f.Places {
			if !slices.Contains(sport.Places, p) {
				return fmt.Errorf("there is no place %q", p)
			}
		}
	}
	for _, m := range o.Moves {
		if m.From.Monday() != m.To.Monday() {
			return errors.New("a session moves within its week")
		}
	}
	if o.Return != nil {
		if err := o.Return.Check(); err != nil {
			return err
		}
	}
	_, err := With(o.Rules)
	return err
}

// Change is what is to become another in the athlete's technique: an open cue.
type Change struct {
	ID     string       `json:"id"`
	Event  string       `json:"event"`
	Words  string       `json:"words"`
	Kind   sport.Change `json:"kind" enum:"setting,running,start,jump,throw,strength"`
	Needs  int          `json:"needs" doc:"repetitions that it takes; 0: as is usual for its kind"`
	Done   int          `json:"done" doc:"repetitions so far"`
	Drill  model.Drill  `json:"drill"`
	Paused bool         `json:"paused" doc:"something hurts"`
}

// Athlete is who trains, as the log knows it.
type Athlete struct {
	Age     int      `json:"age" doc:"0 when nobody knows"`
	Changes []Change `json:"changes" doc:"what matters most first"`
	Pain    bool     `json:"pain"`
}

// Block is a part of a season with one aim.
type Block string

// Blocks in the order in which they lead to a competition.
const (
	Rebuild  Block = "rebuild" // technique is taken apart, much volume, little of it full
	Build    Block = "build"   // the changed movement is made strong
	Sharpen  Block = "sharpen" // full efforts, nothing new
	Taper    Block = "taper"   // less volume, effort kept
	Compete  Block = "compete" // the week of the competition
	Between  Block = "between" // between two competitions that lie close
	Off      Block = "off"     // rest after the season
	noBlocks Block = ""
)

// Week is one of a season.
type Week struct {
	Monday   Day       `json:"monday" format:"date"`
	Block    Block     `json:"block" enum:"rebuild,build,sharpen,taper,compete,between,off"`
	Volume   float64   `json:"volume" doc:"share of a full week"`
	Full     float64   `json:"full" doc:"share of its tries that are full efforts"`
	Light    bool      `json:"light" doc:"every fourth: less, to take up what was done"`
	Change   string    `json:"change,omitempty" required:"false" doc:"the one that is worked on"`
	Keep     bool      `json:"keep" doc:"nothing new any more: keep and rehearse"`
	Sessions []Session `json:"sessions"`
	Says     []string  `json:"says" doc:"what stands in each other's way, and what became of days that fall out"`
}

// Kind of a session.
type Kind string

// Kinds.
const (
	Technique Kind = "technique"
	Full      Kind = "full" // most of it with full effort
	Lift      Kind = "lift"
	Test      Kind = "test"
	Meet      Kind = "compete"
	Other     Kind = "other" // done, never planned
)

// Session is what is done on a day.
type Session struct {
	Day     Day     `json:"day" format:"date"`
	Event   string  `json:"event,omitempty" required:"false"`
	Kind    Kind    `json:"kind" enum:"technique,full,lift,test,compete"`
	Tries   int     `json:"tries" doc:"throws, take-offs, starts or runs"`
	Full    int     `json:"full" doc:"of these with full effort"`
	Heavy   int     `json:"heavy,omitempty" required:"false" doc:"of these with an implement that is heavier than the own"`
	Easy    int     `json:"easy,omitempty" required:"false" doc:"of these with one that is lighter"`
	Parts   []Part  `json:"parts" doc:"in which order"`
	Change  string  `json:"change,omitempty" required:"false"`
	Drill   string  `json:"drill,omitempty" required:"false" doc:"of the change"`
	Dose    string  `json:"dose,omitempty" required:"false"`
	Rung    string  `json:"rung,omitempty" required:"false" doc:"of the drill's ladder where as many repetitions usually stand"`
	Effort  float64 `json:"effort" doc:"expected, 0 to 10"`
	Minutes int     `json:"minutes"`
	Name    string  `json:"name,omitempty" required:"false" doc:"of a competition"`
	Was     *Day    `json:"was,omitempty" required:"false" format:"date" doc:"day that it was planned for, where it was moved"`
}

// Part of a session.
type Part struct {
	Name  string `json:"name"`
	Tries int    `json:"tries,omitempty" required:"false"`
}

// Season is the plan of one athlete.
type Season struct {
	Weeks []Week   `json:"weeks"`
	Stops *Day     `json:"stops,omitempty" required:"false" format:"date" doc:"from when on nothing is changed any more"`
	Says  []string `json:"says" doc:"what does not fit, most important first"`
}

// Week finds the week of a day.
func (s Season) Week(d Day) (Week, bool) {
	for _, w := range s.Weeks {
		if w.Monday == d.Monday() {
			return w, true
		}
	}
	return Week{}, false
}

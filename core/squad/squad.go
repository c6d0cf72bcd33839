// Package squad looks at many athletes at once: who wants a look, what is behind most of it, and who
// may be held against whom.
package squad

import (
	"cmp"
	"fmt"
	"slices"

	"neokinema/core/season"
)

// Sign is why an athlete wants a look.
type Sign string

// Signs, the most pressing first.
const (
	Paused Sign = "paused" // something hurts
	Answer Sign = "answer" // wrote back, and nobody has looked
	Failed Sign = "failed" // a cue was not taken twice
	Due    Sign = "due"    // it is time to look again
	Near   Sign = "near"   // a competition is near
	Silent Sign = "silent" // no clip for four weeks
)

var order = []Sign{Paused, Answer, Failed, Due, Near, Silent}

// Limits of the board. Common practice, no source.
const (
	twice = 2  // looks that say a cue was not taken, from which on other words or another way are asked for
	soon  = 14 // days before a competition of weight A or B
	quiet = 28 // days without a clip
)

// Cue is an open one, as the log knows it.
type Cue struct {
	Attempt string
	Words   string
	Due     bool // it is time to look again
	Missed  int  // looks on end, the last ones, that say it was not taken
}

// Athlete is somebody as the log knows him.
type Athlete struct {
	ID       string
	Name     string
	Pain     string
	Cues     []Cue
	Answers  []string    // attempts on whose page the athlete wrote what nobody has looked at
	LastClip *season.Day // nil when there never was one
	Meets    []season.Competition
}

// Told is a sign with its reason.
type Told struct {
	Sign    Sign   `json:"sign" enum:"paused,answer,failed,due,near,silent"`
	Says    string `json:"says"`
	Attempt string `json:"attempt,omitempty" required:"false" doc:"to look at"`
}

// Line is an athlete of the board.
type Line struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Signs []Told `json:"signs" doc:"the most pressing first"`
}

// Board lists athletes, those first whose signs press most; of alike ones by name.
func Board(list []Athlete, today season.Day) []Line {
	out := make([]Line, len(list))
	for i, a := range list {
		out[i] = Line{ID: a.ID, Name: a.Name, Signs: a.signs(today)}
	}
	press := func(l Line) int {
		if len(l.Signs) == 0 {
			return len(order)
		}
		return slices.Index(order, l.Signs[0].Sign)
	}
	slices.SortStableFunc(out, func(a, b Line) int {
		return cmp.Or(cmp.Compare(press(a), press(b)), cmp.Compare(len(b.Signs), len(a.Signs)), cmp.Compare(a.Name, b.Name))
	})
	return out
}

func (a Athlete) signs(today season.Day) []Told {
	out := []Told{}
	add := func(s Sign, attempt, format string, args ...any) {
		out = append(out, Told{s, fmt.Sprintf(format, args...), attempt})
	}
	if a.Pain != "" {
		add(Paused, "", "hurts: %s", a.Pain)
	}
	for _, id := range a.Answers {
		add(Answer, id, "wrote back")
	}
	for _, c := range a.Cues {
		switch {
		case a.Pain != "":
		case c.Missed >= twice:
			add(Failed, c.Attempt, "“%s” was not taken %d times: say it otherwise, or go another way", c.Words, c.Missed)
		case c.Due:
			add(Due, c.Attempt, "look whether “%s” was taken", c.Words)
		}
	}
	for _, m := range a.Meets {
		if days := int(m.Day - today); days >= 0 && days <= soon && m.Weight != season.C {
			add(Near, "", "%s in %d days", m.Name, days)
		}
	}
	switch {
	case a.LastClip == nil:
		add(Silent, "", "no clip yet")
	case today-*a.LastClip > quiet:
		add(Silent, "", "no clip for %d weeks", int(today-*a.LastClip)/7)
	}
	slices.SortStableFunc(out, func(x, y Told) int {
		return cmp.Compare(slices.Index(order, x.Sign), slices.Index(order, y.Sign))
	})
	return out
}

// Found is the first cause that was found in an attempt.
type Found struct {
	Athlete string
	Attempt string
	Event   string
	Fault   string
	Name    string
	Day     season.Day
}

// Cause is a first cause with those who have it.
type Cause struct {
	Event    string   `json:"event"`
	Fault    string   `json:"fault"`
	Name     string   `json:"name"`
	Athletes []string `json:"athletes" doc:"ids"`
	Attempts []string `json:"attempts" doc:"the newest of each"`
	Group    bool     `json:"group" doc:"enough of them to train it together"`
}

// Limits of a group session. Common practice, no source.
const (
	recent  = 30 // days
	company = 2  // athletes who have the same first cause
)

// Causes lists the first causes of the last month, those first that most athletes have. Of each athlete
// and event only the newest attempt counts: what was mended since is no cause.
func Causes(list []Found, today season.Day) []Cause {
	type key struct{ athlete, event string }
	newest := map[key]Found{}
	for _, f := range list {
		k := key{f.Athlete, f.Event}
		if n, ok := newest[k]; today-f.Day <= recent && f.Day <= today && (!ok || f.Day >= n.Day) {
			newest[k] = f
		}
	}
	out := []Cause{}
	for _, f := range newest {
		if f.Fault == "" {
			continue
		}
		i := slices.IndexFunc(out, func(c Cause) bool { return c.Event == f.Event && c.Fault == f.Fault })
		if i < 0 {
			i = len(out)
			out = append(out, Cause{Event: f.Event, Fault: f.Fault, Name: f.Name})
		}
		out[i].Athletes, out[i].Attempts = append(out[i].Athletes, f.Athlete), append(out[i].Attempts, f.Attempt)
	}
	for i := range out {
		c := &out[i]
		by := slices.Clone(c.Athletes)
		slices.Sort(by)
		sorted := make([]string, len(by))
		for k, a := range c.Athletes {
			at, _ := slices.BinarySearch(by, a)
			sorted[at] = c.Attempts[k]
		}
		c.Athletes, c.Attempts, c.Group = by, sorted, len(by) >= company
	}
	slices.SortFunc(out, func(a, b Cause) int {
		return cmp.Or(cmp.Compare(len(b.Athletes), len(a.Athletes)), cmp.Compare(a.Event, b.Event), cmp.Compare(a.Fault, b.Fault))
	})
	return out
}

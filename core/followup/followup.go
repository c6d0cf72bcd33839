// Package followup follows a cue from the day it is given: when to look again, how the
// drill is dosed until then, and which cues stand in each other's way.
package followup

import (
	"fmt"
	"strings"

	"neokinema/core/model"
	"neokinema/core/sport"
)

// ChangeOf tells what kind of change a fault asks for.
func ChangeOf(event string, f model.Fault, forWantOfStrength bool) sport.Change {
	switch {
	case f.Setting:
		return sport.Setting
	case forWantOfStrength:
		return sport.Strength
	}
	return sport.Of(event).Change
}

// Share of the full dose in each week: load is taken up gently, and every fourth
// week is lighter. Common practice, no source.
var shares = [4]float64{0.6, 0.8, 1, 0.7}

// Spread of a week's sessions over its days.
var spread = map[int][]int{1: {0}, 2: {0, 3}, 3: {0, 2, 4}, 4: {0, 1, 3, 5}}

// Limits of a plan. Common practice, no source.
const (
	MostSessions = 4
	MostWeeks    = 12
)

// Session is one day on which the drill is done.
type Session struct {
	Day  int    `json:"day" doc:"days after the first"`
	Week int    `json:"week" doc:"from 1"`
	Dose string `json:"dose"`
}

// Plan lays sessions of one drill over weeks: one change at a time, so a plan has one
// drill.
func Plan(d model.Drill, weeks, sessions int) ([]Session, error) {
	if weeks < 1 || weeks > MostWeeks || sessions < 1 || sessions > MostSessions {
		return nil, fmt.Errorf("a plan has 1 to %d weeks with 1 to %d sessions", MostWeeks, MostSessions)
	}
	var out []Session
	for w := range weeks {
		for _, off := range spread[sessions] {
			out = append(out, Session{7*w + off, w + 1, d.Dose.Session(shares[w%4])})
		}
	}
	return out, nil
}

// Cue is an open cue: what it should move and which way.
type Cue struct {
	Words  string
	Target string // checkpoint
	Fault  string
}

// Conflicts tells which open cues of an athlete at one event stand in each other's
// way: the same thing should become more by one and less by the other.
func Conflicts(m model.Model, cues []Cue) (out []string) {
	for i, a := range cues {
		for _, b := range cues[:i] {
			wa, wb := Way(m, a), Way(m, b)
			if wa*wb < 0 && same(m, a.Target, b.Target) {
				out = append(out, fmt.Sprintf("“%s” and “%s” pull %s in opposite directions. Keep one of them.", b.Words, a.Words, named(m, a.Target)))
			}
		}
	}
	if len(cues) > 1 && len(out) == 0 {
		out = append(out, fmt.Sprintf("%d changes are open at once. One main change at a time is learned faster; set the others aside.", len(cues)))
	}
	return out
}

// Way is the direction in which a cue should move its target: +1 up, -1 down, 0 when
// the fault does not tell.
func Way(m model.Model, c Cue) int {
	f, ok := m.Fault(c.Fault)
	if !ok {
		return 0
	}
	return way(f.When, c.Target)
}

func way(r model.Rule, target string) int {
	if r.Reading == target {
		switch {
		case r.Above != nil || r.Outside == "above":
			return -1
		case r.Below != nil || r.Outside == "below":
			return 1
		}
	}
	for _, list := range [][]model.Rule{r.Any, r.All} {
		for _, q := range list {
			if w := way(q, target); w != 0 {
				return w
			}
		}
	}
	return 0
}

// same tells whether two checkpoints measure the same thing, maybe at two moments.
func same(m model.Model, a, b string) bool {
	if a == b {
		return true
	}
	p, ok1 := m.Checkpoint(a)
	q, ok2 := m.Checkpoint(b)
	return ok1 && ok2 && len(p.Measure.Points) > 0 && p.Measure.Kind == q.Measure.Kind && strings.Join(p.Measure.Points, " ") == strings.Join(q.Measure.Points, " ")
}

func named(m model.Model, id string) string {
	c, ok := m.Checkpoint(id)
	if !ok {
		return "the same thing"
	}
	return strings.ToLower(c.Name)
}

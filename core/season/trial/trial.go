// Package trial tries the plan of a season: written cases that each name the rules they hold, and
// seasons by chance with an audit that shares no code with the planner.
package trial

import (
	"fmt"
	"math/rand/v2"
	"slices"

	"neokinema/core/season"
	"neokinema/core/sport"
)

// Random is a season by chance, with who trains for it and the day it is looked at.
func Random(r *rand.Rand) (o season.Outline, who season.Athlete, now season.Day) {
	all := sport.IDs()
	who.Age = 9 + r.IntN(25)
	o.From = season.Day(20_000 + r.IntN(2000))
	weeks := 6 + r.IntN(50)
	o.To = o.From.Monday() + season.Day(7*(weeks-1)) + season.Day(r.IntN(7))
	now = o.From.Monday() + season.Day(r.IntN(7*weeks))
	for range 1 + r.IntN(3) {
		if e := all[r.IntN(len(all))]; !slices.Contains(o.Events, e) {
			o.Events = append(o.Events, e)
		}
	}
	for d := range 7 {
		if r.IntN(3) == 0 {
			continue
		}
		f := season.Free{Weekday: d, Minutes: 45 + r.IntN(120)}
		if r.IntN(2) == 0 {
			for _, p := range sport.Places {
				if r.IntN(3) > 0 {
					f.Places = append(f.Places, p)
				}
			}
		}
		o.Free = append(o.Free, f)
	}
	for i := range r.IntN(5) {
		e := o.Events[r.IntN(len(o.Events))]
		who.Changes = append(who.Changes, season.Change{ID: string(rune('a' + i)), Event: e, Words: "x", Kind: sport.Of(e).Change, Done: r.IntN(500) * r.IntN(2), Paused: r.IntN(5) == 0})
	}
	who.Pain = r.IntN(8) == 0
	for i := range r.IntN(7) {
		o.Competitions = append(o.Competitions, season.Competition{ID: fmt.Sprint(i), Name: "m", Event: o.Events[r.IntN(len(o.Events))], Day: o.From.Monday() + season.Day(r.IntN(weeks*7)), Weight: []season.Weight{season.A, season.B, season.C}[r.IntN(3)]})
	}
	for range r.IntN(6) {
		o.Lost = append(o.Lost, o.From.Monday()+season.Day(r.IntN(weeks*7)))
	}
	if r.IntN(8) == 0 {
		o.Return = &season.Return{What: "hamstring", SetBy: "Dr Vale", Steps: []season.Step{{Name: "walk", Criterion: "no pain", Volume: r.IntN(60)}, {Name: "run", Criterion: "no pain", Volume: 60 + r.IntN(40), Full: r.IntN(2) == 0}}}
	}
	return o, who, now
}

// Audit names what of a season breaks a rule. It goes by days and sessions alone.
func Audit(o season.Outline, who season.Athlete, now season.Day, rules season.Rules, s season.Season) (out []string) {
	bad := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	meets := map[season.Day]bool{}
	for _, c := range o.Competitions {
		meets[c.Day] = true
	}
	top := season.B
	for _, c := range o.Competitions {
		if c.Weight == season.A {
			top = season.A
		}
	}
	before := 0.0
	for _, w := range s.Weeks {
		days, meetDays := map[season.Day]bool{}, map[season.Day]bool{}
		tries := map[sport.Change]int{}
		meetTries := map[sport.Change]int{}
		lifts := 0
		for _, x := range w.Sessions {
			if x.Day < w.Monday || x.Day >= w.Monday+7 {
				bad("%s: a session outside of its week", x.Day)
			}
			if x.Full > x.Tries || x.Heavy+x.Easy > x.Tries || x.Tries < 0 {
				bad("%s: %d full, %d heavy and %d light of %d", x.Day, x.Full, x.Heavy, x.Easy, x.Tries)
			}
			days[x.Day] = true
			kind := sport.Of(x.Event).Change
			if x.Kind == season.Meet {
				meetDays[x.Day] = true
				meetTries[kind] += x.Tries
				continue
			}
			if meets[x.Day] || meets[x.Day+1] {
				bad("%s: training on a competition or the day before", x.Day)
			}
			if slices.Contains(o.Lost, x.Day) {
				bad("%s: training on a day that falls out", x.Day)
			}
			at := slices.IndexFunc(o.Free, func(f season.Free) bool { return f.Weekday == (int(x.Day)+3)%7 })
			if at < 0 {
				bad("%s: training on a day that is not free", x.Day)
				continue
			}
			f := o.Free[at]
			place := sport.Of(x.Event).Place
			if x.Kind == season.Lift {
				place = sport.Weights
				lifts++
			} else {
				tries[kind] += x.Tries
			}
			if len(f.Places) > 0 && !slices.Contains(f.Places, place) {
				bad("%s: %s is not free", x.Day, place)
			}
			if x.Minutes > f.Minutes {
				bad("%s: %d of %d minutes", x.Day, x.Minutes, f.Minutes)
			}
			if x.Change != "" {
				for _, c := range o.Competitions {
					gap := int(c.Day.Monday()-w.Monday) / 7
					if c.Weight == top && gap >= 0 && gap <= int(rules["no-change-weeks"]) {
						bad("%s: a change %d weeks before %s", x.Day, gap, c.Day)
					}
				}
				for _, c := range who.Changes {
					if c.ID == x.Change && (c.Paused || c.Event != x.Event) {
						bad("%s: a change that is paused, or of another event", x.Day)
					}
				}
				if who.Pain || o.Return != nil {
					bad("%s: a change while something hurts", x.Day)
				}
			}
			if x.Full > 0 && who.Pain && x.Day >= now && x.Day < now+7 {
				bad("%s: full efforts while something hurts", x.Day)
			}
			if x.Kind == season.Lift && who.Age < int(rules["lift-age"]) {
				bad("%s: lifting at %d", x.Day, who.Age)
			}
			if x.Heavy > 0 && who.Age < int(rules["heavy-age"]) {
				bad("%s: heavy implements at %d", x.Day, who.Age)
			}
			if x.Kind == season.Lift {
				for _, y := range w.Sessions {
					if y.Kind != season.Lift && y.Kind != season.Meet && y.Day == x.Day+1 && sport.Of(y.Event).Change == sport.Jump {
						bad("%s: take-offs on the day after lifting", y.Day)
					}
				}
			}
			if o.Return != nil && x.Day >= now && !o.Return.Steps[0].Full && x.Full > 0 {
				bad("%s: full efforts on a step without them", x.Day)
			}
		}
		rest := int(rules["rest-days"])
		if who.Age < 15 {
			rest = int(rules["rest-days-child"])
		}
		if len(days) > max(7-rest, len(meetDays)) {
			bad("%s: %d days of training", w.Monday, len(days))
		}
		for kind, name := range map[sport.Change]string{sport.Throw: "throw", sport.Jump: "jump"} {
			most := 0
			switch {
			case who.Age < 12:
				most = int(rules["cap-"+name+"-12"])
			case who.Age < 15:
				most = int(rules["cap-"+name+"-15"])
			case who.Age < 18:
				most = int(rules["cap-"+name+"-18"])
			}
			if most > 0 && tries[kind] > 0 && tries[kind]+meetTries[kind] > most {
				bad("%s: %d and %d %ss at %d", w.Monday, tries[kind], meetTries[kind], name, who.Age)
			}
		}
		switch w.Block {
		case season.Rebuild, season.Build, season.Sharpen, season.Between:
			if most := max(before*(1+rules["rise"]/100), rules["begin"]/100); w.Volume > most+1e-9 {
				bad("%s: volume %.2f after %.2f", w.Monday, w.Volume, before)
			}
			before = w.Volume
			if w.Light {
				before /= rules["light-week"] / 100
			}
		case season.Off:
			before = 0
		}
	}
	return out
}

// Holds tells whether a case fails once a rule has another value.
func Holds(c Case, id string, rules season.Rules) bool {
	for _, r := range season.Shipped() {
		if r.ID != id {
			continue
		}
		for _, v := range []float64{r.Lo, r.Hi} {
			if v == rules[id] {
				continue
			}
			other, err := rules.With([]season.Changed{{ID: id, Value: v, Reason: "to see whether it matters"}})
			if err == nil && c.Run(other) != nil {
				return true
			}
		}
	}
	return false
}

// Held counts the cases by which each rule is held.
func Held(rules season.Rules) map[string]int {
	out := map[string]int{}
	for _, c := range Cases() {
		for _, id := range c.Rules {
			if Holds(c, id, rules) {
				out[id]++
			}
		}
	}
	return out
}

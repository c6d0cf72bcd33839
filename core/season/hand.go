package season

import (
	"fmt"
	"slices"
	"sort"
)

// byHand puts what the coach has done to a week on the plan: sessions that were moved, days that fall
// out. What then stands in each other's way is told.
func (p *planner) byHand(w *Week) {
	for _, m := range p.Moves {
		if m.From.Monday() != w.Monday {
			continue
		}
		for i, s := range w.Sessions {
			if s.Day == m.From && s.Kind != Meet && s.Was == nil {
				w.Sessions[i].Day, w.Sessions[i].Was = m.To, &m.From
			}
		}
	}
	sort.SliceStable(w.Sessions, func(i, j int) bool { return w.Sessions[i].Day < w.Sessions[j].Day })
	for _, d := range p.Lost {
		if d.Monday() != w.Monday {
			continue
		}
		var says []string
		*w, says = p.dropped(*w, d)
		for _, text := range says {
			w.Says = append(w.Says, fmt.Sprintf("%s falls out. %s", weekdays[d.Weekday()], text))
		}
	}
	w.Says = append(w.Says, Conflicts(p.who, *w, p.rules)...)
}

var weekdays = [7]string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

// dropped is a week in which a day falls out: full efforts and the change that is worked on move to a
// free day or join another session; lifting is left out first, light technique second.
func (p *planner) dropped(w Week, day Day) (Week, []string) {
	var lost, kept []Session
	for _, s := range w.Sessions {
		if s.Day == day {
			lost = append(lost, s)
		} else {
			kept = append(kept, s)
		}
	}
	out := w
	out.Sessions = kept
	var says []string
	for _, s := range lost {
		switch s.Kind {
		case Meet:
			says = append(says, "A competition is not moved.")
			out.Sessions = append(out.Sessions, s)
			continue
		case Lift:
			says = append(says, "Lifting is left out: it is missed least.")
			continue
		}
		if f, ok := p.later(out, s, day); ok {
			to := w.Monday + Day(f.Weekday)
			s.Day, s.Was, s.Minutes = to, &day, min(s.Minutes, f.Minutes)
			out.Sessions = append(out.Sessions, s)
			says = append(says, fmt.Sprintf("What was on it moves to %s.", weekdays[to.Weekday()]))
			continue
		}
		i := slices.IndexFunc(out.Sessions, func(o Session) bool {
			return o.Day > day && o.Event == s.Event && o.Kind != Lift && o.Kind != Meet
		})
		if i < 0 || s.Change == "" && s.Full == 0 {
			says = append(says, "It is left out: nothing of it must be made up.")
			continue
		}
		// Half of what matters joins the next session; more would be a sudden rise of it.
		out.Sessions = slices.Clone(out.Sessions)
		o := &out.Sessions[i]
		o.Tries += s.Tries / 2
		o.Full += s.Full / 2
		if o.Change == "" {
			o.Change, o.Drill, o.Dose, o.Rung = s.Change, s.Drill, s.Dose, s.Rung
		}
		o.Parts = parts(*o)
		says = append(says, fmt.Sprintf("Half of it joins %s, the rest is left out: no day is doubled.", weekdays[o.Day.Weekday()]))
	}
	sort.SliceStable(out.Sessions, func(i, j int) bool { return out.Sessions[i].Day < out.Sessions[j].Day })
	return out, says
}

// later is a free day after one that falls out onto which a session may move without standing in
// the way of anything.
func (p *planner) later(w Week, s Session, day Day) (Free, bool) {
	for _, f := range p.Free {
		to := w.Monday + Day(f.Weekday)
		meets := slices.ContainsFunc(p.Competitions, func(c Competition) bool { return c.Day == to || c.Day == to+1 })
		if to <= day || meets || slices.Contains(p.Lost, to) || !f.has(placeOf(s)) || slices.ContainsFunc(w.Sessions, func(o Session) bool { return o.Day == to }) {
			continue
		}
		try := w
		moved := s
		moved.Day = to
		try.Sessions = append(slices.Clone(w.Sessions), moved)
		if len(Conflicts(p.who, try, p.rules)) <= len(Conflicts(p.who, w, p.rules)) {
			return f, true
		}
	}
	return Free{}, false
}

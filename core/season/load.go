package season

import (
	"fmt"
	"slices"

	"neokinema/core/sport"
)

func placeOf(s Session) sport.Place {
	if s.Kind == Lift {
		return sport.Weights
	}
	return sport.Of(s.Event).Place
}

// Done is a session as it was: ten seconds to type.
type Done struct {
	Day     Day     `json:"day" format:"date"`
	Event   string  `json:"event,omitempty" required:"false" maxLength:"40"`
	Kind    Kind    `json:"kind" enum:"technique,full,lift,test,compete,other"`
	Tries   int     `json:"tries" minimum:"0" maximum:"1000"`
	Full    int     `json:"full" minimum:"0" maximum:"1000" doc:"of these with full effort"`
	Effort  float64 `json:"effort" minimum:"0" maximum:"10" doc:"how hard it felt, 0 to 10"`
	Minutes int     `json:"minutes" minimum:"0" maximum:"600"`
	Change  string  `json:"change,omitempty" required:"false" maxLength:"40" doc:"the change that was worked on"`
}

// Load of a session: how hard it felt times how long it took (Foster et al. 2001, J. Strength Cond.
// Res. 15:109). It says nothing of a single tendon or joint.
func (d Done) Load() float64 { return d.Effort * float64(d.Minutes) }

// WeekLoad is what one week held.
type WeekLoad struct {
	Monday   Day     `json:"monday" format:"date"`
	Load     float64 `json:"load" doc:"effort times minutes"`
	Throws   int     `json:"throws"`
	TakeOffs int     `json:"take_offs"`
	Sudden   bool    `json:"sudden" doc:"far above the mean of the four weeks before"`
}

// weeksBefore are those whose mean a week is held against.
const weeksBefore = 4

// Loads adds sessions up by week, from the first to the last, weeks without any among them. A week
// is called sudden when each of the four before it has something, since the mean of a rest says
// nothing of what a body is used to.
func Loads(list []Done, rules Rules) (out []WeekLoad) {
	if len(list) == 0 {
		return nil
	}
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(a, b Done) int { return int(a.Day - b.Day) })
	first := list[0].Day.Monday()
	for d := first; d <= list[len(list)-1].Day.Monday(); d += 7 {
		out = append(out, WeekLoad{Monday: d})
	}
	for _, d := range list {
		w := &out[(d.Day.Monday()-first)/7]
		w.Load += d.Load()
		if d.Event == "" {
			continue
		}
		switch sport.Of(d.Event).Change {
		case sport.Throw:
			w.Throws += d.Tries
		case sport.Jump:
			w.TakeOffs += d.Tries
		}
	}
	for i := weeksBefore; i < len(out); i++ {
		mean, whole := 0.0, true
		for _, w := range out[i-weeksBefore : i] {
			mean += w.Load / weeksBefore
			whole = whole && w.Load > 0
		}
		out[i].Sudden = whole && out[i].Load > mean*(1+rules["sudden"]/100)
	}
	return out
}

// Towards is how many repetitions of a change were done.
func Towards(change string, list []Done) (n int) {
	for _, d := range list {
		if d.Change == change {
			n += d.Tries
		}
	}
	return n
}

// Conflicts says what in a week stands in each other's way.
func Conflicts(who Athlete, w Week, rules Rules) (out []string) {
	var changes []string
	tries := map[sport.Change]int{}
	days := map[Day]bool{}
	for _, s := range w.Sessions {
		days[s.Day] = true
		if s.Change != "" && !slices.Contains(changes, s.Change) {
			changes = append(changes, s.Change)
		}
		if s.Kind != Lift && s.Event != "" {
			tries[sport.Of(s.Event).Change] += s.Tries
		}
	}
	heavy := slices.ContainsFunc(w.Sessions, func(s Session) bool {
		return s.Kind != Lift && s.Event != "" && sport.Of(s.Event).Change == sport.Jump && s.Tries > 0 && slices.ContainsFunc(w.Sessions, func(o Session) bool {
			return o.Kind == Lift && o.Day == s.Day-1
		})
	})
	if heavy {
		out = append(out, "Heavy legs before take-offs: lift after them, or leave a day between.")
	}
	if len(changes) > 1 {
		out = append(out, fmt.Sprintf("%d changes in one week: one is learned faster.", len(changes)))
	}
	if w.Keep && len(changes) > 0 {
		out = append(out, "Changing has stopped for the competition: keep and rehearse.")
	}
	for _, c := range who.Changes {
		if c.Paused && slices.Contains(changes, c.ID) {
			out = append(out, fmt.Sprintf("“%s” is paused by pain.", c.Words))
		}
	}
	for _, e := range []struct {
		kind  sport.Change
		event string
		name  string
	}{{sport.Throw, "shot", "throws"}, {sport.Jump, "long-jump", "take-offs"}} {
		if most := rules.Cap(who.Age, e.event); most > 0 && tries[e.kind] > most {
			out = append(out, fmt.Sprintf("%d %s at the age of %d: %d a week are the most.", tries[e.kind], e.name, who.Age, most))
		}
	}
	if rest := rules.rest(who.Age); 7-len(days) < rest {
		out = append(out, fmt.Sprintf("%d days off: %d are the least.", 7-len(days), rest))
	}
	return out
}

// Kept is what of a week's plan was done.
type Kept struct {
	Monday       Day     `json:"monday" format:"date"`
	Planned      int     `json:"planned" doc:"tries"`
	Done         int     `json:"done"`
	PlannedFull  int     `json:"planned_full"`
	DoneFull     int     `json:"done_full"`
	PlannedLoad  float64 `json:"planned_load" doc:"effort times minutes"`
	DoneLoad     float64 `json:"done_load"`
	PlannedTimes int     `json:"planned_times" doc:"sessions"`
	DoneTimes    int     `json:"done_times"`
}

// Against holds what was done in a week against its plan.
func (w Week) Against(list []Done) Kept {
	out := Kept{Monday: w.Monday}
	for _, s := range w.Sessions {
		out.Planned += s.Tries
		out.PlannedFull += s.Full
		out.PlannedLoad += s.Effort * float64(s.Minutes)
		out.PlannedTimes++
	}
	for _, d := range list {
		if d.Day.Monday() == w.Monday {
			out.Done += d.Tries
			out.DoneFull += d.Full
			out.DoneLoad += d.Load()
			out.DoneTimes++
		}
	}
	return out
}

package season

import (
	"fmt"
	"slices"
	"sort"

	"neokinema/core/sport"
)

// Plan plans a season as it stands on a day.
func Plan(o Outline, who Athlete, now Day, rules Rules) (Season, error) {
	if err := o.Check(); err != nil {
		return Season{}, err
	}
	rules, err := rules.With(o.Rules)
	if err != nil {
		return Season{}, err
	}
	p := planner{Outline: o, who: who, now: now, rules: rules, s: Season{Says: []string{}}}
	for d := o.From.Monday(); d <= o.To.Monday(); d += 7 {
		p.s.Weeks = append(p.s.Weeks, Week{Monday: d, Sessions: []Session{}, Says: []string{}})
	}
	p.blocks()
	p.load()
	p.changes()
	for i := range p.s.Weeks {
		p.sessions(&p.s.Weeks[i])
		p.byHand(&p.s.Weeks[i])
	}
	p.say()
	return p.s, nil
}

// planner lays one season.
type planner struct {
	Outline
	who   Athlete
	now   Day
	rules Rules
	s     Season
}

func (p *planner) of(id string) float64 { return p.rules[id] }

func (p *planner) index(d Day) int { return int(d.Monday()-p.s.Weeks[0].Monday) / 7 }

// targets are the competitions of the greatest weight there is, by day.
func (p *planner) targets() (out []Competition) {
	for _, w := range []Weight{A, B} {
		for _, c := range p.Competitions {
			if c.Weight == w {
				out = append(out, c)
			}
		}
		if len(out) > 0 {
			break
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Day < out[j].Day })
	return out
}

// blocks counts back from each competition of the greatest weight, the last one first: its week,
// taper, sharpening, building, and rebuilding for what is left.
func (p *planner) blocks() {
	main := p.targets()
	weeks := p.s.Weeks
	put := func(i int, b Block) {
		if weeks[i].Block == noBlocks {
			weeks[i].Block = b
		}
	}
	for n, c := range slices.Backward(main) {
		at := p.index(c.Day)
		back := at - 1
		floor := 0
		if n > 0 {
			floor = p.index(main[n-1].Day) + 1
		}
		put(at, Compete)
		for _, b := range []Block{Taper, Sharpen, Build} {
			for range int(p.of(string(b) + "-weeks")) {
				if back < floor {
					break
				}
				put(back, b)
				back--
			}
		}
		rest := Rebuild
		if back-floor+1 < int(p.of("rebuild-least")) {
			rest = Build
			if n > 0 {
				rest = Between
			}
		}
		for ; back >= floor; back-- {
			put(back, rest)
		}
	}
	// Lesser competitions are a week of their own, without a taper.
	for _, c := range p.Competitions {
		if w := &weeks[p.index(c.Day)]; c.Weight == B && w.Block != Taper {
			w.Block = Compete
		}
	}
	// After the last main one: rest; without any, the whole of it is rebuilding.
	after := Rebuild
	if len(main) > 0 {
		after = Off
	}
	for i := range weeks {
		put(i, after)
	}
}

// load gives each week its volume and its share of full efforts.
func (p *planner) load() {
	weeks := p.s.Weeks
	every := int(p.of("light-every"))
	since := 0   // weeks of rebuilding and building on end
	before := 0. // volume of the last week that was no light one
	for i := range weeks {
		w := &weeks[i]
		w.Volume, w.Full = p.of("volume-"+string(w.Block))/100, p.of("full-"+string(w.Block))/100
		switch w.Block {
		case Taper:
			// From what was done before, down in even steps to what the last week of it keeps.
			n := 0
			for j := i; j < len(weeks) && weeks[j].Block == Taper; j++ {
				n++
			}
			long := n
			for j := i - 1; j >= 0 && weeks[j].Block == Taper; j-- {
				long++
			}
			from := before
			if from == 0 {
				from = p.of("volume-sharpen") / 100
			}
			w.Volume = from * (1 - p.of("taper-less")/100*float64(long-n+1)/float64(long))
		case Rebuild, Build, Sharpen, Between:
			// Load is taken up gently, whatever was rest before.
			w.Volume = min(w.Volume, max(before*(1+p.of("rise")/100), p.of("begin")/100))
			before = w.Volume
		case Off:
			before = 0
		}
		if w.Block == Rebuild || w.Block == Build {
			if since++; since%every == 0 {
				w.Light = true
				w.Volume *= p.of("light-week") / 100
			}
		} else {
			since = 0
		}
		p.returning(w)
	}
}

// changes says what is worked on in which week: one at a time, the large ones begun in rebuilding or
// building only, none within the last weeks before a main competition.
func (p *planner) changes() {
	stop := int(p.of("no-change-weeks"))
	for _, c := range p.targets() {
		for i := max(0, p.index(c.Day)-stop); i <= p.index(c.Day); i++ {
			w := &p.s.Weeks[i]
			w.Keep = true
			if stops := w.Monday; p.s.Stops == nil && stops+7 > p.now {
				p.s.Stops = &stops
			}
		}
	}
	left := map[string]int{}
	begun := map[string]bool{}
	var queue []Change
	for _, c := range p.who.Changes {
		c.Needs = p.rules.Needs(c)
		if c.Paused || c.Done >= c.Needs {
			continue
		}
		left[c.ID], begun[c.ID] = c.Needs-c.Done, c.Done > 0
		queue = append(queue, c)
	}
	for i := range p.s.Weeks {
		w := &p.s.Weeks[i]
		if w.Monday+7 <= p.now || w.Keep || w.Block == Off || w.Block == Compete || p.who.Pain || p.Return.open() {
			continue
		}
		at := slices.IndexFunc(queue, func(c Change) bool {
			return w.Block != Sharpen || begun[c.ID] || c.Needs < int(p.of("large-change"))
		})
		if at < 0 {
			continue
		}
		now := queue[at]
		w.Change, begun[now.ID] = now.ID, true
		left[now.ID] -= int(float64(p.tries(now.Event)) * w.Volume / float64(p.alike(now.Event)))
		if left[now.ID] <= 0 {
			queue = slices.Delete(queue, at, at+1)
		}
	}
	if p.who.Pain || p.Return.open() {
		return // nobody knows yet how long it lasts
	}
	for _, c := range queue {
		p.s.Says = append(p.s.Says, fmt.Sprintf("“%s” wants some %d repetitions more than there are before changing stops. Begin with less of it, or leave it for the next season.", c.Words, left[c.ID]))
	}
}

// Needs is how many repetitions a change takes.
func (r Rules) Needs(c Change) int {
	if c.Needs > 0 {
		return c.Needs
	}
	return int(r["needs-"+string(c.Kind)])
}

// alike is how many of the season's events are learnt like one: throws share their volume, and so
// do jumps.
func (p *planner) alike(event string) (n int) {
	for _, e := range p.Events {
		if sport.Of(e).Change == sport.Of(event).Change {
			n++
		}
	}
	return max(1, n)
}

// tries are those of a full week at all events of a kind, within the cap of the athlete's age.
func (p *planner) tries(event string) int {
	n := int(p.of("tries-" + string(sport.Of(event).Change)))
	if most := p.rules.Cap(p.who.Age, event); most > 0 {
		n = min(n, most)
	}
	return n
}

// Cap is how many throws or take-offs somebody of an age does in a week at most, those of
// competitions among them; 0 where nothing is capped.
func (r Rules) Cap(age int, event string) int {
	kind := sport.Of(event).Change
	if age <= 0 || age >= sport.Adult || kind != sport.Throw && kind != sport.Jump {
		return 0
	}
	for _, under := range []int{Young, sport.Child, sport.Adult} {
		if age < under {
			return int(r[fmt.Sprintf("cap-%s-%d", kind, under)])
		}
	}
	return 0
}

// Young is the age under which the lowest caps hold. Common practice, no source.
const Young = 12

// rest is how many days of a week are off at least.
func (r Rules) rest(age int) int {
	if age > 0 && age < sport.Child {
		return int(r["rest-days-child"])
	}
	return int(r["rest-days"])
}

// attempts of a competition that count as tries of its week.
const attempts = 6

// sessions lays a week's tries on the days that are free.
func (p *planner) sessions(w *Week) {
	var meets []Competition
	for _, c := range p.Competitions {
		if c.Day.Monday() == w.Monday {
			meets = append(meets, c)
			w.Sessions = append(w.Sessions, Session{Day: c.Day, Event: c.Event, Kind: Meet, Tries: attempts, Full: attempts, Parts: []Part{}, Effort: 10, Minutes: 120, Name: c.Name})
		}
	}
	defer func() {
		sort.SliceStable(w.Sessions, func(i, j int) bool { return w.Sessions[i].Day < w.Sessions[j].Day })
	}()
	if w.Volume == 0 {
		return
	}
	days := p.days(w.Monday, meets)
	if len(days) == 0 || len(p.Events) == 0 {
		return
	}
	lifting := p.lifting(w, days)
	var open []Free
	for i, f := range days {
		if lifting[i] {
			w.Sessions = append(w.Sessions, Session{Day: w.Monday + Day(f.Weekday), Kind: Lift, Parts: []Part{}, Effort: p.of("effort-lift"), Minutes: min(f.Minutes, longestLift)})
		} else {
			open = append(open, f)
		}
	}
	events := p.share(open)
	tested := false
	for i := len(open) - 1; i >= 0; i-- {
		f, event := open[i], events[i]
		if event == "" {
			continue
		}
		sharing := 0
		for _, e := range events {
			if e != "" && sport.Of(e).Change == sport.Of(event).Change {
				sharing++
			}
		}
		n := p.budget(w, event, meets) / sharing
		if n == 0 {
			continue
		}
		full := int(float64(n) * w.Full)
		s := Session{Day: w.Monday + Day(f.Weekday), Event: event, Kind: Technique, Tries: n, Full: full, Effort: 4 + 4*w.Full, Minutes: min(f.Minutes, longest)}
		switch {
		case w.Light && !tested && event == p.Events[0] && !p.Return.open() && !p.hurts(w):
			// The last session of a light week finds rested legs: it is the one to test in.
			tested = true
			s.Kind, s.Tries = Test, min(n, attempts)
			s.Full, s.Effort = s.Tries, 8
		case 2*full >= n:
			s.Kind = Full
		}
		if s.Kind != Test && sport.Of(event).Implement != nil {
			if p.who.Age == 0 || p.who.Age >= int(p.of("heavy-age")) {
				s.Heavy = int(float64(s.Tries) * p.of("heavy-"+string(w.Block)) / 100)
			}
			s.Easy = int(float64(s.Tries) * p.of("easy-"+string(w.Block)) / 100)
		}
		p.drill(w, &s)
		s.Parts = parts(s)
		w.Sessions = append(w.Sessions, s)
	}
}

// Longest sessions that are planned, minutes. Common practice, no source.
const (
	longest     = 120
	longestLift = 75
)

// days are those of a week on which training may be, by weekday: not the day of a competition nor the
// one before, and not more than leave the days off that there must be.
func (p *planner) days(monday Day, meets []Competition) []Free {
	days := slices.Clone(p.Free)
	slices.SortFunc(days, func(a, b Free) int { return a.Weekday - b.Weekday })
	taken := map[Day]bool{}
	for _, c := range meets {
		taken[c.Day] = true
	}
	// A competition on the Monday after counts for the Sunday.
	next := slices.ContainsFunc(p.Competitions, func(c Competition) bool { return c.Day == monday+7 })
	days = slices.DeleteFunc(days, func(f Free) bool {
		d := monday + Day(f.Weekday)
		return taken[d] || taken[d+1] || next && f.Weekday == 6
	})
	for most := 7 - p.rules.rest(p.who.Age) - len(taken); len(days) > max(0, most); {
		// The shortest goes, of several the latest.
		at := 0
		for i, f := range days {
			if f.Minutes <= days[at].Minutes {
				at = i
			}
		}
		days = slices.Delete(days, at, at+1)
	}
	return days
}

// lifting are the days, by their index, that hold lifting: those first that have room for nothing
// else, then the last ones on end, so that what follows them is a rest. Nobody takes off from heavy
// legs; who only throws or runs may lift on the day before where there is no other.
func (p *planner) lifting(w *Week, days []Free) map[int]bool {
	out := map[int]bool{}
	if p.who.Age > 0 && p.who.Age < int(p.of("lift-age")) || p.hurts(w) || p.Return.open() {
		return out
	}
	left := min(int(p.of("lifts-"+string(w.Block))), len(days)-1)
	take := func(may func(i int) bool) {
		for i := len(days) - 1; i >= 0 && left > 0; i-- {
			if !out[i] && days[i].has(sport.Weights) && may(i) {
				out[i] = true
				left--
			}
		}
	}
	jumps := slices.ContainsFunc(p.Events, func(e string) bool { return sport.Of(e).Change == sport.Jump })
	rested := func(i int) bool {
		return i+1 >= len(days) || days[i+1].Weekday != days[i].Weekday+1 || out[i+1]
	}
	nothing := func(i int) bool {
		return !slices.ContainsFunc(p.Events, func(e string) bool { return days[i].has(sport.Of(e).Place) })
	}
	take(func(i int) bool { return nothing(i) && (rested(i) || !jumps) })
	take(rested)
	take(func(int) bool { return !jumps })
	return out
}

// share says which event each day is for: one that has its place there, the main one twice as often
// as another.
func (p *planner) share(days []Free) []string {
	out := make([]string, len(days))
	got := map[string]float64{}
	for i, f := range days {
		best := ""
		for _, e := range p.Events {
			if !f.has(sport.Of(e).Place) {
				continue
			}
			if best == "" || (got[e]+1)/weight(p.Events, e) <= (got[best]+1)/weight(p.Events, best) {
				best = e
			}
		}
		out[i] = best
		got[best]++
	}
	return out
}

func weight(events []string, e string) float64 {
	if e == events[0] {
		return 2
	}
	return 1
}

// budget is how many tries of an event's kind a week has beside its competitions.
func (p *planner) budget(w *Week, event string, meets []Competition) int {
	n := int(float64(p.tries(event)) * w.Volume)
	if most := p.rules.Cap(p.who.Age, event); most > 0 {
		for _, c := range meets {
			if c.Event == "" || sport.Of(c.Event).Change == sport.Of(event).Change {
				most -= attempts
			}
		}
		n = min(n, most)
	}
	return max(0, n)
}

// drill puts the week's change, its drill and dose on a session of its event.
func (p *planner) drill(w *Week, s *Session) {
	i := slices.IndexFunc(p.who.Changes, func(c Change) bool { return c.ID == w.Change && c.Event == s.Event })
	if w.Change == "" || i < 0 || s.Kind == Test {
		return
	}
	c := p.who.Changes[i]
	s.Change, s.Drill = c.ID, c.Drill.Name
	if c.Drill.Name != "" {
		s.Dose = c.Drill.Dose.Session(min(1, w.Volume))
	}
	if n := len(c.Drill.Ladder); n > 0 {
		s.Rung = c.Drill.Ladder[min(n-1, n*c.Done/max(1, p.rules.Needs(c)))]
	}
}

// say tells what does not fit the season as a whole.
func (p *planner) say() {
	if p.who.Pain {
		p.s.Says = slices.Insert(p.s.Says, 0, "Something hurts: nothing is changed and nothing is done with full effort until it is over. A physician or physiotherapist says when.")
	}
	for _, e := range p.Events {
		if len(p.Free) > 0 && !slices.ContainsFunc(p.Free, func(f Free) bool { return f.has(sport.Of(e).Place) }) {
			p.s.Says = append(p.s.Says, fmt.Sprintf("%s is not planned: no day of the week has its place free (%s).", sport.Of(e).Name, sport.Of(e).Place))
		}
	}
	if len(p.Free) == 0 {
		p.s.Says = append(p.s.Says, "No day of the week is free yet, so nothing is laid on days.")
	}
	if len(p.Events) == 0 {
		p.s.Says = append(p.s.Says, "No event is chosen yet, so nothing is laid on days.")
	}
}

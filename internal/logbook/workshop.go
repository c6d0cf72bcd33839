package logbook

import (
	"context"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/performance"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/core/workshop"
	"neokinema/core/workshop/known"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Fact is something that an input of the workshop is filled with, and where it comes from.
type Fact struct {
	Value     float64    `json:"value"`
	Half      float64    `json:"half" doc:"half width of the 95 % interval"`
	From      string     `json:"from" enum:"clip,log,card"`
	AttemptID *uuid.UUID `json:"attempt_id,omitempty" required:"false"`
	DoneOn    string     `json:"done_on,omitempty" required:"false"`
}

// FactList is one of several values, in order.
type FactList struct {
	Values    []float64  `json:"values"`
	From      string     `json:"from" enum:"clip,log"`
	AttemptID *uuid.UUID `json:"attempt_id,omitempty" required:"false" doc:"when all are of one"`
}

// Path is where the feet of a run-up stood in a clip.
type Path struct {
	Places    []workshop.Place `json:"places"`
	AttemptID uuid.UUID        `json:"attempt_id"`
	DoneOn    string           `json:"done_on"`
}

// Tried is a later attempt held against what was predicted.
type Tried struct {
	AttemptID uuid.UUID    `json:"attempt_id"`
	DoneOn    string       `json:"done_on"`
	Mark      string       `json:"mark"`
	Lines     []known.Kept `json:"lines"`
}

// Reckoned is a calculation that was kept, with what came of it.
type Reckoned struct {
	store.Calculation
	Answer  *workshop.Answer `json:"answer,omitempty" required:"false" doc:"of the chosen variant"`
	Refused string           `json:"refused,omitempty" required:"false" doc:"why there is none any more"`
	Tried   []Tried          `json:"tried" doc:"attempts since, newest first"`
}

// Workshop is what the workshop knows of an athlete at an event.
type Workshop struct {
	Athlete      store.Athlete       `json:"athlete"`
	Event        string              `json:"event"`
	Events       []string            `json:"events" doc:"those of the athlete's log, the newest first"`
	Facts        map[string]Fact     `json:"facts"`
	Lists        map[string]FactList `json:"lists"`
	Path         *Path               `json:"path,omitempty" required:"false"`
	Calculations []Reckoned          `json:"calculations"`
}

// How many attempts lists are made of, and from how many days the best marks with several
// implements are taken together. Common practice, no source.
const (
	triesTogether = 15
	weeksTogether = 90
)

// Workshop collects what clips, log and card tell. An attempt's own numbers come first where one
// is named, then those of the newest one that has them; without an event that of the attempt, or
// of the newest in the log.
func (s *Service) Workshop(ctx context.Context, team, athlete uuid.UUID, event string, attempt uuid.UUID) (Workshop, error) {
	out := Workshop{Events: []string{}, Facts: map[string]Fact{}, Lists: map[string]FactList{}, Calculations: []Reckoned{}}
	var err error
	if out.Athlete, err = s.store.Athlete(ctx, team, athlete); err != nil {
		return out, err
	}
	rows, err := s.store.Log(ctx, team, athlete, s.engine())
	if err != nil {
		return out, err
	}
	for _, r := range slices.Backward(rows) {
		if !slices.Contains(out.Events, r.Event) {
			out.Events = append(out.Events, r.Event)
		}
		if r.ID == attempt && event == "" {
			event = r.Event
		}
	}
	if event == "" && len(out.Events) > 0 {
		event = out.Events[0]
	}
	if event != "" && !slices.Contains(sport.IDs(), event) {
		return out, problem.New(problem.Invalid, "There is no event “%s”.", event)
	}
	out.Event = event
	mine := slices.DeleteFunc(slices.Clone(rows), func(r store.LogRow) bool { return r.Event != event })
	if attempt != uuid.Nil && !slices.ContainsFunc(mine, func(r store.LogRow) bool { return r.ID == attempt }) {
		return out, problem.Missing("attempt")
	}
	sums, err := s.summaries(ctx, team, mine)
	if err != nil {
		return out, err
	}
	out.fill(mine, sums, attempt)
	kept, err := s.store.Calculations(ctx, team, athlete)
	if err != nil {
		return out, err
	}
	for _, c := range kept {
		if c.Event == event {
			out.Calculations = append(out.Calculations, reckoned(c, mine, sums))
		}
	}
	return out, nil
}

// Values are the inputs of a question as they are known, else as they are usual.
func (w Workshop) Values(q workshop.Question) workshop.Values {
	out := workshop.Values{}
	for _, in := range q.Inputs {
		f, known := w.Facts[in.Fact]
		l, listed := w.Lists[in.Fact]
		switch {
		case in.List && listed:
			out[in.ID] = workshop.Value{List: l.Values}
		case in.List:
		case known && f.Value >= in.Lo && f.Value <= in.Hi:
			out[in.ID] = workshop.Value{Value: f.Value, Half: f.Half}
		case !in.Optional:
			out[in.ID] = workshop.Value{Value: in.Usual, Half: in.Doubt}
		}
	}
	return out
}

// factsOf are those of a line of the log: its clips', its mark and what was typed.
func factsOf(r store.LogRow, sums map[uuid.UUID]Summary) known.Facts {
	f := known.Facts{Values: map[string]uncertainty.Estimate{}}
	if sum, ok := sums[r.ID]; ok && sum.Facts != nil {
		f.Values = map[string]uncertainty.Estimate{}
		f.Join(*sum.Facts)
		f.Lists = sum.Facts.Lists
	}
	if r.Foul == "" {
		if name, v, ok := known.Mark(r.Mark); ok {
			f.Values[name] = v
		}
	}
	return f
}

func (w *Workshop) fill(rows []store.LogRow, sums map[uuid.UUID]Summary, attempt uuid.UUID) {
	year := time.Now().Year()
	if len(rows) > 0 {
		if y, err := strconv.Atoi(rows[len(rows)-1].DoneOn[:4]); err == nil {
			year = y
		}
	}
	a := w.Athlete
	for name, v := range known.Card(w.Event, body.Person{Sex: a.Sex, Height: a.Height, Mass: a.Mass, Age: year - a.Born, TakeoffLeg: a.TakeoffLeg}) {
		w.Facts[name] = Fact{Value: v.Value, Half: v.Half95, From: "card"}
	}
	rule := w.Facts["implement-mass"].Value
	// Newest first, and before all others the attempt that was asked for.
	order := slices.Clone(rows)
	slices.Reverse(order)
	slices.SortStableFunc(order, func(x, y store.LogRow) int {
		switch {
		case x.ID == attempt && y.ID != attempt:
			return -1
		case y.ID == attempt && x.ID != attempt:
			return 1
		}
		return 0
	})
	from := map[string]bool{}
	put := func(name string, v uncertainty.Estimate, source string, r store.LogRow) {
		if !from[name] {
			from[name] = true
			w.Facts[name] = Fact{Value: v.Value, Half: v.Half95, From: source, AttemptID: &r.ID, DoneOn: r.DoneOn}
		}
	}
	for _, r := range order {
		f := factsOf(r, sums)
		for name, v := range f.Values {
			if name != "mark" && !strings.HasPrefix(name, "split-") {
				put(name, v, "clip", r)
			} else {
				put(name, v, "log", r)
			}
		}
		for name, l := range f.Lists {
			if _, had := w.Lists[name]; !had {
				w.Lists[name] = FactList{Values: l, From: "clip", AttemptID: &r.ID}
			}
		}
		if w.Path == nil {
			if sum := sums[r.ID]; sum.Facts != nil && len(sum.Facts.Path) > 0 {
				w.Path = &Path{Places: sum.Facts.Path, AttemptID: r.ID, DoneOn: r.DoneOn}
			}
		}
		sure := func(v float64) uncertainty.Estimate { return uncertainty.Estimate{Value: v} }
		for name, as := range poles {
			if found := as.FindStringSubmatch(r.Implement); found != nil && sport.Of(w.Event).Pole() {
				if v, err := strconv.ParseFloat(strings.Replace(found[1], ",", ".", 1), 64); err == nil {
					put(name, sure(v), "log", r)
				}
			}
		}
		if v, ok := evaluate.Mass(r.Implement); ok && !sport.Of(w.Event).Pole() {
			put("implement-mass", sure(v), "log", r)
			if o, ok := workshop.ImplementOption(w.Event, v); ok {
				put("implement", sure(o), "log", r)
			}
		}
		if _, v, ok := known.Mark(r.Goal); ok {
			put("goal", sure(v.Value), "log", r)
		}
		if r.Wind != nil {
			put("wind", sure(*r.Wind), "log", r)
		}
		if r.RunUp != nil && *r.RunUp > workshop.CurveSteps && w.Event == "high-jump" {
			put("straight-steps", sure(float64(*r.RunUp-workshop.CurveSteps)), "log", r)
		}
		if r.Turns != nil {
			put("turns", sure(float64(*r.Turns)), "log", r)
		}
		if name, v, ok := known.Mark(r.Mark); ok && name == "mark" && w.Event == "high-jump" {
			put("bar", sure(v.Value), "log", r)
		}
	}
	w.lists(rows, sums)
	w.bests(rows, rule)
}

// poles are length and rating of a pole as coaches write them: "pole 4.30 m, 70 kg".
var poles = map[string]*regexp.Regexp{"pole-length": regexp.MustCompile(`(\d[.,]\d{1,2}) ?m\b`), "pole-rating": regexp.MustCompile(`(\d{2,3}(?:[.,]\d)?) ?kg\b`)}

// lists are what several run-ups tell together.
func (w *Workshop) lists(rows []store.LogRow, sums map[uuid.UUID]Summary) {
	name, sign := map[string]string{"long-jump": "toe-behind", "pole-vault": "toe-under"}[w.Event], 1.0
	if name == "toe-behind" {
		sign = -1 // behind the edge is not past it
	}
	var plants, winds []float64
	windy := true
	for _, r := range rows {
		v, ok := factsOf(r, sums).Values[name]
		if name == "" || !ok {
			continue
		}
		plants = append(plants, sign*v.Value)
		if r.Wind != nil {
			winds = append(winds, *r.Wind)
		} else {
			windy = false
		}
	}
	if n := len(plants); n > 0 {
		w.Lists["plants"] = FactList{Values: plants[max(0, n-triesTogether):], From: "clip"}
		if windy {
			w.Lists["winds"] = FactList{Values: winds[max(0, n-triesTogether):], From: "log"}
		}
	}
}

// bests are the best marks by implement, by technique, and with a short run-up; rule is the mass
// that the athlete's class throws.
func (w *Workshop) bests(rows []store.LogRow, rule float64) {
	type mark struct {
		v float64
		r store.LogRow
	}
	best := map[string]mark{}
	byMass := map[float64]float64{}
	longest := 0
	// The athlete's own implement is that of the class, or else the one that is thrown most often.
	often, own := map[float64]int{}, 0.0
	for _, r := range rows {
		if r.RunUp != nil {
			longest = max(longest, *r.RunUp)
		}
		if mass, ok := evaluate.Mass(r.Implement); ok {
			if often[mass]++; often[mass] >= often[own] {
				own = mass
			}
		}
	}
	if often[rule] > 0 {
		own = rule
	}
	for _, r := range rows {
		v, ok := performance.Read(r.Mark)
		if !ok || v.Unit != "m" || r.Foul != "" || sport.Of(w.Event).Windy && r.Wind != nil && performance.Assisted(*r.Wind) {
			continue
		}
		put := func(name string) {
			if b, had := best[name]; !had || v.Value > b.v {
				best[name] = mark{v.Value, r}
			}
		}
		mass, known := evaluate.Mass(r.Implement)
		if !known || mass == own {
			put("best")
			if said := strings.ToLower(r.Session + " " + r.Note + " " + r.Variant); strings.Contains(said, "standing") || strings.Contains(said, "from a stand") {
				put("standing")
			}
			switch {
			case w.Event != "shot":
			case r.Variant == "rotational":
				put("turn")
			default:
				put("glide")
			}
		}
		if r.RunUp != nil && *r.RunUp <= longest-shorterBy {
			put("short")
		}
		if known && recent(r.DoneOn, rows[len(rows)-1].DoneOn) {
			byMass[mass] = max(byMass[mass], v.Value)
		}
	}
	for name, b := range best {
		w.Facts["mark-"+name] = Fact{Value: b.v, Half: workshop.MarksScatter * b.v, From: "log", AttemptID: &b.r.ID, DoneOn: b.r.DoneOn}
	}
	if len(byMass) > 1 {
		var masses, marks []float64
		for m := range byMass {
			masses = append(masses, m)
		}
		slices.Sort(masses)
		for _, m := range masses {
			marks = append(marks, byMass[m])
		}
		w.Lists["masses"], w.Lists["marks"] = FactList{Values: masses, From: "log"}, FactList{Values: marks, From: "log"}
	}
}

// shorterBy is by how many steps a run-up is a short one. Common practice, no source.
const shorterBy = 4

func recent(day, newest string) bool {
	a, errA := time.Parse(time.DateOnly, day)
	b, errB := time.Parse(time.DateOnly, newest)
	return errA == nil && errB == nil && b.Sub(a) <= weeksTogether*24*time.Hour
}

// reckoned holds a calculation against the attempts since.
func reckoned(c store.Calculation, rows []store.LogRow, sums map[uuid.UUID]Summary) Reckoned {
	out := Reckoned{Calculation: c, Tried: []Tried{}}
	a, err := c.Answer()
	if err != nil {
		out.Refused = err.Error()
		return out
	}
	out.Answer = &a
	for _, r := range slices.Backward(rows) {
		if r.DoneOn < c.MadeOn || c.AttemptID != nil && r.ID == *c.AttemptID {
			continue
		}
		if lines := known.Check(a, factsOf(r, sums)); len(lines) > 0 {
			out.Tried = append(out.Tried, Tried{AttemptID: r.ID, DoneOn: r.DoneOn, Mark: r.Mark, Lines: lines})
		}
	}
	return out
}

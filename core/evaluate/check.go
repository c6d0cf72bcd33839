package evaluate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"neokinema/core/body"
	"neokinema/core/model"
)

// Mistake is one thing wrong in a model as it was written.
type Mistake struct {
	Path string // such as checkpoints[3].band
	Text string
}

// Ready tells every mistake in a model as it was written, and when there is none unrolls its
// repeated group.
func Ready(m *model.Model) []Mistake {
	list := mistakes(*m)
	if len(list) == 0 {
		m.Unroll()
	}
	return list
}

// mistakes goes through a model that is not unrolled yet; every name must lead
// somewhere, every text must be there.
func mistakes(m model.Model) (list []Mistake) {
	bad := func(path, format string, args ...any) {
		list = append(list, Mistake{path, fmt.Sprintf(format, args...)})
	}
	text := func(path string, pairs ...string) {
		for i := 0; i+1 < len(pairs); i += 2 {
			if strings.TrimSpace(pairs[i+1]) == "" {
				bad(path, "%s is missing", pairs[i])
			}
		}
	}
	names := names(m)
	position := func(path, id string) {
		if !names[id] {
			bad(path, "there is no position %q", id)
		}
	}
	only := func(path string, list []string) {
		for _, v := range list {
			if !slices.ContainsFunc(m.Variants, func(o model.Variant) bool { return o.ID == v }) {
				bad(path+".only", "there is no variant %q", v)
			}
		}
	}
	text("", "id", m.ID, "name", m.Name, "about", m.About, "view", m.View, "film", m.Film)
	if n := len(m.Watch); n != 0 && n != 4 {
		bad("watch", "the watching guide has four passes, not %d", n)
	}
	if m.Version < 1 {
		bad("version", "the version must be 1 or more")
	}
	if len(m.Positions) == 0 && m.Repeat == nil {
		bad("", "a model needs key positions")
	}
	if len(m.Cautions) == 0 {
		bad("", "cautions are missing")
	}
	seen := map[string]bool{}
	once := func(path, id string) {
		list, _, _ := strings.Cut(path, "[")
		if seen[list+" "+id] {
			bad(path, "%q stands twice", id)
		}
		seen[list+" "+id] = true
	}
	positions := func(at string, list []model.Position) {
		for i, p := range list {
			path := fmt.Sprintf("%s[%d]", at, i)
			text(path, "id", p.ID, "name", p.Name, "short", p.Short, "hint", p.Hint)
			once(path, p.ID)
			only(path, p.Only)
		}
	}
	positions("positions", m.Positions)
	for i, p := range m.Phases {
		path := fmt.Sprintf("phases[%d]", i)
		text(path, "id", p.ID, "name", p.Name)
		position(path+".from", p.From)
		position(path+".to", p.To)
		only(path, p.Only)
	}
	for i, c := range m.Contacts {
		path := fmt.Sprintf("contacts[%d]", i)
		position(path+".from", c.From)
		position(path+".to", c.To)
		if c.Since != "" {
			position(path+".since", c.Since)
		}
		if c.Foot != "stance" && !body.KnownRole(c.Foot+"_toe") {
			bad(path+".foot", "%q is no foot", c.Foot)
		}
	}
	if r := m.Repeat; r != nil {
		positions("repeat.positions", r.Positions)
		if r.Most < 1 || r.Most > 40 {
			bad("repeat.most", "a group comes 1 to 40 times, not %d", r.Most)
		}
		if r.After != "" {
			position("repeat.after", r.After)
		}
		member := func(path, id string) {
			if !m.Repeated(strings.TrimSuffix(id, "+1")) {
				bad(path, "there is no position %q in the group", id)
			}
		}
		for i, p := range r.Phases {
			member(fmt.Sprintf("repeat.phases[%d].from", i), p.From)
			member(fmt.Sprintf("repeat.phases[%d].to", i), p.To)
		}
		for i, c := range r.Contacts {
			member(fmt.Sprintf("repeat.contacts[%d].from", i), c.From)
			member(fmt.Sprintf("repeat.contacts[%d].to", i), c.To)
		}
	}
	known := map[string]model.Checkpoint{}
	for i, c := range m.Checkpoints {
		path := fmt.Sprintf("checkpoints[%d]", i)
		once(path, c.ID)
		only(path, c.Only)
		checkCheckpoint(m, path, c, names, known, bad)
		known[c.ID] = c
	}
	for i, v := range m.Variants {
		path := fmt.Sprintf("variants[%d]", i)
		text(path, "id", v.ID, "name", v.Name, "says", v.Says)
		for id, b := range v.Bands {
			if _, ok := known[id]; !ok {
				bad(path+".bands", "there is no checkpoint %q", id)
			}
			if b.Lo != nil && b.Hi != nil && *b.Lo >= *b.Hi {
				bad(path+".bands", "the band of %q is upside down", id)
			}
		}
		for id := range v.Asks {
			if c, ok := known[id]; !ok || c.Question == "" {
				bad(path+".asks", "there is no question %q", id)
			}
		}
	}
	for i, a := range m.Adjusted {
		path := fmt.Sprintf("adjusted[%d]", i)
		if _, ok := known[a.Checkpoint]; !ok {
			bad(path+".checkpoint", "there is no checkpoint %q", a.Checkpoint)
		}
		if (a.Under > 0 || a.Years > 0) == (a.Athlete != "") || a.Under < 0 || a.Years < 0 {
			bad(path, "a band is for an age group (under), for who has just begun (years) or for one athlete")
		}
		if b := a.Band; b.Lo != nil && b.Hi != nil && *b.Lo >= *b.Hi {
			bad(path+".band", "the band is upside down: %g is not below %g", *b.Lo, *b.Hi)
		}
		text(path, "reason", a.Reason)
	}
	checkFaults(m, known, bad, text, only, once)
	return list
}

// names are those by which positions can be spoken of.
func names(m model.Model) map[string]bool {
	names := map[string]bool{}
	for _, p := range m.Positions {
		names[p.ID] = true
	}
	if r := m.Repeat; r != nil {
		for n := 1; n <= r.Most; n++ {
			for _, p := range r.Positions {
				names[fmt.Sprintf("%s%d", p.ID, n)] = true
			}
		}
		for _, p := range r.Positions {
			names[p.ID+"*"], names[p.ID+"#"], names[p.ID+"+1"] = true, true, true
		}
	}
	return names
}

// Accepts refuses a checkpoint that this model could not have itself. It may be one of
// an attempt alone, such as a should-be that became a target.
func Accepts(m model.Model, c model.Checkpoint) error {
	known := map[string]model.Checkpoint{}
	for _, k := range m.Checkpoints {
		known[k.ID] = k
	}
	var first error
	checkCheckpoint(m, "checkpoint", c, names(m), known, func(path, format string, args ...any) {
		if first == nil {
			first = fmt.Errorf("%s: %s", path, fmt.Sprintf(format, args...))
		}
	})
	return first
}

// longestName is what the name of a checkpoint may have, letters.
const longestName = 200

// checkpoint checks one checkpoint against the positions of its model and those that
// are known before it.
func checkCheckpoint(m model.Model, path string, c model.Checkpoint, names map[string]bool, known map[string]model.Checkpoint, bad func(string, string, ...any)) {
	for what, text := range map[string]string{"id": c.ID, "name": c.Name} {
		if n := len(strings.TrimSpace(text)); n == 0 || n > longestName {
			bad(path, "%s is missing or too long", what)
		}
	}
	if !m.Repeated(c.Position) && !names[c.Position] {
		bad(path+".position", "there is no position %q", c.Position)
	}
	for k, id := range c.Measure.Positions {
		if !names[id] {
			bad(fmt.Sprintf("%s.measure.positions[%d]", path, k), "there is no position %q", id)
		}
	}
	checkMeasure(path+".measure", c.Measure, known, bad)
	for _, end := range []*float64{c.Band.Lo, c.Band.Hi} {
		if end != nil && (math.IsNaN(*end) || math.IsInf(*end, 0)) {
			bad(path+".band", "the band has an end that is no number")
		}
	}
	if b := c.Band; b.Lo != nil && b.Hi != nil && *b.Lo >= *b.Hi {
		bad(path+".band", "the band is upside down: %g is not below %g", *b.Lo, *b.Hi)
	}
	if b := c.Tolerated; b != nil {
		// Either end is left where it is, or lies farther out.
		for _, end := range [][2]*float64{{b.Lo, c.Band.Lo}, {c.Band.Hi, b.Hi}} {
			if (end[0] == nil) != (end[1] == nil) || end[0] != nil && *end[0] > *end[1] {
				bad(path+".tolerated", "what is tolerated has the ends of the band, each where it is or farther out")
			}
		}
	}
	if !slices.Contains([]string{"trade", "literature", "definition"}, c.Basis) {
		bad(path+".basis", "the basis is trade, literature or definition, not %q", c.Basis)
	}
	if c.Measure.Kind == "answer" && c.Question == "" {
		bad(path, "an answer of the coach needs a question")
	}
	for k, v := range c.Views {
		if !slices.Contains([]string{"side", "back", "front", "oblique", "above"}, v) {
			bad(fmt.Sprintf("%s.views[%d]", path, k), "there is no view %q", v)
		}
	}
}

// measure checks what a measure works on.
func checkMeasure(path string, x model.Measure, known map[string]model.Checkpoint, bad func(string, string, ...any)) {
	k, ok := kinds[x.Kind]
	if !ok {
		bad(path+".kind", "there is no measure %q", x.Kind)
		return
	}
	want, have := [3]int{k.points, k.positions, k.readings}, [3]int{len(x.Points), len(x.Positions), len(x.Readings)}
	if x.Pick != "" && want[1] == 0 {
		want[1] = 2
	}
	if want != have {
		bad(path, "a %s needs %d points, %d positions and %d readings; here are %d, %d and %d", x.Kind, want[0], want[1], want[2], have[0], have[1], have[2])
	}
	for k, role := range x.Points {
		if directed(x) {
			if !slices.Contains(Directed, role) {
				bad(fmt.Sprintf("%s.points[%d]", path, k), "%q has no direction from above; there are %s", role, strings.Join(Directed, ", "))
			}
			continue
		}
		if !body.KnownRole(role) {
			bad(fmt.Sprintf("%s.points[%d]", path, k), "there is no landmark %q", role)
		}
	}
	for k, id := range x.Readings {
		if _, ok := known[id]; !ok {
			bad(fmt.Sprintf("%s.readings[%d]", path, k), "reading %q must stand before this checkpoint", id)
		}
	}
}

func checkFaults(m model.Model, known map[string]model.Checkpoint, bad func(string, string, ...any), text func(string, ...string), only func(string, []string), once func(string, string)) {
	phase := func(id string) bool {
		return slices.ContainsFunc(m.Phases, func(p model.Phase) bool { return p.ID == id }) ||
			m.Repeat != nil && slices.ContainsFunc(m.Repeat.Phases, func(p model.Phase) bool { return p.ID == id })
	}
	because := map[string][]string{}
	for _, f := range m.Faults {
		because[f.ID] = f.Because
	}
	for i, f := range m.Faults {
		path := fmt.Sprintf("faults[%d]", i)
		text(path, "id", f.ID, "name", f.Name, "short", f.Short, "effect", f.Effect)
		once(path, f.ID)
		only(path, f.Only)
		if !phase(f.Phase) {
			bad(path+".phase", "there is no phase %q", f.Phase)
		}
		checkRule(f.When, path+".when", known, bad)
		if _, ok := known[f.Target]; !ok {
			bad(path+".target", "there is no reading %q to see by whether the cue worked", f.Target)
		}
		if len(f.Cues) == 0 && !f.Setting && f.Strength == "" {
			bad(path, "a fault needs a cue, or strength work to say instead")
		}
		for k, c := range f.Cues {
			text(fmt.Sprintf("%s.cues[%d]", path, k), "words", c.Words, "backfire", c.Backfire)
			if c.Focus != "outward" && c.Focus != "inward" {
				bad(fmt.Sprintf("%s.cues[%d].focus", path, k), "the focus is outward or inward, not %q", c.Focus)
			}
			if c.Focus == "outward" && k > 0 && f.Cues[k-1].Focus == "inward" {
				bad(fmt.Sprintf("%s.cues[%d]", path, k), "outward cues come first")
			}
		}
		if len(f.Drills) == 0 {
			bad(path, "a fault needs a drill")
		}
		for k, d := range f.Drills {
			here := fmt.Sprintf("%s.drills[%d]", path, k)
			text(here, "name", d.Name, "feel", d.Feel)
			checkDose(here+".dose", d.Dose, bad)
			if n := len(d.Ladder); n == 1 || n > 6 {
				bad(here+".ladder", "a ladder has two to six rungs, not %d", n)
			}
			if (len(d.Ladder) > 0) != (d.GoOn != "" && d.Stop != "") {
				bad(here, "a ladder needs go_on and stop: when the next rung is due, and when to end it")
			}
		}
		for k, b := range f.Because {
			if _, ok := because[b]; !ok {
				bad(fmt.Sprintf("%s.because[%d]", path, k), "there is no fault %q", b)
			}
		}
		if way := circle(f.ID, because); way != nil {
			bad(path+".because", "causes go in a circle: %s", strings.Join(way, " because of "))
		}
	}
}

// checkDose refuses doses that nobody can do.
func checkDose(path string, d model.Dose, bad func(string, string, ...any)) {
	if d.Sets == 0 && strings.TrimSpace(d.Says) == "" {
		bad(path, "a dose has sets and reps, or says in words how much")
	}
	if d.Sets != 0 && d.Reps == 0 {
		bad(path+".reps", "reps are missing")
	}
	for name, x := range map[string][2]int{"sets": {d.Sets, 30}, "reps": {d.Reps, 200}, "effort": {d.Effort, 100}, "rest": {d.Rest, 1800}, "week": {d.Week, 7}, "weeks": {d.Weeks, 60}} {
		if x[0] < 0 || x[0] > x[1] {
			bad(path+"."+name, "%s are 0 to %d, not %d", name, x[1], x[0])
		}
	}
}

// circle is the way by which a fault would be its own cause; nil when there is
// none.
func circle(fault string, because map[string][]string) []string {
	seen := map[string]bool{}
	var walk func(way []string) []string
	walk = func(way []string) []string {
		for _, b := range because[way[len(way)-1]] {
			if b == fault {
				return append(way, b)
			}
			if seen[b] {
				continue
			}
			seen[b] = true
			if found := walk(append(slices.Clone(way), b)); found != nil {
				return found
			}
		}
		return nil
	}
	return walk([]string{fault})
}

func checkRule(r model.Rule, path string, known map[string]model.Checkpoint, bad func(string, string, ...any)) {
	for i, part := range r.Any {
		checkRule(part, fmt.Sprintf("%s.any[%d]", path, i), known, bad)
	}
	for i, part := range r.All {
		checkRule(part, fmt.Sprintf("%s.all[%d]", path, i), known, bad)
	}
	if r.Any != nil || r.All != nil {
		return
	}
	cp, ok := known[r.Reading]
	switch {
	case !ok:
		bad(path+".reading", "there is no reading %q", r.Reading)
	case r.Above == nil && r.Below == nil && !r.AnsweredNo && r.Outside == "":
		bad(path, "the rule on %s has no condition", r.Reading)
	case r.Outside != "" && !slices.Contains([]string{"above", "below", "either"}, r.Outside):
		bad(path+".outside", "outside is above, below or either, not %q", r.Outside)
	case r.Outside != "" && cp.Band.Lo == nil && cp.Band.Hi == nil:
		bad(path, "%s has no band to be outside of", r.Reading)
	case r.AnsweredNo && cp.Question == "":
		bad(path, "%s has no question that could be answered with no", r.Reading)
	}
}

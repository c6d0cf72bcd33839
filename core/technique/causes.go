package technique

import (
	"math"
	"slices"
	"sort"

	"neokinema/core/uncertainty"
)

// truth of a rule: a clip may be unable to tell.
type truth int

const (
	no     truth = iota
	open         // not beyond the threshold, but the doubt reaches over it
	likely       // beyond it, but the doubt reaches back
	yes
)

var sureNames = map[truth]string{open: "open", likely: "likely", yes: "certain"}

// holds evaluates a rule. What was never measured counts as no, or every new clip
// would be full of suspicions. The readings that speak for it come along.
func (e *evaluation) holds(r Rule) (truth, []string) {
	if r.Any != nil {
		result, because := no, []string(nil)
		for _, part := range r.Any {
			t, ids := e.holds(part)
			if t > result {
				result, because = t, nil
			}
			if t == result && t > no {
				because = append(because, ids...)
			}
		}
		return result, because
	}
	if r.All != nil {
		result, because := yes, []string(nil)
		for _, part := range r.All {
			t, ids := e.holds(part)
			result = min(result, t)
			because = append(because, ids...)
		}
		return result, because
	}
	got := e.readings[r.Reading]
	ids := []string{r.Reading}
	if r.Marked {
		if got.By != "coach" {
			return no, nil
		}
		switch got.Verdict {
		case uncertainty.Missed:
			return yes, ids
		case uncertainty.Open:
			return likely, ids
		}
		return no, nil
	}
	if got.Value == nil {
		return no, nil
	}
	r = e.m.banded(r)
	// The fault is there when the value lies surely outside this band; in a repeated
	// group also when it does so in most repetitions, though their mean, which
	// a growing fault spreads, cannot say.
	band := uncertainty.Band{Lo: r.Below, Hi: r.Above}
	sure := 0
	for _, x := range got.Each {
		if band.Judge(x.Value) == uncertainty.Missed {
			sure++
		}
	}
	if len(got.Each) > 1 && 2*sure > len(got.Each) {
		return yes, ids
	}
	switch band.Judge(*got.Value) {
	case uncertainty.Missed:
		return yes, ids
	case uncertainty.Open:
		if r.beyond(got.Value.X) > 0 {
			return likely, ids
		}
		return open, ids
	}
	return no, nil
}

// banded gives a leaf that goes by the checkpoint's band its thresholds.
func (m Model) banded(r Rule) Rule {
	cp, ok := m.Checkpoint(r.Reading)
	if !ok || r.Outside == "" {
		return r
	}
	if r.Outside != "below" {
		r.Above = cp.Band.Hi
	}
	if r.Outside != "above" {
		r.Below = cp.Band.Lo
	}
	return r
}

// beyond is how far a number lies past the threshold of a leaf; negative inside.
func (r Rule) beyond(x float64) float64 {
	by := math.Inf(-1)
	if r.Above != nil {
		by = x - *r.Above
	}
	if r.Below != nil {
		by = math.Max(by, *r.Below-x)
	}
	return by
}

// leaf finds the condition on a reading in a rule.
func (r Rule) leaf(reading string) (Rule, bool) {
	if r.Reading == reading {
		return r, true
	}
	for _, part := range append(slices.Clone(r.Any), r.All...) {
		if l, ok := part.leaf(reading); ok {
			return l, true
		}
	}
	return Rule{}, false
}

// finding describes a fault that a rule shows: how far beyond its threshold, and
// how it goes on from repetition to repetition.
func (e *evaluation) finding(f Fault, t truth, ids []string) Finding {
	out := Finding{Fault: f.ID, Sure: sureNames[t], Readings: ids, Leads: []string{}}
	for _, id := range ids {
		l, ok := f.When.leaf(id)
		r := e.readings[id]
		if !ok || l.Marked || r.Value == nil {
			continue
		}
		l = e.m.banded(l)
		if by := l.beyond(r.Value.X); by > 0 && out.Size == nil {
			out.Size = &Size{id, by}
		}
		if len(r.Each) < 2 || out.Course != nil {
			continue
		}
		c := Course{Of: len(r.Each), Trend: "same"}
		for _, x := range r.Each {
			if l.beyond(x.Value.X) > 0 {
				c.Shown++
			}
		}
		first, last := r.Each[0].Value, r.Each[len(r.Each)-1].Value
		if d := l.beyond(last.X) - l.beyond(first.X); math.Abs(d) > uncertainty.SmallestRealDifference(first, last) {
			c.Trend = "growing"
			if d < 0 {
				c.Trend = "fading"
			}
		}
		out.Course = &c
	}
	return out
}

// findings orders the present faults: those of a lower stage first (a landing
// never comes before an open take-off), then those that no present fault brings
// about; among these the one that explains most of the others, then the one made
// earliest.
func (e *evaluation) findings() {
	present := map[string][]string{}
	for _, f := range e.m.Faults {
		switch t, ids := e.holds(f.When); t {
		case yes:
			present[f.ID] = ids
		case likely, open:
			e.report.Possible = append(e.report.Possible, e.finding(f, t, ids))
		}
	}
	for _, f := range e.m.Faults {
		if ids, ok := present[f.ID]; ok {
			x := e.finding(f, yes, ids)
			x.Leads = e.m.leads(f.ID, present)
			x.First = !slices.ContainsFunc(e.m.Faults, func(o Fault) bool {
				_, there := present[o.ID]
				return there && slices.Contains(e.m.leads(o.ID, present), f.ID)
			})
			e.report.Findings = append(e.report.Findings, x)
		}
	}
	stage := func(f Finding) int { x, _ := e.m.Fault(f.Fault); return x.Stage }
	sort.SliceStable(e.report.Findings, func(i, j int) bool {
		a, b := e.report.Findings[i], e.report.Findings[j]
		if stage(a) != stage(b) {
			return stage(a) < stage(b)
		}
		if a.First != b.First {
			return a.First
		}
		if len(a.Leads) != len(b.Leads) {
			return len(a.Leads) > len(b.Leads)
		}
		return e.m.phaseOf(a.Fault) < e.m.phaseOf(b.Fault)
	})
	// What is likely comes before what is merely open.
	sort.SliceStable(e.report.Possible, func(i, j int) bool {
		return e.report.Possible[i].Sure == "likely" && e.report.Possible[j].Sure != "likely"
	})
}

func (m Model) phaseOf(fault string) int {
	f, _ := m.Fault(fault)
	return slices.IndexFunc(m.Phases, func(p Phase) bool { return p.ID == f.Phase || p.ID == f.Phase+"1" })
}

// leads lists the present faults that follow from a fault, directly or through
// others (present or not: a link of the chain may be hidden from this view), in
// order of phase.
func (m Model) leads(fault string, present map[string][]string) []string {
	reached := map[string]bool{}
	var walk func(string)
	walk = func(id string) {
		for _, f := range m.Faults {
			if slices.Contains(f.Because, id) && !reached[f.ID] && f.ID != fault {
				reached[f.ID] = true
				walk(f.ID)
			}
		}
	}
	walk(fault)
	out := []string{}
	for _, f := range m.Faults {
		if _, ok := present[f.ID]; ok && reached[f.ID] {
			out = append(out, f.ID)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return m.phaseOf(out[i]) < m.phaseOf(out[j]) })
	return out
}

package technique

import (
	"slices"
	"sort"

	"neokinema/core/doubt"
)

// truth of a rule: a clip may be unable to tell.
type truth int

const (
	no truth = iota
	maybe
	yes
)

// holds evaluates a rule. Maybe means that the doubt of a number reaches over
// the threshold; what was never measured counts as no, or every new clip would
// be full of suspicions. The readings that speak for it come along.
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
		if got.By == "coach" && got.Verdict == doubt.Missed {
			return yes, ids
		}
		return no, nil
	}
	if got.Value == nil {
		return no, nil
	}
	// The fault is there when the value lies surely outside this band.
	switch (doubt.Band{Lo: r.Below, Hi: r.Above}).Judge(*got.Value) {
	case doubt.Missed:
		return yes, ids
	case doubt.Open:
		return maybe, ids
	}
	return no, nil
}

// findings orders the present faults: first those that no present fault brings
// about; among these the one that explains most of the others, then the one
// made earliest.
func (e *evaluation) findings() {
	present := map[string][]string{}
	for _, f := range e.m.Faults {
		switch t, ids := e.holds(f.When); t {
		case yes:
			present[f.ID] = ids
		case maybe:
			e.report.Possible = append(e.report.Possible, Finding{Fault: f.ID, Readings: ids, Leads: []string{}})
		}
	}
	for _, f := range e.m.Faults {
		if ids, ok := present[f.ID]; ok {
			e.report.Findings = append(e.report.Findings, Finding{
				Fault: f.ID, Readings: ids, Leads: e.m.leads(f.ID, present),
				First: !slices.ContainsFunc(e.m.Faults, func(o Fault) bool {
					_, there := present[o.ID]
					return there && slices.Contains(e.m.leads(o.ID, present), f.ID)
				}),
			})
		}
	}
	sort.SliceStable(e.report.Findings, func(i, j int) bool {
		a, b := e.report.Findings[i], e.report.Findings[j]
		if a.First != b.First {
			return a.First
		}
		if len(a.Leads) != len(b.Leads) {
			return len(a.Leads) > len(b.Leads)
		}
		return e.m.phaseOf(a.Fault) < e.m.phaseOf(b.Fault)
	})
}

func (m Model) phaseOf(fault string) int {
	f, _ := m.Fault(fault)
	return slices.IndexFunc(m.Phases, func(p Phase) bool { return p.ID == f.Phase })
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

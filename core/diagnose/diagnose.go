// Package diagnose says which faults of a model an attempt shows, what brings what about,
// and what is worth keeping. It works on readings alone.
package diagnose

import (
	"math"
	"slices"
	"sort"

	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
)

// Faults lists the faults of a model that readings show, first cause first, and those that
// they can neither show nor rule out, likely ones first.
func Faults(m model.Model, readings map[string]report.Reading) (present, possible []report.Finding) {
	return (&diagnosis{m, readings}).faults()
}

type diagnosis struct {
	model    model.Model
	readings map[string]report.Reading // by checkpoint
}

// truth of a rule: a clip may be unable to tell.
type truth int

const (
	no     truth = iota
	open         // not beyond the threshold, but the uncertainty reaches over it
	likely       // beyond it, but the uncertainty reaches back
	yes
)

var certainties = map[truth]string{open: "open", likely: "likely", yes: "certain"}

// holds evaluates a rule. What was never measured counts as no, or every new clip
// would be full of suspicions. The readings that speak for it are given too.
func (d *diagnosis) holds(r model.Rule) (truth, []string) {
	if r.Any != nil {
		result, because := no, []string(nil)
		for _, part := range r.Any {
			t, ids := d.holds(part)
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
			t, ids := d.holds(part)
			result = min(result, t)
			because = append(because, ids...)
		}
		return result, because
	}
	got := d.readings[r.Reading]
	ids := []string{r.Reading}
	if r.AnsweredNo {
		if got.Source != "coach" {
			return no, nil
		}
		switch got.Verdict {
		case uncertainty.Missed:
			return yes, ids
		case uncertainty.Open:
			if got.Said != "yes" { // an eye that is not sure has not seen it
				return likely, ids
			}
		}
		return no, nil
	}
	if got.Value == nil {
		return no, nil
	}
	r = d.model.Banded(r)
	// The fault is there when the value lies surely outside this band; in a repeated
	// group also when it does so in most repetitions, though their mean, which
	// a growing fault spreads, cannot say.
	band := uncertainty.Band{Lo: r.Below, Hi: r.Above}
	sure := 0
	for _, x := range got.Repetitions {
		if band.Judge(x.Value) == uncertainty.Missed {
			sure++
		}
	}
	beyond := yes
	if got.Unsure || got.Unchecked {
		beyond = likely
	}
	if len(got.Repetitions) > 1 && 2*sure > len(got.Repetitions) {
		return beyond, ids
	}
	switch band.Judge(*got.Value) {
	case uncertainty.Missed:
		return beyond, ids
	case uncertainty.Open:
		if r.Beyond(got.Value.Value) > 0 {
			return likely, ids
		}
		return open, ids
	}
	return no, nil
}

// finding describes a fault that a rule shows: how far beyond its threshold, and
// how it goes on from repetition to repetition.
func (d *diagnosis) finding(f model.Fault, t truth, ids []string) report.Finding {
	out := report.Finding{Fault: f.ID, Certainty: certainties[t], Readings: ids, Effects: []string{}}
	for _, id := range ids {
		l, ok := f.When.Leaf(id)
		r := d.readings[id]
		if !ok || l.AnsweredNo || r.Value == nil {
			continue
		}
		l = d.model.Banded(l)
		if by := l.Beyond(r.Value.Value); by > 0 && out.Excess == nil {
			out.Excess = &report.Excess{Reading: id, By: by}
		}
		if len(r.Repetitions) < 2 || out.Progress != nil {
			continue
		}
		c := report.Progress{Of: len(r.Repetitions), Trend: "same"}
		for _, x := range r.Repetitions {
			if l.Beyond(x.Value.Value) > 0 {
				c.Shown++
			}
		}
		first, last := r.Repetitions[0].Value, r.Repetitions[len(r.Repetitions)-1].Value
		if d := l.Beyond(last.Value) - l.Beyond(first.Value); math.Abs(d) > uncertainty.SmallestRealDifference(first, last) {
			c.Trend = "growing"
			if d < 0 {
				c.Trend = "fading"
			}
		}
		out.Progress = &c
	}
	return out
}

// faults orders the present faults: those of a lower stage first (a landing never comes
// before an open take-off), then those that no present fault brings about; among these the
// one that explains most of the others, then the one made earliest.
func (d *diagnosis) faults() (present, possible []report.Finding) {
	present, possible = []report.Finding{}, []report.Finding{}
	shown := map[string][]string{} // fault to the readings that show it
	for _, f := range d.model.Faults {
		switch t, ids := d.holds(f.When); t {
		case yes:
			shown[f.ID] = ids
		case likely, open:
			possible = append(possible, d.finding(f, t, ids))
		}
	}
	for _, f := range d.model.Faults {
		ids, ok := shown[f.ID]
		if !ok {
			continue
		}
		x := d.finding(f, yes, ids)
		x.Effects = d.model.Effects(f.ID, shown)
		x.First = !slices.ContainsFunc(d.model.Faults, func(o model.Fault) bool {
			_, there := shown[o.ID]
			return there && slices.Contains(d.model.Effects(o.ID, shown), f.ID)
		})
		present = append(present, x)
	}
	stage := func(f report.Finding) int { x, _ := d.model.Fault(f.Fault); return x.Stage }
	sort.SliceStable(present, func(i, j int) bool {
		a, b := present[i], present[j]
		switch {
		case stage(a) != stage(b):
			return stage(a) < stage(b)
		case a.First != b.First:
			return a.First
		case len(a.Effects) != len(b.Effects):
			return len(a.Effects) > len(b.Effects)
		}
		return d.model.PhaseOf(a.Fault) < d.model.PhaseOf(b.Fault)
	})
	sort.SliceStable(possible, func(i, j int) bool {
		return possible[i].Certainty == "likely" && possible[j].Certainty != "likely"
	})
	return present, possible
}

// Strengths lists what to praise: the first met checkpoint of each position, then the
// second ones, so that a short list still speaks of the whole movement. A checkpoint that is
// met because of a fault that is there, or may be, is not praised.
func Strengths(m model.Model, readings map[string]report.Reading, faults []report.Finding) []report.Strength {
	seen := map[string]int{}
	rounds := [][]report.Strength{}
	for _, cp := range m.Checkpoints {
		spoiled := slices.ContainsFunc(faults, func(f report.Finding) bool { return slices.Contains(cp.NotIf, f.Fault) })
		if cp.Keep == "" || readings[cp.ID].Verdict != uncertainty.Met || spoiled {
			continue
		}
		n := seen[cp.Position]
		seen[cp.Position]++
		if n == len(rounds) {
			rounds = append(rounds, nil)
		}
		rounds[n] = append(rounds[n], report.Strength{Reading: cp.ID, Text: cp.Keep})
	}
	return append([]report.Strength{}, slices.Concat(rounds...)...)
}

package model

import (
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"neokinema/core/uncertainty"
)

// Limits is the band past which a fault begins: the wider one where there are two.
func (c Checkpoint) Limits() uncertainty.Band {
	if c.Tolerated != nil {
		return *c.Tolerated
	}
	return c.Band
}

// Judge compares a value with the band: what lies past it but is tolerated stays open.
func (c Checkpoint) Judge(v uncertainty.Estimate) uncertainty.Verdict {
	if c.Info || c.Band.Lo == nil && c.Band.Hi == nil {
		return uncertainty.None
	}
	got := c.Band.Judge(v)
	if got == uncertainty.Missed && c.Limits().Judge(v) != uncertainty.Missed {
		return uncertainty.Open
	}
	return got
}

// Banded gives a leaf that goes by the checkpoint's band its thresholds.
func (m Model) Banded(r Rule) Rule {
	cp, ok := m.Checkpoint(r.Reading)
	if !ok || r.Outside == "" {
		return r
	}
	if r.Outside != "below" {
		r.Above = cp.Limits().Hi
	}
	if r.Outside != "above" {
		r.Below = cp.Limits().Lo
	}
	return r
}

// Beyond is how far a number lies past the threshold of a leaf; negative inside.
func (r Rule) Beyond(x float64) float64 {
	by := math.Inf(-1)
	if r.Above != nil {
		by = x - *r.Above
	}
	if r.Below != nil {
		by = math.Max(by, *r.Below-x)
	}
	return by
}

// Leaf finds the condition on a reading in a rule.
func (r Rule) Leaf(reading string) (Rule, bool) {
	if r.Reading == reading {
		return r, true
	}
	for _, part := range append(slices.Clone(r.Any), r.All...) {
		if l, ok := part.Leaf(reading); ok {
			return l, true
		}
	}
	return Rule{}, false
}

func (m Model) PhaseOf(fault string) int {
	f, _ := m.Fault(fault)
	return slices.IndexFunc(m.Phases, func(p Phase) bool { return p.ID == f.Phase || p.ID == f.Phase+"1" })
}

// Effects lists the present faults that follow from a fault, directly or through
// others (present or not: a link of the chain may be hidden from this view), in
// order of phase.
func (m Model) Effects(fault string, present map[string][]string) []string {
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
	sort.SliceStable(out, func(i, j int) bool { return m.PhaseOf(out[i]) < m.PhaseOf(out[j]) })
	return out
}

// Numbered is a measure of a repeated group in one repetition: its positions of the
// group are numbered.
func (m Measure) Numbered(n int) Measure {
	m.Positions = slices.Clone(m.Positions)
	for i, id := range m.Positions {
		if base, ok := strings.CutSuffix(id, "+1"); ok {
			m.Positions[i] = base + strconv.Itoa(n+1)
		} else if base, ok := strings.CutSuffix(id, "#"); ok {
			m.Positions[i] = base + strconv.Itoa(n)
		}
	}
	return m
}

// CurveBand is the band of the checkpoint that reads the same as a curve: of the lean of the
// trunk, or of a joint that is wanted at one position only; nil for others.
func (m Model) CurveBand(curve string) *uncertainty.Band {
	var list []Checkpoint
	part, joint := strings.CutPrefix(curve, "angle:")
	for _, side := range []string{"left_", "right_"} {
		part = strings.TrimPrefix(part, side)
	}
	for _, c := range m.Checkpoints {
		lean := curve == "lean:trunk" && c.Measure.Kind == "tilt" && slices.Equal(c.Measure.Points, []string{"mid_hip", "mid_shoulder"})
		if lean {
			return &c.Band
		}
		if joint && c.Measure.Kind == "joint" && strings.HasSuffix(c.Measure.Points[1], "_"+part) {
			list = append(list, c)
		}
	}
	if len(list) != 1 {
		return nil
	}
	return &list[0].Band
}

// Next is the key position that is to be flagged next; empty when there is none.
func (m Model) Next(flagged func(position string) bool) string {
	if m.Repeat != nil && m.Repeat.After != "" {
		// Turns are flagged one after the other, until the coach picks what ends them.
		begun, ended := -1, false
		for i, p := range m.Positions {
			switch {
			case p.Group != "" && flagged(p.ID):
				begun, ended = i, false
			case p.Group == "" && begun >= 0 && flagged(p.ID):
				ended = true
			}
		}
		if begun >= 0 && !ended && begun+1 < len(m.Positions) && m.Positions[begun+1].Group != "" {
			return m.Positions[begun+1].ID
		}
		if ended {
			return m.first(flagged, func(p Position) bool { return !p.Optional })
		}
	}
	if id := m.first(flagged, func(p Position) bool { return !p.Optional }); id != "" || m.Repeat == nil {
		return id
	}
	// Of a repeated group what makes a breakdown, one after the other.
	return m.first(flagged, func(p Position) bool {
		return slices.ContainsFunc(m.Repeat.Positions, func(q Position) bool { return q.ID == p.Group && !q.Optional })
	})
}

// first is the first position that is wanted and not flagged.
func (m Model) first(flagged func(string) bool, wanted func(Position) bool) string {
	for _, p := range m.Positions {
		if !flagged(p.ID) && wanted(p) {
			return p.ID
		}
	}
	return ""
}

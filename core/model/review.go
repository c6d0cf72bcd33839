package model

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Concern is something that a model does but a demanding coach would not sign. It is no
// mistake: the model can be read and used.
type Concern struct {
	Kind  ConcernKind
	Where string // id of the checkpoint, fault or variant
	Says  string
}

// ConcernKind is one kind of concern.
type ConcernKind string

// Kinds of concern.
const (
	// LeadsNowhere: an end of a band, or a question, from which no advice follows.
	LeadsNowhere ConcernKind = "leads nowhere"
	// OwnThreshold: a fault has another threshold than the band that the coach sees.
	OwnThreshold ConcernKind = "threshold of its own"
	// AsksThough: a fault's target is a question though it is told by a number too.
	AsksThough ConcernKind = "asks though a number exists"
	// Opposites: one fault, one cue for too much and too little.
	Opposites ConcernKind = "opposites in one"
	// OneCue: there is no second way of saying it, or none outward.
	OneCue ConcernKind = "one cue"
	// NotOutward: a cue that is marked outward speaks of the body.
	NotOutward ConcernKind = "not outward"
	// LooseDose: a dose without numbers, or without a ladder.
	LooseDose ConcernKind = "loose dose"
	// SameVariant: a variant differs from another one by its name alone.
	SameVariant ConcernKind = "variant without effect"
)

// Review lists the concerns about a model, unrolled as models are read.
func (m Model) Review() (out []Concern) {
	add := func(kind ConcernKind, where, says string, args ...any) {
		c := Concern{kind, where, fmt.Sprintf(says, args...)}
		if !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	variants := []Model{m}
	if len(m.Variants) > 0 {
		variants = nil
	}
	for i, v := range m.Variants {
		variants = append(variants, m.As(v.ID))
		for k := range i {
			if same(variants[i], variants[k]) {
				add(SameVariant, v.ID, "it is %q by another name", m.Variants[k].ID)
			}
		}
	}
	for _, v := range variants {
		v.leads(add)
	}
	for _, f := range m.Faults {
		m.reviewFault(f, add)
	}
	return out
}

// same tells whether two variants of a model do the same.
func same(a, b Model) bool {
	return reflect.DeepEqual(a.Positions, b.Positions) && reflect.DeepEqual(a.Phases, b.Phases) &&
		reflect.DeepEqual(a.Checkpoints, b.Checkpoints) && reflect.DeepEqual(a.Faults, b.Faults)
}

// leads tells of ends of bands and questions that no fault takes up.
func (m Model) leads(add func(ConcernKind, string, string, ...any)) {
	type end struct{ reading, end string }
	taken := map[end]bool{}
	for _, f := range m.Faults {
		for _, l := range f.When.leaves() {
			taken[end{l.Reading, "no"}] = taken[end{l.Reading, "no"}] || l.AnsweredNo
			for _, way := range l.ways() {
				taken[end{l.Reading, way}] = true
			}
		}
	}
	for _, c := range m.Checkpoints {
		if c.Info {
			continue
		}
		if c.Question != "" && !taken[end{c.ID, "no"}] {
			add(LeadsNowhere, c.ID, "a no to its question leads to no fault")
		}
		if c.Band.Lo != nil && !taken[end{c.ID, "below"}] {
			add(LeadsNowhere, c.ID, "below its band there is no fault")
		}
		if c.Band.Hi != nil && !taken[end{c.ID, "above"}] {
			add(LeadsNowhere, c.ID, "above its band there is no fault")
		}
	}
}

// leaves are the conditions on single readings.
func (r Rule) leaves() (out []Rule) {
	if r.Reading != "" {
		out = append(out, r)
	}
	for _, part := range append(slices.Clone(r.Any), r.All...) {
		out = append(out, part.leaves()...)
	}
	return out
}

// ways are the sides on which a condition on a number begins: below, above.
func (r Rule) ways() (out []string) {
	if r.Below != nil || r.Outside == "below" || r.Outside == "either" {
		out = append(out, "below")
	}
	if r.Above != nil || r.Outside == "above" || r.Outside == "either" {
		out = append(out, "above")
	}
	return out
}

// reviewFault goes through one fault.
func (m Model) reviewFault(f Fault, add func(ConcernKind, string, string, ...any)) {
	ways := map[string]string{}
	number := false
	for _, l := range f.When.leaves() {
		cp, _ := m.Checkpoint(l.Reading)
		number = number || cp.Measure.Kind != "answer"
		if (l.Above != nil || l.Below != nil) && (cp.Band.Lo != nil || cp.Band.Hi != nil) {
			add(OwnThreshold, f.ID, "%s has a band, and the rule another threshold", l.Reading)
		}
		for _, way := range l.ways() {
			if was, ok := ways[l.Reading]; ok && was != way {
				add(Opposites, f.ID, "%s too high and too low have one cue", l.Reading)
			}
			ways[l.Reading] = way
		}
	}
	if cp, _ := m.Checkpoint(f.Target); number && cp.Measure.Kind == "answer" {
		add(AsksThough, f.ID, "its target is the question %s", f.Target)
	}
	if len(f.Cues) < 2 || f.Cues[0].Focus != "outward" {
		add(OneCue, f.ID, "it has %d", len(f.Cues))
	}
	for _, c := range f.Cues {
		if part := bodyPart(c.Words); c.Focus == "outward" && part != "" {
			add(NotOutward, f.ID, "%q speaks of the %s", c.Words, part)
		}
	}
	for _, d := range f.Drills {
		if d.Dose.Sets == 0 || d.Dose.Reps == 0 || d.Dose.Effort == 0 || d.Dose.Rest == 0 || d.Dose.Week == 0 || d.Dose.Weeks == 0 {
			add(LooseDose, f.ID, "%q lacks sets, reps, effort, rest, times a week or weeks", d.Name)
		}
		if len(d.Ladder) < 3 || d.GoOn == "" || d.Stop == "" {
			add(LooseDose, f.ID, "%q has no ladder of three rungs, or does not say when to go on and when to stop", d.Name)
		}
	}
}

// bodyParts are words by which a cue speaks of the body and not of ground, implement or space.
var bodyParts = strings.Fields(`ankle ankles arm arms belly chest chin elbow elbows feet foot fingers finger hand hands head heel heels
	hip hips knee knees leg legs neck nose palm palms pelvis pocket ribs seat shank shin shoulder shoulders sole soles thigh thighs thumb toe toes
	torso trunk waist wrist wrists pocket pockets sit`)

// bodyPart is the part of the body of which a cue speaks; empty when it speaks of none.
func bodyPart(words string) string {
	for _, w := range strings.FieldsFunc(strings.ToLower(words), func(r rune) bool { return r < 'a' || r > 'z' }) {
		if slices.Contains(bodyParts, w) {
			return w
		}
	}
	return ""
}

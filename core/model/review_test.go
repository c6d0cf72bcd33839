package model

import (
	"slices"
	"testing"

	"neokinema/core/uncertainty"
)

func end(x float64) *float64 { return &x }

// signed is a small model with which nobody would find fault.
func signed() Model {
	band := uncertainty.Band{Lo: end(10), Hi: end(20)}
	drill := Drill{Name: "D", Dose: Dose{Sets: 3, Reps: 6, Effort: 60, Rest: 60, Week: 2, Weeks: 4}, Ladder: []string{"a", "b", "c"}, GoOn: "g", Stop: "s", Feel: "f"}
	fault := func(id, outside string) Fault {
		return Fault{ID: id, Phase: "p", Target: "lean", When: Rule{Reading: "lean", Outside: outside}, Drills: []Drill{drill},
			Cues: []Cue{{"outward", "Push the ground away.", "b"}, {"inward", "Knee up.", "b"}}}
	}
	return Model{ID: "m", Positions: []Position{{ID: "a"}, {ID: "b"}}, Phases: []Phase{{ID: "p", From: "a", To: "b"}},
		Variants:    []Variant{{ID: "one"}, {ID: "two", Bands: map[string]uncertainty.Band{"lean": {Lo: end(12), Hi: end(30)}}}},
		Checkpoints: []Checkpoint{{ID: "lean", Position: "a", Measure: Measure{Kind: "tilt"}, Band: band}, {ID: "eye", Position: "a", Measure: Measure{Kind: "answer"}, Question: "?"}},
		Faults:      []Fault{fault("high", "above"), fault("low", "below"), {ID: "seen", Phase: "p", Target: "eye", When: Rule{Reading: "eye", AnsweredNo: true}, Cues: fault("", "").Cues, Drills: []Drill{drill}}}}
}

func TestReview(t *testing.T) {
	if got := signed().Review(); len(got) != 0 {
		t.Fatalf("%v", got)
	}
	for _, c := range []struct {
		kind  ConcernKind
		where string
		spoil func(*Model)
	}{
		{LeadsNowhere, "lean", func(m *Model) { m.Faults = m.Faults[1:] }},
		{LeadsNowhere, "eye", func(m *Model) { m.Faults = m.Faults[:2] }},
		{LeadsNowhere, "lean", func(m *Model) { m.Faults[0].Only = []string{"two"} }},
		{OwnThreshold, "high", func(m *Model) { m.Faults[0].When = Rule{Reading: "lean", Above: end(22)} }},
		{Opposites, "high", func(m *Model) { m.Faults[0].When.Outside = "either" }},
		{Opposites, "high", func(m *Model) {
			m.Faults[0].When = Rule{Any: []Rule{m.Faults[0].When, {Reading: "lean", Outside: "below"}}}
		}},
		{AsksThough, "high", func(m *Model) { m.Faults[0].Target = "eye" }},
		{OneCue, "low", func(m *Model) { m.Faults[1].Cues = m.Faults[1].Cues[:1] }},
		{OneCue, "low", func(m *Model) { m.Faults[1].Cues = []Cue{{"inward", "a", "b"}, {"inward", "c", "d"}} }},
		{NotOutward, "low", func(m *Model) { m.Faults[1].Cues[0].Words = "Drop the hips, then go." }},
		{LooseDose, "low", func(m *Model) { m.Faults[1].Drills = []Drill{{Name: "D", Dose: Dose{Says: "a few"}}} }},
		{SameVariant, "two", func(m *Model) { m.Variants[1].Bands = nil }},
	} {
		m := signed()
		c.spoil(&m)
		if got := m.Review(); !slices.ContainsFunc(got, func(x Concern) bool { return x.Kind == c.kind && x.Where == c.where }) {
			t.Errorf("%s at %s is not told: %v", c.kind, c.where, got)
		}
	}
	// Information is not judged, so nothing need follow from it.
	m := signed()
	m.Checkpoints[0].Info, m.Faults = true, m.Faults[2:]
	if got := m.Review(); len(got) != 0 {
		t.Errorf("information: %v", got)
	}
}

// What lies past the band but is tolerated stays open, and no fault is made of it.
func TestTolerated(t *testing.T) {
	m := signed()
	m.Checkpoints[0].Tolerated = &uncertainty.Band{Lo: end(5), Hi: end(20)}
	for x, want := range map[float64]uncertainty.Verdict{15: uncertainty.Met, 7: uncertainty.Open, 2: uncertainty.Missed, 25: uncertainty.Missed, 9.9: uncertainty.Open} {
		if got := m.Checkpoints[0].Judge(uncertainty.Normal(x, 0.5)); got != want {
			t.Errorf("%g: %s, not %s", x, got, want)
		}
	}
	if r := m.Banded(Rule{Reading: "lean", Outside: "below"}); *r.Below != 5 || r.Above != nil {
		t.Errorf("%+v", r)
	}
	if c, _ := m.As("two").Checkpoint("lean"); c.Tolerated != nil {
		t.Error("another band keeps what was tolerated beside the first")
	}
	m.Checkpoints[0].Info = true
	if got := m.Checkpoints[0].Judge(uncertainty.Normal(2, 0.5)); got != uncertainty.None {
		t.Errorf("information is judged: %s", got)
	}
}

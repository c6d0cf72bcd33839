package model_test

import (
	"slices"
	"testing"

	"neokinema/core/model"
	"neokinema/core/uncertainty"
)

// turns is a throw with a group of three turns between a start and a release.
func turns() model.Model {
	m := model.Model{
		Positions: []model.Position{{ID: "entry"}, {ID: "release"}, {ID: "reverse", Optional: true}},
		Phases:    []model.Phase{{ID: "delivery", From: "catch*", To: "release"}},
		Repeat: &model.Repeat{ID: "turn", Name: "turn", After: "entry", Most: 3,
			Positions: []model.Position{{ID: "lift", Name: "Lift", Short: "lift"}, {ID: "catch", Name: "Catch", Short: "catch"}, {ID: "high", Optional: true}},
			Phases:    []model.Phase{{ID: "single", Name: "single support", From: "lift", To: "catch"}, {ID: "double", Name: "double support", From: "catch", To: "lift+1"}},
			Contacts:  []model.Contact{{Foot: "sweep", Name: "sweep foot", From: "catch", To: "lift+1"}}},
	}
	m.Unroll()
	return m
}

func TestUnrollNumbersAGroup(t *testing.T) {
	m := turns()
	var ids []string
	for _, p := range m.Positions {
		ids = append(ids, p.ID)
	}
	if want := []string{"entry", "lift1", "catch1", "high1", "lift2", "catch2", "high2", "lift3", "catch3", "high3", "release", "reverse"}; !slices.Equal(ids, want) {
		t.Errorf("%v", ids)
	}
	var phases []string
	for _, p := range m.Phases {
		phases = append(phases, p.ID+" "+p.From+"-"+p.To)
	}
	// The last repetition has no next one to run to; what begins at the last of the group
	// comes after it.
	if want := []string{"single1 lift1-catch1", "double1 catch1-lift2", "single2 lift2-catch2", "double2 catch2-lift3", "single3 lift3-catch3", "delivery catch*-release"}; !slices.Equal(phases, want) {
		t.Errorf("%v", phases)
	}
	if m.Positions[1].Optional || !m.Positions[4].Optional {
		t.Error("one repetition makes a breakdown, the others are optional")
	}
}

func TestNextPosition(t *testing.T) {
	m := turns()
	for _, c := range []struct {
		flagged []string
		want    string
	}{
		{nil, "entry"},
		{[]string{"entry"}, "lift1"},
		{[]string{"entry", "lift1"}, "catch1"},
		{[]string{"entry", "lift1", "catch1"}, "high1"},
		{[]string{"entry", "lift1", "catch1", "high1"}, "lift2"},       // turns go on …
		{[]string{"entry", "lift1", "catch1", "high1", "release"}, ""}, // … until the coach flags what ends them
		{[]string{"lift1", "catch1", "release"}, "entry"},
	} {
		if got := m.Next(func(id string) bool { return slices.Contains(c.flagged, id) }); got != c.want {
			t.Errorf("after %v: %q, not %q", c.flagged, got, c.want)
		}
	}
	flat := model.Model{Positions: []model.Position{{ID: "a"}, {ID: "b", Optional: true}, {ID: "c"}}}
	if got := flat.Next(func(id string) bool { return id == "a" }); got != "c" {
		t.Errorf("an optional position is asked for: %q", got)
	}
}

func TestVariantsHaveTheirOwnBandsAndParts(t *testing.T) {
	lo := 5.0
	m := model.Model{
		Variants:    []model.Variant{{ID: "glide"}, {ID: "rotation", Bands: map[string]uncertainty.Band{"a": {Lo: &lo}}}},
		Positions:   []model.Position{{ID: "both"}, {ID: "entry", Only: []string{"rotation"}}},
		Checkpoints: []model.Checkpoint{{ID: "a"}, {ID: "b", Only: []string{"glide"}}},
	}
	if g := m.As(""); len(g.Positions) != 1 || len(g.Checkpoints) != 2 || g.Checkpoints[0].Band.Lo != nil {
		t.Errorf("the first variant holds when none is chosen: %+v", g)
	}
	r := m.As("rotation")
	if len(r.Positions) != 2 || len(r.Checkpoints) != 1 || r.Checkpoints[0].Band.Lo == nil {
		t.Errorf("%+v", r)
	}
	if m.Checkpoints[0].Band.Lo != nil {
		t.Error("a variant changed the model that it was taken from")
	}
}

// The curve of a joint shows a band only when one position alone wants something of it.
func TestCurveBand(t *testing.T) {
	lo := 100.0
	band := uncertainty.Band{Lo: &lo}
	joint := func(id, knee string) model.Checkpoint {
		return model.Checkpoint{ID: id, Band: band, Measure: model.Measure{Kind: "joint", Points: []string{"front_hip", knee, "front_ankle"}}}
	}
	lean := model.Checkpoint{ID: "lean", Band: band, Measure: model.Measure{Kind: "tilt", Points: []string{"mid_hip", "mid_shoulder"}}}
	m := model.Model{Checkpoints: []model.Checkpoint{joint("k", "front_knee"), lean}}
	if b := m.CurveBand("angle:left_knee"); b == nil || *b.Lo != lo {
		t.Errorf("%v", b)
	}
	if b := m.CurveBand("lean:trunk"); b == nil {
		t.Error("the lean of the trunk has no band")
	}
	for _, id := range []string{"angle:left_hip", "speed:mid_hip"} {
		if b := m.CurveBand(id); b != nil {
			t.Errorf("%s has %v", id, b)
		}
	}
	m.Checkpoints = append(m.Checkpoints, joint("k2", "rear_knee"))
	if b := m.CurveBand("angle:left_knee"); b != nil {
		t.Error("two bands at two positions are shown as one")
	}
}

// One athlete's band stands before an age's, a younger age's before an older one's, and an age's
// before that of who has just begun.
func TestForWhom(t *testing.T) {
	at := func(v float64) uncertainty.Band { return uncertainty.Band{Hi: &v} }
	m := model.Model{Checkpoints: []model.Checkpoint{{ID: "x", Band: at(1)}}, Adjusted: []model.Adjusted{
		{Checkpoint: "x", Under: 16, Band: at(16)}, {Checkpoint: "x", Years: 2, Band: at(2)}, {Checkpoint: "x", Athlete: "kim", Band: at(3)}, {Checkpoint: "x", Under: 14, Band: at(14)}, {Checkpoint: "x", Under: 14, Years: 1, Band: at(141)},
	}}
	for _, c := range []struct {
		who  model.Whom
		want float64
	}{
		{model.Whom{Age: 30, Years: model.Unknown}, 1}, {model.Whom{Age: 30, Years: 2}, 1}, {model.Whom{Age: 30, Years: 1}, 2}, {model.Whom{Age: 15, Years: 1}, 16},
		{model.Whom{Age: 13, Years: 5}, 14}, {model.Whom{Age: 13, Years: 0}, 141}, {model.Whom{Age: 13, Years: model.Unknown}, 14}, {model.Whom{Athlete: "kim", Age: 13}, 3},
	} {
		if cp, _ := m.For(c.who).Checkpoint("x"); *cp.Band.Hi != c.want {
			t.Errorf("%+v: up to %g, not %g", c.who, *cp.Band.Hi, c.want)
		}
	}
}

package evaluate_test

import (
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/study"
)

// onRunway is an attempt at an event whose ground is marked, filmed from a stand.
func onRunway(t *testing.T, event string) (study.Attempt, evaluate.Input) {
	t.Helper()
	list, err := study.DrawOf(study.Build, 1, 0, event)
	if err != nil {
		t.Fatal(err)
	}
	// A camera that turns with a run along a runway knows its focal length, and so the scale.
	a, err := list[0].From(func(c *simcam.Camera) { c.Above, c.Distance, c.Pan = 2.5, 13, event != "high-jump" })
	if err != nil {
		t.Fatal(err)
	}
	in, ok := a.OnRunway(study.Exact)
	if !ok {
		t.Fatal("the ground does not show")
	}
	in.Contacts = study.Contacts(a.Scene.Truth)
	return a, in
}

func value(t *testing.T, r report.Report, id string) float64 {
	t.Helper()
	x, ok := r.Reading(id)
	if !ok || x.Value == nil {
		t.Errorf("%s is not read: %s", id, x.Reason)
		return math.NaN()
	}
	return x.Value.Value
}

// What a run-up states on marked ground holds the truth, and the model's checkpoints say it.
func TestRunUpsOnMarkedGround(t *testing.T) {
	for event, want := range map[string][]string{
		"high-jump":  {"radius", "lean_asked", "to_bar", "upward", "centre_to", "over_bar", "lands_behind", "lands_along"},
		"long-jump":  {"board", "off_speed", "upward", "part_ahead", "part_flown", "part_heels"},
		"pole-vault": {"box", "knee_first", "bend_begins"},
	} {
		a, in := onRunway(t, event)
		r := evaluate.Attempt(a.Model, in)
		if r.Approach == nil || len(r.Approach.Feet) < 4 {
			t.Fatalf("%s: %+v %v", event, r.Approach, r.Problems)
		}
		for _, o := range a.Runway(r) {
			if !o.Holds() && o.By() > 1.3*o.Half95 {
				t.Errorf("%s: %s %.3f with %.3f, truly %.3f", event, o.What, o.Value, o.Half95, o.Truth)
			}
		}
		for _, id := range want {
			value(t, r, id)
		}
		if event == "long-jump" {
			sum := value(t, r, "part_ahead") + value(t, r, "part_flown") + value(t, r, "part_heels")
			land := a.Scene.Truth.Frames[a.Scene.Truth.Positions["land"]].Landmarks
			heels := 100 * (math.Min(land["left_heel"].World[0], land["right_heel"].World[0]) - a.Scene.Motion.Props.Board)
			if math.Abs(sum-heels) > 25 {
				t.Errorf("the parts of the jump add up to %.0f cm, and the heels land at %.0f", sum, heels)
			}
		}
		// The table of steps goes by the same places.
		for _, p := range r.Approach.Feet {
			for _, s := range r.Steps {
				if s.From == p.From && p.Length != nil && s.Next != nil && (s.Length == nil || s.Length.Value != p.Length.Value) {
					t.Errorf("%s: a step of %v is %v in the table", event, p.Length, s.Length)
				}
			}
		}
	}
}

// Bad marks, a wrong leg and a stiff pole are told, and nothing is made up.
func TestRunUpsThatCannotBeRead(t *testing.T) {
	a, in := onRunway(t, "high-jump")
	missing := func(in evaluate.Input, what string) {
		t.Helper()
		r := evaluate.Attempt(a.Model, in)
		if r.Approach == nil || r.Approach.Curve != nil || !slices.ContainsFunc(r.Approach.Missing, func(m string) bool { return strings.Contains(m, what) }) {
			t.Errorf("%q is not told: %+v", what, r.Approach)
		}
		if x, _ := r.Reading("radius"); x.Value != nil || x.Reason == "" {
			t.Errorf("a radius without a curve: %+v", x)
		}
	}
	few := in
	few.Ground = &ground.ControlPoints{Template: "bar", Points: in.Ground.Points[:2]}
	missing(few, "four known places")
	other := in
	other.Athlete.TakeoffLeg = map[body.Side]body.Side{body.Left: body.Right, body.Right: body.Left}[in.Athlete.TakeoffLeg]
	delete(other.Points, "pole_low")
	missing(other, "check the take-off leg")
	none := in
	none.Ground = nil
	if r := evaluate.Attempt(a.Model, none); r.Approach != nil {
		t.Errorf("a run-up without ground: %+v", r.Approach)
	}
	v, in := onRunway(t, "pole-vault")
	straight := in
	straight.Points = maps.Clone(in.Points)
	straight.Points["pole_high"] = in.Points["tip"] // nothing like a pole that bends
	straight.Points["pole_low"] = in.Points["tip"]
	r := evaluate.Attempt(v.Model, straight)
	if r.Pole == nil || r.Pole.Onset != nil || r.Pole.Missing == "" {
		t.Errorf("a pole of one point: %+v", r.Pole)
	}
	if x, _ := r.Reading("knee_first"); x.Value != nil || x.Source == "measure" {
		t.Errorf("the question is not asked: %+v", x)
	}
}

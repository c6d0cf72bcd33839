package known

import (
	"math"
	"slices"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
	"neokinema/core/workshop"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
	"neokinema/simcam/study"
)

// fromLog are facts that the log tells: package logbook.
var fromLog = []string{"mark", "split-10", "split-20", "split-30", "goal", "bar", "wind", "winds", "plants", "masses", "marks", "mark-best", "mark-short", "mark-standing", "mark-glide", "mark-turn", "implement", "implement-mass", "turns", "straight-steps", "pole-length", "pole-rating"}

// fromReport are those that are taken from a report past its readings.
var fromReport = []string{"curve-step", "curve-radius", "curve-speed", "plant-along", "plant-out", "plant-speed", "toe-behind", "block-room", "jump-level", "jump-upward", "jump-angle", "jump-height", "centre-ahead", "cross-lengths", "cross-speeds",
	"release-speed", "release-angle", "release-height", "attack", "turns", "ball-radius", "pull", "thigh", "shank", "front-knee", "front-ahead", "spacing", "rear-knee", "rear-ahead", "start-time", "over-bar", "flown", "heels-ahead"}

// Whatever a question asks for by name, something tells; and readings that are taken are there.
func TestEveryFactIsTold(t *testing.T) {
	told := map[string]bool{}
	for _, name := range append(fromLog, fromReport...) {
		told[name] = true
	}
	for kind, k := range measured {
		told[k.fact] = true
		if !slices.ContainsFunc(evaluate.MeasureKinds(), func(m evaluate.MeasureKind) bool { return m.Name == kind }) {
			t.Errorf("there is no measure %s", kind)
		}
	}
	for event, list := range checkpoints {
		m, err := models.Load(event)
		if err != nil {
			t.Fatal(err)
		}
		for id, k := range list {
			told[k.fact] = true
			if _, ok := m.Checkpoint(id); !ok {
				t.Errorf("%s has no checkpoint %s", event, id)
			}
		}
	}
	for _, e := range sport.Events() {
		for name := range Card(string(e.ID), body.Person{Sex: body.Male, Height: 1.8, Mass: 75}) {
			told[name] = true
		}
	}
	for _, q := range workshop.Questions() {
		for _, in := range q.Inputs {
			if in.Fact != "" && !told[in.Fact] {
				t.Errorf("%s: nothing tells %s", q.ID, in.Fact)
			}
		}
	}
}

// A start whose points are known gives the geometry of both legs, and the pedals that it was drawn
// with come out of the question.
func TestAStartFillsTheBlocks(t *testing.T) {
	m, err := models.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	sc, err := simcam.New(simcam.Spec{Event: "sprint-start", CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720, Camera: simcam.Camera{Place: "side"}, Athlete: body.Person{Sex: body.Male, Height: 1.82, FrontLeg: body.Left}, Faults: map[string]float64{"front-knee": 118}})
	if err != nil {
		t.Fatal(err)
	}
	in := points.Input(sc.Truth, points.All(sc.Truth, 0.3, 7))
	for _, id := range []string{"set", "move", "to3"} {
		in.Flags[id] = sc.Truth.Positions[id]
	}
	f := Of(m, in, evaluate.Attempt(m, in))
	if v := f.Values["front-knee"]; math.Abs(v.Value-118) > 3+v.Half95 {
		t.Errorf("front knee %+v", v)
	}
	q, _ := workshop.Find("blocks")
	values := workshop.Values{"moveFront": {Value: 0}}
	filled := 0
	for _, i := range q.Inputs {
		if v, ok := f.Values[i.Fact]; ok && i.Fact != "" {
			values[i.ID] = workshop.Value{Value: v.Value, Half: v.Half95}
			filled++
		}
	}
	if filled != 6 {
		t.Errorf("%d of six inputs are filled: %v", filled, f.Values)
	}
	a, err := workshop.Ask("blocks", values, nil)
	if err != nil {
		t.Fatal(err)
	}
	spacing, _ := a.Line("spacing")
	if want := f.Values["spacing"]; math.Abs(spacing.Value.Value-want.Value) > want.Half95+spacing.Value.Half95 {
		t.Errorf("spacing %+v, measured %+v", spacing.Value, want)
	}
	// What was not moved is as it was measured, within doubt.
	for _, k := range Check(a, f) {
		if !k.Within {
			t.Errorf("nothing was moved, and %s differs: %+v", k.Fact, k)
		}
	}
	if v := f.Values["start-time"]; !(v.Value > 0.5 && v.Value < 2) {
		t.Errorf("first movement to the third toe-off: %+v", v)
	}
}

// Run-ups on marked ground give what their questions ask for, near what is true.
func TestRunUpsFillTheirPlans(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	list, err := study.DrawOf(study.Build, 6, 0, "high-jump", "long-jump")
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]int{}
	for _, a := range list {
		in, ok := a.OnRunway(study.White)
		if !ok {
			continue
		}
		r := evaluate.Attempt(a.Model, in)
		f := Of(a.Model, in, r)
		for name := range f.Values {
			got[name]++
		}
		for _, o := range a.Runway(r) {
			name := map[string]string{"radius": "curve-radius"}[o.What]
			if v, ok := f.Values[name]; ok && math.Abs(v.Value-o.Truth) > 2*v.Half95 {
				t.Errorf("%s: %s %+v, truly %.3g", a.Name, o.What, v, o.Truth)
			}
		}
		for i, p := range f.Path {
			if i > 0 && p.N >= f.Path[i-1].N || !(p.Y > -0.5 && p.Y < 15) {
				t.Errorf("%s: foot %d stands at %+v", a.Name, i, p)
			}
		}
	}
	for _, name := range []string{"plant-along", "curve-radius", "curve-speed", "curve-step", "jump-upward", "jump-level", "jump-height", "toe-behind"} {
		if got[name] == 0 {
			t.Errorf("no clip of %d tells %s: %v", len(list), name, got)
		}
	}
}

// The surer of two clips is taken, and numbers that are none are not.
func TestJoin(t *testing.T) {
	one := Facts{Values: map[string]uncertainty.Estimate{"pull": uncertainty.Normal(2000, 100), "turns": {Value: 3}}, Lists: map[string][]float64{"cross-lengths": {1, 2}}}
	one.Join(Facts{Values: map[string]uncertainty.Estimate{"pull": uncertainty.Normal(2100, 40), "attack": uncertainty.Normal(math.NaN(), 1)}, Lists: map[string][]float64{"cross-lengths": {1, 2, 3}, "cross-speeds": {4}}, Path: []workshop.Place{{}}})
	if one.Values["pull"].Value != 2100 || len(one.Lists["cross-lengths"]) != 3 || len(one.Path) != 1 {
		t.Errorf("%+v", one)
	}
	if _, ok := one.Values["attack"]; ok {
		t.Error("a number that is none")
	}
	f := Facts{Values: map[string]uncertainty.Estimate{}}
	pull := uncertainty.Normal(2500, 100)
	f.throw(report.Throw{Release: &throw.Release{Speed: uncertainty.Normal(25, 0.3)}, Turning: report.Turning{Turns: []throw.Turn{{N: 1}, {N: 2, Last: true, Radius: uncertainty.Normal(1.7, 0.1), Pull: &pull}}}})
	for name, want := range map[string]float64{"turns": 2, "pull": 2500, "ball-radius": 1.7, "release-speed": 25} {
		if f.Values[name].Value != want {
			t.Errorf("%s is %+v", name, f.Values[name])
		}
	}
}

// Cross steps are taken back from the block as far as each is known, in their order.
func TestCrossSteps(t *testing.T) {
	known := func(v float64) *uncertainty.Estimate { e := uncertainty.Normal(v, 0.03); return &e }
	room := known(1.9)
	foot := func(length, speed *uncertainty.Estimate) report.FootPlace {
		return report.FootPlace{Length: length, Speed: speed}
	}
	feet := []report.FootPlace{foot(known(1.4), known(5)), foot(nil, nil), foot(known(1.8), known(6.2)), foot(known(2), known(6)), foot(known(1.5), known(5.1)), {Before: room}}
	f := Facts{Values: map[string]uncertainty.Estimate{}, Lists: map[string][]float64{}}
	f.approach("javelin", report.Approach{Feet: feet})
	if got := f.Lists["cross-lengths"]; !slices.Equal(got, []float64{1.8, 2, 1.5}) {
		t.Errorf("lengths %v", got)
	}
	if got := f.Lists["cross-speeds"]; !slices.Equal(got, []float64{6.2, 6, 5.1}) {
		t.Errorf("speeds %v", got)
	}
	if f.Values["block-room"].Value != 1.9 {
		t.Errorf("room %+v", f.Values["block-room"])
	}
	a, err := workshop.Ask("javelin-plan", workshop.Values{"lengths": {List: f.Lists["cross-lengths"]}, "speeds": {List: f.Lists["cross-speeds"]}, "room": {Value: 1.9}}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if w, _ := a.Line("withdrawal"); math.Abs(w.Value.Value-7.2) > 1e-9 {
		t.Errorf("withdrawal %v", w.Value)
	}
	// One step alone makes no list.
	g := Facts{Values: map[string]uncertainty.Estimate{}, Lists: map[string][]float64{}}
	g.cross(feet[3:5])
	if len(g.Lists) != 0 {
		t.Errorf("of one step: %v", g.Lists)
	}
}

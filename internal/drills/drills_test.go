package drills

import (
	"math"
	"slices"
	"strings"
	"testing"

	"go.yaml.in/yaml/v3"

	"neokinema/core/sport"
	"neokinema/models"
	"neokinema/simcam/moving"
)

// Every drill of the models is there once, with all that a card says.
func TestTheLibraryIsWhole(t *testing.T) {
	all, err := Library()
	if err != nil {
		t.Fatal(err)
	}
	ids := map[string]bool{}
	events := map[string]int{}
	for _, d := range all {
		if ids[d.ID] {
			t.Errorf("%q twice", d.ID)
		}
		ids[d.ID] = true
		if d.Says == "" || len(d.Ladder) < 3 || d.Feel == "" || d.GoOn == "" || d.Stop == "" || d.Mistake == "" || len(d.For) == 0 || len(d.Place) == 0 {
			t.Errorf("%+v", d)
		}
		if text := d.Name + d.For[0].Name + d.Mistake; strings.Contains(text, "{") {
			t.Errorf("%q has a direction that nobody reads", text)
		}
		for _, e := range d.Events {
			events[e]++
		}
	}
	for _, e := range sport.IDs() {
		if events[e] < 10 {
			t.Errorf("%s has %d drills", e, events[e])
		}
	}
	// What is said of drills by name is said of ones that there are.
	figures, err := moving.Figures()
	if err != nil {
		t.Fatal(err)
	}
	known := func(name string) bool { return slices.ContainsFunc(all, func(d Drill) bool { return d.Name == name }) }
	for name := range figures {
		if !known(name) {
			t.Errorf("a figure of %q, which is no drill", name)
		}
	}
	var list []struct{ Drills []string }
	if err := yaml.Unmarshal(needs, &list); err != nil {
		t.Fatal(err)
	}
	for _, n := range list {
		for _, name := range n.Drills {
			if !known(name) {
				t.Errorf("needs of %q, which is no drill", name)
			}
		}
	}
}

// Drills that pull one measure in opposite directions are named to each other.
func TestNotTogether(t *testing.T) {
	all, _ := Library()
	at := func(name string) Drill {
		return all[slices.IndexFunc(all, func(d Drill) bool { return d.Name == name })]
	}
	low, high := at("Rise into set to a held bar"), at("Rise into set under a held bar")
	if !slices.Contains(low.NotWith, high.Name) || !slices.Contains(high.NotWith, low.Name) {
		t.Errorf("%v, %v", low.NotWith, high.NotWith)
	}
	for _, d := range all {
		if slices.Contains(d.NotWith, d.Name) {
			t.Errorf("%s not together with itself", d.Name)
		}
	}
}

// Every figure moves, above the ground.
func TestFiguresMove(t *testing.T) {
	all, _ := Library()
	moving := 0
	for _, d := range all {
		if !d.Moves {
			if _, err := Figure(d.ID); err == nil {
				t.Errorf("%s has a figure after all", d.Name)
			}
			continue
		}
		moving++
		f, err := Figure(d.ID)
		if err != nil {
			t.Errorf("%s: %v", d.Name, err)
			continue
		}
		lowest, way := 0.0, 0.0
		for id, p := range f.Points {
			if len(p) != 2*f.Frames {
				t.Fatalf("%s: %s has %d numbers for %d frames", d.Name, id, len(p), f.Frames)
			}
			for k := 0; k < f.Frames; k++ {
				lowest = min(lowest, p[2*k+1])
				way = max(way, math.Hypot(p[2*k]-p[0], p[2*k+1]-p[1]))
			}
		}
		if lowest < -0.12 {
			t.Errorf("%s: %.2f m under the ground", d.Name, -lowest)
		}
		if way < 0.15 {
			t.Errorf("%s: nothing moves by more than %.2f m", d.Name, way)
		}
	}
	if moving < 60 {
		t.Errorf("%d figures", moving)
	}
	if _, err := Find("nothing"); err == nil {
		t.Error("a drill that is none")
	}
}

// A rung has a criterion, a drill of the library, and a measure that its event has and judges.
func TestLaddersStandOnDrillsAndMeasures(t *testing.T) {
	list, err := Ladders()
	if err != nil {
		t.Fatal(err)
	}
	all, _ := Library()
	measured := 0
	for _, l := range list {
		m, err := models.Load(l.Event)
		if err != nil {
			t.Fatal(err)
		}
		if len(l.Rungs) < 6 || len(l.Rungs) > 12 || l.About == "" {
			t.Errorf("%s has %d rungs", l.Name, len(l.Rungs))
		}
		for _, r := range l.Rungs {
			if r.Name == "" || r.Criterion == "" {
				t.Errorf("%s: %+v", l.Name, r)
			}
			if !slices.ContainsFunc(all, func(d Drill) bool { return d.Name == r.Drill && slices.Contains(d.Events, l.Event) }) {
				t.Errorf("%s, %s: %q is no drill of the event", l.Name, r.Name, r.Drill)
			}
			if r.Measure == "" {
				continue
			}
			measured++
			if c, ok := m.Checkpoint(r.Measure); !ok || c.Info || c.Measure.Kind == "answer" {
				t.Errorf("%s, %s: %q judges nothing", l.Name, r.Name, r.Measure)
			}
		}
	}
	if len(list) < 4 || measured < 20 {
		t.Errorf("%d ladders, %d rungs that are measured", len(list), measured)
	}
}

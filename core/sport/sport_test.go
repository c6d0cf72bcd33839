package sport

import (
	"math"
	"testing"

	"neokinema/core/body"
)

// World Athletics Technical Rules: circles of 2.135 m, of the discus 2.50 m; sectors of
// 34.92 and, of the javelin, 28.96 degrees (rule 32); masses of grown athletes. From memory.
func TestThrowsByTheRules(t *testing.T) {
	for _, want := range []struct {
		id         string
		men, women float64
		circle     float64
		sector     float64
	}{
		{"shot", 7.26, 4, 2.135, 34.92}, {"discus", 2, 1, 2.5, 34.92}, {"hammer", 7.26, 4, 2.135, 34.92}, {"javelin", 0.8, 0.6, 0, 28.96},
	} {
		e := Of(want.id)
		if e.Implement == nil || e.Implement.Of(body.Male, 0).Mass != want.men || e.Implement.Of(body.Female, 30).Mass != want.women || e.Circle != want.circle || math.Abs(2*e.Sector-want.sector) > 1e-9 || !e.Held {
			t.Errorf("%s: %+v", want.id, e)
		}
	}
}

func TestEveryEventIsComplete(t *testing.T) {
	seen := map[ID]bool{}
	for _, e := range Events() {
		if seen[e.ID] || e.Name == "" || Recheck(e.Change) == 0 || (e.Implement != nil) != (e.Sector > 0) || e.Implement != nil && !e.Held {
			t.Errorf("%+v", e)
		}
		seen[e.ID] = true
		if Of(string(e.ID)).Name != e.Name {
			t.Errorf("%s is not found", e.ID)
		}
	}
	if e := Of("stone put"); e.Implement != nil || e.Change != Throw || len(seen) != len(IDs()) {
		t.Errorf("an event that nobody knows: %+v", e)
	}
}

// Masses by age class, from memory of the same rules.
func TestImplementsByAgeClass(t *testing.T) {
	for _, c := range []struct {
		event string
		sex   body.Sex
		age   int
		mass  float64
	}{
		{"shot", body.Male, 17, 5}, {"shot", body.Male, 18, 6}, {"shot", body.Male, 19, 6}, {"shot", body.Male, 20, 7.26}, {"shot", body.Male, 13, 5},
		{"shot", body.Female, 17, 3}, {"shot", body.Female, 18, 4}, {"discus", body.Male, 17, 1.5}, {"discus", body.Male, 19, 1.75}, {"discus", body.Female, 16, 1},
		{"hammer", body.Male, 17, 5}, {"hammer", body.Female, 17, 3}, {"javelin", body.Male, 17, 0.7}, {"javelin", body.Male, 19, 0.8}, {"javelin", body.Female, 17, 0.5}, {"javelin", body.Female, 19, 0.6},
	} {
		if got := Of(c.event).Implement.Of(c.sex, c.age); got.Mass != c.mass {
			t.Errorf("%s, %s of %d: %g kg, not %g", c.event, c.sex, c.age, got.Mass, c.mass)
		}
	}
	for _, e := range Events() {
		if e.Implement == nil {
			continue
		}
		for _, list := range [][]Size{e.Implement.Men, e.Implement.Women} {
			for i, s := range list {
				if last := i == len(list)-1; last != (s.Under == 0) || s.Mass <= 0 || (s.Diameter == 0) == (s.Length == 0) || i > 0 && s.Mass <= list[i-1].Mass {
					t.Errorf("%s: %+v", e.ID, list)
				}
			}
		}
	}
}

// What is usual lies between the least and the most, and who has steps or turns has one of them.
func TestPaces(t *testing.T) {
	for _, e := range Events() {
		for _, p := range []Pace{e.Steps, e.Turns} {
			if p != (Pace{}) && !(0 < p.Least && p.Least < p.Usual && p.Usual < p.Most) {
				t.Errorf("%s: %+v", e.ID, p)
			}
		}
		if e.Turned != (e.Turns.Usual > 0) {
			t.Errorf("%s is turned: %v, with %+v", e.ID, e.Turned, e.Turns)
		}
		if e.Steps.Usual > 0 && e.Turns.Usual > 0 {
			t.Errorf("%s runs and turns", e.ID)
		}
	}
}

// Every event has a place with a word of caution, and what is measured has usual reasons of fouls.
func TestPlacesAndFouls(t *testing.T) {
	for _, e := range Events() {
		if Safety(e.Place) == "" {
			t.Errorf("%s: nothing is looked at before it", e.Name)
		}
		if (e.Implement != nil || e.Change == Jump) && len(e.Fouls) < 2 {
			t.Errorf("%s: fouls %v", e.Name, e.Fouls)
		}
	}
	if Safety("moon") != "" {
		t.Error("a place that is none")
	}
}

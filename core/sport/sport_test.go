package sport

import (
	"math"
	"testing"
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
		if e.Implement == nil || e.Implement.Mass != [2]float64{want.men, want.women} || e.Circle != want.circle || math.Abs(2*e.Sector-want.sector) > 1e-9 || !e.Held {
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

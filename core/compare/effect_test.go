package compare_test

import (
	"testing"

	"neokinema/core/compare"
	"neokinema/core/model"
	"neokinema/core/uncertainty"
)

func TestCompare(t *testing.T) {
	lo, hi := 85.0, 100.0
	cp := model.Checkpoint{ID: "x", Band: uncertainty.Band{Lo: &lo, Hi: &hi}}
	for _, c := range []struct {
		before, after, sd float64
		want              string
	}{
		{118, 104, 2, "taken"}, {118, 114, 2, "not_taken"}, {118, 130, 2, "away"}, {118, 70, 2, "overdone"}, {118, 95, 2, "taken"}, {92, 96, 1, "away"}, {118, 112, 4, "not_taken"},
	} {
		e := compare.EffectOf(cp, uncertainty.Normal(c.before, c.sd), uncertainty.Normal(c.after, c.sd))
		if e.Verdict != c.want {
			t.Errorf("%v to %v (sd %v): %s, want %s", c.before, c.after, c.sd, e.Verdict, c.want)
		}
	}
}

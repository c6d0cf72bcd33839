package evaluate_test

import (
	"math"
	"testing"

	"neokinema/core/evaluate"
	"neokinema/simcam/study"
)

// Steps that follow each other share the moments between them: the mean of the cadence is known
// by the ends of the row, and holds the truth.
func TestCadenceIsKnownByTheEndsOfTheRow(t *testing.T) {
	list, err := study.Draw(study.Build, 6, 0)
	if err != nil {
		t.Fatal(err)
	}
	inside, all := 0, 0
	for _, a := range list {
		if a.Model.ID != "running" {
			continue
		}
		truth, _, err := a.Truth()
		if err != nil {
			t.Fatal(err)
		}
		want, _ := truth.Reading("cadence")
		for _, flagged := range []bool{false, true} {
			got, _ := evaluate.Attempt(a.Model, a.Input(study.White, flagged)).Reading("cadence")
			if got.Value == nil || want.Value == nil || len(got.Repetitions) < 2 {
				t.Fatalf("%s: %+v, truly %+v", a.Name, got, want)
			}
			one := got.Repetitions[0].Value.Half95
			if got.Value.Half95 > 0.6*one {
				t.Errorf("%s: ±%.1f of %d steps, ±%.1f of one", a.Name, got.Value.Half95, len(got.Repetitions), one)
			}
			if all++; math.Abs(got.Value.Value-want.Value.Value) <= got.Value.Half95 {
				inside++
			}
		}
	}
	if all < 8 || inside < all-1 {
		t.Errorf("the truth is inside in %d of %d", inside, all)
	}
}

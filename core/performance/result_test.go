package performance

import (
	"math"
	"testing"
)

func TestResultsOfEveryKind(t *testing.T) {
	for text, want := range map[string]Result{
		"58.40 m": {58.40, "m", ""}, "182-6": {55.626, "m", ""}, "60 m 7.41 s": {7.41, "s", "60 m"}, "10 m  1.92s": {1.92, "s", "10 m"},
		"7,41 s": {7.41, "s", ""}, "5:18 a km": {318, "s", "1 km"}, "400 m 1:02.3": {62.3, "s", "400 m"}, "30 m 3.41": {3.41, "s", "30 m"},
		"no height": {}, "": {}, "1:75": {}, "x": {}, "60 m": {60, "m", ""}, "0 s": {},
	} {
		got, ok := Read(text)
		if ok != (want.Value > 0) || ok && (math.Abs(got.Value-want.Value) > 1e-9 || got.Unit != want.Unit || got.Over != want.Over) {
			t.Errorf("%q is %+v, %v; want %+v", text, got, ok, want)
		}
	}
	if !(Result{7.38, "s", "60 m"}).Better(Result{7.41, "s", "60 m"}) || (Result{5.1, "m", ""}).Better(Result{5.2, "m", ""}) {
		t.Error("less time and more metres are better")
	}
}

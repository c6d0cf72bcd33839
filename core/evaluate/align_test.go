package evaluate

import (
	"math"
	"testing"

	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
)

// Two clocks are brought together by moments that come once and that both are sure of; steps
// alone do not tell which is which, and moments that contradict each other are refused.
func TestClocksOfTwoClips(t *testing.T) {
	m := model.Model{Positions: []model.Position{{ID: "td1", Nth: 1}, {ID: "td2", Nth: 2}, {ID: "plant"}, {ID: "release"}}}
	at := func(shift float64, list map[string]float64) map[string]Moment {
		out := map[string]Moment{}
		for id, v := range list {
			out[id] = Moment{At: v + shift, SD: 0.004, Sure: 1}
		}
		return out
	}
	own := map[string]float64{"td1": 0.2, "td2": 0.45, "plant": 0.9, "release": 1.1}
	o, fits := align(m, at(0, own), at(2.5, own), nil)
	if !fits || o == nil || math.Abs(o.Seconds-2.5) > 1e-9 || o.SD > 0.004 || len(o.By) != 4 {
		t.Errorf("%+v, fits %v", o, fits)
	}
	if o, fits := align(m, at(0, own), at(2.5, map[string]float64{"td1": 0.2, "td2": 0.45}), nil); o != nil || !fits {
		t.Errorf("by steps alone: %+v, fits %v", o, fits)
	}
	if o, fits := align(m, at(0, own), at(0, map[string]float64{"plant": 1.8, "release": 2.2}), nil); fits {
		t.Errorf("at twice the rate: %+v", o)
	}
	guess := at(2.5, own)
	for id, x := range guess {
		x.Sure = 0.5
		guess[id] = x
	}
	if o, _ := align(m, at(0, own), guess, nil); o != nil {
		t.Errorf("by guesses: %+v", o)
	}
}

// Sound brings together what no moment does, with the doubt of microphones that stand unlike far
// away. It is one witness among moments: they outvote it, a coach's word does alone, and one
// moment that nobody has looked at does not.
func TestClocksBySound(t *testing.T) {
	m := model.Model{Positions: []model.Position{{ID: "td1", Nth: 1}, {ID: "plant"}, {ID: "release"}}}
	at := func(shift float64, flagged bool, ids ...string) map[string]Moment {
		out := map[string]Moment{}
		for i, id := range ids {
			out[id] = Moment{At: float64(i) + shift, SD: 0.004, Sure: 1, Flagged: flagged}
		}
		return out
	}
	for _, c := range []struct {
		name    string
		ids     []string
		flagged bool
		heard   float64
		fits    bool
		want    float64 // NaN: nothing brings them together
		sd      float64
		by      int
	}{
		{"sound alone", nil, false, 2.5, true, 2.5, soundSD, 1},
		{"sound and steps, which may be others", []string{"td1"}, false, 2.7, true, 2.7, soundSD, 1},
		{"sound and a moment that fit", []string{"plant"}, false, 2.52, true, 2.5, 0.01, 2},
		{"sound against one moment", []string{"plant"}, false, 4, false, 0, 0, 0},
		{"sound against one that a coach has flagged", []string{"plant"}, true, 4, true, 2.5, 0.01, 1},
		{"sound against two moments", []string{"plant", "release"}, false, 4, true, 2.5, 0.01, 2},
	} {
		o, fits := align(m, at(0, c.flagged, c.ids...), at(2.5, c.flagged, c.ids...), &c.heard)
		if fits != c.fits || fits && (o == nil || math.Abs(o.Seconds-c.want) > 0.002 || o.SD > c.sd || len(o.By) != c.by) {
			t.Errorf("%s: %+v, fits %v", c.name, o, fits)
		}
	}
}

// Values that agree become one, as wide as they stand apart and no narrower than the surest;
// directions are brought to one count.
func TestValuesOfTwoClips(t *testing.T) {
	knee, ball := model.Checkpoint{Measure: model.Measure{Kind: "joint"}}, model.Checkpoint{Measure: model.Measure{Kind: "azimuth"}}
	a, b := uncertainty.Normal(100, 2), uncertainty.Normal(104, 2)
	if v := joined(knee, []uncertainty.Estimate{a, b}, true); math.Abs(v.Value-102) > 1e-9 || math.Abs(v.SD-2*math.Sqrt2) > 1e-9 {
		t.Errorf("%+v", v)
	}
	if v := joined(knee, []uncertainty.Estimate{a, b}, false); v.Value != 100 || v.SD <= 2 {
		t.Errorf("of steps: %+v", v)
	}
	if v := joined(ball, []uncertainty.Estimate{uncertainty.Normal(358, 2), uncertainty.Normal(2, 2)}, true); math.Abs(v.Value-360) > 1e-9 {
		t.Errorf("across 0: %+v", v)
	}
	reading := func(v uncertainty.Estimate) report.Reading { return report.Reading{Value: &v, Source: "measure"} }
	if !same(knee, reading(a), reading(b)) || same(knee, reading(a), reading(uncertainty.Normal(110, 2))) || !same(ball, reading(uncertainty.Normal(359, 1)), reading(uncertainty.Normal(1, 1))) {
		t.Error("what is one thing and what is not")
	}
	steps := reading(uncertainty.Normal(100, 0.1))
	for _, v := range []float64{90, 100, 110} {
		steps.Repetitions = append(steps.Repetitions, report.Repetition{Value: uncertainty.Normal(v, 0.1)})
	}
	if !same(knee, steps, reading(uncertainty.Normal(108, 0.1))) {
		t.Error("other steps may be other than these")
	}
}

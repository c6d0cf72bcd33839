package evaluate

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/uncertainty"
)

func simple() model.Model {
	return model.Model{ID: "x", Name: "x", View: "side", Positions: []model.Position{{ID: "set", Name: "Set"}, {ID: "go", Name: "Go"}},
		Checkpoints: []model.Checkpoint{{ID: "a", Name: "a", Position: "set", Measure: model.Measure{Kind: "joint", Points: []string{"left_hip", "left_knee", "left_ankle"}}, Unit: "°", Basis: "trade"}}}
}

// A checkpoint of an attempt alone is held to what a model's own are.
func TestAccepts(t *testing.T) {
	lo, hi, nan := 1.0, 2.0, math.NaN()
	good := model.Checkpoint{ID: "mine", Name: "x", Position: "set", Measure: model.Measure{Kind: "tilt", Points: []string{"left_hip", "left_knee"}}, Unit: "°", Band: uncertainty.Band{Lo: &lo, Hi: &hi}, Basis: "trade"}
	if err := Accepts(simple(), good); err != nil {
		t.Fatal(err)
	}
	for says, change := range map[string]func(*model.Checkpoint){
		"id is missing":         func(c *model.Checkpoint) { c.ID = "" },
		"too long":              func(c *model.Checkpoint) { c.Name = strings.Repeat("x", 500) },
		"no position":           func(c *model.Checkpoint) { c.Position = "nowhere" },
		"no measure":            func(c *model.Checkpoint) { c.Measure.Kind = "guess" },
		"needs 0 points":        func(c *model.Checkpoint) { c.Measure = model.Measure{Kind: "change"} },
		"must stand before":     func(c *model.Checkpoint) { c.Measure = model.Measure{Kind: "change", Readings: []string{"a", "b"}} },
		"no landmark":           func(c *model.Checkpoint) { c.Measure.Points = []string{"third_knee", "left_hip"} },
		"upside down":           func(c *model.Checkpoint) { c.Band = uncertainty.Band{Lo: &hi, Hi: &lo} },
		"that is no number":     func(c *model.Checkpoint) { c.Band = uncertainty.Band{Lo: &nan} },
		"the basis is":          func(c *model.Checkpoint) { c.Basis = "feeling" },
		"there is no view":      func(c *model.Checkpoint) { c.Views = []string{"below"} },
		"needs a question":      func(c *model.Checkpoint) { c.Measure = model.Measure{Kind: "answer"} },
		"positions and 0 readi": func(c *model.Checkpoint) { c.Measure = model.Measure{Kind: "duration"} },
	} {
		c := good
		change(&c)
		if err := Accepts(simple(), c); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", says, err)
		}
	}
}

// A checkpoint that no model could have costs itself, whatever it is.
func TestOneBrokenPartCostsItself(t *testing.T) {
	in := Input{Clip: ClipInfo{Width: 100, Height: 100, Stamps: []int64{0, 3000, 6000}, FileRate: 30, CaptureRate: 30, View: "side"}, Flags: map[string]int{"set": 0, "go": 2}, Answers: map[string]Judgement{}}
	in.Athlete = body.Person{Height: 1.8, FrontLeg: "left", ThrowingHand: "right", TakeoffLeg: "left"}
	in.Extra = []model.Checkpoint{{ID: "mine", Name: "mine", Position: "set", Measure: model.Measure{Kind: "change"}}, {ID: "turn", Name: "turn", Position: "set", Measure: model.Measure{Kind: "turn"}},
		{ID: "share", Name: "share", Position: "set", Measure: model.Measure{Kind: "share", Positions: []string{"set"}}}, {ID: "time", Name: "time", Position: "set", Measure: model.Measure{Kind: "duration", Positions: []string{"set", "go"}}, Unit: "ms"}}
	r := Attempt(simple(), in)
	if len(r.Readings) != 5 {
		t.Fatalf("%d readings", len(r.Readings))
	}
	for _, id := range []string{"mine", "turn", "share"} {
		if x, _ := r.Reading(id); x.Value != nil || x.Reason == "" {
			t.Errorf("%s: %+v", id, x)
		}
	}
	if x, _ := r.Reading("time"); x.Value == nil {
		t.Errorf("the one behind them: %+v", x)
	}
	if len(r.Broken) == 0 || len(r.Problems) < len(r.Broken) || !strings.Contains(r.Broken[0], "goroutine") {
		t.Errorf("%d broken, problems %q", len(r.Broken), r.Problems)
	}
}

func FuzzExtraCheckpoint(f *testing.F) {
	for _, s := range []string{`{"kind":"change"}`, `{"kind":"share","positions":["set"]}`, `{"kind":"tilt","points":["left_hip","left_knee"]}`, `{"kind":"sequence","points":["left_hip"],"positions":["set","go"]}`, `{"kind":"azimuth","points":["ball"]}`} {
		f.Add([]byte(s), "set", 1)
	}
	f.Fuzz(func(t *testing.T, raw []byte, position string, frame int) {
		var m model.Measure
		if json.Unmarshal(raw, &m) != nil {
			return
		}
		in := Input{Clip: ClipInfo{Width: 100, Height: 100, Stamps: []int64{0, 3000, 6000}, FileRate: 30, CaptureRate: 30, View: "side"}, Flags: map[string]int{"set": frame}, Answers: map[string]Judgement{},
			Extra: []model.Checkpoint{{ID: "mine", Name: "mine", Position: position, Measure: m}}}
		r := Attempt(simple(), in)
		if err := Accepts(simple(), in.Extra[0]); err == nil && len(r.Broken) > 0 {
			t.Errorf("it is accepted and breaks: %s", r.Broken[0])
		}
	})
}

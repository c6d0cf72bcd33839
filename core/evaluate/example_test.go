package evaluate_test

import (
	"fmt"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// A model with one checkpoint: the knee at a position that the coach flagged, with its
// three points placed by hand. A hand places to 2 px, so that the angle between sides of
// 100 px is known to 1.96 · 2 · 2/100 rad.
func ExampleAttempt() {
	lo, hi := 80.0, 100.0
	m := model.Model{ID: "of my own", View: "side",
		Positions: []model.Position{{ID: "set", Name: "Set"}},
		Checkpoints: []model.Checkpoint{{ID: "knee", Name: "Front knee", Position: "set", Unit: "°", Band: uncertainty.Band{Lo: &lo, Hi: &hi},
			Measure: model.Measure{Kind: "joint", Points: []string{"left_hip", "left_knee", "left_ankle"}}}}}
	in := evaluate.Input{Model: m.ID, Athlete: body.Person{Sex: body.Female, Height: 1.75}, Flags: map[string]int{"set": 2}, Points: kinematics.Points{},
		Clip: evaluate.ClipInfo{Width: 1280, Height: 720, Stamps: []int64{0, 375, 750, 1125}, FileRate: 240, CaptureRate: 240, View: "side", Direction: 1}}
	for id, at := range map[string][2]float64{"left_hip": {400, 300}, "left_knee": {500, 300}, "left_ankle": {500, 400}} {
		in.Points[id] = track.New(0)
		_ = in.Points[id].Set(2, &track.Point{X: at[0], Y: at[1], Source: "hand", Confidence: 1})
	}
	r, _ := evaluate.Attempt(m, in).Reading("knee")
	fmt.Printf("%.0f° ± %.1f°, %s\n", r.Value.Value, r.Value.Half95, r.Verdict)
	// Output: 90° ± 4.5°, met
}

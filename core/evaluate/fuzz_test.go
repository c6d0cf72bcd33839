package evaluate_test

import (
	"encoding/json"
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/repair"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// FuzzAttempt: whatever a coach, a card or a file may say, an evaluation tells what it cannot
// do at the place, and every part of it comes to an end with numbers that can be stored.
func FuzzAttempt(f *testing.F) {
	type base struct {
		m  model.Model
		in evaluate.Input
	}
	var bases []base
	for _, e := range move.Events() {
		s := simcam.Spec{Event: e.ID, CaptureRate: 60, FileRate: 30, Width: 1280, Height: 720, Direction: 1, Athlete: body.Person{Sex: body.Female, Height: 1.7, Mass: 62, FrontLeg: body.Left}}
		sc, err := simcam.New(s)
		if err != nil {
			f.Fatal(err)
		}
		in := points.Input(sc.Truth, points.All(sc.Truth, 0, 1))
		if in.Points["ball"] != nil {
			in.Points["ball"] = points.Ball(sc.Truth, 1, 1)
		}
		in.Ground = points.Circle(sc.Truth, 1, 1)
		bases = append(bases, base{load(f, e.ID), in})
		f.Add(uint8(len(bases)-1), 1.7, 62.0, 60.0, 0.0, 0.0, 0.0, 5, 60, uint8(0), "4 kg", "18.05")
	}
	f.Add(uint8(6), 1e-9, 1e300, 1e-300, 1e30, 1e39, 11.0, -1, 1<<40, uint8(3), "18-5 1/2", "")
	f.Fuzz(func(t *testing.T, event uint8, height, mass, rate, metres, shift, away float64, flag, last int, how uint8, implement, mark string) {
		b := bases[int(event)%len(bases)]
		in := b.in
		in.Points = kinematics.Points{}
		for id, p := range b.in.Points {
			in.Points[id] = p.Clone()
		}
		in.Flags = map[string]int{}
		in.Athlete.Height, in.Athlete.Mass, in.Clip.CaptureRate, in.Implement, in.Mark = height, mass, rate, implement, mark
		if how&1 > 0 {
			in.Scale = &calibration.Line{AX: 100, AY: 600, BX: 100 + shift, BY: 600, Metres: metres}
		}
		if in.Ground != nil {
			g := *in.Ground
			g.Away = away
			in.Ground = &g
		}
		if how&2 > 0 {
			in.Athlete.ThrowingHand, in.Athlete.TakeoffLeg, in.Clip.Direction = body.Left, body.Right, -in.Clip.Direction
		}
		if how&4 > 0 {
			in.Clip.View = []string{"side", "back", "front", "oblique"}[how>>6]
		}
		if how&8 > 0 {
			for _, p := range in.Points {
				for i := range p.X {
					if i%3 == int(event)%3 {
						p.X[i] += float32(shift)
					}
				}
			}
		}
		if how&16 > 0 {
			delete(in.Points, body.Landmarks()[int(event)%len(body.Landmarks())])
		}
		for i, p := range b.m.Positions {
			if i%4 == int(how>>4)%4 {
				in.Flags[p.ID] = flag + i*(last%7)
			}
		}
		for id, change := range repair.Draft(b.m, in).Changes {
			if in.Points[id] != nil {
				in.Points[id].Apply(change, false)
			}
		}
		r := evaluate.Attempt(b.m, in)
		for _, x := range r.Broken {
			t.Errorf("a part broke: %s", x)
		}
		if _, err := json.Marshal(r); err != nil {
			t.Errorf("the report cannot be stored: %v", err)
		}
		for _, x := range r.Readings {
			if x.Value != nil && (math.IsNaN(x.Value.Value) || math.IsInf(x.Value.Half95, 0)) {
				t.Errorf("%s is %+v", x.ID, *x.Value)
			}
		}
	})
}

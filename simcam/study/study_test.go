package study

import (
	"testing"

	"neokinema/core/body"
	"neokinema/simcam/audit"
)

// Movements of one's own keep to physics: feet that stand stand, whoever is in the air falls
// with g. They differ between lots, and a seed gives one movement.
func TestStylesKeepToPhysics(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	list, err := Draw(Spare, 2, 2)
	if err != nil {
		t.Fatal(err)
	}
	again, err := Draw(Spare, 2, 2)
	if err != nil {
		t.Fatal(err)
	}
	for i, a := range list {
		tr := a.Scene.Truth
		if slide := audit.Slide(tr); slide > 0.005 {
			t.Errorf("%s: a foot slides by %.1f mm", a.Name, 1000*slide)
		}
		for _, g := range audit.Falls(tr) {
			if g < 9.81*0.97 || g > 9.81*1.03 {
				t.Errorf("%s: somebody falls with %.2f m/s2", a.Name, g)
			}
		}
		if f := len(tr.Frames) / 2; tr.Frames[f].Landmarks["left_knee"] != again[i].Scene.Truth.Frames[f].Landmarks["left_knee"] {
			t.Errorf("%s: the same seed gives another movement", a.Name)
		}
	}
	other, err := Draw(Check, 1, 0)
	if err != nil {
		t.Fatal(err)
	}
	if other[0].Spec.Style == list[0].Spec.Style {
		t.Error("two lots have one movement")
	}
}

// Noise is as large as it is said to be, and slips turn the card.
func TestNoiseAndSlips(t *testing.T) {
	list, err := Doubled(Build, 1)
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range list[:2] {
		exact, white := a.Points(Noise{}), a.Points(White)
		var sum, n float64
		for _, id := range body.Landmarks() {
			for f := range exact[id].X {
				d := float64(exact[id].X[f] - white[id].X[f])
				sum, n = sum+d*d, n+1
			}
		}
		if v := sum / n; v < 0.9 || v > 1.1 {
			t.Errorf("%s: white noise of variance %.2f", a.Name, v)
		}
		if len(a.Spec.Faults) != 1 {
			t.Errorf("%s has the faults %v", a.Name, a.Spec.Faults)
		}
		in := a.Input(Drafts, true)
		was := in.Athlete
		OtherSide(&in)
		if in.Athlete.ThrowingHand != was.ThrowingHand.Other() || len(in.Flags) == 0 {
			t.Errorf("%s: %+v", a.Name, in.Athlete)
		}
	}
}

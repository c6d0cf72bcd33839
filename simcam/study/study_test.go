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

// Every slip changes what its name says and nothing else, and an implement is hidden where it is
// high.
func TestSlipsAndHiding(t *testing.T) {
	list, err := Draw(Build, 1, 0)
	if err != nil {
		t.Fatal(err)
	}
	kinds := map[string]int{}
	for _, a := range list {
		was := a.Input(White, false)
		for _, s := range Slips {
			in := was
			s.Make(a, &in)
			kinds[s.Of]++
			changed := map[string]bool{"scale": in.Scale != nil, "view": in.Clip.View != was.Clip.View, "rate": in.Clip.CaptureRate != was.Clip.CaptureRate}
			for of, is := range changed {
				if is != (of == s.Of) {
					t.Errorf("%s, %s %s: %s changed %v", a.Name, s.Of, s.Name, of, is)
				}
			}
		}
		hidden := a.HideHigh(&was, 0.1)
		if (a.Model.ID == "hammer" || a.Model.ID == "weight") && len(hidden) == 0 {
			t.Errorf("%s: nothing is hidden", a.Name)
		}
		for _, f := range hidden {
			if p, ok := was.Points["ball"].At(f); ok {
				t.Errorf("%s: seen in frame %d at %+v", a.Name, f, p)
			}
		}
	}
	if len(kinds) != 3 {
		t.Errorf("slips %v", kinds)
	}
}

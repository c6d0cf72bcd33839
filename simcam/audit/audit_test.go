package audit

import (
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

func clip(t testing.TB, s simcam.Spec) Clip {
	t.Helper()
	if s.Athlete.Height == 0 {
		s.Athlete = body.Person{Sex: body.Male, Height: 1.82, FrontLeg: body.Left}
	}
	s.CaptureRate, s.FileRate, s.Width, s.Height = 240, 240, 1280, 720
	sc, err := simcam.New(s)
	if err != nil {
		t.Fatal(err)
	}
	return Of(sc.Truth)
}

// every calls back for each event and variant.
func every(f func(e move.Event, variant string)) {
	for _, e := range move.Events() {
		for _, v := range e.Variants {
			f(e, v.ID)
		}
	}
}

// TestFaultsShowAndNoEarlierOneDoes: the faultless movement is inside every
// band; a dialled fault leaves its own and no band of an earlier fault.
func TestFaultsShowAndNoEarlierOneDoes(t *testing.T) {
	every(func(e move.Event, variant string) {
		signs := SignsOf(e.ID, variant)
		clean := clip(t, simcam.Spec{Event: e.ID, Variant: variant})
		for _, s := range signs {
			if !s.Met(clean) {
				t.Errorf("%s %s without fault: %s is %.3f %s, not %g to %g", e.ID, variant, s.Says, s.Of(clean), s.Unit, s.Low, s.High)
			}
		}
		for i, s := range signs {
			c := clip(t, simcam.Spec{Event: e.ID, Variant: variant, Faults: map[string]float64{s.Fault: e.Shown(variant, s.Fault)}})
			if s.Met(c) {
				t.Errorf("%s %s: %s does not show: %s is %.3f %s", e.ID, variant, s.Fault, s.Says, s.Of(c), s.Unit)
			}
			for _, u := range signs[:i] {
				if !u.Met(c) {
					t.Errorf("%s %s: %s brings the earlier %s: %.3f", e.ID, variant, s.Fault, u.Fault, u.Of(c))
				}
			}
		}
	})
}

// TestOneWindShowsItsFaultsToo: the signs of the winds read the last one there is.
func TestOneWindShowsItsFaultsToo(t *testing.T) {
	e, err := move.Find("hammer")
	if err != nil {
		t.Fatal(err)
	}
	clean := clip(t, simcam.Spec{Event: "hammer", Winds: 1, Turns: 4})
	for _, s := range SignsOf("hammer", "heel-start")[:2] {
		faulty := clip(t, simcam.Spec{Event: "hammer", Winds: 1, Turns: 4, Faults: map[string]float64{s.Fault: e.Shown("heel-start", s.Fault)}})
		if !s.Met(clean) || s.Met(faulty) {
			t.Errorf("%s: %.3f without the fault, %.3f with it, band %g to %g", s.Fault, s.Of(clean), s.Of(faulty), s.Low, s.High)
		}
	}
}

// TestEveryDialHasASign and every event at least four faults.
func TestEveryDialHasASign(t *testing.T) {
	if n := len(move.Events()); n != 10 {
		t.Errorf("%d events", n)
	}
	for _, e := range move.Events() {
		if len(e.Faults) < 4 {
			t.Errorf("%s has %d faults", e.ID, len(e.Faults))
		}
		signs := 0
		for _, s := range Signs() {
			if s.Event == e.ID {
				signs++
			}
		}
		if signs != len(e.Faults) {
			t.Errorf("%s has %d faults and %d signs", e.ID, len(e.Faults), signs)
		}
	}
}

func TestTimingsLieInTheirBands(t *testing.T) {
	every(func(e move.Event, variant string) {
		c := clip(t, simcam.Spec{Event: e.ID, Variant: variant})
		for _, b := range Bands() {
			if b.Event == e.ID && (b.Variant == "" || b.Variant == variant) && !b.Met(c) {
				t.Errorf("%s %s: %s is %.3f, not %g to %g", e.ID, variant, b.Says, b.Of(c), b.Low, b.High)
			}
		}
	})
}

// TestFeetStandAndBodiesFall in every event, also with a fault, small and
// left-handed.
func TestFeetStandAndBodiesFall(t *testing.T) {
	people := []body.Person{{Sex: body.Male, Height: 1.86, FrontLeg: body.Left}, {Sex: body.Female, Height: 1.42, FrontLeg: body.Right}}
	every(func(e move.Event, variant string) {
		for i, p := range people {
			s := simcam.Spec{Event: e.ID, Variant: variant, Athlete: p, Faults: map[string]float64{}}
			if i == 1 {
				s.Hand, s.Leg = body.Left, body.Right
				s.Faults[SignsOf(e.ID, variant)[0].Fault] = e.Shown(variant, SignsOf(e.ID, variant)[0].Fault)
			}
			c := clip(t, s)
			if d := Slide(c.Truth); d > 0.005 {
				t.Errorf("%s %s: a planted foot slides %.1f mm", e.ID, variant, 1000*d)
			}
			falls := Falls(c.Truth)
			for _, g := range falls {
				if math.Abs(g/9.81-1) > 0.02 {
					t.Errorf("%s %s: falls with %.3f m/s2", e.ID, variant, g)
				}
			}
			if jumps := map[string]int{"sprint-start": 3, "running": 4, "long-jump": 3, "high-jump": 4, "pole-vault": 4, "javelin": 4}; len(falls) < jumps[e.ID] {
				t.Errorf("%s %s: %d flights", e.ID, variant, len(falls))
			}
		}
	})
}

// TestAuditSeesASlideAndAFloat: the checks can fail.
func TestAuditSeesASlideAndAFloat(t *testing.T) {
	c := clip(t, simcam.Spec{Event: "running"})
	f := c.Pos("td2") + 24
	l := c.Frames[f].Landmarks["left_toe"]
	l.World[0] += 0.01
	c.Frames[f].Landmarks["left_toe"] = l
	if d := Slide(c.Truth); math.Abs(d-0.01) > 1e-6 {
		t.Errorf("a slide of 10 mm is seen as %.2f mm", 1000*d)
	}
	for i := range c.Frames {
		c.Frames[i].Centre.World[1] *= 0.9
	}
	for _, g := range Falls(c.Truth) {
		if math.Abs(g/9.80665-0.9) > 0.002 {
			t.Errorf("a fall of 0.9 g is seen as %.3f m/s2", g)
		}
	}
}

package evaluate_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/audit"
	"neokinema/simcam/points"
)

// filmed is an attempt worked out by a careful coach, and its truth.
func filmed(t *testing.T, s simcam.Spec) (report.Report, audit.Clip) {
	t.Helper()
	s.Direction, s.Athlete = 1, body.Person{Sex: body.Male, Height: 1.84, Mass: 82, FrontLeg: body.Left}
	m, in, err := points.ByEye(s)
	if err != nil {
		t.Fatal(err)
	}
	s.CaptureRate, s.FileRate, s.Width, s.Height = 240, 240, 1280, 720
	s.Camera.Pan = slices.Contains([]string{"long-jump", "javelin"}, s.Event)
	sc, err := simcam.New(s)
	if err != nil {
		t.Fatal(err)
	}
	return evaluate.Attempt(m, in), audit.Of(sc.Truth)
}

// Numbers of turns, of take-offs, of heights and of feet against what the simulated athlete
// does: the truth lies inside the stated doubt, and the doubt is small enough to help.
func TestMeasuresAgainstTheSimulatedAthlete(t *testing.T) {
	speed := func(c audit.Clip, id string, f, w int) r3.Vec {
		at := func(f int) r3.Vec {
			if id == "ball" {
				return c.Thing(f, "centre")
			}
			return c.At(f, id)
		}
		return r3.Scale(1/(c.Frames[f+w].Time-c.Frames[f-w].Time), r3.Sub(at(f+w), at(f-w)))
	}
	fastest := func(c audit.Clip, from, to string) (best float64) {
		for f := c.Pos(from); f < c.Pos(to); f++ {
			best = math.Max(best, r3.Norm(speed(c, "ball", f, 2)))
		}
		return best
	}
	leaves := func(c audit.Clip, side string, from int) int {
		for f := from; f < len(c.Frames); f++ {
			if !slices.Contains(c.Frames[f].Contacts, side) {
				return f
			}
		}
		return len(c.Frames)
	}
	for _, x := range []struct {
		event, variant, place, reading string
		doubt                          float64
		want                           func(audit.Clip) float64
	}{
		{"hammer", "heel-start", "back", "gain", 3.5, func(c audit.Clip) float64 {
			// Mean over the turns that have one before them.
			sum := 0.0
			for _, z := range [][3]string{{"zero1", "zero2", "zero3"}, {"zero2", "zero3", "zero4"}} {
				sum += fastest(c, z[1], z[2]) - fastest(c, z[0], z[1])
			}
			return sum / 2
		}},
		{"weight", "pendulum", "side", "turn_speed", 2, func(c audit.Clip) float64 {
			sum := 0.0
			for _, id := range []string{"catch1", "catch2", "catch3"} {
				sum += r3.Norm(speed(c, "ball", c.Pos(id), 3)) / 3
			}
			return sum
		}},
		{"hammer", "heel-start", "back", "radius", 0.12, func(c audit.Clip) float64 {
			sum, n := 0.0, 0.0
			for f := c.Pos("zero1"); f < c.Pos("release"); f++ {
				sum, n = sum+r3.Norm(r3.Sub(c.Thing(f, "centre"), c.At(f, "mid_shoulder"))), n+1
			}
			return sum / n
		}},
		{"long-jump", "hang", "side", "angle_to", 4, func(c audit.Clip) float64 {
			// Just after the toe-off, with what gravity takes until then.
			v := speed(c, "mid_hip", c.Pos("to")+7, 7)
			return math.Atan2(v.Y+body.Gravity*7/240, v.X) * 180 / math.Pi
		}},
		{"long-jump", "hang", "side", "run_speed", 1, func(c audit.Clip) float64 { return speed(c, "mid_hip", c.Pos("td")-10, 9).X }},
		{"discus", "standing", "side", "stand_level", 20, func(c audit.Clip) float64 {
			f := c.Pos("wind")
			v := r3.Sub(c.At(f, "left_shoulder"), c.At(f, "right_shoulder"))
			return math.Atan2(v.Y, math.Hypot(v.X, v.Z)) * 180 / math.Pi
		}},
		{"discus", "full", "back", "middle_knee", 20, func(c audit.Clip) float64 { return c.Knee(c.Pos("centre"), "right") }},
		{"discus", "full", "side", "rear_down", 60, func(c audit.Clip) float64 {
			return 1000 * float64(leaves(c, "right", c.Pos("release"))-c.Pos("release")) / 240
		}},
		{"discus", "full", "side", "feet_down", 60, func(c audit.Clip) float64 {
			return 1000 * float64(leaves(c, "left", c.Pos("release"))-c.Pos("release")) / 240
		}},
	} {
		r, c := filmed(t, simcam.Spec{Event: x.event, Variant: x.variant, Camera: simcam.Camera{Place: x.place}})
		got, want := read(t, r, x.reading), x.want(c)
		if got.Value == nil {
			t.Errorf("%s from the %s, %s: %s", x.event, x.place, x.reading, got.Reason)
			continue
		}
		if math.Abs(got.Value.Value-want) > got.Value.Half95 || got.Value.Half95 > x.doubt {
			t.Errorf("%s from the %s, %s: %.2f ± %.2f, true %.2f", x.event, x.place, x.reading, got.Value.Value, got.Value.Half95, want)
		}
	}
}

// A knee whose limbs both point past the camera is not read in who turns: the picture shows
// 154 degrees of what are 107.
func TestAKneeThatPointsPastTheCameraIsNotRead(t *testing.T) {
	for _, event := range []string{"discus", "shot"} {
		variant := map[string]string{"discus": "full", "shot": "rotational"}[event]
		r, _ := filmed(t, simcam.Spec{Event: event, Variant: variant, Camera: simcam.Camera{Place: "side"}})
		if x := read(t, r, "middle_knee"); x.Value != nil || !strings.Contains(x.Reason, "past the camera") {
			t.Errorf("%s: %+v", event, x)
		}
	}
}

// How a repeated reading goes on from its first repetition to its last.
func TestDriftAndWhatIsKept(t *testing.T) {
	r, _ := filmed(t, simcam.Spec{Event: "hammer", Variant: "heel-start", Camera: simcam.Camera{Place: "back"}})
	place, radius := read(t, r, "catch_place"), read(t, r, "radius")
	first, last := place.Repetitions[0].Value, place.Repetitions[len(place.Repetitions)-1].Value
	if x := read(t, r, "catch_later"); x.Value == nil || math.Abs(x.Value.Value-(last.Value-first.Value)) > 1e-9 || math.Abs(x.Value.SD-math.Hypot(first.SD, last.SD)) > 1e-9 {
		t.Errorf("%+v", x)
	}
	first, last = radius.Repetitions[0].Value, radius.Repetitions[len(radius.Repetitions)-1].Value
	if x := read(t, r, "radius_kept"); x.Value == nil || math.Abs(x.Value.Value-100*last.Value/first.Value) > 1e-9 {
		t.Errorf("%+v", x)
	}
	// From the side nothing tells how far the hips go from side to side.
	side, _ := filmed(t, simcam.Spec{Event: "hammer", Variant: "heel-start", Camera: simcam.Camera{Place: "side"}})
	if x := read(t, side, "sway"); x.Value != nil {
		t.Errorf("%+v", x)
	}
}

func read(t *testing.T, r report.Report, id string) report.Reading {
	t.Helper()
	x, ok := r.Reading(id)
	if !ok {
		t.Fatalf("no reading %s", id)
	}
	return x
}

// Who hangs or sails takes half a stride in the air, the legs coming together; a hitch-kick is one
// and a half. (The simulation knows no longer one.)
func TestStridesInTheAir(t *testing.T) {
	for variant, want := range map[string]float64{"hang": 0.5, "sail": 0.5, "hitch-kick": 1.5} {
		for _, leg := range []body.Side{body.Left, body.Right} {
			r, _ := filmed(t, simcam.Spec{Event: "long-jump", Variant: variant, Leg: leg})
			x := read(t, r, "strides_air")
			if x.Value == nil || x.Value.Value != want {
				t.Errorf("%s off the %s leg: %+v %s", variant, leg, x.Value, x.Reason)
			}
		}
	}
}

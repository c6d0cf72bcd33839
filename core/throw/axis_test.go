package throw_test

import (
	"fmt"
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/throw"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func turning(event string, hand body.Side, rate float64, place string, faults map[string]float64) simcam.Spec {
	return simcam.Spec{Event: event, Hand: hand, Direction: 1, Camera: simcam.Camera{Place: place}, CaptureRate: rate, FileRate: 30, Width: 1280, Height: 720, Faults: faults,
		Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 95}}
}

func middleOf(f simcam.Frame, part string) (m [3]float64) {
	for i := range m {
		m[i] = (f.Landmarks["left_"+part].World[i] + f.Landmarks["right_"+part].World[i]) / 2
	}
	return m
}

// The trunk's axis in the last frames before the release: one camera sees what lies
// across its sight, two see all of it.
func TestAxisOfTheTrunk(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, hand := range []body.Side{body.Right, body.Left} {
		right := 1.0
		if hand == body.Left {
			right = -1
		}
		for _, faults := range []map[string]float64{nil, {"lean-away": 18}} {
			pair, one, err := points.Twice(turning("hammer", hand, 240, "back", faults), "back", "side", 0.1, points.Careful)
			if err != nil {
				t.Fatal(err)
			}
			both, err := pair.New()
			if err != nil {
				t.Fatal(err)
			}
			side := throw.New(pair.B)
			at := one.Clip.ReleaseFrame - 2
			a, b := middleOf(one.Truth.Frames[at], "hip"), middleOf(one.Truth.Frames[at], "shoulder")
			x, y, z := b[0]-a[0], b[1]-a[1], b[2]-a[2]
			late := pair.B.ReleaseFrame - 2
			for _, c := range []struct {
				name  string
				o     *throw.Reconstruction
				frame int
				want  float64
			}{
				{"from behind", throw.New(one.Clip), at, math.Atan2(right*z, y)},
				{"from the side", side, late, math.Atan2(x, y)},
				{"from both", both.Orbit, at, math.Atan2(math.Hypot(x, z), y)},
			} {
				got, ok := c.o.Axis(c.frame)
				if want := c.want * 180 / math.Pi; !ok || math.Abs(got.Lean.Value-want) > math.Max(4, got.Lean.Half95) || got.Whole != (c.name == "from both") {
					t.Errorf("%s %v %s: leans %.1f ±%.1f, truth %.1f (%+v)", hand, faults, c.name, got.Lean.Value, got.Lean.Half95, want, got)
				}
			}
			got, _ := both.Orbit.Axis(at)
			want := math.Atan2(right*z, -x) * 180 / math.Pi
			if off := math.Remainder(got.Toward-want, 360); got.Lean.Value > 10 && math.Abs(off) > 15 {
				t.Errorf("%s %v: leans toward %.0f, truth %.0f", hand, faults, got.Toward, want)
			}
		}
	}
}

// The way of the feet over the turns, from behind, within its doubt.
func TestLineOfTheFeet(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, event := range []string{"hammer", "weight"} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			one, err := points.Throw(turning(event, hand, 240, "back", nil), points.Careful)
			if err != nil {
				t.Fatal(err)
			}
			o := throw.New(one.Clip)
			turns := o.Turns(one.Clip.Contacts, 7.26)
			got, ok := throw.FeetLine(o, turns)
			if !ok {
				t.Fatal("no line")
			}
			first, last := one.Truth.Frames[one.Truth.Positions["zero1"]], one.Truth.Frames[one.Truth.Positions[fmt.Sprint("catch", len(turns))]+10]
			a, b := middleOf(first, "toe"), middleOf(last, "toe")
			want := math.Atan2(b[2]-a[2], b[0]-a[0]) * 180 / math.Pi
			if hand == body.Left {
				want = -want
			}
			if math.Abs(got.Value-want) > got.Half95+1 {
				t.Errorf("%s %s: %.1f ±%.1f degrees, truth %.1f", event, hand, got.Value, got.Half95, want)
			}
			if _, ok := throw.FeetLine(o, turns[:1]); ok {
				t.Error("one turn has a line")
			}
		}
	}
}

// One camera often cannot tell a foot that points to it from one that points away:
// then no direction is given. Of those that are given at key positions hardly one is
// wrong; two cameras give all of them.
func TestFeetAreNotGuessed(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	given, wrong := 0, 0
	judge := func(o *throw.Reconstruction, truth simcam.Truth, foot, position string) (ok bool) {
		f, there := truth.Positions[position]
		if !there {
			return true
		}
		a, b := truth.Frames[f].Landmarks[foot+"_heel"].World, truth.Frames[f].Landmarks[foot+"_toe"].World
		want := math.Atan2(b[2]-a[2], a[0]-b[0]) * 180 / math.Pi
		v, known := o.Azimuth(foot+"_foot", f)
		if !known || v.SD > throw.Limit {
			return false
		}
		given++
		if math.Abs(math.Remainder(v.Value-want, 360)) > math.Max(30, v.Half95) {
			wrong++
		}
		return true
	}
	for i, event := range []string{"discus", "discus", "discus", "hammer", "weight"} {
		for seed := range uint64(8) {
			off := points.Careful
			off.Seed = 1 + seed + uint64(8*i)
			one, err := points.Throw(turning(event, body.Right, 120, "back", nil), off)
			if err != nil {
				t.Fatal(err)
			}
			o := throw.New(one.Clip)
			for _, q := range [][2]string{{"left", "pivot_off"}, {"right", "centre"}, {"left", "front"}, {"right", "front"}, {"right", "catch1"}, {"right", "catch2"}, {"right", "catch3"}} {
				judge(o, one.Truth, q[0], q[1])
			}
		}
	}
	if given < 12 || wrong > given/10 {
		t.Errorf("%d directions of feet are given, %d of them wrong", given, wrong)
	}
	given, wrong = 0, 0
	pair, one, err := points.Twice(turning("hammer", body.Right, 240, "back", nil), "back", "side", 0.1, points.Careful)
	if err != nil {
		t.Fatal(err)
	}
	both, err := pair.New()
	if err != nil {
		t.Fatal(err)
	}
	for n := 1; n <= 3; n++ {
		if !judge(both.Orbit, one.Truth, "right", fmt.Sprint("catch", n)) {
			t.Errorf("two cameras do not give the sweep foot of catch %d", n)
		}
	}
	for _, turn := range both.Orbit.Turns(one.Clip.Contacts, 7.26) {
		if turn.Sweep == nil || turn.Sweep.Value < 210 || turn.Sweep.Value > 275 {
			t.Errorf("turn %d: sweep foot %+v", turn.N, turn.Sweep)
		}
	}
	if wrong > 0 {
		t.Errorf("%d of %d are wrong with two cameras", wrong, given)
	}
}

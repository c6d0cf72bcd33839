package throw_test

import (
	"errors"
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/flight"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// disc films a discus throw with room for its flight.
func disc(t *testing.T, variant, place string, hand body.Side, rate, wobble float64) points.Thrown {
	t.Helper()
	c, err := points.Throw(simcam.Spec{Event: "discus", Variant: variant, Hand: hand, Direction: 1, Camera: simcam.Camera{Place: place, Distance: 14, Zoom: 0.45}, CaptureRate: rate, FileRate: 30, Width: 1920, Height: 1080,
		Athlete: body.Person{Sex: body.Female, Height: 1.78, Mass: 80}, Faults: map[string]float64{"wobble": wobble}}, points.Careful)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// Pitch, angle of attack and wobble of a simulated disc come back within their doubt,
// for both hands; from behind the roll does.
func TestAttitudeOfADisc(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, variant := range []string{"full", "standing"} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			for _, rate := range []float64{120, 240} {
				for _, wobble := range []float64{0, 6, 12} {
					c := disc(t, variant, "side", hand, rate, wobble)
					a, err := c.Clip.Attitude(c.Clip.ReleaseFrame)
					if err != nil || a.Wobble == nil {
						t.Fatalf("%s %s %g/s: %v, %+v", variant, hand, rate, err, a)
					}
					truth := c.Truth.Release
					// The disc leaves at one end of its wobble.
					pitch := truth.Angle + truth.Attack - wobble
					if off := math.Abs(a.Tilt.Value - pitch); a.Seen != "pitch" || off > a.Tilt.Half95+1 || off > 3 {
						t.Errorf("%s %s %g/s, wobble %g: pitch %.1f ±%.1f, truth %.1f", variant, hand, rate, wobble, a.Tilt.Value, a.Tilt.Half95, pitch)
					}
					if off := math.Abs(a.Wobble.Value - wobble); off > a.Wobble.Half95+1 || off > 3 {
						t.Errorf("%s %s %g/s: wobble %.1f ±%.1f, truth %g", variant, hand, rate, a.Wobble.Value, a.Wobble.Half95, wobble)
					}
					if wobble == 12 && math.Abs(a.Rate-11) > 1.5 {
						t.Errorf("%s %s %g/s: wobbles %.1f times a second, truth 11", variant, hand, rate, a.Rate)
					}
				}
			}
			c := disc(t, variant, "back", hand, 240, 0)
			a, err := c.Clip.Attitude(c.Clip.ReleaseFrame)
			// The outer edge is held 8 degrees down in the plane of the disc's way.
			if err != nil || a.Seen != "roll" || a.Tilt.Value < 4 || a.Tilt.Value > 16 {
				t.Errorf("%s %s from behind: %v, %+v", variant, hand, err, a)
			}
		}
	}
}

// What is not there is refused with what to do: from an oblique view, and with too few
// frames in which both ends are placed; a wobble that is not resolved is part of the
// pitch's doubt.
func TestAttitudeRefused(t *testing.T) {
	c := disc(t, "full", "oblique", body.Right, 240, 0)
	if _, err := c.Clip.Attitude(c.Clip.ReleaseFrame); !errors.Is(err, throw.ErrView) {
		t.Errorf("oblique: %v", err)
	}
	c = disc(t, "full", "side", body.Right, 120, 12)
	a, b := c.Clip.Points["rim_a"], c.Clip.Points["rim_b"]
	for f := c.Clip.ReleaseFrame + 5; f < c.Clip.Frames; f++ {
		_ = a.Set(f, nil)
	}
	few, err := c.Clip.Attitude(c.Clip.ReleaseFrame)
	if err != nil || few.Wobble != nil || few.Tilt.Half95 < 5 {
		t.Errorf("five frames of a wobbling disc: %v, %+v", err, few)
	}
	for f := c.Clip.ReleaseFrame; f < c.Clip.Frames; f++ {
		_ = b.Set(f, nil)
	}
	if _, err := c.Clip.Attitude(c.Clip.ReleaseFrame); !errors.Is(err, throw.ErrNoRim) {
		t.Errorf("one end only: %v", err)
	}
}

// A wobble costs distance, more the larger it is, nothing when there is none; the
// trade says 2 to 3 m for one that is plainly seen (common practice, no source).
func TestLostToWobble(t *testing.T) {
	l := throw.Release{Speed: uncertainty.Normal(24, 0.2), Angle: uncertainty.Normal(36, 0.5), Height: uncertainty.Normal(1.6, 0.02)}
	c := throw.FlightConditions{What: flight.Discus{Mass: 2, Diameter: 0.22}, Tip: -5}
	if v := l.LostToWobble(c, uncertainty.Normal(0, 0)); v.Value != 0 {
		t.Errorf("no wobble costs %g m", v.Value)
	}
	before := 0.0
	for _, half := range []float64{4, 8, 12, 18} {
		v := l.LostToWobble(c, uncertainty.Normal(half, 1))
		if v.Value <= before || v.SD <= 0 {
			t.Errorf("a wobble of %g degrees costs %.2f m ±%.2f, %.2f the one before", half, v.Value, v.Half95, before)
		}
		before = v.Value
		if half == 12 && (v.Value < 0.7 || v.Value > 4) {
			t.Errorf("a wobble of 12 degrees costs %.1f m", v.Value)
		}
	}
	if v := l.LostToWobble(throw.FlightConditions{What: flight.Ball{Mass: 4, Diameter: 0.1}}, uncertainty.Normal(5, 1)); !math.IsNaN(v.Value) {
		t.Errorf("a ball has a wobble that costs %g", v.Value)
	}
}

// A camera that stands a little beside the line mixes the disc's pitch into its roll: that is
// taken out, and doubted in all frames together.
func TestRollFromBesideTheLine(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, turned := range []float64{-14, 14} {
		c, err := points.Throw(simcam.Spec{Event: "discus", Hand: body.Right, Direction: 1, Camera: simcam.Camera{Place: "back", Turned: turned, Distance: 14, Zoom: 0.45}, CaptureRate: 240, FileRate: 30, Width: 1920, Height: 1080,
			Athlete: body.Person{Sex: body.Female, Height: 1.78, Mass: 80}}, points.Careful)
		if err != nil {
			t.Fatal(err)
		}
		a, err := c.Clip.Attitude(c.Clip.ReleaseFrame)
		if err != nil {
			t.Fatal(err)
		}
		// The outer edge is held 8 degrees down in the plane of the disc's way, 10 over the ground.
		if off := math.Abs(a.Tilt.Value - 10.3); off > a.Tilt.Half95 || off > 4 || a.Tilt.Half95 > 8 {
			t.Errorf("turned by %g: roll %.1f ±%.1f, truly 10.3", turned, a.Tilt.Value, a.Tilt.Half95)
		}
	}
}

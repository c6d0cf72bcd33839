package evaluate_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/simcam"
	"neokinema/simcam/points"
	"neokinema/simcam/study"
)

// A card that names the other hand or leg is told at every event that has a side, for both of
// them; a right one is not doubted.
func TestTheCardAgainstThePoints(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, s := range []simcam.Spec{
		{Event: "sprint-start"}, {Event: "long-jump"}, {Event: "high-jump"}, {Event: "pole-vault"}, {Event: "javelin"}, {Event: "shot", Variant: "glide"},
		{Event: "discus", Variant: "full", Camera: simcam.Camera{Place: "back"}}, {Event: "hammer", Camera: simcam.Camera{Place: "back"}},
	} {
		for _, side := range []body.Side{body.Left, body.Right} {
			s.CaptureRate, s.Direction, s.Hand, s.Leg = 120, 1, side, side.Other()
			s.Athlete = body.Person{Sex: body.Female, Height: 1.76, FrontLeg: side}
			tr := truth(t, s)
			in := points.Input(tr, points.All(tr, 0.5, 4))
			in.Points["ball"] = points.Ball(tr, 0.5, 4)
			told := func() bool {
				return slices.ContainsFunc(evaluate.Attempt(load(t, s.Event), in).Problems, func(p string) bool { return strings.Contains(p, "card says") })
			}
			if told() {
				t.Errorf("%s, %s: a right card is doubted", s.Event, side)
			}
			study.OtherSide(&in)
			if !told() {
				t.Errorf("%s, %s: a wrong card is not noticed", s.Event, side)
			}
		}
	}
}

// A camera that does not look square at the way: speeds come out within their doubt all the
// same, at both ends of the way, and the angle is told from how the runner grows.
func TestAWayThatIsNotSquare(t *testing.T) {
	for _, turned := range []float64{-14, 0, 14} {
		tr := truth(t, simcam.Spec{Event: "running", Speed: 6, CaptureRate: 240, Camera: simcam.Camera{Turned: turned, Distance: 9}})
		r := evaluate.Attempt(load(t, "running"), points.Input(tr, points.All(tr, 0.5, 8)))
		x, _ := r.Reading("speed")
		if x.Value == nil || len(x.Repetitions) < 3 {
			t.Fatalf("turned %g: %+v", turned, x)
		}
		if off := math.Abs(x.Value.Value - 6); off > x.Value.Half95 || off > 0.45 {
			t.Errorf("turned %g: %.2f ±%.2f m/s", turned, x.Value.Value, x.Value.Half95)
		}
		first, last := x.Repetitions[0].Value.Value, x.Repetitions[len(x.Repetitions)-1].Value.Value
		if math.Abs(first-last) > 0.35 {
			t.Errorf("turned %g: from %.2f to %.2f m/s along an even run", turned, first, last)
		}
	}
}

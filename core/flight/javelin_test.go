package flight

import (
	"math"
	"testing"

	"neokinema/core/vec3"
)

// javelinThrow flies a men's javelin, shaft along its path.
func javelinThrow(t *testing.T, v, deg, attack float64) (metres, attitude, path float64) {
	t.Helper()
	from := throw(v, deg, 1.9)
	s, c := math.Sincos((deg + attack) * math.Pi / 180)
	from.Axis = vec3.Vec{X: c, Y: s}
	list, err := Fly(Javelin{Mass: 0.8, Length: 2.65}, Still, from, 0, 20)
	if err != nil {
		t.Fatal(err)
	}
	end := list[len(list)-1]
	up := func(v vec3.Vec) float64 { return math.Atan2(v.Y, v.X) * 180 / math.Pi }
	return end.Position.X, up(end.Axis), up(end.Velocity)
}

// Throws of 28 and 30 m/s go 78 to 94 m, farthest at 30 to 36 degrees, and land point first:
// what is known of them (Best, Bartlett and Sawyer 1995, from memory; common practice).
func TestAJavelinFliesAsFarAsJavelinsDo(t *testing.T) {
	for v, band := range map[float64][2]float64{28: {78, 86}, 30: {86, 94}} {
		m, attitude, path := javelinThrow(t, v, 35, 0)
		if m < band[0] || m > band[1] {
			t.Errorf("%.0f m/s: %.1f m", v, m)
		}
		if attitude > -15 || attitude < -60 {
			t.Errorf("%.0f m/s: lands at %.0f degrees, its path at %.0f", v, attitude, path)
		}
	}
	best, most := 0.0, 0.0
	for deg := 26.0; deg <= 44; deg++ {
		if m, _, _ := javelinThrow(t, 28, deg, 0); m > most {
			best, most = deg, m
		}
	}
	if best < 30 || best > 36 {
		t.Errorf("farthest at %.0f degrees", best)
	}
	if up, _, _ := javelinThrow(t, 28, 35, 8); up > most {
		t.Errorf("with its point 8 degrees over the path it goes %.1f m, along it %.1f at best", up, most)
	}
}

// What no implement does ends with a word, and soon.
func TestAnAbsurdFlightEnds(t *testing.T) {
	for name, what := range map[string]Implement{"a gram": Ball{Mass: 1e-9, Diameter: 5}, "no mass": Ball{Diameter: 1}, "a javelin of nothing": Javelin{Mass: 1e-12, Length: 100}} {
		from := throw(1e4, 30, 2)
		from.Axis = vec3.Vec{Y: 1}
		list, err := Fly(what, Still, from, 0, 20)
		if err == nil || len(list) > mostSteps+1 {
			t.Errorf("%s: %d samples, %v", name, len(list), err)
		}
	}
}

package flight

import (
	"errors"
	"math"
	"testing"
)

// The speed that a distance demands throws just that far; in a vacuum it is the closed form.
func TestSpeedFor(t *testing.T) {
	from := Thrown{Height: 2.1, Angle: 38 * math.Pi / 180}
	for name, what := range map[string]Implement{"vacuum": Vacuum{}, "shot": Ball{Mass: 7.26, Diameter: 0.12}, "hammer": Ball{Mass: 7.26, Diameter: 0.12, WireArea: 0.0036}, "discus": Discus{Mass: 2, Diameter: 0.22}, "javelin": Javelin{Mass: 0.8, Length: 2.65}} {
		v, err := from.SpeedFor(what, Still, 20)
		if err != nil {
			t.Fatal(name, err)
		}
		if d, err := from.Distance(what, Still, v); err != nil || math.Abs(d-20) > 0.005 {
			t.Errorf("%s: %.3f m/s throws %.3f m (%v)", name, v, d, err)
		}
	}
	v, _ := from.SpeedFor(Vacuum{}, Still, 20)
	if d := Range(v, from.Angle, from.Height); math.Abs(d-20) > 0.005 {
		t.Errorf("closed form: %.3f m", d)
	}
	if _, err := from.SpeedFor(Vacuum{}, Still, 1000); !errors.Is(err, ErrDemand) {
		t.Errorf("1000 m: %v", err)
	}
	if _, err := from.SpeedFor(Vacuum{}, Still, math.NaN()); !errors.Is(err, ErrDemand) {
		t.Errorf("no distance: %v", err)
	}
}

// Air has 1.225 kg/m3 at sea level and 15 degrees, 1.058 at 1,500 m and 5.25 degrees (ICAO
// standard atmosphere, table values from memory).
func TestAirAt(t *testing.T) {
	if d := AirAt(0, 15, 0).Density; math.Abs(d-1.225) > 0.001 {
		t.Errorf("at the sea: %.4f", d)
	}
	if d := AirAt(1500, 5.25, 0).Density; math.Abs(d-1.0581) > 0.001 {
		t.Errorf("at 1,500 m: %.4f", d)
	}
	if warm, cold := AirAt(0, 35, 0).Density, AirAt(0, 5, 0).Density; warm >= cold {
		t.Errorf("warm air has %.3f, cold %.3f", warm, cold)
	}
}

// As few samples as a distance takes land where many do, to the mm, from soft to hard throws, in
// still air and in wind.
func TestCoarseFlightsLandAlike(t *testing.T) {
	for name, what := range map[string]Implement{"shot": Ball{Mass: 7.26, Diameter: 0.12}, "hammer": Ball{Mass: 4, Diameter: 0.1, WireArea: 0.0036}, "discus": Discus{Mass: 1, Diameter: 0.181}, "javelin": Javelin{Mass: 0.6, Length: 2.25}} {
		for _, speed := range []float64{8, 18, 29} {
			for _, wind := range []float64{-5, 0, 5} {
				from := Thrown{Height: 1.7, Angle: 36 * math.Pi / 180, Attack: -0.1}.State(what, speed)
				air := AirAt(300, 12, wind)
				fine, err := Fly(what, air, from, 0, 20)
				coarse, err2 := FlyCoarse(what, air, from, 0, 20)
				if err != nil || err2 != nil {
					t.Fatalf("%s: %v %v", name, err, err2)
				}
				a, b := fine[len(fine)-1], coarse[len(coarse)-1]
				if d := math.Abs(a.Position.X - b.Position.X); d > 1e-3 {
					t.Errorf("%s at %v m/s, wind %v: %.4f m apart", name, speed, wind, d)
				}
				if len(coarse) > len(fine)/3 {
					t.Errorf("%s at %v m/s: %d samples in place of %d", name, speed, len(coarse), len(fine))
				}
			}
		}
	}
}

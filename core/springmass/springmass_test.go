package springmass

import (
	"math"
	"testing"

	"neokinema/core/flight"
)

// Worked example of the method with tc 0.25 s and tf 0.10 s: 2.20 body weights,
// within the 2 to 2.5 that the trade expects at recreational pace (common
// practice).
func TestPeakForceExample(t *testing.T) {
	if f := (Times{0.25, 0.10}).PeakForce(); math.Abs(f-2.199) > 0.001 {
		t.Errorf("peak force %.4f", f)
	}
}

// Whatever the times, the mean force over a step is the weight: the half sine's
// mean over the contact, spread over contact and flight.
func TestMeanForceIsTheWeight(t *testing.T) {
	for _, x := range []Times{{0.25, 0.1}, {0.1, 0.13}, {0.3, 0.02}, {0.2, 0}} {
		const n = 20000
		var sum float64
		for i := range n {
			sum += x.PeakForce() * math.Sin(math.Pi*(float64(i)+0.5)/n)
		}
		if mean := sum / n * x.Duty(); math.Abs(mean-1) > 1e-7 {
			t.Errorf("%v: mean force %.9f weights", x, mean)
		}
	}
}

// Dip against integrating the half sine twice: the centre of mass sinks from the
// speed of a symmetric flight and is lowest in the middle.
func TestDipAgainstIntegration(t *testing.T) {
	x := Times{0.25, 0.1}
	const n = 200000
	dt := x.Contact / n
	y, v := 0.0, -flight.Gravity*x.Flight/2
	low := 0.0
	for i := range n {
		a := flight.Gravity * (x.PeakForce()*math.Sin(math.Pi*(float64(i)+0.5)/n) - 1)
		v += a * dt
		y += v * dt
		low = math.Min(low, y)
	}
	if math.Abs(-low-x.Dip()) > 1e-4 {
		t.Errorf("dip %.5f, integration says %.5f", x.Dip(), -low)
	}
}

func TestStiffness(t *testing.T) {
	x := Times{0.25, 0.10}
	// Definitions: force over way.
	if k := x.VerticalStiffness(70); math.Abs(k*x.Dip()-x.PeakForce()*70*flight.Gravity) > 1e-6 {
		t.Errorf("vertical stiffness %.0f", k)
	}
	dl, err := x.Shortening(0.9, 3.3)
	k, err2 := x.LegStiffness(70, 0.9, 3.3)
	if err != nil || err2 != nil || dl <= x.Dip() || math.Abs(k*dl-x.PeakForce()*70*flight.Gravity) > 1e-6 {
		t.Errorf("shortening %.3f, leg stiffness %.0f, %v %v", dl, k, err, err2)
	}
	// On the spot the leg shortens as much as the body sinks.
	if dl, _ := x.Shortening(0.9, 0); math.Abs(dl-x.Dip()) > 1e-12 {
		t.Errorf("on the spot %.4f, dip %.4f", dl, x.Dip())
	}
	if _, err := x.Shortening(0.3, 9); err == nil {
		t.Error("a leg of 0.3 m passed 2.25 m")
	}
	if (Times{0, 0.1}).Check() == nil || (Times{0.2, -0.1}).Check() == nil || x.Check() != nil {
		t.Error("times are not checked")
	}
	if c := x.Cadence(); math.Abs(c-171.43) > 0.01 {
		t.Errorf("cadence %.2f", c)
	}
}

package flight

import (
	"errors"
	"math"

	"neokinema/core/vec3"
)

// ErrDemand is of a distance that no throw reaches.
var ErrDemand = errors.New("no speed up to 60 m/s reaches that distance at this angle")

// Thrown is how a thing leaves in the direction of throw: height in m, angle in rad up from
// level, and by how much its attitude lies over its path (disc and javelin), rad.
type Thrown struct{ Height, Angle, Attack float64 }

// State is that of a throw at a speed, m/s.
func (t Thrown) State(what Implement, speed float64) State {
	s, c := math.Sincos(t.Angle)
	ts, tc := math.Sincos(t.Angle + t.Attack)
	out := State{Position: vec3.Vec{Y: t.Height}, Velocity: vec3.Vec{X: speed * c, Y: speed * s}, Axis: vec3.Vec{X: tc, Y: ts}}
	switch what.(type) {
	case Discus, Wobbling:
		out.Axis = vec3.Vec{X: -ts, Y: tc}
	}
	return out
}

// Distance is where it lands, m along the ground from below its release.
func (t Thrown) Distance(what Implement, air Air, speed float64) (float64, error) {
	path, err := FlyCoarse(what, air, t.State(what, speed), 0, longest)
	if err != nil {
		return 0, err
	}
	return path[len(path)-1].Position.X, nil
}

// longest is how long a throw flies at most, s; fastest how fast it leaves, m/s.
const (
	longest = 20
	fastest = 60
)

// SpeedFor is the release speed that a distance demands, m/s, to a mm/s: by bisection, since a
// faster throw at the same angle goes farther.
func (t Thrown) SpeedFor(what Implement, air Air, distance float64) (float64, error) {
	far, err := t.Distance(what, air, fastest)
	if err != nil || !(distance > 0) || far < distance {
		return 0, errors.Join(ErrDemand, err)
	}
	lo, hi := 0.0, float64(fastest)
	for hi-lo > 1e-3 {
		mid := (lo + hi) / 2
		d, err := t.Distance(what, air, mid)
		if err != nil {
			return 0, err
		}
		if d < distance {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2, nil
}

// Reference atmosphere: sea level at 15 degrees (ICAO standard atmosphere, from memory).
const (
	seaPressure = 101325.0 // Pa
	seaKelvin   = 288.15
	lapse       = 0.0065  // K/m
	gasAir      = 287.058 // J/(kg K), dry air
	exponent    = 5.2559
)

// AirAt is dry air at an altitude (m over the sea) and a temperature (degrees Celsius), with a
// wind along the direction of throw (m/s, from behind positive).
func AirAt(altitude, celsius, wind float64) Air {
	pressure := seaPressure * math.Pow(1-lapse*altitude/seaKelvin, exponent)
	return Air{Density: pressure / (gasAir * (celsius + 273.15)), Wind: vec3.Vec{X: wind}}
}

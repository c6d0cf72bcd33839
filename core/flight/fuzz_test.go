package flight

import (
	"math"
	"testing"

	"neokinema/core/vec3"
)

// FuzzFly: a flight of whatever comes to an end, in numbers or with an error.
func FuzzFly(f *testing.F) {
	f.Add(uint8(0), 28.0, 35.0, 1.8, 0.8, 2.65, 3.0, 20.0)
	f.Add(uint8(1), 24.0, 36.0, 1.6, 2.0, 0.22, -5.0, 20.0)
	f.Add(uint8(2), 1e300, -1e9, 1e-300, 1e-12, 1e12, 1e200, 1e9)
	f.Fuzz(func(t *testing.T, kind uint8, speed, angle, height, mass, size, wind, limit float64) {
		air := Still
		air.Wind = vec3.Vec{X: wind}
		what := []Implement{Vacuum{}, Javelin{Mass: mass, Length: size}, Discus{Mass: mass, Diameter: size}, Ball{Mass: mass, Diameter: size}}[kind%4]
		s, c := math.Sincos(angle * math.Pi / 180)
		path, err := Fly(what, air, State{Position: vec3.Vec{Y: height}, Velocity: vec3.Vec{X: speed * c, Y: speed * s}, Axis: vec3.Vec{X: c, Y: s}}, 0, limit)
		if err != nil {
			return
		}
		for _, p := range path {
			if math.IsNaN(p.Position.X) || math.IsInf(p.Position.Y, 0) {
				t.Fatalf("it is at %+v", p)
			}
		}
	})
}

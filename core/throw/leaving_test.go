package throw

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/vec3"
)

// A push that ends is found to a few milliseconds, in a straight throw and off an orbit, within
// its doubt; a flight along the sight tells its moment and nothing else.
func TestLeaving(t *testing.T) {
	const rate, leaves = 240.0, 40.3
	r := rand.New(rand.NewPCG(2, 2))
	side := &camera.Camera{At: vec3.Vec{Y: 1.4, Z: 11}, Ahead: vec3.Vec{Z: -1}, Right: vec3.Vec{X: 1}, Down: vec3.Vec{Y: -1}, Focal: 1800, Middle: r2.Vec{X: 500, Y: 400}}
	for _, orbit := range []bool{false, true} {
		in := 0
		const tries = 40
		for range tries {
			seen := map[int]r2.Vec{}
			for f := range 75 {
				s := (float64(f) - leaves) / rate
				p := r2.Vec{X: 600 + 3000*s, Y: 350 - 2000*s + 900*s*s}
				if s < 0 {
					h := -s
					p.X -= 9000*h*h + 30000*h*h*h // the hand comes from a slower way
					p.Y += 9000 * h * h
				}
				seen[f] = r2.Add(p, r2.Vec{X: 0.4 * r.NormFloat64(), Y: 0.4 * r.NormFloat64()})
			}
			free := FreeFlight{Camera: side, Rate: rate, Frames: 75, Flag: -1, Orbit: orbit, Pixel: func(f int) (r2.Vec, float64, bool) { q, ok := seen[f]; return q, 0.5, ok }}
			at, sd := free.leaving(39)
			if far := map[bool]float64{false: 3, true: 5}[orbit]; math.Abs(at-leaves) > far {
				t.Errorf("orbit %v: found at %.1f, truth %.1f", orbit, at, leaves)
			}
			if math.Abs(at-leaves) <= 1.96*sd {
				in++
			}
		}
		if in < tries*9/10 {
			t.Errorf("orbit %v: the doubt holds the moment in %d of %d", orbit, in, tries)
		}
	}
	behind := *side
	behind.Ahead, behind.Right = vec3.Vec{X: 1}, vec3.Vec{Z: 1}
	free := FreeFlight{Camera: &behind, Rate: rate, Frames: 60, Flag: 20, Pixel: func(int) (r2.Vec, float64, bool) { return r2.Vec{}, 0, false }}
	if l, err := free.Release(); err != ErrView || l.Frame != 20 || l.MomentSD <= 0 || l.Speed.Value != 0 {
		t.Errorf("from behind: %+v, %v", l, err)
	}
}

// Package flight computes how implements fly: in a vacuum in closed form, in
// air by integration. World: x in the throwing direction, y up, z to the right,
// metres and seconds.
package flight

import (
	"errors"
	"math"

	"neokinema/core/body"
	"neokinema/core/vec3"
)

// Gravity is the standard acceleration of free fall, m/s2.
const Gravity = body.Gravity

// Range is the distance along the ground of a throw without air: released at
// speed v (m/s) and angle a (rad, up from level) at height h (m) over the
// landing: R = (v cos a / g) (v sin a + sqrt(v2 sin2 a + 2 g h)). It is NaN when
// the path never comes down to the landing height.
func Range(v, a, h float64) float64 {
	s, c := math.Sincos(a)
	return v * c / Gravity * (v*s + math.Sqrt(v*v*s*s+2*Gravity*h))
}

// BestAngle is the release angle (rad) of the longest throw without air:
// tan a = v / sqrt(v2 + 2 g h).
func BestAngle(v, h float64) float64 {
	return math.Atan2(v, math.Sqrt(v*v+2*Gravity*h))
}

// State is where an implement is, how fast it flies and where its axis points:
// the spin axis of a discus, the shaft of a javelin, tail to tip. Balls have
// none.
type State struct{ Position, Velocity, Axis vec3.Vec }

// Air is the air it flies through.
type Air struct {
	Density float64  // kg/m3
	Wind    vec3.Vec // m/s
}

// Still is air without wind at 20 degrees and sea level.
var Still = Air{Density: 1.204}

// Implement tells what the air does to a thrown thing.
type Implement interface {
	// Push is the acceleration by the air, m/s2, for a velocity against it.
	Push(a Air, through, axis vec3.Vec) vec3.Vec
}

// Vacuum is an implement that the air does not touch.
type Vacuum struct{}

// Push is nothing.
func (Vacuum) Push(Air, vec3.Vec, vec3.Vec) vec3.Vec { return vec3.Vec{} }

// Ball is a shot, or a hammer with its wire. Drag coefficient 0.47 below the
// drag crisis, falling to 0.15 between Reynolds numbers 2e5 and 4e5 (smooth
// sphere, from memory of textbooks); the wire adds its own area with a
// coefficient of 1.1.
type Ball struct {
	Mass, Diameter float64 // kg, m
	WireArea       float64 // m2, frontal
}

// Push is drag.
func (b Ball) Push(a Air, through, _ vec3.Vec) vec3.Vec {
	v := vec3.Norm(through)
	reynolds := v * b.Diameter / 1.5e-5
	cd := 0.47 - 0.32*math.Min(1, math.Max(0, (reynolds-2e5)/2e5))
	area := cd*math.Pi/4*b.Diameter*b.Diameter + 1.1*b.WireArea
	return vec3.Scale(-0.5*a.Density*area*v/b.Mass, through)
}

// Discus is a spinning disc whose axis keeps its direction. Lift and drag rise
// with the angle of attack to the stall near 30 degrees and fade after it:
// shaped after Frohlich 1981, Am. J. Phys. 49:1125, values from memory.
type Discus struct{ Mass, Diameter float64 }

// Push is lift and drag.
func (d Discus) Push(a Air, through, axis vec3.Vec) vec3.Vec {
	v := vec3.Norm(through)
	if v < 1e-9 {
		return vec3.Vec{}
	}
	dir := vec3.Scale(1/v, through)
	down := vec3.Dot(dir, axis) // sine of the angle at which the air meets the top
	attack := math.Asin(math.Max(-1, math.Min(1, -down)))
	size := math.Abs(attack)
	stall := 30 * math.Pi / 180
	lift := 1.0 * size / stall
	if size > stall {
		lift = math.Max(0, 0.7*(math.Pi/2-size)/(math.Pi/2-stall))
	}
	drag := 0.06 + 1.04*math.Pow(math.Sin(size), 1.7)
	q := 0.5 * a.Density * math.Pi / 4 * d.Diameter * d.Diameter * v * v / d.Mass
	out := vec3.Scale(-q*drag, dir)
	if size > 1e-9 {
		across := vec3.Sub(axis, vec3.Scale(down, dir))
		out = vec3.Add(out, vec3.Scale(q*lift*math.Copysign(1, attack), vec3.Unit(across)))
	}
	return out
}

// Wobbling is a discus whose axis goes round a cone: half the cone's angle, rad. It
// goes round several times a second, so that what counts is the mean push over one
// round. The axis of a flight is that of the cone.
type Wobbling struct {
	Discus
	Half float64
}

// Push is lift and drag, the mean over a round of the axis.
func (w Wobbling) Push(a Air, through, axis vec3.Vec) vec3.Vec {
	const places = 12
	side := vec3.Cross(axis, through)
	if vec3.Norm(side) < 1e-9 || w.Half == 0 {
		return w.Discus.Push(a, through, axis)
	}
	tipped := vec3.Turn(axis, vec3.Unit(side), w.Half)
	var sum vec3.Vec
	for i := range places {
		sum = vec3.Add(sum, w.Discus.Push(a, through, vec3.Turn(tipped, axis, 2*math.Pi*float64(i)/places)))
	}
	return vec3.Scale(1.0/places, sum)
}

// Javelin is a slender shaft: drag along the path and lift across it by the
// angle between shaft and path, after the shape in Hubbard and Rust 1984, J.
// Biomech. 17:769, with plan area and coefficients from memory. Its axis is
// held; the slow pitch of the real shaft is not in this model.
type Javelin struct{ Mass, Length float64 }

// Push is lift and drag.
func (j Javelin) Push(a Air, through, axis vec3.Vec) vec3.Vec {
	v := vec3.Norm(through)
	if v < 1e-9 {
		return vec3.Vec{}
	}
	dir := vec3.Scale(1/v, through)
	along := vec3.Dot(dir, axis)
	across := vec3.Sub(axis, vec3.Scale(along, dir))
	sine := vec3.Norm(across)
	area := 0.025 * j.Length // mean thickness 25 mm
	q := 0.5 * a.Density * area * v * v / j.Mass
	out := vec3.Scale(-q*(0.09+1.0*sine*sine), dir)
	if sine > 1e-9 {
		out = vec3.Add(out, vec3.Scale(q*1.1*along, across))
	}
	return out
}

// Errors of [Fly].
var (
	ErrNever = errors.New("the implement does not come down within the time given")
	ErrState = errors.New("position and velocity must be finite numbers")
)

// Sample is a moment of a flight.
type Sample struct {
	Time               float64
	Position, Velocity vec3.Vec
}

// Fly follows an implement until it is at the ground height (m) or the time is
// up, whichever is first: Runge-Kutta of order 4 and 5 with step control
// (Dormand and Prince 1980, J. Comput. Appl. Math. 6:19), tolerance 1e-9 m a
// step, steps of at most 5 ms. The last sample lies on the ground; without that
// the samples up to the time are given with [ErrNever].
func Fly(what Implement, air Air, from State, ground, limit float64) ([]Sample, error) {
	for _, x := range []float64{from.Position.X, from.Position.Y, from.Position.Z, from.Velocity.X, from.Velocity.Y, from.Velocity.Z} {
		if math.IsNaN(x) || math.IsInf(x, 0) {
			return nil, ErrState
		}
	}
	const tolerance, widest = 1e-9, 0.005
	acc := func(v vec3.Vec) vec3.Vec {
		return vec3.Add(vec3.Vec{Y: -Gravity}, what.Push(air, vec3.Sub(v, air.Wind), from.Axis))
	}
	now := Sample{0, from.Position, from.Velocity}
	out := []Sample{now}
	h := widest
	for now.Time < limit-1e-12 {
		h = math.Min(h, limit-now.Time)
		next, miss := step(acc, now, h)
		if miss > tolerance && h > 1e-6 {
			h *= math.Max(0.2, 0.9*math.Pow(tolerance/miss, 0.2))
			continue
		}
		if next.Position.Y <= ground && next.Velocity.Y < 0 {
			// Newton on the step's length lands it on the ground.
			for range 20 {
				h -= (next.Position.Y - ground) / next.Velocity.Y
				next, _ = step(acc, now, h)
				if math.Abs(next.Position.Y-ground) < 1e-12 {
					break
				}
			}
			return append(out, next), nil
		}
		now = next
		out = append(out, now)
		h = math.Min(widest, h*math.Min(4, 0.9*math.Pow(tolerance/math.Max(miss, 1e-16), 0.2)))
	}
	return out, ErrNever
}

// The tableau of Dormand and Prince.
var (
	rkA = [7][6]float64{
		{}, {1. / 5}, {3. / 40, 9. / 40}, {44. / 45, -56. / 15, 32. / 9},
		{19372. / 6561, -25360. / 2187, 64448. / 6561, -212. / 729},
		{9017. / 3168, -355. / 33, 46732. / 5247, 49. / 176, -5103. / 18656},
		{35. / 384, 0, 500. / 1113, 125. / 192, -2187. / 6784, 11. / 84},
	}
	rkE = [7]float64{71. / 57600, 0, -71. / 16695, 71. / 1920, -17253. / 339200, 22. / 525, -1. / 40}
)

// step is one step of h and the size of its error, m.
func step(acc func(vec3.Vec) vec3.Vec, s Sample, h float64) (Sample, float64) {
	var kp, kv [7]vec3.Vec
	var p, v vec3.Vec
	for i := range 7 {
		p, v = s.Position, s.Velocity
		for j := range i {
			p = vec3.Add(p, vec3.Scale(h*rkA[i][j], kp[j]))
			v = vec3.Add(v, vec3.Scale(h*rkA[i][j], kv[j]))
		}
		kp[i], kv[i] = v, acc(v)
	}
	var ep, ev vec3.Vec
	for i, e := range rkE {
		ep = vec3.Add(ep, vec3.Scale(h*e, kp[i]))
		ev = vec3.Add(ev, vec3.Scale(h*e, kv[i]))
	}
	return Sample{s.Time + h, p, v}, math.Max(vec3.Norm(ep), h*vec3.Norm(ev))
}

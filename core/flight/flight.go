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
// none. Turning is how the axis turns, rad/s.
type State struct{ Position, Velocity, Axis, Turning vec3.Vec }

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

// Pitching is an implement whose axis the air turns.
type Pitching interface {
	// Twist is the angular acceleration of its axis by the air, rad/s2.
	Twist(a Air, through, axis, turning vec3.Vec) vec3.Vec
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

// Javelin is a slender shaft that the air turns: its force across the shaft is a part that
// grows with the angle of attack, near the grip, and one with its square, behind it (cross
// flow), so that the nose drops. The shape follows Hubbard and Rust 1984, J. Biomech. 17:769,
// and Best, Bartlett and Sawyer 1995, J. Biomech. 28:1523. Coefficients are not theirs, which
// no print was at hand for: they are set so that throws of 28 and 30 m/s fly as far as is
// known of them (80 to 92 m), farthest at 30 to 36 degrees, and land point first.
type Javelin struct{ Mass, Length float64 }

// Of a javelin of the length javelinLength; areas grow with length times length.
const (
	javelinLength = 2.65   // m
	javelinAlong  = 0.0028 // drag area along the shaft, m2
	javelinSlope  = 0.018  // area of the force that grows with the angle, m2 a rad
	javelinCross  = 0.0656 // area of that with its square, m2
	slopeAhead    = 0.12   // m of its place before the centre of mass
	crossBehind   = 0.20   // m of its place behind
	// Moment of inertia over mass and length squared: 0.42 kg m2 of 0.8 kg and 2.65 m (from
	// memory).
	javelinInertia = 0.0748
)

// forces are the areas of what acts along and across the shaft, for air that meets it at an
// angle.
func (j Javelin) forces(sine, cosine float64) (along, slope, cross float64) {
	k := j.Length * j.Length / (javelinLength * javelinLength)
	return k * javelinAlong * cosine * math.Abs(cosine), k * javelinSlope * sine * cosine, k * javelinCross * sine * math.Abs(sine)
}

// met is how air meets the shaft: the direction across it, on the side from which the air
// comes not, and sine and cosine of the angle of attack.
func met(through, axis vec3.Vec) (across vec3.Vec, sine, cosine, v float64) {
	if v = vec3.Norm(through); v < 1e-9 {
		return across, 0, 0, 0
	}
	dir := vec3.Scale(1/v, through)
	cosine = vec3.Dot(dir, axis)
	across = vec3.Sub(vec3.Scale(cosine, axis), dir)
	if sine = vec3.Norm(across); sine > 1e-12 {
		across = vec3.Scale(1/sine, across)
	}
	return across, sine, cosine, v
}

// Push is what acts along the shaft and across it.
func (j Javelin) Push(a Air, through, axis vec3.Vec) vec3.Vec {
	across, sine, cosine, v := met(through, axis)
	along, slope, cross := j.forces(sine, cosine)
	q := 0.5 * a.Density * v * v / j.Mass
	return vec3.Add(vec3.Scale(-q*along, axis), vec3.Scale(q*(slope+cross), across))
}

// Twist turns the shaft about its centre of mass; what turns is slowed down as the air is
// crossed.
func (j Javelin) Twist(a Air, through, axis, turning vec3.Vec) vec3.Vec {
	across, sine, cosine, v := met(through, axis)
	_, slope, cross := j.forces(sine, cosine)
	k := j.Length / javelinLength
	inertia := javelinInertia * j.Mass * j.Length * j.Length
	q := 0.5 * a.Density * v * v
	lever := q * (slope*k*slopeAhead - cross*k*crossBehind) / inertia
	// Cross flow along the shaft, from end to end.
	damp := a.Density * v * sine * javelinCross * k * k * j.Length * j.Length / 12 / inertia
	return vec3.Sub(vec3.Scale(lever, vec3.Cross(axis, across)), vec3.Scale(damp, turning))
}

// Errors of [Fly].
var (
	ErrNever = errors.New("the implement does not come down within the time given")
	ErrState = errors.New("position and velocity must be finite numbers")
	ErrStiff = errors.New("nothing that is thrown is slowed down like that: check mass, size and speed")
)

// Sample is a moment of a flight.
type Sample struct {
	Time               float64
	Position, Velocity vec3.Vec
	Axis, Turning      vec3.Vec
}

// Fly follows an implement until it is at the ground height (m) or the time is
// up, whichever is first: Runge-Kutta of order 4 and 5 with step control
// (Dormand and Prince 1980, J. Comput. Appl. Math. 6:19), tolerance 1e-9 m a
// step, steps of at most 5 ms. The last sample lies on the ground; without that
// the samples up to the time are given with [ErrNever].
func Fly(what Implement, air Air, from State, ground, limit float64) ([]Sample, error) {
	return follow(what, air, from, ground, limit, 1e-9, 0.005)
}

// FlyCoarse is [Fly] with as few samples as a distance to the mm takes: tolerance 1e-8 m a step,
// steps of at most 0.1 s.
func FlyCoarse(what Implement, air Air, from State, ground, limit float64) ([]Sample, error) {
	return follow(what, air, from, ground, limit, 1e-8, 0.1)
}

func follow(what Implement, air Air, from State, ground, limit, tolerance, widest float64) ([]Sample, error) {
	for _, x := range []float64{from.Position.X, from.Position.Y, from.Position.Z, from.Velocity.X, from.Velocity.Y, from.Velocity.Z} {
		if math.IsNaN(x) || math.IsInf(x, 0) {
			return nil, ErrState
		}
	}
	turns, pitches := what.(Pitching)
	acc := func(s Sample) (push, twist vec3.Vec) {
		through := vec3.Sub(s.Velocity, air.Wind)
		push = vec3.Add(vec3.Vec{Y: -Gravity}, what.Push(air, through, s.Axis))
		if pitches {
			twist = turns.Twist(air, through, s.Axis, s.Turning)
		}
		return push, twist
	}
	now := Sample{Position: from.Position, Velocity: from.Velocity, Axis: from.Axis}
	if pitches {
		now.Turning = from.Turning
	}
	out := []Sample{now}
	h := widest
	for tries := 0; now.Time < limit-1e-12; tries++ {
		if tries > mostSteps {
			return out, ErrStiff
		}
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
			if !next.finite() {
				return out, ErrStiff
			}
			return append(out, next), nil
		}
		if !next.finite() {
			return out, ErrStiff
		}
		now = next
		out = append(out, now)
		h = math.Min(widest, h*math.Min(4, 0.9*math.Pow(tolerance/math.Max(miss, 1e-16), 0.2)))
	}
	return out, ErrNever
}

// finite tells whether a sample is a number; an implement of no mass has none.
func (s Sample) finite() bool {
	sum := vec3.Dot(s.Position, vec3.Vec{X: 1, Y: 1, Z: 1}) + vec3.Dot(s.Velocity, vec3.Vec{X: 1, Y: 1, Z: 1}) + vec3.Norm(s.Axis) + s.Time
	return !math.IsNaN(sum) && !math.IsInf(sum, 0)
}

// mostSteps is when a flight is given up: ten times as many as the longest that is real.
const mostSteps = 40_000

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
func step(acc func(Sample) (push, twist vec3.Vec), s Sample, h float64) (Sample, float64) {
	var kp, kv, ka, kw [7]vec3.Vec
	var at Sample
	for i := range 7 {
		at = s
		for j := range i {
			at.Position = vec3.Add(at.Position, vec3.Scale(h*rkA[i][j], kp[j]))
			at.Velocity = vec3.Add(at.Velocity, vec3.Scale(h*rkA[i][j], kv[j]))
			at.Axis = vec3.Add(at.Axis, vec3.Scale(h*rkA[i][j], ka[j]))
			at.Turning = vec3.Add(at.Turning, vec3.Scale(h*rkA[i][j], kw[j]))
		}
		kp[i], ka[i] = at.Velocity, vec3.Cross(at.Turning, at.Axis)
		kv[i], kw[i] = acc(at)
	}
	var ep, ev vec3.Vec
	for i, e := range rkE {
		ep = vec3.Add(ep, vec3.Scale(h*e, kp[i]))
		ev = vec3.Add(ev, vec3.Scale(h*e, kv[i]))
	}
	at.Time = s.Time + h
	if at.Turning != (vec3.Vec{}) {
		at.Axis = vec3.Unit(at.Axis)
	}
	return at, math.Max(vec3.Norm(ep), h*vec3.Norm(ev))
}

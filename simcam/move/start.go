package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/simcam/figure"
)

// Timing of the faultless start, seconds from first movement: inside the bands
// of the shipped model.
var startTimes = map[string]float64{
	"set": -0.25, "gun": -0.146, "move": 0, "arm": 0.012, "rear_off": 0.172, "pass": 0.27, "clear": 0.345,
	"td1": 0.407, "to1": 0.597, "td2": 0.650, "to2": 0.824, "td3": 0.882, "to3": 1.050,
}

var startFaults = []Dial{
	{Name: "shoulders", Max: 0.16, Shown: 0.14, Says: "shoulders pushed ahead of the hands in set, metres"},
	{Name: "front-knee", Clean: 92, Min: 75, Max: 135, Shown: 118, Says: "front knee angle in set, degrees"},
	{Name: "rear-knee", Clean: 126, Min: 100, Max: 150, Shown: 146, Says: "rear knee angle in set, degrees"},
	{Name: "head-up", Max: 50, Shown: 34, Says: "head raised in set, degrees"},
	{Name: "foot-ahead", Max: 0.35, Shown: 0.3, Says: "first foot lands further forward by, metres"},
	{Name: "early-rise", Max: 14, Shown: 11, Says: "extra rise of the body after the blocks, degrees in step 1"},
}

// sprintStart is a start from blocks with three steps; the left leg is in front.
func sprintStart(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	T := startTimes
	for id, t := range T {
		m.Times[id] = t
	}
	m.First, m.Last = T["set"]-0.12, T["to3"]+0.14

	// Set: straight arms on the line, shoulders over the hands, hips a little higher.
	shX, shY := 0.03*k+w.dial("shoulders"), d.Arm()-0.012
	hipUp := 0.08 * k
	hip0 := r3.Vec{X: shX - math.Sqrt(d.Trunk*d.Trunk-hipUp*hipUp), Y: shY + hipUp}
	lean0 := 90 - angles.Deg(math.Atan2(shY-hip0.Y, shX-hip0.X))
	pedal := func(knee, sole, z float64) r3.Vec {
		span := math.Sqrt(d.Thigh*d.Thigh + d.Shank*d.Shank - 2*d.Thigh*d.Shank*math.Cos(angles.Rad(knee)))
		ankle := d.Ankle(figure.Foot{Toe: r3.Vec{Y: sole0}, Sole: sole})
		dz := math.Abs(z) - d.HipHalf
		down := hip0.Y - ankle.Y
		back := math.Sqrt(math.Max(0, span*span-down*down-dz*dz))
		return r3.Vec{X: hip0.X - back - ankle.X, Y: sole0, Z: z}
	}
	const frontSole, rearSole, offSole, inSole = 32.0, 42.0, 62.0, 14.0
	toeF := pedal(w.dial("front-knee"), frontSole, -0.09*k)
	toeR := pedal(w.dial("rear-knee"), rearSole, 0.09*k)
	m.Props = Props{Lanes: true, Start: true, Blocks: []r3.Vec{toeF, toeR}}

	// Body line at each toe-off: ankle, hip and shoulder on one line of this lean.
	rise := w.dial("early-rise")
	up := map[string]float64{"clear": 39.5, "to1": 44 + rise, "to2": 47.5 + rise*1.15, "to3": 51 + rise*1.2}
	reach := 0.975 * d.Leg()
	hipAt := func(toe r3.Vec, deg float64) r3.Vec {
		ankle := d.Ankle(figure.Foot{Toe: toe, Sole: offSole})
		sn, cs := math.Sincos(angles.Rad(deg))
		return r3.Vec{X: ankle.X + reach*cs, Y: ankle.Y + reach*sn}
	}
	// Touchdown: how far the ankle is behind the hip.
	behind := map[string]float64{"td1": 0.17*k - w.dial("foot-ahead"), "td2": 0.105 * k, "td3": 0.05 * k}
	speed := map[string]float64{"clear": 3.05, "to1": 3.85, "to2": 4.7}
	hip := map[string]r3.Vec{"clear": hipAt(toeF, up["clear"])}
	toe := map[string]r3.Vec{}
	prev := "clear"
	for i, n := range []string{"1", "2", "3"} {
		td, to := "td"+n, "to"+n
		z := 0.06 * k
		if i == 1 {
			z = -z
		}
		fly := T[td] - T[prev]
		at := r3.Vec{X: hip[prev].X + k*speed[prev]*fly}
		ankle := d.Ankle(figure.Foot{Sole: inSole})
		toe[td] = r3.Vec{X: at.X - behind[td] - ankle.X, Y: sole0, Z: z}
		hip[to] = hipAt(toe[td], up[to])
		at.Y = math.Min(hip[prev].Y+0.005, hip[to].Y-0.005)
		hip[td] = at
		b.fly(T[prev], T[td])
		prev = to
	}
	go0 := hip["clear"]
	b.hip(T["set"], hip0)
	b.hip(0, hip0)
	b.hip(0.08, r3.Add(hip0, r3.Vec{X: 0.022 * k, Y: 0.004 * k}))
	b.hip(T["rear_off"], r3.Vec{X: hip0.X + 0.26*(go0.X-hip0.X), Y: hip0.Y + 0.35*(go0.Y-hip0.Y)})
	for id, h := range hip {
		b.hip(T[id], h)
	}
	end := hip["to3"]
	b.hip(T["to3"]+0.2, r3.Add(end, r3.Vec{X: 5.2 * 0.2 * k, Y: 0.01}))
	b.set(lean, T["set"], lean0, 0, lean0, T["rear_off"], lean0+0.55*(90-up["clear"]-lean0))
	for id, u := range up {
		b.set(lean, T[id], 90-u)
	}
	b.set(lean, T["to3"]+0.2, 90-up["to3"]-3)
	raise := w.dial("head-up")
	b.set(nod, T["set"], 6-raise, 0, 6-raise, T["clear"], -0.6*raise, T["to1"], -0.5*raise-2, T["to3"], -0.4*raise-4)
	// Hips follow the swinging leg, shoulders go against it; still in set.
	for id, v := range map[string]float64{"set": 0, "move": 0, "clear": -7, "to1": 8, "to2": -8, "to3": 8} {
		b.set(heading, T[id], v)
		b.set(twist, T[id], -2*v)
	}
	b.plant(left, -9, T["clear"], toeF, 0, 0, frontSole, T["clear"]*0.6, frontSole+6, T["clear"], offSole)
	b.plant(right, -9, T["rear_off"], toeR, 0, 0, rearSole, T["rear_off"], 68)
	for i, n := range []string{"1", "2", "3"} {
		td, to := T["td"+n], T["to"+n]
		b.plant([3]int{right, left, right}[i], td, to, toe["td"+n], 0, td, inSole, td+0.4*(to-td), inSole-2, to, offSole)
	}
	// First step low: the knee leads and the foot stays under it.
	low := func(s int, off, on, high float64) {
		t := on - off
		b.swing(s, off+0.28*t, 62-20*high, 0, 102-18*high, 26)
		b.swing(s, off+0.60*t, 106, 0, 74-10*high, 12)
		b.swing(s, off+0.84*t, 111, 0, 88, 2)
	}
	low(right, T["rear_off"], T["td1"], 0)
	low(left, T["clear"], T["td2"], 0.8)
	low(right, T["to1"], T["td3"], 1)
	b.swing(left, T["to2"]+0.08, 30, 0, 84, 28)
	b.swing(left, T["to2"]+0.19, 92, 0, 62, 10)
	b.swing(left, T["to2"]+0.29, 98, 0, 92, 2)
	b.swing(right, T["to3"]+0.1, 12, 0, 90, 30)
	b.swing(right, T["to3"]+0.2, 66, 0, 64, 12)
	// Hands on the line until they go; the arm of the rear leg swings back hard.
	for s, leave := range [2]float64{T["arm"], 0.02} {
		place := r3.Vec{X: 0.0, Y: 0.035, Z: figure.Out(s) * (d.ShoulderHalf + 0.02)}
		m.arms[s] = arm{elbow: r3.Vec{X: -0.6, Y: 0.1, Z: 1}, grip: func(float64, *figure.Pose) r3.Vec { return place }}
		b.set(pull+channel(s), T["set"], 1, leave, 1, leave+0.11, 0)
		b.arm(s, T["set"], 90, 4, 0, 172)
		b.arm(s, leave, 90, 4, 0, 172)
	}
	arms := func(t, l, lb, r, rb float64) {
		b.arm(left, t, l, 8, -14, lb)
		b.arm(right, t, r, 8, -14, rb)
	}
	arms(0.20, 104, 100, -2, 140)
	arms(T["clear"], 138, 92, -42, 118)
	arms(T["to1"], -26, 112, 118, 84)
	arms(T["to2"], 112, 84, -26, 112)
	arms(T["to3"], -26, 110, 108, 84)
	return b.done(), nil
}

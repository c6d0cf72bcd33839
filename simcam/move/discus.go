package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var rotationFaults = []Dial{
	{Name: "dive", Max: 35, Shown: 24, Says: "block shoulder dips out of the back, degrees"},
	{Name: "over-turned", Min: -60, Max: 60, Shown: 32, Says: "pivot foot turned further (or less) when it leaves, degrees"},
	{Name: "short-sweep", Max: 60, Shown: 45, Says: "sweep leg bent and close, degrees of the knee"},
	{Name: "pre-turned", Max: 60, Shown: 40, Says: "centre foot lands turned further, degrees"},
	{Name: "late-front", Max: 0.16, Shown: 0.10, Says: "block foot lands later, seconds"},
	{Name: "open-front", Max: 45, Shown: 30, Says: "separation lost by the front landing, degrees"},
}

var wobble = Dial{Name: "wobble", Max: 20, Shown: 12, Says: "the disc swings in the air, degrees to either side"}

// The standing throw knows only what happens from the power position on.
var standingFaults = []Dial{rotationFaults[0], rotationFaults[5],
	{Name: "low-point", Max: 50, Shown: 36, Says: "disc low in the middle, degrees of its path"}, wobble}

// DiscOf is the disc that a person throws.
func DiscOf(p body.Person) Thrown {
	t := Thrown{Kind: "discus", Mass: 2, Diameter: 0.22}
	if p.Sex == body.Female || p.Height < 1.6 {
		t.Mass, t.Diameter = 1, 0.181
	}
	return t
}

func shotOf(p body.Person) Thrown {
	t := Thrown{Kind: "shot", Mass: 7.26, Diameter: 0.125}
	if p.Sex == body.Female {
		t.Mass, t.Diameter = 4, 0.105
	}
	if p.Height < 1.6 {
		t.Mass, t.Diameter = 3, 0.095
	}
	return t
}

// turnTimes of a throw with a full turn, s.
var turnTimes = map[string]float64{"wind": 0.85, "sweep_off": 1.37, "pivot_off": 1.76, "centre": 1.85, "front": 2.03, "release": 2.235}

// turning lays the feet, hips and chest of a full turn from the back of the
// circle to the front; discus and rotational shot share it.
func turning(b *builder, w Wish, radius float64) (sep func(key string) float64, T map[string]float64) {
	m, d, k := b.m, b.m.Sizes, b.k
	T = map[string]float64{}
	late := w.dial("late-front")
	for id, t := range turnTimes {
		T[id] = t
		if id == "front" || id == "release" {
			T[id] += late
		}
	}
	back := -radius + 0.16
	width := 0.52 * k
	over, pre, sweep := w.dial("over-turned"), w.dial("pre-turned"), w.dial("short-sweep")

	lt := r3.Vec{X: back, Y: sole0, Z: width / 2}
	l0 := b.plant(left, -1, T["pivot_off"], lt, 180, T["wind"], 0, T["wind"]+0.25, 14, T["sweep_off"], 24, T["pivot_off"]-0.05, 34, T["pivot_off"], 58)
	offAz := 181 + over
	l0.Heading = Keys(T["wind"]+0.05, 180, T["sweep_off"], 180-72, T["pivot_off"]-0.12, 180-offAz+16, T["pivot_off"], 180-offAz)
	rt := r3.Vec{X: back, Y: sole0, Z: -width / 2}
	r0 := b.plant(right, -1, T["sweep_off"], rt, 180, T["wind"], 0, T["sweep_off"]-0.2, 12, T["sweep_off"], 52)
	r0.Heading = Keys(T["wind"], 180, T["sweep_off"], 180-38)

	centre := r3.Vec{X: back + 0.88*k, Y: sole0, Z: 0.02}
	front := centre.X + 0.76*k
	r1 := b.plant(right, T["centre"], T["release"]+0.03, centre, 0, T["centre"], 30, T["front"], 36, T["release"]-0.05, 52, T["release"]+0.03, 66)
	r1.Heading = Keys(T["centre"], 180-(252+pre), T["front"], 180-(322+pre*0.6), T["release"], 180-(515))
	fp := r3.Vec{X: front, Y: sole0, Z: -0.17 * k}
	l1 := b.plant(left, T["front"], T["release"]+0.10, fp, 0, T["front"], 10, T["front"]+0.05, 0, T["release"], 20, T["release"]+0.10, 52)
	l1.Heading = Keys(T["front"], 180-(450), T["release"], 180-(498))
	// Sweep: long and wide, then low into the middle.
	a, z := T["sweep_off"], T["centre"]
	b.swingTurned(right, a+0.3*(z-a), 12, 29-0.35*sweep, 8, 148-sweep, 18)
	b.swingTurned(right, a+0.62*(z-a), 52, 27-0.35*sweep, 4, 142-0.8*sweep, 14)
	b.swingTurned(right, a+0.86*(z-a), 44, 4, 0, 112, 18)
	// Drive-off leg: heel up, then straight back to the front.
	a, z = T["pivot_off"], T["front"]
	b.swingTurned(left, a+0.38*(z-a), 4, -4, 4, 78, 34)
	b.swingTurned(left, a+0.72*(z-a), -14, 14, 16, 118, 22)
	// Recovery: the other foot comes round.
	rel := T["release"]
	b.swingTurned(right, rel+0.16, 34, 6, 0, 92, 18)
	r2 := b.plant(right, rel+0.30, rel+2, r3.Vec{X: front - 0.02, Y: sole0, Z: 0.12 * k}, 0, rel+0.30, 16, rel+0.4, 0)
	r2.Heading = Keys(rel+0.30, -12, rel+0.6, -40)
	b.swingTurned(left, rel+0.26, -24, 12, 0, 118, 30)
	b.swingTurned(left, rel+0.55, -34, 16, 0, 120, 34)

	y := func(bend float64) float64 { return d.AnkleUp + bend*d.Leg() }
	at := func(t, x, yy, z float64) { b.hip(t, r3.Vec{X: x, Y: yy, Z: z}) }
	at(0, back+0.10, y(0.94), 0)
	at(T["wind"], back+0.10, y(0.91), -0.07*k)
	at(T["wind"]+0.3, back+0.12, y(0.885), 0.06*k)
	at(T["sweep_off"], back+0.10*k, y(0.895), width*0.36)
	at(T["sweep_off"]+0.22, back+0.24*k, y(0.90), width*0.34)
	at(T["pivot_off"], back+0.58*k, y(0.935), width*0.20)
	at(T["centre"], centre.X-0.07*k, y(0.925), 0.03)
	at(T["front"], centre.X+0.27*k, y(0.89), 0.0)
	at(rel-0.07, centre.X+0.44*k, y(0.94), -0.03)
	at(rel, centre.X+0.54*k, y(1.0), -0.05)
	at(rel+0.12, front-0.12*k, y(1.02), -0.04)
	at(rel+0.30, front-0.07*k, y(0.98), 0.03)
	at(rel+0.6, front-0.04*k, y(0.985), 0.05)
	b.fly(T["pivot_off"], T["centre"])

	open := w.dial("open-front")
	sep = func(key string) float64 {
		return map[string]float64{"wind": 46, "sweep_off": 34, "pivot_off": 40, "centre": 42, "front": 32 - open, "release": 4}[key]
	}
	hips := map[string]float64{"wind": -34, "sweep_off": 50, "pivot_off": 188 + 0.5*over, "centre": 262 + 0.5*pre, "front": 340 + 0.4*pre, "release": 536}
	for id, v := range hips {
		b.set(heading, T[id], 180-v)
		b.set(twist, T[id], sep(id))
	}
	b.set(heading, 0, 180, 0.2, 180, rel+0.12, 180-575, rel+0.5, 180-600)
	b.set(twist, 0, 0, rel+0.12, -14, rel+0.4, -6)
	dive := w.dial("dive")
	b.set(lean, 0, 6, T["wind"], 12, T["sweep_off"], 12+dive*0.6, T["pivot_off"], 14+dive*0.4, T["centre"], 8, T["front"], 6, rel-0.05, 2, rel, 0, rel+0.3, 12)
	b.set(bend, 0, 0, T["wind"], 6, T["pivot_off"], 6, T["centre"], 4, T["front"], 2, rel, -6, rel+0.3, 6)
	b.set(tilt, T["wind"], 0, T["sweep_off"], -dive, T["sweep_off"]+0.2, -dive, T["pivot_off"], -dive*0.3, T["centre"], 4, T["front"], 10, rel, -6, rel+0.3, -2)
	b.set(side, T["centre"], 0, T["front"], 4, rel, -8, rel+0.3, 0)
	b.set(nod, 0, 4, rel, -10)
	b.set(look, T["wind"], -20, T["sweep_off"], -8, T["front"], 10, rel, -6)
	for id, t := range T {
		m.Times[id] = t
	}
	return sep, T
}

// discus is the full throw or the standing throw.
func discus(p body.Person, w Wish) (*Motion, error) {
	if w.Variant == "standing" {
		return standing(p, w)
	}
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	m.Thrown = DiscOf(p)
	m.Thrown.Wobble = w.dial("wobble") * math.Pi / 180
	m.Props = Props{Circle: 2.5, Sector: 17.46, Cage: true}
	_, T := turning(b, w, 1.25)
	rel := T["release"]
	m.Release = rel
	m.First, m.Last = 0.25, rel+0.55
	low := w.dial("low-point")
	ring := orbit{
		phase: Keys(0, -62, T["wind"], -192, T["sweep_off"], -84, T["pivot_off"], 42, T["centre"], 112, T["front"], 186, rel, 452, rel+0.2, 640).bound(rel, 1540),
		tilt:  Keys(0, 4, T["wind"], 6, T["sweep_off"], 10, T["pivot_off"], 15-low*0.4, T["centre"], 22-low, T["front"], 26-low*0.5, rel-0.08, 33, rel, 36.5),
		low:   Keys(0, 0),
	}
	m.holdDisc(b, ring, T["wind"], rel, k, d)
	// The other arm leads, long, and is gathered before the delivery.
	b.arm(left, 0, 20, 20, 0, 160)
	b.arm(left, T["wind"], 78, 20, 0, 150)
	b.arm(left, T["sweep_off"], 70, 72, 0, 168)
	b.arm(left, T["pivot_off"], 66, 64, 0, 164)
	b.arm(left, T["centre"], 82, 32, 0, 140)
	b.arm(left, T["front"], 80, 50, 0, 160)
	b.arm(left, rel-0.06, 40, 60, 0, 96)
	b.arm(left, rel, 12, 44, 0, 62)
	b.arm(left, rel+0.4, 14, 40, 0, 90)
	return b.done(), nil
}

// holdDisc keeps the throwing hand on an orbit about the shoulders.
func (m *Motion) holdDisc(b *builder, ring orbit, wind, rel, k float64, d figure.Sizes) {
	stretch := Keys(0, 0.88, wind, 0.97, rel, 0.985)
	m.arms[right] = arm{elbow: r3.Vec{X: -0.3, Y: -1, Z: 0.3}, grip: func(t float64, p *figure.Pose) r3.Vec {
		c := r3.Add(d.Neck(p), r3.Scale(-0.10*k, figure.Up))
		dir := ring.out(t)
		return r3.Add(c, r3.Scale(reach(c, dir, stretch.At(t)*d.Arm(), d.ShoulderJoint(p, right)), dir))
	}}
	b.set(pull+right, 0, 1, rel, 1, rel+0.03, 1, rel+0.14, 0)
	b.arm(right, rel, 80, 40, 0, 170)
	b.arm(right, rel+0.14, 92, -24, 0, 150)
	b.arm(right, rel+0.4, 40, -10, 0, 130)
	edge := Keys(0, 0, wind, 0, rel, 8)
	m.implement = func(m *Motion, t float64, b *figure.Body, _ *figure.Pose) Implement {
		hand := b.At(right, figure.Hand)
		out := ring.out(t)
		c := r3.Add(hand, r3.Scale(0.045, out))
		// The disc lies in the plane of its path, outer edge a little down.
		o2 := ring.out(t + 1e-3)
		flat := r3.Cross(o2, out)
		if flat.Y < 0 {
			flat = r3.Scale(-1, flat)
		}
		s, co := math.Sincos(edge.At(t) * math.Pi / 180)
		axis := r3.Unit(figure.Sum(co, r3.Unit(flat), s, out, 0, out))
		return m.Thrown.points(c, axis)
	}
}

// standing is the drill from the power position.
func standing(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	m.Thrown = DiscOf(p)
	m.Thrown.Wobble = w.dial("wobble") * math.Pi / 180
	m.Props = Props{Circle: 2.5, Sector: 17.46, Cage: true}
	const wind, front, rel = 0.75, 1.02, 1.30
	m.Release, m.First, m.Last = rel, 0.1, rel+0.55
	rt, lt := r3.Vec{X: 0.98 - 0.72*k, Y: sole0, Z: 0.04}, r3.Vec{X: 0.98, Y: sole0, Z: -0.15 * k}
	r0 := b.plant(right, -1, rel+0.03, rt, 0, wind, 4, front, 26, rel, 60, rel+0.03, 66)
	r0.Heading = Keys(wind, 180-290, front, 180-345, rel, 180-515)
	l0 := b.plant(left, -1, rel+3, lt, 0, rel-0.1, 0, rel, 12, rel+0.3, 4)
	l0.Heading = Keys(front, 180-440, rel, 180-498)
	b.plant(right, rel+0.32, rel+3, r3.Vec{X: 0.92, Y: sole0, Z: 0.16 * k}, -20, rel+0.32, 12, rel+0.45, 0)
	b.swingTurned(right, rel+0.16, 26, 6, 0, 100, 18)
	y := func(bend float64) float64 { return d.AnkleUp + bend*d.Leg() }
	for _, h := range [][4]float64{{0, 0.42, 0.93, -0.02}, {wind, 0.60, 0.90, 0}, {front, 0.50, 0.89, 0}, {rel - 0.07, 0.34, 0.93, -0.03}, {rel, 0.26, 0.97, -0.05}, {rel + 0.3, 0.10, 0.97, 0}, {rel + 0.6, 0.08, 0.98, 0}} {
		b.hip(h[0], r3.Vec{X: 0.98 - h[1]*k, Y: y(h[2]), Z: h[3]}) // how far behind the front toe
	}
	open := w.dial("open-front")
	for _, h := range [][3]float64{{0, 400, 10}, {wind, 312, 48}, {front, 358, 40 - open}, {rel, 536, 4}, {rel + 0.15, 570, -12}, {rel + 0.5, 584, -4}} {
		b.set(heading, h[0], 180-h[1])
		b.set(twist, h[0], h[2])
	}
	dive := w.dial("dive")
	b.set(lean, 0, 4, wind, 12+dive*0.6, front, 8, rel, 0, rel+0.3, 10)
	b.set(tilt, wind, 6-dive, front, 10, rel, -6, rel+0.3, 0)
	b.set(side, front, 2, rel, -8, rel+0.3, 0)
	low := w.dial("low-point")
	ring := orbit{
		phase: Keys(0, 330, wind, 165, front, 205, rel, 452, rel+0.2, 640).bound(rel, 1400),
		tilt:  Keys(0, 6, wind, 22-low, front, 26-low*0.5, rel-0.08, 33, rel, 36.5), low: Keys(0, 0),
	}
	m.holdDisc(b, ring, wind, rel, k, d)
	b.arm(left, 0, 40, 30, 0, 150)
	b.arm(left, wind, 82, 20, 0, 150)
	b.arm(left, front, 80, 56, 0, 160)
	b.arm(left, rel, 12, 44, 0, 62)
	b.arm(left, rel+0.4, 14, 40, 0, 90)
	m.Times = map[string]float64{"wind": wind, "front": front, "release": rel}
	return b.done(), nil
}

package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var javelinFaults = []Dial{
	{Name: "reaching", Max: 0.30, Shown: 0.20, Says: "throwing-side foot lands further ahead of the hip, metres"},
	{Name: "weak-push", Max: 30, Shown: 24, Says: "push-off incomplete, degrees of the knee"},
	{Name: "late-block", Max: 0.16, Shown: 0.12, Says: "block foot lands later, seconds"},
	{Name: "pull-down", Max: 25, Shown: 14, Says: "shaft turns up against the hand's path, degrees"},
	{Name: "fall-away", Max: 30, Shown: 22, Says: "trunk falls to the block side, degrees"},
	{Name: "soft-block", Max: 50, Shown: 36, Says: "block knee gives, degrees"},
}

// leans tips the body towards the throw by an angle, whatever way it faces.
func (b *builder) leans(t, facing, by, right float64) {
	s, c := math.Sincos(facing * math.Pi / 180)
	b.set(lean, t, by*c)
	b.set(tilt, t, -by*s+right)
}

func javelin(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	m.Thrown = Thrown{Kind: "javelin", Mass: 0.8, Diameter: 0.03, Length: 2.65}
	if p.Sex == body.Female {
		m.Thrown.Mass, m.Thrown.Length = 0.6, 2.25
	}
	if p.Height < 1.6 {
		m.Thrown.Mass, m.Thrown.Length = 0.4, 1.9
	}

	reachOut, late := w.dial("reaching"), w.dial("late-block")
	// On and off of each foot, right first; speeds in the air between.
	type beat struct {
		side    int
		on, off float64
		v, len  float64
	}
	beats := []beat{{right, 0, 0.15, 0, 0}, {left, 0.25, 0.40, 0, 1.50}, {right, 0.50, 0.65, 0, 1.55}, {left, 0.75, 0.90, 0, 1.55}, {right, 1.03, 1.03 + 0.185 + late, 0, 1.85}}
	front := beats[4].off + 0.012
	rel := front + 0.125
	rec := rel + 0.20
	var falls []footfall
	x := 0.0
	for i, q := range beats {
		x += q.len * k
		ahead, behind := 0.16*d.Leg(), 0.42*d.Leg()
		if q.side == right && i > 0 {
			ahead += reachOut
		}
		if i == 3 {
			behind = 0.50 * d.Leg()
		}
		turn := []float64{5, 15, 35, 15, 45}[i]
		if w.Variant == "foot-across" && i == 4 {
			turn = 85
		}
		falls = append(falls, footfall{side: q.side, on: q.on, off: q.off, toe: r3.Vec{X: x, Y: sole0, Z: figure.Out(q.side) * 0.07 * k}, heading: turn, ahead: ahead, behind: behind, sole: 4, reachOn: 0.972, high: 0.975 - w.dial("weak-push")*0.0021*b2f(i > 0)})
	}
	last := falls[4]
	falls = falls[:4]
	b.run(falls, style{fast: 0.35, lean: 2})
	b.only(heading)
	b.only(twist)
	b.only(lean)
	b.only(tilt)
	b.only(nod)
	// The last touchdown: the legs have passed in the air, the body leans back.
	lx := last.toe.X
	blockX := lx + 1.30*k
	on := b.hipOver(last.toe, last.heading, 4, 0, 0.955)
	on.X -= 0.15*d.Leg() + reachOut
	on.Z = 0
	b.hip(last.on, on)
	b.fly(falls[3].off, last.on)
	b.hip(last.on+0.09, r3.Vec{X: lx + 0.16*k, Y: on.Y - 0.045*k, Z: 0.03})
	soft, away := w.dial("soft-block"), w.dial("fall-away")
	// Who falls to the block side stands on a firm leg all the same: the pelvis tilts about it.
	held := func(share float64) float64 { return 0.085 * k * math.Sin(share*away*math.Pi/180) }
	hf := b.hipOver(r3.Vec{X: blockX, Y: sole0, Z: -0.1}, 0, 0, 0.50*k, 0.985)
	b.hip(front, r3.Vec{X: hf.X, Y: hf.Y + held(0.4), Z: 0.02})
	b.hip(rel, r3.Vec{X: blockX - 0.25*k, Y: hf.Y + 0.160*k - soft*0.0036*k + held(1), Z: -0.02})
	b.hip(rec, r3.Vec{X: blockX + 0.32*k, Y: hf.Y + 0.145*k, Z: -0.02})
	b.hip(rec+0.25, r3.Vec{X: blockX + 0.78*k, Y: hf.Y + 0.05*k, Z: 0.02})
	pl := b.plant(right, last.on, front, last.toe, 0, last.on, 6, last.on+0.05, 2, last.off-0.05, 30, front, 66)
	pl.Heading = Keys(last.on, last.heading, last.off, 12, front, 4)
	b.plant(left, front, rec+0.10, r3.Vec{X: blockX, Y: sole0, Z: -0.10 * k}, 4, front, -10, front+0.03, 0, rel, 2, rec, 26, rec+0.10, 58)
	b.recovery(right, falls[2].off, last.on, 0.2)
	// The block leg swings past low and early.
	T := front - falls[3].off
	b.swing(left, falls[3].off+0.30*T, 4, 2, 112, 24)
	b.swing(left, falls[3].off+0.62*T, 40, 4, 122, 8)
	b.swing(left, falls[3].off+0.86*T, 50, 4, 160, 2)
	b.swing(right, rel+0.05, 8, 4, 96, 26)
	b.plant(right, rec+0.06, rec+2, r3.Vec{X: blockX + 0.80*k, Y: sole0, Z: 0.05 * k}, 6, rec+0.06, 6, rec+0.12, 0, rec+0.3, 6)
	b.swing(left, rec+0.3, -34, 2, 120, 34)

	for _, h := range []struct{ t, hips, chest, lean, right float64 }{
		{0, 4, 10, 2, 0}, {0.25, 14, 48, 0, 0}, {0.50, 34, 84, -4, 0}, {0.75, 30, 86, -6, 0}, {0.90, 34, 88, -8, 0}, {last.on, 42, 88, -17, 0},
		{last.on + 0.10, 34, 84, -18, 0}, {front, 10, 74, -15, -0.4 * away}, {front + 0.05, -6, 38, -6, -0.7 * away}, {rel, -10, -12, 14, -6 - away}, {rec, -8, -42, 34, -8 - away}, {rec + 0.25, 0, -24, 22, -2},
	} {
		b.set(heading, h.t, h.hips)
		b.set(twist, h.t, h.chest-h.hips)
		b.leans(h.t, h.hips, h.lean, h.right)
		b.set(look, h.t, -0.75*h.chest)
	}
	// The javelin: carried over the shoulder, withdrawn, kept back.
	b.arm(right, 0, 96, 36, 0, 58)
	b.arm(right, 0.25, 96, 62, 0, 110)
	b.arm(right, 0.50, 88, 88, 0, 166)
	b.arm(right, front, 86, 92, 0, 172)
	b.arm(left, 0, 20, 10, -20, 90)
	b.arm(left, 0.25, 50, 14, -30, 96)
	b.arm(left, 0.50, 78, -4, -20, 112)
	b.arm(left, 0.90, 84, 2, -10, 130)
	b.arm(left, last.on+0.10, 88, 24, 0, 150)
	b.arm(left, front+0.03, 70, 56, 0, 110)
	b.arm(left, rel, 6, 40, 0, 62)
	b.arm(left, rec+0.2, -20, 34, 0, 90)
	b.arm(right, rel+0.02, 120, 20, 0, 160)
	b.arm(right, rel+0.14, 60, -30, 0, 150)
	b.arm(right, rel+0.4, 14, -6, 0, 120)
	turnUp := w.dial("pull-down")
	attitude := Keys(0, 8, 0.3, 20, 0.55, 27, last.on, 31, front, 33, rel, 35+turnUp)
	m.Release = rel
	var out *push
	m.arms[right] = arm{elbow: r3.Vec{X: 0.25, Y: 0.35, Z: 1}, grip: func(t float64, p *figure.Pose) r3.Vec {
		return out.held(t, d.ShoulderJoint(p, right), d.Arm())
	}}
	m.implement = func(m *Motion, t float64, b *figure.Body, _ *figure.Pose) Implement {
		c := b.At(right, figure.Hand)
		if out != nil && t > rel-0.03 {
			c = out.path.at(math.Min(t, out.to)) // the hand itself, without the rounding of its joints
		}
		s, co := math.Sincos(attitude.At(t) * math.Pi / 180)
		return m.Thrown.points(c, r3.Vec{X: co, Y: s, Z: 0.01})
	}
	m.Props = Props{Runway: 4, Arc: blockX + 2.1, Sector: 14.48}
	m.First, m.Last = 0.02, rec+0.42
	m.Times = map[string]float64{"release": rel, "block": front, "last": last.on, "recovery": rec + 0.06, "last_off": front}
	for i, f := range falls {
		n := string(rune('1' + i))
		m.Times["td"+n], m.Times["to"+n] = f.on, f.off
	}
	b.done()
	speed := 25.5 * math.Sqrt(k)
	v := launch(speed, 34.5, 1)
	q := m.pose(rel)
	end := r3.Add(d.ShoulderJoint(&q, right), r3.Scale(0.93*d.Arm(), r3.Unit(r3.Vec{X: 0.50, Y: 0.83, Z: 0.16})))
	hand := func(t float64) r3.Vec { q := m.pose(t); b := d.Place(&q); return b.At(right, figure.Hand) }
	const grasp = 0.03 // the path takes over while the arm is still back
	out = m.deliver(front-grasp, rel, hand, end, v)
	m.c[pull+right] = Keys(front-grasp, 0, front+0.005, 1, rel+0.01, 1, rel+0.12, 0)
	m.build(b.flight...)
	return m, nil
}

func b2f(v bool) float64 {
	if v {
		return 1
	}
	return 0
}

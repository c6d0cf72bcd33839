package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

// push is the delivery of something held: a path from where the hand has it to
// the release, leaving with a wanted velocity.
type push struct {
	from, to float64
	path     path
	leaves   r3.Vec
}

// held is the place of the hand on the path, as far as the arm reaches: a body
// that runs ahead of the path pulls the hand along.
func (q *push) held(t float64, shoulder r3.Vec, arm float64) r3.Vec {
	at := q.path.at(math.Min(t, q.to))
	if t > q.to {
		// The hand follows through and slows down.
		const fade = 0.022
		at = r3.Add(at, r3.Scale(fade*(1-math.Exp(-(t-q.to)/fade)), q.leaves))
	}
	off := r3.Sub(at, shoulder)
	if far := r3.Norm(off); far > 0.992*arm {
		return r3.Add(shoulder, r3.Scale(0.992*arm/far, off))
	}
	return at
}

// deliver joins the hand's own path at a time to the release: same place and
// velocity at both ends.
func (m *Motion) deliver(from, to float64, hand func(t float64) r3.Vec, end, velocity r3.Vec, via ...mark) *push {
	const h = 1e-3
	p0 := hand(from)
	v0 := r3.Scale(1/h, r3.Sub(p0, hand(from-h)))
	marks := append(append([]mark{{from, p0}}, via...), mark{to, end})
	return &push{from, to, through(marks...).bound(from, v0).bound(to, velocity), velocity}
}

// launch is a velocity by speed, angle up and angle to the right, degrees.
func launch(speed, up, right float64) r3.Vec {
	s, c := math.Sincos(up * math.Pi / 180)
	return r3.Scale(speed, figure.Sum(c, figure.Along(right), s, figure.Up, 0, figure.Up))
}

// shot is the glide or the rotational put.
func shot(p body.Person, w Wish) (*Motion, error) {
	if w.Variant == "rotational" {
		return rotational(p, w)
	}
	return glide(p, w)
}

// holdShot keeps the shot at the neck until the delivery, then pushes it out.
func (m *Motion) holdShot(b *builder, from, rel float64, speed float64, strike r3.Vec) *Motion {
	d, k := m.Sizes, b.k
	m.Release = rel
	neck := func(p *figure.Pose) r3.Vec {
		c := p.Chest()
		return r3.Add(d.Neck(p), c.Of(0.095*k, 0.055*k, 0.115*k))
	}
	var out *push
	place := func(t float64, p *figure.Pose) r3.Vec {
		if out != nil && t > out.from {
			return out.held(t, d.ShoulderJoint(p, right), d.Arm())
		}
		return neck(p)
	}
	m.arms[right] = arm{elbow: r3.Vec{X: -0.1, Y: -0.45, Z: 1}, grip: place}
	b.set(pull+right, 0, 1, rel+0.06, 1, rel+0.22, 0)
	b.arm(right, rel+0.22, 92, 2, 0, 150)
	b.arm(right, rel+0.5, 40, 6, 0, 120)
	m.implement = func(m *Motion, t float64, _ *figure.Body, p *figure.Pose) Implement {
		return Implement{"centre": place(t, p)}
	}
	b.done()
	// The reach of the arm at release gives the end of the path.
	at := m.pose(rel)
	sh := d.ShoulderJoint(&at, right)
	dir := r3.Unit(strike)
	end := r3.Add(sh, r3.Scale(0.965*d.Arm(), dir))
	out = m.deliver(from, rel, func(t float64) r3.Vec { q := m.pose(t); return neck(&q) }, end, r3.Scale(speed, dir))
	m.build(b.flight...)
	return m
}

func rotational(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m := b.m
	m.Thrown = shotOf(p)
	m.Props = Props{Circle: 2.135, Sector: 17.46, StopBoard: true}
	_, T := turning(b, w, 1.0675)
	rel := T["release"]
	m.First, m.Last = 0.35, rel+0.55
	b.only(lean)
	b.set(lean, 0, 12, T["wind"], 20, T["sweep_off"], 18+w.dial("dive")*0.6, T["pivot_off"], 14+w.dial("dive")*0.4, T["centre"], 4, T["front"], 0, rel-0.06, -4, rel, 0, rel+0.3, 12)
	b.arm(left, 0, 60, 40, 0, 120)
	b.arm(left, T["wind"], 82, 20, 0, 130)
	b.arm(left, T["sweep_off"], 74, 70, 0, 160)
	b.arm(left, T["pivot_off"], 66, 60, 0, 150)
	b.arm(left, T["centre"], 84, 20, 0, 120)
	b.arm(left, T["front"], 84, 50, 0, 150)
	b.arm(left, rel-0.07, 50, 60, 0, 90)
	b.arm(left, rel, 8, 36, 0, 60)
	b.arm(left, rel+0.4, 12, 36, 0, 80)
	return m.holdShot(b, rel-0.14, rel, 12.6*math.Sqrt(b.k), launch(1, 36.5, 2)), nil
}

var glideFaults = []Dial{
	{Name: "upright-drive", Max: 0.10, Shown: 0.075, Says: "drive goes up instead of along, metres"},
	{Name: "crooked", Max: 0.30, Shown: 0.22, Says: "feet leave the straight line, metres"},
	{Name: "flat-centre", Max: 26, Shown: 22, Says: "heel down at the centre, degrees"},
	{Name: "slow-front", Max: 0.16, Shown: 0.12, Says: "block foot lands later, seconds"},
	{Name: "locked-block", Max: 1, Shown: 1, Says: "block knee locked at the front landing, share"},
	{Name: "pirouette", Max: 150, Shown: 90, Says: "spins on after the release, degrees"},
}

func glide(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	m.Thrown = shotOf(p)
	m.Props = Props{Circle: 2.135, Sector: 17.46, StopBoard: true}
	late := w.dial("slow-front")
	const set, dip, leave = 0.1, 0.62, 0.96
	centre := leave + 0.115
	front := centre + 0.075 + late
	rel := front + 0.235
	rec := rel + 0.16
	m.First, m.Last = 0, rel+0.6
	m.Times = map[string]float64{"set": set, "drive_off": leave, "centre": centre, "front": front, "release": rel, "recovery": rec}
	crook := w.dial("crooked")
	toe0 := r3.Vec{X: -0.92, Y: sole0, Z: 0}
	r0 := b.plant(right, -1, leave, toe0, 180, dip, 0, leave-0.1, 0, leave, -22)
	r0.Rolls = []Roll{{From: leave - 0.1, OnHeel: true}} // leaves over the heel
	r0.Heading = Keys(leave-0.1, 180, leave, 180-16)
	c := r3.Vec{X: -0.04 * k, Y: sole0, Z: -crook}
	flat := w.dial("flat-centre")
	r1 := b.plant(right, centre, rel+0.02, c, 0, centre, 28-flat, front, 32-flat, rel-0.05, 56, rel+0.02, 66)
	r1.Heading = Keys(centre, 180-80, front, 180-98, rel, 180-172)
	f := r3.Vec{X: c.X + 0.78*k, Y: sole0, Z: -0.02*k - 0.4*crook}
	l1 := b.plant(left, front, rel+0.05, f, 0, front, 4, front+0.04, 0, rel, 26, rel+0.05, 50)
	l1.Stiff = w.dial("locked-block") > 0
	l1.Heading = Keys(front, 180-118, rel, 180-160)
	r2 := b.plant(right, rec, rel+3, r3.Vec{X: 0.80*k - 0.02, Y: sole0, Z: 0.02}, 0, rec, 8, rec+0.06, 0)
	spin := w.dial("pirouette")
	r2.Heading = Keys(rec, 180-150-spin*0.2, rel+0.5, 180-150-spin)
	// Free leg: back and low from the tuck, to the board.
	b.plant(left, -1, 0.28, r3.Vec{X: -0.70 * k, Y: sole0, Z: 0.26}, 180, -1, 44, 0.28, 50)
	b.swing(left, dip, 40, 2, 78, 10)
	b.swing(left, leave-0.12, -22, 6, 150, 14)
	b.swing(left, leave, -32, 8, 168, 16)
	b.swingTurned(left, centre, -16, 22, 20, 164, 14)
	b.swing(left, rel+0.16, -24, 10, 134, 34)
	b.swing(left, rel+0.5, -38, 12, 140, 30)
	b.swing(right, rel+0.09, 6, 4, 112, 24)
	b.swing(right, leave+0.065, 30, 0, 104, 12)

	y := func(bend float64) float64 { return d.AnkleUp + bend*d.Leg() }
	up := w.dial("upright-drive")
	for _, h := range [][4]float64{
		{0, -0.80, 0.97, 0}, {set, -0.80, 0.965, 0}, {dip, -0.74, 0.80, 0}, {leave - 0.12, -0.52, 0.815, 0},
		{leave, -0.24, 0.845, -0.1 * crook}, {centre, c.X + 0.10*k, 0.81, -0.8 * crook}, {front, c.X + 0.265*k, 0.862, -0.7 * crook},
		{rel - 0.08, c.X + 0.46*k, 0.93, -0.5*crook - 0.03}, {rel, c.X + 0.56*k, 0.985, -0.04}, {rec, 0.60 * k, 1.0, 0}, {rel + 0.5, 0.66 * k, 0.975, 0},
	} {
		yy := y(h[2])
		if h[0] == leave {
			yy += up
		}
		b.hip(h[0], r3.Vec{X: h[1], Y: yy, Z: h[3]})
	}
	b.fly(leave, centre)
	for _, h := range [][3]float64{{0, 0, 0}, {dip, -4, 4}, {leave, 8, 18}, {centre, 62, 50}, {front, 84, 52}, {rel - 0.07, 150, 26}, {rel, 178, -8}, {rec, 190 + spin*0.4, -16}, {rel + 0.5, 176 + spin, -8}} {
		b.set(heading, h[0], 180-h[1])
		b.set(twist, h[0], h[2])
	}
	b.set(lean, 0, 30, set, 36, dip, 62, leave-0.12, 58, leave, 50, centre, 28, front, 20, rel-0.08, 0, rel, 2, rec, 14, rel+0.5, 10)
	b.set(bend, 0, 10, dip, 18, centre, 12, front, 8, rel, -6, rel+0.4, 6)
	b.set(tilt, centre, 6, front, 16, rel, -8, rec, 0)
	b.set(side, centre, 2, front, 8, rel, -10, rec, 0)
	b.set(nod, 0, -14, dip, -20, centre, -10, rel, -16)
	b.arm(left, 0, 60, 6, 0, 140)
	b.arm(left, dip, 70, 8, 0, 160)
	b.arm(left, leave, 96, 6, 0, 165)
	b.arm(left, centre, 96, 20, 0, 160)
	b.arm(left, front, 92, 34, 0, 156)
	b.arm(left, rel-0.1, 64, 70, 0, 120)
	b.arm(left, rel, 14, 46, 0, 66)
	b.arm(left, rel+0.4, 10, 40, 0, 90)
	if lock := w.dial("locked-block"); lock > 0 {
		// A straight leg cannot be had without the hips going up and back.
		for i := range b.hips {
			if b.hips[i].t == front {
				b.hips[i].X -= 0.06 * lock
				b.hips[i].Y += 0.045 * lock
			}
		}
	}
	return m.holdShot(b, rel-0.15, rel, 11.8*math.Sqrt(k), launch(1, 36.5, 0)), nil
}

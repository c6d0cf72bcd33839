package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var highJumpFaults = []Dial{
	{Name: "bent-curve", Max: 34, Shown: 26, Says: "bends at the hip in the curve instead of leaning, degrees"},
	{Name: "upright-early", Max: 1, Shown: 0.9, Says: "inward lean lost on the last step, share"},
	{Name: "deep-sink", Max: 0.12, Shown: 0.10, Says: "hips sink in the penultimate step, metres"},
	{Name: "leaper", Max: 0.30, Shown: 0.24, Says: "plants under the hips, metres"},
	{Name: "soft-knee", Max: 0.06, Shown: 0.05, Says: "knee bent at the plant, share of the leg"},
}

// highJump runs a straight and a curve to the left and clears the bar backwards;
// the left foot takes off, the bar lies on the right.
func highJump(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	leg := d.Leg()
	v := 6.7 * math.Sqrt(k)
	radius := 9.0 * k
	const plant = 30.0 // heading at the plant: degrees towards the bar
	lean0 := math.Atan(v*v/(Gravity*radius)) * 180 / math.Pi
	// Along the arc backwards from the take-off at s = 0; straight before it.
	arc := radius * 62 * math.Pi / 180
	place := func(s float64) (r3.Vec, float64) {
		// The middle of the circle lies to the left of the runner at the take-off.
		c := r3.Scale(-radius, figure.Along(plant+90))
		turn := math.Min(arc, -s) / radius
		h := plant + turn*180/math.Pi
		at := r3.Add(c, r3.Scale(radius, figure.Along(h+90)))
		if -s > arc {
			at = r3.Sub(at, r3.Scale(-s-arc, figure.Along(h)))
		}
		return at, h
	}
	sides := []int{right, left, right, left, right, left}
	lengths := []float64{1.86, 1.86, 1.86, 1.90, 1.72}
	early, bent := w.dial("upright-early"), w.dial("bent-curve")
	sink, leaper, soft := w.dial("deep-sink"), w.dial("leaper"), w.dial("soft-knee")
	total := 0.0
	for _, l := range lengths {
		total += l * k
	}
	var falls []footfall
	s, t := -total, 0.0
	for i := range sides {
		if i > 0 {
			s += lengths[i-1] * k
			t += lengths[i-1] * k / v
		}
		at, h := place(s)
		tc := 0.135 * math.Sqrt(k)
		f := footfall{side: sides[i], on: t, off: t + tc, toe: at, heading: h, ahead: 0.22 * leg, sole: 8, reachOn: 0.965, inward: lean0 * math.Min(1, math.Max(0.15, (arc+s)/(0.35*arc)))}
		f.toe = r3.Add(f.toe, r3.Scale(figure.Out(f.side)*stance*k, figure.Along(h+90)))
		f.toe.Y = sole0
		f.behind = v*tc - f.ahead - 0.13*k
		switch i {
		case 4: // penultimate: a little longer on the ground, hips lower
			tc = 0.165 * math.Sqrt(k)
			f.off, f.ahead, f.reachOn, f.sole = t+tc, 0.30*leg, 0.975-sink*1.1, 2
			f.behind = v*tc*0.96 - f.ahead - 0.13*k
			f.high = 0.97
		case 5:
			f.off, f.ahead, f.reachOn, f.sole = t+0.168*math.Sqrt(k), 0.56*leg-leaper, 0.982-soft, -6
			f.inward *= 1 - early
		}
		falls = append(falls, f)
	}
	to := falls[5]
	last := falls[5]
	falls = falls[:5]
	b.run(falls, style{fast: 0.55, lean: 6, arms: 0.9})
	b.fly(falls[4].off, last.on)
	// The plant and the take-off.
	on, off := to.on, to.off
	b.recovery(left, falls[3].off, on, 0.3)
	h0 := b.hipOver(to.toe, to.heading, -4, to.ahead, to.reachOn)
	sn, cs := math.Sincos(to.inward * 0.9 * math.Pi / 180)
	side0 := figure.Along(to.heading + 90)
	lift := h0.Y - d.AnkleUp
	h0 = r3.Add(h0, figure.Sum(-sn*lift, side0, (cs-1)*lift, figure.Up, 0, side0))
	b.hip(on, h0)
	h1 := b.hipOver(to.toe, to.heading, 58, -0.10*leg, 0.995)
	b.hip(off, r3.Add(h1, r3.Scale(0.03, side0)))
	pl := b.plant(left, on, off, to.toe, to.heading, on, -6, on+0.03, 0, on+0.10, 4, off, 58)
	pl.Heading = Keys(on, to.heading-6, off, to.heading+4)
	b.swing(right, on+0.02, -6, 0, 74, 22)
	b.swing(right, off-0.05, 66, -2, 56, 8)
	b.swing(right, off, 92, 2, 66, 6)

	// Flight: up on the back across the bar, down on the shoulders.
	up := 0.405 * math.Sqrt(k)
	T := up + 0.43*math.Sqrt(k)
	top, land := off+up, off+T
	b.fly(off, land)
	barZ := 0.98 * k
	hand := r3.Vec{X: to.toe.X + 2.35*k, Y: 1.00 * k, Z: barZ + 1.10*k}
	b.hip(land, hand)
	b.hip(land+0.12, r3.Add(hand, r3.Vec{X: 0.16, Y: -0.16, Z: 0.14}))
	b.hip(land+0.4, r3.Add(hand, r3.Vec{X: 0.22, Y: -0.18, Z: 0.22}))
	body := func(t, head, back, arch, legs, knee float64) {
		b.set(heading, t, head)
		b.set(lean, t, back)
		b.set(bend, t, arch)
		b.set(twist, t, 0)
		for s := range 2 {
			b.swing(s, t, legs, 8, knee, 20)
		}
	}
	b.set(heading, on, to.heading-4, off, to.heading-26)
	b.set(twist, on, 10, off, -8)
	lostLean := 0.55 * early // somebody upright too early turns late and flat
	b.set(lean, on, -14+leaper*30, on+0.08, -8, off, -2)
	b.set(tilt, on, -to.inward*0.85, off, 2, top, 4-lostLean*4, land, 0)
	b.set(side, on, 0, off, 0)
	b.set(bend, falls[3].on, 0, on, 0, off, -4)
	if bent > 0 {
		// The hips stay out, the chest bends in: no more one line.
		b.set(tilt, falls[2].on, -falls[2].inward*0.4)
		b.set(side, falls[1].on, -bent*0.5, falls[2].on, -bent, falls[3].on, -bent, falls[4].on, -bent*0.8, on, -bent*0.3)
	}
	b.set(heading, off+0.45*up, -48)
	b.set(lean, off+0.45*up, -32)
	b.swing(right, off+0.35*up, 78, 4, 82, 14)
	b.swing(left, off+0.35*up, -8, 4, 150, 34)
	body(top, -86, -88, -24, -22, 92)
	b.set(heading, top+0.10, -88)
	b.set(lean, top+0.10, -104)
	b.set(bend, top+0.10, -14)
	b.swing(left, top+0.10, -8, 8, 88, 20)
	b.swing(right, top+0.10, -8, 8, 88, 20)
	body(top+0.24, -90, -116, 14, 62, 128)
	body(land, -90, -128, 22, 74, 160)
	body(land+0.4, -90, -122, 26, 66, 150)
	b.set(nod, top, -18, top+0.2, 18, land, 30)
	// Arms go up with the free knee, then back and to the sides.
	for s := range 2 {
		b.arm(s, on, -34, 20, 0, 130)
		b.arm(s, off, 112, 20, 0, 104)
		b.arm(s, off+0.5*up, 130, 34, 0, 130)
		b.arm(s, top, 6, 34, 0, 160)
		b.arm(s, top+0.24, 24, 60, 0, 160)
		b.arm(s, land, 30, 74, 0, 160)
	}
	m.Times["pen"], m.Times["pen_off"], m.Times["plant"], m.Times["to"], m.Times["top"], m.Times["land"] = falls[4].on, falls[4].off, on, off, top, land
	for i, f := range falls[:4] {
		m.Times["td"+string(rune('1'+i))] = f.on
	}
	m.Radius = radius
	m.Props = Props{Runway: 30, Lanes: true,
		Mat: &Box{r3.Vec{X: to.toe.X - 1.0, Z: barZ + 0.12}, r3.Vec{X: to.toe.X + 5.0, Y: 0.72, Z: barZ + 3.2}}}
	m.First, m.Last = falls[1].on-0.02, land+0.25
	m.Props.Bar = &Bar{r3.Vec{X: to.toe.X - 0.85, Y: 1, Z: barZ}, r3.Vec{X: to.toe.X + 3.15, Y: 1, Z: barZ}}
	// Two cones by tape from below the middle of the bar: where the curve begins, and inside of it.
	mid := to.toe.X + 1.15
	m.Props.Cones = []r3.Vec{{X: mid - 5, Z: barZ - 7}, {X: mid - 4.5, Z: barZ - 2.5}}
	b.done()
	// The bar lies a little under the highest place of the centre of mass.
	high := m.At(top).Centre.Y - 0.03
	if w.Bar > 0 {
		high = w.Bar
	}
	m.Props.Bar.A.Y, m.Props.Bar.B.Y = high, high
	return m, nil
}

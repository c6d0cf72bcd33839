package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var vaultFaults = []Dial{
	{Name: "slowing", Max: 0.25, Shown: 0.20, Says: "slows into the plant, share of the speed"},
	{Name: "low-plant", Max: 0.35, Shown: 0.27, Says: "top hand low in the step before the take-off, metres"},
	{Name: "bent-arm", Max: 50, Shown: 40, Says: "top arm bent at the take-off, degrees"},
	{Name: "under", Max: 0.5, Shown: 0.35, Says: "take-off foot under, metres"},
	{Name: "late-knee", Max: 60, Shown: 45, Says: "drive knee late, degrees of the thigh"},
}

// poleArc gives points along a bent pole from its tip to the top hand: a part of
// a circle whose length is the pole's and whose chord ends in the hand.
func poleArc(tip, hand r3.Vec, length float64, bulge r3.Vec) []r3.Vec {
	chord := r3.Norm(r3.Sub(hand, tip))
	lo, hi := 1e-4, 3.0 // half the angle: sin a / a = chord / length
	for range 60 {
		mid := (lo + hi) / 2
		if math.Sin(mid)/mid > chord/length {
			lo = mid
		} else {
			hi = mid
		}
	}
	a := lo
	along := r3.Unit(r3.Sub(hand, tip))
	side := r3.Unit(r3.Sub(bulge, r3.Scale(r3.Dot(bulge, along), along)))
	r := length / (2 * a)
	const n = 10
	pts := make([]r3.Vec, 0, n+2)
	for i := range n + 1 {
		f := -a + 2*a*float64(i)/n
		if a < 2e-3 {
			pts = append(pts, figure.Between(tip, hand, float64(i)/n))
			continue
		}
		pts = append(pts, r3.Add(figure.Between(tip, hand, 0.5), figure.Sum(r*math.Sin(f), along, r*(math.Cos(f)-math.Cos(a)), side, 0, side)))
	}
	// The end above the hand.
	return append(pts, r3.Add(hand, r3.Scale(0.14, r3.Unit(r3.Sub(pts[n], pts[n-1])))))
}

func vault(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	leg := d.Leg()
	v := 8.0 * math.Sqrt(k)
	grip := 4.15 * k
	slow, low, bent, under, knee := w.dial("slowing"), w.dial("low-plant"), w.dial("bent-arm"), w.dial("under"), w.dial("late-knee")
	step, tc := 0.245*math.Sqrt(k), 0.115*math.Sqrt(k)
	sides := []int{left, right, left, right, left}
	// Laid back from the take-off foot under the top hand.
	high := 2.17 * k
	footX := -math.Sqrt(grip*grip-high*high) + 0.02 + under
	var falls []footfall
	x, t := 0.0, 0.0
	speeds := []float64{v, v, v * (1 - 0.35*slow), v * (1 - 0.75*slow), v * (1 - slow)}
	for i, s := range sides {
		if i > 0 {
			x += speeds[i-1] * step
			if i == 4 {
				x += 0.06 * leg // the foot reaches a little further, the hips do not wait
			}
			t += step
		}
		vi := speeds[i]
		f := footfall{side: s, on: t, off: t + tc, toe: r3.Vec{X: x, Y: sole0, Z: figure.Out(s) * stance * k}, ahead: 0.24 * leg, sole: 9, reachOn: 0.968}
		f.behind = vi*tc - f.ahead - 0.14*k
		if i == 4 {
			f.ahead, f.sole, f.reachOn, f.high = 0.30*leg, 2, 0.985, 0.992
			f.behind = 0.93*vi*tc - f.ahead - 0.14*k
		}
		falls = append(falls, f)
	}
	shift := footX - x
	for i := range falls {
		falls[i].toe.X += shift
	}
	b.run(falls, style{fast: 0.8, lean: 3})
	to := falls[4]
	on, off := to.on, to.off
	// Right arm: at the hip, up past the ear, and straight over the foot.
	pre := falls[3]
	b.arm(right, 0, -36, 12, 0, 84)
	b.arm(right, falls[2].on, -34, 12, 0, 84)
	b.arm(right, falls[2].off, -6, 26, 10, 58)
	b.arm(right, pre.on, 66-low*330, 26, 10, 36)
	b.arm(right, pre.off, 128-low*330, 18, 0, 70)
	b.arm(right, on, 160-bent*0.4, 10, 0, 136-bent)
	b.arm(right, off, 186-bent*0.6+under*55, 6, 0, 178-bent)
	b.set(lean, on, -2, off, -6-under*32)
	// The drive knee.
	b.swing(right, on+0.05, 44-0.8*knee, 0, 56, 12)
	b.swing(right, off, 80-knee, 0, 70, 6)

	// On the pole: the top hand goes round the box while the chord shortens and
	// grows again; the body hangs, swings, turns over.
	const hang = 1.32
	pushOff := off + hang
	at := func(share float64) float64 { return off + share*hang }
	b.swing(right, at(0.12), 86, 0, 74, 10)
	b.swing(left, at(0.12), -34, 2, 168, 30)
	b.swing(right, at(0.30), 40, 2, 130, 20)
	b.swing(left, at(0.32), 30, 2, 170, 20)
	b.swing(left, at(0.48), 104, 2, 168, 20)
	b.swing(right, at(0.48), 96, 2, 130, 20)
	b.swing(left, at(0.62), 120, 2, 150, 20)
	b.swing(right, at(0.62), 118, 2, 140, 20)
	b.swing(left, at(0.80), 40, 2, 172, 30)
	b.swing(right, at(0.80), 44, 2, 168, 30)
	b.swing(left, at(1), 4, 3, 174, 34)
	b.swing(right, at(1), 4, 3, 172, 34)
	turns := func(share, back, flexR, bendR, head float64) {
		b.set(lean, at(share), back)
		b.set(heading, at(share), head)
		b.arm(right, at(share), flexR, 6, 0, bendR)
	}
	b.set(twist, at(0.1), 8)
	b.set(tilt, off, 0)
	turns(0.15, -6, 176, 178-bent*0.5, 0)
	turns(0.32, -24, 168, 178, 0)
	turns(0.48, -72, 128, 178, 0)
	turns(0.62, -128, 72, 176, 0)
	turns(0.78, -168, 34, 160, 0)
	turns(0.88, -180, 46, 96, 60)
	turns(1.0, -188, 122, 120, 172)
	b.set(bend, at(0.3), -8, at(0.5), 14, at(0.62), 16, at(0.85), 0, at(1), 4)

	// Over the bar, belly down, and on to the back.
	T := 1.05 * math.Sqrt(k)
	land := pushOff + T
	top := pushOff + 0.21*math.Sqrt(k)
	b.fly(pushOff, land)
	for s := range 2 {
		b.swing(s, top, 62, 4, 168, 20)
		b.swing(s, top+0.18, 50, 4, 160, 20)
		b.swing(s, top+0.45, 40, 8, 140, 10)
		b.swing(s, land, 80, 10, 140, 10)
		b.arm(s, pushOff+0.08, 150, 14, 0, 160)
		b.arm(s, top, 130, 30, 0, 150)
		b.arm(s, top+0.22, 150, 40, 0, 140)
		b.arm(s, top+0.5, 60, 60, 0, 150)
		b.arm(s, land, 30, 70, 0, 160)
	}
	b.set(lean, top, -236, top+0.2, -296, top+0.45, -368, land, -446, land+0.3, -446)
	b.set(bend, top, 34, top+0.2, 20, top+0.45, 4, land, 18)
	b.set(heading, top, 180, land, 180)

	box := r3.Vec{X: 0, Y: -0.05}
	var from r3.Vec
	theta, chord := Curve{}, Curve{}
	m.hold = func(t float64) (r3.Vec, bool) {
		if t <= off || t >= pushOff || len(theta.t) == 0 {
			return r3.Vec{}, false
		}
		s, c := math.Sincos(theta.At(t) * math.Pi / 180)
		r := chord.At(t)
		z := Keys(off, from.Z, at(0.5), 0.10, pushOff, 0.04)
		return r3.Vec{X: box.X - r*c, Y: box.Y + r*s, Z: z.At(t)}, true
	}
	bulge := r3.Vec{X: 0.75, Y: 0.5, Z: -0.65}
	pole := func(t float64, hand r3.Vec) []r3.Vec {
		switch {
		case t < off:
			// Carried high, lowered, slid into the box.
			drop := Keys(0, 34, falls[2].on, 16, pre.on, -4, on, -18, off, -math.Asin((hand.Y-box.Y)/grip)*180/math.Pi)
			s, c := math.Sincos(drop.At(t) * math.Pi / 180)
			yaw := Keys(0, -5, pre.on, -3, off, 0)
			dir := figure.Sum(c, figure.Along(yaw.At(t)), s, figure.Up, 0, figure.Up)
			tip := r3.Add(hand, r3.Scale(grip, dir))
			if near := math.Max(0, 1-(off-t)/0.10); near > 0 {
				tip = figure.Between(tip, box, near*near*(3-2*near))
			}
			return poleArc(tip, hand, math.Max(grip, r3.Norm(r3.Sub(tip, hand))*1.00001), bulge)
		case t < pushOff:
			return poleArc(box, hand, math.Max(grip, r3.Norm(r3.Sub(box, hand))*1.00001), bulge)
		}
		// Let go, it falls back towards the runway.
		s := t - pushOff
		a := (theta.At(pushOff) - 14*s - 60*s*s) * math.Pi / 180
		hand = r3.Add(box, r3.Scale(grip, r3.Vec{X: -math.Cos(a), Y: math.Sin(a)}))
		return poleArc(box, hand, grip*1.00001, bulge)
	}
	// The other hand holds lower on the pole.
	m.arms[left] = arm{elbow: r3.Vec{X: 0.2, Y: -0.4, Z: 1}, grip: func(t float64, p *figure.Pose) r3.Vec {
		var place figure.Body
		q := *p
		q.Arms[left].Pull = 0
		place = d.Place(&q)
		pts := pole(t, place.At(right, figure.Hand))
		n := len(pts) - 2
		return figure.Between(pts[n], pts[n-1], 0.60*k/(grip/float64(n)))
	}}
	b.set(pull+left, 0, 1, at(0.74), 1, at(0.86), 0.6, at(0.95), 0)
	b.arm(left, 0, 40, 10, 0, 90)
	b.arm(left, off, 150, 20, 0, 150)
	b.arm(left, at(0.9), 60, 14, 0, 90)
	b.arm(left, at(1), 100, 16, 0, 120)
	m.Thrown.Kind = "pole"
	m.implement = func(_ *Motion, t float64, b *figure.Body, _ *figure.Pose) Implement {
		im := Implement{}
		for i, q := range pole(t, b.At(right, figure.Hand)) {
			im[PolePoint(i)] = q
		}
		return im
	}
	m.Props = Props{Runway: 1.22, VaultBox: &box, Lanes: false,
		Mat: &Box{r3.Vec{X: 0.45, Z: -2.5 * k}, r3.Vec{X: 5.2, Y: 0.80, Z: 2.5 * k}}}
	m.First, m.Last = falls[0].off-0.05, land+0.22
	m.Times = map[string]float64{"pre": pre.on, "pre_off": pre.off, "td": on, "to": off, "bend": at(0.42), "straight": at(0.92), "push_off": pushOff, "top": top, "land": land}
	b.hip(pushOff, r3.Vec{X: 0, Y: 4.5 * k})
	landing := r3.Vec{X: 2.5 * k, Y: 1.06 * k, Z: 0.04}
	b.hip(land, landing)
	b.hip(land+0.3, r3.Add(landing, r3.Vec{X: 0.15, Y: -0.14}))
	b.done()
	// Now that the hand is known where the foot leaves, lay its way.
	place := m.At(off).Body
	from = place.At(right, figure.Hand)
	a0 := math.Atan2(from.Y-box.Y, box.X-from.X) * 180 / math.Pi
	c0 := math.Hypot(from.Y-box.Y, box.X-from.X)
	// It goes on as fast as it was: a body that leaves the ground does not stand still.
	const h = 2e-3
	before := m.At(off - h).Body
	was := before.At(right, figure.Hand)
	turned, nearer := (a0-math.Atan2(was.Y-box.Y, box.X-was.X)*180/math.Pi)/h, (c0-math.Hypot(was.Y-box.Y, box.X-was.X))/h
	theta = Keys(off, a0, at(0.2), a0+15, at(0.42), a0+29, at(0.62), a0+42, at(0.8), a0+52, pushOff, 91).bound(off, min(max(turned, 0), 3*15/(0.2*hang)))
	chord = Keys(off, c0, at(0.42), 0.715*grip, at(0.62), 0.80*grip, at(0.80), 0.95*grip, at(0.92), 0.995*grip, pushOff, 0.995*grip)
	chord = chord.bound(off, min(0, max(nearer, 3*(0.715*grip-c0)/(0.42*hang))))
	// The flight begins where the hands let go.
	q := m.pose(pushOff - 1e-6)
	for i := range b.hips {
		if math.Abs(b.hips[i].t-pushOff) < 1e-9 {
			b.hips[i].Vec = q.Hip
		}
	}
	b.done()
	bar := m.At(top).Centre
	level := bar.Y - 0.10
	if w.Bar > 0 {
		level = w.Bar
	}
	m.Props.Bar = &Bar{r3.Vec{X: bar.X + 0.05, Y: level, Z: -2.0}, r3.Vec{X: bar.X + 0.05, Y: level, Z: 2.0}}
	return m, nil
}

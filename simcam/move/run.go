package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

// footfall is one ground contact of a run.
type footfall struct {
	side    int
	on, off float64
	toe     r3.Vec
	heading float64
	ahead   float64 // ankle ahead of the hip at touchdown, m
	behind  float64 // and behind it at toe-off
	sole    float64 // at touchdown, degrees
	reachOn float64 // bend of the leg at touchdown: hip to ankle over a straight leg
	inward  float64 // lean to the left in a curve, degrees
	high    float64 // reach at toe-off when not the usual one
}

// style is how somebody runs: arms and recovery of the legs, from easy (0) to
// sprinting (1).
type style struct {
	fast       float64
	lean, bend float64
	arms       float64 // size of the arm swing, 1 as usual; 0 leaves the arms to the event
	cross      float64 // hands across the middle, degrees
}

// recovery is the swing of a leg between two contacts.
func (b *builder) recovery(s int, off, on float64, fast float64) {
	T := on - off
	mix := func(a, z float64) float64 { return a + (z-a)*fast }
	b.swing(s, off+0.28*T, mix(-6, 2), 0, mix(95, 56), 28)
	b.swing(s, off+0.54*T, mix(30, 52), 0, mix(84, 50), 14)
	b.swing(s, off+0.78*T, mix(41, 64), 0, mix(112, 98), 4)
	b.swing(s, off+0.93*T, mix(33, 47), 0, mix(150, 142), 2)
}

// run lays footfalls under hips that pass over them, with legs, arms and the
// turns of pelvis and chest.
func (b *builder) run(falls []footfall, st style) {
	last := [2]float64{math.NaN(), math.NaN()}
	for i, f := range falls {
		on := b.hipOver(f.toe, f.heading, f.sole, f.ahead, f.reachOn)
		high := f.high
		if high == 0 {
			high = 0.975
		}
		off := b.hipOver(f.toe, f.heading, 52+6*st.fast, -f.behind, high)
		// Hips stay near the middle between the feet, and inside in a curve.
		side := figure.Along(f.heading + 90)
		over := r3.Scale(-0.8*figure.Out(f.side)*stance*b.k, side)
		if f.inward != 0 {
			s, c := math.Sincos(f.inward * math.Pi / 180)
			for _, h := range []*r3.Vec{&on, &off} {
				up := h.Y - b.m.Sizes.AnkleUp
				*h = r3.Add(*h, figure.Sum(-s*up, side, (c-1)*up, figure.Up, 0, side))
			}
		}
		b.hip(f.on, r3.Add(on, over))
		b.hip(f.off, r3.Add(off, over))
		tc := f.off - f.on
		b.plant(f.side, f.on, f.off, f.toe, f.heading, f.on, f.sole, f.on+0.18*tc, math.Max(0, f.sole-4), f.on+0.55*tc, 2, f.off, 52)
		if t := last[f.side]; !math.IsNaN(t) {
			b.recovery(f.side, t, f.on, st.fast)
		}
		last[f.side] = f.off
		if i > 0 {
			b.fly(falls[i-1].off, f.on)
		}
		// At toe-off the other thigh is in front, so this side's arm is too.
		way := figure.Out(f.side)
		b.set(heading, f.off, f.heading+way*(5+3*st.fast))
		b.set(twist, f.off, -way*(12+6*st.fast))
		b.set(lean, f.on, st.lean, f.off, st.lean+2)
		b.set(tilt, (f.on+f.off)/2, -way*3-0.95*f.inward)
		if st.arms > 0 {
			same, other := f.side, 1-f.side
			b.arm(same, f.off, (26+20*st.fast)*st.arms, 6, -18-st.cross, 82-12*st.fast)
			b.arm(other, f.off, (-38-24*st.fast)*st.arms, 14, -8-st.cross/2, 96+14*st.fast)
		}
	}
	b.set(bend, 0, st.bend)
	b.set(nod, 0, -st.lean/2)
}

// stance is how far a foot lies from the middle line in a run, m.
const stance = 0.045

// Running is the running stride. Dials: speed in the variant; faults below.
func running(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	k, v := b.k, w.Speed
	m0 := b.m.Sizes
	leg := m0.Leg()
	fast := math.Max(0, math.Min(1, (v-3)/6))
	// Contact and cadence by speed: contact times from memory of treadmill
	// studies, cadence common practice.
	tc := (0.245 - 0.25*fast + 0.11*fast*fast) * math.Sqrt(k)
	step := (60 / (167 + 24*fast + 62*fast*fast*fast)) * math.Sqrt(k)
	bounce := w.dial("bounce")
	step += bounce
	tf := step - tc
	ahead := (0.17+0.08*fast)*leg + w.dial("over-stride")*leg
	landing := -6 + 18*fast - 40*w.dial("over-stride")
	// The ankle itself moves forward over the toes.
	roll := m0.Ankle(figure.Foot{Sole: 52 + 6*fast}).X - m0.Ankle(figure.Foot{Sole: landing}).X
	behind := v*tc - ahead - roll
	var falls []footfall
	const n = 7
	// One fall more than is shown, so that the last leg swings like the others.
	for i := range n + 1 {
		s := i % 2
		on := float64(i) * step
		c := tc
		if s == right {
			c *= 1 + w.dial("uneven")
		}
		x := v*on + ahead
		toe := m0.Foot - m0.AnkleBack
		high := 0.975
		if c > tc {
			high = 0.99
		}
		falls = append(falls, footfall{high: high, side: s, on: on, off: on + c, toe: r3.Vec{X: x + toe, Y: sole0, Z: figure.Out(s) * stance * k}, ahead: ahead, behind: behind + v*(c-tc),
			sole: landing, reachOn: 0.982 + 0.055*math.Min(0.25, w.dial("over-stride"))})
	}
	hang := w.dial("hips-behind")
	b.run(falls, style{fast: fast, lean: 5 + hang, arms: 1, cross: w.dial("hands-cross")})
	b.m.Props.Lanes = true
	b.m.First, b.m.Last = falls[1].on-0.02, falls[n-1].on+0.01
	m := b.done()
	for i, f := range falls[1 : n-1] {
		id := string(rune('1' + i))
		m.Times["td"+id], m.Times["to"+id] = f.on, f.off
		// The hip over the ankle, which itself moves over the toes.
		lo, hi := f.on, f.off
		for range 40 {
			at := (lo + hi) / 2
			if st := m.At(at); st.Body.Mid(figure.Hip).X < st.Body.At(f.side, figure.Ankle).X {
				lo = at
			} else {
				hi = at
			}
		}
		m.Times["mid"+id] = lo
		if i+2 < n {
			m.Times["fly"+id] = f.off + tf/2
		}
	}
	return m, nil
}

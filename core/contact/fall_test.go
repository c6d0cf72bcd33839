package contact_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/contact"
)

// gravity of somebody 1.8 m tall, standing heights/s².
const gravity = 9.80665 / 1.8

// hopping is the height of a mass that hops: so long in the air, so long on the ground, where
// a foot pushes it up as fast as it came down.
func hopping(frames int, rate, air, ground, sigma float64, seed uint64) *contact.Mass {
	r := rand.New(rand.NewPCG(seed, 5))
	m := &contact.Mass{SD: math.Max(0.002, sigma), Gravity: gravity}
	up := gravity * air / 2 // m/s at the take-off, in standing heights
	for f := range frames {
		t := math.Mod(float64(f)/rate, air+ground)
		y := 0.0
		if t < air {
			y = up*t - gravity*t*t/2
		} else {
			u := t - air
			a := 2 * up / ground
			y = -up*u + a*u*u/2
		}
		m.Up = append(m.Up, y+sigma*r.NormFloat64())
	}
	return m
}

// A flight obeys gravity, a stretch with a contact in it does not, and one of which hardly
// anything is known is not taken for a flight.
func TestFlightObeysGravity(t *testing.T) {
	for _, rate := range []float64{30, 60, 240} {
		for seed := range uint64(10) {
			m := hopping(int(2*rate), rate, 0.4, 0.2, 0.004, seed)
			at := func(s float64) int { return int(math.Round(s * rate)) }
			if !m.Flown(at(0.03), at(0.37), rate) {
				t.Errorf("%g/s, seed %d: a flight is none", rate, seed)
			}
			if m.Flown(at(0.1), at(0.9), rate) {
				t.Errorf("%g/s, seed %d: two flights with a contact between them are one", rate, seed)
			}
			for f := at(0.1); f < at(0.35); f++ {
				m.Up[f] = math.NaN()
			}
			if m.Flown(at(0.03), at(0.37), rate) && at(0.34) >= 8 {
				t.Errorf("%g/s: a flight of which nobody saw the most", rate)
			}
		}
	}
	if m := hopping(10, 60, 0.4, 0.2, 0, 1); !m.Flown(2, 4, 60) {
		t.Error("two frames tell no fall, and deny none")
	}
}

// Where the points of the feet leave it open whether a foot stood for long or twice, the
// centre of mass tells when it was in the air.
func TestTheMassTellsAFlightFromAContact(t *testing.T) {
	const rate = 60.0
	frames := int(2.4 * rate)
	// The two feet of strides stand for 0.2 s each, 0.1 s apart, and begin with a contact.
	mass := hopping(frames+int(0.1*rate), rate, 0.1, 0.2, 0.002, 1)
	mass.Up = mass.Up[int(0.1*rate):]
	var with, without int
	for seed := range uint64(12) {
		shoes, down := strides(frames, rate, 0.02, 0.2, seed)
		right := func(mass *contact.Mass) (n int) {
			for _, l := range contact.Chain(shoes, frames, rate, flat, mass) {
				k := 0
				if l.Foot == shoes[1].Side {
					k = 1
				}
				for _, d := range down[k] {
					if max(l.From-d[0], d[0]-l.From) <= 1 && !l.Before {
						n++
					}
					if max(l.To-d[1], d[1]-l.To) <= 1 && !l.After {
						n++
					}
				}
			}
			return n
		}
		with, without = with+right(mass), without+right(nil)
	}
	t.Logf("with the mass %d ends are right, without it %d", with, without)
	if with <= without {
		t.Errorf("with the mass %d ends are right, without it %d", with, without)
	}
}

// A foot in its block that shifts while the other leaves stands once; a foot that comes down
// elsewhere as soon has stepped.
func TestAFootThatShiftsStandsOnce(t *testing.T) {
	for _, c := range []struct {
		moved float64
		want  int
	}{{0.02, 1}, {1.2, 2}} {
		const rate, frames = 60.0, 60
		var shoes [2]contact.Shoe
		shoes[0].Side, shoes[1].Side = "left", "right"
		for k := range shoes {
			for f := range frames {
				x, y := 0.0, 0.0
				if k == 0 && f >= 24 { // it leaves the ground, and is down again, or elsewhere
					x = c.moved
					if f < 30 {
						x, y = c.moved*float64(f-24)/6+0.05, 0.08
					}
				}
				if k == 1 && f >= 26 {
					x, y = 3*float64(f-26)/rate, 0.3
				}
				for _, p := range []*contact.Places{&shoes[k].Toe, &shoes[k].Heel, &shoes[k].Ankle} {
					q := p
					q.At, q.Sure = append(q.At, vec(x, y)), append(q.Sure, 0.9)
				}
			}
			for i := range shoes[k].Ankle.At {
				shoes[k].Ankle.At[i].Y += 0.05
			}
		}
		n := 0
		for _, l := range contact.Chain(shoes, frames, rate, flat, nil) {
			if l.Foot == "left" {
				n++
			}
		}
		if n != c.want {
			t.Errorf("a foot that goes on by %g stands %d times, want %d", c.moved, n, c.want)
		}
	}
}

package contact_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
)

// strides are the two shoes of somebody who runs at 3.5 standing heights a second: each foot
// stands for 0.2 s and swings for 0.4 s, the feet half a stride apart. Points scatter by
// sigma, and a share of them is somewhere else.
func strides(frames int, rate, sigma, wrong float64, seed uint64) (shoes [2]contact.Shoe, down [2][][2]int) {
	const period, stand, speed = 0.6, 0.2, 3.5
	r := rand.New(rand.NewPCG(seed, 1))
	for k, side := range []body.Side{body.Left, body.Right} {
		s := contact.Shoe{Side: side}
		begun := -1
		for f := range frames {
			t := float64(f)/rate + float64(k)*period/2
			n := math.Floor(t / period)
			at, phase := r2.Vec{X: n * period * speed}, t-n*period
			lift := 0.0
			if phase > stand {
				u := (phase - stand) / (period - stand)
				at.X += period * speed * u * u * (3 - 2*u)
				lift = 0.25 * math.Sin(math.Pi*u)
			}
			switch {
			case phase < stand && begun < 0:
				begun = f
			case phase >= stand && begun >= 0:
				down[k] = append(down[k], [2]int{begun, f})
				begun = -1
			}
			put := func(p *contact.Places, off r2.Vec) {
				q := r2.Add(r2.Add(at, off), r2.Vec{X: sigma * r.NormFloat64(), Y: lift + sigma*r.NormFloat64()})
				if r.Float64() < wrong {
					q = r2.Add(q, r2.Vec{X: 0.4 * r.NormFloat64(), Y: 0.4 * r.NormFloat64()})
				}
				p.At, p.Sure = append(p.At, q), append(p.Sure, 0.8)
			}
			put(&s.Toe, r2.Vec{X: 0.1})
			put(&s.Heel, r2.Vec{X: -0.03})
			put(&s.Ankle, r2.Vec{Y: 0.05 + 0.02*math.Min(phase, stand)})
		}
		shoes[k] = s
	}
	return shoes, down
}

// Contacts of a run are found from trembling points, at the rates of telephones and above,
// with one in twenty points somewhere else; and nothing else is. (With points that tremble
// more, by 1.5 % of the height, steps are missed, and none is made up.)
func TestChainFindsTheStepsOfARun(t *testing.T) {
	for _, c := range []struct{ rate, sigma, wrong float64 }{{30, 0.003, 0}, {30, 0.008, 0.05}, {60, 0.008, 0.05}, {120, 0.008, 0.05}, {240, 0.004, 0}, {120, 0.015, 0.1}} {
		frames := int(2.4 * c.rate)
		shoes, down := strides(frames, c.rate, c.sigma, c.wrong, 7)
		got := contact.Chain(shoes, frames, c.rate, flat, nil)
		near := max(2, int(0.05*c.rate))
		for k, side := range []body.Side{body.Left, body.Right} {
			for _, want := range down[k] {
				found := 0
				for _, f := range got {
					if f.Foot == side && max(f.From-want[0], want[0]-f.From) <= near && max(f.To-want[1], want[1]-f.To) <= near {
						found++
					}
				}
				if found != 1 && want[0] > 0 && c.sigma < 0.01 {
					t.Errorf("%+v: the %s foot stands %v: found %d times in %+v", c, side, want, found, got)
				}
			}
		}
		for _, f := range got {
			k := 0
			if f.Foot == body.Right {
				k = 1
			}
			ok := f.Before || f.After
			for _, want := range down[k] {
				ok = ok || f.From < want[1] && want[0] < f.To
			}
			if !ok {
				t.Errorf("%+v: %+v is no contact", c, f)
			}
		}
	}
}

// flat is the ground of [strides].
func flat(float64) float64 { return 0 }

// Without points nothing stands.
func TestChainOfNothing(t *testing.T) {
	if got := contact.Chain([2]contact.Shoe{{Side: body.Left}, {Side: body.Right}}, 100, 30, flat, nil); len(got) != 0 {
		t.Errorf("%+v", got)
	}
}

func BenchmarkChain(b *testing.B) {
	shoes, _ := strides(1000, 240, 0.01, 0.1, 3)
	for b.Loop() {
		contact.Chain(shoes, 1000, 240, flat, nil)
	}
}

func vec(x, y float64) r2.Vec { return r2.Vec{X: x, Y: y} }

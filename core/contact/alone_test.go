package contact_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
)

// sweeping is the sweep foot of somebody who turns: it stands, swings round for a quarter of a
// second or more, and stands again beside the other.
func sweeping(rate, sigma, wrong float64, seed uint64) (s contact.Shoe, frames int, swings [][2]int) {
	r := rand.New(rand.NewPCG(seed, 2))
	type part struct{ time, swing float64 }
	s.Side = body.Left
	at, began := r2.Vec{}, 0.0
	for _, p := range []part{{1, 0.42}, {0.3, 0.34}, {0.28, 0.28}, {0.26, 0.24}, {0.8, 0}} {
		lift, land := began+p.time, began+p.time+p.swing
		if p.swing > 0 {
			swings = append(swings, [2]int{int(math.Ceil(lift * rate)), int(math.Ceil(land * rate))})
		}
		to := r2.Add(at, r2.Vec{X: 0.12})
		for ; float64(frames)/rate < land; frames++ {
			place, up := at, 0.0
			if t := float64(frames) / rate; t >= lift {
				u := (t - lift) / p.swing
				place = r2.Add(at, r2.Vec{X: 0.12*u + 0.25*math.Sin(2*math.Pi*u), Y: 0})
				up = 0.09 * math.Sin(math.Pi*u)
			}
			put := func(q *contact.Places, off r2.Vec) {
				v := r2.Add(r2.Add(place, off), r2.Vec{X: sigma * r.NormFloat64(), Y: up + sigma*r.NormFloat64()})
				if r.Float64() < wrong {
					v = r2.Add(v, r2.Vec{X: 0.3 * r.NormFloat64(), Y: 0.2 * r.NormFloat64()})
				}
				q.At, q.Sure = append(q.At, v), append(q.Sure, 0.6)
			}
			put(&s.Toe, r2.Vec{X: 0.08})
			put(&s.Heel, r2.Vec{X: -0.04})
			put(&s.Ankle, r2.Vec{Y: 0.05})
		}
		at, began = to, land
	}
	return s, frames, swings
}

// The swings of a foot that turns are found between few pictures, from points that tremble and
// are wrong now and then, each end within one of them nearly always and within three times its doubt;
// nothing else is.
func TestAloneFindsTheSwingsOfATurn(t *testing.T) {
	for _, c := range []struct{ rate, sigma, wrong float64 }{{30, 0.006, 0}, {30, 0.012, 0.05}, {60, 0.006, 0.05}, {60, 0.012, 0.1}} {
		near, held, all := 0, 0, 0
		for seed := range uint64(12) {
			s, frames, want := sweeping(c.rate, c.sigma, c.wrong, seed)
			got := contact.Alone(s, frames, c.rate)
			if len(got) != len(want)+1 || !got[0].Before || !got[len(got)-1].After {
				t.Errorf("%v, seed %d: %d stands instead of %d", c, seed, len(got), len(want)+1)
				continue
			}
			for i, w := range want {
				for _, e := range [][3]float64{{float64(got[i].To), float64(w[0]), got[i].ToSD}, {float64(got[i+1].From), float64(w[1]), got[i+1].FromSD}} {
					off := math.Abs(e[0] - e[1])
					all++
					if off <= math.Max(1, 0.02*c.rate) {
						near++
					}
					if off <= 3*math.Hypot(e[2], 0.5) {
						held++
					}
				}
			}
		}
		if 100*near < 85*all || 100*held < 95*all {
			t.Errorf("%v: of %d ends %d are near and %d within their doubt", c, all, near, held)
		}
	}
}

// A foot of which nothing is seen stands nowhere, and one that never leaves stands all the time.
func TestAloneWithoutSwings(t *testing.T) {
	if got := contact.Alone(contact.Shoe{Side: body.Left}, 60, 30); got != nil {
		t.Errorf("of nothing: %v", got)
	}
	s := contact.Shoe{Side: body.Right}
	r := rand.New(rand.NewPCG(1, 1))
	for range 90 {
		s.Toe.At, s.Toe.Sure = append(s.Toe.At, r2.Vec{X: 0.008 * r.NormFloat64(), Y: 0.008 * r.NormFloat64()}), append(s.Toe.Sure, 0.6)
	}
	if got := contact.Alone(s, 90, 30); len(got) != 1 || !got[0].Before || !got[0].After {
		t.Errorf("a foot that stands: %+v", got)
	}
}

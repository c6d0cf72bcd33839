package performance

import (
	"math"
	"math/rand/v2"
	"testing"
)

func TestOrderOfRisk(t *testing.T) {
	for _, c := range []struct {
		name   string
		before Record
		now    []bool
		at     int
		take   Risk
	}{
		{"hardly a foul in a year", Record{40, 2}, nil, 1, Usual},
		{"every second a foul", Record{10, 10}, nil, 1, Safe},
		{"hardly a foul, but two today", Record{40, 2}, []bool{false, false}, 3, Usual},
		{"one in five, and two today", Record{16, 4}, []bool{false, false}, 3, Safe},
		{"a mark stands", Record{10, 10}, []bool{false, true}, 3, All},
		{"three without a mark", Record{40, 2}, []bool{false, false, false}, 0, Over},
		{"six are made", Record{40, 2}, []bool{true, true, true, false, true, true}, 0, Over},
		{"nothing is known", Record{}, nil, 1, Usual},
		{"nothing is known but a foul", Record{}, []bool{false}, 2, Safe},
		{"the fifth after a mark", Record{40, 2}, []bool{true, false, false, false}, 5, All},
	} {
		a := Order(c.before, c.now)
		if a.Attempt != c.at || a.Take != c.take || a.Says == "" {
			t.Errorf("%s: %+v", c.name, a)
		}
	}
}

// The chance to stay without a mark is that of athletes who foul as often as theirs did: counted over
// many who are drawn anew, as doubtful about their share as the record leaves it.
func TestNoMarkAgainstDraws(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 3))
	for _, share := range []float64{0.1, 0.3, 0.5} {
		const rounds, known = 4000, 30
		var told, none float64
		for range rounds {
			var before Record
			for range known {
				if r.Float64() < share {
					before.Fouls++
				} else {
					before.Valid++
				}
			}
			told += Order(before, nil).NoMark
			fouls := 0
			for range Cut {
				if r.Float64() < share {
					fouls++
				}
			}
			if fouls == Cut {
				none++
			}
		}
		if d := math.Abs(told-none) / rounds; d > 0.03 {
			t.Errorf("of a share of %g: told %.3f, counted %.3f", share, told/rounds, none/rounds)
		}
	}
}

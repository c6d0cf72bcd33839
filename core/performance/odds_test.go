package performance

import (
	"math"
	"math/rand/v2"
	"testing"
)

// The chance of a mark is that of series drawn by chance, over many spreads and shares of fouls.
func TestReachIsWhatSeriesDo(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 3))
	for range 12 {
		mean, sd, foul, attempts := 10+60*r.Float64(), 0.1+2*r.Float64(), 0.5*r.Float64(), 1+r.IntN(6)
		wanted := mean + sd*(3*r.Float64()-1)
		const runs = 60_000
		hit := 0
		for range runs {
			for range attempts {
				if r.Float64() >= foul && mean+sd*r.NormFloat64() >= wanted {
					hit++
					break
				}
			}
		}
		want, got := float64(hit)/runs, Reach(mean, sd, foul, attempts, wanted)
		if math.Abs(got-want) > 4*math.Sqrt(0.25/runs) {
			t.Errorf("%.4f, series say %.4f", got, want)
		}
	}
}

// The interval holds the chance that the athlete really has.
func TestMarkOddsHoldTheChance(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 2))
	const mean, sd, foul = 58.0, 1.2, 0.2
	for _, wanted := range []float64{57.5, 59.5, 61} {
		truth := Reach(mean, sd, foul, 6, wanted)
		in, told := 0, 0
		for range 2000 {
			var marks []float64
			fouls := 0
			for range 14 {
				if r.Float64() < foul {
					fouls++
				} else {
					marks = append(marks, mean+sd*r.NormFloat64())
				}
			}
			o, err := MarkOdds(marks, fouls, 6, wanted)
			if err != nil {
				continue
			}
			told++
			if o.Lo > o.Chance || o.Hi < o.Chance {
				t.Fatalf("%+v", o)
			}
			if o.Lo <= truth && truth <= o.Hi {
				in++
			}
		}
		if share := float64(in) / float64(told); told < 1900 || share < 0.92 {
			t.Errorf("%g m: the interval holds the chance of %.2f in %.1f %% of %d", wanted, truth, 100*share, told)
		}
	}
	for _, bad := range [][]float64{{50, 51}, {50, 50, 50, 50, 50}, nil} {
		if _, err := MarkOdds(bad, 0, 6, 52); err == nil {
			t.Errorf("%v tell a chance", bad)
		}
	}
	if !SafeFirst(5, 5) || SafeFirst(9, 1) || SafeFirst(1, 2) {
		t.Error("when the first one is a safe one")
	}
}

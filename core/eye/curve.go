package eye

import (
	"maps"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"

	"neokinema/core/uncertainty"
)

// Sized is a yes or no to a fault of a size: 0 at the edge of the band, 1 where it shows plainly, below 0
// inside of the band.
type Sized struct {
	Size float64
	Yes  bool
}

// Curve is how somebody's yes grows with the size of a fault: a normal distribution function, with a
// share of slips of the hand.
type Curve struct {
	N         int                  `json:"n"`
	Threshold uncertainty.Estimate `json:"threshold" doc:"size at which yes is said three times out of four"`
	Even      float64              `json:"even" doc:"size at which yes is said every second time"`
	Spread    float64              `json:"spread" doc:"standard deviation of what is seen, in sizes"`
}

// lapse is the share of answers that have nothing to do with what was seen (Wichmann and Hill 2001,
// Percept. Psychophys. 63:1293, keep it below 6 %).
const lapse = 0.02

// The grid on which the curve is looked for.
const (
	evenLo, evenHi     = -1.0, 2.0
	spreadLo, spreadHi = 0.05, 1.6
	evens, spreads     = 49, 21
)

// grid is what answers leave likely of even and spread.
type grid [evens][spreads]float64

func evenAt(i int) float64 { return evenLo + (evenHi-evenLo)*float64(i)/(evens-1) }

func spreadAt(j int) float64 {
	return spreadLo * math.Pow(spreadHi/spreadLo, float64(j)/(spreads-1))
}

// yes is how likely a yes is.
func yes(size, even, spread float64) float64 {
	return lapse/2 + (1-lapse)*distuv.UnitNormal.CDF((size-even)/spread)
}

// posterior weighs the grid by answers. Before any, even lies about 0.3 and spread about 0.35, both
// widely: most see a fault somewhere between the edge of its band and where it shows plainly.
func posterior(list []Sized) *grid {
	var g grid
	total := 0.0
	// Answers to the same size count together.
	type said struct{ yes, no float64 }
	counts := map[float64]said{}
	for _, s := range list {
		c := counts[s.Size]
		if s.Yes {
			c.yes++
		} else {
			c.no++
		}
		counts[s.Size] = c
	}
	sizes := slices.Sorted(maps.Keys(counts))
	for i := range evens {
		for j := range spreads {
			a, b := (evenAt(i)-0.3)/0.6, math.Log(spreadAt(j)/0.35)/0.8
			l := -a*a/2 - b*b/2
			for _, size := range sizes {
				p := yes(size, evenAt(i), spreadAt(j))
				l += counts[size].yes*math.Log(p) + counts[size].no*math.Log(1-p)
			}
			g[i][j] = math.Exp(l)
			total += g[i][j]
		}
	}
	for i := range evens {
		for j := range spreads {
			g[i][j] /= total
		}
	}
	return &g
}

// mean is that of something over the grid, with its standard deviation.
func (g *grid) mean(of func(even, spread float64) float64) (m, sd float64) {
	var sq float64
	for i := range evens {
		for j := range spreads {
			v := of(evenAt(i), spreadAt(j))
			m += g[i][j] * v
			sq += g[i][j] * v * v
		}
	}
	return m, math.Sqrt(max(0, sq-m*m))
}

// quarter is the quantile of the normal distribution at three out of four.
var quarter = distuv.UnitNormal.Quantile(0.75)

// CurveOf fits the curve to answers; false below twelve of them.
func CurveOf(list []Sized) (Curve, bool) {
	if len(list) < 12 {
		return Curve{N: len(list)}, false
	}
	g := posterior(list)
	t, sd := g.mean(func(e, s float64) float64 { return e + quarter*s })
	even, _ := g.mean(func(e, _ float64) float64 { return e })
	spread, _ := g.mean(func(_, s float64) float64 { return s })
	return Curve{N: len(list), Threshold: uncertainty.Normal(t, sd), Even: even, Spread: spread}, true
}

// Next is the staircase: of the sizes that there are, the one whose answer is expected to say most about
// the curve, by the entropy that it leaves (Kontsevich and Tyler 1999, Vision Res. 39:2729).
func Next(list []Sized, sizes []float64) float64 {
	g := posterior(list)
	best, least := math.NaN(), math.Inf(1)
	for _, size := range sizes {
		var p float64
		var ent [2]float64
		var said grid
		for i := range evens {
			for j := range spreads {
				said[i][j] = yes(size, evenAt(i), spreadAt(j))
				p += g[i][j] * said[i][j]
			}
		}
		for i := range evens {
			for j := range spreads {
				y := said[i][j]
				for k, q := range [2]float64{g[i][j] * y / p, g[i][j] * (1 - y) / (1 - p)} {
					if q > 1e-12 {
						ent[k] -= q * math.Log(q)
					}
				}
			}
		}
		if e := p*ent[0] + (1-p)*ent[1]; e < least-1e-12 {
			best, least = size, e
		}
	}
	return best
}

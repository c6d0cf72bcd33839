package performance

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"neokinema/core/uncertainty"
)

// mostWind is the tail wind, m/s, of more than which a mark stands in no list of bests, in
// sprints up to 200 m and horizontal jumps: technical rules of athletics, 17 and 27, from
// memory, so check the edition in force. Which events those are is in the table of events.
const mostWind = 2.0

// WindReading is a gauge's wind as it is published: to the next tenth in the positive
// direction unless the second decimal is zero, so that +2.03 is +2.1 and -2.03 is -2.0; the
// same rules.
func WindReading(wind float64) float64 { return math.Ceil(10*wind-1e-6) / 10 }

// Assisted tells whether a mark with that wind is wind-assisted.
func Assisted(wind float64) bool { return WindReading(wind) > mostWind }

// Marked is one attempt in the order of time.
type Marked struct {
	Text   string
	Wind   *float64 // m/s from behind; nil where it does not count in the event
	Foul   bool
	Season int // year
}

// Bests are the places of the best marks in a list, of each thing that was run or
// thrown by itself.
type Bests struct {
	Personal map[int]bool
	Season   map[int]bool
}

// Find tells which marks were a personal best or a season's best when all are known:
// fouls and wind-assisted marks never are. Of equals the first.
func Find(list []Marked) Bests {
	type place struct {
		over, unit string
		season     int
	}
	personal, season := map[place]int{}, map[place]int{}
	results := make([]Result, len(list))
	for i, m := range list {
		r, ok := Read(m.Text)
		if !ok || m.Foul || m.Wind != nil && Assisted(*m.Wind) {
			continue
		}
		results[i] = r
		all, year := place{r.Over, r.Unit, 0}, place{r.Over, r.Unit, m.Season}
		if k, ok := personal[all]; !ok || r.Better(results[k]) {
			personal[all] = i
		}
		if k, ok := season[year]; !ok || r.Better(results[k]) {
			season[year] = i
		}
	}
	out := Bests{map[int]bool{}, map[int]bool{}}
	for _, i := range personal {
		out.Personal[i] = true
	}
	for _, i := range season {
		out.Season[i] = true
	}
	return out
}

// Enough is the least number of attempts from which anything is claimed.
// Common practice, no source.
const Enough = 5

// Scatter is how a measure varies from attempt to attempt.
type Scatter struct {
	N    int     `json:"n"`
	Mean float64 `json:"mean"`
	SD   float64 `json:"sd" doc:"standard deviation between attempts, with what the measuring adds taken out as far as it is known"`
	Lo   float64 `json:"lo" doc:"95 % interval of the standard deviation"`
	Hi   float64 `json:"hi"`
	Few  bool    `json:"few" doc:"fewer than five attempts: no claim"`
}

// Spread is the scatter of values over attempts. The doubt of each, as far as it
// differs from attempt to attempt, is no scatter of the athlete: its mean square is
// taken off. The interval is that of a normal variance (chi-square).
func Spread(list []uncertainty.Estimate) (Scatter, bool) {
	n := len(list)
	if n < 2 {
		return Scatter{}, false
	}
	xs := make([]float64, n)
	noise := 0.0
	for i, v := range list {
		xs[i] = v.Value
		sd := v.Half95 / 1.96
		noise += sd * sd / float64(n)
	}
	mean, variance := stat.MeanVariance(xs, nil)
	own := math.Sqrt(math.Max(0, variance-noise))
	k := float64(n - 1)
	chi := distuv.ChiSquared{K: k}
	out := Scatter{N: n, Mean: mean, SD: own, Few: n < Enough}
	out.Lo = math.Sqrt(math.Max(0, variance*k/chi.Quantile(0.975)-noise))
	out.Hi = math.Sqrt(math.Max(0, variance*k/chi.Quantile(0.025)-noise))
	return out, true
}

// Relation tells whether a measure goes with the mark.
type Relation struct {
	N       int     `json:"n" doc:"sessions"`
	Rho     float64 `json:"rho" doc:"Spearman's rank correlation of measure and mark with time held; the mark counts as better upwards"`
	Lo      float64 `json:"lo" doc:"95 % interval"`
	Hi      float64 `json:"hi"`
	Verdict string  `json:"verdict" enum:"too_few,within_uncertainty,nothing_sure,more_is_better,less_is_better"`
}

// ranks gives each value its place from below; equal ones share the middle place.
func ranks(v []float64) []float64 {
	order := make([]int, len(v))
	for i := range order {
		order[i] = i
	}
	sort.Slice(order, func(a, b int) bool { return v[order[a]] < v[order[b]] })
	out := make([]float64, len(v))
	for i := 0; i < len(order); {
		j := i
		for j+1 < len(order) && v[order[j+1]] == v[order[i]] {
			j++
		}
		for k := i; k <= j; k++ {
			out[order[k]] = float64(i+j) / 2
		}
		i = j + 1
	}
	return out
}

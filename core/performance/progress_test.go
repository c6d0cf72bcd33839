package performance

import (
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/uncertainty"
)

func seen(day int, v, half float64, mark ...float64) Seen {
	s := Seen{Day: day, Value: uncertainty.Estimate{Value: v, Half95: half}}
	if len(mark) > 0 {
		s.Mark = &mark[0]
	}
	return s
}

// Nothing is claimed from few sessions, however many attempts they have, nor within the doubt.
func TestProgressClaimsLittle(t *testing.T) {
	var four, many, fine []Seen
	for d := range 4 {
		for range 6 {
			four = append(four, seen(7*d, 100+5*float64(d), 1))
		}
	}
	if p := ProgressOf(four, -1); p.Sessions != 4 || !p.Few || p.Moved || p.With.Verdict != "too_few" {
		t.Errorf("%+v", p)
	}
	for d := range 10 {
		many = append(many, seen(7*d, 100+0.3*float64(d), 8))
		fine = append(fine, seen(7*d, 100+3*float64(d), 2))
	}
	if p := ProgressOf(many, -1); p.Moved || math.Abs(p.Month-0.3*30/7) > 1e-9 {
		t.Errorf("a change inside its doubt: %+v", p)
	}
	if p := ProgressOf(fine, -1); !p.Moved || p.Lo <= 0 {
		t.Errorf("%+v", p)
	}
	if p := ProgressOf(nil, -1); p.Sessions != 0 || p.Moved {
		t.Errorf("%+v", p)
	}
}

// The example of Sen (1968), from memory: t = 1, 2, 3, 4, 10, 12, 18 and x = 9, 15, 19, 20, 45, 55, 78
// give a slope of 4, with a 93 % interval that begins at 26/7.
func TestSlopeOfSensExample(t *testing.T) {
	var list []Seen
	for i, day := range []int{1, 2, 3, 4, 10, 12, 18} {
		list = append(list, seen(day, []float64{9, 15, 19, 20, 45, 55, 78}[i], 0))
	}
	p := ProgressOf(list, -1)
	if math.Abs(p.Month/month-4) > 1e-9 || p.Lo/month > 3.75 || p.Hi/month < 4.2 || !p.Moved {
		t.Errorf("%+v", p)
	}
}

// The coefficient is SciPy's (inverse of the matrix of Spearman's coefficients of measure, mark and
// day), the interval worked out by hand from the published standard error with one less of n; slope and
// order of its interval as in scipy.stats.theilslopes, whose normal approximation is a little narrower.
func TestProgressAsSciPyHasIt(t *testing.T) {
	marks := []float64{54.1, 56.0, 53.2, 57.9, 56.3, 57.1, 55.8, 54.9}
	var list []Seen
	for i, v := range []float64{112, 118, 109, 121, 115, 125, 119, 111} {
		list = append(list, seen(7*i, v, 0.1, marks[i]))
	}
	p := ProgressOf(list, -1)
	if math.Abs(p.With.Rho-0.8513261493960386) > 1e-9 || math.Abs(p.With.Lo-0.1166) > 1e-3 || math.Abs(p.With.Hi-0.9838) > 1e-3 || p.With.Verdict != "more_is_better" {
		t.Errorf("%+v", p.With)
	}
	if math.Abs(p.Month/month-0.08214285714285714) > 1e-12 || p.Lo/month > -0.357 || p.Hi/month < 0.428 || p.Moved {
		t.Errorf("%+v", p)
	}
	// All marks the same: no order, no relation. A measure that moved by less than its doubt orders nothing.
	for i := range list {
		same := 55.0
		list[i].Mark = &same
	}
	if r := ProgressOf(list, -1).With; r.Verdict != "nothing_sure" || r.Rho != 0 {
		t.Errorf("%+v", r)
	}
	for i := range list {
		list[i].Mark, list[i].Value.Half95 = &marks[i], 30
	}
	if r := ProgressOf(list, -1).With; r.Verdict != "within_uncertainty" {
		t.Errorf("%+v", r)
	}
}

// Kendall's table: of five values none out of order comes in 1 of 120 cases, at most one in 5 of 120;
// of eight at most five in 0.0309 less 0.0156 (from the table of the distribution: P(S >= 18) = 0.0156
// for eight, which is five pairs out of order or fewer).
func TestPairsOutOfOrder(t *testing.T) {
	for _, c := range []struct {
		n     int
		share float64
		want  int
	}{{4, 0.025, -1}, {5, 0.025, 0}, {5, 0.042, 1}, {8, 0.016, 5}, {8, 0.015, 4}, {10, 0.025, 11}} {
		if got := discordant(c.n, c.share); got != c.want {
			t.Errorf("%d values, %.3f: %d, want %d", c.n, c.share, got, c.want)
		}
	}
}

// A slope of chance is called one in no more than one case of twenty.
func TestStandstillIsNotProgress(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 50))
	const rounds = 1000
	said, related := 0, 0
	for range rounds {
		var list []Seen
		for d := range 9 {
			// The mark rises with the season, and so does not the measure.
			list = append(list, seen(7*d, 100+4*r.NormFloat64(), 0.1, 50+0.5*float64(d)+0.3*r.NormFloat64()))
		}
		p := ProgressOf(list, -1)
		if p.Moved {
			said++
		}
		if p.With.Verdict != "nothing_sure" {
			related++
		}
	}
	if said > rounds*7/100 || related > rounds*8/100 {
		t.Errorf("%d slopes and %d relations in %d rounds of chance", said, related, rounds)
	}
}

// Two things that both rise over a season are not related by that; what goes together beside it is.
func TestWhatTimeAloneMoves(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 51))
	both, real := 0, 0
	const rounds = 400
	for range rounds {
		var together, linked []Seen
		for d := range 12 {
			together = append(together, seen(7*d, 100+2*float64(d)+3*r.NormFloat64(), 0.1, 50+float64(d)+1.5*r.NormFloat64()))
			form := r.NormFloat64()
			linked = append(linked, seen(7*d, 100+2*float64(d)+3*form, 0.1, 50+float64(d)+1.5*form+0.2*r.NormFloat64()))
		}
		if ProgressOf(together, -1).With.Verdict == "more_is_better" {
			both++
		}
		if ProgressOf(linked, -1).With.Verdict == "more_is_better" {
			real++
		}
	}
	if both > rounds*8/100 || real < rounds*80/100 {
		t.Errorf("by time alone %d, really %d of %d", both, real, rounds)
	}
}

// A change that is asked for on a bad day: what comes back by itself is named.
func TestRegressionToTheMean(t *testing.T) {
	list := []Seen{seen(0, 100, 1), seen(7, 104, 1), seen(14, 102, 1), seen(21, 88, 1), seen(28, 101, 1), seen(35, 103, 1)}
	if p := ProgressOf(list, 21); p.Alone == nil || math.Abs(*p.Alone-14) > 1e-9 {
		t.Errorf("%+v", p.Alone)
	}
	if p := ProgressOf(list, 28); p.Alone != nil {
		t.Errorf("an ordinary day: %v", *p.Alone)
	}
	if p := ProgressOf(list, 7); p.Alone != nil {
		t.Errorf("too few before it: %v", *p.Alone)
	}
}

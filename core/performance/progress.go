package performance

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"neokinema/core/uncertainty"
)

// Seen is a measure on a day, with the mark of the attempt where it has one.
type Seen struct {
	Day   int // that any day is counted from
	Value uncertainty.Estimate
	Mark  *float64 // one better than another has the higher number
}

// Progress is what a measure did over sessions.
type Progress struct {
	Sessions int     `json:"sessions"`
	Few      bool    `json:"few" doc:"fewer than five sessions: nothing is claimed"`
	Month    float64 `json:"month" doc:"change in thirty days: the median of all slopes (Theil and Sen)"`
	Lo       float64 `json:"lo" doc:"95 % interval (Sen)"`
	Hi       float64 `json:"hi"`
	Moved    bool    `json:"moved" doc:"the interval holds no standstill, and what it comes to is more than one session is sure"`
	// With is the relation with the mark once what both owe to time is taken off: both move in a season.
	With Relation `json:"with"`
	// Alone is by how much the measure would have come back by itself, where the day from which on it
	// is looked at lay off the own mean of before; nothing where it did not.
	Alone *float64 `json:"alone,omitempty" required:"false" doc:"regression to the mean: by how much it would have moved without anything being done"`
}

// session is a day's mean.
type session struct {
	day         int
	value, half float64
	mark        float64
	marked      bool
}

// sessionsOf are the means of days, by day.
func sessionsOf(list []Seen) (out []session) {
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(a, b Seen) int { return a.Day - b.Day })
	for i := 0; i < len(list); {
		j := i
		s := session{day: list[i].Day}
		marks := 0
		for ; j < len(list) && list[j].Day == list[i].Day; j++ {
			s.value += list[j].Value.Value
			s.half += list[j].Value.Half95
			if list[j].Mark != nil {
				s.mark += *list[j].Mark
				marks++
			}
		}
		// What measuring leaves open is much the same in all attempts of a day: it does not average out.
		s.value /= float64(j - i)
		s.half /= float64(j - i)
		if marks > 0 {
			s.mark, s.marked = s.mark/float64(marks), true
		}
		out = append(out, s)
		i = j
	}
	return out
}

// ProgressOf looks at a measure over sessions; since is the day on which a change was asked for, with
// those before it the baseline, or less than all days without one. The slope is that of Theil (1950)
// with the interval of Sen (1968, J. Am. Stat. Assoc. 63:1379).
func ProgressOf(list []Seen, since int) Progress {
	all := sessionsOf(list)
	out := Progress{Sessions: len(all), Few: len(all) < Enough, With: Relation{N: len(all), Lo: -1, Hi: 1, Verdict: "too_few"}}
	if len(all) >= 2 {
		out.slope(all)
	}
	out.with(all, list)
	out.alone(all, since)
	return out
}

const month = 30

func (p *Progress) slope(all []session) {
	var slopes []float64
	half := 0.0
	for i, a := range all {
		half += a.half / float64(len(all))
		for _, b := range all[i+1:] {
			slopes = append(slopes, month*(b.value-a.value)/float64(b.day-a.day))
		}
	}
	slices.Sort(slopes)
	n := len(slopes)
	p.Month = (slopes[(n-1)/2] + slopes[n/2]) / 2
	p.Lo, p.Hi = slopes[0], slopes[n-1]
	k := discordant(len(all), 0.025)
	if k < 0 {
		return // of so few sessions no order is surer than chance
	}
	p.Lo, p.Hi = slopes[k], slopes[n-1-k]
	span := float64(all[len(all)-1].day-all[0].day) / month
	p.Moved = !p.Few && (p.Lo > 0 || p.Hi < 0) && math.Abs(p.Month)*span > half
}

// discordant is the greatest number of pairs out of order that n values without any order have in no
// more than a share of cases; -1 where there is none. The distribution is that of Kendall (1938,
// Biometrika 30:81): the k-th value is before 0 to k-1 of those before it, each as likely.
func discordant(n int, share float64) int {
	odds := []float64{1}
	for m := 2; m <= n; m++ {
		next := make([]float64, len(odds)+m-1)
		for i, p := range odds {
			for j := range m {
				next[i+j] += p / float64(m)
			}
		}
		odds = next
	}
	sum := 0.0
	for k, p := range odds {
		if sum += p; sum > share {
			return k - 1
		}
	}
	return len(odds) - 1
}

// with is Spearman's partial correlation of measure and mark, with time held. Values that differ by no
// more than their own doubt order nothing. The interval is Fisher's with the standard error of Bonett
// and Wright (Psychometrika 65, 2000), sqrt((1 + r²/2) / (n - 3)), and one less of n for the time that
// is held; a perfect order counts as 1 - 1/n², since one session more could break it.
func (p *Progress) with(all []session, list []Seen) {
	var days, values, marks []float64
	for _, s := range all {
		if s.marked {
			days, values, marks = append(days, float64(s.day)), append(values, s.value), append(marks, s.mark)
		}
	}
	n := len(values)
	p.With.N = n
	if n < Enough {
		return
	}
	each := make([]uncertainty.Estimate, len(list))
	for i, v := range list {
		each[i] = v.Value
	}
	if sc, ok := Spread(each); ok && sc.SD == 0 {
		p.With.Verdict = "within_uncertainty"
		return
	}
	x, y, t := ranks(values), ranks(marks), ranks(days)
	xy, xt, yt := stat.Correlation(x, y, nil), stat.Correlation(x, t, nil), stat.Correlation(y, t, nil)
	below := math.Sqrt((1 - xt*xt) * (1 - yt*yt))
	p.With.Verdict = "nothing_sure"
	if !(below > 1e-6) || math.IsNaN(xy) {
		return // one of them is nothing but time: what is left says nothing
	}
	p.With.Rho = math.Max(-1, math.Min(1, (xy-xt*yt)/below))
	most := 1 - 1/float64(n*n)
	r := math.Max(-most, math.Min(most, p.With.Rho))
	se := math.Sqrt((1 + r*r/2) / float64(n-4))
	z := math.Atanh(r)
	p.With.Lo, p.With.Hi = math.Tanh(z-uncertainty.Z95*se), math.Tanh(z+uncertainty.Z95*se)
	switch {
	case p.With.Lo > 0:
		p.With.Verdict = "more_is_better"
	case p.With.Hi < 0:
		p.With.Verdict = "less_is_better"
	}
}

// baseline are the sessions before a change from which an own mean is told. Common practice, no source.
const baseline = 3

// alone tells how far the day of a change lay from the mean of the sessions before it, where that is
// more than they scatter: a change is asked for on a bad day, and the next one would have been better
// anyway.
func (p *Progress) alone(all []session, since int) {
	at := slices.IndexFunc(all, func(s session) bool { return s.day == since })
	if at < baseline {
		return
	}
	var before []float64
	for _, s := range all[:at] {
		before = append(before, s.value)
	}
	mean, sd := stat.MeanStdDev(before, nil)
	if back := mean - all[at].value; math.Abs(back) > sd {
		p.Alone = &back
	}
}

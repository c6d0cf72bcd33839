package figures

import (
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"neokinema/core/performance"
	"neokinema/core/season"
	seasons "neokinema/core/season/trial"
	"neokinema/internal/testenv"
)

// SeasonRules counts written cases that fail, and rules that fewer than two of them hold.
func SeasonRules() (failed float64, err error) {
	rules, err := season.With(nil)
	if err != nil {
		return 0, err
	}
	for _, c := range seasons.Cases() {
		if c.Run(rules) != nil {
			failed++
		}
	}
	held := seasons.Held(rules)
	for _, r := range season.Shipped() {
		if held[r.ID] < 2 {
			failed++
		}
	}
	return failed, nil
}

// SeasonViolations counts what an audit of its own finds broken in seasons by chance; the tests go by
// other seeds.
func SeasonViolations(count int) (bad float64, err error) {
	r := rand.New(rand.NewPCG(2026, 1129))
	rules, err := season.With(nil)
	if err != nil {
		return 0, err
	}
	for range count {
		o, who, now := seasons.Random(r)
		s, err := season.Plan(o, who, now, rules)
		if err != nil {
			return 0, err
		}
		bad += float64(len(seasons.Audit(o, who, now, rules, s)))
	}
	return bad, nil
}

// SeasonRecompute is how long the plans of a squad of sixty for a year take, ms: the median of rounds.
func SeasonRecompute() (float64, error) {
	r := rand.New(rand.NewPCG(2026, 60))
	rules, err := season.With(nil)
	if err != nil {
		return 0, err
	}
	type one struct {
		o   season.Outline
		who season.Athlete
		now season.Day
	}
	var squad []one
	for len(squad) < 60 {
		o, who, now := seasons.Random(r)
		o.To = max(o.To, o.From+7*51)
		squad = append(squad, one{o, who, now})
	}
	var times []float64
	for range 9 {
		begun := time.Now()
		for _, a := range squad {
			if _, err := season.Plan(a.o, a.who, a.now, rules); err != nil {
				return 0, err
			}
		}
		times = append(times, float64(time.Since(begun).Microseconds())/1000)
	}
	slices.Sort(times)
	return times[len(times)/2], nil
}

// SeasonOdds is by how much the chance of a mark differs from the share of so many series by chance
// that reach it, at worst, in hundredths of one.
func SeasonOdds(runs int) (worst float64) {
	r := rand.New(rand.NewPCG(2026, 22))
	for _, sd := range []float64{0.05, 0.4, 2} {
		for _, foul := range []float64{0, 0.2, 0.5} {
			for _, attempts := range []int{3, 6} {
				for _, over := range []float64{-0.5, 0.5, 1.2, 2} {
					hit := 0
					for range runs {
						for range attempts {
							if r.Float64() >= foul && sd*r.NormFloat64() >= over*sd {
								hit++
								break
							}
						}
					}
					got := performance.Reach(50, sd, foul, attempts, 50+over*sd)
					worst = math.Max(worst, 100*math.Abs(got-float64(hit)/float64(runs)))
				}
			}
		}
	}
	return worst
}

// SeasonOddsCover is how often the interval of a chance holds the chance that is true, %, of athletes
// with 6 to 20 marks.
func SeasonOddsCover(athletes int) float64 {
	r := rand.New(rand.NewPCG(2026, 23))
	in, told := 0, 0
	for range athletes {
		sd, foul, n := 0.1+r.Float64(), 0.4*r.Float64(), 6+r.IntN(15)
		wanted := 50 + sd*(2.5*r.Float64()-0.5)
		var marks []float64
		fouls := 0
		for len(marks) < n {
			if r.Float64() < foul {
				fouls++
			} else {
				marks = append(marks, 50+sd*r.NormFloat64())
			}
		}
		o, err := performance.MarkOdds(marks, fouls, 6, wanted)
		if err != nil {
			continue
		}
		told++
		if truth := performance.Reach(50, sd, foul, 6, wanted); o.Lo <= truth && truth <= o.Hi {
			in++
		}
	}
	return 100 * float64(in) / float64(told)
}

// OfflineLost counts what phones wrote down and nobody finds again: forty tries of three athletes, by
// two phones without a network, joined with a server in pieces, in any order and some of it twice; so
// many sessions.
func (l *Lab) OfflineLost(sessions int) (float64, error) {
	r := rand.New(rand.NewPCG(2026, 40))
	lost := 0
	for range sessions {
		list, err := testenv.JoinSession(l.House().Coach(bare{}), r, 40, 3, 2)
		if err != nil {
			return 0, err
		}
		lost += len(list)
	}
	return float64(lost), nil
}

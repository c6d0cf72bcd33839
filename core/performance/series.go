package performance

import (
	"cmp"
	"slices"

	"gonum.org/v1/gonum/stat"
)

// Condition is what marks are held apart by.
type Condition string

// Conditions.
const (
	Outdoor Condition = "outdoor"
	Indoors Condition = "indoor"
	Helped  Condition = "wind-assisted"
)

// Passed is written where an athlete left an attempt out.
const Passed = "passed"

// Tried is one attempt of a series.
type Tried struct {
	Text   string
	Foul   string // why it does not count; [Passed] is no attempt
	Wind   *float64
	Indoor bool
}

// Reason is why attempts did not count, and how many.
type Reason struct {
	Says string `json:"says"`
	N    int    `json:"n"`
}

// Series is what attempts under the same conditions say.
type Series struct {
	Under     Condition `json:"under" enum:"outdoor,indoor,wind-assisted"`
	Unit      string    `json:"unit" enum:"m,s"`
	Over      string    `json:"over" doc:"what was run; empty for a distance or a height"`
	Valid     int       `json:"valid"`
	Fouls     int       `json:"fouls"`
	Reasons   []Reason  `json:"reasons" doc:"of the fouls, the most frequent first"`
	Best      float64   `json:"best"`
	Mean      float64   `json:"mean"`
	SD        float64   `json:"sd" doc:"of one attempt; 0 for a single one"`
	Few       bool      `json:"few" doc:"fewer than five marks: no chance is told"`
	SafeFirst bool      `json:"safe_first" doc:"fouls are so many that the first attempt should be a safe one"`
	marks     []float64
}

// SeriesOf groups attempts by what they were done under and what was done, those with the most marks
// first. A wind counts where the event is one in which it does. Fouls count among the attempts under the
// same roof; whether a wind would have helped a foul nobody asks.
func SeriesOf(list []Tried, windy bool) (out []Series) {
	type key struct {
		under      Condition
		unit, over string
	}
	at := map[key]int{}
	for _, t := range list {
		r, ok := Read(t.Text)
		if !ok || t.Foul != "" {
			continue
		}
		k := key{Outdoor, r.Unit, r.Over}
		switch {
		case t.Indoor:
			k.under = Indoors
		case windy && t.Wind != nil && Assisted(*t.Wind):
			k.under = Helped
		}
		i, there := at[k]
		if !there {
			i = len(out)
			at[k] = i
			out = append(out, Series{Under: k.under, Unit: k.unit, Over: k.over, Reasons: []Reason{}})
		}
		out[i].marks = append(out[i].marks, r.Value)
	}
	for i := range out {
		s := &out[i]
		s.Valid = len(s.marks)
		s.Best = slices.Max(s.marks)
		if s.Unit == "s" {
			s.Best = slices.Min(s.marks)
		}
		s.Mean = stat.Mean(s.marks, nil)
		if s.Valid > 1 {
			s.SD = stat.StdDev(s.marks, nil)
		}
		s.Few = s.Valid < fewest
		for _, t := range list {
			if t.Foul == "" || t.Foul == Passed || t.Indoor != (s.Under == Indoors) || s.Under == Helped {
				continue
			}
			s.Fouls++
			k := slices.IndexFunc(s.Reasons, func(r Reason) bool { return r.Says == t.Foul })
			if k < 0 {
				k = len(s.Reasons)
				s.Reasons = append(s.Reasons, Reason{Says: t.Foul})
			}
			s.Reasons[k].N++
		}
		slices.SortStableFunc(s.Reasons, func(a, b Reason) int { return cmp.Compare(b.N, a.N) })
		s.SafeFirst = SafeFirst(s.Valid, s.Fouls)
	}
	slices.SortStableFunc(out, func(a, b Series) int { return cmp.Compare(b.Valid, a.Valid) })
	return out
}

// Chance is that of reaching a mark at least once in so many attempts, by the own spread under these
// conditions.
func (s Series) Chance(wanted float64, attempts int) (Odds, error) {
	marks := slices.Clone(s.marks)
	if s.Unit == "s" {
		for i := range marks {
			marks[i] = -marks[i] // less time is better
		}
		wanted = -wanted
	}
	return MarkOdds(marks, s.Fouls, attempts, wanted)
}

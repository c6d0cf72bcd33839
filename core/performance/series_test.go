package performance

import (
	"math"
	"testing"
)

func TestSeriesHoldConditionsApart(t *testing.T) {
	w := func(v float64) *float64 { return &v }
	list := []Tried{
		{Text: "6.10 m", Wind: w(1.2)}, {Text: "6.22 m", Wind: w(2.0)}, {Text: "6.05 m"}, {Text: "6.31 m", Wind: w(2.4)},
		{Text: "6.18 m", Wind: w(0)}, {Text: "6.02 m", Wind: w(-1)}, {Foul: "over the board"}, {Foul: "over the board"}, {Foul: "ran through"}, {Foul: "passed"},
		{Text: "5.90 m", Indoor: true}, {Foul: "over the board", Indoor: true}, {Text: "60 m 7.90 s"}, {Text: "tired"},
	}
	got := SeriesOf(list, true)
	if len(got) != 4 {
		t.Fatalf("%+v", got)
	}
	s := got[0]
	if s.Under != Outdoor || s.Valid != 5 || s.Fouls != 3 || s.Best != 6.22 || math.Abs(s.Mean-6.114) > 1e-9 || s.Few || s.Reasons[0] != (Reason{"over the board", 2}) {
		t.Errorf("%+v", s)
	}
	by := map[Condition]Series{}
	for _, s := range got {
		if s.Unit == "m" {
			by[s.Under] = s
		}
	}
	if by[Helped].Valid != 1 || by[Helped].Fouls != 0 || by[Indoors].Valid != 1 || by[Indoors].Fouls != 1 || !by[Indoors].Few {
		t.Errorf("%+v", by)
	}
	// Where no wind counts, it holds nothing apart.
	if all := SeriesOf(list[:6], false); len(all) != 1 || all[0].Valid != 6 {
		t.Errorf("%+v", all)
	}
	if SeriesOf(nil, true) != nil {
		t.Error("a series of nothing")
	}
	o, err := s.Chance(6.25, 6)
	if err != nil || o.Chance < 0.1 || o.Chance > 0.3 || o.Lo > o.Chance || o.Hi < o.Chance {
		t.Errorf("%+v %v", o, err)
	}
	if _, err := by[Indoors].Chance(6, 3); err == nil {
		t.Error("one mark tells a chance")
	}
	// Of times the smaller is the better one.
	var runs []Tried
	for _, text := range []string{"60 m 7.90 s", "60 m 7.84 s", "60 m 7.95 s", "60 m 7.88 s", "60 m 7.91 s"} {
		runs = append(runs, Tried{Text: text})
	}
	r := SeriesOf(runs, true)[0]
	fast, _ := r.Chance(7.80, 1)
	slow, _ := r.Chance(8.00, 1)
	if r.Best != 7.84 || fast.Chance > 0.1 || slow.Chance < 0.9 {
		t.Errorf("%+v %+v %+v", r, fast, slow)
	}
	// Half of the attempts fouled: the first one is a safe one.
	if many := SeriesOf([]Tried{{Text: "40 m"}, {Text: "41 m"}, {Text: "42 m"}, {Foul: "sector"}, {Foul: "sector"}, {Foul: "cage"}}, false); !many[0].SafeFirst {
		t.Errorf("%+v", many)
	}
}

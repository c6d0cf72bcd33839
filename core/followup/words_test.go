package followup

import (
	"math"
	"testing"
)

func said(athlete, words string, kept, of int) (out []Said) {
	for i := range of {
		out = append(out, Said{athlete, words, i < kept})
	}
	return out
}

func TestWordsThatWorkComeFirst(t *testing.T) {
	var all []Said
	all = append(all, said("anna", "Sit", 1, 8)...)
	all = append(all, said("anna", "Wait for the ball", 7, 10)...)
	all = append(all, said("bo", "Sit", 9, 10)...)
	all = append(all, said("bo", "Long arms", 2, 9)...)
	ways := []string{"Sit", "Wait for the ball", "Long arms", "Ball first", "Sit", ""}
	order := func(athlete string) (out []string) {
		for _, w := range Wordings(athlete, ways, all) {
			out = append(out, w.Words)
		}
		return out
	}
	// Anna's own eight tries outweigh that it works for Bo; nobody's words stand in between.
	if got := order("anna"); len(got) != 4 || got[0] != "Wait for the ball" || got[1] != "Ball first" || got[3] != "Long arms" && got[3] != "Sit" {
		t.Errorf("anna: %q", got)
	}
	if got := order("bo"); got[0] != "Sit" || got[3] != "Long arms" {
		t.Errorf("bo: %q", got)
	}
	// Somebody new hears what works for the team.
	if got := order("cleo"); got[0] != "Wait for the ball" || got[3] != "Long arms" {
		t.Errorf("cleo: %q", got)
	}
	w := Wordings("anna", ways[:1], all)[0]
	if w.Kept != 1 || w.Of != 8 || w.All != 10 || w.AllOf != 18 {
		t.Errorf("%+v", w)
	}
}

// Wilson's interval by hand: 7 of 10 is 0.397 to 0.892 (Brown, Cai and DasGupta 2001 use the same form).
func TestShares(t *testing.T) {
	lo, hi := Share(7, 10)
	if math.Abs(lo-0.397) > 0.001 || math.Abs(hi-0.892) > 0.001 {
		t.Errorf("%.3f to %.3f", lo, hi)
	}
	if lo, hi = Share(0, 0); lo != 0 || hi != 1 {
		t.Error("of nothing")
	}
	for _, c := range []struct {
		kept, of int
		want     Verdict
	}{{0, 4, Early}, {0, 5, Change}, {1, 8, Change}, {3, 8, Open}, {7, 10, Open}, {8, 10, Stays}, {5, 5, Stays}, {20, 40, Open}} {
		if got := After(c.kept, c.of); got != c.want {
			lo, hi := Share(c.kept, c.of)
			t.Errorf("%d of %d: %s, want %s (%.2f to %.2f)", c.kept, c.of, got, c.want, lo, hi)
		}
	}
}

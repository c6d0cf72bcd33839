package performance

import (
	"fmt"
	"math"
)

// Record is how many attempts counted and how many did not.
type Record struct {
	Valid int `json:"valid"`
	Fouls int `json:"fouls"`
}

// Risk is how an attempt is taken.
type Risk string

// Risks.
const (
	Safe  Risk = "safe"  // a mark comes first
	Usual Risk = "usual" // as it is practised
	All   Risk = "all"   // a mark stands, and nothing is lost by a foul
	Over  Risk = "over"  // no more attempts
)

// Advice is how the next attempt of a competition is taken, and why.
type Advice struct {
	Attempt int     `json:"attempt" doc:"the next one, from 1; 0 when there is none"`
	Take    Risk    `json:"take" enum:"safe,usual,all,over"`
	NoMark  float64 `json:"no_mark" doc:"chance that the first attempts end without a mark, 0 to 1; 0 once one stands"`
	Says    string  `json:"says"`
}

// Attempts of a competition without heights: six, three for those outside the best eight (World
// Athletics Technical Rule 25.6, from memory).
const (
	Attempts = 6
	Cut      = 3
)

// bold is how much of a chance to stay without a mark is taken. Common practice, no source.
const bold = 0.1

// Order tells how the next attempt is taken: before is how attempts of the last year ended, and now
// whether each of today's counted. Before a mark stands, the share of fouls says how likely the first
// three end without one; each side of that share gets half an attempt more (Jeffreys), so that two
// fouls in two do not make it certain. Attempts do not hang together.
func Order(before Record, now []bool) Advice {
	valid := 0
	for _, ok := range now {
		if ok {
			valid++
		}
	}
	n := len(now) + 1
	switch {
	case n > Attempts:
		return Advice{Take: Over, Says: "The series is over."}
	case valid > 0:
		return Advice{Attempt: n, Take: All, Says: "A mark stands: nothing to lose."}
	case n > Cut:
		return Advice{Take: Over, Says: "Three attempts without a mark: most competitions end here."}
	}
	before.Valid += valid
	before.Fouls += len(now) - valid
	share := (float64(before.Fouls) + 0.5) / (float64(before.Valid+before.Fouls) + 1)
	left := Cut - len(now)
	out := Advice{Attempt: n, Take: Usual, NoMark: math.Pow(share, float64(left))}
	switch known := before.Valid + before.Fouls; {
	case known < fewest && len(now) == 0:
		out.NoMark = 0
		out.Says = "Too few attempts are known to say more: as practised."
	case known < fewest || out.NoMark > bold:
		out.Take = Safe
		out.Says = fmt.Sprintf("A safe one first: %d of %d did not count, and %d are left.", before.Fouls, known, left)
	default:
		out.Says = fmt.Sprintf("As practised: %d of %d did not count.", before.Fouls, known)
	}
	return out
}

package followup

import (
	"cmp"
	"math"
	"slices"
)

// Said is a wording of a cue that was said before a try, and whether the try kept what was worked on.
type Said struct {
	Athlete string
	Words   string
	Kept    bool
}

// Wording is one with what came of it.
type Wording struct {
	Words string  `json:"words"`
	Kept  int     `json:"kept" doc:"tries of this athlete that kept what was worked on"`
	Of    int     `json:"of"`
	All   int     `json:"all_kept" doc:"tries of the whole team"`
	AllOf int     `json:"all_of"`
	Lo    float64 `json:"lo" doc:"share kept, of this athlete: lower end of its 95 % interval"`
	Hi    float64 `json:"hi"`
}

// asMuch is how many own tries weigh as much as what is known of the whole team. Common practice, no
// source.
const asMuch = 4

// Wordings puts the ways to say a cue in the order in which they are offered: the one first that was
// kept most often, by this athlete's own tries where there are many, by those of the team where there
// are few. Ways that nobody has tried yet stand between what works and what does not.
func Wordings(athlete string, ways []string, said []Said) []Wording {
	out := make([]Wording, 0, len(ways))
	for _, w := range ways {
		if slices.ContainsFunc(out, func(o Wording) bool { return o.Words == w }) || w == "" {
			continue
		}
		v := Wording{Words: w}
		for _, s := range said {
			if s.Words != w {
				continue
			}
			v.AllOf++
			if s.Kept {
				v.All++
			}
			if s.Athlete == athlete {
				v.Of++
				if s.Kept {
					v.Kept++
				}
			}
		}
		v.Lo, v.Hi = Share(v.Kept, v.Of)
		out = append(out, v)
	}
	worth := func(v Wording) float64 {
		team := (float64(v.All) + 1) / (float64(v.AllOf) + 2)
		return (float64(v.Kept) + asMuch*team) / (float64(v.Of) + asMuch)
	}
	slices.SortStableFunc(out, func(a, b Wording) int { return cmp.Compare(worth(b), worth(a)) })
	return out
}

// Share is the 95 % interval of a share (Wilson 1927, J. Am. Stat. Assoc. 22:209).
func Share(kept, of int) (lo, hi float64) {
	if of == 0 {
		return 0, 1
	}
	const z = 1.959964
	n, p := float64(of), float64(kept)/float64(of)
	mid := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	return max(0, mid-half), min(1, mid+half)
}

// Verdict is what tries under one wording say.
type Verdict string

// Verdicts.
const (
	Early  Verdict = "early"  // too few to say
	Stays  Verdict = "stays"  // kept in most: go on
	Change Verdict = "change" // kept in few: say it in other words
	Open   Verdict = "open"   // neither
)

// After judges the tries under one wording: nothing is said before five, and only what their number
// carries. Common practice, no source.
func After(kept, of int) Verdict {
	lo, hi := Share(kept, of)
	switch {
	case of < 5:
		return Early
	case hi < 0.6:
		return Change
	case lo > 0.4 && 10*kept >= 7*of:
		return Stays
	}
	return Open
}

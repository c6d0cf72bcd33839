package performance

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Odds is the chance of a mark in a competition.
type Odds struct {
	Chance float64 `json:"chance" doc:"0 to 1"`
	Lo     float64 `json:"lo" doc:"of its 95 % interval, by what so few marks leave open"`
	Hi     float64 `json:"hi"`
}

// fewest are the marks from which a chance is told. Common practice, no source.
const fewest = 5

// Reach is the chance to reach a mark at least once in so many attempts: marks scatter normally
// about a mean, a share of the attempts are fouls by chance, and attempts do not hang together.
func Reach(mean, sd, foul float64, attempts int, wanted float64) float64 {
	once := (1 - foul) * distuv.Normal{Mu: mean, Sigma: sd}.Survival(wanted)
	return -math.Expm1(float64(attempts) * math.Log1p(-once))
}

// MarkOdds is the chance to reach a mark, as [Reach] tells it of an athlete's own marks under the
// same conditions. The interval follows from the doubt of mean, scatter and share of fouls, each as
// large as so many marks leave it, on the scale of log odds. Marks in which less is better are
// given with a minus.
func MarkOdds(marks []float64, fouls, attempts int, wanted float64) (Odds, error) {
	n := float64(len(marks))
	if len(marks) < fewest {
		return Odds{}, fmt.Errorf("%d marks under the same conditions tell a chance; there are %d", fewest, len(marks))
	}
	if attempts < 1 || fouls < 0 {
		return Odds{}, fmt.Errorf("a series has one attempt or more")
	}
	mean, sd := stat.MeanStdDev(marks, nil)
	if !(sd > 0) || math.IsInf(sd, 0) {
		return Odds{}, fmt.Errorf("marks that are all alike tell no chance")
	}
	foul := float64(fouls) / (n + float64(fouls))
	p := Reach(mean, sd, foul, attempts, wanted)
	// The doubt of each: mean and scatter of normal values, a share with one half more on each side
	// (Agresti and Coull 1998, Am. Stat. 52:119, in spirit).
	likely := func(p float64) float64 { return math.Min(1-1e-9, math.Max(1e-9, p)) }
	logit := func(p float64) float64 { p = likely(p); return math.Log(p / (1 - p)) }
	about := (float64(fouls) + 0.5) / (n + float64(fouls) + 1)
	wider := math.Min(0.95, foul+math.Sqrt(about*(1-about)/(n+float64(fouls)+1)))
	var variance float64
	for _, q := range []float64{
		Reach(mean+sd/math.Sqrt(n), sd, foul, attempts, wanted),
		Reach(mean, sd*(1+1/math.Sqrt(2*(n-1))), foul, attempts, wanted),
		Reach(mean, sd, wider, attempts, wanted),
	} {
		d := logit(q) - logit(p)
		variance += d * d
	}
	half := distuv.StudentsT{Sigma: 1, Nu: n - 1}.Quantile(0.975) * math.Sqrt(variance)
	back := func(l float64) float64 { return 1 / (1 + math.Exp(-l)) }
	p = likely(p)
	return Odds{p, min(p, back(logit(p)-half)), max(p, back(logit(p)+half))}, nil
}

// SafeFirst tells whether the first attempt of a series should be a safe one: when fouls are so
// many that three attempts in a row fail in more than one competition of ten. Common practice, no
// source.
func SafeFirst(valid, fouls int) bool {
	if valid+fouls < fewest {
		return false
	}
	return math.Pow(float64(fouls)/float64(valid+fouls), 3) > 0.1
}

// Package eye measures how well somebody sees: sensitivity and criterion of a yes or no, the size from
// which a fault is seen, bias and scatter of angles and frames. What it takes are answers to exercises
// of which the truth is known; what it gives carries the doubt of so few of them.
package eye

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"neokinema/core/uncertainty"
)

// Kind is what an exercise asks.
type Kind string

// Kinds.
const (
	There     Kind = "there"     // is the fault there
	Moment    Kind = "moment"    // which frame
	Angle     Kind = "angle"     // how many degrees
	Larger    Kind = "larger"    // which of two shows it more
	Cause     Kind = "cause"     // which of three comes first
	Decidable Kind = "decidable" // can it be said from this clip at all
)

// Kinds lists all of them.
var Kinds = []Kind{There, Moment, Angle, Larger, Cause, Decidable}

// Seen is a yes or no to something that was there or was not.
type Seen struct {
	There bool
	Yes   bool
}

// Detection is what yes and no are worth, by the equal-variance model of signal detection (Macmillan
// and Creelman 2005, Detection Theory, ch. 1).
type Detection struct {
	Hits        int                  `json:"hits"`
	Misses      int                  `json:"misses"`
	FalseAlarms int                  `json:"false_alarms"`
	Rejections  int                  `json:"rejections"`
	DPrime      uncertainty.Estimate `json:"d_prime" doc:"sensitivity: 0 is guessing, 1 is two of three right, 3 hardly ever wrong"`
	Criterion   uncertainty.Estimate `json:"criterion" doc:"below 0 says yes too often, above 0 too seldom"`
}

// fewest are the answers of either truth from which anything is told. Common practice, no source.
const fewest = 8

// DetectionOf reckons sensitivity and criterion; false below eight answers with and eight without the
// fault. To each count a half is added (Hautus 1995, Behav. Res. Methods 27:46), so that nobody who has
// never been wrong is told to be infinitely good; the interval follows from the variance of the rates
// (Gourevitch and Galanter 1967, Psychometrika 32:25).
func DetectionOf(list []Seen) (Detection, bool) {
	var d Detection
	for _, s := range list {
		switch {
		case s.There && s.Yes:
			d.Hits++
		case s.There:
			d.Misses++
		case s.Yes:
			d.FalseAlarms++
		default:
			d.Rejections++
		}
	}
	there, not := d.Hits+d.Misses, d.FalseAlarms+d.Rejections
	if there < fewest || not < fewest {
		return d, false
	}
	rate := func(yes, of int) (z, variance float64) {
		n := float64(of) + 1
		p := (float64(yes) + 0.5) / n
		z = distuv.UnitNormal.Quantile(p)
		density := distuv.UnitNormal.Prob(z)
		return z, p * (1 - p) / (n * density * density)
	}
	h, vh := rate(d.Hits, there)
	f, vf := rate(d.FalseAlarms, not)
	half := uncertainty.Z95 * math.Sqrt(vh+vf)
	d.DPrime = uncertainty.Estimate{Value: h - f, Half95: half}
	d.Criterion = uncertainty.Estimate{Value: -(h + f) / 2, Half95: half / 2}
	return d, true
}

// Sure is how likely a fault is there when somebody says so, and how likely it is not when he says no,
// if half of all clips have it.
func (d Detection) Sure() (yes, no float64) {
	h := (float64(d.Hits) + 0.5) / float64(d.Hits+d.Misses+1)
	f := (float64(d.FalseAlarms) + 0.5) / float64(d.FalseAlarms+d.Rejections+1)
	return h / (h + f), (1 - f) / (1 - f + 1 - h)
}

// Off is how far estimates lie from the truth.
type Off struct {
	N       int                  `json:"n"`
	Bias    uncertainty.Estimate `json:"bias" doc:"mean of said minus true"`
	Scatter float64              `json:"scatter" doc:"standard deviation about the bias"`
	Worth   float64              `json:"worth" doc:"95 % of single estimates lie within this of the truth"`
}

// OffOf reckons bias and scatter of estimates, said minus true; false below five.
func OffOf(errors []float64) (Off, bool) {
	n := float64(len(errors))
	if len(errors) < 5 {
		return Off{N: len(errors)}, false
	}
	mean, sd := stat.MeanStdDev(errors, nil)
	t := distuv.StudentsT{Sigma: 1, Nu: n - 1}.Quantile(0.975)
	return Off{N: len(errors), Bias: uncertainty.Estimate{Value: mean, Half95: t * sd / math.Sqrt(n)}, Scatter: sd, Worth: uncertainty.Z95 * math.Hypot(mean, sd)}, true
}

// Leans says in words in which way somebody errs, where the interval leaves no doubt; empty otherwise.
func (d Detection) Leans(what string) string {
	switch c := d.Criterion; {
	case c.Value+c.Half95 < 0:
		return fmt.Sprintf("You say “%s” too often.", what)
	case c.Value-c.Half95 > 0:
		return fmt.Sprintf("You miss “%s” too often.", what)
	}
	return ""
}

// Says tells what an eye for angles or frames is worth.
func (o Off) Says(unit string) string {
	text := fmt.Sprintf("Your eye is worth ±%.0f %s", math.Ceil(o.Worth), unit)
	b := o.Bias
	switch {
	case b.Value-b.Half95 > 0:
		text += fmt.Sprintf("; you say %.0f too many", math.Abs(b.Value))
	case b.Value+b.Half95 < 0:
		text += fmt.Sprintf("; you say %.0f too few", math.Abs(b.Value))
	}
	return text + "."
}

// Package uncertainty carries how sure a number is: a value with its standard
// deviation and 95 % half width, bands, and verdicts that respect both.
package uncertainty

import "math"

// Z95 is the two-sided 95 % quantile of the normal distribution.
const Z95 = 1.959963984540054

// Estimate is a measured number in the unit of its reading.
type Estimate struct {
	Value  float64 `json:"value" doc:"best estimate, in the reading's unit"`
	SD     float64 `json:"sd" doc:"standard deviation"`
	Half95 float64 `json:"half95" doc:"half width of the 95 % interval"`
}

// Normal is a value whose error is close to normal: half width 1.96 SD.
func Normal(x, sd float64) Estimate { return Estimate{Value: x, SD: sd, Half95: Z95 * sd} }

// FrameInterval is a duration between two frames. Each moment lies anywhere within one
// frame interval dt, so the error is triangular: standard deviation dt/sqrt(6),
// never more than one interval, which is what Half states.
func FrameInterval(x, dt float64) Estimate {
	return Estimate{Value: x, SD: dt / math.Sqrt(6), Half95: dt}
}

// Interval is the 95 % interval.
func (v Estimate) Interval() (lo, hi float64) { return v.Value - v.Half95, v.Value + v.Half95 }

// Scale multiplies a value by a constant.
func (v Estimate) Scale(k float64) Estimate {
	return Estimate{Value: v.Value * k, SD: v.SD * math.Abs(k), Half95: v.Half95 * math.Abs(k)}
}

// Minus is a - b for independent values; half widths add by root of squares.
func Minus(a, b Estimate) Estimate {
	return Estimate{Value: a.Value - b.Value, SD: math.Hypot(a.SD, b.SD), Half95: math.Hypot(a.Half95, b.Half95)}
}

// Propagate carries independent standard deviations sd of inputs x through f by
// central differences (first order; JCGM 100:2008, 5.1.2). f must not keep or
// change its argument.
func Propagate(f func([]float64) float64, x, sd []float64) Estimate {
	at := append([]float64(nil), x...)
	var variance float64
	for i, s := range sd {
		if s == 0 {
			continue
		}
		h := s / 8 // well inside the doubt, well above rounding
		at[i] = x[i] + h
		up := f(at)
		at[i] = x[i] - h
		down := f(at)
		at[i] = x[i]
		slope := (up - down) / (2 * h)
		variance += slope * slope * s * s
	}
	return Normal(f(at), math.Sqrt(variance))
}

// SmallestRealDifference is the change between two measured values that chance
// alone explains in only one case of twenty: 1.96 sqrt(sd1^2 + sd2^2).
func SmallestRealDifference(a, b Estimate) float64 { return Z95 * math.Hypot(a.SD, b.SD) }

// Band is the range a coach wants; a nil end is open.
type Band struct {
	Lo *float64 `json:"lo,omitempty" required:"false"`
	Hi *float64 `json:"hi,omitempty" required:"false"`
}

// Verdict is what can be said of a value against a band.
type Verdict string

// The verdicts of a band. Open means that the interval crosses an edge: this
// clip cannot decide.
const (
	Met    Verdict = "met"
	Missed Verdict = "missed"
	Open   Verdict = "open"
	None   Verdict = "none" // not measured yet, or there is nothing to meet
)

// Judge compares the 95 % interval with the band: met only when wholly inside,
// missed only when wholly outside.
func (b Band) Judge(v Estimate) Verdict {
	lo, hi := v.Interval()
	switch {
	case b.Lo != nil && hi < *b.Lo, b.Hi != nil && lo > *b.Hi:
		return Missed
	case (b.Lo == nil || lo >= *b.Lo) && (b.Hi == nil || hi <= *b.Hi):
		return Met
	}
	return Open
}

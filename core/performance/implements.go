package performance

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/stat/distuv"

	"neokinema/core/uncertainty"
)

// Best is the best mark with one implement.
type Best struct {
	Mass   float64 `json:"mass" doc:"kg"`
	Metres float64 `json:"metres"`
}

// Line is how far an athlete throws over the mass of the implement: metres = scale *
// mass^power. Over a range of half to double the mass of competition that is a straight line in
// logarithms, within what single days scatter. Common practice, no source.
type Line struct {
	Scale  float64 `json:"scale"`
	Power  float64 `json:"power" doc:"how the distance goes with the mass; about -0.4 to -0.9"`
	Spread float64 `json:"spread" doc:"of single marks about the line, as a share; 0 when two marks make the line"`
	n      int
	mean   float64 // of the logarithms of mass
	square float64 // sum of their squares about it
}

// ErrLine is of marks that make no line.
var ErrLine = errors.New("two implements of different mass or more, each with a mark, make a line")

// FitLine lays the line of least squares through best marks with several implements.
func FitLine(list []Best) (Line, error) {
	var l Line
	for _, b := range list {
		if !(b.Mass > 0 && b.Mass < 100 && b.Metres > 0 && b.Metres < 200) {
			return l, ErrLine
		}
		l.mean += math.Log(b.Mass) / float64(len(list))
	}
	var xy, y float64
	for _, b := range list {
		y += math.Log(b.Metres) / float64(len(list))
	}
	for _, b := range list {
		d := math.Log(b.Mass) - l.mean
		l.square, xy = l.square+d*d, xy+d*(math.Log(b.Metres)-y)
	}
	if l.n = len(list); l.n < 2 || l.square < 1e-4 {
		return l, ErrLine
	}
	l.Power = xy / l.square
	l.Scale = math.Exp(y - l.Power*l.mean)
	if l.n > 2 {
		sum := 0.0
		for _, b := range list {
			d := math.Log(b.Metres / l.at(b.Mass))
			sum += d * d
		}
		l.Spread = math.Sqrt(sum / float64(l.n-2))
	}
	return l, nil
}

func (l Line) at(mass float64) float64 { return l.Scale * math.Pow(mass, l.Power) }

// At is what an implement of a mass should go, as one more mark would scatter about the line
// (Student's t; with two marks nobody knows, and half of the 95 % is infinite).
func (l Line) At(mass float64) uncertainty.Estimate {
	v := l.at(mass)
	if l.n < 3 {
		return uncertainty.Estimate{Value: v, SD: math.Inf(1), Half95: math.Inf(1)}
	}
	d := math.Log(mass) - l.mean
	sd := v * l.Spread * math.Sqrt(1+1/float64(l.n)+d*d/l.square)
	t := distuv.StudentsT{Sigma: 1, Nu: float64(l.n - 2)}.Quantile(0.975)
	return uncertainty.Estimate{Value: v, SD: sd, Half95: t * sd}
}

// Odd is the implement that is most out of the line of the others, with what they would say of
// it; false when none is surely out.
func Odd(list []Best) (at int, want uncertainty.Estimate, ok bool) {
	most := 0.0
	for i, b := range list {
		var others []Best
		for j, o := range list {
			if j != i {
				others = append(others, o)
			}
		}
		l, err := FitLine(others)
		if err != nil || l.n < 3 {
			continue
		}
		v := l.At(b.Mass)
		if off := math.Abs(b.Metres-v.Value) / v.Half95; off > 1 && off > most {
			at, want, ok, most = i, v, true, off
		}
	}
	return at, want, ok
}

// Gain is what the whole movement adds to the movement from a stand, each mark with its own
// scatter from day to day.
func Gain(standing, full uncertainty.Estimate) uncertainty.Estimate {
	return uncertainty.Minus(full, standing)
}

// Landings are those of a run of so many minutes at a cadence (steps a minute), and the load
// that each leg takes in it, body weights times seconds, for a mean force of a step: over a whole
// step the mean force is the body's weight, whatever the contact times.
func Landings(cadence, minutes float64) (landings, perLeg float64) {
	return cadence * minutes, 60 * minutes / 2
}

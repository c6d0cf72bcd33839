// Package runup lays run-ups out on the ground and reckons with their scatter. Lengths in m,
// speeds in m/s, angles in rad.
package runup

import (
	"errors"
	"math"

	"neokinema/core/body"
	"neokinema/core/uncertainty"
)

// Curve is the run-up of a high jump: straight steps, then steps on an arc that ends in the
// plant.
type Curve struct {
	Leg      body.Side `json:"leg" doc:"take-off leg; the arc turns to that side"`
	Straight int       `json:"straight" doc:"steps before the arc"`
	Curved   int       `json:"curved" doc:"steps on the arc, the plant the last of them"`
	Step     float64   `json:"step" doc:"length of a step"`
	Radius   float64   `json:"radius" doc:"of the arc"`
	Along    float64   `json:"along" doc:"plant: from the near upright along the bar"`
	Out      float64   `json:"out" doc:"plant: from the bar"`
	ToBar    float64   `json:"to_bar" doc:"angle of the way at the plant against the bar"`
	Outward  float64   `json:"outward" doc:"by how much the last step but one is set outward"`
	Base     float64   `json:"base" doc:"between the lines of left and right feet"`
}

// Mark is where a foot comes down.
type Mark struct {
	N      int       `json:"n" doc:"steps before the plant; 0 is the plant"`
	Foot   body.Side `json:"foot"`
	Along  float64   `json:"along" doc:"from the near upright along the bar, towards the far one"`
	Out    float64   `json:"out" doc:"from the line of the bar"`
	Tape   float64   `json:"tape" doc:"from the foot of the near upright"`
	Curved bool      `json:"curved"`
}

// ErrCurve is of a run-up that nobody can lay out.
var ErrCurve = errors.New("a run-up has 1 to 20 straight steps, 1 to 10 curved ones, steps of 0.5 to 3 m, a radius of 3 to 30 m and a plant 0.2 to 3 m from the bar at 10 to 80 degrees to it")

// Marks lays the run-up out, the plant last. Seen from the run-up the near upright is the one
// on the side from which the jumper comes: right for the left leg, and the other way round.
func (c Curve) Marks() ([]Mark, error) {
	deg := c.ToBar * 180 / math.Pi
	if c.Straight < 1 || c.Straight > 20 || c.Curved < 1 || c.Curved > 10 || !(c.Step >= 0.5 && c.Step <= 3) || !(c.Radius >= 3 && c.Radius <= 30) || !(c.Out >= 0.2 && c.Out <= 3) || !(deg >= 10 && deg <= 80) || !(math.Abs(c.Along) <= 10) || !(c.Outward >= 0 && c.Outward <= 1) || !(c.Base >= 0 && c.Base <= 0.5) {
		return nil, ErrCurve
	}
	// Along the bar to the far upright, and out from it. The way is a line that the feet stand
	// beside: the arc's middle lies on the side of the take-off leg.
	middle := [2]float64{c.Along + c.Radius*math.Sin(c.ToBar), c.Out + c.Radius*math.Cos(c.ToBar)}
	at := func(back float64) (place, inward [2]float64) {
		bent := math.Min(back, float64(c.Curved)*c.Step)
		heading := -c.ToBar - bent/c.Radius
		s, k := math.Sincos(heading)
		inward = [2]float64{-s, k}
		place = [2]float64{middle[0] - c.Radius*inward[0], middle[1] - c.Radius*inward[1]}
		if rest := back - bent; rest > 0 {
			place[0], place[1] = place[0]-rest*k, place[1]-rest*s
		}
		return place, inward
	}
	var out []Mark
	for n := c.Straight + c.Curved; n >= 0; n-- {
		place, inward := at(float64(n) * c.Step)
		foot, by := c.Leg, c.Base/2
		if n%2 == 1 {
			foot, by = c.Leg.Other(), -c.Base/2
		}
		if n == 1 {
			by -= c.Outward
		}
		if n == 0 {
			by = 0 // the plant is where it is wanted
		}
		m := Mark{N: n, Foot: foot, Along: place[0] + by*inward[0], Out: place[1] + by*inward[1], Curved: n <= c.Curved}
		m.Tape = math.Hypot(m.Along, m.Out)
		out = append(out, m)
	}
	return out, nil
}

// Scatter is how a mark was met over some run-ups: metres past it are positive.
type Scatter struct {
	N     int                  `json:"n"`
	Mean  uncertainty.Estimate `json:"mean"`
	SD    float64              `json:"sd" doc:"of one run-up"`
	SDLow float64              `json:"sd_low" doc:"its 95 % interval"`
	SDTop float64              `json:"sd_top"`
}

// fewest are the run-ups from which a scatter is told. Common practice, no source.
const fewest = 5

// ErrFew is of too few run-ups.
var ErrFew = errors.New("five run-ups or more tell a scatter")

// Spread is the scatter of a mark. The interval of its standard deviation follows from the
// chi-square distribution by the approximation of Wilson and Hilferty 1931 (Proc. Natl. Acad.
// Sci. 17:684).
func Spread(list []float64) (Scatter, error) {
	n := float64(len(list))
	if len(list) < fewest {
		return Scatter{}, ErrFew
	}
	var mean, sum float64
	for _, v := range list {
		mean += v / n
	}
	for _, v := range list {
		sum += (v - mean) * (v - mean)
	}
	sd := math.Sqrt(sum / (n - 1))
	k := n - 1
	chi := func(z float64) float64 { return k * math.Pow(1-2/(9*k)+z*math.Sqrt(2/(9*k)), 3) }
	return Scatter{len(list), uncertainty.Normal(mean, sd/math.Sqrt(n)), sd, math.Sqrt(sum / chi(uncertainty.Z95)), math.Sqrt(sum / chi(-uncertainty.Z95))}, nil
}

// Arises says where an error at the plant comes from: the share of its variance that was there
// at the mid mark, and what the steps after it add, m. A negative correlation means that the
// last steps steer.
type Arises struct {
	Before      float64 `json:"before" doc:"share of the plant's variance that the mid mark explains, 0 to 1"`
	After       float64 `json:"after" doc:"scatter that the steps after the mid mark add, m"`
	Correlation float64 `json:"correlation" doc:"of plant and mid mark"`
}

// Where compares plants with mid marks of the same run-ups.
func Where(mids, plants []float64) (Arises, error) {
	if len(mids) != len(plants) {
		return Arises{}, errors.New("each run-up has its mid mark and its plant")
	}
	p, err := Spread(plants)
	if err != nil {
		return Arises{}, err
	}
	m, err := Spread(mids)
	if err != nil {
		return Arises{}, err
	}
	var both, added float64
	n := float64(len(mids))
	for i := range mids {
		both += (mids[i] - m.Mean.Value) * (plants[i] - p.Mean.Value) / (n - 1)
		d := plants[i] - mids[i] - p.Mean.Value + m.Mean.Value
		added += d * d / (n - 1)
	}
	out := Arises{After: math.Sqrt(added)}
	if m.SD > 0 && p.SD > 0 {
		out.Correlation = both / (m.SD * p.SD)
		out.Before = out.Correlation * out.Correlation
	}
	return out, nil
}

// Behind is how far behind the edge to aim for a share of fouls (0 to 1), for a normal scatter
// of one run-up.
func Behind(sd, fouls float64) float64 { return sd * math.Sqrt2 * math.Erfinv(1-2*fouls) }

// Fouls is the share of fouls of who aims so far behind the edge.
func Fouls(sd, behind float64) float64 { return 0.5 * math.Erfc(behind/(sd*math.Sqrt2)) }

// Shift is how far the start has to move back (forward when negative) for a share of fouls:
// plants are past the edge when positive. It is as doubtful as the mean and the scatter are.
func Shift(plants Scatter, fouls float64) uncertainty.Estimate {
	z := math.Sqrt2 * math.Erfinv(1-2*fouls)
	half := (plants.SDTop - plants.SDLow) / (2 * uncertainty.Z95)
	return uncertainty.Normal(plants.Mean.Value+z*plants.SD, math.Hypot(plants.Mean.SD, z*half))
}

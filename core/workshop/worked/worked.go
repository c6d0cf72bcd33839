// Package worked tries the workshop: examples whose answers are known from elsewhere (closed
// forms, tables, published numbers), and inputs by chance. Tests and figures call it.
package worked

import (
	"fmt"
	"math"

	"neokinema/core/blocks"
	"neokinema/core/flight"
	"neokinema/core/runup"
	"neokinema/core/workshop"
)

// Example is a number that a question must come to.
type Example struct {
	Name   string
	Source string
	Want   float64
	Got    func() (float64, error)
}

// Off is how far an example is off, as a share of what it should be.
func (e Example) Off() (float64, error) {
	v, err := e.Got()
	if err != nil {
		return math.Inf(1), fmt.Errorf("%s: %w", e.Name, err)
	}
	return math.Abs(v-e.Want) / math.Abs(e.Want), nil
}

// line is one number of an answer; pairs are inputs with their values.
func line(question, id string, values workshop.Values) func() (float64, error) {
	return func() (float64, error) {
		a, err := workshop.Ask(question, values, nil)
		if err != nil {
			return 0, err
		}
		l, ok := a.Line(id)
		if !ok {
			return 0, fmt.Errorf("%s has no line %s", question, id)
		}
		return l.Value.Value, nil
	}
}

func is(v float64) workshop.Value { return workshop.Value{Value: v} }

func number(v float64) func() (float64, error) { return func() (float64, error) { return v, nil } }

// scatter is a list with mean 0 and a standard deviation.
func scatter(sd float64) workshop.Value {
	list := []float64{-2, -1, 0, 1, 2} // sd sqrt(2.5)
	for i := range list {
		list[i] *= sd / math.Sqrt(2.5)
	}
	return workshop.Value{List: list}
}

// sprintTimes are those at 10, 20 and 30 m of v = top (1 - exp(-t/tau)), by Newton.
func sprintTimes(top, tau float64) workshop.Values {
	at := func(m float64) float64 {
		t := m / top
		for range 50 {
			t -= (top*(t-tau*(1-math.Exp(-t/tau))) - m) / (top * (1 - math.Exp(-t/tau)))
		}
		return t
	}
	return workshop.Values{"t10": is(at(10)), "t20": is(at(20)), "t30": is(at(30))}
}

const (
	coachs  = "worked example of coaches, checked by hand"
	closed  = "closed form"
	icao    = "ICAO standard atmosphere, Doc 7488, table"
	tables  = "Abramowitz and Stegun 1964, table 26.5"
	morin   = "Morin et al. 2005, J. Appl. Biomech. 21:167, half sine"
	lichten = "Lichtenberg and Wills 1978, Am. J. Phys. 46:546, range of a throw from a height"
	hay     = "Hay 1985, parts of a jump"
	furu    = "Furusawa, Hill and Parkinson 1927, Proc. R. Soc. B 102:29"
)

// implement options: hammer 7.26 kg, weight 15.88 kg.
func option(event string, mass float64) workshop.Value {
	v, _ := workshop.ImplementOption(event, mass)
	return is(v)
}

// Examples lists them.
func Examples() []Example {
	hammer := workshop.Values{"ball": is(7.26), "speed": is(28), "radius": is(1.85), "turns": is(4), "mass": is(105)}
	weight := workshop.Values{"ball": is(15.88), "speed": is(14.5), "radius": is(1.35), "turns": is(3), "mass": is(105)}
	set := workshop.Values{"front": is(blocks.Knee(0.44, 0.43, 0.21, 0.605, 0)), "thigh": is(0.44), "shank": is(0.43), "ahead": is(0.21), "moveFront": is(2.5), "wantFront": is(90), "rear": is(125), "behind": is(0.5)}
	jump := workshop.Values{"toe": is(0.05), "ahead": is(0.4), "speed": is(8.4572), "upward": is(3.0782), "height": is(1.2), "landing": is(0.6), "heels": is(0.5)}
	return []Example{
		{"lean at 7.0 m/s on 9 m, degrees", coachs, 29.0, line("curve-lean", "wanted", workshop.Values{"speed": is(7), "radius": is(9)})},
		{"radius that 29.04 degrees hold at 7.0 m/s, m", closed, 9.0, line("curve-lean", "holds", workshop.Values{"speed": is(7), "radius": is(9), "lean": is(29.0365)})},
		{"best angle at 14 m/s from 2.1 m, degrees", lichten, 42.3, number(flight.BestAngle(14, 2.1) * 180 / math.Pi)},
		{"range at that angle, m", lichten, 21.98, line("flight", "no-air", workshop.Values{"implement": option("shot", 7.26), "speed": is(14), "height": is(2.1), "angle": is(flight.BestAngle(14, 2.1) * 180 / math.Pi)})},
		{"pull of a hammer at 28 m/s on 1.85 m, N", coachs, 3077, line("pull", "pull", hammer)},
		{"the same, kgf", coachs, 314, line("pull", "pull-kgf", hammer)},
		{"the same, lbf", coachs, 692, line("pull", "pull-lbf", hammer)},
		{"pull of a weight at 14.5 m/s on 1.35 m, N", coachs, 2473, line("pull", "pull", weight)},
		{"the same, lbf", coachs, 556, line("pull", "pull-lbf", weight)},
		{"front knee now, degrees", coachs, 94.8, number(blocks.Knee(0.44, 0.43, 0.21, 0.605, 0))},
		{"front knee after 2.5 cm, degrees", coachs, 93.3, line("blocks", "front", set)},
		{"pedal for 90 degrees, m", coachs, 0.098, line("blocks", "front-for", set)},
		{"aim for a scatter of 8 cm and one foul in ten, m", coachs, 0.1025, line("start", "aim", workshop.Values{"plants": scatter(0.08), "fouls": is(10)})},
		{"quantile of one in ten", tables, 1.28155, number(runup.Behind(1, 0.1))},
		{"quantile of one in forty", tables, 1.95996, number(runup.Behind(1, 0.025))},
		{"peak push at 250 ms contact and 100 ms flight, body weights", morin, 2.20, line("load", "peak", workshop.Values{"cadence": is(60 / 0.35), "contact": is(250)})},
		{"air at sea level and 15 °C, kg/m3", icao, 1.2250, number(flight.AirAt(0, 15, 0).Density)},
		{"air at 1000 m and 8.5 °C, kg/m3", icao, 1.1117, number(flight.AirAt(1000, 8.501, 0).Density)},
		{"air at 2000 m and 2 °C, kg/m3", icao, 1.0066, number(flight.AirAt(2000, 2.004, 0).Density)},
		{"height of 9.5 m/s over a centre of mass at 1.2 m, m", closed, 1.2 + 9.5*9.5/2/9.80665, line("vault-energy", "bound", workshop.Values{"speed": is(9.5), "height": is(1.2)})},
		{"bar of 5.00 m over a grip of 4.40 m in a box of 20 cm, m", closed, 0.80, line("vault-energy", "push", workshop.Values{"bar": is(5), "grip": is(4.4)})},
		{"rise of 4.0 m/s upward, m", hay, 0.8158, line("high-parts", "rise", workshop.Values{"upward": is(4)})},
		{"flight of 9 m/s at 20 degrees, 60 cm down, m", hay, 6.5829, line("long-parts", "flown", jump)},
		{"whole jump: 0.35 + flight + 0.50, m", hay, 7.4329, line("long-parts", "total", jump)},
		{"greatest speed from its own three splits, m/s", furu, 10, line("splits", "top", sprintTimes(10, 1.25))},
		{"time constant from its own three splits, s", furu, 1.25, line("splits", "tau", sprintTimes(10, 1.25))},
		{"first acceleration, m/s2", furu, 8, line("splits", "first", sprintTimes(10, 1.25))},
		{"mean push of 4 m/s upward in 170 ms, body weights", closed, 1 + 4/(9.80665*0.17), line("plant", "up", workshop.Values{"upward": is(4), "down": is(0), "contact": is(170), "speed": is(7), "level": is(4)})},
		{"sideways push at 7 m/s on 9 m, body weights", closed, 49 / (9.80665 * 9), line("plant", "side", workshop.Values{"speed": is(7), "radius": is(9)})},
		{"landings of a leg in 180 minutes at 168 steps a minute", closed, 15120, line("load", "now", workshop.Values{"cadence": is(168), "minutes": is(180)})},
		{"mark of 7.26 kg between two on a line of power -0.5, m", closed, 60 * math.Sqrt(6/7.26), line("implements", "mark", workshop.Values{"masses": {List: []float64{5, 6, 8}}, "marks": {List: []float64{60 * math.Sqrt(6.0/5), 60, 60 * math.Sqrt(6.0/8)}}, "mass": is(7.26)})},
	}
}

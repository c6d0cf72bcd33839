package workshop

import (
	"errors"
	"fmt"
	"math"

	"neokinema/core/angles"
	"neokinema/core/blocks"
	"neokinema/core/performance"
	"neokinema/core/springmass"
	"neokinema/core/uncertainty"
)

var runs = []Question{
	{
		ID: "blocks", Group: Run, Name: "Blocks, both pedals", Events: []string{"sprint-start"},
		Says:   "What moved pedals and hips do to both knees, to the spacing and to the foot under the hip.",
		Source: "law of cosines in each leg (package blocks)",
		Inputs: []Input{
			{ID: "front", Name: "Front knee now", Unit: "°", Lo: 50, Hi: 175, Usual: 100, Doubt: 4, Step: 1, Fact: "front-knee"},
			{ID: "rear", Name: "Rear knee now", Unit: "°", Lo: 60, Hi: 178, Usual: 125, Doubt: 4, Step: 1, Fact: "rear-knee"},
			{ID: "thigh", Name: "Thigh", Unit: "m", Lo: 0.2, Hi: 0.65, Usual: 0.44, Doubt: 0.02, Step: 0.005, Fact: "thigh", More: true},
			{ID: "shank", Name: "Shank", Unit: "m", Lo: 0.2, Hi: 0.65, Usual: 0.43, Doubt: 0.02, Step: 0.005, Fact: "shank", More: true},
			{ID: "ahead", Name: "Hip ahead of the front ankle", Unit: "m", Lo: -0.4, Hi: 0.7, Usual: 0.2, Doubt: 0.03, Step: 0.005, Fact: "front-ahead"},
			{ID: "behind", Name: "Hip ahead of the rear ankle", Unit: "m", Lo: -0.2, Hi: 1, Usual: 0.48, Doubt: 0.03, Step: 0.005, Fact: "rear-ahead"},
			{ID: "moveFront", Name: "Front pedal towards the line", Unit: "cm", Lo: -15, Hi: 15, Usual: 2.5, Step: 0.5},
			{ID: "moveRear", Name: "Rear pedal towards the line", Unit: "cm", Lo: -15, Hi: 15, Usual: 0, Step: 0.5},
			{ID: "raise", Name: "Hips higher", Unit: "cm", Lo: -10, Hi: 10, Usual: 0, Step: 0.5},
			{ID: "wantFront", Name: "Front knee that you want", Unit: "°", Lo: 70, Hi: 150, Usual: 92, Step: 1, More: true},
			{ID: "wantRear", Name: "Rear knee that you want", Unit: "°", Lo: 80, Hi: 165, Usual: 125, Step: 1, More: true},
		},
		answer: pedals,
	},
	{
		ID: "load", Group: Run, Name: "Landings of a week", Events: []string{"running"},
		Says:   "How often and how hard each leg lands, and what another cadence changes.",
		Source: "half sine of the ground force: Morin et al. 2005, J. Appl. Biomech. 21:167",
		Inputs: []Input{
			{ID: "cadence", Name: "Steps a minute", Lo: 100, Hi: 300, Usual: 168, Doubt: 3, Step: 1, Fact: "cadence"},
			{ID: "minutes", Name: "Minutes a week", Unit: "min", Lo: 1, Hi: 1500, Usual: 180, Step: 5},
			{ID: "change", Name: "Cadence goes up by", Unit: "%", Lo: -20, Hi: 20, Usual: 5, Step: 1},
			{ID: "contact", Name: "Contact time", Unit: "ms", Lo: 60, Hi: 450, Usual: 240, Doubt: 10, Step: 1, Fact: "contact", Optional: true},
			{ID: "mass", Name: "Body mass", Unit: "kg", Lo: 20, Hi: 200, Usual: 65, Doubt: 1, Step: 1, Fact: "body-mass", Optional: true},
			{ID: "uneven", Name: "Contact, left over right", Unit: "%", Lo: -40, Hi: 40, Usual: 0, Doubt: 3, Step: 1, Fact: "uneven", Optional: true},
		},
		answer: load,
	},
	{
		ID: "splits", Group: Run, Name: "Splits of 10, 20 and 30 m", Events: []string{"sprint-start"},
		Says:   "Whether it is the start or the speed that lacks, from three split times.",
		Source: "v = vmax (1 − e^(−t/τ)): Furusawa, Hill and Parkinson 1927, Proc. R. Soc. B 102:29; fit as in Samozino et al. 2016, Scand. J. Med. Sci. Sports 26:648",
		Inputs: []Input{
			{ID: "t10", Name: "Time at 10 m", Unit: "s", Lo: 1.3, Hi: 4, Usual: 2.05, Doubt: 0.03, Step: 0.01, Fact: "split-10"},
			{ID: "t20", Name: "Time at 20 m", Unit: "s", Lo: 2.4, Hi: 7, Usual: 3.3, Doubt: 0.03, Step: 0.01, Fact: "split-20"},
			{ID: "t30", Name: "Time at 30 m", Unit: "s", Lo: 3.3, Hi: 10, Usual: 4.4, Doubt: 0.03, Step: 0.01, Fact: "split-30"},
			{ID: "before", Name: "Of it before the first movement", Unit: "s", Lo: 0, Hi: 0.6, Usual: 0, Doubt: 0.02, Step: 0.01},
			{ID: "first", Name: "Speed after the third step, in the clip", Unit: "m/s", Lo: 1, Hi: 9, Usual: 5.5, Doubt: 0.2, Step: 0.1, Fact: "start-speed", Optional: true},
			{ID: "until", Name: "First movement to that toe-off, in the clip", Unit: "s", Lo: 0.5, Hi: 2, Usual: 1, Doubt: 0.01, Step: 0.01, Fact: "start-time", Optional: true},
		},
		answer: splits,
	},
}

func pedals(g given) (Answer, error) {
	// The knee is known better than the lengths are, since all of them share one scale: the hip's
	// height over the ankle follows from the knee, and so their common error stays out of it.
	reach := func(knee, thigh, shank float64) float64 {
		return math.Sqrt(thigh*thigh + shank*shank - 2*thigh*shank*math.Cos(angles.Rad(knee)))
	}
	above := func(knee, thigh, shank, ahead float64) float64 {
		d := reach(knee, thigh, shank)
		return math.Sqrt(d*d - ahead*ahead)
	}
	a := Answer{Surer: "Film the set with the new pedals: what moves is rarely the knee alone.",
		Says: []string{"Geometry alone, the hips held where they are: an inch of pedal is often worth only a degree or two. When the set looks very different after a small move, the hips have moved too."}}
	raise := g.at("raise") / 100
	legs := []struct{ name, knee, ahead, move, want, line, factKnee, factAhead string }{
		{"Front", "front", "ahead", "moveFront", "wantFront", "front", "front-knee", "front-ahead"},
		{"Rear", "rear", "behind", "moveRear", "wantRear", "rear", "rear-knee", "rear-ahead"},
	}
	for _, l := range legs {
		if math.IsNaN(above(g.at(l.knee), g.at("thigh"), g.at("shank"), g.at(l.ahead))) {
			return Answer{}, fmt.Errorf("%s leg: a knee of %.0f° does not reach a foot %.2f m behind the hip; check knee, leg and foot", l.name, g.at(l.knee), g.at(l.ahead))
		}
		move := g.at(l.move) / 100
		after := func(v []float64) float64 {
			return blocks.Knee(v[1], v[2], v[3], above(v[0], v[1], v[2], v[3])+raise, move)
		}
		if math.IsNaN(after([]float64{g.at(l.knee), g.at("thigh"), g.at("shank"), g.at(l.ahead)})) {
			return Answer{}, fmt.Errorf("%s leg: it is too short for that; move the pedal or the hips less", l.name)
		}
		then := g.follow(stretched(after), l.knee, "thigh", "shank", l.ahead)
		change := g.follow(stretched(func(v []float64) float64 { return after(v) - v[0] }), l.knee, "thigh", "shank", l.ahead)
		a.Lines = append(a.Lines,
			Line{ID: l.line, Name: l.name + " knee then", Unit: "°", Value: then, Fact: l.factKnee, Main: true},
			Line{ID: l.line + "-change", Name: l.name + " knee, change", Unit: "°", Digits: 1, Value: change})
		under := g.of(l.ahead)
		under.Value -= move
		a.Lines = append(a.Lines, Line{ID: l.line + "-under", Name: "Hip ahead of the " + l.line + " ankle then", Unit: "m", Digits: 3, Value: under, Fact: l.factAhead})
		if shift, err := blocks.Shift(g.at("thigh"), g.at("shank"), g.at(l.ahead), above(g.at(l.knee), g.at("thigh"), g.at("shank"), g.at(l.ahead))+raise, g.at(l.want)); err != nil {
			a.Says = append(a.Says, fmt.Sprintf("%s pedal: %s", l.name, sentence(err)))
		} else {
			a.Lines = append(a.Lines, Line{ID: l.line + "-for", Name: fmt.Sprintf("%s pedal towards the line for %.0f°", l.name, g.at(l.want)), Unit: "m", Digits: 3, Value: g.follow(func(v []float64) float64 {
				s, err := blocks.Shift(v[1], v[2], v[3], above(v[0], v[1], v[2], v[3])+raise, g.at(l.want))
				if err != nil {
					return shift
				}
				return s
			}, l.knee, "thigh", "shank", l.ahead)})
		}
	}
	spacing := uncertainty.Minus(g.of("behind"), g.of("ahead"))
	spacing.Value += (g.at("moveFront") - g.at("moveRear")) / 100
	a.Lines = append(a.Lines, Line{ID: "spacing", Name: "Ankle from ankle along the ground then", Unit: "m", Digits: 3, Value: spacing, Fact: "spacing"})
	if spacing.Value < 0 {
		return Answer{}, errors.New("the rear pedal would stand before the front one")
	}
	d := &Drawing{View: "side"}
	drawLegs(d, g, above, 0, 0, 0, "faint")
	drawLegs(d, g, above, g.at("moveFront")/100, g.at("moveRear")/100, raise, "limb")
	a.Drawing = d
	return a, nil
}

// stretched is a function of a leg that, where the leg is all but straight and its doubt reaches
// past that, stands still.
func stretched(f func([]float64) float64) func([]float64) float64 {
	var last float64
	return func(v []float64) float64 {
		if y := f(v); !math.IsNaN(y) {
			last = y
		}
		return last
	}
}

// drawLegs draws both legs in the set from the side, the line to the right, the hip at 0.
func drawLegs(d *Drawing, g given, above func(knee, thigh, shank, ahead float64) float64, front, rear, raise float64, role string) {
	thigh, shank := g.at("thigh"), g.at("shank")
	base := above(g.at("front"), thigh, shank, g.at("ahead"))
	hip := [2]float64{0, base + raise}
	ground := 0.0
	for _, l := range []struct{ knee, ahead, move float64 }{{g.at("front"), g.at("ahead"), front}, {g.at("rear"), g.at("behind"), rear}} {
		ankle := [2]float64{-l.ahead + l.move, base - above(l.knee, thigh, shank, l.ahead)}
		dx, dy := ankle[0]-hip[0], ankle[1]-hip[1]
		far := math.Hypot(dx, dy)
		along := (thigh*thigh - shank*shank + far*far) / (2 * far)
		off := math.Sqrt(math.Max(0, thigh*thigh-along*along))
		// The knee bends to the front.
		knee := [2]float64{hip[0] + along*dx/far - off*dy/far, hip[1] + along*dy/far + off*dx/far}
		d.line(role, hip, knee, ankle)
		if role == "limb" {
			d.line("fixture", [2]float64{ankle[0] - 0.12, ankle[1] - 0.12}, [2]float64{ankle[0] + 0.02, ankle[1] + 0.08})
		}
		ground = math.Min(ground, ankle[1]-0.1)
	}
	d.line("ground", [2]float64{-1, ground}, [2]float64{0.6, ground})
}

func load(g given) (Answer, error) {
	minutes, change := g.at("minutes"), 1+g.at("change")/100
	landings := func(v []float64) float64 { n, _ := performance.Landings(v[0], minutes); return n / 2 }
	now := g.follow(landings, "cadence")
	then := now.Scale(change)
	a := Answer{
		Lines: []Line{
			{ID: "now", Name: "Landings of each leg a week", Value: now, Main: true},
			{ID: "then", Name: "with the other cadence", Value: then, Main: true},
		},
		Says:    []string{fmt.Sprintf("%+.0f %% of cadence at the same speed is %+.0f landings a leg and week, each with a step %.0f %% shorter.", g.at("change"), then.Value-now.Value, 100-100/change)},
		Surer:   "A clip of ten steps or more at the speed of the long runs.",
		Caution: "Load goes up by steps, one thing at a time. Pain that stays is for a physician or physiotherapist.",
	}
	if change < 1 {
		a.Says[0] = fmt.Sprintf("%+.0f %% of cadence at the same speed is %+.0f landings a leg and week, each with a step %.0f %% longer.", g.at("change"), then.Value-now.Value, 100/change-100)
	}
	if g.has("contact") {
		force := func(k float64) func(v []float64) float64 {
			return func(v []float64) float64 {
				step := 60 / (v[0] * k)
				tc := v[1] / 1000
				return springmass.Times{Contact: tc, Flight: math.Max(0, step-tc)}.PeakForce()
			}
		}
		if 60/g.at("cadence") < g.at("contact")/1000 {
			return Answer{}, fmt.Errorf("at %.0f steps a minute a contact of %.0f ms leaves no flight: check both", g.at("cadence"), g.at("contact"))
		}
		peak := g.follow(force(1), "cadence", "contact")
		later := g.follow(force(change), "cadence", "contact")
		a.Lines = append(a.Lines,
			Line{ID: "peak", Name: "Greatest push on the ground, body weights", Digits: 2, Value: peak, Fact: "peak-force"},
			Line{ID: "peak-then", Name: "with the other cadence and the same contact", Digits: 2, Value: later})
		if g.has("mass") {
			a.Lines = append(a.Lines, Line{ID: "peak-n", Name: "Greatest push on the ground", Unit: "N", Value: uncertainty.Propagate(func(v []float64) float64 { return v[0] * v[1] * kgf }, []float64{peak.Value, g.at("mass")}, []float64{peak.SD, g.of("mass").SD})})
		}
		a.Says = append(a.Says, fmt.Sprintf("Each landing then pushes %s; how much of that a tendon or a bone feels this does not tell.", shift100(later.Value/peak.Value-1)))
	}
	if g.has("uneven") {
		switch lo, hi := g.of("uneven").Interval(); {
		case lo > 0:
			a.Says = append(a.Says, "The left foot stays longer than the right one: look at both sides before minutes go up.")
		case hi < 0:
			a.Says = append(a.Says, "The right foot stays longer than the left one: look at both sides before minutes go up.")
		default:
			a.Says = append(a.Says, "Left and right differ by no more than their doubt.")
		}
	}
	return a, nil
}

// shift100 writes a share as more or less.
func shift100(by float64) string {
	if by < 0 {
		return fmt.Sprintf("%.0f %% less", -100*by)
	}
	return fmt.Sprintf("%.0f %% more", 100*by)
}

// sprint is how somebody runs up to speed: the greatest speed and the time constant.
type sprint struct{ top, tau float64 }

// at is how far one has come, m.
func (s sprint) at(t float64) float64 { return s.top * (t - s.tau*(1-math.Exp(-t/s.tau))) }

// speed at a time, m/s.
func (s sprint) speed(t float64) float64 { return s.top * (1 - math.Exp(-t/s.tau)) }

// speedAt is that at a place, m.
func (s sprint) speedAt(x float64) float64 {
	lo, hi := 0.0, 60.0
	for range 60 {
		if mid := (lo + hi) / 2; s.at(mid) < x {
			lo = mid
		} else {
			hi = mid
		}
	}
	return s.speed(lo)
}

var splitMarks = []float64{10, 20, 30}

// fitSprint is the run that comes nearest to three times, s from the first movement, by least
// squares of the places: for a time constant the best greatest speed is a quotient, and the
// constant is found by golden section.
func fitSprint(times []float64) sprint {
	best := func(tau float64) (s sprint, off float64) {
		var xy, xx float64
		for i, t := range times {
			unit := sprint{1, tau}.at(t)
			xy, xx = xy+unit*splitMarks[i], xx+unit*unit
		}
		s = sprint{xy / xx, tau}
		for i, t := range times {
			d := s.at(t) - splitMarks[i]
			off += d * d
		}
		return s, off
	}
	const golden = 0.6180339887498949
	lo, hi := 0.05, 10.0
	for range 80 {
		a, b := hi-golden*(hi-lo), lo+golden*(hi-lo)
		_, offA := best(a)
		if _, offB := best(b); offA < offB {
			hi = b
		} else {
			lo = a
		}
	}
	s, _ := best((lo + hi) / 2)
	return s
}

// Of a sprint: speeds and time constants that anybody has, and from which time constant on the
// start lags behind the speed. Common practice, no source.
const (
	slowestTop, fastestTop = 3.0, 14.0
	leastTau, mostTau      = 0.4, 3.0
	lateTau, earlyTau      = 1.4, 1.0
)

func splits(g given) (Answer, error) {
	times := []float64{g.at("t10") - g.at("before"), g.at("t20") - g.at("before"), g.at("t30") - g.at("before")}
	t1, t2, t3 := times[0], times[1]-times[0], times[2]-times[1]
	if !(t1 > t2 && t2 > t3 && t3 > 0.5) {
		return Answer{}, fmt.Errorf("ten metres in %.2f s, then %.2f s, then %.2f s: nobody gets slower from 10 to 30 m; check the three times, and that they are counted from the start", t1, t2, t3)
	}
	fit := fitSprint(times)
	if !(fit.top > slowestTop && fit.top < fastestTop && fit.tau > leastTau && fit.tau < mostTau) {
		return Answer{}, errors.New("no run has these three times: check them, and what of them lies before the first movement")
	}
	of := func(f func(sprint) float64) uncertainty.Estimate {
		return g.follow(func(v []float64) float64 {
			return f(fitSprint([]float64{v[0] - v[3], v[1] - v[3], v[2] - v[3]}))
		}, "t10", "t20", "t30", "before")
	}
	tau := of(func(s sprint) float64 { return s.tau })
	a := Answer{Lines: []Line{
		{ID: "top", Name: "Greatest speed that it leads to", Unit: "m/s", Digits: 1, Value: of(func(s sprint) float64 { return s.top }), Main: true},
		{ID: "tau", Name: "Time constant of the start", Unit: "s", Digits: 2, Value: tau, Main: true},
		{ID: "first", Name: "First acceleration", Unit: "m/s²", Digits: 1, Value: of(func(s sprint) float64 { return s.top / s.tau })},
		{ID: "v10", Name: "Speed at 10 m", Unit: "m/s", Digits: 1, Value: of(func(s sprint) float64 { return s.speedAt(10) })},
		{ID: "v30", Name: "Speed at 30 m", Unit: "m/s", Digits: 1, Value: of(func(s sprint) float64 { return s.speedAt(30) })},
		{ID: "m1", Name: "Mean of 0 to 10 m", Unit: "m/s", Digits: 1, Value: sure(10 / t1)}, {ID: "m2", Name: "10 to 20 m", Unit: "m/s", Digits: 1, Value: sure(10 / t2)}, {ID: "m3", Name: "20 to 30 m", Unit: "m/s", Digits: 1, Value: sure(10 / t3)},
	}, Surer: "The mean of three runs, timed from the first movement; a clip of the start for its first steps."}
	switch lo, hi := tau.Interval(); {
	case lo > lateTau:
		a.Says = []string{"The speed comes late: set, push and first steps have more to give than the top speed."}
	case hi < earlyTau:
		a.Says = []string{"The start is quick for this speed: what lacks comes after 20 m."}
	default:
		a.Says = []string{"Start and speed go together, as far as these times tell."}
	}
	if g.has("first") && g.has("until") {
		want := of(func(s sprint) float64 { return s.speed(g.at("until")) })
		d := uncertainty.Minus(g.of("first"), want)
		a.Lines = append(a.Lines, Line{ID: "third", Name: "Speed after the third step by these splits", Unit: "m/s", Digits: 1, Value: want, Fact: "start-speed"})
		switch lo, hi := d.Interval(); {
		case lo > 0:
			a.Says = append(a.Says, "In the clip the first three steps were faster than the splits say: what was won in them is lost up to 10 m. Look at how the body rises.")
		case hi < 0:
			a.Says = append(a.Says, "In the clip the first three steps were slower than the splits say: it was a weaker start than that of the splits, or the clock began late.")
		default:
			a.Says = append(a.Says, "The clip’s first three steps agree with the splits.")
		}
	}
	d := &Drawing{View: "side"}
	d.line("ground", [2]float64{0, 0}, [2]float64{30, 0})
	var way [][2]float64
	for i := range 61 {
		x := 30 * float64(i*i) / 3600 // more points where it bends
		way = append(way, [2]float64{x, fit.speedAt(x)})
	}
	d.line("path", way...)
	for i, m := range []float64{10 / t1, 10 / t2, 10 / t3} {
		d.line("faint", [2]float64{10 * float64(i), m}, [2]float64{10 * float64(i+1), m})
		d.text("note", fmt.Sprintf("%.1f m/s", m), [2]float64{10*float64(i) + 5, m})
	}
	a.Drawing = d
	return a, nil
}

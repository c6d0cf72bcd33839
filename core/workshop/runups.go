package workshop

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"neokinema/core/body"
	"neokinema/core/flight"
	"neokinema/core/jump"
	"neokinema/core/runup"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
)

// Usual values and doubts of inputs are common practice, no source, unless it is said.

var takeoffLeg = Input{ID: "leg", Name: "Take-off leg", Lo: leftLeg, Hi: rightLeg, Usual: leftLeg, Fact: "leg", Options: []Option{{leftLeg, "left"}, {rightLeg, "right"}}}

var runUps = []Question{
	{
		ID: "high-plan", Group: RunUp, Name: "High jump run-up", Events: []string{"high-jump"}, Field: true,
		Says:   "Where every foot comes down, what is laid out by tape, and whether speed, curve and lean go together.",
		Source: "tan lean = v²/(g r), the balance of a runner in a curve; the layout is geometry",
		Inputs: []Input{
			takeoffLeg,
			{ID: "straight", Name: "Straight steps", Lo: 1, Hi: 20, Usual: 5, Step: 1, Whole: true, Fact: "straight-steps"},
			{ID: "curved", Name: "Steps of the curve", Lo: 1, Hi: 10, Usual: CurveSteps, Step: 1, Whole: true},
			{ID: "step", Name: "Length of a step", Unit: "m", Lo: 0.5, Hi: 3, Usual: 1.85, Doubt: 0.1, Step: 0.05, Fact: "curve-step"},
			{ID: "radius", Name: "Radius of the curve", Unit: "m", Lo: 3, Hi: 30, Usual: 9, Doubt: 0.5, Step: 0.25, Fact: "curve-radius"},
			{ID: "speed", Name: "Speed into the plant", Unit: "m/s", Lo: 2, Hi: 10, Usual: 6.5, Doubt: 0.4, Step: 0.1, Fact: "curve-speed"},
			{ID: "lean", Name: "Lean that is seen", Unit: "°", Lo: 0, Hi: 60, Usual: 22, Doubt: 4, Step: 1, Fact: "curve-lean", Optional: true},
			{ID: "along", Name: "Plant, along the bar from the near upright", Unit: "m", Lo: -2, Hi: 4, Usual: 0.9, Doubt: 0.1, Step: 0.05, Fact: "plant-along"},
			{ID: "out", Name: "Plant, out from the bar", Unit: "m", Lo: 0.2, Hi: 3, Usual: 0.9, Doubt: 0.1, Step: 0.05, Fact: "plant-out"},
			{ID: "tobar", Name: "Way at the plant against the bar", Unit: "°", Lo: 10, Hi: 80, Usual: 35, Doubt: 4, Step: 1, Fact: "plant-way"},
			{ID: "outward", Name: "Second-last step, set outward", Unit: "m", Lo: 0, Hi: 1, Usual: 0.1, Doubt: 0.05, Step: 0.05, More: true},
			{ID: "base", Name: "Left feet from right feet, across", Unit: "m", Lo: 0, Hi: 0.5, Usual: 0.1, Doubt: 0.05, Step: 0.02, More: true},
			{ID: "faster", Name: "If the run gets faster by", Unit: "m/s", Lo: -2, Hi: 2, Usual: 0.3, Step: 0.1, More: true},
			{ID: "higher", Name: "If the bar goes up by", Unit: "m", Lo: -0.5, Hi: 0.5, Usual: 0.1, Step: 0.01, More: true},
			{ID: "upward", Name: "Speed upward at the toe-off", Unit: "m/s", Lo: 1, Hi: 6, Usual: 3.8, Doubt: 0.2, Step: 0.05, Fact: "jump-upward", More: true},
			{ID: "leaving", Name: "Speed along the ground at the toe-off", Unit: "m/s", Lo: 1, Hi: 8, Usual: 4, Doubt: 0.4, Step: 0.1, Fact: "jump-level", More: true},
		},
		answer: highPlan,
	},
	{
		ID: "curve-lean", Group: RunUp, Name: "Lean in the curve", Events: []string{"high-jump"},
		Says:   "What lean a curve wants at a speed, and which curve and speed your lean holds.",
		Source: "tan lean = v²/(g r), the balance of a runner in a curve",
		Inputs: []Input{
			{ID: "speed", Name: "Speed in the curve", Unit: "m/s", Lo: 2, Hi: 10, Usual: 6.5, Doubt: 0.4, Step: 0.1, Fact: "curve-speed"},
			{ID: "radius", Name: "Radius of the curve", Unit: "m", Lo: 3, Hi: 30, Usual: 9, Doubt: 0.5, Step: 0.25, Fact: "curve-radius"},
			{ID: "lean", Name: "Lean that is seen", Unit: "°", Lo: 0, Hi: 60, Usual: 22, Doubt: 4, Step: 1, Fact: "curve-lean"},
		},
		answer: curveLean,
	},
	{
		ID: "start", Group: RunUp, Name: "Start of the run-up", Events: []string{"long-jump", "pole-vault"}, Field: true,
		Says:   "Whether to move the start and by how much, or whether it is scatter that no start mends.",
		Source: "normal distribution; interval of the scatter after Wilson and Hilferty 1931",
		Inputs: []Input{
			{ID: "plants", Name: "Plants past the edge or the wanted place (minus: before it)", Unit: "m", Lo: -3, Hi: 3, Step: 0.01, Fact: "plants", List: true},
			{ID: "mids", Name: "Mid mark, met past its place, in the same order", Unit: "m", Lo: -3, Hi: 3, Step: 0.01, List: true},
			{ID: "winds", Name: "Wind of each run-up", Unit: "m/s", Lo: -10, Hi: 10, Step: 0.1, Fact: "winds", List: true},
			{ID: "fouls", Name: "Fouls that you accept", Unit: "%", Lo: 1, Hi: 49, Usual: 10, Step: 1},
			{ID: "start", Name: "Start mark now, from the edge", Unit: "m", Lo: 3, Hi: 60, Usual: 30, Step: 0.05, Optional: true},
			{ID: "midat", Name: "Mid mark now, from the edge", Unit: "m", Lo: 3, Hi: 40, Usual: 12, Step: 0.05, Optional: true},
			{ID: "wind", Name: "Wind today", Unit: "m/s", Lo: -10, Hi: 10, Usual: 0, Doubt: 0.5, Step: 0.1, Optional: true},
		},
		answer: startMark,
	},
	{
		ID: "javelin-plan", Group: RunUp, Name: "Javelin run-up", Events: []string{"javelin"}, Field: true,
		Says:   "Marks for start, withdrawal and last step, how much speed the cross steps keep, and what less loss is worth.",
		Source: "lengths added up; the flight by the project’s model of a javelin",
		Inputs: []Input{
			{ID: "approach", Name: "Steps before the withdrawal", Lo: 0, Hi: 20, Usual: 10, Step: 1, Whole: true},
			{ID: "stride", Name: "Length of each of them", Unit: "m", Lo: 0.5, Hi: 3, Usual: 1.9, Doubt: 0.1, Step: 0.05},
			{ID: "lengths", Name: "Lengths from the withdrawal to the block, in order", Unit: "m", Lo: 0.3, Hi: 4, Step: 0.05, Fact: "cross-lengths", List: true},
			{ID: "speeds", Name: "Speeds of these steps", Unit: "m/s", Lo: 0.5, Hi: 10, Step: 0.1, Fact: "cross-speeds", List: true},
			{ID: "room", Name: "Block foot from the arc", Unit: "m", Lo: 0.3, Hi: 6, Usual: 1.8, Doubt: 0.1, Step: 0.05, Fact: "block-room"},
			{ID: "release", Name: "Speed at the release", Unit: "m/s", Lo: 8, Hi: 40, Usual: 22, Doubt: 1, Step: 0.5, Fact: "release-speed"},
			{ID: "angle", Name: "Angle of the release", Unit: "°", Lo: 10, Hi: 60, Usual: 34, Doubt: 2, Step: 1, Fact: "release-angle", More: true},
			{ID: "less", Name: "Speed lost less, share of the run", Unit: "%", Lo: 0, Hi: 50, Usual: 5, Step: 1, More: true},
		},
		answer: javelinPlan,
	},
}

// CurveSteps are those of the curve of a high jump that is not typed otherwise. Common practice,
// no source.
const CurveSteps = 5

func curveOf(g given) runup.Curve {
	return runup.Curve{Leg: leg(g.at("leg")), Straight: g.whole("straight"), Curved: g.whole("curved"), Step: g.at("step"), Radius: g.at("radius"),
		Along: g.at("along"), Out: g.at("out"), ToBar: g.at("tobar") * math.Pi / 180, Outward: g.at("outward"), Base: g.at("base")}
}

// placesOf are the marks of a curved run-up in order.
func placesOf(c runup.Curve) ([]Place, error) {
	marks, err := c.Marks()
	if err != nil {
		return nil, err
	}
	var out []Place
	for i, m := range marks {
		p := Place{Name: fmt.Sprintf("step %d", i), Foot: string(m.Foot), N: m.N, X: m.Along, Y: m.Out, Near: m.Tape, Far: math.Hypot(m.Along-sport.Uprights, m.Out)}
		switch m.N {
		case 0:
			p.Name, p.Mark = "plant", true
		case 1:
			p.Name = "second-last step"
		case c.Curved:
			p.Name, p.Mark = "curve begins", true
		}
		if i == 0 {
			p.Name, p.Mark = "start", true
		}
		side := "along the bar, towards the far upright"
		if p.X < 0 {
			side = "outside of the near upright"
		}
		p.Says = fmt.Sprintf("%.2f m out from the bar, %.2f m %s; tapes: %.2f m from the near upright, %.2f m from the far one", p.Y, math.Abs(p.X), side, p.Near, p.Far)
		out = append(out, p)
	}
	return out, nil
}

func highPlan(g given) (Answer, error) {
	c := curveOf(g)
	places, err := placesOf(c)
	if err != nil {
		return Answer{}, err
	}
	a := leanAnswer(g)
	a.Places = places
	a.Surer = "A clip from behind or in front of the curve with uprights and bar marked: it gives feet, radius, speed and lean of the same run."
	start := places[0]
	begins := places[len(places)-1-c.Curved]
	doubt := func(of func([]Place) float64) uncertainty.Estimate {
		return g.follow(func(v []float64) float64 {
			c := c
			c.Step, c.Radius, c.Along, c.Out, c.ToBar = v[0], v[1], v[2], v[3], v[4]*math.Pi/180
			list, err := placesOf(c)
			if err != nil {
				return of(places) // at the edge of what can be laid out
			}
			return of(list)
		}, "step", "radius", "along", "out", "tobar")
	}
	a.Lines = append(a.Lines,
		Line{ID: "start-out", Name: "Start, out from the bar", Unit: "m", Digits: 2, Value: doubt(func(l []Place) float64 { return l[0].Y }), Main: true},
		Line{ID: "start-along", Name: "Start, along from the near upright (minus: outside)", Unit: "m", Digits: 2, Value: doubt(func(l []Place) float64 { return l[0].X }), Main: true},
		Line{ID: "curve-out", Name: "Curve begins, out from the bar", Unit: "m", Digits: 2, Value: doubt(func(l []Place) float64 { return l[len(l)-1-c.Curved].Y })},
		Line{ID: "curve-along", Name: "Curve begins, along from the near upright (minus: outside)", Unit: "m", Digits: 2, Value: doubt(func(l []Place) float64 { return l[len(l)-1-c.Curved].X })},
		Line{ID: "plant-out", Name: "Plant, out from the bar", Unit: "m", Digits: 2, Value: g.of("out"), Fact: "plant-out"},
		Line{ID: "radius", Name: "Radius of the curve", Unit: "m", Digits: 1, Value: g.of("radius"), Fact: "curve-radius"},
	)
	a.moves(g, c, begins)
	a.Drawing = drawCurve(c, places, g.path)
	a.against(c, places, g.path)
	if start.Y < 0 || begins.Y < 0 {
		a.Says = append([]string{"This curve begins behind the bar: run it wider, with fewer steps, or plant at a larger angle."}, a.Says...)
	}
	return a, nil
}

// moves says what more speed and a higher bar move.
func (a *Answer) moves(g given, c runup.Curve, begins Place) {
	if by := g.at("faster"); by != 0 {
		was := g.at("speed")
		wider := c
		wider.Radius = c.Radius * math.Pow((was+by)/was, 2)
		if list, err := placesOf(wider); err == nil && was+by > 0 {
			then := list[len(list)-1-c.Curved]
			a.Lines = append(a.Lines, Line{ID: "faster", Name: fmt.Sprintf("Radius for the same lean at %+.1f m/s", by), Unit: "m", Digits: 1, Value: g.follow(func(v []float64) float64 { return v[1] * math.Pow((v[0]+by)/v[0], 2) }, "speed", "radius")})
			a.Says = append(a.Says, fmt.Sprintf("With %+.1f m/s and the same lean the curve has %.1f m; its mark moves %s and %s.", by, wider.Radius, shift(then.Y-begins.Y, "out from the bar", "towards the bar"), shift(then.X-begins.X, "towards the far upright", "away from the far upright")))
		} else {
			a.Says = append(a.Says, fmt.Sprintf("At %+.1f m/s the same lean wants a curve that nobody lays out; more lean, or fewer steps in it.", by))
		}
	}
	if by := g.at("higher"); by != 0 {
		// The same way of jumping carried higher: the rise takes longer, and the highest place lies
		// farther on. Out from the bar it is the share of the way that crosses it.
		further := g.follow(func(v []float64) float64 {
			rise := v[0]*v[0]/(2*flight.Gravity) + by
			if rise <= 0 {
				return 0
			}
			return v[1] * math.Sin(v[2]*math.Pi/180) * (math.Sqrt(2*rise/flight.Gravity) - v[0]/flight.Gravity)
		}, "upward", "leaving", "tobar")
		a.Lines = append(a.Lines, Line{ID: "higher", Name: fmt.Sprintf("Plant goes out for a bar %+.0f cm", 100*by), Unit: "m", Digits: 2, Value: further})
	}
}

// shift writes by how much something moves.
func shift(by float64, plus, minus string) string {
	if by < 0 {
		plus, by = minus, -by
	}
	return fmt.Sprintf("%.2f m %s", by, plus)
}

// against says how far the feet of a clip stood from the plan.
func (a *Answer) against(c runup.Curve, plan, path []Place) {
	if len(path) == 0 {
		return
	}
	worst := 0.0
	for _, p := range path {
		i := slices.IndexFunc(plan, func(q Place) bool { return q.N == p.N })
		if i < 0 {
			continue
		}
		off := math.Hypot(p.X-plan[i].X, p.Y-plan[i].Y)
		worst = math.Max(worst, off)
		if p.N == 0 {
			a.Lines = append(a.Lines, Line{ID: "plant-off", Name: "Plant in the clip, from the plan’s", Unit: "m", Digits: 2, Value: uncertainty.Normal(off, footKnown)})
			if off < 2*footKnown {
				a.Says = append(a.Says, "In the clip the plant stood where the plan has it.")
				continue
			}
			a.Says = append(a.Says, fmt.Sprintf("In the clip the plant stood %s and %s against the plan.", shift(p.Y-plan[i].Y, "farther out", "nearer to the bar"), shift(p.X-plan[i].X, "farther along the bar", "short along the bar")))
		}
	}
	a.Lines = append(a.Lines, Line{ID: "worst-off", Name: "The foot farthest from the plan", Unit: "m", Digits: 2, Value: uncertainty.Normal(worst, footKnown)})
}

// footKnown is how exactly a foot of a clip is placed here at best, m (standard deviation).
// Assumed.
const footKnown = 0.05

// drawCurve draws a run-up to the bar as it is seen from behind it, the bar above.
func drawCurve(c runup.Curve, plan, path []Place) *Drawing {
	// Somebody who looks at the bar has the near upright on the side from which he comes.
	side := -1.0
	if c.Leg == body.Right {
		side = 1
	}
	at := func(x, y float64) [2]float64 { return [2]float64{side * x, -y} }
	d := &Drawing{View: "above"}
	const mat, deep = 3.0, 2.0 // half of a mat's width and its depth here, m
	mid := sport.Uprights / 2
	d.area("ground", at(mid-mat, -0.1), at(mid+mat, -0.1), at(mid+mat, -deep), at(mid-mat, -deep))
	d.text("note", "mat", at(mid, -1.2))
	d.line("fixture", at(0, 0), at(sport.Uprights, 0))
	for _, x := range []float64{0, sport.Uprights} {
		d.line("fixture", at(x, -0.12), at(x, 0.12))
	}
	var way [][2]float64
	line := c
	line.Base, line.Outward = 0, 0
	if marks, err := line.Marks(); err == nil {
		for _, m := range marks[:c.Straight+1] {
			way = append(way, at(m.Along, m.Out))
		}
		// The arc between its feet, every tenth of a step.
		mx, my := c.Along+c.Radius*math.Sin(c.ToBar), c.Out+c.Radius*math.Cos(c.ToBar)
		for i := c.Curved*10 - 1; i >= 0; i-- {
			turn := c.ToBar + float64(i)/10*c.Step/c.Radius
			way = append(way, at(mx-c.Radius*math.Sin(turn), my-c.Radius*math.Cos(turn)))
		}
	}
	d.line("way", way...)
	for i, p := range plan {
		if p.Mark && p.N > 0 {
			d.line("faint", at(0, 0), at(p.X, p.Y))
		}
		d.dot("foot", p.Foot, i, at(p.X, p.Y))
		if p.Mark {
			d.text("mark", p.Name, at(p.X, p.Y))
		}
	}
	for _, p := range path {
		d.dot("measured", p.Foot, -1, at(p.X, p.Y))
	}
	return d
}

// leanAnswer is what speed and radius want, against what is seen.
func leanAnswer(g given) Answer {
	want := degrees(jump.Lean(g.of("speed"), g.of("radius")))
	a := Answer{Lines: []Line{{ID: "wanted", Name: "Lean that this curve wants", Unit: "°", Value: want, Fact: "curve-lean", Main: true}}}
	if !g.has("lean") {
		return a
	}
	lean := g.of("lean")
	if lean.Value < leastLean {
		a.Says = []string{"Nobody holds a curve upright: the steps run straight, or it was filmed from where the lean does not show."}
		return a
	}
	holds := jump.Radius(g.of("speed"), g.angle("lean"))
	slower := g.follow(func(v []float64) float64 { return math.Sqrt(flight.Gravity * v[0] * math.Tan(v[1]*math.Pi/180)) }, "radius", "lean")
	a.Lines = append(a.Lines, Line{ID: "holds", Name: "Radius that the lean holds", Unit: "m", Digits: 1, Value: holds}, Line{ID: "slower", Name: "Speed that the lean holds", Unit: "m/s", Digits: 1, Value: slower})
	switch d := uncertainty.Minus(want, lean); {
	case math.Abs(d.Value) <= d.Half95:
		a.Says = []string{"Lean and curve go together, as far as these numbers can tell."}
	case d.Value > 0:
		a.Says = []string{fmt.Sprintf("This radius wants %.0f° at this speed, and %.0f° is seen: wider (%.1f m), slower (%.1f m/s), or more lean from the ankles.", want.Value, lean.Value, holds.Value, slower.Value)}
	default:
		a.Says = []string{fmt.Sprintf("%.0f° is seen where %.0f° would do: the curve may be tighter (%.1f m), or the run faster (%.1f m/s).", lean.Value, want.Value, holds.Value, slower.Value)}
	}
	return a
}

// leastLean is what no eye tells from upright, degrees. Assumed.
const leastLean = 2

func curveLean(g given) (Answer, error) {
	a := leanAnswer(g)
	a.Surer = "A clip from behind the curve with the uprights marked gives speed, radius and lean of the same steps."
	return a, nil
}

func startMark(g given) (Answer, error) {
	list := g.list("plants")
	plants, err := runup.Spread(list)
	if err != nil {
		return Answer{}, fmt.Errorf("%w: there are %d", err, len(list))
	}
	share := g.at("fouls") / 100
	back := runup.Shift(plants, share)
	now := runup.Fouls(max(plants.SD, 1e-6), -plants.Mean.Value)
	half := (plants.SDTop - plants.SDLow) / 2
	a := Answer{Lines: []Line{
		{ID: "shift", Name: "Move the start back by", Unit: "m", Digits: 2, Value: back, Main: true},
		{ID: "mean", Name: "Mean past the edge", Unit: "m", Digits: 2, Value: plants.Mean},
		{ID: "scatter", Name: "Scatter of one run-up", Unit: "m", Digits: 2, Value: uncertainty.Estimate{Value: plants.SD, SD: half / uncertainty.Z95, Half95: half}},
		{ID: "aim", Name: "Aim behind the edge for that share of fouls", Unit: "m", Digits: 3, Value: sure(runup.Behind(plants.SD, share))},
		{ID: "fouls", Name: "Fouls as it stands", Unit: "%", Value: sure(100 * now)},
	}, Surer: "More run-ups of the same day, length and wind: ten halve what five leave open."}
	lo, hi := back.Interval()
	move := back.Value
	switch {
	case lo <= 0 && hi >= 0:
		move = 0
		a.Says = append(a.Says, "Do not move the start: what is seen is scatter. Train the rhythm instead.")
	default:
		a.Says = append(a.Says, fmt.Sprintf("Move the start %s for %.0f fouls in a hundred.", shift(back.Value, "back", "forward"), 100*share))
	}
	if plants.SD > wideScatter {
		a.Says = append(a.Says, fmt.Sprintf("A scatter of %.0f cm costs more than any start mark gives: first the rhythm.", 100*plants.SD))
	}
	if mids := g.list("mids"); len(mids) > 0 {
		if err := a.arises(mids, list); err != nil {
			return Answer{}, err
		}
	}
	if winds := g.list("winds"); len(winds) > 0 {
		if err := a.wind(g, winds, list); err != nil {
			return Answer{}, err
		}
	}
	a.Drawing = drawRunway(g, plants, list, share)
	if g.has("start") {
		to := g.of("start")
		to.Value += move
		a.Lines = append(a.Lines, Line{ID: "start-to", Name: "Start mark then, from the edge", Unit: "m", Digits: 2, Value: to, Main: true})
		a.Places = append(a.Places, Place{Name: "start", X: -to.Value, Mark: true, Says: fmt.Sprintf("%.2f m from the edge", to.Value)})
	}
	if g.has("midat") {
		at := g.at("midat") + move
		a.Places = append(a.Places, Place{Name: "mid mark", X: -at, Mark: true, Says: fmt.Sprintf("%.2f m from the edge", at)})
	}
	if aim := runup.Behind(plants.SD, share); len(a.Places) > 0 {
		slices.SortFunc(a.Places, func(p, q Place) int { return int(math.Copysign(1, p.X-q.X)) })
		a.Places = append(a.Places, Place{Name: "aim of the toe", X: -aim, Says: fmt.Sprintf("%.0f cm before the edge, so that scatter stays on this side of it", 100*aim)})
		for i := range a.Places {
			a.Places[i].N = len(a.Places) - 1 - i
			a.Drawing.dot("mark", "", i, [2]float64{a.Places[i].X, 0})
			a.Drawing.text("mark", a.Places[i].Name, [2]float64{a.Places[i].X, 0.4})
		}
	}
	return a, nil
}

// wideScatter is what a start mark cannot mend, m. Common practice, no source.
const wideScatter = 0.25

// arises says where the error of a plant comes from.
func (a *Answer) arises(mids, plants []float64) error {
	w, err := runup.Where(mids, plants)
	if err != nil {
		return err
	}
	a.Lines = append(a.Lines,
		Line{ID: "before", Name: "Of the error there at the mid mark", Unit: "%", Value: sure(100 * w.Before)},
		Line{ID: "after", Name: "Scatter that the last steps add", Unit: "m", Digits: 2, Value: sure(w.After)})
	// Fisher's interval of a correlation: z scatters by 1/sqrt(n - 3).
	doubt := 1.0
	if n := float64(len(mids)); n > 3 {
		doubt = math.Tanh(uncertainty.Z95 / math.Sqrt(n-3))
	}
	switch {
	case w.Correlation < -doubt:
		a.Says = append(a.Says, "Steering in the last steps: they take back what the first ones got wrong.")
	case w.Correlation > doubt:
		a.Says = append(a.Says, fmt.Sprintf("The error arises before the mid mark (%.0f %% of it is there already): the first steps want the work.", 100*w.Before))
	case len(mids) < enoughToBlame:
		a.Says = append(a.Says, fmt.Sprintf("%d run-ups do not tell whether the error arises before or after the mid mark; %d do.", len(mids), enoughToBlame))
	default:
		a.Says = append(a.Says, "The error arises after the mid mark: the last steps want the work.")
	}
	return nil
}

// enoughToBlame is how many run-ups without a correlation tell that there is none to speak of.
// Common practice, no source.
const enoughToBlame = 10

// wind says what the athlete's own run-ups tell of it: the slope of plants on wind by least
// squares, with Student's t for its interval.
func (a *Answer) wind(g given, winds, plants []float64) error {
	if len(winds) != len(plants) {
		return errors.New("each run-up has its wind and its plant, in the same order")
	}
	level, slope := stat.LinearRegression(winds, plants, nil, false)
	n := float64(len(winds))
	var rest, across float64
	mean := stat.Mean(winds, nil)
	for i, w := range winds {
		off := plants[i] - level - slope*w
		rest, across = rest+off*off, across+(w-mean)*(w-mean)
	}
	if across < leastWinds {
		a.Says = append(a.Says, "The winds are too much alike to tell what wind does to this run-up.")
		return nil
	}
	by := uncertainty.Normal(slope, math.Sqrt(rest/(n-2)/across))
	by.Half95 = distuv.StudentsT{Sigma: 1, Nu: n - 2}.Quantile(0.975) * by.SD
	a.Lines = append(a.Lines, Line{ID: "wind", Name: "Plant moves for each m/s from behind", Unit: "m", Digits: 3, Value: by})
	if lo, hi := by.Interval(); lo <= 0 && hi >= 0 {
		a.Says = append(a.Says, "These run-ups show no effect of the wind beyond their scatter: do not move the start for it yet.")
		return nil
	}
	if g.has("wind") {
		today := by.Scale(g.at("wind") - mean)
		a.Lines = append(a.Lines, Line{ID: "windy", Name: "Back for today’s wind, beside the above", Unit: "m", Digits: 2, Value: today})
	}
	return nil
}

// leastWinds is the sum of squares about their mean from which winds tell anything, (m/s)².
// Assumed.
const leastWinds = 1.0

// drawRunway draws where run-ups were planted, the edge at the right.
func drawRunway(g given, plants runup.Scatter, list []float64, share float64) *Drawing {
	d := &Drawing{View: "above"}
	far := -3.0
	for _, id := range []string{"start", "midat"} {
		if g.has(id) {
			far = math.Min(far, -g.at(id)-1)
		}
	}
	const half = sport.RunwayAcross / 2
	d.area("ground", [2]float64{far, -half}, [2]float64{1, -half}, [2]float64{1, half}, [2]float64{far, half})
	d.line("fixture", [2]float64{0, -half}, [2]float64{0, half})
	d.text("note", "edge", [2]float64{0, -half - 0.3})
	aim := -runup.Behind(plants.SD, share)
	d.line("aim", [2]float64{aim, -half}, [2]float64{aim, half})
	m, sd := plants.Mean.Value, plants.SD
	d.area("band", [2]float64{m - sd, -0.12}, [2]float64{m + sd, -0.12}, [2]float64{m + sd, 0.12}, [2]float64{m - sd, 0.12})
	for i, x := range list {
		// One beside the other, so that none covers another.
		d.dot("measured", "", -1, [2]float64{x, (float64(i%7) - 3) * half / 4})
	}
	return d
}

func javelinPlan(g given) (Answer, error) {
	lengths, speeds := g.list("lengths"), g.list("speeds")
	if len(lengths) < 2 {
		return Answer{}, errors.New("type the lengths of the steps from the withdrawal to the block, two or more")
	}
	if len(speeds) > 0 && len(speeds) != len(lengths) {
		return Answer{}, errors.New("each of these steps has its length and its speed, in the same order")
	}
	var cross float64
	for _, l := range lengths {
		cross += l
	}
	block := g.of("room")
	sum := func(lengths float64, n int) uncertainty.Estimate {
		return uncertainty.Normal(block.Value+lengths, math.Hypot(block.SD, crossKnown*math.Sqrt(float64(n))))
	}
	last := sum(lengths[len(lengths)-1], 1)
	withdraw := sum(cross, len(lengths))
	n := g.at("approach")
	start := uncertainty.Normal(withdraw.Value+n*g.at("stride"), math.Hypot(withdraw.SD, n*g.of("stride").SD))
	a := Answer{Lines: []Line{
		{ID: "start", Name: "Start, from the arc", Unit: "m", Digits: 2, Value: start, Main: true},
		{ID: "withdrawal", Name: "Withdrawal begins, from the arc", Unit: "m", Digits: 2, Value: withdraw, Main: true},
		{ID: "last", Name: "Throwing-side foot of the last step, from the arc", Unit: "m", Digits: 2, Value: last},
		{ID: "block", Name: "Block foot, from the arc", Unit: "m", Digits: 2, Value: block, Fact: "block-room"},
	}, Surer: "A clip from the side over the cross steps with the arc marked gives lengths and speeds of one throw.",
		Caution: "Room behind the arc belongs to the block: whoever cannot stop after it shortens the run, not the braking."}
	for i, m := range []struct {
		name string
		at   uncertainty.Estimate
	}{{"start", start}, {"withdrawal", withdraw}, {"last step", last}, {"block foot", block}} {
		a.Places = append(a.Places, Place{Name: m.name, N: 3 - i, X: -m.at.Value, Mark: true, Says: fmt.Sprintf("%.2f m from the arc", m.at.Value)})
	}
	a.Drawing = drawJavelin(a.Places, lengths, block.Value)
	if len(speeds) == 0 {
		return a, nil
	}
	into := speeds[len(speeds)-1]
	kept := uncertainty.Propagate(func(v []float64) float64 { return 100 * v[1] / v[0] }, []float64{speeds[0], into}, []float64{stepSpeedKnown * speeds[0], stepSpeedKnown * into})
	a.Lines = append(a.Lines, Line{ID: "kept", Name: "Speed kept into the last step", Unit: "%", Value: kept, Fact: "cross-kept"})
	thrown := func(v []float64) float64 {
		from := flight.Thrown{Height: 1.8, Angle: v[1] * math.Pi / 180}
		d, err := from.Distance(flight.Javelin{Mass: 0.8, Length: 2.65}, flight.Still, v[0])
		if err != nil {
			return math.NaN()
		}
		return d
	}
	gain := g.at("less") / 100 * speeds[0]
	worth := thrown([]float64{g.at("release") + gain, g.at("angle")}) - thrown([]float64{g.at("release"), g.at("angle")})
	// All of it may arrive in the javelin, or nothing: so far goes the doubt.
	a.Lines = append(a.Lines, Line{ID: "worth", Name: fmt.Sprintf("%.0f %% less loss is worth", g.at("less")), Unit: "m", Digits: 1, Value: uncertainty.Normal(worth/2, worth/4)})
	lo, hi := kept.Interval()
	switch {
	case hi < keptLittle:
		a.Says = append(a.Says, fmt.Sprintf("Only %.0f %% of the speed reaches the last step: slower in, and running through the cross steps.", kept.Value))
	case lo > keptLittle:
		a.Says = append(a.Says, "The cross steps keep their speed: more run-in may be tried.")
	default:
		a.Says = append(a.Says, "The speeds do not tell whether the cross steps lose too much.")
	}
	return a, nil
}

// keptLittle is the share of the speed below which cross steps brake, %: common practice, the
// band of the technique model. The others are how surely a step of a clip is measured, m, and its
// speed, as a share. Assumed.
const (
	keptLittle     = 88
	crossKnown     = 0.05
	stepSpeedKnown = 0.03
)

func drawJavelin(marks []Place, lengths []float64, room float64) *Drawing {
	d := &Drawing{View: "above"}
	const half = sport.JavelinRunway / 2
	far := marks[0].X - 1
	d.area("ground", [2]float64{far, -half}, [2]float64{0, -half}, [2]float64{0, half}, [2]float64{far, half})
	var arc [][2]float64
	for i := range 17 {
		y := half * (float64(i)/8 - 1)
		arc = append(arc, [2]float64{math.Sqrt(sport.ArcRadius*sport.ArcRadius-y*y) - sport.ArcRadius, y})
	}
	d.line("fixture", arc...)
	x := -room
	for i := len(lengths) - 1; i >= 0; i-- {
		side := 0.15
		if (len(lengths)-1-i)%2 == 1 {
			side = -0.15
		}
		d.dot("foot", "", -1, [2]float64{x, side})
		x -= lengths[i]
	}
	for i, m := range marks {
		d.dot("mark", "", i, [2]float64{m.X, -half * 0.55})
		d.text("mark", m.Name, [2]float64{m.X, -half * 0.75})
	}
	return d
}

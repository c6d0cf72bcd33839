package workshop

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"neokinema/core/flight"
	"neokinema/core/performance"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
)

// thrown are the implements by event, with their usual release.
var thrown = []struct {
	event  string
	height float64 // m
	angle  float64 // degrees
	attack float64
	far    float64 // m
}{{"shot", 2.1, 37, 0, 14}, {"discus", 1.6, 36, -8, 45}, {"hammer", 1.7, 42, 0, 55}, {"weight", 1.6, 40, 0, 17}, {"javelin", 1.8, 34, 0, 55}}

// implementOptions are all implements of the rules: an option is a hundred times the place of the
// event plus that of the size.
func implementOptions() (out []Option) {
	for i, t := range thrown {
		e := sport.Of(t.event)
		for j, s := range sizes(e) {
			out = append(out, Option{float64(100*i + j), fmt.Sprintf("%s %g kg", e.Name, s.Mass)})
		}
	}
	return out
}

// sizes of an event's implement, each once, the heaviest first.
func sizes(e sport.Event) []sport.Size {
	list := slices.Concat(e.Implement.Men, e.Implement.Women)
	slices.SortStableFunc(list, func(a, b sport.Size) int { return int(math.Copysign(1, b.Mass-a.Mass)) })
	return slices.CompactFunc(list, func(a, b sport.Size) bool { return a.Mass == b.Mass })
}

// ImplementOption is the option of an event's implement whose mass is nearest.
func ImplementOption(event string, mass float64) (float64, bool) {
	for i, t := range thrown {
		if t.event != event {
			continue
		}
		list, best := sizes(sport.Of(event)), 0
		for j, s := range list {
			if math.Abs(s.Mass-mass) < math.Abs(list[best].Mass-mass) {
				best = j
			}
		}
		return float64(100*i + best), true
	}
	return 0, false
}

// chosen is the event and the implement of an option.
func chosen(v float64) (sport.Event, sport.Size, flight.Implement) {
	e := sport.Of(thrown[int(v)/100].event)
	s := sizes(e)[int(v)%100]
	switch e.ID {
	case "discus":
		return e, s, flight.Discus{Mass: s.Mass, Diameter: s.Diameter}
	case "javelin":
		return e, s, flight.Javelin{Mass: s.Mass, Length: s.Length}
	}
	return e, s, flight.Ball{Mass: s.Mass, Diameter: s.Diameter, WireArea: e.Implement.WireArea}
}

var (
	implement = Input{ID: "implement", Name: "Implement", Lo: 0, Hi: 499, Usual: 0, Fact: "implement", Options: implementOptions()}
	height    = Input{ID: "height", Name: "Height of the release", Unit: "m", Lo: 0.3, Hi: 3, Usual: 1.8, Doubt: 0.1, Step: 0.05, Fact: "release-height"}
	angle     = Input{ID: "angle", Name: "Angle of the release", Unit: "°", Lo: 5, Hi: 70, Usual: 38, Doubt: 2, Step: 0.5, Fact: "release-angle"}
	attack    = Input{ID: "attack", Name: "Disc or shaft over its path", Unit: "°", Lo: -30, Hi: 30, Usual: 0, Doubt: 3, Step: 1, Fact: "attack", More: true}
	wind      = Input{ID: "wind", Name: "Wind from behind", Unit: "m/s", Lo: -12, Hi: 12, Usual: 0, Doubt: 0.5, Step: 0.1, Fact: "wind"}
	altitude  = Input{ID: "altitude", Name: "Over the sea", Unit: "m", Lo: -400, Hi: 4500, Usual: 100, Step: 50, More: true}
	celsius   = Input{ID: "celsius", Name: "Temperature", Unit: "°C", Lo: -20, Hi: 50, Usual: 20, Step: 1, More: true}
	bodyMass  = Input{ID: "mass", Name: "Body mass", Unit: "kg", Lo: 20, Hi: 200, Usual: 80, Doubt: 1, Step: 1, Fact: "body-mass"}
	turnsDone = Input{ID: "turns", Name: "Turns", Lo: 1, Hi: 5, Usual: 4, Step: 1, Whole: true, Fact: "turns"}
	winds     = Input{ID: "share", Name: "Speed after the winds, share of the release", Unit: "%", Lo: 20, Hi: 90, Usual: 52, Doubt: 6, Step: 1, More: true}
	wire      = Input{ID: "radius", Name: "Radius of the ball’s way", Unit: "m", Lo: 0.8, Hi: 2.5, Usual: 1.8, Doubt: 0.08, Step: 0.05, Fact: "ball-radius"}
)

func isThrow(e sport.Event) bool { return e.Implement != nil }

var throws = []Question{
	{
		ID: "demand", Group: Throw, Name: "What a distance demands", Events: eventsOf(isThrow),
		Says:   "The release speed that a distance wants, how it grows over the turns, and how hard the implement pulls then.",
		Source: "flight in air by integration (package flight); pull m v²/r",
		Inputs: []Input{
			implement,
			{ID: "distance", Name: "Distance that you want", Unit: "m", Lo: 2, Hi: 100, Usual: 50, Step: 0.1, Fact: "goal"},
			angle, height, wind, attack, turnsDone, wire, winds, bodyMass, altitude, celsius,
		},
		answer: demand,
	},
	{
		ID: "flight", Group: Throw, Name: "Flight of a throw", Events: eventsOf(isThrow),
		Says:   "How far a release flies, with wind, altitude, angle and height under your hand.",
		Source: "flight in air by integration (package flight): shapes after Frohlich 1981 (discus), Hubbard and Rust 1984 (javelin); coefficients from memory",
		Inputs: []Input{
			implement,
			{ID: "speed", Name: "Speed of the release", Unit: "m/s", Lo: 3, Hi: 40, Usual: 20, Doubt: 0.5, Step: 0.1, Fact: "release-speed"},
			angle, height, wind, attack, altitude, celsius,
		},
		answer: flightOf,
	},
	{
		ID: "implements", Group: Throw, Name: "Implements in line", Events: eventsOf(isThrow),
		Says:   "What marks with light and heavy implements say of the one of competition, and which is out of line.",
		Source: "a line through the logarithms of mark and mass, least squares",
		Inputs: []Input{
			{ID: "masses", Name: "Masses", Unit: "kg", Lo: 0.2, Hi: 30, Step: 0.1, Fact: "masses", List: true},
			{ID: "marks", Name: "Best mark with each, in the same order", Unit: "m", Lo: 1, Hi: 120, Step: 0.01, Fact: "marks", List: true},
			{ID: "mass", Name: "Implement that you ask for", Unit: "kg", Lo: 0.2, Hi: 30, Usual: 7.26, Step: 0.1, Fact: "implement-mass"},
		},
		answer: implementsInLine,
	},
	{
		ID: "stand-full", Group: Throw, Name: "From a stand and in full", Events: []string{"shot", "discus", "javelin"},
		Says:   "Whether it is the way in or the delivery that lacks.",
		Source: "difference of marks; usual gains from memory of the trade",
		Inputs: gainInputs("stand-full", "Mark from a stand", "Mark in full", "standing", "best"),
		answer: gain("stand-full", "the way in", "the delivery from a stand"),
	},
	{
		ID: "glide-turn", Group: Throw, Name: "Glide against turn", Events: []string{"shot"},
		Says:   "Which of the two shot techniques gives more, and whether the difference is more than chance.",
		Source: "difference of marks; the usual gain is common practice, no source",
		Inputs: gainInputs("glide-turn", "Mark with the glide", "Mark with the turn", "glide", "turn"),
		answer: gain("glide-turn", "the turn", "the delivery"),
	},
}

func air(g given) flight.Air { return flight.AirAt(g.at("altitude"), g.at("celsius"), g.at("wind")) }

const (
	kgf = 9.80665       // N, by definition
	lbf = 4.44822161526 // N, by definition
)

// pullLines are a pull in the units in which coaches speak of it.
func pullLines(pull uncertainty.Estimate, body uncertainty.Estimate) []Line {
	weights := uncertainty.Propagate(func(v []float64) float64 { return v[0] / (v[1] * flight.Gravity) }, []float64{pull.Value, body.Value}, []float64{pull.SD, body.SD})
	return []Line{
		{ID: "pull", Name: "Pull on the hands at the release", Unit: "N", Value: pull, Fact: "pull"},
		{ID: "pull-kgf", Name: "the same", Unit: "kgf", Value: pull.Scale(1 / kgf)},
		{ID: "pull-lbf", Name: "the same", Unit: "lbf", Value: pull.Scale(1 / lbf)},
		{ID: "pull-body", Name: "the same, body weights", Digits: 1, Value: weights},
	}
}

func demand(g given) (Answer, error) {
	e, size, what := chosen(g.at("implement"))
	from := func(v []float64) flight.Thrown {
		return flight.Thrown{Angle: v[0] * math.Pi / 180, Height: v[1], Attack: v[2] * math.Pi / 180}
	}
	distance := g.at("distance")
	level, err := from([]float64{g.at("angle"), g.at("height"), g.at("attack")}).SpeedFor(what, air(g), distance)
	if err != nil {
		return Answer{}, err
	}
	here := air(g)
	need := g.follow(func(v []float64) float64 {
		here := here
		here.Wind.X = v[3]
		speed, err := from(v).SpeedFor(what, here, distance)
		if err != nil {
			return level
		}
		return speed
	}, "angle", "height", "attack", "wind")
	a := Answer{Lines: []Line{{ID: "speed", Name: "Release speed that it demands", Unit: "m/s", Digits: 1, Value: need, Fact: "release-speed", Main: true}},
		Says:  []string{fmt.Sprintf("%.2f m with %s %g kg want %.1f m/s at %.0f°.", distance, e.Name, size.Mass, need.Value, g.at("angle"))},
		Surer: "Angle and height of the athlete’s own release, from a clip from the side."}
	if far, err := from([]float64{g.at("angle"), g.at("height"), g.at("attack")}).Distance(what, here, need.Value+1); err == nil {
		a.Lines = append(a.Lines, Line{ID: "worth", Name: "1 m/s more is worth", Unit: "m", Digits: 1, Value: sure(far - distance)})
	}
	if !e.Turned {
		return a, nil
	}
	a.turns(g, need, size.Mass)
	return a, nil
}

// turns are the speed of each turn on the way to a release speed, and the pull at its end. From
// the winds on each turn adds the same: nobody adds it just so, and so it is a guide.
func (a *Answer) turns(g given, release uncertainty.Estimate, mass float64) {
	n := g.whole("turns")
	for i := range n + 1 {
		share := g.of("share").Value/100 + (1-g.of("share").Value/100)*float64(i)/float64(n)
		sd := g.of("share").SD / 100 * (1 - float64(i)/float64(n))
		speed := uncertainty.Normal(release.Value*share, math.Hypot(release.SD*share, release.Value*sd))
		name := fmt.Sprintf("Speed after turn %d", i)
		if i == 0 {
			name = "Speed after the winds"
		}
		a.Lines = append(a.Lines, Line{ID: fmt.Sprintf("turn%d", i), Name: name, Unit: "m/s", Digits: 1, Value: speed})
		if i == 0 {
			continue
		}
		pull := throw.Pull(mass, speed, g.of("radius"), 0)
		if i < n {
			a.Lines = append(a.Lines, Line{ID: fmt.Sprintf("pull%d", i), Name: fmt.Sprintf("Pull in turn %d", i), Unit: "N", Value: pull})
		} else {
			a.Lines = append(a.Lines, pullLines(pull, g.of("mass"))...)
		}
	}
	a.Caution = pullCaution
}

const pullCaution = "What pulls so hard is held by back and hips first. Turns are added one at a time, and only once the last one ends in balance; pain in back, hips or shoulders ends the session."

func flightOf(g given) (Answer, error) {
	e, size, what := chosen(g.at("implement"))
	start := flightPoint{g.at("speed"), g.at("angle"), g.at("height"), g.at("attack"), g.at("wind")}
	here := air(g)
	path, err := start.fly(what, here)
	if err != nil {
		return Answer{}, err
	}
	end := func(p [][2]float64) float64 { return p[len(p)-1][0] }
	still := here
	still.Wind.X = 0
	calm := start
	calm.wind = 0
	// Each input to both sides by its standard deviation; what comes out spans band and doubt.
	var both [][2][][2]float64
	var variance float64
	for i, id := range []string{"speed", "angle", "height", "attack", "wind"} {
		sd := g.of(id).SD
		if id == "attack" && e.ID != "discus" && e.ID != "javelin" {
			sd = 0
		}
		if sd == 0 {
			continue
		}
		lo, hi := start, start
		*lo.at(i) -= sd
		*hi.at(i) += sd
		a, errA := lo.fly(what, here)
		b, errB := hi.fly(what, here)
		if errA != nil || errB != nil {
			continue
		}
		both = append(both, [2][][2]float64{a, b})
		half := (end(b) - end(a)) / 2
		variance += half * half
	}
	far := uncertainty.Normal(end(path), math.Sqrt(variance))
	top := slices.MaxFunc(path, func(a, b [2]float64) int { return int(math.Copysign(1, a[1]-b[1])) })
	ans := Answer{Lines: []Line{
		{ID: "distance", Name: "Distance", Unit: "m", Digits: 1, Value: far, Fact: "mark", Main: true},
		{ID: "top", Name: "Highest", Unit: "m", Digits: 1, Value: sure(top[1])},
	}, Surer: "Speed weighs most: a clip from the side with the first free pictures of the flight and a scale."}
	if p, err := calm.fly(what, still); err == nil && start.wind != 0 {
		ans.Lines = append(ans.Lines, Line{ID: "windy", Name: "What the wind is worth", Unit: "m", Digits: 1, Value: sure(end(path) - end(p))})
	}
	for _, w := range []struct {
		id, name string
		i        int
		by       float64
	}{{"faster", "1 m/s more is worth", 0, 1}, {"steeper", "One degree more is worth", 1, 1}, {"higher", "10 cm higher are worth", 2, 0.1}} {
		more := start
		*more.at(w.i) += w.by
		if p, err := more.fly(what, here); err == nil {
			ans.Lines = append(ans.Lines, Line{ID: w.id, Name: w.name, Unit: "m", Digits: 2, Value: sure(end(p) - end(path))})
		}
	}
	none := flight.Range(start.speed, start.angle*math.Pi/180, start.height)
	ans.Lines = append(ans.Lines, Line{ID: "no-air", Name: "Without air", Unit: "m", Digits: 1, Value: sure(none)})
	ans.Says = []string{fmt.Sprintf("%s %g kg: %s.", e.Name, size.Mass, byAir(end(path)-none))}
	ans.Drawing = drawFlight(path, both, far.Half95)
	return ans, nil
}

func byAir(by float64) string {
	if by < 0 {
		return fmt.Sprintf("the air takes %.1f m away", -by)
	}
	return fmt.Sprintf("the air carries it %.1f m farther", by)
}

// flightPoint is a release and its wind.
type flightPoint struct{ speed, angle, height, attack, wind float64 }

func (p *flightPoint) at(i int) *float64 {
	return [...]*float64{&p.speed, &p.angle, &p.height, &p.attack, &p.wind}[i]
}

// steps is how many points a drawn flight has between its first and its last.
const steps = 40

// fly is the path, by equal shares of its time.
func (p flightPoint) fly(what flight.Implement, here flight.Air) ([][2]float64, error) {
	here.Wind.X = p.wind
	from := flight.Thrown{Height: math.Max(0, p.height), Angle: p.angle * math.Pi / 180, Attack: p.attack * math.Pi / 180}
	list, err := flight.FlyCoarse(what, here, from.State(what, p.speed), 0, longestFlight)
	if err != nil {
		return nil, err
	}
	total := list[len(list)-1].Time
	out := make([][2]float64, 0, steps+1)
	j := 0
	for i := range steps + 1 {
		t := total * float64(i) / steps
		for j < len(list)-2 && list[j+1].Time < t {
			j++
		}
		a, b := list[j], list[j+1]
		// Between two samples the cubic through both with their velocities.
		h := b.Time - a.Time
		s := (t - a.Time) / h
		h00, h10, h01, h11 := (1+2*s)*(1-s)*(1-s), s*(1-s)*(1-s), s*s*(3-2*s), s*s*(s-1)
		out = append(out, [2]float64{
			h00*a.Position.X + h10*h*a.Velocity.X + h01*b.Position.X + h11*h*b.Velocity.X,
			h00*a.Position.Y + h10*h*a.Velocity.Y + h01*b.Position.Y + h11*h*b.Velocity.Y,
		})
	}
	return out, nil
}

// longestFlight is how long anything is followed, s.
const longestFlight = 20

// drawFlight draws a path with the band in which it lies with 95 in 100: at each share of its
// time the inputs' effects across the path add by their squares.
// On the ground it is as wide as the distance is in doubt.
func drawFlight(path [][2]float64, both [][2][][2]float64, half float64) *Drawing {
	d := &Drawing{View: "side"}
	d.line("ground", [2]float64{0, 0}, [2]float64{math.Ceil(path[steps][0]/5)*5 + 5, 0})
	var upper, lower [][2]float64
	for i := range path {
		before, after := path[max(0, i-1)], path[min(steps, i+1)]
		length := math.Hypot(after[0]-before[0], after[1]-before[1])
		nx, ny := -(after[1]-before[1])/length, (after[0]-before[0])/length
		var sum float64
		for _, b := range both {
			half := ((b[1][i][0]-b[0][i][0])*nx + (b[1][i][1]-b[0][i][1])*ny) / 2
			sum += half * half
		}
		by := uncertainty.Z95 * math.Sqrt(sum)
		upper = append(upper, [2]float64{path[i][0] + by*nx, math.Max(0, path[i][1]+by*ny)})
		lower = append(lower, [2]float64{path[i][0] - by*nx, math.Max(0, path[i][1]-by*ny)})
	}
	upper = append(upper, [2]float64{path[steps][0] + half, 0})
	lower = append(lower, [2]float64{path[steps][0] - half, 0})
	slices.Reverse(lower)
	d.area("band", append(upper, lower...)...)
	d.line("path", path...)
	d.dot("mark", "", -1, [2]float64{path[steps][0], 0})
	d.text("mark", fmt.Sprintf("%.1f m", path[steps][0]), [2]float64{path[steps][0], 0})
	return d
}

func implementsInLine(g given) (Answer, error) {
	masses, marks := g.list("masses"), g.list("marks")
	if len(masses) != len(marks) {
		return Answer{}, fmt.Errorf("each implement has its mass and its mark: there are %d masses and %d marks", len(masses), len(marks))
	}
	if len(masses) < 3 {
		return Answer{}, errors.New("two implements make a line without doubt, which is no answer: type a third with its mark")
	}
	var list []performance.Best
	for i := range masses {
		list = append(list, performance.Best{Mass: masses[i], Metres: marks[i]})
	}
	line, err := performance.FitLine(list)
	if err != nil {
		return Answer{}, err
	}
	at := line.At(g.at("mass"))
	a := Answer{Lines: []Line{
		{ID: "mark", Name: fmt.Sprintf("What %g kg should give", g.at("mass")), Unit: "m", Digits: 2, Value: at, Fact: "mark", Main: true},
		{ID: "power", Name: "One percent more mass costs", Unit: "%", Digits: 2, Value: sure(-line.Power)},
	}, Surer: "Marks of the same weeks, and a fourth implement between the others."}
	switch i, want, odd := performance.Odd(list); {
	case odd && list[i].Metres > want.Value:
		a.Says = []string{fmt.Sprintf("%g kg is out of line: %.2f m, where the others say %.2f ±%.2f. What does not arrive with the others is speed for light ones, strength for heavy ones.", list[i].Mass, list[i].Metres, want.Value, want.Half95)}
	case odd:
		a.Says = []string{fmt.Sprintf("%g kg is out of line: %.2f m, where the others say %.2f ±%.2f. Look at the technique with it before more of it is thrown.", list[i].Mass, list[i].Metres, want.Value, want.Half95)}
	default:
		a.Says = []string{"All are in line, as far as their number tells."}
	}
	if line.Power > 0 {
		a.Says = []string{"Heavier implements fly farther in this list: check that masses and marks stand in the same order."}
	}
	return a, nil
}

// usualGain is what the whole movement usually adds to a part of it, m: from memory of the trade.
type usualGain struct {
	event, name   string
	least, most   float64
	little, whole float64 // marks that stand there while none is known
}

// gains are those of the questions that ask for one.
var gains = map[string][]usualGain{
	"short-full": {{"long-jump", "long jump", 0.5, 1.2, 5, 5.8}, {"high-jump", "high jump", 0.1, 0.25, 1.5, 1.65}, {"pole-vault", "pole vault", 0.4, 0.9, 3, 3.6}},
	"stand-full": {{"shot", "shot", 1, 2, 10, 11.5}, {"discus", "discus", 8, 12, 32, 42}, {"javelin", "javelin", 12, 22, 32, 48}},
	"glide-turn": {{"shot", "turn over glide", 0.3, 1.5, 12, 12.8}},
}

// MarksScatter is how single marks scatter, as a share (half width). Common practice, no source.
const MarksScatter = 0.03

// gainInputs are those of two marks; the facts are which marks of the log fill them.
func gainInputs(question, little, whole, factLittle, factWhole string) []Input {
	list := gains[question]
	var options []Option
	for i, u := range list {
		options = append(options, Option{float64(i), u.name})
	}
	in := []Input{
		{ID: "little", Name: little, Unit: "m", Lo: 0.5, Hi: 110, Usual: list[0].little, Doubt: MarksScatter * list[0].little, Step: 0.05, Fact: "mark-" + factLittle},
		{ID: "whole", Name: whole, Unit: "m", Lo: 0.5, Hi: 120, Usual: list[0].whole, Doubt: MarksScatter * list[0].whole, Step: 0.05, Fact: "mark-" + factWhole},
	}
	if len(list) > 1 {
		in = append([]Input{{ID: "kind", Name: "Movement", Hi: float64(len(list) - 1), Options: options}}, in...)
	}
	return in
}

// gain answers what a whole movement adds to a part of it.
func gain(question, way, part string) func(given) (Answer, error) {
	return func(g given) (Answer, error) {
		u := gains[question][g.whole("kind")]
		v := performance.Gain(g.of("little"), g.of("whole"))
		a := Answer{Lines: []Line{
			{ID: "gain", Name: "Gain of the full movement", Unit: "m", Digits: 2, Value: v, Main: true},
			{ID: "share", Name: "Share of the full mark", Unit: "%", Value: g.follow(func(v []float64) float64 { return 100 * (v[1] - v[0]) / v[1] }, "little", "whole")},
		}, Surer: "The mean of five of each on the same day, in place of single bests."}
		about := fmt.Sprintf("usual are %g to %g m", u.least, u.most)
		switch (uncertainty.Band{Lo: &u.least, Hi: &u.most}).Judge(v) {
		case uncertainty.Met:
			a.Says = []string{fmt.Sprintf("It gives what is usual (%s): work on both alike.", about)}
		case uncertainty.Missed:
			if v.Value < u.least {
				a.Says = []string{fmt.Sprintf("It gives little (%s): it is %s that lacks.", about, way)}
			} else {
				a.Says = []string{fmt.Sprintf("It gives much (%s): it is %s that lacks.", about, part)}
			}
		default:
			a.Says = []string{fmt.Sprintf("The marks scatter too much to say which of the two lacks (%s).", about)}
		}
		if lo, hi := v.Interval(); lo <= 0 && hi >= 0 {
			a.Says = append(a.Says, "Whether the full movement gives anything at all, these marks do not tell.")
		}
		return a, nil
	}
}

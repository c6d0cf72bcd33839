package workshop

import (
	"fmt"
	"math"

	"neokinema/core/flight"
	"neokinema/core/jump"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
)

// styles of flight in the long jump, with the time in the air that each needs, s, for legs of
// 0.90 m: a leg swings through in a time that goes with the root of its length. Common practice,
// no source; from jumps of 6.3 to 7 m on there is time for two and a half strides.
var styles = []struct {
	name string
	air  float64
}{{"sail", 0}, {"hang", 0.60}, {"hitch-kick, 1.5 strides", 0.62}, {"hitch-kick, 2.5 strides", 0.74}, {"hitch-kick, 3.5 strides", 0.88}}

func styleOptions() (out []Option) {
	for i, s := range styles {
		out = append(out, Option{float64(i), s.name})
	}
	return out
}

const (
	styleLeg = 0.90 // m, of styles
	legShare = 0.53 // leg over standing height: package springmass, Winter
)

var jumps = []Question{
	{
		ID: "long-parts", Group: Jump, Name: "Long jump in parts", Events: []string{"long-jump"},
		Says:   "What take-off, flight and landing give, and what a little more of each is worth.",
		Source: "L = L1 + L2 + L3: Hay 1985, The Biomechanics of Sports Techniques",
		Inputs: []Input{
			{ID: "toe", Name: "Toe behind the edge of the board", Unit: "m", Lo: -0.3, Hi: 1, Usual: 0.05, Doubt: 0.03, Step: 0.01, Fact: "toe-behind"},
			{ID: "ahead", Name: "Centre of mass ahead of the toe", Unit: "m", Lo: 0, Hi: 0.8, Usual: 0.35, Doubt: 0.06, Step: 0.01, Fact: "centre-ahead"},
			{ID: "speed", Name: "Speed along the ground at the toe-off", Unit: "m/s", Lo: 3, Hi: 12, Usual: 7.5, Doubt: 0.3, Step: 0.05, Fact: "jump-level"},
			{ID: "upward", Name: "Speed upward at the toe-off", Unit: "m/s", Lo: 0.3, Hi: 5, Usual: 2.7, Doubt: 0.2, Step: 0.05, Fact: "jump-upward"},
			{ID: "height", Name: "Centre of mass at the toe-off", Unit: "m", Lo: 0.6, Hi: 1.6, Usual: 1.15, Doubt: 0.05, Step: 0.01, Fact: "jump-height"},
			{ID: "landing", Name: "Centre of mass as the heels reach the sand", Unit: "m", Lo: 0.2, Hi: 1.2, Usual: 0.6, Doubt: 0.1, Step: 0.01},
			{ID: "heels", Name: "Heels ahead of it, less what falls back", Unit: "m", Lo: -0.3, Hi: 0.9, Usual: 0.45, Doubt: 0.1, Step: 0.01, Fact: "heels-ahead"},
			{ID: "style", Name: "Style", Lo: 0, Hi: 4, Usual: 0, Options: styleOptions(), More: true},
			{ID: "tall", Name: "Standing height", Unit: "m", Lo: 1, Hi: 2.3, Usual: 1.75, Doubt: 0.01, Step: 0.01, Fact: "body-height", More: true},
		},
		answer: longParts,
	},
	{
		ID: "high-parts", Group: Jump, Name: "High jump in parts", Events: []string{"high-jump"},
		Says:   "Was it the height that failed, or the clearance; and does the run go up or into the bar?",
		Source: "H = H1 + H2 − H3: Hay 1985, The Biomechanics of Sports Techniques",
		Inputs: []Input{
			{ID: "height", Name: "Centre of mass at the toe-off", Unit: "m", Lo: 0.6, Hi: 1.7, Usual: 1.25, Doubt: 0.05, Step: 0.01, Fact: "jump-height"},
			{ID: "upward", Name: "Speed upward at the toe-off", Unit: "m/s", Lo: 1, Hi: 6, Usual: 3.8, Doubt: 0.2, Step: 0.05, Fact: "jump-upward"},
			{ID: "bar", Name: "Bar", Unit: "m", Lo: 0.6, Hi: 2.6, Usual: 1.8, Step: 0.01, Fact: "bar"},
			{ID: "level", Name: "Speed along the ground at the toe-off", Unit: "m/s", Lo: 0.5, Hi: 9, Usual: 4, Doubt: 0.3, Step: 0.1, Fact: "jump-level", Optional: true},
			{ID: "cleared", Name: "Bar", Lo: 0, Hi: 1, Usual: 1, Options: []Option{{0, "knocked off"}, {1, "cleared"}}, More: true},
		},
		answer: highParts,
	},
	{
		ID: "vault-energy", Group: Jump, Name: "Run, grip and bar of a vault", Events: []string{"pole-vault"},
		Says:   "How high the energy of the run would lift you if nothing were lost or added, and what the bar asks over the grip.",
		Source: "h = h0 + v²/2g, energy of a point; weights and ratings as federations write them, from memory",
		Inputs: []Input{
			{ID: "height", Name: "Centre of mass at the toe-off", Unit: "m", Lo: 0.6, Hi: 1.7, Usual: 1.2, Doubt: 0.05, Step: 0.01},
			{ID: "speed", Name: "Speed of the last steps", Unit: "m/s", Lo: 3, Hi: 11, Usual: 8, Doubt: 0.3, Step: 0.05, Fact: "run-speed"},
			{ID: "bar", Name: "Bar that you want", Unit: "m", Lo: 1, Hi: 6.5, Usual: 4, Step: 0.05, Fact: "goal"},
			{ID: "grip", Name: "Grip of the top hand on the pole", Unit: "m", Lo: 2, Hi: 5.5, Usual: 4, Doubt: 0.03, Step: 0.05, Optional: true},
			{ID: "pole", Name: "Length of the pole", Unit: "m", Lo: 2.5, Hi: 5.5, Usual: 4.3, Step: 0.05, Fact: "pole-length", Optional: true},
			{ID: "rating", Name: "Rating of the pole", Unit: "kg", Lo: 20, Hi: 110, Usual: 70, Step: 0.5, Fact: "pole-rating", Optional: true},
			{ID: "mass", Name: "Body mass", Unit: "kg", Lo: 20, Hi: 150, Usual: 68, Doubt: 1, Step: 0.5, Fact: "body-mass", Optional: true},
			{ID: "under", Name: "Take-off toe ahead of the top hand", Unit: "m", Lo: -1, Hi: 1, Usual: 0, Doubt: 0.08, Step: 0.01, Fact: "toe-under", Optional: true},
		},
		answer: vaultEnergy,
	},
	{
		ID: "short-full", Group: Jump, Name: "Short against full run-up", Events: []string{"long-jump", "high-jump", "pole-vault"},
		Says:   "Whether the longer run-up arrives in the jump.",
		Source: "difference of marks; usual gains are common practice, no source",
		Inputs: gainInputs("short-full", "Mark from a short run-up", "Mark from the full one", "short", "best"),
		answer: gain("short-full", "the run-up", "the take-off from a short one"),
	},
}

func longParts(g given) (Answer, error) {
	t := jump.TakeOff{Toe: g.of("toe"), Ahead: g.of("ahead"), Height: g.of("height"), Landing: g.of("landing"), Heels: g.of("heels"),
		Speed: g.follow(func(v []float64) float64 { return math.Hypot(v[0], v[1]) }, "speed", "upward"),
		Angle: g.follow(func(v []float64) float64 { return math.Atan2(v[1], v[0]) }, "speed", "upward")}
	p, err := t.Parts()
	if err != nil {
		return Answer{}, err
	}
	a := Answer{Lines: []Line{
		{ID: "total", Name: "Together", Unit: "m", Digits: 2, Value: p.Total, Fact: "mark", Main: true},
		{ID: "ahead", Name: "Ahead of the board at the toe-off", Unit: "m", Digits: 2, Value: p.Ahead},
		{ID: "flown", Name: "Flight", Unit: "m", Digits: 2, Value: p.Flown, Fact: "flown"},
		{ID: "landing", Name: "Landing", Unit: "m", Digits: 2, Value: p.Landing},
		{ID: "air", Name: "Time in the air", Unit: "s", Digits: 2, Value: p.Air},
	}, Surer: "Both speeds weigh most: a clip from the side over board and pit, with board and runway marked."}
	best, most := "", 0.0
	for _, w := range []struct {
		id, name, says string
		change         func(*jump.TakeOff)
	}{
		{"faster", "0.1 m/s more is worth", "0.1 m/s more", func(t *jump.TakeOff) { t.Speed.Value += 0.1 }},
		{"steeper", "One degree more is worth", "one degree more", func(t *jump.TakeOff) { t.Angle.Value += math.Pi / 180 }},
		{"heels", "Heels 10 cm farther are worth", "heels 10 cm farther", func(t *jump.TakeOff) { t.Heels.Value += 0.1 }},
	} {
		worth, err := t.Worth(w.change)
		if err != nil {
			return Answer{}, err
		}
		a.Lines = append(a.Lines, Line{ID: w.id, Name: w.name, Unit: "m", Digits: 2, Value: sure(worth)})
		if worth > most {
			best, most = w.says, worth
		}
	}
	if best != "" {
		a.Says = []string{fmt.Sprintf("Of three small steps “%s” is worth most: %.0f cm.", best, 100*most)}
	}
	style := styles[g.whole("style")]
	if style.air > 0 {
		needs := style.air * math.Sqrt(legShare*g.at("tall")/styleLeg)
		lo, hi := p.Air.Interval()
		switch {
		case hi < needs:
			a.Says = append(a.Says, fmt.Sprintf("There is no time for it: “%s” takes about %.2f s with these legs.", style.name, needs))
		case lo > needs:
			a.Says = append(a.Says, fmt.Sprintf("There is time for “%s” (about %.2f s with these legs).", style.name, needs))
		default:
			a.Says = append(a.Says, fmt.Sprintf("“%s” takes about %.2f s with these legs: it is tight, or not known well enough.", style.name, needs))
		}
	}
	a.Drawing = drawJump(t)
	return a, nil
}

// drawJump draws the way of the centre of mass from board to sand.
func drawJump(t jump.TakeOff) *Drawing {
	d := &Drawing{View: "side"}
	p, err := t.Parts()
	if err != nil {
		return d
	}
	d.line("ground", [2]float64{-2, 0}, [2]float64{math.Ceil(p.Total.Value) + 1, 0})
	d.line("fixture", [2]float64{-0.2, 0}, [2]float64{0, 0})
	vx, vy := t.Speed.Value*math.Cos(t.Angle.Value), t.Speed.Value*math.Sin(t.Angle.Value)
	var path [][2]float64
	for i := range 41 {
		s := p.Air.Value * float64(i) / 40
		path = append(path, [2]float64{p.Ahead.Value + vx*s, t.Height.Value + vy*s - flight.Gravity*s*s/2})
	}
	d.line("path", path...)
	d.line("limb", [2]float64{-t.Toe.Value, 0}, path[0])
	d.line("limb", path[40], [2]float64{p.Total.Value, 0})
	d.dot("mark", "", -1, [2]float64{p.Total.Value, 0})
	d.text("mark", fmt.Sprintf("%.2f m", p.Total.Value), [2]float64{p.Total.Value, 0.3})
	return d
}

// Who leaves lower than this to the level runs into the bar; who is flown past it by more than a
// hand's breadth fails in how he crosses it. Common practice, no source: the band of the technique
// model begins there.
const (
	leaperBelow = 38.0
	handBreadth = 0.10
)

func highParts(g given) (Answer, error) {
	p := jump.HighParts(g.of("height"), g.of("upward"), g.at("bar"))
	a := Answer{Lines: []Line{
		{ID: "clearance", Name: "Highest place of the centre of mass over the bar", Unit: "m", Digits: 2, Value: p.Clearance, Fact: "over-bar", Main: true},
		{ID: "leaves", Name: "Centre of mass at the toe-off", Unit: "m", Digits: 2, Value: p.TakeOff, Fact: "jump-height"},
		{ID: "rise", Name: "Flown above it", Unit: "m", Digits: 2, Value: p.Rise},
		{ID: "faster", Name: "0.1 m/s more upward is worth", Unit: "m", Digits: 2, Value: sure(((g.at("upward")+0.1)*(g.at("upward")+0.1) - g.at("upward")*g.at("upward")) / (2 * flight.Gravity))},
	}, Surer: "The speed upward weighs most: a clip of the whole flight with uprights and bar marked gives it to a tenth."}
	lo, hi := p.Clearance.Interval()
	knocked := g.at("cleared") == 0
	switch {
	case lo > handBreadth && knocked:
		a.Says = []string{"The height was there: what failed is the clearance, or the highest place does not lie over the bar."}
	case lo > handBreadth:
		a.Says = []string{"More height than the bar asks: it can go up before anything else is changed."}
	case hi < 0 && knocked:
		a.Says = []string{"The height was not there: speed, plant and lift come first, not the arch."}
	case hi < 0:
		a.Says = []string{"The centre of mass went below the bar and the bar stayed: an arch that clears well. Height comes first now."}
	default:
		a.Says = []string{"Height and bar are too near each other to name one of them."}
	}
	if g.has("level") {
		angle := degrees(g.follow(func(v []float64) float64 { return math.Atan2(v[0], v[1]) }, "upward", "level"))
		a.Lines = append(a.Lines, Line{ID: "angle", Name: "Angle of the take-off", Unit: "°", Value: angle, Fact: "jump-angle"})
		switch lo, hi := angle.Interval(); {
		case hi < leaperBelow:
			a.Says = append(a.Says, "A leaper: the speed goes on into the bar. Plant ahead of the hips and keep the lean; farther out alone does not mend it.")
		case lo > leaperBelow:
			a.Says = append(a.Says, "A jumper: the run is turned upward.")
		}
	}
	return a, nil
}

func vaultEnergy(g given) (Answer, error) {
	bound := jump.VaultBound(g.of("height"), g.of("speed"))
	over := uncertainty.Minus(bound, sure(g.at("bar")))
	a := Answer{
		Lines:   []Line{{ID: "bound", Name: "Height of the run’s energy", Unit: "m", Digits: 2, Value: bound, Main: true}, {ID: "over", Name: "Over the bar that you want", Unit: "m", Digits: 2, Value: over}},
		Surer:   "The speed of the last two steps, from a clip from the side with box and runway marked.",
		Caution: "Orientation, never a promise. Pole and grip are for a certified coach to choose; too stiff a pole or too high a grip throws back to the runway.",
	}
	switch lo, hi := over.Interval(); {
	case hi < 0:
		a.Says = []string{"The run alone does not carry that high: what is missing is worked for on the pole, or the run must be faster."}
	case lo > 0:
		a.Says = []string{"The run has the energy. What stays below it is lost in plant, take-off or on the pole."}
	default:
		a.Says = []string{"Run and bar are level within the doubt."}
	}
	if g.has("grip") {
		push := g.of("grip").Scale(-1)
		push.Value += g.at("bar") + sport.BoxDeep
		hold := g.follow(func(v []float64) float64 { return 100 * (v[0] - sport.BoxDeep) / (v[1] + v[2]*v[2]/(2*flight.Gravity)) }, "grip", "height", "speed")
		a.Lines = append(a.Lines, Line{ID: "push", Name: "Bar over the grip", Unit: "m", Digits: 2, Value: push}, Line{ID: "hold", Name: "Grip, share of the run’s height", Unit: "%", Value: hold})
		if lo, _ := hold.Interval(); lo > 100 {
			a.Says = append(a.Says, "The grip is higher than this run can lift anybody: the pole may not come to the vertical. Lower the grip first.")
		}
	}
	if g.has("grip") && g.has("pole") && g.at("grip") > g.at("pole") {
		return Answer{}, fmt.Errorf("nobody grips a pole of %.2f m at %.2f m", g.at("pole"), g.at("grip"))
	}
	if g.has("rating") && g.has("mass") && g.at("rating") < g.at("mass") {
		a.Says = append([]string{fmt.Sprintf("Stop: a pole rated %.0f kg under a body of %.0f kg may break, and rules of federations forbid it.", g.at("rating"), g.at("mass"))}, a.Says...)
	}
	if g.has("under") {
		v := g.of("under")
		switch lo, hi := v.Interval(); {
		case lo > underMuch:
			a.Says = append(a.Says, fmt.Sprintf("The take-off is %.0f cm under: it pulls the pole back and the back hollow. Move the start back before a longer grip.", 100*v.Value))
		case hi < -underMuch:
			a.Says = append(a.Says, fmt.Sprintf("The take-off is %.0f cm out: nothing carries the pole on. Move the start forward before a stiffer pole.", -100*v.Value))
		}
	}
	return a, nil
}

// underMuch is how far toe and top hand may be from one line, m. Common practice, no source.
const underMuch = 0.15

package workshop_test

import (
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/flight"
	"neokinema/core/runup"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
	"neokinema/core/workshop"
	"neokinema/core/workshop/known"
	"neokinema/core/workshop/worked"
)

func is(v float64) workshop.Value { return workshop.Value{Value: v} }

func list(v ...float64) workshop.Value { return workshop.Value{List: v} }

func ask(t *testing.T, id string, values workshop.Values, path ...workshop.Place) workshop.Answer {
	t.Helper()
	a, err := workshop.Ask(id, values, path)
	if err != nil {
		t.Fatalf("%s: %v", id, err)
	}
	return a
}

func number(t *testing.T, a workshop.Answer, id string) uncertainty.Estimate {
	t.Helper()
	l, ok := a.Line(id)
	if !ok {
		t.Fatalf("no line %s in %+v", id, a.Lines)
	}
	return l.Value
}

func says(t *testing.T, a workshop.Answer, what string) {
	t.Helper()
	if !strings.Contains(strings.Join(a.Says, " "), what) {
		t.Errorf("it says %q, not %q", a.Says, what)
	}
}

// Numbers that are known from elsewhere, each with its source, to one in a hundred.
func TestWorkedExamples(t *testing.T) {
	for _, e := range worked.Examples() {
		off, err := e.Off()
		if err != nil || off > 0.01 {
			got, _ := e.Got()
			t.Errorf("%s (%s): %.5g, want %.5g %v", e.Name, e.Source, got, e.Want, err)
		}
	}
}

// Every question names itself, its source and its events, and every input a range in which its
// usual lies; every fact is one that something tells.
func TestQuestionsAreWhole(t *testing.T) {
	seen := map[string]bool{}
	for _, q := range workshop.Questions() {
		if q.Name == "" || q.Says == "" || q.Source == "" || len(q.Events) == 0 || seen[q.ID] {
			t.Errorf("%s: %+v", q.ID, q)
		}
		seen[q.ID] = true
		for _, e := range q.Events {
			if !slices.Contains(sport.IDs(), e) {
				t.Errorf("%s is of %s", q.ID, e)
			}
		}
		for _, in := range q.Inputs {
			if in.Name == "" || in.Lo >= in.Hi || !in.List && (in.Usual < in.Lo || in.Usual > in.Hi) {
				t.Errorf("%s, %s: %+v", q.ID, in.ID, in)
			}
			if len(in.Options) == 0 && in.Step <= 0 {
				t.Errorf("%s, %s has no step", q.ID, in.ID)
			}
		}
		for _, event := range q.Events {
			if !slices.ContainsFunc(workshop.For(event), func(o workshop.Question) bool { return o.ID == q.ID }) {
				t.Errorf("%s is not offered for %s", q.ID, event)
			}
		}
	}
	for _, e := range sport.Events() {
		if len(workshop.For(string(e.ID))) == 0 {
			t.Errorf("nothing is offered for %s", e.Name)
		}
	}
	if len(workshop.For("")) != len(workshop.Questions()) {
		t.Error("all are not offered without an event")
	}
}

// usual are the inputs of a question as they stand there at first, with lists that make sense.
func usual(q workshop.Question) workshop.Values {
	v := workshop.Values{}
	for _, in := range q.Inputs {
		v[in.ID] = workshop.Value{Value: in.Usual, Half: in.Doubt}
	}
	lists := map[string]workshop.Value{
		"plants": list(0.10, 0.02, -0.05, 0.12, 0.20, 0.05, 0.04), "mids": list(0.08, 0.05, -0.02, 0.07, 0.15, 0.06, 0.02), "winds": list(1, 2, -0.5, 1.2, 2, 0.5, 0.4),
		"lengths": list(1.8, 1.9, 1.6, 1.9, 1.5), "speeds": list(6, 6, 5.8, 5.6, 5.2), "masses": list(6, 7.26, 8), "marks": list(64, 58, 54),
	}
	for id, l := range lists {
		if _, ok := v[id]; ok {
			v[id] = l
		}
	}
	return v
}

// With what is usual in each of its events every question answers, with a judgement and what
// would make it surer.
func TestUsualInputsAnswer(t *testing.T) {
	for _, e := range sport.Events() {
		for _, q := range workshop.For(string(e.ID)) {
			a, err := workshop.Ask(q.ID, usual(q), nil)
			if err != nil {
				t.Errorf("%s at %s: %v", q.ID, e.ID, err)
				continue
			}
			main := slices.ContainsFunc(a.Lines, func(l workshop.Line) bool { return l.Main })
			if !main || len(a.Says) == 0 || a.Surer == "" {
				t.Errorf("%s at %s answers %+v", q.ID, e.ID, a)
			}
			if q.Field && len(a.Places) == 0 {
				t.Errorf("%s has nothing to take to the field", q.ID)
			}
		}
	}
}

// Bad answers to absurd inputs: none is not a number, and each that is refused is refused by a
// word.
func TestAbsurdInputs(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 3))
	bad, answered := worked.Absurdities(r, 1500)
	for _, b := range bad {
		t.Error(b)
	}
	if answered < 100 {
		t.Errorf("only %d of 1500 were answered: the inputs test nothing", answered)
	}
	for id, v := range map[string]workshop.Values{
		"nothing":    {},
		"curve-lean": {"speed": is(math.NaN())},
		"flight":     {"speed": is(math.Inf(1))},
		"long-parts": {"upward": is(-4)},
		"start":      {"plants": list(1, 2)},
		"implements": {"masses": list(5, 6), "marks": list(50)},
		"splits":     {"t10": is(2), "t20": is(4.5), "t30": is(5)},
		"blocks":     {"front": is(60), "ahead": is(0.6)},
		"plant":      {"speed": is(4), "level": is(8)},
		"load":       {"cadence": is(300), "contact": is(400)},
	} {
		_, err := workshop.Ask(id, v, nil)
		var word *workshop.Absurd
		if !errors.As(err, &word) || !strings.HasSuffix(word.Says, ".") {
			t.Errorf("%s with %v: %v", id, v, err)
		}
	}
}

// Every foot of a layout lies on its arc or on its tangent, a step's length along the way from
// the next; for the other leg it is the same from the other upright.
func TestLayoutCloses(t *testing.T) {
	if off, n := worked.LayoutError(rand.New(rand.NewPCG(8, 8)), 400); off > 1e-6 || n < 300 {
		t.Errorf("%d layouts, off by %g m", n, off)
	}
	v := workshop.Values{"leg": is(0), "base": is(0.12), "outward": is(0.2)}
	left := ask(t, "high-plan", v)
	v["leg"] = is(1)
	right := ask(t, "high-plan", v)
	for i, p := range left.Places {
		q := right.Places[i]
		if p.X != q.X || p.Y != q.Y || p.Foot == q.Foot {
			t.Errorf("place %d: %+v and %+v", i, p, q)
		}
		if math.Abs(math.Hypot(p.X, p.Y)-p.Near) > 1e-9 || math.Abs(math.Hypot(p.X-sport.Uprights, p.Y)-p.Far) > 1e-9 {
			t.Errorf("tapes of place %d: %+v", i, p)
		}
	}
	for i, s := range left.Drawing.Shapes {
		if o := right.Drawing.Shapes[i]; s.Points[0][0] != -o.Points[0][0] || s.Points[0][1] != o.Points[0][1] {
			t.Fatalf("shape %d is not the mirror: %+v and %+v", i, s, o)
		}
	}
	if plant := left.Places[len(left.Places)-1]; plant.Name != "plant" || plant.Foot != string(body.Left) || !plant.Mark {
		t.Errorf("plant: %+v", plant)
	}
}

func TestCurveIsJudged(t *testing.T) {
	tight := ask(t, "high-plan", workshop.Values{"speed": {Value: 7.4, Half: 0.2}, "radius": {Value: 8, Half: 0.3}, "lean": {Value: 22, Half: 2}})
	says(t, tight, "This radius wants 35° at this speed, and 22° is seen")
	says(t, ask(t, "curve-lean", workshop.Values{"speed": {Value: 6, Half: 0.1}, "radius": {Value: 12, Half: 0.3}, "lean": {Value: 28, Half: 2}}), "may be tighter")
	says(t, ask(t, "curve-lean", workshop.Values{"lean": is(1)}), "Nobody holds a curve upright")
	// Wider by the square of the speeds, and the lean stays.
	v := number(t, ask(t, "high-plan", workshop.Values{"speed": is(6), "radius": is(9), "faster": is(0.6)}), "faster")
	if math.Abs(v.Value-9*1.21) > 1e-9 {
		t.Errorf("radius at 6.6 m/s: %v", v.Value)
	}
	// A parabola that is carried 10 cm higher: the highest place lies farther on by the speed times
	// the longer rise.
	u := number(t, ask(t, "high-plan", workshop.Values{"upward": is(4), "leaving": is(4), "tobar": is(30), "higher": is(0.1)}), "higher")
	want := 4 * 0.5 * (math.Sqrt(2*(16/(2*flight.Gravity)+0.1)/flight.Gravity) - 4/flight.Gravity)
	if math.Abs(u.Value-want) > 1e-9 {
		t.Errorf("out by %v, want %v", u.Value, want)
	}
	if _, err := workshop.Ask("high-plan", workshop.Values{"out": is(0.1)}, nil); err == nil {
		t.Error("a plant under the bar is laid out")
	}
}

// The feet of a clip are held against the plan, each with the foot as many steps before the plant.
func TestPlanAgainstPath(t *testing.T) {
	plan := ask(t, "high-plan", nil)
	var path []workshop.Place
	for _, p := range plan.Places[6:] {
		p.Y += 0.2
		path = append(path, p)
	}
	a := ask(t, "high-plan", nil, path...)
	if v := number(t, a, "plant-off"); math.Abs(v.Value-0.2) > 1e-9 || v.Half95 == 0 {
		t.Errorf("plant off %v", v)
	}
	says(t, a, "0.20 m farther out")
	measured := 0
	for _, s := range a.Drawing.Shapes {
		if s.Role == "measured" {
			measured++
		}
	}
	if measured != len(path) {
		t.Errorf("%d feet are drawn", measured)
	}
	if _, err := workshop.Ask("high-plan", nil, []workshop.Place{{X: math.NaN()}}); err == nil {
		t.Error("feet that stand nowhere")
	}
}

// Odds of a foul as Monte Carlo has them.
func TestFoulOdds(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for _, share := range []float64{0.05, 0.1, 0.3} {
		const n, sd = 400_000, 0.11
		aim, over := runup.Behind(sd, share), 0
		for range n {
			if sd*r.NormFloat64() > aim {
				over++
			}
		}
		if got := float64(over) / n; math.Abs(got-share) > 4*math.Sqrt(share*(1-share)/n) {
			t.Errorf("aimed at %.0f fouls in a hundred, %.2f happened", 100*share, 100*got)
		}
	}
}

func TestStartMark(t *testing.T) {
	late := workshop.Values{"plants": list(0.21, 0.18, 0.24, 0.20, 0.17, 0.22), "start": is(31.4), "midat": is(12.2)}
	a := ask(t, "start", late)
	shift := number(t, a, "shift").Value
	if shift < 0.2 || shift > 0.3 {
		t.Errorf("shift %v", shift)
	}
	says(t, a, "back for 10 fouls in a hundred")
	if v := number(t, a, "start-to").Value; math.Abs(v-31.4-shift) > 1e-9 {
		t.Errorf("start then %v", v)
	}
	if len(a.Places) != 3 || a.Places[0].Name != "start" || a.Places[1].Name != "mid mark" {
		t.Errorf("places %+v", a.Places)
	}
	// What is only scatter moves no mark.
	calm := ask(t, "start", workshop.Values{"plants": list(-0.2, 0.05, -0.28, 0.02, -0.17, -0.04), "start": is(30)})
	says(t, calm, "Do not move the start")
	if v := number(t, calm, "start-to").Value; v != 30 {
		t.Errorf("start then %v", v)
	}
	says(t, ask(t, "start", workshop.Values{"plants": list(-0.5, 0.45, -0.38, 0.42, -0.37, 0.34)}), "costs more than any start mark gives")
}

// Where errors arise, and what wind does, on run-ups made so.
func TestWhereErrorsArise(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 1))
	make := func(before, after, steer, perWind float64) workshop.Values {
		var plants, mids, winds []float64
		for range 14 {
			m, w := before*r.NormFloat64(), 2*r.NormFloat64()
			mids, winds = append(mids, m), append(winds, w)
			plants = append(plants, m*(1-steer)+after*r.NormFloat64()+perWind*w)
		}
		return workshop.Values{"plants": list(plants...), "mids": list(mids...), "winds": list(winds...), "wind": is(3)}
	}
	says(t, ask(t, "start", make(0.2, 0.02, 0, 0)), "arises before the mid mark")
	says(t, ask(t, "start", make(0.01, 0.15, 0, 0)), "arises after the mid mark")
	says(t, ask(t, "start", make(0.2, 0.02, 1.5, 0)), "Steering")
	windy := ask(t, "start", make(0.01, 0.02, 0, 0.06))
	if v := number(t, windy, "wind"); math.Abs(v.Value-0.06) > v.Half95 || v.Half95 > 0.03 {
		t.Errorf("wind moves it by %v", v)
	}
	if v := number(t, windy, "windy"); v.Value < 0.1 || v.Value > 0.3 {
		t.Errorf("today's wind: %v", v)
	}
	says(t, ask(t, "start", make(0.01, 0.1, 0, 0)), "no effect of the wind")
	few := make(0.1, 0.1, 0, 0)
	for _, id := range []string{"plants", "mids", "winds"} {
		few[id] = list(few[id].List[:5]...)
	}
	says(t, ask(t, "start", few), "do not tell whether the error arises before or after")
	same := make(0.1, 0.02, 0, 0)
	same["winds"] = list(slices.Repeat([]float64{1.2}, 14)...)
	says(t, ask(t, "start", same), "too much alike")
}

// The interval of the wind's effect holds what is true as often as it says.
func TestWindCovers(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 7))
	in := 0
	const rounds, truth = 2000, 0.04
	for range rounds {
		var plants, winds []float64
		for range 7 {
			w := 1.5 * r.NormFloat64()
			winds, plants = append(winds, w), append(plants, truth*w+0.08*r.NormFloat64())
		}
		a, err := workshop.Ask("start", workshop.Values{"plants": list(plants...), "winds": list(winds...)}, nil)
		if err != nil {
			t.Fatal(err)
		}
		if l, ok := a.Line("wind"); !ok || math.Abs(l.Value.Value-truth) <= l.Value.Half95 {
			in++
		}
	}
	if share := float64(in) / rounds; share < 0.93 || share > 0.97 {
		t.Errorf("it holds the truth in %.1f %%", 100*share)
	}
}

func TestJavelinPlan(t *testing.T) {
	a := ask(t, "javelin-plan", workshop.Values{"approach": is(8), "stride": is(2), "lengths": list(1.9, 2, 1.7, 2.1, 1.6), "speeds": list(6.4, 6.3, 6, 5.5, 5), "room": is(1.8)})
	for id, want := range map[string]float64{"start": 27.1, "withdrawal": 11.1, "last": 3.4, "block": 1.8, "kept": 78.125} {
		if v := number(t, a, id).Value; math.Abs(v-want) > 1e-9 {
			t.Errorf("%s: %v, want %v", id, v, want)
		}
	}
	says(t, a, "Only 78 % of the speed reaches the last step")
	if w := number(t, a, "worth"); w.Value-w.Half95 < -0.01 || w.Value < 0.2 || w.Value > 2 {
		t.Errorf("less loss is worth %v", w)
	}
	if len(a.Places) != 4 || a.Places[0].X != -27.1 {
		t.Errorf("%+v", a.Places)
	}
}

func TestJumpsInParts(t *testing.T) {
	says(t, ask(t, "high-parts", workshop.Values{"bar": is(1.6), "cleared": is(0)}), "The height was there")
	says(t, ask(t, "high-parts", workshop.Values{"bar": is(1.6)}), "it can go up")
	says(t, ask(t, "high-parts", workshop.Values{"bar": is(2.2), "cleared": is(0)}), "The height was not there")
	says(t, ask(t, "high-parts", workshop.Values{"bar": is(2.2)}), "an arch that clears well")
	says(t, ask(t, "high-parts", workshop.Values{"upward": is(2.5), "level": is(5)}), "A leaper")
	says(t, ask(t, "high-parts", workshop.Values{"upward": is(4.4), "level": is(3.8)}), "A jumper")
	says(t, ask(t, "long-parts", workshop.Values{"style": is(4), "speed": is(6), "upward": is(2)}), "There is no time for it")
	says(t, ask(t, "long-parts", workshop.Values{"style": is(1), "speed": is(9), "upward": is(3.4)}), "There is time")
	says(t, ask(t, "vault-energy", workshop.Values{"speed": is(9.2), "bar": is(4)}), "The run has the energy")
	says(t, ask(t, "vault-energy", workshop.Values{"speed": is(6), "bar": is(4.5), "grip": is(4.9)}), "Lower the grip first")
	soft := ask(t, "vault-energy", workshop.Values{"rating": is(60), "mass": is(72), "under": is(0.3)})
	if !strings.HasPrefix(soft.Says[0], "Stop:") || soft.Caution == "" {
		t.Errorf("a pole under its vaulter's mass: %+v", soft)
	}
	says(t, soft, "30 cm under")
	says(t, ask(t, "vault-energy", workshop.Values{"under": is(-0.3)}), "30 cm out")
	if _, err := workshop.Ask("vault-energy", workshop.Values{"grip": is(4.6), "pole": is(4.3)}, nil); err == nil {
		t.Error("a grip beyond the pole's end")
	}
}

// What a distance demands flies that distance; each turn adds, and the pull grows.
func TestDemandFlies(t *testing.T) {
	for _, e := range []string{"shot", "discus", "hammer", "weight", "javelin"} {
		values := workshop.Values{}
		for _, q := range workshop.For(e) {
			if q.ID == "demand" {
				values = usual(q)
			}
		}
		a := ask(t, "demand", values)
		fly := workshop.Values{"speed": is(number(t, a, "speed").Value)}
		for _, id := range []string{"implement", "angle", "height", "attack", "wind", "altitude", "celsius"} {
			fly[id] = values[id]
		}
		if d := number(t, ask(t, "flight", fly), "distance").Value; math.Abs(d-values["distance"].Value) > 0.02 {
			t.Errorf("%s: %.3f m are demanded, %.3f m flown", e, values["distance"].Value, d)
		}
		_, turned := a.Line("turn1")
		if turned != sport.Of(e).Turned || turned && (a.Caution == "" || number(t, a, "pull").Value <= number(t, a, "pull1").Value) {
			t.Errorf("%s: turns %v, %+v", e, turned, a.Lines)
		}
	}
	if _, err := workshop.Ask("demand", workshop.Values{"distance": is(95), "angle": is(5)}, nil); err == nil {
		t.Error("no speed puts a shot 95 m")
	}
}

// The doubt of a flight is that of throws drawn by chance, and its band holds them.
func TestFlightsBand(t *testing.T) {
	o, _ := workshop.ImplementOption("hammer", 7.26)
	v := workshop.Values{"implement": is(o), "speed": {Value: 25, Half: 0.8}, "angle": {Value: 40, Half: 3}, "height": {Value: 1.7, Half: 0.2}, "wind": {Value: 0, Half: 1}}
	a := ask(t, "flight", v)
	d := number(t, a, "distance")
	r := rand.New(rand.NewPCG(2, 6))
	var sum, squares float64
	const n = 2000
	for range n {
		w := workshop.Values{}
		for id, x := range v {
			w[id] = is(x.Value + x.Half/uncertainty.Z95*r.NormFloat64())
		}
		w["implement"] = is(o)
		x := number(t, ask(t, "flight", w), "distance").Value
		sum, squares = sum+x, squares+x*x
	}
	mean := sum / n
	if sd := math.Sqrt(squares/n - mean*mean); math.Abs(d.SD/sd-1) > 0.06 {
		t.Errorf("doubt %.2f m, by chance %.2f m", d.SD, sd)
	}
	for _, s := range a.Drawing.Shapes {
		if s.Role == "band" && len(s.Points) != 84 {
			t.Errorf("a band of %d points", len(s.Points))
		}
	}
	head := number(t, ask(t, "flight", workshop.Values{"implement": is(o), "wind": is(-4)}), "windy").Value
	high := number(t, ask(t, "flight", workshop.Values{"implement": is(o), "altitude": is(2000)}), "distance").Value
	if head >= 0 || high <= number(t, ask(t, "flight", workshop.Values{"implement": is(o)}), "distance").Value {
		t.Errorf("head wind %v, altitude %v", head, high)
	}
}

func TestImplementsAndGains(t *testing.T) {
	a := ask(t, "implements", workshop.Values{"masses": list(5, 6, 7.26, 8), "marks": list(66, 60.2, 48, 52.2), "mass": is(7.26)})
	says(t, a, "7.26 kg is out of line: 48.00 m")
	says(t, ask(t, "implements", workshop.Values{"masses": list(5, 6, 8), "marks": list(50, 55, 60)}), "same order")
	for want, v := range map[string][2]float64{"the way in that lacks": {12, 12.4}, "the delivery from a stand that lacks": {10, 13.5}, "scatter too much": {10, 11}} {
		says(t, ask(t, "stand-full", workshop.Values{"little": {Value: v[0], Half: 0.2}, "whole": {Value: v[1], Half: 0.2}}), want)
	}
	says(t, ask(t, "stand-full", workshop.Values{"little": {Value: 10, Half: 0.1}, "whole": {Value: 11.5, Half: 0.1}}), "what is usual")
	says(t, ask(t, "glide-turn", workshop.Values{"little": {Value: 12, Half: 0.5}, "whole": {Value: 12.1, Half: 0.5}}), "do not tell")
}

// A pedal that moves back what it moved forward changes nothing; hips that rise open both knees.
func TestPedals(t *testing.T) {
	still := ask(t, "blocks", workshop.Values{"moveFront": is(0)})
	for _, id := range []string{"front-change", "rear-change"} {
		if v := number(t, still, id); math.Abs(v.Value) > 1e-9 || v.Half95 > 1e-6 {
			t.Errorf("%s of nothing: %v", id, v)
		}
	}
	up := ask(t, "blocks", workshop.Values{"moveFront": is(0), "raise": is(3)})
	if number(t, up, "front-change").Value <= 0 || number(t, up, "rear-change").Value <= 0 {
		t.Errorf("higher hips: %+v", up.Lines)
	}
	// A scale that is in doubt leaves the change of an angle nearly sure.
	v := number(t, ask(t, "blocks", workshop.Values{"front": {Value: 100, Half: 0.1}, "ahead": {Value: 0.2, Half: 0.005}, "thigh": {Value: 0.44, Half: 0.02}, "shank": {Value: 0.43, Half: 0.02}}), "front-change")
	if v.Half95 > 0.2 || v.Value > -1 || v.Value < -2 {
		t.Errorf("change %v", v)
	}
	if a := ask(t, "blocks", workshop.Values{"moveFront": is(4), "moveRear": is(-2)}); math.Abs(number(t, a, "spacing").Value-0.34) > 1e-9 {
		t.Errorf("spacing %v", number(t, a, "spacing"))
	}
	// The drawn legs have their lengths and knees.
	a := ask(t, "blocks", workshop.Values{"moveFront": is(2.5)})
	for _, s := range a.Drawing.Shapes {
		if s.Role != "limb" {
			continue
		}
		thigh := math.Hypot(s.Points[1][0]-s.Points[0][0], s.Points[1][1]-s.Points[0][1])
		shank := math.Hypot(s.Points[2][0]-s.Points[1][0], s.Points[2][1]-s.Points[1][1])
		if math.Abs(thigh-0.44) > 1e-9 || math.Abs(shank-0.43) > 1e-9 {
			t.Errorf("drawn thigh %v, shank %v", thigh, shank)
		}
	}
}

func TestRunning(t *testing.T) {
	a := ask(t, "load", workshop.Values{"contact": is(240), "mass": is(60), "uneven": is(8), "change": is(-5)})
	if number(t, a, "peak-then").Value <= number(t, a, "peak").Value {
		t.Error("a lower cadence at the same contact pushes less")
	}
	says(t, a, "step 5 % longer")
	says(t, a, "The left foot stays longer")
	says(t, ask(t, "load", workshop.Values{"uneven": is(-8)}), "The right foot stays longer")
	slow := workshop.Values{"t10": is(2.45), "t20": is(3.75), "t30": is(4.85)}
	says(t, ask(t, "splits", slow), "The speed comes late")
	slow["first"], slow["until"] = workshop.Value{Value: 6.4, Half: 0.1}, is(1)
	says(t, ask(t, "splits", slow), "lost up to 10 m")
	if len(workshop.For("hammer")) == 0 || number(t, ask(t, "pull", nil), "one-more").Value <= number(t, ask(t, "pull", nil), "pull").Value {
		t.Error("one turn more pulls less")
	}
}

// What a clip shows later is held against what was predicted.
func TestPredictionIsChecked(t *testing.T) {
	a := ask(t, "blocks", workshop.Values{"moveFront": is(2.5)})
	front := number(t, a, "front")
	facts := known.Facts{Values: map[string]uncertainty.Estimate{"front-knee": uncertainty.Normal(front.Value+1, 1), "rear-knee": uncertainty.Normal(140, 1)}}
	got := known.Check(a, facts)
	if len(got) != 2 || !got[0].Within || got[1].Within {
		t.Errorf("%+v", got)
	}
	if fact, v, ok := known.Mark("10 m 2.05 s"); !ok || fact != "split-10" || v.Value != 2.05 {
		t.Errorf("%s %v", fact, v)
	}
	if _, _, ok := known.Mark("a foul"); ok {
		t.Error("a word is a mark")
	}
	card := known.Card("hammer", body.Person{Sex: body.Female, Mass: 70, Height: 1.74, TakeoffLeg: body.Right})
	if card["implement-mass"].Value != 4 || card["leg"].Value != 1 || card["body-mass"].Value != 70 {
		t.Errorf("card %v", card)
	}
}

// A drawn flight goes through the places that the integration gives, and its band is as wide at the
// ground as the distance is in doubt.
func TestADrawnFlightIsTheFlight(t *testing.T) {
	o, _ := workshop.ImplementOption("discus", 1)
	v := workshop.Values{"implement": is(o), "speed": {Value: 22, Half: 0.6}, "angle": {Value: 35, Half: 2}, "height": {Value: 1.5, Half: 0.1}, "attack": {Value: -8, Half: 2}, "wind": {Value: 1, Half: 0.5}, "altitude": is(100), "celsius": is(20)}
	a := ask(t, "flight", v)
	from := flight.Thrown{Height: 1.5, Angle: 35 * math.Pi / 180, Attack: -8 * math.Pi / 180}
	what := flight.Discus{Mass: 1, Diameter: 0.181}
	path, err := flight.Fly(what, flight.AirAt(100, 20, 1), from.State(what, 22), 0, 20)
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range a.Drawing.Shapes {
		switch s.Role {
		case "path":
			for _, p := range s.Points {
				near := math.Inf(1)
				for i := 1; i < len(path); i++ {
					near = math.Min(near, aside(p, path[i-1].Position, path[i].Position))
				}
				if near > 0.003 {
					t.Errorf("(%.2f, %.2f) lies %.3f m off the flight", p[0], p[1], near)
				}
			}
		case "band":
			far := math.Inf(-1)
			for _, p := range s.Points {
				far = math.Max(far, p[0])
			}
			d := number(t, a, "distance")
			if over := far - d.Value; math.Abs(over-d.Half95) > 0.05*d.Half95 {
				t.Errorf("the band ends %.2f m past the landing, whose doubt is %.2f m", over, d.Half95)
			}
		}
	}
	if b := a.Drawing.Box(); b[1] < -1e-9 || b[2] < number(t, a, "distance").Value || b[0] > 0 {
		t.Errorf("it is drawn in %v", b)
	}
}

// aside is how far a drawn point is from the line between two places of a flight.
func aside(p [2]float64, a, b vec3.Vec) float64 {
	dx, dy := b.X-a.X, b.Y-a.Y
	share := math.Max(0, math.Min(1, ((p[0]-a.X)*dx+(p[1]-a.Y)*dy)/(dx*dx+dy*dy)))
	return math.Hypot(p[0]-a.X-share*dx, p[1]-a.Y-share*dy)
}

// Sizes of implements are offered once each, the heaviest of an event first, and found by mass.
func TestImplementOptions(t *testing.T) {
	q, _ := workshop.Find("flight")
	in, _ := q.Input("implement")
	seen := map[string]bool{}
	for _, o := range in.Options {
		if seen[o.Name] || o.Value < in.Lo || o.Value > in.Hi {
			t.Errorf("option %+v", o)
		}
		seen[o.Name] = true
	}
	for event, mass := range map[string]float64{"shot": 3, "discus": 1.75, "hammer": 6, "weight": 9.08, "javelin": 0.7} {
		v, ok := workshop.ImplementOption(event, mass+0.02)
		i := slices.IndexFunc(in.Options, func(o workshop.Option) bool { return o.Value == v })
		if !ok || i < 0 || !strings.HasSuffix(in.Options[i].Name, strings.TrimSuffix(formatted(mass), ".00")+" kg") {
			t.Errorf("%s of %v kg is option %v", event, mass, v)
		}
	}
	if _, ok := workshop.ImplementOption("running", 1); ok {
		t.Error("runners throw something")
	}
}

func formatted(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }

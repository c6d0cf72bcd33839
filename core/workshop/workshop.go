// Package workshop answers what coaches reckon by head before and after a clip: where a start
// mark goes, what lean a curve wants, what a distance demands. A question has inputs, each with
// the doubt of where it was read, and an answer with doubt, a judgement in words and what would
// make it surer. Inputs and answers are in the units that a coach speaks: m, m/s, degrees, kg;
// each says its own.
package workshop

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"neokinema/core/body"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
)

// Groups of questions, in the order in which they are offered.
const (
	RunUp  = "run-up"
	Jump   = "jump"
	Throw  = "throw"
	Run    = "run"
	Limits = "limits"
)

// Question is one that the workshop answers.
type Question struct {
	ID     string   `json:"id"`
	Group  string   `json:"group" enum:"run-up,jump,throw,run,limits"`
	Name   string   `json:"name"`
	Says   string   `json:"says" doc:"what it answers, in a sentence"`
	Source string   `json:"source" doc:"where its formula comes from"`
	Events []string `json:"events" doc:"events that it is of"`
	Inputs []Input  `json:"inputs"`
	// Field tells that its plan is taken to the track.
	Field  bool `json:"field,omitempty" required:"false"`
	answer func(given) (Answer, error)
}

// Of tells whether a question is of an event.
func (q Question) Of(event string) bool { return slices.Contains(q.Events, event) }

// Input finds an input.
func (q Question) Input(id string) (Input, bool) {
	i := slices.IndexFunc(q.Inputs, func(in Input) bool { return in.ID == id })
	if i < 0 {
		return Input{}, false
	}
	return q.Inputs[i], true
}

// Input is what a question has to know.
type Input struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Unit  string  `json:"unit"`
	Lo    float64 `json:"lo" doc:"least that makes sense"`
	Hi    float64 `json:"hi"`
	Usual float64 `json:"usual" doc:"what stands there when nothing is known"`
	Doubt float64 `json:"doubt" doc:"half width of the 95 % interval of the usual, and of what is typed"`
	Step  float64 `json:"step" doc:"by which a slider moves it"`
	// Fact is what fills it: package known.
	Fact string `json:"fact,omitempty" required:"false"`
	// List tells that it is several values, one a try.
	List bool `json:"list,omitempty" required:"false"`
	// Whole tells that it is a number of things.
	Whole bool `json:"whole,omitempty" required:"false"`
	// Optional tells that the answer says less without it, and that nothing stands there as usual.
	Optional bool `json:"optional,omitempty" required:"false"`
	// More tells that it is rarely changed.
	More    bool     `json:"more,omitempty" required:"false"`
	Options []Option `json:"options,omitempty" required:"false" doc:"the values that it may have"`
}

// Option is a value by name.
type Option struct {
	Value float64 `json:"value"`
	Name  string  `json:"name"`
}

// Value is what an input has.
type Value struct {
	Value float64   `json:"value"`
	Half  float64   `json:"half" doc:"half width of the 95 % interval; below zero: the input's own"`
	List  []float64 `json:"list,omitempty" required:"false" maxItems:"60"`
}

// Values are those of a question's inputs.
type Values map[string]Value

// Line is one number of an answer.
type Line struct {
	ID     string               `json:"id"`
	Name   string               `json:"name"`
	Unit   string               `json:"unit"`
	Digits int                  `json:"digits"`
	Value  uncertainty.Estimate `json:"value"`
	// Fact is what a later clip holds against it: package known.
	Fact string `json:"fact,omitempty" required:"false"`
	// Main tells that it is what was asked for.
	Main bool `json:"main,omitempty" required:"false"`
}

// Answer is what a question comes to.
type Answer struct {
	Lines []Line   `json:"lines"`
	Says  []string `json:"says" doc:"judgement, what matters most first"`
	Surer string   `json:"surer" doc:"what would make it surer"`
	// Caution is what may hurt somebody, and who decides.
	Caution string   `json:"caution,omitempty" required:"false"`
	Places  []Place  `json:"places,omitempty" required:"false" doc:"of a plan on the ground, in the order of the run"`
	Drawing *Drawing `json:"drawing,omitempty" required:"false"`
}

// Line finds a number.
func (a Answer) Line(id string) (Line, bool) {
	i := slices.IndexFunc(a.Lines, func(l Line) bool { return l.ID == id })
	if i < 0 {
		return Line{}, false
	}
	return a.Lines[i], true
}

// Place is where a foot or a mark is on the ground, m. Of the high jump X goes along the bar from
// the near upright and Y out from the bar; elsewhere X is the way to the edge (board, box, arc)
// and Y to the right of the runway's middle.
type Place struct {
	Name string  `json:"name"`
	Foot string  `json:"foot,omitempty" required:"false" enum:"left,right,"`
	N    int     `json:"n" doc:"steps before the last one"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	// Of the high jump: from the foot of the near and of the far upright.
	Near float64 `json:"near,omitempty" required:"false"`
	Far  float64 `json:"far,omitempty" required:"false"`
	// Mark tells that something is laid on the ground there.
	Mark bool `json:"mark,omitempty" required:"false"`
	// Says is how it is found by tape.
	Says string `json:"says,omitempty" required:"false"`
}

// Absurd is the error of inputs that nobody can have.
type Absurd struct{ Says string }

func (e *Absurd) Error() string { return e.Says }

func absurd(format string, args ...any) error { return &Absurd{fmt.Sprintf(format, args...)} }

// Questions lists them all.
func Questions() []Question { return slices.Clone(questions) }

// Find finds a question.
func Find(id string) (Question, bool) {
	i := slices.IndexFunc(questions, func(q Question) bool { return q.ID == id })
	if i < 0 {
		return Question{}, false
	}
	return questions[i], true
}

// Ask answers a question; path is where feet stood in a clip, for plans. What is not given is
// as usual. The error is [Absurd]: it says which input is the cause, or that they do not go
// together.
func Ask(id string, values Values, path []Place) (Answer, error) {
	q, ok := Find(id)
	if !ok {
		return Answer{}, absurd("There is no question “%s”.", id)
	}
	g := given{values: map[string]Value{}}
	for _, p := range path {
		if !(math.Abs(p.X) < 200 && math.Abs(p.Y) < 200) {
			return Answer{}, absurd("The feet of the clip do not stand on this ground.")
		}
	}
	g.path = path
	for _, in := range q.Inputs {
		v, ok := values[in.ID]
		if !ok {
			if in.Optional || in.List {
				continue
			}
			v = Value{Value: in.Usual, Half: in.Doubt}
		}
		v, err := in.check(v)
		if err != nil {
			return Answer{}, err
		}
		g.values[in.ID] = v
	}
	a, err := q.answer(g)
	if err != nil {
		return Answer{}, absurd("%s", sentence(err))
	}
	if a.Says == nil {
		a.Says = []string{} // lists are never null in JSON
	}
	return a, a.whole()
}

// mostTries is how many values a list takes.
const mostTries = 60

// check refuses what nobody has.
func (in Input) check(v Value) (Value, error) {
	if !(v.Half >= 0) || math.IsInf(v.Half, 0) {
		v.Half = in.Doubt
	}
	v.Half = min(v.Half, in.Hi-in.Lo)
	all := v.List
	if !in.List {
		all, v.List = []float64{v.Value}, nil
	}
	if len(all) > mostTries {
		return v, absurd("%s: %d values at most.", in.Name, mostTries)
	}
	for _, x := range all {
		if len(in.Options) > 0 && !slices.ContainsFunc(in.Options, func(o Option) bool { return o.Value == x }) {
			return v, absurd("%s: choose one of the list.", in.Name)
		}
		if !(x >= in.Lo && x <= in.Hi) {
			return v, absurd("%s: between %s.", in.Name, strings.TrimSpace(fmt.Sprintf("%g and %g %s", in.Lo, in.Hi, in.Unit)))
		}
	}
	if in.Whole || len(in.Options) > 0 {
		v.Value, v.Half = math.Round(v.Value), 0
	}
	return v, nil
}

// whole refuses an answer that is no number anywhere.
func (a Answer) whole() error {
	for _, l := range a.Lines {
		if !finite(l.Value.Value, l.Value.SD, l.Value.Half95) {
			return absurd("These inputs do not go together: “%s” comes to no number.", l.Name)
		}
	}
	for _, p := range a.Places {
		if !finite(p.X, p.Y, p.Near, p.Far) {
			return absurd("These inputs do not go together: “%s” lies nowhere.", p.Name)
		}
	}
	if a.Drawing != nil {
		for _, s := range a.Drawing.Shapes {
			for _, p := range s.Points {
				if !finite(p[0], p[1]) {
					return absurd("These inputs do not go together: they cannot be drawn.")
				}
			}
		}
	}
	return nil
}

func finite(list ...float64) bool {
	return !slices.ContainsFunc(list, func(v float64) bool { return math.IsNaN(v) || math.IsInf(v, 0) })
}

// given are the inputs of one question, checked.
type given struct {
	values map[string]Value
	path   []Place
}

func (g given) has(id string) bool       { _, ok := g.values[id]; return ok }
func (g given) at(id string) float64     { return g.values[id].Value }
func (g given) whole(id string) int      { return int(g.values[id].Value) }
func (g given) list(id string) []float64 { return g.values[id].List }

// of is an input with its doubt.
func (g given) of(id string) uncertainty.Estimate {
	return uncertainty.Normal(g.values[id].Value, g.values[id].Half/uncertainty.Z95)
}

// angle is one in radians.
func (g given) angle(id string) uncertainty.Estimate { return g.of(id).Scale(math.Pi / 180) }

// follow carries inputs with their doubt through a function of them.
func (g given) follow(f func(v []float64) float64, ids ...string) uncertainty.Estimate {
	x, sd := make([]float64, len(ids)), make([]float64, len(ids))
	for i, id := range ids {
		v := g.of(id)
		x[i], sd[i] = v.Value, v.SD
	}
	return uncertainty.Propagate(f, x, sd)
}

func degrees(v uncertainty.Estimate) uncertainty.Estimate { return v.Scale(180 / math.Pi) }

func sure(v float64) uncertainty.Estimate { return uncertainty.Estimate{Value: v} }

// sentence writes an error as one.
func sentence(err error) string {
	s := err.Error()
	s = strings.ToUpper(s[:1]) + s[1:]
	if !strings.HasSuffix(s, ".") {
		s += "."
	}
	return s
}

// eventsOf are the events for which something holds.
func eventsOf(ok func(sport.Event) bool) (out []string) {
	for _, e := range sport.Events() {
		if ok(e) {
			out = append(out, string(e.ID))
		}
	}
	return out
}

// Legs as an option has them.
const (
	leftLeg  = 0
	rightLeg = 1
)

func leg(v float64) body.Side {
	if v == rightLeg {
		return body.Right
	}
	return body.Left
}

// questions in the order of their groups.
var questions = slices.Concat(runUps, jumps, throws, runs, limits)

// For lists the questions of an event, or all, with what is usual there.
func For(event string) []Question {
	var out []Question
	for _, q := range questions {
		if event != "" && !q.Of(event) {
			continue
		}
		q.Inputs = slices.Clone(q.Inputs)
		for i := range q.Inputs {
			q.Inputs[i].usualIn(event, q.ID)
		}
		out = append(out, q)
	}
	return out
}

// usualIn sets what is usual in an event.
func (in *Input) usualIn(event, question string) {
	for i, t := range thrown {
		if t.event != event {
			continue
		}
		switch in.ID {
		case "implement":
			in.Usual = float64(100 * i)
		case "height":
			in.Usual = t.height
		case "angle":
			in.Usual = t.angle
		case "attack":
			in.Usual = t.attack
		case "distance":
			in.Usual = t.far
		case "ball", "mass":
			if heaviest := sizes(sport.Of(event))[0].Mass; in.Unit == "kg" && in.Fact == "implement-mass" {
				in.Usual = heaviest
			}
		case "radius":
			if event == "weight" {
				in.Usual = 1.4
			}
		case "turns":
			if event == "weight" {
				in.Usual = 3
			}
		}
	}
	for i, u := range gains[question] {
		if u.event != event {
			continue
		}
		switch in.ID {
		case "kind":
			in.Usual = float64(i)
		case "little":
			in.Usual, in.Doubt = u.little, MarksScatter*u.little
		case "whole":
			in.Usual, in.Doubt = u.whole, MarksScatter*u.whole
		}
	}
}

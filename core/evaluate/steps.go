package evaluate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/ground"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
)

// steps makes the table from the bars of feet on the ground.
func (e *Evaluation) steps() {
	e.plane()
	var bars []contact.Interval
	for _, b := range e.report.Contacts {
		if pedal(b.Name) {
			continue
		}
		bars = append(bars, b)
		s := report.Step{N: len(e.report.Steps) + 1, Foot: b.Foot, From: b.From, To: b.To, Contact: b.Seconds}
		if at, ok := e.print(b.Foot, b.From, b.To); ok {
			px := e.view.Picture(at)
			s.At = &[2]float64{px.X, px.Y}
		}
		e.report.Steps = append(e.report.Steps, s)
	}
	for i := 1; i < len(e.report.Steps); i++ {
		a, b := &e.report.Steps[i-1], &e.report.Steps[i]
		on, off, land := bars[i-1].FromSD, bars[i-1].ToSD, bars[i].FromSD
		if b.From < a.To || !e.follows(*a, *b) {
			continue // a walk, or both feet down: no flight; or a step between was not seen
		}
		next := b.From
		a.Next = &next
		if v, err := e.Clock.Between(a.To, b.From); err == nil {
			v = between(v, off, land)
			a.Flight = &v
		}
		if v, err := e.Clock.Between(a.From, b.From); err == nil && v.Value > 0 {
			v = between(v, on, land)
			c := uncertainty.Propagate(func(x []float64) float64 { return 60 / x[0] }, []float64{v.Value}, []float64{v.SD})
			a.Cadence = &c
			if l, ok := e.stepLength(*a, *b, v); ok {
				a.Length = &l
			}
		}
	}
}

// longestFlight is the longest time in the air of a step, s: in a longer one a step was not
// seen. Common practice, no source.
const longestFlight = 0.4

// follows tells whether one step is the next after another: the other foot's, soon enough,
// with none between them that is not sure enough to be shown.
func (e *Evaluation) follows(a, b report.Step) bool {
	if a.Foot == b.Foot || e.runs() && float64(b.From-a.To) > longestFlight*e.Rate {
		return false
	}
	return !slices.ContainsFunc(e.contacts, func(c contact.Contact) bool { return c.From > a.To && c.To < b.From })
}

// pedal tells whether a contact is that of a foot on its pedal, which is no step.
func pedal(name string) bool { return name == "front pedal" || name == "rear pedal" }

// print is the place of a foot in the middle of its contact, toe for want of
// nothing better.
func (e *Evaluation) print(foot body.Side, from, to int) (r2.Vec, bool) {
	for _, part := range []string{"toe", "ankle"} {
		if p, ok := e.Movement.Where(string(foot)+"_"+part, (from+to)/2); ok {
			return p, true
		}
		for _, f := range []int{from, to - 1} {
			if p, ok := e.Point(e.Roles, string(foot)+"_"+part, f); ok {
				return p.At, true
			}
		}
	}
	return r2.Vec{}, false
}

// plane fits the ground if the coach marked it.
func (e *Evaluation) plane() {
	if e.Input.Ground == nil || len(e.Input.Ground.Points) == 0 {
		return
	}
	p, err := ground.Fit(*e.Input.Ground, func(f int, q r2.Vec) r2.Vec { return e.Input.Camera.ToReference(f, q) })
	if err != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
		return
	}
	e.report.Ground = p
}

// stepLength is the way from one foot print to the next: on the ground plane if
// there is one, else by the scale; on a belt the way that the belt ran comes on
// top.
func (e *Evaluation) stepLength(a, b report.Step, t uncertainty.Estimate) (uncertainty.Estimate, bool) {
	if a.At == nil || b.At == nil || !e.usable() {
		return uncertainty.Estimate{}, false
	}
	if g := e.report.Ground; g != nil {
		p, q := g.Ground(r2.Vec{X: a.At[0], Y: a.At[1]}), g.Ground(r2.Vec{X: b.At[0], Y: b.At[1]})
		return uncertainty.Normal(q.X-p.X, math.Hypot(g.ErrorCm/100, 0.02)), true
	}
	if e.Scale == nil {
		return uncertainty.Estimate{}, false
	}
	mpp := e.Scale.MetresPerPixel
	way := e.view.Direction * (b.At[0] - a.At[0])
	return uncertainty.Propagate(func(x []float64) float64 { return x[1] * (x[0] - e.belt*x[2]) },
		[]float64{way, mpp.Value, t.Value}, []float64{e.Sigma * math.Sqrt2, mpp.SD, t.SD}), true
}

// readGroup reads a checkpoint in every repetition; its value is their mean.
func (e *Evaluation) readGroup(cp model.Checkpoint) report.Reading {
	r := report.Reading{ID: cp.ID, Verdict: report.None, Source: "measure"}
	if cp.Measure.Kind == "asymmetry" {
		v, ev, err := e.measure(cp)
		return e.judged(r, cp, v, ev, err)
	}
	var last error
	for _, p := range e.Model.Where(cp) {
		if _, ok := e.Flag(p.ID); !ok {
			continue
		}
		v, ev, err := e.once(cp, p)
		if err == nil && (math.IsNaN(v.Value) || math.IsNaN(v.SD) || math.IsInf(v.SD, 0)) {
			err = Failure{"the number cannot be computed from these points", ""}
		}
		if err == nil && !Possible(cp.Measure.Kind, v.Value) {
			err = Failure{fmt.Sprintf("%.3g %s cannot be: a flag or a point stands wrong", v.Value, cp.Unit), "a look at the flags that it is read from"}
		}
		if err != nil {
			last = err
			if r.Evidence == nil {
				r.Evidence = ev
			}
			continue
		}
		if len(r.Repetitions) == 0 {
			r.Evidence = ev
		}
		r.Repetitions = append(r.Repetitions, report.Repetition{Position: p.ID, Foot: string(e.feet[p.Nth]), Frame: ev.Frame, Value: v})
	}
	if len(r.Repetitions) == 0 {
		if last == nil {
			name := cp.Position
			for _, p := range e.Model.Repeat.Positions {
				if p.ID == cp.Position {
					name = p.Name
				}
			}
			last = Failure{"no “" + strings.ToLower(name) + "” is flagged", "a flag at one, or tracked feet"}
		}
		return e.judged(r, cp, uncertainty.Estimate{}, r.Evidence, last)
	}
	return e.judged(r, cp, mean(r.Repetitions), r.Evidence, nil)
}

// mean of repetitions: its doubt is the larger of what the single doubts and
// what the scatter between repetitions leave.
func mean(list []report.Repetition) uncertainty.Estimate {
	n := float64(len(list))
	var x, sd, scatter float64
	for _, v := range list {
		x, sd = x+v.Value.Value/n, sd+v.Value.SD*v.Value.SD/n
	}
	for _, v := range list {
		scatter += (v.Value.Value - x) * (v.Value.Value - x)
	}
	if n == 1 {
		return list[0].Value
	}
	return uncertainty.Normal(x, math.Sqrt(math.Max(sd/n, scatter/(n-1)/n)))
}

func (e *Evaluation) stepAt(p model.Position) (report.Step, bool) {
	base := e.Model.Repeat.Positions[0].ID
	on, ok := e.Flag(fmt.Sprintf("%s%d", base, p.Nth))
	if !ok {
		return report.Step{}, false
	}
	for _, s := range e.report.Steps {
		if s.From == on {
			return s, true
		}
	}
	return report.Step{}, false
}

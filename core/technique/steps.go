package technique

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/ground"
	"neokinema/core/uncertainty"
)

// Step is one line of the table of steps.
type Step struct {
	N       int                `json:"n"`
	Foot    body.Side          `json:"foot" enum:"left,right"`
	From    int                `json:"from" doc:"frame of touchdown"`
	To      int                `json:"to" doc:"frame of toe-off"`
	Contact *uncertainty.Value `json:"contact,omitempty" required:"false" doc:"s"`
	Flight  *uncertainty.Value `json:"flight,omitempty" required:"false" doc:"s, up to the next touchdown"`
	Cadence *uncertainty.Value `json:"cadence,omitempty" required:"false" doc:"steps a minute, from this touchdown to the next"`
	Length  *uncertainty.Value `json:"length,omitempty" required:"false" doc:"m, from this touchdown to the next"`
	Next    *int               `json:"next,omitempty" required:"false" doc:"frame of the next touchdown"`
	At      *[2]float64        `json:"at,omitempty" required:"false" doc:"foot print: px of the common frame"`
}

// steps makes the table from the bars of feet on the ground.
func (e *evaluation) steps() {
	e.plane()
	for _, b := range e.report.Bars {
		if b.Name == "front pedal" || b.Name == "rear pedal" {
			continue
		}
		s := Step{N: len(e.report.Steps) + 1, Foot: b.Foot, From: b.From, To: b.To, Contact: b.Seconds}
		if at, ok := e.print(b.Foot, b.From, b.To); ok {
			px := e.view.Picture(at)
			s.At = &[2]float64{px.X, px.Y}
		}
		e.report.Steps = append(e.report.Steps, s)
	}
	for i := 1; i < len(e.report.Steps); i++ {
		a, b := &e.report.Steps[i-1], &e.report.Steps[i]
		if b.From < a.To {
			continue // a walk, or both feet down: no flight
		}
		next := b.From
		a.Next = &next
		if v, err := e.clock.Between(a.To, b.From); err == nil {
			a.Flight = &v
		}
		if v, err := e.clock.Between(a.From, b.From); err == nil && v.X > 0 {
			c := uncertainty.Propagate(func(x []float64) float64 { return 60 / x[0] }, []float64{v.X}, []float64{v.SD})
			a.Cadence = &c
			if l, ok := e.stepLength(*a, *b, v); ok {
				a.Length = &l
			}
		}
	}
}

// print is the place of a foot in the middle of its contact, toe for want of
// nothing better.
func (e *evaluation) print(foot body.Side, from, to int) (r2.Vec, bool) {
	for _, part := range []string{"toe", "ankle"} {
		if p, ok := e.move.Where(string(foot)+"_"+part, (from+to)/2); ok {
			return p, true
		}
		for _, f := range []int{from, to - 1} {
			if p, ok := e.point(e.roles, string(foot)+"_"+part, f); ok {
				return p.at, true
			}
		}
	}
	return r2.Vec{}, false
}

// plane fits the ground if the coach marked it.
func (e *evaluation) plane() {
	if e.in.Ground == nil || len(e.in.Ground.Points) == 0 {
		return
	}
	p, err := ground.Fit(*e.in.Ground, func(f int, q r2.Vec) r2.Vec { return e.in.Camera.Common(f, q) })
	if err != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
		return
	}
	e.report.Ground = p
}

// stepLength is the way from one foot print to the next: on the ground plane if
// there is one, else by the scale; on a belt the way that the belt ran comes on
// top.
func (e *evaluation) stepLength(a, b Step, t uncertainty.Value) (uncertainty.Value, bool) {
	if a.At == nil || b.At == nil || !e.usable() {
		return uncertainty.Value{}, false
	}
	if g := e.report.Ground; g != nil {
		p, q := g.Ground(r2.Vec{X: a.At[0], Y: a.At[1]}), g.Ground(r2.Vec{X: b.At[0], Y: b.At[1]})
		return uncertainty.Normal(q.X-p.X, math.Hypot(g.ErrorCm/100, 0.02)), true
	}
	if e.scale == nil {
		return uncertainty.Value{}, false
	}
	mpp := e.scale.MetresPerPixel
	way := e.view.Direction * (b.At[0] - a.At[0])
	return uncertainty.Propagate(func(x []float64) float64 { return x[1] * (x[0] - e.belt*x[2]) },
		[]float64{way, mpp.X, t.X}, []float64{e.sigma * math.Sqrt2, mpp.SD, t.SD}), true
}

// readGroup reads a checkpoint in every repetition; its value is their mean.
func (e *evaluation) readGroup(cp Checkpoint) Reading {
	r := Reading{ID: cp.ID, Verdict: None, By: "measure"}
	if cp.Measure.Kind == "asymmetry" {
		v, ev, err := e.measure(cp)
		return e.judged(r, cp, v, ev, err)
	}
	var last error
	for _, p := range e.m.Where(cp) {
		if _, ok := e.flag(p.ID); !ok {
			continue
		}
		v, ev, err := e.once(cp, p)
		if err == nil && (math.IsNaN(v.X) || math.IsNaN(v.SD) || math.IsInf(v.SD, 0)) {
			err = failure{"the number cannot be computed from these points", ""}
		}
		if err != nil {
			last = err
			if r.Evidence == nil {
				r.Evidence = ev
			}
			continue
		}
		if len(r.Each) == 0 {
			r.Evidence = ev
		}
		r.Each = append(r.Each, Each{Position: p.ID, Foot: string(e.feet[p.Nth]), Frame: ev.Frame, Value: v})
	}
	if len(r.Each) == 0 {
		if last == nil {
			name := cp.Position
			for _, p := range e.m.Repeat.Positions {
				if p.ID == cp.Position {
					name = p.Name
				}
			}
			last = failure{"no “" + strings.ToLower(name) + "” is flagged", "a flag at one, or tracked feet"}
		}
		return e.judged(r, cp, uncertainty.Value{}, r.Evidence, last)
	}
	return e.judged(r, cp, mean(r.Each), r.Evidence, nil)
}

// mean of repetitions: its doubt is the larger of what the single doubts and
// what the scatter between repetitions leave.
func mean(list []Each) uncertainty.Value {
	n := float64(len(list))
	var x, sd, scatter float64
	for _, v := range list {
		x, sd = x+v.Value.X/n, sd+v.Value.SD*v.Value.SD/n
	}
	for _, v := range list {
		scatter += (v.Value.X - x) * (v.Value.X - x)
	}
	if n == 1 {
		return list[0].Value
	}
	return uncertainty.Normal(x, math.Sqrt(math.Max(sd/n, scatter/(n-1)/n)))
}

func (e *evaluation) stepAt(p Position) (Step, bool) {
	base := e.m.Repeat.Positions[0].ID
	on, ok := e.flag(fmt.Sprintf("%s%d", base, p.Nth))
	if !ok {
		return Step{}, false
	}
	for _, s := range e.report.Steps {
		if s.From == on {
			return s, true
		}
	}
	return Step{}, false
}

// nth is a measure of a repeated group in one repetition: its positions of the
// group are numbered.
func (m Measure) nth(n int) Measure {
	m.Positions = slices.Clone(m.Positions)
	for i, id := range m.Positions {
		if base, ok := strings.CutSuffix(id, "+1"); ok {
			m.Positions[i] = base + strconv.Itoa(n+1)
		} else if base, ok := strings.CutSuffix(id, "#"); ok {
			m.Positions[i] = base + strconv.Itoa(n)
		}
	}
	return m
}

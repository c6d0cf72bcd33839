package compare

import (
	"math"
	"strings"

	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
)

// NormalizedCurve is one curve of two attempts over the phases that both show, each phase
// from 0 to 100 %: what is then apart is form, not duration.
type NormalizedCurve struct {
	ID     string            `json:"id"`
	Name   string            `json:"name"`
	Unit   string            `json:"unit"`
	Phases []NormalizedPhase `json:"phases"`
	Reason string            `json:"reason" doc:"why there is nothing to draw"`
}

// NormalizedPhase is a part of it between two key positions that follow each other.
type NormalizedPhase struct {
	Name    string    `json:"name"`
	From    int       `json:"from" doc:"frame of the first attempt"`
	To      int       `json:"to"`
	A       []float64 `json:"a" doc:"at 0, 5, 10 to 100 %; below -1e8 where there is none"`
	B       []float64 `json:"b"`
	Half95A []float64 `json:"half95_a" doc:"half of the 95 % interval"`
	Half95B []float64 `json:"half95_b"`
	Ratio   float64   `json:"ratio" doc:"duration of the second over that of the first; 0 where it is not known"`
}

// steps is into how many parts a phase is cut.
const steps = 20

// Curves holds a curve of two attempts against each other. Sides are those of the
// first: of a second one that does everything the other way round the other side.
func Curves(m model.Model, a, b evaluate.Input, id string) NormalizedCurve {
	out := NormalizedCurve{ID: id, Phases: []NormalizedPhase{}}
	for _, k := range kinematics.CurveKinds() {
		if k.ID == id {
			out.Name, out.Unit = k.Name, k.Unit
		}
	}
	if out.Name == "" {
		out.Reason = "there is no such curve"
		return out
	}
	ra, ma := evaluate.Incremental(m, a, nil)
	rb, mb := evaluate.Incremental(m, b, nil)
	ea, eb := evaluate.Begin(m, a, ma), evaluate.Begin(m, b, mb)
	other := id
	if mirrored(ea) != mirrored(eb) {
		if l := strings.Replace(id, ":left_", ":right_", 1); l != id {
			other = l
		} else {
			other = strings.Replace(id, ":right_", ":left_", 1)
		}
	}
	ca, cb := evaluate.Curves(m, a, ma, []string{id})[0], evaluate.Curves(m, b, mb, []string{other})[0]
	switch {
	case ca.Reason != "":
		out.Reason = "the first: " + ca.Reason
	case cb.Reason != "":
		out.Reason = "the second: " + cb.Reason
	}
	list := inOrder(moments(m.As(a.Variant), ra, rb), "")
	if len(list) < 2 && out.Reason == "" {
		out.Reason = "the two share fewer than two key positions"
	}
	if out.Reason != "" {
		return out
	}
	names := map[[2]string]string{}
	for _, p := range m.As(a.Variant).Phases {
		names[[2]string{p.From, p.To}] = p.Name
	}
	for i := 1; i < len(list); i++ {
		l, r := list[i-1], list[i]
		p := NormalizedPhase{Name: names[[2]string{l.Position, r.Position}], From: l.A, To: r.A}
		if p.Name == "" {
			p.Name = l.Short + " – " + r.Short
		}
		if ea.Clock.Known() && eb.Clock.Known() {
			p.Ratio = (eb.Clock.At(r.B) - eb.Clock.At(l.B)) / (ea.Clock.At(r.A) - ea.Clock.At(l.A))
		}
		p.A, p.Half95A = sampled(ca, l.A, r.A)
		p.B, p.Half95B = sampled(cb, l.B, r.B)
		out.Phases = append(out.Phases, p)
	}
	return out
}

// sampled reads a curve between two frames at even steps, in between on straight
// lines.
func sampled(c kinematics.Curve, from, to int) (x, half []float64) {
	for i := range steps + 1 {
		at := float64(from) + float64(to-from)*float64(i)/steps
		f := int(at)
		u := at - float64(f)
		v, h := kinematics.None, 0.0
		if f >= 0 && f < len(c.X) && c.X[f] != kinematics.None {
			v, h = c.X[f], c.Half95[f]
			if u > 1e-9 {
				if f+1 < len(c.X) && c.X[f+1] != kinematics.None {
					v, h = v+u*(c.X[f+1]-v), math.Max(h, c.Half95[f+1])
				} else {
					v, h = kinematics.None, 0
				}
			}
		}
		x, half = append(x, v), append(half, h)
	}
	return x, half
}

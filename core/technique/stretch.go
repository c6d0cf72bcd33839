package technique

import (
	"math"
	"strings"

	"neokinema/core/kinematics"
)

// Stretched is one curve of two attempts over the phases that both show, each phase
// from 0 to 100 %: what is then apart is form, not duration.
type Stretched struct {
	ID     string           `json:"id"`
	Name   string           `json:"name"`
	Unit   string           `json:"unit"`
	Phases []StretchedPhase `json:"phases"`
	Why    string           `json:"why" doc:"why there is nothing to draw"`
}

// StretchedPhase is a part of it between two key positions that follow each other.
type StretchedPhase struct {
	Name  string    `json:"name"`
	From  int       `json:"from" doc:"frame of the first attempt"`
	To    int       `json:"to"`
	A     []float64 `json:"a" doc:"at 0, 5, 10 to 100 %; below -1e8 where there is none"`
	B     []float64 `json:"b"`
	HalfA []float64 `json:"half_a" doc:"half of the 95 % interval"`
	HalfB []float64 `json:"half_b"`
	Ratio float64   `json:"ratio" doc:"duration of the second over that of the first; 0 where it is not known"`
}

// stretchSteps is into how many parts a phase is cut.
const stretchSteps = 20

// Stretch holds a curve of two attempts against each other. Sides are those of the
// first: of a second one that does everything the other way round the other side.
func Stretch(m Model, a, b Input, id string) Stretched {
	out := Stretched{ID: id, Phases: []StretchedPhase{}}
	for _, k := range kinematics.CurveKinds() {
		if k.ID == id {
			out.Name, out.Unit = k.Name, k.Unit
		}
	}
	if out.Name == "" {
		out.Why = "there is no such curve"
		return out
	}
	ra, ma := Again(m, a, nil)
	rb, mb := Again(m, b, nil)
	ea, eb := newEvaluation(m, a, ma), newEvaluation(m, b, mb)
	other := id
	if ea.mirrored() != eb.mirrored() {
		if l := strings.Replace(id, ":left_", ":right_", 1); l != id {
			other = l
		} else {
			other = strings.Replace(id, ":right_", ":left_", 1)
		}
	}
	ca, cb := Curves(m, a, ma, []string{id})[0], Curves(m, b, mb, []string{other})[0]
	switch {
	case ca.Why != "":
		out.Why = "the first: " + ca.Why
	case cb.Why != "":
		out.Why = "the second: " + cb.Why
	}
	list := inOrder(moments(m.As(a.Variant), ra, rb), "")
	if len(list) < 2 && out.Why == "" {
		out.Why = "the two share fewer than two key positions"
	}
	if out.Why != "" {
		return out
	}
	names := map[[2]string]string{}
	for _, p := range m.As(a.Variant).Phases {
		names[[2]string{p.From, p.To}] = p.Name
	}
	for i := 1; i < len(list); i++ {
		l, r := list[i-1], list[i]
		p := StretchedPhase{Name: names[[2]string{l.Position, r.Position}], From: l.A, To: r.A}
		if p.Name == "" {
			p.Name = l.Short + " – " + r.Short
		}
		if ea.clock.Known() && eb.clock.Known() {
			p.Ratio = (eb.clock.At(r.B) - eb.clock.At(l.B)) / (ea.clock.At(r.A) - ea.clock.At(l.A))
		}
		p.A, p.HalfA = sampled(ca, l.A, r.A)
		p.B, p.HalfB = sampled(cb, l.B, r.B)
		out.Phases = append(out.Phases, p)
	}
	return out
}

// sampled reads a curve between two frames at even steps, in between on straight
// lines.
func sampled(c kinematics.Curve, from, to int) (x, half []float64) {
	for i := range stretchSteps + 1 {
		at := float64(from) + float64(to-from)*float64(i)/stretchSteps
		f := int(at)
		u := at - float64(f)
		v, h := kinematics.None, 0.0
		if f >= 0 && f < len(c.X) && c.X[f] != kinematics.None {
			v, h = c.X[f], c.Half[f]
			if u > 1e-9 {
				if f+1 < len(c.X) && c.X[f+1] != kinematics.None {
					v, h = v+u*(c.X[f+1]-v), math.Max(h, c.Half[f+1])
				} else {
					v, h = kinematics.None, 0
				}
			}
		}
		x, half = append(x, v), append(half, h)
	}
	return x, half
}

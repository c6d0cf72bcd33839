package worked

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"

	"neokinema/core/body"
	"neokinema/core/runup"
	"neokinema/core/workshop"
)

// Absurdities asks questions with inputs by chance, most of which nobody can have, and tells
// every answer that is no number and every refusal without a word; and how many were answered.
func Absurdities(r *rand.Rand, n int) (bad []string, answered int) {
	questions := workshop.Questions()
	for range n {
		q := questions[r.IntN(len(questions))]
		v := workshop.Values{}
		for _, in := range q.Inputs {
			if r.IntN(4) == 0 {
				continue
			}
			one := func() float64 {
				switch r.IntN(30) {
				case 0:
					return math.NaN()
				case 1:
					return math.Inf(1 - 2*r.IntN(2))
				case 2:
					return in.Lo
				case 3:
					return in.Hi
				case 4:
					return 1e9 * r.NormFloat64()
				}
				if len(in.Options) > 0 {
					return in.Options[r.IntN(len(in.Options))].Value
				}
				return in.Lo + (in.Hi-in.Lo)*r.Float64()
			}
			x := workshop.Value{Value: one(), Half: in.Doubt * r.ExpFloat64()}
			switch r.IntN(12) {
			case 0:
				x.Half = math.Inf(1)
			case 1:
				x.Half = -1
			case 2:
				x.Half = 1e6
			}
			if in.List {
				x.List = make([]float64, r.IntN(9))
				for i := range x.List {
					x.List[i] = in.Lo + (in.Hi-in.Lo)*r.Float64()
				}
				if r.IntN(20) == 0 {
					x.List = append(x.List, one())
				}
			}
			v[in.ID] = x
		}
		a, err := workshop.Ask(q.ID, v, nil)
		var word *workshop.Absurd
		switch {
		case err != nil && (!errors.As(err, &word) || len(word.Says) < 10):
			bad = append(bad, fmt.Sprintf("%s: refused by %v", q.ID, err))
		case err == nil:
			answered++
			for _, l := range a.Lines {
				if !finite(l.Value.Value, l.Value.SD, l.Value.Half95) || l.Value.Half95 < 0 {
					bad = append(bad, fmt.Sprintf("%s, %s: %+v from %v", q.ID, l.ID, l.Value, v))
				}
			}
			if len(a.Lines) == 0 {
				bad = append(bad, q.ID+" answers nothing")
			}
		}
	}
	return bad, answered
}

// LayoutError lays run-ups to the bar out by chance and tells by how much, m, a foot is off its
// arc or its tangent, or a step off its length, at worst; and how many were laid out.
func LayoutError(r *rand.Rand, n int) (worst float64, laid int) {
	for range n {
		side := float64(r.IntN(2))
		c := runup.Curve{Leg: []body.Side{body.Left, body.Right}[int(side)], Straight: 1 + r.IntN(8), Curved: 2 + r.IntN(5), Step: 1.2 + 1.2*r.Float64(), Radius: 5 + 10*r.Float64(),
			Along: -0.5 + 3*r.Float64(), Out: 0.4 + r.Float64(), ToBar: (15 + 40*r.Float64()) * math.Pi / 180, Base: 0.25 * r.Float64(), Outward: 0.4 * r.Float64()}
		a, err := workshop.Ask("high-plan", workshop.Values{"leg": {Value: side}, "straight": {Value: float64(c.Straight)}, "curved": {Value: float64(c.Curved)},
			"step": {Value: c.Step}, "radius": {Value: c.Radius}, "along": {Value: c.Along}, "out": {Value: c.Out}, "tobar": {Value: c.ToBar * 180 / math.Pi}, "base": {Value: c.Base}, "outward": {Value: c.Outward}}, nil)
		if err != nil {
			continue
		}
		laid++
		// Middle and tangent by another way than the layout's: from the plant and the angle there.
		mx, my := c.Along+c.Radius*math.Sin(c.ToBar), c.Out+c.Radius*math.Cos(c.ToBar)
		turn := c.ToBar + float64(c.Curved)*c.Step/c.Radius
		bx, by := mx-c.Radius*math.Sin(turn), my-c.Radius*math.Cos(turn)
		tx, ty := -math.Cos(turn), math.Sin(turn) // back along the tangent
		last := math.NaN()
		for _, p := range a.Places {
			side := c.Base / 2
			if p.Foot != string(c.Leg) {
				side = -side
			}
			if p.N == 1 {
				side -= c.Outward
			}
			if p.N == 0 {
				side = 0
			}
			var off, way float64
			if p.N <= c.Curved {
				// Inward is towards the middle.
				off = c.Radius - math.Hypot(p.X-mx, p.Y-my) - side
				way = (math.Atan2(mx-p.X, my-p.Y) - c.ToBar) * c.Radius
				for way < -1e-6 {
					way += 2 * math.Pi * c.Radius
				}
			} else {
				way = float64(c.Curved)*c.Step + (p.X-bx)*tx + (p.Y-by)*ty
				off = ((p.X-bx)*(mx-bx)+(p.Y-by)*(my-by))/c.Radius - side
			}
			worst = math.Max(worst, math.Abs(off))
			if !math.IsNaN(last) {
				worst = math.Max(worst, math.Abs(last-way-c.Step))
			}
			last = way
		}
	}
	return worst, laid
}

func finite(list ...float64) bool {
	for _, v := range list {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return false
		}
	}
	return true
}

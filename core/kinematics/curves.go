package kinematics

import (
	"math"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/uncertainty"
)

// CurveKind is a curve that a coach may put on the score.
type CurveKind struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Unit  string `json:"unit"`
	Group string `json:"group"`
}

// joints whose inside angle can be drawn: part to the parts on both sides of it.
var joints = []struct{ part, from, to string }{{"knee", "hip", "ankle"}, {"hip", "shoulder", "knee"}, {"ankle", "knee", "toe"}, {"elbow", "shoulder", "wrist"}, {"shoulder", "hip", "elbow"}}

// CurveKinds lists what can be drawn, for a whole body; [Movement.Curve] says
// when its landmarks are missing.
func CurveKinds() []CurveKind {
	var out []CurveKind
	for _, j := range joints {
		for _, s := range []body.Side{body.Left, body.Right} {
			out = append(out, CurveKind{"angle:" + string(s) + "_" + j.part, string(s) + " " + j.part, "°", "angles"})
		}
	}
	out = append(out, CurveKind{"lean:trunk", "trunk lean", "°", "angles"})
	for _, c := range [][2]string{{"mid_hip", "hips"}, {"centre", "centre of mass"}, {"left_ankle", "left ankle"}, {"right_ankle", "right ankle"}, {"ball", "ball"}} {
		out = append(out, CurveKind{"height:" + c[0], c[1] + " height", "cm", "heights"})
	}
	for _, c := range [][2]string{{"mid_hip", "hips"}, {"centre", "centre of mass"}, {"left_toe", "left toe"}, {"right_toe", "right toe"}, {"left_wrist", "left wrist"}, {"right_wrist", "right wrist"}, {"ball", "ball"}} {
		out = append(out, CurveKind{"speed:" + c[0], c[1] + " speed", "m/s", "speeds"})
	}
	for _, id := range append(body.Landmarks(), body.Things...) {
		out = append(out, CurveKind{"x:" + id, body.Label(id) + " along", "px", "single points"}, CurveKind{"y:" + id, body.Label(id) + " up", "px", "single points"})
	}
	return out
}

// Curve is one number over the frames of a clip, with its doubt.
type Curve struct {
	ID     string    `json:"id"`
	From   int       `json:"from"`
	X      []float64 `json:"x" doc:"value a frame; below -1e8 where there is none"`
	Half95 []float64 `json:"half95" doc:"half width of the 95 % interval"`
	Raw    []float64 `json:"raw,omitempty" required:"false" doc:"single points: as placed, before smoothing"`
	Reason string    `json:"reason" doc:"why there is nothing to draw"`
}

// None stands for no value: JSON has no NaN.
const None = -1e9

// Scatter gives the standard deviation of a landmark's place at a frame, px.
type Scatter func(id string, frame int) float64

// Curve draws one kind. Heights need the way from px to metres (0 gives px);
// speeds too; belt is the speed of a treadmill's belt, px/s, forward.
func (m *Movement) Curve(id string, frames int, mpp float64, sex body.Sex, sigma Scatter) Curve {
	c := Curve{ID: id, X: make([]float64, frames), Half95: make([]float64, frames)}
	for i := range c.X {
		c.X[i] = None
	}
	kind, of, _ := strings.Cut(id, ":")
	found := false
	put := func(f int, v uncertainty.Estimate) {
		if f >= 0 && f < frames && !math.IsNaN(v.Value+v.SD) {
			c.X[f], c.Half95[f], found = v.Value, v.Half95, true
		}
	}
	at := func(id string, f int) (r2.Vec, bool) { return m.Where(id, f) }
	switch kind {
	case "angle":
		side, part, _ := strings.Cut(of, "_")
		for _, j := range joints {
			if j.part != part {
				continue
			}
			a, b := side+"_"+j.from, side+"_"+j.to
			for f := range frames {
				p, ok1 := at(a, f)
				v, ok2 := at(of, f)
				q, ok3 := at(b, f)
				if ok1 && ok2 && ok3 {
					s := (sigma(a, f) + sigma(of, f) + sigma(b, f)) / 3
					put(f, uncertainty.Normal(angles.Included(p, v, q), angles.IncludedSD(p, v, q, s)))
				}
			}
		}
	case "lean":
		for f := range frames {
			h, ok1 := at("mid_hip", f)
			s, ok2 := at("mid_shoulder", f)
			if ok1 && ok2 {
				long := r2.Norm(r2.Sub(s, h))
				put(f, uncertainty.Normal(angles.SegmentToVertical(h, s), angles.Deg(math.Hypot(sigma("left_hip", f), sigma("left_shoulder", f))/math.Sqrt2/math.Max(1, long))))
			}
		}
	case "height", "speed":
		p := m.Paths[of]
		if of == "centre" {
			p = m.Centre(sex)
		}
		k, unit := 100*mpp, mpp
		if mpp == 0 {
			k, unit = 1, 1
		}
		ground := m.lowest()
		for f := range frames {
			if kind == "height" {
				q, ok := p.Where(f)
				if of == "mid_hip" {
					q, ok = at(of, f)
				}
				if ok {
					put(f, uncertainty.Normal(k*(q.Y-ground), k*sigma(of, f)))
				}
				continue
			}
			v, ok := p.Velocity(f)
			if of == "mid_hip" {
				a, ok1 := m.Paths["left_hip"].Velocity(f)
				b, ok2 := m.Paths["right_hip"].Velocity(f)
				v, ok = r2.Scale(0.5, r2.Add(a, b)), ok1 && ok2
			}
			if ok {
				// Central differences of smoothed places: scatter over two frames,
				// less what the low pass takes.
				cut := 6.0
				if p != nil && p.Cutoff > 1 {
					cut = p.Cutoff
				}
				sd := sigma(of, f) * math.Min(1, math.Sqrt(2*cut/m.Rate)) * 2 * math.Pi * cut / math.Sqrt(3) * 0.2
				put(f, uncertainty.Normal(unit*r2.Norm(v), unit*sd))
			}
		}
	case "x", "y":
		p := m.Paths[of]
		c.Raw = make([]float64, frames)
		for f := range frames {
			c.Raw[f] = None
			if q, ok := p.Seen(f); ok {
				c.Raw[f] = pick2(q, kind)
			}
			if q, ok := p.Where(f); ok {
				put(f, uncertainty.Normal(pick2(q, kind), sigma(of, f)))
			} else if c.Raw[f] != None {
				put(f, uncertainty.Normal(c.Raw[f], sigma(of, f)))
			}
		}
	}
	if !found {
		c.Reason = "its points are not tracked yet"
	}
	return c
}

func pick2(q r2.Vec, axis string) float64 {
	if axis == "x" {
		return q.X
	}
	return q.Y
}

// lowest is the height of the ground under the feet: the lowest place of any
// foot point over the clip.
func (m *Movement) lowest() float64 {
	low := math.Inf(1)
	for id, p := range m.Paths {
		if !strings.HasSuffix(id, "_toe") && !strings.HasSuffix(id, "_heel") && !strings.HasSuffix(id, "_ankle") {
			continue
		}
		for _, q := range p.At {
			if !math.IsNaN(q.Y) {
				low = math.Min(low, q.Y)
			}
		}
	}
	if math.IsInf(low, 1) {
		return 0
	}
	return low
}

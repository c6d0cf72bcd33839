package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/flight"
	"neokinema/core/vec3"
	"neokinema/simcam/figure"
)

// Thrown is an implement's kind and size.
type Thrown struct {
	Kind           string // hammer, weight, discus, shot, javelin
	Mass, Diameter float64
	Length         float64 // hammer and weight: grip to centre of the ball; javelin: tail to tip
	Wobble         float64 // discus: how far its axis swings to either side in the air, rad
}

// air is how the air treats it.
func (k Thrown) air() flight.Implement {
	switch k.Kind {
	case "hammer":
		return flight.Ball{Mass: k.Mass, Diameter: k.Diameter, WireArea: 0.0036}
	case "weight":
		return flight.Ball{Mass: k.Mass, Diameter: k.Diameter, WireArea: 0.001}
	case "discus":
		return flight.Wobbling{Discus: flight.Discus{Mass: k.Mass, Diameter: k.Diameter}, Half: k.Wobble}
	case "javelin":
		return flight.Javelin{Mass: k.Mass, Length: k.Length}
	}
	return flight.Ball{Mass: k.Mass, Diameter: k.Diameter}
}

// ReleaseState is how an implement leaves.
type ReleaseState struct {
	Time     float64    `json:"t" doc:"true time since frame 0, s"`
	Position [3]float64 `json:"position" doc:"centre of the implement, m"`
	Velocity [3]float64 `json:"velocity" doc:"m/s"`
	Speed    float64    `json:"speed" doc:"m/s"`
	Angle    float64    `json:"angle" doc:"up from level, degrees"`
	Height   float64    `json:"height" doc:"m"`
	Aside    float64    `json:"aside" doc:"to the right of the middle of the sector, degrees"`
	Attack   float64    `json:"attack" doc:"discus and javelin: attitude minus path angle, degrees"`
}

// trajectory is a free flight of an implement.
type trajectory struct {
	kind    Thrown
	samples []flight.Sample
	axis    r3.Vec // direction that is kept: disc axis (the middle of its wobble), shaft; for a wire where the grip trails at release
}

// throw follows the implement from its release, on the tangent of its path.
func (m *Motion) throw() *trajectory {
	st := m.Leaving()
	tr := &trajectory{kind: m.Thrown, axis: r3.Vec(st.Axis)}
	if w := m.Thrown.Wobble; w != 0 {
		// It leaves at one end of its wobble, nose up.
		tr.axis = turned(tr.axis, r3.Vec(st.Velocity), w)
		st.Axis = vec3.Vec(tr.axis)
	}
	samples, err := flight.Fly(m.Thrown.air(), flight.Still, st, m.Thrown.Diameter/2, m.Last-m.Release+0.2)
	if err != nil && err != flight.ErrNever {
		panic(err) // a motion of finite keys has finite states
	}
	tr.samples = samples
	return tr
}

// Leaving is the state of the implement at release: its velocity is the slope
// of its path in the hand.
func (m *Motion) Leaving() flight.State {
	const h = 1e-4
	at := func(t float64) Implement {
		p := m.pose(t)
		b := m.Sizes.Place(&p)
		return m.implement(m, t, &b, &p)
	}
	release := m.rhythm.written(m.Release)
	a, b, c := at(release-2*h), at(release-h), at(release)
	// One-sided differences of second order: after release the hand goes its own way.
	v := r3.Scale(1/(2*h), r3.Add(r3.Sub(r3.Scale(3, c["centre"]), r3.Scale(4, b["centre"])), a["centre"]))
	return flight.State{Position: vec3.Vec(c["centre"]), Velocity: vec3.Vec(v), Axis: vec3.Vec(c.axis())}
}

func (im Implement) axis() r3.Vec {
	if tip, ok := im["tip"]; ok {
		return r3.Unit(r3.Sub(tip, im["tail"]))
	}
	if pole, ok := im["axis"]; ok {
		return r3.Unit(r3.Sub(pole, im["centre"]))
	}
	if grip, ok := im["grip"]; ok {
		return r3.Unit(r3.Sub(im["centre"], grip))
	}
	return r3.Vec{}
}

// at gives the implement at a time after its release.
func (tr *trajectory) at(s float64) Implement {
	last := tr.samples[len(tr.samples)-1]
	pos, vel, axis := r3.Vec(last.Position), r3.Vec(last.Velocity), r3.Vec(last.Axis)
	for i := 1; i < len(tr.samples); i++ {
		a, b := tr.samples[i-1], tr.samples[i]
		if s <= b.Time {
			h := b.Time - a.Time
			u := (s - a.Time) / h
			u2, u3 := u*u, u*u*u
			pos = r3.Add(figure.Sum(2*u3-3*u2+1, r3.Vec(a.Position), 3*u2-2*u3, r3.Vec(b.Position), 0, pos), figure.Sum((u3-2*u2+u)*h, r3.Vec(a.Velocity), (u3-u2)*h, r3.Vec(b.Velocity), 0, pos))
			vel = figure.Between(r3.Vec(a.Velocity), r3.Vec(b.Velocity), u)
			axis = r3.Unit(figure.Between(r3.Vec(a.Axis), r3.Vec(b.Axis), u))
			break
		}
	}
	if tr.kind.Kind == "javelin" {
		return tr.kind.points(pos, axis) // the air turns it
	}
	return tr.kind.points(pos, tr.trail(s, vel))
}

// turned tips an axis forward along a velocity.
func turned(axis, vel r3.Vec, by float64) r3.Vec {
	return r3.Rotate(axis, by, r3.Unit(r3.Cross(axis, vel)))
}

// wobbles is how often a second a badly released disc wobbles: about twice its spin.
// Common practice, no source.
const wobbles = 11.0

// trail is where an implement's axis points: kept, but a wire comes to trail
// behind the ball, and a disc may wobble.
func (tr *trajectory) trail(s float64, vel r3.Vec) r3.Vec {
	if w := tr.kind.Wobble; w != 0 {
		return r3.Rotate(turned(tr.axis, r3.Vec(tr.samples[0].Velocity), -w), 2*math.Pi*wobbles*s, tr.axis)
	}
	if tr.kind.Length == 0 {
		return tr.axis
	}
	u := math.Min(1, s/0.35)
	mixed := figure.Sum(1-u, tr.axis, u, r3.Unit(vel), 0, vel)
	if r3.Norm(mixed) < 1e-6 {
		return tr.axis
	}
	return r3.Unit(mixed)
}

// points names an implement's points from its centre and axis.
func (k Thrown) points(centre, axis r3.Vec) Implement {
	im := Implement{"centre": centre}
	switch k.Kind {
	case "hammer", "weight":
		im["grip"] = r3.Sub(centre, r3.Scale(k.Length, axis))
	case "discus":
		im["axis"] = r3.Add(centre, r3.Scale(0.1, axis))
	case "javelin":
		im["tip"], im["tail"] = r3.Add(centre, r3.Scale(0.42*k.Length, axis)), r3.Sub(centre, r3.Scale(0.58*k.Length, axis))
	}
	return im
}

// PolePoint names the points along a pole, tip first.
func PolePoint(i int) string { return "pole_" + string(rune('a'+i)) }

package technique

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/doubt"
	"neokinema/core/start"
)

// BlockQuestion asks what a moved pedal would do.
type BlockQuestion struct {
	Pedal  string  `json:"pedal" enum:"front,rear"`
	Shift  float64 `json:"shift" doc:"m towards the line" minimum:"-0.6" maximum:"0.6"`
	Wanted float64 `json:"wanted" doc:"knee angle, degrees" minimum:"40" maximum:"180"`
}

// Blocks answers a question about the pedals from the set position of an
// attempt. The error says which point or flag is missing.
func Blocks(m Model, in Input, q BlockQuestion) (start.WhatIf, error) {
	e := newEvaluation(m, in)
	e.findScale()
	frame, ok := e.flag("set")
	if !ok {
		return start.WhatIf{}, failure{"flag the set position first", ""}
	}
	if e.scale == nil {
		return start.WhatIf{}, failure{"place hip, knee and ankle of a leg in set first", ""}
	}
	need := map[string]seen{}
	for _, role := range []string{"front_hip", "front_knee", "front_ankle", "rear_hip", "rear_knee", "rear_ankle"} {
		p, ok := e.point(role, frame)
		if !ok {
			return start.WhatIf{}, failure{"place " + body.Label(e.roles.Resolve(role)[0]) + " in set first", ""}
		}
		need[role] = p
	}
	mpp := e.scale.MetresPerPixel
	across := func(a, b string, f func(r2.Vec) float64) doubt.Value {
		p, q := need[a], need[b]
		return doubt.Propagate(func(v []float64) float64 {
			return v[4] * f(r2.Vec{X: v[0] - v[2], Y: v[1] - v[3]})
		}, []float64{p.at.X, p.at.Y, q.at.X, q.at.Y, mpp.X}, []float64{p.sigma, p.sigma, q.sigma, q.sigma, mpp.SD})
	}
	forward := func(v r2.Vec) float64 { return v.X }
	length := func(v r2.Vec) float64 { return math.Hypot(v.X, v.Y) }
	leg := start.Leg{
		Thigh: across(q.Pedal+"_hip", q.Pedal+"_knee", length),
		Shank: across(q.Pedal+"_knee", q.Pedal+"_ankle", length),
		Ahead: across(q.Pedal+"_hip", q.Pedal+"_ankle", forward),
		Above: across(q.Pedal+"_hip", q.Pedal+"_ankle", func(v r2.Vec) float64 { return v.Y }),
	}
	return start.Ask(leg, across("front_ankle", "rear_ankle", forward), q.Pedal == "front", q.Shift, q.Wanted), nil
}

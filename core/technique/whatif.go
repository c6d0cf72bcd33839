package technique

import (
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/blocks"
	"neokinema/core/body"
)

// BlockQuestion asks what a moved pedal would do.
type BlockQuestion struct {
	Pedal  string  `json:"pedal" enum:"front,rear"`
	Shift  float64 `json:"shift" doc:"m towards the line" minimum:"-0.6" maximum:"0.6"`
	Wanted float64 `json:"wanted" doc:"knee angle, degrees" minimum:"40" maximum:"180"`
}

// Blocks answers a question about the pedals from the set position of an
// attempt. The error says which point or flag is missing.
func Blocks(m Model, in Input, q BlockQuestion) (blocks.WhatIf, error) {
	e := newEvaluation(m, in, nil)
	e.findScale()
	e.findContacts()
	e.findPositions()
	frame, ok := e.flag("set")
	if !ok {
		return blocks.WhatIf{}, failure{"flag the set position first", ""}
	}
	if e.scale == nil {
		return blocks.WhatIf{}, failure{"place hip, knee and ankle of a leg in set first", ""}
	}
	roles := []string{q.Pedal + "_hip", q.Pedal + "_knee", "front_ankle", "rear_ankle"}
	// Inputs: two numbers for each point, then the scale.
	var x, sd []float64
	for _, role := range roles {
		p, ok := e.point(e.roles, role, frame)
		if !ok {
			return blocks.WhatIf{}, failure{"place " + body.Label(e.roles.Resolve(role)[0]) + " in set first", ""}
		}
		x, sd = append(x, p.at.X, p.at.Y), append(sd, p.sigma, p.sigma)
	}
	x, sd = append(x, e.scale.MetresPerPixel.X), append(sd, e.scale.MetresPerPixel.SD)
	foot := 2
	if q.Pedal == "rear" {
		foot = 3
	}
	geometry := func(v []float64) blocks.Geometry {
		mpp := v[len(v)-1]
		at := func(i int) r2.Vec { return r2.Scale(mpp, r2.Vec{X: v[2*i], Y: v[2*i+1]}) }
		hip, knee, ankle := at(0), at(1), at(foot)
		return blocks.Geometry{
			Thigh: r2.Norm(r2.Sub(hip, knee)), Shank: r2.Norm(r2.Sub(knee, ankle)),
			Ahead: hip.X - ankle.X, Above: hip.Y - ankle.Y, Spacing: at(2).X - at(3).X,
		}
	}
	return blocks.Ask(x, sd, geometry, q.Pedal == "front", q.Shift, q.Wanted), nil
}

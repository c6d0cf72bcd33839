package evaluate

import (
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/blocks"
	"neokinema/core/body"
	"neokinema/core/model"
)

// BlockQuestion asks what a moved pedal would do.
type BlockQuestion struct {
	Pedal  string  `json:"pedal" enum:"front,rear"`
	Shift  float64 `json:"shift" doc:"m towards the line" minimum:"-0.6" maximum:"0.6"`
	Wanted float64 `json:"wanted" doc:"knee angle, degrees" minimum:"40" maximum:"180"`
}

// Blocks answers a question about the pedals from the set position of an
// attempt. The error says which point or flag is missing.
func Blocks(m model.Model, in Input, q BlockQuestion) (blocks.WhatIf, error) {
	e := Begin(m, in, nil)
	e.Locate()
	frame, ok := e.Flag("set")
	if !ok {
		return blocks.WhatIf{}, Failure{"flag the set position first", ""}
	}
	if e.Scale == nil {
		return blocks.WhatIf{}, Failure{"place hip, knee and ankle of a leg in set first", ""}
	}
	roles := []string{q.Pedal + "_hip", q.Pedal + "_knee", "front_ankle", "rear_ankle"}
	// Inputs: two numbers for each point, then the scale.
	var x, sd []float64
	for _, role := range roles {
		p, ok := e.Point(e.Roles, role, frame)
		if !ok {
			return blocks.WhatIf{}, Failure{"place " + body.Label(e.Roles.Resolve(role)[0]) + " in set first", ""}
		}
		x, sd = append(x, p.At.X, p.At.Y), append(sd, p.Sigma, p.Sigma)
	}
	x, sd = append(x, e.Scale.MetresPerPixel.Value), append(sd, e.Scale.MetresPerPixel.SD)
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

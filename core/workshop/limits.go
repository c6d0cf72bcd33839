package workshop

import (
	"fmt"
	"math"

	"neokinema/core/flight"
	"neokinema/core/uncertainty"
)

var limits = []Question{
	{
		ID: "pull", Group: Limits, Name: "Pull over the turns", Events: []string{"hammer", "weight"},
		Says:   "How hard the ball pulls in each turn at a speed, and what one turn more brings.",
		Source: "F = m v²/r, the force on a circle",
		Inputs: []Input{
			{ID: "ball", Name: "Implement", Unit: "kg", Lo: 2, Hi: 30, Usual: 7.26, Doubt: 0, Step: 0.5, Fact: "implement-mass"},
			{ID: "speed", Name: "Speed at the release", Unit: "m/s", Lo: 5, Hi: 35, Usual: 22, Doubt: 0.5, Step: 0.5, Fact: "release-speed"},
			turnsDone, wire, winds, bodyMass,
		},
		answer: pull,
	},
	{
		ID: "plant", Group: Limits, Name: "Load of curve and plant", Events: []string{"high-jump", "long-jump"},
		Says:   "What the leg carries in the curve and on the take-off foot, as information.",
		Source: "mean force = change of momentum over time, with the body’s weight",
		Inputs: []Input{
			{ID: "mass", Name: "Body mass", Unit: "kg", Lo: 20, Hi: 150, Usual: 65, Doubt: 1, Step: 1, Fact: "body-mass"},
			{ID: "speed", Name: "Speed into the plant", Unit: "m/s", Lo: 2, Hi: 12, Usual: 7, Doubt: 0.3, Step: 0.1, Fact: "plant-speed"},
			{ID: "level", Name: "Speed along the ground at the toe-off", Unit: "m/s", Lo: 0.5, Hi: 12, Usual: 4.5, Doubt: 0.3, Step: 0.1, Fact: "jump-level"},
			{ID: "upward", Name: "Speed upward at the toe-off", Unit: "m/s", Lo: 0.3, Hi: 6, Usual: 3.6, Doubt: 0.2, Step: 0.05, Fact: "jump-upward"},
			{ID: "down", Name: "Speed downward as the foot lands", Unit: "m/s", Lo: 0, Hi: 2, Usual: 0.3, Doubt: 0.2, Step: 0.05, More: true},
			{ID: "contact", Name: "Take-off contact", Unit: "ms", Lo: 60, Hi: 400, Usual: 170, Doubt: 8, Step: 1, Fact: "takeoff-contact"},
			{ID: "radius", Name: "Radius of the curve", Unit: "m", Lo: 3, Hi: 30, Usual: 9, Doubt: 0.5, Step: 0.25, Fact: "curve-radius", Optional: true},
		},
		answer: plantLoad,
	},
}

func pull(g given) (Answer, error) {
	a := Answer{Surer: "Speed and radius from a clip from behind with the circle marked and the ball tracked."}
	a.turns(g, g.of("speed"), g.at("ball"))
	for i, l := range a.Lines {
		if l.ID == "pull" {
			a.Lines[i].Main = true
		}
	}
	// One turn more at the same gain a turn.
	n := g.at("turns")
	gain := (1 - g.at("share")/100) / n
	more := g.of("speed").Scale(1 + gain)
	then := uncertainty.Propagate(func(v []float64) float64 { return g.at("ball") * v[0] * v[0] / v[1] }, []float64{more.Value, g.at("radius")}, []float64{more.SD, g.of("radius").SD})
	now, _ := a.Line("pull")
	a.Lines = append(a.Lines, Line{ID: "one-more", Name: "Pull after one turn more with the same gain", Unit: "N", Value: then})
	weights, _ := a.Line("pull-body")
	a.Says = []string{fmt.Sprintf("At the release the ball pulls with %.1f times the body’s weight; one turn more with the same gain would make it %s.", weights.Value.Value, shift100(then.Value/now.Value.Value-1))}
	return a, nil
}

func plantLoad(g given) (Answer, error) {
	if g.at("level") > g.at("speed")+0.5 {
		return Answer{}, fmt.Errorf("nobody leaves the ground faster (%.1f m/s) than he came (%.1f m/s): check both", g.at("level"), g.at("speed"))
	}
	up := g.follow(func(v []float64) float64 { return 1 + (v[0]+v[1])/(flight.Gravity*v[2]/1000) }, "upward", "down", "contact")
	brake := g.follow(func(v []float64) float64 { return (v[0] - v[1]) / (flight.Gravity * v[2] / 1000) }, "speed", "level", "contact")
	a := Answer{Lines: []Line{
		{ID: "up", Name: "Mean push upward on the take-off leg, body weights", Digits: 1, Value: up, Main: true},
		{ID: "brake", Name: "Mean braking, body weights", Digits: 1, Value: brake},
		{ID: "newton", Name: "Mean push upward", Unit: "N", Value: uncertainty.Propagate(func(v []float64) float64 { return v[0] * v[1] * kgf }, []float64{up.Value, g.at("mass")}, []float64{up.SD, g.of("mass").SD})},
	},
		Says:    []string{fmt.Sprintf("On the mean of the contact the leg carries %.1f times the body’s weight; the peak in its first part is higher, and no clip tells by how much.", up.Value)},
		Surer:   "Contact and speeds from a clip from the side at 240 pictures a second or more.",
		Caution: "Information, never a promise and never a limit for a body. Full take-offs are counted, children do few, and pain in knee, ankle or back ends them; then a physician or physiotherapist decides.",
	}
	if g.has("radius") {
		side := g.follow(func(v []float64) float64 { return v[0] * v[0] / (flight.Gravity * v[1]) }, "speed", "radius")
		whole := g.follow(func(v []float64) float64 { return math.Hypot(1, v[0]*v[0]/(flight.Gravity*v[1])) }, "speed", "radius")
		a.Lines = append(a.Lines,
			Line{ID: "side", Name: "Sideways in the curve, body weights", Digits: 2, Value: side},
			Line{ID: "curve", Name: "Along the leaning leg in the curve on the mean, body weights", Digits: 2, Value: whole})
	}
	return a, nil
}

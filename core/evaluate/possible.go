package evaluate

import (
	"math"
	"slices"

	"neokinema/core/uncertainty"
)

// limits are what readings of a kind can be; outside them something was mistaken for
// something else. Definitions where there is no remark.
var limits = map[string][2]float64{
	"joint":    {0, 180},
	"contact":  {30, 450}, // ms; who stands longer does not run. Common practice
	"flight":   {0, 1500}, // no jump of a person lasts longer
	"duration": {0, 20000},
	"share":    {0, 100},
	"duty":     {0, 100},
	"cadence":  {0, 400}, // steps a minute
	"length":   {0, 4},   // m
	"speed":    {0, 13},  // m/s
}

// Possible tells whether a reading of a kind of measure can have a value.
func Possible(kind string, v float64) bool {
	l, ok := limits[kind]
	return !ok || v >= l[0] && v <= l[1]
}

// sizes are kinds whose value is a size: one that is known no better than to itself tells nothing.
var sizes = []string{"pace", "speed", "step_speed", "leaves_speed", "release_speed", "ball_speed", "length", "step_length", "travel", "curve_radius", "turn_radius", "turn_pull", "force", "k_leg", "k_vert", "cadence"}

// TellsNothing tells whether the doubt of a reading is as large as what is read.
func TellsNothing(kind string, v uncertainty.Estimate) bool {
	return v.Half95 >= math.Abs(v.Value) && slices.Contains(sizes, kind)
}

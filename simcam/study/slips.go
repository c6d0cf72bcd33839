package study

import (
	"math"

	"neokinema/core/calibration"
	"neokinema/core/evaluate"
)

// Slip is a mistake of who enters a clip, in what the clip itself can tell.
type Slip struct {
	Of   string // what was entered wrongly
	Name string
	Make func(a Attempt, in *evaluate.Input)
}

// Slips are those that are tried.
var Slips = []Slip{
	{"scale", "half as long again", func(a Attempt, in *evaluate.Input) { in.Scale = a.line(1.5) }},
	{"scale", "half as long", func(a Attempt, in *evaluate.Input) { in.Scale = a.line(0.5) }},
	{"scale", "ten times as long", func(a Attempt, in *evaluate.Input) { in.Scale = a.line(10) }},
	{"view", "from another side", func(a Attempt, in *evaluate.Input) {
		if in.Clip.View = "back"; a.Spec.Camera.Place == "back" {
			in.Clip.View = "side"
		}
	}},
	{"rate", "twice as fast", func(_ Attempt, in *evaluate.Input) { in.Clip.CaptureRate *= 2 }},
	{"rate", "four times as fast", func(_ Attempt, in *evaluate.Input) { in.Clip.CaptureRate *= 4 }},
	{"rate", "half as fast", func(_ Attempt, in *evaluate.Input) { in.Clip.CaptureRate /= 2 }},
	{"rate", "a quarter as fast", func(_ Attempt, in *evaluate.Input) { in.Clip.CaptureRate /= 4 }},
}

// line is what a coach draws on two metres beside the athlete, said to be so many times as long.
func (a Attempt) line(times float64) *calibration.Line {
	const long = 2.0 // m
	return &calibration.Line{AX: 300, AY: 600, BX: 300 + long*a.Tall()/a.Spec.Athlete.Height, BY: 600, Metres: long * times}
}

// HideHigh takes the implement out of the picture for some time about each of its high points
// before the release, and tells in which frames; none where nothing goes round.
func (a Attempt) HideHigh(in *evaluate.Input, seconds float64) (hidden []int) {
	ball, t := in.Points["ball"], a.Scene.Truth
	if ball == nil {
		return nil
	}
	high := func(f int) float64 { return t.Frames[f].Implement["centre"].World[1] }
	release, beside := t.Positions["release"], int(math.Round(0.1*a.Spec.CaptureRate))
	for f := beside; f < min(release, len(t.Frames)-beside); f++ {
		top := true
		for g := f - beside; g <= f+beside; g++ {
			top = top && high(g) <= high(f)
		}
		half := int(math.Round(seconds / 2 * a.Spec.CaptureRate))
		for g := max(0, f-half); top && g <= min(f+half, release-1); g++ {
			_ = ball.Set(g, nil)
			hidden = append(hidden, g)
		}
	}
	return hidden
}

// Package contact finds when a foot is on the ground: from flags that the coach set, from
// the tracks of the foot (detect.go), and from the shoe in the picture (picture.go).
package contact

import (
	"neokinema/core/body"
	"neokinema/core/timebase"
	"neokinema/core/uncertainty"
)

// Interval is one ground (or block) contact of one foot.
type Interval struct {
	Foot    body.Side             `json:"foot" enum:"left,right"`
	Name    string                `json:"name" doc:"such as 'front block' or 'step 1'"`
	From    int                   `json:"from" doc:"frame of touchdown"`
	To      int                   `json:"to" doc:"frame of toe-off"`
	Since   int                   `json:"since" doc:"frame from which the time counts: From, or the first movement on a pedal"`
	FromSD  float64               `json:"from_sd,omitempty" required:"false" doc:"standard deviation of touchdown, s, beside the doubt of one frame"`
	ToSD    float64               `json:"to_sd,omitempty" required:"false" doc:"of toe-off"`
	Seconds *uncertainty.Estimate `json:"seconds,omitempty" required:"false" doc:"true duration from Since to To; absent while the capture rate is unknown"`
}

// Glimpse is a contact that is there, one end of which alone, or neither, is known surely
// enough to be stated.
type Glimpse struct {
	Foot body.Side `json:"foot" enum:"left,right"`
	From int       `json:"from" doc:"frame of touchdown"`
	To   int       `json:"to" doc:"frame of toe-off"`
	Open string    `json:"open" enum:"from,to,both" doc:"the end that is not known: about there"`
}

// Spread gives contacts that were found among some frames alone the numbers that these
// frames have in the clip; nil for all frames.
func Spread(list []Contact, frames []int) []Contact {
	if len(frames) < 2 {
		return list
	}
	out := make([]Contact, len(list))
	apart := float64(frames[len(frames)-1]-frames[0]) / float64(len(frames)-1)
	for i, c := range list {
		c.From, c.To = frames[max(0, min(c.From, len(frames)-1))], frames[max(0, min(c.To, len(frames)-1))]
		c.FromSD, c.ToSD = c.FromSD*apart, c.ToSD*apart
		out[i] = c
	}
	return out
}

// Between makes a bar from flagged frames; ok is false when they do not follow
// each other.
func Between(c timebase.Clock, foot body.Side, name string, from, since, to int) (bar Interval, ok bool) {
	if from < 0 || since < from || to <= since || to >= c.Len() {
		return Interval{}, false
	}
	bar = Interval{Foot: foot, Name: name, From: from, To: to, Since: since}
	if v, err := c.Between(since, to); err == nil {
		bar.Seconds = &v
	}
	return bar, true
}

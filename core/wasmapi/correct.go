package wasmapi

import (
	"fmt"

	"neokinema/core/kinematics"
	"neokinema/core/track"
)

// correct answers a correction with the changes that it makes.
func (s *Session) correct(c CorrectCall) (CorrectAnswer, error) {
	a := CorrectAnswer{Changes: kinematics.Points{}}
	if c.To < c.From && c.Kind != "bend" || c.From < 0 {
		return a, fmt.Errorf("a range runs from an earlier to a later frame, not from %d to %d", c.From, c.To)
	}
	on := func(id string) *track.Track {
		if t := c.Tracks[id]; t != nil {
			return t
		}
		if t := s.points[id]; t != nil {
			return t
		}
		return track.New(0)
	}
	for _, id := range c.Landmarks {
		switch c.Kind {
		case "bend":
			t, err := on(id).Bend(c.From, track.Point{X: c.X, Y: c.Y, Source: track.Hand.String(), Confidence: 1, Hidden: c.Hidden}, c.Radius)
			if err != nil {
				return a, err
			}
			a.Changes[id] = t
		case "fill":
			t, err := on(id).Fill(c.From, c.To, c.To-c.From+1)
			if err != nil {
				a.Missing = err.Error()
				continue
			}
			if t.Len() > 0 {
				a.Changes[id] = t
			}
		case "swap":
			l, r := "left_"+id, "right_"+id
			a.Changes[l], a.Changes[r] = track.Swap(on(l), on(r), c.From, c.To)
		case "clear":
			a.Changes[id] = track.Clear(c.From, c.To)
		default:
			return a, fmt.Errorf("there is no correction %q", c.Kind)
		}
	}
	return a, nil
}

package points

import (
	"math"
	"strings"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/timebase"
	"neokinema/core/track"
)

// One movement in another clip: what is read must not depend on it.

// otherThan is the other side, of an empty one than usual.
func otherThan(s, usual body.Side) body.Side {
	if s == "" {
		s = usual
	}
	return s.Other()
}

// Mirrored is the clip as a mirror shows it.
func Mirrored(in evaluate.Input) evaluate.Input {
	in.Clip.Direction = -in.Clip.Direction
	in.Athlete.FrontLeg = otherThan(in.Athlete.FrontLeg, body.Left)
	in.Athlete.ThrowingHand = otherThan(in.Athlete.ThrowingHand, body.Right)
	in.Athlete.TakeoffLeg = otherThan(in.Athlete.TakeoffLeg, body.Left)
	pts := kinematics.Points{}
	for id, t := range in.Points {
		other := id
		if rest, ok := strings.CutPrefix(id, "left_"); ok {
			other = "right_" + rest
		} else if rest, ok := strings.CutPrefix(id, "right_"); ok {
			other = "left_" + rest
		}
		m := track.New(0)
		for f := t.From; f < t.End(); f++ {
			if p, ok := t.At(f); ok {
				p.X = float64(in.Clip.Width) - p.X
				_ = m.Set(f, &p)
			}
		}
		pts[other] = m
	}
	in.Points = pts
	var contacts []contact.Contact
	for _, c := range in.Contacts {
		c.Foot = c.Foot.Other()
		contacts = append(contacts, c)
	}
	in.Contacts = contacts
	return in
}

// Slowed is the clip as a program exports it that shows each picture so many times.
func Slowed(in evaluate.Input, each int) evaluate.Input {
	n := len(in.Clip.Stamps)
	in.Clip.CaptureRate *= float64(each)
	in.Clip.Stamps = nil
	for i := range n * each {
		in.Clip.Stamps = append(in.Clip.Stamps, int64(math.Round(float64(i)*90000/in.Clip.FileRate)))
	}
	in.Clip.Pictures = timebase.Pictures(strings.Repeat("."+strings.Repeat("r", each-1), n))
	pts := kinematics.Points{}
	for id, t := range in.Points {
		m := track.New(0)
		for f := t.From; f < t.End(); f++ {
			if p, ok := t.At(f); ok {
				for k := range each {
					_ = m.Set(f*each+k, &p)
				}
			}
		}
		pts[id] = m
	}
	in.Points = pts
	return in
}

package exchange

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/track"
	"neokinema/core/vec3"
)

// Pixels is the unit of points in a picture: x to the right, y down, z 0.
const Pixels = "px"

// Names of the moments of feet, as laboratories give them to the events of a take.
const (
	strike = "Foot Strike"
	off    = "Foot Off"
)

// TakeOf is a clip's points in the picture, its contacts and its flags as a take.
func TakeOf(p kinematics.Points, frames int, rate float64, contacts []contact.Interval, flags map[string]int) Take {
	return takeOf(slices.Sorted(maps.Keys(p)), Pixels, frames, rate, contacts, flags, func(id string, f int) Place {
		q, ok := p.At(id, f)
		return Place{X: q.X, Y: q.Y, Valid: ok}
	})
}

// SpaceOf are places in the world as a take: mm, as laboratories have them with x along the way,
// y to its left and z up. At are those of landmarks frame by frame, m with y up and z to the
// right, NaN where there is none.
func SpaceOf(at map[string][]vec3.Vec, frames int, rate float64, contacts []contact.Interval, flags map[string]int) Take {
	return takeOf(slices.Sorted(maps.Keys(at)), "mm", frames, rate, contacts, flags, func(id string, f int) Place {
		if f >= len(at[id]) || math.IsNaN(at[id][f].X) {
			return Place{}
		}
		q := at[id][f]
		return Place{X: 1000 * q.X, Y: -1000 * q.Z, Z: 1000 * q.Y, Valid: true}
	})
}

// takeOf is a take of points that are where in each frame.
func takeOf(labels []string, units string, frames int, rate float64, contacts []contact.Interval, flags map[string]int, where func(id string, frame int) Place) Take {
	out := Take{Rate: rate, Units: units, Labels: labels}
	for f := range frames {
		row := make([]Place, len(labels))
		for i, id := range labels {
			row[i] = where(id, f)
		}
		out.Frames = append(out.Frames, row)
	}
	at := func(frame int) float64 { return float64(frame) / rate }
	for _, c := range contacts {
		context := "Left"
		if c.Foot == body.Right {
			context = "Right"
		}
		out.Events = append(out.Events, Event{context, strike, at(c.From)}, Event{context, off, at(c.To)})
	}
	for id, f := range flags {
		if f >= 0 {
			out.Events = append(out.Events, Event{"General", id, at(f)})
		}
	}
	slices.SortStableFunc(out.Events, func(a, b Event) int {
		if a.Time != b.Time {
			return int(math.Copysign(1, a.Time-b.Time))
		}
		return strings.Compare(a.Context+a.Label, b.Context+b.Label)
	})
	return out
}

// known is the landmark or thing that a label stands for; empty for none.
func known(label string) string {
	name := strings.ToLower(strings.TrimSpace(label))
	if other, ok := otherNames[name]; ok {
		name = other
	}
	if !body.Known(name) && !body.IsThing(name) {
		return ""
	}
	return name
}

// resampled are points in the frames of a clip.
func resampled(p kinematics.Points, first, frames int, step, sx, sy float64) kinematics.Points {
	out := kinematics.Points{}
	for id, t := range p {
		to := track.New(frames)
		for f := max(0, first); f < frames; f++ {
			at := float64(f-first) * step
			i := int(math.Floor(at + 1e-9))
			share := math.Max(0, at-float64(i))
			a, ok := t.At(i)
			if b, next := t.At(i + 1); ok && share > 1e-6 {
				if ok = next; next {
					a.X, a.Y = a.X+share*(b.X-a.X), a.Y+share*(b.Y-a.Y)
				}
			}
			if ok {
				a.X, a.Y = sx*a.X, sy*a.Y
				_ = to.Set(f, &a) // within the limits that it was read with
			}
		}
		if to.Count() > 0 {
			out[id] = to
		}
	}
	return out
}

// ErrUnits is of a take whose points are places in the world and not in a picture.
var ErrUnits = fmt.Errorf("these points are no places in a picture: their unit is not %s", Pixels)

// Points are those of a take in the picture, as a draft, with the frames of events by name:
// positions of a technique model keep theirs.
func (t Take) Points() (kinematics.Points, map[string]int, error) {
	if t.Units != Pixels {
		return nil, nil, ErrUnits
	}
	out := kinematics.Points{}
	for i, name := range t.Labels {
		if name = known(name); name == "" {
			continue
		}
		tr := track.New(len(t.Frames))
		for f, row := range t.Frames {
			if q := row[i]; q.Valid {
				if err := tr.Set(f, &track.Point{X: q.X, Y: q.Y, Source: track.Draft.String(), Confidence: 0.9}); err != nil {
					return nil, nil, fmt.Errorf("frame %d, %s: %w", f, name, err)
				}
			}
		}
		if tr.Count() > 0 {
			out[name] = tr
		}
	}
	if len(out) == 0 {
		return nil, nil, ErrNobody
	}
	flags := map[string]int{}
	for _, e := range t.Events {
		if e.Label != strike && e.Label != off {
			flags[e.Label] = int(math.Round(e.Time * t.Rate))
		}
	}
	return out, flags, nil
}

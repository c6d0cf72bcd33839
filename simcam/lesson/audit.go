package lesson

import (
	"fmt"
	"math"
	"slices"

	"neokinema/simcam"
	"neokinema/simcam/audit"
	"neokinema/simcam/move"
)

// Audit looks at a clip and what is said of it from outside: the movement is worked out anew before
// another camera, and its signs, the feet on the ground and the places of the body in the picture are
// read again.
func Audit(c Clip) (wrong []string) {
	say := func(format string, args ...any) { wrong = append(wrong, c.ID+": "+fmt.Sprintf(format, args...)) }
	e, err := move.Find(c.Event)
	if err != nil {
		return []string{err.Error()}
	}
	whole := c.spec
	whole.Camera = simcam.Camera{Place: "oblique"}
	whole.CaptureRate, whole.Direction = auditRate, -whole.Direction
	sc, err := simcam.New(whole)
	if err != nil {
		return []string{err.Error()}
	}
	seen := audit.Of(sc.Truth)
	shows := map[string]bool{}
	var order []string
	for _, s := range audit.SignsOf(e.ID, c.Variant) {
		if id, ok := faultOf(c, s.Fault); ok {
			shows[id] = !s.Met(seen)
			order = append(order, id)
		}
	}
	cut, err := simcam.New(c.spec)
	if err != nil {
		return append(wrong, err.Error())
	}
	frames := cut.Truth.Frames
	if len(frames) != c.Frames {
		say("%d frames, not %d", len(frames), c.Frames)
	}
	switch c.Sort {
	case Sized:
		if shows[c.Fault] != (c.Size > 0) {
			say("a size of %.2f, and the sign says %v", c.Size, shows[c.Fault])
		}
	case Two:
		if c.Size > 0 {
			first := slices.IndexFunc(order, func(id string) bool { return shows[id] })
			if first < 0 || order[first] != c.Fault || !shows[c.Second] || shows[c.Third] {
				say("first %v of %v, said %s, %s, not %s", first, shows, c.Fault, c.Second, c.Third)
			}
		}
	case Dark:
		if c.At != 0 || len(c.Lines) > 0 && c.Lines[1] != [2]float64{} {
			say("the moment is in a clip from which nobody can say")
		}
		for _, s := range sights {
			if _, there := cut.Truth.Positions[s.At]; there && s.Watch == c.Watch && s.Event == c.Event {
				say("the moment is in frame %d of a clip from which nobody can say", cut.Truth.Positions[s.At])
			}
		}
	}
	for id, f := range c.Moments {
		if id == "release" {
			continue // held against the time that the motion says
		}
		if id == highest {
			// The hips are within 3 cm of where they are highest.
			hips := func(n int) float64 {
				l := frames[n].Landmarks
				return (l["left_hip"].World[1] + l["right_hip"].World[1]) / 2
			}
			for n := range frames {
				if hips(n) > hips(f)+0.03 {
					say("the highest point in frame %d: the hips are higher in %d", f, n)
					break
				}
			}
			continue
		}
		before, now := frames[f-1].Contacts, frames[f].Contacts
		came := slices.ContainsFunc(now, func(side string) bool { return !slices.Contains(before, side) })
		left := slices.ContainsFunc(before, func(side string) bool { return !slices.Contains(now, side) })
		if Lands(id) && !came || Leaves(id) && !left {
			say("%s in frame %d: feet %v, then %v", id, f, before, now)
		}
	}
	if f, ok := c.Moments["release"]; ok && cut.Truth.Release != nil {
		if t := cut.Truth.Release.Time * Rate; t > float64(f)+1e-6 || t < float64(f)-1-1e-6 {
			say("the release is at %.2f pictures, not in %d", t, f)
		}
	}
	if c.Sort != Dark {
		// The places in the picture by the camera's matrix, and the angle between directions.
		var at [3][2]float64
		for i := range c.Lines {
			at[i] = c.Lines[i]
			near := math.Inf(1)
			for _, l := range frames[c.At].Landmarks {
				p := cutMatrix(frames[c.At].Camera, l.World)
				near = min(near, math.Hypot(p[0]-c.Lines[i][0], p[1]-c.Lines[i][1]))
			}
			if near > 0.6 {
				say("corner %d lies %.1f px off every joint", i, near)
			}
		}
		a := math.Atan2(at[0][1]-at[1][1], at[0][0]-at[1][0]) - math.Atan2(at[2][1]-at[1][1], at[2][0]-at[1][0])
		if d := math.Abs(math.Abs(math.Remainder(a, 2*math.Pi))*180/math.Pi - c.Angle); d > 1e-6 {
			say("the angle is off by %.2f", d)
		}
	}
	return wrong
}

// cutMatrix projects a place by a camera's matrix.
func cutMatrix(m [3][4]float64, w [3]float64) [2]float64 {
	var h [3]float64
	for i := range m {
		h[i] = m[i][0]*w[0] + m[i][1]*w[1] + m[i][2]*w[2] + m[i][3]
	}
	return [2]float64{h[0] / h[2], h[1] / h[2]}
}

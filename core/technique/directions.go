package technique

import (
	"errors"
	"math"
	"slices"
	"strconv"
	"strings"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/doubt"
	"neokinema/core/throw"
)

// who is a direction's owner as package throw names it; roles become sides.
func (e *evaluation) who(role string) string {
	if part, ok := strings.CutSuffix(role, "_foot"); ok {
		side, _, _ := strings.Cut(e.roles.Resolve(part + "_toe")[0], "_")
		return side + "_foot"
	}
	return role
}

// Directed are those whose direction from above can be measured.
var Directed = []string{"ball", "hips", "chest", "head", "left_foot", "right_foot", "sweep_foot", "pivot_foot", "throwing_foot", "block_foot"}

var errNoOrbit = failure{"directions from above are not measured in this clip", "the circle marked in the tab Ground, and the ball tracked"}

// directed tells whether a measure's points are directions from above and not
// landmarks.
func (m Measure) directed() bool {
	return slices.Contains([]string{"azimuth", "lead", "turned", "turns_on"}, m.Kind)
}

// direction reads measures of a throw in depth at a position.
func (e *evaluation) direction(cp Checkpoint, p Position) (doubt.Value, *Evidence, error) {
	m := cp.Measure
	if m.Kind == "turned" {
		m = m.nth(p.Nth)
	}
	if len(cp.Views) > 0 && !e.allows(cp) && !strings.HasPrefix(m.Kind, "release_") {
		views := strings.Join(cp.Views, " or ")
		return doubt.Value{}, nil, failure{"this clip is filmed from the " + e.in.Clip.View + "; it takes a view from the " + views, "a clip from the " + views}
	}
	frame, ok := e.flag(p.ID)
	if !ok {
		return doubt.Value{}, nil, failure{"“" + p.Name + "” is not flagged", "a flag at that frame"}
	}
	ev := &Evidence{Frame: frame, Lines: []Chain{}}
	switch m.Kind {
	case "release_speed", "release_angle", "release_height":
		if e.report.Throw == nil || e.report.Throw.Leaving == nil {
			return doubt.Value{}, ev, failure{"the release is not read from this clip", "a clip from the side in which the implement is tracked in its first free frames"}
		}
		l := e.report.Throw.Leaving
		return map[string]doubt.Value{"release_speed": l.Speed, "release_angle": l.Angle, "release_height": l.Height}[m.Kind], ev, nil
	case "attack", "roll", "wobble":
		v, err := e.attitude(m.Kind)
		return v, ev, err
	}
	if e.orbit == nil {
		return doubt.Value{}, ev, errNoOrbit
	}
	sure := func(who string, f int) (doubt.Value, error) {
		v, ok := e.orbit.Azimuth(e.who(who), f)
		if !ok {
			return v, failure{"the direction of the " + body.Label(who) + " is not known here", "the points of the " + body.Label(who) + " in this stretch"}
		}
		if v.SD > throw.Limit {
			return v, failure{"from here the direction of the " + body.Label(who) + " shows only to ±" + strconv.Itoa(int(v.Half)) + "°", "a clip from another side"}
		}
		return v, nil
	}
	switch m.Kind {
	case "azimuth":
		v, err := sure(m.Points[0], frame)
		return doubt.Value{X: azimuth.Near(v.X, cp.Band), SD: v.SD, Half: v.Half}, ev, err
	case "lead":
		a, err := sure(m.Points[0], frame)
		b, err2 := sure(m.Points[1], frame)
		if err = errors.Join(err, err2); err != nil {
			var f failure
			errors.As(err, &f)
			return a, ev, f
		}
		v := doubt.Minus(a, b)
		v.X = math.Remainder(v.X, 360)
		return v, ev, nil
	case "turned":
		frames, span, err := e.frames(m.Positions)
		if err != nil {
			return doubt.Value{}, span, err
		}
		a, err := sure(m.Points[0], frames[0])
		b, err2 := sure(m.Points[0], frames[1])
		if err = errors.Join(err, err2); err != nil {
			var f failure
			errors.As(err, &f)
			return a, span, f
		}
		return doubt.Minus(b, a), span, nil
	case "turns_on":
		from, err := sure(m.Points[0], frame)
		if err != nil {
			return from, ev, err
		}
		most := doubt.Normal(0, from.SD)
		for f := frame + 1; f < e.clock.Len(); f++ {
			if v, err := sure(m.Points[0], f); err == nil && v.X-from.X > most.X {
				most = doubt.Minus(v, from)
				ev.To = &f
			}
		}
		return most, ev, nil
	case "axis_lean":
		if a, ok := e.orbit.Axis(frame); ok {
			return a.Lean, ev, nil
		}
		return doubt.Value{}, ev, failure{"the axis of the trunk is not known here", "shoulders and hips placed in this stretch"}
	case "feet_line":
		if v, ok := throw.Line(e.orbit, e.report.Throw.Turns); ok {
			return v, ev, nil
		}
		return doubt.Value{}, ev, failure{"the way of the feet is not known", "two turns or more with both feet tracked"}
	case "hips_drift":
		frames, span, err := e.frames(m.Positions)
		if err != nil {
			return doubt.Value{}, span, err
		}
		if v, ok := e.orbit.Drift(frames[0], frames[1]); ok {
			v.X = math.Abs(v.X)
			return v, span, nil
		}
		return doubt.Value{}, span, failure{"the hips' way from side to side does not show from here", "a clip from behind"}
	case "feet_off":
		return e.feetOff(m, ev)
	case "ball_speed":
		// At a release or a catch the frame before is the last on the way there.
		for f := frame; f > frame-4; f-- {
			if v, ok := e.orbit.Speed(f); ok {
				return v, ev, nil
			}
		}
	case "ball_height":
		if p, ok := e.orbit.Ball3(frame); ok {
			if n := e.orbit.Neck[frame]; !math.IsNaN(n.Y) {
				return doubt.Normal(100*(p.Y-n.Y), 4), ev, nil
			}
		}
	}
	return doubt.Value{}, ev, failure{"the ball is not known here", "the ball tracked in this stretch"}
}

// inDepth tells whether a measure is read from a throw in depth or its release.
func (m Measure) inDepth() bool {
	return m.directed() || slices.Contains([]string{"ball_speed", "ball_height", "release_speed", "release_angle", "release_height", "attack", "roll", "wobble", "axis_lean", "feet_line", "hips_drift", "feet_off"}, m.Kind)
}

// attitude reads how a disc lies in the air.
func (e *evaluation) attitude(kind string) (doubt.Value, error) {
	var a *throw.Attitude
	if e.report.Throw != nil {
		a = e.report.Throw.Attitude
	}
	const ends = "both ends of the disc's oval placed in its first free frames"
	switch {
	case a == nil:
		return doubt.Value{}, failure{"the disc's attitude is not read from this clip", ends}
	case kind == "wobble" && a.Wobble == nil:
		return doubt.Value{}, failure{"too few frames show the disc in the air", ends + ", eight of them or more over 60 ms"}
	case kind == "wobble":
		return *a.Wobble, nil
	case kind == "roll" && a.Seen == "roll":
		return a.Tilt, nil
	case kind == "attack" && a.Attack != nil:
		return *a.Attack, nil
	}
	return doubt.Value{}, failure{"that does not show from here", map[string]string{"roll": "a clip from behind", "attack": "a clip from the side"}[kind]}
}

// feetOff is how far the middle one of three places of feet lies off the line from
// the first to the last, cm, to the throwing side when positive.
func (e *evaluation) feetOff(m Measure, ev *Evidence) (doubt.Value, *Evidence, error) {
	frames, span, err := e.frames(m.Positions)
	if err != nil {
		return doubt.Value{}, ev, err
	}
	var x, sd []float64
	for i, role := range m.Points {
		foot := 0
		if strings.HasPrefix(e.roles.Resolve(role)[0], string(body.Right)) {
			foot = 1
		}
		p, sx, sz, ok := e.orbit.Place(foot, frames[i])
		if !ok {
			return doubt.Value{}, span, failure{"the place of the " + body.Label(e.roles.Resolve(role)[0]) + " is not known", "that point tracked"}
		}
		x, sd = append(x, p.X, p.Z), append(sd, sx, sz)
	}
	to := 100.0
	if e.roles.Throwing == body.Left {
		to = -100
	}
	return doubt.Propagate(func(v []float64) float64 {
		dx, dz := v[4]-v[0], v[5]-v[1]
		return to * ((v[3]-v[1])*dx - (v[2]-v[0])*dz) / math.Hypot(dx, dz)
	}, x, sd), span, nil
}

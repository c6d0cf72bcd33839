package evaluate

import (
	"errors"
	"math"
	"slices"
	"strconv"
	"strings"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
)

// Measures of a throw in depth: directions seen from above, the ball, trunk and feet, the
// release, a disc in the air.

var _ = register(
	kind{name: "azimuth", unit: "°", doc: "where points[0] points, seen from above", points: 1, scope: depth, instant: true, directions: true, decides: otherSide,
		read: inOrbit(func(q *query) (uncertainty.Estimate, error) {
			v, err := q.toward(q.m.Points[0], q.frame)
			return uncertainty.Estimate{Value: azimuth.Near(v.Value, q.cp.Band), SD: v.SD, Half95: v.Half95}, err
		})},
	kind{name: "lead", unit: "°", doc: "how far points[0] is ahead of points[1]", points: 2, scope: depth, instant: true, directions: true, decides: otherSide,
		read: inOrbit(func(q *query) (uncertainty.Estimate, error) {
			v, err := q.difference(q.m.Points[0], q.frame, q.m.Points[1], q.frame)
			if err == nil {
				v.Value = math.Remainder(v.Value, 360)
			}
			return v, err
		})},
	kind{name: "turned", unit: "°", doc: "how far points[0] turns from positions[0] to positions[1]", points: 1, positions: 2, scope: depth, directions: true, decides: otherSide,
		read: inOrbit(func(q *query) (uncertainty.Estimate, error) {
			if err := q.spanned(); err != nil {
				return uncertainty.Estimate{}, err
			}
			v, err := q.difference(q.m.Points[0], q.frames[1], q.m.Points[0], q.frames[0])
			// Both ends lie somewhere between two pictures.
			for _, f := range q.frames {
				if by, gone := q.difference(q.m.Points[0], f, q.m.Points[0], f-1); gone == nil {
					v = uncertainty.Normal(v.Value, math.Hypot(v.SD, by.Value/math.Sqrt(12)))
				}
			}
			return v, err
		})},
	kind{name: "turns_on", unit: "°", doc: "how far points[0] turns on after the position, at most", points: 1, scope: depth, directions: true, decides: otherSide,
		read: inOrbit(turnsOn)},
	kind{name: "ball_speed", unit: "m/s", doc: "speed of the ball", scope: depth, instant: true, decides: otherSide,
		read: inOrbit(ballSpeed)},
	kind{name: "ball_height", unit: "cm", doc: "the ball over the middle of the shoulders", scope: depth, instant: true, decides: otherSide,
		read: inOrbit(ballHeight)},
	kind{name: "axis_lean", unit: "°", doc: "trunk against the vertical; from one camera what lies across its sight, + to the throwing side or to the throw", scope: depth, instant: true, decides: otherSide,
		read: inOrbit(func(q *query) (uncertainty.Estimate, error) {
			if a, ok := q.throw.Axis(q.frame); ok {
				return a.Lean, nil
			}
			return uncertainty.Estimate{}, Failure{"the axis of the trunk is not known here", "shoulders and hips placed in this stretch"}
		})},
	kind{name: "feet_line", unit: "°", doc: "way of both feet over the turns, to the throwing side of the throw", scope: depth, decides: otherSide,
		read: inOrbit(func(q *query) (uncertainty.Estimate, error) {
			if v, ok := throw.FeetLine(q.throw, q.report.Throw.Turns); ok && len(q.report.Throw.Unseen) == 0 {
				return v, nil
			}
			return uncertainty.Estimate{}, Failure{"the way of the feet is not known", "two turns or more with both feet tracked"}
		})},
	kind{name: "hips_drift", unit: "cm", doc: "how far the hips leave the straight line from positions[0] to positions[1]", positions: 2, scope: depth, decides: otherSide,
		read: inOrbit(hipsDrift)},
	kind{name: "feet_off", unit: "cm", doc: "how far the foot points[1] at positions[1] stands off the line from points[0] at positions[0] to points[2] at positions[2], + to the throwing side", points: 3, positions: 3, scope: depth, decides: otherSide,
		read: inOrbit(feetOff)},
	kind{name: "rim", unit: "cm", doc: "points[0], the toes of a foot on the ground, inside of the rim of the circle; beyond it when negative", points: 1, scope: depth, instant: true, decides: otherSide,
		read: inOrbit(toRim)},
	kind{name: "release_aside", unit: "°", doc: "where the implement leaves to, off the middle of the sector, + to the throwing side", scope: depth, anyView: true, flight: true,
		read: leavesAside},
	kind{name: "release_speed", unit: "m/s", doc: "speed of the implement at its release", scope: depth, anyView: true, flight: true,
		read: leaving(func(l throw.Release) uncertainty.Estimate { return l.Speed })},
	kind{name: "release_angle", unit: "°", doc: "its way against the ground", scope: depth, anyView: true, flight: true,
		read: leaving(func(l throw.Release) uncertainty.Estimate { return l.Angle })},
	kind{name: "release_height", unit: "m", doc: "its height over the ground", scope: depth, anyView: true, flight: true,
		read: leaving(func(l throw.Release) uncertainty.Estimate { return l.Height })},
	kind{name: "attack", unit: "°", doc: "of a disc in the air: pitch minus the path", points: 2, scope: depth, flight: true, decides: discEnds,
		read: attitude(func(a *throw.Attitude) *uncertainty.Estimate { return a.Attack }, Failure{"that does not show from here", "a clip from the side"})},
	kind{name: "roll", unit: "°", doc: "of a disc in the air: edge of the throwing side down", points: 2, scope: depth, flight: true, decides: discEnds,
		read: attitude(func(a *throw.Attitude) *uncertainty.Estimate {
			if a.Seen == "roll" {
				return &a.Tilt
			}
			return nil
		}, Failure{"that does not show from here", "a clip from behind"})},
	kind{name: "wobble", unit: "°", doc: "of a disc in the air: how far it swings to either side", points: 2, scope: depth, flight: true, decides: discEnds,
		read: attitude(func(a *throw.Attitude) *uncertainty.Estimate { return a.Wobble }, Failure{"too few frames show the disc in the air", discPlaced + ", eight of them or more over 60 ms"})},
)

const discPlaced = "both ends of the disc's oval placed in its first free frames"

func discEnds(*Evaluation, model.Checkpoint) string {
	return "the ends of the disc placed in more frames"
}

// Directed are those whose direction from above can be measured.
var Directed = []string{"ball", "hips", "chest", "head", "left_foot", "right_foot", "sweep_foot", "pivot_foot", "throwing_foot", "block_foot"}

var errNoOrbit = Failure{"directions from above are not measured in this clip", "the circle marked on the ground, and the ball tracked"}

// inOrbit reads what needs the throw reconstructed in depth.
func inOrbit(read func(*query) (uncertainty.Estimate, error)) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		if q.throw == nil {
			return uncertainty.Estimate{}, errNoOrbit
		}
		return read(q)
	}
}

// who is a direction's owner as package throw names it; roles become sides.
func (e *Evaluation) who(role string) string {
	if part, ok := strings.CutSuffix(role, "_foot"); ok {
		side, _, _ := strings.Cut(e.Roles.Resolve(part + "_toe")[0], "_")
		return side + "_foot"
	}
	return role
}

// shows lists the joints from which a direction is read.
func (e *Evaluation) shows(role string) []string {
	switch who := e.who(role); who {
	case "hips":
		return []string{"left_hip", "right_hip"}
	case "chest":
		return []string{"left_shoulder", "right_shoulder"}
	case "head":
		return []string{"left_ear", "right_ear"}
	default:
		if side, ok := strings.CutSuffix(who, "_foot"); ok {
			return []string{side + "_toe", side + "_heel"}
		}
		return []string{who}
	}
}

// toward is where somebody points in a frame, refused where it is too uncertain to help.
func (q *query) toward(who string, frame int) (uncertainty.Estimate, error) {
	v, ok := q.throw.Azimuth(q.who(who), frame)
	if !ok {
		return v, Failure{"the direction of the " + body.Label(who) + " is not known here", "the points of the " + body.Label(who) + " in this stretch"}
	}
	if v.SD > throw.Limit {
		return v, Failure{"from here the direction of the " + body.Label(who) + " shows only to ±" + strconv.Itoa(int(v.Half95)) + "°", "a clip from another side"}
	}
	return v, nil
}

// difference is one direction minus another.
func (q *query) difference(who string, frame int, other string, from int) (uncertainty.Estimate, error) {
	b, err2 := q.toward(other, from)
	a, err := q.toward(who, frame)
	if err != nil || err2 != nil {
		var f Failure
		errors.As(errors.Join(err, err2), &f)
		return a, f
	}
	return uncertainty.Minus(a, b), nil
}

// turnsOn is withheld: after a release hips that one camera sees show some 40 degrees of a turn
// that is not there.
func turnsOn(*query) (uncertainty.Estimate, error) {
	return uncertainty.Estimate{}, Failure{"how far the hips turn on does not show to one camera", "your own look"}
}

var errNoBall = Failure{"the ball is not known here", "the ball tracked in this stretch"}

func ballSpeed(q *query) (uncertainty.Estimate, error) {
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	// Points a release or a catch the frame before is the last on the way there.
	for f := q.frame; f > q.frame-4; f-- {
		if v, ok := q.throw.Speed(f); ok {
			return v, nil
		}
	}
	return uncertainty.Estimate{}, errNoBall
}

// ballHeightSD is the scatter of the ball's height over the shoulders, cm. Assumed, no
// source.
const ballHeightSD = 4

func ballHeight(q *query) (uncertainty.Estimate, error) {
	if p, ok := q.throw.ImplementPosition(q.frame); ok {
		if n := q.throw.Neck[q.frame]; !math.IsNaN(n.Y) {
			return uncertainty.Normal(100*(p.Y-n.Y), ballHeightSD), nil
		}
	}
	return uncertainty.Estimate{}, errNoBall
}

func hipsDrift(q *query) (uncertainty.Estimate, error) {
	if err := q.spanned(); err != nil {
		return uncertainty.Estimate{}, err
	}
	if v, ok := q.throw.Drift(q.frames[0], q.frames[1]); ok {
		return uncertainty.Normal(math.Abs(v.Value), v.SD), nil
	}
	return uncertainty.Estimate{}, Failure{"the hips' way from side to side does not show from here", "a clip from behind"}
}

// feetOff is how far the middle one of three places of feet lies off the line from
// the first to the last, cm, to the throwing side when positive.
func feetOff(q *query) (uncertainty.Estimate, error) {
	if err := q.spanned(); err != nil {
		return uncertainty.Estimate{}, err
	}
	roles := q.Evaluation.Roles
	var x, sd []float64
	for i, role := range q.m.Points {
		foot := 0
		if strings.HasPrefix(roles.Resolve(role)[0], string(body.Right)) {
			foot = 1
		}
		p, sx, sz, ok := q.throw.Place(foot, q.frames[i])
		if !ok {
			return uncertainty.Estimate{}, Failure{"the place of the " + body.Label(roles.Resolve(role)[0]) + " is not known", "that point tracked"}
		}
		x, sd = append(x, p.X, p.Z), append(sd, sx, sz)
	}
	to := 100.0
	if roles.Throwing == body.Left {
		to = -100
	}
	return uncertainty.Propagate(func(v []float64) float64 {
		dx, dz := v[4]-v[0], v[5]-v[1]
		return to * ((v[3]-v[1])*dx - (v[2]-v[0])*dz) / math.Hypot(dx, dz)
	}, x, sd), nil
}

// toRim is how far inside of the rim the toes of a foot on the ground stand, cm.
func toRim(q *query) (uncertainty.Estimate, error) {
	who := q.Evaluation.Roles.Resolve(q.m.Points[0])[0]
	side, _, _ := strings.Cut(who, "_")
	foot := 0
	if side == string(body.Right) {
		foot = 1
	}
	v, ok := q.throw.Inside(foot, q.frame, sport.Of(q.Model.ID).Circle/2)
	if !ok || !slices.ContainsFunc(q.contacts, func(c contact.Contact) bool { return string(c.Foot) == side && c.From <= q.frame && q.frame <= c.To }) {
		return v, Failure{"where the " + body.Label(who) + " stands is not known well enough", "that point placed by hand there"}
	}
	return v, nil
}

// leavesAside is where the implement leaves to, to the throwing side of the middle of the sector.
func leavesAside(q *query) (uncertainty.Estimate, error) {
	missing := Failure{"the side of the sector to which it leaves does not show here", "the circle marked, and a clip from the side or two clips"}
	if q.report.Throw == nil || q.report.Throw.Release == nil || q.report.Throw.Release.Aside == nil {
		return uncertainty.Estimate{}, missing
	}
	v := *q.report.Throw.Release.Aside
	if q.Evaluation.Roles.Throwing == body.Left {
		v.Value = -v.Value
	}
	return v, nil
}

// release reads a value of the release.
func leaving(of func(throw.Release) uncertainty.Estimate) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		if !q.Clock.Known() {
			return uncertainty.Estimate{}, errNoRate
		}
		if q.report.Throw == nil || q.report.Throw.Release == nil {
			return uncertainty.Estimate{}, Failure{"the release is not read from this clip", "a clip from the side in which the implement is tracked in its first free frames"}
		}
		return of(*q.report.Throw.Release), nil
	}
}

// attitude reads how a disc lies in the air.
func attitude(of func(*throw.Attitude) *uncertainty.Estimate, missing Failure) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		if q.report.Throw == nil || q.report.Throw.Attitude == nil {
			return uncertainty.Estimate{}, Failure{"the disc's attitude is not read from this clip", discPlaced}
		}
		if v := of(q.report.Throw.Attitude); v != nil {
			return *v, nil
		}
		return uncertainty.Estimate{}, missing
	}
}

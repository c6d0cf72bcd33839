package evaluate

import (
	"fmt"
	"math"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// Angles between points of one frame.

var _ = register(
	// Signed inside, so that the uncertainty of a straight limb stays linear.
	kind{name: "joint", unit: "°", doc: "inside angle at points[1]", points: 3, scope: placed,
		read: func(q *query) (uncertainty.Estimate, error) {
			aside, err := q.foreshortened()
			if err != nil {
				return uncertainty.Estimate{}, err
			}
			v, err := q.angle(func(v []float64) float64 { return angles.SignedIncluded(pt(v, 0), pt(v, 1), pt(v, 2)) })
			return uncertainty.Normal(math.Abs(v.Value), math.Hypot(v.SD, aside)), err
		}},
	kind{name: "lean", unit: "°", doc: "line points[0]->points[1] against the ground", points: 2, scope: placed,
		read: angle(func(v []float64) float64 { return angles.SegmentToHorizontal(pt(v, 0), pt(v, 1)) })},
	kind{name: "tilt", unit: "°", doc: "line points[0]->points[1] against the vertical, + when the upper end is ahead", points: 2, scope: placed,
		read: angle(func(v []float64) float64 { return angles.SegmentToVertical(pt(v, 0), pt(v, 1)) })},
	kind{name: "brake", unit: "°", doc: "tilt with the sign turned: + when the lower end is ahead", points: 2, scope: placed,
		read: angle(func(v []float64) float64 { return -angles.SegmentToVertical(pt(v, 0), pt(v, 1)) })},
	kind{name: "turn", unit: "°", doc: "line points[1]->points[2] against points[0]->points[1], + upwards", points: 3, scope: placed,
		read: angle(func(v []float64) float64 { return angles.Deviation(pt(v, 0), pt(v, 1), pt(v, 2)) })},
	kind{name: "slope", unit: "°", doc: "line points[0]->points[1] against the ground, + when the second is higher", points: 2, scope: placed,
		read: slope},
	kind{name: "raise", unit: "°", doc: "how far points[1] is raised over points[0], as an angle of the line between them by its length in the body: a foot, the shoulders, the hips; wherever it points", points: 2, scope: placed,
		read: raise},
	kind{name: "climb", unit: "°", doc: "way of points[0] against the ground just after the position, as in free flight it was at the position", points: 1, scope: placed,
		read: climb},
	kind{name: "sideways", unit: "°", doc: "line points[0]->points[1] against the vertical, + when it leans to the side of points[3] as seen from points[2]", points: 4, scope: placed,
		read: sideways},
	kind{name: "off_path", unit: "°", doc: "angle between the way of points[0] and the line points[1]->points[2]", points: 3, scope: placed,
		read: offPath},
)

// angle reads a function of the places of the points.
func angle(f func([]float64) float64) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) { return q.angle(f) }
}

func (q *query) angle(f func([]float64) float64) (uncertainty.Estimate, error) {
	for i := 1; i < len(q.m.Points) && i < 3; i++ {
		if r2.Norm(r2.Sub(pt(q.x, i), pt(q.x, i-1))) < 1 {
			return uncertainty.Estimate{}, Failure{"two of the points lie on one another", "the points placed apart"}
		}
	}
	v := uncertainty.Propagate(f, q.x, q.sd)
	if sport.Of(q.Model.ID).Curved && q.ofTheBody() {
		v = uncertainty.Normal(v.Value, math.Hypot(v.SD, angles.Deg(offSquare*math.Tan(curveLean))))
	}
	return v, nil
}

// curveLean is how far a body on a curve leans out of the picture, rad: what a view that is not
// square mixes into its lean along the way. Assumed; common practice has 20 to 30 degrees.
const curveLean = 30 * math.Pi / 180

// ofTheBody tells whether a measure's line goes to the middle of the body, as its lean does.
func (q *query) ofTheBody() bool {
	sides := q.sides()
	return len(q.m.Points) == 2 && sides["mid"]
}

// slope is read in the plane of motion: a way that does not lie square to the camera seems
// steeper than it is.
func slope(q *query) (uncertainty.Estimate, error) {
	seen, err := q.angle(func(v []float64) float64 { return angles.Slope(pt(v, 0), pt(v, 1)) })
	if err != nil || q.sight == nil || q.Input.Clip.View != "side" {
		return seen, err
	}
	return q.inPlane(func(p []r2.Vec) float64 { return angles.Slope(p[0], p[1]) }), nil
}

// raise is read from the height alone, so that a line which points to the camera is no steeper
// than it is.
func raise(q *query) (uncertainty.Estimate, error) {
	_, part, _ := strings.Cut(q.roles.Resolve(q.m.Points[0])[0], "_")
	if part == "heel" || part == "toe" {
		part = "foot"
	}
	length, lengthSD := throw.Span(q.Input.Athlete, part)
	if length == 0 {
		return uncertainty.Estimate{}, Failure{"the length of this line is not known", "the athlete's height"}
	}
	up, err := q.scaled(func(p []r2.Vec) float64 { return p[1].Y - p[0].Y })
	if err != nil {
		return up, err
	}
	v := uncertainty.Propagate(func(v []float64) float64 {
		return angles.Deg(math.Asin(math.Max(-1, math.Min(1, v[0]/100/v[1]))))
	}, []float64{up.Value, length}, []float64{up.SD, lengthSD})
	if v.SD > looseRaise {
		return v, Failure{fmt.Sprintf("from here this height shows only to ±%.0f°", v.Half95), "a closer clip"}
	}
	return v, nil
}

// looseRaise is the standard deviation beyond which an angle by height is of no use, degrees.
const looseRaise = 10

// climbWindow is the stretch after a position over which a way is fitted, s. Assumed, no source.
const climbWindow = 0.06

// climb is the angle at which a point leaves. Over the window gravity has bent its way down, by
// as much as it takes from the upward speed up to the middle.
func climb(q *query) (uncertainty.Estimate, error) {
	if q.sight == nil {
		return uncertainty.Estimate{}, errNoScale
	}
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	w := q.pictures(max(3, int(math.Round(climbWindow*q.shown()))))
	q.x, q.sd = nil, nil
	if !q.pace(q.m.Points[0], q.frame, q.frame+w) {
		return uncertainty.Estimate{}, noWay(q.roles.Resolve(q.m.Points[0])[0])
	}
	t := q.Clock.At(q.frame+w) - q.Clock.At(q.frame)
	return q.metres(func(p []r2.Vec, _, _ []float64) float64 {
		return angles.Deg(math.Atan2(p[1].Y-p[0].Y+body.Gravity*t*t/2, p[1].X-p[0].X))
	}, 2, q.x, q.sd), nil
}

func sideways(q *query) (uncertainty.Estimate, error) {
	// The other two points only tell which side is which.
	line := &q.ev.Lines[0]
	line.Landmarks, line.Points = line.Landmarks[:2], line.Points[:2]
	v, err := q.angle(func(v []float64) float64 {
		to := 1.0
		if v[6] < v[4] {
			to = -1
		}
		return to * angles.SegmentToVertical(pt(v, 0), pt(v, 1))
	})
	if body.IsThing(q.m.Points[0]) {
		// What points along the sight more than it rises shows every degree that the camera stands
		// off the line.
		v = uncertainty.Normal(v.Value, math.Hypot(v.SD, angles.Deg(offSquare/math.Tan(shaftRises))))
	}
	return v, err
}

// shaftRises is how steeply a javelin is held before it is thrown, rad. Common practice, no source.
const shaftRises = 35 * math.Pi / 180

// pathWindow is half of the stretch over which a way is taken, s. Assumed, no source.
const pathWindow = 0.012

// offPath is the angle between the way of a point and a line, 0 to 90.
func offPath(q *query) (uncertainty.Estimate, error) {
	w := q.pictures(max(1, int(pathWindow*q.shown())))
	a, okA := q.onWay(q.m.Points[0], q.frame-w)
	b, okB := q.onWay(q.m.Points[0], q.frame+w)
	if !okA || !okB || !q.usable() {
		return uncertainty.Estimate{}, noWay(q.roles.Resolve(q.m.Points[0])[0])
	}
	// Of neighbours on one smooth path the errors are mostly common.
	v := uncertainty.Propagate(func(v []float64) float64 {
		way, line := r2.Vec{X: v[2] - v[0], Y: v[3] - v[1]}, r2.Vec{X: v[6] - v[4], Y: v[7] - v[5]}
		return angles.Deg(math.Atan2(r2.Cross(line, way), r2.Dot(line, way)))
	}, []float64{a.At.X, a.At.Y, b.At.X, b.At.Y, q.x[2], q.x[3], q.x[4], q.x[5]}, []float64{a.Sigma / 2, a.Sigma / 2, b.Sigma / 2, b.Sigma / 2, q.sd[2], q.sd[3], q.sd[4], q.sd[5]})
	v.Value = math.Abs(v.Value)
	if v.Value > 90 {
		v.Value = 180 - v.Value // the line has no head
	}
	return v, nil
}

// onWay is a role's place on its smooth path, where it has one.
func (q *query) onWay(role string, frame int) (Located, bool) {
	p, ok := q.Point(q.roles, role, frame)
	if ids := q.roles.Resolve(role); ok && len(ids) == 1 && q.placedByHand(frame) == 0 {
		if at, smooth := q.Movement.Where(ids[0], frame); smooth {
			p.At = at
		}
	}
	return p, ok
}

func noWay(landmark string) error {
	return Failure{"the way of the " + body.Label(landmark) + " is not known here", "that point tracked, and a look whether the camera moved"}
}

// shortest is how much of a limb's length must show for its angle to be read: of a limb at
// 44 degrees to the picture seven tenths do. Assumed.
const shortest = 0.72

// A limb that shows nearly its whole length is taken to lie in the picture, since nobody's limbs
// are known better than that; and views that are said to be square are so but for squareSD.
// Assumed; shaped on the lots that are there to build on.
const (
	nearlyWhole = 0.92
	squareSD    = 6 // degrees
)

// foreshortened refuses a joint of which a limb points toward the camera or away from it:
// what shows is then not its angle. Of limbs that do so less it tells what the angle would be
// more or less by in a view that is really square, a standard deviation in degrees. What the
// hand has placed is the coach's to judge, but for throwers who turn: no view is square to
// them, and nobody sees whether two limbs point to the camera both, or one of them away.
func (q *query) foreshortened() (aside float64, err error) {
	if q.Scale == nil {
		return 0, nil
	}
	turns := sport.Of(q.Model.ID).Circle > 0
	var parts []string
	var lines []r2.Vec
	var depths []float64
	for i, role := range q.m.Points {
		ids := q.roles.Resolve(role)
		if len(ids) != 1 {
			return 0, nil
		}
		if q.Input.Points[ids[0]].SourceAt(q.frame) == track.Hand && !turns {
			return 0, nil
		}
		_, part, _ := strings.Cut(ids[0], "_")
		parts = append(parts, part)
		if i == 0 {
			continue
		}
		name := ""
		for _, l := range limbs {
			if l.from == parts[i-1] && l.to == part || l.from == part && l.to == parts[i-1] {
				name = l.segment
			}
		}
		if name == "" {
			continue
		}
		line := r2.Sub(pt(q.x, i), pt(q.x, i-1))
		seen, whole := r2.Norm(line), body.Length(q.Input.Athlete, name)/q.Scale.MetresPerPixel.Value
		if seen < shortest*whole {
			return 0, Failure{"the " + strings.ReplaceAll(name, "_", " ") + " points toward the camera or away from it, so this angle does not show", "a clip from another side"}
		}
		// What goes along the sight comes across it as the view turns.
		along := math.Sqrt(math.Max(0, sq(nearlyWhole*whole)-sq(seen)))
		if turns {
			depths = append(depths, math.Sqrt(math.Max(0, sq(whole)-sq(seen))))
		}
		aside = math.Hypot(aside, squareSD*along*math.Abs(line.Y)/sq(seen))
		lines = append(lines, line)
	}
	if turns && len(lines) == 2 {
		apart := foldedApart(r2.Scale(-1, lines[0]), lines[1], depths[0], depths[1])
		if apart > mostFolded {
			return 0, Failure{"both limbs of this joint point past the camera, and it does not show whether to one side of the picture", "a clip from another side"}
		}
		aside = math.Hypot(aside, apart/math.Sqrt(12))
	}
	return aside, nil
}

// mostFolded is how far a joint's angle may hang on which way its limbs point past the camera,
// degrees. Assumed.
const mostFolded = 40

// foldedApart is how far two answers for the angle between limbs lie from each other: both reach
// out of the picture to the same side of it, or to opposite sides.
func foldedApart(a, b r2.Vec, da, db float64) float64 {
	whole := math.Hypot(r2.Norm(a), da) * math.Hypot(r2.Norm(b), db)
	angle := func(depth float64) float64 {
		return angles.Deg(math.Acos(math.Max(-1, math.Min(1, (r2.Dot(a, b)+depth)/whole))))
	}
	return angle(-da*db) - angle(da*db)
}

func sq(v float64) float64 { return v * v }

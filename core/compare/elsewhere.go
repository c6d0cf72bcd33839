package compare

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/exchange"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// Agreement holds what was read from a clip against points of the same movement from elsewhere:
// a laboratory, or another program. Theirs are taken for the truth, and what is counted is how
// often it lies inside the doubt that was stated here.
type Agreement struct {
	Units   string            `json:"units" doc:"of their coordinates: px of the picture, or m or mm of the world"`
	Frames  int               `json:"frames" doc:"of the clip in which both have points"`
	Joints  []JointAgreement  `json:"joints" doc:"in the picture; none for points of the world"`
	Angles  []AngleAgreement  `json:"angles" doc:"readings, at the moments of this clip"`
	Moments []MomentAgreement `json:"moments" doc:"feet on and off the ground, and named positions"`
	Points  kinematics.Points `json:"points" doc:"theirs in the frames and px of this clip, as a draft"`
}

// JointAgreement is a landmark over all frames in which both have it.
type JointAgreement struct {
	Landmark string   `json:"landmark"`
	Name     string   `json:"name"`
	Frames   int      `json:"frames"`
	Middle   float64  `json:"middle" doc:"px, the middle distance"`
	Far      float64  `json:"far" doc:"px, 19 in 20 distances are less"`
	Cm       *float64 `json:"cm,omitempty" required:"false" doc:"the middle distance in cm, where there is a scale"`
	Stated   float64  `json:"stated" doc:"px, in which 95 of 100 are said to lie"`
	Inside   float64  `json:"inside" doc:"% of distances that do"`
}

// AngleAgreement is a reading by both.
type AngleAgreement struct {
	Reading string               `json:"reading"`
	Name    string               `json:"name"`
	Where   string               `json:"where" doc:"key position"`
	Unit    string               `json:"unit"`
	Own     uncertainty.Estimate `json:"own"`
	Theirs  float64              `json:"theirs"`
	Inside  bool                 `json:"inside" doc:"theirs lies in the interval that is stated"`
	Frame   int                  `json:"frame"`
}

// MomentAgreement is a moment that both tell.
type MomentAgreement struct {
	Name   string  `json:"name"`
	Frame  int     `json:"frame" doc:"here"`
	Later  float64 `json:"later" doc:"ms, by how much theirs is later"`
	Half95 float64 `json:"half95" doc:"ms, the doubt that is stated"`
	Inside bool    `json:"inside"`
}

// Errors of a comparison; they say what to do.
var (
	ErrNothingShared = errors.New("the file and this clip have no point in one frame: say in which frame of the clip the file begins")
	ErrNoAngles      = errors.New("of these points in the world no joint angle can be told here: hip, knee and ankle of a side with names such as left_knee are needed")
)

// sameMoment is how far apart moments are the same, s.
const sameMoment = 0.1

// Elsewhere holds points from elsewhere against a clip. First is the frame of the clip in which
// they begin; of is the picture in which they lie, zero when it is the clip's own.
func Elsewhere(m model.Model, in evaluate.Input, t exchange.Take, of exchange.Picture, first int) (Agreement, error) {
	own, cache := evaluate.Incremental(m, in, nil)
	e := evaluate.Begin(m, in, cache)
	e.Locate()
	out := Agreement{Units: t.Units, Joints: []JointAgreement{}, Angles: []AngleAgreement{}, Moments: []MomentAgreement{}, Points: kinematics.Points{}}
	if t.Rate <= 0 {
		t.Rate = e.Rate
	}
	if t.Units != exchange.Pixels {
		out.inSpace(m, e, own, t, first)
		out.moments(e, own, t, first)
		if len(out.Angles)+len(out.Moments) == 0 {
			return out, ErrNoAngles
		}
		return out, nil
	}
	p, err := t.In(first, e.Clock.Len(), e.Rate, of, exchange.Picture{Width: in.Clip.Width, Height: in.Clip.Height})
	if err != nil {
		return out, err
	}
	out.Points = p
	out.joints(e, in, p)
	if out.Frames == 0 {
		return out, ErrNothingShared
	}
	out.readings(m, in, own, p)
	out.moments(e, own, t, first)
	return out, nil
}

// ofTwo is how many standard deviations of one coordinate hold 95 of 100 distances in the plane.
const ofTwo = 2.4477

func (a *Agreement) joints(e *evaluate.Evaluation, in evaluate.Input, theirs kinematics.Points) {
	both := map[int]bool{}
	for _, id := range body.Landmarks() {
		t := theirs[id]
		if t == nil || in.Points[id] == nil {
			continue
		}
		var far []float64
		inside, stated := 0, 0.0
		for f := t.From; f < t.End(); f++ {
			q, ok := t.At(f)
			if _, here := in.Points.At(id, f); !ok || !here {
				continue
			}
			own, placed := e.Point(e.Roles, id, f)
			if !placed {
				continue
			}
			d := r2.Norm(r2.Sub(own.At, e.Movement.ToReference(f, r2.Vec{X: q.X, Y: q.Y})))
			far, stated = append(far, d), stated+ofTwo*own.Sigma
			if d <= ofTwo*own.Sigma {
				inside++
			}
			both[f] = true
		}
		if len(far) == 0 {
			continue
		}
		sort.Float64s(far)
		n := float64(len(far))
		j := JointAgreement{Landmark: id, Name: body.Label(id), Frames: len(far), Middle: far[len(far)/2], Far: far[min(len(far)-1, int(0.95*n))], Stated: stated / n, Inside: 100 * float64(inside) / n}
		if e.Scale != nil {
			cm := 100 * j.Middle * e.Scale.MetresPerPixel.Value
			j.Cm = &cm
		}
		a.Joints = append(a.Joints, j)
	}
	a.Frames = len(both)
}

// readings are those of this clip's moments by their points: what lies between is the points
// alone.
func (a *Agreement) readings(m model.Model, in evaluate.Input, own report.Report, theirs kinematics.Points) {
	by := in
	by.Points = kinematics.Points{}
	for id, t := range in.Points {
		if body.IsThing(id) && theirs[id] == nil {
			by.Points[id] = t
		}
	}
	for id, t := range theirs {
		by.Points[id] = placed(t)
	}
	by.Flags = map[string]int{}
	for _, p := range own.Positions {
		if p.Frame != nil {
			by.Flags[p.ID] = *p.Frame
		}
	}
	other := evaluate.Attempt(m, by)
	for _, r := range own.Readings {
		got, ok := other.Reading(r.ID)
		cp, known := m.Checkpoint(r.ID)
		if !ok || !known || r.Source == "coach" || r.Value == nil || got.Value == nil {
			continue
		}
		if len(cp.Measure.Points) == 0 && got.Value.Value == r.Value.Value {
			continue // a time between moments, which both have from here
		}
		a.add(m, cp, r, got.Value.Value)
	}
}

// placed is a track whose points are taken as they stand: nobody here says by how much a
// network may have been off.
func placed(t *track.Track) *track.Track {
	out := track.New(t.Len())
	for f := t.From; f < t.End(); f++ {
		if p, ok := t.At(f); ok {
			p.Source = track.Tracked.String()
			_ = out.Set(f, &p) // it was a point before
		}
	}
	return out
}

func (a *Agreement) add(m model.Model, cp model.Checkpoint, r report.Reading, theirs float64) {
	where, _ := m.Position(cp.Position)
	g := AngleAgreement{Reading: r.ID, Name: cp.Name, Where: where.Name, Unit: cp.Unit, Own: *r.Value, Theirs: theirs, Inside: math.Abs(theirs-r.Value.Value) <= r.Value.Half95}
	if r.Evidence != nil {
		g.Frame = r.Evidence.Frame
	}
	a.Angles = append(a.Angles, g)
}

// inSpace reads joint angles from points of the world.
func (a *Agreement) inSpace(m model.Model, e *evaluate.Evaluation, own report.Report, t exchange.Take, first int) {
	seen := map[int]bool{}
	for _, r := range own.Readings {
		cp, ok := m.Checkpoint(r.ID)
		if !ok || cp.Measure.Kind != "joint" || cp.Measure.Pick != "" || r.Value == nil || r.Evidence == nil || len(r.Repetitions) > 0 {
			continue
		}
		at := int(math.Round(float64(r.Evidence.Frame-first) / e.Rate * t.Rate))
		var q [3]exchange.Place
		all := true
		for i, role := range cp.Measure.Points {
			ids := e.Roles.Resolve(role)
			q[i], ok = t.At(ids[0], at)
			all = all && ok && len(ids) == 1
		}
		if !all {
			continue
		}
		u, v := [3]float64{q[0].X - q[1].X, q[0].Y - q[1].Y, q[0].Z - q[1].Z}, [3]float64{q[2].X - q[1].X, q[2].Y - q[1].Y, q[2].Z - q[1].Z}
		dot := func(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
		if size := math.Sqrt(dot(u, u) * dot(v, v)); size > 0 {
			a.add(m, cp, r, angles.Deg(math.Acos(math.Max(-1, math.Min(1, dot(u, v)/size)))))
			seen[r.Evidence.Frame] = true
		}
	}
	a.Frames = len(seen)
}

// moments pairs each of this clip's with the nearest of theirs.
func (a *Agreement) moments(e *evaluate.Evaluation, own report.Report, t exchange.Take, first int) {
	if !e.Clock.Known() {
		return
	}
	begins := e.Clock.At(min(max(0, first), e.Clock.Len()-1))
	pair := func(name string, frame int, sd float64, is func(exchange.Event) bool) {
		best := math.Inf(1)
		for _, v := range t.Events {
			if d := begins + v.Time - e.Clock.At(frame); is(v) && math.Abs(d) < math.Abs(best) {
				best = d
			}
		}
		if math.Abs(best) > sameMoment {
			return
		}
		// Either may lie anywhere in its frame.
		half := uncertainty.Z95 * math.Hypot(sd, math.Hypot(1/e.Rate, 1/t.Rate)/math.Sqrt(12))
		a.Moments = append(a.Moments, MomentAgreement{name, frame, 1000 * best, 1000 * half, math.Abs(best) <= half})
	}
	foot := func(side body.Side, down bool) func(exchange.Event) bool {
		return func(v exchange.Event) bool {
			s, d, ok := v.Foot()
			return ok && s == side && d == down
		}
	}
	for _, c := range own.Contacts {
		pair(fmt.Sprintf("%s foot down", c.Foot), c.From, c.FromSD, foot(c.Foot, true))
		pair(fmt.Sprintf("%s foot off", c.Foot), c.To, c.ToSD, foot(c.Foot, false))
	}
	for _, p := range own.Positions {
		pos, ok := e.Model.Position(p.ID)
		if p.Frame == nil || !ok {
			continue
		}
		pair(pos.Name, *p.Frame, p.SD, func(v exchange.Event) bool { return strings.EqualFold(v.Label, p.ID) })
	}
	slices.SortStableFunc(a.Moments, func(x, y MomentAgreement) int { return x.Frame - y.Frame })
}

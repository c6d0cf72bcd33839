package technique

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/uncertainty"
)

// Show is something that the coach shows on the picture; every kind is measured.
//
//	pin     stays where a joint was, in the common frame of reference
//	line    stays where two joints were, or hangs plumb through one (Other empty)
//	should  where the end of a limb ought to be; Other is the joint it turns about
type Show struct {
	Kind     string  `json:"kind" enum:"pin,line,should"`
	Frame    int     `json:"frame" minimum:"0"`
	Landmark string  `json:"landmark"`
	Other    string  `json:"other,omitempty" required:"false"`
	X        float64 `json:"x,omitempty" required:"false" doc:"should: px of the frame's picture; the limb keeps its length"`
	Y        float64 `json:"y,omitempty" required:"false"`
	Note     string  `json:"note,omitempty" required:"false" maxLength:"200"`
}

// Shown is what a Show says at one frame.
type Shown struct {
	Lines    [][][2]float64     `json:"lines" doc:"what stands still (first) and what is now, px of the frame's picture"`
	Distance *uncertainty.Value `json:"distance,omitempty" required:"false" doc:"cm; px while there is no scale"`
	Unit     string             `json:"unit" enum:"cm,px"`
	Angle    *uncertainty.Value `json:"angle,omitempty" required:"false" doc:"degrees"`
	Way      string             `json:"way" doc:"in which direction it went"`
	Since    *int               `json:"since,omitempty" required:"false" doc:"frame since which it has surely left"`
	Missing  string             `json:"missing" doc:"why there is nothing to say"`
}

// Check refuses a Show that cannot be drawn.
func (s Show) Check() error {
	known := func(id string) bool { return body.Known(id) }
	switch {
	case s.Kind != "pin" && s.Kind != "line" && s.Kind != "should":
		return fmt.Errorf("there is no mark of the kind %q", s.Kind)
	case !known(s.Landmark) || s.Other != "" && !known(s.Other):
		return errors.New("a mark hangs on landmarks of the clip")
	case s.Kind == "should" && s.Other == "":
		return errors.New("a should-be needs the joint that the limb turns about")
	case s.Landmark == s.Other:
		return errors.New("a line needs two different landmarks")
	case s.Frame < 0 || len(s.Note) > 200 || math.IsNaN(s.X+s.Y) || math.IsInf(s.X+s.Y, 0):
		return errors.New("this mark cannot be read")
	}
	return nil
}

// ShowAt says what marks show at a frame.
func ShowAt(m Model, in Input, old *Memory, shows []Show, frame int) []Shown {
	e := newEvaluation(m, in, old)
	e.findScale()
	out := []Shown{}
	for _, s := range shows {
		out = append(out, e.show(s, frame))
	}
	return out
}

// Limb is the checkpoint by which a should-be is followed up: the direction of
// the limb at the key position flagged at its frame, wanted within its doubt of
// five degrees at the least.
func Limb(m Model, in Input, old *Memory, s Show) (Checkpoint, error) {
	if err := s.Check(); err != nil || s.Kind != "should" {
		return Checkpoint{}, errors.New("only a should-be can become a target")
	}
	e := newEvaluation(m, in, old)
	e.findScale()
	e.findContacts()
	e.findPositions()
	at := ""
	for _, p := range m.Positions {
		if f, ok := e.flag(p.ID); ok && f == s.Frame {
			at = p.ID
		}
	}
	if at == "" {
		return Checkpoint{}, errors.New("flag this frame as a key position first: the next clip is compared there")
	}
	pivot, ok := e.point(e.roles, s.Other, s.Frame)
	if !ok {
		return Checkpoint{}, errors.New("the joint that the limb turns about is not placed in this frame")
	}
	want := angles.FromVertical(pivot.at, e.move.Common(s.Frame, r2.Vec{X: s.X, Y: s.Y}))
	lo, hi := want-5, want+5
	p, _ := m.Position(at)
	return Checkpoint{ID: "should", Name: fmt.Sprintf("%s from %s at %s", body.Label(s.Landmark), body.Label(s.Other), p.Name), Position: at,
		Measure: Measure{Kind: "tilt", Points: []string{s.Other, s.Landmark}}, Unit: "°", Band: uncertainty.Band{Lo: &lo, Hi: &hi}, Basis: "trade"}, nil
}

func (e *evaluation) show(s Show, frame int) Shown {
	out := Shown{Lines: [][][2]float64{}, Unit: "px"}
	if err := s.Check(); err != nil {
		out.Missing = err.Error()
		return out
	}
	if !e.in.Camera.Usable() && frame != s.Frame {
		out.Missing = "the camera moved: a mark stays only in its own frame"
		return out
	}
	k, kSD := 1.0, 0.0
	if e.scale != nil {
		out.Unit, k, kSD = "cm", 100*e.scale.MetresPerPixel.X, 100*e.scale.MetresPerPixel.SD
	}
	px := func(p ...r2.Vec) (line [][2]float64) {
		for _, q := range p {
			q = e.move.Picture(frame, q)
			line = append(line, [2]float64{q.X, q.Y})
		}
		return line
	}
	length := func(d, sd float64) *uncertainty.Value {
		v := uncertainty.Propagate(func(x []float64) float64 { return x[0] * x[1] }, []float64{d, k}, []float64{sd, kSD})
		return &v
	}
	then, ok := e.point(e.roles, s.Landmark, s.Frame)
	if !ok {
		out.Missing = body.Label(s.Landmark) + " is not placed in frame " + fmt.Sprint(s.Frame)
		return out
	}
	now, here := e.point(e.roles, s.Landmark, frame)
	switch {
	case s.Kind == "pin":
		out.Lines = append(out.Lines, px(then.at))
		if !here {
			out.Missing = body.Label(s.Landmark) + " is not placed here"
			return out
		}
		d := r2.Sub(now.at, then.at)
		out.Lines = append(out.Lines, px(then.at, now.at))
		out.Distance, out.Way = length(r2.Norm(d), math.Hypot(now.sigma, then.sigma)), way(d)
		out.Since = e.since(s, then, frame)
	case s.Kind == "line" && s.Other == "":
		top, low := r2.Add(then.at, r2.Vec{Y: 4000}), r2.Add(then.at, r2.Vec{Y: -4000})
		out.Lines = append(out.Lines, px(low, top))
		if here {
			d := now.at.X - then.at.X
			out.Lines = append(out.Lines, px(r2.Vec{X: then.at.X, Y: now.at.Y}, now.at))
			out.Distance, out.Way = length(math.Abs(d), math.Hypot(now.sigma, then.sigma)), way(r2.Vec{X: d})
			out.Since = e.since(s, then, frame)
		}
	case s.Kind == "line":
		base, okB := e.point(e.roles, s.Other, s.Frame)
		if !okB || r2.Norm(r2.Sub(then.at, base.at)) < 1 {
			out.Missing = body.Label(s.Other) + " is not placed in frame " + fmt.Sprint(s.Frame)
			return out
		}
		along := r2.Unit(r2.Sub(then.at, base.at))
		out.Lines = append(out.Lines, px(r2.Sub(base.at, r2.Scale(2000, along)), r2.Add(base.at, r2.Scale(2000, along))))
		root, okRoot := e.point(e.roles, s.Other, frame)
		if !here || !okRoot {
			out.Missing = "one of its two landmarks is not placed here"
			return out
		}
		out.Lines = append(out.Lines, px(root.at, now.at))
		off := r2.Cross(along, r2.Sub(now.at, base.at))
		out.Distance = length(math.Abs(off), math.Hypot(now.sigma, then.sigma))
		a := uncertainty.Propagate(func(v []float64) float64 {
			return angles.SignedJoint(r2.Vec{X: v[0], Y: v[1]}, r2.Vec{}, r2.Vec{X: v[2], Y: v[3]})
		}, []float64{then.at.X - base.at.X, then.at.Y - base.at.Y, now.at.X - root.at.X, now.at.Y - root.at.Y},
			[]float64{math.Hypot(then.sigma, base.sigma), math.Hypot(then.sigma, base.sigma), math.Hypot(now.sigma, root.sigma), math.Hypot(now.sigma, root.sigma)})
		out.Angle, out.Way = &a, way(r2.Scale(off, r2.Vec{X: -along.Y, Y: along.X}))
	default: // should
		pivot, okP := e.point(e.roles, s.Other, s.Frame)
		if !okP {
			out.Missing = body.Label(s.Other) + " is not placed in frame " + fmt.Sprint(s.Frame)
			return out
		}
		real, want := r2.Sub(then.at, pivot.at), r2.Sub(e.move.Common(s.Frame, r2.Vec{X: s.X, Y: s.Y}), pivot.at)
		if r2.Norm(real) < 1 || r2.Norm(want) < 1 {
			out.Missing = "the limb has no length here"
			return out
		}
		// The limb keeps its length: only its direction is wanted otherwise.
		end := r2.Add(pivot.at, r2.Scale(r2.Norm(real), r2.Unit(want)))
		out.Lines = append(out.Lines, px(pivot.at, end), px(pivot.at, then.at))
		sd := math.Hypot(then.sigma, pivot.sigma)
		a := uncertainty.Propagate(func(v []float64) float64 {
			return angles.SignedJoint(r2.Vec{X: v[0], Y: v[1]}, r2.Vec{}, want)
		}, []float64{real.X, real.Y}, []float64{sd, sd})
		out.Angle = &a
		d := r2.Sub(end, then.at)
		out.Distance, out.Way = length(r2.Norm(d), sd), way(d)
	}
	return out
}

// since is the first frame from which on a landmark has surely been away from
// where it was, up to the frame that is looked at; nil when it is not away.
func (e *evaluation) since(s Show, then seen, frame int) *int {
	step := 1
	if frame < s.Frame {
		step = -1
	}
	var since *int
	for f := s.Frame; f != frame+step; f += step {
		p, ok := e.point(e.roles, s.Landmark, f)
		if !ok {
			continue
		}
		d := r2.Sub(p.at, then.at)
		if s.Kind == "line" {
			d.Y = 0
		}
		if r2.Norm(d) <= uncertainty.Z95*math.Hypot(p.sigma, then.sigma) {
			since = nil
		} else if since == nil {
			at := f
			since = &at
		}
	}
	return since
}

// way names the direction of a shift in (forward, up).
func way(d r2.Vec) string {
	if r2.Norm(d) < 1e-9 {
		return ""
	}
	a := angles.Deg(math.Atan2(d.Y, d.X))
	names := []string{"ahead", "ahead and up", "up", "back and up", "back", "back and down", "down", "ahead and down"}
	return names[(int(math.Round(a/45))+8)%8]
}

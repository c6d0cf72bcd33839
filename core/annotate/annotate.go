// Package annotate measures what a coach draws on the picture: pins, lines and where a limb
// should be.
package annotate

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/uncertainty"
)

// Annotation is something that the coach shows on the picture; every kind is measured.
//
//	pin     stays where a joint was, in the common frame of reference
//	line    stays where two joints were, or hangs plumb through one (Other empty)
//	should  where the end of a limb ought to be; Other is the joint it turns about
type Annotation struct {
	Kind     string  `json:"kind" enum:"pin,line,should"`
	Frame    int     `json:"frame" minimum:"0"`
	Landmark string  `json:"landmark"`
	Other    string  `json:"other,omitempty" required:"false"`
	X        float64 `json:"x,omitempty" required:"false" doc:"should: px of the frame's picture; the limb keeps its length"`
	Y        float64 `json:"y,omitempty" required:"false"`
	Note     string  `json:"note,omitempty" required:"false" maxLength:"200"`
}

// Reading is what an annotation says at one frame.
type Reading struct {
	Lines     [][][2]float64        `json:"lines" doc:"what stands still (first) and what is now, px of the frame's picture"`
	Distance  *uncertainty.Estimate `json:"distance,omitempty" required:"false" doc:"cm; px while there is no scale"`
	Unit      string                `json:"unit" enum:"cm,px"`
	Angle     *uncertainty.Estimate `json:"angle,omitempty" required:"false" doc:"degrees"`
	Direction string                `json:"direction" doc:"in which direction it went"`
	Since     *int                  `json:"since,omitempty" required:"false" doc:"frame since which it has surely left"`
	Missing   string                `json:"missing" doc:"why there is nothing to say"`
}

// Check refuses an annotation that cannot be drawn.
func (s Annotation) Check() error {
	known := func(id string) bool { return body.Known(id) }
	switch {
	case s.Kind != "pin" && s.Kind != "line" && s.Kind != "should":
		return fmt.Errorf("there is no annotation of the kind %q", s.Kind)
	case !known(s.Landmark) || s.Other != "" && !known(s.Other):
		return errors.New("an annotation needs landmarks of the clip")
	case s.Kind == "should" && s.Other == "":
		return errors.New("a should-be needs the joint that the limb turns about")
	case s.Landmark == s.Other:
		return errors.New("a line needs two different landmarks")
	case s.Frame < 0 || len(s.Note) > 200 || math.IsNaN(s.X+s.Y) || math.IsInf(s.X+s.Y, 0):
		return errors.New("this annotation cannot be read")
	}
	return nil
}

// At says what marks show at a frame.
func At(m model.Model, in evaluate.Input, old *evaluate.Cache, shows []Annotation, frame int) []Reading {
	e := evaluate.Begin(m, in, old)
	out := []Reading{}
	for _, s := range shows {
		out = append(out, read(e, s, frame))
	}
	return out
}

// Target is the checkpoint by which a should-be is followed up: the direction of
// the limb at the key position flagged at its frame, wanted within its doubt of
// five degrees at the least.
func Target(m model.Model, in evaluate.Input, old *evaluate.Cache, s Annotation) (model.Checkpoint, error) {
	if err := s.Check(); err != nil || s.Kind != "should" {
		return model.Checkpoint{}, errors.New("only a should-be can become a target")
	}
	e := evaluate.Begin(m, in, old)
	e.Locate()
	at := ""
	for _, p := range m.Positions {
		if f, ok := e.Flag(p.ID); ok && f == s.Frame {
			at = p.ID
		}
	}
	if at == "" {
		return model.Checkpoint{}, errors.New("flag this frame as a key position first: the next clip is compared there")
	}
	pivot, ok := e.Point(e.Roles, s.Other, s.Frame)
	if !ok {
		return model.Checkpoint{}, errors.New("the joint that the limb turns about is not placed in this frame")
	}
	// Read from its lower end, so that a limb near the vertical never jumps by a whole turn.
	ends := []string{s.Other, s.Landmark}
	low, high := pivot.At, e.Movement.ToReference(s.Frame, r2.Vec{X: s.X, Y: s.Y})
	if high.Y < low.Y {
		ends, low, high = []string{s.Landmark, s.Other}, high, low
	}
	want := angles.SegmentToVertical(low, high)
	lo, hi := want-5, want+5
	p, _ := m.Position(at)
	return model.Checkpoint{ID: "should", Name: fmt.Sprintf("%s from %s at %s", body.Label(s.Landmark), body.Label(s.Other), p.Name), Position: at,
		Measure: model.Measure{Kind: "tilt", Points: ends}, Unit: "°", Band: uncertainty.Band{Lo: &lo, Hi: &hi}, Basis: "trade"}, nil
}

func read(e *evaluate.Evaluation, s Annotation, frame int) Reading {
	out := Reading{Lines: [][][2]float64{}, Unit: "px"}
	if err := s.Check(); err != nil {
		out.Missing = err.Error()
		return out
	}
	if !e.Input.Camera.Usable() && frame != s.Frame {
		out.Missing = "the camera moved: it stays only in its own frame"
		return out
	}
	k, kSD := 1.0, 0.0
	if e.Scale != nil {
		out.Unit, k, kSD = "cm", 100*e.Scale.MetresPerPixel.Value, 100*e.Scale.MetresPerPixel.SD
	}
	px := func(p ...r2.Vec) (line [][2]float64) {
		for _, q := range p {
			q = e.Movement.ToImage(frame, q)
			line = append(line, [2]float64{q.X, q.Y})
		}
		return line
	}
	length := func(d, sd float64) *uncertainty.Estimate {
		v := uncertainty.Propagate(func(x []float64) float64 { return x[0] * x[1] }, []float64{d, k}, []float64{sd, kSD})
		return &v
	}
	then, ok := e.Point(e.Roles, s.Landmark, s.Frame)
	if !ok {
		out.Missing = body.Label(s.Landmark) + " is not placed in frame " + fmt.Sprint(s.Frame)
		return out
	}
	now, here := e.Point(e.Roles, s.Landmark, frame)
	switch {
	case s.Kind == "pin":
		out.Lines = append(out.Lines, px(then.At))
		if !here {
			out.Missing = body.Label(s.Landmark) + " is not placed here"
			return out
		}
		d := r2.Sub(now.At, then.At)
		out.Lines = append(out.Lines, px(then.At, now.At))
		out.Distance, out.Direction = length(r2.Norm(d), math.Hypot(now.Sigma, then.Sigma)), direction(d)
		out.Since = since(e, s, then, frame)
	case s.Kind == "line" && s.Other == "":
		top, low := r2.Add(then.At, r2.Vec{Y: 4000}), r2.Add(then.At, r2.Vec{Y: -4000})
		out.Lines = append(out.Lines, px(low, top))
		if here {
			d := now.At.X - then.At.X
			out.Lines = append(out.Lines, px(r2.Vec{X: then.At.X, Y: now.At.Y}, now.At))
			out.Distance, out.Direction = length(math.Abs(d), math.Hypot(now.Sigma, then.Sigma)), direction(r2.Vec{X: d})
			out.Since = since(e, s, then, frame)
		}
	case s.Kind == "line":
		base, okB := e.Point(e.Roles, s.Other, s.Frame)
		if !okB || r2.Norm(r2.Sub(then.At, base.At)) < 1 {
			out.Missing = body.Label(s.Other) + " is not placed in frame " + fmt.Sprint(s.Frame)
			return out
		}
		along := r2.Unit(r2.Sub(then.At, base.At))
		out.Lines = append(out.Lines, px(r2.Sub(base.At, r2.Scale(2000, along)), r2.Add(base.At, r2.Scale(2000, along))))
		root, okRoot := e.Point(e.Roles, s.Other, frame)
		if !here || !okRoot {
			out.Missing = "one of its two landmarks is not placed here"
			return out
		}
		out.Lines = append(out.Lines, px(root.At, now.At))
		off := r2.Cross(along, r2.Sub(now.At, base.At))
		out.Distance = length(math.Abs(off), math.Hypot(now.Sigma, then.Sigma))
		a := uncertainty.Propagate(func(v []float64) float64 {
			return angles.SignedIncluded(r2.Vec{X: v[0], Y: v[1]}, r2.Vec{}, r2.Vec{X: v[2], Y: v[3]})
		}, []float64{then.At.X - base.At.X, then.At.Y - base.At.Y, now.At.X - root.At.X, now.At.Y - root.At.Y},
			[]float64{math.Hypot(then.Sigma, base.Sigma), math.Hypot(then.Sigma, base.Sigma), math.Hypot(now.Sigma, root.Sigma), math.Hypot(now.Sigma, root.Sigma)})
		out.Angle, out.Direction = &a, direction(r2.Scale(off, r2.Vec{X: -along.Y, Y: along.X}))
	default: // should
		pivot, okP := e.Point(e.Roles, s.Other, s.Frame)
		if !okP {
			out.Missing = body.Label(s.Other) + " is not placed in frame " + fmt.Sprint(s.Frame)
			return out
		}
		real, want := r2.Sub(then.At, pivot.At), r2.Sub(e.Movement.ToReference(s.Frame, r2.Vec{X: s.X, Y: s.Y}), pivot.At)
		if r2.Norm(real) < 1 || r2.Norm(want) < 1 {
			out.Missing = "the limb has no length here"
			return out
		}
		// The limb keeps its length: only its direction is wanted otherwise.
		end := r2.Add(pivot.At, r2.Scale(r2.Norm(real), r2.Unit(want)))
		out.Lines = append(out.Lines, px(pivot.At, end), px(pivot.At, then.At))
		sd := math.Hypot(then.Sigma, pivot.Sigma)
		a := uncertainty.Propagate(func(v []float64) float64 {
			return angles.SignedIncluded(r2.Vec{X: v[0], Y: v[1]}, r2.Vec{}, want)
		}, []float64{real.X, real.Y}, []float64{sd, sd})
		out.Angle = &a
		d := r2.Sub(end, then.At)
		out.Distance, out.Direction = length(r2.Norm(d), sd), direction(d)
	}
	return out
}

// since is the first frame from which on a landmark has surely been away from
// where it was, up to the frame that is looked at; nil when it is not away.
func since(e *evaluate.Evaluation, s Annotation, then evaluate.Located, frame int) *int {
	step := 1
	if frame < s.Frame {
		step = -1
	}
	var left *int
	for f := s.Frame; f != frame+step; f += step {
		p, ok := e.Point(e.Roles, s.Landmark, f)
		if !ok {
			continue
		}
		d := r2.Sub(p.At, then.At)
		if s.Kind == "line" {
			d.Y = 0
		}
		if r2.Norm(d) <= uncertainty.Z95*math.Hypot(p.Sigma, then.Sigma) {
			left = nil
		} else if left == nil {
			at := f
			left = &at
		}
	}
	return left
}

// direction names the direction of a shift in (forward, up).
func direction(d r2.Vec) string {
	if r2.Norm(d) < 1e-9 {
		return ""
	}
	a := angles.Deg(math.Atan2(d.Y, d.X))
	names := []string{"ahead", "ahead and up", "up", "back and up", "back", "back and down", "down", "ahead and down"}
	return names[(int(math.Round(a/45))+8)%8]
}

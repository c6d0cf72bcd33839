// Package wasmapi offers the core as functions from JSON to JSON, for the
// WebAssembly build. The types below are also part of the API description, so
// that TypeScript gets them from the same source.
package wasmapi

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/azimuth"
	"neokinema/core/blocks"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/stabilize"
	"neokinema/core/technique"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// EvaluateCall asks for the report of an attempt, and for what became of a
// target measured before.
type EvaluateCall struct {
	Input  technique.Input    `json:"input"`
	Target string             `json:"target,omitempty" required:"false" doc:"checkpoint of the last cue"`
	Before *uncertainty.Value `json:"before,omitempty" required:"false" doc:"its reading then"`
}

// EvaluateAnswer is the report, with the effect of the last cue if there is one.
type EvaluateAnswer struct {
	Report technique.Report  `json:"report"`
	Effect *technique.Effect `json:"effect,omitempty" required:"false"`
}

// BlocksCall asks what a moved pedal would do.
type BlocksCall struct {
	Input    technique.Input         `json:"input"`
	Question technique.BlockQuestion `json:"question"`
}

// BlocksAnswer is the answer, or what is missing for it.
type BlocksAnswer struct {
	Answer  *blocks.WhatIf `json:"answer,omitempty" required:"false"`
	Missing string         `json:"missing,omitempty" required:"false"`
}

// RatesCall weighs capture rates by a ground contact that the coach marked.
type RatesCall struct {
	Stamps   []int64   `json:"stamps"`
	FileRate float64   `json:"file_rate"`
	On       int       `json:"on" doc:"frame of touchdown"`
	Off      int       `json:"off" doc:"frame of toe-off; not after on for none"`
	Rates    []float64 `json:"rates"`
}

// RatesAnswer has one guess for each rate.
type RatesAnswer struct {
	Guesses []timebase.Guess `json:"guesses"`
}

// PutCall lays tracks on the desk: those named, or all anew.
type PutCall struct {
	Anew   bool              `json:"anew" doc:"take everything else off the desk"`
	Tracks kinematics.Points `json:"tracks" doc:"landmark to track; null takes it off"`
}

// PutAnswer says what lies on the desk.
type PutAnswer struct {
	Landmarks int `json:"landmarks"`
}

// CurvesCall asks for curves over the clip.
type CurvesCall struct {
	Input technique.Input `json:"input"`
	IDs   []string        `json:"ids"`
}

// CurvesAnswer has one curve for each id.
type CurvesAnswer struct {
	Curves []kinematics.Curve `json:"curves"`
}

// InputCall asks something of an attempt as it is.
type InputCall struct {
	Input technique.Input `json:"input"`
}

// DoubtsAnswer lists points to look at.
type DoubtsAnswer struct {
	Doubts []technique.Doubtful `json:"doubts"`
}

// ShowsCall asks what marks say at a frame.
type ShowsCall struct {
	Input technique.Input  `json:"input"`
	Shows []technique.Show `json:"shows"`
	Frame int              `json:"frame"`
}

// ShowsAnswer has one answer for each mark.
type ShowsAnswer struct {
	Shown []technique.Shown `json:"shown"`
}

// LimbCall asks for the checkpoint of a should-be.
type LimbCall struct {
	Input technique.Input `json:"input"`
	Show  technique.Show  `json:"show"`
}

// LimbAnswer is the checkpoint, or what is missing for it.
type LimbAnswer struct {
	Checkpoint *technique.Checkpoint `json:"checkpoint,omitempty" required:"false"`
	Missing    string                `json:"missing,omitempty" required:"false"`
}

// CorrectCall asks for a correction of tracks on the desk.
type CorrectCall struct {
	Kind      string   `json:"kind" enum:"bend,fill,swap,clear" doc:"bend: put one point and take neighbours along; fill: close gaps; swap: exchange left and right; clear: empty"`
	Landmarks []string `json:"landmarks" doc:"one for bend; parts without side for swap"`
	From      int      `json:"from" doc:"frame, or first frame of a range"`
	To        int      `json:"to" doc:"last frame of a range"`
	X         float64  `json:"x,omitempty" required:"false"`
	Y         float64  `json:"y,omitempty" required:"false"`
	Hidden    bool     `json:"hidden,omitempty" required:"false"`
	Radius    int      `json:"radius,omitempty" required:"false" doc:"frames"`
	// Tracks are corrected instead of those on the desk: under the hand the desk
	// already holds what the hand has moved.
	Tracks kinematics.Points `json:"tracks,omitempty" required:"false"`
}

// CorrectAnswer has the changes by landmark.
type CorrectAnswer struct {
	Changes kinematics.Points `json:"changes"`
	Missing string            `json:"missing,omitempty" required:"false"`
}

// CameraCall asks where places of the common frame show in a frame, or the other
// way round.
type CameraCall struct {
	Camera *stabilize.Camera `json:"camera,omitempty" required:"false"`
	Ground *ground.Plane     `json:"ground,omitempty" required:"false" doc:"when given, places are on the ground: along, right"`
	Frame  int               `json:"frame"`
	Places [][2]float64      `json:"places"`
}

// CameraAnswer has a pixel of the frame for each place.
type CameraAnswer struct {
	Pixels [][2]float64 `json:"pixels" doc:"below -1e8 for what does not show"`
}

// CatalogueAnswer is what there is to choose from.
type CatalogueAnswer struct {
	Curves    []kinematics.CurveKind `json:"curves"`
	Templates []ground.Template      `json:"templates"`
}

// Calls lists all types that cross the bridge.
type Calls struct {
	Put            PutCall           `json:"put"`
	PutAnswer      PutAnswer         `json:"put_answer"`
	Evaluate       EvaluateCall      `json:"evaluate"`
	EvaluateAnswer EvaluateAnswer    `json:"evaluate_answer"`
	Blocks         BlocksCall        `json:"blocks"`
	BlocksAnswer   BlocksAnswer      `json:"blocks_answer"`
	Rates          RatesCall         `json:"rates"`
	RatesAnswer    RatesAnswer       `json:"rates_answer"`
	Curves         CurvesCall        `json:"curves"`
	CurvesAnswer   CurvesAnswer      `json:"curves_answer"`
	Doubts         InputCall         `json:"doubts"`
	DoubtsAnswer   DoubtsAnswer      `json:"doubts_answer"`
	SettleAnswer   technique.Settled `json:"settle_answer"`
	Shows          ShowsCall         `json:"shows"`
	ShowsAnswer    ShowsAnswer       `json:"shows_answer"`
	Limb           LimbCall          `json:"limb"`
	LimbAnswer     LimbAnswer        `json:"limb_answer"`
	Correct        CorrectCall       `json:"correct"`
	CorrectAnswer  CorrectAnswer     `json:"correct_answer"`
	Camera         CameraCall        `json:"camera"`
	CameraAnswer   CameraAnswer      `json:"camera_answer"`
	Catalogue      CatalogueAnswer   `json:"catalogue"`
	Say            SayCall           `json:"say"`
	SayAnswer      SayAnswer         `json:"say_answer"`
	Above          InputCall         `json:"above"`
	AboveAnswer    AboveAnswer       `json:"above_answer"`
	Model          ModelCall         `json:"model"`
	ModelAnswer    ModelAnswer       `json:"model_answer"`
}

// SayCall asks for directions in a coach's language.
type SayCall struct {
	Azimuths []float64        `json:"azimuths" doc:"degrees"`
	Left     bool             `json:"left" doc:"throws with the left hand"`
	Language azimuth.Language `json:"language"`
}

// SayAnswer names them.
type SayAnswer struct {
	Says []string `json:"says"`
}

// AboveAnswer is a throw seen from above, if it is read in depth.
type AboveAnswer struct {
	Above *technique.Above `json:"above,omitempty" required:"false"`
}

// ModelCall lays the technique model on the desk; all calls with an input of that
// model use it.
type ModelCall struct {
	Model technique.Model `json:"model"`
}

// ModelAnswer says which model lies there.
type ModelAnswer struct {
	Model string `json:"model"`
}

// Desk keeps the technique model and the tracks of the clip that is worked on
// between calls, so that a point under the hand does not carry all others along,
// and their smooth paths.
type Desk struct {
	model  technique.Model
	points kinematics.Points
	memory *technique.Memory
	camera stabilize.Camera // the last one seen: paths hold on to it
}

// input gives an input its points from the desk, unless it brings its own.
func (d *Desk) input(in technique.Input) (technique.Model, technique.Input, error) {
	var err error
	if d.model.ID != in.Model {
		err = fmt.Errorf("the technique model %q does not lie on the desk", in.Model)
	}
	if in.Points == nil {
		in.Points = d.points
		// The same camera keeps its identity, and with it the paths.
		if in.Camera != nil {
			if !same(d.camera, *in.Camera) {
				d.camera, d.memory = *in.Camera, nil
			}
			in.Camera = &d.camera
		}
	}
	return d.model, in, err
}

func same(a, b stabilize.Camera) bool {
	return a.Focal == b.Focal && a.Reference == b.Reference && a.Width == b.Width && a.Problem == b.Problem && slices.Equal(a.Turns, b.Turns)
}

// Do answers one call by its name in [Calls].
func (d *Desk) Do(name string, request []byte) ([]byte, error) {
	switch name {
	case "catalogue":
		return json.Marshal(CatalogueAnswer{kinematics.CurveKinds(), ground.Templates()})
	case "model":
		return answer(request, func(c ModelCall) (ModelAnswer, error) {
			d.model, d.memory = c.Model, nil
			return ModelAnswer{c.Model.ID}, nil
		})
	case "put":
		return answer(request, func(c PutCall) (PutAnswer, error) {
			if c.Anew || d.points == nil {
				d.points, d.memory = kinematics.Points{}, nil
			}
			for id, t := range c.Tracks {
				if t == nil {
					delete(d.points, id)
					continue
				}
				if err := t.Check(); err != nil {
					return PutAnswer{}, fmt.Errorf("%s: %w", id, err)
				}
				d.points[id] = t
			}
			return PutAnswer{len(d.points)}, nil
		})
	case "evaluate":
		return answer(request, func(c EvaluateCall) (EvaluateAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return EvaluateAnswer{}, err
			}
			var a EvaluateAnswer
			var memory *technique.Memory
			a.Report, memory = technique.Again(m, in, d.memory)
			if c.Input.Points == nil {
				d.memory = memory
			}
			cp, known := m.Checkpoint(c.Target)
			for _, x := range in.Extra {
				if x.ID == c.Target {
					cp, known = x, true
				}
			}
			now, measured := a.Report.Reading(c.Target)
			if known && measured && c.Before != nil && now.Value != nil {
				e := technique.Compare(cp, *c.Before, *now.Value)
				a.Effect = &e
			}
			return a, nil
		})
	case "blocks":
		return answer(request, func(c BlocksCall) (BlocksAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return BlocksAnswer{}, err
			}
			w, err := technique.Blocks(m, in, c.Question)
			if err != nil {
				return BlocksAnswer{Missing: err.Error()}, nil
			}
			return BlocksAnswer{Answer: &w}, nil
		})
	case "rates":
		return answer(request, func(c RatesCall) (RatesAnswer, error) {
			return RatesAnswer{Guesses: timebase.Guesses(c.Stamps, c.FileRate, c.On, c.Off, c.Rates)}, nil
		})
	case "curves":
		return answer(request, func(c CurvesCall) (CurvesAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return CurvesAnswer{}, err
			}
			return CurvesAnswer{technique.Curves(m, in, d.memory, c.IDs)}, nil
		})
	case "say":
		return answer(request, func(c SayCall) (SayAnswer, error) {
			return SayAnswer{azimuth.Spoken(c.Azimuths, c.Left, c.Language)}, nil
		})
	case "above":
		return answer(request, func(c InputCall) (AboveAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return AboveAnswer{}, err
			}
			if a, ok := technique.FromAbove(m, in, d.memory); ok {
				return AboveAnswer{&a}, nil
			}
			return AboveAnswer{}, nil
		})
	case "doubts":
		return answer(request, func(c InputCall) (DoubtsAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return DoubtsAnswer{}, err
			}
			return DoubtsAnswer{technique.Doubts(m, in, d.memory)}, nil
		})
	case "settle":
		return answer(request, func(c InputCall) (technique.Settled, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return technique.Settled{}, err
			}
			return technique.Settle(m, in), nil
		})
	case "shows":
		return answer(request, func(c ShowsCall) (ShowsAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return ShowsAnswer{}, err
			}
			return ShowsAnswer{technique.ShowAt(m, in, d.memory, c.Shows, c.Frame)}, nil
		})
	case "limb":
		return answer(request, func(c LimbCall) (LimbAnswer, error) {
			m, in, err := d.input(c.Input)
			if err != nil {
				return LimbAnswer{}, err
			}
			cp, err := technique.Limb(m, in, d.memory, c.Show)
			if err != nil {
				return LimbAnswer{Missing: err.Error()}, nil
			}
			return LimbAnswer{Checkpoint: &cp}, nil
		})
	case "correct":
		return answer(request, d.correct)
	case "camera":
		return answer(request, func(c CameraCall) (CameraAnswer, error) {
			a := CameraAnswer{Pixels: [][2]float64{}}
			for _, p := range c.Places {
				q := r2.Vec{X: p[0], Y: p[1]}
				if c.Ground != nil {
					q = c.Ground.Picture(q)
				}
				q = c.Camera.Picture(c.Frame, q)
				if math.IsNaN(q.X) || math.Abs(q.X)+math.Abs(q.Y) > 1e6 {
					q = r2.Vec{X: kinematics.None, Y: kinematics.None}
				}
				a.Pixels = append(a.Pixels, [2]float64{q.X, q.Y})
			}
			return a, nil
		})
	}
	return nil, fmt.Errorf("the core has no call %q", name)
}

func (d *Desk) correct(c CorrectCall) (CorrectAnswer, error) {
	a := CorrectAnswer{Changes: kinematics.Points{}}
	if c.To < c.From && c.Kind != "bend" || c.From < 0 {
		return a, fmt.Errorf("a range runs from an earlier to a later frame, not from %d to %d", c.From, c.To)
	}
	on := func(id string) *track.Track {
		if t := c.Tracks[id]; t != nil {
			return t
		}
		if t := d.points[id]; t != nil {
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

// desk is the one that [Do] works on: the browser has one clip open at a time.
var desk Desk

// Do answers one call on the one desk of this process.
func Do(name string, request []byte) ([]byte, error) { return desk.Do(name, request) }

func answer[Q, A any](request []byte, f func(Q) (A, error)) ([]byte, error) {
	var q Q
	if err := json.Unmarshal(request, &q); err != nil {
		return nil, err
	}
	a, err := f(q)
	if err != nil {
		return nil, err
	}
	return json.Marshal(a)
}

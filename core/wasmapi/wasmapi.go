// Package wasmapi offers the core as functions from JSON to JSON, for the WebAssembly build.
// What crosses (calls.go) is also part of the API description, so that TypeScript gets it
// from the same source.
package wasmapi

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/annotate"
	"neokinema/core/azimuth"
	"neokinema/core/compare"
	"neokinema/core/diagnose"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/repair"
	"neokinema/core/stabilize"
	"neokinema/core/timebase"
)

// Session keeps the technique model and the tracks of the clip that is worked on between
// calls, so that a point under the hand does not carry all others along, and what the last
// evaluation left.
type Session struct {
	model  model.Model
	points kinematics.Points
	cache  *evaluate.Cache
	camera stabilize.Rotations // the last one seen: paths hold on to it

	looking looking
}

// Calls pairs each call's question with its answer, by name.
type Calls struct {
	SetModel          SetModelCall      `json:"set_model"`
	SetModelAnswer    SetModelAnswer    `json:"set_model_answer"`
	SetTracks         SetTracksCall     `json:"set_tracks"`
	SetTracksAnswer   SetTracksAnswer   `json:"set_tracks_answer"`
	Evaluate          EvaluateCall      `json:"evaluate"`
	EvaluateAnswer    EvaluateAnswer    `json:"evaluate_answer"`
	Rates             RatesCall         `json:"rates"`
	RatesAnswer       RatesAnswer       `json:"rates_answer"`
	Curves            CurvesCall        `json:"curves"`
	CurvesAnswer      CurvesAnswer      `json:"curves_answer"`
	Suspects          InputCall         `json:"suspects"`
	SuspectsAnswer    SuspectsAnswer    `json:"suspects_answer"`
	Repair            InputCall         `json:"repair"`
	RepairAnswer      repair.Repaired   `json:"repair_answer"`
	NameLegs          NameLegsCall      `json:"name_legs"`
	NameLegsAnswer    repair.Repaired   `json:"name_legs_answer"`
	Annotations       AnnotationsCall   `json:"annotations"`
	AnnotationsAnswer AnnotationsAnswer `json:"annotations_answer"`
	Target            TargetCall        `json:"target"`
	TargetAnswer      TargetAnswer      `json:"target_answer"`
	TopView           InputCall         `json:"top_view"`
	TopViewAnswer     TopViewAnswer     `json:"top_view_answer"`
	Directions        DirectionsCall    `json:"directions"`
	DirectionsAnswer  DirectionsAnswer  `json:"directions_answer"`
	Correct           CorrectCall       `json:"correct"`
	CorrectAnswer     CorrectAnswer     `json:"correct_answer"`
	Camera            CameraCall        `json:"camera"`
	CameraAnswer      CameraAnswer      `json:"camera_answer"`
	Catalogue         CatalogueCall     `json:"catalogue"`
	CatalogueAnswer   CatalogueAnswer   `json:"catalogue_answer"`

	BeginDraft         DraftCall          `json:"begin_draft"`
	BeginDraftAnswer   DraftAnswer        `json:"begin_draft_answer"`
	Look               DraftLookCall      `json:"look"`
	LookAnswer         DraftStep          `json:"look_answer"`
	GoOn               DraftGoOnCall      `json:"go_on"`
	GoOnAnswer         DraftStep          `json:"go_on_answer"`
	DraftChanges       DraftChangesCall   `json:"draft_changes"`
	DraftChangesAnswer DraftChangesAnswer `json:"draft_changes_answer"`
}

var calls = map[string]func(*Session, []byte) ([]byte, error){
	"set_model":   handle((*Session).setModel),
	"set_tracks":  handle((*Session).setTracks),
	"evaluate":    handle((*Session).evaluate),
	"rates":       handle((*Session).rates),
	"curves":      handle((*Session).curves),
	"suspects":    handle((*Session).suspects),
	"repair":      handle((*Session).repair),
	"name_legs":   handle((*Session).nameLegs),
	"annotations": handle((*Session).annotations),
	"target":      handle((*Session).target),
	"top_view":    handle((*Session).topView),
	"directions":  handle((*Session).directions),
	"correct":     handle((*Session).correct),
	"camera":      handle((*Session).toImage),
	"catalogue":   handle((*Session).catalogue),

	"begin_draft":   handle((*Session).beginDraft),
	"look":          handle((*Session).look),
	"go_on":         handle((*Session).goOn),
	"draft_changes": handle((*Session).draftChanges),
}

// Do answers one call by its name in [Calls].
func (s *Session) Do(name string, request []byte) ([]byte, error) {
	call, ok := calls[name]
	if !ok {
		return nil, fmt.Errorf("the core has no call %q", name)
	}
	return call(s, request)
}

// handle wraps a method that answers a question of one type.
func handle[Q, A any](f func(*Session, Q) (A, error)) func(*Session, []byte) ([]byte, error) {
	return func(s *Session, request []byte) ([]byte, error) {
		var q Q
		if err := json.Unmarshal(request, &q); err != nil {
			return nil, err
		}
		a, err := f(s, q)
		if err != nil {
			return nil, err
		}
		return json.Marshal(a)
	}
}

// input gives an input the session's points, unless it brings its own.
func (s *Session) input(in evaluate.Input) (evaluate.Input, error) {
	if s.model.ID != in.Model {
		return in, fmt.Errorf("the session does not have the technique model %q", in.Model)
	}
	if in.Points == nil {
		in.Points = s.points
		// The same camera keeps its identity, and with it the paths.
		if in.Camera != nil {
			if !same(s.camera, *in.Camera) {
				s.camera, s.cache = *in.Camera, nil
			}
			in.Camera = &s.camera
		}
	}
	return in, nil
}

func same(a, b stabilize.Rotations) bool {
	return a.Focal == b.Focal && a.Reference == b.Reference && a.Width == b.Width && a.Problem == b.Problem && slices.Equal(a.Turns, b.Turns)
}

func (s *Session) setModel(c SetModelCall) (SetModelAnswer, error) {
	s.model, s.cache = c.Model, nil
	return SetModelAnswer{c.Model.ID}, nil
}

func (s *Session) setTracks(c SetTracksCall) (SetTracksAnswer, error) {
	if c.Replace || s.points == nil {
		s.points, s.cache = kinematics.Points{}, nil
	}
	for id, t := range c.Tracks {
		if t == nil {
			delete(s.points, id)
			continue
		}
		if err := t.Check(); err != nil {
			return SetTracksAnswer{}, fmt.Errorf("%s: %w", id, err)
		}
		s.points[id] = t
	}
	return SetTracksAnswer{len(s.points)}, nil
}

func (s *Session) evaluate(c EvaluateCall) (EvaluateAnswer, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return EvaluateAnswer{}, err
	}
	var a EvaluateAnswer
	var cache *evaluate.Cache
	a.Report, cache = evaluate.Incremental(s.model, in, s.cache)
	if c.Input.Points == nil {
		s.cache = cache
	}
	a.Listed = diagnose.List(s.model, a.Report.Findings, c.Decisions, c.Refused)
	cp, known := s.model.Checkpoint(c.Target)
	for _, x := range in.Extra {
		if x.ID == c.Target {
			cp, known = x, true
		}
	}
	now, measured := a.Report.Reading(c.Target)
	if known && measured && c.Before != nil && now.Value != nil {
		e := compare.EffectOf(cp, *c.Before, *now.Value)
		a.Effect = &e
	}
	return a, nil
}

func (*Session) rates(c RatesCall) (RatesAnswer, error) {
	return RatesAnswer{timebase.RateHypotheses(c.Stamps, c.FileRate, c.On, c.Off, c.Rates)}, nil
}

func (s *Session) curves(c CurvesCall) (CurvesAnswer, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return CurvesAnswer{}, err
	}
	a := CurvesAnswer{Curves: []CurveWithBand{}}
	for _, k := range evaluate.Curves(s.model, in, s.cache, c.IDs) {
		a.Curves = append(a.Curves, CurveWithBand{k, s.model.CurveBand(k.ID)})
	}
	return a, nil
}

func (s *Session) suspects(c InputCall) (SuspectsAnswer, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return SuspectsAnswer{}, err
	}
	return SuspectsAnswer{repair.Suspects(s.model, in, s.cache)}, nil
}

func (s *Session) repair(c InputCall) (repair.Repaired, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return repair.Repaired{}, err
	}
	return repair.Draft(s.model, in), nil
}

func (s *Session) nameLegs(c NameLegsCall) (repair.Repaired, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return repair.Repaired{}, err
	}
	return repair.Legs(s.model, in, c.Frame, c.Exchanged), nil
}

func (s *Session) annotations(c AnnotationsCall) (AnnotationsAnswer, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return AnnotationsAnswer{}, err
	}
	return AnnotationsAnswer{annotate.At(s.model, in, s.cache, c.Annotations, c.Frame)}, nil
}

func (s *Session) target(c TargetCall) (TargetAnswer, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return TargetAnswer{}, err
	}
	cp, err := annotate.Target(s.model, in, s.cache, c.Annotation)
	if err != nil {
		return TargetAnswer{Missing: err.Error()}, nil
	}
	return TargetAnswer{Checkpoint: &cp}, nil
}

func (s *Session) topView(c InputCall) (TopViewAnswer, error) {
	in, err := s.input(c.Input)
	if err != nil {
		return TopViewAnswer{}, err
	}
	if v, ok := evaluate.SeenFromAbove(s.model, in, s.cache); ok {
		return TopViewAnswer{&v}, nil
	}
	return TopViewAnswer{}, nil
}

func (*Session) directions(c DirectionsCall) (DirectionsAnswer, error) {
	return DirectionsAnswer{azimuth.Spoken(c.Azimuths, c.Left, c.Language)}, nil
}

func (*Session) toImage(c CameraCall) (CameraAnswer, error) {
	a := CameraAnswer{Pixels: [][2]float64{}}
	for _, p := range c.Places {
		q := r2.Vec{X: p[0], Y: p[1]}
		if c.Ground != nil {
			q = c.Ground.Picture(q)
		}
		q = c.Camera.ToImage(c.Frame, q)
		if math.IsNaN(q.X) || math.Abs(q.X)+math.Abs(q.Y) > 1e6 {
			q = r2.Vec{X: kinematics.None, Y: kinematics.None}
		}
		a.Pixels = append(a.Pixels, [2]float64{q.X, q.Y})
	}
	return a, nil
}

func (*Session) catalogue(CatalogueCall) (CatalogueAnswer, error) {
	return CatalogueAnswer{kinematics.CurveKinds(), ground.Templates()}, nil
}

package wasmapi

import (
	"encoding/json"
	"errors"
	"testing"

	"neokinema/core/body"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// FuzzDo: whatever a page sends, a call answers with JSON or says what is wrong; none ends the
// session.
func FuzzDo(f *testing.F) {
	m, err := models.Load("sprint-start")
	if err != nil {
		f.Fatal(err)
	}
	sc, err := simcam.New(simcam.Spec{Event: "sprint-start", CaptureRate: 60, FileRate: 30, Width: 1280, Height: 720, Direction: 1, Athlete: body.Person{Sex: body.Male, Height: 1.8, Mass: 75}})
	if err != nil {
		f.Fatal(err)
	}
	in := points.Input(sc.Truth, points.All(sc.Truth, 1, 1))
	tracks := in.Points
	in.Points = nil
	raw := func(v any) string {
		b, err := json.Marshal(v)
		if err != nil {
			f.Fatal(err)
		}
		return string(b)
	}
	for name, call := range map[string]any{
		"evaluate": EvaluateCall{Input: in, Target: "block_time"},
		"rates":    RatesCall{Stamps: in.Clip.Stamps, FileRate: 30, On: 4, Off: 9, Rates: []float64{60, 0, -1}}, "curves": CurvesCall{Input: in, IDs: []string{"left_knee"}},
		"suspects": InputCall{Input: in}, "repair": InputCall{Input: in}, "name_legs": NameLegsCall{Input: in}, "annotations": AnnotationsCall{Input: in},
		"target": TargetCall{}, "top_view": InputCall{Input: in}, "directions": DirectionsCall{}, "correct": CorrectCall{}, "camera": CameraCall{}, "catalogue": CatalogueCall{},
		"set_tracks": SetTracksCall{Replace: true, Tracks: tracks}, "set_model": SetModelCall{m}, "look": DraftLookCall{}, "begin_draft": DraftCall{}, "go_on": DraftGoOnCall{}, "draft_changes": DraftChangesCall{},
	} {
		f.Add(name, raw(call))
	}
	f.Add("evaluate", `{"input":{"clip":{"stamps":[0],"file_rate":1e308,"capture_rate":-5}}}`)
	f.Add("nothing", "")
	f.Fuzz(func(t *testing.T, name, request string) {
		if len(request) > 1<<16 {
			t.Skip("long questions take long")
		}
		s := &Session{}
		if _, err := s.Do("set_model", []byte(raw(SetModelCall{m}))); err != nil {
			t.Fatal(err)
		}
		if _, err := s.Do("set_tracks", []byte(raw(SetTracksCall{Replace: true, Tracks: tracks}))); err != nil {
			t.Fatal(err)
		}
		answer, err := s.Do(name, []byte(request))
		if err == nil && !json.Valid(answer) {
			t.Errorf("%s answers %q", name, answer)
		}
		if lost := (*json.UnsupportedValueError)(nil); errors.As(err, &lost) {
			t.Errorf("%s loses its answer: %v", name, err)
		}
	})
}

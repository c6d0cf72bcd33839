package wasmapi

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// with is a session that has a shipped model.
func with(t *testing.T, id string) *Session {
	t.Helper()
	m, err := models.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	s := &Session{}
	out, err := s.Do("set_model", mustJSON(t, SetModelCall{m}))
	if err != nil || !strings.Contains(string(out), id) {
		t.Fatalf("%s %v", out, err)
	}
	return s
}

func TestCallsAnswerLikeTheCore(t *testing.T) {
	s := with(t, "sprint-start")
	stamps := make([]int64, 300)
	for i := range stamps {
		stamps[i] = int64(i) * 3000
	}
	in := evaluate.Input{Model: "sprint-start", Clip: evaluate.ClipInfo{Width: 1280, Height: 720, Stamps: stamps, FileRate: 30, CaptureRate: 240, View: "side", Direction: 1},
		Flags: map[string]int{"move": 10, "clear": 94}}
	before := uncertainty.FrameInterval(500, 4)
	raw, err := json.Marshal(EvaluateCall{Input: in, Target: "block_time", Before: &before})
	if err != nil {
		t.Fatal(err)
	}
	out, err := s.Do("evaluate", raw)
	if err != nil {
		t.Fatal(err)
	}
	var a EvaluateAnswer
	if err := json.Unmarshal(out, &a); err != nil {
		t.Fatal(err)
	}
	r, _ := a.Report.Reading("block_time")
	if r.Value == nil || math.Abs(r.Value.Value-350) > 1e-9 || a.Effect == nil || a.Effect.Verdict != "taken" {
		t.Errorf("%+v %+v", r, a.Effect)
	}
	out, err = s.Do("rates", mustJSON(t, RatesCall{Stamps: stamps, FileRate: 30, On: 10, Off: 54, Rates: []float64{240}}))
	if err != nil || !strings.Contains(string(out), "contact 0.18 s") {
		t.Errorf("rates: %s %v", out, err)
	}
}

func mustJSON(t *testing.T, v any) []byte {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

func TestBadCalls(t *testing.T) {
	for _, c := range [][2]string{{"dance", "{}"}, {"evaluate", "{"}, {"evaluate", `{"input":{"model":"none"}}`}} {
		if out, err := new(Session).Do(c[0], []byte(c[1])); err == nil {
			t.Errorf("%v answered %s", c, out)
		}
	}
}

// A throw in a session: from above, in the coach's language, and held while a hand
// moves.
func TestAThrowInASession(t *testing.T) {
	sc, err := simcam.New(simcam.Spec{Event: "hammer", Direction: 1, Camera: simcam.Camera{Place: "back"}, CaptureRate: 120, FileRate: 30, Width: 1280, Height: 720, Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 95}})
	if err != nil {
		t.Fatal(err)
	}
	s := with(t, "hammer")
	all := points.All(sc.Truth, 2, 1)
	all["ball"] = points.Ball(sc.Truth, 1, 1)
	in := points.Input(sc.Truth, all)
	in.Ground = points.Circle(sc.Truth, 2, 1)
	if _, err := s.Do("set_tracks", mustJSON(t, SetTracksCall{Replace: true, Tracks: in.Points})); err != nil {
		t.Fatal(err)
	}
	in.Points = nil
	ask := func(in evaluate.Input) (a EvaluateAnswer) {
		t.Helper()
		out, err := s.Do("evaluate", mustJSON(t, EvaluateCall{Input: in}))
		if err != nil {
			t.Fatal(err)
		}
		if err := json.Unmarshal(out, &a); err != nil {
			t.Fatal(err)
		}
		return a
	}
	first := ask(in).Report
	if first.Throw == nil || len(first.Throw.Turns) != 3 {
		t.Fatalf("%+v", first.Throw)
	}
	var above TopViewAnswer
	out, err := s.Do("top_view", mustJSON(t, InputCall{Input: in}))
	if err != nil || json.Unmarshal(out, &above) != nil || above.TopView == nil {
		t.Fatalf("%.200s %v", out, err)
	}
	f := sc.Truth.Positions["high2"]
	if d := math.Remainder(above.TopView.Ball.Az[f-above.TopView.From]-*sc.Truth.Frames[f].Azimuths.Implement, 360); math.Abs(d) > 8 {
		t.Errorf("the ball is drawn %.1f degrees off", d)
	}
	// While a hand moves, a point taken away changes nothing in depth.
	if _, err := s.Do("set_tracks", mustJSON(t, SetTracksCall{Tracks: map[string]*track.Track{"ball": points.Ball(sc.Truth, 40, 2)}})); err != nil {
		t.Fatal(err)
	}
	in.HoldThrow = true
	if held := ask(in).Report; held.Throw.Turns[1].CatchAz != first.Throw.Turns[1].CatchAz {
		t.Error("the throw was read anew while a hand moves")
	}
	in.HoldThrow = false
	if after := ask(in).Report; len(after.Throw.Turns) == 3 && after.Throw.Turns[1].CatchAz == first.Throw.Turns[1].CatchAz {
		t.Error("the throw was not read anew when the hand rests")
	}
	in.Ground = nil
	out, err = s.Do("top_view", mustJSON(t, InputCall{Input: in}))
	if err != nil || string(out) != "{}" {
		t.Errorf("without a circle: %.100s %v", out, err)
	}
	out, err = s.Do("directions", mustJSON(t, DirectionsCall{Azimuths: []float64{90.2, 270}, Left: true, Language: azimuth.ClockThrow}))
	if err != nil || !strings.Contains(string(out), "9 o'clock") || !strings.Contains(string(out), "3 o'clock") {
		t.Errorf("%s %v", out, err)
	}
}

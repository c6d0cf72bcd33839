package wasmapi

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/technique"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// laid puts a shipped model on the desk.
func laid(t *testing.T, id string) {
	t.Helper()
	m, err := models.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	out, err := Do("model", mustJSON(t, ModelCall{m}))
	if err != nil || !strings.Contains(string(out), id) {
		t.Fatalf("%s %v", out, err)
	}
}

func TestCallsAnswerLikeTheCore(t *testing.T) {
	laid(t, "sprint-start")
	stamps := make([]int64, 300)
	for i := range stamps {
		stamps[i] = int64(i) * 3000
	}
	in := technique.Input{Model: "sprint-start", Clip: technique.Facts{Width: 1280, Height: 720, Stamps: stamps, FileRate: 30, CaptureRate: 240, View: "side", Direction: 1},
		Flags: map[string]int{"move": 10, "clear": 94}}
	before := uncertainty.Span(500, 4)
	raw, err := json.Marshal(EvaluateCall{Input: in, Target: "block_time", Before: &before})
	if err != nil {
		t.Fatal(err)
	}
	out, err := Do("evaluate", raw)
	if err != nil {
		t.Fatal(err)
	}
	var a EvaluateAnswer
	if err := json.Unmarshal(out, &a); err != nil {
		t.Fatal(err)
	}
	r, _ := a.Report.Reading("block_time")
	if r.Value == nil || math.Abs(r.Value.X-350) > 1e-9 || a.Effect == nil || a.Effect.Verdict != "taken" {
		t.Errorf("%+v %+v", r, a.Effect)
	}
	out, err = Do("blocks", mustJSON(t, BlocksCall{Input: in, Question: technique.BlockQuestion{Pedal: "front"}}))
	if err != nil || !strings.Contains(string(out), "flag the set position") {
		t.Errorf("blocks: %s %v", out, err)
	}
	out, err = Do("rates", mustJSON(t, RatesCall{Stamps: stamps, FileRate: 30, On: 10, Off: 54, Rates: []float64{240}}))
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
	for _, c := range [][2]string{{"dance", "{}"}, {"evaluate", "{"}, {"evaluate", `{"input":{"model":"none"}}`}, {"blocks", `{"input":{"model":"none"}}`}} {
		if out, err := Do(c[0], []byte(c[1])); err == nil {
			t.Errorf("%v answered %s", c, out)
		}
	}
}

// A throw on the desk: from above, in the coach's language, and held while a hand
// moves.
func TestAThrowOnTheDesk(t *testing.T) {
	sc, err := simcam.New(simcam.Spec{Event: "hammer", Direction: 1, Camera: simcam.Camera{Place: "back"}, CaptureRate: 120, FileRate: 30, Width: 1280, Height: 720, Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 95}})
	if err != nil {
		t.Fatal(err)
	}
	laid(t, "hammer")
	all := points.All(sc.Truth, 2, 1)
	all["ball"] = points.Ball(sc.Truth, 1, 1)
	in := points.Input(sc.Truth, all)
	in.Ground = points.Circle(sc.Truth, 2, 1)
	if _, err := Do("put", mustJSON(t, PutCall{Anew: true, Tracks: in.Points})); err != nil {
		t.Fatal(err)
	}
	in.Points = nil
	ask := func(in technique.Input) (a EvaluateAnswer) {
		t.Helper()
		out, err := Do("evaluate", mustJSON(t, EvaluateCall{Input: in}))
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
	var above AboveAnswer
	out, err := Do("above", mustJSON(t, InputCall{Input: in}))
	if err != nil || json.Unmarshal(out, &above) != nil || above.Above == nil {
		t.Fatalf("%.200s %v", out, err)
	}
	f := sc.Truth.Positions["high2"]
	if d := math.Remainder(above.Above.Ball.Az[f-above.Above.From]-*sc.Truth.Frames[f].Azimuths.Implement, 360); math.Abs(d) > 8 {
		t.Errorf("the ball is drawn %.1f degrees off", d)
	}
	// While a hand moves, a point taken away changes nothing in depth.
	if _, err := Do("put", mustJSON(t, PutCall{Tracks: map[string]*track.Track{"ball": points.Ball(sc.Truth, 40, 2)}})); err != nil {
		t.Fatal(err)
	}
	in.Hold = true
	if held := ask(in).Report; held.Throw.Turns[1].CatchAz != first.Throw.Turns[1].CatchAz {
		t.Error("the throw was read anew while a hand moves")
	}
	in.Hold = false
	if after := ask(in).Report; len(after.Throw.Turns) == 3 && after.Throw.Turns[1].CatchAz == first.Throw.Turns[1].CatchAz {
		t.Error("the throw was not read anew when the hand rests")
	}
	in.Ground = nil
	out, err = Do("above", mustJSON(t, InputCall{Input: in}))
	if err != nil || string(out) != "{}" {
		t.Errorf("without a circle: %.100s %v", out, err)
	}
	out, err = Do("say", mustJSON(t, SayCall{Azimuths: []float64{90.2, 270}, Left: true, Language: azimuth.ClockThrow}))
	if err != nil || !strings.Contains(string(out), "9 o'clock") || !strings.Contains(string(out), "3 o'clock") {
		t.Errorf("%s %v", out, err)
	}
}

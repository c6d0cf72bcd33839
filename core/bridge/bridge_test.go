package bridge

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"neokinema/core/doubt"
	"neokinema/core/technique"
	"neokinema/models"
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
	before := doubt.Span(500, 4)
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

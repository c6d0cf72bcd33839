package e2e

import (
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/wasmapi"
	"neokinema/internal/demo"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// started gives a coach with a digitised start on the Bench.
func started(t *testing.T) (*testenv.Client, *testenv.Screen, workspace.Workspace) {
	t.Helper()
	return startedWith(t, nil)
}

// startedWith is [started] with faults.
func startedWith(t *testing.T, faults map[string]float64) (*testenv.Client, *testenv.Screen, workspace.Workspace) {
	t.Helper()
	truth, file := draw(t, faults)
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "s.mp4", raw, 1<<22))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), map[string]any{"capture_rate": 240, "view": "side", "direction": 1}, 200, nil)
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: demo.ByHand(truth, clip.ID, 0.3)}, 200, nil)
	s := h.Screen(t, browser, c)
	s.Bench(h, at.ID)
	return c, s, sheet(c, at.ID.String())
}

func sheet(c *testenv.Client, attempt string) (sh workspace.Workspace) {
	c.Do("GET", "/api/attempts/"+attempt+"/workspace", nil, 200, &sh)
	return sh
}

// TestOneComputationInTwoPlaces: the WebAssembly core gives the very report that
// the server's core gives.
func TestOneComputationInTwoPlaces(t *testing.T) {
	t.Parallel()
	_, s, sh := started(t)
	defer s.Done()
	in := sh.Input(sh.Clips[0])
	raw, err := json.Marshal(wasmapi.EvaluateCall{Input: in})
	if err != nil {
		t.Fatal(err)
	}
	got := s.MustEval(`q => JSON.stringify(window.neokinema.core.evaluate(JSON.parse(q)).report)`, string(raw)).Str()
	var there report.Report
	if err := json.Unmarshal([]byte(got), &there); err != nil {
		t.Fatal(err)
	}
	here := evaluate.Attempt(sh.Model, in)
	if len(there.Readings) != len(here.Readings) || len(there.Strengths) != len(here.Strengths) || len(there.Findings) != len(here.Findings) {
		t.Fatalf("%d and %d readings", len(there.Readings), len(here.Readings))
	}
	for i, r := range here.Readings {
		o := there.Readings[i]
		if r.Verdict != o.Verdict || (r.Value == nil) != (o.Value == nil) || r.Value != nil && math.Abs(r.Value.Value-o.Value.Value) > 1e-9*math.Max(1, math.Abs(r.Value.Value)) {
			t.Errorf("%s: %+v here, %+v there", r.ID, r.Value, o.Value)
		}
	}
	if msg := s.MustEval(`() => { try { window.neokinema.core.evaluate({input: {model: "none"}}) } catch (e) { return e.message } }`).Str(); msg == "" {
		t.Error("an error of the core does not reach the page")
	}
}

// TestPlaying at a share of true speed, in a loop, and the watching guide.
func TestPlaying(t *testing.T) {
	_, s, sh := started(t)
	defer s.Done()
	player := func(js string) float64 { return s.MustEval(`() => window.neokinema.player.` + js).Num() }
	s.Jump(0)
	s.Keyboard.MustType(input.Digit4) // an eighth
	start := time.Now()
	s.Keyboard.MustType(input.Space)
	s.Until(func() bool { return player("get().frame") >= 20 }, "it plays")
	s.Keyboard.MustType(input.Space)
	took := time.Since(start).Seconds()
	// 240 a second at an eighth is 30 a second; the machine may be late, never fast.
	if f := player("get().frame"); f > took*30+2 {
		t.Errorf("after %.2f s at an eighth: frame %v", took, f)
	}
	phase := sh.Work.Clips[sh.Clips[0].ID].Flags
	s.Jump(phase["td1"] + 2)
	s.Keyboard.MustType(input.KeyR)
	s.Says(fmt.Sprintf("Loop %d–%d", phase["td1"], phase["to1"]))
	s.Keyboard.MustType(input.Digit1)
	s.Keyboard.MustType(input.Space)
	// Thirty refreshes of the screen are looked at.
	looked := s.MustEval(`async () => {
		const out = [];
		for (let i = 0; i < 30; i++) {
			await new Promise(requestAnimationFrame);
			out.push(window.neokinema.player.get().frame);
		}
		return out;
	}`)
	for _, f := range looked.Arr() {
		if f.Int() < phase["td1"] || f.Int() > phase["to1"] {
			t.Fatalf("the loop left its phase: frame %d", f.Int())
		}
	}
	s.Keyboard.MustType(input.Space)
	s.Keyboard.MustType(input.KeyR)
	s.See("[data-testid=guide]")
	s.See("[aria-label='Hide the watching guide']").MustClick()
	s.Until(func() bool { has, _, _ := s.Has("[data-testid=guide]"); return !has }, "the guide is hidden")
	s.Bench(h, sh.Attempt.ID)
	if has, _, _ := s.Has("[data-testid=guide]"); has {
		t.Error("the guide came back")
	}
}

// TestMarksScaleHiddenAndDelete: what the hand does beside placing points.
func TestMarksScaleHiddenAndDelete(t *testing.T) {
	t.Parallel()
	c, s, sh := started(t)
	defer s.Done()
	id, clip := sh.Attempt.ID.String(), sh.Clips[0].ID
	set := sh.Work.Clips[clip].Flags["set"]
	s.Jump(set)

	// The coach's own mark where nothing can be measured.
	row := s.See("[data-reading=heel_gap]")
	row.MustElementR("button", "^no$").MustClick()
	s.Until(func() bool { v, ok := sheet(c, id).Work.Answers["heel_gap"]; return ok && v.Answer == "no" }, "the mark is saved")
	s.See("[data-reading=heel_gap][data-verdict=missed]")

	// A point marked as hidden is less sure; taken away it leaves a gap.
	knee, _ := sh.Work.Clips[clip].Points.At("left_knee", set)
	s.Place(knee.X, knee.Y)
	s.Keyboard.MustType(input.KeyH)
	s.Until(func() bool { p, _ := sheet(c, id).Work.Clips[clip].Points.At("left_knee", set); return p.Hidden }, "the point is hidden")
	s.Keyboard.MustType(input.Delete)
	s.Until(func() bool { _, ok := sheet(c, id).Work.Clips[clip].Points.At("left_knee", set); return !ok }, "the point is gone")
	s.Until(func() bool { has, _, _ := s.Has("[data-reading=front_knee_set][data-verdict=none]"); return has }, "its number is gone")
	s.Keyboard.MustType(input.Escape)

	// Guided placing asks for just that one; it can be skipped.
	s.Keyboard.MustType(input.KeyP)
	s.See("[data-testid=ask][data-landmark=left_knee]")
	s.Keyboard.MustType(input.KeyK)
	s.Until(func() bool { has, _, _ := s.Has("[data-testid=ask]"); return !has }, "nothing more is asked")

	// A scale along a known length.
	s.Keyboard.MustType(input.KeyC)
	s.See("[aria-label='known length in metres']").MustInput("1,22")
	s.Button("^Set the scale$")
	at := s.MustEval(`() => { const r = document.querySelector('[data-testid=stage]').getBoundingClientRect(); return [r.x + 200, r.y + 400] }`)
	x, y := at.Get("0").Num(), at.Get("1").Num()
	s.Mouse.MustMoveTo(x, y)
	s.Mouse.MustDown(proto.InputMouseButtonLeft)
	if err := s.Mouse.MoveLinear(proto.NewPoint(x+180, y), 6); err != nil {
		t.Fatal(err)
	}
	s.Mouse.MustUp(proto.InputMouseButtonLeft)
	s.Until(func() bool {
		l := sheet(c, id).Work.Clips[clip].Scale
		return l != nil && l.Metres == 1.22 && l.BX > l.AX+100
	}, "the scale is saved")
	s.Says("from your line")

	// A flag dragged along the score moves every number that hangs on it.
	before := sheet(c, id)
	flag := s.MustEval(`() => { const r = document.querySelector('[data-flag=to1] path').getBoundingClientRect(); return [r.x, r.y + 6] }`)
	x, y = flag.Get("0").Num(), flag.Get("1").Num()
	s.Mouse.MustMoveTo(x, y)
	s.Mouse.MustDown(proto.InputMouseButtonLeft)
	if err := s.Mouse.MoveLinear(proto.NewPoint(x+20, y), 6); err != nil {
		t.Fatal(err)
	}
	s.Mouse.MustUp(proto.InputMouseButtonLeft)
	contact := func(sh workspace.Workspace) float64 { r, _ := sh.Report().Reading("contact_1"); return r.Value.Value }
	s.Until(func() bool { return contact(sheet(c, id)) > contact(before)+10 }, "the contact grew")
}

// TestWithoutWebCodecs: an old browser gets exact frames from the server.
func TestWithoutWebCodecs(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	if _, err := s.EvalOnNewDocument(`delete window.VideoDecoder`); err != nil {
		t.Fatal(err)
	}
	s.Bench(h, at.ID)
	for _, f := range []int{0, 41, 17, 59} {
		s.Jump(f)
		if n := s.StageNumber(); n != f {
			t.Errorf("frame %d shows %d", f, n)
		}
	}
}

// TestUploadSurvivesALostConnection in the browser, and refuses what is no clip
// with words.
func TestUploadSurvivesALostConnection(t *testing.T) {
	t.Parallel()
	h := h.Door(t)
	c := h.Coach(t)
	at := c.Attempt()
	dir := t.TempDir()
	good, bad, empty := filepath.Join(dir, "good.mp4"), filepath.Join(dir, "notes.mp4"), filepath.Join(dir, "empty.mp4")
	if err := (testenv.Numbered{Width: 640, Height: 360, Frames: 20, Rate: 30}).Make(good); err != nil {
		t.Fatal(err)
	}
	for path, content := range map[string]string{bad: "these are my notes", empty: ""} {
		if err := os.WriteFile(path, []byte(content), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/attempt/"+at.ID.String(), "[data-testid=files]")
	h.Cut()
	s.See("[data-testid=files]").MustSetFiles(good)
	s.Says("goes on by itself")
	h.Restart()
	s.See("canvas[data-frame]")
	if clips := sheet(c, at.ID.String()).Clips; len(clips) != 1 || len(clips[0].Stamps) != 20 {
		t.Errorf("%d clips", len(clips))
	}
	other := c.AttemptOf(at.AthleteID)
	s.Open(h.URL+"/attempt/"+other.ID.String(), "[data-testid=files]")
	s.See("[data-testid=files]").MustSetFiles(empty)
	s.Says("This file is empty")
	s.See("[data-testid=files]").MustSetFiles(bad)
	s.Says("This file is no video")
}

// TestSignedOutWhileAtWork: a session that ends elsewhere shows the door over the page, which
// stays as it is.
func TestSignedOutWhileAtWork(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	c.Do("POST", "/api/sign-out", nil, http.StatusNoContent, nil)
	s.Jump(4)
	s.Keyboard.MustType(input.KeyF)
	// He signs in where he is, and what he did is saved.
	s.Says("Your session has ended")
	mail := s.See("[role=dialog] input[name=email]").MustProperty("value").Str()
	s.See("[role=dialog] input[name=password]").MustInput(testenv.Password)
	s.Button("^Sign in$")
	s.Until(func() bool { return *s.See("[data-testid=saving]").MustAttribute("data-state") == "saved" }, "the flag is saved")
	c.Do("POST", "/api/sign-in", map[string]string{"email": mail, "password": testenv.Password}, http.StatusOK, nil)
	if f := flags(c, at.ID, clip); len(f) != 1 {
		t.Errorf("saved are the flags %v", f)
	}
}

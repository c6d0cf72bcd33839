package drafting_test

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/pose"
	"neokinema/core/track"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/drafting"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/simcam"
)

var h *testenv.House

func TestMain(m *testing.M) {
	var end func()
	h, end = testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
	code := m.Run()
	end()
	os.Exit(code)
}

// part is the first n frames of one of the demo's clips.
func part(t *testing.T, name string, n int) ([]byte, simcam.Truth) {
	t.Helper()
	raw, truth, err := demo.Shipped(name)
	if err != nil {
		t.Fatal(err)
	}
	in, out := filepath.Join(t.TempDir(), "in.mp4"), filepath.Join(t.TempDir(), "out.mp4")
	if err := os.WriteFile(in, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	if err := media.Remake(t.Context(), in, out, "-frames:v", strconv.Itoa(n), "-c:v", "libx264", "-preset", "ultrafast", "-crf", "18"); err != nil {
		t.Fatal(err)
	}
	raw, err = os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	return raw, truth
}

func work(c *testenv.Client, attempt, clip uuid.UUID) (workspace.Workspace, workspace.ClipWork) {
	var sh workspace.Workspace
	c.Do("GET", "/api/attempts/"+attempt.String()+"/workspace", nil, 200, &sh)
	return sh, sh.Work.Clips[clip]
}

// A clip that was sent is drafted without being asked for, near the truth, and a point of
// the hand stays where the hand put it. Nothing of it is the coach's to undo.
func TestASentClipIsDrafted(t *testing.T) {
	if testing.Short() {
		t.Skip("looks through pictures for minutes under the race detector")
	}
	c := h.Coach(t)
	raw, truth := part(t, "yusra easy.mp4", 40)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	path := "/api/clips/" + clip.ID.String()
	c.Do("PUT", path, intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: "side", Direction: 1}, 200, nil)
	placed := track.Point{X: 20, Y: 30, Source: "hand", Confidence: 1}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "point", Clip: &clip.ID, Key: "left_wrist", Frame: 9, Value: workspace.Value(placed)}}}, 200, nil)
	d := c.DraftOver(clip.ID)
	if d.Draft.State != "done" || d.Progress != 1 || d.Found < 38 || d.Away != "" {
		t.Fatalf("%+v", d)
	}
	sh, got := work(c, at.ID, clip.ID)
	if p, _ := got.Points.At("left_wrist", 9); p.Source != "hand" || p.X != 20 {
		t.Errorf("the hand's point became %+v", p)
	}
	var far, all int
	for f := range 40 {
		for _, id := range []string{"left_shoulder", "right_shoulder", "left_hip", "right_hip", "left_knee", "right_knee"} {
			p, ok := got.Points.At(id, f)
			if w := truth.Frames[f].Landmarks[id].Image; ok {
				all++
				if math.Hypot(p.X-w[0], p.Y-w[1]) > 40 {
					far++
				}
			}
		}
	}
	if all < 200 || far > all/10 {
		t.Errorf("of %d points %d are far off", all, far)
	}
	if now := sh.Clips[0]; now.Camera == nil {
		t.Error("the background was not looked at")
	}
	// The one thing to undo is the coach's point.
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/undo", map[string]int{"base": sh.Work.Revision}, 200, nil)
	if sh, got = work(c, at.ID, clip.ID); sh.Work.CanUndo || got.Points["left_hip"].Count() < 38 {
		t.Errorf("undo: can undo %v, %d hips", sh.Work.CanUndo, got.Points["left_hip"].Count())
	}
	if sh.Attempt.State != "in_work" {
		t.Errorf("the attempt is %s", sh.Attempt.State)
	}
	// Drafted anew, every second frame of a part.
	c.Do("POST", path+"/draft", drafting.Request{Wish: pose.Wish{From: 10, To: 19, Step: 2, Anew: true}}, 200, nil)
	if d = c.DraftOver(clip.ID); d.Draft.State != "done" || d.Found+len(d.Nobody)+len(d.Other) != 5 {
		t.Errorf("again: %+v", d)
	}
	for _, w := range []pose.Wish{{From: -1, To: 3, Step: 1}, {From: 5, To: 3, Step: 1}, {To: 40, Step: 1}, {To: 3}} {
		c.Do("POST", path+"/draft", drafting.Request{Wish: w}, 422, nil)
	}
}

// What is stopped stays stopped, with what was drafted; it can be begun again, and goes
// when its clip goes.
func TestADraftIsStopped(t *testing.T) {
	c := h.Coach(t)
	raw, _ := part(t, "tavi flying 30.mp4", 200)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	path := "/api/clips/" + clip.ID.String() + "/draft"
	var d drafting.State
	c.Do("DELETE", path, nil, 200, &d)
	if d.Draft.State != "cancelled" {
		t.Fatalf("%+v", d)
	}
	c.Do("GET", path, nil, 200, &d)
	if d.Draft.State != "cancelled" {
		t.Errorf("later: %+v", d)
	}
	c.Do("POST", path, drafting.Request{Wish: pose.Wish{To: 199, Step: 1}}, 200, &d)
	if d.Draft.State != "waiting" && d.Draft.State != "drafting" {
		t.Errorf("begun again: %+v", d)
	}
	c.Do("DELETE", "/api/clips/"+clip.ID.String(), nil, 200, nil)
	c.Do("GET", path, nil, 404, nil)
	if p := h.Store; p != nil {
		if _, err := p.DraftToMake(context.Background(), clip.ID); err == nil {
			t.Error("the draft of a deleted clip is there")
		}
	}
	other := h.Coach(t)
	other.Do("POST", path, drafting.Request{Wish: pose.Wish{To: 1, Step: 1}}, 404, nil)
}

// A draft that a server's end broke off goes on with what is missing at the next start.
func TestADraftGoesOnAfterAStop(t *testing.T) {
	if testing.Short() {
		t.Skip("looks through pictures for minutes under the race detector")
	}
	var kept app.Config
	first, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
	defer end()
	kept = first.Config
	c := first.Coach(t)
	raw, _ := part(t, "yusra easy.mp4", 120)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	testenv.Until(t, "the first batch is saved", func() bool {
		_, w := work(c, at.ID, clip.ID)
		return w.Points["left_hip"] != nil && w.Points["left_hip"].Count() >= 16
	})
	first.App.Close()
	second, err := app.Start(t.Context(), kept, testenv.Quiet())
	if err != nil {
		t.Fatal(err)
	}
	first.App = second
	first.Restart()
	d := c.DraftOver(clip.ID)
	_, w := work(c, at.ID, clip.ID)
	if d.Draft.State != "done" || w.Points["left_hip"].Count() < 115 {
		t.Errorf("%+v with %d hips", d, w.Points["left_hip"].Count())
	}
	if d.Found+len(d.Nobody)+len(d.Other) > 120-16 {
		t.Errorf("%d frames were looked at again", d.Found)
	}
}

// Without the library the server says so, and takes clips as before.
func TestAServerWithoutTheLibrary(t *testing.T) {
	own, end := testenv.Start(func(c *app.Config) { c.Library = filepath.Join(t.TempDir(), "nothing.so") })
	defer end()
	c := own.Coach(t)
	raw, _ := part(t, "yusra easy.mp4", 8)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	path := "/api/clips/" + clip.ID.String() + "/draft"
	var d drafting.State
	c.Do("GET", path, nil, 200, &d)
	if d.Draft.State != "none" || !strings.Contains(d.Away, "library") {
		t.Errorf("%+v", d)
	}
	if said := c.Do("POST", path, drafting.Request{Wish: pose.Wish{To: 1, Step: 1}}, 422, nil); !bytes.Contains(said, []byte("in the browser")) {
		t.Errorf("%s", said)
	}
}

// A hammer is followed when its clip is drafted, and a ball that the hand placed stays.
func TestASwungImplementIsFollowed(t *testing.T) {
	if testing.Short() {
		t.Skip("looks through pictures for minutes under the race detector")
	}
	who := body.Person{Sex: body.Female, Height: 1.74, Mass: 80}
	sc, err := simcam.New(simcam.Spec{Event: "hammer", Athlete: who, Direction: 1, CaptureRate: 50, FileRate: 50, Width: 640, Height: 360, Camera: simcam.Camera{Place: "back", Noise: 2}})
	if err != nil {
		t.Fatal(err)
	}
	whole, cut := filepath.Join(t.TempDir(), "whole.mp4"), filepath.Join(t.TempDir(), "cut.mp4")
	if err := sc.WriteClip(t.Context(), whole); err != nil {
		t.Fatal(err)
	}
	// From before the first turn into the last.
	first, n := sc.Truth.Positions["zero1"]-12, 80
	if err := media.Remake(t.Context(), whole, cut, "-vf", fmt.Sprintf("trim=start_frame=%d:end_frame=%d,setpts=PTS-STARTPTS", first, first+n), "-c:v", "libx264", "-preset", "ultrafast", "-crf", "18"); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(cut)
	if err != nil {
		t.Fatal(err)
	}
	c := h.Coach(t)
	at := c.AttemptAt("hammer", who)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	if len(clip.Stamps) != n {
		t.Fatalf("%d frames, want %d", len(clip.Stamps), n)
	}
	truly := func(f int) [2]float64 { return sc.Truth.Frames[first+f].Implement["centre"].Image }
	placed := track.Point{X: truly(40)[0] + 3, Y: truly(40)[1] - 2, Source: "hand", Confidence: 1}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "point", Clip: &clip.ID, Key: "ball", Frame: 40, Value: workspace.Value(placed)}}}, 200, nil)
	if d := c.DraftOver(clip.ID); d.Draft.State != "done" {
		t.Fatalf("%+v", d)
	}
	_, got := work(c, at.ID, clip.ID)
	near := 0
	for f := range n {
		if p, ok := got.Points.At("ball", f); ok && math.Hypot(p.X-truly(f)[0], p.Y-truly(f)[1]) < 5 {
			near++
		}
	}
	if near < n*85/100 {
		t.Errorf("the ball is near its place in %d of %d frames", near, n)
	}
	if p, _ := got.Points.At("ball", 40); p.Source != "hand" || math.Abs(p.X-placed.X) > 0.01 {
		t.Errorf("the ball that the hand placed became %+v", p)
	}
}

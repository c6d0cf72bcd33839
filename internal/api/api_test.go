package api_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"math"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/feedback"
	"neokinema/internal/pglocal"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/simcam"
	"neokinema/web"
)

var h *testenv.House

func TestMain(m *testing.M) {
	var end func()
	h, end = testenv.Open("")
	code := m.Run()
	end()
	os.Exit(code)
}

// startClip draws a small clip of a sprint start once for all tests.
func startClip(t *testing.T, faults map[string]float64) (simcam.Truth, []byte) {
	t.Helper()
	return startOf(t, faults, 640, 360)
}

func startOf(t *testing.T, faults map[string]float64, width, height int) (simcam.Truth, []byte) {
	t.Helper()
	l := &demo.Loader{Clips: testenv.Drawn(), Log: slog.New(slog.DiscardHandler)}
	a := testenv.Athlete("x")
	scene, file, err := l.Clip(context.Background(), simcam.Spec{Athlete: a.Body(), Faults: faults, Direction: 1, CaptureRate: 240, FileRate: 30, TagRate: true, Width: width, Height: height})
	if err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	return scene.Truth, raw
}

func numbered(t *testing.T, n testenv.Numbered) []byte {
	t.Helper()
	path := filepath.Join(t.TempDir(), "n.mp4")
	if err := n.Make(path); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

func tiny(t *testing.T) []byte {
	return numbered(t, testenv.Numbered{Width: 320, Height: 180, Frames: 12, Rate: 30})
}

func said(t *testing.T, raw []byte) problem.Problem {
	t.Helper()
	var p problem.Problem
	if err := json.Unmarshal(raw, &p); err != nil || p.Kind == "" || p.Says == "" {
		t.Fatalf("no problem in %.300s (%v)", raw, err)
	}
	return p
}

func TestNothingOfAnotherTeamCanBeReached(t *testing.T) {
	t.Parallel()
	owner, stranger := h.Coach(t), h.Coach(t)
	at := owner.Attempt()
	clip := owner.Upload(at.ID, "mine.mp4", tiny(t), 1<<20)
	owner.Imported(clip)
	before := owner.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, nil)
	var own store.Athlete
	stranger.Do("POST", "/api/athletes", testenv.Athlete("Own"), 200, &own)
	want := testenv.Bodies(own.ID)
	for route, op := range testenv.Routes(t) {
		method, path, _ := strings.Cut(route, " ")
		for _, id := range []uuid.UUID{at.ID, at.AthleteID, clip, uuid.New()} {
			raw, status := stranger.Try(method, strings.NewReplacer("{id}", id.String(), "{training}", uuid.NewString()).Replace(path), want[op])
			if status != http.StatusNotFound {
				t.Errorf("%s with a foreign id: status %d: %.200s", route, status, raw)
			} else if said(t, raw).Kind != problem.NotFound {
				t.Errorf("%s: %s", route, raw)
			}
		}
	}
	// An attempt cannot be hung on another team's athlete either.
	stranger.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: at.AthleteID, Event: "sprint-start", DoneOn: "2026-01-02", Condition: "fresh", Setting: "practice"}, 404, nil)
	// Uploads: neither to a foreign attempt nor into a foreign upload.
	if _, status := stranger.Begin(at.ID, "x.mp4", 100); status != 404 {
		t.Errorf("upload to a foreign attempt: %d", status)
	}
	up, _ := owner.Begin(at.ID, "half.mp4", 100)
	if status := stranger.Piece(up, 0, strings.NewReader("abc")); status != 404 {
		t.Errorf("piece into a foreign upload: %d", status)
	}
	if raw, status := stranger.Try("DELETE", "/api/uploads/"+up, nil); status != 404 {
		t.Errorf("foreign upload deleted: %d %s", status, raw)
	}
	list := stranger.Queue()
	if len(list) != 0 {
		t.Errorf("a stranger's queue shows %+v", list)
	}
	if after := owner.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, nil); !bytes.Equal(before, after) {
		t.Error("a stranger changed something")
	}
}

func TestSignedOutSeesNothing(t *testing.T) {
	t.Parallel()
	nobody := &testenv.Client{T: t, HTTP: &http.Client{}, URL: h.URL}
	all := testenv.Routes(t)
	for _, r := range []string{"GET /api/queue", "GET /api/athletes", "POST /api/athletes", "POST /api/attempts", "GET /api/models", "POST /api/uploads/"} {
		all[r] = ""
	}
	for route := range all {
		method, path, _ := strings.Cut(route, " ")
		raw, status := nobody.Try(method, strings.NewReplacer("{id}", uuid.NewString(), "{training}", uuid.NewString()).Replace(path), nil)
		if status != http.StatusUnauthorized || said(t, raw).Kind != problem.SignedOut {
			t.Errorf("%s signed out: %d %.100s", route, status, raw)
		}
	}
	nobody.Do("GET", "/api/health", nil, 200, nil)
	nobody.Do("POST", "/api/demo-sign-in", nil, 403, nil)
}

func TestSessions(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	jar, _ := cookiejar.New(nil)
	other := &testenv.Client{T: t, HTTP: &http.Client{Jar: jar}, URL: h.URL}
	wrong := map[string]string{"email": c.User.Email, "password": "not the right one"}
	if raw := other.Do("POST", "/api/sign-in", wrong, 401, nil); strings.Contains(string(raw), c.User.Email) {
		t.Errorf("the refusal tells too much: %s", raw)
	}
	same := other.Do("POST", "/api/sign-in", map[string]string{"email": "nobody@club.example", "password": "not the right one"}, 401, nil)
	if said(t, same).Says != said(t, other.Do("POST", "/api/sign-in", wrong, 401, nil)).Says {
		t.Error("known and unknown e-mails are told apart")
	}
	limited := false
	for range 10 {
		if _, status := other.Try("POST", "/api/sign-in", wrong); status == 429 {
			limited = true
		}
	}
	if !limited {
		t.Error("passwords can be tried without limit")
	}
	// The cookie cannot be read by scripts nor sent along by other sites.
	req, _ := http.NewRequest("POST", h.URL+"/api/sign-out", nil)
	res, err := c.HTTP.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if cookie := res.Header.Get("Set-Cookie"); !strings.Contains(cookie, "HttpOnly") || !strings.Contains(cookie, "SameSite=Lax") {
		t.Errorf("cookie %q", cookie)
	}
	c.Do("GET", "/api/queue", nil, 401, nil)
	var hash string
	if err := h.Store.DB.Get(&hash, `SELECT password_hash FROM users WHERE id = $1`, c.User.ID); err != nil || !strings.HasPrefix(hash, "$argon2id$") {
		t.Errorf("password is kept as %.20q %v", hash, err)
	}
}

func TestOtherSitesAreRefused(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	req, _ := http.NewRequest("POST", h.URL+"/api/athletes", strings.NewReader("{}"))
	req.Header.Set("Origin", "https://elsewhere.example")
	req.Header.Set("Content-Type", "application/json")
	res, err := c.HTTP.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if res.StatusCode != 403 {
		t.Errorf("forged request: %d", res.StatusCode)
	}
}

func TestFormsSayWhatIsWrong(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	bad := testenv.Athlete("Tall")
	bad.Height = 18.2
	raw := c.Do("POST", "/api/athletes", bad, 422, nil)
	if p := said(t, raw); len(p.Fields) == 0 || p.Says != "Height must be at most 2.5." {
		t.Errorf("%+v", p)
	}
	bad = testenv.Athlete("Unborn")
	bad.Born = time.Now().Year() + 1
	c.Do("POST", "/api/athletes", bad, 422, nil)
	for _, body := range []string{"", "{", "[]", `{"name": 3}`, `{"name":"\u0000"}`} {
		if raw, status := c.Try("POST", "/api/athletes", body); status < 400 || status >= 500 {
			t.Errorf("%q: %d %s", body, status, raw)
		}
	}
	odd := testenv.Athlete("Žofie 🏃 <b>O'Brien</b> \u202eabc 李")
	var got store.Athlete
	c.Do("POST", "/api/athletes", odd, 200, &got)
	if got.Name != odd.Name {
		t.Errorf("name became %q", got.Name)
	}
	zero := testenv.Athlete("nul\x00byte")
	c.Do("POST", "/api/athletes", zero, 422, nil)
	at := store.NewAttempt{AthleteID: got.ID, Event: "sprint-start", DoneOn: "2026-02-31", Condition: "fresh", Setting: "practice"}
	if raw, status := c.Try("POST", "/api/attempts", at); status != 422 {
		t.Errorf("31 February: %d %s", status, raw)
	}
}

func TestBadFiles(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	good := numbered(t, testenv.Numbered{Width: 320, Height: 180, Frames: 60, Rate: 30, Codec: []string{"-c:v", "libx264", "-pix_fmt", "yuv420p", "-movflags", "faststart"}})
	made := func(args ...string) []byte {
		path := filepath.Join(t.TempDir(), "x.mp4")
		if out, err := exec.Command("ffmpeg", append(append([]string{"-hide_banner", "-loglevel", "error"}, args...), path)...).CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		raw, _ := os.ReadFile(path)
		return raw
	}
	// Phones write the list of frames last: a cut file lacks it.
	front := filepath.Join(t.TempDir(), "front.mp4")
	if err := os.WriteFile(front, good, 0o644); err != nil {
		t.Fatal(err)
	}
	late := made("-i", front, "-c", "copy")
	h264 := func(n testenv.Numbered, codec ...string) []byte {
		n.Codec = append([]string{"-c:v", "libx264", "-preset", "ultrafast"}, codec...)
		return numbered(t, n)
	}
	for name, f := range map[string]struct {
		content []byte
		state   string
		says    string // in problem or warnings
		frames  int
	}{
		"text.mp4":       {[]byte(strings.Repeat("this is no video\n", 400)), "failed", "no video", 0},
		"noise.mp4":      {bytes.Repeat([]byte{7, 99, 200, 13}, 5000), "failed", "send the clip", 0},
		"cut.mp4":        {late[:len(late)*3/5], "failed", "is cut", 0},
		"half.mp4":       {good[:len(good)*6/10], "ready", "damaged", -1},
		"sound.mp4":      {made("-f", "lavfi", "-i", "sine=frequency=440:duration=1"), "failed", "sound but no picture", 0},
		"one frame.mp4":  {h264(testenv.Numbered{Width: 320, Height: 180, Frames: 1, Rate: 30}, "-pix_fmt", "yuv420p"), "ready", "Only one frame", 1},
		"ten bit.mp4":    {h264(testenv.Numbered{Width: 320, Height: 180, Frames: 20, Rate: 30}, "-pix_fmt", "yuv420p10le"), "ready", "10 bits", 20},
		"four k.mp4":     {h264(testenv.Numbered{Width: 3840, Height: 2160, Frames: 6, Rate: 30}, "-pix_fmt", "yuv420p"), "ready", "", 6},
		"odd size.mp4":   {h264(testenv.Numbered{Width: 333, Height: 251, Frames: 20, Rate: 30}, "-pix_fmt", "yuv444p"), "ready", "", 20},
		"upright.mp4":    {h264(testenv.Numbered{Width: 202, Height: 360, Frames: 20, Rate: 30}, "-pix_fmt", "yuv420p"), "ready", "Held upright", 20},
		"ファイル #1%?.mp4":  {h264(testenv.Numbered{Width: 320, Height: 180, Frames: 20, Rate: 25}, "-pix_fmt", "yuv420p"), "ready", "", 20},
		"a/../../b\"'.m": {h264(testenv.Numbered{Width: 320, Height: 180, Frames: 21, Rate: 25}, "-pix_fmt", "yuv420p"), "ready", "", 21},
	} {
		t.Run(strings.ReplaceAll(name, "/", "_"), func(t *testing.T) {
			c := *c
			c.T = t
			at := c.Attempt()
			clip := c.Imported(c.Upload(at.ID, name, f.content, 64<<10))
			text := clip.Problem + strings.Join(clip.Warnings, " ")
			if clip.State != f.state || !strings.Contains(text, f.says) {
				t.Errorf("state %s, says %q; want %s, %q", clip.State, text, f.state, f.says)
			}
			if f.frames >= 0 && len(clip.Stamps) != f.frames || f.frames < 0 && (len(clip.Stamps) == 0 || len(clip.Stamps) >= 60) {
				t.Errorf("%d frames", len(clip.Stamps))
			}
			if f.state == "ready" {
				raw := c.Do("GET", fmt.Sprintf("/api/clips/%s/frames/%d", clip.ID, len(clip.Stamps)-1), nil, 200, nil)
				if n, err := testenv.ReadJPEG(raw, clip.Width); err != nil || n != len(clip.Stamps)-1 {
					t.Errorf("last frame shows %d %v", n, err)
				}
				c.Do("GET", fmt.Sprintf("/api/clips/%s/frames/%d", clip.ID, len(clip.Stamps)), nil, 422, nil)
			} else {
				c.Do("GET", fmt.Sprintf("/api/clips/%s/frames/0", clip.ID), nil, 404, nil)
			}
			if strings.ContainsAny(clip.Name, "/\\") || clip.Name == "" {
				t.Errorf("name %q", clip.Name)
			}
		})
	}
}

func TestEmptyAndHugeUploads(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	if _, status := c.Begin(at.ID, "empty.mp4", 0); status != 422 {
		t.Errorf("empty file: %d", status)
	}
	if _, status := c.Begin(at.ID, "huge.mp4", 3<<30); status != 413 {
		t.Errorf("3 GB: %d", status)
	}
}

func TestSameFileTwice(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	raw := tiny(t)
	c.Imported(c.Upload(at.ID, "a.mp4", raw, 1<<20))
	second := c.Imported(c.Upload(at.ID, "b.mp4", raw, 1<<20))
	if second.State != "failed" || !strings.Contains(second.Problem, "same file already (a.mp4)") {
		t.Errorf("%s %q", second.State, second.Problem)
	}
	other := c.AttemptOf(at.AthleteID)
	third := c.Imported(c.Upload(other.ID, "c.mp4", raw, 1<<20))
	if third.State != "ready" || !strings.Contains(strings.Join(third.Warnings, " "), "another attempt") {
		t.Errorf("%s %q", third.State, third.Warnings)
	}
}

// cutReader breaks off after n bytes, as a lost connection does.
type cutReader struct {
	data []byte
	n    int
}

func (r *cutReader) Read(p []byte) (int, error) {
	if r.n <= 0 {
		return 0, fmt.Errorf("connection lost")
	}
	k := copy(p[:min(len(p), r.n)], r.data)
	r.data, r.n = r.data[k:], r.n-k
	return k, nil
}

func TestUploadGoesOnAfterALostConnection(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	raw := tiny(t)
	up, _ := c.Begin(at.ID, "x.mp4", int64(len(raw)))
	c.Piece(up, 0, &cutReader{raw, len(raw) / 2})
	var offset int
	testenv.Until(t, "half of the file is kept", func() bool {
		req, err := http.NewRequest("HEAD", c.URL+"/api/uploads/"+up, nil)
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Tus-Resumable", "1.0.0")
		res, err := c.HTTP.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		_, err = fmt.Sscan(res.Header.Get("Upload-Offset"), &offset)
		return err == nil && res.StatusCode == 200 && offset > 0
	})
	if offset <= 0 || offset >= len(raw) {
		t.Fatalf("the server kept %d of %d bytes", offset, len(raw))
	}
	if status := c.Piece(up, int64(offset), bytes.NewReader(raw[offset:])); status != 204 {
		t.Fatalf("going on: %d", status)
	}
	if clip := c.Imported(uuid.MustParse(up)); clip.State != "ready" || len(clip.Stamps) != 12 {
		t.Errorf("%s %q", clip.State, clip.Problem)
	}
}

func TestCaptureRateIsAskedAndChecked(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "x.mp4", tiny(t), 1<<20))
	if clip.CaptureRate != 0 || clip.RateFrom != "unknown" {
		t.Fatalf("a plain 30/s file says nothing of its camera: %v %s", clip.CaptureRate, clip.RateFrom)
	}
	put := func(rate float64, status int) {
		c.Do("PUT", "/api/clips/"+clip.ID.String(), map[string]any{"capture_rate": rate, "view": "side", "direction": 1}, status, &clip)
	}
	put(10000, 422)
	put(-5, 422)
	put(240, 200)
	if clip.CaptureRate != 240 || clip.RateFrom != "coach" || clip.Direction != 1 {
		t.Errorf("%+v", clip)
	}
	put(0, 200)
	if clip.RateFrom != "unknown" {
		t.Errorf("taken back: %s", clip.RateFrom)
	}
	fast := c.Imported(c.Upload(at.ID, "fast.mp4", numbered(t, testenv.Numbered{Width: 320, Height: 180, Frames: 24, Rate: 240}), 1<<20))
	if fast.CaptureRate < 239.9 || fast.CaptureRate > 240.1 || fast.RateFrom != "file" {
		t.Errorf("a 240/s file: %v %s", fast.CaptureRate, fast.RateFrom)
	}
}

// digitised uploads a simulated start and does a coach's work on it.
func digitised(t *testing.T, c *testenv.Client, athlete uuid.UUID, faults map[string]float64) (store.Attempt, store.Clip, workspace.Work) {
	t.Helper()
	truth, raw := startClip(t, faults)
	at := c.AttemptOf(athlete)
	clip := c.Imported(c.Upload(at.ID, "start.mp4", raw, 1<<20))
	if clip.State != "ready" || clip.CaptureRate != 240 || clip.RateFrom != "file" || clip.Direction != 1 {
		t.Fatalf("%s %s %v %v", clip.State, clip.Problem, clip.CaptureRate, clip.Direction)
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Base: 0, Edits: demo.ByHand(truth, clip.ID, 0)}, 200, nil)
	return at, clip, sheetOf(c, at.ID).Work
}

// sheetOf reads an attempt as the Bench does.
func sheetOf(c *testenv.Client, id uuid.UUID) (sh workspace.Workspace) {
	c.T.Helper()
	c.Do("GET", "/api/attempts/"+id.String()+"/workspace", nil, 200, &sh)
	return sh
}

func TestWorkIsSavedUndoneAndNeverWipedByALateTab(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "x.mp4", tiny(t), 1<<20))
	path := "/api/attempts/" + at.ID.String()
	point := func(x float64) workspace.Edit {
		return workspace.Edit{Kind: "point", Clip: &clip.ID, Key: "left_knee", Frame: 3, Value: workspace.Value(track.Point{X: x, Y: 50, Source: "hand", Confidence: 1})}
	}
	var w workspace.Work
	save := func(base, status int, e ...workspace.Edit) []byte {
		raw := c.Do("POST", path+"/edits", workspace.Edits{Base: base, Edits: e}, status, nil)
		w = sheetOf(c, at.ID).Work
		return raw
	}
	x := func() float64 {
		p, _ := w.Clips[clip.ID].Points.At("left_knee", 3)
		return p.X
	}
	save(0, 200, point(10))
	save(1, 200, point(20.1), workspace.Edit{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(3)})
	if w.Revision != 2 || x() != 20.1 || !w.CanUndo || w.CanRedo {
		t.Fatalf("%+v", w)
	}
	// A second tab still at revision 1 comes late.
	if p := said(t, save(1, 409, point(99))); p.Kind != problem.NewerWork {
		t.Errorf("%+v", p)
	}
	undo := func(what string, base, status int) {
		c.Do("POST", path+"/"+what, map[string]int{"base": base}, status, nil)
		w = sheetOf(c, at.ID).Work
	}
	undo("undo", 2, 200)
	if _, flagged := w.Clips[clip.ID].Flags["set"]; x() != 10 || flagged || !w.CanRedo {
		t.Errorf("after undo: %+v", w)
	}
	undo("undo", 3, 200)
	if len(w.Clips[clip.ID].Points) != 0 || w.CanUndo {
		t.Errorf("after two: %+v", w)
	}
	undo("undo", 4, 422)
	undo("redo", 4, 200)
	undo("redo", 5, 200)
	if x() != 20.1 || w.Clips[clip.ID].Flags["set"] != 3 || w.CanRedo {
		t.Errorf("after redo: %+v", w)
	}
	undo("undo", 6, 200)
	save(7, 200, point(30))
	if w.CanRedo {
		t.Error("a new change ends what could be redone")
	}
	undo("undo", 1, 409)
	var sh workspace.Workspace
	c.Do("GET", path+"/workspace", nil, 200, &sh)
	if !reflect.DeepEqual(sh.Work, w) || sh.Attempt.State != "in_work" {
		t.Errorf("reading again gives other work: %+v", sh.Work)
	}
}

func TestBadEditsChangeNothing(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "x.mp4", tiny(t), 1<<20))
	foreign := c.Imported(c.Upload(c.Attempt().ID, "y.mp4", numbered(t, testenv.Numbered{Width: 320, Height: 180, Frames: 14, Rate: 30}), 1<<20))
	p := func(x, y float64) track.Point { return track.Point{X: x, Y: y, Source: "hand", Confidence: 1} }
	path := "/api/attempts/" + at.ID.String() + "/edits"
	for name, e := range map[string]workspace.Edit{
		"outside the picture": {Kind: "point", Clip: &clip.ID, Key: "left_knee", Frame: 3, Value: workspace.Value(p(321, 50))},
		"negative":            {Kind: "point", Clip: &clip.ID, Key: "left_knee", Frame: 3, Value: workspace.Value(p(-1, 50))},
		"no such landmark":    {Kind: "point", Clip: &clip.ID, Key: "left_tail", Frame: 3, Value: workspace.Value(p(1, 50))},
		"no such frame":       {Kind: "point", Clip: &clip.ID, Key: "left_knee", Frame: 12, Value: workspace.Value(p(1, 50))},
		"frame before 0":      {Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(-2)},
		"half a frame":        {Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(1.5)},
		"flag by text":        {Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value("now")},
		"no such position":    {Kind: "flag", Clip: &clip.ID, Key: "nap", Value: workspace.Value(1)},
		"clip of another":     {Kind: "flag", Clip: &foreign.ID, Key: "set", Value: workspace.Value(1)},
		"no clip":             {Kind: "flag", Key: "set", Value: workspace.Value(1)},
		"source":              {Kind: "point", Clip: &clip.ID, Key: "left_knee", Frame: 3, Value: workspace.Value(map[string]any{"x": 1, "y": 2, "source": "psychic"})},
		"scale":               {Kind: "scale", Clip: &clip.ID, Key: "line", Value: workspace.Value(map[string]float64{"ax": 1, "ay": 1, "bx": 3, "by": 1, "metres": 1})},
		"scale outside":       {Kind: "scale", Clip: &clip.ID, Key: "line", Value: workspace.Value(map[string]float64{"ax": 1, "ay": 1, "bx": 900, "by": 1, "metres": 1})},
		"mark":                {Kind: "answer", Key: "karma", Value: workspace.Value(true)},
		"mark by word":        {Kind: "answer", Key: "heel_gap", Value: workspace.Value(evaluate.Judgement{Answer: "perhaps"})},
		"finding":             {Kind: "finding", Key: "S1", Value: workspace.Value("maybe")},
		"no such fault":       {Kind: "finding", Key: "S99", Value: workspace.Value("accepted")},
		"third cue":           {Kind: "advice", Key: "third", Value: workspace.Value(store.Advice{Words: "x", Target: "lean_clear"})},
		"cue without words":   {Kind: "advice", Key: "main", Value: workspace.Value(store.Advice{Target: "lean_clear"})},
		"long note":           {Kind: "note", Key: "athlete", Value: workspace.Value(strings.Repeat("a", 5000))},
		"kind":                {Kind: "dance", Key: "x"},
	} {
		good := workspace.Edit{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(2)}
		raw, status := c.Try("POST", path, workspace.Edits{Base: 0, Edits: []workspace.Edit{good, e}})
		if status != 422 && status != 404 {
			t.Errorf("%s: status %d %.200s", name, status, raw)
		}
	}
	if _, status := c.Try("POST", path, `{"base":0,"edits":[{"kind":"point","clip":"`+clip.ID.String()+`","key":"left_knee","frame":3,"value":{"x":1e999,"y":2,"source":"hand"}}]}`); status != 422 {
		t.Errorf("infinite place: %d", status)
	}
	var sh workspace.Workspace
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, &sh)
	if sh.Work.Revision != 0 || len(sh.Work.Clips[clip.ID].Flags) != 0 {
		t.Errorf("a refused change left something: %+v", sh.Work)
	}
}

// TestCueAndItsEffect: the second attempt opens with the cue of the first, and
// says that the measure moved by more than the smallest real difference.
func TestCueAndItsEffect(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Next Time"), 200, &a)
	first, clip, w := digitised(t, c, a.ID, map[string]float64{"front-knee": 130})
	var sh workspace.Workspace
	c.Do("GET", "/api/attempts/"+first.ID.String()+"/workspace", nil, 200, &sh)
	if r := sh.Report(); len(r.Findings) != 1 || r.Findings[0].Fault != "S2" || sh.Before != nil {
		t.Fatalf("findings %+v, before %+v", r.Findings, sh.Before)
	}
	cue := store.Advice{Fault: "S2", Focus: "outward", Words: "New pedal place", Target: "front_knee_set"}
	c.Do("POST", "/api/attempts/"+first.ID.String()+"/edits", workspace.Edits{Base: w.Revision, Edits: []workspace.Edit{
		{Kind: "finding", Key: "S2", Value: workspace.Value("accepted")}, {Kind: "advice", Key: "main", Value: workspace.Value(cue)}}}, 200, nil)

	second, _, _ := digitised(t, c, a.ID, nil)
	c.Do("GET", "/api/attempts/"+second.ID.String()+"/workspace", nil, 200, &sh)
	if sh.Before == nil || sh.Before.Advice.Words != cue.Words || sh.Before.AttemptID != first.ID {
		t.Fatalf("before: %+v", sh.Before)
	}
	e := sh.Effect(sh.Report())
	if e == nil || e.Verdict != "taken" || e.Change > -e.Smallest || math.Abs(e.Before.Value-130) > 3 || math.Abs(e.After.Value-92) > 3 {
		t.Errorf("effect %+v", e)
	}
	var page feedback.Page
	c.Do("GET", "/api/attempts/"+second.ID.String()+"/feedback", nil, 200, &page)
	if page.LastCue != cue.Words || page.Effect == nil || len(page.Keep) != 6 || len(page.Lacks) == 0 {
		t.Errorf("page %+v", page)
	}
	q := c.Queue()
	if len(q) != 2 || q[0].LastCue != cue.Words || q[1].Cue != cue.Words || q[0].Poster == nil {
		t.Errorf("queue %+v", q)
	}
	exports(t, c, first, clip)
}

// exports checks that CSV and JSON carry everything and that the report can be
// computed again from the JSON.
func exports(t *testing.T, c *testenv.Client, at store.Attempt, clip store.Clip) {
	t.Helper()
	var sh workspace.Workspace
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, &sh)
	rows, err := csv.NewReader(bytes.NewReader(c.Do("GET", "/api/attempts/"+at.ID.String()+"/export.csv", nil, 200, nil))).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	count := map[string]int{}
	for _, r := range rows[1:] {
		count[r[0]]++
	}
	points := 0
	for _, p := range sh.Work.Clips[clip.ID].Points {
		points += p.Count()
	}
	if count["point"] != points || count["flag"] != len(sh.Work.Clips[clip.ID].Flags) || count["reading"] != len(sh.Model.Checkpoints) || count["contact"] != 5 {
		t.Errorf("CSV has %v; %d points", count, points)
	}
	var doc struct {
		Clips []struct {
			Input  evaluate.Input
			Report report.Report
		}
	}
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/export.json", nil, 200, &doc)
	again := evaluate.Attempt(sh.Model, doc.Clips[0].Input)
	x, y := mustJSON(t, again), mustJSON(t, doc.Clips[0].Report)
	if !bytes.Equal(x, y) {
		t.Error("the report computed from the export differs from the exported one")
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

// TestPDF: both papers, and every still is the very frame that its caption says.
func TestPDF(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "n.mp4", numbered(t, testenv.Numbered{Width: 640, Height: 480, Frames: 90, Rate: 30}), 1<<20))
	var edits []workspace.Edit
	want := map[string]int{"set": 7, "clear": 41, "td1": 55, "to1": 88}
	for id, f := range want {
		edits = append(edits, workspace.Edit{Kind: "flag", Clip: &clip.ID, Key: id, Value: workspace.Value(f)})
		for i, part := range body.Landmarks() {
			// Spread over the whole picture, so that the crop keeps the number.
			edits = append(edits, workspace.Edit{Kind: "point", Clip: &clip.ID, Key: part, Frame: f, Value: workspace.Value(track.Point{X: float64(3 + 33*i), Y: float64(3 + 24*i), Source: "hand", Confidence: 1})})
		}
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: edits}, 200, nil)
	var page feedback.Page
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/feedback", nil, 200, &page)
	if len(page.Stills) != 4 {
		t.Fatalf("%d stills", len(page.Stills))
	}
	for paper, size := range map[string]string{"a4": "595.28 x 841.89", "letter": "612 x 792"} {
		pdf := c.Do("GET", "/api/attempts/"+at.ID.String()+"/feedback.pdf?paper="+paper, nil, 200, nil)
		file := filepath.Join(t.TempDir(), "f.pdf")
		if err := os.WriteFile(file, pdf, 0o644); err != nil {
			t.Fatal(err)
		}
		info, err := exec.Command("pdfinfo", file).CombinedOutput()
		if err != nil || !regexp.MustCompile(`Page size: +`+regexp.QuoteMeta(size)).Match(info) {
			t.Errorf("%s: %v %s", paper, err, info)
		}
		if out, err := exec.Command("pdfimages", "-j", file, filepath.Join(filepath.Dir(file), "s")).CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, out)
		}
		for i, s := range page.Stills {
			raw, err := os.ReadFile(fmt.Sprintf("%s/s-%03d.jpg", filepath.Dir(file), i))
			if err != nil {
				t.Fatal(err)
			}
			if n, err := testenv.ReadJPEG(raw, int(s.Crop[2])); err != nil || n != s.Frame {
				t.Errorf("%s still %d shows frame %d, caption says %d (%v)", paper, i, n, s.Frame, err)
			}
		}
	}
}

func TestImportCanBeCancelledAndTakenUpAgain(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	raw := numbered(t, testenv.Numbered{Width: 1280, Height: 720, Frames: 500, Rate: 60, Codec: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p"}})
	id := c.Upload(at.ID, "long.mp4", raw, 1<<24)
	var clip store.Clip
	for clip.State != "importing" {
		c.Do("GET", "/api/clips/"+id.String(), nil, 200, &clip)
		if clip.State == "ready" {
			t.Fatal("the import was over before it could be cancelled")
		}
	}
	c.Do("POST", "/api/clips/"+id.String()+"/cancel", nil, 200, &clip)
	if clip.State != "cancelled" {
		t.Fatalf("state %s", clip.State)
	}
	time.Sleep(300 * time.Millisecond)
	c.Do("GET", "/api/clips/"+id.String(), nil, 200, &clip)
	if clip.State != "cancelled" {
		t.Errorf("the cancelled import went on: %s", clip.State)
	}
	c.Do("POST", "/api/clips/"+id.String()+"/retry", nil, 200, &clip)
	if clip = c.Imported(id); clip.State != "ready" || len(clip.Stamps) != 500 {
		t.Errorf("%s %q %d frames", clip.State, clip.Problem, len(clip.Stamps))
	}
	c.Do("DELETE", "/api/clips/"+id.String(), nil, 200, nil)
	if left, _ := filepath.Glob(h.Dir + "/media/" + id.String() + "/*.*"); len(left) > 0 {
		t.Errorf("deleted, but on disk: %v", left)
	}
}

// TestCrashAndAbsentDatabase: a server that ends in the middle of an import goes
// on with it at the next start; a database that is away gives a clear 503 and
// nothing is lost when it comes back.
func TestCrashAndAbsentDatabase(t *testing.T) {
	t.Parallel()
	own, end := testenv.Alone("")
	defer end()
	c := own.Coach(t)
	at := c.Attempt()
	raw := numbered(t, testenv.Numbered{Width: 1280, Height: 720, Frames: 400, Rate: 60, Codec: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p"}})
	id := c.Upload(at.ID, "x.mp4", raw, 1<<24)
	for state := ""; state != "importing"; {
		if err := own.Store.DB.Get(&state, `SELECT state FROM clips WHERE id = $1`, id); err != nil {
			t.Fatal(err)
		}
	}
	own.App.Close()
	next, err := app.Start(context.Background(), own.Config, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	own.App = next
	own.Restart()
	if clip := c.Imported(id); clip.State != "ready" || len(clip.Stamps) != 400 {
		t.Fatalf("%s %q", clip.State, clip.Problem)
	}
	if err := own.DB.Stop(); err != nil {
		t.Fatal(err)
	}
	edit := workspace.Edits{Base: 0, Edits: []workspace.Edit{{Kind: "flag", Clip: &id, Key: "set", Value: workspace.Value(3)}}}
	path := "/api/attempts/" + at.ID.String() + "/edits"
	for _, try := range [][2]string{{"POST", path}, {"GET", "/api/queue"}, {"GET", "/api/ready"}, {"GET", "/api/me"}} {
		raw, status := c.Try(try[0], try[1], edit)
		if status != 503 || said(t, raw).Kind != problem.Unavailable {
			t.Errorf("%v without a database: %d %s", try, status, raw)
		}
	}
	c.Do("GET", "/api/live", nil, 200, nil)
	own.DB, err = pglocal.Start(context.Background(), own.DB.Options())
	if err != nil {
		t.Fatal(err)
	}
	c.Do("POST", path, edit, 200, nil)
}

func TestAddressesOfScreensAndOfNothing(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	if raw, status := c.Try("GET", "/attempt/"+uuid.NewString(), nil); status != 200 || !bytes.Contains(raw, []byte(`id="root"`)) {
		t.Errorf("a screen's address: %d %.80s", status, raw)
	}
	for _, path := range []string{"/api/nothing", "/api/clips/x/frames/0", "/api/clips/" + uuid.NewString() + "/frames/x"} {
		if raw, status := c.Try("GET", path, nil); status != 404 || said(t, raw).Kind != problem.NotFound {
			t.Errorf("%s: %d %s", path, status, raw)
		}
	}
	if raw, status := c.Try("GET", "/api/attempts/not-an-id/workspace", nil); status != 422 {
		t.Errorf("%d %s", status, raw)
	}
}

// TestPagesAndCoreAreAskedForAgain: files with a hash in their name are kept for
// good; the start page, the core and the pose model are asked for again, so that
// they fit each other after an update.
func TestPagesAndCoreAreAskedForAgain(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	kept := func(path string) string {
		res, err := c.HTTP.Get(c.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		if res.StatusCode != 200 {
			t.Fatalf("%s: %d", path, res.StatusCode)
		}
		return res.Header.Get("Cache-Control")
	}
	for _, path := range []string{"/", "/attempt/x", "/core/core.wasm", "/core/wasm_exec.js", "/pose/movenet-thunder.json"} {
		if got := kept(path); got != "no-cache" {
			t.Errorf("%s is kept by %q", path, got)
		}
	}
	page, _ := c.Try("GET", "/", nil)
	script := regexp.MustCompile(`/assets/[^"]+\.js`).Find(page)
	if got := kept(string(script)); script == nil || !strings.Contains(got, "immutable") {
		t.Errorf("%s is kept by %q", script, got)
	}
	// At the address that names what is in them core and models are kept for good; at an old
	// one, and at that of an old script, there is nothing any more.
	names, err := fs.ReadFile(web.Files(), "fixed.json")
	if err != nil {
		t.Fatal(err)
	}
	var now map[string]string
	if err := json.Unmarshal(names, &now); err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{"/core~" + now["core"] + "/core.wasm", "/pose~" + now["pose"] + "/movenet-thunder.json"} {
		if got := kept(path); !strings.Contains(got, "immutable") {
			t.Errorf("%s is kept by %q", path, got)
		}
	}
	for _, path := range []string{"/core~0123456789ab/core.wasm", "/assets/models-OLD.js"} {
		if raw, status := c.Try("GET", path, nil); status != 404 || !strings.Contains(string(raw), "Reload the page") {
			t.Errorf("%s: %d %s", path, status, raw)
		}
	}
	// What is there already is not sent again, and compressed it is the same.
	plain, err := fs.ReadFile(web.Files(), "core/wasm_exec.js")
	if err != nil {
		t.Fatal(err)
	}
	ask := func(header ...string) (*http.Response, []byte) {
		req, _ := http.NewRequest("GET", c.URL+"/core/wasm_exec.js", nil)
		for i := 0; i < len(header); i += 2 {
			req.Header.Set(header[i], header[i+1])
		}
		res, err := c.HTTP.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		if err != nil {
			t.Fatal(err)
		}
		return res, raw
	}
	res, raw := ask("Accept-Encoding", "identity")
	if !bytes.Equal(raw, plain) || res.Header.Get("Content-Encoding") != "" || res.Header.Get("Vary") != "Accept-Encoding" {
		t.Errorf("plain: %d of %d bytes, %v", len(raw), len(plain), res.Header)
	}
	if again, raw := ask("If-None-Match", res.Header.Get("ETag")); again.StatusCode != http.StatusNotModified || len(raw) > 0 {
		t.Errorf("asked again: %d, %d bytes", again.StatusCode, len(raw))
	}
	packed, raw := ask("Accept-Encoding", "gzip")
	z, err := gzip.NewReader(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(packed.Header, err)
	}
	if raw, err = io.ReadAll(z); err != nil || !bytes.Equal(raw, plain) {
		t.Errorf("unpacked: %d of %d bytes, %v", len(raw), len(plain), err)
	}
}

// Refusals have the shape that RFC 9457 gives them (sections 3.1 and 4.1), whoever makes
// them: a use case, the check of a form, the router.
func TestProblemsHaveTheStandardShape(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	for _, q := range []struct {
		who          *testenv.Client
		method, path string
		body         any
		status       int
		title        string
	}{
		{c, "GET", "/api/attempts/" + uuid.NewString() + "/workspace", nil, 404, "Not Found"},
		{c, "GET", "/api/nothing-here", nil, 404, "Not Found"},
		{c, "POST", "/api/athletes", map[string]any{"name": 7}, 422, "Unprocessable Entity"},
		{h.Guest(t), "GET", "/api/queue", nil, 401, "Unauthorized"},
	} {
		var p map[string]any
		if err := json.Unmarshal(q.who.Do(q.method, q.path, q.body, q.status, nil), &p); err != nil {
			t.Fatal(err)
		}
		if p["type"] != "about:blank" || p["title"] != q.title || p["status"] != float64(q.status) || p["detail"] == "" || p["detail"] == nil || p["kind"] == nil {
			t.Errorf("%s %s: %v", q.method, q.path, p)
		}
	}
}

package api_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"

	"neokinema/core/track"
	"neokinema/internal/app"
	"neokinema/internal/archive"
	"neokinema/internal/problem"
	"neokinema/internal/share"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// hollow is a cue whose own target is a change between no two readings.
const hollow = `{"words":"x","target":"mine","focus":"outward","fault":"","backfire":"","drill":{"name":"","dose":"","feel":""},"checkpoint":{"id":"mine","name":"x","position":"set","unit":"°","band":{},"basis":"trade","measure":{"kind":"change"}}}`

// worked is an attempt with a clip and some work on it.
func worked(t *testing.T, c *testenv.Client) (store.Attempt, store.Clip) {
	t.Helper()
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "n.mp4", tiny(t), 1<<20))
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(3)}}}, 200, nil)
	return at, clip
}

// looks opens every screen of an attempt: none may fail, whatever is stored.
func looks(t *testing.T, c *testenv.Client, at store.Attempt) {
	t.Helper()
	for _, path := range []string{"/api/queue", "/api/athletes/" + at.AthleteID.String() + "/log", "/api/attempts/" + at.ID.String() + "/workspace", "/api/attempts/" + at.ID.String() + "/glance",
		"/api/attempts/" + at.ID.String() + "/feedback", "/api/attempts/" + at.ID.String() + "/feedback.pdf", "/api/attempts/" + at.ID.String() + "/export.json", "/api/team/export.zip"} {
		c.Do("GET", path, nil, 200, nil)
	}
}

// A cue whose own checkpoint no model could have is refused; one that is stored all the
// same, like any other value nobody can read, costs itself only.
func TestAStoredDecisionEndsNothing(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := worked(t, c)
	path := "/api/attempts/" + at.ID.String() + "/edits"
	p := said(t, c.Do("POST", path, `{"base":1,"edits":[{"kind":"advice","key":"main","value":`+hollow+`}]}`, 422, nil))
	if !strings.Contains(p.Says, "cannot be measured") {
		t.Errorf("%+v", p)
	}
	for kind, value := range map[string]string{"advice": hollow, "followup": `[1]`, "outcome": `{}`, "note": `7`, "answer": `[]`, "finding": `3`, "box": `"x"`, "scale": `[1,2]`, "ground": `4`, "annotation": `{"kind":5}`, "flag": `"x"`} {
		on := any(nil)
		key := map[string]string{"advice": "main", "followup": "main", "outcome": "main", "note": "athlete"}[kind]
		if key == "" {
			key = "k"
		}
		switch kind {
		case "box", "scale", "ground", "annotation", "flag":
			on = clip.ID
		}
		if _, err := h.Store.DB.Exec(`INSERT INTO work_items (team_id, attempt_id, clip_id, kind, key, value) VALUES ($1, $2, $3, $4, $5, $6)`, c.User.TeamID, at.ID, on, kind, key, value); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := h.Store.DB.Exec(`INSERT INTO work_items (team_id, attempt_id, kind, key, value) VALUES ($1, $2, 'advice', 'second', '[1,2]')`, c.User.TeamID, at.ID); err != nil {
		t.Fatal(err)
	}
	looks(t, c, at)
	var sh workspace.Workspace
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, &sh)
	if len(sh.Work.Unreadable) < 8 || sh.Work.Clips[clip.ID].Flags["set"] != 3 {
		t.Errorf("unreadable %q, flags %v", sh.Work.Unreadable, sh.Work.Clips[clip.ID].Flags)
	}
	// The next attempt opens with that cue on top and is computed all the same.
	next := c.AttemptOf(at.AthleteID)
	looks(t, c, next)
}

// Numbers that would make arrays without end or lie outside the picture are refused.
func TestEditsAreBounded(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := worked(t, c)
	edit := func(kind, key, value string, clipped bool) string {
		on := ""
		if clipped {
			on = `"clip":"` + clip.ID.String() + `",`
		}
		return `{"base":1,"edits":[{"kind":"` + kind + `",` + on + `"key":"` + key + `","value":` + value + `}]}`
	}
	far := fmt.Sprint(int64(math.MaxInt64))
	for name, body := range map[string]string{
		"a track at the end of numbers": edit("track", "left_knee", `{"from":`+far+`,"x":[1],"y":[1],"source":"h","confidence":[100]}`, true),
		"a track behind the clip":       edit("track", "left_knee", `{"from":12,"x":[1],"y":[1],"source":"h","confidence":[100]}`, true),
		"a track off the picture":       edit("track", "left_knee", `{"from":0,"x":[1e38],"y":[1],"source":"h","confidence":[100]}`, true),
		"a flag at the end of numbers":  edit("flag", "set", far, true),
		"a box at the end of numbers":   edit("box", "subject", `{"frame":`+far+`,"x":0,"y":0,"width":50,"height":50}`, true),
		"a box wider than numbers":      edit("box", "subject", `{"frame":0,"x":1e308,"y":0,"width":1e308,"height":50}`, true),
		"a limb off the picture":        edit("annotation", "s", `{"kind":"should","frame":1,"landmark":"left_knee","other":"left_hip","x":1e30,"y":1}`, true),
		"a place at the end of numbers": edit("ground", "points", `{"points":[{"name":"a","frame":`+far+`,"x":1,"y":1}]}`, true),
		"a follow-up of another cue":    edit("followup", "second", `null`, false),
		"a follow-up of nothing":        edit("followup", "third", `{}`, false),
		"half a character":              edit("note", "other", `"\ud83d"`, false),
		"a long text":                   edit("advice", "main", `{"words":"x","target":"front_knee_set","focus":"outward","fault":"`+strings.Repeat("x", 5000)+`"}`, false),
	} {
		if raw, status := c.Try("POST", "/api/attempts/"+at.ID.String()+"/edits", body); status != 422 {
			t.Errorf("%s: %d %.200s", name, status, raw)
		} else {
			said(t, raw)
		}
	}
	// Half a character in a text that may be kept is kept as one that stands for it.
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", edit("note", "athlete", `"run \ud83d"`, false), 200, nil)
	c.Do("PUT", "/api/phrases", `{"says":"half \ud83d","keep":true}`, 204, nil)
	looks(t, c, at)
	// A joint may leave the picture by a little, as a tracker sees it.
	if err := workspace.CheckTrack(clip, &track.Track{From: 11, X: []float32{-20}, Y: []float32{4}, Source: track.Letters("t"), Confidence: []int8{80}}); err != nil {
		t.Errorf("a joint just outside: %v", err)
	}
}

// An archive whose rows name things of another team changes nothing there, whatever
// form its ids have, and is refused.
func TestAnArchiveReachesNoOtherTeam(t *testing.T) {
	t.Parallel()
	victim := h.Coach(t)
	at, clip := worked(t, victim)
	before := victim.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, nil)
	count := func() (n int) {
		if err := h.Store.DB.Get(&n, `SELECT (SELECT count(*) FROM athletes WHERE team_id = $1) + (SELECT count(*) FROM attempts WHERE team_id = $1) + (SELECT count(*) FROM clips WHERE team_id = $1) + (SELECT count(*) FROM notes WHERE team_id = $1)
			+ (SELECT count(*) FROM work_items WHERE team_id = $1) + (SELECT count(*) FROM team_models WHERE team_id = $1) + (SELECT count(*) FROM chapters WHERE team_id = $1) + (SELECT count(*) FROM library WHERE team_id = $1)`, victim.User.TeamID); err != nil {
			t.Fatal(err)
		}
		return n
	}
	had := count()
	source := h.Coach(t)
	own, _ := worked(t, source)
	source.Do("POST", "/api/athletes/"+own.AthleteID.String()+"/notes", store.NewNote{Kind: "note", NotedOn: "2026-01-05", Says: "x"}, 200, nil)
	source.Do("PUT", "/api/attempts/"+own.ID.String()+"/reference", map[string]string{"name": "best"}, 204, nil)
	whole := source.Do("GET", "/api/team/export.zip", nil, 200, nil)
	forms := func(id uuid.UUID) []string {
		s := id.String()
		return []string{s, strings.ToUpper(s), "{" + s + "}", strings.ReplaceAll(s, "-", ""), strings.ReplaceAll(strings.ToUpper(s), "-", "")}
	}
	planted := 0
	for _, table := range []string{"attempts", "clips", "notes", "decisions", "library", "athletes"} {
		text := inside(t, whole, table+".json")
		for from, to := range map[uuid.UUID]uuid.UUID{source.User.TeamID: victim.User.TeamID, own.ID: at.ID, own.AthleteID: at.AthleteID, clip.ID: clip.ID} {
			for _, form := range forms(to) {
				body := strings.ReplaceAll(text, from.String(), form)
				if body == text {
					continue
				}
				planted++
				other := h.Coach(t)
				raw, status := other.Try("POST", "/api/team/import", changed(t, whole, map[string]string{table + ".json": body}))
				// The team's own id may say what it likes: nobody asks it.
				if status != 422 && !(from == source.User.TeamID && status == 200) && table != "decisions" {
					t.Errorf("%s with %s: %d %.200s", table, form, status, raw)
				}
			}
		}
	}
	if planted < 20 {
		t.Fatalf("only %d archives were tried", planted)
	}
	// A planted decision that nobody can read is left out, and everything opens.
	other := h.Coach(t)
	var got archive.Taken
	rows := strings.ReplaceAll(inside(t, whole, "decisions.json"), `"value": 3`, `"value": [1, 2]`)
	other.Do("POST", "/api/team/import", changed(t, whole, map[string]string{"decisions.json": rows}), 200, &got)
	if got.LeftOut != 1 {
		t.Errorf("%+v", got)
	}
	list := other.Queue()
	looks(t, other, store.Attempt{ID: list[0].ID, NewAttempt: store.NewAttempt{AthleteID: list[0].AthleteID}})
	if after := victim.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, nil); !bytes.Equal(before, after) || count() != had {
		t.Errorf("the other team has %d rows instead of %d", count(), had)
	}
	// The keys between the tables hold even when a check is forgotten.
	for what, q := range map[string]string{
		"attempt":  `INSERT INTO attempts (team_id, athlete_id, event, done_on, session, place, mark, implement, condition, setting, coach_focus, injury_note) VALUES ($1, '` + at.AthleteID.String() + `', 'shot', now(), '', '', '', '', 'fresh', 'practice', '', '')`,
		"decision": `INSERT INTO work_items (team_id, attempt_id, kind, key, value) VALUES ($1, '` + at.ID.String() + `', 'note', 'athlete', '"x"')`,
		"track":    `INSERT INTO tracks (team_id, clip_id, landmark, points) VALUES ($1, '` + clip.ID.String() + `', 'left_knee', '')`,
		"chapter":  `INSERT INTO chapters (team_id, attempt_id, place, name, seconds, starts, ends, stage, voice) VALUES ($1, '` + at.ID.String() + `', 1, 'x', 1, 0, 1, '[]', '')`,
		"film":     `INSERT INTO films (team_id, attempt_id, kind, ask) VALUES ($1, '` + at.ID.String() + `', 'talk', '{}')`,
		"link":     `INSERT INTO shares (team_id, attempt_id, secret_hash, expires_at) VALUES ($1, '` + at.ID.String() + `', 'x', now())`,
		"upload":   `INSERT INTO uploads (id, team_id, attempt_id, name) VALUES (gen_random_uuid(), $1, '` + at.ID.String() + `', 'x')`,
		"account":  `INSERT INTO users (team_id, email, name, password_hash, role, athlete_id) VALUES ($1, 'x@y', 'x', '', 'athlete', '` + at.AthleteID.String() + `')`,
	} {
		if _, err := h.Store.DB.Exec(q, other.User.TeamID); err == nil || !strings.Contains(err.Error(), "foreign key") {
			t.Errorf("a foreign %s: %v", what, err)
		}
	}
}

// Archives that unpack to more than they can hold, or bring what no clip has, are
// refused before they take room.
func TestArchivesAreBounded(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	_, clip := worked(t, c)
	whole := c.Do("GET", "/api/team/export.zip", nil, 200, nil)
	packed := func(name string, size int, head string) []byte {
		var out bytes.Buffer
		from, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
		if err != nil {
			t.Fatal(err)
		}
		to := zip.NewWriter(&out)
		for _, f := range from.File {
			if f.Name != name {
				if err := to.Copy(f); err != nil {
					t.Fatal(err)
				}
			}
		}
		w, err := to.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		blank := bytes.Repeat([]byte(" "), 1<<20)
		_, _ = w.Write([]byte(head))
		for n := 0; n < size; n += len(blank) {
			if _, err := w.Write(blank); err != nil {
				t.Fatal(err)
			}
		}
		_, _ = w.Write([]byte("]"))
		if err := to.Close(); err != nil {
			t.Fatal(err)
		}
		return out.Bytes()
	}
	playlist := "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"
	for name, q := range map[string]struct {
		body []byte
		says string
	}{
		"blanks":             {packed("athletes.json", 60<<20, "["), "unpacks to far more"},
		"media of nobody":    {packed("media/"+uuid.NewString()+"/original", 0, "x"), "belongs to no clip"},
		"a playlist":         {changed(t, whole, map[string]string{"media/" + clip.ID.String() + "/proxy.mp4": playlist}), "no video or picture"},
		"a playlist as file": {changed(t, whole, map[string]string{"media/" + clip.ID.String() + "/original": playlist}), "no video or picture"},
		"a row without end":  {changed(t, whole, map[string]string{"notes.json": `[{"id":"` + strings.Repeat("x", 100)}), "cannot be read"},
		"a name twice":       {twice(t, whole), "twice"},
		"too old a runner":   {changed(t, whole, map[string]string{"athletes.json": strings.ReplaceAll(inside(t, whole, "athletes.json"), `"born": 2005`, `"born": 1200`)}), "no screen makes"},
	} {
		other := h.Coach(t)
		raw, status := other.Try("POST", "/api/team/import", q.body)
		if status != 422 || !strings.Contains(said(t, raw).Says, q.says) {
			t.Errorf("%s: %d %.300s", name, status, raw)
		}
		there := uuid.NewSHA1(other.User.TeamID, []byte(clip.ID.String()))
		if left := h.FilesOf(there); len(left) > 0 {
			t.Errorf("%s left %v", name, left)
		}
	}
}

func twice(t *testing.T, whole []byte) []byte {
	t.Helper()
	var out bytes.Buffer
	from, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	if err != nil {
		t.Fatal(err)
	}
	to := zip.NewWriter(&out)
	for _, f := range append(from.File, from.File[0]) {
		if err := to.Copy(f); err != nil {
			t.Fatal(err)
		}
	}
	if err := to.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// What ffmpeg would take for a list of other files is no video.
func TestManifestsReadNothing(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	_, clip := worked(t, c)
	target := filepath.Join(h.Dir, "media", clip.ID.String(), "proxy.mp4")
	if _, err := os.Stat(target); err != nil {
		t.Fatal(err)
	}
	guest := c.Attempt()
	dash := `<MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" mediaPresentationDuration="PT1S"><Period><AdaptationSet mimeType="video/mp4"><Representation id="v" bandwidth="1"><BaseURL>` + target + `</BaseURL></Representation></AdaptationSet></Period></MPD>`
	// Its first bytes are those of MP4: only the forced reader stands in the way.
	if got := c.Imported(c.Upload(guest.ID, "both.mp4", []byte("<!--ftyp-->"+dash), 1<<20)); got.State != "failed" || len(got.Stamps) > 0 {
		t.Errorf("a manifest with the first bytes of a video: %s, %d frames", got.State, len(got.Stamps))
	}
	for name, text := range map[string]string{
		"dash":     `<?xml version="1.0"?>` + dash,
		"hls":      "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n" + target + "\n#EXT-X-ENDLIST\n",
		"concat":   "ffconcat version 1.0\nfile '" + target + "'\n",
		"ismv":     `<SmoothStreamingMedia MajorVersion="2"/>`,
		"subtitle": "WEBVTT\n\n00:00.000 --> 00:01.000\nx\n",
	} {
		got := c.Imported(c.Upload(guest.ID, name+".mp4", []byte(text), 1<<20))
		if got.State != "failed" || !strings.Contains(got.Problem, "no video") || len(got.Stamps) > 0 {
			t.Errorf("%s: %s %q, %d frames", name, got.State, got.Problem, len(got.Stamps))
		}
	}
}

// An upload that is complete on the disk gets its clip, although the server died, or the
// database was away, between the last byte and the clip.
func TestFinishedUploadsAreNotLost(t *testing.T) {
	t.Parallel()
	h := alone(t) // it looks at all uploads and media of an application
	c := h.Coach(t)
	film := tiny(t)
	land := func() (store.Attempt, uuid.UUID) {
		at := c.Attempt()
		up, status := c.Begin(at.ID, "late.mp4", int64(len(film)))
		if status != 201 {
			t.Fatal(status)
		}
		// As if the process ended right after the last byte was written.
		if err := os.WriteFile(filepath.Join(h.Dir, "uploads", up), film, 0o600); err != nil {
			t.Fatal(err)
		}
		return at, uuid.MustParse(up)
	}
	head := func(id uuid.UUID) *http.Response {
		req, _ := http.NewRequest("HEAD", c.URL+"/api/uploads/"+id.String(), nil)
		req.Header.Set("Tus-Resumable", "1.0.0")
		res, err := c.HTTP.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res
	}
	_, asked := land()
	if res := head(asked); res.StatusCode != 200 || res.Header.Get("Upload-Offset") != fmt.Sprint(len(film)) {
		t.Fatalf("%d %v", res.StatusCode, res.Header)
	}
	if clip := c.Imported(asked); clip.State != "ready" {
		t.Errorf("asked for: %s %s", clip.State, clip.Problem)
	}
	// Asked again when all is on the shelf, it is still all there.
	if res := head(asked); res.StatusCode != 200 || res.Header.Get("Upload-Offset") != fmt.Sprint(len(film)) {
		t.Errorf("after the import: %d %v", res.StatusCode, res.Header)
	}
	_, forgotten := land()
	if n, err := h.Intake.Reconcile(context.Background()); n != 1 || err != nil {
		t.Fatalf("%d clips were made: %v", n, err)
	}
	if clip := c.Imported(forgotten); clip.State != "ready" {
		t.Errorf("never asked for: %s %s", clip.State, clip.Problem)
	}
	// One that was stopped leaves neither row nor file; one that stood still for days goes.
	at := c.Attempt()
	stopped, _ := c.Begin(at.ID, "x.mp4", 1000)
	req, _ := http.NewRequest("DELETE", c.URL+"/api/uploads/"+stopped, nil)
	req.Header.Set("Tus-Resumable", "1.0.0")
	if res, err := c.HTTP.Do(req); err != nil || res.StatusCode != 204 {
		t.Fatal(res, err)
	}
	old, _ := c.Begin(at.ID, "y.mp4", 1000)
	then := time.Now().Add(-72 * time.Hour)
	if err := os.Chtimes(filepath.Join(h.Dir, "uploads", old), then, then); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Intake.Reconcile(context.Background()); err != nil {
		t.Fatal(err)
	}
	var rows int
	if err := h.Store.DB.Get(&rows, `SELECT count(*) FROM uploads WHERE id IN ($1, $2)`, stopped, old); err != nil || rows != 0 {
		t.Errorf("%d rows are left: %v", rows, err)
	}
	if left := append(h.FilesOf(uuid.MustParse(old)), h.FilesOf(uuid.MustParse(stopped))...); len(left) > 0 {
		t.Errorf("left: %v", left)
	}
}

// Deleted during its import, nothing of a clip comes back to the disk.
func TestDeletionDuringAnImport(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	raw := numbered(t, testenv.Numbered{Width: 1280, Height: 720, Frames: 300, Rate: 60, Codec: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p"}})
	for _, what := range []string{"clips", "attempts", "athletes"} {
		at := c.Attempt()
		id := c.Upload(at.ID, "long.mp4", raw, 1<<24)
		var clip store.Clip
		for clip.State != "importing" || clip.Progress < 0.1 {
			c.Do("GET", "/api/clips/"+id.String(), nil, 200, &clip)
			if clip.State == "ready" || clip.State == "failed" {
				t.Fatalf("the import was over (%s %s) before anything could be deleted", clip.State, clip.Problem)
			}
		}
		var d store.Deletion
		c.Do("DELETE", "/api/"+what+"/"+map[string]uuid.UUID{"clips": id, "attempts": at.ID, "athletes": at.AthleteID}[what].String(), nil, 200, &d)
		if d.Clips != 1 || d.LeftOver != 0 {
			t.Errorf("%s: %+v", what, d)
		}
		// The job must be over before the disk is looked at.
		testenv.Until(t, "the job ends", func() bool {
			var running int
			if err := h.Store.DB.Get(&running, `SELECT count(*) FROM river_job WHERE state IN ('running', 'available', 'retryable') AND args->>'clip' = $1`, id.String()); err != nil {
				t.Fatal(err)
			}
			return running == 0
		})
		if left := h.FilesOf(id); len(left) > 0 {
			t.Errorf("%s: left on the disk: %v", what, left)
		}
		// A job that was past its last look puts nothing there either.
		if err := h.Store.Hold(context.Background(), "clips", id, func() error { t.Errorf("%s: media are put for a clip that is gone", what); return nil }); err == nil {
			t.Errorf("%s: held", what)
		}
	}
}

// Media without a row, and clips that are older than their team keeps them, are swept.
func TestTheSweep(t *testing.T) {
	t.Parallel()
	h := alone(t) // it looks at all uploads and media of an application
	c := h.Coach(t)
	_, clip := worked(t, c)
	stray := uuid.New()
	dir := filepath.Join(h.Dir, "media", stray.String())
	if err := os.MkdirAll(dir, 0o700); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, "original"), []byte("x"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Intake.Sweep(context.Background(), time.Now()); err != nil {
		t.Fatal(err)
	}
	if len(h.FilesOf(stray)) == 0 {
		t.Error("media that came a moment ago were swept")
	}
	if err := h.Store.SetLimits(context.Background(), c.User.TeamID, 0, 30); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Store.DB.Exec(`UPDATE clips SET created_at = now() - interval '31 days' WHERE id = $1`, clip.ID); err != nil {
		t.Fatal(err)
	}
	got, err := h.Intake.Sweep(context.Background(), time.Now().Add(24*time.Hour))
	if err != nil || got.Media < 1 || got.Clips != 1 {
		t.Errorf("%+v %v", got, err)
	}
	if left := append(h.FilesOf(stray), h.FilesOf(clip.ID)...); len(left) > 0 {
		t.Errorf("left: %v", left)
	}
	c.Do("GET", "/api/clips/"+clip.ID.String(), nil, 404, nil)
}

// One guest, one link: as much room as a training needs, and not more.
func TestWhatALinkMayBring(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, _ := worked(t, c)
	var link share.Link
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/shares", map[string]int{"days": 3}, 200, &link)
	g := h.Guest(t)
	g.Guest = "shared/" + link.Secret + "/"
	next := func() (out store.Attempt, status int) {
		raw, status := g.Try("POST", "/api/"+g.Guest+"next", nil)
		_ = json.Unmarshal(raw, &out) // a refusal has another shape
		return out, status
	}
	first, _ := next()
	if again, _ := next(); again.ID != first.ID {
		t.Error("room that was not used is made twice")
	}
	begun := 0
	for range 12 {
		a, status := next()
		if status != 200 {
			break
		}
		if _, status := g.Begin(a.ID, "big.mp4", 2<<30); status != 201 {
			break
		}
		begun++
	}
	if begun < 1 || begun > 5 {
		t.Errorf("%d uploads were begun through one link", begun)
	}
	queue := c.Queue()
	if len(queue) > 8 {
		t.Errorf("%d lines in the coach's queue", len(queue))
	}
}

// A team with a bound on its room cannot begin what would not fit.
func TestQuota(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	if err := h.Store.SetLimits(context.Background(), c.User.TeamID, 1_000_000, 0); err != nil {
		t.Fatal(err)
	}
	if _, status := c.Begin(at.ID, "a.mp4", 900_000); status != 201 {
		t.Errorf("what fits: %d", status)
	}
	if _, status := c.Begin(at.ID, "b.mp4", 200_000); status != 507 {
		t.Errorf("what does not fit: %d", status)
	}
	clip := c.Imported(c.Upload(at.ID, "n.mp4", tiny(t), 1<<20))
	var room store.Room
	if c.Do("GET", "/api/team/room", nil, 200, &room); room.Quota != 1_000_000 || room.KeepDays != 0 || room.Used < clip.Bytes {
		t.Errorf("the room of the team: %+v; a clip of %d bytes is in it", room, clip.Bytes)
	}
}

// Uploads that are begun hold the room that they will take, until they are stopped.
func TestBegunUploadsHoldTheirRoom(t *testing.T) {
	t.Parallel()
	var left atomic.Int64
	left.Store(20 << 30)
	own, end := testenv.Start(func(c *app.Config) {
		c.Free = func(string) (int64, bool) { return left.Load(), true }
	})
	defer end()
	c := own.Coach(t)
	at := c.Attempt()
	// A file takes three times its size: itself, what it becomes, and what lies in between.
	var begun []string
	for {
		id, status := c.Begin(at.ID, "big.mp4", 2<<30)
		if status != 201 {
			if status != 507 {
				t.Errorf("no room: %d", status)
			}
			break
		}
		if begun = append(begun, id); len(begun) > 20 {
			break
		}
	}
	if len(begun) != 7 {
		t.Errorf("%d uploads of 2 GB were begun with 20 GB free", len(begun))
	}
	req, _ := http.NewRequest("DELETE", c.URL+"/api/uploads/"+begun[0], nil)
	req.Header.Set("Tus-Resumable", "1.0.0")
	if res, err := c.HTTP.Do(req); err != nil || res.StatusCode != 204 {
		t.Fatal(res, err)
	}
	if _, status := c.Begin(at.ID, "big.mp4", 2<<30); status != 201 {
		t.Errorf("after one was stopped: %d", status)
	}
	left.Store(100 << 20)
	if _, status := c.Begin(at.ID, "small.mp4", 1000); status != 507 {
		t.Errorf("on a full disk: %d", status)
	}
}

// behind serves the application of a house behind a proxy that is trusted, at an address
// that has TLS. The house must be the test's own: jobs of its database are taken up by
// either.
func behind(t *testing.T, h *testenv.House, change func(*app.Config)) (*app.App, *testenv.Client) {
	t.Helper()
	own, end := testenv.Start(func(c *app.Config) {
		c.DatabaseURL = h.Config.DatabaseURL
		c.Public, c.Proxies = "https://clips.example.org", "127.0.0.1"
		if change != nil {
			change(c)
		}
	})
	t.Cleanup(end)
	return own.App, &testenv.Client{T: t, HTTP: &http.Client{}, URL: own.URL}
}

// alone is an application of the test's own.
func alone(t *testing.T) *testenv.House {
	t.Helper()
	h, end := testenv.Open("")
	t.Cleanup(end)
	return h
}

// from sends a request as a proxy does for somebody.
func from(t *testing.T, c *testenv.Client, address, method, path string, body any, cookies ...*http.Cookie) *http.Response {
	t.Helper()
	raw, err := json.Marshal(body)
	if err != nil {
		t.Fatal(err)
	}
	req, err := http.NewRequest(method, c.URL+path, bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Forwarded-For", address)
	req.Header.Set("X-Request-Id", strings.Repeat("mine", 900))
	for _, k := range cookies {
		req.AddCookie(k)
	}
	res, err := http.DefaultTransport.RoundTrip(req)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	return res
}

// Behind a proxy the address is the caller's, cookies are for TLS only, and nobody locks
// anybody else out.
func TestBehindAProxy(t *testing.T) {
	t.Parallel()
	h := alone(t)
	c := h.Coach(t)
	_, p := behind(t, h, nil)
	right := map[string]string{"email": c.User.Email, "password": testenv.Password}
	wrong := map[string]string{"email": c.User.Email, "password": "not the right one"}
	res := from(t, p, "198.51.100.7", "POST", "/api/sign-in", right)
	if res.StatusCode != 200 || res.Header.Get("Strict-Transport-Security") == "" || !strings.Contains(res.Header.Get("Permissions-Policy"), "microphone=(self)") {
		t.Fatalf("%d %v", res.StatusCode, res.Header)
	}
	var device *http.Cookie
	for _, k := range res.Cookies() {
		if !k.Secure || !k.HttpOnly {
			t.Errorf("the cookie %s may travel open", k.Name)
		}
		if k.Name == "neokinema-device" {
			device = k
		}
	}
	if id := res.Header.Get("X-Request-Id"); len(id) != 36 {
		t.Errorf("the request is called %.60q", id)
	}
	var seen string
	if err := h.Store.DB.Get(&seen, `SELECT address FROM signins WHERE user_id = $1 ORDER BY created_at DESC LIMIT 1`, c.User.ID); err != nil || seen != "198.51.100.7" {
		t.Errorf("seen from %q %v", seen, err)
	}
	// Somebody tries from many addresses.
	limited := 0
	for i := range 120 {
		if from(t, p, fmt.Sprintf("203.0.113.%d", i%30), "POST", "/api/sign-in", wrong).StatusCode == 429 {
			limited++
		}
	}
	if limited == 0 {
		t.Error("passwords can be tried without limit")
	}
	if res := from(t, p, "198.51.100.7", "POST", "/api/sign-in", right, device); res.StatusCode != 200 {
		t.Errorf("the owner on a known device: %d", res.StatusCode)
	}
	// Another account is not touched by it.
	other := h.Coach(t)
	if res := from(t, p, "198.51.100.9", "POST", "/api/sign-in", map[string]string{"email": other.User.Email, "password": testenv.Password}); res.StatusCode != 200 {
		t.Errorf("somebody else: %d", res.StatusCode)
	}
	// A caller that is no trusted proxy says of itself what it likes.
	plain := h.Coach(t)
	from(t, plain, "203.0.113.99", "POST", "/api/sign-in", map[string]string{"email": plain.User.Email, "password": testenv.Password})
	if err := h.Store.DB.Get(&seen, `SELECT address FROM signins WHERE user_id = $1 ORDER BY created_at DESC LIMIT 1`, plain.User.ID); err != nil || seen != "127.0.0.1" {
		t.Errorf("seen from %q %v", seen, err)
	}
}

// A body that drips in is ended; one that was read has all the time it needs.
func TestSlowBodies(t *testing.T) {
	t.Parallel()
	_, p := behind(t, alone(t), func(c *app.Config) { c.BodyTime = 150 * time.Millisecond })
	conn, err := net.Dial("tcp", strings.TrimPrefix(p.URL, "http://"))
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	fmt.Fprintf(conn, "POST /api/sign-in HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{")
	if err := conn.SetReadDeadline(time.Now().Add(20 * time.Second)); err != nil {
		t.Fatal(err)
	}
	answer := make([]byte, 4096)
	n, err := conn.Read(answer)
	var timeout net.Error
	if ok := err == nil || !(errors.As(err, &timeout) && timeout.Timeout()); !ok || n > 0 && !strings.HasPrefix(string(answer[:n]), "HTTP/1.1 4") && !strings.HasPrefix(string(answer[:n]), "HTTP/1.1 5") {
		t.Errorf("still held: %v %.80q", err, answer[:n])
	}
}

// Two servers work on one database: both answer, neither takes the other's jobs, and a
// newer schema is refused.
func TestServersBesideEachOther(t *testing.T) {
	t.Parallel()
	own, end := testenv.Open("")
	defer end()
	cfg := own.Config
	cfg.Data, cfg.Uploads = t.TempDir(), filepath.Join(own.Dir, "uploads")
	second, err := app.Start(context.Background(), cfg, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(second.Handler)
	defer s.Close()
	c := own.Coach(t)
	there := own.Guest(t)
	there.URL, there.User = s.URL, c.User
	there.SignIn()
	at := c.Attempt()
	film := tiny(t)
	// Begun at one, ended at the other.
	up, _ := c.Begin(at.ID, "n.mp4", int64(len(film)))
	if status := c.Piece(up, 0, bytes.NewReader(film[:1000])); status != 204 {
		t.Fatal(status)
	}
	if status := there.Piece(up, 1000, bytes.NewReader(film[1000:])); status != 204 {
		t.Fatal(status)
	}
	if clip := there.Imported(uuid.MustParse(up)); clip.State != "ready" {
		t.Errorf("%s %s", clip.State, clip.Problem)
	}
	// A job of a server that lives is nobody else's; one of a dead one comes back, and is
	// given up when it has ended its server too often.
	job := func(server string, attempt int) (id int64) {
		if err := own.Store.DB.Get(&id, `INSERT INTO river_job (args, kind, queue, max_attempts, state, attempt, attempted_by, attempted_at) VALUES ($1, 'import_clip', 'elsewhere', 3, 'running', $2, ARRAY[$3]::text[], now()) RETURNING id`,
			`{"clip":"`+up+`"}`, attempt, server+"-imports"); err != nil {
			t.Fatal(err)
		}
		return id
	}
	servers, err := own.Store.Servers(context.Background())
	if err != nil || len(servers) != 2 {
		t.Fatalf("%+v %v", servers, err)
	}
	live, dead, worn := job(servers[0].ID, 1), job("gone", 1), job("gone", 3)
	if _, err := own.Store.DB.Exec(`UPDATE clips SET state = 'importing', job_id = $2 WHERE id = $1`, up, worn); err != nil {
		t.Fatal(err)
	}
	if err := own.Intake.Rescue(context.Background()); err != nil {
		t.Fatal(err)
	}
	state := func(id int64) (s string) {
		if err := own.Store.DB.Get(&s, `SELECT state FROM river_job WHERE id = $1`, id); err != nil {
			t.Fatal(err)
		}
		return s
	}
	if state(live) != "running" || state(dead) != "available" || state(worn) != "discarded" {
		t.Errorf("live %s, dead %s, worn %s", state(live), state(dead), state(worn))
	}
	var clip store.Clip
	c.Do("GET", "/api/clips/"+up, nil, 200, &clip)
	if clip.State != "failed" || !strings.Contains(clip.Problem, "try again") {
		t.Errorf("%s %q", clip.State, clip.Problem)
	}
	c.Do("POST", "/api/clips/"+up+"/retry", nil, 200, nil)
	if clip := c.Imported(uuid.MustParse(up)); clip.State != "ready" {
		t.Errorf("after trying again: %s %s", clip.State, clip.Problem)
	}
	second.Close()
	if _, err := own.Store.DB.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (999, true)`); err != nil {
		t.Fatal(err)
	}
	if _, err := app.Start(context.Background(), cfg, slog.New(slog.DiscardHandler)); err == nil || !strings.Contains(err.Error(), "newer Neokinema") {
		t.Errorf("on a newer schema: %v", err)
	}
}

// An import that takes longer than it may ends with words and a way on.
func TestAnImportWithoutEnd(t *testing.T) {
	t.Parallel()
	own, end := testenv.Start(func(c *app.Config) { c.ImportTime = 300 * time.Millisecond })
	defer end()
	c := own.Coach(t)
	at := c.Attempt()
	raw := numbered(t, testenv.Numbered{Width: 1920, Height: 1080, Frames: 400, Rate: 60, Codec: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p"}})
	clip := c.Imported(c.Upload(at.ID, "long.mp4", raw, 1<<24))
	if clip.State != "failed" || !strings.Contains(clip.Problem, "takes too long") {
		t.Errorf("%s %q", clip.State, clip.Problem)
	}
}

// The same picture is drawn once.
func TestStillsAreKept(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	_, clip := worked(t, c)
	path := "/api/clips/" + clip.ID.String() + "/frames/5?width=160"
	first := c.Do("GET", path, nil, 200, nil)
	// A picture drawn again would be a new file that takes the name of the old one; runs of
	// ffmpeg cannot be counted beside other tests.
	kept := func() os.FileInfo {
		i, err := os.Stat(filepath.Join(h.Dir, "cache", "stills", clip.ID.String(), "5-160.jpg"))
		if err != nil {
			t.Fatal(err)
		}
		return i
	}
	before := kept()
	if again := c.Do("GET", path, nil, 200, nil); !bytes.Equal(first, again) {
		t.Error("another picture")
	}
	if !os.SameFile(before, kept()) {
		t.Error("drawn again")
	}
	req, _ := http.NewRequest("GET", c.URL+path, nil)
	res, err := c.HTTP.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if tag, kept := res.Header.Get("ETag"), res.Header.Get("Cache-Control"); tag == "" || kept != "private, no-cache" {
		t.Errorf("ETag %q, kept %q", tag, kept)
	} else {
		req.Header.Set("If-None-Match", tag)
		if res, err := c.HTTP.Do(req); err != nil || res.StatusCode != 304 {
			t.Errorf("asked again: %v %v", res.StatusCode, err)
		}
	}
}

// Names in any script go onto paper and into tables, and no table holds a formula.
func TestAnyTextOnPaperAndInTables(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	n := testenv.Athlete("=HYPERLINK(\"x\") 🏃 李 עברית é")
	var a store.Athlete
	c.Do("POST", "/api/athletes", n, 200, &a)
	at := c.AttemptOf(a.ID)
	clip := c.Imported(c.Upload(at.ID, "n.mp4", tiny(t), 1<<20))
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(3)}, {Kind: "note", Key: "athlete", Value: workspace.Value("Good 👍🏽 – היטב\n\tand on")}}}, 200, nil)
	c.Do("PUT", "/api/attempts/"+at.ID.String(), store.NewAttempt{AthleteID: a.ID, Event: "sprint-start", DoneOn: "2026-01-02", Session: "+1+2", Place: "@home", Mark: "-4.20", Condition: "fresh", Setting: "practice", Note: "\tx"}, 200, nil)
	if pdf := c.Do("GET", "/api/attempts/"+at.ID.String()+"/feedback.pdf", nil, 200, nil); !bytes.HasPrefix(pdf, []byte("%PDF")) {
		t.Errorf("%.40q", pdf)
	}
	table := string(c.Do("GET", "/api/marks.csv", nil, 200, nil))
	for _, cell := range []string{"'=HYPERLINK", "'+1+2", "'@home", "'-4.20"} {
		if !strings.Contains(table, cell) {
			t.Errorf("%s is not in %s", cell, table)
		}
	}
	// It comes back as it was.
	other := h.Coach(t)
	other.Do("POST", "/api/athletes", n, 200, &a)
	other.Do("POST", "/api/marks", map[string]string{"text": table}, 200, nil)
	if log := logOf(other, a.ID); log.Events[0].Attempts[0].Session != "+1+2" || log.Events[0].Attempts[0].Mark != "-4.20" {
		t.Errorf("%+v", log.Events[0].Attempts[0].NewAttempt)
	}
}

// What lies on the disk is nobody else's to read.
func TestFilesAreOurs(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	c.Imported(c.Upload(at.ID, "n.mp4", tiny(t), 1<<20))
	up, _ := c.Begin(at.ID, "half.mp4", 100)
	for _, path := range []string{filepath.Join(h.Dir, "media"), filepath.Join(h.Dir, "uploads"), filepath.Join(h.Dir, "work"), filepath.Join(h.Dir, "cache", "stills")} {
		if st, err := os.Stat(path); err != nil || st.Mode().Perm() != 0o700 {
			t.Errorf("%s: %v %v", path, st.Mode(), err)
		}
	}
	if st, err := os.Stat(filepath.Join(h.Dir, "uploads", up)); err != nil || st.Mode().Perm()&0o077 != 0 {
		t.Errorf("an upload: %v", err)
	}
}

// A disk that cannot be written is not the database's fault.
func TestErrorsOfTheDisk(t *testing.T) {
	t.Parallel()
	_, err := os.ReadFile(t.TempDir())
	if p := problem.From(store.Explain(err)); p.Kind == problem.Unavailable && strings.Contains(p.Says, "database") {
		t.Errorf("%+v", p)
	}
}

// Media lie in an object store as well as in a folder: written in parts, read by range,
// and gone when they are deleted.
func TestMediaInAnObjectStore(t *testing.T) {
	backend := s3mem.New()
	if err := backend.CreateBucket("clips"); err != nil {
		t.Fatal(err)
	}
	s3 := httptest.NewServer(gofakes3.New(backend).Server())
	defer s3.Close()
	t.Setenv("AWS_ACCESS_KEY_ID", "a")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "b")
	own, end := testenv.Start(func(c *app.Config) {
		c.MediaURL = "s3://clips?region=us-east-1&use_path_style=true&disable_https=true&request_checksum_calculation=when_required&response_checksum_validation=when_required&endpoint=" + s3.URL
	})
	defer end()
	c := own.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "n.mp4", tiny(t), 1<<20))
	if clip.State != "ready" {
		t.Fatalf("%s %s", clip.State, clip.Problem)
	}
	if n, err := testenv.ReadJPEG(c.Do("GET", "/api/clips/"+clip.ID.String()+"/frames/7?width=0", nil, 200, nil), 320); n != 7 || err != nil {
		t.Errorf("frame 7 shows %d (%v)", n, err)
	}
	req, _ := http.NewRequest("GET", c.URL+"/api/clips/"+clip.ID.String()+"/proxy.mp4", nil)
	req.Header.Set("Range", "bytes=4-7")
	res, err := c.HTTP.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	part, _ := io.ReadAll(res.Body)
	res.Body.Close()
	if res.StatusCode != http.StatusPartialContent || string(part) != "ftyp" {
		t.Errorf("%d %q", res.StatusCode, part)
	}
	objects := func() int {
		list, err := backend.ListBucket("clips", &gofakes3.Prefix{}, gofakes3.ListBucketPage{})
		if err != nil {
			t.Fatal(err)
		}
		return len(list.Contents)
	}
	if n := objects(); n != 3 {
		t.Errorf("%d objects", n)
	}
	c.Do("DELETE", "/api/attempts/"+at.ID.String(), nil, 200, nil)
	if n := objects(); n != 0 {
		t.Errorf("%d objects are left", n)
	}
	if left := own.FilesOf(clip.ID); len(left) > 0 {
		t.Errorf("left: %v", left)
	}
}

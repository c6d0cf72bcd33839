package api_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/annotate"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/internal/archive"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/voiceover"
	"neokinema/internal/workspace"
)

// changed is an archive with some files exchanged; empty content leaves a file out.
func changed(t *testing.T, whole []byte, files map[string]string) []byte {
	t.Helper()
	from, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	to := zip.NewWriter(&out)
	put := func(name string, r io.Reader) {
		w, err := to.Create(name)
		if err == nil {
			_, err = io.Copy(w, r)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, f := range from.File {
		if _, other := files[f.Name]; other {
			continue
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		put(f.Name, r)
		r.Close()
	}
	for name, text := range files {
		if text != "" {
			put(name, strings.NewReader(text))
		}
	}
	if err := to.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func inside(t *testing.T, whole []byte, name string) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	if err != nil {
		t.Fatal(err)
	}
	f, err := z.Open(name)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := io.ReadAll(f)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// Archives that were tampered with or come from elsewhere: each is refused with a
// reason, and neither rows nor media are left.
func TestStrangeArchivesLeaveNothing(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Upload(at.ID, "a.mp4", tiny(t), 1<<20)
	c.Imported(clip)
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "flag", Clip: &clip, Key: "set", Value: workspace.Value(3)}}}, 200, nil)
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/chapters", voiceover.Recording{Name: "spoken", Voice: tone(t, "1"), Stage: []voiceover.Scene{{Clip: &clip, Frame: of(3), View: &[4]float64{0, 0, 320, 180}}}}, 200, nil)
	whole := c.Do("GET", "/api/team/export.zip", nil, 200, nil)
	rows := inside(t, whole, "attempts.json")
	foreign := h.Coach(t).Attempt() // of a third team
	for name, q := range map[string]struct {
		files map[string]string
		says  string
	}{
		"newer":              {map[string]string{"team.json": `{"format":"neokinema-team","version":7}`}, "newer Neokinema"},
		"of something else":  {map[string]string{"team.json": `{"format":"shopping","version":1}`}, "no archive"},
		"a table missing":    {map[string]string{"athletes.json": ""}, "athletes.json is missing"},
		"rows of nobody":     {map[string]string{"athletes.json": "[]"}, "do not fit together"},
		"another's athlete":  {map[string]string{"attempts.json": strings.ReplaceAll(rows, at.AthleteID.String(), foreign.AthleteID.String())}, "do not fit together"},
		"no state":           {map[string]string{"attempts.json": strings.NewReplacer(`"new"`, `"eaten"`, `"in_work"`, `"eaten"`).Replace(rows)}, "do not fit together"},
		"a strange landmark": {map[string]string{"tracks/" + clip.String() + ".json": `{"third_knee":{"from":0}}`}, "third_knee"},
		"a track of nothing": {map[string]string{"tracks/" + clip.String() + ".json": `{"left_knee":null}`}, "no points"},
		"a track cut short":  {map[string]string{"tracks/" + clip.String() + ".json": `{"left_knee":{"from":0,"x":[1,2],"y":[1]}}`}, "cannot be read"},
		"tracks of no clip":  {map[string]string{"tracks/../../etc.json": `{}`}, "belongs to no clip"},
		"media of no kind":   {map[string]string{"media/" + clip.String() + "/run.sh": "x"}, "no clip has"},
	} {
		other := h.Coach(t)
		raw, status := other.Try("POST", "/api/team/import", changed(t, whole, q.files))
		if status == 200 {
			t.Errorf("%s was taken in", name)
			continue
		}
		if p := said(t, raw); status != 422 || p.Kind != problem.Invalid || !strings.Contains(p.Says, q.says) {
			t.Errorf("%s: %d %s", name, status, raw)
		}
		var people []store.Athlete
		other.Do("GET", "/api/athletes", nil, 200, &people)
		there := uuid.NewSHA1(other.User.TeamID, []byte(clip.String()))
		if left := h.FilesOf(there); len(people) > 0 || len(left) > 0 {
			t.Errorf("%s left %v and %v", name, people, left)
		}
	}
	// What only the coach's browser reads may be missing.
	other := h.Coach(t)
	other.Do("POST", "/api/team/import", changed(t, whole, map[string]string{"phrases.json": "", "marks.csv": ""}), 200, nil)
	var list []struct{ ID uuid.UUID }
	if err := json.Unmarshal([]byte(rows), &list); err != nil || len(list) != 1 {
		t.Fatal(err)
	}
	sh := modelOf(other, uuid.NewSHA1(other.User.TeamID, []byte(list[0].ID.String())))
	if len(sh.Clips) != 1 || sh.Work.Clips[sh.Clips[0].ID].Flags["set"] != 3 || sh.Clips[0].State != "ready" {
		t.Errorf("%+v", sh.Work)
	}
	other.Do("GET", "/api/clips/"+sh.Clips[0].ID.String()+"/frames/2?width=0", nil, 200, nil)
	// The talk came along, and speaks of the clip as it is called here.
	var said []voiceover.Chapter
	other.Do("GET", "/api/attempts/"+sh.Attempt.ID.String()+"/chapters", nil, 200, &said)
	if len(said) != 1 || said[0].Name != "spoken" || *said[0].Scenes[0].Clip != sh.Clips[0].ID {
		t.Fatalf("%+v", said)
	}
	if v := other.Do("GET", "/api/chapters/"+said[0].ID.String()+"/voice.webm", nil, 200, nil); !bytes.Contains(v[:64], []byte("webm")) {
		t.Errorf("the voice: %q", v[:32])
	}
	// An archive of before there were talks has no table of them; a new one must.
	old := h.Coach(t)
	old.Do("POST", "/api/team/import", changed(t, whole, map[string]string{"chapters.json": "", "team.json": `{"format":"neokinema-team","version":1,"team_id":"` + c.User.TeamID.String() + `"}`}), 200, nil)
	h.Coach(t).Do("POST", "/api/team/import", changed(t, whole, map[string]string{"chapters.json": ""}), 422, nil)
}

// What is one coach's own stays so: phrases, hand time; the library is the team's.
func TestACoachsOwnThings(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	path := "/api/attempts/" + at.ID.String()
	for _, n := range []int{20, 15} {
		c.Do("PUT", path+"/time", map[string]int{"seconds": n}, 204, nil)
	}
	c.Do("PUT", path+"/time", map[string]int{"seconds": 0}, 422, nil)
	q := c.Queue()
	if q[0].Seconds != 35 {
		t.Errorf("hand time: %+v", q[0])
	}
	for _, says := range []string{"Tall.", "Loose shoulders.", "Tall."} {
		c.Do("PUT", "/api/phrases", map[string]any{"says": says, "keep": true}, 204, nil)
	}
	c.Do("PUT", "/api/phrases", map[string]any{"says": "Tall.", "keep": false}, 204, nil)
	var phrases []string
	c.Do("GET", "/api/phrases", nil, 200, &phrases)
	if strings.Join(phrases, "|") != "Loose shoulders." {
		t.Errorf("%q", phrases)
	}
	names := func(c *testenv.Client) (out []string) {
		var list []store.Reference
		c.Do("GET", "/api/library", nil, 200, &list)
		for _, r := range list {
			out = append(out, r.Name)
		}
		return out
	}
	c.Do("PUT", path+"/reference", map[string]string{"name": "her best of May"}, 204, nil)
	c.Do("PUT", path+"/reference", map[string]string{"name": " her best of June "}, 204, nil)
	if got := names(c); len(got) != 1 || got[0] != "her best of June" {
		t.Errorf("%q", got)
	}
	if got := names(h.Coach(t)); len(got) != 0 {
		t.Errorf("another team's library: %q", got)
	}
	c.Do("PUT", path+"/reference", map[string]string{"name": ""}, 204, nil)
	if got := names(c); len(got) != 0 {
		t.Errorf("%q", got)
	}
}

// An archive of before the names of today: its decisions and contacts are those that were
// exported.
func TestArchivesWithOlderNamesAreRead(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Upload(at.ID, "a.mp4", tiny(t), 1<<20)
	c.Imported(clip)
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{
		{Kind: "answer", Key: "heel_gap", Value: workspace.Value(evaluate.Judgement{Answer: "no"})},
		{Kind: "annotation", Clip: &clip, Key: "a", Value: workspace.Value(annotate.Annotation{Kind: "pin", Frame: 1, Landmark: "left_knee"})},
		{Kind: "ground", Clip: &clip, Key: "points", Value: workspace.Value(map[string]any{"template": "free", "points": []map[string]any{}})},
	}}, 200, nil)
	c.Do("PUT", "/api/attempts/"+at.ID.String()+"/outcome", map[string]string{"outcome": "not_taken"}, 200, nil)
	if _, err := h.Store.SetClipContacts(t.Context(), c.User.TeamID, clip, []contact.Contact{{Foot: "left", From: 1, To: 4}}); err != nil {
		t.Fatal(err)
	}
	whole := c.Do("GET", "/api/team/export.zip", nil, 200, nil)
	was := strings.NewReplacer(`"kind": "annotation"`, `"kind": "show"`, `"kind": "answer"`, `"kind": "mark"`, `"kind": "outcome"`, `"kind": "eye"`, `"not_taken"`, `"not taken"`, `"key": "points"`, `"key": "marks"`)
	decisions := was.Replace(inside(t, whole, "decisions.json"))
	if strings.Count(decisions, `"kind": "show"`)+strings.Count(decisions, `"kind": "mark"`)+strings.Count(decisions, `"not taken"`)+strings.Count(decisions, `"key": "marks"`) != 4 {
		t.Fatalf("the archive was not made older: %s", decisions)
	}
	older := changed(t, whole, map[string]string{
		"team.json":      `{"format":"neokinema-team","version":2,"team_id":"` + c.User.TeamID.String() + `"}`,
		"decisions.json": decisions,
		"clips.json":     strings.ReplaceAll(inside(t, whole, "clips.json"), `"contacts"`, `"stands"`),
	})
	other := h.Coach(t)
	var taken archive.Taken
	other.Do("POST", "/api/team/import", older, 200, &taken)
	sh := modelOf(other, uuid.NewSHA1(other.User.TeamID, []byte(at.ID.String())))
	work := sh.Work.Clips[sh.Clips[0].ID]
	if taken.LeftOut != 0 || sh.Work.Answers["heel_gap"].Answer != "no" || sh.Work.Outcome != "not_taken" || len(work.Annotations) != 1 || work.Ground == nil || len(sh.Clips[0].Contacts) != 1 {
		t.Errorf("%d left out; %+v, %+v, contacts %v", taken.LeftOut, sh.Work, work, sh.Clips[0].Contacts)
	}
}

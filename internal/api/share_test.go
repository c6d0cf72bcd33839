package api_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/api"
	"neokinema/internal/demo"
	"neokinema/internal/problem"
	"neokinema/internal/share"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// sentStart is an attempt with points and a clip.
func sentStart(t *testing.T, c *testenv.Client) (store.Attempt, store.Clip) {
	t.Helper()
	truth, film := startClip(t, map[string]float64{"front-knee": 130})
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "start.mp4", film, len(film)))
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: demo.ByHand(truth, clip.ID, 0)}, 200, nil)
	return at, clip
}

func linkOf(c *testenv.Client, at uuid.UUID) share.Link {
	var l share.Link
	c.Do("POST", "/api/attempts/"+at.String()+"/shares", map[string]int{"days": 3}, 200, &l)
	return l
}

// What hangs on a link: the page, its pictures and the way back. Nothing of it may be
// had by anybody else, or after the link's end.
var linked = []string{"GET ", "GET /frames/3", "GET /clip.mp4", "PUT /answer", "POST /next"}

func TestALinkShowsOnePageAndEnds(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := sentStart(t, c)
	c.Do("PUT", "/api/attempts/"+at.ID.String(), func() store.NewAttempt {
		n := at.NewAttempt
		n.InjuryNote, n.CoachFocus = "old ankle", "own coach"
		return n
	}(), 200, nil)
	for _, days := range []int{0, 91} {
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/shares", map[string]int{"days": days}, 422, nil)
	}
	l := linkOf(c, at.ID)
	g := h.Guest(t)
	var p share.SharedPage
	raw := g.Do("GET", "/api/shared/"+l.Secret, nil, 200, &p)
	if p.ClipID == nil || *p.ClipID != clip.ID || len(p.Stills) < 3 || p.Loop[1] <= p.Loop[0] || p.Frames != len(clip.Stamps) {
		t.Errorf("%+v", p)
	}
	if strings.Contains(string(raw), "old ankle") || strings.Contains(string(raw), "own coach") {
		t.Error("the page tells what is the coach's business")
	}
	if pic := g.Do("GET", "/api/shared/"+l.Secret+"/frames/3", nil, 200, nil); string(pic[:3]) != "\xff\xd8\xff" {
		t.Errorf("no JPEG: % x", pic[:8])
	}
	g.Do("GET", "/api/shared/"+l.Secret+"/clip.mp4", nil, 200, nil)
	g.Do("PUT", "/api/shared/"+l.Secret+"/answer", map[string]string{"text": "Felt lighter."}, 204, nil)
	var list []store.Share
	c.Do("GET", "/api/shared/"+l.Secret, nil, 200, nil) // the coach looks, too
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/shares", nil, 200, &list)
	if len(list) != 1 || list[0].SeenTimes != 1 || list[0].SeenAt == nil || list[0].Answer != "Felt lighter." {
		t.Errorf("%+v", list)
	}
	queue := c.Queue()
	if !queue[0].Seen || queue[0].Answer != "Felt lighter." {
		t.Errorf("%+v", queue[0])
	}

	// The next clip goes straight into the queue, to this athlete and nowhere else.
	var next store.Attempt
	g.Do("POST", "/api/shared/"+l.Secret+"/next", nil, 200, &next)
	g.Guest = "shared/" + l.Secret + "/"
	if _, status := g.Begin(at.ID, "x.mp4", 10); status != http.StatusNotFound {
		t.Errorf("an upload into the attempt that was worked on: %d", status)
	}
	if _, status := g.Begin(c.Attempt().ID, "x.mp4", 10); status != http.StatusNotFound {
		t.Errorf("an upload to somebody else's attempt: %d", status)
	}
	mine, _ := c.Begin(at.ID, "coach.mp4", 10)
	if status := g.Piece(mine, 0, strings.NewReader("abc")); status != http.StatusNotFound {
		t.Errorf("a piece into the coach's upload: %d", status)
	}
	sent := g.Upload(next.ID, "next.mp4", tiny(t), 1<<20)
	c.Imported(sent)
	queue = c.Queue()
	found := false
	for _, q := range queue {
		found = found || q.ID == next.ID && q.State == "new" && q.Clips == 1
	}
	if !found {
		t.Errorf("the next clip is not in the queue: %+v", queue)
	}

	// Taken back, ended, made up: nothing.
	all := func(key, why string) {
		t.Helper()
		for _, r := range linked {
			method, path, _ := strings.Cut(r, " ")
			raw, status := h.Guest(t).Try(method, "/api/shared/"+key+path, map[string]string{"text": "x"})
			if status != http.StatusNotFound || said(t, raw).Kind != problem.NotFound {
				t.Errorf("%s, %s: %d %.100s", why, r, status, raw)
			}
		}
		other := h.Guest(t)
		other.Guest = "shared/" + key + "/"
		if _, status := other.Begin(next.ID, "x.mp4", 10); status != http.StatusNotFound {
			t.Errorf("%s: an upload begins: %d", why, status)
		}
	}
	all("nonsense-nonsense-nonsense", "made up")
	all(at.ID.String(), "an attempt's id without an account")
	stranger := h.Coach(t)
	stranger.Do("DELETE", "/api/shares/"+l.ID.String(), nil, 404, nil)
	c.Do("DELETE", "/api/shares/"+l.ID.String(), nil, 200, nil)
	all(l.Secret, "taken back")
	l = linkOf(c, at.ID)
	if _, err := h.Store.DB.Exec(`UPDATE shares SET expires_at = now() - interval '1 second' WHERE id = $1`, l.ID); err != nil {
		t.Fatal(err)
	}
	all(l.Secret, "ended")
	var kept string
	if err := h.Store.DB.Get(&kept, `SELECT encode(secret_hash, 'escape') FROM shares WHERE id = $1`, l.ID); err != nil || strings.Contains(kept, l.Secret) {
		t.Errorf("the secret itself is kept: %v", err)
	}
}

func TestAMinorNeedsConsent(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, _ := sentStart(t, c)
	child := testenv.Athlete("Young Runner")
	child.Born = time.Now().Year() - 15
	put := func() { c.Do("PUT", "/api/athletes/"+at.AthleteID.String(), child, 200, nil) }
	put()
	for _, path := range []string{"/api/attempts/" + at.ID.String() + "/shares", "/api/athletes/" + at.AthleteID.String() + "/invitations"} {
		if p := said(t, c.Do("POST", path, map[string]int{"days": 3}, 403, nil)); !strings.Contains(p.Says, "guardian") {
			t.Errorf("%s: %+v", path, p)
		}
	}
	today := time.Now().Format(time.DateOnly)
	child.ConsentBy, child.ConsentOn = "A. Guardian", &today
	put()
	l := linkOf(c, at.ID)
	if raw := h.Guest(t).Do("GET", "/api/shared/"+l.Secret, nil, 200, nil); strings.Contains(string(raw), "A. Guardian") {
		t.Error("the page names the guardian")
	}
	// Consent that is taken back ends every link at once.
	child.ConsentBy, child.ConsentOn = "", nil
	put()
	for _, r := range linked {
		method, path, _ := strings.Cut(r, " ")
		if raw, status := h.Guest(t).Try(method, "/api/shared/"+l.Secret+path, map[string]string{"text": "x"}); status != http.StatusNotFound {
			t.Errorf("%s without consent: %d %.100s", r, status, raw)
		}
	}
}

// An athlete's account sees what was sent to it; every other route refuses it, and
// other athletes' pages look as if they were not there.
func TestAnAthletesAccount(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := sentStart(t, c)
	other, _ := sentStart(t, c)
	var key api.Secret
	c.Do("POST", "/api/athletes/"+at.AthleteID.String()+"/invitations", nil, 200, &key)
	a := h.Guest(t)
	mail := "a" + at.ID.String()[:8] + "@club.example"
	join := map[string]string{"invitation": key.Secret, "email": mail, "password": "long enough words"}
	var me api.Me
	a.Do("POST", "/api/join", join, 200, &me)
	if me.User == nil || me.User.AthleteID == nil || *me.User.AthleteID != at.AthleteID {
		t.Fatalf("%+v", me)
	}
	h.Guest(t).Do("POST", "/api/join", map[string]string{"invitation": key.Secret, "email": "b" + mail, "password": "long enough words"}, 404, nil) // used up

	var mine []store.Attempt
	a.Do("GET", "/api/mine", nil, 200, &mine)
	if len(mine) != 0 {
		t.Errorf("before anything was sent: %+v", mine)
	}
	a.Do("GET", "/api/shared/"+at.ID.String(), nil, 404, nil)
	for _, id := range []uuid.UUID{at.ID, other.ID} {
		c.Do("PUT", "/api/attempts/"+id.String()+"/state", map[string]string{"state": "sent"}, 200, nil)
	}
	a.Do("GET", "/api/mine", nil, 200, &mine)
	if len(mine) != 1 || mine[0].ID != at.ID {
		t.Errorf("%+v", mine)
	}
	var p share.SharedPage
	a.Do("GET", "/api/shared/"+at.ID.String(), nil, 200, &p)
	a.Do("GET", "/api/shared/"+at.ID.String()+"/frames/2", nil, 200, nil)
	a.Do("PUT", "/api/shared/"+at.ID.String()+"/answer", map[string]string{"text": "ok"}, 204, nil)
	var list []store.Share
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/shares", nil, 200, &list)
	if len(list) != 1 || list[0].SeenTimes != 1 || list[0].Answer != "ok" {
		t.Errorf("%+v", list)
	}
	a.Do("GET", "/api/shared/"+other.ID.String(), nil, 404, nil)

	checked := 0
	all := testenv.Routes(t)
	for _, r := range []string{"GET /api/queue", "GET /api/athletes", "POST /api/athletes", "POST /api/attempts", "GET /api/models", "POST /api/uploads/", "GET /api/library", "GET /api/deletions", "GET /api/phrases",
		"PUT /api/phrases", "POST /api/sessions", "POST /api/marks", "POST /api/folder", "GET /api/marks.csv", "GET /api/team/export.zip", "POST /api/team/import", "GET /api/compare", "PUT /api/me/directions"} {
		all[r] = ""
	}
	for route := range all {
		method, path, _ := strings.Cut(route, " ")
		if api.Needs(method, path) == "anybody" {
			continue // the own sessions
		}
		for _, id := range []string{at.ID.String(), at.AthleteID.String(), clip.ID.String()} {
			raw, status := a.Try(method, strings.Replace(path, "{id}", id, 1), nil)
			if status != http.StatusForbidden || said(t, raw).Kind != problem.Refused {
				t.Errorf("%s for an athlete: %d %.100s", route, status, raw)
			}
			checked++
		}
	}
	if checked < 100 {
		t.Errorf("only %d requests were tried", checked)
	}
	// The account goes with the athlete.
	c.Do("DELETE", "/api/athletes/"+at.AthleteID.String(), nil, 200, nil)
	a.Do("GET", "/api/mine", nil, 401, nil)
}

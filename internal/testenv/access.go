package testenv

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/pose"
	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/core/workshop"
	"neokinema/internal/account"
	"neokinema/internal/api"
	"neokinema/internal/drafting"
	"neokinema/internal/share"
	"neokinema/internal/store"
	"neokinema/internal/videoexport"
	"neokinema/internal/voiceover"
	"neokinema/internal/workspace"
)

// Bodies for every operation that has one, so that a stranger's request fails
// for no other reason than being a stranger's.
func Bodies(athlete uuid.UUID) map[string]any {
	return map[string]any{
		"changeAthlete": Athlete("Stolen"), "changeAttempt": store.NewAttempt{AthleteID: athlete, Event: "sprint-start", DoneOn: "2026-01-02", Condition: "fresh", Setting: "practice"},
		"setState": map[string]string{"state": "sent"}, "saveEdits": workspace.Edits{Base: 0, Edits: []workspace.Edit{{Kind: "note", Key: "athlete", Value: workspace.Value("x")}}},
		"undo": map[string]int{"base": 0}, "redo": map[string]int{"base": 0},
		"beginDraft": drafting.Request{Wish: pose.Wish{Step: 1}}, "holdAgainst": "no points",
		"answerClip":  map[string]any{"capture_rate": 120, "view": "side", "direction": 1},
		"changeModel": workspace.ModelChange{Reason: "a try", Back: true},
		"setFollowup": store.Followup{State: "done", Recheck: "2026-02-01", Starts: "2026-01-03", Weeks: 4, Sessions: 2},
		"setOutcome":  map[string]string{"outcome": "taken"}, "setReference": map[string]string{"name": "best"}, "spendTime": map[string]int{"seconds": 5},
		"addNote": store.NewNote{Kind: "note", NotedOn: "2026-01-02", Says: "x"}, "changeNote": store.NewNote{Kind: "note", NotedOn: "2026-01-02", Says: "x"},
		"share":      map[string]int{"days": 3},
		"saveSeason": map[string]any{"revision": 0, "outline": Outline("sprint-start")}, "undoSeason": map[string]int{"revision": 1}, "putTraining": store.NewTraining{DoneOn: "2026-01-02", Kind: "lift", Minutes: 40, Effort: 5},
		"keepCalculation": Calculation(), "changeCalculation": Calculation(),
		"askForEye":      map[string]bool{"asked": true},
		"changeOwnDrill": OwnDrill(),
		"climb":          map[string]any{"ladder": "glide-to-turn", "rung": 0},
		"setRole":        map[string]string{"role": "coach"},
		"addChapter":     voiceover.Recording{Name: "x", Stage: []voiceover.Scene{}, Voice: []byte("x")}, "recordAgain": voiceover.Recording{Name: "x", Stage: []voiceover.Scene{}, Voice: []byte("x")}, "trimChapter": voiceover.Cut{Name: "x", Ends: 1}, "drawFilm": videoexport.ExportRequest{Kind: "talk"},
	}
}

// Routes lists every route of the contract with an id, and its operation.
func Routes(t testing.TB) map[string]string {
	t.Helper()
	raw, err := api.Contract()
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Paths map[string]map[string]struct {
			ID string `json:"operationId"`
		}
	}
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for path, methods := range doc.Paths {
		for method, op := range methods {
			// A rule is named by words, and each team has its own.
			if strings.Contains(path, "{id}") && op.ID != "setSeasonRule" {
				out[strings.ToUpper(method)+" /api"+path] = op.ID
			}
		}
	}
	if len(out) < 60 {
		t.Fatalf("only %d routes", len(out))
	}
	return out
}

// alone are the routes without an id that need an account.
var alone = []string{"GET /api/queue", "GET /api/eye", "GET /api/eye/sharing", "PUT /api/eye/sharing", "GET /api/drills", "GET /api/own-drills", "POST /api/own-drills", "POST /api/eye/sets", "POST /api/eye/answers", "GET /api/changes", "GET /api/news", "GET /api/athletes", "POST /api/athletes", "POST /api/attempts", "POST /api/sample", "GET /api/models", "POST /api/uploads/", "GET /api/library", "GET /api/deletions", "GET /api/phrases",
	"PUT /api/phrases", "PUT /api/season/rules/begin", "POST /api/sessions", "POST /api/marks", "POST /api/folder", "GET /api/marks.csv", "GET /api/team/export.zip", "POST /api/team/import", "GET /api/compare", "GET /api/squad/week", "GET /api/squad/board", "GET /api/track", "POST /api/track/notes", "GET /api/squad/week.pdf", "PUT /api/me/directions",
	"GET /api/team/members", "GET /api/team/invitations", "POST /api/team/invitations", "GET /api/team/audit", "GET /api/team/room", "POST /api/team/delete", "GET /api/me/sessions", "PUT /api/me/password", "POST /api/me/delete", "POST /api/sign-out-elsewhere", "POST /api/sign-out", "GET /api/mine", "POST /api/models/check", "POST /api/workshop/field.pdf", "POST /api/workshop/field.svg"}

// Guest is somebody without an account.
func (h *House) Guest(t testing.TB) *Client {
	jar, _ := cookiejar.New(nil) // never fails without options
	return &Client{T: t, HTTP: &http.Client{Jar: jar}, URL: h.URL}
}

// Colleague makes an account in a client's team, by an invitation, and signs it in.
func (c *Client) Colleague(h *House, role store.Role) *Client {
	c.T.Helper()
	mail := fmt.Sprintf("%s%d@club.example", role, teams.Add(1))
	var in api.Invited
	c.Do("POST", "/api/team/invitations", map[string]string{"email": mail, "role": string(role)}, http.StatusOK, &in)
	u, err := h.Account.Join(context.Background(), in.Secret, "Colleague", account.Credentials{Email: mail, Password: Password}, mail)
	if err != nil {
		c.T.Fatal(err)
	}
	out := h.Guest(c.T)
	out.User = u
	out.SignIn()
	return out
}

// SignIn signs a client in that has an account.
func (c *Client) SignIn() {
	c.T.Helper()
	if c.HTTP.Transport == nil {
		c.elsewhere()
	}
	c.Do("POST", "/api/sign-in", map[string]string{"email": c.User.Email, "password": Password}, http.StatusOK, nil)
}

// Access tries every route as those who may not use it: a coach of another team, an
// athlete's account, an assistant and a coach of the own team where more is needed,
// somebody who was removed, a session that was ended, somebody without an account, links
// that ended, were taken back, or show a minor whose guardian took the consent back. It
// gives how many requests were made and which of them were answered.
func (h *House) Access(t testing.TB) (checked int, leaks []string) {
	t.Helper()
	dir, err := os.MkdirTemp("", "neokinema-access-")
	if err != nil {
		t.Fatal(err)
	}
	defer os.RemoveAll(dir)
	file := filepath.Join(dir, "n.mp4")
	if err := (Numbered{Width: 320, Height: 180, Frames: 12, Rate: 30}).Make(file); err != nil {
		t.Fatal(err)
	}
	film, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	owner, stranger := h.Coach(t), h.Coach(t)
	// Each attempt of an athlete of its own, with a clip and a link.
	type thing struct {
		at   store.Attempt
		clip uuid.UUID
		link share.Link
	}
	make := func() (x thing) {
		x.at = owner.Attempt()
		x.clip = owner.Upload(x.at.ID, "n.mp4", append(bytes.Clone(film), byte(len(leaks))), 1<<20)
		owner.Imported(x.clip)
		owner.Do("POST", "/api/attempts/"+x.at.ID.String()+"/shares", map[string]int{"days": 3}, http.StatusOK, &x.link)
		return x
	}
	main, back, ended, minor := make(), make(), make(), make()
	owner.Do("DELETE", "/api/shares/"+back.link.ID.String(), nil, http.StatusOK, nil)
	if _, err := h.Store.DB.Exec(`UPDATE shares SET expires_at = now() - interval '1 second' WHERE id = $1`, ended.link.ID); err != nil {
		t.Fatal(err)
	}
	child := Athlete("Young Runner")
	child.Born = time.Now().Year() - 14
	owner.Do("PUT", "/api/athletes/"+minor.at.AthleteID.String(), child, http.StatusOK, nil)

	var key api.Secret
	owner.Do("POST", "/api/athletes/"+back.at.AthleteID.String()+"/invitations", nil, http.StatusOK, &key)
	athlete := h.Guest(t)
	athlete.Do("POST", "/api/join", map[string]string{"invitation": key.Secret, "email": "of" + back.at.ID.String()[:8] + "@club.example", "password": "long enough words"}, http.StatusOK, nil)

	var own store.Athlete
	stranger.Do("POST", "/api/athletes", Athlete("Own"), http.StatusOK, &own)
	want := Bodies(own.ID)
	assistant, coach := owner.Colleague(h, store.Assistant), owner.Colleague(h, store.Coach)
	removed, elsewhere := owner.Colleague(h, store.Coach), owner.Colleague(h, store.Coach)
	owner.Do("DELETE", "/api/team/members/"+removed.User.ID.String(), nil, http.StatusNoContent, nil)
	again := h.Guest(t)
	again.User = elsewhere.User
	again.SignIn()
	again.Do("POST", "/api/sign-out-elsewhere", nil, http.StatusNoContent, nil)
	rank := map[string]int{"public": 0, "guest": 1, "anybody": 2, "assistant": 3, "coach": 4, "owner": 5}
	// inside tries a route with a colleague's rights: refused where more is needed, and
	// never for want of rights where they are enough.
	inside := func(who string, has int, c *Client, method, route, path string, body any) {
		checked++
		_, status := c.Try(method, path, body)
		need := rank[api.Needs(method, route)]
		if need > has && status != http.StatusForbidden || need <= has && (status == http.StatusForbidden || status == http.StatusUnauthorized) {
			leaks = append(leaks, fmt.Sprintf("%s: %s %s: %d", who, method, path, status))
		}
	}
	try := func(who string, c *Client, method, path string, body any) {
		checked++
		if _, status := c.Try(method, path, body); status < 400 {
			leaks = append(leaks, who+": "+method+" "+path)
		}
	}
	for route, op := range Routes(t) {
		method, path, _ := strings.Cut(route, " ")
		for _, id := range []uuid.UUID{main.at.ID, main.at.AthleteID, main.clip, main.link.ID} {
			p := strings.NewReplacer("{id}", id.String(), "{n}", "0", "{training}", uuid.NewString()).Replace(path)
			try("another team", stranger, method, p, want[op])
			try("an athlete's account", athlete, method, p, want[op])
			try("nobody", h.Guest(t), method, p, want[op])
			try("somebody removed", removed, method, p, want[op])
			try("an ended session", elsewhere, method, p, want[op])
		}
		if api.Needs(method, path) == "anybody" {
			continue
		}
		// Of the own team: what is not there is tried, so that nothing is changed by those
		// who may.
		for _, id := range []uuid.UUID{main.at.ID, uuid.New()} {
			if id == main.at.ID && method != "GET" && rank[api.Needs(method, path)] <= rank["coach"] {
				continue
			}
			p := strings.NewReplacer("{id}", id.String(), "{n}", "0", "{training}", uuid.NewString()).Replace(path)
			inside("an assistant", rank["assistant"], assistant, method, path, p, want[op])
			inside("a coach", rank["coach"], coach, method, path, p, want[op])
		}
	}
	for _, route := range alone {
		method, path, _ := strings.Cut(route, " ")
		try("nobody", h.Guest(t), method, path, nil)
		try("somebody removed", removed, method, path, nil)
		try("an ended session", elsewhere, method, path, nil)
		if api.Needs(method, path) == "anybody" {
			continue
		}
		try("an athlete's account", athlete, method, path, nil)
		if method == "GET" || rank[api.Needs(method, path)] == rank["owner"] {
			inside("an assistant", rank["assistant"], assistant, method, path, path, nil)
			inside("a coach", rank["coach"], coach, method, path, path, nil)
		}
	}
	for who, k := range map[string]string{"taken back": back.link.Secret, "ended": ended.link.Secret, "a minor without consent": minor.link.Secret, "made up": strings.Repeat("x", 32), "an id": main.at.ID.String()} {
		for _, r := range []string{"GET ", "GET /frames/3", "GET /clip.mp4", "GET /talk", "GET /voices/" + main.clip.String(), "PUT /answer", "POST /next", "POST /uploads/"} {
			method, path, _ := strings.Cut(r, " ")
			try(who, h.Guest(t), method, "/api/shared/"+k+path, map[string]string{"text": "x"})
		}
	}
	// What must be seen, is: else all of this could be a closed door.
	h.Guest(t).Do("GET", "/api/shared/"+main.link.Secret, nil, http.StatusOK, nil)
	return checked, leaks
}

// Outline is a season of ten weeks from 5 October 2026 on at one event, with a competition at its end.
func Outline(event string) season.Outline {
	const monday season.Day = 20731
	return season.Outline{From: monday, To: monday + 7*9, Events: []string{event}, Free: []season.Free{{Weekday: 0, Places: []sport.Place{}, Minutes: 90}, {Weekday: 2, Places: []sport.Place{}, Minutes: 90}, {Weekday: 4, Places: []sport.Place{}, Minutes: 60}},
		Competitions: []season.Competition{{ID: "home", Name: "Home meeting", Event: event, Day: monday + 7*8 + 5, Weight: season.A}}, Moves: []season.Move{}, Lost: []season.Day{}, Rules: []season.Changed{}}
}

// Calculation is one of the workshop that anybody may keep.
func Calculation() store.NewCalculation {
	return store.NewCalculation{Event: "sprint-start", Question: "blocks", Name: "Front pedal one hole nearer", Variants: store.Variants{{Name: "as it is", Values: workshop.Values{"moveFront": {}}}, {Name: "nearer", Values: workshop.Values{"moveFront": {Value: 2.5}}}}, Chosen: 1, MadeOn: "2026-01-02"}
}

package api_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"neokinema/internal/account"
	"neokinema/internal/api"
	"neokinema/internal/app"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

// Several people in one team: invited, with different rights, and gone again.
func TestSeveralCoaches(t *testing.T) {
	t.Parallel()
	owner := h.Coach(t)
	assistant, coach := owner.Colleague(h, store.Assistant), owner.Colleague(h, store.Coach)
	at, clip := worked(t, owner)
	// An assistant works on attempts and lets nothing out.
	assistant.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, nil)
	assistant.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", `{"base":1,"edits":[{"kind":"flag","clip":"`+clip.ID.String()+`","key":"set","value":4}]}`, 200, nil)
	for _, r := range []string{"POST /api/attempts/" + at.ID.String() + "/shares", "DELETE /api/attempts/" + at.ID.String(), "GET /api/team/export.zip", "GET /api/marks.csv", "GET /api/team/audit"} {
		method, path, _ := strings.Cut(r, " ")
		if raw, status := assistant.Try(method, path, nil); status != http.StatusForbidden || !strings.Contains(said(t, raw).Says, "Ask a coach") {
			t.Errorf("%s: %d %s", r, status, raw)
		}
	}
	// A coach does all but deciding who is in the team.
	coach.Do("POST", "/api/attempts/"+at.ID.String()+"/shares", map[string]int{"days": 3}, 200, nil)
	coach.Do("POST", "/api/team/invitations", map[string]string{"email": "x@club.example", "role": "coach"}, 403, nil)
	var list []store.Member
	coach.Do("GET", "/api/team/members", nil, 200, &list)
	if len(list) != 3 || list[0].Role != store.Owner || list[0].ID != owner.User.ID || list[2].Role != store.Assistant {
		t.Errorf("%+v", list)
	}
	// The last owner stays one; with a second the first may go.
	owner.Do("PUT", "/api/team/members/"+owner.User.ID.String(), map[string]string{"role": "coach"}, 403, nil)
	owner.Do("POST", "/api/me/delete", map[string]string{"password": testenv.Password}, 403, nil)
	owner.Do("PUT", "/api/team/members/"+coach.User.ID.String(), map[string]string{"role": "owner"}, 204, nil)
	owner.Do("POST", "/api/me/delete", map[string]string{"password": "wrong words here"}, 403, nil)
	owner.Do("POST", "/api/me/delete", map[string]string{"password": testenv.Password}, 204, nil)
	owner.Do("GET", "/api/queue", nil, 401, nil)
	// What was done stays; who is removed is out at once.
	coach.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, 200, nil)
	coach.Do("DELETE", "/api/team/members/"+assistant.User.ID.String(), nil, 204, nil)
	assistant.Do("GET", "/api/queue", nil, 401, nil)
	// An invitation taken back, and one used, open nothing.
	var in api.Invited
	coach.Do("POST", "/api/team/invitations", map[string]string{"email": "late@club.example", "role": "coach"}, 200, &in)
	var open []store.Invitation
	coach.Do("GET", "/api/team/invitations", nil, 200, &open)
	guest := h.Guest(t)
	var seen api.Invitee
	guest.Do("POST", "/api/join/look", map[string]string{"invitation": in.Secret}, 200, &seen)
	if seen.Role != store.Coach || seen.Email != "late@club.example" || len(open) != 1 {
		t.Errorf("%+v %+v", seen, open)
	}
	coach.Do("DELETE", "/api/team/invitations/"+open[0].ID.String(), nil, 204, nil)
	guest.Do("POST", "/api/join", map[string]string{"invitation": in.Secret, "name": "Late", "email": "late@club.example", "password": testenv.Password}, 404, nil)
	// Who did what stands in the audit.
	var lines []store.Event
	coach.Do("GET", "/api/team/audit", nil, 200, &lines)
	text := ""
	for _, e := range lines {
		text += e.What + " " + e.About + " " + e.Address + "\n"
	}
	for _, want := range []string{"invited to the team late@club.example " + coach.Address, "shared an attempt " + at.ID.String(), "removed an account " + assistant.User.ID.String(), "changed a role", "signed in", "took an invitation back"} {
		if !strings.Contains(text, want) {
			t.Errorf("%q does not stand in\n%s", want, text)
		}
	}
	// A team goes whole, and its name and a password are asked for.
	coach.Do("POST", "/api/team/delete", map[string]string{"password": testenv.Password, "team": "Another"}, 422, nil)
	var gone store.Deletion
	coach.Do("POST", "/api/team/delete", map[string]string{"password": testenv.Password, "team": coach.User.Team}, 200, &gone)
	if gone.Attempts != 1 || gone.Clips != 1 || gone.Files < 3 || gone.LeftOver != 0 {
		t.Errorf("%+v", gone)
	}
	if left := h.FilesOf(clip.ID); len(left) > 0 {
		t.Errorf("left: %v", left)
	}
	coach.Do("GET", "/api/queue", nil, 401, nil)
}

// Passwords are changed, reset by a link once, and end the other sessions.
func TestPasswordsAndSessions(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	other := h.Guest(t)
	other.User = c.User
	other.SignIn()
	var list []store.Signin
	c.Do("GET", "/api/me/sessions", nil, 200, &list)
	if len(list) != 2 || list[0].Here == list[1].Here {
		t.Fatalf("%+v", list)
	}
	for _, weak := range []string{"aaaaaaaaaa", "1234567890", c.User.Email, "password123", "qwertyuiop"} {
		if raw, status := c.Try("PUT", "/api/me/password", map[string]string{"old": testenv.Password, "new": weak}); status != 422 {
			t.Errorf("%q: %d %s", weak, status, raw)
		}
	}
	fresh := "four other words now"
	c.Do("PUT", "/api/me/password", map[string]string{"old": "not that one, no", "new": fresh}, 403, nil)
	c.Do("PUT", "/api/me/password", map[string]string{"old": testenv.Password, "new": fresh}, 204, nil)
	c.Do("GET", "/api/queue", nil, 200, nil)
	other.Do("GET", "/api/queue", nil, 401, nil)
	other.Do("POST", "/api/sign-in", map[string]string{"email": c.User.Email, "password": testenv.Password}, 401, nil)
	other.Do("POST", "/api/sign-in", map[string]string{"email": c.User.Email, "password": fresh}, 200, nil)
	// Signed out on one device from another.
	c.Do("GET", "/api/me/sessions", nil, 200, &list)
	for _, s := range list {
		if !s.Here {
			c.Do("DELETE", "/api/me/sessions/"+s.ID.String(), nil, 204, nil)
		}
	}
	other.Do("GET", "/api/queue", nil, 401, nil)
	// A link handed over by an owner, once.
	var key api.Secret
	c.Do("POST", "/api/team/members/"+c.User.ID.String()+"/reset", nil, 200, &key)
	other.Do("POST", "/api/reset", map[string]string{"secret": key.Secret, "password": "1234567890"}, 422, nil)
	other.Do("POST", "/api/reset", map[string]string{"secret": key.Secret, "password": testenv.Password}, 200, nil)
	other.Do("GET", "/api/queue", nil, 200, nil)
	c.Do("GET", "/api/queue", nil, 401, nil)
	other.Do("POST", "/api/reset", map[string]string{"secret": key.Secret, "password": fresh}, 404, nil)
	// A session that nobody used for two weeks is over.
	if _, err := h.Store.DB.Exec(`UPDATE signins SET seen_at = now() - interval '15 days' WHERE user_id = $1`, c.User.ID); err != nil {
		t.Fatal(err)
	}
	other.Do("GET", "/api/queue", nil, 401, nil)
	// This server sends no letters, and says so.
	if p := said(t, h.Guest(t).Do("POST", "/api/forgot", map[string]string{"email": c.User.Email}, 403, nil)); !strings.Contains(p.Says, "owner of your team") {
		t.Errorf("%+v", p)
	}
	h.Guest(t).Do("GET", "/api/letters", nil, 403, nil)
}

// Where letters are sent, a team begins with one, and nothing tells which e-mails have
// accounts.
func TestLetters(t *testing.T) {
	t.Parallel()
	own, end := testenv.Open("demo@club.example")
	defer end()
	g := own.Guest(t)
	letter := func(to, subject string) string {
		t.Helper()
		var body string
		testenv.Until(t, "a letter to "+to, func() bool {
			var list []store.Letter
			g.Do("GET", "/api/letters", nil, 200, &list)
			for _, l := range list {
				if l.To == to && strings.Contains(l.Subject, subject) {
					body = l.Body
				}
			}
			return body != ""
		})
		return body
	}
	link := regexp.MustCompile(`/(begin#|join/|reset/)(\S+)`)
	fresh := map[string]string{"team": "New Team", "name": "New Coach", "email": "new@club.example", "password": testenv.Password}
	var me, again api.Me
	g.Do("POST", "/api/teams", fresh, 200, &me)
	if me.User != nil || !me.Sent {
		t.Fatalf("%+v", me)
	}
	token := link.FindStringSubmatch(letter("new@club.example", "Begin your team"))[2]
	g.Do("POST", "/api/teams/confirm", map[string]string{"token": token[:len(token)-4] + "abcd"}, 404, nil)
	g.Do("POST", "/api/teams/confirm", map[string]string{"token": token}, 200, &me)
	if me.User == nil || me.User.Role != store.Owner || me.User.Team != "New Team" {
		t.Fatalf("%+v", me)
	}
	own.Guest(t).Do("POST", "/api/teams", fresh, 200, &again)
	if again.User != nil || !again.Sent {
		t.Errorf("an e-mail with an account is answered otherwise: %+v", again)
	}
	letter("new@club.example", "account already")
	// Forgotten: a letter for who has an account, the same answer for who has none.
	other := own.Guest(t)
	other.Do("POST", "/api/forgot", map[string]string{"email": "nobody@club.example"}, 204, nil)
	other.Do("POST", "/api/forgot", map[string]string{"email": "New@Club.example"}, 204, nil)
	secret := link.FindStringSubmatch(letter("new@club.example", "new password"))[2]
	other.Do("POST", "/api/reset", map[string]string{"secret": secret, "password": "other good words"}, 200, nil)
	other.Do("GET", "/api/queue", nil, 200, nil)
	g.Do("GET", "/api/queue", nil, 401, nil)
	// A colleague's invitation is a letter too.
	other.Do("POST", "/api/team/invitations", map[string]string{"email": "second@club.example", "role": "assistant"}, 200, nil)
	third := own.Guest(t)
	third.Do("POST", "/api/join", map[string]string{"invitation": link.FindStringSubmatch(letter("second@club.example", "invites you"))[2], "name": "Second", "email": "second@club.example", "password": testenv.Password}, 200, &me)
	if me.User.Role != store.Assistant || me.User.Team != "New Team" {
		t.Errorf("%+v", me.User)
	}
	var list []store.Letter
	g.Do("GET", "/api/letters", nil, 200, &list)
	for _, l := range list {
		if l.To == "nobody@club.example" {
			t.Error("a letter to somebody without an account")
		}
	}
}

// Who may begin a team is the operator's to say.
func TestSignUp(t *testing.T) {
	t.Parallel()
	fresh := map[string]string{"team": "T", "name": "N", "email": "begin@club.example", "password": testenv.Password}
	for _, how := range []account.SignUp{account.Invitation, account.Closed} {
		_, p := behind(t, alone(t), func(c *app.Config) { c.SignUp = how })
		p.Do("POST", "/api/teams", fresh, 403, nil)
		var me api.Me
		if p.Do("GET", "/api/me", nil, 200, &me); me.SignUp != string(how) {
			t.Errorf("%+v", me)
		}
	}
	taken := h.Coach(t)
	fresh["email"] = taken.User.Email
	h.Guest(t).Do("POST", "/api/teams", fresh, 422, nil)
}

// A secret is exchanged without anybody losing a password.
func TestTheSecretChanges(t *testing.T) {
	t.Parallel()
	h := alone(t)
	c := h.Coach(t)
	a, p := behind(t, h, func(c *app.Config) { c.Secret, c.SecretBefore = "another secret of 32 letters, new", c.Secret })
	if res := from(t, p, "198.51.100.1", "POST", "/api/sign-in", map[string]string{"email": c.User.Email, "password": testenv.Password}); res.StatusCode != 200 {
		t.Fatalf("with the secret before: %d", res.StatusCode)
	}
	// From now on the old secret is not needed for this account.
	_, q := behind(t, h, func(c *app.Config) { c.Secret = "another secret of 32 letters, new" })
	if res := from(t, q, "198.51.100.1", "POST", "/api/sign-in", map[string]string{"email": c.User.Email, "password": testenv.Password}); res.StatusCode != 200 {
		t.Errorf("with the new one alone: %d", res.StatusCode)
	}
	never := h.Coach(t)
	if res := from(t, q, "198.51.100.1", "POST", "/api/sign-in", map[string]string{"email": never.User.Email, "password": testenv.Password}); res.StatusCode != 401 {
		t.Errorf("one that never signed in meanwhile: %d", res.StatusCode)
	}
	if u, err := a.Store.UserByID(context.Background(), c.User.ID); err != nil || u.Password == c.User.Password {
		t.Error("the password is kept as before")
	}
}

// Numbers for the operator, and what is alive and what is ready.
func TestMetrics(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	worked(t, c)
	// What is refused is not counted as broken.
	h.Guest(t).Do("GET", "/api/nothing-here", nil, 401, nil)
	c.Do("GET", "/api/nothing-here", nil, 404, nil)
	rec := ""
	scrape := func() string {
		w := httptest.NewRecorder()
		h.Metrics.Handler().ServeHTTP(w, httptest.NewRequest("GET", "/metrics", nil))
		return w.Body.String()
	}
	// A job is noted as completed just after its clip says so.
	testenv.Until(t, "the import is completed", func() bool {
		rec = scrape()
		return strings.Contains(rec, `neokinema_jobs{kind="import_clip",state="completed"}`)
	})
	for _, want := range []string{`neokinema_request_seconds_count{method="GET",route="/api/clips/:id",status="200"}`, `neokinema_ffmpeg_runs_total{end="good"}`, `neokinema_request_seconds_count{method="GET",route="/api/*",status="401"}`, `neokinema_request_seconds_count{method="GET",route="/api/*",status="404"}`, "neokinema_media_bytes", "neokinema_disk_free_bytes", "neokinema_database_up 1", "neokinema_servers 1"} {
		if !strings.Contains(rec, want) {
			t.Errorf("%s is missing", want)
		}
	}
	if strings.Contains(rec, c.User.TeamID.String()) {
		t.Error("ids are told")
	}
}

// Who has just begun an event is judged by wider bands, and the year is held to what can be.
func TestWhoHasJustBegun(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	who := testenv.Athlete("Kaisa Holm")
	who.Begun, who.Aim = store.Begun{"discus": who.Born - 3}, "two clean turns"
	if raw, status := c.Try("POST", "/api/athletes", who); status != 422 || !strings.Contains(said(t, raw).Says, "Discus cannot have been begun") {
		t.Errorf("begun before birth: %d %s", status, raw)
	}
	who.Begun = store.Begun{"stone": 2020}
	if raw, status := c.Try("POST", "/api/athletes", who); status != 422 || !strings.Contains(said(t, raw).Says, "no event “stone”") {
		t.Errorf("an event that nobody has: %d %s", status, raw)
	}
	who.Begun = store.Begun{"discus": 2025}
	var a store.Athlete
	c.Do("POST", "/api/athletes", who, 200, &a)
	if a.Begun["discus"] != 2025 || a.Aim != who.Aim {
		t.Errorf("kept as %+v", a)
	}
	steps, turns := 9, 4
	n := store.NewAttempt{AthleteID: a.ID, Event: "discus", DoneOn: "2026-04-02", Condition: "fresh", Setting: "practice", RunUp: &steps, Turns: &turns, Goal: "38 m"}
	var at store.Attempt
	c.Do("POST", "/api/attempts", n, 200, &at)
	if at.RunUp == nil || *at.RunUp != 9 || at.Turns == nil || *at.Turns != 4 || at.Goal != "38 m" {
		t.Errorf("kept as %+v", at)
	}
	band := func() float64 {
		cp, _ := sheetOf(c, at.ID).Model.Checkpoint("double_time")
		return *cp.Band.Hi
	}
	wide := band()
	who.Begun = store.Begun{"discus": 2019}
	c.Do("PUT", "/api/athletes/"+a.ID.String(), who, 200, &a)
	if usual := band(); usual >= wide {
		t.Errorf("double support up to %g for who has thrown for years, and %g for who has just begun", usual, wide)
	}
}

package store

import (
	"context"
	"encoding/json"
	"log/slog"
	"testing"

	"neokinema/internal/testdb"
)

// The newest steps go back and come again, and a team's stamp follows just what its
// queue shows.
func TestMigrationsGoBack(t *testing.T) {
	ctx := context.Background()
	url, remove, err := testdb.New(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer remove()
	s, err := Open(ctx, url, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if have, known, err := s.Schema(ctx); err != nil || have != known || int(known) != KnownSchema() {
		t.Fatalf("%d of %d (%d) %v", have, known, KnownSchema(), err)
	}
	p, err := s.provider()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := p.DownTo(ctx, 6); err != nil {
		t.Fatal(err)
	}
	if _, err := p.Up(ctx); err != nil {
		t.Fatal(err)
	}
	u, err := s.AddTeam(ctx, "T", "N", "n@club.example", "x")
	if err != nil {
		t.Fatal(err)
	}
	who, err := s.AddAthlete(ctx, u.TeamID, NewAthlete{Name: "A", Born: 2000, Sex: "male", Height: 1.8, Mass: 70, FrontLeg: "left", ThrowingHand: "right", TakeoffLeg: "left"})
	if err != nil {
		t.Fatal(err)
	}
	at, err := s.AddAttempt(ctx, u.TeamID, NewAttempt{AthleteID: who.ID, Event: "shot", DoneOn: "2026-01-02", Condition: "fresh", Setting: "practice"})
	if err != nil {
		t.Fatal(err)
	}
	last, err := s.Stamp(ctx, u.TeamID)
	if err != nil || last == 0 {
		t.Fatal(last, err)
	}
	for _, c := range []struct {
		what    string
		query   string
		changes bool
	}{
		{"a revision", `UPDATE attempts SET revision = revision + 1 WHERE id = $1`, false},
		{"a mark", `UPDATE attempts SET mark = '12' WHERE id = $1`, true},
		{"a flag", `INSERT INTO work_items (team_id, attempt_id, kind, key, value) SELECT team_id, id, 'finding', 'x', '"refused"' FROM attempts WHERE id = $1`, false},
		{"a cue", `INSERT INTO work_items (team_id, attempt_id, kind, key, value) SELECT team_id, id, 'advice', 'main', '{"words":"x"}' FROM attempts WHERE id = $1`, true},
		{"a clip", `INSERT INTO clips (id, team_id, attempt_id, name, bytes, state) SELECT gen_random_uuid(), team_id, id, 'x', 1, 'waiting' FROM attempts WHERE id = $1`, true},
		{"progress", `UPDATE clips SET progress = 0.5 WHERE attempt_id = $1`, false},
		{"a state", `UPDATE clips SET state = 'ready' WHERE attempt_id = $1`, true},
		{"a summary", `INSERT INTO summaries (attempt_id, stamp, value) VALUES ($1, 'x', '{}')`, true},
		{"its end", `DELETE FROM attempts WHERE id = $1`, true},
	} {
		if _, err := s.DB.Exec(c.query, at.ID); err != nil {
			t.Fatalf("%s: %v", c.what, err)
		}
		now, err := s.Stamp(ctx, u.TeamID)
		if err != nil || (now != last) != c.changes {
			t.Errorf("after %s: %d, before %d (%v)", c.what, now, last, err)
		}
		last = now
	}
}

// What was stored under older names is found under those of today: decisions, revisions
// that can still be undone, contacts of a clip.
func TestOlderNamesAreBroughtForward(t *testing.T) {
	ctx := context.Background()
	url, remove, err := testdb.New(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer remove()
	s, err := Open(ctx, url, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	p, err := s.provider()
	if err != nil {
		t.Fatal(err)
	}
	u, err := s.AddTeam(ctx, "T", "N", "o@club.example", "x")
	if err != nil {
		t.Fatal(err)
	}
	who, err := s.AddAthlete(ctx, u.TeamID, NewAthlete{Name: "A", Born: 2000, Sex: "male", Height: 1.8, Mass: 70, FrontLeg: "left", ThrowingHand: "right", TakeoffLeg: "left"})
	if err != nil {
		t.Fatal(err)
	}
	at, err := s.AddAttempt(ctx, u.TeamID, NewAttempt{AthleteID: who.ID, Event: "shot", DoneOn: "2026-01-02", Condition: "fresh", Setting: "practice"})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := p.DownTo(ctx, 8); err != nil {
		t.Fatal(err)
	}
	for kind, value := range map[string]string{"mark": `{"answer":"no"}`, "course": `{"state":"done"}`, "eye": `"not taken"`, "note": `"a show of marks"`} {
		if _, err := s.DB.Exec(`INSERT INTO work_items (team_id, attempt_id, kind, key, value) VALUES ($1, $2, $3, 'k', $4)`, u.TeamID, at.ID, kind, value); err != nil {
			t.Fatal(err)
		}
	}
	edits := `[{"kind":"mark","key":"k","value":{"answer":"no"}},{"kind":"track","key":"left_knee","over":true},{"kind":"note","key":"athlete","value":"the mark, over"},{"kind":"eye","key":"main","before":"not taken"}]`
	if _, err := s.DB.Exec(`INSERT INTO revisions (attempt_id, n, user_id, edits) VALUES ($1, 1, $2, $3)`, at.ID, u.ID, edits); err != nil {
		t.Fatal(err)
	}
	if _, err := p.Up(ctx); err != nil {
		t.Fatal(err)
	}
	got := map[string]string{}
	items, err := rows[struct{ Kind, Value string }](ctx, s.DB, `SELECT kind, value::text AS value FROM work_items WHERE attempt_id = $1`, at.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, i := range items {
		got[i.Kind] = i.Value
	}
	for kind, value := range map[string]string{"answer": `{"answer": "no"}`, "followup": `{"state": "done"}`, "outcome": `"not_taken"`, "note": `"a show of marks"`} {
		if got[kind] != value {
			t.Errorf("%s is %s, not %s", kind, got[kind], value)
		}
	}
	raw, err := get[string](ctx, s.DB, "revision", `SELECT edits::text FROM revisions WHERE attempt_id = $1`, at.ID)
	if err != nil {
		t.Fatal(err)
	}
	var list []struct {
		Kind     string
		Override bool
		Value    json.RawMessage
		Before   json.RawMessage
	}
	if err := json.Unmarshal([]byte(raw), &list); err != nil {
		t.Fatal(err)
	}
	if list[0].Kind != "answer" || !list[1].Override || string(list[2].Value) != `"the mark, over"` || list[3].Kind != "outcome" || string(list[3].Before) != `"not_taken"` {
		t.Errorf("%s", raw)
	}
}

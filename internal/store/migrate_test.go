package store

import (
	"context"
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

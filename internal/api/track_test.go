package api_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/trackside"
	"neokinema/internal/planning"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// phone writes notes of tries down as a phone does.
type phone struct {
	name string
	at   int64
	seen map[string]string
	kept []trackside.Note
}

func newPhone(name string) *phone {
	return &phone{name: name, at: time.Now().UnixMilli(), seen: map[string]string{}}
}

func (p *phone) write(try, athlete uuid.UUID, f trackside.Field, value string) {
	p.at += 1000
	key := try.String() + string(f)
	p.kept = append(p.kept, trackside.Note{ID: uuid.NewString(), Phone: p.name, Try: try.String(), Athlete: athlete.String(), Event: "hammer", Day: time.Now().Format(time.DateOnly), At: p.at, Field: f, Value: value, Before: p.seen[key]})
	p.seen[key] = value
}

func join(c *testenv.Client, list []trackside.Note) (out store.JoinedNotes) {
	c.T.Helper()
	c.Do("POST", "/api/track/notes", map[string]any{"notes": list}, 200, &out)
	return out
}

func TestWhatPhonesWroteBecomesAttempts(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var anna store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Anna Holm"), 200, &anna)
	a, b := newPhone("A"), newPhone("B")
	one, two := uuid.New(), uuid.New()
	a.write(one, anna.ID, trackside.Made, "")
	a.write(one, anna.ID, trackside.Words, "Wait for the ball")
	a.write(one, anna.ID, trackside.Mark, "58.20")
	a.write(one, anna.ID, trackside.Kept, "kept")
	a.write(one, anna.ID, trackside.Felt, "4")
	a.write(one, anna.ID, trackside.Wind, "-0.4")
	a.write(one, anna.ID, trackside.Roof, "yes")
	b.at += 60_000
	b.write(two, anna.ID, trackside.Made, "")
	b.write(two, anna.ID, trackside.Foul, "over the rim")
	b.write(one, anna.ID, trackside.Mark, "58.02")
	got := join(c, a.kept)
	if len(got.Taken) != 7 || len(got.Refused) != 0 || len(got.Conflicts) != 0 {
		t.Errorf("%+v", got)
	}
	got = join(c, b.kept)
	if len(got.Taken) != 3 || len(got.Conflicts) != 1 || got.Conflicts[0].Stands != "58.02" || got.Conflicts[0].Other != "58.20" {
		t.Errorf("%+v", got)
	}
	// Sent again nothing is doubled.
	join(c, append(a.kept, b.kept...))
	at, _ := c.Now(one)
	if at.Mark != "58.02" || at.Kept != "kept" || at.Words != "Wait for the ball" || at.Felt == nil || *at.Felt != 4 || at.Wind == nil || *at.Wind != -0.4 || at.State != "logged" || !at.Indoor || at.TakenAt == nil {
		t.Errorf("%+v", at)
	}
	if foul, _ := c.Now(two); foul.Foul != "over the rim" {
		t.Errorf("%+v", foul)
	}
	// What is changed at the desk stands against a later note of a phone, and that is told.
	at.Mark = "58.11"
	c.Do("PUT", "/api/attempts/"+one.String(), at.NewAttempt, 200, nil)
	n := len(a.kept)
	a.write(one, anna.ID, trackside.Mark, "58.21")
	a.write(one, anna.ID, trackside.Felt, "5")
	got = join(c, a.kept[n:])
	desk := false
	for _, x := range got.Conflicts {
		desk = desk || x.Stands == "58.11" && x.Other == "58.21"
	}
	if at, _ = c.Now(one); at.Mark != "58.11" || *at.Felt != 5 || !desk {
		t.Errorf("%+v, %+v", at, got.Conflicts)
	}
	// What was deleted at the desk is not made again, and the note comes back with the reason.
	c.Do("DELETE", "/api/attempts/"+two.String(), nil, 200, nil)
	n = len(b.kept)
	b.write(two, anna.ID, trackside.Felt, "2")
	if got = join(c, b.kept[n:]); len(got.Refused) != 1 || !strings.Contains(got.Refused[0].Why, "deleted") || got.Refused[0].Note.Value != "2" {
		t.Errorf("%+v", got)
	}
	// A try that was none is gone.
	none := uuid.New()
	n = len(a.kept)
	a.write(none, anna.ID, trackside.Made, "")
	a.write(none, anna.ID, trackside.Made, "gone")
	join(c, a.kept[n:])
	if _, there := c.Now(none); there {
		t.Error("a try that was none is there")
	}
	// The bundle has the day's notes, and the ways to say things.
	var tr planning.Track
	c.Do("GET", "/api/track", nil, 200, &tr)
	if len(tr.Notes) < 8 || len(tr.People) != 1 || !tr.People[0].Film || len(tr.Joined.Tries) == 0 || len(tr.Safety) == 0 {
		t.Errorf("%+v", tr)
	}
}

// A bad note fails alone; nobody writes into another team.
func TestBadNotesFailAlone(t *testing.T) {
	t.Parallel()
	c, other := h.Coach(t), h.Coach(t)
	var anna, foreign store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Anna Holm"), 200, &anna)
	other.Do("POST", "/api/athletes", testenv.Athlete("Foreign"), 200, &foreign)
	a := newPhone("A")
	good, bad := uuid.New(), uuid.New()
	a.write(good, anna.ID, trackside.Made, "")
	a.write(bad, foreign.ID, trackside.Made, "")
	a.write(good, anna.ID, trackside.Felt, "9")
	a.write(good, anna.ID, trackside.Mark, "12.00")
	got := join(c, a.kept)
	if len(got.Taken) != 2 || len(got.Refused) != 2 {
		t.Errorf("%+v", got)
	}
	if at, _ := c.Now(good); at.Mark != "12.00" {
		t.Errorf("%+v", at)
	}
	if _, there := other.Now(bad); there {
		t.Error("a try in another team")
	}
	// The id of another team's attempt makes nothing and changes nothing.
	theirs := other.Attempt()
	b := newPhone("B")
	b.write(theirs.ID, anna.ID, trackside.Made, "")
	b.write(theirs.ID, anna.ID, trackside.Mark, "99.99")
	if got = join(c, b.kept); len(got.Taken) != 0 || len(got.Refused) != 2 {
		t.Errorf("%+v", got)
	}
	if at, _ := other.Now(theirs.ID); at.Mark == "99.99" {
		t.Error("written into another team")
	}
	said(t, c.Do("POST", "/api/track/notes", map[string]any{"notes": []int{}}, 422, nil))
}

// Two phones without a network, three athletes, forty tries: in whatever pieces and order they join,
// the team has all of it.
func TestASessionJoinsInAnyOrder(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(22, 77))
	for round := range 2 {
		c := h.Coach(t)
		lost, err := testenv.JoinSession(c, r, 40, 3, 2)
		if err != nil {
			t.Fatal(err)
		}
		if len(lost) > 0 {
			t.Errorf("round %d: %v", round, lost)
		}
	}
}

// Words that were kept come first the next time.
func TestWordsThatWorkAreOfferedFirst(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "advice", Key: "main", Value: workspace.Value(store.Advice{Fault: "x", Focus: "outward", Words: "Push the track away", Target: "front_knee_set"})}}}, 200, nil)
	p := newPhone("A")
	say := func(words string, kept, of int) {
		for i := range of {
			id := uuid.New()
			for _, x := range [][2]string{{"made", ""}, {"words", words}, {"kept", map[bool]string{true: "kept", false: "lost"}[i < kept]}} {
				p.write(id, at.AthleteID, trackside.Field(x[0]), x[1])
			}
		}
	}
	say("Push the track away", 1, 6)
	say("Long first step", 5, 6)
	for i := range p.kept {
		p.kept[i].Event = "sprint-start"
	}
	join(c, p.kept)
	var tr planning.Track
	c.Do("GET", "/api/track", nil, 200, &tr)
	if len(tr.People) != 1 || len(tr.People[0].Cues) != 1 {
		t.Fatalf("%+v", tr.People)
	}
	w := tr.People[0].Cues[0].Wordings
	if len(w) != 2 || w[0].Words != "Long first step" || w[0].Kept != 5 || w[0].Of != 6 || w[1].Kept != 1 {
		t.Errorf("%s", fmt.Sprintf("%+v", w))
	}
}

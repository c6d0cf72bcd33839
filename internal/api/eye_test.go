package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/eye"
	"neokinema/internal/api"
	"neokinema/internal/drills"
	"neokinema/internal/planning"
	"neokinema/internal/seeing"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/simcam/moving"
)

// A set from the bank, answered: pictures, judgements, what is kept, and what is refused.
func TestASetForTheEye(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	if err := h.App.Seeing.Fill(t.Context(), 3); err != nil {
		t.Fatal(err)
	}
	var set seeing.Set
	c.Do("POST", "/api/eye/sets", map[string]any{"kinds": []eye.Kind{eye.There, eye.Angle}, "n": 3}, 200, &set)
	if len(set.Exercises) == 0 || set.Bank < 3 || set.Of < set.Scenes {
		t.Fatalf("%+v", set)
	}
	for _, x := range set.Exercises {
		if x.Kind != eye.There && x.Kind != eye.Angle {
			t.Errorf("%s was not asked for", x.Kind)
		}
		for _, s := range x.Clips {
			if pic := c.Do("GET", "/api/eye/clips/"+s.Clip, nil, 200, nil); string(pic[:3]) != "\xff\xd8\xff" {
				t.Errorf("%s has no pictures", s.Clip)
			}
		}
	}
	x := set.Exercises[0]
	given := "90"
	if len(x.Choices) > 0 {
		given = x.Choices[0].ID
	}
	one := seeing.Answered{ID: uuid.New(), Exercise: x.ID, Said: given, Took: 4000}
	var j, again seeing.Judgement
	c.Do("POST", "/api/eye/answers", one, 200, &j)
	c.Do("POST", "/api/eye/answers", one, 200, &again)
	if j.Truth == "" || j.Truth != again.Truth || j.Watch == "" {
		t.Errorf("%+v", j)
	}
	var e seeing.Eye
	if c.Do("GET", "/api/eye", nil, 200, &e); e.Answers != 1 {
		t.Errorf("sent twice, counted %d times", e.Answers)
	}
	// Nobody sees another's.
	if h.Coach(t).Do("GET", "/api/eye", nil, 200, &e); e.Answers != 0 {
		t.Errorf("a stranger's eye: %+v", e)
	}
	for name, bad := range map[string]struct {
		path   string
		body   any
		status int
		says   string
	}{
		"no such exercise": {"/api/eye/answers", seeing.Answered{ID: uuid.New(), Exercise: "there/nobody", Said: "yes"}, http.StatusNotFound, "Begin a new set"},
		"no answer":        {"/api/eye/answers", seeing.Answered{ID: uuid.New(), Exercise: x.ID, Said: "banana"}, http.StatusUnprocessableEntity, ""},
		"no such event":    {"/api/eye/sets", map[string]any{"events": []string{"chess"}}, http.StatusUnprocessableEntity, "no event"},
		"too many":         {"/api/eye/sets", map[string]any{"n": 500}, http.StatusUnprocessableEntity, "at most"},
	} {
		if p := said(t, c.Do("POST", bad.path, bad.body, bad.status, nil)); !strings.Contains(p.Says, bad.says) {
			t.Errorf("%s: %s", name, p.Says)
		}
	}
	h.Guest(t).Do("POST", "/api/eye/sets", map[string]any{}, http.StatusUnauthorized, nil)
}

// An athlete's account gets five of the own events, with what the cue is about among them.
func TestFiveForAnAthlete(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	if err := h.App.Seeing.Fill(t.Context(), 3); err != nil {
		t.Fatal(err)
	}
	at := c.Attempt()
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "advice", Key: "main", Value: workspace.Value(store.Advice{Fault: "S1", Focus: "outward", Words: "Hands carry", Target: "shoulder_hand"})}}}, 200, nil)
	c.Do("PUT", "/api/attempts/"+at.ID.String()+"/state", map[string]string{"state": "sent"}, 200, nil)
	var key api.Secret
	c.Do("POST", "/api/athletes/"+at.AthleteID.String()+"/invitations", nil, 200, &key)
	a := h.Guest(t)
	a.Do("POST", "/api/join", map[string]string{"invitation": key.Secret, "email": "five" + at.ID.String()[:8] + "@club.example", "password": "long enough words"}, 200, nil)
	var set seeing.Set
	a.Do("POST", "/api/eye/sets", map[string]any{"events": []string{"hammer"}, "n": 20}, 200, &set)
	about := false
	for _, x := range set.Exercises {
		if x.Event != "sprint-start" {
			t.Errorf("%s is another event", x.ID)
		}
		about = about || x.About == "Shoulders too far over the line in set"
	}
	if len(set.Exercises) == 0 || len(set.Exercises) > 5 || !about {
		t.Errorf("%+v", set)
	}
	// The coach sees what came of it when both want it, and no longer than that.
	x := set.Exercises[0]
	given := "90"
	if len(x.Choices) > 0 {
		given = x.Choices[0].ID
	}
	a.Do("POST", "/api/eye/answers", seeing.Answered{ID: uuid.New(), Exercise: x.ID, Said: given}, 200, nil)
	path := "/api/athletes/" + at.AthleteID.String() + "/eye"
	for _, s := range []struct{ asked, agreed bool }{{false, false}, {true, false}, {false, true}, {true, true}, {true, false}} {
		var got, mine seeing.Shared
		c.Do("PUT", path, map[string]bool{"asked": s.asked}, 200, nil)
		a.Do("PUT", "/api/eye/sharing", map[string]bool{"agreed": s.agreed}, 204, nil)
		c.Do("GET", path, nil, 200, &got)
		if a.Do("GET", "/api/eye/sharing", nil, 200, &mine); mine.Asked != s.asked || mine.Agreed != s.agreed {
			t.Errorf("%+v: the athlete is told %+v", s, mine)
		}
		if both := s.asked && s.agreed; (got.Eye != nil) != both || both && got.Eye.Answers != 1 {
			t.Errorf("%+v: the coach sees %+v", s, got.Eye)
		}
	}
	said(t, c.Do("PUT", "/api/eye/sharing", map[string]bool{"agreed": true}, http.StatusUnprocessableEntity, nil))
}

// Drills with their figures and cards; what is none is told.
func TestDrillsAreServed(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var list []drills.Drill
	if c.Do("GET", "/api/drills", nil, 200, &list); len(list) < 100 {
		t.Fatalf("%d drills", len(list))
	}
	for _, d := range list[:4] {
		var f moving.Drawn
		if c.Do("GET", "/api/drills/"+d.ID+"/figure", nil, 200, &f); f.Frames < moving.Rate || len(f.Points["left_knee"]) != 2*f.Frames {
			t.Errorf("%s: %d frames", d.Name, f.Frames)
		}
		card := text(t, c.Do("GET", "/api/drills/"+d.ID+"/card.pdf?paper=Letter", nil, 200, nil))
		for _, want := range []string{d.Says, "You should feel", "Stop when", "Pain ends a session"} {
			if !strings.Contains(card, want) {
				t.Errorf("the card of %s lacks %q:\n%s", d.Name, want, card)
			}
		}
	}
	said(t, c.Do("GET", "/api/drills/none/figure", nil, http.StatusNotFound, nil))
	said(t, c.Do("GET", "/api/drills/none/card.pdf", nil, http.StatusNotFound, nil))
}

// A coach puts an athlete on a rung, moves it, takes the ladder away; nobody else's athletes, and no rung
// that there is not. An archive has it.
func TestLaddersAreClimbed(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: at.AthleteID, Event: "hammer", DoneOn: "2026-05-02", Setting: "practice", Condition: "fresh"}, 200, nil)
	path := "/api/athletes/" + at.AthleteID.String() + "/ladders"
	var list []planning.Standing
	if c.Do("GET", path, nil, 200, &list); len(list) != 1 || list[0].Event != "hammer" || list[0].Rung != -1 || len(list[0].Read) != len(list[0].Rungs) {
		t.Fatalf("%+v", list)
	}
	put := func(rung int) map[string]any { return map[string]any{"ladder": list[0].ID, "rung": rung} }
	if c.Do("PUT", path, put(2), 200, &list); list[0].Rung != 2 || list[0].Since == "" {
		t.Errorf("%+v", list[0])
	}
	said(t, c.Do("PUT", path, put(20), http.StatusUnprocessableEntity, nil))
	said(t, c.Do("PUT", path, map[string]any{"ladder": "to-the-moon", "rung": 0}, http.StatusNotFound, nil))
	said(t, h.Coach(t).Do("PUT", path, put(1), http.StatusNotFound, nil))
	into := h.Coach(t)
	into.Do("POST", "/api/team/import", c.Do("GET", "/api/team/export.zip", nil, 200, nil), 200, nil)
	var people []store.Athlete
	into.Do("GET", "/api/athletes", nil, 200, &people)
	for _, p := range people {
		if into.Do("GET", "/api/athletes/"+p.ID.String()+"/ladders", nil, 200, &list); len(list) == 1 && list[0].Rung != 2 {
			t.Errorf("after an archive: %+v", list[0])
		}
	}
	if c.Do("PUT", path, put(-1), 200, &list); list[0].Rung != -1 {
		t.Errorf("%+v", list[0])
	}
}

// What cannot be drawn as it should be says why.
func TestGhostsThatCannotBeDrawn(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	path := "/api/attempts/" + at.ID.String() + "/ghost?fault="
	if p := said(t, c.Do("GET", path+"S2", nil, http.StatusUnprocessableEntity, nil)); !strings.Contains(p.Says, "no clip yet") {
		t.Errorf("%s", p.Says)
	}
	said(t, c.Do("GET", path+"S2&by=9", nil, http.StatusUnprocessableEntity, nil))
	said(t, h.Coach(t).Do("GET", path+"S2", nil, http.StatusNotFound, nil))
}

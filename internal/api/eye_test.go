package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/eye"
	"neokinema/internal/api"
	"neokinema/internal/drills"
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

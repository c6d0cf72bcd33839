package api_test

import (
	"bytes"
	"fmt"
	"image/jpeg"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/eye"
	"neokinema/internal/api"
	"neokinema/internal/demo"
	"neokinema/internal/seeing"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// Clips of a team that were worked out are asked about: what is measured plainly in them and nothing else,
// by whoever may see them.
func TestTheTeamsOwnClipsTrainTheEye(t *testing.T) {
	t.Parallel()
	if err := h.App.Seeing.Fill(t.Context(), 3); err != nil {
		t.Fatal(err)
	}
	c := h.Coach(t)
	truth, film := startOf(t, map[string]float64{"front-knee": 122}, 1280, 720)
	at := c.Attempt()
	path := "/api/attempts/" + at.ID.String()
	clip := c.Imported(c.Upload(at.ID, "s.mp4", film, 1<<22))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), map[string]any{"capture_rate": 240, "view": "side", "direction": 1}, 200, nil)
	there := seeing.Answered{ID: uuid.New(), Exercise: "there/own-" + at.ID.String() + "-f.S2", Said: "yes"}
	ask := func(u *testenv.Client, id, said string, status int) (j seeing.Judgement) {
		t.Helper()
		u.Do("POST", "/api/eye/answers", seeing.Answered{ID: uuid.New(), Exercise: id, Said: said}, status, &j)
		return j
	}
	// Nothing is asked of what nobody has worked out, marked, or accepted.
	ask(c, there.Exercise, "yes", http.StatusNotFound)
	c.Do("POST", path+"/edits", workspace.Edits{Edits: demo.ByHand(truth, clip.ID, 0.3)}, 200, nil)
	c.Do("PUT", path+"/state", map[string]string{"state": "ready"}, 200, nil)
	ask(c, there.Exercise, "yes", http.StatusNotFound)
	var sh workspace.Workspace
	c.Do("GET", path+"/workspace", nil, 200, &sh)
	c.Do("POST", path+"/edits", workspace.Edits{Base: sh.Work.Revision, Edits: []workspace.Edit{{Kind: "finding", Key: "S2", Value: workspace.Value("accepted")}}}, 200, nil)

	if j := ask(c, there.Exercise, "yes", 200); !j.Correct || !j.There || !strings.Contains(j.Truth, "°") || j.From != "Test Runner" || j.DoneOn == "" || j.Watch == "" || j.Twin != nil {
		t.Errorf("%+v", j)
	}
	if j := ask(c, there.Exercise, "no", 200); j.Correct {
		t.Errorf("%+v", j)
	}
	// The shoulders are where they should be.
	if j := ask(c, "there/own-"+at.ID.String()+"-f.S1", "no", 200); !j.Correct || j.There {
		t.Errorf("%+v", j)
	}
	// An angle as it was placed; the truth of the simulated athlete has 122 degrees.
	angle := "angle/own-" + at.ID.String() + "-a.front_knee_set"
	if j := ask(c, angle, "116", 200); !j.Correct || math.Abs(j.Off+6) > 4 || len(j.Lines) != 3 {
		t.Errorf("%+v", j)
	}
	if j := ask(c, angle, "150", 200); j.Correct {
		t.Errorf("%+v", j)
	}
	// A moment: the flag's frame in the pictures that are shown, every fifth of 240 a second.
	moment := "moment/own-" + at.ID.String() + "-m.td1/td1"
	j := ask(c, moment, "0", 200)
	if j.Correct || j.At < 10 {
		t.Errorf("%+v", j)
	}
	if j := ask(c, moment, strconv.Itoa(j.At), 200); !j.Correct || j.Off != 0 {
		t.Errorf("%+v", j)
	}
	sheet, err := jpeg.Decode(bytes.NewReader(c.Do("GET", "/api/eye/clips/own-"+at.ID.String()+"-f.S2", nil, 200, nil)))
	if err != nil || sheet.Bounds().Dx() != 8*360 || sheet.Bounds().Dy()%270 != 0 {
		t.Fatalf("%v, %v", sheet, err)
	}

	// They are among a set once drawn clips have shown what is meant, and only for who wants them.
	owned := func(u *testenv.Client, own bool) (n int) {
		t.Helper()
		var set seeing.Set
		u.Do("POST", "/api/eye/sets", seeing.Wish{N: 8, Own: own}, 200, &set)
		for _, x := range set.Exercises {
			if x.Own {
				n++
				u.Do("GET", "/api/eye/clips/"+x.Clips[0].Clip, nil, 200, nil)
			}
		}
		return n
	}
	if n := owned(c, true); n != 0 {
		t.Errorf("%d before twenty answers", n)
	}
	practise := func(u store.User, n int) {
		t.Helper()
		for k := range n {
			a := store.EyeAnswer{ID: uuid.New(), Exercise: fmt.Sprint("demo", k), Kind: eye.There, Event: "shot", Fault: "G2", View: "side", Size: 1, There: true, Yes: true, Correct: true, At: time.Now()}
			if err := h.Store.AddEyeAnswer(t.Context(), u.TeamID, u.ID, a); err != nil {
				t.Fatal(err)
			}
		}
	}
	practise(c.User, 20)
	if n := owned(c, true); n != 1 {
		t.Errorf("%d of one worked out attempt", n)
	}
	if n := owned(c, false); n != 0 {
		t.Errorf("%d against the wish", n)
	}
	// What is true of an own clip was measured, not known: it trains and measures nobody.
	var e seeing.Eye
	c.Do("GET", "/api/eye", nil, 200, &e)
	if slices.ContainsFunc(e.Faults, func(f seeing.Fault) bool { return f.Event == "sprint-start" }) || len(e.Offs) > 0 || e.Answers != 27 {
		t.Errorf("%+v", e)
	}

	// Another team's are nobody's; the athlete sees the own ones that were sent, and no others'.
	ask(h.Coach(t), there.Exercise, "yes", http.StatusNotFound)
	said(t, h.Coach(t).Do("GET", "/api/eye/clips/own-"+at.ID.String()+"-f.S2", nil, http.StatusNotFound, nil))
	athlete := func(of uuid.UUID) *testenv.Client {
		t.Helper()
		var key api.Secret
		c.Do("POST", "/api/athletes/"+of.String()+"/invitations", nil, 200, &key)
		a := h.Guest(t)
		a.Do("POST", "/api/join", map[string]string{"invitation": key.Secret, "email": "own" + of.String()[:8] + "@club.example", "password": "long enough words"}, 200, nil)
		return a
	}
	she := athlete(at.AthleteID)
	ask(she, there.Exercise, "yes", http.StatusNotFound)
	c.Do("PUT", path+"/state", map[string]string{"state": "sent"}, 200, nil)
	if j := ask(she, there.Exercise, "yes", 200); !j.Correct {
		t.Errorf("%+v", j)
	}
	other := c.Attempt()
	ask(athlete(other.AthleteID), there.Exercise, "yes", http.StatusNotFound)

	// A minor without consent is shown to nobody else.
	var people []store.Athlete
	c.Do("GET", "/api/athletes", nil, 200, &people)
	who := people[slices.IndexFunc(people, func(a store.Athlete) bool { return a.ID == at.AthleteID })]
	who.Born = time.Now().Year() - 14
	c.Do("PUT", "/api/athletes/"+at.AthleteID.String(), who.NewAthlete, 200, nil)
	ask(c, there.Exercise, "yes", http.StatusNotFound)
	if n := owned(c, true); n != 0 {
		t.Errorf("%d of a minor without consent", n)
	}
	ask(she, there.Exercise, "yes", 200)
	on := "2026-01-02"
	who.ConsentBy, who.ConsentOn = "her mother", &on
	c.Do("PUT", "/api/athletes/"+at.AthleteID.String(), who.NewAthlete, 200, nil)
	ask(c, there.Exercise, "yes", 200)
	for _, bad := range []string{"there/own-", "there/own-" + at.ID.String(), "there/own-" + at.ID.String() + "-f.S99", "cause/own-" + at.ID.String() + "-f.S2", "larger/own-" + at.ID.String() + "-f.S2/own-" + at.ID.String() + "-f.S2", "angle/own-" + at.ID.String() + "-f.S2", "moment/own-" + at.ID.String() + "-m.td1/td9"} {
		ask(c, bad, "yes", http.StatusNotFound)
	}
}

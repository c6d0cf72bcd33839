package api_test

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/workshop"
	"neokinema/core/workshop/calls"
	"neokinema/internal/api"
	"neokinema/internal/feedback"
	"neokinema/internal/logbook"
	"neokinema/internal/share"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

func workshopOf(c *testenv.Client, athlete uuid.UUID, query string) (w logbook.Workshop) {
	c.T.Helper()
	c.Do("GET", "/api/athletes/"+athlete.String()+"/workshop"+query, nil, 200, &w)
	return w
}

var someone = body.Person{Sex: body.Female, Height: 1.72}

// What was typed into the log fills the workshop: bests by implement and technique, short and full
// run-ups, wind, goal, and what the card says.
func TestTheLogFillsTheWorkshop(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Runa Vik"), 200, &a)
	enter := func(event, implement, session, day string, lines ...string) {
		in := logbook.SessionEntry{AthleteID: a.ID, Event: event, DoneOn: day, Session: session, Implement: implement, Setting: "practice", Condition: "fresh"}
		for _, l := range lines {
			in.Lines = append(in.Lines, logbook.Typed{Text: l})
		}
		c.Do("POST", "/api/sessions", in, 200, nil)
	}
	enter("shot", "shot 4 kg", "Full", "2026-03-02", "11.20", "x foot", "11.80")
	enter("shot", "shot 4 kg", "Standing", "2026-03-03", "10.10", "10.35")
	enter("shot", "shot 3 kg", "Light", "2026-03-05", "13.10")
	enter("shot", "shot 5 kg", "Heavy", "2026-03-06", "10.20")
	enter("shot", "shot 6 kg", "Long ago", "2025-06-06", "9.20")
	w := workshopOf(c, a.ID, "")
	if w.Event != "shot" || !slices.Equal(w.Events, []string{"shot"}) {
		t.Errorf("event %q of %v", w.Event, w.Events)
	}
	if !slices.Equal(w.Lists["masses"].Values, []float64{3, 4, 5}) || !slices.Equal(w.Lists["marks"].Values, []float64{13.1, 11.8, 10.2}) {
		t.Errorf("implements %+v, %+v", w.Lists["masses"], w.Lists["marks"])
	}
	for fact, want := range map[string]float64{"mark-standing": 10.35, "mark-glide": 11.8, "body-mass": a.Mass, "body-height": a.Height, "implement-mass": 5} {
		if f := w.Facts[fact]; math.Abs(f.Value-want) > 1e-9 {
			t.Errorf("%s is %+v, want %v", fact, f, want)
		}
	}
	if _, turn := w.Facts["mark-turn"]; turn {
		t.Error("a mark with the turn that was never thrown")
	}
	q, _ := workshop.Find("implements")
	if got, err := workshop.Ask("implements", w.Values(q), nil); err != nil || len(got.Lines) == 0 {
		t.Errorf("implements in line: %v", err)
	}

	long := c.AttemptAt("long-jump", someone)
	wind, full, short := 1.2, 18, 10
	change := func(id uuid.UUID, mark, goal string, steps int) {
		c.Do("PUT", "/api/attempts/"+id.String(), store.NewAttempt{AthleteID: long.AthleteID, Event: "long-jump", DoneOn: "2026-04-01", Setting: "practice", Condition: "fresh", Mark: mark, Goal: goal, Wind: &wind, RunUp: &steps}, 200, nil)
	}
	change(long.ID, "6.10 m", "6.30 m", full)
	var second store.Attempt
	c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: long.AthleteID, Event: "long-jump", DoneOn: "2026-04-01", Setting: "practice", Condition: "fresh"}, 200, &second)
	change(second.ID, "5.40 m", "", short)
	w = workshopOf(c, long.AthleteID, "?attempt="+long.ID.String())
	for fact, want := range map[string]float64{"mark-best": 6.1, "mark-short": 5.4, "goal": 6.3, "wind": 1.2, "mark": 6.1} {
		if f := w.Facts[fact]; f.Value != want || f.From != "log" {
			t.Errorf("%s is %+v, want %v", fact, f, want)
		}
	}
	said(t, c.Do("GET", "/api/athletes/"+a.ID.String()+"/workshop?event=tiddlywinks", nil, 422, nil))
	said(t, c.Do("GET", "/api/athletes/"+a.ID.String()+"/workshop?attempt="+long.ID.String(), nil, 404, nil))
}

// A calculation is kept, changed, on the page of its attempt and off it, held against what was
// measured later, goes along in the team's archive, and goes.
func TestACalculationIsKeptAndChecked(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.AttemptAt("long-jump", someone)
	keep := store.NewCalculation{AttemptID: &at.ID, Event: "long-jump", Question: "long-parts", Name: "With more speed", OnPage: true, Chosen: 1, MadeOn: at.DoneOn,
		Variants: store.Variants{{Name: "as it is", Values: workshop.Values{"speed": {Value: 7.4, Half: 0.2}}}, {Name: "faster", Values: workshop.Values{"speed": {Value: 7.8, Half: 0.2}}}}}
	path := "/api/athletes/" + at.AthleteID.String() + "/calculations"
	var kept store.Calculation
	c.Do("POST", path, keep, 200, &kept)

	page := func() (p feedback.Page) {
		c.Do("GET", "/api/attempts/"+at.ID.String()+"/feedback", nil, 200, &p)
		return p
	}
	p := page()
	if len(p.Workshop) != 1 || p.Workshop[0].Name != "With more speed" || !strings.HasPrefix(p.Workshop[0].Lines[0], "Together: 6.") || len(p.Workshop[0].Says) == 0 {
		t.Fatalf("the page says %+v", p.Workshop)
	}
	if pdf := c.Do("GET", "/api/attempts/"+at.ID.String()+"/feedback.pdf", nil, 200, nil); !bytes.HasPrefix(pdf, []byte("%PDF")) {
		t.Errorf("%.40s", pdf)
	}

	// The athlete sees it by a link, and the words for what may hurt.
	var link share.Link
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/shares", map[string]int{"days": 3}, 200, &link)
	var shared struct{ Workshop []feedback.Reckoning }
	h.Guest(t).Do("GET", "/api/shared/"+link.Secret, nil, 200, &shared)
	if len(shared.Workshop) != 1 || !slices.Equal(shared.Workshop[0].Lines, p.Workshop[0].Lines) {
		t.Errorf("by the link: %+v", shared.Workshop)
	}

	// A mark of the next session, and one that is nowhere near.
	answer, err := kept.Answer()
	if err != nil {
		t.Fatal(err)
	}
	predicted, _ := answer.Line("total")
	for i, off := range []float64{0.1, 2} {
		var next store.Attempt
		c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: at.AthleteID, Event: "long-jump", DoneOn: fmt.Sprintf("2030-01-0%d", i+1), Setting: "practice", Condition: "fresh", Mark: fmt.Sprintf("%.2f m", predicted.Value.Value+off)}, 200, &next)
	}
	w := workshopOf(c, at.AthleteID, "?event=long-jump")
	if len(w.Calculations) != 1 || len(w.Calculations[0].Tried) != 2 {
		t.Fatalf("%+v", w.Calculations)
	}
	if tried := w.Calculations[0].Tried; tried[0].Lines[0].Within || !tried[1].Lines[0].Within || tried[0].DoneOn != "2030-01-02" {
		t.Errorf("against later marks: %+v", tried)
	}

	// What nobody can answer, what is of another event, and somebody else's attempt are not kept.
	stranger := c.AttemptAt("long-jump", someone)
	for name, change := range map[string]func(*store.NewCalculation){
		"an absurd number":  func(k *store.NewCalculation) { k.Variants[0].Values = workshop.Values{"speed": {Value: 400}} },
		"another event":     func(k *store.NewCalculation) { k.Event = "hammer" },
		"no question":       func(k *store.NewCalculation) { k.Question = "luck" },
		"no variant chosen": func(k *store.NewCalculation) { k.Chosen = 3 },
		"no attempt":        func(k *store.NewCalculation) { k.AttemptID = nil },
	} {
		bad := keep
		bad.Variants = slices.Clone(keep.Variants)
		change(&bad)
		if p := said(t, c.Do("POST", path, bad, 422, nil)); p.Says == "" {
			t.Errorf("%s: %+v", name, p)
		}
	}
	foreign := keep
	foreign.AttemptID = &stranger.ID
	said(t, c.Do("POST", path, foreign, 404, nil))

	// The archive has it, with its attempt.
	whole := c.Do("GET", "/api/team/export.zip", nil, 200, nil)
	other := h.Coach(t)
	other.Do("POST", "/api/team/import", whole, 200, nil)
	lines := other.Queue()
	var there logbook.Workshop
	for _, l := range lines {
		if w := workshopOf(other, l.AthleteID, ""); len(w.Calculations) > 0 {
			there = w
		}
	}
	if len(there.Calculations) != 1 || there.Calculations[0].AttemptID == nil || *there.Calculations[0].AttemptID == at.ID || there.Calculations[0].Variants[1].Values["speed"].Value != 7.8 {
		t.Errorf("in the other team: %+v", there.Calculations)
	}

	keep.OnPage, keep.Name = false, "Off the page"
	c.Do("PUT", "/api/calculations/"+kept.ID.String(), keep, 200, &kept)
	if got := page(); kept.Name != "Off the page" || len(got.Workshop) != 0 {
		t.Errorf("%+v, page %+v", kept, got.Workshop)
	}
	c.Do("DELETE", "/api/calculations/"+kept.ID.String(), nil, 204, nil)
	if w := workshopOf(c, at.AthleteID, ""); len(w.Calculations) != 0 {
		t.Errorf("still there: %+v", w.Calculations)
	}
	said(t, c.Do("DELETE", "/api/calculations/"+kept.ID.String(), nil, 404, nil))
	// With the attempt goes its place on the page, not the calculation.
	c.Do("POST", path, store.NewCalculation{AttemptID: &at.ID, Event: "long-jump", Question: "long-parts", Name: "stays", OnPage: true, MadeOn: at.DoneOn, Variants: store.Variants{{Name: "a", Values: workshop.Values{}}}}, 200, nil)
	c.Do("DELETE", "/api/attempts/"+at.ID.String(), nil, 200, nil)
	if w := workshopOf(c, at.AthleteID, "?event=long-jump"); len(w.Calculations) != 1 || w.Calculations[0].AttemptID != nil {
		t.Errorf("after its attempt went: %+v", w.Calculations)
	}
}

// Plans come on paper and as a picture; what is no plan is refused with a word.
func TestFieldSheetsOfTheAPI(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	ask := api.FieldSheet{AskCall: calls.AskCall{Question: "high-plan", Values: workshop.Values{"radius": {Value: 9.5, Half: 0.3}, "leg": {Value: 1}}}, Name: "Runa, today", Paper: "Letter"}
	if raw := c.Do("POST", "/api/workshop/field.pdf", ask, 200, nil); !bytes.HasPrefix(raw, []byte("%PDF")) {
		t.Errorf("%.60s", raw)
	}
	if raw := c.Do("POST", "/api/workshop/field.svg", ask, 200, nil); !bytes.Contains(raw, []byte("<svg")) || !bytes.Contains(raw, []byte("curve begins")) {
		t.Errorf("%.200s", raw)
	}
	for _, bad := range []any{
		map[string]any{"question": "high-plan", "values": map[string]any{"radius": map[string]any{"value": 900, "half": 0}}, "name": "x"},
		map[string]any{"question": "short-full", "values": map[string]any{}, "name": "x"},
		map[string]any{"question": "high-plan", "values": "none", "name": "x"},
		map[string]any{"question": "high-plan", "values": map[string]any{}, "name": "x", "paper": "A3"},
		"nothing",
	} {
		if p := said(t, c.Do("POST", "/api/workshop/field.pdf", bad, 422, nil)); len(p.Says) < 20 {
			t.Errorf("%v: %+v", bad, p)
		}
	}
	said(t, c.Do("POST", "/api/workshop/field.pdf", map[string]string{"name": strings.Repeat("x", 100_000)}, 413, nil))
}

package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"neokinema/core/season"
	"neokinema/internal/logbook"
	"neokinema/internal/planning"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

// drag takes something by the pointer from its middle to a place.
func drag(s *testenv.Screen, from string, x, y float64) {
	s.T.Helper()
	at, err := s.See(from).Shape()
	if err != nil {
		s.T.Fatal(err)
	}
	p := at.OnePointInside()
	s.Mouse.MustMoveTo(p.X, p.Y)
	s.Mouse.MustDown(proto.InputMouseButtonLeft)
	s.Mouse.MustMoveTo((p.X+x)/2, (p.Y+y)/2)
	s.Mouse.MustMoveTo(x, y)
	s.Mouse.MustUp(proto.InputMouseButtonLeft)
}

// middle is the middle of something on the screen.
func middle(s *testenv.Screen, selector string) (x, y float64) {
	s.T.Helper()
	at, err := s.See(selector).Shape()
	if err != nil {
		s.T.Fatal(err)
	}
	b := at.Box()
	return b.X + b.Width/2, b.Y + b.Height/2
}

// TestASeasonByHand: a coach enters a season, moves a competition and a day by dragging, takes both
// back, lets a day fall out, changes a rule with a reason, and types what was done.
func TestASeasonByHand(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	path := "/api/athletes/" + at.AthleteID.String() + "/season"
	view := func() (v planning.View) {
		c.Do("GET", path, nil, 200, &v)
		return v
	}
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/season/"+at.AthleteID.String(), "[data-testid=setup]")
	// Monday, Wednesday and Friday; the first competition is an A.
	for _, name := range []string{"Mon", "Wed", "Fri"} {
		s.MustElementR("[data-testid=setup] button[aria-pressed=false]", "^"+name).MustClick()
	}
	s.Button("Add a competition")
	s.See("[data-testid=meeting] [name=meeting]").MustSelectAllText().MustInput("Home final")
	s.Button("Plan this season")
	s.Until(func() bool { return !s.MustHas("[role=dialog]") && !s.MustHas("[data-scope=dialog]") }, "the form is gone")
	s.See("[data-competition='Home final']")
	v := view()
	if len(v.Outline.Competitions) != 1 || v.Outline.Competitions[0].Weight != season.A || len(v.Outline.Free) != 3 || v.Plan.Weeks[39].Block != season.Compete {
		t.Fatalf("entered: %+v", v.Outline)
	}
	first := v.Revision

	// The flag of the competition goes by the pointer to an earlier week, and back by undo.
	x, _ := middle(s, "[data-testid=weeks]")
	_, y := middle(s, "[data-competition='Home final']")
	drag(s, "[data-competition='Home final']", x, y)
	s.Until(func() bool { return view().Revision != first }, "the competition is moved")
	if on, from := view().Outline.Competitions[0].Day, v.Plan.Weeks[0].Monday; on < from+12*7 || on > from+28*7 {
		t.Errorf("the competition is on %s, dragged to the middle of the season", on)
	}
	s.Open(h.URL+"/season/"+at.AthleteID.String(), "[data-competition='Home final']")
	s.Button("^Undo$")
	s.Until(func() bool { return view().Revision == first }, "the move is undone")

	// Next week's Monday goes to Tuesday, by the pointer; Wednesday to Thursday by its button.
	monday := v.Plan.Weeks[1].Monday
	s.Open(h.URL+"/season/"+at.AthleteID.String()+"?day="+(monday+2).String(), "[data-day='"+monday.String()+"']")
	tx, ty := middle(s, "[data-day='"+(monday+1).String()+"']")
	drag(s, "[data-day='"+monday.String()+"']", tx, ty)
	s.Until(func() bool {
		o := view().Outline
		return len(o.Moves) == 1 && o.Moves[0] == season.Move{From: monday, To: monday + 1}
	}, "Monday is moved")
	// A day of another week is no place for it.
	ox, oy := middle(s, "[data-day='"+(monday+7).String()+"']")
	drag(s, "[data-day='"+(monday+4).String()+"']", ox, oy)
	s.Open(h.URL+"/season/"+at.AthleteID.String()+"?day="+(monday+2).String(), "[data-testid=day]")
	if n := len(view().Outline.Moves); n != 1 {
		t.Errorf("%d moves", n)
	}
	s.Button("The day falls out")
	s.Until(func() bool { return len(view().Outline.Lost) == 1 }, "the day falls out")
	s.Says("falls out")
	s.Button("The day is there again")
	s.Until(func() bool { return len(view().Outline.Lost) == 0 }, "the day is there again")

	// The week by keys.
	s.See("[data-testid=weeks]").MustFocus()
	s.Keyboard.MustType(input.ArrowRight)
	s.Until(func() bool {
		return s.MustEval(`() => document.querySelector("[data-testid=weeks]").getAttribute("aria-valuenow")`).Str() == "2"
	}, "the next week is chosen")

	// A rule with a reason.
	s.Button("^Rules$")
	s.See("[data-rule=taper-weeks] button").MustClick()
	s.See("[data-rule=taper-weeks] [name=value]").MustSelectAllText().MustInput("3")
	s.See("[data-rule=taper-weeks] [name=reason]").MustInput("she freshens slowly")
	s.See("[data-rule=taper-weeks] [type=submit]").MustClick()
	s.Until(func() bool { o := view().Outline; return len(o.Rules) == 1 && o.Rules[0].Value == 3 }, "the rule is another")
	s.Until(func() bool {
		return strings.Contains(s.See("[data-rule=taper-weeks]").MustText(), "she freshens slowly")
	}, "the reason is told")
	s.Keyboard.MustType(input.Escape)

	// What was done, on today.
	s.Open(h.URL+"/season/"+at.AthleteID.String(), "[data-testid=done]")
	s.See("[data-testid=done] [name=tries]").MustSelectAllText().MustInput("12")
	s.See("[data-testid=done] [name=full]").MustSelectAllText().MustInput("30")
	s.MustElementR("[data-testid=done] [role=radio]", "^7$").MustClick()
	s.See("[data-testid=done] [type=submit]").MustClick()
	s.Says("30 of 12 tries cannot have been full ones")
	s.See("[data-testid=done] [name=full]").MustSelectAllText().MustInput("4")
	s.See("[data-testid=done] [type=submit]").MustClick()
	s.See("[data-testid=load]")
	if tr := view().Trainings; len(tr) != 1 || tr[0].Tries != 12 || tr[0].Full != 4 || tr[0].Effort != 7 || tr[0].DoneOn != time.Now().Format(time.DateOnly) {
		t.Errorf("done: %+v", tr)
	}

	// The way back: without the name of who set the steps nothing is kept.
	s.Button("After an injury")
	s.See("[data-testid=way-back] [name=what]").MustInput("left calf")
	s.See("[name=step-0]").MustInput("walking")
	s.See("[name=criterion-0]").MustInput("an hour without pain")
	s.Button("Keep the steps")
	if view().Outline.Return != nil {
		t.Error("steps that nobody has set")
	}
	s.See("[name=set_by]").MustInput("Dr Vale")
	s.Button("Keep the steps")
	s.Until(func() bool { r := view().Outline.Return; return r != nil && r.SetBy == "Dr Vale" && !r.Steps[0].Full }, "the steps are kept")
	s.Says("Way back: step 1")

	// The squad's week has it too.
	s.Open(h.URL+"/squad?day="+(monday+1).String(), "[data-testid=squad] [data-athlete]")
}

// A change in a second window is told, and what is there is shown.
func TestASeasonInTwoWindows(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	path := "/api/athletes/" + at.AthleteID.String() + "/season"
	today, err := season.ParseDay(time.Now().Format(time.DateOnly))
	if err != nil {
		t.Fatal(err)
	}
	o := testenv.Outline("sprint-start")
	o.From, o.To = today.Monday(), today.Monday()+7*19
	o.Competitions[0].Day = today.Monday() + 7*18 + 5
	var v planning.View
	put := func(on int64) {
		c.Do("PUT", path, map[string]any{"revision": on, "outline": o}, 200, &v)
	}
	put(0)
	s := h.Screen(t, browser, c)
	defer s.Done()
	wed := today.Monday() + 9
	s.Open(h.URL+"/season/"+at.AthleteID.String()+"?day="+wed.String(), "[data-competition='Home meeting']")
	o.Competitions[0].Name = "Away meeting"
	put(v.Revision)
	s.Button("The day falls out")
	s.Says("changed in another window")
	s.See("[data-competition='Away meeting']")
	s.Button("The day falls out")
	s.Until(func() bool {
		var v planning.View
		c.Do("GET", path, nil, 200, &v)
		return len(v.Outline.Lost) == 1 && v.Outline.Competitions[0].Name == "Away meeting"
	}, "the change is made on what is there")
	// An assistant looks and types what was done, and plans nothing.
	helper := c.Colleague(h, store.Assistant)
	helper.Do("GET", path, nil, 200, nil)
	helper.Do("PUT", path, map[string]any{"revision": v.Revision, "outline": o}, 403, nil)
}

// TestTheSquadOnOneScreen: who hurts stands first; marks of a year are told with the chance of one, and
// what is no mark is told.
func TestTheSquadOnOneScreen(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var anna, bea store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Anna Holm"), 200, &anna)
	c.Do("POST", "/api/athletes", testenv.Athlete("Bea Lund"), 200, &bea)
	c.Do("POST", "/api/athletes/"+bea.ID.String()+"/notes", store.NewNote{Kind: "pain", NotedOn: time.Now().Format(time.DateOnly), Says: "left calf"}, 200, nil)
	in := logbook.SessionEntry{AthleteID: anna.ID, Event: "shot", DoneOn: time.Now().Format(time.DateOnly), Setting: "practice", Condition: "fresh"}
	for _, l := range []string{"11.20", "11.45", "11.02", "11.60", "11.31", "x foot", "x foot", "x foot", "x rim", "x rim"} {
		in.Lines = append(in.Lines, logbook.Typed{Text: l})
	}
	c.Do("POST", "/api/sessions", in, 200, nil)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/squad", "[data-testid=board] [data-wants]")
	if first := s.See("[data-wants]").MustText(); !strings.Contains(first, "Bea Lund") || !strings.Contains(first, "hurts: left calf") {
		t.Errorf("first stands %q", first)
	}
	s.Open(h.URL+"/athlete/"+anna.ID.String(), "[data-testid=series]")
	text := s.See("[data-under=outdoor]").MustText()
	for _, want := range []string{"best 11.60 m", "5 fouls of 10", "foot 3, rim 2", "a safe one first"} {
		if !strings.Contains(text, want) {
			t.Errorf("the series lacks %q: %q", want, text)
		}
	}
	s.See("[name=wanted]").MustInput("11.50")
	s.See("[data-testid=chance]")
	s.See("[name=wanted]").MustSelectAllText().MustInput("far")
	s.Says("is no mark")
}

package api_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/season"
	"neokinema/core/sport"
	"neokinema/internal/api"
	"neokinema/internal/logbook"
	"neokinema/internal/planning"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

type outlined struct {
	Revision int64          `json:"revision"`
	Outline  season.Outline `json:"outline"`
}

// ahead is a season of twenty weeks from this one on, with a competition in the nineteenth.
func ahead(t *testing.T, event string) season.Outline {
	t.Helper()
	today, err := season.ParseDay(time.Now().Format(time.DateOnly))
	if err != nil {
		t.Fatal(err)
	}
	o := testenv.Outline(event)
	o.From, o.To = today.Monday(), today.Monday()+7*19
	o.Competitions[0].Day = today.Monday() + 7*18 + 5
	return o
}

func TestASeasonIsKeptAndUndone(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	path := "/api/athletes/" + at.AthleteID.String() + "/season"
	var v planning.View
	c.Do("GET", path, nil, 200, &v)
	if v.Revision != 0 || v.CanUndo || len(v.Plan.Weeks) != 40 || len(v.Outline.Events) != 1 || v.Outline.Events[0] != "sprint-start" || v.Step != -1 {
		t.Errorf("nothing was entered: %+v", v.Outline)
	}
	o := ahead(t, "sprint-start")
	c.Do("PUT", path, outlined{0, o}, 200, &v)
	first := v.Revision
	if first == 0 || v.CanUndo || len(v.Plan.Weeks) != 20 || v.Plan.Weeks[18].Block != season.Compete || len(v.Plan.Weeks[0].Sessions) == 0 {
		t.Errorf("%d, %+v", first, v.Plan)
	}
	// A second window has the season as it was.
	if p := said(t, c.Do("PUT", path, outlined{0, o}, 409, nil)); !strings.Contains(p.Says, "another window") {
		t.Errorf("%s", p.Says)
	}
	o.Rules = []season.Changed{{ID: "taper-weeks", Value: 3, Reason: "she freshens slowly"}}
	o.Lost = []season.Day{v.Plan.Weeks[1].Sessions[0].Day}
	c.Do("PUT", path, outlined{first, o}, 200, &v)
	if v.Plan.Weeks[15].Block != season.Taper || !v.CanUndo || !strings.Contains(strings.Join(v.Plan.Weeks[1].Says, " "), "falls out") {
		t.Errorf("%+v", v.Plan.Weeks[15])
	}
	for _, r := range v.Rules {
		if r.ID == "taper-weeks" && (r.Now != 3 || r.Value != 2 || !r.Own || r.Reason != "she freshens slowly") {
			t.Errorf("%+v", r)
		}
	}
	c.Do("POST", path+"/undo", map[string]int64{"revision": v.Revision}, 200, &v)
	if v.Revision != first || v.CanUndo || v.Plan.Weeks[15].Block != season.Sharpen {
		t.Errorf("undone: %d %+v", v.Revision, v.Plan.Weeks[15])
	}
	if p := said(t, c.Do("POST", path+"/undo", map[string]int64{"revision": first}, 422, nil)); !strings.Contains(p.Says, "nothing to undo") {
		t.Errorf("%s", p.Says)
	}
	for want, spoil := range map[string]func(*season.Outline){
		"1 to 60 weeks":    func(o *season.Outline) { o.To += 400 },
		"within its week":  func(o *season.Outline) { o.Moves = []season.Move{{From: o.From, To: o.From + 8}} },
		"there is no rule": func(o *season.Outline) { o.Rules = []season.Changed{{ID: "luck", Value: 1, Reason: "it helps"}} },
		"named twice":      func(o *season.Outline) { o.Events = []string{"shot", "shot"} },
		"the tool sets none": func(o *season.Outline) {
			o.Return = &season.Return{What: "calf", Steps: []season.Step{{Name: "walk", Criterion: "no pain"}}}
		},
	} {
		bad := ahead(t, "sprint-start")
		spoil(&bad)
		if p := said(t, c.Do("PUT", path, outlined{first, bad}, 422, nil)); !strings.Contains(strings.ToLower(p.Says), strings.ToLower(want)) {
			t.Errorf("%s: %s", want, p.Says)
		}
	}
}

// Rules of the team hold for everybody, with their reason, until they are as they come again.
func TestRulesOfATeam(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	path := "/api/athletes/" + at.AthleteID.String() + "/season"
	rule := func() (out planning.RuleNow) {
		var v planning.View
		c.Do("GET", path, nil, 200, &v)
		for _, r := range v.Rules {
			if r.ID == "build-weeks" {
				out = r
			}
		}
		return out
	}
	c.Do("PUT", "/api/season/rules/build-weeks", map[string]any{"value": 6, "reason": "our hall closes early"}, 204, nil)
	if r := rule(); r.Now != 6 || r.Own || r.Reason != "our hall closes early" {
		t.Errorf("%+v", r)
	}
	said(t, c.Do("PUT", "/api/season/rules/build-weeks", map[string]any{"value": 99, "reason": "long"}, 422, nil))
	said(t, c.Do("PUT", "/api/season/rules/luck", map[string]any{"value": 1, "reason": "long"}, 422, nil))
	c.Do("PUT", "/api/season/rules/build-weeks", map[string]any{"value": 0, "reason": ""}, 204, nil)
	if r := rule(); r.Now != 8 || r.Reason != "" {
		t.Errorf("%+v", r)
	}
}

// What was done is typed once and sent twice; it counts for load, and towards the cue.
func TestTrainings(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "advice", Key: "main", Value: workspace.Value(store.Advice{Fault: "x", Focus: "outward", Words: "Push the track away", Target: "front_knee_set"})}}}, 200, nil)
	base := "/api/athletes/" + at.AthleteID.String()
	o := ahead(t, "sprint-start")
	c.Do("PUT", base+"/season", outlined{0, o}, 200, nil)
	id := uuid.New()
	done := store.NewTraining{DoneOn: o.From.String(), Event: "sprint-start", Kind: season.Technique, Tries: 12, Full: 4, Implements: "", Effort: 6, Minutes: 70, Felt: "light feet", AttemptID: &at.ID}
	for range 2 {
		c.Do("PUT", base+"/trainings/"+id.String(), done, 200, nil)
	}
	var v planning.View
	c.Do("GET", base+"/season", nil, 200, &v)
	if len(v.Trainings) != 1 || v.Trainings[0].Felt != "light feet" || len(v.Loads) != 1 || v.Loads[0].Load != 420 || len(v.Kept) != 1 || v.Kept[0].Done != 12 || v.Kept[0].DoneFull != 4 {
		t.Errorf("%+v %+v %+v", v.Trainings, v.Loads, v.Kept)
	}
	if len(v.Changes) != 1 || v.Changes[0].Done != 12 || v.Changes[0].Words != "Push the track away" || v.Changes[0].Kind != sport.Start {
		t.Errorf("%+v", v.Changes)
	}
	if v.Plan.Weeks[1].Change != at.ID.String() {
		t.Errorf("%+v", v.Plan.Weeks[1])
	}
	// Somebody else's id is not overwritten.
	other := c.Attempt()
	said(t, c.Do("PUT", "/api/athletes/"+other.AthleteID.String()+"/trainings/"+id.String(), store.NewTraining{DoneOn: "2026-01-02", Kind: season.Lift, Minutes: 10}, 404, nil))
	said(t, h.Coach(t).Do("DELETE", "/api/trainings/"+id.String(), nil, 404, nil))
	done.Full = 13
	if p := said(t, c.Do("PUT", base+"/trainings/"+id.String(), done, 422, nil)); !strings.Contains(p.Says, "13 of 12") {
		t.Errorf("%s", p.Says)
	}
	said(t, c.Do("PUT", base+"/trainings/"+uuid.NewString(), store.NewTraining{DoneOn: "2026-01-02", Kind: season.Lift}, 422, nil))
	// Pain pauses the change and ends full efforts.
	c.Do("POST", base+"/notes", store.NewNote{Kind: "pain", NotedOn: o.From.String(), Says: "left calf"}, 200, nil)
	v = planning.View{}
	c.Do("GET", base+"/season", nil, 200, &v)
	if v.Pain != "left calf" || v.Plan.Weeks[0].Full != 0 || v.Plan.Weeks[1].Change != "" || !strings.Contains(v.Plan.Says[0], "physician") {
		t.Errorf("%+v %v", v.Plan.Weeks[0], v.Plan.Says)
	}
	c.Do("DELETE", "/api/trainings/"+id.String(), nil, 204, nil)
}

// text is what a PDF says, by a reader of its own.
func text(t *testing.T, raw []byte) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "a.pdf")
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}

func TestSheetsAndCalendars(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	base := "/api/athletes/" + at.AthleteID.String()
	if p := said(t, c.Do("GET", base+"/season.ics", nil, 422, nil)); !strings.Contains(p.Says, "No season was entered") {
		t.Errorf("%s", p.Says)
	}
	o := ahead(t, "sprint-start")
	var v planning.View
	c.Do("PUT", base+"/season", outlined{0, o}, 200, &v)
	day := v.Plan.Weeks[2].Sessions[0].Day
	ics := string(c.Do("GET", base+"/season.ics", nil, 200, nil))
	event := func(ics string, d season.Day) string {
		_, rest, _ := strings.Cut(ics, at.AthleteID.String()+"-"+d.String())
		rest, _, _ = strings.Cut(rest, "END:VEVENT")
		return rest
	}
	if e := event(ics, day); !strings.Contains(e, "STATUS:CONFIRMED") || !strings.Contains(e, "Sprint start") {
		t.Errorf("%s", e)
	}
	if e := event(ics, day+1); !strings.Contains(e, "STATUS:CANCELLED") {
		t.Errorf("%s", e)
	}
	// A moved day: the same names, a later sequence, one cancelled and one new.
	o.Moves = []season.Move{{From: day, To: day + 1}}
	before := v.Revision
	c.Do("PUT", base+"/season", outlined{v.Revision, o}, 200, &v)
	ics = string(c.Do("GET", base+"/season.ics", nil, 200, nil))
	if a, b := event(ics, day), event(ics, day+1); !strings.Contains(a, "STATUS:CANCELLED") || !strings.Contains(b, "STATUS:CONFIRMED") || v.Revision <= before {
		t.Errorf("%s\n%s", a, b)
	}
	// By its address anybody gets the same, until it is given anew or taken back.
	guest := h.Guest(t)
	var first, second api.Secret
	c.Do("POST", base+"/calendar", nil, 200, &first)
	address := func(s api.Secret) string { return "/api/shared/" + s.Secret + "/season.ics" }
	if got := string(guest.Do("GET", address(first), nil, 200, nil)); !strings.Contains(event(got, day+1), "STATUS:CONFIRMED") {
		t.Errorf("%s", got)
	} else if !strings.Contains(got, "REFRESH-INTERVAL;VALUE=DURATION:PT6H") {
		t.Error("nothing says how often to look again")
	}
	if c.Do("GET", base+"/season", nil, 200, &v); v.Address == nil || v.Address.SeenAt == nil {
		t.Errorf("the address: %+v", v.Address)
	}
	c.Do("POST", base+"/calendar", nil, 200, &second)
	if p := said(t, guest.Do("GET", address(first), nil, 404, nil)); !strings.Contains(p.Says, "taken back") {
		t.Errorf("%s", p.Says)
	}
	guest.Do("GET", address(second), nil, 200, nil)
	c.Do("DELETE", base+"/calendar", nil, 204, nil)
	said(t, guest.Do("GET", address(second), nil, 404, nil))
	said(t, c.Do("DELETE", base+"/calendar", nil, 404, nil))
	card := text(t, c.Do("GET", base+"/card.pdf?day="+(day+1).String(), nil, 200, nil))
	for _, want := range []string{"Sprint start", "Out of the blocks", "How hard", "pain ends a session"} {
		if !strings.Contains(card, want) {
			t.Errorf("the card lacks %q:\n%s", want, card)
		}
	}
	if p := said(t, c.Do("GET", base+"/card.pdf?day="+day.String(), nil, 422, nil)); !strings.Contains(p.Says, "no session on that day") {
		t.Errorf("%s", p.Says)
	}
	said(t, c.Do("GET", base+"/card.pdf?day=soon", nil, 422, nil))
	sheet := text(t, c.Do("GET", "/api/squad/week.pdf?day="+day.String()+"&paper=Letter", nil, 200, nil))
	if !strings.Contains(sheet, v.Athlete.Name) || !strings.Contains(sheet, "Sprint start") || !strings.Contains(sheet, "Week of") {
		t.Errorf("the week:\n%s", sheet)
	}
	var sq planning.Squad
	c.Do("GET", "/api/squad/week?day="+day.String(), nil, 200, &sq)
	if len(sq.Lines) != 1 || !sq.Lines[0].Begun || len(sq.Lines[0].Week.Sessions) == 0 || !strings.HasPrefix(sq.Lines[0].Next, "Home meeting, in ") {
		t.Errorf("%+v", sq)
	}
	said(t, c.Do("GET", "/api/squad/week?day=soon", nil, 422, nil))
}

// An archive carries seasons, rules and what was done; what no screen makes is refused.
func TestAnArchiveHasTheSeason(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	base := "/api/athletes/" + at.AthleteID.String()
	o := ahead(t, "sprint-start")
	c.Do("PUT", base+"/season", outlined{0, o}, 200, nil)
	c.Do("PUT", "/api/season/rules/begin", map[string]any{"value": 50, "reason": "long winter"}, 204, nil)
	c.Do("PUT", base+"/trainings/"+uuid.NewString(), store.NewTraining{DoneOn: o.From.String(), Event: "sprint-start", Kind: season.Full, Tries: 9, Full: 7, Effort: 6, Minutes: 50, AttemptID: &at.ID}, 200, nil)
	whole := c.Do("GET", "/api/team/export.zip", nil, 200, nil)
	other := h.Coach(t)
	other.Do("POST", "/api/team/import", whole, 200, nil)
	var people []store.Athlete
	other.Do("GET", "/api/athletes", nil, 200, &people)
	var v planning.View
	other.Do("GET", "/api/athletes/"+people[0].ID.String()+"/season", nil, 200, &v)
	if v.Revision == 0 || len(v.Outline.Competitions) != 1 || len(v.Trainings) != 1 || v.Trainings[0].Full != 7 || v.Trainings[0].AttemptID == nil || v.Trainings[0].ID == uuid.Nil {
		t.Errorf("%+v %+v", v.Outline, v.Trainings)
	}
	for name, bad := range map[string]string{"trainings.json": `"full_tries": 7000`, "seasons.json": `"weight": "Z"`} {
		text := inside(t, whole, name)
		spoilt := strings.NewReplacer(`"full_tries": 7`, bad, `"full_tries":7`, bad, `"weight": "A"`, bad, `"weight":"A"`, bad).Replace(text)
		if spoilt == text {
			t.Fatalf("%s: %s", name, text)
		}
		p := said(t, h.Coach(t).Do("POST", "/api/team/import", changed(t, whole, map[string]string{name: spoilt}), 422, nil))
		if !strings.Contains(p.Says, "Nothing was taken in") {
			t.Errorf("%s: %s", name, p.Says)
		}
	}
}

// The board tells who wants a look; series hold conditions apart and tell a chance with its interval.
func TestTheSquadAtAGlance(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var anna, bea store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Anna Holm"), 200, &anna)
	c.Do("POST", "/api/athletes", testenv.Athlete("Bea Lund"), 200, &bea)
	c.Do("POST", "/api/athletes/"+bea.ID.String()+"/notes", store.NewNote{Kind: "pain", NotedOn: time.Now().Format(time.DateOnly), Says: "left calf"}, 200, nil)
	var b planning.Board
	c.Do("GET", "/api/squad/board", nil, 200, &b)
	if len(b.Lines) != 2 || b.Lines[0].Name != "Bea Lund" || b.Lines[0].Signs[0].Sign != "paused" || b.Lines[1].Signs[0].Sign != "silent" || b.Causes == nil || b.Measures == nil {
		t.Errorf("%+v", b)
	}
	said(t, c.Do("GET", "/api/squad/measure?event=hammer&checkpoint=luck", nil, 404, nil))
	in := logbook.SessionEntry{AthleteID: anna.ID, Event: "long-jump", DoneOn: time.Now().Format(time.DateOnly), Setting: "practice", Condition: "fresh"}
	for _, l := range []string{"5.80 +0.4", "5.92 +1.1", "5.75", "5.99 +1.8", "5.84 -0.3", "6.20 +3.0", "x over the board", "x over the board", "x ran through"} {
		in.Lines = append(in.Lines, logbook.Typed{Text: l})
	}
	c.Do("POST", "/api/sessions", in, 200, nil)
	var list []planning.SeriesView
	path := "/api/athletes/" + anna.ID.String() + "/series?event=long-jump"
	c.Do("GET", path+"&wanted=5.95", nil, 200, &list)
	if len(list) != 2 || list[0].Under != "outdoor" || list[0].Valid != 5 || list[0].Fouls != 3 || list[0].Best != 5.99 || list[0].Reasons[0].N != 2 || list[1].Under != "wind-assisted" {
		t.Fatalf("%+v", list)
	}
	if o := list[0].Chance; o == nil || o.Chance < 0.2 || o.Chance > 0.9 || o.Lo >= o.Chance || list[1].Chance != nil || list[1].Why == "" {
		t.Errorf("%+v %q", o, list[1].Why)
	}
	if p := said(t, c.Do("GET", path+"&wanted=far", nil, 422, nil)); !strings.Contains(p.Says, "no mark") {
		t.Errorf("%s", p.Says)
	}
	said(t, h.Coach(t).Do("GET", path, nil, 404, nil))
}

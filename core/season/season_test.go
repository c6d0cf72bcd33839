package season_test

import (
	"encoding/json"
	"strings"
	"testing"

	"neokinema/core/model"
	"neokinema/core/season"
	"neokinema/core/sport"
)

func rules(t *testing.T, changed ...season.Changed) season.Rules {
	t.Helper()
	r, err := season.With(changed)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func day(t *testing.T, text string) season.Day {
	t.Helper()
	d, err := season.ParseDay(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// The first of January 1970 was a Thursday, 2000 had a leap day and 2100 has none.
func TestDays(t *testing.T) {
	for text, want := range map[string]season.Day{"1970-01-01": 0, "1969-12-31": -1, "2000-02-29": 11016, "2000-03-01": 11017, "2026-11-29": 20786, "2100-02-28": 47540, "2100-03-01": 47541} {
		if got := day(t, text); got != want || want.String() != text {
			t.Errorf("%s is %d and back %s, want %d", text, got, want, want)
		}
	}
	if d := season.Day(0); d.Weekday() != 3 || season.Day(4).Weekday() != 0 || season.Day(4).Monday() != 4 || season.Day(3).Monday() != -3 {
		t.Error("weekdays")
	}
	for d := season.Day(-20_000); d < 70_000; d += 13 {
		if back := day(t, d.String()); back != d {
			t.Fatalf("%d is %s is %d", d, d, back)
		}
	}
	for _, bad := range []string{"", "2026-02-30", "2026-13-01", "26-01-01", "2026-1-1", "2026-01-01x", "2026-01-+1", "1492-10-12", "yesterday"} {
		if _, err := season.ParseDay(bad); err == nil {
			t.Errorf("%q is a day", bad)
		}
	}
	raw, err := json.Marshal(season.Competition{Day: 20786})
	var back season.Competition
	if err != nil || !strings.Contains(string(raw), `"2026-11-29"`) || json.Unmarshal(raw, &back) != nil || back.Day != 20786 {
		t.Errorf("%s, %v", raw, err)
	}
}

func TestRules(t *testing.T) {
	seen := map[string]bool{}
	for _, r := range season.Shipped() {
		if r.Name == "" || r.Says == "" || r.Group == "" || r.Value < r.Lo || r.Value > r.Hi || seen[r.ID] {
			t.Errorf("%+v", r)
		}
		seen[r.ID] = true
	}
	for want, c := range map[string]season.Changed{"no rule": {ID: "luck", Value: 1, Reason: "why not"}, "between 0 and 3": {ID: "taper-weeks", Value: 30, Reason: "long"}, "say why": {ID: "taper-weeks", Value: 1}} {
		if _, err := season.With([]season.Changed{c}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if r := rules(t, season.Changed{ID: "taper-weeks", Value: 1, Reason: "short memory"}); r["taper-weeks"] != 1 || rules(t)["taper-weeks"] != 2 {
		t.Errorf("%v", r["taper-weeks"])
	}
}

// A week of hammer on Monday, Wednesday and Friday; Friday lifts.
func outline(changed ...season.Changed) season.Outline {
	return season.Outline{From: 4, To: 4 + 7*9, Events: []string{"hammer"}, Free: []season.Free{{Weekday: 0, Minutes: 90}, {Weekday: 2, Minutes: 60}, {Weekday: 4, Minutes: 100}, {Weekday: 5, Minutes: 100}}, Rules: changed}
}

func spelled(w season.Week) string {
	var out []string
	for _, s := range w.Sessions {
		out = append(out, string(s.Kind)+" "+[]string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}[s.Day.Weekday()])
	}
	return strings.Join(out, ", ")
}

var who = season.Athlete{Age: 25, Changes: []season.Change{{ID: "a", Event: "hammer", Words: "Let it go", Kind: sport.Throw, Done: 1500, Drill: model.Drill{Name: "Winds", Dose: model.Dose{Sets: 4, Reps: 5}, Ladder: []string{"one", "two", "three", "four"}}}}}

// A change brings its drill, its dose by the week and the rung for as many repetitions.
func TestASessionHasItsDrill(t *testing.T) {
	plan, err := season.Plan(outline(), who, 4, rules(t))
	if err != nil {
		t.Fatal(err)
	}
	if got := spelled(plan.Weeks[0]); got != "technique Mon, technique Wed, lift Fri, lift Sat" {
		t.Errorf("the week: %s", got)
	}
	s := plan.Weeks[0].Sessions[0]
	if s.Change != "a" || s.Drill != "Winds" || s.Dose != "2 x 5" || s.Rung != "three" || s.Tries != 45 || s.Full != 6 || s.Minutes != 90 {
		t.Errorf("%+v", s)
	}
	if len(s.Parts) != 3 || s.Parts[0] != (season.Part{Name: "Feet fixed", Tries: 19}) || s.Parts[2].Tries != 6 {
		t.Errorf("parts %+v", s.Parts)
	}
	if got := spelled(plan.Weeks[3]); got != "technique Mon, test Wed, lift Fri, lift Sat" || !plan.Weeks[3].Light {
		t.Errorf("a light week ends with a test: %s", got)
	}
}

func TestByHand(t *testing.T) {
	o := outline()
	o.Moves = []season.Move{{From: 4, To: 5}}
	plan, err := season.Plan(o, who, 4, rules(t))
	if err != nil || spelled(plan.Weeks[0]) != "technique Tue, technique Wed, lift Fri, lift Sat" || plan.Weeks[0].Sessions[0].Was == nil {
		t.Errorf("moved: %s %v", spelled(plan.Weeks[0]), err)
	}
	// The day falls out: the only later day holds lifting, so half joins Wednesday.
	o = outline()
	o.Lost = []season.Day{4}
	plan, _ = season.Plan(o, who, 4, rules(t))
	w := plan.Weeks[0]
	if spelled(w) != "technique Wed, lift Fri, lift Sat" || w.Sessions[0].Tries != 45+22 || len(w.Says) != 1 || !strings.Contains(w.Says[0], "Monday falls out. Half of it joins Wednesday") {
		t.Errorf("%s %+v %v", spelled(w), w.Sessions, w.Says)
	}
	// With a day of rest that is free it moves there.
	o.Free = append(o.Free, season.Free{Weekday: 3, Minutes: 40})
	o.Rules = []season.Changed{{ID: "lifts-rebuild", Value: 0, Reason: "a sore shoulder"}}
	o.Lost = []season.Day{4, 6}
	plan, _ = season.Plan(o, who, 4, rules(t))
	for _, s := range plan.Weeks[0].Sessions {
		if s.Day == 4 || s.Day == 6 {
			t.Errorf("training on a day that falls out: %+v", s)
		}
	}
	// Lifting is left out.
	o = outline()
	o.Lost = []season.Day{8}
	plan, _ = season.Plan(o, who, 4, rules(t))
	if w := plan.Weeks[0]; spelled(w) != "technique Mon, technique Wed, lift Sat" || !strings.Contains(w.Says[0], "Lifting is left out") {
		t.Errorf("%s %v", spelled(w), w.Says)
	}
	// Moving lifting before take-offs is told.
	o = outline()
	o.Events = []string{"long-jump"}
	o.Moves = []season.Move{{From: 8, To: 5}}
	plan, _ = season.Plan(o, season.Athlete{Age: 25}, 4, rules(t))
	if says := strings.Join(plan.Weeks[0].Says, " "); !strings.Contains(says, "Heavy legs before take-offs") {
		t.Errorf("%s: %s", spelled(plan.Weeks[0]), says)
	}
}

func TestConflicts(t *testing.T) {
	child := season.Athlete{Age: 11, Changes: []season.Change{{ID: "a", Words: "Sit", Paused: true}}}
	w := season.Week{Monday: 4, Keep: true, Sessions: []season.Session{{Day: 4, Event: "shot", Tries: 31, Change: "a"}, {Day: 5, Event: "long-jump", Tries: 5, Change: "b"}, {Day: 6, Event: "shot"}, {Day: 7, Event: "shot"}, {Day: 8, Event: "shot"}}}
	got := strings.Join(season.Conflicts(child, w, rules(t)), " ")
	for _, want := range []string{"2 changes in one week", "Changing has stopped", "“Sit” is paused by pain", "31 throws at the age of 11: 30 a week", "2 days off: 3 are the least"} {
		if !strings.Contains(got, want) {
			t.Errorf("not told: %s; it says %s", want, got)
		}
	}
	if strings.Contains(got, "take-offs at") {
		t.Error("five take-offs are not too many")
	}
}

func TestOutlinesThatAreNone(t *testing.T) {
	on := season.Day(5)
	for want, spoil := range map[string]func(*season.Outline){
		"1 to 60 weeks": func(o *season.Outline) { o.To = o.From + 61*7 },
		"competitions lie": func(o *season.Outline) {
			o.Competitions = []season.Competition{{ID: "x", Name: "Far", Day: 9999, Weight: season.A}}
		},
		"its weight": func(o *season.Outline) {
			o.Competitions = []season.Competition{{ID: "x", Name: "Home", Day: 10, Weight: "Z"}}
		},
		"two competitions": func(o *season.Outline) {
			c := season.Competition{ID: "x", Name: "Home", Day: 10, Weight: season.A}
			o.Competitions = []season.Competition{c, c}
		},
		"named twice":     func(o *season.Outline) { o.Events = []string{"shot", "shot"} },
		"free once":       func(o *season.Outline) { o.Free = append(o.Free, o.Free[0]) },
		"15 to 300":       func(o *season.Outline) { o.Free[0].Minutes = 1000 },
		"no place":        func(o *season.Outline) { o.Free[0].Places = []sport.Place{"moon"} },
		"within its week": func(o *season.Outline) { o.Moves = []season.Move{{From: 4, To: 12}} },
		"no rule":         func(o *season.Outline) { o.Rules = []season.Changed{{ID: "luck"}} },
		"no event": func(o *season.Outline) {
			o.Competitions = []season.Competition{{ID: "x", Name: "Home", Event: "darts", Day: 10, Weight: season.A}}
		},
		"the tool sets none": func(o *season.Outline) { o.Return = &season.Return{What: "calf"} },
		"who said": func(o *season.Outline) {
			o.Return = &season.Return{SetBy: "Dr Vale", Steps: []season.Step{{Name: "walk", Criterion: "no pain", By: "Dr Vale"}}}
		},
		"comes after step 1": func(o *season.Outline) {
			o.Return = &season.Return{SetBy: "Dr Vale", Steps: []season.Step{{Name: "walk", Criterion: "no pain"}, {Name: "run", Criterion: "no pain", By: "Dr Vale", On: &on}}}
		},
		"needs a name": func(o *season.Outline) {
			o.Return = &season.Return{SetBy: "Dr Vale", Steps: []season.Step{{Volume: 300}}}
		},
		"has 1 to 12 steps": func(o *season.Outline) { o.Return = &season.Return{SetBy: "Dr Vale"} },
	} {
		o := outline()
		spoil(&o)
		if _, err := season.Plan(o, who, 4, rules(t)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
}

// The way back: nobody goes on without a physician's or physiotherapist's word.
func TestTheWayBack(t *testing.T) {
	o := outline()
	on := season.Day(10)
	o.Return = &season.Return{What: "calf", SetBy: "Dr Vale", Steps: []season.Step{{Name: "walk", Criterion: "an hour without pain", Volume: 0}, {Name: "run", Criterion: "ten hops", Volume: 40}}}
	plan, err := season.Plan(o, who, 4, rules(t))
	if err != nil {
		t.Fatal(err)
	}
	for _, w := range plan.Weeks {
		if len(w.Sessions) > 0 || w.Change != "" {
			t.Fatalf("training on a step of no volume: %+v", w)
		}
	}
	o.Return.Steps[0].By, o.Return.Steps[0].On = "Dr Vale", &on
	if at, ok := o.Return.At(); at != 1 || !ok {
		t.Errorf("step %d", at)
	}
	plan, _ = season.Plan(o, who, 10, rules(t))
	for _, w := range plan.Weeks[1:] {
		for _, s := range w.Sessions {
			if w.Volume > 0.4 || s.Full > 0 || s.Kind == season.Lift || s.Change != "" {
				t.Errorf("%+v", s)
			}
		}
	}
	o.Return.Steps[1].By, o.Return.Steps[1].On = "Dr Vale", &on
	if plan, _ = season.Plan(o, who, 10, rules(t)); plan.Weeks[5].Change == "" || plan.Weeks[5].Full == 0 {
		t.Errorf("all steps are behind, and still %+v", plan.Weeks[5])
	}
}

func TestPainAndPlacesAreTold(t *testing.T) {
	o := outline()
	for i := range o.Free {
		o.Free[i].Places = []sport.Place{sport.Track}
	}
	plan, _ := season.Plan(o, season.Athlete{Age: 25, Pain: true}, 4, rules(t))
	says := strings.Join(plan.Says, " ")
	if !strings.HasPrefix(says, "Something hurts") || !strings.Contains(says, "physician or physiotherapist") || !strings.Contains(says, "Hammer is not planned") {
		t.Errorf("%s", says)
	}
	plan, _ = season.Plan(season.Outline{From: 4, To: 4}, season.Athlete{}, 4, rules(t))
	if says := strings.Join(plan.Says, " "); !strings.Contains(says, "No day of the week is free") || !strings.Contains(says, "No event is chosen") {
		t.Errorf("%s", says)
	}
	o = outline()
	o.Competitions = []season.Competition{{ID: "x", Name: "Home", Event: "hammer", Day: 4 + 7*6, Weight: season.A}}
	plan, _ = season.Plan(o, season.Athlete{Age: 25, Changes: []season.Change{{ID: "a", Event: "hammer", Words: "Long arms", Kind: sport.Throw}}}, 4, rules(t))
	if plan.Stops == nil || *plan.Stops != 4+7*2 || len(plan.Says) != 1 || !strings.Contains(plan.Says[0], "“Long arms” wants some 3000 repetitions more") {
		t.Errorf("stops %v, says %v", plan.Stops, plan.Says)
	}
}

func TestDoneAgainstPlanned(t *testing.T) {
	var list []season.Done
	for week := range 6 {
		n := 60
		if week == 5 {
			n = 150
		}
		list = append(list, season.Done{Day: season.Day(4 + 7*week), Event: "hammer", Kind: season.Technique, Tries: 20, Full: 4, Effort: 5, Minutes: n, Change: "a"}, season.Done{Day: season.Day(5 + 7*week), Event: "long-jump", Kind: season.Full, Tries: 8, Effort: 7, Minutes: 40})
	}
	got := season.Loads(list, rules(t))
	if len(got) != 6 || got[0].Load != 5*60+7*40 || got[0].Throws != 20 || got[0].TakeOffs != 8 || got[4].Sudden || !got[5].Sudden {
		t.Errorf("%+v", got)
	}
	// After a rest nothing is compared with it.
	if rested := season.Loads([]season.Done{list[0], list[11]}, rules(t)); rested[5].Sudden {
		t.Errorf("after a rest: %+v", rested)
	}
	if season.Loads(nil, rules(t)) != nil || season.Towards("a", list) != 120 {
		t.Error("weeks of nothing, or repetitions")
	}
	plan, _ := season.Plan(outline(), who, 4, rules(t))
	k := plan.Weeks[0].Against(list)
	if k.Planned != 90 || k.Done != 28 || k.DoneFull != 4 || k.DoneTimes != 2 || k.PlannedTimes != 4 || k.DoneLoad != 580 || k.PlannedLoad != 4.6*(90+60)+6*(75+75) {
		t.Errorf("%+v", k)
	}
	if w, ok := plan.Week(12); !ok || w.Monday != 11 {
		t.Errorf("%+v", w)
	}
	if _, ok := plan.Week(4000); ok {
		t.Error("a week of another season")
	}
}

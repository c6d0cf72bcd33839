package followup

import (
	"strings"
	"testing"

	"neokinema/core/model"
	"neokinema/core/sport"
)

func ptr(v float64) *float64 { return &v }

var hammer = model.Model{ID: "hammer", Checkpoints: []model.Checkpoint{
	{ID: "knee_lift", Name: "Pivot knee", Measure: model.Measure{Kind: "joint", Points: []string{"hip", "knee", "ankle"}}},
	{ID: "knee_catch", Name: "Pivot knee", Measure: model.Measure{Kind: "joint", Points: []string{"hip", "knee", "ankle"}}},
	{ID: "square", Name: "Chest against ball", Measure: model.Measure{Kind: "lead"}},
}, Faults: []model.Fault{
	{ID: "tall", When: model.Rule{Any: []model.Rule{{Reading: "knee_lift", Outside: "above"}}}},
	{ID: "deep", When: model.Rule{Reading: "knee_catch", Below: ptr(100)}},
	{ID: "drags", When: model.Rule{Reading: "square", Outside: "above"}},
	{ID: "blocks", Setting: true}, {ID: "weak", Strength: "Build it first"},
}}

// Facts of the trade, no source: a setting shows in the next session, technique in a
// throw takes weeks, strength more.
func TestWhenToLookAgain(t *testing.T) {
	fault := func(id string) model.Fault { f, _ := hammer.Fault(id); return f }
	if a, b, c := sport.Recheck(ChangeOf("hammer", fault("blocks"), false)), sport.Recheck(ChangeOf("hammer", fault("tall"), false)), sport.Recheck(ChangeOf("hammer", fault("weak"), true)); !(a < 7 && a < b && b >= 28 && b < c) {
		t.Errorf("setting %d, throw %d, strength %d days", a, b, c)
	}
	for event, want := range map[string]sport.Change{"running": sport.Running, "sprint-start": sport.Start, "pole-vault": sport.Jump, "javelin": sport.Throw} {
		if got := ChangeOf(event, fault("tall"), false); got != want {
			t.Errorf("%s: %s", event, got)
		}
	}
}

func TestAPlanTakesLoadUpGently(t *testing.T) {
	d := model.Drill{Name: "Turns", Dose: model.Dose{Says: "5 x 4"}}
	list, err := Plan(d, 5, 3)
	if err != nil || len(list) != 15 {
		t.Fatalf("%v %v", list, err)
	}
	var doses []string
	for i, s := range list {
		if i%3 == 0 {
			doses = append(doses, s.Dose)
		}
		if i > 0 && s.Day <= list[i-1].Day || s.Week != s.Day/7+1 {
			t.Errorf("session %d: %+v", i, s)
		}
	}
	if got := strings.Join(doses, ", "); got != "3 x 4, 4 x 4, 5 x 4, 4 x 4, 3 x 4" {
		t.Errorf("doses by week: %s", got)
	}
	for _, bad := range [][2]int{{0, 2}, {13, 2}, {4, 0}, {4, 5}} {
		if _, err := Plan(d, bad[0], bad[1]); err == nil {
			t.Errorf("%v was planned", bad)
		}
	}
	d.Dose = model.Dose{Sets: 5, Reps: 4, Of: "turns", Effort: 70, Rest: 120, Week: 3, Weeks: 4}
	if list, err = Plan(d, 2, 1); err != nil || list[0].Dose != "3 x 4 turns at 70 %, 2 min rest" || list[1].Dose != "4 x 4 turns at 70 %, 2 min rest" {
		t.Errorf("a dose of numbers: %v %v", list, err)
	}
}

func TestCuesThatStandInEachOthersWay(t *testing.T) {
	tall, deep, drags := Cue{"Sit", "knee_lift", "tall"}, Cue{"Stay up", "knee_catch", "deep"}, Cue{"Ball first", "square", "drags"}
	if Way(hammer, tall) != -1 || Way(hammer, deep) != 1 || Way(hammer, Cue{"x", "square", "nobody"}) != 0 {
		t.Error("ways")
	}
	if got := Conflicts(hammer, []Cue{tall, deep}); len(got) != 1 || !strings.Contains(got[0], "“Sit” and “Stay up” pull pivot knee in opposite directions") {
		t.Errorf("%q", got)
	}
	if got := Conflicts(hammer, []Cue{tall, drags}); len(got) != 1 || !strings.Contains(got[0], "2 changes are open") {
		t.Errorf("%q", got)
	}
	if got := Conflicts(hammer, []Cue{tall}); got != nil {
		t.Errorf("%q", got)
	}
}

package squad

import (
	"math"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/season"
	"neokinema/core/uncertainty"
)

const today season.Day = 20786

func day(ago int) *season.Day {
	d := today - season.Day(ago)
	return &d
}

func TestWhoWantsALook(t *testing.T) {
	list := []Athlete{
		{ID: "1", Name: "Ada", LastClip: day(2)},
		{ID: "2", Name: "Bo", LastClip: day(3), Cues: []Cue{{Attempt: "x", Words: "Sit", Due: true}}},
		{ID: "3", Name: "Cy", LastClip: day(3), Cues: []Cue{{Attempt: "y", Words: "Sit", Missed: 2}}},
		{ID: "4", Name: "Di", LastClip: day(40), Pain: "left calf", Cues: []Cue{{Words: "Sit", Due: true, Missed: 5}}},
		{ID: "5", Name: "El", LastClip: day(1), Answers: []string{"z"}},
		{ID: "6", Name: "Fi", LastClip: day(1), Meets: []season.Competition{{Name: "Final", Day: today + 9, Weight: season.A}, {Name: "Opening", Day: today + 2, Weight: season.C}, {Name: "Past", Day: today - 1, Weight: season.A}}},
		{ID: "7", Name: "Go"},
		{ID: "8", Name: "Hu", LastClip: day(28)},
	}
	got := Board(list, today)
	var names []string
	for _, l := range got {
		names = append(names, l.Name)
	}
	if s := strings.Join(names, " "); s != "Di El Cy Bo Fi Go Ada Hu" {
		t.Errorf("order %s", s)
	}
	// Of somebody who hurts no cue is due.
	if s := got[0].Signs; len(s) != 2 || s[0].Sign != Paused || s[1].Sign != Silent || !strings.Contains(s[1].Says, "5 weeks") {
		t.Errorf("%+v", s)
	}
	if s := got[4].Signs; len(s) != 1 || s[0].Says != "Final in 9 days" {
		t.Errorf("%+v", s)
	}
	if s := got[2].Signs[0]; s.Sign != Failed || s.Attempt != "y" || !strings.Contains(s.Says, "2 times") {
		t.Errorf("%+v", s)
	}
	if len(got[6].Signs) != 0 || len(got[7].Signs) != 0 {
		t.Errorf("%+v %+v", got[6], got[7])
	}
}

// The newest attempt of each counts: what was mended is no cause, and what is old is none any more.
func TestFirstCausesOfTheMonth(t *testing.T) {
	f := func(who, fault string, ago int) Found {
		return Found{Athlete: who, Attempt: who + fault, Event: "hammer", Fault: fault, Name: "Fault " + fault, Day: today - season.Day(ago)}
	}
	got := Causes([]Found{f("a", "H1", 3), f("a", "H2", 20), f("b", "H1", 5), f("c", "H2", 2), f("d", "H2", 31), f("e", "H1", 10), f("e", "", 1)}, today)
	if len(got) != 2 || got[0].Fault != "H1" || strings.Join(got[0].Athletes, "") != "ab" || !got[0].Group || got[0].Attempts[1] != "bH1" || got[1].Fault != "H2" || got[1].Group {
		t.Errorf("%+v", got)
	}
	if got := Causes(nil, today); got == nil || len(got) != 0 {
		t.Errorf("%+v", got)
	}
}

func TestComparedWithThoseAlike(t *testing.T) {
	m := func(id string, sex body.Sex, l Level, height, v float64) Measured {
		return Measured{ID: id, Sex: sex, Level: l, Height: height, Value: uncertainty.Estimate{Value: v, Half95: 2}}
	}
	all := []Measured{m("1", body.Female, Grown, 1.70, 100), m("2", body.Female, Grown, 1.72, 104), m("3", body.Female, Grown, 1.75, 102), m("4", body.Male, Grown, 1.72, 150), m("5", body.Female, Child, 1.70, 150), m("6", body.Female, Grown, 1.90, 150)}
	r, ok := Among(m("me", body.Female, Grown, 1.73, 103), all)
	// Mean 102, standard deviation 2; Student's t with two degrees of freedom is 4.303.
	if !ok || r.N != 3 || r.Mean != 102 || math.Abs(r.Hi-(102+4.303*2*math.Sqrt(4./3))) > 0.01 || r.Differs {
		t.Errorf("%+v", r)
	}
	if r, _ := Among(m("me", body.Female, Grown, 1.73, 120), all); !r.Differs {
		t.Errorf("%+v", r)
	}
	// What lies within the own scatter is no difference.
	scattered := m("me", body.Female, Grown, 1.73, 120)
	scattered.Own = 5
	if r, _ := Among(scattered, all); r.Differs {
		t.Errorf("%+v", r)
	}
	if _, ok := Among(m("me", body.Male, Grown, 1.73, 120), all); ok {
		t.Error("a reference of one")
	}
	for _, c := range []struct {
		age, years int
		want       Level
	}{{12, 3, Child}, {25, 1, Beginner}, {25, model.Unknown, Grown}, {17, 4, Youth}, {19, 4, Youth}, {20, 4, Grown}} {
		if got := LevelOf(c.age, c.years); got != c.want {
			t.Errorf("%d, %d years: %s", c.age, c.years, got)
		}
	}
}

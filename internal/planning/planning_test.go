package planning

import (
	"bytes"
	"errors"
	"slices"
	"strings"
	"testing"

	"neokinema/core/season"
	"neokinema/internal/paper"
)

func day(t *testing.T, text string) season.Day {
	t.Helper()
	d, err := season.ParseDay(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// Who has entered nothing gets a season that holds and begins with this week.
func TestTheUsualSeason(t *testing.T) {
	today := day(t, "2026-11-26") // a Thursday
	o := usual(today, []string{"shot"})
	if err := o.Check(); err != nil {
		t.Fatal(err)
	}
	if o.From != today-3 || (o.To-o.From)%7 != 0 || o.To < today+200 {
		t.Errorf("from %s to %s", o.From, o.To)
	}
	if got := whole(season.Outline{Free: []season.Free{{}}}); got.Events == nil || got.Free[0].Places == nil || got.Competitions == nil || got.Moves == nil || got.Lost == nil || got.Rules == nil {
		t.Errorf("a list is missing: %+v", got)
	}
}

// An athlete's rule stands above the team's, and that above what is shipped; the reason goes with it.
func TestRulesAsTheyStand(t *testing.T) {
	shipped := season.Shipped()
	a, b := shipped[0], shipped[1]
	now := rulesNow([]season.Changed{{ID: a.ID, Value: a.Value + 1, Reason: "the hall"}, {ID: b.ID, Value: b.Value + 1, Reason: "the team"}}, []season.Changed{{ID: b.ID, Value: b.Value + 2, Reason: "her knee"}})
	if len(now) != len(shipped) {
		t.Fatalf("%d rules", len(now))
	}
	if x := now[0]; x.Now != a.Value+1 || x.Reason != "the hall" || x.Own {
		t.Errorf("%+v", x)
	}
	if x := now[1]; x.Now != b.Value+2 || x.Reason != "her knee" || !x.Own {
		t.Errorf("%+v", x)
	}
	if x := now[2]; x.Now != shipped[2].Value || x.Reason != "" || x.Own {
		t.Errorf("%+v", x)
	}
}

func TestTheNextCompetition(t *testing.T) {
	today := day(t, "2026-05-01")
	o := season.Outline{Competitions: []season.Competition{{Name: "Autumn cup", Day: today + 120}, {Name: "Opener", Day: today - 1}, {Name: "Club evening", Day: today + 9}}}
	for by, want := range map[season.Day]string{0: "Club evening, in 9 days", 8: "Club evening, tomorrow", 9: "Club evening, today", 10: "Autumn cup, in 110 days", 121: ""} {
		if got := next(o, today+by); got != want {
			t.Errorf("after %d days: %q", by, got)
		}
	}
}

// A session is named in a few words and told line by line; a competition says nothing new.
func TestSessionsInWords(t *testing.T) {
	changes := []season.Change{{ID: "c1", Words: "Hands carry"}}
	full := season.Session{Event: "shot", Kind: season.Full, Tries: 24, Full: 8, Heavy: 4, Easy: 6, Minutes: 80, Effort: 7, Change: "c1", Drill: "Glide and stop", Dose: "3 x 5", Rung: "with the shot",
		Parts: []season.Part{{Name: "warm up"}, {Name: "glides", Tries: 10}}}
	got := strings.Join(Lines(full, changes), "|")
	for _, want := range []string{"warm up|glides: 10", "4 with a heavier implement and 6 with a lighter one", "Think of: Hands carry", "Drill: Glide and stop, 3 x 5", "Rung: with the shot", "80 min, effort 7 of 10"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is not in %q", want, got)
		}
	}
	one := full
	one.Easy = 0
	if got := strings.Join(Lines(one, nil), "|"); !strings.Contains(got, "4 with a heavier implement") || strings.Contains(got, "lighter") || strings.Contains(got, "Think of") {
		t.Errorf("%q", got)
	}
	meet := season.Session{Kind: season.Meet, Name: "Club evening", Event: "shot"}
	if got := Lines(meet, changes); len(got) != 1 || strings.Contains(got[0], "Hands") {
		t.Errorf("%q", got)
	}
	for want, x := range map[string]season.Session{"Shot put, full": full, "Club evening, Shot put": meet, "Lifting": {Kind: season.Lift}, "Shot put, test": {Kind: season.Test, Event: "shot"}, "Opener": {Kind: season.Meet, Name: "Opener"}} {
		if got := Title(x); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
	if got := brief(full, changes); !slices.Equal(got, []string{"Shot put, full", "24, 8 full", "“Hands carry”", "Glide and stop, 3 x 5"}) {
		t.Errorf("%q", got)
	}
	if got := brief(season.Session{Kind: season.Lift}, nil); len(got) != 1 {
		t.Errorf("%q", got)
	}
}

func TestErrorsBeginLikeSentences(t *testing.T) {
	if got := sentence(errors.New("a season ends after it begins")); got != "A season ends after it begins" {
		t.Error(got)
	}
}

// A cell that is too narrow ends in dots and keeps whole letters.
func TestTextIsClipped(t *testing.T) {
	s := paper.New(paper.Named("a4"), "P", "x", "y")
	s.Style(10, "", paper.Ink)
	if got := clipped(s, "Glides", 100); got != "Glides" {
		t.Error(got)
	}
	got := clipped(s, "Größere Übergänge über die ganze Länge", 30)
	if !strings.HasSuffix(got, "…") || s.GetStringWidth(got) > 30 || strings.ContainsRune(got, '\uFFFD') {
		t.Errorf("%q is %.0f mm", got, s.GetStringWidth(got))
	}
}

// The week's sheet holds everybody of a large squad, on as many pages as that takes.
func TestTheWeekOfALargeSquad(t *testing.T) {
	pages := func(people int) int {
		t.Helper()
		sq := Squad{Monday: day(t, "2026-05-04"), Today: day(t, "2026-05-06")}
		for range people {
			sq.Lines = append(sq.Lines, SquadLine{Name: "Somebody", Begun: true, Week: season.Week{Sessions: []season.Session{{Day: sq.Monday, Event: "shot", Kind: season.Full, Tries: 20, Full: 6, Minutes: 70, Effort: 6}}}})
		}
		var out bytes.Buffer
		if err := WriteWeek(&out, paper.Named("a4"), "Lindmoor Athletics", sq); err != nil {
			t.Fatal(err)
		}
		return bytes.Count(out.Bytes(), []byte("/Type /Page\n"))
	}
	if none, few, many := pages(0), pages(8), pages(80); none != 1 || few != 1 || many < 3 {
		t.Errorf("%d pages of nobody, %d of eight, %d of eighty", none, few, many)
	}
}

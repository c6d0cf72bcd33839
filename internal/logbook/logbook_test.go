package logbook

import (
	"strings"
	"testing"
	"time"

	"neokinema/core/followup"
	"neokinema/core/model"
	"neokinema/internal/store"
)

func TestCalendarOverTheEndOfAYear(t *testing.T) {
	c := CueLog{Advice: store.Advice{Words: "Ball first; then you", Drill: model.Drill{Name: "Turns", Dose: model.Dose{Says: "5 x 4"}}},
		Followup: store.Followup{Starts: "2026-12-29", Recheck: "2027-01-26"}, Plan: []followup.Session{{Day: 0, Week: 1, Dose: "3 x 4"}, {Day: 3, Week: 1, Dose: "3 x 4"}}}
	text, err := calendar("Runa Vik", "Hammer", c, time.Date(2026, 12, 28, 20, 0, 0, 0, time.UTC))
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"DTSTART;VALUE=DATE:20261229", "DTSTART;VALUE=DATE:20270101", "DTSTART;VALUE=DATE:20270126", `SUMMARY:Runa Vik: Turns\, 3 x 4`, `Ball first\; then you`} {
		if !strings.Contains(strings.ReplaceAll(text, "\r\n ", ""), want) {
			t.Errorf("%q is missing in\n%s", want, text)
		}
	}
	c.Followup.Starts = "soon"
	if _, err := calendar("Runa Vik", "Hammer", c, time.Now()); err == nil {
		t.Error("a plan without a first day")
	}
}

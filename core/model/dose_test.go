package model

import (
	"encoding/json"
	"testing"
)

// Doses are told in words, and taken back as the words that they once were.
func TestDoses(t *testing.T) {
	for _, c := range []struct {
		dose           Dose
		session, whole string
		share          float64
	}{
		{Dose{Sets: 3, Reps: 6}, "3 x 6", "3 x 6", 1},
		{Dose{Sets: 4, Reps: 30, Of: "m", Effort: 80, Rest: 150, Week: 1}, "2 x 30 m at 80 %, 2.5 min rest", "4 x 30 m at 80 %, 2.5 min rest, once a week", 0.6},
		{Dose{Sets: 5, Reps: 5, Of: "throws", Rest: 45, Week: 3, Weeks: 4}, "1 x 5 throws, 45 s rest", "5 x 5 throws, 45 s rest, 3 times a week for 4 weeks", 0.1},
		{Dose{Says: "1 x 6"}, "1 x 6", "1 x 6", 0.6},
		{Dose{Says: "until it is easy"}, "60 % of: until it is easy", "until it is easy", 0.6},
	} {
		if got := c.dose.Session(c.share); got != c.session {
			t.Errorf("a session: %q, not %q", got, c.session)
		}
		if got := c.dose.String(); got != c.whole {
			t.Errorf("the whole: %q, not %q", got, c.whole)
		}
	}
	var d Drill
	if err := json.Unmarshal([]byte(`{"name":"x","dose":"3 x 6","feel":"y"}`), &d); err != nil || d.Dose.Says != "3 x 6" {
		t.Errorf("%+v %v", d, err)
	}
	if err := json.Unmarshal([]byte(`{"name":"x","dose":{"sets":3,"reps":6},"feel":"y"}`), &d); err != nil || d.Dose.Sets != 3 || d.Dose.Says != "" {
		t.Errorf("%+v %v", d, err)
	}
}

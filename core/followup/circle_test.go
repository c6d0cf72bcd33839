package followup

import (
	"reflect"
	"testing"
)

func TestCircleTellsOnlyWhatWasDone(t *testing.T) {
	goal := Gone{Goal, 1, "2026-03-01"}
	session := func(on string, lift, own bool, tries, full int) Practised {
		return Practised{on, lift, own, tries, full}
	}
	for name, c := range map[string]struct {
		strength bool
		sessions []Practised
		attempts []string
		looks    []string
		want     []Gone
	}{
		"a cue and nothing else":            {want: []Gone{goal}},
		"weeks of something else":           {sessions: []Practised{session("2026-03-03", false, false, 20, 5), session("2026-03-04", true, false, 0, 0)}, want: []Gone{goal}},
		"lifting for a want of strength":    {strength: true, sessions: []Practised{session("2026-03-03", true, false, 0, 0), session("2026-03-05", true, true, 0, 0)}, want: []Gone{goal, {Built, 2, "2026-03-05"}}},
		"drilled, never full":               {sessions: []Practised{session("2026-03-03", false, true, 20, 0), session("2026-03-05", false, true, 16, 0)}, want: []Gone{goal, {Drilled, 36, "2026-03-05"}}},
		"full ones count once":              {sessions: []Practised{session("2026-03-05", false, true, 6, 6)}, attempts: []string{"2026-03-05", "2026-03-05"}, want: []Gone{goal, {Whole, 6, "2026-03-05"}}},
		"observed without any word between": {looks: []string{"2026-03-20", "2026-03-27"}, attempts: []string{"2026-03-20", "2026-03-27"}, want: []Gone{goal, {Whole, 2, "2026-03-27"}, {Observed, 2, "2026-03-27"}}},
	} {
		if got := Circle("2026-03-01", c.strength, c.sessions, c.attempts, c.looks); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %+v, want %+v", name, got, c.want)
		}
	}
}

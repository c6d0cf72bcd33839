package trial

import (
	"math/rand/v2"
	"strings"
	"testing"

	"neokinema/core/season"
)

func shipped(t *testing.T) season.Rules {
	t.Helper()
	r, err := season.With(nil)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func TestWrittenCases(t *testing.T) {
	for _, c := range Cases() {
		if err := c.Run(shipped(t)); err != nil {
			t.Errorf("%s: %v", c.Name, err)
		}
	}
}

// Every rule stands in two written cases or more, and each of them fails when the rule has another
// value: a case that names a rule holds it.
func TestEachRuleIsHeldTwice(t *testing.T) {
	held := Held(shipped(t))
	for _, r := range season.Shipped() {
		if held[r.ID] < 2 {
			t.Errorf("%s is held by %d cases", r.ID, held[r.ID])
		}
	}
	for _, c := range Cases() {
		for _, id := range c.Rules {
			if !Holds(c, id, shipped(t)) {
				t.Errorf("%s: %s may have another value and nothing fails", c.Name, id)
			}
		}
	}
}

func TestSeasonsByChance(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 9))
	rules := shipped(t)
	sessions := 0
	for i := range 300 {
		o, who, now := Random(r)
		s, err := season.Plan(o, who, now, rules)
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range s.Weeks {
			sessions += len(w.Sessions)
		}
		if bad := Audit(o, who, now, rules, s); len(bad) > 0 {
			t.Errorf("season %d, %+v, %+v on %s: %s", i, o, who, now, strings.Join(bad[:min(3, len(bad))], "; "))
			break
		}
	}
	if sessions < 10_000 {
		t.Errorf("%d sessions: the seasons are empty", sessions)
	}
}

// The audit sees what is wrong: each of these plans breaks one rule.
func TestTheAuditSees(t *testing.T) {
	rules := shipped(t)
	o := of("long-jump", 10, meet(8, season.A, "long-jump"))
	who := aged(14)
	who.Changes = []season.Change{change("a", "long-jump", 0)}
	plan := func() season.Season {
		s, err := season.Plan(o, who, monday, rules)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	if bad := Audit(o, who, monday, rules, plan()); len(bad) > 0 {
		t.Fatalf("a plan that is right: %v", bad)
	}
	for want, spoil := range map[string]func(*season.Season){
		"take-offs on the day after": func(s *season.Season) {
			s.Weeks[0].Sessions = append(s.Weeks[0].Sessions, season.Session{Day: at(0, 0), Kind: season.Lift})
		},
		"lifting at 14": func(s *season.Season) { s.Weeks[0].Sessions[0].Kind = season.Lift },
		"jumps at 14":   func(s *season.Season) { s.Weeks[0].Sessions[0].Tries = 31 },
		"days of training": func(s *season.Season) {
			s.Weeks[0].Sessions = append(s.Weeks[0].Sessions, season.Session{Day: at(0, 4), Event: "long-jump"}, season.Session{Day: at(0, 5), Event: "long-jump"})
		},
		"a change 2 weeks before":   func(s *season.Season) { s.Weeks[6].Sessions[0].Change = "a" },
		"the day before":            func(s *season.Season) { s.Weeks[8].Sessions[0].Day = at(8, 4) },
		"not free":                  func(s *season.Season) { s.Weeks[0].Sessions[0].Day = at(0, 6) },
		"a session outside":         func(s *season.Season) { s.Weeks[0].Sessions[0].Day = at(1, 0) },
		"volume 0.90 after":         func(s *season.Season) { s.Weeks[1].Volume = 0.9 },
		"full, 0 heavy and 0 light": func(s *season.Season) { s.Weeks[0].Sessions[0].Full = 99 },
	} {
		s := plan()
		spoil(&s)
		if bad := strings.Join(Audit(o, who, monday, rules, s), "; "); !strings.Contains(bad, want) {
			t.Errorf("not seen: %s; it says %q", want, bad)
		}
	}
}

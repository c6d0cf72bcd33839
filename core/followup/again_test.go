package followup_test

import (
	"testing"

	"neokinema/core/followup"
	"neokinema/core/model"
)

// A look is due by what was done: early when all of it is, not yet when the day has come and little
// was done, and by the day alone when nobody notes anything.
func TestLookAgain(t *testing.T) {
	for name, c := range map[string]struct {
		day          bool
		wanted, done int
		due, waits   bool
	}{
		"nothing noted, the day has come":    {true, 180, 0, true, false},
		"nothing noted, the day is to come":  {false, 180, 0, false, false},
		"no numbers in the plan":             {true, 0, 40, true, false},
		"all done before the day":            {false, 180, 190, true, false},
		"half done on the day":               {true, 180, 90, true, false},
		"half done before the day":           {false, 180, 90, false, false},
		"a little done when the day is past": {true, 180, 40, false, true},
	} {
		if got := followup.LookAgain(c.day, c.wanted, c.done); got.Due != c.due || got.Waits != c.waits || got.Wanted != c.wanted || got.Done != c.done {
			t.Errorf("%s: %+v", name, got)
		}
	}
}

// Repetitions of a plan are counted week by week with their share of the dose, up to a day.
func TestRepetitionsOfAPlan(t *testing.T) {
	d := model.Drill{Dose: model.Dose{Sets: 5, Reps: 6}}
	plan, err := followup.Plan(d, 4, 2)
	if err != nil {
		t.Fatal(err)
	}
	// Weeks of 0.6, 0.8, 1 and 0.7 of five sets: 3, 4, 5 and 4 (3.5 is rounded up).
	for days, want := range map[int]int{-1: 0, 0: 18, 6: 36, 13: 36 + 48, 27: 36 + 48 + 60 + 48, 100: 36 + 48 + 60 + 48} {
		if got := followup.Repetitions(d, plan, days); got != want {
			t.Errorf("up to day %d: %d repetitions, not %d", days, got, want)
		}
	}
	if got := followup.Repetitions(model.Drill{Dose: model.Dose{Says: "until it is smooth"}}, plan, 27); got != 0 {
		t.Errorf("a dose in words has %d repetitions", got)
	}
}

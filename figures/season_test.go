package figures

import "testing"

// What the plan of a season promises, on fewer rounds than the figures take.
func TestThePlanOfASeasonKeepsItsPromises(t *testing.T) {
	t.Parallel()
	if n, err := SeasonRules(); err != nil || n != 0 {
		t.Errorf("%v cases fail, %v", n, err)
	}
	if n, err := SeasonViolations(60); err != nil || n != 0 {
		t.Errorf("%v findings, %v", n, err)
	}
	if off := SeasonOdds(20_000); off > 2 {
		t.Errorf("odds are %.2f hundredths off", off)
	}
	if in := SeasonOddsCover(400); in < 92 {
		t.Errorf("the interval of odds holds the true one in %.1f %%", in)
	}
}

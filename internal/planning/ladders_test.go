package planning

import (
	"strings"
	"testing"

	"neokinema/internal/drills"
)

func TestGoingOnAndBack(t *testing.T) {
	ladder := drills.Ladder{Rungs: make([]drills.Rung, 3)}
	for name, c := range map[string]struct {
		rung int
		read []RungRead
		says string
	}{
		"on none":                 {-1, []RungRead{{3, 3}, {3, 3}, {}}, ""},
		"met":                     {0, []RungRead{{3, 3}, {}, {}}, "next rung"},
		"met once":                {0, []RungRead{{1, 1}, {}, {}}, ""},
		"met now and then":        {1, []RungRead{{3, 3}, {2, 3}, {}}, ""},
		"the one before is gone":  {1, []RungRead{{0, 3}, {3, 3}, {}}, "go back"},
		"the last one":            {2, []RungRead{{3, 3}, {3, 3}, {3, 3}}, ""},
		"only an eye can tell it": {1, []RungRead{{3, 3}, {}, {}}, ""},
	} {
		got := advice(Standing{Ladder: ladder, Rung: c.rung, Read: c.read})
		if c.says == "" && got != "" || !strings.Contains(got, c.says) {
			t.Errorf("%s: %q", name, got)
		}
	}
}

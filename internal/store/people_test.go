package store_test

import (
	"strings"
	"testing"

	"neokinema/core/model"
	"neokinema/internal/store"
)

// Years in which events were begun are kept as JSON, and one that cannot be is refused by name.
func TestBegun(t *testing.T) {
	for _, c := range []struct {
		from store.Begun
		raw  string
	}{{nil, "{}"}, {store.Begun{"discus": 2024}, `{"discus":2024}`}} {
		raw, err := c.from.Value()
		if err != nil || raw != c.raw {
			t.Errorf("%v is kept as %v: %v", c.from, raw, err)
		}
		for _, kept := range []any{raw, []byte(c.raw)} {
			back := store.Begun{"old": 1}
			if err := back.Scan(kept); err != nil || len(back) != len(c.from) || back["discus"] != c.from["discus"] {
				t.Errorf("%v comes back as %v: %v", kept, back, err)
			}
		}
	}
	var b store.Begun
	for _, bad := range []any{7, "[1]", "no"} {
		if err := b.Scan(bad); err == nil {
			t.Errorf("%v was read", bad)
		}
	}
	for _, c := range []struct {
		b     store.Begun
		wrong string
	}{{nil, ""}, {store.Begun{"hammer": 2015, "shot": 2012}, ""}, {store.Begun{"hammer": 1990}, "Hammer cannot have been begun in 1990"}, {store.Begun{"quoits": 2015}, "quoits"}} {
		if err := c.b.Check(2000); (err == nil) != (c.wrong == "") || err != nil && !strings.Contains(err.Error(), c.wrong) {
			t.Errorf("%v: %v", c.b, err)
		}
	}
	who := store.NewAthlete{Born: 2000, Begun: store.Begun{"hammer": 2024}}
	for year, want := range map[int]int{2023: model.Unknown, 2024: 0, 2026: 2} {
		if got := who.Years("hammer", year); got != want {
			t.Errorf("in %d for %d years, not %d", year, got, want)
		}
	}
	if who.Years("shot", 2026) != model.Unknown {
		t.Error("an event that nobody has entered")
	}
}

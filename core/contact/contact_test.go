package contact

import (
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/clock"
)

func TestBetween(t *testing.T) {
	c, err := clock.New([]int64{0, 3000, 6000, 9000, 12000}, 30, 120)
	if err != nil {
		t.Fatal(err)
	}
	b, ok := Between(c, body.Left, "step 1", 1, 1, 4)
	if !ok || b.Seconds == nil || math.Abs(b.Seconds.X-3.0/120) > 1e-12 || b.Foot != body.Left {
		t.Errorf("%+v %v", b, ok)
	}
	if b, _ := Between(c, body.Right, "pedal", 0, 2, 4); math.Abs(b.Seconds.X-2.0/120) > 1e-12 {
		t.Errorf("a push counts from the first movement: %+v", b)
	}
	for _, f := range [][3]int{{2, 2, 2}, {3, 3, 1}, {-1, 0, 2}, {0, 0, 5}, {2, 1, 4}} {
		if _, ok := Between(c, body.Left, "", f[0], f[1], f[2]); ok {
			t.Errorf("frames %v made a bar", f)
		}
	}
	unknown, _ := clock.New([]int64{0, 3000}, 30, 0)
	if b, ok := Between(unknown, body.Left, "", 0, 0, 1); !ok || b.Seconds != nil {
		t.Errorf("without a rate: %+v", b)
	}
}

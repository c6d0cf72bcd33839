package timebase

import (
	"math"
	"strings"
	"testing"
)

// Programs that change a rate show every picture as often as the two rates make it, and
// the rate follows: 24, 25 and 30 a second at 30, 50 and 60 (pull-down), and slowed clips.
func TestOfferedRates(t *testing.T) {
	for _, c := range []struct {
		steps, file, want, pictures float64 // pictures of the camera for a frame; file, offered, true rates
		kind                        byte
	}{
		{24.0 / 30, 30, 30, 24, Repeated}, {25.0 / 30, 30, 30, 25, Repeated}, {24.0 / 60, 60, 60, 24, Repeated}, {30.0 / 50, 50, 50, 30, Repeated},
		{0.5, 60, 60, 30, Repeated}, {0.5, 30, 60, 30, Repeated}, {0.25, 30, 120, 30, Repeated}, {0.25, 25, 100, 25, Blended}, {0.125, 30, 240, 30, Repeated},
	} {
		var p strings.Builder
		for k := range 120 {
			at, before := math.Floor(float64(k)*c.steps+1e-9), math.Floor(float64(k-1)*c.steps+1e-9)
			if k == 0 || at != before {
				p.WriteByte(Own)
			} else {
				p.WriteByte(c.kind)
			}
		}
		shows := Pictures(p.String())
		o, ok := shows.Offered(c.file)
		if !ok || o.Rate != c.want || o.Reason == "" {
			t.Errorf("%+v: %+v", c, o)
		}
		if got := shows.Rate(o.Rate); math.Abs(got-c.pictures) > 0.04*c.pictures {
			t.Errorf("%+v: %.1f pictures a second", c, got)
		}
	}
	for _, none := range []Pictures{"", "......"} {
		if o, ok := none.Offered(30); ok {
			t.Errorf("%q: %+v", none, o)
		}
		if none.Rate(30) != 30 || none.Frames() != nil {
			t.Errorf("%q has copies", none)
		}
	}
}

// A moment in a clip that shows each picture four times is known to four frames, and a
// frame knows the one that shows its picture first.
func TestCopiesWidenMoments(t *testing.T) {
	stamps := make([]int64, 41)
	for i := range stamps {
		stamps[i] = int64(i) * TickRate / 30
	}
	c, err := New(stamps, 30, 120)
	if err != nil {
		t.Fatal(err)
	}
	plain, _ := c.Between(8, 24)
	shows := Pictures(strings.Repeat(".rrr", 10) + ".")
	wide, err := c.Showing(shows).Between(8, 24)
	if err != nil || wide.Value != plain.Value || math.Abs(wide.SD/plain.SD-4) > 0.01 {
		t.Errorf("%+v, of frames %+v: %v", wide, plain, err)
	}
	for frame, want := range map[int]int{0: 0, 3: 0, 4: 4, 7: 4, 40: 40} {
		if got := shows.Of(frame); got != want {
			t.Errorf("frame %d shows the picture of %d, want %d", frame, got, want)
		}
	}
	if Pictures(".x").Check(2) == nil || Pictures("..").Check(3) == nil || shows.Check(41) != nil {
		t.Error("letters that mean nothing pass")
	}
}

package track

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"maps"
	"math"
	"testing"
)

func TestRoundTrip(t *testing.T) {
	tr := New(400)
	want := Point{X: 1234.1, Y: 0.3, Source: "hand", Confidence: 1, Hidden: true}
	if err := tr.Set(399, &want); err != nil {
		t.Fatal(err)
	}
	if err := tr.Set(0, &Point{X: 3839.9, Y: 2159.9, Source: "draft", Confidence: 0.5}); err != nil {
		t.Fatal(err)
	}
	raw, _ := tr.MarshalBinary()
	var back Track
	if err := back.UnmarshalBinary(raw); err != nil {
		t.Fatal(err)
	}
	if got, ok := back.At(399); !ok || got != want {
		t.Errorf("got %+v", got)
	}
	// A tenth of a pixel survives also at the far edge of a 4K picture.
	if got, _ := back.At(0); math.Abs(got.X-3839.9) > 1e-3 || math.Abs(got.Confidence-0.5) > 0.01 {
		t.Errorf("got %+v", got)
	}
	if len(back.Points()) != 2 || back.Len() != 400 {
		t.Errorf("%d points in %d frames", len(back.Points()), back.Len())
	}
	again, _ := back.MarshalBinary()
	if !bytes.Equal(raw, again) {
		t.Error("writing again gives other bytes")
	}
}

func TestSetAndTakeAway(t *testing.T) {
	tr := New(3)
	if err := tr.Set(1, &Point{X: 1, Source: "tracked", Confidence: 7}); err != nil {
		t.Fatal(err)
	}
	if p, _ := tr.At(1); p.Confidence != 1 {
		t.Errorf("confidence %v", p.Confidence)
	}
	if err := tr.Set(1, nil); err != nil || len(tr.Points()) != 0 {
		t.Errorf("not taken away: %v", err)
	}
	if tr.Set(-1, nil) == nil || tr.Set(0, &Point{Source: "guess"}) == nil || tr.Set(0, &Point{Source: "none"}) == nil {
		t.Error("a bad frame or source was taken")
	}
	if _, ok := tr.At(9); ok {
		t.Error("a point outside the clip")
	}
}

func FuzzUnmarshal(f *testing.F) {
	some := New(5)
	_ = some.Set(3, &Point{X: 1, Y: 2, Source: "draft", Confidence: 0.5})
	good, _ := some.MarshalBinary()
	f.Add(good)
	f.Add([]byte{1, 255, 255, 255, 255})
	f.Fuzz(func(t *testing.T, raw []byte) {
		var tr Track
		if tr.UnmarshalBinary(raw) != nil {
			return
		}
		before := tr.Points()
		out, err := tr.MarshalBinary()
		if err != nil {
			t.Fatalf("what was read cannot be written: %v", err)
		}
		var back Track
		if err := back.UnmarshalBinary(out); err != nil || !maps.Equal(before, back.Points()) {
			t.Errorf("%d points became %d: %v", len(before), len(back.Points()), err)
		}
	})
}

// Version 1, as older databases hold it: one point in frame 2 of 3.
func TestReadsTheOldFormat(t *testing.T) {
	raw := []byte{1, 3, 0, 0, 0}
	f32 := func(v float32) { raw = binary.LittleEndian.AppendUint32(raw, math.Float32bits(v)) }
	for _, v := range []float32{0, 0, 12.5, 0, 0, 7.25} {
		f32(v)
	}
	raw = append(raw, 0, 0, byte(Hand), 0, 0, 255, 0, 0, 1)
	var tr Track
	if err := tr.UnmarshalBinary(raw); err != nil {
		t.Fatal(err)
	}
	if p, ok := tr.At(2); !ok || p != (Point{X: 12.5, Y: 7.25, Source: "hand", Confidence: 1, Hidden: true}) || tr.Count() != 1 {
		t.Errorf("%+v", tr)
	}
	if tr.UnmarshalBinary(raw[:20]) == nil || tr.UnmarshalBinary([]byte{9, 0, 0}) == nil {
		t.Error("rubbish was read")
	}
}

// line is a computed track along a straight line.
func line(from, to int) *Track {
	t := New(to - from)
	for f := from; f < to; f++ {
		_ = t.Set(f, &Point{X: float64(10 * f), Y: 100, Source: "draft", Confidence: 0.8})
	}
	return t
}

func TestApplyKeepsWhatTheHandSet(t *testing.T) {
	tr := line(0, 20)
	hand := Point{X: 55, Y: 90, Source: "hand", Confidence: 1}
	_ = tr.Set(5, &hand)
	was := tr.Points()
	change := New(4)
	for f := 4; f < 8; f++ {
		_ = change.Set(f, &Point{X: 1, Y: 1, Source: "tracked", Confidence: 0.5})
	}
	change.Source[3] = Keep // frame 7 is left alone
	back := tr.Apply(change, false)
	if p, _ := tr.At(5); p != hand {
		t.Errorf("the hand's point became %+v", p)
	}
	if p, _ := tr.At(6); p.X != 1 {
		t.Errorf("frame 6: %+v", p)
	}
	if p, _ := tr.At(7); p.X != 70 {
		t.Errorf("frame 7: %+v", p)
	}
	tr.Apply(back, true)
	if !maps.Equal(was, tr.Points()) {
		t.Error("taking a change back does not bring back what was there")
	}
	// The coach may clear what a hand has set.
	tr.Apply(Clear(4, 6), true)
	if _, ok := tr.At(5); ok || tr.Count() != 17 {
		t.Errorf("after clearing: %d points", tr.Count())
	}
}

func TestBendTakesNeighboursAlong(t *testing.T) {
	tr := line(0, 40)
	_ = tr.Set(24, &Point{X: 240, Y: 100, Source: "hand", Confidence: 1})
	c, err := tr.Bend(20, Point{X: 200, Y: 110, Source: "hand", Confidence: 1}, 8)
	if err != nil {
		t.Fatal(err)
	}
	tr.Apply(c, false)
	y := func(f int) float64 { p, _ := tr.At(f); return p.Y }
	if y(20) != 110 || y(11) != 100 || y(24) != 100 || y(25) != 100 {
		t.Errorf("ends: %v %v %v %v", y(20), y(11), y(24), y(25))
	}
	// It fades without a jump and never turns back.
	for f := 12; f <= 20; f++ {
		if y(f) < y(f-1) {
			t.Errorf("frame %d: %v after %v", f, y(f), y(f-1))
		}
	}
	if p, _ := tr.At(19); p.Source != "draft" {
		t.Errorf("a neighbour became %s", p.Source)
	}
	if y(22) <= 100 || y(22) >= 110 {
		t.Errorf("between the two hands: %v", y(22))
	}
}

func TestFillClosesGapsWithoutOvershoot(t *testing.T) {
	tr := line(0, 30)
	tr.Apply(Clear(10, 14), true)
	tr.Apply(Clear(18, 26), true)
	c, err := tr.Fill(0, 29, 6)
	if err != nil {
		t.Fatal(err)
	}
	tr.Apply(c, false)
	for f := 10; f <= 14; f++ {
		if p, ok := tr.At(f); !ok || math.Abs(p.X-float64(10*f)) > 1e-3 || p.Source != "filled" || p.Confidence >= 0.8 {
			t.Errorf("frame %d: %+v %v", f, p, ok)
		}
	}
	if _, ok := tr.At(20); ok {
		t.Error("a gap of nine frames was closed though six were the most")
	}
	if _, err := New(3).Fill(0, 3, 9); err == nil {
		t.Error("nothing was filled from nothing")
	}
}

func TestSwapAndWire(t *testing.T) {
	a, b := line(0, 10), New(0)
	_ = b.Set(4, &Point{X: 1, Y: 2, Source: "hand", Confidence: 1})
	ca, cb := Swap(a, b, 3, 5)
	a.Apply(ca, true)
	b.Apply(cb, true)
	if p, _ := a.At(4); p.X != 1 {
		t.Errorf("a: %+v", p)
	}
	if _, ok := a.At(3); ok || b.Count() != 3 {
		t.Errorf("b has %d points", b.Count())
	}
	raw, err := json.Marshal(a)
	var back Track
	if err != nil || json.Unmarshal(raw, &back) != nil || !maps.Equal(a.Points(), back.Points()) {
		t.Errorf("JSON: %s %v", raw, err)
	}
	for _, bad := range []string{`{"from":0,"x":[1],"y":[1],"source":"q","confidence":[1]}`, `{"from":0,"x":[1,2],"y":[1],"source":"h","confidence":[1]}`, `{"from":-1,"x":[],"y":[],"source":"","confidence":[]}`} {
		var t2 Track
		if json.Unmarshal([]byte(bad), &t2) == nil && t2.Check() == nil {
			t.Errorf("%s was taken", bad)
		}
	}
}

// What somebody sends is held to the clip, by subtraction: sums of numbers without end
// would come out small.
func TestTracksAreBounded(t *testing.T) {
	one := func(from int, x, y float32) *Track {
		return &Track{From: from, X: []float32{x}, Y: []float32{y}, Source: Letters("h"), Confidence: []int8{100}}
	}
	for name, c := range map[string]struct {
		t    *Track
		good bool
	}{
		"the last frame": {one(11, 5, 5), true}, "behind the clip": {one(12, 5, 5), false}, "the end of numbers": {one(math.MaxInt, 5, 5), false}, "before the clip": {one(-1, 5, 5), false},
		"just outside": {one(0, -9, 5), true}, "far outside": {one(0, 1e30, 5), false}, "nowhere": {one(0, float32(math.NaN()), 5), false},
	} {
		err := c.t.Check()
		if err == nil {
			err = c.t.Inside(12, 100, 100)
		}
		if (err == nil) != c.good {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzTrack(f *testing.F) {
	for _, s := range []string{`{"from":0,"x":[1],"y":[2],"source":"h","confidence":[100]}`, `{"from":9223372036854775807,"x":[1],"y":[1],"source":"h","confidence":[1]}`, `{"from":3,"x":[1,2],"y":[1,2],"source":"_.","confidence":[1,2]}`, `{}`, `null`} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		var change Track
		if json.Unmarshal(raw, &change) != nil || change.Check() != nil || change.Inside(240, 640, 360) != nil {
			return
		}
		var on Track
		back := on.Apply(&change, true)
		if on.End() > 240 || on.Len() > 240 {
			t.Errorf("%s makes a track up to %d", raw, on.End())
		}
		on.Apply(back, true)
		if on.Count() != 0 {
			t.Errorf("%s is not taken back", raw)
		}
	})
}

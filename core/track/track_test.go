package track

import (
	"bytes"
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
	if got, _ := back.At(0); math.Abs(got.X-3839.9) > 1e-3 || math.Abs(got.Confidence-0.5) > 1.0/255 {
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
	if tr.Set(3, nil) == nil || tr.Set(-1, nil) == nil || tr.Set(0, &Point{Source: "guess"}) == nil || tr.Set(0, &Point{Source: "none"}) == nil {
		t.Error("a bad frame or source was taken")
	}
	if _, ok := tr.At(9); ok {
		t.Error("a point outside the clip")
	}
}

func FuzzUnmarshal(f *testing.F) {
	good, _ := New(5).MarshalBinary()
	f.Add(good)
	f.Add([]byte{1, 255, 255, 255, 255})
	f.Fuzz(func(t *testing.T, raw []byte) {
		var tr Track
		if tr.UnmarshalBinary(raw) != nil {
			return
		}
		for i := range tr.Len() {
			tr.At(i)
		}
		if out, _ := tr.MarshalBinary(); len(out) != len(raw) {
			t.Errorf("%d bytes became %d", len(raw), len(out))
		}
	})
}

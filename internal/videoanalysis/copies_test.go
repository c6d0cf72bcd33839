package videoanalysis

import (
	"math"
	"testing"

	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/internal/store"
)

// What was found on both sides of a mixed picture is bridged in it; where one side is missing,
// and in pictures of their own, nothing is made up.
func TestMixedPicturesAreBridged(t *testing.T) {
	clip := store.Clip{Pictures: timebase.Pictures(".b.b.b.")}
	change := track.New(len(clip.Pictures))
	for f, x := range map[int]float64{0: 10, 2: 20, 4: 40} {
		if err := change.Set(f, &track.Point{X: x, Y: 5, Source: "tracked", Confidence: 0.8}); err != nil {
			t.Fatal(err)
		}
	}
	mixed(clip, change)
	for f, want := range map[int]float64{1: 15, 3: 30} {
		p, ok := change.At(f)
		if !ok || math.Abs(p.X-want) > 0.01 || p.Source != "filled" {
			t.Errorf("frame %d: %+v %v, want %g", f, p, ok, want)
		}
	}
	for _, f := range []int{5, 6} {
		if p, ok := change.At(f); ok {
			t.Errorf("frame %d is made up: %+v", f, p)
		}
	}
}

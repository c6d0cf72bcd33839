package track_test

import (
	"fmt"

	"neokinema/core/track"
)

// What a hand has set stays when a draft comes over it.
func ExampleTrack_Apply() {
	t := track.New(0)
	_ = t.Set(4, &track.Point{X: 100, Y: 200, Source: "hand", Confidence: 1})

	draft := track.New(4)
	_ = draft.Set(4, &track.Point{X: 90, Y: 190, Source: "draft", Confidence: 0.8})
	_ = draft.Set(5, &track.Point{X: 95, Y: 195, Source: "draft", Confidence: 0.8})
	t.Apply(draft, false)

	for f := 4; f <= 5; f++ {
		p, _ := t.At(f)
		fmt.Println(f, p.X, p.Source)
	}
	// Output:
	// 4 100 hand
	// 5 95 draft
}

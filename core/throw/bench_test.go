package throw_test

import (
	"testing"

	"neokinema/core/body"
	"neokinema/core/throw"
	"neokinema/simcam/points"
)

// A four-turn throw of some 600 frames from one camera: everything that is drawn
// from above, and its turns.
func BenchmarkOrbit(b *testing.B) {
	spec := film("hammer", body.Right, 120, "back")
	spec.Turns = 4
	s, err := points.Throw(spec, points.Careful)
	if err != nil {
		b.Fatal(err)
	}
	b.ReportAllocs()
	for b.Loop() {
		if o := throw.New(s.Clip); len(o.Turns(s.Clip.Contacts, 7.26)) != 4 {
			b.Fatal("four turns were not read")
		}
	}
}

// The same throw of three turns from two cameras, brought to the same moment.
func BenchmarkPair(b *testing.B) {
	pair, _, err := points.Twice(film("hammer", body.Right, 120, "back"), "back", "side", 0.1, points.Careful)
	if err != nil {
		b.Fatal(err)
	}
	b.ReportAllocs()
	for b.Loop() {
		if _, err := pair.New(); err != nil {
			b.Fatal(err)
		}
	}
}

// The release of a shot from the side, looked for.
func BenchmarkRelease(b *testing.B) {
	s, err := points.Throw(film("shot", body.Right, 240, "side"), points.Careful)
	if err != nil {
		b.Fatal(err)
	}
	s.Clip.ReleaseFrame = -1
	o := throw.New(s.Clip)
	b.ReportAllocs()
	for b.Loop() {
		if _, err := s.Clip.FindRelease(o); err != nil {
			b.Fatal(err)
		}
	}
}

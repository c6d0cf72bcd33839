package ownclips

import (
	"image"
	"math"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/kinematics"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/simcam/lesson"
)

func TestNamesAreRead(t *testing.T) {
	id := uuid.New()
	if got, about, ok := parse(Prefix + id.String() + "-f.S2"); !ok || got != id || about != "f.S2" {
		t.Errorf("%s %q %v", got, about, ok)
	}
	for _, bad := range []string{"", "own-", Prefix + id.String(), Prefix + id.String() + "-", Prefix + id.String() + "f.S2", "there-" + id.String() + "-f.S2", Prefix + "zz" + id.String()[2:] + "-f.S2"} {
		if _, _, ok := parse(bad); ok {
			t.Errorf("%q is read", bad)
		}
	}
}

func TestEdgesAndUnits(t *testing.T) {
	lo, hi := 85.0, 105.0
	for _, c := range []struct {
		band  uncertainty.Band
		v     float64
		edge  float64
		above bool
		ok    bool
	}{
		{uncertainty.Band{Lo: &lo, Hi: &hi}, 118, 105, true, true},
		{uncertainty.Band{Lo: &lo, Hi: &hi}, 70, 85, false, true},
		{uncertainty.Band{Lo: &lo, Hi: &hi}, 100, 105, true, true},
		{uncertainty.Band{Lo: &lo}, 200, 85, false, true},
		{uncertainty.Band{Hi: &hi}, 0, 105, true, true},
		{uncertainty.Band{}, 5, 0, false, false},
	} {
		if edge, above, ok := edgeOf(c.band, c.v); edge != c.edge || above != c.above || ok != c.ok {
			t.Errorf("%+v at %g: %g %v %v", c.band, c.v, edge, above, ok)
		}
	}
	for unit, want := range map[string]struct {
		v    float64
		unit string
	}{"°": {250, "degrees"}, "ms": {0.25, "s"}, "%": {2.5, "share"}, "cm": {2.5, "m"}, "m/s": {250, "m/s"}} {
		if v, u := plain(250, unit); math.Abs(v-want.v) > 1e-9 || u != want.unit {
			t.Errorf("%s: %g %s", unit, v, u)
		}
	}
}

// walking is a clip of somebody 300 px tall who goes 8 px to the right in each frame and is placed in every
// fourth, or nowhere.
func walking(placed bool) (workspace.Workspace, store.Clip) {
	c := store.Clip{ID: uuid.New(), Width: 1280, Height: 720, Stamps: make([]int64, 100), CaptureRate: 240}
	points := kinematics.Points{}
	for id, at := range map[string][2]float64{"left_ear": {0, 200}, "left_toe": {30, 500}} {
		points[id] = track.New(100)
		for n := 0; placed && n < 100; n += 4 {
			_ = points[id].Set(n, &track.Point{X: 150 + 8*float64(n) + at[0], Y: at[1], Source: "hand", Confidence: 1})
		}
	}
	return workspace.Workspace{Work: workspace.Work{Clips: map[uuid.UUID]workspace.ClipWork{c.ID: {Points: points}}}}, c
}

// The part that is shown goes along with the athlete, has one size and the shape of the bank's clips, and
// never leaves the picture.
func TestTheAthleteStaysInSight(t *testing.T) {
	sh, c := walking(true)
	cut := stretch{from: 2, to: 97, step: 5}
	list := parts(sh, c, cut)
	if len(list) != 20 {
		t.Fatalf("%d parts", len(list))
	}
	whole := image.Rect(0, 0, c.Width, c.Height)
	for i, r := range list {
		n := cut.from + i*cut.step
		if !r.In(whole) || r.Dx() != list[0].Dx() || r.Dy() != list[0].Dy() || math.Abs(float64(r.Dx())/float64(r.Dy())-float64(lesson.Width)/lesson.Height) > 0.02 {
			t.Errorf("frame %d: %v", n, r)
		}
		if x := 150 + 8*n; !image.Pt(x, 210).In(r) || !image.Pt(x+30, 490).In(r) {
			t.Errorf("frame %d: she is at %d, outside of %v", n, x, r)
		}
	}
	if first, last := list[0], list[len(list)-1]; last.Min.X-first.Min.X < 400 || first.Dy() > 600 {
		t.Errorf("from %v to %v", first, last)
	}
	sh, c = walking(false)
	if list := parts(sh, c, cut); list[0] != list[len(list)-1] || list[0].Dy() < 700 {
		t.Errorf("nobody is placed: %v", list[0])
	}
}

func TestOnlyWhatOnePictureShows(t *testing.T) {
	for id, want := range map[string]bool{"td1": true, "to3": true, "catch2": true, "lift1": true, "release": true, "set": false, "mid": false, "top": false} {
		if shows(id) != want {
			t.Errorf("%s: %v", id, !want)
		}
	}
}

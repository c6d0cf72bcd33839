package voiceover

import (
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/internal/store"
)

func ref[T any](v T) *T { return &v }

// shown is a stage that shows a clip of ten frames, then another frame, then lines.
func shown() ([]store.Clip, []Scene) {
	c := store.Clip{ID: uuid.New(), Stamps: make([]int64, 10)}
	return []store.Clip{c}, []Scene{
		{T: 0, Clip: &c.ID, Frame: ref(2), View: &[4]float64{0, 0, 640, 360}},
		{T: 1.5, Frame: ref(7)},
		{T: 3, Over: &[]Drawing{{Label: "118°", Lines: [][][2]float64{{{1, 2}, {3, 4}}}}}},
	}
}

func TestWhatAStageCannotHaveShownIsRefused(t *testing.T) {
	clips, list := shown()
	if err := Check(clips, list); err != nil {
		t.Fatal(err)
	}
	other := uuid.New()
	many := make([][][2]float64, mostLines+1)
	for name, c := range map[string]struct {
		spoil func([]Scene) []Scene
		says  string
	}{
		"nothing":         {func([]Scene) []Scene { return nil }, "0 changes"},
		"too much":        {func(l []Scene) []Scene { return slices.Repeat(l[:1], mostScenes+1) }, "changes"},
		"no picture":      {func(l []Scene) []Scene { return l[1:] }, "begin with a picture"},
		"time runs back":  {func(l []Scene) []Scene { l[2].T = 1; return l }, "time runs back"},
		"far too late":    {func(l []Scene) []Scene { l[2].T = 1e6; return l }, "too far"},
		"another's clip":  {func(l []Scene) []Scene { l[0].Clip = &other; return l }, "another attempt"},
		"a frame beyond":  {func(l []Scene) []Scene { l[1].Frame = ref(10); return l }, "frame 10"},
		"a frame before":  {func(l []Scene) []Scene { l[1].Frame = ref(-1); return l }, "frame -1"},
		"an empty view":   {func(l []Scene) []Scene { l[0].View = &[4]float64{0, 0, 0, 360}; return l }, "no part"},
		"a view far away": {func(l []Scene) []Scene { l[0].View = &[4]float64{1e7, 0, 10, 10}; return l }, "no part"},
		"a long label": {func(l []Scene) []Scene {
			l[2].Over = &[]Drawing{{Label: strings.Repeat("x", 201)}}
			return l
		}, "label"},
		"too many lines": {func(l []Scene) []Scene { l[2].Over = &[]Drawing{{Lines: many}}; return l }, "more is drawn"},
	} {
		clips, list := shown()
		if err := Check(clips, c.spoil(list)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// What the stage shows holds until it changes; asked for moments that go on it is never behind.
func TestTheStageIsPlayed(t *testing.T) {
	clips, list := shown()
	p := NewPlay(list)
	for _, c := range []struct {
		t     float64
		frame int
		lines int
	}{{-1, 2, 0}, {0, 2, 0}, {1.49, 2, 0}, {1.5, 7, 0}, {2.9, 7, 0}, {60, 7, 1}} {
		s := p.At(c.t)
		if s.Clip != clips[0].ID || s.Frame != c.frame || len(s.Over) != c.lines || s.View[2] != 640 {
			t.Errorf("at %g s: %+v", c.t, s)
		}
	}
	if s := NewPlay(list).At(4); s.Frame != 7 || len(s.Over) != 1 {
		t.Errorf("jumped to: %+v", s)
	}
}

// Chapters follow each other on the time of the whole, by what is kept of each.
func TestCuesOfChapters(t *testing.T) {
	list := []Chapter{{Chapter: store.Chapter{Name: "the  set\nposition", Seconds: 9, Starts: 1, Ends: 5}}, {Chapter: store.Chapter{Name: "first step", Seconds: 3, Starts: 0, Ends: 3}}}
	cues := Cues(list)
	if len(cues) != 2 || cues[0].From != 0 || cues[0].To != 4 || cues[1].From != 4 || cues[1].To != 7 || cues[0].Text != "the set position" || cues[0].ID == cues[1].ID {
		t.Errorf("%+v", cues)
	}
}

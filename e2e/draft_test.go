package e2e

import (
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/testenv"
	"neokinema/simcam/hard"
)

// The server drafts while the coach looks on, and finds what the browser finds by itself:
// every point within a pixel.
func TestServerAndBrowserDraftTheSame(t *testing.T) {
	t.Parallel()
	raw, truth, err := demo.Shipped("wren jump.mp4")
	if err != nil {
		t.Fatal(err)
	}
	in, out := filepath.Join(t.TempDir(), "in.mp4"), filepath.Join(t.TempDir(), "out.mp4")
	if err := os.WriteFile(in, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	if err := media.Remake(t.Context(), in, out, "-frames:v", "24", "-c:v", "libx264", "-preset", "ultrafast", "-crf", "18"); err != nil {
		t.Fatal(err)
	}
	if raw, err = os.ReadFile(out); err != nil {
		t.Fatal(err)
	}
	answers := intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: truth.Spec.View(), Direction: truth.Spec.Direction}

	own, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
	defer end()
	c := own.Coach(t)
	at := c.AttemptAt(truth.Event, truth.Spec.Athlete)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), answers, 200, nil)
	s := own.Screen(t, browser, c)
	defer s.Done()
	s.Bench(own, at.ID)
	s.Keyboard.MustType(input.KeyT)
	s.Says("24 frames drafted") // whether it was still going on or over already
	if has, _, _ := s.Has("[data-testid=tracking][data-stage=idle]"); !has {
		t.Error("the server still drafts")
	}
	server := sheet(c, at.ID.String()).Work.Clips[clip.ID].Points

	d := h.Coach(t)
	at = d.AttemptAt(truth.Event, truth.Spec.Athlete)
	clip = d.Imported(d.Upload(at.ID, "clip.mp4", raw, len(raw)))
	d.Do("PUT", "/api/clips/"+clip.ID.String(), answers, 200, nil)
	s = h.Screen(t, browser, d)
	defer s.Done()
	s.Bench(h, at.ID)
	s.Keyboard.MustType(input.KeyT)
	s.Says("This server does not draft")
	s.Keyboard.MustType(input.KeyT)
	if err := s.DraftAll(3 * time.Minute); err != nil {
		t.Fatal(err)
	}
	for id, a := range server {
		b := sheet(d, at.ID.String()).Work.Clips[clip.ID].Points[id]
		if b == nil {
			t.Errorf("the browser has no %s", id)
			continue
		}
		if far, f := farthest(a, b); far > 1 {
			t.Errorf("%s in frame %d: %.2f px apart", id, f, far)
		}
	}
	if len(server) < 20 {
		t.Errorf("%d landmarks", len(server))
	}
}

// farthest is how far two tracks are apart where they are farthest, px.
func farthest(a, b *track.Track) (far float64, frame int) {
	for f := min(a.From, b.From); f < max(a.End(), b.End()); f++ {
		p, ok := a.At(f)
		q, also := b.At(f)
		d := math.Hypot(p.X-q.X, p.Y-q.Y)
		if ok != also {
			d = math.Inf(1)
		}
		if d > far {
			far, frame = d, f
		}
	}
	return far, frame
}

// A clip that a program has slowed down: its repeated pictures are told and lead to an
// offered rate; what the tool is not sure of is asked in pictures, and answered by a key.
func TestSlowedClipIsCheckedByKeys(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("drafts take long under the race detector")
	}
	c, err := hard.Find("sprint-start-build-3")
	if err != nil {
		t.Fatal(err)
	}
	film, err := c.Draw(t.Context(), testenv.Drawn())
	if err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(film.Path)
	if err != nil {
		t.Fatal(err)
	}
	own, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
	defer end()
	coach := own.Coach(t)
	who := c.Spec.Athlete
	who.ThrowingHand, who.TakeoffLeg = c.Spec.Hand, c.Spec.Leg
	at := coach.AttemptAt(c.Spec.Event, who)
	clip := coach.Imported(coach.Upload(at.ID, "slowed.mp4", raw, len(raw)))
	if clip.Offer == nil || clip.Offer.Rate != 120 || !strings.Contains(clip.Offer.Reason, "slowed down 4 times") {
		t.Fatalf("offered: %+v", clip.Offer)
	}
	coach.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{View: "side", Direction: c.Spec.Direction}, 200, nil)
	s := own.Screen(t, browser, coach)
	defer s.Done()
	s.Bench(own, at.ID)
	s.Keyboard.MustType(input.KeyC)
	s.See("[data-testid=offer] button").MustClick()
	s.Says("120 a second (your answer)")
	s.Jump(strings.IndexByte(string(clip.Pictures), timebase.Repeated))
	s.Says("shown once more")
	s.Keyboard.MustType(input.KeyT)
	s.Says(" frames drafted")
	s.Keyboard.MustType(input.Comma)
	s.Says("pictures a second tell")
	for range 2 {
		id := *s.See("[data-testid=question]").MustAttribute("data-question")
		if s.MustHas("[data-testid=question] [data-option='1']") {
			s.Keyboard.MustType(input.Digit6)
		} else {
			s.Keyboard.MustType(input.Digit9) // the frame on the stage
		}
		s.Until(func() bool {
			return s.MustEval("id => document.querySelector('[data-testid=question]')?.dataset.question !== id", id).Bool()
		}, "question %s is answered", id)
	}
	saved(s)
	flags, hand := 0, 0
	work := sheet(coach, at.ID.String()).Work.Clips[clip.ID]
	for _, f := range work.Flags {
		if f >= 0 {
			flags++
		}
	}
	for _, p := range work.Points {
		for f := p.From; f < p.End(); f++ {
			if p.SourceAt(f) == track.Hand {
				hand++
			}
		}
	}
	if flags+hand < 2 { // naming the legs places four joints
		t.Errorf("two questions were answered: %d flags, %d points of the hand", flags, hand)
	}
	// Who is meant is one click, and the clip is drafted anew.
	s.Keyboard.MustType(input.KeyT)
	s.See("[data-testid=click-athlete]").MustClick()
	s.See("[data-testid=tool]")
	hip, _ := work.Points["left_hip"].At(s.Frame())
	s.Place(hip.X, hip.Y)
	s.Until(func() bool { return sheet(coach, at.ID.String()).Work.Clips[clip.ID].Box != nil }, "the click is kept")
	s.Says(" frames drafted")
}

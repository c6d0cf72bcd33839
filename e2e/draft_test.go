package e2e

import (
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"neokinema/core/track"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/testenv"
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

package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"neokinema/core/exchange"
	"neokinema/simcam/points"
)

// TestHeldAgainstOthersPoints: from the Bench to the page that holds a file of points against
// the clip's own; what lies inside the doubt that is stated is counted, a row leads to its
// frame, and the points can be taken over as a draft that leaves the hand's alone.
func TestHeldAgainstOthersPoints(t *testing.T) {
	t.Parallel()
	c, s, sh := started(t)
	defer s.Done()
	truth, _ := draw(t, nil)
	clip := sh.Clips[0].ID
	theirs := points.All(truth, 0, 1)
	coco, err := exchange.WriteCOCO(theirs, exchange.Picture{Width: 1280, Height: 720, Frames: len(truth.Frames)})
	if err != nil {
		t.Fatal(err)
	}
	file := func(name string, raw []byte) string {
		path := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(path, raw, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	before := sheet(c, sh.Attempt.ID.String()).Work.Clips[clip].Points
	s.Bench(h, sh.Attempt.ID)
	s.Keyboard.MustType(input.KeyY)
	s.See("[data-reference=points]").MustClick()
	s.See("[data-testid=against]")
	s.Says("what is counted is how often it lies inside the doubt")

	// A file that is none says what is wanted.
	s.MustElement("[data-testid=points-file]").MustSetFiles(file("a.c3d", []byte("no points")))
	s.Says("This file is neither C3D nor COCO keypoints as JSON.")
	s.MustElement("[data-testid=points-file]").MustSetFiles(file("coco.json", coco))
	s.Says("points inside")
	rows := s.MustElements("[data-angle]")
	if len(rows) < 5 {
		t.Fatalf("%d numbers are held against theirs", len(rows))
	}
	// What begins elsewhere in the clip is another movement, and that shows.
	s.See("[aria-label='first frame']").MustSelectAllText().MustInput("30").MustType(input.Enter)
	s.Until(func() bool {
		return strings.Contains(s.MustElement("[data-testid=against]").MustText(), "frames with points of both")
	}, "it is held anew")
	s.See("[aria-label='first frame']").MustSelectAllText().MustInput("0").MustType(input.Enter)
	s.Says("Take these points over as a draft")
	for _, b := range s.MustElements("[data-testid=against] button") {
		if strings.Contains(b.MustText(), "Take these points over") {
			b.MustClick()
		}
	}
	s.Says("Taken over as a draft")
	after := sheet(c, sh.Attempt.ID.String()).Work.Clips[clip].Points
	hands, drafts := 0, 0
	for id, was := range before {
		for f := was.From; f < was.End(); f++ {
			p, ok := was.At(f)
			if !ok || p.Source != "hand" {
				continue
			}
			hands++
			if now, ok := after[id].At(f); !ok || now != p {
				t.Errorf("%s in frame %d was placed by hand at %v and is %v", id, f, p, now)
			}
		}
	}
	for _, now := range after {
		drafts += now.Count()
	}
	if hands == 0 || drafts < 20*len(truth.Frames) {
		t.Errorf("%d points of the hand, %d in all of %d frames", hands, drafts, len(truth.Frames))
	}
	// Out again: COCO is what went in, C3D has its events.
	raw, status := c.Try("GET", "/api/clips/"+clip.String()+"/points.c3d", nil)
	if status != 200 {
		t.Fatalf("%d %s", status, raw)
	}
	take, err := exchange.ReadC3D(raw)
	if err != nil || len(take.Events) == 0 || take.Rate != 240 {
		t.Errorf("the C3D file: %v, %d events, %g/s", err, len(take.Events), take.Rate)
	}
}

package figures

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"time"

	"github.com/google/uuid"

	"neokinema/core/kinematics"
	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// serverDraft is how the server drafts, against the browser.
type serverDraft struct {
	px      float64 // farthest that a point of both lies apart
	speedup float64
}

// part is the first n frames of a clip of the demo, as another file for each number.
func part(name string, n, number int) ([]byte, error) {
	raw, _, err := demo.Shipped(name)
	if err != nil {
		return nil, err
	}
	dir, err := os.MkdirTemp("", "neokinema-part-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	in, out := filepath.Join(dir, "in.mp4"), filepath.Join(dir, "out.mp4")
	if err := os.WriteFile(in, raw, 0o600); err != nil {
		return nil, err
	}
	if err := media.Remake(context.Background(), in, out, "-frames:v", strconv.Itoa(n), "-c:v", "libx264", "-preset", "ultrafast", "-crf", "20", "-metadata", fmt.Sprintf("comment=%d", number)); err != nil {
		return nil, err
	}
	return os.ReadFile(out)
}

// beside drafts the same clip on a server and in a browser.
func (l *Lab) beside() (serverDraft, error) {
	if l.besides != nil {
		return *l.besides, nil
	}
	out := serverDraft{}
	b, err := l.Browser()
	if err != nil {
		return out, err
	}
	const name, frames = "wren jump.mp4", 90
	raw, err := part(name, frames, 0)
	if err != nil {
		return out, err
	}
	_, truth, err := demo.Shipped(name)
	if err != nil {
		return out, err
	}
	answers := intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: truth.Spec.View(), Direction: truth.Spec.Direction}
	points := func(c *testenv.Client, attempt, clip uuid.UUID) kinematics.Points {
		var sh workspace.Workspace
		c.Do("GET", "/api/attempts/"+attempt.String()+"/workspace", nil, http.StatusOK, &sh)
		return sh.Work.Clips[clip].Points
	}
	err = bare{}.try(func() {
		own, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
		defer end()
		c := own.Coach(bare{})
		at := c.AttemptAt(truth.Event, truth.Spec.Athlete)
		clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, len(raw)))
		c.Do("PUT", "/api/clips/"+clip.ID.String(), answers, http.StatusOK, nil)
		start := time.Now()
		c.DraftOver(clip.ID)
		server := time.Since(start).Seconds()
		ofServer := points(c, at.ID, clip.ID)

		h := l.House()
		d := h.Coach(bare{})
		at = d.AttemptAt(truth.Event, truth.Spec.Athlete)
		clip = d.Imported(d.Upload(at.ID, "clip.mp4", raw, len(raw)))
		d.Do("PUT", "/api/clips/"+clip.ID.String(), answers, http.StatusOK, nil)
		s := h.Screen(bare{}, b, d)
		defer s.Close()
		s.Bench(h, at.ID)
		start = time.Now()
		if err := s.DraftAll(15 * time.Minute); err != nil {
			bare{}.Fatal(err)
		}
		out.speedup = time.Since(start).Seconds() / server
		ofBrowser := points(d, at.ID, clip.ID)
		for id, t := range ofServer {
			for f := t.From; f < t.End(); f++ {
				p, ok := t.At(f)
				q, also := ofBrowser.At(id, f)
				switch {
				case ok != also:
					out.px = math.Inf(1)
				case ok:
					out.px = math.Max(out.px, math.Hypot(p.X-q.X, p.Y-q.Y))
				}
			}
		}
	})
	if err == nil {
		l.besides = &out
	}
	return out, err
}

// ThirtyClips is how long an evening's thirty clips of 250 frames take, from the first
// upload until all are drafted, minutes.
func ThirtyClips() (minutes float64, err error) {
	const clips, frames = 30, 250
	names := []string{"renholm start 3.mp4", "tavi flying 30.mp4", "pim shot.mp4", "thorsby 63.mp4"}
	var files [][]byte
	for i := range clips {
		raw, err := part(names[i%len(names)], frames, i)
		if err != nil {
			return 0, err
		}
		files = append(files, raw)
	}
	err = bare{}.try(func() {
		own, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
		defer end()
		c := own.Coach(bare{})
		start := time.Now()
		var ids []uuid.UUID
		for i, raw := range files {
			ids = append(ids, c.Upload(c.Attempt().ID, fmt.Sprintf("clip %d.mp4", i), raw, len(raw)))
		}
		for _, id := range ids {
			c.Imported(id)
		}
		for _, id := range ids {
			if d := c.DraftOver(id); d.Draft.State != "done" {
				bare{}.Fatalf("a draft is %s: %s", d.Draft.State, d.Says)
			}
		}
		minutes = time.Since(start).Minutes()
	})
	return minutes, err
}

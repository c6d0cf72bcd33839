// Package videoanalysis looks through the pictures of a clip for the coach: how the
// camera turned, where a point goes, the strip of a whole run. Its work takes
// seconds, tells how far it is, and ends when its context does.
package videoanalysis

import (
	"context"
	"errors"
	"fmt"
	"math"

	"github.com/google/uuid"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/stabilize"
	"neokinema/core/vision"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Service looks through clips.
type Service struct {
	store  *store.Store
	intake *intake.Service
	// Each look keeps a core busy; more than a few at once would slow all.
	room chan struct{}
}

// New makes the service; most is how many looks may run at once.
func New(s *store.Store, i *intake.Service, most int) *Service {
	return &Service{store: s, intake: i, room: make(chan struct{}, most)}
}

// enter waits for room.
func (s *Service) enter(ctx context.Context) (leave func(), err error) {
	select {
	case s.room <- struct{}{}:
		return func() { <-s.room }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// cameraShare is how much smaller than the proxy the pictures are in which the
// background is followed: half of 720 lines is enough for a tenth of a pixel.
func cameraShare(c store.Clip) float64 {
	return math.Min(1, 640/(float64(max(c.Width, c.Height))*c.ProxyScale))
}

// Camera finds how the camera turned during a clip and stores it. The athlete's
// points, where there are some, tell what is not background.
func (s *Service) Camera(ctx context.Context, team, id uuid.UUID, progress func(done, of int) error) (store.Clip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return c, err
	}
	leave, err := s.enter(ctx)
	if err != nil {
		return c, err
	}
	defer leave()
	tracks, err := store.Tracks(ctx, s.store.DB, id)
	if err != nil {
		return c, err
	}
	share := cameraShare(c)
	scale := c.ProxyScale * share
	e := vision.NewEstimator(scale)
	n := len(c.Stamps)
	err = s.intake.Grays(ctx, c, 0, n-1, share, func(p media.Picture) error {
		e.Add(vision.FromBytes(p.Width, p.Height, p.Pix), athlete(tracks, p.Frame, scale))
		if p.Frame%8 == 0 {
			return progress(p.Frame, n)
		}
		return nil
	})
	if err != nil {
		return c, err
	}
	cam := e.Camera()
	cam.Width, cam.Height = float64(c.Width), float64(c.Height)
	return s.store.SetClipCamera(ctx, team, id, cam)
}

// FollowRequest says what to follow.
type FollowRequest struct {
	Frame  int     `json:"frame" doc:"where the point was placed"`
	To     int     `json:"to" doc:"last frame to look at; before frame to go backwards"`
	X      float64 `json:"x" doc:"px of the upright picture"`
	Y      float64 `json:"y"`
	Radius float64 `json:"radius" doc:"px, of the thing"`
	Streak bool    `json:"streak" doc:"a small thing that flies so fast that it smears"`
}

// TrackedPoint is where the point is in one frame.
type TrackedPoint struct {
	Frame      int     `json:"frame"`
	X          float64 `json:"x"`
	Y          float64 `json:"y"`
	Confidence float64 `json:"confidence"`
}

// errAsks ends a search that is not sure any more.
var errAsks = errors.New("asks")

// Follow follows a point frame by frame and hands over what it finds. Lost says
// at which frame it was not sure any more and why; it is empty when it came to
// the end.
func (s *Service) Follow(ctx context.Context, team, id uuid.UUID, a FollowRequest, each func(TrackedPoint) error) (lost string, err error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return "", err
	}
	if n := len(c.Stamps); a.Frame < 0 || a.Frame >= n || a.To < 0 || a.To >= n || a.To == a.Frame {
		return "", problem.New(problem.Invalid, "Frames %d to %d lie outside this clip of %d frames.", a.Frame, a.To, n)
	}
	if !(a.X >= 0 && a.Y >= 0 && a.X <= float64(c.Width) && a.Y <= float64(c.Height)) || a.Radius < 0 || a.Radius > 200 {
		return "", problem.New(problem.Invalid, "The point must lie inside the picture, and its radius be at most 200 px.")
	}
	leave, err := s.enter(ctx)
	if err != nil {
		return "", err
	}
	defer leave()
	var t *vision.Tracker
	k := c.ProxyScale
	err = s.intake.Grays(ctx, c, a.Frame, a.To, 1, func(p media.Picture) error {
		g := vision.FromBytes(p.Width, p.Height, p.Pix)
		if t == nil {
			var err error
			if t, err = vision.NewTracker(g, r2.Vec{X: k * a.X, Y: k * a.Y}, vision.Options{Radius: k * a.Radius, Streak: a.Streak}); err != nil {
				lost = err.Error()
				return errAsks
			}
			return nil
		}
		step := t.Next(g)
		if step.Lost != "" {
			lost = fmt.Sprintf("frame %d: %s", p.Frame, step.Lost)
			return errAsks
		}
		return each(TrackedPoint{p.Frame, step.At.X / k, step.At.Y / k, step.Confidence})
	})
	if errors.Is(err, errAsks) {
		err = nil
	}
	return lost, err
}

// Common is the camera of a clip, or a problem when paths cannot be shown.
func common(c store.Clip) (*stabilize.Rotations, error) {
	if c.Camera != nil && c.Camera.Problem != "" {
		return nil, problem.New(problem.Invalid, "This clip has no common frame: %s.", c.Camera.Problem)
	}
	return c.Camera, nil
}

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

	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/core/stabilize"
	"neokinema/core/track"
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

// athlete is the part of a small picture that the athlete covers: the box of the
// points with room for what sticks out; nil without points near the frame.
func athlete(tracks map[string]*track.Track, frame int, scale float64) func(x, y float64) bool {
	x0, y0, x1, y1 := box(tracks, frame)
	if x1 < x0 {
		return nil
	}
	room := 0.14 * math.Max(x1-x0, y1-y0)
	x0, y0, x1, y1 = scale*(x0-room), scale*(y0-room), scale*(x1+room), scale*(y1+room)
	return func(x, y float64) bool { return x > x0 && x < x1 && y > y0 && y < y1 }
}

// box is the smallest box about the body's points in a frame or, failing that, up
// to six frames around; empty (x1 < x0) when there are fewer than four.
func box(tracks map[string]*track.Track, frame int) (x0, y0, x1, y1 float64) {
	for d := 0; d <= 6; d++ {
		for _, f := range []int{frame - d, frame + d} {
			x0, y0, x1, y1 = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
			seen := 0
			for id, t := range tracks {
				if p, ok := t.At(f); ok && !body.IsThing(id) {
					x0, y0, x1, y1 = math.Min(x0, p.X), math.Min(y0, p.Y), math.Max(x1, p.X), math.Max(y1, p.Y)
					seen++
				}
			}
			if seen >= 4 {
				return x0, y0, x1, y1
			}
		}
	}
	return 0, 0, -1, -1
}

// Refinement of a draft by the flow of the picture.
const (
	flowWindow = 9   // half the window, px of the proxy
	draftSD    = 5.0 // px of a 720-line picture: how far a sure draft may be off
)

// Refine makes a draft better by the picture. The flow at every drafted joint,
// frame by frame, takes its trembling out; the same look tells how the camera
// turned; then feet that stand are followed. It gives a change for each landmark
// and the clip with its camera; what a hand has set stays.
func (s *Service) Refine(ctx context.Context, team, id uuid.UUID, progress func(done, of int) error) (kinematics.Points, store.Clip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return nil, c, err
	}
	leave, err := s.enter(ctx)
	if err != nil {
		return nil, c, err
	}
	defer leave()
	tracks, err := store.Tracks(ctx, s.store.DB, id)
	if err != nil {
		return nil, c, err
	}
	n, k := len(c.Stamps), c.ProxyScale
	flows := map[string][]vision.Flow{}
	for id, t := range tracks {
		if !body.IsThing(id) && t.Count() > 8 {
			flows[id] = make([]vision.Flow, max(0, n-1))
		}
	}
	if len(flows) == 0 {
		return nil, c, problem.New(problem.Invalid, "There is no draft in this clip yet.")
	}
	// Level 1 of the pyramid is half as large: small enough for the background.
	e := vision.NewEstimator(k / 2)
	var before vision.Pyramid
	err = s.intake.Grays(ctx, c, 0, n-1, 1, func(p media.Picture) error {
		now := vision.NewPyramid(vision.FromBytes(p.Width, p.Height, p.Pix), 3)
		if f := p.Frame - 1; f >= 0 {
			for id, list := range flows {
				a, ok := tracks[id].At(f)
				if !ok {
					continue
				}
				at := r2.Vec{X: k * a.X, Y: k * a.Y}
				guess := at
				if b, ok := tracks[id].At(p.Frame); ok {
					guess = r2.Vec{X: k * b.X, Y: k * b.Y}
				}
				list[f] = vision.FlowAt(before, now, at, guess, flowWindow)
			}
		}
		before = now
		e.Add(now[1], athlete(tracks, p.Frame, k/2))
		if p.Frame%8 == 0 {
			return progress(p.Frame, n+n/3)
		}
		return nil
	})
	if err != nil {
		return nil, c, err
	}
	cam := e.Camera()
	cam.Width, cam.Height = float64(c.Width), float64(c.Height)
	if c, err = s.store.SetClipCamera(ctx, team, id, cam); err != nil {
		return nil, c, err
	}
	out, better := kinematics.Points{}, kinematics.Points{}
	for id, t := range tracks {
		better[id] = t.Clone()
		if flow, ok := flows[id]; ok {
			if change := fused(t, flow, k, float64(c.Height)/720); change.Count() > 0 {
				out[id] = change
				better[id].Apply(change, false)
			}
		}
	}
	stands, feet, err := s.feet(ctx, c, cam, better, func(done, of int) error { return progress(n+n/3*done/max(1, of), n+n/3) })
	if err != nil {
		return nil, c, err
	}
	if c, err = s.store.SetClipContacts(ctx, team, id, stands); err != nil {
		return nil, c, err
	}
	for id, change := range feet {
		if out[id] == nil {
			out[id] = change
			continue
		}
		out[id].Apply(change, true)
	}
	return out, c, nil
}

// fused is the change that brings a track together with its flow.
func fused(t *track.Track, flow []vision.Flow, k, large float64) *track.Track {
	n := t.Len()
	draft, sd := make([]r2.Vec, n), make([]float64, n)
	last := r2.Vec{}
	for i := range n {
		p, ok := t.At(t.From + i)
		if !ok {
			draft[i] = last
			continue
		}
		draft[i] = r2.Vec{X: k * p.X, Y: k * p.Y}
		last = draft[i]
		sd[i] = k * large * draftSD / math.Max(0.15, p.Confidence)
		if p.Source == track.Hand.String() {
			sd[i] = 0.5
		}
	}
	places := vision.Fuse(draft, sd, flow[t.From:t.From+max(0, n-1)])
	out := track.New(n)
	for i, q := range places {
		p, ok := t.At(t.From + i)
		if !ok || p.Source == track.Hand.String() {
			continue
		}
		p.X, p.Y = q.X/k, q.Y/k
		_ = out.Set(t.From+i, &p)
	}
	for i, l := range out.Source {
		if l == track.Empty {
			out.Source[i] = track.Keep
		}
	}
	return out
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

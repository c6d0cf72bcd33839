package videoanalysis

import (
	"context"
	"math"

	"github.com/google/uuid"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/core/vision"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Grays hands over frames of a clip as grey pictures, share times as large as its proxy;
// to may lie before from.
type Grays func(from, to int, share float64, each func(media.Picture) error) error

// Refinement of a draft by the flow of the picture.
const (
	flowWindow = 9    // half the window, px of the enlarged picture
	draftSD    = 0.01 // how far a sure draft may be off, standing heights
)

// Small pictures are looked at enlarged: windows of a fixed number of pixels then cover as
// much of a small athlete as of a large one. Assumed, and shaped on simulated clips.
const (
	tallWanted  = 430.0 // standing height at which windows were chosen, px
	mostEnlarge = 3.0
	tallLeast   = 45.0 // px of the original: below that feet are a few pixels
)

// Refined is what a look through the pictures makes of a draft.
type Refined struct {
	Changes  kinematics.Points // of tracks, by landmark
	Camera   *stabilize.Rotations
	Contacts []contact.Contact
}

// looked is a clip that is being looked through.
type looked struct {
	clip    store.Clip
	grays   Grays
	enlarge float64
}

// Refine makes a draft better by the picture and stores how the camera turned and where
// shoes stood. It gives a change for each landmark and the clip; what a hand has set stays.
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
	r, err := Refine(c, tracks, func(from, to int, share float64, each func(media.Picture) error) error {
		return s.intake.Grays(ctx, c, from, to, share, each)
	}, progress)
	if err != nil {
		return nil, c, err
	}
	if c, err = s.store.SetClipCamera(ctx, team, id, r.Camera); err != nil {
		return nil, c, err
	}
	c, err = s.store.SetClipContacts(ctx, team, id, r.Contacts)
	return r.Changes, c, err
}

// Refine looks through the pictures of a clip that has a draft. The flow at every drafted
// joint, frame by frame, takes its trembling out; the same look tells how the camera turned;
// then feet that stand are followed.
func Refine(c store.Clip, tracks map[string]*track.Track, grays Grays, progress func(done, of int) error) (Refined, error) {
	if c.Pictures.Stills() {
		return Refined{Changes: kinematics.Points{}, Camera: c.Camera}, nil
	}
	if frames := c.Pictures.Frames(); len(frames) > 1 {
		return refineOwn(c, frames, tracks, grays, progress)
	}
	n := len(c.Stamps)
	flows := map[string][]vision.Flow{}
	for id, t := range tracks {
		if !body.IsThing(id) && t.Count() > 8 {
			flows[id] = make([]vision.Flow, max(0, n-1))
		}
	}
	if len(flows) == 0 {
		return Refined{}, problem.New(problem.Invalid, "There is no draft in this clip yet.")
	}
	tall := standing(kinematics.New(tracks, kinematics.Film{Rate: max(1, c.FileRate), View: angles.View{Direction: 1}, Camera: &stabilize.Rotations{}}, nil))
	q := &looked{c, grays, 1}
	if tall > 0 {
		q.enlarge = min(mostEnlarge, max(1, tallWanted/(tall*c.ProxyScale)))
	}
	k := c.ProxyScale * q.enlarge
	// Level 1 of the pyramid is half as large: small enough for the background.
	e := vision.NewEstimator(k / 2)
	var before vision.Pyramid
	err := grays(0, n-1, q.enlarge, func(p media.Picture) error {
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
		return Refined{}, err
	}
	out := Refined{Changes: kinematics.Points{}, Camera: e.Camera()}
	out.Camera.Width, out.Camera.Height = float64(c.Width), float64(c.Height)
	if tall == 0 {
		tall = float64(c.Height) / 2
	}
	better := kinematics.Points{}
	lo, hi, over := e.Over()
	for id, t := range tracks {
		if over && !body.IsThing(id) {
			t = covered(t, lo, hi)
		}
		better[id] = t.Clone()
		if flow, ok := flows[id]; ok {
			if change := fused(t, flow, k, tall); change.Count() > 0 {
				out.Changes[id] = change
				better[id].Apply(change, false)
			}
		}
	}
	contacts, feet, err := q.feet(out.Camera, better, func(done, of int) error { return progress(n+n/3*done/max(1, of), n+n/3) })
	if err != nil {
		return Refined{}, err
	}
	out.Contacts = contacts
	for id, change := range feet {
		if out.Changes[id] == nil {
			out.Changes[id] = change
			continue
		}
		out.Changes[id].Apply(change, true)
	}
	return out, nil
}

// unseen is the confidence, per cent, of a computed point that something is laid over: no
// path takes it.
const unseen = 5

// covered is a track whose computed points in a box are not to be believed.
func covered(t *track.Track, lo, hi r2.Vec) *track.Track {
	out := t.Clone()
	for i := range out.Source {
		x, y := float64(out.X[i]), float64(out.Y[i])
		if s := out.SourceAt(out.From + i); s != track.None && s != track.Hand && x > lo.X && x < hi.X && y > lo.Y && y < hi.Y {
			out.Confidence[i] = min(out.Confidence[i], unseen)
		}
	}
	return out
}

// standing is the standing height by the longer leg, px of the original; 0 without legs.
func standing(m *kinematics.Movement) (tall float64) {
	for _, side := range []string{"left", "right"} {
		tall = math.Max(tall, (m.Length(side+"_hip", side+"_knee")+m.Length(side+"_knee", side+"_ankle"))/legShare)
	}
	return tall
}

// fused is the change that brings a track together with its flow; k are px of the picture
// in which the flow was seen, per px of the original.
func fused(t *track.Track, flow []vision.Flow, k, tall float64) *track.Track {
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
		sd[i] = k * tall * draftSD / math.Max(0.15, p.Confidence)
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

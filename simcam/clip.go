// Package simcam is the simulated athlete and camera: clips of the ten events of
// which every joint, contact, path and key position is known. It feeds the demo
// and gives tests their truth.
//
// Imports: figure (body), move (motions) and film (lens, renderer) below; demo,
// figures and tests above. World: metres, x in the running or throwing
// direction, y up, z to the right.
package simcam

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"runtime"

	"golang.org/x/sync/errgroup"
	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/internal/media"
	"neokinema/simcam/figure"
	"neokinema/simcam/film"
	"neokinema/simcam/move"
)

// Scene is a clip before it is drawn.
type Scene struct {
	Truth  Truth
	Motion *move.Motion
	mirror float64
	lens   func(t float64) film.Lens
	person person
	seed   uint64
	others func(t float64) ([]film.Cone, []r3.Vec)
}

// New works out the motion of a clip and what the camera sees of it.
func New(s Spec) (*Scene, error) {
	s = s.filled()
	if err := s.Check(); err != nil {
		return nil, err
	}
	m, err := move.New(s.Athlete, s.wish())
	if err != nil {
		return nil, err
	}
	sc := &Scene{Motion: m, mirror: 1, person: newPerson(s.Athlete, s.Kit, s.Look), seed: s.Seed + 1}
	if s.Mirrored() {
		sc.mirror = -1
	}
	first, last := m.First+s.Camera.Late, m.Last-s.Camera.Early
	n := int((last - first) * s.CaptureRate)
	if n < 2 {
		return nil, fmt.Errorf("the movement lasts %.2f s; with a late start of %g and an early end of %g nothing is left", m.Last-m.First, s.Camera.Late, s.Camera.Early)
	}
	sc.lens = sc.aim(s)
	if len(s.Others) > 0 {
		look := sc.lens(first)
		away := r3.Sub(look.Target, look.At)
		away.Y = 0
		if sc.others, err = sc.crowd(s.Others, r3.Vec{X: look.Target.X, Z: look.Target.Z}, r3.Unit(away)); err != nil {
			return nil, err
		}
	}
	variant := s.Variant
	if e, err := move.Find(s.Event); err == nil && variant == "" {
		variant = e.Variants[0].ID
	}
	l0 := sc.lens(first)
	sc.Truth = Truth{Version: 2, Event: s.Event, Variant: variant, Spec: s, Start: s.Camera.Late, K1: s.Camera.Distortion, Focal: l0.Focal, Positions: map[string]int{}, Frames: make([]Frame, n)}
	for id, t := range m.Times {
		if f := int(math.Ceil((t-first)*s.CaptureRate - 1e-9)); f >= 0 && f < n {
			sc.Truth.Positions[id] = f
		}
	}
	var turn unwrap
	for i := range n {
		sc.Truth.Frames[i] = sc.frame(first+float64(i)/s.CaptureRate, float64(i)/s.CaptureRate, &turn)
	}
	if !math.IsNaN(m.Release) {
		sc.Truth.Release = sc.releaseState(m.Release - first)
	}
	sc.Truth.Ground = sc.groundMarks(l0)
	return sc, nil
}

// unwrap makes angles continuous from frame to frame.
type unwrap [3]float64

func (u *unwrap) next(i int, deg float64) float64 {
	u[i] += math.Remainder(deg-u[i], 360)
	return u[i]
}

func (sc *Scene) turned(v r3.Vec) r3.Vec { v.Z *= sc.mirror; return v }

// body is the athlete as seen: mirrored when the athlete is.
func (sc *Scene) body(b figure.Body) figure.Body {
	if sc.mirror > 0 {
		return b
	}
	var out figure.Body
	half := len(b) / 2
	for i := range half {
		out[i], out[i+half] = sc.turned(b[i+half]), sc.turned(b[i])
	}
	return out
}

func (sc *Scene) side(i int) string {
	if (i == figure.Left) == (sc.mirror > 0) {
		return string(body.Left)
	}
	return string(body.Right)
}

func (sc *Scene) frame(t, since float64, turn *unwrap) Frame {
	st := sc.Motion.At(t)
	l := sc.lens(t)
	mark := func(v r3.Vec) Landmark {
		v = sc.turned(v)
		px, _ := l.Project(v)
		return Landmark{World: [3]float64{v.X, v.Y, v.Z}, Image: [2]float64{finite(px.X), finite(px.Y)}}
	}
	f := Frame{Time: since, Landmarks: map[string]Landmark{}, Contacts: []string{}, Centre: mark(st.Centre), Free: st.Free, Camera: l.Matrix()}
	for i, id := range body.Landmarks() {
		// The motion's own side is the other one when mirrored.
		v := st.Body[i]
		if sc.mirror < 0 {
			v = st.Body[(i+len(st.Body)/2)%len(st.Body)]
		}
		f.Landmarks[id] = mark(v)
	}
	for side := range 2 {
		if st.Down[side] {
			f.Contacts = append(f.Contacts, sc.side(side))
			if st.OnHeel[side] {
				f.OnHeel = append(f.OnHeel, sc.side(side))
			}
		}
	}
	// Azimuths in the motion's own world: the same number means the same moment
	// for both hands.
	facing := func(part int) float64 {
		across := r3.Sub(st.Body.At(figure.Right, part), st.Body.At(figure.Left, part))
		return 180 - figure.Heading(r3.Vec{X: across.Z, Z: -across.X})
	}
	f.Azimuths = Azimuths{Hips: turn.next(0, facing(figure.Hip)), Shoulders: turn.next(1, facing(figure.Shoulder))}
	if c, ok := st.Implement["centre"]; ok {
		axis := figure.Between(st.Body.Mid(figure.Hip), st.Body.Mid(figure.Shoulder), 0.5)
		az := turn.next(2, 180-figure.Heading(r3.Sub(c, axis)))
		f.Azimuths.Implement = &az
	}
	if sc.others != nil {
		_, hips := sc.others(t)
		for _, v := range hips {
			px, _ := l.Project(v)
			f.Others = append(f.Others, [2]float64{finite(px.X), finite(px.Y)})
		}
	}
	if len(st.Implement) > 0 {
		f.Implement = map[string]Landmark{}
		for id, v := range st.Implement {
			f.Implement[id] = mark(v)
		}
	}
	return f
}

// finite stands in for the pixel of something behind the camera.
func finite(v float64) float64 {
	if math.IsNaN(v) || math.Abs(v) > 1e6 {
		return -1e6
	}
	return v
}

func (sc *Scene) releaseState(since float64) *move.ReleaseState {
	st := sc.Motion.Leaving()
	p, v := sc.turned(r3.Vec(st.Position)), sc.turned(r3.Vec(st.Velocity))
	level := math.Hypot(v.X, v.Z)
	out := &move.ReleaseState{
		Time: since, Position: [3]float64{p.X, p.Y, p.Z}, Velocity: [3]float64{v.X, v.Y, v.Z}, Speed: r3.Norm(v),
		Angle: deg(math.Atan2(v.Y, level)), Height: p.Y, Aside: deg(math.Atan2(v.Z, v.X)),
	}
	switch sc.Motion.Thrown.Kind {
	case "javelin":
		out.Attack = deg(math.Asin(st.Axis.Y)) - out.Angle
	case "discus":
		// How far the disc's face is tipped back against the path.
		out.Attack = deg(math.Asin(-r3.Dot(r3.Vec(st.Axis), r3.Unit(r3.Vec(st.Velocity)))))
	}
	return out
}

func deg(rad float64) float64 { return rad * 180 / math.Pi }

// groundMarks are known points of the venue, for scale and ground plane.
func (sc *Scene) groundMarks(l film.Lens) map[string]Landmark {
	out := map[string]Landmark{}
	for id, v := range sc.Motion.Props.Marks() {
		v = sc.turned(v)
		if px, z := l.Project(v); z > 0 && px.X >= 0 && px.Y >= 0 && px.X < float64(l.Width) && px.Y < float64(l.Height) {
			out[id] = Landmark{World: [3]float64{v.X, v.Y, v.Z}, Image: [2]float64{px.X, px.Y}}
		}
	}
	return out
}

// WriteClip draws the scene and encodes it to a video file, with the truth
// beside it as path + ".truth.json".
func (sc *Scene) WriteClip(ctx context.Context, path string) error {
	raw, err := json.Marshal(sc.Truth)
	if err != nil {
		return err
	}
	if err := os.WriteFile(path+".truth.json", raw, 0o644); err != nil {
		return err
	}
	s := sc.Truth.Spec
	video := media.RawVideo{Width: s.Width, Height: s.Height, Rate: s.FileRate, Tags: map[string]string{}, CRF: s.Camera.Compression}
	if s.TagRate {
		video.Tags[media.CaptureRateTag] = fmt.Sprintf("%g", s.CaptureRate)
	}
	if heard := sc.Sound(); heard != nil {
		sound := path + ".wav"
		if err := os.WriteFile(sound, heard, 0o644); err != nil {
			return err
		}
		defer os.Remove(sound)
		video.Sound = sound
	}
	f := sc.film()
	return media.Encode(ctx, video, path, func(write func([]byte) error) error {
		// Frames are drawn in parallel in small batches and written in order.
		workers := runtime.NumCPU()
		pictures := make([][]byte, workers)
		for first := 0; first < len(sc.Truth.Frames); first += workers {
			var g errgroup.Group
			batch := min(workers, len(sc.Truth.Frames)-first)
			for k := range batch {
				g.Go(func() error {
					pictures[k] = f.Frame(sc.when(first+k), first+k)
					return ctx.Err()
				})
			}
			if err := g.Wait(); err != nil {
				return err
			}
			for k := range batch {
				if err := write(pictures[k]); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// when is the motion's time of a frame.
func (sc *Scene) when(frame int) float64 {
	return sc.Motion.First + sc.Truth.Start + sc.Truth.Frames[frame].Time
}

// Pictures gives a function that draws frames of the scene: 3 bytes a pixel, rows
// from above.
func (sc *Scene) Pictures() func(frame int) []byte {
	f := sc.film()
	return func(frame int) []byte { return f.Frame(sc.when(frame), frame) }
}

// Rolling is [Scene.Pictures] of a camera that reads its picture row by row: so many
// seconds pass from the first to the last row. It is drawn in bands.
func (sc *Scene) Rolling(readout float64) func(frame int) []byte {
	f := sc.film()
	const bands = 6
	s := sc.Truth.Spec
	return func(frame int) []byte {
		out := make([]byte, 3*s.Width*s.Height)
		for b := range bands {
			from, to := b*s.Height/bands, (b+1)*s.Height/bands
			late := readout * (float64(b) + 0.5) / bands
			pic := f.Frame(sc.when(frame)+late, frame)
			copy(out[3*s.Width*from:3*s.Width*to], pic[3*s.Width*from:])
		}
		return out
	}
}

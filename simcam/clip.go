package simcam

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"
	"runtime"

	"golang.org/x/sync/errgroup"
	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/internal/media"
)

// Spec describes a clip to be made.
type Spec struct {
	Athlete     body.Person        `json:"athlete"`
	Faults      map[string]float64 `json:"faults"`
	Direction   float64            `json:"direction" doc:"+1 runs to the right of the picture, -1 to the left"`
	CaptureRate float64            `json:"capture_rate"`
	FileRate    float64            `json:"file_rate"`
	TagRate     bool               `json:"tag_rate" doc:"write the capture rate into the file's metadata"`
	Width       int                `json:"width"`
	Height      int                `json:"height"`
	Kit         int                `json:"kit" doc:"choice of clothing"`
}

// Truth is everything that is known of a clip. docs/formats.md describes the
// file.
type Truth struct {
	Version   int            `json:"version"`
	Event     string         `json:"event"`
	Spec      Spec           `json:"spec"`
	Camera    [3][4]float64  `json:"camera" doc:"projection matrix"`
	Positions map[string]int `json:"positions" doc:"key position to frame"`
	Frames    []Frame        `json:"frames"`
}

// Frame is the truth of one frame.
type Frame struct {
	Time      float64             `json:"t" doc:"true time since frame 0, s"`
	Landmarks map[string]Landmark `json:"landmarks"`
	Contacts  []string            `json:"contacts" doc:"sides whose foot is on pedal or ground"`
}

// Landmark is a place in the world (m) and in the picture (px).
type Landmark struct {
	World [3]float64 `json:"world"`
	Image [2]float64 `json:"image"`
}

// Scene is a clip before it is drawn.
type Scene struct {
	Truth  Truth
	camera Camera
	turn   float64
	dims   dims
	blocks [2]r3.Vec // toe places in the blocks
}

// lead is the still time before the set flag, tail the time after the last
// toe-off, seconds.
const (
	lead = 0.12
	tail = 0.14
)

// New works out the motion of a clip.
func New(s Spec) (*Scene, error) {
	if s.Athlete.Height < 1.0 || s.Athlete.Height > 2.3 {
		return nil, fmt.Errorf("a standing height of %.2f m cannot be simulated; give 1.0 to 2.3", s.Athlete.Height)
	}
	if s.CaptureRate < 24 || s.CaptureRate > 1000 || s.FileRate < 10 || s.FileRate > 240 {
		return nil, errors.New("capture rate must be 24 to 1000 and file rate 10 to 240 per second")
	}
	if s.Width < 320 || s.Height < 180 || s.Width > 3840 || s.Height > 2160 || s.Width%2+s.Height%2 != 0 {
		return nil, errors.New("the picture must be even, 320x180 to 3840x2160")
	}
	motion, err := newStart(s.Athlete, s.Faults)
	if err != nil {
		return nil, err
	}
	sc := &Scene{dims: motion.d, turn: 1}
	if s.Direction < 0 {
		sc.turn = -1
	}
	first, end := motion.times["set"]-lead, motion.times["to3"]+tail
	n := int((end - first) * s.CaptureRate)
	// The lane fills the picture from behind the blocks to after step 3.
	left, right := -1.55*s.Athlete.Height/1.8, motion.hipX.at(end)+0.9*s.Athlete.Height/1.8
	const distance = 9.0
	sc.camera = Camera{
		At: r3.Vec{X: sc.turn * (left + right) / 2, Y: 1.15, Z: distance}, Width: s.Width, Height: s.Height,
		Focal: float64(s.Width) * distance / (right - left),
	}
	sc.Truth = Truth{Version: 1, Event: "sprint-start", Spec: s, Camera: sc.camera.Matrix(), Positions: map[string]int{}, Frames: make([]Frame, n)}
	for id, t := range motion.times {
		sc.Truth.Positions[id] = int(math.Ceil((t - first) * s.CaptureRate))
	}
	for i := range n {
		t := first + float64(i)/s.CaptureRate
		f := Frame{Time: float64(i) / s.CaptureRate, Landmarks: map[string]Landmark{}, Contacts: []string{}}
		for id, w := range motion.d.landmarks(motion.pose(t), s.Athlete.FrontLeg) {
			w.X, w.Z = sc.turn*w.X, sc.turn*w.Z
			px, _ := sc.camera.Project(w)
			f.Landmarks[id] = Landmark{World: [3]float64{w.X, w.Y, w.Z}, Image: [2]float64{px.X, px.Y}}
		}
		for leg, side := range map[int]body.Side{front: s.Athlete.FrontLeg, rear: s.Athlete.FrontLeg.Other()} {
			for _, st := range motion.feet[leg] {
				if t >= st.from && t < st.to && st.from < 1.2 {
					f.Contacts = append(f.Contacts, string(side))
				}
			}
		}
		sc.Truth.Frames[i] = f
	}
	for leg := range 2 {
		toe := motion.feet[leg][0].toe
		sc.blocks[leg] = r3.Vec{X: sc.turn * toe.X, Y: toe.Y, Z: sc.turn * toe.Z}
	}
	return sc, nil
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
	tags := map[string]string{}
	if s.TagRate {
		tags[media.CaptureRateTag] = fmt.Sprintf("%g", s.CaptureRate)
	}
	painter := sc.newPainter()
	return media.Encode(ctx, media.RawVideo{Width: s.Width, Height: s.Height, Rate: s.FileRate, Tags: tags}, path,
		func(write func([]byte) error) error {
			// Frames are drawn in parallel in small batches and written in order.
			workers := runtime.NumCPU()
			pictures := make([][]byte, workers)
			for first := 0; first < len(sc.Truth.Frames); first += workers {
				var g errgroup.Group
				batch := min(workers, len(sc.Truth.Frames)-first)
				for k := range batch {
					g.Go(func() error {
						pictures[k] = painter.paint(first + k).pix
						return nil
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

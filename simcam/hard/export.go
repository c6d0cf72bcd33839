package hard

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/color"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"slices"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/basicfont"
	"golang.org/x/image/math/fixed"
	"golang.org/x/sync/errgroup"

	"neokinema/internal/media"
	"neokinema/simcam"
)

// Slowing is how a program made more pictures than there were.
type Slowing string

// Repeats shows pictures several times, Blends mixes neighbours.
const (
	Repeats Slowing = "repeats"
	Blends  Slowing = "blends"
)

// Pass is one encoding on the way.
type Pass struct {
	Codec string // x264 or x265
	CRF   int
}

// Export is what becomes of a clip between the camera and the coach.
type Export struct {
	Slow    Slowing
	Factor  int     // times slower
	Rate    float64 // pictures a second of the file, where it runs at true speed
	Caption bool
	Rolling float64 // s from the first to the last row of a picture
	Passes  []Pass
}

// Film is a clip that is drawn, with what is true of every frame of its file.
type Film struct {
	Clip
	Path  string
	Truth simcam.Truth // by frame of the file
	// Rate is how many frames of the file pass in a true second.
	Rate float64
	// Repeated tells which frames show the picture before once more, Blended which are a
	// mix of two.
	Repeated, Blended []bool
}

// source is where in the camera's pictures a frame of the file comes from.
type source struct {
	at   int
	next float64 // share of the picture after it
}

// plan lists the sources of all frames of a file, from n pictures of a camera.
func (x Export) plan(n int, camera float64) (list []source, rate float64) {
	steps := 1.0 // pictures of the camera for a frame of the file
	rate = camera
	switch {
	case x.Factor > 1:
		steps, rate = 1/float64(x.Factor), camera*float64(x.Factor)
	case x.Rate > 0:
		steps, rate = camera/x.Rate, x.Rate
	}
	for k := 0; ; k++ {
		at := float64(k) * steps
		i := int(at + 1e-9)
		if i >= n {
			return list, rate
		}
		s := source{at: i}
		if x.Slow == Blends && i+1 < n {
			s.next = at - float64(i)
		}
		list = append(list, s)
	}
}

// retold is the truth by frame of the file.
func retold(t simcam.Truth, list []source, rate float64) simcam.Truth {
	out := t
	out.Positions = map[string]int{}
	out.Frames = make([]simcam.Frame, len(list))
	for k, s := range list {
		f := t.Frames[s.at]
		if s.next > 0 && s.at+1 < len(t.Frames) {
			f = mixed(f, t.Frames[s.at+1], s.next)
		}
		out.Frames[k] = f
	}
	for id, at := range t.Positions {
		for k, s := range list {
			if s.at >= at {
				out.Positions[id] = k
				break
			}
		}
	}
	out.Spec.CaptureRate = rate
	return out
}

func mixed(a, b simcam.Frame, share float64) simcam.Frame {
	mix := func(a, b map[string]simcam.Landmark) map[string]simcam.Landmark {
		out := map[string]simcam.Landmark{}
		for id, p := range a {
			q := b[id]
			for i := range p.World {
				p.World[i] += share * (q.World[i] - p.World[i])
			}
			for i := range p.Image {
				p.Image[i] += share * (q.Image[i] - p.Image[i])
			}
			out[id] = p
		}
		return out
	}
	out := a
	out.Landmarks, out.Implement = mix(a.Landmarks, b.Landmarks), mix(a.Implement, b.Implement)
	out.Time += share * (b.Time - a.Time)
	return out
}

// Draw draws a clip into a folder, or finds it there.
func (c Clip) Draw(ctx context.Context, dir string) (Film, error) {
	scene, err := simcam.New(c.Spec)
	if err != nil {
		return Film{}, fmt.Errorf("%s: %w", c.Name, err)
	}
	list, rate := c.Export.plan(len(scene.Truth.Frames), c.Spec.CaptureRate)
	f := Film{Clip: c, Truth: retold(scene.Truth, list, rate), Rate: rate, Repeated: make([]bool, len(list)), Blended: make([]bool, len(list))}
	for k, s := range list {
		f.Repeated[k] = k > 0 && list[k-1].at == s.at && s.next == 0 && list[k-1].next == 0
		f.Blended[k] = s.next > 0
	}
	wish, err := json.Marshal(c)
	if err != nil {
		return f, err
	}
	truth, err := json.Marshal(scene.Truth)
	if err != nil {
		return f, err
	}
	sum := sha256.Sum256(slices.Concat(wish, truth, []byte(simcam.Code()), []byte("2")))
	f.Path = filepath.Join(dir, fmt.Sprintf("hard-%s-%x.mp4", c.Name, sum[:6]))
	if _, err := os.Stat(f.Path); err == nil {
		return f, nil
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return f, err
	}
	own, err := os.MkdirTemp(dir, "part-")
	if err != nil {
		return f, err
	}
	defer os.RemoveAll(own)
	path := filepath.Join(own, "0.mp4")
	if err := c.encode(ctx, scene, list, path); err != nil {
		return f, err
	}
	for i, p := range c.Export.Passes {
		next := filepath.Join(own, fmt.Sprintf("%d.mp4", i+1))
		lib := map[string]string{"x264": "libx264", "x265": "libx265"}[p.Codec]
		if err := media.Remake(ctx, path, next, "-c:v", lib, "-preset", "veryfast", "-crf", fmt.Sprint(p.CRF), "-pix_fmt", "yuv420p", "-fps_mode", "passthrough"); err != nil {
			return f, err
		}
		path = next
	}
	return f, os.Rename(path, f.Path)
}

func (c Clip) encode(ctx context.Context, scene *simcam.Scene, list []source, path string) error {
	s := c.Spec
	video := media.RawVideo{Width: s.Width, Height: s.Height, Rate: s.FileRate, Tags: map[string]string{}, CRF: s.Camera.Compression}
	if c.Export.Rate > 0 {
		video.Rate = c.Export.Rate
	}
	draw := scene.Pictures()
	if c.Export.Rolling > 0 {
		draw = scene.Rolling(c.Export.Rolling)
	}
	var over func([]byte)
	if c.Export.Caption {
		over = caption(s.Width, s.Height)
	}
	n := len(scene.Truth.Frames)
	kept := map[int][]byte{} // pictures of the camera that are still needed
	drawn := 0
	picture := func(i int) ([]byte, error) {
		for drawn <= i {
			batch := min(runtime.NumCPU(), n-drawn)
			pics := make([][]byte, batch)
			var g errgroup.Group
			for k := range batch {
				g.Go(func() error { pics[k] = draw(drawn + k); return ctx.Err() })
			}
			if err := g.Wait(); err != nil {
				return nil, err
			}
			for k, p := range pics {
				kept[drawn+k] = p
			}
			drawn += batch
		}
		delete(kept, i-2)
		return kept[i], nil
	}
	return media.Encode(ctx, video, path, func(write func([]byte) error) error {
		for _, q := range list {
			a, err := picture(q.at)
			if err != nil {
				return err
			}
			out := slices.Clone(a)
			if q.next > 0 {
				b, err := picture(q.at + 1)
				if err != nil {
					return err
				}
				for i := range out {
					out[i] = byte(math.Round(float64(a[i])*(1-q.next) + float64(b[i])*q.next))
				}
			}
			if over != nil {
				over(out)
			}
			if err := write(out); err != nil {
				return err
			}
		}
		return nil
	})
}

// caption writes over the picture as programs for telephones do: two lines on a band over
// the lower third.
func caption(w, h int) func([]byte) {
	lines := []string{"session 4  easy throws", "keep watching the feet"}
	small := image.NewAlpha(image.Rect(0, 0, 170, 32))
	for i, text := range lines {
		d := font.Drawer{Dst: small, Src: image.NewUniform(color.Alpha{255}), Face: basicfont.Face7x13, Dot: fixed.P(4, 12+15*i)}
		d.DrawString(text)
	}
	band := image.Rect(w/5, h*7/10, w*4/5, h*17/20)
	large := image.NewAlpha(image.Rect(0, 0, band.Dx(), band.Dy()))
	draw.BiLinear.Scale(large, large.Bounds(), small, small.Bounds(), draw.Src, nil)
	return func(pix []byte) {
		for y := band.Min.Y; y < band.Max.Y; y++ {
			for x := band.Min.X; x < band.Max.X; x++ {
				ink := int(large.AlphaAt(x-band.Min.X, y-band.Min.Y).A)
				o := pix[3*(y*w+x) : 3*(y*w+x)+3]
				for i := range o {
					v := int(o[i]) / 3 // a dark band that shows what is below
					o[i] = byte(v + (255-v)*ink/255)
				}
			}
		}
	}
}

var errNone = errors.New("the set has no such clip")

// Find gives a clip of the set by name.
func Find(name string) (Clip, error) {
	for _, c := range Set() {
		if c.Name == name {
			return c, nil
		}
	}
	return Clip{}, fmt.Errorf("%q: %w", name, errNone)
}

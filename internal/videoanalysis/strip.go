package videoanalysis

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"sort"

	"github.com/google/uuid"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Limits of a strip, px.
const (
	stripHeight = 300
	stripWidth  = 3600
	stripLooks  = 16 // pictures from which the background is pieced together
	stripMost   = 16 // moments that may be shown
)

// Strip is a panorama of a run: the background of the whole clip in the common
// frame, and the athlete at some moments.
type Strip struct {
	JPEG  []byte
	X0    float64 // px of the common frame at the strip's left edge
	Y0    float64 // at its top
	Scale float64 // strip px per common px
}

// Strip draws the panorama of a clip with the athlete at the given frames.
func (s *Service) Strip(ctx context.Context, team, id uuid.UUID, moments []int) (Strip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return Strip{}, err
	}
	cam, err := common(c)
	if err != nil {
		return Strip{}, err
	}
	if len(moments) > stripMost {
		return Strip{}, problem.New(problem.Invalid, "A strip shows up to %d moments.", stripMost)
	}
	for _, f := range moments {
		if f < 0 || f >= len(c.Stamps) {
			return Strip{}, problem.New(problem.Invalid, "Frame %d lies outside this clip of %d frames.", f, len(c.Stamps))
		}
	}
	leave, err := s.enter(ctx)
	if err != nil {
		return Strip{}, err
	}
	defer leave()
	tracks, err := store.Tracks(ctx, s.store.DB, id)
	if err != nil {
		return Strip{}, err
	}
	d := newDrawing(c, cam, tracks)
	// Background from frames spread over the pan, then the moments on top.
	n := len(c.Stamps)
	for i := range min(stripLooks, n) {
		f := i * (n - 1) / max(1, min(stripLooks, n)-1)
		p, err := s.intake.Colour(ctx, c, f, d.share)
		if err != nil {
			return Strip{}, err
		}
		d.paint(p, false)
	}
	sort.Ints(moments)
	for _, f := range moments {
		p, err := s.intake.Colour(ctx, c, f, d.share)
		if err != nil {
			return Strip{}, err
		}
		d.paint(p, true)
	}
	var out bytes.Buffer
	if err := jpeg.Encode(&out, d.img, &jpeg.Options{Quality: 86}); err != nil {
		return Strip{}, err
	}
	return Strip{out.Bytes(), d.lo.X, d.lo.Y, d.k}, nil
}

// drawing is a strip on its way.
type drawing struct {
	c      store.Clip
	cam    *stabilize.Rotations
	tracks map[string]*track.Track
	img    *image.RGBA
	done   []bool
	lo     r2.Vec
	k      float64 // strip px per common px
	share  float64 // decoded picture per proxy
}

func newDrawing(c store.Clip, cam *stabilize.Rotations, tracks map[string]*track.Track) *drawing {
	d := &drawing{c: c, cam: cam, tracks: tracks}
	lo, hi := r2.Vec{}, r2.Vec{X: float64(c.Width), Y: float64(c.Height)}
	if !cam.Still() {
		lo, hi = cam.Span()
		// Only the height that the middle of the pan shows: corners of a turned
		// picture reach far up and down.
		lo.Y, hi.Y = math.Max(lo.Y, -0.15*float64(c.Height)), math.Min(hi.Y, 1.15*float64(c.Height))
	}
	d.lo = lo
	d.k = math.Min(stripHeight/(hi.Y-lo.Y), stripWidth/(hi.X-lo.X))
	w, h := max(1, int(d.k*(hi.X-lo.X))), max(1, int(d.k*(hi.Y-lo.Y)))
	d.img = image.NewRGBA(image.Rect(0, 0, w, h))
	d.done = make([]bool, w*h)
	for y := range h {
		for x := range w {
			d.img.SetRGBA(x, y, color.RGBA{22, 28, 30, 255})
		}
	}
	// Decoded about as large as drawn.
	d.share = math.Min(1, math.Max(0.2, 1.3*d.k/c.ProxyScale))
	return d
}

// paint puts a frame's picture on the strip: what is not there yet and not the
// athlete, or the athlete alone.
func (d *drawing) paint(p media.Picture, athleteOnly bool) {
	x0, y0, x1, y1 := box(d.tracks, p.Frame)
	room := 0.12 * math.Max(x1-x0, y1-y0)
	inBox := func(q r2.Vec) bool {
		return x1 > x0 && q.X > x0-room && q.X < x1+room && q.Y > y0-room && q.Y < y1+room
	}
	if athleteOnly && x1 <= x0 {
		return
	}
	kx, ky := float64(p.Width)/float64(d.c.Width), float64(p.Height)/float64(d.c.Height)
	b := d.img.Bounds()
	for y := range b.Dy() {
		for x := range b.Dx() {
			i := y*b.Dx() + x
			if d.done[i] && !athleteOnly {
				continue
			}
			q := d.cam.ToImage(p.Frame, r2.Vec{X: d.lo.X + (float64(x)+0.5)/d.k, Y: d.lo.Y + (float64(y)+0.5)/d.k})
			if !(q.X >= 0 && q.Y >= 0 && q.X < float64(d.c.Width) && q.Y < float64(d.c.Height)) || inBox(q) != athleteOnly {
				continue
			}
			at := 3 * (min(int(q.Y*ky), p.Height-1)*p.Width + min(int(q.X*kx), p.Width-1))
			d.img.SetRGBA(x, y, color.RGBA{p.Pix[at], p.Pix[at+1], p.Pix[at+2], 255})
			d.done[i] = true
		}
	}
}

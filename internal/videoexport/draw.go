package videoexport

import (
	"image"
	"image/color"
	"image/draw"
	"math"

	xdraw "golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"

	"neokinema/internal/media"
	"neokinema/internal/voiceover"
)

// Colours of what is drawn: those of the stage.
var (
	pit   = color.RGBA{12, 16, 17, 255}
	chalk = color.RGBA{241, 236, 224, 255}
	quiet = color.RGBA{150, 158, 156, 255}
	clay  = color.RGBA{208, 106, 69, 255}
	sky   = color.RGBA{140, 192, 214, 255}
	amber = color.RGBA{226, 170, 68, 255}
	moss  = color.RGBA{142, 184, 120, 255}
	plate = color.RGBA{20, 27, 29, 215}
)

var styles = map[string]color.RGBA{"still": amber, "now": moss, "ground": moss, "left": clay, "right": sky, "plain": chalk}

// faces of the letters, made once: 15 and 13 px on 720 lines.
var bold, regular = face(gobold.TTF, 17), face(goregular.TTF, 15)

func face(ttf []byte, size float64) font.Face {
	f, err := opentype.Parse(ttf)
	if err != nil {
		panic(err) // it is linked in
	}
	out, err := opentype.NewFace(f, &opentype.FaceOptions{Size: size, DPI: 72, Hinting: font.HintingFull})
	if err != nil {
		panic(err)
	}
	return out
}

// canvas is one picture of a film.
type canvas struct{ *image.RGBA }

func newCanvas(w, h int) canvas { return canvas{image.NewRGBA(image.Rect(0, 0, w, h))} }

// fill paints a rectangle.
func (c canvas) fill(r image.Rectangle, col color.Color) {
	draw.Draw(c.RGBA, r, image.NewUniform(col), image.Point{}, draw.Over)
}

// raw are its pixels, 3 bytes each, as [media.Encode] wants them.
func (c canvas) raw(into []byte) []byte {
	into = into[:0]
	for i := 0; i+3 < len(c.Pix); i += 4 {
		into = append(into, c.Pix[i], c.Pix[i+1], c.Pix[i+2])
	}
	return into
}

// pane is a part of a canvas that shows a part of a clip's picture.
type pane struct {
	at    image.Rectangle
	k     float64 // canvas px for one px of the clip's picture
	x, y  float64 // canvas place of the clip's origin
	flip  float64 // width of the clip's picture when it is turned round, else 0
	share float64 // proxy px for one px of the clip's picture
}

// show places a part of a clip's picture (x, y, width, height) into a rectangle, whole
// and in the middle.
func show(at image.Rectangle, view [4]float64, share, flip float64) pane {
	k := math.Min(float64(at.Dx())/view[2], float64(at.Dy())/view[3])
	return pane{at: at, k: k, share: share, flip: flip,
		x: float64(at.Min.X) + (float64(at.Dx())-k*view[2])/2 - k*view[0],
		y: float64(at.Min.Y) + (float64(at.Dy())-k*view[3])/2 - k*view[1]}
}

// on is where a place of the clip's picture lies on the canvas.
func (p pane) on(q [2]float64) (x, y float64) {
	if p.flip > 0 {
		q[0] = p.flip - q[0]
	}
	return p.x + p.k*q[0], p.y + p.k*q[1]
}

// picture draws a decoded frame.
func (c canvas) picture(p pane, pic media.Picture) {
	c.fill(p.at, pit)
	src := &packed{pic, p.flip > 0}
	w, h := float64(pic.Width)/p.share*p.k, float64(pic.Height)/p.share*p.k
	to := image.Rect(int(math.Round(p.x)), int(math.Round(p.y)), int(math.Round(p.x+w)), int(math.Round(p.y+h)))
	// What lies outside the pane is cut off.
	xdraw.ApproxBiLinear.Scale(c.SubImage(p.at).(*image.RGBA), to, src.rgba(), image.Rect(0, 0, pic.Width, pic.Height), draw.Src, nil)
}

// packed is a decoded frame as an image.
type packed struct {
	media.Picture
	flip bool
}

func (s *packed) rgba() *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, s.Width, s.Height))
	for y := range s.Height {
		for x := range s.Width {
			from := 3 * (y*s.Width + x)
			if s.flip {
				from = 3 * (y*s.Width + s.Width - 1 - x)
			}
			to := 4 * (y*s.Width + x)
			out.Pix[to], out.Pix[to+1], out.Pix[to+2], out.Pix[to+3] = s.Pix[from], s.Pix[from+1], s.Pix[from+2], 255
		}
	}
	return out
}

// over draws lines with their labels.
func (c canvas) over(p pane, list []voiceover.Drawing) {
	for _, d := range list {
		col, ok := styles[d.Style]
		if !ok {
			col = chalk
		}
		for _, l := range d.Lines {
			for i := 1; i < len(l); i++ {
				ax, ay := p.on(l[i-1])
				bx, by := p.on(l[i])
				c.line(p.at, ax, ay, bx, by, 5, color.RGBA{8, 11, 12, 150})
				c.line(p.at, ax, ay, bx, by, 2.6, col)
			}
			for _, q := range l {
				x, y := p.on(q)
				c.line(p.at, x-3.5, y, x+3.5, y, 7, col)
			}
		}
	}
	// Letters over all lines, none over another.
	var taken []image.Rectangle
	for _, d := range list {
		if d.Label == "" || len(d.Lines) == 0 || len(d.Lines[0]) == 0 {
			continue
		}
		q := d.Lines[0][len(d.Lines[0])/2]
		if d.At != nil {
			q = *d.At
		}
		x, y := p.on(q)
		taken = append(taken, c.label(p.at, int(x)+10, int(y)-10, d.Label, taken))
	}
}

// line draws a thick line inside a rectangle.
func (c canvas) line(in image.Rectangle, ax, ay, bx, by, wide float64, col color.RGBA) {
	dx, dy := bx-ax, by-ay
	n := math.Hypot(dx, dy)
	if n == 0 || math.IsNaN(n) || n > 1e5 {
		return
	}
	ox, oy := -dy/n*wide/2, dx/n*wide/2
	// No more than where it lies is gone through.
	in = in.Intersect(image.Rect(int(math.Min(ax, bx)-wide)-1, int(math.Min(ay, by)-wide)-1, int(math.Max(ax, bx)+wide)+2, int(math.Max(ay, by)+wide)+2))
	if in.Empty() {
		return
	}
	z := vector.NewRasterizer(in.Dx(), in.Dy())
	at := func(x, y float64) (float32, float32) {
		return float32(x - float64(in.Min.X)), float32(y - float64(in.Min.Y))
	}
	z.MoveTo(at(ax+ox, ay+oy))
	z.LineTo(at(bx+ox, by+oy))
	z.LineTo(at(bx-ox, by-oy))
	z.LineTo(at(ax-ox, ay-oy))
	z.ClosePath()
	z.Draw(c.RGBA, in, image.NewUniform(col), image.Point{})
}

// label writes on a plate, as near to a place as others leave room, and gives where it
// stands.
func (c canvas) label(in image.Rectangle, x, y int, text string, taken []image.Rectangle) image.Rectangle {
	w := font.MeasureString(bold, text).Ceil() + 12
	const h = 24
	x, y = max(in.Min.X+2, min(x, in.Max.X-w-2)), max(in.Min.Y+2, min(y-h, in.Max.Y-h-2))
	r := image.Rect(x, y, x+w, y+h)
	for range 12 {
		free := true
		for _, o := range taken {
			if r.Overlaps(o) {
				free = false
			}
		}
		if free {
			break
		}
		if r = r.Add(image.Pt(0, h+2)); r.Max.Y > in.Max.Y {
			r = r.Add(image.Pt(0, in.Min.Y-r.Min.Y+2))
		}
	}
	c.fill(r, plate)
	c.text(r.Min.X+6, r.Max.Y-7, text, chalk, bold)
	return r
}

// text writes from a base line on.
func (c canvas) text(x, y int, s string, col color.Color, f font.Face) {
	d := font.Drawer{Dst: c.RGBA, Src: image.NewUniform(col), Face: f, Dot: fixed.P(x, y)}
	d.DrawString(s)
}

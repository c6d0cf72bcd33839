package videoexport

import (
	"image"
	"image/color"
	"math"
	"testing"

	"neokinema/internal/media"
	"neokinema/internal/voiceover"
)

// A part of a picture stands whole and in the middle of its pane; turned round it is mirrored.
func TestPanesPlacePictures(t *testing.T) {
	at := image.Rect(100, 0, 900, 400)
	p := show(at, [4]float64{200, 100, 400, 400}, 0.5, 0)
	if p.k != 1 {
		t.Fatalf("%g canvas px a px", p.k)
	}
	for from, want := range map[[2]float64][2]float64{{200, 100}: {300, 0}, {600, 500}: {700, 400}, {400, 300}: {500, 200}} {
		if x, y := p.on(from); x != want[0] || y != want[1] {
			t.Errorf("%v is at %g, %g", from, x, y)
		}
	}
	turned := show(at, [4]float64{0, 0, 800, 400}, 1, 800)
	if x, _ := turned.on([2]float64{0, 0}); x != 900 {
		t.Errorf("the left edge is at %g", x)
	}
	if x, _ := turned.on([2]float64{800, 0}); x != 100 {
		t.Errorf("the right edge is at %g", x)
	}
}

// What lies outside of a pane is cut off, the rest has the colours of the picture.
func TestPicturesStayInTheirPane(t *testing.T) {
	c := newCanvas(200, 100)
	pic := media.Picture{Width: 100, Height: 100, Pix: make([]byte, 3*100*100)}
	for i := range pic.Width * pic.Height {
		if i%100 < 50 {
			pic.Pix[3*i] = 200 // red on the left
		} else {
			pic.Pix[3*i+2] = 200 // blue on the right
		}
	}
	at := image.Rect(100, 0, 200, 100)
	c.picture(show(at, [4]float64{0, 0, 100, 100}, 1, 0), pic)
	if got := c.RGBAAt(50, 50); got.A != 0 {
		t.Errorf("beside the pane there is %v", got)
	}
	if l, r := c.RGBAAt(110, 50), c.RGBAAt(190, 50); l.R < 190 || r.B < 190 || l.B > 10 {
		t.Errorf("left %v, right %v", l, r)
	}
	c.picture(show(at, [4]float64{0, 0, 100, 100}, 1, 100), pic)
	if l, r := c.RGBAAt(110, 50), c.RGBAAt(190, 50); l.B < 190 || r.R < 190 {
		t.Errorf("turned round: left %v, right %v", l, r)
	}
	if raw := c.raw(nil); len(raw) != 3*200*100 || raw[3*(50*200+110)+2] < 190 {
		t.Errorf("%d bytes", len(raw))
	}
}

// Lines are seen where they were drawn, and nowhere outside of the pane.
func TestLinesLieWhereTheyWereDrawn(t *testing.T) {
	c := newCanvas(200, 100)
	p := show(image.Rect(0, 0, 100, 100), [4]float64{0, 0, 100, 100}, 1, 0)
	c.over(p, []voiceover.Drawing{{Style: "left", Lines: [][][2]float64{{{10, 50}, {190, 50}}}}})
	on := func(x, y int) color.RGBA { return c.RGBAAt(x, y) }
	if got := on(60, 50); absDiff(got, clay) > 30 {
		t.Errorf("on the line: %v", got)
	}
	if got := on(60, 80); got.A != 0 {
		t.Errorf("beside the line: %v", got)
	}
	if got := on(150, 50); got.A != 0 {
		t.Errorf("outside of the pane: %v", got)
	}
}

func absDiff(a, b color.RGBA) int {
	d := func(x, y uint8) int { return int(math.Abs(float64(x) - float64(y))) }
	return max(d(a.R, b.R), d(a.G, b.G), d(a.B, b.B))
}

// Labels leave each other room and stay inside of the pane as long as there is any.
func TestLabelsLeaveRoom(t *testing.T) {
	c := newCanvas(400, 300)
	in := image.Rect(0, 0, 400, 300)
	var taken []image.Rectangle
	for range 8 {
		r := c.label(in, 390, 150, "knee 118°", taken)
		if !r.In(in) {
			t.Errorf("%v is outside", r)
		}
		for _, o := range taken {
			if r.Overlaps(o) {
				t.Errorf("%v lies over %v", r, o)
			}
		}
		taken = append(taken, r)
	}
	if first := taken[0]; first.Max.X > 398 || first.Max.X < 380 {
		t.Errorf("not beside its place: %v", first)
	}
}

// A stage is still while neither picture, part nor lines change.
func TestStill(t *testing.T) {
	lines := []voiceover.Drawing{{Label: "a"}}
	a := voiceover.State{Frame: 3, View: [4]float64{0, 0, 1, 1}, Over: lines}
	if b := a; !still(a, b) {
		t.Error("the same is not still")
	}
	for name, change := range map[string]func(*voiceover.State){
		"frame": func(s *voiceover.State) { s.Frame++ },
		"view":  func(s *voiceover.State) { s.View[0]++ },
		"lines": func(s *voiceover.State) { s.Over = []voiceover.Drawing{{Label: "a"}} },
		"none":  func(s *voiceover.State) { s.Over = nil },
	} {
		b := a
		change(&b)
		if still(a, b) {
			t.Errorf("another %s is still", name)
		}
	}
}

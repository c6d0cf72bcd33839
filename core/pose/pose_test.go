package pose

import (
	"errors"
	"math"
	"slices"
	"testing"

	"neokinema/core/body"
	"neokinema/core/track"
)

// ramp is a picture whose brightness rises by a to the right and b downward.
func ramp(t testing.TB, f Format, w, h int, a, b float64) *Picture {
	t.Helper()
	raw := make([]byte, f.Size(w, h))
	for i := range raw {
		raw[i] = 128
	}
	for y := range h {
		for x := range w {
			v := 40 + a*float64(x) + b*float64(y)
			if f == RGBA {
				raw[4*(y*w+x)], raw[4*(y*w+x)+1], raw[4*(y*w+x)+2] = byte(v), byte(v), byte(v)
				continue
			}
			raw[y*w+x] = byte(v)
		}
	}
	p, err := NewPicture(f, w, h, raw)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// A picture of even slope, cut out at any size and turn, has that slope: the value in the
// middle of every new pixel is the one at its place.
func TestCutPutsPixelsInTheirPlaces(t *testing.T) {
	p := ramp(t, I420, 200, 160, 0.5, 0.25)
	for _, s := range []Square{{100, 80, 60, 0}, {100, 80, 60, 0.4}, {90, 80, 20, -1.2}, {100, 80, 140, 0}, {100, 80, 90, math.Pi}, {83.3, 71.7, 33, 0.01}} {
		const n = 32
		out := make([]byte, 3*n*n)
		p.Cut(s, n, out)
		for _, at := range [][2]int{{16, 16}, {3, 5}, {28, 9}, {12, 30}} {
			x, y := s.at((float64(at[0])+0.5)/n, (float64(at[1])+0.5)/n)
			// Pixel i covers i to i+1.
			want := 1.1644 * (40 + 0.5*(x-0.5) + 0.25*(y-0.5) - 16)
			if got := float64(out[3*(at[1]*n+at[0])]); math.Abs(got-want) > 1.6 {
				t.Errorf("%+v at %v: %g, not %.1f", s, at, got, want)
			}
		}
	}
}

// What is smaller than a new pixel is averaged and not skipped: a picture of thin lines
// becomes grey at any size.
func TestCutAveragesWhatItShrinks(t *testing.T) {
	w, h := 512, 512
	raw := make([]byte, I420.Size(w, h))
	for i := range raw {
		raw[i] = 128
		if i < w*h {
			raw[i] = byte(16 + 219*(i%w%2))
		}
	}
	p, err := NewPicture(I420, w, h, raw)
	if err != nil {
		t.Fatal(err)
	}
	for _, side := range []float64{128, 200, 300, 500} {
		const n = 64
		out := make([]byte, 3*n*n)
		p.Cut(Square{256, 256, side, 0}, n, out)
		for i := 0; i < len(out); i += 3 {
			if v := out[i]; v < 100 || v > 155 {
				t.Fatalf("%g px wide: a pixel is %d", side, v)
			}
		}
	}
}

// Outside the picture there is nothing, and every format shows the same.
func TestFormatsAndBorders(t *testing.T) {
	const n = 16
	var before []byte
	for _, f := range []Format{I420, NV12, RGBA} {
		p := ramp(t, f, 61, 41, 1, 1)
		out := make([]byte, 3*n*n)
		p.Cut(Square{0, 0, 40, 0}, n, out)
		if out[0] != 0 || out[3*(n*n-1)] == 0 {
			t.Errorf("%s: corner %d, middle %d", f, out[0], out[3*(n*n-1)])
		}
		p.Cut(Square{30, 20, 20, 0}, n, out)
		if out[0] != out[1] || out[1] != out[2] {
			t.Errorf("%s: grey became %v", f, out[:3])
		}
		if f == RGBA { // full range: other numbers, the same grey
			if d := int(out[0]) - (40 + 20 + 10); d < -3 || d > 3 {
				t.Errorf("RGBA comes back as %d", out[0])
			}
			continue
		}
		if before != nil && !slices.Equal(before, out) {
			t.Errorf("%s differs", f)
		}
		before = slices.Clone(out)
	}
	for _, c := range []struct {
		f    Format
		w, h int
		n    int
	}{{I420, 0, 10, 100}, {I420, 10, 10, 20}, {"P010", 10, 10, 1000}} {
		if _, err := NewPicture(c.f, c.w, c.h, make([]byte, c.n)); err == nil {
			t.Errorf("%+v was read", c)
		}
	}
}

// person is a runner that sees one person standing at a place of the picture, whatever it
// is shown, unless the square does not hold the place. Exchanged tells that the second
// network takes left for right.
type person struct {
	at        func(frame int) (x, y float64)
	frame     int
	tall      float64
	square    Square // of the last cut
	exchanged bool
	missing   bool
	ran       map[Network]int
}

// places of a standing person, standing heights from the hips, right and down.
var places = map[string][2]float64{
	"nose": {0.03, -0.42}, "eye": {0.02, -0.44}, "ear": {0, -0.43}, "shoulder": {0.02, -0.32}, "elbow": {0.07, -0.16}, "wrist": {0.09, 0}, "hand": {0.1, 0.05},
	"hip": {0.01, 0}, "knee": {0.02, 0.24}, "ankle": {0.01, 0.46}, "heel": {-0.03, 0.5}, "toe": {0.1, 0.5},
}

func (p *person) where(id string) (x, y float64) {
	part, side := id, 0.0
	if len(id) > 5 && id[:5] == "left_" {
		part, side = id[5:], -0.03
	} else if len(id) > 6 && id[:6] == "right_" {
		part, side = id[6:], 0.03
	}
	cx, cy := p.at(p.frame)
	return cx + p.tall*(places[part][0]+side), cy + p.tall*places[part][1]
}

func (p *person) Run(n Network, _ []byte) ([]float32, error) {
	p.ran[n]++
	s := p.square
	inside := func(x, y float64) (u, v float64) {
		sin, cos := math.Sincos(-s.Turn)
		dx, dy := x-s.X, y-s.Y
		return 0.5 + (cos*dx-sin*dy)/s.Side, 0.5 + (sin*dx+cos*dy)/s.Side
	}
	if n == Joints {
		out := make([]float32, 0, 51)
		for _, id := range joints {
			u, v := inside(p.where(id))
			score := 0.9
			if p.missing || u < 0 || v < 0 || u > 1 || v > 1 {
				score = 0.05
			}
			out = append(out, float32(v), float32(u), float32(score))
		}
		return out, nil
	}
	out := make([]float32, 195)
	for id, i := range details {
		from := id
		if p.exchanged {
			from = map[bool]string{true: "right" + id[4:], false: "left" + id[min(5, len(id)):]}[id[:4] == "left"]
		}
		u, v := inside(p.where(from))
		out[5*i], out[5*i+1], out[5*i+3] = float32(u*side), float32(v*side), 3
	}
	return out, nil
}

// watched draws on a person's runner which square it is shown.
func watched(d *Draft, p *person, frame int, pic *Picture) (Outcome, error) {
	p.frame = frame
	return d.look(frame, pic, p, func(s Square) { p.square = s })
}

func points(t *testing.T, changes map[string]*track.Track, id string, frame int) track.Point {
	t.Helper()
	p, ok := changes[id].At(frame)
	if !ok {
		t.Fatalf("no %s in frame %d", id, frame)
	}
	return p
}

// A person who runs through the picture is drafted in every frame, with all landmarks in
// their places, also when the second network exchanges sides.
func TestDraftFollowsARunner(t *testing.T) {
	pic := ramp(t, I420, 640, 360, 0.1, 0.1)
	for _, exchanged := range []bool{false, true} {
		p := &person{at: func(f int) (float64, float64) { return 80 + 7*float64(f), 180 }, tall: 150, exchanged: exchanged, ran: map[Network]int{}}
		d := New(Clip{Width: 1280, Height: 720, Scale: 0.5, Frames: 60}, nil, nil, Wish{To: 59, Step: 1})
		for i, f := range d.Frames() {
			want := Found
			if i < scouts {
				want = Kept
			}
			if o, err := watched(d, p, f, pic); err != nil || o != want {
				t.Fatalf("frame %d: %s %v", f, o, err)
			}
		}
		if p.ran[Details] != 60 || p.ran[Joints] > 75 {
			t.Errorf("networks ran %v times", p.ran)
		}
		got := d.Changes()
		for _, id := range body.Landmarks() {
			if id == "left_ear" || id == "right_ear" {
				continue
			}
			for _, f := range []int{0, 8, 33, 59} {
				p.frame = f
				x, y := p.where(id)
				if q := points(t, got, id, f); math.Hypot(q.X-2*x, q.Y-2*y) > 0.5 || q.Source != "draft" || q.Confidence < 0.5 {
					t.Errorf("exchanged %v, %s in frame %d: %+v, not %.1f %.1f", exchanged, id, f, q, 2*x, 2*y)
				}
			}
		}
		if len(d.Changes()) != 0 {
			t.Error("changes came twice")
		}
	}
}

// Somebody who is suddenly elsewhere is somebody else, and where nobody is nobody is
// drafted.
func TestDraftTellsOthersAndNobody(t *testing.T) {
	pic := ramp(t, I420, 640, 360, 0.1, 0.1)
	p := &person{at: func(f int) (float64, float64) {
		if f == 5 {
			return 480, 180
		}
		return 200 + float64(f), 180
	}, tall: 150, ran: map[Network]int{}}
	d := New(Clip{Width: 640, Height: 360, Scale: 1, Frames: 20}, nil, &Box{Frame: 0, X: 150, Y: 90, Width: 100, Height: 180}, Wish{To: 19, Step: 1})
	got := map[int]Outcome{}
	for _, f := range d.Frames() {
		p.missing = f == 12
		o, err := watched(d, p, f, pic)
		if err != nil {
			t.Fatal(err)
		}
		got[f] = o
	}
	for f, o := range got {
		want := Found
		switch f {
		case 5:
			want = Nobody // the region about the athlete does not hold the other at all
		case 12:
			want = Nobody
		}
		if o != want && !(f == 5 && o == Other) {
			t.Errorf("frame %d: %s", f, o)
		}
	}
	changes := d.Changes()
	if _, ok := changes["left_hip"].At(5); ok {
		t.Error("somebody else was drafted")
	}
	failed := errors.New("no memory")
	if _, err := d.Look(3, pic, failing{failed}); !errors.Is(err, failed) {
		t.Errorf("an error of the network became %v", err)
	}
}

type failing struct{ err error }

func (f failing) Run(Network, []byte) ([]float32, error) { return nil, f.err }

// A draft looks at every frame that is wanted once, at coarse ones first, and at none that
// is there; before that pictures are kept that tell who moves.
func TestPlan(t *testing.T) {
	had := track.New(100)
	for _, f := range []int{24, 33} {
		if err := had.Set(f, &track.Point{X: 1, Y: 1, Source: "draft", Confidence: 1}); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		Wish
		want int
	}{{Wish{0, 99, 1, false}, 98}, {Wish{0, 99, 1, true}, 100}, {Wish{0, 99, 4, false}, 24}, {Wish{20, 40, 1, false}, 19}, {Wish{5, 5, 1, false}, 1}, {Wish{-5, 500, 0, true}, 100}} {
		list := New(Clip{Width: 100, Height: 100, Scale: 1, Frames: 100}, map[string]*track.Track{"left_hip": had}, nil, c.Wish).Frames()
		if kept := len(list) - c.want; kept != 0 && kept != scouts {
			t.Errorf("%+v: %d frames", c, len(list))
		}
		list = list[len(list)-c.want:]
		once := map[int]bool{}
		for _, f := range list {
			if once[f] || f < max(0, c.From) || f > c.To || (f == 24 || f == 33) && !c.Anew {
				t.Errorf("%+v looks at frame %d wrongly: %v", c, f, list)
				break
			}
			once[f] = true
		}
		if len(list) > 2 && list[1]-list[0] < 8 {
			t.Errorf("%+v does not begin coarse: %v", c, list[:3])
		}
	}
}

func BenchmarkCut(b *testing.B) {
	p := ramp(b, I420, 1280, 720, 0.1, 0.1)
	out := make([]byte, 3*side*side)
	for _, q := range []struct {
		name string
		side float64
	}{{"enlarged", 150}, {"half", 500}, {"whole", 1280}} {
		b.Run(q.name, func(b *testing.B) {
			for b.Loop() {
				p.Cut(Square{640, 360, q.side, 0.3}, side, out)
			}
		})
	}
}

// crossing is a runner's eye on two people who pass each other: it sees whoever is nearer to
// the middle of the square, and where they cover each other the one in front.
type crossing struct {
	people [2]*person // the second is in front
	square Square
}

func (c *crossing) Run(n Network, b []byte) ([]float32, error) {
	who := 0
	var away [2]float64
	for i, p := range c.people {
		x, y := p.at(p.frame)
		away[i] = math.Hypot(x-c.square.X, y-c.square.Y)
		p.square = c.square
	}
	ax, _ := c.people[0].at(c.people[0].frame)
	bx, _ := c.people[1].at(c.people[1].frame)
	if away[1] < away[0] || math.Abs(ax-bx) < 0.25*c.people[1].tall {
		who = 1
	}
	return c.people[who].Run(n, b)
}

// dressed is a picture of people in their clothes, dark grey behind them.
func dressed(t *testing.T, w, h int, people [2]*person, trunk, legs [2][3]byte) *Picture {
	t.Helper()
	b := make([]byte, 4*w*h)
	for i := range b {
		b[i] = 70
	}
	for i, p := range people { // the second over the first
		cx, cy := p.at(p.frame)
		for y := int(cy - 0.34*p.tall); y < int(cy+0.3*p.tall); y++ {
			for x := int(cx - 0.1*p.tall); x < int(cx+0.12*p.tall); x++ {
				if x < 0 || y < 0 || x >= w || y >= h {
					continue
				}
				if float64(y) < cy {
					copy(b[4*(y*w+x):], trunk[i][:])
				} else {
					copy(b[4*(y*w+x):], legs[i][:])
				}
			}
		}
	}
	p, err := NewPicture(RGBA, w, h, b)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// Who passes in front of the athlete, the other way, is not taken for him: clothes tell them
// apart, and in the same clothes the way that he goes.
func TestDraftKeepsToTheAthleteWhoIsPassed(t *testing.T) {
	red, blue, black := [3]byte{200, 40, 40}, [3]byte{40, 60, 190}, [3]byte{20, 20, 20}
	for name, c := range map[string]struct{ trunk, legs [2][3]byte }{
		"other clothes":    {[2][3]byte{red, blue}, [2][3]byte{black, black}},
		"the same clothes": {[2][3]byte{blue, blue}, [2][3]byte{black, black}},
	} {
		t.Run(name, func(t *testing.T) {
			athlete := &person{at: func(f int) (float64, float64) { return 100 + 8*float64(f), 180 }, tall: 110, ran: map[Network]int{}}
			other := &person{at: func(f int) (float64, float64) { return 480 - 8*float64(f), 184 }, tall: 110, ran: map[Network]int{}}
			both := &crossing{people: [2]*person{athlete, other}}
			d := New(Clip{Width: 640, Height: 360, Scale: 1, Frames: 50, Rate: 10}, nil, &Box{Frame: 0, X: 70, Y: 120, Width: 60, Height: 120}, Wish{To: 49, Step: 1})
			for _, f := range d.Frames() {
				athlete.frame, other.frame = f, f
				if _, err := d.look(f, dressed(t, 640, 360, both.people, c.trunk, c.legs), both, func(s Square) { both.square = s }); err != nil {
					t.Fatal(err)
				}
			}
			got, seen := d.Changes(), 0
			for f := range 50 {
				q, ok := got["left_hip"].At(f)
				if !ok {
					continue
				}
				seen++
				x, _ := athlete.at(f)
				if ox, _ := other.at(f); math.Abs(q.X-x) > 30 {
					t.Errorf("frame %d: hips at %.0f, the athlete's at %.0f, the other's at %.0f", f, q.X, x, ox)
				}
			}
			if seen < 42 {
				t.Errorf("the athlete is found in %d of 50 frames", seen)
			}
		})
	}
}

// When somebody else was drafted and the coach shows who is meant, in the middle of the clip,
// the draft goes on from there both ways, and what was drafted before leads nobody astray.
func TestDraftBeginsAnewWhereTheAthleteIsShown(t *testing.T) {
	red, blue, black := [3]byte{200, 40, 40}, [3]byte{40, 60, 190}, [3]byte{20, 20, 20}
	athlete := &person{at: func(f int) (float64, float64) { return 100 + 8*float64(f), 120 }, tall: 110, ran: map[Network]int{}}
	other := &person{at: func(int) (float64, float64) { return 320, 290 }, tall: 110, ran: map[Network]int{}}
	both := &crossing{people: [2]*person{other, athlete}}
	clip := Clip{Width: 640, Height: 360, Scale: 1, Frames: 50, Rate: 10}
	draft := func(points map[string]*track.Track, box Box) map[string]*track.Track {
		d := New(clip, points, &box, Wish{To: 49, Step: 1, Anew: true})
		for _, f := range d.Frames() {
			athlete.frame, other.frame = f, f
			if _, err := d.look(f, dressed(t, 640, 360, both.people, [2][3]byte{red, blue}, [2][3]byte{black, black}), both, func(s Square) { both.square = s }); err != nil {
				t.Fatal(err)
			}
		}
		return d.Changes()
	}
	wrong := draft(nil, Box{Frame: 0, X: 290, Y: 230, Width: 60, Height: 120})
	if q, ok := wrong["left_hip"].At(40); !ok || math.Abs(q.Y-290) > 60 {
		t.Fatalf("the one who stands is not drafted: %+v", q)
	}
	x, y := athlete.at(30)
	right, seen := draft(wrong, Box{Frame: 30, X: x - 60, Y: y - 60, Width: 120, Height: 120}), 0
	for f := range 50 {
		if q, ok := right["left_hip"].At(f); ok {
			if x, _ := athlete.at(f); math.Abs(q.X-x) < 30 && math.Abs(q.Y-120) < 60 {
				seen++
			}
		}
	}
	if seen < 45 {
		t.Errorf("the athlete is found in %d of 50 frames", seen)
	}
}

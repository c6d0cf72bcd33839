package pose

import (
	"math"
	"slices"
	"testing"

	"neokinema/core/track"
)

// crowd is a runner that sees the first of several people whom the square holds, as
// networks see who is larger or nearer to the eye; in the whole picture the first there is.
type crowd []*person

func (c crowd) Run(n Network, square []byte) ([]float32, error) {
	for _, p := range c {
		x, y := p.at(p.frame)
		if s := p.square; !p.missing && math.Max(math.Abs(x-s.X), math.Abs(y-s.Y)) < s.Side/2-p.tall/4 {
			return p.Run(n, square)
		}
	}
	return make([]float32, 195), nil
}

// shows is a picture of people as bright blocks in front of a grey wall.
func (c crowd) shows(t *testing.T, frame int) *Picture {
	t.Helper()
	const w, h = 640, 360
	b := make([]byte, I420.Size(w, h))
	for i := range b {
		b[i] = 90
	}
	for _, p := range c {
		x, y := p.at(frame)
		for j := max(0, int(y-p.tall/2)); j < min(h, int(y+p.tall/2)); j++ {
			for i := max(0, int(x-p.tall/8)); i < min(w, int(x+p.tall/8)); i++ {
				b[j*w+i] = 200
			}
		}
	}
	pic, err := NewPicture(I420, w, h, b)
	if err != nil {
		t.Fatal(err)
	}
	return pic
}

// draft drafts a clip of the crowd; missing tells of whom nothing can be seen in a frame.
func (c crowd) draft(t *testing.T, d *Draft, missing func(p *person, frame int) bool) map[string]*track.Track {
	t.Helper()
	for _, f := range d.Frames() {
		for _, p := range c {
			p.frame, p.missing = f, missing(p, f)
		}
		if _, err := d.look(f, c.shows(t, f), c, func(s Square) {
			for _, p := range c {
				p.square = s
			}
		}); err != nil {
			t.Fatal(err)
		}
	}
	return d.Changes()
}

func standing(x, y, tall float64) *person {
	return walking(func(int) (float64, float64) { return x, y }, tall)
}

func walking(at func(int) (float64, float64), tall float64) *person {
	return &person{at: at, tall: tall, ran: map[Network]int{}}
}

func never(*person, int) bool { return false }

// follows counts the frames in which the hips of a draft are those of a person.
func follows(changes map[string]*track.Track, p *person, frames int) (n int) {
	for f := range frames {
		x, y := p.at(f)
		if q, ok := changes["left_hip"].At(f); ok && math.Hypot(q.X-x, q.Y-y) < p.tall/5 {
			n++
		}
	}
	return n
}

// Who stands about in front is not taken for the athlete who moves behind him; with a camera
// that turns, where everything changes, the one who stands out is, as before.
func TestWhoMovesIsTheAthlete(t *testing.T) {
	clip := Clip{Width: 640, Height: 360, Scale: 1, Frames: 60, Rate: 30}
	front, athlete := standing(420, 180, 220), walking(func(f int) (float64, float64) { return 60 + 4*float64(f), 190 }, 120)
	changes := crowd{front, athlete}.draft(t, New(clip, nil, nil, Wish{To: 59, Step: 4}), never)
	if n := follows(changes, athlete, 60); n < 14 {
		t.Errorf("the athlete is followed in %d of 15 frames, who stands in front in %d", n, follows(changes, front, 60))
	}
	turned := walking(func(f int) (float64, float64) { return 420 - 2*float64(f), 180 }, 220)
	beside := walking(func(f int) (float64, float64) { return 60 + 2*float64(f), 190 }, 120)
	if n := follows(crowd{turned, beside}.draft(t, New(clip, nil, nil, Wish{To: 59, Step: 4}), never), turned, 60); n < 14 {
		t.Errorf("of two who move, the one in front is followed in %d of 15 frames", n)
	}
	// A coach's box says who is meant, whoever moves.
	d := New(clip, nil, &Box{Frame: 0, X: 370, Y: 70, Width: 100, Height: 220}, Wish{To: 59, Step: 4})
	if n := follows(crowd{front, athlete}.draft(t, d, never), front, 60); n < 14 {
		t.Errorf("who was marked is followed in %d of 15 frames", n)
	}
}

// Two in the same clothes walk past each other; while they do, nothing can be seen, and
// afterwards the other one, unseen before, is nearer to the eye. The athlete is taken up again where he
// should be, and what was drafted of the other is taken back.
func TestWhoPassesSomebodyGoesOn(t *testing.T) {
	for _, box := range []int{12, 47} {
		clip := Clip{Width: 640, Height: 360, Scale: 1, Frames: 60, Rate: 10}
		athlete := walking(func(f int) (float64, float64) { return 60 + 8*float64(f), 180 }, 120)
		other := walking(func(f int) (float64, float64) { return 540 - 8*float64(f), 180 }, 120)
		x, y := athlete.at(box)
		d := New(clip, nil, &Box{Frame: box, X: x - 30, Y: y - 60, Width: 60, Height: 120}, Wish{From: 12, To: 47, Step: 1, Anew: true})
		both := crowd{other, athlete}
		saved := map[string]*track.Track{}
		missing := func(p *person, f int) bool {
			// Batches are saved on the way.
			for id, c := range d.Changes() {
				if saved[id] == nil {
					saved[id] = track.New(60)
				}
				saved[id].Apply(c, true)
			}
			return f >= 28 && f <= 31 || p == other && (f > 32) != (box == 0)
		}
		for id, c := range both.draft(t, d, missing) {
			saved[id].Apply(c, true)
		}
		if n, wrong := follows(saved, athlete, 60), follows(saved, other, 60); n < 30 || wrong > 1 {
			t.Errorf("from frame %d: the athlete in %d of 36 frames, the other in %d", box, n, wrong)
		}
	}
}

// Frames that are kept are looked at like any other afterwards.
func TestKeptFramesAreLookedAt(t *testing.T) {
	c := Clip{Width: 640, Height: 360, Scale: 1, Frames: 40, Rate: 30}
	d := New(c, nil, nil, Wish{To: 39, Step: 1})
	list := d.Frames()
	kept := list[:len(list)-40]
	if len(kept) != scouts || kept[0] != 0 || kept[scouts-1] != 39 || !slices.IsSorted(kept) {
		t.Errorf("%v are kept of 40 frames", kept)
	}
	if n := len(New(Clip{Width: 640, Height: 360, Scale: 1, Frames: 4, Rate: 30}, nil, nil, Wish{To: 3, Step: 1}).Frames()); n != 4 {
		t.Errorf("a clip of 4 frames is looked at in %d", n)
	}
}

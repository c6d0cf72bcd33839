package vision

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Options say what is followed.
type Options struct {
	// Radius of the thing, px: half the window for a sharp point, the ball
	// itself for a streak. 0 takes 8.
	Radius float64
	// Streak is for small things that fly so fast that they smear: the search
	// follows the path instead of the look.
	Streak bool
}

// Step is where a tracker found its point in one picture.
type Step struct {
	At         r2.Vec
	Confidence float64 // 0 to 1
	Lost       string  // why the tracker stops and asks; empty while it is sure
}

// Limits of trust. Assumed; shaped on simulated clips.
const (
	backMost  = 1.5  // px that the way there and back may differ
	likeLeast = 0.6  // likeness to the picture before
	asItWas   = 0.85 // likeness to the first picture with which its drift is taken out
	unlike    = 0.72 // likeness below which the first look no longer serves
)

// Tracker follows one point through pictures that come in order, forwards or
// backwards.
type Tracker struct {
	o        Options
	half     int
	before   Pyramid
	anchor   Pyramid
	anchorAt r2.Vec
	path     []r2.Vec
	ball     float64 // brightness of a streak's thing
	missed   int     // pictures in a row in which the streak was not seen
}

// NewTracker begins at a point of a picture. A point without structure around it
// cannot be followed and is refused.
func NewTracker(first Gray, at r2.Vec, o Options) (*Tracker, error) {
	if o.Radius == 0 {
		o.Radius = 8
	}
	if at.X < 0 || at.Y < 0 || at.X >= float64(first.W) || at.Y >= float64(first.H) {
		return nil, errors.New("the point lies outside the picture")
	}
	t := &Tracker{o: o, half: int(math.Max(4, math.Min(windowHalf, math.Round(o.Radius)))), path: []r2.Vec{at}}
	t.before = NewPyramid(first, 3)
	if o.Streak {
		t.ball = mean(first, at, o.Radius*0.7)
		return t, nil
	}
	if x, y := clamp(at, first, t.half+2); strength(first, x, y, t.half) < 1 {
		return nil, errors.New("there is no structure at this point to follow; click where the picture has an edge or a spot")
	}
	t.anchor, t.anchorAt = t.before, at
	return t, nil
}

func clamp(at r2.Vec, g Gray, margin int) (x, y int) {
	return min(max(int(at.X), margin), g.W-1-margin), min(max(int(at.Y), margin), g.H-1-margin)
}

func mean(g Gray, at r2.Vec, radius float64) float64 {
	var sum, n float64
	for y := -radius; y <= radius; y++ {
		for x := -radius; x <= radius; x++ {
			if x*x+y*y <= radius*radius {
				sum, n = sum+float64(g.at(at.X+x, at.Y+y)), n+1
			}
		}
	}
	return sum / math.Max(1, n)
}

// guess is where the path goes on: evenly, or in a curve once three places are
// known.
func (t *Tracker) guess() (at, v r2.Vec) {
	n := len(t.path)
	last := t.path[n-1]
	if n == 1 {
		return last, r2.Vec{}
	}
	v = r2.Sub(last, t.path[n-2])
	if n >= 3 && t.o.Streak {
		// Turned and stretched as in the step before: right for a circle.
		u := r2.Sub(t.path[n-2], t.path[n-3])
		if d := r2.Norm2(u); d > 4 {
			c, s := r2.Dot(u, v)/d, r2.Cross(u, v)/d
			v = r2.Vec{X: c*v.X - s*v.Y, Y: s*v.X + c*v.Y}
		}
	}
	return r2.Add(last, v), v
}

// Next finds the point in the next picture. After a step that says Lost the
// tracker has not moved on.
func (t *Tracker) Next(g Gray) Step {
	now := NewPyramid(g, len(t.before)-1)
	var s Step
	if t.o.Streak {
		s = t.streak(g)
	} else {
		s = t.sharp(now)
	}
	if s.Lost == "" {
		t.path = append(t.path, s.At)
		if len(t.path) > 4 {
			t.path = t.path[1:]
		}
		t.before = now
	}
	return s
}

func (t *Tracker) sharp(now Pyramid) Step {
	last := t.path[len(t.path)-1]
	want, _ := t.guess()
	q, _, ok := follow(t.before, now, last, want, t.half)
	if ok {
		if back, _, okBack := follow(now, t.before, q, last, t.half); !okBack || r2.Norm(r2.Sub(back, last)) > backMost {
			ok = false
		}
	}
	if !ok {
		// Once more without trusting the speed.
		if q, _, ok = follow(t.before, now, last, last, t.half); !ok {
			return Step{At: want, Lost: "the point left the picture or is covered"}
		}
	}
	back, _, okBack := follow(now, t.before, q, last, t.half)
	there := r2.Norm(r2.Sub(back, last))
	if !okBack || there > backMost {
		return Step{At: q, Lost: fmt.Sprintf("the way there and back differs by %.1f px", there)}
	}
	alike := t.alike(t.before[0], last, now[0], q)
	if alike < likeLeast {
		return Step{At: q, Lost: "what is there now does not look like what was followed"}
	}
	// Drift adds up from picture to picture; the first look takes it out.
	if fix, _, ok := follow(t.anchor[:1], now[:1], t.anchorAt, q, t.half); ok {
		switch first := t.alike(t.anchor[0], t.anchorAt, now[0], fix); {
		case first > asItWas && r2.Norm(r2.Sub(fix, q)) < 2:
			q = fix
		case first < unlike:
			t.anchor, t.anchorAt = now, q
		}
	}
	return Step{At: q, Confidence: math.Max(0.05, alike) * math.Exp(-there*there/2)}
}

func (t *Tracker) alike(a Gray, p r2.Vec, b Gray, q r2.Vec) float64 {
	n := (2*t.half + 1) * (2*t.half + 1)
	x, y := make([]float32, n), make([]float32, n)
	a.patch(p.X, p.Y, t.half, x)
	b.patch(q.X, q.Y, t.half, y)
	return likeness(x, y)
}

// Streak search: how well a smear must explain what changed.
// Assumed; shaped on simulated clips.
const (
	streakLeast = 0.42
	farthest    = 0.09 // of the picture's width, for the first step
	bridge      = 2    // pictures that a known path may bridge
)

// streak finds a smeared thing: where a disc of its brightness, drawn along the
// path, best explains the difference to the picture before.
func (t *Tracker) streak(g Gray) Step {
	want, v := t.guess()
	prev := t.before[0]
	reach := math.Max(12, 0.4*r2.Norm(v)+t.o.Radius)
	if len(t.path) == 1 {
		reach = farthest * float64(g.W)
	}
	smears := []float64{0.1, 0.25, 0.5, 0.9}
	if r2.Norm(v) < 2 {
		smears = []float64{0}
	}
	best := Step{At: want}
	for _, s := range smears {
		m := newSmear(t.o.Radius, r2.Scale(s, v))
		at, _ := t.scan(m, prev, g, want, reach, 2)
		at, score := t.scan(m, prev, g, at, 3, 1)
		if len(t.path) > 1 {
			// A path does not jump: what lies off it must explain more.
			off := r2.Norm(r2.Sub(at, want)) / reach
			score *= math.Exp(-off * off)
		}
		if score > best.Confidence {
			best = Step{At: t.peak(m, prev, g, at), Confidence: score}
		}
	}
	last := t.path[len(t.path)-1]
	if best.Confidence < streakLeast {
		// A known path bridges a picture or two: a dark ball before a dark tree.
		if t.missed++; t.missed > bridge || len(t.path) < 3 {
			best.Lost = "no streak is seen where the path goes on"
			return best
		}
		return Step{At: want, Confidence: 0.1}
	}
	t.missed = 0
	if len(t.path) == 1 && r2.Norm(r2.Sub(best.At, last)) < t.o.Radius {
		best.Confidence *= 0.5 // it should have moved
	}
	return best
}

// scan looks on a grid for the place that a smear explains best.
func (t *Tracker) scan(m smear, prev, now Gray, about r2.Vec, reach, step float64) (at r2.Vec, score float64) {
	at = about
	for y := -reach; y <= reach; y += step {
		for x := -reach; x <= reach; x += step {
			q := r2.Add(about, r2.Vec{X: x, Y: y})
			if s := t.explains(m, prev, now, q); s > score {
				at, score = q, s
			}
		}
	}
	return at, score
}

// peak places the best whole pixel between its neighbours by a parabola along
// each axis.
func (t *Tracker) peak(m smear, prev, now Gray, at r2.Vec) r2.Vec {
	score := t.explains(m, prev, now, at)
	vertex := func(d r2.Vec) float64 {
		l, r := t.explains(m, prev, now, r2.Sub(at, d)), t.explains(m, prev, now, r2.Add(at, d))
		if bow := l - 2*score + r; bow < -1e-9 {
			return math.Max(-0.5, math.Min(0.5, 0.5*(l-r)/bow))
		}
		return 0
	}
	return r2.Add(at, r2.Vec{X: vertex(r2.Vec{X: 1}), Y: vertex(r2.Vec{Y: 1})})
}

// explains is the correlation, 0 to 1, of what changed since the picture before
// with what the smear would have changed.
func (t *Tracker) explains(m smear, prev, now Gray, at r2.Vec) float64 {
	if at.X < 0 || at.Y < 0 || at.X >= float64(now.W) || at.Y >= float64(now.H) {
		return 0
	}
	var dd, mm, dm float64
	k := 0
	for y := -m.half.Y; y <= m.half.Y; y++ {
		for x := -m.half.X; x <= m.half.X; x++ {
			px, py := at.X+x, at.Y+y
			was := float64(prev.at(px, py))
			d := float64(now.at(px, py)) - was
			e := m.cover[k] * (t.ball - was)
			dd, mm, dm = dd+d*d, mm+e*e, dm+d*e
			k++
		}
	}
	if mm < float64(len(m.cover)) || dd < 1e-6 {
		return 0 // a thing as bright as what is behind it cannot be seen
	}
	return math.Max(0, dm/math.Sqrt(dd*mm))
}

// smear is how much of each pixel a disc covers that moves by v while the
// shutter is open.
type smear struct {
	half  r2.Vec
	cover []float64
}

func newSmear(radius float64, v r2.Vec) smear {
	m := smear{half: r2.Vec{X: math.Ceil(radius + math.Abs(v.X)/2 + 1), Y: math.Ceil(radius + math.Abs(v.Y)/2 + 1)}}
	steps := max(1, int(math.Ceil(r2.Norm(v))))
	for y := -m.half.Y; y <= m.half.Y; y++ {
		for x := -m.half.X; x <= m.half.X; x++ {
			var sum float64
			for i := range steps {
				s := (float64(i)+0.5)/float64(steps) - 0.5
				d := math.Hypot(x-s*v.X, y-s*v.Y)
				sum += math.Max(0, math.Min(1, radius-d+0.5))
			}
			m.cover = append(m.cover, sum/float64(steps))
		}
	}
	return m
}

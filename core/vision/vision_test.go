package vision

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/stabilize"
)

// scene is a smooth random texture that can be sampled anywhere: a sum of waves,
// so that any shift of it is known exactly.
type scene struct{ waves [][4]float64 }

func newScene(seed uint64) scene {
	r := rand.New(rand.NewPCG(seed, 1))
	var s scene
	for range 20 {
		f, a := 0.04+0.5*r.Float64(), 2*math.Pi*r.Float64()
		s.waves = append(s.waves, [4]float64{f * math.Cos(a), f * math.Sin(a), 2 * math.Pi * r.Float64(), 8 + 10*r.Float64()})
	}
	return s
}

func (s scene) value(x, y float64) float64 {
	v := 128.0
	for _, w := range s.waves {
		v += w[3] * math.Sin(w[0]*x+w[1]*y+w[2])
	}
	return math.Max(0, math.Min(255, v))
}

// picture samples the scene through a map from the picture to the scene.
func (s scene) picture(w, h int, to func(x, y float64) (float64, float64)) Gray {
	g := Gray{w, h, make([]float32, w*h)}
	for y := range h {
		for x := range w {
			u, v := to(float64(x), float64(y))
			g.Pix[y*w+x] = float32(s.value(u, v))
		}
	}
	return g
}

func TestFollowKnownShifts(t *testing.T) {
	s := newScene(3)
	a := NewPyramid(s.picture(200, 160, func(x, y float64) (float64, float64) { return x, y }), 3)
	for _, d := range []r2.Vec{{X: 0.3, Y: -0.7}, {X: 4.25, Y: 2.5}, {X: -13.4, Y: 9.1}} {
		b := NewPyramid(s.picture(200, 160, func(x, y float64) (float64, float64) { return x - d.X, y - d.Y }), 3)
		p := r2.Vec{X: 100.3, Y: 80.6}
		q, misfit, ok := Follow(a, b, p, p)
		if off := r2.Norm(r2.Sub(q, r2.Add(p, d))); !ok || off > 0.03 || misfit > 2 {
			t.Errorf("shift %v: %.3f px off, misfit %.2f, %v", d, off, misfit, ok)
		}
	}
}

func TestFollowRefusesWhatHasNoStructure(t *testing.T) {
	flat := Gray{100, 100, make([]float32, 10000)}
	p := NewPyramid(flat, 3)
	if _, _, ok := Follow(p, p, r2.Vec{X: 50, Y: 50}, r2.Vec{X: 50, Y: 50}); ok {
		t.Error("a white wall was followed")
	}
	if _, err := NewTracker(flat, r2.Vec{X: 50, Y: 50}, Options{}); err == nil {
		t.Error("a tracker began on a white wall")
	}
	if _, err := NewTracker(flat, r2.Vec{X: 500, Y: 50}, Options{}); err == nil {
		t.Error("a tracker began outside the picture")
	}
}

func TestCornersLieApartAndWhereWanted(t *testing.T) {
	g := newScene(5).picture(320, 180, func(x, y float64) (float64, float64) { return x, y })
	cs := Corners(g, 40, 16, func(x, y float64) bool { return x < 160 })
	if len(cs) < 20 || len(cs) > 40 {
		t.Fatalf("%d corners", len(cs))
	}
	for i, c := range cs {
		if c.At.X < 160 {
			t.Errorf("a corner at %v, where none was wanted", c.At)
		}
		if i > 0 && c.Strength > cs[i-1].Strength {
			t.Error("not in order of strength")
		}
	}
}

// A patch that moves and turns over a still background is followed over many
// pictures without drifting off.
func TestTrackerKeepsItsPoint(t *testing.T) {
	back, thing := newScene(7), newScene(8)
	where := func(i int) r2.Vec {
		a := float64(i) * 0.05
		return r2.Vec{X: 120 + 60*math.Sin(a), Y: 90 + 25*math.Cos(1.7*a)}
	}
	still := back.picture(240, 180, func(x, y float64) (float64, float64) { return x, y })
	draw := func(i int) Gray {
		c, turn := where(i), 0.002*float64(i)
		sn, cs := math.Sincos(turn)
		return still.over(func(x, y float64) (float64, bool) {
			dx, dy := x-c.X, y-c.Y
			if dx*dx+dy*dy >= 15*15 {
				return 0, false
			}
			return thing.value(cs*dx+sn*dy, cs*dy-sn*dx), true
		})
	}
	tr, err := NewTracker(draw(0), where(0), Options{Radius: 9})
	if err != nil {
		t.Fatal(err)
	}
	for i := 1; i < 80; i++ {
		s := tr.Next(draw(i))
		if s.Lost != "" {
			t.Fatalf("lost at picture %d: %s", i, s.Lost)
		}
		if off := r2.Norm(r2.Sub(s.At, where(i))); off > 0.5 || s.Confidence < 0.5 {
			t.Fatalf("picture %d: %.2f px off, confidence %.2f", i, off, s.Confidence)
		}
	}
	// Covered: it must ask and not wander.
	covered := draw(80).over(func(x, y float64) (float64, bool) {
		c := where(80)
		return 200, math.Hypot(x-c.X, y-c.Y) < 40
	})
	if s := tr.Next(covered); s.Lost == "" {
		t.Errorf("a covered point was found at %v with confidence %.2f", s.At, s.Confidence)
	}
}

// over draws something on top of a picture.
func (g Gray) over(f func(x, y float64) (float64, bool)) Gray {
	out := Gray{g.W, g.H, append([]float32(nil), g.Pix...)}
	for y := range g.H {
		for x := range g.W {
			if v, on := f(float64(x), float64(y)); on {
				out.Pix[y*g.W+x] = float32(v)
			}
		}
	}
	return out
}

// A ball on a circle, 22 px a picture, smeared over half of its way.
func TestStreakOfAFastBall(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	back := newScene(11).picture(420, 300, func(x, y float64) (float64, float64) { return 0.3 * x, 0.3 * y })
	const radius = 5.0
	at := func(s float64) r2.Vec {
		a := 0.22 * s
		return r2.Vec{X: 210 + 100*math.Cos(a), Y: 150 + 90*math.Sin(a)}
	}
	draw := func(i int) Gray {
		return back.over(func(x, y float64) (float64, bool) {
			if math.Hypot(x-at(float64(i)).X, y-at(float64(i)).Y) > 40 {
				return 0, false
			}
			var cover float64
			const steps = 24
			for k := range steps {
				p := at(float64(i) + 0.5*((float64(k)+0.5)/steps-0.5))
				cover += math.Max(0, math.Min(1, radius-math.Hypot(x-p.X, y-p.Y)+0.5)) / steps
			}
			return 20*cover + (1-cover)*float64(back.Pix[int(y)*420+int(x)]), cover > 0
		})
	}
	tr, err := NewTracker(draw(0), at(0), Options{Radius: radius, Streak: true})
	if err != nil {
		t.Fatal(err)
	}
	var worst float64
	for i := 1; i < 28; i++ {
		s := tr.Next(draw(i))
		if s.Lost != "" {
			t.Fatalf("lost at picture %d: %s (%.2f)", i, s.Lost, s.Confidence)
		}
		worst = math.Max(worst, r2.Norm(r2.Sub(s.At, at(float64(i)))))
	}
	// Three pixels where the ball is as dark as the scene, a smear being 11 long.
	if worst > 3.5 {
		t.Errorf("up to %.2f px off", worst)
	}
	// The ball is gone: it asks.
	var s Step
	for range bridge + 1 {
		s = tr.Next(back)
	}
	if s.Lost == "" {
		t.Error("a ball was found where there is none")
	}
}

// A camera that pans by 24 degrees, tilts and rolls a little over 60 pictures:
// a far point stays in place in the common frame, and the focal length comes out.
func TestCameraFromBackground(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	const w, h, focal = 320, 180, 420.0
	far := newScene(21)
	turn := func(i int) [3]float64 {
		s := float64(i) / 60
		return [3]float64{0.01 * math.Sin(9*s), 0.42 * (s - 0.5), 0.008 * math.Sin(5*s)}
	}
	truth := &stabilize.Rotations{Width: w, Height: h, Focal: focal}
	for i := range 60 {
		truth.Turns = append(truth.Turns, turn(i))
	}
	e := NewEstimator(0.5)
	small := &stabilize.Rotations{Width: w, Height: h, Focal: focal, Turns: truth.Turns}
	for i := range 60 {
		g := far.picture(w, h, func(x, y float64) (float64, float64) {
			q := small.ToReference(i, r2.Vec{X: x, Y: y})
			return 0.7 * q.X, 0.7 * q.Y
		})
		// Somebody runs through the picture.
		cx := 40 + 4*float64(i)
		g = g.over(func(x, y float64) (float64, bool) {
			return 128 + 60*math.Sin(0.5*(x-cx))*math.Sin(0.4*y), math.Abs(x-cx) < 16 && y > 60 && y < 150
		})
		e.Add(g, func(x, y float64) bool { return math.Abs(x-cx) < 20 && y > 55 && y < 155 })
	}
	c := e.Camera()
	if c.Problem != "" || len(c.Turns) != 60 {
		t.Fatalf("no camera: %q, %d turns", c.Problem, len(c.Turns))
	}
	if math.Abs(c.Focal-2*focal) > 0.05*2*focal || c.Width != 2*w {
		t.Errorf("focal length %.0f of %.0f, width %.0f", c.Focal, 2*focal, c.Width)
	}
	// Far points that the clip shows, followed through all frames.
	for _, q := range []r2.Vec{{X: 100, Y: 60}, {X: 160, Y: 120}, {X: 250, Y: 90}} {
		var first r2.Vec
		seen := 0
		for i := range 60 {
			p := small.ToImage(i, q)
			if p.X < 0 || p.Y < 0 || p.X > w || p.Y > h {
				continue
			}
			at := c.ToReference(i, r2.Scale(2, p))
			if back := c.ToImage(i, at); r2.Norm(r2.Sub(back, r2.Scale(2, p))) > 1e-6 {
				t.Fatalf("there and back: %v became %v", r2.Scale(2, p), back)
			}
			if seen++; seen == 1 {
				first = at
			}
			if off := r2.Norm(r2.Sub(at, first)); off > 1.2 {
				t.Errorf("frame %d: %v is %.2f px from where it was", i, q, off)
				break
			}
		}
		if seen < 20 {
			t.Errorf("%v was seen %d times only", q, seen)
		}
	}
}

func TestCameraThatStandsAndOneThatCannot(t *testing.T) {
	far := newScene(22).picture(240, 140, func(x, y float64) (float64, float64) { return 0.8 * x, 0.8 * y })
	e := NewEstimator(1)
	for range 12 {
		e.Add(far, nil)
	}
	if c := e.Camera(); !c.Still() || c.Problem != "" {
		t.Errorf("a still camera: %d turns, %q", len(c.Turns), c.Problem)
	}
	// A plain wall behind a panning camera cannot be told from a still one by its
	// background; with a spot or two it says so.
	e = NewEstimator(1)
	for i := range 40 {
		e.Add(Gray{240, 140, make([]float32, 240*140)}.over(func(x, y float64) (float64, bool) {
			d := math.Hypot(x-40-4*float64(i), y-70)
			return 120 + 80*math.Cos(d), d < 14
		}), nil)
	}
	if c := e.Camera(); c.Problem == "" {
		t.Errorf("two or three spots made a camera: %d turns", len(c.Turns))
	}
}

func TestCutsAndFrozenFramesAreSeen(t *testing.T) {
	a := newScene(31).picture(240, 140, func(x, y float64) (float64, float64) { return 0.8 * x, 0.8 * y })
	b := newScene(77).picture(240, 140, func(x, y float64) (float64, float64) { return 0.5 * x, 0.9 * y }).over(func(x, _ float64) (float64, bool) { return 12, x < 150 })
	noisy := func(g Gray, i int) Gray {
		return g.over(func(x, y float64) (float64, bool) {
			return float64(g.Pix[int(y)*g.W+int(x)]) + 2*math.Sin(float64(i)*7+x*y), true
		})
	}
	e := NewEstimator(1)
	for i := range 20 {
		g := noisy(a, i)
		if i > 11 {
			g = noisy(b, i)
		}
		if i > 3 && i < 7 {
			g = noisy(a, 3)
		}
		e.Add(g, nil)
	}
	c := e.Camera()
	if !strings.Contains(c.Problem, "frame 12") {
		t.Errorf("the cut: %q", c.Problem)
	}
	if len(c.Notes) != 1 || !strings.Contains(c.Notes[0], "3 frames are copies") {
		t.Errorf("frozen frames: %v", c.Notes)
	}
}

// A draft that trembles by 3 px with wild frames in it, and flow that is exact but
// for some frames in which it slipped: together they are far better than either.
func TestFuse(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	const n = 120
	truth, draft := make([]r2.Vec, n), make([]r2.Vec, n)
	sd, flow := make([]float64, n), make([]Flow, n-1)
	for i := range n {
		s := float64(i) / 10
		truth[i] = r2.Vec{X: 300 + 40*s, Y: 200 + 60*math.Sin(s)}
		draft[i] = r2.Add(truth[i], r2.Vec{X: 3 * r.NormFloat64(), Y: 3 * r.NormFloat64()})
		sd[i] = 4
		if i%23 == 0 {
			draft[i].Y += 80
		}
		if i > 0 {
			flow[i-1] = Flow{r2.Add(r2.Sub(truth[i], truth[i-1]), r2.Vec{X: 0.15 * r.NormFloat64(), Y: 0.15 * r.NormFloat64()}), 0.25, i%31 != 0}
			if i == 50 {
				flow[i-1].By = r2.Vec{} // onto the background
			}
		}
	}
	sd[70], sd[71] = 0, 0 // nobody was found there
	out := Fuse(draft, sd, flow)
	var tremble, off float64
	for i := range n {
		off = math.Max(off, r2.Norm(r2.Sub(out[i], truth[i])))
		if i > 0 {
			tremble += r2.Norm(r2.Sub(r2.Sub(out[i], truth[i]), r2.Sub(out[i-1], truth[i-1]))) / (n - 1)
		}
	}
	if off > 4 || tremble > 0.6 {
		t.Errorf("up to %.1f px off, trembling by %.2f px a frame", off, tremble)
	}
}

// A square that moves over noise, shown as programs do: copies are told whatever the rule,
// and a clip without any has none.
func TestCopiesAreTold(t *testing.T) {
	const w, h = 320, 180
	r := rand.New(rand.NewPCG(4, 4))
	scene := make([]byte, w*h)
	for i := range scene {
		scene[i] = byte(90 + r.IntN(40))
	}
	picture := func(k int) []byte {
		out := slices.Clone(scene)
		for y := 60; y < 120; y++ {
			for x := 20 + 3*k; x < 50+3*k; x++ {
				out[y*w+x] = byte(180 + (x*7+y*5)%40)
			}
		}
		return out
	}
	for _, c := range []struct {
		times int
		blend bool
		want  string
	}{{1, false, ""}, {2, false, ".r"}, {4, false, ".rrr"}, {2, true, ".b"}, {4, true, ".bbb"}} {
		var copies Copies
		n := 0
		for k := range 24 {
			a, b := picture(k), picture(k+1)
			for i := range c.times {
				pix := make([]byte, len(a))
				for p := range pix {
					share := 0.0
					if c.blend {
						share = float64(i) / float64(c.times)
					}
					pix[p] = byte(float64(a[p])*(1-share) + float64(b[p])*share + 1.5*r.Float64())
				}
				copies.Add(w, h, pix)
				n++
			}
		}
		got := string(copies.Pictures())
		if c.want == "" {
			if got != "" {
				t.Errorf("no copies: %q", got)
			}
			continue
		}
		want := strings.Repeat(c.want, 24)
		wrong := 0
		for i := range min(len(got), len(want)) {
			if got[i] != want[i] {
				wrong++
			}
		}
		if len(got) != n || wrong > 3 {
			t.Errorf("%+v: %q", c, got)
		}
	}
}

// A picture that lies between its neighbours now and then is no mix: programs mix by a rule.
func TestFewMixesAreChance(t *testing.T) {
	for _, c := range []struct {
		every int
		want  bool
	}{{41, false}, {2, true}} {
		copies := Copies{n: 200}
		for i := range 199 {
			bend := 5.0
			if i%c.every == c.every-1 {
				bend = 0.5
			}
			copies.step, copies.bend = append(copies.step, 5), append(copies.bend, bend)
		}
		copies.bend = copies.bend[:198]
		if got := copies.Pictures(); (got != "") != c.want {
			t.Errorf("one in %d: %q", c.every, got)
		}
	}
}

// What comes when a picture should come is one, though nothing moves in it.
func TestAPictureMayStandStill(t *testing.T) {
	told := []int{}
	for i := range 40 {
		told = append(told, 1-2*(i%2))
	}
	told[0], told[20] = -1, -1
	got, rule := ruled(told)
	if !rule || got[0] != 1 || got[20] != 1 || got[21] != -1 {
		t.Errorf("%v %v", rule, got)
	}
}

// Now and then a picture comes twice, the last of the clip too, as when a rate was changed.
func TestTheLastPictureMayBeACopy(t *testing.T) {
	const w, h, frames, every = 160, 96, 60, 10
	r := rand.New(rand.NewPCG(8, 8))
	for _, lastToo := range []bool{true, false} {
		var copies Copies
		want, at := "", 0
		for i := range frames {
			letter := "."
			if i%every == every-1 && (lastToo || i < frames-1) {
				letter = "r"
			} else {
				at++
			}
			pix := make([]byte, w*h)
			for p := range pix {
				pix[p] = byte(100 + 1.5*r.Float64())
				if x := p % w; x > 10+2*at && x < 30+2*at {
					pix[p] = byte(180 + (x-2*at)*3)
				}
			}
			copies.Add(w, h, pix)
			want += letter
		}
		if got := string(copies.Pictures()); got != want {
			t.Errorf("ends with a copy %v: %q, want %q", lastToo, got, want)
		}
	}
}

// Words that a program has laid over a panning clip do not pass for a camera that stands
// still, and their place is known; a clip without them has none.
func TestWhatIsLaidOverIsNotTheBackground(t *testing.T) {
	const w, h, frames = 320, 180, 30
	s := newScene(5)
	for _, captioned := range []bool{true, false} {
		e := NewEstimator(0.5)
		for k := range frames {
			g := s.picture(w, h, func(x, y float64) (float64, float64) { return x + 3*float64(k), y })
			if captioned {
				for y := 120; y < 150; y++ {
					for x := 60; x < 260; x++ {
						g.Pix[y*w+x] = 20
						if (x/7*13+y/7*29+x/7*(y/7)*5)%3 == 0 {
							g.Pix[y*w+x] = 235
						}
					}
				}
			}
			e.Add(g, nil)
		}
		c := e.Camera()
		lo, hi, over := e.Over()
		if over != captioned {
			t.Errorf("captioned %v: over %v", captioned, over)
		}
		if len(c.Turns) != frames || c.Problem != "" {
			t.Fatalf("captioned %v: a camera that stands still (%q)", captioned, c.Problem)
		}
		if captioned && (lo.X < 100 || lo.X > 150 || hi.X < 480 || hi.X > 540 || lo.Y < 220 || hi.Y > 320) {
			t.Errorf("it lies from %v to %v", lo, hi)
		}
	}
}

// Pictures that are held for half a second each are stills; the same ones in motion, with a
// cut, or slowed down eight times are none.
func TestStillsAreTold(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	const w, h = 160, 90
	picture := func(k int, shift float64) []byte {
		out := make([]byte, w*h)
		for y := range h {
			for x := range w {
				v := 110 + 40*math.Sin((float64(x)+shift)/9+float64(k))*math.Cos(float64(y)/7-float64(k)) + 0.4*r.NormFloat64()
				out[y*w+x] = byte(v)
			}
		}
		return out
	}
	for name, c := range map[string]struct {
		frame  func(f int) []byte
		stills bool
	}{
		"held":         {func(f int) []byte { return picture(f/15, 0) }, true},
		"moving":       {func(f int) []byte { return picture(0, float64(f)) }, false},
		"with a cut":   {func(f int) []byte { return picture(f/60, 0.4*float64(f)) }, false},
		"slowed by 8":  {func(f int) []byte { return picture(0, 3*float64(f/8)) }, false},
		"one standing": {func(int) []byte { return picture(0, 0) }, false},
	} {
		var copies Copies
		for f := range 120 {
			copies.Add(w, h, c.frame(f))
		}
		if p := copies.Pictures(); p.Stills() != c.stills {
			t.Errorf("%s: %q", name, p)
		}
	}
}

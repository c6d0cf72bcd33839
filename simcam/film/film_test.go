package film

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"
)

var (
	grey  = Color{120, 120, 120}
	red   = Color{220, 30, 30}
	level = Lens{At: r3.Vec{Y: 1.5, Z: 10}, Target: r3.Vec{Y: 1.5}, Focal: 800, Width: 640, Height: 360}
)

func plain(x, z, far float64) Color { return grey }

func take(cones ...Cone) Take {
	return Take{Stage: Stage{Ground: plain}, Lens: func(float64) Lens { return level }, Still: true, Subject: func(float64) []Cone { return cones }, Expose: 1e-6, Samples: 4}
}

// redness counts the pixels that are more red than anything else is.
func redness(pix []byte) (count int, x, y float64) {
	for i := 0; i < len(pix); i += 3 {
		if int(pix[i]) > 2*int(pix[i+1])+20 {
			count++
			x += float64(i / 3 % level.Width)
			y += float64(i / 3 / level.Width)
		}
	}
	return count, x / float64(count), y / float64(count)
}

// TestBallHasTheSizeAndPlaceOfItsProjection: a disc of radius f r / sqrt(d2-r2).
func TestBallHasTheSizeAndPlaceOfItsProjection(t *testing.T) {
	at := r3.Vec{X: 0.8, Y: 1.9}
	pix := New(take(Cone{A: at, B: at, RA: 0.5, RB: 0.5, Color: red})).Frame(0, 0)
	n, x, y := redness(pix)
	r := 800 * 0.5 / math.Sqrt(10*10-0.25)
	if want := math.Pi * r * r; math.Abs(float64(n)/want-1) > 0.03 {
		t.Errorf("%d px, want %.0f", n, want)
	}
	if px, _ := level.Project(at); math.Hypot(x+0.5-px.X, y+0.5-px.Y) > 1 {
		t.Errorf("middle at %.1f %.1f, want %v", x, y, px)
	}
}

// TestRodCoversItsLength: a rod across the line of sight is 2 r long and wide
// and round at the ends.
func TestRodCoversItsLength(t *testing.T) {
	pix := New(take(Cone{A: r3.Vec{X: -1, Y: 1.5}, B: r3.Vec{X: 1, Y: 1.5}, RA: 0.1, RB: 0.1, Color: red})).Frame(0, 0)
	n, _, _ := redness(pix)
	k := 800 / 10.0
	if want := 2*k*0.2*k + math.Pi*0.01*k*k; math.Abs(float64(n)/want-1) > 0.05 {
		t.Errorf("%d px, want %.0f", n, want)
	}
}

func TestNearerThingsHideFurtherOnes(t *testing.T) {
	ball := func(z float64, c Color) Cone {
		return Cone{A: r3.Vec{Y: 1.5, Z: z}, B: r3.Vec{Y: 1.5, Z: z}, RA: 0.4, RB: 0.4, Color: c}
	}
	for _, order := range [][]Cone{{ball(0, red), ball(2, grey)}, {ball(2, grey), ball(0, red)}} {
		if n, _, _ := redness(New(take(order...)).Frame(0, 0)); n > 0 {
			t.Errorf("%d px of the hidden ball are seen", n)
		}
	}
	t1 := take(ball(0, red))
	t1.Stage.Faces = []Face{{Corners: [4]r3.Vec{{X: -2, Y: 0, Z: 3}, {X: 2, Y: 0, Z: 3}, {X: 2, Y: 3, Z: 3}, {X: -2, Y: 3, Z: 3}}, Color: grey}}
	if n, _, _ := redness(New(t1).Frame(0, 0)); n > 0 {
		t.Errorf("%d px are seen through a wall", n)
	}
}

// TestNetLetsTheAthleteThrough: a net in front hides only its threads.
func TestNetLetsTheAthleteThrough(t *testing.T) {
	ball := Cone{A: r3.Vec{Y: 1.5}, B: r3.Vec{Y: 1.5}, RA: 0.5, RB: 0.5, Color: red}
	open, _, _ := redness(New(take(ball)).Frame(0, 0))
	n := take(ball)
	n.Stage.Front = []Face{{Corners: [4]r3.Vec{{X: -3, Y: -1, Z: 8}, {X: 3, Y: -1, Z: 8}, {X: 3, Y: 4, Z: 8}, {X: -3, Y: 4, Z: 8}}, Color: Color{20, 20, 20}, Weave: 0.05}}
	netted, _, _ := redness(New(n).Frame(0, 0))
	if netted == 0 || netted > open {
		t.Errorf("%d of %d px through the net", netted, open)
	}
	before, behind := New(take(ball)).Frame(0, 0), New(n).Frame(0, 0)
	changed := 0
	for i := range before {
		if before[i] != behind[i] {
			changed++
		}
	}
	if share := float64(changed) / float64(len(before)); share < 0.03 || share > 0.7 {
		t.Errorf("the net changes %.0f %% of the picture", 100*share)
	}
}

// TestShadowLiesWhereTheSunPutsIt: below a ball at height h, off by h times the
// sun's slope.
func TestShadowLiesWhereTheSunPutsIt(t *testing.T) {
	s := take(Cone{A: r3.Vec{Y: 1}, B: r3.Vec{Y: 1}, RA: 0.15, RB: 0.15, Color: red})
	s.Sun = r3.Vec{X: -1, Y: 1}
	f := New(s)
	pix := f.Frame(0, 0)
	px, _ := level.Project(r3.Vec{X: 1})
	under, _ := level.Project(r3.Vec{X: -1})
	at := func(x, y float64) int { return int(pix[3*(int(y)*level.Width+int(x))]) }
	if dark, lit := at(px.X, px.Y), at(under.X, under.Y); dark > lit*7/10 {
		t.Errorf("shadow %d, sunlit ground %d", dark, lit)
	}
}

// TestDistortionIsUndone: a ray through a distorted pixel meets its point.
func TestDistortionIsUndone(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for _, k := range []float64{-0.2, -0.05, 0, 0.1} {
		l := Lens{At: r3.Vec{X: 1, Y: 2, Z: 9}, Target: r3.Vec{X: 0.3, Y: 1}, Roll: 0.1, Focal: 900, K1: k, Width: 1280, Height: 720}
		e := newView(l)
		for range 200 {
			p := r3.Vec{X: 6*r.Float64() - 3, Y: 3 * r.Float64(), Z: 2 * r.Float64()}
			px, z := l.Project(p)
			x, y := l.ray(px.X, px.Y)
			back := r3.Add(l.At, r3.Scale(z, e.world(x, y)))
			if d := r3.Norm(r3.Sub(back, p)); d > 0.002 {
				t.Fatalf("k1 %v: %v comes back as %v", k, p, back)
			}
		}
	}
	if px, z := level.Project(r3.Vec{Z: 20}); !math.IsNaN(px.X) || z > 0 {
		t.Errorf("something behind the camera is at %v", px)
	}
}

// TestCutOfTheWidePictureIsThePicture: a turning lens sees what a still one in
// the same direction does.
func TestCutOfTheWidePictureIsThePicture(t *testing.T) {
	checks := func(x, z, far float64) Color {
		if far > 18 {
			return grey
		}
		if (int(math.Floor(x))+int(math.Floor(z)))%2 == 0 {
			return Color{200, 200, 200}
		}
		return Color{60, 60, 60}
	}
	aim := func(at float64) Lens {
		l := level
		l.Target = r3.Vec{X: 4*at - 2, Y: 0.6}
		return l
	}
	turning := Take{Stage: Stage{Ground: checks}, Lens: aim, To: 1, Subject: func(float64) []Cone { return nil }, Expose: 1e-9, Samples: 4}
	still := turning
	still.Still, still.Lens = true, func(float64) Lens { return aim(0.25) }
	a, b := New(turning).Frame(0.25, 0), New(still).Frame(0, 0)
	var off float64
	for i := range a {
		off += math.Abs(float64(a[i]) - float64(b[i]))
	}
	if mean := off / float64(len(a)); mean > 3 {
		t.Errorf("pictures differ by %.2f of 255 on average", mean)
	}
}

// TestNoiseHasItsSize and the light its dimness.
func TestNoiseHasItsSize(t *testing.T) {
	quiet, loud, dim := take(), take(), take()
	loud.Noise, loud.Seed = 9, 4
	dim.Dim = 0.5
	a, b, c := New(quiet).Frame(0, 0), New(loud).Frame(0, 0), New(dim).Frame(0, 0)
	var sum, sq, ratio, n float64
	for i := 3 * 640 * 300; i < 3*640*340; i += 3 {
		d := float64(b[i]) - float64(a[i])
		sum, sq, ratio, n = sum+d, sq+d*d, ratio+float64(c[i])/float64(a[i]), n+1
	}
	if sd := math.Sqrt(sq/n - sum*sum/n/n); math.Abs(sd-9) > 0.9 || math.Abs(sum/n) > 0.5 {
		t.Errorf("noise of %.2f about %.2f", sd, sum/n)
	}
	if r := ratio / n; math.Abs(r-0.5) > 0.02 {
		t.Errorf("dimmed to %.3f", r)
	}
}

func TestGrainIsEvenAndFixedToTheWorld(t *testing.T) {
	var sum float64
	const n = 20000
	r := rand.New(rand.NewPCG(5, 5))
	for range n {
		v := Grain(100*r.Float64()-50, 100*r.Float64()-50, 0.7)
		if v < 0 || v > 1 {
			t.Fatal(v)
		}
		sum += v
	}
	if mean := sum / n; math.Abs(mean-0.5) > 0.02 {
		t.Errorf("mean %.3f", mean)
	}
	if d := math.Abs(Grain(3, 4, 0.5) - Grain(3.001, 4, 0.5)); d > 0.02 {
		t.Errorf("a millimetre changes it by %.3f", d)
	}
	for _, c := range [][3]float64{{7.5, 2, 1.5}, {-0.5, 2, 1.5}, {4, 2, 0}} {
		if got := Wrap(c[0], c[1]); math.Abs(got-c[2]) > 1e-12 {
			t.Errorf("%v wraps to %v", c[0], got)
		}
	}
}

func TestPixelsAreSampledEvenly(t *testing.T) {
	var sx, sy float64
	const n = 64
	for i := 1; i <= n; i++ {
		x, y := jitter(i)
		if x < 0 || x >= 1 || y < 0 || y >= 1 {
			t.Fatal(x, y)
		}
		sx, sy = sx+x/n, sy+y/n
	}
	if math.Abs(sx-0.5) > 0.02 || math.Abs(sy-0.5) > 0.03 {
		t.Errorf("means %.3f %.3f", sx, sy)
	}
}

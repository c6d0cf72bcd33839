package kinematics

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/stabilize"
	"neokinema/core/track"
)

func put(t *track.Track, f int, x, y float64, source string) {
	_ = t.Set(f, &track.Point{X: x, Y: y, Source: source, Confidence: 0.9})
}

func up(_ int, p r2.Vec) r2.Vec { return r2.Vec{X: p.X, Y: -p.Y} }

// A circle at one turn a second, scattered: place and speed come out of the
// smooth path, and its noise is the scatter.
func TestSmoothPath(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	tr := track.New(0)
	at := func(f int) r2.Vec {
		a := 2 * math.Pi * float64(f) / 120
		return r2.Vec{X: 300 + 80*math.Cos(a), Y: 300 + 80*math.Sin(a)}
	}
	for f := range 240 {
		p := at(f)
		put(tr, f, p.X+1.5*r.NormFloat64(), p.Y+1.5*r.NormFloat64(), "draft")
	}
	p := Smooth(tr, 120, "", up)
	var off, speed float64
	for f := 12; f < 228; f++ {
		q, ok := p.Where(f)
		v, _ := p.Velocity(f)
		if !ok {
			t.Fatalf("no place at frame %d", f)
		}
		off += r2.Norm(r2.Sub(q, up(f, at(f)))) / 216
		speed += r2.Norm(v) / 216
	}
	if off > 1 || math.Abs(speed-80*2*math.Pi) > 8 || math.Abs(p.Noise-1.5) > 0.3 {
		t.Errorf("%.2f px off, speed %.0f of %.0f, noise %.2f", off, speed, 160*math.Pi, p.Noise)
	}
}

// Gap rules: a tenth of a second is bridged, more ends the path; few points are no
// path; what the model hardly believes is passed over.
func TestGapRules(t *testing.T) {
	tr := track.New(0)
	for f := range 200 {
		if f >= 50 && f < 60 || f >= 120 && f < 160 {
			continue
		}
		put(tr, f, float64(3*f), 100, "draft")
	}
	tr.Confidence[80] = 3
	tr.Y[80] = 400
	p := Smooth(tr, 120, "", up)
	if q, ok := p.Where(55); !ok || math.Abs(q.X-165) > 1 {
		t.Errorf("a gap of ten frames at 120/s: %v %v", q, ok)
	}
	if _, ok := p.Where(140); ok {
		t.Error("a gap of 40 frames was bridged")
	}
	if q, _ := p.Where(80); math.Abs(q.Y+100) > 2 {
		t.Errorf("a point of 3 %% confidence pulls the path to %v", q)
	}
	if _, ok := p.Seen(140); ok {
		t.Error("a point where there is none")
	}
	few := track.New(0)
	for f := range 6 {
		put(few, f, 1, 1, "hand")
	}
	if p := Smooth(few, 120, "", up); p.Cutoff != 0 {
		t.Error("six points made a path")
	}
	var none *Path
	if _, ok := none.Where(3); ok {
		t.Error("no path has a place")
	}
}

// Moments of rest and leaving, to a part of a frame, for several scatters.
func TestMomentOfRestAndLeaving(t *testing.T) {
	for _, sigma := range []float64{0, 0.05, 0.3} {
		r := rand.New(rand.NewPCG(4, 4))
		var worst float64
		for k := range 20 {
			on, off := 30+0.05*float64(k), 80+0.37*float64(k%7)
			p := &Path{}
			for f := range 120 {
				q := r2.Vec{X: 500}
				if d := on - float64(f); d > 0 {
					q = r2.Vec{X: 500 - 6*d + 0.1*d*d, Y: 2 * d}
				}
				if d := float64(f) - off; d > 0 {
					q = r2.Vec{X: 500 + d, Y: 3*d + 0.3*d*d}
				}
				p.Raw = append(p.Raw, r2.Add(q, r2.Vec{X: sigma * r.NormFloat64(), Y: sigma * r.NormFloat64()}))
			}
			s := Search{Rate: 240, Height: 450, Sigma: sigma}
			a, sd := s.Moment(p, 33, 78, Rests)
			b, _ := s.Moment(p, 33, 78, Leaves)
			worst = math.Max(worst, math.Max(math.Abs(a-on), math.Abs(b-off)))
			if !(sd > 0) {
				t.Error("a moment without doubt")
			}
		}
		if worst > 0.3+2*sigma {
			t.Errorf("scatter %.2f: up to %.2f frames off", sigma, worst)
		}
	}
}

func TestOnsetOfSeveralPoints(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	var paths []*Path
	for k := range 3 {
		p := &Path{}
		for f := range 120 {
			d := math.Max(0, float64(f)-60)
			p.Raw = append(p.Raw, r2.Vec{X: 100 + float64(k)*40 + 0.12*d*d + 0.3*r.NormFloat64(), Y: 0.05*d*d + 0.3*r.NormFloat64()})
		}
		paths = append(paths, p)
	}
	at, sd, ok := Search{Rate: 240, Height: 450, Sigma: 0.3}.Onset(paths, 64, 0.05)
	if !ok || math.Abs(at-60) > 2 || sd > 3 {
		t.Errorf("onset at %.1f ± %.1f, %v", at, sd, ok)
	}
}

// standing is a body whose every landmark is tracked: it moves 2 px a frame.
func standing(skip ...string) Points {
	out := Points{}
	for i, id := range body.Landmarks() {
		t := track.New(0)
		for f := range 60 {
			put(t, f, 100+float64(2*f)+float64(i%10), 200+30*float64(i%10), "draft")
		}
		out[id] = t
	}
	for _, id := range skip {
		delete(out, id)
	}
	return out
}

// The centre of mass is the weighted mean of landmarks by the table of segment
// masses, in every frame, and moves with the body.
func TestCentreOfMass(t *testing.T) {
	for _, sex := range []body.Sex{body.Female, body.Male} {
		points := standing()
		m := New(points, Film{Rate: 120, View: angles.View{Direction: 1}}, nil)
		c := m.Centre(sex)
		var want r2.Vec
		for id, w := range body.CentreWeights(sex) {
			p, _ := points.At(id, 30)
			want = r2.Add(want, r2.Scale(w, r2.Vec{X: p.X, Y: -p.Y}))
		}
		got, ok := c.Where(30)
		v, _ := c.Velocity(30)
		if !ok || r2.Norm(r2.Sub(got, want)) > 0.01 || math.Abs(v.X-240) > 0.5 {
			t.Errorf("%s: %v, want %v; speed %v", sex, got, want, v)
		}
	}
	// Heels and toes may be missing; a hip may not.
	if c := New(standing("left_toe", "right_heel", "left_ear"), Film{Rate: 120, View: angles.View{Direction: 1}}, nil).Centre(body.Male); c == nil {
		t.Error("no centre without a toe")
	}
	if c := New(standing("left_hip"), Film{Rate: 120, View: angles.View{Direction: 1}}, nil).Centre(body.Male); c != nil {
		t.Error("a centre without a hip")
	}
}

func TestCurves(t *testing.T) {
	m := New(standing(), Film{Rate: 120, View: angles.View{Direction: 1}}, nil)
	sigma := func(string, int) float64 { return 2 }
	seen := 0
	for _, k := range CurveKinds() {
		c := m.Curve(k.ID, 70, 0.004, body.Male, sigma)
		missing := c.X[30] == None
		if missing != (c.Reason != "") {
			t.Errorf("%s: value %g, why %q", k.ID, c.X[30], c.Reason)
		}
		if !missing {
			seen++
			if c.X[65] != None || !(c.Half95[30] > 0) {
				t.Errorf("%s: %g beyond the track, doubt %g", k.ID, c.X[65], c.Half95[30])
			}
		}
	}
	if seen < 40 {
		t.Errorf("only %d curves have values", seen)
	}
	if c := m.Curve("speed:left_toe", 60, 0.004, body.Male, sigma); math.Abs(c.X[30]-0.96) > 0.01 {
		t.Errorf("240 px/s at 4 mm a px is %.3f m/s", c.X[30])
	}
	if c := m.Curve("height:left_ankle", 60, 0.004, body.Male, sigma); math.Abs(c.X[30]-24) > 0.1 {
		t.Errorf("an ankle 60 px above the toes is %.1f cm high", c.X[30])
	}
	if c := m.Curve("angle:left_knee", 60, 0, body.Male, sigma); math.Abs(c.X[30]-angles.Included(r2.Vec{X: 5, Y: 150}, r2.Vec{X: 6, Y: 180}, r2.Vec{X: 7, Y: 210})) > 0.5 {
		t.Errorf("knee %.1f", c.X[30])
	}
}

// A known turning of the camera is taken out: a point that stands in the common
// frame has no speed, though its pixels run.
func TestCommonFrame(t *testing.T) {
	cam := &stabilize.Rotations{Width: 1280, Height: 720, Focal: 1500}
	tr := track.New(0)
	for f := range 60 {
		cam.Turns = append(cam.Turns, [3]float64{0.001, 0.004 * float64(f-30), 0})
	}
	for f := range 60 {
		p := cam.ToImage(f, r2.Vec{X: 700, Y: 500})
		put(tr, f, p.X, p.Y, "draft")
	}
	m := New(Points{"spot_a": tr}, Film{Rate: 120, View: angles.View{Direction: 1}, Camera: cam}, nil)
	v, ok := m.Paths["spot_a"].Velocity(30)
	q, _ := m.Where("spot_a", 30)
	if !ok || r2.Norm(v) > 1 || r2.Norm(r2.Sub(q, r2.Vec{X: 700, Y: -500})) > 0.01 {
		t.Errorf("at %v with %v", q, v)
	}
	if back := m.ToImage(12, q); math.Abs(back.X-float64(tr.X[12])) > 0.01 {
		t.Errorf("back in frame 12 at %v", back)
	}
	lo, hi := cam.Span()
	if lo.X >= 0 || hi.X <= 1280 {
		t.Errorf("a pan spans %v to %v", lo, hi)
	}
}

package orbit_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/orbit"
	"neokinema/core/vision"
)

// swing is a drawn clip: a dark disc on an ellipse that gathers speed, before a grey wall
// with posts, arms that swing along, and noise.
type swing struct {
	frames  int
	rate    float64
	sense   float64
	camera  float64 // px a frame by which the picture moves
	behind  [2]int  // frames in which something hides it
	without bool
}

const (
	wide, high = 320, 240
	radius     = 4.0
	reach      = 100.0
)

func (s swing) neck(f int) r2.Vec { return r2.Vec{X: 150 + s.camera*float64(f), Y: 110} }

func (s swing) at(f int) r2.Vec {
	t := float64(f) / s.rate
	turn := s.sense * 2 * math.Pi * (0.7*t + 0.4*t*t) // turns a second rise from 0.7
	return r2.Add(s.neck(f), r2.Vec{X: 88 * math.Cos(turn), Y: 12 + 40*math.Sin(turn+0.4)})
}

func (s swing) hidden(f int) bool { return f >= s.behind[0] && f < s.behind[1] }

func (s swing) picture(f int, r *rand.Rand) vision.Gray {
	g := vision.Gray{W: wide, H: high, Pix: make([]float32, wide*high)}
	shift := s.camera * float64(f)
	hand := r2.Add(s.neck(f), r2.Scale(0.35, r2.Sub(s.at(f), s.neck(f))))
	smear := make([]r2.Vec, 6) // half of the way to the next picture
	for k := range smear {
		u := float64(k)/10 - 0.25
		smear[k] = r2.Add(r2.Scale(1-math.Abs(u), s.at(f)), r2.Scale(math.Abs(u), s.at(f+int(math.Copysign(1, u)))))
	}
	ball := s.at(f)
	var wave [wide]float64
	for x := range wave {
		wave[x] = 25 * math.Sin((float64(x)-shift)/9)
	}
	for y := range high {
		across := math.Cos(float64(y) / 13)
		for x := range wide {
			v := 150 + wave[x]*across
			q := r2.Vec{X: float64(x), Y: float64(y)}
			if r2.Norm(r2.Sub(q, ball)) < 40 && !s.without && !s.hidden(f) {
				cover := 0.0
				for _, p := range smear {
					if r2.Norm(r2.Sub(q, p)) < radius {
						cover += 1 / float64(len(smear))
					}
				}
				v = v*(1-cover) + 40*cover
			}
			if r2.Norm(r2.Sub(q, hand)) < 6 {
				v = 200
			}
			g.Pix[y*wide+x] = float32(v + 2*r.NormFloat64())
		}
	}
	return g
}

func (s swing) follow(anchors map[int]r2.Vec) []orbit.Place {
	f := orbit.New(orbit.Scene{
		Frames: s.frames, Rate: s.rate, Radius: radius, Reach: reach, Anchors: anchors,
		Shoulders: func(f int) (r2.Vec, bool) { return s.neck(f), true },
		Body: func(f int) []orbit.Bone {
			return []orbit.Bone{{A: s.neck(f), B: r2.Add(s.neck(f), r2.Vec{Y: 60}), Half: 8}}
		},
		To: func(from, to int, p r2.Vec) r2.Vec { return r2.Add(p, r2.Vec{X: s.camera * float64(to-from)}) },
	})
	var path []orbit.Place
	for range 2 {
		r := rand.New(rand.NewPCG(1, 2))
		for k := range s.frames {
			f.Add(s.picture(k, r))
		}
		path, _ = f.Path()
		f.Again(path)
	}
	return path
}

func TestASwungBallIsFollowed(t *testing.T) {
	for name, s := range map[string]swing{
		"at 30 a second":          {frames: 75, rate: 30, sense: 1},
		"the other way, at 60":    {frames: 140, rate: 60, sense: -1},
		"while the camera turns":  {frames: 75, rate: 30, sense: 1, camera: 0.7},
		"at 25, the last turns":   {frames: 50, rate: 25, sense: -1},
		"hidden for a few frames": {frames: 75, rate: 30, sense: 1, behind: [2]int{40, 43}},
	} {
		t.Run(name, func(t *testing.T) {
			path := s.follow(nil)
			right, all := 0, 0
			for f, p := range path {
				if f == 0 || f == s.frames-1 {
					continue // they have no neighbour to tell what moved
				}
				all++
				off := r2.Norm(r2.Sub(p.At, s.at(f)))
				switch {
				case s.hidden(f):
					if p.Confidence == 0 || !p.Bridged || off > 0.2*reach {
						t.Errorf("frame %d, hidden: %+v, %.1f px off", f, p, off)
					}
					right++
				case p.Confidence > 0 && off < radius:
					right++
				case p.Confidence > 0.5 && !p.Bridged && off > 2*radius:
					t.Errorf("frame %d: sure of a place %.1f px off", f, off)
				}
			}
			if right < all*95/100 {
				t.Errorf("right in %d of %d frames", right, all)
			}
		})
	}
}

// TestNothingSwung: arms alone are no implement.
func TestNothingSwung(t *testing.T) {
	s := swing{frames: 60, rate: 30, sense: 1, without: true}
	sure := 0
	for _, p := range s.follow(nil) {
		if p.Confidence > 0.5 {
			sure++
		}
	}
	if sure > 6 {
		t.Errorf("an implement is seen in %d frames of a clip without one", sure)
	}
}

// TestAHandSetsIt: the path goes through places that a hand has set.
func TestAHandSetsIt(t *testing.T) {
	s := swing{frames: 60, rate: 30, sense: 1, behind: [2]int{20, 40}}
	anchors := map[int]r2.Vec{25: s.at(25), 30: s.at(30), 35: s.at(35)}
	path := s.follow(anchors)
	for f, at := range anchors {
		if path[f].At != at || path[f].Confidence != 1 {
			t.Errorf("frame %d: %+v, set at %v", f, path[f], at)
		}
	}
	for f := 20; f < 40; f++ {
		if off := r2.Norm(r2.Sub(path[f].At, s.at(f))); path[f].Confidence == 0 || off > 0.25*reach {
			t.Errorf("frame %d between places that are set: %+v, %.1f px off", f, path[f], off)
		}
	}
}

func BenchmarkFollow(b *testing.B) {
	s := swing{frames: 60, rate: 30, sense: 1}
	for b.Loop() {
		s.follow(nil)
	}
}

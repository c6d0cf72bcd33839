package simcam

import (
	"math"
	"slices"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
)

func spec(leg body.Side, direction float64, faults map[string]float64) Spec {
	return Spec{Athlete: body.Person{Sex: body.Male, Height: 1.82, FrontLeg: leg}, Faults: faults, Direction: direction, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720}
}

func scene(t testing.TB, s Spec) *Scene {
	t.Helper()
	sc, err := New(s)
	if err != nil {
		t.Fatal(err)
	}
	return sc
}

func world(f Frame, id string) r3.Vec {
	w := f.Landmarks[id].World
	return r3.Vec{X: w[0], Y: w[1], Z: w[2]}
}

// TestSegmentsKeepTheirLength through the whole motion, for tall and small,
// left and right.
func TestSegmentsKeepTheirLength(t *testing.T) {
	for _, height := range []float64{1.35, 1.82, 2.0} {
		for _, leg := range []body.Side{body.Left, body.Right} {
			s := spec(leg, 1, nil)
			s.Athlete.Height = height
			sc := scene(t, s)
			for i, f := range sc.Truth.Frames {
				for _, side := range []string{"left_", "right_"} {
					for _, link := range []struct {
						a, b string
						l    float64
					}{{"hip", "knee", sc.dims.thigh}, {"knee", "ankle", sc.dims.shank}, {"shoulder", "elbow", sc.dims.upperArm}, {"elbow", "wrist", sc.dims.forearm}, {"heel", "toe", sc.dims.foot}} {
						if d := r3.Norm(r3.Sub(world(f, side+link.a), world(f, side+link.b))); math.Abs(d-link.l) > 0.004 {
							t.Fatalf("height %v frame %d: %s%s to %s is %.4f m, not %.4f", height, i, side, link.a, link.b, d, link.l)
						}
					}
				}
			}
		}
	}
}

// TestFeetOnTheGroundDoNotSlide: the toe of a foot in contact stays within 5 mm.
func TestFeetOnTheGroundDoNotSlide(t *testing.T) {
	for _, faults := range []map[string]float64{nil, {"front-knee": 118, "early-rise": 11}, {"foot-ahead": 0.3}} {
		sc := scene(t, spec(body.Left, 1, faults))
		start := map[string]r3.Vec{}
		for i, f := range sc.Truth.Frames {
			for _, side := range []string{"left", "right"} {
				toe := world(f, side+"_toe")
				if !slices.Contains(f.Contacts, side) {
					delete(start, side)
				} else if from, ok := start[side]; !ok {
					start[side] = toe
				} else if d := r3.Norm(r3.Sub(toe, from)); d > 0.005 {
					t.Fatalf("%v frame %d: %s toe slid %.1f mm", faults, i, side, 1000*d)
				}
			}
		}
	}
}

func TestFlagsAgreeWithContacts(t *testing.T) {
	tr := scene(t, spec(body.Right, -1, nil)).Truth
	down := func(frame int, side string) bool { return slices.Contains(tr.Frames[frame].Contacts, side) }
	for _, c := range []struct{ position, side string }{{"td1", "left"}, {"td2", "right"}, {"td3", "left"}} {
		if f := tr.Positions[c.position]; !down(f, c.side) || down(f-1, c.side) {
			t.Errorf("%s at %d is not the first frame of contact", c.position, f)
		}
	}
	for _, c := range []struct{ position, side string }{{"rear_off", "left"}, {"clear", "right"}, {"to1", "left"}, {"to2", "right"}, {"to3", "left"}} {
		if f := tr.Positions[c.position]; down(f, c.side) || !down(f-1, c.side) {
			t.Errorf("%s at %d is not the first frame without contact", c.position, f)
		}
	}
}

// TestMirroredStart: an athlete with the other leg in front who runs the other
// way gives the mirror image of the picture.
func TestMirroredStart(t *testing.T) {
	a, b := scene(t, spec(body.Left, 1, nil)).Truth, scene(t, spec(body.Right, -1, nil)).Truth
	for i := range a.Frames {
		for _, part := range body.Parts {
			p, q := a.Frames[i].Landmarks["left_"+part].Image, b.Frames[i].Landmarks["right_"+part].Image
			if math.Abs(p[0]-(1280-q[0])) > 1e-6 || math.Abs(p[1]-q[1]) > 1e-6 {
				t.Fatalf("frame %d %s: %v against %v", i, part, p, q)
			}
		}
	}
}

func TestHipNeverRunsBackwardAndAthleteStaysInPicture(t *testing.T) {
	tr := scene(t, spec(body.Left, 1, nil)).Truth
	for i, f := range tr.Frames {
		for id, l := range f.Landmarks {
			if l.Image[0] < 0 || l.Image[0] > 1280 || l.Image[1] < 0 || l.Image[1] > 720 {
				t.Fatalf("frame %d: %s is outside the picture", i, id)
			}
		}
		if i > 0 && f.Landmarks["left_hip"].World[0]+f.Landmarks["right_hip"].World[0] < tr.Frames[i-1].Landmarks["left_hip"].World[0]+tr.Frames[i-1].Landmarks["right_hip"].World[0]-1e-9 {
			t.Fatalf("frame %d: the hips go backward", i)
		}
	}
}

func TestMatrixProjectsLikeTheCamera(t *testing.T) {
	sc := scene(t, spec(body.Left, 1, nil))
	// By similar triangles, without the matrix.
	p := r3.Vec{X: 1.3, Y: 0.9, Z: -0.4}
	got, _ := sc.camera.Project(p)
	depth := sc.camera.At.Z - p.Z
	if wantX := 640 + sc.camera.Focal*(p.X-sc.camera.At.X)/depth; math.Abs(got.X-wantX) > 1e-9 {
		t.Errorf("u %v, want %v", got.X, wantX)
	}
	if wantY := 360 - sc.camera.Focal*(p.Y-sc.camera.At.Y)/depth; math.Abs(got.Y-wantY) > 1e-9 {
		t.Errorf("v %v, want %v", got.Y, wantY)
	}
	x, z, ok := sc.camera.ground(got.X, 700)
	if back, _ := sc.camera.Project(r3.Vec{X: x, Z: z}); !ok || math.Abs(back.X-got.X) > 1e-6 || math.Abs(back.Y-700) > 1e-6 {
		t.Errorf("ground and back: %v", back)
	}
}

func TestImpossibleWishes(t *testing.T) {
	for name, change := range map[string]func(*Spec){
		"unknown fault": func(s *Spec) { s.Faults = map[string]float64{"moonwalk": 1} },
		"fault size":    func(s *Spec) { s.Faults = map[string]float64{"front-knee": 20} },
		"NaN":           func(s *Spec) { s.Faults = map[string]float64{"front-knee": math.NaN()} },
		"giant":         func(s *Spec) { s.Athlete.Height = 3 },
		"rate":          func(s *Spec) { s.CaptureRate = 0 },
		"odd picture":   func(s *Spec) { s.Width = 1281 },
	} {
		s := spec(body.Left, 1, nil)
		change(&s)
		if _, err := New(s); err == nil {
			t.Errorf("%s was simulated", name)
		}
	}
}

// TestPictureShowsTheTruth: where the truth says a shoe is, the picture has the
// colour of that shoe and the background has not.
func TestPictureShowsTheTruth(t *testing.T) {
	sc := scene(t, spec(body.Left, 1, nil))
	p := sc.newPainter()
	for _, frame := range []int{sc.Truth.Positions["set"], sc.Truth.Positions["to1"], sc.Truth.Positions["td3"]} {
		pic := p.paint(frame)
		heel, toe := sc.Truth.Frames[frame].Landmarks["right_heel"].Image, sc.Truth.Frames[frame].Landmarks["right_toe"].Image
		at := 3 * (int((heel[1]+toe[1])/2)*pic.w + int((heel[0]+toe[0])/2))
		r, b := int(pic.pix[at]), int(pic.pix[at+2])
		if b <= r+20 || int(p.background.pix[at+2]) > int(p.background.pix[at])+20 {
			t.Errorf("frame %d: no blue shoe at its place (%d, %d)", frame, r, b)
		}
	}
}

func BenchmarkPaint(b *testing.B) {
	p := scene(b, spec(body.Left, 1, nil)).newPainter()
	for b.Loop() {
		p.paint(150)
	}
}

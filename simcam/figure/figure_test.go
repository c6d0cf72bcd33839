package figure

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
)

var man = body.Person{Sex: body.Male, Height: 1.80}

func close3(t *testing.T, what string, got, want r3.Vec, within float64) {
	t.Helper()
	if d := r3.Norm(r3.Sub(got, want)); !(d <= within) {
		t.Errorf("%s: %v, want %v", what, got, want)
	}
}

func angle(a, b, c r3.Vec) float64 {
	return math.Acos(r3.Cos(r3.Sub(a, b), r3.Sub(c, b))) * 180 / math.Pi
}

// standing is somebody at attention on both feet.
func standing(s Sizes) Pose {
	p := Pose{Hip: r3.Vec{Y: 0.02 + s.AnkleUp + 0.995*s.Leg()}}
	for side := range 2 {
		p.Legs[side] = Leg{Planted: true, Foot: Foot{Toe: r3.Vec{X: s.Foot - s.AnkleBack, Y: 0.02, Z: Out(side) * s.HipHalf}}}
		p.Arms[side].Bend = 178
	}
	return p
}

// TestCentreOfMassOfAStandingMan: at 54 to 58 % of the standing height by
// textbooks of anatomy (from memory); the figure's straight legs carry its hips
// two centimetres high, so a little more is allowed.
func TestCentreOfMassOfAStandingMan(t *testing.T) {
	for _, sex := range []body.Sex{body.Male, body.Female} {
		p := body.Person{Sex: sex, Height: 1.75}
		s := SizesOf(p)
		pose := standing(s)
		b := s.Place(&pose)
		c := s.Centre(&b)
		// De Leva's links end at joints: the head's top is not among them, so the
		// figure stands a little lower than the person.
		if share := c.Y / p.Height; share < 0.53 || share > 0.60 {
			t.Errorf("%s: centre of mass at %.1f %% of the height", sex, 100*share)
		}
		if math.Abs(c.Z) > 1e-9 {
			t.Errorf("%s: %.4f m aside", sex, c.Z)
		}
		if top := b.Mid(Ear).Y / p.Height; top < 0.88 || top > 0.98 {
			t.Errorf("%s: ears at %.1f %% of the height", sex, 100*top)
		}
	}
}

func TestBasisStaysSquareAndTurnsAsItSays(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 200 {
		b := Level(720*r.Float64()-360).Turned(360*r.Float64()-180, 360*r.Float64()-180, 360*r.Float64()-180)
		close3(t, "right", r3.Cross(b.F, b.U), b.R, 1e-12)
		if math.Abs(r3.Dot(b.F, b.U)) > 1e-12 || math.Abs(r3.Norm(b.F)-1) > 1e-12 {
			t.Fatalf("not square: %+v", b)
		}
	}
	close3(t, "heading 90 looks right", Level(90).F, r3.Vec{Z: 1}, 1e-12)
	close3(t, "lean forward 90 lies along the way", Level(0).Turned(0, 90, 0).U, r3.Vec{X: 1}, 1e-12)
	close3(t, "lean right 90", Level(0).Turned(0, 0, 90).U, r3.Vec{Z: 1}, 1e-12)
	close3(t, "twist right 90", Level(0).Turned(90, 0, 0).F, r3.Vec{Z: 1}, 1e-12)
	if h := Heading(Along(-137)); math.Abs(h+137) > 1e-9 {
		t.Errorf("heading %v", h)
	}
}

// TestLegAnglesAndBack: joint angles read off a planted leg put it back where it
// was, for any pelvis and foot in reach.
func TestLegAnglesAndBack(t *testing.T) {
	s := SizesOf(man)
	r := rand.New(rand.NewPCG(2, 2))
	tried := 0
	for range 500 {
		p := Pose{Hip: r3.Vec{Y: 0.75 + 0.1*r.Float64()}, Heading: 360 * r.Float64(), Lean: 60*r.Float64() - 20, Tilt: 30*r.Float64() - 15}
		side := int(r.Uint64() % 2)
		f := Foot{Toe: r3.Add(r3.Vec{Y: 0.02}, r3.Scale(0.5*r.Float64()-0.2, Along(p.Heading))), Heading: p.Heading + 80*r.Float64() - 40, Sole: 60 * r.Float64()}
		hip := s.HipJoint(&p, side)
		if r3.Norm(r3.Sub(hip, s.Ankle(f))) > 0.985*s.Leg() {
			continue
		}
		tried++
		p.Legs[side] = Leg{Planted: true, Foot: f}
		want := s.Place(&p)
		p.Legs[side] = Leg{Limb: s.LegAngles(p.Pelvis(), side, hip, f)}
		got := s.Place(&p)
		for part := Knee; part <= Toe; part++ {
			close3(t, body.Parts[part], got.At(side, part), want.At(side, part), 1e-9)
		}
	}
	if tried < 200 {
		t.Fatalf("only %d legs in reach", tried)
	}
}

func TestLimbAnglesMeanWhatTheySay(t *testing.T) {
	s := SizesOf(man)
	p := Pose{Hip: r3.Vec{Y: 1}}
	p.Legs[Left].Limb = Limb{Flex: 90, Bend: 90}
	p.Legs[Right].Limb = Limb{Out: 30, Bend: 180}
	p.Arms[Left].Limb = Limb{Flex: 90, Bend: 180}
	p.Arms[Right].Limb = Limb{Out: 90, Bend: 90}
	b := s.Place(&p)
	close3(t, "level thigh", r3.Sub(b.At(Left, Knee), b.At(Left, Hip)), r3.Vec{X: s.Thigh}, 1e-12)
	close3(t, "hanging shank", r3.Sub(b.At(Left, Ankle), b.At(Left, Knee)), r3.Vec{Y: -s.Shank}, 1e-12)
	close3(t, "foot at a right angle", r3.Unit(r3.Sub(b.At(Left, Toe), b.At(Left, Heel))), r3.Vec{X: 1}, 1e-12)
	close3(t, "leg to the side", r3.Unit(r3.Sub(b.At(Right, Ankle), b.At(Right, Hip))), r3.Vec{Y: -math.Sqrt(3) / 2, Z: 0.5}, 1e-12)
	close3(t, "arm forward", r3.Unit(r3.Sub(b.At(Left, Hand), b.At(Left, Shoulder))), r3.Vec{X: 1}, 1e-12)
	close3(t, "arm to the side", r3.Unit(r3.Sub(b.At(Right, Elbow), b.At(Right, Shoulder))), r3.Vec{Z: 1}, 1e-12)
	if a := angle(b.At(Right, Shoulder), b.At(Right, Elbow), b.At(Right, Wrist)); math.Abs(a-90) > 1e-9 {
		t.Errorf("elbow %.3f", a)
	}
}

// TestBendAgainstTheLawOfCosines.
func TestBendAgainstTheLawOfCosines(t *testing.T) {
	a, b := r3.Vec{X: 1, Y: 2, Z: 3}, r3.Vec{X: 1.3, Y: 1.5, Z: 2.8}
	m := Bend(a, b, 0.45, 0.42, r3.Vec{Z: 1})
	d := r3.Norm(r3.Sub(b, a))
	want := math.Acos((0.45*0.45+0.42*0.42-d*d)/(2*0.45*0.42)) * 180 / math.Pi
	if got := angle(a, m, b); math.Abs(got-want) > 1e-9 || math.Abs(r3.Norm(r3.Sub(m, a))-0.45) > 1e-12 {
		t.Errorf("bends to %.4f, want %.4f", got, want)
	}
	far := Bend(r3.Vec{}, r3.Vec{X: 5}, 1, 1, r3.Vec{Y: 1})
	close3(t, "out of reach it is straight", far, r3.Vec{X: 1}, 1e-6)
}

// TestPulledHandIsAtItsGrip and half-way when half pulled.
func TestPulledHandIsAtItsGrip(t *testing.T) {
	s := SizesOf(man)
	p := standing(s)
	grip := r3.Add(s.ShoulderJoint(&p, Right), r3.Vec{X: 0.4, Y: 0.1, Z: -0.1})
	loose := s.Place(&p)
	p.Arms[Right] = Arm{Limb: p.Arms[Right].Limb, Grip: grip, Pull: 1, Elbow: r3.Vec{Y: -1, Z: 0.5}}
	b := s.Place(&p)
	close3(t, "hand", b.At(Right, Hand), grip, 1e-9)
	if b.At(Right, Elbow).Y > grip.Y {
		t.Error("the elbow does not point down")
	}
	p.Arms[Right].Pull = 0.5
	half := s.Place(&p)
	if d := r3.Norm(r3.Sub(half.At(Right, Hand), Between(loose.At(Right, Hand), grip, 0.5))); d > 0.02 {
		t.Errorf("half pulled: %.3f m off half-way", d)
	}
}

func TestFootRollsOverItsToe(t *testing.T) {
	s := SizesOf(man)
	flat, up := Foot{Heading: 30}, Foot{Heading: 30, Sole: 50}
	if d := r3.Norm(r3.Sub(s.Heel(up), up.Toe)); math.Abs(d-s.Foot) > 1e-12 {
		t.Errorf("foot of %.3f m", d)
	}
	if s.Heel(up).Y < s.Heel(flat).Y+0.7*s.Foot*math.Sin(50*math.Pi/180) || s.Ankle(up).Y <= s.Ankle(flat).Y {
		t.Error("the heel does not rise")
	}
}

func TestChildIsASmallerFigure(t *testing.T) {
	child, adult := SizesOf(body.Person{Sex: body.Female, Height: 1.2}), SizesOf(body.Person{Sex: body.Female, Height: 1.8})
	if math.Abs(child.Leg()/adult.Leg()-1.2/1.8) > 1e-12 || math.Abs(child.Arm()/adult.Arm()-1.2/1.8) > 1e-12 {
		t.Error("not in proportion")
	}
}

package repair

import (
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/kinematics"
	"neokinema/core/track"
)

// walk is a pair of legs that swing against each other, 300 px tall: knees and ankles pass
// twice a second. Named tells how a model names them in a frame.
func walk(rate float64, frames int, named func(f int) bool, seed uint64) (points kinematics.Points, truth map[string][]float64) {
	r := rand.New(rand.NewPCG(seed, 9))
	points, truth = kinematics.Points{}, map[string][]float64{}
	for _, part := range []struct {
		name string
		far  float64
		y    float64
	}{{"knee", 40, 200}, {"ankle", 80, 290}, {"toe", 80, 298}, {"heel", 80, 298}} {
		l, rr := track.New(frames), track.New(frames)
		for f := range frames {
			x := part.far * math.Sin(2*math.Pi*1.0*float64(f)/rate)
			a, b := 400+x, 400-x
			truth["left_"+part.name] = append(truth["left_"+part.name], a)
			if !named(f) {
				a, b = b, a
			}
			for k, t := range []*track.Track{l, rr} {
				v := a
				if k == 1 {
					v = b
				}
				_ = t.Set(f, &track.Point{X: v + 2*r.NormFloat64(), Y: part.y + 2*r.NormFloat64(), Source: "draft", Confidence: 0.8})
			}
		}
		points["left_"+part.name], points["right_"+part.name] = l, rr
	}
	return points, truth
}

// Legs that pass each other keep their names, whether a model exchanged them in single
// frames, for a whole step, or never.
func TestLegsKeepTheirNamesWhenTheyPass(t *testing.T) {
	for what, named := range map[string]func(f int) bool{
		"never":         func(int) bool { return true },
		"single frames": func(f int) bool { return f%7 != 0 },
		"a step":        func(f int) bool { return f < 33 || f > 44 },
		"often":         func(f int) bool { return f%5 > 1 },
	} {
		for _, rate := range []float64{30, 60} {
			points, truth := walk(rate, 150, named, 4)
			limbs[legs].name(points, rate, 300, nil)
			wrong := 0
			for f := range 150 {
				p, _ := points["left_ankle"].At(f)
				w := truth["left_ankle"][f]
				if math.Abs(w-400) > 20 && math.Abs(p.X-w) > math.Abs(p.X-(800-w)) {
					wrong++
				}
			}
			if wrong > 2 {
				t.Errorf("%s at %g/s: %d frames named wrongly", what, rate, wrong)
			}
		}
	}
}

// What a hand has set is not exchanged, and settles the frames around it.
func TestTheHandNamesALeg(t *testing.T) {
	points, truth := walk(60, 60, func(int) bool { return false }, 5)
	for _, f := range []int{10, 30, 50} {
		p := track.Point{X: truth["left_ankle"][f], Y: 290, Source: "hand", Confidence: 1}
		q := track.Point{X: 800 - truth["left_ankle"][f], Y: 290, Source: "hand", Confidence: 1}
		_ = points["left_ankle"].Set(f, &p)
		_ = points["right_ankle"].Set(f, &q)
		for _, part := range []string{"knee"} {
			a, _ := points["left_"+part].At(f)
			b, _ := points["right_"+part].At(f)
			_ = points["left_"+part].Set(f, &b)
			_ = points["right_"+part].Set(f, &a)
		}
	}
	limbs[legs].name(points, 60, 300, nil)
	wrong := 0
	for f := range 60 {
		p, _ := points["left_ankle"].At(f)
		w := truth["left_ankle"][f]
		if math.Abs(w-400) > 20 && math.Abs(p.X-w) > math.Abs(p.X-(800-w)) {
			wrong++
		}
	}
	if wrong > 2 {
		t.Errorf("%d frames named against the hand", wrong)
	}
	if p, _ := points["left_ankle"].At(30); p.Source != "hand" || math.Abs(p.X-truth["left_ankle"][30]) > 0.01 {
		t.Errorf("the hand's point became %+v", p)
	}
}

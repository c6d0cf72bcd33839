package runup_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/body"
	"neokinema/core/runup"
)

const deg = math.Pi / 180

func usual() runup.Curve {
	return runup.Curve{Leg: body.Left, Straight: 5, Curved: 5, Step: 1.9, Radius: 9, Along: 1, Out: 0.9, ToBar: 35 * deg, Base: 0.1, Outward: 0.15}
}

// Steps are as long as wanted, curved ones lie on the arc, straight ones on its tangent; the
// plant is where it was asked for and on the take-off leg.
func TestMarks(t *testing.T) {
	c := usual()
	c.Base, c.Outward = 0, 0
	list, err := c.Marks()
	if err != nil || len(list) != 11 {
		t.Fatalf("%d marks, %v", len(list), err)
	}
	plant := list[10]
	if plant.N != 0 || plant.Foot != body.Left || math.Abs(plant.Along-1) > 1e-9 || math.Abs(plant.Out-0.9) > 1e-9 {
		t.Errorf("plant: %+v", plant)
	}
	mx, my := 1+9*math.Sin(35*deg), 0.9+9*math.Cos(35*deg)
	for i, m := range list {
		if (m.N%2 == 0) != (m.Foot == body.Left) {
			t.Errorf("%d before the plant on the %s foot", m.N, m.Foot)
		}
		if far := math.Hypot(m.Along-mx, m.Out-my); m.Curved && math.Abs(far-9) > 1e-9 {
			t.Errorf("mark %d is %.3f m from the middle of the arc", m.N, far)
		}
		if math.Abs(m.Tape-math.Hypot(m.Along, m.Out)) > 1e-12 {
			t.Errorf("tape of mark %d", m.N)
		}
		if i == 0 {
			continue
		}
		chord := math.Hypot(m.Along-list[i-1].Along, m.Out-list[i-1].Out)
		want := 1.9
		if m.Curved && list[i-1].Curved {
			want = 2 * 9 * math.Sin(1.9/18) // the chord of an arc of 1.9 m
		}
		if math.Abs(chord-want) > 1e-9 {
			t.Errorf("step to mark %d is %.4f m, want %.4f", m.N, chord, want)
		}
	}
	// He comes from outside of the near upright and far out.
	if first := list[0]; first.Out < 10 || first.Along > 1 {
		t.Errorf("start: %+v", first)
	}
	// The last step but one is set outward, away from the middle.
	out := usual()
	moved, _ := out.Marks()
	if a, b := math.Hypot(moved[9].Along-mx, moved[9].Out-my), 9+0.05+0.15; math.Abs(a-b) > 1e-9 {
		t.Errorf("the penultimate is %.3f m from the middle, want %.3f", a, b)
	}
	// The right leg is the mirror: the same marks from the other upright.
	right := usual()
	right.Leg = body.Right
	other, _ := right.Marks()
	for i := range other {
		if other[i].Along != moved[i].Along || other[i].Foot == moved[i].Foot {
			t.Errorf("mark %d of the right leg: %+v, of the left %+v", i, other[i], moved[i])
		}
	}
	for _, bad := range []func(*runup.Curve){func(c *runup.Curve) { c.Radius = math.NaN() }, func(c *runup.Curve) { c.Curved = 0 }, func(c *runup.Curve) { c.Step = 40 }, func(c *runup.Curve) { c.ToBar = 0 }} {
		c := usual()
		bad(&c)
		if _, err := c.Marks(); err == nil {
			t.Errorf("%+v is laid out", c)
		}
	}
}

// A scatter of 8 cm and one foul in ten: aim 10.3 cm behind the edge; and back.
func TestAim(t *testing.T) {
	if b := runup.Behind(0.08, 0.1); math.Abs(b-0.1025) > 5e-4 {
		t.Errorf("aim %.4f m behind", b)
	}
	if f := runup.Fouls(0.08, runup.Behind(0.08, 0.23)); math.Abs(f-0.23) > 1e-9 {
		t.Errorf("fouls %.3f", f)
	}
	if b := runup.Behind(0.08, 0.5); math.Abs(b) > 1e-12 {
		t.Errorf("one in two: %.4f m", b)
	}
}

// Intervals of scatter and shift hold what is true as often as they say.
func TestSpreadCovers(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	const truth, sd, rounds = 0.04, 0.08, 4000
	var inSD, inMean, inShift float64
	for range rounds {
		var list []float64
		for range 8 {
			list = append(list, truth+sd*r.NormFloat64())
		}
		s, err := runup.Spread(list)
		if err != nil {
			t.Fatal(err)
		}
		if s.SDLow <= sd && sd <= s.SDTop {
			inSD++
		}
		if math.Abs(s.Mean.Value-truth) <= s.Mean.Half95*2.365/1.96 { // Student's t of seven degrees of freedom
			inMean++
		}
		if v := runup.Shift(s, 0.1); math.Abs(v.Value-(truth+runup.Behind(sd, 0.1))) <= v.Half95 {
			inShift++
		}
	}
	for name, in := range map[string]float64{"scatter": inSD, "mean": inMean, "shift": inShift} {
		if share := in / rounds; share < 0.925 || share > 0.985 {
			t.Errorf("the interval of the %s holds the truth in %.1f %%", name, 100*share)
		}
	}
	if _, err := runup.Spread([]float64{1, 2}); err == nil {
		t.Error("two run-ups tell a scatter")
	}
}

// What goes wrong before the mid mark shows there; what the last steps add does not.
func TestWhereItArises(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	var mids, early, late []float64
	for range 40 {
		m := 0.1 * r.NormFloat64()
		mids = append(mids, m)
		early = append(early, m+0.01*r.NormFloat64())
		late = append(late, 0.1*r.NormFloat64())
	}
	a, err := runup.Where(mids, early)
	b, err2 := runup.Where(mids, late)
	if err != nil || err2 != nil || a.Before < 0.9 || a.After > 0.02 || b.Before > 0.25 || b.After < 0.1 {
		t.Errorf("early %+v, late %+v, %v %v", a, b, err, err2)
	}
}

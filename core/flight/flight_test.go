package flight

import (
	"errors"
	"math"
	"testing"

	"neokinema/core/vec3"
)

func throw(v, deg, h float64) State {
	s, c := math.Sincos(deg * math.Pi / 180)
	return State{Position: vec3.Vec{Y: h}, Velocity: vec3.Vec{X: v * c, Y: v * s}}
}

// TestRangeAgainstClosedForms: projectile formulas of any mechanics textbook.
// With g = 9.80665 the best range from 2.1 m at 14 m/s is 21.99 m (21.98 with
// 9.81, as usually printed).
func TestRangeAgainstClosedForms(t *testing.T) {
	best := BestAngle(14, 2.1)
	if deg := best * 180 / math.Pi; math.Abs(deg-42.3) > 0.05 {
		t.Errorf("best angle %.2f", deg)
	}
	for _, c := range []struct{ got, want, within float64 }{
		{Range(14, best, 2.1), 21.98, 0.011},
		{Range(14, best, 2.1), 14 / Gravity * math.Sqrt(14*14+2*Gravity*2.1), 1e-9},
		{Range(10, math.Pi/4, 0), 100 / Gravity, 1e-9},
	} {
		if math.Abs(c.got-c.want) > c.within {
			t.Errorf("%.6f, want %.6f", c.got, c.want)
		}
	}
	for _, off := range []float64{-0.02, 0.02} {
		if Range(14, best+off, 2.1) >= Range(14, best, 2.1) {
			t.Errorf("%v rad beside the best angle flies further", off)
		}
	}
	if !math.IsNaN(Range(3, 0.2, -5)) {
		t.Error("a path that never rises to the landing has a range")
	}
}

// TestVacuumKeepsItsEnergyAndMeetsTheFormula: no-air limit of the integration.
func TestVacuumKeepsItsEnergyAndMeetsTheFormula(t *testing.T) {
	from := throw(25, 38, 1.7)
	path, err := Fly(Vacuum{}, Still, from, 0, 20)
	if err != nil {
		t.Fatal(err)
	}
	end := path[len(path)-1]
	if want := Range(25, 38*math.Pi/180, 1.7); math.Abs(end.Position.X-want) > 1e-8 || math.Abs(end.Position.Y) > 1e-9 {
		t.Errorf("lands at %.10f, %.10f; formula says %.10f", end.Position.X, end.Position.Y, want)
	}
	energy := func(s Sample) float64 { return vec3.Norm2(s.Velocity)/2 + Gravity*s.Position.Y }
	e0 := energy(path[0])
	for _, s := range path {
		if math.Abs(energy(s)/e0-1) > 1e-9 {
			t.Fatalf("energy off by %g at %.3f s", energy(s)/e0-1, s.Time)
		}
	}
}

// TestTerminalSpeed: dropped from far up a ball falls at sqrt(2 m g / (rho Cd A)).
func TestTerminalSpeed(t *testing.T) {
	b := Ball{Mass: 0.05, Diameter: 0.11}
	path, err := Fly(b, Still, State{Position: vec3.Vec{Y: 400}}, 0, 200)
	if err != nil {
		t.Fatal(err)
	}
	want := math.Sqrt(2 * b.Mass * Gravity / (Still.Density * 0.47 * math.Pi / 4 * b.Diameter * b.Diameter))
	if got := -path[len(path)-1].Velocity.Y; math.Abs(got-want) > 1e-3 {
		t.Errorf("falls at %.4f, want %.4f m/s", got, want)
	}
}

// TestAirActsAsTheTradeKnows: common practice, no source. A shot loses little, a
// hammer more; a discus gains from a head wind and loses from a tail wind.
func TestAirActsAsTheTradeKnows(t *testing.T) {
	land := func(what Implement, wind float64, from State) float64 {
		t.Helper()
		path, err := Fly(what, Air{Still.Density, vec3.Vec{X: wind}}, from, 0, 30)
		if err != nil {
			t.Fatal(err)
		}
		return path[len(path)-1].Position.X
	}
	shot := throw(13, 38, 2.1)
	if lost := Range(13, 38*math.Pi/180, 2.1) - land(Ball{Mass: 7.26, Diameter: 0.12}, 0, shot); lost < 0.02 || lost > 0.25 {
		t.Errorf("a shot loses %.2f m to the air", lost)
	}
	hammer := throw(28, 43, 1.7)
	if lost := Range(28, 43*math.Pi/180, 1.7) - land(Ball{Mass: 7.26, Diameter: 0.115, WireArea: 0.0036}, 0, hammer); lost < 1 || lost > 8 {
		t.Errorf("a hammer loses %.2f m to the air", lost)
	}
	disc := throw(24, 36, 1.6)
	tilt := 30 * math.Pi / 180
	disc.Axis = vec3.Vec{X: -math.Sin(tilt), Y: math.Cos(tilt)}
	d := Discus{Mass: 2, Diameter: 0.22}
	head, still, tail := land(d, -7, disc), land(d, 0, disc), land(d, 7, disc)
	if head < still || still < tail {
		t.Errorf("discus: %.1f m into the wind, %.1f in still air, %.1f with it", head, still, tail)
	}
}

func TestFlyRefusesNonsense(t *testing.T) {
	if _, err := Fly(Vacuum{}, Still, State{Velocity: vec3.Vec{X: math.NaN()}}, 0, 1); !errors.Is(err, ErrState) {
		t.Errorf("not a number: %v", err)
	}
	if path, err := Fly(Vacuum{}, Still, throw(20, 40, 1), 0, 0.5); !errors.Is(err, ErrNever) || len(path) < 50 {
		t.Errorf("time up: %v after %d samples", err, len(path))
	}
}

func BenchmarkFly(b *testing.B) {
	from := throw(28, 43, 1.7)
	for b.Loop() {
		if _, err := Fly(Ball{Mass: 7.26, Diameter: 0.115, WireArea: 0.0036}, Still, from, 0, 30); err != nil {
			b.Fatal(err)
		}
	}
}

// A disc that wobbles by nothing flies as one that does not; the mean push over its
// round is that of many single discs; its drag grows with the wobble.
func TestWobbling(t *testing.T) {
	disc := Discus{Mass: 2, Diameter: 0.22}
	through, axis := vec3.Vec{X: 18, Y: 14}, vec3.Unit(vec3.Vec{X: -0.5, Y: 0.8, Z: 0.1})
	if a, b := disc.Push(Still, through, axis), (Wobbling{Discus: disc}).Push(Still, through, axis); a != b {
		t.Errorf("without a wobble: %v and %v", a, b)
	}
	drag := func(half float64) float64 {
		p := Wobbling{Discus: disc, Half: half}.Push(Still, through, axis)
		return -vec3.Dot(p, vec3.Unit(through))
	}
	if !(drag(0.3) > drag(0.15) && drag(0.15) > drag(0)) {
		t.Errorf("drag %g, %g, %g", drag(0), drag(0.15), drag(0.3))
	}
	var want vec3.Vec
	side := vec3.Unit(vec3.Cross(axis, through))
	const n = 3600
	for i := range n {
		one := vec3.Turn(vec3.Turn(axis, side, 0.2), axis, 2*math.Pi*float64(i)/n)
		want = vec3.Add(want, vec3.Scale(1.0/n, disc.Push(Still, through, one)))
	}
	if got := (Wobbling{Discus: disc, Half: 0.2}).Push(Still, through, axis); vec3.Norm(vec3.Sub(got, want)) > 0.01*vec3.Norm(want) {
		t.Errorf("mean push %v, of single discs %v", got, want)
	}
}

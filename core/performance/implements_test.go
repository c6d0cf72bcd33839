package performance_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/performance"
)

// Marks on a line give it back, and what an implement between them should go.
func TestLineOfImplements(t *testing.T) {
	on := func(mass float64) performance.Best {
		return performance.Best{Mass: mass, Metres: 40 * math.Pow(mass, -0.6)}
	}
	l, err := performance.FitLine([]performance.Best{on(5), on(6), on(7.26), on(8)})
	if err != nil || math.Abs(l.Power+0.6) > 1e-9 || math.Abs(l.Scale-40) > 1e-6 || l.Spread > 1e-9 {
		t.Errorf("%+v %v", l, err)
	}
	for name, bad := range map[string][]performance.Best{"one": {on(5)}, "the same mass": {on(5), on(5)}, "no mass": {on(5), {0, 20}}, "no number": {on(5), {6, math.NaN()}}} {
		if _, err := performance.FitLine(bad); err == nil {
			t.Errorf("%s makes a line", name)
		}
	}
	if two, _ := performance.FitLine([]performance.Best{on(5), on(6)}); !math.IsInf(two.At(7).Half95, 1) || math.Abs(two.At(7).Value-on(7).Metres) > 1e-6 {
		t.Errorf("two marks: %+v", two.At(7))
	}
}

// The interval of one more mark holds it 95 times in 100; a mark far out of the line of the
// others is named, and without one none is.
func TestLineCovers(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	masses := []float64{4, 5, 6, 7.26, 8}
	mark := func(mass float64) float64 { return 38 * math.Pow(mass, -0.55) * math.Exp(0.02*r.NormFloat64()) }
	inside, named := 0.0, 0.0
	const rounds = 3000
	for range rounds {
		var list []performance.Best
		for _, m := range masses {
			list = append(list, performance.Best{Mass: m, Metres: mark(m)})
		}
		l, err := performance.FitLine(list)
		if err != nil {
			t.Fatal(err)
		}
		if v := l.At(6.5); math.Abs(mark(6.5)-v.Value) <= v.Half95 {
			inside++
		}
		list[3].Metres *= 0.6
		if at, want, ok := performance.Odd(list); ok && at == 3 && want.Value > list[3].Metres {
			named++
		}
	}
	if inside/rounds < 0.93 || inside/rounds > 0.97 {
		t.Errorf("one more mark lies within in %.1f %%", 100*inside/rounds)
	}
	if named/rounds < 0.6 {
		t.Errorf("the mark that is far out is named in %.1f %%", 100*named/rounds)
	}
}

// 170 steps a minute over 30 minutes are 5,100 landings.
func TestLandings(t *testing.T) {
	if n, leg := performance.Landings(170, 30); n != 5100 || leg != 900 {
		t.Errorf("%.0f landings, %.0f body weights seconds a leg", n, leg)
	}
}

package evaluate

import (
	"testing"

	"neokinema/core/uncertainty"
)

// Passings are counted by those that are plain; what swings back and forth about zero is none.
func TestPassingsOfThighs(t *testing.T) {
	for _, c := range []struct {
		apart []float64
		least float64
		want  int
	}{
		{nil, 8, 0},
		{[]float64{40, 60, 30, 9}, 8, 0},
		{[]float64{40, 10, -10, -50, -20, 0}, 8, 1},
		{[]float64{40, -50, 45, 2}, 8, 2},
		{[]float64{40, 3, -3, 4, -5, -60}, 8, 1},
		{[]float64{40, -12, 30}, 8, 2},
		{[]float64{40, -12, 30}, 25, 0},
	} {
		if n := passings(c.apart, c.least); n != c.want {
			t.Errorf("%v pass each other %d times by %g degrees, want %d", c.apart, n, c.least, c.want)
		}
	}
}

// A speed that is known no better than to itself is not stated; an angle about zero may be.
func TestWhatIsKnownNoBetterThanToItself(t *testing.T) {
	for _, c := range []struct {
		kind string
		v    uncertainty.Estimate
		want bool
	}{
		{"pace", uncertainty.Estimate{Value: 1.97, Half95: 2.1}, true},
		{"pace", uncertainty.Estimate{Value: 9.1, Half95: 2.1}, false},
		{"tilt", uncertainty.Estimate{Value: 1, Half95: 4}, false},
		{"stands_on", uncertainty.Estimate{Value: -10, Half95: 12}, false},
	} {
		if TellsNothing(c.kind, c.v) != c.want {
			t.Errorf("%s of %+v tells something: %v", c.kind, c.v, c.want)
		}
	}
	for _, kind := range sizes {
		if _, ok := kinds[kind]; !ok {
			t.Errorf("no measure is called %s", kind)
		}
	}
}

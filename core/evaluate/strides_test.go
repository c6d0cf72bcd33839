package evaluate

import "testing"

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

package linsolve

import (
	"math"
	"math/rand/v2"
	"testing"
)

// A banded matrix is solved and inverted as the same full one is by [Solve].
func TestBandedAgreesWithTheFullMatrix(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	const n, wide = 40, 5
	b, full := NewBanded(n, wide), make([]float64, n*n)
	add := func(i, j int, v float64) {
		b.Add(i, j, v)
		full[i*n+j] += v
		if i != j {
			full[j*n+i] += v
		}
	}
	for i := range n {
		add(i, i, 12+r.Float64())
		for j := max(0, i-wide); j < i; j++ {
			add(i, j, r.NormFloat64())
		}
	}
	want := make([]float64, n)
	for i := range want {
		want[i] = r.NormFloat64()
	}
	got := append([]float64(nil), want...)
	if err := b.Factor(); err != nil {
		t.Fatal(err)
	}
	b.Solve(got)
	if err := Solve(append([]float64(nil), full...), want); err != nil {
		t.Fatal(err)
	}
	inverse := b.Inverse()
	for i := range n {
		if math.Abs(got[i]-want[i]) > 1e-10 {
			t.Errorf("x[%d] = %g, want %g", i, got[i], want[i])
		}
		e := make([]float64, n)
		e[i] = 1
		if err := Solve(append([]float64(nil), full...), e); err != nil {
			t.Fatal(err)
		}
		for j := max(0, i-wide); j <= i; j++ {
			if math.Abs(inverse.At(i, j)-e[j]) > 1e-10 {
				t.Errorf("inverse (%d, %d) = %g, want %g", i, j, inverse.At(i, j), e[j])
			}
		}
	}
	if NewBanded(3, 1).Factor() == nil {
		t.Error("a matrix of zeros is not positive")
	}
}

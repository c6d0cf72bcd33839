package linsolve

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/mat"
)

// Against gonum's LU solver on random systems.
func TestSolveAgainstGonum(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for n := 1; n <= 9; n++ {
		a, b := make([]float64, n*n), make([]float64, n)
		for i := range a {
			a[i] = r.NormFloat64()
		}
		for i := range b {
			b[i] = r.NormFloat64()
		}
		var want mat.VecDense
		if err := want.SolveVec(mat.NewDense(n, n, append([]float64(nil), a...)), mat.NewVecDense(n, append([]float64(nil), b...))); err != nil {
			t.Fatal(err)
		}
		if err := Solve(a, b); err != nil {
			t.Fatal(err)
		}
		for i, v := range b {
			if math.Abs(v-want.AtVec(i)) > 1e-9*(1+math.Abs(v)) {
				t.Errorf("n=%d: x%d = %g, gonum says %g", n, i, v, want.AtVec(i))
			}
		}
	}
	if err := Solve([]float64{1, 2, 2, 4}, []float64{1, 2}); !errors.Is(err, ErrSingular) {
		t.Errorf("two equal equations gave %v", err)
	}
}

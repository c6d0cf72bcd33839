// Package linsolve solves the few small systems of equations that the core meets
// in inner loops; gonum's mat would weigh more than the rest of the core in the
// browser.
package linsolve

import (
	"errors"
	"math"
)

// ErrSingular tells that the equations do not determine the unknowns.
var ErrSingular = errors.New("the equations do not determine the unknowns")

// Solve solves a x = b by Gaussian elimination with row pivoting, for n = len(b)
// unknowns; a holds n rows of n. Both are overwritten, b with the solution.
func Solve(a, b []float64) error {
	n := len(b)
	for i := range n {
		top := i
		for r := i + 1; r < n; r++ {
			if math.Abs(a[r*n+i]) > math.Abs(a[top*n+i]) {
				top = r
			}
		}
		if !(math.Abs(a[top*n+i]) > 1e-14) {
			return ErrSingular
		}
		if top != i {
			for c := range n {
				a[i*n+c], a[top*n+c] = a[top*n+c], a[i*n+c]
			}
			b[i], b[top] = b[top], b[i]
		}
		for r := i + 1; r < n; r++ {
			m := a[r*n+i] / a[i*n+i]
			if m == 0 {
				continue
			}
			for c := i; c < n; c++ {
				a[r*n+c] -= m * a[i*n+c]
			}
			b[r] -= m * b[i]
		}
	}
	for i := n - 1; i >= 0; i-- {
		for c := i + 1; c < n; c++ {
			b[i] -= a[i*n+c] * b[c]
		}
		b[i] /= a[i*n+i]
	}
	return nil
}

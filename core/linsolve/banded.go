package linsolve

import "math"

// Banded is a symmetric positive matrix whose entries vanish off a band along
// the diagonal. Row i holds columns i-Wide to i.
type Banded struct {
	N, Wide int
	v       []float64
}

// NewBanded is a matrix of zeros.
func NewBanded(n, wide int) *Banded {
	return &Banded{N: n, Wide: wide, v: make([]float64, n*(wide+1))}
}

func (b *Banded) at(i, j int) *float64 { return &b.v[i*(b.Wide+1)+j-i+b.Wide] }

// Add adds to the entries (i, j) and (j, i), which lie in the band.
func (b *Banded) Add(i, j int, v float64) {
	if j > i {
		i, j = j, i
	}
	*b.at(i, j) += v
}

// Damp multiplies the diagonal by 1 + k.
func (b *Banded) Damp(k float64) {
	for i := range b.N {
		*b.at(i, i) *= 1 + k
	}
}

// Set makes it a copy of another of its size.
func (b *Banded) Set(from *Banded) { copy(b.v, from.v) }

// Clone is a copy.
func (b *Banded) Clone() *Banded {
	c := NewBanded(b.N, b.Wide)
	c.Set(b)
	return c
}

// row is what is kept of a row: entry k stands for column i-Wide+k.
func (b *Banded) row(i int) []float64 { return b.v[i*(b.Wide+1) : (i+1)*(b.Wide+1)] }

// Factor turns the matrix into its Cholesky factor, in place.
func (b *Banded) Factor() error {
	w := b.Wide
	for i := range b.N {
		ri := b.row(i)
		for j := max(0, i-w); j <= i; j++ {
			rj := b.row(j)
			// Columns that both rows have: from max(0, i-w), and j-w is less. Column c stands at
			// c-i+w in row i, and at c-j+w in row j.
			at, from := j-i+w, max(0, i-w)-i+w
			s, mine := ri[at], ri[from:at]
			other := rj[from+i-j:][:len(mine)]
			for k, v := range mine {
				s -= v * other[k]
			}
			if j < i {
				ri[at] = s / rj[w]
				continue
			}
			if !(s > 1e-300) {
				return ErrSingular
			}
			ri[w] = math.Sqrt(s)
		}
	}
	return nil
}

// Solve solves a x = r for a factored matrix; r becomes x.
func (b *Banded) Solve(r []float64) {
	w := b.Wide
	for i := range b.N {
		ri, s := b.row(i), r[i]
		for k := max(0, i-w); k < i; k++ {
			s -= ri[k-i+w] * r[k]
		}
		r[i] = s / ri[w]
	}
	for i := b.N - 1; i >= 0; i-- {
		ri := b.row(i)
		r[i] /= ri[w]
		for k := max(0, i-w); k < i; k++ {
			r[k] -= ri[k-i+w] * r[i]
		}
	}
}

// Inverse gives the entries of the inverse that lie in the band, of a factored
// matrix, without the others (Takahashi's recursion; Erisman and Tinney 1975,
// Commun. ACM 18:177).
func (b *Banded) Inverse() *Banded {
	z := NewBanded(b.N, b.Wide)
	get := func(i, j int) float64 {
		if j > i {
			i, j = j, i
		}
		return *z.at(i, j)
	}
	for j := b.N - 1; j >= 0; j-- {
		hi := min(b.N-1, j+b.Wide)
		d := *b.at(j, j)
		for i := hi; i >= j; i-- {
			s := 0.0
			if i == j {
				s = 1 / d
			}
			for k := j + 1; k <= hi; k++ {
				s -= *b.at(k, j) * get(i, k)
			}
			*z.at(i, j) = s / d
		}
	}
	return z
}

// At is an entry of the band.
func (b *Banded) At(i, j int) float64 {
	if j > i {
		i, j = j, i
	}
	return *b.at(i, j)
}

package vec3

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r3"
)

// Against gonum's r3, on random vectors.
func TestAgreesWithGonum(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	vec := func() Vec { return Vec{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()} }
	near := func(a Vec, b r3.Vec) bool { return r3.Norm(r3.Sub(r3.Vec(a), b)) < 1e-12 }
	for range 50 {
		p, q := vec(), vec()
		a, b := r3.Vec(p), r3.Vec(q)
		if !near(Add(p, q), r3.Add(a, b)) || !near(Sub(p, q), r3.Sub(a, b)) || !near(Cross(p, q), r3.Cross(a, b)) || !near(Unit(p), r3.Unit(a)) || !near(Scale(2.5, p), r3.Scale(2.5, a)) {
			t.Fatalf("%v and %v", p, q)
		}
		if math.Abs(Dot(p, q)-r3.Dot(a, b)) > 1e-12 || math.Abs(Norm(p)-r3.Norm(a)) > 1e-12 || math.Abs(Norm2(p)-r3.Norm2(a)) > 1e-12 {
			t.Fatalf("%v and %v", p, q)
		}
		angle := 4 * r.NormFloat64()
		if !near(Turn(p, Unit(q), angle), r3.NewRotation(angle, b).Rotate(a)) {
			t.Fatalf("%v about %v by %g", p, q, angle)
		}
	}
	if u := Unit(Vec{}); !math.IsNaN(u.X) {
		t.Errorf("nothing points to %v", u)
	}
}

package kinematics

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"
)

// Errors of a point that stands: white ones are told as such, and slow ones beside them are
// taken apart.
func TestErrorsOfWhatStands(t *testing.T) {
	const rate = 240.0
	for _, c := range []struct{ white, slow float64 }{{1, 0}, {0.8, 5}, {0.3, 3}} {
		r := rand.New(rand.NewPCG(3, 9))
		keep := math.Exp(-1 / (lasts * rate))
		p := &Path{}
		var spans [][2]int
		x, y := c.slow*r.NormFloat64(), c.slow*r.NormFloat64()
		for f := range 4000 {
			push := c.slow * math.Sqrt(1-keep*keep)
			x, y = keep*x+push*r.NormFloat64(), keep*y+push*r.NormFloat64()
			p.Raw = append(p.Raw, r2.Vec{X: 300 + 0.5*float64(f) + x + c.white*r.NormFloat64(), Y: 200 + y + c.white*r.NormFloat64()})
			if f%40 == 0 {
				spans = append(spans, [2]int{f, f + 30})
			}
		}
		e, ok := ErrorsOf(p, spans, rate, r2.Vec{X: 0.5 * rate})
		if want := math.Hypot(c.white, c.slow); !ok || math.Abs(e.All/want-1) > 0.15 {
			t.Errorf("white %g, slow %g: %+v, all should be %.2f", c.white, c.slow, e, want)
		}
		if slow := c.slow > 0; slow != (e.Hangs > 0) || slow && (e.Echo >= 0 || e.Echo <= -1 || e.Fresh >= e.All) {
			t.Errorf("white %g, slow %g: %+v", c.white, c.slow, e)
		}
	}
	if _, ok := ErrorsOf(&Path{}, [][2]int{{0, 5}}, rate, r2.Vec{}); ok {
		t.Error("errors of no points")
	}
}

// A point that wanders comes to rest where it does, within the doubt that it is given.
func TestMomentOfAPointThatWanders(t *testing.T) {
	const rate = 240.0
	r := rand.New(rand.NewPCG(5, 5))
	in, blindIn := 0, 0
	const tries = 120
	for range tries {
		keep := math.Exp(-1 / (lasts * rate))
		on := 40 + 5*r.Float64()
		p := &Path{}
		x, y := 4*r.NormFloat64(), 4*r.NormFloat64()
		push := 4 * math.Sqrt(1-keep*keep)
		for f := range 110 {
			x, y = keep*x+push*r.NormFloat64(), keep*y+push*r.NormFloat64()
			q := r2.Vec{X: 500 + x + 0.6*r.NormFloat64(), Y: 80 + y + 0.6*r.NormFloat64()}
			if d := on - float64(f); d > 0 {
				q = r2.Add(q, r2.Vec{X: -6*d + 0.1*d*d, Y: 2 * d})
			}
			p.Raw = append(p.Raw, q)
		}
		s := Search{Rate: rate, Height: 450, Sigma: 1}
		blindly, blind := s.Moment(p, 44, 105, Rests)
		s.Errors, _ = ErrorsOf(p, [][2]int{{50, 105}}, rate, r2.Vec{})
		at, sd := s.Moment(p, 44, 105, Rests)
		if math.Abs(at-on) <= 1.96*math.Hypot(sd, 0.3) {
			in++
		}
		if math.Abs(blindly-on) <= 1.96*math.Hypot(blind, 0.3) {
			blindIn++
		}
	}
	if in < tries*85/100 {
		t.Errorf("the doubt holds the moment in %d of %d", in, tries)
	}
	if blindIn >= in {
		t.Errorf("whoever does not know of slow errors holds it as often: %d, %d of %d", blindIn, in, tries)
	}
}

// The mean of places in a row is off as simulated errors are: white ones by the root of their
// number, slow ones as an autoregressive process of the first order leaves them.
func TestMeanOfErrors(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 3))
	for _, c := range []struct {
		hangs, slow, white float64
		n                  int
	}{{0, 0, 1, 16}, {0.9, 1, 0.5, 12}, {0.97, 0.8, 0.3, 30}} {
		e := Errors{All: c.white}
		if c.hangs > 0 {
			// As package kinematics writes both parts: echo and what is new follow from them.
			variance := c.slow*c.slow*(1-c.hangs*c.hangs) + c.white*c.white*(1+c.hangs*c.hangs)
			next := -c.hangs * c.white * c.white
			half := variance / (2 * next)
			echo := half + math.Sqrt(half*half-1)
			e = Errors{Hangs: c.hangs, Echo: echo, Fresh: math.Sqrt(next / echo), All: math.Hypot(c.slow, c.white)}
		}
		const tries = 6000
		var square float64
		for range tries {
			x, sum := c.slow*r.NormFloat64(), 0.0
			for range c.n {
				sum += x + c.white*r.NormFloat64()
				x = c.hangs*x + c.slow*math.Sqrt(1-c.hangs*c.hangs)*r.NormFloat64()
			}
			square += sum * sum / float64(c.n*c.n) / tries
		}
		if got, want := e.Mean(c.n), math.Sqrt(square); math.Abs(got/want-1) > 0.06 {
			t.Errorf("%+v: off by %.3f, simulated %.3f", c, got, want)
		}
	}
}

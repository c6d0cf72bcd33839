package pole_test

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/pole"
)

// bent is a pole of 400 px whose chord loses a share a frame from frame 20.4 on: an arc of a
// circle, which has the law of the elastic line to within what matters near the straight one.
func bent(frame int, loses float64, r *rand.Rand, sigma float64) pole.Look {
	const long = 400.0
	chord := long * (1 - loses*math.Max(0, float64(frame)-20.4))
	lo, hi := 1e-6, 2.0
	for range 60 {
		if mid := (lo + hi) / 2; math.Sin(mid)/mid > chord/long {
			lo = mid
		} else {
			hi = mid
		}
	}
	radius := long / (2 * lo)
	at := func(share float64) r2.Vec {
		a := lo * (2*share - 1)
		p := r2.Vec{X: chord/2 + radius*math.Sin(a), Y: radius * (math.Cos(a) - math.Cos(lo))}
		return r2.Add(r2.Rotate(p, 0.5+0.01*float64(frame), r2.Vec{}), r2.Vec{X: sigma * r.NormFloat64(), Y: sigma * r.NormFloat64()})
	}
	return pole.Look{Tip: at(0), Low: at(0.35), High: at(0.7), Hand: at(1), Sigma: sigma}
}

func TestOnsetOfABend(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	for _, c := range []struct{ sigma, loses float64 }{{0.01, 0.004}, {1, 0.004}, {2, 0.008}} {
		var off, doubt float64
		inside, n := 0, 60
		for range n {
			o, err := pole.Begins(func(f int) (pole.Look, bool) { return bent(f, c.loses, r, c.sigma), true }, 0, 60)
			if err != nil {
				t.Fatal(err)
			}
			d := math.Abs(o.Frame - 20.4)
			off, doubt = off+d/float64(n), doubt+o.SD/float64(n)
			if d <= 2*o.SD {
				inside++
			}
		}
		if off > 1 || doubt > 1.5 || inside < n*85/100 {
			t.Errorf("points off by %g px: onset off by %.2f frames, doubt %.2f, %d of %d within it", c.sigma, off, doubt, inside, n)
		}
	}
}

// Without the tip the part above it tells the onset, less surely.
func TestOnsetWithoutTheTip(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 9))
	var off float64
	const n = 40
	for range n {
		o, err := pole.Begins(func(f int) (pole.Look, bool) {
			l := bent(f, 0.006, r, 0.7)
			l.NoTip = f < 50
			return l, true
		}, 0, 60)
		if err != nil {
			t.Fatal(err)
		}
		off += math.Abs(o.Frame-20.4) / n
	}
	if off > 1.5 {
		t.Errorf("onset off by %.2f frames", off)
	}
}

func TestChordOfABend(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	look := func(f int) (pole.Look, bool) { return bent(min(f, 70), 0.005, r, 0.5), true }
	o, err := pole.Begins(look, 0, 70)
	if err != nil {
		t.Fatal(err)
	}
	v, frame, err := pole.Shortest(look, o, 20, 90)
	if want := 100 * (1 - 0.005*(70-20.4)); err != nil || math.Abs(v.Value-want) > 1 || frame < 69 {
		t.Errorf("shortest chord %.1f %% at %d, not %.1f: %v", v.Value, frame, want, err)
	}
}

func TestNoBend(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	if o, err := pole.Begins(func(f int) (pole.Look, bool) { return bent(f, 0, r, 1), true }, 0, 60); !errors.Is(err, pole.ErrStay) {
		t.Errorf("a stiff pole bends at %v: %v", o, err)
	}
	if _, err := pole.Begins(func(f int) (pole.Look, bool) { return bent(f, 0.004, r, 1), f < 4 }, 0, 60); !errors.Is(err, pole.ErrFew) {
		t.Errorf("four frames: %v", err)
	}
	if _, err := pole.Begins(func(f int) (pole.Look, bool) { return bent(f+30, 0.004, r, 1), true }, 0, 30); !errors.Is(err, pole.ErrFew) {
		t.Errorf("bent from the first frame on: %v", err)
	}
	none := func(int) (pole.Look, bool) { return pole.Look{}, false }
	if _, _, err := pole.Shortest(none, pole.Onset{Frame: 5}, 0, 10); !errors.Is(err, pole.ErrTip) {
		t.Errorf("nothing seen: %v", err)
	}
}

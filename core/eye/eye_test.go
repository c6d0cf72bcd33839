package eye

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat/distuv"
)

func times(n int, s Seen) (out []Seen) {
	for range n {
		out = append(out, s)
	}
	return out
}

func counted(hits, misses, alarms, rejections int) []Seen {
	list := times(hits, Seen{true, true})
	list = append(list, times(misses, Seen{true, false})...)
	list = append(list, times(alarms, Seen{false, true})...)
	return append(list, times(rejections, Seen{false, false})...)
}

// Macmillan and Creelman 2005, ch. 1, faces: hits 20 of 25, false alarms 10 of 25, d' 1.095 and c -0.294
// by the plain rates; from memory. With a half added to each count it comes to a little less.
func TestDetectionOfAPublishedExample(t *testing.T) {
	d, ok := DetectionOf(counted(20, 5, 10, 15))
	z := distuv.UnitNormal.Quantile
	if want := z(20.5/26) - z(10.5/26); !ok || math.Abs(d.DPrime.Value-want) > 1e-9 || math.Abs(d.DPrime.Value-1.095) > 0.06 || math.Abs(d.Criterion.Value+0.294) > 0.03 {
		t.Errorf("%+v", d)
	}
	if d.Leans("open knee") != "" {
		t.Error("so few answers leave open which way it leans")
	}
	if s := must(DetectionOf(counted(50, 2, 30, 22))).Leans("open knee"); s != "You say “open knee” too often." {
		t.Error(s)
	}
	if _, ok := DetectionOf(counted(30, 2, 3, 4)); ok {
		t.Error("seven without the fault tell nothing")
	}
	never, _ := DetectionOf(counted(10, 0, 0, 10))
	if math.IsInf(never.DPrime.Value, 0) || never.DPrime.Value < 2.5 {
		t.Errorf("never wrong: %+v", never.DPrime)
	}
	yes, no := never.Sure()
	if yes < 0.9 || yes >= 1 || no != yes {
		t.Errorf("sure %g %g", yes, no)
	}
}

func must(d Detection, _ bool) Detection { return d }

// The interval holds what is true of observers who are drawn, and nobody who guesses is told to see.
func TestIntervalsHoldDrawnObservers(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 1))
	for _, d := range []float64{0, 1, 2} {
		for _, c := range []float64{-0.5, 0, 0.5} {
			held := 0
			for range 400 {
				var list []Seen
				for k := range 60 {
					there := k%2 == 0
					at := -d / 2
					if there {
						at = d / 2
					}
					list = append(list, Seen{there, at+r.NormFloat64() > c})
				}
				e, _ := DetectionOf(list)
				if math.Abs(e.DPrime.Value-d) <= e.DPrime.Half95 {
					held++
				}
			}
			if held < 360 {
				t.Errorf("d' %g, c %g: %d of 400 intervals hold it", d, c, held)
			}
		}
	}
}

func TestOffOf(t *testing.T) {
	o, ok := OffOf([]float64{5, 10, 0, 5, 10, 0, 5})
	if !ok || o.Bias.Value != 5 || math.Abs(o.Scatter-4.082) > 0.001 {
		t.Errorf("%+v", o)
	}
	if s := o.Says("degrees"); s != "Your eye is worth ±13 degrees; you say 5 too many." {
		t.Error(s)
	}
	if o, _ := OffOf([]float64{-3, 2, 1, 0, -1, 2}); o.Says("frames") != "Your eye is worth ±4 frames." {
		t.Error(o.Says("frames"))
	}
	if _, ok := OffOf([]float64{1, 2, 3}); ok {
		t.Error("three tell nothing")
	}
}

func TestTheStaircaseLooksWhereTheThresholdIs(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 2))
	sizes := []float64{-0.4, -0.2, 0.1, 0.2, 0.35, 0.5, 0.7, 1, 1.3}
	for _, o := range []Observer{{Spread: 0.2, Even: 0.2}, {Spread: 0.5, Even: 0.6}} {
		const rounds = 12
		want := o.Even + quarter*o.Spread
		near, held := 0, 0
		for range rounds {
			var list []Sized
			for k := range 60 {
				s := Next(list, sizes)
				if k >= 20 && math.Abs(s-o.Even) <= 2*o.Spread {
					near++
				}
				list = append(list, Sized{s, o.Sees(r, s)})
			}
			if c, ok := CurveOf(list); ok && math.Abs(c.Threshold.Value-want) <= c.Threshold.Half95 {
				held++
			}
		}
		if held < rounds-4 || near < rounds*34 {
			t.Errorf("%+v: %d of %d intervals hold %.2f; %d of %d near", o, held, rounds, want, near, rounds*40)
		}
	}
	if _, ok := CurveOf(make([]Sized, 11)); ok {
		t.Error("eleven tell nothing")
	}
}

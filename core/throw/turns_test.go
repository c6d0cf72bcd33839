package throw

import (
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/uncertainty"
)

// The greatest of values that scatter is hardly greater than the greatest true one, and what is
// not known takes no part.
func TestPeakOfScatteredValues(t *testing.T) {
	const sd = 3.0
	var peaks, greatest float64
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 3))
		o := &Reconstruction{Rate: 60}
		values := make([]uncertainty.Estimate, 40)
		most := 0.0
		for f := range values {
			values[f] = uncertainty.Normal(20+2*math.Sin(2*math.Pi*float64(f)/30)+sd*r.NormFloat64(), sd)
			most = math.Max(most, values[f].Value)
		}
		p := o.peak(0, 40, func(f int) (uncertainty.Estimate, bool) {
			if f%5 == 0 {
				return uncertainty.Estimate{}, false
			}
			return values[f], true
		})
		if p.SD != sd {
			t.Fatalf("the peak is known to %.2f, single values to %.2f", p.SD, sd)
		}
		peaks, greatest = peaks+(p.Value-22)/40, greatest+(most-22)/40
	}
	t.Logf("peaks are %.1f too great, the greatest single values %.1f", peaks, greatest)
	if math.Abs(peaks) > sd || peaks > 0.6*greatest {
		t.Errorf("peaks are %.1f too great, the greatest single values %.1f", peaks, greatest)
	}
	if none := (&Reconstruction{Rate: 60}).peak(3, 1, nil); *none != (uncertainty.Estimate{}) {
		t.Errorf("the peak of nothing is %v", none)
	}
}

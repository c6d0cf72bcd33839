package signal

import (
	"math"
	"sort"
)

// Median is the middle of values, the mean of the two middle ones when their number is
// even; NaN when there are none.
func Median(v []float64) float64 {
	if len(v) == 0 {
		return math.NaN()
	}
	s := append([]float64(nil), v...)
	sort.Float64s(s)
	n := len(s)
	return (s[(n-1)/2] + s[n/2]) / 2
}

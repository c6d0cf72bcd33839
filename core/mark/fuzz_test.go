package mark

import (
	"math"
	"testing"
)

// FuzzParse: a mark is a length that can be, or none.
func FuzzParse(f *testing.F) {
	for _, s := range []string{"58.40", "58,40 m", "182-6", "18-5 1/2", "17' 3 1/4\"", "7.41 s", "1e9", "-", "999999999999999999999-11", "0/0", "1-1/0"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		m, ok := Parse(text)
		if ok && (!(m >= 0) || math.IsInf(m, 0)) {
			t.Errorf("%q is %v m", text, m)
		}
		if ok {
			_, _ = Metric(m), Imperial(m)
		}
	})
}

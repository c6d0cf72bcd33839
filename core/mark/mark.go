// Package mark reads and writes the marks of field events: metres, or feet and
// inches.
package mark

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Metres in a foot and an inch, by definition.
const (
	Foot = 0.3048
	Inch = 0.0254
)

// Parse reads a mark in metres: "58.40 m", "58,40", "182-6", "182 ft 6 in",
// "17' 3 1/4\"". What is no distance, such as a time, a foul or a pass, is none.
func Parse(text string) (float64, bool) {
	s := strings.ToLower(strings.TrimSpace(text))
	if v, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(strings.TrimSuffix(s, "m")), ",", "."), 64); err == nil && plain(s) {
		return v, v > 0 && v < 1000
	}
	for _, unit := range []string{"feet", "ft.", "ft", "'", "-"} {
		before, after, ok := strings.Cut(s, unit)
		f, err := strconv.Atoi(strings.TrimSpace(before))
		if !ok || err != nil || f <= 0 || f > 999 {
			continue
		}
		in, ok := inches(after)
		return float64(f)*Foot + in*Inch, ok
	}
	return 0, false
}

// plain tells whether a text is a number with nothing but a metre behind it.
func plain(s string) bool { return strings.Trim(s, "0123456789., m") == "" }

// inches reads "6", "6 in", "3 1/4\"" or nothing, below 12.
func inches(s string) (float64, bool) {
	for _, unit := range []string{"inches", "in.", "in", "''", "\""} {
		s = strings.TrimSuffix(strings.TrimSpace(s), unit)
	}
	var in float64
	for _, w := range strings.Fields(s) {
		if a, b, ok := strings.Cut(w, "/"); ok {
			x, err1 := strconv.Atoi(a)
			y, err2 := strconv.Atoi(b)
			if err1 != nil || err2 != nil || x < 1 || y != 2 && y != 4 || x >= y {
				return 0, false
			}
			in += float64(x) / float64(y)
			continue
		}
		v, err := strconv.ParseFloat(w, 64)
		if err != nil || v < 0 {
			return 0, false
		}
		in += v
	}
	return in, in < 12
}

// Metric writes a distance as the rules take it: rounded down to the whole
// centimetre.
func Metric(m float64) string { return fmt.Sprintf("%.2f m", math.Floor(m*100+1e-6)/100) }

// Imperial writes a distance in feet and inches, rounded down to the quarter inch.
func Imperial(m float64) string {
	quarters := math.Floor(m/Inch*4 + 1e-6)
	f := math.Floor(quarters / 48)
	in := quarters/4 - 12*f
	part := [4]string{"", " 1/4", " 1/2", " 3/4"}[int(quarters)%4]
	return fmt.Sprintf("%.0f ft %.0f%s in", f, math.Floor(in), part)
}

// Package mark reads and writes the marks of field events: metres, or feet and
// inches.
package mark

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Metres in a foot and an inch, by definition.
const (
	Foot = 0.3048
	Inch = 0.0254
)

var (
	metres = regexp.MustCompile(`(?i)^\s*(\d{1,3}(?:[.,]\d{1,3})?)\s*m?\s*$`)
	feet   = regexp.MustCompile(`(?i)^\s*(\d{1,3})\s*(?:-|'|ft\.?|feet)\s*(\d{1,2}(?:\.\d+)?)?\s*(?:([123])/([24]))?\s*(?:"|''|in\.?|inches)?\s*$`)
)

// Parse reads a mark in metres: "58.40 m", "58,40", "182-6", "182 ft 6 in",
// "17' 3 1/4\"". What is no distance, such as a time, a foul or a pass, is none.
func Parse(text string) (float64, bool) {
	if m := metres.FindStringSubmatch(text); m != nil {
		v, err := strconv.ParseFloat(strings.ReplaceAll(m[1], ",", "."), 64)
		return v, err == nil && v > 0
	}
	m := feet.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	f, _ := strconv.ParseFloat(m[1], 64)
	in, _ := strconv.ParseFloat("0"+m[2], 64)
	if m[3] != "" {
		a, _ := strconv.ParseFloat(m[3], 64)
		b, _ := strconv.ParseFloat(m[4], 64)
		in += a / b
	}
	if in >= 12 {
		return 0, false
	}
	return f*Foot + in*Inch, f > 0
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

// Package azimuth says directions seen from above in a coach's own language.
//
// Inside there is one angle: 0 is the back of the circle, opposite the throw; it
// grows in the direction in which the athlete turns, so that the same number is
// the same technical moment for right- and left-handers.
package azimuth

import (
	"bytes"
	"fmt"
	"math"
	"strconv"

	"neokinema/core/uncertainty"
)

// Language is how a coach names directions.
type Language string

// The languages: degrees, and two clocks by where their 12 stands.
const (
	Degrees    Language = "degrees"
	ClockBack  Language = "clock-back"
	ClockThrow Language = "clock-throw"
)

// Hour is a direction on a clock seen from above, above 0 up to 12. A
// right-hander turns against the clock's hands, a left-hander with them. Common
// practice, no source.
func Hour(az float64, left bool, l Language) float64 {
	h := -az / 30
	if left {
		h = az / 30
	}
	if l == ClockThrow {
		h += 6
	}
	if h = math.Mod(math.Mod(h, 12)+12, 12); h < 1e-9 {
		return 12
	}
	return h
}

// Say names a direction: "180°", "9 o'clock", "3:30" (to five minutes).
func Say(az float64, left bool, l Language) string {
	if l != ClockBack && l != ClockThrow {
		return strconv.FormatFloat(math.Mod(math.Mod(az, 360)+360, 360), 'f', -1, 64) + "°"
	}
	minutes := int(math.Round(Hour(az, left, l)*12)) * 5
	h, m := minutes/60%12, minutes%60
	if h == 0 {
		h = 12
	}
	if m == 0 {
		return fmt.Sprintf("%d o'clock", h)
	}
	return fmt.Sprintf("%d:%02d", h, m)
}

// Near is an azimuth (degrees) with whole turns taken off so that it lies about the
// middle of a band; from 0 to 360 without one.
func Near(az float64, b uncertainty.Band) float64 {
	mid := 180.0
	switch {
	case b.Lo != nil && b.Hi != nil:
		mid = (*b.Lo + *b.Hi) / 2
	case b.Lo != nil:
		mid = *b.Lo + 90
	case b.Hi != nil:
		mid = *b.Hi - 90
	}
	return mid + math.Remainder(az-mid, 360)
}

// Spoken names directions to whole degrees, or to five minutes of a clock.
func Spoken(az []float64, left bool, l Language) []string {
	out := make([]string, len(az))
	for i, a := range az {
		out[i] = Say(math.Round(a), left, l)
	}
	return out
}

// Fill names the directions that a text holds as "{az 90}".
func Fill(text []byte, left bool, l Language) []byte {
	const open = "{az "
	var out []byte
	for {
		i := bytes.Index(text, []byte(open))
		if i < 0 {
			return append(out, text...)
		}
		digits := text[i+len(open):]
		n := 0
		for n < len(digits) && digits[n] >= '0' && digits[n] <= '9' {
			n++
		}
		if n == 0 || n == len(digits) || digits[n] != '}' {
			out, text = append(out, text[:i+len(open)]...), digits
			continue
		}
		az, _ := strconv.ParseFloat(string(digits[:n]), 64)
		out = append(append(out, text[:i]...), Say(az, left, l)...)
		text = digits[n+1:]
	}
}

package season

import (
	"fmt"
	"strings"
)

// Day counts days from 1 January 1970, a Thursday. In JSON it is a date such as 2027-05-08.
type Day int

// Weekday is 0 on Mondays.
func (d Day) Weekday() int { return ((int(d)+3)%7 + 7) % 7 }

// Monday is that of the day's week.
func (d Day) Monday() Day { return d - Day(d.Weekday()) }

// MarshalText writes the date. The way from days to dates and back is that of the proleptic
// Gregorian calendar with years that begin in March (Richards 2013, Explanatory Supplement to the
// Astronomical Almanac, ch. 15, from memory).
func (d Day) MarshalText() ([]byte, error) {
	z := int(d) + 719468
	era := floored(z, 146097)
	doe := z - era*146097
	yoe := (doe - doe/1460 + doe/36524 - doe/146096) / 365
	doy := doe - (365*yoe + yoe/4 - yoe/100)
	mp := (5*doy + 2) / 153
	month := mp + 3
	year := yoe + era*400
	if month > 12 {
		month -= 12
		year++
	}
	return fmt.Appendf(nil, "%04d-%02d-%02d", year, month, doy-(153*mp+2)/5+1), nil
}

func floored(a, b int) int {
	if a < 0 {
		a -= b - 1
	}
	return a / b
}

// String is the date.
func (d Day) String() string {
	text, _ := d.MarshalText() // no day is without a date
	return string(text)
}

// UnmarshalText reads a date of the years 1900 to 2199.
func (d *Day) UnmarshalText(text []byte) error {
	var y, m, n int
	if got, err := fmt.Sscanf(string(text), "%4d-%2d-%2d", &y, &m, &n); err != nil || got != 3 || len(text) != 10 || strings.ContainsAny(string(text), "+ ") || y < 1900 || y > 2199 || m < 1 || m > 12 {
		return fmt.Errorf("%q is no day such as 2027-05-08", text)
	}
	year := y
	if m <= 2 {
		year--
	}
	era := floored(year, 400)
	yoe := year - era*400
	mp := (m + 9) % 12
	doy := (153*mp+2)/5 + n - 1
	out := Day(era*146097 + yoe*365 + yoe/4 - yoe/100 + doy - 719468)
	if out.String() != string(text) {
		return fmt.Errorf("%q is no day of the calendar", text)
	}
	*d = out
	return nil
}

// ParseDay reads a date.
func ParseDay(text string) (d Day, err error) {
	err = d.UnmarshalText([]byte(text))
	return d, err
}

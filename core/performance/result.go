// Package performance weighs an athlete's marks and measures over time: what a coach
// types in, bests, scatter, and whether a measure goes with the mark. It also reads
// names of files and tells which clip shows which attempt.
package performance

import (
	"regexp"
	"strconv"
	"strings"

	"neokinema/core/mark"
)

// Result is a mark that can be held against others of its kind.
type Result struct {
	Value float64 `json:"value" doc:"m, or s"`
	Unit  string  `json:"unit" enum:"m,s"`
	Over  string  `json:"over" doc:"what was run, such as 60 m; empty for a distance or a height"`
}

// Better tells whether a mark beats another of its kind: farther, higher, or in less
// time.
func (r Result) Better(than Result) bool {
	if r.Unit == "s" {
		return r.Value < than.Value
	}
	return r.Value > than.Value
}

// timed reads "60 m 7.41 s", "7.41 s", "400 m 1:02.3" or "5:18 a km".
var timed = regexp.MustCompile(`^(?:(\d+(?:[.,]\d+)?) ?(k?m) )?(?:(\d{1,2}):)?(\d{1,3}(?:[.,]\d{1,3})?) ?(s)?(?: ?(?:a|per|/) ?(km|mi))?$`)

// Read reads a mark of any event: what [mark.Parse] reads, or a time with what was run.
func Read(text string) (Result, bool) {
	if v, ok := mark.Parse(text); ok {
		return Result{Value: v, Unit: "m"}, true
	}
	p := timed.FindStringSubmatch(strings.ToLower(strings.Join(strings.Fields(text), " ")))
	// Seconds must be told: by their letter, by minutes before them or by a distance.
	if p == nil || p[3] == "" && p[5] == "" && p[1] == "" {
		return Result{}, false
	}
	number := func(s string) float64 {
		v, _ := strconv.ParseFloat(strings.ReplaceAll(s, ",", "."), 64) // the pattern lets only numbers through
		return v
	}
	r := Result{Value: 60*number("0"+p[3]) + number(p[4]), Unit: "s"}
	if p[3] != "" && number(p[4]) >= 60 {
		return Result{}, false
	}
	switch {
	case p[1] != "":
		r.Over = p[1] + " " + p[2]
	case p[6] != "":
		r.Over = "1 " + p[6]
	}
	return r, r.Value > 0
}

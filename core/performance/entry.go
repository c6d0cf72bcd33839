package performance

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"neokinema/core/mark"
)

// Entry is one attempt as a coach types it beside the circle.
type Entry struct {
	Mark string   `json:"mark" doc:"as it is kept: metres with the centimetre, or the time; empty for a foul or a pass without a mark"`
	Wind *float64 `json:"wind,omitempty" required:"false" doc:"m/s, with the athlete positive"`
	Foul string   `json:"foul" doc:"why it does not count; empty when it does"`
	Note string   `json:"note"`
}

// What cannot be is a slip of the finger. World records are below 105 m, from memory.
const (
	farthest  = 110  // m: no implement has flown farther
	strongest = 15.0 // m/s of wind
)

// ReadEntry reads one line: a mark (58.40, 58,40, 182-6, 7.41s), then in any order
// a wind with its sign (+1.2) and a note; "x" and why for a foul, "-" for a pass.
// A mark after the x is kept beside the foul.
func ReadEntry(line string) (Entry, error) {
	words := strings.Fields(line)
	if len(words) == 0 {
		return Entry{}, fmt.Errorf("the line is empty; type a mark such as 58.40, 182-6 or 7.41s, or x for a foul")
	}
	var e Entry
	switch strings.ToLower(words[0]) {
	case "x", "foul":
		e.Foul = "foul"
		words = words[1:]
	case "-", "p", "pass":
		e.Foul = Passed
		words = words[1:]
	}
	words, err := e.takeMark(words)
	if err != nil {
		return e, err
	}
	var rest []string
	for _, w := range words {
		if v, err := strconv.ParseFloat(strings.ReplaceAll(w, ",", "."), 64); err == nil && (w[0] == '+' || w[0] == '-') && e.Wind == nil {
			if math.Abs(v) > strongest {
				return e, fmt.Errorf("a wind of %s m/s is no wind to compete in; check it", w)
			}
			e.Wind = &v
			continue
		}
		rest = append(rest, w)
	}
	said := strings.Join(rest, " ")
	if e.Foul == "foul" && said != "" {
		e.Foul = said
		return e, nil
	}
	if e.Mark == "" && e.Foul == "" {
		return e, fmt.Errorf("“%s” is no mark; type one such as 58.40, 182-6 or 7.41s, or x for a foul", line)
	}
	e.Note = said
	return e, nil
}

// takeMark takes the longest beginning of the words that is a mark.
func (e *Entry) takeMark(words []string) ([]string, error) {
	for n := min(5, len(words)); n > 0; n-- {
		text := strings.Join(words[:n], " ")
		if n > 1 && strings.ContainsAny(words[n-1][:1], "+-") {
			continue // a wind
		}
		r, ok := Read(text)
		if !ok {
			continue
		}
		if r.Unit == "m" {
			if r.Value > farthest {
				return words, fmt.Errorf("%s is farther than anything flies; check the point", text)
			}
			e.Mark = mark.Metric(r.Value)
			return words[n:], nil
		}
		e.Mark = text
		return words[n:], nil
	}
	return words, nil
}

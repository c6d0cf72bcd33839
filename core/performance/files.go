package performance

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode"
)

// Named is what the name of a file tells.
type Named struct {
	Person int    // place in the list of names, -1 when it tells none
	Day    string // YYYY-MM-DD, empty when it tells none
	Mark   string // as the name has it
}

// Dates in file names: 2026-11-24, 20261124, 24.11.2026.
var (
	isoDay    = regexp.MustCompile(`(?:^|\D)(20\d\d)[-_.]?(\d\d)[-_.]?(\d\d)(?:\D|$)`)
	germanDay = regexp.MustCompile(`(?:^|\D)(\d{1,2})[-_.](\d{1,2})[-_.](20\d\d)(?:\D|$)`)
	metres    = regexp.MustCompile(`(?:^|[\s_-])(\d{1,2}[.,]\d{2}) ?m?(?:$|[\s_-])`)
)

// ReadName reads who, when and what mark from the name of a file, with its folders.
// A person is told by any part of the name that no other person shares, in full.
func ReadName(name string, people []string) Named {
	out := Named{Person: -1}
	stem := name
	if i := strings.LastIndex(stem, "."); i > 0 && len(stem)-i <= 5 {
		stem = stem[:i]
	}
	day := func(y, m, d string) {
		if month, dom := number(m), number(d); month >= 1 && month <= 12 && dom >= 1 && dom <= 31 {
			out.Day = fmt.Sprintf("%s-%02d-%02d", y, month, dom)
		}
	}
	if p := isoDay.FindStringSubmatch(stem); p != nil {
		day(p[1], p[2], p[3])
	} else if p := germanDay.FindStringSubmatch(stem); p != nil {
		day(p[3], p[2], p[1])
	}
	if p := metres.FindStringSubmatch(stem); p != nil {
		out.Mark = strings.ReplaceAll(p[1], ",", ".") + " m"
	}
	words := map[string]bool{}
	for _, w := range split(stem) {
		words[w] = true
	}
	best := 0
	for i, p := range people {
		hits := 0
		for _, w := range split(p) {
			if words[w] && len([]rune(w)) > 1 {
				hits++
			}
		}
		switch {
		case hits > best:
			best, out.Person = hits, i
		case hits == best && hits > 0:
			out.Person = -1 // two share it
		}
	}
	return out
}

func number(s string) int {
	v, _ := strconv.Atoi(s) // the pattern lets only digits through
	return v
}

func split(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) })
}

// farApart is how long before or after its attempt a clip may have been taken, s. Assumed.
const farApart = 15 * 60.0

// MatchTimes tells which attempt each clip shows by their times (s, in order), each
// attempt once, so that the sum of the times between them is least. A clip without
// an attempt near it gets -1. A clip is finished after the attempt; that does not
// matter, since all are alike.
func MatchTimes(clips, attempts []float64) []int {
	n, m := len(clips), len(attempts)
	// A clip left alone costs as much as the farthest match.
	const alone = farApart
	cost := make([][]float64, n+1)
	for i := range cost {
		cost[i] = make([]float64, m+1)
		cost[i][0] = float64(i) * alone
	}
	apart := func(i, j int) float64 { return math.Abs(clips[i] - attempts[j]) }
	for i := 1; i <= n; i++ {
		for j := 1; j <= m; j++ {
			cost[i][j] = math.Min(cost[i][j-1], cost[i-1][j]+alone)
			if d := apart(i-1, j-1); d <= alone {
				cost[i][j] = math.Min(cost[i][j], cost[i-1][j-1]+d)
			}
		}
	}
	out := make([]int, n)
	for i, j := n, m; i > 0; {
		switch {
		case j > 0 && cost[i][j] == cost[i][j-1]:
			j--
		case j > 0 && apart(i-1, j-1) <= alone && cost[i][j] == cost[i-1][j-1]+apart(i-1, j-1):
			i, j = i-1, j-1
			out[i] = j
		default:
			i--
			out[i] = -1
		}
	}
	return out
}

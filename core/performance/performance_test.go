package performance

import (
	"math"
	"strings"
	"testing"

	"neokinema/core/uncertainty"
)

func TestEntriesAsTyped(t *testing.T) {
	for line, want := range map[string]string{
		"58.40":                "58.40 m|||",
		"58,4":                 "58.40 m|||",
		"182-6":                "55.62 m|||",
		"182 ft 6 in":          "55.62 m|||",
		"5.38 +1.2":            "5.38 m|1.2||",
		"5.38 -0.4 late board": "5.38 m|-0.4||late board",
		"x over the rim":       "||over the rim|",
		"x 5.71 +2.3 toe":      "5.71 m|2.3|toe|",
		"x":                    "||foul|",
		"-":                    "||passed|",
		"7.41s +1.9":           "7.41s|1.9||",
		"60 m 7.41 s +1.9":     "60 m 7.41 s|1.9||",
		"400 m 1:02.3 relaxed": "400 m 1:02.3|||relaxed",
		"17' 3 1/4\" good":     "5.26 m|||good",
	} {
		e, err := ReadEntry(line)
		wind := ""
		if e.Wind != nil {
			wind = strings.TrimSuffix(strings.TrimRight(strings.TrimSpace(formatted(*e.Wind)), "0"), ".")
		}
		if got := e.Mark + "|" + wind + "|" + e.Foul + "|" + e.Note; err != nil || got != want {
			t.Errorf("%q is %q (%v), want %q", line, got, err, want)
		}
	}
	for _, line := range []string{"", "   ", "good throw", "5840", "5.38 +44"} {
		if e, err := ReadEntry(line); err == nil {
			t.Errorf("%q was taken as %+v", line, e)
		}
	}
}

func formatted(v float64) string {
	if v < 0 {
		return "-" + formatted(-v)
	}
	whole := math.Floor(v)
	return string(rune('0'+int(whole))) + "." + string(rune('0'+int(math.Round(10*(v-whole)))))
}

func wind(v float64) *float64 { return &v }

func TestBests(t *testing.T) {
	b := Find([]Marked{
		{"5.30 m", nil, false, 2025}, {"5.52 m", wind(2.1), false, 2025}, {"5.60 m", nil, true, 2026}, {"5.41 m", wind(2.0), false, 2025},
		{"5.38 m", wind(-1), false, 2026}, {"60 m 7.90 s", nil, false, 2026}, {"60 m 7.88 s", nil, false, 2026}, {"30 m 4.20 s", nil, false, 2026}, {"no height", nil, false, 2026},
	})
	for i, want := range []string{"", "", "", "ps", "s", "", "ps", "ps", ""} {
		got := ""
		if b.Personal[i] {
			got += "p"
		}
		if b.Season[i] {
			got += "s"
		}
		if got != want {
			t.Errorf("mark %d: %q, want %q", i, got, want)
		}
	}
}

func TestScatterWithoutWhatTheMeasuringAdds(t *testing.T) {
	var list []uncertainty.Estimate
	for _, x := range []float64{110, 114, 118, 112, 116} { // variance 10
		list = append(list, uncertainty.Estimate{Value: x, Half95: 1.96 * math.Sqrt(6)})
	}
	s, ok := Spread(list)
	// Interval of the raw standard deviation for n = 5 by the chi-square table:
	// 0.599 and 2.874 times it.
	if !ok || s.N != 5 || s.Few || math.Abs(s.SD-2) > 1e-9 || math.Abs(s.Hi-math.Sqrt(10*2.874*2.874-6)) > 0.02 || s.Lo != 0 {
		t.Errorf("%+v", s)
	}
	if _, ok := Spread(list[:1]); ok {
		t.Error("one value has no scatter")
	}
	if s, _ := Spread(list[:4]); !s.Few {
		t.Error("four are few")
	}
}

func TestNamesOfFiles(t *testing.T) {
	people := []string{"Wren Castell", "Tavi Renholm", "Brisa Haldane", "Tavi Oster"}
	for name, want := range map[string]Named{
		"2026-11-24 Wren 3.94m.mp4":    {0, "2026-11-24", "3.94 m"},
		"haldane_20261103_58.40.mov":   {2, "2026-11-03", "58.40 m"},
		"Renholm/VID_20261124_173000":  {1, "2026-11-24", ""},
		"tavi 24.11.2026.mp4":          {-1, "2026-11-24", ""},
		"IMG_0417.MOV":                 {-1, "", ""},
		"castell 2026-13-40.mp4":       {0, "", ""},
		"Tavi Oster 7.1.2026 5,02.mp4": {3, "2026-01-07", "5.02 m"},
	} {
		if got := ReadName(name, people); got != want {
			t.Errorf("%s: %+v, want %+v", name, got, want)
		}
	}
}

func TestClipsAndAttemptsByTime(t *testing.T) {
	list := func(minutes ...float64) (out []float64) {
		for _, v := range minutes {
			out = append(out, 60*v)
		}
		return out
	}
	for _, c := range []struct {
		clips, attempts []float64
		want            []int
	}{
		{list(1, 6, 11), list(0, 5, 10), []int{0, 1, 2}},
		{list(6), list(0, 5, 10), []int{1}},
		{list(1, 90), list(0), []int{0, -1}},
		{list(1, 2, 3), list(2), []int{-1, 0, -1}},
		{nil, list(1), nil},
		{list(4, 4.5), list(0, 5), []int{0, 1}},
	} {
		got := MatchTimes(c.clips, c.attempts)
		for i := range c.want {
			if len(got) != len(c.want) || got[i] != c.want[i] {
				t.Errorf("%v to %v: %v, want %v", c.clips, c.attempts, got, c.want)
				break
			}
		}
	}
}

// Winds as they are published, and from which marks do not count: technical rules 17 and 27.
func TestWindRules(t *testing.T) {
	for wind, want := range map[float64]float64{2.03: 2.1, -2.03: -2.0, 2.0: 2.0, 1.91: 2.0, 0: 0, -0.01: 0} {
		if got := WindReading(wind); math.Abs(got-want) > 1e-12 {
			t.Errorf("%g is published as %g, want %g", wind, got, want)
		}
		if Assisted(wind) != (want > 2.05) {
			t.Errorf("%g: assisted %v", wind, Assisted(wind))
		}
	}
}

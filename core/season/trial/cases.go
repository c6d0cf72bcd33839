package trial

import (
	"fmt"
	"slices"

	"neokinema/core/season"
	"neokinema/core/sport"
)

// Case is a season of which somebody has written down what must come of it, and which rules say so.
type Case struct {
	Name    string
	Outline season.Outline
	Who     season.Athlete
	Now     season.Day
	// Rules are those that the expectations hang on: with another value of any of them they fail.
	Rules []string
	// Holds tells whether what was written down is so; the error says what is not.
	Holds func(season.Season, season.Rules) error
}

// Run plans the case by rules and holds it against what was written down.
func (c Case) Run(rules season.Rules) error {
	s, err := season.Plan(c.Outline, c.Who, c.Now, rules)
	if err != nil {
		return err
	}
	return c.Holds(s, rules)
}

// monday is Monday, 5 October 2026, with which the written seasons begin.
const monday season.Day = 20731

func at(week, weekday int) season.Day { return monday + season.Day(7*week+weekday) }

// meet is a competition on the Saturday of a week.
func meet(week int, weight season.Weight, event string) season.Competition {
	return season.Competition{ID: fmt.Sprint(weight, week), Name: fmt.Sprintf("%s in week %d", weight, week), Event: event, Day: at(week, 5), Weight: weight}
}

// free are the days of a week by their number, with two hours and every place.
func free(days ...int) (out []season.Free) {
	for _, d := range days {
		out = append(out, season.Free{Weekday: d, Minutes: 120})
	}
	return out
}

// of is a season of so many weeks at one event, all days but Sunday free.
func of(event string, weeks int, meets ...season.Competition) season.Outline {
	return season.Outline{From: monday, To: at(weeks-1, 0), Events: []string{event}, Free: free(0, 1, 2, 3, 4, 5), Competitions: meets}
}

var adult = season.Athlete{Age: 25}

func aged(age int) season.Athlete { return season.Athlete{Age: age} }

func with(c ...season.Change) season.Athlete { return season.Athlete{Age: 25, Changes: c} }

func change(id, event string, done int) season.Change {
	return season.Change{ID: id, Event: event, Words: "change " + id, Kind: sport.Of(event).Change, Done: done}
}

// spelled writes the blocks of a season with how many weeks each has.
func spelled(s season.Season) (out string) {
	for i := 0; i < len(s.Weeks); {
		j := i
		for j < len(s.Weeks) && s.Weeks[j].Block == s.Weeks[i].Block {
			j++
		}
		if out != "" {
			out += " "
		}
		out += fmt.Sprintf("%s %d", s.Weeks[i].Block, j-i)
		i = j
	}
	return out
}

func blocks(want string) func(season.Season, season.Rules) error {
	return func(s season.Season, _ season.Rules) error {
		if got := spelled(s); got != want {
			return fmt.Errorf("%s, want %s", got, want)
		}
		return nil
	}
}

// each holds numbers of certain weeks against those written down.
func each(what string, number func(season.Week) float64, want map[int]float64) func(season.Season, season.Rules) error {
	return func(s season.Season, _ season.Rules) error {
		for i, v := range want {
			if got := number(s.Weeks[i]); got < v-0.005 || got > v+0.005 {
				return fmt.Errorf("week %d: %s %.2f, want %.2f", i, what, got, v)
			}
		}
		return nil
	}
}

func both(list ...func(season.Season, season.Rules) error) func(season.Season, season.Rules) error {
	return func(s season.Season, r season.Rules) error {
		for _, f := range list {
			if err := f(s, r); err != nil {
				return err
			}
		}
		return nil
	}
}

func volume(want map[int]float64) func(season.Season, season.Rules) error {
	return each("volume", func(w season.Week) float64 { return w.Volume }, want)
}

func fullShare(want map[int]float64) func(season.Season, season.Rules) error {
	return each("share of full efforts", func(w season.Week) float64 { return w.Full }, want)
}

func sum(f func(season.Session) int) func(season.Week) float64 {
	return func(w season.Week) float64 {
		n := 0
		for _, s := range w.Sessions {
			n += f(s)
		}
		return float64(n)
	}
}

func tries(want map[int]float64) func(season.Season, season.Rules) error {
	return each("tries", sum(func(s season.Session) int { return s.Tries }), want)
}

func counted(kind season.Kind) func(season.Week) float64 {
	return sum(func(s season.Session) int {
		if s.Kind == kind {
			return 1
		}
		return 0
	})
}

func lifts(want map[int]float64) func(season.Season, season.Rules) error {
	return each("lifting days", counted(season.Lift), want)
}

func heavy(want map[int]float64) func(season.Season, season.Rules) error {
	return each("heavier ones", sum(func(s season.Session) int { return s.Heavy }), want)
}

func easy(want map[int]float64) func(season.Season, season.Rules) error {
	return each("lighter ones", sum(func(s season.Session) int { return s.Easy }), want)
}

func daysOff(want map[int]float64) func(season.Season, season.Rules) error {
	return each("days off", func(w season.Week) float64 {
		days := map[season.Day]bool{}
		for _, s := range w.Sessions {
			days[s.Day] = true
		}
		return float64(7 - len(days))
	}, want)
}

// changed says which change each week from the first on has; "-" for none.
func changed(want string) func(season.Season, season.Rules) error {
	return func(s season.Season, _ season.Rules) error {
		got := ""
		for _, w := range s.Weeks {
			if w.Change == "" {
				got += "-"
			}
			got += w.Change
		}
		if got != want {
			return fmt.Errorf("changes %s, want %s", got, want)
		}
		return nil
	}
}

// loads are weeks of which each has the same session with a load; the last one another.
func sudden(last float64, want bool) func(season.Season, season.Rules) error {
	return func(_ season.Season, r season.Rules) error {
		var list []season.Done
		for i, load := range []float64{400, 400, 400, 400, last} {
			list = append(list, season.Done{Day: at(i, 1), Event: "hammer", Kind: season.Technique, Tries: 20, Effort: 5, Minutes: int(load / 5)})
		}
		if got := season.Loads(list, r); got[4].Sudden != want {
			return fmt.Errorf("a load of %g after 400 a week: told as sudden %v", last, got[4].Sudden)
		}
		return nil
	}
}

func efforts(want float64) func(season.Season, season.Rules) error {
	return func(s season.Season, _ season.Rules) error {
		for _, x := range s.Weeks[0].Sessions {
			if x.Kind == season.Lift && x.Effort != want {
				return fmt.Errorf("lifting with an effort of %g, want %g", x.Effort, want)
			}
		}
		return nil
	}
}

var hurt = season.Athlete{Age: 25, Pain: true}

// Cases are written down by hand. Each number follows from the rules that it names and the arithmetic
// of a week; none was read off the planner.
func Cases() []Case {
	child := []int{0, 1, 2, 3, 4, 5}
	return []Case{
		{"thirty weeks to one main competition", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"taper-weeks", "sharpen-weeks", "build-weeks"},
			blocks("rebuild 11 build 8 sharpen 4 taper 2 compete 1 off 4")},
		{"twenty weeks of shot", of("shot", 20, meet(19, season.A, "shot")), adult, monday, []string{"taper-weeks", "sharpen-weeks", "build-weeks"},
			blocks("rebuild 5 build 8 sharpen 4 taper 2 compete 1")},
		{"a summer that follows an indoor season in eighteen weeks: three weeks are no rebuilding", of("shot", 36, meet(16, season.A, "shot"), meet(34, season.A, "shot")), adult, monday, []string{"rebuild-least", "build-weeks"},
			blocks("build 10 sharpen 4 taper 2 compete 1 between 3 build 8 sharpen 4 taper 2 compete 1 off 1")},
		{"four weeks are rebuilding", of("shot", 37, meet(16, season.A, "shot"), meet(35, season.A, "shot")), adult, monday, []string{"rebuild-least", "sharpen-weeks"},
			blocks("build 10 sharpen 4 taper 2 compete 1 rebuild 4 build 8 sharpen 4 taper 2 compete 1 off 1")},
		{"the taper takes half of what was before it", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"taper-less", "volume-sharpen", "volume-compete"},
			volume(map[int]float64{22: 0.70, 23: 0.525, 24: 0.35, 25: 0.30})},
		{"the taper of a jumper", of("long-jump", 20, meet(19, season.A, "long-jump")), adult, monday, []string{"taper-less", "volume-sharpen", "volume-compete"},
			volume(map[int]float64{16: 0.70, 17: 0.525, 18: 0.35, 19: 0.30})},
		{"volume begins gently, rises gently, and every fourth week is light", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"begin", "rise", "light-every", "light-week", "volume-rebuild"},
			volume(map[int]float64{0: 0.60, 1: 0.72, 2: 0.864, 3: 0.70, 4: 1, 7: 0.70})},
		{"a season of nothing but rebuilding", of("javelin", 9), adult, monday, []string{"begin", "rise", "light-every", "light-week", "volume-rebuild"},
			volume(map[int]float64{0: 0.60, 1: 0.72, 2: 0.864, 3: 0.70, 4: 1, 8: 1})},
		{"building has a little less", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"volume-build", "full-build"},
			both(volume(map[int]float64{12: 0.90, 13: 0.90}), fullShare(map[int]float64{12: 0.35, 18: 0.35}))},
		{"building of a runner", of("running", 20, meet(19, season.A, "running")), adult, monday, []string{"volume-build", "full-build", "full-rebuild"},
			both(volume(map[int]float64{5: 0.90, 8: 0.90}), fullShare(map[int]float64{2: 0.15, 6: 0.35}))},
		{"efforts by block", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"full-rebuild", "full-sharpen", "full-taper", "full-compete", "full-off"},
			fullShare(map[int]float64{0: 0.15, 20: 0.60, 24: 0.60, 25: 0.50, 27: 0})},
		{"efforts of a vaulter", of("pole-vault", 20, meet(17, season.A, "pole-vault")), adult, monday, []string{"full-sharpen", "full-taper", "full-compete", "full-off", "volume-off"},
			both(fullShare(map[int]float64{12: 0.60, 16: 0.60, 17: 0.50, 18: 0}), volume(map[int]float64{18: 0, 19: 0}))},
		{"between two competitions that lie close", of("discus", 24, meet(15, season.A, "discus"), meet(19, season.A, "discus"), meet(23, season.A, "discus")), adult, monday, []string{"volume-off", "sharpen-weeks", "taper-weeks"},
			both(blocks("build 9 sharpen 4 taper 2 compete 1 sharpen 1 taper 2 compete 1 sharpen 1 taper 2 compete 1"), func(s season.Season, r season.Rules) error {
				tail, err := season.Plan(of("discus", 26, meet(19, season.A, "discus")), adult, monday, r)
				if err != nil {
					return err
				}
				return volume(map[int]float64{22: 0, 25: 0})(tail, r)
			})},
		{"weeks between are kept, not built", of("shot", 36, meet(16, season.A, "shot"), meet(34, season.A, "shot")), adult, monday, []string{"volume-between", "full-between", "lifts-between"},
			both(volume(map[int]float64{17: 0.60, 19: 0.60}), fullShare(map[int]float64{18: 0.45}), lifts(map[int]float64{18: 1}))},
		{"weeks between of a hammer thrower", of("hammer", 36, meet(15, season.A, "hammer"), meet(33, season.A, "hammer")), adult, monday, []string{"volume-between", "full-between", "lifts-between"},
			both(volume(map[int]float64{16: 0.60, 18: 0.60}), fullShare(map[int]float64{17: 0.45}), lifts(map[int]float64{17: 1}))},
		{"throws of a full week lie on the days beside lifting", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"tries-throw", "lifts-rebuild", "heavy-rebuild", "easy-rebuild"},
			// 150 over four days are 37 each; of each 11 are heavy and 3 light.
			both(tries(map[int]float64{4: 4 * 37}), lifts(map[int]float64{4: 2}), heavy(map[int]float64{4: 4 * 11}), easy(map[int]float64{4: 4 * 3}))},
		{"throws of a shot putter on three days", season.Outline{From: monday, To: at(9, 0), Events: []string{"shot"}, Free: free(0, 2, 4)}, adult, monday, []string{"tries-throw", "lifts-rebuild", "heavy-rebuild", "easy-rebuild"},
			// Two of three days are for lifting, the first is for 150 throws: 45 heavy, 15 light.
			both(tries(map[int]float64{4: 150}), lifts(map[int]float64{4: 2}), heavy(map[int]float64{4: 45}), easy(map[int]float64{4: 15}))},
		{"implements of building and sharpening", of("discus", 20, meet(19, season.A, "discus")), adult, monday, []string{"heavy-build", "easy-build", "heavy-sharpen", "easy-sharpen", "lifts-build", "lifts-sharpen"},
			// Building: 135 over four days are 33 each, 6 heavy and 4 light. Sharpening: 105 over five are 21, 5 light.
			both(heavy(map[int]float64{6: 4 * 6, 14: 0}), easy(map[int]float64{6: 4 * 4, 14: 5 * 5}), lifts(map[int]float64{6: 2, 14: 1}))},
		{"implements of a javelin thrower", of("javelin", 24, meet(22, season.A, "javelin")), adult, monday, []string{"heavy-build", "easy-build", "heavy-sharpen", "easy-sharpen", "lifts-build", "lifts-sharpen"},
			both(heavy(map[int]float64{9: 4 * 6, 17: 0}), easy(map[int]float64{9: 4 * 4, 17: 5 * 5}), lifts(map[int]float64{9: 2, 17: 1}))},
		{"lifting ends for the competition", of("hammer", 30, meet(25, season.A, "hammer")), adult, monday, []string{"lifts-taper", "lifts-compete", "effort-lift"},
			both(lifts(map[int]float64{23: 1, 25: 0}), efforts(6))},
		{"lifting of a jumper", of("high-jump", 20, meet(19, season.A, "high-jump")), adult, monday, []string{"lifts-taper", "lifts-compete", "effort-lift", "tries-jump"},
			// 50 take-offs over four days are 12 each.
			both(lifts(map[int]float64{17: 1, 19: 0}), efforts(6), tries(map[int]float64{4: 4 * 12}))},
		{"starts and runs share nothing", season.Outline{From: monday, To: at(9, 0), Events: []string{"sprint-start", "running"}, Free: free(0, 1, 2, 3)}, adult, monday, []string{"tries-start", "tries-running"},
			// Two days lift; of the others one is for 30 starts, one for 5 runs.
			tries(map[int]float64{4: 35})},
		{"a sprinter, a runner and a jumper", of("sprint-start", 9), adult, monday, []string{"tries-start", "tries-running", "tries-jump"},
			func(s season.Season, r season.Rules) error {
				// Four days of 7 starts each.
				if err := tries(map[int]float64{4: 28})(s, r); err != nil {
					return err
				}
				run, err := season.Plan(of("running", 9), adult, monday, r)
				if err != nil {
					return err
				}
				// Five runs over four days are one each.
				if err := tries(map[int]float64{4: 4})(run, r); err != nil {
					return err
				}
				jump, err := season.Plan(of("long-jump", 9), adult, monday, r)
				if err != nil {
					return err
				}
				return tries(map[int]float64{4: 48})(jump, r)
			}},
		{"one change after the other, none in the last weeks", of("hammer", 17, meet(15, season.A, "hammer")), with(change("a", "hammer", 2600), change("b", "hammer", 0)), monday, []string{"needs-throw", "no-change-weeks"},
			// 400 are left: 90, 108, 130 and 105 of four weeks.
			changed("aaaabbbbbbb------")},
		{"a take-off and what it takes", of("long-jump", 17, meet(15, season.A, "long-jump")), with(change("a", "long-jump", 1100), change("b", "long-jump", 0)), monday, []string{"needs-jump", "no-change-weeks"},
			// 100 are left: 30, 36, 43.
			changed("aaabbbbbbbb------")},
		{"large changes begin before sharpening, settings do not mind", season.Outline{From: monday, To: at(8, 0), Events: []string{"sprint-start"}, Free: free(0, 2, 4), Competitions: []season.Competition{meet(8, season.A, "sprint-start")}, Rules: []season.Changed{{ID: "no-change-weeks", Value: 3, Reason: "short season"}, {ID: "sharpen-weeks", Value: 6, Reason: "short season"}}},
			with(change("a", "sprint-start", 0), season.Change{ID: "s", Event: "sprint-start", Words: "feet closer", Kind: sport.Setting}), monday, []string{"large-change", "needs-setting", "needs-start"},
			// Begun in the sixth and seventh week before the taper only if small: 18 starts of one week do it.
			changed("s--------")},
		{"what was begun goes on in sharpening", season.Outline{From: monday, To: at(8, 0), Events: []string{"running"}, Free: free(0, 2, 4), Competitions: []season.Competition{meet(8, season.A, "running")}, Rules: []season.Changed{{ID: "no-change-weeks", Value: 3, Reason: "short season"}, {ID: "sharpen-weeks", Value: 6, Reason: "short season"}}},
			with(change("a", "long-jump", 0), change("r", "running", 34)), monday, []string{"large-change", "needs-running", "needs-jump"},
			// Two runs a week of the six that are left: 3, 3.
			changed("rr-------")},
		{"a position that is made strong, and starts", of("shot", 12), with(season.Change{ID: "p", Event: "shot", Words: "hold", Kind: sport.Strength, Done: 500}, change("a", "shot", 2900)), monday, []string{"needs-strength", "needs-throw"},
			// 100 are left: 90 and 108; then 100 of the throw: 129.
			changed("ppa---------")},
		{"settings and strength and runs one after the other", season.Outline{From: monday, To: at(9, 0), Events: []string{"sprint-start", "running"}, Free: free(0, 1, 2, 3)},
			with(season.Change{ID: "s", Event: "sprint-start", Words: "feet closer", Kind: sport.Setting}, season.Change{ID: "p", Event: "sprint-start", Words: "hold", Kind: sport.Strength, Done: 580}, change("a", "sprint-start", 375), change("r", "running", 36)), monday, []string{"needs-setting", "needs-strength", "needs-start", "needs-running"},
			// 18 starts, 21 of 20 more, 25, then 3 and 5 of 4 runs: one week has 3, the next 5.
			changed("sparr-----")},
		{"a child of eleven throws", season.Outline{From: monday, To: at(9, 0), Events: []string{"shot"}, Free: free(child...)}, aged(11), monday, []string{"cap-throw-12", "rest-days-child", "lift-age"},
			both(daysOff(map[int]float64{4: 3}), tries(map[int]float64{4: 4 * 7}), heavy(map[int]float64{4: 0}), lifts(map[int]float64{4: 0}))},
		{"a child of eleven jumps", season.Outline{From: monday, To: at(9, 0), Events: []string{"long-jump"}, Free: free(child...)}, aged(11), monday, []string{"cap-jump-12", "rest-days-child", "lift-age"},
			both(daysOff(map[int]float64{4: 3}), tries(map[int]float64{4: 4 * 5}), lifts(map[int]float64{4: 0}))},
		{"two of fourteen", season.Outline{From: monday, To: at(9, 0), Events: []string{"shot"}, Free: free(0, 2)}, aged(14), monday, []string{"cap-throw-15", "cap-jump-15", "heavy-age"},
			both(tries(map[int]float64{4: 60}), heavy(map[int]float64{4: 0}), func(_ season.Season, r season.Rules) error {
				jump, err := season.Plan(season.Outline{From: monday, To: at(9, 0), Events: []string{"high-jump"}, Free: free(0, 2)}, aged(14), monday, r)
				if err != nil {
					return err
				}
				return tries(map[int]float64{4: 30})(jump, r)
			})},
		{"two of seventeen", season.Outline{From: monday, To: at(9, 0), Events: []string{"hammer"}, Free: free(0, 2, 4, 5)}, aged(17), monday, []string{"cap-throw-18", "cap-jump-18", "heavy-age"},
			// 60 on each of two days, 18 of them heavy.
			both(tries(map[int]float64{4: 120}), heavy(map[int]float64{4: 2 * 18}), func(_ season.Season, r season.Rules) error {
				jump, err := season.Plan(season.Outline{From: monday, To: at(9, 0), Events: []string{"pole-vault"}, Free: free(0, 2, 4)}, aged(17), monday, r)
				if err != nil {
					return err
				}
				return tries(map[int]float64{4: 45})(jump, r)
			})},
		{"caps of both kinds, one event each", season.Outline{From: monday, To: at(9, 0), Events: []string{"shot", "long-jump"}, Free: free(0, 1, 2, 3)}, aged(11), monday, []string{"cap-throw-12", "cap-jump-12"},
			// 30 throws over three days, 20 take-offs on one.
			tries(map[int]float64{4: 3*10 + 20})},
		{"caps at fourteen and seventeen, one event each", season.Outline{From: monday, To: at(9, 0), Events: []string{"shot", "long-jump"}, Free: free(0, 1, 2, 3)}, aged(14), monday, []string{"cap-throw-15", "cap-jump-15", "cap-throw-18", "cap-jump-18"},
			both(tries(map[int]float64{4: 3*20 + 30}), func(_ season.Season, r season.Rules) error {
				older, err := season.Plan(season.Outline{From: monday, To: at(9, 0), Events: []string{"shot", "long-jump"}, Free: free(0, 1, 2, 3, 4)}, aged(17), monday, r)
				if err != nil {
					return err
				}
				// Two of five days lift; of the other three two throw 60 each and one jumps 45 times.
				return tries(map[int]float64{4: 2*60 + 45})(older, r)
			})},
		{"days off of who has all week", season.Outline{From: monday, To: at(9, 0), Events: []string{"hammer"}, Free: free(0, 1, 2, 3, 4, 5, 6)}, adult, monday, []string{"rest-days"},
			daysOff(map[int]float64{1: 1, 4: 1})},
		{"days off beside a competition", season.Outline{From: monday, To: at(9, 0), Events: []string{"hammer"}, Free: free(0, 1, 2, 3, 4, 5, 6), Competitions: []season.Competition{meet(4, season.C, "hammer")}}, adult, monday, []string{"rest-days"},
			// Friday is free before it.
			both(daysOff(map[int]float64{1: 1, 4: 1}), func(s season.Season, _ season.Rules) error {
				if slices.ContainsFunc(s.Weeks[4].Sessions, func(x season.Session) bool { return x.Day == at(4, 4) }) {
					return fmt.Errorf("training on the day before a competition")
				}
				return nil
			})},
		{"what hurts ends full efforts for the next weeks", of("hammer", 12), hurt, at(3, 2), []string{"pain-weeks", "full-rebuild"},
			fullShare(map[int]float64{2: 0.15, 3: 0, 4: 0, 5: 0.15})},
		{"what hurts a jumper", of("long-jump", 12), hurt, at(6, 0), []string{"pain-weeks", "full-rebuild"},
			fullShare(map[int]float64{5: 0.15, 6: 0, 7: 0, 8: 0.15})},
		{"a load half as much again is no sudden rise, more is", of("hammer", 5), adult, monday, []string{"sudden"}, both(sudden(600, false), sudden(650, true))},
		{"a load that falls, and one that doubles", of("hammer", 5), adult, monday, []string{"sudden"}, both(sudden(300, false), sudden(615, true), sudden(590, false))},
	}
}

package season

import (
	"fmt"
	"maps"
	"slices"
)

// Rule is one value that the plan goes by.
type Rule struct {
	ID    string  `json:"id"`
	Group string  `json:"group"`
	Name  string  `json:"name"`
	Unit  string  `json:"unit"`
	Lo    float64 `json:"lo"`
	Hi    float64 `json:"hi"`
	Value float64 `json:"value"`
	Says  string  `json:"says" doc:"why it is so"`
}

// Changed is a rule as a coach has set it, with a reason.
type Changed struct {
	ID     string  `json:"id" maxLength:"40"`
	Value  float64 `json:"value"`
	Reason string  `json:"reason" minLength:"3" maxLength:"300"`
}

// Rules are the values that hold.
type Rules map[string]float64

// Groups of rules, as they are listed.
const (
	gBlocks  = "Blocks and taper"
	gVolume  = "Volume of a week"
	gFull    = "Full efforts"
	gTries   = "Tries of a full week"
	gChange  = "Changing technique"
	gImplem  = "Heavier and lighter implements"
	gLifting = "Lifting"
	gCaution = "Caution"
)

// shipped are the rules as they come. Taper and its volume are from memory of the literature on
// tapering (one to three weeks, volume down by 40 to 60 %, effort kept); all others are common
// practice, no source.
var shipped = []Rule{
	{"taper-weeks", gBlocks, "Weeks of taper", "", 0, 3, 2, "Freshness comes in one to three weeks."},
	{"taper-less", gBlocks, "Volume that the taper takes away", "%", 20, 70, 50, "Less is done, not less hard."},
	{"sharpen-weeks", gBlocks, "Weeks of sharpening", "", 0, 12, 4, "Full efforts, nothing new."},
	{"build-weeks", gBlocks, "Weeks of building", "", 0, 20, 8, "What was changed is made strong."},
	{"rebuild-least", gBlocks, "Weeks that are worth rebuilding", "", 1, 12, 4, "In fewer nothing is taken apart."},

	{"rise", gVolume, "Volume may rise from week to week by", "%", 5, 50, 20, "Tendons take longer than lungs."},
	{"begin", gVolume, "Volume of the first week after a rest", "%", 20, 100, 60, "What was rested is taken up gently."},
	{"light-every", gVolume, "A light week every … weeks", "", 2, 8, 4, "What was done is taken up in it."},
	{"light-week", gVolume, "Volume of a light week", "%", 40, 100, 70, "Tests go well on rested legs."},
	{"volume-rebuild", gVolume, "Rebuilding", "%", 30, 120, 100, "Much, little of it full."},
	{"volume-build", gVolume, "Building", "%", 30, 120, 90, "A little less, harder."},
	{"volume-sharpen", gVolume, "Sharpening", "%", 20, 110, 70, "Full efforts cost more."},
	{"volume-between", gVolume, "Between two competitions that lie close", "%", 20, 100, 60, "Kept, not built."},
	{"volume-compete", gVolume, "Week of a competition", "%", 0, 80, 30, "Rehearsal only."},
	{"volume-off", gVolume, "After the season", "%", 0, 50, 0, "Something else is done."},

	{"full-rebuild", gFull, "Rebuilding", "%", 0, 60, 15, "Slow and right before fast."},
	{"full-build", gFull, "Building", "%", 0, 80, 35, "The change meets effort."},
	{"full-sharpen", gFull, "Sharpening", "%", 20, 100, 60, "The competition is rehearsed."},
	{"full-taper", gFull, "Taper", "%", 20, 100, 60, "Effort is kept."},
	{"full-between", gFull, "Between two competitions that lie close", "%", 0, 100, 45, "Enough to stay sharp."},
	{"full-compete", gFull, "Week of a competition", "%", 0, 100, 50, "Few, and good ones."},
	{"full-off", gFull, "After the season", "%", 0, 20, 0, "None is needed."},

	{"tries-throw", gTries, "Throws", "", 10, 400, 150, "Three or four sessions of some forty."},
	{"tries-jump", gTries, "Take-offs", "", 5, 150, 50, "Two or three sessions."},
	{"tries-start", gTries, "Starts", "", 5, 100, 30, "Two sessions of some fifteen."},
	{"tries-running", gTries, "Runs", "", 1, 14, 5, "Most days."},

	{"no-change-weeks", gChange, "Weeks before a main competition without a change", "", 1, 12, 4, "Only keep and rehearse: a half-learnt movement is worse than the old one."},
	{"large-change", gChange, "A change of … repetitions or more begins before sharpening", "", 10, 5000, 100, "It needs the weeks in which little is full."},
	{"needs-throw", gChange, "Throws that a change takes", "", 200, 10000, 3000, "Thousands: a release is a matter of some eight months."},
	{"needs-jump", gChange, "Take-offs that a change takes", "", 50, 3000, 1200, "A take-off is a matter of a year."},
	{"needs-start", gChange, "Starts that a change takes", "", 20, 2000, 400, "Months."},
	{"needs-running", gChange, "Runs that a change takes", "", 5, 200, 40, "Weeks."},
	{"needs-setting", gChange, "Tries that a setting takes", "", 1, 100, 10, "It is there at once."},
	{"needs-strength", gChange, "Tries while a position is made strong", "", 50, 3000, 600, "Strength comes in months."},

	{"heavy-rebuild", gImplem, "Heavier ones in rebuilding", "%", 0, 60, 30, "Slow and strong."},
	{"heavy-build", gImplem, "Heavier ones in building", "%", 0, 60, 20, "Less, since speed comes."},
	{"heavy-sharpen", gImplem, "Heavier ones in sharpening", "%", 0, 40, 0, "The own one alone, or lighter."},
	{"heavy-age", gImplem, "Heavier ones from the age of", "", 13, 20, 16, "Before that the own class's is heavy enough."},
	{"easy-rebuild", gImplem, "Lighter ones in rebuilding", "%", 0, 60, 10, "Some, for the rhythm."},
	{"easy-build", gImplem, "Lighter ones in building", "%", 0, 60, 15, "Speed comes."},
	{"easy-sharpen", gImplem, "Lighter ones in sharpening", "%", 0, 60, 25, "Speed."},

	{"lifts-rebuild", gLifting, "Days in rebuilding", "", 0, 4, 2, "Strength for what is changed."},
	{"lifts-build", gLifting, "Days in building", "", 0, 4, 2, "Strength is kept while speed comes."},
	{"lifts-sharpen", gLifting, "Days in sharpening", "", 0, 3, 1, "Enough to keep it."},
	{"lifts-taper", gLifting, "Days in the taper", "", 0, 2, 1, "Short."},
	{"lifts-between", gLifting, "Days between two competitions that lie close", "", 0, 3, 1, "Enough to keep it."},
	{"lifts-compete", gLifting, "Days in a week of competition", "", 0, 2, 0, "Legs are kept fresh."},
	{"lift-age", gLifting, "Lifting from the age of", "", 10, 18, 15, "Before that body weight, balls and games."},
	{"effort-lift", gLifting, "Effort of a lifting session", "", 1, 10, 6, "What the load is reckoned with."},

	{"rest-days", gCaution, "Days off a week", "", 1, 4, 1, "A body builds while it rests."},
	{"rest-days-child", gCaution, "Days off a week under 15", "", 1, 5, 3, "School, play and other sports come first."},
	{"sudden", gCaution, "Load told as a sudden rise, over the mean of four weeks", "%", 20, 100, 50, "Not a limit for a body: a question to ask."},
	{"pain-weeks", gCaution, "Weeks without a full effort while something hurts", "", 1, 8, 2, "From today on, as long as it lasts."},
	{"cap-throw-12", gCaution, "Throws a week under 12", "", 5, 100, 30, "Caution with children; drills without an implement do not count."},
	{"cap-throw-15", gCaution, "Throws a week under 15", "", 10, 150, 60, "Growing backs and elbows."},
	{"cap-throw-18", gCaution, "Throws a week under 18", "", 20, 250, 120, "Growing backs and elbows."},
	{"cap-jump-12", gCaution, "Take-offs a week under 12", "", 5, 60, 20, "Caution with children; hops and games do not count."},
	{"cap-jump-15", gCaution, "Take-offs a week under 15", "", 5, 80, 30, "Growing knees and heels."},
	{"cap-jump-18", gCaution, "Take-offs a week under 18", "", 10, 100, 45, "Growing knees and heels."},
}

// Shipped lists the rules as they come.
func Shipped() []Rule { return slices.Clone(shipped) }

// With are the shipped rules with what a coach has changed. An error names a rule that is none, or
// a value that it cannot have.
func With(list []Changed) (Rules, error) {
	out := Rules{}
	for _, r := range shipped {
		out[r.ID] = r.Value
	}
	return out.With(list)
}

// With are the rules with some changed.
func (r Rules) With(list []Changed) (Rules, error) {
	if len(list) == 0 {
		return r, nil
	}
	out := maps.Clone(r)
	for _, c := range list {
		i := slices.IndexFunc(shipped, func(r Rule) bool { return r.ID == c.ID })
		if i < 0 {
			return nil, fmt.Errorf("there is no rule %q", c.ID)
		}
		if s := shipped[i]; !(c.Value >= s.Lo && c.Value <= s.Hi) {
			return nil, fmt.Errorf("%s: between %g and %g", s.Name, s.Lo, s.Hi)
		}
		if c.Reason == "" {
			return nil, fmt.Errorf("%s: say why it is another", shipped[i].Name)
		}
		out[c.ID] = c.Value
	}
	return out, nil
}

package followup

import "neokinema/core/model"

// Again is whether it is time to look if a cue has worked.
type Again struct {
	Wanted int  `json:"wanted" doc:"repetitions that the plan has up to the day to look again; 0 without a plan in numbers"`
	Done   int  `json:"done" doc:"repetitions noted since the cue was given"`
	Due    bool `json:"due"`
	Waits  bool `json:"waits" doc:"the day has come, but too little was done to see anything"`
}

// enough is the share of the planned repetitions below which a day that has come tells nothing.
// Common practice: a change follows what was done, not the calendar.
const enough = 0.5

// LookAgain tells whether to look again: once all that was planned is done, or once the day has come
// and at least half of it is. Where nobody notes what is done, or nothing was planned in numbers, the
// day alone decides.
func LookAgain(day bool, wanted, done int) Again {
	out := Again{Wanted: wanted, Done: done}
	if wanted == 0 || done == 0 {
		out.Due = day
		return out
	}
	little := float64(done) < enough*float64(wanted)
	out.Due, out.Waits = done >= wanted || day && !little, day && little
	return out
}

// Repetitions is how many a plan of a drill has up to a day, in days after its first; 0 when its dose
// has no numbers.
func Repetitions(d model.Drill, plan []Session, days int) (n int) {
	for _, s := range plan {
		if s.Day <= days {
			n += d.Dose.Repetitions(shares[(s.Week-1)%len(shares)])
		}
	}
	return n
}

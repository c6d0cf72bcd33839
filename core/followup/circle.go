package followup

// Stage is one of the circle of improvement.
type Stage string

// Stages, in their order.
const (
	Goal     Stage = "goal"     // the cue was given
	Built    Stage = "strength" // strength was built for it
	Drilled  Stage = "drilled"
	Whole    Stage = "whole" // in the full movement
	Observed Stage = "observed"
)

// Gone is a stage that was gone through: how often, and when last.
type Gone struct {
	Stage Stage  `json:"stage" enum:"goal,strength,drilled,whole,observed"`
	N     int    `json:"n" doc:"cues, sessions of lifting, tries, attempts, looks"`
	On    string `json:"on" format:"date" doc:"the last time"`
}

// Practised is a session since a cue was given.
type Practised struct {
	On    string
	Lift  bool
	Own   bool // at what the cue is about
	Tries int
	Full  int // of these
}

// Circle tells what was done about a cue, and nothing of what was meant to be: the stages that were
// gone through, in their order. Sessions and attempts are those since it was given, oldest first;
// lifting counts where the cue is about strength, and full attempts that a session has as well as the
// log count once.
func Circle(given string, strength bool, sessions []Practised, attempts, looks []string) []Gone {
	out := []Gone{{Goal, 1, given}}
	var lifted, drilled, full Gone
	for _, s := range sessions {
		add := func(g *Gone, n int) {
			if n > 0 {
				g.N += n
				g.On = s.On
			}
		}
		if s.Lift && strength {
			add(&lifted, 1)
		}
		if s.Own && !s.Lift {
			add(&drilled, s.Tries-s.Full)
			add(&full, s.Full)
		}
	}
	if n := len(attempts); n > 0 {
		full.N, full.On = max(full.N, n), max(full.On, attempts[n-1])
	}
	var seen Gone
	if n := len(looks); n > 0 {
		seen = Gone{N: n, On: looks[n-1]}
	}
	for i, g := range []Gone{lifted, drilled, full, seen} {
		if g.Stage = []Stage{Built, Drilled, Whole, Observed}[i]; g.N > 0 {
			out = append(out, g)
		}
	}
	return out
}

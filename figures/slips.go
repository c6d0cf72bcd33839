package figures

import (
	"fmt"
	"math"
	"os"
	"slices"
	"strings"
	"sync"

	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam/study"
)

// How many attempts an event slips are tried on, and how long an implement is hidden at each high
// point, s: behind the back, the head, the cage.
const (
	slipped    = 10
	hiddenTime = 0.15
)

// slips is what is told of mistakes of who enters a clip, and of an implement that is hidden.
type slips struct {
	told    map[string]*share // by what was entered wrongly
	doubted share             // of what was entered rightly
	hidden  stated            // directions of the implement while it is hidden
	stated  share             // frames of those in which one is stated
}

// tells is how a report tells a slip.
func tells(r report.Report, of string) bool {
	if of == "rate" {
		return r.RateHint != nil
	}
	says := map[string]string{"scale": "the line that gives the scale", "view": "check the view"}[of]
	return slices.ContainsFunc(r.Problems, func(p string) bool { return strings.Contains(p, says) })
}

func (l *Lab) slips() (*slips, error) {
	if l.slipped != nil {
		return l.slipped, nil
	}
	list, err := study.Draw(lot(), slipped, 0)
	if err != nil {
		return nil, err
	}
	out := &slips{told: map[string]*share{}}
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		for _, w := range []way{tracked, byDraft} {
			in, err := drawnInput(a, w)
			if err != nil {
				return err
			}
			right := evaluate.Attempt(a.Model, in)
			mu.Lock()
			for _, of := range []string{"scale", "view", "rate"} {
				out.doubted.add(tells(right, of))
				if tells(right, of) {
					fmt.Fprintf(os.Stderr, "    %s %s: a right %s is doubted\n", a.Name, w, of)
				}
			}
			mu.Unlock()
			for _, s := range study.Slips {
				wrong := in
				s.Make(a, &wrong)
				told := tells(evaluate.Attempt(a.Model, wrong), s.Of)
				mu.Lock()
				of(out.told, s.Of).add(told)
				if !told && os.Getenv("NEO_TELL") != "" {
					fmt.Fprintf(os.Stderr, "    %s %s: %s %s is not told\n", a.Name, w, s.Of, s.Name)
				}
				mu.Unlock()
			}
			a.Flag(&in)
			frames := a.HideHigh(&in, hiddenTime)
			above, ok := evaluate.SeenFromAbove(a.Model, in, nil)
			mu.Lock()
			for _, f := range frames {
				truly, i := a.Scene.Truth.Frames[f].Azimuths.Implement, f-above.Ball.From
				if truly == nil || f < a.Scene.Truth.Positions["zero1"] {
					continue
				}
				is := ok && i >= 0 && i < len(above.Ball.Az) && above.Ball.SD[i] > 0
				if out.stated.add(is); is {
					out.hidden.add(math.Remainder(above.Ball.Az[i]-*truly, 360), 1.96*above.Ball.SD[i], 0)
				}
			}
			mu.Unlock()
		}
		return nil
	})
	if err == nil {
		l.slipped = out
	}
	return out, err
}

// of, wrongly, covered and bridged are what the figures print; of nothing when it failed.
func (s *slips) of(what string) float64 {
	if s == nil || s.told[what] == nil {
		return math.NaN()
	}
	return s.told[what].percent()
}

func (s *slips) wrongly() float64 { return s.doubted.percent() }
func (s *slips) covered() float64 { return s.hidden.covered() }
func (s *slips) bridged() float64 { return s.stated.percent() }

package season

import (
	"errors"
	"fmt"
)

// Step is one on the way back after an injury. Its criterion is that of a physician or
// physiotherapist; the tool keeps what they said and clears nobody.
type Step struct {
	Name      string `json:"name" minLength:"1" maxLength:"120"`
	Criterion string `json:"criterion" minLength:"1" maxLength:"300" doc:"what must be so before the next step, as a physician or physiotherapist has set it"`
	Volume    int    `json:"volume" minimum:"0" maximum:"100" doc:"% of a full week at most"`
	Full      bool   `json:"full" doc:"full efforts are allowed"`
	By        string `json:"by,omitempty" required:"false" maxLength:"120" doc:"physician or physiotherapist who said that the criterion is met"`
	On        *Day   `json:"on,omitempty" required:"false" format:"date"`
}

// met tells whether somebody has said so.
func (s Step) met() bool { return s.By != "" && s.On != nil }

// Return is the way back after an injury.
type Return struct {
	What  string `json:"what" minLength:"1" maxLength:"200" doc:"what was hurt"`
	SetBy string `json:"set_by" maxLength:"120" doc:"physician or physiotherapist who set the steps"`
	Steps []Step `json:"steps" minItems:"1" maxItems:"12"`
}

// Check refuses a way that nobody has set, and steps out of their order.
func (r Return) Check() error {
	if r.SetBy == "" {
		return errors.New("name the physician or physiotherapist who set the steps; the tool sets none")
	}
	if len(r.Steps) == 0 || len(r.Steps) > 12 {
		return errors.New("the way back has 1 to 12 steps")
	}
	for i, s := range r.Steps {
		if s.Name == "" || s.Criterion == "" || s.Volume < 0 || s.Volume > 100 {
			return fmt.Errorf("step %d needs a name, a criterion and a volume of 0 to 100 %%", i+1)
		}
		if (s.By == "") != (s.On == nil) {
			return fmt.Errorf("step %d: who said that its criterion is met, and when", i+1)
		}
		if i > 0 && s.met() && !r.Steps[i-1].met() {
			return fmt.Errorf("step %d comes after step %d: nobody has said that the criterion before is met", i+1, i)
		}
	}
	return nil
}

// open tells whether a step is still to be made.
func (r *Return) open() bool { _, ok := r.At(); return ok }

// At is the step that the athlete is on; false when all are behind, or there is no way.
func (r *Return) At() (int, bool) {
	if r == nil {
		return 0, false
	}
	for i, s := range r.Steps {
		if !s.met() {
			return i, true
		}
	}
	return len(r.Steps), false
}

// hurts tells whether pain that is not over reaches into a week: the next weeks only, since nobody
// knows how long it lasts. It is planned anew every day.
func (p *planner) hurts(w *Week) bool {
	return p.who.Pain && w.Monday+7 > p.now && w.Monday < p.now.Monday()+7*Day(p.of("pain-weeks"))
}

// returning holds a week down by pain, and by the step that the athlete is on: what comes after it
// is not planned as though it were reached.
func (p *planner) returning(w *Week) {
	if p.hurts(w) {
		w.Full = 0
	}
	if at, ok := p.Return.At(); ok && w.Monday+7 > p.now {
		s := p.Return.Steps[at]
		w.Volume = min(w.Volume, float64(s.Volume)/100)
		if !s.Full {
			w.Full = 0
		}
	}
}

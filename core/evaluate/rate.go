package evaluate

import (
	"fmt"
	"math"
	"sort"

	"neokinema/core/body"
	"neokinema/core/report"
	"neokinema/core/sport"
)

// A clip that was slowed down on its way plays as long as it likes; what falls in it still
// falls, and runners take their steps. Where that contradicts the rate that somebody gave, or
// nobody knows it, the pictures tell it.

// Rates at which cameras film, pictures a second.
var usualRates = []float64{24, 25, 30, 50, 60, 100, 120, 240, 480, 960}

// Limits of that. Assumed.
const (
	rateOff     = 0.25 // of its logarithm: nearer is no contradiction
	fallSpan    = 5    // pictures on each side of the highest place, at least
	fallDeep    = 0.06 // standing heights that the mass must have fallen
	fallScatter = 2.0  // of the scatter that a fall may leave
	feetApart   = 0.25 // standing heights, of steps that are counted
	feetPass    = 0.15 // and how near they come as they pass
	fewestSteps = 3
)

// findRate sets the hint of the report.
func (e *Evaluation) findRate() {
	if e.cache.tall == 0 || !e.usable() {
		return
	}
	frames := e.ownFrames()
	if len(frames) < 2*fallSpan {
		return
	}
	shown := float64(e.Clock.Len()) / float64(len(frames)) // frames of the file to a picture
	event := sport.Of(e.Model.ID)
	switch {
	case event.Change == sport.Jump && !event.Pole():
		if pictures, ok := e.rateOfFall(frames); ok {
			e.hint(pictures*shown, "a body in the air falls as it does here")
		}
	case event.Steps.Usual > 0:
		if every, ok := e.stepEvery(frames); ok {
			e.paced(event.Steps, every*shown, "steps")
		}
	case event.Turns.Usual > 0 && e.throw != nil:
		if every, ok := e.throw.Round(); ok {
			e.paced(event.Turns, every, "turns")
		}
	}
}

// paced holds what comes again after so many frames of the file against how often it may.
func (e *Evaluation) paced(p sport.Pace, every float64, what string) {
	if often := e.Rate / every; e.Clock.Known() && often >= p.Least && often <= p.Most {
		return
	}
	e.hint(p.Usual*every, fmt.Sprintf("%s come as fast as anybody’s (%.2g to %.2g a second)", what, p.Least, p.Most))
}

// hint says the usual rate nearest to one that the pictures tell, unless it is the one that is
// given.
func (e *Evaluation) hint(rate float64, reason string) {
	best := usualRates[0]
	for _, r := range usualRates {
		if math.Abs(math.Log(r/rate)) < math.Abs(math.Log(best/rate)) {
			best = r
		}
	}
	if e.Clock.Known() && math.Abs(math.Log(e.Input.Clip.CaptureRate/rate)) < rateOff || best == e.Input.Clip.CaptureRate {
		return
	}
	e.report.RateHint = &report.RateHint{Rate: best, Reason: fmt.Sprintf("At about %.0f frames a second %s", best, reason)}
	if e.Clock.Known() {
		e.Clock, e.contradicted = e.Clock.Untimed(), true
		if t := e.report.Throw; t != nil {
			untimed(t)
		}
		e.report.Problems = append(e.report.Problems, fmt.Sprintf("the camera is said to have taken %.4g frames a second, but %s at about %.0f: look at Clip", e.Input.Clip.CaptureRate, reason, best))
	}
}

// rateOfFall is how many pictures a second make the centre of mass fall by gravity about its
// highest place.
func (e *Evaluation) rateOfFall(frames []int) (float64, bool) {
	m := e.mass(frames)
	if m == nil {
		return 0, false
	}
	top := -1
	for i, up := range m.Up {
		if !math.IsNaN(up) && (top < 0 || up > m.Up[top]) {
			top = i
		}
	}
	if top < 0 {
		return 0, false
	}
	apex, rises := e.apex()
	if at := sort.SearchInts(frames, apex); !rises || max(at-top, top-at) > len(frames)/4 {
		return 0, false
	}
	a, ok := 0.0, false
	for span := fallSpan; top-span >= 0 && top+span < len(frames); span++ {
		f, left, fits := m.Fall(top-span, top+span+1)
		if !fits || left > fallScatter {
			break
		}
		if f < 0 && -f*float64(span*span)/2 > fallDeep {
			a, ok = f, true
		}
	}
	if !ok {
		return 0, false
	}
	return math.Sqrt(m.Gravity / -a), true
}

// stepEvery is how many pictures pass from one step of a run to the next: the feet pass each
// other once in each.
func (e *Evaluation) stepEvery(frames []int) (float64, bool) {
	l, r := e.Movement.Paths[string(body.Left)+"_ankle"], e.Movement.Paths[string(body.Right)+"_ankle"]
	var passed []float64
	near, at := math.Inf(1), 0.0 // since they were apart
	for i, f := range frames {
		p, ok1 := l.Seen(f)
		q, ok2 := r.Seen(f)
		if !ok1 || !ok2 {
			continue
		}
		// Not which of them is ahead: a draft takes one for the other.
		apart := math.Abs(p.X-q.X) / e.cache.tall
		switch {
		case apart < near:
			near, at = apart, float64(i)
		case apart > feetApart && near < feetPass:
			passed = append(passed, at)
			near = apart
		}
	}
	if len(passed) < fewestSteps {
		return 0, false
	}
	var gaps []float64
	for i := 1; i < len(passed); i++ {
		gaps = append(gaps, passed[i]-passed[i-1])
	}
	sort.Float64s(gaps)
	return gaps[len(gaps)/2], true
}

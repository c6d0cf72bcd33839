package evaluate

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/pole"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
)

// How long before the take-off foot comes down a pole may begin to bend, and how long after, s.
// Common practice, no source.
const (
	bendsBefore = 0.15
	bendsAfter  = 0.45
)

// findPole reads how the pole bends.
func (e *Evaluation) findPole() {
	if !sport.Of(e.Model.ID).Pole() || e.Input.Points["pole_low"] == nil || !e.usable() {
		return
	}
	td, ok := e.Flag("td")
	if !ok {
		return
	}
	out := &report.Pole{}
	e.report.Pole = out
	end := min(e.Clock.Len(), td+int(bendsAfter*e.Rate))
	on, err := pole.Begins(e.lookAtPole, max(0, td-int(bendsBefore*e.Rate)), end)
	if err != nil {
		out.Missing = err.Error()
		return
	}
	out.Onset = &on
	if to, ok := e.Flag("straight"); ok {
		end = to
	} else {
		end = e.Clock.Len() - 1
	}
	if chord, frame, err := pole.Shortest(e.lookAtPole, on, int(on.Frame), end); err == nil {
		out.Chord, out.Deepest = &chord, frame
	} else {
		out.Missing = err.Error()
	}
}

// lookAtPole are the four points of the pole in a frame.
func (e *Evaluation) lookAtPole(frame int) (l pole.Look, ok bool) {
	top := string(e.Roles.Throwing)
	for _, p := range []struct {
		ids []string
		at  *r2.Vec
	}{{[]string{"tip"}, &l.Tip}, {[]string{"pole_low"}, &l.Low}, {[]string{"pole_high"}, &l.High}, {[]string{top + "_hand", top + "_wrist"}, &l.Hand}} {
		ok = false
		for _, id := range p.ids {
			if q, seen := e.pixel(id, frame); seen && !ok {
				*p.at, l.Sigma, ok = q.At, math.Max(l.Sigma, q.Sigma), true
			}
		}
		switch {
		case !ok && p.at == &l.Tip:
			l.NoTip = true
		case !ok:
			return l, false
		}
	}
	return l, true
}

var errNoPole = Failure{"the pole is not followed in this clip", "tip, both points between and the top hand followed, on Track"}

// ofPole reads a value of the pole.
func ofPole(of func(*query, *report.Pole) (uncertainty.Estimate, error)) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		p := q.report.Pole
		switch {
		case p == nil:
			return uncertainty.Estimate{}, errNoPole
		case p.Onset == nil:
			return uncertainty.Estimate{}, Failure{p.Missing, errNoPole.Remedy}
		}
		return of(q, p)
	}
}

var _ = register(
	kind{name: "pole_chord", unit: "%", doc: "shortest line from the tip of the pole to the top hand, in % of that when it was still straight", scope: onPole, bound: true,
		read: ofPole(func(q *query, p *report.Pole) (uncertainty.Estimate, error) {
			if p.Chord == nil {
				return uncertainty.Estimate{}, Failure{p.Missing, errNoPole.Remedy}
			}
			q.ev.Frame = p.Deepest
			return *p.Chord, nil
		})},
	kind{name: "bends_after", unit: "ms", doc: "from the position until the pole begins to bend; negative when it has begun before", scope: onPole, bound: true, decides: faster,
		read: ofPole(func(q *query, p *report.Pole) (uncertainty.Estimate, error) {
			return q.untilBend(p, float64(q.frame)-0.5, q.momentSD(q.position.ID)*q.Rate)
		})},
	kind{name: "passes_before", unit: "ms", doc: "how long before the pole begins to bend points[0] passes points[1] on its way forward", points: 2, scope: onPole, bound: true, decides: faster,
		read: ofPole(func(q *query, p *report.Pole) (uncertainty.Estimate, error) {
			at, sd, err := q.passes(q.m.Points[0], q.m.Points[1])
			if err != nil {
				return uncertainty.Estimate{}, err
			}
			return q.untilBend(p, at, sd)
		})},
)

// untilBend is the time from a moment, in frames, to the onset of the bend, ms.
func (q *query) untilBend(p *report.Pole, at, sd float64) (uncertainty.Estimate, error) {
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	q.ev.Frame = int(math.Round(p.Onset.Frame))
	ms := 1000 / q.Rate
	return uncertainty.Normal((p.Onset.Frame-at)*ms, math.Hypot(math.Hypot(p.Onset.SD, sd), 1/math.Sqrt(12))*ms), nil
}

// passes is the moment, in frames, at which a landmark passes another forward, within half of
// the longest take-off of the measure's position, and its standard deviation.
func (q *query) passes(who, whom string) (at, sd float64, err error) {
	roles := q.rolesAt(q.position)
	gap := func(f int) (by, sigma float64, ok bool) {
		a, okA := q.Point(roles, who, f)
		b, okB := q.Point(roles, whom, f)
		return a.At.X - b.At.X, math.Hypot(a.Sigma, b.Sigma), okA && okB
	}
	window := int(passesWithin * q.Rate)
	best := math.Inf(1)
	for f := max(1, q.frame-window); f < min(q.Clock.Len(), q.frame+window); f++ {
		was, _, ok1 := gap(f - 1)
		is, sigma, ok2 := gap(f)
		if !ok1 || !ok2 || was > 0 || is <= 0 {
			continue
		}
		if d := math.Abs(float64(f - q.frame)); d < best {
			best, at, sd = d, float64(f)-is/(is-was), sigma/(is-was)
		}
	}
	if math.IsInf(best, 1) {
		return 0, 0, Failure{"the " + body.Label(roles.Resolve(who)[0]) + " does not pass the other here", "both points followed around this position"}
	}
	return at, sd, nil
}

// passesWithin is how long before or after a position a knee may pass the other, s. Common
// practice, no source.
const passesWithin = 0.2

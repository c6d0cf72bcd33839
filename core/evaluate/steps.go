package evaluate

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/ground"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// steps makes the table from the bars of feet on the ground.
func (e *Evaluation) steps() {
	e.plane()
	var bars []contact.Interval
	for _, b := range e.report.Contacts {
		if pedal(b.Name) {
			continue
		}
		bars = append(bars, b)
		s := report.Step{N: len(e.report.Steps) + 1, Foot: b.Foot, From: b.From, To: b.To, Contact: b.Seconds}
		if at, ok := e.print(b.Foot, b.From, b.To); ok {
			px := e.view.Picture(at)
			s.At = &[2]float64{px.X, px.Y}
		}
		e.report.Steps = append(e.report.Steps, s)
	}
	for i := 1; i < len(e.report.Steps); i++ {
		a, b := &e.report.Steps[i-1], &e.report.Steps[i]
		on, off, land := bars[i-1].FromSD, bars[i-1].ToSD, bars[i].FromSD
		if b.From < a.To || !e.follows(*a, *b) {
			continue // a walk, or both feet down: no flight; or a step between was not seen
		}
		next := b.From
		a.Next = &next
		if v, err := e.Clock.Between(a.To, b.From); err == nil {
			v = between(v, off, land)
			a.Flight = &v
		}
		if v, err := e.Clock.Between(a.From, b.From); err == nil && v.Value > 0 {
			v = between(v, on, land)
			c := uncertainty.Propagate(func(x []float64) float64 { return 60 / x[0] }, []float64{v.Value}, []float64{v.SD})
			a.Cadence = &c
			if l, ok := e.stepLength(*a, *b, v); ok {
				a.Length = &l
			}
		}
	}
}

// longestFlight is the longest time in the air of a step, s: in a longer one a step was not
// seen. Common practice, no source.
const longestFlight = 0.4

// follows tells whether one step is the next after another: the other foot's, soon enough,
// with none between them that is not sure enough to be shown.
func (e *Evaluation) follows(a, b report.Step) bool {
	if a.Foot == b.Foot || e.runs() && float64(b.From-a.To) > longestFlight*e.Rate {
		return false
	}
	return !slices.ContainsFunc(e.contacts, func(c contact.Contact) bool { return c.From > a.To && c.To < b.From })
}

// pedal tells whether a contact is that of a foot on its pedal, which is no step.
func pedal(name string) bool { return name == "front pedal" || name == "rear pedal" }

// print is the place of a foot in the middle of its contact, toe for want of
// nothing better.
func (e *Evaluation) print(foot body.Side, from, to int) (r2.Vec, bool) {
	for _, part := range []string{"toe", "ankle"} {
		if p, ok := e.Movement.Where(string(foot)+"_"+part, (from+to)/2); ok {
			return p, true
		}
		for _, f := range []int{from, to - 1} {
			if p, ok := e.Point(e.Roles, string(foot)+"_"+part, f); ok {
				return p.At, true
			}
		}
	}
	return r2.Vec{}, false
}

// plane fits the ground if the coach marked it.
func (e *Evaluation) plane() {
	if e.Input.Ground == nil || len(e.Input.Ground.Points) == 0 {
		return
	}
	p, err := ground.Fit(*e.Input.Ground, func(f int, q r2.Vec) r2.Vec { return e.Input.Camera.ToReference(f, q) })
	if errors.Is(err, ground.ErrFew) || barHeight(*e.Input.Ground) > 0 {
		// What stands upright tells the ground too.
		if eye, poor := e.runwayEye(); poor == nil {
			p, err = eye.Plane()
		}
	}
	if err != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
		return
	}
	e.report.Ground = p
}

// stepLength is the way from one foot print to the next: on the ground plane if
// there is one, else by the scale; on a belt the way that the belt ran comes on
// top.
func (e *Evaluation) stepLength(a, b report.Step, t uncertainty.Estimate) (uncertainty.Estimate, bool) {
	if a.At == nil || b.At == nil || !e.usable() {
		return uncertainty.Estimate{}, false
	}
	if g := e.report.Ground; g != nil {
		p, q := g.Ground(r2.Vec{X: a.At[0], Y: a.At[1]}), g.Ground(r2.Vec{X: b.At[0], Y: b.At[1]})
		return uncertainty.Normal(q.X-p.X, math.Hypot(g.ErrorCm/100, 0.02)), true
	}
	if e.sight == nil {
		return uncertainty.Estimate{}, false
	}
	p, q := e.view.Forward(r2.Vec{X: a.At[0], Y: a.At[1]}), e.view.Forward(r2.Vec{X: b.At[0], Y: b.At[1]})
	return e.metres(func(at []r2.Vec, _, t []float64) float64 { return at[1].X - at[0].X - e.belted(p, t[0]) }, 2,
		[]float64{p.X, p.Y, q.X, q.Y, t.Value}, []float64{e.Sigma, 0, e.Sigma, 0, t.SD}), true
}

// readGroup reads a checkpoint in every repetition; its value is their mean.
func (e *Evaluation) readGroup(cp model.Checkpoint) report.Reading {
	r := report.Reading{ID: cp.ID, Verdict: uncertainty.None, Source: "measure"}
	if cp.Measure.Kind == "asymmetry" {
		v, ev, err := e.measure(cp)
		return e.judged(r, cp, v, ev, err)
	}
	var last error
	for _, p := range e.Model.Where(cp) {
		if _, ok := e.Flag(p.ID); !ok {
			continue
		}
		v, ev, err := e.once(cp, p)
		if err == nil && (math.IsNaN(v.Value) || math.IsNaN(v.SD) || math.IsInf(v.SD, 0)) {
			err = Failure{"the number cannot be computed from these points", ""}
		}
		if err == nil && !Possible(cp.Measure.Kind, v.Value) {
			err = Failure{fmt.Sprintf("%.3g %s cannot be: a flag or a point stands wrong", v.Value, cp.Unit), "a look at the flags that it is read from"}
		}
		if err != nil {
			last = err
			if r.Evidence == nil {
				r.Evidence = ev
			}
			continue
		}
		if len(r.Repetitions) == 0 {
			r.Evidence = ev
		}
		r.Repetitions = append(r.Repetitions, report.Repetition{Position: p.ID, Foot: string(e.feet[p.Nth]), Frame: ev.Frame, Value: v})
	}
	if len(r.Repetitions) == 0 {
		if last == nil {
			name := cp.Position
			for _, p := range e.Model.Repeat.Positions {
				if p.ID == cp.Position {
					name = p.Name
				}
			}
			last = Failure{"no “" + strings.ToLower(name) + "” is flagged", "a flag at one, or tracked feet"}
		}
		return e.judged(r, cp, uncertainty.Estimate{}, r.Evidence, last)
	}
	return e.judged(r, cp, e.mean(cp, r.Repetitions), r.Evidence, nil)
}

// lasting is the share of the variance of a single reading, beside that of the scale, which
// all repetitions have in common: joints of a draft are off the same way in the same pose,
// and moments are found late in the same way. Assumed, after a look at the lots that are
// there to build on.
const (
	lastingShare  = 0.6
	followedShare = 0.35 // where no network did that
	steadyShare   = 0.2
	inTime        = 0.2 // steps as even as the camera's pictures fall between them in the same way
)

// mean of repetitions. What they have in common no number of them takes away: the scale, and
// part of the rest. Of what is each one's own the larger of what the doubts and what the
// scatter between them leave.
func (e *Evaluation) mean(cp model.Checkpoint, list []report.Repetition) uncertainty.Estimate {
	if kinds[cp.Measure.Kind].chained {
		return e.meanOfChain(list)
	}
	lasting := e.lastingIn(cp, list)
	own, common := meanOf(list, e.scaleOf(cp.ID), lasting)
	if lasting == 0 && kinds[cp.Measure.Kind].scope == stepped {
		// Between moments that a coach has flagged steps may differ as they like: that is no
		// doubt of the mean of these.
		variance := 0.0
		for _, v := range list {
			variance += v.Value.SD * v.Value.SD
		}
		n := float64(len(list))
		own.SD = math.Sqrt(math.Max(0, variance/n-common*common) * (inTime + (1-inTime)/n))
	}
	return uncertainty.Normal(own.Value, math.Hypot(own.SD, common))
}

// meanOfChain is the mean of what goes from one moment to the next of its kind: all moments but
// the first and the last of an unbroken row fall out of it, and so does what they are late in
// common.
func (e *Evaluation) meanOfChain(list []report.Repetition) uncertainty.Estimate {
	n := float64(len(list))
	var x, ends float64
	before := math.MinInt
	for _, v := range list {
		x += v.Value.Value / n
		p, _ := e.Model.Position(v.Position)
		if p.Nth != before+1 {
			ends += v.Value.SD * v.Value.SD
		}
		before = p.Nth
	}
	return uncertainty.Normal(x, math.Sqrt(ends)/n)
}

// lastingIn is the share of lasting doubt in the repetitions of a checkpoint: none in times
// between moments that the coach has flagged, and in directions seen from above, which a
// whole turn goes through.
func (e *Evaluation) lastingIn(cp model.Checkpoint, list []report.Repetition) float64 {
	k := kinds[cp.Measure.Kind]
	switch {
	case k.scope == depth:
		return 0
	case k.steady:
		return steadyShare
	case k.scope == stepped:
		share := 0.0
		for _, x := range list {
			if _, mine := e.Input.Flags[x.Position]; mine {
				continue
			}
			if f, ok := e.Flag(x.Position); ok && e.feetFollowed(f) {
				share = followedShare // nothing draws all of them the same way
				continue
			}
			return lastingShare
		}
		return share
	}
	return lastingShare
}

// feetFollowed tells whether no toe or heel in a frame is a network's.
func (e *Evaluation) feetFollowed(frame int) bool {
	for _, id := range []string{"left_toe", "left_heel", "right_toe", "right_heel"} {
		if p, ok := e.Input.Points.At(id, frame); ok && p.Source == track.Draft.String() {
			return false
		}
	}
	return true
}

// scaleOf is the doubt of the scale in a reading, as a share of it.
func (e *Evaluation) scaleOf(id string) float64 {
	if cp, _ := e.Model.Checkpoint(id); e.sight != nil && slices.Contains([]string{"cm", "m", "m/s"}, cp.Unit) {
		return e.sight.levelSD
	}
	return 0
}

// meanOf is the mean of repetitions without the doubt of their scale, and that doubt; scale is
// a share of each, lasting that of the variance which all have in common.
func meanOf(list []report.Repetition, scale, lasting float64) (own uncertainty.Estimate, common float64) {
	n := float64(len(list))
	var x, variance, scatter float64
	for _, v := range list {
		x, variance = x+v.Value.Value/n, variance+v.Value.SD*v.Value.SD/n
	}
	for _, v := range list {
		scatter += (v.Value.Value - x) * (v.Value.Value - x)
	}
	common = math.Min(math.Sqrt(variance), math.Abs(x)*scale)
	rest := variance - common*common
	if n > 1 {
		rest = lasting*rest + math.Max((1-lasting)*rest/n, scatter/(n-1)/n)
	}
	return uncertainty.Normal(x, math.Sqrt(rest)), common
}

func (e *Evaluation) stepAt(p model.Position) (report.Step, bool) {
	base := e.Model.Repeat.Positions[0].ID
	on, ok := e.Flag(fmt.Sprintf("%s%d", base, p.Nth))
	if !ok {
		return report.Step{}, false
	}
	for _, s := range e.report.Steps {
		if s.From == on {
			return s, true
		}
	}
	return report.Step{}, false
}

package evaluate

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// Failure is why a reading has no value, and what would give one.
type Failure struct{ Reason, Remedy string }

func (f Failure) Error() string { return f.Reason }

func (e *Evaluation) read(cp model.Checkpoint) report.Reading {
	if e.Model.Repeated(cp.Position) {
		return e.readGroup(cp)
	}
	r := report.Reading{ID: cp.ID, Verdict: uncertainty.None, Source: "measure", Side: e.side(cp)}
	v, ev, err := e.measure(cp)
	return e.judged(r, cp, v, ev, err)
}

// judged fills in value and verdict, or why there is none.
func (e *Evaluation) judged(r report.Reading, cp model.Checkpoint, v uncertainty.Estimate, ev *report.Evidence, err error) report.Reading {
	r.Evidence = ev
	if err != nil || math.IsNaN(v.Value) || math.IsNaN(v.SD) || math.IsInf(v.SD, 0) {
		var f Failure
		if errors.As(err, &f) {
			switch {
			case f == errNoRate && e.stills:
				f = errStills
			case f == errNoRate && e.contradicted:
				f = errBadRate
			}
			r.Reason, r.Remedy = f.Reason, f.Remedy
		} else {
			r.Reason = "the number cannot be computed from these points"
		}
		if cp.Question != "" {
			r.Source = ""
			if r.Reason == "" {
				r.Reason = "your own mark"
			}
			if mark, ok := e.Input.Answers[cp.ID]; ok {
				r.Source, r.Reason, r.Remedy, r.Note, r.Said = "coach", "", "", mark.Note, mark.Answer
				r.Verdict = map[string]uncertainty.Verdict{"yes": uncertainty.Met, "partly": uncertainty.Open, "no": uncertainty.Missed}[mark.Answer]
				if mark.Answer != "partly" && mark.Sure > 0 && mark.Sure < sureByEye {
					r.Verdict = uncertainty.Open
					r.Reason = fmt.Sprintf("by eye it is a “%s”, and that eye is right in %.0f of 100 of such answers", mark.Answer, 100*mark.Sure)
					r.Remedy = "a clip in which it is measured, or practice of the eye"
				}
			}
		}
		return r
	}
	if !Possible(cp.Measure.Kind, v.Value) {
		r.Reason, r.Remedy = fmt.Sprintf("%.3g %s cannot be: a flag or a point stands wrong", v.Value, cp.Unit), "a look at the flags that it is read from"
		return r
	}
	if TellsNothing(cp.Measure.Kind, v) {
		r.Reason, r.Remedy = fmt.Sprintf("from this clip it is known no better than to ±%.2g %s, as much as there is", v.Half95, cp.Unit), "a closer clip, with less of a turn of the camera"
		return r
	}
	r.Value = &v
	r.Verdict = cp.Judge(v)
	if r.Verdict == uncertainty.None {
		return r
	}
	r.Unchecked = e.unchecked(cp.Measure, ev) || r.Verdict == uncertainty.Missed && (e.drafted(ev) && !clearlyPast(cp, v) || e.mistaken(cp) > mostMistaken)
	if name, unsure := e.hangsOnUnsure(cp, r); unsure && r.Verdict != uncertainty.Open {
		r.Unsure, r.Verdict = true, uncertainty.Open
		r.Reason = "it hangs on “" + name + "”, which was found and is not sure"
		r.Remedy = "a flag at that frame, or a look in Check"
		return r
	}
	if r.Verdict == uncertainty.Open && cp.Band.Judge(v) == uncertainty.Missed && cp.Limits().Judge(v) == uncertainty.Met {
		r.Reason = "past the band, and tolerated"
		return r
	}
	if r.Verdict == uncertainty.Open {
		r.Reason = fmt.Sprintf("the doubt of ±%.3g %s crosses the edge of the band", v.Half95, cp.Unit)
		r.Remedy = e.decides(cp)
	}
	return r
}

// sureEnough is how likely a found moment must be for what is read at it to be judged.
const sureEnough = 0.85

// hangsOnUnsure tells whether a reading is read at moments that were found and are not
// sure: one of them, or half of the repetitions.
func (e *Evaluation) hangsOnUnsure(cp model.Checkpoint, r report.Reading) (name string, unsure bool) {
	sure := func(id string) bool {
		_, mine := e.Input.Flags[id]
		f, found := e.found[id]
		if mine || !found || f.sure >= sureEnough {
			return true
		}
		p, _ := e.Model.Position(id)
		name = p.Name
		return false
	}
	// What is read over a whole step hangs on both of its ends.
	whole := kinds[cp.Measure.Kind].scope == stepped || len(cp.Measure.Readings) > 0
	step := func(x report.Repetition) bool {
		p, _ := e.Model.Position(x.Position)
		for _, q := range e.Model.Positions {
			if f := q.Find; f != nil && whole && p.Nth > 0 && q.Nth == p.Nth && (f.Kind == "touchdown" || f.Kind == "toe-off") && !sure(q.ID) {
				return false
			}
		}
		return sure(x.Position)
	}
	unsureOf := func(list []report.Repetition) (n int) {
		for _, x := range list {
			if !step(x) {
				n++
			}
		}
		return n
	}
	if len(r.Repetitions) > 0 {
		return name, 2*unsureOf(r.Repetitions) >= len(r.Repetitions)
	}
	// One step that is mistaken makes left and right differ.
	for _, id := range cp.Measure.Readings {
		if unsureOf(e.readings[id].Repetitions) > 0 {
			return name, true
		}
	}
	for _, id := range append([]string{cp.Position}, cp.Measure.Positions...) {
		unsure = !sure(id) || unsure
	}
	return name, unsure
}

// mostMistaken is how likely one of the moments of a reading may be another one for a fault that it
// shows to be certain. Assumed.
const mostMistaken = 0.1

// mistaken is how likely one of the moments of a checkpoint that were found is not the one meant:
// of two that are sure by themselves that is twice as likely.
func (e *Evaluation) mistaken(cp model.Checkpoint) float64 {
	right, hangs := 1.0, append([]string{cp.Position}, cp.Measure.Positions...)
	for i, id := range hangs {
		if _, mine := e.Input.Flags[id]; mine || slices.Contains(hangs[:i], id) {
			continue
		}
		if f, found := e.found[id]; found {
			right *= f.sure
		}
	}
	return 1 - right
}

// mostWrong is how likely one of the joints of a reading may be elsewhere for a fault that it
// shows to be certain.
const mostWrong = 0.2

// unchecked tells whether a reading hangs on computed joints of which one is too likely to be
// elsewhere.
func (e *Evaluation) unchecked(m model.Measure, ev *report.Evidence) bool {
	if ev == nil {
		return false
	}
	right := 1.0
	if directed(m) {
		for _, who := range m.Points {
			for _, id := range e.shows(who) {
				right *= 1 - e.grossly(id, ev.Frame)
			}
		}
	}
	for _, l := range ev.Lines {
		for _, id := range l.Landmarks {
			right *= 1 - e.grossly(id, ev.Frame)
		}
	}
	return 1-right > mostWrong
}

// farPast is how many times its doubt a reading must lie past the band for a fault that nobody
// but the tool has seen to be certain: joints of a draft that are far off are more often so
// than the doubt of most of them tells. Assumed.
const farPast = 1.6

// clearlyPast tells whether a value lies that far past what is tolerated.
func clearlyPast(cp model.Checkpoint, v uncertainty.Estimate) bool {
	v.Half95 *= farPast
	return cp.Limits().Judge(v) == uncertainty.Missed
}

// drafted tells whether a reading is read from points, none of which a hand has placed.
func (e *Evaluation) drafted(ev *report.Evidence) bool {
	points := false
	if ev != nil {
		for _, l := range ev.Lines {
			for _, role := range l.Landmarks {
				for _, id := range e.Roles.Resolve(role) {
					points = true
					if e.Input.Points[id].SourceAt(ev.Frame) == track.Hand {
						return false
					}
				}
			}
		}
	}
	return points
}

// side is the athlete's own side of a checkpoint, from its first one-sided role.
func (e *Evaluation) side(cp model.Checkpoint) string {
	for _, role := range cp.Measure.Points {
		if directed(cp.Measure) {
			break
		}
		if ids := e.Roles.Resolve(role); len(ids) == 1 && sided(role) {
			side, _, _ := strings.Cut(ids[0], "_")
			return side
		}
	}
	return ""
}

// sided tells whether a role is one side of the athlete, whatever the camera sees.
func sided(role string) bool {
	who, _, _ := strings.Cut(role, "_")
	return !slices.Contains([]string{"near", "far", "mid", "stance", "swing"}, who) && !body.Known(who) && who != role
}

func (e *Evaluation) views(cp model.Checkpoint) []string {
	if len(cp.Views) > 0 {
		return cp.Views
	}
	return []string{e.Model.View}
}

// placed looks up the points of a measure in a frame: their places in turn, the
// scatter of each coordinate, and the line through them.
func (e *Evaluation) placed(m model.Measure, roles body.Roles, frame int, where string) (x, sd []float64, chain report.Polyline, err error) {
	for _, role := range m.Points {
		p, ok := e.Point(roles, role, frame)
		if !ok {
			return nil, nil, chain, Failure{e.label(roles.Resolve(role)[0]) + " is not placed at " + where, "that point"}
		}
		x, sd = append(x, p.At.X, p.At.Y), append(sd, p.Sigma, p.Sigma)
		id := p.Landmarks[0]
		if len(p.Landmarks) > 1 {
			id = role
		}
		px := e.Movement.ToImage(frame, p.At)
		chain.Landmarks, chain.Points = append(chain.Landmarks, id), append(chain.Points, [2]float64{px.X, px.Y})
	}
	return x, sd, chain, nil
}

// frames are the flags of positions.
func (e *Evaluation) frames(ids []string) ([]int, *report.Evidence, error) {
	frames := make([]int, len(ids))
	for i, id := range ids {
		f, ok := e.Flag(id)
		if !ok {
			p, _ := e.Model.Position(id)
			return nil, nil, e.notFlagged(p)
		}
		frames[i] = f
	}
	return frames, &report.Evidence{Frame: frames[0], To: &frames[len(frames)-1], Lines: []report.Polyline{}}, nil
}

// sureByEye is how likely an answer by eye has to be right to be a verdict, as it is asked of a moment
// that was found.
const sureByEye = 0.85

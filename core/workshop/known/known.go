// Package known fills the workshop's inputs from what clips, log and card tell, and holds what a
// question predicted against a later clip. A fact is named by a word; inputs and lines of answers
// carry it (workshop.Input.Fact, workshop.Line.Fact). Units are those of the inputs.
package known

import (
	"math"
	"slices"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/performance"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/core/workshop"
)

// Facts are what one attempt tells: numbers, lists in the order of the steps, and where feet stood.
type Facts struct {
	Values map[string]uncertainty.Estimate `json:"values"`
	Lists  map[string][]float64            `json:"lists,omitempty" required:"false"`
	Path   []workshop.Place                `json:"path,omitempty" required:"false"`
}

// put keeps the surer of two values.
func (f *Facts) put(name string, v uncertainty.Estimate) {
	if math.IsNaN(v.Value) || math.IsInf(v.Value, 0) || math.IsNaN(v.Half95) || v.SD < 0 {
		return
	}
	if had, ok := f.Values[name]; !ok || v.Half95 < had.Half95 {
		f.Values[name] = v
	}
}

// measured are readings by the kind of their measure, with what brings them to the unit of the
// inputs.
var measured = map[string]struct {
	fact  string
	scale float64
}{
	"curve_lean": {"curve-lean", 1}, "to_line": {"plant-way", 1}, "over_bar": {"over-bar", 0.01}, "flown": {"flown", 0.01}, "heels_ahead": {"heels-ahead", 0.01},
	"release_speed": {"release-speed", 1}, "release_angle": {"release-angle", 1}, "release_height": {"release-height", 1}, "attack": {"attack", 1},
	"leaves_speed": {"jump-level", 1}, "leaves_upward": {"jump-upward", 1}, "leaves_angle": {"jump-angle", 1},
	"contact": {"contact", 1}, "force": {"peak-force", 1}, "cadence": {"cadence", 1},
}

// checkpoints are those of shipped models that one number is read from.
var checkpoints = map[string]map[string]struct {
	fact  string
	scale float64
}{
	"sprint-start": {"front_knee_set": {"front-knee", 1}, "rear_knee_set": {"rear-knee", 1}, "speed_3": {"start-speed", 1}},
	"running":      {"uneven_contact": {"uneven", 1}},
	"long-jump":    {"run_speed": {"plant-speed", 1}, "contact": {"takeoff-contact", 1}, "board": {"toe-behind", 0.01}},
	"high-jump":    {"contact": {"takeoff-contact", 1}, "plant_out": {"plant-out", 0.01}},
	"pole-vault":   {"run_speed": {"run-speed", 1}, "foot_under": {"toe-under", 0.01}},
	"javelin":      {"attitude": {"attack", 1}, "speed_kept": {"cross-kept", 1}},
}

// Of is what an attempt's clip tells: in is its input, r the report of the attempt.
func Of(m model.Model, in evaluate.Input, r report.Report) Facts {
	f := Facts{Values: map[string]uncertainty.Estimate{}, Lists: map[string][]float64{}}
	for _, c := range m.Checkpoints {
		v, ok := r.Reading(c.ID)
		if !ok || v.Value == nil || v.Unsure {
			continue
		}
		if k, ok := measured[c.Measure.Kind]; ok {
			f.put(k.fact, v.Value.Scale(k.scale))
		}
		if k, ok := checkpoints[m.ID][c.ID]; ok {
			f.put(k.fact, v.Value.Scale(k.scale))
		}
	}
	if r.Approach != nil {
		f.approach(m.ID, *r.Approach)
	}
	if r.Throw != nil {
		f.throw(*r.Throw)
	}
	f.running(r)
	if m.ID == "sprint-start" {
		f.blocks(m, in)
		for _, p := range r.Positions {
			if p.ID == "to3" && p.Time != nil && in.Clip.CaptureRate > 0 {
				f.put("start-time", uncertainty.Normal(*p.Time, math.Hypot(p.SD, 1/in.Clip.CaptureRate/math.Sqrt(6))))
			}
		}
	}
	return f
}

// approach takes what a run-up on its marked ground tells.
func (f *Facts) approach(event string, a report.Approach) {
	curved := sport.Of(event).Curved
	var steps []float64
	for i, p := range a.Feet {
		back := len(a.Feet) - 1 - i
		if p.Length != nil && back <= curveSteps {
			steps = append(steps, p.Length.Value)
		}
		if curved && p.Before != nil {
			f.Path = append(f.Path, workshop.Place{Foot: string(p.Foot), N: back, X: p.Along.Value + sport.Uprights/2, Y: p.Before.Value})
		}
	}
	if n := float64(len(steps)); n >= 2 {
		var mean, sum float64
		for _, s := range steps {
			mean += s / n
		}
		for _, s := range steps {
			sum += (s - mean) * (s - mean)
		}
		f.put("curve-step", uncertainty.Normal(mean, math.Max(math.Sqrt(sum/(n-1)/n), leastStep)))
	}
	if n := len(a.Feet); n > 0 {
		last := a.Feet[n-1]
		if last.Before != nil {
			name := map[string]string{"high-jump": "plant-out", "long-jump": "toe-behind", "javelin": "block-room"}[event]
			if name != "" {
				f.put(name, *last.Before)
			}
		}
		if curved {
			along := last.Along
			along.Value += sport.Uprights / 2
			f.put("plant-along", along)
		}
		if event == "javelin" {
			f.cross(a.Feet)
		}
	}
	if c := a.Curve; c != nil {
		f.put("curve-radius", c.Radius)
		if c.Speed.Value > 0 {
			f.put("curve-speed", c.Speed)
			f.put("plant-speed", c.Speed)
		}
	}
	if fl := a.Flight; fl != nil {
		f.put("jump-level", fl.Speed)
		f.put("jump-upward", fl.Upward)
		f.put("jump-angle", fl.Angle)
		f.put("jump-height", fl.Height)
		if toe, ok := f.Values["toe-behind"]; ok && event == "long-jump" {
			ahead := uncertainty.Minus(fl.Ahead, toe.Scale(-1))
			f.put("centre-ahead", ahead)
		}
	}
	for _, p := range a.Parts {
		if name := map[string]string{"over": "over-bar", "flown": "flown", "heels": "heels-ahead"}[p.ID]; name != "" {
			f.put(name, p.Value)
		}
	}
}

// curveSteps are the steps from whose lengths that of a curve's step is taken, the least doubt of
// their mean, m. Assumed.
const (
	curveSteps = 4
	leastStep  = 0.03
)

// cross takes lengths and speeds of the steps up to the block, as far back as they are known.
func (f *Facts) cross(feet []report.FootPlace) {
	var lengths, speeds []float64
	for i := len(feet) - 2; i >= 0 && feet[i].Length != nil && feet[i].Speed != nil; i-- {
		lengths, speeds = append(lengths, feet[i].Length.Value), append(speeds, feet[i].Speed.Value)
	}
	if len(lengths) < 2 {
		return
	}
	slices.Reverse(lengths)
	slices.Reverse(speeds)
	f.Lists["cross-lengths"], f.Lists["cross-speeds"] = lengths, speeds
}

func (f *Facts) throw(t report.Throw) {
	if l := t.Release; l != nil {
		f.put("release-speed", l.Speed)
		f.put("release-angle", l.Angle)
		f.put("release-height", l.Height)
	}
	if t.Attitude != nil && t.Attitude.Attack != nil {
		f.put("attack", *t.Attitude.Attack)
	}
	if n := len(t.Turns); n > 0 && len(t.Unseen) == 0 {
		f.put("turns", uncertainty.Estimate{Value: float64(n)})
		last := t.Turns[n-1]
		f.put("ball-radius", last.Radius)
		if last.Pull != nil {
			f.put("pull", *last.Pull)
		}
		if _, ok := f.Values["release-speed"]; !ok && last.Last && last.Speed != nil {
			f.put("release-speed", *last.Speed)
		}
	}
}

// running takes the mean cadence of the steps of a stride.
func (f *Facts) running(r report.Report) {
	var n, mean, variance float64
	for _, s := range r.Steps {
		if s.Cadence != nil {
			n, mean, variance = n+1, mean+s.Cadence.Value, variance+s.Cadence.SD*s.Cadence.SD
		}
	}
	if n >= 2 {
		f.put("cadence", uncertainty.Normal(mean/n, math.Sqrt(variance)/n))
	}
}

// blocks takes the geometry of both legs in the set.
func (f *Facts) blocks(m model.Model, in evaluate.Input) {
	ask := func(pedal string) (thigh, shank, knee, ahead, spacing *uncertainty.Estimate) {
		w, err := evaluate.Blocks(m, in, evaluate.BlockQuestion{Pedal: pedal, Wanted: 90})
		if err != nil {
			return
		}
		return &w.Thigh, &w.Shank, &w.KneeNow, &w.UnderHip, &w.Spacing
	}
	if thigh, shank, knee, ahead, spacing := ask("front"); thigh != nil {
		f.put("thigh", *thigh)
		f.put("shank", *shank)
		f.put("front-knee", *knee)
		f.put("front-ahead", *ahead)
		f.put("spacing", *spacing)
	}
	if thigh, _, knee, ahead, _ := ask("rear"); thigh != nil {
		f.put("rear-knee", *knee)
		f.put("rear-ahead", *ahead)
	}
}

// Join takes what another clip of the same attempt tells: of each number the surer one.
func (f *Facts) Join(o Facts) {
	for name, v := range o.Values {
		f.put(name, v)
	}
	for name, l := range o.Lists {
		if len(l) > len(f.Lists[name]) {
			f.Lists[name] = l
		}
	}
	if len(o.Path) > len(f.Path) {
		f.Path = o.Path
	}
}

// Card is what is known of an athlete without a clip, and of what he throws in an event.
func Card(event string, p body.Person) map[string]uncertainty.Estimate {
	out := map[string]uncertainty.Estimate{}
	put := func(name string, v float64) { out[name] = uncertainty.Estimate{Value: v} }
	if p.Mass > 0 {
		out["body-mass"] = uncertainty.Normal(p.Mass, massKnown)
	}
	if p.Height > 0 {
		out["body-height"] = uncertainty.Normal(p.Height, heightKnown)
	}
	if p.TakeoffLeg == body.Right {
		put("leg", 1)
	} else {
		put("leg", 0)
	}
	if e := sport.Of(event); e.Implement != nil {
		mass := e.Implement.Of(p.Sex, p.Age).Mass
		put("implement-mass", mass)
		if o, ok := workshop.ImplementOption(event, mass); ok {
			put("implement", o)
		}
	}
	return out
}

// What a card knows of a body, as standard deviations: kg and m. Assumed.
const (
	massKnown   = 1.0
	heightKnown = 0.005
)

// Kept is one value of an answer that was kept, held against what a later clip shows.
type Kept struct {
	Fact      string               `json:"fact"`
	Name      string               `json:"name"`
	Unit      string               `json:"unit"`
	Digits    int                  `json:"digits"`
	Predicted uncertainty.Estimate `json:"predicted"`
	Measured  uncertainty.Estimate `json:"measured"`
	Within    bool                 `json:"within" doc:"they differ by no more than their doubts together"`
}

// Check holds the lines of an answer against the facts of a later attempt, and its mark.
func Check(a workshop.Answer, f Facts) (out []Kept) {
	for _, l := range a.Lines {
		v, ok := f.Values[l.Fact]
		if l.Fact == "" || !ok {
			continue
		}
		d := uncertainty.Minus(l.Value, v)
		out = append(out, Kept{Fact: l.Fact, Name: l.Name, Unit: l.Unit, Digits: l.Digits, Predicted: l.Value, Measured: v, Within: math.Abs(d.Value) <= d.Half95})
	}
	return out
}

// Mark is a mark as a fact: a distance or a height as it is measured, or a split of a run.
func Mark(text string) (fact string, v uncertainty.Estimate, ok bool) {
	r, ok := performance.Read(text)
	if !ok {
		return "", v, false
	}
	if r.Unit == "m" {
		return "mark", uncertainty.Normal(r.Value, tapeKnown), true
	}
	fact, ok = map[string]string{"10 m": "split-10", "20 m": "split-20", "30 m": "split-30"}[r.Over]
	return fact, uncertainty.Normal(r.Value, clockKnown), ok
}

// How exactly a tape measures, m, and a timing gate, s; as standard deviations. Common practice,
// no source.
const (
	tapeKnown  = 0.005
	clockKnown = 0.01
)

package evaluate

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/throw"
	"neokinema/core/timebase"
	"neokinema/core/uncertainty"
)

// Several clips show one attempt. Each is read by itself, and what one tells helps the others:
// moments that a coach has flagged in one are known in all that share its time, and a checkpoint is
// read from the clip that may measure it. Clips that do not fit together are not joined, and told.

// Companion is another clip of the attempt: what was read from it alone.
type Companion struct {
	Clip     string            `json:"clip" doc:"id"`
	View     string            `json:"view"`
	Offset   *Offset           `json:"offset,omitempty" required:"false" doc:"absent while nothing brings the clips to the same moment"`
	Problem  string            `json:"problem,omitempty" required:"false" doc:"why nothing is joined with it"`
	Moments  map[string]Moment `json:"moments" doc:"key positions"`
	Readings []report.Reading  `json:"readings"`
	Both     []report.Reading  `json:"both,omitempty" required:"false" doc:"what both clips tell at once, at the frames of the one that is joined"`
}

// Offset is how much later a moment stands on the clock of a companion, s.
type Offset struct {
	Seconds float64  `json:"seconds"`
	SD      float64  `json:"sd"`
	By      []string `json:"by" doc:"key positions that both show, and sound"`
}

// Moment is when a key position was on a clip's own clock, s since its first frame.
type Moment struct {
	At      float64 `json:"at"`
	SD      float64 `json:"sd"`
	Flagged bool    `json:"flagged" doc:"by a coach"`
	Sure    float64 `json:"sure" doc:"0 to 1"`
}

// Whether clips fit. Assumed.
const (
	momentsFit   = 3.5  // scatters that a moment may stand off the offset of the others
	sameReading  = 2.6  // scatters that two readings of one thing may differ
	fewCompared  = 3    // readings that both clips give
	mostDisagree = 0.34 // share of them that may disagree in clips of one attempt
	soundSD      = 0.03 // s: microphones stand some ten metres unlike far from what is heard
	travels      = 0.97 // how sure a moment is that a coach flagged in another clip
)

// Together evaluates the clips of one attempt, each joined with what the others tell.
func Together(m model.Model, ids []string, clips []Input) []report.Report {
	out := make([]report.Report, len(clips))
	for i, in := range Accompanied(m, ids, clips) {
		out[i] = Attempt(m, in)
	}
	return out
}

// Accompanied are the clips of one attempt, each with what the others tell when they are read
// alone.
func Accompanied(m model.Model, ids []string, clips []Input) []Input {
	out := slices.Clone(clips)
	if len(clips) < 2 {
		return out
	}
	alone := make([]report.Report, len(clips))
	for i, in := range clips {
		alone[i] = Attempt(m, in)
	}
	for i := range out {
		for k := range clips {
			if k != i {
				c := companion(m, ids[k], clips[i], alone[i], clips[k], alone[k])
				if c.Problem == "" {
					var err error
					if c.Both, err = fromBoth(m, clips[i], clips[k], heard(clips[i], ids[k])); errors.Is(err, throw.ErrOther) {
						c.Problem = "what both cameras see does not lie in one place: they show different attempts, or one circle is marked wrongly"
					}
				}
				out[i].Companions = append(out[i].Companions, c)
			}
		}
	}
	return out
}

// companion is what another clip, read alone, tells one that was read alone.
func companion(m model.Model, id string, in Input, own report.Report, other Input, its report.Report) Companion {
	c := Companion{Clip: id, View: other.Clip.View, Moments: moments(other, its), Readings: its.Readings}
	mine := moments(in, own)
	var fits bool
	if c.Offset, fits = align(m, mine, c.Moments, heard(in, id)); !fits {
		c.Problem = "the same moments, or sounds, do not stand equally far apart in it: one of the clips has a wrong capture rate or a wrong flag, or they show different attempts"
		return c
	}
	if compared, apart := disagree(m, own.Readings, its.Readings); compared >= fewCompared && float64(len(apart)) > mostDisagree*float64(compared) {
		c.Problem = fmt.Sprintf("%d of %d readings that both give disagree: they may show different attempts", len(apart), compared)
	}
	return c
}

// heard is how much later the same sound stands in another clip; nil when that is not known.
func heard(in Input, other string) *float64 {
	if lag, ok := in.Heard[other]; ok {
		return &lag
	}
	return nil
}

// moments are the key positions of a clip on its own clock; none while its rate is not known.
func moments(in Input, r report.Report) map[string]Moment {
	out := map[string]Moment{}
	clock, err := timebase.New(in.Clip.Stamps, in.Clip.FileRate, in.Clip.CaptureRate)
	if clock = clock.Showing(in.Clip.Pictures); err != nil || !clock.Known() {
		return out
	}
	for _, p := range r.Positions {
		if p.Frame == nil || *p.Frame < 0 || *p.Frame >= clock.Len() || p.Source == "clip" {
			continue
		}
		// A frame is the first at or after the moment.
		gap := 1 / in.Clip.Pictures.Rate(in.Clip.CaptureRate)
		x := Moment{At: clock.At(*p.Frame) - gap/2, SD: math.Hypot(p.SD, gap/math.Sqrt(12)), Sure: p.Confidence}
		if p.Source == "coach" {
			x.Flagged, x.Sure = true, 1
		}
		out[p.ID] = x
	}
	return out
}

// bySound names sound among what brings two clocks together.
const bySound = "sound"

// align brings two clocks together by the moments that both are sure of, and by how much later the
// same sound stands in b; fits is false when these contradict each other. Steps are numbered from the
// first that a clip shows, and one is as good as the next: they count only where something that comes
// once says which is which. Sound that stands against several moments, or one that a coach has flagged
// in both, is of something else.
func align(m model.Model, a, b map[string]Moment, heard *float64) (o *Offset, fits bool) {
	var ids []string
	var d, w []float64
	once := false
	for _, p := range m.Positions {
		x, okA := a[p.ID]
		if y, okB := b[p.ID]; okA && okB && min(x.Sure, y.Sure) >= sureEnough {
			ids = append(ids, p.ID)
			once = once || p.Nth == 0
		}
	}
	if !once {
		ids = nil
	}
	for _, id := range ids {
		d, w = append(d, b[id].At-a[id].At), append(w, 1/(a[id].SD*a[id].SD+b[id].SD*b[id].SD))
	}
	if heard != nil {
		ids, d, w = append(ids, bySound), append(d, *heard), append(w, 1/(soundSD*soundSD))
	}
	if len(d) == 0 {
		return nil, true
	}
	var sum, weights float64
	for i := range d {
		sum, weights = sum+d[i]*w[i], weights+w[i]
	}
	mean := sum / weights
	if flagged := func(id string) bool { return a[id].Flagged && b[id].Flagged }; heard != nil && (len(d) > 2 || slices.ContainsFunc(ids, flagged)) {
		if rest := weights - w[len(w)-1]; math.Abs((sum-*heard*w[len(w)-1])/rest-*heard) > momentsFit*math.Sqrt(soundSD*soundSD+1/rest) {
			return align(m, a, b, nil)
		}
	}
	for i := range d {
		// Against what the others say.
		if rest := weights - w[i]; rest > 0 {
			others := (sum - d[i]*w[i]) / rest
			if math.Abs(d[i]-others) > momentsFit*math.Sqrt(1/w[i]+1/rest) {
				return nil, false
			}
		}
	}
	return &Offset{mean, math.Sqrt(1 / weights), ids}, true
}

// disagree lists the checkpoints in which two clips give different values, of those that both give.
func disagree(m model.Model, a, b []report.Reading) (compared int, apart []string) {
	for _, x := range a {
		for _, y := range b {
			if x.ID != y.ID || !sureReading(x) || !sureReading(y) {
				continue
			}
			cp, _ := m.Checkpoint(x.ID)
			if compared++; !same(cp, x, y) {
				apart = append(apart, x.ID)
			}
		}
	}
	return compared, apart
}

// sureReading tells whether a value may stand against another.
func sureReading(r report.Reading) bool {
	return r.Value != nil && r.Source == "measure" && !r.Unsure && !r.Unchecked
}

// same tells whether two values can be of one thing. Means of steps are of those that a clip
// shows, which may be others.
func same(cp model.Checkpoint, a, b report.Reading) bool {
	d := a.Value.Value - b.Value.Value
	if kinds[cp.Measure.Kind].directions {
		d = math.Remainder(d, 360)
	}
	return math.Abs(d) <= sameReading*math.Hypot(math.Hypot(a.Value.SD, b.Value.SD), math.Hypot(meanScatter(a), meanScatter(b)))
}

// meanScatter is how far a mean of repetitions may be off that of others, by their scatter.
func meanScatter(r report.Reading) float64 {
	n := float64(len(r.Repetitions))
	if n < 2 {
		return 0
	}
	sum := 0.0
	for _, x := range r.Repetitions {
		sum += (x.Value.Value - r.Value.Value) * (x.Value.Value - r.Value.Value)
	}
	return math.Sqrt(sum / (n - 1) / n)
}

// travelled takes over the moments that a coach has flagged in another clip; where somebody has
// flagged them here too, those stand.
func (e *Evaluation) travelled() map[string]foundAt {
	out := map[string]foundAt{}
	for _, c := range e.Input.Companions {
		if c.Offset == nil || c.Problem != "" || !e.Clock.Known() {
			continue
		}
		for id, x := range c.Moments {
			if _, mine := e.Input.Flags[id]; mine || !x.Flagged {
				continue
			}
			at := x.At - c.Offset.Seconds
			frame := 0
			for frame < e.Clock.Len() && e.Clock.At(frame) < at {
				frame++
			}
			if before, ok := out[id]; frame == 0 || frame == e.Clock.Len() || ok && before.sd <= math.Hypot(x.SD, c.Offset.SD)*e.Rate {
				continue
			}
			out[id] = foundAt{frame: frame, sure: travels, sd: math.Hypot(x.SD, c.Offset.SD) * e.Rate}
		}
	}
	return out
}

// flagged is the frame of a position that a coach has flagged, here or in another clip.
func (e *Evaluation) flagged(id string) (int, bool) {
	if f, ok := e.Input.Flags[id]; ok {
		return f, true
	}
	f, ok := e.fromOthers[id]
	return f.frame, ok
}

// takeOver sets the moments of the other clips where this one has its own guess at best.
func (e *Evaluation) takeOver() {
	for id, f := range e.fromOthers {
		if _, there := e.Model.Position(id); there {
			e.found[id] = f
			delete(e.withdrawn, id)
		}
	}
	for _, c := range e.Input.Companions {
		if c.Problem != "" {
			e.report.Problems = append(e.report.Problems, "the clip from the "+viewOf(c)+" is not joined with this one: "+c.Problem)
		}
	}
}

func viewOf(c Companion) string {
	if c.View == "" {
		return "other side"
	}
	return c.View
}

// join reads a checkpoint from the clip that tells it best. Clips that agree are brought together,
// and what each says is listed; where they do not, their values are said and none is judged.
func (e *Evaluation) join(cp model.Checkpoint, own report.Reading) report.Reading {
	type candidate struct {
		report.Reading
		view string
	}
	list := []candidate{}
	for _, id := range cp.Measure.Readings {
		own.Clip = e.readings[id].Clip // what follows from a reading stands where that stands
	}
	if own.Value != nil && own.Source == "measure" {
		list = append(list, candidate{own, e.Input.Clip.View})
	}
	for _, c := range e.Input.Companions {
		i := slices.IndexFunc(c.Readings, func(r report.Reading) bool { return r.ID == cp.ID })
		if i < 0 || c.Problem != "" || c.Readings[i].Value == nil || c.Readings[i].Source != "measure" {
			continue
		}
		r := c.Readings[i]
		r.Clip, r.Also = c.Clip, nil
		list = append(list, candidate{r, viewOf(c)})
	}
	if both := e.both(cp); both != nil {
		for _, x := range list {
			both.Also = append(both.Also, report.Sighting{Clip: x.Clip, View: x.view, Value: *x.Value})
		}
		return *both
	}
	if len(list) == 0 || len(list) == 1 && list[0].Clip == "" {
		return own
	}
	sort.SliceStable(list, func(i, j int) bool {
		a, b := list[i], list[j]
		if x, y := sureReading(a.Reading), sureReading(b.Reading); x != y {
			return x
		}
		return a.Value.SD < b.Value.SD
	})
	best := list[0]
	if len(list) > 1 && sureReading(list[1].Reading) {
		best.Also = append(best.Also, report.Sighting{Clip: best.Clip, View: best.view, Value: *best.Value})
	}
	for _, x := range list[1:] {
		best.Also = append(best.Also, report.Sighting{Clip: x.Clip, View: x.view, Value: *x.Value})
		if sureReading(best.Reading) && sureReading(x.Reading) && !same(cp, best.Reading, x.Reading) {
			var says []string
			for _, y := range list {
				says = append(says, fmt.Sprintf("%.3g ±%.2g %s from the %s", y.Value.Value, y.Value.Half95, cp.Unit, y.view))
			}
			best.Value, best.Verdict, best.Repetitions = nil, uncertainty.Open, nil
			best.Reason = "the clips disagree: " + strings.Join(says, ", ")
			best.Remedy = "a look at its moment and points in both clips"
			return best.Reading
		}
	}
	var agreeing []uncertainty.Estimate
	for _, x := range list {
		if sureReading(x.Reading) {
			agreeing = append(agreeing, *x.Value)
		}
	}
	if len(agreeing) > 1 {
		v := joined(cp, agreeing, len(best.Repetitions) == 0)
		best.Value = &v
		if best.Verdict != uncertainty.None {
			best.Verdict = cp.Judge(v)
		}
	}
	return best.Reading
}

// both is what two clips at once tell of a checkpoint, the surest of them: what one of them alone
// makes of a direction is no second opinion then.
func (e *Evaluation) both(cp model.Checkpoint) (best *report.Reading) {
	for _, c := range e.Input.Companions {
		for _, r := range c.Both {
			if r.ID == cp.ID && c.Problem == "" && sureReading(r) && (best == nil || r.Value.SD < best.Value.SD) {
				best = &r
			}
		}
	}
	return best
}

// joined is one value of several that agree, the surest first: their weighted mean, as wide as they
// stand apart (Birge 1932, Phys. Rev. 40:207) and no narrower than the surest, since clips share athlete,
// scale and the eye that flagged them. Where mean is not asked for the surest stays and is only widened.
func joined(cp model.Checkpoint, list []uncertainty.Estimate, mean bool) uncertainty.Estimate {
	at := func(v uncertainty.Estimate) float64 {
		if kinds[cp.Measure.Kind].directions {
			return list[0].Value + math.Remainder(v.Value-list[0].Value, 360)
		}
		return v.Value
	}
	var sum, weights, square float64
	for _, v := range list {
		w := 1 / math.Max(1e-12, v.SD*v.SD)
		sum, weights = sum+w*at(v), weights+w
	}
	middle := sum / weights
	for _, v := range list {
		square += math.Pow(at(v)-middle, 2) / math.Max(1e-12, v.SD*v.SD)
	}
	birge := math.Max(1, math.Sqrt(square/float64(len(list)-1)))
	if !mean {
		middle = list[0].Value
	}
	return uncertainty.Normal(middle, birge*list[0].SD)
}

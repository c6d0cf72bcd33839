// Package feedback makes what the athlete gets: a page, a PDF, and the numbers
// behind them.
package feedback

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/annotate"
	"neokinema/core/body"
	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

// Page is the content of a feedback page.
type Page struct {
	Attempt  store.Attempt   `json:"attempt"`
	Athlete  store.Athlete   `json:"athlete"`
	Event    string          `json:"event"`
	ClipID   *uuid.UUID      `json:"clip_id,omitempty" required:"false"`
	Stills   []Still         `json:"stills"`
	Keep     []string        `json:"keep"`
	Faults   []Cause         `json:"faults" doc:"accepted findings, first cause first"`
	Advice   []store.Advice  `json:"advice" doc:"main cue, then at most one more"`
	Targets  []Target        `json:"targets" doc:"one for each advice"`
	Effect   *compare.Effect `json:"effect,omitempty" required:"false" doc:"what became of the last cue"`
	LastCue  string          `json:"last_cue"`
	Note     string          `json:"note"`
	Cautions []string        `json:"cautions"`
	Workshop []Reckoning     `json:"workshop" doc:"what was reckoned for this attempt and chosen for the page"`
	Lacks    []string        `json:"lacks" doc:"what the coach should still do before sending it"`
}

// Still is one key position with its lines and numbers.
type Still struct {
	ClipID   uuid.UUID  `json:"clip_id"`
	View     string     `json:"view,omitempty" required:"false" doc:"of the clip, when it is not the page's first"`
	Picture  [2]int     `json:"picture" doc:"width and height of the clip, px"`
	Position string     `json:"position"`
	Frame    int        `json:"frame"`
	Crop     [4]float64 `json:"crop" doc:"x, y, width, height in px of the upright picture"`
	Lines    []Stroke   `json:"lines"`
	Values   []string   `json:"values"`
}

func still(clip store.Clip, position string, frame int) Still {
	return Still{ClipID: clip.ID, Picture: [2]int{clip.Width, clip.Height}, Position: position, Frame: frame, Lines: []Stroke{}, Values: []string{}}
}

// Stroke is drawn into a still; the label belongs to its Vertex.
type Stroke struct {
	At     [][2]float64 `json:"at"`
	Label  string       `json:"label"`
	Vertex int          `json:"vertex"`
	Side   string       `json:"side" doc:"left, right or empty"`
}

// Cause is an accepted finding in words.
type Cause struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Effect string   `json:"effect"`
	Shows  []string `json:"shows" doc:"the numbers that show it"`
	Leads  []string `json:"leads" doc:"names of what follows from it"`
	First  bool     `json:"first"`
}

// Target is what the next clip should show.
type Target struct {
	Name string `json:"name"`
	Now  string `json:"now"`
	Goal string `json:"goal"`
}

// Reckoning is a calculation of the workshop in words.
type Reckoning struct {
	Name    string   `json:"name"`
	Lines   []string `json:"lines"`
	Says    []string `json:"says"`
	Caution string   `json:"caution,omitempty" required:"false"`
}

// What keeps the page on one or two sheets.
const (
	stillsOnPage     = 6
	stillsFromOthers = 2 // of each clip beside the main one
	keepsOnPage      = 6
)

// Build makes the page of an attempt.
func Build(sh workspace.Workspace) Page {
	all := sh.Joined()
	r := all.Report
	p := Page{Attempt: sh.Attempt, Athlete: sh.Athlete, Event: sh.Model.Name, Stills: []Still{}, Keep: []string{}, Faults: []Cause{}, Advice: []store.Advice{},
		Targets: []Target{}, Effect: sh.Effect(r), Note: sh.Work.Note, Cautions: sh.Model.Cautions, Workshop: reckonings(sh.Calculations), Lacks: []string{}}
	if sh.Before != nil {
		p.LastCue = sh.Before.Advice.Words
	}
	if clip, ok := sh.Main(); ok {
		p.ClipID = &clip.ID
		p.Stills = append(seen(sh, all), shown(sh, clip, r)...)
	}
	for _, k := range r.Strengths[:min(len(r.Strengths), keepsOnPage)] {
		cp, _ := sh.Model.Checkpoint(k.Reading)
		reading, _ := r.Reading(k.Reading)
		p.Keep = append(p.Keep, withNumber(k.Text, cp, reading.Value))
	}
	for _, f := range r.Findings {
		if sh.Work.Findings[f.Fault] == "accepted" {
			p.Faults = append(p.Faults, causeOf(sh, r, f))
		}
	}
	// Faults that the tool was not sure of, or did not see, but the coach did.
	for _, f := range sh.Model.Faults {
		if sh.Work.Findings[f.ID] != "accepted" || slices.ContainsFunc(r.Findings, func(x report.Finding) bool { return x.Fault == f.ID }) {
			continue
		}
		own := report.Finding{Fault: f.ID}
		for _, x := range r.Possible {
			if x.Fault == f.ID && x.Certainty == "likely" {
				own = x
			}
		}
		p.Faults = append(p.Faults, causeOf(sh, r, own))
	}
	for _, slot := range []string{"main", "second"} {
		a, ok := sh.Work.Advice[slot]
		if !ok {
			continue
		}
		cp, _ := sh.Model.Checkpoint(a.Target)
		if a.Checkpoint != nil {
			cp = *a.Checkpoint
		}
		t := Target{Name: longName(sh.Model, cp), Now: "not measured", Goal: Goal(cp)}
		if now, ok := r.Reading(cp.ID); ok && now.Value != nil {
			t.Now = Number(*now.Value, cp.Unit)
		}
		p.Advice, p.Targets = append(p.Advice, a), append(p.Targets, t)
	}
	if len(p.Advice) == 0 {
		p.Lacks = append(p.Lacks, "No cue is chosen yet. Accept a finding on the Bench and pick its cue.")
	}
	if len(p.Keep) == 0 {
		p.Lacks = append(p.Lacks, "Nothing to keep is shown yet. Place more points, or write a word of praise in the note.")
	}
	return p
}

// linesOnPage are how many numbers of a calculation the athlete gets.
const linesOnPage = 5

// reckonings are calculations in words; one that is no longer answered is left out.
func reckonings(list []store.Calculation) []Reckoning {
	out := []Reckoning{}
	for _, c := range list {
		a, err := c.Answer()
		if err != nil {
			continue
		}
		r := Reckoning{Name: c.Name, Says: a.Says, Caution: a.Caution, Lines: []string{}}
		for _, l := range a.Lines[:min(len(a.Lines), linesOnPage)] {
			v := Number(l.Value, l.Unit)
			if l.Value.Half95 == 0 {
				v = strings.TrimSpace(written(fmt.Sprintf("%.*f", l.Digits, l.Value.Value)) + " " + l.Unit)
			}
			r.Lines = append(r.Lines, l.Name+": "+v)
		}
		out = append(out, r)
	}
	return out
}

func causeOf(sh workspace.Workspace, r report.Report, f report.Finding) Cause {
	m, _ := sh.Model.Fault(f.Fault)
	out := Cause{ID: f.Fault, Name: m.Name, Effect: m.Effect, First: f.First, Shows: []string{}, Leads: []string{}}
	for _, id := range f.Readings {
		cp, _ := sh.Model.Checkpoint(id)
		if reading, _ := r.Reading(id); reading.Value != nil {
			out.Shows = append(out.Shows, fmt.Sprintf("%s %s (wanted %s)", strings.ToLower(longName(sh.Model, cp)), Number(*reading.Value, cp.Unit), Goal(cp)))
		} else {
			out.Shows = append(out.Shows, strings.ToLower(cp.Name)+": seen by the coach")
		}
	}
	for _, id := range f.Effects {
		l, _ := sh.Model.Fault(id)
		out.Leads = append(out.Leads, l.Name)
	}
	if len(out.Shows) == 0 {
		out.Shows = append(out.Shows, "seen by the coach")
	}
	return out
}

func longName(m model.Model, cp model.Checkpoint) string {
	p, ok := m.Position(cp.Position)
	if !ok || cp.ID == "should" {
		return cp.Name // of all repetitions, or named in full
	}
	return cp.Name + ", " + strings.ToLower(p.Name)
}

func withNumber(says string, cp model.Checkpoint, v *uncertainty.Estimate) string {
	if v == nil {
		return says
	}
	return says + " (" + Number(*v, cp.Unit) + ")"
}

// Number writes a value with its 95 % doubt, no finer than the doubt carries; what is counted
// has none.
func Number(v uncertainty.Estimate, unit string) string {
	if unit != "°" && unit != "" {
		unit = " " + unit
	}
	if v.Half95 == 0 {
		return written(fmt.Sprint(math.Round(100*v.Value)/100)) + unit
	}
	digits := Digits(v)
	return written(fmt.Sprintf("%.*f", digits, v.Value)) + unit + fmt.Sprintf(" ±%.*f", digits, v.Half95)
}

// written sets a proper minus, and none before nothing.
func written(number string) string {
	if strings.Trim(number, "-0.") == "" {
		number = strings.TrimPrefix(number, "-")
	}
	return strings.ReplaceAll(number, "-", "−")
}

// Digits after the point: as many as the doubt carries, up to two.
func Digits(v uncertainty.Estimate) int {
	switch {
	case v.Half95 < 0.1:
		return 2
	case v.Half95 < 1:
		return 1
	}
	return 0
}

// Goal writes a band in words.
func Goal(cp model.Checkpoint) string {
	unit := cp.Unit
	if unit != "" && unit != "°" {
		unit = " " + unit
	}
	b := cp.Band
	f := func(v float64) string { return strings.ReplaceAll(fmt.Sprintf("%g", v), "-", "−") }
	switch {
	case b.Lo != nil && b.Hi != nil:
		return f(*b.Lo) + " to " + f(*b.Hi) + unit
	case b.Lo != nil:
		return "at least " + f(*b.Lo) + unit
	case b.Hi != nil:
		return "at most " + f(*b.Hi) + unit
	}
	if cp.Unit != "" {
		return "no band, reported only"
	}
	return "yes"
}

// showsOnPage is how many of the coach's marks get a still.
const showsOnPage = 4

// reach is how long after a mark was set its still is looked for, s.
const reach = 0.3

// shown are the stills of the coach's marks on the picture: a should-be at its
// frame, a pin or a line at the frame shortly after in which its joint is
// farthest away.
func shown(sh workspace.Workspace, clip store.Clip, r report.Report) []Still {
	work := sh.Work.Clips[clip.ID]
	in := sh.Input(clip)
	_, move := evaluate.Incremental(sh.Model, in, nil)
	keys := slices.Sorted(maps.Keys(work.Annotations))
	sort.SliceStable(keys, func(i, j int) bool { return work.Annotations[keys[i]].Frame < work.Annotations[keys[j]].Frame })
	out := []Still{}
	for _, k := range keys {
		s := work.Annotations[k]
		at := func(f int) annotate.Reading { return annotate.At(sh.Model, in, move, []annotate.Annotation{s}, f)[0] }
		frame, best := s.Frame, at(s.Frame)
		for f := s.Frame; s.Kind != "should" && f <= min(s.Frame+int(reach*max(clip.CaptureRate, clip.FileRate)), len(clip.Stamps)-1); f++ {
			if v := at(f); v.Distance != nil && (best.Distance == nil || v.Distance.Value > best.Distance.Value) {
				frame, best = f, v
			}
		}
		if best.Distance == nil || len(out) == showsOnPage {
			continue
		}
		label := Number(*best.Distance, best.Unit)
		if best.Angle != nil {
			label = Number(*best.Angle, "°") + ", " + label
		}
		title := map[string]string{"pin": "Pinned: ", "line": "Held line: ", "should": "Where it should be: "}[s.Kind] + body.Label(s.Landmark)
		st := still(clip, title, frame)
		st.Values = []string{label + " " + best.Direction}
		if s.Note != "" {
			st.Values = append(st.Values, s.Note)
		}
		for i, line := range best.Lines {
			if len(line) < 2 {
				continue
			}
			stroke := Stroke{At: inside(line, clip), Vertex: 0}
			if i == len(best.Lines)-1 {
				stroke.Label = label
				stroke.Vertex = len(stroke.At) - 1
			}
			st.Lines = append(st.Lines, stroke)
		}
		tall := 0.0
		if r.Scale != nil {
			tall = sh.Athlete.Height / r.Scale.MetresPerPixel.Value
		}
		st.Crop = crop(work.Points, frame, tall, float64(clip.Width), float64(clip.Height))
		out = append(out, st)
	}
	return out
}

// inside cuts the ends of a long line off at the picture's edge.
func inside(line [][2]float64, clip store.Clip) [][2]float64 {
	w, h := float64(clip.Width), float64(clip.Height)
	cut := func(p, q [2]float64) [2]float64 {
		t := 1.0
		for i, to := range [2]float64{w, h} {
			if d := p[i] - q[i]; p[i] < 0 && d != 0 {
				t = math.Min(t, -q[i]/d)
			} else if p[i] > to && d != 0 {
				t = math.Min(t, (to-q[i])/d)
			}
		}
		return [2]float64{q[0] + t*(p[0]-q[0]), q[1] + t*(p[1]-q[1])}
	}
	mid := [2]float64{(line[0][0] + line[1][0]) / 2, (line[0][1] + line[1][1]) / 2}
	if mid[0] < 0 || mid[1] < 0 || mid[0] > w || mid[1] > h {
		return line
	}
	return [][2]float64{cut(line[0], mid), cut(line[1], mid)}
}

// seen are the stills of the attempt: of the main clip, and of others what is read from them.
func seen(sh workspace.Workspace, all workspace.Joined) (out []Still) {
	clips, r := all.Clips, all.Report
	for i := len(clips) - 1; i > 0; i-- {
		id := clips[i].ID.String()
		if slices.ContainsFunc(r.Readings, func(x report.Reading) bool { return x.Clip == id && x.Value != nil }) {
			its := evaluate.Attempt(sh.Model, all.Inputs[i])
			its.Readings = r.Readings // what stands is said, not what this clip alone would say
			list := stills(sh, clips[i], its, id)
			out = append(list[:min(len(list), stillsFromOthers)], out...)
		}
	}
	first := stills(sh, clips[0], r, "")
	return append(first[:min(len(first), stillsOnPage-len(out))], out...)
}

// stills are the key positions of a clip with what is read from it, as readings name it.
func stills(sh workspace.Workspace, clip store.Clip, r report.Report, name string) []Still {
	out := []Still{}
	points := sh.Work.Clips[clip.ID].Points
	for _, pr := range r.Positions {
		if pr.Frame == nil || len(out) == stillsOnPage {
			continue
		}
		pos, _ := sh.Model.Position(pr.ID)
		s := still(clip, pos.Name, *pr.Frame)
		if name != "" {
			s.View = clip.View
		}
		for _, cp := range sh.Model.Checkpoints {
			reading, _ := r.Reading(cp.ID)
			if cp.Position != pr.ID && cp.Position != pos.Group || reading.Value == nil || reading.Clip != name {
				continue
			}
			if cp.Position == pos.Group && pos.Group != "" {
				// Of a repeated position the first one stands for all.
				if reading.Evidence == nil || reading.Evidence.Frame != *pr.Frame {
					continue
				}
			}
			s.Values = append(s.Values, cp.Name+" "+Number(*reading.Value, cp.Unit))
			if reading.Evidence == nil || cp.Measure.Kind == "change" {
				continue
			}
			for _, chain := range reading.Evidence.Lines {
				if len(chain.Points) > 1 {
					s.Lines = append(s.Lines, Stroke{At: chain.Points, Label: Number(*reading.Value, cp.Unit), Vertex: len(chain.Points) / 2, Side: reading.Side})
				}
			}
		}
		if len(s.Lines) == 0 {
			continue
		}
		tall := 0.0
		if r.Scale != nil {
			tall = sh.Athlete.Height / r.Scale.MetresPerPixel.Value
		}
		s.Crop = crop(points, *pr.Frame, tall, float64(clip.Width), float64(clip.Height))
		out = append(out, s)
	}
	return out
}

// crop frames the athlete, 4 to 3, inside the picture: the placed points with
// room around them, and with the lowest point near the bottom at least a
// standing height (tall, px) high, so that few points do not cut off the head.
func crop(points kinematics.Points, frame int, tall, w, h float64) [4]float64 {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, t := range points {
		if p, ok := t.At(frame); ok {
			x0, y0, x1, y1 = math.Min(x0, p.X), math.Min(y0, p.Y), math.Max(x1, p.X), math.Max(y1, p.Y)
		}
	}
	if math.IsInf(x0, 0) {
		return [4]float64{0, 0, w, h}
	}
	ch := math.Max(math.Max((x1-x0)*1.4*3/4, (y1-y0)*1.4), math.Max(tall*1.02, h/4))
	ch = math.Min(ch, math.Min(h, w*3/4))
	cw := ch * 4 / 3
	x := math.Min(math.Max((x0+x1)/2-cw/2, 0), w-cw)
	y := math.Min(math.Max(y1+0.14*ch-ch, 0), h-ch)
	return [4]float64{x, y, cw, ch}
}

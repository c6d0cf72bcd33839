// Package compare holds two attempts against each other: frame by frame, curve by curve, and
// one reading before and after a cue.
package compare

import (
	"math"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
)

// Comparison is two attempts at one event held against each other.
type Comparison struct {
	ReportA     report.Report `json:"report_a"`
	ReportB     report.Report `json:"report_b"`
	Moments     []Moment      `json:"moments" doc:"key positions that both show, in order"`
	Match       []int         `json:"match" doc:"for each frame of the first the frame of the second; -1 where that has none"`
	Mirrored    bool          `json:"mirrored" doc:"the second does everything the other way round"`
	Ghost       [][]float64   `json:"ghost" doc:"for each frame of the first the second's skeleton over it, as x, y, x, y of its limbs in px; empty where it is not known"`
	Differences []Difference  `json:"differences" doc:"larger than the doubt of both, greatest first"`
	Same        int           `json:"same" doc:"readings of both that do not differ by more than their doubt"`
}

// Moment is a key position in both attempts.
type Moment struct {
	Position string `json:"position"`
	Name     string `json:"name"`
	Short    string `json:"short"`
	A        int    `json:"a" doc:"frame"`
	B        int    `json:"b"`
}

// Difference is a reading that differs by more than its doubt.
type Difference struct {
	Reading  string               `json:"reading"`
	Name     string               `json:"name"`
	Where    string               `json:"where" doc:"key position"`
	Unit     string               `json:"unit"`
	A        uncertainty.Estimate `json:"a"`
	B        uncertainty.Estimate `json:"b"`
	Diff     uncertainty.Estimate `json:"diff" doc:"second minus first"`
	Times    float64              `json:"times" doc:"in smallest real differences"`
	FrameA   int                  `json:"frame_a"`
	FrameB   int                  `json:"frame_b"`
	VerdictA uncertainty.Verdict  `json:"verdict_a" enum:"met,missed,open,none"`
	VerdictB uncertainty.Verdict  `json:"verdict_b" enum:"met,missed,open,none"`
}

// Attempts holds two attempts against each other. At is the key position at which
// both run side by side in true time; empty stretches each phase of the second to
// that of the first, so that rhythm and duration come apart.
func Attempts(m model.Model, a, b evaluate.Input, at string) Comparison {
	ra, ma := evaluate.Incremental(m, a, nil)
	rb, mb := evaluate.Incremental(m, b, nil)
	ea, eb := evaluate.Begin(m, a, ma), evaluate.Begin(m, b, mb)
	out := Comparison{ReportA: ra, ReportB: rb, Moments: []Moment{}, Match: []int{}, Ghost: [][]float64{}, Differences: []Difference{},
		Mirrored: mirrored(ea) != mirrored(eb)}
	out.Moments = moments(m.As(a.Variant), ra, rb)
	out.Match = match(out.Moments, ea, eb, at)
	out.differ(m, ra, rb)
	for f, g := range out.Match {
		out.Ghost = append(out.Ghost, ghost(ea, eb, ra, f, g, out.Mirrored))
	}
	return out
}

// moments are the key positions that both reports show, in the order of the first.
func moments(m model.Model, a, b report.Report) []Moment {
	frames := func(r report.Report) map[string]int {
		out := map[string]int{}
		for _, p := range r.Positions {
			if p.Frame != nil {
				out[p.ID] = *p.Frame
			}
		}
		return out
	}
	fa, fb := frames(a), frames(b)
	out := []Moment{}
	for _, p := range m.Positions {
		x, okA := fa[p.ID]
		y, okB := fb[p.ID]
		if okA && okB {
			out = append(out, Moment{p.ID, p.Name, p.Short, x, y})
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].A < out[j].A })
	return out
}

// inOrder keeps moments that both show in the same order: one that is not would turn
// time back; at keeps one alone.
func inOrder(all []Moment, at string) (list []Moment) {
	for _, m := range all {
		if n := len(list); (n == 0 || m.A > list[n-1].A && m.B > list[n-1].B) && (at == "" || m.Position == at) {
			list = append(list, m)
		}
	}
	return list
}

// mirrored tells whether an athlete does everything the other way round than the
// usual one.
func mirrored(e *evaluate.Evaluation) bool {
	switch sport.Of(e.Model.ID).Side {
	case sport.FrontLeg:
		return e.Roles.FrontLeg == body.Right
	case sport.TakeoffLeg:
		return e.Roles.Takeoff == body.Right
	case sport.NoSide:
		return false
	}
	return e.Roles.Throwing == body.Left
}

// match gives each frame of the first attempt its frame of the second.
func match(all []Moment, a, b *evaluate.Evaluation, at string) []int {
	list := inOrder(all, at)
	ratio := b.Rate / a.Rate
	out := make([]int, a.Clock.Len())
	for f := range out {
		out[f] = -1
		if len(list) == 0 {
			continue
		}
		i := sort.Search(len(list), func(i int) bool { return list[i].A > f }) // the first behind f
		var g float64
		switch {
		case i == 0:
			g = float64(list[0].B) + float64(f-list[0].A)*ratio
		case i == len(list):
			g = float64(list[i-1].B) + float64(f-list[i-1].A)*ratio
		default:
			l, r := list[i-1], list[i]
			g = float64(l.B) + float64(f-l.A)*float64(r.B-l.B)/float64(r.A-l.A)
		}
		if n := int(math.Round(g)); n >= 0 && n < b.Clock.Len() {
			out[f] = n
		}
	}
	return out
}

// differ lists what differs by more than its doubt.
func (o *Comparison) differ(m model.Model, a, b report.Report) {
	frame := func(r report.Reading) int {
		if r.Evidence != nil {
			return r.Evidence.Frame
		}
		return 0
	}
	for _, x := range a.Readings {
		y, ok := b.Reading(x.ID)
		cp, known := m.Checkpoint(x.ID)
		if !ok || !known || x.Value == nil || y.Value == nil {
			continue
		}
		d := uncertainty.Minus(*y.Value, *x.Value)
		real := math.Max(uncertainty.SmallestRealDifference(*x.Value, *y.Value), d.Half95)
		if real <= 0 || math.Abs(d.Value) <= real {
			o.Same++
			continue
		}
		where := cp.Position
		for _, p := range m.Positions {
			if p.ID == cp.Position {
				where = p.Name
			}
		}
		if m.Repeat != nil {
			for _, p := range m.Repeat.Positions {
				if p.ID == cp.Position {
					where = p.Name
				}
			}
		}
		o.Differences = append(o.Differences, Difference{x.ID, cp.Name, where, cp.Unit, *x.Value, *y.Value, d, math.Abs(d.Value) / real, frame(x), frame(y), x.Verdict, y.Verdict})
	}
	sort.SliceStable(o.Differences, func(i, j int) bool { return o.Differences[i].Times > o.Differences[j].Times })
}

// limbs are the lines of a ghost.
var limbs = [][2]string{{"mid_shoulder", "mid_hip"}, {"mid_ear", "mid_shoulder"}, {"left_shoulder", "left_elbow"}, {"left_elbow", "left_wrist"}, {"right_shoulder", "right_elbow"}, {"right_elbow", "right_wrist"},
	{"left_hip", "left_knee"}, {"left_knee", "left_ankle"}, {"left_ankle", "left_toe"}, {"right_hip", "right_knee"}, {"right_knee", "right_ankle"}, {"right_ankle", "right_toe"}}

// ghost is the second athlete over the first: scaled to the body, turned to the same
// direction, set on the same standing foot, or else on the hips.
func ghost(a, b *evaluate.Evaluation, ra report.Report, f, g int, mirrored bool) []float64 {
	out := []float64{}
	ta, tb := a.StandingHeight(), b.StandingHeight()
	if g < 0 || ta == 0 || tb == 0 {
		return out
	}
	k := ta / tb // standing heights in px
	swap := func(id string) string {
		if !mirrored {
			return id
		}
		if part, ok := strings.CutPrefix(id, "left_"); ok {
			return "right_" + part
		}
		if part, ok := strings.CutPrefix(id, "right_"); ok {
			return "left_" + part
		}
		return id
	}
	anchor := "mid_hip"
	for _, bar := range ra.Contacts {
		if bar.From <= f && f < bar.To {
			anchor = string(bar.Foot) + "_ankle"
			if bar.Foot == body.Right {
				break
			}
		}
	}
	pa, okA := a.Movement.Where(anchor, f)
	pb, okB := b.Movement.Where(swap(anchor), g)
	if !okA || !okB {
		anchor = "mid_hip"
		pa, okA = a.Movement.Where(anchor, f)
		pb, okB = b.Movement.Where(anchor, g)
	}
	if !okA || !okB {
		return out
	}
	flip := 1.0
	if mirrored && a.Input.Clip.View != "side" {
		flip = -1
	}
	for _, l := range limbs {
		p, ok1 := b.Movement.Where(swap(l[0]), g)
		q, ok2 := b.Movement.Where(swap(l[1]), g)
		if !ok1 || !ok2 {
			continue
		}
		for _, v := range [2]r2.Vec{p, q} {
			d := r2.Scale(k, r2.Sub(v, pb))
			px := a.Movement.ToImage(f, r2.Add(pa, r2.Vec{X: flip * d.X, Y: d.Y}))
			out = append(out, math.Round(10*px.X)/10, math.Round(10*px.Y)/10)
		}
	}
	return out
}

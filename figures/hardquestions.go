package figures

import (
	"cmp"
	"math"
	"slices"
	"sort"

	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/repair"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/simcam/points"
)

// A coach who knows the truth answers what the tool asks, one question after the other,
// until nothing that it says is wrong any more.

// mostAnswers is when he gives up.
const mostAnswers = 40

// answers is how many answers a clip takes; mostAnswers when it is never right.
func (x *hardClip) answers() float64 {
	in := x.input
	in.Flags, in.Points = map[string]int{}, kinematics.Points{}
	for id, t := range x.input.Points {
		in.Points[id] = t.Clone()
	}
	r := x.got
	later := map[string]bool{}
	for n := range mostAnswers {
		if x.agrees(r) {
			return float64(n)
		}
		i := slices.IndexFunc(r.Questions, func(q report.Question) bool { return !later[q.ID] })
		if i < 0 {
			return mostAnswers
		}
		q := r.Questions[i]
		x.answer(&in, q)
		later[q.ID] = true // what an answer does not settle is put off
		r = evaluate.Attempt(x.model, in)
	}
	return mostAnswers
}

// answer gives the true answer.
func (x *hardClip) answer(in *evaluate.Input, q report.Question) {
	if q.Kind == "moment" {
		frame := evaluate.NotThere
		if f, ok := x.nearest(q.Position, q.Frame); ok && !x.takenBy(*in, q.Position, f) {
			frame = f
		}
		in.Flags[q.Position] = frame
		return
	}
	if q.Kind == "circle" {
		in.Ground = points.Circle(x.film.Truth, circleScatter, x.film.Spec.Seed)
		return
	}
	f := x.film.Truth.Frames[q.Frame]
	if q.Kind == "sides" {
		left := slices.MinFunc(q.Options, func(a, b report.Option) int {
			far := func(o report.Option) float64 {
				at := f.Landmarks["left_ankle"].Image
				return math.Hypot(o.X-at[0], o.Y-at[1])
			}
			return cmp.Compare(far(a), far(b))
		})
		for id, change := range repair.Legs(x.model, *in, q.Frame, left.Exchanged).Changes {
			in.Points[id].Apply(change, true)
		}
		return
	}
	at, ok := f.Landmarks[q.Landmark]
	if !ok {
		if at, ok = f.Implement[map[string]string{"ball": "centre"}[q.Landmark]]; !ok {
			return
		}
	}
	if in.Points[q.Landmark] == nil {
		in.Points[q.Landmark] = track.New(len(x.film.Truth.Frames))
	}
	_ = in.Points[q.Landmark].Set(q.Frame, &track.Point{X: at.Image[0], Y: at.Image[1], Source: track.Hand.String(), Confidence: 1}) // the source is one
}

// takenBy tells whether another repetition of a position is flagged at a frame: there is no
// further one then.
func (x *hardClip) takenBy(in evaluate.Input, id string, frame int) bool {
	p, _ := x.model.Position(id)
	for other, f := range in.Flags {
		if o, _ := x.model.Position(other); other != id && f == frame && o.Group != "" && o.Group == p.Group {
			return true
		}
	}
	return false
}

// enough is the share of what the true camera can read that must be read, too: a clip of
// which nothing is said agrees with everything.
const enough = 0.5

// agrees tells whether enough is read, no verdict is the opposite of the true one and no
// certain fault is not there. A verdict whose value lies outside of its doubt but on the
// right side of its band agrees; coverage counts that.
func (x *hardClip) agrees(r report.Report) bool {
	can, read := 0, 0
	for _, want := range x.truth.Readings {
		if want.Value == nil || want.Source == "coach" {
			continue
		}
		can++
		if v, ok := r.Reading(want.ID); ok && v.Value != nil {
			read++
		}
	}
	if float64(read) < enough*float64(can) {
		return false
	}
	decides := func(v uncertainty.Verdict) bool { return v == uncertainty.Met || v == uncertainty.Missed }
	for _, v := range r.Readings {
		want, ok := x.truth.Reading(v.ID)
		if ok && v.Source != "coach" && decides(v.Verdict) && decides(want.Verdict) && v.Verdict != want.Verdict {
			return false
		}
	}
	return !slices.ContainsFunc(r.Findings, func(f report.Finding) bool {
		return f.Certainty == "certain" && !there(x.truth, f.Fault)
	})
}

// questions is the middle number of answers that a clip of the hard set takes.
func (h hardness) questions() float64 {
	list := slices.Clone(h.answers)
	sort.Float64s(list)
	if len(list) == 0 {
		return math.NaN()
	}
	return list[len(list)/2]
}

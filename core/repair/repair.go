// Package repair looks at drafted tracks over time: it exchanges sides that a pose model took
// for each other, and names the points that the coach should look at.
package repair

import (
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/core/track"
)

func sortSuspects(d []Suspect) {
	sort.SliceStable(d, func(i, j int) bool {
		if d[i].Frame != d[j].Frame {
			return d[i].Frame < d[j].Frame
		}
		return d[i].Size > d[j].Size
	})
}

// Repaired is what [Draft] did.
type Repaired struct {
	Changes map[string]*track.Track `json:"changes" doc:"landmark to change"`
	Swapped int                     `json:"swapped" doc:"frames in which limbs changed sides"`
	Lowered int                     `json:"lowered" doc:"points whose confidence was lowered"`
}

// Draft looks at a draft over time. Left and right that a model took for each
// other are exchanged (see sides.go), held to what a hand has set.
// Then points that jump off their path or stretch a limb lose confidence, so that
// smoothing passes over them and the coach is led to them.
func Draft(m model.Model, in evaluate.Input) Repaired {
	if in.Clip.Pictures.Stills() {
		return Repaired{Changes: map[string]*track.Track{}} // nothing goes on from one to the next
	}
	e := evaluate.Begin(m, in, nil)
	was := in.Points
	out := Repaired{}
	in.Points = cloned(was)
	for i := range limbs {
		switch {
		case !armsSwing(m, in) || i > legs:
			n, _ := name(i, m, in, e)
			out.Swapped += n
		case i == legs:
			out.Swapped += nameSwing(m, in, e)
		}
	}
	if sport.Of(m.ID).Circle > 0 {
		for range turnedRounds {
			out.Swapped = 0
			for _, i := range fromHips {
				limbs[i].restore(in.Points, was)
				n, _ := name(i, m, in, e, withBody(i, in.Points, standing(in, e)))
				out.Swapped += n
			}
		}
	}
	for _, d := range Suspects(m, in, nil) {
		if d.Size == 0 {
			continue
		}
		t := in.Points[d.Landmark]
		i := d.Frame - t.From
		t.Confidence[i] = min(t.Confidence[i], 10)
		out.Lowered++
	}
	out.Changes = changes(was, in.Points, false)
	return out
}

// Legs names the legs anew over the whole clip, held to what a coach says of one frame: that
// knees and ankles are named there as they are, or that left is right.
func Legs(m model.Model, in evaluate.Input, frame int, exchanged bool) Repaired {
	e := evaluate.Begin(m, in, nil)
	was := in.Points
	in.Points = cloned(was)
	parts := []string{"knee", "ankle"}
	if exchanged {
		for _, part := range slices.Concat(limbs[legs].parts...) {
			exchange(in.Points["left_"+part], in.Points["right_"+part], frame)
		}
	}
	for _, part := range parts {
		for _, s := range []body.Side{body.Left, body.Right} {
			t := in.Points[string(s)+"_"+part]
			if t == nil {
				continue
			}
			if p, ok := t.At(frame); ok {
				p.Source, p.Confidence = track.Hand.String(), 1
				_ = t.Set(frame, &p) // the source is one, the frame is there
			}
		}
	}
	told := known{func(int, int, r2.Vec) float64 { return 0 }, besideHand}
	swapped := 0
	if !in.Clip.Pictures.Stills() {
		if armsSwing(m, in) {
			swapped, _ = name(legs, m, in, e, told, againstSwing(legs, in.Points, standing(in, e)))
		} else {
			swapped, _ = name(legs, m, in, e, told)
		}
	}
	return Repaired{Changes: changes(was, in.Points, true), Swapped: swapped}
}

// besideHand is what the names of the model are still worth when a coach has named the legs.
const besideHand = 0.1

// name names a limb over the clip, with all that is known of it; see [limb.name].
func name(limb int, m model.Model, in evaluate.Input, e *evaluate.Evaluation, more ...known) (swapped int, cost float64) {
	tall := standing(in, e)
	more = append(more, drawnBack(m, in, limb, e.Rate, tall))
	if limb == legs {
		more = append(more, inBlocks(m, in, e.Rate, tall))
	}
	return limbs[limb].name(in.Points, e.Rate, tall, more)
}

// standing is the athlete's standing height, px; half the picture's while nobody knows it.
func standing(in evaluate.Input, e *evaluate.Evaluation) float64 {
	if tall := e.StandingHeight(); tall > 0 {
		return tall
	}
	return float64(in.Clip.Height) / 2
}

// cloned is a copy of tracks that can be worked on.
func cloned(points kinematics.Points) kinematics.Points {
	out := kinematics.Points{}
	for id, t := range points {
		out[id] = t.Clone()
	}
	return out
}

// exchange exchanges two tracks in a frame.
func exchange(a, b *track.Track, frame int) {
	if a == nil || b == nil {
		return
	}
	forA, forB := track.Swap(a, b, frame, frame)
	a.Apply(forA, true)
	b.Apply(forB, true)
}

// changes is what has become of tracks, by landmark; points of the hand are among it when it
// was a hand that has set them.
func changes(was, is kinematics.Points, hand bool) map[string]*track.Track {
	out := map[string]*track.Track{}
	for id, t := range is {
		change := track.New(t.Len())
		differs := false
		for f := t.From; f < t.End(); f++ {
			p, ok := t.At(f)
			q, had := was[id].At(f)
			if ok && (!had || p != q) && (hand || t.SourceAt(f) != track.Hand) {
				_ = change.Set(f, &p)
				differs = true
			}
		}
		if differs {
			for i, c := range change.Source {
				if c == track.Empty {
					change.Source[i] = track.Keep
				}
			}
			out[id] = change
		}
	}
	return out
}

// Package repair looks at drafted tracks over time: it exchanges sides that a pose model took
// for each other, and names the points that the coach should look at.
package repair

import (
	"sort"

	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
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
	e := evaluate.Begin(m, in, nil)
	tall := e.StandingHeight()
	if tall == 0 {
		tall = float64(in.Clip.Height) / 2
	}
	out := Repaired{Changes: map[string]*track.Track{}}
	points := kinematics.Points{}
	for id, t := range in.Points {
		points[id] = t.Clone()
	}
	for i, l := range limbs {
		more := []known{drawnBack(m, in, i, e.Rate, tall)}
		if i == legs {
			more = append(more, inBlocks(m, in, e.Rate, tall), againstArms(m, in, points, tall))
		}
		out.Swapped += l.name(points, e.Rate, tall, more)
	}
	in.Points = points
	for _, d := range Suspects(m, in, nil) {
		if d.Size == 0 {
			continue
		}
		t := points[d.Landmark]
		i := d.Frame - t.From
		t.Confidence[i] = min(t.Confidence[i], 10)
		out.Lowered++
	}
	for id, t := range points {
		was := e.Input.Points[id]
		change := track.New(t.Len())
		differs := false
		for f := t.From; f < t.End(); f++ {
			p, ok := t.At(f)
			q, had := was.At(f)
			if ok && (!had || p != q) && t.SourceAt(f) != track.Hand {
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
			out.Changes[id] = change
		}
	}
	return out
}

package evaluate

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/signal"
)

// What a foot that stands does, and one that does not yet or no more does not: of a drafted foot
// between few pictures the ends of a contact are held against it.

// How far, standing heights, heel and ankle of a foot go from one picture to the next while it is
// still coming down: to the picture in which it would stand, and on from there. Shaped on the lots
// of the hard set that are there to build on.
const (
	comesDown  = 0.015
	notYetDown = 0.01
)

// settled takes a touchdown of a drafted foot one picture later where heel and ankle both still go
// on: a foot a finger above the ground is where it will stand, but for a draft's scatter.
func (e *Evaluation) settled(list []contact.Contact) {
	if !e.sparse() {
		return
	}
	picture := e.pictures(1)
	for i, c := range list {
		if !c.Before && c.To-c.From > 2*picture && e.goes(c.Foot, c.From-picture, c.From) > comesDown && e.goes(c.Foot, c.From, c.From+picture) > notYetDown {
			list[i].From += picture
		}
	}
}

// goes is how far the less moved of heel and ankle goes between two frames over the ground, standing
// heights; of one that was not seen the other tells.
func (e *Evaluation) goes(foot body.Side, from, to int) float64 {
	least := math.Inf(1)
	for _, part := range []string{"heel", "ankle"} {
		path := e.Movement.Paths[string(foot)+"_"+part]
		a, okA := path.Seen(from)
		b, okB := path.Seen(to)
		if okA && okB {
			b.X -= e.belt * float64(to-from) / e.Rate
			least = math.Min(least, r2.Norm(r2.Sub(b, a))/e.cache.tall)
		}
	}
	if math.IsInf(least, 1) {
		return 0
	}
	return least
}

// What a standing foot does, assumed; shaped on the lots of the hard set that are there to build on.
const (
	outOfPlace = 0.1 // standing heights that toe and heel are both away from where the foot has stood
	stoodFor   = 0.6 // s of a contact about one of its ends by which that place is known
)

// inPlace doubts ends of contacts of drafted feet at which both toe and heel are elsewhere than
// while the foot stood: whoever swings a foot low, or along the sight, hardly shows that it has left.
func (e *Evaluation) inPlace(list []contact.Contact) {
	if !e.sparse() {
		return
	}
	for i, c := range list {
		about := min(c.To-c.From, int(stoodFor*e.Rate))
		last := e.Input.Clip.Pictures.Of(c.To - e.pictures(1)) // in which it stands
		if !c.After && e.away(c.Foot, last, c.To-about, c.To-about/3) > outOfPlace {
			list[i].ToSD = math.Hypot(c.ToSD, e.unsure())
		}
		if !c.Before && e.away(c.Foot, c.From, c.From+about/3, c.From+about) > outOfPlace {
			list[i].FromSD = math.Hypot(c.FromSD, e.unsure())
		}
	}
}

// away is how far the less moved of toe and heel is at a frame from the middle of its places in
// others, standing heights; 0 where one of them is not seen.
func (e *Evaluation) away(foot body.Side, frame, from, to int) float64 {
	least := math.Inf(1)
	for _, part := range []string{"toe", "heel"} {
		path := e.Movement.Paths[string(foot)+"_"+part]
		var xs, ys []float64
		for f := from; f < to; f++ {
			if q, ok := path.Seen(f); ok {
				xs, ys = append(xs, q.X-e.belt*float64(f-frame)/e.Rate), append(ys, q.Y)
			}
		}
		q, ok := path.Seen(frame)
		if !ok || len(xs) == 0 {
			return 0
		}
		least = math.Min(least, math.Hypot(q.X-signal.Median(xs), q.Y-signal.Median(ys))/e.cache.tall)
	}
	return least
}

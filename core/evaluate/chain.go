package evaluate

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/sport"
	"neokinema/core/track"
)

// chained is the second look at the feet, kept while they do not move.
func (e *Evaluation) chained() []contact.Link {
	hangs := e.carried()
	if slices.Equal(e.cache.chainOf, hangs) && e.cache.chainTall == e.cache.tall || e.Input.HoldThrow && e.cache.chain != nil {
		return e.cache.chain
	}
	tall, shows := e.cache.tall, e.Input.Clip.Pictures
	frames := e.ownFrames()
	shoes, feet := e.shoes(frames)
	var ground func(x float64) float64
	if level := contact.Level(feet, tall); level != nil {
		ground = func(x float64) float64 { return level(x*tall) / tall }
	}
	rate := shows.Rate(e.Rate)
	chain := inFile(contact.Chain(shoes, len(frames), rate, ground, e.mass(frames)), frames, e.Rate/rate)
	e.cache.chain, e.cache.chainOf, e.cache.chainTall = chain, hangs, e.cache.tall
	return chain
}

// feetDrafted tells whether the feet are where a model has them: then the first look at each end
// knows little.
func (e *Evaluation) feetDrafted() bool {
	draft, all := 0, 0
	for _, id := range []string{"left_toe", "right_toe"} {
		t := e.Input.Points[id]
		if t == nil {
			continue
		}
		for f := t.From; f < t.End(); f++ {
			switch t.SourceAt(f) {
			case track.Draft, track.Filled:
				draft, all = draft+1, all+1
			case track.Hand, track.Tracked:
				all++
			}
		}
	}
	return 2*draft > all
}

// manyPictures a second show a foot come to rest and roll off by itself. Assumed.
const manyPictures = 90

// shown is how many pictures of their own a second of the clip holds.
func (e *Evaluation) shown() float64 { return e.Input.Clip.Pictures.Rate(e.Rate) }

// pictures is how many frames so many pictures last.
func (e *Evaluation) pictures(n int) int { return n * max(1, int(math.Round(e.Rate/e.shown()))) }

// sparse tells whether feet are where a model has them, and between few pictures.
func (e *Evaluation) sparse() bool { return e.feetDrafted() && e.shown() < manyPictures }

// turningFeet are the contacts of each foot by itself, of an athlete who turns or glides in a
// circle, whose joints are a draft, between few pictures or where the picture was looked at; kept
// while the feet do not move.
func (e *Evaluation) turningFeet() []contact.Link {
	rate := e.shown()
	if sport.Of(e.Model.ID).Circle == 0 || !e.feetDrafted() || rate >= manyPictures && len(e.Input.Contacts) == 0 {
		return nil
	}
	hangs := e.carried()
	if slices.Equal(e.cache.chainOf, hangs) && e.cache.chainTall == e.cache.tall || e.Input.HoldThrow && e.cache.chain != nil {
		return e.cache.chain
	}
	frames := e.ownFrames()
	shoes, _ := e.shoes(frames)
	var links []contact.Link
	for _, s := range shoes {
		links = append(links, contact.Alone(s, len(frames), rate)...)
	}
	e.cache.chain, e.cache.chainOf, e.cache.chainTall = inFile(links, frames, e.Rate/rate), hangs, e.cache.tall
	return e.cache.chain
}

// inFile puts contacts told by own pictures into frames of the file, so many of which show one.
func inFile(links []contact.Link, frames []int, each float64) []contact.Link {
	for i, l := range links {
		links[i].From, links[i].To = frames[min(l.From, len(frames)-1)], frames[min(l.To, len(frames)-1)]
		links[i].FromSD, links[i].ToSD = l.FromSD*each, l.ToSD*each
	}
	return links
}

// footing takes out swings that cannot be: who turns with a hammer or a weight stands on the
// pivot foot until the release, and nobody in a circle is in the air for longer than a moment.
func (e *Evaluation) footing(list []contact.Contact) []contact.Contact {
	if e.swings() {
		end, known := e.released()
		if !known {
			end = e.Clock.Len()
		}
		pivot := e.Roles.Throwing.Other()
		var stand *contact.Contact
		out := list[:0]
		for _, c := range list {
			switch {
			case c.Foot != pivot || c.From >= end:
				out = append(out, c)
			case stand == nil:
				first := c
				stand = &first
			default:
				stand.To, stand.ToSD, stand.After = c.To, c.ToSD, c.After
			}
		}
		if stand != nil {
			out = append(out, *stand)
		}
		return out
	}
	return list
}

// swings tells whether the sweep foot alone swings, turn after turn.
func (e *Evaluation) swings() bool {
	im := sport.Of(e.Model.ID).Implement
	return im != nil && (im.Kind == "hammer" || im.Kind == "weight")
}

// shoes are both feet at some frames, in standing heights, and their paths.
func (e *Evaluation) shoes(frames []int) (shoes [2]contact.Shoe, feet []contact.Foot) {
	tall := e.cache.tall
	for k, s := range []body.Side{body.Left, body.Right} {
		places := func(part string) (out contact.Places) {
			id := string(s) + "_" + part
			path, t := e.Movement.Paths[id], e.Input.Points[id]
			if path == nil || t == nil {
				return out
			}
			out.At, out.Sure = make([]r2.Vec, len(frames)), make([]float64, len(frames))
			for i, f := range frames {
				q, ok := path.Seen(f)
				p, there := t.At(f)
				if !ok || !there {
					continue
				}
				q.X -= e.belt * float64(f) / e.Rate
				out.At[i], out.Sure[i] = r2.Scale(1/tall, q), p.Confidence
			}
			return out
		}
		shoes[k] = contact.Shoe{Side: s, Toe: places("toe"), Heel: places("heel"), Ankle: places("ankle")}
		feet = append(feet, contact.Foot{Side: s, Toe: e.Movement.Paths[string(s)+"_toe"], Heel: e.Movement.Paths[string(s)+"_heel"], Ankle: e.Movement.Paths[string(s)+"_ankle"]})
	}
	return shoes, feet
}

// ownFrames are those that hold a picture of their own.
func (e *Evaluation) ownFrames() []int {
	frames := e.Input.Clip.Pictures.Frames()
	if frames == nil {
		for f := range e.Clock.Len() {
			frames = append(frames, f)
		}
	}
	return frames
}

// weighty is a path and the share of the mass that hangs on it.
type weighty struct {
	path  *kinematics.Path
	share float64
}

// carried lists all that has weight, in a fixed order.
func (e *Evaluation) carried() (list []weighty) {
	weights := body.CentreWeights(e.Input.Athlete.Sex)
	ids := make([]string, 0, len(weights))
	for id := range weights {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	for _, id := range ids {
		list = append(list, weighty{e.Movement.Paths[id], weights[id]})
	}
	return list
}

// leastMassSD is the least scatter of the centre of mass, standing heights: joints that are
// wrong together do not scatter. Assumed.
const leastMassSD = 0.006

// stray is how far a point may be off its smooth path to be seen rightly, its scatter.
const stray = 3.0

// mass is how high the centre of mass is at some frames, of points as they were seen: what
// is smoothed has no edge where a foot lands. Nil without the athlete's height.
func (e *Evaluation) mass(frames []int) *contact.Mass {
	if e.Input.Athlete.Height <= 0 {
		return nil
	}
	list := e.carried()
	out := &contact.Mass{Up: make([]float64, len(frames)), Gravity: body.Gravity / e.Input.Athlete.Height}
	var noise float64
	for _, w := range list {
		if w.path != nil {
			noise += w.share * w.share * w.path.Noise * w.path.Noise
		}
	}
	out.SD = math.Max(leastMassSD, 1.5*math.Sqrt(noise)/e.cache.tall)
	for i, f := range frames {
		var up, sum float64
		for _, w := range list {
			q, ok := w.path.Where(f)
			if !ok {
				continue
			}
			if raw, seen := w.path.Seen(f); seen && r2.Norm(r2.Sub(raw, q)) < stray*w.path.Noise {
				q = raw
			}
			up, sum = up+w.share*q.Y, sum+w.share
		}
		out.Up[i] = math.NaN()
		if sum > 0.99 {
			out.Up[i] = up / sum / e.cache.tall
		}
	}
	return out
}

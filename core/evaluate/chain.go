package evaluate

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
)

// chained is the second look at the feet, kept while they do not move.
func (e *Evaluation) chained() []contact.Link {
	hangs := e.carried()
	if slices.Equal(e.cache.chainOf, hangs) && e.cache.chainTall == e.cache.tall || e.Input.HoldThrow && e.cache.chain != nil {
		return e.cache.chain
	}
	tall, shows := e.cache.tall, e.Input.Clip.Pictures
	frames := e.ownFrames()
	var shoes [2]contact.Shoe
	var feet []contact.Foot
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
	var ground func(x float64) float64
	if level := contact.Level(feet, tall); level != nil {
		ground = func(x float64) float64 { return level(x*tall) / tall }
	}
	chain := contact.Chain(shoes, len(frames), shows.Rate(e.Rate), ground, e.mass(frames))
	apart := e.Rate / shows.Rate(e.Rate)
	for i, l := range chain {
		chain[i].From, chain[i].To = frames[min(l.From, len(frames)-1)], frames[min(l.To, len(frames)-1)]
		chain[i].FromSD, chain[i].ToSD = l.FromSD*apart, l.ToSD*apart
	}
	e.cache.chain, e.cache.chainOf, e.cache.chainTall = chain, hangs, e.cache.tall
	return chain
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

package evaluate

import (
	"math"
	"slices"
	"sort"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/signal"
	"neokinema/core/sport"
)

// What feet do one after the other in a run, a start or a turn. Contacts that contradict it are
// doubted: nobody knows which of them is wrong.

// The rhythm of a run: steps are no quicker than this, s, and differ by no more than such a
// share from the middle one; so do swings of a turn. Assumed.
const (
	quickestStep = 0.16
	unevenStep   = 0.6
	unevenSwing  = 0.6
)

// even doubts contacts of a run that come out of its rhythm: of feet that are taken for each
// other, or one of which was not seen, nobody knows which. A jump ends the run.
func (e *Evaluation) even(list []contact.Contact) {
	var steps []float64
	for i := 1; i < len(list) && !e.leaps(list[i-1], list[i]); i++ {
		steps = append(steps, float64(list[i].From-list[i-1].From)/e.Rate)
	}
	if len(steps) < 2 {
		return
	}
	sorted := slices.Clone(steps)
	sort.Float64s(sorted)
	usual := sorted[len(sorted)/2]
	for i, s := range steps {
		a, b := &list[i], &list[i+1]
		if a.Before || b.After || a.Foot != b.Foot && s > quickestStep && s > unevenStep*usual && s < usual/unevenStep {
			continue
		}
		for _, c := range []*contact.Contact{a, b} {
			c.FromSD, c.ToSD = math.Hypot(c.FromSD, e.unsure()), math.Hypot(c.ToSD, e.unsure())
		}
	}
}

// evenSwings doubts the ends of swings of the sweep foot that are much shorter or longer than the
// one before and the one after.
func (e *Evaluation) evenSwings(list []contact.Contact) []contact.Contact {
	if !e.swings() {
		return list
	}
	sweep := e.Roles.Throwing
	var ends []*contact.Contact
	for i := range list {
		if list[i].Foot == sweep {
			ends = append(ends, &list[i])
		}
	}
	var times []float64
	for i := 1; i < len(ends); i++ {
		times = append(times, float64(ends[i].From-ends[i-1].To))
	}
	if len(times) < 3 {
		return list
	}
	usual := signal.Median(slices.Clone(times))
	for i, d := range times {
		if d < unevenSwing*usual || d > usual/unevenSwing {
			ends[i].ToSD, ends[i+1].FromSD = math.Hypot(ends[i].ToSD, e.unsure()), math.Hypot(ends[i+1].FromSD, e.unsure())
		}
	}
	return list
}

// firstLift doubts the lift with which a glide or a turn out of the back of the circle begins: the
// foot is swung low and along the sight, and a draft leaves it standing for up to half a second.
func (e *Evaluation) firstLift(list []contact.Contact) {
	if e.swings() {
		return
	}
	first := -1
	for i, c := range list {
		if c.Before && !c.After && (first < 0 || c.To < list[first].To) {
			first = i
		}
	}
	if first >= 0 {
		list[first].ToSD = math.Hypot(list[first].ToSD, e.unsure())
	}
}

// briefly is the time, s, for which a foot must be seen to stand for its lift to be told. Assumed;
// shaped on the half of the hard set that is there to build on.
const briefly = 0.2

// leaving doubts lifts of drafted feet that a draft tells badly: of a foot that stood already
// when the clip began and is hardly seen to stand, and of one whose athlete hangs on a pole
// and is lifted rather than leaves.
func (e *Evaluation) leaving(list []contact.Contact) {
	if !e.sparse() {
		return
	}
	for i, c := range list {
		last := i+1 == len(list) || float64(list[i+1].From-c.To) > longestFlight*e.Rate
		if c.Before && float64(c.To) < briefly*e.Rate && !sport.Of(e.Model.ID).Blocks || last && sport.Of(e.Model.ID).Pole() {
			list[i].ToSD = math.Hypot(c.ToSD, e.unsure())
		}
	}
}

// What a start does: the front foot pushes alone for at least so long, s, some half of the push
// being its own, and flies for so long before the first step. Common practice, no source.
const (
	leastSingle = 0.09
	leastFlight = 0.03
)

// outOfBlocks doubts contacts of a start that cannot be as they seem. A front foot that leaves
// with the rear one: its heel rises long before its toe goes. A first step without a flight
// before it. All of them, where the front foot makes the first step: one was not seen, or the
// legs are taken for each other.
func (e *Evaluation) outOfBlocks(list []contact.Contact) {
	if !sport.Of(e.Model.ID).Blocks {
		return
	}
	doubt := func(sd *float64) { *sd = math.Hypot(*sd, e.unsure()) }
	var front, rear, step *contact.Contact
	for i, c := range list {
		switch {
		case !c.Before && (step == nil || c.From < step.From):
			step = &list[i]
		case !c.Before || c.After:
		case c.Foot == e.Input.Athlete.FrontLeg:
			front = &list[i]
		default:
			rear = &list[i]
		}
	}
	if front != nil && rear != nil && float64(front.To-rear.To) < leastSingle*e.Rate {
		doubt(&front.ToSD)
	}
	if step != nil && front != nil && float64(step.From-front.To) < leastFlight*e.Rate {
		doubt(&step.FromSD)
	}
	if step != nil && step.Foot == e.Input.Athlete.FrontLeg {
		for i := range list {
			doubt(&list[i].FromSD)
			doubt(&list[i].ToSD)
		}
	}
}

// tooSoon tells whether the front foot would leave its block at a frame that is hardly later than
// the one in which the rear foot leaves: of two looks the other is right.
func (e *Evaluation) tooSoon(links []contact.Link, foot body.Side, frame int) bool {
	if !sport.Of(e.Model.ID).Blocks || foot != e.Input.Athlete.FrontLeg {
		return false
	}
	return slices.ContainsFunc(links, func(l contact.Link) bool {
		return l.Foot != foot && l.Before && !l.After && float64(frame-l.To) < leastSingle*e.Rate
	})
}

// leaps tells whether the time between two contacts may be the flight of a jump.
func (e *Evaluation) leaps(a, b contact.Contact) bool {
	return sport.Of(e.Model.ID).Change == sport.Jump && float64(b.From-a.To) > shortestJump*e.Rate
}

// fastRun is the speed of the hips, standing heights a second, from which on no foot comes
// down before the other has left; longestBoth is what may pass for scatter, s. Assumed.
const (
	fastRun     = 1.2
	longestBoth = 0.04
)

// alternate doubts contacts that say that a runner has both feet down: of the one that ends
// and the one that begins one is wrong.
func (e *Evaluation) alternate(list []contact.Contact) []contact.Contact {
	for i := range list {
		for j := range list {
			a, b := &list[i], &list[j]
			if a.Foot == b.Foot || a.From > b.From || a.From == b.From && i >= j || b.From >= a.To {
				continue
			}
			both := min(a.To, b.To) - b.From
			if e.onward(b.From) < fastRun*e.cache.tall || float64(both) < longestBoth*e.Rate {
				continue
			}
			a.ToSD, b.FromSD = math.Hypot(a.ToSD, float64(both)), math.Hypot(b.FromSD, float64(both))
			if b.To < a.To {
				b.ToSD = math.Hypot(b.ToSD, float64(both))
			}
		}
	}
	return list
}

// onward is the speed of the hips over the ground at a frame, px/s; 0 where nobody knows.
func (e *Evaluation) onward(frame int) float64 {
	var sum, n float64
	for _, id := range []string{"left_hip", "right_hip"} {
		if v, ok := e.Movement.Paths[id].Velocity(frame); ok {
			sum, n = sum+v.X-e.belt, n+1
		}
	}
	return math.Abs(sum) / math.Max(1, n)
}

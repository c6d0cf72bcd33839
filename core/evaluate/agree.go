package evaluate

import (
	"math"
	"slices"
	"sort"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/signal"
	"neokinema/core/sport"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// What is found must fit together: a contact that two looks agree on, positions in the
// order of the model. What does not fit is withdrawn and asked for, never judged.

// How likely a moment must be for anything to be read at it, or for a foot's bar to begin or end
// there, which shows its doubt. Where a model placed the feet between few pictures it errs grossly
// more often than it seems: then it takes more.
const (
	leastSure    = 0.6
	leastDrafted = 0.85
)

// Doubt of moments that one look alone tells, and what two looks may differ by. Assumed;
// shaped on the half of the hard set that is there to build on.
const (
	aloneSD        = 0.02  // s
	alonePictures  = 1.7   // at least
	bothPictures   = 1.0   // where two looks agree
	leastAlone     = 0.9   // likelihood from which on the second look is believed alone
	unsureSD       = 0.06  // s, of what is not to be stated
	unsurePictures = 2.5   // at least
	agreeing       = 0.025 // s between the looks that are no disagreement
	contradicts    = 2.0   // standard deviations that two looks may be apart
	poorScatter    = 0.008 // of feet at which both looks are worth the same, standing heights
)

// weighed holds contacts against a second look at both feet together. In runs that look
// says which contacts there are; where both place an end alike it is taken from the first,
// which knows single frames; the farther they are apart the less sure it is.
func (e *Evaluation) weighed(list []contact.Contact) []contact.Contact {
	if !e.runs() {
		if links := e.turningFeet(); len(links) > 0 {
			return e.footing(apart(e.inTurn(links, list)))
		}
		// Feet that turn where they stand are told by their looks alone; the more their
		// points scatter, the later a slow lift shows.
		sd := (e.scatter()/slowLift + smallFeet*math.Max(0, clearHeight/e.cache.tall-1)) * e.Rate
		if pictures := e.Input.Clip.Pictures.Rate(e.Rate); pictures < fewPictures {
			sd = math.Max(sd, e.unsure())
		}
		for i, c := range list {
			more := sd
			if e.grossly(string(c.Foot)+"_toe", (c.From+c.To)/2) > 0 {
				more = math.Hypot(sd, circleSD*e.Rate)
			}
			list[i].FromSD, list[i].ToSD = math.Hypot(c.FromSD, more), math.Hypot(c.ToSD, more)
		}
		return apart(list)
	}
	links := e.chained()
	if len(links) == 0 {
		return list
	}
	out := e.heldAgainst(links, list)
	out = e.alternate(apart(out))
	e.even(out)
	e.outOfBlocks(out)
	e.leaving(out)
	least := smallStep * math.Max(1, clearHeight/e.cache.tall) * e.Rate
	if e.feetDrafted() {
		least = math.Max(least, math.Min(e.scatter(), mostScatter)/quickLift*e.Rate)
	}
	for i := range out {
		out[i].FromSD, out[i].ToSD = math.Max(out[i].FromSD, least), math.Max(out[i].ToSD, least)
	}
	return out
}

// heldAgainst takes the contacts of the second look, each with what the first says of it.
func (e *Evaluation) heldAgainst(links []contact.Link, list []contact.Contact) []contact.Contact {
	var out []contact.Contact
	for _, l := range links {
		b, looked := within(list, l)
		c := contact.Contact{Foot: l.Foot, From: l.From, To: l.To, FromSD: e.alone(l.FromSD, l.FromAt), ToSD: e.alone(l.ToSD, l.ToAt), Before: l.Before, After: l.After, Confidence: l.There}
		if l.Before {
			c.ToSD = math.Max(c.ToSD, e.unsure()) // a foot on a pedal is no foot on the ground
		}
		if looked {
			c.Before, c.After = l.Before && b.Before, l.After && b.After
			if !b.Before {
				c.From, c.FromSD = e.agreed(l.From, c.FromSD, b.From, b.FromSD)
			}
			switch {
			case b.After:
			case e.tooSoon(links, l.Foot, l.To) && !e.tooSoon(links, l.Foot, b.To):
				c.To, c.ToSD = b.To, e.alone(b.ToSD, 1)
			default:
				c.To, c.ToSD = e.agreed(l.To, c.ToSD, b.To, b.ToSD)
			}
		}
		if c.To > c.From {
			out = append(out, c)
		}
	}
	return out
}

// inTurn takes the contacts of each foot by itself, the less sure the farther the first look puts
// their ends from there. Other feet than the one that swings turn after turn seldom leave the
// ground: both looks must see it.
func (e *Evaluation) inTurn(links []contact.Link, list []contact.Contact) (out []contact.Contact) {
	for _, l := range links {
		b, looked := within(list, l)
		doubt := func(own, other, least float64, seen bool) float64 {
			off := math.Abs(own - other)
			switch {
			case seen && (e.swings() || off <= seenTwice*e.Rate):
				least = math.Hypot(least, off/2)
			case !e.swings():
				least = math.Hypot(least, e.unsure())
			}
			return least
		}
		on, off := feetSD, feetSD
		if e.swings() {
			on, off = turnSD, liftSD
			if !l.After {
				l.To -= int(math.Round(seenLate * e.Rate))
			}
		}
		c := contact.Contact{Foot: l.Foot, From: l.From, To: l.To, Before: l.Before, After: l.After, Confidence: l.There}
		if !l.Before {
			c.FromSD = doubt(float64(l.From), float64(b.From), math.Hypot(l.FromSD, on*e.Rate), looked && !b.Before)
		}
		if !l.After {
			c.ToSD = doubt(float64(l.To), float64(b.To), math.Hypot(l.ToSD, off*e.Rate), looked && !b.After)
		}
		if c.To > c.From {
			out = append(out, c)
		}
	}
	return e.evenSwings(out)
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

// within is the look that lies in a contact of the second one; of several, a foot that was
// seen to shift where it stands, all of them as one.
func within(list []contact.Contact, l contact.Link) (out contact.Contact, ok bool) {
	for _, c := range list {
		n := min(c.To, l.To) - max(c.From, l.From)
		switch {
		case c.Foot != l.Foot || n <= 0:
		case !ok:
			out, ok = c, true
		case 2*n > c.To-c.From && c.To > out.To && 2*(min(out.To, l.To)-max(out.From, l.From)) > out.To-out.From:
			out.To, out.ToSD, out.After = c.To, c.ToSD, c.After
		case n > min(out.To, l.To)-max(out.From, l.From):
			out = c
		}
	}
	return out, ok
}

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

// briefly is the time, s, for which a foot must be seen to stand for its lift to be told. Assumed;
// shaped on the half of the hard set that is there to build on.
const briefly = 0.2

// leaving doubts lifts of drafted feet that a draft tells badly: of a foot that stood already
// when the clip began and is hardly seen to stand, and of one whose athlete hangs on a pole
// and is lifted rather than leaves.
func (e *Evaluation) leaving(list []contact.Contact) {
	if !e.feetDrafted() || e.Input.Clip.Pictures.Rate(e.Rate) >= manyPictures {
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

// The rhythm of a run: steps are no quicker than this, s, and differ by no more than such a
// share from the middle one. smallStep is what the moments of an athlete who is as high as
// clearHeight are off at least, s. Assumed.
const (
	quickestStep = 0.16
	unevenStep   = 0.6
	smallStep    = 0.005
	quickLift    = 0.5    // how fast a foot of a draft comes and leaves, standing heights a second, and how
	mostScatter  = 0.0095 // far its points scatter at most beside those that are simply wrong
)

// unsure is the doubt, frames, of what is not to be stated.
func (e *Evaluation) unsure() float64 {
	return math.Max(unsureSD, unsurePictures/e.Input.Clip.Pictures.Rate(e.Rate)) * e.Rate
}

// alone is the doubt, frames, of a moment that the second look alone tells, at being so
// likely.
func (e *Evaluation) alone(sd, at float64) float64 {
	if at < leastAlone {
		return math.Hypot(sd, e.unsure())
	}
	return math.Hypot(sd, math.Max(aloneSD, alonePictures/e.Input.Clip.Pictures.Rate(e.Rate))*e.Rate)
}

// agreed is a moment that two looks have placed, and its doubt, frames. Where points hardly
// scatter at many pictures a second the first knows better, where they do it may be misled.
// Between few pictures nobody sees a scatter, and the second look knows better.
func (e *Evaluation) agreed(chain int, chainSD float64, look int, lookSD float64) (int, float64) {
	off := math.Abs(float64(chain - look))
	shown := e.Input.Clip.Pictures.Rate(e.Rate)
	if shown < fewPictures {
		picture := e.Rate / shown
		if off <= picture {
			return chain, math.Min(chainSD, math.Max(bothPictures*picture, aloneSD*e.Rate))
		}
		return chain, math.Hypot(chainSD, off/2)
	}
	if off > contradicts*math.Hypot(chainSD, lookSD) {
		lookSD = math.Max(lookSD, off/contradicts) // one of the two is mistaken
	}
	off = math.Max(0, off-math.Max(1, agreeing*e.Rate))
	poor := math.Min(1, math.Pow(e.scatter()/poorScatter, 2))
	if off*poor <= math.Max(0.5, agreeing*e.Rate) {
		return look, math.Hypot(lookSD, off*poor)
	}
	return chain, math.Max(math.Hypot(chainSD, off/1.5), e.unsure())
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
			if v, ok := e.Movement.Paths["left_hip"].Velocity(b.From); !ok || math.Abs(v.X-e.belt) < fastRun*e.cache.tall || float64(both) < longestBoth*e.Rate {
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

// How fast a foot leaves the ground in a turn, standing heights a second; and how much
// later that shows of an athlete half as large as this, px. Assumed; shaped on the half of
// the hard set that is there to build on.
const (
	slowLift    = 0.3
	clearHeight = 400
	smallFeet   = 0.05  // s
	circleSD    = 0.02  // s, of feet that turn and whose points were computed
	seenTwice   = 0.07  // s between two looks that see the same
	seenLate    = 0.02  // s after which a foot that leaves from rest is seen to: by then it has gone a hundredth of a height
	unevenSwing = 0.6   // share of the middle one's time
	fewPictures = 45    // a second: too few to see a foot lift in a turn
	turnSD      = 0.012 // s, of a moment at which a sweep foot by itself comes down, beside what its places leave
	liftSD      = 0.02  // s, the same of one at which it leaves
	feetSD      = 0.03  // s, of both of any other foot in a circle
)

// runs tells whether feet come down and leave as in a run.
func (e *Evaluation) runs() bool {
	return sport.Of(e.Model.ID).Circle == 0 && e.Input.Clip.View != "back" && e.Input.Clip.View != "front"
}

// scatter is that of the feet's points about their smooth paths, standing heights.
func (e *Evaluation) scatter() float64 {
	worst := 0.0
	for _, s := range []body.Side{body.Left, body.Right} {
		if p := e.Movement.Paths[string(s)+"_ankle"]; p != nil {
			worst = math.Max(worst, p.Noise)
		}
	}
	return worst / e.cache.tall
}

// apart keeps of contacts of one foot that overlap the longer one: a foot is down once.
func apart(list []contact.Contact) (out []contact.Contact) {
	sort.SliceStable(list, func(i, j int) bool { return list[i].From < list[j].From })
	for _, c := range list {
		var b *contact.Contact
		for i := range out {
			if out[i].Foot == c.Foot && c.From < out[i].To {
				b = &out[i]
			}
		}
		if b == nil {
			out = append(out, c)
			continue
		}
		if c.To-c.From > b.To-b.From {
			*b = c
		}
	}
	return out
}

// agree withdraws found positions that are not sure enough, and of the others those that
// contradict the order of the model: what is left is the surest that fits together.
func (e *Evaluation) agree() {
	e.withdrawn = map[string]foundAt{}
	type item struct {
		id     string
		frame  int
		weight float64
		fixed  bool
	}
	var chain []item
	least := e.least()
	for _, p := range e.Model.Positions {
		if f, ok := e.Input.Flags[p.ID]; ok {
			if f >= 0 && f < e.Clock.Len() && !p.Optional {
				chain = append(chain, item{p.ID, f, 100, true})
			}
			continue
		}
		f, ok := e.found[p.ID]
		if !ok {
			continue
		}
		if f.sure < least {
			e.withdraw(p.ID)
			continue
		}
		s := math.Min(f.sure, 0.999)
		chain = append(chain, item{p.ID, f.frame, math.Log(s/(1-s)) + 0.5, false})
	}
	// The heaviest list that does not go back in time.
	best, from := make([]float64, len(chain)), make([]int, len(chain))
	last := -1
	for i, c := range chain {
		best[i], from[i] = c.weight, -1
		for j := range i {
			if chain[j].frame <= c.frame && best[j]+c.weight > best[i] {
				best[i], from[i] = best[j]+c.weight, j
			}
		}
		if last < 0 || best[i] > best[last] {
			last = i
		}
	}
	kept := map[string]bool{}
	for i := last; i >= 0; i = from[i] {
		kept[chain[i].id] = true
	}
	for _, c := range chain {
		if !kept[c.id] && !c.fixed {
			e.withdraw(c.id)
		}
	}
}

// least is how likely a moment must be to be stated.
func (e *Evaluation) least() float64 {
	if e.feetDrafted() && e.Input.Clip.Pictures.Rate(e.Rate) < manyPictures {
		return leastDrafted
	}
	return leastSure
}

func (e *Evaluation) withdraw(id string) {
	e.withdrawn[id] = e.found[id]
	delete(e.found, id)
}

// notFlagged is why nothing is read at a position.
func (e *Evaluation) notFlagged(p model.Position) Failure {
	if _, found := e.withdrawn[p.ID]; found {
		return Failure{"“" + p.Name + "” was found, but not surely enough, or it does not fit the others", "a flag at that frame"}
	}
	return Failure{"“" + p.Name + "” is not flagged", "a flag at that frame"}
}

// momentSD is the standard deviation of a position's moment, s, beside that of any frame;
// nothing of one that the coach has flagged.
func (e *Evaluation) momentSD(id string) float64 {
	if _, mine := e.Input.Flags[id]; mine {
		return 0
	}
	return e.found[id].sd / e.Rate
}

// between widens a time by the doubt of the moments between which it lies.
func between(v uncertainty.Estimate, sds ...float64) uncertainty.Estimate {
	sum := 0.0
	for _, s := range sds {
		sum += s * s
	}
	if sum == 0 {
		return v
	}
	return uncertainty.Normal(v.Value, math.Sqrt(v.SD*v.SD+sum))
}

// aboutMoment reads a measure at its moment. What a picture is the first to show has happened
// evenly anywhere between that picture and the one before; and a moment that was found is off
// by its doubt. By what the reading is a moment's doubt earlier and later it gets wider.
func (q *query) aboutMoment(k kind, v uncertainty.Estimate) uncertainty.Estimate {
	sd := q.found[q.position.ID].sd
	if _, mine := q.Input.Flags[q.position.ID]; mine {
		sd = 0
	}
	if q.stills {
		return v // it is what the still shows
	}
	picture := 0 // frames between the picture and the one before
	if firstShown(q.position) {
		picture = max(1, int(math.Round(q.Rate/q.Input.Clip.Pictures.Rate(q.Rate))))
	}
	if sd < leastMoment && picture == 0 {
		return v
	}
	x, psd, ev, frame := q.x, q.sd, q.ev, q.frame
	defer func() { q.x, q.sd, q.ev, q.frame = x, psd, ev, frame }()
	// By how much the reading differs in another frame.
	other := func(f int) (float64, bool) {
		q.frame, q.ev = f, &report.Evidence{Frame: f}
		if k.scope == placed {
			places, sds, chain, err := q.placed(q.m, q.roles, f, q.position.Name)
			if err != nil {
				return 0, false
			}
			q.x, q.sd, q.ev.Lines = places, sds, []report.Polyline{chain}
		}
		got, err := k.read(q)
		by := got.Value - v.Value
		if k.directions {
			by = math.Remainder(by, 360)
		}
		return by, err == nil && !math.IsNaN(by)
	}
	value, step := v.Value, 0.0
	if sd >= leastMoment {
		d := max(1, int(math.Round(sd)))
		before, ok1 := other(frame - d)
		after, ok2 := other(frame + d)
		switch share := sd / float64(d); {
		case ok1 && ok2:
			step = math.Max(math.Abs(after-before)/2, math.Abs(after+before)/2) * share
		case ok1:
			step = math.Abs(before) * share
		case ok2:
			step = math.Abs(after) * share
		}
	}
	if picture > 0 {
		by, ok := other(frame - picture)
		switch {
		case !ok:
		case q.placedByHand(frame) > q.placedByHand(frame-picture):
			step = math.Hypot(step, by/math.Sqrt(3)) // too different to be brought together
		default:
			value += by / 2
			step = math.Hypot(step, by/math.Sqrt(12))
		}
	}
	if step == 0 {
		return v
	}
	return uncertainty.Normal(value, math.Hypot(v.SD, step))
}

// leastMoment is the doubt of a moment, frames, that is too small to matter.
const leastMoment = 0.3

// placedByHand is how many of a measure's points were placed by hand in a frame.
func (q *query) placedByHand(frame int) (n int) {
	for _, role := range q.m.Points {
		for _, id := range q.roles.Resolve(role) {
			if p, ok := q.Input.Points.At(id, frame); ok && p.Source == track.Hand.String() {
				n++
			}
		}
	}
	return n
}

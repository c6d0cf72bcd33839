package evaluate

import (
	"math"
	"sort"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/sport"
)

// Two looks at the feet, one at each foot by itself and one at both together, make one list of
// contacts, each end with what is left to doubt.

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

// What a moment is off at least. Assumed; shaped on the half of the hard set that is there to
// build on.
const (
	clearHeight = 400    // px: of who is as high, or higher, moments in a run are off no less than
	smallStep   = 0.005  // s,
	smallFeet   = 0.05   // and feet that turn leave so much later, s, of who is half as high
	quickLift   = 0.5    // how fast a foot of a draft comes and leaves in a run, standing heights a second,
	slowLift    = 0.3    // and in a turn
	mostScatter = 0.0095 // how far its points scatter at most beside those that are simply wrong
	circleSD    = 0.02   // s, of feet that turn and whose points were computed
	turnSD      = 0.012  // s, of a moment at which a sweep foot by itself comes down, beside what its places leave
	liftSD      = 0.02   // s, the same of one at which it leaves
	feetSD      = 0.03   // s, of both of any other foot in a circle
	seenTwice   = 0.07   // s between two looks that see the same
	seenLate    = 0.02   // s after which a foot that leaves from rest is seen to: by then it has gone a hundredth of a height
	fewPictures = 45     // a second: too few to see a foot lift in a turn
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
		if pictures := e.shown(); pictures < fewPictures {
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
				if e.sparse() && e.shown() >= fewPictures {
					c.To = max(l.To, b.To) // a draft's toe goes before the shoe does
				}
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
				l.To -= e.pictures(int(math.Round(seenLate * e.shown())))
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
	e.firstLift(out)
	return e.evenSwings(out)
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

// unsure is the doubt, frames, of what is not to be stated.
func (e *Evaluation) unsure() float64 {
	return math.Max(unsureSD, unsurePictures/e.shown()) * e.Rate
}

// alone is the doubt, frames, of a moment that the second look alone tells, at being so
// likely.
func (e *Evaluation) alone(sd, at float64) float64 {
	if at < leastAlone {
		return math.Hypot(sd, e.unsure())
	}
	return math.Hypot(sd, math.Max(aloneSD, alonePictures/e.shown())*e.Rate)
}

// agreed is a moment that two looks have placed, and its doubt, frames. Where points hardly
// scatter at many pictures a second the first knows better, where they do it may be misled.
// Between few pictures nobody sees a scatter, and the second look knows better.
func (e *Evaluation) agreed(chain int, chainSD float64, look int, lookSD float64) (int, float64) {
	off := math.Abs(float64(chain - look))
	shown := e.shown()
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

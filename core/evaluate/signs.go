package evaluate

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/contact"
)

// How far a moment is to be believed at which a drafted foot comes down or leaves: points of a
// draft err grossly, and their scatter does not tell when. What is seen about the moment does.

// signs are what speaks for such a moment; lengths are standing heights.
type signs struct {
	looks  float64 // how sure the two looks are that it is about there, 0 to 1
	chain  float64 // how likely it is among all sequences of contacts, 0.5 where there are none
	leaves float64 // speed of the ankle on the side of the air, 1/s
	rises  float64 // how much higher the ankle is a tenth of a second into the air
	apart  float64 // how far the ankles are from each other: near each other they are confused
	seen   float64 // how sure the networks are of the ankle about it, 0 to 1
	short  bool    // the contact is shorter than a step's
	turns  float64 // the picture shows that the other foot does the same a step earlier or later: 1, or 0
}

// What each sign adds to the logarithm of the odds that a moment is within a picture, or 20 ms, of
// the true one; from mostX on more of it tells no more. Learned by logistic regression on the lots
// of the hard set that are there to build on.
const (
	oddsBase   = -3.35
	oddsChain  = 0.52 // of the logarithm of its odds
	oddsLeaves = 1.06
	oddsRises  = 10.1
	oddsApart  = 0.74
	oddsSeen   = 0.92
	oddsShort  = -1.29
	oddsTurns  = 1.49

	mostLeaves = 2.0
	mostRises  = 0.1
	mostApart  = 0.4
	mostSeen   = 0.6
	leastChain = 0.01
	leastLooks = 0.5  // what contradicts the looks, or the event, is not made good by signs
	mostSure   = 0.97 // nothing that a model has placed is surer

	aboutIt   = 0.05 // s before and behind a moment that are looked at
	shortStep = 0.08 // s
	nextStep  = 0.15 // s to the same of the other foot, at least
	lastStep  = 0.5  // and at the most
	notLooked = 0.6  // of a sign that the picture could have shown, where it shows no foot at all
)

// sure is how likely the moment is right.
func (s signs) sure() float64 {
	chain := math.Min(1-leastChain, math.Max(leastChain, s.chain))
	odds := oddsBase + oddsChain*math.Log(chain/(1-chain)) +
		oddsLeaves*math.Min(mostLeaves, s.leaves) + oddsRises*math.Max(-mostRises, math.Min(mostRises, s.rises)) +
		oddsApart*math.Min(mostApart, s.apart) + oddsSeen*math.Min(mostSeen, s.seen) + oddsTurns*s.turns
	if s.short {
		odds += oddsShort
	}
	return math.Min(mostSure, 1/(1+math.Exp(-odds)))
}

// bySigns gives the ends of contacts of drafted feet the doubt that the signs about them leave.
func (e *Evaluation) bySigns() {
	if !e.sparse() {
		return
	}
	for i, c := range e.contacts {
		if s := e.signsOf(c, true); !c.Before && s.looks >= leastLooks {
			e.contacts[i].FromSD = e.doubt(s.sure())
		}
		if s := e.signsOf(c, false); !c.After && s.looks >= leastLooks {
			e.contacts[i].ToSD = e.doubt(s.sure())
		}
	}
}

// signsOf are those of the beginning or the end of a contact.
func (e *Evaluation) signsOf(c contact.Contact, begins bool) signs {
	at, sd, air := c.From, c.FromSD, -1
	if !begins {
		at, sd, air = c.To, c.ToSD, 1
	}
	s := signs{looks: e.moment(at, sd).sure, chain: 0.5, short: float64(c.To-c.From) < shortStep*e.Rate}
	for _, l := range e.cache.chain {
		if l.Foot == c.Foot && l.From < c.To && c.From < l.To {
			s.chain = l.ToAt
			if begins {
				s.chain = l.FromAt
			}
		}
	}
	picture := e.pictures(1)
	about := e.pictures(max(1, int(math.Round(aboutIt*e.shown()))))
	ankle, other := string(c.Foot)+"_ankle", string(c.Foot.Other())+"_ankle"
	// On a belt what stands goes with it.
	place := func(id string, f int) (r2.Vec, bool) {
		p, ok := e.Movement.Paths[id].Where(f)
		p.X -= e.belt * float64(f) / e.Rate
		return r2.Scale(1/e.cache.tall, p), ok
	}
	if here, ok := place(ankle, at); ok {
		if p, ok := place(ankle, at+air*about); ok {
			s.leaves = r2.Norm(r2.Sub(p, here)) * e.Rate / float64(about)
		}
		if p, ok := place(ankle, at+2*air*about); ok {
			s.rises = p.Y - here.Y
		}
		if p, ok := place(other, at); ok {
			s.apart = r2.Norm(r2.Sub(p, here))
		}
	}
	for f := at - about; f <= at+about; f += picture {
		if p, ok := e.Input.Points.At(ankle, f); ok {
			s.seen += p.Confidence / float64(2*about/picture+1)
		}
	}
	next := math.Inf(1)
	for _, k := range e.Input.Contacts {
		f := k.To
		if begins {
			f = k.From
		}
		if e.whose(k) != c.Foot {
			next = math.Min(next, math.Abs(float64(f-at))/e.Rate)
		}
	}
	switch {
	case len(e.Input.Contacts) == 0:
		s.turns = notLooked
	case next > nextStep && next < lastStep:
		s.turns = 1
	}
	return s
}

// doubt is the standard deviation, frames, of a moment that is so likely right.
func (e *Evaluation) doubt(sure float64) float64 {
	return e.asOne() / (math.Sqrt2 * math.Erfinv(sure))
}

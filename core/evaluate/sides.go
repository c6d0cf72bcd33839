package evaluate

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/sport"
)

// The card says with which hand somebody throws and with which leg he takes off; the points
// say it, too. A card that they contradict turns every direction and every leg of the sheet
// round, so it is told.

// Where hands and feet tell the side. Assumed; shaped on simulated athletes that are there to
// build on.
const (
	sideShare = 0.8  // of the frames that tell must tell the same
	sideTime  = 0.15 // s of them at least
	heldNear  = 0.14 // standing heights from a hand that holds something
	farther   = 1.6  // times as far the other hand is
	handsUp   = 0.05 // standing heights by which one hand is over the other
	leastAir  = 0.3  // s in which the foot that steps round is in the air
	airShare  = 1.7  // times as long as the other
)

// checkSide tells what the points say against the card, if they do.
func (e *Evaluation) checkSide() {
	tall := e.StandingHeight()
	if tall == 0 || !e.usable() {
		return
	}
	event := sport.Of(e.Model.ID)
	var seen, said body.Side
	what := ""
	switch event.Side {
	case sport.ThrowingHand:
		seen, said = e.handSeen(event, tall), e.Roles.Throwing
		switch {
		case event.Pole():
			what = "the upper hand on the pole is the %s one, and the athlete's card says %s: check throwing hand and legs"
		case event.Circle > 0 && bothHands(event):
			what = "the %s foot steps round the other one, as that of the throwing side does, and the athlete's card says %s: check the throwing hand, or which leg is which"
		default:
			what = "the implement goes with the %s hand, and the athlete's card says %s: check the throwing hand, or which side is which"
		}
	case sport.TakeoffLeg:
		seen, said, what = e.takeoffSeen(), e.Roles.Takeoff, "the jump goes off the %s leg, and the athlete's card says %s: check the take-off leg, or which leg is which"
	case sport.FrontLeg:
		seen, said, what = e.frontSeen(), e.Roles.FrontLeg, "the %s foot leaves the blocks last, so it is the one in front, and the athlete's card says %s: check the front leg, or which leg is which"
	}
	if seen == "" || seen == said {
		return
	}
	e.report.Problems = append(e.report.Problems, fmt.Sprintf(what, seen, said))
}

// bothHands tells whether both hands hold the implement.
func bothHands(event sport.Event) bool {
	return event.Implement != nil && event.Implement.WireArea > 0
}

// handSeen is the hand that holds the implement, or is the upper one on a pole; of an
// implement for both hands the side of the foot that steps round the other. Nothing when the
// points do not tell.
func (e *Evaluation) handSeen(event sport.Event, tall float64) body.Side {
	if bothHands(event) {
		return e.stepsRound()
	}
	votes := map[body.Side]float64{}
	hand := func(s body.Side, f int) (r2.Vec, bool) {
		if p, ok := e.Movement.Paths[string(s)+"_hand"].Where(f); ok {
			return p, true
		}
		return e.Movement.Paths[string(s)+"_wrist"].Where(f)
	}
	end := e.Clock.Len()
	if event.Pole() {
		end = e.runEnds()
	}
	for f := range end {
		l, okL := hand(body.Left, f)
		r, okR := hand(body.Right, f)
		if !okL || !okR {
			continue
		}
		if event.Pole() {
			ear, ok := e.Movement.Where("mid_ear", f)
			if ok && math.Max(l.Y, r.Y) > ear.Y && math.Abs(l.Y-r.Y) > handsUp*tall && e.upright(f) {
				votes[higher(l, r)]++
			}
			continue
		}
		p, ok := e.Movement.Where("ball", f)
		if !ok {
			if p, ok = e.Movement.Where("grip", f); !ok {
				continue
			}
		}
		dl, dr := r2.Norm(r2.Sub(p, l)), r2.Norm(r2.Sub(p, r))
		switch {
		case dl < heldNear*tall && dr > farther*dl+handsUp*tall:
			votes[body.Left]++
		case dr < heldNear*tall && dl > farther*dr+handsUp*tall:
			votes[body.Right]++
		}
	}
	return e.decided(votes)
}

// runEnds is the frame in which the last foot leaves the ground before the longest flight.
func (e *Evaluation) runEnds() int {
	end, long := e.Clock.Len(), int(shortestJump*e.Rate)
	list := slices.Clone(e.contacts)
	sort.SliceStable(list, func(i, j int) bool { return list[i].From < list[j].From })
	reach := -1
	for _, c := range append(list, contact.Contact{From: e.Clock.Len()}) {
		if reach >= 0 && c.From-reach > long {
			end, long = reach, c.From-reach
		}
		reach = max(reach, c.To)
	}
	return end
}

func higher(l, r r2.Vec) body.Side {
	if l.Y > r.Y {
		return body.Left
	}
	return body.Right
}

// upright tells whether somebody's hips are under his shoulders.
func (e *Evaluation) upright(f int) bool {
	hip, okH := e.Movement.Where("mid_hip", f)
	shoulder, okS := e.Movement.Where("mid_shoulder", f)
	return okH && okS && shoulder.Y-hip.Y > math.Abs(shoulder.X-hip.X)
}

// decided is the side that most votes name; nothing when they are few or divided.
func (e *Evaluation) decided(votes map[body.Side]float64) body.Side {
	l, r := votes[body.Left], votes[body.Right]
	if l+r < sideTime*e.Rate || math.Max(l, r) < sideShare*(l+r) {
		return ""
	}
	if l > r {
		return body.Left
	}
	return body.Right
}

// stepsRound is the throwing side by the feet: who throws with the right hand in front of the
// turn pivots on the left foot, and the right one is in the air for a part of each turn.
func (e *Evaluation) stepsRound() body.Side {
	air := map[body.Side]float64{}
	last := map[body.Side]int{}
	for _, c := range e.contacts {
		if before, ok := last[c.Foot]; ok && float64(c.From-before) < shortestJump*2*e.Rate {
			air[c.Foot] += float64(c.From-before) / e.Rate
		}
		last[c.Foot] = c.To
	}
	l, r := air[body.Left], air[body.Right]
	switch {
	case r > leastAir && r > airShare*l:
		return body.Right
	case l > leastAir && l > airShare*r:
		return body.Left
	}
	return ""
}

// takeoffSeen is the foot after whose contact the longest flight comes.
func (e *Evaluation) takeoffSeen() body.Side {
	list := slices.Clone(e.contacts)
	sort.SliceStable(list, func(i, j int) bool { return list[i].To < list[j].To })
	best, foot := shortestJump*e.Rate, body.Side("")
	for i, c := range list {
		if c.After || c.Before {
			continue
		}
		next := e.Clock.Len() - 1
		for _, d := range list[i+1:] {
			next = min(next, max(c.To, d.From))
		}
		if air := float64(next - c.To); air > best {
			best, foot = air, c.Foot
		}
	}
	return foot
}

// frontSeen is the foot that leaves the blocks last.
func (e *Evaluation) frontSeen() body.Side {
	left := map[body.Side]int{}
	for _, c := range e.contacts {
		if c.Before && !c.After {
			left[c.Foot] = c.To
		}
	}
	l, okL := left[body.Left]
	r, okR := left[body.Right]
	switch {
	case !okL || !okR || math.Abs(float64(l-r)) < sideTime/3*e.Rate:
		return ""
	case l > r:
		return body.Left
	}
	return body.Right
}

package repair

import (
	"math"
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

// A pose model takes left for right when limbs pass each other, for a frame or for whole
// steps. What it says of a pair of joints is where they are; which is which follows from
// how they move: the way from one joint of a pair to its twin goes on evenly, through the
// moment when limbs pass as well. Of all ways to name each frame the most likely is
// sought by a beam of filters (constant velocity, after Kalman 1960, Trans. ASME 82:35).

// limb is a chain of pairs that is named together: parts whose ways are followed, and
// what hangs on each.
type limb struct {
	parts [][]string // the first of each is followed, the others go with it
	quick []float64  // how hard each may be sped up against its twin, standing heights/s²
}

// Accelerations of one joint against its twin. Assumed; shaped on simulated clips.
// Arms come first: the near one covers the trunk, and models hardly take it for the far one.
var limbs = []limb{
	{[][]string{{"elbow"}, {"wrist", "hand"}}, []float64{90, 130}},
	{[][]string{{"knee"}, {"ankle", "heel", "toe"}}, []float64{55, 100}},
	{[][]string{{"hip"}}, []float64{26}},
	{[][]string{{"shoulder", "ear"}}, []float64{33}},
}

// legs is their place among the limbs.
const legs = 1

// Costs, natural logarithms of odds. Assumed; shaped on the half of the hard set that is
// there to build on.
const (
	seenSD     = 0.022 // scatter of a sure joint against its twin, standing heights
	mostOff    = 18.0  // what one frame may cost at most: a joint is then simply wrong
	startSpeed = 4.0   // standing heights a second, before anything is known
	exchanged  = 0.6   // names exchanged from one frame to the next
	apartCost  = 1.0   // parts of one limb named differently
	misnamed   = 10.0  // a second named otherwise than the model named it
	crossedLeg = 3.0   // a bone that is longer than it can be, for each of its lengths
	kept       = 6     // filters kept for each naming of a frame
	tellsRate  = 60.0  // pictures a second that tell something new each: errors last longer than those between more
)

// filter follows the way from a joint to its twin.
type filter struct {
	on       bool
	at, v    r2.Vec
	p, c, vv float64 // variances of place, of both together, of speed; the same in x and y
}

func (k *filter) predict(dt, quick float64) {
	if !k.on {
		return
	}
	k.at = r2.Add(k.at, r2.Scale(dt, k.v))
	q := quick * quick
	k.p += 2*dt*k.c + dt*dt*k.vv + q*dt*dt*dt*dt/4
	k.c += dt*k.vv + q*dt*dt*dt/2
	k.vv += q * dt * dt
}

// take takes a measurement in and gives what it costs.
func (k *filter) take(z r2.Vec, sd float64) float64 {
	r := sd * sd
	if !k.on {
		*k = filter{on: true, at: z, p: r, vv: startSpeed * startSpeed}
		return 0
	}
	s := k.p + r
	off := r2.Sub(z, k.at)
	cost := r2.Norm2(off)/(2*s) + math.Log(s)
	if r2.Norm2(off)/(2*s) > mostOff {
		return mostOff + math.Log(s) // a joint that is simply wrong teaches nothing
	}
	g, h := k.p/s, k.c/s
	k.at, k.v = r2.Add(k.at, r2.Scale(g, off)), r2.Add(k.v, r2.Scale(h, off))
	k.p, k.c, k.vv = k.p*(1-g), k.c*(1-g), k.vv-h*k.c
	return cost
}

// guess is one way to have named all frames up to now.
type guess struct {
	cost    float64
	sign    [2]int8 // of each part: 1 as the model says, -1 exchanged
	filters [2]filter
	before  *guess
}

// known is what else is known of sides: what it costs, a second, to take the way from the
// right to the left joint of a part, standing heights of the picture, for this in a frame.
type known struct {
	cost func(part, frame int, way r2.Vec) float64
	// trust is what the names of the model are still worth beside it.
	trust float64
}

// In the blocks the front foot is the one of the athlete's card. Standing heights; assumed.
const (
	setTime      = 0.2  // s
	setStill     = 0.06 // feet that have moved more are not in their blocks
	setApart     = 0.1
	wrongFoot    = 120.0 // a second
	besideBlocks = 0.2
)

// inBlocks holds the feet to the front leg of the athlete's card while they stand in the
// blocks; nothing where there are none, or when the clip does not begin there.
func inBlocks(m model.Model, in evaluate.Input, rate, tall float64) (none known) {
	front := in.Athlete.FrontLeg
	if !sport.Of(m.ID).Blocks || front == "" || in.Clip.Direction == 0 || in.Clip.View != "side" && in.Clip.View != "oblique" {
		return none
	}
	first := math.MaxInt
	ankles := []*track.Track{in.Points["left_ankle"], in.Points["right_ankle"]}
	for _, t := range ankles {
		if t == nil {
			return none
		}
		first = min(first, t.From)
	}
	last := first + int(setTime*rate)
	// Whichever name a foot has: the nearer of both must not have gone.
	for _, t := range ankles {
		p, ok := t.At(first)
		if !ok {
			continue
		}
		least := math.Inf(1)
		for _, u := range ankles {
			if q, ok := u.At(last); ok {
				least = min(least, math.Hypot(q.X-p.X, q.Y-p.Y))
			}
		}
		if least > setStill*tall {
			return none
		}
	}
	return known{func(part, frame int, way r2.Vec) float64 {
		ahead := way.X * in.Clip.Direction // of the left foot
		if part != 1 || frame > last || math.Abs(ahead) < setApart || (ahead > 0) == (front == body.Left) {
			return 0
		}
		return wrongFoot
	}, besideBlocks}
}

// Who runs swings an arm against the leg of its side. Standing heights; assumed, shaped on the
// half of the hard set that is there to build on.
const (
	withArm     = 15.0 // a second, of a leg and an arm that swing together as far as they usually swing
	armSwing    = 0.2
	legSwing    = 0.3
	mostSwing   = 2.0
	armSure     = 0.3 // arms less sure than this tell nothing
	besideSwing = 0.6
)

// armsSwing tells whether arms and legs are seen to swing against each other.
func armsSwing(m model.Model, in evaluate.Input) bool {
	return (in.Clip.View == "side" || in.Clip.View == "oblique") && sport.Of(m.ID).ArmsSwing
}

// againstSwing holds the arms or legs of a runner against the others, as they are named already.
func againstSwing(limb int, points kinematics.Points, tall float64) known {
	others, trust := []string{"elbow", "wrist"}, besideSwing
	if limb != legs {
		others, trust = []string{"knee", "ankle"}, 1
	}
	return known{func(_, frame int, way r2.Vec) float64 {
		sum, n := 0.0, 0.0
		for _, part := range others {
			l, ok1 := points.At("left_"+part, frame)
			r, ok2 := points.At("right_"+part, frame)
			if ok1 && ok2 && min(l.Confidence, r.Confidence) >= armSure {
				sum, n = sum+(l.X-r.X)/tall, n+1
			}
		}
		if n == 0 {
			return 0
		}
		together := sum / n / armSwing * way.X / legSwing
		return withArm * min(mostSwing, max(0, together))
	}, trust}
}

// nameSwing names arms and legs that swing against each other: first the ones and by them the
// others, or the other way round, as explains both better.
func nameSwing(m model.Model, in evaluate.Input, e *evaluate.Evaluation) int {
	type named struct {
		points  kinematics.Points
		swapped int
		cost    float64
	}
	var best named
	for i, order := range [][]int{{0, legs}, {legs, 0}} {
		one := in
		one.Points = cloned(in.Points)
		alone := known{func(int, int, r2.Vec) float64 { return 0 }, againstSwing(order[0], nil, 1).trust}
		n, cost := name(order[0], m, one, e, alone)
		more, then := name(order[1], m, one, e, againstSwing(order[1], one.Points, standing(in, e)))
		if got := (named{one.Points, n + more, cost + then}); i == 0 || got.cost < best.cost {
			best = got
		}
	}
	for id, t := range best.points {
		in.Points[id] = t
	}
	return best.swapped
}

// A javelin is drawn back, and with it the arm, the shoulder and the hip of that side, until it
// is thrown. Standing heights; assumed, shaped on the half of the hard set that is there to
// build on.
const (
	armForward = 12.0 // a second, of a throwing arm that is as far ahead as it should be behind
	armBack    = 0.25
	sideFront  = 5.0 // the same of hip, shoulder and leg
	sideBack   = 0.1
	beforeFast = 0.1 // s before the fastest moment of the hands the arm comes forward
	besideArm  = 0.7
)

// drawnBack holds a limb of a javelin thrower to the throwing hand of the athlete's card.
func drawnBack(m model.Model, in evaluate.Input, limb int, rate, tall float64) (none known) {
	im, hand := sport.Of(m.ID).Implement, in.Athlete.ThrowingHand
	if im == nil || im.Kind != "javelin" || hand == "" || in.Clip.Direction == 0 || in.Clip.View != "side" && in.Clip.View != "oblique" {
		return none
	}
	last := fastest(in.Points, []string{"left_wrist", "right_wrist"}) - int(beforeFast*rate)
	most, back := sideFront, sideBack
	if limb == 0 {
		most, back = armForward, armBack
	}
	sign := in.Clip.Direction // of the way from right to left when the right hand throws
	if hand == body.Left {
		sign = -sign
	}
	return known{func(_, frame int, way r2.Vec) float64 {
		if frame > last {
			return 0
		}
		return most * min(1, max(0, -sign*way.X/back))
	}, besideArm}
}

// Who turns in a circle turns as a whole: hips, shoulders, knees and elbows of one side are on
// one side of the picture, except while they pass. Assumed; shaped on the half of the hard set
// that is there to build on.
const (
	turnedRounds = 2
	turnedAgain  = 10.0 // a second, of a limb that is the other way round than hips or shoulders
	turnedLegs   = 3.0  // the same of the legs, which stand while the trunk turns
	looseLimb    = 0.5  // what an elbow or a knee tells of the rest, of what hips or shoulders do
)

// fromHips is the order in which limbs are named by each other, those first that stay near the
// middle of the body.
var fromHips = []int{2, 3, legs, 0}

// halfTurned is how far apart the first pair of each limb is when it is half turned, standing
// heights.
var halfTurned = []float64{0.3, 0.12, 0.1, 0.13}

// withBody holds a limb to the way round that the others have, as they are named already.
func withBody(limb int, points kinematics.Points, tall float64) known {
	most := turnedAgain
	if limb == legs {
		most = turnedLegs
	}
	return known{func(part, frame int, way r2.Vec) float64 {
		if limb == 0 && part > 0 {
			return 0 // hands go everywhere
		}
		rest := 0.0
		for i, l := range limbs {
			if i == limb {
				continue
			}
			first := l.parts[0][0]
			left, ok1 := points.At("left_"+first, frame)
			right, ok2 := points.At("right_"+first, frame)
			if !ok1 || !ok2 {
				continue
			}
			tells := 1.0
			if len(l.parts) > 1 {
				tells = looseLimb
			}
			rest += tells * clamped((left.X-right.X)/tall/halfTurned[i])
		}
		half := halfTurned[limb]
		if part > 0 {
			half *= 1.7 // ankles are farther apart than knees
		}
		return most * math.Max(0, -rest*clamped(way.X/half))
	}, 1}
}

func clamped(v float64) float64 { return math.Max(-1, math.Min(1, v)) }

// restore names the points of a limb as they were.
func (l limb) restore(points, was kinematics.Points) {
	for _, part := range slices.Concat(l.parts...) {
		for _, s := range []string{"left_", "right_"} {
			if t := was[s+part]; t != nil {
				points[s+part] = t.Clone()
			}
		}
	}
}

// fastest is the frame in which one of some points is fastest over a few frames; -1 without.
func fastest(points kinematics.Points, ids []string) int {
	best, most := -1, 0.0
	for _, id := range ids {
		t := points[id]
		if t == nil {
			continue
		}
		for f := t.From + 1; f < t.End()-1; f++ {
			a, ok1 := t.At(f - 1)
			b, ok2 := t.At(f + 1)
			if ok1 && ok2 && min(a.Confidence, b.Confidence) >= armSure {
				if v := math.Hypot(b.X-a.X, b.Y-a.Y); v > most {
					best, most = f, v
				}
			}
		}
	}
	return best
}

// name finds for a limb in which frames left and right are exchanged, exchanges them and
// gives their number, and what the best explanation costs.
func (l limb) name(points kinematics.Points, rate, tall float64, more []known) (swapped int, cost float64) {
	type pair struct{ left, right *track.Track }
	pairs := make([][]pair, len(l.parts))
	first, last := math.MaxInt, -1
	for i, names := range l.parts {
		for _, part := range names {
			q := pair{points["left_"+part], points["right_"+part]}
			pairs[i] = append(pairs[i], q)
			if q.left != nil && q.right != nil {
				first, last = min(first, q.left.From, q.right.From), max(last, q.left.End(), q.right.End())
			}
		}
	}
	if last < 0 {
		return 0, 0
	}
	at := func(t *track.Track, f int) (r2.Vec, float64, bool) {
		if t.SourceAt(f) == track.None {
			return r2.Vec{}, 0, false
		}
		i := f - t.From
		return r2.Scale(1/tall, r2.Vec{X: float64(t.X[i]), Y: float64(t.Y[i])}), math.Max(0.15, float64(t.Confidence[i])/100), true
	}
	var beam []*guess
	combos := [][2]int8{{1, 1}, {-1, -1}}
	if len(l.parts) == 2 {
		combos = append(combos, [2]int8{1, -1}, [2]int8{-1, 1})
	}
	dt, trust, each := 1/rate, 1.0, min(1, tellsRate/rate)
	more = slices.DeleteFunc(more, func(k known) bool { return k.cost == nil })
	for _, k := range more {
		trust = min(trust, k.trust)
	}
	for f := first; f < last; f++ {
		fixed := false
		var way [2]r2.Vec
		var sd [2]float64
		var seen [2]bool
		for i, list := range pairs {
			for _, q := range list {
				fixed = fixed || q.left.SourceAt(f) == track.Hand || q.right.SourceAt(f) == track.Hand
			}
			a, sureA, okA := at(list[0].left, f)
			b, sureB, okB := at(list[0].right, f)
			if okA && okB {
				way[i], sd[i], seen[i] = r2.Sub(a, b), seenSD/math.Min(sureA, sureB), true
			}
		}
		var next []*guess
		from := beam
		if from == nil {
			from = []*guess{nil}
		}
		for _, g := range from {
			for _, sign := range combos {
				if fixed && sign != [2]int8{1, 1} {
					continue
				}
				n := &guess{sign: sign, before: g}
				if g != nil {
					n.cost, n.filters = g.cost, g.filters
				}
				for i := range l.parts {
					n.filters[i].predict(dt, l.quick[i])
					if g != nil && g.sign[i] != sign[i] {
						n.cost += exchanged
					}
					if sign[i] < 0 {
						n.cost += trust * misnamed * dt / float64(len(l.parts))
					}
					if seen[i] {
						n.cost += each * n.filters[i].take(r2.Scale(float64(sign[i]), way[i]), sd[i])
						for _, k := range more {
							n.cost += dt * k.cost(i, f, r2.Scale(float64(sign[i]), way[i]))
						}
					}
				}
				if sign[0] != sign[1] {
					n.cost += each * (apartCost + l.stretched(points, f, tall))
				}
				next = append(next, n)
			}
		}
		beam = pruned(next)
	}
	best := beam[0]
	for _, g := range beam {
		if g.cost < best.cost {
			best = g
		}
	}
	for f, g := last-1, best; f >= first; f, g = f-1, g.before {
		some := false
		for i, list := range pairs {
			if g.sign[i] > 0 {
				continue
			}
			for _, q := range list {
				if q.left != nil && q.right != nil {
					exchange(q.left, q.right, f)
					some = true
				}
			}
		}
		if some {
			swapped++
		}
	}
	return swapped, best.cost
}

// stretched is what it costs to name the parts of a limb differently where that makes a
// bone between them longer than the model had it.
func (l limb) stretched(points kinematics.Points, f int, tall float64) (cost float64) {
	place := func(id string) (r2.Vec, bool) {
		p, ok := points.At(id, f)
		return r2.Vec{X: p.X, Y: p.Y}, ok
	}
	upper, lower := l.parts[0][0], l.parts[1][0]
	ul, ok1 := place("left_" + upper)
	ur, ok2 := place("right_" + upper)
	ll, ok3 := place("left_" + lower)
	lr, ok4 := place("right_" + lower)
	if !ok1 || !ok2 || !ok3 || !ok4 {
		return 0
	}
	straight := r2.Norm(r2.Sub(ul, ll)) + r2.Norm(r2.Sub(ur, lr))
	crossed := r2.Norm(r2.Sub(ul, lr)) + r2.Norm(r2.Sub(ur, ll))
	return crossedLeg * (crossed - straight) / (0.25 * tall)
}

// pruned keeps the best few guesses of each naming.
func pruned(list []*guess) (out []*guess) {
	sort.SliceStable(list, func(i, j int) bool { return list[i].cost < list[j].cost })
	var n [3][3]int
	for _, g := range list {
		if of := &n[g.sign[0]+1][g.sign[1]+1]; *of < kept {
			*of++
			out = append(out, g)
		}
	}
	return out
}

// Package move holds the motions of the ten events: key poses joined smoothly,
// feet fixed to the ground by inverse kinematics, flights that fall with g.
//
// A motion is written for a right-handed thrower with a left take-off leg and
// the left leg in the front block. Imports: figure below, simcam above.
package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/flight"
	"neokinema/simcam/figure"
)

const (
	left  = figure.Left
	right = figure.Right
	// Gravity is the fall of the centre of mass in flight, m/s2.
	Gravity = flight.Gravity
)

// Roll says on which end of the foot it turns from a time on.
type Roll struct {
	From   float64
	OnHeel bool
}

// Plant is a stretch of time in which a foot stays where it is, apart from
// turning on its toe or heel.
type Plant struct {
	From, To float64
	Toe      r3.Vec // where the toe is at From
	Heading  Curve
	Sole     Curve // heel raised, degrees; more when the leg has to reach
	Rolls    []Roll
	Stiff    bool // the knee may lock before the heel lifts
}

// via is a pose of a leg in the air at a time.
type via struct {
	t float64
	figure.Limb
}

// gap is the swing between two plants.
type gap struct {
	from, to float64
	over     float64 // how high the lowest part of the foot is at least, m
	c        [7]Curve
}

// leg is the timeline of one leg.
type leg struct {
	plants []Plant
	vias   []via
	gaps   []gap
}

// A channel is one number of the pose over time, degrees or metres.
type channel int

const (
	heading channel = iota
	lean            // pelvis forward
	tilt            // pelvis to the right
	twist           // chest against pelvis, to the right
	bend            // chest forward against pelvis
	side            // chest to the right against pelvis
	nod             // head forward against chest
	look            // head to the right against chest
	shrug           // left shoulder ahead, m; right is the next
	_
	flex // left upper arm forward; right is the next, and so on
	_
	out
	_
	turn
	_
	elbow
	_
	pull // the hand is held at its grip
	_
	channels
)

// arm tells where a hand is held while its pull is on.
type arm struct {
	elbow r3.Vec
	grip  func(t float64, p *figure.Pose) r3.Vec
}

// fall is a stretch in which the centre of mass falls with g.
type fall struct {
	from, to float64
	p, v     r3.Vec // centre of mass and its velocity at from
}

// Motion is one whole movement, a pure function of time.
type Motion struct {
	Sizes       figure.Sizes
	First, Last float64            // what a clip shows, s
	Times       map[string]float64 // key positions, s
	Release     float64            // when the implement leaves; NaN when there is none
	Thrown      Thrown
	Props       Props
	Radius      float64 // of the line of the feet in a run-up that bends, m

	hip       path
	c         [channels]Curve
	legs      [2]leg
	arms      [2]arm
	falls     []fall
	hold      func(t float64) (r3.Vec, bool) // where the top hand must be
	implement func(m *Motion, t float64, b *figure.Body, p *figure.Pose) Implement
	thrown    *trajectory
	rhythm    rhythm
}

// Implement is what is thrown or held: named points in the world.
type Implement map[string]r3.Vec

// build works out swings and flights. Flights need the poses at their edges and
// hips need the speed of the flights, so it goes round a few times.
func (m *Motion) build(falls ...[2]float64) {
	for range 4 {
		for side := range 2 {
			m.buildGaps(side)
		}
		m.falls = m.falls[:0]
		for _, f := range falls {
			a, b := m.centreNominal(f[0]), m.centreNominal(f[1])
			T := f[1] - f[0]
			v := r3.Scale(1/T, r3.Sub(b, a))
			v.Y += Gravity * T / 2
			m.falls = append(m.falls, fall{f[0], f[1], a, v})
		}
		const h = 1e-4
		for _, f := range m.falls {
			// In order: the second end looks at a path that the first has changed.
			for _, edge := range [][2]float64{{f.from, f.from + h}, {f.to, f.to - h}} {
				t, inside := edge[0], edge[1]
				p, q := m.pose(inside), m.pose(t)
				m.hip = m.hip.bound(t, r3.Scale(1/(inside-t), r3.Sub(p.Hip, q.Hip)))
			}
		}
	}
	if m.implement != nil && !math.IsNaN(m.Release) {
		m.thrown = m.throw()
	}
}

func (m *Motion) centreNominal(t float64) r3.Vec {
	p := m.nominal(t)
	b := m.Sizes.Place(&p)
	return m.Sizes.Centre(&b)
}

// buildGaps joins plants by swings in joint angles: from the pose in which the
// foot leaves, through the given poses, to the one in which it lands.
func (m *Motion) buildGaps(side int) {
	l := &m.legs[side]
	l.gaps = l.gaps[:0]
	for i := 0; i <= len(l.plants); i++ {
		var keys []via
		from, to := math.Inf(-1), math.Inf(1)
		if i > 0 {
			from = l.plants[i-1].To
			keys = append(keys, via{from, m.planted(side, from, &l.plants[i-1])})
		}
		if i < len(l.plants) {
			to = l.plants[i].From
		}
		for _, v := range l.vias {
			if v.t > from && v.t < to {
				keys = append(keys, v)
			}
		}
		if i < len(l.plants) && !math.IsInf(to, 0) {
			keys = append(keys, via{to, m.planted(side, to, &l.plants[i])})
		}
		if len(keys) == 0 {
			continue
		}
		g := gap{from: from, to: to, over: 0.98 * sole0}
		for _, k := range keys {
			// A heel that lands in sand is lower than a shoe on the track.
			p := m.trunk(k.t)
			if k.t == from || k.t == to {
				g.over = math.Min(g.over, m.Sizes.Lowest(&p, side, k.Limb))
			}
		}
		for c := range g.c {
			var tv []float64
			for _, k := range keys {
				tv = append(tv, k.t, [...]float64{k.Flex, k.Out, k.Turn, k.Bend, k.Point, k.Toeing, k.Edge}[c])
			}
			g.c[c] = Keys(tv...).open()
		}
		if i > 0 && i < len(l.plants) {
			m.strike(side, &g, &l.plants[i], l.plants[i-1].Toe)
		}
		l.gaps = append(l.gaps, g)
	}
}

// How fast a foot comes down, m/s: downward, and still along its way. From memory of studies
// of running, 1 to 2 downward; no source.
const (
	strikeDown  = 1.3
	strikeAlong = 0.6
	stepLength  = 0.3 // m; a shorter way is none
	stretched   = -20 // degrees of the sole: heels stretched out for a landing in sand
)

// strike lets a swing end as a foot that comes down does, and not come to rest before.
func (m *Motion) strike(side int, g *gap, pl *Plant, from r3.Vec) {
	const h = 2e-4
	if g.to-g.from < shortestSwing || pl.Sole.At(pl.From) < stretched {
		return
	}
	v := r3.Vec{Y: -strikeDown}
	way := r3.Sub(pl.Toe, from)
	way.Y = 0
	if n := r3.Norm(way); n > stepLength {
		v = r3.Add(v, r3.Scale(strikeAlong/n, way))
	}
	p, q := m.trunk(g.to), m.trunk(g.to-h)
	f := m.foot(pl, g.to, m.Sizes.HipJoint(&p, side))
	end := m.Sizes.LegAngles(p.Pelvis(), side, m.Sizes.HipJoint(&p, side), f)
	f.Toe = r3.Sub(f.Toe, r3.Scale(h, v))
	start := m.Sizes.LegAngles(q.Pelvis(), side, m.Sizes.HipJoint(&q, side), f)
	by := [...]float64{end.Flex - start.Flex, end.Out - start.Out, end.Turn - start.Turn, end.Bend - start.Bend, end.Point - start.Point, end.Toeing - start.Toeing, end.Edge - start.Edge}
	for _, d := range by {
		if math.Abs(d) > h*fastestJoint {
			return // a leg that is straight when it lands has no slack for it
		}
	}
	for c, d := range by {
		g.c[c] = g.c[c].bound(g.to, d/h)
	}
}

// fastestJoint is more than any joint of a leg turns when a foot comes down, degrees a second.
const fastestJoint = 1500

// shortestSwing is too short for a foot to be lifted and come down, s.
const shortestSwing = 0.05

func (m *Motion) planted(side int, t float64, pl *Plant) figure.Limb {
	p := m.trunk(t)
	hip := m.Sizes.HipJoint(&p, side)
	return m.Sizes.LegAngles(p.Pelvis(), side, hip, m.foot(pl, t, hip))
}

// foot is a planted foot at a time.
func (m *Motion) foot(pl *Plant, t float64, hip r3.Vec) figure.Foot {
	f := figure.Foot{Toe: pl.Toe, Heading: pl.Heading.At(pl.From), Sole: pl.Sole.At(pl.From)}
	onHeel := false
	for i := 0; i <= len(pl.Rolls); i++ {
		until := t
		if i < len(pl.Rolls) {
			until = math.Min(t, pl.Rolls[i].From)
		}
		heel := m.Sizes.Heel(f)
		f.Heading, f.Sole = pl.Heading.At(until), pl.Sole.At(until)
		if onHeel {
			f.Toe = r3.Add(f.Toe, r3.Sub(heel, m.Sizes.Heel(f)))
		}
		if i < len(pl.Rolls) && t >= pl.Rolls[i].From {
			onHeel = pl.Rolls[i].OnHeel
			continue
		}
		break
	}
	if onHeel {
		return f
	}
	// A leg that does not reach lifts its heel, as long as that brings the ankle
	// nearer; what is still missing the hips give (see trunk).
	reach := m.reach(pl)
	far := func(sole float64) float64 {
		g := f
		g.Sole = sole
		return r3.Norm(r3.Sub(hip, m.Sizes.Ankle(g)))
	}
	lo, d := f.Sole, far(f.Sole)
	for d > reach && lo < 84 {
		hi := lo + 1
		e := far(hi)
		if e >= d {
			break
		}
		if e <= reach {
			f.Sole = lo + (d-reach)/(d-e)
			return f
		}
		lo, d = hi, e
	}
	f.Sole = lo
	return f
}

// reach is how far a planted leg stretches from hip to ankle.
func (m *Motion) reach(pl *Plant) float64 {
	if pl.Stiff {
		return 0.9997 * m.Sizes.Leg()
	}
	return 0.992 * m.Sizes.Leg()
}

// trunk is the pose without limbs.
func (m *Motion) trunk(t float64) figure.Pose {
	at := func(c channel) float64 { return m.c[c].At(t) }
	p := figure.Pose{
		Hip: m.hip.at(t), Heading: at(heading), Lean: at(lean), Tilt: at(tilt),
		Twist: at(twist), Bend: at(bend), Side: at(side), Nod: at(nod), Look: at(look),
		Shrug: [2]float64{at(shrug), at(shrug + right)},
	}
	// Hips come to where the legs on the ground reach.
	for range 4 {
		moved := false
		for s := range m.legs {
			for i := range m.legs[s].plants {
				pl := &m.legs[s].plants[i]
				if t < pl.From || t > pl.To {
					continue
				}
				hip := m.Sizes.HipJoint(&p, s)
				to := r3.Sub(m.Sizes.Ankle(m.foot(pl, t, hip)), hip)
				if far, reach := r3.Norm(to), m.reach(pl); far > reach+1e-9 {
					p.Hip = r3.Add(p.Hip, r3.Scale((far-reach)/far, to))
					moved = true
				}
			}
		}
		if !moved {
			break
		}
	}
	return p
}

func (m *Motion) limbs(t float64, p *figure.Pose) {
	for s := range 2 {
		p.Legs[s] = m.legAt(s, t, p)
		at := func(c channel) float64 { return m.c[c+channel(s)].At(t) }
		p.Arms[s] = figure.Arm{Limb: figure.Limb{Flex: at(flex), Out: at(out), Turn: at(turn), Bend: at(elbow)}}
	}
	// A grip may depend on where the other hand is, so it comes second.
	for s := range 2 {
		a := &m.arms[s]
		if pull := m.c[pull+channel(s)].At(t); pull > 0 && a.grip != nil {
			grip := a.grip(t, p)
			p.Arms[s].Pull, p.Arms[s].Elbow, p.Arms[s].Grip = pull, a.elbow, grip
		}
	}
}

func (m *Motion) legAt(side int, t float64, p *figure.Pose) figure.Leg {
	l := &m.legs[side]
	for i := range l.plants {
		if pl := &l.plants[i]; t >= pl.From && t <= pl.To {
			return figure.Leg{Planted: true, Foot: m.foot(pl, t, m.Sizes.HipJoint(p, side))}
		}
	}
	for i := range l.gaps {
		if g := &l.gaps[i]; t >= g.from && t <= g.to {
			return figure.Leg{Limb: m.clear(side, p, g.over, figure.Limb{Flex: g.c[0].At(t), Out: g.c[1].At(t), Turn: g.c[2].At(t), Bend: g.c[3].At(t), Point: g.c[4].At(t), Toeing: g.c[5].At(t), Edge: g.c[6].At(t)})}
		}
	}
	return figure.Leg{Limb: figure.Limb{Bend: 178}}
}

// clear bends a swinging leg as much as its foot needs to pass over the ground.
func (m *Motion) clear(side int, p *figure.Pose, over float64, l figure.Limb) figure.Limb {
	bent := func(share float64) figure.Limb {
		q := l
		q.Flex, q.Bend, q.Point = l.Flex+26*share, l.Bend-56*share, l.Point-20*share
		return q
	}
	low := func(share float64) float64 { return m.Sizes.Lowest(p, side, bent(share)) }
	if low(0) >= over {
		return l
	}
	lo, hi := 0.0, 1.0
	if low(hi) < over {
		return bent(hi)
	}
	for range 16 {
		if mid := (lo + hi) / 2; low(mid) < over {
			lo = mid
		} else {
			hi = mid
		}
	}
	return bent(hi)
}

// nominal is the pose with the hips where their keys have them.
func (m *Motion) nominal(t float64) figure.Pose {
	p := m.trunk(t)
	m.limbs(t, &p)
	return p
}

// pose is the pose with flights that fall and hands that hold.
func (m *Motion) pose(t float64) figure.Pose {
	p := m.nominal(t)
	if m.hold != nil {
		if at, ok := m.hold(t); ok {
			for range 3 {
				b := m.Sizes.Place(&p)
				p.Hip = r3.Add(p.Hip, r3.Sub(at, b.At(right, figure.Hand)))
				m.limbs(t, &p)
			}
			return p
		}
	}
	for _, f := range m.falls {
		if t <= f.from || t >= f.to {
			continue
		}
		s := t - f.from
		want := r3.Add(f.p, r3.Add(r3.Scale(s, f.v), r3.Vec{Y: -Gravity / 2 * s * s}))
		for range 4 {
			b := m.Sizes.Place(&p)
			off := r3.Sub(want, m.Sizes.Centre(&b))
			p.Hip = r3.Add(p.Hip, off)
			if r3.Norm(off) < 1e-7 {
				break
			}
			m.limbs(t, &p)
		}
	}
	return p
}

// State is everything at one time.
type State struct {
	Pose      figure.Pose
	Body      figure.Body
	Centre    r3.Vec
	Implement Implement
	Down      [2]bool
	OnHeel    [2]bool
	Free      bool // nothing holds the athlete
}

// At is the state at a time.
func (m *Motion) At(t float64) State {
	t = m.rhythm.written(t)
	s := State{Pose: m.pose(t)}
	s.Body = m.Sizes.Place(&s.Pose)
	s.Centre = m.Sizes.Centre(&s.Body)
	for side := range 2 {
		for _, pl := range m.legs[side].plants {
			if t >= pl.From && t < pl.To {
				s.Down[side] = true
				for _, r := range pl.Rolls {
					if t >= r.From {
						s.OnHeel[side] = r.OnHeel
					}
				}
			}
		}
	}
	for _, f := range m.falls {
		s.Free = s.Free || t > f.from && t < f.to
	}
	if m.implement != nil {
		if release := m.rhythm.written(m.Release); m.thrown != nil && t > release {
			s.Implement = m.thrown.at(t - release)
		} else {
			s.Implement = m.implement(m, t, &s.Body, &s.Pose)
		}
	}
	return s
}

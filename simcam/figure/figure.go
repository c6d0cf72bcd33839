// Package figure is the simulated athlete's body: links of published length,
// joints, and the way from a pose to landmarks and back.
//
// World: metres, x in the running or throwing direction, y up, z to the right
// of somebody who faces +x. A heading is an angle about the vertical, degrees:
// 0 looks along +x, 90 along +z. Motions are written for a right-handed athlete
// with a left take-off leg; the others are mirrored as a whole.
package figure

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/angles"
	"neokinema/core/body"
)

// Left and Right index legs, arms and landmarks.
const (
	Left  = 0
	Right = 1
)

// Out is the way outward from the middle on a side, along the right hand.
func Out(side int) float64 { return float64(2*side - 1) }

// Sizes are the lengths of one athlete's links, metres.
type Sizes struct {
	Thigh, Shank, Trunk, UpperArm, Forearm, Hand float64
	Foot, AnkleUp, AnkleBack                     float64 // heel to toe; ankle above the sole; ankle ahead of the heel
	ShoulderHalf, HipHalf, HeadUp                float64
	Scale                                        float64 // against an athlete of 1.80 m
	weights                                      [2 * parts]float64
}

// SizesOf gives the links of a person: lengths by de Leva (see [body.Segments]),
// half widths between joint centres and ankle height from memory of
// anthropometric tables.
func SizesOf(p body.Person) Sizes {
	l := func(s string) float64 { return body.Length(p, s) }
	s := Sizes{
		Thigh: l("thigh"), Shank: l("shank"), Trunk: l("trunk"), UpperArm: l("upper_arm"), Forearm: l("forearm"), Hand: l("hand"),
		Foot: l("foot"), AnkleUp: 0.045 * p.Height, AnkleBack: 0.25 * l("foot"),
		ShoulderHalf: 0.105 * p.Height, HipHalf: 0.05 * p.Height, HeadUp: 0.115 * p.Height, Scale: p.Height / 1.80,
	}
	weights := body.CentreWeights(p.Sex)
	for i, id := range body.Landmarks() {
		s.weights[i] = weights[id]
	}
	return s
}

// Leg is the length from hip to ankle of a straight leg, Arm from shoulder to
// knuckles.
func (s Sizes) Leg() float64 { return s.Thigh + s.Shank }

// Arm is the length from shoulder to knuckles of a straight arm.
func (s Sizes) Arm() float64 { return s.UpperArm + s.Forearm + s.Hand }

// The landmarks of a side, in the order of [body.Parts].
const (
	Ear = iota
	Shoulder
	Elbow
	Wrist
	Hand
	Hip
	Knee
	Ankle
	Heel
	Toe
	parts
)

// Body is every landmark in the order of [body.Landmarks]: left side first.
type Body [2 * parts]r3.Vec

// At is one landmark.
func (b *Body) At(side, part int) r3.Vec { return b[side*parts+part] }

func (b *Body) set(side, part int, v r3.Vec) { b[side*parts+part] = v }

// Mid is the middle between the two sides of a landmark.
func (b *Body) Mid(part int) r3.Vec { return Between(b.At(Left, part), b.At(Right, part), 0.5) }

// Centre is the centre of mass.
func (s Sizes) Centre(b *Body) r3.Vec {
	var c r3.Vec
	for i, w := range s.weights {
		c = r3.Add(c, r3.Scale(w, b[i]))
	}
	return c
}

// Between is the point at a share of the way from a to b.
func Between(a, b r3.Vec, share float64) r3.Vec {
	return r3.Add(a, r3.Scale(share, r3.Sub(b, a)))
}

// Sum is u a + v b + w c.
func Sum(u float64, a r3.Vec, v float64, b r3.Vec, w float64, c r3.Vec) r3.Vec {
	return r3.Vec{X: u*a.X + v*b.X + w*c.X, Y: u*a.Y + v*b.Y + w*c.Y, Z: u*a.Z + v*b.Z + w*c.Z}
}

// Up is against gravity.
var Up = r3.Vec{Y: 1}

// Along is the level direction of a heading.
func Along(heading float64) r3.Vec {
	s, c := math.Sincos(angles.Rad(heading))
	return r3.Vec{X: c, Z: s}
}

// Heading is the heading of a direction.
func Heading(v r3.Vec) float64 { return angles.Deg(math.Atan2(v.Z, v.X)) }

// Basis is a body's own directions: forward, up along it, to its right.
type Basis struct{ F, U, R r3.Vec }

// Level is the basis of someone who stands and looks along a heading.
func Level(heading float64) Basis {
	f := Along(heading)
	return Basis{F: f, U: Up, R: r3.Cross(f, Up)}
}

// Turned twists a basis about its up (to the right), leans it forward, then
// leans it to the right; degrees.
func (b Basis) Turned(twist, forward, right float64) Basis {
	s, c := math.Sincos(angles.Rad(twist))
	b.F, b.R = Sum(c, b.F, s, b.R, 0, b.U), Sum(-s, b.F, c, b.R, 0, b.U)
	s, c = math.Sincos(angles.Rad(forward))
	b.U, b.F = Sum(c, b.U, s, b.F, 0, b.R), Sum(-s, b.U, c, b.F, 0, b.R)
	s, c = math.Sincos(angles.Rad(right))
	b.U, b.R = Sum(c, b.U, s, b.R, 0, b.F), Sum(-s, b.U, c, b.R, 0, b.F)
	return b
}

// Of gives a vector by its parts forward, up, right.
func (b Basis) Of(f, u, r float64) r3.Vec { return Sum(f, b.F, u, b.U, r, b.R) }

// Foot is one foot: its toe, the heading of its long axis, and how far the heel
// is raised over the toe, degrees.
type Foot struct {
	Toe           r3.Vec
	Heading, Sole float64
}

func (f Foot) axes() (along, up r3.Vec) {
	dir := Along(f.Heading)
	s, c := math.Sincos(angles.Rad(f.Sole))
	return Sum(c, dir, -s, Up, 0, Up), Sum(c, Up, s, dir, 0, Up)
}

// Heel is the heel of a foot.
func (s Sizes) Heel(f Foot) r3.Vec {
	along, _ := f.axes()
	return r3.Sub(f.Toe, r3.Scale(s.Foot, along))
}

// Ankle is the ankle over a foot.
func (s Sizes) Ankle(f Foot) r3.Vec {
	along, up := f.axes()
	return r3.Add(f.Toe, Sum(s.AnkleBack-s.Foot, along, s.AnkleUp, up, 0, up))
}

// Limb are the joint angles of a leg or an arm against the basis of pelvis or
// chest, degrees. Flex swings it forward from hanging, Out sideways away from
// the body, Turn about its own length outward, Bend is the inside angle of knee
// or elbow (straight is 180). Point and Toeing belong to feet: toes pointed
// away from a right angle to the shank, turned outward about it, and tipped
// about the foot's own length (Edge).
type Limb struct{ Flex, Out, Turn, Bend, Point, Toeing, Edge float64 }

// upper gives the direction of thigh or upper arm, its forward side and its
// outer side.
func (b Basis) upper(side int, l Limb) (along, front, out r3.Vec) {
	fs, fc := math.Sincos(angles.Rad(l.Flex))
	os, oc := math.Sincos(angles.Rad(l.Out))
	lateral := r3.Scale(Out(side), b.R)
	down := Sum(-fc, b.U, fs, b.F, 0, b.R)
	front = Sum(fs, b.U, fc, b.F, 0, b.R)
	along = Sum(oc, down, os, lateral, 0, down)
	out = Sum(oc, lateral, -os, down, 0, down)
	ts, tc := math.Sincos(angles.Rad(l.Turn))
	return along, Sum(tc, front, ts, out, 0, out), Sum(tc, out, -ts, front, 0, front)
}

// leg places knee, ankle, heel and toe below a hip from joint angles.
func (s Sizes) leg(b Basis, side int, hip r3.Vec, l Limb, to *Body) {
	along, front, out := b.upper(side, l)
	bs, bc := math.Sincos(angles.Rad(180 - l.Bend))
	shank := Sum(bc, along, -bs, front, 0, out)
	shin := Sum(bs, along, bc, front, 0, out)
	knee := r3.Add(hip, r3.Scale(s.Thigh, along))
	ankle := r3.Add(knee, r3.Scale(s.Shank, shank))
	ps, pc := math.Sincos(angles.Rad(l.Point))
	qs, qc := math.Sincos(angles.Rad(l.Toeing))
	ahead := Sum(qc, shin, qs, out, 0, out)
	foot := Sum(pc, ahead, ps, shank, 0, out)
	top := Sum(ps, ahead, -pc, shank, 0, out)
	es, ec := math.Sincos(angles.Rad(l.Edge))
	top = Sum(ec, top, es, r3.Cross(foot, top), 0, top)
	toe := r3.Add(ankle, Sum(s.Foot-s.AnkleBack, foot, -s.AnkleUp, top, 0, top))
	to.set(side, Knee, knee)
	to.set(side, Ankle, ankle)
	to.set(side, Toe, toe)
	to.set(side, Heel, r3.Sub(toe, r3.Scale(s.Foot, foot)))
}

// Lowest is the height of the lower of toe and heel of a leg held so.
func (s Sizes) Lowest(p *Pose, side int, l Limb) float64 {
	var b Body
	s.leg(p.Pelvis(), side, s.HipJoint(p, side), l, &b)
	return math.Min(b.At(side, Toe).Y, b.At(side, Heel).Y)
}

// Bend places the middle joint of a two-link chain from a to b, bulging towards
// dir. A chain too short is drawn straight along the line.
func Bend(a, b r3.Vec, la, lb float64, dir r3.Vec) r3.Vec {
	ab := r3.Sub(b, a)
	dist := math.Max(math.Min(r3.Norm(ab), la+lb), math.Abs(la-lb)+1e-6)
	along := r3.Unit(ab)
	x := (la*la - lb*lb + dist*dist) / (2 * dist)
	h := math.Sqrt(math.Max(0, la*la-x*x))
	side := r3.Sub(dir, r3.Scale(r3.Dot(dir, along), along))
	return r3.Add(a, r3.Add(r3.Scale(x, along), r3.Scale(h, r3.Unit(side))))
}

// knees tells where the knee of a planted leg points: between the foot's own
// direction and the pelvis.
func (b Basis) knees(f Foot) r3.Vec {
	dir := Along(f.Heading)
	return r3.Unit(r3.Add(Sum(0.75, dir, 0.25, b.F, 0.12, b.U), r3.Scale(0.02, Up)))
}

// stand places a leg whose foot is planted.
func (s Sizes) stand(b Basis, side int, hip r3.Vec, f Foot, to *Body) {
	ankle := s.Ankle(f)
	to.set(side, Knee, Bend(hip, ankle, s.Thigh, s.Shank, b.knees(f)))
	to.set(side, Ankle, ankle)
	to.set(side, Toe, f.Toe)
	to.set(side, Heel, s.Heel(f))
}

// LegAngles reads the joint angles of a planted leg, so that a swing can begin
// and end where the plant has it.
func (s Sizes) LegAngles(b Basis, side int, hip r3.Vec, f Foot) Limb {
	var at Body
	s.stand(b, side, hip, f, &at)
	along := r3.Unit(r3.Sub(at.At(side, Knee), hip))
	shank := r3.Unit(r3.Sub(at.At(side, Ankle), at.At(side, Knee)))
	lateral := r3.Scale(Out(side), b.R)
	l := Limb{
		Flex: angles.Deg(math.Atan2(r3.Dot(along, b.F), -r3.Dot(along, b.U))),
		Out:  angles.Deg(math.Asin(math.Max(-1, math.Min(1, r3.Dot(along, lateral))))),
		Bend: 180 - angles.Deg(math.Acos(math.Max(-1, math.Min(1, r3.Dot(along, shank))))),
	}
	_, front, out := b.upper(side, l)
	// As the chain of thigh and shank bulges: across the line from hip to ankle first, or a
	// thigh past the knees' direction would seem to be turned round.
	chord := r3.Unit(r3.Sub(at.At(side, Ankle), hip))
	bulge := b.knees(f)
	bulge = r3.Sub(bulge, r3.Scale(r3.Dot(bulge, chord), chord))
	bulge = r3.Unit(r3.Sub(bulge, r3.Scale(r3.Dot(bulge, along), along)))
	l.Turn = angles.Deg(math.Atan2(r3.Dot(bulge, out), r3.Dot(bulge, front)))
	_, front, out = b.upper(side, l)
	bs, bc := math.Sincos(angles.Rad(180 - l.Bend))
	shin := Sum(bs, along, bc, front, 0, out)
	foot, up := f.axes()
	l.Point = angles.Deg(math.Asin(math.Max(-1, math.Min(1, r3.Dot(foot, shank)))))
	l.Toeing = angles.Deg(math.Atan2(r3.Dot(foot, out), r3.Dot(foot, shin)))
	ps, pc := math.Sincos(angles.Rad(l.Point))
	qs, qc := math.Sincos(angles.Rad(l.Toeing))
	top := Sum(ps, Sum(qc, shin, qs, out, 0, out), -pc, shank, 0, out)
	l.Edge = angles.Deg(math.Atan2(r3.Dot(up, r3.Cross(foot, top)), r3.Dot(up, top)))
	return l
}

// Arm says how an arm is held: by joint angles, and drawn by Pull (0 to 1) to a
// place that the knuckles hold, the elbow pointing to Elbow in the chest's basis
// (forward, up, outward).
type Arm struct {
	Limb
	Grip  r3.Vec
	Pull  float64
	Elbow r3.Vec
}

func (s Sizes) arm(b Basis, side int, shoulder r3.Vec, a Arm, to *Body) {
	along, front, _ := b.upper(side, a.Limb)
	bs, bc := math.Sincos(angles.Rad(180 - a.Bend))
	fore := Sum(bc, along, bs, front, 0, front)
	elbow := r3.Add(shoulder, r3.Scale(s.UpperArm, along))
	hand := r3.Add(elbow, r3.Scale(s.Forearm+s.Hand, fore))
	if a.Pull > 0 {
		hand = Between(hand, a.Grip, a.Pull)
		dir := b.Of(a.Elbow.X, a.Elbow.Y, Out(side)*a.Elbow.Z)
		if a.Pull < 1 {
			dir = Between(r3.Scale(-1, r3.Sub(Between(shoulder, hand, 0.5), elbow)), dir, a.Pull)
		}
		elbow = Bend(shoulder, hand, s.UpperArm, s.Forearm+s.Hand, dir)
		fore = r3.Unit(r3.Sub(hand, elbow))
		hand = r3.Add(elbow, r3.Scale(s.Forearm+s.Hand, fore))
	}
	to.set(side, Elbow, elbow)
	to.set(side, Wrist, r3.Add(elbow, r3.Scale(s.Forearm, fore)))
	to.set(side, Hand, hand)
}

// Leg says how a leg is held: planted on a foot, or by joint angles.
type Leg struct {
	Limb
	Planted bool
	Foot    Foot
}

// Pose is one instant of the whole body, degrees and metres. The pelvis has a
// heading, a forward and a sideways lean; the chest is turned against it.
type Pose struct {
	Hip                 r3.Vec
	Heading, Lean, Tilt float64
	Twist, Bend, Side   float64
	Nod, Look           float64
	Shrug               [2]float64 // shoulder ahead of the chest, metres
	Legs                [2]Leg
	Arms                [2]Arm
}

// Pelvis is the basis of the pelvis, Chest that of the chest.
func (p *Pose) Pelvis() Basis { return Level(p.Heading).Turned(0, p.Lean, p.Tilt) }

// Chest is the basis of the chest.
func (p *Pose) Chest() Basis { return p.Pelvis().Turned(p.Twist, p.Bend, p.Side) }

// low is the share of the trunk that goes with the pelvis.
const low = 0.42

// Neck is the middle of the shoulders.
func (s Sizes) Neck(p *Pose) r3.Vec {
	return r3.Add(p.Hip, Sum(low*s.Trunk, p.Pelvis().U, (1-low)*s.Trunk, p.Chest().U, 0, Up))
}

// HipJoint is the hip of a side.
func (s Sizes) HipJoint(p *Pose, side int) r3.Vec {
	return r3.Add(p.Hip, r3.Scale(Out(side)*s.HipHalf, p.Pelvis().R))
}

// ShoulderJoint is the shoulder of a side.
func (s Sizes) ShoulderJoint(p *Pose, side int) r3.Vec {
	c := p.Chest()
	return r3.Add(s.Neck(p), Sum(Out(side)*s.ShoulderHalf, c.R, p.Shrug[side], c.F, 0, c.U))
}

// Place gives every landmark of a pose.
func (s Sizes) Place(p *Pose) Body {
	var b Body
	pelvis, chest := p.Pelvis(), p.Chest()
	neck := s.Neck(p)
	head := chest.Turned(p.Look, p.Nod, 0)
	skull := r3.Add(neck, r3.Scale(s.HeadUp, head.U))
	for side := range 2 {
		hip := s.HipJoint(p, side)
		b.set(side, Hip, hip)
		if leg := p.Legs[side]; leg.Planted {
			s.stand(pelvis, side, hip, leg.Foot, &b)
		} else {
			s.leg(pelvis, side, hip, leg.Limb, &b)
		}
		shoulder := s.ShoulderJoint(p, side)
		b.set(side, Shoulder, shoulder)
		s.arm(chest, side, shoulder, p.Arms[side], &b)
		b.set(side, Ear, r3.Add(skull, r3.Scale(Out(side)*0.072*s.Scale, head.R)))
	}
	return b
}

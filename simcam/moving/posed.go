package moving

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam/figure"
)

// standing is somebody who stands at ease, before the first pose says otherwise.
func standing() figure.Pose {
	s := figure.SizesOf(athlete)
	p := figure.Pose{Hip: r3.Vec{Y: 0.985 * (s.Leg() + s.AnkleUp)}}
	for side := range 2 {
		p.Legs[side] = figure.Leg{Planted: true, Foot: figure.Foot{Toe: r3.Vec{X: 0.16, Z: figure.Out(side) * 0.1}}}
		p.Arms[side] = figure.Arm{Limb: figure.Limb{Flex: 4, Out: 8, Bend: 160}}
	}
	return p
}

// pose is what a pose makes of the one before.
func (k Pose) after(p figure.Pose) (figure.Pose, error) {
	set := func(to *float64, v *float64) {
		if v != nil {
			*to = *v
		}
	}
	tall := athlete.Height
	if len(k.Hip) > 0 {
		if len(k.Hip) != 2 {
			return p, errors.New("a hip is at an x and a height")
		}
		p.Hip.X, p.Hip.Y = k.Hip[0]*tall, k.Hip[1]*tall
	}
	set(&p.Heading, k.Heading)
	set(&p.Lean, k.Lean)
	set(&p.Twist, k.Twist)
	set(&p.Bend, k.Bend)
	set(&p.Nod, k.Nod)
	for side, l := range [2][]float64{k.Left, k.Right} {
		if len(l) == 0 {
			continue
		}
		if len(l) != 3 {
			return p, fmt.Errorf("a leg in the air has flex, knee and point: %v", l)
		}
		p.Legs[side] = figure.Leg{Limb: figure.Limb{Flex: l[0], Bend: l[1], Point: l[2]}}
	}
	for side, l := range [2][]float64{k.Stand, k.Other} {
		if len(l) == 0 {
			continue
		}
		if len(l) < 4 || len(l) > 5 {
			return p, fmt.Errorf("a foot on the ground has toe x and z, heading and heel: %v", l)
		}
		f := figure.Foot{Toe: r3.Vec{X: l[0] * tall, Z: l[1] * tall}, Heading: l[2], Sole: l[3]}
		if len(l) == 5 {
			f.Toe.Y = l[4] * tall
		}
		p.Legs[side] = figure.Leg{Planted: true, Foot: f}
	}
	if len(k.Grip) > 0 {
		if len(k.Grip) != 3 {
			return p, fmt.Errorf("hands hold at x, height and aside: %v", k.Grip)
		}
		for side := range 2 {
			p.Arms[side].Grip = r3.Vec{X: k.Grip[0] * tall, Y: k.Grip[1] * tall, Z: figure.Out(side) * k.Grip[2] * tall}
			p.Arms[side].Pull, p.Arms[side].Elbow = 1, r3.Vec{X: -0.5, Z: 1}
		}
	}
	for side, a := range [2][]float64{k.LeftArm, k.RightArm} {
		if len(a) == 0 {
			continue
		}
		if len(a) < 3 || len(a) > 4 {
			return p, fmt.Errorf("an arm has flex, out, elbow and turn: %v", a)
		}
		l := figure.Limb{Flex: a[0], Out: a[1], Bend: a[2]}
		if len(a) == 4 {
			l.Turn = a[3]
		}
		p.Arms[side] = figure.Arm{Limb: l}
	}
	return p, nil
}

// between is a pose on the way from one to another.
func between(a, b figure.Pose, u float64, s figure.Sizes) figure.Pose {
	mix := func(x, y float64) float64 { return x + (y-x)*u }
	limb := func(x, y figure.Limb) figure.Limb {
		return figure.Limb{Flex: mix(x.Flex, y.Flex), Out: mix(x.Out, y.Out), Turn: mix(x.Turn, y.Turn), Bend: mix(x.Bend, y.Bend), Point: mix(x.Point, y.Point), Toeing: mix(x.Toeing, y.Toeing), Edge: mix(x.Edge, y.Edge)}
	}
	p := figure.Pose{Hip: figure.Between(a.Hip, b.Hip, u), Heading: mix(a.Heading, b.Heading), Lean: mix(a.Lean, b.Lean), Twist: mix(a.Twist, b.Twist), Bend: mix(a.Bend, b.Bend), Nod: mix(a.Nod, b.Nod)}
	for side := range 2 {
		p.Arms[side] = figure.Arm{Limb: limb(a.Arms[side].Limb, b.Arms[side].Limb), Pull: mix(a.Arms[side].Pull, b.Arms[side].Pull), Grip: figure.Between(a.Arms[side].Grip, b.Arms[side].Grip, u), Elbow: b.Arms[side].Elbow}
		x, y := a.Legs[side], b.Legs[side]
		switch {
		case x.Planted && y.Planted && x.Foot.Toe == y.Foot.Toe:
			f := x.Foot
			f.Heading, f.Sole = mix(x.Foot.Heading, y.Foot.Heading), mix(x.Foot.Sole, y.Foot.Sole)
			p.Legs[side] = figure.Leg{Planted: true, Foot: f}
		case x.Planted && y.Planted:
			// A step: the foot is lifted on its way.
			f := figure.Foot{Toe: figure.Between(x.Foot.Toe, y.Foot.Toe, u), Heading: mix(x.Foot.Heading, y.Foot.Heading), Sole: mix(x.Foot.Sole, y.Foot.Sole) + 25*math.Sin(math.Pi*u)}
			f.Toe.Y += 0.09 * math.Sin(math.Pi*u)
			p.Legs[side] = figure.Leg{Planted: true, Foot: f}
		default:
			of := func(l figure.Leg, q figure.Pose) figure.Limb {
				if !l.Planted {
					return l.Limb
				}
				return s.LegAngles(q.Pelvis(), side, s.HipJoint(&q, side), l.Foot)
			}
			p.Legs[side] = figure.Leg{Limb: limb(of(x, a), of(y, b))}
		}
	}
	return p
}

// Of a javelin: m from the grip to both ends. How fast things leave, as slow as the rest is shown, m/s.
const (
	toTip, toTail = 1.25, 1.0
	leaves        = 6.0
)

// flight tells where something that leaves the hands is, and along what it points.
type flight struct {
	at, aim []float64 // pictures and degrees of the poses
	away    float64   // picture at which it leaves
	from    *r3.Vec
}

func flightOf(poses []Pose) *flight {
	f := &flight{away: math.Inf(1)}
	when, now := 0.0, 0.0
	for _, p := range poses {
		if when += p.After * Rate; p.Aim != nil {
			now = *p.Aim
		}
		if f.at, f.aim = append(f.at, when), append(f.aim, now); p.Away {
			f.away = when
		}
	}
	return f
}

// in is its place and direction in a picture, from where the hands are.
func (f *flight) in(n int, hands r3.Vec) (place, along r3.Vec) {
	t := min(float64(n), f.away)
	k := 1
	for k < len(f.at)-1 && f.at[k] < t {
		k++
	}
	u := min(max((t-f.at[k-1])/max(f.at[k]-f.at[k-1], 1), 0), 1)
	angle := (f.aim[k-1] + u*(f.aim[k]-f.aim[k-1])) * math.Pi / 180
	along = r3.Vec{X: math.Cos(angle), Y: math.Sin(angle)}
	if float64(n) < f.away {
		return hands, along
	}
	if f.from == nil {
		f.from = &hands
	}
	return r3.Add(*f.from, r3.Scale(leaves*(float64(n)-f.away)/Rate, along)), along
}

// posed goes from pose to pose and, at the end, to the first again.
func posed(s Spec) (Drawn, error) {
	sizes := figure.SizesOf(athlete)
	now := standing()
	var keys []figure.Pose
	for i, k := range s.Poses {
		p, err := k.after(now)
		if err != nil {
			return Drawn{}, fmt.Errorf("pose %d: %w", i+1, err)
		}
		keys = append(keys, p)
		now = p
	}
	if len(keys) < 2 {
		return Drawn{}, errors.New("a figure of poses has two or more")
	}
	var list []picture
	held := s.Poses[0].Held
	leaving := flightOf(s.Poses)
	add := func(p figure.Pose) {
		one := picture{body: sizes.Place(&p)}
		switch {
		case len(held) > 0:
			c := one.body.Mid(figure.Hand)
			if len(held) > 1 {
				c = one.body.At(figure.Right, figure.Hand)
			}
			c, _ = leaving.in(len(list), c)
			one.held = &c
		case s.Poses[0].Aim != nil:
			grip, along := leaving.in(len(list), one.body.At(figure.Right, figure.Hand))
			one.shaft = &[2]r3.Vec{r3.Sub(grip, r3.Scale(toTail, along)), r3.Add(grip, r3.Scale(toTip, along))}
		}
		list = append(list, one)
	}
	for i := 1; i < len(keys); i++ {
		n := max(1, int(math.Round(s.Poses[i].After*Rate)))
		for k := range n {
			u := float64(k) / float64(n)
			add(between(keys[i-1], keys[i], u*u*(3-2*u), sizes))
		}
	}
	add(keys[len(keys)-1])
	out, err := project(s, list)
	if len(held) > 0 {
		out.Size = held[0]
	}
	return out, err
}

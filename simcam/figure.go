// Package simcam is the simulated athlete and camera: clips of which every
// joint, contact and key position is known. It feeds the demo and gives tests
// their truth.
//
// World: metres, x along the lane, y up, z towards a camera at the side. The
// athlete runs to +x; a turned athlete is rotated about y afterwards.
package simcam

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/core/plane"
)

// dims are the sizes of one athlete's links, metres.
type dims struct {
	thigh, shank, trunk, upperArm, forearm, hand float64
	foot, ankleUp, ankleBack                     float64 // heel to toe; ankle above sole; ankle ahead of heel
	shoulderHalf, hipHalf, headUp                float64
}

func dimsOf(a body.Person) dims {
	l := func(s string) float64 { return body.Length(a, s) }
	return dims{
		thigh: l("thigh"), shank: l("shank"), trunk: l("trunk"), upperArm: l("upper_arm"), forearm: l("forearm"), hand: l("hand"),
		foot: l("foot"), ankleUp: 0.045 * a.Height, ankleBack: 0.25 * l("foot"),
		// Half widths between joint centres, from memory of anthropometric tables.
		shoulderHalf: 0.105 * a.Height, hipHalf: 0.05 * a.Height, headUp: 0.115 * a.Height,
	}
}

// pose is one instant: what is needed to place every landmark.
type pose struct {
	hip        r3.Vec  // middle of the hips
	trunk      float64 // trunk against the ground, degrees
	head       float64 // head raised from the trunk line, degrees
	hipYaw     float64 // front-leg hip ahead, degrees about the vertical
	shoulder   float64 // front-leg-side shoulder ahead, degrees about the trunk
	toe        [2]r3.Vec
	sole       [2]float64 // heel raised, degrees
	arm, elbow [2]float64 // upper arm from straight down, + forward; inside elbow angle
}

// Legs and arms are indexed by role so that mirroring is one decision.
const (
	front = 0
	rear  = 1
)

// ankleFrom gives the ankle of a foot whose toe is fixed and heel is raised.
func (d dims) ankleFrom(toe r3.Vec, sole float64) r3.Vec {
	back, up := d.foot-d.ankleBack, d.ankleUp
	s, c := math.Sincos(plane.Rad(sole))
	return r3.Vec{X: toe.X - back*c + up*s, Y: toe.Y + back*s + up*c, Z: toe.Z}
}

func (d dims) heelFrom(toe r3.Vec, sole float64) r3.Vec {
	s, c := math.Sincos(plane.Rad(sole))
	return r3.Vec{X: toe.X - d.foot*c, Y: toe.Y + d.foot*s, Z: toe.Z}
}

// bend places the middle joint of a two-link chain from a to b, bulging towards
// dir. A chain too short is drawn straight along the line.
func bend(a, b r3.Vec, la, lb float64, dir r3.Vec) r3.Vec {
	ab := r3.Sub(b, a)
	dist := math.Min(r3.Norm(ab), la+lb)
	along := r3.Unit(ab)
	x := (la*la - lb*lb + dist*dist) / (2 * dist)
	h := math.Sqrt(math.Max(0, la*la-x*x))
	side := r3.Sub(dir, r3.Scale(r3.Dot(dir, along), along))
	return r3.Add(a, r3.Add(r3.Scale(x, along), r3.Scale(h, r3.Unit(side))))
}

// landmarks places all landmarks of a pose for an athlete running to +x.
func (d dims) landmarks(p pose, frontLeg body.Side) map[string]r3.Vec {
	out := map[string]r3.Vec{}
	ts, tc := math.Sincos(plane.Rad(p.trunk))
	axis := r3.Vec{X: tc, Y: ts}
	chest := r3.Add(p.hip, r3.Scale(d.trunk, axis))
	belly := r3.Vec{X: ts, Y: -tc} // forward across the trunk
	hs, hc := math.Sincos(plane.Rad(p.trunk + p.head))
	skull := r3.Add(chest, r3.Scale(d.headUp, r3.Vec{X: hc, Y: hs}))
	for role, side := range map[int]body.Side{front: frontLeg, rear: frontLeg.Other()} {
		lateral, ahead := 1.0, 1.0 // the right side is at +z
		if side == body.Left {
			lateral = -1
		}
		if role == rear {
			ahead = -1
		}
		put := func(part string, v r3.Vec) { out[string(side)+"_"+part] = v }
		ys, yc := math.Sincos(plane.Rad(p.hipYaw))
		hip := r3.Add(p.hip, r3.Vec{X: ahead * d.hipHalf * ys, Z: lateral * d.hipHalf * yc})
		ss, sc := math.Sincos(plane.Rad(p.shoulder))
		sh := r3.Add(chest, r3.Add(r3.Scale(ahead*d.shoulderHalf*ss, belly), r3.Vec{Z: lateral * d.shoulderHalf * sc}))
		ankle := d.ankleFrom(p.toe[role], p.sole[role])
		put("hip", hip)
		put("knee", bend(hip, ankle, d.thigh, d.shank, r3.Vec{X: 1, Y: 0.2}))
		put("ankle", ankle)
		put("heel", d.heelFrom(p.toe[role], p.sole[role]))
		put("toe", p.toe[role])
		us, uc := math.Sincos(plane.Rad(p.arm[role]))
		elbow := r3.Add(sh, r3.Scale(d.upperArm, r3.Vec{X: us, Y: -uc}))
		fs, fc := math.Sincos(plane.Rad(p.arm[role] + 180 - p.elbow[role]))
		forearm := r3.Vec{X: fs, Y: -fc}
		put("shoulder", sh)
		put("elbow", elbow)
		put("wrist", r3.Add(elbow, r3.Scale(d.forearm, forearm)))
		put("hand", r3.Add(elbow, r3.Scale(d.forearm+d.hand, forearm)))
		put("ear", r3.Add(skull, r3.Vec{Z: lateral * 0.04 * d.headUp / 0.2}))
	}
	return out
}

// curve is a smooth path through (t, value) keys: cubic Hermite with slopes
// limited so that it never overshoots a key (Fritsch and Carlson 1980, SIAM J.
// Numer. Anal. 17:238). Outside the keys it stays at the end values, or runs on
// with the end slope when run is set.
type curve struct {
	t, v, m []float64
	run     bool
}

func newCurve(run bool, tv ...float64) curve {
	c := curve{run: run}
	for i := 0; i < len(tv); i += 2 {
		c.t, c.v = append(c.t, tv[i]), append(c.v, tv[i+1])
	}
	n := len(c.t)
	slope := make([]float64, n-1)
	for i := range slope {
		slope[i] = (c.v[i+1] - c.v[i]) / (c.t[i+1] - c.t[i])
	}
	c.m = make([]float64, n)
	if run {
		c.m[n-1] = slope[n-2]
	}
	for i := 1; i < n-1; i++ {
		a, b := slope[i-1], slope[i]
		if a*b <= 0 {
			continue
		}
		h0, h1 := c.t[i]-c.t[i-1], c.t[i+1]-c.t[i]
		w0, w1 := 2*h1+h0, h1+2*h0
		c.m[i] = (w0 + w1) / (w0/a + w1/b)
	}
	return c
}

func (c curve) at(t float64) float64 {
	n := len(c.t)
	if t <= c.t[0] {
		return c.v[0]
	}
	if t >= c.t[n-1] {
		if c.run {
			return c.v[n-1] + c.m[n-1]*(t-c.t[n-1])
		}
		return c.v[n-1]
	}
	i := 0
	for t > c.t[i+1] {
		i++
	}
	h := c.t[i+1] - c.t[i]
	s := (t - c.t[i]) / h
	s2, s3 := s*s, s*s*s
	return (2*s3-3*s2+1)*c.v[i] + (s3-2*s2+s)*h*c.m[i] + (3*s2-2*s3)*c.v[i+1] + (s3-s2)*h*c.m[i+1]
}

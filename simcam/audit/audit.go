// Package audit looks at the truth of simulated clips from outside: do feet
// stand still, does the body fall, does a dialled fault show and no earlier one.
// It reads positions only and knows nothing of how the motions are made.
package audit

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam"
)

// Clip gives the truth of a clip by the model's sides: of an athlete who does
// everything the other way round, left is right and z is turned.
type Clip struct {
	simcam.Truth
	mirrored bool
}

// Of reads a truth.
func Of(t simcam.Truth) Clip { return Clip{t, t.Spec.Mirrored()} }

func (c Clip) own(id string) string {
	if !c.mirrored {
		return id
	}
	switch {
	case len(id) > 5 && id[:5] == "left_":
		return "right_" + id[5:]
	case len(id) > 6 && id[:6] == "right_":
		return "left_" + id[6:]
	}
	return id
}

func (c Clip) vec(w [3]float64) r3.Vec {
	v := r3.Vec{X: w[0], Y: w[1], Z: w[2]}
	if c.mirrored {
		v.Z = -v.Z
	}
	return v
}

// At is a landmark in a frame, "mid_hip" the middle of both.
func (c Clip) At(frame int, id string) r3.Vec {
	if len(id) > 4 && id[:4] == "mid_" {
		return r3.Scale(0.5, r3.Add(c.At(frame, "left_"+id[4:]), c.At(frame, "right_"+id[4:])))
	}
	return c.vec(c.Frames[frame].Landmarks[c.own(id)].World)
}

// Thing is a point of the implement in a frame.
func (c Clip) Thing(frame int, id string) r3.Vec { return c.vec(c.Frames[frame].Implement[id].World) }

// Time of a key position, s.
func (c Clip) Time(position string) float64 {
	f, ok := c.Positions[position]
	if !ok {
		return math.NaN()
	}
	return c.Frames[f].Time
}

// Pos is the frame of a key position; -1 when the clip does not show it.
func (c Clip) Pos(position string) int {
	if f, ok := c.Positions[position]; ok {
		return f
	}
	return -1
}

// Joint is the inside angle at b, degrees.
func (c Clip) Joint(frame int, a, b, d string) float64 {
	u, v := r3.Sub(c.At(frame, a), c.At(frame, b)), r3.Sub(c.At(frame, d), c.At(frame, b))
	return deg(math.Acos(math.Max(-1, math.Min(1, r3.Cos(u, v)))))
}

// Knee is the inside angle of a knee.
func (c Clip) Knee(frame int, side string) float64 {
	return c.Joint(frame, side+"_hip", side+"_knee", side+"_ankle")
}

// Foot is the azimuth in which a foot points, degrees, 0 to 360.
func (c Clip) Foot(frame int, side string) float64 {
	v := r3.Sub(c.At(frame, side+"_toe"), c.At(frame, side+"_heel"))
	return math.Mod(180-deg(math.Atan2(v.Z, v.X))+720, 360)
}

// Trunk is the lean of the trunk from upright towards a direction, degrees.
func (c Clip) Trunk(frame int, towards r3.Vec) float64 {
	v := r3.Sub(c.At(frame, "mid_shoulder"), c.At(frame, "mid_hip"))
	return deg(math.Atan2(r3.Dot(v, towards), v.Y))
}

func deg(rad float64) float64 { return rad * 180 / math.Pi }

// Slide is how far a planted foot moves off its place at most, m: its toe, or
// its heel while it turns on that.
func Slide(t simcam.Truth) float64 {
	var worst float64
	for _, side := range []string{"left", "right"} {
		var from [3]float64
		held := ""
		for _, f := range t.Frames {
			on := ""
			for _, s := range f.Contacts {
				if s == side {
					on = side + "_toe"
				}
			}
			for _, s := range f.OnHeel {
				if s == side {
					on = side + "_heel"
				}
			}
			if on == "" {
				held = ""
				continue
			}
			at := f.Landmarks[on].World
			if on != held {
				held, from = on, at
			}
			worst = math.Max(worst, math.Sqrt(sq(at[0]-from[0])+sq(at[1]-from[1])+sq(at[2]-from[2])))
		}
	}
	return worst
}

func sq(v float64) float64 { return v * v }

// Falls gives the acceleration of the centre of mass, m/s2, downward, of each
// stretch in which nothing holds the athlete: a parabola fitted to its heights.
func Falls(t simcam.Truth) []float64 {
	var out []float64
	for i := 0; i < len(t.Frames); {
		j := i
		for j < len(t.Frames) && t.Frames[j].Free {
			j++
		}
		if j-i >= 6 {
			out = append(out, -2*bowl(t, i, j))
		}
		i = max(j, i+1)
	}
	return out
}

// bowl is the square term of the least-squares parabola through heights.
func bowl(t simcam.Truth, from, to int) float64 {
	mid := (t.Frames[from].Time + t.Frames[to-1].Time) / 2
	var s [5]float64
	var y [3]float64
	for _, f := range t.Frames[from:to] {
		x, p := f.Time-mid, 1.0
		for k := range s {
			s[k] += p
			if k < 3 {
				y[k] += p * f.Centre.World[1]
			}
			p *= x
		}
	}
	// Normal equations of a + b x + c x2 by Cramer's rule.
	det := func(a, b, c [3]float64) float64 {
		return a[0]*(b[1]*c[2]-b[2]*c[1]) - b[0]*(a[1]*c[2]-a[2]*c[1]) + c[0]*(a[1]*b[2]-a[2]*b[1])
	}
	a, b, c := [3]float64{s[0], s[1], s[2]}, [3]float64{s[1], s[2], s[3]}, [3]float64{s[2], s[3], s[4]}
	return det(a, b, y) / det(a, b, c)
}

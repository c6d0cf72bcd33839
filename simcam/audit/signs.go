package audit

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam/move"
)

// Sign is the measure by which a fault shows. Bands are those of the trade, as
// common practice unless a rule or source is named; where the trade gives no
// number the band is ours.
type Sign struct {
	Event, Variant, Fault string
	Says, Unit            string
	Low, High             float64
	Of                    func(Clip) float64
}

// Met tells whether a clip is inside the band.
func (s Sign) Met(c Clip) bool {
	v := s.Of(c)
	return v >= s.Low && v <= s.High
}

var ahead = r3.Vec{X: 1}

func (c Clip) between(a, b string) float64 { return c.Time(b) - c.Time(a) }

// over goes through the frames from one key position to another.
func (c Clip) over(from, to string, f func(frame int) float64, pick func(a, b float64) float64) float64 {
	best := math.NaN()
	for i := max(0, c.Pos(from)); i <= c.Pos(to); i++ {
		if v := f(i); math.IsNaN(best) {
			best = v
		} else {
			best = pick(best, v)
		}
	}
	return best
}

// tilt is how much higher the left of a pair is than the right, degrees.
func (c Clip) tilt(frame int, part string) float64 {
	v := r3.Sub(c.At(frame, "left_"+part), c.At(frame, "right_"+part))
	return deg(math.Atan2(v.Y, math.Hypot(v.X, v.Z)))
}

// lastWind is the frame in which the ball passes 0 in the last wind.
func (c Clip) lastWind() int { return max(c.Pos("wind1"), c.Pos("wind2")) }

func (c Clip) thigh(frame int, side string) float64 {
	v := r3.Sub(c.At(frame, side+"_knee"), c.At(frame, side+"_hip"))
	return deg(math.Atan2(v.Y, math.Hypot(v.X, v.Z)))
}

// apart is the hips' azimuth minus that of the shoulders.
func (c Clip) apart(frame int) float64 {
	a := c.Frames[frame].Azimuths
	return math.Remainder(a.Hips-a.Shoulders, 360)
}

// lag is the azimuth of the chest minus that of the implement.
func (c Clip) lag(frame int) float64 {
	a := c.Frames[frame].Azimuths
	return math.Remainder(a.Shoulders-*a.Implement, 360)
}

func (c Clip) ball(position string) float64 {
	return math.Mod(*c.Frames[c.Pos(position)].Azimuths.Implement+3600, 360)
}

// footAhead is how far the ankle is ahead of the hip, m.
func (c Clip) footAhead(position, side string) float64 {
	f := c.Pos(position)
	return c.At(f, side+"_ankle").X - c.At(f, side+"_hip").X
}

// forwardAhead is the same along the way the hips travel.
func (c Clip) forwardAhead(position, side string) float64 {
	f := c.Pos(position)
	way := r3.Sub(c.At(f, "mid_hip"), c.At(f-4, "mid_hip"))
	way.Y = 0
	return r3.Dot(r3.Sub(c.At(f, side+"_ankle"), c.At(f, "mid_hip")), r3.Unit(way))
}

func (c Clip) heelUp(position, side string) float64 {
	f := c.Pos(position)
	v := r3.Sub(c.At(f, side+"_heel"), c.At(f, side+"_toe"))
	return deg(math.Atan2(v.Y, math.Hypot(v.X, v.Z)))
}

// inward is how far a line leans to the left of the way of the hips, degrees.
func (c Clip) inward(frame int, from, to string) float64 {
	way := r3.Sub(c.At(frame, "mid_hip"), c.At(frame-4, "mid_hip"))
	way.Y = 0
	left := r3.Cross(r3.Vec{Y: 1}, r3.Unit(way))
	v := r3.Sub(c.At(frame, to), c.At(frame, from))
	return deg(math.Atan2(r3.Dot(v, left), v.Y))
}

func (c Clip) speed(frame int) float64 {
	d := 4
	v := r3.Sub(c.At(frame+d, "mid_hip"), c.At(frame-d, "mid_hip"))
	return math.Hypot(v.X, v.Z) / (c.Frames[frame+d].Time - c.Frames[frame-d].Time)
}

// Signs lists the signs of every fault, in the order of [move.Events].
func Signs() []Sign {
	const deg, m, s, share = "degrees", "m", "s", "share"
	var out []Sign
	add := func(event, variant, fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		out = append(out, Sign{event, variant, fault, says, unit, lo, hi, of})
	}
	inf := math.Inf(1)

	start := func(fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		add("sprint-start", "", fault, says, unit, lo, hi, of)
	}
	start("shoulders", "shoulders ahead of the hands in set", m, -0.02, 0.10, func(c Clip) float64 {
		f := c.Pos("set")
		return c.At(f, "mid_shoulder").X - c.At(f, "mid_hand").X
	})
	start("front-knee", "front knee in set", deg, 85, 100, func(c Clip) float64 { return c.Knee(c.Pos("set"), "left") })
	start("rear-knee", "rear knee in set", deg, 110, 135, func(c Clip) float64 { return c.Knee(c.Pos("set"), "right") })
	start("head-up", "head raised from the trunk's line in set", deg, -20, 15, func(c Clip) float64 {
		f := c.Pos("set")
		line := func(a, b string) float64 {
			v := r3.Sub(c.At(f, b), c.At(f, a))
			return math.Atan2(v.Y, v.X)
		}
		return (line("mid_shoulder", "mid_ear") - line("mid_hip", "mid_shoulder")) * 180 / math.Pi
	})
	start("foot-ahead", "first foot ahead of the hip", m, -inf, 0, func(c Clip) float64 { return c.footAhead("td1", "right") })
	start("early-rise", "rise of the body's line from clearance to the first toe-off", deg, -inf, 12, func(c Clip) float64 {
		line := func(position, side string) float64 {
			f := c.Pos(position) - 1
			v := r3.Sub(c.At(f, "mid_shoulder"), c.At(f, side+"_ankle"))
			return math.Atan2(v.Y, v.X) * 180 / math.Pi
		}
		return line("to1", "right") - line("clear", "left")
	})

	turns := func(event string) {
		add(event, "", "drag", "chest ahead of the ball at its 0, second turn", deg, -15, 15, func(c Clip) float64 { return c.lag(c.Pos("zero2")) })
		add(event, "", "early-step", "ball's azimuth at the lift, second turn", deg, 60, 110, func(c Clip) float64 { return c.ball("lift2") })
		add(event, "", "late-catch", "ball's azimuth at the catch, second turn", deg, 210, 255, func(c Clip) float64 { return c.ball("catch2") })
		add(event, "", "tall", "pivot knee at the ball's 0, second turn", deg, 115, 150, func(c Clip) float64 { return c.Knee(c.Pos("zero2"), "left") })
		add(event, "", "lean-away", "trunk off the vertical at the release", deg, 0, 16, func(c Clip) float64 {
			v := r3.Sub(c.At(c.Pos("release"), "mid_shoulder"), c.At(c.Pos("release"), "mid_hip"))
			return math.Acos(v.Y/r3.Norm(v)) * 180 / math.Pi
		})
	}
	add("hammer", "", "short-winds", "hands from the chest as the ball passes 0 in the last wind, share of the arm", share, 0.68, 1, func(c Clip) float64 {
		f := c.lastWind()
		arm := r3.Norm(r3.Sub(c.At(f, "left_shoulder"), c.At(f, "left_elbow"))) + r3.Norm(r3.Sub(c.At(f, "left_elbow"), c.At(f, "left_hand")))
		return r3.Norm(r3.Sub(c.At(f, "mid_hand"), c.At(f, "mid_shoulder"))) / arm
	})
	add("hammer", "", "open-winds", "chest past the ball at its 0 in the last wind", deg, -60, 0, func(c Clip) float64 { return c.lag(c.lastWind()) })
	turns("hammer")
	turns("weight")

	full := func(event, variant string) {
		add(event, variant, "over-turned", "azimuth of the pivot foot when it leaves", deg, 160, 197, func(c Clip) float64 { return c.Foot(c.Pos("pivot_off")-1, "left") })
		add(event, variant, "short-sweep", "sweep knee at its straightest", deg, 130, 180, func(c Clip) float64 {
			return c.over("sweep_off", "pivot_off", func(f int) float64 { return c.Knee(f, "right") - 200*b2f(c.Time("pivot_off")-c.Frames[f].Time > 0.32) }, math.Max)
		})
		add(event, variant, "pre-turned", "azimuth of the centre foot at its landing", deg, 240, 270, func(c Clip) float64 { return c.Foot(c.Pos("centre"), "right") })
		add(event, variant, "late-front", "centre landing to front landing", s, 0.14, 0.22, func(c Clip) float64 { return c.between("centre", "front") })
	}
	front := func(event, variant string) {
		add(event, variant, "open-front", "hips ahead of the shoulders at the front landing", deg, 20, 70, func(c Clip) float64 { return c.apart(c.Pos("front")) })
	}
	dive := func(event, variant, from, to string) {
		add(event, variant, "dive", "block shoulder below the other", deg, -inf, 16, func(c Clip) float64 {
			return c.over(from, to, func(f int) float64 { return -c.tilt(f, "shoulder") }, math.Max)
		})
	}
	full("discus", "full")
	add("discus", "", "wobble", "disc swings to either side in the air", deg, 0, 6, func(c Clip) float64 {
		from := c.Pos("release") + 1
		axis := func(f int) r3.Vec { return r3.Unit(r3.Sub(c.Thing(f, "axis"), c.Thing(f, "centre"))) }
		widest := 0.0
		for f := from; f < len(c.Frames); f++ {
			widest = math.Max(widest, math.Acos(math.Min(1, r3.Dot(axis(f), axis(from)))))
		}
		return widest * 90 / math.Pi
	})
	dive("discus", "standing", "wind", "wind")
	front("discus", "standing")
	add("discus", "standing", "low-point", "disc below the throwing shoulder at the end of the wind", m, -inf, 0.12, func(c Clip) float64 {
		f := c.Pos("wind")
		return c.At(f, "right_shoulder").Y - c.Thing(f, "centre").Y
	})

	add("shot", "glide", "upright-drive", "hips rise in the drive off the back", m, -inf, 0.05, func(c Clip) float64 {
		return c.At(c.Pos("drive_off"), "mid_hip").Y - c.At(c.Pos("centre"), "mid_hip").Y
	})
	add("shot", "glide", "crooked", "centre foot off the line from the back to the front foot", m, -0.10, 0.10, func(c Clip) float64 {
		a, b, d := c.At(0, "right_toe"), c.At(c.Pos("centre"), "right_toe"), c.At(c.Pos("front"), "left_toe")
		return b.Z - a.Z - (d.Z-a.Z)*(b.X-a.X)/(d.X-a.X)
	})
	add("shot", "glide", "flat-centre", "heel raised at the centre landing", deg, 15, 60, func(c Clip) float64 { return c.heelUp("centre", "right") })
	add("shot", "glide", "slow-front", "centre landing to front landing", s, 0, 0.10, func(c Clip) float64 { return c.between("centre", "front") })
	add("shot", "glide", "locked-block", "block knee at the front landing", deg, 145, 171, func(c Clip) float64 { return c.Knee(c.Pos("front"), "left") })
	add("shot", "glide", "pirouette", "further turn of the hips after the release", deg, -60, 60, func(c Clip) float64 {
		return c.Frames[len(c.Frames)-1].Azimuths.Hips - c.Frames[c.Pos("release")].Azimuths.Hips
	})
	dive("shot", "rotational", "wind", "pivot_off")
	full("shot", "rotational")
	front("shot", "rotational")

	jav := func(fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		add("javelin", "", fault, says, unit, lo, hi, of)
	}
	jav("reaching", "throwing-side foot ahead of the hip at its last landing, share of the leg", share, -0.1, 0.24, func(c Clip) float64 {
		f := c.Pos("last")
		leg := r3.Norm(r3.Sub(c.At(f, "right_hip"), c.At(f, "right_knee"))) + r3.Norm(r3.Sub(c.At(f, "right_knee"), c.At(f, "right_ankle")))
		return c.footAhead("last", "right") / leg
	})
	jav("weak-push", "push-off knee before the last throwing-side step", deg, 160, 180, func(c Clip) float64 { return c.Knee(c.Pos("to4")-1, "left") })
	jav("late-block", "last throwing-side landing to block landing", s, 0.15, 0.25, func(c Clip) float64 { return c.between("last", "block") })
	jav("soft-block", "block knee at the release", deg, 150, 180, func(c Clip) float64 { return c.Knee(c.Pos("release"), "left") })
	jav("pull-down", "shaft against the path at the release", deg, -5, 5, func(c Clip) float64 { return c.Release.Attack })
	jav("fall-away", "trunk falls to the block side at the release", deg, -inf, 20, func(c Clip) float64 { return c.Trunk(c.Pos("release"), r3.Vec{Z: -1}) })

	lj := func(fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		add("long-jump", "", fault, says, unit, lo, hi, of)
	}
	lj("no-sink", "hips at the penultimate landing over those at the landing before", m, -inf, 0.0, func(c Clip) float64 {
		return c.At(c.Pos("pen"), "mid_hip").Y - c.At(c.Pos("td_before"), "mid_hip").Y
	})
	lj("lean-back", "trunk at the toe-off", deg, -5, 10, func(c Clip) float64 { return c.Trunk(c.Pos("to"), ahead) })
	lj("short-drive", "free thigh below the level at the toe-off", deg, -20, 25, func(c Clip) float64 { return c.thigh(c.Pos("to"), "right") })
	lj("shoulder-drop", "shoulders out of level at the toe-off", deg, -5, 8, func(c Clip) float64 { return math.Abs(c.tilt(c.Pos("to"), "shoulder")) })
	lj("fold", "trunk at the first contact with the sand", deg, -10, 25, func(c Clip) float64 { return c.Trunk(c.Pos("land"), ahead) })

	hj := func(fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		add("high-jump", "", fault, says, unit, lo, hi, of)
	}
	hj("bent-curve", "bend at the hip against the lean from the ankle, third step of the curve", deg, -10, 10, func(c Clip) float64 {
		f := c.Pos("td4") + 16
		return c.inward(f, "mid_hip", "mid_shoulder") - c.inward(f, "left_ankle", "mid_hip")
	})
	hj("deep-sink", "knee in the penultimate contact at its most bent", deg, 108, 170, func(c Clip) float64 {
		return c.over("pen", "pen_off", func(f int) float64 { return c.Knee(f, "right") }, math.Min)
	})
	hj("upright-early", "inward lean of leg and trunk at the plant", deg, 8, 40, func(c Clip) float64 { return c.inward(c.Pos("plant"), "left_ankle", "mid_shoulder") })
	hj("leaper", "foot ahead of the hips at the plant", m, 0.30, 0.70, func(c Clip) float64 { return c.forwardAhead("plant", "left") })
	hj("soft-knee", "knee at the plant", deg, 160, 176, func(c Clip) float64 { return c.Knee(c.Pos("plant"), "left") })

	pv := func(fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		add("pole-vault", "", fault, says, unit, lo, hi, of)
	}
	pv("slowing", "speed in the air of the last step against the second last", share, 0.95, 1.1, func(c Clip) float64 {
		return c.speed(c.Pos("td")-10) / c.speed(c.Pos("pre")-10)
	})
	pv("low-plant", "top hand above the eyes at the landing before the take-off's last step", m, -0.12, 0.6, func(c Clip) float64 {
		f := (c.Pos("pre") + c.Pos("pre_off")) / 2
		return c.At(f, "right_hand").Y - c.At(f, "mid_ear").Y
	})
	pv("bent-arm", "top elbow at the toe-off", deg, 165, 180, func(c Clip) float64 {
		return c.Joint(c.Pos("to"), "right_shoulder", "right_elbow", "right_hand")
	})
	pv("under", "take-off toe ahead of the top hand at the toe-off", m, -0.20, 0.15, func(c Clip) float64 {
		f := c.Pos("to")
		return c.At(f, "left_toe").X - c.At(f, "right_hand").X
	})
	pv("late-knee", "drive thigh below the level at the toe-off", deg, -35, 30, func(c Clip) float64 { return c.thigh(c.Pos("to"), "right") })

	rn := func(fault, says, unit string, lo, hi float64, of func(Clip) float64) {
		add("running", "", fault, says, unit, lo, hi, of)
	}
	rn("hips-behind", "trunk over the hips at mid-stance", deg, -4, 12, func(c Clip) float64 { return c.Trunk(c.Pos("mid2"), ahead) })
	rn("over-stride", "foot ahead of the hip at the landing, share of the leg", share, 0, 0.25, func(c Clip) float64 {
		f := c.Pos("td2")
		leg := r3.Norm(r3.Sub(c.At(f, "left_hip"), c.At(f, "left_knee"))) + r3.Norm(r3.Sub(c.At(f, "left_knee"), c.At(f, "left_ankle")))
		return c.footAhead("td2", "left") / leg
	})
	rn("bounce", "vertical travel of the centre of mass", m, 0.05, 0.10, func(c Clip) float64 {
		y := func(f int) float64 { return c.Frames[f].Centre.World[1] }
		return c.over("td1", "td3", y, math.Max) - c.over("td1", "td3", y, math.Min)
	})
	rn("hands-cross", "a hand's way past the middle", m, -inf, 0.03, func(c Clip) float64 {
		return c.over("td1", "td3", func(f int) float64 { return c.At(f, "mid_hip").Z - c.At(f, "right_hand").Z }, math.Max)
	})
	rn("uneven", "right contact over left", share, 0.95, 1.05, func(c Clip) float64 {
		return c.between("td1", "to1") / c.between("td2", "to2")
	})
	return out
}

func b2f(v bool) float64 {
	if v {
		return 1
	}
	return 0
}

// SignsOf are the signs of one event and variant, earliest fault first.
func SignsOf(event, variant string) []Sign {
	var out []Sign
	e, err := move.Find(event)
	if err != nil {
		return nil
	}
	for _, d := range e.Faults {
		for _, s := range Signs() {
			if s.Event == event && s.Fault == d.Name && (s.Variant == "" || s.Variant == variant) {
				if len(d.Variants) == 0 || d.Variants[0] == s.Variant {
					out = append(out, s)
				}
			}
		}
	}
	return out
}

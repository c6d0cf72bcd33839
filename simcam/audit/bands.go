package audit

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"
)

// Band is what the faultless movement keeps within: timings and release states
// as the trade has them. Common practice or from memory of the literature, no
// source, unless the line says otherwise.
type Band struct {
	Event, Variant string
	Says           string
	Low, High      float64
	Of             func(Clip) float64
}

// Met tells whether a clip is inside.
func (b Band) Met(c Clip) bool { v := b.Of(c); return v >= b.Low && v <= b.High }

// Bands lists them.
func Bands() []Band {
	var out []Band
	add := func(event, variant, says string, lo, hi float64, of func(Clip) float64) {
		out = append(out, Band{event, variant, says, lo, hi, of})
	}
	span := func(a, b string) func(Clip) float64 { return func(c Clip) float64 { return c.between(a, b) } }
	// False-start limit: 0.100 s, World Athletics technical rules.
	add("sprint-start", "", "reaction, s", 0.100, 0.25, span("gun", "move"))
	add("sprint-start", "", "block time, s", 0.30, 0.40, span("move", "clear"))
	for _, n := range []string{"1", "2", "3"} {
		add("sprint-start", "", "contact "+n+", s", 0.16, 0.22, span("td"+n, "to"+n))
	}
	add("sprint-start", "", "contacts shorten, s", 0, 0.05, func(c Clip) float64 { return c.between("td1", "to1") - c.between("td3", "to3") })
	add("running", "", "cadence, steps a minute", 165, 190, func(c Clip) float64 { return 120 / c.between("td1", "td3") })
	add("running", "", "vertical travel, m", 0.06, 0.10, func(c Clip) float64 {
		y := func(f int) float64 { return c.Frames[f].Centre.World[1] }
		return c.over("td1", "td3", y, math.Max) - c.over("td1", "td3", y, math.Min)
	})
	for _, e := range []string{"hammer", "weight"} {
		add(e, "", "turn 2 over turn 1, share", 0.5, 1, func(c Clip) float64 { return c.between("zero2", "zero3") / c.between("zero1", "zero2") })
		add(e, "", "turn 3 over turn 2, share", 0.5, 1, func(c Clip) float64 { return c.between("zero3", "zero4") / c.between("zero2", "zero3") })
		for _, n := range []string{"1", "2", "3"} {
			add(e, "", "lift "+n+", azimuth of the ball", 60, 110, func(c Clip) float64 { return c.ball("lift" + n) })
			add(e, "", "catch "+n+", azimuth of the ball", 210, 255, func(c Clip) float64 { return c.ball("catch" + n) })
		}
		add(e, "", "release angle, degrees", 33, 44, func(c Clip) float64 { return c.Release.Angle })
	}
	for _, e := range []string{"discus full", "shot rotational"} {
		event, variant := e[:len(e)-len(" full")], "full"
		if e == "shot rotational" {
			event, variant = "shot", "rotational"
		}
		add(event, variant, "centre to front, s", 0.14, 0.22, span("centre", "front"))
		add(event, variant, "flight, s", 0.05, 0.11, span("pivot_off", "centre"))
	}
	for _, v := range []string{"full", "standing"} {
		add("discus", v, "release angle, degrees", 34, 40, func(c Clip) float64 { return c.Release.Angle })
	}
	add("shot", "glide", "centre to front, s", 0, 0.10, span("centre", "front"))
	for _, v := range []string{"glide", "rotational"} {
		add("shot", v, "release angle, degrees", 33, 40, func(c Clip) float64 { return c.Release.Angle })
	}
	add("javelin", "", "last landing to block, s", 0.15, 0.25, span("last", "block"))
	add("javelin", "", "release angle, degrees", 30, 38, func(c Clip) float64 { return c.Release.Angle })
	add("long-jump", "", "take-off contact, s", 0.10, 0.13, span("td", "to"))
	add("long-jump", "", "take-off angle, degrees", 17, 24, func(c Clip) float64 {
		v := c.velocity(c.Pos("to") + 3)
		return deg(math.Atan2(v.Y, math.Hypot(v.X, v.Z)))
	})
	add("long-jump", "", "last step over the one before, share", 0.85, 0.95, func(c Clip) float64 {
		x := func(position, side string) float64 { return c.At(c.Pos(position)+2, side+"_toe").X }
		pen := x("pen", "right")
		before := c.At(c.Pos("td_before")+2, "left_toe").X
		return (x("td", "left") - pen) / (pen - before)
	})
	add("high-jump", "", "take-off contact, s", 0.14, 0.20, span("plant", "to"))
	// tan(lean) = v2 / (g r): Newton's second law in a curve.
	add("high-jump", "", "lean in the curve against v2/(g r), degrees", -5, 5, func(c Clip) float64 {
		f := (c.Pos("td4") + c.Pos("pen")) / 2
		a, d := r3.Sub(c.com(f-60), c.com(f)), r3.Sub(c.com(f+60), c.com(f))
		a.Y, d.Y = 0, 0
		// Radius of the circle through three places.
		r := r3.Norm(a) * r3.Norm(d) * r3.Norm(r3.Sub(a, d)) / (2 * r3.Norm(r3.Cross(a, d)))
		v := (r3.Norm(a) + r3.Norm(d)) / (c.Frames[f+60].Time - c.Frames[f-60].Time)
		mid := c.Pos("td4") + 16
		return c.inward(mid, "left_ankle", "mid_shoulder") - deg(math.Atan(v*v/(9.81*r)))
	})
	add("pole-vault", "", "pole at its shortest chord, share", 0.65, 0.80, func(c Clip) float64 {
		best, long := math.Inf(1), 0.0
		for f := c.Pos("to"); f <= c.Pos("push_off"); f++ {
			// The top hand holds the last point but one.
			d := r3.Norm(r3.Sub(c.Thing(f, "pole_a"), c.Thing(f, "pole_k")))
			best, long = math.Min(best, d), math.Max(long, d)
		}
		return best / long
	})
	return out
}

func (c Clip) com(frame int) r3.Vec { return c.vec(c.Frames[frame].Centre.World) }

// velocity of the centre of mass, m/s.
func (c Clip) velocity(frame int) r3.Vec {
	return r3.Scale(1/(c.Frames[frame+1].Time-c.Frames[frame-1].Time), r3.Sub(c.com(frame+1), c.com(frame-1)))
}

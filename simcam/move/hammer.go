package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var hammerFaults = []Dial{
	{Name: "short-winds", Max: 0.30, Shown: 0.24, Says: "hands pulled in during the winds, metres"},
	{Name: "open-winds", Max: 60, Shown: 40, Says: "chest opens past the ball at 0 in the winds, degrees"},
	{Name: "drag", Max: 45, Shown: 28, Says: "chest ahead of the ball from the entry on, degrees"},
	{Name: "early-step", Max: 45, Shown: 35, Says: "sweep foot leaves earlier, degrees of the ball"},
	{Name: "late-catch", Max: 70, Shown: 50, Says: "sweep foot comes down later, degrees of the ball"},
	{Name: "tall", Max: 0.14, Shown: 0.10, Says: "stiff and tall in double support, hips higher by metres"},
	{Name: "lean-away", Max: 25, Shown: 18, Says: "axis leans away at the delivery, degrees"},
}

// The weight has no winds.
var weightFaults = hammerFaults[2:]

// spin is what differs between hammer and weight.
type spin struct {
	thrown        Thrown
	turns         []float64 // durations, s
	tilt          [2]float64
	counter       float64 // hips away from the ball, m
	toeFirst      bool
	startAz       []float64 // pendulum or winds: t, azimuth, t, azimuth ... up to the first 0 of turn 1
	pendulum      bool      // no winds: the ball swings before the body
	release, rest float64   // azimuth at release; time from the last 0 to it
}

func hammer(p body.Person, w Wish) (*Motion, error) {
	turns := []float64{0.66, 0.55, 0.49, 0.45}
	winds, n := w.Winds, w.Turns
	if winds == 0 {
		winds = 2
	}
	if n == 0 {
		n = 3
	}
	s := spin{
		thrown: Thrown{Kind: "hammer", Mass: 7.26, Diameter: 0.115, Length: 1.16},
		turns:  turns[len(turns)-n:], tilt: [2]float64{22, 39}, counter: 0.10, toeFirst: w.Variant == "toe-start", release: 88, rest: 0.100,
	}
	if p.Sex == body.Female || p.Height < 1.6 {
		s.thrown.Mass, s.thrown.Diameter = 4, 0.1
		s.thrown.Length = 1.13
	}
	// From rest behind the right side; each wind a little faster.
	s.startAz = []float64{0, -115, 0.62, 0}
	t := 0.62
	for i := range winds {
		d := [2]float64{1.02, 0.84}[i+2-winds]
		s.startAz = append(s.startAz, t+0.52*d, float64(i)*360+180, t+d, float64(i+1)*360)
		t += d
	}
	return spinThrow(p, w, s, float64(winds)*360)
}

func weight(p body.Person, w Wish) (*Motion, error) {
	s := spin{
		thrown: Thrown{Kind: "weight", Mass: 15.88, Diameter: 0.150, Length: 0.33},
		turns:  []float64{0.80, 0.66, 0.57}, tilt: [2]float64{18, 38}, counter: 0.15, release: 90, rest: 0.135, pendulum: true,
		// The sling: out to the left, back to the right, and through.
		startAz: []float64{0, 0, 0.55, 62, 1.25, -105, 1.75, 0},
	}
	if p.Sex == body.Female {
		s.thrown.Mass, s.thrown.Diameter = 9.08, 0.125
	}
	if w.Turns == 4 {
		s.turns = append([]float64{0.86}, s.turns...)
	}
	return spinThrow(p, w, s, 0)
}

// spinThrow builds hammer and weight: the ball's phase leads, everything else
// hangs on it. Zero is the azimuth (whole turns) at which turn 1 begins.
func spinThrow(p body.Person, w Wish, s spin, zero float64) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	m.Thrown = s.thrown
	m.Props = Props{Circle: 2.135, Sector: 17.46, Cage: true}
	opt := func(name string) float64 {
		for _, f := range w.dials {
			if f.Name == name {
				return w.dial(name)
			}
		}
		return 0
	}
	n := len(s.turns)
	begin := s.startAz[len(s.startAz)-2]
	az := append([]float64(nil), s.startAz...)
	t := begin
	zeros := []float64{t}
	for i, dur := range s.turns {
		a := zero + 360*float64(i)
		az = append(az, t+0.27*dur, a+92, t+0.505*dur, a+180, t+dur, a+360)
		t += dur
		zeros = append(zeros, t)
	}
	end := zero + 360*float64(n)
	rel := t + s.rest
	az = append(az, rel, end+s.release, rel+0.4, end+s.release+200)
	phase := Keys(az...)
	omega := (s.release) / s.rest * 1.07
	phase = phase.bound(rel, omega)
	m.Release = rel
	m.First, m.Last = 0.05, rel+0.55

	var tilts []float64
	tilts = append(tilts, 0, s.tilt[0]+6, begin, s.tilt[0])
	for i, z := range zeros[1:] {
		tilts = append(tilts, z, s.tilt[0]+(s.tilt[1]-s.tilt[0])*float64(i+1)/float64(n))
	}
	ring := orbit{phase: phase, tilt: Keys(tilts...), low: Keys(begin, 0)}

	// Chest and hips against the ball.
	drag, open := opt("drag"), opt("open-winds")
	type turnKey struct{ t, chest, sep float64 }
	var keys []turnKey
	if zero > 0 {
		// Winds: the chest meets the ball early and never opens to 0.
		keys = append(keys, turnKey{0, -62, 0}, turnKey{s.startAz[2], -26 + open, 4})
		for a := 0.0; a < zero; a += 360 {
			at := func(v float64) float64 { return phase.invert(a+v, 0, begin) }
			keys = append(keys, turnKey{at(50), -8 + open, 2}, turnKey{at(180), -42 + open*0.4, 10}, turnKey{at(270), -56 + open*0.3, 16})
			if a+360 < zero {
				keys = append(keys, turnKey{at(360), -26 + open, 4})
			}
		}
	} else {
		keys = append(keys, turnKey{0, 0, 0}, turnKey{0.55, 42, 4}, turnKey{1.25, -70, 22})
	}
	early, late := opt("early-step"), opt("late-catch")
	var lifts, catches []float64
	for i := range n {
		a := zero + 360*float64(i)
		at := func(v float64) float64 { return phase.invert(a+v, zeros[i]-0.2, zeros[i]+s.turns[i]+0.1) }
		// The wanted events are read off the ball's azimuth, not off its phase.
		lift, catch := at(76-early), at(226+late)
		lifts, catches = append(lifts, lift), append(catches, catch)
		base := float64(360 * i)
		g := drag
		if i == 0 {
			g *= 0.9
		}
		keys = append(keys, turnKey{zeros[i], base + g, 9}, turnKey{at(76), base + 76 + g, 0}, turnKey{at(180), base + 172 + g*0.7, 16}, turnKey{at(226), base + 214 + g*0.3, 34}, turnKey{at(300), base + 296 + g*0.6, 24})
	}
	base := float64(360 * n)
	keys = append(keys, turnKey{zeros[n], base + drag, 10}, turnKey{rel, base + s.release - 4 + drag, -2}, turnKey{rel + 0.18, base + 132, -6}, turnKey{rel + 0.5, base + 165, -4})
	for _, key := range keys {
		b.set(heading, key.t, 180-(key.chest+key.sep))
		b.set(twist, key.t, key.sep)
	}
	// Left foot: pivots through every turn, heel first, then ball.
	fromFoot, toFoot := 0.0, 180.0
	if n == 4 && !s.toeFirst {
		fromFoot, toFoot = 34, 146 // four turns need shorter steps to fit the circle
	}
	width := 0.50 * k
	toe := r3.Vec{X: -0.96, Y: sole0, Z: width / 2}
	footAz := []float64{-1, 0, begin, 0}
	var rolls []Roll
	for i := range n {
		a := zero + 360*float64(i)
		at := func(v float64) float64 { return phase.invert(a+v, zeros[i]-0.2, zeros[i]+s.turns[i]+0.1) }
		f := float64(360 * i)
		footAz = append(footAz, at(18), f+6, lifts[i], f+72, at(176), f+184, at(226), f+262, zeros[i+1], f+358)
		if !s.toeFirst || i > 0 {
			rolls = append(rolls, Roll{From: at(12), OnHeel: true}, Roll{From: at(176)})
		}
	}
	footAz = append(footAz, rel, base+62, rel+0.4, base+90)
	left0 := b.plant(left, -1, rel+0.9, toe, 180)
	var foot []float64
	for i := 0; i < len(footAz); i += 2 {
		foot = append(foot, footAz[i], 180-footAz[i+1])
	}
	left0.Heading = Keys(foot...)
	left0.Rolls = rolls
	if n == 4 && !s.toeFirst {
		// Roll over to the ball of the foot before it points to the sector.
		for i := range left0.Rolls {
			if !left0.Rolls[i].OnHeel {
				turn := i / 2
				f := float64(360 * turn)
				c := Keys(footAz...)
				left0.Rolls[i].From = c.invert(f+toFoot, zeros[turn], zeros[turn+1])
				left0.Rolls[i-1].From = c.invert(f+fromFoot, zeros[turn], zeros[turn+1])
			}
		}
	}
	left0.Sole = Keys(begin, 0, rel-0.05, 2, rel, 18)
	// Where the left toe is at each 0 of the ball.
	var toes []r3.Vec
	for i := range n + 1 {
		f := m.foot(left0, zeros[i], r3.Add(toe, r3.Vec{Y: 0.8}))
		toes = append(toes, f.Toe)
	}
	knee := opt("tall")
	high := func(extra float64) float64 { return d.AnkleUp + (0.905+extra)*d.Leg() + knee }
	// Right foot: down at the catch, square to the left one at the ball's 0.
	place := func(i int) r3.Vec {
		wd := width * (1 - 0.05*float64(i))
		return r3.Vec{X: toes[i].X, Y: sole0, Z: toes[i].Z - wd}
	}
	rp := b.plant(right, -1, lifts[0], place(0), 180, -1, 0, zeros[0]-0.1, 6, lifts[0], 40)
	rp.Heading = Keys(begin-0.25, 180, zeros[0], 176, lifts[0], 180-46)
	for i := range n {
		from, next := catches[i], rel+0.9
		if i+1 < n {
			next = lifts[i+1]
		}
		f := float64(360 * (i + 1))
		pl := b.plant(right, from, next, place(i+1), 0, from, 34, zeros[i+1], 20, next, 42)
		if i+1 < n {
			pl.Heading = Keys(from, 180-(f-128), zeros[i+1], 180-(f-16), next, 180-(f+46))
		} else {
			pl.Heading = Keys(from, 180-(f-128), zeros[i+1], 180-(f-16), rel, 180-(f+70), rel+0.3, 180-(f+110))
			pl.Sole = Keys(from, 34, zeros[i+1], 22, rel, 58)
		}
		T := from - lifts[i]
		b.swingTurned(right, lifts[i]+0.35*T, 22, -6, 0, 88, 20)
		b.swingTurned(right, lifts[i]+0.7*T, 34, -7, 0, 84, 16)
	}
	// Hips: between the feet with two down, over the left foot with one; always
	// a little away from the ball.
	hip := func(t float64, at r3.Vec, y float64) {
		at.Y = y
		away := ring.out(t)
		away.Y = 0
		c := s.counter * k
		if zero > 0 && t < begin-0.3 {
			c *= 0.6
		}
		b.hip(t, r3.Sub(at, r3.Scale(c, r3.Unit(away))))
	}
	mid := func(i int) r3.Vec { // ankles are behind the toes
		return r3.Add(figure.Between(toes[i], place(i), 0.5), r3.Scale(0.10*k, r3.Vec{X: 1}))
	}
	for a := -90.0; a <= zero-90; a += 90 {
		hip(phase.invert(a, 0, begin), mid(0), high(0.035))
	}
	if zero == 0 {
		for _, t := range []float64{0, 0.3, 0.55, 0.9, 1.25, 1.5} {
			hip(t, mid(0), high(0.02))
		}
	}
	for i := range n {
		a := zero + 360*float64(i)
		at := func(v float64) float64 { return phase.invert(a+v, zeros[i]-0.2, zeros[i]+s.turns[i]+0.1) }
		hip(zeros[i], mid(i), high(0))
		for _, v := range []float64{lifts[i], at(130), at(180), catches[i]} {
			f := m.foot(left0, v, r3.Add(toes[i], r3.Vec{Y: 0.8}))
			over := figure.Between(f.Toe, d.Heel(f), 0.62)
			y := high(0.012)
			share := 0.85
			if v == lifts[i] {
				share = 0.55
			}
			if v == catches[i] {
				share = 0.62
			}
			other := place(i)
			if v >= at(180) {
				other = place(i + 1)
			}
			hip(v, figure.Between(other, over, share), y)
		}
		hip(at(292), mid(i+1), high(0.006))
	}
	away := opt("lean-away")
	hip(zeros[n], mid(n), high(0.01))
	hip(rel, mid(n), high(0.055)-knee)
	hip(rel+0.35, mid(n), high(0.06)-knee)
	// The back is long and leans a little from the ball; the head goes with it.
	b.set(lean, 0, 16, begin, 14, begin+0.2, 8, zeros[n], 6, rel, -6, rel+0.4, 2)
	b.set(tilt, begin, 0, zeros[n], 0, rel, -away, rel+0.5, -away)
	b.set(bend, 0, 10, begin, 8, zeros[n], 6, rel, -8, rel+0.4, 0)
	b.set(nod, 0, -6, rel, -12)
	b.set(look, begin, 0, rel, 4)

	// Hands: on the line from the neck to the ball as far as both arms reach; in
	// the winds they go over the head.
	short := opt("short-winds")
	wind := Keys(0, 1, begin-0.42, 1, begin-0.08, 0)
	if s.pendulum {
		wind = Curve{}
	}
	pulled := Keys(begin-0.5, short, begin, short*0.25, begin+0.4, 0)
	hands := func(t float64, p *figure.Pose) r3.Vec {
		neck := r3.Add(d.Neck(p), r3.Scale(-0.05*k, figure.Up))
		dir := ring.out(t)
		r := reach(neck, dir, 0.985*d.Arm(), d.ShoulderJoint(p, left), d.ShoulderJoint(p, right)) - pulled.At(t)
		grip := r3.Add(neck, r3.Scale(r, dir))
		if f := wind.At(t); f > 0 {
			// Behind the body: above and just behind the head.
			behind := (1 - math.Cos((ring.phase.At(t)+10)*math.Pi/180)) / 2
			level := r3.Unit(r3.Vec{X: dir.X, Z: dir.Z})
			over := r3.Add(d.Neck(p), figure.Sum((0.60*(1-behind)+0.16*behind-pulled.At(t)*(1-0.5*behind))*k, level, (-0.16*(1-behind)+0.40*behind)*k, figure.Up, 0, level))
			grip = figure.Between(grip, over, f)
		}
		return grip
	}
	for s := range 2 {
		m.arms[s] = arm{elbow: r3.Vec{X: 0.1, Y: -1, Z: 0.5}, grip: hands}
		b.set(pull+channel(s), 0, 1, rel, 1, rel+0.05, 1, rel+0.16, 0)
		b.arm(s, rel, 80, 12, 0, 172)
		b.arm(s, rel+0.16, 118, 14, 0, 168)
		b.arm(s, rel+0.5, 95, 22, 0, 150)
	}
	m.implement = func(m *Motion, t float64, b *figure.Body, p *figure.Pose) Implement {
		grip := b.Mid(figure.Hand)
		return m.Thrown.points(r3.Add(grip, r3.Scale(m.Thrown.Length, ring.out(t))), ring.out(t))
	}
	for i := range n {
		id := string(rune('1' + i))
		m.Times["zero"+id], m.Times["lift"+id], m.Times["catch"+id] = zeros[i], lifts[i], catches[i]
		m.Times["high"+id] = phase.invert(zero+360*float64(i)+180, zeros[i], zeros[i+1])
	}
	m.Times["zero"+string(rune('1'+n))] = zeros[n]
	m.Times["release"] = rel
	if zero > 0 {
		for i := range int(zero / 360) {
			m.Times["wind"+string(rune('1'+i))] = phase.invert(float64(360*i), 0, begin)
		}
	}
	return b.done(), nil
}

package move

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

var longJumpFaults = []Dial{
	{Name: "no-sink", Max: 0.10, Shown: 0.08, Says: "penultimate step on the toes, hips high by metres"},
	{Name: "lean-back", Max: 25, Shown: 20, Says: "leans back at the take-off, degrees"},
	{Name: "short-drive", Max: 60, Shown: 45, Says: "free thigh low at the take-off, degrees"},
	{Name: "shoulder-drop", Max: 30, Shown: 18, Says: "shoulder drops at the take-off, degrees"},
	{Name: "fold", Max: 50, Shown: 38, Says: "trunk folds over the legs at the landing, degrees"},
}

func longJump(p body.Person, w Wish) (*Motion, error) {
	b := newBuilder(p, w)
	m, d, k := b.m, b.m.Sizes, b.k
	leg := d.Leg()
	v := 8.3 * math.Sqrt(k)
	sink, back := w.dial("no-sink"), w.dial("lean-back")
	q := math.Sqrt(k) // small people step quicker
	step := 0.235 * q
	// Four steps: L, R (penultimate), L (take-off); the last one shorter.
	tf := []float64{0, step, 2 * step, 2*step + 0.245*q, 2*step + 0.450*q}
	side0 := []int{left, right, left, right, left}
	contact := []float64{0.110 * q, 0.110 * q, 0.110 * q, 0.118 * q, 0.118 * q}
	ahead := []float64{0.24, 0.24, 0.24, 0.30, 0.42}
	reachOn := []float64{0.968, 0.968, 0.968, 0.945, 0.992}
	var falls []footfall
	for i, on := range tf {
		vi := v
		a := ahead[i] * leg
		roll := 0.14 * k
		if i == 4 {
			vi, roll = v*0.93, 0.15*k
		}
		x := v*on + a
		r := reachOn[i]
		if i == 3 {
			r += sink * 0.45
		}
		sole := []float64{8, 8, 8, 0, -4}[i]
		if i == 3 {
			sole += 220 * sink
		}
		falls = append(falls, footfall{side: side0[i], on: on, off: on + contact[i], toe: r3.Vec{X: x, Y: sole0, Z: figure.Out(side0[i]) * stance * k}, ahead: a, behind: vi*contact[i] - a - roll, sole: sole, reachOn: r})
	}
	falls[4].high = 0.992
	b.run(falls, style{fast: 0.9, lean: 5, arms: 1})
	to := falls[4]
	off := to.off
	m.Times["td_before"] = falls[2].on
	m.Times["pen"], m.Times["pen_off"], m.Times["td"], m.Times["to"] = falls[3].on, falls[3].off, to.on, off

	T := 0.74 * math.Sqrt(k)
	land := off + T
	mid := off + T/2
	m.Times["mid"], m.Times["land"] = mid, land
	vx := v * 0.895
	board := to.toe.X + 0.03
	hip0 := b.hips[len(b.hips)-1]
	hip1 := r3.Vec{X: hip0.X + vx*T + 0.02, Y: 0.50 * k}
	heel := r3.Vec{X: hip1.X + 0.62*k, Y: 0.05}
	for s := range 2 {
		z := figure.Out(s) * 0.10 * k
		toe := r3.Add(heel, r3.Vec{X: 0.11 * k, Y: 0.17 * k, Z: z})
		b.plant(s, land, land+2, toe, 0, land, -52, land+0.12, -30, land+0.3, -10)
	}
	b.hip(land, hip1)
	b.hip(land+0.10, r3.Vec{X: hip1.X + 0.30*k, Y: 0.36 * k})
	b.hip(land+0.24, r3.Vec{X: heel.X - 0.02, Y: 0.29 * k})
	b.hip(land+0.5, r3.Vec{X: heel.X + 0.16*k, Y: 0.33 * k})
	b.fly(off, land)

	drop := w.dial("short-drive")
	at := func(share float64) float64 { return off + share*T }
	// At toe-off the free thigh is level; it is there before, by the swing.
	b.swing(right, to.on+0.06, 52-0.7*drop, 0, 62, 10)
	b.swing(right, off, 84-drop, 2, 82, 4)
	b.swing(right, at(0.16), 78-drop, 2, 88, 6)
	switch w.Variant {
	case "hang":
		b.swing(right, at(0.34), 6, 4, 128, 20)
		b.swing(right, at(0.50), -22, 8, 96, 30)
		b.swing(left, at(0.20), -34, 4, 112, 34)
		b.swing(left, at(0.50), -20, 8, 92, 30)
		b.swing(left, at(0.72), 40, 6, 110, 10)
		b.swing(right, at(0.72), 40, 6, 110, 10)
	case "hitch-kick":
		b.swing(right, at(0.34), 14, 4, 158, 24)
		b.swing(right, at(0.50), -28, 4, 138, 30)
		b.swing(right, at(0.64), 4, 4, 62, 20)
		b.swing(right, at(0.78), 66, 5, 92, 6)
		b.swing(left, at(0.16), -30, 4, 100, 34)
		b.swing(left, at(0.34), 30, 4, 62, 10)
		b.swing(left, at(0.52), 78, 4, 112, 0)
		b.swing(left, at(0.74), 70, 6, 150, 0)
	default: // sail
		b.swing(right, at(0.45), 76, 4, 108, 4)
		b.swing(right, at(0.75), 80, 6, 128, 0)
		b.swing(left, at(0.22), -28, 4, 96, 34)
		b.swing(left, at(0.50), 44, 5, 82, 8)
		b.swing(left, at(0.75), 78, 6, 124, 0)
	}
	b.swing(left, at(0.9), 92, 6, 152, -10)
	b.swing(right, at(0.9), 92, 6, 152, -10)

	fold := w.dial("fold")
	tipBack := -2 - back
	for i := range b.keys[lean] {
		if q := &b.keys[lean][i]; q.t > to.on-0.01 {
			q.X = -4 - back*0.7
			if q.t > off-0.01 {
				q.X = tipBack
			}
		}
	}
	hang := 0.0
	if w.Variant == "hang" {
		hang = -14
	}
	b.set(lean, at(0.35), tipBack*0.6+hang*0.4, at(0.6), 4+hang*0.2, at(0.85), 12+fold*0.2, land, 6+fold*0.5, land+0.15, 28, land+0.5, 20)
	b.set(bend, off, 0, at(0.4), hang, at(0.65), 2, land, 16+fold*0.5, land+0.15, 30, land+0.5, 14)
	b.set(heading, at(0.3), 0, land, 0)
	b.set(twist, at(0.3), 0, land, 0)
	dropped := w.dial("shoulder-drop")
	b.set(side, to.on-0.05, 0, off, -dropped, at(0.25), -dropped, at(0.7), 0)
	b.set(tilt, at(0.2), 0)
	// Arms: high, round, and forward past the hips for the landing.
	switch w.Variant {
	case "hang":
		b.arm(left, at(0.25), 120, 20, 0, 140)
		b.arm(right, at(0.25), 60, 40, 0, 150)
		b.arm(left, at(0.5), 170, 18, 0, 164)
		b.arm(right, at(0.5), 165, 18, 0, 164)
	case "hitch-kick":
		b.arm(left, at(0.25), 150, 14, 0, 160)
		b.arm(right, at(0.25), -30, 30, 0, 160)
		b.arm(left, at(0.5), 40, 50, 0, 160)
		b.arm(right, at(0.5), 160, 20, 0, 160)
	default:
		b.arm(left, at(0.25), 120, 16, 0, 150)
		b.arm(right, at(0.25), 30, 36, 0, 150)
		b.arm(left, at(0.5), 130, 16, 0, 160)
		b.arm(right, at(0.5), 120, 18, 0, 160)
	}
	for s := range 2 {
		b.arm(s, at(0.78), 128, 14, 0, 166)
		b.arm(s, land, 42-fold*1.3, 18, 0, 164)
		b.arm(s, land+0.2, 20, 20, 0, 150)
		b.arm(s, land+0.5, 40, 20, 0, 140)
	}
	m.Props = Props{Runway: 1.22, Board: board, Sand: board + 1.6}
	m.First, m.Last = falls[1].on-0.02, land+0.32
	return b.done(), nil
}

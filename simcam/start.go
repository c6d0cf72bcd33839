package simcam

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/core/plane"
)

// StartFaults lists the dials of the sprint start with their faultless value.
var StartFaults = map[string]Dial{
	"front-knee": {92, 75, 135, "front knee angle in set, degrees"},
	"rear-knee":  {126, 100, 150, "rear knee angle in set, degrees"},
	"early-rise": {0, 0, 14, "extra rise of the body after the blocks, degrees in step 1"},
	"head-up":    {0, 0, 50, "head raised in set, degrees"},
	"foot-ahead": {0, 0, 0.35, "first foot lands further forward by, metres"},
	"shoulders":  {0, 0, 0.16, "shoulders pushed ahead of the hands, metres"},
}

// Dial is a fault with its faultless size and limits.
type Dial struct {
	Clean, Min, Max float64
	Says            string
}

// start is the motion of a sprint start with three steps. Times count from the
// first movement.
type start struct {
	d        dims
	frontLeg body.Side
	times    map[string]float64
	hipX     curve
	hipY     curve
	trunk    curve
	head     curve
	yaw      curve
	feet     [2][]stance
	arm      [2]curve
	elbow    [2]curve
}

// stance is a stretch of time in which a toe stays in place; between stances
// the foot swings.
type stance struct {
	from, to       float64
	toe            r3.Vec
	solIn, soleOut float64
}

// Timing of the faultless start, seconds from first movement: inside the bands
// of the shipped model.
var startTimes = map[string]float64{
	"set": -0.25, "gun": -0.146, "move": 0, "arm": 0.012, "rear_off": 0.172, "pass": 0.27, "clear": 0.345,
	"td1": 0.407, "to1": 0.597, "td2": 0.650, "to2": 0.824, "td3": 0.882, "to3": 1.042,
}

func dial(faults map[string]float64, name string) float64 {
	if v, ok := faults[name]; ok {
		return v
	}
	return StartFaults[name].Clean
}

// CheckFaults refuses dials that do not exist or are out of range.
func CheckFaults(faults map[string]float64) error {
	for name, v := range faults {
		d, ok := StartFaults[name]
		if !ok {
			var names []string
			for n := range StartFaults {
				names = append(names, n)
			}
			sort.Strings(names)
			return fmt.Errorf("there is no fault %q; there are %s", name, strings.Join(names, ", "))
		}
		if math.IsNaN(v) || v < d.Min || v > d.Max {
			return fmt.Errorf("fault %s=%g is out of range: %s, %g to %g", name, v, d.Says, d.Min, d.Max)
		}
	}
	return nil
}

func newStart(a body.Person, faults map[string]float64) (*start, error) {
	if err := CheckFaults(faults); err != nil {
		return nil, err
	}
	d := dimsOf(a)
	s := &start{d: d, frontLeg: a.FrontLeg, times: startTimes}
	T := s.times
	k := a.Height / 1.80 // everything below was tuned on 1.80 m

	// Set: straight arms on the line, shoulders over the hands, hips a little higher.
	shX, shY := 0.03*k+dial(faults, "shoulders"), d.upperArm+d.forearm+d.hand-0.004
	hipUp := 0.08 * k
	hip0 := r3.Vec{X: shX - math.Sqrt(d.trunk*d.trunk-hipUp*hipUp), Y: shY + hipUp}
	trunk0 := plane.Deg(math.Atan2(shY-hip0.Y, shX-hip0.X))
	pedal := func(knee, sole, z float64) r3.Vec {
		span := math.Sqrt(d.thigh*d.thigh + d.shank*d.shank - 2*d.thigh*d.shank*math.Cos(plane.Rad(knee)))
		ankle := d.ankleFrom(r3.Vec{}, sole)
		dz := math.Abs(z) - d.hipHalf
		down := hip0.Y - ankle.Y
		back := math.Sqrt(math.Max(0, span*span-down*down-dz*dz))
		return r3.Vec{X: hip0.X - back - ankle.X, Z: z}
	}
	side := 1.0
	if a.FrontLeg == body.Left {
		side = -1
	}
	frontSole, rearSole := 32.0, 42.0
	toeF := pedal(dial(faults, "front-knee"), frontSole, side*0.09)
	toeR := pedal(dial(faults, "rear-knee"), rearSole, -side*0.09)

	// Body line at each toe-off: ankle, hip and shoulder on one line of this lean.
	rise := dial(faults, "early-rise")
	lean := map[string]float64{"clear": 39.5, "to1": 44 + rise, "to2": 47.5 + rise*1.15, "to3": 51 + rise*1.2}
	const offSole = 62.0
	reach := 0.975 * (d.thigh + d.shank)
	hipAt := func(toe r3.Vec, lean float64) r3.Vec {
		ankle := d.ankleFrom(toe, offSole)
		sn, cs := math.Sincos(plane.Rad(lean))
		return r3.Vec{X: ankle.X + reach*cs, Y: ankle.Y + reach*sn}
	}
	// Touchdown: how far the ankle is behind the hip.
	behind := map[string]float64{"td1": 0.17*k - dial(faults, "foot-ahead"), "td2": 0.105 * k, "td3": 0.05 * k}
	hip := map[string]r3.Vec{"clear": hipAt(toeF, lean["clear"])}
	speed := map[string]float64{"clear": 3.05, "to1": 3.85, "to2": 4.7}
	toe := map[string]r3.Vec{}
	const inSole = 14.0
	prev := "clear"
	for i, step := range []string{"1", "2", "3"} {
		td, to := "td"+step, "to"+step
		z := -side * 0.06
		if i == 1 {
			z = -z
		}
		fly := T[td] - T[prev]
		at := r3.Vec{X: hip[prev].X + k*speed[prev]*fly, Y: hip[prev].Y}
		ankle := d.ankleFrom(r3.Vec{}, inSole)
		toe[td] = r3.Vec{X: at.X - behind[td] - ankle.X, Z: z}
		hip[to] = hipAt(toe[td], lean[to])
		at.Y = math.Min(hip[prev].Y+0.005, hip[to].Y-0.005)
		hip[td] = at
		prev = to
	}
	s.hipX = newCurve(true, T["set"], hip0.X, 0, hip0.X, 0.08, hip0.X+0.022*k, T["rear_off"], hip0.X+0.26*(hip["clear"].X-hip0.X),
		T["clear"], hip["clear"].X, T["td1"], hip["td1"].X, T["to1"], hip["to1"].X, T["td2"], hip["td2"].X,
		T["to2"], hip["to2"].X, T["td3"], hip["td3"].X, T["to3"], hip["to3"].X)
	s.hipY = newCurve(false, T["set"], hip0.Y, 0, hip0.Y, T["rear_off"], hip0.Y+0.35*(hip["clear"].Y-hip0.Y),
		T["clear"], hip["clear"].Y, T["td1"], hip["td1"].Y, T["to1"], hip["to1"].Y, T["td2"], hip["td2"].Y,
		T["to2"], hip["to2"].Y, T["td3"], hip["td3"].Y, T["to3"], hip["to3"].Y, T["to3"]+0.1, hip["to3"].Y+0.01)
	s.trunk = newCurve(false, T["set"], trunk0, 0, trunk0, T["rear_off"], trunk0+0.55*(lean["clear"]-trunk0), T["clear"], lean["clear"],
		T["to1"], lean["to1"], T["to2"], lean["to2"], T["to3"], lean["to3"], T["to3"]+0.2, lean["to3"]+3)
	up := dial(faults, "head-up")
	s.head = newCurve(false, T["set"], up-6, 0, up-6, T["clear"], 0.6*up, T["to1"], 0.5*up+2, T["to3"], 0.4*up+4)
	// Hips follow the swinging leg, shoulders go against it; still in set.
	s.yaw = newCurve(false, T["set"], 0, 0, 0, T["clear"], -7, T["to1"], 8, T["to2"], -8, T["to3"], 8)

	s.feet[front] = []stance{
		{-9, T["clear"], toeF, frontSole, offSole},
		{T["td2"], T["to2"], toe["td2"], inSole, offSole},
		{1.25, 9, r3.Vec{X: s.hipX.at(1.25) + 0.1, Y: 0.03, Z: toe["td2"].Z}, inSole, inSole},
	}
	s.feet[rear] = []stance{
		{-9, T["rear_off"], toeR, rearSole, 70},
		{T["td1"], T["to1"], toe["td1"], inSole, offSole},
		{T["td3"], T["to3"], toe["td3"], inSole, offSole},
		{1.55, 9, r3.Vec{X: s.hipX.at(1.55), Y: 0.03, Z: toe["td3"].Z}, inSole, inSole},
	}
	// Arms: from straight down on the line to the swing against the legs.
	down := plane.Deg(math.Atan2(0, 1))
	s.arm[front] = newCurve(false, T["set"], down, T["arm"], down, 0.20, 48, T["clear"], 100, T["to1"], -62, T["to2"], 78, T["to3"], -58, 1.25, 40)
	s.arm[rear] = newCurve(false, T["set"], down, 0.02, down, 0.20, -45, T["clear"], -84, T["to1"], 82, T["to2"], -60, T["to3"], 74, 1.25, -30)
	s.elbow[front] = newCurve(false, T["set"], 178, T["arm"], 178, 0.20, 105, T["clear"], 92, T["to1"], 110, T["to2"], 82, T["to3"], 108, 1.25, 90)
	s.elbow[rear] = newCurve(false, T["set"], 178, 0.02, 178, 0.20, 150, T["clear"], 122, T["to1"], 80, T["to2"], 110, T["to3"], 80, 1.25, 100)
	return s, nil
}

// pose gives the figure at time t.
func (s *start) pose(t float64) pose {
	p := pose{hip: r3.Vec{X: s.hipX.at(t), Y: s.hipY.at(t)}, trunk: s.trunk.at(t), head: s.head.at(t), hipYaw: s.yaw.at(t), shoulder: -2 * s.yaw.at(t)}
	for leg := range 2 {
		p.toe[leg], p.sole[leg] = s.foot(leg, t, p.hip)
		p.arm[leg], p.elbow[leg] = s.arm[leg].at(t), s.elbow[leg].at(t)
	}
	return p
}

func (s *start) foot(leg int, t float64, hip r3.Vec) (r3.Vec, float64) {
	list := s.feet[leg]
	for i, st := range list {
		if t < st.to {
			if t >= st.from {
				return st.toe, s.soleIn(st, t, hip)
			}
			return s.swing(list[i-1], st, t)
		}
	}
	last := list[len(list)-1]
	return last.toe, last.soleOut
}

// soleIn raises the heel towards toe-off and as far as the leg needs to reach.
func (s *start) soleIn(st stance, t float64, hip r3.Vec) float64 {
	from := math.Max(st.from, 0)
	share := math.Min(1, math.Max(0, (t-from)/(st.to-from)))
	sole := st.solIn + (st.soleOut-st.solIn)*math.Pow(share, 2.5)
	for ; sole < 100; sole++ {
		a := s.d.ankleFrom(st.toe, sole)
		if math.Hypot(hip.X-a.X, hip.Y-a.Y) <= 0.985*(s.d.thigh+s.d.shank) {
			break
		}
	}
	return sole
}

// swing brings a foot from one stance to the next: back and up behind the body,
// through under the hip, forward and down. Low in the first step.
func (s *start) swing(a, b stance, t float64) (r3.Vec, float64) {
	T := b.from - a.to
	hipAt := func(share float64) float64 { return s.hipX.at(a.to + share*T) }
	x0, x1 := a.toe.X-hipAt(0), b.toe.X-hipAt(1)
	high := 0.34
	if a.from < 0 {
		high = 0.11
	}
	end := s.soleIn(a, a.to, r3.Vec{X: s.hipX.at(a.to), Y: s.hipY.at(a.to)})
	rel := newCurve(false, 0, x0, 0.25, x0*0.80, 0.6, -0.06, 0.85, math.Max(x1+0.05, 0.22), 1, x1)
	y := newCurve(false, 0, a.toe.Y, 0.3, high, 0.6, high*0.85, 0.85, 0.09, 1, b.toe.Y)
	sole := newCurve(false, 0, end, 0.3, end+18, 0.6, 45, 0.85, 5, 1, b.solIn)
	share := (t - a.to) / T
	return r3.Vec{X: s.hipX.at(t) + rel.at(share), Y: y.at(share), Z: a.toe.Z + share*(b.toe.Z-a.toe.Z)}, sole.at(share)
}

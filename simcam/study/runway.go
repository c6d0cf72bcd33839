package study

import (
	"maps"
	"math"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// Off is a value as it was stated, and as it is.
type Off struct {
	What                 string
	Value, Half95, Truth float64
}

// By is how far it is off.
func (o Off) By() float64 { return math.Abs(o.Value - o.Truth) }

// Holds tells whether the truth lies within the doubt.
func (o Off) Holds() bool { return o.By() <= o.Half95 }

// OnRunway is an attempt of a jump whose board, box or bar is marked as a coach clicks it; false
// where the clip never shows it.
func (a Attempt) OnRunway(n Noise) (evaluate.Input, bool) {
	in := a.Input(n, true)
	in.Ground, _ = points.Marks(a.Scene, 1.5, a.seed)
	maps.Copy(in.Points, points.Pole(a.Scene.Truth, max(n.White, 0.5), a.seed))
	return in, in.Ground != nil
}

// Runway holds what a report says of the run-up against what is true: places before the line
// (m), steps (m, m/s), leans (degrees), the radius (m) and how the body leaves.
func (a Attempt) Runway(r report.Report) (out []Off) {
	t := a.Scene.Truth
	_, origin := points.Marks(a.Scene, 0, 1)
	if r.Approach == nil {
		return nil
	}
	toe := func(p report.FootPlace) (x, z float64) {
		w := t.Frames[(p.From+p.To)/2].Landmarks[string(p.Foot)+"_toe"].World
		return w[0] - origin.X, w[2] - origin.Z
	}
	before := func(x, z float64) float64 {
		switch {
		case a.Spec.Event != "high-jump":
			return -x
		case a.Spec.Leg == body.Right:
			return z
		}
		return -z
	}
	feet := r.Approach.Feet
	var leans []float64
	for i, p := range feet {
		x, z := toe(p)
		if p.Before != nil {
			out = append(out, Off{"before", p.Before.Value, p.Before.Half95, before(x, z)})
		}
		if i+1 == len(feet) {
			break
		}
		x1, z1 := toe(feet[i+1])
		long := math.Hypot(x1-x, z1-z)
		if p.Length != nil {
			out = append(out, Off{"length", p.Length.Value, p.Length.Half95, long})
		}
		if p.Speed != nil {
			took := t.Frames[feet[i+1].From].Time - t.Frames[p.From].Time
			out = append(out, Off{"speed", p.Speed.Value, p.Speed.Half95, long / took})
		}
		if a.Spec.Event == "high-jump" {
			lean := a.leanOver(p, i, feet, toe)
			if i >= len(feet)-4 && i > 0 {
				leans = append(leans, lean)
			}
			if p.Lean != nil {
				out = append(out, Off{"lean", p.Lean.Value, p.Lean.Half95, lean})
			}
		}
	}
	if c := r.Approach.Curve; c != nil {
		out = append(out, Off{"radius", c.Radius.Value, c.Radius.Half95, a.Scene.Motion.Radius})
		if len(leans) == 3 && c.Lean.Value > 0 {
			out = append(out, Off{"asked", c.Lean.Value, c.Lean.Half95, (leans[0] + leans[1] + leans[2]) / 3})
		}
	}
	if p := r.Pole; p != nil && p.Onset != nil {
		if at, shortest, err := a.bends(); err == nil {
			out = append(out, Off{"onset", p.Onset.Frame, 1.96 * p.Onset.SD, at})
			if p.Chord != nil {
				out = append(out, Off{"chord", p.Chord.Value, p.Chord.Half95, shortest})
			}
		}
	}
	if f := r.Approach.Flight; f != nil {
		to := t.Positions["to"]
		h := 1 / a.Spec.CaptureRate
		p, q := t.Frames[to].Centre.World, t.Frames[to+1].Centre.World
		v := [3]float64{(q[0] - p[0]) / h, (q[1]-p[1])/h + body.Gravity*h/2, (q[2] - p[2]) / h}
		level := math.Hypot(v[0], v[2])
		out = append(out, Off{"leaves", f.Speed.Value, f.Speed.Half95, level}, Off{"upward", f.Upward.Value, f.Upward.Half95, v[1]},
			Off{"angle", f.Angle.Value, f.Angle.Half95, math.Atan2(v[1], level) * 180 / math.Pi}, Off{"height", f.Height.Value, f.Height.Half95, p[1]})
	}
	if land, ok := t.Positions["land"]; ok {
		w := t.Frames[land].Centre.World
		for _, p := range r.Approach.Parts {
			switch p.ID {
			case "behind":
				out = append(out, Off{p.ID, p.Value.Value, p.Value.Half95, -before(0, w[2]-origin.Z)})
			case "along":
				out = append(out, Off{p.ID, p.Value.Value, p.Value.Half95, w[0] - origin.X})
			}
		}
	}
	return out
}

// leanOver is the true lean inward of the line from the toes to the centre of mass, where that
// passes over them.
func (a Attempt) leanOver(p report.FootPlace, i int, feet []report.FootPlace, toe func(report.FootPlace) (x, z float64)) float64 {
	t := a.Scene.Truth
	b, c := feet[max(0, i-1)], feet[min(i+1, len(feet)-1)]
	x0, z0 := toe(b)
	x1, z1 := toe(c)
	h := math.Atan2(z1-z0, x1-x0)
	best, lean := math.Inf(1), 0.0
	for f := p.From; f < p.To; f++ {
		w, m := t.Frames[f].Landmarks[string(p.Foot)+"_toe"].World, t.Frames[f].Centre.World
		dx, dz := m[0]-w[0], m[2]-w[2]
		ahead, right := dx*math.Cos(h)+dz*math.Sin(h), -dx*math.Sin(h)+dz*math.Cos(h)
		if a.Spec.Leg == body.Left {
			right = -right // the curve turns to the left
		}
		if math.Abs(ahead) < best {
			best, lean = math.Abs(ahead), math.Atan2(right, m[1])*180/math.Pi
		}
	}
	return lean
}

// bends is when the pole truly begins to bend, in frames of the attempt, and its shortest chord
// in % of its length.
func (a Attempt) bends() (at, shortest float64, err error) {
	s := a.Spec
	s.CaptureRate, s.FileRate = TruthRate, 30
	sc, err := simcam.New(s)
	if err != nil {
		return 0, 0, err
	}
	apart := func(p, q [3]float64) float64 {
		return math.Sqrt((p[0]-q[0])*(p[0]-q[0]) + (p[1]-q[1])*(p[1]-q[1]) + (p[2]-q[2])*(p[2]-q[2]))
	}
	shortest = 100
	for f := sc.Truth.Positions["pre"]; f < sc.Truth.Positions["straight"]; f++ {
		im := sc.Truth.Frames[f].Implement
		long := 0.0
		for i := range 10 {
			long += apart(im[move.PolePoint(i)].World, im[move.PolePoint(i+1)].World)
		}
		chord := 100 * apart(im[move.PolePoint(0)].World, im[move.PolePoint(10)].World) / long
		shortest = math.Min(shortest, chord)
		if at == 0 && chord < straightChord {
			at = float64(f) * a.Spec.CaptureRate / TruthRate
		}
	}
	return at, shortest, nil
}

// straightChord is the chord of a pole that counts as straight, in % of its length.
const straightChord = 99.9

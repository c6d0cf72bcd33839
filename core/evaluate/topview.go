package evaluate

import (
	"math"
	"slices"

	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// TopView is a throw seen from above, for drawing: places in m (x in the throwing
// direction, z to the right of it), azimuths in degrees, from frame From on.
type TopView struct {
	From       int                   `json:"from"`
	To         int                   `json:"to" doc:"frame after the last that is read"`
	Left       bool                  `json:"left" doc:"throws with the left hand"`
	Circle     float64               `json:"circle" doc:"radius, m"`
	Sector     float64               `json:"sector" doc:"half angle, degrees"`
	Ball       GroundTrack           `json:"ball"`
	Hips       GroundTrack           `json:"hips"`
	Chest      GroundTrack           `json:"chest"`
	Feet       [2]GroundTrack        `json:"feet" doc:"left and right; the place is that of the toes"`
	Down       [2][]bool             `json:"down" doc:"left and right: on the ground"`
	Speed      []float64             `json:"speed" doc:"of the ball, m/s"`
	Separation Lead                  `json:"separation" doc:"hips ahead of the chest"`
	Drag       Lead                  `json:"drag" doc:"chest ahead of the ball"`
	Drift      *uncertainty.Estimate `json:"drift,omitempty" required:"false" doc:"cm that the hips leave the straight line from their first to their last place, to the right when positive; only seen along the throw"`
	Axis       *throw.Axis           `json:"axis,omitempty" required:"false" doc:"the trunk in the last frame before the release"`
	Rim        *uncertainty.Estimate `json:"rim,omitempty" required:"false" doc:"cm from the toes to the rim of the circle where they come nearest; negative is out"`
}

// Lead is how far one direction is ahead of another over frames, degrees, with half
// of the 95 % interval; [kinematics.None] where it is not known.
type Lead struct {
	X      []float64 `json:"x"`
	Half95 []float64 `json:"half95"`
}

// Direction is something's place and direction over frames; all arrays begin at From. A
// place or direction that is not known is [kinematics.None].
type GroundTrack struct {
	From int       `json:"from"`
	X    []float64 `json:"x"`
	Z    []float64 `json:"z"`
	Y    []float64 `json:"y" doc:"height"`
	Az   []float64 `json:"az"`
	SD   []float64 `json:"sd" doc:"of the azimuth"`
}

// SeenFromAbove draws a throw, from the orbit of its last evaluation; false when none
// is known.
func SeenFromAbove(m model.Model, in Input, old *Cache) (TopView, bool) {
	e := Begin(m, in, old)
	e.Locate()
	if e.throw == nil {
		return TopView{}, false
	}
	return e.above(e.throw), true
}

// rimKnown is how surely a foot must be placed for its distance to the rim to be said, m: a rim's
// width and some more. Assumed.
const rimKnown = 0.1

func (e *Evaluation) above(o *throw.Reconstruction) TopView {
	event := sport.Of(e.Model.ID)
	a := TopView{From: o.From, To: o.To, Left: e.Roles.Throwing == body.Left, Circle: event.Circle / 2, Sector: event.Sector}
	n := e.Clock.Len()
	way := func(who string, place func(f int) (vec3.Vec, bool)) GroundTrack {
		w := GroundTrack{From: o.From, X: []float64{}, Z: []float64{}, Y: []float64{}, Az: []float64{}, SD: []float64{}}
		round := func(v, k float64) float64 { return math.Round(v*k) / k }
		for f := o.From; f < n; f++ {
			x, y, z, az, sd := kinematics.None, kinematics.None, kinematics.None, kinematics.None, 0.0
			if p, ok := place(f); ok && !math.IsNaN(p.X) {
				x, y, z = round(p.X, 1000), round(p.Y, 1000), round(p.Z, 1000)
			}
			if v, ok := o.Azimuth(who, f); ok {
				az, sd = round(v.Value, 10), round(v.SD, 10)
			}
			w.X, w.Y, w.Z, w.Az, w.SD = append(w.X, x), append(w.Y, y), append(w.Z, z), append(w.Az, az), append(w.SD, sd)
		}
		return w
	}
	of := func(list []vec3.Vec) func(int) (vec3.Vec, bool) {
		return func(f int) (vec3.Vec, bool) { return list[f], true }
	}
	a.Ball, a.Hips, a.Chest = way("ball", o.ImplementPosition), way("hips", of(o.Pelvis)), way("chest", of(o.Neck))
	a.Speed = []float64{}
	for f := o.From; f < n; f++ {
		v, ok := o.Speed(f)
		if !ok || !e.Clock.Known() {
			v.Value = kinematics.None
		}
		a.Speed = append(a.Speed, math.Round(10*v.Value)/10)
	}
	leads := func(who, whom string) (l Lead) {
		l = Lead{[]float64{}, []float64{}}
		for f := o.From; f < n; f++ {
			v, ok := o.Lead(who, whom, f)
			if !ok {
				v = uncertainty.Estimate{Value: kinematics.None}
			}
			l.X, l.Half95 = append(l.X, math.Round(10*v.Value)/10), append(l.Half95, math.Round(10*v.Half95)/10)
		}
		return l
	}
	a.Separation, a.Drag = leads("hips", "chest"), leads("chest", "ball")
	nearest, sd := math.Inf(1), 0.0
	for i, s := range []body.Side{body.Left, body.Right} {
		a.Feet[i] = way(string(s)+"_foot", of(o.Toes[i]))
		a.Down[i] = make([]bool, n-o.From)
		for _, c := range e.contacts {
			var gaps []float64
			for f := max(c.From, o.From); c.Foot == s && f < min(c.To, n); f++ {
				a.Down[i][f-o.From] = true
				if p := o.Toes[i][f]; !math.IsNaN(p.X) && f < o.To {
					gaps = append(gaps, a.Circle-math.Hypot(p.X, p.Z))
					along, _ := o.FootSD(i, f)
					sd = math.Max(sd, along) // along the sight a foot is known less well
				}
			}
			// A tenth of a contact may lie off: its ends are in the air.
			if len(gaps) > 4 {
				slices.Sort(gaps)
				nearest = math.Min(nearest, gaps[len(gaps)/10])
			}
		}
	}
	if !math.IsInf(nearest, 1) && a.Circle > 0 && sd < rimKnown {
		v := uncertainty.Normal(100*nearest, 100*sd)
		a.Rim = &v
	}
	if v, ok := o.Axis(o.To - 1); ok {
		a.Axis = &v
	}
	if v, ok := o.Drift(e.entry(), o.To); ok {
		a.Drift = &v
	}
	return a
}

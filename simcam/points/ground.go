package points

import (
	"math"
	"math/rand/v2"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/ground"
	"neokinema/simcam"
)

// Marks marks the ground of a jump as a coach clicks it, each place off by sigma px and in a
// frame that shows it well, and says where the marks' origin lies in the simulation; nil of
// events whose ground is not that of a jump, and where too little of it is ever in the picture.
func Marks(sc *simcam.Scene, sigma float64, seed uint64) (m *ground.ControlPoints, origin r3.Vec) {
	t, props := sc.Truth, sc.Motion.Props
	id := map[string]string{"long-jump": "board", "high-jump": "bar", "pole-vault": "box"}[t.Event]
	i := slices.IndexFunc(ground.Templates(), func(tp ground.Template) bool { return tp.ID == id })
	if i < 0 {
		return nil, origin
	}
	places := ground.Templates()[i].Places
	bar, half := 0.0, 0.0
	switch id {
	case "board":
		origin.X = props.Board
	case "bar":
		a, b := props.Bar.A, props.Bar.B
		bar, half = a.Y, (b.X-a.X)/2
		out := 1.0
		if t.Spec.Mirrored() {
			out = -1
		}
		origin = r3.Vec{X: (a.X + b.X) / 2, Z: out * a.Z}
		for i, c := range props.Cones {
			places = append(places, ground.Place{Name: []string{"curve begins", "inside of it"}[i], Along: c.X - origin.X, Right: out*c.Z - origin.Z})
		}
	}
	r := rand.New(rand.NewPCG(seed, 13))
	m = &ground.ControlPoints{Template: id}
	for _, p := range places {
		q := ground.ControlPoint{Name: p.Name, Along: p.Along, Right: p.Right, Line: p.Line}
		if p.Bar {
			q.Up = math.Round(100*bar) / 100 // as a bar is laid
		}
		// The uprights of the simulation stand 4.00 m apart, the template's in the middle of the rule.
		where := []float64{p.Along}
		if id == "bar" && p.Right == 0 {
			where = []float64{math.Copysign(half, p.Along)}
		}
		if p.Line {
			where = where[:0]
			for along := -8.0; along <= -1; along += 0.5 {
				where = append(where, along)
			}
			if len(m.Points) >= 6 { // once more, from the other end
				for k := range len(where) / 2 {
					where[k], where[len(where)-1-k] = where[len(where)-1-k], where[k]
				}
			}
		}
		for _, along := range where {
			if f, x, y, ok := shows(t, r3.Add(origin, r3.Vec{X: along, Y: q.Up, Z: p.Right})); ok {
				q.Frame, q.X, q.Y = f, x+sigma*r.NormFloat64(), y+sigma*r.NormFloat64()
				m.Points = append(m.Points, q)
				break
			}
		}
	}
	if len(m.Points) < 4 {
		return nil, origin
	}
	p := t.Frames[0].Camera
	m.Away = math.Round(2*r3.Norm(r3.Sub(eye(p), origin))) / 2
	return m, origin
}

// shows is the frame that shows a place nearest to the middle of its picture.
func shows(t simcam.Truth, w r3.Vec) (frame int, x, y float64, ok bool) {
	mid := [2]float64{float64(t.Spec.Width) / 2, float64(t.Spec.Height) / 2}
	best := math.Inf(1)
	const margin = 4
	for f, fr := range t.Frames {
		row := func(i int) float64 {
			m := fr.Camera[i]
			return m[0]*w.X + m[1]*w.Y + m[2]*w.Z + m[3]
		}
		if row(2) <= 0 {
			continue
		}
		u, v := row(0)/row(2), row(1)/row(2)
		if u < margin || v < margin || u > 2*mid[0]-margin || v > 2*mid[1]-margin {
			continue
		}
		if d := math.Hypot(u-mid[0], v-mid[1]); d < best-1 {
			best, frame, x, y, ok = d, f, u, v, true
		}
	}
	return frame, x, y, ok
}

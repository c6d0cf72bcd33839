package approach

import (
	"errors"
	"math"

	"neokinema/core/camera"
	"neokinema/core/flight"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// Flight is how the centre of mass leaves the ground and flies, with gravity known and no air.
type Flight struct {
	Speed   uncertainty.Estimate `json:"speed" doc:"m/s along the ground at the toe-off"`
	Upward  uncertainty.Estimate `json:"upward" doc:"m/s up at the toe-off"`
	Angle   uncertainty.Estimate `json:"angle" doc:"degrees up from level"`
	Height  uncertainty.Estimate `json:"height" doc:"m, of the centre of mass at the toe-off"`
	Top     uncertainty.Estimate `json:"top" doc:"m, the highest that it flies"`
	Heading uncertainty.Estimate `json:"heading" doc:"degrees to the right of along"`
	Ahead   uncertainty.Estimate `json:"ahead" doc:"m, centre of mass along, counted from the origin, at the toe-off"`
	Lands   uncertainty.Estimate `json:"lands" doc:"m, the same at the end of the flight"`
	Aside   uncertainty.Estimate `json:"aside" doc:"m to the right of along, at the end of the flight"`
	Frames  int                  `json:"frames" doc:"pictures that were used"`
}

// Errors of a flight.
var (
	ErrNoFlight = errors.New("the body is not followed through the flight")
	ErrFall     = errors.New("the body does not fall as it should in what is taken for the flight: check the rate of the camera, the toe-off and the landing")
)

// Of the centre of mass at the toe-off: how high it is, standing heights, and how far from over
// the foot it may be, m; and how far off the way of the last step a jump goes, m/s. Assumed.
const (
	leavesHigh = 0.62
	offFoot    = 0.2
	offWay     = 1.5
)

// How far off the tables put the centre of mass, m, and by how much that changes in a flight,
// m/s. Assumed.
const (
	centreSD    = 0.012
	centreDrift = 0.02
)

// worstFall is how far off the parabola pictures may be, in their scatter. Assumed.
const worstFall = 4.0

// Flight reads the flight from a frame to another from the pixels of the centre of mass; free
// gives camera, rate and pixels. The last foot is the one it leaves.
func (r *Run) Flight(free throw.FreeFlight, from, end int) (Flight, error) {
	last := len(r.Feet) - 1
	fit := func(eye *camera.Camera, s sample) (throw.State, bool) {
		f := free
		f.Camera = eye
		p := s.at[last]
		d := p
		d.X, d.Y = d.X-s.at[last-1].X, d.Y-s.at[last-1].Y
		f.Near, f.NearSD = vec3.Vec{X: p.X, Y: leavesHigh * r.tall, Z: p.Y}, offFoot
		f.Toward, f.Off = math.Atan2(d.Y, d.X), offWay
		return f.State(from, end)
	}
	st, ok := fit(r.eye, r.as)
	if !ok {
		return Flight{}, ErrNoFlight
	}
	if st.Off > worstFall {
		return Flight{}, ErrFall
	}
	var others []throw.State
	for i, o := range r.others {
		eye := r.eye
		if i < len(r.cameras) {
			eye = r.cameras[i]
		}
		if s, ok := fit(eye, o); ok {
			others = append(others, s)
		}
	}
	read := func(of func(at, v vec3.Vec) float64) uncertainty.Estimate {
		x := []float64{st.At.X, st.At.Y, st.At.Z, st.V.X, st.V.Y, st.V.Z}
		g := func(x []float64) float64 {
			return of(vec3.Vec{X: x[0], Y: x[1], Z: x[2]}, vec3.Vec{X: x[3], Y: x[4], Z: x[5]})
		}
		v := g(x)
		var grad [6]float64
		for i := range x {
			const h = 1e-4
			x[i] += h
			grad[i] = (g(x) - v) / h
			x[i] -= h
		}
		sum := 0.0
		for i := range 6 {
			for j := range 6 {
				sum += grad[i] * grad[j] * st.Cov[6*i+j]
			}
		}
		for _, o := range others {
			d := of(o.At, o.V) - v
			sum += d * d
		}
		return uncertainty.Normal(v, math.Sqrt(math.Max(0, sum)))
	}
	// The body is not built as tables have it, and is off them by more in one pose than in another.
	widen := func(v uncertainty.Estimate, by float64) uncertainty.Estimate {
		return uncertainty.Normal(v.Value, math.Hypot(v.SD, by))
	}
	level := func(v vec3.Vec) float64 { return math.Hypot(v.X, v.Z) }
	return Flight{
		Speed:   widen(read(func(_, v vec3.Vec) float64 { return level(v) }), centreDrift),
		Upward:  widen(read(func(_, v vec3.Vec) float64 { return v.Y }), centreDrift),
		Angle:   read(func(_, v vec3.Vec) float64 { return math.Atan2(v.Y, level(v)) * 180 / math.Pi }),
		Height:  widen(read(func(at, _ vec3.Vec) float64 { return at.Y }), centreSD),
		Top:     widen(read(func(at, v vec3.Vec) float64 { return at.Y + math.Max(0, v.Y)*math.Max(0, v.Y)/(2*flight.Gravity) }), centreSD),
		Heading: read(func(_, v vec3.Vec) float64 { return math.Atan2(v.Z, v.X) * 180 / math.Pi }),
		Ahead:   read(func(at, _ vec3.Vec) float64 { return at.X }),
		Lands:   read(func(at, v vec3.Vec) float64 { return at.X + v.X*float64(end-from)/free.Rate }),
		Aside:   read(func(at, v vec3.Vec) float64 { return at.Z + v.Z*float64(end-from)/free.Rate }),
		Frames:  st.Frames,
	}, nil
}

package evaluate

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/kinematics"
	"neokinema/core/report"
	"neokinema/core/springmass"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// Measures of one running step, from touchdown to touchdown.

var _ = register(
	kind{name: "contact", unit: "ms", doc: "time on the ground", scope: stepped,
		read: func(q *query) (uncertainty.Estimate, error) { return q.step.Contact.Scale(1000), nil }},
	kind{name: "flight", unit: "ms", doc: "time in the air", scope: stepped,
		read: whole(func(q *query) (uncertainty.Estimate, error) { return q.step.Flight.Scale(1000), nil })},
	kind{name: "cadence", unit: "1/min", doc: "steps a minute", scope: stepped,
		chained: true, read: whole(func(q *query) (uncertainty.Estimate, error) { return *q.step.Cadence, nil })},
	kind{name: "duty", unit: "%", doc: "contact over step", scope: stepped,
		read: byTimes(func(t springmass.Times) float64 { return 100 * t.Duty() })},
	kind{name: "force", unit: "BW", doc: "peak vertical force by the times, in body weights (Morin and others 2005)", scope: stepped,
		read: byTimes(springmass.Times.PeakForce)},
	kind{name: "length", unit: "m", doc: "from touchdown to touchdown", scope: stepped,
		read: whole(func(q *query) (uncertainty.Estimate, error) {
			if q.step.Length == nil {
				return uncertainty.Estimate{}, Failure{"there is no scale or no foot print", "tracked feet and a scale"}
			}
			return *q.step.Length, nil
		})},
	kind{name: "speed", unit: "m/s", doc: "of the hips over the ground", scope: stepped,
		read: whole((*query).speed)},
	kind{name: "travel", unit: "cm", doc: "of the centre of mass (or the hips) up and down in a step", scope: stepped,
		steady: true, read: whole((*query).travel)},
	kind{name: "k_vert", unit: "kN/m", doc: "vertical stiffness by the times (Morin and others 2005)", scope: stepped,
		read: whole(func(q *query) (uncertainty.Estimate, error) {
			if q.Input.Athlete.Mass <= 0 {
				return uncertainty.Estimate{}, errNoMass
			}
			return q.times(func(t springmass.Times) float64 { return t.VerticalStiffness(q.Input.Athlete.Mass) / 1000 }), nil
		})},
	kind{name: "k_leg", unit: "kN/m", doc: "leg stiffness by times and speed (Morin and others 2005)", scope: stepped,
		read: whole(legStiffness)},
	kind{name: "asymmetry", unit: "%", doc: "left minus right of readings[0], in % of their mean", readings: 1, scope: derived, alone: true,
		read: asymmetry},
)

var errNoMass = Failure{"the body mass is not known", "the athlete's body mass"}

// whole reads what needs the next touchdown too.
func whole(read func(*query) (uncertainty.Estimate, error)) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		if q.step.Flight == nil || q.step.Cadence == nil {
			return uncertainty.Estimate{}, Failure{"the next touchdown is not in this clip", "one more step in the clip"}
		}
		return read(q)
	}
}

// byTimes reads a function of contact and flight times.
func byTimes(f func(springmass.Times) float64) func(*query) (uncertainty.Estimate, error) {
	return whole(func(q *query) (uncertainty.Estimate, error) { return q.times(f), nil })
}

func (q *query) times(f func(springmass.Times) float64) uncertainty.Estimate {
	return uncertainty.Propagate(func(x []float64) float64 { return f(springmass.Times{Contact: x[0], Flight: x[1]}) },
		[]float64{q.step.Contact.Value, q.step.Flight.Value}, []float64{q.step.Contact.SD, q.step.Flight.SD})
}

func legStiffness(q *query) (uncertainty.Estimate, error) {
	v, err := q.speed()
	if err != nil {
		return v, err
	}
	if q.Input.Athlete.Mass <= 0 {
		return uncertainty.Estimate{}, errNoMass
	}
	leg := springmass.LegShare * q.Input.Athlete.Height
	return uncertainty.Propagate(func(x []float64) float64 {
		k, err := springmass.Times{Contact: x[0], Flight: x[1]}.LegStiffness(q.Input.Athlete.Mass, x[3], x[2])
		if err != nil {
			return math.NaN()
		}
		return k / 1000
	}, []float64{q.step.Contact.Value, q.step.Flight.Value, v.Value, leg}, []float64{q.step.Contact.SD, q.step.Flight.SD, v.SD, springmass.LegSpread * leg}), nil
}

// speed is that of the hips over the ground in a step, m/s.
func (q *query) speed() (uncertainty.Estimate, error) {
	if q.sight == nil || !q.usable() {
		return uncertainty.Estimate{}, errNoStepScale
	}
	s := q.step
	a, okA := q.Movement.Where("mid_hip", s.From)
	b, okB := q.Movement.Where("mid_hip", *s.Next)
	t, err := q.Clock.Between(s.From, *s.Next)
	if !okA || !okB || err != nil {
		return uncertainty.Estimate{}, Failure{"the hips are not tracked through this step", "drafted or tracked hips"}
	}
	return q.metres(func(p []r2.Vec, _, t []float64) float64 { return (p[1].X-p[0].X)/t[0] - q.belted(a, 1) }, 2,
		[]float64{a.X, a.Y, b.X, b.Y, t.Value}, []float64{q.Sigma, 0, q.Sigma, 0, t.SD}), nil
}

// belted is how far the belt brings a place of the plane back in a time, m; 0 on firm ground.
func (e *Evaluation) belted(at r2.Vec, seconds float64) float64 {
	if e.belt == 0 {
		return 0
	}
	n, _ := e.sight.numbers()
	return e.sight.flat(r2.Add(at, r2.Vec{X: e.belt * seconds}), n).X - e.sight.flat(at, n).X
}

var errNoStepScale = Failure{"there is no scale yet", "a thigh or shank placed, or a scale along a known length"}

// travel is how far the centre of mass goes up and down in a step, cm; the hips
// stand in for it while joints are missing.
func (q *query) travel() (uncertainty.Estimate, error) {
	if q.sight == nil || !q.usable() {
		return uncertainty.Estimate{}, errNoStepScale
	}
	if q.centre == nil {
		if q.centre = q.Movement.Centre(q.Input.Athlete.Sex); q.centre == nil {
			q.centre = &kinematics.Path{}
		}
	}
	lo, hi, x := math.Inf(1), math.Inf(-1), 0.0
	for f := q.step.From; f <= *q.step.Next; f++ {
		p, ok := q.centre.Where(f)
		if !ok {
			if p, ok = q.Movement.Where("mid_hip", f); !ok {
				return uncertainty.Estimate{}, Failure{"the body is not tracked through this step", "a draft of this stretch"}
			}
		}
		lo, hi, x = math.Min(lo, p.Y), math.Max(hi, p.Y), p.X
	}
	// Smoothing takes from the way up and down, and scatter adds to it: the truth is between.
	unsmoothed := q.rise(q.step.From, *q.step.Next)
	sd := math.Hypot(q.Sigma, math.Max(0, unsmoothed-(hi-lo))/2)
	if q.drafted(q.step.From) {
		sd = math.Hypot(sd, massOff*math.Sqrt2*math.Max(q.cache.tall, math.Min(2*q.cache.tall, clearHeight)))
	}
	return q.metres(func(p []r2.Vec, _, _ []float64) float64 { return 100 * (p[1].Y - p[0].Y) }, 2, []float64{x, lo, x, hi}, []float64{0, 0, 0, sd}), nil
}

// massOff is how far joints of a draft that are off together move the centre of mass, standing
// heights; of small athletes up to twice as far. Assumed, after a look at the half of the hard set that is there to build on.
const massOff = 0.006

// drafted tells whether the hips in a frame were computed.
func (q *query) drafted(frame int) bool {
	for _, id := range []string{"left_hip", "right_hip"} {
		if q.Input.Points[id].SourceAt(frame) == track.Draft {
			return true
		}
	}
	return false
}

// rise is how far the centre of mass goes up and down between two frames as it was seen, px;
// 0 when nobody knows.
func (q *query) rise(from, to int) float64 {
	var frames []int
	for _, f := range q.ownFrames() {
		if f >= from && f <= to {
			frames = append(frames, f)
		}
	}
	m := q.mass(frames)
	if m == nil {
		return 0
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, up := range m.Up {
		if !math.IsNaN(up) {
			lo, hi = math.Min(lo, up), math.Max(hi, up)
		}
	}
	return math.Max(0, hi-lo) * q.cache.tall
}

// asymmetry is left minus right over their mean, %.
func asymmetry(q *query) (uncertainty.Estimate, error) {
	got := q.readings[q.m.Readings[0]]
	sides := map[string][]report.Repetition{}
	for _, x := range got.Repetitions {
		sides[x.Foot] = append(sides[x.Foot], x)
	}
	if len(sides["left"]) == 0 || len(sides["right"]) == 0 {
		return uncertainty.Estimate{}, Failure{"steps of both feet are needed", "one more step in the clip"}
	}
	q.ev = got.Evidence
	// Both have one scale, and are found late in the same way: their share knows neither.
	scale := q.scaleOf(q.m.Readings[0])
	l, _ := meanOf(sides["left"], scale, 0)
	r, _ := meanOf(sides["right"], scale, 0)
	return uncertainty.Propagate(func(x []float64) float64 { return 200 * (x[0] - x[1]) / (x[0] + x[1]) }, []float64{l.Value, r.Value}, []float64{l.SD, r.SD}), nil
}

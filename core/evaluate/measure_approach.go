package evaluate

import (
	"math"

	"neokinema/core/approach"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
)

// Measures of a run-up on the marked ground, and of the jump that follows.

var _ = register(
	kind{name: "before_line", unit: "cm", doc: "toes of the foot that comes down at the position before board, bar, box or arc; beyond it when negative", scope: onRunway, decides: moreGround,
		read: ofFoot(func(p report.FootPlace) *uncertainty.Estimate { return inCentimetres(p.Before) })},
	kind{name: "step_length", unit: "m", doc: "step that begins with the foot that comes down at the position, on the marked ground", scope: onRunway, decides: moreGround,
		read: ofFoot(func(p report.FootPlace) *uncertainty.Estimate { return p.Length })},
	kind{name: "step_speed", unit: "m/s", doc: "speed of that step, from touchdown to touchdown", scope: onRunway, decides: moreGround,
		read: ofFoot(func(p report.FootPlace) *uncertainty.Estimate { return p.Speed })},
	kind{name: "lean_in", unit: "°", doc: "inward lean as the centre of mass passes over the foot that comes down at the position", scope: onRunway, decides: moreGround,
		read: ofFoot(func(p report.FootPlace) *uncertainty.Estimate { return p.Lean })},
	kind{name: "curve_lean", unit: "°", doc: "inward lean over the feet of the curve, mean of those that show it", scope: onRunway, decides: moreGround,
		read: ofApproach(func(a *report.Approach) *uncertainty.Estimate { return meanLean(a.Feet) })},
	kind{name: "curve_radius", unit: "m", doc: "radius of the curve of the last steps", scope: onRunway, decides: moreGround,
		read: ofCurve(func(c approach.Curve) *uncertainty.Estimate { return &c.Radius })},
	kind{name: "curve_asks", unit: "°", doc: "inward lean that speed and radius of the curve ask for", scope: onRunway, decides: moreGround,
		read: ofCurve(func(c approach.Curve) *uncertainty.Estimate {
			if c.Lean.Value == 0 {
				return nil
			}
			return &c.Lean
		})},
	kind{name: "to_line", unit: "°", doc: "direction of the curve at the last foot against the bar", scope: onRunway, decides: moreGround,
		read: ofCurve(func(c approach.Curve) *uncertainty.Estimate {
			v := c.Heading
			v.Value = math.Abs(v.Value)
			return &v
		})},
	kind{name: "leaves_speed", unit: "m/s", doc: "speed of the centre of mass along the ground as it leaves", scope: onRunway, decides: moreGround,
		read: ofFlight(func(f approach.Flight) uncertainty.Estimate { return f.Speed })},
	kind{name: "leaves_upward", unit: "m/s", doc: "its speed upward", scope: onRunway, decides: moreGround,
		read: ofFlight(func(f approach.Flight) uncertainty.Estimate { return f.Upward })},
	kind{name: "leaves_angle", unit: "°", doc: "its way against the ground as it leaves", scope: onRunway, decides: moreGround,
		read: ofFlight(func(f approach.Flight) uncertainty.Estimate { return f.Angle })},
	kind{name: "leaves_height", unit: "%", doc: "its height over the ground as it leaves, in % of the standing height", scope: onRunway, decides: moreGround,
		read: func(q *query) (uncertainty.Estimate, error) {
			if q.Input.Athlete.Height <= 0 {
				return uncertainty.Estimate{}, Failure{"the standing height is not known", "the athlete's height"}
			}
			return ofFlight(func(f approach.Flight) uncertainty.Estimate { return f.Height.Scale(100 / q.Input.Athlete.Height) })(q)
		}},
	kind{name: "over_bar", unit: "cm", doc: "highest place of the centre of mass over the bar; negative under it", scope: onRunway, decides: moreGround, read: ofPart("over")},
	kind{name: "lands_behind", unit: "cm", doc: "centre of mass behind the bar at the landing", scope: onRunway, decides: moreGround, read: ofPart("behind")},
	kind{name: "lands_along", unit: "cm", doc: "centre of mass at the landing along the bar from its middle, in the direction of the run", scope: onRunway, decides: moreGround, read: ofPart("along")},
	kind{name: "leaves_ahead", unit: "cm", doc: "centre of mass ahead of the edge of the board as it leaves", scope: onRunway, decides: moreGround, read: ofPart("ahead")},
	kind{name: "flown", unit: "cm", doc: "way of the centre of mass along the ground in the flight", scope: onRunway, decides: moreGround, read: ofPart("flown")},
	kind{name: "heels_ahead", unit: "cm", doc: "heels ahead of the centre of mass as they reach the sand", scope: onRunway, decides: moreGround, read: ofPart("heels")},
)

func moreGround(*Evaluation, model.Checkpoint) string {
	return "more of the ground marked, or a camera higher up"
}

var errNoRunway = Failure{"the run-up is not read on the ground in this clip", "board, bar or box marked on the ground"}

// ofApproach reads a value of the run-up.
func ofApproach(of func(*report.Approach) *uncertainty.Estimate) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		a := q.report.Approach
		if a == nil {
			return uncertainty.Estimate{}, errNoRunway
		}
		if v := of(a); v != nil {
			return *v, nil
		}
		f := Failure{"this clip does not show it surely enough", "more of the ground marked, or a clip from where it shows"}
		if len(a.Missing) > 0 {
			f.Reason = a.Missing[0]
		}
		return uncertainty.Estimate{}, f
	}
}

func ofCurve(of func(approach.Curve) *uncertainty.Estimate) func(*query) (uncertainty.Estimate, error) {
	return ofApproach(func(a *report.Approach) *uncertainty.Estimate {
		if a.Curve == nil {
			return nil
		}
		return of(*a.Curve)
	})
}

func ofFlight(of func(approach.Flight) uncertainty.Estimate) func(*query) (uncertainty.Estimate, error) {
	return ofApproach(func(a *report.Approach) *uncertainty.Estimate {
		if a.Flight == nil {
			return nil
		}
		v := of(*a.Flight)
		return &v
	})
}

func ofPart(id string) func(*query) (uncertainty.Estimate, error) {
	return ofApproach(func(a *report.Approach) *uncertainty.Estimate {
		for _, p := range a.Parts {
			if p.ID == id {
				return inCentimetres(&p.Value)
			}
		}
		return nil
	})
}

// ofFoot reads a value of the foot that comes down at the measure's position.
func ofFoot(of func(report.FootPlace) *uncertainty.Estimate) func(*query) (uncertainty.Estimate, error) {
	return func(q *query) (uncertainty.Estimate, error) {
		return ofApproach(func(a *report.Approach) *uncertainty.Estimate {
			for _, p := range a.Feet {
				if p.From <= q.frame && q.frame <= p.To {
					q.ev.Frame, q.ev.To = p.From, &p.To
					return of(p)
				}
			}
			return nil
		})(q)
	}
}

func inCentimetres(v *uncertainty.Estimate) *uncertainty.Estimate {
	if v == nil {
		return nil
	}
	cm := v.Scale(100)
	return &cm
}

// leaning is how many steps before the last touchdown are in the curve with their whole lean.
// Common practice, no source.
const leaning = 3

// meanLean is the mean lean over a stride or more: left and right steps lean differently. The
// camera is the same for all, so that nothing of their doubt averages out.
func meanLean(feet []report.FootPlace) *uncertainty.Estimate {
	var sum, sd, n float64
	for i := max(0, len(feet)-1-leaning); i < len(feet)-1; i++ {
		if v := feet[i].Lean; v != nil {
			sum, sd, n = sum+v.Value, sd+v.SD, n+1
		}
	}
	if n < 2 {
		return nil
	}
	v := uncertainty.Normal(sum/n, sd/n)
	return &v
}

package evaluate

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// Ways and speeds of points: from one position to another, and just before one.

var _ = register(
	kind{name: "rise", unit: "cm", doc: "how much higher points[0] is at positions[1] than at positions[0]", points: 1, positions: 2, scope: moved,
		read: func(q *query) (uncertainty.Estimate, error) { return q.shift(1) }},
	kind{name: "gain", unit: "cm", doc: "how much farther on points[0] is at positions[1] than at positions[0]", points: 1, positions: 2, scope: moved,
		read: func(q *query) (uncertainty.Estimate, error) { return q.shift(0) }},
	kind{name: "keeps", unit: "%", doc: "speed of points[0] along the ground in the 80 ms before positions[1], in % of that before positions[0]", points: 1, positions: 2, scope: moved,
		read: keeps},
	kind{name: "pace", unit: "m/s", doc: "speed of points[0] along the ground in the 80 ms before the position", points: 1, scope: placed, decides: longer,
		read: pace},
	kind{name: "strides", unit: "%", doc: "from points[1] at positions[1] to points[2] at positions[2], in % of the way from points[0] at positions[0] to points[1] at positions[1]", points: 3, positions: 3, scope: moved,
		read: strides},
	kind{name: "air_strides", doc: "strides: how often the thighs from points[0] to [1] and from points[2] to [3] pass each other between positions[0] and [1], and a half for the legs that come together", points: 4, positions: 2, scope: derived, alone: true, bound: true,
		read: airStrides},
	kind{name: "backward", unit: "m/s", doc: "speed of points[0] against the running direction, over the 8 to 50 ms before the position", points: 1, scope: placed, decides: longer,
		read: backward},
)

// shift is the way of a point along an axis of the picture, cm.
func (q *query) shift(axis int) (uncertainty.Estimate, error) {
	for _, f := range q.frames {
		if err := q.see(q.m.Points[0], f); err != nil {
			return uncertainty.Estimate{}, err
		}
	}
	return q.scaled(func(p []r2.Vec) float64 {
		d := r2.Sub(p[1], p[0])
		return [2]float64{d.X, d.Y}[axis]
	})
}

// paceWindow is the stretch before a position over which a speed is taken, s: long enough
// to beat the scatter of points. Assumed, no source.
const paceWindow = 0.08

func keeps(q *query) (uncertainty.Estimate, error) {
	w := q.pictures(max(2, int(paceWindow*q.shown())))
	for _, f := range q.frames {
		if !q.pace(q.m.Points[0], f-w, f) {
			return uncertainty.Estimate{}, Failure{"the " + body.Label(q.m.Points[0]) + " is not tracked before these positions", "a draft of this stretch"}
		}
	}
	return q.inPlane(func(p []r2.Vec) float64 { return 100 * (p[3].X - p[2].X) / (p[1].X - p[0].X) }), nil
}

func pace(q *query) (uncertainty.Estimate, error) {
	if q.sight == nil {
		return uncertainty.Estimate{}, errNoScale
	}
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	from := q.frame - q.pictures(max(2, int(paceWindow*q.shown())))
	q.x, q.sd = nil, nil
	if from < 0 || !q.pace(q.m.Points[0], from, q.frame) {
		return uncertainty.Estimate{}, noWay(q.roles.Resolve(q.m.Points[0])[0])
	}
	t := q.Clock.At(q.frame) - q.Clock.At(from)
	return q.metres(func(p []r2.Vec, _, _ []float64) float64 { return (p[1].X - p[0].X) / t }, 2, q.x, q.sd), nil
}

// pace adds the ends of the line that fits a point's way between two frames best. What is
// placed by hand in every frame is off anew in each; other errors last as long as the stretch,
// and the ends are as doubtful as any frame.
func (q *query) pace(role string, from, to int) bool {
	var n, byHand, sigma, t, tt float64
	var x, tx r2.Vec
	for f := from; f <= to; f++ {
		p, ok := q.Point(q.roles, role, f)
		if !ok {
			continue
		}
		d := float64(f-from) / float64(to-from)
		n, sigma, t, tt = n+1, sigma+p.Sigma, t+d, tt+d*d
		x, tx = r2.Add(x, p.At), r2.Add(tx, r2.Scale(d, p.At))
		if at, _ := q.Input.Points.At(p.Landmarks[0], f); at.Source == track.Hand.String() {
			byHand++
		}
	}
	_, began := q.Point(q.roles, role, from)
	_, ended := q.Point(q.roles, role, to)
	spread := tt - t*t/math.Max(1, n)
	if !began || !ended || n < leastPace || spread < 1e-9 {
		return false
	}
	slope := r2.Scale(1/spread, r2.Sub(tx, r2.Scale(t/n, x)))
	first := r2.Sub(r2.Scale(1/n, x), r2.Scale(t/n, slope))
	sigma /= n
	if byHand == n {
		sigma *= math.Min(1, 1/math.Sqrt(2*spread)) // of each end, so that their difference has that of the slope
	}
	last := r2.Add(first, slope)
	q.x, q.sd = append(q.x, first.X, first.Y, last.X, last.Y), append(q.sd, sigma, sigma, sigma, sigma)
	return true
}

// leastPace is how many frames tell a speed.
const leastPace = 3

func strides(q *query) (uncertainty.Estimate, error) {
	for i, f := range q.frames {
		if err := q.see(q.m.Points[i], f); err != nil {
			return uncertainty.Estimate{}, err
		}
	}
	of := func(p []r2.Vec) float64 { return 100 * (p[2].X - p[1].X) / (p[1].X - p[0].X) }
	v := q.inPlane(of)
	if q.sight == nil {
		return v, nil
	}
	// Feet land on one line, or on both sides of it and so by turns nearer to the camera.
	return uncertainty.Normal(v.Value, math.Hypot(v.SD, math.Abs(q.sidelong(of).Value-v.Value)/2)), nil
}

// inPlane is a share of lengths in the plane of motion; without a scale the picture stands
// for it.
func (q *query) inPlane(of func(places []r2.Vec) float64) uncertainty.Estimate {
	if q.sight == nil {
		return uncertainty.Propagate(func(v []float64) float64 {
			places := make([]r2.Vec, len(v)/2)
			for i := range places {
				places[i] = pt(v, i)
			}
			return of(places)
		}, q.x, q.sd)
	}
	return q.metres(func(p []r2.Vec, _, _ []float64) float64 { return of(p) }, len(q.x)/2, q.x, q.sd)
}

// Window of the foot's speed before touchdown, seconds: long enough to beat the scatter of
// points, short enough to be the speed at landing. Assumed, no source.
const (
	shortestWindow = 0.008
	longestWindow  = 0.05
)

// soonAfter is the share of the errors of computed points that differs between two frames some
// hundredths of a second apart: a smooth path, and joints that stay off the same way. Assumed,
// after a look at the lots that are there to build on.
const soonAfter = 0.3

func backward(q *query) (uncertainty.Estimate, error) {
	if q.sight == nil {
		return uncertainty.Estimate{}, errNoScale
	}
	if !q.Clock.Known() {
		return uncertainty.Estimate{}, errNoRate
	}
	for f := q.frame - 1; f >= 0; f-- {
		t := q.Clock.At(q.frame) - q.Clock.At(f)
		if t > longestWindow {
			break
		}
		if p, ok := q.onWay(q.m.Points[0], f); ok && t >= shortestWindow && q.Input.Clip.Pictures.Own(f) {
			here, _ := q.onWay(q.m.Points[0], q.frame)
			own := 1.0
			if q.placedByHand(f)+q.placedByHand(q.frame) == 0 {
				own = soonAfter
			}
			return q.metres(func(at []r2.Vec, _, _ []float64) float64 { return (at[1].X - at[0].X) / t }, 2,
				[]float64{here.At.X, here.At.Y, p.At.X, p.At.Y}, []float64{own * here.Sigma, 0, own * p.Sigma, 0}), nil
		}
	}
	return uncertainty.Estimate{}, Failure{"the toe is placed at the touchdown only", "the same toe placed 10 to 50 ms earlier too"}
}

// How far apart thighs must swing for one to have passed the other, degrees: they surely have
// beyond the larger angle, and surely not short of the smaller one. hiddenThighs is the share of
// the stretch in which they may be unknown. Assumed.
const (
	passedLeast  = 15.0
	passedSure   = 40.0
	hiddenThighs = 0.2
)

// airStrides counts the strides of a hitch-kick as coaches do: one each time that the thighs pass
// each other, and a half for the landing, to which the legs come together.
func airStrides(q *query) (uncertainty.Estimate, error) {
	if err := q.spanned(); err != nil {
		return uncertainty.Estimate{}, err
	}
	q.ev.To = &q.frames[1]
	var apart []float64
	for f := q.frames[0]; f <= q.frames[1]; f++ {
		var at [4]r2.Vec
		known := true
		for i, role := range q.m.Points {
			p, ok := q.Point(q.Evaluation.Roles, role, f)
			at[i], known = p.At, known && ok
		}
		if known {
			a, b := r2.Sub(at[1], at[0]), r2.Sub(at[3], at[2])
			apart = append(apart, math.Remainder(angles.Deg(math.Atan2(r2.Cross(b, a), r2.Dot(b, a))), 360))
		}
	}
	if n := float64(q.frames[1] - q.frames[0] + 1); float64(len(apart)) < (1-hiddenThighs)*n {
		return uncertainty.Estimate{}, Failure{"both thighs are not known all through the flight", "both legs followed from the toe-off to the sand"}
	}
	n := passings(apart, passedLeast)
	if n != passings(apart, passedSure) {
		return uncertainty.Estimate{}, Failure{"the thighs pass each other by too little to be counted", "a look at the legs in the middle of the flight"}
	}
	return uncertainty.Normal(float64(n)+0.5, 0), nil
}

// passings counts how often angles go from one side of zero to the other, by so much on both.
func passings(apart []float64, least float64) (n int) {
	side := 0.0
	for _, a := range apart {
		if math.Abs(a) < least {
			continue
		}
		if now := math.Copysign(1, a); now != side {
			if side != 0 {
				n++
			}
			side = now
		}
	}
	return n
}

package throw

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/flight"
	"neokinema/core/linsolve"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// FindRelease is how an implement leaves, from its first free frames.
type Release struct {
	Frame  int                   `json:"frame" doc:"first frame in which it flies free"`
	Speed  uncertainty.Estimate  `json:"speed" doc:"m/s"`
	Angle  uncertainty.Estimate  `json:"angle" doc:"up from level, degrees"`
	Height uncertainty.Estimate  `json:"height" doc:"of its centre over the ground, m"`
	Aside  *uncertainty.Estimate `json:"aside,omitempty" required:"false" doc:"to the right of the middle of the sector, degrees; absent where it is not known well enough to tell one side of the sector from the other"`
	Along  float64               `json:"along" doc:"m from the origin of the ground in the throwing direction"`
	Frames int                   `json:"frames" doc:"free frames that were used"`
	// Moment of the release in frames with fractions, and its standard deviation.
	Moment   float64 `json:"-"`
	MomentSD float64 `json:"-"`
}

// Errors of [Free.Leaving].
var (
	ErrNoFlight = errors.New("the implement is not tracked in free flight")
	ErrView     = errors.New("from here the flight goes along the sight; it takes a clip from the side")
)

// FreeFlight is what a release is read from.
type FreeFlight struct {
	Camera *camera.Camera
	Rate   float64
	Frames int
	Pixel  func(frame int) (at r2.Vec, sigma float64, ok bool)
	Near   vec3.Vec // about where the implement leaves
	NearSD float64  // how sure that is along the sight, m
	Toward float64  // rad to the right of the middle of the sector: about where it flies
	Off    float64  // m/s across that
	Spin   float64  // rad a frame by which that turns
	Flag   int      // frame of the release that the coach set; -1 to look for it
	Orbit  bool     // it comes off an orbit
}

// Spans of free flight, s: what is fitted, and the least that will do.
// Assumed; shaped on simulated clips.
const (
	freeSpan  = 0.13
	leastSpan = 0.05
)

// Of a straight throw: how fast an implement may go off the line of throw, m/s
// (half the sector at some 15 m/s), and how far along the sight it may be from the
// middle of the shoulders, m. Of a turning one its orbit says more. Assumptions, no
// source.
const (
	offLine   = 3.0
	offBody   = 0.4
	offOrbit  = 0.15
	offCourse = 0.06 // share of the speed across the tangent of the orbit
	offDisc   = 0.12 // the same of a disc: of those that there are to build on it left 4 to 9 degrees to one side
)

// FindRelease reads the release of a clip; frame and moment come with an error too if they are
// known, that is with a doubt of the moment. The orbit says about where a turning throw
// leaves and where to.
func (c Clip) FindRelease(o *Reconstruction) (Release, error) {
	// What flies: the javelin's grip is a point of it, the hammer's flies after the ball.
	flies := "ball"
	if t := c.Points["ball"]; c.Kind == Javelin && (t == nil || t.Len() == 0) {
		flies = "grip"
	}
	free := FreeFlight{Camera: c.Camera, Rate: c.Movement.Rate, Frames: c.Frames, Flag: c.ReleaseFrame, NearSD: offBody, Off: offLine, Orbit: c.Kind != Javelin && c.Kind != Shot,
		Pixel: func(f int) (r2.Vec, float64, bool) {
			q, sigma, ok := c.pixel(flies, f)
			return q, sigma / 2, ok // an implement is a clearer mark than a joint
		}}
	offTangent := offCourse
	if c.Kind == Discus {
		offTangent = offDisc
	}
	about := free.Flag
	for {
		// Where the thrower is at the release, which is not known at first.
		f := about
		if f < 0 {
			f = c.Frames * 4 / 5
		}
		for ; f >= 0; f-- {
			if f < len(o.Neck) && known(o.Neck[f]) {
				free.Near = o.Neck[f]
				break
			}
		}
		if o.Ball != nil && about >= 0 {
			at := min(about, o.Ball.End()) - 1
			p, ok := o.ImplementPosition(at)
			v, okV := o.Speed(at - 2)
			if ok && okV && about-at < 4 {
				i := at - o.Ball.From
				// Off on the tangent, half a frame after the last held one.
				s, c := math.Sincos(o.Ball.Az[i] + (o.Ball.Az[i]-o.Ball.Az[i-1])/2)
				free.Near, free.NearSD = p, offOrbit
				free.Toward, free.Off, free.Spin = math.Atan2(o.hand*c, s), offTangent*v.Value, o.Ball.Az[i]-o.Ball.Az[i-1]
			}
		}
		l, err := free.Release()
		if err != nil && l.MomentSD == 0 || about >= 0 {
			return l, err
		}
		about = l.Frame
	}
}

// parabola fits place and velocity at frame f to the free frames from f to end: 6
// unknowns, linear in each pixel once its depth is known. Only gravity acts.
func (r FreeFlight) parabola(f, end int) (x [6]float64, cov [36]float64, off float64, n int) {
	along := vec3.Unit(vec3.Vec{X: r.Camera.Ahead.X, Z: r.Camera.Ahead.Z})
	depth := vec3.Dot(vec3.Sub(r.Near, r.Camera.At), r.Camera.Ahead)
	depths := map[int]float64{}
	var normal [36]float64
	for range 4 {
		var m [36]float64
		var g [6]float64
		add := func(row [6]float64, v, sd float64) {
			for i := range 6 {
				for j := range 6 {
					m[6*i+j] += row[i] * row[j] / (sd * sd)
				}
				g[i] += row[i] * v / (sd * sd)
			}
		}
		n = 0
		for k := f; k < end; k++ {
			q, sigma, ok := r.Pixel(k)
			if !ok {
				continue
			}
			n++
			t := float64(k-f) / r.Rate
			z := depth
			if d, ok := depths[k]; ok {
				z = d
			}
			fall := vec3.Vec{Y: -flight.Gravity * t * t / 2}
			for axis, e := range [2]vec3.Vec{r.Camera.Right, r.Camera.Down} {
				p := [2]float64{(q.X - r.Camera.Middle.X) / r.Camera.Focal, (q.Y - r.Camera.Middle.Y) / r.Camera.Focal}[axis]
				w := vec3.Sub(e, vec3.Scale(p, r.Camera.Ahead))
				add([6]float64{w.X, w.Y, w.Z, t * w.X, t * w.Y, t * w.Z}, vec3.Dot(w, vec3.Sub(r.Camera.At, fall)), sigma*z/r.Camera.Focal)
			}
		}
		add([6]float64{along.X, 0, along.Z, 0, 0, 0}, vec3.Dot(r.Near, along), r.NearSD)
		s, c := math.Sincos(r.Toward)
		add([6]float64{0, 0, 0, -s, 0, c}, 0, r.Off)
		normal, x = m, g
		if linsolve.Solve(append([]float64(nil), m[:]...), x[:]) != nil {
			return x, cov, math.Inf(1), 0
		}
		at, v := vec3.Vec{X: x[0], Y: x[1], Z: x[2]}, vec3.Vec{X: x[3], Y: x[4], Z: x[5]}
		var sum float64
		for k := f; k < end; k++ {
			q, sigma, ok := r.Pixel(k)
			if !ok {
				continue
			}
			p := r.where(at, v, float64(k-f)/r.Rate)
			depths[k] = math.Max(0.5, vec3.Dot(vec3.Sub(p, r.Camera.At), r.Camera.Ahead))
			if s, ok := r.Camera.Picture(p); ok {
				sum += r2.Norm2(r2.Sub(s, q)) / (2 * sigma * sigma)
			}
		}
		off = math.Sqrt(sum / math.Max(1, float64(n)))
	}
	return x, inverse(normal), off, n
}

// State is where something is that flies free, and how fast, at a frame.
type State struct {
	At, V  vec3.Vec
	Cov    [36]float64 // of place and velocity
	Off    float64     // root mean square of what the pictures are off the parabola, in their scatter
	Frames int
}

// State fits place and velocity at frame from to the free frames up to end; false where they do
// not tell it.
func (r FreeFlight) State(from, end int) (State, bool) {
	x, cov, off, n := r.parabola(from, end)
	return State{vec3.Vec{X: x[0], Y: x[1], Z: x[2]}, vec3.Vec{X: x[3], Y: x[4], Z: x[5]}, cov, off, n}, n >= leastFree && !math.IsInf(off+cov[0], 0) && !math.IsNaN(off+x[0]+cov[0])
}

// leastFree is how many pictures a parabola takes. Assumed.
const leastFree = 5

// inverse of a symmetric matrix of 6 x 6; infinite where it has none.
func inverse(m [36]float64) (out [36]float64) {
	for i := range 6 {
		var e [6]float64
		e[i] = 1
		if linsolve.Solve(append([]float64(nil), m[:]...), e[:]) != nil {
			e[i] = math.Inf(1)
		}
		copy(out[6*i:], e[:])
	}
	return out
}

func (r FreeFlight) where(at, v vec3.Vec, t float64) vec3.Vec {
	return vec3.Add(at, vec3.Add(vec3.Scale(t, v), vec3.Vec{Y: -flight.Gravity * t * t / 2}))
}

// start looks for the release: back from the last frame as long as what comes
// before lies on the same parabola.
func (r FreeFlight) start() (int, error) {
	last := r.Frames - 1
	for ; last >= 0; last-- {
		if _, _, ok := r.Pixel(last); ok {
			break
		}
	}
	w := max(6, int(math.Ceil(leastSpan*r.Rate)))
	s := last + 1 - w
	if s < 0 {
		return 0, ErrNoFlight
	}
	x, _, off, n := r.parabola(s, last+1)
	if v := (vec3.Vec{X: x[3], Y: x[4], Z: x[5]}); n < 6 || off > 2 || vec3.Norm(v) < slowest {
		return 0, ErrNoFlight
	}
	for ; s > 0; s-- {
		x, _, _, _ = r.parabola(s, min(last+1, s+2*w))
		at, v := vec3.Vec{X: x[0], Y: x[1], Z: x[2]}, vec3.Vec{X: x[3], Y: x[4], Z: x[5]}
		out := 0
		for k := 1; k <= 3; k++ {
			q, sigma, ok := r.Pixel(s - k)
			p, seen := r.Camera.Picture(r.where(at, v, -float64(k)/r.Rate))
			if ok && seen && r2.Norm(r2.Sub(p, q)) > 4*sigma {
				out++
			}
		}
		if out >= 2 {
			return s, nil
		}
	}
	return 0, ErrNoFlight
}

// slowest is less than any throw, m/s. Assumed: slower is no throw.
const slowest = 5

// Release fits the first free frames. Where they do not carry it, frame and moment are told
// with the error if they are known. What drag and lift do within them is part of the
// doubt. A picture that is the first to show an implement free was taken somewhere in the
// frame after the release; one that was looked for has the doubt of the look.
func (r FreeFlight) Release() (Release, error) {
	f := r.Flag
	moment, momentSD := float64(f)-0.5, 1/math.Sqrt(12)
	if f < 0 {
		rough, err := r.start()
		if err != nil {
			return Release{}, err
		}
		moment, momentSD = r.leaving(rough)
		if r.along() > mostAlong {
			momentSD = math.Hypot(momentSD, endsAlong*r.Rate)
		}
		f = int(math.Ceil(moment - 1e-9))
	}
	out := Release{Frame: f, Moment: moment, MomentSD: momentSD}
	if r.along() > mostAlong {
		return out, ErrView
	}
	end := min(r.Frames, f+int(math.Ceil(freeSpan*r.Rate)))
	x, cov, _, n := r.parabola(f, end)
	out.Frames = n
	if n < 6 || float64(end-f) < leastSpan*r.Rate {
		return out, ErrNoFlight
	}
	of := func(f func(v []float64) float64, extra float64) uncertainty.Estimate {
		// First order, with what the unknowns have in common.
		at := x
		var g [6]float64
		for i := range 6 {
			const h = 1e-4
			at[i] = x[i] + h
			up := f(at[:])
			at[i] = x[i] - h
			g[i] = (up - f(at[:])) / (2 * h)
			at[i] = x[i]
		}
		var s float64
		for i := range 6 {
			for j := range 6 {
				s += g[i] * g[j] * cov[6*i+j]
			}
		}
		return uncertainty.Normal(f(at[:]), math.Hypot(math.Sqrt(math.Max(0, s)), extra))
	}
	// Back from the first free frame to the release itself.
	back := (float64(f) - moment) / r.Rate
	x[0], x[1], x[2] = x[0]-back*x[3], x[1]-back*(x[4]+flight.Gravity*back/2), x[2]-back*x[5]
	x[4] += flight.Gravity * back
	out.Along = x[0]
	size := vec3.Norm(vec3.Vec{X: x[3], Y: x[4], Z: x[5]})
	out.Speed = of(func(x []float64) float64 { return math.Sqrt(x[3]*x[3] + x[4]*x[4] + x[5]*x[5]) }, math.Hypot(airSD, r.Camera.ScaleSD)*size)
	out.Angle = of(func(x []float64) float64 { return deg(math.Atan2(x[4], math.Hypot(x[3], x[5]))) }, deg(airSD))
	out.Height = of(func(x []float64) float64 { return x[1] }, math.Sqrt(0.01*0.01+sq(x[4]*momentSD/r.Rate)+sq(x[1]*r.Camera.ScaleSD)))
	if v := of(func(x []float64) float64 { return deg(math.Atan2(x[5], x[3])) }, deg(r.Spin*momentSD)); v.SD < asideKnown {
		out.Aside = &v
	}
	if out.Speed.SD > 0.1*size {
		return out, ErrView
	}
	return out, nil
}

// asideKnown is the standard deviation of the side to which an implement leaves beyond which it is
// not said, degrees: a third of what a sector is wide to one side. Assumed.
const asideKnown = 6

// mostAlong is how far the line of throw may go along the sight, as a share of it: what
// goes along the sight shows only by growing smaller. Assumed.
const mostAlong = 0.6

// endsAlong is how surely a push is seen to end from along the throw, s: where it ends
// the implement hardly moves across the picture. Shaped on the lot that is there to build on.
const endsAlong = 0.012

// along is that share, seen from above.
func (r FreeFlight) along() float64 {
	s, c := math.Sincos(r.Toward)
	return math.Abs(c*r.Camera.Ahead.X+s*r.Camera.Ahead.Z) / math.Hypot(r.Camera.Ahead.X, r.Camera.Ahead.Z)
}

func sq(v float64) float64 { return v * v }

// airSD is what the air may change in the fitted frames, as a share of the
// speed: half of some 4 m/s2 over 0.13 s at 20 m/s and more. Assumed.
const airSD = 0.01

// PredictedFlight is what a flight would give: distances in m from the edge from which the
// throw is measured, and what a little more of each is worth.
type PredictedFlight struct {
	Distance uncertainty.Estimate `json:"distance" doc:"m, with air"`
	NoAir    float64              `json:"no_air" doc:"m, without air"`
	Faster   float64              `json:"faster" doc:"m for one m/s more"`
	Steeper  float64              `json:"steeper" doc:"m for one degree more"`
	Higher   float64              `json:"higher" doc:"m for 10 cm more height"`
	Best     float64              `json:"best" doc:"angle of the longest throw at this speed, without air, degrees"`
}

// FlightConditions is what a predicted flight needs beside the release.
type FlightConditions struct {
	What flight.Implement
	Wind float64 // m/s from behind
	Edge float64 // m from the origin to the edge from which throws are measured
	Tip  float64 // attitude minus angle of the path: disc and javelin, degrees
}

// distance of a flight: speed in m/s, angle in degrees, height in m.
func (l Release) distance(c FlightConditions, speed, angle, height float64) float64 {
	air := flight.Still
	air.Wind = vec3.Vec{X: c.Wind}
	from := flight.Thrown{Height: height, Angle: angle * math.Pi / 180, Attack: c.Tip * math.Pi / 180}
	d, err := from.Distance(c.What, air, speed)
	if err != nil {
		return math.NaN()
	}
	return l.Along + d - c.Edge
}

// PredictedFlight predicts the flight.
func (l Release) Predict(c FlightConditions) PredictedFlight {
	fly := func(what flight.Implement) func([]float64) float64 {
		c := c
		c.What = what
		return func(x []float64) float64 { return l.distance(c, x[0], x[1], x[2]) }
	}
	x := []float64{l.Speed.Value, l.Angle.Value, l.Height.Value}
	d := fly(c.What)
	more := func(i int, by float64) float64 {
		y := append([]float64(nil), x...)
		y[i] += by
		return d(y) - d(x)
	}
	return PredictedFlight{
		Distance: uncertainty.Propagate(d, x, []float64{l.Speed.SD, l.Angle.SD, l.Height.SD}),
		NoAir:    fly(flight.Vacuum{})(x),
		Faster:   more(0, 1), Steeper: more(1, 1), Higher: more(2, 0.1),
		Best: deg(flight.BestAngle(l.Speed.Value, l.Height.Value)),
	}
}

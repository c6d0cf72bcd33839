package points

import (
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/flight"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/throw"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

// Scatter is how far what a coach, a draft and a tracker place is off, px of a
// 720-line picture.
type Scatter struct {
	Joint, Ball, Click float64
	Hidden             float64 // share of the ball's frames in which a net hides it
	Seed               uint64
}

// Careful and Poor are the scatters of good and of poor material.
var (
	Careful = Scatter{Joint: 2, Ball: 1, Click: 2, Seed: 1}
	Poor    = Scatter{Joint: 5, Ball: 3, Click: 4, Hidden: 0.34, Seed: 1}
)

// Thrown is a simulated throw as one camera's clip of points.
type Thrown struct {
	Truth simcam.Truth
	Clip  throw.Clip
	Moves *move.Motion
	first float64 // motion time of frame 0
}

// Throw films a throw and places its points.
func Throw(s simcam.Spec, off Scatter) (Thrown, error) {
	sc, err := simcam.New(s)
	if err != nil {
		return Thrown{}, err
	}
	t := sc.Truth
	out := Thrown{Truth: t, Moves: sc.Motion, first: sc.Motion.First + t.Start}
	pts := All(t, off.Joint, off.Seed)
	ball := Ball(t, off.Ball, off.Seed)
	// A post or a net hides it for some frames at a time.
	r := rand.New(rand.NewPCG(off.Seed, 7))
	hidden := 0
	for hidden < int(off.Hidden*float64(len(t.Frames))) {
		at, long := r.IntN(len(t.Frames)), 2+r.IntN(int(0.05*s.CaptureRate))
		for f := at; f < min(at+long, ball.End()); f++ {
			if ball.SourceAt(f) != 0 {
				_ = ball.Set(f, nil)
				hidden++
			}
		}
	}
	pts["ball"] = ball
	if a, b := Rims(t, off.Ball, off.Seed); a != nil {
		pts["rim_a"], pts["rim_b"] = a, b
	}
	m := Circle(t, off.Click, off.Seed)
	same := func(_ int, p r2.Vec) r2.Vec { return p }
	eye, err := camera.EstimatePose(*m, same, s.Width, s.Height, camera.Hints{})
	if err != nil {
		return out, err
	}
	mv := kinematics.New(pts, kinematics.Film{Rate: s.CaptureRate, View: angles.View{Direction: 1}}, nil)
	var feet []contact.Foot
	for _, side := range []body.Side{body.Left, body.Right} {
		p := func(part string) *kinematics.Path { return mv.Paths[string(side)+"_"+part] }
		feet = append(feet, contact.Foot{Side: side, Toe: p("toe"), Heel: p("heel"), Ankle: p("ankle")})
	}
	person := s.Athlete
	person.ThrowingHand = s.Hand
	release, ok := t.Positions["release"]
	if !ok {
		release = -1
	}
	out.Clip = throw.Clip{Camera: eye, Movement: mv, Points: pts, Frames: len(t.Frames), Sigma: math.Max(evaluate.HandSigma, off.Joint), Left: s.Hand == body.Left, Person: person, Kind: throw.Kind(t.Event), ReleaseFrame: release}
	scale := mv.Length("left_hip", "left_knee") / body.Length(person, "thigh")
	out.Clip.Contacts = contact.Detect(feet, s.CaptureRate, person.Height*scale, off.Joint, contact.Ground{})
	return out, nil
}

// frameOf is the moment of a named time of the motion, in frames with fractions.
func (s Thrown) frameOf(id string) (float64, bool) {
	t, ok := s.Moves.Times[id]
	f := (t - s.first) * s.Truth.Spec.CaptureRate
	return f, ok && f >= 1 && f < float64(len(s.Truth.Frames)-1)
}

// between reads a truth at a moment between two frames.
func (s Thrown) between(f float64, of func(simcam.Frame) float64) float64 {
	i := int(f)
	u := f - float64(i)
	return (1-u)*of(s.Truth.Frames[i]) + u*of(s.Truth.Frames[i+1])
}

func implementAz(f simcam.Frame) float64 { return *f.Azimuths.Implement }

// span are the frames in which a throw is judged: from the first turn, or from
// where the orbit begins, to the release.
func (s Thrown) span(o *throw.Reconstruction) (from, to int) {
	from, to = o.From, s.Clip.ReleaseFrame
	if z, ok := s.Truth.Positions["zero1"]; ok {
		from = max(from, z)
	}
	if to < 0 {
		to = len(s.Truth.Frames)
	}
	return from, to
}

// Azimuths are how far directions are off, degrees; inside counts those whose 95 %
// interval holds the truth.
func (s Thrown) Azimuths(o *throw.Reconstruction, who string) (off []float64, inside int) {
	from, to := s.span(o)
	for f := from; f < to; f++ {
		a := s.Truth.Frames[f].Azimuths
		want := map[string]float64{"ball": *a.Implement, "hips": a.Hips, "chest": a.Shoulders}[who]
		if v, ok := o.Azimuth(who, f); ok {
			d := math.Abs(math.Remainder(v.Value-want, 360))
			if off = append(off, d); d <= v.Half95 {
				inside++
			}
		}
	}
	return off, inside
}

// Speeds are how far the implement's speed is off in the second half of the throw,
// %.
func (s Thrown) Speeds(o *throw.Reconstruction) (off []float64) {
	from, to := s.span(o)
	for f := (from + to) / 2; f < to-1; f++ {
		a, b := s.Truth.Frames[f-1].Implement["centre"].World, s.Truth.Frames[f+1].Implement["centre"].World
		v := math.Hypot(math.Hypot(b[0]-a[0], b[1]-a[1]), b[2]-a[2]) * s.Truth.Spec.CaptureRate / 2
		if got, ok := o.Speed(f); ok {
			off = append(off, 100*math.Abs(got.Value/v-1))
		}
	}
	return off
}

// Steps holds lifts and catches of all turns against the true ones: frames off, and
// degrees of the ball off.
func (s Thrown) Steps(o *throw.Reconstruction) (frames, degrees []float64) {
	turns := o.Turns(s.Clip.Contacts, 7.26)
	for n := 1; ; n++ {
		any := false
		for _, what := range []string{"lift", "catch"} {
			at, ok := s.frameOf(what + string(rune('0'+n)))
			if !ok {
				continue
			}
			any = true
			if n > len(turns) {
				frames, degrees = append(frames, math.Inf(1)), append(degrees, math.Inf(1))
				continue
			}
			f, az := turns[n-1].Lift, turns[n-1].LiftAz
			if what == "catch" {
				f, az = turns[n-1].Catch, turns[n-1].CatchAz
			}
			frames = append(frames, math.Abs(float64(f)-math.Ceil(at-1e-9)))
			degrees = append(degrees, math.Abs(math.Remainder(az.Value-s.between(at, implementAz), 360)))
		}
		if !any {
			return frames, degrees
		}
	}
}

// Twice films the same throw from two places; late is how much later the second
// camera starts, s.
func Twice(s simcam.Spec, a, b string, late float64, off Scatter) (throw.Pair, Thrown, error) {
	s.Camera.Place = a
	one, err := Throw(s, off)
	if err != nil {
		return throw.Pair{}, one, err
	}
	s.Camera.Place, s.Camera.Late = b, late
	off.Seed += 100
	two, err := Throw(s, off)
	if err != nil {
		return throw.Pair{}, one, err
	}
	// The shared event is flagged in both, each to a whole frame.
	start := float64(two.Clip.ReleaseFrame)/two.Clip.Movement.Rate - float64(one.Clip.ReleaseFrame)/one.Clip.Movement.Rate
	return throw.Pair{A: one.Clip, B: two.Clip, Start: start}, one, nil
}

// Vacuum is an implement without air.
var Vacuum = flight.Vacuum{}

// Flight is how far the range of free flight without air is off the closed form, m,
// over releases of all implements.
func Flight() float64 {
	worst := 0.0
	for v := 8.0; v <= 30; v += 2 {
		for deg := 20.0; deg <= 50; deg += 5 {
			for _, h := range []float64{0, 1.4, 2.1} {
				l := throw.Release{}
				l.Speed.Value, l.Angle.Value, l.Height.Value = v, deg, h
				a := l.Predict(throw.FlightConditions{What: Vacuum})
				worst = math.Max(worst, math.Abs(a.Distance.Value-flight.Range(v, deg*math.Pi/180, h)))
			}
		}
	}
	return worst
}

// Whole is an attempt of a throw as the core gets it.
func (s Thrown) Whole() (model.Model, evaluate.Input, error) {
	m, err := models.Load(s.Truth.Event)
	in := Input(s.Truth, s.Clip.Points)
	in.Ground = Circle(s.Truth, Careful.Click, 1)
	return m.As(s.Truth.Variant), in, err
}

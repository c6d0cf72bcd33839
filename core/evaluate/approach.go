package evaluate

import (
	"errors"
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/approach"
	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/contact"
	"neokinema/core/ground"
	"neokinema/core/jump"
	"neokinema/core/kinematics"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// lines are those to which run-ups go, by the template of the ground.
var lines = map[string]string{"board": "edge of the board", "bar": "bar", "box": "back of the box", "arc": "arc"}

// eyeCache is the camera of a marked runway, and what it was found from.
type eyeCache struct {
	marks  ground.ControlPoints
	known  camera.Hints
	turned any // the rotations
	eye    *camera.Camera
	err    error
}

// runwayEye is the camera of a marked runway.
func (e *Evaluation) runwayEye() (*camera.Camera, error) {
	marks := *e.Input.Ground
	known := camera.Hints{}
	if e.Input.Camera.Turned() > turnsEnough {
		known.Focal = e.Input.Camera.Focal
	}
	known.Scale, known.ScaleSD = e.passingScale(marks)
	if c := e.cache.runway; c != nil && c.known == known && c.turned == any(e.Input.Camera) && c.marks.Template == marks.Template && c.marks.Away == marks.Away && c.marks.SameAim(marks) && slices.Equal(c.marks.Points, marks.Points) {
		return c.eye, c.err
	}
	eye, err := camera.EstimatePose(marks, e.Input.Camera.ToReference, e.Input.Clip.Width, e.Input.Clip.Height, known)
	marks.Points = slices.Clone(marks.Points)
	e.cache.runway = &eyeCache{marks, known, e.Input.Camera, eye, err}
	return eye, err
}

// passingScale is how many px a metre has where the named places of a runway lie, as the athlete
// shows who passes over them, and its doubt as a share; 0 where he does not, or is not known.
func (e *Evaluation) passingScale(m ground.ControlPoints) (scale, sd float64) {
	if e.sight == nil || e.Input.Clip.View != "side" || sport.Of(e.Model.ID).Curved || e.Input.Athlete.Height <= 0 {
		return 0, 0
	}
	var x, n float64
	for _, p := range m.Points {
		if !p.Loose() {
			x, n = x+e.view.Forward(e.Input.Camera.ToReference(p.Frame, r2.Vec{X: p.X, Y: p.Y})).X, n+1
		}
	}
	if n == 0 {
		return 0, 0
	}
	off := x/n - e.sight.at
	return math.Exp(e.sight.level + e.sight.slope*off), math.Max(leastPassing, math.Hypot(e.sight.levelSD, e.sight.slopeSD*off))
}

// leastPassing is how surely the athlete's body shows the scale of the ground that it passes, at
// best, as a share. Assumed.
const leastPassing = 0.03

// findApproach reads a run-up and its jump on the marked ground.
func (e *Evaluation) findApproach() {
	event := sport.Of(e.Model.ID)
	if e.Input.Ground == nil || event.Runway == "" || e.Input.Ground.Template != event.Runway && e.Input.Ground.Template != "free" || len(e.Input.Ground.Points) == 0 || !e.usable() {
		return
	}
	a := &report.Approach{Line: lines[event.Runway], Feet: []report.FootPlace{}, Missing: []string{}}
	e.report.Approach = a
	missing := func(err error) { a.Missing = append(a.Missing, err.Error()) }
	eye, err := e.runwayEye()
	if err != nil {
		if !errors.Is(err, ground.ErrFew) && !errors.Is(err, ground.ErrLine) {
			e.report.Problems = append(e.report.Problems, err.Error())
		}
		missing(err)
		return
	}
	if e.otherFeet() {
		missing(errors.New("the feet that the flags name are not those that are seen on the ground: check the take-off leg on the athlete's card"))
		return
	}
	feet, off := e.runUp()
	run, err := approach.New(eye, feet, e.Input.Athlete.Height)
	if err != nil {
		missing(err)
		return
	}
	e.run = run
	centre := e.Movement.Centre(e.Input.Athlete.Sex)
	pixel := func(f int) (r2.Vec, float64, bool) {
		p, ok := centre.Where(f)
		_, lasting := e.lasting("left_hip", f)
		return e.view.Picture(p), lasting / 2, ok // the middle of many joints
	}
	for i, f := range feet {
		p := report.FootPlace{Foot: f.Side, From: f.From, To: f.To}
		along, right := run.Place(i)
		p.Along, p.Right = along, right
		p.Heading = run.Heading(max(0, i-1), min(i+1, len(feet)-1)).Value
		if v := e.beforeLine(along, right); v.SD < placeKnown {
			p.Before = &v
		}
		if i+1 < len(feet) {
			length, speed := run.Step(i)
			if length.SD < placeKnown {
				p.Length = &length
			}
			if e.Clock.Known() && speed.SD < speedKnown*speed.Value {
				p.Speed = &speed
			}
		}
		if event.Curved && i+1 < len(feet) {
			if q, sigma, ok := pixel((f.From + f.To) / 2); ok {
				if v, err := run.Lean(i, q, sigma); err == nil && v.SD < leanKnown {
					p.Lean = &v
				}
			}
		}
		a.Feet = append(a.Feet, p)
		for k := range e.report.Steps {
			if s := &e.report.Steps[k]; s.From == f.From && s.Foot == f.Side && s.Next != nil {
				s.Length = p.Length // the way itself, with what the camera leaves open
			}
		}
	}
	if event.Curved {
		c, err := run.Curve()
		switch {
		case err != nil:
			missing(err)
		case c.Left != (e.Roles.Takeoff == body.Left):
			missing(errors.New("the curve goes to the other side: check the take-off leg, and which upright is the first"))
		case c.Radius.SD < radiusKnown*c.Radius.Value:
			if !e.Clock.Known() || c.Lean.SD > 2*leanKnown {
				c.Speed, c.Lean = uncertainty.Estimate{}, uncertainty.Estimate{}
			}
			a.Curve = &c
		default:
			missing(errors.New("the ground is seen too flat for the radius of the curve: mark more of it, with places laid out by tape, or film from higher up"))
		}
	}
	if event.Side == sport.TakeoffLeg && off > 0 && e.Clock.Known() {
		e.jumpInDepth(a, pixel, off)
	}
}

// How surely things must be known to be said: a place, m; a speed and a radius, as shares; a
// lean, degrees. Assumed: what is known less well helps nobody who lays out a run-up.
const (
	placeKnown  = 0.08
	speedKnown  = 0.06
	radiusKnown = 0.12
	leanKnown   = 2.0
	flightKnown = 0.3 // m/s
	partKnown   = 0.2 // of a jump, m
)

// beforeLine is how far a place is before the line to which the run goes.
func (e *Evaluation) beforeLine(along, right uncertainty.Estimate) uncertainty.Estimate {
	switch {
	case !sport.Of(e.Model.ID).Curved:
		return along.Scale(-1)
	case e.Roles.Takeoff == body.Right:
		return right // the bar lies to the left of the run
	}
	return right.Scale(-1)
}

// runUp are the feet of a run-up up to the one it leaves from, and the frame of its toe-off; 0 of
// throws.
func (e *Evaluation) runUp() (feet []approach.Foot, off int) {
	last := math.MaxInt
	for _, c := range e.Model.Contacts {
		if c.Foot == "takeoff" {
			if f, ok := e.Flag(c.To); ok {
				off, last = f, f
			}
		}
	}
	if f, ok := e.Flag("release"); ok && off == 0 {
		last = f
	}
	for _, c := range e.stood() {
		if c.From >= last {
			break
		}
		if n := len(feet); n > 0 && (feet[n-1].Side == c.Foot || float64(c.From-feet[n-1].To) > longestFlight*e.Rate) {
			feet = nil // one between them was not seen
		}
		f := approach.Foot{Side: c.Foot, From: c.From, To: c.To, On: e.Clock.At(c.From), OnSD: math.Hypot(c.FromSD/e.Rate, 1/(e.shown()*math.Sqrt(12)))}
		if c.Before {
			f.OnSD = unseenTouchdown
		}
		if !e.standing(&f) {
			feet = nil
			continue
		}
		feet = append(feet, f)
	}
	if n := len(feet); n > mostFeet {
		feet = feet[n-mostFeet:]
	}
	return feet, off
}

// otherFeet tells whether a flagged contact is that of the foot which is in the air then.
func (e *Evaluation) otherFeet() bool {
	return slices.ContainsFunc(e.report.Contacts, func(b contact.Interval) bool {
		shared := func(c contact.Contact) int { return min(b.To, c.To) - max(b.From, c.From) }
		return slices.ContainsFunc(e.contacts, func(c contact.Contact) bool { return c.Foot != b.Foot && 2*shared(c) > b.To-b.From }) &&
			!slices.ContainsFunc(e.contacts, func(c contact.Contact) bool { return c.Foot == b.Foot && shared(c) > 0 })
	})
}

// stood are all contacts: those between flags in place of those that were found, and beside what
// two looks agree on what one look sees where the other sees nothing. Of a run that comes nearer the
// second look loses the ground; where a foot stood is known all the same.
func (e *Evaluation) stood() (list []contact.Contact) {
	for _, b := range e.report.Contacts {
		list = append(list, contact.Contact{Foot: b.Foot, From: b.From, To: b.To, FromSD: b.FromSD * e.Rate, ToSD: b.ToSD * e.Rate})
	}
	known := func(c contact.Contact) int {
		return slices.IndexFunc(list, func(b contact.Contact) bool { return b.From < c.To && c.From < b.To && (b.Foot == c.Foot || e.runs()) })
	}
	for _, c := range e.contacts {
		i := slices.IndexFunc(list, func(b contact.Contact) bool { return b.Foot == c.Foot && b.From < c.To && c.From < b.To })
		switch {
		case i < 0:
			list = append(list, c)
		case c.Before && list[i].From == c.From:
			list[i].Before = true
		}
	}
	for _, c := range slices.Concat(e.Input.Contacts, e.cache.contacts) {
		if long := float64(c.To-c.From) / e.Rate; known(c) < 0 && long > briefStand && long < longStand {
			c.FromSD, c.ToSD = math.Hypot(c.FromSD, aloneSD*e.Rate), math.Hypot(c.ToSD, aloneSD*e.Rate)
			list = append(list, c)
		}
	}
	sort.SliceStable(list, func(i, j int) bool { return list[i].From < list[j].From })
	return list
}

// How long a foot stands in a run-up, s. Common practice, no source.
const (
	briefStand = 0.06
	longStand  = 0.3
)

const (
	overFootAt      = 0.4 // share of a contact after which the centre of mass is over the toes
	unseenTouchdown = 0.3 // s, by which the touchdown of a foot that was down already is not known
	mostFeet        = 7   // of a run-up: the last so many
	standsFrom      = 0.2 // share of a contact after which, and before the end of which, the toes stand
)

// standing fills in where the toes of a foot stand.
func (e *Evaluation) standing(f *approach.Foot) bool {
	id := string(f.Side) + "_toe"
	edge := int(standsFrom * float64(f.To-f.From))
	var sum r2.Vec
	var once, lasting, n float64
	for k := f.From + edge; k < f.To-edge; k++ {
		p, ok := e.pixel(id, k)
		if !ok {
			continue
		}
		a, b := e.lasting(id, k)
		sum, once, lasting, n = r2.Add(sum, p.At), once+a*a, lasting+b*b, n+1
	}
	if n == 0 {
		return false
	}
	f.Toe = e.view.Picture(r2.Scale(1/n, sum))
	// What lasts is not made smaller by more frames than it lasts.
	f.Sigma = math.Max(math.Sqrt(once)/n, math.Min(math.Sqrt(once/n), math.Sqrt(lasting)/n))
	if p, ok := e.Input.Points.At(id, (f.From+f.To)/2); ok && p.Source != track.Draft.String() {
		if errs, ok := kinematics.ErrorsOf(e.Movement.Paths[id], [][2]int{{f.From + edge, f.To - edge - 1}}, e.Rate, r2.Vec{}); ok {
			f.Sigma = math.Hypot(leastPixels, errs.Mean(int(n)))
		}
	}
	return true
}

// jumpInDepth reads the flight of the centre of mass.
func (e *Evaluation) jumpInDepth(a *report.Approach, pixel func(int) (r2.Vec, float64, bool), off int) {
	end := min(e.Clock.Len(), off+int(shortestFlight*e.Rate))
	if f, ok := e.Flag("land"); ok && f > off {
		end = f
	}
	fl, err := e.run.Flight(throw.FreeFlight{Rate: e.Rate, Frames: e.Clock.Len(), Pixel: pixel}, off, end)
	if err != nil {
		a.Missing = append(a.Missing, err.Error())
		return
	}
	if fl.Speed.SD > flightKnown || fl.Upward.SD > flightKnown {
		a.Missing = append(a.Missing, "the ground is seen too flat for the speed of the jump: mark more of it, or film from higher up")
		return
	}
	a.Flight = &fl
	defer func() {
		a.Parts = slices.DeleteFunc(a.Parts, func(p report.Part) bool { return p.Value.SD > partKnown })
	}()
	if sport.Of(e.Model.ID).Runway == "board" {
		e.longParts(a, fl)
	} else if bar := barHeight(*e.Input.Ground); bar > 0 {
		parts := jump.HighParts(fl.Height, fl.Upward, bar)
		a.Parts = []report.Part{{ID: "leaves", Name: "centre of mass at the toe-off", Value: parts.TakeOff}, {ID: "rises", Name: "how much higher it flies", Value: parts.Rise}, {ID: "over", Name: "its highest place over the bar", Value: parts.Clearance}}
		if _, ok := e.Flag("land"); ok {
			a.Parts = append(a.Parts, report.Part{ID: "behind", Name: "how far behind the bar it lands", Value: e.beforeLine(fl.Lands, fl.Aside).Scale(-1)}, report.Part{ID: "along", Name: "how far along the bar from its middle", Value: fl.Lands})
		}
	}
}

// barHeight is the height of the bar as the marks give it, m; 0 when they do not.
func barHeight(m ground.ControlPoints) (high float64) {
	for _, p := range m.Points {
		high = math.Max(high, p.Up)
	}
	return high
}

// longParts splits a long jump: the centre of mass ahead of the edge at the toe-off, its flight,
// and the heels ahead of it as they reach the sand (Hay 1985).
func (e *Evaluation) longParts(a *report.Approach, fl approach.Flight) {
	land, ok := e.Flag("land")
	if !ok {
		return
	}
	a.Parts = []report.Part{{ID: "ahead", Name: "centre of mass ahead of the board at the toe-off", Value: fl.Ahead}, {ID: "flown", Name: "its flight", Value: uncertainty.Minus(fl.Lands, fl.Ahead)}}
	var heels *uncertainty.Estimate
	for _, id := range []string{"left_heel", "right_heel"} {
		p, ok := e.pixel(id, land)
		if !ok {
			return
		}
		if v, ok := e.run.Along(e.view.Picture(p.At), p.Sigma); ok && (heels == nil || v.Value < heels.Value) {
			heels = &v // the mark is the one nearer to the board
		}
	}
	if heels != nil {
		a.Parts = append(a.Parts, report.Part{ID: "heels", Name: "heels ahead of it in the sand", Value: uncertainty.Minus(*heels, fl.Lands)})
	}
}

// shortestFlight is how long every jump flies at least, s, where the landing is not flagged.
// Common practice, no source.
const shortestFlight = 0.3

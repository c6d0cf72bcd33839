package evaluate

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/contact"
	"neokinema/core/flight"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/mark"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
)

func noTurns() report.Turning { return report.Turning{Turns: []throw.Turn{}, Unseen: []int{}} }

// turning sums up the turns of an orbit, and says how many are seen; there are none where these
// are not as many as the coach wrote down. Where the steps of one are not seen there is no last
// and no hardest.
func (e *Evaluation) turning(o *throw.Reconstruction) (t report.Turning, seen int) {
	t = noTurns()
	turns := o.Turns(e.contacts, e.report.Throw.Mass)
	unseen := o.Unseen(turns)
	if seen = len(turns) + len(unseen); !e.asManyTurns(seen) {
		return t, seen
	}
	t.Turns, t.Unseen = append(t.Turns, turns...), append(t.Unseen, unseen...)
	if len(unseen) > 0 {
		return t, seen
	}
	t.Lifts = throw.TrendOf(turns, func(x throw.Turn) uncertainty.Estimate { return x.LiftAz })
	t.Catches = throw.TrendOf(turns, func(x throw.Turn) uncertainty.Estimate { return x.CatchAz })
	var most uncertainty.Estimate
	for _, x := range turns {
		if x.Pull != nil && x.Pull.Value > most.Value {
			most, t.HardestTurn = *x.Pull, x.N
		}
	}
	if m := e.Input.Athlete.Mass; m > 0 && t.HardestTurn > 0 {
		v := most.Scale(1 / (m * body.Gravity))
		t.PullBodyWeights = &v
	}
	return t, seen
}

// Mass reads the mass of an implement out of what the coach wrote: "4 kg", "800 g",
// "16 lb".
func Mass(text string) (float64, bool) {
	words := strings.Fields(strings.ToLower(strings.ReplaceAll(text, ",", ".")))
	for i, w := range words {
		n := strings.TrimLeft(w, "0123456789.") // what follows the number
		v, err := strconv.ParseFloat(w[:len(w)-len(n)], 64)
		if err != nil {
			continue
		}
		if n == "" && i+1 < len(words) {
			n = words[i+1]
		}
		unit, ok := map[string]float64{"kg": 1, "g": 0.001, "lb": 0.45359237}[n]
		if v *= unit; ok && v > 0.05 && v < 60 {
			return v, true
		}
	}
	return 0, false
}

// throwKey is everything a reconstruction depends on: while it is the same, so is the result.
type throwKey struct {
	sight    sight
	paths    [13]*kinematics.Path
	marks    ground.ControlPoints
	contacts []contact.Contact
	release  int
	left     bool
	height   float64
}

func (k throwKey) same(o throwKey) bool {
	return k.sight == o.sight && k.paths == o.paths && k.release == o.release && k.left == o.left && k.height == o.height && slices.Equal(k.contacts, o.contacts) &&
		k.marks.Template == o.marks.Template && k.marks.Away == o.marks.Away && k.marks.SameAim(o.marks) && slices.Equal(k.marks.Points, o.marks.Points)
}

type throwCache struct {
	key        throwKey
	throw      *throw.Reconstruction
	release    *throw.Release
	leaves     *foundAt // the moment of the release, from any view
	why        error    // of the release
	attitude   *throw.Attitude
	wobbleCost *uncertainty.Estimate
	camera     *camera.Camera
	problem    error // with the marks
	flat       bool  // no ground: the clip is taken to be square on, and has no edge to measure from
	predicted  *throw.PredictedFlight
	conditions throw.FlightConditions
}

// circles are the templates in which throws are read in depth; places of one's own
// count from the middle of the circle.
var circles = []string{"shot-circle", "discus-circle", "free"}

// findThrow reads a throw in depth: where everything points from above, the turns
// and the release.
func (e *Evaluation) findThrow() {
	event := sport.Of(e.Model.ID)
	im := event.Implement
	marked := e.Input.Ground != nil && slices.Contains(circles, e.Input.Ground.Template) && len(e.Input.Ground.Points) > 0
	tracked := e.Input.Points["ball"] != nil || e.Input.Points["grip"] != nil
	if im == nil || !e.usable() || !tracked && !marked {
		return
	}
	r := &report.Throw{Turning: noTurns(), Missing: []string{}}
	e.report.Throw = r
	defer func() {
		if !e.Clock.Known() {
			untimed(r)
		}
	}()
	size := im.Of(e.Input.Athlete.Sex, e.Input.Athlete.Age)
	if r.Mass, r.MassGiven = Mass(e.Input.Implement); !r.MassGiven {
		r.Mass = size.Mass
	} else {
		size = im.Weighing(r.Mass)
	}
	key := throwKey{contacts: e.contacts, release: -1, left: e.Roles.Throwing == body.Left, height: e.Input.Athlete.Height}
	for i, id := range []string{"ball", "left_hip", "right_hip", "left_shoulder", "right_shoulder", "left_toe", "right_toe", "left_heel", "right_heel", "left_ear", "right_ear", "rim_a", "rim_b"} {
		key.paths[i] = e.Movement.Paths[id]
	}
	if e.sight != nil {
		key.sight = *e.sight
	}
	if f, ok := e.flagged("release"); ok {
		key.release = f
	}
	if e.Input.Ground != nil {
		key.marks = *e.Input.Ground
	}
	old := e.cache.orbit
	if old == nil || !(e.Input.HoldThrow || old.key.same(key)) {
		old = e.newThrow(key, throw.Kind(im.Kind))
		e.cache.orbit = old
	}
	// What is wrong with the ground itself is told with the ground plane.
	if errors.Is(old.problem, camera.ErrBelow) || errors.Is(old.problem, camera.ErrPoor) || errors.Is(old.problem, camera.ErrAim) {
		e.report.Problems = append(e.report.Problems, old.problem.Error())
	}
	e.throw, e.camera = old.throw, old.camera
	switch {
	case throw.Kind(im.Kind) == throw.Javelin && e.camera == nil:
		r.Missing = append(r.Missing, "The release is read from a clip from the side, with a scale or the arc marked on the ground.")
		return
	case throw.Kind(im.Kind) == throw.Javelin:
	case e.camera == nil:
		r.Missing = append(r.Missing, "Mark the circle on the ground: then directions from above, turns and speeds are read from this clip.")
		return
	case e.throw == nil:
		r.Missing = append(r.Missing, "Mark the circle on the ground: then directions from above and turns are read too.")
	}
	if e.throw != nil && throw.Kind(im.Kind) != throw.Javelin {
		if !tracked {
			r.Missing = append(r.Missing, "The implement is not tracked: body and feet are read, its turns, speed and release are not.")
		}
		for _, who := range []string{"ball", "shoulders", "hips"} {
			if err := e.throw.Why[who]; err != nil && throw.Kind(im.Kind) != throw.Shot && (tracked || who != "ball") {
				r.Missing = append(r.Missing, "The "+who+" cannot be read in depth: "+err.Error()+".")
			}
		}
		if e.throw.Ball != nil && (throw.Kind(im.Kind) == throw.Hammer || throw.Kind(im.Kind) == throw.Weight) {
			var seen int
			if r.Turning, seen = e.turning(e.throw); seen > 0 && !e.asManyTurns(seen) {
				r.Missing = append(r.Missing, fmt.Sprintf("The attempt has %d turns, and %d are seen: which is which cannot be told. Flag their lifts and catches, or correct the number.", e.Input.Turns, seen))
			}
			for _, n := range r.Unseen {
				r.Missing = append(r.Missing, "The ball goes round in turn "+strconv.Itoa(n)+", and the step is not seen: flag its lift and its catch.")
			}
			if e.throw.Mirrored(r.Turns) {
				e.report.Problems = append(e.report.Problems, "the ball would be lowest on the side of the throw: check the athlete's throwing hand")
			}
		}
	}
	r.Attitude = old.attitude
	if r.Release = old.release; r.Release != nil {
		c := throw.FlightConditions{Edge: event.Circle / 2, Wind: e.Input.Wind}
		if old.flat {
			c.Edge = r.Release.Along
		}
		switch throw.Kind(im.Kind) {
		case throw.Discus:
			c.What = flight.Discus{Mass: r.Mass, Diameter: size.Diameter}
			if r.Attitude != nil && r.Attitude.Attack != nil {
				c.Tip = r.Attitude.Attack.Value
			}
		case throw.Javelin:
			c.What = flight.Javelin{Mass: r.Mass, Length: size.Length}
		default:
			c.What = flight.Ball{Mass: r.Mass, Diameter: size.Diameter, WireArea: im.WireArea}
		}
		if old.predicted == nil || old.conditions != c {
			a := r.Release.Predict(c)
			old.predicted, old.conditions, old.wobbleCost = &a, c, nil
			if r.Attitude != nil && r.Attitude.Wobble != nil {
				v := r.Release.LostToWobble(c, *r.Attitude.Wobble)
				old.wobbleCost = &v
			}
		}
		r.Predicted, r.WobbleCost = old.predicted, old.wobbleCost
		if m, ok := mark.Parse(e.Input.Mark); ok && !old.flat && !math.IsNaN(r.Predicted.Distance.Value) {
			v := uncertainty.Normal(r.Predicted.Distance.Value-m, r.Predicted.Distance.SD)
			r.Shortfall = &v
		}
	} else if old.why != nil && tracked {
		r.Missing = append(r.Missing, "The release is not read: "+old.why.Error()+".")
	}
}

// untimed takes from a throw what hangs on a rate of the camera that is not known.
func untimed(r *report.Throw) {
	for i, t := range r.Turns {
		r.Turns[i] = t.Untimed()
	}
	r.HardestTurn, r.PullBodyWeights = 0, nil
	if r.Release != nil {
		r.Release, r.Predicted, r.WobbleCost, r.Shortfall = nil, nil, nil, nil
	}
	r.Missing = append(r.Missing, "Times, speeds, pulls and the release are not read before the camera's rate is known.")
}

// turnsEnough is how far a camera must have turned to know its focal length, rad. Assumed.
const turnsEnough = 0.08

// newThrow does the work of [evaluation.findThrow].
func (e *Evaluation) newThrow(key throwKey, kind throw.Kind) *throwCache {
	out := &throwCache{key: key}
	marked := slices.Contains(circles, key.marks.Template) && len(key.marks.Points) > 0
	if marked || key.marks.Template == "arc" && len(key.marks.Points) > 0 {
		focal := 0.0
		if e.Input.Camera.Turned() > turnsEnough {
			focal = e.Input.Camera.Focal
		}
		eye, err := camera.EstimatePose(key.marks, e.Input.Camera.ToReference, e.Input.Clip.Width, e.Input.Clip.Height, camera.Hints{Focal: focal})
		if out.problem = err; err == nil {
			out.camera = eye
		}
	}
	var flat func(r2.Vec) r2.Vec
	if out.camera == nil && e.Input.Clip.View == "side" && e.sight != nil {
		if at, ok := e.lowest(); ok {
			flat = e.squarely
			out.camera, out.flat = camera.Orthographic(math.Exp(-e.sight.level), e.view.Direction, flat(at)), true
			out.camera.ScaleSD = e.paceSD()
		}
	}
	if out.camera == nil {
		return out
	}
	c := throw.Clip{Camera: out.camera, Movement: e.Movement, Points: e.Input.Points, Frames: e.Clock.Len(), Sigma: e.Sigma, Scatter: e.lasting, Left: key.left, Person: e.Input.Athlete, Kind: kind, Contacts: e.contacts, ReleaseFrame: key.release, Flat: flat}
	whole := marked && !out.flat
	var o *throw.Reconstruction
	if whole || kind != throw.Shot && kind != throw.Javelin {
		o = throw.New(c)
	} else {
		o = throw.Placed(c) // what turns is not asked for
	}
	if whole {
		out.throw = o
	}
	l, err := c.FindRelease(o)
	if out.why = err; err == nil {
		out.release = &l
	}
	if l.MomentSD > 0 {
		f := e.moment(l.Frame, l.MomentSD)
		out.leaves = &f
	}
	release := key.release
	if out.leaves != nil {
		release = out.leaves.frame
	}
	if kind == throw.Discus && release >= 0 {
		if a, err := c.Attitude(release); err == nil {
			if out.attitude = &a; out.release != nil && a.Seen == "pitch" {
				v := uncertainty.Minus(a.Tilt, out.release.Angle)
				a.Attack = &v
			}
		}
	}
	return out
}

// lowest is the place of the lowest foot of a clip, px of the common frame.
func (e *Evaluation) lowest() (at r2.Vec, ok bool) {
	for _, id := range []string{"left_toe", "right_toe", "left_ankle", "right_ankle"} {
		p := e.Movement.Paths[id]
		if p == nil || ok && strings.HasSuffix(id, "ankle") {
			continue
		}
		for _, q := range p.At {
			if px := e.view.Picture(q); !math.IsNaN(q.X) && (!ok || px.Y > at.Y) {
				at, ok = px, true
			}
		}
	}
	return at, ok
}

// turned finds key positions that depend on the path of the implement.
func (e *Evaluation) turned(p model.Position, f model.Find) (foundAt, bool) {
	r := e.report.Throw
	if r == nil {
		if e.Input.Turns > 0 && f.Foot == "sweep" && p.Group != "" {
			return e.byFeet(f)
		}
		return foundAt{}, false
	}
	if !slices.Contains([]string{"release", "wind", "ball-at"}, f.Kind) && !(f.Foot == "sweep" && p.Group != "") {
		return foundAt{}, false
	}
	if f.Kind == "release" {
		if e.cache.orbit == nil || e.cache.orbit.leaves == nil || e.Input.Flags["release"] == NotThere {
			return foundAt{}, false
		}
		return *e.cache.orbit.leaves, true
	}
	if e.throw == nil || e.throw.Ball == nil {
		if f.Foot == "sweep" && p.Group != "" {
			return e.byFeet(f)
		}
		return foundAt{}, false
	}
	at := func(frame int) (foundAt, bool) {
		a, ok := e.throw.Azimuth("ball", frame)
		b, ok2 := e.throw.Azimuth("ball", frame-1)
		if !ok || !ok2 || a.Value <= b.Value {
			return foundAt{}, false
		}
		return e.moment(frame, a.SD/(a.Value-b.Value)), true
	}
	if f.Kind == "wind" {
		if w := e.throw.Winds(r.Turns); f.Nth <= len(w) {
			return at(w[f.Nth-1])
		}
		return foundAt{}, false
	}
	turn := func(n int) *throw.Turn {
		for i := range r.Turns {
			if r.Turns[i].N == n {
				return &r.Turns[i]
			}
		}
		return nil
	}
	t := turn(f.Nth)
	if t == nil {
		if before := turn(f.Nth - 1); before != nil && f.Kind == "ball-at" && f.Azimuth == 0 && !before.Last {
			return at(before.Next)
		}
		return foundAt{}, false
	}
	switch {
	case f.Kind == "foot-off":
		return e.near(t.Lift, false)
	case f.Kind == "foot-on":
		return e.near(t.Catch, true)
	case f.Azimuth == 0:
		return at(t.Zero)
	default:
		return at(t.High)
	}
}

// asManyTurns tells whether a throw can have so many turns: those that the coach wrote down. Where
// one was not seen, or a wind passed for one, the others have the wrong numbers.
func (e *Evaluation) asManyTurns(n int) bool {
	return e.Input.Turns == 0 || n == e.Input.Turns
}

// byFeet finds lift and catch of a turn where the implement is not known. The last step is
// a turn's only before the release that somebody flagged, or where there are as many as turns
// were written down: without either it may as well be the step with which the athlete saves
// himself.
func (e *Evaluation) byFeet(f model.Find) (foundAt, bool) {
	side, _, _ := strings.Cut(e.Roles.Resolve("sweep_toe")[0], "_")
	last, known := e.released()
	if !known {
		last = e.Clock.Len()
	}
	list := throw.Swings(e.contacts, body.Side(side), e.Rate, last)
	if n := len(list); !known && n > 0 && n != e.Input.Turns {
		list = list[:n-1]
	}
	switch {
	case f.Nth < 1 || f.Nth > len(list) || !e.asManyTurns(len(list)):
		return foundAt{}, false
	case f.Kind == "foot-off":
		return e.near(list[f.Nth-1][0], false)
	default:
		return e.near(list[f.Nth-1][1], true)
	}
}

// released is the frame of the release that somebody flagged, or that the flight tells.
func (e *Evaluation) released() (frame int, ok bool) {
	if f, ok := e.flagged("release"); ok {
		return f, f >= 0
	}
	if c := e.cache.orbit; e.report.Throw != nil && c != nil && c.leaves != nil {
		return c.leaves.frame, true
	}
	return 0, false
}

// entry is the frame at which the first turn begins, or the sweep foot leaves; 0 when
// neither is known.
func (e *Evaluation) entry() int {
	if f, ok := e.Flag("sweep_off"); ok {
		return f
	}
	if r := e.report.Throw; r != nil && len(r.Turns) > 0 {
		return r.Turns[0].Zero
	}
	return 0
}

// counted tells whether a position belongs to the turns of a throw that is read in depth, or
// whose turns were written down: they are counted there, and there are no others.
func (e *Evaluation) counted(p model.Position) bool {
	return p.Group != "" && (e.Input.Turns > 0 && e.swings() || e.report.Throw != nil && (len(e.report.Throw.Turns) > 0 || e.throw != nil && e.throw.Ball == nil))
}

// near is a contact's end with the confidence of that contact.
func (e *Evaluation) near(frame int, on bool) (foundAt, bool) {
	for _, c := range e.contacts {
		if on && c.From == frame {
			return e.moment(frame, c.FromSD), true
		}
		if !on && c.To == frame {
			return e.moment(frame, c.ToSD), true
		}
	}
	return e.moment(frame, 2), true
}

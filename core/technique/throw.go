package technique

import (
	"errors"
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
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// Turning is what the turns of a throw have in common.
type Turning struct {
	Turns   []throw.Turn       `json:"turns" doc:"hammer and weight, in order"`
	Lifts   *throw.Trend       `json:"lifts,omitempty" required:"false" doc:"of the ball's azimuth at the lifts, degrees"`
	Catches *throw.Trend       `json:"catches,omitempty" required:"false" doc:"of the ball's azimuth at the catches, degrees"`
	Weights *uncertainty.Value `json:"weights,omitempty" required:"false" doc:"greatest pull over body weight"`
	Hardest int                `json:"hardest,omitempty" required:"false" doc:"turn of the greatest pull"`
}

func (e *evaluation) turning(turns []throw.Turn) Turning {
	t := Turning{Turns: append([]throw.Turn{}, turns...)}
	t.Lifts = throw.Goes(turns, func(x throw.Turn) uncertainty.Value { return x.LiftAz })
	t.Catches = throw.Goes(turns, func(x throw.Turn) uncertainty.Value { return x.CatchAz })
	var most uncertainty.Value
	for _, x := range turns {
		if x.Pull.X > most.X {
			most, t.Hardest = x.Pull, x.N
		}
	}
	if m := e.in.Athlete.Mass; m > 0 && t.Hardest > 0 {
		v := most.Scale(1 / (m * body.Gravity))
		t.Weights = &v
	}
	return t
}

// ThrowReport is what a throw seen in a marked circle tells.
type ThrowReport struct {
	Turning
	Leaving *throw.Leaving `json:"leaving,omitempty" required:"false" doc:"the release"`
	Ahead   *throw.Ahead   `json:"ahead,omitempty" required:"false" doc:"the flight that the release would give in still air"`
	// Of a disc.
	Attitude *throw.Attitude    `json:"attitude,omitempty" required:"false" doc:"how the disc lies in the air"`
	Wobbled  *uncertainty.Value `json:"wobbled,omitempty" required:"false" doc:"m that its wobble costs"`
	// Of throws whose mark is known: what the flight predicts more than was measured.
	Lost    *uncertainty.Value `json:"lost,omitempty" required:"false" doc:"m that the flight promised and the tape did not give: wobble, wind, a wrong attitude"`
	Mass    float64            `json:"mass" doc:"of the implement, kg"`
	Said    bool               `json:"said" doc:"the coach wrote the mass; else it is that of the rules for grown athletes"`
	Missing []string           `json:"missing" doc:"what would tell more"`
}

// sexOf is the place of an athlete's implement in the table of events.
func sexOf(p body.Person) int {
	if p.Sex == body.Female {
		return sport.Women
	}
	return sport.Men
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

// orbitKey is what an orbit hangs on: while it is the same, so is the orbit.
type orbitKey struct {
	paths    [13]*kinematics.Path
	marks    ground.Marks
	contacts []contact.Found
	release  int
	left     bool
	height   float64
}

func (k orbitKey) same(o orbitKey) bool {
	return k.paths == o.paths && k.release == o.release && k.left == o.left && k.height == o.height && slices.Equal(k.contacts, o.contacts) &&
		k.marks.Template == o.marks.Template && k.marks.Away == o.marks.Away && k.marks.SameAim(o.marks) && slices.Equal(k.marks.Points, o.marks.Points)
}

type orbitMemory struct {
	key     orbitKey
	orbit   *throw.Orbit
	leaving *throw.Leaving
	why     error // of the release
	lies    *throw.Attitude
	wobbled *uncertainty.Value
	eye     *camera.Camera
	problem error // with the marks
	flat    bool  // no ground: the clip is taken to be square on, and has no edge to measure from
	ahead   *throw.Ahead
	course  throw.Course
}

// circles are the templates in which throws are read in depth; places of one's own
// count from the middle of the circle.
var circles = []string{"shot-circle", "discus-circle", "free"}

// findThrow reads a throw in depth: where everything points from above, the turns
// and the release.
func (e *evaluation) findThrow() {
	event := sport.Of(e.m.ID)
	im := event.Implement
	if im == nil || !e.usable() || e.in.Points["ball"] == nil && e.in.Points["grip"] == nil {
		return
	}
	r := &ThrowReport{Turning: e.turning(nil), Missing: []string{}}
	e.report.Throw = r
	if r.Mass, r.Said = Mass(e.in.Implement); !r.Said {
		r.Mass = im.Mass[sexOf(e.in.Athlete)]
	}
	key := orbitKey{contacts: e.contacts, release: -1, left: e.roles.Throwing == body.Left, height: e.in.Athlete.Height}
	for i, id := range []string{"ball", "left_hip", "right_hip", "left_shoulder", "right_shoulder", "left_toe", "right_toe", "left_heel", "right_heel", "left_ear", "right_ear", "rim_a", "rim_b"} {
		key.paths[i] = e.move.Paths[id]
	}
	if f, ok := e.in.Flags["release"]; ok {
		key.release = f
	}
	if e.in.Ground != nil {
		key.marks = *e.in.Ground
	}
	old := e.memory.orbit
	if old == nil || !(e.in.Hold || old.key.same(key)) {
		old = e.newOrbit(key, throw.Kind(im.Kind))
		e.memory.orbit = old
	}
	// What is wrong with the ground itself is told with the ground plane.
	if errors.Is(old.problem, camera.ErrBelow) || errors.Is(old.problem, camera.ErrPoor) || errors.Is(old.problem, camera.ErrAim) {
		e.report.Problems = append(e.report.Problems, old.problem.Error())
	}
	e.orbit, e.eye = old.orbit, old.eye
	switch {
	case throw.Kind(im.Kind) == throw.Javelin && e.eye == nil:
		r.Missing = append(r.Missing, "The release is read from a clip from the side, with a scale or the arc marked in the tab Ground.")
		return
	case throw.Kind(im.Kind) == throw.Javelin:
	case e.eye == nil:
		r.Missing = append(r.Missing, "Mark the circle in the tab Ground: then directions from above, turns and speeds are read from this clip.")
		return
	case e.orbit == nil:
		r.Missing = append(r.Missing, "Mark the circle in the tab Ground: then directions from above and turns are read too.")
	}
	if e.orbit != nil && throw.Kind(im.Kind) != throw.Javelin {
		for _, who := range []string{"ball", "shoulders", "hips"} {
			if err := e.orbit.Why[who]; err != nil && throw.Kind(im.Kind) != throw.Shot {
				r.Missing = append(r.Missing, "The "+who+" cannot be read in depth: "+err.Error()+".")
			}
		}
		if e.orbit.Ball != nil && (throw.Kind(im.Kind) == throw.Hammer || throw.Kind(im.Kind) == throw.Weight) {
			r.Turning = e.turning(e.orbit.Turns(e.contacts, r.Mass))
			if e.orbit.Mirrored(r.Turns) {
				e.report.Problems = append(e.report.Problems, "the ball would be lowest on the side of the throw: check the throwing hand on the athlete's card")
			}
		}
	}
	r.Attitude = old.lies
	if r.Leaving = old.leaving; r.Leaving != nil {
		c := throw.Course{Edge: event.Circle / 2, Wind: e.in.Wind}
		if old.flat {
			c.Edge = r.Leaving.Along
		}
		sex := sexOf(e.in.Athlete)
		switch throw.Kind(im.Kind) {
		case throw.Discus:
			c.What = flight.Discus{Mass: r.Mass, Diameter: im.Diameter[sex]}
			if r.Attitude != nil && r.Attitude.Attack != nil {
				c.Tip = r.Attitude.Attack.X
			}
		case throw.Javelin:
			c.What = flight.Javelin{Mass: r.Mass, Length: im.Length}
		default:
			c.What = flight.Ball{Mass: r.Mass, Diameter: im.Diameter[sex], WireArea: im.WireArea}
		}
		if old.ahead == nil || old.course != c {
			a := r.Leaving.Ahead(c)
			old.ahead, old.course, old.wobbled = &a, c, nil
			if r.Attitude != nil && r.Attitude.Wobble != nil {
				v := r.Leaving.LostToWobble(c, *r.Attitude.Wobble)
				old.wobbled = &v
			}
		}
		r.Ahead, r.Wobbled = old.ahead, old.wobbled
		if m, ok := mark.Parse(e.in.Mark); ok && !old.flat && !math.IsNaN(r.Ahead.Distance.X) {
			v := uncertainty.Normal(r.Ahead.Distance.X-m, r.Ahead.Distance.SD)
			r.Lost = &v
		}
	} else if old.why != nil {
		r.Missing = append(r.Missing, "The release is not read: "+old.why.Error()+".")
	}
}

// turnsEnough is how far a camera must have turned to know its focal length, rad.
const turnsEnough = 0.08

// newOrbit does the work of [evaluation.findThrow].
func (e *evaluation) newOrbit(key orbitKey, kind throw.Kind) *orbitMemory {
	out := &orbitMemory{key: key}
	marked := slices.Contains(circles, key.marks.Template) && len(key.marks.Points) > 0
	if marked || key.marks.Template == "arc" && len(key.marks.Points) > 0 {
		focal := 0.0
		if e.in.Camera.Turned() > turnsEnough {
			focal = e.in.Camera.Focal
		}
		eye, err := camera.Fit(key.marks, e.in.Camera.Common, e.in.Clip.Width, e.in.Clip.Height, focal)
		if out.problem = err; err == nil {
			out.eye = eye
		}
	}
	if out.eye == nil && e.in.Clip.View == "side" && e.scale != nil {
		if at, ok := e.lowest(); ok {
			out.eye, out.flat = camera.Flat(e.scale.MetresPerPixel.X, e.view.Direction, at), true
		}
	}
	if out.eye == nil {
		return out
	}
	c := throw.Clip{Eye: out.eye, Move: e.move, Points: e.in.Points, Frames: e.clock.Len(), Sigma: e.sigma, Left: key.left, Person: e.in.Athlete, Kind: kind, Contacts: e.contacts, Release: key.release}
	o := throw.New(c)
	if marked && !out.flat {
		out.orbit = o
	}
	if l, err := c.Leaving(o); err == nil {
		out.leaving = &l
	} else {
		out.why = err
	}
	release := key.release
	if out.leaving != nil {
		release = out.leaving.Frame
	}
	if kind == throw.Discus && release >= 0 {
		if a, err := c.Attitude(release); err == nil {
			if out.lies = &a; out.leaving != nil && a.Seen == "pitch" {
				v := uncertainty.Minus(a.Tilt, out.leaving.Angle)
				a.Attack = &v
			}
		}
	}
	return out
}

// lowest is the place of the lowest foot of a clip, px of the common frame.
func (e *evaluation) lowest() (at r2.Vec, ok bool) {
	for _, id := range []string{"left_toe", "right_toe", "left_ankle", "right_ankle"} {
		p := e.move.Paths[id]
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

// turned finds key positions that hang on the implement's way.
func (e *evaluation) turned(p Position, f Find) (foundAt, bool) {
	r := e.report.Throw
	if r == nil {
		return foundAt{}, false
	}
	if !slices.Contains([]string{"release", "wind", "ball-at"}, f.Kind) && !(f.Foot == "sweep" && p.Group != "") {
		return foundAt{}, false
	}
	if f.Kind == "release" {
		if r.Leaving == nil || e.in.Flags["release"] == NotThere {
			return foundAt{}, false
		}
		return foundAt{r.Leaving.Frame, sureness(1)}, true
	}
	if e.orbit == nil || e.orbit.Ball == nil {
		return foundAt{}, false
	}
	at := func(frame int) (foundAt, bool) {
		a, ok := e.orbit.Azimuth("ball", frame)
		b, ok2 := e.orbit.Azimuth("ball", frame-1)
		if !ok || !ok2 || a.X <= b.X {
			return foundAt{}, false
		}
		return foundAt{frame, sureness(a.SD / (a.X - b.X))}, true
	}
	if f.Kind == "wind" {
		if w := e.orbit.Winds(r.Turns); f.Nth <= len(w) {
			return at(w[f.Nth-1])
		}
		return foundAt{}, false
	}
	if f.Nth == len(r.Turns)+1 && len(r.Turns) > 0 && f.Kind == "ball-at" && f.Azimuth == 0 && !r.Turns[f.Nth-2].Last {
		return at(r.Turns[f.Nth-2].Next)
	}
	if f.Nth < 1 || f.Nth > len(r.Turns) {
		return foundAt{}, false
	}
	t := r.Turns[f.Nth-1]
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

// entry is the frame at which the first turn begins, or the sweep foot leaves; 0 when
// neither is known.
func (e *evaluation) entry() int {
	if f, ok := e.flag("sweep_off"); ok {
		return f
	}
	if r := e.report.Throw; r != nil && len(r.Turns) > 0 {
		return r.Turns[0].Zero
	}
	return 0
}

// counted tells whether a position belongs to turns that are known: then there are no
// others.
func (e *evaluation) counted(p Position) bool {
	return p.Group != "" && e.report.Throw != nil && len(e.report.Throw.Turns) > 0
}

// near is a contact's end with the confidence of that contact.
func (e *evaluation) near(frame int, on bool) (foundAt, bool) {
	for _, c := range e.contacts {
		if on && c.From == frame {
			return foundAt{frame, sureness(c.FromSD)}, true
		}
		if !on && c.To == frame {
			return foundAt{frame, sureness(c.ToSD)}, true
		}
	}
	return foundAt{frame, 0.5}, true
}

// Above is a throw seen from above, for drawing: places in m (x in the throwing
// direction, z to the right of it), azimuths in degrees, from frame From on.
type Above struct {
	From       int                `json:"from"`
	To         int                `json:"to" doc:"frame after the last that is read"`
	Left       bool               `json:"left" doc:"throws with the left hand"`
	Circle     float64            `json:"circle" doc:"radius, m"`
	Sector     float64            `json:"sector" doc:"half angle, degrees"`
	Ball       Way                `json:"ball"`
	Hips       Way                `json:"hips"`
	Chest      Way                `json:"chest"`
	Feet       [2]Way             `json:"feet" doc:"left and right; the place is that of the toes"`
	Down       [2][]bool          `json:"down" doc:"left and right: on the ground"`
	Speed      []float64          `json:"speed" doc:"of the ball, m/s"`
	Separation Leads              `json:"separation" doc:"hips ahead of the chest"`
	Drag       Leads              `json:"drag" doc:"chest ahead of the ball"`
	Drift      *uncertainty.Value `json:"drift,omitempty" required:"false" doc:"cm that the hips leave the straight line from their first to their last place, to the right when positive; only seen along the throw"`
	Axis       *throw.Axis        `json:"axis,omitempty" required:"false" doc:"the trunk in the last frame before the release"`
	Rim        *uncertainty.Value `json:"rim,omitempty" required:"false" doc:"cm from the toes to the rim of the circle where they come nearest; negative is out"`
}

// Leads is how far one direction is ahead of another over frames, degrees, with half
// of the 95 % interval; [kinematics.None] where it is not known.
type Leads struct {
	X    []float64 `json:"x"`
	Half []float64 `json:"half"`
}

// Way is something's place and direction over frames; all arrays begin at From. A
// place or direction that is not known is [kinematics.None].
type Way struct {
	From int       `json:"from"`
	X    []float64 `json:"x"`
	Z    []float64 `json:"z"`
	Y    []float64 `json:"y" doc:"height"`
	Az   []float64 `json:"az"`
	SD   []float64 `json:"sd" doc:"of the azimuth"`
}

// FromAbove draws a throw, from the orbit of its last evaluation; false when none
// is known.
func FromAbove(m Model, in Input, old *Memory) (Above, bool) {
	e := newEvaluation(m, in, old)
	e.findScale()
	e.findContacts()
	e.findThrow()
	e.findPositions()
	if e.orbit == nil {
		return Above{}, false
	}
	return e.above(e.orbit), true
}

func (e *evaluation) above(o *throw.Orbit) Above {
	event := sport.Of(e.m.ID)
	a := Above{From: o.From, To: o.To, Left: e.roles.Throwing == body.Left, Circle: event.Circle / 2, Sector: event.Sector}
	n := e.clock.Len()
	way := func(who string, place func(f int) (vec3.Vec, bool)) Way {
		w := Way{From: o.From, X: []float64{}, Z: []float64{}, Y: []float64{}, Az: []float64{}, SD: []float64{}}
		round := func(v, k float64) float64 { return math.Round(v*k) / k }
		for f := o.From; f < n; f++ {
			x, y, z, az, sd := kinematics.None, kinematics.None, kinematics.None, kinematics.None, 0.0
			if p, ok := place(f); ok && !math.IsNaN(p.X) {
				x, y, z = round(p.X, 1000), round(p.Y, 1000), round(p.Z, 1000)
			}
			if v, ok := o.Azimuth(who, f); ok {
				az, sd = round(v.X, 10), round(v.SD, 10)
			}
			w.X, w.Y, w.Z, w.Az, w.SD = append(w.X, x), append(w.Y, y), append(w.Z, z), append(w.Az, az), append(w.SD, sd)
		}
		return w
	}
	of := func(list []vec3.Vec) func(int) (vec3.Vec, bool) {
		return func(f int) (vec3.Vec, bool) { return list[f], true }
	}
	a.Ball, a.Hips, a.Chest = way("ball", o.Ball3), way("hips", of(o.Pelvis)), way("chest", of(o.Neck))
	a.Speed = []float64{}
	for f := o.From; f < n; f++ {
		v, ok := o.Speed(f)
		if !ok {
			v.X = kinematics.None
		}
		a.Speed = append(a.Speed, math.Round(10*v.X)/10)
	}
	leads := func(who, whom string) (l Leads) {
		l = Leads{[]float64{}, []float64{}}
		for f := o.From; f < n; f++ {
			v, ok := o.Lead(who, whom, f)
			if !ok {
				v = uncertainty.Value{X: kinematics.None}
			}
			l.X, l.Half = append(l.X, math.Round(10*v.X)/10), append(l.Half, math.Round(10*v.Half)/10)
		}
		return l
	}
	a.Separation, a.Drag = leads("hips", "chest"), leads("chest", "ball")
	nearest := math.Inf(1)
	for i, s := range []body.Side{body.Left, body.Right} {
		a.Feet[i] = way(string(s)+"_foot", of(o.Toes[i]))
		a.Down[i] = make([]bool, n-o.From)
		for _, c := range e.contacts {
			var gaps []float64
			for f := max(c.From, o.From); c.Foot == s && f < min(c.To, n); f++ {
				a.Down[i][f-o.From] = true
				if p := o.Toes[i][f]; !math.IsNaN(p.X) && f < o.To {
					gaps = append(gaps, a.Circle-math.Hypot(p.X, p.Z))
				}
			}
			// A tenth of a contact may lie off: its ends are in the air.
			if len(gaps) > 4 {
				slices.Sort(gaps)
				nearest = math.Min(nearest, gaps[len(gaps)/10])
			}
		}
	}
	if !math.IsInf(nearest, 1) && a.Circle > 0 {
		// Along the sight a foot is known less well.
		v := uncertainty.Normal(100*nearest, 100*o.FootSD())
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

// Together is what two clips of one attempt tell at once.
type Together struct {
	Above Above `json:"above" doc:"at the frames of the first clip"`
	Turning
	By     string  `json:"by" enum:"position,sound" doc:"what brought the clips to the same moment"`
	Offset float64 `json:"offset" doc:"s: when frame 0 of the first clip was, on the clock of the second"`
	Apart  float64 `json:"apart" doc:"cm by which the lines of sight miss each other"`
	Off    float64 `json:"off" doc:"degrees by which the first clip alone was off in the ball's direction, middle of all frames"`
}

// Errors of [Both].
var (
	ErrCircle = errors.New("both clips need a marked circle and a tracked ball")
	ErrMoment = errors.New("the two clips share no flagged position and no sound; flag the release in both")
)

// airSpeed is the speed of sound, m/s at 20 degrees (from memory of textbooks).
const airSpeed = 343.0

// Both reads a throw from two clips of one attempt. They are brought to about the same
// moment by a position that both show; or else by sound, when heard is not nil: by how
// much later the same sound stands in b than in a, s of true time.
func Both(m Model, a, b Input, heard *float64) (Together, error) {
	var es [2]*evaluation
	var clips [2]throw.Clip
	for i, in := range []Input{a, b} {
		e := newEvaluation(m, in, nil)
		e.findScale()
		e.findContacts()
		e.findThrow()
		e.findPositions()
		if e.orbit == nil || e.eye == nil || in.Points["ball"] == nil {
			return Together{}, ErrCircle
		}
		release := -1
		if f, ok := e.flag("release"); ok {
			release = f
		}
		es[i] = e
		clips[i] = throw.Clip{Eye: e.eye, Move: e.move, Points: in.Points, Frames: e.clock.Len(), Sigma: e.sigma, Left: e.roles.Throwing == body.Left, Person: in.Athlete, Kind: throw.Kind(sport.Of(m.ID).Implement.Kind), Contacts: e.contacts, Release: release}
	}
	start, by := 0.0, ""
	if heard != nil {
		// The sound came later to the camera that stood farther off.
		far := func(c throw.Clip) float64 { return vec3.Norm(c.Eye.At) / airSpeed }
		start, by = *heard-(far(clips[1])-far(clips[0])), "sound"
	}
	for _, p := range append([]Position{{ID: "release"}}, es[0].m.Positions...) {
		f, okA := es[0].flag(p.ID)
		g, okB := es[1].flag(p.ID)
		if by == "" && okA && okB && es[0].clock.Known() && es[1].clock.Known() {
			start, by = es[1].clock.At(g)-es[0].clock.At(f), "position"
		}
	}
	if by == "" {
		return Together{}, ErrMoment
	}
	both, err := throw.Pair{A: clips[0], B: clips[1], Start: start}.New()
	if err != nil {
		return Together{}, err
	}
	out := Together{By: by, Above: es[0].above(both.Orbit), Turning: es[0].turning(nil), Offset: both.Offset, Apart: 100 * both.Apart}
	if both.Orbit.Ball != nil {
		out.Turning = es[0].turning(both.Orbit.Turns(es[0].contacts, es[0].report.Throw.Mass))
	}
	var off []float64
	for f := range es[0].clock.Len() {
		x, okX := es[0].orbit.Azimuth("ball", f)
		y, okY := both.Orbit.Azimuth("ball", f)
		if okX && okY {
			off = append(off, math.Abs(math.Remainder(x.X-y.X, 360)))
		}
	}
	if len(off) > 0 {
		out.Off = middle(off)
	}
	return out, nil
}

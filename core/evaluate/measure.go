package evaluate

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
)

// MeasureKinds of measures. Each is registered in one place, in one of the files measure_*.go,
// with what it needs, where it is read and the function that reads it; checks of models,
// the contract, the schema of model files and the table in docs/models.md come from here.

// scope is where a measure is read, which settles what must be known first.
type scope int

const (
	answered scope = iota // the coach's own mark; nothing is read
	derived               // from other readings or from flags alone
	placed                // places of landmarks in one frame of a view that shows them
	moved                 // the same landmarks at several positions of such a view
	depth                 // a throw in depth, or the release of its implement
	stepped               // one step of a repeated group, from touchdown to touchdown
	onRunway              // a run-up on the marked ground, and its jump
	onPole                // a pole and how it bends
)

// kind is one kind of measure.
type kind struct {
	name string
	unit string // of its value; "" follows from its readings
	doc  string // what it is, in a line
	// How many points, positions and readings it works on.
	points, positions, readings int
	scope                       scope
	// directions tells that its points are directions seen from above and not landmarks.
	directions bool
	// alone tells that it is not read in each repetition of a group.
	alone bool
	// anyView tells that the views of its checkpoint do not bind it; bound, of one that is
	// derived, that they do.
	anyView, bound bool
	// instant tells that, of a throw in depth, it is read in the position's own frame.
	instant bool
	// flight tells that it is read from the implement in the air.
	flight bool
	// steady tells that errors which last take little from it: a way up and down does not
	// depend on where joints are, only on how their errors change with the pose.
	steady bool
	// chained tells that repetitions hang together: each begins where the one before ends.
	chained bool
	// decides says what would settle a value whose uncertainty crosses the edge of a band;
	// a closer clip when nil.
	decides func(*Evaluation, model.Checkpoint) string
	read    func(*query) (uncertainty.Estimate, error)
}

// query is one measure to be read at one position. Which of its fields are filled depends
// on the scope of the kind.
type query struct {
	*Evaluation
	cp       model.Checkpoint
	m        model.Measure
	position model.Position
	frame    int
	roles    body.Roles
	x, sd    []float64 // places of the points in turn, px, and the scatter of each
	frames   []int     // of the positions that the measure names
	step     report.Step
	ev       *report.Evidence
}

var kinds = map[string]kind{}

// register adds kinds of measures; they are values of package variables, so that each file
// stands by itself.
func register(list ...kind) bool {
	for _, k := range list {
		if _, there := kinds[k.name]; there || k.read == nil && k.scope != answered {
			panic("measure " + k.name + " is registered twice or without a function")
		}
		kinds[k.name] = k
	}
	return true
}

// MeasureKind is what a kind of measure needs, for those who write models; Scope says where it is
// read.
type MeasureKind struct {
	Name, Unit, Doc             string
	Points, Positions, Readings int
	Scope                       string
}

// MeasureKinds lists all kinds of measures by name.
func MeasureKinds() []MeasureKind {
	var out []MeasureKind
	for _, k := range kinds {
		out = append(out, MeasureKind{k.name, k.unit, k.doc, k.points, k.positions, k.readings,
			[...]string{"answer", "readings and flags", "one frame", "several positions", "throw in depth", "step", "marked runway", "pole"}[k.scope]})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Name < out[j].Name })
	return out
}

// directed tells whether a measure's points are directions from above and not
// landmarks.
func directed(m model.Measure) bool { return kinds[m.Kind].directions }

// measure reads the measure of a checkpoint that stands alone.
func (e *Evaluation) measure(cp model.Checkpoint) (uncertainty.Estimate, *report.Evidence, error) {
	p, _ := e.Model.Position(cp.Position)
	return e.readAt(cp, p)
}

// once reads a checkpoint of a repeated group in one repetition.
func (e *Evaluation) once(cp model.Checkpoint, p model.Position) (uncertainty.Estimate, *report.Evidence, error) {
	if k := kinds[cp.Measure.Kind]; k.alone || k.scope == moved {
		return uncertainty.Estimate{}, nil, unknownHere
	}
	cp.Measure = cp.Measure.Numbered(p.Nth)
	return e.readAt(cp, p)
}

var unknownHere = Failure{"this measure is not known here", ""}

// readAt reads a measure at a position: what its scope needs first, then by its own
// function.
func (e *Evaluation) readAt(cp model.Checkpoint, p model.Position) (uncertainty.Estimate, *report.Evidence, error) {
	k, ok := kinds[cp.Measure.Kind]
	if !ok {
		return uncertainty.Estimate{}, nil, unknownHere
	}
	q := &query{Evaluation: e, cp: cp, m: cp.Measure, position: p}
	err := e.inView(cp)
	if err != nil {
		return uncertainty.Estimate{}, nil, err
	}
	switch k.scope {
	case answered:
		if f, ok := e.Flag(p.ID); ok {
			q.ev = &report.Evidence{Frame: f, Lines: []report.Polyline{}}
		}
		return uncertainty.Estimate{}, q.ev, Failure{}
	case placed, moved:
		if q.m.Pick != "" {
			return q.extreme(k)
		}
		if k.scope == moved {
			err = q.between()
		} else if err = q.flagged(); err == nil {
			return q.inFrame(k, q.frame)
		}
	case depth:
		q.m = q.m.Numbered(p.Nth)
		err = q.flagged()
	case onRunway, onPole:
		err = q.flagged()
	case stepped:
		err = q.inStep()
	}
	if err != nil {
		return uncertainty.Estimate{}, q.ev, err
	}
	v, err := k.read(q)
	if err == nil && k.instant {
		v = q.aboutMoment(k, v)
	}
	return v, q.ev, err
}

// inView refuses a clip from which a measure does not show.
func (e *Evaluation) inView(cp model.Checkpoint) error {
	k := kinds[cp.Measure.Kind]
	views := e.views(cp)
	switch {
	case k.scope == placed || k.scope == moved || k.bound:
	case k.scope == depth && len(cp.Views) > 0 && !k.anyView:
	default:
		return nil
	}
	if slices.Contains(views, e.Input.Clip.View) {
		return nil
	}
	list := strings.Join(views, " or ")
	return Failure{"this clip is filmed from the " + e.Input.Clip.View + "; it takes a view from the " + list, "a clip from the " + list}
}

// flagged finds the frame of the measure's position.
func (q *query) flagged() error {
	frame, ok := q.Flag(q.position.ID)
	if !ok {
		return q.notFlagged(q.position)
	}
	q.frame, q.ev = frame, &report.Evidence{Frame: frame, Lines: []report.Polyline{}}
	return nil
}

// spanned finds the frames of the positions that the measure names.
func (q *query) spanned() (err error) {
	q.frames, q.ev, err = q.Evaluation.frames(q.m.Positions)
	return err
}

// between is spanned for places: the camera must be known to compare them.
func (q *query) between() error {
	if err := q.spanned(); err != nil {
		return err
	}
	if q.stills {
		return errStills
	}
	if !q.usable() && q.frames[0] != q.frames[len(q.frames)-1] {
		return Failure{"nobody has looked yet whether the camera moved", "a look whether the camera moved"}
	}
	q.roles = q.rolesAt(q.position)
	return nil
}

// see adds the place of a role in a frame to the places that are worked on.
func (q *query) see(role string, frame int) error {
	p, ok := q.Point(q.roles, role, frame)
	if !ok {
		return Failure{body.Label(q.roles.Resolve(role)[0]) + " is not placed at frame " + fmt.Sprint(frame), "that point"}
	}
	q.x, q.sd = append(q.x, p.At.X, p.At.Y), append(q.sd, p.Sigma, p.Sigma)
	return nil
}

// inFrame reads a kind in one frame.
func (q *query) inFrame(k kind, frame int) (uncertainty.Estimate, *report.Evidence, error) {
	q.frame, q.ev = frame, &report.Evidence{Frame: frame, Lines: []report.Polyline{}}
	q.roles = q.rolesAt(q.position)
	x, sd, chain, err := q.placed(q.m, q.roles, frame, q.position.Name)
	if err != nil {
		return uncertainty.Estimate{}, q.ev, err
	}
	q.x, q.sd = x, sd
	q.ev.Lines = append(q.ev.Lines, chain)
	v, err := k.read(q)
	if err == nil && q.m.Pick == "" {
		v = q.aboutMoment(k, v)
	}
	return v, q.ev, err
}

// extreme is the largest or smallest value of a kind from one position to another.
func (q *query) extreme(k kind) (best uncertainty.Estimate, ev *report.Evidence, err error) {
	if err := q.spanned(); err != nil {
		return best, q.ev, err
	}
	span, found := q.frames, false
	ev = q.ev
	for f := span[0]; f <= span[1]; f++ {
		if !q.Input.Clip.Pictures.Own(f) {
			continue // what lies between pictures nobody has seen
		}
		v, here, problem := q.inFrame(k, f)
		if problem != nil {
			err = problem
			continue
		}
		if !found || q.m.Pick == "largest" && v.Value > best.Value || q.m.Pick == "smallest" && v.Value < best.Value {
			best, ev, found = v, here, true
		}
	}
	if found {
		return best, ev, nil
	}
	if err == nil {
		err = Failure{"the flags stand in the wrong order", "flags in the right order"}
	}
	return best, ev, err
}

// inStep finds the step of the measure's position, with its times.
func (q *query) inStep() error {
	frame, _ := q.Flag(q.position.ID)
	q.ev = &report.Evidence{Frame: frame, Lines: []report.Polyline{}}
	s, ok := q.stepAt(q.position)
	if !ok {
		return Failure{fmt.Sprintf("step %d has no toe-off", q.position.Nth), "a flag where the foot leaves"}
	}
	q.step = s
	q.ev.Frame, q.ev.To = s.From, &s.To
	if s.Next != nil {
		q.ev.To = s.Next
	}
	if s.Contact == nil {
		return errNoRate
	}
	return nil
}

// pt is the i-th of places that are given as coordinates in turn.
func pt(v []float64, i int) r2.Vec { return r2.Vec{X: v[2*i], Y: v[2*i+1]} }

var (
	errNoRate  = Failure{"the capture rate is not known", "the capture rate of the camera"}
	errBadRate = Failure{"the pictures contradict the capture rate that is given", "the right rate, on Clip"}
	errStills  = Failure{"these are stills of single positions: there is no time and no way between them", "the clip from which they were taken"}
	errNoScale = Failure{"there is no scale yet", "a thigh or shank placed at any position, or a scale along a known length"}
)

// What settles a value that lies too near to the edge of its band.
func closer(*Evaluation, model.Checkpoint) string { return "a closer clip, or the points placed again" }
func faster(*Evaluation, model.Checkpoint) string { return "a clip with more frames per second" }
func otherSide(*Evaluation, model.Checkpoint) string {
	return "a clip from another side, or more places of the rim marked"
}
func longer(e *Evaluation, cp model.Checkpoint) string {
	if e.Input.Scale == nil {
		return "a scale laid along a known length, or a closer clip"
	}
	return closer(e, cp)
}

func (e *Evaluation) decides(cp model.Checkpoint) string {
	if f := kinds[cp.Measure.Kind].decides; f != nil {
		return f(e, cp)
	}
	return closer(e, cp)
}

var _ = register(kind{name: "answer", doc: "the coach's own answer: yes, partly or no", scope: answered})

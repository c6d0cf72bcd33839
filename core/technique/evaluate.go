// Package technique evaluates an attempt against a technique model: positions
// and phases from flags, readings with doubt, verdicts, faults in order of
// cause.
package technique

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"runtime/debug"
	"slices"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/camera"
	"neokinema/core/contact"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/stabilize"
	"neokinema/core/throw"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// HandSigma is the scatter of a landmark placed by hand with the magnifier, in
// pixels of a 720-line picture; it grows with the picture. Common practice says
// 2 to 3; repeated placing by the coach may replace it.
const HandSigma = 2.0

// hiddenFactor widens the scatter of a landmark whose place was guessed behind
// the body. Common practice, no source.
const hiddenFactor = 2.5

// oneSided is the scatter, in metres, of a midline point known from one side
// only: shoulders and hips swing by some 4 cm around the midline in the start.
// An assumption, no source.
const oneSided = 0.04

// Facts is what the computation needs to know of a clip.
type Facts struct {
	Width       int     `json:"width" doc:"px of the upright picture"`
	Height      int     `json:"height"`
	Stamps      []int64 `json:"stamps" doc:"presentation time stamps, 1/90000 s"`
	FileRate    float64 `json:"file_rate"`
	CaptureRate float64 `json:"capture_rate" doc:"0 when unknown"`
	View        string  `json:"view"`
	Direction   float64 `json:"direction" doc:"+1 runs to the right, -1 to the left"`
}

// Input is one attempt as seen in one clip.
type Input struct {
	Model   string               `json:"model"`
	Variant string               `json:"variant,omitempty" required:"false" doc:"of the model; its first when empty"`
	Athlete body.Person          `json:"athlete"`
	Clip    Facts                `json:"clip"`
	Flags   map[string]int       `json:"flags" doc:"key position to frame; -1: the coach says that it is not in this clip"`
	Points  kinematics.Points    `json:"points,omitempty" required:"false" doc:"landmark to track; in the browser they lie on the desk"`
	Marks   map[string]Judgement `json:"marks" doc:"checkpoint to the coach's own answer"`
	Scale   *calibration.Line    `json:"scale,omitempty" required:"false"`
	Camera  *stabilize.Camera    `json:"camera,omitempty" required:"false" doc:"how the camera turned; absent while nobody looked, and then paths are not read"`
	Stands  []contact.Found      `json:"stands,omitempty" required:"false" doc:"contacts that the picture of the feet showed; they outrank what tracks show"`
	Extra   []Checkpoint         `json:"extra,omitempty" required:"false" doc:"checkpoints of this attempt alone, such as a should-be that became a target"`
	// What is thrown, in the coach's words, such as "4 kg".
	Implement string  `json:"implement,omitempty" required:"false"`
	Mark      string  `json:"mark,omitempty" required:"false" doc:"as the coach wrote it"`
	Wind      float64 `json:"wind,omitempty" required:"false" doc:"m/s from behind, for the predicted flight"`
	// While a hand still moves a point, a throw is not read in depth anew.
	Hold   bool          `json:"hold,omitempty" required:"false" doc:"keep what the last call read in depth: a hand still moves"`
	Ground *ground.Marks `json:"ground,omitempty" required:"false" doc:"known places of the ground in the picture"`
}

// Judgement is the coach's own answer to a checkpoint's question.
type Judgement struct {
	Answer string `json:"answer" enum:"yes,partly,no"`
	Note   string `json:"note,omitempty" required:"false" maxLength:"300"`
}

// UnmarshalJSON also reads the plain yes or no of older attempts.
func (m *Judgement) UnmarshalJSON(raw []byte) error {
	switch string(raw) {
	case "true":
		*m = Judgement{Answer: "yes"}
		return nil
	case "false":
		*m = Judgement{Answer: "no"}
		return nil
	}
	type plain Judgement
	return json.Unmarshal(raw, (*plain)(m))
}

// Report is everything that follows from an input.
type Report struct {
	Positions []PositionReport   `json:"positions"`
	Phases    []Span             `json:"phases"`
	Bars      []contact.Bar      `json:"bars"`
	Steps     []Step             `json:"steps" doc:"the table of steps, in order"`
	Ground    *ground.Plane      `json:"ground,omitempty" required:"false" doc:"plane of the ground"`
	Throw     *ThrowReport       `json:"throw,omitempty" required:"false" doc:"a throw read in depth"`
	Belt      *uncertainty.Value `json:"belt,omitempty" required:"false" doc:"speed of a treadmill's belt, m/s"`
	Readings  []Reading          `json:"readings"`
	Keep      []Kept             `json:"keep"`
	Findings  []Finding          `json:"findings" doc:"faults that are present, first cause first"`
	Possible  []Finding          `json:"possible" doc:"faults that this clip can neither show nor rule out"`
	Scale     *calibration.Scale `json:"scale,omitempty" required:"false"`
	Problems  []string           `json:"problems" doc:"what is wrong with the flags or the clip, or could not be computed"`
	Broken    []string           `json:"-"` // parts that failed by a mistake of ours, with the place; for logs
}

// PositionReport is a key position with what it still needs.
type PositionReport struct {
	ID    string   `json:"id"`
	Frame *int     `json:"frame,omitempty" required:"false"`
	By    string   `json:"by,omitempty" required:"false" enum:"coach,tool," doc:"who set the frame"`
	Sure  float64  `json:"sure,omitempty" required:"false" doc:"confidence of the tool, 0 to 1"`
	Time  *float64 `json:"time,omitempty" required:"false" doc:"s since first movement, or since set"`
	Needs []Need   `json:"needs"`
}

// Need is a landmark to be placed at a position.
type Need struct {
	Landmark string   `json:"landmark"`
	Label    string   `json:"label"`
	For      []string `json:"for" doc:"checkpoints that use it"`
	Placed   bool     `json:"placed"`
}

// Span is a phase between two frames.
type Span struct {
	ID      string             `json:"id"`
	Name    string             `json:"name"`
	From    int                `json:"from"`
	To      int                `json:"to"`
	Seconds *uncertainty.Value `json:"seconds,omitempty" required:"false"`
}

// None is the verdict of a reading that was not measured yet.
const None uncertainty.Verdict = "none"

// Reading is one checkpoint on this attempt.
type Reading struct {
	ID       string              `json:"id"`
	Value    *uncertainty.Value  `json:"value,omitempty" required:"false"`
	Verdict  uncertainty.Verdict `json:"verdict" enum:"met,missed,open,none"`
	By       string              `json:"by" enum:"measure,coach," doc:"who gave the verdict"`
	Why      string              `json:"why,omitempty" required:"false" doc:"why there is no value or no decision"`
	Decide   string              `json:"decide,omitempty" required:"false" doc:"what would decide it"`
	Side     string              `json:"side,omitempty" required:"false" doc:"the athlete's own side, where there is one"`
	Note     string              `json:"note,omitempty" required:"false" doc:"what the coach noted with his answer"`
	Evidence *Evidence           `json:"evidence,omitempty" required:"false"`
	Each     []Each              `json:"each,omitempty" required:"false" doc:"of a repeated group: the single values"`
}

// Each is a reading in one repetition.
type Each struct {
	Position string            `json:"position"`
	Foot     string            `json:"foot,omitempty" required:"false" enum:"left,right,"`
	Frame    int               `json:"frame"`
	Value    uncertainty.Value `json:"value"`
}

// Evidence shows where a number comes from: a frame and lines between
// landmarks, or a span of frames.
type Evidence struct {
	Frame int     `json:"frame"`
	To    *int    `json:"to,omitempty" required:"false" doc:"last frame of a span"`
	Lines []Chain `json:"lines"`
}

// Chain is a line through landmarks as it is drawn into the frame.
type Chain struct {
	Landmarks []string     `json:"landmarks" doc:"ids; 'mid_' marks the middle of both sides"`
	At        [][2]float64 `json:"at" doc:"px of the upright picture"`
}

// Kept is something to praise.
type Kept struct {
	Reading string `json:"reading"`
	Says    string `json:"says"`
}

// Finding is a fault with its evidence and its place among the others.
type Finding struct {
	Fault    string   `json:"fault"`
	Sure     string   `json:"sure" enum:"certain,likely,open" doc:"certain: beyond the threshold with all its doubt; likely: beyond it, but the doubt reaches over; open: not beyond it, but the doubt reaches over"`
	Size     *Size    `json:"size,omitempty" required:"false"`
	Course   *Course  `json:"course,omitempty" required:"false"`
	Readings []string `json:"readings" doc:"those that show it"`
	Leads    []string `json:"leads" doc:"present faults that follow from it, in order of phase"`
	First    bool     `json:"first" doc:"no present fault brings it about"`
}

// Size is how far a number lies beyond the threshold of a fault.
type Size struct {
	Reading string  `json:"reading"`
	By      float64 `json:"by" doc:"in the reading's unit, always positive"`
}

// Course is how a fault that can come in every turn or step goes on.
type Course struct {
	Shown int    `json:"shown" doc:"repetitions that show it"`
	Of    int    `json:"of"`
	Trend string `json:"trend" enum:"growing,same,fading"`
}

// Evaluate computes the report of an attempt. It never fails on what a coach
// may have entered; what cannot be computed says why.
func Evaluate(m Model, in Input) Report {
	r, _ := Again(m, in, nil)
	return r
}

// Memory is what an evaluation leaves for the next one of the same attempt: smooth
// paths, and the contacts found in them.
type Memory struct {
	Move     *kinematics.Movement
	feet     [8]*kinematics.Path // those that the contacts hang on
	tall     float64
	contacts []contact.Found
	belt     float64
	orbit    *orbitMemory
}

// Again is [Evaluate] with the memory of an earlier call (nil for none): paths of
// tracks that are the same are taken over, since what moves under the hand is one
// landmark. The answer is the same as without.
func Again(m Model, in Input, old *Memory) (Report, *Memory) {
	e := newEvaluation(m, in, old)
	e.part("the scale", e.findScale)
	e.part("contacts", e.findContacts)
	e.part("the throw in depth", e.findThrow)
	e.part("key positions", e.findPositions)
	e.part("the order of flags", e.checkFlags)
	e.part("what is still to be placed", e.positions)
	e.part("phases", e.spans)
	e.part("the table of steps", e.steps)
	for _, cp := range slices.Concat(e.m.Checkpoints, in.Extra) {
		r := Reading{ID: cp.ID, Verdict: None, Why: "it cannot be computed from what is stored here"}
		e.part("“"+cp.Name+"”", func() { r = e.read(cp) })
		e.readings[cp.ID] = r
		e.report.Readings = append(e.report.Readings, r)
	}
	e.part("findings", e.findings)
	e.part("what to keep", e.keep)
	return e.report, &e.memory
}

// part runs one part of an evaluation. A mistake of ours, or a stored value that nobody
// foresaw, costs that part and is told; the rest goes on.
func (e *evaluation) part(name string, f func()) {
	defer func() {
		if r := recover(); r != nil {
			e.report.Problems = append(e.report.Problems, name+" could not be computed; the rest holds without it")
			e.report.Broken = append(e.report.Broken, fmt.Sprintf("%s: %v\n%s", name, r, debug.Stack()))
		}
	}()
	f()
}

func newEvaluation(m Model, in Input, old *Memory) *evaluation {
	m = m.As(in.Variant)
	e := &evaluation{m: m, in: in, view: angles.View{Direction: 1}, readings: map[string]Reading{}}
	e.report = Report{Positions: []PositionReport{}, Phases: []Span{}, Bars: []contact.Bar{}, Steps: []Step{}, Readings: []Reading{},
		Keep: []Kept{}, Findings: []Finding{}, Possible: []Finding{}, Problems: []string{}}
	if in.Clip.Direction < 0 {
		e.view.Direction = -1
	}
	e.roles = in.Athlete.Roles(body.NearSide(e.view.Direction))
	e.sigma = HandSigma * math.Max(1, float64(in.Clip.Height)/720)
	var err error
	if e.clock, err = timebase.New(in.Clip.Stamps, in.Clip.FileRate, in.Clip.CaptureRate); err != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
	}
	if p := in.Camera; p != nil && p.Problem != "" {
		e.report.Problems = append(e.report.Problems, "the camera moved and paths cannot be read: "+p.Problem)
	}
	e.rate = in.Clip.CaptureRate
	if e.rate == 0 {
		e.rate = in.Clip.FileRate // shapes are right, times are not given
	}
	if e.rate == 0 {
		e.rate = 30
	}
	var before *kinematics.Movement
	if old != nil {
		before, e.memory = old.Move, *old
	}
	e.part("paths", func() { e.move = kinematics.New(in.Points, e.rate, e.view, in.Camera, before) })
	e.memory.Move = e.move
	return e
}

type evaluation struct {
	m        Model
	in       Input
	clock    timebase.Clock
	view     angles.View
	roles    body.Roles
	sigma    float64
	rate     float64 // frames per second by which paths are smoothed
	move     *kinematics.Movement
	memory   Memory
	centre   *kinematics.Path // of mass; made when first needed
	scale    *calibration.Scale
	contacts []contact.Found
	orbit    *throw.Orbit   // nil while the circle is not marked
	eye      *camera.Camera // nil likewise, and without a scale
	found    map[string]foundAt
	feet     map[int]body.Side // foot of the nth step
	belt     float64           // px/s, forward; the speed of what rests on the ground
	readings map[string]Reading
	report   Report
}

// flag is the frame of a key position: the coach's, or else what was found.
func (e *evaluation) flag(id string) (int, bool) {
	if base, ok := strings.CutSuffix(id, "*"); ok {
		// The last of a repeated group.
		for i := len(e.m.Positions) - 1; i >= 0; i-- {
			if p := e.m.Positions[i]; p.Group == base {
				if f, ok := e.flag(p.ID); ok {
					return f, true
				}
			}
		}
		return 0, false
	}
	if f, ok := e.in.Flags[id]; ok {
		return f, f >= 0 && f < e.clock.Len()
	}
	f, ok := e.found[id]
	return f.frame, ok
}

// NotThere is the frame by which a coach says that a position is not in a clip.
const NotThere = -1

func (e *evaluation) checkFlags() {
	last, lastName := -1, ""
	for _, p := range e.m.Positions {
		f, ok := e.in.Flags[p.ID]
		if !ok {
			continue
		}
		if f == NotThere {
			continue
		}
		if f < 0 || f >= e.clock.Len() {
			e.report.Problems = append(e.report.Problems, fmt.Sprintf("%s is flagged at frame %d, outside the clip", p.Name, f))
			continue
		}
		// Optional moments overlap with their neighbours: a late arm may go
		// after the rear foot.
		if p.Optional {
			continue
		}
		if f < last {
			e.report.Problems = append(e.report.Problems, fmt.Sprintf("%s is flagged before %s; move one of the two flags", p.Name, lastName))
		}
		last, lastName = f, p.Name
	}
}

// limbs that may give a scale: landmark pairs and the segment between them.
var limbs = []struct{ from, to, segment string }{{"hip", "knee", "thigh"}, {"knee", "ankle", "shank"}}

func (e *evaluation) findScale() {
	var s calibration.Scale
	var err error
	if e.in.Scale != nil {
		s, err = calibration.FromLine(*e.in.Scale, e.sigma)
	} else {
		var seen, known []float64
		for _, side := range []body.Side{body.Left, body.Right} {
			for _, l := range limbs {
				from, to := string(side)+"_"+l.from, string(side)+"_"+l.to
				longest := e.move.Length(from, to)
				if longest == 0 {
					longest = e.longest(from, to)
				}
				seen, known = append(seen, longest), append(known, body.Length(e.in.Athlete, l.segment))
			}
		}
		s, err = calibration.FromLimbs(seen, known)
	}
	if err == nil {
		e.scale, e.report.Scale = &s, &s
	} else if e.in.Scale != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
	}
}

// longest is the longest look of a limb in single frames.
func (e *evaluation) longest(from, to string) float64 {
	var longest float64
	t := e.in.Points[from]
	if t == nil {
		return 0
	}
	for f := t.From; f < t.End(); f++ {
		a, okA := t.At(f)
		b, okB := e.in.Points.At(to, f)
		if okA && okB && !a.Hidden && !b.Hidden {
			longest = math.Max(longest, math.Hypot(a.X-b.X, a.Y-b.Y))
		}
	}
	return longest
}

func (e *evaluation) positions() {
	zero, hasZero := e.flag("move")
	if !hasZero {
		zero, hasZero = e.flag("set")
	}
	last := 0 // of the repetition that is flagged
	for _, p := range e.m.Positions {
		if _, ok := e.flag(p.ID); ok {
			last = max(last, p.Nth)
		}
	}
	for _, p := range e.m.Positions {
		if p.Nth > last+1 {
			continue // one more repetition than there is can be flagged next
		}
		r := PositionReport{ID: p.ID, Needs: []Need{}}
		frame, ok := e.flag(p.ID)
		if ok {
			r.Frame, r.By = &frame, "coach"
			if _, mine := e.in.Flags[p.ID]; !mine {
				r.By, r.Sure = "tool", e.found[p.ID].sure
			}
			if hasZero && e.clock.Known() {
				t := e.clock.At(frame) - e.clock.At(zero)
				r.Time = &t
			}
		}
		for _, cp := range e.m.Checkpoints {
			if cp.Position != p.ID && cp.Position != p.Group || !slices.Contains(e.views(cp), e.in.Clip.View) {
				continue
			}
			roles := e.rolesAt(p)
			for _, role := range cp.Measure.Points {
				if cp.Measure.directed() {
					break
				}
				for _, id := range roles.Resolve(role) {
					if !body.Known(id) {
						continue // the stance leg of a step whose foot is not known
					}
					at := slices.IndexFunc(r.Needs, func(n Need) bool { return n.Landmark == id })
					if at < 0 {
						_, placed := e.in.Points.At(id, frame)
						r.Needs = append(r.Needs, Need{Landmark: id, Label: body.Label(id), Placed: ok && placed})
						at = len(r.Needs) - 1
					}
					if !slices.Contains(r.Needs[at].For, cp.ID) {
						r.Needs[at].For = append(r.Needs[at].For, cp.ID)
					}
				}
			}
		}
		e.report.Positions = append(e.report.Positions, r)
	}
}

func (e *evaluation) spans() {
	for _, p := range e.m.Phases {
		from, ok1 := e.flag(p.From)
		to, ok2 := e.flag(p.To)
		if !ok1 || !ok2 || to <= from {
			continue
		}
		s := Span{ID: p.ID, Name: p.Name, From: from, To: to}
		if v, err := e.clock.Between(from, to); err == nil {
			s.Seconds = &v
		}
		e.report.Phases = append(e.report.Phases, s)
	}
	for _, c := range e.m.Contacts {
		side, _, _ := strings.Cut(e.rolesAt(Position{Nth: c.Nth}).Resolve(c.Foot + "_toe")[0], "_")
		foot := body.Side(side)
		if foot == "" {
			continue
		}
		from, ok1 := e.flag(c.From)
		to, ok2 := e.flag(c.To)
		since := from
		if at, ok := e.flag(c.Since); ok {
			since = at
		}
		if bar, ok := contact.Between(e.clock, foot, c.Name, from, since, to); ok && ok1 && ok2 {
			e.report.Bars = append(e.report.Bars, bar)
		}
	}
	if len(e.m.Contacts) > 0 {
		return
	}
	// A model that does not speak of contacts yet shows what the feet did.
	for _, f := range e.contacts {
		if bar, ok := contact.Between(e.clock, f.Foot, "down", f.From, f.From, f.To); ok {
			e.report.Bars = append(e.report.Bars, bar)
		}
	}
}

// seen is a role's place in one frame, in (forward, up) pixels, with its
// scatter and the landmarks it was made of.
type seen struct {
	at    r2.Vec
	sigma float64
	ids   []string
}

// draftBias is how far a pose model puts a joint off its place even when it is
// sure, as a multiple of the scatter of a hand: hips are felt, not seen. Measured
// on the simulated athlete (figure sim.pose_error), rounded up.
var draftBias = map[string]float64{"hip": 4, "shoulder": 2.5, "ear": 2, "elbow": 2, "wrist": 2, "hand": 2.5, "knee": 1.5, "ankle": 1.5, "heel": 2, "toe": 2}

// biasHeight is the standing height, px, at which [draftBias] was measured.
const biasHeight = 450

func (e *evaluation) pixel(id string, frame int) (seen, bool) {
	p, ok := e.in.Points.At(id, frame)
	path := e.move.Paths[id]
	s := seen{sigma: e.sigma, ids: []string{id}}
	if ok && p.Source == track.Hand.String() {
		s.at = e.move.Common(frame, r2.Vec{X: p.X, Y: p.Y})
		if p.Hidden {
			s.sigma *= hiddenFactor
		}
		return s, true
	}
	at, smooth := path.Where(frame)
	switch {
	case smooth:
		s.at = at
	case ok:
		s.at = e.move.Common(frame, r2.Vec{X: p.X, Y: p.Y})
	default:
		return seen{}, false
	}
	sure := p.Confidence
	if !ok {
		sure = track.FilledConfidence
	}
	if ok && p.Source == track.Draft.String() {
		_, part, _ := strings.Cut(id, "_")
		size := 1.0
		if tall := e.tall(); tall > 0 {
			size = tall / biasHeight // the cut-out is enlarged with the athlete
		}
		s.sigma *= math.Max(1, draftBias[part]*size)
	}
	s.sigma /= math.Max(0.2, sure)
	return s, true
}

func (e *evaluation) point(roles body.Roles, role string, frame int) (seen, bool) {
	ids := roles.Resolve(role)
	a, okA := e.pixel(ids[0], frame)
	if len(ids) == 1 {
		return a, okA
	}
	b, okB := e.pixel(ids[1], frame)
	switch {
	case okA && okB:
		return seen{r2.Scale(0.5, r2.Add(a.at, b.at)), math.Hypot(a.sigma, b.sigma) / 2, ids}, true
	case okB:
		a = b
	case !okA:
		return seen{}, false
	}
	if e.scale != nil {
		a.sigma = math.Hypot(a.sigma, oneSided/e.scale.MetresPerPixel.X)
	} else {
		a.sigma *= hiddenFactor
	}
	return a, true
}

// failure is why a reading has no value, and what would give one.
type failure struct{ why, decide string }

func (f failure) Error() string { return f.why }

func (e *evaluation) read(cp Checkpoint) Reading {
	if e.m.group(cp.Position) {
		return e.readGroup(cp)
	}
	r := Reading{ID: cp.ID, Verdict: None, By: "measure", Side: e.side(cp)}
	v, ev, err := e.measure(cp)
	return e.judged(r, cp, v, ev, err)
}

// judged fills in value and verdict, or why there is none.
func (e *evaluation) judged(r Reading, cp Checkpoint, v uncertainty.Value, ev *Evidence, err error) Reading {
	r.Evidence = ev
	if err != nil || math.IsNaN(v.X) || math.IsNaN(v.SD) || math.IsInf(v.SD, 0) {
		var f failure
		if errors.As(err, &f) {
			r.Why, r.Decide = f.why, f.decide
		} else {
			r.Why = "the number cannot be computed from these points"
		}
		if cp.Question != "" {
			r.By = ""
			if r.Why == "" {
				r.Why = "your own mark"
			}
			if mark, ok := e.in.Marks[cp.ID]; ok {
				r.By, r.Why, r.Decide, r.Note = "coach", "", "", mark.Note
				r.Verdict = map[string]uncertainty.Verdict{"yes": uncertainty.Met, "partly": uncertainty.Open, "no": uncertainty.Missed}[mark.Answer]
			}
		}
		return r
	}
	r.Value = &v
	r.Verdict = cp.Band.Judge(v)
	if r.Verdict == uncertainty.Open {
		r.Why = fmt.Sprintf("the doubt of ±%.3g %s crosses the edge of the band", v.Half, cp.Unit)
		r.Decide = e.decides(cp)
	}
	return r
}

// side is the athlete's own side of a checkpoint, from its first one-sided role.
func (e *evaluation) side(cp Checkpoint) string {
	for _, role := range cp.Measure.Points {
		if cp.Measure.directed() {
			break
		}
		if ids := e.roles.Resolve(role); len(ids) == 1 && sided(role) {
			side, _, _ := strings.Cut(ids[0], "_")
			return side
		}
	}
	return ""
}

// sided tells whether a role is one side of the athlete, whatever the camera sees.
func sided(role string) bool {
	who, _, _ := strings.Cut(role, "_")
	return !slices.Contains([]string{"near", "far", "mid", "stance", "swing"}, who) && !body.Known(who) && who != role
}

func (e *evaluation) views(cp Checkpoint) []string {
	if len(cp.Views) > 0 {
		return cp.Views
	}
	return []string{e.m.View}
}

// placed looks up the points of a measure in a frame: their places in turn, the
// scatter of each coordinate, and the line through them.
func (e *evaluation) placed(m Measure, roles body.Roles, frame int, where string) (x, sd []float64, chain Chain, err error) {
	for _, role := range m.Points {
		p, ok := e.point(roles, role, frame)
		if !ok {
			return nil, nil, chain, failure{body.Label(roles.Resolve(role)[0]) + " is not placed at " + where, "that point"}
		}
		x, sd = append(x, p.at.X, p.at.Y), append(sd, p.sigma, p.sigma)
		id := p.ids[0]
		if len(p.ids) > 1 {
			id = role
		}
		px := e.move.Picture(frame, p.at)
		chain.Landmarks, chain.At = append(chain.Landmarks, id), append(chain.At, [2]float64{px.X, px.Y})
	}
	return x, sd, chain, nil
}

// frames are the flags of positions.
func (e *evaluation) frames(ids []string) ([]int, *Evidence, error) {
	frames := make([]int, len(ids))
	for i, id := range ids {
		f, ok := e.flag(id)
		if !ok {
			p, _ := e.m.Position(id)
			return nil, nil, failure{"“" + p.Name + "” is not flagged", "a flag at that frame"}
		}
		frames[i] = f
	}
	return frames, &Evidence{Frame: frames[0], To: &frames[len(frames)-1], Lines: []Chain{}}, nil
}

// keep lists what to praise: the first met checkpoint of each position, then
// the second ones, so that a short list still speaks of the whole movement.
func (e *evaluation) keep() {
	seen := map[string]int{}
	rounds := [][]Kept{}
	for _, cp := range e.m.Checkpoints {
		spoiled := slices.ContainsFunc(append(slices.Clone(e.report.Findings), e.report.Possible...), func(f Finding) bool {
			return slices.Contains(cp.NotIf, f.Fault)
		})
		if cp.Keep == "" || e.readings[cp.ID].Verdict != uncertainty.Met || spoiled {
			continue
		}
		n := seen[cp.Position]
		seen[cp.Position]++
		if n == len(rounds) {
			rounds = append(rounds, nil)
		}
		rounds[n] = append(rounds[n], Kept{cp.ID, cp.Keep})
	}
	e.report.Keep = append(e.report.Keep, slices.Concat(rounds...)...)
}

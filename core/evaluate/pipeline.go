// Package evaluate works out an attempt against a technique model: key positions and phases
// from flags and tracks, readings with their uncertainty, verdicts, and by package diagnose
// the faults in order of cause.
//
// It is a pipeline (pipeline.go) of stages over one [Evaluation]; each file holds one stage or
// one kind of measure.
package evaluate

import (
	"fmt"
	"math"
	"runtime/debug"
	"slices"

	"neokinema/core/angles"
	"neokinema/core/approach"
	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/camera"
	"neokinema/core/contact"
	"neokinema/core/diagnose"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/timebase"
	"neokinema/core/uncertainty"
)

// Attempt computes the report of an attempt. It never fails on what a coach
// may have entered; what cannot be computed says why.
func Attempt(m model.Model, in Input) report.Report {
	r, _ := Incremental(m, in, nil)
	return r
}

// Cache is what an evaluation leaves for the next one of the same attempt: smooth
// paths, and the contacts found in them.
type Cache struct {
	Movement  *kinematics.Movement
	feet      [8]*kinematics.Path // those that the contacts depend on
	tall      float64
	contacts  []contact.Contact
	belt      float64
	chain     []contact.Link // the second look at the feet
	chainOf   []weighty      // those that it depends on
	chainTall float64
	orbit     *throwCache
	runway    *eyeCache
}

// Incremental is [Attempt] with the memory of an earlier call (nil for none): paths of
// tracks that are the same are taken over, since what moves under the hand is one
// landmark. The answer is the same as without.
func Incremental(m model.Model, in Input, old *Cache) (report.Report, *Cache) {
	e := begin(m, in, old)
	for _, s := range stages {
		e.part(s.name, func() { s.run(e) })
	}
	for _, cp := range slices.Concat(e.Model.Checkpoints, in.Extra) {
		r := report.Reading{ID: cp.ID, Verdict: uncertainty.None, Reason: "it cannot be computed from what is stored here"}
		e.part("“"+cp.Name+"”", func() { r = e.join(cp, e.read(cp)) })
		e.readings[cp.ID] = r
		e.report.Readings = append(e.report.Readings, r)
	}
	e.part("findings", func() {
		e.report.Findings, e.report.Possible = diagnose.Faults(e.Model, e.readings)
	})
	e.part("what to ask", e.ask)
	e.part("what the clip carries", e.carry)
	e.part("what to keep", func() {
		e.report.Strengths = diagnose.Strengths(e.Model, e.readings, slices.Concat(e.report.Findings, e.report.Possible))
	})
	return e.report, &e.cache
}

// stages in the order in which they run; each uses what those above it have set.
var stages = []struct {
	name string
	run  func(*Evaluation)
}{
	{"the scale", (*Evaluation).findScale},                  // Scale
	{"the plane of motion", (*Evaluation).findSight},        // sight
	{"contacts", (*Evaluation).findContacts},                // contacts, belt
	{"the athlete's side", (*Evaluation).checkSide},         // report.Problems
	{"the view", (*Evaluation).checkView},                   // report.Problems
	{"the throw in depth", (*Evaluation).findThrow},         // throw, camera, report.Throw
	{"the view of the throw", (*Evaluation).checkThrowView}, // report.Problems
	{"the rate of the camera", (*Evaluation).findRate},      // report.RateHint
	{"key positions", (*Evaluation).findPositions},          // found, feet: what Flag answers from
	{"what fits together", (*Evaluation).agree},             // found, withdrawn
	{"the other clips", (*Evaluation).takeOver},             // found, report.Problems
	{"the order of flags", (*Evaluation).checkFlags},        // report.Problems
	{"what is still to be placed", (*Evaluation).positions}, // report.Positions
	{"phases", (*Evaluation).spans},                         // report.Phases, report.Contacts
	{"the pole", (*Evaluation).findPole},                    // report.Pole
	{"the table of steps", (*Evaluation).steps},             // report.Ground, report.Steps
	{"the run-up in depth", (*Evaluation).findApproach},     // run, report.Approach
}

// Begin opens an attempt for what looks at it without judging it: curves, annotations,
// repairs and comparisons. Paths and scale are known; [Evaluation.Locate] finds the rest.
func Begin(m model.Model, in Input, old *Cache) *Evaluation {
	e := begin(m, in, old)
	e.findScale()
	return e
}

// Locate finds contacts, the throw in depth and key positions.
func (e *Evaluation) Locate() {
	e.findContacts()
	e.findThrow()
	e.findPositions()
	e.agree()
}

// part runs one part of an evaluation. A mistake of ours, or a stored value that nobody
// foresaw, costs that part and is told; the rest goes on.
func (e *Evaluation) part(name string, f func()) {
	defer func() {
		if r := recover(); r != nil {
			e.report.Problems = append(e.report.Problems, name+" could not be computed; the rest holds without it")
			e.report.Broken = append(e.report.Broken, fmt.Sprintf("%s: %v\n%s", name, r, debug.Stack()))
		}
	}()
	f()
}

func begin(m model.Model, in Input, old *Cache) *Evaluation {
	m = m.As(in.Variant)
	e := &Evaluation{Model: m, Input: in, view: angles.View{Direction: 1}, readings: map[string]report.Reading{}}
	e.report = report.Report{Positions: []report.Position{}, Phases: []report.Span{}, Contacts: []contact.Interval{}, Glimpses: []contact.Glimpse{}, Steps: []report.Step{}, Readings: []report.Reading{},
		Strengths: []report.Strength{}, Findings: []report.Finding{}, Possible: []report.Finding{}, Problems: []string{}, Questions: []report.Question{}, Carries: report.Carries{Can: []string{}, Cannot: []string{}}}
	var wrong []string
	in.Athlete, wrong = in.Athlete.Possible()
	e.Input.Athlete = in.Athlete
	e.report.Problems = append(e.report.Problems, wrong...)
	if in.Clip.Direction < 0 {
		e.view.Direction = -1
	}
	e.Roles = sport.Of(m.ID).Roles(in.Athlete, body.NearSide(e.view.Direction))
	e.Sigma = HandSigma * math.Max(1, float64(in.Clip.Height)/720)
	var err error
	if e.Clock, err = timebase.New(in.Clip.Stamps, in.Clip.FileRate, in.Clip.CaptureRate); err != nil {
		e.report.Problems = append(e.report.Problems, err.Error())
	}
	e.Clock, e.stills = e.Clock.Showing(in.Clip.Pictures), in.Clip.Pictures.Stills()
	if p := in.Camera; p != nil && p.Problem != "" {
		e.report.Problems = append(e.report.Problems, "the camera moved and paths cannot be read: "+p.Problem)
	}
	e.Rate = in.Clip.CaptureRate
	if e.Rate == 0 {
		e.Rate = in.Clip.FileRate // shapes are right, times are not given
	}
	if e.Rate == 0 {
		e.Rate = 30
	}
	var before *kinematics.Movement
	if old != nil {
		before, e.cache = old.Movement, *old
	}
	e.part("paths", func() {
		e.Movement = kinematics.New(in.Points, kinematics.Film{Rate: e.Rate, View: e.view, Camera: in.Camera, Pictures: in.Clip.Pictures}, before)
	})
	e.cache.Movement = e.Movement
	e.fromOthers = e.travelled()
	return e
}

// Evaluation is one attempt in one clip while it is worked out.
type Evaluation struct {
	Model  model.Model
	Input  Input
	Clock  timebase.Clock
	view   angles.View
	Roles  body.Roles
	Sigma  float64
	Rate   float64 // frames per second by which paths are smoothed
	stills bool    // single positions with no time between them
	// contradicted tells that the pictures speak against the rate that was given.
	contradicted bool
	Movement     *kinematics.Movement
	cache        Cache
	centre       *kinematics.Path // of mass; made when first needed
	Scale        *calibration.Scale
	sight        *sight                // the plane of motion; nil without a scale
	limbs        map[[2]string]float64 // lengths that were asked for, px
	contacts     []contact.Contact
	throw        *throw.Reconstruction // nil while the circle is not marked
	camera       *camera.Camera        // nil likewise, and without a scale
	run          *approach.Run         // nil while no runway is marked
	found        map[string]foundAt
	// fromOthers are moments that a coach has flagged in another clip.
	fromOthers map[string]foundAt
	// withdrawn are positions that were found and are not sure enough, or do not fit.
	withdrawn map[string]foundAt
	feet      map[int]body.Side // foot of the nth step
	belt      float64           // px/s, forward; the speed of what rests on the ground
	readings  map[string]report.Reading
	report    report.Report
}

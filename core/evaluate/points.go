package evaluate

import (
	"math"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/track"
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

// Located is a role's place in one frame, in (forward, up) pixels, with its
// scatter and the landmarks it was made of.
type Located struct {
	At        r2.Vec
	Sigma     float64
	Landmarks []string
}

// draftBias is how far a pose model puts a joint off its place even when it is
// sure, as a multiple of the scatter of a hand: clothes cover the hips. Measured
// on the simulated athlete (figure sim.pose_error), rounded up.
var draftBias = map[string]float64{"hip": 4, "shoulder": 2.5, "ear": 2, "elbow": 2, "wrist": 2, "hand": 2.5, "knee": 1.5, "ankle": 1.5, "heel": 2, "toe": 2}

// biasHeight is the standing height, px, at which [draftBias] was measured.
const biasHeight = 450

func (e *Evaluation) pixel(id string, frame int) (Located, bool) {
	p, ok := e.Input.Points.At(id, frame)
	path := e.Movement.Paths[id]
	s := Located{Sigma: e.Sigma, Landmarks: []string{id}}
	if ok && p.Source == track.Hand.String() {
		s.At = e.Movement.ToReference(frame, r2.Vec{X: p.X, Y: p.Y})
		if p.Hidden {
			s.Sigma *= hiddenFactor
		}
		return s, true
	}
	at, smooth := path.Where(frame)
	switch {
	case smooth:
		s.At = at
	case ok:
		s.At = e.Movement.ToReference(frame, r2.Vec{X: p.X, Y: p.Y})
	default:
		return Located{}, false
	}
	sure := p.Confidence
	if !ok {
		sure = track.FilledConfidence
	}
	if ok && p.Source == track.Draft.String() {
		_, part, _ := strings.Cut(id, "_")
		size := 1.0
		if tall := e.StandingHeight(); tall > 0 {
			size = tall / biasHeight // the cut-out is enlarged with the athlete
		}
		s.Sigma *= math.Max(1, draftBias[part]*size)
	}
	s.Sigma /= math.Max(0.2, sure)
	if ok && p.Source == track.Hand.String() {
		return s, true
	}
	if tall := e.StandingHeight(); tall > 0 {
		// In small pictures a model is off by a share of the athlete, not by pixels.
		small := math.Min(1, math.Max(0, clearHeight/tall-1))
		s.Sigma = math.Hypot(s.Sigma, small*smallSD*tall/math.Max(0.2, sure))
	}
	return s, true
}

// smallSD is how far a sure joint of a small athlete is off, standing heights, beside the
// scatter of larger ones. Assumed, after a look at the errors of knees and ankles on the
// half of the hard set that is there to build on; wrong sides and wrong people are not in it.
const smallSD = 0.016

func (e *Evaluation) Point(roles body.Roles, role string, frame int) (Located, bool) {
	ids := roles.Resolve(role)
	a, okA := e.pixel(ids[0], frame)
	if len(ids) == 1 {
		return a, okA
	}
	b, okB := e.pixel(ids[1], frame)
	switch {
	case okA && okB:
		return Located{r2.Scale(0.5, r2.Add(a.At, b.At)), math.Hypot(a.Sigma, b.Sigma) / 2, ids}, true
	case okB:
		a = b
	case !okA:
		return Located{}, false
	}
	if e.Scale != nil {
		a.Sigma = math.Hypot(a.Sigma, oneSided/e.Scale.MetresPerPixel.Value)
	} else {
		a.Sigma *= hiddenFactor
	}
	return a, true
}

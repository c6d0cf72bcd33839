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

// draftSD is how far a pose model puts a joint off its place when it is sure, standing
// heights: one coordinate, clothes over hips and shoulders included. The less sure it is, the
// farther, in proportion; the size of the picture hardly matters. Measured on the half of the
// hard set that is there to build on and on clips beside it, as what four in five errors stay
// below; the rest are joints that are simply elsewhere, see grossly.
var draftSD = map[string]float64{"hip": 0.016, "shoulder": 0.018, "ear": 0.0125, "elbow": 0.015, "wrist": 0.018, "hand": 0.021, "knee": 0.0103, "ankle": 0.0115, "heel": 0.025, "toe": 0.033}

// sureDraft is the confidence of the joints at which [draftSD] was measured, leastDraft the
// one below which it tells nothing more.
const (
	sureDraft  = 0.9
	leastDraft = 0.15
)

func (e *Evaluation) pixel(id string, frame int) (Located, bool) {
	if e.stills {
		frame = e.Input.Clip.Pictures.Of(frame)
	}
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
	case smooth && !e.stills:
		s.At = at
		if raw, seen := path.Seen(frame); seen && ok && p.Source == track.Tracked.String() {
			s.At = raw // smoothing rounds the corner of a foot that comes down; this scatters less than that
		}
	case ok:
		s.At = e.Movement.ToReference(frame, r2.Vec{X: p.X, Y: p.Y})
	default:
		return Located{}, false
	}
	sure := p.Confidence
	if !ok {
		sure = track.FilledConfidence
	}
	_, part, _ := strings.Cut(id, "_")
	if tall := e.StandingHeight(); tall > 0 && draftSD[part] > 0 && (!ok || p.Source != track.Tracked.String()) {
		s.Sigma = math.Hypot(leastPixels, draftSD[part]*tall*sureDraft/math.Max(leastDraft, sure))
		return s, true
	}
	s.Sigma /= math.Max(0.2, sure)
	return s, true
}

// lastingError is how long a pose model puts a joint off its place in the same way, s. Shaped
// on directions of hips and shoulders on the half of the hard set that is there to build on.
const lastingError = 0.1

// lasting is the scatter of a point in one frame, and for a path that is fitted through many:
// an error that stays the same for some frames is not made smaller by them.
func (e *Evaluation) lasting(id string, frame int) (once, lasting float64) {
	p, ok := e.pixel(id, frame)
	if !ok {
		return e.Sigma, e.Sigma
	}
	if at, there := e.Input.Points.At(id, frame); there && at.Source == track.Hand.String() || body.IsThing(id) {
		return p.Sigma, p.Sigma
	}
	return p.Sigma, p.Sigma * math.Sqrt(math.Max(1, lastingError*e.shown()))
}

// Some joints are simply elsewhere, on the other leg or on the ground beside, however sure
// the model is: of large athletes and of small ones this share. Of the less sure ones it is so
// many times that. Measured as draftSD was: errors of more than 3.5 of its deviations.
const (
	grossLarge  = 0.05
	grossSmall  = 0.1
	largeHeight = 260 // standing height, px
	grossUnsure = 1.5
	grossSure   = 0.6
)

// grossly is how likely a point is elsewhere; 0 for one that a hand has placed, and for the
// middle of two.
func (e *Evaluation) grossly(id string, frame int) float64 {
	p, ok := e.Input.Points.At(id, frame)
	_, part, _ := strings.Cut(id, "_")
	if draftSD[part] == 0 || e.Input.Points[id] == nil || ok && (p.Source == track.Hand.String() || p.Source == track.Tracked.String()) {
		return 0
	}
	g := grossLarge
	if e.StandingHeight() < largeHeight {
		g = grossSmall
	}
	if !ok || p.Confidence < grossSure {
		g *= grossUnsure
	}
	return g
}

// leastPixels is the least scatter of a computed point, px.
const leastPixels = 0.5

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

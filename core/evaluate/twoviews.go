package evaluate

import (
	"errors"
	"math"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/signal"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/vec3"
)

// Stereo is what two clips of one attempt tell at once.
type Stereo struct {
	TopView TopView `json:"top_view" doc:"at the frames of the first clip"`
	report.Turning
	AlignedBy string  `json:"aligned_by" enum:"position,sound" doc:"what brought the clips to the same moment"`
	Offset    float64 `json:"offset" doc:"s: when frame 0 of the first clip was, on the clock of the second"`
	Apart     float64 `json:"apart" doc:"cm by which the lines of sight miss each other"`
	Off       float64 `json:"off" doc:"degrees by which the first clip alone was off in the ball's direction, middle of all frames"`
}

// Errors of [TwoViews].
var (
	ErrCircle = errors.New("both clips need a marked circle and a tracked ball")
	ErrMoment = errors.New("the two clips share no flagged position and no sound; flag the release in both")
)

// airSpeed is the speed of sound, m/s at 20 degrees (from memory of textbooks).
const airSpeed = 343.0

// TwoViews reads a throw from two clips of one attempt. They are brought to about the same
// moment by a position that both show; or else by sound, when heard is not nil: by how
// much later the same sound stands in b than in a, s of true time.
func TwoViews(m model.Model, a, b Input, heard *float64) (Stereo, error) {
	var es [2]*Evaluation
	var clips [2]throw.Clip
	for i, in := range []Input{a, b} {
		e := Begin(m, in, nil)
		e.Locate()
		if e.throw == nil || e.camera == nil || in.Points["ball"] == nil {
			return Stereo{}, ErrCircle
		}
		release := -1
		if f, ok := e.Flag("release"); ok {
			release = f
		}
		es[i] = e
		clips[i] = throw.Clip{Camera: e.camera, Movement: e.Movement, Points: in.Points, Frames: e.Clock.Len(), Sigma: e.Sigma, Left: e.Roles.Throwing == body.Left, Person: in.Athlete, Kind: throw.Kind(sport.Of(m.ID).Implement.Kind), Contacts: e.contacts, ReleaseFrame: release}
	}
	start, by := 0.0, ""
	if heard != nil {
		// The sound came later to the camera that stood farther off.
		far := func(c throw.Clip) float64 { return vec3.Norm(c.Camera.At) / airSpeed }
		start, by = *heard-(far(clips[1])-far(clips[0])), "sound"
	}
	for _, p := range append([]model.Position{{ID: "release"}}, es[0].Model.Positions...) {
		f, okA := es[0].Flag(p.ID)
		g, okB := es[1].Flag(p.ID)
		if by == "" && okA && okB && es[0].Clock.Known() && es[1].Clock.Known() {
			start, by = es[1].Clock.At(g)-es[0].Clock.At(f), "position"
		}
	}
	if by == "" {
		return Stereo{}, ErrMoment
	}
	both, err := throw.Pair{A: clips[0], B: clips[1], Start: start}.New()
	if err != nil {
		return Stereo{}, err
	}
	out := Stereo{AlignedBy: by, TopView: es[0].above(both.Orbit), Turning: es[0].turning(nil, nil), Offset: both.Offset, Apart: 100 * both.Apart}
	if both.Orbit.Ball != nil {
		turns := both.Orbit.Turns(es[0].contacts, es[0].report.Throw.Mass)
		out.Turning = es[0].turning(turns, both.Orbit.Unseen(turns))
	}
	var off []float64
	for f := range es[0].Clock.Len() {
		x, okX := es[0].throw.Azimuth("ball", f)
		y, okY := both.Orbit.Azimuth("ball", f)
		if okX && okY {
			off = append(off, math.Abs(math.Remainder(x.Value-y.Value, 360)))
		}
	}
	if len(off) > 0 {
		out.Off = signal.Median(off)
	}
	return out, nil
}

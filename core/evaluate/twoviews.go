package evaluate

import (
	"errors"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/signal"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
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
	Joints    []Joint `json:"joints" doc:"true inside angles of knees and elbows at the first clip's key positions"`
	Space     *Space  `json:"-"`
}

// Joint is the inside angle of a joint in space, at a key position.
type Joint struct {
	Position string               `json:"position"`
	Label    string               `json:"label"`
	Frame    int                  `json:"frame" doc:"of the first clip"`
	Joint    string               `json:"joint" doc:"such as left_knee"`
	Angle    uncertainty.Estimate `json:"angle" doc:"degrees, from both clips"`
	Flat     float64              `json:"flat" doc:"degrees that the first clip alone shows"`
}

// Space are the places of landmarks in the world at the frames of the first clip, m: x along
// the throw, y up, z to its right. NaN where not both clips show them.
type Space struct {
	Rate   float64
	Frames int
	At     map[string][]vec3.Vec
	Flags  map[string]int
	Feet   []contact.Interval
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
	es, both, by, err := paired(m, a, b, heard)
	if err != nil {
		return Stereo{}, err
	}
	out := Stereo{AlignedBy: by, TopView: es[0].above(both.Orbit), Turning: noTurns(), Offset: both.Offset, Apart: 100 * both.Apart}
	if both.Orbit.Ball != nil {
		out.Turning, _ = es[0].turning(both.Orbit)
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
	out.Space = es[0].space(both)
	out.Joints = joints(es, both, out.Space)
	return out, nil
}

// paired reads the clips of one attempt alone and both together, and says what brought them to
// the same moment.
func paired(m model.Model, a, b Input, heard *float64) (es [2]*Evaluation, both *throw.StereoReconstruction, by string, err error) {
	var clips [2]throw.Clip
	for i, in := range []Input{a, b} {
		if in.Points["ball"] == nil || in.Ground == nil {
			return es, nil, "", ErrCircle
		}
		e := Begin(m, in, nil)
		e.Locate()
		if e.throw == nil || e.camera == nil {
			return es, nil, "", ErrCircle
		}
		release := -1
		if f, ok := e.Flag("release"); ok {
			release = f
		}
		es[i] = e
		clips[i] = throw.Clip{Camera: e.camera, Movement: e.Movement, Points: in.Points, Frames: e.Clock.Len(), Sigma: e.Sigma, Scatter: e.lasting, Left: e.Roles.Throwing == body.Left, Person: in.Athlete, Kind: throw.Kind(sport.Of(m.ID).Implement.Kind), Contacts: e.contacts, ReleaseFrame: release}
	}
	start := 0.0
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
		return es, nil, "", ErrMoment
	}
	both, err = throw.Pair{A: clips[0], B: clips[1], Start: start}.New()
	return es, both, by, err
}

// fromBoth are the checkpoints that hang on directions seen from above, by both clips of a throw
// at once, at the frames of the first. None where the two do not tell them, and [throw.ErrOther]
// where they cannot show one attempt. Sound brings them to the same moment where no position does.
func fromBoth(m model.Model, a, b Input, heard *float64) (out []report.Reading, err error) {
	if sport.Of(m.ID).Circle == 0 {
		return nil, nil
	}
	es, both, _, err := paired(m, a, b, nil)
	if errors.Is(err, ErrMoment) && heard != nil {
		es, both, _, err = paired(m, a, b, heard)
	}
	if err != nil {
		return nil, err
	}
	e := es[0]
	e.throw = both.Orbit
	for _, cp := range e.Model.Checkpoints {
		if !directed(cp.Measure) {
			continue
		}
		cp.Views = nil // two cameras see it from everywhere
		if r := e.read(cp); r.Value != nil && r.Source == "measure" {
			r.Both = true
			if r.Remedy != "" {
				r.Remedy = "the points placed again in both clips"
			}
			out = append(out, r)
		}
	}
	return out, nil
}

// space are all landmarks that both clips show.
func (e *Evaluation) space(both *throw.StereoReconstruction) *Space {
	out := &Space{Rate: e.Rate, Frames: e.Clock.Len(), At: map[string][]vec3.Vec{}, Flags: map[string]int{}, Feet: e.report.Contacts}
	for _, id := range append(body.Landmarks(), "ball") {
		if at := both.Place(id); slices.ContainsFunc(at, func(p vec3.Vec) bool { return !math.IsNaN(p.X) }) {
			out.At[id] = at
		}
	}
	for _, p := range e.Model.Positions {
		if f, ok := e.Flag(p.ID); ok {
			out.Flags[p.ID] = f
		}
	}
	return out
}

// bent are the joints whose true angle two cameras tell: part to the parts on both sides of it.
var bent = [][3]string{{"hip", "knee", "ankle"}, {"shoulder", "elbow", "wrist"}}

// joints reads them at the key positions of the first clip. Each place carries what the landmark
// scatters by in both pictures, and half of what the lines of sight miss each other by.
func joints(es [2]*Evaluation, both *throw.StereoReconstruction, s *Space) []Joint {
	out := []Joint{}
	for _, p := range es[0].Model.Positions {
		f, ok := s.Flags[p.ID]
		if !ok {
			continue
		}
		for _, parts := range bent {
			for _, side := range []body.Side{body.Left, body.Right} {
				var x, sd []float64
				var flat [3]r2.Vec
				for i, part := range parts {
					id := string(side) + "_" + part
					other := int(math.Round(both.FrameOf(f)))
					a, okA := es[0].pixel(id, f)
					b, okB := es[1].pixel(id, other)
					if s.At[id] == nil || math.IsNaN(s.At[id][f].X) || !okA || !okB {
						break
					}
					at := s.At[id][f]
					each := math.Hypot(both.PlaceSD(at, a.Sigma, b.Sigma), both.Apart/2)
					x, sd = append(x, at.X, at.Y, at.Z), append(sd, each, each, each)
					flat[i] = a.At
				}
				if len(x) < 9 {
					continue
				}
				out = append(out, Joint{Position: p.ID, Label: p.Name, Frame: f, Joint: string(side) + "_" + parts[1], Angle: uncertainty.Propagate(insideAngle, x, sd), Flat: angles.Included(flat[0], flat[1], flat[2])})
			}
		}
	}
	return out
}

// insideAngle is that at the second of three places, degrees.
func insideAngle(x []float64) float64 {
	at := func(i int) vec3.Vec { return vec3.Vec{X: x[i], Y: x[i+1], Z: x[i+2]} }
	u, v := vec3.Sub(at(0), at(3)), vec3.Sub(at(6), at(3))
	return angles.Deg(math.Atan2(vec3.Norm(vec3.Cross(u, v)), vec3.Dot(u, v)))
}

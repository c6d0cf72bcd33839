package figures

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"

	"github.com/google/uuid"
	"gonum.org/v1/gonum/spatial/r2"
	"gonum.org/v1/gonum/stat"

	"neokinema/core/angles"
	"neokinema/core/blocks"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/track"
	"neokinema/internal/demo"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam"
)

// truths are the clips whose truth is known: good, two faulty ones, and a
// right-leg-front athlete who runs the other way.
func truths() ([]simcam.Truth, error) {
	man := body.Person{Sex: body.Male, Height: 1.82, Mass: 75, FrontLeg: body.Left}
	other := body.Person{Sex: body.Female, Height: 1.62, Mass: 55, FrontLeg: body.Right}
	var out []simcam.Truth
	for _, s := range []simcam.Spec{
		{Athlete: man, Direction: 1},
		{Athlete: man, Direction: 1, Faults: map[string]float64{"front-knee": 118, "early-rise": 11}},
		{Athlete: man, Direction: 1, Faults: map[string]float64{"foot-ahead": 0.3, "head-up": 40}},
		{Athlete: other, Direction: -1},
	} {
		s.CaptureRate, s.FileRate, s.Width, s.Height = 240, 30, 1280, 720
		sc, err := simcam.New(s)
		if err != nil {
			return nil, err
		}
		out = append(out, sc.Truth)
	}
	return out, nil
}

// Input makes the core's input from edits, by way of stored tracks, so that
// storage is part of what is measured.
func Input(truth simcam.Truth, edits []workspace.Edit) (evaluate.Input, error) {
	s := truth.Spec
	n := len(truth.Frames)
	in := evaluate.Input{Model: truth.Event, Athlete: s.Athlete, Flags: map[string]int{}, Answers: map[string]evaluate.Judgement{}, Points: kinematics.Points{},
		Clip: evaluate.ClipInfo{Width: s.Width, Height: s.Height, FileRate: s.FileRate, CaptureRate: s.CaptureRate, View: "side", Direction: s.Direction}}
	for i := range n {
		in.Clip.Stamps = append(in.Clip.Stamps, int64(math.Round(float64(i)*90000/s.FileRate)))
	}
	tracks := map[string]*track.Track{}
	for _, e := range edits {
		switch e.Kind {
		case "flag":
			var frame int
			if err := json.Unmarshal(e.Value, &frame); err != nil {
				return in, err
			}
			in.Flags[e.Key] = frame
		case "point":
			if tracks[e.Key] == nil {
				tracks[e.Key] = track.New(n)
			}
			var p track.Point
			if err := json.Unmarshal(e.Value, &p); err != nil {
				return in, err
			}
			if err := tracks[e.Key].Set(e.Frame, &p); err != nil {
				return in, err
			}
		}
	}
	for id, t := range tracks {
		raw, err := t.MarshalBinary()
		if err != nil {
			return in, err
		}
		var back track.Track
		if err := back.UnmarshalBinary(raw); err != nil {
			return in, err
		}
		in.Points[id] = &back
	}
	return in, nil
}

// AngleError is the largest difference, in degrees, between the core's angles
// from points set on the truth and the angles of the true 3D landmarks seen
// through the camera: directions by similar triangles and bearings, by another
// way than the core's.
func AngleError() (float64, error) {
	list, err := truths()
	if err != nil {
		return 0, err
	}
	m, err := models.Load("sprint-start")
	if err != nil {
		return 0, err
	}
	worst, compared := 0.0, 0
	for _, truth := range list {
		in, err := Input(truth, demo.ByHand(truth, uuid.New(), 0))
		if err != nil {
			return 0, err
		}
		report := evaluate.Attempt(m, in)
		roles := body.Roles{FrontLeg: truth.Spec.Athlete.FrontLeg, Near: body.NearSide(truth.Spec.Direction)}
		// Straight from the world through the frame's own matrix.
		seen := func(frame int, role string) (forward, up float64) {
			ids := roles.Resolve(role)
			p := truth.Frames[frame].Camera
			for _, id := range ids {
				w := truth.Frames[frame].Landmarks[id].World
				var h [3]float64
				for i := range h {
					h[i] = p[i][0]*w[0] + p[i][1]*w[1] + p[i][2]*w[2] + p[i][3]
				}
				forward += truth.Spec.Direction * h[0] / h[2] / float64(len(ids))
				up -= h[1] / h[2] / float64(len(ids))
			}
			return forward, up
		}
		bearing := func(frame int, from, to string) float64 {
			fx, fy := seen(frame, from)
			tx, ty := seen(frame, to)
			a := math.Acos((tx-fx)/math.Hypot(tx-fx, ty-fy)) * 180 / math.Pi
			if ty < fy {
				return -a
			}
			return a
		}
		for _, cp := range m.Checkpoints {
			p, frame := cp.Measure.Points, truth.Positions[cp.Position]
			var want float64
			switch cp.Measure.Kind {
			case "joint":
				want = math.Abs(bearing(frame, p[1], p[0]) - bearing(frame, p[1], p[2]))
				want = math.Min(want, 360-want)
			case "lean":
				want = bearing(frame, p[0], p[1])
			case "brake":
				want = bearing(frame, p[0], p[1]) - 90
			case "turn":
				want = bearing(frame, p[1], p[2]) - bearing(frame, p[0], p[1])
			default:
				continue
			}
			r, _ := report.Reading(cp.ID)
			if r.Value == nil {
				return 0, fmt.Errorf("%s has no value: %s", cp.ID, r.Reason)
			}
			compared++
			worst = math.Max(worst, math.Abs(r.Value.Value-want))
		}
	}
	if compared < 40 {
		return 0, fmt.Errorf("only %d angles were compared", compared)
	}
	return worst, nil
}

// DoubtError is the largest relative error, in per cent, of the doubt formula of
// a joint angle against n simulated placings, 20 to 160 degrees; for the closed
// form and for the general propagation that readings use.
func DoubtError(n int) float64 {
	r := rand.New(rand.NewPCG(1, 2))
	worst := 0.0
	for deg := 20.0; deg <= 160; deg += 20 {
		a, v, b := r2.Vec{X: 110}, r2.Vec{}, r2.Scale(95, r2.Vec{X: math.Cos(angles.Rad(deg)), Y: math.Sin(angles.Rad(deg))})
		const sigma = 1.5
		jitter := func(p r2.Vec) r2.Vec {
			return r2.Add(p, r2.Vec{X: sigma * r.NormFloat64(), Y: sigma * r.NormFloat64()})
		}
		xs := make([]float64, n)
		for i := range xs {
			xs[i] = angles.SignedIncluded(jitter(a), jitter(v), jitter(b))
		}
		worst = math.Max(worst, 100*math.Abs(angles.IncludedSD(a, v, b, sigma)/stat.StdDev(xs, nil)-1))
	}
	return worst
}

// BlocksError is the largest difference in degrees from the worked example:
// thigh 0.44, shank 0.43, hip 0.21 ahead of and 0.605 above the ankle: 94.8;
// 2.5 cm nearer 93.3; 90 after 9.8 cm.
func BlocksError() float64 {
	knee := func(s float64) float64 { return blocks.Knee(0.44, 0.43, 0.21, 0.605, s) }
	return math.Max(math.Max(math.Abs(knee(0)-94.8), math.Abs(knee(0.025)-93.3)), math.Abs(knee(0.098)-90))
}

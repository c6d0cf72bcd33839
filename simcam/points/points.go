// Package points makes of a simulated truth what a coach, a pose model or a
// tracker would have placed: the way from simcam to the core for tests and
// figures.
package points

import (
	"math"
	"math/rand/v2"
	"strconv"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/linsolve"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

// All places every landmark in every frame, scattered by sigma px, as a draft.
// Implement points become things: the centre is the ball, tip and tail keep
// their names.
func All(t simcam.Truth, sigma float64, seed uint64) kinematics.Points {
	r := rand.New(rand.NewPCG(seed, 8470))
	out := kinematics.Points{}
	put := func(id string, frame int, at [2]float64) {
		if out[id] == nil {
			out[id] = track.New(len(t.Frames))
		}
		// The order of landmarks is fixed, so that a seed gives one clip.
		_ = out[id].Set(frame, &track.Point{X: at[0] + sigma*r.NormFloat64(), Y: at[1] + sigma*r.NormFloat64(), Source: "draft", Confidence: 0.95})
	}
	for f, fr := range t.Frames {
		for _, id := range body.Landmarks() {
			put(id, f, fr.Landmarks[id].Image)
		}
		for from, to := range map[string]string{"centre": "ball", "tip": "tip", "tail": "tail", "grip": "grip"} {
			if l, ok := fr.Implement[from]; ok && sigma == 0 {
				put(to, f, l.Image)
			}
		}
	}
	return out
}

// Input is the core's input of a clip with points and nothing decided by hand.
func Input(t simcam.Truth, p kinematics.Points) evaluate.Input {
	s := t.Spec
	in := evaluate.Input{Model: t.Event, Athlete: s.Athlete, Flags: map[string]int{}, Points: p, Answers: map[string]evaluate.Judgement{}, Variant: t.Variant,
		Clip: evaluate.ClipInfo{Width: s.Width, Height: s.Height, FileRate: s.FileRate, CaptureRate: s.CaptureRate, View: s.View(), Direction: s.Direction}}
	in.Athlete.ThrowingHand, in.Athlete.TakeoffLeg = s.Hand, s.Leg
	if in.Camera = Camera(t); in.Camera == nil {
		in.Camera = &stabilize.Rotations{}
	}
	for i := range t.Frames {
		in.Clip.Stamps = append(in.Clip.Stamps, int64(math.Round(float64(i)*90000/s.FileRate)))
	}
	return in
}

// Circle marks the throwing circle as a coach clicks it: its named places, some of
// the rim, each off by sigma px, and how far he stood, to half a metre; nil without
// a circle.
func Circle(t simcam.Truth, sigma float64, seed uint64) *ground.ControlPoints {
	back, ok := t.Ground["circle_back"]
	if !ok {
		return nil
	}
	r := rand.New(rand.NewPCG(seed, 3))
	radius := math.Abs(back.World[0])
	m := &ground.ControlPoints{Template: "shot-circle"}
	if radius > 1.2 {
		m.Template = "discus-circle"
	}
	off := func() float64 { return sigma * r.NormFloat64() }
	for _, id := range []string{"circle_left", "circle_right", "circle_back", "circle_front", "divider_left", "divider_right"} {
		if l, ok := t.Ground[id]; ok {
			m.Points = append(m.Points, ground.ControlPoint{Name: id, Along: l.World[0], Right: l.World[2], X: l.Image[0] + off(), Y: l.Image[1] + off()})
		}
	}
	p := t.Frames[0].Camera
	for k := range 8 {
		s, c := math.Sincos(2 * math.Pi * (float64(k) + 0.5) / 8)
		row := func(i int) float64 { return p[i][0]*radius*c + p[i][2]*radius*s + p[i][3] }
		x, y := row(0)/row(2), row(1)/row(2)
		if x > 0 && y > 0 && x < float64(t.Spec.Width) && y < float64(t.Spec.Height) {
			m.Points = append(m.Points, ground.ControlPoint{Name: "rim", Rim: radius, X: x + off(), Y: y + off()})
		}
	}
	m.Away = math.Round(2*distance(p)) / 2
	return m
}

// distance of a camera from the origin, m.
func distance(p [3][4]float64) float64 { return r3.Norm(eye(p)) }

// eye is the place of a camera: what its matrix maps to nothing.
func eye(p [3][4]float64) r3.Vec {
	a := make([]float64, 9)
	b := make([]float64, 3)
	for i := range 3 {
		copy(a[3*i:], p[i][:3])
		b[i] = -p[i][3]
	}
	if linsolve.Solve(a, b) != nil {
		return r3.Vec{}
	}
	return r3.Vec{X: b[0], Y: b[1], Z: b[2]}
}

// Ball follows the implement in every picture that shows it, off by sigma px.
func Ball(t simcam.Truth, sigma float64, seed uint64) *track.Track {
	r := rand.New(rand.NewPCG(seed, 5))
	out := track.New(len(t.Frames))
	for f, fr := range t.Frames {
		l, ok := fr.Implement["centre"]
		if !ok {
			continue
		}
		x, y := l.Image[0]+sigma*r.NormFloat64(), l.Image[1]+sigma*r.NormFloat64()
		if x > 0 && y > 0 && x < float64(t.Spec.Width) && y < float64(t.Spec.Height) {
			_ = out.Set(f, &track.Point{X: x, Y: y, Source: "tracked", Confidence: 0.9})
		}
	}
	return out
}

// Pole follows tip and two points between of a pole, off by sigma px; nil for other events.
func Pole(t simcam.Truth, sigma float64, seed uint64) kinematics.Points {
	if t.Event != "pole-vault" {
		return nil
	}
	r := rand.New(rand.NewPCG(seed, 17))
	out := kinematics.Points{}
	for _, p := range [][2]string{{"tip", "pole_a"}, {"pole_low", "pole_d"}, {"pole_high", "pole_h"}} {
		tr := track.New(len(t.Frames))
		for f, fr := range t.Frames {
			l := fr.Implement[p[1]]
			x, y := l.Image[0]+sigma*r.NormFloat64(), l.Image[1]+sigma*r.NormFloat64()
			if x > 0 && y > 0 && x < float64(t.Spec.Width) && y < float64(t.Spec.Height) {
				_ = tr.Set(f, &track.Point{X: x, Y: y, Source: track.Tracked.String(), Confidence: 0.9})
			}
		}
		out[p[0]] = tr
	}
	return out
}

// Camera is how the clip's camera truly turned, from its projection matrices;
// nil for one that stood still.
func Camera(t simcam.Truth) *stabilize.Rotations { return simcam.Turning(t) }

// Down tells whether a foot is on the ground in a frame.
func Down(t simcam.Truth, side body.Side, frame int) bool {
	for _, s := range t.Frames[frame].Contacts {
		if s == string(side) {
			return true
		}
	}
	return false
}

// Treadmill is the truth of a run as a camera beside a belt sees it: every frame
// is moved so that the belt carries the ground back at the running speed.
func Treadmill(t simcam.Truth, speed float64) simcam.Truth {
	out := t
	out.Frames = nil
	for _, f := range t.Frames {
		g := f
		g.Landmarks = map[string]simcam.Landmark{}
		for id, l := range f.Landmarks {
			// The camera is far and looks square on: a shift along x moves the
			// pixel by what the scale says at the runner's depth.
			k := f.Camera[0][0] / (f.Camera[2][0]*l.World[0] + f.Camera[2][1]*l.World[1] + f.Camera[2][2]*l.World[2] + f.Camera[2][3])
			l.Image[0] -= k * speed * f.Time
			l.World[0] -= speed * f.Time
			g.Landmarks[id] = l
		}
		out.Frames = append(out.Frames, g)
	}
	return out
}

// Score compares found moments with true ones.
type Score struct{ Within, All int }

// Percent is the share within one frame.
func (s Score) Percent() float64 { return 100 * float64(s.Within) / math.Max(1, float64(s.All)) }

// Contacts holds found bars against the true touchdowns and toe-offs; those that
// lie within three frames of an end of the clip do not count.
func Contacts(t simcam.Truth, r report.Report) Score {
	var ends []end
	for _, b := range r.Contacts {
		ends = append(ends, end{b.Foot, b.From, b.To})
	}
	return within(t, ends)
}

// Stands does the same with contacts that the picture of the feet showed: a jump's
// report has bars for its last steps only.
func Stands(t simcam.Truth, found []contact.Contact) Score {
	var ends []end
	for _, f := range found {
		ends = append(ends, end{f.Foot, f.From, f.To})
	}
	return within(t, ends)
}

type end struct {
	foot     body.Side
	from, to int
}

func within(t simcam.Truth, ends []end) (s Score) {
	for _, side := range []body.Side{body.Left, body.Right} {
		for f := 4; f < len(t.Frames)-3; f++ {
			on := Down(t, side, f)
			if on == Down(t, side, f-1) {
				continue
			}
			s.All++
			best := math.MaxInt
			for _, b := range ends {
				at := b.from
				if !on {
					at = b.to
				}
				if b.foot == side {
					best = min(best, max(at-f, f-at))
				}
			}
			if best <= 1 {
				s.Within++
			}
		}
	}
	return s
}

// Positions holds found key positions against the true ones. What the tool does
// not look for, or what lies within three frames of an end of the clip, does not
// count; "set" is right anywhere in the stillness before the first movement.
func Positions(m model.Model, t simcam.Truth, r report.Report) (s Score, off map[string]int) {
	off = map[string]int{}
	for _, p := range m.Positions {
		want, ok := t.Positions[p.ID]
		if !ok || p.Find == nil || want < 4 || want > len(t.Frames)-4 {
			continue
		}
		if next, ok := t.Positions["td"+strconv.Itoa(p.Nth+1)]; p.Find.Kind == "half-flight" && (!ok || next > len(t.Frames)-4) {
			continue // half of a flight that the clip does not show to its end
		}
		s.All++
		off[p.ID] = math.MaxInt32
		for _, pr := range r.Positions {
			if pr.ID != p.ID || pr.Frame == nil {
				continue
			}
			d := *pr.Frame - want
			if p.ID == "set" && d > 0 && *pr.Frame <= t.Positions["move"] {
				d = 0
			}
			if off[p.ID] = d; max(d, -d) <= 1 {
				s.Within++
			}
		}
	}
	return s, off
}

// Rims are both ends of the oval as which a disc in the air shows, off by sigma px;
// nil for other implements.
func Rims(t simcam.Truth, sigma float64, seed uint64) (a, b *track.Track) {
	release, ok := t.Positions["release"]
	if !ok || t.Event != "discus" {
		return nil, nil
	}
	r := rand.New(rand.NewPCG(seed, 11))
	a, b = track.New(len(t.Frames)), track.New(len(t.Frames))
	half := move.DiscOf(t.Spec.Athlete).Diameter / 2
	for f := release; f < len(t.Frames); f++ {
		fr := t.Frames[f]
		centre, axis := vec(fr.Implement["centre"].World), vec(fr.Implement["axis"].World)
		// The long axis of the oval lies in the disc and across the sight.
		long := r3.Unit(r3.Cross(r3.Sub(axis, centre), r3.Sub(centre, eye(fr.Camera))))
		for k, into := range []*track.Track{a, b} {
			p := r3.Add(centre, r3.Scale(half*float64(1-2*k), long))
			row := func(i int) float64 {
				m := fr.Camera[i]
				return m[0]*p.X + m[1]*p.Y + m[2]*p.Z + m[3]
			}
			x, y := row(0)/row(2)+sigma*r.NormFloat64(), row(1)/row(2)+sigma*r.NormFloat64()
			if row(2) > 0 && x > 0 && y > 0 && x < float64(t.Spec.Width) && y < float64(t.Spec.Height) {
				_ = into.Set(f, &track.Point{X: x, Y: y, Source: "hand", Confidence: 1})
			}
		}
	}
	return a, b
}

func vec(v [3]float64) r3.Vec { return r3.Vec{X: v[0], Y: v[1], Z: v[2]} }

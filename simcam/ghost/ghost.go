// Package ghost draws an athlete's own measured movement with a fault taken out or made larger. What the
// fault changes is learnt from the simulated athlete of the same body, once with the fault at the size that
// was measured and once without it; the difference is laid on the places that were measured, in phase, and
// limbs keep their lengths.
package ghost

import (
	"fmt"
	"math"
	"slices"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// Ghost is a movement in some pictures of the clip that it was measured in.
type Ghost struct {
	Frames []int                `json:"frames" doc:"frames of the clip that are drawn, in order: where joints are placed, key positions among them"`
	Most   int                  `json:"most" doc:"which of them shows the change most"`
	Own    map[string][]float64 `json:"own" doc:"px, x and y of a landmark, frame after frame, as measured; -1 where nobody has placed it"`
	Points map[string][]float64 `json:"points" doc:"the same as they should be"`
	Around [][4]float64         `json:"around" doc:"px, the part of each picture in which the athlete is large: left, top, width and height"`
	Share  float64              `json:"share" doc:"size of the fault as measured: 0 faultless, 1 where it shows plainly"`
	Says   string               `json:"says"`
}

// most is how many pictures are drawn.
const most = 48

// Of draws a ghost: by is how much of the fault is left, 0 none, 1 as it is, 2 twice as much.
func Of(m model.Model, in evaluate.Input, rep report.Report, fault string, by float64) (Ghost, error) {
	f, ok := m.Fault(fault)
	if !ok {
		return Ghost{}, fmt.Errorf("there is no fault %q", fault)
	}
	right, err := across(in.Clip)
	if err != nil {
		return Ghost{}, err
	}
	s, d, err := specOf(m, in, fault)
	if err != nil {
		return Ghost{}, err
	}
	out := Ghost{Own: map[string][]float64{}, Points: map[string][]float64{}}
	if out.Share, out.Says, err = measured(m, s, d, f, rep); err != nil {
		return out, err
	}
	with, err := scene(s, d, out.Share)
	if err != nil {
		return out, err
	}
	without, err := scene(s, d, 0)
	if err != nil {
		return out, err
	}
	phase, err := alignment(rep, in, with, without)
	if err != nil {
		return out, err
	}
	size := scale(in, with, right, phase)
	if size == 0 {
		return out, fmt.Errorf("too few joints are placed to know how large the athlete is in the picture")
	}
	out.Frames = phase.pictures(in, most)
	for _, n := range out.Frames {
		a, b := phase.at(n)
		from, to := seen(with, a, right), seen(without, b, right)
		own := possible(bodyAt(in, n), with, size)
		out.add(own, moved(own, from, to, (1-by)*size, size))
	}
	out.look(in.Clip.Width, in.Clip.Height)
	return out, nil
}

// bodyAt are the landmarks that are placed in a frame, px.
func bodyAt(in evaluate.Input, n int) map[string][2]float64 {
	own := map[string][2]float64{}
	for _, id := range body.Landmarks() {
		if p, ok := placed(in, id, n); ok {
			own[id] = p
		}
	}
	return own
}

// add appends one picture.
func (g *Ghost) add(own, want map[string][2]float64) {
	put := func(to map[string][]float64, id string, at map[string][2]float64) {
		p, ok := at[id]
		if !ok {
			p = [2]float64{-1, -1}
		}
		to[id] = append(to[id], math.Round(10*p[0])/10, math.Round(10*p[1])/10)
	}
	for _, id := range body.Landmarks() {
		put(g.Own, id, own)
		put(g.Points, id, want)
	}
}

// look finds the picture that shows the change most, and the part of each in which the athlete is large.
func (g *Ghost) look(width, height int) {
	type box struct{ x0, y0, x1, y1 float64 }
	boxes := make([]box, len(g.Frames))
	far, tall := -1.0, 0.0
	for k := range g.Frames {
		b := box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
		sum := 0.0
		for _, id := range body.Landmarks() {
			p, q := g.Own[id][2*k:2*k+2], g.Points[id][2*k:2*k+2]
			for _, at := range [][]float64{p, q} {
				if at[0] >= 0 {
					b = box{min(b.x0, at[0]), min(b.y0, at[1]), max(b.x1, at[0]), max(b.y1, at[1])}
				}
			}
			if p[0] >= 0 && q[0] >= 0 {
				sum += math.Hypot(q[0]-p[0], q[1]-p[1])
			}
		}
		if sum > far {
			far, g.Most = sum, k
		}
		boxes[k], tall = b, max(tall, b.x1-b.x0, b.y1-b.y0)
	}
	// One size for all pictures, of the clip's shape and never larger than it.
	h := min(1.6*tall, float64(height))
	w := min(h*float64(width)/float64(height), float64(width))
	for _, b := range boxes {
		x := min(max((b.x0+b.x1-w)/2, 0), float64(width)-w)
		y := min(max((b.y0+b.y1-h)/2, 0), float64(height)-h)
		g.Around = append(g.Around, [4]float64{math.Round(x), math.Round(y), math.Round(w), math.Round(h)})
	}
}

// across is the direction in the world that points to the right of the picture.
func across(c evaluate.ClipInfo) ([3]float64, error) {
	switch c.View {
	case "side":
		if c.Direction < 0 {
			return [3]float64{-1, 0, 0}, nil
		}
		return [3]float64{1, 0, 0}, nil
	case "back":
		return [3]float64{0, 0, 1}, nil
	case "front":
		return [3]float64{0, 0, -1}, nil
	}
	return [3]float64{}, fmt.Errorf("what should be is drawn in clips from the side, from behind and from the front; this one is from %s", c.View)
}

// rate is that of the simulated movements, pictures a second.
const rate = 240

// specOf is the simulated athlete of the same body, and the dial of the fault.
func specOf(m model.Model, in evaluate.Input, fault string) (simcam.Spec, move.Dial, error) {
	e, err := move.Find(m.ID)
	if err != nil {
		return simcam.Spec{}, move.Dial{}, err
	}
	a := in.Athlete
	if a.Height == 0 {
		a.Height = 1.75
	}
	s := simcam.Spec{Event: e.ID, Athlete: a, Hand: a.ThrowingHand, Leg: a.TakeoffLeg, Direction: 1, CaptureRate: rate, FileRate: rate, Width: 1280, Height: 720, Faults: map[string]float64{}}
	if s.Hand == "" {
		s.Hand = body.Right
	}
	if s.Leg == "" {
		s.Leg = body.Left
	}
	variants := []string{in.Variant}
	for _, v := range e.Variants {
		variants = append(variants, v.ID)
	}
	for _, v := range variants {
		if !slices.ContainsFunc(e.Variants, func(x move.Variant) bool { return x.ID == v }) {
			continue
		}
		for _, d := range e.Faults {
			if len(d.Variants) > 0 && !slices.Contains(d.Variants, v) {
				continue
			}
			s.Variant = v
			if id, ok := points.FaultOf(e.ID, v, d.Name, s.Mirrored()); ok && id == fault {
				return s, d, nil
			}
		}
	}
	return s, move.Dial{}, fmt.Errorf("nobody can draw this fault yet")
}

func dialled(s simcam.Spec, d move.Dial, share float64) simcam.Spec {
	s.Faults = map[string]float64{d.Name: min(max(d.Clean+share*(d.Shown-d.Clean), d.Min), d.Max)}
	return s
}

func scene(s simcam.Spec, d move.Dial, share float64) (simcam.Truth, error) {
	sc, err := simcam.New(dialled(s, d, share))
	if err != nil {
		return simcam.Truth{}, err
	}
	return sc.Truth, nil
}

// measured is the size of a fault by the reading that its cue is checked by; plainly there where nothing
// was read.
func measured(m model.Model, s simcam.Spec, d move.Dial, f model.Fault, rep report.Report) (float64, string, error) {
	i := slices.IndexFunc(rep.Readings, func(r report.Reading) bool { return r.ID == f.Target })
	if i < 0 || rep.Readings[i].Value == nil {
		return 1, "Its size was not measured; it is drawn as it plainly shows.", nil
	}
	want := rep.Readings[i].Value.Value
	var last, at float64
	for k, share := range []float64{0, 0.5, 1, 1.5} {
		sm, in, err := points.ByEye(dialled(s, d, share))
		if err != nil {
			return 0, "", err
		}
		r := evaluate.Attempt(sm, in)
		j := slices.IndexFunc(r.Readings, func(r report.Reading) bool { return r.ID == f.Target })
		if j < 0 || r.Readings[j].Value == nil {
			return 1, "Its size cannot be compared; it is drawn as it plainly shows.", nil
		}
		v := r.Readings[j].Value.Value
		if k > 0 && v != last && (want-last)*(want-v) <= 0 {
			return at + (share-at)*(want-last)/(v-last), "", nil
		}
		last, at = v, share
		if k == 3 {
			break
		}
	}
	return 1, "What was measured lies outside what can be drawn; it is drawn as it plainly shows.", nil
}

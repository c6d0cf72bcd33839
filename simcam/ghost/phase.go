package ghost

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam"
)

// phases bring frames of a clip together with those of two simulated movements.
type phases struct {
	first, last int
	own, a, b   []float64 // frames of key positions
	perFrame    float64   // simulated frames to one of the clip
}

// around is how much is drawn before the first and after the last key position, s.
const around = 0.25

// longest is how much is drawn, s.
const longest = 5.0

// alignment finds the key positions that all three have.
func alignment(rep report.Report, in evaluate.Input, a, b simcam.Truth) (phases, error) {
	if in.Clip.CaptureRate <= 0 {
		return phases{}, fmt.Errorf("how many pictures a second were taken is not known")
	}
	type key struct{ own, a, b int }
	var list []key
	for _, p := range rep.Positions {
		x, okA := a.Positions[p.ID]
		y, okB := b.Positions[p.ID]
		if p.Frame != nil && *p.Frame >= 0 && okA && okB {
			list = append(list, key{*p.Frame, x, y})
		}
	}
	slices.SortFunc(list, func(x, y key) int { return x.own - y.own })
	var p phases
	for _, k := range list {
		if n := len(p.own); n > 0 && (float64(k.own) <= p.own[n-1] || float64(k.a) <= p.a[n-1] || float64(k.b) <= p.b[n-1]) {
			continue
		}
		p.own, p.a, p.b = append(p.own, float64(k.own)), append(p.a, float64(k.a)), append(p.b, float64(k.b))
	}
	if len(p.own) < 2 {
		return p, fmt.Errorf("two key positions or more are needed to bring the drawing into phase")
	}
	p.perFrame = rate / in.Clip.CaptureRate
	more := int(around * in.Clip.CaptureRate)
	p.first = max(0, int(p.own[0])-more)
	p.last = min(len(in.Clip.Stamps)-1, int(p.own[len(p.own)-1])+more, p.first+int(longest*in.Clip.CaptureRate))
	return p, nil
}

// pictures are up to so many frames in which hips and knees are placed, spread over what is drawn, key
// positions always among them.
func (p phases) pictures(in evaluate.Input, most int) []int {
	var all []int
	key := map[int]bool{}
	for _, n := range p.own {
		key[int(n)] = true
	}
	for n := p.first; n <= p.last; n++ {
		_, left := placed(in, "left_hip", n)
		_, right := placed(in, "right_hip", n)
		_, kneeL := placed(in, "left_knee", n)
		_, kneeR := placed(in, "right_knee", n)
		if (left || right) && (kneeL || kneeR) {
			all = append(all, n)
		}
	}
	each := max(1, (len(all)+most-1)/most)
	var out []int
	for i, n := range all {
		if i%each == 0 || key[n] {
			out = append(out, n)
		}
	}
	return out
}

// at are the frames of both movements that are in phase with one of the clip.
func (p phases) at(n int) (a, b float64) {
	x := float64(n)
	last := len(p.own) - 1
	switch {
	case x <= p.own[0]:
		d := (x - p.own[0]) * p.perFrame
		return p.a[0] + d, p.b[0] + d
	case x >= p.own[last]:
		d := (x - p.own[last]) * p.perFrame
		return p.a[last] + d, p.b[last] + d
	}
	k := 1
	for p.own[k] < x {
		k++
	}
	u := (x - p.own[k-1]) / (p.own[k] - p.own[k-1])
	return p.a[k-1] + u*(p.a[k]-p.a[k-1]), p.b[k-1] + u*(p.b[k]-p.b[k-1])
}

// seen are the landmarks of a simulated movement in the plane of the picture, m: to the right of the middle
// of the hips, and down from the ground.
func seen(t simcam.Truth, frame float64, right [3]float64) map[string][2]float64 {
	frame = math.Min(math.Max(frame, 0), float64(len(t.Frames)-1))
	i := min(int(frame), len(t.Frames)-2)
	u := frame - float64(i)
	out := map[string][2]float64{}
	var middle float64
	for _, id := range body.Landmarks() {
		v, w := t.Frames[i].Landmarks[id].World, t.Frames[i+1].Landmarks[id].World
		var p [3]float64
		for k := range p {
			p[k] = v[k] + u*(w[k]-v[k])
		}
		out[id] = [2]float64{p[0]*right[0] + p[2]*right[2], -p[1]}
		if id == "left_hip" || id == "right_hip" {
			middle += out[id][0] / 2
		}
	}
	for id, p := range out {
		out[id] = [2]float64{p[0] - middle, p[1]}
	}
	return out
}

// placed is where a landmark was placed or drafted.
func placed(in evaluate.Input, id string, n int) ([2]float64, bool) {
	p, ok := in.Points.At(id, n)
	return [2]float64{p.X, p.Y}, ok
}

// chain are the limbs from the middle of the body outward, each from a landmark to the next; where no wrist
// is placed the hand follows the elbow.
var chain = [][2]string{{"shoulder", "ear"}, {"hip", "knee"}, {"knee", "ankle"}, {"ankle", "heel"}, {"ankle", "toe"}, {"shoulder", "elbow"}, {"elbow", "wrist"}, {"wrist", "hand"}, {"elbow", "hand"}}

// sides are both.
var sides = []string{"left_", "right_"}

// scale is how many px are a metre: the limbs of the clip against those of the movement, in phase, over all
// that is drawn.
func scale(in evaluate.Input, t simcam.Truth, right [3]float64, p phases) float64 {
	var px, m float64
	for _, n := range p.pictures(in, most) {
		a, _ := p.at(n)
		at := seen(t, a, right)
		for _, side := range sides {
			for _, l := range [][2]string{{"shoulder", "hip"}, {"hip", "knee"}, {"knee", "ankle"}} {
				p, okP := placed(in, side+l[0], n)
				q, okQ := placed(in, side+l[1], n)
				if !okP || !okQ {
					continue
				}
				px += math.Hypot(q[0]-p[0], q[1]-p[1])
				m += math.Hypot(at[side+l[1]][0]-at[side+l[0]][0], at[side+l[1]][1]-at[side+l[0]][1])
			}
		}
	}
	if m < 0.5 {
		return 0
	}
	return px / m
}

// tooLong is how much longer than it is a limb may be placed.
const tooLong = 1.3

// possible leaves out what ends a limb that is placed longer than the simulated one is: somebody else's
// hand, or a guess of the network's.
func possible(own map[string][2]float64, t simcam.Truth, size float64) map[string][2]float64 {
	out := maps.Clone(own)
	at := t.Frames[len(t.Frames)/2].Landmarks
	for _, side := range sides {
		for _, l := range chain {
			a, b := side+l[0], side+l[1]
			p, okP := out[a]
			q, okQ := out[b]
			if !okP || !okQ {
				continue
			}
			var long float64
			for k, v := range at[a].World {
				long = math.Hypot(long, at[b].World[k]-v)
			}
			if math.Hypot(q[0]-p[0], q[1]-p[1]) > tooLong*long*size {
				delete(out, b)
			}
		}
	}
	return out
}

// moved lays the difference between two simulated bodies on places that were measured: hips and shoulders
// move by it, and every limb turns and keeps its length as far as the difference leaves it in the picture.
func moved(own map[string][2]float64, from, to map[string][2]float64, k, size float64) map[string][2]float64 {
	out := map[string][2]float64{}
	shift := func(id string) {
		if p, ok := own[id]; ok {
			out[id] = [2]float64{p[0] + k*(to[id][0]-from[id][0]), p[1] + k*(to[id][1]-from[id][1])}
		}
	}
	for _, side := range sides {
		for _, part := range []string{"hip", "shoulder"} {
			shift(side + part)
		}
		for _, l := range chain {
			a, b := side+l[0], side+l[1]
			p, okA := own[a]
			q, okB := own[b]
			at, ok := out[a]
			if _, done := out[b]; !okA || !okB || !ok || done {
				continue
			}
			v := [2]float64{q[0] - p[0], q[1] - p[1]}
			w := [2]float64{v[0] + k*((to[b][0]-to[a][0])-(from[b][0]-from[a][0])), v[1] + k*((to[b][1]-to[a][1])-(from[b][1]-from[a][1]))}
			// As long as measured, by what the simulated limb grows or shortens in the picture.
			f := math.Hypot(from[b][0]-from[a][0], from[b][1]-from[a][1])
			g := f + (k/size)*(math.Hypot(to[b][0]-to[a][0], to[b][1]-to[a][1])-f)
			long := math.Hypot(v[0], v[1])
			if f > 0.02 {
				long *= math.Max(0.3, g/f)
			}
			if n := math.Hypot(w[0], w[1]); n > 1e-9 {
				w[0], w[1] = w[0]*long/n, w[1]*long/n
			}
			out[b] = [2]float64{at[0] + w[0], at[1] + w[1]}
		}
	}
	return out
}

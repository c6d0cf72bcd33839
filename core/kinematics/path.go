// Package kinematics turns the points of a clip into smooth paths in one frame
// of reference, with velocities, and into the curves that a coach reads.
package kinematics

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/signal"
	"neokinema/core/timebase"
	"neokinema/core/track"
)

// Gap rules, seconds: up to bridge a gap is closed for smoothing; a longer one
// ends the path, which begins anew behind it.
const bridge = 0.1

// shortest is how many frames in a row make a path; fewer are single points.
// Assumed: the filter needs as many.
const shortest = 12

// Least confidence with which a computed point takes part in a path. Assumed.
const leastConfidence = 0.15

// Path is one landmark in (forward, up) pixels of the common frame of
// reference: as placed, and smoothed where enough frames follow each other.
type Path struct {
	From   int
	Raw    []r2.Vec // NaN where there is no point
	At     []r2.Vec // smoothed; NaN outside paths
	V      []r2.Vec // px/s; NaN outside paths
	Noise  float64  // scatter of the points about the smooth path, px, one coordinate
	Cutoff float64  // of the low pass, 1/s
}

var nowhere = r2.Vec{X: math.NaN(), Y: math.NaN()}

func known(v r2.Vec) bool { return !math.IsNaN(v.X) }

// End is the frame after the last.
func (p *Path) End() int { return p.From + max(len(p.At), len(p.Raw)) }

func pick(list []r2.Vec, i int) (r2.Vec, bool) {
	if i < 0 || i >= len(list) || !known(list[i]) {
		return nowhere, false
	}
	return list[i], true
}

// Where is the smoothed place at a frame, false outside a path.
func (p *Path) Where(frame int) (r2.Vec, bool) {
	if p == nil {
		return nowhere, false
	}
	return pick(p.At, frame-p.From)
}

// Seen is the place at a frame as placed, false when there is no point.
func (p *Path) Seen(frame int) (r2.Vec, bool) {
	if p == nil {
		return nowhere, false
	}
	return pick(p.Raw, frame-p.From)
}

// Velocity is the smoothed velocity at a frame, px/s, false outside a path.
func (p *Path) Velocity(frame int) (r2.Vec, bool) {
	if p == nil {
		return nowhere, false
	}
	return pick(p.V, frame-p.From)
}

// Only is a path at some frames alone, numbered anew.
func (p *Path) Only(frames []int) *Path {
	if p == nil || frames == nil {
		return p
	}
	out := &Path{Noise: p.Noise, Cutoff: p.Cutoff}
	for _, f := range frames {
		at, _ := p.Where(f)
		v, _ := p.Velocity(f)
		raw, _ := p.Seen(f)
		out.At, out.V, out.Raw = append(out.At, at), append(out.V, v), append(out.Raw, raw)
	}
	return out
}

// between is a path of some frames alone, brought back to all frames of its clip.
func (p *Path) between(frames []int) Path {
	first, last := frames[0], frames[len(frames)-1]
	n := last - first + 1
	out := Path{From: first, Raw: make([]r2.Vec, n), At: make([]r2.Vec, n), V: make([]r2.Vec, n), Noise: p.Noise, Cutoff: p.Cutoff}
	for i := range n {
		out.Raw[i], out.At[i], out.V[i] = nowhere, nowhere, nowhere
	}
	for a := 0; a < len(frames); a++ {
		raw, _ := p.Seen(a)
		out.Raw[frames[a]-first] = raw
		var at, x, y, vx, vy []float64
		for i := a; i < len(frames); i++ {
			q, ok := p.Where(i)
			if !ok {
				break
			}
			v, _ := p.Velocity(i)
			at, x, y, vx, vy = append(at, float64(frames[i])), append(x, q.X), append(y, q.Y), append(vx, v.X), append(vy, v.Y)
		}
		if len(at) < 2 {
			continue
		}
		curves := []signal.Monotone{signal.NewMonotone(at, x), signal.NewMonotone(at, y), signal.NewMonotone(at, vx), signal.NewMonotone(at, vy)}
		for f := int(at[0]); f <= int(at[len(at)-1]); f++ {
			t := float64(f)
			out.At[f-first], out.V[f-first] = r2.Vec{X: curves[0].At(t), Y: curves[1].At(t)}, r2.Vec{X: curves[2].At(t), Y: curves[3].At(t)}
		}
		for end := a + len(at); a+1 < end; a++ {
			raw, _ := p.Seen(a + 1)
			out.Raw[frames[a+1]-first] = raw
		}
	}
	return out
}

// Smooth makes the path of a track. Still brings a point of a frame into the common frame
// of reference; rate is frames per true second. Of a clip that shows pictures more than
// once the pictures are smoothed, and what lies between them follows.
func Smooth(t *track.Track, rate float64, shows timebase.Pictures, still func(frame int, p r2.Vec) r2.Vec) Path {
	frames := shows.Frames()
	if len(frames) < 2 {
		return smooth(t, rate, still)
	}
	p := smooth(t.Only(frames), shows.Rate(rate), func(i int, q r2.Vec) r2.Vec { return still(frames[i], q) })
	return p.between(frames)
}

func smooth(t *track.Track, rate float64, still func(frame int, p r2.Vec) r2.Vec) Path {
	n := t.Len()
	p := Path{From: t.From, Raw: make([]r2.Vec, n), At: make([]r2.Vec, n), V: make([]r2.Vec, n)}
	use := make([]bool, n)
	for i := range n {
		p.Raw[i], p.At[i], p.V[i] = nowhere, nowhere, nowhere
		f := t.From + i
		if s := t.SourceAt(f); s != track.None {
			p.Raw[i] = still(f, r2.Vec{X: float64(t.X[i]), Y: float64(t.Y[i])})
			use[i] = s == track.Hand || float64(t.Confidence[i])/100 >= leastConfidence
		}
	}
	hole := int(bridge * rate)
	var noise, weight float64
	for a := 0; a < n; a++ {
		if !use[a] {
			continue
		}
		b, seen := a, 0 // last used frame of the stretch
		for i := a; i < n && i-b <= hole+1; i++ {
			if use[i] {
				b, seen = i, seen+1
			}
		}
		if seen >= shortest && seen*5 >= b-a+1 {
			w := float64(b - a + 1)
			noise += w * math.Pow(p.stretch(a, b, use, rate), 2)
			weight += w
		}
		a = b
	}
	if weight > 0 {
		p.Noise = math.Sqrt(noise / weight)
	}
	return p
}

// stretch smooths frames a to b and gives their noise.
func (p *Path) stretch(a, b int, use []bool, rate float64) float64 {
	n := b - a + 1
	x, y := make([]float64, n), make([]float64, n)
	var fs, xs, ys []float64
	for i := range n {
		if use[a+i] {
			fs, xs, ys = append(fs, float64(i)), append(xs, p.Raw[a+i].X), append(ys, p.Raw[a+i].Y)
		}
	}
	if len(fs) == n {
		copy(x, xs)
		copy(y, ys)
	} else {
		px, py := signal.NewMonotone(fs, xs), signal.NewMonotone(fs, ys)
		for i := range n {
			x[i], y[i] = px.At(float64(i)), py.At(float64(i))
		}
	}
	cut, noise := signal.Cutoff(rate, x, y)
	p.Cutoff = math.Max(p.Cutoff, cut)
	sx, sy, err := signal.LowPass(x, y, rate, cut)
	if err != nil {
		sx, sy = x, y // too slow a camera to smooth anything
	}
	vx, vy := signal.Derivative(sx, rate), signal.Derivative(sy, rate)
	for i := range n {
		p.At[a+i], p.V[a+i] = r2.Vec{X: sx[i], Y: sy[i]}, r2.Vec{X: vx[i], Y: vy[i]}
	}
	return noise
}

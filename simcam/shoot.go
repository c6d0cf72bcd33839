package simcam

import (
	"encoding/binary"
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam/figure"
	"neokinema/simcam/film"
)

// aim places the camera and chooses the focal length that shows the action.
func (sc *Scene) aim(s Spec) func(t float64) film.Lens {
	m := sc.Motion
	heading := places[s.Camera.Place] + s.Camera.Turned
	if s.Direction < 0 {
		heading = -heading
	}
	const step = 0.02
	var points []r3.Vec
	lo, hi := r3.Vec{X: 1e9, Y: 0, Z: 1e9}, r3.Vec{X: -1e9, Y: -1e9, Z: -1e9}
	from, to := m.First+s.Camera.Late, m.Last-s.Camera.Early
	for t := from; t <= to; t += step {
		st := m.At(t)
		b := sc.body(st.Body)
		all := b[:]
		if c, ok := st.Implement["centre"]; ok && (math.IsNaN(m.Release) || t < m.Release) {
			all = append(all, sc.turned(c))
		}
		for _, p := range all {
			points = append(points, p)
			lo = r3.Vec{X: math.Min(lo.X, p.X), Y: math.Min(lo.Y, p.Y), Z: math.Min(lo.Z, p.Z)}
			hi = r3.Vec{X: math.Max(hi.X, p.X), Y: math.Max(hi.Y, p.Y), Z: math.Max(hi.Z, p.Z)}
		}
	}
	middle := figure.Between(lo, hi, 0.5)
	if m.Props.Circle > 0 {
		middle.X, middle.Z = 0.2, 0
	}
	distance := s.Camera.Distance
	if distance == 0 {
		distance = m.Props.Stand()
	}
	at := r3.Add(r3.Vec{X: middle.X, Y: s.Camera.Above, Z: middle.Z}, r3.Scale(distance, figure.Along(heading)))
	lens := film.Lens{At: at, Target: middle, Focal: 1000, K1: s.Camera.Distortion, Width: s.Width, Height: s.Height}
	tracks := sc.follow(from, to)
	if s.Camera.Pan {
		// As large as fits around the athlete at every moment.
		var need float64
		for t := from; t <= to; t += 5 * step {
			l := lens
			l.Target = tracks(t)
			st := m.At(t)
			b := sc.body(st.Body)
			for _, p := range b {
				px, _ := l.Project(p)
				need = math.Max(need, math.Max(math.Abs(px.X-float64(s.Width)/2)/(0.30*float64(s.Width)), math.Abs(px.Y-float64(s.Height)/2)/(0.40*float64(s.Height))))
			}
		}
		lens.Focal = 1000 / need
	} else {
		for range 3 {
			var u0, v0, u1, v1 = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
			for _, p := range points {
				px, _ := lens.Project(p)
				u0, u1, v0, v1 = math.Min(u0, px.X), math.Max(u1, px.X), math.Min(v0, px.Y), math.Max(v1, px.Y)
			}
			// Look at the middle of what is to be seen, with room around it.
			du, dv := (u0+u1)/2-float64(s.Width)/2, (v0+v1)/2-float64(s.Height)/2
			k := math.Min(0.86*float64(s.Width)/(u1-u0), 0.80*float64(s.Height)/(v1-v0))
			right := r3.Unit(r3.Cross(r3.Sub(lens.Target, lens.At), r3.Vec{Y: 1}))
			far := r3.Norm(r3.Sub(lens.Target, lens.At))
			lens.Target = r3.Add(lens.Target, figure.Sum(du/lens.Focal*far, right, -dv/lens.Focal*far, figure.Up, 0, right))
			lens.Focal *= k
		}
	}
	lens.Focal *= s.Camera.Zoom
	shake := tremor(s.Camera.Shake, s.Seed)
	return func(t float64) film.Lens {
		l := lens
		if s.Camera.Pan {
			l.Target = tracks(t)
		}
		if s.Camera.Shake > 0 {
			du, dv, roll := shake(t)
			far := r3.Norm(r3.Sub(l.Target, l.At)) / l.Focal
			right := r3.Unit(r3.Cross(r3.Sub(l.Target, l.At), r3.Vec{Y: 1}))
			l.Target = r3.Add(l.Target, figure.Sum(du*far, right, dv*far, figure.Up, 0, right))
			l.Roll = roll
		}
		return l
	}
}

// follow is where somebody who pans looks: at the hips, smoothly and a little
// late.
func (sc *Scene) follow(from, to float64) func(t float64) r3.Vec {
	const step, lag = 0.02, 0.05
	n := int((to-from)/step) + 2
	raw := make([]r3.Vec, n)
	for i := range raw {
		st := sc.Motion.At(from + float64(i)*step - lag)
		raw[i] = sc.turned(figure.Between(st.Body.Mid(figure.Hip), st.Body.Mid(figure.Shoulder), 0.3))
	}
	const half = 8
	smooth := make([]r3.Vec, n)
	for i := range smooth {
		var w float64
		for j := -half; j <= half; j++ {
			k := 1 + math.Cos(math.Pi*float64(j)/(half+1))
			w += k
			smooth[i] = r3.Add(smooth[i], r3.Scale(k, raw[min(n-1, max(0, i+j))]))
		}
		smooth[i] = r3.Scale(1/w, smooth[i])
	}
	return func(t float64) r3.Vec {
		x := math.Min(float64(n-1)-1e-9, math.Max(0, (t-from)/step))
		i := int(x)
		return figure.Between(smooth[i], smooth[i+1], x-float64(i))
	}
}

// tremor is a hand's shake: slow sway and faster trembling.
func tremor(px float64, seed uint64) func(t float64) (u, v, roll float64) {
	r := rand.New(rand.NewPCG(seed, 7))
	type wave struct{ f, p, a float64 }
	var waves [3][]wave
	for i := range waves {
		for _, f := range [4]float64{0.7, 1.6, 3.9, 8.1} {
			waves[i] = append(waves[i], wave{f * (0.85 + 0.3*r.Float64()), 2 * math.Pi * r.Float64(), 0.8 / math.Sqrt(f+0.3)})
		}
	}
	sum := func(ws []wave, t float64) float64 {
		var s float64
		for _, w := range ws {
			s += w.a * math.Sin(2*math.Pi*w.f*t+w.p)
		}
		return s
	}
	return func(t float64) (float64, float64, float64) {
		return px * sum(waves[0], t), px * sum(waves[1], t), px * 0.0006 * sum(waves[2], t)
	}
}

// film is the take of the scene.
func (sc *Scene) film() *film.Film {
	s := sc.Truth.Spec
	st := stage(sc.Motion.Props, sc.mirror, sc.lens(sc.Motion.First).At)
	if s.Camera.Net || s.Camera.Post {
		st.Front = append(st.Front, sc.obstacles(s)...)
	}
	// The sun stands high behind the camera's shoulder, as a careful parent films.
	look := sc.lens(sc.Motion.First)
	behind := figure.Heading(r3.Sub(look.At, look.Target)) + 42
	return film.New(film.Take{
		Sun:   r3.Add(r3.Scale(0.62, figure.Along(behind)), r3.Vec{Y: 0.8}),
		Stage: st, Lens: sc.lens, Still: !s.Camera.Pan && s.Camera.Shake == 0, From: sc.when(0), To: sc.when(len(sc.Truth.Frames) - 1),
		Subject: func(t float64) []film.Cone {
			at := sc.Motion.At(t)
			b := sc.body(at.Body)
			cones := sc.person.cones(&b)
			if sc.others != nil {
				more, _ := sc.others(t)
				cones = append(cones, more...)
			}
			if len(at.Implement) > 0 {
				im := map[string]r3.Vec{}
				for id, v := range at.Implement {
					im[id] = sc.turned(v)
				}
				cones = append(cones, implementCones(sc.Motion.Thrown, im)...)
			}
			return cones
		},
		Expose: s.Camera.Exposure, Samples: sc.samples(s), Noise: s.Camera.Noise, Dim: s.Camera.Dim, Seed: sc.seed,
	})
}

// samples is how many pictures make up an exposure: enough that a fast hand
// leaves a streak and not a row of hands.
func (sc *Scene) samples(s Spec) int {
	pxPerMetre := sc.Truth.Focal / math.Max(3, sc.Motion.Props.Stand())
	const fast = 14.0 // m/s, of hands and feet
	return min(14, max(4, int(fast*s.Camera.Exposure*pxPerMetre/5)+3))
}

// obstacles stand between camera and athlete: a net, a post.
func (sc *Scene) obstacles(s Spec) []film.Face {
	l := sc.lens(sc.Motion.First)
	to := r3.Unit(r3.Sub(r3.Vec{X: l.Target.X, Y: l.At.Y, Z: l.Target.Z}, l.At))
	right := r3.Cross(to, r3.Vec{Y: 1})
	wall := func(near, from, wide float64) [4]r3.Vec {
		c := r3.Add(l.At, figure.Sum(near, to, from, right, 0, to))
		c.Y = -0.2
		d := r3.Add(c, r3.Scale(wide, right))
		return [4]r3.Vec{c, d, {X: d.X, Y: 6, Z: d.Z}, {X: c.X, Y: 6, Z: c.Z}}
	}
	var out []film.Face
	if s.Camera.Net {
		out = append(out, film.Face{Corners: wall(3, -4, 8), Color: film.Color{R: 40, G: 46, B: 44}, Weave: 0.045})
	}
	if s.Camera.Post {
		out = append(out, film.Face{Corners: wall(2.9, 0.32, 0.075), Color: film.Color{R: 84, G: 92, B: 88}})
	}
	return out
}

// bang is a sudden noise: when, s of the file, and how loud, 0 to 1.
type bang struct{ at, loud float64 }

// airSpeed is the speed of sound, m/s at 20 degrees.
const airSpeed = 343.0

// Bangs are what a microphone in the camera hears of a clip, in seconds of the file:
// slow motion stretches sound with the pictures.
func (sc *Scene) bangs() (out []bang) {
	s := sc.Truth.Spec
	slow := s.CaptureRate / s.FileRate
	if gun, ok := sc.Motion.Times["gun"]; ok {
		out = append(out, bang{(gun - sc.Motion.First - s.Camera.Late) * slow, 1})
	}
	if !s.Camera.Sound {
		return out
	}
	far := r3.Norm(r3.Sub(sc.lens(sc.when(0)).At, r3.Vec{Y: 1})) / airSpeed
	add := func(t, loud float64) {
		out = append(out, bang{(t - sc.Motion.First - sc.Truth.Start + far) * slow, loud})
	}
	// Steps that the motion makes, whether this clip shows them or not.
	const look = 1.0 / 480
	var was [2]bool
	for t, first := sc.Motion.First, true; t < sc.Motion.Last; t, first = t+look, false {
		for side, down := range sc.Motion.At(t).Down {
			if down && !was[side] && !first {
				add(t, 0.35+0.1*float64(side))
			}
			was[side] = down
		}
	}
	if !math.IsNaN(sc.Motion.Release) {
		add(sc.Motion.Release, 0.7)
	}
	return out
}

// Sound is a WAV file of what the camera hears; nil when it hears nothing.
func (sc *Scene) Sound() []byte {
	list := sc.bangs()
	if len(list) == 0 {
		return nil
	}
	return wav(list, float64(len(sc.Truth.Frames))/sc.Truth.Spec.FileRate, sc.seed)
}

// wav is a WAV file of so many seconds with bangs in a quiet hiss.
func wav(list []bang, length float64, seed uint64) []byte {
	const rate = 22050
	n := int(length * rate)
	out := make([]byte, 0, 44+2*n)
	out = append(out, "RIFF"...)
	out = binary.LittleEndian.AppendUint32(out, uint32(36+2*n))
	out = append(out, "WAVEfmt "...)
	out = binary.LittleEndian.AppendUint32(out, 16)
	out = binary.LittleEndian.AppendUint16(out, 1)
	out = binary.LittleEndian.AppendUint16(out, 1)
	out = binary.LittleEndian.AppendUint32(out, rate)
	out = binary.LittleEndian.AppendUint32(out, 2*rate)
	out = binary.LittleEndian.AppendUint16(out, 2)
	out = binary.LittleEndian.AppendUint16(out, 16)
	out = append(out, "data"...)
	out = binary.LittleEndian.AppendUint32(out, uint32(2*n))
	r := rand.New(rand.NewPCG(seed, 2))
	for i := range n {
		v := 0.01 * r.NormFloat64()
		for _, b := range list {
			if t := float64(i)/rate - b.at; t >= 0 && t < 0.5 {
				v += b.loud * math.Exp(-t/0.06) * r.NormFloat64() * 0.32
			}
		}
		out = binary.LittleEndian.AppendUint16(out, uint16(int16(32000*math.Max(-1, math.Min(1, v)))))
	}
	return out
}

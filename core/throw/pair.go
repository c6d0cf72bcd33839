package throw

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/signal"
	"neokinema/core/vec3"
)

// Pair is one attempt seen by two cameras that both see the marked circle.
type Pair struct {
	A, B Clip
	// Start is about when frame 0 of A was, on the clock of B, s: from an event that
	// both show, or from sound.
	Start float64
}

// StereoReconstruction is what two cameras tell together.
type StereoReconstruction struct {
	Orbit  *Reconstruction // at the frames of A
	Offset float64         // s: when frame 0 of A was on the clock of B
	Apart  float64         // root mean square of how far the lines of sight miss each other, m
	pair   Pair
}

// Errors of [Pair.New].
var (
	ErrOther  = errors.New("the two clips do not fit together: they show different attempts, or one circle is marked wrongly")
	ErrAlong  = errors.New("both cameras look along the same line; it takes two sides, such as back and side")
	ErrShared = errors.New("the two clips share too few frames with the same points")
)

// Limits of a pair: how far the start may be off, s; how far lines of sight may miss
// each other on the whole and at once, m (6 mm for the same simulated attempt, 80 to
// 120 for another); the least angle between them.
const (
	searchSpan  = 0.06
	widestMiss  = 0.05
	blunderMiss = 0.3
	leastAngle  = 25 * math.Pi / 180
)

// joints that are used to bring two clips to the same moment.
var shared = []string{"ball", "mid_shoulder", "mid_hip"}

// sightline of a landmark in a clip at a time (frames, with fractions).
func (c *Clip) sightline(id string, at float64) (vec3.Vec, bool) {
	one := func(f int) (r2.Vec, bool) {
		if id == "ball" {
			q, _, ok := c.pixel(id, f)
			return q, ok
		}
		q, ok := c.Movement.Where(id, f)
		return c.Movement.View.Picture(q), ok
	}
	f := int(math.Floor(at))
	u := at - float64(f)
	a, okA := one(f)
	if u < 1e-9 {
		return c.Camera.Ray(a), okA
	}
	b, okB := one(f + 1)
	if !okA || !okB {
		return vec3.Vec{}, false
	}
	// A turning ball does not go straight from frame to frame; its neighbours tell
	// how it bends.
	q := r2.Add(r2.Scale(1-u, a), r2.Scale(u, b))
	p, okP := one(f - 1)
	n, okN := one(f + 2)
	if okP && okN {
		bend := r2.Scale(0.25, r2.Sub(r2.Add(p, n), r2.Add(a, b)))
		q = r2.Sub(q, r2.Scale(u*(1-u), bend))
	}
	return c.Camera.Ray(q), true
}

// meet is where two lines of sight come nearest, and by how much they miss.
func meet(a *camera.Camera, da vec3.Vec, b *camera.Camera, db vec3.Vec) (vec3.Vec, float64, bool) {
	w := vec3.Sub(a.At, b.At)
	k := vec3.Dot(da, db)
	den := 1 - k*k
	if den < math.Pow(math.Sin(leastAngle), 2)/4 {
		return nowhere, 0, false
	}
	s := (k*vec3.Dot(db, w) - vec3.Dot(da, w)) / den
	t := (vec3.Dot(db, w) - k*vec3.Dot(da, w)) / den
	p, q := vec3.Add(a.At, vec3.Scale(s, da)), vec3.Add(b.At, vec3.Scale(t, db))
	return vec3.Scale(0.5, vec3.Add(p, q)), vec3.Norm(vec3.Sub(p, q)), true
}

// apart is the middle of how far lines of sight miss each other at an offset, as
// root mean square of the better nine tenths.
func (p *Pair) apart(offset float64, every int) (float64, int) {
	var all []float64
	for f := 0; f < p.A.Frames; f += every {
		at := p.inB(f, offset)
		if at < 1 || at > float64(p.B.Frames-3) {
			continue
		}
		for _, id := range shared {
			da, okA := p.A.sightline(id, float64(f))
			db, okB := p.B.sightline(id, at)
			if !okA || !okB {
				continue
			}
			if _, miss, ok := meet(p.A.Camera, da, p.B.Camera, db); ok {
				all = append(all, miss)
			}
		}
	}
	if len(all) == 0 {
		return math.Inf(1), 0
	}
	limit := quantile(all, 0.9)
	var sum, n float64
	for _, v := range all {
		if v <= limit {
			sum, n = sum+v*v, n+1
		}
	}
	return math.Sqrt(sum / n), len(all)
}

// Sync finds when frame 0 of A was on the clock of B, to a part of a frame: where
// the lines of sight miss each other least.
func (p *Pair) Sync() (offset, miss float64, err error) {
	if math.Abs(vec3.Dot(p.A.Camera.Ahead, p.B.Camera.Ahead)) > math.Cos(leastAngle) {
		return 0, 0, ErrAlong
	}
	best, bestMiss := p.Start, math.Inf(1)
	step := 0.25 / math.Max(p.A.Movement.Rate, p.B.Movement.Rate)
	look := func(from, to, step float64, every int) {
		for o := from; o <= to; o += step {
			if m, n := p.apart(o, every); n > 60/every && m < bestMiss {
				best, bestMiss = o, m
			}
		}
	}
	look(p.Start-searchSpan, p.Start+searchSpan, 4*step, 4)
	if math.IsInf(bestMiss, 1) {
		return 0, 0, ErrShared
	}
	coarse := best
	bestMiss = math.Inf(1)
	look(coarse-4*step, coarse+4*step, step, 2)
	// A parabola through the best and its neighbours.
	l, _ := p.apart(best-step, 1)
	m, _ := p.apart(best, 1)
	r, _ := p.apart(best+step, 1)
	if d := l - 2*m + r; d > 0 {
		best += step * math.Max(-1, math.Min(1, (l-r)/(2*d)))
	}
	miss, _ = p.apart(best, 1)
	if miss > widestMiss {
		return best, miss, ErrOther
	}
	return best, miss, nil
}

// New reads a throw from both clips.
func (p Pair) New() (*StereoReconstruction, error) {
	offset, miss, err := p.Sync()
	if err != nil {
		return nil, err
	}
	a := p.A
	o := &Reconstruction{Rate: a.Movement.Rate, From: a.begins(), To: a.Frames, Why: map[string]error{}, hand: 1, kind: a.Kind, ahead: a.Camera.Ahead, stereo: true}
	if a.Left {
		o.hand = -1
	}
	if a.ReleaseFrame >= 0 {
		o.To = a.ReleaseFrame
	}
	at := map[string][]vec3.Vec{}
	for _, id := range []string{"ball", "left_shoulder", "right_shoulder", "left_hip", "right_hip", "left_ear", "right_ear", "left_toe", "right_toe", "left_heel", "right_heel"} {
		at[id] = p.place(id, offset)
	}
	between := func(x, y []vec3.Vec) []vec3.Vec {
		out := make([]vec3.Vec, len(x))
		for f := range out {
			out[f] = vec3.Scale(0.5, vec3.Add(x[f], y[f]))
		}
		return out
	}
	o.Neck, o.Pelvis = between(at["left_shoulder"], at["right_shoulder"]), between(at["left_hip"], at["right_hip"])
	o.Toes = [2][]vec3.Vec{at["left_toe"], at["right_toe"]}
	o.loosen(func(id string, f int, at vec3.Vec) float64 {
		return math.Hypot(a.loose(id, f, at), p.B.loose(id, int(p.inB(f, offset)), at)) / math.Sqrt2
	})
	// From the middle of the trunk, as seen from above the same as from the neck
	// when it stands upright, and right when it leans.
	trunk := between(o.Neck, o.Pelvis)
	px := a.Sigma / a.Camera.Scale(vec3.Vec{}) // m
	// ends is how far both ends of a line may be off, each in one direction, m.
	ends := func(ids ...string) func(f int) float64 {
		return func(f int) float64 {
			sd := px * math.Sqrt2
			for _, id := range ids {
				sd = math.Hypot(sd, o.loose[id][f])
			}
			return sd
		}
	}
	o.Ball, o.Why["ball"] = o.measured(trunk, at["ball"], o.From, o.To, ends())
	for _, l := range []struct {
		into     **SegmentTrack
		name     string
		from, to string
	}{
		{&o.Shoulders, "shoulders", "right_shoulder", "left_shoulder"}, {&o.Hips, "hips", "right_hip", "left_hip"}, {&o.Head, "head", "right_ear", "left_ear"},
		{&o.Feet[0], "left foot", "left_heel", "left_toe"}, {&o.Feet[1], "right foot", "right_heel", "right_toe"},
	} {
		*l.into, o.Why[l.name] = o.measured(at[l.from], at[l.to], o.From, a.Frames, ends(l.from, l.to))
	}
	o.trunk = trunk
	o.settle()
	return &StereoReconstruction{Orbit: o, Offset: offset, Apart: miss, pair: p}, nil
}

// measured is the line between two places that are known in the world; off is how far both of them
// together may be off in a frame, m.
func (o *Reconstruction) measured(from, to []vec3.Vec, first, end int, off func(f int) float64) (*SegmentTrack, error) {
	l := segment{hand: o.hand}
	d := &SegmentTrack{From: -1}
	for f := first; f < end; f++ {
		v := vec3.Sub(to[f], from[f])
		if math.IsNaN(v.X) {
			if d.From < 0 {
				continue
			}
			break // what follows a gap is not joined on
		}
		if d.From < 0 {
			d.From = f
		}
		az, el := l.angles(v)
		if n := len(d.Az); n > 0 {
			az = d.Az[n-1] + math.Remainder(az-d.Az[n-1], 2*math.Pi)
		}
		long := vec3.Norm(v)
		both := off(f)
		sd := both / math.Max(0.05, long*math.Cos(el))
		d.Az, d.El, d.Length, d.Seen = append(d.Az, az), append(d.El, el), append(d.Length, long), append(d.Seen, true)
		d.AzSD, d.ElSD, d.LenSD, d.RateSD = append(d.AzSD, sd), append(d.ElSD, sd), append(d.LenSD, both), append(d.RateSD, sd*o.Rate/4)
	}
	if len(d.Az) < leastLooks {
		return nil, ErrFewLooks
	}
	return d, nil
}

// lowPass smooths places stretch by stretch, each coordinate alike.
func lowPass(v []vec3.Vec, rate float64) []vec3.Vec {
	out := make([]vec3.Vec, len(v))
	for a := 0; a < len(v); a++ {
		out[a] = nowhere
		if !known(v[a]) {
			continue
		}
		b := a
		for b < len(v) && known(v[b]) {
			b++
		}
		x, y, z := make([]float64, b-a), make([]float64, b-a), make([]float64, b-a)
		for i := range x {
			x[i], y[i], z[i] = v[a+i].X, v[a+i].Y, v[a+i].Z
		}
		if len(x) >= leastLooks/2 {
			// x and z need the same cut-off, or circles become ellipses.
			cut, _ := signal.Cutoff(rate, x, z)
			if sx, sz, err := signal.LowPass(x, z, rate, cut); err == nil {
				if sy, _, err := signal.LowPass(y, y, rate, cut); err == nil {
					x, y, z = sx, sy, sz
				}
			}
		}
		for i := range x {
			out[a+i] = vec3.Vec{X: x[i], Y: y[i], Z: z[i]}
		}
		a = b - 1
	}
	return out
}

package throw

import (
	"errors"
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/linsolve"
	"neokinema/core/vec3"
)

// segment is something of nearly constant length that turns, seen by one camera: from
// the shoulders to the ball, from hip to hip, from heel to toe. One picture of it
// leaves two answers, one that points to the camera and one away from it; how it
// turns over time says which.
type segment struct {
	prior
	camera *camera.Camera
	rate   float64       // frames per true second
	hand   float64       // +1 for a right-hander, -1 for a left-hander: which way azimuths grow
	base   []vec3.Vec    // where it is held; NaN where that is not known
	ka, kb float64       // its ends are base + k times the line
	seen   []observation // from end b to end a
	expect []float64     // about where it points, rad; NaN without; nil for no idea
	held   int           // frames over which its length goes off its prior as one; 0: over all of them
}

// observation is one picture of a line, px.
type observation struct {
	d     r2.Vec
	sigma float64 // of each coordinate; 0 where nothing is seen
	worse float64 // how many times as large the scatter really is
}

// SegmentTrack is a line in the world, from frame From on: azimuth and elevation, rad,
// and length, m, with standard deviations. The azimuth is continuous.
type SegmentTrack struct {
	From                      int
	Az, El, Length            []float64
	AzSD, ElSD, LenSD, RateSD []float64 // the last of the azimuth's rate, rad/s
	Seen                      []bool
	Gap                       float64 // longest way without a look, rad
	Off                       float64 // root mean square of what the pictures are off, in scatters
}

// End is the frame after the last.
func (d *SegmentTrack) End() int { return d.From + len(d.Az) }

// Has tells whether a frame is covered.
func (d *SegmentTrack) Has(f int) bool { return d != nil && f >= d.From && f < d.End() }

// Errors of what one camera cannot tell.
var (
	ErrFewLooks = errors.New("there are too few frames with this point")
	ErrGap      = errors.New("the point is hidden for more than half a turn")
	ErrNoRound  = errors.New("it does not turn round, so its length and direction do not show to one camera")
)

// direction of an azimuth and elevation in the world, and its slopes.
func (l *segment) direction(az, el float64) (d, byAz, byEl vec3.Vec) {
	sa, ca := math.Sincos(az)
	se, ce := math.Sincos(el)
	d = vec3.Vec{X: -ca * ce, Y: se, Z: l.hand * sa * ce}
	byAz = vec3.Vec{X: sa * ce, Z: l.hand * ca * ce}
	byEl = vec3.Vec{X: ca * se, Y: ce, Z: -l.hand * sa * se}
	return d, byAz, byEl
}

func (l *segment) angles(d vec3.Vec) (az, el float64) {
	return math.Atan2(l.hand*d.Z, -d.X), math.Atan2(d.Y, math.Hypot(d.X, d.Z))
}

// end is where base + k v shows, px from the middle, and how that moves with v.
func (l *segment) end(base, v vec3.Vec, k float64) (at r2.Vec, jx, jy vec3.Vec) {
	q := vec3.Add(vec3.Sub(base, l.camera.At), vec3.Scale(k, v))
	z := vec3.Dot(q, l.camera.Ahead)
	x, y := vec3.Dot(q, l.camera.Right)/z, vec3.Dot(q, l.camera.Down)/z
	f := l.camera.Focal
	jx = vec3.Scale(f*k/z, vec3.Sub(l.camera.Right, vec3.Scale(x, l.camera.Ahead)))
	jy = vec3.Scale(f*k/z, vec3.Sub(l.camera.Down, vec3.Scale(y, l.camera.Ahead)))
	return r2.Vec{X: f * x, Y: f * y}, jx, jy
}

// across is a look turned into metres across the line of sight, for a line that
// goes ahead of the camera by far.
func (l *segment) across(i int, far float64) (right, down float64) {
	q := vec3.Sub(l.base[i], l.camera.At)
	z := vec3.Dot(q, l.camera.Ahead)
	// The two ends lie (ka+kb)/2 of the line off the base.
	mid := z + (l.ka+l.kb-1)/2*far
	qr, qd := vec3.Dot(q, l.camera.Right)/z, vec3.Dot(q, l.camera.Down)/z
	f := l.camera.Focal
	return (l.seen[i].d.X/f+qr)*(mid+far) - qr*mid, (l.seen[i].d.Y/f+qd)*(mid+far) - qd*mid
}

// cut forgets looks outside frames from to to-1.
func (l *segment) cut(from, to int) {
	for i := range l.seen {
		if i < from || i >= to {
			l.seen[i].sigma = 0
		}
	}
}

func (l *segment) usable(i int) bool { return l.seen[i].sigma > 0 && !math.IsNaN(l.base[i].X) }

// lengths guesses the length at each frame by the longest look around it.
func (l *segment) lengths() []float64 {
	n := len(l.seen)
	longest := make([]float64, n)
	var all []float64
	for i := range n {
		if l.usable(i) {
			r, d := l.across(i, 0)
			longest[i] = math.Hypot(r, d)
			all = append(all, longest[i])
		}
	}
	out := make([]float64, n)
	lo, hi := l.length.mean-2*l.length.sd, l.length.mean+2*l.length.sd
	hold := func(v float64) float64 { return math.Max(lo, math.Min(hi, v)) }
	if l.window == 0 {
		sort.Float64s(all)
		for i := range out {
			out[i] = hold(all[len(all)*95/100])
		}
		return out
	}
	w := int(l.window * l.rate)
	for i := range out {
		var best float64
		for k := max(0, i-w); k < min(n, i+w+1); k++ {
			best = math.Max(best, longest[k])
		}
		if best == 0 {
			best = l.length.mean
		}
		out[i] = hold(best)
	}
	// The steps of a running maximum are no steps of the thing.
	return running(out, w/2)
}

// running is the mean over 2 w + 1 frames.
func running(v []float64, w int) []float64 {
	out := make([]float64, len(v))
	for i := range v {
		var s, n float64
		for k := max(0, i-w); k < min(len(v), i+w+1); k++ {
			s, n = s+v[k], n+1
		}
		out[i] = s / n
	}
	return out
}

// chooseBranch decides for each look whether the line points to the camera or away,
// by the smoothest way through all of them (Viterbi's algorithm over pairs).
func (l *segment) chooseBranch(length []float64, first, last int) (az, el []float64) {
	type cand struct{ az, el float64 }
	var at []int
	var cands [][2]cand
	for i := first; i <= last; i++ {
		if !l.usable(i) {
			continue
		}
		var c [2]cand
		for k, sign := range [2]float64{1, -1} {
			var r, d, far float64
			for range 4 {
				r, d = l.across(i, far)
				far = sign * math.Sqrt(math.Max(0, length[i-first]*length[i-first]-r*r-d*d))
			}
			v := vec3.Add(vec3.Scale(far, l.camera.Ahead), vec3.Add(vec3.Scale(r, l.camera.Right), vec3.Scale(d, l.camera.Down)))
			c[k].az, c[k].el = l.angles(v)
		}
		at, cands = append(at, i), append(cands, c)
	}
	// Assumed; shaped on simulated clips.
	const (
		cap   = 6.0 // one look off is a blunder, not a proof
		usual = 5.0 // rad/s
		// shortGap are frames over which a line cannot turn half round.
		shortGap = 3
	)
	limited := func(v float64) float64 { return math.Min(cap, v*v) }
	step := func(k, from, to int) (rate float64) {
		return math.Remainder(cands[k][to].az-cands[k-1][from].az, 2*math.Pi) * l.rate / float64(at[k]-at[k-1])
	}
	own := func(k, c int) float64 {
		if l.expect == nil || math.IsNaN(l.expect[at[k]]) {
			return 0
		}
		return limited(math.Remainder(cands[k][c].az-l.expect[at[k]], 2*math.Pi) / l.within)
	}
	n := len(at)
	// cost[a][b]: best way that ends with a, b.
	var cost [2][2]float64
	back := make([][2][2]int8, n)
	change := 4 * l.rate / 60 // rad/s from look to look
	for k := 1; k < n; k++ {
		var next [2][2]float64
		for b := range 2 {
			for c := range 2 {
				best := math.Inf(1)
				for a := range 2 {
					v, r := cost[a][b], step(k, b, c)
					if k > 1 {
						before := step(k-1, a, b)
						if at[k]-at[k-1] > shortGap {
							// Over a gap the turning goes on as before.
							round := 2 * math.Pi * l.rate / float64(at[k]-at[k-1])
							r += round * math.Round((before-r)/round)
						}
						v += limited((r - before) / change)
					}
					if r < 0 {
						// A way back over a gap is as long a proof as over looks.
						v += l.onward * limited(r/usual) * float64(at[k]-at[k-1])
					}
					if v < best {
						best, back[k][b][c] = v, int8(a)
					}
				}
				next[b][c] = best + own(k, c)
			}
		}
		cost = next
	}
	b, c := 0, 0
	for i := range 2 {
		for j := range 2 {
			if cost[i][j] < cost[b][c] {
				b, c = i, j
			}
		}
	}
	pick := make([]int, n)
	for k := n - 1; k >= 1; k-- {
		pick[k], pick[k-1] = c, b
		b, c = int(back[k][b][c]), b
	}
	az, el = make([]float64, last-first+1), make([]float64, last-first+1)
	for k := range n {
		i := at[k] - first
		az[i], el[i] = cands[k][pick[k]].az, cands[k][pick[k]].el
		if k == 0 {
			continue
		}
		j := at[k-1] - first
		d := math.Remainder(az[i]-az[j], 2*math.Pi)
		// Over a gap the turning goes on as before.
		if gap := i - j; gap > shortGap && k > 4 {
			p := at[k-5] - first
			went := (az[j] - az[p]) / float64(j-p) * float64(gap)
			d += 2 * math.Pi * math.Round((went-d)/(2*math.Pi))
		}
		az[i] = az[j] + d
		for m := j + 1; m < i; m++ {
			u := float64(m-j) / float64(i-j)
			az[m], el[m] = az[j]+u*(az[i]-az[j]), el[j]+u*(el[i]-el[j])
		}
	}
	return az, el
}

// Least looks of a line, and the widest gap that is bridged, rad. Assumed.
const (
	leastLooks = 24
	widestGap  = math.Pi
)

// track finds the line at every frame: the smoothest turn that the pictures allow,
// by least squares (Gauss and Newton) over azimuth, elevation and length of all
// frames at once. Looks that are far off count less (Huber 1964, Ann. Math. Stat.
// 35:73).
func (l *segment) track() (*SegmentTrack, error) {
	d, err := l.retrack(nil)
	if err != nil || !l.whole {
		return d, err
	}
	// Where shoulders swing to and fro they never show their whole length, and as longer ones
	// they would swing less: where they turn round tells how long they are all the while.
	long, ok := d.turnedLength()
	if !ok {
		return nil, ErrNoRound
	}
	l.length, l.held = spread{long, lengthShare * long}, int(lengthTime*l.rate)
	return l.retrack(d)
}

// How far such a line is longer or shorter than where it turns round, as shoulders are
// drawn ahead or back, and for how long, s. Assumed.
const (
	lengthShare = 0.03
	lengthTime  = 0.3
)

// turnedLength is the length of a line over the frames about which it turns at least half round.
func (d *SegmentTrack) turnedLength() (long float64, ok bool) {
	var sum, weight float64
	from, to := 0, 0
	for i, az := range d.Az {
		for az-d.Az[from] > math.Pi/2 {
			from++
		}
		for to < len(d.Az)-1 && d.Az[to]-az < math.Pi/2 {
			to++
		}
		if !d.Seen[i] || from == 0 || d.Az[to]-az < math.Pi/2 {
			continue
		}
		w := 1 / (d.LenSD[i] * d.LenSD[i])
		sum, weight = sum+w*d.Length[i], weight+w
	}
	return sum / weight, weight > 0
}

// retrack is draw from an earlier answer on: when only the base has moved, which way
// the line points is known.
func (l *segment) retrack(old *SegmentTrack) (*SegmentTrack, error) {
	first, last, looks := -1, -1, 0
	for i := range l.seen {
		if l.usable(i) {
			if first < 0 {
				first = i
			}
			last, looks = i, looks+1
		}
	}
	if looks < leastLooks {
		return nil, ErrFewLooks
	}
	for i := first; i <= last; i++ {
		if math.IsNaN(l.base[i].X) {
			l.base[i] = l.base[i-1]
			l.seen[i].sigma = 0
		}
	}
	n := last - first + 1
	x := make([]float64, 3*n)
	var az, el, length []float64
	if old != nil && old.From == first && len(old.Az) == n {
		az, el, length = old.Az, old.El, old.Length
	} else {
		length = l.lengths()[first:]
		az, el = l.chooseBranch(length, first, last)
	}
	for i := range n {
		x[3*i], x[3*i+1], x[3*i+2] = az[i], el[i], length[i]
	}
	s := solver{segment: l, first: first, n: n, turning: l.turning(az)}
	out := &SegmentTrack{From: first, Seen: make([]bool, n)}
	x, inverse, off, err := s.solve(x)
	if err != nil {
		return nil, err
	}
	out.Off = off
	since := -1
	bridged := make([]bridge, n)
	for i := range n {
		if out.Seen[i] = l.usable(first + i); !out.Seen[i] {
			continue
		}
		if since >= 0 && i-since > 1 {
			way := math.Abs(x[3*i] - x[3*since])
			out.Gap = math.Max(out.Gap, way)
			for m := since + 1; m < i; m++ {
				bridged[m] = bridge{way, float64(m-since) / float64(i-since), float64(i-since) / l.rate}
			}
		}
		since = i
	}
	if out.Gap > widestGap {
		return nil, ErrGap
	}
	for i := range n {
		out.Az, out.El, out.Length = append(out.Az, x[3*i]), append(out.El, x[3*i+1]), append(out.Length, x[3*i+2])
		worse := l.worse(first + i)
		sd := func(a int) float64 { return worse * math.Sqrt(math.Max(0, inverse.At(a, a))) }
		off, rate := bridged[i].doubt()
		out.AzSD, out.ElSD, out.LenSD = append(out.AzSD, math.Hypot(sd(3*i), off)), append(out.ElSD, math.Hypot(sd(3*i+1), off)), append(out.LenSD, sd(3*i+2))
		a, b := max(0, i-1), min(n-1, i+1)
		dv := inverse.At(3*a, 3*a) + inverse.At(3*b, 3*b) - 2*inverse.At(3*b, 3*a)
		out.RateSD = append(out.RateSD, math.Hypot(worse*math.Sqrt(math.Max(0, dv))*l.rate/float64(b-a), rate))
	}
	return out, nil
}

// bridge is a frame within a gap without looks: how far the line turns over it (rad), which
// share of the gap (seconds long) is past.
type bridge struct{ way, past, long float64 }

// bridgeSD is how far a line strays in the middle of a gap from its even way, shares of that
// way: it speeds up and slows down within a turn. Shaped on simulated throws whose implement is
// hidden at its high points, on the lot that is there to build on.
const bridgeSD = 0.025

// doubt is what a gap adds, rad and rad/s.
func (b bridge) doubt() (off, rate float64) {
	if b.long == 0 {
		return 0, 0
	}
	most := bridgeSD * b.way
	return most * 4 * b.past * (1 - b.past), most * 4 / b.long * math.Max(math.Abs(1-2*b.past), 0.5)
}

// worse is how many times as large as in the fit the scatter is about a frame.
func (l *segment) worse(frame int) float64 {
	sum, n := 0.0, 0.0
	for f := max(0, frame-nearby); f < min(len(l.seen), frame+nearby+1); f++ {
		if s := l.seen[f]; s.sigma > 0 && s.worse > 0 {
			sum, n = sum+s.worse, n+1
		}
	}
	if n == 0 {
		return 1
	}
	return sum / n
}

// nearby are the frames on each side over which the scatter is taken.
const nearby = 4

// turning is the rate at which a line turns about a frame, rad/s; never so slow
// that it would be held stiff.
func (l *segment) turning(az []float64) []float64 {
	w := int(0.15 * l.rate)
	out := make([]float64, len(az))
	for i := range az {
		a, b := max(0, i-w), min(len(az)-1, i+w)
		out[i] = math.Max(l.smooth.slowest, math.Abs(az[b]-az[a])*l.rate/float64(b-a))
	}
	return running(out, w)
}

// blunder is how many scatters a look may be off before it counts less.
// Assumed: beyond three scatters a look is a blunder.
const blunder = 3.0

type solver struct {
	*segment
	first, n int
	turning  []float64
	// What holds the line smooth is the same at every x: weights of differences from each
	// frame on, and of the length that is expected.
	weights [][3]float64
	long    float64
	stiff   *linsolve.Banded // their normal equations
	m, f    *linsolve.Banded // where systems are built, and factored
	g, d    []float64
}

// differences of azimuth, elevation and length that are held small: third, third and second.
var differences = [3][]float64{{-1, 3, -3, 1}, {-1, 3, -3, 1}, {1, -2, 1}}

// stiffen builds what holds the line smooth: (difference / sd)^2 of each unknown, and the
// length that is expected.
func (s *solver) stiffen() {
	n := 3 * s.n
	s.stiff, s.m, s.f = linsolve.NewBanded(n, 11), linsolve.NewBanded(n, 11), linsolve.NewBanded(n, 11)
	s.g, s.d, s.weights = make([]float64, n), make([]float64, n), make([][3]float64, max(0, s.n-3))
	// The prior is one for all the frames over which the length strays as one.
	s.long = 1 / (s.length.sd * s.length.sd)
	if s.held > 0 {
		s.long /= float64(s.held)
	} else {
		s.long /= float64(s.n)
	}
	for i := range s.n {
		s.stiff.Add(3*i+2, 3*i+2, s.long)
	}
	dt := 1 / s.rate
	per := math.Sqrt(s.rate / 120) // the same stiffness at every capture rate
	for i := range s.weights {
		w := s.turning[i+1]
		sds := [3]float64{per * s.smooth.azimuth * w * w * w * dt * dt * dt, per * s.smooth.elevation * w * w * w * dt * dt * dt, per * s.smooth.length * w * w * dt * dt * s.length.mean}
		for k, c := range differences {
			s.weights[i][k] = 1 / (sds[k] * sds[k])
			for j, v := range c {
				for q := 0; q <= j; q++ {
					s.stiff.Add(3*(i+j)+k, 3*(i+q)+k, v*c[q]*s.weights[i][k])
				}
			}
		}
	}
}

// cost is what is minimised at x, and how far looks are off; when building, the normal
// equations there are left in m and g.
func (s *solver) cost(x []float64, build bool) (cost, off float64) {
	if build {
		s.m.Set(s.stiff)
		clear(s.g)
	}
	for i := range s.n {
		e := x[3*i+2] - s.length.mean
		cost += s.long * e * e
		if build {
			s.g[3*i+2] -= s.long * e
		}
	}
	for i := range s.weights {
		for k, c := range differences {
			var e float64
			for j, v := range c {
				e += v * x[3*(i+j)+k]
			}
			pull := s.weights[i][k] * e
			cost += pull * e
			if build {
				for j, v := range c {
					s.g[3*(i+j)+k] -= v * pull
				}
			}
		}
	}
	var sum float64
	looks := 0
	for i := range s.n {
		if !s.usable(s.first + i) {
			continue
		}
		r, lk := x[3*i+2], s.seen[s.first+i]
		d, byAz, byEl := s.direction(x[3*i], x[3*i+1])
		v := vec3.Scale(r, d)
		pa, ax, ay := s.end(s.base[s.first+i], v, s.ka)
		pb, bx, by := s.end(s.base[s.first+i], v, s.kb)
		e := r2.Scale(1/lk.sigma, r2.Sub(lk.d, r2.Sub(pa, pb)))
		size := math.Sqrt(r2.Norm2(e))
		looks++
		sum += math.Min(size*size, 9)
		w := 1.0
		if size > blunder {
			w = blunder / size
			cost += 2*blunder*size - blunder*blunder
		} else {
			cost += size * size
		}
		if !build {
			continue
		}
		jx, jy := vec3.Sub(ax, bx), vec3.Sub(ay, by)
		p := [3]vec3.Vec{vec3.Scale(r, byAz), vec3.Scale(r, byEl), d}
		var rx, ry [3]float64
		for k := range 3 {
			rx[k], ry[k] = vec3.Dot(jx, p[k])/lk.sigma, vec3.Dot(jy, p[k])/lk.sigma
		}
		for a := range 3 {
			for b := 0; b <= a; b++ {
				s.m.Add(3*i+a, 3*i+b, w*(rx[a]*rx[b]+ry[a]*ry[b]))
			}
			s.g[3*i+a] += w * (rx[a]*e.X + ry[a]*e.Y)
		}
	}
	if looks > 0 {
		off = math.Sqrt(sum / float64(2*looks))
	}
	return cost, off
}

// flatEnough is the share of the cost by which the last step may still lower it: far less than
// doubt leaves open.
const flatEnough = 1e-4

// leastDamp is so little that no step feels it; one that goes too far is taken back with
// feltDamp at least, which some feel.
const leastDamp, feltDamp = 1e-12, 1e-8

func (s *solver) solve(x []float64) ([]float64, *linsolve.Banded, float64, error) {
	s.stiffen()
	damp := 1e-4
	cost, off := s.cost(x, true)
	next := make([]float64, len(x))
	for range 40 {
		s.f.Set(s.m)
		s.f.Damp(damp)
		if err := s.f.Factor(); err != nil {
			return nil, nil, 0, err
		}
		copy(s.d, s.g)
		s.f.Solve(s.d)
		for i := range x {
			next[i] = x[i] + s.d[i]
		}
		c, _ := s.cost(next, false)
		if !(c < cost) {
			if damp = math.Max(feltDamp, 10*damp); damp > 1e6 {
				break
			}
			continue
		}
		done := cost-c < flatEnough*cost
		x, next, damp = next, x, math.Max(leastDamp, damp/10)
		cost, off = s.cost(x, true)
		if done {
			break
		}
	}
	s.f.Set(s.m)
	if err := s.f.Factor(); err != nil {
		return nil, nil, 0, err
	}
	return x, s.f.Inverse(), off, nil
}

package contact

import "math"

// Mass is how high the centre of mass is in each frame, standing heights: in the air it
// falls freely, whatever the limbs do, and a foot on the ground holds it up.
type Mass struct {
	Up      []float64 // NaN where nobody knows
	SD      float64   // scatter of one of them
	Gravity float64   // standing heights/s²
}

// How heights of the mass are weighed. Assumed; shaped on the half of the hard set that is
// there to build on.
const (
	fallOff   = 0.15 // of gravity: what a scale or a slope may be off
	anyFall   = 2.0  // of gravity: how a mass may be sped up that something holds
	fallMost  = 6.0  // what heights may cost a stretch
	held      = 0.25 // of gravity: a foot on the ground leaves no fall as fast as this
	fallLeast = 4    // heights that make a fall
)

// fall sums up powers of time and height, so that any stretch has its parabola at once.
type fall struct {
	sum     [][8]float64 // over the frames before: n, t, t², t³, t⁴, y, ty, t²y
	square  []float64    // of y
	sd      float64
	gravity float64
	dt      float64
	far     float64
}

// fallen prepares heights at every so many frames; nil when there are none.
func (m *Mass) fallen(n, step int, dt float64) *fall {
	if m == nil || m.Gravity <= 0 {
		return nil
	}
	f := &fall{sum: make([][8]float64, n+1), square: make([]float64, n+1), sd: m.SD, gravity: m.Gravity, dt: dt, far: min(1, dt/fitFar)}
	for i := range n {
		f.sum[i+1], f.square[i+1] = f.sum[i], f.square[i]
		k := i * step
		if k >= len(m.Up) || math.IsNaN(m.Up[k]) {
			continue
		}
		t, y := float64(i)*dt, m.Up[k]
		for p, v := range [8]float64{1, t, t * t, t * t * t, t * t * t * t, y, t * y, t * t * y} {
			f.sum[i+1][p] += v
		}
		f.square[i+1] += y * y
	}
	return f
}

// parabola is the acceleration over frames i to j (excluded), its standard deviation, and
// the squares of what is left, in those of the scatter; false when there are too few heights.
func (f *fall) parabola(i, j int) (a, sd, left float64, n int, ok bool) {
	i, j = max(0, i), min(len(f.sum)-1, j)
	if j-i < fallLeast {
		return 0, 0, 0, 0, false
	}
	var s [8]float64
	for p := range s {
		s[p] = f.sum[j][p] - f.sum[i][p]
	}
	n = int(s[0] + 0.5)
	if n < fallLeast {
		return 0, 0, 0, n, false
	}
	// About the middle, so that the sums stay small.
	c := s[1] / s[0]
	t2 := s[2] - c*s[1]
	t3 := s[3] - 3*c*s[2] + 3*c*c*s[1] - c*c*c*s[0]
	t4 := s[4] - 4*c*s[3] + 6*c*c*s[2] - 4*c*c*c*s[1] + c*c*c*c*s[0]
	y := s[5]
	ty := s[6] - c*y
	ty2 := s[7] - 2*c*s[6] + c*c*y
	yy := f.square[j] - f.square[i]
	// Against the mean, the line and the parabola, one after the other.
	b1 := ty / t2
	q0, q1 := t2/s[0], t3/t2
	qq := t4 - q0*q0*s[0] - q1*q1*t2
	if t2 <= 0 || qq <= 1e-12 {
		return 0, 0, 0, n, false
	}
	qy := ty2 - q0*y - q1*ty
	k := qy / qq
	rest := yy - y*y/s[0] - b1*ty - k*qy
	return 2 * k, 2 * f.sd / math.Sqrt(qq*f.far), math.Max(0, rest) / (f.sd * f.sd), n, true
}

// inAir is what it costs to take a stretch for one in which no foot is down: against a mass
// that may do anything, the logarithm of the odds that it falls.
func (f *fall) inAir(i, j int) float64 {
	if f == nil {
		return 0
	}
	a, sd, left, n, ok := f.parabola(i, j)
	if !ok {
		return 0
	}
	falls, anything := math.Hypot(sd, fallOff*f.gravity), math.Hypot(sd, anyFall*f.gravity)
	off := (a + f.gravity) / falls
	return math.Min(fallMost, off*off/2-math.Log(anything/falls)+f.far*math.Max(0, left-float64(n-3))/2)
}

// onGround is what it costs to take one for a contact: the mass cannot fall freely all
// along it.
func (f *fall) onGround(i, j int) float64 {
	if f == nil {
		return 0
	}
	a, sd, _, _, ok := f.parabola(i, j)
	if !ok || a > -held*f.gravity {
		return 0
	}
	off := (a + held*f.gravity) / sd
	return math.Min(fallMost, off*off/2)
}

// fallSure is how many standard deviations a fall may be off before it is none; fallLeft how
// much of the scatter it may leave.
const (
	fallSure = 3.0
	fallLeft = 6.0
)

// Flown tells whether free fall explains frames from to to (excluded); true also of so few
// that no fall can be told, not where the heights of many are not known.
func (m *Mass) Flown(from, to int, rate float64) bool {
	f := m.fallen(len(m.Up), 1, 1/rate)
	if f == nil || to-from < fallLeast {
		return true
	}
	a, sd, left, n, ok := f.parabola(from, to)
	if !ok || 2*n < to-from {
		return false
	}
	return math.Abs(a+f.gravity) <= fallSure*math.Hypot(sd, fallOff*f.gravity) && left <= fallLeft*float64(n)
}

// Fall is the acceleration over frames from to to (excluded), standing heights/frame², and
// what scatter a parabola leaves, in that of the heights; false when too few are known.
func (m *Mass) Fall(from, to int) (a, left float64, ok bool) {
	f := m.fallen(len(m.Up), 1, 1)
	if f == nil {
		return 0, 0, false
	}
	a, _, squares, n, ok := f.parabola(from, to)
	if !ok || n <= 3 {
		return 0, 0, false
	}
	return a, math.Sqrt(squares / float64(n-3)), true
}

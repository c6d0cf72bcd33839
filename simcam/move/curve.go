package move

import "gonum.org/v1/gonum/spatial/r3"

// Curve is a smooth path through (t, value) keys: cubic Hermite with slopes
// limited so that it never overshoots a key (Fritsch and Carlson 1980, SIAM J.
// Numer. Anal. 17:238). Outside the keys it stays at the end values. The zero
// Curve is 0 throughout.
type Curve struct{ t, v, m []float64 }

// Keys makes a curve from times and values in turn.
func Keys(tv ...float64) Curve {
	var c Curve
	for i := 0; i+1 < len(tv); i += 2 {
		c.t, c.v = append(c.t, tv[i]), append(c.v, tv[i+1])
	}
	n := len(c.t)
	c.m = make([]float64, n)
	for i := 1; i < n-1; i++ {
		h0, h1 := c.t[i]-c.t[i-1], c.t[i+1]-c.t[i]
		a, b := (c.v[i]-c.v[i-1])/h0, (c.v[i+1]-c.v[i])/h1
		if a*b <= 0 {
			continue
		}
		w0, w1 := 2*h1+h0, h1+2*h0
		c.m[i] = (w0 + w1) / (w0/a + w1/b)
	}
	return c
}

// open lets a curve run into its ends with part of the slope of the last
// stretch instead of coming to rest there: a swinging foot is slowed before it
// lands.
func (c Curve) open() Curve {
	if n := len(c.t); n > 1 {
		c.m[0] = 0.8 * (c.v[1] - c.v[0]) / (c.t[1] - c.t[0])
		c.m[n-1] = 0.5 * (c.v[n-1] - c.v[n-2]) / (c.t[n-1] - c.t[n-2])
	}
	return c
}

// bound gives a key its slope.
func (c Curve) bound(t, slope float64) Curve {
	for i := range c.t {
		if c.t[i] > t-1e-9 && c.t[i] < t+1e-9 {
			c.m[i] = slope
		}
	}
	return c
}

// At is the value at a time.
func (c Curve) At(t float64) float64 {
	n := len(c.t)
	if n == 0 {
		return 0
	}
	if t <= c.t[0] {
		return c.v[0]
	}
	if t >= c.t[n-1] {
		return c.v[n-1]
	}
	i := 0
	for t > c.t[i+1] {
		i++
	}
	h := c.t[i+1] - c.t[i]
	s := (t - c.t[i]) / h
	s2, s3 := s*s, s*s*s
	return (2*s3-3*s2+1)*c.v[i] + (s3-2*s2+s)*h*c.m[i] + (3*s2-2*s3)*c.v[i+1] + (s3-s2)*h*c.m[i+1]
}

// path is a curve in space.
type path [3]Curve

func (p path) at(t float64) r3.Vec { return r3.Vec{X: p[0].At(t), Y: p[1].At(t), Z: p[2].At(t)} }

// mark is a place at a time.
type mark struct {
	t float64
	r3.Vec
}

func through(marks ...mark) path {
	var tv [3][]float64
	for _, m := range marks {
		tv[0], tv[1], tv[2] = append(tv[0], m.t, m.X), append(tv[1], m.t, m.Y), append(tv[2], m.t, m.Z)
	}
	return path{Keys(tv[0]...), Keys(tv[1]...), Keys(tv[2]...)}
}

func (p path) bound(t float64, v r3.Vec) path {
	return path{p[0].bound(t, v.X), p[1].bound(t, v.Y), p[2].bound(t, v.Z)}
}

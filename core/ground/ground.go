// Package ground fits the plane of the ground to known places in the picture.
package ground

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/linsolve"
)

// ControlPoint is one known place: where it is on the ground and where the picture shows
// it.
type ControlPoint struct {
	Name  string  `json:"name" maxLength:"40"`
	Along float64 `json:"along" doc:"m in the running or throwing direction"`
	Right float64 `json:"right" doc:"m to the right of somebody who faces that way"`
	Frame int     `json:"frame" doc:"frame in which it was clicked"`
	X     float64 `json:"x" doc:"px of the upright picture"`
	Y     float64 `json:"y"`
	Rim   float64 `json:"rim,omitempty" required:"false" doc:"m; somewhere on the circle of this radius about the origin: along and right are not known"`
	Line  bool    `json:"line,omitempty" required:"false" doc:"somewhere on the line along the run at this distance to the right: along is not known"`
	Up    float64 `json:"up,omitempty" required:"false" doc:"m over the ground"`
}

// Loose tells that of a place only the rim or the line is known on which it lies.
func (p ControlPoint) Loose() bool { return p.Rim > 0 || p.Line }

// Settled is where on its rim or line a loose place shows nearest to pixel q, sought from the
// place start on; picture is the map of the ground.
func (p ControlPoint) Settled(picture func(r2.Vec) r2.Vec, start, q r2.Vec) r2.Vec {
	if p.Rim > 0 {
		return OnRim(picture, start, q, p.Rim)
	}
	at := func(along float64) r2.Vec { return r2.Vec{X: along, Y: p.Right} }
	return at(nearest(func(along float64) r2.Vec { return picture(at(along)) }, start.X, q, 5))
}

// nearest is the parameter at which a curve of the picture comes nearest to pixel q, by Newton's
// steps of at most so much.
func nearest(curve func(float64) r2.Vec, a float64, q r2.Vec, most float64) float64 {
	for range 6 {
		const h = 1e-4
		p := curve(a)
		t := r2.Scale(1/h, r2.Sub(curve(a+h), p))
		a += math.Max(-most, math.Min(most, r2.Dot(r2.Sub(q, p), t)/r2.Norm2(t)))
	}
	return a
}

// ControlPoints are the known places of a clip.
type ControlPoints struct {
	Template string         `json:"template" maxLength:"40" doc:"which template they belong to, or free"`
	Points   []ControlPoint `json:"points" maxItems:"40"`
	// How far the camera stood, which flat ground alone hardly tells.
	Away float64 `json:"away,omitempty" required:"false" doc:"m from the camera to the origin, to half a metre; 0 when nobody knows"`
	// Sets the throwing direction by hand.
	Aim *Aim `json:"aim,omitempty" required:"false" doc:"a place on the ground that lies in the middle of the sector"`
}

// Aim is a place in the picture of the ground.
type Aim struct {
	Frame int     `json:"frame" doc:"frame in which it was clicked"`
	X     float64 `json:"x" doc:"px of the upright picture"`
	Y     float64 `json:"y"`
}

// SameAim tells whether two clips' marks throw in the same direction.
func (m ControlPoints) SameAim(o ControlPoints) bool {
	return m.Aim == o.Aim || m.Aim != nil && o.Aim != nil && *m.Aim == *o.Aim
}

// Plane maps the ground to the common frame of a clip and back.
type Plane struct {
	ToPicture [9]float64 `json:"to_picture" doc:"homography, rows: (along, right, 1) to px of the common frame"`
	ToGround  [9]float64 `json:"to_ground" doc:"its inverse"`
	ErrorPx   float64    `json:"error_px" doc:"root mean square reprojection error"`
	ErrorCm   float64    `json:"error_cm" doc:"the same on the ground"`
	Worst     string     `json:"worst" doc:"name of the place that fits worst"`
}

// Errors of marks that make no plane.
var (
	ErrFew  = errors.New("a ground plane needs four known places; click one more")
	ErrLine = errors.New("these places lie on one line and do not make a plane; add one off the line")
)

func apply(h [9]float64, p r2.Vec) r2.Vec {
	w := h[6]*p.X + h[7]*p.Y + h[8]
	return r2.Vec{X: (h[0]*p.X + h[1]*p.Y + h[2]) / w, Y: (h[3]*p.X + h[4]*p.Y + h[5]) / w}
}

// Picture is where a place on the ground shows, px of the common frame.
func (p *Plane) Picture(g r2.Vec) r2.Vec { return apply(p.ToPicture, g) }

// Ground is the place on the ground (along, right) of a pixel of the common
// frame.
func (p *Plane) Ground(q r2.Vec) r2.Vec { return apply(p.ToGround, q) }

// Through is the plane of a known map of the ground to the picture.
func Through(toPicture [9]float64) (*Plane, error) {
	back, err := invert(toPicture)
	return &Plane{ToPicture: toPicture, ToGround: back}, err
}

// Fit makes the plane of marks; common brings a pixel of a frame into the common
// frame.
func Fit(m ControlPoints, common func(frame int, p r2.Vec) r2.Vec) (*Plane, error) {
	var from, to, loose []r2.Vec
	var kept, settled []ControlPoint
	for _, q := range m.Points {
		seen := common(q.Frame, r2.Vec{X: q.X, Y: q.Y})
		switch {
		case q.Up > 0:
			continue
		case q.Loose():
			loose, settled = append(loose, seen), append(settled, q)
			continue
		}
		kept = append(kept, q)
		from, to = append(from, r2.Vec{X: q.Along, Y: q.Right}), append(to, seen)
	}
	if len(from) < 4 {
		return nil, ErrFew
	}
	h, err := Homography(from, to)
	if err != nil {
		return nil, err
	}
	p := &Plane{ToPicture: h}
	if p.ToGround, err = invert(h); err != nil {
		return nil, err
	}
	// A place somewhere on a rim or a line is taken to be where the plane so far puts
	// it; that and the plane settle in turn.
	named := len(from)
	for range 12 {
		if len(loose) == 0 {
			break
		}
		from, to = from[:named], to[:named]
		for i, q := range loose {
			from, to = append(from, settled[i].Settled(p.Picture, p.Ground(q), q)), append(to, q)
		}
		if h, err = Homography(from, to); err != nil {
			return nil, err
		}
		p.ToPicture = h
		if p.ToGround, err = invert(h); err != nil {
			return nil, err
		}
	}
	var names []string
	for _, q := range append(kept, settled...) {
		names = append(names, q.Name)
	}
	var px, cm, worst float64
	for i := range from {
		d := r2.Norm2(r2.Sub(p.Picture(from[i]), to[i]))
		px += d
		cm += 1e4 * r2.Norm2(r2.Sub(p.Ground(to[i]), from[i]))
		if d > worst {
			worst, p.Worst = d, names[i]
		}
	}
	n := float64(len(from))
	p.ErrorPx, p.ErrorCm = math.Sqrt(px/n), math.Sqrt(cm/n)
	if math.IsNaN(p.ErrorPx + p.ErrorCm) {
		return nil, ErrLine
	}
	return p, nil
}

// Homography is the map of a plane to a plane that brings each place of from as
// close as possible to that of to, by the sum of squares in to: normalised
// direct linear transformation, refined by Levenberg and Marquardt (Hartley and
// Zisserman, Multiple View Geometry, algorithms 4.2 and 4.3). Rows of the 3 x 3
// matrix; the last entry is 1 in normalised coordinates.
func Homography(from, to []r2.Vec) ([9]float64, error) {
	var h [9]float64
	if len(from) < 4 || len(from) != len(to) {
		return h, ErrFew
	}
	if flat(from) || flat(to) {
		return h, ErrLine
	}
	nf, nt := normaliser(from), normaliser(to)
	a, b := make([]r2.Vec, len(from)), make([]r2.Vec, len(to))
	for i := range from {
		a[i], b[i] = apply(nf, from[i]), apply(nt, to[i])
	}
	v, err := direct(a, b)
	if err != nil {
		return h, ErrLine
	}
	v = refine(v, a, b)
	// Out of the normalised coordinates: T^-1 H N.
	back, err := invert(nt)
	if err != nil {
		return h, ErrLine
	}
	h = times(times(back, v), nf)
	for i := range h {
		if math.IsNaN(h[i]) || math.IsInf(h[i], 0) {
			return h, ErrLine
		}
	}
	return h, nil
}

// flat tells whether places lie on one line; of exactly four also whether three
// do, which leaves the map open.
func flat(p []r2.Vec) bool {
	c := centroid(p)
	var xx, xy, yy float64
	for _, q := range p {
		d := r2.Sub(q, c)
		xx, xy, yy = xx+d.X*d.X, xy+d.X*d.Y, yy+d.Y*d.Y
	}
	big := (xx+yy)/2 + math.Sqrt((xx-yy)*(xx-yy)/4+xy*xy)
	small := xx + yy - big
	if !(small > 1e-6*big) {
		return true
	}
	if len(p) == 4 {
		for skip := range 4 {
			var t []r2.Vec
			for i, q := range p {
				if i != skip {
					t = append(t, q)
				}
			}
			if math.Abs(r2.Cross(r2.Sub(t[1], t[0]), r2.Sub(t[2], t[0]))) < 1e-6*big {
				return true
			}
		}
	}
	return false
}

// OnRim is the place on the circle of a radius about the origin that shows nearest
// to pixel q, sought from the place start on; picture is the map of the ground.
func OnRim(picture func(r2.Vec) r2.Vec, start, q r2.Vec, radius float64) r2.Vec {
	a := math.Atan2(start.Y, start.X)
	at := func(a float64) r2.Vec { s, c := math.Sincos(a); return r2.Vec{X: radius * c, Y: radius * s} }
	return at(nearest(func(a float64) r2.Vec { return picture(at(a)) }, a, q, 0.3))
}

func centroid(p []r2.Vec) r2.Vec {
	var c r2.Vec
	for _, q := range p {
		c = r2.Add(c, r2.Scale(1/float64(len(p)), q))
	}
	return c
}

// normaliser brings the middle of places to 0 and their mean distance to sqrt 2.
func normaliser(p []r2.Vec) [9]float64 {
	c := centroid(p)
	var mean float64
	for _, q := range p {
		mean += r2.Norm(r2.Sub(q, c)) / float64(len(p))
	}
	k := math.Sqrt2 / mean
	return [9]float64{k, 0, -k * c.X, 0, k, -k * c.Y, 0, 0, 1}
}

// direct solves the linear equations with the last entry set to 1: in normalised
// coordinates the middle of the marks is never on the vanishing line.
func direct(a, b []r2.Vec) ([9]float64, error) {
	var n [64]float64
	var r [8]float64
	add := func(row [8]float64, v float64) {
		for i := range 8 {
			for j := range 8 {
				n[8*i+j] += row[i] * row[j]
			}
			r[i] += row[i] * v
		}
	}
	for i := range a {
		x, y, u, v := a[i].X, a[i].Y, b[i].X, b[i].Y
		add([8]float64{x, y, 1, 0, 0, 0, -u * x, -u * y}, u)
		add([8]float64{0, 0, 0, x, y, 1, -v * x, -v * y}, v)
	}
	if err := linsolve.Solve(n[:], r[:]); err != nil {
		return [9]float64{}, err
	}
	return [9]float64{r[0], r[1], r[2], r[3], r[4], r[5], r[6], r[7], 1}, nil
}

// refine lowers the sum of squared distances in the second plane.
func refine(h [9]float64, a, b []r2.Vec) [9]float64 {
	cost := func(h [9]float64) (s float64) {
		for i := range a {
			s += r2.Norm2(r2.Sub(apply(h, a[i]), b[i]))
		}
		return s
	}
	best, damp := cost(h), 1e-3
	for range 60 {
		var n [64]float64
		var r [8]float64
		for i := range a {
			x, y := a[i].X, a[i].Y
			w := h[6]*x + h[7]*y + 1
			p := apply(h, a[i])
			ju := [8]float64{x / w, y / w, 1 / w, 0, 0, 0, -p.X * x / w, -p.X * y / w}
			jv := [8]float64{0, 0, 0, x / w, y / w, 1 / w, -p.Y * x / w, -p.Y * y / w}
			eu, ev := b[i].X-p.X, b[i].Y-p.Y
			for j := range 8 {
				for k := range 8 {
					n[8*j+k] += ju[j]*ju[k] + jv[j]*jv[k]
				}
				r[j] += ju[j]*eu + jv[j]*ev
			}
		}
		m, d := n, r
		for j := range 8 {
			m[9*j] *= 1 + damp
		}
		if linsolve.Solve(m[:], d[:]) != nil {
			return h
		}
		next := h
		for j := range 8 {
			next[j] += d[j]
		}
		c := cost(next)
		if !(c < best) {
			if damp *= 10; damp > 1e9 {
				return h
			}
			continue
		}
		done := best-c < 1e-15*best
		h, best, damp = next, c, damp/10
		if done {
			return h
		}
	}
	return h
}

func times(a, b [9]float64) (c [9]float64) {
	for i := range 3 {
		for j := range 3 {
			for k := range 3 {
				c[3*i+j] += a[3*i+k] * b[3*k+j]
			}
		}
	}
	return c
}

func invert(h [9]float64) ([9]float64, error) {
	c := [9]float64{
		h[4]*h[8] - h[5]*h[7], h[2]*h[7] - h[1]*h[8], h[1]*h[5] - h[2]*h[4],
		h[5]*h[6] - h[3]*h[8], h[0]*h[8] - h[2]*h[6], h[2]*h[3] - h[0]*h[5],
		h[3]*h[7] - h[4]*h[6], h[1]*h[6] - h[0]*h[7], h[0]*h[4] - h[1]*h[3],
	}
	det := h[0]*c[0] + h[1]*c[3] + h[2]*c[6]
	if math.Abs(det) < 1e-15 || math.IsNaN(det) {
		return c, ErrLine
	}
	for i := range c {
		c[i] /= det
	}
	return c, nil
}

// Check refuses marks that cannot be meant.
func (m ControlPoints) Check() error {
	if len(m.Points) > 40 {
		return errors.New("up to 40 known places make a ground plane")
	}
	if m.Away != 0 && !(m.Away >= 1 && m.Away <= 200) {
		return errors.New("a camera stands 1 to 200 m away")
	}
	for _, p := range m.Points {
		if v := p.Along + p.Right; math.IsNaN(v) || math.Abs(p.Along) > 500 || math.Abs(p.Right) > 500 {
			return fmt.Errorf("%s would lie more than 500 m away", p.Name)
		}
		if !(p.Rim >= 0 && p.Rim <= 500) {
			return fmt.Errorf("%s would lie on a circle of %g m", p.Name, p.Rim)
		}
		if !(p.Up >= 0 && p.Up <= 8) {
			return fmt.Errorf("%s would be %g m over the ground", p.Name, p.Up)
		}
	}
	return nil
}

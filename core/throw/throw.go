// Package throw reads throws in depth: where ball, hips, shoulders and feet point, seen
// from above, at every frame of one camera or of two (pair.go); the release of an implement
// (release.go), how a disc lies in the air (attitude.go), and the flight that follows.
//
// Azimuths are those of package azimuth: 0 at the back of the circle, growing with
// the athlete's turn. World: as in package camera.
package throw

import (
	"errors"
	"math"
	"slices"
	"sort"
	"sync"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/track"
	"neokinema/core/vec3"
)

// Clip is one attempt as one camera saw it.
type Clip struct {
	Camera   *camera.Camera
	Movement *kinematics.Movement
	Points   kinematics.Points
	Frames   int
	Sigma    float64 // scatter of a point placed by hand, px
	// Scatter is that of a landmark in a frame, px, and what it is worth to a path that is fitted
	// through many, which errors that last are not made smaller by: by as much as it is larger
	// than Sigma all is less sure. Nil when all points are as good as those placed by hand.
	Scatter      func(id string, frame int) (once, lasting float64)
	Left         bool // throws with the left hand
	Person       body.Person
	Kind         Kind
	Contacts     []contact.Contact
	ReleaseFrame int // frame; -1 when nobody flagged it
	// Flat brings a place of the common frame into a picture that looks square at the plane
	// of motion, for a camera that is taken to; nil for others.
	Flat func(r2.Vec) r2.Vec
}

// Kind is the kind of implement.
type Kind string

// Kinds of implement that go round.
const (
	Hammer Kind = "hammer"
	Weight Kind = "weight"
	Discus Kind = "discus"
	Shot   Kind = "shot"
	// Javelin does not go round; only its release is read.
	Javelin Kind = "javelin"
)

// Reconstruction is what one clip tells of a throw.
type Reconstruction struct {
	Rate      float64
	From, To  int           // frames that are read: To is the first after the release
	Ball      *SegmentTrack // from the middle of the shoulders to the implement; nil when it is not known
	Hips      *SegmentTrack // from the right hip to the left one
	Head      *SegmentTrack // from the right ear to the left one
	Shoulders *SegmentTrack
	Feet      [2]*SegmentTrack // from heel to toe, left and right
	Neck      []vec3.Vec       // middle of the shoulders; NaN where it is not known
	Pelvis    []vec3.Vec
	Toes      [2][]vec3.Vec    // left and right, should the foot stand
	Why       map[string]error // what is not known, and why
	hand      float64
	kind      Kind
	ahead     vec3.Vec             // segment of sight
	sightAz   float64              // its azimuth, rad
	shift     map[string]float64   // whole turns that bring azimuths to one count
	stereo    bool                 // two cameras saw it
	trunk     []vec3.Vec           // from where the ball is drawn, when two cameras saw it
	loose     map[string][]float64 // by landmark and frame, see [Clip.loose]
}

var nowhere = vec3.Vec{X: math.NaN(), Y: math.NaN(), Z: math.NaN()}

func known(v vec3.Vec) bool { return !math.IsNaN(v.X) }

// Placed tells where the thrower is, which a release needs, and nothing that turns.
func Placed(c Clip) *Reconstruction {
	o, _ := placed(c)
	return o
}

func placed(c Clip) (o *Reconstruction, stand []vec3.Vec) {
	o = &Reconstruction{Rate: c.Movement.Rate, Why: map[string]error{}, hand: 1, kind: c.Kind, ahead: c.Camera.Ahead}
	if c.Left {
		o.hand = -1
	}
	o.sightAz = math.Atan2(o.hand*o.ahead.Z, -o.ahead.X)
	stand = c.stand()
	o.From, o.To = c.begins(), c.Frames
	o.Neck, o.Pelvis = c.above(stand, "mid_shoulder"), c.above(stand, "mid_hip")
	o.loosen(c.loose)
	return o, stand
}

// New reads a clip.
func New(c Clip) *Reconstruction {
	o, stand := placed(c)
	if o.To = c.ReleaseFrame; o.To < 0 {
		o.To = c.gone(o)
	}
	ball := c.line("ball", "mid_shoulder", o, c.ballOf())
	ball.base, ball.ka, ball.kb = slices.Clone(o.Neck), 1, 0
	ball.cut(o.From, o.To)
	if c.Kind == Shot || c.Kind == Javelin {
		o.Why["ball"] = errShot
	} else {
		o.Ball, o.Why["ball"] = ball.track()
		for range 2 {
			if o.Ball == nil {
				break
			}
			c.correctDepth(o, stand, o.Neck)
			c.correctDepth(o, stand, o.Pelvis)
			ball.base = slices.Clone(o.Neck)
			o.Ball, o.Why["ball"] = ball.retrack(o.Ball)
		}
	}
	if o.Ball == nil && (c.Kind == Hammer || c.Kind == Weight) {
		// In the winds shoulders and hips swing to and fro and never show their whole
		// length, and only the ball told how long they are.
		o.From = o.To
		if turns := Swings(c.Contacts, o.sweep(), o.Rate, o.To); len(turns) > 0 {
			o.From = max(0, turns[0][0]-int(entry*o.Rate))
		}
	}
	// A line from right to left points a quarter turn ahead of where it faces.
	quarter := o.hand * math.Pi / 2
	span := func(part string, base []vec3.Vec, by float64, from *SegmentTrack) *segment {
		l := c.line("left_"+part, "right_"+part, o, c.spanOf(part))
		l.base, l.ka, l.kb = slices.Clone(base), 0.5, -0.5
		l.expect = guide(by+l.trailing, from, c.Frames)
		l.cut(o.From, c.Frames)
		return l
	}
	o.Shoulders, o.Why["shoulders"] = span("shoulder", o.Neck, quarter, o.Ball).track()
	o.Hips, o.Why["hips"] = span("hip", o.Pelvis, 0, o.Shoulders).track()
	lines := [3]*segment{span("ear", o.Neck, 0, o.Shoulders)}
	into := [3]**SegmentTrack{&o.Head, &o.Feet[0], &o.Feet[1]}
	names := [3]string{"head", "left foot", "right foot"}
	for i, s := range []body.Side{body.Left, body.Right} {
		l := c.line(string(s)+"_toe", string(s)+"_heel", o, c.spanOf("foot"))
		l.base, l.ka, l.kb = c.above(stand, string(s)+"_ankle"), 0.6, -0.4
		l.expect = guide(-quarter, o.Hips, c.Frames)
		l.cut(o.From, c.Frames)
		lines[1+i] = l
		o.Toes[i] = c.toes(s)
	}
	var why [3]error
	var busy sync.WaitGroup
	for i, l := range lines {
		busy.Go(func() { *into[i], why[i] = l.track() })
	}
	busy.Wait()
	for i, name := range names {
		o.Why[name] = why[i]
	}
	o.settle()
	return o
}

// correctDepth moves places of the body along the sight by as far as the body leans back
// from the ball: across the sight that is seen, and a quarter turn later the same
// happens along it. Without that the body's own part in the ball's speed would be
// seen only when it goes across.
func (c *Clip) correctDepth(o *Reconstruction, stand, places []vec3.Vec) {
	across := vec3.Unit(vec3.Vec{X: c.Camera.Right.X, Z: c.Camera.Right.Z})
	along := vec3.Unit(vec3.Vec{X: c.Camera.Ahead.X, Z: c.Camera.Ahead.Z})
	l := segment{hand: o.hand}
	d := o.Ball
	n := len(d.Az)
	s, far, u := make([]float64, n), make([]float64, n), make([]float64, n)
	for i := range n {
		f := d.From + i
		out, _, _ := l.direction(d.Az[i], d.El[i])
		s[i], far[i] = vec3.Dot(out, across), vec3.Dot(out, along)
		if u[i] = math.NaN(); known(places[f]) && known(stand[f]) {
			u[i] = vec3.Dot(vec3.Sub(places[f], stand[f]), across)
		}
	}
	w := int(0.4 * o.Rate)
	k := make([]float64, n)
	for i := range n {
		var m, su, ss, sm, uu float64
		for j := max(0, i-w); j < min(n, i+w+1); j++ {
			if !math.IsNaN(u[j]) {
				m, sm, uu, ss, su = m+1, sm+s[j], uu+u[j], ss+s[j]*s[j], su+s[j]*u[j]
			}
		}
		if v := ss - sm*sm/math.Max(1, m); v > 0.1*m {
			k[i] = math.Max(-0.35, math.Min(0.35, (su-sm*uu/m)/v))
		}
	}
	for i := range n {
		f := d.From + i
		if !known(places[f]) {
			continue
		}
		// Set anew along the sight, with the pixel kept.
		want := vec3.Dot(stand[f], along) + k[i]*far[i]
		places[f] = c.reseat(places[f], along, want)
	}
}

// reseat moves a place along its line of sight to where it is as far along a level
// direction as is wanted.
func (c *Clip) reseat(p, along vec3.Vec, want float64) vec3.Vec {
	d := vec3.Sub(p, c.Camera.At)
	return vec3.Add(c.Camera.At, vec3.Scale((want-vec3.Dot(c.Camera.At, along))/vec3.Dot(d, along), d))
}

// Before the sweep foot of a discus thrower leaves, he winds up to and fro; what
// is read begins about when he turns back for good. Assumed.
const entry = 0.5

// begins is the first frame that is read.
func (c *Clip) begins() int {
	if c.Kind == Hammer || c.Kind == Weight {
		return 0
	}
	sweep := body.Right
	if c.Left {
		sweep = body.Left
	}
	for _, k := range c.Contacts {
		if k.Foot == sweep && !k.After {
			return max(0, k.To-int(entry*c.Movement.Rate))
		}
	}
	return 0
}

// gone is the first frame in which the implement is farther from the shoulders
// than it can be held; the number of frames when it never is.
func (c *Clip) gone(o *Reconstruction) int {
	r := c.ballOf().length
	limit := r.mean + 2*r.sd
	for f := c.Frames - 1; f >= 0; f-- {
		ball, _, ok := c.pixel("ball", f)
		neck, seen := c.Movement.Where("mid_shoulder", f)
		if !ok || !seen || !known(o.Neck[f]) {
			continue
		}
		if r2.Norm(r2.Sub(ball, c.Movement.View.Picture(neck)))/c.Camera.Scale(o.Neck[f]) <= limit {
			return min(c.Frames, f+1)
		}
	}
	return c.Frames
}

// line prepares a segment between two landmarks; "mid_shoulder" is the neck.
func (c *Clip) line(to, from string, o *Reconstruction, p prior) *segment {
	l := &segment{prior: p, camera: c.Camera, rate: c.Movement.Rate, hand: o.hand, seen: make([]observation, c.Frames)}
	for f := range c.Frames {
		a, sa, okA := c.pixel(to, f)
		var b r2.Vec
		var sb float64
		okB := false
		if from == "mid_shoulder" {
			if b, okB = c.Movement.Where(from, f); okB {
				b, sb = c.Movement.View.Picture(b), 0.5*c.Sigma
			}
		} else {
			b, sb, okB = c.pixel(from, f)
		}
		if okA && okB {
			l.seen[f] = observation{d: r2.Sub(a, b), sigma: math.Hypot(sa, sb), worse: 1}
			if c.Scatter != nil {
				end := c.lasting(from, f)
				if from == "mid_shoulder" {
					end = math.Hypot(c.lasting("left_shoulder", f), c.lasting("right_shoulder", f)) / 2
				}
				l.seen[f].worse = math.Max(1, math.Hypot(c.lasting(to, f), end)/l.seen[f].sigma)
			}
		}
	}
	return l
}

func (c *Clip) lasting(id string, f int) float64 {
	_, px := c.Scatter(id, f)
	return px
}

// loose is how far a landmark in a frame may be off across the sight because it was computed,
// m; 0 of one that is as good as a hand's.
func (c *Clip) loose(id string, f int, at vec3.Vec) float64 {
	if c.Scatter == nil {
		return 0
	}
	if !known(at) {
		at = vec3.Vec{} // about the middle of the circle
	}
	px, _ := c.Scatter(id, f)
	return math.Sqrt(math.Max(0, px*px-c.Sigma*c.Sigma)) / c.Camera.Scale(at)
}

// loosen keeps how far joints may be off that are read in single frames.
func (o *Reconstruction) loosen(by func(id string, f int, at vec3.Vec) float64) {
	o.loose = map[string][]float64{}
	for part, at := range map[string][]vec3.Vec{"ear": o.Neck, "shoulder": o.Neck, "hip": o.Pelvis, "heel": o.Pelvis, "toe": o.Pelvis} {
		for _, s := range []body.Side{body.Left, body.Right} {
			id := string(s) + "_" + part
			for f, p := range at {
				o.loose[id] = append(o.loose[id], by(id, f, p))
			}
		}
	}
}

// middleLoose is that of the middle of both sides.
func (o *Reconstruction) middleLoose(part string, f int) float64 {
	return math.Hypot(o.loose["left_"+part][f], o.loose["right_"+part][f]) / 2
}

// pixel is a point in the common frame with its scatter.
func (c *Clip) pixel(id string, f int) (r2.Vec, float64, bool) {
	p, ok := c.Points.At(id, f)
	if !ok || p.Confidence < 0.15 || p.Source == track.Filled.String() {
		return r2.Vec{}, 0, false
	}
	at := c.Movement.Camera.ToReference(f, r2.Vec{X: p.X, Y: p.Y})
	if c.Flat != nil {
		at = c.Flat(at)
	}
	return at, c.Sigma, !math.IsNaN(at.X)
}

// stand is the place on the ground over which the body is, at every frame: where
// the feet that are down stand, and in between on the way from one to the other.
func (c *Clip) stand() []vec3.Vec {
	out := make([]vec3.Vec, c.Frames)
	for f := range out {
		out[f] = nowhere
	}
	sum, n := make([]vec3.Vec, c.Frames), make([]float64, c.Frames)
	for _, k := range c.Contacts {
		for f := max(0, k.From); f < min(c.Frames, k.To); f++ {
			if p, ok := c.foot(k.Foot, f); ok {
				sum[f], n[f] = vec3.Add(sum[f], p), n[f]+1
			}
		}
	}
	if len(c.Contacts) == 0 {
		// Nothing is known of contacts: the foot that is nearer to the camera is
		// the lower one.
		for f := range c.Frames {
			for _, s := range []body.Side{body.Left, body.Right} {
				if p, ok := c.foot(s, f); ok && (n[f] == 0 || vec3.Norm(vec3.Sub(p, c.Camera.At)) < vec3.Norm(vec3.Sub(sum[f], c.Camera.At))) {
					sum[f], n[f] = p, 1
				}
			}
		}
	}
	last := -1
	for f := range out {
		if n[f] == 0 {
			continue
		}
		out[f] = vec3.Scale(1/n[f], sum[f])
		if last < 0 {
			for g := range f {
				out[g] = out[f]
			}
		}
		for g := last + 1; g < f && last >= 0; g++ {
			u := float64(g-last) / float64(f-last)
			out[g] = vec3.Add(vec3.Scale(1-u, out[last]), vec3.Scale(u, out[f]))
		}
		last = f
	}
	for g := last + 1; g < len(out) && last >= 0; g++ {
		out[g] = out[last]
	}
	return smooth(out, int(0.1*c.Movement.Rate))
}

// foot is where a foot is on the ground, should it stand: by toe or heel,
// whichever is nearer, since a raised point seems to be farther off.
func (c *Clip) foot(s body.Side, f int) (best vec3.Vec, ok bool) {
	far := math.Inf(1)
	for _, part := range []string{"toe", "heel"} {
		at, seen := c.Movement.Where(string(s)+"_"+part, f)
		if !seen {
			continue
		}
		p, hits := c.Camera.OnLevel(c.Movement.View.Picture(at), body.SoleHeight)
		if d := vec3.Norm(vec3.Sub(p, c.Camera.At)); hits && d < far {
			best, ok, far = p, true, d
		}
	}
	// That is half a foot before its middle, on the mean over directions less.
	along := vec3.Unit(vec3.Vec{X: c.Camera.Ahead.X, Z: c.Camera.Ahead.Z})
	return vec3.Add(best, vec3.Scale(heelToMiddle*c.Person.Height, along)), ok
}

// toes are the places of a foot's toes at the height of a standing foot.
func (c *Clip) toes(s body.Side) []vec3.Vec {
	out := make([]vec3.Vec, c.Frames)
	for f := range out {
		out[f] = nowhere
		if at, ok := c.Movement.Where(string(s)+"_toe", f); ok {
			if p, hits := c.Camera.OnLevel(c.Movement.View.Picture(at), body.SoleHeight); hits {
				out[f] = p
			}
		}
	}
	return smooth(out, int(0.02*c.Movement.Rate))
}

// smooth is the running mean of places that are known.
func smooth(v []vec3.Vec, w int) []vec3.Vec {
	out := make([]vec3.Vec, len(v))
	for i := range v {
		var s vec3.Vec
		n := 0.0
		for k := max(0, i-w); k < min(len(v), i+w+1); k++ {
			if known(v[k]) {
				s, n = vec3.Add(s, v[k]), n+1
			}
		}
		if n == 0 {
			out[i] = nowhere
			continue
		}
		out[i] = vec3.Scale(1/n, s)
	}
	return out
}

// above is a landmark in the world, as far from the camera as the place over
// which the body stands.
func (c *Clip) above(stand []vec3.Vec, id string) []vec3.Vec {
	out := make([]vec3.Vec, c.Frames)
	for f := range out {
		at, ok := c.Movement.Where(id, f)
		if out[f] = nowhere; ok && known(stand[f]) {
			out[f] = c.Camera.Beside(c.Movement.View.Picture(at), stand[f])
		}
	}
	return out
}

// quantile of a list of numbers, and its middle.
func quantile(v []float64, q float64) float64 {
	s := slices.Clone(v)
	sort.Float64s(s)
	return s[min(len(s)-1, int(q*float64(len(s))))]
}

func median(v []float64) float64 { return quantile(v, 0.5) }

var errShot = errors.New("the shot stays at the neck and has no orbit until it is pushed")

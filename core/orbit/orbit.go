// Package orbit follows an implement that is swung round on a wire through the pictures of
// a clip: small, fast and smeared, so that what it looks like does not tell it. What tells it
// is that it moved (it is nowhere where it was in the picture before), that it is never
// farther from the shoulders than arms and wire reach, and that it goes round.
//
// Every picture proposes places that changed; of all ways to join them over the clip the
// most likely is taken at once, so that what comes later helps what came before. Gaps are
// bridged and said.
package orbit

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/vision"
)

// Scene is what is known of a clip before its pictures are looked at, in px of the
// pictures that are looked at.
type Scene struct {
	Frames int
	Rate   float64 // pictures a second
	Radius float64 // of the implement
	Reach  float64 // from the middle of the shoulders to the implement, at most
	// Shoulders is the middle of the shoulders; false where it is not known.
	Shoulders func(frame int) (r2.Vec, bool)
	// Body are the bones of the athlete, which move as well; each with half its width.
	Body func(frame int) []Bone
	// To is where a place of the background in one frame lies in another; nil for a camera
	// that stands still.
	To func(from, to int, p r2.Vec) r2.Vec
	// Anchors are places that a hand has set.
	Anchors map[int]r2.Vec
}

// Bone is a part of the body in a picture.
type Bone struct {
	A, B r2.Vec
	Half float64
}

// Place is where the implement is in one frame.
type Place struct {
	At         r2.Vec
	Confidence float64 // 0 to 1; 0 where nothing is known
	Bridged    bool    // it was not seen here: between places where it was
}

// Of what a picture proposes. Assumed; shaped on the build half of the hard set.
const (
	proposals   = 14   // places of a picture
	leastShare  = 0.12 // of the strongest change of a picture
	noise       = 5.0  // grey levels by which a picture trembles
	onBody      = 0.35 // how much less a change on the body counts
	nearNeck    = 0.4  // reaches from the shoulders within which a place is hardly an implement's
	close       = 2.0  // what such a place costs at most
	sureLook    = 0.6  // confidence of places that tell what the implement looks like
	leastSpread = 10.0 // grey levels
	unlike      = 0.1  // what a change counts that does not look like the implement
)

// Of how it goes on, natural logarithms of odds. Assumed; shaped on the same clips.
const (
	mostBridged = 0.15  // s
	seenGain    = 3.0   // of a place that is seen
	missing     = 1.6   // a picture in which it is not
	weak        = 2.5   // a place that changed little, against the strongest
	offPath     = 7.0   // what a place off the orbit costs at most
	slack       = 0.035 // scatter of a place on the orbit, in reaches
	kept        = 120   // ways that are kept at each picture
	quicker     = 0.3   // how the speed of turning scatters from place to place, as a logarithm
	turning     = 0.03  // sine of a turn that tells which way round
	otherWay    = 4.0   // to turn round
	halfTurn    = 0.6   // s about a place in which the path must once be far out
	widest      = 0.62  // reaches that count as far out
	shortest    = 6     // places of a piece that is believed
)

// speeds of turning that are tried, turns a second. Common practice, no source: the winds
// begin at half a turn a second, the last turn of a hammer ends above two.
var speeds = []float64{0.3, 0.5, 0.7, 0.9, 1.1, 1.35, 1.6, 1.85, 2.1, 2.4, 2.7}

// Bridge is how many pictures in a row may be bridged where nothing is seen: about a quarter
// of a turn.
func Bridge(rate float64) int { return max(1, int(math.Round(mostBridged*rate))) }

// Finder looks for an implement through pictures that are added in order.
type Finder struct {
	scene  Scene
	last   [2]vision.Gray // the two before
	frame  int
	places [][]proposal // by frame
	look   *look        // of the implement, once it is known
}

// look is how bright the implement is, grey levels.
type look struct{ level, spread float64 }

// proposal is a place that changed.
type proposal struct {
	at    r2.Vec
	cost  float64
	hand  bool
	level float64 // how bright it is there
}

// New makes a finder.
func New(s Scene) *Finder {
	if s.To == nil {
		s.To = func(_, _ int, p r2.Vec) r2.Vec { return p }
	}
	return &Finder{scene: s, places: make([][]proposal, s.Frames)}
}

// Add takes the next picture.
func (f *Finder) Add(g vision.Gray) {
	if f.frame >= 2 {
		f.propose(f.frame-1, f.last[0], f.last[1], g)
	}
	f.last[0], f.last[1] = f.last[1], g
	f.frame++
}

// Again begins anew with the first picture, now that the path tells what the implement looks
// like: what is as bright counts, what is not counts little.
func (f *Finder) Again(path []Place) {
	var levels []float64
	for k, p := range path {
		for _, q := range f.places[k] {
			if p.Confidence >= sureLook && !p.Bridged && q.at == p.At {
				levels = append(levels, q.level)
			}
		}
	}
	f.frame = 0
	if len(levels) < shortest {
		return
	}
	sort.Float64s(levels)
	n := len(levels)
	f.look = &look{level: levels[n/2], spread: math.Max(leastSpread, (levels[(84*n)/100]-levels[(16*n)/100])/2)}
}

// propose looks for what is in a picture and neither in the one before nor in the next.
func (f *Finder) propose(frame int, before, now, after vision.Gray) {
	s := f.scene
	if at, ok := s.Anchors[frame]; ok {
		f.places[frame] = []proposal{{at: at, cost: -2 * seenGain, hand: true}}
		return
	}
	neck, ok := s.Shoulders(frame)
	if !ok {
		return
	}
	r := int(math.Ceil(s.Reach * 1.08))
	x0, y0 := max(1, int(neck.X)-r), max(1, int(neck.Y)-r)
	x1, y1 := min(now.W-2, int(neck.X)+r), min(now.H-2, int(neck.Y)+r)
	w, h := x1-x0+1, y1-y0+1
	if w < 8 || h < 8 {
		return
	}
	changed := make([]float64, w*h)
	alike := func(v float64) float64 {
		if f.look == nil {
			return 1
		}
		d := (v - f.look.level) / (2 * f.look.spread)
		return math.Max(unlike, math.Exp(-d*d/2))
	}
	back, on := f.shift(frame, frame-1, x0, y0, x1, y1), f.shift(frame, frame+1, x0, y0, x1, y1)
	for y := range h {
		for x := range w {
			px, py := float64(x0+x), float64(y0+y)
			v := now.At(px, py)
			b, a := v-before.At(back(px, py)), v-after.At(on(px, py))
			if b*a > 0 {
				changed[y*w+x] = math.Max(0, math.Min(math.Abs(b), math.Abs(a))-noise) * alike(v)
			}
		}
	}
	for _, bone := range s.Body(frame) {
		damp(changed, w, h, x0, y0, bone)
	}
	sum := integral(changed, w, h)
	half := max(1, int(math.Round(s.Radius)))
	var list []proposal
	level := make([]float64, w*h)
	most := 0.0
	for y := range h {
		for x := range w {
			level[y*w+x] = mean(sum, w, h, x, y, half)
			most = math.Max(most, level[y*w+x])
		}
	}
	if most < noise/2 {
		return
	}
	type peak struct {
		x, y int
		v    float64
	}
	var peaks []peak
	for y := 1; y < h-1; y++ {
		for x := 1; x < w-1; x++ {
			v := level[y*w+x]
			if v < leastShare*most || v < level[y*w+x-1] || v < level[y*w+x+1] || v < level[(y-1)*w+x] || v < level[(y+1)*w+x] {
				continue
			}
			peaks = append(peaks, peak{x, y, v})
		}
	}
	sort.Slice(peaks, func(i, j int) bool { return peaks[i].v > peaks[j].v })
	for _, p := range peaks {
		at := centre(changed, w, h, float64(p.x), float64(p.y), 2.2*s.Radius)
		place := r2.Add(at, r2.Vec{X: float64(x0), Y: float64(y0)})
		near := false
		for _, q := range list {
			near = near || r2.Norm(r2.Sub(q.at, place)) < 1.2*s.Radius
		}
		if near || r2.Norm(r2.Sub(place, neck)) > s.Reach*1.05 {
			continue
		}
		within := math.Max(0, 1-r2.Norm(r2.Sub(place, neck))/(s.Reach*nearNeck))
		list = append(list, proposal{at: place, cost: weak*(1-p.v/most) + close*within*within, level: brightness(now, place, 0.6*s.Radius)})
		if len(list) == proposals {
			break
		}
	}
	f.places[frame] = list
}

// shift gives, for places of a box, where they lie in another frame: turning cameras move
// a small box as a whole, turned and stretched.
func (f *Finder) shift(from, to, x0, y0, x1, y1 int) func(x, y float64) (float64, float64) {
	at := func(x, y int) r2.Vec { return f.scene.To(from, to, r2.Vec{X: float64(x), Y: float64(y)}) }
	o, a, b := at(x0, y0), at(x1, y0), at(x0, y1)
	u, v := r2.Scale(1/float64(x1-x0), r2.Sub(a, o)), r2.Scale(1/float64(y1-y0), r2.Sub(b, o))
	return func(x, y float64) (float64, float64) {
		x, y = x-float64(x0), y-float64(y0)
		return o.X + x*u.X + y*v.X, o.Y + x*u.Y + y*v.Y
	}
}

// damp lets what changed on a bone count less.
func damp(changed []float64, w, h, x0, y0 int, b Bone) {
	lox, hix := int(math.Min(b.A.X, b.B.X)-b.Half)-x0, int(math.Max(b.A.X, b.B.X)+b.Half)-x0
	loy, hiy := int(math.Min(b.A.Y, b.B.Y)-b.Half)-y0, int(math.Max(b.A.Y, b.B.Y)+b.Half)-y0
	d := r2.Sub(b.B, b.A)
	n := r2.Norm2(d)
	for y := max(0, loy); y <= min(h-1, hiy); y++ {
		for x := max(0, lox); x <= min(w-1, hix); x++ {
			p := r2.Sub(r2.Vec{X: float64(x0 + x), Y: float64(y0 + y)}, b.A)
			u := 0.0
			if n > 0 {
				u = math.Max(0, math.Min(1, r2.Dot(p, d)/n))
			}
			if r2.Norm(r2.Sub(p, r2.Scale(u, d))) < b.Half {
				changed[y*w+x] *= onBody
			}
		}
	}
}

// integral is the sum of all above and left of each place.
func integral(v []float64, w, h int) []float64 {
	out := make([]float64, (w+1)*(h+1))
	for y := range h {
		row := 0.0
		for x := range w {
			row += v[y*w+x]
			out[(y+1)*(w+1)+x+1] = out[y*(w+1)+x+1] + row
		}
	}
	return out
}

func mean(sum []float64, w, h, x, y, half int) float64 {
	xa, xb, ya, yb := max(0, x-half), min(w, x+half+1), max(0, y-half), min(h, y+half+1)
	at := func(x, y int) float64 { return sum[y*(w+1)+x] }
	n := 2*half + 1
	return (at(xb, yb) - at(xa, yb) - at(xb, ya) + at(xa, ya)) / float64(n*n)
}

// centre moves a place to the middle of what changed around it.
func centre(v []float64, w, h int, x, y, radius float64) r2.Vec {
	for range 4 {
		var sx, sy, n float64
		for j := max(0, int(y-radius)); j <= min(h-1, int(y+radius)); j++ {
			for i := max(0, int(x-radius)); i <= min(w-1, int(x+radius)); i++ {
				if math.Hypot(float64(i)-x, float64(j)-y) <= radius {
					k := v[j*w+i]
					sx, sy, n = sx+k*float64(i), sy+k*float64(j), n+k
				}
			}
		}
		if n == 0 {
			break
		}
		nx, ny := sx/n, sy/n
		if math.Hypot(nx-x, ny-y) < 0.05 {
			break
		}
		x, y = nx, ny
	}
	return r2.Vec{X: x, Y: y}
}

// brightness is the mean level about a place.
func brightness(g vision.Gray, at r2.Vec, radius float64) float64 {
	var sum, n float64
	for y := -radius; y <= radius; y++ {
		for x := -radius; x <= radius; x++ {
			if math.Hypot(x, y) <= radius {
				sum, n = sum+g.At(at.X+x, at.Y+y), n+1
			}
		}
	}
	return sum / math.Max(1, n)
}

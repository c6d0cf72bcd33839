// Package pose drafts the joints of an athlete over a clip. All that stands around the
// networks is here: where to look and in which order, cutting out, bringing two networks
// together, telling the athlete from others. The server runs the networks natively, the
// browser as WebAssembly; both through [Runner], on the same bytes.
package pose

import (
	"math"
	"slices"
	"sort"

	"neokinema/core/timebase"
	"neokinema/core/track"
)

// Clip is what a draft must know of a clip.
type Clip struct {
	Width  int     `json:"width" doc:"px of the upright original"`
	Height int     `json:"height"`
	Scale  float64 `json:"scale" doc:"px of the pictures that are looked at, per px of the original"`
	Frames int     `json:"frames"`
	Rate   float64 `json:"rate,omitempty" required:"false" doc:"pictures a second of the file; 0 when it is not known"`
	// Pictures that are shown once more need no look of their own.
	Pictures timebase.Pictures `json:"pictures,omitempty" required:"false" doc:"a letter for each frame: r shows the picture before once more"`
}

// Box is where the coach has said that the athlete is; px of the original.
type Box struct {
	Frame  int     `json:"frame"`
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// Wish is what of a clip is to be drafted.
type Wish struct {
	From int  `json:"from" doc:"first frame"`
	To   int  `json:"to" doc:"last frame"`
	Step int  `json:"step" doc:"every so many frames" minimum:"1"`
	Anew bool `json:"anew" doc:"also where there is a draft already"`
}

// The frames that are looked at first tell the way that the athlete takes before anything
// between them is drafted. They are so many s apart, in which nobody gets to where the next
// one stands, and at most so many frames. Assumed.
const (
	coarseMost = 8
	coarseTime = 0.13
)

// coarse is how many frames apart those are.
func (c Clip) coarse() int {
	if c.Rate <= 0 {
		return coarseMost
	}
	return min(coarseMost, max(1, int(math.Round(coarseTime*c.Rate))))
}

// Draft is a draft in progress.
type Draft struct {
	clip    Clip
	frames  []int
	regions map[int]Region // by frame looked at; px of the original
	hips    map[int]Region // the middle of the hips there, steadier than what arms and legs span
	found   map[int]Body   // since the last [Draft.Changes]
	square  []byte
	worn    worn // by the athlete, after so many looks
	looks   int
	scouts  map[int]bool // frames of which a small picture is kept before the first look
	kept    []plane
	passing *passing // while he may be taken for somebody whom he has passed
	taken   []int    // frames in which it was somebody else
}

// New begins a draft. What is known already, points of the clip and the coach's box,
// says where to look.
func New(c Clip, points map[string]*track.Track, box *Box, w Wish) *Draft {
	d := &Draft{clip: c, regions: map[int]Region{}, hips: map[int]Region{}, found: map[int]Body{}, square: make([]byte, 3*side*side)}
	w.From, w.To, w.Step = max(0, w.From), min(c.Frames-1, w.To), max(1, w.Step)
	done := Drafted(points, c.Frames)
	apart := max(w.Step, c.coarse())
	var between []int
	last := -1
	for f := w.From; f <= w.To; f += w.Step {
		f := max(w.From, c.Pictures.Of(f))
		again := f == last
		last = f
		switch {
		case again, done[f] && !w.Anew:
		case (f-w.From)%apart == 0:
			d.frames = append(d.frames, f)
		default:
			between = append(between, f)
		}
	}
	d.frames = append(d.frames, between...)
	for f := 0; f < c.Frames; f += 4 {
		if r, ok := known(points, f); ok && (box == nil || !w.Anew) {
			d.regions[f] = r // of somebody else, perhaps, when the coach shows who is meant
		}
	}
	if box != nil {
		if w.Anew {
			outward(d.frames[:len(d.frames)-len(between)], box.Frame)
		}
		d.regions[box.Frame] = Region{box.X + box.Width/2, box.Y + box.Height/2, 1.25 * max(box.Width, box.Height)}
	}
	if first := scoutFrames(c, w.From, w.To); len(d.regions) == 0 && len(first) >= scoutsLeast {
		d.scouts = map[int]bool{}
		for _, f := range first {
			d.scouts[f] = true
		}
		d.frames = append(first, d.frames...)
	}
	return d
}

// outward orders frames so that each is near one that was looked at before: on from a frame,
// then back from it.
func outward(frames []int, from int) {
	sort.SliceStable(frames, func(i, j int) bool {
		a, b := frames[i], frames[j]
		if (a < from) != (b < from) {
			return b < from
		}
		return abs(a-from) < abs(b-from)
	})
}

// known is the region about the points of a frame, when there are enough.
func known(points map[string]*track.Track, frame int) (Region, bool) {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	n := 0
	for id, t := range points {
		if _, ok := details[id]; !ok {
			continue
		}
		if p, ok := t.At(frame); ok {
			n++
			x0, y0, x1, y1 = min(x0, p.X), min(y0, p.Y), max(x1, p.X), max(y1, p.Y)
		}
	}
	return Region{(x0 + x1) / 2, (y0 + y1) / 2, roomAbout * max(x1-x0, y1-y0)}, n >= 8
}

// Drafted tells which frames have computed points of the trunk or the legs.
func Drafted(points map[string]*track.Track, frames int) []bool {
	out := make([]bool, frames)
	for _, id := range []string{"left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle", "left_shoulder", "right_shoulder"} {
		for f := range out {
			s := points[id].SourceAt(f)
			out[f] = out[f] || s == track.Draft || s == track.Filled
		}
	}
	return out
}

// Frames lists the frames to look at, in this order: those that tell who moves, then the
// coarse ones.
func (d *Draft) Frames() []int { return d.frames }

// Outcome is what became of a look at one frame.
type Outcome string

// The outcomes.
const (
	Found  Outcome = "found"
	Nobody Outcome = "nobody"
	Other  Outcome = "other" // somebody was seen who cannot be the athlete
	Kept   Outcome = "kept"  // the picture is kept, and looked at later
)

// How far somebody may be from where the athlete must be, widths of the region, and how
// near in frames that must be known. Assumed.
const (
	mayLeap  = 0.4
	mayStray = 0.35 // off the way that he has gone so far
	alone    = 0.65 // of the region: room for one
	clearly  = 0.25 // of that: where nobody else can be
	recently = 3
)

// Look looks at one frame.
func (d *Draft) Look(frame int, p *Picture, r Runner) (Outcome, error) {
	return d.look(frame, p, r, nil)
}

// look tells shown each square before it is shown to a network, for tests.
func (d *Draft) look(frame int, p *Picture, r Runner, shown func(Square)) (Outcome, error) {
	if d.scouts[frame] {
		delete(d.scouts, frame)
		small, _ := p.small()
		d.kept = append(d.kept, small)
		return Kept, nil
	}
	k := d.clip.Scale
	at, known := d.expected(frame)
	way, moving := d.going(frame)
	scaled := Region{at.X * k, at.Y * k, at.Side * k}
	l := looker{p, r, d.square, shown}
	look := func() (Body, Region, error) { return l.find(&scaled) }
	if !known {
		look = func() (Body, Region, error) { return d.first(l) }
	}
	body, seen, err := look()
	if err != nil || body == nil {
		d.doubt(frame)
		return Nobody, err
	}
	clothes, dressed := p.clothes(body)
	late, turned := d.way(frame, d.clip.coarse(), 2)
	away := func() float64 {
		if hip := hips(body); moving {
			off := math.Hypot(hip.X-way.X*k, hip.Y-way.Y*k)
			if turned {
				off = min(off, math.Hypot(hip.X-late.X*k, hip.Y-late.Y*k))
			}
			return off / scaled.Side
		}
		return math.Hypot(seen.X-scaled.X, seen.Y-scaled.Y) / scaled.Side
	}
	if known && !d.same(away(), d.recent(frame), moving, clothes, dressed) {
		// Somebody else was nearer to the eye: once more, with less room for others.
		scaled.Side *= alone
		if body, seen, err = l.find(&scaled); err != nil || body == nil {
			d.doubt(frame)
			return Other, err
		}
		scaled.Side /= alone
		if clothes, dressed = p.clothes(body); !d.same(away(), d.recent(frame), moving, clothes, dressed) {
			d.doubt(frame)
			return Other, nil
		}
	}
	switch {
	case !dressed:
		d.doubt(frame)
	case moving:
		other, at, err := d.wentOn(frame, l, body, seen)
		if err != nil {
			return Nobody, err
		}
		if other != nil {
			body, seen = other, at
			clothes, dressed = p.clothes(body)
		}
	}
	d.remember(clothes, dressed)
	hip := hips(body)
	d.hips[frame] = Region{hip.X / k, hip.Y / k, 0}
	d.regions[frame] = Region{seen.X / k, seen.Y / k, seen.Side / k}
	for id, s := range body {
		body[id] = Seen{s.X / k, s.Y / k, s.Score}
	}
	d.found[frame] = body
	return Found, nil
}

// hips is the middle of the hips.
func hips(b Body) Seen { return middle(b["left_hip"], b["right_hip"]) }

// same tells whether somebody who is off where the athlete must be, widths of the region,
// can be him: nobody leaps by half a body from one look to the next, nor changes clothes. A
// little of both is too much, too.
func (d *Draft) same(off float64, recent, moving bool, clothes worn, dressed bool) bool {
	unlike := 0.0
	if dressed && d.looks >= wornLooks {
		unlike = d.worn.unlike(clothes) / otherWorn
	}
	switch {
	case !recent && !moving:
		return unlike < clearlyWorn && (dressed || d.looks < wornLooks)
	case recent && moving:
		off /= mayStray
	default:
		off /= mayLeap
	}
	return off*off+unlike*unlike < 1 || off < clearly
}

// remember keeps in mind what the athlete wears; what may be somebody who covers him is not
// taken in.
func (d *Draft) remember(clothes worn, dressed bool) {
	switch {
	case !dressed:
	case d.looks == 0:
		d.worn, d.looks = clothes, 1
	case d.looks < wornLooks || d.worn.unlike(clothes) < clearlyWorn*otherWorn:
		d.looks++
		d.worn.toward(clothes)
	}
}

// recent tells whether the athlete was seen in a frame close by.
func (d *Draft) recent(frame int) bool {
	for f := frame - recently; f <= frame+recently; f++ {
		if _, ok := d.regions[f]; ok {
			return true
		}
	}
	return false
}

// expected is where the athlete should be: between the nearest frames looked at before
// and after; or near the one there is, on from it as he goes where looks are close to each
// other, with more room the longer ago that was.
func (d *Draft) expected(frame int) (at Region, known bool) {
	before, after := -1, -1
	for f := range d.regions {
		if f <= frame && f > before {
			before = f
		}
		if f >= frame && (after < 0 || f < after) {
			after = f
		}
	}
	a, b := d.regions[before], d.regions[after]
	switch {
	case before < 0 && after < 0:
		return Region{}, false
	case before >= 0 && after > before:
		t := float64(frame-before) / float64(after-before)
		return Region{a.X + t*(b.X-a.X), a.Y + t*(b.Y-a.Y), a.Side + t*(b.Side-a.Side)}, true
	case before < 0:
		a, before = b, after
	}
	if way, ok := d.going(frame); ok && d.clip.coarse() < coarseMost {
		if from, ok := d.hips[before]; ok && math.Hypot(way.X-from.X, way.Y-from.Y) < a.Side {
			a.X, a.Y = a.X+way.X-from.X, a.Y+way.Y-from.Y
		}
	}
	a.Side *= 1 + min(0.6, 0.04*math.Abs(float64(frame-before)))
	return a, true
}

// going is where the athlete's hips should be if he goes on as over the looks before a frame,
// or after it where the draft goes backwards; false between looks, and too long after them.
func (d *Draft) going(frame int) (at Region, ok bool) {
	return d.way(frame, max(6, 2*d.clip.coarse()), 3)
}

// way is the same over the last so many frames, with at least so many looks in them.
func (d *Draft) way(frame, span, looks int) (at Region, ok bool) {
	near := -1
	for f := range d.hips {
		if far := abs(f-frame) - abs(near-frame); near < 0 || far < 0 || far == 0 && f < near {
			near = f
		}
	}
	if near < 0 || near == frame || abs(near-frame) > 2*max(6, 2*d.clip.coarse()) {
		return at, false
	}
	var n, t, tt, x, y, tx, ty float64
	for f := range d.hips {
		if (f < frame) != (near < frame) {
			return at, false
		}
	}
	for f := near - span; f <= near+span; f++ {
		h, ok := d.hips[f]
		if !ok {
			continue
		}
		u := float64(f - frame)
		n, t, tt, x, y, tx, ty = n+1, t+u, tt+u*u, x+h.X, y+h.Y, tx+u*h.X, ty+u*h.Y
	}
	if n < float64(looks) {
		return at, false
	}
	// The straight line of least squares, at the frame.
	det := n*tt - t*t
	return Region{X: (tt*x - t*tx) / det, Y: (tt*y - t*ty) / det}, true
}

func abs(n int) int { return max(n, -n) }

// Changes are the changes of tracks for what was found since the last call, by landmark.
func (d *Draft) Changes() map[string]*track.Track {
	out := map[string]*track.Track{}
	if len(d.found) == 0 {
		return out
	}
	var frames []int
	for f := range d.clip.Frames {
		if of := d.clip.Pictures.Of(f); of != f && d.found[f] == nil && d.found[of] != nil {
			d.found[f] = d.found[of]
		}
		if d.found[f] != nil {
			frames = append(frames, f)
		}
	}
	for _, f := range d.taken {
		if d.found[f] == nil {
			frames = append(frames, f)
		}
	}
	slices.Sort(frames)
	d.taken = nil
	for id := range details {
		t := track.Blank(frames[0], frames[len(frames)-1]-frames[0]+1)
		for _, f := range frames {
			s, ok := d.found[f][id]
			if !ok || s.X < 0 || s.Y < 0 || s.X > float64(d.clip.Width) || s.Y > float64(d.clip.Height) {
				t.Take(f)
				continue
			}
			_ = t.Set(f, &track.Point{X: math.Round(100*s.X) / 100, Y: math.Round(100*s.Y) / 100, Source: track.Draft.String(), Confidence: min(max(s.Score, 0.01), 1)}) // the source is one
		}
		out[id] = t
	}
	d.found = map[int]Body{}
	return out
}

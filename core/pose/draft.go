// Package pose drafts the joints of an athlete over a clip. All that stands around the
// networks is here: where to look and in which order, cutting out, bringing two networks
// together, telling the athlete from others. The server runs the networks natively, the
// browser as WebAssembly; both through [Runner], on the same bytes.
package pose

import (
	"math"

	"neokinema/core/timebase"
	"neokinema/core/track"
)

// Clip is what a draft must know of a clip.
type Clip struct {
	Width  int     `json:"width" doc:"px of the upright original"`
	Height int     `json:"height"`
	Scale  float64 `json:"scale" doc:"px of the pictures that are looked at, per px of the original"`
	Frames int     `json:"frames"`
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

// coarse is how far apart the frames are that are looked at first: they tell the way that
// the athlete takes before anything between them is drafted.
const coarse = 8

// Draft is a draft in progress.
type Draft struct {
	clip    Clip
	frames  []int
	regions map[int]Region // by frame looked at; px of the original
	found   map[int]Body   // since the last [Draft.Changes]
	square  []byte
}

// New begins a draft. What is known already, points of the clip and the coach's box,
// says where to look.
func New(c Clip, points map[string]*track.Track, box *Box, w Wish) *Draft {
	d := &Draft{clip: c, regions: map[int]Region{}, found: map[int]Body{}, square: make([]byte, 3*side*side)}
	w.From, w.To, w.Step = max(0, w.From), min(c.Frames-1, w.To), max(1, w.Step)
	done := Drafted(points, c.Frames)
	apart := max(w.Step, coarse)
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
		if r, ok := known(points, f); ok {
			d.regions[f] = r
		}
	}
	if box != nil {
		d.regions[box.Frame] = Region{box.X + box.Width/2, box.Y + box.Height/2, 1.25 * max(box.Width, box.Height)}
	}
	return d
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

// Frames lists the frames to look at, in this order: the coarse ones first.
func (d *Draft) Frames() []int { return d.frames }

// Outcome is what became of a look at one frame.
type Outcome string

// The outcomes.
const (
	Found  Outcome = "found"
	Nobody Outcome = "nobody"
	Other  Outcome = "other" // somebody was seen who cannot be the athlete
)

// How far somebody may be from where the athlete must be, widths of the region, and how
// near in frames that must be known. Assumed.
const (
	mayLeap  = 0.4
	recently = 3
)

// Look looks at one frame.
func (d *Draft) Look(frame int, p *Picture, r Runner) (Outcome, error) {
	return d.look(frame, p, r, nil)
}

// look tells shown each square before it is shown to a network, for tests.
func (d *Draft) look(frame int, p *Picture, r Runner, shown func(Square)) (Outcome, error) {
	k := d.clip.Scale
	at, known := d.expected(frame)
	scaled := Region{at.X * k, at.Y * k, at.Side * k}
	hint := &scaled
	if !known {
		hint = nil
	}
	body, seen, err := looker{p, r, d.square, shown}.find(hint)
	switch {
	case err != nil:
		return Nobody, err
	case body == nil:
		return Nobody, nil
	case known && d.recent(frame) && math.Hypot(seen.X-scaled.X, seen.Y-scaled.Y) > mayLeap*scaled.Side:
		// Nobody leaps by half a body from one look to the next.
		return Other, nil
	}
	d.regions[frame] = Region{seen.X / k, seen.Y / k, seen.Side / k}
	for id, s := range body {
		body[id] = Seen{s.X / k, s.Y / k, s.Score}
	}
	d.found[frame] = body
	return Found, nil
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
// and after, or near the one there is, with more room the longer ago that was.
func (d *Draft) expected(frame int) (Region, bool) {
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
	a.Side *= 1 + min(0.6, 0.04*math.Abs(float64(frame-before)))
	return a, true
}

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
	for id := range details {
		t := track.Blank(frames[0], frames[len(frames)-1]-frames[0]+1)
		for _, f := range frames {
			s := d.found[f][id]
			if s.X < 0 || s.Y < 0 || s.X > float64(d.clip.Width) || s.Y > float64(d.clip.Height) {
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

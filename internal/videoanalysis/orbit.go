package videoanalysis

import (
	"context"
	"math"
	"sort"

	"github.com/google/uuid"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/core/orbit"
	"neokinema/core/sport"
	"neokinema/core/stabilize"
	"neokinema/core/throw"
	"neokinema/core/track"
	"neokinema/core/vision"
	"neokinema/internal/media"
	"neokinema/internal/store"
)

// Swung is what is swung round in a clip, and by whom.
type Swung struct {
	Person   body.Person
	Kind     throw.Kind
	Diameter float64 // m
}

// SwungBy is what an athlete swings in an event on a wire; false in any other.
func SwungBy(event string, who body.Person) (Swung, bool) {
	im := sport.Of(event).Implement
	if im == nil || throw.Kind(im.Kind) != throw.Hammer && throw.Kind(im.Kind) != throw.Weight {
		return Swung{}, false
	}
	return Swung{Person: who, Kind: throw.Kind(im.Kind), Diameter: im.Of(who.Sex, who.Age).Diameter}, true
}

// radiusWanted is the radius of an implement at which its pictures are looked at, px: a
// smaller one is enlarged. Assumed; shaped on simulated clips.
const radiusWanted = 4.0

// usualHeight stands in for an athlete whose card has no height, m: it is only a guess of
// how far to look.
const usualHeight = 1.78

// half widths of the body's parts, standing heights. Assumed.
const (
	limbHalf  = 0.03
	trunkHalf = 0.07
	headHalf  = 0.06
)

// bones are the parts of the body that move in a picture, from point to point.
var bones = [][2]string{
	{"left_shoulder", "left_elbow"}, {"left_elbow", "left_wrist"}, {"right_shoulder", "right_elbow"}, {"right_elbow", "right_wrist"},
	{"left_hip", "left_knee"}, {"left_knee", "left_ankle"}, {"left_ankle", "left_toe"}, {"right_hip", "right_knee"}, {"right_knee", "right_ankle"}, {"right_ankle", "right_toe"},
}

// Orbit follows what is swung in a clip, with what is stored of it: see [Orbit].
func (s *Service) Orbit(ctx context.Context, team, id uuid.UUID, swung Swung) (*track.Track, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return nil, err
	}
	leave, err := s.enter(ctx)
	if err != nil {
		return nil, err
	}
	defer leave()
	tracks, err := store.Tracks(ctx, s.store.DB, id)
	if err != nil {
		return nil, err
	}
	change, _, err := Orbit(c, swung, tracks, c.Camera, func(from, to int, share float64, each func(media.Picture) error) error {
		return s.intake.Grays(ctx, c, from, to, share, each)
	})
	return change, err
}

// Orbit follows an implement that is swung on a wire through a clip whose athlete is
// drafted: a change of its track, and in how many frames it was seen. Points that a hand
// has set stay and guide it. Nil when it is not found.
func Orbit(c store.Clip, s Swung, tracks map[string]*track.Track, cam *stabilize.Rotations, grays Grays) (change *track.Track, seen int, err error) {
	was, frames := c, c.Pictures.Frames()
	if len(frames) > 1 {
		c, tracks, grays = own(c, frames, tracks, grays)
		cam = ownCamera(cam, frames)
	}
	n := len(c.Stamps)
	m := kinematics.New(tracks, kinematics.Film{Rate: max(1, c.FileRate), View: angles.View{Direction: 1}, Camera: &stabilize.Rotations{}}, nil)
	tall := standing(m)
	if s.Person.Height <= 0 {
		s.Person.Height = usualHeight
	}
	if tall == 0 {
		return nil, 0, nil
	}
	perMetre := tall / s.Person.Height // px of the upright picture
	share := math.Max(1, math.Min(mostEnlarge, radiusWanted/(s.Diameter/2*perMetre*c.ProxyScale)))
	k := c.ProxyScale * share
	scene := orbit.Scene{Frames: n, Rate: c.CaptureRate, Radius: math.Max(2, k*perMetre*s.Diameter/2), Reach: k * perMetre * throw.Reach(s.Kind, s.Person), Anchors: map[int]r2.Vec{}}
	if scene.Rate <= 0 {
		scene.Rate = c.FileRate
	}
	at := func(id string, f int) (r2.Vec, bool) {
		p, ok := m.Where(id, f)
		return r2.Scale(k, m.View.Picture(p)), ok
	}
	scene.Shoulders = func(f int) (r2.Vec, bool) { return at("mid_shoulder", f) }
	scene.Body = func(f int) (out []orbit.Bone) {
		add := func(a, b string, half float64) {
			p, ok := at(a, f)
			q, ok2 := at(b, f)
			if ok && ok2 {
				out = append(out, orbit.Bone{A: p, B: q, Half: half * k * tall})
			}
		}
		for _, b := range bones {
			add(b[0], b[1], limbHalf)
		}
		add("mid_shoulder", "mid_hip", trunkHalf)
		add("left_ear", "right_ear", headHalf)
		return out
	}
	if !cam.Still() && cam.Usable() {
		scene.To = func(from, to int, p r2.Vec) r2.Vec {
			return r2.Scale(k, cam.ToImage(to, cam.ToReference(from, r2.Scale(1/k, p))))
		}
	}
	old := tracks["ball"]
	if old != nil {
		for f, p := range old.Points() {
			if p.Source == track.Hand.String() {
				scene.Anchors[f] = r2.Vec{X: k * p.X, Y: k * p.Y}
			}
		}
	}
	finder := orbit.New(scene)
	var path []orbit.Place
	for range 2 { // the second time it is known what the implement looks like
		if err := grays(0, n-1, share, func(p media.Picture) error {
			finder.Add(vision.FromBytes(p.Width, p.Height, p.Pix))
			return nil
		}); err != nil {
			return nil, 0, err
		}
		if path, seen = finder.Path(); seen == 0 {
			return nil, 0, nil
		}
		finder.Again(path)
	}
	change = track.New(n)
	for f, p := range path {
		if p.Confidence == 0 || scene.Anchors[f] != (r2.Vec{}) {
			continue
		}
		source := track.Tracked
		if p.Bridged {
			source = track.Filled
		}
		_ = change.Set(f, &track.Point{X: p.At.X / k, Y: p.At.Y / k, Confidence: p.Confidence, Source: source.String()})
	}
	if len(frames) > 1 {
		change = spread(was, frames, change)
		mixed(was, change)
	}
	return change, seen, nil
}

// ownCamera is the camera of a clip's own frames.
func ownCamera(cam *stabilize.Rotations, frames []int) *stabilize.Rotations {
	if cam.Still() {
		return cam
	}
	out := *cam
	out.Reference, out.Turns = min(sort.SearchInts(frames, cam.Reference), len(frames)-1), nil
	for _, f := range frames {
		out.Turns = append(out.Turns, cam.Turns[min(f, len(cam.Turns)-1)])
	}
	return &out
}

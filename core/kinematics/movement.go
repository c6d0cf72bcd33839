package kinematics

import (
	"maps"
	"math"
	"runtime"
	"sort"
	"sync"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/stabilize"
	"neokinema/core/timebase"
	"neokinema/core/track"
)

// Points are the tracks of a clip by landmark.
type Points map[string]*track.Track

// At is a landmark's point in a frame.
func (p Points) At(id string, frame int) (track.Point, bool) {
	t := p[id]
	if t == nil {
		return track.Point{}, false
	}
	return t.At(frame)
}

// Movement is what follows from the points of a clip before any technique model
// looks at it: smooth paths in (forward, up) pixels of the common frame.
type Movement struct {
	Film
	Paths map[string]*Path
	from  Points
}

// Film is how points were filmed.
type Film struct {
	Rate     float64 // frames per true second
	View     angles.View
	Camera   *stabilize.Rotations
	Pictures timebase.Pictures // computed points of copies take no part in paths
}

// New smooths all tracks. Paths of old whose track is the very same, of the same film, are
// taken over; old may be nil.
func New(points Points, film Film, old *Movement) *Movement {
	m := &Movement{Film: film, Paths: make(map[string]*Path, len(points)), from: maps.Clone(points)}
	same := old != nil && old.Film == film
	todo := make(chan func(), len(points))
	for id, t := range points {
		if same && old.from[id] == t {
			m.Paths[id] = old.Paths[id]
			continue
		}
		p := &Path{}
		m.Paths[id] = p
		todo <- func() { *p = Smooth(t, film.Rate, film.Pictures, m.ToReference) }
	}
	close(todo)
	var busy sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), len(todo)) {
		busy.Go(func() {
			for smooth := range todo {
				smooth()
			}
		})
	}
	busy.Wait()
	return m
}

// ToReference brings a pixel of a frame into (forward, up) of the common frame.
func (m *Movement) ToReference(frame int, p r2.Vec) r2.Vec {
	return m.View.Forward(m.Camera.ToReference(frame, p))
}

// ToImage brings a place of the common frame back into a frame's picture.
func (m *Movement) ToImage(frame int, p r2.Vec) r2.Vec {
	return m.Camera.ToImage(frame, m.View.Picture(p))
}

// Where is the smoothed place of a landmark; "mid_hip" is the middle of both
// sides, and what is there of them when one is missing.
func (m *Movement) Where(id string, frame int) (r2.Vec, bool) {
	if p, ok := m.Paths[id]; ok {
		return p.Where(frame)
	}
	if len(id) > 4 && id[:4] == "mid_" {
		a, okA := m.Paths["left_"+id[4:]].Where(frame)
		b, okB := m.Paths["right_"+id[4:]].Where(frame)
		switch {
		case okA && okB:
			return r2.Scale(0.5, r2.Add(a, b)), true
		case okA:
			return a, true
		case okB:
			return b, true
		}
	}
	return nowhere, false
}

// Length is how long the line between two landmarks is seen, px: the ninth
// decile over all frames, since a limb seen at an angle looks short and a single
// far length is scatter; 0 without frames.
func (m *Movement) Length(a, b string) float64 { return m.LengthAt(0.9, a, b) }

// LengthAt is the length that a share of all frames in which both were seen stays below.
func (m *Movement) LengthAt(share float64, a, b string) float64 {
	pa, pb := m.Paths[a], m.Paths[b]
	if pa == nil || pb == nil {
		return 0
	}
	var all []float64
	for f := max(pa.From, pb.From); f < min(pa.End(), pb.End()); f++ {
		_, seenA := pa.Seen(f)
		_, seenB := pb.Seen(f)
		p, okA := pa.Where(f)
		q, okB := pb.Where(f)
		if seenA && seenB && okA && okB {
			all = append(all, r2.Norm(r2.Sub(p, q)))
		}
	}
	if len(all) == 0 {
		return 0
	}
	sort.Float64s(all)
	return all[int(share*float64(len(all)))]
}

// Centre is the centre of mass over the frames in which all landmarks that carry
// weight are known (NaN elsewhere), by the segment shares of [body.CentreWeights].
// Hands, heels, toes and ears that are not tracked leave their share to the rest.
func (m *Movement) Centre(sex body.Sex) *Path {
	weights := body.CentreWeights(sex)
	first, last := math.MaxInt, 0
	var ids []string
	for id := range weights {
		p := m.Paths[id]
		if p == nil || p.Cutoff == 0 {
			switch id[len(id)-3:] {
			case "ear", "and", "eel", "toe":
				continue
			}
			return nil
		}
		ids = append(ids, id)
		first, last = min(first, p.From), max(last, p.End())
	}
	sort.Strings(ids)
	out := &Path{From: first, At: make([]r2.Vec, last-first), V: make([]r2.Vec, last-first), Raw: make([]r2.Vec, last-first)}
	for f := first; f < last; f++ {
		var at, v r2.Vec
		var sum float64
		for _, id := range ids {
			q, ok := m.Paths[id].Where(f)
			if !ok {
				sum = math.NaN()
				break
			}
			w := weights[id]
			u, _ := m.Paths[id].Velocity(f)
			at, v, sum = r2.Add(at, r2.Scale(w, q)), r2.Add(v, r2.Scale(w, u)), sum+w
		}
		i := f - first
		if math.IsNaN(sum) || sum == 0 {
			out.At[i], out.V[i], out.Raw[i] = nowhere, nowhere, nowhere
			continue
		}
		out.At[i], out.V[i] = r2.Scale(1/sum, at), r2.Scale(1/sum, v)
		out.Raw[i] = out.At[i]
	}
	out.Cutoff = 1
	return out
}

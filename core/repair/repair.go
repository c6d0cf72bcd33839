// Package repair looks at drafted tracks over time: it exchanges sides that a pose model took
// for each other, and names the points that the coach should look at.
package repair

import (
	"math"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/track"
)

func sortSuspects(d []Suspect) {
	sort.SliceStable(d, func(i, j int) bool {
		if d[i].Frame != d[j].Frame {
			return d[i].Frame < d[j].Frame
		}
		return d[i].Size > d[j].Size
	})
}

// chains are the landmarks that change sides together when a pose model takes
// left for right.
var chains = [][]string{{"knee", "ankle", "heel", "toe"}, {"elbow", "wrist", "hand"}, {"hip"}, {"shoulder", "ear"}}

// swapCost is what a change of sides costs, in standing heights of path: a limb
// must pass clearly better the other way before sides are exchanged.
// Assumed; shaped on simulated clips.
const swapCost = 0.12

// labelCost is what a frame costs in which a limb is named otherwise than the
// model named it: at a crossing of limbs the paths alone may go wrong for good.
// Assumed; shaped on simulated clips.
const labelCost = 0.012

// Repaired is what [Draft] did.
type Repaired struct {
	Changes map[string]*track.Track `json:"changes" doc:"landmark to change"`
	Swapped int                     `json:"swapped" doc:"frames in which limbs changed sides"`
	Lowered int                     `json:"lowered" doc:"points whose confidence was lowered"`
}

// Draft looks at a draft over time. Left and right that a model took for each
// other are exchanged where that makes the paths of a limb shorter: of the two
// ways to name each frame the cheapest sequence is found by dynamic programming
// (Viterbi 1967, IEEE Trans. Inf. Theory 13:260), held to what a hand has set.
// Then points that jump off their path or stretch a limb lose confidence, so that
// smoothing passes over them and the coach is led to them.
func Draft(m model.Model, in evaluate.Input) Repaired {
	e := evaluate.Begin(m, in, nil)
	tall := e.StandingHeight()
	if tall == 0 {
		tall = float64(in.Clip.Height) / 2
	}
	out := Repaired{Changes: map[string]*track.Track{}}
	points := kinematics.Points{}
	for id, t := range in.Points {
		points[id] = t.Clone()
	}
	for _, parts := range chains {
		out.Swapped += unswap(points, parts, tall)
	}
	in.Points = points
	for _, d := range Suspects(m, in, nil) {
		if d.Size == 0 {
			continue
		}
		t := points[d.Landmark]
		i := d.Frame - t.From
		t.Confidence[i] = min(t.Confidence[i], 10)
		out.Lowered++
	}
	for id, t := range points {
		was := e.Input.Points[id]
		change := track.New(t.Len())
		differs := false
		for f := t.From; f < t.End(); f++ {
			p, ok := t.At(f)
			q, had := was.At(f)
			if ok && (!had || p != q) && t.SourceAt(f) != track.Hand {
				_ = change.Set(f, &p)
				differs = true
			}
		}
		if differs {
			for i, c := range change.Source {
				if c == track.Empty {
					change.Source[i] = track.Keep
				}
			}
			out.Changes[id] = change
		}
	}
	return out
}

// unswap finds for a chain of landmarks in which frames left and right are
// exchanged, exchanges them and gives their number.
func unswap(points kinematics.Points, parts []string, tall float64) int {
	pair := func(part string) (l, r *track.Track) { return points["left_"+part], points["right_"+part] }
	first, last := math.MaxInt, -1
	for _, p := range parts {
		l, r := pair(p)
		if l == nil || r == nil {
			continue
		}
		first, last = min(first, l.From, r.From), max(last, l.End(), r.End())
	}
	if last < 0 {
		return 0
	}
	at := func(t *track.Track, f int) (r2.Vec, bool) {
		if t.SourceAt(f) == track.None {
			return r2.Vec{}, false
		}
		return r2.Vec{X: float64(t.X[f-t.From]), Y: float64(t.Y[f-t.From])}, true
	}
	// A state names the frame before and this one: 2 p + c, each 0 as it is or 1
	// exchanged; so a choice is weighed against where evenly moving limbs go, which
	// tells legs apart that pass each other.
	n := last - first
	type choice struct {
		cost float64
		from int
	}
	best := make([][4]choice, n)
	for i := range n {
		f := first + i
		fixed := false
		for _, p := range parts {
			l, r := pair(p)
			fixed = fixed || l.SourceAt(f) == track.Hand || r.SourceAt(f) == track.Hand
		}
		for state := range 4 {
			p, c := state/2, state%2
			best[i][state] = choice{math.Inf(1), 0}
			if c == 1 && fixed {
				continue
			}
			if i == 0 {
				best[i][state].cost = 0
				continue
			}
			for o := range 2 {
				before := 2*o + p
				way := labelCost * float64(c)
				if p != c {
					way += swapCost
				}
				for _, part := range parts {
					l, r := pair(part)
					if l == nil || r == nil {
						continue
					}
					for _, t := range [2][2]*track.Track{{l, r}, {r, l}} {
						here, ok := at(t[c], f)
						was, ok1 := at(t[p], f-1)
						if !ok || !ok1 {
							continue
						}
						if earlier, ok2 := at(t[o], f-2); ok2 {
							was = r2.Sub(r2.Scale(2, was), earlier)
						}
						way += r2.Norm(r2.Sub(here, was)) / tall
					}
				}
				if cost := best[i-1][before].cost + way; cost < best[i][state].cost {
					best[i][state] = choice{cost, before}
				}
			}
		}
	}
	s := 0
	for k := range 4 {
		if best[n-1][k].cost < best[n-1][s].cost {
			s = k
		}
	}
	state := make([]int, n)
	for i := n - 1; i >= 0; i-- {
		state[i] = s % 2
		s = best[i][s].from
	}
	// Which of the two names is right for the whole clip the model knows best
	// most of the time.
	flipped := 0
	for _, s := range state {
		flipped += s
	}
	if flipped*2 > n && !anyHand(points, parts) {
		for i := range state {
			state[i] = 1 - state[i]
		}
	}
	swapped := 0
	for i, s := range state {
		if s == 0 {
			continue
		}
		swapped++
		for _, p := range parts {
			l, r := pair(p)
			if l == nil || r == nil {
				continue
			}
			a, b := track.Swap(l, r, first+i, first+i)
			l.Apply(a, true)
			r.Apply(b, true)
		}
	}
	return swapped
}

func anyHand(points kinematics.Points, parts []string) bool {
	for id, t := range points {
		_, part, _ := strings.Cut(id, "_")
		for _, p := range parts {
			if p == part && strings.IndexByte(string(t.Source), 'h') >= 0 {
				return true
			}
		}
	}
	return false
}

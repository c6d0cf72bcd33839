package orbit

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"
)

// way is one way to have joined places up to one.
type way struct {
	frame, n int // which place of which frame is its last
	cost     float64
	length   int     // places
	speed    float64 // turns a second; 0 while it is not known
	sense    float64 // which way round: 1, -1, or 0 while it is not known
	before   *way
}

func (w *way) at(f *Finder) r2.Vec { return f.places[w.frame][w.n].at }

// Path joins what the pictures propose: a place for each frame, and in how many of them the
// implement was seen.
func (f *Finder) Path() (out []Place, seen int) {
	n := len(f.places)
	beams := make([][]*way, n)
	var best *way
	for k := range n {
		var ways []*way
		for i, p := range f.places[k] {
			fresh := &way{frame: k, n: i, cost: p.cost, length: 1}
			ways = append(ways, fresh)
			for back := 1; back <= Bridge(f.scene.Rate)+1 && k-back >= 0; back++ {
				for _, w := range beams[k-back] {
					next := &way{frame: k, n: i, length: w.length + 1, before: w}
					next.cost = w.cost + p.cost - seenGain + missing*float64(back-1) + f.step(w, next)
					ways = append(ways, next)
				}
				if len(f.places[k-back]) > 0 && f.places[k-back][0].hand {
					break // a way does not pass by a place that a hand has set
				}
			}
		}
		beams[k] = pruned(ways)
		for _, w := range beams[k] {
			if best == nil || w.cost < best.cost {
				best = w
			}
		}
	}
	out = make([]Place, n)
	if best == nil || best.length < shortest {
		return out, 0
	}
	var places []*way
	for w := best; w != nil; w = w.before {
		places = append(places, w)
	}
	for i := range places {
		w := places[i]
		out[w.frame] = Place{At: w.at(f), Confidence: f.sure(places, i)}
		seen++
	}
	seen -= f.wide(out)
	speeds := map[int]float64{}
	for _, w := range places {
		speeds[w.frame] = w.speed
	}
	f.bridge(out, speeds)
	return out, seen
}

// wide takes back places about which the path is never far from the shoulders, and gives
// their number: a circle, from wherever it is seen, shows its whole radius twice a turn. What
// goes round nearer is a hand.
func (f *Finder) wide(out []Place) (taken int) {
	far := make([]float64, len(out))
	for k, p := range out {
		if c, ok := f.scene.Shoulders(k); ok && p.Confidence > 0 {
			far[k] = r2.Norm(r2.Sub(p.At, c))
		}
	}
	around := int(math.Round(halfTurn * f.scene.Rate))
	near := make([]bool, len(out))
	for k, p := range out {
		if p.Confidence == 0 || p.Confidence == 1 {
			continue
		}
		most := 0.0
		for g := max(0, k-around); g <= min(len(out)-1, k+around); g++ {
			most = math.Max(most, far[g])
		}
		near[k] = most < widest*f.scene.Reach
	}
	for k := range out {
		if near[k] {
			out[k] = Place{}
			taken++
		}
	}
	return taken
}

// step is what it costs that a way goes on to a next place, and sets how that one turns.
func (f *Finder) step(w, next *way) float64 {
	at, dt := next.at(f), float64(next.frame-w.frame)
	p2 := w.at(f)
	if w.before == nil {
		// Nothing is known but that it does not go faster than anybody swings it.
		if r2.Norm(r2.Sub(at, p2)) > 2*math.Pi*speeds[len(speeds)-1]/f.scene.Rate*dt*f.scene.Reach {
			return 2 * offPath
		}
		return 1
	}
	p1, d1 := w.before.at(f), float64(w.frame-w.before.frame)
	c1, ok1 := f.scene.Shoulders(w.before.frame)
	c2, ok2 := f.scene.Shoulders(w.frame)
	c3, ok3 := f.scene.Shoulders(next.frame)
	if !ok1 || !ok2 || !ok3 {
		return offPath
	}
	a, b, c := r2.Sub(p1, c1), r2.Sub(p2, c2), r2.Sub(at, c3)
	sd := f.scene.Reach*slack*math.Sqrt(dt) + 0.1*r2.Norm(r2.Sub(at, p2))
	least := 2 * offPath
	for _, s := range speeds {
		off := f.off(a, b, c, d1, dt, s)
		cost := off * off / (2 * sd * sd)
		if w.speed > 0 {
			change := math.Log(s/w.speed) / quicker
			cost += change * change / 2
		}
		if cost < least {
			least, next.speed = cost, s
		}
	}
	if next.speed == 0 {
		next.speed = w.speed
	}
	next.sense = w.sense
	if turn := r2.Cross(b, c) / (r2.Norm(b)*r2.Norm(c) + 1e-9); math.Abs(turn) > turning {
		if next.sense = math.Copysign(1, turn); w.sense*next.sense < 0 {
			least += otherWay
		}
	}
	return math.Min(offPath+otherWay, least)
}

// off is how far a third place about the shoulders lies off the even turning at a speed
// through two before it: seen from anywhere, each coordinate of what goes round goes to and
// fro as a pendulum does.
func (f *Finder) off(a, b, c r2.Vec, d1, d2, speed float64) float64 {
	turn := 2 * math.Pi * speed / f.scene.Rate
	sin := math.Sin(turn * d1)
	if turn*(d1+d2) > 1.1*math.Pi || sin < 0.1 && turn > 0.2 {
		return math.Inf(1)
	}
	want := r2.Sub(r2.Scale(math.Sin(turn*(d1+d2))/sin, b), r2.Scale(math.Sin(turn*d2)/sin, a))
	return r2.Norm(r2.Sub(c, want))
}

// sure is how well a place fits its neighbours, 0 to 1.
func (f *Finder) sure(places []*way, i int) float64 {
	w := places[i]
	if f.places[w.frame][w.n].hand {
		return 1
	}
	if i == 0 || i == len(places)-1 {
		return 0.5
	}
	// The list goes backwards.
	next, before := places[i-1], places[i+1]
	c1, _ := f.scene.Shoulders(before.frame)
	c2, _ := f.scene.Shoulders(w.frame)
	c3, _ := f.scene.Shoulders(next.frame)
	off := math.Inf(1)
	for _, s := range speeds {
		off = math.Min(off, f.off(r2.Sub(before.at(f), c1), r2.Sub(w.at(f), c2), r2.Sub(next.at(f), c3), float64(w.frame-before.frame), float64(next.frame-w.frame), s))
	}
	return math.Max(0.2, math.Exp(-off/(0.15*f.scene.Reach)))
}

// bridge fills gaps between places that were seen, at the speed of turning that was found
// there.
func (f *Finder) bridge(out []Place, speeds map[int]float64) {
	last := -1
	for k := range out {
		if out[k].Confidence == 0 {
			continue
		}
		if last >= 0 && k-last-1 <= Bridge(f.scene.Rate) {
			f.span(out, last, k, 2*math.Pi*speeds[k]/f.scene.Rate)
		}
		last = k
	}
}

// span fills a gap by what goes to and fro as a pendulum does, turn radians a picture.
func (f *Finder) span(out []Place, from, to int, turn float64) {
	ca, okA := f.scene.Shoulders(from)
	cb, okB := f.scene.Shoulders(to)
	if !okA || !okB {
		return
	}
	a, b := r2.Sub(out[from].At, ca), r2.Sub(out[to].At, cb)
	d := float64(to - from)
	for g := from + 1; g < to; g++ {
		c, ok := f.scene.Shoulders(g)
		if !ok {
			continue
		}
		u := float64(g - from)
		at := r2.Add(r2.Scale(1-u/d, a), r2.Scale(u/d, b))
		if sin := math.Sin(turn * d); turn*d < 0.8*math.Pi && sin > 0.05 {
			at = r2.Add(r2.Scale(math.Sin(turn*(d-u))/sin, a), r2.Scale(math.Sin(turn*u)/sin, b))
		}
		out[g] = Place{At: r2.Add(c, at), Confidence: 0.15, Bridged: true}
	}
}

// pruned keeps the best ways, of each last place at most a few.
func pruned(ways []*way) []*way {
	sort.SliceStable(ways, func(i, j int) bool { return ways[i].cost < ways[j].cost })
	count := map[int]int{}
	out := ways[:0]
	for _, w := range ways {
		if count[w.n]++; count[w.n] <= kept/proposals {
			out = append(out, w)
		}
		if len(out) == kept {
			break
		}
	}
	return out
}

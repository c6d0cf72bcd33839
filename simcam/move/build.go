package move

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/body"
	"neokinema/simcam/figure"
)

// builder gathers the keys of a motion in any order.
type builder struct {
	m      *Motion
	k      float64 // size against 1.80 m
	hips   []mark
	keys   [channels][]mark // value in X
	flight [][2]float64
	style  uint64
	styled bool // the legs have their style already
}

func newBuilder(p body.Person, w Wish) *builder {
	s := figure.SizesOf(p)
	b := &builder{m: &Motion{Sizes: s, Times: map[string]float64{}, Release: math.NaN()}, k: s.Scale, style: w.Style}
	for arm := range channel(2) {
		b.set(elbow+arm, 0, 160)
	}
	return b
}

// set gives a channel its values at times: t, v, t, v ...
func (b *builder) set(c channel, tv ...float64) {
	for i := 0; i+1 < len(tv); i += 2 {
		b.keys[c] = append(b.keys[c], mark{tv[i], r3.Vec{X: tv[i+1]}})
	}
}

// only forgets what a channel had.
func (b *builder) only(c channel, tv ...float64) {
	b.keys[c] = nil
	b.set(c, tv...)
}

// arm sets the four angles of an arm at a time.
func (b *builder) arm(s int, t, f, o, tn, e float64) {
	for i, v := range [...]float64{f, o, tn, e} {
		b.set([...]channel{flex, out, turn, elbow}[i]+channel(s), t, v)
	}
}

func (b *builder) hip(t float64, v r3.Vec) { b.hips = append(b.hips, mark{t, v}) }

// plant puts a foot down. Sole keys are times and degrees.
func (b *builder) plant(s int, from, to float64, toe r3.Vec, heading float64, sole ...float64) *Plant {
	l := &b.m.legs[s]
	toe.Y = math.Max(toe.Y, sole0)
	pl := Plant{From: from, To: to, Toe: toe, Heading: Keys(from, heading), Sole: Keys(sole...)}
	if len(sole) > 1 && sole[1] < 0 {
		// Heel first: it rolls on the heel until it is flat.
		if toe.Y <= sole0 {
			pl.Toe.Y = sole0 - b.m.Sizes.Foot*math.Sin(sole[1]*math.Pi/180)
		}
		pl.Rolls = []Roll{{From: from, OnHeel: true}}
		for i := 2; i < len(sole); i += 2 {
			if sole[i+1] >= 0 {
				pl.Rolls = append(pl.Rolls, Roll{From: sole[i]})
				break
			}
		}
	}
	l.plants = append(l.plants, pl)
	return &l.plants[len(l.plants)-1]
}

// sole0 is how far the toe's landmark is above the ground in a shoe, m.
const sole0 = 0.022

// swing gives a leg a pose in the air.
func (b *builder) swing(s int, t, flex, out, bend, point float64) {
	b.m.legs[s].vias = append(b.m.legs[s].vias, via{t, figure.Limb{Flex: flex, Out: out, Bend: bend, Point: point}})
}

// swingTurned is swing with the leg turned outward about its length.
func (b *builder) swingTurned(s int, t, flex, out, turn, bend, point float64) {
	b.m.legs[s].vias = append(b.m.legs[s].vias, via{t, figure.Limb{Flex: flex, Out: out, Turn: turn, Bend: bend, Point: point}})
}

// fly lets the centre of mass fall between two times.
func (b *builder) fly(from, to float64) { b.flight = append(b.flight, [2]float64{from, to}) }

func tidy(marks []mark) []mark {
	sort.SliceStable(marks, func(i, j int) bool { return marks[i].t < marks[j].t })
	kept := marks[:0]
	for _, m := range marks {
		if n := len(kept); n > 0 && m.t-kept[n-1].t < 1e-6 {
			kept[n-1] = m // the later wish wins
			continue
		}
		kept = append(kept, m)
	}
	return kept
}

// done joins everything.
func (b *builder) done() *Motion {
	m := b.m
	m.hip = through(tidy(b.hips)...)
	for c, marks := range b.keys {
		var tv []float64
		own := habit(b.style, channel(c))
		by, was := 0.0, math.NaN()
		for _, k := range tidy(marks) {
			if k.X != was { // what is held stays held
				by, was = own(), k.X
			}
			tv = append(tv, k.t, k.X+by)
		}
		m.c[c] = Keys(tv...)
	}
	b.ownSwings()
	for s := range m.legs {
		l := &m.legs[s]
		sort.SliceStable(l.plants, func(i, j int) bool { return l.plants[i].From < l.plants[j].From })
		sort.SliceStable(l.vias, func(i, j int) bool { return l.vias[i].t < l.vias[j].t })
	}
	m.build(b.flight...)
	return m
}

// hipOver is where the hips are when a foot stands at toe with this sole, the
// ankle is ahead of the hip by ahead along the heading, and the leg is bent so
// that hip and ankle are reach times a straight leg apart.
func (b *builder) hipOver(toe r3.Vec, heading, sole, ahead, reach float64) r3.Vec {
	if sole < 0 {
		toe.Y = sole0 - b.m.Sizes.Foot*math.Sin(sole*math.Pi/180) // on the heel
	}
	a := b.m.Sizes.Ankle(figure.Foot{Toe: toe, Heading: heading, Sole: sole})
	l := reach * b.m.Sizes.Leg()
	h := r3.Sub(a, r3.Scale(ahead, figure.Along(heading)))
	h.Y = a.Y + math.Sqrt(math.Max(0, l*l-ahead*ahead))
	return h
}

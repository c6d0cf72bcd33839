package move

import (
	"math"
	"math/rand/v2"
)

// A movement as written is one person's. A style gives it other joint paths and other
// times on the ground, so that nothing that reads movements can have learnt it by heart.
// Physics stays: planted feet stand, whoever is in the air falls with g.

// habits are standard deviations of what is somebody's own in a channel of the trunk,
// degrees.
var habits = map[channel]float64{heading: 2, lean: 1.5, tilt: 1.5, twist: 3, bend: 1.5, side: 1.5, nod: 4, look: 4}

// Of arms and of legs in the air, degrees. All assumed: what athletes of one level
// differ by.
const (
	armHabit  = 6.0
	legHabit  = 4.0
	outHabit  = 2.0
	lastingly = 0.8 // of it the same in the whole movement
)

// habit gives what a style adds to one key of a channel after the other.
func habit(style uint64, c channel) func() float64 {
	if style == 0 || c == shrug || c == shrug+right || c >= pull {
		return func() float64 { return 0 }
	}
	sd, trunk := habits[c]
	if !trunk {
		sd = armHabit
	}
	return wobbling(rand.New(rand.NewPCG(style, uint64(c))), sd)
}

// wobbling is a part that lasts and one that is new each time.
func wobbling(r *rand.Rand, sd float64) func() float64 {
	always := lastingly * sd * within(r)
	return func() float64 { return always + math.Sqrt(1-lastingly*lastingly)*sd*within(r) }
}

// within is a normal number that keeps to two standard deviations.
func within(r *rand.Rand) float64 { return math.Max(-2, math.Min(2, r.NormFloat64())) }

// ownSwings gives the legs in the air their style, once.
func (b *builder) ownSwings() {
	if b.style == 0 || b.styled {
		return
	}
	b.styled = true
	for s := range b.m.legs {
		r := rand.New(rand.NewPCG(b.style, 100+uint64(s)))
		flexed, out, bent, point := wobbling(r, legHabit), wobbling(r, outHabit), wobbling(r, legHabit), wobbling(r, legHabit)
		for i := range b.m.legs[s].vias {
			l := &b.m.legs[s].vias[i].Limb
			l.Flex, l.Out, l.Bend, l.Point = l.Flex+flexed(), l.Out+out(), math.Min(178, l.Bend+bent()), l.Point+point()
		}
	}
}

// rhythm maps true time to the time in which a movement is written. Only stretches in
// which something holds the athlete are lengthened or shortened: at their ends both
// clocks go equally fast, and a flight is as long as gravity makes it.
type rhythm []beat

// beat is such a stretch: written from, and from when to when it truly lasts.
type beat struct{ wrote, from, to, gain float64 }

// at is the written time within the stretch: the clock's speed is 1 + gain sin2, from 1 to
// 1.
func (b beat) at(t float64) float64 {
	long := b.to - b.from
	s := (t - b.from) / long
	return b.wrote + long*(s+b.gain*(s/2-math.Sin(2*math.Pi*s)/(4*math.Pi)))
}

// written is the written time of a true one.
func (r rhythm) written(t float64) float64 {
	out := t
	for _, b := range r {
		if t < b.from {
			break
		}
		if t < b.to {
			return b.at(t)
		}
		out = b.at(b.to) + t - b.to
	}
	return out
}

// real is the true time of a written one.
func (r rhythm) real(t float64) float64 {
	if len(r) == 0 || math.IsNaN(t) {
		return t
	}
	lo, hi := t-2, t+2
	for range 60 {
		if mid := (lo + hi) / 2; r.written(mid) < t {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2
}

// How stretches are cut and how far their lengths differ: logarithm of the share, as
// times on the ground differ between athletes of one level. Assumed.
const (
	shortestBeat = 0.06 // s
	longestBeat  = 0.45
	ownPace      = 0.08
)

// keepTime gives a movement the rhythm of a style.
func (m *Motion) keepTime(style uint64) {
	r := rand.New(rand.NewPCG(style, 200))
	end := m.Last
	if !math.IsNaN(m.Release) {
		end = m.Release
	}
	var out rhythm
	late := 0.0
	held := func(from, to float64) {
		for to-from > shortestBeat {
			long := to - from
			if long > longestBeat {
				long = longestBeat * (0.5 + 0.5*r.Float64())
			}
			share := math.Exp(ownPace * within(r))
			b := beat{wrote: from, from: from + late, to: from + late + long*share, gain: 2 * (1/share - 1)}
			out = append(out, b)
			late += long * (share - 1)
			from += long
		}
	}
	from := m.First
	for _, f := range m.falls {
		if f.from > from && f.from < end {
			held(from, math.Min(f.from, end))
		}
		from = math.Max(from, f.to)
	}
	if from < end {
		held(from, end)
	}
	m.Release, m.Last = out.real(m.Release), out.real(m.Last)
	for id, t := range m.Times {
		m.Times[id] = out.real(t)
	}
	m.rhythm = out
}

// Package hard films the simulated athlete as phones do: small, shaken, slowed down,
// sent twice through a messaging service, with others in the picture. Half of its clips
// are there to build on, the other half, of other seeds, athletes and cameras, to report
// on.
package hard

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"neokinema/core/body"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

// Clip is one clip of the set before it is drawn.
type Clip struct {
	Name   string
	Kinds  []string // what makes it hard
	Report bool     // of the half that is reported on
	Spec   simcam.Spec
	Export Export
}

// kinds of difficulty, in an order that deals them out over events.
var kinds = []string{
	"small", "messenger", "pan", "slow-repeat", "crowd", "net", "camouflage", "child", "slow-blend", "caption",
	"dim", "hevc", "telecine", "post", "loose", "fast-camera", "rolling",
}

// Kinds lists what makes clips hard.
func Kinds() []string { return slices.Clone(kinds) }

// each is how many clips an event has in each half.
const each = 3

// Set is all clips: three an event in each half, both hands, every kind of difficulty
// several times.
func Set() (out []Clip) {
	return append(deal("build", 8470, 0), deal(check, 9470, each*len(move.Events()))...)
}

// Spare is another lot of clips to build on; never reported on.
func Spare(lot int) []Clip {
	n := each * len(move.Events())
	return deal(fmt.Sprintf("spare-%d", lot), 8470+1000*uint64(1+lot), n*(1+lot))
}

// check is the name of the half that is reported on.
const check = "check"

// deal draws up a lot of clips; n numbers them on, so that difficulties go round.
func deal(name string, seed uint64, n int) (out []Clip) {
	for i := range each {
		for _, e := range move.Events() {
			out = append(out, clip(name, e, i, n, rand.New(rand.NewPCG(seed, uint64(n)))))
			n++
		}
	}
	return out
}

// clip draws up one clip: athlete, movement and camera by chance, difficulty by turns.
func clip(lot string, e move.Event, i, n int, r *rand.Rand) Clip {
	between := func(lo, hi float64) float64 { return lo + (hi-lo)*r.Float64() }
	side := func() body.Side { return []body.Side{body.Left, body.Right}[r.IntN(2)] }
	a := body.Person{Sex: []body.Sex{body.Female, body.Male}[r.IntN(2)], Height: math.Round(100*between(1.58, 1.96)) / 100, FrontLeg: side(), ThrowingHand: side(), TakeoffLeg: side()}
	a.Mass = math.Round(between(20.5, 25) * a.Height * a.Height)
	s := simcam.Spec{
		Event: e.ID, Variant: e.Variants[r.IntN(len(e.Variants))].ID, Athlete: a, Hand: a.ThrowingHand, Leg: a.TakeoffLeg, Faults: map[string]float64{}, Direction: []float64{1, -1}[r.IntN(2)],
		CaptureRate: []float64{25, 30, 30, 50, 60}[r.IntN(5)], Width: []int{640, 640, 854, 1280}[r.IntN(4)], Kit: r.IntN(5), Seed: r.Uint64N(1 << 30), Look: simcam.Look{PlainShoes: true},
		Camera: simcam.Camera{Distance: 0, Above: math.Round(10*between(1.0, 1.8)) / 10, Shake: between(0.3, 1.2), Noise: between(1, 4), Compression: 23 + r.IntN(5), Place: place(e.ID, i, r)},
	}
	for range r.IntN(3) {
		f := e.Faults[r.IntN(len(e.Faults))]
		if len(f.Variants) == 0 || slices.Contains(f.Variants, s.Variant) {
			s.Faults[f.Name] = f.Clean + (f.Shown-f.Clean)*between(0.6, 1.1)
			s.Faults[f.Name] = min(max(s.Faults[f.Name], f.Min), f.Max)
		}
	}
	switch e.ID {
	case "running":
		s.Speed = math.Round(10*between(3.4, 7.5)) / 10
		long(&s, r)
	case "long-jump", "high-jump", "pole-vault", "javelin":
		long(&s, r)
	case "sprint-start":
		s.Width = max(s.Width, 854)
	case "hammer", "weight":
		s.Turns = 3 + r.IntN(2)
	}
	c := Clip{Report: lot == check, Spec: s}
	c.harder(kinds[n%len(kinds)], r)
	if r.IntN(3) == 0 { // a second one
		c.harder(kinds[r.IntN(len(kinds))], r)
	}
	c.Spec.Height = c.Spec.Width * 9 / 16 / 2 * 2
	if c.Spec.FileRate == 0 {
		c.Spec.FileRate = c.Spec.CaptureRate
	}
	c.Spec.Camera.Exposure = min(c.Spec.Camera.Exposure, 0.9/c.Spec.CaptureRate)
	c.Name = fmt.Sprintf("%s-%s-%d", e.ID, lot, i+1)
	return c
}

// long films what runs through the place: most follow the athlete, some stand far away
// with a good telephone.
func long(s *simcam.Spec, r *rand.Rand) {
	if r.IntN(10) < 7 {
		s.Camera.Pan, s.Camera.Zoom = true, 0.6+0.3*r.Float64()
		return
	}
	s.Width = 1280
}

// place is where the camera stands: as the event is filmed, now and then elsewhere.
func place(event string, i int, r *rand.Rand) string {
	switch event {
	case "hammer", "weight", "discus":
		return []string{"back", "back", "side"}[i]
	case "shot":
		return []string{"side", "back", "side"}[i]
	}
	if r.IntN(6) == 0 {
		return "oblique"
	}
	return "side"
}

// harder makes a clip harder in one way; ways that exclude each other leave it as it is.
func (c *Clip) harder(kind string, r *rand.Rand) {
	s := &c.Spec
	if slices.Contains(c.Kinds, kind) || c.Export.Slow != "" && (kind == "slow-repeat" || kind == "slow-blend" || kind == "telecine" || kind == "fast-camera") {
		return
	}
	switch kind {
	case "small":
		s.Width = s.Width * 2 / 3 / 32 * 32
	case "messenger":
		c.Export.Passes = append(c.Export.Passes, Pass{"x264", 30 + r.IntN(4)}, Pass{"x264", 31 + r.IntN(4)})
		s.Width = min(s.Width, 640)
	case "pan":
		s.Camera.Pan, s.Camera.Shake = true, 2.5+2*r.Float64()
	case "slow-repeat":
		s.CaptureRate, s.FileRate = 30, 30
		c.Export.Slow, c.Export.Factor = Repeats, 2+2*r.IntN(2)
	case "slow-blend":
		s.CaptureRate, s.FileRate = 30, 30
		c.Export.Slow, c.Export.Factor = Blends, 2+2*r.IntN(2)
	case "telecine":
		q := [][2]float64{{24, 30}, {25, 30}, {24, 60}, {30, 50}}[r.IntN(4)]
		s.CaptureRate, s.FileRate = q[0], q[0]
		c.Export.Slow, c.Export.Rate = Repeats, q[1]
	case "crowd":
		for range 2 + r.IntN(2) {
			o := simcam.Other{Along: 3 * (r.Float64() - 0.5), Aside: 2 + 4*r.Float64(), Heading: 360 * r.Float64(), Kit: s.Kit + r.IntN(2), Athlete: s.Athlete}
			if r.IntN(2) == 0 {
				o.Speed, o.Heading = 1.2, []float64{0, 180}[r.IntN(2)]
			}
			s.Others = append(s.Others, o)
		}
	case "net":
		s.Camera.Net = true
	case "post":
		s.Camera.Post = true
	case "camouflage":
		s.Look.Camouflage = true
	case "loose":
		s.Look.Loose, s.Look.LongHair = true, true
	case "child":
		s.Athlete.Height = 1.25 + 0.2*r.Float64()
		s.Athlete.Mass = math.Round(17 * s.Athlete.Height * s.Athlete.Height)
		s.Athlete.Age = 11
	case "caption":
		c.Export.Caption = true
	case "dim":
		s.Camera.Dim, s.Camera.Noise, s.Camera.Exposure = 0.35+0.2*r.Float64(), 7+5*r.Float64(), 0.012
	case "hevc":
		c.Export.Passes = append(c.Export.Passes, Pass{"x265", 32 + r.IntN(4)})
	case "fast-camera":
		s.CaptureRate, s.FileRate = []float64{120, 240}[r.IntN(2)], 30
		s.Width = min(s.Width, 640)
	case "rolling":
		c.Export.Rolling = 0.016
		s.Camera.Shake = max(s.Camera.Shake, 2)
	}
	c.Kinds = append(c.Kinds, kind)
}

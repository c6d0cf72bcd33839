// Package study draws up attempts that nobody has shaped anything on: athletes,
// movements, cameras and errors of points by chance, of fixed seeds. One lot is there to
// build on, the other to report on.
//
// It gives the core points, not pictures: what a pose network, a tracker and a coach would
// have placed, and beside it what is true.
package study

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
)

// Lot is a half of the material.
type Lot uint64

// The lots differ in every seed; figures are of Check.
const (
	Build Lot = 11
	Check Lot = 12
	Spare Lot = 13 // another lot to build on
)

// Attempt is a movement before a camera.
type Attempt struct {
	Name  string
	Spec  simcam.Spec
	Model model.Model
	Scene *simcam.Scene
	seed  uint64
}

// Draw draws up n attempts at every event; faulty says how many faults of the event's
// dials each has at most.
func Draw(lot Lot, n, faulty int) ([]Attempt, error) { return DrawOf(lot, n, faulty) }

// DrawOf draws up the same attempts of some events alone; of all without any.
func DrawOf(lot Lot, n, faulty int, events ...string) ([]Attempt, error) {
	return draw(lot, n, events, func(e move.Event, s *simcam.Spec, r *rand.Rand) {
		for range r.IntN(faulty + 1) {
			d := e.Faults[r.IntN(len(e.Faults))]
			if len(d.Variants) == 0 || slices.Contains(d.Variants, s.Variant) {
				s.Faults[d.Name] = min(max(d.Clean+(d.Shown-d.Clean)*(0.8+0.4*r.Float64()), d.Min), d.Max)
			}
		}
	})
}

// Doubled draws up n attempts at every event with one fault each, twice as large as one that
// shows plainly, as far as the dial goes.
func Doubled(lot Lot, n int) ([]Attempt, error) {
	return draw(lot, n, nil, func(e move.Event, s *simcam.Spec, r *rand.Rand) {
		var fits []move.Dial
		for _, d := range e.Faults {
			if _, ok := points.FaultOf(e.ID, s.Variant, d.Name, s.Mirrored()); ok && (len(d.Variants) == 0 || slices.Contains(d.Variants, s.Variant)) {
				fits = append(fits, d)
			}
		}
		d := fits[r.IntN(len(fits))]
		s.Faults[d.Name] = min(max(d.Clean+2*(d.Shown-d.Clean), d.Min), d.Max)
	})
}

func draw(lot Lot, n int, events []string, faults func(move.Event, *simcam.Spec, *rand.Rand)) ([]Attempt, error) {
	var out []Attempt
	for k := range n {
		for i, e := range move.Events() {
			if len(events) > 0 && !slices.Contains(events, e.ID) {
				continue
			}
			r := rand.New(rand.NewPCG(uint64(lot), uint64(k*len(move.Events())+i)))
			a := Attempt{Name: fmt.Sprintf("%s-%d-%d", e.ID, lot, k), Spec: spec(e, r), seed: r.Uint64()}
			faults(e, &a.Spec, r)
			var err error
			if a.Scene, err = simcam.New(a.Spec); err != nil {
				return nil, fmt.Errorf("%s: %w", a.Name, err)
			}
			if a.Model, err = models.Load(e.ID); err != nil {
				return nil, err
			}
			a.Model = a.Model.As(a.Spec.Variant)
			out = append(out, a)
		}
	}
	return out, nil
}

// follows are the events whose camera mostly follows the athlete.
var follows = []string{"running", "javelin", "long-jump", "high-jump", "pole-vault"}

// spec is an athlete, a movement and a camera by chance.
func spec(e move.Event, r *rand.Rand) simcam.Spec {
	between := func(lo, hi float64) float64 { return lo + (hi-lo)*r.Float64() }
	side := func() body.Side { return []body.Side{body.Left, body.Right}[r.IntN(2)] }
	a := body.Person{Sex: []body.Sex{body.Female, body.Male}[r.IntN(2)], Height: math.Round(100*between(1.45, 2.02)) / 100, FrontLeg: side(), ThrowingHand: side(), TakeoffLeg: side()}
	a.Mass = math.Round(between(19, 26) * a.Height * a.Height)
	s := simcam.Spec{
		Event: e.ID, Variant: e.Variants[r.IntN(len(e.Variants))].ID, Athlete: a, Hand: a.ThrowingHand, Leg: a.TakeoffLeg, Faults: map[string]float64{},
		Direction: []float64{1, -1}[r.IntN(2)], CaptureRate: []float64{60, 120, 120, 240, 240}[r.IntN(5)], Width: 1280, Height: 720, Style: 1 + r.Uint64N(1<<40), Seed: r.Uint64N(1 << 30),
		Camera: simcam.Camera{Above: math.Round(10*between(0.9, 1.9)) / 10, Turned: math.Round(between(-14, 14)), Pan: slices.Contains(follows, e.ID) && r.IntN(3) > 0},
	}
	s.FileRate = s.CaptureRate
	switch e.ID {
	case "running":
		s.Speed = math.Round(10*between(3.2, 8.2)) / 10
	case "hammer", "weight":
		s.Turns = 3 + r.IntN(2)
		s.Camera.Place = "back"
	case "discus":
		s.Camera.Place = []string{"back", "side"}[r.IntN(2)]
	case "shot":
		s.Camera.Place = []string{"side", "back"}[r.IntN(2)]
	}
	if m, err := move.New(a, move.Wish{Event: e.ID, Variant: s.Variant, Speed: s.Speed, Turns: s.Turns}); err == nil {
		s.Camera.Distance = math.Round(10*m.Props.Stand()*between(0.7, 1.8)) / 10
	}
	return s
}

// Noise is how points are off.
type Noise struct {
	Name  string
	White float64 // px, at 450 px standing height for a draft
	Draft bool    // joints wander, jump and are taken for each other as a network's do
}

// Noises that are tried.
var (
	Exact  = Noise{Name: "white-0.3", White: 0.3}
	White  = Noise{Name: "white-1", White: 1}
	Drafts = Noise{Name: "draft", White: 0.8, Draft: true}
)

// Of a draft: px at 450 px standing height by which joints wander, and how long they stay
// off, s. Seen in drafts of drawn clips.
var wander = map[string]float64{"ear": 3.5, "shoulder": 4.8, "elbow": 4, "wrist": 4.5, "hand": 4.5, "hip": 6.6, "knee": 2.1, "ankle": 2.1, "heel": 5, "toe": 5}

const (
	wanderTime = 0.12
	drawnTall  = 450.0
)

// Tall is how high the athlete stands in the picture, px: the middle frame's scale.
func (a Attempt) Tall() float64 {
	t := a.Scene.Truth
	f := t.Frames[len(t.Frames)/2]
	l, r := f.Landmarks["left_hip"].World, f.Landmarks["right_hip"].World
	p := f.Camera[2]
	depth := p[0]*(l[0]+r[0])/2 + p[1]*(l[1]+r[1])/2 + p[2]*(l[2]+r[2])/2 + p[3]
	return t.Focal / depth * a.Spec.Athlete.Height
}

// Points places every landmark in every frame, with a noise.
func (a Attempt) Points(n Noise) kinematics.Points {
	t := a.Scene.Truth
	out := points.All(t, 0, 1)
	r := rand.New(rand.NewPCG(a.seed, 1))
	big := a.Tall() / drawnTall
	keep := math.Exp(-1 / (wanderTime * a.Spec.CaptureRate))
	for _, id := range body.Landmarks() {
		tr := out[id]
		white, slow, x, y := n.White, 0.0, 0.0, 0.0
		if n.Draft {
			white *= big
			slow = wander[id[max(0, indexOf(id)+1):]] * big
			x, y = slow*r.NormFloat64(), slow*r.NormFloat64()
		}
		for f := range tr.X {
			push := slow * math.Sqrt(1-keep*keep)
			x, y = keep*x+push*r.NormFloat64(), keep*y+push*r.NormFloat64()
			at := track.Point{X: float64(tr.X[f]) + x + white*r.NormFloat64(), Y: float64(tr.Y[f]) + y + white*r.NormFloat64(), Source: track.Draft.String(), Confidence: 0.95}
			if !n.Draft {
				at.Source = track.Tracked.String() // a network's joints are farther off than they tremble
			}
			_ = tr.Set(f, &at)
		}
	}
	if n.Draft {
		a.spoil(out, r, big)
	}
	return out
}

func indexOf(id string) int {
	for i, c := range id {
		if c == '_' {
			return i
		}
	}
	return -1
}

// spoil adds what networks do now and then: a joint that is elsewhere for some frames, legs
// that are taken for each other, frames without a point.
func (a Attempt) spoil(p kinematics.Points, r *rand.Rand, big float64) {
	frames := len(a.Scene.Truth.Frames)
	ids := body.Landmarks()
	for range 1 + frames/120 {
		tr, at := p[ids[r.IntN(len(ids))]], r.IntN(frames)
		dx, dy := 30*big*r.NormFloat64(), 30*big*r.NormFloat64()
		for f := at; f < min(at+5, frames); f++ {
			tr.X[f], tr.Y[f] = tr.X[f]+float32(dx), tr.Y[f]+float32(dy)
		}
	}
	for range 1 + frames/240 {
		at, long := r.IntN(frames), int((0.05+0.1*r.Float64())*a.Spec.CaptureRate)
		for _, part := range []string{"knee", "ankle", "heel", "toe"} {
			l, q := p["left_"+part], p["right_"+part]
			for f := at; f < min(at+long, frames); f++ {
				l.X[f], q.X[f] = q.X[f], l.X[f]
				l.Y[f], q.Y[f] = q.Y[f], l.Y[f]
			}
		}
	}
	for range 1 + frames/120 {
		tr, at := p[ids[r.IntN(len(ids))]], r.IntN(frames)
		for f := at; f < min(at+3, frames); f++ {
			_ = tr.Set(f, nil)
		}
	}
}

// legSpread is how much the legs of adults of one height differ, as a share: of a sitting height
// of 52 % of the stature with a standard deviation of 1.4. From memory of anthropometric tables.
const legSpread = 0.029

// Input is an attempt as the core gets it: points with a noise, and flags at the true
// moments if the coach has set them.
func (a Attempt) Input(n Noise, flagged bool) evaluate.Input {
	t := a.Scene.Truth
	p := a.Points(n)
	click := 1.5
	if t.Event == "discus" {
		if x, y := points.Rims(t, 1, a.seed); x != nil && !n.Draft {
			p["rim_a"], p["rim_b"] = x, y
		}
	}
	if p["ball"] != nil {
		p["ball"] = points.Ball(t, max(n.White, 0.5), a.seed)
	}
	delete(p, "grip")
	in := points.Input(t, p)
	// Legs of people of one height differ, and the tool knows the height alone.
	in.Athlete.Height *= 1 + legSpread*rand.New(rand.NewPCG(a.seed, 2)).NormFloat64()
	in.Ground = points.Circle(t, click, a.seed)
	if flagged {
		a.Flag(&in)
	}
	return in
}

// OtherSide is the card of somebody who does it with the other hand or leg.
func OtherSide(in *evaluate.Input) {
	a := &in.Athlete
	a.ThrowingHand, a.TakeoffLeg, a.FrontLeg = a.ThrowingHand.Other(), a.TakeoffLeg.Other(), a.FrontLeg.Other()
}

// Flag sets all flags at the true moments.
func (a Attempt) Flag(in *evaluate.Input) {
	for _, p := range a.Model.Positions {
		if f, ok := a.Scene.Truth.Positions[p.ID]; ok && f >= 0 && f < len(a.Scene.Truth.Frames) {
			in.Flags[p.ID] = f
		}
	}
}

// TruthRate is the rate of the camera that sees what is true, 1/s.
const TruthRate = 480

// Truth is the report of the same movement by exact points of a far camera that stands
// square and still, at a rate that no phone has, with every moment as it truly is.
func (a Attempt) Truth() (report.Report, *simcam.Scene, error) {
	s := a.Spec
	s.CaptureRate, s.FileRate = TruthRate, 30
	s.Camera = simcam.Camera{Place: s.Camera.Place, Distance: 60, Above: 1.2}
	sc, err := simcam.New(s)
	if err != nil {
		return report.Report{}, nil, err
	}
	t := sc.Truth
	b := Attempt{Spec: s, Model: a.Model, Scene: sc}
	in := points.Input(t, b.Points(Noise{}))
	delete(in.Points, "grip")
	if x, y := points.Rims(t, 0, 1); x != nil {
		in.Points["rim_a"], in.Points["rim_b"] = x, y
	}
	b.Flag(&in)
	in.Ground = points.Circle(t, 0, 1)
	in.Contacts = Contacts(t)
	return evaluate.Attempt(a.Model, in), sc, nil
}

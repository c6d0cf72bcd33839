package contact

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/core/timebase"
	"neokinema/core/track"
)

func TestBetween(t *testing.T) {
	c, err := timebase.New([]int64{0, 3000, 6000, 9000, 12000}, 30, 120)
	if err != nil {
		t.Fatal(err)
	}
	b, ok := Between(c, body.Left, "step 1", 1, 1, 4)
	if !ok || b.Seconds == nil || math.Abs(b.Seconds.Value-3.0/120) > 1e-12 || b.Foot != body.Left {
		t.Errorf("%+v %v", b, ok)
	}
	if b, _ := Between(c, body.Right, "pedal", 0, 2, 4); math.Abs(b.Seconds.Value-2.0/120) > 1e-12 {
		t.Errorf("a push counts from the first movement: %+v", b)
	}
	for _, f := range [][3]int{{2, 2, 2}, {3, 3, 1}, {-1, 0, 2}, {0, 0, 5}, {2, 1, 4}} {
		if _, ok := Between(c, body.Left, "", f[0], f[1], f[2]); ok {
			t.Errorf("frames %v made a bar", f)
		}
	}
	unknown, _ := timebase.New([]int64{0, 3000}, 30, 0)
	if b, ok := Between(unknown, body.Left, "", 0, 0, 1); !ok || b.Seconds != nil {
		t.Errorf("without a rate: %+v", b)
	}
}

// arc is an ankle that stands still, goes round a toe, and leaves it: at 240/s,
// touchdown at frame 20, heel rise at 44, toe-off at 70.
func arc(noise float64, seed uint64) (*kinematics.Path, r2.Vec) {
	r := rand.New(rand.NewPCG(seed, 3))
	toe := r2.Vec{X: 540, Y: 30}
	foot := r2.Vec{X: -47, Y: 24} // ankle from toe while flat, px; 450 px are a height
	p := &kinematics.Path{Cutoff: 10, Noise: noise}
	for f := range 110 {
		a := 0.0
		switch {
		case f > 44:
			a = -0.034 * float64(min(f, 70)-44)
		}
		c, s := math.Cos(a), math.Sin(a)
		at := r2.Add(toe, r2.Vec{X: c*foot.X - s*foot.Y, Y: s*foot.X + c*foot.Y})
		if f > 70 {
			d := float64(f - 70)
			at = r2.Add(at, r2.Vec{X: 4 * d, Y: 2*d + 0.5*d*d})
		}
		if f < 20 {
			d := float64(20 - f)
			at = r2.Add(at, r2.Vec{X: -9 * d, Y: 3 * d})
		}
		at = r2.Add(at, r2.Vec{X: noise * r.NormFloat64(), Y: noise * r.NormFloat64()})
		p.Raw, p.At, p.V = append(p.Raw, at), append(p.At, at), append(p.V, r2.Vec{})
	}
	return p, toe
}

func TestContactFromThePicture(t *testing.T) {
	for seed := range uint64(5) {
		ankle, toe := arc(0.3, seed)
		// The heel's look holds from the touchdown on; the ball's a little later.
		var heel, ball []Patch
		for f := range 45 {
			h, b := Patch{Off: 0.4, Likeness: 0.95}, Patch{Off: 0.5, Likeness: 0.9}
			if d := float64(20 - f); d > 0 {
				h = Patch{Off: 7 * d, By: r2.Vec{X: -7 * d}, Likeness: 0.6}
			}
			if d := float64(26 - f); d > 0 {
				b = Patch{Off: 5 * d, By: r2.Vec{Y: 5 * d}, Likeness: 0.8}
			}
			if f == 33 {
				h = Patch{Off: 50, Likeness: 0.1} // a leg passes
			}
			heel, ball = append(heel, h), append(ball, b)
		}
		// The nominal toe is some px off.
		got, pivot := FromPicture(Candidate{body.Right, 20, 50}, 0, 36, [][]Patch{ball, heel}, ankle, r2.Add(toe, r2.Vec{X: 3, Y: -2}), 450, 240)
		if got.From != 20 || max(got.To-71, 71-got.To) > 3 || r2.Norm(r2.Sub(pivot, toe)) > 8 {
			t.Errorf("seed %d: %d to %d (sd %.1f), pivot %.1f px off", seed, got.From, got.To, got.ToSD, r2.Norm(r2.Sub(pivot, toe)))
		}
	}
	// What the picture does not tell is said by the ankle: when it began to go round
	// the toe, or, where it was not seen just then, about when it was low and slow.
	ankle, toe := arc(0.3, 9)
	blind := make([]Patch, 45)
	for i := range blind {
		blind[i].Off = math.Inf(1)
	}
	stand := func() Contact {
		got, _ := FromPicture(Candidate{body.Right, 22, 50}, 0, 36, [][]Patch{blind}, ankle, toe, 450, 240)
		return got
	}
	if got := stand(); got.From != 20 || got.FromSD < 1 {
		t.Errorf("blind: %+v", got)
	}
	for f := 16; f < 24; f++ {
		ankle.Raw[f] = r2.Vec{X: math.NaN()}
	}
	if got := stand(); got.From != 22 || got.FromSD < 2 || got.Confidence > 0.6 {
		t.Errorf("blind, with a hole: %+v", got)
	}
}

func TestRoughStandsByTheAnkle(t *testing.T) {
	ankle, _ := arc(0.2, 1)
	for i := 1; i < len(ankle.At)-1; i++ {
		ankle.V[i] = r2.Scale(120, r2.Sub(ankle.At[i+1], ankle.At[i-1]))
	}
	list := Candidates([]Foot{{Side: body.Right, Ankle: ankle}, {Side: body.Left}}, 240, 450)
	if len(list) != 1 || list[0].Foot != body.Right || list[0].From < 18 || list[0].From > 24 || list[0].To < 44 || list[0].To > 74 {
		t.Errorf("%+v", list)
	}
}

// falls is an ankle that comes down at a speed (standing heights a second, to the
// toe's place and down) and then goes round it; the toe stays at the origin.
func falls(rate, speed, noise float64, touchdown, n int, seed uint64) *kinematics.Path {
	r := rand.New(rand.NewPCG(seed, 5))
	const height = 400.0
	p := &kinematics.Path{}
	for f := range n {
		a := 0.5 * float64(max(0, f-touchdown)) / rate // rolls on slowly
		s, c := math.Sincos(-a)
		at := r2.Vec{X: -c*45 - s*22, Y: -s*45 + c*22}
		if d := float64(touchdown-f) / rate; d > 0 {
			at = r2.Add(at, r2.Vec{X: -0.8 * speed * height * d, Y: 0.6 * speed * height * d})
		}
		p.Raw = append(p.Raw, r2.Add(at, r2.Vec{X: noise * r.NormFloat64(), Y: noise * r.NormFloat64()}))
	}
	return p
}

// The touchdown by the ankle's turn about the toe: to the frame, at the rates and
// speeds that phones and runners have, from a guess that is some frames off; what
// passes in front of the standing foot does not count.
func TestLands(t *testing.T) {
	for _, rate := range []float64{60, 120, 240} {
		for _, speed := range []float64{0.9, 2, 4} { // 1.6 to 7 m/s
			for seed := range uint64(4) {
				guess := 40 + int(0.02*rate)*(int(seed)%3-1)
				p := falls(rate, speed, 0.15, 40, 90, seed)
				at, ok := lands(p, 5, 70, guess, r2.Vec{}, rate, 400)
				if !ok || max(at-40, 40-at) > 1 {
					t.Errorf("%g/s, %g heights a second, guess %d: %d %v", rate, speed, guess, at, ok)
				}
			}
		}
	}
	p := falls(240, 2, 0.15, 40, 90, 1)
	for f := 58; f < 62; f++ {
		p.Raw[f] = r2.Add(p.Raw[f], r2.Vec{X: 30}) // beyond where the search begins
	}
	if at, ok := lands(p, 5, 70, 41, r2.Vec{}, 240, 400); !ok || at != 40 {
		t.Errorf("with a leg that passes later: %d %v", at, ok)
	}
	p.Raw[44].X, p.Raw[40].X = math.NaN(), math.NaN()
	if at, ok := lands(p, 5, 70, 41, r2.Vec{}, 240, 400); !ok || max(at-40, 40-at) > 1 {
		t.Errorf("with two holes of a frame: %d %v", at, ok)
	}
	for f := 36; f < 46; f++ {
		p.Raw[f].X = math.NaN()
	}
	if at, ok := lands(p, 5, 70, 41, r2.Vec{}, 240, 400); ok {
		t.Errorf("an ankle that was not seen landed at %d", at)
	}
	still := falls(240, 2, 0.1, -50, 90, 2)
	if at, ok := lands(still, 5, 70, 41, r2.Vec{}, 240, 400); ok {
		t.Errorf("a foot that stands all the time landed at %d", at)
	}
}

// A draft leaps to the other ankle, slips for a frame, or loses the foot for good
// once it has left: none of it moves the toe-off.
func TestDraftsThatLeapKeepTheToeOff(t *testing.T) {
	looks := [][]Patch{make([]Patch, 45)}
	for f := range looks[0] {
		looks[0][f] = Patch{Likeness: 0.95}
		if d := float64(20 - f); d > 0 {
			looks[0][f] = Patch{Off: 7 * d, By: r2.Vec{X: -7 * d}, Likeness: 0.6}
		}
	}
	for name, spoil := range map[string]func(*kinematics.Path){
		"nothing":    func(*kinematics.Path) {},
		"a slip":     func(p *kinematics.Path) { p.Raw[55] = r2.Add(p.Raw[55], r2.Vec{X: -12}) },
		"the middle": func(p *kinematics.Path) { p.Raw[35] = r2.Add(p.Raw[35], r2.Vec{X: -50, Y: 60}) },
		"a leg that passes": func(p *kinematics.Path) {
			for f := 56; f < 62; f++ {
				p.Raw[f] = r2.Add(p.Raw[f], r2.Vec{X: 60})
			}
		},
		"never comes back": func(p *kinematics.Path) {
			for f := 86; f < len(p.Raw); f++ {
				p.Raw[f] = r2.Add(p.Raw[40], r2.Vec{X: 3})
			}
		},
		"creeps by a tenth": func(p *kinematics.Path) {
			for f := 50; f < len(p.Raw); f++ {
				p.Raw[f].X += 0.02 * float64(f-50)
			}
		},
	} {
		ankle, toe := arc(0.2, 4)
		spoil(ankle)
		s := Candidate{body.Right, 20, 50}
		mid := s.Middle(ankle, 450)
		got, _ := FromPicture(s, 0, mid, [][]Patch{looks[0][:min(45, mid+1)]}, ankle, toe, 450, 240)
		if max(got.To-71, 71-got.To) > 2 || max(got.From-20, 20-got.From) > 1 {
			t.Errorf("%s: %d to %d, middle %d", name, got.From, got.To, mid)
		}
	}
}

// Whatever a foot does at the ends of a clip, its contacts lie within it.
func TestContactsLieWithinTheClip(t *testing.T) {
	const rate, tall, n = 240, 400, 90
	found := 0
	for seed := range uint64(600) {
		r := rand.New(rand.NewPCG(seed, 12))
		rests, leaves := max(0, r.IntN(20)-6), n-1-r.IntN(14)
		slow := []float64{0.1, 0.3, 1, 4}[r.IntN(4)] // px a frame
		keep := []float64{0.8, 0.95, 0.98}[r.IntN(3)]
		push := []float64{0.3, 0.8, 2}[r.IntN(3)]
		draw := func(dx, dy float64) *kinematics.Path {
			tr := track.New(n)
			wx, wy := 0.0, 0.0
			for f := range n {
				wx, wy = keep*wx+push*r.NormFloat64(), keep*wy+push*r.NormFloat64()
				x, y := 300.0, 0.0
				if f < rests {
					x, y = 300-slow*float64(rests-f), 0.4*slow*float64(rests-f)
				}
				if f > leaves {
					x, y = 300+slow*float64(f-leaves), 0.4*slow*float64(f-leaves)
				}
				sure := 0.9
				if f < 2 && seed%3 == 0 {
					x, sure = x+70*float64(1-f), 0.1 // the first points are guesses, one of them wild
				}
				if err := tr.Set(f, &track.Point{X: x + dx + wx, Y: 600 - y - dy + wy, Source: track.Draft.String(), Confidence: sure}); err != nil {
					t.Fatal(err)
				}
			}
			p := kinematics.Smooth(tr, rate, "", func(_ int, p r2.Vec) r2.Vec { return r2.Vec{X: p.X, Y: 600 - p.Y} })
			return &p
		}
		foot := Foot{Side: body.Left, Toe: draw(40, 0), Heel: draw(0, 2), Ankle: draw(5, 20)}
		for _, c := range Detect([]Foot{foot}, rate, tall, 1, Ground{}) {
			found++
			if rests == 0 && seed%3 == 0 && c.From < 3 && !c.Before {
				t.Errorf("seed %d: a foot that rests from the first frame on comes down at %d", seed, c.From)
			}
			if c.From < 0 || c.To >= n || c.From > c.To || math.IsNaN(c.FromSD) || math.IsNaN(c.ToSD) {
				t.Fatalf("seed %d: rests from %d to %d, found %+v", seed, rests, leaves, c)
			}
		}
	}
	if found < 300 {
		t.Errorf("%d contacts are found in 600 clips", found)
	}
}

package videoanalysis

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/track"
)

// on makes a foot on a pedal of a slope, as its ankle is tracked: it turns slowly
// round the toe until frame off, then the toe leaves.
func on(slope float64, off int, noise float64) *kinematics.Movement {
	r := rand.New(rand.NewPCG(uint64(slope), 1))
	const tall = 400.0
	s, c := math.Sincos(slope * math.Pi / 180)
	toe := r2.Vec{X: 300, Y: 80}
	foot := r2.Scale(tall*r2.Norm(tip), r2.Vec{X: -c, Y: s})
	p := &kinematics.Path{Cutoff: 10, Noise: noise}
	for f := range off + 60 {
		a := -0.25 * math.Pow(math.Max(0, float64(f-off+40))/40, 2) // the heel rises before the toe leaves
		cs, sn := math.Cos(a), math.Sin(a)
		at := r2.Add(toe, r2.Vec{X: cs*foot.X - sn*foot.Y, Y: sn*foot.X + cs*foot.Y})
		if d := float64(f - off); d > 0 {
			at = r2.Add(at, r2.Vec{X: 5 * d, Y: 1.5 * d})
		}
		at = r2.Add(at, r2.Vec{X: noise * r.NormFloat64(), Y: noise * r.NormFloat64()})
		p.Raw, p.At, p.V = append(p.Raw, at), append(p.At, at), append(p.V, r2.Vec{})
	}
	return &kinematics.Movement{Film: kinematics.Film{Rate: 240}, Paths: map[string]*kinematics.Path{"left_ankle": p}}
}

// The end of a push is found for the slopes that pedals have (common practice: 40
// degrees and more), which nobody tells; on flatter ones it is found late.
func TestPedalsOfUnknownSlope(t *testing.T) {
	for _, slope := range []float64{45, 60, 80} {
		for _, off := range []int{90, 140} {
			m := on(slope, off, 0.15)
			got, ok := pedal(m, contact.Candidate{Foot: body.Left, From: 0, To: off - 15}, 400, 240)
			if !ok || max(got.To-off, off-got.To) > 4 || !got.Before || got.Foot != body.Left {
				t.Errorf("slope %g, left at %d: %+v %v", slope, off, got, ok)
			}
		}
	}
	empty := &kinematics.Movement{Film: kinematics.Film{Rate: 240}, Paths: map[string]*kinematics.Path{}}
	if _, ok := pedal(empty, contact.Candidate{Foot: body.Left, From: 0, To: 20}, 400, 240); ok {
		t.Error("a foot without a track stands on a pedal")
	}
}

// A place of the foot goes with its ankle round the toe; the distance to the toe
// stays.
func TestTurned(t *testing.T) {
	toe, ankle, heel := r2.Vec{X: 100, Y: 10}, r2.Vec{X: 60, Y: 40}, r2.Vec{X: 40, Y: 12}
	for _, deg := range []float64{0, -20, -65, 15} {
		s, c := math.Sincos(deg * math.Pi / 180)
		u := r2.Sub(ankle, toe)
		to := r2.Add(toe, r2.Vec{X: c*u.X - s*u.Y, Y: s*u.X + c*u.Y})
		d := r2.Sub(heel, toe)
		want := r2.Add(toe, r2.Vec{X: c*d.X - s*d.Y, Y: s*d.X + c*d.Y})
		if got := turned(ankle, to, toe, heel); r2.Norm(r2.Sub(got, want)) > 1e-9 {
			t.Errorf("%g degrees: %v, want %v", deg, got, want)
		}
	}
	if got := turned(toe, ankle, toe, heel); got != heel {
		t.Errorf("an ankle on the toe moved the heel to %v", got)
	}
}

// What was followed takes the place of the draft; beside it the draft is shifted
// so that it joins on, less and less; what a hand has set stays.
func TestJoined(t *testing.T) {
	draft, followed := track.New(0), track.New(0)
	for f := range 60 {
		_ = draft.Set(f, &track.Point{X: 100, Y: 200, Source: "draft", Confidence: 0.8})
		if f >= 25 && f < 35 {
			_ = followed.Set(f, &track.Point{X: 108, Y: 196, Source: "tracked", Confidence: 0.9})
		}
	}
	hand := track.Point{X: 90, Y: 190, Source: "hand", Confidence: 1}
	_ = draft.Set(30, &hand)
	_ = draft.Set(37, &hand)
	draft.Apply(joined(draft, followed, 120), false)
	at := func(f int) track.Point { p, _ := draft.At(f); return p }
	if at(28).X != 108 || at(28).Source != "tracked" {
		t.Errorf("inside: %+v", at(28))
	}
	if at(30) != hand || at(37) != hand {
		t.Errorf("the hand's points: %+v %+v", at(30), at(37))
	}
	before := at(24).X - 100
	if !(before > 5 && before < 8.5) || !(at(20).X-100 < before) || math.Abs(at(20).Y-200) > 4 || at(59).X != 100 && at(59).X-100 > 0.5 {
		t.Errorf("beside it: %+v %+v %+v", at(24), at(20), at(59))
	}
	if got := joined(nil, followed, 120); got != followed {
		t.Error("without a draft what was followed is all there is")
	}
}

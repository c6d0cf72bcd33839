package repair_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"neokinema/core/evaluate"
	"neokinema/core/repair"
	"neokinema/core/track"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// confused is a draft whose legs and arms a model took for each other, for stretches of it.
func confused(t *testing.T, event string, rate float64, seed uint64) evaluate.Input {
	t.Helper()
	s := simcam.Spec{Event: event, CaptureRate: rate, Seed: seed + 1}
	if event == "running" {
		s.Speed = 5
	}
	tr := truth(t, s)
	in := points.Input(tr, points.All(tr, 1, seed))
	r := rand.New(rand.NewPCG(seed, 77))
	for _, parts := range [][]string{{"knee", "ankle", "heel", "toe"}, {"elbow", "wrist", "hand"}} {
		for f := 0; f < len(tr.Frames); {
			long := 1 + r.IntN(9)
			if r.IntN(3) == 0 {
				to := min(f+long, len(tr.Frames)) - 1
				for _, p := range parts {
					a, b := track.Swap(in.Points["left_"+p], in.Points["right_"+p], f, to)
					in.Points["left_"+p].Apply(a, true)
					in.Points["right_"+p].Apply(b, true)
				}
			}
			f += long
		}
	}
	return in
}

// settled are a draft's points after its repair.
func settled(t *testing.T, event string, in evaluate.Input) (evaluate.Input, repair.Repaired) {
	t.Helper()
	m, err := models.Load(event)
	if err != nil {
		t.Fatal(err)
	}
	done := repair.Draft(m, in)
	for id, c := range done.Changes {
		in.Points[id].Apply(c, false)
	}
	return in, done
}

// apart counts the points of two clips that are not in one place.
func apart(a, b evaluate.Input) (n int, first string) {
	for id, t := range a.Points {
		for f := t.From; f < t.End(); f++ {
			p, okP := t.At(f)
			q, okQ := b.Points.At(id, f)
			if okP != okQ || okP && math.Hypot(p.X-q.X, p.Y-q.Y) > 0.5 {
				if n == 0 || id+fmt.Sprint(f) < first {
					first = fmt.Sprintf("%s in frame %d: %v and %v", id, f, p, q)
				}
				n++
			}
		}
	}
	return n, first
}

// Which leg is which does not depend on which way somebody runs.
func TestSidesAreTheSameInAMirror(t *testing.T) {
	for _, event := range []string{"running", "sprint-start", "javelin", "long-jump", "high-jump", "pole-vault", "shot", "discus", "hammer", "weight"} {
		for _, rate := range []float64{30, 60} {
			for seed := range uint64(2) {
				name := fmt.Sprintf("%s at %.0f/s, seed %d", event, rate, seed)
				plain, done := settled(t, event, confused(t, event, rate, seed))
				if done.Swapped == 0 {
					t.Errorf("%s: nothing is exchanged", name)
				}
				mirror, other := settled(t, event, points.Mirrored(confused(t, event, rate, seed)))
				if n, first := apart(plain, points.Mirrored(mirror)); n > 0 || other.Swapped != done.Swapped {
					t.Errorf("%s: in a mirror %d frames change sides, else %d; %d points differ: %s", name, other.Swapped, done.Swapped, n, first)
				}
			}
		}
	}
}

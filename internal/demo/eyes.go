package demo

import (
	"context"
	"math/rand/v2"
	"time"

	"github.com/google/uuid"

	"neokinema/core/eye"
	"neokinema/internal/store"
)

// trained is a fault that the demo's coach has practised to see, and how she sees it.
type trained struct {
	event, fault, view string
	eye                eye.Observer
}

// practised is what the coach's eye is like: sharp for starts, with open knees called too often, slow to see
// what happens at the middle of the circle.
var practised = []trained{
	{"sprint-start", "S2", "side", eye.Observer{Spread: 0.3, Even: -0.35}},
	{"sprint-start", "S8", "side", eye.Observer{Spread: 0.2, Even: 0.2}},
	{"long-jump", "L1", "side", eye.Observer{Spread: 0.35, Even: 0.45}},
	{"shot", "G2", "side", eye.Observer{Spread: 0.5, Even: 0.7}},
	{"hammer", "H8a", "back", eye.Observer{Spread: 0.6, Even: 0.5}},
}

// eyes gives the coach some weeks of sets for the eye.
func (l *Loader) eyes(ctx context.Context) error {
	r := rand.New(rand.NewPCG(23, 2026))
	sizes := []float64{-0.9, 0.2, -0.6, 0.55, -1.2, 0.35, -0.8, 1, -0.7, 0.75}
	angles := eye.Observer{Bias: 5, Scatter: 6}
	n := 0
	for day := 16; day >= 1; day-- {
		if day%4 == 2 {
			continue // a day off
		}
		at := time.Now().AddDate(0, 0, -day)
		for k := range 16 {
			n++
			a := store.EyeAnswer{ID: uuid.New(), Exercise: "demo", Took: 6000 + r.IntN(14_000), At: at.Add(time.Duration(k) * 20 * time.Second)}
			switch {
			case k%5 == 3:
				truth := 80 + 90*r.Float64()
				a.Kind, a.Event, a.Fault, a.View, a.Off = eye.Angle, practised[n%len(practised)].event, "knee", "side", angles.Estimates(r, truth)-truth
				a.Correct = a.Off <= 10 && a.Off >= -10
			case k%5 == 4:
				a.Kind, a.Event, a.Fault, a.View, a.Off = eye.Moment, "sprint-start", "td1", "side", float64(r.IntN(5)-1)
				a.Correct = a.Off <= 1
			default:
				p := practised[n%len(practised)]
				a.Kind, a.Event, a.Fault, a.View, a.Size = eye.There, p.event, p.fault, p.view, sizes[r.IntN(len(sizes))]
				a.There, a.Yes = a.Size > 0, p.eye.Sees(r, a.Size)
				a.Correct = a.There == a.Yes
			}
			if err := l.Store.AddEyeAnswer(ctx, l.coach.TeamID, l.coach.ID, a); err != nil {
				return err
			}
		}
	}
	return nil
}

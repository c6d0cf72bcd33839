package points

import (
	"neokinema/core/body"
	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/move"
)

// Matching holds pairs of simulated attempts side by side, phase by phase, with key
// positions found by the tool from points off by sigma px: where the truth of one
// puts a key position, the other's must lie within one frame.
func Matching(sigma float64) (s Score, err error) {
	type film struct {
		rate  float64
		fault string
	}
	for _, pair := range []struct {
		event string
		speed float64
		a, b  film
	}{
		{"sprint-start", 0, film{240, ""}, film{120, "early-rise"}},
		{"sprint-start", 0, film{240, "front-knee"}, film{240, "foot-ahead"}},
		{"running", 4, film{120, ""}, film{240, "over-stride"}},
		{"hammer", 0, film{120, ""}, film{120, "late-catch"}},
		{"hammer", 0, film{240, ""}, film{120, "drag"}},
		{"weight", 0, film{120, ""}, film{120, "early-step"}},
	} {
		var ins [2]evaluate.Input
		var truths [2]simcam.Truth
		m, err := models.Load(pair.event)
		if err != nil {
			return s, err
		}
		e, err := move.Find(pair.event)
		if err != nil {
			return s, err
		}
		for i, f := range []film{pair.a, pair.b} {
			faults := map[string]float64{}
			if f.fault != "" {
				faults[f.fault] = e.Shown("", f.fault)
			}
			sp := simcam.Spec{Event: pair.event, Speed: pair.speed, Direction: 1, Faults: faults, CaptureRate: f.rate, FileRate: 30, Width: 1280, Height: 720, Athlete: body.Person{Sex: body.Male, Height: 1.82, FrontLeg: body.Left}}
			if pair.event == "hammer" || pair.event == "weight" {
				sp.Camera.Place = "back"
			}
			sc, err := simcam.New(sp)
			if err != nil {
				return s, err
			}
			truths[i] = sc.Truth
			pts := All(sc.Truth, sigma, uint64(i))
			if len(sc.Truth.Frames[0].Implement) > 0 {
				pts["ball"] = Ball(sc.Truth, sigma, uint64(i))
			}
			ins[i] = Input(sc.Truth, pts)
			ins[i].Ground = Circle(sc.Truth, sigma, uint64(i))
		}
		got := compare.Attempts(m.As(truths[0].Variant), ins[0], ins[1], "")
		for _, p := range got.Moments {
			f, ok1 := truths[0].Positions[p.Position]
			g, ok2 := truths[1].Positions[p.Position]
			if !ok1 || !ok2 || f >= len(got.Match) {
				continue
			}
			s.All++
			if d := got.Match[f] - g; max(d, -d) <= 1 {
				s.Within++
			}
		}
	}
	return s, nil
}

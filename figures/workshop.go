package figures

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"sync"

	"neokinema/core/evaluate"
	"neokinema/core/runup"
	"neokinema/core/workshop"
	"neokinema/core/workshop/known"
	"neokinema/core/workshop/worked"
	"neokinema/simcam/study"
)

// WorkedExamples is by how much the worst of the workshop's examples is off, %.
func WorkedExamples() (worst float64, err error) {
	for _, e := range worked.Examples() {
		off, err := e.Off()
		if err != nil {
			return 0, err
		}
		worst = math.Max(worst, 100*off)
	}
	return worst, nil
}

// PlanLayout is by how much a foot of a run-up to the bar is off its arc, its tangent or its step
// at worst, cm.
func PlanLayout() float64 {
	off, _ := worked.LayoutError(rand.New(rand.NewPCG(2026, 21)), 3000)
	return 100 * off
}

// FoulOdds is how far the share of fouls that a start is reckoned for differs from what happens in
// so many run-ups by chance, at worst, % of it.
func FoulOdds(runs int) (worst float64, err error) {
	r := rand.New(rand.NewPCG(2026, 22))
	for _, sd := range []float64{0.05, 0.12, 0.2} {
		var plants []float64
		for range 12 {
			plants = append(plants, sd*r.NormFloat64()-0.15)
		}
		s, err := runup.Spread(plants)
		if err != nil {
			return 0, err
		}
		for _, share := range []float64{5, 10, 25} {
			a, err := workshop.Ask("start", workshop.Values{"plants": {List: plants}, "fouls": {Value: share}}, nil)
			if err != nil {
				return 0, err
			}
			shift, _ := a.Line("shift")
			over := 0
			for range runs {
				if s.Mean.Value-shift.Value.Value+s.SD*r.NormFloat64() > 0 {
					over++
				}
			}
			worst = math.Max(worst, 100*math.Abs(float64(over)/float64(runs)/(share/100)-1))
		}
	}
	return worst, nil
}

// AbsurdAnswers counts answers that are no number, and refusals without a word, among questions
// with inputs by chance.
func AbsurdAnswers() float64 {
	bad, _ := worked.Absurdities(rand.New(rand.NewPCG(2026, 23)), 5000)
	return float64(told("absurd", bad))
}

// planned is how plans that are fed from a clip stand to what is true.
type planned struct {
	radius, lean float64 // mean off, % and degrees
	fed          share   // of clips that give radius and speed
}

// plans fills the plan of a high jump from each clip of the lot and compares its radius and the
// lean that it asks for with those of the simulated athlete.
func (l *Lab) plans() (*planned, error) {
	if l.planned != nil {
		return l.planned, nil
	}
	list, err := study.DrawOf(lot(), runwayAttempts, 0, "high-jump")
	if err != nil {
		return nil, err
	}
	out := &planned{}
	var radius, lean mean
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		in, ok := a.OnRunway(study.White)
		if !ok {
			return nil
		}
		r := evaluate.Attempt(a.Model, in)
		facts := known.Of(a.Model, in, r)
		values := workshop.Values{}
		q, _ := workshop.Find("high-plan")
		for _, i := range q.Inputs {
			if v, ok := facts.Values[i.Fact]; ok && i.Fact != "" {
				values[i.ID] = workshop.Value{Value: v.Value, Half: v.Half95}
			}
		}
		plan, err := workshop.Ask("high-plan", values, facts.Path)
		if err != nil {
			return fmt.Errorf("%s: %w", a.Name, err)
		}
		mu.Lock()
		defer mu.Unlock()
		_, hasRadius := values["radius"]
		_, hasSpeed := values["speed"]
		out.fed.add(hasRadius && hasSpeed)
		for _, o := range a.Runway(r) {
			switch {
			case o.What == "radius" && hasRadius:
				v, _ := plan.Line("radius")
				radius.add(100 * math.Abs(v.Value.Value/o.Truth-1))
			case o.What == "asked" && hasSpeed && hasRadius:
				v, _ := plan.Line("wanted")
				lean.add(math.Abs(v.Value.Value - o.Truth))
			default:
				continue
			}
			if os.Getenv("NEO_TELL") != "" {
				fmt.Fprintf(os.Stderr, "    %s: %s truly %.4g, read %.4g\n", a.Name, o.What, o.Truth, o.Value)
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	out.radius, out.lean = radius.of(), lean.of()
	l.planned = out
	return out, nil
}

// slid is how a flight is drawn while a slider moves.
type slid struct{ fps, p95 float64 }

// slider moves the slider of a throw's speed in the browser, with two throws beside each other, by
// one step a picture for two seconds.
func (l *Lab) slider() (slid, error) {
	if l.slid != nil {
		return *l.slid, nil
	}
	b, err := l.Browser()
	if err != nil {
		return slid{}, err
	}
	var out slid
	err = bare{}.try(func() {
		h := l.House()
		s := h.Screen(bare{}, b, h.Coach(bare{}))
		defer s.Close()
		s.Open(h.URL+"/workshop?event=javelin&q=flight", "[data-testid=drawing] .path")
		s.See("[data-testid=another]").MustClick()
		s.See("[data-testid=drawing] .other")
		got := s.MustEval(`async () => {
			const slider = document.querySelector("[data-input=speed] input[type=range]");
			const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
			const path = () => document.querySelector("[data-testid=drawing] .path").getAttribute("points");
			const frame = () => new Promise(requestAnimationFrame);
			const drive = async n => {
				let drawn = 0, last = path();
				const took = [];
				await frame();
				const begin = performance.now();
				for (let i = 0; i < n; i++) {
					const t = performance.now();
					set.call(slider, String(20 + (i % 100) / 10));
					slider.dispatchEvent(new Event("input", { bubbles: true }));
					document.body.getBoundingClientRect();
					took.push(performance.now() - t);
					await frame();
					const now = path();
					if (now !== last) drawn++;
					last = now;
				}
				// Of how many refreshes of a screen that has 60 a second.
				return { fps: 60 * drawn / Math.round((performance.now() - begin) * 60 / 1000), took };
			};
			await drive(30);
			return await drive(120);
		}`)
		out.fps = got.Get("fps").Num()
		var took []float64
		for _, v := range got.Get("took").Arr() {
			took = append(took, v.Num())
		}
		slices.Sort(took)
		out.p95 = took[len(took)*95/100]
	})
	if err != nil {
		return out, err
	}
	l.slid = &out
	return out, nil
}

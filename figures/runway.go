package figures

import (
	"fmt"
	"os"
	"sync"

	"neokinema/core/evaluate"
	"neokinema/simcam/study"
)

// runwayAttempts is how many attempts of each jump are read on marked ground.
const runwayAttempts = 24

// onRunways is what run-ups on marked ground state against what is true.
type onRunways struct {
	off      map[string]*mean // by what is stated, how far it is off
	coverage share
	given    share // clips of which the last foot's place before the line is stated
}

// mean of values that come one by one.
type mean struct {
	sum float64
	n   int
}

func (m *mean) add(v float64) { m.sum, m.n = m.sum+v, m.n+1 }

// of is the mean; not a number without any, which no target takes.
func (m *mean) of() float64 { return m.sum / float64(m.n) }

func (l *Lab) runways() (*onRunways, error) {
	if l.runway != nil {
		return l.runway, nil
	}
	list, err := study.DrawOf(lot(), runwayAttempts, 0, "long-jump", "high-jump", "pole-vault")
	if err != nil {
		return nil, err
	}
	out := &onRunways{off: map[string]*mean{}}
	for _, what := range []string{"before", "lean", "asked", "radius", "onset"} {
		out.off[what] = &mean{}
	}
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		in, ok := a.OnRunway(study.White)
		if !ok {
			return nil
		}
		r := evaluate.Attempt(a.Model, in)
		mu.Lock()
		defer mu.Unlock()
		feet := r.Approach.Feet
		out.given.add(len(feet) > 0 && feet[len(feet)-1].Before != nil)
		for _, o := range a.Runway(r) {
			by := o.By()
			if o.What == "radius" {
				by *= 100 / o.Truth
			}
			if m := out.off[o.What]; m != nil {
				m.add(by)
			}
			if out.coverage.add(o.Holds()); !o.Holds() && os.Getenv("NEO_TELL") != "" {
				fmt.Fprintf(os.Stderr, "    %s: %s %.4g ±%.2g, truly %.4g\n", a.Name, o.What, o.Value, o.Half95, o.Truth)
			}
		}
		return nil
	})
	if err == nil {
		l.runway = out
	}
	return out, err
}

// onRunway is how far something that run-ups on marked ground state is off, on the mean.
func (l *Lab) onRunway(what string, scale float64) (float64, error) {
	r, err := l.runways()
	if err != nil {
		return 0, err
	}
	return scale * r.off[what].of(), nil
}

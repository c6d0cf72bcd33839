// Package drills is the library of drills: those of the technique models, each once, with what they are
// for, what they need, and how they move.
package drills

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"sync"
	"unicode"

	"go.yaml.in/yaml/v3"

	"neokinema/core/followup"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/internal/problem"
	"neokinema/models"
	"neokinema/simcam/moving"
)

// For is a fault that a drill is for.
type For struct {
	Event string `json:"event"`
	Fault string `json:"fault"`
	Name  string `json:"name"`
}

// Drill is one of the library.
type Drill struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Events  []string      `json:"events"`
	For     []For         `json:"for" doc:"faults that it is for"`
	Place   []sport.Place `json:"place"`
	Needs   []string      `json:"needs" doc:"beside what the event has"`
	Level   string        `json:"level" enum:"new,learning,trained" doc:"from when on: the first season, a year of training, full training"`
	Dose    model.Dose    `json:"dose"`
	Says    string        `json:"says" doc:"the dose of one session in words"`
	Ladder  []string      `json:"ladder"`
	Feel    string        `json:"feel"`
	Mistake string        `json:"mistake" doc:"what one does instead, most often"`
	GoOn    string        `json:"go_on"`
	Stop    string        `json:"stop"`
	NotWith []string      `json:"not_with" doc:"drills that pull the same measure the other way"`
	Moves   bool          `json:"moves" doc:"it has a moving figure"`
}

//go:embed needs.yaml
var needs []byte

// Efforts up to which a drill is one for the first season, and for a year of training: % of full. Common
// practice, no source.
const (
	firstSeason = 50
	yearOfTrain = 75
)

// Library is all of them, in the order of events and of faults in them.
var Library = sync.OnceValues(func() ([]Drill, error) {
	var list []struct {
		Needs  string
		Drills []string
	}
	if err := yaml.Unmarshal(needs, &list); err != nil {
		return nil, fmt.Errorf("needs.yaml: %w", err)
	}
	figures, err := moving.Figures()
	if err != nil {
		return nil, err
	}
	var out []Drill
	at := map[string]int{}
	type pull struct {
		drill int
		event string
		fault followup.Cue
		way   int
	}
	var pulls []pull
	for _, event := range sport.IDs() {
		m, err := models.Load(event)
		if err != nil {
			return nil, err
		}
		for _, f := range m.Faults {
			for _, d := range f.Drills {
				i, there := at[d.Name]
				if !there {
					i = len(out)
					at[d.Name] = i
					one := Drill{ID: slug(d.Name), Name: d.Name, Events: []string{}, For: []For{}, Place: []sport.Place{}, Needs: []string{}, Dose: d.Dose, Says: d.Dose.Session(1), Ladder: d.Ladder, Feel: d.Feel, GoOn: d.GoOn, Stop: d.Stop, NotWith: []string{}, Level: "trained"}
					switch {
					case d.Dose.Effort <= firstSeason:
						one.Level = "new"
					case d.Dose.Effort <= yearOfTrain:
						one.Level = "learning"
					}
					if one.Ladder == nil {
						one.Ladder = []string{}
					}
					for _, c := range f.Cues {
						if one.Mistake == "" {
							one.Mistake = Plain(c.Backfire)
						}
					}
					_, one.Moves = figures[d.Name]
					for _, n := range list {
						if slices.Contains(n.Drills, d.Name) {
							one.Needs = append(one.Needs, n.Needs)
						}
					}
					out = append(out, one)
				}
				one := &out[i]
				if !slices.Contains(one.Events, event) {
					one.Events = append(one.Events, event)
				}
				if p := sport.Of(event).Place; !slices.Contains(one.Place, p) {
					one.Place = append(one.Place, p)
				}
				one.For = append(one.For, For{event, f.ID, Plain(f.Name)})
				c := followup.Cue{Fault: f.ID, Target: f.Target}
				pulls = append(pulls, pull{i, event, c, followup.Way(m, c)})
			}
		}
	}
	for i, a := range pulls {
		for _, b := range pulls[i+1:] {
			if a.event != b.event || a.drill == b.drill || !against(a.fault, a.way, b.fault, b.way) {
				continue
			}
			for _, x := range [2][2]int{{a.drill, b.drill}, {b.drill, a.drill}} {
				if name := out[x[1]].Name; !slices.Contains(out[x[0]].NotWith, name) {
					out[x[0]].NotWith = append(out[x[0]].NotWith, name)
				}
			}
		}
	}
	return out, nil
})

// against tells whether two cues of an event pull one measure in opposite ways.
func against(a followup.Cue, wayA int, b followup.Cue, wayB int) bool {
	return a.Target == b.Target && wayA*wayB < 0
}

// NotWith are the drills of the library that pull a measure the other way than what is for some faults
// of an event.
func NotWith(event string, faults []string) ([]string, error) {
	m, err := models.Load(event)
	if err != nil {
		return nil, err
	}
	out := []string{}
	for _, id := range faults {
		f, ok := m.Fault(id)
		if !ok {
			continue
		}
		c := followup.Cue{Fault: f.ID, Target: f.Target}
		for _, g := range m.Faults {
			d := followup.Cue{Fault: g.ID, Target: g.Target}
			if !against(c, followup.Way(m, c), d, followup.Way(m, d)) {
				continue
			}
			for _, drill := range g.Drills {
				if !slices.Contains(out, drill.Name) {
					out = append(out, drill.Name)
				}
			}
		}
	}
	return out, nil
}

// Plain is a text of a model for nobody in particular: directions as angles.
func Plain(s string) string {
	for _, d := range []string{"0", "90", "180", "270"} {
		s = strings.ReplaceAll(s, "{az "+d+"}", d+"°")
	}
	return s
}

// slug is a name as part of an address.
func slug(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
	}
	return strings.Trim(b.String(), "-")
}

// Find is a drill by its id.
func Find(id string) (Drill, error) {
	all, err := Library()
	if err != nil {
		return Drill{}, err
	}
	i := slices.IndexFunc(all, func(d Drill) bool { return d.ID == id })
	if i < 0 {
		return Drill{}, problem.Missing("drill")
	}
	return all[i], nil
}

var drawn sync.Map

// Figure is how a drill moves.
func Figure(id string) (moving.Drawn, error) {
	if f, ok := drawn.Load(id); ok {
		return f.(moving.Drawn), nil
	}
	d, err := Find(id)
	if err != nil {
		return moving.Drawn{}, err
	}
	figures, err := moving.Figures()
	if err != nil {
		return moving.Drawn{}, err
	}
	spec, ok := figures[d.Name]
	if !ok {
		return moving.Drawn{}, problem.New(problem.NotFound, "“%s” has no moving figure yet.", d.Name)
	}
	f, err := moving.Draw(spec)
	if err == nil {
		drawn.Store(id, f)
	}
	return f, err
}

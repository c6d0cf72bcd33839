package move

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"neokinema/core/body"
)

// Dial is a fault with a size: the faultless value, the one that shows the fault
// plainly, and the limits.
type Dial struct {
	Name         string
	Clean, Shown float64
	Min, Max     float64
	Says         string
	Variants     []string // only in these; in all when empty
}

// Variant is a way in which an event is done.
type Variant struct{ ID, Says string }

// Event is one of the ten.
type Event struct {
	ID       string
	Says     string
	Variants []Variant // the first is the usual one
	Faults   []Dial    // in the order in which they happen
	make     func(body.Person, Wish) (*Motion, error)
}

// Wish is what somebody wants to see.
type Wish struct {
	Event, Variant string
	Faults         map[string]float64
	Speed          float64 // running, m/s
	Turns, Winds   int     // hammer and weight
	Bar            float64 // its height, m; just cleared when 0
	Style          uint64  // makes the movement somebody's own; 0 is as it is written
	dials          []Dial
}

func (w Wish) dial(name string) float64 {
	if v, ok := w.Faults[name]; ok {
		return v
	}
	for _, d := range w.dials {
		if d.Name == name {
			return d.Clean
		}
	}
	panic("move: no dial " + name) // a slip in a motion; every motion is built in tests
}

// Shown is the size at which a fault shows plainly.
func (e Event) Shown(variant, fault string) float64 {
	for _, d := range e.Faults {
		if d.Name == fault && (len(d.Variants) == 0 || slices.Contains(d.Variants, variant)) {
			return d.Shown
		}
	}
	return math.NaN()
}

// of keeps dials to one variant.
func of(variant string, dials []Dial) []Dial {
	out := slices.Clone(dials)
	for i := range out {
		out[i].Variants = []string{variant}
	}
	return out
}

// Find gives an event by its id.
func Find(id string) (Event, error) {
	var ids []string
	for _, e := range Events() {
		if e.ID == id {
			return e, nil
		}
		ids = append(ids, e.ID)
	}
	return Event{}, fmt.Errorf("there is no event %q; there are %s", id, strings.Join(ids, ", "))
}

// Check refuses wishes that cannot be met and says what can.
func (e Event) Check(w Wish) error {
	known := false
	var variants []string
	for _, v := range e.Variants {
		known = known || v.ID == w.Variant
		variants = append(variants, v.ID)
	}
	if !known {
		return fmt.Errorf("%s has no variant %q; there are %s", e.ID, w.Variant, strings.Join(variants, ", "))
	}
	dials := map[string]Dial{}
	var names []string
	for _, d := range e.Faults {
		dials[d.Name] = d
		names = append(names, d.Name)
	}
	sort.Strings(names)
	for name, v := range w.Faults {
		d, ok := dials[name]
		if !ok {
			return fmt.Errorf("there is no fault %q in %s; there are %s", name, e.ID, strings.Join(names, ", "))
		}
		if len(d.Variants) > 0 && !slices.Contains(d.Variants, w.Variant) {
			return fmt.Errorf("fault %q belongs to %s %s, not to %s", name, e.ID, strings.Join(d.Variants, " or "), w.Variant)
		}
		if math.IsNaN(v) || v < d.Min || v > d.Max {
			return fmt.Errorf("fault %s=%g is out of range: %s, %g to %g", name, v, d.Says, d.Min, d.Max)
		}
	}
	spins := e.ID == "hammer" || e.ID == "weight"
	if w.Turns != 0 && (!spins || w.Turns < 3 || w.Turns > 4) {
		return fmt.Errorf("%d turns cannot be had in %s; hammer and weight take 3 or 4", w.Turns, e.ID)
	}
	if w.Winds != 0 && (e.ID != "hammer" || w.Winds < 1 || w.Winds > 2) {
		return fmt.Errorf("%d winds cannot be had in %s; the hammer takes 1 or 2", w.Winds, e.ID)
	}
	if e.ID == "running" && (math.IsNaN(w.Speed) || w.Speed < 3 || w.Speed > 9) {
		return fmt.Errorf("a run at %g m/s cannot be simulated; give 3 to 9", w.Speed)
	}
	return nil
}

// New works out a motion. An empty variant is the usual one, a speed of 0 is
// 4.2 m/s.
func New(p body.Person, w Wish) (*Motion, error) {
	e, err := Find(w.Event)
	if err != nil {
		return nil, err
	}
	if w.Variant == "" {
		w.Variant = e.Variants[0].ID
	}
	if w.Speed == 0 {
		w.Speed = 4.2
	}
	if err := e.Check(w); err != nil {
		return nil, err
	}
	w.dials = e.Faults
	m, err := e.make(p, w)
	if err == nil && w.Style != 0 {
		m.keepTime(w.Style)
	}
	return m, err
}

// Events lists the ten events with variants and faults.
func Events() []Event {
	return []Event{
		{ID: "sprint-start", Says: "sprint start with three steps", Variants: []Variant{{"blocks", "left leg in front unless the athlete has the right one there"}}, make: sprintStart, Faults: startFaults},
		{ID: "hammer", Says: "hammer throw", Variants: []Variant{{"heel-start", "first turn on the heel"}, {"toe-start", "first turn on the toe"}}, make: hammer, Faults: hammerFaults},
		{ID: "weight", Says: "weight throw", Variants: []Variant{{"pendulum", "from a pendulum swing"}}, make: weight, Faults: weightFaults},
		{ID: "discus", Says: "discus throw", Variants: []Variant{{"full", "full turn from the back of the circle"}, {"standing", "standing throw, the drill"}}, make: discus, Faults: slices.Concat(of("full", rotationFaults[1:5]), standingFaults)},
		{ID: "shot", Says: "shot put", Variants: []Variant{{"glide", "straight from the back"}, {"rotational", "with a turn"}}, make: shot, Faults: slices.Concat(of("glide", glideFaults), of("rotational", rotationFaults))},
		{ID: "javelin", Says: "javelin throw with cross steps", Variants: []Variant{{"foot-slanted", "last throwing-side foot at 45 degrees"}, {"foot-across", "last throwing-side foot across the runway"}}, make: javelin, Faults: javelinFaults},
		{ID: "long-jump", Says: "long jump", Variants: []Variant{{"hang", "hang in the air"}, {"sail", "sail"}, {"hitch-kick", "hitch-kick"}}, make: longJump, Faults: longJumpFaults},
		{ID: "high-jump", Says: "high jump from straight and curve", Variants: []Variant{{"flop", "over the bar on the back"}}, make: highJump, Faults: highJumpFaults},
		{ID: "pole-vault", Says: "pole vault with a bending pole", Variants: []Variant{{"bending", "from the last five steps to the mat"}}, make: vault, Faults: vaultFaults},
		{ID: "running", Says: "running stride", Variants: []Variant{{"steady", "at --speed, 3 to 9 m/s"}}, make: running, Faults: []Dial{
			{Name: "hips-behind", Max: 25, Shown: 14, Says: "bent in the middle with the hips behind, degrees"},
			{Name: "over-stride", Max: 0.2, Shown: 0.12, Says: "foot lands further ahead of the hip, share of leg length"},
			{Name: "bounce", Max: 0.12, Shown: 0.07, Says: "longer flight, seconds a step"},
			{Name: "hands-cross", Max: 60, Shown: 40, Says: "hands cross the middle, degrees"},
			{Name: "uneven", Max: 0.2, Shown: 0.055, Says: "right contact longer than left by this share"},
		}},
	}
}

package technique

import (
	"embed"
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"

	"neokinema/core/doubt"
)

// Model is one event as data: phases bounded by key positions, checkpoints with
// bands, faults with causes and cues. See docs/models.md for how to write one.
type Model struct {
	ID          string       `json:"id"`
	Name        string       `json:"name"`
	View        string       `json:"view" doc:"the view that the checkpoints need"`
	Positions   []Position   `json:"positions"`
	Phases      []Phase      `json:"phases"`
	Contacts    []Contact    `json:"contacts"`
	Repeat      *Repeat      `json:"repeat,omitempty" required:"false" doc:"a group of positions that comes again and again; its positions, phases and contacts stand in the lists above as well, numbered"`
	Checkpoints []Checkpoint `json:"checkpoints"`
	Faults      []Fault      `json:"faults"`
	Cautions    []string     `json:"cautions"`
}

// Position is a key position, found at one frame of a clip.
type Position struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Short    string `json:"short" doc:"for tight places"`
	Hint     string `json:"hint" doc:"how to find the frame"`
	Optional bool   `json:"optional,omitempty" required:"false" doc:"helps single checkpoints; the breakdown stands without it"`
	Find     *Find  `json:"find,omitempty" required:"false" doc:"how the tool finds it in the tracks; absent when only the eye can"`
	Group    string `json:"group,omitempty" required:"false" doc:"position of the repeated group of which this is one"`
	Nth      int    `json:"nth,omitempty" required:"false" doc:"its number in the repetition, from 1"`
}

// Find says how a key position shows in the tracks. Kinds:
//
//	first-movement  the first landmark leaves the place where it rested
//	still-before    just before that
//	leaves          the foot (role) leaves what it stood on from the clip's start
//	touchdown       the nth contact begins
//	toe-off         the nth contact ends
//	under           the stance foot is under the hip, in the nth contact
//	half-flight     halfway from the nth contact to the next
type Find struct {
	Kind string `json:"kind" enum:"first-movement,still-before,leaves,touchdown,toe-off,under,half-flight"`
	Foot string `json:"foot,omitempty" required:"false" enum:"front,rear,"`
	Nth  int    `json:"nth,omitempty" required:"false"`
}

// Repeat is a group of positions, phases and contacts that comes again: a
// running step. Its members carry no number; [Parse] numbers them from 1 to Most.
// "+1" after a position means that of the next repetition.
type Repeat struct {
	ID        string     `json:"id"`
	Name      string     `json:"name" doc:"such as step"`
	Most      int        `json:"most"`
	Positions []Position `json:"positions"`
	Phases    []Phase    `json:"phases"`
	Contacts  []Contact  `json:"contacts"`
}

// Phase runs from one key position to another.
type Phase struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	From string `json:"from"`
	To   string `json:"to"`
}

// Contact is the time between two key positions in which a foot (role: front or
// rear) is on its pedal or on the ground.
type Contact struct {
	Foot  string `json:"foot"`
	Name  string `json:"name"`
	From  string `json:"from"`
	To    string `json:"to"`
	Since string `json:"since,omitempty" required:"false" doc:"position from which its time counts, when that is later than from: a pedal is pushed from the first movement on"`
	Nth   int    `json:"nth,omitempty" required:"false" doc:"its number in the repetition, from 1"`
}

// Checkpoint is one thing to look at, with the band that is wanted.
type Checkpoint struct {
	ID       string     `json:"id"`
	Name     string     `json:"name"`
	Position string     `json:"position" doc:"key position under which it is listed"`
	Measure  Measure    `json:"measure"`
	Unit     string     `json:"unit" enum:"°,cm,ms,%,m/s,m,1/min,BW,kN/m," doc:"empty for the coach's own mark"`
	Band     doubt.Band `json:"band"`
	Basis    string     `json:"basis" enum:"trade,literature,definition" doc:"trade: common practice, no source; literature: from memory of it; definition: rule or definition"`
	Question string     `json:"question,omitempty" required:"false" doc:"what the coach answers with yes or no when it cannot be measured"`
	Keep     string     `json:"keep,omitempty" required:"false" doc:"praise when met"`
	NotIf    []string   `json:"not_if,omitempty" required:"false" doc:"faults that produce this number: no praise then"`
}

// Measure is a kind of computation and what it works on. Kinds:
//
//	joint     inside angle at points[1], degrees
//	lean      line points[0]->points[1] against the ground, degrees
//	tilt      line points[0]->points[1] against the vertical, + when the upper end is ahead, degrees
//	brake     tilt with the sign turned: + when the lower end is ahead
//	turn      line points[1]->points[2] against points[0]->points[1], + upwards, degrees
//	ahead     points[0] ahead of points[1] along the ground, cm
//	above     points[0] above points[1], cm
//	backward  speed of points[0] against the running direction just before the position, m/s
//	duration  positions[0] to positions[1], ms
//	share     positions[0]-[1] over positions[2]-[3], %
//	change    readings[1] minus readings[0], their unit
//	mark      the coach's own mark
//
// of steps (at a position of a repeated group, for each step and as their mean):
//
//	reach     points[0] ahead of points[1], % of leg length
//	offset    points[1] ahead of the line points[0]->points[2], % of its length
//	contact, flight   ms
//	duty      contact over step, %
//	cadence   steps a minute
//	length    from touchdown to touchdown, m
//	speed     of the hips over the ground, m/s
//	travel    of the centre of mass (or the hips) up and down in a step, cm
//	force     peak vertical force by the times, body weights
//	k_vert, k_leg   stiffness by the times, kN/m
//	asymmetry left minus right of readings[0], % of their mean
type Measure struct {
	Kind      string   `json:"kind" enum:"joint,lean,tilt,brake,turn,ahead,above,backward,duration,share,change,mark,reach,offset,contact,flight,duty,cadence,length,speed,travel,force,k_vert,k_leg,asymmetry"`
	Points    []string `json:"points,omitempty" required:"false" doc:"roles"`
	Positions []string `json:"positions,omitempty" required:"false"`
	Readings  []string `json:"readings,omitempty" required:"false"`
}

// Fault is a fault of technique with its place in the graph of causes.
type Fault struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Short   string   `json:"short" doc:"for the row of causes"`
	Phase   string   `json:"phase" doc:"where it is made"`
	When    Rule     `json:"when"`
	Because []string `json:"because,omitempty" required:"false" doc:"faults that bring this one about"`
	Effect  string   `json:"effect" doc:"what it leads to"`
	Setting bool     `json:"setting,omitempty" required:"false" doc:"cured by the block setting, not by a cue"`
	Cues    []Cue    `json:"cues"`
	Drills  []Drill  `json:"drills"`
	Target  string   `json:"target" doc:"checkpoint whose reading shows next time whether it worked"`
}

// Rule tells when a fault is there: a leaf on one reading, or any / all of more.
type Rule struct {
	Any     []Rule   `json:"any,omitempty" required:"false"`
	All     []Rule   `json:"all,omitempty" required:"false"`
	Reading string   `json:"reading,omitempty" required:"false"`
	Above   *float64 `json:"above,omitempty" required:"false"`
	Below   *float64 `json:"below,omitempty" required:"false"`
	Marked  bool     `json:"marked,omitempty" required:"false" doc:"the coach answered no"`
}

// Cue is what the athlete should think of, with what tends to go wrong.
type Cue struct {
	Focus    string `json:"focus" enum:"outward,inward"`
	Words    string `json:"words"`
	Backfire string `json:"backfire" doc:"what athletes tend to do instead, and what to say then"`
}

// Drill teaches the cue.
type Drill struct {
	Name string `json:"name"`
	Dose string `json:"dose"`
	Feel string `json:"feel"`
}

//go:embed models/*.json
var files embed.FS

// Models reads the shipped models, by id.
func Models() ([]Model, error) {
	names, err := files.ReadDir("models")
	if err != nil {
		return nil, err
	}
	var out []Model
	for _, n := range names {
		raw, err := files.ReadFile("models/" + n.Name())
		if err != nil {
			return nil, err
		}
		m, err := Parse(raw)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", n.Name(), err)
		}
		out = append(out, m)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].ID < out[j].ID })
	return out, nil
}

// Load gives one shipped model.
func Load(id string) (Model, error) {
	raw, err := files.ReadFile("models/" + id + ".json")
	if err != nil {
		return Model{}, fmt.Errorf("there is no technique model %q", id)
	}
	return Parse(raw)
}

// Parse reads a model and checks that every name in it leads somewhere.
func Parse(raw []byte) (Model, error) {
	var m Model
	if err := json.Unmarshal(raw, &m); err != nil {
		return m, err
	}
	m.unroll()
	return m, m.check()
}

// unroll numbers the members of the repeated group and puts them into the lists.
func (m *Model) unroll() {
	r := m.Repeat
	if r == nil {
		return
	}
	for n := 1; n <= r.Most; n++ {
		id := func(name string) string {
			if base, ok := strings.CutSuffix(name, "+1"); ok {
				return base + strconv.Itoa(n+1)
			}
			return name + strconv.Itoa(n)
		}
		for _, p := range r.Positions {
			q := p
			q.ID, q.Group, q.Nth = id(p.ID), p.ID, n
			q.Name, q.Short = fmt.Sprintf("%s %d", p.Name, n), fmt.Sprintf("%d %s", n, p.Short)
			// One step makes a breakdown; the others are welcome.
			q.Optional = p.Optional || n > 1
			if p.Find != nil {
				f := *p.Find
				f.Nth = n
				q.Find = &f
			}
			m.Positions = append(m.Positions, q)
		}
		for _, p := range r.Phases {
			if n == r.Most && strings.HasSuffix(p.To, "+1") {
				continue
			}
			m.Phases = append(m.Phases, Phase{ID: id(p.ID), Name: fmt.Sprintf("%s %d", p.Name, n), From: id(p.From), To: id(p.To)})
		}
		for _, c := range r.Contacts {
			m.Contacts = append(m.Contacts, Contact{Foot: c.Foot, Name: fmt.Sprintf("%s %d", c.Name, n), From: id(c.From), To: id(c.To), Nth: n})
		}
	}
}

// arity is how many points, positions and readings a kind of measure needs.
var arity = map[string][3]int{
	"joint": {3, 0, 0}, "lean": {2, 0, 0}, "tilt": {2, 0, 0}, "brake": {2, 0, 0}, "turn": {3, 0, 0},
	"ahead": {2, 0, 0}, "above": {2, 0, 0}, "backward": {1, 0, 0},
	"duration": {0, 2, 0}, "share": {0, 4, 0}, "change": {0, 0, 2}, "mark": {0, 0, 0},
	"reach": {2, 0, 0}, "offset": {3, 0, 0}, "contact": {0, 0, 0}, "flight": {0, 0, 0}, "duty": {0, 0, 0}, "cadence": {0, 0, 0}, "length": {0, 0, 0},
	"speed": {0, 0, 0}, "travel": {0, 0, 0}, "force": {0, 0, 0}, "k_vert": {0, 0, 0}, "k_leg": {0, 0, 0}, "asymmetry": {0, 0, 1},
}

// group tells whether a name is that of a repeated position.
func (m Model) group(id string) bool {
	return m.Repeat != nil && slices.ContainsFunc(m.Repeat.Positions, func(p Position) bool { return p.ID == id })
}

// Where lists the positions at which a checkpoint is read: one, or all of a
// repeated group.
func (m Model) Where(cp Checkpoint) []Position {
	var out []Position
	for _, p := range m.Positions {
		if p.ID == cp.Position || p.Group == cp.Position {
			out = append(out, p)
		}
	}
	return out
}

func (m Model) check() error {
	position := func(id string) bool {
		return slices.ContainsFunc(m.Positions, func(p Position) bool { return p.ID == id })
	}
	for _, p := range m.Phases {
		if !position(p.From) || !position(p.To) {
			return fmt.Errorf("phase %s runs between positions that are not there", p.ID)
		}
	}
	for _, c := range m.Contacts {
		if !position(c.From) || !position(c.To) || c.Since != "" && !position(c.Since) || c.Foot != "front" && c.Foot != "rear" && c.Foot != "stance" {
			return fmt.Errorf("contact %s needs two positions and a foot, front, rear or stance", c.Name)
		}
	}
	seen := map[string]Checkpoint{}
	for _, c := range m.Checkpoints {
		want, ok := arity[c.Measure.Kind]
		have := [3]int{len(c.Measure.Points), len(c.Measure.Positions), len(c.Measure.Readings)}
		if !ok || want != have {
			return fmt.Errorf("checkpoint %s: measure %q with %v points, positions, readings wants %v", c.ID, c.Measure.Kind, have, want)
		}
		if !position(c.Position) && !m.group(c.Position) || slices.ContainsFunc(c.Measure.Positions, func(p string) bool { return !position(p) }) {
			return fmt.Errorf("checkpoint %s hangs on a position that is not there", c.ID)
		}
		for _, r := range c.Measure.Readings {
			if _, ok := seen[r]; !ok {
				return fmt.Errorf("checkpoint %s needs reading %s before it", c.ID, r)
			}
		}
		if _, twice := seen[c.ID]; twice {
			return fmt.Errorf("checkpoint %s stands twice", c.ID)
		}
		seen[c.ID] = c
	}
	for i, f := range m.Faults {
		if err := f.When.check(seen); err != nil {
			return fmt.Errorf("fault %s: %w", f.ID, err)
		}
		if _, ok := seen[f.Target]; !ok {
			return fmt.Errorf("fault %s has no target reading", f.ID)
		}
		if !slices.ContainsFunc(m.Phases, func(p Phase) bool { return p.ID == f.Phase }) {
			return fmt.Errorf("fault %s is in phase %q, which is not there", f.ID, f.Phase)
		}
		for _, b := range f.Because {
			if !slices.ContainsFunc(m.Faults, func(o Fault) bool { return o.ID == b }) || b == f.ID {
				return fmt.Errorf("fault %s is said to come from %q", f.ID, b)
			}
		}
		if slices.ContainsFunc(m.Faults[:i], func(o Fault) bool { return o.ID == f.ID }) {
			return fmt.Errorf("fault %s stands twice", f.ID)
		}
	}
	return nil
}

func (r Rule) check(seen map[string]Checkpoint) error {
	for _, part := range append(slices.Clone(r.Any), r.All...) {
		if err := part.check(seen); err != nil {
			return err
		}
	}
	if r.Any != nil || r.All != nil {
		return nil
	}
	if _, ok := seen[r.Reading]; !ok {
		return fmt.Errorf("rule on reading %q, which is not there", r.Reading)
	}
	if r.Above == nil && r.Below == nil && !r.Marked {
		return fmt.Errorf("rule on %s has no condition", r.Reading)
	}
	return nil
}

// Position finds a key position by id.
func (m Model) Position(id string) (Position, bool) {
	for _, p := range m.Positions {
		if p.ID == id {
			return p, true
		}
	}
	return Position{}, false
}

// Fault finds a fault by id.
func (m Model) Fault(id string) (Fault, bool) {
	for _, f := range m.Faults {
		if f.ID == id {
			return f, true
		}
	}
	return Fault{}, false
}

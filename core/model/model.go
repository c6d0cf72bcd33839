package model

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"neokinema/core/uncertainty"
)

// Model is one event as data: phases bounded by key positions, checkpoints with
// bands, faults with causes and cues. See docs/models.md for how to write one.
type Model struct {
	ID          string       `json:"id"`
	Version     int          `json:"version" doc:"grows with every change that may change a verdict"`
	Name        string       `json:"name"`
	About       string       `json:"about" doc:"what the model takes as good, in a few sentences"`
	View        string       `json:"view" enum:"side,back,front,oblique,above" doc:"the view that checkpoints need unless they name others"`
	Film        string       `json:"film" doc:"how to film it"`
	Watch       []string     `json:"watch,omitempty" required:"false" doc:"what to look at when the clip is watched at full speed, slowly, frame by frame, and slowly again"`
	Variants    []Variant    `json:"variants,omitempty" required:"false" doc:"schools and styles; the first is meant when none is chosen"`
	Positions   []Position   `json:"positions"`
	Phases      []Phase      `json:"phases"`
	Contacts    []Contact    `json:"contacts"`
	Repeat      *Repeat      `json:"repeat,omitempty" required:"false" doc:"a group of positions that comes again and again; its positions, phases and contacts stand in the lists above as well, numbered"`
	Checkpoints []Checkpoint `json:"checkpoints"`
	Faults      []Fault      `json:"faults"`
	Cautions    []string     `json:"cautions"`
	Adjusted    []Adjusted   `json:"adjusted,omitempty" required:"false" doc:"bands for one age group or one athlete"`
}

// Adjusted is a band that holds for some only. One for an athlete outranks one for
// an age group, of those the youngest outranks the others, and all outrank the
// variant's and the model's own.
type Adjusted struct {
	Checkpoint string           `json:"checkpoint"`
	Under      int              `json:"under,omitempty" required:"false" doc:"for athletes under this age in the year"`
	Years      int              `json:"years,omitempty" required:"false" doc:"for athletes in their first so many years of the event"`
	Athlete    string           `json:"athlete,omitempty" required:"false" maxLength:"40" doc:"for this athlete, by id"`
	Band       uncertainty.Band `json:"band"`
	Reason     string           `json:"reason" maxLength:"300"`
}

// Whom a model is for.
type Whom struct {
	Athlete string // id
	Age     int    // in the year
	// Years since the event was begun, 0 in the first; Unknown where nobody has said.
	Years int
}

// Unknown is a number of years that nobody has said.
const Unknown = -1

// fits tells whether a band holds for somebody.
func (a Adjusted) fits(who Whom) bool {
	switch {
	case a.Athlete != "":
		return a.Athlete == who.Athlete
	case a.Under > 0 && who.Age >= a.Under:
		return false
	case a.Years > 0:
		return who.Years != Unknown && who.Years < a.Years
	}
	return a.Under > 0
}

// outranks tells whether a band stands before another that fits too: one for an athlete before
// one for an age, a younger age before an older one, an age before who has just begun.
func (a Adjusted) outranks(b Adjusted) bool {
	age := func(x Adjusted) int {
		if x.Under == 0 {
			return math.MaxInt
		}
		return x.Under
	}
	switch {
	case (a.Athlete != "") != (b.Athlete != ""):
		return a.Athlete != ""
	case age(a) != age(b):
		return age(a) < age(b)
	}
	return a.Years >= b.Years
}

// For is the model as it holds for an athlete.
func (m Model) For(who Whom) Model {
	best := map[string]Adjusted{}
	for _, a := range m.Adjusted {
		if b, ok := best[a.Checkpoint]; a.fits(who) && (!ok || a.outranks(b)) {
			best[a.Checkpoint] = a
		}
	}
	if len(best) == 0 {
		return m
	}
	m.Checkpoints, m.Variants = slices.Clone(m.Checkpoints), slices.Clone(m.Variants)
	for i, c := range m.Checkpoints {
		if a, ok := best[c.ID]; ok {
			m.Checkpoints[i].Band, m.Checkpoints[i].Tolerated = a.Band, nil
		}
	}
	for i, v := range m.Variants {
		bands := map[string]uncertainty.Band{}
		for id, b := range v.Bands {
			if _, ok := best[id]; !ok {
				bands[id] = b
			}
		}
		m.Variants[i].Bands = bands
	}
	return m
}

// Position is a key position, found at one frame of a clip.
type Position struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Short    string   `json:"short" doc:"for tight places"`
	Hint     string   `json:"hint" doc:"how to find the frame"`
	Optional bool     `json:"optional,omitempty" required:"false" doc:"helps single checkpoints; the breakdown stands without it"`
	Find     *Find    `json:"find,omitempty" required:"false" doc:"how the tool finds it in the tracks; absent when only the eye can"`
	Only     []string `json:"only,omitempty" required:"false" doc:"variants that have it; all when empty"`
	Group    string   `json:"group,omitempty" required:"false" doc:"position of the repeated group of which this is one"`
	Nth      int      `json:"nth,omitempty" required:"false" doc:"its number in the repetition, from 1"`
}

// Variant is a style or school of an event.
type Variant struct {
	ID    string                      `json:"id"`
	Name  string                      `json:"name"`
	Says  string                      `json:"says" doc:"what is different"`
	Bands map[string]uncertainty.Band `json:"bands,omitempty" required:"false" doc:"checkpoint to the band that holds here"`
	Asks  map[string]string           `json:"asks,omitempty" required:"false" doc:"checkpoint to the question that is asked here"`
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
//	foot-on, -off   the foot (role) comes down, leaves, for the nth time in the clip;
//	                the sweep foot of a repeated group: in the nth turn, where turns are known
//	jump-on, -off   the contact before the longest flight begins, ends
//	before-on, -off the contact before that one begins, ends
//	jump-end        the longest flight ends; jump-middle is halfway
//	ball-at         the ball passes the azimuth (0 or 180) in the nth turn
//	wind            the ball passes azimuth 0 for the nth time before the first turn
//	step-on, -off   the foot (role) comes down, leaves, in its nth-last contact that begins before the release
//	step-after      the foot comes down for the first time after the release
//	release         the implement begins to fly free
type Find struct {
	Kind string `json:"kind" enum:"first-movement,still-before,leaves,touchdown,toe-off,under,half-flight,foot-on,foot-off,jump-on,jump-off,before-on,before-off,jump-middle,jump-end,ball-at,wind,release,step-on,step-off,step-after"`
	Foot string `json:"foot,omitempty" required:"false" enum:"front,rear,sweep,pivot,throwing,block,"`
	Nth  int    `json:"nth,omitempty" required:"false"`
	// Of ball-at.
	Azimuth float64 `json:"azimuth,omitempty" required:"false" enum:"0,180"`
}

// Repeat is a group of positions, phases and contacts that comes again: a
// running step, a turn of a throw. Its members carry no number; [Model.Unroll]
// numbers them from 1 to Most. "+1" after a position means that of the next
// repetition, "*" the last one that is flagged.
type Repeat struct {
	ID        string     `json:"id"`
	Name      string     `json:"name" doc:"such as step"`
	After     string     `json:"after,omitempty" required:"false" doc:"position after which the group stands; at the end when empty"`
	Most      int        `json:"most"`
	Positions []Position `json:"positions"`
	Phases    []Phase    `json:"phases"`
	Contacts  []Contact  `json:"contacts"`
}

// Phase runs from one key position to another.
type Phase struct {
	ID   string   `json:"id"`
	Name string   `json:"name"`
	From string   `json:"from"`
	To   string   `json:"to"`
	Only []string `json:"only,omitempty" required:"false"`
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
	ID       string           `json:"id"`
	Name     string           `json:"name"`
	Position string           `json:"position" doc:"key position under which it is listed"`
	Measure  Measure          `json:"measure"`
	Unit     string           `json:"unit" enum:"°,cm,ms,%,m/s,m,1/min,BW,kN/m," doc:"empty for what is counted and for the coach's own mark"`
	Band     uncertainty.Band `json:"band"`
	// A wider band: what lies between the two is shown as tolerated, and no fault is made of it.
	Tolerated *uncertainty.Band `json:"tolerated,omitempty" required:"false" doc:"a wider band: what lies between the two is no fault yet"`
	Info      bool              `json:"info,omitempty" required:"false" doc:"information: the band is what is usual, and nothing is judged by it"`
	Basis     string            `json:"basis" enum:"trade,literature,definition" doc:"trade: common practice, no source; literature: from memory of it; definition: rule or definition"`
	Views     []string          `json:"views,omitempty" required:"false" doc:"views in which it can be measured; the model's when empty"`
	Only      []string          `json:"only,omitempty" required:"false" doc:"variants that have it; all when empty"`
	Question  string            `json:"question,omitempty" required:"false" doc:"what the coach answers with yes, partly or no when it cannot be measured"`
	Keep      string            `json:"keep,omitempty" required:"false" doc:"praise when met"`
	NotIf     []string          `json:"not_if,omitempty" required:"false" doc:"faults that produce this number: no praise then"`
}

// Measure is a kind of computation and what it works on; [MeasureKinds] lists them. Angles,
// off_path, ahead, above and apart with two positions and a pick are the largest or smallest
// value from one position to the other.
type Measure struct {
	Kind      string   `json:"kind"`
	Points    []string `json:"points,omitempty" required:"false" doc:"roles"`
	Positions []string `json:"positions,omitempty" required:"false"`
	Readings  []string `json:"readings,omitempty" required:"false"`
	Pick      string   `json:"pick,omitempty" required:"false" enum:"largest,smallest,"`
}

// Fault is a fault of technique with its place in the graph of causes.
type Fault struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Short    string   `json:"short" doc:"for the row of causes"`
	Phase    string   `json:"phase" doc:"where it is made"`
	When     Rule     `json:"when"`
	Because  []string `json:"because,omitempty" required:"false" doc:"faults that bring this one about"`
	Effect   string   `json:"effect" doc:"what it leads to"`
	Setting  bool     `json:"setting,omitempty" required:"false" doc:"cured by the block setting, not by a cue"`
	Stage    int      `json:"stage,omitempty" required:"false" doc:"faults of a higher stage never come first while one of a lower stage is open: landing after take-off"`
	Strength string   `json:"strength,omitempty" required:"false" doc:"what to say instead of a cue when the position cannot be held for want of strength"`
	Brief    string   `json:"brief,omitempty" required:"false" doc:"short words for children and beginners"`
	Only     []string `json:"only,omitempty" required:"false" doc:"variants that have it; all when empty"`
	Cues     []Cue    `json:"cues"`
	Drills   []Drill  `json:"drills"`
	Target   string   `json:"target" doc:"checkpoint whose reading shows next time whether it worked"`
}

// Rule tells when a fault is there: a leaf on one reading, or any / all of more.
type Rule struct {
	Any        []Rule   `json:"any,omitempty" required:"false"`
	All        []Rule   `json:"all,omitempty" required:"false"`
	Reading    string   `json:"reading,omitempty" required:"false"`
	Above      *float64 `json:"above,omitempty" required:"false"`
	Below      *float64 `json:"below,omitempty" required:"false"`
	Outside    string   `json:"outside,omitempty" required:"false" enum:"above,below,either," doc:"outside the band of the checkpoint, whatever it is: a changed band changes the fault with it"`
	AnsweredNo bool     `json:"answered_no,omitempty" required:"false" doc:"the coach answered no (or partly: likely)"`
}

// Cue is what the athlete should think of, with what tends to go wrong.
type Cue struct {
	Focus    string `json:"focus" enum:"outward,inward"`
	Words    string `json:"words"`
	Backfire string `json:"backfire" doc:"what athletes tend to do instead, and what to say then"`
}

// Drill teaches the cue.
type Drill struct {
	Name   string   `json:"name"`
	Dose   Dose     `json:"dose"`
	Ladder []string `json:"ladder,omitempty" required:"false" doc:"from the easiest rung to the hardest, three to six"`
	GoOn   string   `json:"go_on,omitempty" required:"false" doc:"when the next rung is due"`
	Stop   string   `json:"stop,omitempty" required:"false" doc:"when to end it for the day, or go down a rung"`
	Feel   string   `json:"feel"`
}

// Dose is how much of a drill is done. A coach's own may be in words alone.
type Dose struct {
	Sets   int    `json:"sets,omitempty" required:"false"`
	Reps   int    `json:"reps,omitempty" required:"false" doc:"in a set"`
	Of     string `json:"of,omitempty" required:"false" maxLength:"40" doc:"what is repeated: throws, s, m; nothing where it is plain"`
	Effort int    `json:"effort,omitempty" required:"false" doc:"% of full"`
	Rest   int    `json:"rest,omitempty" required:"false" doc:"s between sets"`
	Week   int    `json:"week,omitempty" required:"false" doc:"times a week"`
	Weeks  int    `json:"weeks,omitempty" required:"false" doc:"weeks until it is looked at again"`
	Says   string `json:"says,omitempty" required:"false" maxLength:"300" doc:"the whole in words: made from the numbers, or the coach's own"`
}

// UnmarshalJSON also takes words alone, as doses once were.
func (d *Dose) UnmarshalJSON(raw []byte) error {
	*d = Dose{}
	if len(raw) > 0 && raw[0] == '"' {
		return json.Unmarshal(raw, &d.Says)
	}
	type plain Dose
	return json.Unmarshal(raw, (*plain)(d))
}

// Session is the dose of one session in words, with a share of its sets, at least one.
func (d Dose) Session(share float64) string {
	if d.Sets < 1 {
		if share == 1 {
			return d.Says
		}
		sets, reps, ok := strings.Cut(d.Says, " x ")
		n, err := strconv.Atoi(strings.TrimSpace(sets))
		if !ok || err != nil || n < 1 {
			return fmt.Sprintf("%.0f %% of: %s", 100*share, d.Says)
		}
		return fmt.Sprintf("%d x %s", max(1, int(math.Round(float64(n)*share))), reps)
	}
	out := fmt.Sprintf("%d x %d", d.sets(share), d.Reps)
	if d.Of != "" {
		out += " " + d.Of
	}
	if d.Effort > 0 {
		out += fmt.Sprintf(" at %d %%", d.Effort)
	}
	switch {
	case d.Rest >= 120 || d.Rest > 0 && d.Rest%60 == 0:
		out += fmt.Sprintf(", %g min rest", math.Round(float64(d.Rest)/30)/2)
	case d.Rest > 0:
		out += fmt.Sprintf(", %d s rest", d.Rest)
	}
	return out
}

// sets of a share of the dose.
func (d Dose) sets(share float64) int { return max(1, int(math.Round(float64(d.Sets)*share))) }

// Repetitions is how many a share of the dose has; 0 when it is in words.
func (d Dose) Repetitions(share float64) int {
	if d.Sets < 1 {
		return 0
	}
	return d.sets(share) * d.Reps
}

// String is the whole dose in words.
func (d Dose) String() string {
	out := d.Session(1)
	switch {
	case d.Sets < 1:
	case d.Week == 1:
		out += ", once a week"
	case d.Week == 2:
		out += ", twice a week"
	case d.Week > 2:
		out += fmt.Sprintf(", %d times a week", d.Week)
	}
	if d.Sets > 0 && d.Weeks > 0 {
		out += fmt.Sprintf(" for %d weeks", d.Weeks)
	}
	return out
}

// Unroll numbers the members of the repeated group and puts them into the lists, and puts doses
// into words.
func (m *Model) Unroll() {
	for _, f := range m.Faults {
		for i := range f.Drills {
			f.Drills[i].Dose.Says = f.Drills[i].Dose.String()
		}
	}
	r := m.Repeat
	if r == nil {
		return
	}
	var unrolled []Position
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
			q.Name, q.Short = fmt.Sprintf("%s, %s %d", p.Name, r.Name, n), fmt.Sprintf("%d %s", n, p.Short)
			// One step makes a breakdown; the others are welcome.
			q.Optional = p.Optional || n > 1
			if p.Find != nil {
				f := *p.Find
				f.Nth = n
				q.Find = &f
			}
			unrolled = append(unrolled, q)
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
	at := len(m.Positions)
	if r.After != "" {
		at = 1 + slices.IndexFunc(m.Positions, func(p Position) bool { return p.ID == r.After })
	}
	m.Positions = slices.Insert(m.Positions, at, unrolled...)
	// Phases go on in the order of the positions at which they begin; one that
	// begins at the last of the group stands behind it.
	begins := func(p Phase) int {
		if strings.HasSuffix(p.From, "*") {
			return at + len(unrolled)
		}
		return slices.IndexFunc(m.Positions, func(q Position) bool { return q.ID == p.From })
	}
	sort.SliceStable(m.Phases, func(i, j int) bool { return begins(m.Phases[i]) < begins(m.Phases[j]) })
}

// As is the model as a variant has it; the first variant when the name is empty
// or unknown.
func (m Model) As(variant string) Model {
	if len(m.Variants) == 0 {
		return m
	}
	v := m.Variants[0]
	for _, o := range m.Variants {
		if o.ID == variant {
			v = o
		}
	}
	has := func(only []string) bool { return len(only) == 0 || slices.Contains(only, v.ID) }
	all := m.Phases
	m.Positions = filter(m.Positions, func(p Position) bool { return has(p.Only) })
	m.Phases = filter(m.Phases, func(p Phase) bool { return has(p.Only) })
	m.Checkpoints = filter(m.Checkpoints, func(c Checkpoint) bool { return has(c.Only) })
	m.Faults = filter(m.Faults, func(f Fault) bool { return has(f.Only) })
	m.regroup(all)
	for i, c := range m.Checkpoints {
		if b, ok := v.Bands[c.ID]; ok {
			m.Checkpoints[i].Band, m.Checkpoints[i].Tolerated = b, nil
		}
		if q, ok := v.Asks[c.ID]; ok {
			m.Checkpoints[i].Question = q
		}
	}
	return m
}

// regroup brings faults to the phases of a variant that divides the movement otherwise: each to
// the phase in which its own one begins.
func (m Model) regroup(all []Phase) {
	at := func(id string) int { return slices.IndexFunc(m.Positions, func(p Position) bool { return p.ID == id }) }
	for i, f := range m.Faults {
		if m.PhaseOf(f.ID) >= 0 {
			continue
		}
		own := slices.IndexFunc(all, func(p Phase) bool { return p.ID == f.Phase })
		if own < 0 {
			continue
		}
		begins := at(all[own].From)
		for _, p := range m.Phases {
			if at(p.From) <= begins && begins < at(p.To) {
				m.Faults[i].Phase = p.ID
			}
		}
	}
}

func filter[T any](list []T, keep func(T) bool) []T {
	out := make([]T, 0, len(list))
	for _, x := range list {
		if keep(x) {
			out = append(out, x)
		}
	}
	return out
}

// Repeated tells whether a name is that of a repeated position.
func (m Model) Repeated(id string) bool {
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

// Checkpoint finds a checkpoint by id.
func (m Model) Checkpoint(id string) (Checkpoint, bool) {
	for _, c := range m.Checkpoints {
		if c.ID == id {
			return c, true
		}
	}
	return Checkpoint{}, false
}

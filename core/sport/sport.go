// Package sport holds the facts of each event, in one table: what it is called, what is
// thrown and how large and heavy it is, out of which circle and into which sector, which
// side of the athlete the movement goes by, and how long a change takes to show.
//
// Masses and sizes are those of the World Athletics Technical Rules for grown athletes
// (rules 32 to 38), and for the weight of the indoor rules of federations that have the
// event; written from memory, so check the edition in force.
package sport

// ID names an event; technique models and attempts carry it.
type ID string

// Side is what tells which way round an athlete does an event.
type Side string

// Sides.
const (
	NoSide       Side = ""              // both sides do the same
	FrontLeg     Side = "front_leg"     // in the blocks
	TakeoffLeg   Side = "takeoff_leg"   // of a jump
	ThrowingHand Side = "throwing_hand" // of a throw; of the vault the upper hand on the pole
)

// Change is how a change of technique is learnt, which settles when to look for it.
type Change string

// Kinds of change.
const (
	Setting  Change = "setting"  // blocks, marks, grip: changed at once
	Running  Change = "running"  // a habit of every stride
	Start    Change = "start"    // short movements that are repeated often
	Jump     Change = "jump"     // few repetitions a session
	Throw    Change = "throw"    // thousands of repetitions
	Strength Change = "strength" // the position cannot be held yet
)

// recheck holds the days until a change can be looked for. Common practice, no source: a
// block setting shows in the next session, technique in a throw takes weeks, strength more.
var recheck = map[Change]int{Setting: 3, Running: 14, Start: 14, Jump: 21, Throw: 28, Strength: 42}

// Recheck is after how many days a change of a kind can be looked for.
func Recheck(c Change) int { return recheck[c] }

// Implement is what is thrown. Pairs are of men and of women.
type Implement struct {
	Kind     string     `json:"kind"` // as package throw names it
	Mass     [2]float64 `json:"mass"` // kg
	Diameter [2]float64 `json:"-"`    // m; of a javelin none
	WireArea float64    `json:"-"`    // m2 that a hammer's wire and handle show to the air
	Length   float64    `json:"-"`    // of a javelin, m
}

// Men and women, as [Implement] lists them.
const (
	Men = iota
	Women
)

// Event is all that is known of an event beside its technique model.
type Event struct {
	ID   ID     `json:"id"`
	Name string `json:"name"`
	// Change is how it is learnt, and Side which way round it is done.
	Change Change `json:"-"`
	Side   Side   `json:"-"`
	// Implement is what is thrown; nil where nothing flies.
	Implement *Implement `json:"implement,omitempty"`
	// Held tells that it matters what is held: an implement, or a pole.
	Held bool `json:"held"`
	// Circle is the diameter of the circle it is thrown out of, m; 0 without one.
	Circle float64 `json:"circle"`
	// Sector is half of the angle of the landing sector, degrees.
	Sector float64 `json:"-"`
	// Blocks tells that it begins in starting blocks.
	Blocks bool `json:"blocks"`
}

// Half angles of the landing sectors, degrees: 34.92 and 28.96 in all.
const (
	circleSector = 17.46
	arcSector    = 14.48
)

// events in the order in which a club's week offers them.
var events = []Event{
	{ID: "sprint-start", Name: "Sprint start", Change: Start, Side: FrontLeg, Blocks: true},
	{ID: "running", Name: "Running stride", Change: Running},
	{ID: "long-jump", Name: "Long jump", Change: Jump, Side: TakeoffLeg},
	{ID: "high-jump", Name: "High jump", Change: Jump, Side: TakeoffLeg},
	{ID: "pole-vault", Name: "Pole vault", Change: Jump, Side: ThrowingHand, Held: true},
	{ID: "shot", Name: "Shot put", Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.135, Sector: circleSector,
		Implement: &Implement{Kind: "shot", Mass: [2]float64{7.26, 4}, Diameter: [2]float64{0.12, 0.1}}},
	{ID: "discus", Name: "Discus", Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.5, Sector: circleSector,
		Implement: &Implement{Kind: "discus", Mass: [2]float64{2, 1}, Diameter: [2]float64{0.22, 0.181}}},
	{ID: "hammer", Name: "Hammer", Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.135, Sector: circleSector,
		Implement: &Implement{Kind: "hammer", Mass: [2]float64{7.26, 4}, Diameter: [2]float64{0.115, 0.1}, WireArea: 0.0036}},
	{ID: "weight", Name: "Weight throw", Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.135, Sector: circleSector,
		Implement: &Implement{Kind: "weight", Mass: [2]float64{15.88, 9.08}, Diameter: [2]float64{0.15, 0.125}, WireArea: 0.001}},
	{ID: "javelin", Name: "Javelin", Change: Throw, Side: ThrowingHand, Held: true, Sector: arcSector,
		Implement: &Implement{Kind: "javelin", Mass: [2]float64{0.8, 0.6}, Length: 2.65}},
}

// Events lists all events.
func Events() []Event { return append([]Event(nil), events...) }

// Of finds an event; without one it is a throw of nothing, so that a model of one's own
// event still works.
func Of(id string) Event {
	for _, e := range events {
		if string(e.ID) == id {
			return e
		}
	}
	return Event{ID: ID(id), Name: id, Change: Throw, Side: ThrowingHand}
}

// IDs of all events, for the contract.
func IDs() []string {
	var out []string
	for _, e := range events {
		out = append(out, string(e.ID))
	}
	return out
}

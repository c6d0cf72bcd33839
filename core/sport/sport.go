// Package sport holds the facts of each event, in one table: what it is called, what is
// thrown and how large and heavy it is, out of which circle and into which sector, which
// side of the athlete the movement goes by, and how long a change takes to show.
//
// Masses and sizes are those of the World Athletics Technical Rules by age class
// (rules 32 to 38), and for the weight of the indoor rules of federations that have the
// event; written from memory, so check the edition in force.
package sport

import (
	"math"
	"slices"

	"neokinema/core/body"
)

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

// Place is what a club has room for on a day.
type Place string

// Places.
const (
	Track   Place = "track"
	Pit     Place = "pit"
	Mat     Place = "mat"
	Circle  Place = "circle"
	Runway  Place = "runway"
	Weights Place = "weights"
)

// Places are all of them, in the order in which they are offered.
var Places = []Place{Track, Pit, Mat, Circle, Runway, Weights}

// safety is what is looked at before the first try, by place. The usual caution; rules of federation
// and ground come first.
var safety = map[Place]string{
	Circle: "Sector and cage: nobody in the sector or beside the cage, the gates set, the circle dry, implements and gloves looked at.",
	Runway: "Sector and runway: nobody in front of the arc, implements carried upright and walked back, never thrown back.",
	Pit:    "Pit raked and dug, its edges free, rakes laid away, the runway clear.",
	Mat:    "Mats close together, nothing hard uncovered, the bar a proper one, poles fit for who vaults: a certified coach decides the pole.",
	Track:  "Lanes clear, blocks firm, room to run out.",
}

// Safety is what is looked at on a place before the first try; empty where nothing is said.
func Safety(p Place) string { return safety[p] }

// Implement is what is thrown. Pairs are of men and of women.
type Implement struct {
	Kind     string  `json:"kind"` // as package throw names it
	Men      []Size  `json:"men"`  // the youngest class first, grown athletes last
	Women    []Size  `json:"women"`
	WireArea float64 `json:"-"` // m2 that a hammer's wire and handle show to the air
}

// Size is an implement as an age class throws it.
type Size struct {
	Under    int     `json:"under,omitempty"` // years in the year of the competition; 0: grown
	Mass     float64 `json:"mass"`            // kg
	Diameter float64 `json:"-"`               // m; of a javelin none
	Length   float64 `json:"-"`               // of a javelin, m
}

// Of is what somebody of that sex and age (in the year; 0 when unknown) throws by the rules.
// Below the youngest class federations differ; the youngest is meant.
func (i Implement) Of(sex body.Sex, age int) Size {
	list := i.Men
	if sex == body.Female {
		list = i.Women
	}
	for _, s := range list {
		if age > 0 && age < s.Under {
			return s
		}
	}
	return list[len(list)-1]
}

// Weighing is the implement of the class whose mass is nearest, for whoever throws another than
// his own class's, with that mass.
func (i Implement) Weighing(mass float64) Size {
	var best Size
	for _, s := range slices.Concat(i.Men, i.Women) {
		if best.Mass == 0 || math.Abs(math.Log(s.Mass/mass)) < math.Abs(math.Log(best.Mass/mass)) {
			best = s
		}
	}
	best.Mass = mass
	return best
}

// Pace is how often something comes in a second: least and most that anybody does, children and
// beginners included, and the usual. Common practice, no source.
type Pace struct{ Least, Most, Usual float64 }

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
	// Curved tells that its run-up bends, so that nobody sees all of it from the side.
	Curved bool `json:"-"`
	// Circle is the diameter of the circle it is thrown out of, m; 0 without one.
	Circle float64 `json:"circle"`
	// Runway is what marks the ground of its run-up, by the template of package ground; empty without.
	Runway string `json:"runway" enum:"board,bar,box,arc,"`
	// Place is where it is trained.
	Place Place `json:"place" enum:"track,pit,mat,circle,runway"`
	// Fouls are why attempts most often do not count, in the words in which it is noted.
	Fouls []string `json:"fouls,omitempty"`
	// Sector is half of the angle of the landing sector, degrees.
	Sector float64 `json:"-"`
	// Windy tells that a tail wind keeps its marks from lists of bests.
	Windy bool `json:"windy"`
	// Series tells that a competition is a series of attempts of which the best counts.
	Series bool `json:"series"`
	// Turned tells that the thrower turns with it in both hands, so that turns are counted.
	Turned bool `json:"turned"`
	// Blocks tells that it begins in starting blocks.
	Blocks bool `json:"blocks"`
	// Steps and Turns are how many a second the fast part of it takes: of a run or run-up, and of
	// the last turn of who turns with an implement in both hands. None of others.
	Steps, Turns Pace `json:"-"`
	// ArmsSwing tells that each arm swings against the leg of its side: nothing is carried,
	// and no double swing prepares the take-off.
	ArmsSwing bool `json:"-"`
	// Supports name the phases of its model, by their id there, after what stands on the ground:
	// the other school of naming. A phase that is not here is called alike by both.
	Supports map[string]string `json:"supports,omitempty"`
}

// Naming of phases after what stands on the ground, as biomechanics has it: common practice.
const (
	double = "double support"
	single = "single support"
)

var turns = map[string]string{"winds": double + ", winds", "double": double + ", ball rises", "single": single, "return": double + ", ball falls", "delivery": double + ", delivery"}

// Pole tells that the athlete is carried by a pole.
func (e Event) Pole() bool { return e.Held && e.Implement == nil }

// Roles are a person's in this event, seen from a camera at the near side. A vaulter leaves the
// ground from the foot across from the top hand, whatever the card says of jumps.
func (e Event) Roles(p body.Person, near body.Side) body.Roles {
	r := p.Roles(near)
	if e.Pole() {
		r.Takeoff = r.Throwing.Other()
	}
	return r
}

// Half angles of the landing sectors, degrees: 34.92 and 28.96 in all.
// World Athletics Technical Rules 32, from memory.
const (
	circleSector = 17.46
	arcSector    = 14.48
)

// Sizes of the grounds of run-ups, m. World Athletics Technical Rules 26 to 38, from memory.
const (
	Uprights      = 4.02 // between those of the high jump: 4.00 to 4.04
	RunwayAcross  = 1.22 // of long jump and pole vault
	JavelinRunway = 4.00 // across
	ArcRadius     = 8.00 // of the javelin's arc
	BoxDeep       = 0.20 // of the vault's box under the runway
)

// events in the order in which a club's week offers them.
var events = []Event{
	{ID: "sprint-start", Name: "Sprint start", Place: Track, Fouls: []string{"false start"}, Steps: Pace{3, 5.2, 4.3}, Change: Start, Side: FrontLeg, Windy: true, Blocks: true, ArmsSwing: true, Supports: map[string]string{"set": double + ", set", "both": "double push", "front": "single push", "step1": "support 1", "step2": "support 2", "step3": "support 3"}},
	{ID: "running", Name: "Running stride", Place: Track, Steps: Pace{1.7, 5.2, 3.3}, Change: Running, Windy: true, ArmsSwing: true, Supports: map[string]string{"brake": "support, first half", "push": "support, second half"}},
	{ID: "long-jump", Name: "Long jump", Place: Pit, Fouls: []string{"over the board", "ran through"}, Runway: "board", Series: true, Change: Jump, Side: TakeoffLeg, Windy: true, ArmsSwing: true, Supports: map[string]string{"pen": "second-last support", "into": "flight of the last step", "takeoff": "last support"}},
	{ID: "high-jump", Name: "High jump", Place: Mat, Fouls: []string{"bar fell", "ran through"}, Runway: "bar", Change: Jump, Side: TakeoffLeg, Curved: true, Supports: map[string]string{"pen": "second-last support", "into": "flight of the last step", "takeoff": "last support", "rise": "flight, up", "fall": "flight, down"}},
	{ID: "pole-vault", Name: "Pole vault", Place: Mat, Fouls: []string{"bar fell", "ran through"}, Runway: "box", Steps: Pace{2.6, 5, 3.9}, Change: Jump, Side: ThrowingHand, Held: true, Supports: map[string]string{"takeoff": "last support", "swing": "pole support, swing", "invert": "pole support, inversion", "push": "pole support, push", "clear": "flight, up", "fall": "flight, down"}},
	{ID: "shot", Name: "Shot put", Place: Circle, Fouls: []string{"over the rim", "sector"}, Series: true, Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.135, Sector: circleSector, Supports: map[string]string{"entry": double + ", entry", "sweep": single + ", sweep", "flight": "flight", "glide": "flight, glide", "middle": single + ", middle", "delivery": double + ", delivery"},
		Implement: &Implement{Kind: "shot",
			Men:   []Size{{Under: 18, Mass: 5, Diameter: 0.11}, {Under: 20, Mass: 6, Diameter: 0.115}, {Mass: 7.26, Diameter: 0.12}},
			Women: []Size{{Under: 18, Mass: 3, Diameter: 0.095}, {Mass: 4, Diameter: 0.1}}}},
	{ID: "discus", Name: "Discus", Place: Circle, Fouls: []string{"over the rim", "sector", "cage"}, Series: true, Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.5, Sector: circleSector, Supports: map[string]string{"entry": double + ", entry", "sweep": single + ", sweep", "flight": "flight", "middle": single + ", middle", "delivery": double + ", delivery"},
		Implement: &Implement{Kind: "discus",
			Men:   []Size{{Under: 18, Mass: 1.5, Diameter: 0.2}, {Under: 20, Mass: 1.75, Diameter: 0.21}, {Mass: 2, Diameter: 0.22}},
			Women: []Size{{Mass: 1, Diameter: 0.181}}}},
	{ID: "hammer", Name: "Hammer", Place: Circle, Fouls: []string{"over the rim", "sector", "cage"}, Turned: true, Turns: Pace{1.2, 3.2, 2.1}, Series: true, Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.135, Sector: circleSector, Supports: turns,
		Implement: &Implement{Kind: "hammer", WireArea: 0.0036,
			Men:   []Size{{Under: 18, Mass: 5, Diameter: 0.105}, {Under: 20, Mass: 6, Diameter: 0.11}, {Mass: 7.26, Diameter: 0.115}},
			Women: []Size{{Under: 18, Mass: 3, Diameter: 0.095}, {Mass: 4, Diameter: 0.1}}}},
	{ID: "weight", Name: "Weight throw", Place: Circle, Fouls: []string{"over the rim", "sector", "cage"}, Turned: true, Turns: Pace{1, 2.8, 1.7}, Series: true, Change: Throw, Side: ThrowingHand, Held: true, Circle: 2.135, Sector: circleSector, Supports: turns,
		Implement: &Implement{Kind: "weight", WireArea: 0.001,
			Men:   []Size{{Mass: 15.88, Diameter: 0.15}},
			Women: []Size{{Mass: 9.08, Diameter: 0.125}}}},
	{ID: "javelin", Name: "Javelin", Place: Runway, Fouls: []string{"over the arc", "not tip first", "sector"}, Runway: "arc", Steps: Pace{1.6, 4.6, 3}, Series: true, Change: Throw, Side: ThrowingHand, Held: true, Sector: arcSector, Supports: map[string]string{"power": single, "delivery": double},
		Implement: &Implement{Kind: "javelin",
			Men:   []Size{{Under: 18, Mass: 0.7, Length: 2.35}, {Mass: 0.8, Length: 2.65}},
			Women: []Size{{Under: 18, Mass: 0.5, Length: 2.05}, {Mass: 0.6, Length: 2.25}}}},
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

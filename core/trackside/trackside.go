// Package trackside brings together what several phones wrote down at the track without a network.
// What a phone writes is a note: one thing about one try. Notes of all phones, in whatever order they
// come in and however often, tell the same tries; where two phones contradict each other the later
// word stands, and the other is told.
package trackside

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"neokinema/core/sport"
)

// Field is what a note is about.
type Field string

// Fields.
const (
	Made  Field = "made"  // the try itself; the value is empty, or "gone" when it was taken out
	Mark  Field = "mark"  // as it is written
	Foul  Field = "foul"  // the reason
	Wind  Field = "wind"  // m/s
	Felt  Field = "felt"  // 1 to 5
	Kept  Field = "kept"  // what was worked on: kept or lost
	Words Field = "words" // the wording of the cue that was said before it
	Roof  Field = "roof"  // yes under a roof
)

// Fields lists all of them in the order in which they are told.
var Fields = []Field{Made, Mark, Foul, Wind, Felt, Kept, Words, Roof}

// gone is the value of a try that was taken out.
const gone = "gone"

// Note is one thing that a phone wrote down.
type Note struct {
	ID      string `json:"id" maxLength:"36" doc:"made on the phone"`
	Phone   string `json:"phone" maxLength:"36"`
	Try     string `json:"try" maxLength:"36" doc:"made on the phone"`
	Athlete string `json:"athlete" maxLength:"36"`
	Event   string `json:"event" maxLength:"40"`
	Day     string `json:"day" format:"date"`
	At      int64  `json:"at" doc:"by the phone's clock, ms since 1970"`
	Field   Field  `json:"field" enum:"made,mark,foul,wind,felt,kept,words,roof"`
	Value   string `json:"value" maxLength:"300"`
	Before  string `json:"before" maxLength:"300" doc:"what the phone had seen there"`
}

// Check refuses a note that nobody writes.
func (n Note) Check() error {
	number := func(lo, hi float64) error {
		if n.Value == "" {
			return nil
		}
		v, err := strconv.ParseFloat(n.Value, 64)
		if err != nil || !(v >= lo && v <= hi) {
			return fmt.Errorf("%s is %g to %g", n.Field, lo, hi)
		}
		return nil
	}
	if n.ID == "" || n.Phone == "" || n.Try == "" || n.Athlete == "" || n.At < 1e12 || n.At > 1e13 {
		return errors.New("a note is of a try, an athlete and a phone, at a time")
	}
	if !slices.Contains(sport.IDs(), n.Event) {
		return fmt.Errorf("a try is at an event; there is none called %q", n.Event)
	}
	most := 300
	switch n.Field {
	case Made:
		if n.Value != "" && n.Value != gone {
			return errors.New("a try is made, or taken out")
		}
	case Mark:
		most = 40
	case Foul:
		most = 200
	case Words:
	case Roof:
		if n.Value != "" && n.Value != "yes" {
			return errors.New("under a roof is yes, or nothing")
		}
	case Wind:
		return number(-15, 15)
	case Felt:
		if len(n.Value) > 1 || n.Value != "" && (n.Value < "1" || n.Value > "5") {
			return errors.New("felt is 1 to 5")
		}
	case Kept:
		if n.Value != "" && n.Value != "kept" && n.Value != "lost" {
			return errors.New("what was worked on is kept or lost")
		}
	default:
		return fmt.Errorf("there is nothing called %q to note", n.Field)
	}
	if len([]rune(n.Value)) > most {
		return fmt.Errorf("%s has %d letters at most", n.Field, most)
	}
	return nil
}

// Try is what all notes of it say.
type Try struct {
	ID      string           `json:"id"`
	Athlete string           `json:"athlete"`
	Event   string           `json:"event"`
	Day     string           `json:"day"`
	At      int64            `json:"at" doc:"when its first note was written"`
	Phone   string           `json:"phone" doc:"that wrote it"`
	Says    map[Field]string `json:"says" doc:"by field, where something stands"`
}

// Gone tells that it was taken out.
func (t Try) Gone() bool { return t.Says[Made] == gone }

// Conflict is where two phones wrote different things without having seen each other's.
type Conflict struct {
	Try     string `json:"try"`
	Athlete string `json:"athlete"`
	Field   Field  `json:"field" enum:"made,mark,foul,wind,felt,kept,words,roof"`
	Stands  string `json:"stands" doc:"the later word"`
	Other   string `json:"other"`
}

// Twin are two tries of an athlete that two phones wrote down at nearly the same time: maybe one.
type Twin struct {
	Athlete string    `json:"athlete"`
	Tries   [2]string `json:"tries"`
}

// Joined is what all notes tell.
type Joined struct {
	Tries     []Try      `json:"tries" doc:"by time"`
	Conflicts []Conflict `json:"conflicts"`
	Twins     []Twin     `json:"twins"`
}

// nearly is how far apart, ms, two phones write down one try. Common practice, no source: nobody
// throws or jumps twice in that time.
const nearly = 25_000

// Join brings notes together. Nothing hangs on their order.
func Join(notes []Note) Joined {
	notes = slices.Clone(notes)
	slices.SortFunc(notes, func(a, b Note) int {
		return cmp.Or(cmp.Compare(a.At, b.At), strings.Compare(a.Phone, b.Phone), strings.Compare(a.ID, b.ID))
	})
	notes = slices.CompactFunc(notes, func(a, b Note) bool { return a.ID == b.ID && a.Phone == b.Phone && a.At == b.At })
	type place struct {
		try   string
		field Field
	}
	wrote := map[place]string{} // the phone whose word stands
	open := map[place]Conflict{}
	tries := map[string]*Try{}
	for _, n := range notes {
		t := tries[n.Try]
		if t == nil {
			t = &Try{ID: n.Try, Athlete: n.Athlete, Event: n.Event, Day: n.Day, At: n.At, Phone: n.Phone, Says: map[Field]string{}}
			tries[n.Try] = t
		}
		at := place{n.Try, n.Field}
		now := t.Says[n.Field]
		switch other := wrote[at]; {
		case other == "" || other == n.Phone || n.Before == now:
			if n.Before == now {
				delete(open, at) // who wrote it had seen what stood there
			}
		case n.Value != now:
			open[at] = Conflict{n.Try, t.Athlete, n.Field, n.Value, now}
		}
		if n.Value == "" {
			delete(t.Says, n.Field)
		} else {
			t.Says[n.Field] = n.Value
		}
		wrote[at] = n.Phone
		if c, ok := open[at]; ok {
			c.Stands = n.Value
			open[at] = c
		}
	}
	out := Joined{Tries: []Try{}, Conflicts: []Conflict{}, Twins: []Twin{}}
	for _, t := range tries {
		out.Tries = append(out.Tries, *t)
	}
	slices.SortFunc(out.Tries, func(a, b Try) int { return cmp.Or(cmp.Compare(a.At, b.At), strings.Compare(a.ID, b.ID)) })
	for _, c := range open {
		out.Conflicts = append(out.Conflicts, c)
	}
	slices.SortFunc(out.Conflicts, func(a, b Conflict) int {
		return cmp.Or(strings.Compare(a.Try, b.Try), cmp.Compare(slices.Index(Fields, a.Field), slices.Index(Fields, b.Field)))
	})
	for i, a := range out.Tries {
		for _, b := range out.Tries[i+1:] {
			if b.At-a.At > nearly {
				break
			}
			if a.Athlete == b.Athlete && a.Phone != b.Phone && !a.Gone() && !b.Gone() {
				out.Twins = append(out.Twins, Twin{a.Athlete, [2]string{a.ID, b.ID}})
			}
		}
	}
	return out
}

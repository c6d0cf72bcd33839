package trackside

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
)

const begun = int64(1_790_000_000_000)

func note(phone string, at int, try string, field Field, value, before string) Note {
	return Note{ID: fmt.Sprintf("%s%d%s", phone, at, field), Phone: phone, Try: try, Athlete: "anna", Event: "hammer", Day: "2026-11-29", At: begun + int64(at)*1000, Field: field, Value: value, Before: before}
}

func TestTwoPhonesTellOneSession(t *testing.T) {
	notes := []Note{
		note("A", 1, "t1", Made, "", ""), note("A", 2, "t1", Mark, "58.20", ""), note("A", 3, "t1", Kept, "kept", ""),
		note("B", 200, "t2", Made, "", ""), note("B", 201, "t2", Foul, "over the rim", ""),
		// B reads the mark otherwise, without having seen A's.
		note("B", 9, "t1", Mark, "58.02", ""),
		// A takes what it had wrong back, and a try that was none.
		note("A", 300, "t1", Felt, "4", ""), note("A", 301, "t1", Felt, "", "4"),
		note("A", 400, "t3", Made, "", ""), note("A", 401, "t3", Made, "gone", ""),
	}
	got := Join(notes)
	if len(got.Tries) != 3 || got.Tries[0].Says[Mark] != "58.02" || got.Tries[0].Says[Kept] != "kept" || got.Tries[1].Says[Foul] != "over the rim" || !got.Tries[2].Gone() {
		t.Errorf("%+v", got.Tries)
	}
	if _, ok := got.Tries[0].Says[Felt]; ok {
		t.Error("what was taken back stands")
	}
	want := []Conflict{{"t1", "anna", Mark, "58.02", "58.20"}}
	if !reflect.DeepEqual(got.Conflicts, want) || len(got.Twins) != 0 {
		t.Errorf("%+v %+v", got.Conflicts, got.Twins)
	}
	// Somebody who has seen both settles it.
	settled := Join(append(notes, note("A", 500, "t1", Mark, "58.20", "58.02")))
	if len(settled.Conflicts) != 0 || settled.Tries[0].Says[Mark] != "58.20" {
		t.Errorf("settled: %+v", settled)
	}
	// Two phones that say the same contradict nobody.
	if same := Join([]Note{note("A", 1, "t", Mark, "60", ""), note("B", 2, "t", Mark, "60", "")}); len(same.Conflicts) != 0 {
		t.Errorf("%+v", same.Conflicts)
	}
	// The same try on two phones is asked about.
	if twins := Join([]Note{note("A", 1, "x", Made, "", ""), note("B", 12, "y", Made, "", ""), note("B", 60, "z", Made, "", "")}); len(twins.Twins) != 1 || twins.Twins[0].Tries != [2]string{"x", "y"} {
		t.Errorf("%+v", twins.Twins)
	}
}

// However notes come in, in whatever pieces and how often, they tell the same.
func TestNothingHangsOnTheOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 40))
	for range 60 {
		notes, _ := Session(r, 40, 3, 2)
		want := Join(notes)
		for range 5 {
			mixed := append([]Note(nil), notes...)
			for range len(notes) / 3 {
				mixed = append(mixed, notes[r.IntN(len(notes))])
			}
			r.Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
			if got := Join(mixed); !reflect.DeepEqual(got, want) {
				t.Fatalf("%+v\nwant %+v", got, want)
			}
		}
	}
}

func TestNothingIsLost(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 41))
	said := 0
	for range 40 {
		notes, truth := Session(r, 40, 3, 2)
		if lost := Lost(Join(notes), truth); len(lost) > 0 {
			t.Fatalf("lost: %v", lost)
		}
		for _, m := range truth {
			said += len(m)
		}
	}
	if said < 40*40*2 {
		t.Errorf("only %d things were said", said)
	}
	// The count sees what is missing.
	notes, truth := Session(r, 40, 3, 2)
	j := Join(notes)
	j.Tries = j.Tries[1:]
	if len(Lost(j, truth)) == 0 {
		t.Error("a lost try is not seen")
	}
}

func TestNotesThatNobodyWrites(t *testing.T) {
	good := note("A", 1, "t", Mark, "58.20", "")
	if err := good.Check(); err != nil {
		t.Error(err)
	}
	for want, spoil := range map[string]func(*Note){
		"at a time":         func(n *Note) { n.At = 5 },
		"of a try":          func(n *Note) { n.Try = "" },
		"yes, or nothing":   func(n *Note) { n.Field, n.Value = Roof, "no" },
		"at an event":       func(n *Note) { n.Event = "" },
		"40 letters":        func(n *Note) { n.Value = strings.Repeat("9", 41) },
		"felt is 1 to 5":    func(n *Note) { n.Field, n.Value = Felt, "6" },
		"kept or lost":      func(n *Note) { n.Field, n.Value = Kept, "maybe" },
		"wind is -15 to 15": func(n *Note) { n.Field, n.Value = Wind, "99" },
		"made, or taken":    func(n *Note) { n.Field = Made },
		"to note":           func(n *Note) { n.Field = "luck" },
	} {
		n := good
		spoil(&n)
		if err := n.Check(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
}

package model_test

import (
	"fmt"

	"neokinema/core/model"
)

// A throw of two turns: what is written once is numbered, and what is flagged decides what is
// asked for next.
func ExampleModel_Next() {
	m := model.Model{
		Positions: []model.Position{{ID: "entry", Name: "Entry"}, {ID: "release", Name: "Release"}},
		Repeat: &model.Repeat{ID: "turn", Name: "turn", After: "entry", Most: 2,
			Positions: []model.Position{{ID: "lift", Name: "Lift"}, {ID: "catch", Name: "Catch"}}},
	}
	m.Unroll()
	flagged := map[string]bool{"entry": true, "lift1": true}
	next, _ := m.Position(m.Next(func(id string) bool { return flagged[id] }))
	fmt.Println(next.Name)
	// Output: Catch, turn 1
}

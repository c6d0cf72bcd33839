package drills

import (
	_ "embed"
	"fmt"
	"sync"

	"go.yaml.in/yaml/v3"
)

// Ladder is a way from one technique to the next, rung by rung.
type Ladder struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Event string `json:"event"`
	About string `json:"about" doc:"for whom, and when to go back"`
	Rungs []Rung `json:"rungs"`
}

// Rung is one of a ladder.
type Rung struct {
	Name      string `json:"name"`
	Criterion string `json:"criterion" doc:"what has to stand before the next one"`
	Drill     string `json:"drill" doc:"of the library, by name"`
	Measure   string `json:"measure" doc:"checkpoint whose band tells; empty where only an eye does"`
}

//go:embed ladders.yaml
var ladders []byte

// Ladders are all of them.
var Ladders = sync.OnceValues(func() ([]Ladder, error) {
	var out []Ladder
	if err := yaml.Unmarshal(ladders, &out); err != nil {
		return nil, fmt.Errorf("ladders.yaml: %w", err)
	}
	return out, nil
})

// Package bridge offers the core as functions from JSON to JSON, for the
// WebAssembly build. The types below are also part of the API description, so
// that TypeScript gets them from the same source.
package bridge

import (
	"encoding/json"
	"fmt"
	"sync"

	"neokinema/core/clock"
	"neokinema/core/doubt"
	"neokinema/core/start"
	"neokinema/core/technique"
)

// EvaluateCall asks for the report of an attempt, and for what became of a
// target measured before.
type EvaluateCall struct {
	Input  technique.Input `json:"input"`
	Target string          `json:"target,omitempty" required:"false" doc:"checkpoint of the last cue"`
	Before *doubt.Value    `json:"before,omitempty" required:"false" doc:"its reading then"`
}

// EvaluateAnswer is the report, with the effect of the last cue if there is one.
type EvaluateAnswer struct {
	Report technique.Report  `json:"report"`
	Effect *technique.Effect `json:"effect,omitempty" required:"false"`
}

// BlocksCall asks what a moved pedal would do.
type BlocksCall struct {
	Input    technique.Input         `json:"input"`
	Question technique.BlockQuestion `json:"question"`
}

// BlocksAnswer is the answer, or what is missing for it.
type BlocksAnswer struct {
	Answer  *start.WhatIf `json:"answer,omitempty" required:"false"`
	Missing string        `json:"missing,omitempty" required:"false"`
}

// RatesCall weighs capture rates by a ground contact that the coach marked.
type RatesCall struct {
	Stamps   []int64   `json:"stamps"`
	FileRate float64   `json:"file_rate"`
	On       int       `json:"on" doc:"frame of touchdown"`
	Off      int       `json:"off" doc:"frame of toe-off; not after on for none"`
	Rates    []float64 `json:"rates"`
}

// RatesAnswer has one guess for each rate.
type RatesAnswer struct {
	Guesses []clock.Guess `json:"guesses"`
}

// Calls lists all types that cross the bridge.
type Calls struct {
	Evaluate       EvaluateCall   `json:"evaluate"`
	EvaluateAnswer EvaluateAnswer `json:"evaluate_answer"`
	Blocks         BlocksCall     `json:"blocks"`
	BlocksAnswer   BlocksAnswer   `json:"blocks_answer"`
	Rates          RatesCall      `json:"rates"`
	RatesAnswer    RatesAnswer    `json:"rates_answer"`
}

var models = sync.OnceValues(technique.Models)

func model(id string) (technique.Model, error) {
	all, err := models()
	if err != nil {
		return technique.Model{}, err
	}
	for _, m := range all {
		if m.ID == id {
			return m, nil
		}
	}
	return technique.Model{}, fmt.Errorf("there is no technique model %q", id)
}

// Do answers one call by name: evaluate, blocks or rates.
func Do(name string, request []byte) ([]byte, error) {
	switch name {
	case "evaluate":
		return answer(request, func(c EvaluateCall) (EvaluateAnswer, error) {
			m, err := model(c.Input.Model)
			if err != nil {
				return EvaluateAnswer{}, err
			}
			a := EvaluateAnswer{Report: technique.Evaluate(m, c.Input)}
			cp, known := m.Checkpoint(c.Target)
			now, measured := a.Report.Reading(c.Target)
			if known && measured && c.Before != nil && now.Value != nil {
				e := technique.Compare(cp, *c.Before, *now.Value)
				a.Effect = &e
			}
			return a, nil
		})
	case "blocks":
		return answer(request, func(c BlocksCall) (BlocksAnswer, error) {
			m, err := model(c.Input.Model)
			if err != nil {
				return BlocksAnswer{}, err
			}
			w, err := technique.Blocks(m, c.Input, c.Question)
			if err != nil {
				return BlocksAnswer{Missing: err.Error()}, nil
			}
			return BlocksAnswer{Answer: &w}, nil
		})
	case "rates":
		return answer(request, func(c RatesCall) (RatesAnswer, error) {
			return RatesAnswer{Guesses: clock.Guesses(c.Stamps, c.FileRate, c.On, c.Off, c.Rates)}, nil
		})
	}
	return nil, fmt.Errorf("the core has no call %q", name)
}

func answer[Q, A any](request []byte, f func(Q) (A, error)) ([]byte, error) {
	var q Q
	if err := json.Unmarshal(request, &q); err != nil {
		return nil, err
	}
	a, err := f(q)
	if err != nil {
		return nil, err
	}
	return json.Marshal(a)
}

// Package calls offers the workshop as functions from JSON to JSON, for its WebAssembly build.
// What crosses is also part of the API description, so that TypeScript gets it from the same
// source.
package calls

import (
	"encoding/json"
	"fmt"

	"neokinema/core/workshop"
)

// WorkshopCalls pairs each call's question with its answer, by name.
type WorkshopCalls struct {
	Questions       QuestionsCall   `json:"questions"`
	QuestionsAnswer QuestionsAnswer `json:"questions_answer"`
	Ask             AskCall         `json:"ask"`
	AskAnswer       AskAnswer       `json:"ask_answer"`
}

// QuestionsCall asks for the questions of an event; of all when empty.
type QuestionsCall struct {
	Event string `json:"event"`
}

// QuestionsAnswer lists them.
type QuestionsAnswer struct {
	Questions []workshop.Question `json:"questions"`
}

// AskCall asks one question.
type AskCall struct {
	Question string           `json:"question"`
	Values   workshop.Values  `json:"values"`
	Path     []workshop.Place `json:"path,omitempty" required:"false" maxItems:"60" doc:"where feet stood in a clip"`
}

// AskAnswer is the answer, or a word why there is none.
type AskAnswer struct {
	Answer  *workshop.Answer `json:"answer,omitempty" required:"false"`
	Refused string           `json:"refused,omitempty" required:"false"`
}

// Do answers a call.
func Do(name string, request []byte) ([]byte, error) {
	switch name {
	case "questions":
		var q QuestionsCall
		if err := json.Unmarshal(request, &q); err != nil {
			return nil, err
		}
		return json.Marshal(QuestionsAnswer{workshop.For(q.Event)})
	case "ask":
		var q AskCall
		if err := json.Unmarshal(request, &q); err != nil {
			return nil, err
		}
		return json.Marshal(Ask(q))
	}
	return nil, fmt.Errorf("the workshop has no call %q", name)
}

// Ask answers one question; what cannot be answered is a word, not an error.
func Ask(q AskCall) AskAnswer {
	a, err := workshop.Ask(q.Question, q.Values, q.Path)
	if err != nil {
		return AskAnswer{Refused: err.Error()}
	}
	return AskAnswer{Answer: &a}
}

// Package calls offers the workshop as functions from JSON to JSON, for its WebAssembly build.
// What crosses is also part of the API description, so that TypeScript gets it from the same
// source.
package calls

import (
	"encoding/json"
	"fmt"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/followup"
	"neokinema/core/performance"
	"neokinema/core/trackside"
	"neokinema/core/uncertainty"
	"neokinema/core/workshop"
)

// WorkshopCalls pairs each call's question with its answer, by name.
type WorkshopCalls struct {
	Questions       QuestionsCall   `json:"questions"`
	QuestionsAnswer QuestionsAnswer `json:"questions_answer"`
	Ask             AskCall         `json:"ask"`
	AskAnswer       AskAnswer       `json:"ask_answer"`
	Angle           AngleCall       `json:"angle"`
	AngleAnswer     AngleAnswer     `json:"angle_answer"`
	Join            JoinCall        `json:"join"`
	JoinAnswer      JoinAnswer      `json:"join_answer"`
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

// AngleCall asks for the angle between three places of a picture, the second its vertex.
type AngleCall struct {
	Points [3]Tap  `json:"points" doc:"px, y down"`
	Sigma  float64 `json:"sigma" doc:"standard deviation of a tap, px"`
}

// Tap is a place in a picture.
type Tap struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// JoinCall asks what notes of the track tell.
type JoinCall struct {
	Notes  []trackside.Note `json:"notes"`
	Series []Competing      `json:"series,omitempty" required:"false" doc:"those who compete today"`
}

// Competing is an athlete whose tries of today are attempts of a competition.
type Competing struct {
	Athlete string             `json:"athlete"`
	Event   string             `json:"event"`
	Before  performance.Record `json:"before" doc:"how attempts of the last year ended"`
}

// Series is how a competition stands.
type Series struct {
	Athlete string             `json:"athlete"`
	Event   string             `json:"event"`
	Next    performance.Advice `json:"next"`
	Marks   performance.Series `json:"marks" doc:"of today; without a unit while there is none"`
}

// Streak is how the tries of an athlete under one wording went.
type Streak struct {
	Athlete string           `json:"athlete"`
	Words   string           `json:"words"`
	Kept    int              `json:"kept"`
	Of      int              `json:"of" doc:"of which somebody has said whether they kept it"`
	Verdict followup.Verdict `json:"verdict" enum:"early,stays,change,open"`
}

// JoinAnswer is what they tell, with how each wording went.
type JoinAnswer struct {
	trackside.Joined
	Streaks []Streak `json:"streaks"`
	Series  []Series `json:"series"`
}

// AngleAnswer is the angle, with the doubt of three taps; none when two lie on one place.
type AngleAnswer struct {
	Angle *uncertainty.Estimate `json:"angle,omitempty" required:"false" doc:"degrees, in the picture: a limb that points out of it looks otherwise"`
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
	case "angle":
		var q AngleCall
		if err := json.Unmarshal(request, &q); err != nil {
			return nil, err
		}
		return json.Marshal(Angle(q))
	case "join":
		var q JoinCall
		if err := json.Unmarshal(request, &q); err != nil {
			return nil, err
		}
		return json.Marshal(Join(q))
	}
	return nil, fmt.Errorf("the workshop has no call %q", name)
}

// Angle is that between three taps.
func Angle(q AngleCall) AngleAnswer {
	var p [3]r2.Vec
	for i, t := range q.Points {
		p[i] = r2.Vec{X: t.X, Y: t.Y}
	}
	if p[0] == p[1] || p[1] == p[2] {
		return AngleAnswer{}
	}
	v := uncertainty.Normal(angles.Included(p[0], p[1], p[2]), angles.IncludedSD(p[0], p[1], p[2], q.Sigma))
	return AngleAnswer{&v}
}

// Join tells what notes say, and how each wording went.
func Join(q JoinCall) JoinAnswer {
	out := JoinAnswer{trackside.Join(q.Notes), []Streak{}, []Series{}}
	for _, c := range q.Series {
		var tried []performance.Tried
		var now []bool
		for _, t := range out.Tries {
			mark, foul := t.Says[trackside.Mark], t.Says[trackside.Foul]
			if t.Gone() || t.Athlete != c.Athlete || t.Event != c.Event || mark == "" && foul == "" || foul == performance.Passed {
				continue
			}
			now = append(now, foul == "")
			tried = append(tried, performance.Tried{Text: mark, Foul: foul})
		}
		s := Series{c.Athlete, c.Event, performance.Order(c.Before, now), performance.Series{Under: performance.Outdoor, Reasons: []performance.Reason{}}}
		if all := performance.SeriesOf(tried, false); len(all) > 0 {
			s.Marks = all[0]
		}
		out.Series = append(out.Series, s)
	}
	for _, t := range out.Tries {
		words, kept := t.Says[trackside.Words], t.Says[trackside.Kept]
		if t.Gone() || words == "" || kept == "" {
			continue
		}
		at := slices.IndexFunc(out.Streaks, func(s Streak) bool { return s.Athlete == t.Athlete && s.Words == words })
		if at < 0 {
			at = len(out.Streaks)
			out.Streaks = append(out.Streaks, Streak{Athlete: t.Athlete, Words: words})
		}
		s := &out.Streaks[at]
		s.Of++
		if kept == "kept" {
			s.Kept++
		}
		s.Verdict = followup.After(s.Kept, s.Of)
	}
	return out
}

// Ask answers one question; what cannot be answered is a word, not an error.
func Ask(q AskCall) AskAnswer {
	a, err := workshop.Ask(q.Question, q.Values, q.Path)
	if err != nil {
		return AskAnswer{Refused: err.Error()}
	}
	return AskAnswer{Answer: &a}
}

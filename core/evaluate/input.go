package evaluate

import (
	"encoding/json"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/contact"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/stabilize"
	"neokinema/core/timebase"
)

// ClipInfo is what the computation needs to know of a clip.
type ClipInfo struct {
	Width       int               `json:"width" doc:"px of the upright picture"`
	Height      int               `json:"height"`
	Stamps      []int64           `json:"stamps" doc:"presentation time stamps, 1/90000 s"`
	FileRate    float64           `json:"file_rate"`
	CaptureRate float64           `json:"capture_rate" doc:"0 when unknown"`
	Pictures    timebase.Pictures `json:"pictures,omitempty" required:"false" doc:"a letter for each frame: . its own picture, r the one before once more, b a mix; empty when all are their own"`
	View        string            `json:"view"`
	Direction   float64           `json:"direction" doc:"+1 runs to the right, -1 to the left"`
}

// Input is one attempt as seen in one clip.
type Input struct {
	Model      string               `json:"model"`
	Variant    string               `json:"variant,omitempty" required:"false" doc:"of the model; its first when empty"`
	Athlete    body.Person          `json:"athlete"`
	Clip       ClipInfo             `json:"clip"`
	Flags      map[string]int       `json:"flags" doc:"key position to frame; -1: the coach says that it is not in this clip"`
	Points     kinematics.Points    `json:"points,omitempty" required:"false" doc:"landmark to track; in the browser the session has them"`
	Answers    map[string]Judgement `json:"answers" doc:"checkpoint to the coach's own answer"`
	Scale      *calibration.Line    `json:"scale,omitempty" required:"false"`
	Camera     *stabilize.Rotations `json:"camera,omitempty" required:"false" doc:"how the camera turned; absent while nobody looked, and then paths are not read"`
	Contacts   []contact.Contact    `json:"contacts,omitempty" required:"false" doc:"contacts that the picture of the feet showed; they outrank what tracks show"`
	Extra      []model.Checkpoint   `json:"extra,omitempty" required:"false" doc:"checkpoints of this attempt alone, such as a should-be that became a target"`
	Heard      map[string]float64   `json:"-"` // how much later the same sound stands in another clip of this attempt, by its id, s of true time
	Companions []Companion          `json:"companions,omitempty" required:"false" doc:"the other clips of this attempt"`
	// What is thrown, in the coach's words, such as "4 kg".
	Implement string  `json:"implement,omitempty" required:"false"`
	Turns     int     `json:"turns,omitempty" required:"false" doc:"of hammer or weight, as the coach wrote down; 0 when nobody did"`
	Mark      string  `json:"mark,omitempty" required:"false" doc:"as the coach wrote it"`
	Wind      float64 `json:"wind,omitempty" required:"false" doc:"m/s from behind, for the predicted flight"`
	// While a hand still moves a point, a throw is not read in depth anew.
	HoldThrow bool                  `json:"hold_throw,omitempty" required:"false" doc:"keep what the last call read in depth: a hand still moves"`
	Ground    *ground.ControlPoints `json:"ground,omitempty" required:"false" doc:"known places of the ground in the picture"`
}

// Judgement is the coach's own answer to a checkpoint's question.
type Judgement struct {
	Answer string  `json:"answer" enum:"yes,partly,no"`
	Note   string  `json:"note,omitempty" required:"false" maxLength:"300"`
	Sure   float64 `json:"sure,omitempty" required:"false" minimum:"0" maximum:"1" doc:"how likely the answer is right, by the coach's measured eye; 0 when that is not known"`
}

// UnmarshalJSON also reads the plain yes or no of older attempts.
func (m *Judgement) UnmarshalJSON(raw []byte) error {
	switch string(raw) {
	case "true":
		*m = Judgement{Answer: "yes"}
		return nil
	case "false":
		*m = Judgement{Answer: "no"}
		return nil
	}
	type plain Judgement
	return json.Unmarshal(raw, (*plain)(m))
}

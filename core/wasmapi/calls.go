package wasmapi

import (
	"neokinema/core/annotate"
	"neokinema/core/azimuth"
	"neokinema/core/compare"
	"neokinema/core/diagnose"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/repair"
	"neokinema/core/report"
	"neokinema/core/stabilize"
	"neokinema/core/timebase"
	"neokinema/core/uncertainty"
)

// EvaluateCall asks for the report of an attempt, and for what became of a
// target measured before.
type EvaluateCall struct {
	Input  evaluate.Input        `json:"input"`
	Target string                `json:"target,omitempty" required:"false" doc:"checkpoint of the last cue"`
	Before *uncertainty.Estimate `json:"before,omitempty" required:"false" doc:"its reading then"`
	// What the coach said of faults, on this attempt and on earlier ones.
	Decisions map[string]string `json:"decisions,omitempty" required:"false" doc:"fault to accepted or refused"`
	Refused   []string          `json:"refused,omitempty" required:"false" doc:"faults refused for this athlete before"`
}

// EvaluateAnswer is the report, with the effect of the last cue if there is one.
type EvaluateAnswer struct {
	Report report.Report     `json:"report"`
	Listed []diagnose.Listed `json:"listed" doc:"findings and the faults that the coach saw himself, as they are shown"`
	Effect *compare.Effect   `json:"effect,omitempty" required:"false"`
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
	Hypotheses []timebase.RateHypothesis `json:"hypotheses"`
}

// SetTracksCall gives the session tracks: those named, or all anew.
type SetTracksCall struct {
	Replace bool              `json:"replace" doc:"forget all other tracks"`
	Tracks  kinematics.Points `json:"tracks" doc:"landmark to track; null removes it"`
}

// SetTracksAnswer says how many landmarks the session has.
type SetTracksAnswer struct {
	Landmarks int `json:"landmarks"`
}

// CurvesCall asks for curves over the clip.
type CurvesCall struct {
	Input evaluate.Input `json:"input"`
	IDs   []string       `json:"ids"`
}

// CurvesAnswer has one curve for each id.
type CurvesAnswer struct {
	Curves []CurveWithBand `json:"curves"`
}

// CurveWithBand is a curve with the band that a checkpoint wants of it, where just one does.
type CurveWithBand struct {
	kinematics.Curve
	Band *uncertainty.Band `json:"band,omitempty" required:"false"`
}

// InputCall asks something of an attempt as it is.
type InputCall struct {
	Input evaluate.Input `json:"input"`
}

// NameLegsCall names the legs of a clip after what the coach sees in one frame.
type NameLegsCall struct {
	Input     evaluate.Input `json:"input"`
	Frame     int            `json:"frame"`
	Exchanged bool           `json:"exchanged,omitempty" required:"false" doc:"left and right are named the other way round there"`
}

// SuspectsAnswer lists points to look at.
type SuspectsAnswer struct {
	Suspects []repair.Suspect `json:"suspects"`
}

// AnnotationsCall asks what annotations say at a frame.
type AnnotationsCall struct {
	Input       evaluate.Input        `json:"input"`
	Annotations []annotate.Annotation `json:"annotations"`
	Frame       int                   `json:"frame"`
}

// AnnotationsAnswer has one reading for each.
type AnnotationsAnswer struct {
	Readings []annotate.Reading `json:"readings"`
}

// TargetCall asks for the checkpoint of a should-be.
type TargetCall struct {
	Input      evaluate.Input      `json:"input"`
	Annotation annotate.Annotation `json:"annotation"`
}

// TargetAnswer is the checkpoint, or what is missing for it.
type TargetAnswer struct {
	Checkpoint *model.Checkpoint `json:"checkpoint,omitempty" required:"false"`
	Missing    string            `json:"missing,omitempty" required:"false"`
}

// CorrectCall asks for a correction of tracks of the session.
type CorrectCall struct {
	Kind      string   `json:"kind" enum:"bend,fill,swap,clear" doc:"bend: put one point and take neighbours along; fill: close gaps; swap: exchange left and right; clear: empty"`
	Landmarks []string `json:"landmarks" doc:"one for bend; parts without side for swap"`
	From      int      `json:"from" doc:"frame, or first frame of a range"`
	To        int      `json:"to" doc:"last frame of a range"`
	X         float64  `json:"x,omitempty" required:"false"`
	Y         float64  `json:"y,omitempty" required:"false"`
	Hidden    bool     `json:"hidden,omitempty" required:"false"`
	Radius    int      `json:"radius,omitempty" required:"false" doc:"frames"`
	// Tracks are corrected instead of those of the session: under the hand it already
	// holds what the hand has moved.
	Tracks kinematics.Points `json:"tracks,omitempty" required:"false"`
}

// CorrectAnswer has the changes by landmark.
type CorrectAnswer struct {
	Changes kinematics.Points `json:"changes"`
	Missing string            `json:"missing,omitempty" required:"false"`
}

// CameraCall asks where places of the common frame show in a frame, or the other
// way round.
type CameraCall struct {
	Camera *stabilize.Rotations `json:"camera,omitempty" required:"false"`
	Ground *ground.Plane        `json:"ground,omitempty" required:"false" doc:"when given, places are on the ground: along, right"`
	Frame  int                  `json:"frame"`
	Places [][2]float64         `json:"places"`
}

// CameraAnswer has a pixel of the frame for each place.
type CameraAnswer struct {
	Pixels [][2]float64 `json:"pixels" doc:"below -1e8 for what does not show"`
}

// CatalogueAnswer is what there is to choose from.
type CatalogueAnswer struct {
	Curves    []kinematics.CurveKind `json:"curves"`
	Templates []ground.Template      `json:"templates"`
}

// DirectionsCall asks for directions in a coach's language.
type DirectionsCall struct {
	Azimuths []float64        `json:"azimuths" doc:"degrees"`
	Left     bool             `json:"left" doc:"throws with the left hand"`
	Language azimuth.Language `json:"language"`
}

// DirectionsAnswer names them.
type DirectionsAnswer struct {
	Names []string `json:"names"`
}

// TopViewAnswer is a throw seen from above, if it is read in depth.
type TopViewAnswer struct {
	TopView *evaluate.TopView `json:"top_view,omitempty" required:"false"`
}

// SetModelCall gives the session its technique model; all calls with an input of that
// model use it.
type SetModelCall struct {
	Model model.Model `json:"model"`
}

// SetModelAnswer says which model that is.
type SetModelAnswer struct {
	Model string `json:"model"`
}

// CatalogueCall asks what there is to choose from.
type CatalogueCall struct{}

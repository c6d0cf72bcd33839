// Package report says what follows from an attempt: readings with their verdicts, faults in
// order of cause, key positions, phases, steps and the throw.
package report

import (
	"neokinema/core/approach"
	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/contact"
	"neokinema/core/ground"
	"neokinema/core/pole"
	"neokinema/core/throw"
	"neokinema/core/uncertainty"
)

// Report is everything that follows from an input.
type Report struct {
	Positions []Position            `json:"positions"`
	Next      string                `json:"next" doc:"key position to be flagged next; empty when there is none"`
	Phases    []Span                `json:"phases"`
	Contacts  []contact.Interval    `json:"contacts"`
	Glimpses  []contact.Glimpse     `json:"glimpses" doc:"contacts one end of which alone, or neither, is known surely enough"`
	Steps     []Step                `json:"steps" doc:"the table of steps, in order"`
	Ground    *ground.Plane         `json:"ground,omitempty" required:"false" doc:"plane of the ground"`
	Throw     *Throw                `json:"throw,omitempty" required:"false" doc:"a throw read in depth"`
	Pole      *Pole                 `json:"pole,omitempty" required:"false" doc:"how the pole bends"`
	Approach  *Approach             `json:"approach,omitempty" required:"false" doc:"a run-up on the marked ground"`
	BeltSpeed *uncertainty.Estimate `json:"belt_speed,omitempty" required:"false" doc:"speed of a treadmill's belt, m/s"`
	Readings  []Reading             `json:"readings"`
	Strengths []Strength            `json:"strengths"`
	Findings  []Finding             `json:"findings" doc:"faults that are present, first cause first"`
	Possible  []Finding             `json:"possible" doc:"faults that this clip can neither show nor rule out"`
	RateHint  *RateHint             `json:"rate_hint,omitempty" required:"false"`
	Scale     *calibration.Scale    `json:"scale,omitempty" required:"false"`
	Questions []Question            `json:"questions" doc:"what the tool is not sure of, what matters most first"`
	Carries   Carries               `json:"carries"`
	Problems  []string              `json:"problems" doc:"what is wrong with the flags or the clip, or could not be computed"`
	Broken    []string              `json:"-"` // parts that failed by a mistake of ours, with the place; for logs
}

// Position is a key position with what it still needs.
type Position struct {
	ID         string   `json:"id"`
	Frame      *int     `json:"frame,omitempty" required:"false"`
	Source     string   `json:"source,omitempty" required:"false" enum:"coach,tool,clip," doc:"who set the frame; clip: the coach, in another clip of the attempt"`
	Confidence float64  `json:"confidence,omitempty" required:"false" doc:"confidence of the tool, 0 to 1"`
	SD         float64  `json:"sd,omitempty" required:"false" doc:"standard deviation of a moment that the tool found, s, beside the doubt of one frame"`
	Time       *float64 `json:"time,omitempty" required:"false" doc:"s since first movement, or since set"`
	Needs      []Need   `json:"needs"`
}

// RateHint is the rate of the camera that the pictures tell, where it is not the one that
// somebody has given.
type RateHint struct {
	Rate   float64 `json:"rate" doc:"frames of the file a true second"`
	Reason string  `json:"reason"`
}

// Question is something that the tool is not sure of, and whose answer would change what it
// says: a moment, answered by a flag; a point, answered by its place; the circle, answered by
// marking it; or the sides of the legs, answered by naming them (package repair).
type Question struct {
	ID       string   `json:"id"`
	Kind     string   `json:"kind" enum:"moment,joint,circle,sides,athlete" doc:"which frame, which place, where the circle of the throw is marked, which leg is the left one, or who is meant"`
	Text     string   `json:"text"`
	Hint     string   `json:"hint,omitempty" required:"false" doc:"how to find it"`
	Position string   `json:"position,omitempty" required:"false" doc:"key position"`
	Landmark string   `json:"landmark,omitempty" required:"false"`
	Frame    int      `json:"frame"`
	Options  []Option `json:"options" doc:"likely answers"`
	Look     Box      `json:"look" doc:"where in the picture to look"`
	For      []string `json:"for" doc:"checkpoints that hang on it"`
	Worth    float64  `json:"worth" doc:"how much the answer may change: about so many checkpoints"`
}

// Option is a likely answer: a frame, or a place in it; of sides, a foot that is shown there.
type Option struct {
	Label     string  `json:"label"`
	Frame     int     `json:"frame"`
	Exchanged bool    `json:"exchanged,omitempty" required:"false" doc:"sides: the legs are named the other way round"`
	X         float64 `json:"x,omitempty" required:"false" doc:"px of the upright original"`
	Y         float64 `json:"y,omitempty" required:"false"`
}

// Box is a part of the picture, px of the upright original.
type Box struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// Carries is what the pictures of a clip allow to be read, and what not, in plain words.
type Carries struct {
	Can    []string `json:"can"`
	Cannot []string `json:"cannot"`
}

// Need is a landmark to be placed at a position.
type Need struct {
	Landmark string   `json:"landmark"`
	Label    string   `json:"label"`
	For      []string `json:"for" doc:"checkpoints that use it"`
	Placed   bool     `json:"placed"`
}

// Span is a phase between two frames.
type Span struct {
	ID      string                `json:"id"`
	Name    string                `json:"name"`
	From    int                   `json:"from"`
	To      int                   `json:"to"`
	Seconds *uncertainty.Estimate `json:"seconds,omitempty" required:"false"`
}

// Reading is one checkpoint on this attempt.
type Reading struct {
	ID          string                `json:"id"`
	Value       *uncertainty.Estimate `json:"value,omitempty" required:"false"`
	Verdict     uncertainty.Verdict   `json:"verdict" enum:"met,missed,open,none"`
	Source      string                `json:"source" enum:"measure,coach," doc:"who gave the verdict"`
	Reason      string                `json:"reason,omitempty" required:"false" doc:"why there is no value or no decision"`
	Remedy      string                `json:"remedy,omitempty" required:"false" doc:"what would decide it"`
	Unsure      bool                  `json:"unsure,omitempty" required:"false" doc:"it hangs on moments that were found and are not sure: no verdict, no certain fault"`
	Unchecked   bool                  `json:"unchecked,omitempty" required:"false" doc:"it hangs on joints that nobody has looked at: elsewhere too often in a picture like this, or not far enough past the band for a certain fault"`
	Side        string                `json:"side,omitempty" required:"false" doc:"the athlete's own side, where there is one"`
	Said        string                `json:"said,omitempty" required:"false" enum:"yes,partly,no," doc:"the coach's answer"`
	Note        string                `json:"note,omitempty" required:"false" doc:"what the coach noted with his answer"`
	Evidence    *Evidence             `json:"evidence,omitempty" required:"false"`
	Repetitions []Repetition          `json:"repetitions,omitempty" required:"false" doc:"of a repeated group: the single values"`
	Clip        string                `json:"clip,omitempty" required:"false" doc:"the clip of this attempt from which it was read, and whose frames its evidence counts, when it is another than this report's"`
	Both        bool                  `json:"both,omitempty" required:"false" doc:"it was read from this clip and another at once"`
	Also        []Sighting            `json:"also,omitempty" required:"false" doc:"what other clips of this attempt say of it"`
}

// Sighting is a value as another clip shows it.
type Sighting struct {
	Clip  string               `json:"clip" doc:"id; empty for this report's own"`
	View  string               `json:"view"`
	Value uncertainty.Estimate `json:"value"`
}

// Repetition is a reading in one repetition.
type Repetition struct {
	Position string               `json:"position"`
	Foot     string               `json:"foot,omitempty" required:"false" enum:"left,right,"`
	Frame    int                  `json:"frame"`
	Value    uncertainty.Estimate `json:"value"`
}

// Evidence shows where a number comes from: a frame and lines between
// landmarks, or a span of frames.
type Evidence struct {
	Frame int        `json:"frame"`
	To    *int       `json:"to,omitempty" required:"false" doc:"last frame of a span"`
	Lines []Polyline `json:"lines"`
}

// Polyline is a line through landmarks as it is drawn into the frame.
type Polyline struct {
	Landmarks []string     `json:"landmarks" doc:"ids; 'mid_' marks the middle of both sides"`
	Points    [][2]float64 `json:"points" doc:"px of the upright picture"`
}

// Strength is something to praise.
type Strength struct {
	Reading string `json:"reading"`
	Text    string `json:"text"`
}

// Finding is a fault with its evidence and its place among the others.
type Finding struct {
	Fault     string    `json:"fault"`
	Certainty string    `json:"certainty" enum:"certain,likely,open" doc:"certain: beyond the threshold with all its doubt; likely: beyond it, but the doubt reaches over; open: not beyond it, but the doubt reaches over"`
	Excess    *Excess   `json:"excess,omitempty" required:"false"`
	Progress  *Progress `json:"progress,omitempty" required:"false"`
	Readings  []string  `json:"readings" doc:"those that show it"`
	Effects   []string  `json:"effects" doc:"present faults that follow from it, in order of phase"`
	First     bool      `json:"first" doc:"no present fault brings it about"`
}

// Excess is how far a number lies beyond the threshold of a fault.
type Excess struct {
	Reading string  `json:"reading"`
	By      float64 `json:"by" doc:"in the reading's unit, always positive"`
}

// Progress is how a fault that can come in every turn or step goes on.
type Progress struct {
	Shown int    `json:"shown" doc:"repetitions that show it"`
	Of    int    `json:"of"`
	Trend string `json:"trend" enum:"growing,same,fading"`
}

// Step is one line of the table of steps.
type Step struct {
	N       int                   `json:"n"`
	Foot    body.Side             `json:"foot" enum:"left,right"`
	From    int                   `json:"from" doc:"frame of touchdown"`
	To      int                   `json:"to" doc:"frame of toe-off"`
	Contact *uncertainty.Estimate `json:"contact,omitempty" required:"false" doc:"s"`
	Flight  *uncertainty.Estimate `json:"flight,omitempty" required:"false" doc:"s, up to the next touchdown"`
	Cadence *uncertainty.Estimate `json:"cadence,omitempty" required:"false" doc:"steps a minute, from this touchdown to the next"`
	Length  *uncertainty.Estimate `json:"length,omitempty" required:"false" doc:"m, from this touchdown to the next"`
	Next    *int                  `json:"next,omitempty" required:"false" doc:"frame of the next touchdown"`
	At      *[2]float64           `json:"at,omitempty" required:"false" doc:"foot print: px of the common frame"`
}

// Approach is a run-up on the marked ground, and the jump that follows.
type Approach struct {
	Line    string           `json:"line" doc:"to which it goes, in words"`
	Feet    []FootPlace      `json:"feet" doc:"the last ones, in order"`
	Curve   *approach.Curve  `json:"curve,omitempty" required:"false" doc:"of a run-up that bends"`
	Flight  *approach.Flight `json:"flight,omitempty" required:"false" doc:"of the centre of mass, of jumps without a pole"`
	Parts   []Part           `json:"parts,omitempty" required:"false" doc:"what the jump is made of"`
	Missing []string         `json:"missing" doc:"why something is not told"`
}

// Pole is how a vaulting pole bends.
type Pole struct {
	Onset   *pole.Onset           `json:"onset,omitempty" required:"false" doc:"when it begins to"`
	Chord   *uncertainty.Estimate `json:"chord,omitempty" required:"false" doc:"% of the straight one, where it is shortest"`
	Deepest int                   `json:"deepest,omitempty" required:"false" doc:"frame of the shortest chord"`
	Missing string                `json:"missing,omitempty" required:"false" doc:"why something is not told"`
}

// Part is a part of a jump.
type Part struct {
	ID    string               `json:"id" enum:"leaves,rises,over,ahead,flown,heels"`
	Name  string               `json:"name"`
	Value uncertainty.Estimate `json:"value" doc:"m"`
}

// FootPlace is where a foot stands in a run-up. What is not known well enough is not given.
type FootPlace struct {
	Foot    body.Side             `json:"foot" enum:"left,right"`
	From    int                   `json:"from" doc:"frame of touchdown"`
	To      int                   `json:"to" doc:"frame of toe-off"`
	Along   uncertainty.Estimate  `json:"along" doc:"of the toes, m"`
	Right   uncertainty.Estimate  `json:"right" doc:"m"`
	Heading float64               `json:"heading" doc:"of the way about this foot, from the one before to the next, degrees to the right of along"`
	Before  *uncertainty.Estimate `json:"before,omitempty" required:"false" doc:"m before the line, beyond it when negative"`
	Length  *uncertainty.Estimate `json:"length,omitempty" required:"false" doc:"m, of the step to the next"`
	Speed   *uncertainty.Estimate `json:"speed,omitempty" required:"false" doc:"m/s, of that step"`
	Lean    *uncertainty.Estimate `json:"lean,omitempty" required:"false" doc:"degrees inward, as the body passes over the foot"`
}

// Turning is what the turns of a throw have in common.
type Turning struct {
	Turns           []throw.Turn          `json:"turns" doc:"hammer and weight, in order"`
	Unseen          []int                 `json:"unseen" doc:"numbers of turns that the ball goes through and whose steps are not seen"`
	Lifts           *throw.Trend          `json:"lifts,omitempty" required:"false" doc:"of the ball's azimuth at the lifts, degrees"`
	Catches         *throw.Trend          `json:"catches,omitempty" required:"false" doc:"of the ball's azimuth at the catches, degrees"`
	PullBodyWeights *uncertainty.Estimate `json:"pull_body_weights,omitempty" required:"false" doc:"greatest pull over body weight"`
	HardestTurn     int                   `json:"hardest_turn,omitempty" required:"false" doc:"turn of the greatest pull"`
}

// Throw is what a throw seen in a marked circle tells.
type Throw struct {
	Turning
	Release   *throw.Release         `json:"release,omitempty" required:"false" doc:"the release"`
	Predicted *throw.PredictedFlight `json:"predicted,omitempty" required:"false" doc:"the flight that the release would give in still air"`
	// Of a disc.
	Attitude   *throw.Attitude       `json:"attitude,omitempty" required:"false" doc:"how the disc lies in the air"`
	WobbleCost *uncertainty.Estimate `json:"wobble_cost,omitempty" required:"false" doc:"m that its wobble costs"`
	// Of throws whose mark is known: what the flight predicts more than was measured.
	Shortfall *uncertainty.Estimate `json:"shortfall,omitempty" required:"false" doc:"m that the flight promised and the tape did not give: wobble, wind, a wrong attitude"`
	Mass      float64               `json:"mass" doc:"of the implement, kg"`
	MassGiven bool                  `json:"mass_given" doc:"the coach wrote the mass; else it is that of the rules for sex and age class"`
	Missing   []string              `json:"missing" doc:"what would tell more"`
}

// Reading finds a reading by id.
func (r Report) Reading(id string) (Reading, bool) {
	for _, x := range r.Readings {
		if x.ID == id {
			return x, true
		}
	}
	return Reading{}, false
}

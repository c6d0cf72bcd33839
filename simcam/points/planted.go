package points

import (
	"fmt"
	"slices"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/audit"
	"neokinema/simcam/move"
)

// Planted says which fault of the technique model a dial of the simulated athlete
// stands for, and the question that a coach answers by eye where nothing is
// measured from points yet.
type Planted struct {
	Event, Variant string // all variants when empty
	Dial           string
	Fault          string
	Question       string
	Mirrored       string // the fault in the mirror image, of faults that have a side
}

// plants pairs dials with faults.
var plants = []Planted{
	{"sprint-start", "", "shoulders", "S1", "", ""}, {"sprint-start", "", "front-knee", "S2", "", ""}, {"sprint-start", "", "rear-knee", "S3", "", ""},
	{"sprint-start", "", "head-up", "S8", "", ""}, {"sprint-start", "", "foot-ahead", "S5", "", ""}, {"sprint-start", "", "early-rise", "S7", "", ""},
	{"hammer", "", "short-winds", "H1", "wide_hands", ""}, {"hammer", "", "open-winds", "H2", "chest_winds", ""},
	{"", "", "drag", "H3", "square", ""}, {"", "", "early-step", "H8b", "lift_place", ""}, {"", "", "late-catch", "H8a", "catch_place", ""},
	{"", "", "tall", "H10", "", ""}, {"", "", "lean-away", "H9", "axis", ""},
	{"", "", "over-turned", "D3a", "pivot_turn", ""}, {"", "", "short-sweep", "D4", "sweep_wide", ""}, {"", "", "pre-turned", "D5d", "centre_turn", ""},
	{"", "", "late-front", "D7", "", ""}, {"discus", "standing", "dive", "S1", "stand_level", ""}, {"shot", "rotational", "dive", "D2b", "level_entry", ""},
	{"discus", "", "open-front", "D9s", "separation", ""}, {"shot", "", "open-front", "D9", "separation", ""}, {"discus", "standing", "low-point", "D6s", "", ""}, {"discus", "", "wobble", "D16", "disc_wobble", ""},
	{"shot", "glide", "upright-drive", "G1", "", ""}, {"shot", "glide", "crooked", "G1c", "straight_line", ""}, {"shot", "glide", "flat-centre", "G2", "heel_centre", ""},
	{"shot", "glide", "slow-front", "G5", "", ""}, {"shot", "glide", "locked-block", "G6", "", ""}, {"shot", "glide", "pirouette", "G3", "held_line", ""},
	{"javelin", "", "reaching", "J1", "", ""}, {"javelin", "", "weak-push", "J2", "", ""}, {"javelin", "", "late-block", "J3", "", ""},
	{"javelin", "", "pull-down", "J5", "along_shaft", ""}, {"javelin", "", "fall-away", "J6", "side_lean", ""}, {"javelin", "", "soft-block", "J8", "", ""},
	{"long-jump", "", "no-sink", "L6", "", ""}, {"long-jump", "", "lean-back", "L1", "", ""}, {"long-jump", "", "short-drive", "L1b", "", ""},
	{"long-jump", "", "shoulder-drop", "L2b", "shoulders_to", ""}, {"long-jump", "", "fold", "L5", "", ""},
	{"high-jump", "", "bent-curve", "HJ2", "curve_line", ""}, {"high-jump", "", "upright-early", "HJ3", "inward_plant", ""}, {"high-jump", "", "deep-sink", "HJ4", "pen_knee", ""},
	{"high-jump", "", "leaper", "HJ1", "lean_plant", ""}, {"high-jump", "", "soft-knee", "HJ7", "", ""},
	{"pole-vault", "", "slowing", "P4", "", ""}, {"pole-vault", "", "low-plant", "P1", "", ""}, {"pole-vault", "", "bent-arm", "P2", "", ""},
	{"pole-vault", "", "under", "P2b", "", ""}, {"pole-vault", "", "late-knee", "P3", "", ""},
	{"running", "", "hips-behind", "R2", "", ""}, {"running", "", "over-stride", "R1", "", ""}, {"running", "", "bounce", "R3", "", ""},
	{"running", "", "hands-cross", "R4", "hand_path", ""}, {"running", "", "uneven", "R5r", "", "R5"},
}

func plant(event, variant, dial string) (Planted, bool) {
	for _, p := range plants {
		if p.Dial == dial && (p.Event == "" || p.Event == event) && (p.Variant == "" || p.Variant == variant) {
			return p, true
		}
	}
	return Planted{}, false
}

// follows are the events whose camera follows the athlete.
var follows = []string{"running", "javelin", "long-jump", "high-jump", "pole-vault"}

// ByEye is an attempt as a careful coach has worked it out from one clip: all key
// positions flagged, all points placed, every question answered by what the truth
// shows.
func ByEye(s simcam.Spec) (model.Model, evaluate.Input, error) { return ByEyeAt(s, 240) }

// ByEyeAt is [ByEye] at another capture rate.
func ByEyeAt(s simcam.Spec, rate float64) (model.Model, evaluate.Input, error) {
	s.CaptureRate, s.FileRate, s.Width, s.Height = rate, rate, 1280, 720
	s.Camera.Pan = slices.Contains(follows, s.Event)
	sc, err := simcam.New(s)
	if err != nil {
		return model.Model{}, evaluate.Input{}, err
	}
	t := sc.Truth
	m, err := models.Load(t.Event)
	if err != nil {
		return m, evaluate.Input{}, err
	}
	m = m.As(t.Variant)
	all := All(t, 0, 1)
	for _, tr := range all {
		for i := range tr.Source {
			tr.Source[i], tr.Confidence[i] = 'h', 100
		}
	}
	in := Input(t, all)
	in.Ground = Circle(t, 0, 1)
	if a, b := Rims(t, 0, 1); a != nil {
		in.Points["rim_a"], in.Points["rim_b"] = a, b
	}
	for _, p := range m.Positions {
		if f, ok := t.Positions[p.ID]; ok && f >= 0 && f < len(t.Frames) {
			in.Flags[p.ID] = f
		}
	}
	Answer(m, t, &in)
	return m, in, nil
}

// Answer gives every question the answer that the truth shows.
func Answer(m model.Model, t simcam.Truth, in *evaluate.Input) {
	for _, c := range m.Checkpoints {
		if c.Question != "" {
			in.Answers[c.ID] = evaluate.Judgement{Answer: "yes"}
		}
	}
	clip := audit.Of(t)
	for _, sign := range audit.SignsOf(t.Event, t.Variant) {
		if p, ok := plant(t.Event, t.Variant, sign.Fault); ok && p.Question != "" && !sign.Met(clip) {
			in.Answers[p.Question] = evaluate.Judgement{Answer: "no"}
		}
	}
}

// FaultOf is the fault that a dial stands for.
func FaultOf(event, variant, dial string, mirrored bool) (string, bool) {
	p, ok := plant(event, variant, dial)
	return p.seen(mirrored), ok
}

// seen is the fault as an athlete or its mirror image shows it.
func (p Planted) seen(mirrored bool) string {
	if mirrored && p.Mirrored != "" {
		return p.Mirrored
	}
	return p.Fault
}

// Hunt is what came of looking for a planted fault.
type Hunt struct {
	Planted
	Found bool // said to be there, surely or likely
	First bool // and named first
	Mark  bool // only by the coach's answer
	Says  string
}

// Event is one event's row: what the model has and what it finds.
type Event struct {
	ID                string
	Phases, Positions int
	Auto              int // positions that the tool looks for
	Computed, ByMark  int // checkpoints
	Faults            int
	Hunts             []Hunt
	Alarms            []string // faults said to be there in a faultless movement
}

// views from which a coach films an event; the first in which a fault shows
// counts.
var views = map[string][]string{"hammer": {"back", "side"}, "weight": {"back", "side"}, "discus": {"back", "side"}, "shot": {"side", "back"}, "javelin": {"side", "back"}, "long-jump": {"side", "front"}}

// Tell plants every fault of an event and looks for it: right- or left-handed, and from the
// usual side of the athlete or from the other one.
func Tell(e move.Event, mirrored, otherSide bool) (Event, error) {
	m, err := models.Load(e.ID)
	if err != nil {
		return Event{}, err
	}
	out := Event{ID: e.ID, Phases: len(m.Phases), Positions: len(m.Positions), Faults: len(m.Faults)}
	for _, p := range m.Positions {
		if p.Find != nil {
			out.Auto++
		}
	}
	for _, c := range m.Checkpoints {
		if c.Measure.Kind == "answer" {
			out.ByMark++
		} else {
			out.Computed++
		}
	}
	film := func(variant, view string, faults map[string]float64) (report.Report, error) {
		s := simcam.Spec{Event: e.ID, Variant: variant, Faults: faults, Camera: simcam.Camera{Place: view}, Direction: 1, Athlete: body.Person{Sex: body.Male, Height: 1.84, Mass: 82, FrontLeg: body.Left}}
		if e.ID == "running" {
			s.Speed = 4
		}
		if mirrored {
			s.Hand, s.Leg, s.Athlete.FrontLeg, s.Direction = body.Left, body.Right, body.Right, -1
		}
		if otherSide {
			s.Direction = -s.Direction
		}
		m, in, err := ByEye(s)
		if err != nil {
			return report.Report{}, fmt.Errorf("%s %s from the %s: %w", e.ID, variant, view, err)
		}
		return evaluate.Attempt(m, in), nil
	}
	from := views[e.ID]
	if from == nil {
		from = []string{"side"}
	}
	done := map[string]bool{}
	for _, v := range e.Variants {
		for _, view := range from {
			r, err := film(v.ID, view, nil)
			if err != nil {
				return out, err
			}
			for _, f := range r.Findings {
				out.Alarms = append(out.Alarms, fmt.Sprintf("%s from the %s: %s %v", v.ID, view, f.Fault, f.Readings))
			}
		}
		for _, sign := range audit.SignsOf(e.ID, v.ID) {
			p, ok := plant(e.ID, v.ID, sign.Fault)
			if !ok {
				return out, fmt.Errorf("%s: the dial %s stands for no fault", e.ID, sign.Fault)
			}
			if key := p.Dial + sign.Variant; done[key] {
				continue
			} else {
				done[key] = true
			}
			p.Fault = p.seen(mirrored)
			h := Hunt{Planted: p}
			for _, view := range from {
				r, err := film(v.ID, view, map[string]float64{sign.Fault: e.Shown(v.ID, sign.Fault)})
				if err != nil {
					return out, err
				}
				h.look(r, view)
			}
			out.Hunts = append(out.Hunts, h)
		}
	}
	return out, nil
}

// look adds what one view's report says.
func (h *Hunt) look(r report.Report, view string) {
	h.Says += view + ":"
	for i, f := range slices.Concat(r.Findings, r.Possible) {
		h.Says += " " + f.Fault + " " + f.Certainty
		if f.Fault != h.Fault || f.Certainty == "open" {
			continue
		}
		number := slices.ContainsFunc(f.Readings, func(id string) bool { x, _ := r.Reading(id); return x.Source != "coach" })
		h.Mark = (h.Mark || !h.Found) && !number
		h.Found, h.First = true, h.First || i == 0
	}
	h.Says += "; "
}

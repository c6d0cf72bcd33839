package evaluate

import (
	"encoding/json"
	"math"
	"os"
	"reflect"
	"strings"
	"testing"

	"go.yaml.in/yaml/v3"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

func shipped(t testing.TB) model.Model {
	t.Helper()
	// Not by the package models, which imports this one.
	raw, err := os.ReadFile("../../models/sprint-start.yaml")
	if err != nil {
		t.Fatal(err)
	}
	var plain any
	if err := yaml.Unmarshal(raw, &plain); err != nil {
		t.Fatal(err)
	}
	var m model.Model
	text, _ := json.Marshal(plain)
	if err := json.Unmarshal(text, &m); err != nil {
		t.Fatal(err)
	}
	if list := Ready(&m); len(list) > 0 {
		t.Fatal(list)
	}
	return m
}

// stick is a picture of an athlete who runs to the right: lengths in px, all
// angles known by construction. 250 px are a metre.
func stick() Input {
	stamps := make([]int64, 400)
	for i := range stamps {
		stamps[i] = int64(i) * 3000
	}
	return Input{
		Model: "sprint-start", Athlete: body.Person{Sex: body.Male, Height: 1.8, FrontLeg: body.Left},
		Clip:   ClipInfo{Width: 1280, Height: 720, Stamps: stamps, FileRate: 30, CaptureRate: 240, View: "side", Direction: 1},
		Flags:  map[string]int{"set": 10, "move": 60, "rear_off": 100, "clear": 144, "td1": 160, "to1": 206, "td2": 220, "to2": 262},
		Points: kinematics.Points{}, Answers: map[string]Judgement{},
		Scale: &calibration.Line{AX: 0, AY: 700, BX: 1000, BY: 700, Metres: 4},
	}
}

func (in Input) put(frame int, id string, x, y float64) {
	if in.Points[id] == nil {
		in.Points[id] = track.New(0)
	}
	_ = in.Points[id].Set(frame, &track.Point{X: x, Y: y, Source: "hand", Confidence: 1})
}

// leg puts hip, knee and ankle with a given inside knee angle: the shank hangs
// straight down from the knee, the thigh turns towards the back.
func (in Input) leg(frame int, side string, knee float64) {
	rad := knee * math.Pi / 180
	in.put(frame, side+"_knee", 600, 500)
	in.put(frame, side+"_ankle", 600, 610)
	in.put(frame, side+"_hip", 600-110*math.Sin(rad), 500+110*math.Cos(rad))
}

// line puts ankle and both shoulders so that the body leans by deg.
func (in Input) line(frame int, side string, deg float64) {
	rad := deg * math.Pi / 180
	in.put(frame, side+"_ankle", 500, 650)
	for _, s := range []string{"left", "right"} {
		in.put(frame, s+"_shoulder", 500+340*math.Cos(rad), 650-340*math.Sin(rad))
	}
}

func reading(t *testing.T, r report.Report, id string) report.Reading {
	t.Helper()
	x, ok := r.Reading(id)
	if !ok {
		t.Fatalf("no reading %s", id)
	}
	return x
}

func TestKneeAndVerdicts(t *testing.T) {
	for _, c := range []struct {
		knee float64
		want uncertainty.Verdict
	}{{92, uncertainty.Met}, {122, uncertainty.Missed}, {103, uncertainty.Open}, {70, uncertainty.Missed}} {
		in := stick()
		in.leg(10, "left", c.knee)
		r := reading(t, Attempt(shipped(t), in), "front_knee_set")
		if r.Value == nil || math.Abs(r.Value.Value-c.knee) > 1e-3 || r.Verdict != c.want || r.Side != "left" {
			t.Errorf("knee %v: %+v, want %s", c.knee, r, c.want)
		}
		if c.want == uncertainty.Open && (r.Reason == "" || r.Remedy == "") {
			t.Errorf("an open verdict must say what would decide it: %+v", r)
		}
	}
}

func TestTimes(t *testing.T) {
	r := Attempt(shipped(t), stick())
	for id, want := range map[string]float64{"rear_push": 1000 * 40 / 240.0, "block_time": 1000 * 84 / 240.0, "rear_share": 100 * 40 / 84.0, "contact_1": 1000 * 46 / 240.0, "shorter_2": -1000 * 4 / 240.0} {
		if got := reading(t, r, id); got.Value == nil || math.Abs(got.Value.Value-want) > 1e-9 {
			t.Errorf("%s: %+v, want %v", id, got, want)
		}
	}
	// Information is not judged, however surely it is known.
	if got := reading(t, r, "shorter_2"); got.Verdict != uncertainty.None {
		t.Errorf("shorter contact: %+v", got)
	}
	if len(r.Phases) != 7 || len(r.Contacts) != 4 {
		t.Errorf("%d phases, %d bars", len(r.Phases), len(r.Contacts))
	}
	if b := r.Contacts[0]; b.Foot != body.Left || b.From != 10 || b.Since != 60 || math.Abs(b.Seconds.Value-84/240.0) > 1e-12 {
		t.Errorf("front pedal: %+v", b)
	}
}

func TestUnknownRateGivesAnglesAndSharesButNoTimes(t *testing.T) {
	in := stick()
	in.Clip.CaptureRate = 0
	in.leg(10, "left", 92)
	r := Attempt(shipped(t), in)
	if got := reading(t, r, "block_time"); got.Value != nil || !strings.Contains(got.Remedy, "capture rate") {
		t.Errorf("block time without a rate: %+v", got)
	}
	if reading(t, r, "rear_share").Value == nil || reading(t, r, "front_knee_set").Value == nil {
		t.Error("share and angle need no rate")
	}
}

func TestWrongViewIsSaidNotMeasured(t *testing.T) {
	in := stick()
	in.leg(10, "left", 92)
	in.Clip.View = "back"
	if got := reading(t, Attempt(shipped(t), in), "front_knee_set"); got.Value != nil || !strings.Contains(got.Reason, "from the back") || !strings.Contains(got.Remedy, "from the side") {
		t.Errorf("%+v", got)
	}
}

func TestHiddenAndOneSidedPointsAreLessSure(t *testing.T) {
	in := stick()
	in.line(144, "left", 40)
	sure := reading(t, Attempt(shipped(t), in), "lean_clear").Value.SD
	p, _ := in.Points.At("left_ankle", 144)
	p.Hidden = true
	_ = in.Points["left_ankle"].Set(144, &p)
	guessed := reading(t, Attempt(shipped(t), in), "lean_clear").Value.SD
	_ = in.Points["left_shoulder"].Set(144, nil)
	half := reading(t, Attempt(shipped(t), in), "lean_clear").Value.SD
	if !(sure < guessed && guessed < half) {
		t.Errorf("doubt must grow: %v, %v, %v", sure, guessed, half)
	}
}

func TestMarksAreTheCoachsOwn(t *testing.T) {
	in := stick()
	in.Answers["heel_gap"] = Judgement{Answer: "no"}
	r := Attempt(shipped(t), in)
	if got := reading(t, r, "heel_gap"); got.Verdict != uncertainty.Missed || got.Source != "coach" {
		t.Errorf("%+v", got)
	}
	if len(r.Findings) != 1 || r.Findings[0].Fault != "S3" {
		t.Errorf("a heel gap loads no rear leg: %+v", r.Findings)
	}
	// A measured value outranks a mark.
	in.Flags["arm"] = 62
	in.Answers["arm_delay"] = Judgement{Answer: "no"}
	if got := reading(t, Attempt(shipped(t), in), "arm_delay"); got.Source != "measure" || got.Verdict != uncertainty.Met {
		t.Errorf("%+v", got)
	}
}

func TestFootSpeedBeforeTouchdown(t *testing.T) {
	in := stick()
	in.put(160, "right_toe", 700, 640)
	if got := reading(t, Attempt(shipped(t), in), "back_td1"); got.Value != nil || got.Remedy == "" {
		t.Errorf("one point gives no speed: %+v", got)
	}
	// 30 px backward in 6 frames at 240/s: 0.12 m in 25 ms, 4.8 m/s.
	in.put(154, "right_toe", 730, 640)
	if got := reading(t, Attempt(shipped(t), in), "back_td1"); got.Value == nil || math.Abs(got.Value.Value-4.8) > 1e-9 || got.Verdict != uncertainty.Met {
		t.Errorf("%+v", got)
	}
}

// TestFirstCause: the foot ahead (S5) explains the upright body (S7); a set
// fault that explains nothing here stands behind it though it is earlier.
func TestFirstCause(t *testing.T) {
	in := stick()
	in.line(144, "left", 40)
	in.line(206, "right", 58)
	in.put(160, "right_ankle", 660, 640)
	in.put(160, "right_hip", 600, 450)
	in.put(160, "left_hip", 600, 450)
	in.leg(10, "left", 118)
	r := Attempt(shipped(t), in)
	var ids []string
	for _, f := range r.Findings {
		ids = append(ids, f.Fault)
	}
	if !reflect.DeepEqual(ids, []string{"S5", "S2", "S7"}) {
		t.Fatalf("findings %v", ids)
	}
	if f := r.Findings[0]; !f.First || !reflect.DeepEqual(f.Effects, []string{"S7"}) || !reflect.DeepEqual(f.Readings, []string{"ahead_td1"}) {
		t.Errorf("%+v", f)
	}
	if r.Findings[2].First {
		t.Error("S7 has a present cause")
	}
}

func TestTooLowNeedsBothLeanAndStumble(t *testing.T) {
	in := stick()
	in.line(144, "left", 30)
	if r := Attempt(shipped(t), in); len(r.Findings) != 0 {
		t.Errorf("low alone is no fault: %+v", r.Findings)
	}
	in.Answers["stumble"] = Judgement{Answer: "no"}
	r := Attempt(shipped(t), in)
	if len(r.Findings) != 1 || r.Findings[0].Fault != "S9" {
		t.Errorf("%+v", r.Findings)
	}
	for _, k := range r.Strengths {
		if k.Reading == "lean_clear" {
			t.Error("a lean that comes from a fall is praised")
		}
	}
}

func TestNearTheEdgeIsPossibleNotPresent(t *testing.T) {
	in := stick()
	in.leg(10, "left", 111)
	r := Attempt(shipped(t), in)
	if len(r.Findings) != 0 || len(r.Possible) != 1 || r.Possible[0].Fault != "S2" {
		t.Errorf("findings %+v, possible %+v", r.Findings, r.Possible)
	}
}

// Between the band and what is tolerated a reading is open, says so, and leads to no fault.
func TestToleratedIsNoFault(t *testing.T) {
	m := shipped(t)
	for i, c := range m.Checkpoints {
		if c.ID == "front_knee_set" {
			wide := uncertainty.Band{Lo: c.Band.Lo, Hi: new(150.0)}
			m.Checkpoints[i].Tolerated = &wide
		}
	}
	in := stick()
	in.leg(10, "left", 130)
	r := Attempt(m, in)
	if x := reading(t, r, "front_knee_set"); x.Verdict != uncertainty.Open || x.Reason != "past the band, and tolerated" || x.Remedy != "" {
		t.Errorf("%+v", x)
	}
	if len(r.Findings)+len(r.Possible) != 0 {
		t.Errorf("findings %+v, possible %+v", r.Findings, r.Possible)
	}
}

func TestBadInputIsSaidAndNeverPanics(t *testing.T) {
	in := stick()
	in.Flags["clear"] = 5000
	in.Flags["td2"] = 1
	in.put(10, "left_hip", 5, 5)
	in.put(10, "left_knee", 5, 5)
	in.put(10, "left_ankle", 5, 5)
	in.Scale = &calibration.Line{Metres: -1}
	r := Attempt(shipped(t), in)
	if len(r.Problems) != 3 {
		t.Errorf("problems %q", r.Problems)
	}
	if got := reading(t, r, "front_knee_set"); got.Value != nil || got.Reason == "" {
		t.Errorf("points on one another: %+v", got)
	}
	in.Clip.Stamps = []int64{0, 0}
	if _, err := json.Marshal(Attempt(shipped(t), in)); err != nil {
		t.Errorf("report cannot be written: %v", err)
	}
	if r := Attempt(shipped(t), Input{}); len(r.Findings) != 0 {
		t.Errorf("nothing gives findings: %+v", r.Findings)
	}
}

func TestNeedsAskForWhatCheckpointsUse(t *testing.T) {
	in := stick()
	in.leg(10, "left", 92)
	r := Attempt(shipped(t), in)
	var asked, placed []string
	for _, n := range r.Positions[0].Needs {
		asked = append(asked, n.Landmark)
		if n.Placed {
			placed = append(placed, n.Landmark)
		}
	}
	want := "left_hip left_knee left_ankle right_hip right_knee right_ankle right_shoulder right_hand left_shoulder right_ear"
	if strings.Join(asked, " ") != want || strings.Join(placed, " ") != "left_hip left_knee left_ankle" {
		t.Errorf("asked %v\nplaced %v", asked, placed)
	}
	// For information alone nobody is asked, but for what a judged one hangs on.
	m := shipped(t)
	ask := func() (n int) {
		for _, p := range Attempt(m, in).Positions {
			n += len(p.Needs)
		}
		return n
	}
	before := ask()
	for i, c := range m.Checkpoints {
		if c.ID == "knee_clear" || c.ID == "hip_clear" || c.ID == "lean_clear" {
			m.Checkpoints[i].Info = true
		}
	}
	if after := ask(); after != before-2 { // hip and knee; the lean is asked for as before
		t.Errorf("%d points are asked for, %d before", after, before)
	}
}

func TestBlocksFromPoints(t *testing.T) {
	in := stick()
	// The worked example at 250 px a metre: hip 0.21 ahead of and 0.605 above the
	// ankle; the knee where thigh 0.44 and shank 0.43 meet.
	place := func(side string, ankleX float64) {
		in.put(10, side+"_ankle", ankleX, 600)
		in.put(10, side+"_hip", ankleX+0.21*250, 600-0.605*250)
		d := math.Hypot(0.21, 0.605)
		a := (0.44*0.44 - 0.43*0.43 + d*d) / (2 * d)
		h := math.Sqrt(0.44*0.44 - a*a)
		ux, uy := -0.21/d, 0.605/d // from hip towards ankle, y down
		in.put(10, side+"_knee", ankleX+0.21*250+250*(a*ux+h*uy), 600-0.605*250+250*(a*uy-h*ux))
	}
	place("left", 500)
	place("right", 430)
	w, err := Blocks(shipped(t), in, BlockQuestion{Pedal: "front", Shift: 0.025, Wanted: 90})
	if err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string][3]float64{
		"knee now": {w.KneeNow.Value, 94.8, 0.06}, "knee then": {w.KneeThen.Value, 93.3, 0.06}, "shift": {w.ShiftFor.Value, 0.098, 0.0006}, "spacing": {w.Spacing.Value, 0.28, 1e-9},
	} {
		if math.Abs(c[0]-c[1]) > c[2] {
			t.Errorf("%s: %v, want %v", name, c[0], c[1])
		}
	}
	if w.KneeNow.Half95 > 8 {
		t.Errorf("the scale must not add doubt to an angle: ±%v", w.KneeNow.Half95)
	}
	delete(in.Points, "left_knee")
	if _, err := Blocks(shipped(t), in, BlockQuestion{Pedal: "front"}); err == nil || !strings.Contains(err.Error(), "left knee") {
		t.Errorf("what is missing must be named: %v", err)
	}
}

func TestShippedModelHasWhatTheTradeAsksFor(t *testing.T) {
	m := shipped(t)
	if len(m.Faults) < 9 || len(m.Checkpoints) < 25 {
		t.Fatalf("%d faults, %d checkpoints", len(m.Faults), len(m.Checkpoints))
	}
	for _, f := range m.Faults {
		focus := map[string]bool{}
		for _, c := range f.Cues {
			focus[c.Focus] = true
			if c.Backfire == "" || c.Words == "" {
				t.Errorf("%s: a cue lacks words or its backfire note", f.ID)
			}
		}
		if !focus["outward"] || f.Cues[0].Focus != "outward" || len(f.Drills) == 0 || f.Effect == "" {
			t.Errorf("%s: the outward cue comes first, and a drill belongs to it", f.ID)
		}
	}
}

func BenchmarkEvaluate(b *testing.B) {
	m, in := shipped(b), stick()
	in.leg(10, "left", 92)
	in.line(144, "left", 40)
	for b.Loop() {
		Attempt(m, in)
	}
}

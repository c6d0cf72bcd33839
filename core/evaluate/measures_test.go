package evaluate

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// bare is a model of two positions with one checkpoint of a measure.
func bare(m model.Measure, more ...model.Checkpoint) model.Model {
	unit := "cm"
	return model.Model{ID: "bare", Version: 1, Name: "Bare", About: "x", Film: "x", View: "side", Cautions: []string{"x"},
		Positions:   []model.Position{{ID: "a", Name: "A", Short: "a", Hint: "x"}, {ID: "b", Name: "B", Short: "b", Hint: "x"}},
		Phases:      []model.Phase{{ID: "p", Name: "p", From: "a", To: "b"}},
		Checkpoints: append([]model.Checkpoint{{ID: "x", Name: "X", Position: "b", Unit: unit, Basis: "trade", Measure: m}}, more...)}
}

// scene is a clip at 100 frames a second, 200 px a metre, an athlete who goes to
// the right by way px a frame, and points by frame and landmark (px down).
func scene(direction, way float64, at func(f int) map[string][2]float64) Input {
	in := Input{Model: "bare", Athlete: body.Person{Sex: body.Male, Height: 1.8, FrontLeg: body.Left}, Camera: &stabilize.Rotations{},
		Clip:  ClipInfo{Width: 1280, Height: 720, FileRate: 100, CaptureRate: 100, View: "side", Direction: direction},
		Flags: map[string]int{"a": 20, "b": 40}, Points: kinematics.Points{}, Answers: map[string]Judgement{},
		Scale: &calibration.Line{AX: 100, AY: 700, BX: 500, BY: 700, Metres: 2}}
	for f := range 60 {
		in.Clip.Stamps = append(in.Clip.Stamps, int64(f)*900)
		for id, p := range at(f) {
			if in.Points[id] == nil {
				in.Points[id] = track.New(60)
			}
			_ = in.Points[id].Set(f, &track.Point{X: p[0] + way*float64(f), Y: p[1], Source: "hand", Confidence: 1})
		}
	}
	return in
}

// Every measure on points whose answer is known by construction; the mirrored run
// gives the same.
func TestMeasuresByConstruction(t *testing.T) {
	still := func(p map[string][2]float64) func(int) map[string][2]float64 {
		return func(int) map[string][2]float64 { return p }
	}
	for name, c := range map[string]struct {
		m    model.Measure
		at   func(f int) map[string][2]float64
		way  float64
		want float64
	}{
		"a thigh 30 degrees under the level": {model.Measure{Kind: "slope", Points: []string{"free_hip", "free_knee"}}, still(map[string][2]float64{"right_hip": {600, 300}, "right_knee": {600 + 100*math.Cos(math.Pi/6), 350}}), 0, -30},
		"the same, pointing back":            {model.Measure{Kind: "slope", Points: []string{"free_hip", "free_knee"}}, still(map[string][2]float64{"right_hip": {600, 300}, "right_knee": {600 - 100*math.Cos(math.Pi/6), 350}}), 0, -30},
		"two metres apart":                   {model.Measure{Kind: "apart", Points: []string{"throwing_hand", "block_ankle"}}, still(map[string][2]float64{"right_hand": {400, 200}, "left_ankle": {640, 520}}), 0, 200},
		"hips rise by 15 cm": {model.Measure{Kind: "rise", Points: []string{"mid_hip"}, Positions: []string{"a", "b"}}, func(f int) map[string][2]float64 {
			y := 330 - 1.5*float64(f)
			return map[string][2]float64{"left_hip": {600, y}, "right_hip": {600, y + 4}}
		}, 0, 15},
		"hips gain 60 cm":      {model.Measure{Kind: "gain", Points: []string{"mid_hip"}, Positions: []string{"a", "b"}}, still(map[string][2]float64{"left_hip": {300, 330}, "right_hip": {300, 330}}), 6, 60},
		"a speed that is kept": {model.Measure{Kind: "keeps", Points: []string{"mid_hip"}, Positions: []string{"a", "b"}}, still(map[string][2]float64{"left_hip": {300, 330}, "right_hip": {300, 330}}), 6, 100},
		"half of it lost": {model.Measure{Kind: "keeps", Points: []string{"left_hip"}, Positions: []string{"a", "b"}}, func(f int) map[string][2]float64 {
			x := 8 * math.Min(float64(f), 22)
			x += 4 * math.Max(0, float64(f)-22)
			return map[string][2]float64{"left_hip": {200 + x, 330}}
		}, 0, 50},
		"the largest knee between two positions": {model.Measure{Kind: "joint", Points: []string{"left_hip", "left_knee", "left_ankle"}, Positions: []string{"a", "b"}, Pick: "largest"}, func(f int) map[string][2]float64 {
			bend := 0.02 * math.Abs(float64(f)-30) * math.Pi // straight at frame 30
			return map[string][2]float64{"left_hip": {600, 200}, "left_knee": {600, 320}, "left_ankle": {600 - 120*math.Sin(bend), 320 + 120*math.Cos(bend)}}
		}, 0, 180},
		"a step of 90 % of the one before": {model.Measure{Kind: "strides", Points: []string{"left_toe", "right_toe", "left_heel"}, Positions: []string{"a", "a", "b"}}, still(map[string][2]float64{"left_toe": {100, 600}, "right_toe": {300, 600}, "left_heel": {480, 600}}), 0, 90},
		"hands half a leg from the chest":  {model.Measure{Kind: "apart_leg", Points: []string{"left_hand", "left_shoulder"}}, still(map[string][2]float64{"left_hand": {590, 200}, "left_shoulder": {690, 200}, "left_hip": {690, 400}, "left_knee": {690, 500}, "left_ankle": {690, 600}}), 0, 50},
	} {
		for _, direction := range []float64{1, -1} {
			in := scene(direction, c.way, c.at)
			if direction < 0 {
				for _, tr := range in.Points {
					for i := range tr.X {
						tr.X[i] = 1280 - tr.X[i]
					}
				}
			}
			r, _ := Attempt(bare(c.m), in).Reading("x")
			if r.Value == nil || math.Abs(r.Value.Value-c.want) > 0.02*math.Abs(c.want)+0.3 || !(r.Value.SD > 0) {
				t.Errorf("%s, direction %g: %+v %s, want %g", name, direction, r.Value, r.Reason, c.want)
			}
		}
	}
}

// Leaning to the block side has one sign whether the camera stands behind or in
// front.
func TestSideways(t *testing.T) {
	m := bare(model.Measure{Kind: "sideways", Points: []string{"mid_hip", "mid_shoulder", "throwing_hip", "block_hip"}})
	m.Checkpoints[0].Views, m.Checkpoints[0].Unit = []string{"back", "front"}, "°"
	for _, view := range []string{"back", "front"} {
		left := 560.0 // from behind the left hip is to the left
		if view == "front" {
			left = 640
		}
		lean := 40.0
		if view == "back" {
			lean = -40
		}
		in := scene(1, 0, func(int) map[string][2]float64 {
			return map[string][2]float64{"left_hip": {left, 400}, "right_hip": {1200 - left, 400}, "left_shoulder": {600 + lean, 250}, "right_shoulder": {600 + lean, 250}}
		})
		in.Clip.View = view
		r, _ := Attempt(m, in).Reading("x")
		if r.Value == nil || math.Abs(r.Value.Value-math.Atan2(40, 150)*180/math.Pi) > 0.1 {
			t.Errorf("from the %s: %+v %s", view, r.Value, r.Reason)
		}
	}
	in := scene(1, 0, func(int) map[string][2]float64 { return nil })
	if r, _ := Attempt(m, in).Reading("x"); r.Value != nil || !strings.Contains(r.Remedy, "back or front") {
		t.Errorf("from the side: %+v", r)
	}
}

// What cannot be measured says why and what would help.
func TestMeasuresSayWhatIsMissing(t *testing.T) {
	hips := func(int) map[string][2]float64 { return map[string][2]float64{"left_hip": {300, 330}} }
	rise := model.Measure{Kind: "rise", Points: []string{"left_hip"}, Positions: []string{"a", "b"}}
	for name, c := range map[string]struct {
		m    model.Measure
		edit func(*Input)
		says string
	}{
		"no flag":          {rise, func(in *Input) { delete(in.Flags, "a") }, "not flagged"},
		"no scale":         {rise, func(in *Input) { in.Scale = nil }, "no scale"},
		"camera unseen":    {rise, func(in *Input) { in.Camera = nil }, "camera moved"},
		"no point":         {model.Measure{Kind: "gain", Points: []string{"right_hip"}, Positions: []string{"a", "b"}}, func(*Input) {}, "right hip is not placed"},
		"clip begins late": {model.Measure{Kind: "keeps", Points: []string{"left_hip"}, Positions: []string{"a", "b"}}, func(in *Input) { in.Flags["a"] = 3 }, "not tracked before"},
		"wrong order":      {model.Measure{Kind: "slope", Points: []string{"left_hip", "left_hip"}, Positions: []string{"b", "a"}, Pick: "largest"}, func(*Input) {}, "wrong order"},
	} {
		in := scene(1, 2, hips)
		c.edit(&in)
		r, _ := Attempt(bare(c.m), in).Reading("x")
		if r.Value != nil || !strings.Contains(r.Reason, c.says) || r.Remedy == "" {
			t.Errorf("%s: %+v", name, r)
		}
	}
}

// faulty is a model of one measured number (how far the hips rise) and faults that
// hang on it.
func faulty(faults ...model.Fault) model.Model {
	m := bare(model.Measure{Kind: "rise", Points: []string{"left_hip"}, Positions: []string{"a", "b"}}, model.Checkpoint{ID: "eye", Name: "Eye", Position: "b", Basis: "trade", Question: "?", Measure: model.Measure{Kind: "answer"}})
	hi := 10.0
	m.Checkpoints[0].Band = uncertainty.Band{Hi: &hi}
	m.Faults = faults
	return m
}

func rising(cm float64) Input {
	return scene(1, 0, func(f int) map[string][2]float64 {
		return map[string][2]float64{"left_hip": {300, 330 - 2*cm*float64(max(0, f-20))/20}}
	})
}

// Certain, likely, open and not at all, with the size beyond the threshold; a band
// of one's own moves the fault along.
func TestHowSureAFaultIs(t *testing.T) {
	m := faulty(model.Fault{ID: "F", Phase: "p", When: model.Rule{Reading: "x", Outside: "above"}})
	for cm, want := range map[float64]string{20: "certain", 10.8: "likely", 9.2: "open", 3: ""} {
		r := Attempt(m, rising(cm))
		got := ""
		for _, f := range append(r.Findings, r.Possible...) {
			got = f.Certainty
			if f.Excess != nil && math.Abs(f.Excess.By-(cm-10)) > 0.1 {
				t.Errorf("%g cm are %+v over", cm, f.Excess)
			}
		}
		if got != want {
			x, _ := r.Reading("x")
			t.Errorf("a rise of %g cm (%+v) is %q, want %q", cm, x.Value, got, want)
		}
	}
	own := faulty(m.Faults[0])
	wide := 30.0
	own.Checkpoints[0].Band.Hi = &wide
	if r := Attempt(own, rising(20)); len(r.Findings) != 0 {
		t.Errorf("inside the wider band: %+v", r.Findings)
	}
}

// A fault of a later stage waits while one of an earlier stage is there, even when
// it would explain more.
func TestLandingNeverBeforeTakeOff(t *testing.T) {
	m := faulty(
		model.Fault{ID: "landing", Phase: "p", Stage: 2, When: model.Rule{Reading: "x", Outside: "above"}},
		model.Fault{ID: "after", Phase: "p", Stage: 2, Because: []string{"landing"}, When: model.Rule{Reading: "x", Outside: "above"}},
		model.Fault{ID: "takeoff", Phase: "p", When: model.Rule{Reading: "eye", AnsweredNo: true}},
	)
	in := rising(30)
	in.Answers["eye"] = Judgement{Answer: "no"}
	r := Attempt(m, in)
	if len(r.Findings) != 3 || r.Findings[0].Fault != "takeoff" || r.Findings[1].Fault != "landing" || len(r.Findings[1].Effects) != 1 {
		t.Errorf("%+v", r.Findings)
	}
	in.Answers["eye"] = Judgement{Answer: "partly"}
	if r := Attempt(m, in); r.Findings[0].Fault != "landing" || len(r.Possible) != 1 || r.Possible[0].Certainty != "likely" {
		t.Errorf("partly: %+v, %+v", r.Findings, r.Possible)
	}
}

// An eye that is right in seven of ten gives no verdict and says why; what it says is wrong is likely, what
// it says is right is no fault. An eye that nobody has measured, or that is sure, gives verdicts.
func TestAnswersOfAMeasuredEye(t *testing.T) {
	m := faulty(model.Fault{ID: "takeoff", Phase: "p", When: model.Rule{Reading: "eye", AnsweredNo: true}})
	for _, c := range []struct {
		j       Judgement
		verdict uncertainty.Verdict
		says    string
		found   string
	}{
		{Judgement{Answer: "no"}, uncertainty.Missed, "", "certain"},
		{Judgement{Answer: "no", Sure: 0.9}, uncertainty.Missed, "", "certain"},
		{Judgement{Answer: "no", Sure: 0.7}, uncertainty.Open, "right in 70 of 100", "likely"},
		{Judgement{Answer: "yes", Sure: 0.7}, uncertainty.Open, "right in 70 of 100", ""},
		{Judgement{Answer: "yes", Sure: 0.9}, uncertainty.Met, "", ""},
	} {
		in := rising(30)
		in.Answers["eye"] = c.j
		r := Attempt(m, in)
		got := reading(t, r, "eye")
		if got.Verdict != c.verdict || got.Said != c.j.Answer || !strings.Contains(got.Reason, c.says) {
			t.Errorf("%+v: %+v", c.j, got)
		}
		found := ""
		for _, f := range append(r.Findings, r.Possible...) {
			found = f.Certainty
		}
		if found != c.found {
			t.Errorf("%+v: found %q, want %q", c.j, found, c.found)
		}
	}
}

// A fault of a repeated group is said once, with its course.
func TestCourseOfARepeatedFault(t *testing.T) {
	hi := 10.0
	m := model.Model{ID: "bare", Version: 1, Name: "Bare", About: "x", Film: "x", View: "side", Cautions: []string{"x"},
		Repeat: &model.Repeat{ID: "turn", Name: "turn", Most: 4, Positions: []model.Position{{ID: "zero", Name: "Zero", Short: "0", Hint: "x"}},
			Phases: []model.Phase{{ID: "all", Name: "turn", From: "zero", To: "zero+1"}}},
		Phases:      []model.Phase{{ID: "end", Name: "end", From: "zero*", To: "z"}},
		Positions:   []model.Position{{ID: "start", Name: "Start", Short: "s", Hint: "x"}, {ID: "z", Name: "Z", Short: "z", Hint: "x"}},
		Checkpoints: []model.Checkpoint{{ID: "lean", Name: "Lean", Position: "zero", Unit: "°", Basis: "trade", Band: uncertainty.Band{Hi: &hi}, Measure: model.Measure{Kind: "tilt", Points: []string{"left_hip", "left_shoulder"}}}},
		Faults:      []model.Fault{{ID: "F", Name: "F", Short: "f", Effect: "x", Phase: "all", Target: "lean", When: model.Rule{Reading: "lean", Outside: "above"}, Cues: []model.Cue{{Focus: "outward", Words: "x", Backfire: "x"}}, Drills: []model.Drill{{Name: "x", Dose: model.Dose{Says: "x"}, Feel: "x"}}}}}
	m.Repeat.After = "start"
	if list := Ready(&m); len(list) > 0 {
		t.Fatal(list)
	}
	if len(m.Positions) != 6 || m.Positions[1].ID != "zero1" || m.Positions[5].ID != "z" || m.Phases[len(m.Phases)-1].ID != "end" || m.PhaseOf("F") != 0 {
		t.Fatalf("%+v %+v", m.Positions, m.Phases)
	}
	for name, c := range map[string]struct {
		lean  [3]float64
		shown int
		trend string
	}{
		"growing": {[3]float64{12, 20, 32}, 3, "growing"},
		"fading":  {[3]float64{34, 22, 2}, 2, "fading"},
		"same":    {[3]float64{22, 21, 22}, 3, "same"},
	} {
		in := scene(1, 0, func(f int) map[string][2]float64 {
			a := c.lean[min(f/20, 2)] * math.Pi / 180
			return map[string][2]float64{"left_hip": {600, 400}, "left_shoulder": {600 + 150*math.Sin(a), 400 - 150*math.Cos(a)}}
		})
		in.Flags = map[string]int{"zero1": 10, "zero2": 30, "zero3": 50, "z": 55}
		r := Attempt(m, in)
		if len(r.Findings) != 1 || r.Findings[0].Progress == nil {
			t.Errorf("%s: %+v", name, r.Findings)
			continue
		}
		if got := *r.Findings[0].Progress; got.Of != 3 || got.Shown != c.shown || got.Trend != c.trend {
			t.Errorf("%s: %+v", name, got)
		}
		if last := r.Phases[len(r.Phases)-1]; last.ID != "end" || last.From != 50 || last.To != 55 {
			t.Errorf("the phase from the last turn on: %+v", last)
		}
	}
}

func TestOlderAnswersAreRead(t *testing.T) {
	var got map[string]Judgement
	if err := json.Unmarshal([]byte(`{"a":true,"b":false,"c":{"answer":"partly","note":"n"}}`), &got); err != nil {
		t.Fatal(err)
	}
	if got["a"].Answer != "yes" || got["b"].Answer != "no" || got["c"] != (Judgement{Answer: "partly", Note: "n"}) {
		t.Errorf("%+v", got)
	}
	if json.Unmarshal([]byte(`{"a":7}`), &got) == nil {
		t.Error("a number was taken for an answer")
	}
}

// The hand's way against a line: by construction, and said to be unknown where the
// hand is not tracked.
func TestOffPath(t *testing.T) {
	for _, c := range []struct{ slope, line, want float64 }{{0, 0, 0}, {20, 0, 20}, {10, 40, 30}, {-15, 5, 20}, {170, 0, 10}} {
		s, k := math.Sincos(c.slope * math.Pi / 180)
		ls, lk := math.Sincos(c.line * math.Pi / 180)
		in := scene(1, 0, func(f int) map[string][2]float64 {
			return map[string][2]float64{
				"right_hand": {300 + 8*float64(f)*k, 500 - 8*float64(f)*s},
				"tail":       {400, 300}, "tip": {400 + 200*lk, 300 - 200*ls},
			}
		})
		m := bare(model.Measure{Kind: "off_path", Points: []string{"throwing_hand", "tail", "tip"}})
		r, _ := Attempt(m, in).Reading("x")
		if r.Value == nil || math.Abs(r.Value.Value-c.want) > 0.5 {
			t.Errorf("way %g, line %g: %+v %s, want %g", c.slope, c.line, r.Value, r.Reason, c.want)
		}
		in.Camera = nil
		if r, _ := Attempt(m, in).Reading("x"); r.Value != nil || !strings.Contains(r.Remedy, "a look whether the camera moved") {
			t.Errorf("nobody looked at the camera: %+v", r)
		}
	}
}

// Steps of a run-up are counted back from the release, and the first after it.
func TestStepsOfAThrow(t *testing.T) {
	in := scene(1, 0, func(int) map[string][2]float64 { return nil })
	in.Flags = map[string]int{"release": 40}
	stand := func(foot body.Side, from, to int) contact.Contact {
		return contact.Contact{Foot: foot, From: from, To: to, Confidence: 1}
	}
	in.Contacts = []contact.Contact{stand("right", 2, 8), stand("left", 10, 16), stand("right", 20, 28), stand("left", 32, 48), stand("right", 52, 58)}
	e := begin(bare(model.Measure{Kind: "answer"}), in, nil)
	e.contacts = in.Contacts
	for what, c := range map[string]struct {
		f    model.Find
		want int
	}{
		"block":            {model.Find{Kind: "step-on", Foot: "block", Nth: 1}, 32},
		"last":             {model.Find{Kind: "step-on", Foot: "throwing", Nth: 1}, 20},
		"push before it":   {model.Find{Kind: "step-off", Foot: "block", Nth: 2}, 16},
		"one more":         {model.Find{Kind: "step-on", Foot: "throwing", Nth: 2}, 2},
		"recovery":         {model.Find{Kind: "step-after", Foot: "throwing"}, 52},
		"more than it has": {model.Find{Kind: "step-on", Foot: "throwing", Nth: 3}, -1},
		"none after it":    {model.Find{Kind: "step-after", Foot: "block"}, -1},
	} {
		got, ok := e.stepsOfThrow(c.f)
		if !ok {
			got.frame = -1
		}
		if got.frame != c.want {
			t.Errorf("%s: frame %d, want %d", what, got.frame, c.want)
		}
	}
	e.Input.Flags = nil
	if _, ok := e.stepsOfThrow(model.Find{Kind: "step-on", Foot: "block", Nth: 1}); ok {
		t.Error("steps are counted from a release that nobody knows")
	}
}

// Bands for some: an athlete's own outranks an age group, the youngest group the
// others, and all outrank a variant.
func TestModelForSome(t *testing.T) {
	at := func(v float64) uncertainty.Band { return uncertainty.Band{Hi: &v} }
	m := bare(model.Measure{Kind: "answer"})
	m.Variants = []model.Variant{{ID: "v", Name: "v", Says: "v", Bands: map[string]uncertainty.Band{"x": at(7)}}, {ID: "w", Name: "w", Says: "w"}}
	m.Adjusted = []model.Adjusted{{Checkpoint: "x", Under: 16, Band: at(1), Reason: "x"}, {Checkpoint: "x", Under: 12, Band: at(2), Reason: "x"}, {Checkpoint: "x", Athlete: "a", Band: at(3), Reason: "x"}}
	for _, c := range []struct {
		athlete string
		age     int
		want    float64
	}{{"", 30, 7}, {"", 15, 1}, {"", 11, 2}, {"a", 11, 3}, {"a", 30, 3}, {"b", 16, 7}} {
		cp, _ := m.For(model.Whom{Athlete: c.athlete, Age: c.age, Years: model.Unknown}).As("v").Checkpoint("x")
		if *cp.Band.Hi != c.want {
			t.Errorf("%q at %d: up to %g, want %g", c.athlete, c.age, *cp.Band.Hi, c.want)
		}
	}
	if m.Variants[0].Bands["x"].Hi == nil || *m.Variants[0].Bands["x"].Hi != 7 {
		t.Error("the model itself was changed")
	}
	m.Adjusted = append(m.Adjusted, model.Adjusted{Checkpoint: "luck", Under: 9, Reason: "x"}, model.Adjusted{Checkpoint: "x", Under: 9, Athlete: "a", Reason: ""})
	says := ""
	for _, x := range mistakes(m) {
		says += x.Path + " " + x.Text + "; "
	}
	for _, want := range []string{`adjusted[3].checkpoint there is no checkpoint "luck"`, "adjusted[4] a band is for an age group", "adjusted[4] reason is missing"} {
		if !strings.Contains(says, want) {
			t.Errorf("%q is not among: %s", want, says)
		}
	}
}

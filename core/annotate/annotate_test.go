package annotate_test

import (
	"math"
	"testing"

	"neokinema/core/annotate"
	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/stabilize"
	"neokinema/core/track"
)

// moving is a clip of sixty frames in which the left knee rests for twenty and then goes
// ahead by 2 px a frame, one centimetre a pixel; the hip stays.
func moving(t *testing.T) (model.Model, evaluate.Input) {
	t.Helper()
	points := kinematics.Points{"left_knee": track.New(60), "left_hip": track.New(60)}
	stamps := make([]int64, 60)
	for f := range 60 {
		stamps[f] = int64(f) * 3000
		for id, at := range map[string][2]float64{"left_knee": {400 + 2*math.Max(0, float64(f-20)), 400}, "left_hip": {400, 300}} {
			if err := points[id].Set(f, &track.Point{X: at[0], Y: at[1], Source: track.Hand.String(), Confidence: 1}); err != nil {
				t.Fatal(err)
			}
		}
	}
	m := model.Model{ID: "bare", View: "side", Positions: []model.Position{{ID: "end", Name: "End"}}}
	return m, evaluate.Input{Model: "bare", Athlete: body.Person{FrontLeg: body.Left}, Points: points, Camera: &stabilize.Rotations{},
		Clip:  evaluate.ClipInfo{Width: 1280, Height: 720, Stamps: stamps, FileRate: 30, CaptureRate: 120, View: "side", Direction: 1},
		Flags: map[string]int{"end": 50}, Scale: &calibration.Line{AX: 100, AY: 600, BX: 300, BY: 600, Metres: 2}}
}

func TestAPinTellsHowFarAndSinceWhen(t *testing.T) {
	m, in := moving(t)
	r := annotate.At(m, in, nil, []annotate.Annotation{{Kind: "pin", Frame: 10, Landmark: "left_knee"}}, 45)[0]
	if r.Missing != "" || r.Unit != "cm" || r.Distance == nil || math.Abs(r.Distance.Value-50) > 1 || r.Direction != "ahead" {
		t.Fatalf("%+v", r)
	}
	// It has surely left when it is farther off than both places are uncertain: 1.96 * 2 px * sqrt 2.
	if r.Since == nil || *r.Since < 23 || *r.Since > 24 {
		t.Errorf("left in frame %v", r.Since)
	}
	if still := annotate.At(m, in, nil, []annotate.Annotation{{Kind: "pin", Frame: 10, Landmark: "left_knee"}}, 19)[0]; still.Since != nil {
		t.Errorf("a knee that rests has left in frame %d", *still.Since)
	}
}

func TestALineTellsTheAngleFromWhereItWas(t *testing.T) {
	m, in := moving(t)
	r := annotate.At(m, in, nil, []annotate.Annotation{{Kind: "line", Frame: 0, Landmark: "left_knee", Other: "left_hip"}}, 50)[0]
	want := math.Atan2(60, 100) * 180 / math.Pi
	if r.Missing != "" || r.Angle == nil || math.Abs(math.Abs(r.Angle.Value)-want) > 0.5 || math.Abs(r.Distance.Value-60) > 1.5 {
		t.Errorf("%+v, not %.1f degrees", r, want)
	}
}

func TestAShouldBeKeepsTheLimbsLength(t *testing.T) {
	m, in := moving(t)
	s := annotate.Annotation{Kind: "should", Frame: 50, Landmark: "left_knee", Other: "left_hip", X: 400, Y: 900}
	r := annotate.At(m, in, nil, []annotate.Annotation{s}, 50)[0]
	if r.Missing != "" || len(r.Lines) != 2 {
		t.Fatalf("%+v", r)
	}
	length := func(l [][2]float64) float64 { return math.Hypot(l[1][0]-l[0][0], l[1][1]-l[0][1]) }
	if a, b := length(r.Lines[0]), length(r.Lines[1]); math.Abs(a-b) > 1e-6 {
		t.Errorf("the limb is %.1f px where it should be and %.1f where it is", a, b)
	}
	// As a target it is the direction of the limb at the position flagged there.
	cp, err := annotate.Target(m, in, nil, s)
	if err != nil || cp.Position != "end" || cp.Measure.Kind != "tilt" || *cp.Band.Lo > 0 || *cp.Band.Hi < 0 || *cp.Band.Hi-*cp.Band.Lo != 10 {
		t.Errorf("%+v %v", cp, err)
	}
	s.Frame = 30
	if _, err := annotate.Target(m, in, nil, s); err == nil {
		t.Error("a frame without a key position became a target")
	}
}

func TestWhatCannotBeSaidIsSaid(t *testing.T) {
	m, in := moving(t)
	for _, a := range []annotate.Annotation{
		{Kind: "arrow", Landmark: "left_knee"}, {Kind: "pin", Landmark: "tail"}, {Kind: "line", Landmark: "left_knee", Other: "left_knee"},
		{Kind: "should", Landmark: "left_knee"}, {Kind: "pin", Landmark: "right_knee", Frame: 3}, {Kind: "should", Landmark: "left_knee", Other: "left_hip", X: math.NaN()},
	} {
		if r := annotate.At(m, in, nil, []annotate.Annotation{a}, 5)[0]; r.Missing == "" || r.Distance != nil {
			t.Errorf("%+v says %+v", a, r)
		}
	}
	// When the camera moved in a way that nobody knows, an annotation stays in its own frame.
	in.Camera = &stabilize.Rotations{Problem: "it shook"}
	if r := annotate.At(m, in, nil, []annotate.Annotation{{Kind: "pin", Frame: 10, Landmark: "left_knee"}}, 45)[0]; r.Missing == "" {
		t.Errorf("%+v", r)
	}
}

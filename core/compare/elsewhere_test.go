package compare_test

import (
	"errors"
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/exchange"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func seen(t *testing.T, event string) (model.Model, evaluate.Input, simcam.Truth) {
	t.Helper()
	s, err := simcam.New(simcam.Spec{Event: event, CaptureRate: 120, FileRate: 30, Width: 1280, Height: 720, Direction: 1, Athlete: body.Person{Sex: body.Male, Height: 1.8, Mass: 75}})
	if err != nil {
		t.Fatal(err)
	}
	m, err := models.Load(event)
	if err != nil {
		t.Fatal(err)
	}
	return m, points.Input(s.Truth, points.All(s.Truth, 1, 3)), s.Truth
}

func take(truth simcam.Truth, p kinematics.Points) exchange.Take {
	return exchange.TakeOf(p, len(truth.Frames), truth.Spec.CaptureRate, nil, nil)
}

// The truth as somebody else's points lies inside what is stated; points that are 25 px off do
// not, and the knee that is says so.
func TestElsewhere(t *testing.T) {
	m, in, truth := seen(t, "running")
	exact := points.All(truth, 0, 1)
	got, err := compare.Elsewhere(m, in, take(truth, exact), exchange.Picture{}, 0)
	if err != nil {
		t.Fatal(err)
	}
	if got.Frames != len(truth.Frames) || len(got.Joints) != len(body.Landmarks()) || len(got.Angles) < 5 {
		t.Errorf("%d frames, %d joints, %d readings", got.Frames, len(got.Joints), len(got.Angles))
	}
	for _, j := range got.Joints {
		if j.Inside < 95 || j.Middle > 2 || j.Cm == nil || *j.Cm > 2 {
			t.Errorf("%+v", j)
		}
	}
	in95 := 0
	for _, a := range got.Angles {
		if a.Inside {
			in95++
		}
		if a.Unit == "ms" && a.Own.Value == a.Theirs {
			t.Errorf("%s is a time that both have from here", a.Reading)
		}
	}
	if in95*10 < 9*len(got.Angles) {
		t.Errorf("%d of %d readings hold the truth", in95, len(got.Angles))
	}
	for f := range exact["left_knee"].X {
		exact["left_knee"].X[f] += 25
	}
	off, err := compare.Elsewhere(m, in, take(truth, exact), exchange.Picture{}, 0)
	if err != nil {
		t.Fatal(err)
	}
	for _, j := range off.Joints {
		if wrong := j.Landmark == "left_knee"; wrong != (j.Inside < 50) || wrong && math.Abs(j.Middle-25) > 2 {
			t.Errorf("%+v", j)
		}
	}
}

// A laboratory's take at another rate, that begins later, in a smaller copy of the picture,
// with its own events: all is brought to the clip.
func TestElsewhereAtAnotherRate(t *testing.T) {
	m, in, truth := seen(t, "running")
	const first = 20
	lab := exchange.Take{Rate: 60, Units: exchange.Pixels, Labels: body.Landmarks()}
	for f := first; f < len(truth.Frames); f += 2 {
		var row []exchange.Place
		for _, id := range lab.Labels {
			p := truth.Frames[f].Landmarks[id].Image
			row = append(row, exchange.Place{X: p[0] / 2, Y: p[1] / 2, Valid: true})
		}
		lab.Frames = append(lab.Frames, row)
	}
	rep := evaluate.Attempt(m, in)
	context := map[body.Side]string{body.Left: "Left", body.Right: "Right"}
	for _, c := range rep.Contacts {
		if c.From > first {
			lab.Events = append(lab.Events, exchange.Event{Context: context[c.Foot], Label: "Foot Strike", Time: float64(c.From-first)/120 + 0.050})
		}
	}
	got, err := compare.Elsewhere(m, in, lab, exchange.Picture{Width: in.Clip.Width / 2, Height: in.Clip.Height / 2}, first)
	if err != nil {
		t.Fatal(err)
	}
	for _, j := range got.Joints {
		if j.Middle > 2.5 {
			t.Errorf("%+v", j)
		}
	}
	if len(got.Moments) == 0 {
		t.Error("no moment is paired")
	}
	for _, x := range got.Moments {
		if math.Abs(x.Later-50) > 0.1 || x.Inside != (x.Half95 >= 50) {
			t.Errorf("%+v", x)
		}
	}
	if _, err := compare.Elsewhere(m, in, exchange.Take{Rate: 120, Units: exchange.Pixels, Labels: []string{"left_knee"}, Frames: [][]exchange.Place{{{X: 1, Y: 1, Valid: true}}}}, exchange.Picture{}, len(truth.Frames)+5); !errors.Is(err, compare.ErrNothingShared) {
		t.Errorf("points after the clip: %v", err)
	}
}

// Points of the world are held against joint angles alone, in any unit.
func TestElsewhereInTheWorld(t *testing.T) {
	m, in, truth := seen(t, "sprint-start")
	in.Flags = truth.Positions
	lab := exchange.Take{Rate: truth.Spec.CaptureRate, Units: "mm", Labels: body.Landmarks()}
	for _, f := range truth.Frames {
		var row []exchange.Place
		for _, id := range lab.Labels {
			p := f.Landmarks[id].World
			row = append(row, exchange.Place{X: 1000 * p[0], Y: 1000 * p[1], Z: 1000 * p[2], Valid: true})
		}
		lab.Frames = append(lab.Frames, row)
	}
	got, err := compare.Elsewhere(m, in, lab, exchange.Picture{}, 0)
	if err != nil {
		t.Fatal(err)
	}
	if len(got.Joints) != 0 || len(got.Angles) == 0 {
		t.Errorf("%d joints, %d angles", len(got.Joints), len(got.Angles))
	}
	for _, a := range got.Angles {
		if a.Unit != "°" || math.Abs(a.Theirs-a.Own.Value) > 12 {
			t.Errorf("%+v", a)
		}
	}
	lab.Labels = make([]string, len(lab.Labels))
	if _, err := compare.Elsewhere(m, in, lab, exchange.Picture{}, 0); !errors.Is(err, compare.ErrNoAngles) {
		t.Errorf("points without names: %v", err)
	}
}

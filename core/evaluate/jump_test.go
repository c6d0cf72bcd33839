package evaluate_test

import (
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// Take-off, the contact before it, landing, lifts and landings of named feet:
// found in tracks of jumps and throws, against the simulated athlete's truth.
func TestFootfallsOfJumpsAndThrows(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, c := range []struct {
		event, variant, place string
		pan                   bool
		want                  []string
	}{
		{"long-jump", "sail", "side", true, []string{"pen", "pen_off", "td", "to"}},
		{"pole-vault", "bending", "side", true, []string{"pre", "pre_off", "td", "to"}},
		{"shot", "glide", "side", false, []string{"drive_off", "centre", "front"}},
		{"discus", "full", "side", false, []string{"centre"}},
	} {
		for _, hand := range []body.Side{body.Right, body.Left} {
			s := simcam.Spec{Event: c.event, Variant: c.variant, CaptureRate: 240, Hand: hand, Leg: hand.Other(), Camera: simcam.Camera{Place: c.place, Pan: c.pan}, Athlete: body.Person{Sex: body.Male, Height: 1.84, FrontLeg: body.Left}}
			tr := truth(t, s)
			m := load(t, c.event)
			r := evaluate.Attempt(m, points.Input(tr, points.All(tr, 0.3, 7)))
			for _, id := range c.want {
				found := false
				for _, p := range r.Positions {
					if p.ID != id {
						continue
					}
					found = true
					switch {
					case p.Frame == nil:
						t.Errorf("%s %s, %s-handed: %s was not found", c.event, c.variant, hand, id)
					case max(*p.Frame-tr.Positions[id], tr.Positions[id]-*p.Frame) > 4:
						t.Errorf("%s %s, %s-handed: %s at %d, true %d", c.event, c.variant, hand, id, *p.Frame, tr.Positions[id])
					case p.Source != "tool" || p.Confidence <= 0 || p.Confidence > 1:
						t.Errorf("%s: found by %s, sure %v", id, p.Source, p.Confidence)
					}
				}
				if !found {
					t.Errorf("%s has no %s", c.event, id)
				}
			}
		}
	}
}

// stated tells whether the tool has placed a position by itself.
func stated(r report.Report, id string) bool {
	return slices.ContainsFunc(r.Positions, func(p report.Position) bool { return p.ID == id && p.Frame != nil })
}

// A take-off whose legs are hidden, or that is taken for one of the other leg, is not stated:
// no earlier step is taken for it.
func TestATakeOffThatIsNotSeenIsNotStated(t *testing.T) {
	m := load(t, "long-jump")
	s := simcam.Spec{Event: "long-jump", CaptureRate: 60, Leg: body.Left, Camera: simcam.Camera{Place: "side", Pan: true}}
	tr := truth(t, s)
	seen := func(change func(*evaluate.Input)) report.Report {
		in := points.Input(tr, points.All(tr, 0.3, 7))
		in.Athlete.TakeoffLeg = body.Left
		change(&in)
		return evaluate.Attempt(m, in)
	}
	if r := seen(func(*evaluate.Input) {}); !stated(r, "to") || !stated(r, "td") {
		t.Fatal("a clear take-off is not found")
	}
	if r := seen(func(in *evaluate.Input) { in.Athlete.TakeoffLeg = body.Right }); stated(r, "to") {
		t.Error("the left foot's take-off is stated of somebody who takes off from the right")
	}
	hidden := seen(func(in *evaluate.Input) {
		for id, q := range in.Points {
			if strings.HasSuffix(id, "hip") || strings.HasSuffix(id, "knee") || strings.HasSuffix(id, "ankle") || strings.HasSuffix(id, "heel") || strings.HasSuffix(id, "toe") {
				for f := tr.Positions["td"] - 6; f < q.End(); f++ {
					q.Take(f)
				}
			}
		}
	})
	if stated(hidden, "to") {
		t.Error("a take-off is stated though no leg was seen")
	}
}

// A throw of which nobody has seen the release is asked for it first, at the fastest moment of
// the hand; with the answer the steps before it get their numbers. A throw in a circle is
// asked for the circle.
func TestQuestionsThatUnlockAThrow(t *testing.T) {
	m := load(t, "javelin")
	tr := truth(t, simcam.Spec{Event: "javelin", CaptureRate: 120, Hand: body.Right, Camera: simcam.Camera{Place: "side", Pan: true}})
	in := points.Input(tr, points.All(tr, 0.3, 2))
	in.Flags = map[string]int{}
	delete(in.Points, "ball")
	before := evaluate.Attempt(m, in)
	if len(before.Questions) == 0 || before.Questions[0].Position != "release" {
		t.Fatalf("asked first: %+v", before.Questions)
	}
	q := before.Questions[0]
	if d := q.Frame - tr.Positions["release"]; max(d, -d) > 12 || len(q.Options) != 3 {
		t.Errorf("the release is asked for at %d, truly %d: %+v", q.Frame, tr.Positions["release"], q.Options)
	}
	in.Flags["release"] = tr.Positions["release"]
	after := evaluate.Attempt(m, in)
	count := func(r report.Report) (n int) {
		for _, p := range r.Positions {
			if p.Frame != nil {
				n++
			}
		}
		return n
	}
	if count(after) < count(before)+4 {
		t.Errorf("the release unlocks %d positions after %d", count(after), count(before))
	}

	hammer := truth(t, simcam.Spec{Event: "hammer", CaptureRate: 60, Hand: body.Right, Camera: simcam.Camera{Place: "back"}})
	in = points.Input(hammer, points.All(hammer, 0.3, 2))
	in.Flags = map[string]int{}
	circle := func(r report.Report) bool {
		return slices.ContainsFunc(r.Questions, func(q report.Question) bool { return q.Kind == "circle" && len(q.For) > 3 })
	}
	if !circle(evaluate.Attempt(load(t, "hammer"), in)) {
		t.Error("nobody asks for the circle")
	}
	in.Ground = points.Circle(hammer, 0, 1)
	if circle(evaluate.Attempt(load(t, "hammer"), in)) {
		t.Error("the circle is asked for though it is marked")
	}
}

// What hangs on three computed joints of a small athlete is at best likely; where the hand has
// placed them it may be certain.
func TestJointsThatNobodyHasCheckedMakeNoCertainFault(t *testing.T) {
	m := load(t, "running")
	for _, small := range []bool{true, false} {
		s := simcam.Spec{Event: "running", Speed: 3.3, CaptureRate: 120, Faults: map[string]float64{"hips-behind": 24}}
		if small {
			s.Camera.Zoom = 0.5
		}
		tr := truth(t, s)
		in := points.Input(tr, points.All(tr, 0.3, 3))
		for _, q := range in.Points {
			for i := range q.Confidence {
				q.Confidence[i] = 95
			}
		}
		unchecked := func() (n int) {
			for _, x := range evaluate.Attempt(m, in).Readings {
				if x.Unchecked {
					n++
				}
			}
			return n
		}
		if n := unchecked(); small != (n > 0) {
			t.Errorf("small %v: %d readings hang on joints that nobody has checked", small, n)
		}
		for _, q := range in.Points {
			for f := q.From; f < q.End(); f++ {
				if p, ok := q.At(f); ok {
					p.Source = track.Hand.String()
					_ = q.Set(f, &p)
				}
			}
		}
		if n := unchecked(); n > 0 {
			t.Errorf("small %v: %d readings of joints set by hand count as unchecked", small, n)
		}
	}
}

// What a draft alone shows just past the band is at best likely; far past it, or placed by
// hand, it may be certain.
func TestADraftAloneIsCertainFarPastTheBandOnly(t *testing.T) {
	m := load(t, "running")
	reading := func(size float64, hand bool) report.Reading {
		tr := truth(t, simcam.Spec{Event: "running", Speed: 3.3, CaptureRate: 240, Faults: map[string]float64{"hips-behind": size}})
		in := points.Input(tr, points.All(tr, 0.3, 3))
		for _, q := range in.Points {
			for f := q.From; f < q.End() && hand; f++ {
				if p, ok := q.At(f); ok {
					p.Source = track.Hand.String()
					_ = q.Set(f, &p)
				}
			}
		}
		x, _ := evaluate.Attempt(m, in).Reading("trunk")
		return x
	}
	for _, c := range []struct {
		size      float64
		hand      bool
		unchecked bool
	}{{16, false, true}, {16, true, false}, {24, false, false}} {
		if x := reading(c.size, c.hand); x.Verdict != uncertainty.Missed || x.Unchecked != c.unchecked {
			t.Errorf("%g degrees, by hand %v: %s, unchecked %v (%+v)", c.size, c.hand, x.Verdict, x.Unchecked, x.Value)
		}
	}
}

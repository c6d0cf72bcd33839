package evaluate_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/simcam/study"
)

// pair is a simulated attempt from two sides, and what is true of it.
func pair(t *testing.T, a study.Attempt) (other study.Attempt, truly map[string]report.Reading) {
	t.Helper()
	other, err := a.Beside(a.Other())
	if err != nil {
		t.Fatal(err)
	}
	truly = map[string]report.Reading{}
	for _, x := range []study.Attempt{other, a} {
		r, scene, err := x.Truth()
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range r.Readings {
			if v.Value == nil {
				continue
			}
			if cp, _ := x.Model.Checkpoint(v.ID); cp.Measure.Kind == "rim" {
				// The camera of the truth is far off and sees no depth.
				toe := scene.Truth.Frames[scene.Truth.Positions["release"]].Landmarks[string(x.Spec.Athlete.ThrowingHand.Other())+"_toe"].World
				v.Value = &uncertainty.Estimate{Value: 100 * (sport.Of(x.Model.ID).Circle/2 - math.Hypot(toe[0], toe[2]))}
			}
			truly[v.ID] = v
		}
	}
	return other, truly
}

// What two clips tell of an attempt is one list: more is read than from either, each value says
// which clip it is from, the truth lies within it, and moments flagged in one are known in both.
func TestTwoClipsMakeOneReport(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	list, err := study.Draw(study.Build, 3, 0)
	if err != nil {
		t.Fatal(err)
	}
	inside, all, more := 0, 0, 0
	for _, a := range list {
		if !slices.Contains([]string{"hammer", "weight", "discus", "shot", "running", "long-jump"}, a.Model.ID) {
			continue
		}
		b, truly := pair(t, a)
		one, two := a.Input(study.White, true), b.Input(study.White, false)
		// Somebody flags a moment in both, which brings them together.
		shared, f := "", 0
		for _, p := range a.Model.Positions {
			_, flagged := one.Flags[p.ID]
			if at, ok := b.Scene.Truth.Positions[p.ID]; ok && flagged && (shared == "" || p.ID == "release") {
				shared, f = p.ID, at
			}
		}
		two.Flags[shared] = f
		alone := evaluate.Attempt(a.Model, one)
		both := evaluate.Together(a.Model, []string{"one", "two"}, []evaluate.Input{one, two})
		count := func(r report.Report) (n int) {
			for _, x := range r.Readings {
				if x.Value != nil || strings.Contains(x.Reason, "the clips disagree") {
					n++
				}
			}
			return n
		}
		if count(both[0]) < count(alone) {
			t.Errorf("%s: %d readings of two clips, %d of one: %v", a.Name, count(both[0]), count(alone), both[0].Problems)
		}
		more += count(both[0]) - count(alone)
		for _, x := range both[0].Readings {
			want, ok := truly[x.ID]
			if x.Value == nil || !ok {
				continue
			}
			if x.Clip != "" && x.Clip != "two" {
				t.Errorf("%s: %s is read from %q", a.Name, x.ID, x.Clip)
			}
			if all++; math.Abs(x.Value.Value-want.Value.Value) <= x.Value.Half95 {
				inside++
			} else {
				t.Logf("%s: %s %.4g ±%.2g from %q, truly %.4g", a.Name, x.ID, x.Value.Value, x.Value.Half95, x.Clip, want.Value.Value)
			}
		}
		for _, p := range both[1].Positions {
			truth, ok := b.Scene.Truth.Positions[p.ID]
			_, flagged := one.Flags[p.ID]
			if !ok || !flagged || a.Model.ID == "running" || p.ID == shared || truth < 3 || truth > len(b.Scene.Truth.Frames)-3 {
				continue
			}
			if p.Frame == nil || p.Source != "clip" {
				t.Errorf("%s: %s of the other clip is %v from %q", a.Name, p.ID, p.Frame, p.Source)
			} else if d := float64(*p.Frame - truth); math.Abs(d) > 1+2.5*p.SD*b.Spec.CaptureRate {
				t.Errorf("%s: %s is %g frames off, ±%.1f", a.Name, p.ID, d, 2*p.SD*b.Spec.CaptureRate)
			}
		}
	}
	t.Logf("%d of %d inside, %d more readings", inside, all, more)
	if all < 150 || 100*inside < 95*all || more < 20 {
		t.Errorf("%d of %d joined readings hold the truth, %d more than of one clip", inside, all, more)
	}
}

// Clips that do not belong together are not joined, and that is told: a wrong rate, or another
// attempt.
func TestClipsThatDoNotFitAreTold(t *testing.T) {
	list, err := study.Draw(study.Build, 2, 0)
	if err != nil {
		t.Fatal(err)
	}
	told := func(r report.Report) bool {
		return slices.ContainsFunc(r.Problems, func(p string) bool { return strings.Contains(p, "is not joined with this one") })
	}
	for i, a := range list {
		if !slices.Contains([]string{"hammer", "long-jump", "high-jump", "javelin"}, a.Model.ID) {
			continue
		}
		b, err := a.Beside(a.Other())
		if err != nil {
			t.Fatal(err)
		}
		one, two := a.Input(study.White, true), b.Input(study.White, true)
		join := func(x evaluate.Input) report.Report {
			return evaluate.Together(a.Model, []string{"one", "two"}, []evaluate.Input{one, x})[0]
		}
		if told(join(two)) {
			t.Errorf("%s: clips that fit are told not to", a.Name)
		}
		slow := two
		slow.Clip.CaptureRate *= 2
		if r := join(slow); !told(r) || slices.ContainsFunc(r.Readings, func(x report.Reading) bool { return x.Clip != "" }) {
			t.Errorf("%s: a clip of twice the rate is joined: %v", a.Name, r.Problems)
		}
		c := list[(i+len(list)/2)%len(list)] // the same event by somebody else
		if c.Model.ID != a.Model.ID {
			t.Fatalf("%s beside %s", a.Name, c.Name)
		}
		if other := c.Input(study.White, true); !told(join(other)) {
			t.Errorf("%s: %s is joined", a.Name, c.Name)
		}
	}
}

// Two cameras at once tell directions that either alone guesses, and what they see of two attempts
// does not lie in one place.
func TestDirectionsOfTwoCameras(t *testing.T) {
	list, err := study.DrawOf(study.Build, 2, 0, "hammer", "shot")
	if err != nil {
		t.Fatal(err)
	}
	told := 0
	for i, a := range list {
		b, err := a.Beside(a.Other())
		if err != nil {
			t.Fatal(err)
		}
		join := func(x evaluate.Input) report.Report {
			return evaluate.Together(a.Model, []string{"one", "two"}, []evaluate.Input{a.Input(study.White, true), x})[0]
		}
		r := join(b.Input(study.White, true))
		for _, x := range r.Readings {
			cp, _ := a.Model.Checkpoint(x.ID)
			f, ok := a.Scene.Truth.Positions[cp.Position]
			if cp.Measure.Kind != "azimuth" || cp.Measure.Points[0] != "chest" || !x.Both || !ok {
				continue
			}
			told++
			if want := a.Scene.Truth.Frames[f].Azimuths.Shoulders; math.Abs(math.Remainder(x.Value.Value-want, 360)) > x.Value.Half95 || x.Clip != "" {
				t.Errorf("%s: %s %.1f ±%.1f from %q, truly %.1f", a.Name, x.ID, x.Value.Value, x.Value.Half95, x.Clip, want)
			}
			if len(x.Also) > 0 && x.Also[0].Value.SD < x.Value.SD {
				t.Errorf("%s: %s is surer from one camera: %v", a.Name, x.ID, x.Also)
			}
		}
		c := list[(i+2)%len(list)]
		other := join(c.Input(study.White, true))
		if slices.ContainsFunc(other.Readings, func(x report.Reading) bool { return x.Both }) {
			t.Errorf("%s beside %s: read from both", a.Name, c.Name)
		}
	}
	if told < 4 {
		t.Errorf("only %d directions are read from two cameras", told)
	}
}

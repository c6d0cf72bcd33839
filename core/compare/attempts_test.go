package compare_test

import (
	"math"
	"slices"
	"testing"

	"neokinema/core/body"
	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func started(t *testing.T, rate float64, front body.Side, height float64, faults map[string]float64) (model.Model, evaluate.Input, simcam.Truth) {
	t.Helper()
	m, in, err := points.ByEyeAt(simcam.Spec{Direction: 1, Athlete: body.Person{Sex: body.Male, Height: height, FrontLeg: front}, Faults: faults}, rate)
	if err != nil {
		t.Fatal(err)
	}
	tr, err := simcam.New(simcam.Spec{Direction: 1, Athlete: body.Person{Sex: body.Male, Height: height, FrontLeg: front}, Faults: faults, CaptureRate: rate, FileRate: rate, Width: 1280, Height: 720})
	if err != nil {
		t.Fatal(err)
	}
	return m, in, tr.Truth
}

// Two starts at different capture rates: every key position of one lies at that of
// the other; a dialled difference comes first; what is the same is not listed.
func TestSideBySide(t *testing.T) {
	m, a, ta := started(t, 240, body.Left, 1.82, nil)
	_, b, tb := started(t, 120, body.Left, 1.82, map[string]float64{"front-knee": 112})
	got := compare.Attempts(m, a, b, "")
	if len(got.Match) != len(ta.Frames) || len(got.Ghost) != len(ta.Frames) || len(got.Moments) < 8 {
		t.Fatalf("%d matched, %d ghosts, %d moments", len(got.Match), len(got.Ghost), len(got.Moments))
	}
	for id, f := range ta.Positions {
		if g, ok := tb.Positions[id]; ok && slices.ContainsFunc(got.Moments, func(x compare.Moment) bool { return x.Position == id }) {
			if d := got.Match[f] - g; max(d, -d) > 1 {
				t.Errorf("%s: frame %d of the second, truth %d", id, got.Match[f], g)
			}
		}
	}
	for f := 1; f < len(got.Match); f++ {
		if got.Match[f] >= 0 && got.Match[f] < got.Match[f-1] {
			t.Fatalf("time runs back at frame %d", f)
		}
	}
	if len(got.Differences) == 0 || got.Differences[0].Reading != "front_knee_set" || math.Abs(got.Differences[0].Diff.Value-17) > 8 {
		t.Errorf("%+v", got.Differences)
	}
	for i, d := range got.Differences {
		if math.Abs(d.Diff.Value) <= d.Diff.Half95 || i > 0 && d.Times > got.Differences[i-1].Times {
			t.Errorf("%s: %+v", d.Reading, d)
		}
	}
	if got.Same < 10 {
		t.Errorf("only %d readings are the same", got.Same)
	}

	// In true time, together at the clearance: seconds away from it are the same.
	at := compare.Attempts(m, a, b, "clear")
	f := ta.Positions["clear"]
	if g := at.Match[f]; g != tb.Positions["clear"] {
		t.Errorf("together at %d, want %d", g, tb.Positions["clear"])
	}
	if d := at.Match[f+48] - at.Match[f]; d != 24 {
		t.Errorf("0.2 s are %d frames of the second", d)
	}
}

// The other leg in front: the second is mirrored, and its ghost lies on the first.
func TestGhostOfAMirroredAthlete(t *testing.T) {
	m, a, _ := started(t, 240, body.Left, 1.82, nil)
	_, b, _ := started(t, 240, body.Right, 1.60, nil)
	got := compare.Attempts(m, a, b, "")
	if !got.Mirrored {
		t.Error("the other leg in front is no mirror")
	}
	r := evaluate.Attempt(m, a)
	far, n := 0.0, 0
	for _, p := range r.Positions {
		if p.Frame == nil || len(got.Ghost[*p.Frame]) < 48 {
			continue
		}
		f := *p.Frame
		// The last of a thigh's two places is the knee: limbs are drawn in order.
		knee, ok := a.Points.At("left_knee", f)
		g := got.Ghost[f]
		if !ok {
			continue
		}
		far, n = far+math.Hypot(g[26]-knee.X, g[27]-knee.Y), n+1
	}
	if n < 5 || far/float64(n) > 25 {
		t.Errorf("over %d positions the knee of the ghost is %.0f px off", n, far/float64(n))
	}
}

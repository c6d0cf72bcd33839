package e2e

import (
	"math"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"

	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/workspace"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// TestTwoAttemptsSideBySide: from the Bench to another attempt of the same event;
// one cursor steps both, phase by phase or in true time; what differs is listed and
// leads to its frame; the second can be turned round and laid over the first.
func TestTwoAttemptsSideBySide(t *testing.T) {
	t.Parallel()
	c, s, sh := started(t)
	defer s.Done()
	other := c.AttemptOf(sh.Attempt.AthleteID)
	truth, file := draw(t, map[string]float64{"early-rise": 13})
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	clip := c.Imported(c.Upload(other.ID, "n.mp4", raw, 1<<22))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: 240, View: "side", Direction: 1}, 200, nil)
	c.Do("POST", "/api/attempts/"+other.ID.String()+"/edits", workspace.Edits{Edits: demo.ByHand(truth, clip.ID, 0.3)}, 200, nil)
	// Both legs tracked throughout, for the curves.
	straight, _ := draw(t, nil)
	for _, x := range []struct {
		at    uuid.UUID
		clip  uuid.UUID
		truth simcam.Truth
	}{{sh.Attempt.ID, sh.Clips[0].ID, straight}, {other.ID, clip.ID, truth}} {
		all := points.All(x.truth, 0.3, 7)
		var edits []workspace.Edit
		for _, id := range []string{"left_hip", "left_knee", "left_ankle", "right_hip", "right_knee", "right_ankle"} {
			edits = append(edits, workspace.Edit{Kind: "track", Clip: &x.clip, Key: id, Value: workspace.Value(all[id])})
		}
		c.Do("POST", "/api/attempts/"+x.at.String()+"/edits", workspace.Edits{Base: sheet(c, x.at.String()).Work.Revision, Edits: edits}, 200, nil)
		c.Do("POST", "/api/clips/"+x.clip.String()+"/camera", nil, 200, nil)
	}
	s.Bench(h, sh.Attempt.ID)
	first := sheet(c, sh.Attempt.ID.String()).Work.Clips[sh.Clips[0].ID].Flags

	s.Keyboard.MustType(input.KeyY)
	s.See("[data-other='" + other.ID.String() + "']").MustClick()
	s.See("[data-testid=differences]")
	frame := func(side string) int {
		n, _ := strconv.Atoi(*s.See("[data-side=" + side + "]").MustAttribute("data-frame"))
		return n
	}
	s.Until(func() bool { return frame("first") == first["set"] && frame("second") == truth.Positions["set"] }, "it opens at the first position of both")
	s.Keyboard.MustType(input.ArrowDown)
	s.Until(func() bool { return frame("first") > first["set"] }, "the next position")
	s.Until(func() bool {
		f := frame("first")
		for id, x := range first {
			if x == f {
				return math.Abs(float64(frame("second")-truth.Positions[id])) <= 1
			}
		}
		return false
	}, "both stand at the same position")
	// What differs most leads there.
	rows := s.MustElements("[data-difference]")
	if len(rows) == 0 {
		t.Fatal("two unlike starts do not differ")
	}
	s.See("[data-difference=lean_to1]").MustClick()
	s.Until(func() bool { return frame("first") == first["to1"] }, "the difference leads to its frame")
	// True time: both run on by the same time.
	s.Choose("[aria-label='How the two are matched']", "true time, together at "+position(sh, "clear"))
	s.Until(func() bool { return frame("first") == first["clear"] && frame("second") == truth.Positions["clear"] }, "together at the clearance")
	for range 3 {
		s.Keyboard.MustType(input.ArrowRight)
	}
	s.Until(func() bool {
		return frame("first") == first["clear"]+3 && math.Abs(float64(frame("second")-truth.Positions["clear"]-3)) <= 1
	}, "the same time has passed in both")
	// A curve over the phases, each from 0 to 100 %.
	s.Choose("[aria-label='Curve over the phases']", "right knee")
	s.Until(func() bool { return s.MustHas("[data-curve=second]") }, "the curve is drawn")
	if n := len(s.MustElements("[data-testid=phases] [data-phase]")); n < 4 {
		t.Errorf("%d phases", n)
	}
	s.MustEval(`() => { const e = document.querySelector("[data-testid=phase-chart]"), r = e.getBoundingClientRect(); e.dispatchEvent(new MouseEvent("click", { bubbles: true, clientX: r.left + 2, clientY: r.top + 20 })); }`)
	s.Until(func() bool { return math.Abs(float64(frame("first")-first["set"])) <= 2 }, "a click on the curve leads to its frame")
	// One more: the simulated reference, without pictures.
	s.Choose("[aria-label='One more to compare']", "the simulated reference")
	s.See("[data-side=third]")
	s.Says("Simulated reference")
	s.See("[data-side=third] [data-testid=bones]")
	s.See("[aria-label='take the third away']").MustClick()
	s.Until(func() bool { return !s.MustHas("[data-side=third]") }, "it is taken away")
	s.See("[data-testid=ghost]").MustClick()
	s.Keyboard.MustType(input.KeyM)
	s.Until(func() bool {
		return strings.Contains(s.MustEval(`() => [...document.querySelectorAll("[data-side=second] > div")].map(e => getComputedStyle(e).transform).join(" ")`).Str(), "matrix(-1")
	}, "the second picture is turned round")
	s.Keyboard.MustType(input.Escape)
	s.See("[data-testid=saving]")
	// The reference as a partner of its own: what differs from the model without a fault.
	s.Keyboard.MustType(input.KeyY)
	s.See("[data-reference=model]").MustClick()
	s.See("[data-testid=differences]")
	s.Until(func() bool { return frame("first") == first["set"] }, "it opens at the first position")
	s.See("[data-side=second] [data-testid=bones]")
	s.Keyboard.MustType(input.Escape)
	s.See("[data-testid=saving]")
	// Different events are not held side by side.
	raw2, status := c.Try("GET", "/api/compare?a="+sh.Attempt.ID.String()+"&b="+c.AttemptAt("javelin", truth.Spec.Athlete).ID.String(), nil)
	if status != 422 || !strings.Contains(string(raw2), "different events") {
		t.Errorf("%d %s", status, raw2)
	}
}

func position(sh workspace.Workspace, id string) string {
	p, _ := sh.Model.Position(id)
	return p.Name
}

package e2e

import (
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"

	"neokinema/core/azimuth"
	"neokinema/core/evaluate"
	"neokinema/core/exchange"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// tracked is a draft of a throw with its ball followed, as edits.
func tracked(truth simcam.Truth, clip uuid.UUID) (out []workspace.Edit) {
	all := points.All(truth, 1.5, 7)
	if truth.Release != nil {
		all["ball"] = points.Ball(truth, 1, 7)
	}
	for id, p := range all {
		out = append(out, workspace.Edit{Kind: "track", Clip: &clip, Key: id, Value: workspace.Value(p)})
	}
	if release, ok := truth.Positions["release"]; ok {
		out = append(out, workspace.Edit{Kind: "flag", Clip: &clip, Key: "release", Value: workspace.Value(release)})
	}
	return out
}

// shown is the direction that the picture from above draws.
func shown(s *testenv.Screen, who string) float64 {
	v, err := strconv.ParseFloat(*s.See("[data-testid=circle] [data-who=" + who + "]").MustAttribute("data-az"), 64)
	if err != nil {
		s.T.Fatal(err)
	}
	return v
}

// TestAThrowFromAbove: a coach marks the circle by clicks and the throw is read in
// depth; the picture goes with the clip, in his language; a second clip makes it
// surer; it goes out as a file.
func TestAThrowFromAbove(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "haldane hammer back.mp4", tracked)
	defer s.Done()
	s.Keyboard.MustType(input.KeyI)
	s.See("[data-testid=above]")
	s.Says("the circle marked")
	s.Keyboard.MustType(input.Comma)
	s.See("[data-question=circle]")
	// The one that the picture shows is taken by a key, and given back.
	s.See("[data-testid=circle-seen]")
	s.Keyboard.MustType(input.Digit5)
	s.Until(func() bool { g := sheet(c, at.String()).Work.Clips[clip].Ground; return g != nil && len(g.Points) > 8 }, "the circle is taken")
	s.Until(func() bool { return !s.MustHas("[data-question=circle]") }, "the circle is no longer asked for")
	s.Keyboard.MustType(input.KeyU)
	s.See("[data-question=circle]")
	s.Button("mark its rim") // leads to the circle of this event
	marks := points.Circle(truth, 1, 3)
	named := map[string]string{"circle_left": "rim at the left dividing line", "circle_right": "rim at the right dividing line", "circle_back": "rim at the back", "circle_front": "rim at the front"}
	s.Jump(0)
	n := 0
	for _, m := range marks.Points {
		name, ok := named[m.Name]
		if !ok {
			continue
		}
		n++
		s.MustElementX(`//p[starts-with(normalize-space(.), "` + name + `")]/following-sibling::button[1]`).MustClick()
		s.See("[data-testid=tool]")
		s.Place(m.X, m.Y)
		s.Until(func() bool {
			g := sheet(c, at.String()).Work.Clips[clip].Ground
			return g != nil && len(g.Points) == n
		}, "%s is kept", name)
	}
	s.See("[data-testid=rim]").MustClick()
	for _, m := range marks.Points {
		if m.Rim > 0 {
			n++
			s.See("[data-testid=tool]")
			s.Place(m.X, m.Y)
			s.Until(func() bool { return len(sheet(c, at.String()).Work.Clips[clip].Ground.Points) == n }, "%d places are kept", n)
		}
	}
	s.Keyboard.MustType(input.Escape)
	away := s.See("[aria-label='camera to the middle of the circle, m, in paces is enough']")
	away.MustInput("0.2")
	s.Says("a camera stands 1 to 200 m away")
	away.MustSelectAllText().MustInput(strconv.FormatFloat(marks.Away, 'f', -1, 64))
	s.MustElement("[data-testid=ground]").MustClick()
	s.Until(func() bool { return sheet(c, at.String()).Work.Clips[clip].Ground.Away == marks.Away }, "the distance is kept")

	s.Keyboard.MustType(input.KeyI)
	s.See("[data-testid=turns] [data-turn='3']")
	if s.MustHas("[data-turn='4']") {
		t.Error("more turns than were thrown")
	}
	for _, id := range []string{"zero2", "high2", "catch2", "lift3"} {
		s.Jump(truth.Positions[id])
		s.Until(func() bool {
			return *s.See("[data-testid=circle]").MustAttribute("data-frame") == strconv.Itoa(truth.Positions[id])
		}, "the picture goes with the clip")
		a := truth.Frames[truth.Positions[id]].Azimuths
		for who, want := range map[string]float64{"ball": *a.Implement, "chest": a.Shoulders, "hips": a.Hips} {
			if d := math.Abs(math.Remainder(shown(s, who)-want, 360)); d > 15 || who == "ball" && d > 9 {
				t.Errorf("%s at %s is drawn %.0f degrees off", who, id, d)
			}
		}
	}
	s.See("[data-mark=catch2]").MustClick()
	s.Until(func() bool { return math.Abs(float64(s.Frame()-truth.Positions["catch2"])) <= 3 }, "the mark of the second catch leads to frame %d", truth.Positions["catch2"])
	pull := func() float64 {
		v, _ := strconv.ParseFloat(s.See("[data-turn='3'] td:nth-child(7)").MustText(), 64)
		return v
	}
	newtons := pull()
	s.Button("^kgf$")
	s.Until(func() bool { return math.Abs(pull()-newtons/9.80665) < 1.5 }, "%.0f N in kgf", newtons)
	s.Button("^N$")
	svg := s.MustEval(`async () => {
		const made = new Promise(done => { const make = URL.createObjectURL; URL.createObjectURL = b => { URL.createObjectURL = make; b.text().then(done); return make.call(URL, b); }; });
		[...document.querySelectorAll("[data-testid=above] button")].find(b => b.textContent === "SVG").click();
		return await made;
	}`).Str()
	if !strings.Contains(svg, "<svg") || strings.Contains(svg, "var(--") || !strings.Contains(svg, "throw 180°") {
		t.Errorf("the SVG: %.200s", svg)
	}

	// In the language of the coach.
	c.Do("PUT", "/api/me/directions", map[string]azimuth.Language{"directions": azimuth.ClockBack}, 204, nil)
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyI)
	s.See("[data-testid=circle]")
	s.Says("throw 6 o'clock")

	// A second clip of the same throw.
	raw, side, err := demo.Shipped("haldane hammer side.mp4")
	if err != nil {
		t.Fatal(err)
	}
	two := c.Imported(c.Upload(at, "side.mp4", raw, 1<<22))
	c.Do("PUT", "/api/clips/"+two.ID.String(), intake.ClipAnswers{CaptureRate: side.Spec.CaptureRate, View: "side", Direction: 1}, 200, nil)
	c.Do("POST", "/api/clips/"+two.ID.String()+"/camera", nil, 200, nil)
	c.Do("GET", "/api/attempts/"+at.String()+"/two-views", nil, 422, nil)
	edits := append(tracked(side, two.ID), workspace.Edit{Kind: "ground", Clip: &two.ID, Key: "marks", Value: workspace.Value(points.Circle(side, 1, 3))})
	c.Do("POST", "/api/attempts/"+at.String()+"/edits", workspace.Edits{Base: sheet(c, at.String()).Work.Revision, Edits: edits}, 200, nil)
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyI)
	s.Button("^read both together$")
	s.Says("lines of sight meet within")
	if says := s.See("[data-testid=joints]").MustText(); !strings.Contains(says, "left knee") || strings.Count(says, "±") < 20 || strings.Contains(says, "{") {
		t.Errorf("joints in space: %s", says)
	}
	space, status := c.Try("GET", "/api/attempts/"+at.String()+"/space.c3d", nil)
	take, err := exchange.ReadC3D(space)
	if err != nil || status != 200 || take.Units != "mm" || take.Rate != truth.Spec.CaptureRate {
		t.Fatalf("space as C3D: %d, %v, %+v", status, err, take.Units)
	}
	f := truth.Positions["catch2"]
	if i := slices.Index(take.Labels, "left_knee"); i < 0 || !take.Frames[f][i].Valid {
		t.Errorf("no left knee in the world at the second catch: %v", take.Labels)
	} else if q, w := take.Frames[f][i], truth.Frames[f].Landmarks["left_knee"].World; math.Hypot(math.Hypot(q.X-1000*w[0], q.Z-1000*w[1]), q.Y+1000*w[2]) > 80 {
		t.Errorf("the left knee is at %+v mm, truly %v m", q, w)
	}
	for _, id := range []string{"high2", "catch2", "zero3"} {
		s.Jump(truth.Positions[id])
		s.Until(func() bool {
			return math.Abs(math.Remainder(shown(s, "ball")-*truth.Frames[truth.Positions[id]].Azimuths.Implement, 360)) < 4
		}, "both clips together put the ball right at %s", id)
	}
	// With no position in common the clips are brought together by what they heard.
	sh := sheet(c, at.String())
	var blind []workspace.Edit
	for _, p := range sh.Model.Positions {
		blind = append(blind, workspace.Edit{Kind: "flag", Clip: &two.ID, Key: p.ID, Value: workspace.Value(evaluate.NotThere)})
	}
	c.Do("POST", "/api/attempts/"+at.String()+"/edits", workspace.Edits{Base: sh.Work.Revision, Edits: blind}, 200, nil)
	var heard evaluate.Stereo
	c.Do("GET", "/api/attempts/"+at.String()+"/two-views", nil, 200, &heard)
	if late := side.Start - truth.Start; heard.AlignedBy != "sound" || math.Abs(heard.Offset+late) > 0.5/120 {
		t.Errorf("by %s, %.4f s apart, truth %.4f", heard.AlignedBy, heard.Offset, -late)
	}
	c.Do("POST", "/api/attempts/"+at.String()+"/edits", workspace.Edits{Base: sheet(c, at.String()).Work.Revision, Edits: []workspace.Edit{{Kind: "flag", Clip: &two.ID, Key: "release", Value: workspace.Value(side.Positions["release"])}}}, 200, nil)
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyI)
	// From the side its release is read too.
	s.Button("^2 side$")
	s.See("[data-testid=worth]")
	got := sheet(c, at.String())
	for _, cl := range got.Clips {
		if cl.ID == two.ID {
			if r := reportOf(got, cl); r.Throw == nil || r.Throw.Release == nil || math.Abs(r.Throw.Release.Speed.Value/side.Release.Speed-1) > 0.05 {
				t.Errorf("release %+v, truth %.1f m/s", r.Throw, side.Release.Speed)
			}
		}
	}
}

func reportOf(sh workspace.Workspace, c store.Clip) report.Report {
	return evaluate.Attempt(sh.Model, sh.Input(c))
}

// TestADiscInTheAir: a coach clicks both ends of the disc frame by frame after the
// release and reads how it lies and wobbles, and what that costs; then he turns the
// middle of the sector by hand.
func TestADiscInTheAir(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "sunniva discus side.mp4", func(truth simcam.Truth, clip uuid.UUID) []workspace.Edit {
		return append(tracked(truth, clip), workspace.Edit{Kind: "ground", Clip: &clip, Key: "marks", Value: workspace.Value(points.Circle(truth, 1, 3))})
	})
	defer s.Done()
	a, b := points.Rims(truth, 0.7, 3)
	release := truth.Positions["release"]
	s.Keyboard.MustType(input.KeyI)
	s.Jump(release)
	s.See("[data-testid=click-ends]").MustClick()
	const frames = 18 // 75 ms
	for f := release; f < release+frames; f++ {
		for _, end := range []*track.Track{a, b} {
			p, _ := end.At(f)
			s.See("[data-testid=tool]")
			s.Until(func() bool { return s.Frame() == f }, "the stage goes on to frame %d", f)
			s.Place(p.X, p.Y)
		}
	}
	s.Keyboard.MustType(input.Escape)
	s.Until(func() bool { return sheet(c, at.String()).Work.Clips[clip].Points["rim_b"] != nil }, "the clicks are kept")
	s.Says("to either side")
	s.Says("Against its path")
	sh := sheet(c, at.String())
	got := reportOf(sh, sh.Clips[0]).Throw
	wobble, want := truth.Spec.Faults["wobble"], truth.Release.Attack-truth.Spec.Faults["wobble"]
	if got.Attitude == nil || got.Attitude.Wobble == nil || math.Abs(got.Attitude.Wobble.Value-wobble) > 3 || math.Abs(got.Attitude.Attack.Value-want) > 4 {
		t.Fatalf("%+v, truth: wobble %g, attack %.1f", got.Attitude, wobble, want)
	}
	if got.WobbleCost == nil || got.WobbleCost.Value <= 0.2 {
		t.Errorf("the wobble costs %+v", got.WobbleCost)
	}
	s.Says("That costs about")

	before := shown(s, "hips")
	s.Keyboard.MustType(input.KeyG)
	s.Button("Circle of discus")
	s.See("[data-testid=aim]").MustClick()
	s.See("[data-testid=tool]")
	// A place 2.5 m out and 30 degrees to the right of the middle.
	m := truth.Frames[0].Camera
	row := func(i int) float64 {
		return m[i][0]*2.5*math.Cos(math.Pi/6) + m[i][2]*2.5*math.Sin(math.Pi/6) + m[i][3]
	}
	s.Place(row(0)/row(2), row(1)/row(2))
	s.Until(func() bool { return sheet(c, at.String()).Work.Clips[clip].Ground.Aim != nil }, "the aim is kept")
	s.Says("middle of the sector, set by hand")
	s.Keyboard.MustType(input.KeyI)
	s.Until(func() bool { return math.Abs(math.Remainder(shown(s, "hips")-before, 360)) > 20 }, "directions count from the new middle")
	if turned := math.Remainder(shown(s, "hips")-before, 360); math.Abs(math.Abs(turned)-30) > 4 {
		t.Errorf("30 degrees by hand turned directions by %.1f", turned)
	}
	s.Keyboard.MustType(input.KeyG)
	s.See("[aria-label='forget the middle of the sector']").MustClick()
	s.Until(func() bool { return sheet(c, at.String()).Work.Clips[clip].Ground.Aim == nil }, "the aim is gone")
}

// A rate that was answered wrongly is doubted for the steps of the runner, and put right by a
// click.
func TestARunTellsTheRateOfItsCamera(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "yusra easy.mp4", tracked)
	defer s.Done()
	c.Do("PUT", "/api/clips/"+clip.String(), intake.ClipAnswers{CaptureRate: 8 * truth.Spec.CaptureRate, View: truth.Spec.View(), Direction: truth.Spec.Direction}, 200, nil)
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyC)
	s.See("[data-testid=rate-hint]")
	s.Says("steps come as fast as anybody")
	s.MustElement("[data-testid=rate-hint] button").MustClick()
	s.Says("(your answer)")
	s.Until(func() bool { return !s.MustHas("[data-testid=rate-hint]") }, "the hint goes")
	if r := sheet(c, at.String()).Report(); r.RateHint != nil {
		t.Errorf("after the answer it is still %+v", r.RateHint)
	}
}

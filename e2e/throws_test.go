package e2e

import (
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"

	"neokinema/core/azimuth"
	"neokinema/core/technique"
	"neokinema/e2e/house"
	"neokinema/internal/bench"
	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/store"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// tracked is a draft of a throw with its ball followed, as edits.
func tracked(truth simcam.Truth, clip uuid.UUID) (out []bench.Edit) {
	all := points.All(truth, 1.5, 7)
	all["ball"] = points.Ball(truth, 1, 7)
	for id, p := range all {
		out = append(out, bench.Edit{Kind: "track", Clip: &clip, Key: id, Value: bench.Value(p)})
	}
	return append(out, bench.Edit{Kind: "flag", Clip: &clip, Key: "release", Value: bench.Value(truth.Positions["release"])})
}

// shown is the direction that the picture from above draws.
func shown(s *house.Screen, who string) float64 {
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
	c, s, at, clip, truth := run(t, "haldane hammer back.mp4", tracked)
	defer s.Done()
	s.Keyboard.MustType(input.KeyI)
	s.See("[data-testid=above]")
	s.Says("the circle marked")
	s.Keyboard.MustType(input.KeyG)
	s.Button("Circle of shot, hammer, weight")
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
	away := s.See("[aria-label='metres from the camera to the middle of the circle']")
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
	if f := s.Frame(); math.Abs(float64(f-truth.Positions["catch2"])) > 3 {
		t.Errorf("the mark of the second catch leads to frame %d, truth %d", f, truth.Positions["catch2"])
	}
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
	c.Do("GET", "/api/attempts/"+at.String()+"/both", nil, 422, nil)
	edits := append(tracked(side, two.ID), bench.Edit{Kind: "ground", Clip: &two.ID, Key: "marks", Value: bench.Value(points.Circle(side, 1, 3))})
	c.Do("POST", "/api/attempts/"+at.String()+"/edits", bench.Edits{Base: sheet(c, at.String()).Work.Revision, Edits: edits}, 200, nil)
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyI)
	s.Button("^read both together$")
	s.Says("lines of sight meet within")
	for _, id := range []string{"high2", "catch2", "zero3"} {
		s.Jump(truth.Positions[id])
		s.Until(func() bool {
			return math.Abs(math.Remainder(shown(s, "ball")-*truth.Frames[truth.Positions[id]].Azimuths.Implement, 360)) < 4
		}, "both clips together put the ball right at %s", id)
	}
	// From the side its release is read too.
	s.Button("^2 side$")
	s.See("[data-testid=worth]")
	got := sheet(c, at.String())
	for _, cl := range got.Clips {
		if cl.ID == two.ID {
			if r := report(got, cl); r.Throw == nil || r.Throw.Leaving == nil || math.Abs(r.Throw.Leaving.Speed.X/side.Release.Speed-1) > 0.05 {
				t.Errorf("release %+v, truth %.1f m/s", r.Throw, side.Release.Speed)
			}
		}
	}
}

func report(sh bench.Sheet, c store.Clip) technique.Report {
	return technique.Evaluate(sh.Model, sh.Input(c))
}

package e2e

import (
	"encoding/json"
	"math"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"

	"neokinema/internal/demo"
	"neokinema/internal/intake"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// run gives a coach with a clip of the demo on the Bench.
func run(t *testing.T, name string, edits func(simcam.Truth, uuid.UUID) []workspace.Edit) (*testenv.Client, *testenv.Screen, uuid.UUID, uuid.UUID, simcam.Truth) {
	t.Helper()
	raw, truth, err := demo.Shipped(name)
	if err != nil {
		t.Fatal(err)
	}
	c := h.Coach(t)
	at := c.AttemptAt(truth.Event, truth.Spec.Athlete)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, 1<<22))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: truth.Spec.View(), Direction: truth.Spec.Direction}, 200, nil)
	if edits != nil {
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: edits(truth, clip.ID)}, 200, nil)
		c.Do("POST", "/api/clips/"+clip.ID.String()+"/camera", nil, 200, nil)
	}
	s := h.Screen(t, browser, c)
	s.Bench(h, at.ID)
	return c, s, at.ID, clip.ID, truth
}

func saved(s *testenv.Screen) {
	s.T.Helper()
	s.Until(func() bool { return s.See("[data-testid=saving]").MustText() == "saved" }, "all is saved")
}

// TestDraftFromBoxToScore drafts a panning run with the pose model, closes the tab
// in the middle, takes the rest up again, and reads contacts off the score.
func TestDraftFromBoxToScore(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "yusra easy.mp4", nil)
	s.Keyboard.MustType(input.KeyT)
	// The subject box, drawn about the athlete.
	s.Button("box around the athlete")
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), 0.0, 0.0
	for _, l := range truth.Frames[0].Landmarks {
		x0, y0, x1, y1 = math.Min(x0, l.Image[0]), math.Min(y0, l.Image[1]), math.Max(x1, l.Image[0]), math.Max(y1, l.Image[1])
	}
	s.Over(x0-15, y0-25)
	s.Mouse.MustDown(proto.InputMouseButtonLeft)
	s.Over((x0+x1)/2, (y0+y1)/2)
	s.Over(x1+15, y1+10)
	s.Mouse.MustUp(proto.InputMouseButtonLeft)
	s.Button("box in frame 0")
	s.Keyboard.MustType(input.Escape)
	// Every fourth frame is enough here; the path closes the gaps.
	s.Button("1 in 4")
	s.See("[data-testid=draft]").MustClick()
	s.Until(func() bool { return strings.Contains(s.See("[data-testid=draft-progress]").MustText(), "to go") }, "the time that is left is told")
	count := func() int {
		p := sheet(c, at.String()).Work.Clips[clip].Points["right_knee"]
		if p == nil {
			return 0
		}
		return p.Count()
	}
	s.Until(func() bool { return count() >= 3 }, "a first batch is saved")
	half := count()
	s.MustClose()

	// Another day: the rest is taken up where it was left.
	s = h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyT)
	s.Button("1 in 4")
	s.See("[data-testid=draft]")
	if text := s.See("[data-testid=draft]").MustText(); !strings.Contains(text, "the other") {
		t.Errorf("after %d frames the button says %q", half, text)
	}
	if err := s.DraftAll(6 * time.Minute); err != nil {
		t.Fatal(err)
	}
	sh := sheet(c, at.String())
	if n := count(); n < len(truth.Frames)/4 || sh.Clips[0].Camera == nil || len(sh.Clips[0].Camera.Turns) == 0 {
		t.Fatalf("%d frames drafted, camera %v", n, sh.Clips[0].Camera)
	}
	var off []float64
	for f := 0; f < len(truth.Frames); f += 4 {
		p, ok := sh.Work.Clips[clip].Points.At("right_knee", f)
		if w := truth.Frames[f].Landmarks["right_knee"].Image; ok {
			off = append(off, math.Hypot(p.X-w[0], p.Y-w[1]))
		}
	}
	if m := median(off); m > 8 {
		t.Errorf("the near knee is %.1f px off in the middle of all frames", m)
	}
	// The tool flags what it found, and counts the steps.
	s.See("[data-flag=td2][data-by=tool]")
	s.See("[data-testid=bones]")
	// Toe-offs are not sure enough from every fourth frame; touchdowns are.
	s.See("[data-flag=td4][data-by=tool]")
	// The whole draft is one change.
	s.Keyboard.MustType(input.KeyU)
	s.Until(func() bool { return count() <= half }, "the draft is undone as a whole")
}

func median(v []float64) float64 {
	if len(v) == 0 {
		return math.NaN()
	}
	for i := range v {
		for k := i; k > 0 && v[k] < v[k-1]; k-- {
			v[k], v[k-1] = v[k-1], v[k]
		}
	}
	return v[len(v)/2]
}

// laid is a draft with wild points in it, as edits.
func laid(truth simcam.Truth, clip uuid.UUID) (out []workspace.Edit) {
	for id, p := range points.All(truth, 1, 7) {
		if id == "right_wrist" {
			p.X[40] += 70
		}
		if id == "left_knee" {
			p.Y[90] -= 60
		}
		out = append(out, workspace.Edit{Kind: "track", Clip: &clip, Key: id, Value: workspace.Value(p)})
	}
	return out
}

// TestCorrectADraft goes to doubtful points by key, drags them with their
// neighbours, works on a range, and takes all back.
func TestCorrectADraft(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "yusra easy.mp4", laid)
	defer s.Done()
	s.Keyboard.MustType(input.KeyT)
	s.Until(func() bool { return strings.Contains(s.Text(), "points of the draft are less sure") }, "doubts are counted")
	s.Jump(30)
	s.Keyboard.MustType(input.KeyV)
	s.Until(func() bool { return s.Frame() == 40 }, "the next doubtful point is shown")
	point := func(id string, f int) [2]float64 {
		p, _ := sheet(c, at.String()).Work.Clips[clip].Points.At(id, f)
		return [2]float64{p.X, p.Y}
	}
	drag := func(id string, f int, to [2]float64) {
		p := point(id, f)
		s.Over(p[0], p[1])
		s.Mouse.MustDown(proto.InputMouseButtonLeft)
		s.Over((p[0]+to[0])/2, (p[1]+to[1])/2)
		s.Over(to[0], to[1])
		s.Mouse.MustUp(proto.InputMouseButtonLeft)
		saved(s)
	}
	true40 := truth.Frames[40].Landmarks["right_wrist"].Image
	drag("right_wrist", 40, true40)
	if p := point("right_wrist", 40); math.Hypot(p[0]-true40[0], p[1]-true40[1]) > 3 {
		t.Errorf("the wrist was let go at %v, wanted %v", p, true40)
	}
	// Neighbours come along: the ankle is pulled up by 20 px in frame 60.
	s.Jump(60)
	before, ankle := point("right_ankle", 62), point("right_ankle", 60)
	drag("right_ankle", 60, [2]float64{ankle[0], ankle[1] - 20})
	if after := point("right_ankle", 62); before[1]-after[1] < 8 || before[1]-after[1] > 19 {
		t.Errorf("two frames on the ankle moved by %.1f px", before[1]-after[1])
	}
	if far := point("right_ankle", 70); math.Abs(far[1]-truth.Frames[70].Landmarks["right_ankle"].Image[1]) > 5 {
		t.Error("ten frames on the ankle moved too")
	}
	// A stretch: swap sides, and take it back.
	s.MustEval(`() => window.neokinema.player.setLoop([100, 110])`)
	l, r := point("left_ankle", 105), point("right_ankle", 105)
	s.Button("swap sides")
	saved(s)
	if p := point("left_ankle", 105); p != r {
		t.Errorf("after swapping the left ankle is at %v, the right was at %v", p, r)
	}
	s.Keyboard.MustType(input.KeyU)
	s.Until(func() bool { return point("left_ankle", 105) == l }, "the swap is undone")
	hip := point("right_hip", 105)
	s.Keyboard.MustType(input.Key('S'))
	s.Until(func() bool { return point("left_ankle", 105) == r && point("left_hip", 105) == hip }, "the leg changes sides by its key")
	s.Keyboard.MustType(input.KeyU)
	s.Until(func() bool { return point("left_ankle", 105) == l }, "the swap is undone again")
	// Delete the stretch and fill the gap.
	s.Button("^delete$")
	s.Until(func() bool {
		_, ok := sheet(c, at.String()).Work.Clips[clip].Points.At("right_ankle", 105)
		return !ok
	}, "the stretch is deleted")
	s.Button("fill gaps")
	s.Until(func() bool {
		p, ok := sheet(c, at.String()).Work.Clips[clip].Points.At("right_ankle", 105)
		return ok && p.Source == "filled"
	}, "the gap is filled")
}

// TestScoreZoomsAndGoesOut: curves, zoom by key and wheel, dragging a found flag,
// and the score as a file.
func TestScoreZoomsAndGoesOut(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "yusra easy.mp4", laid)
	defer s.Done()
	s.See("[data-testid=staves]").MustClick()
	s.See("[data-curve='angle:right_knee']").MustClick()
	s.See("[data-curve='height:centre']").MustClick()
	s.See("[data-lane='angle:right_knee']")
	s.See("[data-lane='height:centre']")
	s.See("[data-testid=staves]").MustClick()
	span := func() float64 {
		from, to, _ := strings.Cut(*s.See("[data-testid=score]").MustAttribute("data-span"), " ")
		a, _ := strconv.ParseFloat(from, 64)
		b, _ := strconv.ParseFloat(to, 64)
		return b - a
	}
	whole := span()
	s.Jump(100)
	s.MustEval(`() => document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "+", bubbles: true}))`)
	s.Until(func() bool { return span() < 0.7*whole }, "the score is zoomed")
	s.MustEval(`() => document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "0", bubbles: true}))`)
	s.Until(func() bool { return math.Abs(span()-whole) < 1e-6 }, "all of it is shown")
	// A flag that the tool found becomes the coach's when it is dragged.
	box := s.See("[data-flag=td2][data-by=tool]").MustShape().Box()
	s.Mouse.MustMoveTo(box.X+2, box.Y+6)
	s.Mouse.MustDown(proto.InputMouseButtonLeft)
	s.Mouse.MustMoveTo(box.X+10, box.Y+6)
	s.Mouse.MustMoveTo(box.X+20, box.Y+6)
	s.Mouse.MustUp(proto.InputMouseButtonLeft)
	s.See("[data-flag=td2][data-by=coach]")
	saved(s)
	f, ok := sheet(c, at.String()).Work.Clips[clip].Flags["td2"]
	if !ok || f <= truth.Positions["td2"] || f > truth.Positions["td2"]+12 {
		t.Errorf("td2 is flagged at %d, true is %d", f, truth.Positions["td2"])
	}
	// The drawing as a file: whole, with its colours, and readable by itself.
	svg := s.MustEval(`async () => {
		document.querySelector("[data-testid=staves]").click();
		const made = new Promise(done => { const make = URL.createObjectURL; URL.createObjectURL = b => { URL.createObjectURL = make; b.text().then(done); return make.call(URL, b); }; });
		await new Promise(r => setTimeout(r, 100));
		[...document.querySelectorAll("button")].find(b => b.textContent === "SVG").click();
		return await made;
	}`).Str()
	if !strings.Contains(svg, "<svg") || strings.Contains(svg, "var(--") || !strings.Contains(svg, "right foot") {
		t.Errorf("the SVG: %.200s", svg)
	}
}

// TestMarksOnThePicture: a pin, a plumb line and a should-be, measured and kept;
// the should-be becomes the target of the cue and the feedback shows it.
func TestMarksOnThePicture(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "yusra easy.mp4", laid)
	defer s.Done()
	s.Keyboard.MustType(input.KeyJ)
	frame := truth.Positions["td2"]
	s.Jump(frame)
	place := func(id string) [2]float64 {
		p, _ := sheet(c, at.String()).Work.Clips[clip].Points.At(id, frame)
		return [2]float64{p.X, p.Y}
	}
	knee := place("right_knee")
	s.See("[data-show=pin]").MustClick()
	s.Place(knee[0], knee[1])
	s.See("[data-mark=pin]")
	saved(s)
	// Six frames on the knee has left, by what the truth says.
	s.Jump(frame + 6)
	shows := sheet(c, at.String()).Work.Clips[clip].Annotations
	if len(shows) != 1 {
		t.Fatalf("%d marks", len(shows))
	}
	a, b := truth.Frames[frame].Landmarks["right_knee"].World, truth.Frames[frame+6].Landmarks["right_knee"].World
	want := 100 * math.Hypot(b[0]-a[0], b[1]-a[1])
	s.Until(func() bool {
		text := s.See("[data-testid=shown]").MustText()
		v, err := strconv.ParseFloat(strings.Fields(text)[0], 64)
		return err == nil && math.Abs(v-want) < 0.12*want+2
	}, "the pin says about %.0f cm", want)
	s.Says("Since frame")
	// Where the trunk should be: the shoulder is dragged forward about the hip. The
	// frame is a key position, so that the next clip can be compared.
	s.Jump(frame)
	shoulder := place("right_shoulder")
	s.See("[data-show='should be']").MustClick()
	s.Over(shoulder[0], shoulder[1])
	s.Mouse.MustDown(proto.InputMouseButtonLeft)
	s.Over(shoulder[0]+20, shoulder[1])
	s.Over(shoulder[0]+40, shoulder[1]+4)
	s.Mouse.MustUp(proto.InputMouseButtonLeft)
	s.See("[data-mark=should]")
	saved(s)
	c.Do("POST", "/api/attempts/"+at.String()+"/edits", workspace.Edits{Base: sheet(c, at.String()).Work.Revision, Edits: []workspace.Edit{{Kind: "flag", Clip: &clip, Key: "td2", Value: workspace.Value(frame)}}}, 200, nil)
	s.MustReload()
	s.See("canvas[data-frame]")
	s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() }, "the core is loaded")
	s.Keyboard.MustType(input.KeyJ)
	s.Button("make it the target")
	s.Says("The main cue now aims at")
	saved(s)
	advice := sheet(c, at.String()).Work.Advice["main"]
	if advice.Checkpoint == nil || advice.Checkpoint.Position != "td2" || advice.Target != "should" {
		t.Errorf("advice: %+v", advice)
	}
	var page struct{ Stills []struct{ Position string } }
	if err := json.Unmarshal(c.Do("GET", "/api/attempts/"+at.String()+"/feedback", nil, 200, nil), &page); err != nil {
		t.Fatal(err)
	}
	var titles []string
	for _, st := range page.Stills {
		titles = append(titles, st.Position)
	}
	if all := strings.Join(titles, "; "); !strings.Contains(all, "Pinned: right knee") || !strings.Contains(all, "Where it should be: right shoulder") {
		t.Errorf("stills: %s", all)
	}
}

// TestGroundAndFollowing: places of a template clicked with the error shown live,
// and a point followed until it is lost.
func TestGroundAndFollowing(t *testing.T) {
	t.Parallel()
	c, s, at, clip, truth := run(t, "pim shot.mp4", nil)
	defer s.Done()
	s.Keyboard.MustType(input.KeyT)
	s.Jump(30)
	spot := truth.Frames[30].Landmarks["right_ankle"].Image
	s.Button("^spot a$")
	s.See("[data-testid=follow]").MustClick()
	s.See("[data-testid=tool]")
	s.Place(spot[0], spot[1])
	s.Until(func() bool { has, _, _ := s.Has("[data-testid=follow-says]"); return has }, "the tracker came to an end")
	saved(s)
	tr := sheet(c, at.String()).Work.Clips[clip].Points["spot_a"]
	if tr == nil || tr.Count() < 10 {
		t.Fatalf("the spot was followed over %v", tr)
	}
	p, _ := tr.At(38)
	if w := truth.Frames[38].Landmarks["right_ankle"].Image; p.Source != "tracked" || math.Hypot(p.X-w[0], p.Y-w[1]) > 6 {
		t.Errorf("frame 38: %+v, truth %v", p, w)
	}
	s.Keyboard.MustType(input.Escape)
	s.Keyboard.MustType(input.KeyG)
	s.Button("Places of your own")
	ground := [][2]float64{{0, 0}, {2, 0}, {2, 1}, {0, 1}}
	for i, g := range ground {
		s.See("[aria-label='metres along']").MustSelectAllText().MustInput(strconv.Itoa(int(g[0])))
		s.See("[aria-label='metres to the right']").MustSelectAllText().MustInput(strconv.Itoa(int(g[1])))
		s.Button("^click$")
		s.See("[data-testid=tool]")
		s.Place(420+180*g[0]+30*g[1], 560+60*g[1])
		s.Until(func() bool {
			g := sheet(c, at.String()).Work.Clips[clip].Ground
			return g != nil && len(g.Points) == i+1
		}, "place %d is kept", i+1)
	}
	s.See("[data-testid=ground-error]")
	if r := sheet(c, at.String()).Report(); r.Ground == nil || r.Ground.ErrorPx > 1 {
		t.Errorf("ground: %+v", r.Ground)
	}
}

// A model that cannot be fetched is told, and the work before it stays.
func TestDraftWhenTheModelCannotBeLoaded(t *testing.T) {
	t.Parallel()
	_, s, at, _, _ := run(t, "pim shot.mp4", nil)
	defer s.Done()
	h := h.Door(t)
	s.Bench(h, at)
	s.Keyboard.MustType(input.KeyT)
	s.See("[data-testid=draft]")
	h.Cut()
	s.See("[data-testid=draft]").MustClick()
	s.Says("could not be")
	s.See("[data-testid=draft]")
}

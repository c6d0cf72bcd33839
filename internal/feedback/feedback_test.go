package feedback

import (
	"bytes"
	"compress/zlib"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/internal/paper"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam/study"
)

func ptr(v float64) *float64 { return &v }

func TestNumbersAreNoFinerThanTheirDoubt(t *testing.T) {
	for _, c := range []struct {
		v    uncertainty.Estimate
		unit string
		want string
	}{
		{uncertainty.Estimate{Value: 92.34, Half95: 4.2}, "°", "92° ±4"},
		{uncertainty.Estimate{Value: 39.64, Half95: 0.66}, "°", "39.6° ±0.7"},
		{uncertainty.Estimate{Value: -12.3, Half95: 2}, "cm", "−12 cm ±2"},
		{uncertainty.Estimate{Value: 345.83, Half95: 4.17}, "ms", "346 ms ±4"},
		{uncertainty.Estimate{Value: 1.5}, "strides", "1.5 strides"},
		{uncertainty.Estimate{Value: -12}, "°", "−12°"},
		{uncertainty.Estimate{Value: -0.3, Half95: 10}, "°", "0° ±10"},
	} {
		if got := Number(c.v, c.unit); got != c.want {
			t.Errorf("%+v: %q, want %q", c.v, got, c.want)
		}
	}
}

func TestGoals(t *testing.T) {
	for want, cp := range map[string]model.Checkpoint{
		"85 to 100°":      {Unit: "°", Band: uncertainty.Band{Lo: ptr(85), Hi: ptr(100)}},
		"at most 0 cm":    {Unit: "cm", Band: uncertainty.Band{Hi: ptr(0)}},
		"at least 100 ms": {Unit: "ms", Band: uncertainty.Band{Lo: ptr(100)}},
		"−4 to 9 cm":      {Unit: "cm", Band: uncertainty.Band{Lo: ptr(-4), Hi: ptr(9)}},
		"yes":             {},
	} {
		if got := Goal(cp); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// TestCropKeepsTheAthlete: every placed point lies inside, the crop inside the
// picture, 4 to 3, and at least a standing height high.
func TestCropKeepsTheAthlete(t *testing.T) {
	for _, at := range [][]track.Point{{{X: 300, Y: 600}}, {{X: 5, Y: 700}, {X: 250, Y: 400}}, {{X: 1270, Y: 20}, {X: 900, Y: 710}}, {{X: 640, Y: 360}, {X: 700, Y: 300}}} {
		points := kinematics.Points{}
		for i, p := range at {
			p.Source = "hand"
			tr := track.New(1)
			_ = tr.Set(7, &p)
			points[fmt.Sprint(i)] = tr
		}
		c := crop(points, 7, 400, 1280, 720)
		if math.Abs(c[2]/c[3]-4.0/3) > 1e-9 || c[0] < 0 || c[1] < 0 || c[0]+c[2] > 1280+1e-9 || c[1]+c[3] > 720+1e-9 {
			t.Errorf("%v: crop %v leaves the picture", at, c)
		}
		if c[3] < 400 && c[3] < 719 {
			t.Errorf("%v: crop %v is lower than the athlete", at, c)
		}
		for _, p := range at {
			if wide := math.Abs(at[0].X-at[len(at)-1].X) > c[2]; !wide && (p.X < c[0] || p.X > c[0]+c[2] || p.Y < c[1] || p.Y > c[1]+c[3]) {
				t.Errorf("%v lies outside %v", p, c)
			}
		}
	}
	if c := crop(kinematics.Points{}, 3, 0, 640, 480); c != [4]float64{0, 0, 640, 480} {
		t.Errorf("no points: %v", c)
	}
}

func sheetWith(t *testing.T, edit func(*workspace.Workspace, uuid.UUID)) workspace.Workspace {
	t.Helper()
	m, err := models.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	id := uuid.New()
	stamps := make([]int64, 200)
	for i := range stamps {
		stamps[i] = int64(i) * 3000
	}
	sh := workspace.Workspace{Model: m, Clips: []store.Clip{{ID: id, State: "ready", View: "side", Direction: 1, Width: 1280, Height: 720, FileRate: 30, CaptureRate: 240, Stamps: stamps}},
		Athlete: store.Athlete{NewAthlete: store.NewAthlete{Name: "Åsa Ñandú", Height: 1.7, Sex: "female", FrontLeg: "left"}},
		Work:    workspace.Work{Clips: map[uuid.UUID]workspace.ClipWork{id: {Flags: map[string]int{}, Points: kinematics.Points{}}}, Answers: map[string]evaluate.Judgement{}, Findings: map[string]string{}, Advice: map[string]store.Advice{}}}
	edit(&sh, id)
	return sh
}

func TestAnEmptyPageSaysWhatItLacks(t *testing.T) {
	p := Build(sheetWith(t, func(*workspace.Workspace, uuid.UUID) {}))
	if len(p.Lacks) != 2 || len(p.Stills) != 0 || len(p.Cautions) == 0 {
		t.Errorf("%+v", p)
	}
	none := sheetWith(t, func(sh *workspace.Workspace, _ uuid.UUID) { sh.Clips = nil })
	if p := Build(none); p.ClipID != nil {
		t.Errorf("a page without a clip: %+v", p)
	}
}

func TestOnlyAcceptedFaultsAreTold(t *testing.T) {
	sh := sheetWith(t, func(sh *workspace.Workspace, id uuid.UUID) {
		sh.Work.Answers["heel_gap"] = evaluate.Judgement{Answer: "no"}
		sh.Work.Answers["swing_height"] = evaluate.Judgement{Answer: "no"}
		sh.Work.Findings["S3"] = "accepted"
		sh.Work.Findings["S4"] = "refused"
		sh.Work.Advice["main"] = store.Advice{Fault: "S3", Words: "Shove", Target: "rear_share", Drill: model.Drill{Name: "Rise", Dose: model.Dose{Says: "5"}, Feel: "Tight"}}
		sh.Work.Note = "Well done"
	})
	p := Build(sh)
	if len(p.Faults) != 1 || p.Faults[0].ID != "S3" || !p.Faults[0].First || p.Faults[0].Shows[0] != "rear heel on its pedal: seen by the coach" {
		t.Errorf("%+v", p.Faults)
	}
	if len(p.Targets) != 1 || p.Targets[0].Now != "not measured" || p.Targets[0].Goal != "at least 35 %" {
		t.Errorf("%+v", p.Targets)
	}
	var out bytes.Buffer
	if err := WritePDF(context.Background(), &out, p, paper.A4, nil); err != nil || !bytes.HasPrefix(out.Bytes(), []byte("%PDF-")) {
		t.Errorf("%v, %d bytes", err, out.Len())
	}
}

// What the tool was not sure of, or did not see, is told when the coach says so.
func TestTheCoachsOwnFaultsAreTold(t *testing.T) {
	p := Build(sheetWith(t, func(sh *workspace.Workspace, _ uuid.UUID) {
		sh.Work.Answers["heel_gap"] = evaluate.Judgement{Answer: "partly", Note: "only on the left"}
		sh.Work.Findings["S3"] = "accepted" // likely
		sh.Work.Findings["S8"] = "accepted" // seen by the coach alone
		sh.Work.Findings["S4"] = "refused"
	}))
	if len(p.Faults) != 2 || p.Faults[0].ID != "S3" || p.Faults[1].ID != "S8" {
		t.Fatalf("%+v", p.Faults)
	}
	if p.Faults[0].Shows[0] != "rear heel on its pedal: seen by the coach" || p.Faults[1].Shows[0] != "seen by the coach" {
		t.Errorf("%v, %v", p.Faults[0].Shows, p.Faults[1].Shows)
	}
}

func TestPDFOfManyStillsRunsOverPages(t *testing.T) {
	img := image.NewRGBA(image.Rect(0, 0, 640, 360))
	img.Set(3, 3, color.White)
	var pic bytes.Buffer
	if err := jpeg.Encode(&pic, img, nil); err != nil {
		t.Fatal(err)
	}
	p := Page{Athlete: store.Athlete{NewAthlete: store.NewAthlete{Name: "Łukasz Ωmega Жук"}}}
	for i := range 6 {
		p.Stills = append(p.Stills, Still{Position: "Set", View: []string{"", "back"}[i%2], Picture: [2]int{1280, 720}, Frame: i, Crop: [4]float64{100, 100, 800, 600}, Values: []string{"knee 92° ±4"},
			Lines: []Stroke{{At: [][2]float64{{200, 200}, {300, 300}, {250, 500}}, Label: "92° ±4", Vertex: 1, Side: []string{"left", "right", ""}[i%3]}}})
	}
	for range 60 {
		p.Keep = append(p.Keep, strings.Repeat("a long line of praise ", 5))
	}
	asked := 0
	var out bytes.Buffer
	err := WritePDF(context.Background(), &out, p, paper.Letter, func(context.Context, uuid.UUID, int) ([]byte, error) { asked++; return pic.Bytes(), nil })
	if err != nil || asked != 6 || bytes.Count(out.Bytes(), []byte("/Type /Page\n")) < 2 {
		t.Errorf("%v, %d stills asked, %d bytes", err, asked, out.Len())
	}
	saves, restores := graphicsStates(t, out.Bytes())
	if saves == 0 || saves != restores {
		t.Errorf("%d graphics states saved, %d restored: what follows would be clipped away", saves, restores)
	}
	err = WritePDF(context.Background(), &out, p, paper.A4, func(context.Context, uuid.UUID, int) ([]byte, error) { return nil, fmt.Errorf("disk gone") })
	if err == nil {
		t.Error("a page without its stills was made")
	}
}

// graphicsStates counts the q and Q operators of all page contents.
func graphicsStates(t *testing.T, pdf []byte) (saves, restores int) {
	t.Helper()
	for _, m := range regexp.MustCompile(`(?s)stream\n(.*?)\nendstream`).FindAllSubmatch(pdf, -1) {
		r, err := zlib.NewReader(bytes.NewReader(m[1]))
		if err != nil {
			continue // a picture or a font
		}
		raw, err := io.ReadAll(r)
		if err != nil || !bytes.Contains(raw, []byte(" Tf")) {
			continue
		}
		raw = regexp.MustCompile(`(?s)\((?:\\.|[^\\)])*\)`).ReplaceAll(raw, nil) // texts
		saves += len(regexp.MustCompile(`(?m)(?:^|\s)q\s`).FindAll(raw, -1))
		restores += len(regexp.MustCompile(`(?m)(?:^|\s)Q(?:\s|$)`).FindAll(raw, -1))
	}
	return saves, restores
}

// seenBy makes an attempt of its clips' inputs.
func seenBy(m model.Model, inputs ...evaluate.Input) workspace.Workspace {
	who := inputs[0].Athlete
	sh := workspace.Workspace{Model: m, Age: who.Age, Athlete: store.Athlete{NewAthlete: store.NewAthlete{Name: "Mira Tall", Height: who.Height, Mass: who.Mass, Sex: who.Sex, FrontLeg: who.FrontLeg, ThrowingHand: who.ThrowingHand, TakeoffLeg: who.TakeoffLeg}},
		Work: workspace.Work{Clips: map[uuid.UUID]workspace.ClipWork{}, Answers: map[string]evaluate.Judgement{}, Findings: map[string]string{}, Advice: map[string]store.Advice{}}}
	for _, in := range inputs {
		c := store.Clip{ID: uuid.New(), State: "ready", View: in.Clip.View, Direction: in.Clip.Direction, Width: in.Clip.Width, Height: in.Clip.Height, FileRate: in.Clip.FileRate, CaptureRate: in.Clip.CaptureRate, Stamps: in.Clip.Stamps, Camera: in.Camera}
		sh.Clips = append(sh.Clips, c)
		sh.Work.Clips[c.ID] = workspace.ClipWork{Flags: in.Flags, Points: in.Points, Ground: in.Ground}
	}
	return sh
}

// The page of an attempt with two clips shows stills of both, each with what is read from it.
func TestThePageShowsBothViews(t *testing.T) {
	list, err := study.Draw(study.Build, 1, 0)
	if err != nil {
		t.Fatal(err)
	}
	a := list[slices.IndexFunc(list, func(a study.Attempt) bool { return a.Model.ID == "long-jump" })]
	b, err := a.Beside(a.Other())
	if err != nil {
		t.Fatal(err)
	}
	sh := seenBy(a.Model, a.Input(study.White, true), b.Input(study.White, true))
	all := sh.Joined()
	// Each clip is told by the other, at no offset: both begin with the movement.
	told := sh.Companions()
	for i, c := range sh.Clips {
		list := told[c.ID.String()]
		if len(list) != 1 || list[0].Clip != sh.Clips[1-i].ID.String() || list[0].Problem != "" || list[0].Offset == nil {
			t.Fatalf("%s is told %+v", c.View, list)
		}
		if o := list[0].Offset; math.Abs(o.Seconds) > 0.02 || len(o.By) < 2 {
			t.Errorf("%s: offset %+v", c.View, o)
		}
		if k, ok := sh.Clip(c.ID); !ok || k.View != c.View {
			t.Errorf("%s is not among the clips", c.View)
		}
		if in := sh.Accompanied(c); len(in.Companions) != 1 || in.Clip.View != c.View {
			t.Errorf("%s with %d companions", in.Clip.View, len(in.Companions))
		}
	}
	if _, ok := sh.Clip(uuid.New()); ok {
		t.Error("a clip that is not there")
	}
	p := Build(sh)
	from := map[uuid.UUID]int{}
	for _, s := range p.Stills {
		from[s.ClipID]++
		if other := s.ClipID != *p.ClipID; other != (s.View != "") || s.Picture[0] == 0 || len(s.Values) == 0 {
			t.Errorf("%+v", s)
		}
	}
	if len(from) != 2 || len(p.Stills) > stillsOnPage {
		t.Fatalf("stills %v; problems %v", from, all.Report.Problems)
	}
	// Each value stands once, at the clip that it is from.
	said := map[string]int{}
	for _, s := range p.Stills {
		for _, v := range s.Values {
			said[v]++
		}
	}
	for v, n := range said {
		if n > 1 {
			t.Errorf("%q is said %d times", v, n)
		}
	}
	var pic, out bytes.Buffer
	if err := jpeg.Encode(&pic, image.NewGray(image.Rect(0, 0, 1280, 720)), nil); err != nil {
		t.Fatal(err)
	}
	asked := map[uuid.UUID]int{}
	err = WritePDF(context.Background(), &out, p, paper.A4, func(_ context.Context, clip uuid.UUID, _ int) ([]byte, error) { asked[clip]++; return pic.Bytes(), nil })
	if err != nil || len(asked) != 2 {
		t.Errorf("%v, asked of %v", err, asked)
	}
}

package demo

import (
	"bytes"
	"image"
	"image/jpeg"
	"math"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/internal/media"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/audit"
	"neokinema/simcam/move"
)

// TestEveryStartShowsWhatItShould: points set without scatter give just the
// faults that were dialled in, first cause first.
func TestEveryStartShowsWhatItShould(t *testing.T) {
	want := map[string][]string{
		"renholm start 3.mp4":      {},
		"odalys blocks.mp4":        {"S2", "S7"},
		"odalys blocks again.mp4":  {},
		"odalys winter 1.mp4":      {"S2", "S7"},
		"odalys winter 2.mp4":      {"S2", "S7"},
		"odalys after the cue.mp4": {},
		"odalys in the hall.mp4":   {},
		"IMG 0417 – Jorik.mp4":     {"S8"},
	}
	m, err := models.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for _, who := range people() {
		for _, at := range who.attempts {
			if at.event() != m.ID {
				continue
			}
			seen++
			spec := at.clips[0].specFor(who.athlete, at)
			file := at.clips[0].file
			scene, err := simcam.New(spec)
			if err != nil {
				t.Fatal(err)
			}
			r := judged(m, scene.Truth)
			got := []string{}
			for _, f := range r.Findings {
				got = append(got, f.Fault)
			}
			if !slices.Equal(got, want[file]) {
				t.Errorf("%s: findings %v, want %v", file, got, want[file])
			}
			if len(r.Problems) > 0 || len(r.Strengths) < 6 {
				t.Errorf("%s: problems %v, %d to keep", file, r.Problems, len(r.Strengths))
			}
			for _, id := range []string{"rear_share", "lean_clear", "rear_knee_set"} {
				if x, _ := r.Reading(id); x.Verdict != "met" {
					t.Errorf("%s: %s is %s (%+v)", file, id, x.Verdict, x.Value)
				}
			}
		}
	}
	if seen != len(want) {
		t.Errorf("%d starts", seen)
	}
}

// judged is the report on a start whose flags and points are the truth's own.
func judged(m model.Model, truth simcam.Truth) report.Report {
	in := evaluate.Input{Model: m.ID, Athlete: truth.Spec.Athlete, Flags: map[string]int{}, Points: kinematics.Points{},
		Clip: evaluate.ClipInfo{Width: 1280, Height: 720, FileRate: 240, CaptureRate: 240, View: "side", Direction: truth.Spec.Direction}}
	for i := range truth.Frames {
		in.Clip.Stamps = append(in.Clip.Stamps, int64(i)*375)
	}
	if err := apply(&in, ByHand(truth, uuid.New(), 0)); err != nil {
		panic(err) // as ByHand wrote it
	}
	return evaluate.Attempt(m, in)
}

// TestEveryDialOfTheStartSetsOffItsFinding: by the engine, as the first cause;
// whatever else is found comes from it.
func TestEveryDialOfTheStartSetsOffItsFinding(t *testing.T) {
	m, err := models.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	e, err := move.Find("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]string{"shoulders": "S1", "front-knee": "S2", "rear-knee": "S3", "head-up": "S8", "foot-ahead": "S5", "early-rise": "S7"}
	for _, d := range e.Faults {
		for _, leg := range []body.Side{body.Left, body.Right} {
			scene, err := simcam.New(simcam.Spec{Athlete: body.Person{Sex: body.Male, Height: 1.80, FrontLeg: leg}, Faults: map[string]float64{d.Name: d.Shown}, CaptureRate: 240, FileRate: 240, Width: 1280, Height: 720})
			if err != nil {
				t.Fatal(err)
			}
			var got []string
			for _, f := range judged(m, scene.Truth).Findings {
				got = append(got, f.Fault)
			}
			if len(got) == 0 || got[0] != want[d.Name] {
				t.Errorf("%s, %s leg in front: findings %v, want %s first", d.Name, leg, got, want[d.Name])
				continue
			}
			// Follow the causes of every other finding back.
			for _, other := range got[1:] {
				open, seen := []string{other}, map[string]bool{}
				for len(open) > 0 {
					f, _ := m.Fault(open[0])
					open = open[1:]
					for _, b := range f.Because {
						if !seen[b] {
							seen[b] = true
							open = append(open, b)
						}
					}
				}
				if !seen[got[0]] {
					t.Errorf("%s: %s is found too and does not come from %s", d.Name, other, got[0])
				}
			}
		}
	}
}

// TestTheClubCoversWhatItPromises: ten events, left-handers, children, attempts
// with two views, a before and an after, and poor material.
func TestTheClubCoversWhatItPromises(t *testing.T) {
	events := map[string]bool{}
	var clips, lefts, children, twoViews, poor, again int
	for _, who := range people() {
		if who.athlete.ThrowingHand == body.Left || who.athlete.TakeoffLeg == body.Right {
			lefts++
		}
		if who.athlete.Born >= 2011 {
			children++
		}
		told := false
		for _, at := range who.attempts {
			events[at.event()] = true
			clips += len(at.clips)
			if len(at.clips) > 1 {
				twoViews++
			}
			if told && at.event() == "sprint-start" {
				again++
			}
			told = told || len(at.accept) > 0
			for _, q := range at.clips {
				if q.camera.Net || q.upright || q.capture == 30 || q.camera.Shake > 2 {
					poor++
				}
			}
		}
	}
	if len(events) != 10 || clips < 22 || lefts < 3 || children < 2 || twoViews < 2 || poor < 4 || again < 1 {
		t.Errorf("%d events, %d clips, %d left-sided, %d children, %d two-view, %d poor, %d after a cue", len(events), clips, lefts, children, twoViews, poor, again)
	}
}

// TestFaultsOfTheClubShow: what is dialled in shows by its sign; nothing earlier
// does, and clips without a dial are clean.
func TestFaultsOfTheClubShow(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	for _, who := range people() {
		for _, at := range who.attempts {
			s := at.clips[0].specFor(who.athlete, at)
			s.Camera, s.CaptureRate = simcam.Camera{}, 240
			if s.Event == "" {
				continue // starts go through the real model above
			}
			scene, err := simcam.New(s)
			if err != nil {
				t.Fatal(err)
			}
			c := audit.Of(scene.Truth)
			missed := false
			for _, sign := range audit.SignsOf(s.Event, scene.Truth.Variant) {
				_, dialled := s.Faults[sign.Fault]
				if dialled && sign.Met(c) {
					t.Errorf("%s %s: %s does not show: %.3f", who.athlete.Name, s.Event, sign.Fault, sign.Of(c))
				}
				if !dialled && !missed && !sign.Met(c) {
					t.Errorf("%s %s: %s shows undialled: %.3f, not %g to %g", who.athlete.Name, s.Event, sign.Fault, sign.Of(c), sign.Low, sign.High)
				}
				missed = missed || dialled
			}
		}
	}
}

// TestShippedClipsAreTheTruths: every file has as many frames as its truth, and
// a frame of it shows what the scene draws there, not what it draws elsewhere.
func TestShippedClipsAreTheTruths(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	dir := t.TempDir()
	for _, who := range people() {
		for _, at := range who.attempts {
			for _, q := range at.clips {
				t.Run(q.file, func(t *testing.T) {
					t.Parallel()
					scene, err := simcam.New(q.specFor(who.athlete, at))
					if err != nil {
						t.Fatal(err)
					}
					raw, err := files.ReadFile("clips/" + slug(q.file))
					if err != nil {
						t.Fatalf("%v; run ./neo clips", err)
					}
					path := filepath.Join(dir, slug(q.file))
					if err := os.WriteFile(path, raw, 0o600); err != nil {
						t.Fatal(err)
					}
					stamps, err := media.Stamps(t.Context(), path)
					if err != nil || len(stamps) != len(scene.Truth.Frames) {
						t.Fatalf("%d frames, the truth has %d (%v); run ./neo clips", len(stamps), len(scene.Truth.Frames), err)
					}
					frame := len(stamps) / 2
					stills, err := media.Stills(t.Context(), path, stamps, []int{frame}, 0, dir)
					if err != nil {
						t.Fatal(err)
					}
					img, err := jpeg.Decode(bytes.NewReader(stills[0]))
					if err != nil {
						t.Fatal(err)
					}
					draw := scene.Pictures()
					here, there := unlike(img, draw(frame), scene.Truth, frame), unlike(img, draw(max(0, frame-12)), scene.Truth, frame)
					if here > 10 || there < 1.25*here {
						t.Errorf("frame %d differs by %.1f of 255 from what it should show, by %.1f from twelve frames before; run ./neo clips", frame, here, there)
					}
				})
			}
		}
	}
}

// unlike is the mean difference between a picture and a drawn frame about the
// athlete.
func unlike(img image.Image, drawn []byte, truth simcam.Truth, frame int) float64 {
	x0, y0, x1, y1 := img.Bounds().Max.X, img.Bounds().Max.Y, 0, 0
	for _, m := range truth.Frames[frame].Landmarks {
		x0, x1 = min(x0, int(m.Image[0])), max(x1, int(m.Image[0]))
		y0, y1 = min(y0, int(m.Image[1])), max(y1, int(m.Image[1]))
	}
	var sum, n float64
	for y := max(0, y0); y < min(y1, img.Bounds().Max.Y); y++ {
		for x := max(0, x0); x < min(x1, img.Bounds().Max.X); x++ {
			r, g, b, _ := img.At(x, y).RGBA()
			p := drawn[3*(y*truth.Spec.Width+x):]
			for i, v := range [3]uint32{r, g, b} {
				sum += math.Abs(float64(v>>8) - float64(p[i]))
				n++
			}
		}
	}
	return sum / n
}

func TestUnknownClip(t *testing.T) {
	if _, _, err := Shipped("holiday.mp4"); err == nil {
		t.Error("a clip that the club does not have")
	}
	raw, truth, err := Shipped("pim shot.mp4")
	if err != nil || len(raw) < 10000 || truth.Event != "shot" {
		t.Errorf("%d bytes, %s, %v", len(raw), truth.Event, err)
	}
}

func TestScatterOfTheHandIsTheSameEachTime(t *testing.T) {
	scene, err := simcam.New(simcam.Spec{Athlete: body.Person{Sex: body.Male, Height: 1.8, FrontLeg: body.Left}, Direction: 1, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720})
	if err != nil {
		t.Fatal(err)
	}
	a, b := ByHand(scene.Truth, uuid.Nil, 1), ByHand(scene.Truth, uuid.Nil, 1)
	if len(a) < 40 || len(a) != len(b) {
		t.Fatalf("%d and %d edits", len(a), len(b))
	}
	for i := range a {
		if string(a[i].Value) != string(b[i].Value) {
			t.Fatalf("edit %d differs", i)
		}
	}
}

// At every event the club has a story: an attempt with a cue, a later one that shows it taken,
// and one that waits.
func TestStories(t *testing.T) {
	if testing.Short() {
		t.Skip("a long computation")
	}
	stories, err := Stories()
	if err != nil {
		t.Fatal(err)
	}
	told := map[string]bool{}
	for _, s := range stories {
		told[s.Event] = told[s.Event] || s.Told()
		if !s.Told() {
			t.Errorf("%s, %s: %s found %v, its cue %q, open %v", s.Athlete, s.Event, s.Fault, s.Found, s.Effect, s.Open)
		}
	}
	if len(told) != 10 {
		t.Errorf("stories of %d events", len(told))
	}
}

package demo

import (
	"testing"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/technique"
	"neokinema/core/track"
	"neokinema/simcam"
)

// TestEveryDemoClipShowsWhatItShould: digitised from the truth, each demo clip
// gives just the faults that were dialled in, first cause first.
func TestEveryDemoClipShowsWhatItShould(t *testing.T) {
	want := map[string][]string{
		"renholm start 3.mp4":     {},
		"odalys blocks.mp4":       {"S2", "S7"},
		"odalys blocks again.mp4": {},
		"IMG 0417 – Jorik.mp4":    {"S8"},
	}
	m, err := technique.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for _, who := range people() {
		for _, at := range who.attempts {
			seen++
			at.spec.Athlete = who.athlete.Body()
			scene, err := simcam.New(at.spec)
			if err != nil {
				t.Fatal(err)
			}
			truth := scene.Truth
			in := technique.Input{Model: m.ID, Athlete: at.spec.Athlete, Flags: map[string]int{}, Points: map[string]map[int]track.Point{},
				Clip: technique.Facts{Width: 1280, Height: 720, FileRate: 240, CaptureRate: 240, View: "side", Direction: at.spec.Direction}}
			for i := range truth.Frames {
				in.Clip.Stamps = append(in.Clip.Stamps, int64(i)*375)
			}
			for _, e := range ByHand(truth, uuid.New(), 0) {
				if e.Kind == "flag" {
					in.Flags[e.Key] = e.Value.(int)
					continue
				}
				if in.Points[e.Key] == nil {
					in.Points[e.Key] = map[int]track.Point{}
				}
				in.Points[e.Key][e.Frame] = e.Value.(track.Point)
			}
			r := technique.Evaluate(m, in)
			got := []string{}
			for _, f := range r.Findings {
				got = append(got, f.Fault)
			}
			if len(got) != len(want[at.file]) {
				t.Fatalf("%s: findings %v, want %v", at.file, got, want[at.file])
			}
			for i := range got {
				if got[i] != want[at.file][i] {
					t.Errorf("%s: findings %v, want %v", at.file, got, want[at.file])
				}
			}
			if len(r.Problems) > 0 || len(r.Keep) < 6 {
				t.Errorf("%s: problems %v, %d to keep", at.file, r.Problems, len(r.Keep))
			}
			for _, id := range []string{"block_time", "contact_1", "contact_2", "rear_share"} {
				if x, _ := r.Reading(id); x.Verdict != "met" {
					t.Errorf("%s: %s is %s (%+v)", at.file, id, x.Verdict, x.Value)
				}
			}
		}
	}
	if seen != 4 {
		t.Errorf("%d attempts", seen)
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
		if a[i].Value != b[i].Value {
			t.Fatalf("edit %d differs", i)
		}
	}
}

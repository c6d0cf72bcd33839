package exchange

import (
	"encoding/json"
	"errors"
	"math"
	"testing"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/track"
)

func some(frames int) kinematics.Points {
	p := kinematics.Points{}
	for i, id := range body.Landmarks() {
		p[id] = track.New(frames)
		for f := range frames {
			if (f+i)%7 == 3 {
				continue // not seen
			}
			_ = p[id].Set(f, &track.Point{X: 100 + 3.25*float64(f) + float64(i), Y: 400.5 - float64(i), Source: "draft", Confidence: 0.75, Hidden: f%5 == 0})
		}
	}
	return p
}

// Out and in again nothing differs: places, what is hidden, how sure.
func TestCOCOOutAndIn(t *testing.T) {
	p := some(20)
	raw, err := WriteCOCO(p, Picture{1280, 720, 20})
	if err != nil {
		t.Fatal(err)
	}
	back, of, err := ReadCOCO(raw)
	if err != nil || of != (Picture{1280, 720, 20}) {
		t.Fatalf("%v %+v", err, of)
	}
	for id := range p {
		for f := range 20 {
			a, okA := p.At(id, f)
			b, okB := back.At(id, f)
			if okA != okB || okA && (a.X != b.X || a.Y != b.Y || a.Hidden != b.Hidden || math.Abs(a.Confidence-b.Confidence) > 0.01) {
				t.Fatalf("%s in frame %d: %+v and %+v", id, f, a, b)
			}
		}
	}
	// The first 17 are those of the format, in its order.
	var file map[string]any
	_ = json.Unmarshal(raw, &file)
	names := file["categories"].([]any)[0].(map[string]any)["keypoints"].([]any)
	if names[0] != "nose" || names[5] != "left_shoulder" || names[16] != "right_ankle" {
		t.Errorf("keypoints %v", names)
	}
}

// A file of somebody else: 17 keypoints without names, several people, pictures named by
// their frame.
func TestCOCOOfOthers(t *testing.T) {
	k := make([]float64, 51)
	k[3*13], k[3*13+1], k[3*13+2] = 310, 420, 2 // left knee
	far := append([]float64(nil), k...)
	far[3*13] = 900
	in := coco{Images: []cocoImage{{ID: 71, File: "run_0004.jpg", Width: 640, Height: 360}, {ID: 70, File: "run_0002.jpg", Width: 640, Height: 360}},
		Annotations: []cocoAnnotation{{Image: 71, Category: 1, Keypoints: far, Score: 0.2, Area: 9}, {Image: 71, Category: 1, Keypoints: k, Score: 0.9, Area: 5}},
		Categories:  []cocoCategory{{ID: 1, Name: "person"}}}
	raw, _ := json.Marshal(in)
	p, of, err := ReadCOCO(raw)
	if err != nil || of.Frames != 5 {
		t.Fatalf("%v %+v", err, of)
	}
	if q, ok := p.At("left_knee", 4); !ok || q.X != 310 || q.Source != "draft" {
		t.Errorf("the knee is %+v", q)
	}
	if _, ok := p.At("left_knee", 2); ok {
		t.Error("somebody in a picture without anybody")
	}
	for _, bad := range []string{"", "{}", "[1]", `{"images":[{"id":1}],"annotations":[]}`} {
		if _, _, err := ReadCOCO([]byte(bad)); !errors.Is(err, ErrCOCO) && !errors.Is(err, ErrNobody) {
			t.Errorf("%q: %v", bad, err)
		}
	}
}

func take() Take {
	out := Take{Rate: 239.76, Units: "px", Labels: body.Landmarks(), Events: []Event{{"Left", "Foot Strike", 0.25}, {"Right", "Foot Off", 61.5}}}
	for f := range 9 {
		row := make([]Place, len(out.Labels))
		for i := range row {
			if (f+i)%4 != 1 {
				row[i] = Place{X: float64(f) * 1.5, Y: float64(i), Z: -2.25, Valid: true}
			}
		}
		out.Frames = append(out.Frames, row)
	}
	return out
}

func TestC3DOutAndIn(t *testing.T) {
	a := take()
	raw, err := WriteC3D(a)
	if err != nil || len(raw)%512 != 0 {
		t.Fatalf("%v, %d bytes", err, len(raw))
	}
	b, err := ReadC3D(raw)
	if err != nil {
		t.Fatal(err)
	}
	if math.Abs(a.Rate-b.Rate) > 1e-4 || a.Units != b.Units || len(a.Labels) != len(b.Labels) || len(a.Frames) != len(b.Frames) || len(b.Events) != 2 {
		t.Fatalf("%+v", b)
	}
	for i := range a.Labels {
		if a.Labels[i] != b.Labels[i] {
			t.Errorf("label %s became %s", a.Labels[i], b.Labels[i])
		}
		for f := range a.Frames {
			if a.Frames[f][i] != b.Frames[f][i] {
				t.Errorf("frame %d: %+v became %+v", f, a.Frames[f][i], b.Frames[f][i])
			}
		}
	}
	for i := range a.Events {
		if a.Events[i].Label != b.Events[i].Label || a.Events[i].Context != b.Events[i].Context || math.Abs(a.Events[i].Time-b.Events[i].Time) > 1e-5 {
			t.Errorf("%+v became %+v", a.Events[i], b.Events[i])
		}
	}
}

func TestC3DRefused(t *testing.T) {
	good, _ := WriteC3D(take())
	for name, bad := range map[string][]byte{"nothing": nil, "text": make([]byte, 2000), "cut": good[:len(good)-600]} {
		if _, err := ReadC3D(bad); !errors.Is(err, ErrC3D) {
			t.Errorf("%s: %v", name, err)
		}
	}
	other := append([]byte(nil), good...)
	other[512+3] = 85
	if _, err := ReadC3D(other); !errors.Is(err, ErrProcessor) {
		t.Errorf("another processor: %v", err)
	}
	for _, bad := range []Take{{}, {Rate: 100, Labels: []string{"a"}}, {Labels: []string{"a"}, Frames: [][]Place{{{}}}}, {Rate: 100, Labels: []string{"a"}, Frames: [][]Place{{}}}} {
		if _, err := WriteC3D(bad); err == nil {
			t.Errorf("%+v was written", bad)
		}
	}
}

func FuzzReadC3D(f *testing.F) {
	good, _ := WriteC3D(take())
	f.Add(good)
	f.Add(good[:700])
	f.Fuzz(func(t *testing.T, raw []byte) {
		if take, err := ReadC3D(raw); err == nil && len(take.Labels) == 0 {
			t.Error("a take without points")
		}
	})
}

func FuzzReadCOCO(f *testing.F) {
	raw, _ := WriteCOCO(some(3), Picture{100, 100, 3})
	f.Add(raw)
	f.Fuzz(func(t *testing.T, raw []byte) {
		if p, _, err := ReadCOCO(raw); err == nil && len(p) == 0 {
			t.Error("a file without points was taken")
		}
	})
}

// A clip's points, contacts and flags go out as a take and come back.
func TestATakeOfAClip(t *testing.T) {
	p := some(12)
	for _, tr := range p {
		for f := range 12 {
			if q, ok := tr.At(f); ok {
				q.Hidden = false
				_ = tr.Set(f, &q)
			}
		}
	}
	take := TakeOf(p, 12, 120, []contact.Interval{{Foot: body.Right, From: 3, To: 9}}, map[string]int{"td1": 3, "gone": -1})
	raw, err := WriteC3D(take)
	if err != nil {
		t.Fatal(err)
	}
	again, err := ReadC3D(raw)
	if err != nil {
		t.Fatal(err)
	}
	back, flags, err := again.Points()
	if err != nil || len(flags) != 1 || flags["td1"] != 3 || len(again.Events) != 3 {
		t.Fatalf("%v, flags %v, events %v", err, flags, again.Events)
	}
	for id := range p {
		for f := range 12 {
			a, okA := p.At(id, f)
			b, okB := back.At(id, f)
			if okA != okB || okA && (a.X != b.X || a.Y != b.Y) {
				t.Fatalf("%s in frame %d: %+v and %+v", id, f, a, b)
			}
		}
	}
	again.Units = "mm"
	if _, _, err := again.Points(); !errors.Is(err, ErrUnits) {
		t.Errorf("places in the world: %v", err)
	}
}

package workspace

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"github.com/google/uuid"

	"neokinema/core/model"
	"neokinema/core/track"
	"neokinema/internal/store"
)

// TestKindsNameTheirFields: the browser puts edits into the fields that the table names.
func TestKindsNameTheirFields(t *testing.T) {
	fields := func(of reflect.Type) map[string]reflect.Type {
		out := map[string]reflect.Type{}
		for i := range of.NumField() {
			name, _, _ := strings.Cut(of.Field(i).Tag.Get("json"), ",")
			out[name] = of.Field(i).Type
		}
		return out
	}
	work, clip := fields(reflect.TypeFor[Work]()), fields(reflect.TypeFor[ClipWork]())
	for _, k := range Kinds() {
		in := work
		if k.OnClip {
			in = clip
		}
		f, ok := in[k.Field]
		if !ok || k.Doc == "" {
			t.Errorf("%s fills %q, which is not there", k.Name, k.Field)
			continue
		}
		if (f.Kind() == reflect.Map) != k.Keyed || (f.Kind() == reflect.String) != k.Text {
			t.Errorf("%s fills a %s", k.Name, f)
		}
	}
}

// values is one good value of each kind, under a key that goes with it.
var values = map[string][2]string{
	"flag": {"set", "3"}, "scale": {"line", `{"frame":1,"a":[1,1],"b":[101,1],"metres":1}`}, "ground": {"points", `{"template":"free","points":[]}`},
	"box": {"subject", `{"frame":1,"x":1,"y":1,"width":50,"height":90}`}, "annotation": {"a", `{"kind":"pin","landmark":"right_knee","frame":2}`},
	"answer": {"square", `{"answer":"no"}`}, "finding": {"S1", `"refused"`}, "advice": {"main", `{"words":"tall"}`}, "note": {"athlete", `"well done"`},
	"followup": {"main", `{"state":"given"}`}, "outcome": {"main", `"taken"`},
}

// TestStoredItemsComeBack: what is stored of each kind stands in the field that the table
// names, and what cannot be read costs itself only.
func TestStoredItemsComeBack(t *testing.T) {
	id := uuid.New()
	for _, k := range Kinds() {
		if k.tracks() {
			continue
		}
		v, ok := values[k.Name]
		if !ok {
			t.Errorf("no value of a %s is tried", k.Name)
			continue
		}
		w := newWork(1)
		w.Clips[id] = newClipWork()
		item := store.Item{Kind: k.Name, Key: v[0], Value: json.RawMessage(v[1])}
		if k.OnClip {
			item.Clip = &id
		}
		if err := w.put(item); err != nil {
			t.Errorf("%s: %v", k.Name, err)
			continue
		}
		var holds map[string]json.RawMessage
		var from any = w
		if k.OnClip {
			from = w.Clips[id]
		}
		if err := json.Unmarshal(Value(from), &holds); err != nil {
			t.Fatal(err)
		}
		got := holds[k.Field]
		if k.Keyed {
			var m map[string]json.RawMessage
			if err := json.Unmarshal(got, &m); err != nil {
				t.Fatal(err)
			}
			got = m[v[0]]
		}
		if len(got) == 0 || string(got) == "null" || string(got) == `""` {
			t.Errorf("%s: %s holds %s", k.Name, k.Field, got)
		}
		item.Value = json.RawMessage(`[[`)
		if w.put(item) == nil {
			t.Errorf("%s: half a value is taken", k.Name)
		}
	}
	w := newWork(1)
	if err := w.put(store.Item{Kind: "of another age", Key: "x", Value: json.RawMessage(`1`)}); err != nil {
		t.Errorf("an item of a kind that went: %v", err)
	}
	if err := w.put(store.Item{Kind: "flag", Clip: &id, Key: "set", Value: json.RawMessage(`1`)}); err != nil || len(w.Clips) != 0 {
		t.Errorf("an item of a clip that went: %v, %v", err, w.Clips)
	}
}

// TestEditsAreRefused for a key that the model does not have, a clip that is missing or
// one too many, and a kind that nobody knows.
func TestEditsAreRefused(t *testing.T) {
	clip := store.Clip{ID: uuid.New(), Stamps: make([]int64, 10), Width: 640, Height: 360}
	c := checker{model: model.Model{Positions: []model.Position{{ID: "set"}}}, clips: map[uuid.UUID]store.Clip{clip.ID: clip}}
	other := uuid.New()
	for _, q := range []struct {
		e    Edit
		says string
	}{
		{Edit{Kind: "flag", Clip: &clip.ID, Key: "set", Value: json.RawMessage("3")}, ""},
		{Edit{Kind: "flag", Clip: &clip.ID, Key: "set"}, ""},
		{Edit{Kind: "flag", Clip: &clip.ID, Key: "set", Value: json.RawMessage("10")}, "outside this clip"},
		{Edit{Kind: "flag", Clip: &clip.ID, Key: "catch", Value: json.RawMessage("3")}, "no key position"},
		{Edit{Kind: "flag", Clip: &other, Key: "set", Value: json.RawMessage("3")}, "clip"},
		{Edit{Kind: "flag", Key: "set", Value: json.RawMessage("3")}, "clip"},
		{Edit{Kind: "note", Clip: &clip.ID, Key: "athlete", Value: json.RawMessage(`"x"`)}, "does not belong to a clip"},
		{Edit{Kind: "finding", Key: "S99", Value: json.RawMessage(`"accepted"`)}, "no fault"},
		{Edit{Kind: "answer", Key: "x", Value: json.RawMessage(`{"answer":"no"}`)}, "no checkpoint"},
		{Edit{Kind: "wish", Key: "x"}, "no change of the kind"},
	} {
		err := c.edit(&q.e)
		if (err == nil) != (q.says == "") || err != nil && !strings.Contains(err.Error(), q.says) {
			t.Errorf("%s %q %s: %v, want %q", q.e.Kind, q.e.Key, q.e.Value, err, q.says)
		}
	}
}

// TestTracksGiveBackWhatTheyHeld: what an edit of a point or a stretch returns makes it
// undone.
func TestTracksGiveBackWhatTheyHeld(t *testing.T) {
	tr := track.New(0)
	first, second := track.Point{X: 10, Y: 20, Source: "hand", Confidence: 1}, track.Point{X: 30, Y: 40, Source: "hand", Confidence: 1}
	if _, err := setPoint(tr, &Edit{Frame: 4, Value: Value(first)}); err != nil {
		t.Fatal(err)
	}
	before, err := setPoint(tr, &Edit{Frame: 4, Value: Value(second)})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := setPoint(tr, &Edit{Frame: 4, Value: before}); err != nil {
		t.Fatal(err)
	}
	if p, ok := tr.At(4); !ok || p.X != first.X || p.Y != first.Y {
		t.Errorf("undone: %+v %v", p, ok)
	}
	change := track.New(0)
	if err := change.Set(4, &second); err != nil {
		t.Fatal(err)
	}
	before, err = applyTrack(tr, &Edit{Value: Value(change), Override: true})
	if err != nil || len(before) == 0 {
		t.Fatal(before, err)
	}
	if p, _ := tr.At(4); p.X != second.X {
		t.Errorf("changed: %+v", p)
	}
	if _, err := applyTrack(tr, &Edit{Value: before, Override: true}); err != nil {
		t.Fatal(err)
	}
	if p, _ := tr.At(4); p.X != first.X {
		t.Errorf("undone: %+v", p)
	}
}

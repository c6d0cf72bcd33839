package workspace

import (
	"encoding/json"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/annotate"
	"neokinema/core/calibration"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/track"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Work is what the coach has done so far, at one revision.
type Work struct {
	Revision int                           `json:"revision"`
	CanUndo  bool                          `json:"can_undo"`
	CanRedo  bool                          `json:"can_redo"`
	Clips    map[uuid.UUID]ClipWork        `json:"clips"`
	Answers  map[string]evaluate.Judgement `json:"answers" doc:"checkpoint to the coach's own answer"`
	Findings map[string]string             `json:"findings" doc:"fault to accepted or refused"`
	Advice   map[string]store.Advice       `json:"advice" doc:"main and second"`
	Note     string                        `json:"note" doc:"a word to the athlete"`
	Followup *store.Followup               `json:"followup,omitempty" required:"false" doc:"what becomes of the main cue"`
	Outcome  string                        `json:"outcome" doc:"how the coach sees the cue before: taken, not_taken, overdone; empty when not said"`
	// What is stored but cannot be read costs itself only.
	Unreadable []string `json:"unreadable" doc:"decisions that are stored and cannot be read, kind and key: make them anew"`
}

// ClipWork is the part of the work that belongs to one clip.
type ClipWork struct {
	Flags       map[string]int                 `json:"flags"`
	Points      kinematics.Points              `json:"points"`
	Scale       *calibration.Line              `json:"scale,omitempty" required:"false"`
	Ground      *ground.ControlPoints          `json:"ground,omitempty" required:"false"`
	Box         *Box                           `json:"box,omitempty" required:"false" doc:"where the athlete is, for the draft"`
	Annotations map[string]annotate.Annotation `json:"annotations" doc:"by an id that the browser chose"`
}

func newWork(revision int) Work {
	return Work{Revision: revision, Clips: map[uuid.UUID]ClipWork{}, Answers: map[string]evaluate.Judgement{}, Findings: map[string]string{}, Advice: map[string]store.Advice{}, Unreadable: []string{}}
}

func newClipWork() ClipWork {
	return ClipWork{Flags: map[string]int{}, Points: kinematics.Points{}, Annotations: map[string]annotate.Annotation{}}
}

// Kind is one kind of edit, and all that is known of it: server, contract and browser
// take it from here. What an edit puts is stored as one item by kind and key, what it
// changed goes into the revision, so that undo needs nothing of its own; points and tracks
// go into the tracks of the clip.
type Kind struct {
	Name   string `json:"kind"`
	Doc    string `json:"-"`       // what key and value are
	OnClip bool   `json:"on_clip"` // belongs to one clip
	// Field of [ClipWork], or of [Work], that it fills; one of a keyed kind is a map by key.
	Field string `json:"field"`
	Keyed bool   `json:"keyed"`
	// Text tells that nothing is the empty text, and not a missing field.
	Text bool `json:"text"`

	// known refuses a key that the model does not have; nil when any will do.
	known func(model.Model, string) error
	// check refuses a value that no screen makes.
	check func(checker, store.Clip, *Edit) error
	// fold puts a stored item into the work.
	fold func(*Work, *ClipWork, store.Item) error
	// change makes the edit on a track and gives what was there; only of points and tracks.
	change func(*track.Track, *Edit) (before json.RawMessage, err error)
}

func (k Kind) tracks() bool { return k.change != nil }

var kinds = index(
	Kind{Name: "point", Doc: "key landmark, frame; a point or null", OnClip: true, Field: "points", Keyed: true,
		check: func(_ checker, clip store.Clip, e *Edit) error { return checkPoint(clip, e) }, change: setPoint},
	Kind{Name: "track", Doc: "key landmark; a change of many frames (core/track): computed points do not touch what a hand has set, unless override is set", OnClip: true, Field: "points", Keyed: true,
		check: func(_ checker, clip store.Clip, e *Edit) error { return checkTrack(clip, e) }, change: applyTrack},
	Kind{Name: "flag", Doc: "key position; a frame, -1 (not in this clip) or null", OnClip: true, Field: "flags", Keyed: true,
		known: func(m model.Model, key string) error {
			_, ok := m.Position(key)
			return known(ok, "The model has no key position for this flag: %q.", key)
		},
		check: func(_ checker, clip store.Clip, e *Edit) error {
			f, err := valueOf[int](e)
			if err == nil && f != nil && *f != evaluate.NotThere {
				err = checkFrame(clip, *f)
			}
			return err
		},
		fold: func(_ *Work, c *ClipWork, i store.Item) error { return into(c.Flags, i) }},
	Kind{Name: "scale", Doc: `key "line"; a line or null`, OnClip: true, Field: "scale",
		check: func(_ checker, clip store.Clip, e *Edit) error { return checkScale(clip, e) },
		fold:  func(_ *Work, c *ClipWork, i store.Item) error { return read(i, &c.Scale) }},
	Kind{Name: "ground", Doc: `key "points"; known places of the ground or null`, OnClip: true, Field: "ground",
		check: func(_ checker, clip store.Clip, e *Edit) error { return checkGround(clip, e) },
		fold:  func(_ *Work, c *ClipWork, i store.Item) error { return read(i, &c.Ground) }},
	Kind{Name: "box", Doc: `key "subject"; where the athlete is, or null`, OnClip: true, Field: "box",
		check: func(_ checker, clip store.Clip, e *Edit) error { return checkBox(clip, e) },
		fold:  func(_ *Work, c *ClipWork, i store.Item) error { return read(i, &c.Box) }},
	Kind{Name: "annotation", Doc: "key an id of the browser's; an annotation or null", OnClip: true, Field: "annotations", Keyed: true,
		check: func(_ checker, clip store.Clip, e *Edit) error { return checkShow(clip, e) },
		fold:  func(_ *Work, c *ClipWork, i store.Item) error { return into(c.Annotations, i) }},
	Kind{Name: "answer", Doc: "key checkpoint; an answer (yes, partly, no) with a note, or null", Field: "answers", Keyed: true,
		known: func(m model.Model, key string) error {
			_, ok := m.Checkpoint(key)
			return known(ok, "The model has no checkpoint for this answer: %q.", key)
		},
		check: func(_ checker, _ store.Clip, e *Edit) error {
			m, err := valueOf[evaluate.Judgement](e)
			if err == nil && m != nil && (!slices.Contains([]string{"yes", "partly", "no"}, m.Answer) || letters(m.Note) > 300 || !(m.Sure >= 0 && m.Sure <= 1)) {
				err = bad("Answer yes, partly or no, with a note of up to 300 letters.")
			}
			return err
		},
		fold: func(w *Work, _ *ClipWork, i store.Item) error { return into(w.Answers, i) }},
	Kind{Name: "finding", Doc: `key fault; "accepted", "refused" or null`, Field: "findings", Keyed: true,
		known: func(m model.Model, key string) error {
			_, ok := m.Fault(key)
			return known(ok, "The model has no fault for this finding: %q.", key)
		},
		check: func(_ checker, _ store.Clip, e *Edit) error {
			return oneOf(e, e.Key, "A finding is accepted or refused.", "accepted", "refused")
		},
		fold: func(w *Work, _ *ClipWork, i store.Item) error { return into(w.Findings, i) }},
	Kind{Name: "advice", Doc: `key "main" or "second"; an advice or null`, Field: "advice", Keyed: true,
		check: func(c checker, _ store.Clip, e *Edit) error { return c.checkAdvice(e) },
		fold:  func(w *Work, _ *ClipWork, i store.Item) error { return into(w.Advice, i) }},
	Kind{Name: "note", Doc: `key "athlete"; a text or null`, Field: "note", Text: true,
		check: func(_ checker, _ store.Clip, e *Edit) error {
			t, err := valueOf[string](e)
			if err == nil && (e.Key != "athlete" || t != nil && letters(*t) > 4000) {
				err = bad("A note has up to 4000 letters.")
			}
			return err
		},
		fold: func(w *Work, _ *ClipWork, i store.Item) error { return read(i, &w.Note) }},
	Kind{Name: "followup", Doc: `key "main"; what becomes of the main cue (store.Followup) or null`, Field: "followup",
		check: func(_ checker, _ store.Clip, e *Edit) error {
			v, err := valueOf[store.Followup](e)
			switch {
			case err != nil:
				return err
			case e.Key != "main":
				return bad("Only the main cue is followed up.")
			case v != nil:
				return v.Check()
			}
			return nil
		},
		fold: func(w *Work, _ *ClipWork, i store.Item) error { return read(i, &w.Followup) }},
	Kind{Name: "outcome", Doc: `key "main"; how the coach sees the cue before: taken, not_taken, overdone, or null`, Field: "outcome", Text: true,
		check: func(_ checker, _ store.Clip, e *Edit) error {
			return oneOf(e, "main", "A cue was taken, not taken or overdone.", "taken", "not_taken", "overdone")
		},
		fold: func(w *Work, _ *ClipWork, i store.Item) error { return read(i, &w.Outcome) }},
)

func index(list ...Kind) map[string]Kind {
	out := map[string]Kind{}
	for _, k := range list {
		if k.check == nil || (k.fold == nil) == (k.change == nil) {
			panic("the kind of edit " + k.Name + " is not complete")
		}
		out[k.Name] = k
	}
	return out
}

// Kinds lists the kinds of edit by name.
func Kinds() []Kind {
	var out []Kind
	for _, k := range kinds {
		out = append(out, k)
	}
	slices.SortFunc(out, func(a, b Kind) int { return strings.Compare(a.Name, b.Name) })
	return out
}

func known(ok bool, says, key string) error {
	if ok {
		return nil
	}
	return problem.New(problem.Invalid, says, key)
}

// put folds a stored item into the work; what nobody knows any more is passed over.
func (w *Work) put(i store.Item) error {
	k := kinds[i.Kind]
	if k.fold == nil {
		return nil
	}
	if !k.OnClip {
		return k.fold(w, nil, i)
	}
	c, ok := w.Clips[*i.Clip]
	if !ok {
		return nil
	}
	err := k.fold(w, &c, i)
	w.Clips[*i.Clip] = c
	return err
}

// read takes a value over only when it can be read whole.
func read[T any](i store.Item, to *T) error {
	var v T
	err := json.Unmarshal(i.Value, &v)
	if err == nil {
		*to = v
	}
	return err
}

func into[T any](m map[string]T, i store.Item) error {
	var v T
	err := json.Unmarshal(i.Value, &v)
	if err == nil {
		m[i.Key] = v
	}
	return err
}

// setPoint puts a point, or takes it away.
func setPoint(t *track.Track, e *Edit) (before json.RawMessage, err error) {
	if p, ok := t.At(e.Frame); ok {
		before = Value(p)
	}
	var p *track.Point
	if !empty(e.Value) {
		err = json.Unmarshal(e.Value, &p)
	}
	return before, errors.Join(err, t.Set(e.Frame, p))
}

// applyTrack changes a stretch of a track.
func applyTrack(t *track.Track, e *Edit) (before json.RawMessage, err error) {
	if e.change == nil && !empty(e.Value) {
		err = json.Unmarshal(e.Value, &e.change)
	}
	if e.change != nil {
		before = Value(t.Apply(e.change, e.Override))
	}
	return before, err
}

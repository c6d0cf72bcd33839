package workspace

import (
	"encoding/json"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/google/uuid"

	"neokinema/core/annotate"
	"neokinema/core/body"
	"neokinema/core/calibration"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/model"
	"neokinema/core/track"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// checker knows what an edit of one attempt may refer to.
type checker struct {
	model model.Model
	clips map[uuid.UUID]store.Clip
}

// Decision refuses a stored decision that no edit could have made. What the model does
// not know (any more) may stay: it has no effect.
func Decision(m model.Model, clips []store.Clip, i store.Item) (json.RawMessage, error) {
	c := checker{model: m, clips: map[uuid.UUID]store.Clip{}}
	for _, k := range clips {
		c.clips[k.ID] = k
	}
	e := Edit{Kind: i.Kind, Clip: i.Clip, Key: i.Key, Value: i.Value}
	if kinds[e.Kind].tracks() || len(e.Key) > 60 || empty(e.Value) {
		return nil, bad("This is no decision.")
	}
	err := c.value(&e)
	return e.Value, err
}

// edit refuses what cannot be kept, and reads the change of a track on the way.
func (c checker) edit(e *Edit) error {
	if err := c.key(*e); err != nil {
		return err
	}
	return c.value(e)
}

// key refuses an edit of something that the model does not have.
func (c checker) key(e Edit) error {
	if k := kinds[e.Kind]; k.known != nil {
		return k.known(c.model, e.Key)
	}
	return nil
}

// value refuses a value that no screen of this product makes. It is asked of every
// value that comes in: as an edit, or with an archive.
func (c checker) value(e *Edit) error {
	k, ok := kinds[e.Kind]
	if !ok {
		return bad("There is no change of the kind %q.", e.Kind)
	}
	var clip store.Clip
	if k.OnClip {
		if e.Clip == nil || c.clips[*e.Clip].ID == uuid.Nil {
			return problem.Missing("clip")
		}
		if clip = c.clips[*e.Clip]; len(clip.Stamps) == 0 {
			return bad("This clip is not imported yet; wait for it, then place points.")
		}
	} else if e.Clip != nil {
		return bad("A %s does not belong to a clip.", e.Kind)
	}
	return k.check(c, clip, e)
}

func bad(format string, args ...any) error { return problem.New(problem.Invalid, format, args...) }

func letters(s string) int { return utf8.RuneCountInString(s) }

// valueOf reads what an edit puts; nil when it takes away. What is stored is what was
// read: what nobody looked at is left out.
func valueOf[T any](e *Edit) (*T, error) {
	if empty(e.Value) {
		return nil, nil
	}
	v := new(T)
	if json.Unmarshal(e.Value, v) != nil {
		return nil, bad("The value of this %s cannot be read.", e.Kind)
	}
	e.Value = Value(v)
	return v, nil
}

func oneOf(e *Edit, key, says string, words ...string) error {
	v, err := valueOf[string](e)
	if err == nil && (e.Key != key || v != nil && !slices.Contains(words, *v)) {
		err = bad("%s", says)
	}
	return err
}

func inside(clip store.Clip, x, y float64) bool {
	return x >= 0 && y >= 0 && x <= float64(clip.Width) && y <= float64(clip.Height)
}

func checkFrame(clip store.Clip, f int) error {
	if f < 0 || f >= len(clip.Stamps) {
		return bad("Frame %d lies outside this clip of %d frames.", f, len(clip.Stamps))
	}
	return nil
}

func checkLandmark(e *Edit) error {
	if !body.Known(e.Key) {
		return bad("There is no landmark %q.", e.Key)
	}
	return nil
}

func checkPoint(clip store.Clip, e *Edit) error {
	p, err := valueOf[track.Point](e)
	if err != nil {
		return err
	}
	if err := checkLandmark(e); err != nil {
		return err
	}
	if err := checkFrame(clip, e.Frame); err != nil || p == nil {
		return err
	}
	if !inside(clip, p.X, p.Y) {
		return bad("The %s would lie outside the picture. Place it inside, or skip it.", body.Label(e.Key))
	}
	if _, err := track.ParseSource(p.Source); err != nil {
		return bad("A point must say where it came from: hand, draft, tracked or filled.")
	}
	return nil
}

func checkTrack(clip store.Clip, e *Edit) error {
	t, err := valueOf[track.Track](e)
	if err != nil {
		return err
	}
	if err := checkLandmark(e); err != nil {
		return err
	}
	if t == nil {
		return bad("A change of a track needs frames.")
	}
	if err := CheckTrack(clip, t); err != nil {
		return err
	}
	e.change = t
	return nil
}

// CheckTrack refuses a track that a clip cannot have.
func CheckTrack(clip store.Clip, t *track.Track) error {
	err := t.Check()
	if err == nil {
		err = t.Inside(len(clip.Stamps), clip.Width, clip.Height)
	}
	if err != nil {
		return bad("This change cannot be kept: %s.", err)
	}
	return nil
}

func checkGround(clip store.Clip, e *Edit) error {
	g, err := valueOf[ground.ControlPoints](e)
	if err != nil || g == nil {
		return err
	}
	if err := g.Check(); err != nil {
		return bad("These places cannot be used: %s.", err)
	}
	for _, p := range g.Points {
		if !inside(clip, p.X, p.Y) || checkFrame(clip, p.Frame) != nil || letters(p.Name) > 80 {
			return bad("%.80s must lie inside the picture.", p.Name)
		}
	}
	return nil
}

// smallestBox is the least that a draft can look for, px.
const smallestBox = 16

func checkBox(clip store.Clip, e *Edit) error {
	b, err := valueOf[Box](e)
	if err != nil || b == nil {
		return err
	}
	if b.Width < smallestBox || b.Height < smallestBox || !inside(clip, b.X, b.Y) || !inside(clip, b.X+b.Width, b.Y+b.Height) {
		return bad("The box must lie inside the picture and be at least %d px wide and high.", smallestBox)
	}
	return checkFrame(clip, b.Frame)
}

func checkShow(clip store.Clip, e *Edit) error {
	s, err := valueOf[annotate.Annotation](e)
	if err != nil || s == nil {
		return err
	}
	if err := s.Check(); err != nil {
		return bad("This mark cannot be kept: %s.", err)
	}
	if s.Kind == "should" && !inside(clip, s.X, s.Y) {
		return bad("The end of the limb must lie inside the picture.")
	}
	return checkFrame(clip, s.Frame)
}

func checkScale(clip store.Clip, e *Edit) error {
	l, err := valueOf[calibration.Line](e)
	if err != nil || l == nil {
		return err
	}
	if _, err := calibration.FromLine(*l, evaluate.HandSigma); err != nil {
		return bad("A scale needs a line of at least 10 px and a length from 0.01 to 200 m.")
	}
	if !inside(clip, l.AX, l.AY) || !inside(clip, l.BX, l.BY) {
		return bad("The scale line must lie inside the picture.")
	}
	return nil
}

// checkAdvice also asks of a target that is of this attempt alone what is asked of a
// model's own checkpoints.
func (c checker) checkAdvice(e *Edit) error {
	a, err := valueOf[store.Advice](e)
	if err != nil {
		return err
	}
	if e.Key != "main" && e.Key != "second" {
		return bad("There is one main cue and at most one more.")
	}
	if a == nil {
		return nil
	}
	if a.Words == "" || letters(a.Words) > 300 {
		return bad("A cue needs words, up to 300 letters.")
	}
	for _, text := range []string{a.Fault, a.Focus, a.Backfire, a.Drill.Name, a.Drill.Dose.Says, a.Drill.Dose.Of, strings.Join(a.Drill.Ladder, ""), a.Drill.GoOn, a.Drill.Stop, a.Drill.Feel, a.Target} {
		if letters(text) > 1000 {
			return bad("A text of this cue is longer than 1000 letters.")
		}
	}
	if a.Checkpoint == nil {
		if _, ok := c.model.Checkpoint(a.Target); !ok {
			return bad("A cue needs a target to check it by.")
		}
		return nil
	}
	if a.Checkpoint.ID != a.Target {
		return bad("The target of this cue is not the one that it brings along.")
	}
	if err := evaluate.Accepts(c.model, *a.Checkpoint); err != nil {
		return bad("The target of this cue cannot be measured: %s.", err)
	}
	return nil
}

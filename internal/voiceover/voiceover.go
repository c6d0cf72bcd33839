// Package voiceover keeps what a coach says to an attempt: chapters of voice together with
// what happened on the stage meanwhile, from which a player shows it again in full
// sharpness and [neokinema/internal/videoexport] draws it.
package voiceover

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"

	"github.com/google/uuid"

	"neokinema/internal/feedback"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

// Service keeps talks.
type Service struct {
	store *store.Store
	bench *workspace.Service
	dir   string // for files in between
}

// New makes the service; dir is a folder for files in between.
func New(s *store.Store, b *workspace.Service, dir string) *Service { return &Service{s, b, dir} }

// Drawing is something that was drawn over a picture.
type Drawing struct {
	Lines [][][2]float64 `json:"lines" doc:"px of the upright picture"`
	Style string         `json:"style" enum:"still,now,ground,left,right,plain" doc:"still and now as shown on the picture by the coach; left and right are sides of the body"`
	Label string         `json:"label,omitempty" required:"false"`
	At    *[2]float64    `json:"at,omitempty" required:"false" doc:"where the label stands"`
}

// Scene is a change on the stage; what is absent stays as it was.
type Scene struct {
	T     float64     `json:"t" doc:"s since the chapter's recording began"`
	Clip  *uuid.UUID  `json:"clip,omitempty" required:"false"`
	Frame *int        `json:"frame,omitempty" required:"false"`
	View  *[4]float64 `json:"view,omitempty" required:"false" doc:"part of the picture that is shown: x, y, width, height, px"`
	Speed *float64    `json:"speed,omitempty" required:"false" doc:"share of true speed while it plays; 0 when it stands"`
	Over  *[]Drawing  `json:"over,omitempty" required:"false" doc:"what is drawn over the picture"`
}

// Recording is a recording of one chapter.
type Recording struct {
	Name    string  `json:"name" minLength:"1" maxLength:"120"`
	Finding string  `json:"finding,omitempty" required:"false" maxLength:"40" doc:"fault that is spoken of"`
	Stage   []Scene `json:"stage"`
	Voice   []byte  `json:"voice" doc:"as the browser recorded it, base64"`
}

// Chapter is a chapter with its stage.
type Chapter struct {
	store.Chapter
	Scenes []Scene `json:"scenes"`
}

// Limits of a talk.
const (
	MostChapters = 40
	MostSeconds  = 15 * 60
	mostScenes   = 60000
	mostLines    = 400
	longestVoice = 4 << 20
)

// Chapters lists what was said to an attempt.
func (s *Service) Chapters(ctx context.Context, team, attempt uuid.UUID) ([]Chapter, error) {
	rows, err := s.store.Chapters(ctx, team, attempt)
	out := make([]Chapter, len(rows))
	for i, r := range rows {
		if out[i], err = read(r); err != nil {
			return nil, err
		}
	}
	return out, err
}

func read(r store.Chapter) (c Chapter, err error) {
	c.Chapter = r
	return c, json.Unmarshal(r.Stage, &c.Scenes)
}

// Add puts a recording behind the others.
func (s *Service) Add(ctx context.Context, team, attempt uuid.UUID, t Recording) (Chapter, error) {
	voice, seconds, stage, err := s.clean(ctx, team, attempt, t)
	if err != nil {
		return Chapter{}, err
	}
	row, err := s.store.AddChapter(ctx, store.Chapter{TeamID: team, AttemptID: attempt, Name: strings.TrimSpace(t.Name), Finding: t.Finding, Seconds: seconds, Stage: stage}, voice, MostChapters)
	if err != nil {
		return Chapter{}, err
	}
	return read(row)
}

// Again records a chapter anew; its name and place stay.
func (s *Service) Again(ctx context.Context, team, id uuid.UUID, t Recording) (Chapter, error) {
	old, err := s.store.Chapter(ctx, team, id)
	if err != nil {
		return Chapter{}, err
	}
	voice, seconds, stage, err := s.clean(ctx, team, old.AttemptID, t)
	if err != nil {
		return Chapter{}, err
	}
	row, err := s.store.RecordAgain(ctx, team, id, seconds, stage, voice)
	if err != nil {
		return Chapter{}, err
	}
	return read(row)
}

// Cut is a chapter's name and what is kept of it.
type Cut struct {
	Name   string  `json:"name" minLength:"1" maxLength:"120"`
	Starts float64 `json:"starts" minimum:"0" doc:"s"`
	Ends   float64 `json:"ends" doc:"s"`
}

// shortest is the least that may be kept of a chapter, s.
const shortest = 0.5

// Trim changes a chapter's name and what is cut off; the recording itself is kept
// whole, so that a cut can be taken back.
func (s *Service) Trim(ctx context.Context, team, id uuid.UUID, c Cut) (Chapter, error) {
	old, err := s.store.Chapter(ctx, team, id)
	if err != nil {
		return Chapter{}, err
	}
	c.Ends = math.Min(c.Ends, old.Seconds)
	if !(c.Starts >= 0 && c.Ends-c.Starts >= math.Min(shortest, old.Seconds)) {
		return Chapter{}, problem.New(problem.Invalid, "At least half a second of %.1f s must be kept.", old.Seconds)
	}
	row, err := s.store.Trim(ctx, team, id, strings.TrimSpace(c.Name), c.Starts, c.Ends)
	if err != nil {
		return Chapter{}, err
	}
	return read(row)
}

// clean checks a recording and makes it one that can be jumped in.
func (s *Service) clean(ctx context.Context, team, attempt uuid.UUID, t Recording) (voice []byte, seconds float64, stage json.RawMessage, err error) {
	if strings.TrimSpace(t.Name) == "" {
		return nil, 0, nil, problem.New(problem.Invalid, "A chapter needs a name.")
	}
	sh, err := s.bench.Open(ctx, team, attempt)
	if err != nil {
		return nil, 0, nil, err
	}
	if err := Check(sh.Clips, t.Stage); err != nil {
		return nil, 0, nil, problem.New(problem.Invalid, "What happened on the stage cannot be kept: %s.", err)
	}
	if len(t.Voice) > longestVoice {
		return nil, 0, nil, problem.New(problem.Invalid, "This recording is too large. Make chapters of a few minutes.")
	}
	voice, seconds, err = media.Voice(ctx, s.dir, t.Voice)
	if errors.Is(err, media.ErrNoVoice) {
		return nil, 0, nil, problem.New(problem.Invalid, "No voice was recorded. Check that the browser may use the microphone and that it is not muted, then record again.")
	}
	if err != nil {
		return nil, 0, nil, err
	}
	if seconds > MostSeconds {
		return nil, 0, nil, problem.New(problem.Invalid, "A chapter has at most %d minutes.", MostSeconds/60)
	}
	stage, err = json.Marshal(t.Stage)
	return voice, seconds, stage, err
}

// Check refuses scenes that no stage of an attempt with these clips can have shown.
func Check(clips []store.Clip, list []Scene) error {
	if len(list) == 0 || len(list) > mostScenes {
		return fmt.Errorf("it has %d changes; 1 to %d are kept", len(list), mostScenes)
	}
	if list[0].Clip == nil || list[0].Frame == nil || list[0].View == nil {
		return errors.New("it does not begin with a picture")
	}
	frames, t := 0, 0.0
	for _, c := range list {
		if !(c.T >= t && c.T <= MostSeconds+60) {
			return fmt.Errorf("time runs back, or too far, at %g s", c.T)
		}
		t = c.T
		if c.Clip != nil {
			frames = 0
			for _, k := range clips {
				if k.ID == *c.Clip {
					frames = len(k.Stamps)
				}
			}
			if frames == 0 {
				return errors.New("it shows a clip of another attempt")
			}
		}
		if c.Frame != nil && (*c.Frame < 0 || *c.Frame >= frames) {
			return fmt.Errorf("frame %d lies outside its clip", *c.Frame)
		}
		if v := c.View; v != nil && !(v[2] > 0 && v[3] > 0 && v[2] < 1e5 && v[3] < 1e5 && math.Abs(v[0]) < 1e5 && math.Abs(v[1]) < 1e5) {
			return errors.New("it shows no part of the picture")
		}
		if c.Over != nil {
			n := 0
			for _, d := range *c.Over {
				n += len(d.Lines)
				if len(d.Label) > 200 {
					return errors.New("a label is too long")
				}
			}
			if n > mostLines {
				return errors.New("more is drawn over it than can be seen")
			}
		}
	}
	return nil
}

// State is what the stage shows at a moment.
type State struct {
	Clip  uuid.UUID
	Frame int
	View  [4]float64
	Over  []Drawing
}

// Play gives what the stage shows at moments that only go on.
type Play struct {
	list []Scene
	next int
	now  State
}

// NewPlay begins a chapter.
func NewPlay(list []Scene) *Play { return &Play{list: list} }

// At is the state at t s of the recording.
func (p *Play) At(t float64) State {
	for ; p.next < len(p.list) && (p.list[p.next].T <= t || p.next == 0); p.next++ {
		c := p.list[p.next]
		if c.Clip != nil {
			p.now.Clip = *c.Clip
		}
		if c.Frame != nil {
			p.now.Frame = *c.Frame
		}
		if c.View != nil {
			p.now.View = *c.View
		}
		if c.Over != nil {
			p.now.Over = *c.Over
		}
	}
	return p.now
}

// Cues are the chapters on the time of the trimmed whole.
func Cues(list []Chapter) (out []feedback.Cue) {
	at := 0.0
	for i, c := range list {
		end := at + c.Ends - c.Starts
		out = append(out, feedback.Cue{From: at, To: end, ID: fmt.Sprint("chapter ", i+1), Text: strings.Join(strings.Fields(c.Name), " ")})
		at = end
	}
	return out
}

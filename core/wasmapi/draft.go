package wasmapi

import (
	"encoding/binary"
	"errors"
	"iter"
	"math"

	"neokinema/core/kinematics"
	"neokinema/core/pose"
	"neokinema/core/track"
)

// A draft in the browser: the core says at which frame to look, takes the picture, asks
// for a network to be run on a square, takes the answer, asks again, until it knows. Its
// thoughts stand still between two calls.

// DraftCall begins a draft.
type DraftCall struct {
	Clip   pose.Clip         `json:"clip"`
	Points kinematics.Points `json:"points"`
	Box    *pose.Box         `json:"box,omitempty" required:"false"`
	Wish   pose.Wish         `json:"wish"`
}

// DraftAnswer is what is to be looked at, and with what.
type DraftAnswer struct {
	Frames   []int       `json:"frames" doc:"in this order"`
	Networks []pose.Spec `json:"networks"`
}

// DraftLookCall says that the picture of a frame lies in [Session.Buffer].
type DraftLookCall struct {
	Frame  int         `json:"frame"`
	Width  int         `json:"width"`
	Height int         `json:"height"`
	Format pose.Format `json:"format" enum:"I420,NV12,RGBA"`
}

// DraftGoOnCall says that the network's answer lies in [Session.Buffer].
type DraftGoOnCall struct{}

// DraftStep is what a look needs next, or what became of it.
type DraftStep struct {
	Run     pose.Network `json:"run" doc:"network to be run on the square; empty when the look is over"`
	Outcome pose.Outcome `json:"outcome" enum:"found,nobody,other,"`
}

// DraftChangesCall asks for what was found since the last such call.
type DraftChangesCall struct{}

// DraftChangesAnswer are changes of tracks.
type DraftChangesAnswer struct {
	Changes map[string]*track.Track `json:"changes"`
}

// Buffers of a draft that pictures and numbers go through.
const (
	PictureBuffer = iota
	SquareBuffer
	AnswerBuffer
	buffers
)

// looking is a draft between two calls.
type looking struct {
	draft   *pose.Draft
	buffers [buffers][]byte
	next    func() (pose.Network, bool)
	stop    func()
	outcome pose.Outcome
	err     error
	answer  []float32
}

// Buffer is room of n bytes for one of the buffers of a draft.
func (s *Session) Buffer(which, n int) []byte {
	b := &s.looking.buffers[which]
	if len(*b) < n || len(*b) == 0 {
		*b = make([]byte, max(n, 1))
	}
	return *b
}

// Run makes a look stand still until the network's answer is there.
func (l *looking) run(yield func(pose.Network) bool, n pose.Network, square []byte) ([]float32, error) {
	l.buffers[SquareBuffer] = square
	if !yield(n) {
		return nil, errors.New("the look was given up")
	}
	raw := l.buffers[AnswerBuffer]
	l.answer = l.answer[:0]
	for i := 0; i+4 <= len(raw); i += 4 {
		l.answer = append(l.answer, math.Float32frombits(binary.LittleEndian.Uint32(raw[i:])))
	}
	return l.answer, nil
}

type runner struct {
	look  *looking
	yield func(pose.Network) bool
}

func (r runner) Run(n pose.Network, square []byte) ([]float32, error) {
	return r.look.run(r.yield, n, square)
}

func (s *Session) beginDraft(c DraftCall) (DraftAnswer, error) {
	if s.looking.stop != nil {
		s.looking.stop()
	}
	s.looking = looking{draft: pose.New(c.Clip, c.Points, c.Box, c.Wish)}
	return DraftAnswer{s.looking.draft.Frames(), pose.Specs()}, nil
}

func (s *Session) look(c DraftLookCall) (DraftStep, error) {
	l := &s.looking
	if l.draft == nil {
		return DraftStep{}, errors.New("no draft was begun")
	}
	p, err := pose.NewPicture(c.Format, c.Width, c.Height, l.buffers[PictureBuffer])
	if err != nil {
		return DraftStep{}, err
	}
	l.next, l.stop = iter.Pull(func(yield func(pose.Network) bool) {
		l.outcome, l.err = l.draft.Look(c.Frame, p, runner{l, yield})
	})
	return s.goOn(DraftGoOnCall{})
}

func (s *Session) goOn(DraftGoOnCall) (DraftStep, error) {
	l := &s.looking
	if l.next == nil {
		return DraftStep{}, errors.New("no look was begun")
	}
	if n, asks := l.next(); asks {
		return DraftStep{Run: n}, nil
	}
	l.next, l.stop = nil, nil
	return DraftStep{Outcome: l.outcome}, l.err
}

func (s *Session) draftChanges(DraftChangesCall) (DraftChangesAnswer, error) {
	if s.looking.draft == nil {
		return DraftChangesAnswer{}, errors.New("no draft was begun")
	}
	return DraftChangesAnswer{s.looking.draft.Changes()}, nil
}

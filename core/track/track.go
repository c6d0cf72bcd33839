// Package track holds one landmark over a whole clip as compact arrays.
package track

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
)

// Source says where a point came from. What the hand placed outranks the rest.
type Source uint8

// Sources in rising rank.
const (
	None Source = iota
	Filled
	Tracked
	Draft
	Hand
)

var sourceNames = [...]string{"none", "filled", "tracked", "draft", "hand"}

func (s Source) String() string {
	if int(s) < len(sourceNames) {
		return sourceNames[s]
	}
	return "none"
}

// ParseSource reads a source's name.
func ParseSource(name string) (Source, error) {
	for i, n := range sourceNames {
		if n == name && i > 0 {
			return Source(i), nil
		}
	}
	return None, fmt.Errorf("unknown source %q", name)
}

// Point is one landmark in one frame.
type Point struct {
	X          float64 `json:"x" doc:"px to the right in the upright picture"`
	Y          float64 `json:"y" doc:"px down"`
	Source     string  `json:"source" enum:"hand,draft,tracked,filled"`
	Confidence float64 `json:"confidence" doc:"0 to 1" minimum:"0" maximum:"1"`
	Hidden     bool    `json:"hidden" doc:"the place was guessed: the landmark is covered"`
}

// Track is a landmark's points over a clip of n frames: parallel arrays, so that
// a clip of 1,000 frames takes 14 kB a landmark.
type Track struct {
	x, y   []float32
	source []Source
	conf   []uint8
	hidden []bool
}

// New makes an empty track for n frames.
func New(n int) *Track {
	return &Track{make([]float32, n), make([]float32, n), make([]Source, n), make([]uint8, n), make([]bool, n)}
}

// Len is the number of frames.
func (t *Track) Len() int { return len(t.x) }

// At gives the point of a frame, false when there is none.
func (t *Track) At(frame int) (Point, bool) {
	if frame < 0 || frame >= len(t.x) || t.source[frame] == None {
		return Point{}, false
	}
	return Point{
		// A tenth of a pixel is the finest nudge, so float32 noise is cut.
		X: math.Round(float64(t.x[frame])*1000) / 1000, Y: math.Round(float64(t.y[frame])*1000) / 1000,
		Source: t.source[frame].String(), Confidence: float64(t.conf[frame]) / 255, Hidden: t.hidden[frame],
	}, true
}

// Set puts a point; nil takes it away.
func (t *Track) Set(frame int, p *Point) error {
	if frame < 0 || frame >= len(t.x) {
		return fmt.Errorf("frame %d lies outside the clip of %d frames", frame, len(t.x))
	}
	if p == nil {
		t.source[frame] = None
		t.x[frame], t.y[frame], t.conf[frame], t.hidden[frame] = 0, 0, 0, false
		return nil
	}
	s, err := ParseSource(p.Source)
	if err != nil {
		return err
	}
	t.x[frame], t.y[frame], t.source[frame], t.hidden[frame] = float32(p.X), float32(p.Y), s, p.Hidden
	t.conf[frame] = uint8(math.Round(min(max(p.Confidence, 0), 1) * 255))
	return nil
}

// Points lists what is set, by frame.
func (t *Track) Points() map[int]Point {
	out := map[int]Point{}
	for f := range t.x {
		if p, ok := t.At(f); ok {
			out[f] = p
		}
	}
	return out
}

const (
	formatVersion = 1
	bytesPerFrame = 4 + 4 + 1 + 1 + 1
)

// MarshalBinary writes version, frame count, then each array, little endian.
func (t *Track) MarshalBinary() ([]byte, error) {
	b := make([]byte, 0, 5+len(t.x)*bytesPerFrame)
	b = append(b, formatVersion)
	b = binary.LittleEndian.AppendUint32(b, uint32(len(t.x)))
	for _, v := range t.x {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
	}
	for _, v := range t.y {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
	}
	for _, v := range t.source {
		b = append(b, byte(v))
	}
	b = append(b, t.conf...)
	for _, h := range t.hidden {
		if h {
			b = append(b, 1)
		} else {
			b = append(b, 0)
		}
	}
	return b, nil
}

// UnmarshalBinary reads what MarshalBinary wrote and refuses anything else.
func (t *Track) UnmarshalBinary(b []byte) error {
	if len(b) < 5 || b[0] != formatVersion {
		return errors.New("not a track of a known version")
	}
	n := int(binary.LittleEndian.Uint32(b[1:]))
	if len(b) != 5+n*bytesPerFrame {
		return fmt.Errorf("a track of %d frames must have %d bytes, not %d", n, 5+n*bytesPerFrame, len(b))
	}
	*t = *New(n)
	x, y := b[5:], b[5+4*n:]
	rest := b[5+8*n:]
	for i := range n {
		t.x[i] = math.Float32frombits(binary.LittleEndian.Uint32(x[4*i:]))
		t.y[i] = math.Float32frombits(binary.LittleEndian.Uint32(y[4*i:]))
		t.source[i], t.conf[i], t.hidden[i] = Source(rest[i]), rest[n+i], rest[2*n+i] != 0
	}
	return nil
}

// Package track holds one landmark over a clip as compact arrays, and the
// corrections that a coach makes in them.
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

// Letters are one letter a frame; as text on the wire.
type Letters []byte

// MarshalText gives the letters.
func (l Letters) MarshalText() ([]byte, error) { return l, nil }

// UnmarshalText keeps a copy of the letters.
func (l *Letters) UnmarshalText(text []byte) error { *l = append(Letters(nil), text...); return nil }

// The letters of sources. A capital says that the landmark was covered; Keep
// stands in a change for a frame that it leaves as it is.
const (
	letters       = ".ftdh"
	capitals      = ".FTDH"
	Empty    byte = '.'
	Keep     byte = '_'
)

// Track is a landmark from frame From on: parallel arrays, so that a clip of
// 1,000 frames takes 10 kB a landmark. The same shape is a change to a track.
type Track struct {
	From       int       `json:"from" doc:"first frame" minimum:"0"`
	X          []float32 `json:"x" doc:"px, one a frame"`
	Y          []float32 `json:"y"`
	Source     Letters   `json:"source" doc:"one letter a frame: h hand, d draft, t tracked, f filled, capital when covered; . no point; _ (in a change) leave as it is"`
	Confidence []int8    `json:"confidence" doc:"per cent"`
}

// New makes an empty track with room for n frames.
func New(n int) *Track {
	return &Track{X: make([]float32, 0, n), Y: make([]float32, 0, n), Source: make(Letters, 0, n), Confidence: make([]int8, 0, n)}
}

// Blank makes a change of n frames that leaves all as it is.
func Blank(from, n int) *Track {
	t := &Track{From: from, X: make([]float32, n), Y: make([]float32, n), Source: make(Letters, n), Confidence: make([]int8, n)}
	for i := range t.Source {
		t.Source[i] = Keep
	}
	return t
}

// Take makes a change take away the point of a frame that it spans.
func (t *Track) Take(frame int) { t.Source[frame-t.From] = Empty }

// Len is the number of frames that the arrays span.
func (t *Track) Len() int { return len(t.Source) }

// End is the frame after the last.
func (t *Track) End() int { return t.From + len(t.Source) }

// MostFrames is the longest clip that a track can span: more than an hour at 240
// frames a second.
const MostFrames = 1 << 20

// Check refuses arrays of different lengths, unknown letters, places that are no
// numbers and frames beyond [MostFrames].
func (t *Track) Check() error {
	n := len(t.Source)
	if len(t.X) != n || len(t.Y) != n || len(t.Confidence) != n {
		return fmt.Errorf("the arrays of a track must have one entry a frame: %d letters, %d and %d places, %d confidences", n, len(t.X), len(t.Y), len(t.Confidence))
	}
	// By subtraction: a sum of what somebody sent could overflow.
	if t.From < 0 || n > MostFrames || t.From > MostFrames-n {
		return fmt.Errorf("a track cannot begin at frame %d with %d frames", t.From, n)
	}
	for i, c := range t.Source {
		if c != Keep && c != Empty && source(c) == None {
			return fmt.Errorf("unknown source letter %q at frame %d", c, t.From+i)
		}
		if v := float64(t.X[i] + t.Y[i]); math.IsNaN(v) || math.IsInf(v, 0) {
			return fmt.Errorf("the place at frame %d is no number", t.From+i)
		}
	}
	return nil
}

// Inside refuses what no clip of so many frames, width x height px large, can show.
// A place may lie a tenth of the picture outside of it: a tracked joint goes on when
// the athlete leaves.
func (t *Track) Inside(frames, width, height int) error {
	if n := len(t.Source); n > frames || t.From > frames-n {
		return fmt.Errorf("frame %d lies outside this clip of %d frames", max(t.From, frames), frames)
	}
	w, h := float32(width), float32(height)
	for i, c := range t.Source {
		if x, y := t.X[i], t.Y[i]; c != Keep && c != Empty && !(x >= -w/10 && x <= 1.1*w && y >= -h/10 && y <= 1.1*h) {
			return fmt.Errorf("the place at frame %d lies outside the picture", t.From+i)
		}
	}
	return nil
}

func source(letter byte) Source {
	for i := range len(letters) {
		if letters[i] == letter || capitals[i] == letter {
			return Source(i)
		}
	}
	return None
}

func letter(s Source, hidden bool) byte {
	if hidden {
		return capitals[s]
	}
	return letters[s]
}

// SourceAt is the source at a frame, None when there is no point.
func (t *Track) SourceAt(frame int) Source {
	if t == nil || frame < t.From || frame >= t.End() {
		return None
	}
	return source(t.Source[frame-t.From])
}

// At gives the point of a frame, false when there is none.
func (t *Track) At(frame int) (Point, bool) {
	s := t.SourceAt(frame)
	if s == None {
		return Point{}, false
	}
	i := frame - t.From
	return Point{
		// A tenth of a pixel is the finest nudge, so float32 noise is cut.
		X: math.Round(float64(t.X[i])*1000) / 1000, Y: math.Round(float64(t.Y[i])*1000) / 1000,
		Source: s.String(), Confidence: float64(t.Confidence[i]) / 100, Hidden: t.Source[i] == capitals[s],
	}, true
}

// reach makes the arrays span a frame.
func (t *Track) reach(frame int) {
	if len(t.Source) == 0 {
		t.From = frame
	}
	if short := t.From - frame; short > 0 {
		t.X = append(make([]float32, short), t.X...)
		t.Y = append(make([]float32, short), t.Y...)
		t.Confidence = append(make([]int8, short), t.Confidence...)
		pad := make(Letters, short)
		for i := range pad {
			pad[i] = Empty
		}
		t.Source, t.From = append(pad, t.Source...), frame
	}
	for t.End() <= frame {
		t.X, t.Y, t.Confidence, t.Source = append(t.X, 0), append(t.Y, 0), append(t.Confidence, 0), append(t.Source, Empty)
	}
}

// Set puts a point; nil takes it away.
func (t *Track) Set(frame int, p *Point) error {
	if frame < 0 {
		return fmt.Errorf("there is no frame %d", frame)
	}
	if p == nil {
		if t.SourceAt(frame) != None {
			t.put(frame, 0, 0, Empty, 0)
		}
		return nil
	}
	s, err := ParseSource(p.Source)
	if err != nil {
		return err
	}
	t.put(frame, float32(p.X), float32(p.Y), letter(s, p.Hidden), int8(math.Round(min(max(p.Confidence, 0), 1)*100)))
	return nil
}

func (t *Track) put(frame int, x, y float32, letter byte, conf int8) {
	t.reach(frame)
	i := frame - t.From
	t.X[i], t.Y[i], t.Source[i], t.Confidence[i] = x, y, letter, conf
}

// Points lists what is set, by frame.
func (t *Track) Points() map[int]Point {
	out := map[int]Point{}
	for f := t.From; f < t.End(); f++ {
		if p, ok := t.At(f); ok {
			out[f] = p
		}
	}
	return out
}

// Count is the number of points.
func (t *Track) Count() int {
	n := 0
	for _, c := range t.Source {
		if c != Empty && c != Keep {
			n++
		}
	}
	return n
}

// Clone is a copy that shares nothing.
func (t *Track) Clone() *Track {
	return &Track{From: t.From, X: append([]float32(nil), t.X...), Y: append([]float32(nil), t.Y...),
		Source: append(Letters(nil), t.Source...), Confidence: append([]int8(nil), t.Confidence...)}
}

// Only is the track of some frames alone, numbered anew. Each stands for those up to the
// next, too: a point that a hand has set there is its point.
func (t *Track) Only(frames []int) *Track {
	out := New(len(frames))
	for i, f := range frames {
		end := f + 1
		if i+1 < len(frames) {
			end = frames[i+1]
		}
		at := f
		for g := f; g < end; g++ {
			if t.SourceAt(g) == Hand {
				at = g
				break
			}
		}
		if t.SourceAt(at) != None {
			j := at - t.From
			out.put(i, t.X[j], t.Y[j], t.Source[j], t.Confidence[j])
		}
	}
	return out
}

// Spread is the change of a whole track that a change of some of its frames, numbered as
// by [Track.Only], means; again tells frames that show the same as the one before.
func (t *Track) Spread(frames []int, again func(frame int) bool) *Track {
	if t.Len() == 0 {
		return New(0)
	}
	out := Blank(frames[t.From], frames[t.End()-1]-frames[t.From]+1)
	for i := range t.Source {
		f := frames[t.From+i]
		for g := f; g == f || g < out.End() && again(g); g++ {
			out.put(g, t.X[i], t.Y[i], t.Source[i], t.Confidence[i])
		}
	}
	return out
}

// Trim cuts empty frames off both ends.
func (t *Track) Trim() *Track {
	a, b := 0, len(t.Source)
	for a < b && t.Source[a] == Empty {
		a++
	}
	for b > a && t.Source[b-1] == Empty {
		b--
	}
	return &Track{From: t.From + a, X: t.X[a:b], Y: t.Y[a:b], Source: t.Source[a:b], Confidence: t.Confidence[a:b]}
}

// Apply makes a change and gives the change that takes it back. Points set by
// hand give way to the hand only, unless over is set (the coach swaps or deletes
// a stretch).
func (t *Track) Apply(change *Track, over bool) (back *Track) {
	back = &Track{From: change.From}
	for i, c := range change.Source {
		f := change.From + i
		was := t.SourceAt(f)
		if c == Keep || !over && was == Hand && source(c) != Hand {
			back.put(f, 0, 0, Keep, 0)
			continue
		}
		if was == None {
			back.put(f, 0, 0, Empty, 0)
		} else {
			j := f - t.From
			back.put(f, t.X[j], t.Y[j], t.Source[j], t.Confidence[j])
		}
		if c != Empty || was != None {
			t.put(f, change.X[i], change.Y[i], c, change.Confidence[i])
		}
	}
	return back
}

const (
	oldVersion    = 1
	formatVersion = 2
)

// MarshalBinary writes version, first frame, frame count, then each array,
// little endian.
func (t *Track) MarshalBinary() ([]byte, error) {
	if err := t.Check(); err != nil {
		return nil, err
	}
	t = t.Trim()
	b := make([]byte, 0, 9+10*len(t.Source))
	b = append(b, formatVersion)
	b = binary.LittleEndian.AppendUint32(b, uint32(t.From))
	b = binary.LittleEndian.AppendUint32(b, uint32(len(t.Source)))
	for _, axis := range [][]float32{t.X, t.Y} {
		for _, v := range axis {
			b = binary.LittleEndian.AppendUint32(b, math.Float32bits(v))
		}
	}
	b = append(b, t.Source...)
	for _, c := range t.Confidence {
		b = append(b, byte(c))
	}
	return b, nil
}

// UnmarshalBinary reads what MarshalBinary wrote, now or in version 1, and
// refuses anything else.
func (t *Track) UnmarshalBinary(b []byte) error {
	if len(b) >= 5 && b[0] == oldVersion {
		return t.old(b)
	}
	if len(b) < 9 || b[0] != formatVersion {
		return errors.New("not a track of a known version")
	}
	n := int(binary.LittleEndian.Uint32(b[5:]))
	if len(b) != 9+10*n {
		return fmt.Errorf("a track of %d frames must have %d bytes, not %d", n, 9+10*n, len(b))
	}
	*t = Track{From: int(binary.LittleEndian.Uint32(b[1:])), X: make([]float32, n), Y: make([]float32, n), Source: make(Letters, n), Confidence: make([]int8, n)}
	for i := range n {
		t.X[i] = math.Float32frombits(binary.LittleEndian.Uint32(b[9+4*i:]))
		t.Y[i] = math.Float32frombits(binary.LittleEndian.Uint32(b[9+4*n+4*i:]))
		t.Source[i], t.Confidence[i] = b[9+8*n+i], int8(b[9+9*n+i])
	}
	return t.Check()
}

// old reads version 1: from frame 0 on, sources as numbers, confidence of 255,
// and one more array that says what was covered.
func (t *Track) old(b []byte) error {
	n := int(binary.LittleEndian.Uint32(b[1:]))
	if len(b) != 5+11*n {
		return fmt.Errorf("a track of %d frames must have %d bytes, not %d", n, 5+11*n, len(b))
	}
	*t = Track{}
	for i := range n {
		s := Source(b[5+8*n+i])
		if s == None || s > Hand {
			continue
		}
		t.put(i, math.Float32frombits(binary.LittleEndian.Uint32(b[5+4*i:])), math.Float32frombits(binary.LittleEndian.Uint32(b[5+4*n+4*i:])),
			letter(s, b[5+10*n+i] != 0), int8(math.Round(float64(b[5+9*n+i])/2.55)))
	}
	return t.Check()
}

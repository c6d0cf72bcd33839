package exchange

import (
	"errors"

	"neokinema/core/body"
	"neokinema/core/kinematics"
)

// ErrKind is of a file that is neither.
var ErrKind = errors.New("this file is neither C3D nor COCO keypoints as JSON")

// Read reads a file of points in either format as a take; Picture is what it says of the
// picture in which they lie, zero where it says nothing. COCO files tell no rate: 0.
func Read(raw []byte) (Take, Picture, error) {
	if len(raw) > 1 && raw[1] == c3dMark && raw[0] != '{' {
		t, err := ReadC3D(raw)
		return t, Picture{Frames: len(t.Frames)}, err
	}
	p, of, err := ReadCOCO(raw)
	if errors.Is(err, ErrCOCO) && (len(raw) == 0 || raw[0] != '{') {
		err = ErrKind
	}
	if err != nil {
		return Take{}, of, err
	}
	return TakeOf(p, of.Frames, 0, nil, nil), of, nil
}

// In are the points of a take in a clip: first is the clip's frame of its first one, rate the
// clip's, and the picture that of the clip, since points may have been read in a smaller copy.
// Between two frames of the take points lie on the line between them.
func (t Take) In(first, frames int, rate float64, of, clip Picture) (kinematics.Points, error) {
	p, _, err := t.Points()
	if err != nil {
		return nil, err
	}
	step := 1.0 // frames of the take a frame of the clip
	if t.Rate > 0 && rate > 0 {
		step = t.Rate / rate
	}
	sx, sy := 1.0, 1.0
	if of.Width > 0 && of.Height > 0 && clip.Width > 0 && clip.Height > 0 {
		sx, sy = float64(clip.Width)/float64(of.Width), float64(clip.Height)/float64(of.Height)
	}
	return resampled(p, first, frames, step, sx, sy), nil
}

// column is where a landmark stands in the frames; -1 where it does not.
func (t Take) column(id string) int {
	for i, name := range t.Labels {
		if known(name) == id {
			return i
		}
	}
	return -1
}

// At is where a landmark is in a frame of the take, false where it was not seen.
func (t Take) At(id string, frame int) (Place, bool) {
	i := t.column(id)
	if i < 0 || frame < 0 || frame >= len(t.Frames) {
		return Place{}, false
	}
	q := t.Frames[frame][i]
	return q, q.Valid
}

// Foot tells whether an event is a foot that comes down or leaves, and whose.
func (e Event) Foot() (side body.Side, down, ok bool) {
	side = body.Left
	if e.Context == "Right" {
		side = body.Right
	}
	return side, e.Label == strike, (e.Label == strike || e.Label == off) && (e.Context == "Left" || e.Context == "Right")
}

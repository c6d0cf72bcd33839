package exchange

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strings"
)

// Take is what a C3D file holds of it here: points over frames, and named moments. Analogue
// channels are passed over.
type Take struct {
	Rate   float64 // frames a second
	Units  string  // of the coordinates: "px" of a picture, "m" or "mm" of the world
	Labels []string
	Frames [][]Place // of each frame the points in the order of Labels
	Events []Event
}

// Place is a point in a frame; Valid is false where it was not seen.
type Place struct {
	X, Y, Z float64
	Valid   bool
}

// Event is a named moment, s from the first frame; Context says whose: Left, Right or General.
type Event struct {
	Context, Label string
	Time           float64
}

// Errors of C3D files; they say what to do.
var (
	ErrC3D       = errors.New("this is no C3D file, or it is cut off")
	ErrProcessor = errors.New("this C3D file was written for a processor that is no longer made; save it again for Intel")
)

// Of the format: sizes in bytes, marks, and the limits of its numbers.
const (
	block      = 512
	c3dMark    = 0x50
	intel      = 84
	mostLabels = 255
	mostC3D    = 65535 // frames: a 16-bit number
	labelLong  = 32
)

// WriteC3D writes a take as floating-point coordinates for Intel.
func WriteC3D(t Take) ([]byte, error) {
	points, frames := len(t.Labels), len(t.Frames)
	switch {
	case points == 0 || points > mostLabels:
		return nil, fmt.Errorf("a C3D file holds 1 to %d points, not %d", mostLabels, points)
	case frames == 0 || frames > mostC3D:
		return nil, fmt.Errorf("a C3D file holds 1 to %d frames, not %d", mostC3D, frames)
	case len(t.Events) > mostLabels:
		return nil, fmt.Errorf("a C3D file holds %d events at most, not %d", mostLabels, len(t.Events))
	case !(t.Rate > 0):
		return nil, errors.New("a C3D file needs the rate of its frames")
	}
	var p parameters
	p.group(1, "POINT")
	p.words(1, "USED", int16(points))
	p.floats(1, "SCALE", nil, -1)
	p.floats(1, "RATE", nil, float32(t.Rate))
	start := p.words(1, "DATA_START", 0)
	p.words(1, "FRAMES", int16(uint16(frames)))
	p.texts(1, "LABELS", labelLong, t.Labels)
	p.texts(1, "UNITS", 4, []string{t.Units})
	p.group(2, "ANALOG")
	p.words(2, "USED", 0)
	p.group(3, "EVENT")
	p.words(3, "USED", int16(len(t.Events)))
	if len(t.Events) > 0 {
		var contexts, labels []string
		var times []float32
		for _, e := range t.Events {
			contexts, labels = append(contexts, e.Context), append(labels, e.Label)
			minutes := math.Floor(e.Time / 60)
			times = append(times, float32(minutes), float32(e.Time-60*minutes))
		}
		p.texts(3, "CONTEXTS", 16, contexts)
		p.texts(3, "LABELS", labelLong, labels)
		p.floats(3, "TIMES", []byte{2, byte(len(t.Events))}, times...)
	}
	section := p.done()
	blocks := (len(section) + block - 1) / block
	section = append(section, make([]byte, blocks*block-len(section))...)
	section[2] = byte(blocks)
	data := 2 + blocks
	binary.LittleEndian.PutUint16(section[start:], uint16(data))

	var out bytes.Buffer
	header := make([]byte, block)
	put := func(word int, v uint16) { binary.LittleEndian.PutUint16(header[2*(word-1):], v) }
	header[0], header[1] = 2, c3dMark
	put(2, uint16(points))
	put(4, 1)
	put(5, uint16(frames))
	binary.LittleEndian.PutUint32(header[12:], math.Float32bits(-1)) // negative: floating-point data
	put(9, uint16(data))
	binary.LittleEndian.PutUint32(header[20:], math.Float32bits(float32(t.Rate)))
	out.Write(header)
	out.Write(section)
	for _, f := range t.Frames {
		if len(f) != points {
			return nil, errors.New("every frame of a take holds all of its points")
		}
		for _, q := range f {
			seen := float32(0)
			if !q.Valid {
				q, seen = Place{}, -1
			}
			for _, v := range []float32{float32(q.X), float32(q.Y), float32(q.Z), seen} {
				_ = binary.Write(&out, binary.LittleEndian, v) // into memory
			}
		}
	}
	if rest := out.Len() % block; rest > 0 {
		out.Write(make([]byte, block-rest))
	}
	return out.Bytes(), nil
}

// parameters writes the section of parameters: groups first name themselves, then their
// parameters follow.
type parameters struct{ b bytes.Buffer }

func (p *parameters) begin() {
	if p.b.Len() == 0 {
		p.b.Write([]byte{1, c3dMark, 0, intel})
	}
}

func (p *parameters) group(id int, name string) {
	p.begin()
	p.b.WriteByte(byte(len(name)))
	p.b.WriteByte(byte(int8(-id)))
	p.b.WriteString(name)
	p.b.Write([]byte{3, 0, 0}) // to the next: over this offset and an empty description
}

// value writes a parameter and says where its data begin.
func (p *parameters) value(id int, name string, kind int8, dims, data []byte) (at int) {
	p.b.WriteByte(byte(len(name)))
	p.b.WriteByte(byte(id))
	p.b.WriteString(name)
	next := 2 + 1 + 1 + len(dims) + len(data) + 1
	_ = binary.Write(&p.b, binary.LittleEndian, uint16(next))
	p.b.WriteByte(byte(kind))
	p.b.WriteByte(byte(len(dims)))
	p.b.Write(dims)
	at = p.b.Len()
	p.b.Write(data)
	p.b.WriteByte(0)
	return at
}

func (p *parameters) words(id int, name string, v int16) int {
	return p.value(id, name, 2, nil, binary.LittleEndian.AppendUint16(nil, uint16(v)))
}

func (p *parameters) floats(id int, name string, dims []byte, v ...float32) int {
	var data []byte
	for _, x := range v {
		data = binary.LittleEndian.AppendUint32(data, math.Float32bits(x))
	}
	return p.value(id, name, 4, dims, data)
}

func (p *parameters) texts(id int, name string, long int, list []string) int {
	var data []byte
	for _, s := range list {
		if len(s) > long {
			s = s[:long]
		}
		data = append(data, s+strings.Repeat(" ", long-len(s))...)
	}
	return p.value(id, name, -1, []byte{byte(long), byte(len(list))}, data)
}

// done ends the section: a name of no length.
func (p *parameters) done() []byte { return append(p.b.Bytes(), 0, 0) }

// parameter is one that was read.
type parameter struct {
	kind int8
	dims []int
	data []byte
}

func (p parameter) number(i int) float64 {
	switch p.kind {
	case 1:
		if i < len(p.data) {
			return float64(p.data[i])
		}
	case 2:
		if 2*i+2 <= len(p.data) {
			return float64(int16(binary.LittleEndian.Uint16(p.data[2*i:])))
		}
	case 4:
		if 4*i+4 <= len(p.data) {
			return float64(math.Float32frombits(binary.LittleEndian.Uint32(p.data[4*i:])))
		}
	}
	return 0
}

func (p parameter) texts() (out []string) {
	if p.kind != -1 || len(p.dims) == 0 || p.dims[0] == 0 {
		return nil
	}
	for i := 0; i+p.dims[0] <= len(p.data); i += p.dims[0] {
		out = append(out, strings.TrimRight(string(p.data[i:i+p.dims[0]]), " \x00"))
	}
	return out
}

// readParameters reads "GROUP:NAME" to parameter.
func readParameters(raw []byte) (map[string]parameter, error) {
	if len(raw) < 4 {
		return nil, ErrC3D
	}
	if raw[3] != intel {
		return nil, ErrProcessor
	}
	groups, out := map[int8]string{}, map[string]parameter{}
	type kept struct {
		group int8
		name  string
		parameter
	}
	var list []kept
	for at := 4; at+2 <= len(raw); {
		long, id := int(int8(raw[at])), int8(raw[at+1])
		if long < 0 {
			long = -long // locked
		}
		if long == 0 || id == 0 {
			break
		}
		name := at + 2
		if name+long+2 > len(raw) {
			return nil, ErrC3D
		}
		text := strings.ToUpper(string(raw[name : name+long]))
		next := name + long + int(binary.LittleEndian.Uint16(raw[name+long:]))
		if id < 0 {
			groups[-id] = text
		} else {
			body := name + long + 2
			if body+2 > len(raw) {
				return nil, ErrC3D
			}
			p := parameter{kind: int8(raw[body])}
			count, size := int(raw[body+1]), 1
			from := body + 2 + count
			if from > len(raw) {
				return nil, ErrC3D
			}
			for _, d := range raw[body+2 : from] {
				p.dims = append(p.dims, int(d))
				size *= int(d)
			}
			if p.kind != -1 {
				size *= int(p.kind)
			}
			if p.kind < -1 || p.kind == 0 || size < 0 || from+size > len(raw) {
				return nil, ErrC3D
			}
			p.data = raw[from : from+size]
			list = append(list, kept{id, text, p})
		}
		if next <= at {
			break // the last one
		}
		at = next
	}
	for _, k := range list {
		out[groups[k.group]+":"+k.name] = k.parameter
	}
	return out, nil
}

// ReadC3D reads points and events.
func ReadC3D(raw []byte) (Take, error) {
	var t Take
	if len(raw) < 2*block || raw[1] != c3dMark || raw[0] < 2 {
		return t, ErrC3D
	}
	word := func(n int) int { return int(binary.LittleEndian.Uint16(raw[2*(n-1):])) }
	section := (int(raw[0]) - 1) * block
	if section >= len(raw) {
		return t, ErrC3D
	}
	params, err := readParameters(raw[section:])
	if err != nil {
		return t, err
	}
	points, analog, first, last := word(2), word(3), word(4), word(5)
	scale := math.Float32frombits(binary.LittleEndian.Uint32(raw[12:]))
	t.Rate = float64(math.Float32frombits(binary.LittleEndian.Uint32(raw[20:])))
	if r := params["POINT:RATE"].number(0); r > 0 {
		t.Rate = r
	}
	frames := last - first + 1
	if points == 0 || points > mostPoints || frames <= 0 || !(t.Rate > 0) || math.IsInf(t.Rate, 0) || math.IsNaN(float64(scale)) || scale == 0 {
		return t, ErrC3D
	}
	if u := params["POINT:UNITS"].texts(); len(u) > 0 {
		t.Units = u[0]
	}
	t.Labels = params["POINT:LABELS"].texts()
	for n := 2; len(t.Labels) < points; n++ {
		more := params[fmt.Sprintf("POINT:LABELS%d", n)].texts()
		if len(more) == 0 {
			break
		}
		t.Labels = append(t.Labels, more...)
	}
	for len(t.Labels) < points {
		t.Labels = append(t.Labels, fmt.Sprintf("point_%d", len(t.Labels)+1))
	}
	t.Labels = t.Labels[:points]
	size := 4
	if scale > 0 {
		size = 2
	}
	at, step := (word(9)-1)*block, size*(4*points+analog)
	if at < block || at+frames*step > len(raw) {
		return t, ErrC3D
	}
	for f := range frames {
		row := make([]Place, points)
		for i := range row {
			from := at + f*step + 4*size*i
			v := func(k int) float64 {
				if size == 2 {
					return float64(int16(binary.LittleEndian.Uint16(raw[from+2*k:])))
				}
				return float64(math.Float32frombits(binary.LittleEndian.Uint32(raw[from+4*k:])))
			}
			k := 1.0
			if size == 2 {
				k = float64(scale)
			}
			row[i] = Place{X: k * v(0), Y: k * v(1), Z: k * v(2), Valid: v(3) >= 0}
			if x := row[i]; math.IsNaN(x.X+x.Y+x.Z) || math.IsInf(x.X+x.Y+x.Z, 0) {
				row[i] = Place{}
			}
			if !row[i].Valid {
				row[i] = Place{}
			}
		}
		t.Frames = append(t.Frames, row)
	}
	contexts, labels, times := params["EVENT:CONTEXTS"].texts(), params["EVENT:LABELS"].texts(), params["EVENT:TIMES"]
	for i := range labels {
		e := Event{Label: labels[i], Time: 60*times.number(2*i) + times.number(2*i+1)}
		if i < len(contexts) {
			e.Context = contexts[i]
		}
		if !math.IsNaN(e.Time) && !math.IsInf(e.Time, 0) {
			t.Events = append(t.Events, e)
		}
	}
	return t, nil
}

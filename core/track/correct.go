package track

import (
	"errors"
	"math"

	"neokinema/core/signal"
)

// Bend is the change that puts a point where the hand let it go and takes the
// computed neighbours along: the shift fades as a half cosine, to nothing at
// radius frames away or at the next point that a hand has set, whichever is
// nearer. Frames without a point stay empty.
func (t *Track) Bend(frame int, to Point, radius int) (*Track, error) {
	out := &Track{}
	was, had := t.At(frame)
	if had && radius > 0 {
		dx, dy := to.X-was.X, to.Y-was.Y
		for _, way := range []int{-1, 1} {
			reach := radius + 1
			for d := 1; d <= radius; d++ {
				if t.SourceAt(frame+way*d) == Hand {
					reach = d
					break
				}
			}
			for d := 1; d < reach; d++ {
				f := frame + way*d
				if s := t.SourceAt(f); s == None || f < 0 {
					continue
				}
				w := (1 + math.Cos(math.Pi*float64(d)/float64(reach))) / 2
				i := f - t.From
				out.put(f, t.X[i]+float32(w*dx), t.Y[i]+float32(w*dy), t.Source[i], t.Confidence[i])
			}
		}
	}
	if err := out.Set(frame, &to); err != nil {
		return nil, err
	}
	// What lies between but was empty before must stay so.
	for i, c := range out.Source {
		if c == Empty {
			out.Source[i] = Keep
		}
	}
	return out, nil
}

// FilledConfidence is what a filled point is trusted; it falls with the
// distance to the next seen one, in [Fill]. Assumed.
const FilledConfidence = 0.6

// Fill is the change that closes gaps of up to most frames between from and to
// by the curve of [signal.Monotone] through the points around, which does not
// overshoot. It refuses a range
// without two points.
func (t *Track) Fill(from, to, most int) (*Track, error) {
	var fs, xs, ys []float64
	for f := t.From; f < t.End(); f++ {
		if p, ok := t.At(f); ok {
			fs, xs, ys = append(fs, float64(f)), append(xs, p.X), append(ys, p.Y)
		}
	}
	if len(fs) < 2 {
		return nil, errors.New("a gap needs a point on both sides to be filled")
	}
	px, py := signal.NewMonotone(fs, xs), signal.NewMonotone(fs, ys)
	out := &Track{}
	for i := 1; i < len(fs); i++ {
		a, b := int(fs[i-1]), int(fs[i])
		if b-a-1 > most {
			continue
		}
		for f := max(a+1, from); f < b && f <= to; f++ {
			near := min(f-a, b-f)
			c := int8(100 * FilledConfidence / (1 + 0.1*float64(near-1)))
			out.put(f, float32(px.At(float64(f))), float32(py.At(float64(f))), letter(Filled, false), c)
		}
	}
	for i, c := range out.Source {
		if c == Empty {
			out.Source[i] = Keep
		}
	}
	return out, nil
}

// Swap is the pair of changes that exchanges two tracks between two frames,
// both included.
func Swap(a, b *Track, from, to int) (forA, forB *Track) {
	take := func(t *Track) *Track {
		out := &Track{}
		for f := max(0, from); f <= to; f++ {
			if t.SourceAt(f) == None {
				out.put(f, 0, 0, Empty, 0)
				continue
			}
			i := f - t.From
			out.put(f, t.X[i], t.Y[i], t.Source[i], t.Confidence[i])
		}
		return out
	}
	return take(b), take(a)
}

// Clear is the change that empties a track between two frames.
func Clear(from, to int) *Track {
	out := &Track{}
	for f := max(0, from); f <= to; f++ {
		out.put(f, 0, 0, Empty, 0)
	}
	return out
}

package pose

import "slices"

// Who performs is who moves: others stand about. Before anything is drafted, pictures from
// all over the clip are kept small; at the first look they tell where something changes. A
// person who was found where nothing does is left for one who is found where it does. With a
// camera that follows the athlete everything changes, and nobody is left.
const (
	scouts       = 9    // pictures
	scoutsLeast  = 5    // of which that many must be there
	scoutWide    = 160  // px: they are not wider
	goneIn       = 3    // of those pictures somebody must be gone from where he is now
	changed      = 16.0 // of 255: more than noise
	stirredLeast = 12   // px of the small picture: what changes there can be a person
	standsAbout  = 0.25 // of a person's joints: who moves no more stands about
	performs     = 0.5  // of them: who moves so many performs
)

// scoutFrames are the frames that are kept, evenly over a stretch.
func scoutFrames(c Clip, from, to int) (out []int) {
	for i := range scouts {
		f := c.Pictures.Of(from + (to-from)*i/(scouts-1))
		if f >= from && (len(out) == 0 || f > out[len(out)-1]) {
			out = append(out, f)
		}
	}
	return out
}

// small is a picture's brightness, halved until it is small, and how often that was.
func (p *Picture) small() (l plane, halvings int) {
	for l = p.level(0).y; l.w > scoutWide; l = p.level(halvings).y {
		halvings++
	}
	l.pix = slices.Clone(l.pix) // the picture's bytes are used again
	return l, halvings
}

// stirred is where a picture differs from others: what changes there, as a small picture.
type stirred struct {
	w, h  int
	scale float64 // px of the picture for one of it
	by    []float64
}

// stirring compares a picture with those kept; false when there are too few.
func stirring(p *Picture, kept []plane) (s stirred, ok bool) {
	l, halvings := p.small()
	s = stirred{l.w, l.h, float64(int(1) << halvings), make([]float64, l.w*l.h)}
	if len(kept) < scoutsLeast {
		return s, false
	}
	var off [scouts]float64
	for y := range l.h {
		for x := range l.w {
			for i, k := range kept {
				off[i] = k.differs(l, x, y)
			}
			slices.Sort(off[:len(kept)])
			if d := off[len(kept)-goneIn]; d > changed {
				s.by[y*l.w+x] = d
			}
		}
	}
	return s, true
}

// differs is how far a value of another plane is from the nearest about that place here, so
// that a camera that shakes by a pixel changes nothing.
func (p plane) differs(o plane, x, y int) float64 {
	v, best := int(o.pix[y*o.stride+x*o.step]), 255
	for j := max(0, y-1); j <= min(p.h-1, y+1); j++ {
		for i := max(0, x-1); i <= min(p.w-1, x+1); i++ {
			best = min(best, abs(v-int(p.pix[j*p.stride+i*p.step])))
		}
	}
	return float64(best)
}

// of is the share of a person's joints at which the picture changes.
func (s stirred) of(b Body) float64 {
	n, moved := 0.0, 0.0
	for _, j := range b {
		x, y := int(j.X/s.scale), int(j.Y/s.scale)
		if j.Score < seenAt || x < 0 || y < 0 || x >= s.w || y >= s.h {
			continue
		}
		n++
		moved += boolTo(s.by[y*s.w+x] > 0)
	}
	return moved / max(n, 1)
}

// most is where most changes: the connected part of the picture with the largest sum.
func (s stirred) most() (at Region, ok bool) {
	seen, best := make([]bool, len(s.by)), 0.0
	for from := range s.by {
		if seen[from] || s.by[from] == 0 {
			continue
		}
		seen[from] = true
		x0, y0, x1, y1, n, sum := s.w, s.h, 0, 0, 0, 0.0
		for todo := []int{from}; len(todo) > 0; {
			c := todo[len(todo)-1]
			todo = todo[:len(todo)-1]
			x, y := c%s.w, c/s.w
			x0, y0, x1, y1, n, sum = min(x0, x), min(y0, y), max(x1, x), max(y1, y), n+1, sum+s.by[c]
			for j := max(0, y-2); j <= min(s.h-1, y+2); j++ { // a thin arm or a stripe does not part a person
				for i := max(0, x-2); i <= min(s.w-1, x+2); i++ {
					if k := j*s.w + i; !seen[k] && s.by[k] > 0 {
						seen[k] = true
						todo = append(todo, k)
					}
				}
			}
		}
		if n >= stirredLeast && sum > best {
			best, ok = sum, true
			at = Region{float64(x0+x1+1) / 2 * s.scale, float64(y0+y1+1) / 2 * s.scale, float64(max(x1-x0, y1-y0)+1) * s.scale}
		}
	}
	return at, ok
}

// first finds the athlete where nothing is known of him yet: the person who stands out, or
// the one who moves when that one does not.
func (d *Draft) first(l looker) (Body, Region, error) {
	body, seen, err := l.find(nil)
	if err != nil {
		return nil, seen, err
	}
	s, ok := stirring(l.picture, d.kept)
	if !ok {
		return body, seen, nil
	}
	moves, ok := s.most()
	if !ok || body != nil && s.of(body) > standsAbout {
		return body, seen, nil
	}
	other, at, err := l.find(&Region{moves.X, moves.Y, roomAbout * max(moves.Side, tallLeast)})
	if err != nil || other == nil || s.of(other) < performs {
		return body, seen, err
	}
	return other, at, nil
}

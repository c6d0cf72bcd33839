package media

import (
	"io"
	"math"
	"slices"
	"sort"

	"neokinema/core/timebase"
	"neokinema/core/vision"
)

// Motion is a rough look at what moves in a clip, and where. It only suggests: the coach
// confirms.
type Motion struct {
	Direction float64 // +1 to the right, -1 to the left, 0 not clear
	Share     float64 // height of the moving figure over the picture height; 0 not clear
	Pictures  timebase.Pictures
}

const lookWidth, lookHeight, looks = 320, 180, 24

// motionSeeker compares small grey pictures: each with the one before, which shows copies, and
// some that are spread over the clip with their median, which is the background when the
// camera stands still.
type motionSeeker struct {
	copies vision.Copies
	kept   [][]byte // every so many pictures
	every  int
	n      int
}

// read takes small grey pictures from a stream until it ends.
func (s *motionSeeker) read(r io.Reader) error {
	pix := make([]byte, lookWidth*lookHeight)
	for {
		if _, err := io.ReadFull(r, pix); err != nil {
			return err
		}
		s.copies.Add(lookWidth, lookHeight, pix)
		if s.every = max(1, s.every); s.n%s.every == 0 {
			s.kept = append(s.kept, slices.Clone(pix))
		}
		s.n++
		if len(s.kept) == 2*looks { // half of them are enough, spread over twice as much
			for i := range looks {
				s.kept[i] = s.kept[2*i]
			}
			s.kept, s.every = s.kept[:looks], 2*s.every
		}
	}
}

// motion is what the pictures tell.
func (s *motionSeeker) motion() (m Motion) {
	m.Pictures = s.copies.Pictures()
	const size = lookWidth * lookHeight
	n := len(s.kept)
	if n < 4 {
		return m
	}
	background := make([]byte, size)
	column := make([]byte, n)
	for p := range size {
		for i := range n {
			column[i] = s.kept[i][p]
		}
		sort.Slice(column, func(a, b int) bool { return column[a] < column[b] })
		background[p] = column[n/2]
	}
	var first, last, total, tall float64
	var seen int
	for i := range n {
		var count, sum float64
		rows := make([]int, lookHeight)
		for p := range size {
			if d := int(s.kept[i][p]) - int(background[p]); d > 28 || d < -28 {
				count, sum = count+1, sum+float64(p%lookWidth)
				rows[p/lookWidth]++
			}
		}
		if count > size/4 { // the picture as a whole moves
			return m
		}
		if count < 30 {
			continue
		}
		top, bottom := -1, -1
		for y, c := range rows {
			if c >= 3 {
				if top < 0 {
					top = y
				}
				bottom = y
			}
		}
		tall = math.Max(tall, float64(bottom-top+1)/lookHeight)
		if seen == 0 {
			first = sum / count
		}
		last = sum / count
		seen++
		total += count
	}
	if seen >= 4 {
		m.Share = tall
		if move := last - first; math.Abs(move) > lookWidth/12 {
			m.Direction = math.Copysign(1, move)
		}
	}
	return m
}

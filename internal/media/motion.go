package media

import (
	"context"
	"math"
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

// LookForMotion compares small grey pictures: each with the one before, which shows copies,
// and some that are spread over the clip with their median, which is the background when
// the camera stands still.
func LookForMotion(ctx context.Context, proxy string, stamps []int64) (m Motion, err error) {
	step := max(1, len(stamps)/looks)
	var out []byte
	var copies vision.Copies
	err = Grays(ctx, proxy, stamps, 0, len(stamps)-1, lookWidth, lookHeight, Shrink, func(p Picture) error {
		copies.Add(p.Width, p.Height, p.Pix)
		if p.Frame%step == 0 {
			out = append(out, p.Pix...)
		}
		return nil
	})
	if err != nil {
		return m, err
	}
	m.Pictures = copies.Pictures()
	const size = lookWidth * lookHeight
	n := len(out) / size
	if n < 4 {
		return m, nil
	}
	background := make([]byte, size)
	column := make([]byte, n)
	for p := range size {
		for i := range n {
			column[i] = out[i*size+p]
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
			if d := int(out[i*size+p]) - int(background[p]); d > 28 || d < -28 {
				count, sum = count+1, sum+float64(p%lookWidth)
				rows[p/lookWidth]++
			}
		}
		if count > size/4 { // the picture as a whole moves
			return m, nil
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
	return m, nil
}

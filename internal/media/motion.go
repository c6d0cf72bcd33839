package media

import (
	"context"
	"fmt"
	"math"
	"sort"
)

// Motion is a rough look at who moves where in a clip with a still camera. It
// only suggests: the coach confirms.
type Motion struct {
	Direction float64 // +1 to the right, -1 to the left, 0 not clear
	Share     float64 // height of the moving figure over the picture height; 0 not clear
}

const lookWidth, lookHeight, looks = 192, 108, 24

// LookForMotion compares small grey pictures spread over the clip with their
// median, which is the background when the camera stands still.
func LookForMotion(ctx context.Context, proxy string, frames int) (Motion, error) {
	step := max(1, frames/looks)
	c := newCall(ctx, "ffmpeg", longTime)
	if err := c.input(proxy); err != nil {
		c.close()
		return Motion{}, err
	}
	out, err := c.add("-map", "0:V:0",
		"-vf", fmt.Sprintf("select='not(mod(n,%d))',scale=%d:%d,format=gray", step, lookWidth, lookHeight),
		"-fps_mode", "passthrough", "-f", "rawvideo", "pipe:1").output()
	if err != nil {
		return Motion{}, err
	}
	const size = lookWidth * lookHeight
	n := len(out) / size
	if n < 4 {
		return Motion{}, nil
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
			return Motion{}, nil
		}
		if count < 12 {
			continue
		}
		top, bottom := -1, -1
		for y, c := range rows {
			if c >= 2 {
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
	m := Motion{}
	if seen >= 4 {
		m.Share = tall
		if move := last - first; math.Abs(move) > lookWidth/12 {
			m.Direction = math.Copysign(1, move)
		}
	}
	return m, nil
}

package simcam

import (
	"image"
	"image/color"
	"image/png"
	"io"
)

// WriteSheet draws frames side by side as one PNG, so many in a row, each at a
// share of its size: the way to look a movement over.
func (sc *Scene) WriteSheet(w io.Writer, frames []int, columns, shrink int) error {
	s := sc.Truth.Spec
	tw, th := s.Width/shrink, s.Height/shrink
	rows := (len(frames) + columns - 1) / columns
	sheet := image.NewRGBA(image.Rect(0, 0, columns*tw, rows*th))
	draw := sc.Pictures()
	for n, f := range frames {
		pix := draw(f)
		ox, oy := n%columns*tw, n/columns*th
		for y := range th {
			for x := range tw {
				var sum [3]int
				for dy := range shrink {
					for dx := range shrink {
						p := 3 * ((y*shrink+dy)*s.Width + x*shrink + dx)
						for c := range sum {
							sum[c] += int(pix[p+c])
						}
					}
				}
				k := shrink * shrink
				c := color.RGBA{uint8(sum[0] / k), uint8(sum[1] / k), uint8(sum[2] / k), 255}
				if x == 0 || y == 0 {
					c = color.RGBA{240, 236, 228, 255}
				}
				sheet.SetRGBA(ox+x, oy+y, c)
			}
		}
	}
	return png.Encode(w, sheet)
}

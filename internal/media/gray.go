package media

import (
	"context"
	"errors"
	"fmt"
	"io"

	"neokinema/core/timebase"
)

// chunk is how many pictures are held at once when a clip is read backwards.
const chunk = 24

// Picture is one decoded frame, grey (a byte a pixel) or in colour (red, green,
// blue); Pix is only good until the next one.
type Picture struct {
	Frame, Width, Height int
	Pix                  []byte
}

// Scaling is how pictures become smaller or larger.
type Scaling string

// Shrink averages what a new pixel covers; Enlarge lays a curve through the old ones.
const (
	Shrink  Scaling = "area"
	Enlarge Scaling = "bicubic"
)

// Grays decodes frames from..to of a proxy, both included, as grey pictures of
// the given size and hands them over in that order; to may lie before from. An
// error of each ends it and comes back.
func Grays(ctx context.Context, proxy string, stamps []int64, from, to, width, height int, scaling Scaling, each func(Picture) error) error {
	if from < 0 || to < 0 || from >= len(stamps) || to >= len(stamps) {
		return fmt.Errorf("frames %d to %d lie outside the clip of %d frames", from, to, len(stamps))
	}
	if from <= to {
		return decode(ctx, proxy, stamps, from, to, width, height, "gray", scaling, each)
	}
	for last := from; last >= to; last -= chunk {
		var kept []Picture
		err := decode(ctx, proxy, stamps, max(to, last-chunk+1), last, width, height, "gray", scaling, func(p Picture) error {
			p.Pix = append([]byte(nil), p.Pix...)
			kept = append(kept, p)
			return nil
		})
		if err != nil {
			return err
		}
		for i := len(kept) - 1; i >= 0; i-- {
			if err := each(kept[i]); err != nil {
				return err
			}
		}
	}
	return nil
}

// Colour decodes one frame of a proxy in colour.
func Colour(ctx context.Context, proxy string, stamps []int64, frame, width, height int) (p Picture, err error) {
	if frame < 0 || frame >= len(stamps) {
		return p, fmt.Errorf("frame %d lies outside the clip of %d frames", frame, len(stamps))
	}
	err = decode(ctx, proxy, stamps, frame, frame, width, height, "rgb24", Shrink, func(q Picture) error { p = q; return nil })
	return p, err
}

// Colours decodes frames from..to of a proxy in colour and hands them over in order.
func Colours(ctx context.Context, proxy string, stamps []int64, from, to, width, height int, each func(Picture) error) error {
	if from < 0 || to < from || to >= len(stamps) {
		return fmt.Errorf("frames %d to %d lie outside the clip of %d frames", from, to, len(stamps))
	}
	return decode(ctx, proxy, stamps, from, to, width, height, "rgb24", Shrink, each)
}

// Frames decodes the frames from..to of a proxy as the codec has them: brightness, then
// both colours at half the size.
func Frames(ctx context.Context, proxy string, stamps []int64, from, to, width, height int, each func(Picture) error) error {
	if from < 0 || to < from || to >= len(stamps) {
		return fmt.Errorf("frames %d to %d lie outside the clip of %d frames", from, to, len(stamps))
	}
	return decode(ctx, proxy, stamps, from, to, width, height, "yuv420p", Shrink, each)
}

// decode hands over frames from..to in order.
func decode(ctx context.Context, proxy string, stamps []int64, from, to, width, height int, format string, scaling Scaling, each func(Picture) error) error {
	c := newCall(ctx, "ffmpeg", longTime)
	defer c.close()
	var seek []string
	if from > 0 {
		// As in [Still]: half way between two frames is safe from rounding.
		seek = []string{"-ss", fmt.Sprintf("%.6f", float64(stamps[from]+stamps[from-1])/2/timebase.TickRate)}
	}
	if err := c.input(proxy, seek...); err != nil {
		return err
	}
	c.add("-map", "0:V:0", "-frames:v", fmt.Sprint(to-from+1),
		"-vf", fmt.Sprintf("scale=%d:%d:flags=%s,format=%s", width, height, scaling, format), "-fps_mode", "passthrough", "-f", "rawvideo", "pipe:1")
	cmd, said := c.cmd()
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	size := width * height
	switch format {
	case "rgb24":
		size *= 3
	case "yuv420p":
		size += 2 * ((width + 1) / 2) * ((height + 1) / 2)
	}
	pix := make([]byte, size)
	var broken error
	for f := from; f <= to && broken == nil; f++ {
		if _, err := io.ReadFull(out, pix); err != nil {
			broken = fmt.Errorf("frame %d could not be decoded: %w", f, err)
			if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
				_ = cmd.Wait()
				return c.failure(broken, said)
			}
			break
		}
		broken = each(Picture{f, width, height, pix})
	}
	c.stop()
	_ = cmd.Wait() // it was stopped, or had nothing more to say
	return broken
}

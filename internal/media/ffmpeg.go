// Package media wraps ffmpeg and ffprobe: probing, proxies with exact frames,
// stills, encoding of drawn pictures.
package media

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sort"
	"time"
)

// RawVideo describes pictures of packed 8-bit RGB to be encoded.
type RawVideo struct {
	Width, Height int
	Rate          float64
	Tags          map[string]string
	CRF           int    // quality of the H.264 file, 18 fine to 40 coarse; 21 when 0
	Sound         string // a sound file to go with the pictures
	// Output options that replace the default H.264 settings; tests use it to
	// make every kind of file.
	Codec []string
}

// encodeTime is what drawing and encoding a film may take.
const encodeTime = 2 * time.Hour

// Encode writes the pictures that draw hands over to a video file.
func Encode(ctx context.Context, v RawVideo, path string, draw func(write func([]byte) error) error) error {
	c := newCall(ctx, "ffmpeg", encodeTime, "-y", "-f", "rawvideo", "-pix_fmt", "rgb24",
		"-s", fmt.Sprintf("%dx%d", v.Width, v.Height), "-r", fmt.Sprintf("%g", v.Rate), "-i", "-")
	defer c.close()
	if v.Sound != "" {
		if err := c.input(v.Sound); err != nil {
			return err
		}
		c.add("-c:a", "aac", "-b:a", "48k")
	}
	keys := make([]string, 0, len(v.Tags))
	for k := range v.Tags {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		c.add("-metadata", k+"="+v.Tags[k])
	}
	codec := v.Codec
	if codec == nil {
		crf := v.CRF
		if crf == 0 {
			crf = 21
		}
		codec = []string{"-c:v", "libx264", "-preset", "veryfast", "-crf", fmt.Sprint(crf), "-pix_fmt", "yuv420p", "-g", "60"}
	}
	c.add(codec...).add("-movflags", "+use_metadata_tags+faststart", path)
	cmd, said := c.cmd()
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	drawErr := draw(func(p []byte) error {
		_, err := in.Write(p)
		return err
	})
	in.Close()
	if err := cmd.Wait(); err != nil {
		return c.failure(err, said)
	}
	if drawErr != nil && !errors.Is(drawErr, io.ErrClosedPipe) {
		return drawErr
	}
	return nil
}

// Remake runs a file through ffmpeg with output options; tests make odd files
// with it.
func Remake(ctx context.Context, in, out string, options ...string) error {
	c := newCall(ctx, "ffmpeg", longTime, "-y")
	if err := c.input(in); err != nil {
		c.close()
		return err
	}
	_, err := c.add(options...).add(out).output()
	return err
}

// Package media wraps ffmpeg and ffprobe: probing, proxies with exact frames,
// stills, encoding of drawn pictures.
package media

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"sort"
	"strings"
	"syscall"
)

// CheckTools tells which of the programs this package needs is missing.
func CheckTools() error {
	for _, tool := range []string{"ffmpeg", "ffprobe"} {
		if _, err := exec.LookPath(tool); err != nil {
			return fmt.Errorf("%s is not installed; install Debian's package ffmpeg", tool)
		}
	}
	return nil
}

// command prepares a tool so that a cancelled context ends it and its last
// words are kept.
func command(ctx context.Context, tool string, args ...string) (*exec.Cmd, *bytes.Buffer) {
	cmd := exec.CommandContext(ctx, tool, args...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	said := &bytes.Buffer{}
	cmd.Stderr = &tail{buf: said, max: 8 << 10}
	return cmd, said
}

// tail keeps the beginning of what a tool says; a broken file can make it say
// the same line a million times.
type tail struct {
	buf *bytes.Buffer
	max int
}

func (t *tail) Write(p []byte) (int, error) {
	if room := t.max - t.buf.Len(); room > 0 {
		t.buf.Write(p[:min(room, len(p))])
	}
	return len(p), nil
}

// failure turns a tool's exit into an error that still knows a full disk and a
// cancelled context.
func failure(ctx context.Context, err error, said *bytes.Buffer) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if strings.Contains(said.String(), "No space left") {
		return fmt.Errorf("%w: %s", syscall.ENOSPC, firstLine(said))
	}
	return fmt.Errorf("%w: %s", err, firstLine(said))
}

func firstLine(b *bytes.Buffer) string {
	line, _ := bufio.NewReader(bytes.NewReader(b.Bytes())).ReadString('\n')
	return strings.TrimSpace(line)
}

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

// Encode writes the pictures that draw hands over to a video file.
func Encode(ctx context.Context, v RawVideo, path string, draw func(write func([]byte) error) error) error {
	args := []string{"-hide_banner", "-loglevel", "error", "-y", "-f", "rawvideo", "-pix_fmt", "rgb24",
		"-s", fmt.Sprintf("%dx%d", v.Width, v.Height), "-r", fmt.Sprintf("%g", v.Rate), "-i", "-"}
	if v.Sound != "" {
		args = append(args, "-i", v.Sound, "-c:a", "aac", "-b:a", "48k", "-shortest")
	}
	keys := make([]string, 0, len(v.Tags))
	for k := range v.Tags {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		args = append(args, "-metadata", k+"="+v.Tags[k])
	}
	codec := v.Codec
	if codec == nil {
		crf := v.CRF
		if crf == 0 {
			crf = 21
		}
		codec = []string{"-c:v", "libx264", "-preset", "veryfast", "-crf", fmt.Sprint(crf), "-pix_fmt", "yuv420p", "-g", "60"}
	}
	args = append(append(args, codec...), "-movflags", "+use_metadata_tags+faststart", path)
	cmd, said := command(ctx, "ffmpeg", args...)
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
		return failure(ctx, err, said)
	}
	if drawErr != nil && !errors.Is(drawErr, io.ErrClosedPipe) {
		return drawErr
	}
	return nil
}

// Remake runs a file through ffmpeg with output options; tests make odd files
// with it.
func Remake(ctx context.Context, in, out string, options ...string) error {
	cmd, said := command(ctx, "ffmpeg", append(append([]string{"-hide_banner", "-loglevel", "error", "-y", "-i", in}, options...), out)...)
	if err := cmd.Run(); err != nil {
		return failure(ctx, err, said)
	}
	return nil
}

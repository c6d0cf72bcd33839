package media

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// ErrNoVoice tells that bytes are no sound that can be read.
var ErrNoVoice = errors.New("this recording cannot be read as sound")

// filled fills gaps of a sound with silence. What a busy machine or a phone did not record
// shows in the times alone, and what follows would come early.
const filled = "aresample=async=1"

// voiceTime is what reading a chapter's voice may take.
const voiceTime = 3 * time.Minute

// Voice makes of what a browser recorded a WebM file with one Opus track that can be
// jumped in, and tells how long it is, s.
func Voice(ctx context.Context, dir string, raw []byte) (clean []byte, seconds float64, err error) {
	tmp, err := os.MkdirTemp(dir, "voice-")
	if err != nil {
		return nil, 0, err
	}
	defer os.RemoveAll(tmp)
	in, out := filepath.Join(tmp, "in"), filepath.Join(tmp, "out.webm")
	if err := os.WriteFile(in, raw, 0o600); err != nil {
		return nil, 0, err
	}
	c := newCall(ctx, "ffmpeg", voiceTime, "-y")
	if c.input(in) != nil {
		c.close()
		return nil, 0, ErrNoVoice
	}
	if _, err := c.add("-map", "0:a:0", "-vn", "-af", filled, "-ac", "1", "-c:a", "libopus", "-b:a", "40k", out).output(); err != nil {
		if ctx.Err() != nil || errors.Is(err, syscall.ENOSPC) {
			return nil, 0, err
		}
		return nil, 0, ErrNoVoice
	}
	c = newCall(ctx, "ffprobe", quickTime, "-show_entries", "format=duration", "-of", "csv=p=0")
	if err := c.input(out); err != nil {
		c.close()
		return nil, 0, ErrNoVoice
	}
	text, err := c.output()
	if err != nil {
		return nil, 0, err
	}
	if seconds, err = strconv.ParseFloat(strings.TrimSpace(string(text)), 64); err != nil || seconds <= 0 {
		return nil, 0, ErrNoVoice
	}
	clean, err = os.ReadFile(out)
	return clean, seconds, err
}

// Piece is a part of a sound file, s.
type Piece struct {
	File         string
	Starts, Ends float64
}

// Join puts pieces of sound behind each other into a WAV file.
func Join(ctx context.Context, pieces []Piece, out string) error {
	c := newCall(ctx, "ffmpeg", longTime, "-y")
	var filter, all strings.Builder
	for i, p := range pieces {
		if err := c.input(p.File); err != nil {
			c.close()
			return err
		}
		n := strconv.Itoa(i)
		length := strconv.FormatFloat(p.Ends-p.Starts, 'f', 6, 64)
		// Padded to its length, or what follows would come early; first, so that something is
		// left where a piece begins after the end of its file.
		filter.WriteString("[" + n + ":a]aresample=48000:async=1,apad,atrim=start=" + strconv.FormatFloat(p.Starts, 'f', 6, 64) + ",asetpts=PTS-STARTPTS,atrim=end=" + length + "[p" + n + "];")
		all.WriteString("[p" + n + "]")
	}
	filter.WriteString(all.String() + "concat=n=" + strconv.Itoa(len(pieces)) + ":v=0:a=1[out]")
	_, err := c.add("-filter_complex", filter.String(), "-map", "[out]", "-ac", "1", out).output()
	return err
}

package media

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// ErrNoVoice tells that bytes are no sound that can be read.
var ErrNoVoice = errors.New("this recording cannot be read as sound")

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
	cmd, said := command(ctx, "ffmpeg", "-hide_banner", "-loglevel", "error", "-y", "-protocol_whitelist", "file,pipe", "-i", in, "-map", "0:a:0", "-vn", "-ac", "1", "-c:a", "libopus", "-b:a", "40k", out)
	if err := cmd.Run(); err != nil {
		if err := failure(ctx, err, said); ctx.Err() != nil {
			return nil, 0, err
		}
		return nil, 0, ErrNoVoice
	}
	cmd, said = command(ctx, "ffprobe", "-v", "error", "-show_entries", "format=duration", "-of", "csv=p=0", out)
	text, err := cmd.Output()
	if err != nil {
		return nil, 0, failure(ctx, err, said)
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
	var args []string
	var filter, all strings.Builder
	for i, p := range pieces {
		args = append(args, "-i", p.File)
		n := strconv.Itoa(i)
		length := strconv.FormatFloat(p.Ends-p.Starts, 'f', 6, 64)
		// Padded to its length, or what follows would come early.
		filter.WriteString("[" + n + ":a]aresample=48000,atrim=start=" + strconv.FormatFloat(p.Starts, 'f', 6, 64) + ",asetpts=PTS-STARTPTS,apad,atrim=end=" + length + "[p" + n + "];")
		all.WriteString("[p" + n + "]")
	}
	filter.WriteString(all.String() + "concat=n=" + strconv.Itoa(len(pieces)) + ":v=0:a=1[out]")
	args = append(append([]string{"-hide_banner", "-loglevel", "error", "-y"}, args...), "-filter_complex", filter.String(), "-map", "[out]", "-ac", "1", out)
	cmd, said := command(ctx, "ffmpeg", args...)
	if err := cmd.Run(); err != nil {
		return failure(ctx, err, said)
	}
	return nil
}

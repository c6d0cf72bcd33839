package media

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"sort"
	"strconv"
	"strings"

	"neokinema/core/timebase"
	"neokinema/internal/guard"
)

// Proxy is the form of a clip that the stage decodes: every frame on its own,
// upright, square pixels, with the time stamps of the original.
type Proxy struct {
	Width, Height int     // px of the coded picture, even
	Scale         float64 // proxy px per px of the original
	Stamps        []int64 // 1/90000 s, first is 0
	Motion        Motion
}

// longestClip is how long a clip may play, s; one that says more has a broken clock.
const longestClip = 6 * 3600

// largestProxy is the longest side of a proxy: enough for a full laptop screen.
const largestProxy = 1920

// proxySize is the coded size for an upright original: scaled down to the limit
// and padded by at most a pixel to even numbers, so that one factor maps points.
func proxySize(w, h int) (sw, sh, pw, ph int, scale float64) {
	scale = math.Min(1, largestProxy/float64(max(w, h)))
	sw, sh = max(1, int(math.Round(float64(w)*scale))), max(1, int(math.Round(float64(h)*scale)))
	return sw, sh, sw + sw%2, sh + sh%2, scale
}

// MakeProxy transcodes a clip, looks what moves in it, and reports frames done along the way. The frame
// list comes from the result: frame n is the n-th picture that decoding gives.
func MakeProxy(ctx context.Context, in, out string, info Info, progress func(frames int)) (Proxy, error) {
	sw, sh, pw, ph, scale := proxySize(info.Width, info.Height)
	var filters []string
	if info.Width != sw || info.Height != sh || scale != 1 {
		filters = append(filters, fmt.Sprintf("scale=%d:%d", sw, sh))
	}
	if pw != sw || ph != sh {
		filters = append(filters, fmt.Sprintf("pad=%d:%d", pw, ph))
	}
	filters = append(filters, "setsar=1", "setpts=PTS-STARTPTS")
	most := mostFrames(info.Width, info.Height)
	c := newCall(ctx, "ffmpeg", longTime, "-y", "-progress", "pipe:1", "-stats_period", "0.2")
	defer c.close()
	if err := c.input(in); err != nil {
		return Proxy{}, err
	}
	c.add("-map", "0:V:0", "-an", "-sn", "-dn", "-map_metadata", "-1", "-frames:v", strconv.Itoa(most+1),
		"-vf", strings.Join(filters, ","), "-pix_fmt", "yuv420p",
		"-c:v", "libx264", "-preset", "ultrafast", "-tune", "fastdecode", "-crf", "22", "-g", "1", "-bf", "0",
		"-fps_mode", "passthrough", "-enc_time_base", "1:90000", "-video_track_timescale", "90000", "-movflags", "+faststart", "-f", "mp4", out)
	// The same decoding gives small pictures, by a pipe of their own.
	c.add("-map", "0:V:0", "-frames:v", strconv.Itoa(most+1), "-vf", fmt.Sprintf("scale=%d:%d:flags=%s,format=gray", lookWidth, lookHeight, Shrink), "-fps_mode", "passthrough", "-f", "rawvideo", fmt.Sprintf("pipe:%d", 3+len(c.files)))
	cmd, said := c.cmd()
	small, smaller, err := os.Pipe()
	if err != nil {
		return Proxy{}, err
	}
	defer small.Close()
	cmd.ExtraFiles = append(cmd.ExtraFiles, smaller)
	seeker := &motionSeeker{}
	seen := make(chan struct{})
	guard.Go(func() error { return seeker.read(small) }, func(error) {
		_, _ = io.Copy(io.Discard, small) // it ended with the clip; else nobody waits for it
		close(seen)
	})
	pipe, err := cmd.StdoutPipe()
	if err != nil {
		return Proxy{}, err
	}
	err = cmd.Start()
	smaller.Close()
	if err != nil {
		return Proxy{}, err
	}
	lines := bufio.NewScanner(pipe)
	for lines.Scan() {
		if n, ok := strings.CutPrefix(lines.Text(), "frame="); ok {
			if f, err := strconv.Atoi(strings.TrimSpace(n)); err == nil {
				progress(f)
			}
		}
	}
	err = cmd.Wait()
	<-seen
	if c.ctx.Err() != nil {
		return Proxy{}, context.Cause(c.ctx)
	}
	p := Proxy{Width: pw, Height: ph, Scale: scale, Motion: seeker.motion()}
	var stampErr error
	if st, e := os.Stat(out); e == nil && st.Size() > 0 {
		p.Stamps, stampErr = Stamps(ctx, out)
	}
	if err != nil && len(p.Stamps) == 0 {
		if stampErr == nil && strings.Contains(said.String(), "Output file is empty") {
			return Proxy{}, ErrNoFrames
		}
		return Proxy{}, c.failure(err, said)
	}
	if strings.Contains(said.String(), "No space left") {
		return Proxy{}, c.failure(fmt.Errorf("no room"), said)
	}
	if len(p.Stamps) != seeker.n {
		p.Motion.Pictures = "" // a damaged file: nobody knows which is which
	}
	switch n := len(p.Stamps); {
	case n == 0:
		return Proxy{}, ErrNoFrames
	case n > most:
		return Proxy{}, ErrTooLong
	case n == 1 && info.Frames > 1, p.Stamps[n-1] > longestClip*timebase.TickRate:
		return Proxy{}, ErrClock
	}
	return p, nil
}

// Stamps lists the presentation time stamps of a file's frames in order, in
// ticks of 1/90000 s from the first.
func Stamps(ctx context.Context, path string) ([]int64, error) {
	c := newCall(ctx, "ffprobe", longTime, "-select_streams", "v:0", "-show_entries", "packet=pts_time", "-of", "csv=p=0")
	if err := c.input(path); err != nil {
		c.close()
		return nil, err
	}
	out, err := c.output()
	if err != nil {
		return nil, err
	}
	var stamps []int64
	for _, line := range strings.Fields(string(out)) {
		v, err := strconv.ParseFloat(strings.TrimSuffix(line, ","), 64)
		if err != nil {
			continue // a packet without time is not shown
		}
		stamps = append(stamps, int64(math.Round(v*timebase.TickRate)))
	}
	sort.Slice(stamps, func(i, j int) bool { return stamps[i] < stamps[j] })
	for i := len(stamps) - 1; i >= 0; i-- {
		stamps[i] -= stamps[0]
	}
	return stamps, nil
}

// Stills are frames of a proxy as JPEG, by frame number, in the order asked for; width 0
// keeps the size; one that the file does not have is nil. One run of the tool draws them
// all, into a folder of its own under dir.
func Stills(ctx context.Context, proxy string, stamps []int64, frames []int, width int, dir string) ([][]byte, error) {
	if len(frames) == 0 {
		return nil, nil
	}
	c := newCall(ctx, "ffmpeg", quickTime)
	for _, f := range frames {
		if f < 0 || f >= len(stamps) {
			c.close()
			return nil, fmt.Errorf("frame %d lies outside the clip of %d frames", f, len(stamps))
		}
		// Seeking drops what comes before the given time: half way between the two
		// frames is safe from rounding on both sides.
		seek := []string{"-threads", "1"}
		if f > 0 {
			seek = append(seek, "-ss", fmt.Sprintf("%.6f", float64(stamps[f]+stamps[f-1])/2/timebase.TickRate))
		}
		if err := c.input(proxy, seek...); err != nil {
			c.close()
			return nil, err
		}
	}
	folder, err := os.MkdirTemp(dir, "stills-")
	if err != nil {
		c.close()
		return nil, err
	}
	defer os.RemoveAll(folder)
	name := func(k int) string { return filepath.Join(folder, strconv.Itoa(k)+".jpg") }
	for k := range frames {
		c.add("-map", fmt.Sprintf("%d:V:0", k)).add(asJPEG(width)...).add(name(k))
	}
	if _, err := c.output(); err != nil {
		return nil, err
	}
	out := make([][]byte, len(frames))
	for k := range frames {
		raw, err := os.ReadFile(name(k))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return nil, err
		}
		out[k] = raw
	}
	return out, nil
}

// asJPEG are the options of an output that is one picture.
func asJPEG(width int) []string {
	o := []string{"-frames:v", "1", "-threads", "1"}
	if width > 0 {
		o = append(o, "-vf", fmt.Sprintf("scale='min(%d,iw)':-2,setsar=1", width))
	}
	return append(o, "-f", "image2", "-c:v", "mjpeg", "-q:v", "2", "-pix_fmt", "yuvj420p")
}

// FirstStill is the first frame of any clip as JPEG, upright.
func FirstStill(ctx context.Context, path string, width int) ([]byte, error) {
	c := newCall(ctx, "ffmpeg", quickTime)
	if err := c.input(path); err != nil {
		c.close()
		return nil, err
	}
	out, err := c.add("-map", "0:V:0").add(asJPEG(width)...).add("pipe:1").output()
	if err != nil {
		return nil, err
	}
	if len(out) == 0 {
		return nil, ErrNoFrames
	}
	return out, nil
}

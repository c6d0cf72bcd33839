package media

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// The first bytes decide which reader is forced, and whether there is one at all.
func TestFirstBytes(t *testing.T) {
	packet := "\x47" + strings.Repeat("\x00", 187)
	for head, want := range map[string]string{
		"\x00\x00\x00\x18ftypisom": "mov", "\x00\x00\x00\x08wide\x00\x00": "mov", "\x00\x00\x10\x00moov": "mov", "\x1a\x45\xdf\xa3\x01": "matroska", "RIFF\x00\x00\x00\x00AVI LIST": "avi",
		"RIFF\x00\x00\x00\x00WAVEfmt ": "wav", "OggS\x00": "ogg", packet + packet + packet: "mpegts", "\x00\x00\x00\x01" + packet + "\x00\x00\x00\x02" + packet + "\x00\x00\x00\x03" + packet: "mpegts",
		"": "", "x": "", "#EXTM3U\n": "", "<?xml version": "", "ffconcat version 1.0": "", "GIF89a": "", "\x89PNG\r\n\x1a\n": "", packet: "", "RIFF\x00\x00\x00\x00WEBP": "", "\x7fELF": "",
	} {
		if got := demuxer([]byte(head)); got != want {
			t.Errorf("%.20q: %q instead of %q", head, got, want)
		}
	}
	if Video([]byte("OggS\x00")) || Video([]byte("RIFF\x00\x00\x00\x00WAVEfmt ")) || !Video([]byte("\x00\x00\x00\x18ftypisom")) {
		t.Error("what is a video")
	}
}

func FuzzFirstBytes(f *testing.F) {
	for _, s := range []string{"", "\x47", "\x00\x00\x00\x18ftyp", "RIFF", "\x1a\x45\xdf\xa3"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, head []byte) {
		if d := demuxer(head); Video(head) && (d == "" || silent[d]) {
			t.Errorf("%q is a video and has no reader", head)
		}
	})
}

// A tool gets no more memory and time than it may have, and no network.
func TestLimits(t *testing.T) {
	path := filepath.Join(t.TempDir(), "large.mp4")
	if out, err := exec.Command("ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "testsrc2=size=4096x2304:rate=30:duration=1", "-c:v", "libx264", "-preset", "ultrafast", "-refs", "16", "-bf", "8", "-pix_fmt", "yuv444p", "-frames:v", "24", path).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	ctx := context.Background()
	info, err := Probe(ctx, path)
	if err != nil {
		t.Fatal(err)
	}
	// What comes of it is either a proxy or words; never more memory than there may be.
	if _, err := MakeProxy(ctx, path, path+".out.mp4", info, func(int) {}); err != nil && !errors.Is(err, ErrTooMuch) && !strings.Contains(err.Error(), "exit status") {
		t.Errorf("%v", err)
	}
	// Larger pictures are refused by their header.
	wide := filepath.Join(t.TempDir(), "wide.mp4")
	if out, err := exec.Command("ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "color=size=8000x4000:rate=30", "-c:v", "libx264", "-preset", "ultrafast", "-frames:v", "1", wide).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	if _, err := Probe(ctx, wide); err == nil || !strings.Contains(err.Error(), "is too large") {
		t.Errorf("8000 x 4000: %v", err)
	}
	c := newCall(ctx, "ffmpeg", 200*time.Millisecond, "-f", "lavfi", "-i", "testsrc2=size=1920x1080:rate=60", "-f", "null", "-")
	if _, err := c.output(); !errors.Is(err, ErrTooLong) {
		t.Errorf("without end: %v", err)
	}
	// Processor time runs out before the clock does; a tool that somebody else ends has
	// not taken too long, and is worth another try.
	endless := []string{"-f", "lavfi", "-i", "testsrc2=size=1920x1080:rate=60", "-f", "null", "-"}
	c = newCall(ctx, "ffmpeg", quickTime, endless...)
	c.limit = time.Second
	if _, err := c.output(); !errors.Is(err, ErrTooLong) {
		t.Errorf("out of processor time: %v", err)
	}
	c = newCall(ctx, "ffmpeg", quickTime, endless...)
	cmd, said := c.cmd()
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	if err := cmd.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	if err := c.failure(cmd.Wait(), said); errors.Is(err, ErrTooLong) {
		t.Errorf("ended from outside: %v", err)
	}
	c.close()
	if Shut() {
		c := newCall(ctx, "ffmpeg", quickTime, "-i", "http://127.0.0.1:9/x.mp4", "-f", "null", "-")
		var said *toolError
		if _, err := c.output(); !errors.As(err, &said) || !strings.Contains(said.words, "unreachable") {
			t.Errorf("out of the house: %v", err)
		}
	}
	before, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := Probe(before, path); !errors.Is(err, context.Canceled) {
		t.Errorf("given up before: %v", err)
	}
}

// A clip whose clock or count is broken says so, instead of coming in as one picture.
func TestBrokenClocksAndCounts(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "a.mp4")
	if out, err := exec.Command("ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "testsrc2=size=160x90:rate=30:duration=1", "-c:v", "libx264", "-preset", "ultrafast", path).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path+".whole.mp4", raw, 0o600); err != nil {
		t.Fatal(err)
	}
	at := strings.Index(string(raw), "mdhd") + 16 // version, flags and two times before the clock
	for name, clock := range map[string]string{"a clock of no ticks": "\x00\x00\x00\x00", "a clock of all ticks": "\xff\xff\xff\xff"} {
		odd := append([]byte(nil), raw...)
		copy(odd[at:], clock)
		if err := os.WriteFile(path, odd, 0o600); err != nil {
			t.Fatal(err)
		}
		info, err := Probe(context.Background(), path)
		if err != nil {
			continue // refused before
		}
		if info.Frames > 1<<20 {
			t.Errorf("%s: %d frames", name, info.Frames)
		}
		p, err := MakeProxy(context.Background(), path, path+".out.mp4", info, func(int) {})
		if err == nil && len(p.Stamps) < 2 {
			t.Errorf("%s came in as %d pictures", name, len(p.Stamps))
		}
	}
	avi := filepath.Join(dir, "a.avi")
	if out, err := exec.Command("ffmpeg", "-loglevel", "error", "-i", path+".whole.mp4", "-c:v", "mjpeg", avi).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	raw, err = os.ReadFile(avi)
	if err != nil {
		t.Fatal(err)
	}
	const length = 8 + 32 // of a stream's header, where it counts the frames
	copy(raw[strings.Index(string(raw), "strh")+length:], "\xff\xff\xff\x7f")
	if err := os.WriteFile(avi, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	if info, err := Probe(context.Background(), avi); err != nil || info.Frames != 0 || info.FileRate != 30 {
		t.Errorf("a count that cannot be: %+v %v", info, err)
	}
}

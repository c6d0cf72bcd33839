package media

import (
	"bytes"
	"context"
	"errors"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// TestCompressionAndSound: a coarser file is smaller, and a sound file goes in.
func TestCompressionAndSound(t *testing.T) {
	dir := t.TempDir()
	sound := filepath.Join(dir, "tone.wav")
	if err := Remake(context.Background(), filepath.Join(dir, "none"), sound); err == nil {
		t.Fatal("a file that is not there is made over")
	}
	if out, err := exec.Command("ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "sine=frequency=500:duration=1", sound).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	sizes := map[int]int{}
	silent := filepath.Join(dir, "silent.mp4")
	if err := Encode(context.Background(), RawVideo{Width: 16, Height: 16, Rate: 30}, silent, func(write func([]byte) error) error { return write(make([]byte, 3*16*16)) }); err != nil {
		t.Fatal(err)
	}
	if _, err := Listen(context.Background(), silent, 8000); !errors.Is(err, ErrNoSound) {
		t.Errorf("a video without sound: %v", err)
	}
	for _, crf := range []int{18, 36} {
		path := filepath.Join(dir, "clip.mp4")
		seed := uint32(1)
		err := Encode(context.Background(), RawVideo{Width: 160, Height: 120, Rate: 30, CRF: crf, Sound: sound}, path, func(write func([]byte) error) error {
			for range 20 {
				p := make([]byte, 3*160*120)
				for i := range p {
					seed = seed*1664525 + 1013904223
					p[i] = byte(seed >> 24)
				}
				if err := write(p); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Contains(raw, []byte("mp4a")) {
			t.Error("no sound track")
		}
		// A second of a tone: heard from the first picture on, to a few milliseconds.
		heard, err := Listen(context.Background(), path, 8000)
		if err != nil || heard.Rate != 8000 || math.Abs(heard.First) > 0.03 {
			t.Fatalf("heard from %g s at %g/s: %v", heard.First, heard.Rate, err)
		}
		loud := 0
		for _, v := range heard.Samples {
			if math.Abs(v) > 0.02 {
				loud++
			}
		}
		if n := len(heard.Samples); n < 5000 || loud < n/3 {
			t.Errorf("%d of %d samples are loud", loud, n)
		}
		stamps, err := Stamps(context.Background(), path)
		if err != nil || len(stamps) != 20 {
			t.Errorf("%d frames (%v): sound must not cost pictures", len(stamps), err)
		}
		sizes[crf] = len(raw)
	}
	if sizes[36]*2 > sizes[18] {
		t.Errorf("sizes %v", sizes)
	}
}

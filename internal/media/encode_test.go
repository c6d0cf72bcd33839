package media

import (
	"bytes"
	"context"
	"os"
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
	cmd, _ := command(context.Background(), "ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "sine=frequency=500:duration=1", sound)
	if err := cmd.Run(); err != nil {
		t.Fatal(err)
	}
	sizes := map[int]int{}
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

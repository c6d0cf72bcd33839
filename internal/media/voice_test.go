package media

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// TestAVoiceWithAGapKeepsItsTimes: a busy browser drops a part of what it records and goes
// on with later times. What is said after the gap must not come early, and what is drawn
// to it must not end before its pictures.
func TestAVoiceWithAGapKeepsItsTimes(t *testing.T) {
	dir := t.TempDir()
	gap := filepath.Join(dir, "gap.webm")
	// A tone from 0 to 0.3 s and from 2.3 to 2.6 s.
	if out, err := exec.Command("ffmpeg", "-loglevel", "error", "-f", "lavfi", "-i", "sine=frequency=440:duration=2.6", "-af", "aselect='lt(t,0.3)+gt(t,2.3)'", "-c:a", "libopus", gap).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	raw, err := os.ReadFile(gap)
	if err != nil {
		t.Fatal(err)
	}
	loud := func(path string, length float64) {
		t.Helper()
		s, err := Listen(t.Context(), path, 8000)
		if err != nil {
			t.Fatal(err)
		}
		if got := float64(len(s.Samples)) / s.Rate; got < length-0.05 || got > length+0.05 {
			t.Errorf("%s is %.2f s long, want %.2f", filepath.Base(path), got, length)
		}
		most := func(from, to float64) (out float64) {
			for i := int(from * s.Rate); i < min(len(s.Samples), int(to*s.Rate)); i++ {
				out = max(out, s.Samples[i], -s.Samples[i])
			}
			return out
		}
		if a, b, c := most(0.1, 0.2), most(0.6, 2), most(2.4, 2.5); a < 0.05 || b > 0.01 || c < 0.05 {
			t.Errorf("%s is as loud as %.3f, %.3f, %.3f; want a tone, nothing, a tone", filepath.Base(path), a, b, c)
		}
	}
	loud(gap, 2.6)
	clean, seconds, err := Voice(t.Context(), dir, raw)
	if err != nil || seconds < 2.5 || seconds > 2.7 {
		t.Fatalf("the voice: %.2f s, %v", seconds, err)
	}
	voice, all := filepath.Join(dir, "voice.webm"), filepath.Join(dir, "all.wav")
	if err := os.WriteFile(voice, clean, 0o600); err != nil {
		t.Fatal(err)
	}
	loud(voice, 2.6)
	// Asked for beyond its end it is silence, also when nothing of it is left.
	if err := Join(t.Context(), []Piece{{gap, 0, 3}, {gap, 2.8, 4}}, all); err != nil {
		t.Fatal(err)
	}
	loud(all, 4.2)

	film := filepath.Join(dir, "film.mp4")
	picture := make([]byte, 320*180*3)
	if err := Encode(t.Context(), RawVideo{Width: 320, Height: 180, Rate: 30, Sound: gap}, film, func(write func([]byte) error) error {
		for range 200 {
			if err := write(picture); err != nil {
				return err
			}
		}
		return nil
	}); err != nil {
		t.Fatalf("pictures longer than their sound: %v", err)
	}
	if stamps, err := Stamps(t.Context(), film); err != nil || len(stamps) != 200 {
		t.Errorf("%d pictures, %v; want 200", len(stamps), err)
	}
}

package intake_test

import (
	"context"
	"path/filepath"
	"testing"
	"testing/synctest"

	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

// What a page asks for at once is drawn by one run of the tool, and a picture that cannot
// be drawn does not cost the others.
func TestStillsOfAPageAreDrawnTogether(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "clip.mp4")
	if err := (testenv.Numbered{Width: 320, Height: 180, Frames: 20, Rate: 60}).Make(path); err != nil {
		t.Fatal(err)
	}
	stamps, err := media.Stamps(t.Context(), path)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name   string
		frames []int
		beyond int   // frames that the clip's row tells of and the file does not have
		runs   int64 // that end well
	}{
		{name: "one page", frames: []int{3, 0, 19, 7, 3, 11, 5}, runs: 1},
		{name: "more than one run draws", frames: []int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}, runs: 2},
		{name: "one that is not there", frames: []int{4, 30, 6}, beyond: 20, runs: 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			clip := store.Clip{Stamps: stamps}
			for k := range c.beyond {
				clip.Stamps = append(clip.Stamps, stamps[len(stamps)-1]+int64(k+1)*1500)
			}
			before, _, _ := media.Runs()
			synctest.Test(t, func(t *testing.T) {
				d := intake.NewDrawer(dir)
				leave, err := d.Fill(context.Background())
				if err != nil {
					t.Fatal(err)
				}
				for _, f := range c.frames {
					go func() {
						raw, err := d.Still(context.Background(), path, clip, f)
						if f >= len(stamps) {
							if err == nil {
								t.Errorf("frame %d was drawn", f)
							}
							return
						}
						if n, readErr := testenv.ReadJPEG(raw, 320); err != nil || readErr != nil || n != f {
							t.Errorf("frame %d shows %d (%v, %v)", f, n, err, readErr)
						}
					}()
				}
				synctest.Wait()
				leave()
				synctest.Wait()
				if n := d.Waiting(); n != 0 {
					t.Errorf("%d batches are left", n)
				}
			})
			if after, _, _ := media.Runs(); after-before != c.runs {
				t.Errorf("%d runs of ffmpeg, want %d", after-before, c.runs)
			}
		})
	}
}

package media_test

import (
	"context"
	"errors"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"neokinema/core/timebase"
	"neokinema/internal/media"
	"neokinema/internal/testenv"
)

func make720(t testing.TB, n testenv.Numbered) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "clip.mp4")
	if err := n.Make(path); err != nil {
		t.Fatal(err)
	}
	return path
}

func TestProbeTellsWhatTheFileSays(t *testing.T) {
	path := filepath.Join(t.TempDir(), "tagged.mp4")
	err := media.Encode(context.Background(), media.RawVideo{Width: 320, Height: 180, Rate: 30, Tags: map[string]string{media.CaptureRateTag: "239.5"}}, path,
		func(write func([]byte) error) error {
			for range 15 {
				if err := write(make([]byte, 320*180*3)); err != nil {
					return err
				}
			}
			return nil
		})
	if err != nil {
		t.Fatal(err)
	}
	i, err := media.Probe(context.Background(), path)
	if err != nil || i.Width != 320 || i.Height != 180 || i.Frames != 15 || i.CaptureRate != 239.5 || i.Codec != "h264" || i.Bits != 8 || i.FileRate != 30 {
		t.Errorf("%+v %v", i, err)
	}
}

func TestRotationAndPixelShapeAreApplied(t *testing.T) {
	path := filepath.Join(t.TempDir(), "turned.mp4")
	if _, err := testenv.Kinds()["rotated"](path); err != nil {
		t.Fatal(err)
	}
	if i, err := media.Probe(context.Background(), path); err != nil || i.Width != 360 || i.Height != 640 || i.Rotation != 90 && i.Rotation != 270 {
		t.Errorf("%+v %v", i, err)
	}
	wide := filepath.Join(t.TempDir(), "wide.mp4")
	src := make720(t, testenv.Numbered{Width: 320, Height: 240, Frames: 6, Rate: 30})
	if err := media.Remake(context.Background(), src, wide, "-vf", "setsar=4/3", "-c:v", "libx264"); err != nil {
		t.Fatal(err)
	}
	i, err := media.Probe(context.Background(), wide)
	if err != nil || i.Width != 427 || i.Height != 240 {
		t.Fatalf("%+v %v", i, err)
	}
	p, err := media.MakeProxy(context.Background(), wide, wide+".proxy.mp4", i, func(int) {})
	if err != nil || p.Width != 428 || p.Height != 240 || len(p.Stamps) != 6 {
		t.Errorf("square pixels, even size: %+v %v", p, err)
	}
}

// TestStampsOfAVariableRateAgreeWithTheSource: the proxy keeps the time of every
// frame, as ffprobe reads it from the source's decoded frames.
func TestStampsOfAVariableRateAgreeWithTheSource(t *testing.T) {
	path := filepath.Join(t.TempDir(), "vfr.mp4")
	n, err := testenv.Kinds()["variable-rate"](path)
	if err != nil {
		t.Fatal(err)
	}
	i, err := media.Probe(context.Background(), path)
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	p, err := media.MakeProxy(context.Background(), path, path+".proxy.mp4", i, func(f int) { seen = f })
	if err != nil || len(p.Stamps) != n.Frames || seen != n.Frames {
		t.Fatalf("%d frames, progress %d, %v", len(p.Stamps), seen, err)
	}
	if !timebase.Variable(p.Stamps) {
		t.Error("the variable rate was made constant")
	}
	out, err := exec.Command("ffprobe", "-v", "error", "-select_streams", "v:0", "-show_entries", "frame=pts_time", "-of", "csv=p=0", path).Output()
	if err != nil {
		t.Fatal(err)
	}
	var first float64
	for k, line := range strings.Fields(string(out)) {
		want, err := strconv.ParseFloat(strings.TrimSuffix(line, ","), 64)
		if err != nil {
			t.Fatal(err)
		}
		if k == 0 {
			first = want
		}
		if got := float64(p.Stamps[k]) / timebase.TickRate; math.Abs(got-(want-first)) > 2.0/timebase.TickRate {
			t.Fatalf("frame %d at %v, source says %v", k, got, want-first)
		}
	}
}

func TestStillsAtBothEndsAndBeyond(t *testing.T) {
	path := make720(t, testenv.Numbered{Width: 320, Height: 180, Frames: 40, Rate: 59.94, Codec: []string{"-c:v", "libx264", "-bf", "3", "-pix_fmt", "yuv420p"}})
	i, err := media.Probe(context.Background(), path)
	if err != nil {
		t.Fatal(err)
	}
	proxy := path + ".proxy.mp4"
	p, err := media.MakeProxy(context.Background(), path, proxy, i, func(int) {})
	if err != nil {
		t.Fatal(err)
	}
	backwards := make([]int, len(p.Stamps))
	for k := range backwards {
		backwards[k] = len(p.Stamps) - 1 - k
	}
	for batch := range slices.Chunk(backwards, 7) {
		all, err := media.Stills(context.Background(), proxy, p.Stamps, batch, 0, t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		for k, f := range batch {
			if n, err := testenv.ReadJPEG(all[k], 320); err != nil || n != f {
				t.Errorf("still %d shows %d (%v)", f, n, err)
			}
		}
	}
	for _, f := range []int{-1, 40} {
		if _, err := media.Stills(context.Background(), proxy, p.Stamps, []int{3, f}, 0, t.TempDir()); err == nil {
			t.Errorf("frame %d was handed out", f)
		}
	}
	if raw, err := media.FirstStill(context.Background(), path, 160); err != nil {
		t.Error(err)
	} else if n, err := testenv.ReadJPEG(raw, 320); err != nil || n != 0 {
		t.Errorf("first still shows %d (%v)", n, err)
	}
}

func TestALargePictureIsScaledByOneFactor(t *testing.T) {
	path := make720(t, testenv.Numbered{Width: 2704, Height: 1520, Frames: 3, Rate: 30})
	i, _ := media.Probe(context.Background(), path)
	p, err := media.MakeProxy(context.Background(), path, path+".p.mp4", i, func(int) {})
	if err != nil || p.Width != 1920 || math.Abs(p.Scale-1920.0/2704) > 1e-12 || p.Height != 1080 {
		t.Errorf("%+v %v", p, err)
	}
}

func TestACancelledProxyStopsAtOnce(t *testing.T) {
	path := make720(t, testenv.Numbered{Width: 1280, Height: 720, Frames: 400, Rate: 60, Codec: []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p"}})
	i, _ := media.Probe(context.Background(), path)
	ctx, cancel := context.WithCancel(context.Background())
	go func() {
		time.Sleep(150 * time.Millisecond)
		cancel()
	}()
	if _, err := media.MakeProxy(ctx, path, path+".p.mp4", i, func(int) {}); !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
}

// TestMotionIsSuggestedOnlyWhenItIsClear with a block that moves over a still
// picture, one that jitters, and a picture that moves as a whole.
func TestMotionIsSuggestedOnlyWhenItIsClear(t *testing.T) {
	draw := func(at func(frame int) (x, y, w, h int), pan int) string {
		path := filepath.Join(t.TempDir(), "m.mp4")
		const w, h = 640, 360
		err := media.Encode(context.Background(), media.RawVideo{Width: w, Height: h, Rate: 30}, path, func(write func([]byte) error) error {
			pic := make([]byte, 3*w*h)
			for f := range 72 {
				bx, by, bw, bh := at(f)
				for y := range h {
					for x := range w {
						v := byte(60 + 60*(((x+pan*f)/40+y/40)%2))
						if x >= bx && x < bx+bw && y >= by && y < by+bh {
							v = 240
						}
						i := 3 * (y*w + x)
						pic[i], pic[i+1], pic[i+2] = v, v, v
					}
				}
				if err := write(pic); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
		return path
	}
	look := func(path string) media.Motion {
		i, err := media.Probe(context.Background(), path)
		if err != nil {
			t.Fatal(err)
		}
		p, err := media.MakeProxy(context.Background(), path, path+".proxy.mp4", i, func(int) {})
		if err != nil {
			t.Fatal(err)
		}
		return p.Motion
	}
	if m := look(draw(func(f int) (int, int, int, int) { return 20 + 8*f, 180, 40, 120 }, 0)); m.Direction != 1 || math.Abs(m.Share-1.0/3) > 0.05 {
		t.Errorf("to the right, a third high: %+v", m)
	}
	if m := look(draw(func(f int) (int, int, int, int) { return 590 - 8*f, 200, 30, 60 }, 0)); m.Direction != -1 {
		t.Errorf("to the left: %+v", m)
	}
	if m := look(draw(func(f int) (int, int, int, int) { return 300 + 6*(f%3), 200, 40, 60 }, 0)); m.Direction != 0 {
		t.Errorf("on the spot: %+v", m)
	}
	if m := look(draw(func(int) (int, int, int, int) { return 0, 0, 0, 0 }, 9)); m.Direction != 0 || m.Share != 0 {
		t.Errorf("a moving camera: %+v", m)
	}
}

// TestAFullDiskIsTold: a device that takes nothing stands for a full disk.
func TestAFullDiskIsTold(t *testing.T) {
	path := make720(t, testenv.Numbered{Width: 320, Height: 180, Frames: 30, Rate: 30})
	i, err := media.Probe(context.Background(), path)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := media.MakeProxy(context.Background(), path, "/dev/full", i, func(int) {}); !errors.Is(err, syscall.ENOSPC) {
		t.Errorf("got %v", err)
	}
}

func TestToolsAreThere(t *testing.T) {
	if err := media.CheckTools(); err != nil {
		t.Fatal(err)
	}
	t.Setenv("PATH", t.TempDir())
	if err := media.CheckTools(); err == nil || !strings.Contains(err.Error(), "install") {
		t.Errorf("a missing tool: %v", err)
	}
}

func TestEncodingToAPlaceThatIsNotThere(t *testing.T) {
	err := (testenv.Numbered{Width: 320, Height: 180, Frames: 2, Rate: 30}).Make(filepath.Join(t.TempDir(), "no", "such", "x.mp4"))
	if err == nil {
		t.Error("encoded into nothing")
	}
	if _, err := os.Stat("no"); err == nil {
		t.Error("made a folder")
	}
}

// BenchmarkImport and BenchmarkDecode are rivals on the same clip: 240 frames of
// 1280x720.
func BenchmarkImport(b *testing.B) {
	path := make720(b, testenv.Numbered{Width: 1280, Height: 720, Frames: 240, Rate: 240})
	i, err := media.Probe(context.Background(), path)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := media.MakeProxy(context.Background(), path, path+".p.mp4", i, func(int) {}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkDecode(b *testing.B) {
	path := make720(b, testenv.Numbered{Width: 1280, Height: 720, Frames: 240, Rate: 240})
	for b.Loop() {
		if err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-f", "null", "-").Run(); err != nil {
			b.Fatal(err)
		}
	}
}

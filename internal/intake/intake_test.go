package intake

import (
	"errors"
	"fmt"
	"strings"
	"syscall"
	"testing"

	"neokinema/core/timebase"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

func TestCleanName(t *testing.T) {
	for in, want := range map[string]string{
		"start 3.mp4": "start 3.mp4", `C:\clips\start.mp4`: "start.mp4", "../../etc/passwd": "passwd", "": "clip", "..": "..", "/": "clip",
		"a\x00b\nc.mp4": "abc.mp4", "李 🏃.mov": "李 🏃.mov", "bad\xffutf.mp4": "badutf.mp4",
	} {
		if got := cleanName(in); got != want {
			t.Errorf("%q became %q, want %q", in, got, want)
		}
	}
	if got := cleanName(strings.Repeat("ü", 500)); len([]rune(got)) != 200 {
		t.Errorf("%d letters", len([]rune(got)))
	}
}

func TestCaptureRateSources(t *testing.T) {
	for _, c := range []struct {
		tag, file, want float64
		from            string
		shows           timebase.Pictures
	}{{240, 30, 240, "file", ""}, {0, 30, 0, "unknown", ""}, {0, 60, 0, "unknown", ""}, {0, 240, 240, "file", ""}, {100000, 30, 0, "unknown", ""}, {2, 120, 120, "file", ""}, {0, 120, 0, "unknown", ".rrr.rrr."}} {
		if rate, from := captureRate(media.Info{CaptureRate: c.tag}, c.file, c.shows); rate != c.want || from != c.from {
			t.Errorf("%+v: %v %s", c, rate, from)
		}
	}
}

func TestWarnings(t *testing.T) {
	even := func(n int) (s []int64) {
		for i := range n {
			s = append(s, int64(i)*3000)
		}
		return s
	}
	good := media.Info{Width: 1280, Height: 720, FileRate: 30, BitRate: 4e6, Bits: 8, Frames: 100}
	if w := warnings(good, store.Clip{Width: 1280, Height: 720, Stamps: even(100)}, media.Motion{Share: 0.5}); len(w) != 0 {
		t.Errorf("a good clip: %q", w)
	}
	for says, c := range map[string]struct {
		info   func(*media.Info)
		clip   store.Clip
		motion media.Motion
	}{
		"Held upright":         {func(*media.Info) {}, store.Clip{Width: 720, Height: 1280, Stamps: even(100)}, media.Motion{}},
		"small in the picture": {func(*media.Info) {}, store.Clip{Width: 1280, Height: 720, Stamps: even(100)}, media.Motion{Share: 0.15}},
		"rate varies":          {func(*media.Info) {}, store.Clip{Width: 1280, Height: 720, Stamps: append(even(99), 400000)}, media.Motion{}},
		"Heavily compressed":   {func(i *media.Info) { i.BitRate = 1e5 }, store.Clip{Width: 1280, Height: 720, Stamps: even(100)}, media.Motion{}},
		"10 bits":              {func(i *media.Info) { i.Bits = 10 }, store.Clip{Width: 1280, Height: 720, Stamps: even(100)}, media.Motion{}},
		"60 of 100 frames":     {func(*media.Info) {}, store.Clip{Width: 1280, Height: 720, Stamps: even(60)}, media.Motion{}},
		"Only one frame":       {func(*media.Info) {}, store.Clip{Width: 1280, Height: 720, Stamps: even(1)}, media.Motion{}},
	} {
		i := good
		c.info(&i)
		if w := warnings(i, c.clip, c.motion); len(w) != 1 || !strings.Contains(w[0], says) {
			t.Errorf("%s: %q", says, w)
		}
	}
}

func TestFailuresAreToldInWords(t *testing.T) {
	for _, c := range []struct {
		err    error
		final  bool
		phrase string
	}{
		{media.ErrCut, true, "This file is cut"},
		{fmt.Errorf("ffmpeg: %w", syscall.ENOSPC), true, "try again"},
		{problem.New(problem.Invalid, "Same file."), true, "Same file."},
		{errors.New("exit status 69: something odd"), false, "could not be decoded"},
	} {
		var p *problem.Problem
		if final := errors.As(c.err, &p) || refusal(c.err); final != c.final || !strings.Contains(words(c.err), c.phrase) {
			t.Errorf("%v: final %v, %q", c.err, final, words(c.err))
		}
	}
}

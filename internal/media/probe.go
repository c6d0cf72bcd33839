package media

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"neokinema/core/track"
)

// CaptureRateTag is the metadata key under which phones note the capture rate
// of slow motion.
const CaptureRateTag = "com.android.capture.fps"

// Info is what a file says of itself. Width and height are those of the upright
// picture with square pixels.
type Info struct {
	Width       int
	Height      int
	Rotation    int
	Codec       string
	PixelFormat string
	Bits        int
	BitRate     float64
	Frames      int     // as the container says; 0 when it does not
	FileRate    float64 // as the container says
	CaptureRate float64 // 0 when the file does not say
	Duration    float64
	Taken       time.Time // as the camera says; zero when it does not
}

// Refusals of files, in words for the coach.
var (
	ErrNotVideo  = errors.New("this file is no video; send the clip as the phone saved it (MP4, MOV or WebM)")
	ErrAudioOnly = errors.New("this file has sound but no picture; send the clip itself")
	ErrCut       = errors.New("this file is cut: the part that lists its frames is missing; copy it from the phone again")
	ErrNoFrames  = errors.New("this video has no frames; copy it from the phone again")
	ErrClock     = errors.New("the clock of this file is broken, so its frames cannot be told apart; copy it from the phone again")
	ErrTooLong   = errors.New("this video takes too long to read; cut it down to the attempt and send that")
	ErrTooMuch   = errors.New("this video needs more memory than it may have; film at 4K or less, or convert it to MP4 (H.264) first")
)

// Limits of what is taken: a side and an area of the picture (px), above which a
// decoder may eat the memory of the machine, and pixels over all frames, above which
// it takes the machine for itself: two minutes of 4K at 60 a second.
const (
	largestSide    = 8192
	largestPicture = 4096 * 2304
	mostPixels     = 60e9
)

// mostFrames is how many frames a clip of a size may have.
func mostFrames(width, height int) int {
	return min(track.MostFrames, int(mostPixels/float64(max(1, width*height))))
}

// Probe reads what a video file says of itself.
func Probe(ctx context.Context, path string) (Info, error) {
	c := newCall(ctx, "ffprobe", quickTime, "-show_streams", "-show_format", "-of", "json")
	if err := c.input(path); err != nil {
		c.close()
		return Info{}, err
	}
	if silent[c.kinds[0]] {
		c.close()
		return Info{}, ErrAudioOnly
	}
	out, err := c.output()
	var said *toolError
	switch {
	case errors.As(err, &said) && strings.Contains(said.words, "moov atom not found"):
		return Info{}, ErrCut
	case errors.As(err, &said):
		return Info{}, ErrNotVideo
	case err != nil:
		return Info{}, err
	}
	var doc struct {
		Streams []struct {
			Type        string            `json:"codec_type"`
			Codec       string            `json:"codec_name"`
			Width       int               `json:"width"`
			Height      int               `json:"height"`
			Format      string            `json:"pix_fmt"`
			Bits        string            `json:"bits_per_raw_sample"`
			Aspect      string            `json:"sample_aspect_ratio"`
			Rate        string            `json:"r_frame_rate"`
			Average     string            `json:"avg_frame_rate"`
			Frames      string            `json:"nb_frames"`
			BitRate     string            `json:"bit_rate"`
			Tags        map[string]string `json:"tags"`
			Disposition map[string]int    `json:"disposition"`
			Side        []struct {
				Rotation float64 `json:"rotation"`
			} `json:"side_data_list"`
		} `json:"streams"`
		Format struct {
			Duration string            `json:"duration"`
			BitRate  string            `json:"bit_rate"`
			Tags     map[string]string `json:"tags"`
		} `json:"format"`
	}
	if err := json.Unmarshal(out, &doc); err != nil {
		return Info{}, fmt.Errorf("ffprobe: %w", err)
	}
	sound := false
	for _, s := range doc.Streams {
		if s.Type == "audio" {
			sound = true
		}
		if s.Type != "video" || s.Disposition["attached_pic"] == 1 {
			continue
		}
		if s.Width <= 0 || s.Height <= 0 {
			return Info{}, ErrNoFrames
		}
		if s.Width > largestSide || s.Height > largestSide || s.Width*s.Height > largestPicture {
			return Info{}, fmt.Errorf("a picture of %d x %d is too large; film at 4K or less", s.Width, s.Height)
		}
		i := Info{Width: s.Width, Height: s.Height, Codec: s.Codec, PixelFormat: s.Format, Bits: 8,
			FileRate: ratio(s.Average), Frames: int(number(s.Frames)), BitRate: number(s.BitRate), Duration: number(doc.Format.Duration)}
		// A broken count is no count.
		if i.Frames < 0 || i.Frames > track.MostFrames {
			i.Frames = 0
		}
		// A clock that was never set is no time.
		if t, err := time.Parse(time.RFC3339, doc.Format.Tags["creation_time"]); err == nil && t.Year() > 2000 {
			i.Taken = t
		}
		if i.FileRate == 0 {
			i.FileRate = ratio(s.Rate)
		}
		if i.BitRate == 0 {
			i.BitRate = number(doc.Format.BitRate)
		}
		if b := int(number(s.Bits)); b > 0 {
			i.Bits = b
		} else if strings.Contains(s.Format, "10") {
			i.Bits = 10
		}
		if a := ratio(strings.ReplaceAll(s.Aspect, ":", "/")); a > 0.1 && a < 10 {
			i.Width = int(math.Round(float64(i.Width) * a))
		}
		for _, side := range s.Side {
			if side.Rotation != 0 {
				i.Rotation = ((int(math.Round(side.Rotation)) % 360) + 360) % 360
			}
		}
		if i.Rotation == 90 || i.Rotation == 270 {
			i.Width, i.Height = i.Height, i.Width
		}
		for _, tags := range []map[string]string{s.Tags, doc.Format.Tags} {
			if r := number(tags[CaptureRateTag]); r > 0 {
				i.CaptureRate = r
			}
		}
		return i, nil
	}
	if sound {
		return Info{}, ErrAudioOnly
	}
	return Info{}, ErrNotVideo
}

func number(s string) float64 {
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return v
}

func ratio(s string) float64 {
	a, b, ok := strings.Cut(s, "/")
	if !ok || number(b) == 0 {
		return number(a)
	}
	return number(a) / number(b)
}

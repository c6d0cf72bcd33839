package media

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strconv"
)

// ErrNoSound tells that a file has no sound track.
var ErrNoSound = errors.New("this video has no sound")

// Sound is the sound of a video, one channel from -1 to 1.
type Sound struct {
	Rate    float64 // samples a second of the file
	First   float64 // when the first sample comes, s after the first picture
	Samples []float64
}

// longestSound is how much of a file is listened to, s.
const longestSound = 600

// Listen decodes the first sound track of a file at so many samples a second.
func Listen(ctx context.Context, path string, rate int) (Sound, error) {
	c := newCall(ctx, "ffprobe", quickTime, "-show_entries", "stream=codec_type,start_time", "-of", "json")
	if err := c.input(path); err != nil {
		c.close()
		return Sound{}, err
	}
	raw, err := c.output()
	if err != nil {
		return Sound{}, err
	}
	var probe struct {
		Streams []struct {
			Type  string `json:"codec_type"`
			Start string `json:"start_time"`
		}
	}
	if err := json.Unmarshal(raw, &probe); err != nil {
		return Sound{}, err
	}
	starts := map[string]float64{}
	for _, s := range probe.Streams {
		if _, seen := starts[s.Type]; !seen {
			starts[s.Type], _ = strconv.ParseFloat(s.Start, 64) // 0 where the format has none
		}
	}
	at, ok := starts["audio"]
	if !ok {
		return Sound{}, ErrNoSound
	}
	c = newCall(ctx, "ffmpeg", longTime)
	if err := c.input(path); err != nil {
		c.close()
		return Sound{}, err
	}
	if raw, err = c.add("-map", "0:a:0", "-af", filled, "-t", fmt.Sprint(longestSound), "-ac", "1", "-ar", fmt.Sprint(rate), "-f", "s16le", "pipe:1").output(); err != nil {
		return Sound{}, err
	}
	out := Sound{Rate: float64(rate), First: at - starts["video"], Samples: make([]float64, len(raw)/2)}
	for i := range out.Samples {
		out.Samples[i] = float64(int16(binary.LittleEndian.Uint16(raw[2*i:]))) / -math.MinInt16
	}
	return out, nil
}

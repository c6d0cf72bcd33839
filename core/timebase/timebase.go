// Package timebase turns frames into true time. The frame is the unit of truth: a
// clip is its list of presentation time stamps, and a constant rate is never
// assumed.
package timebase

import (
	"errors"
	"fmt"
	"math"
	"sort"

	"neokinema/core/uncertainty"
)

// TickRate is the resolution of stored time stamps, per second.
const TickRate = 90000

// Limits of what a camera that a coach owns can do; answers beyond are refused. Assumed.
const (
	MinCaptureRate = 10
	MaxCaptureRate = 2000
)

// ErrRateUnknown tells that true time cannot be given yet.
var ErrRateUnknown = errors.New("the capture rate of this clip is not known yet")

// Clock knows the true time of each frame of one clip.
type Clock struct {
	stamps []int64
	slow   float64 // true seconds per file second; 0 when unknown
	shows  Pictures
}

// New makes a clock from the stamps (ticks of 1/[TickRate] s, increasing), the
// file rate and the capture rate (both per second; capture 0 is unknown).
func New(stamps []int64, fileRate, captureRate float64) (Clock, error) {
	for i := 1; i < len(stamps); i++ {
		if stamps[i] <= stamps[i-1] {
			return Clock{}, fmt.Errorf("time stamps must grow: frame %d has %d after %d", i, stamps[i], stamps[i-1])
		}
	}
	c := Clock{stamps: stamps}
	if captureRate == 0 {
		return c, nil
	}
	if err := CheckCaptureRate(captureRate); err != nil {
		return Clock{}, err
	}
	if !(fileRate > 0) {
		return Clock{}, errors.New("the file rate must be above 0")
	}
	c.slow = fileRate / captureRate
	return c, nil
}

// CheckCaptureRate refuses what no camera for this work delivers.
func CheckCaptureRate(r float64) error {
	if math.IsNaN(r) || r < MinCaptureRate || r > MaxCaptureRate {
		return fmt.Errorf("a capture rate of %g per second cannot be right; give a value from %d to %d", r, MinCaptureRate, MaxCaptureRate)
	}
	return nil
}

// FileRate is the median rate of the stamps, per second, 0 for fewer than two
// frames. The median is not moved by a pause inside a variable-rate file.
func FileRate(stamps []int64) float64 {
	if len(stamps) < 2 {
		return 0
	}
	gaps := make([]int64, len(stamps)-1)
	for i := range gaps {
		gaps[i] = stamps[i+1] - stamps[i]
	}
	sort.Slice(gaps, func(i, j int) bool { return gaps[i] < gaps[j] })
	median := float64(gaps[len(gaps)/2]+gaps[(len(gaps)-1)/2]) / 2
	// 90 kHz cannot hold most rates exactly; the mean near the median can.
	var sum, n float64
	for _, g := range gaps {
		if math.Abs(float64(g)-median) <= median*0.02+1 {
			sum, n = sum+float64(g), n+1
		}
	}
	return TickRate * n / sum
}

// Variable tells whether frame gaps differ by more than a tenth of the median.
func Variable(stamps []int64) bool {
	rate := FileRate(stamps)
	for i := 1; i < len(stamps); i++ {
		if gap := float64(stamps[i]-stamps[i-1]) * rate / TickRate; gap < 0.9 || gap > 1.1 {
			return true
		}
	}
	return false
}

// Len is the number of frames.
func (c Clock) Len() int { return len(c.stamps) }

// Known tells whether true time can be given.
func (c Clock) Known() bool { return c.slow > 0 }

// Untimed is the clock without a rate of the camera.
func (c Clock) Untimed() Clock {
	c.slow = 0
	return c
}

func (c Clock) ticks(i, j int) (ticks, gap float64, err error) {
	if i < 0 || j < 0 || i >= len(c.stamps) || j >= len(c.stamps) {
		return 0, 0, fmt.Errorf("frames %d to %d lie outside the clip of %d frames", i, j, len(c.stamps))
	}
	return float64(c.stamps[j] - c.stamps[i]), (c.gap(i) + c.gap(j)) / 2, nil
}

// Showing is the clock of a clip that shows pictures more than once: a moment is then as
// doubtful as pictures lie apart.
func (c Clock) Showing(p Pictures) Clock {
	c.shows = p
	if p.Stills() {
		c.slow = 0
	}
	return c
}

// gap is the interval that frame i stands for: what lies between its picture and the one
// before, in ticks.
func (c Clock) gap(i int) float64 {
	for i > 0 && !c.shows.Own(i) {
		i--
	}
	before := i - 1
	for before > 0 && !c.shows.Own(before) {
		before--
	}
	if i == 0 {
		before = 0
		for i = 1; i < len(c.stamps) && !c.shows.Own(i); i++ {
		}
	}
	if i >= len(c.stamps) {
		return 0
	}
	return float64(c.stamps[i] - c.stamps[before])
}

// Between is the true time from frame i to frame j with its doubt, seconds.
func (c Clock) Between(i, j int) (uncertainty.Estimate, error) {
	ticks, gap, err := c.ticks(i, j)
	if err != nil {
		return uncertainty.Estimate{}, err
	}
	if !c.Known() {
		return uncertainty.Estimate{}, ErrRateUnknown
	}
	k := c.slow / TickRate
	return uncertainty.FrameInterval(ticks*k, gap*k), nil
}

// Share is the time from i to j over the time from k to l, in per cent. It needs
// no capture rate. The shares' ends are independent moments; when a moment is
// common to both (i == k), its error partly cancels, which first-order
// propagation over the three or four moments respects.
func (c Clock) Share(i, j, k, l int) (uncertainty.Estimate, error) {
	whole, _, err := c.ticks(k, l)
	if err != nil {
		return uncertainty.Estimate{}, err
	}
	if _, _, err = c.ticks(i, j); err != nil {
		return uncertainty.Estimate{}, err
	}
	if whole <= 0 {
		return uncertainty.Estimate{}, errors.New("the whole of this share has no duration")
	}
	frames := []int{i, j, k, l}
	slot, x, sd := make([]int, 4), []float64{}, []float64{}
	for n, f := range frames {
		slot[n] = -1
		for m := range n {
			if frames[m] == f {
				slot[n] = slot[m]
			}
		}
		if slot[n] < 0 {
			slot[n] = len(x)
			x = append(x, float64(c.stamps[f]))
			sd = append(sd, c.gap(f)/math.Sqrt(12))
		}
	}
	return uncertainty.Propagate(func(v []float64) float64 {
		return 100 * (v[slot[1]] - v[slot[0]]) / (v[slot[3]] - v[slot[2]])
	}, x, sd), nil
}

// At is the true time of frame i since frame 0, seconds. Before the capture
// rate is known it is file time.
func (c Clock) At(i int) float64 {
	slow := c.slow
	if slow == 0 {
		slow = 1
	}
	return float64(c.stamps[i]-c.stamps[0]) * slow / TickRate
}

// RateHypothesis shows what a capture rate would make of things seen in the clip.
type RateHypothesis struct {
	Rate     float64  `json:"rate" doc:"capture rate, per second"`
	Clip     float64  `json:"clip" doc:"true length of the clip, s"`
	Contact  *float64 `json:"contact,omitempty" required:"false" doc:"true length of the ground contact that was marked, s"`
	Possible bool     `json:"possible"`
	Text     string   `json:"text" doc:"plain sentence for the coach"`
}

// Bounds of a ground contact in sprinting and starting, seconds. Contacts at
// top speed are near 0.09, first steps near 0.2; from memory of the
// biomechanics literature, taken wide so that only a wrong rate falls outside.
const (
	shortestContact = 0.07
	longestContact  = 0.32
)

// RateHypotheses weighs candidate capture rates by one ground contact from frame on to
// frame off (pass off <= on for none).
func RateHypotheses(stamps []int64, fileRate float64, on, off int, rates []float64) []RateHypothesis {
	var out []RateHypothesis
	for _, rate := range rates {
		c, err := New(stamps, fileRate, rate)
		if err != nil || c.Len() == 0 {
			out = append(out, RateHypothesis{Rate: rate, Text: fmt.Sprintf("%g a second cannot be right", rate)})
			continue
		}
		g := RateHypothesis{Rate: rate, Clip: c.At(c.Len() - 1), Possible: true}
		g.Text = fmt.Sprintf("this would make the clip %.1f s long", g.Clip)
		if v, err := c.Between(on, off); err == nil && off > on {
			g.Contact = &v.Value
			g.Possible = v.Value+v.Half95 >= shortestContact && v.Value-v.Half95 <= longestContact
			g.Text = fmt.Sprintf("this would make the contact %.2g s", v.Value)
			if !g.Possible {
				g.Text += ", which no sprinter shows"
			}
		}
		out = append(out, g)
	}
	return out
}

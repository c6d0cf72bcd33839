package timebase

import (
	"fmt"
	"math"
	"strings"
)

// Pictures says of each frame of a clip what it holds, one letter a frame; empty when every
// frame holds a picture of its own. It is made by package vision.
type Pictures string

// The letters: a picture of the camera, the picture before once more, a mix of two.
const (
	Own      = '.'
	Repeated = 'r'
	Blended  = 'b'
)

// Check refuses letters that mean nothing, and a list that is not of n frames.
func (p Pictures) Check(n int) error {
	if p != "" && len(p) != n || strings.Trim(string(p), "rb.") != "" {
		return fmt.Errorf("what %d frames hold does not fit a clip of %d frames", len(p), n)
	}
	return nil
}

// Own tells whether a frame holds a picture of its own.
func (p Pictures) Own(frame int) bool { return frame < 0 || frame >= len(p) || p[frame] == Own }

// Of is the frame that shows the picture of a frame first.
func (p Pictures) Of(frame int) int {
	for frame > 0 && frame < len(p) && p[frame] == Repeated {
		frame--
	}
	return frame
}

// Count is how many frames are of a kind.
func (p Pictures) Count(kind byte) int { return strings.Count(string(p), string(kind)) }

// Frames lists the frames that hold a picture of their own; nil when all do.
func (p Pictures) Frames() (list []int) {
	if p.Count(Own) == len(p) {
		return nil
	}
	for i := range p {
		if p[i] == Own {
			list = append(list, i)
		}
	}
	return list
}

// Rate is how many pictures of their own pass in a true second, by how many frames do.
func (p Pictures) Rate(frames float64) float64 {
	list := p.Frames()
	if len(list) < 2 {
		return frames
	}
	// Where nearly all pictures come at one distance, those between are copies that stood
	// still; no change of a rate has so many alike.
	gaps := map[int]int{}
	for i := 1; i < len(list); i++ {
		gaps[list[i]-list[i-1]]++
	}
	for gap, n := range gaps {
		if gap > 1 && float64(n) >= nearlyAll*float64(len(list)-1) {
			return frames / float64(gap)
		}
	}
	return frames * float64(len(list)-1) / float64(list[len(list)-1]-list[0])
}

// leastHeld is for how many frames each picture of a clip of stills is held at least: longer
// than in any clip that was slowed down.
const leastHeld = 10

// Stills tells whether a clip shows single positions, each held for a while: there is no time
// between them.
func (p Pictures) Stills() bool {
	list := p.Frames()
	if len(list) < 2 || p.Count(Blended) > 0 {
		return false
	}
	for i := 1; i < len(list); i++ {
		if list[i]-list[i-1] < leastHeld {
			return false
		}
	}
	return true
}

// nearlyAll is the share of pictures at one distance that makes it the clip's.
const nearlyAll = 0.72

// apart is how many frames a picture lasts: the mean over stretches in which pictures are
// copied, leaving out long ones in which everything stands still.
func (p Pictures) apart() float64 {
	last, frames, pictures := -1, 0, 0
	for i := range p {
		if p[i] != Own {
			continue
		}
		if gap := i - last; last >= 0 && gap <= mostApart {
			frames, pictures = frames+gap, pictures+1
		}
		last = i
	}
	if pictures == 0 {
		return 1
	}
	return float64(frames) / float64(pictures)
}

// mostApart is how many frames one picture may fill before it is a standstill.
const mostApart = 12

// Offer is a capture rate that the tool proposes, with its reason.
type Offer struct {
	Rate   float64 `json:"rate" doc:"frames of the file that pass in a true second"`
	Reason string  `json:"reason" doc:"why, in plain words"`
}

// slowest is the rate below which no camera films; a file that shows fewer different
// pictures a second was slowed down. Common practice, no source.
const slowest = 20

// Offered reads from the copies what the camera took: who sees each picture n times sees a
// clip of the file's rate slowed n times, or a slower camera's clip at true speed.
func (p Pictures) Offered(fileRate float64) (Offer, bool) {
	apart := p.apart()
	if p.Stills() {
		return Offer{}, false
	}
	if p.Count(Own) == len(p) || apart < 1.02 || fileRate <= 0 {
		return Offer{}, false
	}
	times := math.Round(apart)
	word := "shown once more"
	if p.Count(Blended) > p.Count(Repeated) {
		word = "mixes of two others"
	}
	seen := fileRate / apart
	if times >= 2 && seen < slowest {
		return Offer{fileRate * times, fmt.Sprintf("%d of %d pictures are %s: the clip was slowed down %g times, and %.3g pictures of it a second are real", len(p)-p.Count(Own), len(p), word, times, fileRate)}, true
	}
	return Offer{fileRate, fmt.Sprintf("%d of %d pictures are %s, as when a clip of about %.0f a second is saved at %.3g: it plays at true speed", len(p)-p.Count(Own), len(p), word, seen, fileRate)}, true
}

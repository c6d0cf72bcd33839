package vision

import (
	"math"
	"slices"
	"strings"

	"neokinema/core/timebase"
)

// Copies finds the frames of a clip that hold no picture of their own: programs that slow a
// clip down, record a screen or change the rate show pictures once more or mix two of them.
// Two numbers a frame tell: how much it differs from the frame before, and how much from
// the mean of its neighbours, where the picture moves most.
type Copies struct {
	pix        [2][]byte
	w, h, n    int
	step, bend []float64
}

// blockSide is the side of the blocks over which differences are averaged, px: sensor noise
// sinks, the motion of a limb stays. movingShare of the blocks are taken to move. Assumed.
const (
	blockSide   = 8
	movingShare = 0.02
)

// Add takes the next frame as a small grey picture; all must be of one size.
func (c *Copies) Add(w, h int, pix []byte) {
	c.w, c.h = w, h
	if c.n > 0 {
		c.step = append(c.step, c.strongest(func(i int) float64 { return float64(pix[i]) - float64(c.pix[1][i]) }))
	}
	if c.n > 1 {
		c.bend = append(c.bend, c.strongest(func(i int) float64 {
			return float64(pix[i]) + float64(c.pix[0][i]) - 2*float64(c.pix[1][i])
		}))
	}
	c.pix[0], c.pix[1] = c.pix[1], append(c.pix[0][:0], pix...)
	c.n++
}

// strongest is the mean of what differs over the blocks in which most does.
func (c *Copies) strongest(diff func(i int) float64) float64 {
	cols, rows := c.w/blockSide, c.h/blockSide
	all := make([]float64, 0, cols*rows)
	for by := range rows {
		for bx := range cols {
			sum := 0.0
			for y := range blockSide {
				at := (by*blockSide+y)*c.w + bx*blockSide
				for x := range blockSide {
					sum += math.Abs(diff(at + x))
				}
			}
			all = append(all, sum/(blockSide*blockSide))
		}
	}
	if len(all) == 0 {
		return 0
	}
	slices.Sort(all)
	top := all[len(all)-max(1, int(movingShare*float64(len(all)))):]
	sum := 0.0
	for _, v := range top {
		sum += v
	}
	return sum / float64(len(top))
}

// How a frame's numbers compare with the largest on both sides of it. Assumed; shaped on
// the half of the hard set that is there to build on.
const (
	little     = 0.3 // of them and less is no motion of its own
	much       = 0.6 // of them and more is
	mostSlow   = 8   // times that programs slow a clip down at most
	regular    = 0.7 // share of pictures that must come at the same distance, and in step
	fewCopies  = 3   // of a clip: fewer are chance
	leastMixed = 0.1 // share of frames that a change of rates mixes
	onlyOnce   = 0.2 // what holds of less than this share of frames must be plainer
	plainly    = 0.5
)

// Pictures tells what each frame holds. A clip that stands still tells nothing: its frames
// are taken for pictures of their own, but where those around them follow a rule.
func (c *Copies) Pictures() timebase.Pictures {
	if c.n < 3 {
		return ""
	}
	if p := c.stills(); p.Stills() {
		return p
	}
	for _, look := range []struct {
		told []int
		kind byte
	}{{told(c.step, 1, c.n), timebase.Repeated}, {told(c.bend, 1, c.n), timebase.Blended}} {
		out, copies := []byte(strings.Repeat(string(timebase.Own), c.n)), 0
		told, rule := ruled(look.told)
		for i, s := range told {
			if s < 0 {
				out[i] = look.kind
				copies++
			}
		}
		if look.kind == timebase.Blended && !rule && float64(copies) < leastMixed*float64(c.n) {
			continue // no program mixes a picture now and then
		}
		if copies > 0 {
			return timebase.Pictures(out) // what is repeated has no bend to be looked at
		}
	}
	return ""
}

// Pictures that are held stand quite still but for what coding leaves, and are followed by
// another: levels and shares of the largest difference. Measured on made-up clips of stills
// (0.5 and less, 0.04) and on the half of the hard set that is there to build on (1.1 and
// more in half of all frames).
const (
	heldStill = 0.06
	heldLevel = 1.5
	turned    = 0.2
)

// stills tells what frames hold if this is a clip of stills; what is neither held nor plainly
// another picture makes it none.
func (c *Copies) stills() timebase.Pictures {
	most := slices.Max(c.step)
	out, unclear := []byte{timebase.Own}, 0
	for _, v := range c.step {
		switch {
		case v >= turned*most && v > heldLevel:
			out = append(out, timebase.Own)
		case v > heldStill*most || v > heldLevel:
			unclear++
			fallthrough
		default:
			out = append(out, timebase.Repeated)
		}
	}
	if float64(unclear) > fewUnclear*float64(c.n) {
		return ""
	}
	return timebase.Pictures(out)
}

// fewUnclear is the share of frames that may be neither.
const fewUnclear = 0.03

// told says of each frame whether it moves by itself: 1, not: -1, or 0: nobody can tell.
// Values belong to the frames from first on.
func told(values []float64, first, n int) []int {
	out := make([]int, n)
	largest := func(from, to int) (most float64) {
		for i := max(0, from); i <= min(len(values)-1, to); i++ {
			most = max(most, values[i])
		}
		return most
	}
	// both is what is largest on either side; the first and the last have one side.
	both := func(i, span int) float64 {
		switch i {
		case 0:
			return largest(1, span)
		case len(values) - 1:
			return largest(i-span, i-1)
		}
		return min(largest(i-span, i-1), largest(i+1, i+span))
	}
	low := 0
	for i, v := range values {
		switch about := both(i, mostSlow); {
		case about == 0:
		case v < little*about:
			out[first+i] = -1
			low++
		case v > much*max(largest(i-2, i-1), largest(i+1, i+2)):
			out[first+i] = 1
		}
	}
	if low < fewCopies {
		return make([]int, n)
	}
	if float64(low) < onlyOnce*float64(n) {
		for i := range values {
			if out[first+i] < 0 && values[i] > plainly*little*both(i, 2) {
				out[first+i] = 0
			}
		}
	}
	return out
}

// ruled fills in frames of which nobody can tell where pictures come at even distances, and says
// whether they do. A picture that should come and is like the one before stood still.
func ruled(told []int) (list []int, rule bool) {
	var own []int
	for i, t := range told {
		if t > 0 {
			own = append(own, i)
		}
	}
	gaps := map[int]int{}
	all := 0
	for i := 1; i < len(own); i++ {
		if sure(told[own[i-1]:own[i]]) {
			gaps[own[i]-own[i-1]]++
			all++
		}
	}
	every := 0
	for g, n := range gaps {
		if g > 1 && float64(n) >= regular*float64(all) && n >= fewCopies {
			every = g
		}
	}
	if every == 0 {
		return told, false
	}
	inStep := make([]int, every)
	for _, o := range own {
		inStep[o%every]++
	}
	beat := slices.Index(inStep, slices.Max(inStep))
	if float64(inStep[beat]) < regular*float64(len(own)) {
		return told, false
	}
	at := func(i int) int {
		if i < 0 || i >= len(told) {
			return 1
		}
		return told[i]
	}
	out := slices.Clone(told)
	for i := range out {
		if !slices.Contains(told[max(0, i-2*every):min(len(told), i+2*every+1)], -1) || told[i] == 0 {
			out[i] = 1
			if i%every != beat {
				out[i] = -1
			}
		}
		if i%every == beat && at(i-every) >= 0 && at(i+every) >= 0 {
			out[i] = 1
		}
	}
	return out, true
}

// sure tells whether each of some frames was told.
func sure(list []int) bool { return !slices.Contains(list, 0) }

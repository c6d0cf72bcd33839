// Package pole reads how a vaulting pole bends, from four points on it: its tip, two between,
// and the top hand. Places in px of the common frame, moments in frames.
package pole

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/linsolve"
	"neokinema/core/uncertainty"
)

// Look is what one frame shows of a pole, each point off by sigma. The tip is often out of the
// picture.
type Look struct {
	Tip, Low, High, Hand r2.Vec
	Sigma                float64
	NoTip                bool
}

// Deflection is how far the pole's middle part lies off the line from its lowest point to the
// hand, as a share of that line, and its standard deviation: of the whole pole, or of what is left
// without the tip.
func (l Look) Deflection(whole bool) (share, sd float64) {
	from := l.Low
	if whole {
		from = l.Tip
	}
	line := r2.Sub(l.Hand, from)
	n := r2.Norm(line)
	off := func(p r2.Vec) float64 { return r2.Cross(line, r2.Sub(p, from)) / n }
	if !whole {
		return math.Abs(off(l.High)) / n, l.Sigma * math.Sqrt(1.0+1.0/2) / n
	}
	// Both points, and about half of what tip and hand are off.
	return math.Abs(off(l.Low)+off(l.High)) / 2 / n, l.Sigma * math.Sqrt(1.0/2+1.0/2) / n
}

// Chord is the line from tip to hand, px.
func (l Look) Chord() float64 { return r2.Norm(r2.Sub(l.Hand, l.Tip)) }

// Onset is the moment at which a pole begins to bend.
type Onset struct {
	Frame float64 `json:"frame"`
	SD    float64 `json:"sd" doc:"frames"`
}

// Errors of a pole.
var (
	ErrFew  = errors.New("both points on the pole and the top hand must be followed from before the take-off until it is bent, better the tip too")
	ErrTip  = errors.New("the tip of the pole must be followed from the onset of the bend to the straight pole")
	ErrStay = errors.New("the pole does not bend in this stretch, as far as its points show")
)

// How much of a stretch is looked at: until the pole is bent so far, as a share of its chord,
// since only then the square of its deflection grows evenly; and how many frames it takes on both
// sides. Assumed.
const (
	evenUntil = 0.15
	partly    = 0.5 // of that, of the part above the tip
	leastSide = 3
)

// Begins finds the onset between two frames. What is bent follows a law: an elastic line that
// gives way sideways has a deflection whose square is in proportion to what its chord has lost
// (Euler's elastica near the straight line), and the chord loses evenly at first. So the square of
// the deflection is taken for a level that turns into a slope, and its corner is the onset.
//
// Where the tip comes into the picture only later, what is above it tells the same, less surely.
func Begins(look func(frame int) (Look, bool), from, to int) (Onset, error) {
	on, err := begins(look, from, to, true)
	if err != nil {
		if part, poor := begins(look, from, to, false); poor == nil {
			return part, nil
		}
	}
	return on, err
}

func begins(look func(frame int) (Look, bool), from, to int, whole bool) (Onset, error) {
	var at, square, sd []float64
	until := evenUntil
	if !whole {
		until *= partly
	}
	for f := from; f < to; f++ {
		l, ok := look(f)
		if !ok || l.NoTip && whole {
			continue
		}
		d, s := l.Deflection(whole)
		if d > until {
			break
		}
		at, square, sd = append(at, float64(f)), append(square, d*d), append(sd, math.Hypot(2*d*s, math.Sqrt2*s*s))
	}
	if len(at) < 2*leastSide {
		return Onset{}, ErrFew
	}
	cost := func(corner float64) (sum, slope, slopeSD float64) {
		var m [4]float64
		var r [2]float64
		for i, f := range at {
			x, w := math.Max(0, f-corner), 1/(sd[i]*sd[i])
			m[0], m[1], m[2], m[3] = m[0]+w, m[1]+w*x, m[2]+w*x, m[3]+w*x*x
			r[0], r[1] = r[0]+w*square[i], r[1]+w*x*square[i]
		}
		det := m[0]*m[3] - m[1]*m[2]
		slopeSD = math.Sqrt(m[0] / det)
		if linsolve.Solve(m[:], r[:]) != nil {
			return math.Inf(1), 0, 0
		}
		for i, f := range at {
			d := (square[i] - r[0] - r[1]*math.Max(0, f-corner)) / sd[i]
			sum += d * d
		}
		return sum, r[1], slopeSD
	}
	const fine = 0.1
	first, last := at[leastSide-1], at[len(at)-leastSide]
	best, corner := math.Inf(1), 0.0
	for c := first; c <= last; c += fine {
		if sum, _, _ := cost(c); sum < best {
			best, corner = sum, c
		}
	}
	_, slope, slopeSD := cost(corner)
	if math.IsInf(best, 1) || !(slope > surely*slopeSD) {
		return Onset{}, ErrStay
	}
	// Where the sum of squares is larger by what each degree of freedom has, on the mean.
	rise := math.Max(1, best/float64(max(1, len(at)-3)))
	lo, hi := corner, corner
	for lo > first-1 {
		if sum, _, _ := cost(lo); sum > best+rise {
			break
		}
		lo -= fine
	}
	for hi < last+1 {
		if sum, _, _ := cost(hi); sum > best+rise {
			break
		}
		hi += fine
	}
	if corner-first < fine || last-corner < fine {
		return Onset{}, ErrFew // it had begun before, or has hardly begun
	}
	return Onset{corner, math.Max(leastSD, (hi-lo)/2)}, nil
}

// surely is how many standard deviations of growth make a bend, and leastSD the least doubt of an
// onset, frames: no frame is known better than that. Assumed.
const (
	surely  = 5
	leastSD = 0.3
)

// flatView is how far the length of a pole that turns in front of a camera changes though it does
// not bend, as a share: it comes nearer and swings aside. Assumed.
const flatView = 0.03

// Shortest is the shortest chord between two frames, in % of that at the onset, when the pole was
// still straight, and its frame.
func Shortest(look func(frame int) (Look, bool), onset Onset, from, to int) (chord uncertainty.Estimate, frame int, err error) {
	var straight, n float64
	for f := int(onset.Frame) - 3; f <= int(onset.Frame); f++ {
		if l, ok := look(f); ok && !l.NoTip {
			straight, n = straight+l.Chord(), n+1
		}
	}
	if n == 0 {
		return chord, 0, ErrTip
	}
	straight /= n
	best, sigma := math.Inf(1), 0.0
	seen := 0
	for f := from; f <= to; f++ {
		l, ok := look(f)
		if !ok || l.NoTip {
			continue
		}
		seen++
		if l.Chord() < best {
			best, sigma, frame = l.Chord(), l.Sigma, f
		}
	}
	if 2*seen < to-from {
		return chord, 0, ErrTip
	}
	v := 100 * best / straight
	return uncertainty.Normal(v, math.Hypot(100*math.Sqrt2*sigma/straight, v*flatView)), frame, nil
}

package throw

import (
	"math"

	"neokinema/core/body"
)

// Priors of the lines that turn. They are assumptions, shaped on the simulated athlete unless
// another source is named; their influence ends where the pictures speak.

// prior is what is taken for granted of a line before its pictures are looked at.
type prior struct {
	length   spread  // m
	window   float64 // s in which the longest look is the length; 0: one length for the whole clip
	whole    bool    // its length differs between people by so much that it must be seen in whole
	smooth   smoothness
	onward   float64 // how sure it is that the line only turns onward, 0 to 1
	within   float64 // how far it may point off its guide (another line), rad
	trailing float64 // how far it trails behind its guide on the whole, rad
}

// spread is a mean with its standard deviation.
type spread struct{ mean, sd float64 }

// smoothness is the scatter of what is penalised: the third derivatives of azimuth and
// elevation over the turning rate cubed, and the second derivative of length over length
// and rate squared; and the turning rate, rad/s, below which it is held no stiffer.
type smoothness struct{ azimuth, elevation, length, slowest float64 }

// The trunk turns evenly, and in winds swings to and fro as quickly; the implement's line swings
// with each pull, and so does a foot.
var (
	evenly  = smoothness{0.25, 0.25, 0.002, 8}
	pulled  = smoothness{0.8, 0.8, 0.01, 5}
	stepped = smoothness{0.8, 0.8, 0.002, 5}
)

// Lines of the body as shares of standing height: between the middles of shoulders and of
// hips after de Leva (1996, J. Biomech. 29:1223) from memory, between the ears and from heel
// to toe from memory of anthropometric tables. The scatter covers athletes and models.
var spans = map[string]prior{
	"shoulder": {length: spread{0.21, 0.03}, whole: true, smooth: evenly, onward: 0.3, within: 0.9},
	"hip":      {length: spread{0.11, 0.025}, whole: true, smooth: evenly, onward: 0.3, within: 0.9},
	"ear":      {length: spread{0.085, 0.015}, smooth: evenly, onward: 0.3, within: 0.9},
	"foot":     {length: spread{0.14, 0.02}, smooth: stepped, within: 1.0},
}

// Span is how long a line of a person's body is and the scatter of that, m: between the middles
// of the shoulders, hips or ears, or a foot from heel to toe.
func Span(p body.Person, part string) (length, sd float64) {
	l := spans[part].length
	return l.mean * p.Height, l.sd * p.Height
}

// spanOf is the prior of a line of the body; a discus thrower's arm trails behind his
// shoulders.
func (c *Clip) spanOf(part string) prior {
	p := spans[part]
	p.length = spread{p.length.mean * c.Person.Height, p.length.sd * c.Person.Height}
	if part == "shoulder" && c.Kind == Discus {
		p.within, p.trailing = 1.2, 1.2
	}
	return p
}

// ballOf is the prior of the line from the middle of the shoulders to the implement.
func (c *Clip) ballOf() prior {
	p := prior{window: 0.4, smooth: pulled, onward: 1}
	arm := body.Length(c.Person, "upper_arm") + body.Length(c.Person, "forearm")
	switch c.Kind {
	case Hammer:
		// 1.175 to 1.215 m over all by the rules, less the grip; two arms meet before the chest.
		p.length = spread{1.14 + 0.92*arm, 0.15}
	case Weight:
		p.length = spread{0.33 + 0.92*arm, 0.12}
	default:
		// One arm, from the middle of the shoulders.
		p.length = spread{1.25 * arm, 0.12}
	}
	return p
}

// heelToMiddle is how far the middle of a foot lies from its nearer end on the mean over
// directions, as a share of standing height. From memory of foot length over height.
const heelToMiddle = 0.06

// guide is the azimuth of a line turned by an angle, for another line to point about along.
func guide(by float64, from *SegmentTrack, frames int) []float64 {
	if from == nil {
		return nil
	}
	out := make([]float64, frames)
	for f := range out {
		out[f] = math.NaN()
		if from.Has(f) {
			out[f] = from.Az[f-from.From] + by
		}
	}
	return out
}

// Reach is how far an implement can be from the middle of the shoulders, m.
func Reach(k Kind, p body.Person) float64 {
	c := Clip{Kind: k, Person: p}
	l := c.ballOf().length
	return l.mean + l.sd
}

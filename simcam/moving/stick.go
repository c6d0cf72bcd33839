package moving

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/simcam/figure"
)

// Sticks are how a stick is held.
const (
	onShoulders  = "shoulders"
	behindElbows = "elbows"
	atHips       = "hips"
)

// held is a body that holds a stick, whatever its arms did, and where the stick's ends are.
func held(b figure.Body, how string) (figure.Body, *[2]r3.Vec, error) {
	shoulders, hips := b.Mid(figure.Shoulder), b.Mid(figure.Hip)
	up := r3.Unit(r3.Sub(shoulders, hips))
	part := figure.Shoulder
	if how == atHips {
		part = figure.Hip
	}
	across := r3.Unit(r3.Sub(b.At(figure.Right, part), b.At(figure.Left, part)))
	ahead := r3.Unit(r3.Cross(up, across))
	at := func(from r3.Vec, high, far, out float64) r3.Vec {
		return r3.Add(from, r3.Add(r3.Scale(high, up), r3.Add(r3.Scale(far, ahead), r3.Scale(out, across))))
	}
	const upperArm, beyond = 0.29, 0.22
	var ends [2]r3.Vec
	for side := range 2 {
		out := figure.Out(side)
		put := func(part int, v r3.Vec) { b[side*len(b)/2+part] = v }
		shoulder := b.At(side, figure.Shoulder)
		var elbow, hand, stick r3.Vec
		switch how {
		case behindElbows:
			elbow = at(shoulder, -0.25, -0.13, 0.05*out)
			hand, stick = at(elbow, -0.06, 0.24, -0.05*out), elbow
		case onShoulders, atHips:
			hand = at(shoulders, 0.05, -0.09, 0.42*out)
			if how == atHips {
				hand = at(hips, 0.06, 0.3, 0.24*out)
			}
			// The elbow hangs below the line from shoulder to hand.
			half := r3.Norm(r3.Sub(hand, shoulder)) / 2
			elbow, stick = at(figure.Between(shoulder, hand, 0.5), -math.Sqrt(max(0, upperArm*upperArm-half*half)), -0.03, 0), hand
		default:
			return b, nil, fmt.Errorf("nobody holds a stick at %q", how)
		}
		put(figure.Elbow, elbow)
		put(figure.Hand, hand)
		put(figure.Wrist, r3.Add(hand, r3.Scale(0.08, r3.Unit(r3.Sub(elbow, hand)))))
		ends[side] = at(stick, 0, 0, beyond*out)
	}
	return b, &ends, nil
}

package pose

import "math"

// Limits of looking; assumed, and shaped on simulated clips.
const (
	seenAt     = 0.25 // a joint counts as seen from this score on
	leastSeen  = 6    // joints that make a person
	surePerson = 0.28 // mean score of the limbs below which nobody is there
	roomAbout  = 1.55 // side of the square about a person, widths of the person
	wider      = 1.6  // of a second try, when nobody is in the first square
	closer     = 0.75 // a person who fills less of the square is looked at again
	tallLeast  = 40   // px: a person is not taken for smaller
	roomTurned = 2.3  // side of the turned square, distances of the farthest joint from the hips
)

// Region is an upright square part of a picture, by its middle; px.
type Region struct{ X, Y, Side float64 }

func (r Region) square() Square { return Square{X: r.X, Y: r.Y, Side: r.Side} }

// whole is the square that holds all of a picture.
func whole(p *Picture) Region {
	return Region{float64(p.Width) / 2, float64(p.Height) / 2, float64(max(p.Width, p.Height))}
}

// about is the square about a person who was seen, with room to move.
func about(seen []Seen) (r Region, ok bool) {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	n := 0
	for _, s := range seen {
		if s.Score >= seenAt {
			n++
			x0, y0, x1, y1 = min(x0, s.X), min(y0, s.Y), max(x1, s.X), max(y1, s.Y)
		}
	}
	return Region{(x0 + x1) / 2, (y0 + y1) / 2, roomAbout * max(x1-x0, y1-y0, tallLeast)}, n >= leastSeen
}

// find looks for a person in a region first and then in a wider one; without a region in
// the whole picture. It gives the person and the region about it.
func (l looker) find(at *Region) (Body, Region, error) {
	tries := []Region{whole(l.picture)}
	if at != nil {
		tries = []Region{*at, {at.X, at.Y, wider * at.Side}}
	}
	for _, r := range tries {
		seen, err := l.joints(r.square())
		if err != nil {
			return nil, r, err
		}
		near, ok := about(seen)
		if !ok {
			continue
		}
		if near.Side < closer*r.Side {
			if seen, err = l.joints(near.square()); err != nil {
				return nil, r, err
			}
		}
		sum := 0.0
		for _, s := range seen[firstLimb:] {
			sum += s.Score
		}
		if sum/float64(len(seen)-firstLimb) < surePerson {
			continue
		}
		if again, ok := about(seen); ok {
			near = again
		}
		body, err := l.merged(seen, near)
		return body, near, err
	}
	return nil, Region{}, nil
}

// How far two networks may differ and still agree, parts of the person's extent; and how
// much agreement weighs. Assumed, and shaped on simulated clips.
const (
	limbsAgree = 0.09
	feetAgree  = 0.07
	mayCross   = 0.6 // sides are exchanged when that makes the distance this much shorter
)

// chains are landmarks that change sides together.
var chains = [][]string{{"knee", "ankle", "heel", "toe"}, {"elbow", "wrist", "hand"}, {"hip"}, {"shoulder", "ear"}}

// merged brings both networks together. Joints are the first one's, and surer where the
// second agrees; heels, toes and knuckles hang on the joint that both know.
func (l looker) merged(seen []Seen, r Region) (Body, error) {
	first := Body{}
	for i, id := range joints {
		first[id] = seen[i]
	}
	hip, chest := middle(first["left_hip"], first["right_hip"]), middle(first["left_shoulder"], first["right_shoulder"])
	far := r.Side / 3
	for _, s := range seen {
		if s.Score > 0.2 {
			far = max(far, math.Hypot(s.X-hip.X, s.Y-hip.Y))
		}
	}
	fine, err := l.details(Square{hip.X, hip.Y, roomTurned * far, math.Atan2(chest.X-hip.X, hip.Y-chest.Y)})
	if err != nil {
		return nil, err
	}
	extent := r.Side / roomAbout
	apart := func(a, b Seen) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) / extent }
	// The second network may take left for right: whichever way fits the first better.
	for _, chain := range chains {
		straight, crossed := 0.0, 0.0
		for _, part := range chain {
			left, ok := first["left_"+part]
			right := first["right_"+part]
			if !ok {
				continue
			}
			straight += apart(left, fine["left_"+part]) + apart(right, fine["right_"+part])
			crossed += apart(left, fine["right_"+part]) + apart(right, fine["left_"+part])
		}
		if crossed < mayCross*straight {
			for _, part := range chain {
				fine["left_"+part], fine["right_"+part] = fine["right_"+part], fine["left_"+part]
			}
		}
	}
	agreement := func(a, b Seen, within float64) float64 { d := apart(a, b) / within; return math.Exp(-d * d) }
	out := Body{}
	for _, s := range []string{"left_", "right_"} {
		for _, part := range []string{"shoulder", "elbow", "wrist", "hip", "knee", "ankle", "ear"} {
			a := first[s+part]
			out[s+part] = Seen{a.X, a.Y, min(1, a.Score*(0.55+0.6*agreement(a, fine[s+part], limbsAgree)))}
		}
		for part, on := range map[string]string{"heel": "ankle", "toe": "ankle", "hand": "wrist"} {
			a, b, c := first[s+on], fine[s+on], fine[s+part]
			out[s+part] = Seen{a.X + c.X - b.X, a.Y + c.Y - b.Y, min(1, c.Score*a.Score*(0.25+0.85*agreement(a, b, feetAgree)))}
		}
	}
	return out, nil
}

func middle(a, b Seen) Seen { return Seen{(a.X + b.X) / 2, (a.Y + b.Y) / 2, min(a.Score, b.Score)} }

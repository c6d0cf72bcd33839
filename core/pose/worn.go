package pose

import "math"

// worn is what somebody wears, as a camera sees it: brightness and two colours, of the trunk
// and of the thighs.
type worn [2][3]float64

// How far clothes may seem to change from look to look: by light, folds and a turn of the
// body. Assumed.
const (
	wornLight  = 28.0
	wornColour = 9.0
	keepsWorn  = 0.85 // of what is remembered, at each look
	wornLooks  = 3    // looks after which it is known
	otherWorn  = 2.0  // scatters: somebody else
	// clearlyWorn is the share of that within which somebody wears the same.
	clearlyWorn = 0.6
)

// clothes looks at what a body wears; false where trunk or legs are not seen.
func (p *Picture) clothes(b Body) (out worn, ok bool) {
	chest, hip := middle(b["left_shoulder"], b["right_shoulder"]), middle(b["left_hip"], b["right_hip"])
	knee := middle(b["left_knee"], b["right_knee"])
	if chest.Score < seenAt || hip.Score < seenAt || knee.Score < seenAt {
		return out, false
	}
	half := 0.12 * math.Hypot(chest.X-hip.X, chest.Y-hip.Y)
	for i, part := range [][2][]Seen{
		{{chest}, {hip}},
		{{b["left_hip"], b["right_hip"]}, {b["left_knee"], b["right_knee"]}},
	} {
		n := 0.0
		for k := range part[0] {
			from, to := part[0][k], part[1][k]
			for _, u := range []float64{0.25, 0.4, 0.55, 0.7, 0.85} {
				for _, aside := range []float64{-1, 0, 1} {
					x := from.X + u*(to.X-from.X) + aside*half*boolTo(i == 0)
					y := from.Y + u*(to.Y-from.Y)
					l := p.levels[0]
					out[i][0] += float64(l.y.linear(float32(x), float32(y)))
					out[i][1] += float64(l.u.linear(float32(x/2), float32((y-0.5)/2)))
					out[i][2] += float64(l.v.linear(float32(x/2), float32((y-0.5)/2)))
					n++
				}
			}
		}
		for c := range out[i] {
			out[i][c] /= n
		}
	}
	return out, true
}

func boolTo(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// unlike is how far what two wear differs, in scatters: trunk or thighs, whichever differ more.
func (w worn) unlike(o worn) (most float64) {
	for i := range w {
		sum := 0.0
		for c, sd := range []float64{wornLight, wornColour, wornColour} {
			d := (w[i][c] - o[i][c]) / sd
			sum += d * d / 3
		}
		most = math.Max(most, math.Sqrt(sum))
	}
	return most
}

// toward moves what is remembered towards what is seen.
func (w *worn) toward(o worn) {
	for i := range w {
		for c := range w[i] {
			w[i][c] = keepsWorn*w[i][c] + (1-keepsWorn)*o[i][c]
		}
	}
}

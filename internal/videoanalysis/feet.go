package videoanalysis

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/core/vision"
	"neokinema/internal/media"
)

// Places on a flat foot from its ankle, in standing heights, forward and up: by
// foot length and ankle height of de Leva's proportions, from memory, as in
// core/body.
var (
	ball  = r2.Vec{X: 0.080, Y: -0.046} // inside the shoe, so that its look is the shoe's
	heel  = r2.Vec{X: -0.030, Y: -0.045}
	tip   = r2.Vec{X: 0.105, Y: -0.050} // what the foot turns about at last
	back  = r2.Vec{X: -0.036, Y: -0.048}
	looks = []r2.Vec{ball, heel}
)

const (
	legShare  = 0.487 // thigh and shank, standing heights
	patchHalf = 9     // half the window on the shoe, px of the enlarged picture
	beyond    = 0.09  // how far before and after a contact to look, s
)

// feet finds the contacts by the picture of the shoes, and makes the tracks of
// toes and heels sure where feet stand. An ankle that is low and slow tells about
// when; in the middle of that time the look of the shoe is taken where ball and
// heel must be, and found again frame by frame. Between two contacts the draft is
// shifted so that it joins on. A view from the side is needed.
func (q *looked) feet(cam *stabilize.Rotations, points kinematics.Points, progress func(done, of int) error) ([]contact.Contact, kinematics.Points, error) {
	c := q.clip
	if c.View != "side" && c.View != "oblique" || c.Direction == 0 || !cam.Usable() {
		return nil, nil, nil
	}
	rate := c.CaptureRate
	if rate == 0 {
		rate = c.FileRate
	}
	m := kinematics.New(points, kinematics.Film{Rate: rate, View: angles.View{Direction: c.Direction}, Camera: cam, Pictures: c.Pictures}, nil)
	tall := standing(m)
	if tall < tallLeast {
		return nil, nil, nil // too small, or no legs
	}
	var list []contact.Foot
	for _, side := range []body.Side{body.Left, body.Right} {
		list = append(list, contact.Foot{Side: side, Ankle: m.Paths[string(side)+"_ankle"]})
	}
	var found []contact.Contact
	out := kinematics.Points{}
	rough := contact.Candidates(list, rate, tall)
	for i, r := range rough {
		if err := progress(i, len(rough)); err != nil {
			return nil, nil, err
		}
		if path := m.Paths[string(r.Foot)+"_ankle"]; r.From <= path.From+2 {
			if f, ok := pedal(m, r, tall, rate); ok {
				found = append(found, f)
			}
			continue
		}
		f, err := q.stand(m, r, tall, rate, out)
		if err != nil {
			return nil, nil, err
		}
		found = append(found, f)
	}
	for id, t := range out {
		out[id] = joined(points[id], t, rate)
	}
	return found, out, nil
}

// Slopes of a foot on a pedal or on the ground, degrees below the running
// direction, at which its toe may be.
const (
	steepest  = 105
	flattest  = 15
	slopeStep = 5
	agree     = 0.012 // s between slopes that say the same
	lingers   = 0.006 // s by which an ankle stays near its circle after the toe has left
)

// pedal places the end of a contact that the clip begins with: the foot may stand
// on a pedal, and nobody knows how steep. Whatever the slope, the ankle goes round
// the toe until the toe leaves; a wrong toe is left too early. So the slope at
// which the ankle stays on its circle for longest tells.
func pedal(m *kinematics.Movement, r contact.Candidate, tall, rate float64) (best contact.Contact, ok bool) {
	path := m.Paths[string(r.Foot)+"_ankle"]
	ankle, ok := path.Where((r.From + r.To) / 2)
	if !ok {
		return best, false
	}
	var all []contact.Contact
	for slope := flattest; slope <= steepest; slope += slopeStep {
		s, c := math.Sincos(float64(slope) * math.Pi / 180)
		toe := r2.Add(ankle, r2.Scale(tall*r2.Norm(tip), r2.Vec{X: c, Y: -s}))
		f, _ := contact.FromPicture(r, r.From, r.From, nil, path, toe, tall, rate)
		all = append(all, f)
	}
	slices.SortFunc(all, func(a, b contact.Contact) int { return a.To - b.To })
	// Of the slopes that agree with the latest the earlier ones: an ankle lingers
	// near its circle for a moment after the toe has left.
	last := all[len(all)-1].To
	all = all[slices.IndexFunc(all, func(f contact.Contact) bool { return float64(last-f.To) <= agree*rate }):]
	best = all[len(all)/4]
	best.Before = true
	best.ToSD = math.Hypot(best.ToSD, lingers*rate)
	return best, true
}

// stand looks at the shoe of one contact, outward from its middle.
func (q *looked) stand(m *kinematics.Movement, r contact.Candidate, tall, rate float64, out kinematics.Points) (contact.Contact, error) {
	c := q.clip
	room := int(beyond * rate)
	path := m.Paths[string(r.Foot)+"_ankle"]
	lo, mid := max(0, r.From-room), r.Middle(path, tall)
	ankle, ok := path.Seen(mid)
	if !ok {
		return contact.Contact{}, nil
	}
	k := c.ProxyScale * q.enlarge
	pictures := make([]vision.Pyramid, mid-lo+1)
	err := q.grays(lo, mid, q.enlarge, func(p media.Picture) error {
		pictures[p.Frame-lo] = vision.NewPyramid(vision.FromBytes(p.Width, p.Height, p.Pix), 1)
		return nil
	})
	if err != nil {
		return contact.Contact{}, err
	}
	at := func(place r2.Vec) r2.Vec { return r2.Add(ankle, r2.Scale(tall, place)) }
	var seen [][]contact.Patch
	for _, place := range looks {
		anchor, ok := vision.NewAnchor(pictures[mid-lo], r2.Scale(k, m.ToImage(mid, at(place))), patchHalf)
		list := make([]contact.Patch, len(pictures))
		for i := range list {
			list[i].Off = math.Inf(1)
			if !ok {
				continue
			}
			if there, like, found := anchor.Find(pictures[i], r2.Scale(k, m.ToImage(lo+i, at(place)))); found {
				by := r2.Sub(m.ToReference(lo+i, r2.Scale(1/k, there)), at(place))
				list[i] = contact.Patch{Off: r2.Norm(by), By: by, Likeness: like}
			}
		}
		seen = append(seen, list)
	}
	found, pivot := contact.FromPicture(r, lo, mid, seen, path, at(tip), tall, rate)
	// The toe stays at the pivot; the heel until it rises with the ankle.
	for f := found.From; f < found.To; f++ {
		put := func(part string, place r2.Vec) {
			at := m.ToImage(f, place)
			if !(at.X >= 0 && at.Y >= 0 && at.X <= float64(c.Width) && at.Y <= float64(c.Height)) {
				return
			}
			id := string(r.Foot) + "_" + part
			if out[id] == nil {
				out[id] = track.New(0)
			}
			_ = out[id].Set(f, &track.Point{X: at.X, Y: at.Y, Source: track.Tracked.String(), Confidence: math.Min(0.9, found.Confidence)})
		}
		put("toe", pivot)
		if now, ok := path.Where(f); ok {
			put("heel", turned(ankle, now, pivot, at(back)))
		}
	}
	return found, nil
}

// turned carries a place of the foot along as its ankle goes from one place to
// another round the toe.
func turned(from, to, pivot, place r2.Vec) r2.Vec {
	u, v := r2.Sub(from, pivot), r2.Sub(to, pivot)
	n := r2.Norm2(u)
	if n == 0 {
		return place
	}
	c, s := r2.Dot(u, v)/n, r2.Cross(u, v)/n
	d := r2.Sub(place, pivot)
	return r2.Add(pivot, r2.Vec{X: c*d.X - s*d.Y, Y: s*d.X + c*d.Y})
}

// fades is how soon after a contact the draft is its own again, s.
const fades = 0.06

// joined is the change that puts what was followed into a draft; the draft beside
// it is shifted so that it joins on. What a hand has set stays.
func joined(draft, followed *track.Track, rate float64) *track.Track {
	out := track.New(0)
	if draft == nil {
		return followed
	}
	shift := func(f int) (r2.Vec, bool) {
		p, ok := followed.At(f)
		q, had := draft.At(f)
		return r2.Vec{X: p.X - q.X, Y: p.Y - q.Y}, ok && had
	}
	for f := draft.From; f < draft.End(); f++ {
		p, ok := draft.At(f)
		if !ok || p.Source == track.Hand.String() {
			continue
		}
		if q, ok := followed.At(f); ok {
			_ = out.Set(f, &q)
			continue
		}
		// By the nearest followed frames on both sides, fading.
		var by r2.Vec
		for _, way := range []int{-1, 1} {
			for d := 1; float64(d) < 4*fades*rate && f+way*d >= 0; d++ {
				if v, ok := shift(f + way*d); ok {
					by = r2.Add(by, r2.Scale(math.Exp(-float64(d)/(fades*rate)), v))
					break
				}
			}
		}
		if by != (r2.Vec{}) {
			p.X, p.Y = p.X+by.X, p.Y+by.Y
			_ = out.Set(f, &p)
		}
	}
	for i, l := range out.Source {
		if l == track.Empty {
			out.Source[i] = track.Keep
		}
	}
	return out
}

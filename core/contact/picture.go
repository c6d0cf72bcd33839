package contact

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/kinematics"
	"neokinema/core/linsolve"
)

// Patch is how a place on a shoe looks in one frame, against how it looked in the
// middle of the contact.
type Patch struct {
	Off      float64 // how far it is from there in the common frame, px
	By       r2.Vec  // the same with its direction
	Likeness float64 // normalised cross-correlation, -1 to 1
}

// A shoe that stands: as near as this (standing heights), as alike as this.
// Assumed; shaped on simulated clips.
const (
	nearEnough  = 0.55 // over the rate: half a frame's way of a foot that comes down at 2 m/s
	nearLeast   = 0.0030
	nearMost    = 0.0065
	lostOff     = 0.04  // farther than this the search has slipped
	mayDiffer   = 0.012 // s between the two ways to place a touchdown
	wayBefore   = 8     // frames of the way there that are looked at
	landSpeed   = 0.45  // standing heights a second, to or from the toe's place
	softly      = 0.018 // s by which the shoe may come to rest after the ankle
	landReach   = 0.03  // s about the touchdown by the look of the shoe
	likeEnough  = 0.4
	mayMiss     = 1      // frames in a row: something passes in front
	pivotSpread = 0.012  // how far the pivot may be from the nominal toe, standing heights
	footSpread  = 0.008  // and the foot's length from the nominal
	offCircle   = 0.009  // an ankle that is clearly off its circle
	longestRoll = 0.2    // from the end of slowness to the toe-off at the most, s
	ankleSpread = 0.0015 // scatter of a followed ankle
	gone        = 0.13   // off its circle by so much, an ankle has left
	stands      = 0.06   // an ankle over a foot that stands stays as near its middle place
	astray      = 0.08   // for so long a draft may show something else, s
	jerk        = 110.0  // half of what an ankle is sped up by at the most, standing heights/s²
	slip        = 0.012  // and what its scatter adds
	leap        = 14.0   // standing heights a second: faster than any foot
)

// FromPicture places the ends of a contact whose middle is known. Looks are of
// heel and toe, one a frame from frame lo on; the touchdown is the first frame
// from which one of them stands through to the middle. The ankle of a standing
// foot goes round the toe at a fixed distance, whether the heel is down or rises;
// the touchdown is moved to where it begins to do so, if that is near, and the
// toe-off is where it leaves that circle. Toe is where the toe must be in the
// common frame. Without looks the foot stands from the clip's start, on a pedal.
func FromPicture(s Candidate, lo, mid int, looks [][]Patch, ankle *kinematics.Path, toe r2.Vec, height, rate float64) (Contact, r2.Vec) {
	out := Contact{Foot: s.Foot, From: mid, FromSD: 0.5}
	if len(looks) == 0 {
		out.From, out.FromSD = s.From, 0
	}
	search := kinematics.Search{Rate: rate, Height: height, Sigma: 0.4}
	near := math.Min(math.Max(nearEnough/rate, nearLeast), nearMost) * height
	for _, list := range looks {
		from, missed := mid, 0
		p := &kinematics.Path{From: lo}
		for f := lo; f <= mid; f++ {
			q := r2.Vec{X: math.NaN()}
			if l := list[f-lo]; l.Likeness >= likeEnough && l.Off < lostOff*height {
				q = l.By
			}
			p.Raw = append(p.Raw, q)
		}
		for f := mid; f >= lo && missed <= mayMiss; f-- {
			if l := list[f-lo]; l.Off > near || l.Likeness < likeEnough {
				missed++
				continue
			}
			from, missed = f, 0
		}
		way := 0
		for f := max(lo, from-wayBefore); f < from; f++ {
			if _, ok := p.Seen(f); ok {
				way++
			}
		}
		if from < mid-1 && way >= wayBefore/2 {
			// To a part of a frame, where the way there was seen too.
			at, sd := search.Moment(p, from, mid, kinematics.Rests)
			if exact := int(math.Ceil(at - early)); max(exact-from, from-exact) <= int(mayDiffer*rate) {
				from, out.FromSD = exact, math.Max(0.3, sd)
			}
		}
		out.From = min(out.From, from)
	}
	if out.From >= mid-1 && len(looks) > 0 {
		// The picture did not tell.
		out.From, out.FromSD = s.From, 2
	}
	out.Before = out.From <= lo && lo <= ankle.From+2
	last := ankle.End() - 1
	var pivot r2.Vec
	upto := s.To
	sure := steady(ankle, min(lo, mid), mid, last, height, rate)
	// The longer the arc, the surer the circle: fitted again up to where the ankle
	// was found to leave.
	for f := s.To + 1; f <= min(last, s.To+int(longestRoll*rate)); f++ {
		// The ankle may be hidden while it still goes round: as far as it lies on one
		// circle.
		p, foot := circle(sure, mid, f, toe, height)
		if around(sure, s.To, f, p, foot, height) {
			upto = f
		}
	}
	for range 3 {
		var foot float64
		pivot, foot = circle(sure, mid, upto, toe, height)
		at, sd := leaves(sure, mid, s.To, min(last, s.To+int(longestRoll*rate)), pivot, foot, height, rate, len(looks) > 0)
		out.To, out.ToSD = int(math.Ceil(at-early)), sd
		if upto == out.To-1 {
			break
		}
		upto = max(s.To, out.To-1)
	}
	if out.After = last-s.To < 3; out.After {
		out.To = last
	}
	if len(looks) > 0 && !out.Before {
		at, ok := lands(sure, lo, mid, out.From, pivot, rate, height)
		if ok {
			// A foot that is set down softly goes on for a moment after the ankle has
			// stopped.
			if f, sure := stills(looks[0], lo, mid, landSpeed*height/rate); sure && f > at && float64(f-at) <= softly*rate {
				at = f
			}
			out.From, out.FromSD = at, math.Min(out.FromSD, 1)
		}
	}
	out.To = max(out.To, out.From+1)
	out.Confidence = 1 / (1 + math.Max(out.FromSD, out.ToSD)/2)
	return out, pivot
}

// stills is the first frame from which a place on the shoe no longer moves by more
// than a step from frame to frame.
func stills(list []Patch, lo, mid int, step float64) (at int, ok bool) {
	for f := mid; f > lo; f-- {
		a, b := list[f-lo], list[f-1-lo]
		if a.Likeness < likeEnough || math.IsInf(a.Off, 0) {
			return 0, false
		}
		if math.IsInf(b.Off, 0) || r2.Norm(r2.Sub(a.By, b.By)) > step {
			return f, true
		}
	}
	return 0, false
}

// lands is the first frame in which an ankle no longer comes near the place of
// the toe or goes away from it, looked for about a guess: in the air it does so
// fast, on the ground it goes round it. Where the ankle was not seen for a moment it
// may be the middle of that.
func lands(ankle *kinematics.Path, lo, mid, guess int, toe r2.Vec, rate, height float64) (at int, ok bool) {
	far := func(f int) float64 {
		q, _ := ankle.Seen(f)
		return r2.Norm(r2.Sub(q, toe)) / height * rate
	}
	before := func(f int) int {
		for f--; f >= lo; f-- {
			if _, ok := ankle.Seen(f); ok {
				return f
			}
		}
		return -1
	}
	reach := int(math.Ceil(landReach * rate))
	last := min(mid, guess+reach)
	for f := before(last + 1); f > max(lo+1, guess-reach); f = before(f) {
		b := before(f)
		c := before(b)
		if b < lo || c < lo || float64(f-b) > math.Max(1, landReach*rate/2) {
			return 0, false
		}
		if math.Abs(far(f)-far(b)) > landSpeed*float64(f-b) && math.Abs(far(f)-far(c)) > 1.3*landSpeed*float64(f-c)/2 {
			return b + (f-b+1)/2, f < last
		}
	}
	return 0, false
}

// Middle is the frame nearest the middle of a stretch in which the ankle is where it
// is on the whole: a draft may leap away for a frame, and just there.
func (s Candidate) Middle(ankle *kinematics.Path, height float64) int {
	mid := (s.From + s.To) / 2
	reach := (s.To - s.From) / 4
	var xs, ys []float64
	for f := mid - reach; f <= mid+reach; f++ {
		if q, ok := ankle.Seen(f); ok {
			xs, ys = append(xs, q.X), append(ys, q.Y)
		}
	}
	if len(xs) == 0 {
		return mid
	}
	sort.Float64s(xs)
	sort.Float64s(ys)
	at := r2.Vec{X: xs[len(xs)/2], Y: ys[len(ys)/2]}
	for d := 0; d <= reach; d++ {
		for _, f := range []int{mid - d, mid + d} {
			if q, ok := ankle.Seen(f); ok && r2.Norm(r2.Sub(q, at)) <= stands*height {
				return f
			}
		}
	}
	return mid
}

// steady is an ankle's path from lo to hi without what is not this ankle: where the
// draft leaps to something else and back within a moment, and all beyond a leap from
// which it does not come back. It is looked through from mid on, both ways.
func steady(ankle *kinematics.Path, lo, mid, hi int, height, rate float64) *kinematics.Path {
	out := &kinematics.Path{From: lo, Raw: make([]r2.Vec, max(0, hi-lo+1))}
	for i := range out.Raw {
		out.Raw[i].X = math.NaN()
	}
	for _, way := range []int{-1, 1} {
		last, at := -1, r2.Vec{}
		for f := mid; f >= lo && f <= hi; f += way {
			apart := float64((f - last) * way)
			if last >= 0 && apart > astray*rate {
				break
			}
			q, ok := ankle.Seen(f)
			if ok && (last < 0 || r2.Norm(r2.Sub(q, at)) <= leap*apart/rate*height) {
				last, at = f, q
				out.Raw[f-lo] = q
			}
		}
	}
	// A frame that lies beside both its neighbours, farther than any ankle is thrown
	// about, is a slip too: the worst of a group.
	most := (jerk/(rate*rate) + slip) * height
	beside := func(f int) float64 {
		a, ok1 := out.Seen(f - 1)
		b, ok2 := out.Seen(f)
		c, ok3 := out.Seen(f + 1)
		if !ok1 || !ok2 || !ok3 {
			return 0
		}
		return r2.Norm(r2.Sub(b, r2.Scale(0.5, r2.Add(a, c))))
	}
	for f := lo + 1; f < hi; f++ {
		if v := beside(f); f != mid && v > most && v >= beside(f-1) && v >= beside(f+1) {
			out.Raw[f-lo].X = math.NaN()
		}
	}
	return out
}

// leaves is where an ankle leaves its circle for good, in frames.
func leaves(ankle *kinematics.Path, mid, from, to int, pivot r2.Vec, foot, height, rate float64, creeps bool) (at, sd float64) {
	// How far the ankle is off, as a path of one coordinate.
	off := &kinematics.Path{From: mid}
	for f := mid; f <= to; f++ {
		q, ok := ankle.Seen(f)
		if !ok {
			q = r2.Vec{X: math.NaN()}
		}
		off.Raw = append(off.Raw, r2.Vec{X: r2.Norm(r2.Sub(q, pivot)) - foot})
	}
	// A leg that passes in front may throw the ankle off for some frames, and these
	// do not count. A foot that is far away does not come back; what comes near
	// then is the other one.
	end := from
	for f := from; f < off.End(); f++ {
		q, ok := off.Seen(f)
		if ok && math.Abs(q.X) <= offCircle*height {
			end = f
		}
		if ok && math.Abs(q.X) > gone*height {
			break
		}
	}
	for f := mid; f <= end; f++ {
		if q, ok := off.Seen(f); ok && math.Abs(q.X) > offCircle*height {
			off.Raw[f-mid] = r2.Vec{X: math.NaN()}
		}
	}
	look := kinematics.Search{Rate: rate, Height: height, Sigma: math.Max(0.3, ankleSpread*height), Creeps: creeps}
	at, sd = look.Moment(off, mid, end, kinematics.Leaves)
	return at, sd
}

// around tells whether an ankle is on its circle at the end of a stretch and in most
// of it.
func around(ankle *kinematics.Path, from, to int, pivot r2.Vec, radius, height float64) bool {
	on, all, last := 0, 0, false
	for f := from; f <= to; f++ {
		q, ok := ankle.Seen(f)
		if !ok {
			last = false
			continue
		}
		last = math.Abs(r2.Norm(r2.Sub(q, pivot))-radius) <= offCircle*height/2
		if all++; last {
			on++
		}
	}
	return last && 2*on > all
}

// circle fits the circle on which an ankle goes round the toe: its middle and its
// radius, held near the nominal ones, by Gauss and Newton.
func circle(ankle *kinematics.Path, from, to int, toe r2.Vec, height float64) (pivot r2.Vec, radius float64) {
	at, _ := ankle.Seen(from)
	nominal := r2.Norm(r2.Sub(at, toe))
	pivot, radius = toe, nominal
	wp, wr, wa := 1/math.Pow(pivotSpread*height, 2), 1/math.Pow(footSpread*height, 2), 1/math.Pow(ankleSpread*height, 2)
	for range 12 {
		a := [9]float64{wp, 0, 0, 0, wp, 0, 0, 0, wr}
		b := [3]float64{wp * (toe.X - pivot.X), wp * (toe.Y - pivot.Y), wr * (nominal - radius)}
		for f := from; f <= to; f++ {
			q, ok := ankle.Seen(f)
			if !ok {
				continue
			}
			d := r2.Sub(q, pivot)
			n := r2.Norm(d)
			if n == 0 {
				continue
			}
			j := [3]float64{-d.X / n, -d.Y / n, -1}
			e := -(n - radius)
			// Huber's weight: what lies far off is something that passes in front.
			w := wa * math.Min(1, 3*ankleSpread*height/math.Abs(e))
			for r := range 3 {
				for c := range 3 {
					a[3*r+c] += w * j[r] * j[c]
				}
				b[r] += w * j[r] * e
			}
		}
		if linsolve.Solve(a[:], b[:]) != nil {
			break
		}
		pivot, radius = r2.Add(pivot, r2.Vec{X: b[0], Y: b[1]}), radius+b[2]
	}
	return pivot, radius
}

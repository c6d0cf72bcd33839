package contact

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/kinematics"
)

// Foot is what is known of one foot over a clip: the paths of its points, nil
// for those that are not tracked.
type Foot struct {
	Side             body.Side
	Toe, Heel, Ankle *kinematics.Path
}

// Contact is a contact that the tracks show.
type Contact struct {
	Foot       body.Side `json:"foot" enum:"left,right"`
	From       int       `json:"from" doc:"first frame on the ground; the first of the track when Before"`
	To         int       `json:"to" doc:"first frame in the air again; the last of the track when After"`
	FromSD     float64   `json:"from_sd" doc:"standard deviation, frames"`
	ToSD       float64   `json:"to_sd" doc:"standard deviation, frames"`
	Before     bool      `json:"before" doc:"the foot was down already when the track begins"`
	After      bool      `json:"after" doc:"the foot is still down when the track ends"`
	Confidence float64   `json:"confidence" doc:"0 to 1"`
}

// Ground tells how the ground moves against the common frame of reference:
// zero on a track, the belt's speed on a treadmill, px/s.
type Ground struct{ Belt r2.Vec }

// Thresholds, in standing heights and seconds. Common practice where feet are
// tracked in video, no source; tuned on the simulated athlete.
const (
	slow      = 0.55  // a foot slower than this, heights a second, may be down
	stillSlow = 1.1   // and stays down until it is faster than this
	lift      = 0.075 // how high above its lowest place a foot may be held down
	briefest  = 0.05  // shorter contacts are noise, s
	pause     = 0.03  // shorter flights of one foot are noise, s
)

// Detect finds the contacts of feet. Rate is frames per true second, height the
// athlete's standing height in px, sigma the scatter of a point, px.
//
// A point of the foot that stands is slow and low; hysteresis and shortest
// durations clear the rest. Each end is then placed to a part of a frame by
// [kinematics.Search].
func Detect(feet []Foot, rate, height, sigma float64, g Ground) []Contact {
	var out []Contact
	for _, ft := range feet {
		carriers := ft.carriers()
		var rough []stretch
		for i, p := range carriers {
			for _, s := range standing(p, rate, height, g) {
				rough = append(rough, stretch{s[0], s[1], i})
			}
		}
		stands := join(rough, int(math.Round(pause*rate)))
		look := kinematics.Search{Rate: rate, Height: height, Sigma: sigma, Drift: g.Belt, Errors: errors(carriers, stands, rate, g)}
		for _, s := range stands {
			if f, ok := ft.place(s, carriers, look); ok {
				out = append(out, f)
			}
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].From < out[j].From })
	return out
}

// carriers are the points that can stand on the ground: heel and toe, or the
// ankle for want of both.
func (f Foot) carriers() []*kinematics.Path {
	var out []*kinematics.Path
	for _, p := range []*kinematics.Path{f.Toe, f.Heel} {
		if p != nil && p.Cutoff > 0 {
			out = append(out, p)
		}
	}
	if len(out) == 0 && f.Ankle != nil && f.Ankle.Cutoff > 0 {
		out = append(out, f.Ankle)
	}
	return out
}

// stretch is a run of frames, both ends included, in which a carrier is slow.
type stretch struct{ a, b, carrier int }

// standing finds the stretches in which one point stands.
func standing(p *kinematics.Path, rate, height float64, g Ground) (out [][2]int) {
	n := len(p.At)
	level := ground(p, height, g)
	quiet := make([]int, n) // 0 moves, 1 may still be down, 2 is down
	for i := range n {
		at, v := p.At[i], r2.Sub(p.V[i], g.Belt)
		if math.IsNaN(at.X) {
			continue
		}
		s := r2.Norm(v) / height
		if s > surely && at.Y-level(at.X) > lift*height {
			continue
		}
		switch {
		case s < slow:
			quiet[i] = 2
		case s < stillSlow:
			quiet[i] = 1
		}
	}
	for i := 0; i < n; i++ {
		if quiet[i] != 2 {
			continue
		}
		a, b := i, i
		for a > 0 && quiet[a-1] > 0 {
			a--
		}
		for b+1 < n && quiet[b+1] > 0 {
			b++
		}
		i = b
		if float64(b-a+1) >= briefest*rate*0.6 {
			out = append(out, [2]int{p.From + a, p.From + b})
		}
	}
	return out
}

// place finds the moments at which a contact begins and ends.
func (f Foot) place(s stretch, carriers []*kinematics.Path, look kinematics.Search) (Contact, bool) {
	out := Contact{Foot: f.Side, From: s.a, To: s.b + 1, Confidence: 1}
	first, last := math.MaxInt, 0
	for _, p := range carriers {
		a, b := seen(p)
		first, last = min(first, a), max(last, b)
	}
	const margin = 2 // frames of movement that must be seen
	// A moment before the first frame, or after the last, is not in the clip.
	out.Before, out.After = s.a-first < margin, last-s.b < margin
	if !out.Before {
		at, sd := agreed(look, carriers, s.a, s.b, kinematics.Rests)
		out.From, out.FromSD = int(math.Ceil(at-early)), sd
		out.Before = !(at > float64(first))
	}
	if !out.After {
		at, sd := agreed(look, carriers, s.a, s.b, kinematics.Leaves)
		out.To, out.ToSD = int(math.Ceil(at-early)), sd
		out.After = !(at <= float64(last))
	}
	if out.Before {
		out.From, out.FromSD = first, 0
	}
	if out.After {
		out.To, out.ToSD = last, 0
	}
	if float64(out.To-out.From) < briefest*look.Rate && !out.Before && !out.After {
		return out, false
	}
	// Doubt of two frames halves the confidence.
	out.Confidence = 1 / (1 + math.Max(out.FromSD, out.ToSD)/2)
	return out, true
}

// seen are the first and the last frame in which a path has a place: single wild points at its ends
// have none.
func seen(p *kinematics.Path) (first, last int) {
	first, last = p.From, p.End()-1
	for first < last && math.IsNaN(p.At[first-p.From].X) {
		first++
	}
	for last > first && math.IsNaN(p.At[last-p.From].X) {
		last--
	}
	return first, last
}

// errors are those of the point of a foot that moves least while it stands.
func errors(carriers []*kinematics.Path, stands []stretch, rate float64, g Ground) (best kinematics.Errors) {
	var spans [][2]int
	for _, s := range stands {
		// Well inside: a heel leaves early.
		spans = append(spans, [2]int{s.a + (s.b-s.a)/6, s.b - (s.b-s.a)/3})
	}
	for _, p := range carriers {
		if e, ok := kinematics.ErrorsOf(p, spans, rate, g.Belt); ok && (best.All == 0 || e.All < best.All) {
			best = e
		}
	}
	return best
}

// early makes up for half of the exactness of a moment: what lies a tenth of a
// frame behind a frame was that frame.
const early = 0.02

// agreed is the moment at which the first point of a foot comes to rest or the
// last one leaves. A second point that says the same within its doubt takes part; both are
// off the same way, so it makes nothing surer.
func agreed(look kinematics.Search, carriers []*kinematics.Path, a, b, way int) (at, sd float64) {
	at, sd = math.NaN(), math.Inf(1)
	var ats, sds []float64
	for _, p := range carriers {
		t, s := look.Moment(p, a, b, way)
		ats, sds = append(ats, t), append(sds, s)
		if math.IsNaN(at) || (t-at)*float64(way) > 0 {
			at, sd = t, s
		}
	}
	var sum, weight, doubt float64
	for i, t := range ats {
		if math.Abs(t-at) <= math.Hypot(sd, sds[i]) {
			w := 1 / (sds[i]*sds[i] + 0.01)
			sum, weight, doubt = sum+w*t, weight+w, doubt+w*sds[i]
		}
	}
	return sum / weight, doubt / weight
}

// surely is the speed, heights a second, below which a point stands whatever
// its height: on a pedal, on a step. Assumed; shaped on simulated clips.
const surely = 0.2

// ground is the height on which a path stands, as a line over the way: through
// the places where it hardly moves.
func ground(p *kinematics.Path, height float64, g Ground) func(x float64) float64 {
	var xs, ys []float64
	for i := range p.At {
		if v := r2.Sub(p.V[i], g.Belt); r2.Norm(v) < slow*height {
			xs, ys = append(xs, p.At[i].X), append(ys, p.At[i].Y)
		}
	}
	if len(ys) == 0 {
		return func(float64) float64 { return math.Inf(-1) }
	}
	mx, my := mean(xs), mean(ys)
	var sxx, sxy float64
	for i := range xs {
		sxx += (xs[i] - mx) * (xs[i] - mx)
		sxy += (xs[i] - mx) * (ys[i] - my)
	}
	slope := 0.0
	if math.Sqrt(sxx/float64(len(xs))) > height {
		// A camera that is not level; more than this is no ground.
		slope = math.Max(-0.06, math.Min(0.06, sxy/sxx))
	}
	// Feet on pedals and late slow feet lie higher: the middle of the lower half.
	off := make([]float64, len(xs))
	for i := range xs {
		off[i] = ys[i] - slope*xs[i]
	}
	sort.Float64s(off)
	base := off[len(off)/4]
	return func(x float64) float64 { return base + slope*x }
}

func mean(v []float64) float64 {
	var s float64
	for _, x := range v {
		s += x
	}
	return s / float64(len(v))
}

// join merges what heel and toe of one foot say, and stretches with hardly a
// pause between them.
func join(list []stretch, pause int) []stretch {
	sort.Slice(list, func(i, j int) bool { return list[i].a < list[j].a })
	var out []stretch
	for _, s := range list {
		if n := len(out); n > 0 && s.a <= out[n-1].b+pause {
			out[n-1].b = max(out[n-1].b, s.b)
			continue
		}
		out = append(out, s)
	}
	return out
}

// Candidate is a stretch in which a foot stands, roughly: both ends included.
type Candidate struct {
	Foot     body.Side
	From, To int
}

// Candidates finds by the ankles alone about when feet stand: low and slow.
func Candidates(feet []Foot, rate, height float64) []Candidate {
	var out []Candidate
	for _, f := range feet {
		if f.Ankle == nil || f.Ankle.Cutoff == 0 {
			continue
		}
		var list []stretch
		for _, s := range standing(f.Ankle, rate, height, Ground{}) {
			list = append(list, stretch{s[0], s[1], 0})
		}
		for _, s := range join(list, int(math.Round(pause*rate))) {
			out = append(out, Candidate{f.Side, s.a, s.b})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].From < out[j].From })
	return out
}

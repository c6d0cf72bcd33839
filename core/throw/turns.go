package throw

import (
	"math"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/flight"
	"neokinema/core/linsolve"
	"neokinema/core/uncertainty"
	"neokinema/core/vec3"
)

// What the model of a rigid line leaves out, as the place of one end against the
// other, m: the shoulders are not the middle about which an implement turns, a
// trailing arm bends, hips and shoulders are no bars. Measured on the simulated
// athlete (figures throws.one_view.*), rounded up.
var modelSD = map[string]float64{"ball": 0.035, "disc": 0.08, "hips": 0.011, "chest": 0.011, "head": 0.011, "foot": 0.045}

// stereoSlack is what two cameras leave, m: the place of both on the ground.
// Assumed; shaped on simulated clips.
const stereoSlack = 0.012

// depthSD is by how much worse a line that lies across the sight is known in
// azimuth than one along it, at most. Assumed; shaped on simulated clips.
const depthSD = 0.3

// Limit is the standard deviation beyond which a direction is not given, degrees.
const Limit = 15.0

// SegmentNames directions there are.
var SegmentNames = []string{"ball", "hips", "chest", "head", "left_foot", "right_foot"}

// of is the line of a direction, the quarter turn between it and where it faces, and what
// its model leaves out.
func (o *Reconstruction) of(who string) (d *SegmentTrack, quarter, slackness float64) {
	q := -o.hand * math.Pi / 2
	switch who {
	case "ball":
		if o.kind == Discus {
			return o.Ball, 0, modelSD["disc"]
		}
		return o.Ball, 0, modelSD["ball"]
	case "hips":
		return o.Hips, q, modelSD["hips"]
	case "chest":
		return o.Shoulders, q, modelSD["chest"]
	case "head":
		return o.Head, q, modelSD["head"]
	case "left_foot":
		return o.Feet[0], 0, modelSD["foot"]
	case "right_foot":
		return o.Feet[1], 0, modelSD["foot"]
	}
	return nil, 0, 0
}

// sd is the standard deviation of a line's azimuth in a frame, rad.
func (o *Reconstruction) sd(d *SegmentTrack, i int, slackness float64) float64 {
	if o.stereo {
		return math.Hypot(d.AzSD[i], stereoSlack/math.Max(0.05, d.Length[i]*math.Cos(d.El[i])))
	}
	// How far it points along the sight: there a step across turns it most surely.
	along := math.Abs(math.Cos(d.Az[i] - o.sightAz))
	if d == o.Feet[0] || d == o.Feet[1] {
		slackness = math.Hypot(slackness, o.mirrored(d, i)*d.Length[i]*math.Max(along, depthSD))
	}
	return math.Hypot(d.AzSD[i], slackness/(math.Max(0.05, d.Length[i]*math.Cos(d.El[i]))*math.Max(along, depthSD)))
}

// Feet go to and fro, so that their turning over time does not tell whether one
// points to the camera or away from it; where they point against the hips does, unless
// both answers lie this near to where the hips face, rad. Assumed; shaped on simulated clips.
const footSwing = 1.7

// mirrored is what it adds to the doubt of a foot that it may as well be the mirror
// image across the sight, rad: half the way to it, or nothing.
func (o *Reconstruction) mirrored(d *SegmentTrack, i int) float64 {
	f := d.From + i
	other := math.Pi + 2*o.sightAz - d.Az[i]
	if o.Hips.Has(f) {
		faces := o.Hips.Az[f-o.Hips.From] - o.hand*math.Pi/2
		if math.Abs(math.Remainder(other-faces, 2*math.Pi)) > footSwing {
			return 0
		}
	}
	return math.Abs(math.Remainder(other-d.Az[i], 2*math.Pi)) / 2
}

// Azimuth is where somebody or something points in a frame, degrees, continuous
// over the clip; false when it is not known at all.
func (o *Reconstruction) Azimuth(who string, frame int) (uncertainty.Estimate, bool) {
	d, q, s := o.of(who)
	if !d.Has(frame) {
		return uncertainty.Estimate{}, false
	}
	i := frame - d.From
	return uncertainty.Normal(deg(d.Az[i]+q+o.shift[who]), deg(o.sd(d, i, s))), true
}

func deg(rad float64) float64 { return rad * 180 / math.Pi }

// settle brings continuous azimuths to one count of turns: nearest to the ball's
// on the whole, and the ball's so that it starts between -180 and 180.
func (o *Reconstruction) settle() {
	o.shift = map[string]float64{}
	whole := func(v float64) float64 { return 2 * math.Pi * math.Round(v/(2*math.Pi)) }
	var lead *SegmentTrack
	var leadQ float64
	for _, who := range SegmentNames {
		d, q, _ := o.of(who)
		if d == nil {
			continue
		}
		if lead == nil {
			lead, leadQ = d, q
			o.shift[who] = -whole(d.Az[0] + q)
			leadQ += o.shift[who]
			continue
		}
		var off []float64
		for f := max(d.From, lead.From); f < min(d.End(), lead.End()); f++ {
			off = append(off, lead.Az[f-lead.From]+leadQ-d.Az[f-d.From]-q)
		}
		if len(off) > 0 {
			o.shift[who] = whole(median(off))
		}
	}
}

// ImplementPosition is where the implement is, m.
func (o *Reconstruction) ImplementPosition(frame int) (vec3.Vec, bool) {
	d := o.Ball
	from := o.Neck
	if o.stereo {
		from = o.trunk
	}
	if !d.Has(frame) || !known(from[frame]) {
		return vec3.Vec{}, false
	}
	i := frame - d.From
	l := segment{hand: o.hand}
	v, _, _ := l.direction(d.Az[i], d.El[i])
	return vec3.Add(from[frame], vec3.Scale(d.Length[i], v)), true
}

// scaleSD is how well lengths are known from a marked circle, as a share. Assumed.
const scaleSD = 0.01

// Speed is the implement's speed, m/s.
func (o *Reconstruction) Speed(frame int) (uncertainty.Estimate, bool) {
	// Over some frames, so that the scatter of the shoulders does not count.
	w := max(1, int(0.012*o.Rate))
	a, okA := o.ImplementPosition(frame - w)
	b, okB := o.ImplementPosition(frame + w)
	if !okA || !okB {
		return uncertainty.Estimate{}, false
	}
	i := frame - o.Ball.From
	chord := vec3.Norm(vec3.Sub(b, a))
	dt := 2 * float64(w) / o.Rate
	// The way round is longer than the chord.
	half := math.Abs(o.Ball.Az[i+w]-o.Ball.Az[i-w]) / 2
	v := chord / dt
	if half > 1e-3 {
		v *= half / math.Sin(half)
	}
	r := o.Ball.Length[i]
	sd := math.Hypot(r*o.Ball.RateSD[i]/float64(w), v*math.Hypot(scaleSD, o.Ball.LenSD[i]/r))
	if !o.stereo {
		// What one view leaves of a direction comes and goes twice a turn, and its rate with it.
		sd = math.Hypot(sd, 2*v*modelSD["ball"]/math.Max(0.05, r*math.Cos(o.Ball.El[i])))
	}
	return uncertainty.Normal(v, math.Hypot(sd, 0.015*v)), true
}

// Turn is one turn of a throw, from the ball at the back of the circle to the
// next time there. Frames are whole ones: the first at or after the moment.
type Turn struct {
	N          int                   `json:"n"`
	Zero       int                   `json:"zero" doc:"frame: ball at the back of the circle"`
	Lift       int                   `json:"lift" doc:"frame: sweep foot leaves"`
	High       int                   `json:"high" doc:"frame: ball at the middle of the sector"`
	Catch      int                   `json:"catch" doc:"frame: sweep foot is down"`
	Next       int                   `json:"next" doc:"frame: ball at the back again, or the release"`
	Last       bool                  `json:"last" doc:"the release follows"`
	Time       *uncertainty.Estimate `json:"time,omitempty" required:"false" doc:"s, from zero to zero; this and all that hangs on time is left out while the camera's rate is not known"`
	Double     *uncertainty.Estimate `json:"double,omitempty" required:"false" doc:"s on both feet, of zero to lift and catch to the next zero"`
	Single     *uncertainty.Estimate `json:"single,omitempty" required:"false" doc:"s on one foot"`
	LiftAz     uncertainty.Estimate  `json:"lift_az" doc:"ball at the lift, degrees"`
	CatchAz    uncertainty.Estimate  `json:"catch_az" doc:"ball at the catch, degrees"`
	SingleWay  uncertainty.Estimate  `json:"single_way" doc:"degrees that the ball goes on one foot"`
	Speed      *uncertainty.Estimate `json:"speed,omitempty" required:"false" doc:"greatest speed of the ball in the turn, m/s"`
	Gain       *uncertainty.Estimate `json:"gain,omitempty" required:"false" doc:"against the turn before, m/s"`
	Radius     uncertainty.Estimate  `json:"radius" doc:"middle of the shoulders to the ball, mean, m"`
	Tilt       uncertainty.Estimate  `json:"tilt" doc:"of the ball's plane, degrees"`
	Low        *uncertainty.Estimate `json:"low,omitempty" required:"false" doc:"azimuth at which the ball is lowest between two times in the middle of the sector, degrees from -180 to 180"`
	Pull       *uncertainty.Estimate `json:"pull,omitempty" required:"false" doc:"greatest pull on the hands, N"`
	Drag       *uncertainty.Estimate `json:"drag,omitempty" required:"false" doc:"chest ahead of the ball at zero, degrees"`
	Separation *uncertainty.Estimate `json:"separation,omitempty" required:"false" doc:"hips ahead of the chest at the catch, degrees"`
	Step       *uncertainty.Estimate `json:"step,omitempty" required:"false" doc:"cm from the toes of the pivot foot to those of the sweep foot as it lands"`
	Line       *uncertainty.Estimate `json:"line,omitempty" required:"false" doc:"degrees by which the feet travel to the throwing side of the throw, from zero to the next zero; negative is to the pivot side"`
	Sweep      *uncertainty.Estimate `json:"sweep,omitempty" required:"false" doc:"where the sweep foot points as it lands, degrees; two cameras only"`
	Sway       *uncertainty.Estimate `json:"sway,omitempty" required:"false" doc:"cm that the hips go from side to side; only seen along the line of the throw"`
}

// swaySD is how well the hips' way from side to side shows, cm: joints stand off the middle of
// the hips differently to either side. Assumed, after a look at the lots that are there to
// build on.
const swaySD = 2.8

// Trend is how something goes on from the first turn to the last.
type Trend struct {
	Diff   uncertainty.Estimate `json:"diff" doc:"last minus first"`
	Steady bool                 `json:"steady" doc:"the difference lies within its doubt"`
}

// Round is how many frames the implement takes for its last whole way round; false when it is not
// seen to go round once.
func (o *Reconstruction) Round() (frames float64, ok bool) {
	if o.Ball == nil {
		return 0, false
	}
	az := o.Ball.Az
	last := len(az) - 1
	for i := last; i >= 0; i-- {
		if math.Abs(az[last]-az[i]) >= 2*math.Pi {
			return float64(last - i), true
		}
	}
	return 0, false
}

// Untimed is the turn without what hangs on the rate of the camera.
func (t Turn) Untimed() Turn {
	t.Time, t.Double, t.Single, t.Speed, t.Gain, t.Pull = nil, nil, nil, nil, nil, nil
	return t
}

// TrendOf is the trend of a value over turns; nil for fewer than two.
func TrendOf(turns []Turn, of func(Turn) uncertainty.Estimate) *Trend {
	if len(turns) < 2 {
		return nil
	}
	d := uncertainty.Minus(of(turns[len(turns)-1]), of(turns[0]))
	d.Value = math.Remainder(d.Value, 360)
	return &Trend{d, math.Abs(d.Value) <= d.Half95}
}

// Crossings are the frames, with fractions, at which the ball passes an azimuth
// (degrees) on its way onward.
func (o *Reconstruction) Crossings(az float64) (out []float64) {
	if o.Ball == nil {
		return nil
	}
	at := func(i int) float64 { return o.Ball.Az[i] + o.shift["ball"] - az*math.Pi/180 }
	for i := 1; i < len(o.Ball.Az); i++ {
		a, b := at(i-1)/(2*math.Pi), at(i)/(2*math.Pi)
		if math.Floor(b) > math.Floor(a) {
			out = append(out, float64(o.Ball.From+i-1)+(math.Floor(b)-a)/(b-a))
		}
	}
	return out
}

// sweep is the side of the foot that is lifted in each turn.
func (o *Reconstruction) sweep() body.Side {
	if o.hand < 0 {
		return body.Left
	}
	return body.Right
}

// How long a foot is in the air in one turn, s. Common practice, no source.
const (
	briefest = 0.08
	longest  = 0.60
)

// Swings are the times before a frame in which the sweep foot is in the air as long as it
// is in a turn: frames of lift and catch. Rate is in frames a second.
func Swings(contacts []contact.Contact, sweep body.Side, rate float64, before int) (out [][2]int) {
	var mine []contact.Contact
	for _, c := range contacts {
		if c.Foot == sweep {
			mine = append(mine, c)
		}
	}
	for i := 1; i < len(mine); i++ {
		a, b := mine[i-1].To, mine[i].From
		if t := float64(b-a) / rate; t >= briefest && t <= longest && b <= before {
			out = append(out, [2]int{a, b})
		}
	}
	return out
}

func up(f float64) int { return int(math.Ceil(f - 1e-6)) }

// Turns counts and measures the turns. Mass is that of the implement, kg.
func (o *Reconstruction) Turns(contacts []contact.Contact, mass float64) []Turn {
	zeros, highs := o.Crossings(0), o.Crossings(180)
	var out []Turn
	frames := func(a, b int) uncertainty.Estimate { return uncertainty.FrameInterval(float64(b-a)/o.Rate, 1/o.Rate) }
	for _, s := range Swings(contacts, o.sweep(), o.Rate, o.To) {
		t := Turn{N: 1, Lift: s[0], Catch: s[1], Zero: -1, High: -1, Next: o.To, Last: true}
		for _, z := range zeros {
			if z < float64(t.Lift) {
				t.Zero = up(z)
			} else if z > float64(t.Catch) {
				t.Next, t.Last = up(z), false
				break
			}
		}
		for _, h := range highs {
			if f := up(h); f > t.Zero && t.High < 0 {
				t.High = f
			}
		}
		lift, okL := o.Azimuth("ball", t.Lift)
		catch, okC := o.Azimuth("ball", t.Catch)
		if t.Zero < 0 || t.High < 0 || !okL || !okC || catch.Value-lift.Value > 300 || len(out) > 0 && out[len(out)-1].Zero >= t.Zero {
			continue
		}
		t.LiftAz, t.CatchAz = o.at(t.Lift), o.at(t.Catch)
		t.SingleWay = uncertainty.Minus(catch, lift)
		whole, single := frames(t.Zero, t.Next), frames(t.Lift, t.Catch)
		double := uncertainty.FrameInterval(whole.Value-single.Value, 1/o.Rate)
		t.Time, t.Single, t.Double = &whole, &single, &double
		o.measure(&t, mass)
		if n := len(out); n > 0 {
			// A turn whose step is not seen counts all the same.
			t.N += o.revolutions(out[0].Zero, t.Zero+1)
			if out[n-1].N == t.N-1 {
				g := uncertainty.Minus(*t.Speed, *out[n-1].Speed)
				t.Gain = &g
			}
		}
		out = append(out, t)
	}
	return out
}

// revolutions is how often the ball comes round to the back of the circle after a frame at
// which it is there, and before another.
func (o *Reconstruction) revolutions(from, to int) (n int) {
	for _, z := range o.Crossings(0) {
		if f := up(z); f > from && f < to {
			n++
		}
	}
	return n
}

// Unseen lists the numbers of turns that the ball goes through and whose steps are not seen.
func (o *Reconstruction) Unseen(turns []Turn) (out []int) {
	if len(turns) == 0 {
		return nil
	}
	seen := map[int]bool{}
	for _, t := range turns {
		seen[t.N] = true
	}
	for n := 1; n <= o.revolutions(turns[0].Zero, o.To); n++ {
		if !seen[n] {
			out = append(out, n)
		}
	}
	return out
}

// at is the ball's azimuth from 0 to 360; half a frame of its way is part of the
// doubt.
func (o *Reconstruction) at(frame int) uncertainty.Estimate {
	v, _ := o.Azimuth("ball", frame)
	before, _ := o.Azimuth("ball", frame-1)
	v = uncertainty.Normal(v.Value-(v.Value-before.Value)/2, math.Hypot(v.SD, (v.Value-before.Value)/math.Sqrt(12)))
	v.Value = azimuth.Near(v.Value, uncertainty.Band{})
	return v
}

func (o *Reconstruction) measure(t *Turn, mass float64) {
	var radius, n float64
	elLo, elHi := math.Inf(1), math.Inf(-1)
	var radiusSD, elSD float64
	last := min(t.Next, o.To)
	t.Speed = o.peak(t.Zero, last, o.Speed)
	t.Pull = o.peak(t.Zero, last, func(f int) (uncertainty.Estimate, bool) { return o.Pull(f, mass) })
	for f := t.Zero; f < last; f++ {
		if !o.Ball.Has(f) {
			continue
		}
		i := f - o.Ball.From
		radius, n = radius+o.Ball.Length[i], n+1
		radiusSD, elSD = math.Max(radiusSD, o.Ball.LenSD[i]), math.Max(elSD, o.Ball.ElSD[i])
		elLo, elHi = math.Min(elLo, o.Ball.El[i]), math.Max(elHi, o.Ball.El[i])
	}
	if n > 0 {
		t.Radius = uncertainty.Normal(radius/n, math.Hypot(radiusSD, scaleSD*radius/n))
		t.Tilt = uncertainty.Normal(deg(elHi-elLo)/2, math.Max(1, deg(elSD)))
	}
	t.Low = o.lowest(t.High)
	t.Step, t.Line = o.step(t.Catch+int(settled*o.Rate)), o.course(t.Zero, t.Next)
	if v, ok := o.Azimuth(string(o.sweep())+"_foot", t.Catch); ok && o.stereo {
		v.Value = azimuth.Near(v.Value, uncertainty.Band{})
		t.Sweep = &v
	}
	t.Drag = o.lead("chest", "ball", t.Zero)
	t.Separation = o.lead("hips", "chest", t.Catch)
	if o.stereo || math.Abs(o.ahead.X) > 0.8 {
		lo, hi := math.Inf(1), math.Inf(-1)
		for f := t.Zero; f < min(t.Next, len(o.Pelvis)); f++ {
			if p := o.Pelvis[f]; known(p) {
				lo, hi = math.Min(lo, p.Z), math.Max(hi, p.Z)
			}
		}
		if hi > lo {
			v := uncertainty.Normal(100*(hi-lo), swaySD)
			t.Sway = &v
		}
	}
}

// peakHalf is how long to either side values are taken together, s: a turn goes round in some
// seven times as long. Assumed.
const peakHalf = 0.03

// peak is the greatest value of what is read of frames from one to another, the mean of a few
// frames each: of many that scatter the greatest single one is too great. They are off together,
// so that the mean is no surer than one. Nothing is 0.
func (o *Reconstruction) peak(from, to int, read func(f int) (uncertainty.Estimate, bool)) *uncertainty.Estimate {
	half := int(math.Round(peakHalf * o.Rate))
	list := make([]uncertainty.Estimate, max(0, to-from))
	for i := range list {
		list[i], _ = read(from + i)
	}
	best := new(uncertainty.Estimate)
	for i, v := range list {
		if v == (uncertainty.Estimate{}) {
			continue
		}
		sum, n := 0.0, 0.0
		for _, w := range list[max(0, i-half):min(len(list), i+half+1)] {
			if w != (uncertainty.Estimate{}) {
				sum, n = sum+w.Value, n+1
			}
		}
		if mean := sum / n; mean > best.Value {
			*best = uncertainty.Normal(mean, v.SD)
		}
	}
	return best
}

// Where the ball is lowest: a parabola over its way about the lowest place. Assumed; the least doubt
// is what a path that is no parabola leaves of it, seen on the lots that are there to build on.
const (
	lowAbout    = 50.0  // degrees to either side that take part
	lowSamples  = 6     // frames at least
	lowTogether = 4.0   // how many frames in a row are off the same way
	lowSD       = 4.0   // degrees
	lowDoubt    = 25.0  // degrees of doubt from which on nothing is said
	mirroredLow = 110.0 // degrees off the back: lowest there it is low on the side of the throw
)

// lowest is the azimuth at which the ball is lowest after a frame in which it is in the middle of the
// sector and before it is there again; nil where that does not show.
func (o *Reconstruction) lowest(high int) *uncertainty.Estimate {
	type place struct{ az, up float64 }
	var way []place
	first, ok := o.Azimuth("ball", high)
	if !ok {
		return nil
	}
	least, sd := -1, 0.0
	for f := high; f < o.To; f++ {
		p, ok1 := o.ImplementPosition(f)
		v, ok2 := o.Azimuth("ball", f)
		if !ok1 || !ok2 {
			continue
		}
		if v.Value-first.Value >= 360 {
			break
		}
		way, sd = append(way, place{v.Value, p.Y}), math.Max(sd, v.SD)
		if least < 0 || p.Y < way[least].up {
			least = len(way) - 1
		}
	}
	if least < 0 {
		return nil
	}
	about := way[least].az
	var rows [][3]float64
	var ups []float64
	for _, p := range way {
		if u := (p.az - about) / lowAbout; math.Abs(u) <= 1 {
			rows, ups = append(rows, [3]float64{1, u, u * u}), append(ups, p.up)
		}
	}
	n := len(ups)
	if n < lowSamples || way[len(way)-1].az < about+lowAbout/2 || way[0].az > about-lowAbout/2 {
		return nil
	}
	normal, c := linsolve.NewBanded(3, 2), make([]float64, 3)
	for k, row := range rows {
		for i := range row {
			c[i] += row[i] * ups[k]
			for j := range i + 1 {
				normal.Add(i, j, row[i]*row[j])
			}
		}
	}
	if normal.Factor() != nil {
		return nil
	}
	normal.Solve(c)
	left := 0.0
	for k, row := range rows {
		left += math.Pow(ups[k]-c[0]-c[1]*row[1]-c[2]*row[2], 2)
	}
	if c[2] <= 0 {
		return nil
	}
	inverse, scatter := normal.Inverse(), lowTogether*left/float64(n-3)
	sds := []float64{math.Sqrt(scatter * inverse.At(1, 1)), math.Sqrt(scatter * inverse.At(2, 2))}
	v := uncertainty.Propagate(func(x []float64) float64 { return -lowAbout * x[0] / (2 * x[1]) }, c[1:], sds)
	if v.SD = math.Hypot(math.Hypot(v.SD, sd), lowSD); math.Abs(v.Value) > lowAbout || v.SD > lowDoubt {
		return nil
	}
	v = uncertainty.Normal(math.Remainder(about+v.Value, 360), v.SD)
	return &v
}

// roughlyLowest is the azimuth of a turn's lowest frame, degrees from -180 to 180.
func (o *Reconstruction) roughlyLowest(t Turn) (az float64, ok bool) {
	least := math.Inf(1)
	for f := t.Zero; f < min(t.Next, o.To); f++ {
		if p, seen := o.ImplementPosition(f); seen && p.Y < least {
			v, _ := o.Azimuth("ball", f)
			least, az, ok = p.Y, math.Remainder(v.Value, 360), true
		}
	}
	return az, ok
}

// Drift is how far the hips leave the straight line from their place in one frame to
// that before another, cm, to the right when positive; false when the camera does not
// look along the throw.
func (o *Reconstruction) Drift(from, to int) (uncertainty.Estimate, bool) {
	if !o.stereo && math.Abs(o.ahead.X) < 0.8 {
		return uncertainty.Estimate{}, false
	}
	var way []vec3.Vec
	for f := max(from, o.From); f < min(to, len(o.Pelvis)); f++ {
		if known(o.Pelvis[f]) {
			way = append(way, o.Pelvis[f])
		}
	}
	if len(way) < 2 {
		return uncertainty.Estimate{}, false
	}
	a, b := way[0], way[len(way)-1]
	var worst float64
	for _, p := range way {
		u := 0.0
		if b.X != a.X {
			u = math.Max(0, math.Min(1, (p.X-a.X)/(b.X-a.X)))
		}
		if d := p.Z - a.Z - u*(b.Z-a.Z); math.Abs(d) > math.Abs(worst) {
			worst = d
		}
	}
	// The largest of many that scatter is too large by some of it.
	return uncertainty.Normal(100*worst, math.Hypot(1.5, 100*largestOf*o.middleLoose("hip", max(from, o.From)))), true
}

// largestOf is how many scatters the largest of many values is off. Assumed.
const largestOf = 1.5

// alongDoubt and acrossDoubt are how well a standing foot is placed along and across
// the sight of one camera, m: a toe a centimetre higher seems to be 8 cm farther off
// for a camera at a man's chest. Two cameras place it as well as across.
// heightDoubt is how high over its place the point may be for that. Computed toes that stand are
// off by a share of what they are in one frame.
// Assumed; shaped on simulated clips.
const (
	alongDoubt  = 0.08
	acrossDoubt = 0.015
	heightDoubt = 0.01
	steadyToes  = 0.5
)

// farthestFoot is how far from the middle of a circle a foot that throws can stand, m: the largest
// circle and a step. placeKnown is how surely feet must be placed for distances to be said, m. Assumed.
const (
	farthestFoot = 2.0
	placeKnown   = 0.12
	fromCentre   = 1.7 // from the middle of the circle feet are off 10 cm the same way, seen on the lot to build on
)

// settled is how long after its landing a foot stands, s: before that a smooth path
// still has some of the way down in it. Assumed.
const settled = 0.04

// FootSD is how well a standing foot is placed along and across the sight in a frame, m.
func (o *Reconstruction) FootSD(foot, frame int) (along, across float64) {
	loose := steadyToes * o.loose[[2]string{"left_toe", "right_toe"}[foot]][frame]
	across = math.Hypot(acrossDoubt, loose)
	if o.stereo {
		return across, across
	}
	return math.Hypot(alongDoubt, loose*alongDoubt/heightDoubt), across
}

// Place is the standing place of a foot about a frame, with its doubt in x and z.
func (o *Reconstruction) Place(foot, frame int) (p vec3.Vec, sx, sz float64, ok bool) {
	w := max(1, int(0.01*o.Rate))
	n := 0.0
	for f := max(0, frame-w); f <= frame+w && f < len(o.Toes[foot]); f++ {
		if q := o.Toes[foot][f]; known(q) {
			p, n = vec3.Add(p, q), n+1
		}
	}
	if n == 0 || math.Hypot(p.X/n, p.Z/n) > farthestFoot {
		return p, 0, 0, false
	}
	sx, sz = o.placeSD(foot, frame, 1)
	return vec3.Scale(1/n, p), sx, sz, true
}

// placeSD is how well a standing foot is placed in x and z, m; what lies along the sight so many
// times worse than it is against another foot.
func (o *Reconstruction) placeSD(foot, frame int, worse float64) (sx, sz float64) {
	along, across := o.FootSD(foot, frame)
	if !o.stereo {
		along *= worse
	}
	c, s := math.Abs(o.ahead.X), math.Abs(o.ahead.Z)
	return math.Hypot(along*c, across*s), math.Hypot(along*s, across*c)
}

// Inside is how far inside of a circle a foot stands in a frame, cm; false where that is not known
// well enough to be said.
func (o *Reconstruction) Inside(foot, frame int, radius float64) (uncertainty.Estimate, bool) {
	p, _, _, ok := o.Place(foot, frame)
	if !ok {
		return uncertainty.Estimate{}, false
	}
	sx, sz := o.placeSD(foot, frame, fromCentre)
	v := uncertainty.Propagate(func(v []float64) float64 { return 100 * (radius - math.Hypot(v[0], v[1])) }, []float64{p.X, p.Z}, []float64{sx, sz})
	return v, v.SD <= 100*placeKnown
}

// step is how far the feet stand apart, cm; nil where that is not known well enough to be said.
func (o *Reconstruction) step(frame int) *uncertainty.Estimate {
	a, ax, az, okA := o.Place(0, frame)
	b, bx, bz, okB := o.Place(1, frame)
	if !okA || !okB {
		return nil
	}
	v := uncertainty.Propagate(func(x []float64) float64 { return 100 * math.Hypot(x[0], x[1]) }, []float64{b.X - a.X, b.Z - a.Z}, []float64{math.Hypot(ax, bx), math.Hypot(az, bz)})
	if v.SD > 100*math.Sqrt2*placeKnown {
		return nil
	}
	return &v
}

// course is where the feet travel from one frame to another, both down in each.
func (o *Reconstruction) course(from, to int) *uncertainty.Estimate {
	var x, sd [2]float64
	for foot := range 2 {
		a, ax, az, okA := o.Place(foot, from)
		b, bx, bz, okB := o.Place(foot, to)
		if !okA || !okB {
			return nil
		}
		x[0], x[1] = x[0]+(b.X-a.X)/2, x[1]+(b.Z-a.Z)/2
		sd[0], sd[1] = math.Hypot(sd[0], math.Hypot(ax, bx)/2), math.Hypot(sd[1], math.Hypot(az, bz)/2)
	}
	if math.Hypot(x[0], x[1]) < 0.1 {
		return nil // on the spot
	}
	// The throwing side of a right-hander who faces the throw is the right.
	v := uncertainty.Propagate(func(v []float64) float64 { return deg(math.Atan2(o.hand*v[1], v[0])) }, x[:], sd[:])
	return &v
}

// FeetLine is where the feet travel from the first turn to the last catch: degrees to the
// throwing side of the throw, negative to the pivot side; false for fewer than two
// turns.
func FeetLine(o *Reconstruction, turns []Turn) (uncertainty.Estimate, bool) {
	if len(turns) < 2 {
		return uncertainty.Estimate{}, false
	}
	if v := o.course(turns[0].Zero, turns[len(turns)-1].Catch+int(settled*o.Rate)); v != nil {
		return *v, true
	}
	return uncertainty.Estimate{}, false
}

// Axis is how the trunk leans, from the middle of the hips to that of the shoulders.
type Axis struct {
	Lean   uncertainty.Estimate `json:"lean" doc:"against the vertical, degrees; of one camera what lies across its sight"`
	Toward float64              `json:"toward" doc:"azimuth to which a positive lean goes, degrees"`
	Whole  bool                 `json:"whole" doc:"two cameras saw it; one does not see how far it leans along its sight"`
}

// Axis is the trunk's axis in a frame.
func (o *Reconstruction) Axis(frame int) (out Axis, ok bool) {
	if frame < 0 || frame >= len(o.Neck) || !known(o.Neck[frame]) || !known(o.Pelvis[frame]) {
		return out, false
	}
	v := vec3.Sub(o.Neck[frame], o.Pelvis[frame])
	level := math.Hypot(v.X, v.Z)
	lean, toward := level, math.Atan2(o.hand*v.Z, -v.X)
	if out.Whole = o.stereo; !out.Whole {
		// Positive to the throwing side from behind or before, to the throw from a side.
		across := vec3.Vec{Z: o.hand}
		if math.Abs(o.ahead.Z) > math.Abs(o.ahead.X) {
			across = vec3.Vec{X: 1}
		}
		lean, toward = vec3.Dot(v, across), math.Atan2(o.hand*across.Z, -across.X)
	}
	place := axisSD
	if o.stereo {
		place = stereoSlack
	}
	ends := math.Hypot(place*math.Sqrt2, math.Hypot(o.middleLoose("shoulder", frame), o.middleLoose("hip", frame)))
	out.Lean = uncertainty.Normal(deg(math.Atan2(lean, v.Y)), deg(ends/math.Max(0.1, vec3.Norm(v))))
	out.Toward = azimuth.Near(deg(toward), uncertainty.Band{})
	return out, true
}

// axisSD is how well the middle of shoulders or hips is placed across the sight, m.
// Assumed; shaped on simulated clips.
const axisSD = 0.015

// Lead is how far one direction is ahead of another in a frame, degrees from -180
// to 180.
func (o *Reconstruction) Lead(who, whom string, frame int) (uncertainty.Estimate, bool) {
	a, okA := o.Azimuth(who, frame)
	b, okB := o.Azimuth(whom, frame)
	if !okA || !okB {
		return uncertainty.Estimate{}, false
	}
	v := uncertainty.Minus(a, b)
	v.Value = math.Remainder(v.Value, 360)
	return v, true
}

func (o *Reconstruction) lead(who, whom string, frame int) *uncertainty.Estimate {
	if v, ok := o.Lead(who, whom, frame); ok {
		return &v
	}
	return nil
}

// Pull is the force along the wire, N: what keeps the implement on its circle, and
// its weight as far as it hangs: F = m v^2 / r + m g sin(angle below level).
func (o *Reconstruction) Pull(frame int, mass float64) (uncertainty.Estimate, bool) {
	v, ok := o.Speed(frame)
	if !ok {
		return v, false
	}
	i := frame - o.Ball.From
	return Pull(mass, v, uncertainty.Normal(o.Ball.Length[i], math.Max(0.02, o.Ball.LenSD[i])), o.Ball.El[i]), true
}

// Pull is the pull of an implement of a mass (kg) on a circle, N: speed in m/s,
// radius in m, el the elevation of the wire (rad, above level).
func Pull(mass float64, speed, radius uncertainty.Estimate, el float64) uncertainty.Estimate {
	return uncertainty.Propagate(func(x []float64) float64 { return mass * (x[0]*x[0]/x[1] - flight.Gravity*math.Sin(el)) },
		[]float64{speed.Value, radius.Value}, []float64{speed.SD, radius.SD})
}

// Winds are the frames at which the ball passes the back before the first turn,
// the last two of them.
func (o *Reconstruction) Winds(turns []Turn) []int {
	if len(turns) == 0 {
		return nil
	}
	var out []int
	for _, z := range o.Crossings(0) {
		if f := up(z); f < turns[0].Zero {
			out = append(out, f)
		}
	}
	return out[max(0, len(out)-2):]
}

// Mirrored tells whether the ball would be lowest on the side of the throw: then
// the other hand throws. A hammer or weight is low at the back and on the throwing
// side. Common practice, no source.
func (o *Reconstruction) Mirrored(turns []Turn) bool {
	if o.kind != Hammer && o.kind != Weight {
		return false
	}
	wrong := 0
	for _, t := range turns {
		if az, ok := o.roughlyLowest(t); ok && math.Abs(az) > mirroredLow {
			wrong++
		}
	}
	return len(turns) > 0 && 2*wrong > len(turns)
}

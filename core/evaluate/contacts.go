package evaluate

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/uncertainty"
)

// StandingHeight is the athlete's standing height in px, 0 while there is no scale.
func (e *Evaluation) StandingHeight() float64 {
	if e.Scale == nil || e.Scale.MetresPerPixel.Value <= 0 {
		return 0
	}
	return e.Input.Athlete.Height / e.Scale.MetresPerPixel.Value
}

// usable tells whether paths may be read: somebody looked at the camera, and
// there is a steady frame of reference. A pan that nobody looked at would pass for
// a treadmill.
func (e *Evaluation) usable() bool {
	return e.Input.Camera != nil && e.Input.Camera.Usable() && !e.stills
}

// findContacts looks for feet on the ground, on a belt too.
func (e *Evaluation) findContacts() {
	tall := e.StandingHeight()
	if tall == 0 || !e.usable() {
		return
	}
	var feet []contact.Foot
	for _, s := range []body.Side{body.Left, body.Right} {
		p := func(part string) *kinematics.Path { return e.Movement.Paths[string(s)+"_"+part] }
		feet = append(feet, contact.Foot{Side: s, Toe: p("toe"), Heel: p("heel"), Ankle: p("ankle")})
	}
	// Contacts hardly depend on the height: in steps of two per cent it does not
	// change with every move of a knee.
	tall = math.Exp(math.Round(math.Log(tall)/0.02) * 0.02)
	hang := [8]*kinematics.Path{feet[0].Toe, feet[0].Heel, feet[0].Ankle, feet[1].Toe, feet[1].Heel, feet[1].Ankle, e.Movement.Paths["left_hip"], e.Movement.Paths["right_hip"]}
	if e.cache.feet != hang || e.cache.tall != tall {
		e.belt = 0
		e.findBelt(feet, tall)
		found := e.detect(feet, tall)
		e.cache.feet, e.cache.tall, e.cache.contacts, e.cache.belt = hang, tall, found, e.belt
	}
	e.belt = e.cache.belt
	e.reportBelt()
	e.contacts = slices.Clone(e.Input.Contacts)
	for i, c := range e.contacts {
		e.contacts[i].Foot = e.whose(c)
	}
	for _, c := range e.cache.contacts {
		if !slices.ContainsFunc(e.Input.Contacts, func(s contact.Contact) bool {
			// What begins where another has just ended is the rest of it.
			return s.Foot == c.Foot && s.From < c.To && c.From < s.To+int(restOf*e.Rate)
		}) {
			e.contacts = append(e.contacts, c)
		}
	}
	sort.SliceStable(e.contacts, func(i, j int) bool { return e.contacts[i].From < e.contacts[j].From })
	e.contacts = e.weighed(e.contacts)
	e.bySigns()
	e.settled(e.contacts)
	e.inPlace(e.contacts)
}

// Speeds of ankles over a contact, standing heights a second, by which it is another foot's.
// Assumed.
const (
	standsBy = 0.6
	moves    = 2 // times as fast
)

// whose is the foot that stands during a contact that the picture showed: the coach may have
// exchanged sides since.
func (e *Evaluation) whose(c contact.Contact) body.Side {
	speed := func(s body.Side) float64 {
		var all []float64
		for f := c.From + (c.To-c.From)/4; f <= c.To-(c.To-c.From)/4; f++ {
			if v, ok := e.Movement.Paths[string(s)+"_ankle"].Velocity(f); ok {
				v.X -= e.belt
				all = append(all, r2.Norm(v)/e.cache.tall)
			}
		}
		if len(all) == 0 {
			return math.NaN()
		}
		sort.Float64s(all)
		return all[len(all)/2]
	}
	is, other := speed(c.Foot), speed(c.Foot.Other())
	if other < standsBy && is > moves*other && is > standsBy {
		return c.Foot.Other()
	}
	return c.Foot
}

// detect finds contacts by the tracks, among the frames that hold a picture of their own.
func (e *Evaluation) detect(feet []contact.Foot, tall float64) []contact.Contact {
	shows := e.Input.Clip.Pictures
	frames := shows.Frames()
	only := slices.Clone(feet)
	for i, f := range feet {
		only[i].Toe, only[i].Heel, only[i].Ankle = f.Toe.Only(frames), f.Heel.Only(frames), f.Ankle.Only(frames)
	}
	found := contact.Detect(only, shows.Rate(e.Rate), tall, e.noise(feet), contact.Ground{Belt: r2.Vec{X: e.belt}})
	return contact.Spread(found, frames)
}

// restOf is how soon after a contact no other of the same foot can begin, s.
// Assumed; shaped on simulated clips.
const restOf = 0.08

// noise is the scatter of the feet's points about their smooth paths; of ankles where there are
// neither toes nor heels.
func (e *Evaluation) noise(feet []contact.Foot) float64 {
	worst, ankles := 0.0, 0.0
	for _, f := range feet {
		for _, p := range []*kinematics.Path{f.Toe, f.Heel} {
			if p != nil {
				worst = math.Max(worst, p.Noise)
			}
		}
		if f.Ankle != nil {
			ankles = math.Max(ankles, f.Ankle.Noise)
		}
	}
	if worst == 0 {
		return ankles
	}
	return worst
}

// On a treadmill the hips stay while the feet go to and fro.
// Assumed; shaped on simulated clips.
const (
	beltHips = 0.6 // standing heights that the hips may drift over the clip
	beltFeet = 0.3 // and the feet must swing at least
	beltLow  = 0.2 // share of frames, the lowest, in which a foot is taken to stand
)

// findBelt tells a treadmill from the track and reads its speed from the feet
// while they are low: the middle of their backward speeds.
func (e *Evaluation) findBelt(feet []contact.Foot, tall float64) {
	lo, hi := math.Inf(1), math.Inf(-1)
	n := 0
	for f := range e.Clock.Len() {
		if p, ok := e.Movement.Where("mid_hip", f); ok {
			lo, hi, n = math.Min(lo, p.X), math.Max(hi, p.X), n+1
		}
	}
	if float64(n) < 0.8*e.Rate || hi-lo > beltHips*tall {
		return
	}
	var back []float64
	for _, f := range feet {
		p := f.Toe
		if p == nil || p.Cutoff == 0 {
			p = f.Ankle
		}
		if p == nil || p.Cutoff == 0 {
			continue
		}
		type low struct{ y, v float64 }
		var all []low
		left, right := math.Inf(1), math.Inf(-1)
		for i, q := range p.At {
			if !math.IsNaN(q.X) {
				all = append(all, low{q.Y, p.V[i].X})
				left, right = math.Min(left, q.X), math.Max(right, q.X)
			}
		}
		if right-left < beltFeet*tall || len(all) < 20 {
			return
		}
		sort.Slice(all, func(i, j int) bool { return all[i].y < all[j].y })
		for _, l := range all[:int(beltLow*float64(len(all)))] {
			back = append(back, l.v)
		}
	}
	if len(back) < 10 {
		return
	}
	sort.Float64s(back)
	if v := back[len(back)/2]; v < -0.3*tall {
		e.belt = v
	}
}

// reportBelt tells the belt's speed in m/s.
func (e *Evaluation) reportBelt() {
	if e.belt == 0 || !e.Clock.Known() {
		return
	}
	mpp := e.Scale.MetresPerPixel
	s := uncertainty.Propagate(func(x []float64) float64 { return -x[0] * x[1] }, []float64{e.belt, mpp.Value}, []float64{0.02 * math.Abs(e.belt), mpp.SD})
	e.report.BeltSpeed = &s
}

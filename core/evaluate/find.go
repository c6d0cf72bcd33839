package evaluate

import (
	"math"
	"slices"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/sport"
)

// foundAt is where the tool found a key position.
type foundAt struct {
	frame int
	sure  float64 // how likely it lies within what counts as the same moment
	sd    float64 // frames, beside the doubt of one frame that any moment has
}

// findPositions places the model's key positions where the tracks show them.
func (e *Evaluation) findPositions() {
	e.found, e.feet = map[string]foundAt{}, map[int]body.Side{}
	steps := e.stepContacts()
	shift := e.numbering(steps)
	nth := func(n int) (contact.Contact, bool) {
		if i := n - 1 - shift; i >= 0 && i < len(steps) {
			return steps[i], true
		}
		return contact.Contact{}, false
	}
	for _, p := range e.Model.Positions {
		if p.Find == nil {
			continue
		}
		n := p.Find.Nth
		if c, ok := nth(n); ok && n > 0 && p.Find.Foot == "" {
			e.feet[n] = c.Foot
		}
		if f, ok := e.turned(p, *p.Find); ok && f.frame >= 0 && f.frame < e.Clock.Len() {
			e.found[p.ID] = f
		} else if f, ok := e.find(*p.Find, nth); ok && !e.counted(p) && f.frame >= 0 && f.frame < e.Clock.Len() {
			e.found[p.ID] = f
		}
	}
	// A coach who flags steps by hand before anything is tracked: feet alternate,
	// and the near one is known from the points placed at touchdown.
	e.handFeet()
}

func (e *Evaluation) find(f model.Find, nth func(int) (contact.Contact, bool)) (foundAt, bool) {
	switch f.Kind {
	case "first-movement":
		return e.firstMovement()
	case "still-before":
		m, ok := e.firstMovement()
		m.frame -= 1 + int(0.01*e.Rate+surelyStill*m.sd)
		return m, ok
	case "leaves":
		foot := e.Input.Athlete.FrontLeg
		if f.Foot == "rear" {
			foot = foot.Other()
		}
		for _, c := range e.contacts {
			if c.Foot == foot && c.Before && !c.After {
				return e.moment(c.To, c.ToSD), true
			}
		}
		return foundAt{}, false
	case "foot-on", "foot-off":
		return e.footfall(f)
	case "step-on", "step-off", "step-after":
		return e.stepsOfThrow(f)
	case "jump-on", "jump-off", "before-on", "before-off", "jump-middle", "jump-end":
		return e.jump(f.Kind)
	}
	c, ok := nth(f.Nth)
	if !ok {
		return foundAt{}, false
	}
	switch f.Kind {
	case "touchdown":
		return e.moment(c.From, c.FromSD), !c.Before
	case "toe-off":
		return e.moment(c.To, c.ToSD), !c.After
	case "under":
		return e.under(c)
	case "half-flight":
		next, ok := nth(f.Nth + 1)
		if !ok || c.After || next.From <= c.To {
			return foundAt{}, false
		}
		return e.moment(e.Input.Clip.Pictures.Of((c.To+next.From)/2), math.Hypot(c.ToSD, next.FromSD)/2), true
	}
	return foundAt{}, false
}

// footfall is the nth time in the clip that a foot comes down or leaves; in a throw,
// before the release.
func (e *Evaluation) footfall(f model.Find) (foundAt, bool) {
	side, _, _ := strings.Cut(e.Roles.Resolve(f.Foot + "_toe")[0], "_")
	end, known := e.released()
	if !known {
		end = e.Clock.Len()
	}
	n := 0
	for _, c := range e.contacts {
		if c.Foot != body.Side(side) {
			continue
		}
		if f.Kind == "foot-on" && !c.Before && c.From <= end {
			if n++; n == f.Nth {
				return e.moment(c.From, c.FromSD), true
			}
		}
		if f.Kind == "foot-off" && !c.After && c.To <= end {
			if n++; n == f.Nth {
				return e.moment(c.To, c.ToSD), true
			}
		}
	}
	return foundAt{}, false
}

// stepsOfThrow counts steps back from the release of a throw: the nth-last contact of
// a foot that begins before it; step-after is the first that begins behind it.
func (e *Evaluation) stepsOfThrow(f model.Find) (foundAt, bool) {
	release, ok := e.released()
	if !ok {
		return foundAt{}, false
	}
	side, _, _ := strings.Cut(e.Roles.Resolve(f.Foot + "_toe")[0], "_")
	if f.Kind == "step-after" {
		for _, c := range e.contacts {
			if c.Foot == body.Side(side) && c.From > release {
				return e.moment(c.From, c.FromSD), true
			}
		}
		return foundAt{}, false
	}
	n := 0
	for i := len(e.contacts) - 1; i >= 0; i-- {
		c := e.contacts[i]
		if c.Foot != body.Side(side) || c.From > release {
			continue
		}
		if n++; n < f.Nth {
			continue
		}
		if f.Kind == "step-off" {
			return e.moment(c.To, c.ToSD), !c.After
		}
		return e.moment(c.From, c.FromSD), !c.Before
	}
	return foundAt{}, false
}

// What is a jump: a time in the air, s, that is no step, about the highest place of the hips
// where they rise so far over the run, standing heights. Common practice, no source; the
// rise assumed.
const (
	shortestJump = 0.3
	risen        = 0.12
)

// apex is the frame in which the hips are highest, false when they hardly rise over how they
// mostly go.
func (e *Evaluation) apex() (int, bool) {
	var all []float64
	best, most := -1, math.Inf(-1)
	for f := range e.Clock.Len() {
		p, ok := e.Movement.Where("mid_hip", f)
		if !ok {
			continue
		}
		all = append(all, p.Y)
		if p.Y > most {
			best, most = f, p.Y
		}
	}
	if best < 0 {
		return 0, false
	}
	sort.Float64s(all)
	return best, most-all[len(all)/2] > risen*e.cache.tall
}

// flies tells whether the athlete can have left the ground for good at a frame: from there to
// the highest place the centre of mass falls freely, unless a pole carries it.
func (e *Evaluation) flies(from, apex int) bool {
	if sport.Of(e.Model.ID).Pole() {
		return true
	}
	frames := e.ownFrames()
	m := e.mass(frames)
	if m == nil {
		return true
	}
	at := func(f int) int { return sort.SearchInts(frames, f) }
	return m.Flown(at(from), at(apex), e.shown())
}

// takeOff is the contact before the longest time without a foot on the ground, about the
// highest place of the hips if they rise.
func (e *Evaluation) takeOff() (at int, ok bool) {
	best, long := -1, int(shortestJump*e.Rate)
	apex, rises := e.apex()
	down := -1
	for i, c := range e.contacts {
		down = max(down, c.To)
		next := e.Clock.Len() - 1
		if i+1 < len(e.contacts) {
			next = e.contacts[i+1].From
		}
		if next-down > long && !c.After && (!rises || down <= apex && apex <= next) {
			best, long = i, next-down
		}
	}
	return best, best >= 0 && e.flies(e.contacts[best].To, apex)
}

// jump finds the take-off of a jump and what comes before and after it.
func (e *Evaluation) jump(kind string) (foundAt, bool) {
	best, ok := e.takeOff()
	if !ok {
		return foundAt{}, false
	}
	c := e.contacts[best]
	if e.otherLeg() {
		return foundAt{}, false // the take-off was not seen, or the legs are taken for each other
	}
	switch kind {
	case "jump-on":
		return e.moment(c.From, c.FromSD), !c.Before
	case "jump-off":
		return e.moment(c.To, c.ToSD), true
	case "before-on", "before-off":
		if best == 0 || e.contacts[best-1].Foot == c.Foot {
			return foundAt{}, false
		}
		b := e.contacts[best-1]
		if kind == "before-on" {
			return e.moment(b.From, b.FromSD), !b.Before
		}
		return e.moment(b.To, b.ToSD), true
	}
	if best+1 == len(e.contacts) {
		return foundAt{}, false // the landing is not in the clip, or not on the feet
	}
	n := e.contacts[best+1]
	if kind == "jump-middle" {
		return e.moment(e.Input.Clip.Pictures.Of((c.To+n.From)/2), math.Hypot(c.ToSD, n.FromSD)/2), true
	}
	return e.moment(n.From, n.FromSD), true
}

// sameMoment is how far two moments may be apart and still count as one: a picture, or
// this, s. Assumed.
const sameMoment = 0.02

// moment is a found moment by its standard deviation in frames.
func (e *Evaluation) moment(frame int, sd float64) foundAt {
	if sd <= 0 {
		return foundAt{frame, 1, 0}
	}
	return foundAt{frame, math.Erf(e.asOne() / (sd * math.Sqrt2)), sd}
}

// asOne is how far apart two moments may be, frames, that count as one.
func (e *Evaluation) asOne() float64 {
	picture := e.Rate / e.shown() // frames that one lasts
	return math.Max(picture, sameMoment*e.Rate) + picture/2
}

// stepContacts are the contacts that count as steps: those that begin in the clip, in a start
// those after the front foot left its pedal, as far as this moment is known. The first of them is
// the rear foot's.
func (e *Evaluation) stepContacts() []contact.Contact {
	after, sd := -1, 0.0 // a coach's flag has no doubt
	for _, p := range e.Model.Positions {
		if p.Find != nil && p.Find.Kind == "leaves" {
			if f, ok := e.Flag(p.ID); ok {
				if f > after {
					after, sd = f, 0
				}
			} else if f, ok := e.find(*p.Find, nil); ok && f.frame > after {
				after, sd = f.frame, f.sd
			}
		}
	}
	var out []contact.Contact
	for _, c := range e.contacts {
		early := 0.0
		if sd > 0 && c.To > after {
			early = 2 * math.Hypot(sd, c.FromSD)
		}
		if !c.Before && float64(c.From)+early >= float64(after) {
			out = append(out, c)
		}
	}
	if after < 0 || len(out) == 0 {
		return out
	}
	if float64(out[0].From-after) > firstFlight*e.Rate || sport.Of(e.Model.ID).Blocks && sd > 0 && out[0].Foot == e.Input.Athlete.FrontLeg {
		return nil // the first step was not seen: nobody knows the number of those that were
	}
	return out
}

// firstFlight is the longest time from the blocks to the first step, s. Common practice, no
// source.
const firstFlight = 0.2

// numbering is by how much the numbers of steps are shifted so that they agree
// with a touchdown that the coach has flagged.
func (e *Evaluation) numbering(steps []contact.Contact) int {
	best, shift := math.MaxInt, 0
	for _, p := range e.Model.Positions {
		if p.Find == nil || p.Find.Kind != "touchdown" {
			continue
		}
		f, ok := e.Input.Flags[p.ID]
		if !ok || f < 0 {
			continue
		}
		for i, c := range steps {
			if d := max(c.From-f, f-c.From); d < best {
				best, shift = d, p.Find.Nth-1-i
			}
		}
	}
	return shift
}

// lowerFoot is by how much, standing heights, the foot that lands is lower than the other.
const lowerFoot = 0.05

// handFeet gives the foot of steps that were flagged by hand: by whose ankle (or
// toe) was placed at the touchdown, or is the lower one; then by turns.
func (e *Evaluation) handFeet() {
	if e.Model.Repeat == nil || !slices.ContainsFunc(e.Model.Repeat.Contacts, func(c model.Contact) bool { return c.Foot == "stance" }) {
		return
	}
	known, side := 0, body.Side("")
	for _, p := range e.Model.Positions {
		if p.Find == nil || p.Find.Kind != "touchdown" || known > 0 {
			continue
		}
		if e.feet[p.Nth] != "" {
			known, side = p.Nth, e.feet[p.Nth]
			break
		}
		f, ok := e.Input.Flags[p.ID]
		if !ok || f < 0 {
			continue
		}
		for _, s := range []body.Side{body.Left, body.Right} {
			a, here := e.Input.Points.At(string(s)+"_ankle", f)
			b, other := e.Input.Points.At(string(s.Other())+"_ankle", f)
			if here && (!other || a.Y-b.Y > lowerFoot*e.StandingHeight()) {
				known, side = p.Nth, s
			}
		}
	}
	for n := 1; n <= e.Model.Repeat.Most; n++ {
		if e.feet[n] != "" {
			continue
		}
		if side == "" {
			// Nothing tells: the near leg, so that the guide has something to ask
			// for; the coach's first point settles it.
			known, side = 1, e.Roles.Near
		}
		e.feet[n] = side
		if (n-known)%2 != 0 {
			e.feet[n] = side.Other()
		}
	}
}

// rolesAt resolves roles at a position: the stance leg is that of its step.
func (e *Evaluation) rolesAt(p model.Position) body.Roles {
	r := e.Roles
	if p.Nth > 0 {
		r.Stance = e.feet[p.Nth]
	}
	return r
}

// under is where the hip passes over the ankle of a standing foot.
func (e *Evaluation) under(c contact.Contact) (foundAt, bool) {
	gap := func(f int) (float64, bool) {
		h, okH := e.Movement.Where("mid_hip", f)
		a, okA := e.Movement.Where(string(c.Foot)+"_ankle", f)
		return h.X - a.X, okH && okA
	}
	before := c.From
	for f := c.From + 1; f <= c.To; f++ {
		if !e.Input.Clip.Pictures.Own(f) {
			continue
		}
		was, ok1 := gap(before)
		is, ok2 := gap(f)
		if ok1 && ok2 && was < 0 && is >= 0 {
			if -was < is {
				f = before
			}
			return e.moment(f, float64(e.pictures(1))), true
		}
		before = f
	}
	return foundAt{}, false
}

// Limits of the search for the first movement, in standing heights and s.
// Assumed; shaped on simulated clips that are there to build on.
const (
	stirred   = 0.022 // a landmark this far from where it rested has moved
	started   = 0.12  // and this far it has started: no error goes so far
	wandering = 2.5   // scatters of a landmark that rests by which it may be off
	onset     = 0.05  // how far about that to look for the beginning
	rest      = 0.15  // stretch over which a landmark must have rested
	longRest  = 0.5   // and over which it is looked at

	onsetPictures = 2.0 // of a draft between few pictures by which it is off

	draftedTogether = 0.002 // standing heights by which all points of a draft are off in one direction
	draftedPixels   = 1.2   // px, at least

	surelyStill = 2 // standard deviations before the first movement nothing moves
)

// firstMovement is when the first of the landmarks that lead a start leaves the
// place where it rested.
func (e *Evaluation) firstMovement() (foundAt, bool) {
	tall := e.StandingHeight()
	if tall == 0 || !e.usable() {
		return foundAt{}, false
	}
	drafted, pictures := e.feetDrafted(), e.shown()
	var begins []foundMoment
	for _, part := range []string{"hand", "wrist", "shoulder", "hip", "ear"} {
		for _, s := range []body.Side{body.Left, body.Right} {
			p := e.Movement.Paths[string(s)+"_"+part]
			if p == nil || p.Cutoff == 0 {
				continue
			}
			from, f, ok := stirs(p, tall, e.Rate)
			if !ok {
				continue
			}
			look := kinematics.Search{Rate: e.Rate, Height: tall, Sigma: math.Max(p.Noise, 0.2)}
			if errs, ok := kinematics.ErrorsOf(p, [][2]int{{from, f}}, e.Rate, r2.Vec{}); ok {
				look.Errors = errs
			}
			at, sd, ok := look.Onset([]*kinematics.Path{p}, f, onset)
			if !ok {
				continue
			}
			if drafted && pictures >= manyPictures {
				// So much later has it gone as far as all points may be off together, when it began
				// evenly: the way grows with the square of the time.
				sd = math.Max(sd, math.Max(0, float64(f)-at)*math.Sqrt(math.Max(draftedTogether, draftedPixels/tall)/stirred))
			}
			begins = append(begins, foundMoment{at, sd})
		}
	}
	if len(begins) == 0 {
		return foundAt{}, false
	}
	// Some move later than others, and the first of many that scatter is too early: it is the
	// one that a fifth of them precede, and how far its neighbours lie apart is its doubt.
	sort.Slice(begins, func(i, j int) bool { return begins[i].at < begins[j].at })
	k := len(begins) / 5
	first := begins[k]
	sd := math.Max(first.sd, (begins[min(len(begins)-1, k+1)].at-begins[max(0, k-1)].at)/2)
	if drafted && pictures < fewPictures {
		sd = math.Max(sd, onsetPictures*e.Rate/pictures)
	}
	return e.moment(int(math.Ceil(first.at)), sd), true
}

// foundMoment is a moment in frames with fractions, and its standard deviation.
type foundMoment struct{ at, sd float64 }

// stirs is the first frame in which a path has left the place where it rested for good, and
// from when on it rested; looked for backwards from where it is surely on its way, so that
// what wanders and comes back is no start.
func stirs(p *kinematics.Path, tall, rate float64) (from, frame int, ok bool) {
	still, long := int(rest*rate), int(longRest*rate)
	gone := -1
	var c r2.Vec
	for i := still; i < len(p.At) && gone < 0; i++ {
		// The place of rest: the middle of the stretch before.
		if q, ok := meanOfPath(p, max(0, i-long), i-still/2); ok && !math.IsNaN(p.At[i].X) && r2.Norm(r2.Sub(p.At[i], q)) > started*tall {
			gone, c = i, q
		}
	}
	if gone < 0 {
		return 0, 0, false
	}
	for round := 0; round < 2; round++ {
		first := max(0, gone-long-still)
		var off, n float64
		for i := first; i < gone-still; i++ {
			if !math.IsNaN(p.At[i].X) {
				off, n = off+r2.Norm2(r2.Sub(p.At[i], c)), n+1
			}
		}
		if n < float64(still)/3 {
			return 0, 0, false
		}
		far := math.Max(stirred*tall, wandering*math.Sqrt(off/n))
		last := gone
		for last > first && (math.IsNaN(p.At[last].X) || r2.Norm(r2.Sub(p.At[last], c)) > far) {
			last--
		}
		if far > started*tall || last == first {
			return 0, 0, false // it never rested
		}
		if q, ok := meanOfPath(p, first, last-still/3); ok {
			c = q
		}
		from, frame = p.From+first, p.From+last+1
	}
	return from, frame, true
}

// meanOfPath is the middle of a path's places from a to b, b excluded.
func meanOfPath(p *kinematics.Path, a, b int) (c r2.Vec, ok bool) {
	var n float64
	for i := a; i < b && i < len(p.At); i++ {
		if !math.IsNaN(p.At[i].X) {
			c, n = r2.Add(c, p.At[i]), n+1
		}
	}
	return r2.Scale(1/math.Max(1, n), c), n > 0
}

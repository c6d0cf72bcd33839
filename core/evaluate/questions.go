package evaluate

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
)

// What the tool asks: of all that it is not sure of, what would change most of what it
// says. A coach answers a handful, and not a pile.

// mostQuestions is how many are asked at a time.
const mostQuestions = 10

// A moment that is so sure is not asked for; a joint that is so sure neither. Worths of an
// answer, by what it may change. Assumed.
const (
	sureMoment = 0.95
	sureJoint  = 0.5
	worthNone  = 1.0 // a checkpoint that says nothing may say something
	worthOpen  = 0.7 // one that cannot decide may decide
	worthSaid  = 0.4 // one that has decided may be mistaken
	leastWorth = 0.1
	sought     = 0.8 // share of it, when the coach has to look for the frame himself
	optional   = 0.3 // share of it, of a position without which the breakdown stands
)

// ask sets the questions of the report.
func (e *Evaluation) ask() {
	e.guessRelease()
	var all []report.Question
	if q, ok := e.askAthlete(); ok {
		all = append(all, q)
	}
	if q, ok := e.askCircle(); ok {
		all = append(all, q)
	}
	if q, ok := e.askSides(); ok {
		all = append(all, q)
	}
	for _, p := range e.Model.Positions {
		if q, ok := e.askMoment(p); ok {
			all = append(all, q)
		}
		if q, ok := e.askMissing(p); ok {
			all = append(all, q)
		}
		all = append(all, e.askJoints(p)...)
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].Worth > all[j].Worth })
	e.report.Questions = append([]report.Question{}, all[:min(len(all), mostQuestions)]...)
}

// guessSD is how far the fastest moment of the hand may be from the release, s. Assumed.
const guessSD = 0.05

// guessRelease takes the fastest moment of the throwing hand for a release that nobody has
// seen: good enough to ask about, never to read from.
func (e *Evaluation) guessRelease() {
	i := slices.IndexFunc(e.Model.Positions, func(p model.Position) bool { return p.Find != nil && p.Find.Kind == "release" })
	if i < 0 {
		return
	}
	id := e.Model.Positions[i].ID
	_, mine := e.Input.Flags[id]
	if _, found := e.found[id]; mine || found {
		return
	}
	best, most := -1, 0.0
	path := e.Movement.Paths[e.Roles.Resolve("throwing_wrist")[0]]
	for f := range e.Clock.Len() {
		if v, ok := path.Velocity(f); ok && r2.Norm(v) > most {
			best, most = f, r2.Norm(v)
		}
	}
	if best >= 0 {
		e.withdrawn[id] = foundAt{best, 0, guessSD * e.Rate}
	}
}

// Who stands about, instead of doing what the clip is of: hips and feet that go less far than
// this over the whole clip, standing heights, of one who was followed so long, s. Assumed.
const (
	standsHips = 0.5
	standsFeet = 0.2
	longEnough = 0.5
)

// askAthlete asks who is meant when the one who was drafted only stands about.
func (e *Evaluation) askAthlete() (q report.Question, ok bool) {
	tall := e.StandingHeight()
	span := func(x, y string) (wide float64, n int) {
		a, b := r2.Vec{X: math.Inf(1), Y: math.Inf(1)}, r2.Vec{X: math.Inf(-1), Y: math.Inf(-1)}
		for f := range e.Clock.Len() {
			p, ok := e.Movement.Where(x, f)
			if y != "" {
				other, there := e.Movement.Where(y, f)
				p, ok = r2.Sub(p, other), ok && there
			}
			if ok {
				n++
				a, b = r2.Vec{X: min(a.X, p.X), Y: min(a.Y, p.Y)}, r2.Vec{X: max(b.X, p.X), Y: max(b.Y, p.Y)}
			}
		}
		return max(b.X-a.X, b.Y-a.Y), n
	}
	hips, n := span("mid_hip", "")
	feet, m := span("left_ankle", "right_ankle")
	if tall == 0 || min(n, m) < int(longEnough*e.Rate) || hips > standsHips*tall || feet > standsFeet*tall {
		return q, false
	}
	q = report.Question{ID: "athlete", Kind: "athlete", Frame: e.Clock.Len() / 2, Text: "Is this the athlete?", Hint: "The one who was followed only stands there. Click the one who is meant, and the clip is drafted anew.", Options: []report.Option{}, For: []string{}}
	q.Look = e.around(q.Frame, []string{"left_ear", "right_ear", "left_ankle", "right_ankle"}, 0.3, 1)
	for _, cp := range e.Model.Checkpoints {
		if kinds[cp.Measure.Kind].scope != answered && e.inView(cp) == nil {
			q.For = append(q.For, cp.ID)
		}
	}
	q.Worth = e.worth(q.For)
	return q, q.Worth >= leastWorth
}

// askCircle asks for the circle of a throw while nobody has marked it: without it there are
// no directions.
func (e *Evaluation) askCircle() (q report.Question, ok bool) {
	if !e.unmarked() {
		return q, false
	}
	q = report.Question{ID: "circle", Kind: "circle", Text: "Where is the circle? Directions are read from its rim.", Look: report.Box{Width: float64(e.Input.Clip.Width), Height: float64(e.Input.Clip.Height)}, Options: []report.Option{}, For: []string{}}
	for _, cp := range e.Model.Checkpoints {
		if k := kinds[cp.Measure.Kind]; (k.directions || k.scope == depth && !k.flight) && e.inView(cp) == nil {
			q.For = append(q.For, cp.ID)
		}
	}
	q.Worth = e.worth(q.For)
	return q, q.Worth >= leastWorth
}

// How often all legs of a clip are named wrongly: seen from the side, from behind or in front,
// from between; and when the athlete seems to jump from the other leg than on the card.
// Counted on the half of the hard set that is there to build on, the last assumed.
const (
	swapsSide    = 0.03
	swapsBehind  = 0.06
	swapsBetween = 0.3
	swapsJumped  = 0.5
	legsApart    = 0.2 // standing heights, of ankles that can be told from each other
	legsSure     = 0.4
)

// askSides asks which leg is the left one, in a frame that shows them well apart, until a hand
// has placed a leg. One answer names the legs of the whole clip.
func (e *Evaluation) askSides() (q report.Question, ok bool) {
	parts := []string{"left_ankle", "right_ankle", "left_knee", "right_knee"}
	for _, id := range parts {
		t := e.Input.Points[id]
		if t == nil {
			return q, false
		}
		for f := t.From; f < t.End(); f++ {
			if t.SourceAt(f) == track.Hand {
				return q, false
			}
		}
	}
	tall, best := e.StandingHeight(), 0.0
	for f := range e.Clock.Len() {
		sure := 1.0
		for _, id := range parts {
			p, ok := e.Input.Points.At(id, f)
			if !ok {
				sure = 0
				break
			}
			sure = min(sure, p.Confidence)
		}
		if sure < legsSure {
			continue
		}
		l, _ := e.Input.Points.At(parts[0], f)
		r, _ := e.Input.Points.At(parts[1], f)
		if apart := math.Hypot(l.X-r.X, l.Y-r.Y); apart >= legsApart*tall && apart*sure > best {
			best = apart * sure
			q = report.Question{ID: "sides", Kind: "sides", Frame: f, Text: "Which is the left leg?", Options: []report.Option{
				{Label: "this one; names stay", Frame: f, X: l.X, Y: l.Y},
				{Label: "this one; names change", Frame: f, X: r.X, Y: r.Y, Exchanged: true},
			}}
		}
	}
	if best == 0 {
		return q, false
	}
	for _, cp := range e.Model.Checkpoints {
		if kinds[cp.Measure.Kind].scope != answered && e.inView(cp) == nil && e.ofLegs(cp) {
			q.For = append(q.For, cp.ID)
		}
	}
	swaps := map[string]float64{"side": swapsSide, "oblique": swapsBetween}[e.Input.Clip.View]
	if swaps == 0 {
		swaps = swapsBehind
	}
	if e.otherLeg() {
		swaps = swapsJumped
	}
	q.Worth = swaps * e.worth(q.For)
	q.Look = e.around(q.Frame, []string{"left_hip", "right_hip", "left_ankle", "right_ankle", "left_knee", "right_knee"}, 0.12, 0.5)
	return q, q.Worth >= leastWorth
}

// ofLegs tells whether a measure hangs on which leg is which: by its points, or by positions
// that are moments of a foot.
func (e *Evaluation) ofLegs(cp model.Checkpoint) bool {
	for _, role := range cp.Measure.Points {
		if _, part, _ := strings.Cut(role, "_"); slices.Contains([]string{"hip", "knee", "ankle", "heel", "toe"}, part) && !strings.HasPrefix(role, "mid_") {
			return true
		}
	}
	return slices.ContainsFunc(e.Model.Positions, func(p model.Position) bool {
		return p.Find != nil && p.Find.Foot != "" && (p.ID == cp.Position || slices.Contains(cp.Measure.Positions, p.ID))
	})
}

// otherLeg tells whether the contact before the free fall of a jump is one of the other leg
// than that of the athlete's card.
func (e *Evaluation) otherLeg() bool {
	leg := e.Input.Athlete.TakeoffLeg
	i, ok := e.takeOff()
	return ok && leg != "" && sport.Of(e.Model.ID).Side == sport.TakeoffLeg && e.contacts[i].Foot != leg
}

// unmarked tells whether the circle of a throw is not marked yet.
func (e *Evaluation) unmarked() bool {
	return sport.Of(e.Model.ID).Circle > 0 && (e.Input.Ground == nil || len(e.Input.Ground.Points) == 0)
}

// worth is what the answer to a question on some checkpoints may change.
func (e *Evaluation) worth(list []string) (sum float64) {
	for _, id := range list {
		switch r := e.readings[id]; {
		case r.Source == "coach":
		case r.Value == nil:
			sum += worthNone
		case r.Verdict == uncertainty.Open:
			sum += worthOpen
		default:
			sum += worthSaid
		}
	}
	return sum
}

// uses lists the checkpoints that hang on a position, in views from which they can be read.
func (e *Evaluation) uses(p model.Position) (list []string) {
	names := func(id string) bool {
		if id == p.ID || p.Group != "" && slices.Contains([]string{p.Group, p.Group + "*", p.Group + "#", p.Group + "+1"}, id) {
			return true
		}
		other, _ := e.Model.Position(id)
		return p.Find != nil && p.Find.Kind == "release" && other.Find != nil && strings.HasPrefix(other.Find.Kind, "step-") // counted from it
	}
	for _, cp := range e.Model.Checkpoints {
		if kinds[cp.Measure.Kind].scope == answered || e.inView(cp) != nil || !e.followed(cp) {
			continue
		}
		if names(cp.Position) || slices.ContainsFunc(cp.Measure.Positions, names) {
			list = append(list, cp.ID)
		}
	}
	return list
}

// followed tells whether what a measure is read from is worked with in this clip at all: its
// joints, and the implement where it is its flight that is read.
func (e *Evaluation) followed(cp model.Checkpoint) bool {
	k := kinds[cp.Measure.Kind]
	if k.flight && !slices.ContainsFunc(body.Things, func(id string) bool { return e.Input.Points[id] != nil }) {
		return false
	}
	if k.directions {
		return true
	}
	for _, role := range cp.Measure.Points {
		for _, id := range e.Roles.Resolve(role) {
			if e.unworked(id) {
				return false
			}
		}
	}
	return true
}

// unworked tells whether a point is a joint that nobody works with in this clip.
func (e *Evaluation) unworked(id string) bool {
	return body.Known(id) && !body.IsThing(id) && e.Input.Points[id] == nil
}

// askMoment asks when a position is, where the tool has a guess and is not sure.
func (e *Evaluation) askMoment(p model.Position) (q report.Question, ok bool) {
	if _, mine := e.Input.Flags[p.ID]; mine {
		return q, false
	}
	f, found := e.found[p.ID]
	if !found {
		if f, found = e.withdrawn[p.ID]; !found {
			return q, false
		}
	}
	unsure := 1 - f.sure
	if _, out := e.withdrawn[p.ID]; out {
		unsure = 1
	}
	q = report.Question{ID: "moment:" + p.ID, Kind: "moment", Position: p.ID, Frame: f.frame, For: e.uses(p)}
	if q.Worth = unsure * e.worth(q.For); f.sure >= sureMoment || q.Worth < leastWorth {
		return q, false
	}
	q.Look = e.around(f.frame, momentParts, 0.12, 0.5)
	q.Text = fmt.Sprintf("Which frame shows “%s”?", p.Name)
	for _, k := range e.about(f) {
		q.Options = append(q.Options, report.Option{Label: fmt.Sprintf("frame %d", k), Frame: k})
	}
	return q, true
}

// askMissing asks for a position of which the tool has no guess and without which something
// is not read. The frame is the middle of where it can be, between its neighbours; likely
// answers are the moments there at which a foot comes down or leaves, as the position is one.
func (e *Evaluation) askMissing(p model.Position) (q report.Question, ok bool) {
	_, withdrawn := e.withdrawn[p.ID]
	if _, flagged := e.Input.Flags[p.ID]; flagged || withdrawn {
		return q, false
	}
	if _, found := e.found[p.ID]; found || p.Nth > e.repeated()+1 {
		return q, false
	}
	if p.Find != nil && (p.Find.Kind == "ball-at" || p.Find.Kind == "wind") && e.unmarked() {
		return q, false // it follows from the circle, which is asked for
	}
	q = report.Question{ID: "moment:" + p.ID, Kind: "moment", Position: p.ID, Options: []report.Option{}, For: []string{}}
	for _, id := range e.uses(p) {
		if r := e.readings[id]; r.Value == nil && r.Source != "coach" {
			q.For = append(q.For, id)
		}
	}
	q.Worth = sought * e.worth(q.For)
	if p.Optional {
		q.Worth *= optional
	}
	if q.Worth < leastWorth {
		return q, false
	}
	lo, hi := e.room(p)
	if hi < lo {
		return q, false // the flags about it leave no room: that is told as a problem
	}
	q.Frame = (lo + hi) / 2
	q.Text, q.Hint = fmt.Sprintf("Where is “%s”?", p.Name), p.Hint
	var likely []int
	if e.stills {
		likely = slices.DeleteFunc(e.Input.Clip.Pictures.Frames(), func(f int) bool { return f < lo || f > hi })
	}
	for _, c := range e.contacts {
		f, ok := c.From, !c.Before
		switch kindOf(p) {
		case lifts:
			f, ok = c.To, !c.After
		case neither:
			continue
		}
		if ok && f >= lo && f <= hi && !slices.Contains(likely, f) {
			likely = append(likely, f)
		}
	}
	sort.Slice(likely, func(i, j int) bool {
		return max(likely[i]-q.Frame, q.Frame-likely[i]) < max(likely[j]-q.Frame, q.Frame-likely[j])
	})
	likely = likely[:min(len(likely), mostOptions)]
	slices.Sort(likely)
	for _, f := range likely {
		q.Options = append(q.Options, report.Option{Label: fmt.Sprintf("frame %d", f), Frame: f})
	}
	q.Look = e.around(q.Frame, momentParts, 0.12, 0.5)
	if len(likely) > 0 {
		q.Look = e.around(likely[0], momentParts, 0.12, 0.5)
	}
	return q, true
}

// mostOptions is how many likely answers a card has room for.
const mostOptions = 3

// lands, lifts and neither are what a foot does at a position.
const (
	neither = iota
	lands
	lifts
)

// kindOf tells what a foot does at a position.
func kindOf(p model.Position) int {
	if p.Find == nil {
		return neither
	}
	switch p.Find.Kind {
	case "touchdown", "foot-on", "jump-on", "before-on", "jump-end", "step-on", "step-after":
		return lands
	case "toe-off", "foot-off", "jump-off", "before-off", "step-off", "leaves":
		return lifts
	}
	return neither
}

// firstShown tells whether a position is the first picture that shows what has happened, and
// not the picture that is nearest to a moment.
func firstShown(p model.Position) bool {
	return kindOf(p) != neither || p.Find != nil && slices.Contains([]string{"ball-at", "wind", "release"}, p.Find.Kind)
}

// repeated is the last repetition of which something is flagged.
func (e *Evaluation) repeated() (last int) {
	for _, p := range e.Model.Positions {
		if _, ok := e.Flag(p.ID); ok {
			last = max(last, p.Nth)
		}
	}
	return last
}

// room is where a position can be: between those about it in the order of the model.
func (e *Evaluation) room(p model.Position) (lo, hi int) {
	lo, hi = 0, e.Clock.Len()-1
	before := true
	// A repetition does not begin where the one before it does.
	between := func(other model.Position) int {
		if other.Group != "" && other.Group == p.Group {
			return 1
		}
		return 0
	}
	for _, other := range e.Model.Positions {
		if other.ID == p.ID {
			before = false
			continue
		}
		f, ok := e.Flag(other.ID)
		switch {
		case !ok || other.Optional || p.Optional:
		case before:
			lo = max(lo, f+between(other))
		default:
			hi = min(hi, f-between(other))
		}
	}
	return lo, hi
}

// about is a moment's frame and those a standard deviation before and after it, of frames
// with a picture of their own.
func (e *Evaluation) about(f foundAt) (list []int) {
	own := e.Input.Clip.Pictures.Frames()
	at := func(i int) int { return i }
	middle, apart, n := f.frame, 1.0, e.Clock.Len()
	if own != nil {
		middle, n = max(0, sort.SearchInts(own, f.frame+1)-1), len(own)
		apart = e.Rate / e.shown()
		at = func(i int) int { return own[i] }
	}
	d := max(1, int(math.Round(f.sd/apart)))
	for _, i := range []int{middle - d, middle, middle + d} {
		if i >= 0 && i < n {
			list = append(list, at(i))
		}
	}
	return list
}

// momentParts are what shows when a foot lands or leaves.
var momentParts = []string{"left_knee", "right_knee", "left_ankle", "right_ankle", "left_toe", "right_toe", "left_heel", "right_heel"}

// around is the part of the picture about some landmarks in a frame, with a margin and of a
// least size in standing heights; all of it where none is known.
func (e *Evaluation) around(frame int, ids []string, margin, least float64) report.Box {
	w, h := float64(e.Input.Clip.Width), float64(e.Input.Clip.Height)
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, id := range ids {
		if p, ok := e.Input.Points.At(id, frame); ok {
			x0, y0, x1, y1 = min(x0, p.X), min(y0, p.Y), max(x1, p.X), max(y1, p.Y)
		}
	}
	if x1 < x0 {
		return report.Box{Width: w, Height: h}
	}
	tall := e.StandingHeight()
	if tall == 0 {
		tall = h / 2
	}
	side := min(max(x1-x0, y1-y0, least*tall)+2*margin*tall, w, h)
	return report.Box{X: min(max(0, (x0+x1-side)/2), w-side), Y: min(max(0, (y0+y1-side)/2), h-side), Width: side, Height: side}
}

// askJoints asks for the points at a position that the tool is not sure of: as they are
// drawn, or where the other side's is; and for those that are missing.
func (e *Evaluation) askJoints(p model.Position) (list []report.Question) {
	frame, ok := e.Flag(p.ID)
	if !ok {
		return nil
	}
	roles := e.rolesAt(p)
	uses := map[string][]string{}
	for _, cp := range e.Model.Checkpoints {
		if cp.Position != p.ID && (p.Group == "" || cp.Position != p.Group) || e.inView(cp) != nil || directed(cp.Measure) {
			continue
		}
		for _, role := range cp.Measure.Points {
			for _, id := range roles.Resolve(role) {
				if body.Known(id) && !slices.Contains(uses[id], cp.ID) {
					uses[id] = append(uses[id], cp.ID)
				}
			}
		}
	}
	ids := make([]string, 0, len(uses))
	for id := range uses {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	for _, id := range ids {
		at, there := e.Input.Points.At(id, frame)
		if !there {
			if q, ok := e.askPoint(p, id, frame, uses[id]); ok {
				list = append(list, q)
			}
			continue
		}
		if !body.Known(id) || at.Source == track.Hand.String() || at.Confidence >= sureJoint {
			continue
		}
		q := report.Question{ID: fmt.Sprintf("joint:%s:%d", id, frame), Kind: "joint", Position: p.ID, Landmark: id, Frame: frame, For: uses[id]}
		if q.Worth = (sureJoint - at.Confidence) / sureJoint * e.worth(q.For); q.Worth < leastWorth {
			continue
		}
		q.Look = e.around(frame, []string{id, body.Twin(id)}, 0.16, 0.4)
		q.Text = fmt.Sprintf("Where is the %s at “%s”?", body.Label(id), p.Name)
		q.Options = append(q.Options, report.Option{Label: "where it is drawn", Frame: frame, X: at.X, Y: at.Y})
		if twin, ok := e.Input.Points.At(body.Twin(id), frame); ok && r2.Norm(r2.Vec{X: twin.X - at.X, Y: twin.Y - at.Y}) > 0.03*math.Max(e.StandingHeight(), 1) {
			q.Options = append(q.Options, report.Option{Label: "where the other side’s is", Frame: frame, X: twin.X, Y: twin.Y})
		}
		list = append(list, q)
	}
	return list
}

// label is what a point is called in this event.
func (e *Evaluation) label(id string) string {
	if im := sport.Of(e.Model.ID).Implement; id == "ball" && im != nil {
		return im.Kind
	}
	return body.Label(id)
}

// askPoint asks for a point that is missing at a position and keeps something from being read.
func (e *Evaluation) askPoint(p model.Position, id string, frame int, uses []string) (q report.Question, ok bool) {
	if _, known := e.Movement.Where(id, frame); known || e.unworked(id) {
		return q, false // known are those between points that are placed
	}
	q = report.Question{ID: fmt.Sprintf("joint:%s:%d", id, frame), Kind: "joint", Position: p.ID, Landmark: id, Frame: frame, For: []string{}, Options: []report.Option{}}
	for _, cp := range uses {
		if e.readings[cp].Value == nil {
			q.For = append(q.For, cp)
		}
	}
	q.Worth = sought * e.worth(q.For)
	q.Look = report.Box{Width: float64(e.Input.Clip.Width), Height: float64(e.Input.Clip.Height)}
	q.Text = fmt.Sprintf("Where is the %s at “%s”?", e.label(id), p.Name)
	return q, q.Worth >= leastWorth
}

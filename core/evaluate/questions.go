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
)

// ask sets the questions of the report.
func (e *Evaluation) ask() {
	e.guessRelease()
	var all []report.Question
	if q, ok := e.askCircle(); ok {
		all = append(all, q)
	}
	for _, p := range e.Model.Positions {
		if q, ok := e.askMoment(p); ok {
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

// askCircle asks for the circle of a throw while nobody has marked it: without it there are
// no directions.
func (e *Evaluation) askCircle() (q report.Question, ok bool) {
	if sport.Of(e.Model.ID).Circle == 0 || e.Input.Ground != nil && len(e.Input.Ground.Points) > 0 {
		return q, false
	}
	q = report.Question{ID: "circle", Kind: "circle", Text: "Where is the circle? Directions are read from its rim.", Look: report.Box{Width: float64(e.Input.Clip.Width), Height: float64(e.Input.Clip.Height)}, Options: []report.Option{}, For: []string{}}
	for _, cp := range e.Model.Checkpoints {
		if k := kinds[cp.Measure.Kind]; (k.directions || k.scope == depth && !strings.HasPrefix(k.name, "release")) && slices.Contains(e.views(cp), e.Input.Clip.View) {
			q.For = append(q.For, cp.ID)
		}
	}
	q.Worth = e.worth(q.For)
	return q, q.Worth >= leastWorth
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
		if id == p.ID || p.Group != "" && (id == p.Group || id == p.Group+"*") {
			return true
		}
		other, _ := e.Model.Position(id)
		return p.Find != nil && p.Find.Kind == "release" && other.Find != nil && strings.HasPrefix(other.Find.Kind, "step-") // counted from it
	}
	for _, cp := range e.Model.Checkpoints {
		if cp.Measure.Kind == "" || !slices.Contains(e.views(cp), e.Input.Clip.View) {
			continue
		}
		if names(cp.Position) || slices.ContainsFunc(cp.Measure.Positions, names) {
			list = append(list, cp.ID)
		}
	}
	return list
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

// about is a moment's frame and those a standard deviation before and after it, of frames
// with a picture of their own.
func (e *Evaluation) about(f foundAt) (list []int) {
	own := e.Input.Clip.Pictures.Frames()
	at := func(i int) int { return i }
	middle, apart, n := f.frame, 1.0, e.Clock.Len()
	if own != nil {
		middle, n = max(0, sort.SearchInts(own, f.frame+1)-1), len(own)
		apart = e.Rate / e.Input.Clip.Pictures.Rate(e.Rate)
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

// askJoints asks for the joints at a position that the tool is not sure of: as they are
// drawn, or where the other side's is.
func (e *Evaluation) askJoints(p model.Position) (list []report.Question) {
	frame, ok := e.Flag(p.ID)
	if !ok {
		return nil
	}
	roles := e.rolesAt(p)
	uses := map[string][]string{}
	for _, cp := range e.Model.Checkpoints {
		if cp.Position != p.ID && (p.Group == "" || cp.Position != p.Group) || !slices.Contains(e.views(cp), e.Input.Clip.View) || directed(cp.Measure) {
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
		if !there || at.Source == track.Hand.String() || at.Confidence >= sureJoint {
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

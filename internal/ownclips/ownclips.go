// Package ownclips makes exercises for the eye of a team's own clips: of attempts that were worked out, what
// is measured plainly enough to be held against.
package ownclips

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"github.com/google/uuid"
	xdraw "golang.org/x/image/draw"
	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/eye"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
	"neokinema/internal/drills"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/simcam/lesson"
)

// Service makes them.
type Service struct {
	store  *store.Store
	bench  *workspace.Service
	intake *intake.Service
}

// New makes the service.
func New(s *store.Store, b *workspace.Service, i *intake.Service) *Service {
	return &Service{s, b, i}
}

// Prefix begins the ids of these clips: the attempt's id and what is asked about follow.
const Prefix = "own-"

// looked is how many attempts are opened for one set.
const looked = 4

// Some are exercises from attempts by chance, at most n: those of an athlete's account from the own ones.
func (s *Service) Some(ctx context.Context, u store.User, events []string, r *rand.Rand, n int) ([]string, error) {
	list, err := s.store.WorkedOut(ctx, u.TeamID, u.AthleteID, events)
	if err != nil {
		return nil, err
	}
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	var out []string
	for _, w := range list[:min(looked, len(list))] {
		if len(out) == n {
			break
		}
		sh, err := s.bench.Open(ctx, u.TeamID, w.ID)
		if err != nil {
			return nil, err
		}
		all := exercises(sh)
		if len(all) > 0 {
			out = append(out, all[r.IntN(len(all))])
		}
	}
	return out, nil
}

// Find is the clip of an exercise, with whose it is.
func (s *Service) Find(ctx context.Context, u store.User, id string) (w store.Worked, c lesson.Clip, err error) {
	_, w, c, _, err = s.find(ctx, u, id)
	return w, c, err
}

func (s *Service) find(ctx context.Context, u store.User, id string) (sh workspace.Workspace, w store.Worked, c lesson.Clip, cut stretch, err error) {
	gone := problem.New(problem.NotFound, "This exercise is not there (any more). Begin a new set.")
	attempt, about, ok := parse(id)
	if !ok {
		return sh, w, c, cut, gone
	}
	if w, err = s.store.WorkedOne(ctx, u.TeamID, u.AthleteID, attempt); err != nil {
		return sh, w, c, cut, gone
	}
	if sh, err = s.bench.Open(ctx, u.TeamID, attempt); err != nil {
		return sh, w, c, cut, err
	}
	for _, x := range candidates(sh) {
		if x.about == about {
			c, cut, ok := x.clip(sh)
			if !ok {
				break
			}
			return sh, w, c, cut, nil
		}
	}
	return sh, w, c, cut, gone
}

// parse reads what [Prefix] begins.
func parse(id string) (attempt uuid.UUID, about string, ok bool) {
	rest, ok := strings.CutPrefix(id, Prefix)
	const long = 36
	if !ok || len(rest) < long+2 || rest[long] != '-' {
		return attempt, "", false
	}
	attempt, err := uuid.Parse(rest[:long])
	return attempt, rest[long+1:], err == nil
}

func exercises(sh workspace.Workspace) (out []string) {
	for _, x := range candidates(sh) {
		c, _, ok := x.clip(sh)
		if !ok {
			continue
		}
		id := string(x.kind) + "/" + c.ID
		if x.kind == eye.Moment {
			if !slices.Contains(c.Asked(), x.position) {
				continue
			}
			id += "/" + x.position
		}
		out = append(out, id)
	}
	return out
}

// candidate is something to ask about an attempt.
type candidate struct {
	kind     eye.Kind
	about    string
	frame    int
	fault    model.Fault
	check    model.Checkpoint
	there    bool
	value    uncertainty.Estimate
	position string
	lines    [3][2]float64
	joint    string
	angle    float64
	report   report.Report
	main     store.Clip
}

// steady is the doubt up to which an angle may be held against an estimate, degrees: well below the ten that
// count as right.
const steady = 6.0

// candidates are all that a carefully worked out attempt lets ask; nothing of what hangs on moments or
// joints that nobody has looked at, or lies within its doubt of the edge.
func candidates(sh workspace.Workspace) (out []candidate) {
	main, ok := sh.Main()
	if !ok || main.CaptureRate <= 0 {
		return nil
	}
	rep := sh.Report()
	at := map[string]report.Position{}
	for _, p := range rep.Positions {
		at[p.ID] = p
	}
	byHand := func(position string) bool { return at[position].Frame != nil && at[position].Source == "coach" }
	readings := map[string]report.Reading{}
	for _, r := range rep.Readings {
		if r.Value != nil && r.Source == "measure" && !r.Unsure && !r.Unchecked && r.Clip == "" && !r.Both && r.Evidence != nil {
			readings[r.ID] = r
		}
	}
	base := candidate{report: rep, main: main}
	for _, f := range sh.Model.Faults {
		r, ok := readings[f.Target]
		cp, okCP := sh.Model.Checkpoint(f.Target)
		if !ok || !okCP || !byHand(cp.Position) {
			continue
		}
		i := slices.IndexFunc(rep.Findings, func(x report.Finding) bool { return x.Fault == f.ID })
		there := i >= 0 && rep.Findings[i].Certainty == "certain" && sh.Work.Findings[f.ID] == "accepted"
		not := i < 0 && r.Verdict == uncertainty.Met
		if there || not {
			x := base
			x.kind, x.about, x.frame, x.fault, x.check, x.there, x.value = eye.There, "f."+f.ID, r.Evidence.Frame, f, cp, there, *r.Value
			out = append(out, x)
		}
	}
	for _, cp := range sh.Model.Checkpoints {
		r, ok := readings[cp.ID]
		if !ok || cp.Measure.Kind != "joint" || !byHand(cp.Position) || r.Value.Half95 > steady || len(r.Evidence.Lines) == 0 || len(r.Evidence.Lines[0].Points) != 3 {
			continue
		}
		l := r.Evidence.Lines[0]
		p := func(i int) r2.Vec { return r2.Vec{X: l.Points[i][0], Y: l.Points[i][1]} }
		x := base
		x.angle = angles.Included(p(0), p(1), p(2))
		if math.Abs(x.angle-r.Value.Value) > steady/2 {
			continue // it is not the angle in the picture
		}
		_, x.joint, _ = strings.Cut(l.Landmarks[1], "_")
		x.kind, x.about, x.frame, x.check, x.lines = eye.Angle, "a."+cp.ID, r.Evidence.Frame, cp, [3][2]float64(l.Points)
		out = append(out, x)
	}
	const fast = 50 // pictures a second from which a moment is one picture
	for _, p := range rep.Positions {
		if main.CaptureRate >= fast && byHand(p.ID) && shows(p.ID) {
			x := base
			x.kind, x.about, x.frame, x.position = eye.Moment, "m."+p.ID, *p.Frame, p.ID
			out = append(out, x)
		}
	}
	return out
}

// shows tells whether a single picture shows a position.
func shows(position string) bool {
	return lesson.Lands(position) || lesson.Leaves(position) || position == "release"
}

// stretch is what is shown of a clip: each so many frames, and which part of each picture, px.
type stretch struct {
	from, to, step int
	parts          []image.Rectangle
}

// Of the stretch: s before and after the moment.
const before, after = 0.5, 0.32

// clip is a candidate as the bank has clips.
func (x candidate) clip(sh workspace.Workspace) (lesson.Clip, stretch, bool) {
	rate := x.main.CaptureRate
	cut := stretch{step: max(1, int(math.Round(rate/lesson.Rate)))}
	cut.from, cut.to = max(0, x.frame-int(before*rate)), min(x.frame+int(after*rate), len(x.main.Stamps)-1)
	if x.kind == eye.Moment {
		// Between the moments beside it that look alike, so that it is plain which is meant.
		for _, p := range x.report.Positions {
			if p.Frame == nil || p.ID == x.position || lesson.Lands(p.ID) != lesson.Lands(x.position) || lesson.Leaves(p.ID) != lesson.Leaves(x.position) {
				continue
			}
			if n := *p.Frame; n < x.frame {
				cut.from = max(cut.from, n+cut.step)
			} else {
				cut.to = min(cut.to, n-cut.step)
			}
		}
	}
	cut.from += (x.frame - cut.from) % cut.step
	cut.to -= (cut.to - cut.from) % cut.step
	if x.frame < cut.from || x.frame > cut.to || cut.to-cut.from < 4*cut.step {
		return lesson.Clip{}, cut, false
	}
	cut.parts = parts(sh, x.main, cut)
	in := func(n int) int { return int(math.Round(float64(n-cut.from) / float64(cut.step))) }
	c := lesson.Clip{ID: Prefix + sh.Attempt.ID.String() + "-" + x.about, Sort: lesson.Sized, Event: sh.Attempt.Event, Variant: sh.Attempt.Variant, View: x.main.View,
		Fault: x.fault.ID, Frames: in(cut.to) + 1, At: in(x.frame), Moments: map[string]int{}, Joint: x.joint, Angle: x.angle, Marks: []lesson.Mark{}}
	for _, p := range x.report.Positions {
		if p.Frame != nil && *p.Frame >= cut.from && *p.Frame <= cut.to && shows(p.ID) {
			c.Moments[p.ID] = in(*p.Frame)
		}
	}
	seen := cut.parts[c.At]
	k := float64(lesson.Width) / float64(seen.Dx())
	for i, p := range x.lines {
		c.Lines[i] = [2]float64{k * (p[0] - float64(seen.Min.X)), k * (p[1] - float64(seen.Min.Y))}
	}
	switch x.kind {
	case eye.There:
		c.Size = -1
		if x.there {
			c.Size = 1
		}
		c.Sign = strings.ToLower(x.check.Name[:1]) + drills.Plain(x.check.Name[1:])
		if c.Watch = lesson.Watch(c.Event, c.Variant, c.Fault); c.Watch == "" {
			c.Watch = x.look(sh)
		}
		c.Value, c.Unit = plain(x.value.Value, x.check.Unit)
		edge, above, ok := edgeOf(x.check.Band, x.value.Value)
		if !ok {
			return c, cut, false
		}
		c.Edge, _ = plain(edge, x.check.Unit)
		c.Above = above
	default:
		c.Watch = x.look(sh)
	}
	return c, cut, true
}

// look is where and when to look, from the model: the question that a coach is asked, or the position.
func (x candidate) look(sh workspace.Workspace) string {
	if x.check.Question != "" {
		return drills.Plain(x.check.Question)
	}
	id := x.position
	if id == "" {
		id = x.check.Position
	}
	p, _ := sh.Model.Position(id)
	if x.check.Name == "" {
		return "Look at: " + p.Name + "."
	}
	return fmt.Sprintf("At “%s”, look at: %s.", p.Name, strings.ToLower(x.check.Name[:1])+drills.Plain(x.check.Name[1:]))
}

// plain is a value in the units that exercises write.
func plain(v float64, unit string) (float64, string) {
	switch unit {
	case "°":
		return v, "degrees"
	case "ms":
		return v / 1000, "s"
	case "%":
		return v / 100, "share"
	case "cm":
		return v / 100, "m"
	}
	return v, unit
}

// edgeOf is the edge of a band that is nearest to a value, and whether what lies above it is wrong.
func edgeOf(b uncertainty.Band, v float64) (edge float64, above, ok bool) {
	switch {
	case b.Lo == nil && b.Hi == nil:
		return 0, false, false
	case b.Lo == nil || b.Hi != nil && math.Abs(v-*b.Hi) < math.Abs(v-*b.Lo):
		return *b.Hi, true, true
	}
	return *b.Lo, false, true
}

// parts are where the athlete is in each picture of a stretch, in the shape of the clips of the bank: it goes
// along, evenly where nobody has placed her. The whole picture where nobody has at all.
func parts(sh workspace.Workspace, c store.Clip, cut stretch) []image.Rectangle {
	const shape, around = float64(lesson.Width) / lesson.Height, 1.7
	w, h := float64(c.Width), float64(c.Height)
	points := sh.Work.Clips[c.ID].Points
	var at []int
	var middle []r2.Vec
	tall := 0.0
	for n := cut.from; n <= cut.to; n++ {
		x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
		for _, id := range body.Landmarks() {
			if p, ok := points.At(id, n); ok {
				x0, y0, x1, y1 = min(x0, p.X), min(y0, p.Y), max(x1, p.X), max(y1, p.Y)
			}
		}
		if x1 > x0 && y1 > y0 {
			at, middle = append(at, n), append(middle, r2.Vec{X: (x0 + x1) / 2, Y: (y0 + y1) / 2})
			tall = max(tall, y1-y0, (x1-x0)/shape)
		}
	}
	if len(at) == 0 {
		at, middle, tall = []int{cut.from}, []r2.Vec{{X: w / 2, Y: h / 2}}, max(h, w/shape)/around
	}
	high := max(min(around*tall, h, w/shape), 60)
	wide := high * shape
	var out []image.Rectangle
	for n := cut.from; n <= cut.to; n += cut.step {
		k, _ := slices.BinarySearch(at, n)
		p := middle[min(k, len(at)-1)]
		if k > 0 && k < len(at) {
			u := float64(n-at[k-1]) / float64(at[k]-at[k-1])
			p = r2.Add(r2.Scale(1-u, middle[k-1]), r2.Scale(u, middle[k]))
		}
		left, top := min(max(p.X-wide/2, 0), max(0, w-wide)), min(max(p.Y-high/2, 0), max(0, h-high))
		out = append(out, image.Rect(int(left), int(top), int(left+wide), int(top+high)))
	}
	return steadied(out)
}

// steadied lets the part go along without trembling: the mean of some pictures about each.
func steadied(list []image.Rectangle) []image.Rectangle {
	const about = 4
	out := make([]image.Rectangle, len(list))
	for i, r := range list {
		var x, y, n int
		for _, o := range list[max(0, i-about):min(len(list), i+about+1)] {
			x, y, n = x+o.Min.X, y+o.Min.Y, n+1
		}
		out[i] = r.Sub(r.Min).Add(image.Pt(x/n, y/n))
	}
	return out
}

// quality is that of the JPEG.
const quality = 72

// Sheet draws the pictures of a clip beside and below each other.
func (s *Service) Sheet(ctx context.Context, u store.User, id string) ([]byte, error) {
	sh, _, c, cut, err := s.find(ctx, u, id)
	if err != nil {
		return nil, err
	}
	main, _ := sh.Main()
	rows := (c.Frames + lesson.Columns - 1) / lesson.Columns
	sheet := image.NewRGBA(image.Rect(0, 0, lesson.Columns*lesson.Width, rows*lesson.Height))
	err = s.intake.Colours(ctx, main, cut.from, cut.to, 1, func(p media.Picture) error {
		n := p.Frame - cut.from
		if n%cut.step != 0 {
			return nil
		}
		n /= cut.step
		src := image.NewRGBA(image.Rect(0, 0, p.Width, p.Height))
		for i := range p.Width * p.Height {
			src.Pix[4*i], src.Pix[4*i+1], src.Pix[4*i+2], src.Pix[4*i+3] = p.Pix[3*i], p.Pix[3*i+1], p.Pix[3*i+2], 255
		}
		k := float64(p.Width) / float64(main.Width)
		part := cut.parts[n]
		from := image.Rect(int(k*float64(part.Min.X)), int(k*float64(part.Min.Y)), int(k*float64(part.Max.X)), int(k*float64(part.Max.Y)))
		at := image.Pt(n%lesson.Columns*lesson.Width, n/lesson.Columns*lesson.Height)
		xdraw.ApproxBiLinear.Scale(sheet, image.Rectangle{at, at.Add(image.Pt(lesson.Width, lesson.Height))}, src, from, xdraw.Src, nil)
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("pictures of an exercise: %w", err)
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, sheet, &jpeg.Options{Quality: quality})
	return out.Bytes(), err
}

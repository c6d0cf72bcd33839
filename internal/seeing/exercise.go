package seeing

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"

	"neokinema/core/eye"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/internal/ownclips"
	"neokinema/internal/problem"
	"neokinema/models"
	"neokinema/simcam/lesson"
)

// Shown is a clip as a screen shows it: its pictures beside and below each other on one sheet.
type Shown struct {
	Clip    string `json:"clip"`
	Frames  int    `json:"frames"`
	Columns int    `json:"columns"`
	Width   int    `json:"width" doc:"px of one picture"`
	Height  int    `json:"height"`
	Rate    int    `json:"rate" doc:"pictures a second of the movement"`
}

func shown(c lesson.Clip) Shown {
	return Shown{c.ID, c.Frames, lesson.Columns, lesson.Width, lesson.Height, lesson.Rate}
}

// Choice is one of the answers that there are.
type Choice struct {
	ID   string `json:"id"`
	Says string `json:"says"`
}

// Exercise is a question about a clip or two. What is true of them is told with the judgement.
type Exercise struct {
	ID      string      `json:"id"`
	Kind    eye.Kind    `json:"kind" enum:"there,moment,angle,larger,cause,decidable"`
	Event   string      `json:"event"`
	Clips   []Shown     `json:"clips" doc:"one; two where they are held against each other"`
	Asks    string      `json:"asks"`
	About   string      `json:"about" doc:"fault, moment or joint"`
	Choices []Choice    `json:"choices" doc:"none where a frame or a number is asked for"`
	Frame   int         `json:"frame" doc:"to look at, where an angle is asked for; -1 otherwise"`
	Ring    *[2]float64 `json:"ring,omitempty" required:"false" doc:"px of the joint that is meant"`
	Own     bool        `json:"own" doc:"a clip of the team's own; what is true was measured in it"`
	fault   string
	view    string
	size    float64
}

// Judgement is what an answer was worth, and what teaches.
type Judgement struct {
	Correct bool          `json:"correct"`
	Off     float64       `json:"off" doc:"said minus true: degrees, frames; 0 of others"`
	Truth   string        `json:"truth"`
	Watch   string        `json:"watch" doc:"where and when to look"`
	At      int           `json:"at" doc:"frame of the moment; -1 where it is not in the clip"`
	Lines   [][2]float64  `json:"lines" doc:"px, the angle in the picture of the moment"`
	Twin    *Shown        `json:"twin,omitempty" required:"false" doc:"of the same athlete and camera without the fault; with it where it was not there"`
	With    bool          `json:"with" doc:"the twin has the fault"`
	Beside  []int         `json:"beside" doc:"the twin's frame in the same phase, by frame"`
	Marks   []lesson.Mark `json:"marks" doc:"at the moment, where the body differs most from its twin"`
	Others  []lesson.Mark `json:"others" doc:"the same landmarks of the twin"`
	Yes     bool          `json:"yes"`
	There   bool          `json:"there"`
	From    string        `json:"from" doc:"of a team's own clip: whose it is"`
	DoneOn  string        `json:"done_on" doc:"of a team's own clip: the day"`
}

// yesNo are the choices of a plain question.
var yesNo = []Choice{{"yes", "Yes"}, {"no", "No"}}

// faultName is a fault in words. Directions are named for nobody in particular.
func faultName(event, id string) (string, error) {
	m, err := models.Load(event)
	if err != nil {
		return "", err
	}
	f, ok := m.Fault(id)
	if !ok {
		return "", fmt.Errorf("%s has no fault %s", event, id)
	}
	return strings.ReplaceAll(f.Name, "{az 0}", "0°"), nil
}

func position(event, id string) (model.Position, bool) {
	m, err := models.Load(event)
	if err != nil {
		return model.Position{}, false
	}
	return m.Position(id)
}

// finder gives the clip of an exercise by its id.
type finder func(id string) (lesson.Clip, error)

// exercise reads an exercise off its id.
func exercise(id string, clip finder) (Exercise, []lesson.Clip, error) {
	parts := strings.Split(id, "/")
	bad := problem.New(problem.NotFound, "This exercise is not there (any more). Begin a new set.")
	if len(parts) < 2 {
		return Exercise{}, nil, bad
	}
	c, err := clip(parts[1])
	if err != nil {
		return Exercise{}, nil, err
	}
	name := ""
	if c.Fault != "" {
		if name, err = faultName(c.Event, c.Fault); err != nil {
			return Exercise{}, nil, err
		}
	}
	clips := []lesson.Clip{c}
	out := Exercise{ID: id, Kind: eye.Kind(parts[0]), Event: c.Event, About: name, Choices: []Choice{}, Frame: -1, Own: strings.HasPrefix(c.ID, ownclips.Prefix), fault: c.Fault, view: c.View, size: c.Size}
	switch {
	case out.Kind == eye.There && len(parts) == 2 && c.Sort == lesson.Sized && name != "":
		out.Asks, out.Choices = "Is it there?", yesNo
	case out.Kind == eye.Decidable && len(parts) == 2 && c.Sort != lesson.Two && name != "":
		out.Asks, out.Choices = "Can it be said from this clip, one way or the other?", yesNo
	case out.Kind == eye.Moment && len(parts) == 3 && slices.Contains(c.Asked(), parts[2]):
		p, ok := position(c.Event, parts[2])
		if !ok {
			return Exercise{}, nil, bad
		}
		asks := "Go to the first picture that shows it."
		if p.ID == "top" {
			asks, p.Name = "Go to the picture that shows it.", "The hips at their highest"
		}
		out.Asks, out.About, out.fault, out.size = asks, p.Name, parts[2], 0
	case out.Kind == eye.Angle && len(parts) == 2 && c.Sort == lesson.Sized && c.Joint != "":
		ring := c.Lines[1]
		out.Asks, out.About, out.Frame, out.Ring, out.fault, out.size = "How many degrees has it in this picture? 180 is straight.", c.Joint, c.At, &ring, c.Joint, 0
	case out.Kind == eye.Larger && len(parts) == 3 && c.Sort == lesson.Sized:
		d, err := clip(parts[2])
		if err != nil {
			return Exercise{}, nil, err
		}
		if d.Sort != lesson.Sized || d.Twin != c.Twin || d.ID == c.ID {
			return Exercise{}, nil, bad
		}
		clips = append(clips, d)
		out.Asks, out.Choices, out.size = "Which of the two shows it more?", []Choice{{"first", "The first"}, {"second", "The second"}}, math.Abs(c.Size-d.Size)
	case out.Kind == eye.Cause && len(parts) == 2 && c.Sort == lesson.Two && c.Size > 0:
		out.Asks, out.About = "Which comes first, and leads to the rest?", sport.Of(c.Event).Name
		for _, f := range []string{c.Fault, c.Second, c.Third} {
			says, err := faultName(c.Event, f)
			if err != nil {
				return Exercise{}, nil, err
			}
			out.Choices = append(out.Choices, Choice{f, says})
		}
		// In no order of the model's: the cause is never behind what follows from it there.
		order(id).Shuffle(len(out.Choices), func(i, j int) { out.Choices[i], out.Choices[j] = out.Choices[j], out.Choices[i] })
	default:
		return Exercise{}, nil, bad
	}
	for _, c := range clips {
		out.Clips = append(out.Clips, shown(c))
	}
	return out, clips, nil
}

// order is chance that is the same each time for an exercise.
func order(exercise string) *rand.Rand {
	h := fnv.New64a()
	_, _ = h.Write([]byte(exercise))
	return rand.New(rand.NewPCG(h.Sum64(), 3))
}

// Limits of what is taken for right: common practice, no source.
const (
	nearFrames  = 1
	nearHighest = 2 // nobody moves much about the highest point
	nearDegrees = 10.0
)

// Judge holds an answer against the truth.
func (b *Bank) Judge(id, said string) (Exercise, Judgement, error) { return b.judge(id, said, b.Clip) }

func (b *Bank) judge(id, said string, clip finder) (Exercise, Judgement, error) {
	x, clips, err := exercise(id, clip)
	if err != nil {
		return x, Judgement{}, err
	}
	c := clips[0]
	if len(clips) > 1 && clips[1].Size > c.Size {
		c = clips[1]
	}
	j := Judgement{Watch: c.Watch, At: c.At, Lines: [][2]float64{}, Beside: []int{}, Marks: []lesson.Mark{}, Others: []lesson.Mark{}}
	choice := func(truth string) error {
		if !slices.ContainsFunc(x.Choices, func(k Choice) bool { return k.ID == said }) {
			return problem.New(problem.Invalid, "%q is no answer to this.", said)
		}
		j.Correct, j.Yes, j.There = said == truth, said == "yes", truth == "yes"
		for _, k := range x.Choices {
			if k.ID == truth {
				j.Truth = k.Says
			}
		}
		return nil
	}
	number := func(truth, near float64, says string) error {
		v, err := strconv.ParseFloat(said, 64)
		if err != nil || math.IsNaN(v) || math.Abs(v) > 1000 {
			return problem.New(problem.Invalid, "A number is asked for; %q is none.", said)
		}
		j.Off, j.Truth = v-truth, says
		j.Correct = math.Abs(j.Off) <= near
		return nil
	}
	truth := "no"
	switch x.Kind {
	case eye.There:
		if c.Size > 0 {
			truth = "yes"
		}
		err = choice(truth)
		limit := "at least"
		if c.Above {
			limit = "at most"
		}
		j.Truth += fmt.Sprintf(": %s, %s; %s %s is right", c.Sign, amount(c.Value, c.Unit), limit, amount(c.Edge, c.Unit))
	case eye.Decidable:
		if c.Sort != lesson.Dark {
			truth = "yes"
		}
		err = choice(truth)
		j.Truth += ". " + c.Why
	case eye.Moment:
		j.At = c.Moments[x.fault]
		near := float64(nearFrames)
		if x.fault == "top" {
			near = nearHighest
		}
		err = number(float64(j.At), near, fmt.Sprintf("Picture %d", j.At+1))
	case eye.Angle:
		j.Lines = c.Lines[:]
		err = number(c.Angle, nearDegrees, fmt.Sprintf("%.0f°", c.Angle))
	case eye.Larger:
		if truth = "first"; c.ID == clips[1].ID && len(clips) > 1 {
			truth = "second"
		}
		err = choice(truth)
	case eye.Cause:
		err = choice(c.Fault)
	}
	if err != nil {
		return x, j, err
	}
	if c.Sort == lesson.Dark {
		j.At = -1
		return x, j, nil
	}
	if twin, err := b.other(c); err == nil && x.Kind != eye.Angle && x.Kind != eye.Moment && x.Kind != eye.Larger {
		s := shown(twin)
		j.Twin, j.With, j.Beside = &s, twin.Size > c.Size, beside(c, twin)
		j.Marks, j.Others = differ(c, twin)
	}
	return x, j, nil
}

// other is the clip that is shown beside one: the faultless twin, or of that the one with the most of the
// fault.
func (b *Bank) other(c lesson.Clip) (lesson.Clip, error) {
	if c.Twin == "" {
		return c, problem.Missing("clip")
	}
	if c.ID != c.Twin {
		return b.Clip(c.Twin)
	}
	out := c
	for _, d := range b.Clips() {
		if d.Twin == c.ID && d.Size > out.Size {
			out = d
		}
	}
	if out.ID == c.ID {
		return out, problem.Missing("clip")
	}
	return out, nil
}

// amount writes a value that was read.
func amount(v float64, unit string) string {
	switch unit {
	case "degrees":
		return fmt.Sprintf("%.0f°", v)
	case "share":
		return fmt.Sprintf("%.0f %%", 100*v)
	case "m":
		return fmt.Sprintf("%.0f cm", 100*v)
	case "s":
		return fmt.Sprintf("%.0f ms", 1000*v)
	}
	return fmt.Sprintf("%.2f %s", v, unit)
}

// beside is, for each frame of a clip, that of another which shows the same phase: between the moments
// that both have.
func beside(c, twin lesson.Clip) []int {
	type pair struct{ a, b int }
	list := []pair{{0, 0}, {c.Frames - 1, twin.Frames - 1}}
	if c.At > 0 && twin.At > 0 {
		list = append(list, pair{c.At, twin.At})
	}
	for id, a := range c.Moments {
		if b, ok := twin.Moments[id]; ok {
			list = append(list, pair{a, b})
		}
	}
	slices.SortFunc(list, func(x, y pair) int { return x.a - y.a })
	// Moments that have changed places tell no phase.
	kept := list[:1]
	for _, p := range list[1:] {
		if last := kept[len(kept)-1]; p.a > last.a && p.b > last.b {
			kept = append(kept, p)
		}
	}
	out := make([]int, c.Frames)
	for f := range out {
		k := 1
		for k < len(kept)-1 && kept[k].a < f {
			k++
		}
		if len(kept) < 2 {
			out[f] = min(f, twin.Frames-1)
			continue
		}
		p, q := kept[k-1], kept[k]
		out[f] = min(max(p.b+int(math.Round(float64(f-p.a)*float64(q.b-p.b)/float64(q.a-p.a))), 0), twin.Frames-1)
	}
	return out
}

// most is how many places are pointed at.
const most = 3

// differ are the landmarks that lie most differently about the middle of the hips, in both clips.
func differ(c, twin lesson.Clip) (a, b []lesson.Mark) {
	a, b = []lesson.Mark{}, []lesson.Mark{}
	middle := func(marks []lesson.Mark) (x, y float64) {
		for _, m := range marks {
			if strings.HasSuffix(m.ID, "_hip") {
				x, y = x+m.X/2, y+m.Y/2
			}
		}
		return x, y
	}
	if len(c.Marks) != len(twin.Marks) {
		return a, b
	}
	cx, cy := middle(c.Marks)
	tx, ty := middle(twin.Marks)
	order := make([]int, len(c.Marks))
	far := make([]float64, len(c.Marks))
	for i, m := range c.Marks {
		order[i] = i
		far[i] = math.Hypot(m.X-cx-twin.Marks[i].X+tx, m.Y-cy-twin.Marks[i].Y+ty)
	}
	slices.SortStableFunc(order, func(i, j int) int { return cmp.Compare(far[j], far[i]) })
	for _, i := range order[:min(most, len(order))] {
		if far[i] >= 2 {
			a, b = append(a, c.Marks[i]), append(b, twin.Marks[i])
		}
	}
	return a, b
}

package seeing

import (
	"cmp"
	"context"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/core/eye"
	"neokinema/core/sport"
	"neokinema/internal/ownclips"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/simcam/lesson"
)

// Service trains eyes.
type Service struct {
	*Bank
	store *store.Store
	own   *ownclips.Service
	now   func() time.Time
}

// New makes the service; own are clips of the teams, now is the clock.
func New(s *store.Store, b *Bank, own *ownclips.Service, now func() time.Time) *Service {
	return &Service{b, s, own, now}
}

// Set is a handful of exercises.
type Set struct {
	Exercises []Exercise `json:"exercises" doc:"none while the first clips are drawn"`
	Due       int        `json:"due" doc:"of them, those that come back because it is time"`
	Bank      int        `json:"bank" doc:"clips that are drawn"`
	Scenes    int        `json:"scenes" doc:"scenes that are drawn"`
	Of        int        `json:"of" doc:"scenes that there will be"`
}

// A set is as long as is done in four minutes.
const (
	longest = 20
	usual   = 10
)

// pattern is how kinds follow each other.
var pattern = []eye.Kind{eye.There, eye.Moment, eye.There, eye.Angle, eye.Larger, eye.There, eye.Cause, eye.There, eye.Decidable, eye.Angle}

// card is what is practised: it comes back, on other clips, when it is time.
type card struct {
	kind         eye.Kind
	event, fault string
}

func cardOf(a store.EyeAnswer) card { return card{a.Kind, a.Event, a.Fault} }

// five is how many exercises an athlete gets at a time.
const five = 5

// Five is a set for an athlete's account: of the own events, the fault of the newest cue that was sent to it
// among them.
func (s *Service) Five(ctx context.Context, user store.User) (Set, error) {
	wishes, err := s.store.EyeWishes(ctx, user.TeamID, *user.AthleteID)
	if err != nil {
		return Set{}, err
	}
	var events []string
	for _, w := range wishes {
		if !slices.Contains(events, w.Event) {
			events = append(events, w.Event)
		}
	}
	out, err := s.Begin(ctx, user, Wish{Events: events, N: five, Own: true})
	if err != nil || slices.ContainsFunc(out.Exercises, func(x Exercise) bool { return len(wishes) > 0 && x.fault == wishes[0].Fault }) {
		return out, err
	}
	answers, err := s.store.EyeAnswers(ctx, user.ID)
	if err != nil {
		return out, err
	}
	pick := picker{bank: s.Bank, clips: s.Clips(), answers: answers, r: rand.New(rand.NewPCG(uint64(len(answers)), 5)), taken: map[string]bool{}}
	for _, w := range wishes {
		if w.Fault == "" {
			continue
		}
		if x, ok := pick.of(eye.There, w.Event, w.Fault); ok && len(out.Exercises) > 0 {
			out.Exercises[0] = x
			break
		}
	}
	return out, nil
}

// Wish is what a set is to be of.
type Wish struct {
	Events []string   `json:"events,omitempty" required:"false" maxItems:"10" doc:"all when empty"`
	Kinds  []eye.Kind `json:"kinds,omitempty" required:"false" maxItems:"6" doc:"all when empty" enum:"there,moment,angle,larger,cause,decidable"`
	N      int        `json:"n,omitempty" required:"false" minimum:"0" doc:"10 when 0"`
	Own    bool       `json:"own,omitempty" required:"false" doc:"clips of the team's own among them, where there are any that were worked out"`
}

// mostOwn is how many of a set are of the team's own clips, one in so many; they come after so many answers,
// when drawn clips have shown what is meant.
const (
	mostOwn = 4
	ownFrom = 20
)

// Begin puts a set together: what is due first, then what is new, of some events or of all.
func (s *Service) Begin(ctx context.Context, u store.User, w Wish) (Set, error) {
	user, events, kinds, n := u.ID, w.Events, w.Kinds, w.N
	if n == 0 {
		n = usual
	}
	if n > longest {
		return Set{}, problem.New(problem.Invalid, "A set has at most %d exercises.", longest)
	}
	for _, e := range events {
		if !slices.Contains(sport.IDs(), e) {
			return Set{}, problem.New(problem.Invalid, "There is no event called %q.", e)
		}
	}
	answers, err := s.store.EyeAnswers(ctx, user)
	if err != nil {
		return Set{}, err
	}
	out := Set{Exercises: []Exercise{}, Bank: s.Size(), Scenes: s.Scenes(), Of: lesson.Scenes()}
	var clips []lesson.Clip
	for _, c := range s.Clips() {
		if len(events) == 0 || slices.Contains(events, c.Event) {
			clips = append(clips, c)
		}
	}
	if len(clips) == 0 {
		return out, nil // they are being drawn
	}
	r := rand.New(rand.NewPCG(uint64(len(answers)), uint64(user.ID())))
	pick := picker{bank: s.Bank, clips: clips, answers: answers, r: r, taken: map[string]bool{}}
	allowed := func(k eye.Kind) bool { return len(kinds) == 0 || slices.Contains(kinds, k) }
	for _, c := range due(answers, s.now()) {
		if len(out.Exercises) < n/2 && allowed(c.kind) {
			if x, ok := pick.of(c.kind, c.event, c.fault); ok {
				out.Exercises = append(out.Exercises, x)
				out.Due++
			}
		}
	}
	if w.Own && len(answers) >= ownFrom && len(kinds) == 0 {
		ids, err := s.own.Some(ctx, u, events, r, n/mostOwn)
		if err != nil {
			return Set{}, err
		}
		for _, id := range ids {
			x, _, err := exercise(id, s.finder(ctx, u))
			if err != nil {
				return Set{}, err
			}
			out.Exercises = append(out.Exercises, x)
		}
	}
	for k := 0; len(out.Exercises) < n && k < 8*n; k++ {
		kind := pattern[(len(answers)+k)%len(pattern)]
		if !allowed(kind) {
			continue
		}
		if x, ok := pick.of(kind, "", ""); ok {
			out.Exercises = append(out.Exercises, x)
		}
	}
	r.Shuffle(len(out.Exercises), func(i, j int) { out.Exercises[i], out.Exercises[j] = out.Exercises[j], out.Exercises[i] })
	return out, nil
}

// picker finds exercises that were not taken yet.
type picker struct {
	bank    *Bank
	clips   []lesson.Clip
	answers []store.EyeAnswer
	r       *rand.Rand
	taken   map[string]bool // clips
}

// of finds an exercise of a kind, of an event and of a fault, moment or joint where they are named.
func (p *picker) of(kind eye.Kind, event, about string) (Exercise, bool) {
	fits := func(c lesson.Clip) bool {
		if p.taken[c.ID] || event != "" && c.Event != event {
			return false
		}
		named := about == "" || c.Fault == about
		switch kind {
		case eye.There:
			return c.Sort == lesson.Sized && named
		case eye.Larger:
			return c.Sort == lesson.Sized && c.Size > 0 && named
		case eye.Decidable:
			// As often no as yes.
			return named && (c.Sort == lesson.Dark) == p.coin(c.Event+c.Fault)
		case eye.Cause:
			return c.Sort == lesson.Two && c.Size > 0 && named
		case eye.Moment:
			list := c.Asked()
			return c.Sort == lesson.Sized && (about == "" && len(list) > 0 || slices.Contains(list, about))
		case eye.Angle:
			return c.Sort == lesson.Sized && (about == "" || c.Joint == about)
		}
		return false
	}
	var list []lesson.Clip
	for _, c := range p.clips {
		if fits(c) {
			list = append(list, c)
		}
	}
	if len(list) == 0 {
		return Exercise{}, false
	}
	c := list[p.r.IntN(len(list))]
	id := string(kind) + "/"
	switch kind {
	case eye.There:
		c = p.sized(c, list)
		id += c.ID
	case eye.Moment:
		m := c.Asked()
		at := m[p.r.IntN(len(m))]
		if about != "" {
			at = about
		}
		id += c.ID + "/" + at
	case eye.Larger:
		var others []lesson.Clip
		for _, d := range p.clips {
			if d.Twin == c.Twin && d.ID != c.ID && d.Sort == lesson.Sized && math.Abs(d.Size-c.Size) > 0.1 {
				others = append(others, d)
			}
		}
		if len(others) == 0 {
			return Exercise{}, false
		}
		d := others[p.r.IntN(len(others))]
		id += c.ID + "/" + d.ID
		p.taken[d.ID] = true
	default:
		id += c.ID
	}
	x, _, err := exercise(id, p.bank.Clip)
	if err != nil {
		return x, false
	}
	p.taken[c.ID] = true
	return x, true
}

// coin is heads or tails by a name, another way round with every answer.
func (p *picker) coin(name string) bool { return (len(name)+len(p.answers))%2 == 0 }

// sized takes one clip of two without the fault, and the other by the staircase: of the sizes that there
// are, the one that tells most about this eye. Before there are answers to this fault those to the event
// count.
func (p *picker) sized(c lesson.Clip, list []lesson.Clip) lesson.Clip {
	var with, without []lesson.Clip
	for _, d := range list {
		if d.Event == c.Event && d.Fault == c.Fault {
			if d.Size > 0 {
				with = append(with, d)
			} else {
				without = append(without, d)
			}
		}
	}
	if len(without) > 0 && (p.r.IntN(2) == 0 || len(with) == 0) {
		return without[p.r.IntN(len(without))]
	}
	var same, near []eye.Sized
	for _, a := range p.answers {
		if _, own := ownClip(a.Exercise); !own && a.Kind == eye.There && a.Event == c.Event {
			near = append(near, eye.Sized{Size: a.Size, Yes: a.Yes})
			if a.Fault == c.Fault {
				same = append(same, eye.Sized{Size: a.Size, Yes: a.Yes})
			}
		}
	}
	if len(same) < 4 {
		same = near
	}
	var sizes []float64
	for _, d := range with {
		sizes = append(sizes, d.Size)
	}
	best := eye.Next(same, sizes)
	for _, d := range with {
		if d.Size == best {
			return d
		}
	}
	return c
}

// Answered is an answer to an exercise.
type Answered struct {
	ID       uuid.UUID `json:"id" doc:"made where it was given: sent twice it counts once"`
	Exercise string    `json:"exercise" maxLength:"250"`
	Said     string    `json:"said" maxLength:"40" doc:"a choice, a frame from 0, degrees"`
	Took     int       `json:"took_ms" minimum:"0" maximum:"3600000"`
}

// finder finds drawn clips, and those of a user's team.
func (s *Service) finder(ctx context.Context, u store.User) finder {
	return func(id string) (lesson.Clip, error) {
		if strings.HasPrefix(id, ownclips.Prefix) {
			_, c, err := s.own.Find(ctx, u, id)
			return c, err
		}
		return s.Clip(id)
	}
}

// ownClip is the team's own clip that an exercise is about.
func ownClip(exercise string) (string, bool) {
	_, rest, _ := strings.Cut(exercise, "/")
	id, _, _ := strings.Cut(rest, "/")
	return id, strings.HasPrefix(id, ownclips.Prefix)
}

// Pictures are those of a clip: a file of a drawn one, or the bytes of one of the team's own.
func (s *Service) Pictures(ctx context.Context, u store.User, id string) (file string, sheet []byte, err error) {
	if strings.HasPrefix(id, ownclips.Prefix) {
		sheet, err = s.own.Sheet(ctx, u, id)
		return "", sheet, err
	}
	file, err = s.Sheet(id)
	return file, nil, err
}

// Answer judges an answer and keeps it.
func (s *Service) Answer(ctx context.Context, u store.User, in Answered) (Judgement, error) {
	x, j, err := s.judge(in.Exercise, in.Said, s.finder(ctx, u))
	if err != nil {
		return j, err
	}
	if id, ok := ownClip(in.Exercise); ok {
		w, _, err := s.own.Find(ctx, u, id)
		if err != nil {
			return j, err
		}
		j.From, j.DoneOn = w.Athlete, w.DoneOn
	}
	return j, s.store.AddEyeAnswer(ctx, u.TeamID, u.ID, store.EyeAnswer{ID: in.ID, Exercise: in.Exercise, Kind: x.Kind, Event: x.Event, Fault: x.fault, View: x.view,
		Size: x.size, There: j.There, Yes: j.Yes, Off: j.Off, Correct: j.Correct, Took: in.Took, At: s.now()})
}

// Eye is what somebody's eye is worth.
type Eye struct {
	Answers int      `json:"answers"`
	Correct float64  `json:"correct" doc:"share, 0 to 1"`
	Due     int      `json:"due" doc:"things whose time it is to practise again"`
	Faults  []Fault  `json:"faults" doc:"all that were asked for, those that most is known of first"`
	Offs    []Off    `json:"offs" doc:"angles and frames, by event; all events first"`
	Days    []Day    `json:"days" doc:"oldest first"`
	Says    []string `json:"says" doc:"what stands out"`
	Trust   []Trust  `json:"trust" doc:"of events with enough answers"`
}

// Trust is how far a yes or no at an event can be trusted, all of its faults taken together.
type Trust struct {
	Event string  `json:"event"`
	There float64 `json:"there" doc:"how likely a fault is there that is said to be, if half of all clips have it"`
	Not   float64 `json:"not" doc:"how likely one is not there that is said not to be"`
	N     int     `json:"n"`
}

// Fault is how well one is seen.
type Fault struct {
	Event     string         `json:"event"`
	Fault     string         `json:"fault"`
	Name      string         `json:"name"`
	View      string         `json:"view" doc:"the camera's; empty for all of them"`
	N         int            `json:"n"`
	Detection *eye.Detection `json:"detection,omitempty" required:"false" doc:"from eight answers with and eight without it on"`
	Curve     *eye.Curve     `json:"curve,omitempty" required:"false" doc:"from twelve answers on"`
}

// Off is how well angles or frames are seen.
type Off struct {
	Kind  eye.Kind `json:"kind" enum:"moment,angle"`
	Event string   `json:"event" doc:"empty for all of them"`
	eye.Off
	Says string `json:"says"`
}

// Day is how much was right on a day.
type Day struct {
	On      string `json:"on" format:"date"`
	N       int    `json:"n"`
	Correct int    `json:"correct"`
}

// Measure reads what an eye is worth off all of somebody's answers.
func (s *Service) Measure(ctx context.Context, user uuid.UUID) (Eye, error) {
	answers, err := s.store.EyeAnswers(ctx, user)
	if err != nil {
		return Eye{}, err
	}
	return measure(answers, s.now())
}

func measure(answers []store.EyeAnswer, now time.Time) (Eye, error) {
	out := Eye{Answers: len(answers), Due: len(due(answers, now)), Faults: []Fault{}, Offs: []Off{}, Days: []Day{}, Says: []string{}, Trust: []Trust{}}
	byEvent := map[string][]eye.Seen{}
	seen := map[[2]string][]store.EyeAnswer{}
	errs := map[eye.Kind]map[string][]float64{eye.Moment: {}, eye.Angle: {}}
	correct := 0
	for _, a := range answers {
		day := a.At.Format(time.DateOnly)
		if n := len(out.Days); n == 0 || out.Days[n-1].On != day {
			out.Days = append(out.Days, Day{On: day})
		}
		d := &out.Days[len(out.Days)-1]
		d.N++
		if a.Correct {
			d.Correct++
			correct++
		}
		if _, own := ownClip(a.Exercise); own {
			continue // its truth was measured, not known: it trains and measures nobody
		}
		switch a.Kind {
		case eye.There:
			byEvent[a.Event] = append(byEvent[a.Event], eye.Seen{There: a.There, Yes: a.Yes})
			for _, key := range [][2]string{{"", ""}, {a.Event, a.Fault}} {
				seen[key] = append(seen[key], a)
			}
		case eye.Moment, eye.Angle:
			for _, key := range []string{"", a.Event} {
				errs[a.Kind][key] = append(errs[a.Kind][key], a.Off)
			}
		}
	}
	if len(answers) > 0 {
		out.Correct = float64(correct) / float64(len(answers))
	}
	for key, list := range seen {
		f := Fault{Event: key[0], Fault: key[1], N: len(list)}
		if key[1] != "" {
			name, err := faultName(key[0], key[1])
			if err != nil {
				continue // a fault that models no longer have
			}
			f.Name = name
			f.View = list[0].View
			if slices.ContainsFunc(list, func(a store.EyeAnswer) bool { return a.View != f.View }) {
				f.View = ""
			}
		}
		var yes []eye.Seen
		var sized []eye.Sized
		for _, a := range list {
			yes = append(yes, eye.Seen{There: a.There, Yes: a.Yes})
			sized = append(sized, eye.Sized{Size: a.Size, Yes: a.Yes})
		}
		if d, ok := eye.DetectionOf(yes); ok {
			f.Detection = &d
			if f.Name != "" {
				if text := d.Leans(strings.ToLower(f.Name[:1]) + f.Name[1:]); text != "" {
					out.Says = append(out.Says, text)
				}
			}
		}
		if c, ok := eye.CurveOf(sized); ok {
			f.Curve = &c
		}
		out.Faults = append(out.Faults, f)
	}
	slices.SortFunc(out.Faults, func(a, b Fault) int {
		return cmp.Or(cmp.Compare(b.N, a.N), strings.Compare(a.Event, b.Event), strings.Compare(a.Fault, b.Fault))
	})
	slices.Sort(out.Says)
	for _, event := range sport.IDs() {
		if d, ok := eye.DetectionOf(byEvent[event]); ok {
			t := Trust{Event: event, N: len(byEvent[event])}
			t.There, t.Not = d.Sure()
			out.Trust = append(out.Trust, t)
		}
	}
	for _, kind := range []eye.Kind{eye.Angle, eye.Moment} {
		unit := map[eye.Kind]string{eye.Angle: "degrees", eye.Moment: "frames"}[kind]
		for event, list := range errs[kind] {
			if o, ok := eye.OffOf(list); ok {
				out.Offs = append(out.Offs, Off{kind, event, o, o.Says(unit)})
				if event == "" {
					out.Says = append(out.Says, o.Says(unit))
				}
			}
		}
	}
	slices.SortFunc(out.Offs, func(a, b Off) int {
		return cmp.Or(strings.Compare(string(a.Kind), string(b.Kind)), strings.Compare(a.Event, b.Event))
	})
	return out, nil
}

// Scenes is how many scenes are drawn.
func (b *Bank) Scenes() int {
	b.mu.RLock()
	defer b.mu.RUnlock()
	return b.drawn
}

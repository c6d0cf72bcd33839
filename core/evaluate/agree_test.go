package evaluate_test

import (
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// trembling makes the points of a run as a draft of a small clip has them: scattered by a
// share of the standing height, one in twenty somewhere else, in no order of confidence.
func trembling(in *evaluate.Input, tall, share float64, seed uint64) {
	r := rand.New(rand.NewPCG(seed, 9))
	for _, id := range slices.Sorted(maps.Keys(in.Points)) {
		t := in.Points[id]
		if body.IsThing(id) {
			continue
		}
		for f := t.From; f < t.End(); f++ {
			p, ok := t.At(f)
			if !ok {
				continue
			}
			p.X, p.Y = p.X+share*tall*r.NormFloat64(), p.Y+share*tall*r.NormFloat64()
			if r.IntN(20) == 0 {
				p.X, p.Y = p.X+0.3*tall*r.NormFloat64(), p.Y+0.3*tall*r.NormFloat64()
			}
			p.Source, p.Confidence = track.Draft.String(), 0.2+0.6*r.Float64()
			_ = t.Set(f, &p)
		}
	}
}

// What is stated of a run whose points tremble is in order and possible, mostly right, and
// what is not stated is asked for.
func TestWhatIsStatedFitsTogether(t *testing.T) {
	m := load(t, "running")
	right, stated, asked, glimpses, seen, vague, there := 0, 0, 0, 0, 0, 0, 0
	for seed := range uint64(4) {
		tr := truth(t, simcam.Spec{Event: "running", Speed: 4 + float64(seed)/2, CaptureRate: 60, Direction: 1})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		trembling(&in, 300, 0.008, seed)
		r := evaluate.Attempt(m, in)
		last := -1
		for _, q := range r.Positions {
			if q.Frame == nil {
				continue
			}
			if *q.Frame < last {
				t.Errorf("seed %d: %s at %d comes before what is before it (%d)", seed, q.ID, *q.Frame, last)
			}
			last = *q.Frame
			if q.Confidence < 0.8 {
				t.Errorf("seed %d: %s is stated at %.2f", seed, q.ID, q.Confidence)
			}
			stated++
			for _, at := range tr.Positions {
				if max(at-*q.Frame, *q.Frame-at) <= 2 {
					right++
					break
				}
			}
		}
		for _, x := range r.Readings {
			cp, _ := m.Checkpoint(x.ID)
			if x.Value != nil && !evaluate.Possible(cp.Measure.Kind, x.Value.Value) {
				t.Errorf("seed %d: %s = %v", seed, x.ID, x.Value.Value)
			}
			for _, one := range x.Repetitions {
				if !evaluate.Possible(cp.Measure.Kind, one.Value.Value) {
					t.Errorf("seed %d: %s at %s = %v", seed, x.ID, one.Position, one.Value.Value)
				}
			}
			if x.Unsure && x.Verdict != uncertainty.Open {
				t.Errorf("seed %d: %s hangs on unsure moments and is %s", seed, x.ID, x.Verdict)
			}
		}
		for _, a := range r.Contacts {
			for _, b := range r.Contacts {
				if a != b && a.Foot == b.Foot && a.From < b.To && b.From < a.To {
					t.Errorf("seed %d: the %s foot is down twice: %v %v", seed, a.Foot, a, b)
				}
			}
		}
		for _, g := range r.Glimpses {
			if g.From >= g.To || slices.ContainsFunc(r.Contacts, func(b contact.Interval) bool { return b.Foot == g.Foot && b.From < g.To && g.From < b.To }) {
				t.Errorf("seed %d: %+v beside %+v", seed, g, r.Contacts)
			}
			if g.Open == "both" {
				vague++
				if points.Down(tr, g.Foot, (g.From+g.To)/2) {
					there++
				}
				continue
			}
			glimpses++
			at, down := g.From, true
			if g.Open == "from" {
				at, down = g.To, false
			}
			for f := at - 2; f <= at+2; f++ {
				if points.Down(tr, g.Foot, f) == down && points.Down(tr, g.Foot, f-1) != down {
					seen++
					break
				}
			}
		}
		asked += len(r.Questions)
	}
	t.Logf("%d of %d open contacts have the end that is stated", seen, glimpses)
	t.Logf("of %d contacts with both ends open %d are there", vague, there)
	if vague == 0 || 10*there < 9*vague {
		t.Errorf("of %d contacts with both ends open %d are there", vague, there)
	}
	if glimpses == 0 || 4*seen < 3*glimpses {
		t.Errorf("%d of %d open contacts have the end that is stated", seen, glimpses)
	}
	if stated < 25 || 10*right < 8*stated {
		t.Errorf("%d of %d stated positions are right", right, stated)
	}
	if asked == 0 {
		t.Error("nothing is asked")
	}
}

// The steps of a hammer throw are drafted from 50 and 60 pictures a second behind the cage, with
// nothing marked and nothing flagged: most are shown, with ends that are about right, the pivot foot
// stands all the while, and what is stated of an end is right.
func TestStepsOfADraftedThrow(t *testing.T) {
	stated, right, shown, about, all := 0, 0, 0, 0, 0
	for seed := range uint64(6) {
		tr := truth(t, simcam.Spec{Event: []string{"hammer", "weight"}[seed%2], Hand: []body.Side{body.Right, body.Left}[seed/2%2], CaptureRate: []float64{50, 60}[seed/3], Width: 1280, Height: 720, Camera: simcam.Camera{Place: "back"}})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		in.Athlete.ThrowingHand = tr.Spec.Hand
		trembling(&in, 300, 0.006, seed)
		r := evaluate.Attempt(load(t, tr.Spec.Event), in)
		for _, b := range r.Contacts {
			if b.Foot != tr.Spec.Hand && b.From < tr.Positions["catch2"] && b.To < tr.Positions["release"] {
				t.Errorf("seed %d: the pivot foot is said to be down from %d to %d only", seed, b.From, b.To)
			}
		}
		type step struct {
			foot     body.Side
			from, to int
			open     string
		}
		var steps []step
		for _, b := range r.Contacts {
			steps = append(steps, step{b.Foot, b.From, b.To, ""})
		}
		for _, g := range r.Glimpses {
			steps = append(steps, step{g.Foot, g.From, g.To, g.Open})
		}
		for id, at := range tr.Positions {
			lift := strings.HasPrefix(id, "lift")
			if !lift && !strings.HasPrefix(id, "catch") {
				continue
			}
			all++
			for _, b := range steps {
				end, open := b.from, b.open == "from"
				if lift {
					end, open = b.to, b.open == "to"
				}
				off := max(end-at, at-end)
				if b.foot != tr.Spec.Hand || off > 6 {
					continue
				}
				shown++
				if off <= 2 {
					about++
				}
				if !open && b.open != "both" {
					if stated++; off <= 1 {
						right++
					}
				}
				break
			}
		}
	}
	t.Logf("%d of %d shown, %d about right; %d of %d that are stated are right", shown, all, about, right, stated)
	if 2*shown < all || 10*about < 9*shown || 10*right < 9*stated {
		t.Errorf("%d of %d ends of steps are shown, %d about right, %d of %d stated ones right", shown, all, about, right, stated)
	}
}

// Turns that were written down are told, or offered to be looked at, where as many swings are
// seen; where not, nobody knows which of them is which.
func TestTurnsAsWrittenDown(t *testing.T) {
	told := func(r report.Report) (n int) {
		for _, p := range r.Positions {
			if p.Frame != nil && (strings.HasPrefix(p.ID, "lift") || strings.HasPrefix(p.ID, "catch")) {
				n++
			}
		}
		for _, q := range r.Questions {
			if strings.HasPrefix(q.Text, "Which frame") && (strings.HasPrefix(q.Position, "lift") || strings.HasPrefix(q.Position, "catch")) {
				n++
			}
		}
		return n
	}
	tr := truth(t, simcam.Spec{Event: "hammer", Turns: 4, CaptureRate: 60, Width: 1280, Height: 720, Camera: simcam.Camera{Place: "back"}})
	in := points.Input(tr, points.All(tr, 0.3, 2))
	in.Athlete.ThrowingHand = tr.Spec.Hand
	trembling(&in, 300, 0.005, 2)
	m := load(t, "hammer")
	for _, c := range []struct {
		turns int
		want  bool
	}{{0, true}, {4, true}, {3, true}, {2, false}, {6, false}} {
		in.Turns = c.turns // with three the fourth swing may be the step that saves the athlete
		if n := told(evaluate.Attempt(m, in)); (n > 0) != c.want {
			t.Errorf("%d turns written down, four seen: %d lifts and catches are told", c.turns, n)
		}
	}

	// With the ball in depth.
	deep, in, _ := throwOf(t, simcam.Spec{Event: "hammer", Turns: 3, Camera: simcam.Camera{Place: "back"}})
	in.Turns = 3
	if r := evaluate.Attempt(deep, in); len(r.Throw.Turns) != 3 || told(r) == 0 {
		t.Errorf("%d turns, %d moments", len(r.Throw.Turns), told(r))
	}
	in.Turns = 4
	r := evaluate.Attempt(deep, in)
	if len(r.Throw.Turns) != 0 || told(r) != 0 {
		t.Errorf("four written down, three seen: %d turns and %d moments", len(r.Throw.Turns), told(r))
	}
	if !slices.ContainsFunc(r.Throw.Missing, func(s string) bool { return strings.Contains(s, "has 4 turns, and 3 are seen") }) {
		t.Errorf("nothing says why: %q", r.Throw.Missing)
	}
}

// The steps of a start are drafted from 30, 60 and 120 pictures a second: what is stated is right,
// and most of it is stated. With the legs taken for each other nothing of a foot is.
func TestStepsOfADraftedStart(t *testing.T) {
	m := load(t, "sprint-start")
	steps := []string{"rear_off", "clear", "td1", "to1", "td2", "to2", "td3", "to3"}
	stated, right, all := 0, 0, 0
	for seed := range uint64(6) {
		rate := []float64{30, 60, 120}[seed%3]
		tr := truth(t, simcam.Spec{Event: "sprint-start", CaptureRate: rate, Direction: 1 - 2*float64(seed%2)})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		trembling(&in, 300, 0.004, seed)
		found := func(in evaluate.Input) map[string]int {
			out := map[string]int{}
			for _, p := range evaluate.Attempt(m, in).Positions {
				if p.Frame != nil && slices.Contains(steps, p.ID) {
					out[p.ID] = *p.Frame
				}
			}
			return out
		}
		near := max(1, int(0.035*rate)) // a picture of 30 a second
		all += len(steps)
		for id, f := range found(in) {
			stated++
			if at := tr.Positions[id]; max(at-f, f-at) <= near {
				right++
			} else {
				t.Logf("seed %d, %g/s: %s at %d, truly %d", seed, rate, id, f, at)
			}
		}
		in.Athlete.FrontLeg = in.Athlete.FrontLeg.Other()
		if wrong := found(in); len(wrong) > 0 {
			t.Errorf("seed %d: with the other leg in front %v is stated", seed, wrong)
		}
	}
	t.Logf("%d of %d stated, %d right", stated, all, right)
	if 2*stated < all || 10*right < 9*stated {
		t.Errorf("%d of %d moments are stated, %d of them right", stated, all, right)
	}
}

// A step that ends before it begins is left out of the mean and not shown, and left
// against right is not judged while one of the contacts that it compares is unsure.
func TestOneWrongStepJudgesNothing(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 120, Direction: 1})
	in := points.Input(tr, points.All(tr, 0.3, 1))
	in.Flags = map[string]int{}
	for id, f := range tr.Positions {
		if strings.HasPrefix(id, "td") || strings.HasPrefix(id, "to") {
			in.Flags[id] = f
		}
	}
	flagged := evaluate.Attempt(m, in)
	whole, ok := flagged.Reading("length")
	if !ok || whole.Value == nil || len(whole.Repetitions) < 3 {
		t.Fatalf("step length %+v", whole)
	}
	// The run is turned round for the tool: every length comes out negative.
	in.Clip.Direction = -1
	back := evaluate.Attempt(m, in)
	if x, _ := back.Reading("length"); x.Value != nil || len(x.Repetitions) > 0 || x.Reason == "" {
		t.Errorf("lengths of a run that goes backwards: %+v", x)
	}

	looked := 0
	for _, much := range []float64{0.008, 0.012, 0.016, 0.02, 0.025, 0.03} {
		in := points.Input(tr, points.All(tr, 0.3, 1))
		in.Clip.Direction, in.Flags = 1, map[string]int{}
		trembling(&in, 300, much, 3)
		r := evaluate.Attempt(m, in)
		unsure := 0
		for _, q := range r.Positions {
			if q.Frame != nil && q.Confidence < 0.85 && (strings.HasPrefix(q.ID, "td") || strings.HasPrefix(q.ID, "to")) {
				unsure++
			}
		}
		if unsure == 0 {
			continue
		}
		looked++
		if x, _ := r.Reading("uneven_contact"); x.Value != nil && x.Verdict != uncertainty.Open {
			t.Errorf("trembling by %g, with %d unsure moments left against right is %s: %+v", much, unsure, x.Verdict, x)
		}
	}
	if looked == 0 {
		t.Error("nothing is unsure, however much points tremble")
	}
}

// A question is answered by a flag or a point of the hand, and is not asked again; the one
// on top is worth most.
func TestQuestionsShrink(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", Speed: 5, CaptureRate: 60})
	in := points.Input(tr, points.All(tr, 0.3, 1))
	trembling(&in, 300, 0.012, 1)
	in.Flags = map[string]int{}
	seen := map[string]bool{}
	r := evaluate.Attempt(m, in)
	if len(r.Questions) == 0 || len(r.Questions) > 10 {
		t.Fatalf("%d questions", len(r.Questions))
	}
	for range 6 {
		if len(r.Questions) > 1 && r.Questions[0].Worth < r.Questions[1].Worth {
			t.Errorf("the first question is worth %.2f, the second %.2f", r.Questions[0].Worth, r.Questions[1].Worth)
		}
		if len(r.Questions) == 0 {
			break
		}
		q := r.Questions[0]
		if seen[q.ID] {
			t.Fatalf("%s is asked again", q.ID)
		}
		seen[q.ID] = true
		if len(q.For) == 0 || q.Text == "" || q.Look.Width <= 0 {
			t.Errorf("%+v", q)
		}
		for _, o := range q.Options {
			if o.Frame < 0 || o.Frame >= len(in.Clip.Stamps) {
				t.Errorf("%s: frame %d of %d", q.ID, o.Frame, len(in.Clip.Stamps))
			}
		}
		o := report.Option{Frame: evaluate.NotThere}
		if len(q.Options) > 0 {
			o = q.Options[0]
		}
		if q.Kind == "moment" {
			in.Flags[q.Position] = o.Frame
		} else if err := in.Points[q.Landmark].Set(o.Frame, &track.Point{X: o.X, Y: o.Y, Source: track.Hand.String(), Confidence: 1}); err != nil {
			t.Fatal(err)
		}
		r = evaluate.Attempt(m, in)
	}
}

// A contact that the picture showed goes with the leg when the coach exchanges sides.
func TestContactsGoWithExchangedSides(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", Speed: 4, CaptureRate: 120})
	in := points.Input(tr, points.All(tr, 0.3, 2))
	in.Flags = map[string]int{}
	was := evaluate.Attempt(m, in)
	for _, c := range was.Contacts {
		in.Contacts = append(in.Contacts, contact.Contact{Foot: c.Foot, From: c.From, To: c.To, FromSD: 0.3, ToSD: 0.3, Confidence: 0.9})
	}
	for _, part := range []string{"hip", "knee", "ankle", "heel", "toe"} {
		in.Points["left_"+part], in.Points["right_"+part] = in.Points["right_"+part], in.Points["left_"+part]
	}
	now := evaluate.Attempt(m, in)
	if len(was.Contacts) < 3 || len(now.Contacts) < len(was.Contacts)-1 {
		t.Fatalf("%d contacts, then %d", len(was.Contacts), len(now.Contacts))
	}
	for _, c := range now.Contacts {
		for _, b := range was.Contacts {
			if c.From < b.To && b.From < c.To && c.Foot == b.Foot {
				t.Errorf("%s %d-%d stays on its foot", c.Foot, c.From, c.To)
			}
		}
	}
}

// A clip that shows each picture twice says the same as the clip that it was made of, with
// the frames of its own, and is in doubt by a whole picture.
func TestRepeatedPicturesTakeNoPart(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", Speed: 4, CaptureRate: 60})
	plain := points.Input(tr, points.All(tr, 0.5, 3))
	plain.Flags = map[string]int{}
	slow := plain
	n := len(plain.Clip.Stamps)
	slow.Clip.Stamps = make([]int64, 2*n)
	for i := range slow.Clip.Stamps {
		slow.Clip.Stamps[i] = int64(i) * timebase.TickRate / 30
	}
	slow.Clip.FileRate, slow.Clip.CaptureRate, slow.Clip.Pictures = 30, 120, timebase.Pictures(strings.Repeat(".r", n))
	slow.Points = map[string]*track.Track{}
	for id, one := range plain.Points {
		two := track.New(0)
		for f := one.From; f < one.End(); f++ {
			if p, ok := one.At(f); ok {
				_ = two.Set(2*f, &p)
				p.X += 3 // what a draft of the copy says is not asked
				_ = two.Set(2*f+1, &p)
			}
		}
		slow.Points[id] = two
	}
	plain.Contacts, slow.Contacts = pictured(tr, 1), pictured(tr, 2)
	a, b := evaluate.Attempt(m, plain), evaluate.Attempt(m, slow)
	same := 0
	for _, p := range a.Positions {
		i := slices.IndexFunc(b.Positions, func(q report.Position) bool { return q.ID == p.ID })
		if p.Frame == nil || i < 0 || b.Positions[i].Frame == nil {
			continue
		}
		if max(*b.Positions[i].Frame-2**p.Frame, 2**p.Frame-*b.Positions[i].Frame) <= 2 {
			same++
		} else {
			t.Errorf("%s at %d, in the slowed clip at %d", p.ID, *p.Frame, *b.Positions[i].Frame)
		}
	}
	if same < 8 {
		t.Errorf("%d positions agree", same)
	}
	x, _ := a.Reading("contact")
	y, _ := b.Reading("contact")
	if x.Value == nil || y.Value == nil || math.Abs(x.Value.Value-y.Value.Value) > 10 || y.Value.Half95 < 0.8*x.Value.Half95 {
		t.Errorf("contact %v, in the slowed clip %v", x.Value, y.Value)
	}
	if !slices.ContainsFunc(b.Carries.Cannot, func(s string) bool { return strings.Contains(s, "60 pictures a second") }) {
		t.Errorf("the slowed clip cannot carry %v", b.Carries.Cannot)
	}
}

// A reading without a band is information.
func TestNoBandNoVerdict(t *testing.T) {
	m := load(t, "running")
	tr := truth(t, simcam.Spec{Event: "running", Speed: 4, CaptureRate: 240})
	in := points.Input(tr, points.All(tr, 0.3, 4))
	in.Extra = []model.Checkpoint{{ID: "free", Name: "Time of the first step", Position: "td1", Measure: model.Measure{Kind: "duration", Positions: []string{"td1", "to1"}}, Unit: "ms", Basis: "trade"}}
	x, ok := evaluate.Attempt(m, in).Reading("free")
	if !ok || x.Value == nil || x.Verdict != uncertainty.None {
		t.Errorf("%+v", x)
	}
}

// A foot that shifts in its block is seen twice by the picture and leaves once: its last moment
// is the second look's.
func TestAFootThatShiftsLeavesOnce(t *testing.T) {
	m := load(t, "sprint-start")
	tr := truth(t, simcam.Spec{Event: "sprint-start", CaptureRate: 240, Athlete: body.Person{Sex: body.Female, Height: 1.7, FrontLeg: body.Left}})
	in := points.Input(tr, points.All(tr, 0.3, 4))
	in.Athlete.FrontLeg = body.Left
	in.Flags = map[string]int{}
	off := tr.Positions["clear"]
	in.Contacts = []contact.Contact{
		{Foot: body.Left, From: 0, To: off - 17, FromSD: 0.5, ToSD: 0.5, Before: true, Confidence: 0.9},
		{Foot: body.Left, From: off - 21, To: off, FromSD: 0.5, ToSD: 0.5, Confidence: 0.9},
	}
	for _, p := range evaluate.Attempt(m, in).Positions {
		if p.ID != "clear" {
			continue
		}
		if p.Frame == nil || max(*p.Frame-off, off-*p.Frame) > 2 {
			t.Errorf("the front foot leaves at %v, truly %d", p.Frame, off)
		}
		return
	}
	t.Error("a start has no moment in which the front foot leaves")
}

// Of two looks at the front foot in its block that which lets it go along with the rear one is
// wrong: here the points of the front foot are drawn along by what passes it, as in a draft.
func TestTheFrontFootPushesOn(t *testing.T) {
	stated, right := 0, 0
	for seed := range uint64(8) {
		tr := truth(t, simcam.Spec{Event: "sprint-start", CaptureRate: 240, Direction: 1})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		in.Flags = map[string]int{}
		trembling(&in, 300, 0.008, seed)
		clear, off := tr.Positions["clear"], tr.Positions["rear_off"]
		for _, part := range []string{"toe", "heel", "ankle"} {
			p := in.Points[string(in.Athlete.FrontLeg)+"_"+part]
			for f := off + 6; f < clear; f++ {
				q, _ := p.At(f)
				q.X += 2 * float64(f-off-6) // px
				_ = p.Set(f, &q)
			}
		}
		for _, side := range []body.Side{body.Left, body.Right} {
			to := 1
			for points.Down(tr, side, to) {
				to++
			}
			in.Contacts = append(in.Contacts, contact.Contact{Foot: side, To: to, ToSD: 1.5, Before: true, Confidence: 0.7})
		}
		in.Contacts = append(in.Contacts, pictured(tr, 1)...)
		for _, p := range evaluate.Attempt(load(t, "sprint-start"), in).Positions {
			if p.ID != "clear" || p.Frame == nil {
				continue
			}
			if stated++; max(*p.Frame-clear, clear-*p.Frame) <= 5 {
				right++
			}
		}
	}
	if stated < 6 || right < stated {
		t.Errorf("%d of 8 clear, %d of them rightly", stated, right)
	}
}

// Between many pictures a second, too, each foot of a drafted throw is taken by itself where the
// picture was looked at: what is stated of steps is right.
func TestStepsOfAFastDraft(t *testing.T) {
	stated, right := 0, 0
	for seed := range uint64(4) {
		tr := truth(t, simcam.Spec{Event: []string{"weight", "hammer"}[seed%2], CaptureRate: 120, Width: 1280, Height: 720})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		in.Flags, in.Contacts = map[string]int{}, pictured(tr, 1)
		trembling(&in, 300, 0.008, seed)
		for _, b := range evaluate.Attempt(load(t, tr.Spec.Event), in).Contacts {
			for k, f := range []int{b.From, b.To} {
				if f <= 3 || f >= len(tr.Frames)-3 {
					continue
				}
				stated++
				for at := f - 4; at <= f+4; at++ {
					if points.Down(tr, b.Foot, at) == (k == 0) && points.Down(tr, b.Foot, at-1) != (k == 0) {
						right++
						break
					}
				}
			}
		}
	}
	if stated < 6 || 10*right < 9*stated {
		t.Errorf("%d of %d stated ends are right", right, stated)
	}
}

// A front foot that seems to stay in its block until the first step has landed does not make the
// second step the first.
func TestNoStepIsSkippedAfterTheBlocks(t *testing.T) {
	known := 0
	for seed := range uint64(6) {
		tr := truth(t, simcam.Spec{Event: "sprint-start", CaptureRate: 60, Direction: 1})
		in := points.Input(tr, points.All(tr, 0.3, seed))
		in.Flags = map[string]int{}
		trembling(&in, 300, 0.005, seed)
		for _, part := range []string{"toe", "heel", "ankle"} {
			p := in.Points[string(in.Athlete.FrontLeg)+"_"+part]
			rest, _ := p.At(tr.Positions["clear"] - 3)
			for f := tr.Positions["clear"] - 2; f < tr.Positions["td1"]+6; f++ {
				q := rest
				_ = p.Set(f, &q)
			}
		}
		for _, p := range evaluate.Attempt(load(t, "sprint-start"), in).Positions {
			if p.Frame == nil || !strings.HasPrefix(p.ID, "td") && !strings.HasPrefix(p.ID, "to") {
				continue
			}
			known++
			if at := tr.Positions[p.ID]; max(*p.Frame-at, at-*p.Frame) > 6 {
				t.Errorf("seed %d: %s at %d, truly %d", seed, p.ID, *p.Frame, at)
			}
		}
	}
	if known == 0 {
		t.Error("no step is known")
	}
}

package figures

import (
	"fmt"
	"io"
	"math"
	"os"
	"runtime"
	"slices"
	"sort"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"neokinema/core/angles"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/flight"
	"neokinema/core/model"
	"neokinema/core/repair"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/move"
	"neokinema/simcam/points"
	"neokinema/simcam/study"
)

// Numbers on movements that nobody shaped anything on: what is stated against what is true,
// by measure, event and noise of the points. Figures are of the lot that is there to report
// on; NEO_STUDY=build or spare measures one that may be built on, and NEO_TELL names what is
// outside its doubt.

// way is how points were placed and moments known.
type way struct {
	noise study.Noise
	flags bool
}

func (w way) String() string {
	if w.flags {
		return w.noise.Name + ", true flags"
	}
	return w.noise.Name
}

// The ways that are tried.
var (
	nearlyExact = way{study.Exact, false}
	tracked     = way{study.White, false}
	byDraft     = way{study.Drafts, false}
	flagged     = way{study.White, true}
	// A draft of which a coach has flagged every moment.
	flaggedDraft = way{study.Drafts, true}
	allWays      = []way{nearlyExact, tracked, byDraft, flagged, flaggedDraft}
)

// How many attempts at every event are measured, how many of them without a fault, and how
// many readings of a measure or moments of a kind tell anything.
const (
	studied    = 24
	faultless  = 31
	doubled    = 12
	leastTold  = 20
	sameMoment = 0.1 // s: a contact that was found farther off is another one
)

// stated are values with their doubt against what is true.
type stated struct{ off, half []float64 }

func (s *stated) add(value, half, truth float64) {
	s.off, s.half = append(s.off, value-truth), append(s.half, half)
}

// covered is the share, %, of values whose stated doubt holds the truth.
func (s stated) covered() float64 {
	var in share
	for i, d := range s.off {
		in.add(math.Abs(d) <= s.half[i]+1e-9)
	}
	return in.percent()
}

func (s stated) mean() float64 {
	sum := 0.0
	for _, d := range s.off {
		sum += d
	}
	return sum / math.Max(1, float64(len(s.off)))
}

func (s stated) middle() (off, half float64) {
	var abs []float64
	for _, d := range s.off {
		abs = append(abs, math.Abs(d))
	}
	return middle(abs), middle(s.half)
}

// numbers is what a lot shows. Keys begin with the way and end with what is meant.
type numbers struct {
	readings map[string]*stated // way|measure|event
	moments  map[string]*stated // way|event|kind of moment; s
	there    map[string]*share  // way|kind of moment: within one frame, of what is there
	told     map[string]*share  // the same of what is stated
	honest   map[string]*share  // the same within one frame, or within the doubt
	stated   map[string]*share  // event, checkpoint: of a draft with true moments, of those that the truth gives
	certain  map[string][]string
	noticed  share    // cards with the wrong side
	doubted  []string // right cards that were said to be wrong
	broken   []string // parts that could not be computed
	outside  []string
}

func newNumbers() *numbers {
	return &numbers{readings: map[string]*stated{}, moments: map[string]*stated{}, there: map[string]*share{}, told: map[string]*share{}, honest: map[string]*share{}, stated: map[string]*share{}, certain: map[string][]string{}}
}

func of[V any](m map[string]*V, key ...string) *V {
	k := strings.Join(key, "|")
	if m[k] == nil {
		m[k] = new(V)
	}
	return m[k]
}

// lot is the half that is measured.
func lot() study.Lot {
	switch os.Getenv("NEO_STUDY") {
	case "build":
		return study.Build
	case "spare":
		return study.Spare
	}
	return study.Check
}

func (l *Lab) numbers() (*numbers, error) {
	if l.told == nil {
		n, err := measure(lot(), studied, allWays)
		if err != nil {
			return nil, err
		}
		n.tell(os.Stderr)
		l.told = n
	}
	return l.told, nil
}

// each does something with every attempt, on all processors.
func each(list []study.Attempt, do func(study.Attempt) error) error {
	var g errgroup.Group
	g.SetLimit(runtime.NumCPU())
	for _, a := range list {
		if only := os.Getenv("NEO_ONLY"); only != "" && !strings.Contains(a.Name, only) {
			continue
		}
		g.Go(func() error {
			if err := do(a); err != nil {
				return fmt.Errorf("%s: %w", a.Name, err)
			}
			return nil
		})
	}
	return g.Wait()
}

// measure holds n attempts at every event against what is true.
func measure(l study.Lot, n int, ways []way) (*numbers, error) {
	list, err := study.Draw(l, n, 2)
	if err != nil {
		return nil, err
	}
	out := newNumbers()
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		truth, scene, err := a.Truth()
		if err != nil {
			return err
		}
		for _, w := range ways {
			in, err := drawnInput(a, w)
			if err != nil {
				return err
			}
			got := evaluate.Attempt(a.Model, in)
			mu.Lock()
			out.compare(w, a, got, truth, scene)
			mu.Unlock()
			if w != tracked && w != byDraft {
				continue
			}
			wrong := in
			study.OtherSide(&wrong)
			other := evaluate.Attempt(a.Model, wrong)
			mu.Lock()
			out.side(w, a, got, other)
			mu.Unlock()
		}
		return nil
	})
	return out, err
}

// drawnInput is an attempt's points in a way; a draft is put right over time as the server
// does.
func drawnInput(a study.Attempt, w way) (evaluate.Input, error) {
	in := a.Input(w.noise, w.flags)
	if !w.noise.Draft {
		return in, nil
	}
	m, err := models.Load(a.Model.ID)
	if err != nil {
		return in, err
	}
	for id, change := range repair.Draft(m, in).Changes {
		if in.Points[id] != nil {
			in.Points[id].Apply(change, false)
		}
	}
	return in, nil
}

// side counts whether a card with the wrong side is told.
func (n *numbers) side(w way, a study.Attempt, right, wrong report.Report) {
	if a.Model.ID == "running" {
		return // both sides do the same
	}
	tells := func(r report.Report) bool {
		return slices.ContainsFunc(r.Problems, func(p string) bool { return strings.Contains(p, "the athlete's card says") })
	}
	if tells(right) {
		n.doubted = append(n.doubted, a.Name+" "+w.String())
	}
	n.noticed.add(tells(wrong))
	if !tells(wrong) {
		n.outside = append(n.outside, a.Name+" "+w.String()+": the wrong side on the card was not noticed")
	}
}

// compare holds one report against what is true.
func (n *numbers) compare(w way, a study.Attempt, got, truth report.Report, scene *simcam.Scene) {
	by, event := w.String(), a.Model.ID
	for _, b := range got.Broken {
		n.broken = append(n.broken, a.Name+" "+by+": "+b)
	}
	for _, r := range got.Readings {
		want, ok := truth.Reading(r.ID)
		if r.Source == "coach" || !ok || want.Value == nil {
			continue
		}
		cp, _ := a.Model.Checkpoint(r.ID)
		kind := cp.Measure.Kind
		if w == flaggedDraft {
			of(n.stated, event, r.ID).add(r.Value != nil)
		}
		if r.Value == nil {
			continue
		}
		truly := inTheWorld(a, scene, cp, want)
		of(n.readings, by, kind, event).add(r.Value.Value, r.Value.Half95, truly)
		if off := r.Value.Value - truly; math.Abs(off) > r.Value.Half95 {
			n.outside = append(n.outside, fmt.Sprintf("%s %s: %s %s %.2f +-%.2f, truly %.2f", a.Name, by, kind, r.ID, r.Value.Value, r.Value.Half95, truly))
		}
	}
	if !w.flags {
		n.contacts(by, a, got, scene)
		n.positions(by, a, got, scene)
	}
	for _, f := range got.Findings {
		if f.Certainty == "certain" && !there(truth, f.Fault) {
			n.certain[by] = append(n.certain[by], fmt.Sprintf("%s: %s %v", a.Name, f.Fault, f.Readings))
		}
	}
}

// inTheWorld is what is true of a checkpoint: how the implement is really released, where
// landmarks really are to each other and directions really point at the moment of the
// checkpoint; else what the report on the truth reads. That would still guess what lies nearer to
// its camera, and what lies behind the body.
func inTheWorld(a study.Attempt, scene *simcam.Scene, cp model.Checkpoint, reported report.Reading) float64 {
	if leaves := scene.Truth.Release; leaves != nil {
		switch cp.Measure.Kind {
		case "release_speed":
			return leaves.Speed
		case "release_angle":
			return leaves.Angle
		case "release_height":
			return leaves.Height
		}
	}
	if len(reported.Repetitions) == 0 {
		return momentInTheWorld(a, scene, cp.Measure, cp.Position, reported.Value.Value)
	}
	mean := 0.0
	for _, r := range reported.Repetitions {
		mean += momentInTheWorld(a, scene, cp.Measure, r.Position, r.Value.Value) / float64(len(reported.Repetitions))
	}
	return mean
}

// momentInTheWorld is what is true of a measure at one position.
func momentInTheWorld(a study.Attempt, scene *simcam.Scene, m model.Measure, position string, reported float64) float64 {
	f, ok := scene.Truth.Positions[position]
	if !ok || f < 0 || f >= len(scene.Truth.Frames) || m.Pick != "" || len(m.Positions) > 0 {
		return reported
	}
	frame := scene.Truth.Frames[f]
	var places [][3]float64
	var directions []float64
	roles := sport.Of(a.Model.ID).Roles(a.Spec.Athlete, body.NearSide(a.Spec.Direction))
	for _, role := range m.Points {
		if v, ok := direction(frame, role); ok {
			directions = append(directions, v)
		}
		if p, ok := place(frame, roles, role); ok {
			places = append(places, p)
		}
	}
	near := func(v float64) float64 { return v - 360*math.Round((v-reported)/360) }
	sideways := a.Spec.View() == "side" && len(places) == 2
	switch {
	case m.Kind == "azimuth" && len(directions) == 1:
		return near(directions[0])
	case m.Kind == "lead" && len(directions) == 2:
		return near(directions[0] - directions[1])
	case m.Kind == "rim" && len(places) == 1:
		return 100 * (sport.Of(a.Model.ID).Circle/2 - math.Hypot(places[0][0], places[0][2]))
	case m.Kind == "ahead" && sideways:
		return 100 * (places[0][0] - places[1][0])
	case m.Kind == "above" && sideways:
		return 100 * (places[0][1] - places[1][1])
	case m.Kind == "reach" && sideways:
		return 100 * (places[0][0] - places[1][0]) / (body.Length(a.Spec.Athlete, "thigh") + body.Length(a.Spec.Athlete, "shank"))
	}
	return reported
}

// direction is where somebody's hips, chest or implement points, seen from above.
func direction(f simcam.Frame, who string) (float64, bool) {
	switch a := f.Azimuths; {
	case who == "hips":
		return a.Hips, true
	case who == "chest":
		return a.Shoulders, true
	case who == "ball" && a.Implement != nil:
		return *a.Implement, true
	}
	return 0, false
}

// place is where the landmarks of a role are in the mean.
func place(f simcam.Frame, roles body.Roles, role string) (at [3]float64, ok bool) {
	if who, _, _ := strings.Cut(role, "_"); who == "stance" || who == "swing" {
		return at, false // which one that is depends on the step
	}
	ids := roles.Resolve(role)
	for _, id := range ids {
		l, ok := f.Landmarks[id]
		if !ok {
			return at, false
		}
		for k := range 3 {
			at[k] += l.World[k] / float64(len(ids))
		}
	}
	return at, len(ids) > 0
}

// contacts holds touchdowns and toe-offs against the true ones, which are known to 2 ms.
func (n *numbers) contacts(by string, a study.Attempt, got report.Report, scene *simcam.Scene) {
	rate := a.Spec.CaptureRate
	for _, c := range study.Contacts(scene.Truth) {
		for i, kind := range []string{"touchdown", "toe-off"} {
			at, cut := c.From, c.Before
			if i == 1 {
				at, cut = c.To, c.After
			}
			f := int(math.Ceil(float64(at)/study.TruthRate*rate - 1e-9))
			if cut || f < 4 || f > len(a.Scene.Truth.Frames)-4 {
				continue
			}
			best, sd, found := 0, 0.0, false
			for _, b := range got.Contacts {
				frame, doubt := b.From, b.FromSD
				if i == 1 {
					frame, doubt = b.To, b.ToSD
				}
				if d := frame - f; b.Foot == c.Foot && float64(max(d, -d)) < sameMoment*rate && (!found || max(d, -d) < max(best, -best)) {
					best, sd, found = d, doubt, true
				}
			}
			n.moment(by, a.Model.ID, kind, kind, best, found, sd*rate, rate)
		}
	}
}

// positions does so with key positions that the tool looks for.
func (n *numbers) positions(by string, a study.Attempt, got report.Report, scene *simcam.Scene) {
	rate := a.Spec.CaptureRate
	for _, p := range got.Positions {
		t, ok := scene.Motion.Times[p.ID]
		if a.Model.ID == "running" {
			t, ok = nearest(scene.Motion.Times, p, scene.Motion.First, rate)
		}
		f := int(math.Ceil((t-scene.Motion.First)*rate - 1e-9))
		if pos, _ := a.Model.Position(p.ID); !ok || pos.Find == nil || f < 4 || f > len(a.Scene.Truth.Frames)-4 {
			continue
		}
		d := 0
		if p.Frame != nil {
			d = *p.Frame - f
			if move, ok := scene.Motion.Times["move"]; ok && p.ID == "set" && d > 0 && float64(*p.Frame) <= (move-scene.Motion.First)*rate {
				d = 0 // anywhere in the stillness
			}
			if max(d, -d) > 1 {
				n.outside = append(n.outside, fmt.Sprintf("%s %s: %s is %d frames off at %.0f/s, sure %.2f", a.Name, by, p.ID, d, rate, p.Confidence))
			}
		}
		n.moment(by, a.Model.ID, "position", strings.TrimRight(p.ID, "0123456789"), d, p.Frame != nil, p.SD*rate, rate)
	}
}

// nearest is when a position truly is; of a run's steps that of the one that is meant, whichever
// number it has: it is counted from the first contact that was found.
func nearest(times map[string]float64, p report.Position, first, rate float64) (float64, bool) {
	own, ok := times[p.ID]
	base := strings.TrimRight(p.ID, "0123456789")
	if p.Frame == nil || base == p.ID {
		return own, ok
	}
	at := first + float64(*p.Frame)/rate
	for id, t := range times {
		if strings.TrimRight(id, "0123456789") == base && (!ok || math.Abs(t-at) < math.Abs(own-at)) {
			own, ok = t, true
		}
	}
	return own, ok
}

// moment counts one moment that is there: how many frames it was found off, and its doubt in
// frames.
func (n *numbers) moment(by, event, kind, name string, off int, found bool, sd, rate float64) {
	good := found && max(off, -off) <= 1
	of(n.there, by, kind).add(good)
	if !found {
		return
	}
	half := 1.96 * math.Hypot(sd, 0.5)
	of(n.told, by, kind).add(good)
	of(n.honest, by, kind).add(good || float64(max(off, -off)) <= half)
	of(n.moments, by, event, name).add(float64(off)/rate, half/rate, 0)
}

// coverage is the share that the doubts of a way hold, in the worst measure of enough
// readings and in the middle of all of them.
func (n *numbers) coverage(w way) (least, mean float64) {
	least = 100
	count := 0.0
	for _, s := range n.byMeasure(w.String()) {
		if len(s.off) >= leastTold {
			least = math.Min(least, s.covered())
			mean, count = mean+s.covered(), count+1
		}
	}
	return least, mean / math.Max(1, count)
}

// byMeasure brings the events of a way together.
func (n *numbers) byMeasure(by string) map[string]*stated {
	out := map[string]*stated{}
	for k, s := range n.readings {
		if p := strings.Split(k, "|"); p[0] == by {
			t := of(out, p[1])
			t.off, t.half = append(t.off, s.off...), append(t.half, s.half...)
		}
	}
	return out
}

// bias is the largest mean error of a kind of moment in an event, ms.
func (n *numbers) bias(w way) (worst float64) {
	for k, s := range n.moments {
		if strings.HasPrefix(k, w.String()+"|") && len(s.off) >= leastTold {
			worst = math.Max(worst, 1000*math.Abs(s.mean()))
		}
	}
	return worst
}

// share is that of all kinds of moments of a way.
func shareOf(m map[string]*share, w way) float64 {
	var all share
	for k, s := range m {
		if strings.HasPrefix(k, w.String()+"|") {
			all.join(*s)
		}
	}
	return all.percent()
}

// release is how often speed, angle and height of a release are held by their doubts, %, in
// the worst of the three.
func (n *numbers) release() float64 {
	worst := 100.0
	for _, kind := range []string{"release_speed", "release_angle", "release_height"} {
		var all stated
		for _, w := range []way{tracked, byDraft, flagged} {
			if s := n.byMeasure(w.String())[kind]; s != nil {
				all.off, all.half = append(all.off, s.off...), append(all.half, s.half...)
			}
		}
		worst = math.Min(worst, all.covered())
	}
	return worst
}

// tables are what the document shows: moments, and every measure at every event by what the
// points were like. Each cell of the latter is how many hold the truth, %, then the middle error
// and the middle half width.
func (n *numbers) tables() string {
	var w strings.Builder
	fmt.Fprintln(&w, "| points | moments | within one frame, of those there, % | of those stated, % | of those, or within the doubt, % |\n|---|---|---|---|---|")
	for _, k := range sorted(n.there) {
		by, kind, _ := strings.Cut(k, "|")
		fmt.Fprintf(&w, "| %s | %s | %.0f | %.0f | %.0f |\n", by, kind, n.there[k].percent(), of(n.told, k).percent(), of(n.honest, k).percent())
	}
	fmt.Fprintln(&w, "\n| event | moment | number, mean error, covered: "+strings.Join(names(allWays[:3]), " | ")+" |\n|---|---|---|---|---|")
	for _, k := range rows(n.moments) {
		fmt.Fprintf(&w, "| %s |", strings.ReplaceAll(k, "|", " | "))
		for _, by := range allWays[:3] {
			if s := n.moments[by.String()+"|"+k]; s != nil {
				fmt.Fprintf(&w, " %d, %+.1f ms, %.0f %% |", len(s.off), 1000*s.mean(), s.covered())
			} else {
				w.WriteString(" |")
			}
		}
		w.WriteString("\n")
	}
	fmt.Fprintln(&w, "\n| measure | event | covered, error, half width: "+strings.Join(names(allWays[1:]), " | ")+" |\n|---|---|---|---|---|---|")
	for _, k := range rows(n.readings) {
		fmt.Fprintf(&w, "| %s |", strings.ReplaceAll(k, "|", " | "))
		for _, by := range allWays[1:] {
			s := n.readings[by.String()+"|"+k]
			if s == nil {
				w.WriteString(" |")
				continue
			}
			off, half := s.middle()
			fmt.Fprintf(&w, " %.0f %% of %d, %.2g, %.2g |", s.covered(), len(s.off), off, half)
		}
		w.WriteString("\n")
	}
	fmt.Fprintf(&w, "\nWithheld of drafts, moments flagged, where the truth gives them: %s.\n", strings.ReplaceAll(strings.Join(append(n.withdrawn(), "no other"), "; "), "|", " "))
	return w.String()
}

func names(list []way) (out []string) {
	for _, w := range list {
		out = append(out, w.String())
	}
	return out
}

// rows are the keys of a map without the way.
func rows[V any](m map[string]V) (out []string) {
	for _, k := range sorted(m) {
		if _, rest, _ := strings.Cut(k, "|"); !slices.Contains(out, rest) {
			out = append(out, rest)
		}
	}
	slices.Sort(out)
	return out
}

// tell writes what is outside its doubt, where that is asked for.
func (n *numbers) tell(w io.Writer) {
	for _, by := range sorted(n.certain) {
		for _, f := range n.certain[by] {
			fmt.Fprintln(w, "certain and not there:", by, f)
		}
	}
	for _, s := range append(slices.Clone(n.broken), n.doubted...) {
		fmt.Fprintln(w, "broken, or doubted without reason:", s)
	}
	if os.Getenv("NEO_TELL") == "" {
		return
	}
	for _, way := range allWays {
		kinds := n.byMeasure(way.String())
		for _, k := range sorted(kinds) {
			s := kinds[k]
			off, half := s.middle()
			fmt.Fprintf(w, "| %s | %s | %d | %.0f | %.2f | %.2f |\n", way, k, len(s.off), s.covered(), off, half)
		}
	}
	for _, k := range sorted(n.moments) {
		s := n.moments[k]
		fmt.Fprintf(w, "| %s | %d | %+.1f ms | %.0f |\n", k, len(s.off), 1000*s.mean(), s.covered())
	}
	sort.Strings(n.outside)
	for _, l := range n.outside {
		fmt.Fprintln(w, "   ", l)
	}
}

func sorted[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// doubleFound is the share of faults of twice the size that are found, %: points of a draft,
// moments and questions by a coach.
func doubleFound() (float64, error) {
	list, err := study.Doubled(lot(), doubled)
	if err != nil {
		return 0, err
	}
	var found share
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		in, err := drawnInput(a, way{study.Drafts, true})
		if err != nil {
			return err
		}
		points.Answer(a.Model, a.Scene.Truth, &in)
		got := evaluate.Attempt(a.Model, in)
		for dial := range a.Spec.Faults {
			fault, ok := points.FaultOf(a.Model.ID, a.Spec.Variant, dial, a.Spec.Mirrored())
			if !ok {
				return fmt.Errorf("the dial %s stands for no fault", dial)
			}
			is := slices.ContainsFunc(slices.Concat(got.Findings, got.Possible), func(f report.Finding) bool { return f.Fault == fault && f.Certainty != "open" })
			mu.Lock()
			found.add(is)
			if !is && os.Getenv("NEO_TELL") != "" {
				fmt.Fprintln(os.Stderr, "    not found:", a.Name, a.Spec.Variant, a.Spec.View(), dial, fault)
			}
			mu.Unlock()
		}
		return nil
	})
	return found.percent(), err
}

// falseAlarms are faults that are said to be certain, of movements without a dialled fault,
// and that the truth does not show: by the tool alone.
func falseAlarms() (float64, error) {
	list, err := study.Draw(lot(), faultless, 0)
	if err != nil {
		return 0, err
	}
	alarms := 0.0
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		truth, _, err := a.Truth()
		if err != nil {
			return err
		}
		in, err := drawnInput(a, byDraft)
		if err != nil {
			return err
		}
		for _, f := range evaluate.Attempt(a.Model, in).Findings {
			if f.Certainty == "certain" && !there(truth, f.Fault) {
				mu.Lock()
				alarms++
				fmt.Fprintln(os.Stderr, "    certain and not there:", a.Name, f.Fault, f.Readings)
				mu.Unlock()
			}
		}
		return nil
	})
	if n := faultless * len(move.Events()); n < 300 {
		return alarms, fmt.Errorf("only %d faultless movements", n)
	}
	return alarms, err
}

// covers is [numbers.coverage] of a way.
func (l *Lab) covers(w way, worst bool) (float64, error) {
	n, err := l.numbers()
	if err != nil {
		return 0, err
	}
	least, mean := n.coverage(w)
	if worst {
		return least, nil
	}
	return mean, nil
}

// Of a javelin of the men: 800 g, 2.65 m, thrown at shoulder height with its point along the
// way.
var thrownJavelin = flight.Javelin{Mass: 0.8, Length: 2.65}

// javelinRange is how far it flies at a speed and 35 degrees, m.
func javelinRange(speed float64) (float64, error) {
	return flight.Thrown{Height: 1.8, Angle: angles.Rad(35)}.Distance(thrownJavelin, flight.Still, speed)
}

// javelinBest is the angle at which it flies farthest at 28 m/s, degrees.
func javelinBest() (best float64, err error) {
	farthest := 0.0
	for angle := 15.0; angle <= 50; angle += 0.5 {
		d, err := flight.Thrown{Height: 1.8, Angle: angles.Rad(angle)}.Distance(thrownJavelin, flight.Still, 28)
		if err != nil {
			return 0, err
		}
		if d > farthest {
			best, farthest = angle, d
		}
	}
	return best, nil
}

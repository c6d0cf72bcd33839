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

	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/points"
	"neokinema/simcam/study"
)

// Numbers on movements that nobody shaped anything on: what is stated against what is true,
// by measure, event and noise of the points.
//
// NEO_STUDY=build or spare measures a lot that may be built on; NEO_TELL names what is
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

// ways that are tried.
var ways = []way{{study.Exact, false}, {study.White, false}, {study.Drafts, false}, {study.White, true}, {study.Drafts, true}}

// stated are values with their doubt against what is true.
type stated struct{ off, half, truth []float64 }

func (s *stated) add(value, half, truth float64) {
	s.off, s.half, s.truth = append(s.off, value-truth), append(s.half, half), append(s.truth, truth)
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

// moments are touchdowns, toe-offs and key positions that were found.
type moments struct {
	off    map[string]*stated // by event and kind; s
	within map[string]*share  // one frame, by kind
}

// numbers is what a lot shows.
type numbers struct {
	readings map[string]*stated // "way|kind|event"
	moments  map[string]*stated // "way|event|position", "way|event|touchdown"; s
	frames   map[string]*share  // "way|kind of moment": within one frame, of what is there
	stated   map[string]*share  // the same, of what is stated
	certain  map[string][]string
	clean    map[string]int // attempts without a fault
	wrong    []string
}

func newNumbers() *numbers {
	return &numbers{readings: map[string]*stated{}, moments: map[string]*stated{}, frames: map[string]*share{}, stated: map[string]*share{}, certain: map[string][]string{}, clean: map[string]int{}}
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

// Study measures n attempts at every event.
func Study(l study.Lot, n int, ways []way) (*numbers, error) {
	list, err := study.Draw(l, n, 2)
	if err != nil {
		return nil, err
	}
	out := newNumbers()
	var mu sync.Mutex
	var g errgroup.Group
	g.SetLimit(runtime.NumCPU())
	for _, a := range list {
		if only := os.Getenv("NEO_ONLY"); only != "" && !strings.Contains(a.Name, only) {
			continue
		}
		g.Go(func() error {
			truth, scene, err := a.Truth()
			if err != nil {
				return err
			}
			for _, w := range ways {
				in := a.Input(w.noise, w.flags)
				if w.noise.Draft {
					mend(a, &in)
				}
				got := evaluate.Attempt(a.Model, in)
				mu.Lock()
				out.compare(w, a, got, truth, scene)
				mu.Unlock()
			}
			return nil
		})
	}
	return out, g.Wait()
}

// compare holds one report against what is true.
func (n *numbers) compare(w way, a study.Attempt, got, truth report.Report, scene *simcam.Scene) {
	by, event := w.String(), a.Model.ID
	for _, p := range got.Problems {
		if strings.Contains(p, "could not be computed") {
			n.wrong = append(n.wrong, a.Name+" "+by+": "+p)
		}
	}
	for _, r := range got.Readings {
		want, ok := truth.Reading(r.ID)
		if r.Source == "coach" || r.Value == nil || !ok || want.Value == nil {
			continue
		}
		cp, _ := a.Model.Checkpoint(r.ID)
		if leaves := scene.Truth.Release; leaves != nil {
			switch cp.Measure.Kind {
			case "release_speed":
				want.Value.Value = leaves.Speed
			case "release_angle":
				want.Value.Value = leaves.Angle
			case "release_height":
				want.Value.Value = leaves.Height
			}
		}
		of(n.readings, by, cp.Measure.Kind, event).add(r.Value.Value, r.Value.Half95, want.Value.Value)
		if off := r.Value.Value - want.Value.Value; math.Abs(off) > r.Value.Half95 {
			n.wrong = append(n.wrong, fmt.Sprintf("%s %s: %s %s %.2f +-%.2f, truly %.2f", a.Name, by, cp.Measure.Kind, r.ID, r.Value.Value, r.Value.Half95, want.Value.Value))
		}
	}
	n.moment(w, a, got, scene)
	for _, f := range got.Findings {
		if f.Certainty == "certain" && !there(truth, f.Fault) {
			n.certain[by] = append(n.certain[by], fmt.Sprintf("%s: %s %v", a.Name, f.Fault, f.Readings))
		}
	}
}

// moment holds contacts and key positions against the true moments: between frames, by the
// motion itself.
func (n *numbers) moment(w way, a study.Attempt, got report.Report, scene *simcam.Scene) {
	if w.flags {
		return
	}
	by, event, rate := w.String(), a.Model.ID, a.Spec.CaptureRate
	frames := len(a.Scene.Truth.Frames)
	for _, c := range study.Contacts(scene.Truth) {
		ends := []struct {
			kind string
			at   float64
			skip bool
		}{{"touchdown", float64(c.From), c.Before}, {"toe-off", float64(c.To), c.After}}
		for i, e := range ends {
			at := e.at / 480 // s; the first frame of the fast camera that shows it
			f := int(math.Ceil(at*rate - 1e-9))
			if e.skip || f < 4 || f > frames-4 {
				continue
			}
			best, sd, found := math.MaxInt, 0.0, false
			for _, b := range got.Contacts {
				frame, doubt := b.From, b.FromSD
				if i == 1 {
					frame, doubt = b.To, b.ToSD
				}
				if d := frame - f; b.Foot == c.Foot && max(d, -d) < max(best, -best) {
					best, sd, found = d, doubt, true
				}
			}
			n.within(by, e.kind, best, found && float64(max(best, -best)) < 0.1*rate)
			if found && float64(max(best, -best)) < 0.1*rate {
				of(n.moments, by, event, e.kind).add(float64(best)/rate, 1.96*math.Hypot(sd, 0.5/rate), 0)
			}
		}
	}
	for _, p := range got.Positions {
		t, ok := scene.Motion.Times[p.ID]
		if !ok {
			continue
		}
		f := int(math.Ceil((t-scene.Motion.First)*rate - 1e-9))
		if pos, _ := a.Model.Position(p.ID); pos.Find == nil || f < 4 || f > frames-4 {
			continue
		}
		if p.Frame == nil {
			n.within(by, "position", 0, false)
			continue
		}
		d := *p.Frame - f
		if move, ok := scene.Motion.Times["move"]; ok && p.ID == "set" && d > 0 && float64(*p.Frame) <= (move-scene.Motion.First)*rate {
			d = 0
		}
		n.within(by, "position", d, true)
		if max(d, -d) > 1 {
			n.wrong = append(n.wrong, fmt.Sprintf("%s %s: position %s %d frames off at %.0f/s, sure %.2f", a.Name, by, p.ID, d, rate, p.Confidence))
		}
		of(n.moments, by, event, strings.TrimRight(p.ID, "0123456789")).add(float64(d)/rate, 0, 0)
	}
}

// within counts a moment that is there, and if it was found one that is stated.
func (n *numbers) within(by, kind string, off int, found bool) {
	good := found && max(off, -off) <= 1
	of(n.frames, by, kind).add(good)
	if found {
		of(n.stated, by, kind).add(good)
	}
}

// print writes tables.
func (n *numbers) print(w io.Writer) {
	fmt.Fprintln(w, "| points | kind of moment | within one frame, of those there, % | of those stated, % |\n|---|---|---|---|")
	for _, k := range sorted(n.frames) {
		by, kind, _ := strings.Cut(k, "|")
		fmt.Fprintf(w, "| %s | %s | %.0f | %.0f |\n", by, kind, n.frames[k].percent(), of(n.stated, k).percent())
	}
	fmt.Fprintln(w, "\n| points | event | moment | number | mean error, ms | middle error, ms | covered, % |\n|---|---|---|---|---|---|---|")
	for _, k := range sorted(n.moments) {
		p, s := strings.Split(k, "|"), n.moments[k]
		off, _ := s.middle()
		fmt.Fprintf(w, "| %s | %s | %s | %d | %.1f | %.1f | %.0f |\n", p[0], p[1], p[2], len(s.off), 1000*s.mean(), 1000*off, s.covered())
	}
	// By kind over all events, then by kind and event.
	kinds := map[string]*stated{}
	for _, k := range sorted(n.readings) {
		p, s := strings.Split(k, "|"), n.readings[k]
		for i := range s.off {
			of(kinds, p[0], p[1]).add(s.off[i], s.half[i], 0)
		}
	}
	fmt.Fprintln(w, "\n| points | measure | number | covered, % | middle error | middle half width |\n|---|---|---|---|---|---|")
	for _, k := range sorted(kinds) {
		p, s := strings.Split(k, "|"), kinds[k]
		off, half := s.middle()
		fmt.Fprintf(w, "| %s | %s | %d | %.0f | %.2f | %.2f |\n", p[0], p[1], len(s.off), s.covered(), off, half)
	}
	for _, by := range sortedKeys(n.certain) {
		for _, f := range n.certain[by] {
			fmt.Fprintln(w, "certain and not there:", by, f)
		}
	}
	if os.Getenv("NEO_TELL") != "" {
		sort.Strings(n.wrong)
		for _, l := range n.wrong {
			fmt.Fprintln(w, "   ", l)
		}
	}
}

func sorted[V any](m map[string]*V) []string { return sortedKeys(m) }

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

var _ = points.Score{}

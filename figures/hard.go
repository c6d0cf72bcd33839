package figures

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"neokinema/core/body"
	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/pose"
	"neokinema/core/repair"
	"neokinema/core/report"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/internal/inference"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/videoanalysis"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/hard"
	"neokinema/simcam/points"
	"neokinema/web"
)

// The hard set: clips as phones film them, read without any correction. What a coach
// answers on the sheet of a clip (rate, view, direction) is given; nothing else is.
//
// NEO_HARD=build measures the half that may be built on, and NEO_DRAFTS names a folder in
// which raw drafts are kept between runs: both for work on the computation. The figures
// are of the other half, with everything made anew.

// hardness is what the hard set shows.
type hardness struct {
	clips                                   int
	certainWrong, orderViolations           float64
	sides                                   share
	statedContacts, contactsFound, statedAt share
	copies, rates                           share // clips whose copies, whose rate are told rightly
	answers                                 []float64
	covered                                 share
	byMeasure                               map[string]*share // coverage by kind of measure
	byKind                                  map[string]*tally // by kind of difficulty
	exchanged                               float64           // clips in which somebody else is followed
	ball                                    share             // frames of an implement on its orbit
	turns                                   share             // throws whose turns are counted right, or withheld
}

// share counts what holds.
type share struct{ good, all float64 }

func (s *share) add(ok bool) {
	s.all++
	if ok {
		s.good++
	}
}

func (s *share) join(o share) { s.good, s.all = s.good+o.good, s.all+o.all }

func (s share) percent() float64 { return 100 * s.good / math.Max(1, s.all) }

// tally is what goes into the table by kind of difficulty.
type tally struct {
	clips                            int
	sides, contacts, found, position share
	stated, withheld, wrong, certain float64
}

// hardClip is one clip with what was read from it and what is true.
type hardClip struct {
	film   hard.Film
	model  model.Model
	input  evaluate.Input
	got    report.Report
	truth  report.Report // from the true places of the same camera, at a rate that no phone has
	clock  float64       // frames a second of the truth
	raw    kinematics.Points
	seen   media.Motion // what the import sees
	tall   float64
	placed map[string]int // frames of the file that are the first to show a key position
}

// hardSet is the half that is reported on, or, for whoever builds, what NEO_HARD names:
// build, or spare-1, spare-2, ...
func hardSet() []hard.Clip {
	half := os.Getenv("NEO_HARD")
	if lot, ok := strings.CutPrefix(half, "spare-"); ok {
		if n, err := strconv.Atoi(lot); err == nil {
			return hard.Spare(n)
		}
	}
	return slices.DeleteFunc(hard.Set(), func(c hard.Clip) bool { return c.Report == (half == "build") })
}

func (l *Lab) hard() (hardness, error) {
	if l.hardSet != nil {
		return *l.hardSet, nil
	}
	out := hardness{byMeasure: map[string]*share{}, byKind: map[string]*tally{}}
	networks, err := inference.Open(testenv.Library(), web.Files())
	if err != nil {
		return out, err
	}
	var g errgroup.Group
	g.SetLimit(runtime.NumCPU())
	var mu sync.Mutex
	var done []*hardClip
	for _, c := range hardSet() {
		if only := os.Getenv("NEO_ONLY"); only != "" && !strings.Contains(c.Name, only) {
			continue
		}
		g.Go(func() error {
			x, err := readHard(c, networks)
			if err != nil {
				return fmt.Errorf("%s: %w", c.Name, err)
			}
			mu.Lock()
			defer mu.Unlock()
			done = append(done, x)
			return nil
		})
	}
	if err := g.Wait(); err != nil {
		return out, err
	}
	sort.Slice(done, func(i, j int) bool { return done[i].film.Name < done[j].film.Name })
	for _, x := range done {
		x.score(&out)
	}
	out.print()
	l.hardSet = &out
	return out, nil
}

// readHard draws, drafts and evaluates one clip as the server does.
func readHard(c hard.Clip, networks *inference.Networks) (*hardClip, error) {
	film, err := c.Draw(context.Background(), testenv.Drawn())
	if err != nil {
		return nil, err
	}
	return readFilm(film, networks)
}

// readFilm drafts and evaluates one film.
func readFilm(film hard.Film, networks *inference.Networks) (*hardClip, error) {
	ctx, c := context.Background(), film.Clip
	dir, err := os.MkdirTemp("", "neokinema-hard-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	info, err := media.Probe(ctx, film.Path)
	if err != nil {
		return nil, err
	}
	proxy := filepath.Join(dir, "proxy.mp4")
	p, err := media.MakeProxy(ctx, film.Path, proxy, info, func(int) {})
	if err != nil {
		return nil, err
	}
	n := len(p.Stamps)
	if n != len(film.Truth.Frames) {
		return nil, fmt.Errorf("%d frames in the file, %d in the truth", n, len(film.Truth.Frames))
	}
	m, err := models.Load(c.Spec.Event)
	if err != nil {
		return nil, err
	}
	x := &hardClip{film: film, model: m.As(film.Truth.Variant)}
	x.seen = p.Motion
	clip := store.Clip{Width: info.Width, Height: info.Height, ProxyScale: p.Scale, Stamps: p.Stamps, FileRate: info.FileRate, CaptureRate: film.Rate, Pictures: x.seen.Pictures, View: c.Spec.View(), Direction: c.Spec.Direction}
	if x.raw, err = rawDraft(ctx, film.Path, proxy, p, clip, 1, networks); err != nil {
		return nil, err
	}
	who := c.Spec.Athlete
	who.ThrowingHand, who.TakeoffLeg = c.Spec.Hand, c.Spec.Leg
	x.input = evaluate.Input{Model: m.ID, Variant: film.Truth.Variant, Turns: film.Spec.Turns, Athlete: who, Clip: clip.Facts(), Flags: map[string]int{}, Points: kinematics.Points{}, Answers: map[string]evaluate.Judgement{}}
	for id, t := range x.raw {
		x.input.Points[id] = t.Clone()
	}
	apply := func(changes kinematics.Points) {
		for id, change := range changes {
			if x.input.Points[id] == nil {
				x.input.Points[id] = track.New(0)
			}
			x.input.Points[id].Apply(change, false)
		}
	}
	apply(repair.Draft(m, x.input).Changes)
	grays := func(from, to int, scale float64, each func(media.Picture) error) error {
		w, h := int(math.Round(float64(p.Width)*scale)), int(math.Round(float64(p.Height)*scale))
		way := media.Shrink
		if scale > 1 {
			way = media.Enlarge
		}
		return media.Grays(ctx, proxy, p.Stamps, from, to, w, h, way, each)
	}
	r, err := videoanalysis.Refine(clip, x.input.Points, grays, func(int, int) error { return nil })
	var none *problem.Problem
	if err != nil && !errors.As(err, &none) { // that nobody was found is a result, too
		return nil, err
	}
	apply(r.Changes)
	x.input.Camera, x.input.Contacts = r.Camera, r.Contacts
	if swung, ok := videoanalysis.SwungBy(m.ID, who); ok {
		change, _, err := videoanalysis.Orbit(clip, swung, x.input.Points, r.Camera, grays)
		if err != nil {
			return nil, err
		}
		if change != nil {
			apply(kinematics.Points{"ball": change})
		}
	}
	x.got = evaluate.Attempt(m, x.input)
	return x, x.know()
}

// rawDraft runs the networks over a clip, on every so many frames.
func rawDraft(ctx context.Context, path, proxy string, p media.Proxy, clip store.Clip, step int, networks *inference.Networks) (kinematics.Points, error) {
	kept := os.Getenv("NEO_DRAFTS")
	if kept != "" {
		kept = filepath.Join(kept, strings.TrimSuffix(filepath.Base(path), ".mp4")+".json")
		var pts kinematics.Points
		if raw, err := os.ReadFile(kept); err == nil && json.Unmarshal(raw, &pts) == nil {
			return pts, nil
		}
	}
	worker, err := networks.Worker()
	if err != nil {
		return nil, err
	}
	defer worker.Close()
	pts, err := lookedAt(ctx, proxy, p, clip, nil, pose.Wish{To: len(p.Stamps) - 1, Step: step}, worker)
	if err != nil {
		return nil, err
	}
	if kept != "" {
		if raw, err := json.Marshal(pts); err == nil {
			_ = os.WriteFile(kept, raw, 0o644) // only to save time
		}
	}
	return pts, nil
}

// lookedAt runs the networks over the frames of a proxy that are wished for; a box says who
// is meant.
func lookedAt(ctx context.Context, proxy string, p media.Proxy, clip store.Clip, box *pose.Box, wish pose.Wish, worker *inference.Worker) (kinematics.Points, error) {
	d := pose.New(pose.Clip{Width: clip.Width, Height: clip.Height, Scale: clip.ProxyScale, Frames: len(p.Stamps), Rate: clip.FileRate, Pictures: clip.Pictures}, nil, box, wish)
	frames := d.Frames()
	look := func(list []int) error {
		if len(list) == 0 {
			return nil
		}
		return media.Frames(ctx, proxy, p.Stamps, list[0], list[len(list)-1], p.Width, p.Height, func(q media.Picture) error {
			if !slices.Contains(list, q.Frame) {
				return nil
			}
			pic, err := pose.NewPicture(pose.I420, q.Width, q.Height, q.Pix)
			if err == nil {
				_, err = d.Look(q.Frame, pic, worker)
			}
			return err
		})
	}
	for len(frames) > 0 {
		end := 1
		for end < len(frames) && frames[end] > frames[end-1] {
			end++
		}
		if err := look(frames[:end]); err != nil {
			return nil, err
		}
		frames = frames[end:]
	}
	pts := kinematics.Points(d.Changes())
	for _, t := range pts {
		for i, l := range t.Source {
			if l == track.Keep {
				t.Source[i] = track.Empty
			}
		}
	}
	return pts, nil
}

// truthRate is the rate of the camera that sees what is true.
const truthRate = 480

// know works out what is true of a clip: readings from the true places, as the same camera
// sees them, at the true moments.
func (x *hardClip) know() error {
	s := x.film.Spec
	s.CaptureRate, s.FileRate, s.Camera.Exposure = truthRate, 30, 0
	sc, err := simcam.New(s)
	if err != nil {
		return err
	}
	t := sc.Truth
	in := points.Input(t, points.All(t, 0, 1))
	for id, f := range t.Positions {
		in.Flags[id] = f
	}
	in.Athlete = x.input.Athlete
	in.Ground = points.Circle(t, 0, 1)
	x.truth = evaluate.Attempt(x.model, in)
	x.clock = truthRate
	x.placed = x.film.Truth.Positions
	var talls []float64
	for _, f := range x.film.Truth.Frames {
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, l := range f.Landmarks {
			lo, hi = math.Min(lo, l.Image[1]), math.Max(hi, l.Image[1])
		}
		talls = append(talls, hi-lo)
	}
	x.tall = middle(talls)
	return nil
}

// nearest is the true frame of a position; of a running step, which has no number of its
// own, the one nearest to a frame.
func (x *hardClip) nearest(id string, frame int) (at int, ok bool) {
	base := strings.TrimRight(id, "0123456789")
	if x.model.ID != "running" || base == id {
		at, ok = x.placed[id]
		return at, ok
	}
	far := func(f int) int { return max(f-frame, frame-f) }
	for _, other := range slices.Sorted(maps.Keys(x.placed)) {
		if f := x.placed[other]; strings.TrimRight(other, "0123456789") == base && (!ok || far(f) < far(at)) {
			at, ok = f, true
		}
	}
	return at, ok
}

// slack is how far a stated moment may be off, frames of the file: one picture of the
// camera at 60 a second and below, else 20 ms.
func (x *hardClip) slack() int {
	pictures := 1
	if x.film.Export.Factor > 1 {
		pictures = x.film.Export.Factor // repeats and blends have no more in them
	} else if x.film.Export.Rate > 0 {
		pictures = int(math.Ceil(x.film.Export.Rate / x.film.Spec.CaptureRate))
	}
	return max(pictures, int(0.02*x.film.Rate))
}

// lands tells whether a foot truly comes down, or leaves, about a frame.
func (x *hardClip) lands(foot body.Side, f int, down bool) bool {
	t := x.film.Truth
	for k := f - x.slack(); k <= f+x.slack(); k++ {
		if k > 0 && k < len(t.Frames) && points.Down(t, foot, k) == down && points.Down(t, foot, k-1) != down {
			return true
		}
	}
	return false
}

func (x *hardClip) score(out *hardness) {
	out.clips++
	t := x.film.Truth
	var mine tally
	mine.clips = 1

	x.scoreCopies(out)
	out.answers = append(out.answers, x.answers())
	x.scoreBall(out)
	x.scoreTurns(out)
	x.scorePerson(out)

	// Sides: frames in which the legs are named as they are, where they are far enough
	// apart to tell.
	for f := range t.Frames {
		right, wrong := 0.0, 0.0
		for _, part := range []string{"knee", "ankle"} {
			l, okL := x.input.Points.At("left_"+part, f)
			r, okR := x.input.Points.At("right_"+part, f)
			wl, wr := t.Frames[f].Landmarks["left_"+part].Image, t.Frames[f].Landmarks["right_"+part].Image
			if !okL || !okR || math.Hypot(wl[0]-wr[0], wl[1]-wr[1]) < 0.12*x.tall {
				continue
			}
			right += math.Hypot(l.X-wl[0], l.Y-wl[1]) + math.Hypot(r.X-wr[0], r.Y-wr[1])
			wrong += math.Hypot(l.X-wr[0], l.Y-wr[1]) + math.Hypot(r.X-wl[0], r.Y-wl[1])
		}
		if right+wrong > 0 {
			mine.sides.add(right <= wrong)
		}
	}

	// Contacts: those that are shown as surely there.
	for _, b := range x.got.Contacts {
		at := func(f int, down bool) bool { return x.lands(b.Foot, f, down) }
		pushed := strings.HasSuffix(b.Name, "pedal") // since the first movement, not since the foot came
		if b.From > 3 && !pushed {
			mine.contacts.add(at(b.From, true))
		}
		if b.To < len(t.Frames)-3 {
			mine.contacts.add(at(b.To, false))
		}
		if os.Getenv("NEO_TELL") != "" && (b.From > 3 && !pushed && !at(b.From, true) || b.To < len(t.Frames)-3 && !at(b.To, false)) {
			fmt.Fprintf(os.Stderr, "    %s %s %s %d-%d (sd %.3f %.3f s), truly %v\n", x.film.Name, b.Foot, b.Name, b.From, b.To, b.FromSD, b.ToSD, x.down(b.Foot, b.From-10, b.To+10))
		}
	}
	// Of those one end of which is open, the other.
	for _, b := range x.got.Glimpses {
		f, down := b.From, true
		switch b.Open {
		case "both":
			continue // neither is stated
		case "from":
			f, down = b.To, false
		}
		if f <= 3 || f >= len(t.Frames)-3 {
			continue
		}
		good := x.lands(b.Foot, f, down)
		mine.contacts.add(good)
		if !good && os.Getenv("NEO_TELL") != "" {
			fmt.Fprintf(os.Stderr, "    %s %s %d-%d, %s open, truly %v\n", x.film.Name, b.Foot, b.From, b.To, b.Open, x.down(b.Foot, b.From-10, b.To+10))
		}
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		for f := 4; f < len(t.Frames)-3; f++ {
			if !points.Down(t, side, f) || points.Down(t, side, f-1) {
				continue
			}
			near := func(foot body.Side, from int) bool { return foot == side && max(from-f, f-from) <= 2*x.slack() }
			mine.found.add(slices.ContainsFunc(x.got.Contacts, func(b contact.Interval) bool { return near(b.Foot, b.From) }) ||
				slices.ContainsFunc(x.got.Glimpses, func(b contact.Glimpse) bool { return near(b.Foot, b.From) }))
		}
	}

	// Key positions that the tool states.
	for _, p := range x.got.Positions {
		if p.Frame == nil || p.Source != "tool" {
			continue
		}
		want, ok := x.nearest(p.ID, *p.Frame)
		if !ok {
			if _, known := x.model.Position(p.ID); known {
				mine.position.add(false) // the movement does not have it in this clip
			}
			continue
		}
		d := *p.Frame - want
		if move, ok := x.placed["move"]; ok && p.ID == "set" && d > 0 && *p.Frame <= move {
			d = 0
		}
		good := max(d, -d) <= x.slack()
		mine.position.add(good)
		if !good && os.Getenv("NEO_TELL") != "" {
			fmt.Fprintf(os.Stderr, "    %s %s at %d, truly %d (sure %.2f)\n", x.film.Name, p.ID, *p.Frame, want, p.Confidence)
		}
	}

	// Readings against what is true.
	for _, r := range x.got.Readings {
		if r.Source == "coach" {
			continue
		}
		if r.Value == nil {
			mine.withheld++
			continue
		}
		mine.stated++
		cp, _ := x.model.Checkpoint(r.ID)
		want, ok := x.truth.Reading(r.ID)
		inside := ok && want.Value != nil && math.Abs(r.Value.Value-want.Value.Value) <= r.Value.Half95+1e-9
		if ok && want.Value == nil {
			continue // the true camera cannot say either
		}
		out.covered.add(inside)
		kind := cp.Measure.Kind
		if out.byMeasure[kind] == nil {
			out.byMeasure[kind] = &share{}
		}
		out.byMeasure[kind].add(inside)
		if !inside {
			mine.wrong++
			if os.Getenv("NEO_TELL") != "" && want.Value != nil {
				fmt.Fprintf(os.Stderr, "    %s %s = %.1f +-%.1f, truly %.1f\n", x.film.Name, r.ID, r.Value.Value, r.Value.Half95, want.Value.Value)
			}
		}
	}
	if v := impossible(x.model, x.got); len(v) > 0 {
		out.orderViolations += float64(len(v))
		if os.Getenv("NEO_TELL") != "" {
			fmt.Fprintf(os.Stderr, "    %s impossible: %v\n", x.film.Name, v)
		}
	}
	for _, f := range x.got.Findings {
		if f.Certainty != "certain" || there(x.truth, f.Fault) {
			continue
		}
		mine.certain++
		fmt.Fprintf(os.Stderr, "    %s: %s is certain and not there (%v)\n", x.film.Name, f.Fault, f.Readings)
	}
	out.certainWrong += mine.certain
	out.sides.join(mine.sides)
	out.statedContacts.join(mine.contacts)
	out.contactsFound.join(mine.found)
	out.statedAt.join(mine.position)
	fmt.Fprintf(os.Stderr, "  %-22s tall %3.0f %3.0f/s sides %3.0f %% contacts %2.0f of %2.0f right, %2.0f of %2.0f found, positions %2.0f of %2.0f, readings %2.0f (%2.0f withheld, %2.0f outside), certain wrong %.0f %v\n",
		x.film.Name, x.tall, x.film.Rate, mine.sides.percent(), mine.contacts.good, mine.contacts.all, mine.found.good, mine.found.all, mine.position.good, mine.position.all, mine.stated, mine.withheld, mine.wrong, mine.certain, x.film.Kinds)
	if os.Getenv("NEO_TELL") != "" {
		fmt.Fprintf(os.Stderr, "    problems %v, scale %v, contacts %d, by picture %d\n", x.got.Problems, x.got.Scale != nil, len(x.got.Contacts), len(x.input.Contacts))
	}
	for _, k := range x.film.Kinds {
		if out.byKind[k] == nil {
			out.byKind[k] = &tally{}
		}
		t := out.byKind[k]
		t.clips++
		t.sides.join(mine.sides)
		t.contacts.join(mine.contacts)
		t.found.join(mine.found)
		t.position.join(mine.position)
		t.stated, t.withheld, t.wrong, t.certain = t.stated+mine.stated, t.withheld+mine.withheld, t.wrong+mine.wrong, t.certain+mine.certain
	}
}

// there tells whether a fault is present, or may be, by a report without doubt.
func there(r report.Report, fault string) bool {
	is := func(f report.Finding) bool { return f.Fault == fault }
	return slices.ContainsFunc(r.Findings, is) || slices.ContainsFunc(r.Possible, is)
}

// impossible lists what a report shows that cannot be: positions out of order, times below
// zero, shares above all, angles that no joint has, a foot that is down twice at once.
func impossible(m model.Model, r report.Report) (out []string) {
	last, name := -1, ""
	for _, p := range m.Positions {
		i := slices.IndexFunc(r.Positions, func(q report.Position) bool { return q.ID == p.ID && q.Frame != nil })
		if i < 0 || p.Optional {
			continue
		}
		if f := *r.Positions[i].Frame; f < last {
			out = append(out, p.ID+" before "+name)
		} else {
			last, name = f, p.ID
		}
	}
	for i, a := range r.Contacts {
		for _, b := range r.Contacts[:i] {
			if a.Foot == b.Foot && a.From < b.To && b.From < a.To {
				out = append(out, fmt.Sprintf("%s foot down twice at %d", a.Foot, a.From))
			}
		}
	}
	outside := func(id string, v uncertainty.Estimate, kind string) {
		if !evaluate.Possible(kind, v.Value) {
			out = append(out, fmt.Sprintf("%s = %.1f", id, v.Value))
		}
	}
	for _, x := range r.Readings {
		cp, ok := m.Checkpoint(x.ID)
		if !ok || x.Value == nil {
			continue
		}
		outside(x.ID, *x.Value, cp.Measure.Kind)
		for _, q := range x.Repetitions {
			outside(x.ID, q.Value, cp.Measure.Kind)
		}
	}
	for _, s := range r.Steps {
		if s.Contact != nil && s.Contact.Value <= 0 || s.Flight != nil && s.Flight.Value < 0 {
			out = append(out, fmt.Sprintf("step %d", s.N))
		}
	}
	return out
}

func (h hardness) print() {
	fmt.Fprintf(os.Stderr, "  %-12s clips sides contacts found positions stated withheld outside certain wrong\n", "")
	kinds := hard.Kinds()
	sort.Strings(kinds)
	for _, k := range kinds {
		if t := h.byKind[k]; t != nil {
			fmt.Fprintf(os.Stderr, "  %-12s %5d %4.0f%% %7.0f%% %4.0f%% %8.0f%% %6.0f %8.0f %7.0f %4.0f\n", k, t.clips, t.sides.percent(), t.contacts.percent(), t.found.percent(), t.position.percent(), t.stated, t.withheld, t.wrong, t.certain)
		}
	}
	names := make([]string, 0, len(h.byMeasure))
	for k := range h.byMeasure {
		names = append(names, k)
	}
	sort.Strings(names)
	for _, k := range names {
		fmt.Fprintf(os.Stderr, "  %-14s %3.0f of %3.0f readings cover the truth (%.0f %%)\n", k, h.byMeasure[k].good, h.byMeasure[k].all, h.byMeasure[k].percent())
	}
	fmt.Fprintf(os.Stderr, "  clips %d: certain wrong %.0f, impossible %.0f, sides %.1f %%, stated contacts right %.1f %%, found %.1f %%, positions right %.1f %%, covered %.1f %%\n",
		h.clips, h.certainWrong, h.orderViolations, h.sides.percent(), h.statedContacts.percent(), h.contactsFound.percent(), h.statedAt.percent(), h.covered.percent())
}

// down lists the true contacts of a foot about some frames.
func (x *hardClip) down(foot body.Side, from, to int) (list [][2]int) {
	for f := max(1, from); f < min(len(x.film.Truth.Frames), to); f++ {
		switch now, was := points.Down(x.film.Truth, foot, f), points.Down(x.film.Truth, foot, f-1); {
		case now && (!was || len(list) == 0):
			list = append(list, [2]int{f, f + 1})
		case now:
			list[len(list)-1][1] = f + 1
		}
	}
	return list
}

// scoreCopies looks at whether the import has told repeated and mixed pictures, and the
// rate that they lead to.
func (x *hardClip) scoreCopies(out *hardness) {
	var found, wrong, all, own float64
	for f := range x.film.Truth.Frames {
		is := byte(timebase.Own)
		if f < len(x.seen.Pictures) {
			is = x.seen.Pictures[f]
		}
		want := byte(timebase.Own)
		switch {
		case x.film.Repeated[f]:
			want = timebase.Repeated
		case x.film.Blended[f]:
			want = timebase.Blended
		}
		switch {
		case want == timebase.Own:
			own++
			if is != want {
				wrong++
			}
		default:
			all++
			if is == want {
				found++
			}
		}
	}
	ok := found >= mostCopies*all && wrong <= fewWrong*own
	if all > 0 || !ok {
		out.copies.add(ok)
	}
	offer, told := x.seen.Pictures.Offered(x.film.Spec.FileRate)
	if x.film.Export.Rate > 0 {
		offer, told = x.seen.Pictures.Offered(x.film.Export.Rate)
	}
	if told || all > 0 {
		out.rates.add(told && math.Abs(offer.Rate-x.film.Rate) < 0.03*x.film.Rate)
	}
	if os.Getenv("NEO_TELL") != "" && (all > 0 || !ok) {
		fmt.Fprintf(os.Stderr, "    %s: copies %.0f of %.0f, wrongly %.0f of %.0f, rate %.4g truly %.4g: %s\n", x.film.Name, found, all, wrong, own, offer.Rate, x.film.Rate, offer.Reason)
	}
}

// Of a clip's copies so many must be told, of its pictures so few mistaken: what stands
// still tells nothing.
const (
	mostCopies = 0.95
	fewWrong   = 0.02
)

// worstMeasure is the coverage of the measure that is covered worst, of those read at least
// ten times.
func (h hardness) worstMeasure() float64 {
	worst := 100.0
	for _, s := range h.byMeasure {
		if s.all >= 10 {
			worst = math.Min(worst, s.percent())
		}
	}
	return worst
}

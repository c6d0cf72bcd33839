package figures

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"sort"
	"time"

	"golang.org/x/sync/errgroup"

	"neokinema/core/body"
	"neokinema/core/kinematics"
	"neokinema/internal/demo"
	"neokinema/internal/inference"
	"neokinema/internal/media"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/simcam"
	"neokinema/simcam/audit"
	"neokinema/simcam/move"
	"neokinema/web"
)

// simulation is what the truth of simulated clips says of itself.
type simulation struct {
	events, faults, missed int
	slide, fall            float64 // m; share of g
}

// simulate builds every event in every variant: without a fault, with each
// fault, and once more as a left-handed child.
func (l *Lab) simulate() (simulation, error) {
	if l.simulated != nil {
		return *l.simulated, nil
	}
	var r simulation
	build := func(s simcam.Spec) (audit.Clip, error) {
		if s.Athlete.Height == 0 {
			s.Athlete = body.Person{Sex: body.Male, Height: 1.82, FrontLeg: body.Left}
		}
		s.CaptureRate, s.FileRate, s.Width, s.Height = 240, 240, 1280, 720
		sc, err := simcam.New(s)
		if err != nil {
			return audit.Clip{}, err
		}
		c := audit.Of(sc.Truth)
		r.slide = math.Max(r.slide, audit.Slide(c.Truth))
		for _, g := range audit.Falls(c.Truth) {
			r.fall = math.Max(r.fall, math.Abs(g/9.80665-1))
		}
		return c, nil
	}
	for _, e := range move.Events() {
		r.events++
		good := map[string]bool{}
		for _, v := range e.Variants {
			clean, err := build(simcam.Spec{Event: e.ID, Variant: v.ID})
			if err != nil {
				return r, err
			}
			if _, err := build(simcam.Spec{Event: e.ID, Variant: v.ID, Hand: body.Left, Leg: body.Right, Athlete: body.Person{Sex: body.Female, Height: 1.42, FrontLeg: body.Right}}); err != nil {
				return r, err
			}
			for _, b := range audit.Bands() {
				if b.Event == e.ID && (b.Variant == "" || b.Variant == v.ID) && !b.Met(clean) {
					r.missed++
				}
			}
			signs := audit.SignsOf(e.ID, v.ID)
			for i, s := range signs {
				c, err := build(simcam.Spec{Event: e.ID, Variant: v.ID, Faults: map[string]float64{s.Fault: e.Shown(v.ID, s.Fault)}})
				if err != nil {
					return r, err
				}
				ok := s.Met(clean) && !s.Met(c)
				for _, u := range signs[:i] {
					ok = ok && u.Met(c)
				}
				// A fault of several variants counts once, and only if it shows in all.
				key := s.Fault + s.Variant
				if before, seen := good[key]; seen {
					ok = ok && before
				}
				good[key] = ok
			}
		}
		for _, ok := range good {
			if ok {
				r.faults++
			}
		}
	}
	l.simulated = &r
	return r, nil
}

// RenderTime is the time of a frame of 1280x720 with motion blur on all cores,
// s: the mean of a camera that stands and one that pans and shakes.
func RenderTime() (float64, error) {
	var total float64
	for _, c := range []simcam.Camera{{Place: "back", Exposure: 0.002}, {Pan: true, Shake: 3, Exposure: 0.002}} {
		sc, err := simcam.New(simcam.Spec{Event: "hammer", Camera: c, Athlete: body.Person{Sex: body.Male, Height: 1.82}, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720})
		if err != nil {
			return 0, err
		}
		draw := sc.Pictures()
		const frames = 40
		start := time.Now()
		var g errgroup.Group
		g.SetLimit(runtime.NumCPU())
		for i := range frames {
			g.Go(func() error { draw(i * (len(sc.Truth.Frames) - 1) / frames); return nil })
		}
		if err := g.Wait(); err != nil {
			return 0, err
		}
		total += time.Since(start).Seconds() / frames / 2
	}
	return total, nil
}

// poses is what the pose model makes of clear side views.
type poses struct {
	found  float64            // share of frames
	median float64            // px over all joints
	joints map[string]float64 // median px of each
}

// pose drafts every sixth frame of clear side views of the demo and holds it against the
// truth. A person is found when the networks are half sure of the body's twelve joints on
// average and put the trunk within a quarter of the athlete's height of where it is.
func (l *Lab) pose() (poses, error) {
	if l.posed != nil {
		return *l.posed, nil
	}
	r := poses{joints: map[string]float64{}}
	networks, err := inference.Open(testenv.Library(), web.Files())
	if err != nil {
		return r, err
	}
	errs := map[string][]float64{}
	var all []float64
	seen, found := 0, 0
	for _, name := range []string{"renholm start 3.mp4", "tavi flying 30.mp4", "pim shot.mp4", "thorsby 63.mp4", "odalys jump 4.mp4", "yusra easy.mp4"} {
		raw, truth, err := demo.Shipped(name)
		if err != nil {
			return r, err
		}
		pts, err := everySixth(raw, networks)
		if err != nil {
			return r, err
		}
		here, looks := 0, 0
		for f := 0; f < len(truth.Frames); f += 6 {
			looks++
			marks := truth.Frames[f].Landmarks
			top, low := math.Inf(1), math.Inf(-1)
			for _, m := range marks {
				top, low = math.Min(top, m.Image[1]), math.Max(low, m.Image[1])
			}
			var sure, tx, ty, wx, wy float64
			off := map[string]float64{}
			for _, part := range []string{"shoulder", "elbow", "wrist", "hip", "knee", "ankle", "ear"} {
				for _, side := range []string{"left_", "right_"} {
					p, ok := pts.At(side+part, f)
					m := marks[side+part]
					if !ok {
						continue
					}
					off[side+part] = math.Hypot(p.X-m.Image[0], p.Y-m.Image[1])
					if part != "ear" {
						sure += p.Confidence / 12
					}
					if part == "shoulder" || part == "hip" {
						tx, ty, wx, wy = tx+p.X/4, ty+p.Y/4, wx+m.Image[0]/4, wy+m.Image[1]/4
					}
				}
			}
			seen++
			if sure < 0.5 || math.Hypot(tx-wx, ty-wy) > 0.25*(low-top) {
				continue
			}
			found++
			here++
			for id, d := range off {
				errs[id] = append(errs[id], d)
				all = append(all, d)
			}
		}
		fmt.Fprintf(os.Stderr, "  %s: a person in %d of %d frames\n", name, here, looks)
	}
	middle := func(v []float64) float64 {
		if len(v) == 0 {
			return math.NaN()
		}
		sort.Float64s(v)
		return v[len(v)/2]
	}
	r.found, r.median = 100*float64(found)/float64(seen), middle(all)
	ids := make([]string, 0, len(errs))
	for id := range errs {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	for _, id := range ids {
		r.joints[id] = middle(errs[id])
		fmt.Fprintf(os.Stderr, "  %-14s %5.1f px\n", id, r.joints[id])
	}
	l.posed = &r
	return r, nil
}

// everySixth drafts every sixth frame of a clip.
func everySixth(raw []byte, networks *inference.Networks) (kinematics.Points, error) {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "neokinema-pose-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	path, proxy := filepath.Join(dir, "clip.mp4"), filepath.Join(dir, "proxy.mp4")
	if err := os.WriteFile(path, raw, 0o600); err != nil {
		return nil, err
	}
	info, err := media.Probe(ctx, path)
	if err != nil {
		return nil, err
	}
	p, err := media.MakeProxy(ctx, path, proxy, info, func(int) {})
	if err != nil {
		return nil, err
	}
	return rawDraft(ctx, path, proxy, p, store.Clip{Width: info.Width, Height: info.Height, ProxyScale: p.Scale}, 6, networks)
}

// demoClips counts and weighs the clips that ship with the demo, MB.
func demoClips() (count int, total, largest float64, err error) {
	paths, err := filepath.Glob(filepath.Join(Root(), "internal", "demo", "clips", "*.mp4"))
	if err != nil {
		return 0, 0, 0, err
	}
	for _, p := range paths {
		info, err := os.Stat(p)
		if err != nil {
			return 0, 0, 0, err
		}
		mb := float64(info.Size()) / 1e6
		count, total, largest = count+1, total+mb, math.Max(largest, mb)
	}
	return count, total, largest, nil
}

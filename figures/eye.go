package figures

import (
	"context"
	"fmt"
	"log/slog"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"time"

	"neokinema/core/eye"
	"neokinema/internal/drills"
	"neokinema/internal/seeing"
	"neokinema/internal/testenv"
	"neokinema/simcam"
	"neokinema/simcam/lesson"
)

// eyeAnswers is how many answers an eye is measured by.
const eyeAnswers = 60

// EyeDPrime is how far the sensitivity that observers are told lies from theirs, on the mean of so many
// of each kind, at worst; and how often the interval holds it, %, at worst.
func EyeDPrime(observers int) (worst, held float64) {
	r := rand.New(rand.NewPCG(2026, 231))
	held = 100
	for _, d := range []float64{0.5, 1, 1.5, 2, 2.5} {
		for _, c := range []float64{-0.5, 0, 0.5} {
			var sum float64
			in := 0
			for range observers {
				var list []eye.Seen
				for k := range eyeAnswers {
					there, at := k%2 == 0, -d/2
					if there {
						at = d / 2
					}
					list = append(list, eye.Seen{There: there, Yes: at+r.NormFloat64() > c})
				}
				got, _ := eye.DetectionOf(list)
				sum += got.DPrime.Value
				if math.Abs(got.DPrime.Value-d) <= got.DPrime.Half95 {
					in++
				}
			}
			worst = math.Max(worst, math.Abs(sum/float64(observers)-d))
			held = math.Min(held, 100*float64(in)/float64(observers))
		}
	}
	return worst, held
}

// EyeThreshold is how far the threshold that observers are told lies from theirs, %, on the mean of so
// many of each kind, at worst, when the staircase chooses among the sizes that the bank has; and how far a
// single one is off, %, in the middle of all.
func EyeThreshold(observers int) (worst, single float64) {
	r := rand.New(rand.NewPCG(2026, 232))
	sizes := []float64{0.2, 0.35, 0.55, 0.75, 1, 1.3}
	var offs []float64
	for _, even := range []float64{0.2, 0.4, 0.7} {
		for _, spread := range []float64{0.2, 0.4} {
			o := eye.Observer{Even: even, Spread: spread}
			truth := even + 0.6744898*spread // three times out of four: the quartile of the normal distribution
			var sum float64
			for range observers {
				var list []eye.Sized
				for k := range eyeAnswers {
					// Every second clip has no fault, as in a set.
					size := -0.8
					if k%2 == 1 {
						size = eye.Next(list, sizes)
					}
					list = append(list, eye.Sized{Size: size, Yes: o.Sees(r, size)})
				}
				c, _ := eye.CurveOf(list)
				sum += c.Threshold.Value
				offs = append(offs, 100*math.Abs(c.Threshold.Value/truth-1))
			}
			worst = math.Max(worst, 100*math.Abs(sum/float64(observers)/truth-1))
		}
	}
	slices.Sort(offs)
	return worst, offs[len(offs)/2]
}

// EyeBias is how far the bias that observers are told for angles lies from theirs, degrees, on the mean of
// so many of each kind, at worst. They say angles to five degrees.
func EyeBias(observers int) (worst float64) {
	r := rand.New(rand.NewPCG(2026, 233))
	for _, bias := range []float64{-12, -3, 0, 6} {
		for _, scatter := range []float64{4, 9} {
			o := eye.Observer{Bias: bias, Scatter: scatter}
			var sum float64
			for range observers {
				var errs []float64
				for range eyeAnswers {
					angle := 60 + 110*r.Float64()
					errs = append(errs, o.Estimates(r, angle)-angle)
				}
				got, _ := eye.OffOf(errs)
				sum += got.Bias.Value
			}
			worst = math.Max(worst, math.Abs(sum/float64(observers)-bias))
		}
	}
	return worst
}

// EyeTruth counts what an audit finds wrong in what is said of the whole bank.
func EyeTruth() (wrong float64) {
	for n := range lesson.Scenes() {
		clips, err := lesson.Scene(n)
		if err != nil {
			continue // left out of the bank
		}
		for _, c := range clips {
			wrong += float64(len(lesson.Audit(c)))
		}
	}
	return wrong
}

// EyeBank is how many clips the bank has once it was drawn.
func EyeBank() (float64, error) {
	dir, err := os.MkdirTemp("", "neokinema-eye-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	b, err := seeing.OpenBank(dir, nil, slog.New(slog.DiscardHandler))
	if err != nil {
		return 0, err
	}
	if err := b.Fill(context.Background(), 0); err != nil {
		return 0, err
	}
	n := 0.0
	for _, c := range b.Clips() {
		path, err := b.Sheet(c.ID)
		if err != nil {
			return 0, err
		}
		if _, err := os.Stat(path); err == nil {
			n++
		}
	}
	return n, nil
}

// eyeImport is how long an import takes while the bank is drawn against one while it is not: the median of
// pairs.
func (l *Lab) eyeImport() (float64, error) {
	dir, err := os.MkdirTemp("", "neokinema-eye-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "clip.mp4")
	scene, err := simcam.New(simcam.Spec{Athlete: testenv.Athlete("x").Body(), Direction: 1, CaptureRate: 240, FileRate: 240, Width: 1280, Height: 720})
	if err != nil {
		return 0, err
	}
	if err := scene.WriteClip(context.Background(), path); err != nil {
		return 0, err
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		return 0, err
	}
	h := l.House()
	var ratios []float64
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		round := func() float64 {
			id := c.Upload(c.Attempt().ID, "clip.mp4", raw, len(raw))
			start := time.Now()
			if clip := c.Imported(id); clip.State != "ready" {
				bare{}.Fatalf("%s", clip.State)
			}
			return time.Since(start).Seconds()
		}
		round() // the first import wakes everything up
		for range 5 {
			alone := round()
			h.App.Seeing.Start()
			ratios = append(ratios, round()/alone)
			h.App.Seeing.Stop()
		}
	})
	if err != nil {
		return 0, err
	}
	slices.Sort(ratios)
	return ratios[len(ratios)/2], nil
}

// EyeDrills counts drills whose figure moves, no two of them in the same way.
func EyeDrills() (float64, error) {
	all, err := drills.Library()
	if err != nil {
		return 0, err
	}
	seen := map[string]bool{}
	for _, d := range all {
		if !d.Moves {
			continue
		}
		f, err := drills.Figure(d.ID)
		if err != nil {
			return 0, err
		}
		way := 0.0
		for _, p := range f.Points {
			for k := range f.Frames {
				way = max(way, math.Hypot(p[2*k]-p[0], p[2*k+1]-p[1]))
			}
		}
		if way >= 0.15 { // m, of some landmark
			seen[fmt.Sprint(f.Points)] = true
		}
	}
	return float64(len(seen)), nil
}

package evaluate_test

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// What must not matter to a report: which way somebody runs, when a clip begins, and how often a
// file shows each picture. No truth is asked here, only that two clips of one movement tell the same.

// told is what a report says of moments and faults, by name. Frames are counted by pictures, each of
// which stands so many times in the file; swapped says that left is right.
func told(r report.Report, swapped bool, each int) map[string]string {
	out := map[string]string{}
	side := func(s body.Side) body.Side {
		if swapped {
			return s.Other()
		}
		return s
	}
	for _, c := range r.Contacts {
		out[fmt.Sprintf("contact %s %d-%d", side(c.Foot), c.From/each, c.To/each)] = ""
	}
	for _, g := range r.Glimpses {
		out[fmt.Sprintf("open contact %s %d-%d %s", side(g.Foot), g.From/each, g.To/each, g.Open)] = ""
	}
	for _, p := range r.Positions {
		if p.Frame != nil {
			out["position "+p.ID] = fmt.Sprintf("in %d, %.1f sure", *p.Frame/each, p.Confidence)
		}
	}
	for _, x := range r.Readings {
		out["reading "+x.ID] = fmt.Sprint(x.Value != nil)
	}
	for _, f := range r.Findings {
		out["finding "+f.Fault] = f.Certainty
	}
	return out
}

// unlike is the share of its doubt by which two values of a reading may differ.
const unlike = 0.2

// differences are the things that two reports tell differently. Those that compare left with right
// change their sign in a mirror.
func differences(a, b report.Report, swapped bool, each int) (list []string) {
	x, y := told(a, false, 1), told(b, swapped, each)
	all := maps.Clone(x)
	maps.Copy(all, y)
	for _, k := range slices.Sorted(maps.Keys(all)) {
		p, okA := x[k]
		q, okB := y[k]
		if okA != okB || p != q {
			list = append(list, fmt.Sprintf("%s: %q (%v) and %q (%v)", k, p, okA, q, okB))
		}
	}
	for i, p := range a.Readings {
		q := b.Readings[i]
		if p.Value == nil || q.Value == nil {
			continue
		}
		v := q.Value.Value
		if swapped && strings.HasPrefix(p.ID, "uneven") {
			v = -v
		}
		if off := math.Abs(p.Value.Value - v); off > unlike*math.Min(p.Value.Half95, q.Value.Half95)+1e-6 || math.Abs(p.Value.Half95/q.Value.Half95-1) > unlike {
			list = append(list, fmt.Sprintf("reading %s: %.4g ± %.4g and %.4g ± %.4g", p.ID, p.Value.Value, p.Value.Half95, q.Value.Value, q.Value.Half95))
		}
	}
	return list
}

// drafts are clips of all events as a network leaves them, nothing decided by hand.
func drafts(t *testing.T, rate float64, share float64, do func(name string, event string, in evaluate.Input)) {
	for _, event := range []string{"running", "sprint-start", "long-jump", "high-jump", "pole-vault", "javelin", "shot", "discus", "hammer", "weight"} {
		for seed := range uint64(2) {
			s := simcam.Spec{Event: event, CaptureRate: rate, FileRate: rate, Seed: seed + 1, Direction: 1}
			if event == "running" {
				s.Speed = 5
			}
			tr := truth(t, s)
			in := points.Input(tr, points.All(tr, 0.3, seed))
			in.Flags = map[string]int{}
			trembling(&in, 300, share, seed)
			do(fmt.Sprintf("%s, seed %d", event, seed), event, in)
		}
	}
}

func TestAMirrorTellsTheSame(t *testing.T) {
	for _, rate := range []float64{30, 100} {
		drafts(t, rate, 0.003, func(name, event string, in evaluate.Input) {
			m := load(t, event)
			if list := differences(evaluate.Attempt(m, in), evaluate.Attempt(m, points.Mirrored(in)), true, 1); len(list) > 0 {
				t.Errorf("%s at %.0f/s, %d differences:\n%s", name, rate, len(list), strings.Join(list, "\n"))
			}
		})
	}
}

func TestWhenAClipBeginsDoesNotMatter(t *testing.T) {
	drafts(t, 60, 0.003, func(name, event string, in evaluate.Input) {
		later := in
		later.Clip.Stamps = slices.Clone(in.Clip.Stamps)
		for i := range later.Clip.Stamps {
			later.Clip.Stamps[i] += 12345678
		}
		m := load(t, event)
		if list := differences(evaluate.Attempt(m, in), evaluate.Attempt(m, later), false, 1); len(list) > 0 {
			t.Errorf("%s, %d differences:\n%s", name, len(list), strings.Join(list, "\n"))
		}
	})
}

func TestPicturesThatAreShownTwiceTellTheSame(t *testing.T) {
	for _, each := range []int{2, 4} {
		drafts(t, 30, 0.003, func(name, event string, in evaluate.Input) {
			m := load(t, event)
			plain := evaluate.Attempt(m, in)
			if plain.RateHint != nil {
				return // which of the usual rates is nearest depends on the one that is given
			}
			if list := differences(plain, evaluate.Attempt(m, points.Slowed(in, each)), false, each); len(list) > 0 {
				t.Errorf("%s, each picture %d times, %d differences:\n%s", name, each, len(list), strings.Join(list, "\n"))
			}
		})
	}
}

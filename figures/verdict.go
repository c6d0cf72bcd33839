package figures

import (
	"fmt"
	"math"
	"os"
	"slices"
	"strings"
	"sync"

	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/internal/demo"
	"neokinema/models"
	"neokinema/simcam/study"
)

// joinedAttempts is how many attempts an event are read from two clips.
const joinedAttempts = 8

// joinedness is what reading attempts from two clips gives.
type joinedness struct {
	right share // joined readings that hold the truth
	apart share // clips that do not belong together and are told
	alone share // clips that do and are not
}

func (l *Lab) joinedClips() (*joinedness, error) {
	if l.joined != nil {
		return l.joined, nil
	}
	list, err := study.Draw(lot(), joinedAttempts, 0)
	if err != nil {
		return nil, err
	}
	byEvent := map[string][]study.Attempt{}
	for _, a := range list {
		byEvent[a.Model.ID] = append(byEvent[a.Model.ID], a)
	}
	out := &joinedness{}
	var mu sync.Mutex
	err = each(list, func(a study.Attempt) error {
		b, err := a.Beside(a.Other())
		if err != nil {
			return err
		}
		truly := map[string]float64{}
		for _, x := range []study.Attempt{b, a} {
			r, scene, err := x.Truth()
			if err != nil {
				return err
			}
			for _, v := range r.Readings {
				if cp, ok := a.Model.Checkpoint(v.ID); ok && v.Value != nil {
					truly[v.ID] = inTheWorld(x, scene, cp, v)
				}
			}
		}
		one, two := a.Input(study.White, true), b.Input(study.White, true)
		join := func(other evaluate.Input) report.Report {
			return evaluate.Together(a.Model, []string{"one", "two"}, []evaluate.Input{one, other})[0]
		}
		told := func(r report.Report) bool {
			return slices.ContainsFunc(r.Problems, func(p string) bool { return strings.Contains(p, "is not joined with this one") })
		}
		both := join(two)
		slow := two
		slow.Clip.CaptureRate *= 2
		same := byEvent[a.Model.ID]
		other := same[(slices.IndexFunc(same, func(x study.Attempt) bool { return x.Name == a.Name })+1)%len(same)]
		wrong := map[string]report.Report{"a wrong rate": join(slow), other.Name: join(other.Input(study.White, true))}
		mu.Lock()
		defer mu.Unlock()
		out.alone.add(!told(both))
		for what, r := range wrong {
			// Told of the clip or of a reading; or at least nothing is taken from it.
			ok := told(r) || !slices.ContainsFunc(r.Readings, func(x report.Reading) bool { return x.Clip != "" }) ||
				slices.ContainsFunc(r.Readings, func(x report.Reading) bool { return strings.HasPrefix(x.Reason, "the clips disagree") })
			if out.apart.add(ok); !ok {
				fmt.Fprintf(os.Stderr, "    %s beside %s is joined\n", a.Name, what)
			}
		}
		for _, x := range both.Readings {
			if want, ok := truly[x.ID]; ok && x.Value != nil && (x.Both || x.Clip+strings.Join(views(x), "") != "") {
				in := math.Abs(x.Value.Value-want) <= x.Value.Half95
				if out.right.add(in); !in && os.Getenv("NEO_TELL") != "" {
					fmt.Fprintf(os.Stderr, "    %s: %s %.4g ±%.2g from %q (both %v), truly %.4g\n", a.Name, x.ID, x.Value.Value, x.Value.Half95, x.Clip, x.Both, want)
				}
			}
		}
		return nil
	})
	if err == nil {
		l.joined = out
	}
	return out, err
}

// views lists from where else a reading was seen.
func views(r report.Reading) (out []string) {
	for _, x := range r.Also {
		out = append(out, x.View)
	}
	return out
}

// reviewed is what the shipped models hold, all together.
type reviewed struct {
	measured, byEye, adjusted float64
	by                        map[string]float64 // checkpoints that are measured, by event
	target                    share              // faults whose target is a number
	twoCues                   share
}

func review() (reviewed, error) {
	all, err := models.All()
	out := reviewed{by: map[string]float64{}}
	for _, m := range all {
		out.adjusted += float64(len(m.Adjusted))
		for _, c := range m.Checkpoints {
			if c.Measure.Kind == "answer" {
				out.byEye++
			} else {
				out.measured++
				out.by[m.ID]++
			}
		}
		for _, f := range m.Faults {
			c, _ := m.Checkpoint(f.Target)
			out.target.add(c.Measure.Kind != "answer")
			out.twoCues.add(len(f.Cues) >= 2)
		}
	}
	return out, err
}

// concerns counts what the shipped models would not be signed for.
func concerns(kinds ...model.ConcernKind) (n float64, err error) {
	all, err := models.All()
	for _, m := range all {
		for _, c := range m.Review() {
			if slices.Contains(kinds, c.Kind) {
				fmt.Fprintf(os.Stderr, "    %s, %s: %s\n", m.ID, c.Where, c.Says)
				n++
			}
		}
	}
	return n, err
}

// stories counts the events at which the demo shows an attempt with a cue, a later one that
// shows it taken, and one that waits.
func stories() (float64, error) {
	list, err := demo.Stories()
	told := map[string]bool{}
	for _, s := range list {
		if s.Told() {
			told[s.Event] = true
		}
	}
	return float64(len(told)), err
}

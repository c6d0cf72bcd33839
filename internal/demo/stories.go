package demo

import (
	"encoding/json"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// Story is what the club shows of one athlete at one event: worked out, a cue given, looked at
// again, and something that is open still.
type Story struct {
	Athlete, Event string
	Fault          string // whose cue was given
	Found          bool   // the attempt at which it was given shows it, surely or likely
	Effect         string // of the cue on its target, at the next attempt that was worked out
	Open           bool   // the last attempt waits for the coach
}

// Told tells whether nothing is missing.
func (s Story) Told() bool { return s.Found && s.Effect == "taken" && s.Open }

// Stories are those of all athletes who got a cue, in the order of the club.
func Stories() (out []Story, err error) {
	for _, who := range people() {
		for i, at := range who.attempts {
			if len(at.accept) == 0 {
				continue
			}
			s := Story{Athlete: who.athlete.Name, Event: at.event(), Fault: at.accept[0]}
			m, before, err := who.report(at)
			if err != nil {
				return nil, err
			}
			f, _ := m.Fault(s.Fault)
			seen := slices.Concat(before.Findings, before.Possible)
			s.Found = slices.ContainsFunc(seen, func(f report.Finding) bool { return f.Fault == s.Fault && f.Certainty != "open" })
			rest := slices.DeleteFunc(slices.Clone(who.attempts[i+1:]), func(a attempt) bool { return a.event() != s.Event })
			if len(rest) > 0 {
				s.Open = rest[len(rest)-1].state == "new" || rest[len(rest)-1].state == "in_work"
			}
			for _, next := range rest {
				if !next.worked && !next.digitise {
					continue
				}
				_, after, err := who.report(next)
				if err != nil {
					return nil, err
				}
				was, _ := before.Reading(f.Target)
				is, _ := after.Reading(f.Target)
				if was.Value != nil && is.Value != nil {
					cp, _ := m.Checkpoint(f.Target)
					s.Effect = string(compare.EffectOf(cp, *was.Value, *is.Value).Verdict)
				}
				break
			}
			out = append(out, s)
		}
	}
	return out, nil
}

// report is what an attempt's first clip tells, with the others beside it.
func (p person) report(at attempt) (model.Model, report.Report, error) {
	var m model.Model
	var ids []string
	var clips []evaluate.Input
	for _, shot := range at.clips {
		scene, err := simcam.New(shot.specFor(p.athlete, at))
		if err != nil {
			return m, report.Report{}, fmt.Errorf("%s: %w", shot.file, err)
		}
		t := scene.Truth
		if m, err = models.Load(t.Event); err != nil {
			return m, report.Report{}, err
		}
		m = m.As(t.Variant)
		edits := ByHand(t, uuid.Nil, 0.8)
		if at.worked {
			edits = workedOut(m, t, uuid.Nil)
		}
		in := points.Input(t, kinematics.Points{})
		if err := apply(&in, edits); err != nil {
			return m, report.Report{}, err
		}
		ids, clips = append(ids, shot.file), append(clips, in)
	}
	return m, evaluate.Together(m, ids, clips)[0], nil
}

// apply does edits of one clip to what an evaluation takes.
func apply(in *evaluate.Input, edits []workspace.Edit) error {
	for _, e := range edits {
		var err error
		switch e.Kind {
		case "flag":
			var frame int
			err = json.Unmarshal(e.Value, &frame)
			in.Flags[e.Key] = frame
		case "track":
			t := track.New(0)
			err = json.Unmarshal(e.Value, t)
			in.Points[e.Key] = t
		case "point":
			var p track.Point
			if err = json.Unmarshal(e.Value, &p); err == nil {
				if in.Points[e.Key] == nil {
					in.Points[e.Key] = track.New(0)
				}
				err = in.Points[e.Key].Set(e.Frame, &p)
			}
		case "answer":
			var a evaluate.Judgement
			err = json.Unmarshal(e.Value, &a)
			in.Answers[e.Key] = a
		case "ground":
			in.Ground = &ground.ControlPoints{}
			err = json.Unmarshal(e.Value, in.Ground)
		}
		if err != nil {
			return fmt.Errorf("%s %s: %w", e.Kind, e.Key, err)
		}
	}
	return nil
}

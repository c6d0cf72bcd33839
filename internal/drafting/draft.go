package drafting

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"neokinema/core/kinematics"
	"neokinema/core/pose"
	"neokinema/core/repair"
	"neokinema/internal/media"
	"neokinema/internal/store"
	"neokinema/internal/videoanalysis"
)

// Shares of a draft's progress at which the looks at single frames are done, and sides
// are put right.
const (
	looked  = 0.85
	settled = 0.88
)

// batch is how many frames are saved at once: what a broken-off draft loses.
const batch = 16

// draft makes a draft. What is there of it already stays, so that one that was broken off
// goes on.
func (s *Service) draft(ctx context.Context, d *store.Draft) error {
	var ask Request
	if err := json.Unmarshal(d.Wish, &ask); err != nil {
		return err
	}
	c, err := s.store.Clip(ctx, d.TeamID, d.ClipID)
	if err != nil {
		return err
	}
	d.State = "drafting"
	result := Result{Nobody: []int{}, Other: []int{}}
	progress := func(share float64) error {
		d.Progress = share
		var err error
		if d.Result, err = json.Marshal(result); err != nil {
			return err
		}
		return s.store.SetDraft(ctx, *d)
	}
	if err := progress(d.Progress); err != nil {
		return err
	}
	if !ask.Look {
		if err := s.look(ctx, c, ask.Wish, &result, progress); err != nil {
			return err
		}
		if result.Swapped, err = s.settle(ctx, c); err != nil {
			return err
		}
	}
	if err := progress(settled); err != nil {
		return err
	}
	changes, _, err := s.analysis.Refine(ctx, c.TeamID, c.ID, func(done, of int) error {
		if done%64 != 0 {
			return ctx.Err()
		}
		return progress(settled + (1-settled)*float64(done)/float64(max(1, of)))
	})
	if err != nil {
		return err
	}
	if err := s.bench.Computed(ctx, c, changes); err != nil {
		return err
	}
	if err := s.swing(ctx, c); err != nil {
		return err
	}
	if err := s.store.Moved(ctx, c.AttemptID); err != nil {
		return err
	}
	d.State = "done"
	return progress(1)
}

// look looks at the frames that are wished for, and saves what it finds on the way.
func (s *Service) look(ctx context.Context, c store.Clip, w pose.Wish, result *Result, progress func(float64) error) error {
	networks, err := s.networks()
	if err != nil {
		return fmt.Errorf("the networks cannot be run: %w", err)
	}
	worker, err := networks.Worker()
	if err != nil {
		return err
	}
	defer worker.Close()
	sh, err := s.bench.Open(ctx, c.TeamID, c.AttemptID)
	if err != nil {
		return err
	}
	work := sh.Work.Clips[c.ID]
	var box *pose.Box
	if b := work.Box; b != nil {
		box = &pose.Box{Frame: b.Frame, X: b.X, Y: b.Y, Width: b.Width, Height: b.Height}
	}
	draft := pose.New(pose.Clip{Width: c.Width, Height: c.Height, Scale: c.ProxyScale, Frames: len(c.Stamps), Rate: c.FileRate, Pictures: c.Pictures}, work.Points, box, w)
	done, of := 0, len(draft.Frames())
	save := func() error {
		if err := s.bench.Computed(ctx, c, draft.Changes()); err != nil {
			return err
		}
		return progress(looked * float64(done) / float64(max(1, of)))
	}
	for _, list := range rising(draft.Frames()) {
		err := s.intake.Frames(ctx, c, list, func(p media.Picture) error {
			picture, err := pose.NewPicture(pose.I420, p.Width, p.Height, p.Pix)
			if err != nil {
				return err
			}
			outcome, err := draft.Look(p.Frame, picture, worker)
			if err != nil {
				return err
			}
			switch outcome {
			case pose.Found:
				result.Found++
			case pose.Nobody:
				result.Nobody = append(result.Nobody, p.Frame)
			case pose.Other:
				result.Other = append(result.Other, p.Frame)
			}
			if done++; done%batch == 0 {
				return save()
			}
			return ctx.Err()
		})
		if err != nil {
			return err
		}
	}
	return save()
}

// rising parts a list of frames into lists that each rise, as they can be decoded.
func rising(frames []int) (out [][]int) {
	from := 0
	for i := range frames {
		if i+1 == len(frames) || frames[i+1] < frames[i] {
			out = append(out, slices.Clone(frames[from:i+1]))
			from = i + 1
		}
	}
	return out
}

// settle puts sides, jumps and gaps of a draft right, and tells in how many frames limbs
// changed sides.
func (s *Service) settle(ctx context.Context, c store.Clip) (swapped int, err error) {
	sh, err := s.bench.Open(ctx, c.TeamID, c.AttemptID)
	if err != nil {
		return 0, err
	}
	// The clip may have had its answers meanwhile.
	for _, now := range sh.Clips {
		if now.ID == c.ID {
			c = now
		}
	}
	r := repair.Draft(sh.Model, sh.Input(c))
	return r.Swapped, s.bench.Computed(ctx, c, r.Changes)
}

// swing follows an implement that the athlete swings on a wire.
func (s *Service) swing(ctx context.Context, c store.Clip) error {
	sh, err := s.bench.Open(ctx, c.TeamID, c.AttemptID)
	if err != nil {
		return err
	}
	swung, ok := videoanalysis.SwungBy(sh.Model.ID, sh.Input(c).Athlete)
	if !ok {
		return nil
	}
	change, err := s.analysis.Orbit(ctx, c.TeamID, c.ID, swung)
	if err != nil || change == nil {
		return err
	}
	return s.bench.Computed(ctx, c, kinematics.Points{"ball": change})
}

package videoanalysis

import (
	"sort"

	"neokinema/core/contact"
	"neokinema/core/kinematics"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/internal/media"
	"neokinema/internal/store"
)

// refineOwn refines a clip that shows pictures more than once, or mixes of them: as the
// clip that it was made of, and then brought back to its frames.
func refineOwn(c store.Clip, frames []int, tracks map[string]*track.Track, grays Grays, progress func(done, of int) error) (Refined, error) {
	was := c
	apart := float64(frames[len(frames)-1]-frames[0]) / float64(len(frames)-1)
	c.Pictures, c.Stamps = "", nil
	c.FileRate, c.CaptureRate = c.FileRate/apart, c.CaptureRate/apart
	for _, f := range frames {
		c.Stamps = append(c.Stamps, was.Stamps[f])
	}
	only := map[string]*track.Track{}
	for id, t := range tracks {
		only[id] = t.Only(frames)
	}
	r, err := Refine(c, only, func(from, to int, share float64, each func(media.Picture) error) error {
		return grays(frames[from], frames[to], share, func(p media.Picture) error {
			i := sort.SearchInts(frames, p.Frame)
			if i == len(frames) || frames[i] != p.Frame {
				return nil
			}
			p.Frame = i
			return each(p)
		})
	}, progress)
	if err != nil {
		return r, err
	}
	out := Refined{Changes: kinematics.Points{}, Contacts: contact.Spread(r.Contacts, frames)}
	for id, change := range r.Changes {
		out.Changes[id] = change.Spread(frames, func(f int) bool { return f < len(was.Pictures) && was.Pictures[f] == timebase.Repeated })
	}
	if r.Camera != nil {
		camera := *r.Camera
		camera.Reference, camera.Turns = frames[r.Camera.Reference], nil
		if len(r.Camera.Turns) > 0 {
			for f := range was.Stamps {
				i := max(0, sort.SearchInts(frames, f+1)-1)
				camera.Turns = append(camera.Turns, r.Camera.Turns[i])
			}
		}
		out.Camera = &camera
	}
	return out, nil
}

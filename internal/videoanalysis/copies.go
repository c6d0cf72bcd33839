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

// own is a clip that shows pictures more than once, or mixes of them, as the clip that it
// was made of: only the frames with a picture of their own.
func own(c store.Clip, frames []int, tracks map[string]*track.Track, grays Grays) (store.Clip, map[string]*track.Track, Grays) {
	stamps := c.Stamps
	apart := float64(frames[len(frames)-1]-frames[0]) / float64(len(frames)-1)
	c.Pictures, c.Stamps = "", nil
	c.FileRate, c.CaptureRate = c.FileRate/apart, c.CaptureRate/apart
	for _, f := range frames {
		c.Stamps = append(c.Stamps, stamps[f])
	}
	only := map[string]*track.Track{}
	for id, t := range tracks {
		only[id] = t.Only(frames)
	}
	return c, only, func(from, to int, share float64, each func(media.Picture) error) error {
		return grays(frames[from], frames[to], share, func(p media.Picture) error {
			i := sort.SearchInts(frames, p.Frame)
			if i == len(frames) || frames[i] != p.Frame {
				return nil
			}
			p.Frame = i
			return each(p)
		})
	}
}

// spread brings a change of a clip's own frames back to all of them.
func spread(was store.Clip, frames []int, change *track.Track) *track.Track {
	return change.Spread(frames, func(f int) bool { return f < len(was.Pictures) && was.Pictures[f] == timebase.Repeated })
}

// mixed places what was found on both sides of pictures that are mixes of two half way
// between: it shows there twice, and faintly.
func mixed(was store.Clip, change *track.Track) {
	for f := range len(was.Pictures) {
		a, before := change.At(f - 1)
		b, after := change.At(f + 1)
		if was.Pictures[f] != timebase.Blended || !before || !after || change.SourceAt(f) != track.None {
			continue
		}
		_ = change.Set(f, &track.Point{X: (a.X + b.X) / 2, Y: (a.Y + b.Y) / 2, Confidence: min(a.Confidence, b.Confidence), Source: track.Filled.String()}) // the source is one
	}
}

// refineOwn refines a clip by its own pictures, and brings the result back to its frames.
func refineOwn(was store.Clip, frames []int, tracks map[string]*track.Track, grays Grays, progress func(done, of int) error) (Refined, error) {
	c, only, grays := own(was, frames, tracks, grays)
	r, err := Refine(c, only, grays, progress)
	if err != nil {
		return r, err
	}
	out := Refined{Changes: kinematics.Points{}, Contacts: contact.Spread(r.Contacts, frames)}
	for id, change := range r.Changes {
		out.Changes[id] = spread(was, frames, change)
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

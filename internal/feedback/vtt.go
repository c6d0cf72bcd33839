package feedback

import (
	"fmt"
	"io"
	"sort"
	"strings"

	"neokinema/core/evaluate"
	"neokinema/core/timebase"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

// WriteVTT writes the phases and key positions of a clip as WebVTT cues, in the
// time of the file, so that any player shows them beside the original.
// docs/formats.md tells what is in them.
func WriteVTT(w io.Writer, sh workspace.Workspace, clip store.Clip) error {
	r := evaluate.Attempt(sh.Model, sh.Input(clip))
	at := func(frame int) float64 {
		return float64(clip.Stamps[min(frame, len(clip.Stamps)-1)]) / timebase.TickRate
	}
	var cues []Cue
	for _, p := range r.Phases {
		text := p.Name
		if p.Seconds != nil {
			text += fmt.Sprintf(" %.0f ms", 1000*p.Seconds.Value)
		}
		cues = append(cues, Cue{at(p.From), at(p.To), "phase " + p.ID, text})
	}
	for _, p := range r.Positions {
		if p.Frame == nil || *p.Frame >= len(clip.Stamps) {
			continue
		}
		pos, _ := sh.Model.Position(p.ID)
		end := at(*p.Frame + 1)
		if *p.Frame == len(clip.Stamps)-1 {
			end = at(*p.Frame) + 1/max(1, clip.FileRate)
		}
		text := pos.Name
		if p.Source == "tool" {
			text += " (found)"
		}
		cues = append(cues, Cue{at(*p.Frame), end, "position " + p.ID, text})
	}
	sort.SliceStable(cues, func(i, j int) bool { return cues[i].From < cues[j].From })
	return WriteCues(w, fmt.Sprintf("%s, %s, %s", sh.Athlete.Name, sh.Model.Name, sh.Attempt.DoneOn), cues)
}

// Cue is a text between two moments, s.
type Cue struct {
	From, To float64
	ID, Text string
}

// WriteCues writes cues as WebVTT.
func WriteCues(w io.Writer, about string, cues []Cue) error {
	clean := strings.NewReplacer("-->", "→", "\n", " ", "&", "&amp;", "<", "&lt;")
	var b strings.Builder
	fmt.Fprintf(&b, "WEBVTT\n\nNOTE %s\n", clean.Replace(about))
	for _, c := range cues {
		// An arrow would end the cue's settings early, a blank line the cue.
		fmt.Fprintf(&b, "\n%s\n%s --> %s\n%s\n", c.ID, stamp(c.From), stamp(c.To), clean.Replace(c.Text))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// stamp writes seconds as WebVTT wants them.
func stamp(s float64) string {
	ms := int(s*1000 + 0.5)
	return fmt.Sprintf("%02d:%02d:%02d.%03d", ms/3600000, ms/60000%60, ms/1000%60, ms%1000)
}

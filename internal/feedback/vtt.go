package feedback

import (
	"fmt"
	"io"
	"sort"
	"strings"

	"neokinema/core/clock"
	"neokinema/core/technique"
	"neokinema/internal/bench"
	"neokinema/internal/store"
)

// WriteVTT writes the phases and key positions of a clip as WebVTT cues, in the
// time of the file, so that any player shows them beside the original.
// docs/formats.md tells what is in them.
func WriteVTT(w io.Writer, sh bench.Sheet, clip store.Clip) error {
	r := technique.Evaluate(sh.Model, sh.Input(clip))
	at := func(frame int) float64 {
		return float64(clip.Stamps[min(frame, len(clip.Stamps)-1)]) / clock.TickRate
	}
	type cue struct {
		from, to float64
		id, text string
	}
	var cues []cue
	for _, p := range r.Phases {
		text := p.Name
		if p.Seconds != nil {
			text += fmt.Sprintf(" %.0f ms", 1000*p.Seconds.X)
		}
		cues = append(cues, cue{at(p.From), at(p.To), "phase " + p.ID, text})
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
		if p.By == "tool" {
			text += " (found)"
		}
		cues = append(cues, cue{at(*p.Frame), end, "position " + p.ID, text})
	}
	sort.SliceStable(cues, func(i, j int) bool { return cues[i].from < cues[j].from })
	var b strings.Builder
	fmt.Fprintf(&b, "WEBVTT\n\nNOTE %s, %s, %s\n", sh.Athlete.Name, sh.Model.Name, sh.Attempt.DoneOn)
	for _, c := range cues {
		// An arrow would end the cue's settings early, a blank line the cue.
		text := strings.NewReplacer("-->", "→", "\n", " ", "&", "&amp;", "<", "&lt;").Replace(c.text)
		fmt.Fprintf(&b, "\n%s\n%s --> %s\n%s\n", c.id, stamp(c.from), stamp(c.to), text)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// stamp writes seconds as WebVTT wants them.
func stamp(s float64) string {
	ms := int(s*1000 + 0.5)
	return fmt.Sprintf("%02d:%02d:%02d.%03d", ms/3600000, ms/60000%60, ms/1000%60, ms%1000)
}

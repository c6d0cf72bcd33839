package feedback

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"slices"
	"sort"
	"strconv"

	"neokinema/core/evaluate"
	"neokinema/core/report"
	"neokinema/core/timebase"
	"neokinema/internal/workspace"
)

// WriteCSV writes all points, flags, contacts and readings of every clip as one
// table; docs/formats.md explains the columns.
func WriteCSV(w io.Writer, sh workspace.Workspace) error {
	out := csv.NewWriter(w)
	_ = out.Write([]string{"kind", "clip", "id", "position", "frame", "time_s", "to_frame", "x_px", "y_px", "source", "confidence", "hidden", "value", "unit", "half95", "verdict"})
	num := func(v float64, digits int) string { return strconv.FormatFloat(v, 'f', digits, 64) }
	for _, clip := range sh.Clips {
		if len(clip.Stamps) == 0 {
			continue
		}
		c, err := timebase.New(clip.Stamps, clip.FileRate, clip.CaptureRate)
		if err != nil {
			return err
		}
		time := func(frame int) string {
			if !c.Known() {
				return ""
			}
			return num(c.At(frame), 5)
		}
		row := func(kind, id, position string, frame int) []string {
			return []string{kind, clip.ID.String(), id, position, strconv.Itoa(frame), time(frame), "", "", "", "", "", "", "", "", "", ""}
		}
		in := sh.Input(clip)
		var ids []string
		for id := range in.Points {
			ids = append(ids, id)
		}
		sort.Strings(ids)
		for _, id := range ids {
			for f := in.Points[id].From; f < in.Points[id].End(); f++ {
				p, ok := in.Points[id].At(f)
				if !ok {
					continue
				}
				r := row("point", id, "", f)
				r[7], r[8], r[9], r[10], r[11] = num(p.X, 2), num(p.Y, 2), p.Source, num(p.Confidence, 2), strconv.FormatBool(p.Hidden)
				_ = out.Write(r)
			}
		}
		for _, p := range sh.Model.Positions {
			if f, ok := in.Flags[p.ID]; ok && f >= 0 && f < c.Len() {
				_ = out.Write(row("flag", p.ID, p.ID, f))
			}
		}
		report := evaluate.Attempt(sh.Model, in) // of this clip alone: each has its own rows
		for _, b := range report.Contacts {
			r := row("contact", b.Name, string(b.Foot), b.From)
			r[6] = strconv.Itoa(b.To)
			if b.Seconds != nil {
				r[12], r[13], r[14] = num(b.Seconds.Value, 4), "s", num(b.Seconds.Half95, 4)
			}
			_ = out.Write(r)
		}
		for i, reading := range report.Readings {
			cp := slices.Concat(sh.Model.Checkpoints, in.Extra)[i]
			frame := 0
			if reading.Evidence != nil {
				frame = reading.Evidence.Frame
			}
			r := row("reading", cp.ID, cp.Position, frame)
			if reading.Evidence == nil {
				r[4], r[5] = "", ""
			}
			if reading.Value != nil {
				r[12], r[13], r[14] = num(reading.Value.Value, 3), cp.Unit, num(reading.Value.Half95, 3)
			}
			r[15] = string(reading.Verdict)
			_ = out.Write(r)
		}
	}
	out.Flush()
	return out.Error()
}

// WriteJSON writes the same with everything that the core was given, so that
// the report can be computed again from the file.
func WriteJSON(w io.Writer, sh workspace.Workspace) error {
	type clip struct {
		ID     string         `json:"id"`
		Name   string         `json:"name"`
		Input  evaluate.Input `json:"input"`
		Report report.Report  `json:"report"`
	}
	doc := struct {
		Format  string         `json:"format"`
		Version int            `json:"version"`
		Athlete any            `json:"athlete"`
		Attempt any            `json:"attempt"`
		Advice  any            `json:"advice"`
		Clips   []clip         `json:"clips"`
		Units   map[string]any `json:"units"`
	}{"neokinema-attempt", 3, sh.Athlete, sh.Attempt, sh.Work.Advice, []clip{}, map[string]any{
		"points": "px of the upright picture, x right, y down", "stamps": "1/90000 s", "durations": "s", "readings": "the checkpoint's unit",
	}}
	for _, c := range sh.Clips {
		in := sh.Accompanied(c)
		doc.Clips = append(doc.Clips, clip{c.ID.String(), c.Name, in, evaluate.Attempt(sh.Model, in)})
	}
	e := json.NewEncoder(w)
	e.SetIndent("", " ")
	return e.Encode(doc)
}

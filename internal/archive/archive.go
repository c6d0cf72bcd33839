// Package archive writes a whole team into one archive that can be read without
// Neokinema, and takes such an archive into an empty team.
package archive

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/feedback"
	"neokinema/internal/intake"
	"neokinema/internal/logbook"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

// Service makes and reads archives.
type Service struct {
	store   *store.Store
	bench   *workspace.Service
	intake  *intake.Service
	logbook *logbook.Service
}

// New makes the service.
func New(s *store.Store, b *workspace.Service, i *intake.Service, l *logbook.Service) *Service {
	return &Service{s, b, i, l}
}

// Format and version of an archive; docs/formats.md describes it.
const (
	format  = "neokinema-team"
	version = 6
)

// since tells with which version a table came; older archives do not have it.
var since = map[string]int{"chapters": 2, "calculations": 4, "seasons": 5, "season_rules": 5, "trainings": 5, "ladder_places": 6, "own_drills": 6}

type head struct {
	Format   string    `json:"format"`
	Version  int       `json:"version"`
	TeamID   uuid.UUID `json:"team_id"`
	Team     string    `json:"team"`
	Exported time.Time `json:"exported"`
}

// Write writes a team's archive as it is read, without holding it in memory.
func (s *Service) Write(ctx context.Context, w io.Writer, u store.User, now time.Time) error {
	z := zip.NewWriter(w)
	put := func(name string, v any) error {
		f, err := z.Create(name)
		if err != nil {
			return err
		}
		e := json.NewEncoder(f)
		e.SetIndent("", " ")
		return e.Encode(v)
	}
	if err := put("team.json", head{format, version, u.TeamID, u.Team, now.UTC()}); err != nil {
		return err
	}
	var clips []json.RawMessage
	for _, name := range store.WholeNames() {
		rows, err := s.store.Whole(ctx, u.TeamID, name)
		if err != nil {
			return err
		}
		if name == "clips" {
			clips = rows
		}
		if err := put(name+".json", rows); err != nil {
			return err
		}
	}
	phrases, err := s.store.Phrases(ctx, u.ID)
	if err != nil {
		return err
	}
	if err := put("phrases.json", phrases); err != nil {
		return err
	}
	f, err := z.Create("marks.csv")
	if err != nil {
		return err
	}
	if err := s.logbook.WriteMarks(ctx, f, u.TeamID, uuid.Nil); err != nil {
		return err
	}
	for _, raw := range clips {
		var c struct{ ID, Attempt_id uuid.UUID }
		if err := json.Unmarshal(raw, &c); err != nil {
			return err
		}
		if err := s.clip(ctx, z, put, u.TeamID, c.ID, c.Attempt_id); err != nil {
			return err
		}
	}
	return z.Close()
}

func (s *Service) clip(ctx context.Context, z *zip.Writer, put func(string, any) error, team, id, attempt uuid.UUID) error {
	tracks, err := store.Tracks(ctx, s.store.DB, id)
	if err != nil {
		return err
	}
	if err := put("tracks/"+id.String()+".json", tracks); err != nil {
		return err
	}
	sh, err := s.bench.Open(ctx, team, attempt)
	if err != nil {
		return err
	}
	if k := slices.IndexFunc(sh.Clips, func(c store.Clip) bool { return c.ID == id && len(c.Stamps) > 0 }); k >= 0 {
		f, err := z.Create("subtitles/" + id.String() + ".vtt")
		if err != nil {
			return err
		}
		if err := feedback.WriteVTT(f, sh, sh.Clips[k]); err != nil {
			return err
		}
	}
	return s.intake.Media(ctx, id, func(name string, _ int64, r io.Reader) error {
		// Video does not get smaller.
		f, err := z.CreateHeader(&zip.FileHeader{Name: "media/" + id.String() + "/" + name, Method: zip.Store})
		if err != nil {
			return err
		}
		_, err = io.Copy(f, r)
		return err
	})
}

// Differences tells in what the archive of a team that took another one in differs
// from it. Nothing should.
func Differences(from io.ReaderAt, fromSize int64, to io.ReaderAt, toSize int64) ([]string, error) {
	a, err := contents(from, fromSize)
	if err != nil {
		return nil, err
	}
	b, err := contents(to, toSize)
	if err != nil {
		return nil, err
	}
	var ha, hb head
	if err := errors.Join(json.Unmarshal(a["team.json"], &ha), json.Unmarshal(b["team.json"], &hb)); err != nil {
		return nil, err
	}
	renamed := func(raw []byte) []byte {
		return ids.ReplaceAllFunc(raw, func(id []byte) []byte {
			if string(id) == ha.TeamID.String() {
				return []byte(hb.TeamID.String())
			}
			return []byte(moved(hb.TeamID, string(id)))
		})
	}
	var out []string
	for name, raw := range a {
		if name == "team.json" {
			continue
		}
		other := string(renamed([]byte(name)))
		got, ok := b[other]
		if !ok {
			out = append(out, name+" is missing")
			continue
		}
		delete(b, other)
		if !strings.HasPrefix(name, "media/") {
			raw = renamed(raw)
		}
		if path.Ext(name) == ".json" {
			raw, got = sorted(raw), sorted(got)
		}
		if !bytes.Equal(raw, got) {
			out = append(out, name+" differs")
		}
	}
	for name := range b {
		if name != "team.json" {
			out = append(out, name+" is new")
		}
	}
	sort.Strings(out)
	return out, nil
}

// Same tells in what two archives of one team differ; the moments at which they were
// made do not count.
func Same(a, b []byte) ([]string, error) {
	x, err := contents(bytes.NewReader(a), int64(len(a)))
	if err != nil {
		return nil, err
	}
	y, err := contents(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return nil, err
	}
	delete(x, "team.json")
	delete(y, "team.json")
	var out []string
	for name, raw := range x {
		if other, ok := y[name]; !ok {
			out = append(out, name+" is missing")
		} else if !bytes.Equal(raw, other) {
			out = append(out, name+" differs")
		}
		delete(y, name)
	}
	for name := range y {
		out = append(out, name+" is new")
	}
	sort.Strings(out)
	return out, nil
}

// sorted is JSON with the rows of a list in an order that does not depend on ids.
func sorted(raw []byte) []byte {
	var rows []any
	if json.Unmarshal(raw, &rows) != nil {
		var v any
		if json.Unmarshal(raw, &v) != nil {
			return raw
		}
		rows = []any{v}
	}
	var lines []string
	for _, r := range rows {
		line, err := json.Marshal(r) // keys in order
		if err != nil {
			return raw
		}
		lines = append(lines, string(line))
	}
	sort.Strings(lines)
	return []byte(strings.Join(lines, "\n"))
}

func contents(r io.ReaderAt, size int64) (map[string][]byte, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		out[f.Name], err = io.ReadAll(r)
		if err := errors.Join(err, r.Close()); err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
	}
	return out, nil
}

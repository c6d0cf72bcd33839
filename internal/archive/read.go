package archive

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/season"
	"neokinema/core/track"
	"neokinema/internal/form"
	"neokinema/internal/intake"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/voiceover"
	"neokinema/internal/workspace"
	"neokinema/models"
)

// Taken tells what an archive brought.
type Taken struct {
	Athletes int `json:"athletes"`
	Attempts int `json:"attempts"`
	Clips    int `json:"clips"`
	LeftOut  int `json:"left_out" doc:"decisions that no screen makes; they were not taken in"`
}

// Limits of an archive. Rows are read one by one, so that none of these is ever held in
// memory at once but a row.
const (
	mostListed = 64 << 20 // bytes of the list of files
	mostRow    = 24 << 20 // bytes of one row: a chapter has its voice in it
	mostBatch  = 4 << 20  // bytes of rows that are stored at once
	mostTable  = 4 << 30  // bytes of a table
	mostSmall  = 16 << 20 // bytes of a file that is read whole
	mostRows   = 2_000_000
	mostRatio  = 200 // bytes that a packed byte may become; text of ours becomes some ten
	ratioFrom  = 1 << 20
)

var ids = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)

// moved is the id that something has in a team which took it from an archive: the
// same for the same thing, so that references stay whole.
func moved(team uuid.UUID, id string) string { return uuid.NewSHA1(team, []byte(id)).String() }

func invalid(format string, args ...any) error { return problem.New(problem.Invalid, format, args...) }

var (
	errNoArchive = invalid("This file is no archive of a team. Take one that was made with “export the team”.")
	errPacked    = errors.New("it unpacks to far more than it can hold")
)

// reading is one archive on its way in.
type reading struct {
	*Service
	head  head
	user  store.User
	files map[string]*zip.File
	out   Taken

	attempts map[uuid.UUID]store.Attempt
	clips    map[uuid.UUID][]store.Clip // by attempt
	byID     map[uuid.UUID]store.Clip
	models   map[string]model.Model // by event and version, as they are asked for
	sources  map[string]string
	frames   []int64 // as many as the longest clip has: only their number is looked at
}

// Read takes an archive into a team that has nothing yet: all of it or nothing, but for
// decisions that no screen makes.
func (s *Service) Read(ctx context.Context, u store.User, r io.ReaderAt, size int64) (out Taken, err error) {
	if n, err := listed(r, size); err != nil || n > mostListed {
		return out, errNoArchive
	}
	z, err := zip.NewReader(r, size)
	if err != nil {
		return out, errNoArchive
	}
	a := &reading{Service: s, user: u, files: map[string]*zip.File{}, attempts: map[uuid.UUID]store.Attempt{}, clips: map[uuid.UUID][]store.Clip{},
		byID: map[uuid.UUID]store.Clip{}, models: map[string]model.Model{}, sources: map[string]string{}}
	var sum uint64
	for _, f := range z.File {
		if _, twice := a.files[f.Name]; twice {
			return out, invalid("The archive has the file %q twice. Nothing was taken in.", f.Name)
		}
		a.files[f.Name] = f
		if f.UncompressedSize64 > uint64(intake.LargestUpload)*2 {
			return out, invalid("%q is larger than any file of a team. Nothing was taken in.", f.Name)
		}
		if f.UncompressedSize64 > ratioFrom && f.UncompressedSize64/mostRatio > f.CompressedSize64 {
			return out, invalid("%q unpacks to far more than it can hold. Nothing was taken in.", f.Name)
		}
		if strings.HasPrefix(f.Name, "media/") {
			sum += f.UncompressedSize64
		}
	}
	if raw, err := a.small("team.json"); err != nil || json.Unmarshal(raw, &a.head) != nil || a.head.Format != format {
		return out, errNoArchive
	}
	if a.head.Version > version {
		return out, invalid("This archive was made by a newer Neokinema (version %d). Bring this server up to date first.", a.head.Version)
	}
	if err := s.store.Empty(ctx, u.TeamID); err != nil {
		return out, err
	}
	if err := s.intake.Room(int64(sum)); err != nil {
		return out, err
	}
	if err := s.store.Quota(ctx, u.TeamID, int64(sum)); err != nil {
		return out, err
	}
	known, err := a.clipIDs()
	if err != nil {
		return out, err
	}
	tracks, err := a.parts(z, known)
	if err != nil {
		return out, err
	}
	// Media first: a row without its clip would be worse than a clip without a row.
	var put []uuid.UUID
	done := false
	defer func() {
		if !done {
			s.intake.Forget(context.WithoutCancel(ctx), put)
		}
	}()
	for _, f := range z.File {
		if folder, rest, _ := strings.Cut(f.Name, "/"); folder == "media" {
			clip := known[strings.Split(rest, "/")[0]]
			put = append(put, clip)
			if err := a.media(ctx, clip, f); err != nil {
				return out, err
			}
		}
	}
	err = s.store.Refill(ctx, u.TeamID, func(to *store.Refilling) error {
		for _, name := range store.WholeNames() {
			if err := a.table(ctx, to, name); err != nil {
				return err
			}
		}
		for _, f := range tracks {
			if err := a.tracks(ctx, to, known, f); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	done = true
	a.phrases(ctx)
	return a.out, nil
}

func (a *reading) media(ctx context.Context, clip uuid.UUID, f *zip.File) error {
	r, err := f.Open()
	if err != nil {
		return invalid("%s cannot be read: %s. Nothing was taken in.", f.Name, err)
	}
	defer r.Close()
	err = a.intake.Restore(ctx, clip, path.Base(f.Name), &bounded{r: r, left: int64(f.UncompressedSize64)})
	var corrupt flate.CorruptInputError
	for _, broken := range []error{zip.ErrFormat, zip.ErrChecksum, zip.ErrAlgorithm, io.ErrUnexpectedEOF, errPacked} {
		if errors.Is(err, broken) || errors.As(err, &corrupt) {
			return invalid("%s cannot be read: %s. Nothing was taken in.", f.Name, err)
		}
	}
	return err
}

// phrases are only the coach's own; one can do without them.
func (a *reading) phrases(ctx context.Context) {
	var list []string
	raw, err := a.small("phrases.json")
	if err != nil || json.Unmarshal(raw, &list) != nil {
		return
	}
	for _, p := range list[:min(len(list), 500)] {
		if p != "" && len(p) <= 2000 {
			_ = a.store.KeepPhrase(ctx, a.user.ID, p, true)
		}
	}
}

// here turns the ids of an archive into ids of this team; all else stays as it is.
func (a *reading) here(raw []byte) []byte {
	return ids.ReplaceAllFunc(raw, func(id []byte) []byte {
		if string(id) == a.head.TeamID.String() {
			return []byte(a.user.TeamID.String())
		}
		return []byte(moved(a.user.TeamID, string(id)))
	})
}

// clipIDs are the clips that the archive has rows of, by the ids that they have there.
func (a *reading) clipIDs() (map[string]uuid.UUID, error) {
	out := map[string]uuid.UUID{}
	err := a.rows("clips", func(raw json.RawMessage) error {
		var c struct{ ID string }
		if json.Unmarshal(raw, &c) != nil || ids.FindString(c.ID) != c.ID || c.ID == "" {
			return invalid("clips.json has a row without an id. Nothing was taken in; export the team again.")
		}
		out[c.ID] = uuid.MustParse(moved(a.user.TeamID, c.ID))
		return nil
	})
	return out, err
}

// parts checks to which clips the tracks and media of an archive belong, and lists the
// tracks.
func (a *reading) parts(z *zip.Reader, known map[string]uuid.UUID) (tracks []*zip.File, err error) {
	for _, f := range z.File {
		folder, rest, _ := strings.Cut(f.Name, "/")
		if folder != "tracks" && folder != "media" {
			continue
		}
		if _, ok := known[strings.TrimSuffix(strings.Split(rest, "/")[0], ".json")]; !ok {
			return nil, invalid("The archive has a file %q that belongs to no clip.", f.Name)
		}
		if folder == "tracks" {
			tracks = append(tracks, f)
		}
	}
	return tracks, nil
}

// columns of ids by table; what stands in them must be one, in the one form in which it
// is turned into an id of this team.
var columns = map[string][]string{
	"athletes": {"id"}, "attempts": {"id", "athlete_id"}, "clips": {"id", "attempt_id"}, "notes": {"id", "athlete_id"},
	"decisions": {"attempt_id", "clip_id"}, "chapters": {"id", "attempt_id"}, "library": {"attempt_id"}, "calculations": {"id", "athlete_id", "attempt_id"},
	"seasons": {"athlete_id"}, "trainings": {"id", "athlete_id", "attempt_id"}, "ladder_places": {"athlete_id"}, "own_drills": {"id", "clip_id"},
}

// mayLack are ids that a row need not have.
var mayLack = map[string]bool{"decisions clip_id": true, "calculations attempt_id": true, "trainings attempt_id": true, "own_drills clip_id": true}

// table puts the rows of a table, each checked as an edit of it would be.
func (a *reading) table(ctx context.Context, to *store.Refilling, name string) error {
	if a.files[name+".json"] == nil && a.head.Version < since[name] {
		return nil
	}
	var batch []map[string]json.RawMessage
	size := 0
	flush := func() error {
		err := to.Put(ctx, name, batch)
		batch, size = nil, 0
		return err
	}
	err := a.rows(name, func(raw json.RawMessage) error {
		row := map[string]json.RawMessage{}
		if json.Unmarshal(raw, &row) != nil {
			return invalid("%s.json has a row that cannot be read. Nothing was taken in; export the team again.", name)
		}
		for _, c := range columns[name] {
			var id *string
			if json.Unmarshal(row[c], &id) != nil || id == nil && !mayLack[name+" "+c] || id != nil && ids.FindString(*id) != *id {
				return invalid("%s.json has an id that is none (%s). Nothing was taken in; export the team again.", name, c)
			}
		}
		clear(row)
		if err := json.Unmarshal(a.here(raw), &row); err != nil {
			return err
		}
		older(a.head.Version, name, row)
		raw, err := json.Marshal(row)
		if err != nil {
			return err
		}
		keep, err := a.check(name, raw, row)
		if err != nil {
			var p *problem.Problem
			if errors.As(err, &p) {
				return err
			}
			return invalid("%s.json has a row that no screen makes: %s. Nothing was taken in.", name, err)
		}
		if !keep {
			a.out.LeftOut++
			return nil
		}
		if batch, size = append(batch, row), size+len(raw); size > mostBatch {
			return flush()
		}
		return nil
	})
	if err != nil {
		return err
	}
	return flush()
}

// check holds a row to what the API asks of it. A decision that does not hold is left
// out; anything else is refused.
func (a *reading) check(name string, raw json.RawMessage, row map[string]json.RawMessage) (keep bool, err error) {
	switch name {
	case "athletes":
		a.out.Athletes++
		return true, checked[store.NewAthlete](raw)
	case "attempts":
		a.out.Attempts++
		var at store.Attempt
		if err := json.Unmarshal(raw, &at); err != nil {
			return false, err
		}
		a.attempts[at.ID] = at
		if at.Revision < 0 || at.Revision > 1e8 || at.ModelN < 0 {
			return false, errors.New("a revision that cannot be")
		}
		return true, checked[store.NewAttempt](raw)
	case "clips":
		a.out.Clips++
		return true, a.clip(raw)
	case "models":
		var m struct {
			Event, Source, Reason string
			N                     int
		}
		if err := json.Unmarshal(raw, &m); err != nil {
			return false, err
		}
		if _, err := models.Load(m.Event); err != nil || m.N < 1 || m.N > 10_000 || len(m.Source) > 400_000 || len(m.Reason) > 1000 {
			return false, fmt.Errorf("a model of %q, version %d", m.Event, m.N)
		}
		if _, err := models.Parse([]byte(m.Source)); err != nil {
			return false, err
		}
		a.sources[fmt.Sprint(m.Event, " ", m.N)] = m.Source
		return true, nil
	case "notes":
		return true, checked[store.NewNote](raw)
	case "decisions":
		return a.decision(raw, row), nil
	case "chapters":
		return true, a.chapter(raw)
	case "calculations":
		var c store.NewCalculation
		if err := json.Unmarshal(raw, &c); err != nil {
			return false, err
		}
		if err := form.Check(c); err != nil {
			return false, err
		}
		return c.Check() == nil, nil // a question that is no longer asked is left out
	case "seasons":
		var s struct{ Outline store.Outline }
		if err := json.Unmarshal(raw, &s); err != nil {
			return false, err
		}
		o := season.Outline(s.Outline)
		if err := form.Check(o); err != nil {
			return false, err
		}
		return true, o.Check()
	case "season_rules":
		var r struct {
			Rule, Reason string
			Value        float64
		}
		if err := json.Unmarshal(raw, &r); err != nil {
			return false, err
		}
		c := season.Changed{ID: r.Rule, Value: r.Value, Reason: r.Reason}
		if err := form.Check(c); err != nil {
			return false, err
		}
		_, err := season.With([]season.Changed{c})
		return err == nil, nil // a rule that is no longer there is left out
	case "trainings":
		var t struct {
			store.NewTraining
			Full int `json:"full_tries"`
		}
		if err := json.Unmarshal(raw, &t); err != nil {
			return false, err
		}
		t.NewTraining.Full = t.Full
		if err := form.Check(t.NewTraining); err != nil {
			return false, err
		}
		return true, t.NewTraining.Check()
	case "own_drills":
		var d struct {
			store.NewOwnDrill
			Told store.DrillTold `json:"told"`
		}
		if err := json.Unmarshal(raw, &d); err != nil {
			return false, err
		}
		d.DrillTold = d.Told
		if err := form.Check(d.NewOwnDrill); err != nil {
			return false, err
		}
		if d.ClipID != nil && d.Last >= len(a.byID[*d.ClipID].Stamps) {
			return false, errors.New("a drill beyond the end of its clip")
		}
		return true, nil
	case "ladder_places":
		var l store.LadderPlace
		if err := json.Unmarshal(raw, &l); err != nil {
			return false, err
		}
		if l.Ladder == "" || len(l.Ladder) > 40 || l.Rung < 0 || l.Rung > 20 {
			return false, errors.New("a rung that no ladder has")
		}
		return true, nil
	case "library":
		var l struct{ Name string }
		if err := json.Unmarshal(raw, &l); err != nil || l.Name == "" || len(l.Name) > 500 {
			return false, errors.New("a reference without a name")
		}
		return true, nil
	}
	return false, fmt.Errorf("there is no table %s", name)
}

func checked[T any](raw []byte) error {
	var v T
	if err := json.Unmarshal(raw, &v); err != nil {
		return err
	}
	return form.Check(v)
}

func (a *reading) clip(raw json.RawMessage) error {
	var c store.Clip
	if err := json.Unmarshal(raw, &c); err != nil {
		return err
	}
	if err := c.Check(); err != nil {
		return err
	}
	// Only the number of frames is needed from here on.
	for len(a.frames) < len(c.Stamps) {
		a.frames = append(a.frames, 0)
	}
	small := store.Clip{ID: c.ID, AttemptID: c.AttemptID, Width: c.Width, Height: c.Height, Stamps: a.frames[:len(c.Stamps)]}
	a.clips[c.AttemptID] = append(a.clips[c.AttemptID], small)
	a.byID[c.ID] = small
	return nil
}

// model is the model by which an attempt is judged.
func (a *reading) model(at store.Attempt) (model.Model, error) {
	key := at.Event
	source := ""
	if at.ModelN > 0 {
		key = fmt.Sprint(at.Event, " ", at.ModelN)
		source = a.sources[key]
	}
	if m, ok := a.models[key]; ok {
		return m, nil
	}
	m, err := models.Load(at.Event)
	if source != "" {
		m, err = models.Parse([]byte(source))
	}
	a.models[key] = m
	return m, err
}

func (a *reading) decision(raw json.RawMessage, row map[string]json.RawMessage) bool {
	var d struct {
		Attempt uuid.UUID       `json:"attempt_id"`
		Clip    *uuid.UUID      `json:"clip_id"`
		Kind    string          `json:"kind"`
		Key     string          `json:"key"`
		Value   json.RawMessage `json:"value"`
	}
	if json.Unmarshal(raw, &d) != nil {
		return false
	}
	at, ok := a.attempts[d.Attempt]
	if !ok {
		return false
	}
	m, err := a.model(at)
	if err != nil {
		return false
	}
	value, err := workspace.Decision(m, a.clips[d.Attempt], store.Item{Clip: d.Clip, Kind: d.Kind, Key: d.Key, Value: d.Value})
	if err != nil {
		return false
	}
	row["value"] = value
	return true
}

func (a *reading) chapter(raw json.RawMessage) error {
	var c struct {
		Attempt uuid.UUID         `json:"attempt_id"`
		Name    string            `json:"name"`
		Finding string            `json:"finding"`
		Seconds float64           `json:"seconds"`
		Stage   []voiceover.Scene `json:"stage"`
		Voice   string            `json:"voice"`
	}
	if err := json.Unmarshal(raw, &c); err != nil {
		return err
	}
	// A voice is a WebM file; PostgreSQL writes it in hexadecimal.
	if c.Name == "" || len(c.Name) > 500 || len(c.Finding) > 100 || !(c.Seconds > 0 && c.Seconds <= voiceover.MostSeconds) || !strings.HasPrefix(c.Voice, `\x1a45dfa3`) {
		return errors.New("a chapter without a name or a voice")
	}
	return voiceover.Check(a.clips[c.Attempt], c.Stage)
}

func (a *reading) tracks(ctx context.Context, to *store.Refilling, known map[string]uuid.UUID, f *zip.File) error {
	_, rest, _ := strings.Cut(f.Name, "/")
	id := known[strings.TrimSuffix(rest, ".json")]
	clip, ok := a.byID[id]
	raw, err := all(f)
	list := map[string]*track.Track{}
	if err == nil {
		err = json.Unmarshal(raw, &list)
	}
	for name, t := range list {
		switch {
		case err != nil:
		case !body.Known(name):
			err = fmt.Errorf("there is no landmark %q", name)
		case t == nil:
			err = fmt.Errorf("%s has no points", name)
		case !ok:
			err = errors.New("its clip is missing")
		default:
			err = workspace.CheckTrack(clip, t)
		}
	}
	if err != nil {
		return invalid("%s cannot be read: %s.", f.Name, err)
	}
	return to.Tracks(ctx, id, list)
}

// small reads a file of the archive that fits into memory.
func (a *reading) small(name string) ([]byte, error) {
	f := a.files[name]
	if f == nil {
		return nil, errors.New("not there")
	}
	return all(f)
}

// all reads a small file whole.
func all(f *zip.File) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	raw, err := io.ReadAll(io.LimitReader(r, mostSmall+1))
	if err == nil && len(raw) > mostSmall {
		err = errPacked
	}
	return raw, err
}

// rows hands over the rows of a table, one by one.
func (a *reading) rows(name string, each func(json.RawMessage) error) error {
	unreadable := invalid("%s.json is missing from the archive or cannot be read. Export the team again.", name)
	f := a.files[name+".json"]
	if f == nil {
		return unreadable
	}
	r, err := f.Open()
	if err != nil {
		return unreadable
	}
	defer r.Close()
	in := &bounded{r: r, left: mostTable, row: mostRow}
	dec := json.NewDecoder(in)
	if t, err := dec.Token(); err != nil || t != json.Delim('[') {
		return unreadable
	}
	for n := 0; dec.More(); n++ {
		var raw json.RawMessage
		if dec.Decode(&raw) != nil || n >= mostRows {
			return unreadable
		}
		in.row = mostRow
		if err := each(raw); err != nil {
			return err
		}
	}
	if t, err := dec.Token(); err != nil || t != json.Delim(']') {
		return unreadable
	}
	return nil
}

// bounded ends a file that is longer than it may be, as a whole or in one row.
type bounded struct {
	r    io.Reader
	left int64
	row  int64 // 0: no rows
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return 0, errPacked
	}
	if b.row > 0 {
		if b.row -= int64(n); b.row <= 0 {
			return 0, errPacked
		}
	}
	return n, err
}

// listed is how many bytes the list of an archive's files has, read from its end
// (PKWARE's APPNOTE, 4.3.14 to 4.3.16, from memory): the library takes the list into
// memory whole.
func listed(r io.ReaderAt, size int64) (int64, error) {
	n := min(size, 22+65535)
	tail := make([]byte, n)
	if _, err := r.ReadAt(tail, size-n); err != nil && !errors.Is(err, io.EOF) {
		return 0, err
	}
	at := bytes.LastIndex(tail, []byte("PK\x05\x06"))
	if at < 0 || at+22 > len(tail) {
		return 0, errNoArchive
	}
	if short := binary.LittleEndian.Uint32(tail[at+12:]); short != 0xffffffff {
		return int64(short), nil
	}
	far := bytes.LastIndex(tail[:at], []byte("PK\x06\x07"))
	if far < 0 || far+16 > len(tail) {
		return 0, errNoArchive
	}
	record := make([]byte, 56)
	if _, err := r.ReadAt(record, int64(binary.LittleEndian.Uint64(tail[far+8:]))); err != nil {
		return 0, err
	}
	return int64(binary.LittleEndian.Uint64(record[40:])), nil
}

package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/contact"
	"neokinema/core/evaluate"
	"neokinema/core/stabilize"
	"neokinema/core/timebase"
	"neokinema/core/track"
	"neokinema/internal/problem"
)

// Clip is one video of an attempt.
type Clip struct {
	ID          uuid.UUID                  `db:"id" json:"id"`
	TeamID      uuid.UUID                  `db:"team_id" json:"-"`
	AttemptID   uuid.UUID                  `db:"attempt_id" json:"attempt_id"`
	Name        string                     `db:"name" json:"name" doc:"file name as uploaded"`
	Bytes       int64                      `db:"bytes" json:"bytes"`
	SHA256      string                     `db:"sha256" json:"-"`
	State       string                     `db:"state" json:"state" enum:"waiting,importing,ready,failed,cancelled"`
	Progress    float64                    `db:"progress" json:"progress" doc:"0 to 1"`
	Problem     string                     `db:"problem" json:"problem" doc:"why the import failed and what to do"`
	JobID       int64                      `db:"job_id" json:"-"`
	Width       int                        `db:"width" json:"width" doc:"px of the upright picture"`
	Height      int                        `db:"height" json:"height"`
	ProxyScale  float64                    `db:"proxy_scale" json:"proxy_scale" doc:"proxy px per px"`
	Codec       string                     `db:"codec" json:"codec"`
	FileRate    float64                    `db:"file_rate" json:"file_rate" doc:"frames per second at which the file plays"`
	CaptureRate float64                    `db:"capture_rate" json:"capture_rate" doc:"frames per second of the camera, 0 unknown"`
	RateFrom    string                     `db:"rate_from" json:"rate_from" enum:"unknown,file,coach"`
	Stamps      stampsColumn               `db:"stamps" json:"stamps" doc:"time stamp of every frame, 1/90000 s"`
	Pictures    timebase.Pictures          `db:"pictures" json:"pictures" doc:"a letter for each frame: . its own picture, r the one before once more, b a mix of two; empty when all are their own"`
	OfferColumn jsonColumn[timebase.Offer] `db:"rate_offer" json:"-"`
	View        string                     `db:"view" json:"view" enum:"side,back,front,oblique,above"`
	Direction   float64                    `db:"direction" json:"direction" doc:"+1 runs to the right, -1 to the left, 0 not known"`
	Warnings    textColumn                 `db:"warnings" json:"warnings"`
	CreatedAt   time.Time                  `db:"created_at" json:"created_at"`
	TakenAt     *time.Time                 `db:"taken_at" json:"taken_at,omitempty" required:"false" doc:"when the camera says it made the clip"`

	MediaBytes int64 `db:"media_bytes" json:"-"` // of original, proxy and poster; 0 before the import

	CameraColumn   jsonColumn[stabilize.Rotations] `db:"camera" json:"-"`
	ContactsColumn jsonColumn[[]contact.Contact]   `db:"contacts" json:"-"`
	// Camera is set where a clip leaves the store.
	Offer    *timebase.Offer      `db:"-" json:"rate_offer,omitempty" required:"false" doc:"a capture rate that the tool proposes"`
	Camera   *stabilize.Rotations `db:"-" json:"camera,omitempty" required:"false" doc:"how the camera turned; absent until it was looked for"`
	Contacts []contact.Contact    `db:"-" json:"contacts,omitempty" required:"false" doc:"contacts that the picture of the feet showed"`
}

// seen brings out of the row what the API shows.
func (c Clip) seen() Clip {
	c.Camera, c.Offer = c.CameraColumn.V, c.OfferColumn.V
	if c.ContactsColumn.V != nil {
		c.Contacts = *c.ContactsColumn.V
	}
	return c
}

func oneClip(ctx context.Context, q sqlx.QueryerContext, query string, args ...any) (Clip, error) {
	c, err := get[Clip](ctx, q, "clip", query, args...)
	return c.seen(), err
}

func manyClips(ctx context.Context, q sqlx.QueryerContext, query string, args ...any) ([]Clip, error) {
	list, err := rows[Clip](ctx, q, query, args...)
	for i := range list {
		list[i] = list[i].seen()
	}
	return list, err
}

// Check refuses a clip that no import makes.
func (c Clip) Check() error {
	finite := func(list ...float64) bool {
		for _, v := range list {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				return false
			}
		}
		return true
	}
	n := len(c.Stamps)
	switch {
	case c.Width < 0 || c.Height < 0 || c.Width > 8192 || c.Height > 8192 || n > 0 && (c.Width == 0 || c.Height == 0):
		return fmt.Errorf("a picture of %d x %d", c.Width, c.Height)
	case !finite(c.ProxyScale, c.FileRate, c.CaptureRate, c.Direction, c.Progress) || c.ProxyScale <= 0 || c.ProxyScale > 1 || c.FileRate < 0 || c.CaptureRate < 0 || c.Progress < 0 || c.Progress > 1:
		return errors.New("rates or scales that cannot be")
	case n > track.MostFrames:
		return fmt.Errorf("%d frames", n)
	case c.State == "ready" && n == 0:
		return errors.New("it is ready and has no frames")
	case c.State == "waiting" || c.State == "importing":
		return errors.New("it is still being imported")
	case len(c.Name) > 1000 || len(c.Warnings) > 50 || c.Bytes < 0:
		return errors.New("a name or a list that is too long")
	}
	for i, t := range c.Stamps {
		if t < 0 || i > 0 && t < c.Stamps[i-1] {
			return fmt.Errorf("its clock runs back at frame %d", i)
		}
	}
	if err := c.Pictures.Check(n); err != nil {
		return err
	}
	if p := c.Camera; p != nil {
		if err := p.Check(n); err != nil {
			return err
		}
	}
	if len(c.Contacts) > 10_000 {
		return errors.New("more contacts than steps")
	}
	return nil
}

// Facts is what the computation needs of a clip.
func (c Clip) Facts() evaluate.ClipInfo {
	return evaluate.ClipInfo{Width: c.Width, Height: c.Height, Stamps: c.Stamps, FileRate: c.FileRate, CaptureRate: c.CaptureRate, Pictures: c.Pictures, View: c.View, Direction: c.Direction}
}

// Limits of uploads that are begun and not finished.
const (
	mostBegun        = 200 // of a team
	mostBegunByGuest = 5   // through one link
)

// Upload is a file on its way in.
type Upload struct {
	ID        uuid.UUID  `db:"id"`
	TeamID    uuid.UUID  `db:"team_id"`
	AttemptID uuid.UUID  `db:"attempt_id"`
	Name      string     `db:"name"`
	Bytes     int64      `db:"bytes"` // as announced; 0 when not known
	ShareID   *uuid.UUID `db:"share_id"`
	CreatedAt time.Time  `db:"created_at"`
}

// AddUpload notes an upload before its first byte. It is refused when the team, or the
// link through which it comes, has begun as many as it may, or when the team's room
// would be used up.
func (s *Store) AddUpload(ctx context.Context, u Upload) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		type room struct {
			Quota int64 `db:"quota_bytes"`
			Used  int64 `db:"used"`
			Begun int   `db:"begun"`
			Guest int   `db:"guest"`
		}
		r, err := get[room](ctx, tx, "attempt", `SELECT t.quota_bytes, (SELECT COALESCE(sum(GREATEST(media_bytes, bytes)), 0) FROM clips WHERE team_id = t.id)
				+ (SELECT COALESCE(sum(u.bytes), 0) FROM uploads u WHERE u.team_id = t.id AND NOT EXISTS (SELECT 1 FROM clips c WHERE c.id = u.id)) AS used,
			(SELECT count(*) FROM uploads u WHERE u.team_id = t.id AND NOT EXISTS (SELECT 1 FROM clips c WHERE c.id = u.id)) AS begun,
			(SELECT count(*) FROM uploads u WHERE u.share_id = $2 AND NOT EXISTS (SELECT 1 FROM clips c WHERE c.id = u.id)) AS guest
			FROM teams t WHERE t.id = $1 FOR UPDATE`, u.TeamID, u.ShareID)
		switch {
		case err != nil:
			return err
		case r.Begun >= mostBegun || u.ShareID != nil && r.Guest >= mostBegunByGuest:
			return problem.New(problem.TooMany, "Too many uploads are begun and not finished. Let them finish or stop them, then drop this file again.")
		case r.Quota > 0 && u.Bytes > r.Quota-r.Used:
			return problem.New(problem.NoRoom, "The room of this team for clips is used up. Delete clips that are not needed any more, or ask who runs the server for more.")
		}
		_, err = get[uuid.UUID](ctx, tx, "attempt", `INSERT INTO uploads (id, team_id, attempt_id, name, bytes, share_id)
			SELECT $3, $1, id, $4, $5, $6 FROM attempts WHERE team_id = $1 AND id = $2 RETURNING id`, u.TeamID, u.AttemptID, u.ID, u.Name, u.Bytes, u.ShareID)
		return err
	})
}

// Quota refuses bytes that would not fit into a team's room.
func (s *Store) Quota(ctx context.Context, team uuid.UUID, bytes int64) error {
	over, err := get[bool](ctx, s.DB, "team", `SELECT quota_bytes > 0 AND $2 > quota_bytes - (SELECT COALESCE(sum(GREATEST(media_bytes, bytes)), 0) FROM clips WHERE team_id = teams.id) FROM teams WHERE id = $1`, team, bytes)
	if err == nil && over {
		err = problem.New(problem.NoRoom, "The room of this team for clips does not hold this. Ask who runs the server for more.")
	}
	return err
}

// UploadFor tells to which attempt of the team an upload goes.
func (s *Store) UploadFor(ctx context.Context, team, id uuid.UUID) (uuid.UUID, error) {
	return get[uuid.UUID](ctx, s.DB, "upload", `SELECT attempt_id FROM uploads WHERE team_id = $1 AND id = $2
		UNION SELECT attempt_id FROM clips WHERE team_id = $1 AND id = $2`, team, id)
}

// OpenUploads lists uploads that no clip has come of yet.
func (s *Store) OpenUploads(ctx context.Context) ([]Upload, error) {
	return rows[Upload](ctx, s.DB, `SELECT id, team_id, attempt_id, name, bytes, share_id, created_at FROM uploads u WHERE NOT EXISTS (SELECT 1 FROM clips c WHERE c.id = u.id) ORDER BY created_at`)
}

// ShelvedUploads lists uploads whose clips are imported.
func (s *Store) ShelvedUploads(ctx context.Context) ([]uuid.UUID, error) {
	return rows[uuid.UUID](ctx, s.DB, `SELECT u.id FROM uploads u JOIN clips c ON c.id = u.id WHERE c.state = 'ready'`)
}

// DropUpload forgets an upload.
func (s *Store) DropUpload(ctx context.Context, id uuid.UUID) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM uploads WHERE id = $1`, id)
	return Explain(err)
}

// AddClip turns a finished upload into a clip, together with its import job. Done
// again it changes nothing.
func (s *Store) AddClip(ctx context.Context, upload uuid.UUID, bytes int64, enqueue func(tx *sqlx.Tx) (int64, error)) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "upload", `SELECT id FROM uploads WHERE id = $1 FOR UPDATE`, upload); err != nil {
			return err
		}
		if there, err := get[bool](ctx, tx, "upload", `SELECT EXISTS (SELECT 1 FROM clips WHERE id = $1)`, upload); err != nil || there {
			return err
		}
		job, err := enqueue(tx)
		if err != nil {
			return err
		}
		_, err = get[uuid.UUID](ctx, tx, "upload", `INSERT INTO clips (id, team_id, attempt_id, name, bytes, state, job_id)
			SELECT id, team_id, attempt_id, name, $2, 'waiting', $3 FROM uploads WHERE id = $1 RETURNING id`, upload, bytes, job)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE attempts SET state = 'new' WHERE state = 'logged' AND id = (SELECT attempt_id FROM clips WHERE id = $1)`, upload)
		return err
	})
}

// Hold keeps the row of a clip or a film from being deleted while f puts something on
// the shelf for it. A row that is gone already is a problem of the kind not found, and
// f is not called.
func (s *Store) Hold(ctx context.Context, table string, id uuid.UUID, f func() error) error {
	query := map[string]string{"clips": `SELECT id FROM clips WHERE id = $1 FOR KEY SHARE`, "films": `SELECT id FROM films WHERE id = $1 FOR KEY SHARE`}[table]
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, strings.TrimSuffix(table, "s"), query, id); err != nil {
			return err
		}
		return f()
	})
}

// Clip finds one clip of a team.
func (s *Store) Clip(ctx context.Context, team, id uuid.UUID) (Clip, error) {
	return oneClip(ctx, s.DB, `SELECT * FROM clips WHERE team_id = $1 AND id = $2`, team, id)
}

// ClipForImport finds a clip for its job.
func (s *Store) ClipForImport(ctx context.Context, id uuid.UUID) (Clip, error) {
	return oneClip(ctx, s.DB, `SELECT * FROM clips WHERE id = $1`, id)
}

// Clips lists the clips of an attempt in the order in which they came.
func (s *Store) Clips(ctx context.Context, team, attempt uuid.UUID) ([]Clip, error) {
	return manyClips(ctx, s.DB, `SELECT * FROM clips WHERE team_id = $1 AND attempt_id = $2 ORDER BY created_at, id`, team, attempt)
}

// SaveImport stores what an import found out. A coach's own answer to rate,
// view or direction stays. A clip deleted meanwhile is not brought back.
func (s *Store) SaveImport(ctx context.Context, c Clip) error { return saveImport(ctx, s.DB, c) }

func saveImport(ctx context.Context, q sqlx.ExtContext, c Clip) error {
	_, err := sqlx.NamedExecContext(ctx, q, `UPDATE clips SET sha256 = :sha256, state = :state, progress = :progress, problem = :problem, width = :width, height = :height, proxy_scale = :proxy_scale,
		codec = :codec, file_rate = :file_rate, capture_rate = CASE WHEN rate_from = 'coach' THEN capture_rate ELSE :capture_rate END,
		rate_from = CASE WHEN rate_from = 'coach' THEN rate_from ELSE :rate_from END, stamps = COALESCE(CAST(:stamps AS bigint[]), '{}'),
		direction = CASE WHEN direction <> 0 THEN direction ELSE :direction END, warnings = COALESCE(CAST(:warnings AS text[]), '{}'), taken_at = :taken_at, pictures = :pictures, rate_offer = CAST(:rate_offer AS jsonb), media_bytes = :media_bytes WHERE id = :id`,
		fields(c, map[string]any{"stamps": []int64(c.Stamps), "warnings": []string(c.Warnings), "rate_offer": c.OfferColumn}))
	return Explain(err)
}

// FinishImport stores an import that is done, together with what comes after it.
func (s *Store) FinishImport(ctx context.Context, c Clip, after func(tx *sqlx.Tx) error) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := saveImport(ctx, tx, c); err != nil {
			return err
		}
		return after(tx)
	})
}

// SetClipState changes the state of a clip, with the job that works on it.
func (s *Store) SetClipState(ctx context.Context, id uuid.UUID, state, problem string, job int64) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE clips SET state = $2, problem = $3, job_id = $4 WHERE id = $1`, id, state, problem, job)
	return Explain(err)
}

// SetClipFacts stores the coach's answers about a clip.
func (s *Store) SetClipFacts(ctx context.Context, team, id uuid.UUID, rate float64, rateFrom, view string, direction float64) (Clip, error) {
	return oneClip(ctx, s.DB, `UPDATE clips SET capture_rate = $3, rate_from = $4, view = $5, direction = $6 WHERE team_id = $1 AND id = $2 RETURNING *`,
		team, id, rate, rateFrom, view, direction)
}

// SetClipCamera stores how the camera of a clip turned.
func (s *Store) SetClipCamera(ctx context.Context, team, id uuid.UUID, c *stabilize.Rotations) (Clip, error) {
	raw, err := json.Marshal(c)
	if err != nil {
		return Clip{}, err
	}
	return oneClip(ctx, s.DB, `UPDATE clips SET camera = CAST($3 AS jsonb) WHERE team_id = $1 AND id = $2 RETURNING *`, team, id, string(raw))
}

// SetClipContacts stores the contacts that the picture of the feet showed.
func (s *Store) SetClipContacts(ctx context.Context, team, id uuid.UUID, list []contact.Contact) (Clip, error) {
	raw, err := json.Marshal(list)
	if err != nil {
		return Clip{}, err
	}
	return oneClip(ctx, s.DB, `UPDATE clips SET contacts = CAST($3 AS jsonb) WHERE team_id = $1 AND id = $2 RETURNING *`, team, id, string(raw))
}

// SameClip finds another clip of the team with the same content.
func (s *Store) SameClip(ctx context.Context, c Clip) (other Clip, found bool, err error) {
	list, err := manyClips(ctx, s.DB, `SELECT * FROM clips WHERE team_id = $1 AND sha256 = $2 AND id <> $3 AND state <> 'failed' ORDER BY (attempt_id = $4) DESC, created_at LIMIT 1`,
		c.TeamID, c.SHA256, c.ID, c.AttemptID)
	if err != nil || len(list) == 0 {
		return Clip{}, false, err
	}
	return list[0], true, nil
}

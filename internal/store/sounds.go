package store

import (
	"context"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/audiosync"
)

// KeepSound keeps how loud a clip is.
func (s *Store) KeepSound(ctx context.Context, team, clip uuid.UUID, l audiosync.Loudness) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO sounds (team_id, clip_id, loudness) VALUES ($1, $2, $3) ON CONFLICT (clip_id) DO UPDATE SET loudness = $3`,
		team, clip, append([]byte{}, l...))
	return Explain(err)
}

// Sounds are how loud clips of an attempt are, as far as they were listened to.
func Sounds(ctx context.Context, q sqlx.QueryerContext, team, attempt uuid.UUID) (map[uuid.UUID]audiosync.Loudness, error) {
	list, err := rows[struct {
		ClipID   uuid.UUID `db:"clip_id"`
		Loudness []byte    `db:"loudness"`
	}](ctx, q, `SELECT s.clip_id, s.loudness FROM sounds s JOIN clips c ON c.id = s.clip_id WHERE c.team_id = $1 AND c.attempt_id = $2`, team, attempt)
	out := map[uuid.UUID]audiosync.Loudness{}
	for _, r := range list {
		out[r.ClipID] = r.Loudness
	}
	return out, err
}

// Sound is how loud a clip is; false while it was not listened to.
func (s *Store) Sound(ctx context.Context, team, clip uuid.UUID) (l audiosync.Loudness, kept bool, err error) {
	list, err := rows[[]byte](ctx, s.DB, `SELECT loudness FROM sounds WHERE team_id = $1 AND clip_id = $2`, team, clip)
	if err != nil || len(list) == 0 {
		return nil, false, err
	}
	return list[0], true, nil
}

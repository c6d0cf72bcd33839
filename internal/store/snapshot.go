package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Snapshot holds one moment of the database while f runs: its name for PostgreSQL's
// tools, and the clips and films that there were.
func (s *Store) Snapshot(ctx context.Context, f func(id string, clips, films []uuid.UUID) error) error {
	tx, err := s.DB.BeginTxx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return Explain(err)
	}
	defer tx.Rollback()
	id, err := get[string](ctx, tx, "snapshot", `SELECT pg_export_snapshot()`)
	if err != nil {
		return err
	}
	clips, err := rows[uuid.UUID](ctx, tx, `SELECT id FROM clips ORDER BY id`)
	if err != nil {
		return err
	}
	films, err := rows[uuid.UUID](ctx, tx, `SELECT id FROM films WHERE state = 'ready' ORDER BY id`)
	if err != nil {
		return err
	}
	return f(id, clips, films)
}

// Vacant refuses a database that has tables already.
func Vacant(ctx context.Context, url string) error {
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer c.Close(ctx)
	var n int
	if err := c.QueryRow(ctx, `SELECT count(*) FROM information_schema.tables WHERE table_schema = current_schema()`).Scan(&n); err != nil {
		return err
	}
	if n > 0 {
		return errors.New("this database has tables already. A backup is read into an empty one: make a new database and name it in NEO_DATABASE_URL")
	}
	return nil
}

// Forget removes the rows of clips and films that were deleted while a backup was
// written.
func Forget(ctx context.Context, url string, ids []uuid.UUID) error {
	if len(ids) == 0 {
		return nil
	}
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return err
	}
	defer c.Close(ctx)
	for _, q := range []string{`DELETE FROM clips WHERE id = ANY($1)`, `DELETE FROM films WHERE id = ANY($1)`} {
		if _, err := c.Exec(ctx, q, ids); err != nil {
			return err
		}
	}
	return nil
}

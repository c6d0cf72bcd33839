package store

import (
	"context"
	"fmt"
	"time"
)

// Servers that share a database tell it that they are there; the jobs of one that is
// not heard of for [Silence] are taken over.
const (
	Heartbeat = 5 * time.Second
	Silence   = 4 * Heartbeat
)

// Server is a program that works on this database.
type Server struct {
	ID        string    `db:"id"`
	StartedAt time.Time `db:"started_at"`
	SeenAt    time.Time `db:"seen_at"`
	Version   string    `db:"version"`
	Host      string    `db:"host"`
}

// Beat tells that a server is there.
func (s *Store) Beat(ctx context.Context, id, version, host string) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO servers (id, version, host) VALUES ($1, $2, $3) ON CONFLICT (id) DO UPDATE SET seen_at = now()`, id, version, host)
	return Explain(err)
}

// Leave tells that a server is gone.
func (s *Store) Leave(ctx context.Context, id string) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM servers WHERE id = $1`, id)
	return Explain(err)
}

// Servers lists those that were heard of.
func (s *Store) Servers(ctx context.Context) ([]Server, error) {
	return rows[Server](ctx, s.DB, `SELECT id, started_at, seen_at, version, host FROM servers ORDER BY started_at`)
}

// RescueJobs puts jobs of servers that are not heard of any more back in line, and
// gives up those that have been begun as often as they may: a file that ends the
// machine must not do so for ever. A job knows its server by the last name that it was
// attempted by, which begins with the server's id.
//
// Clips and films whose job is over without an end of their own say so, so that there is
// a way on. It tells how many.
func (s *Store) RescueJobs(ctx context.Context) (given int64, err error) {
	const orphaned = `state = 'running' AND NOT EXISTS (SELECT 1 FROM servers v WHERE starts_with(attempted_by[array_upper(attempted_by, 1)], v.id))`
	const over = `job_id <> 0 AND NOT EXISTS (SELECT 1 FROM river_job j WHERE j.id = job_id AND j.state NOT IN ('discarded', 'cancelled', 'completed'))`
	for _, q := range []string{
		fmt.Sprintf(`DELETE FROM servers WHERE seen_at < now() - %g * interval '1 second'`, Silence.Seconds()),
		`UPDATE river_job SET state = 'available', scheduled_at = now() WHERE attempt < max_attempts AND ` + orphaned,
		`UPDATE river_job SET state = 'discarded', finalized_at = now() WHERE attempt >= max_attempts AND ` + orphaned,
	} {
		if _, err := s.DB.ExecContext(ctx, q); err != nil {
			return 0, Explain(err)
		}
	}
	for _, q := range []string{
		`UPDATE clips SET state = 'failed', problem = 'The import of this file was broken off several times. Convert it to MP4 (H.264) first, or press “try again”.' WHERE state IN ('waiting', 'importing') AND ` + over,
		`UPDATE drafts SET state = 'failed', says = 'The draft of this clip was broken off several times. Draft it in the browser.' WHERE state IN ('waiting', 'drafting') AND ` + over,
		`UPDATE films SET state = 'failed', problem = 'The drawing of this film was broken off several times. Make it shorter and try again.' WHERE state IN ('waiting', 'drawing') AND ` + over,
	} {
		r, err := s.DB.ExecContext(ctx, q)
		if err != nil {
			return given, Explain(err)
		}
		n, err := r.RowsAffected()
		if given += n; err != nil {
			return given, err
		}
	}
	return given, nil
}

// Numbers are what an operator watches of the database.
type Numbers struct {
	Jobs []struct {
		Kind   string  `db:"kind"`
		State  string  `db:"state"`
		Count  int     `db:"count"`
		Oldest float64 `db:"oldest"` // s
	}
	Clips []struct {
		State string `db:"state"`
		Count int    `db:"count"`
	}
	Bytes   int64
	Teams   int
	Servers int
}

// Numbers counts jobs, clips and the like.
func (s *Store) Numbers(ctx context.Context) (n Numbers, err error) {
	if err := s.DB.SelectContext(ctx, &n.Jobs, `SELECT kind, state, count(*) AS count, EXTRACT(epoch FROM now() - min(scheduled_at))::float8 AS oldest FROM river_job GROUP BY kind, state`); err != nil {
		return n, Explain(err)
	}
	if err := s.DB.SelectContext(ctx, &n.Clips, `SELECT state, count(*) AS count FROM clips GROUP BY state`); err != nil {
		return n, Explain(err)
	}
	for query, to := range map[string]any{`SELECT COALESCE(sum(media_bytes), 0)::bigint FROM clips`: &n.Bytes, `SELECT count(*) FROM teams`: &n.Teams,
		fmt.Sprintf(`SELECT count(*) FROM servers WHERE seen_at > now() - %g * interval '1 second'`, Silence.Seconds()): &n.Servers} {
		if err := s.DB.GetContext(ctx, to, query); err != nil {
			return n, Explain(err)
		}
	}
	return n, nil
}

// Package testdb gives tests databases of their own on one PostgreSQL: that of the
// whole run, which the command withdb starts, or else one of the test process.
package testdb

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"

	"github.com/jackc/pgx/v5"

	"neokinema/internal/pglocal"
)

// Env names the variable that holds the URL of the run's server.
const Env = "NEO_TEST_DB"

// StartServer starts a PostgreSQL without durability in a temporary folder and gives
// what ends it.
func StartServer(ctx context.Context) (*pglocal.Server, func() error, error) {
	dir, err := os.MkdirTemp("", "neokinema-db-")
	if err != nil {
		return nil, nil, err
	}
	// It runs as another user, who must be able to walk there.
	if err := os.Chmod(dir, 0o755); err != nil {
		return nil, nil, err
	}
	s, err := pglocal.Start(ctx, pglocal.Options{Dir: filepath.Join(dir, "db"), Fast: true})
	if err != nil {
		os.RemoveAll(dir)
		return nil, nil, err
	}
	return s, func() error {
		defer os.RemoveAll(dir)
		return s.Stop()
	}, nil
}

// own is the server of this process, for tests that are started without withdb. It
// ends with the last of its databases.
var own struct {
	sync.Mutex
	users int
	url   string
	end   func() error
}

// server gives the URL of the server to use, and what lets go of it.
func server(ctx context.Context) (at string, release func() error, err error) {
	if at := os.Getenv(Env); at != "" {
		return at, func() error { return nil }, nil
	}
	own.Lock()
	defer own.Unlock()
	if own.users == 0 {
		s, end, err := StartServer(ctx)
		if err != nil {
			return "", nil, err
		}
		own.url, own.end = s.URL, end
	}
	own.users++
	return own.url, func() error {
		own.Lock()
		defer own.Unlock()
		if own.users--; own.users > 0 {
			return nil
		}
		return own.end()
	}, nil
}

var made atomic.Int64

// New makes an empty database and gives its URL and what removes it.
func New(ctx context.Context) (at string, end func() error, err error) {
	host, release, err := server(ctx)
	if err != nil {
		return "", nil, err
	}
	return create(ctx, host, "", release)
}

// Migrated makes a database from a template that migrate has prepared; the first call
// with a name prepares it.
func Migrated(ctx context.Context, name string, migrate func(url string) error) (at string, end func() error, err error) {
	host, release, err := server(ctx)
	if err != nil {
		return "", nil, err
	}
	template := "template_" + name
	err = on(ctx, host, func(c *pgx.Conn) error {
		// One process prepares it, the others wait.
		if _, err := c.Exec(ctx, `SELECT pg_advisory_lock(1)`); err != nil {
			return err
		}
		defer c.Exec(ctx, `SELECT pg_advisory_unlock(1)`)
		var there bool
		if err := c.QueryRow(ctx, `SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1 AND datistemplate)`, template).Scan(&there); err != nil || there {
			return err
		}
		for _, q := range []string{`DROP DATABASE IF EXISTS ` + template, `CREATE DATABASE ` + template} {
			if _, err := c.Exec(ctx, q); err != nil {
				return err
			}
		}
		if err := migrate(inside(host, template)); err != nil {
			return err
		}
		_, err = c.Exec(ctx, `ALTER DATABASE `+template+` IS_TEMPLATE true`)
		return err
	})
	if err != nil {
		return "", nil, errors.Join(fmt.Errorf("a template database: %w", err), release())
	}
	return create(ctx, host, " TEMPLATE "+template, release)
}

// create makes a database and gives what removes it and lets go of the server.
func create(ctx context.Context, host, from string, release func() error) (string, func() error, error) {
	name := fmt.Sprintf("t_%d_%d", os.Getpid(), made.Add(1))
	run := func(q string) error {
		return on(context.WithoutCancel(ctx), host, func(c *pgx.Conn) error {
			_, err := c.Exec(ctx, q)
			return err
		})
	}
	if err := run(`CREATE DATABASE ` + name + from); err != nil {
		return "", nil, errors.Join(err, release())
	}
	return inside(host, name), func() error {
		return errors.Join(run(`DROP DATABASE `+name+` WITH (FORCE)`), release())
	}, nil
}

func on(ctx context.Context, url string, f func(*pgx.Conn) error) error {
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return err
	}
	defer c.Close(ctx)
	return f(c)
}

// inside is the URL of another database of a server.
func inside(host, database string) string {
	u, err := url.Parse(host)
	if err != nil {
		panic(err) // it was connected to by this URL
	}
	u.Path = "/" + database
	return u.String()
}

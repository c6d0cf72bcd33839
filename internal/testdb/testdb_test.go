package testdb

import (
	"context"
	"testing"

	"github.com/jackc/pgx/v5"
)

// Databases of one template hold what it was given once, and nothing of each other.
func TestDatabasesOfATemplate(t *testing.T) {
	ctx := context.Background()
	prepared := 0
	var urls []string
	for range 2 {
		url, end, err := Migrated(ctx, "of_this_test", func(url string) error {
			prepared++
			return on(ctx, url, func(c *pgx.Conn) error {
				_, err := c.Exec(ctx, `CREATE TABLE things (n int); INSERT INTO things VALUES (1)`)
				return err
			})
		})
		if err != nil {
			t.Fatal(err)
		}
		defer func() {
			if err := end(); err != nil {
				t.Error(err)
			}
		}()
		urls = append(urls, url)
	}
	for i, url := range urls {
		err := on(ctx, url, func(c *pgx.Conn) error {
			var n int
			if err := c.QueryRow(ctx, `INSERT INTO things VALUES (2) RETURNING (SELECT count(*) FROM things)`).Scan(&n); err != nil {
				return err
			}
			if n != 1 {
				t.Errorf("database %d held %d things", i, n)
			}
			return nil
		})
		if err != nil {
			t.Error(err)
		}
	}
	if prepared != 1 {
		t.Errorf("the template was prepared %d times", prepared)
	}
}

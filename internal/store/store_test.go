package store

import (
	"errors"
	"fmt"
	"io"
	"net"
	"testing"

	"github.com/jackc/pgx/v5/pgconn"

	"neokinema/internal/problem"
)

func TestErrorsOfTheDatabaseInWords(t *testing.T) {
	for _, c := range []struct {
		err  error
		want problem.Kind
	}{
		{&pgconn.PgError{Code: "57P01"}, problem.Unavailable},
		{fmt.Errorf("query: %w", &pgconn.PgError{Code: "08006"}), problem.Unavailable},
		{&pgconn.PgError{Code: "53300"}, problem.Unavailable},
		{&pgconn.PgError{Code: "53100"}, problem.NoRoom},
		{&pgconn.PgError{Code: "22021"}, problem.Invalid},
		{&net.OpError{Op: "dial", Err: io.ErrUnexpectedEOF}, problem.Unavailable},
		{errors.New("conn closed"), problem.Unavailable},
		{&pgconn.PgError{Code: "42601"}, problem.Internal},
		{errors.New("odd"), problem.Internal},
		{problem.Missing("clip"), problem.NotFound},
	} {
		if p := problem.From(Explain(c.err)); p.Kind != c.want || p.Says == "" || p.GetStatus() < 400 {
			t.Errorf("%v: %+v, want %s", c.err, p, c.want)
		}
	}
	if Explain(nil) != nil {
		t.Error("no error became one")
	}
	if p := problem.From(&pgconn.PgError{Code: "42601", Message: "secret detail"}); errors.Unwrap(p) == nil || p.Says == p.Error() {
		t.Errorf("the cause belongs into the log, not to the user: %v", p)
	}
}

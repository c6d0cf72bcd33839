package api_test

import (
	"net/http"
	"strings"
	"testing"

	"neokinema/internal/testenv"
)

// A form that is not right is told in words, by the names of its fields, and without what was
// typed: a password is typed too.
func TestFormsAreToldInWords(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	heavy := testenv.Athlete("Heavy")
	heavy.Mass = 2500
	for _, q := range []struct {
		method, path string
		body         any
		says         string
	}{
		{"POST", "/api/join", map[string]string{"invitation": strings.Repeat("x", 32), "email": "a@club.example", "password": "kurz!"}, "Password needs at least 10 characters."},
		{"POST", "/api/join", map[string]string{"invitation": strings.Repeat("x", 32), "email": "kurz!", "password": "long enough words"}, "Email must be an e-mail address."},
		{"POST", "/api/attempts", map[string]string{"event": "shot"}, "is missing"},
		{"POST", "/api/athletes", heavy, "Mass must be at most 250."},
		{"GET", "/api/attempts/kurz!/workspace", nil, "This address is not right: go back to the queue."},
	} {
		raw, status := c.Try(q.method, q.path, q.body)
		says := said(t, raw).Says
		if status != http.StatusUnprocessableEntity && status != http.StatusBadRequest || !strings.Contains(says, q.says) {
			t.Errorf("%s %s: %d %q, want %q", q.method, q.path, status, says, q.says)
		}
		if strings.Contains(string(raw), "kurz!") || strings.Contains(string(raw), "body.") || strings.Contains(string(raw), "expected") {
			t.Errorf("%s %s: %s", q.method, q.path, raw)
		}
	}
}

package api_test

import "testing"

// Requests that are nearly right never end in an error of the server's own.
func TestNearlyRightRequests(t *testing.T) {
	t.Parallel()
	sent, failed := h.Fuzz(t, 1500, 1)
	if sent < 1500 || len(failed) > 0 {
		t.Errorf("%d requests, failed: %q", sent, failed)
	}
}

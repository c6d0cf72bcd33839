package scratch

import (
	"os"
	"path/filepath"
	"testing"
	"time"
)

// What a dead program left goes; what a living one has stays.
func TestFoldersOfTheDeadGo(t *testing.T) {
	parent := t.TempDir()
	alive, err := Open(parent)
	if err != nil {
		t.Fatal(err)
	}
	dead, err := Open(parent)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dead.Path, "half"), []byte("x"), 0o600); err != nil {
		t.Fatal(err)
	}
	dead.lock.Close() // as the end of a process lets go of it
	old := filepath.Join(parent, "import-123")
	starting := filepath.Join(parent, "starting")
	for _, d := range []string{old, starting} {
		if err := os.Mkdir(d, 0o700); err != nil {
			t.Fatal(err)
		}
	}
	then := time.Now().Add(-2 * settling)
	if err := os.Chtimes(old, then, then); err != nil {
		t.Fatal(err)
	}
	next, err := Open(parent)
	if err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]bool{alive.Path: true, dead.Path: false, old: false, starting: true, next.Path: true} {
		if _, err := os.Stat(path); (err == nil) != want {
			t.Errorf("%s: %v", path, err)
		}
	}
	if err := next.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(next.Path); err == nil {
		t.Error("closed, and still there")
	}
}

package core_test

import (
	"go/build"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// TestCoreImportsOnlyStandardLibraryAndGonum keeps computation free of
// files, databases and networks.
func TestCoreImportsOnlyStandardLibraryAndGonum(t *testing.T) {
	forbidden := map[string]bool{"os": true, "net": true, "net/http": true, "database/sql": true, "os/exec": true, "log": true, "log/slog": true, "time": true}
	packages := 0
	err := filepath.WalkDir(".", func(path string, d os.DirEntry, err error) error {
		if err != nil || !d.IsDir() {
			return err
		}
		p, err := build.ImportDir(path, 0)
		if err != nil {
			return nil // a folder without Go, such as models
		}
		packages++
		for _, imp := range p.Imports {
			first, _, _ := strings.Cut(imp, "/")
			switch {
			case strings.HasPrefix(imp, "neokinema/core/"), strings.HasPrefix(imp, "gonum.org/v1/gonum/"):
			case strings.Contains(first, ".") || first == "neokinema":
				t.Errorf("%s imports %s", path, imp)
			case forbidden[imp]:
				t.Errorf("%s imports %s: the core does no I/O and reads no clock", path, imp)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if packages < 8 {
		t.Fatalf("only %d packages were looked at", packages)
	}
}

// TestImportsRunDownward checks the order of the rooms: an inner room never
// imports an outer one.
func TestImportsRunDownward(t *testing.T) {
	floor := map[string]int{
		"problem": 0, "paper": 0, "fieldsheet": 1, "media": 1, "pglocal": 0, "testdb": 1, "testenv": 8, "guard": 0, "scratch": 0, "mail": 0, "form": 0, "cache": 1, "store": 1, "account": 2, "intake": 2, "workspace": 2, "videoanalysis": 3, "feedback": 3, "logbook": 3,
		"metrics": 3, "backup": 3, "share": 4, "planning": 4, "ownclips": 3, "seeing": 4, "drills": 1, "ghosts": 3, "owndrills": 4, "voiceover": 4, "inference": 0, "drafting": 4, "archive": 5, "videoexport": 5, "api": 6, "app": 7, "demo": 7,
	}
	for name, level := range floor {
		p, err := build.ImportDir(filepath.Join("..", "internal", name), 0)
		if err != nil {
			t.Fatal(err)
		}
		for _, imp := range p.Imports {
			other, ok := strings.CutPrefix(imp, "neokinema/internal/")
			if !ok {
				continue
			}
			if to, known := floor[other]; !known || to >= level && !(name == "app" || name == "demo") {
				t.Errorf("internal/%s imports internal/%s", name, other)
			}
		}
	}
}

// TestWorkIsGuarded: a goroutine that panics ends the process with everybody's work, so
// the server starts them in one place that recovers.
func TestWorkIsGuarded(t *testing.T) {
	bare := regexp.MustCompile(`(?m)^\s*go (func\b|[a-zA-Z_.]+\()`)
	looked := 0
	err := filepath.WalkDir(filepath.Join("..", "internal"), func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		looked++
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		// The guard itself, tests, and the demo's database, whose child needs a thread of its own.
		if at := filepath.Base(filepath.Dir(path)); at != "guard" && at != "pglocal" && at != "testenv" && bare.Match(raw) {
			t.Errorf("%s starts a goroutine by itself; use internal/guard", path)
		}
		return nil
	})
	if err != nil || looked < 60 {
		t.Fatalf("%d files: %v", looked, err)
	}
}

// TestOnePlaceRunsTheTools: nothing of the server but internal/media (and what tests are made of) runs ffmpeg.
func TestOnePlaceRunsTheTools(t *testing.T) {
	allowed := map[string]bool{"media": true, "pglocal": true, "backup": true, "withdb": true, "testenv": true}
	err := filepath.WalkDir(filepath.Join("..", "internal"), func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || allowed[filepath.Base(filepath.Dir(path))] {
			return err
		}
		raw, err := os.ReadFile(path)
		if err == nil && strings.Contains(string(raw), `"os/exec"`) {
			t.Errorf("%s runs programs", path)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

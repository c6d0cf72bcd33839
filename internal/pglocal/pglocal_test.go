package pglocal

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"syscall"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
)

// room is a folder of the test that the user postgres can walk to.
func room(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "neokinema-pg-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	return dir
}

// asked starts the database of a folder, asks it something, and stops it.
func asked(t *testing.T, dir string, ask func(*sql.DB) error) error {
	t.Helper()
	s, err := Start(context.Background(), Options{Dir: dir, Fast: true})
	if err != nil {
		t.Fatal(err)
	}
	defer func() {
		if err := s.Stop(); err != nil {
			t.Error(err)
		}
	}()
	db, err := sql.Open("pgx", s.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	return ask(db)
}

// TestStartsAfterAPowerCut: what a database that was cut off left behind says that it is ready; the
// new one is waited for all the same.
func TestStartsAfterAPowerCut(t *testing.T) {
	dir := filepath.Join(room(t), "db")
	file := filepath.Join(dir, "pg", "postmaster.pid")
	s, err := Start(context.Background(), Options{Dir: dir, Fast: true})
	if err != nil {
		t.Fatal(err)
	}
	left, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(file, left, 0o600); err != nil {
		t.Fatal(err)
	}
	if who, err := identity(); err != nil {
		t.Fatal(err)
	} else if who != nil {
		if err := os.Chown(file, int(who.Uid), int(who.Gid)); err != nil {
			t.Fatal(err)
		}
	}
	if err := asked(t, dir, func(db *sql.DB) error { return db.Ping() }); err != nil {
		t.Errorf("it was not waited for: %v", err)
	}
}

// TestStartKeepsItsDataAndStops: a second start finds what the first wrote.
func TestStartKeepsItsDataAndStops(t *testing.T) {
	dir := room(t)
	run := func(query string) (n int, err error) {
		err = asked(t, filepath.Join(dir, "db"), func(db *sql.DB) error { return db.QueryRow(query).Scan(&n) })
		return n, err
	}
	oid, err := run(`SELECT lo_from_bytea(0, 'kept')::int`)
	if err != nil {
		t.Fatal(err)
	}
	if n, err := run(fmt.Sprintf(`SELECT length(lo_get(%d))`, oid)); err != nil || n != 4 {
		t.Errorf("%d letters were kept, %v", n, err)
	}
}

func TestFoldersThatOthersCannotReach(t *testing.T) {
	dir := t.TempDir()
	closed := filepath.Join(dir, "closed")
	if err := os.MkdirAll(filepath.Join(closed, "db"), 0o700); err != nil {
		t.Fatal(err)
	}
	if reachable(filepath.Join(closed, "db")) {
		t.Error("a folder behind a closed one passes as reachable")
	}
	if !reachable("/tmp/x") {
		t.Error("/tmp is not reachable")
	}
}

// Other children of this process live on when a database ends.
func TestOtherChildrenOutliveIt(t *testing.T) {
	var others []*exec.Cmd
	var begun sync.WaitGroup
	all := make(chan struct{})
	errs := make(chan error, 40)
	for range cap(errs) {
		other := exec.Command("cat") // waits for its input
		other.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
		in, err := other.StdinPipe()
		if err != nil {
			t.Fatal(err)
		}
		defer in.Close()
		others = append(others, other)
		begun.Add(1)
		go func() {
			// A thread of its own for each, so that whichever serves the database next
			// has started a child before.
			runtime.LockOSThread()
			defer runtime.UnlockOSThread()
			errs <- other.Start()
			begun.Done()
			<-all
		}()
	}
	begun.Wait()
	close(all)
	for range cap(errs) {
		if err := <-errs; err != nil {
			t.Fatal(err)
		}
	}
	s, err := Start(context.Background(), Options{Dir: room(t), Fast: true})
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	for _, other := range others {
		if state, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", other.Process.Pid)); err != nil || strings.Contains(string(state), ") Z ") {
			t.Errorf("a child was taken along: %v", err)
		}
	}
}

// TestFolder: a folder that the user postgres cannot walk to has its data elsewhere, always at the
// same place and nobody else's; what begins anew finds it there.
func TestFolder(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("only as root does the database belong to somebody else")
	}
	shut := t.TempDir()
	if err := os.Chmod(shut, 0o700); err != nil {
		t.Fatal(err)
	}
	a, err := Folder(filepath.Join(shut, "a", "db"))
	if err != nil {
		t.Fatal(err)
	}
	again, _ := Folder(filepath.Join(shut, "a", "db"))
	b, _ := Folder(filepath.Join(shut, "b", "db"))
	if filepath.Dir(a) != "/var/tmp" || a != again || a == b {
		t.Errorf("%s, %s, %s", a, again, b)
	}
	if open, err := Folder("/srv/db"); err != nil || open != "/srv/db" {
		t.Errorf("%s %v", open, err)
	}
}

// Package pglocal runs a private PostgreSQL on loopback for the demo and for
// tests. PostgreSQL refuses to run as root, so as root it runs as the user
// postgres.
package pglocal

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// Server is a running database.
type Server struct {
	URL  string
	Port int
	PID  int // of the process that the others belong to
	from Options
	end  func(syscall.Signal) error
}

// Options of Start.
type Options struct {
	Dir  string // data folder, made when missing
	Fast bool   // give up durability; for tests only
	Port int    // 0 takes a free one
}

// binaries finds the newest installed PostgreSQL.
func binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		return "", errors.New("PostgreSQL is not installed; install Debian's package postgresql")
	}
	version := func(p string) int { n, _ := strconv.Atoi(strings.Split(p, "/")[4]); return n }
	sort.Slice(found, func(i, j int) bool { return version(found[i]) > version(found[j]) })
	return filepath.Dir(found[0]), nil
}

// identity is the user that the server runs as: nil when this process is not
// root.
func identity() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New("PostgreSQL will not run as root and there is no user postgres; install Debian's package postgresql")
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// reachable tells whether other users can walk to a folder.
func reachable(dir string) bool {
	for d := filepath.Dir(dir); ; d = filepath.Dir(d) {
		if st, err := os.Stat(d); err == nil && st.Mode().Perm()&1 == 0 {
			return false
		}
		if d == "/" {
			return true
		}
	}
}

// Folder is where the data of a folder really lies: what the user postgres cannot walk to has its
// own under /var/tmp.
func Folder(dir string) (string, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return "", err
	}
	who, err := identity()
	if who != nil && !reachable(dir) {
		dir = filepath.Join("/var/tmp", "neokinema"+strings.ReplaceAll(dir, "/", "-"))
	}
	return dir, err
}

// Start starts the database and waits until it answers.
func Start(ctx context.Context, o Options) (*Server, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	who, err := identity()
	if err != nil {
		return nil, err
	}
	dir, err := Folder(o.Dir)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	run := func(name string, args ...string) *exec.Cmd {
		cmd := exec.Command(filepath.Join(bin, name), args...)
		cmd.Dir = "/"
		cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "LC_ALL=C.UTF-8"}
		// A group of its own keeps Ctrl-C of the terminal away from it; it ends
		// with this process all the same.
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: who, Pdeathsig: syscall.SIGINT, Setpgid: true}
		return cmd
	}
	if who != nil {
		if err := os.Chown(dir, int(who.Uid), int(who.Gid)); err != nil {
			return nil, err
		}
	}
	data := filepath.Join(dir, "pg")
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); err != nil {
		out, err := run("initdb", "-D", data, "-U", "postgres", "-A", "trust", "--no-sync", "-E", "UTF8", "--locale=C.UTF-8").CombinedOutput()
		if err != nil {
			return nil, fmt.Errorf("initdb: %w: %s", err, out)
		}
	}
	port := o.Port
	if port == 0 {
		if port, err = freePort(); err != nil {
			return nil, err
		}
	}
	connections := "60"
	if o.Fast {
		connections = "400" // of all applications of a test run
	}
	args := []string{"-D", data, "-p", strconv.Itoa(port), "-k", "", "-c", "listen_addresses=127.0.0.1", "-c", "max_connections=" + connections, "-c", "log_min_messages=fatal"}
	if o.Fast {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	o.Port = port
	s := &Server{Port: port, from: o, URL: fmt.Sprintf("postgres://postgres@127.0.0.1:%d/postgres?sslmode=disable", port)}
	started, exited := make(chan error, 1), make(chan struct{})
	var proc *os.Process
	go func() {
		// Pdeathsig follows the thread that started the child. The thread is given back
		// at the end: one that ends with its goroutine takes along every other child
		// that it has ever started.
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		cmd := run("postgres", args...)
		log, err := os.OpenFile(filepath.Join(dir, "postgres.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
		if err == nil {
			cmd.Stderr = log
			defer log.Close()
		}
		err = cmd.Start()
		proc = cmd.Process
		started <- err
		if err == nil {
			_ = cmd.Wait()
		}
		close(exited)
	}()
	if err := <-started; err != nil {
		return nil, err
	}
	s.PID = proc.Pid
	s.end = func(how syscall.Signal) error {
		_ = proc.Signal(how)
		select {
		case <-exited:
			return nil
		case <-time.After(20 * time.Second):
			return errors.New("the database did not stop in 20 s")
		}
	}
	for deadline := time.Now().Add(30 * time.Second); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		select {
		case <-exited:
			return nil, fmt.Errorf("PostgreSQL did not start; see %s", filepath.Join(dir, "postgres.log"))
		case <-ctx.Done():
			_ = s.Stop()
			return nil, ctx.Err()
		default:
		}
		// After a power cut the file of the one before still stands there.
		pid, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
		if lines := strings.Split(string(pid), "\n"); err == nil && len(lines) > 7 && lines[0] == strconv.Itoa(s.PID) && strings.TrimSpace(lines[7]) == "ready" {
			return s, nil
		}
	}
	_ = s.Stop()
	return nil, errors.New("PostgreSQL did not become ready in 30 s")
}

// Options starts the same database again after it ended.
func (s *Server) Options() Options { return s.from }

// Stop ends the database and waits for it.
func (s *Server) Stop() error { return s.end(syscall.SIGINT) }

// Crash ends the database without letting it write anything more, as a power cut does.
func (s *Server) Crash() error { return s.end(syscall.SIGQUIT) }

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

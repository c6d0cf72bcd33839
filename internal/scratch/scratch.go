// Package scratch is a folder for files in between, one for each running program. A
// folder whose program has died is removed by the next one that starts.
package scratch

import (
	"fmt"
	"os"
	"path/filepath"
	"syscall"
	"time"

	"github.com/google/uuid"
)

// Dir is a program's folder.
type Dir struct {
	Path string
	lock *os.File
}

// held is the file in a folder that its program keeps locked while it lives.
const held = ".held"

// settling is how long a program may take from making its folder to holding it.
const settling = time.Minute

// Open makes a folder under parent, readable by nobody else, and removes those of
// programs that have died.
func Open(parent string) (*Dir, error) {
	if err := os.MkdirAll(parent, 0o700); err != nil {
		return nil, err
	}
	list, err := os.ReadDir(parent)
	if err != nil {
		return nil, err
	}
	for _, e := range list {
		path := filepath.Join(parent, e.Name())
		f, err := os.Open(filepath.Join(path, held))
		if err != nil { // a program that is just starting, or something older than this scheme
			if i, infoErr := e.Info(); infoErr == nil && time.Since(i.ModTime()) > settling {
				_ = os.RemoveAll(path)
			}
			continue
		}
		if syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) == nil {
			_ = os.RemoveAll(path) // the next start tries again
		}
		f.Close()
	}
	d := &Dir{Path: filepath.Join(parent, uuid.NewString())}
	if err := os.Mkdir(d.Path, 0o700); err != nil {
		return nil, err
	}
	if d.lock, err = os.OpenFile(filepath.Join(d.Path, held), os.O_CREATE|os.O_RDWR, 0o600); err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(d.lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		return nil, fmt.Errorf("%s cannot be held: %w", d.Path, err)
	}
	return d, nil
}

// Close removes the folder.
func (d *Dir) Close() error {
	err := os.RemoveAll(d.Path)
	d.lock.Close()
	return err
}

// Package inference runs pose networks on the server: the TensorFlow.js models that the
// browser gets are turned into ONNX in memory and run by ONNX Runtime, a shared library
// that is opened when the program starts. Where it is not there, or where the program was
// built without C, [Open] tells why, and browsers draft by themselves.
package inference

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"sync"

	"neokinema/core/pose"
)

// ErrNotBuilt tells that this program was built without the means to open a library.
var ErrNotBuilt = errors.New("this program was built without C, so it cannot run pose networks")

// Library is the name of the shared library.
const Library = "libonnxruntime.so.1"

// Beside is the library beside the running program.
func Beside() string {
	path, err := os.Executable()
	if err != nil {
		return Library
	}
	return filepath.Join(filepath.Dir(path), Library)
}

// Check tells why a library cannot be opened, as far as that can be told without opening
// it.
func Check(library string) error {
	if !built {
		return ErrNotBuilt
	}
	if library == "" {
		return errors.New("no library for pose networks is named")
	}
	if _, err := os.Stat(library); err != nil {
		return fmt.Errorf("the library for pose networks is not there: %s", library)
	}
	return nil
}

// Networks are the networks of this process. They may be run by several goroutines at
// once, each through a [Worker] of its own.
type Networks struct {
	sessions map[pose.Network]session
}

// session runs one network.
type session interface {
	worker() (runner, error)
}

// runner is a session with the memory of one goroutine.
type runner interface {
	input() []byte
	run() ([]float32, error)
	close()
}

var (
	opening sync.Mutex
	opened  *Networks
)

// Open opens the library, which takes some seconds and 150 MB, and gives the networks with
// the weights that lie in a file system as the browser gets them. They are opened once and
// kept for the life of the process.
func Open(library string, weights fs.FS) (*Networks, error) {
	opening.Lock()
	defer opening.Unlock()
	if opened != nil {
		return opened, nil
	}
	if err := Check(library); err != nil {
		return nil, err
	}
	if err := start(library); err != nil {
		return nil, err
	}
	n := &Networks{map[pose.Network]session{}}
	for _, s := range pose.Specs() {
		graph, err := fs.ReadFile(weights, "pose/"+s.File+".json")
		if err != nil {
			return nil, err
		}
		bin, err := fs.ReadFile(weights, "pose/"+s.File+".bin")
		if err != nil {
			return nil, err
		}
		m, err := convert(graph, bin, s.Output)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", s.File, err)
		}
		if n.sessions[s.Network], err = open(m, s); err != nil {
			return nil, fmt.Errorf("%s: %w", s.File, err)
		}
	}
	opened = n
	return n, nil
}

// Worker runs networks for one goroutine. It is a [pose.Runner].
type Worker struct {
	runners map[pose.Network]runner
}

// Worker makes one; Close must be called when it is over.
func (n *Networks) Worker() (*Worker, error) {
	w := &Worker{map[pose.Network]runner{}}
	for name, s := range n.sessions {
		r, err := s.worker()
		if err != nil {
			w.Close()
			return nil, err
		}
		w.runners[name] = r
	}
	return w, nil
}

// Run runs a network.
func (w *Worker) Run(n pose.Network, square []byte) ([]float32, error) {
	r, ok := w.runners[n]
	if !ok {
		return nil, fmt.Errorf("there is no network of %s", n)
	}
	if copy(r.input(), square) != len(r.input()) {
		return nil, fmt.Errorf("a square of %d bytes is too small", len(square))
	}
	return r.run()
}

// Close gives its memory back.
func (w *Worker) Close() {
	for _, r := range w.runners {
		r.close()
	}
}

package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

// This file is the one place that runs ffmpeg and ffprobe. Files come from people who
// may mean harm, so a tool gets them as an open file, with the demuxer that their first
// bytes call for: no playlist, no manifest and no reference can make it open another
// file or a connection. It runs without a network, and within limits of memory, time
// and output.

// Limits of one run of a tool.
const (
	// mostMemory is what a tool may ask for, bytes: 4K with 16 pictures to refer to asks for 660 MB and uses 440.
	mostMemory = 690 << 20
	// mostWritten is the largest file that it may write, bytes.
	mostWritten = 12 << 30
	// mostSaid is what it may print where its words are read whole, bytes.
	mostSaid = 64 << 20
	// quick looks read a header or a frame; long ones go through a whole clip.
	quickTime = 30 * time.Second
	longTime  = 20 * time.Minute
)

// programs are what this package needs on the machine.
var programs = map[string]string{"ffmpeg": "ffmpeg", "ffprobe": "ffmpeg", "prlimit": "util-linux"}

// CheckTools tells which of the programs this package needs is missing.
func CheckTools() error {
	for _, tool := range []string{"ffmpeg", "ffprobe", "prlimit"} {
		if _, err := exec.LookPath(tool); err != nil {
			return fmt.Errorf("%s is not installed; install Debian's package %s", tool, programs[tool])
		}
	}
	return nil
}

// Shut tells whether this machine lets the tools run without a network of their own;
// where it does not (some containers forbid it), forced demuxers alone keep them from
// opening connections.
func Shut() bool { return alone() != nil }

// alone is how a tool is started without a network: nil where that is not allowed.
var alone = sync.OnceValue(func() *syscall.SysProcAttr {
	for _, attr := range []*syscall.SysProcAttr{
		{Cloneflags: syscall.CLONE_NEWNET},
		{Cloneflags: syscall.CLONE_NEWNET | syscall.CLONE_NEWUSER,
			UidMappings: []syscall.SysProcIDMap{{ContainerID: os.Getuid(), HostID: os.Getuid(), Size: 1}},
			GidMappings: []syscall.SysProcIDMap{{ContainerID: os.Getgid(), HostID: os.Getgid(), Size: 1}}},
	} {
		cmd := exec.Command("prlimit", "--version")
		cmd.SysProcAttr = attr
		if cmd.Run() == nil {
			return attr
		}
	}
	return nil
})

// demuxer is the reader that the first bytes of a file call for; empty for everything
// that no camera, phone or browser writes.
func demuxer(head []byte) string {
	box := func(at int) string {
		if len(head) < at+4 {
			return ""
		}
		return string(head[at : at+4])
	}
	switch box(4) {
	case "ftyp", "moov", "mdat", "wide", "free", "skip", "pnot":
		return "mov"
	}
	switch {
	case bytes.HasPrefix(head, []byte{0x1a, 0x45, 0xdf, 0xa3}):
		return "matroska"
	case box(0) == "RIFF" && box(8) == "AVI ":
		return "avi"
	case box(0) == "RIFF" && box(8) == "WAVE":
		return "wav"
	case box(0) == "OggS":
		return "ogg"
	}
	// Packets of a transport stream begin with the same byte, 188 apart; cameras put
	// four bytes of time before each.
	for _, p := range []struct{ at, apart int }{{0, 188}, {4, 192}} {
		if p.at+2*p.apart < len(head) && head[p.at] == 0x47 && head[p.at+p.apart] == 0x47 && head[p.at+2*p.apart] == 0x47 {
			return "mpegts"
		}
	}
	return ""
}

// headLength is how many first bytes tell the kind of a file.
const headLength = 512

// Video tells whether first bytes are those of a video file that is taken.
func Video(head []byte) bool {
	d := demuxer(head)
	return d != "" && !silent[d]
}

// silent are the kinds that carry voices only.
var silent = map[string]bool{"wav": true, "ogg": true}

// call is one run of a tool.
type call struct {
	ctx   context.Context
	stop  context.CancelFunc
	tool  string
	args  []string
	files []*os.File
	kinds []string
	limit time.Duration
	begun bool // it counts as running
	went  bool // it has failed in nothing so far
}

func newCall(ctx context.Context, tool string, limit time.Duration, args ...string) *call {
	c := &call{tool: tool, limit: limit}
	c.ctx, c.stop = context.WithTimeoutCause(ctx, limit, ErrTooLong)
	if tool == "ffmpeg" {
		c.args = []string{"-hide_banner", "-loglevel", "error", "-threads", strconv.Itoa(threads)}
	} else {
		c.args = []string{"-v", "error"}
	}
	return c.add(args...)
}

// threads of a tool: each holds frames of its own.
var threads = min(2, runtime.NumCPU())

func (c *call) add(args ...string) *call {
	c.args = append(c.args, args...)
	return c
}

// input gives a media file to the tool, with options that stand before it. Files that
// are no video or sound of a known kind are refused before any tool sees them.
func (c *call) input(path string, before ...string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	head := make([]byte, headLength)
	n, err := io.ReadFull(f, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		f.Close()
		return err
	}
	if n == 0 {
		f.Close()
		return ErrNoFrames
	}
	d := demuxer(head[:n])
	if d == "" {
		f.Close()
		return ErrNotVideo
	}
	c.files, c.kinds = append(c.files, f), append(c.kinds, d)
	// The first extra file of a child is 3. Read by this name it can be jumped in,
	// which a pipe cannot.
	c.add(before...).add("-protocol_whitelist", "file", "-f", d, "-i", fmt.Sprintf("/proc/self/fd/%d", 2+len(c.files)))
	return nil
}

// most is the processor time that the tool may use, whole seconds.
func (c *call) most() time.Duration {
	return (c.limit * time.Duration(threads)).Round(time.Second)
}

// cmd is the call ready to start. Close must be called when it is over.
func (c *call) cmd() (*exec.Cmd, *bytes.Buffer) {
	limits := []string{fmt.Sprintf("--data=%d", mostMemory), fmt.Sprintf("--cpu=%.0f", c.most().Seconds()), fmt.Sprintf("--fsize=%d", int64(mostWritten)), "--nofile=64", "--core=0", "--", c.tool}
	cmd := exec.CommandContext(c.ctx, "prlimit", append(limits, c.args...)...)
	attr := syscall.SysProcAttr{}
	if a := alone(); a != nil {
		attr = *a
	}
	attr.Pdeathsig = syscall.SIGKILL
	cmd.SysProcAttr = &attr
	cmd.ExtraFiles = c.files
	// Else each thread reserves address room, and a library of Debian's ffmpeg that
	// nothing here uses starts threads that spin.
	cmd.Env = append(os.Environ(), "MALLOC_ARENA_MAX=2", "OPENBLAS_NUM_THREADS=1", "OMP_NUM_THREADS=1")
	said := &bytes.Buffer{}
	cmd.Stderr = &tail{buf: said, max: 8 << 10}
	c.begun, c.went = true, true
	running.Add(1)
	return cmd, said
}

// Counts of runs on this machine.
var good, failed, running atomic.Int64

// Runs tells how many runs of a tool ended well, how many did not, and how many go on.
func Runs() (ok, bad, now int64) { return good.Load(), failed.Load(), running.Load() }

func (c *call) close() {
	if c.begun {
		c.begun = false
		running.Add(-1)
		if c.went {
			good.Add(1)
		} else {
			failed.Add(1)
		}
	}
	c.stop()
	for _, f := range c.files {
		f.Close()
	}
}

// output runs the call and gives what it printed.
func (c *call) output() ([]byte, error) {
	defer c.close()
	cmd, said := c.cmd()
	var out capped
	cmd.Stdout = &out
	if err := cmd.Run(); err != nil {
		return out.Bytes(), c.failure(err, said)
	}
	return out.Bytes(), nil
}

// capped refuses to hold more than mostSaid.
type capped struct{ bytes.Buffer }

func (c *capped) Write(p []byte) (int, error) {
	if c.Len() > mostSaid-len(p) {
		return 0, errors.New("the tool says too much")
	}
	return c.Buffer.Write(p)
}

// tail keeps the beginning of what a tool says; a broken file can make it say
// the same line a million times.
type tail struct {
	buf *bytes.Buffer
	max int
}

func (t *tail) Write(p []byte) (int, error) {
	if room := t.max - t.buf.Len(); room > 0 {
		t.buf.Write(p[:min(room, len(p))])
	}
	return len(p), nil
}

// failure turns a tool's exit into an error that still knows a full disk, a limit and a
// cancelled context, and what the tool said.
func (c *call) failure(err error, said *bytes.Buffer) error {
	c.went = false
	if c.ctx.Err() != nil {
		return context.Cause(c.ctx)
	}
	words := said.String()
	line, _, _ := strings.Cut(strings.TrimSpace(words), "\n")
	var exit *exec.ExitError
	switch {
	case strings.Contains(words, "No space left"):
		return fmt.Errorf("%w: %s", syscall.ENOSPC, line)
	case strings.Contains(words, "Cannot allocate memory"), strings.Contains(words, "malloc"):
		return fmt.Errorf("%w: %s", ErrTooMuch, line)
	case errors.As(err, &exit):
		// The limit of processor time kills too; who kills earlier is somebody else.
		s, ok := exit.Sys().(syscall.WaitStatus)
		used := exit.UserTime() + exit.SystemTime()
		if ok && s.Signaled() && (s.Signal() == syscall.SIGXCPU || s.Signal() == syscall.SIGKILL && used >= c.most()*9/10) {
			return ErrTooLong
		}
	}
	return &toolError{err, line, words}
}

// toolError is what a tool said when it gave up.
type toolError struct {
	err         error
	line, words string
}

func (t *toolError) Error() string { return fmt.Sprintf("%v: %s", t.err, t.line) }
func (t *toolError) Unwrap() error { return t.err }

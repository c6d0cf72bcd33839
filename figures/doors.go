package figures

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"neokinema/internal/archive"
	"neokinema/internal/media"
	"neokinema/internal/pglocal"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// kills is how often the server, and its database, are ended in the middle of work.
const kills = 50

// processes are the pids below a process, itself among them.
func processes(root int) map[int]bool {
	children := map[int][]int{}
	list, _ := filepath.Glob("/proc/[0-9]*/stat") // the pattern is sound
	for _, path := range list {
		raw, err := os.ReadFile(path)
		if err != nil {
			continue // it has ended
		}
		f := strings.Fields(string(raw[bytes.LastIndexByte(raw, ')')+1:]))
		parent, _ := strconv.Atoi(f[1])
		pid, _ := strconv.Atoi(strings.Split(path, "/")[2])
		children[parent] = append(children[parent], pid)
	}
	out := map[int]bool{}
	var add func(int)
	add = func(pid int) {
		out[pid] = true
		for _, c := range children[pid] {
			add(c)
		}
	}
	add(root)
	return out
}

// resident is what a process holds, MB; with below also what its children hold.
func resident(pid int, below bool) float64 {
	all := map[int]bool{pid: true}
	if below {
		all = processes(pid)
	}
	sum := 0.0
	for p := range all {
		raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", p))
		if err != nil {
			continue
		}
		pages, _ := strconv.Atoi(strings.Fields(string(raw))[1])
		sum += float64(pages*os.Getpagesize()) / 1e6
	}
	return sum
}

// peak watches what processes hold until stop, which gives the most, MB.
func peak(look func() float64) (stop func() float64) {
	end, over := make(chan struct{}), make(chan float64)
	go func() {
		most := 0.0
		for {
			most = max(most, look())
			select {
			case <-end:
				over <- most
				return
			case <-time.After(5 * time.Millisecond):
			}
		}
	}()
	return func() float64 { close(end); return <-over }
}

// cpu is the processor time of a process and all that it started, ms; children that have
// ended count with it.
func cpu(root int) float64 {
	sum := 0.0
	tick := 1000.0 / 100 // a tick of /proc is a hundredth of a second
	for pid := range processes(root) {
		raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
		if err != nil {
			continue
		}
		f := strings.Fields(string(raw[bytes.LastIndexByte(raw, ')')+1:]))
		for _, k := range []int{11, 12, 13, 14} { // own and ended children's
			n, _ := strconv.Atoi(f[k])
			sum += float64(n) * tick
		}
	}
	return sum
}

type mangled struct {
	files, foreign, crashes int
	peak                    float64
}

// hostile imports files that are broken, lie about themselves, or would read other
// files, and watches what the tools take.
func (l *Lab) hostile() (mangled, error) {
	if l.mangled != nil {
		return *l.mangled, nil
	}
	var out mangled
	dir, err := os.MkdirTemp("", "neokinema-hostile-")
	if err != nil {
		return out, err
	}
	defer os.RemoveAll(dir)
	// A clip of somebody else, whose pictures nobody may get by a list.
	foreign := filepath.Join(dir, "foreign.mp4")
	if err := (testenv.Numbered{Width: 320, Height: 180, Frames: 77, Rate: 30}).Make(foreign); err != nil {
		return out, err
	}
	files, err := testenv.Hostile(dir, foreign)
	if err != nil {
		return out, err
	}
	names := make([]string, 0, len(files))
	for n := range files {
		names = append(names, n)
	}
	sort.Strings(names)
	most := peak(func() float64 {
		worst := 0.0
		for pid := range processes(os.Getpid()) {
			if pid != os.Getpid() {
				worst = max(worst, resident(pid, false))
			}
		}
		return worst
	})
	for _, name := range names {
		path := filepath.Join(dir, "in")
		if err := os.WriteFile(path, files[name], 0o600); err != nil {
			return out, err
		}
		out.files++
		ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
		info, err := media.Probe(ctx, path)
		if err == nil {
			var p media.Proxy
			p, err = media.MakeProxy(ctx, path, filepath.Join(dir, "out.mp4"), info, func(int) {})
			// The foreign clip is the only one with so many frames of this size.
			if err == nil && len(p.Stamps) == 77 && info.Width == 320 && !strings.HasPrefix(name, "own") {
				out.foreign++
				fmt.Fprintln(os.Stderr, "  read a foreign file:", name)
			}
			if _, soundErr := media.Listen(ctx, path, 8000); soundErr != nil && ctx.Err() != nil {
				err = soundErr
			}
		}
		if ctx.Err() != nil {
			out.crashes++
			fmt.Fprintln(os.Stderr, "  without end:", name)
		}
		cancel()
		if crashed(err) {
			out.crashes++
			fmt.Fprintln(os.Stderr, "  crashed:", name, err)
		}
	}
	out.peak = most()
	l.mangled = &out
	return out, nil
}

// crashed tells whether a tool died of a mistake of its own.
func crashed(err error) bool {
	var exit *exec.ExitError
	if !errors.As(err, &exit) {
		return false
	}
	s, ok := exit.Sys().(syscall.WaitStatus)
	return ok && s.Signaled() && s.Signal() != syscall.SIGKILL && s.Signal() != syscall.SIGXCPU && s.Signal() != syscall.SIGPIPE
}

type fuzzed struct{ requests, failed int }

// fuzz sends requests that are nearly right to every operation of the contract.
func (l *Lab) fuzz() (fuzzed, error) {
	if l.fuzzed != nil {
		return *l.fuzzed, nil
	}
	var out fuzzed
	err := bare{}.try(func() {
		n, failed := l.House().Fuzz(bare{}, 20_500, 15)
		for _, f := range failed {
			fmt.Fprintln(os.Stderr, "  "+f)
		}
		out = fuzzed{n, len(failed)}
	})
	if err != nil {
		return out, err
	}
	l.fuzzed = &out
	return out, nil
}

type packed struct {
	foreign int
	peak    float64
}

// archives takes archives in that name things of another team, and such that unpack to
// far more than they are, and watches the real server's memory.
func (l *Lab) archives() (packed, error) {
	if l.packed != nil {
		return *l.packed, nil
	}
	var out packed
	p, err := startPlant()
	if err != nil {
		return out, err
	}
	defer p.close()
	athlete, err := p.begin()
	if err != nil {
		return out, err
	}
	at, ok := p.attempt(athlete.ID)
	if !ok {
		return out, errors.New("no attempt")
	}
	s, err := store.Connect(context.Background(), p.db.URL)
	if err != nil {
		return out, err
	}
	defer s.Close()
	rows := func() (n int, err error) {
		return n, s.DB.Get(&n, `SELECT (SELECT count(*) FROM athletes) + (SELECT count(*) FROM attempts) + (SELECT count(*) FROM notes) + (SELECT count(*) FROM work_items) + (SELECT count(*) FROM team_models)`)
	}
	had, err := rows()
	if err != nil {
		return out, err
	}
	team := func(n int) (*plant, error) {
		q := *p
		jar, _ := cookiejar.New(nil) // never fails without options
		q.http = &http.Client{Jar: jar, Timeout: 3 * time.Minute}
		if s := q.ask("POST", "/api/teams", map[string]string{"team": "T", "name": "N", "email": fmt.Sprintf("x%d@club.example", n), "password": testenv.Password}, nil); s != http.StatusOK {
			return nil, fmt.Errorf("a team: %d", s)
		}
		return &q, nil
	}
	take := func(q *plant, raw []byte) int {
		res, err := q.http.Post(p.url+"/api/team/import", "application/zip", bytes.NewReader(raw))
		if err != nil {
			return 0
		}
		res.Body.Close()
		return res.StatusCode
	}
	head := `{"format":"neokinema-team","version":2,"team_id":"` + uuid.NewString() + `"}`
	zipped := func(files map[string]func(io.Writer)) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		all := map[string]func(io.Writer){"team.json": says(head)}
		for _, name := range store.WholeNames() {
			all[name+".json"] = says("[]")
		}
		for name, f := range files {
			all[name] = f
		}
		for name, f := range all {
			w, err := z.Create(name)
			if err != nil {
				panic(err)
			}
			f(w)
		}
		if err := z.Close(); err != nil {
			panic(err)
		}
		return b.Bytes()
	}
	n := 0
	for _, id := range []string{strings.ToUpper(at.ID.String()), "{" + at.ID.String() + "}", strings.ReplaceAll(at.ID.String(), "-", ""), at.ID.String()} {
		for name, row := range map[string]string{
			"decisions": `[{"attempt_id":"` + id + `","clip_id":null,"kind":"advice","key":"main","value":[1,2]}]`,
			"library":   `[{"attempt_id":"` + id + `","name":"PLANTED"}]`,
			"notes":     `[{"id":"` + uuid.NewString() + `","athlete_id":"` + strings.Replace(id, at.ID.String(), athlete.ID.String(), 1) + `","kind":"note","noted_on":"2026-01-01","says":"PLANTED"}]`,
		} {
			if n++; n > 7 {
				break // a new team every ten seconds is what one address gets
			}
			q, err := team(n)
			if err != nil {
				return out, err
			}
			take(q, zipped(map[string]func(io.Writer){name + ".json": says(row)}))
		}
	}
	now, err := rows()
	if err != nil {
		return out, err
	}
	out.foreign = now - had
	most := peak(func() float64 { return resident(p.cmd.Process.Pid, true) })
	blanks := func(head string, mb int) func(io.Writer) {
		return func(w io.Writer) {
			_, _ = io.WriteString(w, head)
			blank := bytes.Repeat([]byte(" "), 1<<20)
			for range mb {
				_, _ = w.Write(blank)
			}
			_, _ = io.WriteString(w, "]")
		}
	}
	// Text that packs just within the bound, so that it is really read.
	loose := func(mb int) func(io.Writer) {
		return func(w io.Writer) {
			dice := rand.New(rand.NewPCG(1, 2))
			_, _ = io.WriteString(w, `["`)
			chunk := make([]byte, 1<<20)
			for range mb {
				for i := range chunk {
					chunk[i] = 'x'
					if i%180 == 0 {
						chunk[i] = byte('a' + dice.IntN(26))
					}
				}
				_, _ = w.Write(chunk)
			}
			_, _ = io.WriteString(w, `"]`)
		}
	}
	for _, raw := range [][]byte{
		zipped(map[string]func(io.Writer){"athletes.json": blanks("[", 400)}), zipped(map[string]func(io.Writer){"notes.json": loose(300)}),
		zipped(map[string]func(io.Writer){"media/" + uuid.NewString() + "/original": blanks("", 300)}), zipped(map[string]func(io.Writer){"decisions.json": blanks("[", 1000), "notes.json": blanks("[", 1000)}),
	} {
		if status := take(p, raw); status != http.StatusUnprocessableEntity {
			return out, fmt.Errorf("a bomb is answered with %d", status)
		}
	}
	// A team that has something refuses at once; an empty one reads.
	empty, err := team(9)
	if err == nil {
		for _, raw := range [][]byte{zipped(map[string]func(io.Writer){"notes.json": loose(300)}), zipped(map[string]func(io.Writer){"athletes.json": loose(200)})} {
			if status := take(empty, raw); status != http.StatusUnprocessableEntity {
				return out, fmt.Errorf("a bomb is answered with %d", status)
			}
		}
	}
	if out.peak = most(); err != nil {
		return out, err
	}
	l.packed = &out
	return out, nil
}

func says(text string) func(io.Writer) {
	return func(w io.Writer) { _, _ = io.WriteString(w, text) }
}

// SignInPeak is what the real server holds while 80 people try to sign in at once, MB.
func (l *Lab) SignInPeak() (float64, error) {
	p, err := startPlant()
	if err != nil {
		return 0, err
	}
	defer p.close()
	if _, err := p.begin(); err != nil {
		return 0, err
	}
	most := peak(func() float64 { return resident(p.cmd.Process.Pid, true) })
	var wait sync.WaitGroup
	var answered atomic.Int64
	for n := range 80 {
		wait.Add(1)
		go func() {
			defer wait.Done()
			q := *p
			q.http = &http.Client{Timeout: time.Minute}
			if s := q.ask("POST", "/api/sign-in", map[string]string{"email": fmt.Sprintf("n%d@club.example", n), "password": "not the right one"}, nil); s == http.StatusUnauthorized {
				answered.Add(1)
			}
		}()
	}
	wait.Wait()
	if answered.Load() < 60 {
		return most(), fmt.Errorf("only %d of 80 were answered", answered.Load())
	}
	return most(), nil
}

// DeletedLeft deletes clips, attempts, athletes and a team in the middle of imports, and
// counts files that are left of them.
func (l *Lab) DeletedLeft() (left float64, err error) {
	h, end := testenv.Open("")
	defer end()
	err = bare{}.try(func() {
		file := filepath.Join(h.Dir, "long.mp4")
		if err := (testenv.Numbered{Width: 1280, Height: 720, Frames: 300, Rate: 60}).Make(file); err != nil {
			bare{}.Fatal(err)
		}
		film, err := os.ReadFile(file)
		if err != nil {
			bare{}.Fatal(err)
		}
		for n := range 12 {
			c := h.Coach(bare{})
			at := c.Attempt()
			id := c.Upload(at.ID, "long.mp4", film, 1<<24)
			var clip store.Clip
			for clip.State == "" || clip.State == "waiting" || clip.State == "importing" && clip.Progress < float64(n%4)/5 {
				c.Do("GET", "/api/clips/"+id.String(), nil, http.StatusOK, &clip)
			}
			switch n % 4 {
			case 0:
				c.Do("DELETE", "/api/clips/"+id.String(), nil, http.StatusOK, nil)
			case 1:
				c.Do("DELETE", "/api/attempts/"+at.ID.String(), nil, http.StatusOK, nil)
			case 2:
				c.Do("DELETE", "/api/athletes/"+at.AthleteID.String(), nil, http.StatusOK, nil)
			case 3:
				c.Do("POST", "/api/team/delete", map[string]string{"password": testenv.Password, "team": c.User.Team}, http.StatusOK, nil)
			}
			testenv.Until(bare{}, "the job ends", func() bool {
				var running int
				if err := h.Store.DB.Get(&running, `SELECT count(*) FROM river_job WHERE state IN ('running', 'available', 'retryable') AND args->>'clip' = $1`, id.String()); err != nil {
					bare{}.Fatal(err)
				}
				return running == 0
			})
			left += float64(len(h.FilesOf(id)))
		}
	})
	return left, err
}

// RestoreDifferences backs a server up, destroys database and media, restores them, and
// counts what differs.
func RestoreDifferences() (float64, error) {
	p, err := startPlant()
	if err != nil {
		return 0, err
	}
	defer p.close()
	athlete, err := p.begin()
	if err != nil {
		return 0, err
	}
	file := filepath.Join(p.dir, "n.mp4")
	if err := (testenv.Numbered{Width: 320, Height: 180, Frames: 60, Rate: 30}).Make(file); err != nil {
		return 0, err
	}
	film, err := os.ReadFile(file)
	if err != nil {
		return 0, err
	}
	for n := range 4 {
		at, ok := p.attempt(athlete.ID)
		id, done := p.send(at.ID, fmt.Appendf(bytes.Clone(film), "%d", n), nil)
		if !ok || !done {
			return 0, errors.New("an upload was not taken")
		}
		var c store.Clip
		for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline) && c.State != "ready"; time.Sleep(50 * time.Millisecond) {
			p.ask("GET", "/api/clips/"+id.String(), nil, &c)
		}
		p.ask("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "flag", Clip: &id, Key: "set", Value: workspace.Value(n)}}}, nil)
	}
	export := func() ([]byte, error) {
		res, err := p.http.Get(p.url + "/api/team/export.zip")
		if err != nil {
			return nil, err
		}
		defer res.Body.Close()
		return io.ReadAll(res.Body)
	}
	before, err := export()
	if err != nil {
		return 0, err
	}
	run := func(args ...string) error {
		cmd := exec.Command(filepath.Join(Root(), "build", "neokinema"), args...)
		cmd.Env = p.env
		if said, err := cmd.CombinedOutput(); err != nil {
			return fmt.Errorf("%v: %w: %s", args, err, said)
		}
		return nil
	}
	kept := filepath.Join(p.dir, "backup.tar")
	if err := run("backup", kept); err != nil {
		return 0, err
	}
	// Everything goes: the server, the database with its folder, the media.
	p.kill(syscall.SIGKILL)
	port := p.db.Port
	if err := p.db.Crash(); err != nil {
		return 0, err
	}
	for _, d := range []string{"db", "media", "uploads", "data"} {
		if err := os.RemoveAll(filepath.Join(p.dir, d)); err != nil {
			return 0, err
		}
	}
	if p.db, err = pglocal.Start(context.Background(), pglocal.Options{Dir: filepath.Join(p.dir, "db"), Port: port}); err != nil {
		return 0, err
	}
	if err := run("restore", kept); err != nil {
		return 0, err
	}
	if err := p.up(); err != nil {
		return 0, err
	}
	// The session goes on too: the same cookie asks.
	after, err := export()
	if err != nil {
		return 0, err
	}
	// The same team, so ids stay as they are: file by file.
	list, err := archive.Same(before, after)
	for _, d := range list {
		fmt.Fprintln(os.Stderr, "  "+d)
	}
	return float64(len(list)), err
}

type loaded struct {
	errors int
	cpu    map[string]float64
}

// How the load is made: people, for how long, and how many requests of a kind alone tell
// what one of them takes.
const (
	loadUsers   = 50
	loadTime    = 60 * time.Second
	loadMeasure = 160
)

// load asks the real server as 50 coaches do who have 10,000 clips, and then each kind
// of request alone, for the processor time that one takes: server, database and tools
// together.
func (l *Lab) load() (loaded, error) {
	if l.loaded != nil {
		return *l.loaded, nil
	}
	out := loaded{cpu: map[string]float64{}}
	p, err := startPlant()
	if err != nil {
		return out, err
	}
	defer p.close()
	crowd, err := p.crowd()
	if err != nil {
		return out, err
	}
	kinds := map[string]func(n int, c *coachAt) int{
		"queue": func(int, *coachAt) int { return p.ask("GET", "/api/queue", nil, nil) },
		"log": func(n int, _ *coachAt) int {
			return p.ask("GET", "/api/athletes/"+crowd.people[n%len(crowd.people)].String()+"/log", nil, nil)
		},
		"sheet": func(n int, _ *coachAt) int {
			return p.ask("GET", "/api/attempts/"+crowd.tries[n%len(crowd.tries)].String()+"/workspace", nil, nil)
		},
		"still": func(n int, _ *coachAt) int {
			return p.ask("GET", fmt.Sprintf("/api/clips/%s/frames/%d?width=640", crowd.clip, n%40), nil, nil)
		},
		"edit": func(n int, c *coachAt) int { return c.edit(p, n) },
	}
	mix := []string{"queue", "queue", "queue", "queue", "queue", "queue", "log", "log", "log", "log", "sheet", "sheet", "sheet", "sheet", "still", "still", "still", "edit", "edit", "edit"}
	var wait sync.WaitGroup
	var failed, asked atomic.Int64
	end := time.Now().Add(loadTime)
	for user := range loadUsers {
		wait.Add(1)
		go func() {
			defer wait.Done()
			dice := rand.New(rand.NewPCG(uint64(user), 8470))
			c := &coachAt{attempt: crowd.tries[user%len(crowd.tries)]}
			for time.Now().Before(end) {
				kind := mix[dice.IntN(len(mix))]
				asked.Add(1)
				if s := kinds[kind](dice.IntN(10_000), c); s != http.StatusOK {
					failed.Add(1)
					fmt.Fprintf(os.Stderr, "  %s: %d\n", kind, s)
				}
				time.Sleep(time.Duration(200+dice.IntN(600)) * time.Millisecond)
			}
		}()
	}
	wait.Wait()
	out.errors = int(failed.Load())
	fmt.Fprintf(os.Stderr, "  %d requests of %d users in %s\n", asked.Load(), loadUsers, loadTime)
	names := make([]string, 0, len(kinds))
	for k := range kinds {
		names = append(names, k)
	}
	sort.Strings(names)
	for _, kind := range names {
		c := &coachAt{attempt: crowd.tries[0]}
		kinds[kind](0, c)
		server, database, asked := cpu(p.cmd.Process.Pid), cpu(p.db.PID), loadMeasure
		if kind == "still" {
			var err error
			if asked, err = p.pages(crowd.clip); err != nil {
				return out, err
			}
		} else {
			for n := range loadMeasure {
				if s := kinds[kind](n, c); s != http.StatusOK {
					return out, fmt.Errorf("%s alone: %d", kind, s)
				}
			}
		}
		server, database = cpu(p.cmd.Process.Pid)-server, cpu(p.db.PID)-database
		fmt.Fprintf(os.Stderr, "  %s: server %.1f ms, database %.1f ms\n", kind, server/float64(asked), database/float64(asked))
		out.cpu[kind] = (server + database) / float64(asked)
	}
	// The queue is kept while nothing in it changes: what it takes after a change is told
	// beside it.
	s, err := store.Connect(context.Background(), p.db.URL)
	if err != nil {
		return out, err
	}
	defer s.Close()
	before := cpu(p.cmd.Process.Pid) + cpu(p.db.PID)
	for n := range loadMeasure / 4 {
		if _, err := s.DB.Exec(`UPDATE attempts SET mark = $2 WHERE id = $1`, crowd.tries[0], fmt.Sprint(n)); err != nil {
			return out, err
		}
		p.ask("GET", "/api/queue", nil, nil)
	}
	fmt.Fprintf(os.Stderr, "  the queue after a change: %.1f ms\n", (cpu(p.cmd.Process.Pid)+cpu(p.db.PID)-before)/(loadMeasure/4))
	l.loaded = &out
	return out, nil
}

// How pages with stills are opened: so many pages that nobody has opened yet, of so many
// stills each, so often each. The last is a guess: a coach in the queue, on the Bench, and
// sending; the athlete, on some days; both beside the next attempt.
const (
	loadPages  = 4
	loadStills = 8
	loadOpened = 8
)

// pages asks for stills as browsers do that open pages, at most six at once, and tells how
// many it asked for.
func (p *plant) pages(clip uuid.UUID) (asked int, err error) {
	for page := range loadPages {
		for open := range loadOpened {
			before := cpu(p.cmd.Process.Pid)
			var group errgroup.Group
			group.SetLimit(6)
			for k := range loadStills {
				frame := 60 + 40*page + 5*k
				group.Go(func() error {
					if s := p.ask("GET", fmt.Sprintf("/api/clips/%s/frames/%d?width=640", clip, frame), nil, nil); s != http.StatusOK {
						return fmt.Errorf("still %d alone: %d", frame, s)
					}
					return nil
				})
				asked++
			}
			if err := group.Wait(); err != nil {
				return asked, err
			}
			if open == 0 {
				fmt.Fprintf(os.Stderr, "  a still that nobody has asked for yet: %.1f ms\n", (cpu(p.cmd.Process.Pid)-before)/loadStills)
			}
		}
	}
	return asked, nil
}

// coachAt edits one attempt.
type coachAt struct {
	attempt uuid.UUID
	clip    uuid.UUID
	base    int
}

func (c *coachAt) edit(p *plant, n int) int {
	if c.clip == uuid.Nil {
		var sh workspace.Workspace
		if s := p.ask("GET", "/api/attempts/"+c.attempt.String()+"/workspace", nil, &sh); s != http.StatusOK {
			return s
		}
		c.clip, c.base = sh.Clips[0].ID, sh.Work.Revision
	}
	var saved workspace.Saved
	s := p.ask("POST", "/api/attempts/"+c.attempt.String()+"/edits", workspace.Edits{Base: c.base, Edits: []workspace.Edit{{Kind: "point", Clip: &c.clip, Key: "left_knee", Frame: n % 40,
		Value: workspace.Value(map[string]any{"x": 100 + n%50, "y": 90, "source": "hand", "confidence": 1})}}}, &saved)
	if s == http.StatusConflict {
		// Somebody else works on the same attempt: that is no error.
		c.clip = uuid.Nil
		return http.StatusOK
	}
	c.base = saved.Revision
	return s
}

type masses struct {
	people, tries []uuid.UUID
	clip          uuid.UUID
}

// crowd fills the database with 10,000 clips of 200 athletes.
func (p *plant) crowd() (out masses, err error) {
	athlete, err := p.begin()
	if err != nil {
		return out, err
	}
	at, ok := p.attempt(athlete.ID)
	if !ok {
		return out, errors.New("no attempt")
	}
	file := filepath.Join(p.dir, "n.mp4")
	if err := (testenv.Numbered{Width: 1280, Height: 720, Frames: 240, Rate: 60}).Make(file); err != nil {
		return out, err
	}
	film, err := os.ReadFile(file)
	if err != nil {
		return out, err
	}
	id, done := p.send(at.ID, film, nil)
	if !done {
		return out, errors.New("no clip")
	}
	var c store.Clip
	for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline) && c.State != "ready"; time.Sleep(50 * time.Millisecond) {
		p.ask("GET", "/api/clips/"+id.String(), nil, &c)
	}
	out.clip = id
	told := store.Advice{Fault: "S2", Focus: "outward", Words: "Reset the front pedal", Target: "front_knee_set"}
	edits := []workspace.Edit{{Kind: "advice", Key: "main", Value: workspace.Value(told)}, {Kind: "flag", Clip: &id, Key: "set", Value: workspace.Value(3)}}
	for _, k := range []string{"left_hip", "left_knee", "left_ankle", "right_hip", "right_knee", "right_ankle", "left_toe", "right_toe", "left_shoulder", "right_shoulder"} {
		for f := range 40 {
			edits = append(edits, workspace.Edit{Kind: "point", Clip: &id, Key: k, Frame: f, Value: workspace.Value(map[string]any{"x": 200 + 3*f, "y": 100 + f, "source": "hand", "confidence": 1})})
		}
	}
	if s := p.ask("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: edits}, nil); s != http.StatusOK {
		return out, fmt.Errorf("edits: %d", s)
	}
	s, err := store.Connect(context.Background(), p.db.URL)
	if err != nil {
		return out, err
	}
	defer s.Close()
	var team uuid.UUID
	if err := s.DB.Get(&team, `SELECT team_id FROM attempts WHERE id = $1`, at.ID); err != nil {
		return out, err
	}
	if _, err := s.DB.Exec(fill, team, id, at.ID); err != nil {
		return out, err
	}
	if _, err := s.DB.Exec("ANALYZE"); err != nil {
		return out, err
	}
	if err := s.DB.Select(&out.people, `SELECT id FROM athletes WHERE team_id = $1 ORDER BY id LIMIT 60`, team); err != nil {
		return out, err
	}
	err = s.DB.Select(&out.tries, `SELECT id FROM attempts WHERE team_id = $1 AND revision > 0 ORDER BY id LIMIT 60`, team)
	return out, err
}

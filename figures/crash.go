package figures

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/internal/pglocal"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// plant is the real program as a process of its own on a database that keeps its word,
// so that both can be ended in the middle of work.
type plant struct {
	dir  string
	db   *pglocal.Server
	url  string
	cmd  *exec.Cmd
	over chan struct{}
	env  []string
	http *http.Client
}

// startPlant gives the program running on a database of its own.
func startPlant() (*plant, error) {
	dir, err := os.MkdirTemp("", "neokinema-plant-")
	if err != nil {
		return nil, err
	}
	jar, _ := cookiejar.New(nil) // never fails without options
	p := &plant{dir: dir, http: &http.Client{Jar: jar, Timeout: 30 * time.Second}}
	err = func() (err error) {
		if err := os.Chmod(dir, 0o755); err != nil { // the database runs as another user
			return err
		}
		if p.db, err = pglocal.Start(context.Background(), pglocal.Options{Dir: filepath.Join(dir, "db")}); err != nil {
			return err
		}
		if p.url, p.env, err = p.place(""); err != nil {
			return err
		}
		return p.up()
	}()
	if err != nil {
		p.close()
		return nil, err
	}
	return p, nil
}

// place is an address and an environment for a server on this database.
func (p *plant) place(name string) (url string, env []string, err error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", nil, err
	}
	address := l.Addr().String()
	l.Close()
	return "http://" + address, append(os.Environ(), "NEO_DATABASE_URL="+p.db.URL, "NEO_MEDIA_URL=file://"+p.dir+"/media", "NEO_SECRET=a secret for figures, 32 letters ", "NEO_ADDRESS="+address,
		"NEO_DATA="+filepath.Join(p.dir, "data"+name), "NEO_UPLOADS="+filepath.Join(p.dir, "uploads")), nil
}

func launch(env []string, url string) (*exec.Cmd, chan struct{}, error) {
	cmd := exec.Command(filepath.Join(Root(), "build", "neokinema"), "serve")
	cmd.Env = env
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	said := &bytes.Buffer{}
	cmd.Stderr = said
	if err := cmd.Start(); err != nil {
		return nil, nil, err
	}
	over := make(chan struct{})
	go func() { _ = cmd.Wait(); close(over) }()
	for deadline := time.Now().Add(40 * time.Second); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		select {
		case <-over:
			return nil, nil, fmt.Errorf("the server ended: %.600s", said.String())
		default:
		}
		if res, err := http.Get(url + "/api/ready"); err == nil {
			res.Body.Close()
			if res.StatusCode == http.StatusOK {
				return cmd, over, nil
			}
		}
	}
	return nil, nil, errors.New("the server is not ready after 40 s")
}

func (p *plant) up() (err error) {
	p.cmd, p.over, err = launch(p.env, p.url)
	return err
}

func (p *plant) kill(how syscall.Signal) {
	if p.cmd != nil {
		_ = p.cmd.Process.Signal(how)
		<-p.over
		p.cmd = nil
	}
}

func (p *plant) close() {
	p.kill(syscall.SIGTERM)
	if p.db != nil {
		_ = p.db.Stop()
	}
	os.RemoveAll(p.dir)
}

// ask sends a request; status 0 is a connection that broke.
func (p *plant) ask(method, path string, in, out any) int {
	var body io.Reader
	if in != nil {
		raw, err := json.Marshal(in)
		if err != nil {
			return 0
		}
		body = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, p.url+path, body)
	if err != nil {
		return 0
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := p.http.Do(req)
	if err != nil {
		return 0
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		return 0
	}
	if out != nil && res.StatusCode < 300 && json.Unmarshal(raw, out) != nil {
		return 0
	}
	return res.StatusCode
}

// tus sends a request of the upload protocol.
func (p *plant) tus(method, path string, header map[string]string, body []byte) (status int, h http.Header) {
	req, err := http.NewRequest(method, p.url+path, bytes.NewReader(body))
	if err != nil {
		return 0, nil
	}
	req.Header.Set("Tus-Resumable", "1.0.0")
	for k, v := range header {
		req.Header.Set(k, v)
	}
	res, err := p.http.Do(req)
	if err != nil {
		return 0, nil
	}
	res.Body.Close()
	return res.StatusCode, res.Header
}

// begin makes a team with an athlete.
func (p *plant) begin() (athlete store.Athlete, err error) {
	if s := p.ask("POST", "/api/teams", map[string]string{"team": "T", "name": "N", "email": "n@club.example", "password": testenv.Password}, nil); s != http.StatusOK {
		return athlete, fmt.Errorf("a team: %d", s)
	}
	if s := p.ask("POST", "/api/athletes", testenv.Athlete("A"), &athlete); s != http.StatusOK {
		return athlete, fmt.Errorf("an athlete: %d", s)
	}
	return athlete, nil
}

func (p *plant) attempt(athlete uuid.UUID) (at store.Attempt, ok bool) {
	s := p.ask("POST", "/api/attempts", store.NewAttempt{AthleteID: athlete, Event: "sprint-start", DoneOn: "2026-03-01", Condition: "fresh", Setting: "practice"}, &at)
	return at, s == http.StatusOK
}

// send uploads as the browser does: piece by piece, asking where it stands after every
// break, until the server says that all is there.
func (p *plant) send(attempt uuid.UUID, film []byte, stop <-chan struct{}) (id uuid.UUID, done bool) {
	status, h := p.tus("POST", "/api/uploads/", map[string]string{"Upload-Length": fmt.Sprint(len(film)), "Upload-Metadata": "attempt " + base64Of(attempt.String()) + ",filename " + base64Of("n.mp4")}, nil)
	if status != http.StatusCreated {
		return id, false
	}
	name := filepath.Base(h.Get("Location"))
	id, err := uuid.Parse(name)
	if err != nil {
		return id, false
	}
	at := 0
	for {
		end := min(at+max(1, len(film)/3), len(film))
		status, _ := p.tus("PATCH", "/api/uploads/"+name, map[string]string{"Upload-Offset": fmt.Sprint(at), "Content-Type": "application/offset+octet-stream"}, film[at:end])
		if status == http.StatusNoContent {
			if at = end; at == len(film) {
				return id, true
			}
			continue
		}
		for {
			select {
			case <-stop:
				return id, false
			case <-time.After(30 * time.Millisecond):
			}
			status, h := p.tus("HEAD", "/api/uploads/"+name, nil, nil)
			if status == http.StatusOK {
				var n int
				if _, err := fmt.Sscan(h.Get("Upload-Offset"), &n); err != nil {
					return id, false
				}
				if at = n; at == len(film) {
					return id, true
				}
				break
			}
			if status == http.StatusNotFound || status == http.StatusGone {
				return id, false
			}
		}
	}
}

func base64Of(s string) string {
	raw, _ := json.Marshal([]byte(s)) // base64 in quotes
	return string(raw[1 : len(raw)-1])
}

type crashes struct {
	acknowledged, lostEdits      int
	finished, lostUploads        int
	orphans                      int
	serverKills, databaseCrashes int
}

// crash ends the server and its database so many times each while two coaches edit and
// two upload, and counts what was acknowledged and is not there.
func (l *Lab) crash(each int) (crashes, error) {
	if l.crashed != nil {
		return *l.crashed, nil
	}
	var out crashes
	p, err := startPlant()
	if err != nil {
		return out, err
	}
	defer p.close()
	athlete, err := p.begin()
	if err != nil {
		return out, err
	}
	file := filepath.Join(p.dir, "n.mp4")
	if err := (testenv.Numbered{Width: 320, Height: 180, Frames: 240, Rate: 60}).Make(file); err != nil {
		return out, err
	}
	film, err := os.ReadFile(file)
	if err != nil {
		return out, err
	}
	var mu sync.Mutex
	stop := make(chan struct{})
	stopped := func() bool {
		select {
		case <-stop:
			return true
		default:
			return false
		}
	}
	// Every place gets one point, whose x tells which: an acknowledged one must be there.
	type placed struct {
		attempt, clip uuid.UUID
		landmark      string
		frame         int
		x             float64
	}
	var kept []placed
	var sent []uuid.UUID
	var work sync.WaitGroup
	landmarks := body.Landmarks()
	for editor := range 2 {
		at, ok := p.attempt(athlete.ID)
		clip, done := p.send(at.ID, append(bytes.Clone(film), byte(editor)), stop)
		if !ok || !done {
			return out, errors.New("an editor has no clip")
		}
		for state := ""; state != "ready"; time.Sleep(50 * time.Millisecond) {
			var c store.Clip
			if p.ask("GET", "/api/clips/"+clip.String(), nil, &c); c.State == "failed" {
				return out, errors.New(c.Problem)
			}
			state = c.State
		}
		work.Add(1)
		go func() {
			defer work.Done()
			base := -1
			for n := 0; !stopped(); n++ {
				if base < 0 {
					var sh workspace.Workspace
					if p.ask("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, &sh) != http.StatusOK {
						time.Sleep(20 * time.Millisecond)
						continue
					}
					base = sh.Work.Revision
				}
				e := placed{at.ID, clip, landmarks[n%len(landmarks)], n / len(landmarks) % 240, float64(1 + n%300)}
				var saved workspace.Saved
				s := p.ask("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Base: base, Edits: []workspace.Edit{{Kind: "point", Clip: &clip, Key: e.landmark, Frame: e.frame, Value: workspace.Value(map[string]any{"x": e.x, "y": 9, "source": "hand", "confidence": 1})}}}, &saved)
				if s != http.StatusOK {
					base = -1
					continue
				}
				base = saved.Revision
				mu.Lock()
				kept = append(kept, e)
				mu.Unlock()
				time.Sleep(5 * time.Millisecond)
			}
		}()
	}
	for uploader := range 2 {
		work.Add(1)
		go func() {
			defer work.Done()
			for n := 0; !stopped(); n++ {
				at, ok := p.attempt(athlete.ID)
				if !ok {
					time.Sleep(20 * time.Millisecond)
					continue
				}
				// No two files are the same, or the second would be refused.
				own := fmt.Appendf(bytes.Clone(film), "%d %d", uploader, n)
				if id, done := p.send(at.ID, own, stop); done {
					mu.Lock()
					sent = append(sent, id)
					mu.Unlock()
				}
				time.Sleep(500 * time.Millisecond)
			}
		}()
	}
	dice := rand.New(rand.NewPCG(15, 8470))
	for n := range 2 * each {
		time.Sleep(time.Duration(200+dice.IntN(900)) * time.Millisecond)
		if n%2 == 0 {
			p.kill(syscall.SIGKILL)
			out.serverKills++
			if err := p.up(); err != nil {
				return out, err
			}
			continue
		}
		if err := p.db.Crash(); err != nil {
			return out, err
		}
		out.databaseCrashes++
		if p.db, err = pglocal.Start(context.Background(), pglocal.Options{Dir: filepath.Join(p.dir, "db"), Port: p.db.Port}); err != nil {
			return out, err
		}
	}
	time.Sleep(500 * time.Millisecond)
	close(stop)
	work.Wait()
	// A clean start puts right what is left.
	p.kill(syscall.SIGTERM)
	if err := p.up(); err != nil {
		return out, err
	}
	points := map[placed]bool{}
	for _, k := range kept {
		key := k
		key.x = 0
		points[key] = true
	}
	sheets := map[uuid.UUID]workspace.Workspace{}
	last := map[placed]float64{}
	for _, k := range kept {
		key := k
		key.x = 0
		last[key] = k.x
	}
	for key, x := range last {
		sh, ok := sheets[key.attempt]
		if !ok {
			if s := p.ask("GET", "/api/attempts/"+key.attempt.String()+"/workspace", nil, &sh); s != http.StatusOK {
				return out, fmt.Errorf("a sheet: %d", s)
			}
			sheets[key.attempt] = sh
		}
		got, there := sh.Work.Clips[key.clip].Points.At(key.landmark, key.frame)
		if !there || got.X != x {
			out.lostEdits++
		}
	}
	out.acknowledged = len(kept)
	out.finished = len(sent)
	for _, id := range sent {
		var c store.Clip
		for deadline := time.Now().Add(10 * time.Minute); time.Now().Before(deadline); time.Sleep(50 * time.Millisecond) {
			if s := p.ask("GET", "/api/clips/"+id.String(), nil, &c); s != http.StatusOK || c.State != "waiting" && c.State != "importing" {
				break
			}
		}
		if c.State != "ready" {
			fmt.Fprintf(os.Stderr, "  lost: %s is %q %s\n", id, c.State, c.Problem)
			out.lostUploads++
		}
	}
	p.kill(syscall.SIGTERM)
	if out.orphans, err = p.orphans(); err != nil {
		return out, err
	}
	fmt.Fprintf(os.Stderr, "  %d kills, %d crashes of the database: %d edits and %d uploads were acknowledged\n", out.serverKills, out.databaseCrashes, out.acknowledged, out.finished)
	l.crashed = &out
	return out, nil
}

// orphans counts files that nobody knows of: in the folder of work, and media and
// uploads without a row. The server must be down.
func (p *plant) orphans() (n int, err error) {
	s, err := store.Connect(context.Background(), p.db.URL)
	if err != nil {
		return 0, err
	}
	defer s.Close()
	for _, parent := range []string{"data/work", "media", "uploads"} {
		list, err := os.ReadDir(filepath.Join(p.dir, parent))
		if err != nil {
			return n, err
		}
		for _, e := range list {
			id, err := uuid.Parse(strings.TrimSuffix(strings.TrimSuffix(e.Name(), ".info"), ".lock"))
			if parent == "data/work" || err != nil {
				fmt.Fprintln(os.Stderr, "  orphan:", parent, e.Name())
				n++
				continue
			}
			unknown, err := s.Unknown(context.Background(), []uuid.UUID{id})
			if err != nil {
				return n, err
			}
			open, err := s.OpenUploads(context.Background())
			if err != nil {
				return n, err
			}
			known := len(unknown) == 0
			for _, u := range open {
				known = known || u.ID == id
			}
			// What a clip has on the shelf is not among the uploads any more.
			if c, err := s.ClipForImport(context.Background(), id); parent == "uploads" && err == nil && c.State == "ready" {
				known = false
			}
			if !known {
				fmt.Fprintln(os.Stderr, "  orphan:", parent, e.Name())
				n++
			}
		}
	}
	return n, nil
}

// ServersJobsLost runs two servers on one database, kills one in the middle of imports,
// and counts the clips that never become ready.
func (l *Lab) ServersJobsLost() (float64, error) {
	p, err := startPlant()
	if err != nil {
		return 0, err
	}
	defer p.close()
	url, env, err := p.place("-second")
	if err != nil {
		return 0, err
	}
	second, over, err := launch(env, url)
	if err != nil {
		return 0, err
	}
	defer func() { _ = second.Process.Kill(); <-over }()
	athlete, err := p.begin()
	if err != nil {
		return 0, err
	}
	file := filepath.Join(p.dir, "n.mp4")
	if err := (testenv.Numbered{Width: 1280, Height: 720, Frames: 240, Rate: 60}).Make(file); err != nil {
		return 0, err
	}
	film, err := os.ReadFile(file)
	if err != nil {
		return 0, err
	}
	var all []uuid.UUID
	for n := range 12 {
		at, ok := p.attempt(athlete.ID)
		id, done := p.send(at.ID, fmt.Appendf(bytes.Clone(film), "%d", n), nil)
		if !ok || !done {
			return 0, errors.New("an upload was not taken")
		}
		all = append(all, id)
	}
	_ = second.Process.Kill()
	<-over
	lost := 0
	for _, id := range all {
		var c store.Clip
		for deadline := time.Now().Add(5 * time.Minute); time.Now().Before(deadline) && c.State != "ready" && c.State != "failed"; time.Sleep(100 * time.Millisecond) {
			p.ask("GET", "/api/clips/"+id.String(), nil, &c)
		}
		if c.State != "ready" {
			lost++
		}
	}
	return float64(lost), nil
}

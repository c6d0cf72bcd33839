package figures

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/demo"
	"neokinema/internal/pglocal"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/simcam"
)

// bare lets the helpers that were written for tests run in a command: a failure
// becomes an error.
type bare struct {
	testing.TB
}

// Cleanup does nothing: what is left ends with the process.
func (bare) Cleanup(func()) {}

type stopped struct{ why string }

func (bare) Helper()                   {}
func (bare) Fatal(a ...any)            { panic(stopped{fmt.Sprint(a...)}) }
func (bare) Fatalf(f string, a ...any) { panic(stopped{fmt.Sprintf(f, a...)}) }
func (bare) Errorf(f string, a ...any) { panic(stopped{fmt.Sprintf(f, a...)}) }
func (b bare) try(f func()) (err error) {
	defer func() {
		switch r := recover().(type) {
		case nil:
		case stopped:
			err = fmt.Errorf("%s", r.why)
		default:
			err = fmt.Errorf("%v", r)
		}
	}()
	f()
	return nil
}

// FrameMismatches counts pictures that are not the frame that was asked for: on
// the stage and in the server's stills, for every kind of clip, at random
// frames.
func (l *Lab) FrameMismatches(each int) (float64, error) {
	b, err := l.Browser()
	if err != nil {
		return 0, err
	}
	h := l.House()
	wrong, looked := 0, 0
	kinds := testenv.Kinds()
	names := make([]string, 0, len(kinds))
	for n := range kinds {
		names = append(names, n)
	}
	sort.Strings(names)
	dir, err := os.MkdirTemp("", "neokinema-frames-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		s := h.Screen(bare{}, b, c)
		defer s.Close()
		for _, name := range names {
			path := filepath.Join(dir, name+".mp4")
			n, err := kinds[name](path)
			if err != nil {
				bare{}.Fatalf("%s: %v", name, err)
			}
			raw, err := os.ReadFile(path)
			if err != nil {
				bare{}.Fatal(err)
			}
			at := c.Attempt()
			clip := c.Imported(c.Upload(at.ID, name+".mp4", raw, 1<<22))
			if clip.State != "ready" || len(clip.Stamps) != n.Frames {
				bare{}.Fatalf("%s: %s, %d of %d frames: %s", name, clip.State, len(clip.Stamps), n.Frames, clip.Problem)
			}
			turned := name == "rotated"
			if turned != (clip.Height > clip.Width) {
				bare{}.Fatalf("%s: picture is %d x %d", name, clip.Width, clip.Height)
			}
			s.Bench(h, at.ID)
			for i := range each {
				// Spread over the clip, not in order; both ends among them.
				f := (i*53 + i*i*7) % n.Frames
				if i == 1 {
					f = n.Frames - 1
				}
				s.Jump(f)
				still := c.Do("GET", fmt.Sprintf("/api/clips/%s/frames/%d", clip.ID, f), nil, 200, nil)
				looked++
				if number(s, turned, n) != f || stillNumber(still, clip.Width, turned) != f {
					wrong++
				}
			}
		}
	})
	if err == nil && looked < 5*each {
		err = fmt.Errorf("only %d frames were looked at", looked)
	}
	return float64(wrong), err
}

// turnedAt is where a block of the number lies after a quarter turn to the left:
// what was at (x, y) is now at (y, width - x), and the picture is as high as it
// was wide.
func turnedAt(bit, height int) (x, y float64) {
	return testenv.Block, float64(height) - (float64(bit)+0.5)*testenv.Block
}

func number(s *testenv.Screen, turned bool, n testenv.Numbered) int {
	if !turned {
		return s.StageNumber()
	}
	return s.NumberAt(func(bit int) (float64, float64) { return turnedAt(bit, n.Width) })
}

func stillNumber(raw []byte, width int, turned bool) int {
	n, err := testenv.ReadJPEG(raw, width)
	if turned {
		n, err = testenv.ReadJPEGAt(raw, func(bit, _, h int) (float64, float64) { return turnedAt(bit, h) })
	}
	if err != nil {
		return -1
	}
	return n
}

type importFigures struct{ firstFrame, ratio float64 }

// importing measures the import of a 4 s clip at 240/s, 1280x720, against a
// plain decode of the same file.
func (l *Lab) importing() (importFigures, error) {
	if l.imported != nil {
		return *l.imported, nil
	}
	dir, err := os.MkdirTemp("", "neokinema-import-")
	if err != nil {
		return importFigures{}, err
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "clip.mp4")
	scene, err := simcam.New(simcam.Spec{Athlete: testenv.Athlete("x").Body(), Direction: 1, CaptureRate: 621, FileRate: 240, Width: 1280, Height: 720})
	if err != nil {
		return importFigures{}, err
	}
	if err := scene.WriteClip(context.Background(), path); err != nil {
		return importFigures{}, err
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		return importFigures{}, err
	}
	decode := func() float64 {
		start := time.Now()
		if out, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-f", "null", "-").CombinedOutput(); err != nil {
			bare{}.Fatalf("%v: %s", err, out)
		}
		return time.Since(start).Seconds()
	}
	h := l.House()
	var r importFigures
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		var rounds []importFigures
		for range 5 {
			// The rivals take turns, so that a slow moment of the machine hits both.
			plain := decode()
			at := c.Attempt()
			id := c.Upload(at.ID, "clip.mp4", raw, len(raw))
			start := time.Now()
			for {
				if _, status := c.Try("GET", "/api/clips/"+id.String()+"/poster.jpg", nil); status == 200 {
					break
				}
				time.Sleep(5 * time.Millisecond)
			}
			first := time.Since(start).Seconds()
			clip := c.Imported(id)
			if clip.State != "ready" || len(clip.Stamps) < 950 {
				bare{}.Fatalf("%s, %d frames", clip.State, len(clip.Stamps))
			}
			rounds = append(rounds, importFigures{first, time.Since(start).Seconds() / plain})
		}
		sort.Slice(rounds, func(i, j int) bool { return rounds[i].ratio < rounds[j].ratio })
		r = rounds[len(rounds)/2]
	})
	if err == nil {
		l.imported = &r
	}
	return r, err
}

type handFigures struct{ step, jump, readout float64 }

// hand measures in the browser what the coach's hand feels, in ms, 95th
// percentile: from the step to the picture, from a jump to the picture, from
// the drag of a joint to the number.
func (l *Lab) hand() (handFigures, error) {
	if l.handled != nil {
		return *l.handled, nil
	}
	b, err := l.Browser()
	if err != nil {
		return handFigures{}, err
	}
	h := l.House()
	var r handFigures
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		loader := &demo.Loader{Clips: testenv.Drawn(), Log: slog.New(slog.DiscardHandler)}
		scene, file, err := loader.Clip(context.Background(), simcam.Spec{Athlete: testenv.Athlete("x").Body(), Direction: 1, CaptureRate: 240, FileRate: 30, TagRate: true, Width: 1280, Height: 720})
		if err != nil {
			bare{}.Fatal(err)
		}
		raw, err := os.ReadFile(file)
		if err != nil {
			bare{}.Fatal(err)
		}
		at := c.Attempt()
		clip := c.Imported(c.Upload(at.ID, "start.mp4", raw, len(raw)))
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: demo.ByHand(scene.Truth, clip.ID, 0)}, http.StatusOK, nil)
		s := h.Screen(bare{}, b, c)
		defer s.Close()
		s.Bench(h, at.ID)
		s.See("[data-reading=front_knee_set]")
		s.Jump(40)
		time.Sleep(time.Second)
		r.step = s.MustEval(handJS + `; return p95(await each(120, 25, () => pl.step(1), n => n === pl.get().frame)); }`).Num()
		r.jump = s.MustEval(handJS + `; return p95(await each(60, 60, i => pl.jump((i * 137 + 11) % (pl.last + 1)), n => n === pl.get().frame)); }`).Num()
		s.Jump(scene.Truth.Positions["set"])
		knee := scene.Truth.Frames[scene.Truth.Positions["set"]].Landmarks["left_knee"].Image
		r.readout = s.MustEval(`async (x, y) => {
			const st = document.querySelector('[data-testid=stage]'), box = st.getBoundingClientRect(), [k, dx, dy] = st.dataset.look.split(' ').map(Number);
			st.setPointerCapture = () => {};
			const send = (type, i) => st.dispatchEvent(new PointerEvent(type, {bubbles: true, pointerId: 1, button: type === 'pointermove' ? -1 : 0, buttons: 1, clientX: box.x + dx + k * x + i, clientY: box.y + dy + k * y}));
			const text = () => document.querySelector('[data-reading=front_knee_set]').textContent;
			const tick = () => new Promise(r => { const c = new MessageChannel(); c.port1.onmessage = r; c.port2.postMessage(0); });
			const out = [];
			send('pointerdown', 0); send('pointermove', 6);
			await new Promise(r => setTimeout(r, 100));
			for (let i = 0; i < 80; i++) {
				const was = text(), t = performance.now();
				send('pointermove', 6 + (i % 2 ? 0 : 8));
				while (text() === was && performance.now() - t < 500) await tick();
				out.push(performance.now() - t);
				await new Promise(r => setTimeout(r, 20));
			}
			send('pointerup', 0);
			out.sort((a, b) => a - b);
			return out[Math.floor(out.length * .95)];
		}`, knee[0], knee[1]).Num()
	})
	if err == nil {
		l.handled = &r
	}
	return r, err
}

// handJS times something from its call to the picture on the stage.
const handJS = `async () => {
	const pl = window.neokinema.player, c = document.querySelector('[data-testid=picture]');
	const tick = () => new Promise(r => { const m = new MessageChannel(); m.port1.onmessage = r; m.port2.postMessage(0); });
	const each = async (n, pause, act, done) => {
		const out = [];
		for (let i = 0; i < n; i++) {
			const t = performance.now();
			act(i);
			while (!done(Number(c.dataset.frame)) && performance.now() - t < 2000) await tick();
			out.push(performance.now() - t);
			await new Promise(r => setTimeout(r, pause));
		}
		return out;
	};
	const p95 = a => a.sort((x, y) => x - y)[Math.floor(a.length * .95)]`

// ServerMemory is the peak memory, in MB, of a server process of its own that
// takes and imports a 500 MB file: a real clip in front of half a gigabyte that
// players skip.
func ServerMemory() (float64, error) {
	dir, err := os.MkdirTemp("", "neokinema-rss-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		return 0, err
	}
	db, err := pglocal.Start(context.Background(), pglocal.Options{Dir: filepath.Join(dir, "db"), Fast: true})
	if err != nil {
		return 0, err
	}
	defer db.Stop()
	clip := filepath.Join(dir, "clip.mp4")
	if err := (testenv.Numbered{Width: 1280, Height: 720, Frames: 240, Rate: 30}).Make(clip); err != nil {
		return 0, err
	}
	head, err := os.ReadFile(clip)
	if err != nil {
		return 0, err
	}
	const filler = 500 << 20
	box := append([]byte{filler >> 24, filler >> 16 & 255, filler >> 8 & 255, filler & 255}, "free"...)
	address := "127.0.0.1:18470"
	cmd := exec.Command(filepath.Join(Root(), "build", "neokinema"), "serve")
	cmd.Env = append(os.Environ(), "NEO_DATABASE_URL="+db.URL, "NEO_MEDIA_URL=file://"+dir+"/media?create_dir=1&no_tmp_dir=1",
		"NEO_ADDRESS="+address, "NEO_SECRET=a secret for measuring, 32 letters!", "NEO_DATA="+dir)
	if err := cmd.Start(); err != nil {
		return 0, err
	}
	defer func() { _ = cmd.Process.Kill(); _ = cmd.Wait() }()
	jar, err := cookiejar.New(nil)
	if err != nil {
		return 0, err
	}
	c := &testenv.Client{T: bare{}, HTTP: &http.Client{Jar: jar}, URL: "http://" + address}
	for range 200 {
		if res, err := http.Get(c.URL + "/api/health"); err == nil {
			res.Body.Close()
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	err = bare{}.try(func() {
		c.Do("POST", "/api/teams", map[string]string{"team": "T", "name": "N", "email": "m@club.example", "password": "long enough words"}, 200, nil)
		at := c.Attempt()
		up, status := c.Begin(at.ID, "big.mp4", int64(len(head)+filler))
		if status != http.StatusCreated {
			bare{}.Fatalf("upload refused: %d", status)
		}
		body := io.MultiReader(bytes.NewReader(head), bytes.NewReader(box), io.LimitReader(zeros{}, filler-8))
		if status := c.Piece(up, 0, body); status != http.StatusNoContent {
			bare{}.Fatalf("upload failed: %d", status)
		}
		if clip := c.Imported(uuid.MustParse(up)); clip.State != "ready" || len(clip.Stamps) != 240 {
			bare{}.Fatalf("%s %s", clip.State, clip.Problem)
		}
	})
	if err != nil {
		return 0, err
	}
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", cmd.Process.Pid))
	if err != nil {
		return 0, err
	}
	m := regexp.MustCompile(`VmHWM:\s+(\d+) kB`).FindSubmatch(raw)
	if m == nil {
		return 0, fmt.Errorf("no peak in %s", raw)
	}
	kb, err := strconv.ParseFloat(string(m[1]), 64)
	return kb / 1024, err
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) {
	clear(p)
	return len(p), nil
}

// compressed is the size of a file in kB after gzip.
func compressed(path string) (float64, error) {
	raw, err := os.ReadFile(filepath.Join(Root(), path))
	if err != nil {
		return 0, err
	}
	var out bytes.Buffer
	w, _ := gzip.NewWriterLevel(&out, gzip.BestCompression)
	_, _ = w.Write(raw)
	_ = w.Close()
	return float64(out.Len()) / 1000, nil
}

// FirstLoad is what the browser fetches before the Bench opens, in kB: the page,
// the scripts and styles that it names (and what those import at once), and the
// Latin font.
func FirstLoad() (float64, error) {
	dist := filepath.Join(Root(), "web", "dist")
	page, err := os.ReadFile(filepath.Join(dist, "index.html"))
	if err != nil {
		return 0, err
	}
	total, err := compressed("web/dist/index.html")
	if err != nil {
		return 0, err
	}
	queue := []string{}
	for _, m := range regexp.MustCompile(`(?:src|href)="/(assets/[^"]+\.(?:js|css))"`).FindAllStringSubmatch(string(page), -1) {
		queue = append(queue, m[1])
	}
	seen := map[string]bool{}
	for len(queue) > 0 {
		name := queue[0]
		queue = queue[1:]
		if seen[name] {
			continue
		}
		seen[name] = true
		kb, err := compressed("web/dist/" + name)
		if err != nil {
			return 0, err
		}
		total += kb
		raw, err := os.ReadFile(filepath.Join(dist, name))
		if err != nil {
			return 0, err
		}
		for _, m := range regexp.MustCompile(`(?:^|[;}])(?:import|export)\s*(?:[^"';()]*from)?\s*["']\./([^"']+\.js)["']`).FindAllStringSubmatch(string(raw), -1) {
			queue = append(queue, "assets/"+m[1])
		}
	}
	fonts, _ := filepath.Glob(filepath.Join(dist, "assets", "inter-latin-wght-*.woff2"))
	if len(seen) < 2 || len(fonts) != 1 {
		return 0, fmt.Errorf("the built front end looks unknown: %d files, %d fonts", len(seen), len(fonts))
	}
	st, err := os.Stat(fonts[0])
	if err != nil {
		return 0, err
	}
	return total + float64(st.Size())/1000, nil
}

// CoreCoverage is the share of the core's statements that its own tests run.
func CoreCoverage() (float64, error) {
	profile := filepath.Join(os.TempDir(), fmt.Sprintf("neokinema-cover-%d", os.Getpid()))
	defer os.Remove(profile)
	cmd := exec.Command("go", "test", "-count=1", "-coverpkg=./core/...", "-coverprofile="+profile, "./core/...")
	cmd.Dir = Root()
	if out, err := cmd.CombinedOutput(); err != nil {
		return 0, fmt.Errorf("%w: %s", err, out)
	}
	cmd = exec.Command("go", "tool", "cover", "-func="+profile)
	cmd.Dir = Root()
	out, err := cmd.Output()
	if err != nil {
		return 0, err
	}
	m := regexp.MustCompile(`total:\s+\(statements\)\s+([\d.]+)%`).FindSubmatch(out)
	if m == nil {
		return 0, fmt.Errorf("no total in %s", out)
	}
	return strconv.ParseFloat(string(m[1]), 64)
}

// TestShare is the share of lines of Go and TypeScript that are tests: files of
// tests, what lies in e2e, and what only tests use (internal/testenv, internal/testdb); what is generated does not count.
func TestShare() (float64, error) {
	var all, tests float64
	root := Root()
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		name := d.Name()
		if d.IsDir() {
			if name == "node_modules" || name == "dist" || name == ".git" || name == "data" || name == "build" || name == "public" {
				return filepath.SkipDir
			}
			return nil
		}
		code := strings.HasSuffix(name, ".go") || strings.HasSuffix(name, ".ts") || strings.HasSuffix(name, ".tsx")
		if !code || strings.Contains(name, ".gen.") {
			return nil
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		lines := float64(bytes.Count(raw, []byte("\n")))
		all += lines
		rel, err := filepath.Rel(root, path)
		if err != nil {
			return err
		}
		rel = filepath.ToSlash(rel)
		if strings.HasSuffix(name, "_test.go") || strings.HasPrefix(rel, "e2e/") || strings.HasPrefix(rel, "internal/testenv/") || strings.HasPrefix(rel, "internal/testdb/") {
			tests += lines
		}
		return nil
	})
	return 100 * tests / all, err
}

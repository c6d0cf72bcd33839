package figures

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"syscall"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"

	"neokinema/internal/app"
	"neokinema/internal/demo"
	"neokinema/internal/testenv"
	"neokinema/simcam"
)

// screened is what a walk through the screens of the demo's club found.
type screened struct {
	seen, violations, outside int
	faults                    testenv.Faults
	warm, open                float64 // of a Bench opened again: kB over the line, s at a quarter of the speed
}

// told writes what was found wrong, so that it can be put right.
func told(what string, list []string) int {
	for _, x := range list {
		fmt.Fprintln(os.Stderr, "  "+what+": "+x)
	}
	return len(list)
}

func (l *Lab) screens() (screened, error) {
	if l.screened != nil {
		return *l.screened, nil
	}
	b, err := l.Browser()
	if err != nil {
		return screened{}, err
	}
	var out screened
	h, end := testenv.Open(demo.Email)
	defer end()
	err = bare{}.try(func() {
		loader := &demo.Loader{Store: h.Store, Account: h.Account, Intake: h.Intake, Bench: h.Bench, Watch: h.Watch, Logbook: h.Logbook, Clips: filepath.Join(h.Dir, "drawn"), Log: slog.New(slog.DiscardHandler)}
		if err := loader.Load(context.Background()); err != nil {
			bare{}.Fatal(err)
		}
		start := func(athlete, mark string) (attempt, person string) {
			var row struct {
				ID     uuid.UUID `db:"id"`
				Person uuid.UUID `db:"athlete_id"`
			}
			if err := h.Store.DB.Get(&row, `SELECT a.id, a.athlete_id FROM attempts a JOIN athletes p ON p.id = a.athlete_id WHERE p.name = $1 AND a.event = 'sprint-start' AND a.mark = $2`, athlete, mark); err != nil {
				bare{}.Fatal(err)
			}
			return row.ID.String(), row.Person.String()
		}
		attempt, person := start("Odalys Ferrin", "10 m 2.11 s")
		other, _ := start("Odalys Ferrin", "10 m 2.08 s")
		var jumper uuid.UUID
		if err := h.Store.DB.Get(&jumper, `SELECT id FROM athletes WHERE name = 'Elio Thorsby'`); err != nil {
			bare{}.Fatal(err)
		}
		places := testenv.Club(attempt, person, other, jumper.String())
		s := h.Screen(bare{}, b, nil)
		defer s.Close()
		s.Open(h.URL, "input[name=email]")
		s.Button("Look around in the demo club")
		s.See("[data-attempt]")
		for _, theme := range []string{"dark", "light"} {
			s.Settings(map[string]any{"theme": theme})
			for _, p := range places {
				s.Visit(h.URL, p)
				out.violations += told(p.Name+", "+theme, s.Violations())
				out.seen++
			}
		}
		s.Settings(nil)
		out.warm, out.open = reopened(s, h.URL+"/attempt/"+attempt)
		out.faults = s.Round(h.URL, places)
		told("no key", out.faults.Unreachable)
		told("small", out.faults.Small)
		told("wide", out.faults.Wide)
		marked := s.Another(h)
		marked.Marked()
		for _, p := range places {
			marked.Visit(h.URL, p)
			out.outside += told("in no catalogue, "+p.Name, marked.Outside())
		}
		marked.Close()
	})
	if err == nil && out.seen < 40 {
		err = fmt.Errorf("only %d screens were looked at", out.seen)
	}
	if err != nil {
		return out, err
	}
	l.screened = &out
	return out, nil
}

// reopened opens a Bench that was open before: what comes over the line, and how long it takes to
// frame and core on a processor of a quarter of the speed, the median of three times. The first of
// them a browser compiles anew what it only then keeps as machine code.
func reopened(s *testenv.Screen, address string) (kb, seconds float64) {
	ready := func() {
		s.See("canvas[data-frame]")
		s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() }, "the core is loaded")
	}
	s.Open(address, "canvas[data-frame]")
	ready()
	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-clips").then((c) => c.keys()).then((k) => k.length > 0)`).Bool()
	}, "the clip is kept")
	s.MustReload()
	ready()
	kb = s.MustEval(`() => [...performance.getEntriesByType("navigation"), ...performance.getEntriesByType("resource")].reduce((n, r) => n + r.transferSize, 0)`).Num() / 1000
	if err := (proto.EmulationSetCPUThrottlingRate{Rate: 4}).Call(s); err != nil {
		bare{}.Fatal(err)
	}
	var took []float64
	for range 3 {
		began := time.Now()
		s.MustReload()
		ready()
		took = append(took, time.Since(began).Seconds())
	}
	slices.Sort(took)
	if err := (proto.EmulationSetCPUThrottlingRate{Rate: 1}).Call(s); err != nil {
		bare{}.Fatal(err)
	}
	return kb, took[1]
}

// jumps is how many frames are asked for of a clip whose pictures carry their number.
const jumps = 200

// WrongPictures counts the jumps at which the stage showed another frame than its number and did
// not say so: over a slow line that is cut again and again, with nothing kept at first.
func (l *Lab) WrongPictures() (n float64, err error) {
	b, err := l.Browser()
	if err != nil {
		return 0, err
	}
	h := l.House()
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		at := c.Attempt()
		c.Imported(c.Upload(at.ID, "numbered.mp4", numbered(testenv.Numbered{Width: 640, Height: 360, Frames: 300, Rate: 60, Grain: true}), 1<<22))
		s := h.Screen(bare{}, b, c)
		defer s.Close()
		s.Bench(h, at.ID)
		s.MustEval(`() => caches.keys().then((all) => Promise.all(all.map((k) => caches.delete(k))))`)
		s.Network(200_000, 150*time.Millisecond)
		s.MustReload()
		s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() && s.Frame() >= 0 }, "the Bench is open")
		dice := rand.New(rand.NewPCG(20, 8470))
		for i := range jumps / 20 {
			switch i % 3 {
			case 0:
				s.Network(200_000, 150*time.Millisecond)
			case 1:
				s.Network(0, 0)
			default:
				s.Network(-1, 0)
			}
			list := make([]int, 20)
			for k := range list {
				list[k] = dice.IntN(300)
			}
			wrong, _ := s.WrongPictures(list, testenv.Glance)
			n += float64(wrong)
		}
		s.Network(-1, 0)
	})
	return n, err
}

func numbered(of testenv.Numbered) []byte {
	dir, err := os.MkdirTemp("", "neokinema-numbered-")
	if err != nil {
		bare{}.Fatal(err)
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "numbered.mp4")
	if err := of.Make(path); err != nil {
		bare{}.Fatal(err)
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		bare{}.Fatal(err)
	}
	return raw
}

// injected are faults that a page must bear: answers that fail or say what they should not, what
// a browser keeps and is damaged, a file that an update took away.
var injected = []struct {
	name, pattern, body string
	status              int
	stored              [2]string // a key and what stands there
	path                string
}{
	{name: "the attempt fails", pattern: "*/workspace", status: 500, body: `{"kind":"internal","message":"x"}`, path: "/attempt/%s"},
	{name: "the attempt is no JSON", pattern: "*/workspace", status: 200, body: "<html>", path: "/attempt/%s"},
	{name: "the attempt is another thing", pattern: "*/workspace", status: 200, body: "{}", path: "/attempt/%s"},
	{name: "the log is another thing", pattern: "*/log", status: 200, body: `{"attempts":3}`, path: "/athlete/%s"},
	{name: "the queue fails", pattern: "*/api/queue*", status: 502, body: "<h1>502</h1>", path: "/"},
	{name: "the queue is a list", pattern: "*/api/queue*", status: 200, body: "[]", path: "/"},
	{name: "nobody knows who it is", pattern: "*/api/me", status: 500, body: "", path: "/"},
	{name: "models are nothing", pattern: "*/api/models", status: 200, body: "null", path: "/models"},
	{name: "settings are damaged", stored: [2]string{"neo.settings", `{"theme":7,"keys":"x`}, path: "/attempt/%s"},
	{name: "what was not saved is damaged", stored: [2]string{"neo.pending.%s", "{oops"}, path: "/attempt/%s"},
	{name: "a part of the page is gone", pattern: "*/assets/feedback-*", status: 404, body: `{"kind":"not_found","message":"x"}`, path: "/attempt/%s/feedback"},
	{name: "the core is gone", pattern: "*/core.wasm", status: 404, body: "", path: "/attempt/%s"},
}

// WhitePages counts the injected faults that leave a page with nothing on it.
func (l *Lab) WhitePages() (n float64, err error) {
	b, err := l.Browser()
	if err != nil {
		return 0, err
	}
	h := l.House()
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		attempt, _, _ := l.start(c)
		for _, f := range injected {
			s := h.Screen(bare{}, b, c)
			id := attempt.String()
			s.Open(h.URL+"/", "[data-attempt]")
			if f.stored[0] != "" {
				s.MustEval(`(k, v) => localStorage.setItem(k, v)`, strings.ReplaceAll(f.stored[0], "%s", id), f.stored[1])
			}
			if f.pattern != "" {
				router := s.HijackRequests()
				defer func() { _ = router.Stop() }()
				router.MustAdd(f.pattern, func(x *rod.Hijack) {
					x.Response.Payload().ResponseCode = f.status
					x.Response.SetHeader("Content-Type", "application/json").SetBody(f.body)
				})
				go router.Run()
			}
			s.MustNavigate(h.URL + strings.ReplaceAll(f.path, "%s", id))
			// Whatever it says, it says it within seconds.
			says := s.Timeout(10 * time.Second).Wait(rod.Eval(`() => document.body && document.body.innerText.trim().split(/\s+/).length >= 3`))
			if says != nil {
				fmt.Fprintf(os.Stderr, "  white: %s\n", f.name)
				n++
			}
			s.Gone()
		}
	})
	return n, err
}

// LostEdits counts flags that a coach set and the server has not in the end: without a line, with
// a server that fails for a while, over a page that is closed before it saved, beside a second tab.
func (l *Lab) LostEdits() (n float64, err error) {
	b, err := l.Browser()
	if err != nil {
		return 0, err
	}
	h := l.House()
	err = bare{}.try(func() {
		c := h.Coach(bare{})
		at := c.Attempt()
		clip := c.Imported(c.Upload(at.ID, "numbered.mp4", numbered(testenv.Numbered{Width: 640, Height: 360, Frames: 120, Rate: 240}), 1<<20))
		s := h.Screen(bare{}, b, c)
		defer s.Close()
		s.Bench(h, at.ID)
		flag := func(s *testenv.Screen, frame int) {
			s.Jump(frame)
			before := s.MustEval(`() => document.querySelectorAll("[data-flag]").length`).Int()
			s.Keyboard.MustType(input.KeyF)
			s.Until(func() bool {
				return s.MustEval(`() => document.querySelectorAll("[data-flag]").length`).Int() > before
			}, "a flag at %d", frame)
		}
		saved := func(s *testenv.Screen) { s.See("[data-testid=saving][data-state=saved]") }
		// All of the clip is here, so that frames come without a line.
		s.Until(func() bool {
			return s.MustEval(`() => caches.open("neo-clips").then((c) => c.keys()).then((k) => k.length > 0)`).Bool()
		}, "the clip is kept")
		s.Network(0, 0)
		for _, f := range []int{10, 20, 30} {
			flag(s, f)
		}
		s.Network(-1, 0)
		saved(s)
		router := s.HijackRequests()
		fails := 3
		router.MustAdd("*/edits", func(x *rod.Hijack) {
			if fails--; fails < 0 {
				x.ContinueRequest(&proto.FetchContinueRequest{})
				return
			}
			x.Response.Payload().ResponseCode = http.StatusServiceUnavailable
			x.Response.SetBody("<h1>503</h1>")
		})
		go router.Run()
		for _, f := range []int{40, 50} {
			flag(s, f)
		}
		saved(s)
		_ = router.Stop()
		// Closed before it could save, and opened again.
		s.Network(0, 0)
		flag(s, 60)
		s.Network(-1, 0)
		s.MustReload()
		s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() && s.Frame() >= 0 }, "the Bench is open again")
		saved(s)
		other := s.Another(h)
		defer other.Close()
		other.Bench(h, at.ID)
		flag(other, 70)
		saved(other)
		var sheet struct {
			Work struct {
				Clips map[uuid.UUID]struct {
					Flags map[string]int `json:"flags"`
				} `json:"clips"`
			} `json:"work"`
		}
		c.Do("GET", "/api/attempts/"+at.ID.String()+"/workspace", nil, http.StatusOK, &sheet)
		there := map[int]bool{}
		for _, f := range sheet.Work.Clips[clip.ID].Flags {
			there[f] = true
		}
		for f := 10; f <= 70; f += 10 {
			if !there[f] {
				fmt.Fprintf(os.Stderr, "  the flag at frame %d is lost\n", f)
				n++
			}
		}
	})
	return n, err
}

// queued is the queue of ten thousand attempts: until its first rows stand, ms, and its first page
// over the line, kB.
type queued struct{ rows, kb float64 }

func (l *Lab) queue() (queued, error) {
	if l.queued != nil {
		return *l.queued, nil
	}
	b, err := l.Browser()
	if err != nil {
		return queued{}, err
	}
	crowd, err := l.crowd()
	if err != nil {
		return queued{}, err
	}
	var out queued
	h := l.House()
	err = bare{}.try(func() {
		s := h.Screen(bare{}, b, crowd.coach)
		defer s.Close()
		s.Open(h.URL+"/", "[data-attempt]")
		var times []float64
		for range 9 {
			s.MustReload()
			s.See("[data-attempt]")
			times = append(times, s.MustEval(`() => new Promise((ok) => requestAnimationFrame(() => ok(performance.now())))`).Num())
		}
		sort.Float64s(times)
		out.rows = times[len(times)/2]
		out.kb = s.MustEval(`() => performance.getEntriesByType("resource").find((r) => r.name.includes("/api/queue")).encodedBodySize`).Num() / 1000
	})
	if err != nil {
		return out, err
	}
	l.queued = &out
	return out, nil
}

// begun is how long the demo takes to answer, and until its club is complete, s.
type begun struct{ address, filled float64 }

func (l *Lab) demo() (out begun, err error) {
	if l.begun != nil {
		return *l.begun, nil
	}
	dir, err := os.MkdirTemp("", "neokinema-demo-")
	if err != nil {
		return out, err
	}
	defer os.RemoveAll(dir)
	cmd := exec.Command(filepath.Join(Root(), "build", "neokinema"), "demo", "--data", dir, "--address", "127.0.0.1:18470")
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	lines, err := cmd.StdoutPipe()
	if err != nil {
		return out, err
	}
	began := time.Now()
	if err := cmd.Start(); err != nil {
		return out, err
	}
	defer func() {
		_ = syscall.Kill(-cmd.Process.Pid, syscall.SIGTERM)
		_ = cmd.Wait()
	}()
	for in := bufio.NewScanner(lines); in.Scan(); {
		switch {
		case strings.HasPrefix(in.Text(), "Neokinema is at"):
			address := strings.Fields(in.Text())[3]
			r, err := http.Get(address)
			if err != nil {
				return out, err
			}
			_, _ = io.Copy(io.Discard, r.Body)
			r.Body.Close()
			out.address = time.Since(began).Seconds()
		case in.Text() == "The club is complete.":
			out.filled = time.Since(began).Seconds()
			l.begun = &out
			return out, nil
		}
	}
	return out, errors.New("the demo ended before its club was complete")
}

// FirstClip counts what a coach does from an empty team to a link for the athlete.
func (l *Lab) FirstClip() (acts float64, err error) {
	b, err := l.Browser()
	if err != nil {
		return 0, err
	}
	h, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
	defer end()
	err = bare{}.try(func() {
		loader := &demo.Loader{Clips: testenv.Drawn(), Log: slog.New(slog.DiscardHandler)}
		_, file, err := loader.Clip(context.Background(), simcam.Spec{Athlete: testenv.Athlete("x").Body(), Faults: map[string]float64{"front-knee": 130, "early-rise": 11}, Direction: 1, CaptureRate: 240, FileRate: 30, Width: 1280, Height: 720})
		if err != nil {
			bare{}.Fatal(err)
		}
		s := h.Screen(bare{}, b, h.Coach(bare{}))
		defer s.Close()
		acts = float64(s.FirstClip(h, file))
	})
	return acts, err
}

package testenv

import (
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/cdp"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"
)

// Browser starts headless Chromium that reaches loopback only.
func Browser() (b *rod.Browser, end func(), err error) {
	dir, err := os.MkdirTemp("", "neokinema-browser-")
	if err != nil {
		return nil, nil, err
	}
	l := launcher.New().Bin("/usr/bin/chromium-headless-shell").HeadlessNew(true).NoSandbox(true).UserDataDir(dir).
		Set("use-fake-device-for-media-stream").Set("use-fake-ui-for-media-stream").Set("autoplay-policy", "no-user-gesture-required"). // a microphone that beeps
		Set("disable-gpu").Set("disable-component-update").Set("disable-background-networking").Set("disable-sync").
		Set("host-resolver-rules", "MAP * ~NOTFOUND, EXCLUDE 127.0.0.1")
	at, err := l.Launch()
	if err != nil {
		return nil, nil, fmt.Errorf("chromium: %w", err)
	}
	b = rod.New().ControlURL(at)
	if err := b.Connect(); err != nil {
		return nil, nil, err
	}
	return b, func() {
		_ = b.Close()
		l.Kill()
		os.RemoveAll(dir)
	}, nil
}

// patience is how long a screen may take for what it is waited for. It only ends tests that
// would hang: a busy machine needs its time. NEO_PATIENCE (such as 15s) shortens it while one
// works on a test.
var patience = func() time.Duration {
	if d, err := time.ParseDuration(os.Getenv("NEO_PATIENCE")); err == nil {
		return d
	}
	return 2 * time.Minute
}()

// Screen is one tab, with what the page complained of.
type Screen struct {
	*rod.Page
	T testing.TB

	mu     sync.Mutex
	faults []string
}

// Screen opens a tab of its own, signed in as the coach if there is one.
func (h *House) Screen(t testing.TB, b *rod.Browser, c *Client) *Screen {
	t.Helper()
	inc, err := b.Incognito()
	if err != nil {
		t.Fatal(err)
	}
	// A context left behind keeps its windows and its caches.
	t.Cleanup(func() { _ = proto.TargetDisposeBrowserContext{BrowserContextID: inc.BrowserContextID}.Call(b) })
	return h.tab(t, inc, c)
}

func (h *House) tab(t testing.TB, b *rod.Browser, c *Client) *Screen {
	t.Helper()
	p, err := b.Page(proto.TargetCreateTarget{})
	if err != nil {
		t.Fatal(err)
	}
	// What a test takes for granted and is not there ends this test, not those beside it.
	p = p.WithPanic(func(v any) {
		t.Helper()
		t.Fatalf("%v", v)
	})
	s := &Screen{Page: p.Timeout(10 * time.Minute), T: t}
	s.MustSetViewport(1280, 800, 1, false)
	// A machine in Britain, in the evening, whatever this one is set to.
	if err := (proto.EmulationSetLocaleOverride{Locale: "en-GB"}).Call(s); err != nil {
		t.Fatal(err)
	}
	if err := (proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}}).Call(s); err != nil {
		t.Fatal(err)
	}
	// The service worker has a line of its own that no test cuts or slows; what it does has its
	// own test.
	if err := (proto.NetworkEnable{}).Call(s); err != nil {
		t.Fatal(err)
	}
	if err := (proto.NetworkSetBypassServiceWorker{Bypass: true}).Call(s); err != nil {
		t.Fatal(err)
	}
	// Tabs of several tests are open beside each other; each believes that it is in front.
	if err := (proto.EmulationSetFocusEmulationEnabled{Enabled: true}).Call(s); err != nil {
		t.Fatal(err)
	}
	go s.EachEvent(func(e *proto.RuntimeExceptionThrown) {
		s.mu.Lock()
		defer s.mu.Unlock()
		s.faults = append(s.faults, e.ExceptionDetails.Exception.Description)
	})()
	if c != nil {
		u, _ := url.Parse(h.URL)
		for _, cookie := range c.HTTP.Jar.Cookies(u) {
			s.MustSetCookies(&proto.NetworkCookieParam{Name: cookie.Name, Value: cookie.Value, URL: h.URL})
		}
	}
	return s
}

// Another opens a second tab beside this one, sharing its session and storage.
func (s *Screen) Another(h *House) *Screen { return h.tab(s.T, s.Browser(), nil) }

// Done closes the tab, and fails the test when the page threw anything.
func (s *Screen) Done() {
	s.T.Helper()
	s.Gone()
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, f := range s.faults {
		s.T.Errorf("the page threw: %s", f)
	}
}

// Gone closes the tab for good, without asking the page; one that is closed already stays so.
func (s *Screen) Gone() {
	_, _ = proto.TargetCloseTarget{TargetID: s.TargetID}.Call(s.Browser())
}

// Open goes to an address and waits for what marks the screen.
func (s *Screen) Open(address, selector string) {
	s.T.Helper()
	s.MustNavigate(address)
	s.See(selector)
}

// See waits for an element.
func (s *Screen) See(selector string) *rod.Element {
	s.T.Helper()
	return s.find(selector+" is not shown", func(p *rod.Page) (*rod.Element, error) { return p.Element(selector) })
}

// Button waits for a button whose text matches and presses it.
func (s *Screen) Button(pattern string) {
	s.T.Helper()
	s.find(fmt.Sprintf("no button %q", pattern), func(p *rod.Page) (*rod.Element, error) { return p.ElementR("button, a", "/"+pattern+"/i") }).MustClick()
}

// Choose takes an option of a list once the list has it, since what one list offers may follow from
// another: the option with this text, or else the only one that holds it.
func (s *Screen) Choose(selector, option string) {
	s.T.Helper()
	s.Until(func() bool {
		return s.MustEval(`(list, text) => {
			const select = document.querySelector(list);
			const options = [...(select?.options ?? [])];
			const holding = options.filter((o) => o.text.includes(text));
			const option = options.find((o) => o.text === text) ?? (holding.length === 1 ? holding[0] : null);
			if (!option) return false;
			option.selected = true;
			for (const kind of ["input", "change"]) select.dispatchEvent(new Event(kind, { bubbles: true }));
			return true;
		}`, selector, option).Bool()
	}, "%s offers %q", selector, option)
}

// find looks for an element until it is there, also over a page that is being left for
// another one.
func (s *Screen) find(missing string, look func(*rod.Page) (*rod.Element, error)) *rod.Element {
	s.T.Helper()
	deadline := time.Now().Add(patience)
	for {
		el, err := look(s.Timeout(time.Until(deadline)))
		if err == nil {
			return el.CancelTimeout()
		}
		if !errors.Is(err, cdp.ErrCtxDestroyed) && !strings.Contains(err.Error(), "navigated or closed") || time.Now().After(deadline) {
			s.T.Fatalf("%s: %v\n%.1500s", missing, err, s.Text())
		}
	}
}

// Text is all text of the page.
func (s *Screen) Text() string {
	v, err := s.Eval(`() => document.body.innerText`)
	if err != nil {
		return err.Error()
	}
	return v.Value.Str()
}

// Says waits until the page's text holds something.
func (s *Screen) Says(text string) {
	s.T.Helper()
	s.Until(func() bool { return strings.Contains(s.Text(), text) }, "the page says %q", text)
}

// Until waits for a condition.
func (s *Screen) Until(ok func() bool, format string, args ...any) {
	s.T.Helper()
	s.within(patience, ok, format, args...)
}

// Drafted waits for what follows from a draft of the server, which takes minutes while other tests
// compute beside it.
func (s *Screen) Drafted(ok func() bool, format string, args ...any) {
	s.T.Helper()
	s.within(max(patience, 8*time.Minute), ok, format, args...)
}

func (s *Screen) within(most time.Duration, ok func() bool, format string, args ...any) {
	s.T.Helper()
	for deadline := time.Now().Add(most); time.Now().Before(deadline); time.Sleep(25 * time.Millisecond) {
		if ok() {
			return
		}
	}
	s.T.Fatalf("waited in vain until "+format+"\n%.1500s", append(args, s.Text())...)
}

// Bench opens an attempt and waits for the first exact frame.
func (s *Screen) Bench(h *House, attempt uuid.UUID) {
	s.T.Helper()
	s.Open(h.URL+"/attempt/"+attempt.String(), "canvas[data-frame]")
	s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() }, "the core is loaded")
}

// Jump puts the cursor on a frame and waits until the stage shows it.
func (s *Screen) Jump(frame int) {
	s.T.Helper()
	s.MustEval(`n => window.neokinema.player.jump(n)`, frame)
	s.Until(func() bool { return s.Frame() == frame }, "frame %d is shown", frame)
}

// Frame is the number of the frame that the stage shows.
func (s *Screen) Frame() int {
	return s.MustEval(`() => Number(document.querySelector('[data-testid=picture]').dataset.frame ?? -1)`).Int()
}

// StageNumber reads the number drawn into the picture from the stage's pixels.
func (s *Screen) StageNumber() int {
	return s.NumberAt(func(bit int) (x, y float64) { return (float64(bit) + 0.5) * block, block })
}

// NumberAt reads it where the blocks lie elsewhere in the picture.
func (s *Screen) NumberAt(at func(bit int) (x, y float64)) int {
	places := make([][2]float64, bits)
	for b := range places {
		places[b][0], places[b][1] = at(b)
	}
	return s.MustEval(`places => {
		const c = document.querySelector('[data-testid=picture]'), [k, x, y] = document.querySelector('[data-testid=stage]').dataset.look.split(' ').map(Number);
		const g = c.getContext('2d');
		return places.reduce((n, p, b) => n | (g.getImageData(Math.floor(x + k * p[0]), Math.floor(y + k * p[1]), 1, 1).data[0] > 128 ? 1 << b : 0), 0);
	}`, places).Int()
}

// Place clicks a point of the picture, given in px of the clip.
func (s *Screen) Place(x, y float64) {
	s.T.Helper()
	s.Over(x, y)
	s.Mouse.MustClick(proto.InputMouseButtonLeft)
}

// Over moves the pointer over a place of the picture.
func (s *Screen) Over(x, y float64) {
	s.T.Helper()
	at := s.MustEval(`(x, y) => { const e = document.querySelector('[data-testid=stage]'), r = e.getBoundingClientRect(), [k, dx, dy] = e.dataset.look.split(' ').map(Number); return [r.x + dx + k * x, r.y + dy + k * y]; }`, x, y)
	s.Mouse.MustMoveTo(at.Get("0").Num(), at.Get("1").Num())
}

// Shot writes a picture of the screen; only tests that make the documentation's
// pictures use it.
func (s *Screen) Shot(path string) {
	s.T.Helper()
	s.MustEval(`() => document.fonts.ready.then(() => 1)`)
	raw, err := s.Screenshot(false, nil)
	if err == nil {
		err = os.MkdirAll(filepath.Dir(path), 0o755)
	}
	if err == nil {
		err = os.WriteFile(path, raw, 0o644)
	}
	if err != nil {
		s.T.Fatal(err)
	}
}

// DraftAll drafts the whole clip from the Track tab and waits until joints,
// background and feet have been looked at.
func (s *Screen) DraftAll(most time.Duration) error {
	s.T.Helper()
	s.Page = s.CancelTimeout().Timeout(most)
	s.Keyboard.MustType(input.KeyT)
	s.See("[data-testid=draft]").MustClick()
	// From drafting over settling to refining the stage is never idle in between.
	const over = `() => document.querySelector("[data-testid=tracking]").dataset.stage === "idle" && document.querySelector("[data-testid=saving]").textContent === "saved"`
	if err := s.Wait(rod.Eval(`() => document.querySelector("[data-testid=tracking]").dataset.stage !== "idle"`)); err != nil {
		return fmt.Errorf("the draft did not begin: %.600s", s.Text())
	}
	if err := s.Wait(rod.Eval(over)); err != nil {
		return fmt.Errorf("the draft did not end: %.600s", s.Text())
	}
	return nil
}

// Network lets the page's connection carry so many bytes a second with so much delay; nothing
// at all with no bytes, and everything with a negative number.
func (s *Screen) Network(bytesPerSecond int, delay time.Duration) {
	s.T.Helper()
	rate := float64(bytesPerSecond)
	if bytesPerSecond < 0 {
		rate = -1
	}
	if err := (proto.NetworkEnable{}).Call(s); err != nil {
		s.T.Fatal(err)
	}
	err := proto.NetworkEmulateNetworkConditions{Offline: bytesPerSecond == 0, Latency: float64(delay.Milliseconds()), DownloadThroughput: rate, UploadThroughput: rate}.Call(s)
	if err != nil {
		s.T.Fatal(err)
	}
}

// Settings chooses settings for this browser; what is on the screen takes them when it is opened
// again. Nil are the usual ones.
func (s *Screen) Settings(chosen map[string]any) {
	s.T.Helper()
	if chosen == nil {
		chosen = map[string]any{}
	}
	s.MustEval(`(v) => localStorage.setItem("neo.settings", JSON.stringify(v))`, chosen)
}

// Unannounced is how long a stage may show another picture than its number says, when it does
// not say so: a blink.
const Unannounced = 100 * time.Millisecond

// Glance is how long a jump is watched of which the picture need not come.
const Glance = 400 * time.Millisecond

// WrongPictures jumps to frames of a [Numbered] clip, one after the other, and watches at every
// repaint whether the picture carries the number of the cursor. It counts the jumps at which the
// stage showed another one without a veil for longer than [Unannounced], and those at which the
// right picture came while it was watched: each jump for as long as watch, or until it came.
func (s *Screen) WrongPictures(frames []int, watch time.Duration) (wrong, right int) {
	s.T.Helper()
	places := make([]float64, bits)
	for b := range places {
		places[b] = (float64(b) + 0.5) * block
	}
	v := s.MustEval(`async (frames, places, blink, watch, y) => {
		const { player } = window.neokinema;
		const c = document.querySelector('[data-testid=picture]'), stage = document.querySelector('[data-testid=stage]');
		const number = () => {
			const [k, dx, dy] = stage.dataset.look.split(' ').map(Number), g = c.getContext('2d');
			return places.reduce((n, p, b) => n | (g.getImageData(Math.floor(dx + k * p), Math.floor(dy + k * y), 1, 1).data[0] > 128 ? 1 << b : 0), 0);
		};
		const repaint = () => new Promise((ok) => requestAnimationFrame(() => ok()));
		let wrong = 0, right = 0;
		for (const n of frames) {
			player.jump(n);
			const began = performance.now();
			// Repaints count, not the clock: a machine that is busy elsewhere shows nothing at all.
			for (let off = 0, before = began; before - began < watch; ) {
				await repaint();
				const now = performance.now();
				off += Math.min(now - before, 17);
				before = now;
				if (number() === player.get().frame) { right++; break; }
				if (document.querySelector('[data-testid=veil]')) off = 0;
				else if (off > blink) { wrong++; break; }
			}
		}
		return [wrong, right];
	}`, frames, places, Unannounced.Milliseconds(), watch.Milliseconds(), block)
	return v.Get("0").Int(), v.Get("1").Int()
}

// axe is the checker of accessibility; the front end's packages carry it.
var axe = sync.OnceValues(func() (string, error) {
	raw, err := os.ReadFile(filepath.Join(root(), "web", "node_modules", "axe-core", "axe.min.js"))
	return string(raw), err
})

// Violations are what of the rules of WCAG 2.2 AA, and of good practice, the page breaks: the
// rule, and where.
func (s *Screen) Violations() (out []string) {
	s.T.Helper()
	script, err := axe()
	if err != nil {
		s.T.Fatal(err)
	}
	s.MustEval("() => {" + script + "}")
	found := s.MustEval(`() => axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] })
		.then((r) => r.violations.flatMap((v) => v.nodes.map((n) => v.id + ": " + n.html.slice(0, 160).replaceAll("\n", " ") + " " + [...n.any, ...n.all, ...n.none].map((c) => c.message).join("; ").slice(0, 160))))`)
	for _, v := range found.Arr() {
		out = append(out, v.Str())
	}
	return out
}

package e2e

import (
	"net/http"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"

	"neokinema/internal/testenv"
)

// answer lets the first calls of one method to addresses that match end with statuses of
// a proxy or a broken server, and all others through. It tells how many were asked.
func answer(s *testenv.Screen, pattern, method string, statuses []int, body string, only func(*rod.Hijack) bool) *atomic.Int64 {
	var asked atomic.Int64
	router := s.HijackRequests()
	router.MustAdd(pattern, func(c *rod.Hijack) {
		if c.Request.Method() != method || only != nil && !only(c) {
			c.ContinueRequest(&proto.FetchContinueRequest{})
			return
		}
		n := int(asked.Add(1)) - 1
		if n >= len(statuses) {
			c.ContinueRequest(&proto.FetchContinueRequest{})
			return
		}
		c.Response.Payload().ResponseCode = statuses[n]
		c.Response.SetHeader("Content-Type", "application/json").SetBody(body)
	})
	go router.Run()
	s.T.Cleanup(func() { _ = router.Stop() })
	return &asked
}

// hurry makes the page wait a tenth of what it would between tries.
func hurry(s *testenv.Screen) {
	s.MustEvalOnNewDocument(`const wait = window.setTimeout; window.setTimeout = (f, ms, ...a) => wait(f, ms >= 1000 ? ms / 10 : ms, ...a)`)
}

// TestUploadGoesOnThroughAProxy: while the server restarts its proxy answers for it; the
// upload goes on by itself, and a disk without room is told.
func TestUploadGoesOnThroughAProxy(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	film := func(n int) string {
		path := filepath.Join(dir, "n.mp4")
		if err := (testenv.Numbered{Width: 640, Height: 360, Frames: n, Rate: 30}).Make(path); err != nil {
			t.Fatal(err)
		}
		return path
	}
	page := "<html><h1>502 Bad Gateway</h1></html>"

	c := h.Coach(t)
	at := c.Attempt()
	s := h.Screen(t, browser, c)
	defer s.Done()
	hurry(s)
	pieces := answer(s, "*/api/uploads/*", http.MethodPatch, []int{502, 503, 504}, page, nil)
	s.Open(h.URL+"/attempt/"+at.ID.String(), "[data-testid=files]")
	s.See("[data-testid=files]").MustSetFiles(film(20))
	s.See("canvas[data-frame]")
	if clips := sheet(c, at.ID.String()).Clips; len(clips) != 1 || len(clips[0].Stamps) != 20 {
		t.Errorf("%d clips", len(clips))
	}
	if n := pieces.Load(); n < 4 {
		t.Errorf("%d pieces were sent, three of them in vain", n)
	}

	other := h.Screen(t, browser, c)
	defer other.Done()
	hurry(other)
	full := answer(other, "*/api/uploads/*", http.MethodPatch, slices.Repeat([]int{507}, 9), "no_room: The disk of the server is full.", nil)
	other.Open(h.URL+"/attempt/"+c.AttemptOf(at.AthleteID).ID.String(), "[data-testid=files]")
	late := film(21)
	other.See("[data-testid=files]").MustSetFiles(late)
	other.Says("The disk of the server is full.")
	if n := full.Load(); n != 1 {
		t.Errorf("a full disk was tried %d times", n)
	}
	other.See("[data-testid=files]").MustSetFiles(late)
	other.Until(func() bool { return full.Load() == 2 }, "what is dropped again is tried again")
}

// TestUploadOutlivesItsPage: a clip that was on its way when the page was closed goes on at the next
// visit, once, however many tabs are open; who signs out leaves none behind.
func TestUploadOutlivesItsPage(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "n.mp4")
	if err := (testenv.Numbered{Width: 640, Height: 360, Frames: 20, Rate: 30}).Make(path); err != nil {
		t.Fatal(err)
	}
	c := h.Coach(t)
	at := c.Attempt()
	s := h.Screen(t, browser, c)
	defer s.Done()
	kept := func(n int) {
		t.Helper()
		s.Until(func() bool {
			return s.MustEval(`() => caches.open("neo-unsent").then((c) => c.keys()).then((k) => k.length)`).Int() == n
		}, "%d files are kept", n)
	}
	begin := func(s *testenv.Screen) {
		answer(s, "*/api/uploads/*", http.MethodPatch, slices.Repeat([]int{503}, 999), "", nil)
		s.Open(h.URL+"/attempt/"+at.ID.String(), "[data-testid=files]")
		s.See("[data-testid=files]").MustSetFiles(path)
		s.Says("Connection lost; goes on by itself.")
	}
	// The tab whose pieces do not arrive is closed; two others open.
	lost := s.Another(h)
	s.MustNavigate(h.URL + "/mark.svg")
	begin(lost)
	kept(1)
	lost.Gone()
	other := s.Another(h)
	other.MustNavigate(h.URL + "/")
	s.Open(h.URL+"/attempt/"+at.ID.String(), "canvas[data-frame]")
	kept(0)
	other.Gone()
	if clips := sheet(c, at.ID.String()).Clips; len(clips) != 1 || len(clips[0].Stamps) != 20 {
		t.Errorf("%d clips", len(clips))
	}

	// The other pages wait, too, until their coach leaves.
	at = c.AttemptOf(at.AthleteID)
	begin(s)
	kept(1)
	s.See("[aria-label='Back to the queue']").MustClick()
	s.Button("sign out")
	s.See("input[type=password]")
	kept(0)
	s.Open(h.URL+"/", "input[type=password]")
	c.SignIn()
	if n := len(sheet(c, at.ID.String()).Clips); n != 0 {
		t.Errorf("%d clips of one who left", n)
	}
}

// TestOneChangeTheServerFailsOn is set aside in words; what comes behind it is saved.
func TestOneChangeTheServerFailsOn(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	hurry(s)
	broken := answer(s, "*/api/attempts/*/edits", http.MethodPost, slices.Repeat([]int{500}, 99), `{"kind":"internal","message":"Something went wrong on the server."}`, func(h *rod.Hijack) bool {
		return strings.Contains(h.Request.Body(), `"key":"set"`)
	})
	s.Bench(h, at.ID)
	s.Jump(5)
	s.Keyboard.MustType(input.KeyF) // set
	s.Says("kept here, not saved yet")
	s.Jump(9)
	s.Keyboard.MustType(input.KeyF) // first movement
	s.Says("fails on one of your changes, which is left out")
	s.Until(func() bool { return flags(c, at.ID, clip)["move"] == 9 }, "what came behind it is saved")
	if f := flags(c, at.ID, clip); f["set"] != 0 {
		t.Errorf("flags %v", f)
	}
	if n := broken.Load(); n != 4 {
		t.Errorf("it was tried %d times", n)
	}
	s.Bench(h, at.ID)
	if n := pending(s, at.ID); n != 0 {
		t.Errorf("the browser still keeps %d lists", n)
	}
}

// TestAVoiceWaitsInTheBrowser: a talk that cannot be stored, for whatever passes, outlives
// the tab and is stored at the next visit.
func TestAVoiceWaitsInTheBrowser(t *testing.T) {
	t.Parallel()
	for _, status := range []struct {
		code int
		body string
	}{
		{500, `{"kind":"internal","message":"Something went wrong on the server."}`},
		{502, "<html>Bad Gateway</html>"},
		{507, `{"kind":"no_room","message":"The disk of the server is full."}`},
		{429, `{"kind":"too_many","message":"That was often."}`},
		{401, `{"kind":"signed_out","message":"Sign in first."}`},
	} {
		t.Run(http.StatusText(status.code), func(t *testing.T) {
			c, at, _ := worked(t, h)
			s := h.Screen(t, browser, c)
			defer s.Done()
			answer(s, "*/api/attempts/*/chapters", http.MethodPost, []int{status.code}, status.body, nil)
			s.Bench(h, at.ID)
			s.Keyboard.MustType(input.KeyZ)
			talks(s, "talking")
			s.Jump(6)
			pause(s, 400)
			s.Keyboard.MustType(input.KeyZ)
			s.Until(func() bool {
				return s.MustEval(`async () => { const db = await new Promise(ok => { const r = indexedDB.open("neo-talk"); r.onsuccess = () => ok(r.result); });
					const n = db.objectStoreNames.contains("waiting") ? await new Promise(ok => { const r = db.transaction("waiting").objectStore("waiting").count(); r.onsuccess = () => ok(r.result); }) : 0; db.close(); return n }`).Int() == 1
			}, "the browser holds it")
			next := s.Another(h)
			defer next.Done()
			s.Gone()
			next.Bench(h, at.ID)
			next.Says("was kept in this browser")
			next.Button("^try again$")
			next.Until(func() bool {
				var list []struct{ Seconds float64 }
				c.Do("GET", "/api/attempts/"+at.ID.String()+"/chapters", nil, 200, &list)
				return len(list) == 1 && list[0].Seconds > 0.2
			}, "it is stored")
		})
	}
}

// pending counts the lists of changes of an attempt that the browser keeps.
func pending(s *testenv.Screen, attempt uuid.UUID) int {
	return s.MustEval(`p => Object.keys(localStorage).filter(k => k.startsWith(p)).length`, "neo.pending."+attempt.String()).Int()
}

// TestTabsKeepTheirOwn: two tabs work while the server is away; neither takes the other's
// changes along, and those of a tab that was closed are saved by the next visit.
func TestTabsKeepTheirOwn(t *testing.T) {
	t.Parallel()
	h := h.Door(t)
	c, at, clip := worked(t, h)
	one := h.Screen(t, browser, c)
	defer one.Done()
	one.Bench(h, at.ID)
	two := one.Another(h)
	defer two.Done()
	two.Bench(h, at.ID)
	h.Cut()
	one.Jump(5)
	one.Keyboard.MustType(input.KeyF) // set
	one.Says("kept here, not saved yet")
	two.Jump(9)
	two.See("[data-position=move]")
	two.Keyboard.MustType(input.KeyF) // set, too: this tab does not know
	two.Says("kept here, not saved yet")
	two.Jump(12)
	two.Keyboard.MustType(input.KeyF) // first movement
	if n := pending(two, at.ID); n != 2 {
		t.Errorf("%d lists are kept for two tabs", n)
	}
	one.Gone()
	h.Restart()
	two.Until(func() bool { f := flags(c, at.ID, clip); return f["set"] == 9 && f["move"] == 12 }, "the second tab saves its own")
	if strings.Contains(two.Text(), "colleague") {
		t.Error("it is told that somebody else worked")
	}
	// The first one's set is late: what was saved since stays, and it is told.
	three := two.Another(h)
	defer three.Done()
	three.Bench(h, at.ID)
	three.Says("1 of the changes that were kept in this browser touched the same things and gave way")
	if f := flags(c, at.ID, clip); f["set"] != 9 || f["move"] != 12 {
		t.Errorf("flags %v", f)
	}
	if n := pending(three, at.ID); n != 0 {
		t.Errorf("%d lists are left", n)
	}
}

// TestDamagedStorage: what a browser keeps may be damaged; the screens come all the same.
func TestDamagedStorage(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL, "[data-attempt]")
	s.MustEval(`id => { for (const k of ["neo.staves", "neo.queue", "neo.guide", "neo.settings", "neo.pending." + id, "neo.pending." + id + ".x", "neo.session." + id]) localStorage.setItem(k, "{not json") }`, at.ID.String())
	s.Bench(h, at.ID)
	s.Open(h.URL, "[data-attempt]")
	s.MustEval(`() => { localStorage.setItem("neo.staves", "7"); localStorage.setItem("neo.queue", "[1]") }`)
	s.Bench(h, at.ID)
	s.Open(h.URL, "[data-attempt]")
}

// TestAMistakeStaysInItsPart: a part of a page that throws says so; the rest goes on.
func TestAMistakeStaysInItsPart(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Gone() // the page is made to throw
	s.Bench(h, at.ID)
	s.Button("^Numbers")
	s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() }, "the core is there")
	// The core fails at its next answer.
	s.MustEval(`() => { window.neokinema.core.evaluate = () => { throw new Error("out of order") } }`)
	s.Jump(5)
	s.Keyboard.MustType(input.KeyF)
	s.Says("The numbers cannot be computed anew: out of order")
	s.Until(func() bool { return flags(c, at.ID, clip)["set"] == 5 }, "the flag is saved all the same")
	// A panel that throws while it draws.
	s.MustEval(`() => { window.neokinema.core.rates = () => { throw new Error("no rates") } }`)
	s.Button("^Clip")
	s.See("[data-testid=broken]")
	s.Says("This panel cannot be shown: no rates")
	s.Button("^What if")
	s.Until(func() bool { return !s.MustHas("[data-testid=broken]") }, "another panel is shown")
	s.See("canvas[data-frame]")
}

// TestLeavingStopsWhatRuns: a point that is followed through the clip is given up when the
// panel is left.
func TestLeavingStopsWhatRuns(t *testing.T) {
	t.Parallel()
	_, s, _, _, truth := run(t, "pim shot.mp4", nil)
	defer s.Done()
	asked, end := make(chan struct{}, 1), make(chan struct{})
	router := s.HijackRequests()
	router.MustAdd("*/follow", func(*rod.Hijack) { // the server takes its time
		asked <- struct{}{}
		<-end
	})
	go router.Run()
	defer func() { close(end); _ = router.Stop() }()
	var look atomic.Value
	var given atomic.Bool
	go s.EachEvent(func(e *proto.NetworkRequestWillBeSent) {
		if strings.HasSuffix(e.Request.URL, "/follow") {
			look.Store(e.RequestID)
		}
	}, func(e *proto.NetworkLoadingFailed) {
		if e.RequestID == look.Load() && e.Canceled {
			given.Store(true)
		}
	})()
	s.Keyboard.MustType(input.KeyT)
	s.Jump(30)
	s.Button("^spot a$")
	s.See("[data-testid=follow]").MustClick()
	s.See("[data-testid=tool]")
	spot := truth.Frames[30].Landmarks["right_ankle"].Image
	s.Place(spot[0], spot[1])
	<-asked
	if given.Load() {
		t.Fatal("given up before anything was left")
	}
	s.Button("^Numbers")
	s.Until(given.Load, "the look is given up")
}

// TestUndoWhileSaving: what is undone before it is saved is undone all the same: here when the
// server was never asked for it, else as soon as it has been.
func TestUndoWhileSaving(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	hurry(s)
	s.Bench(h, at.ID)
	shown := func(n int) {
		t.Helper()
		s.Until(func() bool { return s.MustEval(`() => document.querySelectorAll("[data-flag]").length`).Int() == n }, "%d flags are shown", n)
	}
	s.Network(0, 0)
	for i, frame := range []int{5, 9} {
		s.Jump(frame)
		s.Keyboard.MustType(input.KeyF)
		shown(i + 1)
	}
	s.Until(func() bool { return *s.See("[data-testid=saving]").MustAttribute("data-state") == "kept" }, "they are kept here")
	s.Keyboard.MustType(input.KeyU)
	shown(1)
	s.Keyboard.MustType(input.KeyU)
	s.Network(-1, 0)
	shown(0)
	s.Until(func() bool { return *s.See("[data-testid=saving]").MustAttribute("data-state") == "saved" }, "all is saved")
	if f := flags(c, at.ID, clip); len(f) != 0 {
		t.Errorf("saved are the flags %v", f)
	}
}

// TestTabsHearOfChanges: what changes elsewhere comes to all tabs without their asking, over one
// stream; when the tab that listens goes, another takes its place.
func TestTabsHearOfChanges(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	one := h.Screen(t, browser, c)
	one.Open(h.URL, "[data-attempt][data-state=new]")
	two := one.Another(h)
	defer two.Done()
	two.Open(h.URL, "[data-attempt][data-state=new]")
	state := func(to string) {
		c.Do("PUT", "/api/attempts/"+at.ID.String()+"/state", map[string]string{"state": to}, http.StatusOK, nil)
	}
	state("in_work")
	for _, s := range []*testenv.Screen{one, two} {
		s.See("[data-attempt][data-state=in_work]")
	}
	one.Done()
	two.Until(func() bool {
		return two.MustEval(`() => navigator.locks.query().then((l) => l.held.some((x) => x.name === "neo.changes"))`).Bool()
	}, "the second tab listens")
	state("ready")
	two.See("[data-attempt][data-state=ready]")
}

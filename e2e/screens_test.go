package e2e

import (
	"math"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"neokinema/core/track"
	"neokinema/internal/app"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
)

// TestFirstEvening: a team that is empty is told what to film and has a clip to try, and the
// strip above the panels leads from that clip to a page that can be sent.
func TestFirstEvening(t *testing.T) {
	t.Parallel()
	own, end := testenv.Start(func(c *app.Config) { c.Library = testenv.Library() })
	defer end()
	coach := own.Coach(t)
	s := own.Screen(t, browser, coach)
	defer s.Done()
	// The list tells of the sample before the answer that it was added is there; that takes away
	// the screen whose button added it, which still leads to the Bench.
	s.MustEvalOnNewDocument(`const ask = window.fetch; window.fetch = async (...a) => {
		const got = await ask(...a);
		if (got.url.endsWith("/api/sample")) await new Promise((f) => addEventListener("listed", f));
		return got;
	}`)
	s.Open(own.URL, "[data-testid=first-evening]")
	s.Says("What ± means")
	s.Button("^Hammer$")
	s.See("[data-standing=hammer]")
	s.Says("From behind the cage")
	s.See("[data-testid=try-sample]").MustClick()
	s.Says("A clip to try")
	s.MustEval(`() => dispatchEvent(new Event("listed"))`)
	s.See("canvas[data-frame]")
	stage := func() string { return *s.See("[data-testid=path]").MustAttribute("data-stage") }
	s.Drafted(func() bool { return stage() == "check" || stage() == "findings" || stage() == "cue" }, "the sample is drafted and read")
	// Each Enter does what is next; the cue is chosen by hand.
	if stage() == "check" {
		s.Keyboard.MustType(input.Enter)
		s.See("[data-testid=question]")
		for stage() == "check" {
			q := *s.See("[data-testid=question]").MustAttribute("data-question")
			s.Keyboard.MustType(input.Digit8) // later
			s.Until(func() bool {
				return s.MustEval(`(q) => document.querySelector("[data-testid=question]")?.dataset.question !== q`, q).Bool()
			}, "question %s is put off", q)
		}
	}
	s.Keyboard.MustType(input.Enter)
	s.Until(func() bool { return s.MustHas("[role=tab][aria-selected=true][title^=Findings]") }, "the findings are open")
	if got := stage(); got != "findings" && got != "cue" {
		t.Errorf("stage %s", got)
	}
	// Numbers explain their doubt.
	s.Keyboard.MustType(input.KeyQ)
	s.See("[data-testid=what-is-doubt]").MustClick()
	s.Says("in 95 of 100 such readings")
}

// TestSettingsOfOneBrowser: numbers and days as they are written where somebody lives, lengths in
// feet, letters that are no keys and keys of one's own.
func TestSettingsOfOneBrowser(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/settings", "[data-testid=settings]")
	choose := func(name, value string) {
		t.Helper()
		s.MustEval(`(name, value) => { const e = document.querySelector("select[name=" + name + "]"); Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(e, value); e.dispatchEvent(new Event("change", { bubbles: true })); }`, name, value)
	}
	s.Says("a step of 2.35")
	choose("region", "DE")
	s.Says("a step of 2,35")
	choose("units", "feet")
	choose("theme", "light")
	s.Until(func() bool { return s.MustEval(`() => document.documentElement.className === "light"`).Bool() }, "the light ground")
	s.See("[data-key=f]").MustFocus()
	s.Keyboard.MustType(input.KeyG)
	s.Says("G is there twice")
	s.Keyboard.MustType(input.Backslash)
	s.Until(func() bool { return !s.MustEval(`() => document.body.innerText.includes("is there twice")`).Bool() }, "the other key is free")

	s.Bench(h, at.ID)
	flagged := func() int { return s.MustEval(`() => document.querySelectorAll("[data-flag]").length`).Int() }
	s.Jump(20)
	s.Keyboard.MustType(input.KeyF) // moved away
	s.Keyboard.MustType(input.Backslash)
	s.Until(func() bool { return flagged() == 1 }, "the flag is set by the coach's own key")
	s.Settings(map[string]any{"letters": false})
	s.Bench(h, at.ID)
	s.Until(func() bool { return flagged() == 1 }, "the flag is there")
	s.Jump(30)
	s.Keyboard.MustType(input.KeyF)
	s.Keyboard.MustType(input.ArrowRight)
	s.Until(func() bool { return s.Frame() == 31 }, "arrows stay keys")
	if n := flagged(); n != 1 {
		t.Errorf("%d flags: a letter that is no key set one", n)
	}
}

// TestPointsByKeyboard: who has no pointer places a point with arrows and Enter.
func TestPointsByKeyboard(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	s.Jump(20)
	s.Keyboard.MustType(input.KeyF)
	s.See("[data-flag]")
	s.Keyboard.MustType(input.KeyP)
	s.See("[data-testid=ask]")
	stage := s.See("[data-testid=stage]")
	stage.MustFocus()
	if d := *stage.MustAttribute("aria-description"); !strings.Contains(d, "Enter places") {
		t.Errorf("the stage says %q", d)
	}
	s.Keyboard.MustType(input.ArrowRight)
	s.See("[data-testid=crosshair]")
	for range 3 {
		s.Keyboard.MustType(input.ArrowRight)
	}
	for range 2 {
		s.Keyboard.MustType(input.ArrowUp)
	}
	if f := s.Frame(); f != 20 {
		t.Errorf("arrows that move the crosshair went to frame %d", f)
	}
	s.Keyboard.MustType(input.Enter)
	var k float64
	saved(s)
	k = s.MustEval(`() => Number(document.querySelector("[data-testid=stage]").dataset.look.split(" ")[0])`).Num()
	placed := 0
	for _, p := range sheet(c, at.ID.String()).Work.Clips[clip].Points {
		q, ok := p.At(20)
		if !ok || p.SourceAt(20) != track.Hand {
			continue
		}
		placed++
		if math.Abs(q.X-(320+4*12/k)) > 2 || math.Abs(q.Y-(180-2*12/k)) > 2 {
			t.Errorf("placed at %.1f %.1f", q.X, q.Y)
		}
	}
	if placed != 1 {
		t.Errorf("%d points were placed", placed)
	}
}

// TestOpensWithoutAServer: with its service worker the application opens when the server cannot
// be reached, with the attempt that was opened last, and its clip steps.
func TestOpensWithoutAServer(t *testing.T) {
	t.Parallel()
	own, end := testenv.Start(func(*app.Config) {})
	stopped := false
	defer func() {
		if !stopped {
			end()
		}
	}()
	c, at, _ := worked(t, own)
	s := own.Screen(t, browser, c)
	if err := (proto.NetworkSetBypassServiceWorker{Bypass: false}).Call(s); err != nil {
		t.Fatal(err)
	}
	s.Open(own.URL+"/", "[data-attempt]")
	s.Until(func() bool { return s.MustEval(`() => !!navigator.serviceWorker.controller`).Bool() }, "the worker is there")
	if kind := s.MustEval(`() => fetch(document.querySelector("link[rel=manifest]").href).then(async (r) => r.headers.get("Content-Type") + " " + (await r.json()).icons.length)`).Str(); kind != "application/manifest+json 3" {
		t.Errorf("the manifest is %s", kind)
	}
	s.Bench(own, at.ID)
	s.Jump(20)
	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-clips").then((c) => c.keys()).then((k) => k.length)`).Int() == 1
	}, "the clip is kept")
	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-shell").then((c) => c.keys()).then((k) => k.some((r) => /core~/.test(r.url)) && k.some((r) => /assets\/index/.test(r.url)))`).Bool()
	}, "the application is kept")
	s.MustNavigate("about:blank")
	end()
	stopped = true
	s.MustNavigate(own.URL + "/attempt/" + at.ID.String())
	s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() && s.Frame() >= 0 }, "the Bench opens without a server")
	s.Jump(41)
	s.Until(func() bool { return s.StageNumber() == 41 }, "frame 41 is shown")
}

// TestWhatIsTakenAwayComesBack: a team is searched by name, year and guardian; a phrase and a note
// that were taken away by mistake come back, and are gone when nobody calls them.
func TestWhatIsTakenAwayComesBack(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var first store.Athlete
	for i, name := range []string{"Ada Alm", "Bo Berg", "Cy Dahl", "Di Ek", "El Falk", "Fi Gran", "Go Holm", "Hu Ivar", "Io Juhl"} {
		a := testenv.Athlete(name)
		a.Born = 1990 + i
		var made store.Athlete
		c.Do("POST", "/api/athletes", a, http.StatusOK, &made)
		if i == 0 {
			first = made
		}
	}
	for _, says := range []string{"Tall and loose", "Run through it"} {
		c.Do("PUT", "/api/phrases", map[string]any{"says": says, "keep": true}, http.StatusNoContent, nil)
	}
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/team", "[data-testid=accounts]")
	rows := func() int {
		return s.MustEval(`() => document.querySelectorAll("main [role=listitem] a[href^='/athlete/']").length`).Int()
	}
	s.Until(func() bool { return rows() == 9 }, "all nine are there")
	for find, n := range map[string]int{"falk": 1, "199": 9, "1992 cy": 1, "nobody": 0} {
		s.See("input[name=find]").MustSelectAllText().MustInput(find)
		s.Until(func() bool { return rows() == n }, "%q finds %d", find, n)
	}
	phrases := func() int {
		return s.MustEval(`() => document.querySelectorAll("[aria-label='Remove this phrase']").length`).Int()
	}
	s.See("[aria-label='Remove this phrase']").MustClick()
	s.Says("Phrase removed")
	s.Until(func() bool { return phrases() == 1 }, "one phrase is left")
	s.See("[data-testid=undo] button").MustClick()
	s.Until(func() bool { return phrases() == 2 }, "it is back")

	s.Open(h.URL+"/athlete/"+first.ID.String(), "[data-testid=notes]")
	s.See("input[name=note]").MustInput("slept badly").MustType(input.Enter)
	s.See("[aria-label='Remove this note']").MustClick()
	s.Says("Note removed")
	// Who leaves the page has made up his mind.
	s.MustNavigate("about:blank")
	s.Open(h.URL+"/athlete/"+first.ID.String(), "[data-testid=notes]")
	s.Until(func() bool {
		var l struct {
			Notes []any `json:"notes"`
		}
		c.Do("GET", "/api/athletes/"+first.ID.String()+"/log", nil, http.StatusOK, &l)
		return len(l.Notes) == 0
	}, "the note is gone")
}

// TestLargerTexts: what is read grows, and where a hand points a pixel stays a pixel.
func TestLargerTexts(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	high := func() float64 {
		return s.MustEval(`() => document.querySelector("[data-position]").getBoundingClientRect().height`).Num()
	}
	s.See("[data-position]")
	usual := high()
	s.Settings(map[string]any{"text": 1.3})
	s.Bench(h, at.ID)
	s.See("[data-position]")
	if k := high() / usual; math.Abs(k-1.3) > 0.03 {
		t.Errorf("what is read is %.2f times as high, want 1.3", k)
	}
	for _, what := range []string{"stage", "score"} {
		if k := s.MustEval(`(id) => { const e = document.querySelector("[data-testid=" + id + "]"); return e.getBoundingClientRect().width / e.offsetWidth; }`, what).Num(); math.Abs(k-1) > 1e-3 {
			t.Errorf("the %s is drawn %.3f times as large as it reckons", what, k)
		}
	}
	if n := s.MustEval(`() => document.documentElement.scrollHeight - innerHeight`).Int(); n > 0 {
		t.Errorf("the Bench is %d px too high", n)
	}
	s.Jump(20)
	s.Keyboard.MustType(input.KeyF)
	s.See("[data-flag]")
	s.Keyboard.MustType(input.KeyP)
	s.See("[data-testid=ask]")
	s.Place(400, 120)
	saved(s)
	for id, p := range sheet(c, at.ID.String()).Work.Clips[clip].Points {
		if q, ok := p.At(20); !ok || math.Hypot(q.X-400, q.Y-120) > 1 {
			t.Errorf("%s lies at %.1f %.1f", id, q.X, q.Y)
		}
	}
}

// TestForcedColours: where the system sets the colours, what is chosen is still told from the
// rest, and the signs of verdicts keep theirs.
func TestForcedColours(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	forced := []*proto.EmulationMediaFeature{{Name: "forced-colors", Value: "active"}, {Name: "prefers-color-scheme", Value: "dark"}}
	if err := (proto.EmulationSetEmulatedMedia{Features: forced}).Call(s); err != nil {
		t.Fatal(err)
	}
	s.Bench(h, at.ID)
	s.See("[role=tab][aria-selected=true]")
	outline := func(selector string) string {
		return s.MustEval(`(q) => { const o = getComputedStyle(document.querySelector(q)); return o.outlineStyle + " " + o.outlineWidth; }`, selector).Str()
	}
	for chosen, other := range map[string]string{
		"[role=tab][aria-selected=true]":     "[role=tab][aria-selected=false]",
		"[data-position][aria-pressed=true]": "[data-position][aria-pressed=false]",
	} {
		s.See(chosen)
		if got := outline(chosen); got != "solid 2px" {
			t.Errorf("%s has the outline %q", chosen, got)
		}
		if got := outline(other); got == "solid 2px" {
			t.Errorf("%s looks chosen", other)
		}
	}
	s.Open(h.URL+"/", "[data-attempt]")
	if n := s.MustEval(`() => new Set([...document.querySelectorAll(".dot")].map((d) => getComputedStyle(d).backgroundColor)).size`).Int(); n < 3 {
		t.Errorf("the states have %d colours", n)
	}
}

// TestKeptForOneCoach: what a browser keeps of one coach is gone when another signs in there, even
// if the first never signed out.
func TestKeptForOneCoach(t *testing.T) {
	t.Parallel()
	first, second := h.Coach(t), h.Coach(t)
	s := h.Screen(t, browser, first)
	defer s.Done()
	kept := func() int {
		return s.MustEval(`() => caches.open("neo-seen").then((c) => c.keys()).then((k) => k.length)`).Int()
	}
	s.Open(h.URL+"/", "[data-testid=first-evening]")
	s.MustEval(`() => caches.open("neo-seen").then((c) => c.put("/api/queue", new Response("{}")))`)
	s.Open(h.URL+"/", "[data-testid=first-evening]")
	if n := kept(); n != 1 {
		t.Errorf("the same coach finds %d answers", n)
	}
	u, err := url.Parse(h.URL)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range second.HTTP.Jar.Cookies(u) {
		s.MustSetCookies(&proto.NetworkCookieParam{Name: c.Name, Value: c.Value, URL: h.URL})
	}
	s.Open(h.URL+"/", "[data-testid=first-evening]")
	if n := kept(); n != 0 {
		t.Errorf("another coach finds %d answers of the first", n)
	}
}

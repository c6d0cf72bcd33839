package testenv

import (
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// Place is a screen of the application, and how one gets to it from its address.
type Place struct {
	Name, Path, Sign string // Sign is what tells that it is there
	Keyboard         bool   // it is about keys, and not offered where there is none
	Then             func(*Screen)
}

// press types keys one after the other and waits for what they bring.
func press(sign string, keys ...input.Key) func(*Screen) {
	return func(s *Screen) {
		for _, k := range keys {
			s.Keyboard.MustType(k)
		}
		s.See(sign)
	}
}

// Visit opens a place.
func (s *Screen) Visit(url string, p Place) {
	s.T.Helper()
	s.Open(url+p.Path, p.Sign)
	if p.Then != nil {
		p.Then(s)
	}
}

// Club are the screens of a club that is at work.
func Club(attempt, athlete, other string) []Place {
	bench := "/attempt/" + attempt
	ready := "canvas[data-frame]"
	panel := func(name string, key input.Key) Place {
		return Place{Name: "Bench, " + name, Path: bench, Sign: ready, Then: press("[role=tab][aria-selected=true]", key)}
	}
	return []Place{
		{Name: "queue", Path: "/", Sign: "[data-attempt]"},
		{Name: "quick look", Path: "/", Sign: "[data-attempt]", Then: press("[data-glance]", input.Space)},
		{Name: "add an attempt", Path: "/", Sign: "[data-attempt]", Then: press("[role=dialog] [name=athlete]", input.KeyN)},
		panel("check", input.Comma), panel("numbers", input.KeyQ), panel("findings", input.KeyW), panel("what if", input.KeyE), panel("track", input.KeyT),
		panel("draw", input.KeyJ), panel("ground", input.KeyG), panel("clip", input.KeyC),
		{Name: "keys", Keyboard: true, Path: bench, Sign: ready, Then: func(s *Screen) { s.See("[data-testid=keys]").MustClick(); s.See("[role=dialog]") }},
		{Name: "what to hold it beside", Path: bench, Sign: ready, Then: press("[role=dialog] [data-testid=others]", input.KeyY)},
		{Name: "feedback", Path: bench + "/feedback", Sign: "[data-testid=paper]"},
		{Name: "athlete", Path: "/athlete/" + athlete, Sign: "main:not([data-testid=opening]) h1"},
		{Name: "team", Path: "/team", Sign: "[data-testid=accounts]"},
		{Name: "settings", Path: "/settings", Sign: "[data-testid=settings]"},
		{Name: "models", Path: "/models", Sign: "[data-testid=model]"},
		{Name: "model of the javelin", Path: "/models/javelin", Sign: "[data-testid=model]"},
		{Name: "side by side", Path: "/beside/" + attempt + "/" + other, Sign: "[data-side=first]"},
		{Name: "points beside others", Path: "/against/" + attempt, Sign: ready},
		{Name: "nothing there", Path: "/attempt/00000000-0000-0000-0000-000000000000", Sign: "[data-testid=opening] a"},
	}
}

// Small are the things to press on the screen that are under 44 px for a finger. A link within a
// line of text may be as high as the line.
func (s *Screen) Small() (out []string) {
	s.T.Helper()
	found := s.MustEval(`() => {
		const out = new Set();
		const label = (e) => (e.getAttribute("aria-label") || e.innerText || e.name || e.outerHTML).trim().slice(0, 40).replace(/\s+/g, " ");
		for (const e of document.querySelectorAll("button, a[href], input, select, textarea, summary, [role=button], [role=tab], [role=menuitem], [role=slider], [tabindex='0']")) {
			if (!e.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true }) || e.disabled || e.type === "hidden" || e.closest("[data-scroll], [inert]")) continue;
			let r = e.getBoundingClientRect();
			if (r.width < 2 || r.height < 2) continue; // seen through its label
			const inLine = e.matches("a[href]") && getComputedStyle(e).display === "inline" && e.parentElement.innerText.trim() !== e.innerText.trim();
			if (inLine) continue;
			const l = e.closest("label");
			if (l) r = l.getBoundingClientRect();
			// A link may be stretched over what it stands on.
			const after = getComputedStyle(e, "::after");
			if (after.position === "absolute" && after.content !== "none") r = e.offsetParent.closest("[role=listitem], li, tr")?.getBoundingClientRect() ?? e.offsetParent.getBoundingClientRect();
			if (r.width < 43.5 || r.height < 43.5) out.add(label(e) + " " + Math.round(r.width) + "x" + Math.round(r.height));
		}
		return [...out];
	}`)
	for _, v := range found.Arr() {
		out = append(out, v.Str())
	}
	return out
}

// Overflows are the things that stand beyond the right edge of a screen of that width, where
// nothing lets them be scrolled to.
func (s *Screen) Overflows(width int) (out []string) {
	s.T.Helper()
	found := s.MustEval(`(width) => {
		const out = [];
		const held = (e) => { for (let p = e.parentElement; p; p = p.parentElement) { const o = getComputedStyle(p).overflowX; if (p !== document.body && p !== document.documentElement && (o === "auto" || o === "scroll" || p.tagName === "svg" || p.matches("[data-testid=stage], [data-testid=still]"))) return true; } return false; };
		for (const e of document.body.querySelectorAll("*")) {
			const r = e.getBoundingClientRect();
			if (r.width < 3 || r.height < 3 || r.right <= width + 1 || !e.checkVisibility({ visibilityProperty: true, opacityProperty: true }) || held(e) || e.children.length > 3) continue;
			out.push((e.innerText || e.outerHTML).trim().slice(0, 40).replace(/\s+/g, " ") + " " + Math.round(r.right));
		}
		return out.slice(0, 12);
	}`, width)
	for _, v := range found.Arr() {
		out = append(out, v.Str())
	}
	return out
}

// Hand makes this a screen for fingers of some size.
func (s *Screen) Hand(width, height int) {
	s.T.Helper()
	s.MustSetViewport(width, height, 1, width < 1000)
	if err := (proto.EmulationSetTouchEmulationEnabled{Enabled: true}).Call(s); err != nil {
		s.T.Fatal(err)
	}
}

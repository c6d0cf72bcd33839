package testenv

import (
	"fmt"

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

// opened presses something and waits until what it opens has grown into its place.
func opened(press, sign string) func(*Screen) {
	return func(s *Screen) {
		s.See(press).MustClick()
		s.See(sign)
		s.Until(func() bool {
			return s.MustEval(`() => document.getAnimations().every((a) => a.playState !== "running" || a.effect?.getComputedTiming().iterations === Infinity)`).Bool()
		}, "%s stands still", sign)
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

// Club are the screens of a club that is at work; the jumper is an athlete on a ladder of technique.
func Club(attempt, athlete, other, jumper string) []Place {
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
		{Name: "workshop", Path: "/workshop?event=javelin&q=flight", Sign: "[data-testid=says]"},
		{Name: "workshop of an athlete", Path: "/workshop/" + athlete + "?event=sprint-start&q=blocks", Sign: "[data-testid=says]"},
		{Name: "plan at the track", Path: "/workshop?q=high-plan", Sign: "[data-testid=says]", Then: func(s *Screen) { s.See("[data-testid=to-the-field]").MustClick(); s.See("[data-testid=field]") }},
		{Name: "season", Path: "/season/" + athlete, Sign: "[data-testid=year]"},
		{Name: "season, what is entered", Path: "/season/" + athlete, Sign: "[data-testid=year]", Then: opened("[data-testid=to-setup]", "[data-testid=setup]")},
		{Name: "season, rules", Path: "/season/" + athlete, Sign: "[data-testid=year]", Then: opened("[data-testid=to-rules]", "[data-testid=rules]")},
		{Name: "season, way back", Path: "/season/" + athlete, Sign: "[data-testid=year]", Then: opened("[data-testid=to-back]", "[data-testid=way-back]")},
		{Name: "season, its calendar", Path: "/season/" + athlete, Sign: "[data-testid=year]", Then: opened("[data-testid=to-calendar]", "[data-testid=calendar]")},
		{Name: "drills", Path: "/drills?event=shot&level=new", Sign: "[data-testid=drills]"},
		{Name: "a drill", Path: "/drills?event=shot&level=new&drill=glides-under-a-low-line-no-shot", Sign: "[data-testid=drill]"},
		{Name: "a drill of one's own", Path: "/drills?new=1&event=shot", Sign: "[data-testid=own-drill-form]"},
		{Name: "own drills", Path: "/drills?whose=own", Sign: "[data-testid=drills] [data-drill]"},
		{Name: "a ladder of technique", Path: "/athlete/" + jumper, Sign: "[data-ladder] [data-rung]"},
		{Name: "Bench, as it should be", Path: bench, Sign: ready, Then: func(s *Screen) {
			press("[data-testid=to-ghost]", input.KeyW)(s)
			opened("[data-testid=to-ghost]", "[data-testid=ghost]")(s)
		}},
		{Name: "eye training", Path: "/eye", Sign: "[data-testid=eye-start]"},
		{Name: "squad's week", Path: "/squad", Sign: "[data-testid=squad]"},
		{Name: "at the track, before it begins", Path: "/track", Sign: "[data-testid=start]"},
		{Name: "at the track", Path: "/track", Sign: "[data-testid=start]", Then: func(s *Screen) {
			s.See("[data-person]").MustClick()
			s.See("[data-testid=safe]").MustClick()
			s.See("[data-testid=begin]:not([disabled])").MustClick()
			s.See("[data-testid=turn]")
			s.MustEval(`() => localStorage.removeItem("neo.track.here." + new Date().toLocaleDateString("sv"))`)
		}},
		{Name: "models", Path: "/models", Sign: "[data-testid=model]"},
		{Name: "model of the javelin", Path: "/models/javelin", Sign: "[data-testid=model]"},
		{Name: "side by side", Path: "/beside/" + attempt + "/" + other, Sign: "[data-side=first]"},
		{Name: "points beside others", Path: "/against/" + attempt, Sign: ready},
		{Name: "nothing there", Path: "/attempt/00000000-0000-0000-0000-000000000000", Sign: "[data-testid=opening] a"},
	}
}

// Small are the things to press on the screen that are under 44 px for a finger. A link within a
// line of text may be as high as the line, and what is drawn in a picture has its equal in the lists
// beside it.
func (s *Screen) Small() (out []string) {
	s.T.Helper()
	found := s.MustEval(`() => {
		const out = new Set();
		const label = (e) => (e.getAttribute("aria-label") || e.innerText || e.name || e.outerHTML).trim().slice(0, 40).replace(/\s+/g, " ");
		for (const e of document.querySelectorAll("button, a[href], input, select, textarea, summary, [role=button], [role=tab], [role=menuitem], [role=slider], [tabindex='0']")) {
			if (!e.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true }) || e.disabled || e.type === "hidden" || e.closest("[inert], svg")) continue;
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

// Unreachable are the things on the screen that a pointer can press and no key reaches: they look
// pressed by a pointer, and neither they nor what they stand in or hold takes the focus.
func (s *Screen) Unreachable() (out []string) {
	s.T.Helper()
	found := s.MustEval(`() => {
		const reached = "a[href], button, input, select, textarea, summary, label, [tabindex='0'], [role=tab], [role=menuitem], [role=option], [role=radio], [role=treeitem]";
		const out = new Set();
		for (const e of document.body.querySelectorAll("*")) {
			if (getComputedStyle(e).cursor !== "pointer" || e.parentElement && getComputedStyle(e.parentElement).cursor === "pointer") continue;
			if (!e.checkVisibility({ visibilityProperty: true, opacityProperty: true }) || e.closest("[inert], [aria-hidden=true]")) continue;
			const held = e.closest(reached) ?? e.querySelector(reached);
			if (held && (held.tabIndex >= 0 || held.matches("label, [role=tab], [role=menuitem], [role=option], [role=radio]") || held.disabled)) continue;
			out.add((e.getAttribute("aria-label") || e.textContent || e.outerHTML).trim().slice(0, 50));
		}
		return [...out];
	}`)
	for _, v := range found.Arr() {
		out = append(out, v.Str())
	}
	return out
}

// Faults are what a round through places found wrong for who has no pointer, or only fingers.
type Faults struct {
	Unreachable, Small, Wide []string
	Seen                     int
}

// Round goes through places as a keyboard needs them, and then on screens of some sizes for
// fingers: a tablet both ways and a phone.
func (s *Screen) Round(url string, list []Place) (f Faults) {
	s.T.Helper()
	add := func(to *[]string, where string, found []string) {
		for _, x := range found {
			*to = append(*to, where+": "+x)
		}
	}
	// Nothing that grows into its place is measured on its way.
	if err := (proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}).Call(s); err != nil {
		s.T.Fatal(err)
	}
	for _, p := range list {
		s.Visit(url, p)
		add(&f.Unreachable, p.Name, s.Unreachable())
		add(&f.Wide, p.Name+" 1280", s.Overflows(1280))
	}
	for _, size := range [][2]int{{1024, 768}, {768, 1024}, {390, 844}} {
		s.Hand(size[0], size[1])
		for _, p := range list {
			if p.Keyboard {
				continue
			}
			s.Visit(url, p)
			f.Seen++
			where := fmt.Sprintf("%s %dx%d", p.Name, size[0], size[1])
			add(&f.Small, where, s.Small())
			add(&f.Wide, where, s.Overflows(size[0]))
		}
	}
	return f
}

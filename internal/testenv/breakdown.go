package testenv

import (
	"net/http"
	"slices"
	"strings"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"

	"neokinema/internal/workspace"
)

// hand counts what a hand does: key presses and clicks.
type hand struct {
	*Screen
	acts int
}

func (h *hand) press(keys ...input.Key) {
	h.T.Helper()
	for _, k := range keys {
		h.Keyboard.MustType(k)
		h.acts++
	}
}

func (h *hand) click(selector string) {
	h.T.Helper()
	h.See(selector).MustClick()
	h.acts++
}

// Breakdown takes a drafted clip from the queue to the feedback that was sent, as a
// coach does: watch, look at the score and at what was found, correct a flag, accept
// the first cause, pick its cue, write a word, look at the page, send the link. It
// gives how many key presses and clicks that took (letters of the word not counted)
// and the link.
func (s *Screen) Breakdown(home *House, attempt uuid.UUID, fault string) (acts int, link string) {
	s.T.Helper()
	h := &hand{Screen: s}
	s.Open(home.URL+"/", "[data-attempt='"+attempt.String()+"']")
	// The quick look, then into it.
	h.press(input.Space)
	s.See("[data-glance='" + attempt.String() + "']")
	s.Until(func() bool { return *s.See("[data-glance]").MustAttribute("data-moments") != "0" }, "the quick look shows key positions")
	h.press(input.Enter)
	s.See("canvas[data-frame]")
	s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() }, "the core is loaded")
	// Full speed, then slow.
	h.press(input.Space)
	s.Until(func() bool { return s.Frame() > 5 }, "it plays")
	// On a slow machine it may have come to its end meanwhile, and stands already.
	if s.MustEval(`() => window.neokinema.player.get().playing`).Bool() {
		h.press(input.Space)
	}
	h.press(input.Digit3, input.Space)
	at := s.Frame()
	s.Until(func() bool { return s.Frame() != at }, "it plays slowly")
	h.press(input.Space)
	// From flag to flag, one frame to and fro at one of them, and the flag set there.
	for range 5 {
		h.press(input.KeyN)
	}
	h.press(input.ArrowRight, input.ArrowLeft)
	// What was found: the first cause, its cue.
	h.press(input.KeyW)
	s.See("[data-testid=causes], [data-evidence]")
	h.press(input.KeyA)
	h.click("[data-cue='" + fault + "-0']")
	s.See("[data-advice=main]")
	h.click("[data-testid=note] textarea")
	s.Keyboard.MustType([]input.Key("Good.")...)
	h.press(input.Tab)
	s.Until(func() bool { return s.See("[data-testid=saving]").MustText() == "saved" }, "it is saved")
	// The page and the link.
	s.MustEval(`() => document.activeElement.blur()`)
	h.press(input.KeyO)
	s.See("[data-testid=paper]")
	s.Says("Good.")
	h.press(input.KeyL)
	link = *s.See("[data-testid=link]").MustAttribute("value")
	return h.acts, link
}

// Drafted gives an attempt all its points at once, as a draft leaves them.
func (c *Client) Drafted(attempt uuid.UUID, edits []workspace.Edit) {
	c.T.Helper()
	c.Do("POST", "/api/attempts/"+attempt.String()+"/edits", workspace.Edits{Edits: edits}, http.StatusOK, nil)
}

// PathOf is the path of a link, without the host it was made on.
func PathOf(link string) string {
	_, path, _ := strings.Cut(strings.TrimPrefix(strings.TrimPrefix(link, "http://"), "https://"), "/")
	return "/" + path
}

// FirstClip is the first evening of an empty team: a first attempt with its athlete and clip, and
// from there what the strip asks for, until there is a link for the athlete. It gives how many key
// presses, clicks, filled fields and chosen files that took. The house must draft.
func (s *Screen) FirstClip(home *House, file string) (acts int) {
	s.T.Helper()
	h := &hand{Screen: s}
	s.Open(home.URL+"/", "[data-testid=first-evening]")
	button := func(pattern string) {
		s.Button(pattern)
		h.acts++
	}
	button("^Add the first attempt$")
	s.See("input[name=name]").MustInput("Runa Østby")
	h.acts++
	button("^Add athlete$")
	s.See("[data-testid=files]").MustSetFiles(file)
	h.acts++
	button("Add and send 1 file")
	s.See("canvas[data-frame]")
	stage := func() string { return *s.See("[data-testid=path]").MustAttribute("data-stage") }
	reaches := func(stages ...string) {
		s.T.Helper()
		s.Drafted(func() bool { return slices.Contains(stages, stage()) }, "the attempt comes to one of %v", stages)
	}
	reaches("rate", "check", "findings", "cue")
	if stage() == "rate" {
		h.press(input.Enter)
		h.click("[data-rate='240']")
		s.Says("240 a second (your answer)")
		if stage() == "rate" { // nor is it known which way she runs
			button("right →")
		}
		reaches("check", "findings", "cue")
	}
	if stage() == "check" {
		h.press(input.Enter)
		for stage() == "check" {
			q := *s.See("[data-testid=question]").MustAttribute("data-question")
			if s.MustHas("[data-testid=question] [data-option='0']") {
				h.press(input.Digit5)
			} else {
				h.press(input.Digit8)
			}
			s.Until(func() bool {
				return stage() != "check" || s.MustEval(`(q) => document.querySelector("[data-testid=question]")?.dataset.question !== q`, q).Bool()
			}, "question %s is answered", q)
		}
	}
	reaches("findings", "cue")
	h.press(input.Enter)
	// What is certain is accepted; where nothing is, the coach confirms what is likely.
	if s.See("[data-testid=likely], [data-testid=causes], [data-evidence]"); s.MustHas("[data-evidence]") {
		h.press(input.KeyA)
	} else {
		button("^Confirm$")
	}
	h.click("[data-cue]")
	s.See("[data-advice=main]")
	reaches("send")
	s.MustEval(`() => document.activeElement.blur()`)
	h.press(input.Enter)
	s.See("[data-testid=paper]")
	h.press(input.KeyL)
	s.See("[data-testid=link]")
	return h.acts
}

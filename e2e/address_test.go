package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// A reload, a step back and a link come to the frame and the panel where the coach was, and tabs
// of the browser can be told apart.
func TestTheAddressComesBack(t *testing.T) {
	t.Parallel()
	c, at, _ := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	s.Jump(17)
	s.Keyboard.MustType(input.KeyC)
	where := func() string { return s.MustEval(`() => location.pathname + location.search`).Str() }
	there := "/attempt/" + at.ID.String() + "?frame=17&panel=clip"
	s.Until(func() bool { return where() == there }, "the address says where the coach is")
	stands := func(how string) {
		t.Helper()
		s.Until(func() bool { return s.MustHas("[role=tab][aria-selected=true]") && s.Frame() == 17 }, "%s comes to frame 17", how)
		if panel := s.See("[role=tab][aria-selected=true]").MustText(); !strings.HasPrefix(panel, "Clip") {
			t.Errorf("%s comes to the panel %q", how, panel)
		}
	}
	s.MustReload()
	stands("a reload")
	s.Button("^Feedback$")
	s.See("[data-testid=paper]")
	if title := s.MustEval(`() => document.title`).Str(); title != "Test Runner · feedback · Neokinema" {
		t.Errorf("the title is %q", title)
	}
	s.MustNavigateBack()
	stands("a step back")
	other := s.Another(h)
	defer other.Done()
	other.Open(h.URL+there, "canvas[data-frame]")
	other.Until(func() bool { return other.Frame() == 17 }, "a link comes to frame 17")
	// A frame that the clip does not have is its last.
	other.Open(h.URL+"/attempt/"+at.ID.String()+"?frame=5000&clip=9&panel=none", "canvas[data-frame]")
	other.Until(func() bool { return other.Frame() == 59 }, "a frame behind the end is the last")
}

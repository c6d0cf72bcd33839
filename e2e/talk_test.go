package e2e

import (
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"neokinema/internal/media"
	"neokinema/internal/testenv"
	"neokinema/internal/voiceover"
)

// talks waits until the talk bar is in a phase.
func talks(s *testenv.Screen, phase string) {
	s.T.Helper()
	s.Until(func() bool {
		return s.MustHas("[data-testid=talk-bar][data-phase="+phase+"]") || phase == "idle" && !s.MustHas("[data-testid=talk-bar]")
	}, "the talk is %s", phase)
}

// pause lets a voice speak for a while.
func pause(s *testenv.Screen, ms int) {
	s.MustEval(`ms => new Promise(r => setTimeout(r, ms))`, ms)
}

// TestTalkThrough: a coach presses one key and talks; voice (of a microphone that beeps)
// and stage are kept, each finding that is opened is a chapter; it is replayed on the
// feedback page, cut, said again, drawn as a film; nothing is lost with the connection;
// the athlete hears it on the phone.
// A voice is recorded in true time, so this test has the machine to itself.
func TestTalkThrough(t *testing.T) {
	h := h.Door(t)
	c := h.Coach(t)
	at, clip := draftedStart(t, c, 118)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	flags := sheet(c, at.ID.String()).Work.Clips[clip.ID].Flags
	chapters := func() (list []voiceover.Chapter) {
		c.Do("GET", "/api/attempts/"+at.ID.String()+"/chapters", nil, 200, &list)
		return list
	}

	s.Jump(flags["set"])
	s.Keyboard.MustType(input.KeyZ)
	talks(s, "talking")
	pause(s, 700)
	s.Jump(flags["clear"])
	pause(s, 500)
	s.Keyboard.MustType(input.KeyW)
	s.Until(func() bool { return strings.Contains(s.See("[data-testid=talk-bar]").MustText(), "Front knee") }, "the finding is a chapter: %s", s.Text())
	s.Jump(flags["set"])
	s.MustEval(`() => document.querySelector("[data-testid=stage]").dispatchEvent(new WheelEvent("wheel", { deltaY: -200, ctrlKey: true, bubbles: true, cancelable: true, clientX: 300, clientY: 300 }))`)
	pause(s, 1300)
	s.Keyboard.MustType(input.KeyZ)
	s.Until(func() bool { return len(chapters()) == 2 }, "two chapters are kept")
	talks(s, "idle")
	list := chapters()
	if list[0].Name != "The whole" || list[1].Finding != "S2" || list[0].Seconds < 0.8 || list[1].Seconds < 1 {
		t.Fatalf("%+v", list)
	}
	// Each shows what the stage showed.
	last := func(k int) (st voiceover.State) { return voiceover.NewPlay(list[k].Scenes).At(1e6) }
	if st := voiceover.NewPlay(list[0].Scenes).At(0.3); st.Frame != flags["set"] || st.Clip != clip.ID {
		t.Errorf("after 0.3 s: %+v", st)
	}
	if st := last(0); st.Frame != flags["clear"] || len(st.Over) == 0 {
		t.Errorf("at the end of the first: frame %d, %d things drawn; want frame %d with what is measured there", st.Frame, len(st.Over), flags["clear"])
	}
	if a, b := last(0).View, last(1).View; b[2] > 0.95*a[2] || last(1).Frame != flags["set"] {
		t.Errorf("the zoom is not in it: %v, then %v", a, b)
	}
	// The microphone beeps once a second.
	file := filepath.Join(t.TempDir(), "voice.webm")
	if err := os.WriteFile(file, c.Do("GET", "/api/chapters/"+list[1].ID.String()+"/voice.webm", nil, 200, nil), 0o600); err != nil {
		t.Fatal(err)
	}
	heard, err := media.Listen(s.GetContext(), file, 8000)
	if err != nil {
		t.Fatal(err)
	}
	most := 0.0
	for _, v := range heard.Samples {
		most = math.Max(most, math.Abs(v))
	}
	if length := float64(len(heard.Samples)) / heard.Rate; most < 0.01 || math.Abs(length-list[1].Seconds) > 0.3 { // a busy machine drops the beginning
		t.Errorf("the voice is %.2f s long, loudest %.3f; the chapter %.2f s", length, most, list[1].Seconds)
	}

	// The connection is lost: the chapter waits.
	s.Keyboard.MustType(input.KeyQ)
	s.Keyboard.MustType(input.KeyZ)
	talks(s, "talking")
	pause(s, 600)
	h.Cut()
	s.Keyboard.MustType(input.KeyZ)
	s.Says("It waits here")
	h.Restart()
	s.Button("^try again$")
	s.Until(func() bool { return len(chapters()) == 3 }, "the third is kept after all")
	talks(s, "idle")

	// Replayed on the feedback page.
	s.Keyboard.MustType(input.KeyO)
	s.See("[data-testid=talk] [data-testid=replay]")
	replay := func(what string) string { return *s.See("[data-testid=replay]").MustAttribute("data-" + what) }
	s.Until(func() bool {
		return s.MustEval(`() => document.querySelector("[data-testid=replay] canvas").dataset.frame ?? ""`).Str() == strconv.Itoa(flags["set"])
	}, "the first picture stands")
	s.See("[data-testid=replay-play]").MustClick()
	s.Until(func() bool { return replay("playing") == "true" && replay("frame") == strconv.Itoa(flags["clear"]) }, "it goes on to the clearance")
	s.Until(func() bool { return replay("chapter") == "1" }, "and on to the next chapter")
	s.Until(func() bool { return replay("chapter") == "2" && replay("playing") == "false" }, "and stops at the end")
	s.See("[data-testid=chapter-2]").MustClick()
	s.Until(func() bool { return replay("chapter") == "1" }, "a chapter is jumped to")

	// Cut: from its middle on.
	s.MustEval(`() => { const r = document.querySelector("[aria-label='place in the chapter']"); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(r, "0.6"); r.dispatchEvent(new Event("input", { bubbles: true })); }`)
	s.Until(func() bool {
		return math.Abs(s.MustEval(`() => document.querySelector("[data-testid=replay] audio").currentTime`).Num()-0.6) < 0.1
	}, "the voice stands at 0.6 s")
	s.Button("^begin here$")
	s.Until(func() bool { return math.Abs(chapters()[1].Starts-0.6) < 0.1 }, "it is cut")
	s.Button("^whole again$")
	s.Until(func() bool { return chapters()[1].Starts == 0 }, "it is whole again")
	s.See("[data-testid=chapter-3]").MustClick()
	s.Until(func() bool { return replay("chapter") == "2" }, "the third chapter")
	s.Button("^remove$")
	s.Until(func() bool { return len(chapters()) == 2 }, "it is removed")

	// Said again.
	s.See("[data-testid=chapter-1]").MustClick()
	s.Until(func() bool { return replay("chapter") == "0" }, "the first chapter")
	s.MustElementR("a", "^Say it again$").MustClick()
	s.See("[data-testid=talk-bar]")
	s.Says("Record “The whole” again")
	s.Until(func() bool { return s.Frame() >= 0 }, "the stage is there")
	s.Jump(flags["clear"])
	s.Keyboard.MustType(input.KeyZ)
	talks(s, "talking")
	pause(s, 700)
	s.Keyboard.MustType(input.KeyZ)
	talks(s, "idle")
	s.Until(func() bool {
		return !chapters()[0].CreatedAt.IsZero() && *chapters()[0].Scenes[0].Frame == flags["clear"]
	}, "the chapter is another one")
	if again := chapters(); len(again) != 2 || again[0].ID != list[0].ID || again[0].Name != "The whole" {
		t.Errorf("said again: %+v", again)
	}

	// As a film.
	s.Open(h.URL+"/attempt/"+at.ID.String()+"/feedback", "[data-testid=talk]")
	s.See("[data-testid=draw-film]").MustClick()
	s.See("[data-film]")
	s.Until(func() bool { return s.MustHas("[data-film=ready]") }, "the film is drawn")

	// The athlete hears it.
	var link struct{ Secret string }
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/shares", map[string]int{"days": 3}, 200, &link)
	phone := h.Screen(t, browser, nil)
	defer phone.Done()
	phone.MustSetViewport(400, 800, 2, true)
	phone.Open(h.URL+"/s/"+link.Secret, "[data-testid=replay]")
	phone.Says("Your coach talks you through it")
	phone.See("[data-testid=replay-play]").MustClick()
	phone.Until(func() bool {
		return phone.MustEval(`() => document.querySelector("[data-testid=replay] canvas").dataset.frame ?? ""`).Str() != "" && *phone.See("[data-testid=replay]").MustAttribute("data-chapter") == "1"
	}, "it plays on the phone")
	if wide := phone.MustEval(`() => document.documentElement.scrollWidth`).Int(); wide > 400 {
		t.Errorf("the page is %d px wide on a phone of 400", wide)
	}
}

// TestNoMicrophone: a browser that gives none says what to do, and nothing else breaks.
func TestNoMicrophone(t *testing.T) {
	t.Parallel()
	_, s, _ := started(t)
	defer s.Done()
	s.MustEval(`() => { navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException("denied", "NotAllowedError")); }`)
	s.Keyboard.MustType(input.KeyZ)
	s.Says("The browser gives no microphone")
	talks(s, "idle")
	s.Keyboard.MustType(input.ArrowRight)
	s.Until(func() bool { return s.Frame() > 0 }, "the Bench goes on")
}

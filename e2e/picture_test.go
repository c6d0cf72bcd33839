package e2e

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"neokinema/internal/testenv"
)

// The stage never shows one frame under the number of another: over a slow line and without one
// it says what it waits for, and nothing is put into a picture that is not there. Once the clip
// is here it needs no connection.
func TestNeverAWrongPicture(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "numbered.mp4")
	// Much to see in each frame: the working video is large enough to be on its way for a while.
	if err := (testenv.Numbered{Width: 640, Height: 360, Frames: 300, Rate: 60, Grain: true}).Make(path); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	c := h.Coach(t)
	at := c.Attempt()
	c.Imported(c.Upload(at.ID, "numbered.mp4", raw, 1<<22))
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	s.Jump(20)
	// Opened again, with nothing kept of it, over a line that breaks after its beginning.
	s.MustEval(`() => caches.keys().then((all) => Promise.all(all.map((k) => caches.delete(k))))`)
	s.MustEvalOnNewDocument(`{
		const plain = window.fetch;
		const back = new Promise((ok) => (window.lineIsBack = ok));
		window.fetch = async (what, how) => {
			const r = await plain(what, how);
			if (!r.body || !String(what.url ?? what).includes("/proxy.mp4")) return r;
			const from = r.body.getReader();
			let passed = 0;
			const body = new ReadableStream({
				async pull(to) {
					if (passed > 400e3) await back;
					const { done, value } = await from.read();
					if (done) return to.close();
					passed += value.length;
					to.enqueue(value);
				},
			}, { highWaterMark: 0 });
			return new Response(body, { status: r.status, headers: r.headers });
		};
	}`)
	s.MustReload()
	s.Until(func() bool { return s.MustEval(`() => !!window.neokinema?.core`).Bool() && s.Frame() >= 0 }, "the Bench is open again")
	s.Network(0, 0)
	flags := func() int { return s.MustEval(`() => document.querySelectorAll("[data-flag]").length`).Int() }
	before := flags()
	// Far from what was decoded ahead: all there is of it lies behind the line that is cut.
	s.MustEval(`() => window.neokinema.player.jump(290)`)
	if wrong, _ := s.WrongPictures([]int{250, 180, 290}, testenv.Glance); wrong > 0 {
		t.Errorf("%d of 3 frames without a connection show another picture and do not say so", wrong)
	}
	if s.MustHas("[data-testid=veil]") {
		s.Says("No connection: frame 290")
		s.Keyboard.MustType(input.KeyF)
		if n := flags(); n != before {
			t.Errorf("a flag was set in a picture that is not there: %d flags of %d", n, before)
		}
	} else {
		t.Error("the whole clip was here before the line was cut")
	}
	s.See("[data-testid=offline]")
	s.Network(-1, 0)
	s.MustEval(`() => window.lineIsBack()`)
	s.Until(func() bool { return s.Frame() == 290 && s.StageNumber() == 290 }, "frame 290 comes with the connection")
	s.Keyboard.MustType(input.KeyF)
	s.Until(func() bool { return flags() > before }, "the flag is set once the picture is there")

	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-clips").then((c) => c.keys()).then((k) => k.length)`).Int() == 1
	}, "the clip is kept")
	s.Network(0, 0)
	var list []int
	for n := range 40 {
		list = append(list, (n*97+11)%300)
	}
	if wrong, right := s.WrongPictures(list, time.Minute); wrong > 0 || right < 40 {
		t.Errorf("of a clip that is kept, without a connection: %d wrong, %d right of 40", wrong, right)
	}
	s.Network(-1, 0)
	// Signing out takes it away; what the application is made of is nobody's.
	s.Open(h.URL+"/", "[role=list]")
	s.Button("^Sign out$")
	s.See("[name=email]")
	if n := s.MustEval(`() => caches.keys().then((all) => all.filter((name) => name !== "neo-shell").length)`).Int(); n != 0 {
		t.Errorf("%d shelves are kept after signing out", n)
	}
}

// Package logic tests the logic of the front end that stands apart from its screens, in a
// browser on an empty page: what waits to be saved, edits and tracks, the player, maths of
// stage and timeline, the order of the queue.
package logic

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"testing"

	"github.com/go-rod/rod"

	"neokinema/core/track"
	"neokinema/core/workshop"
	"neokinema/internal/logbook"
	"neokinema/internal/testenv"
	"neokinema/models"
)

var page *rod.Page

func TestMain(m *testing.M) {
	script, err := os.ReadFile(filepath.Join("..", "..", "build", "logic", "logic.js"))
	if err != nil {
		panic("npm run logic makes the script that is tested: " + err.Error())
	}
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/logic.js" {
			w.Header().Set("Content-Type", "text/javascript")
			_, _ = w.Write(script)
			return
		}
		_, _ = w.Write([]byte(`<!doctype html><script src="/logic.js"></script>`))
	}))
	browser, end, err := testenv.Browser()
	if err != nil {
		panic(err)
	}
	page = browser.MustPage(server.URL).MustWaitLoad()
	code := m.Run()
	end()
	server.Close()
	os.Exit(code)
}

// js calls a function of the front end; what it gives is read into T.
func js[T any](t *testing.T, f string, args ...any) (out T) {
	t.Helper()
	got, err := page.Eval(`async (...a) => JSON.stringify(await (`+f+`)(...a) ?? null)`, args...)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal([]byte(got.Value.Str()), &out); err != nil {
		t.Fatalf("%v: %s", err, got.Value.Str())
	}
	return out
}

type object = map[string]any

// The merge of tracks is written twice, so that a point under the hand need not wait for a
// call: it must do what the core does, whoever set which points.
func TestTracksMergeAsInTheCore(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	letters := []byte("hdtfHDTF._")
	random := func(keep bool) *track.Track {
		n := r.IntN(9)
		x := &track.Track{From: r.IntN(7), X: make([]float32, n), Y: make([]float32, n), Source: make(track.Letters, n), Confidence: make([]int8, n)}
		for i := range n {
			l := letters[r.IntN(len(letters))]
			if l == '_' && !keep {
				l = '.'
			}
			x.Source[i] = l
			if l != '.' && l != '_' {
				x.X[i], x.Y[i], x.Confidence[i] = float32(r.IntN(1280)), float32(r.IntN(720)), int8(1+r.IntN(99))
			}
		}
		return x
	}
	for range 400 {
		was, change, over := random(false), random(true), r.IntN(2) == 0
		if was.Trim().Len() == 0 {
			continue
		}
		was = was.Trim()
		want := was.Clone()
		want.Apply(change, over)
		got := js[*track.Track](t, `(t, c, over) => logic.tracks.apply(t, c, over)`, was, change, over)
		if got == nil {
			got = track.New(0)
		}
		if !reflect.DeepEqual(got.Points(), want.Points()) {
			t.Fatalf("%+v with %+v (%t): %+v, in the core %+v", was, change, over, got, want)
		}
	}
}

func TestEditsFoldAndAreRead(t *testing.T) {
	work := object{"revision": 1, "clips": object{"c": object{"flags": object{"set": 3}, "points": object{}, "annotations": object{}}}, "answers": object{}, "findings": object{"S1": "refused"}, "advice": object{}, "note": "tall", "outcome": ""}
	for name, c := range map[string]struct {
		edit, at any
		value    any
	}{
		"a flag":          {object{"kind": "flag", "clip": "c", "key": "set", "value": 9}, `w => w.clips.c.flags.set`, 9.0},
		"a flag away":     {object{"kind": "flag", "clip": "c", "key": "set", "value": nil}, `w => w.clips.c.flags.set`, nil},
		"of a clip gone":  {object{"kind": "flag", "clip": "x", "key": "set", "value": 9}, `w => w.clips.c.flags.set`, 3.0},
		"a finding":       {object{"kind": "finding", "key": "S1", "value": "accepted"}, `w => w.findings.S1`, "accepted"},
		"a note away":     {object{"kind": "note", "key": "athlete", "value": nil}, `w => w.note`, ""},
		"an outcome":      {object{"kind": "outcome", "key": "main", "value": "not_taken"}, `w => w.outcome`, "not_taken"},
		"a follow-up":     {object{"kind": "followup", "key": "main", "value": object{"state": "done"}}, `w => w.followup.state`, "done"},
		"no follow-up":    {object{"kind": "followup", "key": "main", "value": nil}, `w => w.followup`, nil},
		"a point":         {object{"kind": "point", "clip": "c", "key": "left_knee", "frame": 4, "value": object{"x": 7, "y": 8, "source": "hand", "confidence": 1, "hidden": false}}, `w => logic.tracks.at(w.clips.c.points.left_knee, 4).x`, 7.0},
		"an annotation":   {object{"kind": "annotation", "clip": "c", "key": "a", "value": object{"kind": "pin"}}, `w => w.clips.c.annotations.a.kind`, "pin"},
		"the work before": {object{"kind": "finding", "key": "S2", "value": "accepted"}, `w => w.findings.S1`, "refused"},
	} {
		got := js[[]any](t, `(w, e, at) => { const was = JSON.stringify(w); const n = logic.edits.apply(w, e); return [eval(at)(n), JSON.stringify(w) === was, logic.edits.valueAt(n, e)] }`, work, c.edit, c.at)
		if !reflect.DeepEqual(got[0], c.value) {
			t.Errorf("%s: %v, not %v", name, got[0], c.value)
		}
		if got[1] != true {
			t.Errorf("%s changes the work that it was made on", name)
		}
	}
}

// On newer work what nobody else touched stays; what somebody did gives way; what is there
// already, because only its answer was lost, is done.
func TestWaitingChangesOnNewerWork(t *testing.T) {
	flag := func(key string, v any) object { return object{"kind": "flag", "clip": "c", "key": key, "value": v} }
	work := func(flags object) object {
		return object{"clips": object{"c": object{"flags": flags, "points": object{}}}, "findings": object{}, "answers": object{}, "advice": object{}}
	}
	type result struct {
		Queue []struct {
			Edits []object
			Was   []any
		}
		Gave int
	}
	rebase := func(queue []object, now object) result {
		return js[result](t, `(q, w) => logic.outbox.rebase(q, w)`, queue, now)
	}
	if r := rebase([]object{{"edits": []object{flag("set", 5)}, "was": []any{3}}}, work(object{"set": 3})); len(r.Queue) != 1 || r.Gave != 0 {
		t.Errorf("nobody touched it: %+v", r)
	}
	if r := rebase([]object{{"edits": []object{flag("set", 5)}, "was": []any{3}}}, work(object{"set": 4})); len(r.Queue) != 0 || r.Gave != 1 {
		t.Errorf("somebody did: %+v", r)
	}
	if r := rebase([]object{{"edits": []object{flag("set", 5)}, "was": []any{3}}}, work(object{"set": 5})); len(r.Queue) != 0 || r.Gave != 0 {
		t.Errorf("only its answer was lost: %+v", r)
	}
	// Half of a change gives way; the change behind it was made on top of it.
	r := rebase([]object{
		{"edits": []object{flag("set", 5), flag("move", 9)}, "was": []any{3, nil}},
		{"edits": []object{flag("move", 11)}, "was": []any{9}},
	}, work(object{"set": 4}))
	if r.Gave != 1 || len(r.Queue) != 2 || len(r.Queue[0].Edits) != 1 || r.Queue[0].Edits[0]["key"] != "move" || r.Queue[1].Edits[0]["value"] != 11.0 {
		t.Errorf("%+v", r)
	}
}

func TestTheOutboxKeepsWhatWaits(t *testing.T) {
	note := `{"edits":[{"kind":"note","key":"athlete","value":"x"}],"was":["y"]}`
	got := js[[]any](t, `async note => {
		const { put, take } = logic.outbox;
		await put("one", () => [JSON.parse(note)]);
		const other = await take("two");
		const mine = await take("one");
		await put("one", () => []);
		const none = await take("one");
		// A tab that has gone left a list; a damaged one and edits of no kind cost themselves.
		localStorage.setItem("neo.pending.one.gone", "[" + note + "]");
		localStorage.setItem("neo.pending.one.hurt", "{not json");
		localStorage.setItem("neo.pending.one.odd", '[{"edits":[{"kind":"dance","key":"k"}],"was":[null]}]');
		const left = await take("one");
		return [other.length, mine.length, none.length, left.length, Object.keys(localStorage).filter(k => k.startsWith("neo.pending.one")).length];
	}`, note)
	if want := []any{0.0, 1.0, 0.0, 1.0, 0.0}; !reflect.DeepEqual(got, want) {
		t.Errorf("of another attempt, of this, after it was saved, of a closed tab, left in the store: %v, not %v", got, want)
	}
}

func TestThePlayerKeepsToTheClip(t *testing.T) {
	got := js[[]float64](t, `() => {
		const p = new logic.player.Player(Array.from({ length: 100 }, (_, i) => i / 240));
		const out = [];
		p.jump(-5); out.push(p.get().frame);
		p.jump(1e9); out.push(p.get().frame);
		p.step(-3); out.push(p.get().frame, p.get().direction);
		p.setLoop([20, 10]); out.push(p.get().loop ? 1 : 0);
		p.setLoop([10, 20]); out.push(p.get().loop[1]);
		return out;
	}`)
	if want := []float64{0, 99, 96, -1, 0, 20}; !reflect.DeepEqual(got, want) {
		t.Errorf("%v, not %v", got, want)
	}
	// Played in a loop it stays in it, in true time: a quarter of 240 pictures a second is
	// one a refresh.
	seen := js[[]float64](t, `() => new Promise(ok => {
		const p = new logic.player.Player(Array.from({ length: 100 }, (_, i) => i / 240));
		const seen = [];
		p.setSpeed(0.25); p.setLoop([10, 14]);
		p.subscribe(() => { const f = p.get().frame; if (seen.at(-1) !== f) seen.push(f); if (seen.length === 12) { p.pause(); ok(seen); } });
		p.play();
	})`)
	for _, f := range seen {
		if f < 10 || f > 14 {
			t.Errorf("the loop from 10 to 14 showed %v", seen)
			break
		}
	}
	// Who listens may stop it while a frame is shown: then nothing goes on.
	still := js[bool](t, `() => new Promise(ok => {
		const p = new logic.player.Player(Array.from({ length: 100 }, (_, i) => i / 240));
		const real = window.requestAnimationFrame;
		let later = () => {};
		window.requestAnimationFrame = f => (later = f, 1);
		p.subscribe(() => p.get().frame > 0 && p.pause());
		p.play();
		for (let i = 0; i < 9; i++) { const f = later; later = null; f?.(1000 + 50 * i); }
		window.requestAnimationFrame = real;
		ok(later === null && p.get().frame === 12 && !p.get().playing);
	})`)
	if !still {
		t.Error("it plays on when it was stopped while a frame was shown")
	}
	// A frame that is not decoded yet is waited for; playing goes on with what is due then. By
	// a clock of its own: a slow machine would be at the end before it has asked five times.
	late := js[[]float64](t, `() => new Promise(ok => {
		let asked = 0, now = 0;
		const own = { requestAnimationFrame: f => setTimeout(() => f(now += 1000 / 60)), cancelAnimationFrame: clearTimeout };
		const real = {};
		for (const k in own) { real[k] = window[k]; window[k] = own[k]; }
		const p = new logic.player.Player([0, 0.05, 0.1, 0.15, 0.2], n => ++asked > 4);
		const seen = [];
		p.subscribe(() => { seen.push(p.get().frame); if (!p.get().playing) { Object.assign(window, real); ok([asked, ...seen]); } });
		p.play();
	})`)
	if want := []float64{0, 2, 3, 4}; late[0] < 5 || !slices.Equal(late[1:], want) {
		t.Errorf("asked %g times, then showed %v, not %v", late[0], late[1:], want)
	}
}

func TestTheStageZoomsAtThePointer(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		w, h := 200+r.Float64()*1000, 200+r.Float64()*600
		x, y, by := r.Float64()*w, r.Float64()*h, 1+r.Float64()*6
		got := js[[]float64](t, `(w, h, x, y, by) => {
			const whole = logic.view.fit({ w, h }, { w: 1280, h: 720 });
			const v = logic.view.zoomed(whole, whole, by, x, y) ?? whole;
			const a = logic.view.toPicture(whole, x, y), b = logic.view.toPicture(v, x, y);
			return [...a, ...b, v.k / whole.k, ...logic.view.part(v, { w, h }, { w: 1280, h: 720 })];
		}`, w, h, x, y, by)
		if math.Hypot(got[0]-got[2], got[1]-got[3]) > 1e-6 {
			t.Fatalf("the place under the pointer moved from %v to %v", got[:2], got[2:4])
		}
		if got[4] < 1-1e-9 {
			t.Fatalf("zoomed out beyond the whole picture: %v", got[4])
		}
		if got[5] < 0 || got[6] < 0 || got[5]+got[7] > 1280.1 || got[6]+got[8] > 720.1 {
			t.Fatalf("the part in sight lies outside of the picture: %v", got[5:])
		}
	}
	if out := js[any](t, `() => { const whole = logic.view.fit({ w: 800, h: 450 }, { w: 1280, h: 720 }); return logic.view.zoomed(whole, whole, 0.3, 5, 5) }`); out != nil {
		t.Errorf("zooming out from the whole picture: %v", out)
	}
}

func TestTheTimelineZoomsAndTicks(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	for range 300 {
		end, frames := 0.2+r.Float64()*20, 50+r.IntN(3000)
		at, by := r.Float64()*end, math.Exp(r.NormFloat64())
		got := js[[]float64](t, `(end, frames, by, t) => {
			const a = logic.span.zoomed(null, end, frames, 4, end / 2);
			const b = logic.span.zoomed(a, end, frames, by, t) ?? [0, end];
			const m = logic.span.moved(b, 3 * end, end);
			return [...b, ...m, ...logic.span.following(b, t, end)];
		}`, end, frames, by, at)
		for i := 0; i < 6; i += 2 {
			if a, b := got[i], got[i+1]; a < -1e-9 || b > end+1e-9 || b <= a {
				t.Fatalf("a span from %g to %g of %g", a, b, end)
			}
		}
		if at < got[4]-1e-9 || at > got[5]+1e-9 {
			t.Fatalf("the cursor at %g is out of sight of %v", at, got[4:])
		}
	}
	for _, c := range []struct {
		span   [2]float64
		zero   float64
		width  float64
		want   []float64
		digits float64
	}{
		{[2]float64{0, 1}, 0, 700, []float64{0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1}, 1},
		{[2]float64{0, 1}, 0.55, 240, []float64{-0.5, 0}, 1},
		{[2]float64{1, 1.05}, 1, 700, []float64{0, 0.005, 0.01, 0.015, 0.02, 0.025, 0.03, 0.035, 0.04, 0.045, 0.05}, 3},
	} {
		got := js[struct {
			At     []float64
			Digits float64
		}](t, `(s, zero, width) => logic.span.ticks(s, zero, width)`, c.span, c.zero, c.width)
		same := len(got.At) == len(c.want) && got.Digits == c.digits
		for i := range c.want {
			same = same && math.Abs(got.At[i]-c.want[i]) < 1e-9
		}
		if !same {
			t.Errorf("%v from %g on %g px: %+v, not %v", c.span, c.zero, c.width, got, c.want)
		}
	}
	if got := js[[]float64](t, `() => [-1, 0, 0.011, 0.024, 9].map(x => logic.span.nearest([0, 0.01, 0.02, 0.03], x))`); !reflect.DeepEqual(got, []float64{0, 0, 1, 2, 3}) {
		t.Errorf("nearest frames: %v", got)
	}
}

func TestModesOfTheWorkspace(t *testing.T) {
	type state struct {
		Mode     struct{ Is string }
		Drag     []object
		Curves   []string
		Landmark *string
		Hidden   bool
	}
	run := func(actions ...object) state {
		return js[state](t, `list => list.reduce(logic.state.reduce, logic.state.initial(["a"]))`, actions)
	}
	tool := object{"type": "tool", "tool": object{"kind": "spot"}}
	if s := run(object{"type": "place"}); s.Mode.Is != "placing" {
		t.Errorf("%+v", s)
	}
	if s := run(object{"type": "place"}, object{"type": "place"}); s.Mode.Is != "idle" {
		t.Errorf("placing does not end: %+v", s)
	}
	if s := run(object{"type": "place"}, tool); s.Mode.Is != "tool" {
		t.Errorf("two modes at once: %+v", s)
	}
	if s := run(object{"type": "place"}, object{"type": "tool", "tool": nil}); s.Mode.Is != "placing" {
		t.Errorf("a tool that ended took placing along: %+v", s)
	}
	if s := run(object{"type": "scale", "metres": 2}, object{"type": "escape"}); s.Mode.Is != "idle" {
		t.Errorf("escape leaves %+v", s)
	}
	if s := run(object{"type": "drag", "edits": []object{{"kind": "flag"}}}, object{"type": "clip", "id": "x"}); len(s.Drag) != 0 {
		t.Errorf("what a hand moved in one clip is moved in another: %+v", s)
	}
	if s := run(object{"type": "curve", "id": "b"}, object{"type": "curve", "id": "c"}, object{"type": "curve", "id": "d"}, object{"type": "curve", "id": "c"}); !reflect.DeepEqual(s.Curves, []string{"b", "d"}) {
		t.Errorf("curves: %v", s.Curves)
	}
	if s := run(object{"type": "hide"}, object{"type": "placed"}); s.Hidden {
		t.Errorf("the next point is still a guess: %+v", s)
	}
}

func TestGoingAboutFlagsAndSuspects(t *testing.T) {
	flags := object{"c": 30, "a": 10, "b": 20}
	for _, c := range []struct {
		frame, by int
		want      any
	}{{0, 1, "a"}, {10, 1, "b"}, {25, -1, "b"}, {10, -1, nil}, {30, 1, nil}} {
		if got := js[any](t, `(f, at, by) => logic.commands.hop(f, at, by)`, flags, c.frame, c.by); got != c.want {
			t.Errorf("from %d by %d: %v, not %v", c.frame, c.by, got, c.want)
		}
	}
	// After judging anew by another model the position that was looked at may be gone.
	for chosen, want := range map[string]string{"b": "b", "gone": "a", "": "a"} {
		if got := js[string](t, `(l, c) => logic.commands.lookedAt(l, c)`, []object{{"id": "a"}, {"id": "b"}}, chosen); got != want {
			t.Errorf("chosen %q: %q, not %q", chosen, got, want)
		}
	}
	if got := js[string](t, `() => logic.commands.lookedAt([], "a")`); got != "" {
		t.Errorf("a model without positions: %q", got)
	}
	suspects := []object{{"frame": 5, "landmark": "x"}, {"frame": 5, "landmark": "y"}, {"frame": 9, "landmark": "x"}}
	for _, c := range []struct {
		frame    int
		landmark any
		by       int
		want     string
	}{{0, nil, 1, "5x"}, {5, "x", 1, "5y"}, {5, "y", 1, "9x"}, {9, "x", 1, "5x"}, {9, "x", -1, "5y"}, {7, nil, 1, "9x"}, {7, nil, -1, "5y"}} {
		if got := js[string](t, `(l, f, m, by) => { const d = logic.commands.nextSuspect(l, f, m, by); return d.frame + d.landmark }`, suspects, c.frame, c.landmark, c.by); got != c.want {
			t.Errorf("from %d %v by %d: %s, not %s", c.frame, c.landmark, c.by, got, c.want)
		}
	}
}

// The address holds the place: what is written is read again, the usual is not named, and what
// cannot be is left out.
func TestTheAddressHoldsThePlace(t *testing.T) {
	panels := []string{"check", "numbers", "findings", "clip"}
	read := func(search string) object {
		t.Helper()
		return js[object](t, `(q, p) => logic.address.read(q, p)`, search, panels)
	}
	for _, c := range []struct {
		at   object
		want string
	}{
		{object{}, ""},
		{object{"clip": 1, "frame": 0, "panel": "numbers"}, ""},
		{object{"clip": 2, "frame": 187, "panel": "findings", "finding": "S2"}, "?clip=2&frame=187&panel=findings&finding=S2"},
		{object{"frame": 12, "panel": "clip", "finding": "S2"}, "?frame=12&panel=clip"},
	} {
		if got := js[string](t, `(at) => logic.address.write(at)`, c.at); got != c.want {
			t.Errorf("%v is written %q, not %q", c.at, got, c.want)
		}
	}
	if got := read("?clip=2&frame=187&panel=findings&finding=S2"); got["clip"] != 2.0 || got["frame"] != 187.0 || got["panel"] != "findings" || got["finding"] != "S2" {
		t.Errorf("read %v", got)
	}
	for _, bad := range []string{"?frame=-3", "?frame=1e9", "?frame=12.5", "?clip=0", "?clip=x", "?panel=nonsense", "?finding=<b>", "?frame=99999999999999999999"} {
		if got := read(bad); len(got) != 0 {
			t.Errorf("%s is read as %v", bad, got)
		}
	}
}

// What an attempt needs next follows from its clip, its report and what the coach has decided.
func TestNextOfAnAttempt(t *testing.T) {
	const at = `(change, drafting = null) => {
		const w = {
			sheet: { attempt: { state: "new" } },
			clip: { id: "c", state: "ready", capture_rate: 240, view: "side", direction: 1, progress: 0 },
			evaluation: { report: { questions: [] }, points: { left_hip: {} }, listed: [{ fault: "S2" }] },
			work: { findings: {}, advice: {} },
			state: { later: [] },
		};
		for (const [path, v] of Object.entries(change)) {
			const keys = path.split("."), last = keys.pop();
			keys.reduce((o, k) => o[k], w)[last] = v;
		}
		const n = logic.next.nextOf(w, drafting);
		return [n.stage ?? "done", n.do ?? "waits", n.panel ?? ""];
	}`
	two := []any{map[string]any{"id": "a"}, map[string]any{"id": "b"}}
	for _, c := range []struct {
		name     string
		change   map[string]any
		drafting any
		want     [3]string
	}{
		{"no clip", map[string]any{"clip": nil}, nil, [3]string{"clip", "clip", ""}},
		{"on its way", map[string]any{"clip.state": "importing"}, nil, [3]string{"clip", "waits", ""}},
		{"not read", map[string]any{"clip.state": "failed"}, nil, [3]string{"clip", "panel", "clip"}},
		{"no rate", map[string]any{"clip.capture_rate": 0}, nil, [3]string{"rate", "panel", "clip"}},
		{"no direction", map[string]any{"clip.direction": 0}, nil, [3]string{"rate", "panel", "clip"}},
		{"from behind no direction is asked", map[string]any{"clip.direction": 0, "clip.view": "back"}, nil, [3]string{"findings", "panel", "findings"}},
		{"drafting", nil, 0.4, [3]string{"draft", "waits", ""}},
		{"computing", map[string]any{"evaluation.report": nil}, nil, [3]string{"draft", "waits", ""}},
		{"no points", map[string]any{"evaluation.points": map[string]any{}}, nil, [3]string{"draft", "panel", "track"}},
		{"questions", map[string]any{"evaluation.report.questions": two}, nil, [3]string{"check", "panel", "check"}},
		{"all put off", map[string]any{"evaluation.report.questions": two, "state.later": []string{"ca", "cb"}}, nil, [3]string{"findings", "panel", "findings"}},
		{"found", nil, nil, [3]string{"findings", "panel", "findings"}},
		{"decided", map[string]any{"work.findings": map[string]string{"S2": "accepted"}}, nil, [3]string{"cue", "panel", "findings"}},
		{"nothing found", map[string]any{"evaluation.listed": []any{}}, nil, [3]string{"cue", "panel", "findings"}},
		{"cue chosen", map[string]any{"work.advice.main": map[string]any{"words": "x"}}, nil, [3]string{"send", "send", ""}},
		{"sent", map[string]any{"work.advice.main": map[string]any{"words": "x"}, "sheet.attempt.state": "sent"}, nil, [3]string{"done", "next", ""}},
	} {
		if c.change == nil {
			c.change = map[string]any{}
		}
		if got := js[[3]string](t, at, c.change, c.drafting); got != c.want {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}

// Phases are called as the school of the coach calls them, those of a group with their number.
func TestPhasesBySchool(t *testing.T) {
	m, err := models.Load("hammer")
	if err != nil {
		t.Fatal(err)
	}
	names := func(school string) map[string]string {
		return js[map[string]string](t, `(m, school) => {
			const named = logic.school.bySchool(m, school);
			return Object.fromEntries([...named.phases, ...named.repeat.phases].map((p) => [p.id, p.name]));
		}`, m, school)
	}
	task, support := names("task"), names("support")
	for id, want := range map[string][2]string{
		"winds": {"winds", "double support, winds"}, "single2": {"one foot 2", "single support 2"}, "single": {"one foot", "single support"},
	} {
		if got := [2]string{task[id], support[id]}; got != want {
			t.Errorf("%s: %q, want %q", id, got, want)
		}
	}
	if len(task) != len(support) || len(task) < 7 {
		t.Errorf("%d and %d phases", len(task), len(support))
	}
}

// Keys of one's own take the place of the usual ones; letters can be switched off; CapsLock and
// keys with Ctrl change nothing.
func TestPressedKeys(t *testing.T) {
	const pressed = `(settings, key, how) => {
		logic.settings.change({ letters: true, keys: {}, ...settings });
		const out = logic.keys.pressed(new KeyboardEvent("keydown", { key, ...how }));
		logic.settings.change({ letters: true, keys: {} });
		return out;
	}`
	none, own := map[string]any{}, map[string]any{"keys": map[string]string{"f": "x"}}
	for _, c := range []struct {
		settings map[string]any
		key      string
		how      map[string]any
		want     string
	}{
		{none, "f", none, "f"}, {none, "ArrowLeft", none, "ArrowLeft"}, {none, " ", none, " "},
		{own, "x", none, "f"}, {own, "f", none, ""}, {own, "g", none, "g"},
		{own, "x", map[string]any{"ctrlKey": true}, "x"},
		{map[string]any{"letters": false}, "f", none, ""}, {map[string]any{"letters": false}, "Enter", none, "Enter"},
		{none, "F", map[string]any{"modifierCapsLock": true}, "f"},
		{none, "s", map[string]any{"modifierCapsLock": true, "shiftKey": true}, "S"},
	} {
		if got := js[string](t, pressed, c.settings, c.key, c.how); got != c.want {
			t.Errorf("%q with %v %v: %q, want %q", c.key, c.settings, c.how, got, c.want)
		}
	}
}

// A text without a translation is its English; values stand where their names stand, and what
// has no value stays.
func TestTextsAndNumbers(t *testing.T) {
	for _, c := range []struct {
		text   string
		values map[string]any
		want   string
	}{
		{"frame {frame}", map[string]any{"frame": 12}, "frame 12"},
		{"{a} of {a}", map[string]any{"a": "x"}, "x of x"},
		{"{a} and {b}", map[string]any{"a": 0}, "0 and {b}"},
		{"{a}", map[string]any{"a": nil}, ""},
		{"past {az 0}", map[string]any{"az": 1}, "past {az 0}"},
	} {
		if got := js[string](t, `(a, b) => logic.texts.t(a, b)`, c.text, c.values); got != c.want {
			t.Errorf("%q with %v: %q, want %q", c.text, c.values, got, c.want)
		}
	}
	for in, want := range map[string]string{"-3": "−3", "2.35": "2.35", "v1.2.3": "v1.2.3", "-0.5 m": "−0.5 m", "-0": "0", "-0.00": "0.00", "-0.04": "−0.04"} {
		if got := js[string](t, `(s) => logic.written.written(s)`, in); got != want {
			t.Errorf("%q is written %q, want %q", in, got, want)
		}
	}
	if got := js[string](t, `(n, d) => logic.written.fixed(n, d)`, -2.345, 2); got != "−2.35" && got != "−2.34" {
		t.Errorf("-2.345 is written %q", got)
	}
}

// known are facts as the server tells them, one of them beyond what anybody has.
func known() logbook.Workshop {
	return logbook.Workshop{
		Facts: map[string]logbook.Fact{"curve-radius": {Value: 9.5306, Half: 0.41, From: "clip", DoneOn: "2026-11-05"}, "curve-speed": {Value: 70, Half: 1, From: "clip"}, "leg": {Value: 1, From: "card"}, "curve-lean": {Value: 24.2, Half: 2, From: "clip"}},
		Lists: map[string]logbook.FactList{"plants": {Values: []float64{0.1234, -0.05}, From: "clip"}},
	}
}

// A question is filled in the browser as the server fills it: what is known, else what is usual;
// what nobody can have is not taken, and what is optional stays open.
func TestQuestionsAreFilledAsInTheServer(t *testing.T) {
	for _, q := range workshop.For("high-jump") {
		got := js[workshop.Values](t, `(q, k) => logic.reckon.filled(q, k)`, plain(t, q), plain(t, known()))
		want := known().Values(q)
		if len(got) != len(want) {
			t.Errorf("%s: %d inputs are filled, by the server %d", q.ID, len(got), len(want))
		}
		for id, w := range want {
			if g := got[id]; math.Abs(g.Value-w.Value) > 0.005 || math.Abs(g.Half-w.Half) > 1e-3 {
				t.Errorf("%s, %s: %+v, by the server %+v", q.ID, id, g, w)
			}
		}
	}
	start := js[workshop.Values](t, `(q, k) => logic.reckon.filled(q, k)`, plain(t, question(t, "start")), plain(t, known()))
	if !reflect.DeepEqual(start["plants"].List, []float64{0.12, -0.05}) {
		t.Errorf("plants %+v", start["plants"])
	}
	if _, open := start["wind"]; open {
		t.Error("an optional input stands there without being known")
	}
}

func question(t *testing.T, id string) workshop.Question {
	t.Helper()
	q, ok := workshop.Find(id)
	if !ok {
		t.Fatalf("no question %s", id)
	}
	return q
}

// plain is a value as JSON has it.
func plain(t *testing.T, v any) (out any) {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		t.Fatal(err)
	}
	return out
}

// A sheet that was left comes back; what nobody changed is as it is known now, what was typed
// stays, and what is damaged begins anew.
func TestASheetComesBack(t *testing.T) {
	const begun = `(q, left, now) => {
		localStorage.clear();
		logic.reckon.goesOn("a", "high-jump", q, left);
		return logic.reckon.begun("a", "high-jump", q, now) ?? null;
	}`
	type sheet struct {
		Variants []struct {
			Name   string
			Values workshop.Values
		}
		At int
	}
	q := question(t, "high-plan")
	left := js[object](t, `(q, k) => logic.reckon.fresh(q, k)`, plain(t, q), plain(t, known()))
	values := left["variants"].([]any)[0].(object)["values"].(object)
	values["out"] = object{"value": 1.2, "half": 0.1}
	later := known()
	later.Facts["curve-radius"] = logbook.Fact{Value: 10.1, Half: 0.3, From: "clip"}
	later.Facts["plant-out"] = logbook.Fact{Value: 0.8, Half: 0.1, From: "clip"}
	got := js[sheet](t, begun, plain(t, q), left, plain(t, later))
	if len(got.Variants) != 1 || got.Variants[0].Values["radius"].Value != 10.1 || got.Variants[0].Values["out"].Value != 1.2 {
		t.Errorf("it comes back as %+v", got)
	}
	for name, bad := range map[string]any{"no variants": object{"variants": []any{}}, "five": object{"variants": []any{1, 2, 3, 4, 5}}, "a word": "x", "no values": object{"variants": []any{object{"name": "a"}}}} {
		if got := js[*sheet](t, begun, plain(t, q), bad, nil); got != nil {
			t.Errorf("%s comes back as %+v", name, got)
		}
	}
	if n := js[int](t, `() => { localStorage.setItem("neo.workshop.a.b", "1"); localStorage.setItem("neo.other", "1"); logic.recall.forgetAll("neo.workshop."); return localStorage.length }`); n != 1 {
		t.Errorf("%d things are left after forgetting", n)
	}
}

// An input is written as finely as its slider goes.
func TestDecimals(t *testing.T) {
	for step, want := range map[float64]int{1: 0, 0.5: 1, 0.25: 1, 0.1: 1, 0.05: 2, 0.01: 2, 0.005: 3, 50: 0} {
		if got := js[int](t, `(step) => logic.reckon.decimals({ step })`, step); got != want {
			t.Errorf("a step of %v: %d decimals, want %d", step, got, want)
		}
	}
}

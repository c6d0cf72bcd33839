package e2e

import (
	"math"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"

	"neokinema/internal/planning"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// wire is a way to a house that can be cut.
func wire(t *testing.T, to string) (from string, cut *atomic.Bool) {
	t.Helper()
	u, err := url.Parse(to)
	if err != nil {
		t.Fatal(err)
	}
	through := httputil.NewSingleHostReverseProxy(u)
	cut = &atomic.Bool{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if cut.Load() {
			panic(http.ErrAbortHandler)
		}
		through.ServeHTTP(w, r)
	}))
	t.Cleanup(s.Close)
	return s.URL, cut
}

// squad are athletes of a coach, the first with an open cue at the hammer.
func trackSquad(t *testing.T, c *testenv.Client) (cued store.Attempt, other store.Athlete) {
	t.Helper()
	var anna store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Anna Holm"), 200, &anna)
	c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: anna.ID, Event: "hammer", DoneOn: time.Now().AddDate(0, 0, -3).Format(time.DateOnly), Setting: "practice", Condition: "fresh"}, 200, &cued)
	c.Do("POST", "/api/attempts/"+cued.ID.String()+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "advice", Key: "main", Value: workspace.Value(store.Advice{Fault: "x", Focus: "outward", Words: "Wait for the ball", Target: "wide_hands"})}}}, 200, nil)
	c.Do("POST", "/api/athletes", testenv.Athlete("Bea Lund"), 200, &other)
	return cued, other
}

// begin opens the track and begins with everybody.
func begin(s *testenv.Screen, url string) {
	s.T.Helper()
	s.Open(url+"/track", "[data-testid=start]")
	for _, p := range s.MustElements("[data-person]") {
		p.MustClick()
	}
	if !s.MustElementR("button", "^Begin").MustDisabled() {
		s.T.Error("it begins before anybody has looked whether it is safe")
	}
	s.Button("I have looked")
	s.Button("^Begin")
	s.See("[data-testid=turn]")
}

// turnOf takes an athlete's turn.
func turnOf(s *testenv.Screen, name string) {
	s.T.Helper()
	s.MustElementR("[aria-label='Who is here'] button", name).MustClick()
	s.Until(func() bool {
		return strings.HasPrefix(s.See("[aria-label='Who is here'] button[aria-current]").MustText(), name)
	}, "it is the turn of %s", name)
}

// kept counts the notes that wait on this phone.
func waits(s *testenv.Screen) string {
	s.T.Helper()
	return s.MustEval(`() => document.querySelector("[data-testid=sent]")?.dataset.waiting ?? ""`).Str()
}

// TestASessionWithoutANetwork: a coach with a phone opens the track, the network goes, and a whole
// session follows: film, marks, a foul with its reason, kept and lost, other words, a try changed and
// one taken out, the page closed and opened again, the end. When the network is back the team has
// all of it.
func TestASessionWithoutANetwork(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	cued, bea := trackSquad(t, c)
	url, cut := wire(t, h.URL)
	film := filepath.Join(t.TempDir(), "try.mp4")
	if err := (testenv.Numbered{Width: 640, Height: 360, Frames: 60, Rate: 30}).Make(film); err != nil {
		t.Fatal(err)
	}
	s := h.Screen(t, browser, c)
	defer s.Done()
	if err := (proto.NetworkSetBypassServiceWorker{Bypass: false}).Call(s); err != nil {
		t.Fatal(err)
	}
	s.Hand(390, 844)
	s.Open(url+"/track", "[data-testid=start]")
	s.Until(func() bool { return s.MustEval(`() => !!navigator.serviceWorker.controller`).Bool() }, "the worker is there")
	// Once more with the worker, so that it has seen all of it.
	begin(s, url)
	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-seen").then((c) => c.keys()).then((k) => k.some((r) => r.url.endsWith("/api/track")))`).Bool()
	}, "what is needed is kept")
	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-shell").then((c) => c.keys()).then((k) => k.some((r) => /workshop\.wasm/.test(r.url)) && k.some((r) => /assets\/track/.test(r.url)))`).Bool()
	}, "the page is kept")
	cut.Store(true)

	const first = "Anna"
	turnOf(s, first)
	s.Until(func() bool { return s.See("[data-testid=words]").MustText() == "Wait for the ball" }, "the cue is there")
	s.See("[data-testid=film]").MustSetFiles(film)
	s.See("[name=mark]").MustInput("58.40")
	s.Button("^Kept$")
	s.MustElementR("[role=radio]", "^4$").MustClick()
	s.Button("Keep, next athlete")
	turnOf(s, "Bea")
	s.Choose("[name=event]", "Shot put")
	s.See("[aria-label=Foul]").MustClick()
	s.Button("^over the rim$")
	s.Button("Keep, next athlete")
	turnOf(s, first)
	// The last try is looked at under its cue: an angle by three taps.
	s.See("[data-testid=look]")
	s.Button("^Angle$")
	for _, p := range [][2]float64{{0.4, 0.3}, {0.5, 0.6}, {0.6, 0.3}} {
		b := s.See("[data-testid=taps]").MustShape().Box()
		s.Mouse.MustMoveTo(b.X+b.Width*p[0], b.Y+b.Height*p[1])
		s.Mouse.MustClick(proto.InputMouseButtonLeft)
	}
	s.Until(func() bool { return strings.Contains(s.See("[data-testid=angle]").MustText(), "±") }, "the angle has its doubt")
	// Other words, a lost one, and one that was none.
	s.Button("Other words")
	s.See("[name=own]").MustInput("Ball before you")
	s.Button("^Say$")
	s.See("[name=mark]").MustInput("55.10")
	s.Button("^Lost$")
	s.Button("Keep, next athlete")
	turnOf(s, first)
	s.See("[name=mark]").MustInput("1.00")
	s.Button("Keep, next athlete")
	turnOf(s, first)
	s.See("[aria-label='Take try 3 out']").MustClick()
	s.Until(func() bool { return len(s.MustElements("[data-try]")) == 2 }, "the try is out")
	// The mark of the first was read wrong.
	s.See("[data-try='1']").MustClick()
	s.See("[name=mark]").MustSelectAllText().MustInput("58.04")
	s.Button("Keep the change")
	if waits(s) == "0" {
		t.Error("nothing waits, though there is no network")
	}

	// The page is closed, and opened again without a network.
	s.MustNavigate("about:blank")
	s.MustNavigate(url + "/track")
	s.See("[data-testid=turn]")
	turnOf(s, first)
	s.Until(func() bool { return len(s.MustElements("[data-try]")) == 2 }, "the tries are there")
	if text := s.See("[data-try='1']").MustText(); !strings.Contains(text, "58.04") || !strings.Contains(text, "film") {
		t.Errorf("the first try: %q", text)
	}
	s.Button("^End$")
	s.Button("End the session")
	s.See("[data-testid=start]")

	cut.Store(false)
	s.MustNavigate("about:blank")
	s.MustNavigate(url + "/track")
	s.See("[data-testid=start]")
	var tr planning.Track
	s.Until(func() bool {
		c.Do("GET", "/api/track", nil, 200, &tr)
		return len(tr.Joined.Tries) == 3 && s.MustEval(`() => Object.keys(localStorage).filter((k) => k.startsWith("neo.track.note") || k.startsWith("neo.track.done")).length`).Int() == 0
	}, "the team has all of it")
	found := map[string]store.Attempt{}
	for _, x := range tr.Joined.Tries {
		id, err := uuid.Parse(x.ID)
		if err != nil {
			t.Fatal(err)
		}
		a, ok := c.Now(id)
		if !ok {
			t.Fatalf("%+v is no attempt of %+v", x, tr.Joined.Tries)
		}
		found[a.Mark+a.Foul] = a
	}
	if a := found["58.04"]; a.Kept != "kept" || a.Words != "Wait for the ball" || a.Felt == nil || *a.Felt != 4 || a.AthleteID != cued.AthleteID {
		t.Errorf("the first: %+v", found)
	}
	if a := found["55.10"]; a.Kept != "lost" || a.Words != "Ball before you" {
		t.Errorf("the second: %+v", a)
	}
	if len(found) != 3 || found["1.00"].Mark != "" {
		t.Errorf("%+v", found)
	}
	// The film belongs to its try.
	first58 := found["58.04"].ID
	s.Until(func() bool {
		var n int
		err := h.Store.DB.Get(&n, `SELECT count(*) FROM clips WHERE attempt_id = $1`, first58)
		return err == nil && n == 1
	}, "the film is with its try")
	// Once: when nothing is on the shelf any more, it is still the only one.
	s.Until(func() bool {
		return s.MustEval(`() => caches.open("neo-unsent").then((c) => c.keys()).then((k) => k.length)`).Int() == 0
	}, "nothing is on its way")
	var films int
	if err := h.Store.DB.Get(&films, `SELECT count(*) FROM clips WHERE attempt_id = $1`, first58); err != nil || films != 1 {
		t.Errorf("%d films of one try, %v", films, err)
	}
	var v planning.View
	c.Do("GET", "/api/athletes/"+cued.AthleteID.String()+"/season", nil, 200, &v)
	if len(v.Trainings) != 1 || v.Trainings[0].Tries != 2 || v.Trainings[0].AttemptID == nil || v.Trainings[0].DoneOn != time.Now().Format(time.DateOnly) {
		t.Errorf("done: %+v", v.Trainings)
	}
	v = planning.View{}
	c.Do("GET", "/api/athletes/"+bea.ID.String()+"/season", nil, 200, &v)
	if len(v.Trainings) != 1 || v.Trainings[0].Tries != 1 {
		t.Errorf("done by the other: %+v", v.Trainings)
	}
}

// TestTwoPhonesAtTheTrack: what two phones wrote of one try is told to who comes second, and a minor
// without a guardian's consent is not filmed.
// At a competition the phone says how the next attempt is taken, and a step goes one picture on.
func TestACompetitionAtTheTrack(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	cued, _ := trackSquad(t, c)
	for k := range 10 { // of the weeks before: four of ten did not count
		a := store.NewAttempt{AthleteID: cued.AthleteID, Event: "hammer", DoneOn: time.Now().AddDate(0, 0, -7).Format(time.DateOnly), Setting: "practice", Condition: "fresh", Mark: "48.20 m"}
		if k < 4 {
			a.Mark, a.Foul = "", "sector"
		}
		c.Do("POST", "/api/attempts", a, 200, nil)
	}
	film := filepath.Join(t.TempDir(), "try.mp4")
	if err := (testenv.Numbered{Width: 640, Height: 360, Frames: 60, Rate: 25}).Make(film); err != nil {
		t.Fatal(err)
	}
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Hand(390, 844)
	s.Open(h.URL+"/track", "[data-testid=start]")
	s.See("[data-testid=meet]").MustClick()
	begin(s, h.URL)
	standing := func(want string) {
		t.Helper()
		turnOf(s, "Anna")
		s.Until(func() bool { return strings.Contains(s.See("[data-testid=standing]").MustText(), want) }, want)
	}
	standing("Attempt 1: as practised")
	for _, want := range []string{"Attempt 2: a safe one", "Attempt 3: a safe one"} {
		s.See("[aria-label=Foul]").MustClick()
		s.Button("^sector$")
		s.Button("Keep, next athlete")
		standing(want)
	}
	s.See("[name=mark]").MustInput("47.90 m")
	s.See("[data-testid=film]").MustSetFiles(film)
	s.Button("Keep, next athlete")
	standing("Attempt 4: all of it")
	s.Says("Best 47.90 m.")
	// The high jump has no such order.
	s.Choose("[name=event]", "High jump")
	if s.MustHas("[data-testid=standing]") {
		t.Error("heights are no series")
	}
	// A step is one picture of this film, 1/25 s, both ways.
	s.Choose("[name=event]", "Hammer")
	at := func() float64 { return s.See("[data-testid=look] video").MustEval(`() => this.currentTime`).Num() }
	s.Until(func() bool { return at() > 0.2 }, "the film runs")
	s.See("[aria-label='One frame on']").MustClick()
	from := at()
	for _, c := range []struct {
		press string
		by    float64
	}{{"on", 1}, {"on", 2}, {"back", 1}, {"back", 0}} {
		s.See("[aria-label='One frame " + c.press + "']").MustClick()
		if got := (at() - from) * 25; math.Abs(got-c.by) > 0.05 {
			t.Errorf("%s: %.2f pictures from where it began, want %g", c.press, got, c.by)
		}
	}
}

func TestTwoPhonesAtTheTrack(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var anna, child store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Anna Holm"), 200, &anna)
	young := testenv.Athlete("Cim Young")
	young.Born = time.Now().Year() - 12
	c.Do("POST", "/api/athletes", young, 200, &child)
	a := h.Screen(t, browser, c)
	defer a.Done()
	begin(a, h.URL)
	turnOf(a, "Anna")
	a.Choose("[name=event]", "Discus")
	a.See("[name=mark]").MustInput("50.00")
	a.Button("Keep, next athlete")
	a.Until(func() bool { return waits(a) == "0" }, "the first try is with the team")
	// A film goes with its try while there is a network, without another visit.
	film := filepath.Join(t.TempDir(), "try.mp4")
	if err := (testenv.Numbered{Width: 640, Height: 360, Frames: 60, Rate: 30}).Make(film); err != nil {
		t.Fatal(err)
	}
	turnOf(a, "Anna")
	a.See("[data-testid=film]").MustSetFiles(film)
	a.Button("Keep, next athlete")
	a.Until(func() bool {
		var n int
		err := h.Store.DB.Get(&n, `SELECT count(*) FROM clips c JOIN attempts t ON t.id = c.attempt_id WHERE t.athlete_id = $1`, anna.ID)
		return err == nil && n == 1
	}, "the film is with its try")
	// No consent: no film, and a word why.
	turnOf(a, "Cim")
	a.Says("No guardian’s consent is noted")
	if a.MustHas("[data-testid=film]") {
		t.Error("a minor without consent can be filmed")
	}
	a.Button("A guardian agreed today")
	a.See("[data-testid=film]")

	b := h.Screen(t, browser, c)
	defer b.Done()
	begin(b, h.URL)
	turnOf(b, "Anna")
	b.See("[data-try='1']")
	change := func(s *testenv.Screen, mark string) {
		turnOf(s, "Anna")
		s.Network(0, 0)
		s.See("[data-try='1']").MustClick()
		s.See("[name=mark]").MustSelectAllText().MustInput(mark)
		s.Button("Keep the change")
		s.Until(func() bool { return waits(s) == "1" }, "the change waits")
	}
	change(a, "50.10")
	change(b, "50.20")
	a.Network(-1, 0)
	a.MustEval(`() => dispatchEvent(new Event("online"))`)
	a.Until(func() bool { return waits(a) == "0" }, "the first phone has joined")
	b.Network(-1, 0)
	b.MustEval(`() => dispatchEvent(new Event("online"))`)
	b.Until(func() bool { return waits(b) == "0" }, "the second phone has joined")
	text := b.See("[data-testid=told]").MustText()
	if !strings.Contains(text, "“50.20” stands") || !strings.Contains(text, "“50.10”") || !strings.Contains(text, "Anna Holm, mark") {
		t.Errorf("told: %q", text)
	}
	b.Button("^Seen$")
	b.Until(func() bool { return !b.MustHas("[data-testid=told]") }, "it was seen")
}

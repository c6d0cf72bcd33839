package api_test

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"neokinema/core/azimuth"
	"neokinema/core/sport"
	"neokinema/internal/intake"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// The queue is searched, narrowed, put in order and cut into pages by the server, however long
// it is; nothing in a search is taken for a pattern.
func TestQueueOfThousands(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	_, err := h.Store.DB.Exec(`INSERT INTO attempts (team_id, athlete_id, event, done_on, session, place, mark, implement, condition, setting, coach_focus, injury_note, state)
		SELECT team_id, athlete_id, CASE n % 3 WHEN 0 THEN 'hammer' WHEN 1 THEN 'long-jump' ELSE 'running' END, DATE '2020-01-01' + n, 'session ' || n, '', n || '.5%', '', 'fresh', 'practice', '', '',
			CASE n % 4 WHEN 0 THEN 'sent' WHEN 1 THEN 'ready' WHEN 2 THEN 'in_work' ELSE 'new' END
		FROM attempts, generate_series(1, 2000) AS n WHERE id = $1`, at.ID)
	if err != nil {
		t.Fatal(err)
	}
	ask := func(query string) (p store.QueuePage) {
		t.Helper()
		c.Do("GET", "/api/queue?"+query, nil, http.StatusOK, &p)
		return p
	}
	all := ask("limit=200")
	if all.Total != 2001 || len(all.Lines) != 200 || all.States["new"] != 501 || all.States["sent"] != 500 {
		t.Fatalf("%d of %d lines, %v", len(all.Lines), all.Total, all.States)
	}
	// Pages follow each other without a gap and without a line twice.
	seen := map[string]bool{}
	for off := 0; off < 2001; off += 200 {
		for _, l := range ask(fmt.Sprintf("limit=200&offset=%d", off)).Lines {
			seen[l.ID.String()] = true
		}
	}
	if len(seen) != 2001 {
		t.Errorf("%d different lines on all pages", len(seen))
	}
	if !slices.IsSortedFunc(all.Lines, func(a, b store.QueueItem) int { return strings.Compare(b.DoneOn, a.DoneOn) }) || all.Lines[0].State != "new" {
		t.Error("what is next does not come first, the newest before older")
	}
	for query, n := range map[string]int{
		"state=sent": 500, "event=hammer": 666, "event=hammer&state=sent": 166,
		"find=" + url.QueryEscape("session 1999"): 1, "find=HAMMER+throw": 0, "find=hammer": 666, "find=long": 667,
		"find=" + url.QueryEscape("7.5%"): 200, "find=" + url.QueryEscape("%"): 2000, "find=" + url.QueryEscape("_"): 0, "find=" + url.QueryEscape(`\`): 0, "find=" + url.QueryEscape("'; DROP TABLE attempts; --"): 0,
	} {
		p := ask(query)
		want := n
		if strings.HasPrefix(query, "find=7") { // 7.5%, 17.5% ... 1997.5%
			want = 200
		}
		if p.Total != want {
			t.Errorf("%s: %d lines, want %d", query, p.Total, want)
		}
	}
	if p := ask("state=sent"); p.States["new"] != 501 {
		t.Errorf("narrowed to one state the others count %v", p.States)
	}
	if _, status := c.Try("GET", "/api/queue?by=nonsense", nil); status != 422 && status != 400 {
		t.Errorf("an order that there is none of: %d", status)
	}
	for by, less := range map[string]func(a, b store.QueueItem) int{
		"newest": func(a, b store.QueueItem) int { return strings.Compare(b.DoneOn, a.DoneOn) },
		"event":  func(a, b store.QueueItem) int { return place(a.Event) - place(b.Event) },
	} {
		if p := ask("limit=200&find=5&by=" + by); len(p.Lines) != 200 || !slices.IsSortedFunc(p.Lines, less) {
			t.Errorf("by %s the lines stand in another order", by)
		}
	}
	// What is next follows the same order, over those that were not sent yet.
	var next struct{ ID string }
	c.Do("GET", "/api/queue/after/"+all.Lines[0].ID.String(), nil, http.StatusOK, &next)
	if next.ID != all.Lines[1].ID.String() {
		t.Errorf("behind the first comes %s", next.ID)
	}
	last := ask("state=ready&limit=200&offset=400").Lines
	c.Do("GET", "/api/queue/after/"+last[len(last)-1].ID.String(), nil, http.StatusOK, &next)
	if next.ID != all.Lines[0].ID.String() {
		t.Errorf("behind the last that is open comes %s", next.ID)
	}
	// Text is packed, but not what is asked for in pieces.
	for piece, packed := range map[string]string{"": "gzip", "bytes=0-": ""} {
		req, _ := http.NewRequest("GET", c.URL+"/api/queue", nil)
		req.Header.Set("Accept-Encoding", "gzip")
		if piece != "" {
			req.Header.Set("Range", piece)
		}
		res, err := c.HTTP.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if got := res.Header.Get("Content-Encoding"); got != packed {
			t.Errorf("with the range %q it is packed by %q", piece, got)
		}
	}
	if other := h.Coach(t); len(other.Queue()) != 0 {
		t.Error("another team sees them")
	}
}

// place is where an event stands in lists.
func place(event string) int {
	return slices.IndexFunc(sport.Events(), func(e sport.Event) bool { return string(e.ID) == event })
}

// A page hears of a change when it happens, and of those of its own team alone.
func TestChangesAreHeard(t *testing.T) {
	t.Parallel()
	c, other := h.Coach(t), h.Coach(t)
	at := c.Attempt()
	listen := func(c *testenv.Client) (next func() string) {
		ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
		t.Cleanup(cancel)
		req, err := http.NewRequestWithContext(ctx, "GET", c.URL+"/api/changes", nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := c.HTTP.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { res.Body.Close() })
		if kind := res.Header.Get("Content-Type"); res.StatusCode != http.StatusOK || kind != "text/event-stream" {
			t.Fatalf("%d, %s", res.StatusCode, kind)
		}
		lines := bufio.NewScanner(res.Body)
		return func() string {
			for lines.Scan() {
				if v, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
					return v
				}
			}
			t.Fatal("the stream ended: ", lines.Err())
			return ""
		}
	}
	mine := listen(c)
	before := mine()
	theirs := listen(other)
	stands := theirs()
	c.Do("PUT", "/api/attempts/"+at.ID.String()+"/state", map[string]string{"state": "ready"}, http.StatusOK, nil)
	if after := mine(); after == before {
		t.Error("the stamp is the same after a change")
	}
	// The other team hears of its own change next, and of nothing before it.
	other.Do("POST", "/api/athletes", testenv.Athlete("Somebody"), http.StatusOK, nil)
	if now := theirs(); now == stands {
		t.Error("a word without a change of their own")
	}
	stamp, err := h.Store.Stamp(context.Background(), other.User.TeamID)
	if err != nil || fmt.Sprint(stamp) == stands {
		t.Errorf("stamp %d, %v", stamp, err)
	}
}

// A cue that names a direction is told in the queue as the coach names directions, and as it lies
// for the athlete's hand; another way of naming them shows at once.
func TestCuesOfTheQueueNameDirections(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	athlete := testenv.Athlete("Left Hand")
	athlete.ThrowingHand = "left"
	var who store.Athlete
	c.Do("POST", "/api/athletes", athlete, http.StatusOK, &who)
	add := func(day string) (at store.Attempt) {
		c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: who.ID, Event: "hammer", DoneOn: day, Condition: "fresh", Setting: "practice"}, http.StatusOK, &at)
		return at
	}
	first, _ := add("2026-03-01"), add("2026-03-08")
	c.Drafted(first.ID, []workspace.Edit{{Kind: "advice", Key: "main", Value: workspace.Value(store.Advice{Fault: "H1", Target: "wide_hands", Words: "Let the ball run past {az 90} first"})}})
	said := func() [2]string {
		lines := c.Queue()
		i := slices.IndexFunc(lines, func(l store.QueueItem) bool { return l.ID == first.ID })
		return [2]string{lines[i].Cue, lines[1-i].LastCue}
	}
	for _, l := range []azimuth.Language{azimuth.Degrees, azimuth.ClockBack} {
		c.Do("PUT", "/api/me/directions", map[string]any{"directions": l}, http.StatusNoContent, nil)
		want := "Let the ball run past " + azimuth.Say(90, true, l) + " first"
		if got := said(); got != [2]string{want, want} {
			t.Errorf("%s: %q, want %q", l, got, want)
		}
	}
}

// A team gets a clip to try with an athlete and an attempt of its own, which it can delete; the
// team beside it sees nothing of that.
func TestClipToTry(t *testing.T) {
	t.Parallel()
	c, other := h.Coach(t), h.Coach(t)
	var at store.Attempt
	c.Do("POST", "/api/sample", nil, http.StatusOK, &at)
	lines := c.Queue()
	if len(lines) != 1 || lines[0].ID != at.ID || lines[0].Athlete != "Sample athlete" || lines[0].Clips != 1 {
		t.Fatalf("%+v", lines)
	}
	if n := len(other.Queue()); n != 0 {
		t.Errorf("another team has %d attempts of it", n)
	}
	c.Do("DELETE", "/api/attempts/"+at.ID.String(), nil, http.StatusOK, nil)
	if n := len(c.Queue()); n != 0 {
		t.Errorf("%d attempts are left", n)
	}
}

// TestNews: what athletes wrote back and which drafts ended since a moment is told once, and to
// nobody else's coach.
func TestNews(t *testing.T) {
	t.Parallel()
	c, other := h.Coach(t), h.Coach(t)
	at, clip := worked(t, c)
	ask := func(c *testenv.Client, since time.Time) (n store.News) {
		t.Helper()
		path := "/api/news"
		if !since.IsZero() {
			path += "?since=" + url.QueryEscape(since.Format(time.RFC3339Nano))
		}
		c.Do("GET", path, nil, http.StatusOK, &n)
		return n
	}
	begin := ask(c, time.Time{})
	if len(begin.Answers) != 0 || begin.At.IsZero() {
		t.Fatalf("%+v", begin)
	}
	h.Guest(t).Do("PUT", "/api/shared/"+linkOf(c, at.ID).Secret+"/answer", map[string]string{"text": "Felt lighter."}, http.StatusNoContent, nil)
	n := ask(c, begin.At)
	if len(n.Answers) != 1 || n.Answers[0].AttemptID != at.ID || n.Answers[0].Says != "Felt lighter." || n.Answers[0].Athlete == "" {
		t.Errorf("%+v", n)
	}
	if again := ask(c, n.At); len(again.Answers) != 0 {
		t.Errorf("told twice: %+v", again)
	}
	if n := ask(other, begin.At); len(n.Answers) != 0 {
		t.Errorf("told to another team: %+v", n)
	}
	c.Do("GET", "/api/news?since=yesterday", nil, http.StatusUnprocessableEntity, nil)

	// Drafts count when they end, and as long as they wait.
	for _, state := range []string{"drafting", "done"} {
		if _, err := h.Store.DB.Exec(`INSERT INTO drafts (clip_id, team_id, state, wish, job_id) VALUES ($1, $2, $3, '{}', 0)
			ON CONFLICT (clip_id) DO UPDATE SET state = $3, changed_at = clock_timestamp()`, clip.ID, c.User.TeamID, state); err != nil {
			t.Fatal(err)
		}
		want := [2]int{0, 1}
		if state == "done" {
			want = [2]int{1, 0}
		}
		if n := ask(c, begin.At); [2]int{n.Drafted, n.Drafting} != want {
			t.Errorf("%s: %d drafted, %d wait", state, n.Drafted, n.Drafting)
		}
	}
}

// TestQueueReadsAhead: the queue says what was found in an attempt that nobody opened, and says it
// anew after a change.
func TestQueueReadsAhead(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip := worked(t, c)
	line := func() store.QueueItem {
		for _, l := range c.Queue() {
			if l.ID == at.ID {
				return l
			}
		}
		t.Fatal("the attempt is not in the queue")
		return store.QueueItem{}
	}
	testenv.Until(t, "the attempt is read", func() bool { return line().Found != nil })
	first := line()
	if first.Questions == 0 || first.Carries == "" {
		t.Errorf("a clip without rate and points: %d questions, %q", first.Questions, first.Carries)
	}
	// As the Bench does: what was changed, and at the end how long it took.
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: 240, View: "side", Direction: 1}, http.StatusOK, nil)
	path := "/api/attempts/" + at.ID.String()
	c.Do("POST", path+"/edits", workspace.Edits{Base: 1, Edits: []workspace.Edit{{Kind: "flag", Clip: &clip.ID, Key: "move", Value: workspace.Value(5)}}}, http.StatusOK, nil)
	c.Do("PUT", path+"/time", map[string]int{"seconds": 5}, http.StatusNoContent, nil)
	testenv.Until(t, "it is read anew", func() bool { return line().Carries != first.Carries })
}

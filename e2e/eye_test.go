package e2e

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/eye"
	"neokinema/internal/api"
	"neokinema/internal/owndrills"
	"neokinema/internal/planning"
	"neokinema/internal/seeing"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
)

// drawn has enough clips for a set drawn.
func drawn(t *testing.T) {
	t.Helper()
	if err := h.App.Seeing.Fill(t.Context(), 14); err != nil {
		t.Fatal(err)
	}
}

// frame is the picture that a player shows.
func frame(s *testenv.Screen) int {
	n, err := strconv.Atoi(*s.See("canvas[data-frame]").MustAttribute("data-frame"))
	if err != nil {
		s.T.Error(err)
	}
	return n
}

// A set of ten by keys alone: choices by number, pictures by arrows, degrees by up and down, Enter on.
func TestASetForTheEyeByKeys(t *testing.T) {
	t.Parallel()
	drawn(t)
	c := h.Coach(t)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL, "header")
	s.Keyboard.MustType('e')
	s.See("[data-testid=eye-start]")
	s.Keyboard.MustType(input.Enter)
	var kinds []string
	for k := range 10 {
		s.Until(func() bool { return strings.HasPrefix(s.See("[data-testid=place]").MustText(), fmt.Sprint(k+1, " ")) }, fmt.Sprintf("exercise %d", k+1))
		s.See("[data-testid=exercise][data-answered=false]")
		kind := *s.See("[data-testid=exercise]").MustAttribute("data-kind")
		kinds = append(kinds, kind)
		s.See("canvas[data-frame]")
		switch kind {
		case "moment":
			s.Keyboard.MustType(input.ArrowRight)
			s.Until(func() bool { return s.See("[data-testid=play]").MustText() == "Play" }, "a step stops the clip")
			was := frame(s)
			s.Keyboard.MustType(input.ArrowLeft)
			s.Until(func() bool { return frame(s) == max(0, was-1) }, "one picture back")
			s.Keyboard.MustType(input.Enter)
		case "angle":
			s.Keyboard.MustType(input.ArrowUp)
			s.Says("Say 125°")
			s.Keyboard.MustType(input.Enter)
		default:
			s.Keyboard.MustType(input.Digit2)
		}
		s.See("[data-testid=told]")
		s.Keyboard.MustType(input.Enter)
	}
	s.See("[data-testid=score]")
	var e seeing.Eye
	if c.Do("GET", "/api/eye", nil, 200, &e); e.Answers != 10 {
		t.Errorf("%d answers are kept", e.Answers)
	}
	for _, want := range []string{"there", "angle"} {
		if !slices.Contains(kinds, want) {
			t.Errorf("%s was not asked for in %v", want, kinds)
		}
	}
}

// The same under a finger, with the network gone once: the answer waits for it and counts once.
func TestASetForTheEyeByTouch(t *testing.T) {
	t.Parallel()
	drawn(t)
	c := h.Coach(t)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Hand(390, 844)
	s.Open(h.URL+"/eye", "[data-testid=eye-start]")
	s.See("[data-testid=begin-set]").MustClick()
	for k := range 10 {
		s.Until(func() bool { return strings.HasPrefix(s.See("[data-testid=place]").MustText(), fmt.Sprint(k+1, " ")) }, fmt.Sprintf("exercise %d", k+1))
		s.See("[data-testid=exercise][data-answered=false]")
		give := func() {
			switch *s.See("[data-testid=exercise]").MustAttribute("data-kind") {
			case "moment":
				s.See("[aria-label='One picture on']").MustClick()
				s.See("[data-testid=this-one]").MustClick()
			case "angle":
				s.Button("^\\+5°$")
				s.See("[data-testid=say]").MustClick()
			default:
				s.See("[data-choice]").MustClick()
			}
		}
		if k == 3 {
			s.Network(0, 0)
		}
		give()
		if k == 3 {
			s.Says("No connection")
			if s.MustHas("[data-testid=told]") {
				t.Error("an answer is judged without a network")
			}
			s.Network(-1, 0)
		}
		s.See("[data-testid=told]")
		s.See("[data-testid=next]").MustClick()
	}
	s.See("[data-testid=score]")
	var e seeing.Eye
	if c.Do("GET", "/api/eye", nil, 200, &e); e.Answers != 10 {
		t.Errorf("%d answers are kept", e.Answers)
	}
}

// The library of drills: found by what goes wrong and by what there is, with figures that move, on paper.
func TestTheLibraryOfDrills(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL, "header")
	s.Keyboard.MustType('d')
	s.See("[data-testid=drills] [data-drill]")
	s.Keyboard.MustType('s')
	s.See("input[name=q]").MustInput("over-turned")
	s.Until(func() bool { return s.See("[data-testid=found]").MustText() == "1 drill" }, "one is for it")
	s.Says("Quarter turns on to a painted line")
	s.See("[data-drill]").MustClick()
	s.See("[data-testid=drill]")
	at := func() string {
		v := s.See("[data-testid=drill] canvas[data-frame]").MustAttribute("data-frame")
		return *v
	}
	was := at()
	s.Until(func() bool { return at() != was }, "the figure moves")
	s.Says("You should feel")
	s.Says("Stop when")
	link := *s.MustElementR("[data-testid=drill] a", "Card to print").MustAttribute("href")
	if raw := c.Do("GET", link, nil, 200, nil); !strings.HasPrefix(string(raw), "%PDF") {
		t.Error("the card is no PDF")
	}
	s.Keyboard.MustType(input.Escape)
	s.Until(func() bool { return !s.MustHas("[role=dialog]") }, "the card is closed")
	s.Choose("[name=needs]", "a mirror")
	s.Says("No drill fits all of that.")
	s.Button("Show all of them")
	s.Until(func() bool { return len(s.MustElements("[data-drill]")) > 100 }, "all of them are there")
	s.Choose("[name=needs]", "a mirror")
	s.Until(func() bool { return s.See("[data-testid=found]").MustText() == "1 drill" }, "one needs a mirror")
}

// The movement of the clip as it should be: drawn over its frames, taken out, halved or doubled.
func TestAGhostOverTheClip(t *testing.T) {
	t.Parallel()
	_, s, _ := startedWith(t, map[string]float64{"front-knee": 118})
	defer s.Done()
	s.Keyboard.MustType(input.KeyW)
	s.See("[data-finding=S2]").MustClick()
	s.See("[data-testid=to-ghost]").MustClick()
	s.See("[data-testid=ghost]")
	lines := func() string { return s.See("[data-testid=ghost] svg").MustHTML() }
	frame := func() string { return *s.See("[data-testid=ghost]").MustAttribute("data-frame") }
	out, first := lines(), frame()
	if strings.Contains(out, "NaN") || strings.Count(out, "<line") < 16 || !strings.Contains(out, "<image") {
		t.Errorf("%d lines: %s", strings.Count(out, "<line"), out)
	}
	s.See("[data-testid=ghost] [aria-label='One picture on']").MustClick()
	s.Until(func() bool { return frame() != first }, "another frame")
	s.See("[data-testid=ghost] [aria-label='One picture back']").MustClick()
	s.Until(func() bool { return frame() == first }, "the first again")
	s.Choose("[name=by]", "twice as much")
	s.Until(func() bool { return lines() != out }, "twice as much is another body")
	s.Keyboard.MustType(input.Escape)
	s.Until(func() bool { return !s.MustHas("[role=dialog]") }, "it is closed")
}

// An athlete's five on the phone, about her event and cue; the coach sees what came of them when both
// want it.
func TestAnAthletesFive(t *testing.T) {
	t.Parallel()
	drawn(t)
	c := h.Coach(t)
	at := c.Attempt()
	var key api.Secret
	c.Do("POST", "/api/athletes/"+at.AthleteID.String()+"/invitations", nil, 200, &key)
	a := h.Guest(t)
	a.Do("POST", "/api/join", map[string]string{"invitation": key.Secret, "email": "five" + at.ID.String()[:8] + "@club.example", "password": "long enough words"}, 200, nil)
	s := h.Screen(t, browser, a)
	defer s.Done()
	s.Hand(390, 844)
	s.Open(h.URL, "a[href='/eye']")
	s.See("a[href='/eye']").MustClick()
	s.See("[data-testid=agree]")
	s.Says("Your coach has not asked for it")
	s.See("[data-testid=agree] input").MustClick()
	s.Until(func() bool {
		var mine seeing.Shared
		a.Do("GET", "/api/eye/sharing", nil, 200, &mine)
		return mine.Agreed
	}, "the athlete agrees")
	s.See("[data-testid=begin-set]").MustClick()
	for !s.MustHas("[data-testid=score]") {
		s.AnswerExercise()
		s.See("[data-testid=next]").MustClick()
		s.See("[data-testid=score], [data-testid=exercise][data-answered=false]")
	}
	var mine seeing.Eye
	if a.Do("GET", "/api/eye", nil, 200, &mine); mine.Answers == 0 || mine.Answers > 5 {
		t.Errorf("%d answers of the athlete", mine.Answers)
	}

	b := h.Screen(t, browser, c)
	defer b.Done()
	b.Open(h.URL+"/athlete/"+at.AthleteID.String(), "main, header")
	b.Button("^Details$")
	b.See("[data-testid=athlete-eye]")
	b.Says("The athlete would show it.")
	b.See("[data-testid=athlete-eye] button").MustClick()
	b.Says(fmt.Sprintf("of %d answers", mine.Answers))
	b.Says("Sprint start")
	b.See("[data-testid=athlete-eye] button").MustClick()
	b.Says("The athlete would show it.")
	if strings.Contains(b.Text(), "As the athlete reads it") {
		t.Error("what the eye is worth is still shown")
	}
}

// A drill of the team's own: begun beside a clip on the Bench, with a stretch of it that plays; found among
// the others, changed, printed, deleted.
func TestADrillOfOnesOwn(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Bench(h, at.ID)
	s.See("[role=tab][title^=Clip]").MustClick()
	s.MustElementR("a", "Make a drill of it").MustClick()
	s.See("[data-testid=own-drill-form] input[name=name]").MustInput("Walk into the set")
	s.Choose("[name=drill-fault]", "Shoulders too far over the line in set")
	s.See("[name=feel]").MustInput("weight on hands and front foot")
	s.See("[name=ladder]").MustInput("without blocks\nin the blocks")
	s.See("[name=effort]").MustInput("40")
	move := func(name string, n int) {
		s.MustEval(`(name, n) => { const e = document.querySelector("[name=" + name + "]"); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, n); e.dispatchEvent(new Event("input", { bubbles: true })); }`, name, n)
	}
	s.See("[name=last]")
	move("first", 10)
	move("last", 40)
	s.Says("to picture 41")
	// What is filled in outlives the page.
	s.MustReload()
	s.Until(func() bool { return s.See("input[name=name]").MustProperty("value").String() == "Walk into the set" }, "the name is still there")
	s.See("[data-testid=own-drill-form] [type=submit]").MustClick()
	s.See("[data-testid=drill] video")
	s.Says("3 x 4 at 40 %")
	s.Says("weight on hands and front foot")
	var list []owndrills.View
	if c.Do("GET", "/api/own-drills", nil, 200, &list); len(list) != 1 || list[0].Clip == nil || *list[0].Clip != clip || list[0].First != 10 || list[0].Last != 40 || len(list[0].For) != 1 {
		t.Fatalf("%+v", list)
	}
	s.Until(func() bool {
		v := s.MustEval(`() => document.querySelector("[data-testid=drill] video").currentTime`).Num()
		return v > list[0].From+0.1 && v < list[0].To+0.2
	}, "its stretch of the clip plays")
	s.Button("^Change$")
	s.See("[name=mistake]").MustInput("hips drop")
	s.See("[data-testid=own-drill-form] [type=submit]").MustClick()
	s.Says("hips drop")
	// Whatever has the focus, the key is the card's while it lies over the page.
	s.MustEval(`() => document.activeElement.blur()`)
	s.Keyboard.MustType(input.Escape)
	s.Until(func() bool { return !s.MustHas("[role=dialog]") }, "the card is closed")
	s.Button("^Our own$")
	s.Until(func() bool { return s.See("[data-testid=found]").MustText() == "1 drill" }, "it alone")
	s.See("[data-drill]").MustClick()
	link := *s.MustElementR("[data-testid=drill] a", "Card to print").MustAttribute("href")
	if raw := c.Do("GET", link, nil, 200, nil); !strings.HasPrefix(string(raw), "%PDF") {
		t.Error("the card is no PDF")
	}
	s.Button("^Delete ...$")
	s.Button("^Delete for good$")
	s.Until(func() bool { return !s.MustHas("[data-drill='" + list[0].ID + "']") }, "it is gone")
}

// While the parts of the next screen are still on their way the Bench writes nothing more into the
// address: it is that of the next screen.
func TestALateScreenKeepsItsAddress(t *testing.T) {
	t.Parallel()
	c, at, clip := worked(t, h)
	s := h.Screen(t, browser, c)
	defer s.Done()
	parts := make(chan struct{})
	router := s.HijackRequests()
	router.MustAdd("*/assets/drills-*.js", func(h *rod.Hijack) {
		<-parts
		h.ContinueRequest(&proto.FetchContinueRequest{})
	})
	go router.Run()
	defer router.MustStop()
	s.Bench(h, at.ID)
	s.See("[role=tab][title^=Clip]").MustClick()
	s.MustElementR("a", "Make a drill of it").MustClick()
	s.Until(func() bool { return s.MustEval(`() => location.pathname`).Str() == "/drills" }, "the address is that of the drills")
	// What the Bench had still to write comes before this.
	s.MustEval(`() => new Promise((ok) => setTimeout(ok, 300))`)
	close(parts)
	s.See("[data-testid=own-drill-form]")
	if got, err := url.Parse(s.MustEval(`() => location.href`).Str()); err != nil || got.Query().Get("clip") != clip.String() {
		t.Errorf("%v %v", got, err)
	}
}

// A drill of the team's own goes with a cue, and its name leads to how it goes.
func TestAnOwnDrillGoesWithACue(t *testing.T) {
	t.Parallel()
	c, s, sh := startedWith(t, map[string]float64{"front-knee": 118})
	defer s.Done()
	d := testenv.OwnDrill()
	d.Faults, d.ClipID, d.Last = []string{"S2"}, &sh.Clips[0].ID, 60
	c.Do("POST", "/api/own-drills", d, 200, nil)
	s.MustReload()
	s.See("canvas[data-frame]")
	s.Keyboard.MustType(input.KeyW)
	s.See("[data-finding=S2]").MustClick()
	s.Button("^Accept")
	s.Button("^Main$")
	s.Choose("[data-advice=main] select", d.Name)
	s.Until(func() bool {
		main, ok := sheet(c, sh.Attempt.ID.String()).Work.Advice["main"]
		return ok && main.Drill.Name == d.Name && main.Drill.Dose.Says == "3 x 4 at 60 %" && len(main.Drill.Ladder) == 3
	}, "the cue has it")
	s.MustElementR("[data-advice=main] a", "How it goes").MustClick()
	s.See("[data-testid=drill] video")
	s.Says(d.Feel)
}

// A coach puts an athlete on a rung of a ladder, takes it away again, and looks up a rung's drill.
func TestALadderIsClimbed(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.AttemptAt("hammer", body.Person{Sex: body.Female, Height: 1.75, Mass: 80, ThrowingHand: body.Right})
	s := h.Screen(t, browser, c)
	defer s.Done()
	page := h.URL + "/athlete/" + at.AthleteID.String()
	s.Open(page, "[data-ladder]")
	toggle := "[data-ladder] button[aria-expanded]"
	s.Until(func() bool { return strings.Contains(s.See(toggle).MustText(), "rungs") }, "nobody stands on it")
	s.See(toggle).MustClick()
	s.See("[data-rung='2'] button").MustClick()
	s.Until(func() bool { return strings.HasPrefix(s.See(toggle).MustText(), "rung 3 of 8") }, "the third rung")
	s.Open(page, "[data-rung='2'][aria-current=step]")
	s.See("[data-rung='3'] button").MustClick()
	s.Until(func() bool { return s.MustHas("[data-rung='3'][aria-current=step]") }, "the fourth")
	var list []planning.Standing
	if c.Do("GET", "/api/athletes/"+at.AthleteID.String()+"/ladders", nil, 200, &list); len(list) != 1 || list[0].Rung != 3 || list[0].Since == "" {
		t.Errorf("%+v", list)
	}
	s.See("[data-rung='3'] button").MustClick()
	s.Until(func() bool { return strings.Contains(s.See(toggle).MustText(), "rungs") }, "the ladder is taken away")
	s.See("[data-rung='0'] a").MustClick()
	s.See("[data-testid=drill]")
	s.Says("Stop when")
}

// Clips of the team's own come among drawn ones, say so after the answer, and are left out for who wants it.
func TestOwnClipsInASet(t *testing.T) {
	t.Parallel()
	drawn(t)
	c, s, sh := startedWith(t, map[string]float64{"front-knee": 122})
	defer s.Done()
	path := "/api/attempts/" + sh.Attempt.ID.String()
	c.Do("POST", path+"/edits", workspace.Edits{Base: sh.Work.Revision, Edits: []workspace.Edit{{Kind: "finding", Key: "S2", Value: workspace.Value("accepted")}}}, 200, nil)
	c.Do("PUT", path+"/state", map[string]string{"state": "ready"}, 200, nil)
	for range 20 {
		a := store.EyeAnswer{ID: uuid.New(), Exercise: "demo", Kind: eye.There, Event: "shot", Fault: "G2", View: "side", Size: 1, There: true, Yes: true, Correct: true, At: time.Now()}
		if err := h.Store.AddEyeAnswer(t.Context(), c.User.TeamID, c.User.ID, a); err != nil {
			t.Fatal(err)
		}
	}
	set := func() (own int) {
		t.Helper()
		s.Open(h.URL+"/eye", "[data-testid=begin-set]")
		s.See("[data-testid=begin-set]").MustClick()
		for {
			s.AnswerExercise()
			if strings.Contains(s.See("[data-testid=told]").MustText(), "measured in your own clip") {
				own++
			}
			s.See("[data-testid=next]").MustClick()
			s.See("[data-testid=score], [data-testid=exercise][data-answered=false]")
			if s.MustHas("[data-testid=score]") {
				return own
			}
		}
	}
	if own := set(); own != 1 {
		t.Errorf("%d of one attempt", own)
	}
	s.Open(h.URL+"/eye", "[data-testid=begin-set]")
	s.See("[data-testid=eye-start] input[type=checkbox]").MustClick()
	if own := set(); own != 0 {
		t.Errorf("%d against the wish", own)
	}
}

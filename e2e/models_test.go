package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"neokinema/core/azimuth"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/internal/demo"
	"neokinema/internal/feedback"
	"neokinema/internal/intake"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam"
)

// clipOf finds the demo's first clip of an event.
func clipOf(t *testing.T, event string) ([]byte, simcam.Truth) {
	t.Helper()
	for _, n := range demo.ClipNames() {
		raw, truth, err := demo.Shipped(n)
		if err != nil {
			t.Fatal(err)
		}
		if truth.Event == event {
			return raw, truth
		}
	}
	t.Fatalf("the demo has no clip of %s", event)
	return nil, simcam.Truth{}
}

// TestEveryEventIsBrokenDown: in the browser, one clip of each event is flagged by
// hand from the first minute on, a question is answered with no, and the fault
// that it stands for is named, accepted and cued.
func TestEveryEventIsBrokenDown(t *testing.T) {
	t.Parallel()
	all, err := models.All()
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range all {
		t.Run(m.ID, func(t *testing.T) {
			t.Parallel()
			brokenDown(t, m)
		})
	}
}

func brokenDown(t *testing.T, m model.Model) {
	c := h.Coach(t)
	s := h.Screen(t, browser, c)
	defer s.Done()
	raw, truth := clipOf(t, m.ID)
	at := c.AttemptAt(m.ID, truth.Spec.Athlete)
	change := at.NewAttempt
	change.Variant = truth.Variant
	c.Do("PUT", "/api/attempts/"+at.ID.String(), change, 200, nil)
	clip := c.Imported(c.Upload(at.ID, "clip.mp4", raw, 1<<20))
	c.Do("PUT", "/api/clips/"+clip.ID.String(), intake.ClipAnswers{CaptureRate: truth.Spec.CaptureRate, View: truth.Spec.View(), Direction: 1}, 200, nil)
	s.Bench(h, at.ID)
	m = m.As(truth.Variant)
	flagged := flagByHand(s, truth, m)
	s.Until(func() bool { return len(sheet(c, at.ID.String()).Work.Clips[clip.ID].Flags) == flagged }, "%s: %d flags are saved", m.ID, flagged)
	r := sheet(c, at.ID.String()).Report()
	if flagged < 2 || len(r.Phases) == 0 || len(r.Problems) > 0 {
		t.Errorf("%s: %d flags, %d phases, %v", m.ID, flagged, len(r.Phases), r.Problems)
	}
	fault, question, position := byEye(m, truth)
	if fault.ID == "" {
		t.Fatalf("%s: no fault can be told by eye", m.ID)
	}
	s.See(fmt.Sprintf("[data-position='%s']", position)).MustClick()
	s.See(fmt.Sprintf("[data-reading=%s] [data-answer=no]", question)).MustClick()
	s.Button("^Findings")
	s.See(fmt.Sprintf("[data-finding='%s']", fault.ID)).MustClick()
	s.Button("^accept$")
	s.See(fmt.Sprintf("[data-cue='%s-0']", fault.ID)).MustClick()
	s.Until(func() bool { return sheet(c, at.ID.String()).Work.Advice["main"].Fault == fault.ID }, "%s: the cue for %s is kept", m.ID, fault.ID)
	var page feedback.Page
	c.Do("GET", "/api/attempts/"+at.ID.String()+"/feedback", nil, 200, &page)
	words := string(azimuth.Fill([]byte(fault.Cues[0].Words), false, azimuth.Degrees))
	if len(page.Advice) == 0 || page.Advice[0].Words != words {
		t.Errorf("%s: the page says %+v, not %s", m.ID, page.Advice, words)
	}
}

// flagByHand flags the key positions that the truth knows, in order, each by its
// chip and the button that offers it; it tells how many.
func flagByHand(s *testenv.Screen, truth simcam.Truth, m model.Model) (n int) {
	for _, p := range m.Positions {
		f, ok := truth.Positions[p.ID]
		if !ok || f < 0 || f >= len(truth.Frames) {
			continue
		}
		s.Jump(f)
		s.See(fmt.Sprintf("[data-position='%s']", p.ID)).MustClick()
		s.See(fmt.Sprintf("[data-flag-here='%s']", p.ID)).MustClick()
		s.Until(func() bool { return s.MustHas(fmt.Sprintf("[data-flag='%s'][data-by=coach]", p.ID)) }, "%s is flagged", p.ID)
		n++
	}
	return n
}

// byEye finds a fault that hangs on a question at a flagged position.
func byEye(m model.Model, truth simcam.Truth) (fault model.Fault, question, position string) {
	for _, f := range m.Faults {
		for _, rule := range append(f.When.Any, f.When) {
			cp, ok := m.Checkpoint(rule.Reading)
			if !ok || !rule.AnsweredNo || cp.Measure.Kind != "answer" {
				continue
			}
			for _, p := range m.Where(cp) {
				if at, here := truth.Positions[p.ID]; here && at >= 0 && at < len(truth.Frames) {
					return f, cp.ID, p.ID
				}
			}
		}
	}
	return
}

// TestModelsCanBeReadChangedAndChecked drives the screen Models.
func TestModelsCanBeReadChangedAndChecked(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	raw, _ := clipOf(t, "sprint-start")
	c.Imported(c.Upload(at.ID, "clip.mp4", raw, 1<<20))
	s := h.Screen(t, browser, c)
	defer s.Done()
	s.Open(h.URL+"/models/sprint-start", "[data-testid=model]")
	if s.Says("Front knee"); len(s.MustElements("[data-checkpoint]")) < 25 || len(s.MustElements("[data-testid=graph] rect")) < 8 {
		t.Errorf("%d checkpoints, %d boxes", len(s.MustElements("[data-checkpoint]")), len(s.MustElements("[data-testid=graph] rect")))
	}
	s.See("[data-fault=S4] button").MustClick()
	s.Says("Seen next time by")

	// A band that is upside down cannot be set; a sound one asks for its reason.
	s.See("[data-band=front_knee_set]").MustClick()
	to := s.See("input[aria-label=to]")
	to.MustSelectAllText().MustInput("20")
	s.Says("must lie below")
	to.MustSelectAllText().MustInput("112")
	s.Button("^set$")
	keep := s.See("[data-testid=changed]").MustElementR("button", "Keep for the team")
	if !keep.MustProperty("disabled").Bool() {
		t.Error("kept without a reason")
	}
	s.See("[aria-label='Reason of the change']").MustInput("Wider sets for long legs")
	keep.MustClick()
	s.Says("your team's version 1")
	s.Says("shipped: 85 to 105")
	s.Bench(h, at.ID)
	s.Says("Wider sets for long legs")
	s.Button("re-evaluate")
	s.Says("Re-evaluated")

	// For one age group only, and a fault of the coach's own.
	s.Open(h.URL+"/models/sprint-start", "[data-testid=model]")
	s.See("[data-band=rear_knee_set]").MustClick()
	s.See("input[aria-label=to]").MustSelectAllText().MustInput("150")
	s.Button("^set$")
	s.Choose("[aria-label='These bands are for']", "athletes under 14")
	s.See("[aria-label='Reason of the change']").MustInput("Children open the knee")
	s.MustElementR("button", "Keep for the team").MustClick()
	s.Says("your team's version 2")
	s.Says("Children open the knee")
	s.See("[data-testid=add-fault]").MustClick()
	for label, text := range map[string]string{"Name of the fault": "Looks at the line", "What it leads to": "The neck pulls the trunk up.", "Cue, outward": "Read the ground.", "When the cue backfires": "If the chin drops, eyes only.", "Drill": "Starts with a chalk mark", "Sets and reps": "4 x 10 m", "Feel": "A long neck.", "Reason of the addition": "Our youngsters do it"} {
		s.See("input[aria-label='" + label + "']").MustInput(text)
	}
	s.Button("^add$")
	s.See("[data-fault=own_looks_at_the_line]")
	version := 3
	s.Says("your team's version 3")
	// A checkpoint by eye, a cue and a drill for a fault that is there, and a style.
	fill := func(list map[string]string) {
		for label, text := range list {
			s.See("input[aria-label='" + label + "']").MustInput(text)
		}
		s.See("input[aria-label='Reason of the addition']").MustInput("Ours")
		s.Button("^add$")
		version++
		s.Says(fmt.Sprintf("your team's version %d", version))
	}
	s.See("[data-testid=add-checkpoint]").MustClick()
	s.Says("Give it a name.")
	fill(map[string]string{"Name of the checkpoint": "Eyes in the set", "Question": "Do the eyes rest on the ground?"})
	s.See("[data-checkpoint=own_eyes_in_the_set]")
	s.See("[data-fault=S4] button").MustClick()
	s.Button("^add a cue$")
	fill(map[string]string{"Words of the cue": "Drive the wall away.", "When it backfires": "If the hips rise, shorter push."})
	s.See("[data-fault=S4] button").MustClick()
	s.Says("Drive the wall away.")
	s.Button("^add a drill$")
	fill(map[string]string{"Name of the drill": "Wall drives", "Sets and reps of the drill": "3 x 8", "Feel of the drill": "One long line."})
	s.See("[data-testid=add-style]").MustClick()
	fill(map[string]string{"Name of the style": "short set", "What is different": "Pedals close to the line."})
	s.See("[data-variant=own_short_set]").MustClick()
	s.See("[data-band=front_knee_set]").MustClick()
	s.See("input[aria-label=to]").MustSelectAllText().MustInput("99")
	s.Button("^set$")
	s.Choose("[aria-label='These bands are for']", "the style “short set” only")
	s.See("[aria-label='Reason of the change']").MustInput("Closer pedals, closed knee")
	s.MustElementR("button", "Keep for the team").MustClick()
	s.Says("Closer pedals, closed knee")
	var teams []workspace.EventModel
	c.Do("GET", "/api/models", nil, 200, &teams)
	for _, m := range teams {
		if m.Model.ID != "sprint-start" {
			continue
		}
		own, _ := m.Model.As("own_short_set").Checkpoint("front_knee_set")
		usual, _ := m.Model.Checkpoint("front_knee_set")
		s4, _ := m.Model.Fault("S4")
		if own.Band.Hi == nil || *own.Band.Hi != 99 || *usual.Band.Hi == 99 || len(s4.Cues) < 2 || s4.Drills[len(s4.Drills)-1].Name != "Wall drives" {
			t.Errorf("style %+v, model %+v, %d cues", own.Band, usual.Band, len(s4.Cues))
		}
	}

	// A new attempt is judged by it, in the style that the form offers.
	s.Open(h.URL+"/", "[data-attempt]")
	s.Button("^Add attempt")
	s.Choose("select[name=event]", "Discus")
	s.Choose("select[name=variant]", "standing throw: The drill: from a set power position.")
	s.MustElementR("form button[type=submit]", "Add attempt").MustClick()
	var list []store.QueueItem
	s.Until(func() bool { list = c.Queue(); return len(list) == 2 }, "the attempt is added")
	if i := slices.IndexFunc(list, func(q store.QueueItem) bool { return q.Event == "discus" }); i < 0 || sheet(c, list[i].ID.String()).Attempt.Variant != "standing" {
		t.Errorf("%+v", list)
	}

	// Back to the shipped model.
	s.Open(h.URL+"/models/sprint-start", "[data-testid=versions]")
	s.Button("back to the shipped model")
	s.Says("Back to the shipped model.")
	s.Until(func() bool { return !strings.Contains(s.Text(), "shipped: 85") }, "the bands are the shipped ones")

	// Directions as this coach names them.
	s.Open(h.URL+"/models/hammer", "[data-testid=model]")
	s.Says("between 210° and 255°")
	s.Choose("[aria-label='How directions are named']", "clock, 12 at the back")
	s.Says("between 5 o'clock and 3:30")

	// A file with mistakes is explained by line; a sound one is shown, then kept.
	source, err := models.Source("discus")
	if err != nil {
		t.Fatal(err)
	}
	give := func(name, text string) {
		file := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		s.MustElement("[data-testid=model-file]").MustSetFiles(file)
	}
	s.Open(h.URL+"/models/discus", "[data-testid=model]")
	give("bad.yaml", strings.Replace(string(source), "throwing_knee", "throwing_wing", 1))
	s.See("[data-testid=mistakes]")
	s.Says("throwing_wing")
	give("good.yaml", strings.Replace(string(source), "name: Discus throw", "name: Discus as we throw it", 1))
	s.Says("a sound model of discus as we throw it")
	s.See("[aria-label='Reason of the change']").MustInput("Our words")
	s.Button("Keep it as your team's model")
	s.Says("your team's version 1")
	var all []workspace.EventModel
	c.Do("GET", "/api/models", nil, 200, &all)
	for _, m := range all {
		if m.Model.ID == "discus" && (m.N != 1 || m.Model.Name != "Discus as we throw it") {
			t.Errorf("%d %s", m.N, m.Model.Name)
		}
	}
}

// TestFindingsOfTheCoach: an answer of partly makes a fault likely, which he can
// confirm; he adds one that he sees; what he refuses stays quiet for this athlete
// at the next attempt, and can be looked at; the style can be changed.
func TestFindingsOfTheCoach(t *testing.T) {
	t.Parallel()
	c, s, sh := started(t)
	defer s.Done()
	id, clip := sh.Attempt.ID.String(), sh.Clips[0].ID
	work := func() workspace.Work { return sheet(c, id).Work }
	s.Jump(work().Clips[clip].Flags["set"])
	s.See("[data-position=set]").MustClick()
	s.See("[data-reading=heel_gap] [data-answer=partly]").MustClick()
	note := s.See("[data-reading=heel_gap] input")
	note.MustInput("left heel hangs")
	s.See("[data-position=clear]").MustClick() // leaving the field saves it
	s.Until(func() bool {
		return work().Answers["heel_gap"] == evaluate.Judgement{Answer: "partly", Note: "left heel hangs"}
	}, "answer and note are saved")
	s.Button("^Findings")
	s.See("[data-testid=likely]")
	s.Says("left heel hangs")
	s.Button("^confirm$")
	s.Until(func() bool { return work().Findings["S3"] == "accepted" }, "the likely fault is confirmed")
	s.See("[data-finding=S3]")
	s.Choose("[aria-label='Add a fault that you see']", "Upright too soon")
	s.Until(func() bool { return work().Findings["S7"] == "accepted" }, "his own fault is kept")
	s.See("[data-finding=S7]").MustClick()
	s.See("[data-cue=S7-brief]").MustClick()
	s.Until(func() bool { return work().Advice["main"].Words == "Push, push, push, then stand." }, "the short words are the cue")
	s.Until(func() bool { return s.See("[data-testid=sure]").MustText() == "seen by you" }, "it says who saw it")
	if n := len(s.MustElements("[data-testid=chain] [data-finding]")); n < 2 {
		t.Errorf("the chain has %d faults", n)
	}

	// Refused once, quiet next time.
	next := c.AttemptOf(sh.Attempt.AthleteID)
	truth, file := draw(t, map[string]float64{"head-up": 40})
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	again := c.Imported(c.Upload(next.ID, "n.mp4", raw, 1<<22))
	c.Do("PUT", "/api/clips/"+again.ID.String(), intake.ClipAnswers{CaptureRate: 240, View: "side", Direction: 1}, 200, nil)
	c.Do("POST", "/api/attempts/"+next.ID.String()+"/edits", workspace.Edits{Edits: demo.ByHand(truth, again.ID, 0.3)}, 200, nil)
	c.Do("POST", "/api/attempts/"+id+"/edits", workspace.Edits{Base: sheet(c, id).Work.Revision, Edits: []workspace.Edit{{Kind: "finding", Key: "S8", Value: workspace.Value("refused")}}}, 200, nil)
	s.Bench(h, next.ID)
	s.Button("^Findings")
	s.Says("that you refused for this athlete before")
	if s.MustHas("[data-finding=S8]") {
		t.Error("what was refused is shown again")
	}
	// Keys decide on what is shown, not on what stands at the same place among all.
	said := func() map[string]string { return sheet(c, next.ID.String()).Work.Findings }
	s.Choose("[aria-label='Add a fault that you see']", "Upright too soon")
	s.Until(func() bool { return said()["S7"] == "accepted" }, "his own fault is kept here too")
	s.See("[data-finding=S7]").MustClick()
	s.Keyboard.MustType(input.KeyX)
	s.Until(func() bool { return said()["S7"] == "refused" }, "the fault that is shown is refused")
	if v, ok := said()["S8"]; ok {
		t.Errorf("the hidden fault was %s by a key", v)
	}
	s.Button("that you refused for this athlete before")
	s.See("[data-finding=S8]")

	// Event and style, changed on the Bench.
	s.Button("^Clip")
	s.Choose("[data-testid=judged] select[aria-label=Event]", "Long jump")
	s.Choose("[data-testid=judged] select[aria-label=Style]", "hitch-kick")
	s.Until(func() bool {
		a := sheet(c, next.ID.String()).Attempt
		return a.Event == "long-jump" && a.Variant == "hitch-kick"
	}, "event and style are kept")
}

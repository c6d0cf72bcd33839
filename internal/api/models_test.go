package api_test

import (
	"context"
	"encoding/json"
	"log/slog"
	"math"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"go.yaml.in/yaml/v3"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/internal/api"
	"neokinema/internal/demo"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/testenv"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam"
)

func held(c *testenv.Client, event string) workspace.EventModel {
	c.T.Helper()
	var all []workspace.EventModel
	c.Do("GET", "/api/models", nil, 200, &all)
	for _, h := range all {
		if h.Model.ID == event {
			return h
		}
	}
	c.T.Fatalf("no model of %s among %d", event, len(all))
	return workspace.EventModel{}
}

func num(v float64) *float64 { return &v }

// A team changes a band: new attempts get it, earlier ones keep theirs until they
// are judged anew, which tells what changed; another team sees nothing of it.
func TestATeamsOwnModel(t *testing.T) {
	t.Parallel()
	c, other := h.Coach(t), h.Coach(t)
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Low Set"), 200, &a)
	first, _, _ := digitised(t, c, a.ID, map[string]float64{"front-knee": 128})
	if r := sheetOf(c, first.ID).Report(); len(r.Findings) == 0 || r.Findings[0].Fault != "S2" || r.Findings[0].Excess == nil || r.Findings[0].Certainty != "certain" {
		t.Fatalf("%+v", r.Findings)
	}
	path := "/api/models/sprint-start/versions"
	var made store.ModelVersion
	change := workspace.ModelChange{Reason: "Our tall starters sit wider", Bands: map[string]uncertainty.Band{"front_knee_set": {Lo: num(90), Hi: num(150)}}}
	c.Do("POST", path, change, 200, &made)
	if made.N != 1 || made.By == "" || made.Shipped != 4 {
		t.Errorf("%+v", made)
	}
	// A second change on the same base is a colleague's.
	if raw, status := c.Try("POST", path, change); status != 409 || said(t, raw).Kind != problem.NewerWork {
		t.Errorf("%d %s", status, raw)
	}
	own := held(c, "sprint-start")
	cp, _ := own.Model.Checkpoint("front_knee_set")
	if own.N != 1 || *cp.Band.Hi != 150 || own.Shipped == nil || len(own.Versions) != 1 || own.Versions[0].Reason != change.Reason {
		t.Errorf("%+v", own.Versions)
	}
	if x := held(other, "sprint-start"); x.N != 0 || x.Shipped != nil || len(x.Versions) != 0 {
		t.Errorf("another team holds %d", x.N)
	}
	if text := string(c.Do("GET", "/api/models/sprint-start.yaml", nil, 200, nil)); !strings.Contains(text, "hi: 150") {
		t.Error("the file has not the new band")
	}
	// The first attempt keeps its verdict and says that there is a newer model.
	sh := sheetOf(c, first.ID)
	if sh.Newer == nil || sh.Newer.N != 1 || sh.Attempt.ModelN != 0 || sh.Report().Findings[0].Fault != "S2" {
		t.Errorf("newer %+v, judged by %d", sh.Newer, sh.Attempt.ModelN)
	}
	second, _, _ := digitised(t, c, a.ID, map[string]float64{"front-knee": 128})
	if sh := sheetOf(c, second.ID); sh.Attempt.ModelN != 1 || sh.Newer != nil {
		t.Errorf("a new attempt is judged by %d", sh.Attempt.ModelN)
	}
	var re workspace.Rejudged
	c.Do("POST", "/api/attempts/"+first.ID.String()+"/rejudge", nil, 200, &re)
	if re.N != 1 || !slices.ContainsFunc(re.Verdicts, func(v workspace.Changed) bool {
		return v.Reading == "front_knee_set" && v.Before == uncertainty.Missed && v.After == uncertainty.Met
	}) || len(re.Gone) != 1 {
		t.Errorf("%+v", re)
	}
	if p := said(t, c.Do("POST", "/api/attempts/"+first.ID.String()+"/rejudge", nil, 422, nil)); !strings.Contains(p.Says, "newest") {
		t.Errorf("%+v", p)
	}
	// Back to the shipped model is one more version.
	c.Do("POST", path, workspace.ModelChange{Base: 1, Reason: "We were wrong", Back: true}, 200, &made)
	cp, _ = held(c, "sprint-start").Model.Checkpoint("front_knee_set")
	if made.N != 2 || *cp.Band.Hi != 105 {
		t.Errorf("back: version %d, band up to %g", made.N, *cp.Band.Hi)
	}
}

// What cannot be a model is refused with every reason, and nothing is stored.
func TestBadModelsAreExplained(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	raw, err := models.Source("javelin")
	if err != nil {
		t.Fatal(err)
	}
	bad := strings.Replace(strings.Replace(string(raw), "throwing_knee", "third_knee", 1), "hi: 24", "hi: x", 1)
	var checked api.CheckedModel
	c.Do("POST", "/api/models/check", map[string]string{"text": bad}, 200, &checked)
	if checked.Model != nil || len(checked.Mistakes) == 0 || checked.Mistakes[0].Line < 20 {
		t.Errorf("%+v", checked)
	}
	c.Do("POST", "/api/models/check", map[string]string{"text": string(raw)}, 200, &checked)
	if len(checked.Mistakes) != 0 || checked.Model == nil || checked.Model.ID != "javelin" {
		t.Errorf("%+v", checked.Mistakes)
	}
	for what, x := range map[string]struct {
		event string
		workspace.ModelChange
		says string
	}{
		"a broken file": {"javelin", workspace.ModelChange{Reason: "why not", Text: bad}, "mend it"},
		"another event": {"discus", workspace.ModelChange{Reason: "why not", Text: string(raw)}, "not of discus"},
		"no checkpoint": {"javelin", workspace.ModelChange{Reason: "why not", Bands: map[string]uncertainty.Band{"luck": {}}}, "luck"},
		"upside down":   {"javelin", workspace.ModelChange{Reason: "why not", Bands: map[string]uncertainty.Band{"block_time": {Lo: num(9), Hi: num(3)}}}, "mend it"},
		"nothing":       {"javelin", workspace.ModelChange{Reason: "why not"}, "Nothing"},
		"no reason":     {"javelin", workspace.ModelChange{Back: true}, ""},
	} {
		p := said(t, c.Do("POST", "/api/models/"+x.event+"/versions", x.ModelChange, 422, nil))
		if !strings.Contains(p.Says, x.says) || x.says == "mend it" && (len(p.Fields) == 0 || !strings.HasPrefix(p.Fields[0], "line ")) {
			t.Errorf("%s: %+v", what, p)
		}
	}
	c.Do("POST", "/api/models/tightrope/versions", workspace.ModelChange{Reason: "why not", Back: true}, 404, nil)
	if n := held(c, "javelin").N; n != 0 {
		t.Errorf("version %d was stored", n)
	}
}

// Event and style can be changed later: flags of positions that both have stay,
// and come back with the event.
func TestEventAndStyleCanBeChanged(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at, clip, truth := shippedAt(t, c, "pim shot.mp4")
	flag := func(base int, id string, f int) {
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Base: base, Edits: []workspace.Edit{{Kind: "flag", Clip: &clip.ID, Key: id, Value: workspace.Value(f)}}}, 200, nil)
	}
	flag(0, "release", truth.Positions["release"])
	flag(1, "drive_off", 3)
	positions := func() (ids []string) {
		for _, p := range sheetOf(c, at.ID).Report().Positions {
			if p.Frame != nil && p.Source == "coach" {
				ids = append(ids, p.ID)
			}
		}
		return ids
	}
	if got := positions(); !slices.Equal(got, []string{"drive_off", "release"}) {
		t.Errorf("%v", got)
	}
	change := at.NewAttempt
	change.Variant = "rotational"
	c.Do("PUT", "/api/attempts/"+at.ID.String(), change, 200, nil)
	if sh := sheetOf(c, at.ID); !slices.Equal(positions(), []string{"release"}) || !slices.ContainsFunc(sh.Model.Faults, func(f model.Fault) bool { return f.ID == "D3a" }) {
		t.Errorf("as rotation: %v", positions())
	}
	change.Event, change.Variant = "discus", ""
	c.Do("PUT", "/api/attempts/"+at.ID.String(), change, 200, nil)
	if got := positions(); !slices.Equal(got, []string{"release"}) {
		t.Errorf("as discus: %v", got)
	}
	change.Event, change.Variant = "shot", "glide"
	c.Do("PUT", "/api/attempts/"+at.ID.String(), change, 200, nil)
	if got := positions(); !slices.Equal(got, []string{"drive_off", "release"}) {
		t.Errorf("back: %v", got)
	}
}

// What a coach refused for an athlete is remembered at the next attempt of the
// event, until he accepts it once.
func TestRefusedFaultsAreRemembered(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Stubborn"), 200, &a)
	say := func(id uuid.UUID, base int, v string) {
		c.Do("POST", "/api/attempts/"+id.String()+"/edits", workspace.Edits{Base: base, Edits: []workspace.Edit{{Kind: "finding", Key: "S8", Value: workspace.Value(v)}}}, 200, nil)
	}
	one, two, three := c.AttemptOf(a.ID), c.AttemptOf(a.ID), c.AttemptOf(a.ID)
	say(one.ID, 0, "refused")
	if got := sheetOf(c, two.ID).Refused; !slices.Equal(got, []string{"S8"}) {
		t.Errorf("%v", got)
	}
	if got := sheetOf(c, one.ID).Refused; len(got) != 0 {
		t.Errorf("on the attempt itself: %v", got)
	}
	say(two.ID, 0, "accepted")
	if got := sheetOf(c, three.ID).Refused; len(got) != 0 {
		t.Errorf("accepted since: %v", got)
	}
}

// Three answers and a note: partly makes a fault likely.
func TestAPartlyIsLikely(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	at := c.Attempt()
	clip := c.Imported(c.Upload(at.ID, "x.mp4", tiny(t), 1<<20))
	answer := func(base int, v any) report.Report {
		c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Base: base, Edits: []workspace.Edit{{Kind: "answer", Key: "heel_gap", Value: workspace.Value(v)}}}, 200, nil)
		return sheetOf(c, at.ID).Report()
	}
	_ = clip
	r := answer(0, evaluate.Judgement{Answer: "partly", Note: "left heel only"})
	if got, _ := r.Reading("heel_gap"); got.Verdict != uncertainty.Open || got.Source != "coach" || got.Note != "left heel only" {
		t.Errorf("%+v", got)
	}
	if len(r.Findings) != 0 || len(r.Possible) != 1 || r.Possible[0].Fault != "S3" || r.Possible[0].Certainty != "likely" {
		t.Errorf("%+v, %+v", r.Findings, r.Possible)
	}
	// The plain no of older attempts is read as well.
	if r := answer(1, false); len(r.Findings) != 1 || r.Findings[0].Certainty != "certain" {
		t.Errorf("%+v", r.Findings)
	}
}

// The JSON Schema beside the models is the one of the code, and every shipped
// model is valid by it.
func TestModelsAreValidByTheirSchema(t *testing.T) {
	t.Parallel()
	raw, err := api.ModelSchema()
	if err != nil {
		t.Fatal(err)
	}
	kept, err := os.ReadFile("../../models/schema.json")
	if err != nil || strings.TrimSpace(string(kept)) != string(raw) {
		t.Fatalf("models/schema.json is old; run ./neo contract (%v)", err)
	}
	registry := huma.NewMapRegistry("#/$defs/", api.SchemaName)
	schema := registry.Schema(reflect.TypeFor[model.Model](), true, "Model")
	all, err := models.All()
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range all {
		text, err := models.Source(m.ID)
		if err != nil {
			t.Fatal(err)
		}
		var plain any
		if err := yaml.Unmarshal(text, &plain); err != nil {
			t.Fatal(err)
		}
		asJSON, _ := json.Marshal(plain)
		_ = json.Unmarshal(asJSON, &plain)
		path := huma.NewPathBuffer(nil, 0)
		res := &huma.ValidateResult{}
		huma.Validate(registry, schema, path, huma.ModeReadFromServer, plain, res)
		for _, e := range res.Errors {
			t.Errorf("%s: %v", m.ID, e)
		}
		if m.ID != "running" {
			continue
		}
		// And the schema refuses what is not a model.
		plain.(map[string]any)["view"] = "sideways"
		res = &huma.ValidateResult{}
		huma.Validate(registry, schema, path, huma.ModeReadFromServer, plain, res)
		if len(res.Errors) == 0 {
			t.Error("a model for a view that does not exist is valid")
		}
	}
}

// Two colleagues change a model in the same moment: one version is stored, the
// other is told; nobody's change disappears silently.
func TestTwoColleaguesChangeAModel(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	answers := make(chan int, 6)
	for i := range cap(answers) {
		go func() {
			_, status := c.Try("POST", "/api/models/hammer/versions", workspace.ModelChange{Reason: "mine", Bands: map[string]uncertainty.Band{"axis_side": {Lo: num(float64(-20 - i)), Hi: num(18)}}})
			answers <- status
		}()
	}
	kept := 0
	for range cap(answers) {
		switch status := <-answers; status {
		case 200:
			kept++
		case 409:
		default:
			t.Errorf("status %d", status)
		}
	}
	if own := held(c, "hammer"); kept != 1 || own.N != 1 || len(own.Versions) != 1 {
		t.Errorf("%d were kept, version %d of %d", kept, own.N, len(own.Versions))
	}
}

// New attempts of the changed event are judged by the team's version, attempts of
// other events are not.
func TestVersionsBelongToOneEvent(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	c.Do("POST", "/api/models/discus/versions", workspace.ModelChange{Reason: "wider", Bands: map[string]uncertainty.Band{"flight": {Lo: num(30), Hi: num(150)}}}, 200, nil)
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Two Events"), 200, &a)
	add := func(event string) (at store.Attempt) {
		c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: a.ID, Event: event, DoneOn: "2026-05-01", Condition: "fresh", Setting: "practice"}, 200, &at)
		return at
	}
	discus, shot := add("discus"), add("shot")
	if discus.ModelN != 1 || shot.ModelN != 0 {
		t.Errorf("judged by %d and %d", discus.ModelN, shot.ModelN)
	}
	// An attempt that becomes another event is judged by that event's model.
	change := shot.NewAttempt
	change.Event = "discus"
	var changed store.Attempt
	c.Do("PUT", "/api/attempts/"+shot.ID.String(), change, 200, &changed)
	if changed.ModelN != 1 {
		t.Errorf("after the change judged by %d", changed.ModelN)
	}
	change.Session = "Evening"
	c.Do("PUT", "/api/attempts/"+shot.ID.String(), change, 200, &changed)
	if changed.ModelN != 1 || changed.Session != "Evening" {
		t.Errorf("%+v", changed)
	}
	change.Event = "hammer"
	c.Do("PUT", "/api/attempts/"+shot.ID.String(), change, 200, &changed)
	if changed.ModelN != 0 {
		t.Errorf("a hammer throw is judged by version %d of the discus", changed.ModelN)
	}
}

// Directions are named in the user's language, for the athlete's hand: common
// practice, the check values of two clocks.
func TestDirectionsInTheCoachsLanguage(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	attempt := func(hand body.Side) uuid.UUID {
		who := testenv.Athlete("Hand " + string(hand))
		who.ThrowingHand = hand
		var a store.Athlete
		c.Do("POST", "/api/athletes", who, 200, &a)
		var at store.Attempt
		c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: a.ID, Event: "hammer", DoneOn: "2026-05-01", Condition: "fresh", Setting: "practice"}, 200, &at)
		return at.ID
	}
	right, left := attempt(body.Right), attempt(body.Left)
	says := func(id uuid.UUID) string {
		cp, _ := sheetOf(c, id).Model.Checkpoint("catch_foot")
		return cp.Question
	}
	for l, want := range map[string][2]string{"degrees": {"270°", "270°"}, "clock-back": {"3 o'clock", "9 o'clock"}, "clock-throw": {"9 o'clock", "3 o'clock"}} {
		c.Do("PUT", "/api/me/directions", map[string]string{"directions": l}, 204, nil)
		if a, b := says(right), says(left); !strings.Contains(a, "towards "+want[0]) || !strings.Contains(b, "towards "+want[1]) {
			t.Errorf("%s: %q, %q", l, a, b)
		}
		if raw, _ := json.Marshal(held(c, "hammer").Model); strings.Contains(string(raw), "{az") {
			t.Errorf("%s: a direction is not named", l)
		}
	}
	c.Do("PUT", "/api/me/directions", map[string]string{"directions": "compass"}, 422, nil)
	if text := string(c.Do("GET", "/api/models/hammer.yaml", nil, 200, nil)); !strings.Contains(text, "{az 270}") {
		t.Error("the file must keep directions as they are written")
	}
}

// A band can hold for one athlete or an age group only; it is part of the version,
// and the nearest one counts.
func TestBandsForSome(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	young, old := testenv.Athlete("Young One"), testenv.Athlete("Tall One")
	young.Born, old.Born = time.Now().Year()-13, time.Now().Year()-25
	var a, b store.Athlete
	c.Do("POST", "/api/athletes", young, 200, &a)
	c.Do("POST", "/api/athletes", old, 200, &b)
	path := "/api/models/sprint-start/versions"
	set := func(base int, change workspace.ModelChange, lo, hi float64) {
		t.Helper()
		change.Base, change.Bands = base, map[string]uncertainty.Band{"front_knee_set": {Lo: num(lo), Hi: num(hi)}}
		c.Do("POST", path, change, 200, nil)
	}
	set(0, workspace.ModelChange{Reason: "Children sit higher", Under: 16}, 95, 125)
	set(1, workspace.ModelChange{Reason: "Her long thighs", Athlete: b.ID.String()}, 100, 118)
	set(2, workspace.ModelChange{Reason: "The smallest ones", Under: 14}, 98, 130)
	set(3, workspace.ModelChange{Reason: "Children sit higher, once more", Under: 16}, 96, 126)
	top := func(of store.Athlete) float64 {
		t.Helper()
		cp, ok := sheetOf(c, c.AttemptOf(of.ID).ID).Model.Checkpoint("front_knee_set")
		if !ok || cp.Band.Hi == nil {
			t.Fatal("the checkpoint is gone")
		}
		return *cp.Band.Hi
	}
	var third store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Third"), 200, &third)
	if x, y, z := top(a), top(b), top(third); x != 130 || y != 118 || z != 105 {
		t.Errorf("bands up to %g, %g and %g", x, y, z)
	}
	// Those of the shipped model for the same age groups give way.
	shipped, err := models.Load("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	if own := held(c, "sprint-start"); len(own.Model.Adjusted) != len(shipped.Adjusted)+1 || own.N != 4 {
		t.Errorf("version %d with %+v", own.N, own.Model.Adjusted)
	}
	p := said(t, c.Do("POST", path, workspace.ModelChange{Base: 4, Reason: "upside down", Under: 10, Bands: map[string]uncertainty.Band{"front_knee_set": {Lo: num(9), Hi: num(3)}}}, 422, nil))
	if len(p.Fields) == 0 || !strings.Contains(p.Fields[0], "upside down") {
		t.Errorf("%+v", p)
	}
}

// A coach adds a checkpoint and a fault that hangs on it; it is found in the next
// attempt like any other.
func TestOwnCheckpointAndFault(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	cp := model.Checkpoint{ID: "own_back_knee", Name: "Rear knee, our way", Position: "set", Measure: model.Measure{Kind: "joint", Points: []string{"rear_hip", "rear_knee", "rear_ankle"}}, Unit: "°", Band: uncertainty.Band{Lo: num(150), Hi: num(170)}, Basis: "trade"}
	f := model.Fault{ID: "own_folded", Name: "Rear leg folded", Short: "folded", Phase: "set", Target: cp.ID, When: model.Rule{Reading: cp.ID, Outside: "below"}, Effect: "No push from behind.",
		Cues: []model.Cue{{Focus: "outward", Words: "Long back leg.", Backfire: "If it locks, soften it."}}, Drills: []model.Drill{{Name: "Holds", Dose: model.Dose{Says: "3 x 10 s"}, Feel: "A stretched calf."}}}
	path := "/api/models/sprint-start/versions"
	p := said(t, c.Do("POST", path, workspace.ModelChange{Reason: "Try", Faults: []model.Fault{f}}, 422, nil))
	if len(p.Fields) == 0 || !strings.Contains(strings.Join(p.Fields, " "), "own_back_knee") {
		t.Errorf("a fault that hangs on nothing: %+v", p)
	}
	c.Do("POST", path, workspace.ModelChange{Reason: "We want it long", Checkpoints: []model.Checkpoint{cp}, Faults: []model.Fault{f}}, 200, nil)
	var a store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("Folded"), 200, &a)
	at, _, _ := digitised(t, c, a.ID, nil)
	r := sheetOf(c, at.ID).Report()
	if x, ok := r.Reading(cp.ID); !ok || x.Verdict != uncertainty.Missed {
		t.Errorf("%+v", x)
	}
	if !slices.ContainsFunc(r.Findings, func(x report.Finding) bool { return x.Fault == f.ID }) {
		t.Errorf("%+v", r.Findings)
	}
	// A cue, a drill and a style of the team; the style has a band of its own.
	c.Do("POST", path, workspace.ModelChange{Base: 1, Reason: "Our words", Cues: map[string]model.Cue{"S2": {Focus: "outward", Words: "Sit into the pedal.", Backfire: "Hips up."}}, Drills: map[string]model.Drill{"S2": {Name: "Wall sits", Dose: model.Dose{Says: "3 x 20 s"}, Feel: "Ready to jump."}}}, 200, nil)
	c.Do("POST", path, workspace.ModelChange{Base: 2, Reason: "Tall ones", Variants: []model.Variant{{ID: "own_tall", Name: "tall set", Says: "Hips high."}}}, 200, nil)
	c.Do("POST", path, workspace.ModelChange{Base: 3, Reason: "They sit wider", Variant: "own_tall", Bands: map[string]uncertainty.Band{"front_knee_set": {Lo: num(100), Hi: num(125)}}}, 200, nil)
	s2, _ := held(c, "sprint-start").Model.Fault("S2")
	if i := slices.IndexFunc(s2.Cues, func(x model.Cue) bool { return x.Words == "Sit into the pedal." }); i < 0 || i > 0 && s2.Cues[i-1].Focus == "inward" || s2.Drills[len(s2.Drills)-1].Name != "Wall sits" {
		t.Errorf("%+v", s2)
	}
	tall, _ := held(c, "sprint-start").Model.As("own_tall").Checkpoint("front_knee_set")
	usual, _ := held(c, "sprint-start").Model.Checkpoint("front_knee_set")
	if *tall.Band.Hi != 125 || *usual.Band.Hi != 105 {
		t.Errorf("bands up to %g and %g", *tall.Band.Hi, *usual.Band.Hi)
	}
	c.Do("POST", path, workspace.ModelChange{Base: 4, Reason: "For nobody", Cues: map[string]model.Cue{"S99": {Focus: "outward", Words: "x", Backfire: "x"}}}, 422, nil)
	// The shipped model taken over anew keeps what is the team's own.
	c.Do("POST", path, workspace.ModelChange{Base: 4, Reason: "Bring up to date", TakeOver: true}, 200, nil)
	own := held(c, "sprint-start")
	if _, ok := own.Model.Fault(f.ID); !ok || own.N != 5 {
		t.Errorf("version %d has lost the team's fault", own.N)
	}
	shipped, err := models.Load("sprint-start")
	if err != nil || len(own.Model.Faults) != len(shipped.Faults)+1 || len(own.Model.Checkpoints) != len(shipped.Checkpoints)+1 {
		t.Errorf("%d faults and %d checkpoints, %v", len(own.Model.Faults), len(own.Model.Checkpoints), err)
	}
}

// Nobody of another team holds an attempt beside his own, or reads its clips
// together.
func TestSideBySideIsTheTeamsOwn(t *testing.T) {
	t.Parallel()
	c, stranger := h.Coach(t), h.Coach(t)
	var a, b store.Athlete
	c.Do("POST", "/api/athletes", testenv.Athlete("One"), 200, &a)
	stranger.Do("POST", "/api/athletes", testenv.Athlete("Two"), 200, &b)
	first, clip, _ := digitised(t, c, a.ID, nil)
	second, _, _ := digitised(t, c, a.ID, map[string]float64{"front-knee": 128})
	mine, _, _ := digitised(t, stranger, b.ID, nil)
	path := func(x, y uuid.UUID) string { return "/api/compare?a=" + x.String() + "&b=" + y.String() }
	var got workspace.Comparison
	c.Do("GET", path(first.ID, second.ID), nil, 200, &got)
	if got.ClipA != clip.ID || len(got.Moments) < 8 || len(got.Differences) == 0 || len(got.Match) != len(clip.Stamps) {
		t.Errorf("%d moments, %d differences, %d frames", len(got.Moments), len(got.Differences), len(got.Match))
	}
	c.Do("GET", path(first.ID, second.ID)+"&at=clear", nil, 200, &got)
	for _, p := range []string{path(mine.ID, first.ID), path(first.ID, mine.ID), path(first.ID, uuid.New())} {
		stranger.Do("GET", p, nil, 404, nil)
	}
	stranger.Do("GET", "/api/attempts/"+first.ID.String()+"/two-views", nil, 404, nil)
	stranger.Do("GET", "/api/attempts/"+first.ID.String()+"/companions", nil, 404, nil)
	var told map[string][]evaluate.Companion
	if c.Do("GET", "/api/attempts/"+first.ID.String()+"/companions", nil, 200, &told); len(told) != 1 || len(told[clip.ID.String()]) != 0 {
		t.Errorf("one clip is told %v", told)
	}
	// The model's reference has positions, points and numbers, but no pictures.
	c.Do("GET", "/api/compare?reference=true&curve=angle:left_knee&a="+second.ID.String(), nil, 200, &got)
	if !got.Reference || got.ClipB != uuid.Nil || len(got.Moments) < 8 || len(got.Differences) == 0 || got.B.Athlete.Name == got.A.Athlete.Name || got.Curve == nil {
		t.Errorf("reference: %v, %d moments, %d differences, %s", got.Reference, len(got.Moments), len(got.Differences), got.B.Athlete.Name)
	}
	if knee, ok := got.ReportB.Reading("front_knee_set"); !ok || knee.Verdict != uncertainty.Met {
		t.Errorf("the reference's front knee: %+v", knee)
	}
	stranger.Do("GET", "/api/compare?reference=true&a="+first.ID.String(), nil, 404, nil)
	// Without an attempt it is no question; of one attempt with one clip, itself.
	c.Do("GET", "/api/compare?a="+first.ID.String(), nil, 422, nil)
	if p := said(t, c.Do("GET", "/api/attempts/"+first.ID.String()+"/two-views", nil, 422, nil)); !strings.Contains(p.Says, "Two clips") {
		t.Errorf("%+v", p)
	}
	empty := c.AttemptOf(a.ID)
	if p := said(t, c.Do("GET", path(first.ID, empty.ID), nil, 422, nil)); !strings.Contains(p.Says, "clip that is ready") {
		t.Errorf("%+v", p)
	}
}

// Two clips of one attempt that share no moment are brought together by their sound, which was
// listened to when they came in: what is flagged in one is known in the other.
func TestClipsAreBroughtTogetherBySound(t *testing.T) {
	t.Parallel()
	c := h.Coach(t)
	who := body.Person{Sex: body.Male, Height: 1.84}
	at := c.AttemptAt("discus", who)
	l := &demo.Loader{Clips: testenv.Drawn(), Log: slog.New(slog.DiscardHandler)}
	const late = 0.35 // s that the second camera was started later
	var clips []store.Clip
	var edits []workspace.Edit
	for i, name := range []string{"side.mp4", "other.mp4"} {
		scene, file, err := l.Clip(context.Background(), simcam.Spec{Event: "discus", Athlete: who, Direction: 1, CaptureRate: []float64{120, 60}[i], FileRate: 30, TagRate: true, Width: 640, Height: 360, Seed: uint64(i + 1),
			Camera: simcam.Camera{Place: "back", Sound: true, Late: []float64{0, late}[i]}})
		if err != nil {
			t.Fatal(err)
		}
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		k := c.Imported(c.Upload(at.ID, name, raw, 1<<20))
		if k.State != "ready" || k.CaptureRate == 0 {
			t.Fatalf("%s: %s %s", name, k.State, k.Problem)
		}
		clips = append(clips, k)
		if i == 0 {
			edits = append(edits, demo.ByHand(scene.Truth, k.ID, 0)...)
		} else {
			edits = append(edits, workspace.Edit{Kind: "point", Clip: &k.ID, Key: "left_knee", Frame: 3, Value: workspace.Value(track.Point{X: 300, Y: 100, Source: "hand", Confidence: 1})})
		}
	}
	c.Do("POST", "/api/attempts/"+at.ID.String()+"/edits", workspace.Edits{Edits: edits}, 200, nil)
	for _, kept := range []int{2, 0} {
		var n int
		if err := h.Store.DB.Get(&n, `SELECT count(*) FROM sounds WHERE team_id = $1`, c.User.TeamID); err != nil || n != kept {
			t.Errorf("%d sounds are kept, want %d: %v", n, kept, err)
		}
		var told map[string][]evaluate.Companion
		c.Do("GET", "/api/attempts/"+at.ID.String()+"/companions", nil, 200, &told)
		list := told[clips[1].ID.String()]
		if len(list) != 1 || list[0].Problem != "" || list[0].Offset == nil || !slices.Equal(list[0].Offset.By, []string{"sound"}) || math.Abs(list[0].Offset.Seconds-late) > 0.01 {
			t.Fatalf("the second clip is told of %d clips, %+v", len(list), list[0].Offset)
		}
		// Clips of before there was sound are listened to when it is asked for.
		if _, err := h.Store.DB.Exec(`DELETE FROM sounds WHERE team_id = $1`, c.User.TeamID); err != nil {
			t.Fatal(err)
		}
	}
}

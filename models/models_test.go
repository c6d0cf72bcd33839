package models_test

import (
	"errors"
	"fmt"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/models"
)

// Every shipped model is whole: positions, checkpoints with questions or measures,
// faults with cues (outward first), backfire notes, drills, targets and cautions.
func TestShippedModelsAreWhole(t *testing.T) {
	all, err := models.All()
	if err != nil {
		t.Fatal(err)
	}
	var have []string
	for _, m := range all {
		have = append(have, m.ID)
	}
	want := sport.IDs()
	slices.Sort(have)
	if slices.Sort(want); !slices.Equal(have, want) {
		t.Errorf("models of %v, events %v", have, want)
	}
	for _, m := range all {
		if len(m.Checkpoints) < 10 || len(m.Faults) < 5 || len(m.Phases) < 4 || len(m.Cautions) == 0 {
			t.Errorf("%s: %d checkpoints, %d faults, %d phases, %d cautions", m.ID, len(m.Checkpoints), len(m.Faults), len(m.Phases), len(m.Cautions))
		}
		keeps := 0
		for _, c := range m.Checkpoints {
			if c.Keep != "" {
				keeps++
			}
		}
		if keeps < 5 {
			t.Errorf("%s praises %d things only", m.ID, keeps)
		}
		for _, f := range m.Faults {
			if f.Brief == "" {
				t.Errorf("%s %s has no short words", m.ID, f.ID)
			}
			if len(f.Cues) == 0 || f.Cues[0].Focus != "outward" {
				t.Errorf("%s %s: the outward cue comes first", m.ID, f.ID)
			}
		}
	}
	if _, err := models.Load("tightrope"); err == nil {
		t.Error("an unknown model was loaded")
	}
}

// Variants: positions, checkpoints and faults of one style are not in another, and
// a style may have its own bands. Common practice: two schools of shot putting.
func TestVariants(t *testing.T) {
	shot, err := models.Load("shot")
	if err != nil {
		t.Fatal(err)
	}
	has := func(m model.Model, fault string) bool { _, ok := m.Fault(fault); return ok }
	glide, turn := shot.As("glide"), shot.As("rotational")
	if !has(glide, "G1") || has(glide, "D3a") || has(turn, "G1") || !has(turn, "D3a") || !has(shot.As(""), "G1") {
		t.Error("faults of the other style")
	}
	jump, _ := models.Load("long-jump")
	hang, _ := jump.As("hang").Checkpoint("open_mid")
	sail, _ := jump.As("sail").Checkpoint("open_mid")
	if *hang.Band.Lo != 120 || *sail.Band.Lo != 60 || *jump.Checkpoints[slices.IndexFunc(jump.Checkpoints, func(c model.Checkpoint) bool { return c.ID == "open_mid" })].Band.Lo != 120 {
		t.Errorf("hang %v, sail %v", *hang.Band.Lo, *sail.Band.Lo)
	}
}

// A file with mistakes is explained, each with its line.
func TestMistakesAreTold(t *testing.T) {
	raw, err := models.Source("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	good := string(raw)
	for _, c := range []struct{ old, new, says string }{
		{"points: [front_hip, front_knee, front_ankle]", "points: [front_hip, front_tail, front_ankle]", `no landmark "front_tail"`},
		{"points: [front_hip, front_knee, front_ankle]", "points: [front_hip]", "a joint needs 3 points"},
		{"kind: joint", "kind: bend", `no measure "bend"`},
		{"band: {lo: 85, hi: 105}", "band: {lo: 105, hi: 85}", "upside down"},
		{"band: {lo: 85, hi: 105}", "band: {lo: low, hi: 105}", `"low" is not a number`},
		{"band: {lo: 85, hi: 105}", "band: [85, 105]", "a group of fields is wanted"},
		{"because: [S1]", "because: [S5]", "causes go in a circle"},
		{"because: [S1]", "because: [S77]", `no fault "S77"`},
		{"target: shoulder_hand", "target: luck", `no reading "luck"`},
		{"from: clear, to: td1", "from: clear, to: nowhere", `no position "nowhere"`},
		{"{reading: shoulder_hand, outside: above}", "{reading: shoulder_hand}", "no condition"},
		{"{reading: shoulder_hand, outside: above}", "{reading: shoulder_hand, outside: often}", "above, below or either"},
		{"{reading: shoulder_hand, outside: above}", "{reading: stumble, outside: above}", "no band"},
		{"id: S2", "id: S1", `"S1" stands twice`},
		{"readings: [lean_clear, lean_to1]", "readings: [lean_clear, lean_to3]", "must stand before"},
		{"basis: trade", "basis: hearsay", "basis is trade"},
		{"focus: outward", "focus: sideways", "outward or inward"},
		{"version: 4", "version: soon", "not a whole number"},
		{"view: side\n", "view: side\ncolour: red\n", `no field "colour"`},
		{"view: side\n", "view: \"\"\n", "view is missing"},
		{"cautions:\n", "cautions:\n  bad\n", "line"},
	} {
		broken := strings.Replace(good, c.old, c.new, 1)
		if broken == good {
			t.Errorf("%q is not in the model", c.old)
			continue
		}
		line := 1 + strings.Count(good[:strings.Index(good, c.old)], "\n")
		_, err := models.Parse([]byte(broken))
		var wrong models.Mistakes
		if !errors.As(err, &wrong) {
			t.Errorf("%q was taken: %v", c.new, err)
			continue
		}
		if !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q: %v", c.new, err)
		}
		// The line is that of the mistake; a circle may be told at any of its faults.
		near := slices.ContainsFunc(wrong, func(m models.Mistake) bool { return m.Line >= line-1 && m.Line <= line+12 })
		if !near && !strings.Contains(c.says, "circle") && !strings.Contains(c.says, "missing") {
			t.Errorf("%q stands in line %d: %v", c.new, line, err)
		}
	}
	for _, bad := range []string{"", "- 1\n- 2\n", "id: [", "\tid: x"} {
		var wrong models.Mistakes
		if _, err := models.Parse([]byte(bad)); !errors.As(err, &wrong) || wrong[0].Line < 1 {
			t.Errorf("%q: %v", bad, err)
		}
	}
}

func ptr(v float64) *float64 { return &v }

// Other bands leave the rest of a file as it is.
func TestWithBands(t *testing.T) {
	raw, _ := models.Source("long-jump")
	out, err := models.WithBands(raw, map[string]uncertainty.Band{"trunk_to": {Lo: ptr(-3.5), Hi: ptr(8)}, "contact": {Hi: ptr(130)}})
	if err != nil {
		t.Fatal(err)
	}
	m, err := models.Parse(out)
	if err != nil {
		t.Fatal(err)
	}
	a, _ := m.Checkpoint("trunk_to")
	b, _ := m.Checkpoint("contact")
	if *a.Band.Lo != -3.5 || *a.Band.Hi != 8 || b.Band.Lo != nil || *b.Band.Hi != 130 {
		t.Errorf("%+v %+v", a.Band, b.Band)
	}
	old, _ := models.Load("long-jump")
	for i, c := range m.Checkpoints {
		o := old.Checkpoints[i]
		if c.ID != "trunk_to" && c.ID != "contact" {
			if fmt.Sprint(c.Band.Judge(uncertainty.Normal(1, 0.1))) != fmt.Sprint(o.Band.Judge(uncertainty.Normal(1, 0.1))) || c.Name != o.Name || c.Question != o.Question {
				t.Errorf("%s changed too", c.ID)
			}
		}
	}
	if len(m.Faults) != len(old.Faults) || m.Faults[0].Cues[0] != old.Faults[0].Cues[0] {
		t.Error("faults changed")
	}
	if _, err := models.WithBands(raw, map[string]uncertainty.Band{"luck": {}}); err == nil || !strings.Contains(err.Error(), "luck") {
		t.Errorf("unknown checkpoint: %v", err)
	}
}

// The shipped file taken over by a team: what is new comes, changed bands and own
// faults stay.
func TestTakeOver(t *testing.T) {
	source, err := models.Source("javelin")
	if err != nil {
		t.Fatal(err)
	}
	at := func(v float64) *float64 { return &v }
	mine, err := models.WithBands(source, map[string]uncertainty.Band{"block_time": {Lo: at(100), Hi: at(222)}})
	if err != nil {
		t.Fatal(err)
	}
	own := model.Fault{ID: "own_x", Name: "X", Short: "x", Phase: "power", Target: "block_time", When: model.Rule{Reading: "block_time", Outside: "above"}, Effect: "x",
		Cues: []model.Cue{{Focus: "outward", Words: "x", Backfire: "x"}}, Drills: []model.Drill{{Name: "x", Dose: model.Dose{Says: "x"}, Feel: "x"}}}
	if mine, err = models.With(mine, models.Additions{Faults: []model.Fault{own}, Adjusted: []model.Adjusted{{Checkpoint: "block_time", Under: 14, Band: uncertainty.Band{Hi: at(300)}, Reason: "children"}}}); err != nil {
		t.Fatal(err)
	}
	team, err := models.Parse(mine)
	if err != nil {
		t.Fatal(err)
	}
	newer := []byte(strings.Replace(string(source), "version: 3", "version: 4", 1))
	newer = []byte(strings.Replace(string(newer), "name: Javelin throw", "name: Javelin throw anew", 1))
	raw, err := models.TakeOver(newer, team)
	if err != nil {
		t.Fatal(err)
	}
	got, err := models.Parse(raw)
	if err != nil {
		t.Fatal(err)
	}
	cp, _ := got.Checkpoint("block_time")
	if got.Version != 4 || got.Name != "Javelin throw anew" || *cp.Band.Hi != 222 {
		t.Errorf("version %d, %s, up to %g", got.Version, got.Name, *cp.Band.Hi)
	}
	shipped, err := models.Parse(source)
	if err != nil {
		t.Fatal(err)
	}
	if _, ok := got.Fault("own_x"); !ok || len(got.Adjusted) != len(shipped.Adjusted) {
		t.Errorf("own fault %v, adjusted %+v", ok, got.Adjusted)
	}
	if b, _ := got.For(model.Whom{Age: 12}).Checkpoint("block_time"); *b.Band.Hi != 300 || b.Band.Lo != nil {
		t.Errorf("a child's band %+v", b.Band)
	}
	if b, _ := got.For(model.Whom{Age: 16, Years: model.Unknown}).Checkpoint("block_time"); *b.Band.Hi != 222 {
		t.Errorf("at 16 %+v", b.Band)
	}
}

// A team's model that was made from an earlier shipped one keeps its own bands and words, and
// takes nothing along that was the shipped one's then.
func TestTakeOverFromAnEarlierOne(t *testing.T) {
	at := func(v float64) *float64 { return &v }
	for _, event := range []string{"hammer", "high-jump"} {
		old, err := os.ReadFile("before/" + event + ".1.yaml")
		if err != nil {
			t.Fatal(err)
		}
		source, err := models.Source(event)
		if err != nil {
			t.Fatal(err)
		}
		shipped, err := models.Load(event)
		if err != nil {
			t.Fatal(err)
		}
		id, fault := shipped.Checkpoints[len(shipped.Checkpoints)-3].ID, shipped.Faults[1].ID
		earlier, err := models.Parse(old)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range earlier.Checkpoints {
			if now, ok := shipped.Checkpoint(c.ID); ok && c.Band.Hi != nil && now.Tolerated != nil {
				id = c.ID
			}
		}
		mine, err := models.WithBands(old, map[string]uncertainty.Band{id: {Lo: at(1), Hi: at(2)}})
		if err != nil {
			t.Fatal(err)
		}
		words := model.Cue{Focus: "inward", Words: "Our words.", Backfire: "Ours too."}
		if mine, err = models.With(mine, models.Additions{Cues: map[string][]model.Cue{fault: {words}}}); err != nil {
			t.Fatal(err)
		}
		team, err := models.Parse(mine)
		if err != nil {
			t.Fatal(err)
		}
		raw, err := models.TakeOver(source, team)
		if err != nil {
			t.Fatal(err)
		}
		got, err := models.Parse(raw)
		if err != nil {
			t.Fatal(err)
		}
		if len(got.Checkpoints) != len(shipped.Checkpoints) || len(got.Faults) != len(shipped.Faults) {
			t.Errorf("%s: %d checkpoints and %d faults, shipped are %d and %d", event, len(got.Checkpoints), len(got.Faults), len(shipped.Checkpoints), len(shipped.Faults))
		}
		cues := 0
		for i, f := range got.Faults {
			cues += len(f.Cues) - len(shipped.Faults[i].Cues)
		}
		if f, _ := got.Fault(fault); cues != 1 || !slices.Contains(f.Cues, words) {
			t.Errorf("%s: %d cues came along, %+v", event, cues, f.Cues)
		}
		if c, _ := got.Checkpoint(id); c.Band.Hi == nil || *c.Band.Hi != 2 || c.Tolerated != nil {
			t.Errorf("%s %s: %+v, tolerated %+v", event, id, c.Band, c.Tolerated)
		}
	}
}

// The watching guide has a sentence for each of its four passes, in every model; a
// model with another number is told so.
func TestWatchingGuide(t *testing.T) {
	all, err := models.All()
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]string{}
	for _, m := range all {
		if len(m.Watch) != 4 {
			t.Errorf("%s has %d passes", m.ID, len(m.Watch))
		}
		for _, w := range m.Watch {
			if other, ok := seen[w]; ok && !(m.ID == "weight" || other == "weight") {
				t.Errorf("%s and %s say the same: %s", m.ID, other, w)
			}
			seen[w] = m.ID
		}
	}
	raw, err := models.Source("shot")
	if err != nil {
		t.Fatal(err)
	}
	short := strings.Replace(string(raw), "watch:\n", "watch:\n  - \"One more\"\n", 1)
	var wrong models.Mistakes
	if _, err := models.Parse([]byte(short)); !errors.As(err, &wrong) || !strings.Contains(wrong.Error(), "four passes, not 5") {
		t.Errorf("five passes: %v", err)
	}
}

// A style added to a model that has none leaves the usual one first, and an outward
// cue stands before the inward ones.
func TestAdditionsKeepTheOrder(t *testing.T) {
	raw, err := os.ReadFile("before/sprint-start.1.yaml")
	if err != nil {
		t.Fatal(err)
	}
	raw, err = models.With(raw, models.Additions{Variants: []model.Variant{{ID: "own_low", Name: "low", Says: "Hips lower."}}, Cues: map[string][]model.Cue{"S4": {{Focus: "outward", Words: "Skim it.", Backfire: "Hand's width of air."}}}})
	if err != nil {
		t.Fatal(err)
	}
	m, err := models.Parse(raw)
	if err != nil {
		t.Fatal(err)
	}
	if len(m.Variants) != 2 || m.Variants[0].ID != "usual" || m.Variants[1].ID != "own_low" {
		t.Errorf("%+v", m.Variants)
	}
	f, _ := m.Fault("S4")
	inward := false
	for _, c := range f.Cues {
		if c.Focus == "outward" && inward {
			t.Errorf("%q stands behind an inward cue", c.Words)
		}
		inward = inward || c.Focus == "inward"
	}
	if !slices.ContainsFunc(f.Cues, func(c model.Cue) bool { return c.Words == "Skim it." }) {
		t.Error("the cue is lost")
	}
	if _, err := models.With(raw, models.Additions{Variant: "nobody", Bands: map[string]uncertainty.Band{"front_knee_set": {}}}); err == nil {
		t.Error("a band for a style that is not there")
	}
}

// A team keeps the models that it wrote: words of older files are still read.
func TestOlderWordsAreRead(t *testing.T) {
	raw, err := models.Source("sprint-start")
	if err != nil {
		t.Fatal(err)
	}
	text := string(raw)
	old := strings.NewReplacer("kind: answer", "kind: mark", "answered_no: true", "marked: true").Replace(text)
	if old == text {
		t.Fatal("the file has no question")
	}
	now, err := models.Parse([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	then, err := models.Parse([]byte(old))
	if err != nil || !reflect.DeepEqual(now, then) {
		t.Errorf("an older file reads otherwise: %v", err)
	}
}

// What a demanding coach would not sign: a band or a question from which no advice follows, a
// threshold that is not the band's, opposite errors under one cue, one way only of saying it,
// doses without numbers, schools that differ by name alone.
func TestShippedModelsGiveNoConcern(t *testing.T) {
	all, err := models.All()
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range all {
		for _, c := range m.Review() {
			t.Errorf("%s, %s: %s (%s)", m.ID, c.Where, c.Says, c.Kind)
		}
	}
}

// Phases that the table of events names after what stands on the ground are phases of its model.
func TestSupportsArePhases(t *testing.T) {
	for _, e := range sport.Events() {
		m, err := models.Load(string(e.ID))
		if err != nil {
			t.Fatal(err)
		}
		known := map[string]bool{}
		for _, p := range m.Phases {
			known[p.ID] = true
		}
		if m.Repeat != nil {
			for _, p := range m.Repeat.Phases {
				known[p.ID] = true
			}
		}
		if len(e.Supports) == 0 {
			t.Errorf("%s has no such names", e.ID)
		}
		for id, name := range e.Supports {
			if !known[id] || name == "" {
				t.Errorf("%s: phase %s, %q", e.ID, id, name)
			}
		}
	}
}

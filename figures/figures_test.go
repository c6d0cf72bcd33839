package figures

import (
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"
)

// assert measures a figure by name and holds it to its own target.
func assert(t *testing.T, lab *Lab, name string) {
	t.Helper()
	for _, f := range All() {
		if f.Name != name {
			continue
		}
		v, err := f.Measure(lab)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		t.Logf("%s %v %s (%s)", name, v, f.Unit, f.Target)
		if !f.Pass(v) {
			t.Errorf("%s is %v %s, promised %s", name, v, f.Unit, f.Target)
		}
		return
	}
	t.Fatalf("there is no figure %s", name)
}

var lab = &Lab{}

func TestMain(m *testing.M) {
	code := m.Run()
	lab.Close()
	os.Exit(code)
}

func TestAccuracy(t *testing.T) {
	for _, name := range []string{"angle.truth.max_deg", "doubt.montecarlo.err_pct", "blocks.whatif.err_deg"} {
		assert(t, lab, name)
	}
}

// TestExactFrames: constant and variable rate, with and without B-frames, HEVC,
// rotated; the stage and the stills show the frame that was asked for. The PDF's
// stills are checked in the tests of the API.
func TestExactFrames(t *testing.T) { assert(t, lab, "frames.exact.mismatches") }

func TestSizes(t *testing.T) {
	assert(t, lab, "frontend.first_load.kb")
	// The promise of 1,300 kB does not hold since drafts and the second look at feet are in
	// the core (docs/figures.md); it must not get much
	// farther away meanwhile (1,344 before questions and
	// chains, 1,383 before gravity and rates, 1,404 before missing positions and stills,
	// 1,424 before the plane of motion, errors that hang together and cards, 1,463 before
	// filtered moments and the look whether the view is right, 1,500 before measures of
	// turns, take-offs and feet, 1,520 before run-ups on marked ground and poles, 1,583 before
	// signs of moments and steps after a doubtful clearance).
	if v, err := compressed("web/public/core/core.wasm"); err != nil || v > 1595 {
		t.Errorf("the core has %.0f kB %v", v, err)
	}
}

// TestSimulation: what the truth of the ten events says of itself, and the size
// of the demo's clips.
func TestSimulation(t *testing.T) {
	for _, name := range []string{"sim.events.count", "sim.faults.count", "sim.foot_slide.max_mm", "sim.fall_g.err_pct", "sim.timing_bands.missed",
		"demo.clips.count", "demo.clips.total_mb", "demo.clips.largest_mb"} {
		assert(t, lab, name)
	}
}

// TestDoors: every route as those who may not use it.
func TestDoors(t *testing.T) {
	for _, name := range []string{"followup.access.routes_checked", "followup.access.leaks"} {
		assert(t, lab, name)
	}
}

func TestTargetsAreRead(t *testing.T) {
	for _, c := range []struct {
		target string
		v      float64
		want   bool
	}{{"<= 2", 2, true}, {"<= 2", 2.1, false}, {">= 85", 84, false}, {">= 85", 90, true}, {"25..33", 30, true}, {"25..33", 40, false}, {"nonsense", 1, false}} {
		if got := (Figure{Target: c.target}).Pass(c.v); got != c.want {
			t.Errorf("%v against %q: %v", c.v, c.target, got)
		}
	}
}

// TestTheDocumentIsOfTheseFigures: docs/figures.md has each figure once, with the target and
// the verdict that belong to it; ./neo figures -write puts it right.
func TestTheDocumentIsOfTheseFigures(t *testing.T) {
	raw, err := os.ReadFile("../docs/figures.md")
	if err != nil {
		t.Fatal(err)
	}
	next, err := Put(string(raw), nil)
	if err != nil {
		t.Fatal(err)
	}
	if next != string(raw) {
		t.Error("docs/figures.md has other figures than are promised")
	}
	_, rest, _ := strings.Cut(string(raw), "```\n")
	block, _, _ := strings.Cut(rest, "```")
	lines := strings.Split(strings.TrimSpace(block), "\n")
	for i, f := range All() {
		if i >= len(lines) {
			t.Fatalf("%s is missing", f.Name)
		}
		if strings.Contains(lines[i], " short (") {
			continue // could not be measured, and says why
		}
		var name, value, unit, target, verdict string
		if n, err := fmt.Sscan(lines[i], &name, &value, &unit, &target, &verdict); n != 5 || err != nil {
			t.Errorf("%q: %v", lines[i], err)
			continue
		}
		v, err := strconv.ParseFloat(value, 64)
		if err != nil || name != f.Name || unit != f.Unit || target != f.bare() || (verdict == "pass") != f.Pass(v) {
			t.Errorf("%q is not a line of %s (%s, %s)", lines[i], f.Name, f.Unit, f.Target)
		}
	}
}

func TestLinesOfADocument(t *testing.T) {
	all := All()
	doc, err := Put("# F\n\n```\ngone 1 x <=1 pass\n"+all[1].line(0)+"\n```\n\nnotes\n", []string{all[0].line(0)})
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(doc, "\n")
	if lines[3] != all[0].line(0) || lines[4] != all[1].line(0) || !strings.HasSuffix(lines[5], "short (not measured)") || strings.Contains(doc, "gone") || !strings.HasSuffix(doc, "```\n\nnotes\n") {
		t.Errorf("%.400s", doc)
	}
	if _, err := Put("no block", nil); err == nil {
		t.Error("a document without a block is taken")
	}
}

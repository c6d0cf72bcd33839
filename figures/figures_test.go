package figures

import (
	"os"
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
	for _, name := range []string{"frontend.first_load.kb", "core.wasm.kb"} {
		assert(t, lab, name)
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

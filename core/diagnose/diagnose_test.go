package diagnose_test

import (
	"slices"
	"testing"

	"neokinema/core/diagnose"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/uncertainty"
)

func end(v float64) *float64 { return &v }

// chain is a model in which "low" brings "late" about, and "late" brings "stiff".
func chain() model.Model {
	above := func(reading string) model.Rule { return model.Rule{Reading: reading, Outside: "above"} }
	cp := func(id string) model.Checkpoint {
		return model.Checkpoint{ID: id, Position: "p", Band: uncertainty.Band{Hi: end(10)}, Keep: "good " + id, NotIf: []string{"stiff"}}
	}
	return model.Model{
		Phases:      []model.Phase{{ID: "one"}, {ID: "two"}, {ID: "three"}},
		Checkpoints: []model.Checkpoint{cp("a"), cp("b"), cp("c"), {ID: "d", Position: "q", Band: uncertainty.Band{Lo: end(0)}, Keep: "good d"}},
		Faults: []model.Fault{
			{ID: "stiff", Phase: "three", When: above("c"), Because: []string{"late"}},
			{ID: "late", Phase: "two", When: above("b"), Because: []string{"low"}},
			{ID: "low", Phase: "one", When: above("a")},
		},
	}
}

func read(id string, value, sd float64) report.Reading {
	v := uncertainty.Normal(value, sd)
	r := report.Reading{ID: id, Value: &v, Verdict: uncertainty.Band{Hi: end(10)}.Judge(v)}
	if id == "d" {
		r.Verdict = uncertainty.Band{Lo: end(0)}.Judge(v)
	}
	return r
}

func readings(list ...report.Reading) map[string]report.Reading {
	out := map[string]report.Reading{}
	for _, r := range list {
		out[r.ID] = r
	}
	return out
}

func names(list []report.Finding) (out []string) {
	for _, f := range list {
		out = append(out, f.Fault)
	}
	return out
}

func TestFirstCauseComesFirst(t *testing.T) {
	present, possible := diagnose.Faults(chain(), readings(read("a", 20, 1), read("b", 20, 1), read("c", 20, 1)))
	if got := names(present); !slices.Equal(got, []string{"low", "late", "stiff"}) || len(possible) != 0 {
		t.Fatalf("%v, possible %v", got, names(possible))
	}
	if f := present[0]; !f.First || !slices.Equal(f.Effects, []string{"late", "stiff"}) || f.Certainty != "certain" || f.Excess == nil || f.Excess.By != 10 {
		t.Errorf("%+v", f)
	}
	if present[1].First || present[2].First {
		t.Error("what follows from a present fault is called a first cause")
	}
}

// The link between cause and effect may be hidden from a view; the effect still follows.
func TestTheChainHoldsThroughWhatIsNotSeen(t *testing.T) {
	present, _ := diagnose.Faults(chain(), readings(read("a", 20, 1), read("c", 20, 1)))
	if got := names(present); !slices.Equal(got, []string{"low", "stiff"}) || present[1].First {
		t.Errorf("%v %+v", got, present)
	}
}

// A number whose interval reaches over the threshold never makes a certain fault.
func TestCertaintyFollowsTheInterval(t *testing.T) {
	for _, c := range []struct {
		value, sd float64
		want      string
	}{{20, 1, "certain"}, {10.5, 1, "likely"}, {9.5, 1, "open"}, {5, 1, ""}, {12, 0.9, "certain"}, {12, 1.1, "likely"}} {
		present, possible := diagnose.Faults(chain(), readings(read("a", c.value, c.sd)))
		got := ""
		for _, f := range append(present, possible...) {
			got = f.Certainty
		}
		if got != c.want {
			t.Errorf("%g ± %g of at most 10: %q, not %q", c.value, c.sd*uncertainty.Z95, got, c.want)
		}
	}
}

func TestStrengthsAreTakenInTurnsAndNotSpoiled(t *testing.T) {
	m := chain()
	all := readings(read("a", 2, 1), read("b", 2, 1), read("d", 5, 1))
	got := diagnose.Strengths(m, all, nil)
	// The first of each position, then the second ones.
	if len(got) != 3 || got[0].Reading != "a" || got[1].Reading != "d" || got[2].Reading != "b" {
		t.Errorf("%+v", got)
	}
	spoiled := diagnose.Strengths(m, all, []report.Finding{{Fault: "stiff"}})
	if len(spoiled) != 1 || spoiled[0].Reading != "d" {
		t.Errorf("what a fault brings about is praised: %+v", spoiled)
	}
}

func TestListPutsTheCoachsOwnLastAndSetsRefusedAside(t *testing.T) {
	m := chain()
	present, _ := diagnose.Faults(m, readings(read("a", 20, 1), read("b", 20, 1)))
	got := diagnose.List(m, present, map[string]string{"stiff": "accepted", "late": "accepted"}, []string{"low", "late"})
	if len(got) != 3 {
		t.Fatalf("%+v", got)
	}
	if f := got[0]; f.Fault != "low" || !f.SetAside || f.Own {
		t.Errorf("refused before, nothing said now: %+v", f)
	}
	if f := got[1]; f.Fault != "late" || f.SetAside {
		t.Errorf("refused before, accepted now: %+v", f)
	}
	if f := got[2]; f.Fault != "stiff" || !f.Own {
		t.Errorf("seen by the coach alone: %+v", f)
	}
}

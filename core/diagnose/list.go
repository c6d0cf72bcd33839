package diagnose

import (
	"slices"

	"neokinema/core/model"
	"neokinema/core/report"
)

// Listed is a fault as it is shown to the coach.
type Listed struct {
	report.Finding
	Own      bool `json:"own,omitempty" required:"false" doc:"the coach saw it; no reading shows it"`
	SetAside bool `json:"set_aside,omitempty" required:"false" doc:"the coach refused it for this athlete before and has said nothing of it here"`
}

// List puts the findings of an attempt together with what the coach said: decisions are his
// words on this attempt (accepted or refused), refused what he refused on earlier ones.
// Faults that he accepted and that nothing shows come last, in the order of the model.
func List(m model.Model, findings []report.Finding, decisions map[string]string, refused []string) []Listed {
	out := []Listed{}
	for _, f := range findings {
		out = append(out, Listed{Finding: f, SetAside: slices.Contains(refused, f.Fault) && decisions[f.Fault] == ""})
	}
	for _, f := range m.Faults {
		if decisions[f.ID] == "accepted" && !slices.ContainsFunc(findings, func(x report.Finding) bool { return x.Fault == f.ID }) {
			out = append(out, Listed{Finding: report.Finding{Fault: f.ID, Readings: []string{}, Effects: []string{}}, Own: true})
		}
	}
	return out
}

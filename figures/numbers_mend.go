package figures

import (
	"neokinema/core/evaluate"
	"neokinema/core/repair"
	"neokinema/models"
	"neokinema/simcam/study"
)

// mend puts a draft right over time, as the server does.
func mend(a study.Attempt, in *evaluate.Input) {
	m, err := models.Load(a.Model.ID)
	if err != nil {
		return
	}
	for id, change := range repair.Draft(m, *in).Changes {
		if in.Points[id] != nil {
			in.Points[id].Apply(change, false)
		}
	}
}

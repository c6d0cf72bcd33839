package testenv

import (
	"neokinema/core/model"
	"neokinema/internal/store"
)

// OwnDrill is a drill as a team keeps one of its own, without a clip.
func OwnDrill() store.NewOwnDrill {
	return store.NewOwnDrill{DrillTold: store.DrillTold{Name: "Set and hold under a string", Event: "sprint-start", Faults: []string{"S1"}, Needs: []string{"a string"}, Level: "new",
		Dose: model.Dose{Sets: 3, Reps: 4, Effort: 60, Week: 2}, Ladder: []string{"standing", "kneeling", "in the blocks"}, Feel: "the back stays below the string", GoOn: "eight of ten below it", Stop: "the wrists hurt"}}
}

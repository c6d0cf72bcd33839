package workspace

import (
	"testing"

	"github.com/google/uuid"

	"neokinema/core/kinematics"
	"neokinema/core/model"
	"neokinema/core/track"
	"neokinema/internal/store"
)

// What follows from an attempt is computed once, and anew as soon as anything of it is another.
func TestMemo(t *testing.T) {
	clip := store.Clip{ID: uuid.New(), State: "ready", CaptureRate: 240}
	begin := func() Workspace {
		points := track.New(1)
		_ = points.Set(3, &track.Point{X: 10, Y: 20, Source: "hand", Confidence: 1})
		return Workspace{Model: model.Model{ID: "hammer", Version: 3}, Attempt: store.Attempt{ID: uuid.Nil}, Clips: []store.Clip{clip},
			Work: Work{Clips: map[uuid.UUID]ClipWork{clip.ID: {Points: kinematics.Points{"left_hip": points}, Flags: map[string]int{"set": 3}}}}}
	}
	var m memo[int]
	n := 0
	ask := func(sh Workspace) int { return m.of(sh, func() int { n++; return n }) }
	if a, b := ask(begin()), ask(begin()); a != 1 || b != 1 {
		t.Errorf("the same attempt was computed twice: %d %d", a, b)
	}
	for name, change := range map[string]func(*Workspace){
		"a point": func(sh *Workspace) {
			sh.Work.Clips[clip.ID].Points["left_hip"].Set(3, &track.Point{X: 10.1, Y: 20, Source: "hand", Confidence: 1})
		},
		"a flag":      func(sh *Workspace) { sh.Work.Clips[clip.ID].Flags["set"] = 4 },
		"the rate":    func(sh *Workspace) { sh.Clips[0].CaptureRate = 120 },
		"the model":   func(sh *Workspace) { sh.Model.Version = 4 },
		"the athlete": func(sh *Workspace) { sh.Athlete.Height = 1.9 },
		"the age":     func(sh *Workspace) { sh.Age = 12 },
		"its mark":    func(sh *Workspace) { sh.Attempt.Mark = "61.15 m" },
	} {
		sh := begin()
		sh.Clips = []store.Clip{clip}
		change(&sh)
		before := n
		if ask(sh); n != before+1 {
			t.Errorf("%s changed and nothing was computed anew", name)
		}
	}
	for i := range mostKept + 2 {
		sh := begin()
		sh.Age = 100 + i
		ask(sh)
	}
	if len(m.kept) > mostKept {
		t.Errorf("%d are kept", len(m.kept))
	}
}

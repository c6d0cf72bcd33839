package demo

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/intake"
	"neokinema/internal/store"
)

// Sampler gives teams a clip to try: a sprint start of the simulated athlete, as a phone has it,
// with an invented athlete of its own, whom the team can delete.
func Sampler(st *store.Store, in *intake.Service) func(context.Context, uuid.UUID) (store.Attempt, error) {
	return func(ctx context.Context, team uuid.UUID) (store.Attempt, error) {
		who, at, err := sample()
		if err != nil {
			return store.Attempt{}, err
		}
		who.Name = "Sample athlete"
		a, err := st.AddAthlete(ctx, team, who)
		if err != nil {
			return store.Attempt{}, err
		}
		row, err := st.AddAttempt(ctx, team, store.NewAttempt{AthleteID: a.ID, Event: at.event(), DoneOn: time.Now().Format(time.DateOnly),
			Session: "A clip to try", Mark: at.mark, Condition: "fresh", Setting: "practice"})
		if err != nil {
			return store.Attempt{}, err
		}
		folder, err := os.MkdirTemp("", "neokinema-sample-")
		if err != nil {
			return store.Attempt{}, err
		}
		defer os.RemoveAll(folder)
		raw, err := files.ReadFile("clips/" + slug(at.clips[0].file))
		if err != nil {
			return store.Attempt{}, err
		}
		file := filepath.Join(folder, "sample.mp4")
		if err := os.WriteFile(file, raw, 0o600); err != nil {
			return store.Attempt{}, err
		}
		_, err = in.Receive(ctx, team, row.ID, at.clips[0].file, file)
		return row, err
	}
}

// sample is the first sprint start of the club in which something was found.
func sample() (store.NewAthlete, attempt, error) {
	for _, who := range people() {
		i := slices.IndexFunc(who.attempts, func(a attempt) bool {
			return a.event() == "sprint-start" && len(a.clips) == 1 && len(a.accept) > 0 && !a.clips[0].untagged
		})
		if i >= 0 {
			return who.athlete, who.attempts[i], nil
		}
	}
	return store.NewAthlete{}, attempt{}, fmt.Errorf("the club has no clip to try")
}

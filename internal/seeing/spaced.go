package seeing

import (
	"math"
	"slices"
	"time"

	"github.com/open-spaced-repetition/go-fsrs/v3"

	"neokinema/core/eye"
	"neokinema/internal/store"
)

// scheduler is the Free Spaced Repetition Scheduler with the parameters that it comes with.
func scheduler() *fsrs.FSRS { return fsrs.NewFSRS(fsrs.DefaultParam()) }

// slow is how long an answer may take before it is one that was hard, ms. Common practice, no source.
const slow = 25_000

// rating is what an answer says about how well something is seen.
func rating(a store.EyeAnswer) fsrs.Rating {
	switch {
	case !a.Correct:
		return fsrs.Again
	case a.Took > slow, a.Kind == eye.Angle && math.Abs(a.Off) > nearDegrees/2:
		return fsrs.Hard
	}
	return fsrs.Good
}

// due are the things whose time it is, the longest overdue first: each answer moves its card on, from
// the first to the last, so that nothing but answers is kept.
func due(answers []store.EyeAnswer, now time.Time) []card {
	f := scheduler()
	cards := map[card]fsrs.Card{}
	var order []card
	for _, a := range answers {
		key := cardOf(a)
		c, ok := cards[key]
		if !ok {
			c = fsrs.NewCard()
			order = append(order, key)
		}
		cards[key] = f.Next(c, a.At, rating(a)).Card
	}
	order = slices.DeleteFunc(order, func(k card) bool { return cards[k].Due.After(now) })
	slices.SortStableFunc(order, func(a, b card) int { return cards[a].Due.Compare(cards[b].Due) })
	return order
}

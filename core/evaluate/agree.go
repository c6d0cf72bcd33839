package evaluate

import (
	"math"

	"neokinema/core/model"
)

// What is found must fit together: positions in the order of the model, each of them sure enough.
// What does not fit is withdrawn and asked for, never judged.

// How likely a moment must be for anything to be read at it, or for a foot's bar to begin or end
// there, which shows its doubt. Where a model placed the feet between few pictures, or of somebody
// less than leastTall px high, it errs grossly more often than it seems: then it takes more.
const (
	leastSure    = 0.6
	leastDrafted = 0.85
	leastTall    = 200
)

// agree withdraws found positions that are not sure enough, and of the others those that
// contradict the order of the model: what is left is the surest that fits together.
func (e *Evaluation) agree() {
	e.withdrawn = map[string]foundAt{}
	type item struct {
		id     string
		frame  int
		weight float64
		fixed  bool
	}
	var chain []item
	least := e.least()
	for _, p := range e.Model.Positions {
		if f, ok := e.Input.Flags[p.ID]; ok {
			if f >= 0 && f < e.Clock.Len() && !p.Optional {
				chain = append(chain, item{p.ID, f, 100, true})
			}
			continue
		}
		f, ok := e.found[p.ID]
		if !ok {
			continue
		}
		if f.sure < least {
			e.withdraw(p.ID)
			continue
		}
		s := math.Min(f.sure, 0.999)
		chain = append(chain, item{p.ID, f.frame, math.Log(s/(1-s)) + 0.5, false})
	}
	// The heaviest list that does not go back in time.
	best, from := make([]float64, len(chain)), make([]int, len(chain))
	last := -1
	for i, c := range chain {
		best[i], from[i] = c.weight, -1
		for j := range i {
			if chain[j].frame <= c.frame && best[j]+c.weight > best[i] {
				best[i], from[i] = best[j]+c.weight, j
			}
		}
		if last < 0 || best[i] > best[last] {
			last = i
		}
	}
	kept := map[string]bool{}
	for i := last; i >= 0; i = from[i] {
		kept[chain[i].id] = true
	}
	for _, c := range chain {
		if !kept[c.id] && !c.fixed {
			e.withdraw(c.id)
		}
	}
}

// least is how likely a moment must be to be stated.
func (e *Evaluation) least() float64 {
	if e.feetDrafted() && (e.shown() < manyPictures || e.cache.tall < leastTall) {
		return leastDrafted
	}
	return leastSure
}

func (e *Evaluation) withdraw(id string) {
	e.withdrawn[id] = e.found[id]
	delete(e.found, id)
}

// notFlagged is why nothing is read at a position.
func (e *Evaluation) notFlagged(p model.Position) Failure {
	if _, found := e.withdrawn[p.ID]; found {
		return Failure{"“" + p.Name + "” was found, but not surely enough, or it does not fit the others", "a flag at that frame"}
	}
	return Failure{"“" + p.Name + "” is not flagged", "a flag at that frame"}
}

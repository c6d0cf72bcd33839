package workspace

import (
	"crypto/sha256"
	"encoding/json"
	"sync"
)

// memo keeps what was computed of attempts by everything that it follows from: opening one again
// does not reckon anew what nobody has touched. Two that ask at once may both compute it.
type memo[T any] struct {
	mu   sync.Mutex
	kept map[[sha256.Size]byte]T
}

// mostKept bounds a memo; beyond it all is forgotten and made anew.
const mostKept = 512

func (m *memo[T]) of(sh Workspace, compute func() T) T {
	key, ok := footprint(sh)
	if !ok {
		return compute()
	}
	m.mu.Lock()
	v, have := m.kept[key]
	m.mu.Unlock()
	if have {
		return v
	}
	v = compute()
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.kept == nil || len(m.kept) >= mostKept {
		m.kept = map[[sha256.Size]byte]T{}
	}
	m.kept[key] = v
	return v
}

// footprint is another when anything is another that a report follows from.
func footprint(sh Workspace) (key [sha256.Size]byte, ok bool) {
	raw, err := json.Marshal([]any{sh.Model, sh.Attempt, sh.Athlete, sh.Age, sh.Clips, len(sh.Sounds), sh.Work})
	return sha256.Sum256(raw), err == nil
}

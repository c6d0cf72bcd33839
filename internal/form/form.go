// Package form holds what comes in by another way than a request to the limits that the
// API states for it: one schema, one answer.
package form

import (
	"encoding/json"
	"fmt"
	"reflect"
	"sync"

	"github.com/danielgtaylor/huma/v2"
)

var (
	mu       sync.Mutex
	registry = huma.NewMapRegistry("#/", huma.DefaultSchemaNamer)
)

// Check refuses a value that a request could not have brought.
func Check[T any](v T) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	var plain any
	if err := json.Unmarshal(raw, &plain); err != nil {
		return err
	}
	mu.Lock()
	defer mu.Unlock() // the registry learns types as they come
	schema := registry.Schema(reflect.TypeFor[T](), false, "")
	var found huma.ValidateResult
	huma.Validate(registry, schema, huma.NewPathBuffer(nil, 0), huma.ModeReadFromServer, plain, &found)
	if len(found.Errors) > 0 {
		return fmt.Errorf("%w", found.Errors[0])
	}
	return nil
}

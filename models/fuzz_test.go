package models_test

import (
	"testing"

	"neokinema/models"
)

// FuzzParse: a model's file is read, or every mistake in it is told.
func FuzzParse(f *testing.F) {
	for _, id := range []string{"sprint-start", "hammer", "running"} {
		raw, err := models.Source(id)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(raw)
	}
	f.Add([]byte("id: x\npositions: [{id: a}]\ncheckpoints: [{id: c, position: a, measure: {kind: joint}}]\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		m, err := models.Parse(raw)
		if err == nil && m.ID == "" {
			t.Error("a model without a name was taken")
		}
	})
}

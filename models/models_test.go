package models_test

import (
	"testing"

	"neokinema/models"
)

func TestShipped(t *testing.T) {
	all, err := models.All()
	if err != nil {
		t.Fatal(err)
	}
	if len(all) != 10 {
		t.Errorf("%d models", len(all))
	}
}

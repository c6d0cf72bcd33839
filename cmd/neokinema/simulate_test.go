package main

import (
	"context"
	"errors"
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"neokinema/simcam"
	"neokinema/simcam/move"
)

// TestCatalogueListsEverything that can be wished for.
func TestCatalogueListsEverything(t *testing.T) {
	help := catalogue()
	for _, e := range move.Events() {
		for _, v := range e.Variants {
			if !strings.Contains(help, "--variant "+v.ID) {
				t.Errorf("%s %s is not listed", e.ID, v.ID)
			}
		}
		for _, d := range e.Faults {
			if !strings.Contains(help, "--fault "+d.Name) || !strings.Contains(help, d.Says) {
				t.Errorf("%s: fault %s is not listed", e.ID, d.Name)
			}
		}
	}
	for _, c := range simcam.Places() {
		if !strings.Contains(help, c) {
			t.Errorf("camera %s is not listed", c)
		}
	}
}

// TestSimulateWritesWhatWasAskedFor into a folder that it makes.
func TestSimulateWritesWhatWasAskedFor(t *testing.T) {
	out := filepath.Join(t.TempDir(), "new", "folder")
	args := []string{"--event", "javelin", "--hand", "left", "--fault", "late-block=0.1", "--fault", "pull-down=9", "--camera", "oblique", "--late", "1.2",
		"--capture-rate", "60", "--width", "320", "--picture-height", "180", "--out", out}
	if err := runSimulate(context.Background(), args); err != nil {
		t.Fatal(err)
	}
	truth, err := simcam.ReadTruth(filepath.Join(out, "javelin.mp4.truth.json"))
	if err != nil {
		t.Fatal(err)
	}
	if s := truth.Spec; s.Faults["late-block"] != 0.1 || s.Faults["pull-down"] != 9 || s.Hand != "left" || s.Camera.Place != "oblique" || truth.Start != 1.2 {
		t.Errorf("%+v", truth.Spec)
	}
	if info, err := os.Stat(filepath.Join(out, "javelin.mp4")); err != nil || info.Size() < 2000 {
		t.Errorf("clip: %v", err)
	}
	if err := runSimulate(context.Background(), []string{"--event", "shot", "--sheet", "6", "--width", "320", "--picture-height", "180", "--out", out}); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(out, "shot.png")); err != nil {
		t.Error(err)
	}
}

func TestSimulateRefusesWithAReason(t *testing.T) {
	for want, args := range map[string][]string{
		"there are":          {"--event", "yodelling"},
		"left or right":      {"--hand", "third"},
		"female or male":     {"--sex", "heron"},
		"name=size":          {"--fault", "drag"},
		"is not a flag":      {"hammer"},
		"there is no fault":  {"--event", "hammer", "--fault", "smile=2"},
		"cannot be simulate": {"--height", "9"},
	} {
		args = append(args, "--out", t.TempDir())
		err := runSimulate(context.Background(), args)
		if want == "is not a flag" {
			err = runSimulate(context.Background(), []string{"--out", t.TempDir(), "hammer"})
		}
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v: %v, want %q", args, err, want)
		}
	}
	if err := runSimulate(context.Background(), []string{"--help"}); !errors.Is(err, flag.ErrHelp) {
		t.Errorf("help: %v", err)
	}
}

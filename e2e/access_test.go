package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/proto"

	"neokinema/internal/testenv"
)

// accessible goes through screens in both themes and holds each against the rules of WCAG 2.2 AA.
func accessible(t *testing.T, s *testenv.Screen, url string, list []testenv.Place) (seen int) {
	t.Helper()
	// Nothing fades in, so that colours are what they are.
	if err := (proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}).Call(s); err != nil {
		t.Fatal(err)
	}
	for _, theme := range []string{"dark", "light"} {
		s.Settings(map[string]any{"theme": theme})
		for _, x := range list {
			s.Visit(url, x)
			for _, v := range s.Violations() {
				t.Errorf("%s, %s: %s", x.Name, theme, v)
			}
			seen++
		}
	}
	return seen
}

// outside goes through screens in the language for tests, and tells which texts stand in no
// catalogue.
func outside(s *testenv.Screen, url string, list []testenv.Place) (out []string) {
	s.T.Helper()
	s.Marked()
	told := map[string]bool{}
	for _, x := range list {
		s.Visit(url, x)
		if !s.MustEval(`() => document.body.innerText.includes("⟦")`).Bool() {
			s.T.Errorf("%s is not in the language for tests", x.Name)
		}
		for _, o := range s.Outside() {
			if !told[o] {
				told[o] = true
				out = append(out, x.Name+": "+o)
			}
		}
	}
	return out
}

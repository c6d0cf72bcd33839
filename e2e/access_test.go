package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"neokinema/internal/testenv"
)

// screen is a screen of the application, and how one gets to it from its address.
type screen struct {
	name, path, sign string // sign is what tells that it is there
	then             func(*testenv.Screen)
}

// press types keys one after the other and waits for what they bring.
func press(sign string, keys ...input.Key) func(*testenv.Screen) {
	return func(s *testenv.Screen) {
		for _, k := range keys {
			s.Keyboard.MustType(k)
		}
		s.See(sign)
	}
}

// accessible goes through screens in both themes and holds each against the rules of WCAG 2.2 AA.
func accessible(t *testing.T, s *testenv.Screen, url string, list []screen) (seen int) {
	t.Helper()
	// Nothing fades in, so that colours are what they are.
	if err := (proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}).Call(s); err != nil {
		t.Fatal(err)
	}
	for _, theme := range []string{"dark", "light"} {
		s.Settings(map[string]any{"theme": theme})
		for _, x := range list {
			s.Open(url+x.path, x.sign)
			if x.then != nil {
				x.then(s)
			}
			for _, v := range s.Violations() {
				t.Errorf("%s, %s: %s", x.name, theme, v)
			}
			seen++
		}
	}
	return seen
}

// outside goes through screens in the language for tests, and tells which texts stand in no
// catalogue.
func outside(s *testenv.Screen, url string, list []screen) (out []string) {
	s.T.Helper()
	s.Marked()
	told := map[string]bool{}
	for _, x := range list {
		s.Open(url+x.path, x.sign)
		if x.then != nil {
			x.then(s)
		}
		if !s.MustEval(`() => document.body.innerText.includes("⟦")`).Bool() {
			s.T.Errorf("%s is not in the language for tests", x.name)
		}
		for _, o := range s.Outside() {
			if !told[o] {
				told[o] = true
				out = append(out, x.name+": "+o)
			}
		}
	}
	return out
}

// ofClub are the screens of a club that is at work.
func ofClub(attempt, athlete, other string) []screen {
	bench := "/attempt/" + attempt
	ready := "canvas[data-frame]"
	panel := func(name string, key input.Key) screen {
		return screen{"Bench, " + name, bench, ready, press("[role=tab][aria-selected=true]", key)}
	}
	return []screen{
		{"queue", "/", "[data-attempt]", nil},
		{"quick look", "/", "[data-attempt]", press("[data-glance]", input.Space)},
		{"add an attempt", "/", "[data-attempt]", press("[role=dialog] [name=athlete]", input.KeyN)},
		panel("check", input.Comma), panel("numbers", input.KeyQ), panel("findings", input.KeyW), panel("what if", input.KeyE), panel("track", input.KeyT),
		panel("draw", input.KeyJ), panel("ground", input.KeyG), panel("clip", input.KeyC),
		{"keys", bench, ready, func(s *testenv.Screen) { s.See("[data-testid=keys]").MustClick(); s.See("[role=dialog]") }},
		{"what to hold it beside", bench, ready, press("[role=dialog] [data-testid=others]", input.KeyY)},
		{"feedback", bench + "/feedback", "[data-testid=paper]", nil},
		{"athlete", "/athlete/" + athlete, "main:not([data-testid=opening]) h1", nil},
		{"team", "/team", "[data-testid=accounts]", nil},
		{"settings", "/settings", "[data-testid=settings]", nil},
		{"models", "/models", "[data-testid=model]", nil},
		{"model of the javelin", "/models/javelin", "[data-testid=model]", nil},
		{"side by side", "/beside/" + attempt + "/" + other, "[data-side=first]", nil},
		{"points beside others", "/against/" + attempt, ready, nil},
		{"nothing there", "/attempt/00000000-0000-0000-0000-000000000000", "[data-testid=opening] a", nil},
	}
}

package moving

import (
	_ "embed"
	"fmt"
	"sync"

	"go.yaml.in/yaml/v3"
)

//go:embed figures.yaml
var raw []byte

// Figures are the figures of drills, by the drill's name.
var Figures = sync.OnceValues(func() (map[string]Spec, error) {
	var list []struct {
		Drills []string `yaml:"drills"`
		Figure Spec     `yaml:"figure"`
	}
	if err := yaml.Unmarshal(raw, &list); err != nil {
		return nil, fmt.Errorf("figures.yaml: %w", err)
	}
	out := map[string]Spec{}
	for _, x := range list {
		for _, d := range x.Drills {
			if _, twice := out[d]; twice {
				return nil, fmt.Errorf("figures.yaml: %q has two figures", d)
			}
			out[d] = x.Figure
		}
	}
	return out, nil
})

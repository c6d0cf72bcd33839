package figures

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// What the project promises to those who work on it.

// rounds of the whole suite, of which the median is told.
const suiteRounds = 3

// SuiteMinutes is the wall time of `./neo test`, with warm caches of packages and of drawn
// clips.
func SuiteMinutes() (float64, error) {
	var took []float64
	for range suiteRounds {
		start := time.Now()
		if out, err := exec.Command("./neo", "test").CombinedOutput(); err != nil {
			return 0, fmt.Errorf("%w: %s", err, tail(out))
		}
		took = append(took, time.Since(start).Minutes())
	}
	slices.Sort(took)
	return took[suiteRounds/2], nil
}

// RaceFindings counts the races that the detector finds in all tests of core and internal.
func RaceFindings() (float64, error) {
	cmd := exec.Command("go", "test", "-race", "-count=1", "-timeout", "60m", "-p", "2", "./core/...", "./internal/...")
	out, err := cmd.CombinedOutput()
	n := bytes.Count(out, []byte("WARNING: DATA RACE"))
	if err != nil && n == 0 {
		return 0, fmt.Errorf("%w: %s", err, tail(out))
	}
	return float64(n), nil
}

// LintFindings counts what the linters have to say of the whole tree.
func LintFindings() (float64, error) {
	list, err := exec.Command("go", "list", "./cmd/...", "./core/...", "./e2e/...", "./figures/...", "./internal/...", "./models/...", "./simcam/...").Output()
	if err != nil {
		return 0, err
	}
	packages := strings.Fields(string(list))
	folders := []string{"cmd", "core", "e2e", "figures", "internal", "models", "simcam"}
	lines := func(dir, name string, args ...string) (int, error) {
		cmd := exec.Command(name, args...)
		cmd.Dir = dir
		out, err := cmd.CombinedOutput()
		n := 0
		for _, l := range strings.Split(string(out), "\n") {
			if l != "" && !strings.HasPrefix(l, "#") && !strings.HasPrefix(l, "npm ") && !strings.HasPrefix(l, "exit status") && !strings.HasPrefix(l, "go: downloading") {
				n++
			}
		}
		if err != nil && n == 0 {
			return 0, fmt.Errorf("%s: %w", name, err) // it did not run
		}
		return n, nil
	}
	total := 0
	for _, run := range [][]string{
		append([]string{".", "gofmt", "-l"}, folders...),
		append([]string{".", "go", "vet"}, packages...),
		append([]string{".", "go", "run", "honnef.co/go/tools/cmd/staticcheck@v0.8.2"}, packages...),
		{".", "go", "mod", "tidy", "-diff"},
		{"web", "npx", "--no-install", "prettier", "--list-different", "."},
	} {
		n, err := lines(run[0], run[1], run[2:]...)
		if err != nil {
			return 0, err
		}
		total += n
	}
	n, err := eslint()
	return float64(total + n), err
}

// eslint counts its errors and warnings.
func eslint() (int, error) {
	cmd := exec.Command("npx", "--no-install", "eslint", "--format", "json", ".")
	cmd.Dir = "web"
	out, err := cmd.Output()
	var files []struct {
		ErrorCount, WarningCount int
	}
	if bad := json.Unmarshal(out, &files); bad != nil {
		return 0, fmt.Errorf("eslint: %v, %v", err, bad)
	}
	n := 0
	for _, f := range files {
		n += f.ErrorCount + f.WarningCount
	}
	return n, nil
}

// InternalCoverage is the least coverage that a package of internal with tests of its own
// has by them, %.
func InternalCoverage() (float64, error) {
	out, err := exec.Command("go", "test", "-cover", "-timeout", "60m", "./internal/...").CombinedOutput()
	if err != nil {
		return 0, fmt.Errorf("%w: %s", err, tail(out))
	}
	least := 100.0
	for _, l := range strings.Split(string(out), "\n") {
		_, rest, ok := strings.Cut(l, "coverage: ")
		if !ok || !strings.HasPrefix(l, "ok") {
			continue
		}
		share, _, _ := strings.Cut(rest, "%")
		if v, err := strconv.ParseFloat(share, 64); err == nil {
			least = min(least, v)
		}
	}
	return least, nil
}

// addition is something added to a copy of the project: which files of code it touches, and
// what must then be known.
type addition struct {
	files map[string]func(string) string
	data  map[string]func(copy string) (string, error) // files of data, and tests
	asks  [][]string                                   // arguments of neokinema whose answer must hold the name
}

const trial = "trial_thing"

var watchLine = regexp.MustCompile(`(?m)^  - "(.*)"$`)

func put(old, with string) func(string) string {
	return func(s string) string { return strings.Replace(s, old, with, 1) }
}

var additions = map[string]addition{
	"measure": {
		files: map[string]func(string) string{"core/evaluate/measure_trial.go": func(string) string {
			return `package evaluate

import (
	"math"

	"neokinema/core/uncertainty"
)

var _ = register(kind{name: "` + trial + `", unit: "px", doc: "distance of two points in the picture", points: 2, scope: placed,
	read: func(q *query) (uncertainty.Estimate, error) {
		return uncertainty.Propagate(func(v []float64) float64 { return math.Hypot(v[0]-v[2], v[1]-v[3]) }, q.x, q.sd), nil
	}})
`
		}},
		asks: [][]string{{"contract"}, {"contract", "models"}, {"contract", "measures"}},
	},
	"edit": {
		files: map[string]func(string) string{"internal/workspace/kinds.go": func(s string) string {
			s = put("\tNote     string ", "\tTrial string `json:\"trial\"`\n\tNote     string ")(s)
			return put("\tKind{Name: \"note\"", `	Kind{Name: "`+trial+`", Doc: "key \"main\"; a text or null", Field: "trial", Text: true,
		check: func(_ checker, _ store.Clip, e *Edit) error { _, err := valueOf[string](e); return err },
		fold:  func(w *Work, _ *ClipWork, i store.Item) error { return read(i, &w.Trial) }},
	Kind{Name: "note"`)(s)
		}},
		data: map[string]func(string) (string, error){"internal/workspace/kinds_test.go": func(copy string) (string, error) {
			raw, err := os.ReadFile(filepath.Join(copy, "internal/workspace/kinds_test.go"))
			return put("\t\"flag\": {", "\t\""+trial+"\": {\"main\", `\"x\"`},\n\t\"flag\": {")(string(raw)), err
		}},
		asks: [][]string{{"contract"}, {"contract", "edits"}},
	},
	"event": {
		files: map[string]func(string) string{"core/sport/sport.go": put("\t{ID: \"running\"", "\t{ID: \""+trial+"\", Name: \"Trial\", Change: Running},\n\t{ID: \"running\"")},
		data: map[string]func(string) (string, error){"models/" + trial + ".yaml": func(copy string) (string, error) {
			raw, err := os.ReadFile(filepath.Join(copy, "models", "running.yaml"))
			text := strings.Replace(string(raw), "id: running", "id: "+trial, 1)
			// What to watch is said of each event in its own words.
			return watchLine.ReplaceAllString(text, `  - "Trial: $1"`), err
		}},
		asks: [][]string{{"contract"}, {"contract", "events"}},
	},
}

// Places counts the files of code that have to be touched to add something, by doing it in a
// copy of the project: it is built, its tables name the new thing, and the tests of the
// packages that hold it pass. What ./neo contract makes, a model's own file and tests do
// not count.
func Places(what string) (float64, error) {
	copy, err := os.MkdirTemp("", "neokinema-places-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(copy)
	if out, err := exec.Command("bash", "-c", `git ls-files -z | grep -zvE '^(docs|simcam/testdata)/' | xargs -0 cp --parents -t "$0"`, copy).CombinedOutput(); err != nil {
		return 0, fmt.Errorf("%w: %s", err, tail(out))
	}
	a := additions[what]
	for name, change := range a.files {
		path := filepath.Join(copy, name)
		raw, err := os.ReadFile(path)
		if err != nil && !os.IsNotExist(err) {
			return 0, err
		}
		next := change(string(raw))
		if next == string(raw) {
			return 0, fmt.Errorf("%s does not take the addition any more", name)
		}
		if err := os.WriteFile(path, []byte(next), 0o644); err != nil {
			return 0, err
		}
	}
	for name, content := range a.data {
		text, err := content(copy)
		if err == nil {
			err = os.WriteFile(filepath.Join(copy, name), []byte(text), 0o644)
		}
		if err != nil {
			return 0, err
		}
	}
	run := func(args ...string) ([]byte, error) {
		cmd := exec.Command("go", args...)
		cmd.Dir = copy
		out, err := cmd.Output()
		if err != nil {
			return out, fmt.Errorf("go %s: %w: %s", strings.Join(args, " "), err, tail(out))
		}
		return out, nil
	}
	for _, ask := range a.asks {
		out, err := run(append([]string{"run", "./cmd/neokinema"}, ask...)...)
		if err != nil {
			return 0, err
		}
		if !bytes.Contains(out, []byte(trial)) {
			return 0, fmt.Errorf("%s does not know what was added", strings.Join(ask, " "))
		}
	}
	if _, err := run("test", "-short", "./core/evaluate", "./core/sport", "./models", "./internal/workspace"); err != nil {
		return 0, err
	}
	return float64(len(a.files)), nil
}

// tail is the end of what a program said.
func tail(out []byte) []byte {
	if len(out) > 600 {
		out = out[len(out)-600:]
	}
	return bytes.TrimSpace(out)
}

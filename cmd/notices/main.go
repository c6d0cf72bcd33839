// Command notices collects the licences of all that is shipped: Go modules in the binary
// and in the WebAssembly core, Go's own library, and the packages, models and fonts of
// the front end. It prints THIRD_PARTY_NOTICES; the tests refuse an old one.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strings"
)

// part is something shipped.
type part struct{ name, version, dir, stated string }

// licence matches the files in which terms stand.
var licence = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|ofl|third.?party.?notices?)([.-].*)?$`)

func main() {
	parts, err := shipped()
	if err == nil {
		err = write(parts)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "notices:", err)
		os.Exit(1)
	}
}

func shipped() ([]part, error) {
	out, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	parts := []part{{"Go, its standard library", "", strings.TrimSpace(string(out)), ""}}
	seen := map[string]bool{}
	for _, target := range [][]string{{"./cmd/neokinema"}, {"./cmd/corewasm", "GOOS=js", "GOARCH=wasm"}} {
		cmd := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", target[0])
		cmd.Env = append(os.Environ(), target[1:]...)
		cmd.Stderr = os.Stderr
		list, err := cmd.Output()
		if err != nil {
			return nil, fmt.Errorf("go list %s: %w", target[0], err)
		}
		for _, line := range strings.Split(strings.TrimSpace(string(list)), "\n") {
			if f := strings.Split(line, "\t"); len(f) == 3 && !seen[f[0]] {
				seen[f[0]] = true
				parts = append(parts, part{f[0], f[1], f[2], ""})
			}
		}
	}
	// The build of the front end tells which packages it really took.
	raw, err := os.ReadFile("web/shipped.json")
	if err != nil {
		return nil, fmt.Errorf("build the front end first: %w", err)
	}
	var names []string
	if err := json.Unmarshal(raw, &names); err != nil {
		return nil, err
	}
	for _, name := range names {
		dir := filepath.Join("web", "node_modules", name)
		raw, err := os.ReadFile(filepath.Join(dir, "package.json"))
		if err != nil {
			return nil, err
		}
		var p struct {
			Version string `json:"version"`
			Licence any    `json:"license"`
		}
		if err := json.Unmarshal(raw, &p); err != nil {
			return nil, err
		}
		stated, _ := p.Licence.(string)
		parts = append(parts, part{name, p.Version, dir, stated})
	}
	// The library that runs pose models on the server lies beside the binary; its package
	// comes without terms, so they are kept here.
	parts = append(parts, part{"ONNX Runtime", "1.30.0", filepath.Join("native", "onnxruntime"), ""})
	sort.Slice(parts, func(i, j int) bool { return parts[i].name+parts[i].version < parts[j].name+parts[j].version })
	return parts, nil
}

// told is what the read-me of a package says of its terms.
func told(dir string) string {
	list, _ := filepath.Glob(filepath.Join(dir, "[Rr][Ee][Aa][Dd][Mm][Ee]*")) // the pattern is sound
	for _, path := range list {
		raw, err := os.ReadFile(path)
		if err != nil {
			continue
		}
		if at := regexp.MustCompile(`(?im)^#+ *licen[cs]e.*$`).FindIndex(raw); at != nil {
			return "No file with terms comes with it; its read-me says: " + strings.TrimSpace(strings.SplitN(string(raw[at[1]:]), "\n#", 2)[0])
		}
	}
	return ""
}

func write(parts []part) error {
	texts := map[string][]string{} // licence text to those under it
	var order []string
	for _, p := range parts {
		list, err := os.ReadDir(p.dir)
		if err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
		var terms []string
		for _, f := range list {
			if f.IsDir() || !licence.MatchString(f.Name()) || strings.HasSuffix(f.Name(), ".go") || strings.HasSuffix(f.Name(), ".js") {
				continue
			}
			raw, err := os.ReadFile(filepath.Join(p.dir, f.Name()))
			if err != nil {
				return err
			}
			terms = append(terms, strings.TrimSpace(strings.ReplaceAll(string(raw), "\r\n", "\n")))
		}
		text := strings.Join(terms, "\n\n")
		if text == "" && p.stated != "" {
			text = "No file with terms comes with it; its package says: " + p.stated
		}
		if text == "" {
			text = told(p.dir)
		}
		if text == "" {
			return errors.New(p.name + " comes without terms: look at it before it is shipped")
		}
		if texts[text] == nil {
			order = append(order, text)
		}
		texts[text] = append(texts[text], strings.TrimSpace(p.name+" "+p.version))
	}
	sort.SliceStable(order, func(i, j int) bool { return texts[order[i]][0] < texts[order[j]][0] })
	fmt.Printf("Neokinema is built from the work of others. Made by ./neo notices; %d parts.\n", len(parts))
	for _, text := range order {
		fmt.Printf("\n%s\n%s\n\n%s\n", strings.Repeat("=", 80), strings.Join(texts[text], "\n"), text)
	}
	return nil
}

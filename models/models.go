// Package models holds the shipped technique models as YAML, reads models of any
// origin, and explains what is wrong in one by line.
package models

import (
	"bytes"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/uncertainty"
)

//go:embed *.yaml
var files embed.FS

// before holds what was shipped earlier, by event and version: a team's own model is held
// against the one from which it was made.
//
//go:embed before/*.yaml
var before embed.FS

// Mistakes are all that is wrong in a model file, by line.
type Mistakes []Mistake

// Mistake is one of them.
type Mistake struct {
	Line int    `json:"line"`
	Path string `json:"path" doc:"such as checkpoints[3].band"`
	Says string `json:"says"`
}

func (m Mistakes) Error() string {
	var b strings.Builder
	for i, x := range m {
		if i > 0 {
			b.WriteString("\n")
		}
		fmt.Fprintf(&b, "line %d: %s", x.Line, x.Says)
		if x.Path != "" {
			fmt.Fprintf(&b, " (%s)", x.Path)
		}
	}
	return b.String()
}

// renamed brings the words of older model files to those of today: a team keeps the models
// that it wrote.
func renamed(n *yaml.Node) {
	if n.Kind == yaml.MappingNode {
		for i := 0; i+1 < len(n.Content); i += 2 {
			key, value := n.Content[i], n.Content[i+1]
			if key.Value == "marked" {
				key.Value = "answered_no"
			}
			if key.Value == "kind" && value.Value == "mark" {
				value.Value = "answer"
			}
			if key.Value == "dose" && value.Kind == yaml.ScalarNode {
				n.Content[i+1] = &yaml.Node{Kind: yaml.MappingNode, Tag: "!!map", Line: value.Line, Content: []*yaml.Node{{Kind: yaml.ScalarNode, Tag: "!!str", Value: "says", Line: value.Line}, value}}
			}
		}
	}
	for _, c := range n.Content {
		renamed(c)
	}
}

// Parse reads a model, unrolled and ready; everything wrong in it comes back as
// [Mistakes].
func Parse(raw []byte) (model.Model, error) {
	var m model.Model
	var doc yaml.Node
	if err := yaml.Unmarshal(raw, &doc); err != nil {
		return m, Mistakes{{lineOf(err), "", strings.TrimPrefix(err.Error(), "yaml: ")}}
	}
	renamed(&doc)
	if len(doc.Content) == 0 {
		return m, Mistakes{{1, "", "the file is empty"}}
	}
	w := walker{lines: map[string]int{}}
	w.walk(doc.Content[0], reflect.TypeFor[model.Model](), "")
	if len(w.list) > 0 {
		return m, w.list
	}
	// The fields are those of the contract, so JSON is the way from YAML to Go.
	var plain any
	if err := doc.Decode(&plain); err != nil {
		return m, Mistakes{{lineOf(err), "", err.Error()}}
	}
	text, err := json.Marshal(plain)
	if err != nil {
		return m, err
	}
	if err := json.Unmarshal(text, &m); err != nil {
		return m, Mistakes{{1, "", err.Error()}}
	}
	for _, x := range evaluate.Ready(&m) {
		w.list = append(w.list, Mistake{w.line(x.Path), x.Path, x.Text})
	}
	if len(w.list) > 0 {
		sort.SliceStable(w.list, func(i, j int) bool { return w.list[i].Line < w.list[j].Line })
		return m, w.list
	}
	return m, nil
}

// lineOf finds the line in an error of the YAML library.
func lineOf(err error) int {
	var line int
	if _, after, ok := strings.Cut(err.Error(), "line "); ok {
		fmt.Sscanf(after, "%d", &line)
	}
	return max(line, 1)
}

// walker holds a document against the Go type that it is meant for, and remembers
// where everything stands.
type walker struct {
	lines map[string]int
	list  Mistakes
}

func (w *walker) bad(n *yaml.Node, path, format string, args ...any) {
	w.list = append(w.list, Mistake{n.Line, path, fmt.Sprintf(format, args...)})
}

// line is where a path stands, or the nearest part of it that is there.
func (w *walker) line(path string) int {
	for {
		if l, ok := w.lines[path]; ok {
			return l
		}
		cut := strings.LastIndexAny(path, ".[")
		if cut < 0 {
			return 1
		}
		path = path[:cut]
	}
}

func (w *walker) walk(n *yaml.Node, t reflect.Type, path string) {
	w.lines[path] = n.Line
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	want := func(kind yaml.Kind, what string) bool {
		if n.Kind != kind {
			w.bad(n, path, "%s is wanted here", what)
		}
		return n.Kind == kind
	}
	switch t.Kind() {
	case reflect.Struct:
		if !want(yaml.MappingNode, "a group of fields") {
			return
		}
		fields := map[string]reflect.Type{}
		for i := range t.NumField() {
			name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
			fields[name] = t.Field(i).Type
		}
		for i := 0; i+1 < len(n.Content); i += 2 {
			key := n.Content[i]
			inner := strings.TrimPrefix(path+"."+key.Value, ".")
			f, ok := fields[key.Value]
			if !ok {
				w.bad(key, inner, "there is no field %q here", key.Value)
				continue
			}
			w.walk(n.Content[i+1], f, inner)
			w.lines[inner] = key.Line
		}
	case reflect.Slice:
		if want(yaml.SequenceNode, "a list") {
			for i, c := range n.Content {
				w.walk(c, t.Elem(), fmt.Sprintf("%s[%d]", path, i))
			}
		}
	case reflect.Map:
		if want(yaml.MappingNode, "a group of fields") {
			for i := 0; i+1 < len(n.Content); i += 2 {
				w.walk(n.Content[i+1], t.Elem(), path+"."+n.Content[i].Value)
			}
		}
	default:
		if !want(yaml.ScalarNode, "a single value") {
			return
		}
		tags := map[reflect.Kind][]string{reflect.String: {"!!str"}, reflect.Bool: {"!!bool"}, reflect.Int: {"!!int"}, reflect.Float64: {"!!int", "!!float"}}[t.Kind()]
		for _, tag := range tags {
			if n.Tag == tag {
				return
			}
		}
		w.bad(n, path, "%q is not a %s", n.Value, map[reflect.Kind]string{reflect.String: "text: put it in quotes", reflect.Bool: "yes or no: write true or false", reflect.Int: "whole number", reflect.Float64: "number"}[t.Kind()])
	}
}

var shipped = sync.OnceValues(func() (map[string]model.Model, error) {
	names, err := files.ReadDir(".")
	if err != nil {
		return nil, err
	}
	out := map[string]model.Model{}
	for _, n := range names {
		raw, err := files.ReadFile(n.Name())
		if err != nil {
			return nil, err
		}
		m, err := Parse(raw)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", n.Name(), err)
		}
		out[m.ID] = m
	}
	return out, nil
})

// All lists the shipped models, by id.
func All() ([]model.Model, error) {
	by, err := shipped()
	if err != nil {
		return nil, err
	}
	var out []model.Model
	for _, m := range by {
		out = append(out, m)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].ID < out[j].ID })
	return out, nil
}

// Load gives one shipped model.
func Load(id string) (model.Model, error) {
	by, err := shipped()
	if err != nil {
		return model.Model{}, err
	}
	if m, ok := by[id]; ok {
		return m, nil
	}
	return model.Model{}, fmt.Errorf("there is no technique model %q", id)
}

// Source is the file of a shipped model.
func Source(id string) ([]byte, error) {
	raw, err := files.ReadFile(id + ".yaml")
	if err != nil {
		return nil, errors.New("there is no such model")
	}
	return raw, nil
}

// WithBands is a model's file with other bands for some of its checkpoints; the
// rest of the file, comments too, stays as it is written.
func WithBands(source []byte, bands map[string]uncertainty.Band) ([]byte, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(source, &doc); err != nil || len(doc.Content) == 0 {
		return nil, errors.New("the model cannot be read")
	}
	left := maps.Clone(bands)
	list := field(doc.Content[0], "checkpoints")
	if list == nil {
		return nil, errors.New("the model has no checkpoints")
	}
	for _, c := range list.Content {
		id := field(c, "id")
		if id == nil {
			continue
		}
		b, ok := bands[id.Value]
		if !ok {
			continue
		}
		delete(left, id.Value)
		var band yaml.Node
		if err := band.Encode(map[string]float64{}); err != nil {
			return nil, err
		}
		band.Style = yaml.FlowStyle
		for _, end := range []struct {
			name string
			v    *float64
		}{{"lo", b.Lo}, {"hi", b.Hi}} {
			if end.v != nil {
				band.Content = append(band.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: end.name}, &yaml.Node{Kind: yaml.ScalarNode, Value: strconv.FormatFloat(*end.v, 'g', -1, 64)})
			}
		}
		// What was tolerated beside the other band says nothing about this one.
		c.Content = without(c.Content, "tolerated")
		if old := field(c, "band"); old != nil {
			*old = band
		} else {
			c.Content = append(c.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: "band"}, &band)
		}
	}
	for id := range left {
		return nil, fmt.Errorf("there is no checkpoint %q", id)
	}
	return write(&doc)
}

// without is a group of fields without one.
func without(fields []*yaml.Node, name string) []*yaml.Node {
	for i := 0; i+1 < len(fields); i += 2 {
		if fields[i].Value == name {
			return slices.Delete(fields, i, i+2)
		}
	}
	return fields
}

// member is the entry of a list that has an id.
func member(root *yaml.Node, list, id string) (*yaml.Node, error) {
	if at := field(root, list); at != nil {
		for _, n := range at.Content {
			if value(n, "id") == id {
				return n, nil
			}
		}
	}
	return nil, fmt.Errorf("there is no %q among the %s", id, list)
}

// set gives a group of fields a field, or another value for it.
func set(n *yaml.Node, name string, v any) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	var made yaml.Node
	if err := yaml.Unmarshal(raw, &made); err != nil {
		return err
	}
	plain(made.Content[0])
	if old := field(n, name); old != nil {
		*old = *made.Content[0]
		return nil
	}
	n.Content = append(n.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: name}, made.Content[0])
	return nil
}

func write(doc *yaml.Node) ([]byte, error) {
	var out bytes.Buffer
	e := yaml.NewEncoder(&out)
	e.SetIndent(2)
	if err := e.Encode(doc); err != nil {
		return nil, err
	}
	return out.Bytes(), e.Close()
}

// Additions are what a team adds to a model.
type Additions struct {
	Adjusted    []model.Adjusted
	Checkpoints []model.Checkpoint
	Faults      []model.Fault
	Variants    []model.Variant
	Cues        map[string][]model.Cue   // by fault
	Drills      map[string][]model.Drill // by fault
	// Bands of one variant.
	Variant string
	Bands   map[string]uncertainty.Band
}

// With is a model's file with additions behind what it has; an adjusted band stands
// in for an earlier one for the same athletes, a checkpoint or fault for one of the
// same id.
func With(source []byte, add Additions) ([]byte, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(source, &doc); err != nil || len(doc.Content) == 0 {
		return nil, errors.New("the model cannot be read")
	}
	for _, a := range add.Adjusted {
		key := func(n *yaml.Node) string {
			return value(n, "checkpoint") + "|" + value(n, "athlete") + "|" + value(n, "under") + "|" + value(n, "years")
		}
		if err := put(doc.Content[0], "adjusted", a, key); err != nil {
			return nil, err
		}
	}
	id := func(n *yaml.Node) string { return value(n, "id") }
	for _, c := range add.Checkpoints {
		if err := put(doc.Content[0], "checkpoints", c, id); err != nil {
			return nil, err
		}
	}
	for _, f := range add.Faults {
		if err := put(doc.Content[0], "faults", f, id); err != nil {
			return nil, err
		}
	}
	// The first style is meant where none is chosen: it stays the usual one.
	if len(add.Variants) > 0 && field(doc.Content[0], "variants") == nil {
		add.Variants = append([]model.Variant{{ID: "usual", Name: "usual", Says: "As the model has it."}}, add.Variants...)
	}
	for _, v := range add.Variants {
		if err := put(doc.Content[0], "variants", v, id); err != nil {
			return nil, err
		}
	}
	none := func(*yaml.Node) string { return "" }
	words := func(fault, list string, entry any) error {
		f, err := member(doc.Content[0], "faults", fault)
		if err != nil {
			return err
		}
		if err := put(f, list, entry, none); err != nil {
			return err
		}
		// Outward cues stand before inward ones.
		n := field(f, list).Content
		sort.SliceStable(n, func(i, j int) bool { return value(n[i], "focus") == "outward" && value(n[j], "focus") == "inward" })
		return nil
	}
	for fault, cues := range add.Cues {
		for _, c := range cues {
			if err := words(fault, "cues", c); err != nil {
				return nil, err
			}
		}
	}
	for fault, drills := range add.Drills {
		for _, d := range drills {
			if err := words(fault, "drills", d); err != nil {
				return nil, err
			}
		}
	}
	if add.Variant != "" {
		v, err := member(doc.Content[0], "variants", add.Variant)
		if err != nil {
			return nil, err
		}
		bands := map[string]uncertainty.Band{}
		if old := field(v, "bands"); old != nil {
			if err := old.Decode(&bands); err != nil {
				return nil, err
			}
		}
		maps.Copy(bands, add.Bands)
		if err := set(v, "bands", bands); err != nil {
			return nil, err
		}
	}
	return write(&doc)
}

// put adds an entry to a list, or sets it in the place of the one of the same key,
// where there are keys.
func put(root *yaml.Node, list string, entry any, key func(*yaml.Node) string) error {
	raw, err := json.Marshal(entry)
	if err != nil {
		return err
	}
	// JSON is YAML; the style is that of a hand.
	var n yaml.Node
	if err := yaml.Unmarshal(raw, &n); err != nil {
		return err
	}
	plain(n.Content[0])
	at := field(root, list)
	if at == nil {
		at = &yaml.Node{Kind: yaml.SequenceNode, Tag: "!!seq"}
		root.Content = append(root.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: list}, at)
	}
	for i, old := range at.Content {
		if k := key(old); k != "" && k == key(n.Content[0]) {
			at.Content[i] = n.Content[0]
			return nil
		}
	}
	at.Content = append(at.Content, n.Content[0])
	return nil
}

func plain(n *yaml.Node) {
	n.Style = 0
	if n.Kind == yaml.ScalarNode && n.Tag == "!!str" {
		n.Style = yaml.DoubleQuotedStyle
	}
	for _, c := range n.Content {
		plain(c)
	}
}

// value is a field's text; empty when it is not there.
func value(n *yaml.Node, name string) string {
	if v := field(n, name); v != nil {
		return v.Value
	}
	return ""
}

// TakeOver is the shipped file with what a team's own model has changed in bands and
// added of its own: so that it gets what is new and keeps what is its own. Changes to
// what the shipped model has no longer are left behind.
func TakeOver(shipped []byte, own model.Model) ([]byte, error) {
	now, err := Parse(shipped)
	if err != nil {
		return nil, err
	}
	base := now
	if raw, gone := before.ReadFile(fmt.Sprintf("before/%s.%d.yaml", own.ID, own.Version)); gone == nil {
		if base, err = Parse(raw); err != nil {
			return nil, err
		}
	}
	bands := map[string]uncertainty.Band{}
	add := Additions{Cues: map[string][]model.Cue{}, Drills: map[string][]model.Drill{}}
	for _, c := range own.Checkpoints {
		theirs, ok := base.Checkpoint(c.ID)
		_, still := now.Checkpoint(c.ID)
		switch {
		case !ok:
			add.Checkpoints = append(add.Checkpoints, c)
		case still && !reflect.DeepEqual(theirs.Band, c.Band):
			bands[c.ID] = c.Band
		}
	}
	for _, f := range own.Faults {
		theirs, ok := base.Fault(f.ID)
		if !ok {
			add.Faults = append(add.Faults, f)
			continue
		}
		if _, still := now.Fault(f.ID); !still {
			continue
		}
		for _, c := range f.Cues {
			if !slices.Contains(theirs.Cues, c) {
				add.Cues[f.ID] = append(add.Cues[f.ID], c)
			}
		}
		for _, d := range f.Drills {
			if !slices.ContainsFunc(theirs.Drills, func(x model.Drill) bool { return reflect.DeepEqual(x, d) }) {
				add.Drills[f.ID] = append(add.Drills[f.ID], d)
			}
		}
	}
	for _, v := range own.Variants {
		same := func(b model.Variant) bool { return b.ID == v.ID }
		if !slices.ContainsFunc(base.Variants, same) && !slices.ContainsFunc(now.Variants, same) {
			add.Variants = append(add.Variants, v)
		}
	}
	for _, a := range own.Adjusted {
		_, still := now.Checkpoint(a.Checkpoint)
		mine := slices.ContainsFunc(add.Checkpoints, func(c model.Checkpoint) bool { return c.ID == a.Checkpoint })
		if (still || mine) && !slices.ContainsFunc(base.Adjusted, func(b model.Adjusted) bool { return reflect.DeepEqual(a, b) }) {
			add.Adjusted = append(add.Adjusted, a)
		}
	}
	if len(bands) > 0 {
		if shipped, err = WithBands(shipped, bands); err != nil {
			return nil, err
		}
	}
	return With(shipped, add)
}

// field is the value of a field in a group of fields.
func field(n *yaml.Node, name string) *yaml.Node {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == name {
			return n.Content[i+1]
		}
	}
	return nil
}

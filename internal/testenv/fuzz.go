package testenv

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/api"
	"neokinema/internal/workspace"
)

// schema is as much of JSON Schema as the contract uses.
type schema struct {
	Ref        string             `json:"$ref"`
	Type       any                `json:"type"`
	Enum       []any              `json:"enum"`
	Format     string             `json:"format"`
	Items      *schema            `json:"items"`
	Properties map[string]*schema `json:"properties"`
	Required   []string           `json:"required"`
	More       any                `json:"additionalProperties"`
	Least      *float64           `json:"minimum"`
	Most       *float64           `json:"maximum"`
}

type operation struct {
	id, method, path string
	body             *schema
	query            []string
}

// Fuzz sends so many requests to the operations of the contract, each nearly right: the
// right shape with numbers, texts and ids that nobody expects. It gives the requests that
// were answered with an error of the server's own.
func (h *House) Fuzz(t testing.TB, requests int, seed uint64) (sent int, failed []string) {
	t.Helper()
	raw, err := api.Contract()
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Paths map[string]map[string]struct {
			ID         string `json:"operationId"`
			Parameters []struct {
				Name string `json:"name"`
				In   string `json:"in"`
			} `json:"parameters"`
			Body struct {
				Content map[string]struct {
					Schema *schema `json:"schema"`
				} `json:"content"`
			} `json:"requestBody"`
		} `json:"paths"`
		Components struct {
			Schemas map[string]*schema `json:"schemas"`
		} `json:"components"`
	}
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	var all []operation
	for path, methods := range doc.Paths {
		for method, o := range methods {
			op := operation{id: o.ID, method: strings.ToUpper(method), path: "/api" + path, body: o.Body.Content["application/json"].Schema}
			for _, p := range o.Parameters {
				if p.In == "query" {
					op.query = append(op.query, p.Name)
				}
			}
			all = append(all, op)
		}
	}
	sort.Slice(all, func(i, j int) bool { return all[i].id < all[j].id })
	f := &fuzzer{T: t, h: h, dice: rand.New(rand.NewPCG(seed, 8470)), schemas: doc.Components.Schemas}
	for sent < requests {
		if sent%400 == 0 {
			f.anew()
		}
		// Saving edits takes more than all else together.
		op := all[f.dice.IntN(len(all))]
		if f.dice.IntN(4) == 0 {
			for _, o := range all {
				if o.id == "saveEdits" {
					op = o
				}
			}
		}
		if op.id == "signOut" || op.id == "deleteTeam" || op.id == "deleteMe" || op.id == "signOutElsewhere" {
			continue
		}
		sent++
		if says := f.try(op); says != "" {
			failed = append(failed, says)
		}
	}
	return sent, failed
}

type fuzzer struct {
	T       testing.TB
	h       *House
	c       *Client
	dice    *rand.Rand
	schemas map[string]*schema
	ids     []string
	clip    string
	base    int
	at      string
}

// anew begins with a fresh team, since much has been deleted.
func (f *fuzzer) anew() {
	f.c = f.h.Coach(f.T)
	at := f.c.Attempt()
	f.at, f.base = at.ID.String(), 0
	f.ids = []string{at.ID.String(), at.AthleteID.String(), uuid.NewString()}
	film, err := f.h.small()
	if err != nil {
		f.T.Fatal(err)
	}
	clip := f.c.Imported(f.c.Upload(at.ID, "n.mp4", film, len(film)))
	f.clip = clip.ID.String()
	f.ids = append(f.ids, f.clip)
	var saved workspace.Saved
	f.c.Do("POST", "/api/attempts/"+f.at+"/edits", workspace.Edits{Edits: []workspace.Edit{{Kind: "flag", Clip: &clip.ID, Key: "set", Value: workspace.Value(2)}}}, http.StatusOK, &saved)
	f.base = saved.Revision
}

func (f *fuzzer) try(op operation) string {
	path := op.path
	for _, name := range []string{"{id}", "{key}"} {
		path = strings.Replace(path, name, f.id(), 1)
	}
	if len(op.query) > 0 {
		var q []string
		for _, n := range op.query {
			if f.dice.IntN(3) > 0 {
				q = append(q, n+"="+strings.NewReplacer(" ", "%20", "%", "%25", "&", "%26", "#", "%23", "\x00", "%00", "\n", "%0a").Replace(strings.Trim(fmt.Sprint(f.one([]any{f.id(), "set", f.text(), f.number()})), "\"")))
			}
		}
		path += "?" + strings.Join(q, "&")
	}
	var body any
	if op.body != nil {
		text := f.value(op.body, 0)
		if op.id == "saveEdits" && f.dice.IntN(5) > 0 {
			text = f.edits()
		}
		if f.dice.IntN(12) == 0 {
			text = text[:f.dice.IntN(len(text)+1)]
		}
		body = text
	}
	req, err := http.NewRequest(op.method, f.c.URL+path, nil)
	if err != nil {
		return "" // an address that cannot even be asked
	}
	if body != nil {
		req, err = http.NewRequest(op.method, f.c.URL+path, bytes.NewReader([]byte(body.(string))))
		if err != nil {
			return ""
		}
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := f.c.HTTP.Do(req)
	if err != nil {
		return fmt.Sprintf("%s %s: %v", op.method, path, err)
	}
	defer res.Body.Close()
	if res.StatusCode == http.StatusUnauthorized {
		f.anew()
	}
	if res.StatusCode == http.StatusOK && op.id == "saveEdits" {
		var saved workspace.Saved
		if json.NewDecoder(res.Body).Decode(&saved) == nil {
			f.base = saved.Revision
		}
	}
	if res.StatusCode == http.StatusConflict {
		var sh workspace.Workspace
		if raw, status := f.c.Try("GET", "/api/attempts/"+f.at+"/workspace", nil); status == http.StatusOK && json.Unmarshal(raw, &sh) == nil {
			f.base = sh.Work.Revision
		}
	}
	if res.StatusCode >= 500 {
		return fmt.Sprintf("%d %s %s %.300s", res.StatusCode, op.method, path, body)
	}
	return ""
}

func (f *fuzzer) one(list []any) any { return list[f.dice.IntN(len(list))] }

func (f *fuzzer) id() string {
	if f.dice.IntN(8) == 0 {
		return fmt.Sprint(f.one([]any{"x", strings.ToUpper(f.at), "{" + f.at + "}", "00000000-0000-0000-0000-000000000000", "%00", strings.Repeat("9", 300)}))
	}
	return f.ids[f.dice.IntN(len(f.ids))]
}

func (f *fuzzer) number() string {
	return fmt.Sprint(f.one([]any{0, 1, -1, 2, 3, 11, 12, 240, 0.5, -0.5, 1e9, "9223372036854775807", "-9223372036854775808", "1e308", "-1e308", "1e-308", "1e38", 4294967296, f.dice.IntN(400)}))
}

func (f *fuzzer) text() string {
	raw, _ := json.Marshal(f.one([]any{"", "set", "main", "second", "athlete", "left_knee", "front_knee_set", "S2", "x", "ümlaut 李 🏃", "=1+1", "\u202e", strings.Repeat("long ", 900), "2026-02-03", "2026-02-31", "12.34", "yes", "hand", "<b>", "\x00", "a\nb", "%s%d", "../../x", f.at}))
	if f.dice.IntN(25) == 0 {
		return `"\ud83d"`
	}
	return string(raw)
}

// value is nearly what a schema asks for.
func (f *fuzzer) value(s *schema, depth int) string {
	if s == nil || depth > 7 || f.dice.IntN(30) == 0 {
		return fmt.Sprint(f.one([]any{"null", "{}", "[]", "true", f.number(), f.text(), `[[[[]]]]`, `{"a":{"b":[1]}}`}))
	}
	if s.Ref != "" {
		return f.value(f.schemas[s.Ref[strings.LastIndex(s.Ref, "/")+1:]], depth+1)
	}
	if len(s.Enum) > 0 && f.dice.IntN(6) > 0 {
		raw, _ := json.Marshal(f.one(s.Enum))
		return string(raw)
	}
	kind, _ := s.Type.(string)
	if list, ok := s.Type.([]any); ok && len(list) > 0 {
		kind, _ = list[f.dice.IntN(len(list))].(string)
	}
	switch kind {
	case "object":
		var parts []string
		names := make([]string, 0, len(s.Properties))
		for n := range s.Properties {
			names = append(names, n)
		}
		sort.Strings(names)
		for _, n := range names {
			needed := false
			for _, r := range s.Required {
				needed = needed || r == n
			}
			if needed && f.dice.IntN(20) > 0 || !needed && f.dice.IntN(2) == 0 {
				parts = append(parts, fmt.Sprintf("%q:%s", n, f.value(s.Properties[n], depth+1)))
			}
		}
		if s.More != nil && len(names) == 0 {
			raw, _ := json.Marshal(s.More)
			var inner schema
			_ = json.Unmarshal(raw, &inner) // "true" is no schema: anything goes
			for range f.dice.IntN(3) {
				parts = append(parts, f.text()+":"+f.value(&inner, depth+1))
			}
		}
		return "{" + strings.Join(parts, ",") + "}"
	case "array":
		var parts []string
		for range f.dice.IntN(4) {
			parts = append(parts, f.value(s.Items, depth+1))
		}
		return "[" + strings.Join(parts, ",") + "]"
	case "integer", "number":
		if s.Least != nil && s.Most != nil && f.dice.IntN(3) > 0 {
			return fmt.Sprint(*s.Least + float64(f.dice.IntN(1+int(min(*s.Most-*s.Least, 1e6)))))
		}
		return f.number()
	case "boolean":
		return fmt.Sprint(f.dice.IntN(2) == 0)
	case "string":
		switch {
		case s.Format == "uuid" && f.dice.IntN(6) > 0:
			return `"` + f.ids[f.dice.IntN(len(f.ids))] + `"`
		case s.Format == "date" && f.dice.IntN(4) > 0:
			return `"2026-03-0` + fmt.Sprint(1+f.dice.IntN(9)) + `"`
		case s.Format == "date-time" && f.dice.IntN(4) > 0:
			return `"` + time.Date(2026, 3, 1, 0, f.dice.IntN(59), 0, 0, time.UTC).Format(time.RFC3339) + `"`
		}
		return f.text()
	}
	return f.text()
}

// edits is a change of the kinds that there are, with values that are nearly right.
func (f *fuzzer) edits() string {
	var list []string
	for range 1 + f.dice.IntN(3) {
		kind := fmt.Sprint(f.one([]any{"point", "track", "flag", "scale", "ground", "box", "annotation", "answer", "finding", "advice", "note", "followup", "outcome"}))
		n, key := f.number, map[string]string{"point": "left_knee", "track": "left_knee", "flag": "set", "scale": "line", "ground": "points", "box": "subject", "annotation": "s", "answer": "front_knee_set", "finding": "S2", "advice": "main", "note": "athlete", "followup": "main", "outcome": "main"}[kind]
		on := ""
		if strings.Contains("point track flag scale ground box show", kind) {
			on = `"clip":"` + f.clip + `",`
		}
		value := map[string]string{
			"point": `{"x":` + n() + `,"y":` + n() + `,"source":"hand","confidence":` + n() + `}`, "track": `{"from":` + n() + `,"x":[` + n() + `,1],"y":[1,` + n() + `],"source":"hd","confidence":[100,50]}`,
			"flag": n(), "scale": `{"ax":1,"ay":` + n() + `,"bx":100,"by":` + n() + `,"metres":` + n() + `}`, "ground": `{"away":` + n() + `,"points":[{"name":` + f.text() + `,"frame":1,"x":` + n() + `,"y":5,"along":` + n() + `,"right":0,"rim":` + n() + `}]}`,
			"box": `{"frame":` + n() + `,"x":0,"y":0,"width":` + n() + `,"height":50}`, "annotation": `{"kind":"should","frame":` + n() + `,"landmark":"left_knee","other":"left_hip","x":` + n() + `,"y":3}`, "answer": `{"answer":"yes","note":` + f.text() + `}`, "finding": `"accepted"`,
			"advice": `{"words":` + f.text() + `,"target":"front_knee_set","fault":"S2","focus":"outward","backfire":"","drill":{"name":` + f.text() + `,"dose":"3 x 5","feel":""},"checkpoint":{"id":"front_knee_set","name":"x","position":"set","unit":"°","basis":"trade","band":{"lo":` + n() + `},"measure":{"kind":` + fmt.Sprint(f.one([]any{`"change"`, `"tilt"`, `"share"`, `"sequence"`, `"azimuth"`})) + `,"points":["left_knee","left_hip"],"positions":["set"],"readings":["front_knee_set"]}}}`,
			"note":   f.text(), "followup": `{"state":"training","recheck":"2026-04-01","starts":"2026-03-01","weeks":` + n() + `,"sessions":` + n() + `}`, "outcome": `"taken"`,
		}[kind]
		if kind == "advice" && f.dice.IntN(2) == 0 {
			value = `{"words":` + f.text() + `,"target":"front_knee_set","fault":"S2","focus":"outward","backfire":"","drill":{"name":"a","dose":"3 x 5","feel":""}}`
		}
		if f.dice.IntN(10) == 0 {
			value = fmt.Sprint(f.one([]any{"null", "{}", "[]", f.text(), f.number()}))
		}
		list = append(list, fmt.Sprintf(`{"kind":%q,%s"key":%q,"frame":%s,"value":%s}`, kind, on, key, n(), value))
	}
	return fmt.Sprintf(`{"base":%d,"edits":[%s]}`, f.base, strings.Join(list, ","))
}

package api

import (
	"encoding/json"
	"path"
	"reflect"
	"regexp"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/labstack/echo/v5"

	"neokinema/core/annotate"
	"neokinema/core/evaluate"
	"neokinema/core/sport"
	"neokinema/core/track"
	"neokinema/core/wasmapi"
	"neokinema/core/workshop/calls"
	"neokinema/internal/videoanalysis"
	"neokinema/internal/workspace"
)

// describe registers all operations of the contract.
func (s *server) describe(g *echo.Group) huma.API {
	cfg := huma.DefaultConfig("Neokinema", "1")
	cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath = "", "", ""
	cfg.CreateHooks = nil // no $schema links in responses
	cfg.Servers = []*huma.Server{{URL: "/api"}}
	cfg.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", SchemaName)
	api := huma.NewAPI(cfg, &adapter{group: g})
	// Types of calls into the WebAssembly core, for TypeScript.
	described[wasmapi.Calls](api)
	described[calls.WorkshopCalls](api)
	described[FieldSheet](api)
	// So do the streams, which are no operations of JSON in and out.
	described[Word](api)
	described[videoanalysis.FollowRequest](api)
	described[annotate.Annotation](api)
	described[track.Track](api)
	described[track.Point](api)
	s.people(api)
	s.teams(api)
	s.attempts(api)
	s.clips(api)
	s.log(api)
	s.shares(api)
	s.talks(api)
	s.workshop(api)
	s.season(api)
	s.track(api)
	s.squad(api)
	s.eyes(api)
	s.eyesShared(api)
	s.drills(api)
	s.ghosts(api)
	s.ladders(api)
	s.files(g, api)
	s.logFiles(g, api)
	s.teamFiles(g, api)
	s.sharedFiles(g, api)
	s.talkFiles(g, api)
	s.workshopFiles(g, api)
	s.seasonFiles(g, api)
	s.eyeFiles(g, api)
	s.drillFiles(g, api)
	s.ownDrills(g, api)
	s.watching(g, api)
	s.bytes(g, api, "GET", "/changes", "changes", "Hear of changes of the queue: an event for each", "text/event-stream", s.changes)
	tabled(api.OpenAPI().Components.Schemas.Map())
	return api
}

// described brings a type into the contract that no operation of JSON in and out has.
func described[T any](api huma.API) {
	api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[T](), true, "")
}

// ours are packages whose types are called in the contract as they are in Go; those of
// others say their package too, for two may have a Reading.
var ours = []string{"account", "api", "archive", "feedback", "intake", "logbook", "problem", "share", "store", "wasmapi", "workspace"}

// SchemaName names a type in the contract.
func SchemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	of := path.Base(t.PkgPath())
	if !strings.HasPrefix(t.PkgPath(), "neokinema/") || slices.Contains(ours, of) || strings.Contains(strings.ToLower(name), of) {
		return name
	}
	return strings.ToUpper(of[:1]) + of[1:] + name
}

// tabled gives fields whose values are rows of a table that enumeration: what is added to
// the table is known to the contract, to the checks of requests and to the browser's types.
func tabled(all map[string]*huma.Schema) {
	enum := func(schema *huma.Schema, field string, values []string) {
		p := schema.Properties[field]
		if p == nil || p.Type != huma.TypeString {
			return
		}
		p.Enum = nil
		for _, v := range values {
			p.Enum = append(p.Enum, v)
		}
		schema.PrecomputeMessages()
	}
	var measures []string
	for _, k := range evaluate.MeasureKinds() {
		measures = append(measures, k.Name)
	}
	enum(all["ModelMeasure"], "kind", measures)
	var edits []string
	for _, k := range workspace.Kinds() {
		edits = append(edits, k.Name)
	}
	enum(all["Edit"], "kind", edits)
	for _, name := range []string{"Attempt", "Logged", "NewAttempt", "SessionEntry"} {
		enum(all[name], "event", sport.IDs())
	}
}

// Contract is the OpenAPI description of the API as JSON.
func Contract() ([]byte, error) {
	s := &server{}
	return s.describe(echo.New().Group("/api")).OpenAPI().MarshalJSON()
}

// ModelSchema is the JSON Schema of a technique model's file, as part of the
// contract has it.
func ModelSchema() ([]byte, error) {
	s := &server{}
	all := s.describe(echo.New().Group("/api")).OpenAPI().Components.Schemas.Map()
	used := map[string]*huma.Schema{}
	var take func(name string)
	take = func(name string) {
		if used[name] != nil {
			return
		}
		used[name] = all[name]
		raw, err := json.Marshal(all[name])
		if err != nil {
			return
		}
		for _, m := range schemaRef.FindAllSubmatch(raw, -1) {
			take(string(m[1]))
		}
	}
	take("Model")
	raw, err := json.MarshalIndent(map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Technique model of Neokinema", "$ref": "#/$defs/Model", "$defs": used}, "", "  ")
	return schemaRef.ReplaceAll(raw, []byte(`#/$$defs/$1`)), err
}

var schemaRef = regexp.MustCompile(`#/components/schemas/(\w+)`)

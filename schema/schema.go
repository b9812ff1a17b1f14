// Package schema gives the JSON Schemas of everything that others write or read: tovrel.yaml, briefings, the translator
// protocol, the JSON outputs, and exported runs. Those of outputs are made from the types that are written.
package schema

import (
	"encoding/json"
	"reflect"
	"slices"

	"github.com/google/jsonschema-go/jsonschema"

	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/translator"
	"tovrel/view"
)

// Names lists the schemas.
func Names() []string {
	names := []string{"workspace", "briefing", "request", "reply", "recorded", "exported-run", "data-query"}
	for name := range view.Forms() {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// Of gives a schema; nil for an unknown name. It errs where a form cannot be described, which a test holds.
func Of(name string) (*jsonschema.Schema, error) {
	var s *jsonschema.Schema
	switch name {
	case "workspace":
		s = workspaceSchema()
	case "briefing":
		s = briefingSchema()
	case "recorded":
		s = recordedSchema()
	case "exported-run":
		made, err := exportedSchema()
		if err != nil {
			return nil, err
		}
		s = made
	case "reply":
		s = replySchema()
	case "data-query":
		s = tableSchema()
	case "request":
		made, err := infer(reflect.TypeFor[translator.Request]())
		if err != nil {
			return nil, err
		}
		s = made
	default:
		form, known := view.Forms()[name]
		if !known {
			return nil, nil
		}
		made, err := infer(form)
		if err != nil {
			return nil, err
		}
		s = made
	}
	s.Schema = "https://json-schema.org/draft/2020-12/schema"
	s.Title = "Tovrel: " + name
	return s, nil
}

// infer makes a schema from a type; what writes itself as JSON is described by hand.
func infer(t reflect.Type) (*jsonschema.Schema, error) {
	return jsonschema.ForType(t, &jsonschema.ForOptions{TypeSchemas: map[reflect.Type]*jsonschema.Schema{
		reflect.TypeFor[table.Table]():     tableSchema(),
		reflect.TypeFor[*table.Table]():    {AnyOf: []*jsonschema.Schema{tableSchema(), {Type: "null"}}},
		reflect.TypeFor[value.Value]():     cellSchema(),
		reflect.TypeFor[json.RawMessage](): {},
	}})
}

// cellSchema is of a cell: integers beyond 2^53 and decimals are strings.
func cellSchema() *jsonschema.Schema {
	return &jsonschema.Schema{Description: "a cell; integers beyond 2^53 and decimals are strings"}
}

func tableSchema() *jsonschema.Schema {
	return object(map[string]*jsonschema.Schema{
		"columns": list(object(map[string]*jsonschema.Schema{"name": text(), "type": text()}, "name", "type")),
		"rows":    list(list(cellSchema())),
	}, "columns", "rows")
}

func text() *jsonschema.Schema    { return &jsonschema.Schema{Type: "string"} }
func number() *jsonschema.Schema  { return &jsonschema.Schema{Type: "number"} }
func integer() *jsonschema.Schema { return &jsonschema.Schema{Type: "integer"} }
func boolean() *jsonschema.Schema { return &jsonschema.Schema{Type: "boolean"} }

func list(items *jsonschema.Schema) *jsonschema.Schema {
	return &jsonschema.Schema{Type: "array", Items: items}
}

func oneOf(words ...string) *jsonschema.Schema {
	s := text()
	for _, w := range words {
		s.Enum = append(s.Enum, w)
	}
	return s
}

// either is one thing or another.
func either(all ...*jsonschema.Schema) *jsonschema.Schema { return &jsonschema.Schema{AnyOf: all} }

// object is closed: unknown keys are errors.
func object(properties map[string]*jsonschema.Schema, required ...string) *jsonschema.Schema {
	return &jsonschema.Schema{Type: "object", Properties: properties, Required: required,
		AdditionalProperties: &jsonschema.Schema{Not: &jsonschema.Schema{}}}
}

// entries is an object of any keys.
func entries(values *jsonschema.Schema) *jsonschema.Schema {
	return &jsonschema.Schema{Type: "object", AdditionalProperties: values}
}

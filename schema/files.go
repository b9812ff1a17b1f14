package schema

import (
	"reflect"

	"github.com/google/jsonschema-go/jsonschema"

	"tovrel/core/briefing"
	"tovrel/core/dialect"
	"tovrel/core/profile"
	"tovrel/core/record"
	"tovrel/standin/pocket"
	"tovrel/workspace"
)

type properties = map[string]*jsonschema.Schema

func workspaceSchema() *jsonschema.Schema {
	limits := object(properties{"time": duration(), "memory": size(), "rows": integer(), "result": size()})
	return object(properties{
		"tovrel":      {Const: new(any(1.0))},
		"datasets":    entries(datasetSchema(limits)),
		"translators": entries(translatorSchema()),
		"rules":       {Type: "object", Description: "matching rules"},
		"run": object(properties{"wordings": either(oneOf("all", "first"), integer()),
			"tell-at-most": integer(), "diagnose": either(boolean(), duration(), object(properties{"runs": integer()})),
			"repeats": integer(),
			"twins":   integer(), "parallel": integer(), "timeout": duration(),
			"brief": oneOf(briefing.Levels()...), "budget": either(number(), object(properties{"money": number(),
				"tokens": integer()}))}),
		"limits":  limits,
		"gate":    gateSchema(),
		"history": text(),
	}, "tovrel")
}

func gateSchema() *jsonschema.Schema {
	least, most := object(properties{"at-least": number()}, "at-least"), object(properties{"at-most": number()}, "at-most")
	return object(properties{"accuracy": least, "drop": most, "regressions": most, "unstable": most, "wrong": most,
		"failed": most, "unscored": most, "flaky": most,
		"latency-p95": object(properties{"at-most": duration()}, "at-most"), "cost-per-right": most, "strength": least,
		"must-pass": object(properties{"tags": list(text())}, "tags"), "faults": object(properties{"none-of": list(text())}, "none-of"),
		"tags": entries(object(properties{"accuracy": least}, "accuracy")), "confident": boolean(), "thin-evidence": oneOf("fail",
			"pass")})
}

func duration() *jsonschema.Schema {
	return &jsonschema.Schema{Type: "string", Description: "a duration such as 30s, 2m or 500ms"}
}

func size() *jsonschema.Schema {
	return &jsonschema.Schema{Type: "string", Description: "a size such as 256MB or 1GB"}
}

func datasetSchema(limits *jsonschema.Schema) *jsonschema.Schema {
	computed := object(properties{"sql": text(), "hide-sources": boolean()}, "sql")
	table := either(text(), computed, object(properties{"file": text(), "table": text(), "types": entries(text()), "sheet": text(),
		"header-row": integer(), "delimiter": text(), "decimal": oneOf(",", "."), "thousands": oneOf(",", ".", "'", " "),
		"date-format": text(), "skip-last": integer(),
		"encoding": oneOf("utf-8", "utf-16", "latin-1"), "null-words": list(text())}, "file"))
	return object(properties{"as-of": text(), "tables": either(entries(table), list(text())), "connect": oneOf("sqlite", "duckdb",
		"postgres", "mysql"),
		"dsn": text(), "run-on": oneOf("postgres", "mysql"), "schema": text(), "edits": integer(),
		"briefing": text(), "share-values": boolean(), "limits": limits})
}

func translatorSchema() *jsonschema.Schema {
	return object(properties{"kind": oneOf(workspace.Kinds()...), "dialect": oneOf(dialect.Names()...), "parallel": integer(),
		"rate":    number(),
		"timeout": duration(), "retries": integer(),
		"price": object(properties{"input": number(), "output": number()}), "thread": oneOf("own", "golden"),
		"score": oneOf("query", "table", "chart", "text"), "protocol": integer(),
		"run": either(text(), list(text())), "keep": boolean(), "env": list(text()), "dir": text(), "file": text(),
		"url": text(), "headers": entries(text()), "model": text(), "prompt": text(),
		"temperature": number(), "key": text(), "tool": text(), "version": text(), "quirks": list(oneOf(pocket.Quirks()...)),
		"seed": integer()}, "kind")
}

func briefingSchema() *jsonschema.Schema {
	column := object(properties{"role": oneOf(profile.Roles()...), "about": text(), "unit": text(), "synonyms": list(text()),
		"values": entries(text()), "hide": boolean(), "share-values": boolean()})
	return object(properties{"dataset": text(), "about": text(),
		"tables": entries(object(properties{"about": text(), "columns": entries(column)})), "joins": list(text()),
		"terms": entries(text()), "examples": list(object(properties{"question": text(), "query": text()}, "question",
			"query")), "notes": list(text())})
}

// replySchema is open: a translator may say more than is read.
func replySchema() *jsonschema.Schema {
	usage := &jsonschema.Schema{Type: "object", Properties: properties{"input_tokens": integer(), "output_tokens": integer(),
		"cost": number()}}
	answer := &jsonschema.Schema{Type: "object",
		Properties: properties{"columns": list(either(text(), object(properties{"name": text(), "type": text()}, "name"))),
			"rows": list(list(cellSchema()))}, Required: []string{"columns", "rows"}}
	s := &jsonschema.Schema{Type: "object", Properties: properties{"id": text(), "query": text(), "language": text(), "table": answer,
		"text":  text(),
		"chart": {Type: "object"}, "clarify": text(), "decline": text(), "explanation": text(), "model": text(), "usage": usage}}
	for _, part := range []string{"query", "table", "chart", "text", "clarify", "decline"} {
		s.AnyOf = append(s.AnyOf, &jsonschema.Schema{Required: []string{part}})
	}
	return s
}

func recordedSchema() *jsonschema.Schema {
	return object(properties{"id": text(), "question": text(), "turn": integer(), "repeat": integer(), "reply": replySchema()},
		"id", "reply")
}

// exportedSchema is of one line: the run first, then its attempts, then the tables that they name.
func exportedSchema() (*jsonschema.Schema, error) {
	runs, err := infer(reflect.TypeFor[record.Run]())
	if err != nil {
		return nil, err
	}
	attempts, err := infer(reflect.TypeFor[record.Attempt]())
	if err != nil {
		return nil, err
	}
	for _, s := range []*jsonschema.Schema{runs, attempts} {
		s.AdditionalProperties, s.Required = nil, nil // of other versions of the program
	}
	return either(
		object(properties{"tovrel-run": {Const: new(any(1.0))}, "run": runs}, "tovrel-run", "run"),
		object(properties{"place": integer(), "attempt": attempts}, "place", "attempt"),
		object(properties{"digest": text(), "table": object(properties{"rows": integer(), "table": tableSchema()}, "rows",
			"table")}, "digest", "table")), nil
}
